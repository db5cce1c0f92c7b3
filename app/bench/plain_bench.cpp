#include "bench/plain_bench.h"

namespace rasoir::app {

PlainBench::PlainBench(QString benchName, QString asked, QString told, Session& session, QWidget* parent)
    : Bench(std::move(benchName), std::move(asked), std::move(told), session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 16);
    column->setSpacing(6);
    auto* title = new QLabel(question(), this);
    title->setStyleSheet("font-size: 16px; font-weight: 600;");
    auto* line = new QLabel(does(), this);
    line->setWordWrap(true);
    column->addWidget(title);
    column->addWidget(line);
    column->addStretch(1);
}

}  // namespace rasoir::app
