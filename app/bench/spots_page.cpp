#include "bench/spots_page.h"

#include <QFormLayout>
#include <QRegularExpression>
#include <QVBoxLayout>

#include "divide/points.h"
#include "measure/between.h"
#include "session.h"
#include "words.h"

namespace rasoir::app {

SpotsPage::SpotsPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* picked = new QPushButton("Add what is picked", this);
    picked->setObjectName("spotsFromPicks");
    picked->setToolTip("Vertices, the centres of round edges and faces, the middles of others");
    connect(picked, &QPushButton::clicked, this, &SpotsPage::addPicked);
    column->addWidget(picked);
    m_table = new QPlainTextEdit(this);
    m_table->setObjectName("spotTable");
    m_table->setAccessibleName("Points of the spot welds, one in a line");
    m_table->setPlaceholderText("x y z in mm, one point in a line; a table can be pasted");
    column->addWidget(m_table, 1);
    auto* form = new QFormLayout;
    form->setSpacing(4);
    const auto field = [this](const char* name, const QString& spoken, const QString& placeholder) {
        auto* edit = new QLineEdit(this);
        edit->setObjectName(name);
        edit->setAccessibleName(spoken);
        edit->setPlaceholderText(placeholder);
        connect(edit, &QLineEdit::editingFinished, this, &SpotsPage::changed);
        return edit;
    };
    m_diameter = field("spotDiameter", "Diameter of the welds", "not known");
    m_reach = field("spotReach", "How far a sheet may be from a point", "half the target size");
    form->addRow("Diameter mm", m_diameter);
    form->addRow("Reach mm", m_reach);
    column->addLayout(form);
    connect(m_table, &QPlainTextEdit::textChanged, this, &SpotsPage::changed);
}

void SpotsPage::addPicked() {
    const Model& model = m_session.model();
    QString lines;
    for (const select::Pick& pick : m_picks) {
        if (pick.occurrence >= model.occurrences.size()) continue;
        const measure::Reading reading = measure::readingOf(model, pick);
        const auto point = reading.centre;
        if (!point) continue;
        lines +=
            QString("%1 %2 %3\n").arg(point->X(), 0, 'g', 12).arg(point->Y(), 0, 'g', 12).arg(point->Z(), 0, 'g', 12);
    }
    if (lines.isEmpty()) return;
    QString before = m_table->toPlainText();
    if (!before.isEmpty() && !before.endsWith('\n')) before += '\n';
    m_table->setPlainText(before + lines);
}

std::optional<std::vector<gp_Pnt>> SpotsPage::points() const {
    std::vector<gp_Pnt> all;
    for (QString line : m_table->toPlainText().split('\n')) {
        line = line.trimmed().replace(QChar(0x2212), '-');
        if (line.isEmpty()) continue;
        const QStringList numbers = line.split(QRegularExpression("[\\s;,]+"), Qt::SkipEmptyParts);
        if (numbers.size() != 3) return std::nullopt;
        std::array<double, 3> at{};
        for (int i = 0; i < 3; ++i) {
            bool fine = false;
            at[static_cast<std::size_t>(i)] = numbers[i].toDouble(&fine);
            if (!fine) return std::nullopt;
        }
        all.emplace_back(at[0], at[1], at[2]);
    }
    return all;
}

std::optional<double> SpotsPage::lengthIn(const QLineEdit* edit) const {
    if (edit->text().trimmed().isEmpty()) return 0.0;
    const auto typed =
        parseLength(edit->text().trimmed().toStdString(), Unit::Millimetre, m_session.model().targetSize);
    return typed ? std::optional(*typed) : std::nullopt;
}

std::optional<BenchStep> SpotsPage::step() const {
    const auto all = points();
    const auto diameter = lengthIn(m_diameter), reach = lengthIn(m_reach);
    if (m_session.isEmpty() || !all || all->empty() || !diameter || !reach) return std::nullopt;
    std::vector<divide::Place> places;
    for (const gp_Pnt& point : *all) places.push_back({{{point.X(), point.Y(), point.Z()}}, std::nullopt});
    Json parameters{{"points", places}};
    if (*diameter > 0.0) parameters["diameter"] = *diameter;
    if (*reach > 0.0) parameters["reach"] = *reach;
    return BenchStep{"join.spotWelds", std::move(parameters)};
}

void SpotsPage::addTo(BenchPreview& preview) const {
    const auto all = points();
    if (!all || m_session.isEmpty()) return;
    const double arm = 0.3 * m_session.model().targetSize;
    constexpr std::size_t mostDrawn = 2000;
    for (std::size_t i = 0; i < all->size() && i < mostDrawn; ++i)
        for (const gp_Dir& along : {gp::DX(), gp::DY(), gp::DZ()})
            preview.lines.push_back(
                {{(*all)[i].Translated(gp_Vec(along) * -arm), (*all)[i].Translated(gp_Vec(along) * arm)},
                 false,
                 StageLine::Style::Brass});
}

QString SpotsPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; then its sheets can be spot-welded.";
    return "Each point holds every body within reach; points that hold fewer than two are listed, and nothing is made "
           "of "
           "them.";
}

QString SpotsPage::words() const {
    const auto all = points();
    if (!all) return "Three numbers in each line";
    if (all->empty()) return "No point yet";
    return step() ? "Set " + text(counted(all->size(), "spot weld")) : QString("A number is missing");
}

}  // namespace rasoir::app
