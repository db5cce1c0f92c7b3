#include "bench/plain_bench.h"

#include <QVBoxLayout>

#include "theme.h"

namespace rasoir::app {

PlainBench::PlainBench(Session& session, const BenchInfo& info, QWidget* parent) : QWidget(parent), m_session(session), m_info(info) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 16);
    column->setSpacing(6);
    auto* question = new QLabel(info.question, this);
    question->setFont(Theme::font(16, 600));
    question->setStyleSheet("font-size: 16px; font-weight: 600;");
    m_state = new QLabel(this);
    m_state->setWordWrap(true);
    m_facts = new QLabel(this);
    m_facts->setWordWrap(true);
    m_facts->setTextFormat(Qt::RichText);
    m_facts->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    m_facts->setAccessibleName("Facts");
    column->addWidget(question);
    column->addWidget(m_state);
    column->addSpacing(8);
    column->addWidget(m_facts);
    column->addStretch(1);
    connect(&session, &Session::changed, this, &PlainBench::refresh);
    connect(&session, &Session::knowledgeChanged, this, &PlainBench::refresh);
    connect(&session, &Session::selectionChanged, this, &PlainBench::refresh);
    connect(&Theme::instance(), &Theme::changed, this, &PlainBench::refresh);
    refresh();
}

void PlainBench::refresh() {
    m_state->setText(m_info.does);
    if (QString(m_info.name) != "Intake" || m_session.isEmpty()) {
        m_facts->clear();
        return;
    }
    const Model& model = m_session.model();
    const auto selected = m_session.selectedParts();
    const QString quiet = colours().quiet.name(), rule = colours().rule.name();
    QString rows;
    const auto row = [&](const QString& name, const QString& value) {
        rows += QString("<tr><td style='color:%1; padding:4px 10px 4px 0'>%2</td><td style='padding:4px 0'>%3</td></tr>").arg(quiet, name, value.toHtmlEscaped());
    };
    const auto number = [](double value) { return QString::fromStdString(readable(value)); };
    std::optional<measure::Facts> facts;
    if (selected.size() == 1) {
        const Part& part = *model.parts[*selected.begin()];
        row("Part", QString::fromStdString(part.name));
        row("Kind", QString::fromStdString(bodyKindName(part.kind())));
        if (const auto* known = m_session.knowledge(*selected.begin())) facts = known->facts;
    } else {
        row("File", QString::fromStdString(model.name));
        row("Parts", QString("%1, standing in %2 places").arg(model.parts.size()).arg(model.occurrences.size()));
        row("Unit", model.fileUnit ? QString::fromStdString(unitName(*model.fileUnit)) : "not stated");
        std::vector<measure::Facts> all;
        for (std::size_t p = 0; p < model.parts.size(); ++p)
            if (const auto* known = m_session.knowledge(p); known != nullptr && known->facts) all.push_back(*known->facts);
        if (all.size() == model.parts.size()) facts = measure::factsOf(model, all);
    }
    if (facts) {
        row("Size", QString("%1 × %2 × %3 mm").arg(number(facts->high[0] - facts->low[0]), number(facts->high[1] - facts->low[1]), number(facts->high[2] - facts->low[2])));
        row("Volume", number(facts->volume / 1000.0) + " cm³");
        row("Mass", QString("%1 kg at %2 kg/m³").arg(number(measure::massOf(*facts, model.density)), number(model.density)));
        row("Area", number(facts->area / 100.0) + " cm²");
        row("Centre", QString("%1, %2, %3 mm").arg(number(facts->centre.X()), number(facts->centre.Y()), number(facts->centre.Z())));
        row("Bodies", QString("%1 solid, %2 sheet, %3 wire").arg(facts->solids).arg(facts->sheets).arg(facts->wires));
        row("Faces, edges", QString("%1, %2").arg(number(facts->faces), number(facts->edges)));
        QString kinds;
        for (const auto& [kind, count] : facts->surfaces) kinds += (kinds.isEmpty() ? "" : ", ") + QString("%1 %2").arg(number(count), QString::fromStdString(kind));
        row("Surfaces", kinds);
        row("Watertight", facts->closed ? "yes" : QString("no, %1 open edges").arg(facts->openEdges));
        row("Shortest edge", number(facts->shortestEdge) + " mm");
        row("Smallest face", number(facts->smallestFace) + " mm²");
        row("Tolerance", number(facts->tolerance) + " mm claimed");
    }
    for (const std::string& note : model.notes) row("Note", QString::fromStdString(note));
    m_facts->setText("<table cellspacing='0' width='100%'>" + rows + "</table>");
}

}  // namespace rasoir::app
