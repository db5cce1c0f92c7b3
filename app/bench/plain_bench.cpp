#include "bench/plain_bench.h"

#include <QLabel>
#include <QVBoxLayout>

namespace rasoir::app {

PlainBench::PlainBench(const BenchInfo& info, QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 16);
    column->setSpacing(6);
    auto* question = new QLabel(info.question, this);
    question->setStyleSheet("font-size: 16px; font-weight: 600;");
    auto* does = new QLabel(info.does, this);
    does->setWordWrap(true);
    column->addWidget(question);
    column->addWidget(does);
    column->addStretch(1);
}

}  // namespace rasoir::app
