#include "bench/shave_bench.h"

#include <fmt/format.h>

#include <QGridLayout>
#include <QVBoxLayout>
#include <cmath>

#include "glyphs.h"
#include "shave/holes.h"
#include "theme.h"

namespace rasoir::app {
namespace {

QString number(double value) { return QString::fromStdString(readable(value)); }
QString thousands(double value) { return QString::fromStdString(readable(std::round(value))); }

struct KindCell {
    const char* name;
    Glyph glyph;
    bool built;
};
constexpr KindCell cells[6] = {{"Holes", Glyph::Hole, true},     {"Fillets", Glyph::Fillet, false}, {"Slots", Glyph::Slot, true},
                               {"Chamfers", Glyph::Chamfer, false}, {"Bores", Glyph::Hole, true},  {"Marks", Glyph::Mark, false}};
constexpr int cellOfKind[3] = {0, 2, 4};

std::string verdictKey(const Part& part, const survey::Hole& hole) {
    return fmt::format("{}|{:.4f}|{:.3f}|{:.3f}|{:.3f}", part.name, hole.size, hole.middle.X() + 0.0, hole.middle.Y() + 0.0, hole.middle.Z() + 0.0);
}

}  // namespace

ShaveBench::ShaveBench(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 16);
    column->setSpacing(4);
    auto* question = new QLabel("What is too small to mesh?", this);
    question->setStyleSheet("font-size: 16px; font-weight: 600;");
    m_state = new QLabel(this);
    m_state->setObjectName("shaveState");
    m_state->setWordWrap(true);
    column->addWidget(question);
    column->addWidget(m_state);
    auto* kinds = new QGridLayout;
    kinds->setHorizontalSpacing(16);
    kinds->setVerticalSpacing(0);
    for (int k = 0; k < 6; ++k) {
        m_kinds[k] = new QPushButton(this);
        m_kinds[k]->setFlat(true);
        m_kinds[k]->setFixedHeight(27);
        m_kinds[k]->setEnabled(cells[k].built);
        m_kinds[k]->setAccessibleName(cells[k].name);
        if (!cells[k].built) m_kinds[k]->setToolTip("Not found yet: this comes with a later version.");
        kinds->addWidget(m_kinds[k], k / 2, k % 2);
    }
    for (const ShaveKind kind : {ShaveKind::Holes, ShaveKind::Slots, ShaveKind::Bores})
        connect(m_kinds[cellOfKind[static_cast<int>(kind)]], &QPushButton::clicked, this, [this, kind] { showKind(kind); });
    column->addLayout(kinds);
    column->addSpacing(6);
    m_cutBar = new CutBar("Holes up to", "", this);
    column->addWidget(m_cutBar);
    m_list = new FindingsList(this);
    m_list->setObjectName("findings");
    column->addWidget(m_list, 1);
    m_message = new QLabel(this);
    m_message->setObjectName("benchMessage");
    m_message->setWordWrap(true);
    m_message->setTextFormat(Qt::RichText);
    m_message->setAccessibleName("Result");
    m_message->setTextInteractionFlags(Qt::TextBrowserInteraction);
    m_message->hide();
    column->addWidget(m_message);
    m_elements = new QLabel(this);
    m_mass = new QLabel(this);
    m_elements->setObjectName("effectElements");
    m_mass->setObjectName("effectMass");
    column->addWidget(m_elements);
    column->addWidget(m_mass);
    column->addSpacing(4);
    m_foot = new ActionFoot(m_session, this);
    m_button = m_foot->button();
    column->addWidget(m_foot);

    connect(m_cutBar, &CutBar::limitChanged, this, [this](double) {
        m_limitChosen = true;
        m_list->setLimit(m_cutBar->limit());
        recount();
        emit previewChanged();
    });
    connect(m_list, &FindingsList::verdictWanted, this, &ShaveBench::setVerdict);
    connect(m_list, &FindingsList::hovered, this, [this](const std::vector<int>& keys) {
        m_hovered = keys;
        emit previewChanged();
    });
    connect(m_list, &FindingsList::closerWanted, this, [this](int key) {
        const survey::Hole& hole = holeOf(m_keys[static_cast<std::size_t>(key)]);
        const Model& model = m_session.model();
        for (const Occurrence& occurrence : model.occurrences)
            if (occurrence.part == m_keys[static_cast<std::size_t>(key)].part) {
                emit closerWanted(hole.middle.Transformed(occurrence.placement), 2.0 * std::max(hole.depth, hole.size));
                return;
            }
    });
    connect(m_button, &QPushButton::clicked, this, &ShaveBench::apply);
    connect(m_foot, &ActionFoot::idleAgain, this, &ShaveBench::recount);
    connect(m_message, &QLabel::linkActivated, this, [this](const QString& link) {
        const QStringList xyz = link.split(',');
        if (xyz.size() == 4) emit closerWanted(gp_Pnt(xyz[0].toDouble(), xyz[1].toDouble(), xyz[2].toDouble()), xyz[3].toDouble());
    });
    connect(&m_session, &Session::opened, this, [this] {
        m_verdicts.clear();
        m_limitChosen = false;
        showMessage({});
    });
    connect(&m_session, &Session::changed, this, [this] {
        // What the last step could not do stays readable with the step; here it is said once more, with its place.
        showMessage(leftByLastStep(m_session, "not removed"));
        refresh();
    });
    connect(&m_session, &Session::knowledgeChanged, this, &ShaveBench::refresh);
    connect(&m_session, &Session::selectionChanged, this, &ShaveBench::refresh);
    connect(&m_session, &Session::failed, this, [this](const Problem& problem) { showMessage(troubleText(problem)); });
    connect(&Theme::instance(), &Theme::changed, this, &ShaveBench::refresh);
    refresh();
}

void ShaveBench::showMessage(const QString& html) {
    m_message->setText(html);
    m_message->setVisible(!html.isEmpty());
}

bool ShaveBench::ofKind(const survey::Hole& hole, ShaveKind kind) const {
    if (hole.kind == survey::HoleKind::Slot) return kind == ShaveKind::Slots;
    return kind == (hole.bore ? ShaveKind::Bores : ShaveKind::Holes);
}

const survey::Hole& ShaveBench::holeOf(const Key& key) const { return (*m_session.knowledge(key.part)->holes)[key.hole]; }

Verdict ShaveBench::verdictOf(const Key& key) const {
    const auto found = m_verdicts.find(verdictKey(*m_session.model().parts[key.part], holeOf(key)));
    return found == m_verdicts.end() ? Verdict::ByLimit : found->second;
}

bool ShaveBench::goes(const Key& key) const {
    const Verdict verdict = verdictOf(key);
    if (verdict == Verdict::Kept) return false;
    // A bore goes only when it is asked for by name.
    if (m_kind == ShaveKind::Bores) return verdict == Verdict::Taken;
    return verdict == Verdict::Taken || holeOf(key).size <= m_cutBar->limit() * (1 + 1e-6);
}

std::size_t ShaveBench::copiesOf(std::size_t part) const {
    const auto& occurrences = m_session.model().occurrences;
    return static_cast<std::size_t>(std::count_if(occurrences.begin(), occurrences.end(), [part](const Occurrence& o) { return o.part == part; }));
}

void ShaveBench::showKind(ShaveKind kind) {
    m_kind = kind;
    refresh();
}

void ShaveBench::refresh() {
    const Model& model = m_session.model();
    const Palette& p = colours();
    const auto selected = m_session.selectedParts();
    m_keys.clear();
    m_hovered.clear();
    int counts[3] = {0, 0, 0};
    std::size_t known = 0, wanted = 0;
    int faces = 0;
    std::vector<Finding> findings;
    std::vector<CutItem> items;
    double smallest = 0.0;
    for (std::size_t part = 0; part < model.parts.size(); ++part) {
        if (!selected.empty() ? !selected.contains(part) : model.isAside(part)) continue;
        ++wanted;
        const PartKnowledge* knowledge = m_session.knowledge(part);
        if (knowledge == nullptr || !knowledge->holes) continue;
        ++known;
        faces += model.parts[part]->incidence().faceCount();
        for (std::size_t h = 0; h < knowledge->holes->size(); ++h) {
            const survey::Hole& hole = (*knowledge->holes)[h];
            for (int k = 0; k < 3; ++k) counts[k] += ofKind(hole, static_cast<ShaveKind>(k));
            if (!ofKind(hole, m_kind)) continue;
            const Key key{part, h};
            Finding finding;
            finding.size = hole.size;
            finding.what = QString::fromStdString(survey::describe(hole));
            const QString place = QString("at %1, %2, %3").arg(number(std::round(hole.middle.X() * 10) / 10), number(std::round(hole.middle.Y() * 10) / 10), number(std::round(hole.middle.Z() * 10) / 10));
            const std::size_t copies = copiesOf(part);
            finding.where = selected.size() == 1 ? place : QString::fromStdString(model.parts[part]->name) + (copies > 1 ? QString(" ×%1").arg(copies) : QString()) + ", " + place;
            finding.elements = hole.elements * static_cast<double>(copies);
            finding.verdict = verdictOf(key);
            if (m_kind == ShaveKind::Bores && finding.verdict == Verdict::ByLimit) finding.verdict = Verdict::ByLimit;
            finding.key = static_cast<int>(m_keys.size());
            m_keys.push_back(key);
            smallest = smallest == 0.0 ? hole.size : std::min(smallest, hole.size);
            items.push_back({hole.size, finding.verdict == Verdict::Kept});
            findings.push_back(std::move(finding));
        }
    }
    std::stable_sort(findings.begin(), findings.end(), [](const Finding& a, const Finding& b) { return a.size < b.size; });
    for (int k = 0; k < 6; ++k) {
        const bool current = k == cellOfKind[static_cast<int>(m_kind)];
        const int* count = k == 0 ? &counts[0] : k == 2 ? &counts[1] : k == 4 ? &counts[2] : nullptr;
        m_kinds[k]->setIcon(glyphIcon(cells[k].glyph, cells[k].built ? p.ink : p.outline));
        m_kinds[k]->setText(QString("%1  %2").arg(cells[k].name, count != nullptr ? QString::number(*count) : QString("later")));
        m_kinds[k]->setStyleSheet(QString("QPushButton { text-align: left; padding: 0 2px; border: 0; border-radius: 0; border-bottom: %1px solid %2; font-weight: %3; }"
                                          "QPushButton:focus { border: 2px solid %4; }")
                                      .arg(current ? 2 : 1).arg((current ? p.ink : p.rule).name()).arg(current ? 600 : 400).arg(p.cobalt.name()));
    }
    m_cutBar->setWords(m_kind == ShaveKind::Slots ? "Slots up to" : m_kind == ShaveKind::Bores ? "Bores up to" : "Holes up to");
    m_cutBar->setTargetSize(model.targetSize);
    m_cutBar->setItems(std::move(items));
    if (!m_limitChosen) m_cutBar->setLimit(2.0 * model.targetSize);
    m_list->setFindings(std::move(findings), m_cutBar->limit());
    if (m_session.isEmpty()) m_state->setText("Open a file; its holes will be listed here.");
    else if (known < wanted) m_state->setText("Surveying…");
    else if (m_keys.empty()) m_state->setText(QString("No %1 here.").arg(m_kind == ShaveKind::Slots ? "slots" : m_kind == ShaveKind::Bores ? "bores" : "holes"));
    else {
        const QString of = selected.size() == 1 ? QString::fromStdString(model.parts[*selected.begin()]->name) : QString::fromStdString(counted(wanted, "part"));
        m_state->setText(QString("%1, %2 faces surveyed").arg(of, thousands(faces)));
    }
    recount();
    emit previewChanged();
    emit stateChanged();
}

void ShaveBench::recount() {
    const Model& model = m_session.model();
    int count = 0;
    double elements = 0.0, added = 0.0;
    for (const Key& key : m_keys)
        if (goes(key)) {
            ++count;
            const double copies = static_cast<double>(copiesOf(key.part));
            elements += holeOf(key).elements * copies;
            added += holeOf(key).volume * copies * measure::densityOf(model, *model.parts[key.part]) * 1e-9;
        }
    const auto facts = m_session.facts();
    const double forecast = m_session.forecast(), mass = facts ? measure::massOf(model, *facts).mass : 0.0;
    const auto percent = [](double part, double whole) {
        return whole > 0.0 ? QString::fromStdString(readableChange(100.0 * part / whole, std::abs(part) < 0.1 * whole ? 2 : 1)) + " %" : QString();
    };
    const auto line = [](const QString& name, const QString& values, const QString& change) {
        return QString("<table width='100%' cellspacing='0'><tr><td>%1</td><td align='right'>%2</td><td align='right' width='74'><b>%3</b></td></tr></table>").arg(name, values, change);
    };
    if (count > 0 && forecast > 0.0) {
        m_elements->setText(line("Elements", QString("%1 to %2").arg(thousands(forecast), thousands(std::max(0.0, forecast - elements))), percent(-elements, forecast)));
        m_mass->setText(line("Mass", QString("%1 to %2 kg").arg(number(mass), number(mass + added)), percent(added, mass)));
    } else {
        m_elements->setText(forecast > 0.0 ? line("Elements", thousands(forecast), "") : QString());
        m_mass->setText(mass > 0.0 ? line("Mass", number(mass) + " kg", "") : QString());
    }
    const QString noun = m_kind == ShaveKind::Slots ? "slot" : m_kind == ShaveKind::Bores ? "bore" : "hole";
    if (count > 0) {
        m_button->setText(QString("Remove %1 %2%3").arg(count).arg(noun, count == 1 ? "" : "s"));
    } else if (!m_keys.empty()) {
        m_button->setText(m_kind == ShaveKind::Bores ? "Take a bore with Space" : QString("No %1 up to %2 mm").arg(noun, number(m_cutBar->limit())));
    } else {
        m_button->setText("Nothing to remove");
    }
    m_button->setEnabled(count > 0 && !m_session.isBusy());
    emit stateChanged();
}

int ShaveBench::openFindings() const {
    // Holes and slots within the limit; what is kept on purpose is settled.
    int count = 0;
    const Model& model = m_session.model();
    for (std::size_t part = 0; part < model.parts.size(); ++part)
        if (const auto* known = m_session.knowledge(part); known != nullptr && known->holes)
            for (std::size_t h = 0; h < known->holes->size(); ++h) {
                const survey::Hole& hole = (*known->holes)[h];
                count += !hole.bore && hole.size <= m_cutBar->limit() * (1 + 1e-6) && verdictOf({part, h}) != Verdict::Kept;
            }
    return count;
}

void ShaveBench::setVerdict(const std::vector<int>& keys, Verdict verdict) {
    std::vector<CutItem> items;
    for (const int key : keys) {
        const Key& entry = m_keys[static_cast<std::size_t>(key)];
        m_verdicts[verdictKey(*m_session.model().parts[entry.part], holeOf(entry))] = verdict;
        m_list->setVerdict(key, verdict);
    }
    for (const Key& key : m_keys) items.push_back({holeOf(key).size, verdictOf(key) == Verdict::Kept});
    m_cutBar->setItems(std::move(items));
    recount();
    emit previewChanged();
}

int ShaveBench::keyAt(std::size_t part, int face) const {
    for (std::size_t k = 0; k < m_keys.size(); ++k)
        if (m_keys[k].part == part) {
            const auto& faces = holeOf(m_keys[k]).faces;
            if (std::binary_search(faces.begin(), faces.end(), face)) return static_cast<int>(k);
        }
    return -1;
}

void ShaveBench::setHoveredFace(std::size_t occurrence, int face) {
    if (occurrence >= m_session.model().occurrences.size() || face == 0) return;
    const int key = keyAt(m_session.model().occurrences[occurrence].part, face);
    if (key >= 0) m_list->reveal(key);
}

void ShaveBench::keepPicked(std::size_t part, int face) {
    const int key = keyAt(part, face);
    if (key < 0) return;
    setVerdict({key}, verdictOf(m_keys[static_cast<std::size_t>(key)]) == Verdict::Kept ? Verdict::ByLimit : Verdict::Kept);
    m_list->reveal(key);
}

ShavePreview ShaveBench::preview() const {
    ShavePreview preview;
    const Model& model = m_session.model();
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (m_session.isHidden(o)) continue;
        const Occurrence& occurrence = model.occurrences[o];
        PreviewFaces going{model.parts[occurrence.part], occurrence.placement, {}}, kept = going;
        for (std::size_t k = 0; k < m_keys.size(); ++k) {
            const Key& key = m_keys[k];
            if (key.part != occurrence.part) continue;
            // Asked between a change and the survey after it: what was found no longer stands for anything.
            const PartKnowledge* known = m_session.knowledge(key.part);
            if (known == nullptr || !known->holes || key.hole >= known->holes->size()) continue;
            const survey::Hole& hole = holeOf(key);
            const bool isKept = verdictOf(key) == Verdict::Kept, isGoing = goes(key);
            const bool hovered = std::find(m_hovered.begin(), m_hovered.end(), static_cast<int>(k)) != m_hovered.end();
            if (isKept) kept.faces.insert(kept.faces.end(), hole.faces.begin(), hole.faces.end());
            if (isGoing) going.faces.insert(going.faces.end(), hole.faces.begin(), hole.faces.end());
            if (isKept || isGoing || hovered) preview.marks.push_back({hole.middle.Transformed(occurrence.placement), isKept, hovered, hole.size});
        }
        if (!going.faces.empty()) preview.goes.push_back(std::move(going));
        if (!kept.faces.empty()) preview.kept.push_back(std::move(kept));
    }
    return preview;
}

void ShaveBench::apply() {
    shave::RemoveHoles step;
    const Model& model = m_session.model();
    const auto selected = m_session.selectedParts();
    if (m_kind != ShaveKind::Bores) step.upTo = m_cutBar->limit();
    for (const std::size_t part : selected) step.parts.push_back(model.parts[part]->name);
    if (m_kind == ShaveKind::Slots) step.kinds = {"slot"};
    for (const Key& key : m_keys) {
        const survey::Hole& hole = holeOf(key);
        const Verdict verdict = verdictOf(key);
        if (verdict == Verdict::Kept && hole.size <= step.upTo * (1 + 1e-6)) step.kept.push_back(makeFaceRef(*model.parts[key.part], hole.faces.front()));
        if (verdict == Verdict::Taken) step.chosen.push_back(makeFaceRef(*model.parts[key.part], hole.faces.front()));
    }
    Json parameters;
    to_json(parameters, step);
    showMessage({});
    m_list->setFocus();  // the button goes dead while it works
    m_session.apply("shave.removeHoles", parameters);
}

}  // namespace rasoir::app
