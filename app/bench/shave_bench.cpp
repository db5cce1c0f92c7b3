#include "bench/shave_bench.h"

#include <fmt/format.h>

#include <cmath>
#include <QGridLayout>
#include <QVBoxLayout>

#include "glyphs.h"
#include "shave/holes.h"
#include "shave/reliefs.h"
#include "shave/sheet_corners.h"
#include "shave/small.h"
#include "shave/strips.h"
#include "shave/threads.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

QString thousands(double value) {
    return QString::fromStdString(readable(std::round(value)));
}

struct ShaveCell {
    const char *name, *one, *many;
    Glyph glyph;
};
constexpr std::array<ShaveCell, shaveKinds> shaveCells = {{{"Holes", "hole", "holes", Glyph::Hole},
                                                           {"Rounds", "round", "rounds", Glyph::Fillet},
                                                           {"Slots", "slot", "slots", Glyph::Slot},
                                                           {"Chamfers", "chamfer", "chamfers", Glyph::Chamfer},
                                                           {"Bores", "bore", "bores", Glyph::Hole},
                                                           {"Threads", "thread", "threads", Glyph::Thread},
                                                           {"Small faces", "small face", "small faces", Glyph::Sliver},
                                                           {"Short edges", "short edge", "short edges", Glyph::Tiny},
                                                           {"Corners", "corner", "corners", Glyph::Fillet},
                                                           {"Marks", "mark", "marks", Glyph::Mark},
                                                           {"Bosses", "boss", "bosses", Glyph::Boss},
                                                           {"Pockets", "pocket", "pockets", Glyph::Pocket},
                                                           {"Cutouts", "cutout", "cutouts", Glyph::Opening},
                                                           {"Notches", "notch", "notches", Glyph::Notch},
                                                           {"Ribs", "rib", "ribs", Glyph::Rib},
                                                           {"Steps", "step", "steps", Glyph::Step}}};
const ShaveCell& cellOf(ShaveKind kind) {
    return shaveCells[static_cast<std::size_t>(kind)];
}

}  // namespace

ShaveBench::ShaveBench(Session& session, QWidget* parent)
    : Bench("Shave", "What is too small to mesh?",
            "Finds holes, slots, rounds, chamfers, marks and other small things, and takes them away.", session,
            parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 16);
    column->setSpacing(4);
    auto* asked = new QLabel(question(), this);
    asked->setStyleSheet("font-size: 16px; font-weight: 600;");
    m_state = new QLabel(this);
    m_state->setObjectName("shaveState");
    m_state->setWordWrap(true);
    column->addWidget(asked);
    column->addWidget(m_state);
    m_kindGrid = new QGridLayout;
    m_kindGrid->setHorizontalSpacing(8);
    m_kindGrid->setVerticalSpacing(0);
    m_kindGrid->setColumnStretch(0, 1);
    m_kindGrid->setColumnStretch(1, 1);
    for (std::size_t k = 0; k < shaveKinds; ++k) {
        m_kinds[k] = new KindButton(this);
        m_kinds[k]->setAccessibleName(shaveCells[k].name);
        connect(m_kinds[k], &QPushButton::clicked, this, [this, k] { showKind(static_cast<ShaveKind>(k)); });
    }
    column->addLayout(m_kindGrid);
    m_none = new QLabel(this);
    m_none->setObjectName("noneHere");
    m_none->setWordWrap(true);
    column->addWidget(m_none);
    column->addSpacing(6);
    m_cutBar = new CutBar("Holes up to", "", this);
    column->addWidget(m_cutBar);
    m_diameterRow = new QWidget(this);
    auto* diameterRow = new QHBoxLayout(m_diameterRow);
    diameterRow->setContentsMargins(0, 0, 0, 0);
    diameterRow->addWidget(new QLabel("Cylinder of the", m_diameterRow));
    m_diameter = new QComboBox(m_diameterRow);
    for (const char* name : {"minor", "mean", "major"})
        m_diameter->addItem(QString("%1 diameter").arg(name), QString(name));
    m_diameter->setCurrentIndex(1);
    m_diameter->setAccessibleName("Diameter of the cylinder that takes a thread's place");
    diameterRow->addWidget(m_diameter, 1);
    column->addWidget(m_diameterRow);
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
    m_stress = new QLabel(this);
    m_stress->setObjectName("stressNote");
    m_stress->setWordWrap(true);
    column->addWidget(m_elements);
    column->addWidget(m_mass);
    column->addWidget(m_stress);
    connect(m_stress, &QLabel::linkActivated, this, [this] { emit edgesWanted(sharpened()); });
    column->addSpacing(4);
    m_foot = new ActionFoot(m_session, this);
    m_button = m_foot->button();
    column->addWidget(m_foot);

    connect(m_cutBar, &CutBar::limitChanged, this, [this](double) {
        m_limits[m_kind] = m_cutBar->limit();
        m_froms[m_kind] = m_cutBar->from();
        m_list->setLimit(m_cutBar->limit(), m_cutBar->from());
        recount();
        emit previewChanged();
    });
    connect(m_list, &FindingsList::verdictWanted, this, &ShaveBench::setVerdict);
    connect(m_list, &FindingsList::hovered, this, [this](const std::vector<int>& keys) {
        m_hovered = keys;
        emit previewChanged();
    });
    connect(m_diameter, &QComboBox::currentIndexChanged, this, [this] { emit previewChanged(); });
    connect(m_list, &FindingsList::closerWanted, this, [this](int key) {
        markSeen(key);
        const Key& own = m_keys[static_cast<std::size_t>(key)];
        const auto feature = featureOf(own);
        if (!feature) return;
        for (const Occurrence& occurrence : m_session.model().occurrences)
            if (occurrence.part == own.part) {
                emit closerWanted(feature->middle.Transformed(occurrence.placement), feature->extent);
                return;
            }
    });
    connect(m_button, &QPushButton::clicked, this, &ShaveBench::apply);
    connect(m_foot, &ActionFoot::idleAgain, this, &ShaveBench::recount);
    connect(m_message, &QLabel::linkActivated, this, [this](const QString& link) {
        if (link == "along") return takeAlong();
        if (link == "closing" || link == "nearest") return closeOtherwise(link == "nearest");
        const QStringList xyz = link.split(',');
        if (xyz.size() == 4)
            emit closerWanted(gp_Pnt(xyz[0].toDouble(), xyz[1].toDouble(), xyz[2].toDouble()), xyz[3].toDouble());
    });
    connect(&m_session, &Session::opened, this, [this] {
        m_verdicts.clear();
        takeNames();
        m_seen.clear();
        m_fresh = true;
        m_everShown.clear();
        m_limits.clear();
        m_froms.clear();
        showMessage({});
    });
    connect(&m_session, &Session::changed, this, [this] {
        // What the last step could not do stays readable with the step; here it is said once more, with its place.
        takeNames();
        sayOfLastStep();
        refresh();
    });
    connect(&m_session, &Session::knowledgeChanged, this, &ShaveBench::refresh);
    connect(&m_session.places(), &PlaceView::selectionChanged, this, &ShaveBench::refresh);
    connect(&m_session, &Session::failed, this, [this](const Problem& problem) { showMessage(troubleText(problem)); });
    connect(&Theme::instance(), &Theme::changed, this, [this] {
        // A label that is given the words it has keeps the colour of its links.
        const QString said = m_message->text();
        m_message->clear();
        m_stress->clear();
        m_message->setText(said);
        refresh();
    });
    refresh();
}

void ShaveBench::showMessage(const QString& html) {
    m_message->setText(html);
    m_message->setVisible(!html.isEmpty());
}

std::optional<ShaveFeature> ShaveBench::featureOf(const Key& key) const {
    const PartKnowledge* known = key.part < m_session.model().parts.size() ? m_session.knowledge(key.part) : nullptr;
    return known == nullptr ? std::nullopt : shaveFeature(*known, key);
}

std::vector<ShaveKey> ShaveBench::keysOf(std::size_t part) const {
    const PartKnowledge* known = m_session.knowledge(part);
    return known == nullptr ? std::vector<Key>() : shaveKeys(*known, part);
}

std::string ShaveBench::verdictKey(const Key& key) const {
    const auto feature = featureOf(key);
    if (!feature) return {};
    return fmt::format("{}|{}|{:.4f}|{:.3f}|{:.3f}|{:.3f}", m_session.model().parts[key.part]->name,
                       shaveListName(key.of), feature->size, feature->middle.X() + 0.0, feature->middle.Y() + 0.0,
                       feature->middle.Z() + 0.0);
}

Verdict ShaveBench::verdictOf(const Key& key) const {
    if (const auto found = m_verdicts.find(verdictKey(key)); found != m_verdicts.end()) return found->second;
    // What somebody gave a name to is needed, until it is said otherwise.
    return groupOf(key).empty() ? Verdict::ByLimit : Verdict::Kept;
}

std::string ShaveBench::groupOf(const Key& key) const {
    const PartKnowledge* known = m_session.knowledge(key.part);
    const auto feature = featureOf(key);
    if (m_named.empty() || known == nullptr || !feature) return {};
    const PartId part = m_session.model().parts[key.part]->id;
    const auto nameOf = [&](const Entity& thing) {
        const auto name = m_named.find({part, thing});
        return name == m_named.end() ? std::string() : name->second;
    };
    std::string name;
    if (feature->faces != nullptr)
        for (const int face : *feature->faces)
            if (name.empty()) name = nameOf({EntityKind::Face, face});
    for (const int edge : shaveEdges(*known, key))
        if (name.empty()) name = nameOf({EntityKind::Edge, edge});
    return name;
}

void ShaveBench::takeNames() {
    m_named.clear();
    for (const Group& group : m_session.model().groups)
        for (const Member& member : group.members) m_named.try_emplace({member.part, member.entity}, group.name);
}

std::vector<select::Pick> ShaveBench::chosenThings() const {
    std::vector<select::Pick> things;
    const Model& model = m_session.model();
    for (const int row : m_list->selectedKeys()) {
        const Key& key = m_keys[static_cast<std::size_t>(row)];
        const auto feature = featureOf(key);
        if (!feature) continue;
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
            if (model.occurrences[o].part != key.part || model.occurrences[o].aside) continue;
            const PartKnowledge* known = m_session.knowledge(key.part);
            if (feature->faces != nullptr && !feature->faces->empty())
                for (const int face : *feature->faces) things.push_back({o, face});
            else if (known != nullptr)
                for (const int edge : shaveEdges(*known, key)) things.push_back({o, 0, edge});
        }
    }
    return things;
}

double ShaveBench::limitOf(ShaveKind kind) const {
    const auto chosen = m_limits.find(kind);
    if (chosen != m_limits.end()) return chosen->second;
    const double target = m_session.model().targetSize;
    if (kind == ShaveKind::Marks || kind == ShaveKind::Steps) return 0.5 * target;
    if (kind == ShaveKind::Faces || kind == ShaveKind::Edges) return 0.25 * target;
    if (kind == ShaveKind::Threads)
        return 40.0 * target;  // a lead is about a seventh of the diameter: less than six elements
    if (kind == ShaveKind::Notches || kind == ShaveKind::Ribs) return target;
    return kind == ShaveKind::Rounds || kind == ShaveKind::Chamfers || kind == ShaveKind::Corners ? target
                                                                                                  : 2.0 * target;
}

bool ShaveBench::goes(const Key& key) const {
    const Verdict verdict = verdictOf(key);
    const auto feature = featureOf(key);
    if (!feature || verdict == Verdict::Kept) return false;
    return verdict == Verdict::Taken || (feature->byRule && feature->size <= m_cutBar->limit() * (1 + 1e-6) &&
                                         feature->size >= m_cutBar->from() * (1 - 1e-6));
}

std::size_t ShaveBench::copiesOf(std::size_t part) const {
    const auto& occurrences = m_session.model().occurrences;
    return static_cast<std::size_t>(
        std::count_if(occurrences.begin(), occurrences.end(), [part](const Occurrence& o) { return o.part == part; }));
}

void ShaveBench::showKind(ShaveKind kind) {
    m_kind = kind;
    refresh();
}

void ShaveBench::refresh() {
    const Model& model = m_session.model();
    const auto selected = m_session.places().selectedParts();
    m_keys.clear();
    m_hovered.clear();
    std::array<int, shaveKinds> counts{};
    std::size_t known = 0, wanted = 0;
    int faces = 0;
    std::vector<Finding> findings;
    std::vector<CutItem> items;
    for (std::size_t part = 0; part < model.parts.size(); ++part) {
        if (!selected.empty() ? !selected.contains(part) : model.isAside(part)) continue;
        ++wanted;
        const PartKnowledge* knowledge = m_session.knowledge(part);
        if (knowledge == nullptr) continue;
        known += knowledge->complete;
        faces += model.parts[part]->incidence().faceCount();
        for (const Key& key : keysOf(part)) {
            const auto feature = featureOf(key);
            if (!feature) continue;
            ++counts[static_cast<std::size_t>(feature->kind)];
            if (feature->kind != m_kind) continue;
            Finding finding;
            finding.size = feature->size;
            finding.what = QString::fromStdString(feature->words);
            const gp_Pnt& middle = feature->middle;
            const QString place =
                QString("at %1, %2, %3")
                    .arg(number(std::round(middle.X() * 10) / 10), number(std::round(middle.Y() * 10) / 10),
                         number(std::round(middle.Z() * 10) / 10));
            const std::size_t copies = copiesOf(part);
            finding.where = selected.size() == 1
                                ? place
                                : QString::fromStdString(model.parts[part]->name) +
                                      (copies > 1 ? QString(" ×%1").arg(copies) : QString()) + ", " + place;
            if (const std::string group = groupOf(key); !group.empty())
                finding.where += QString(", in “%1”").arg(QString::fromStdString(group));
            finding.elements = feature->elements * static_cast<double>(copies);
            finding.verdict = verdictOf(key);
            finding.seen = m_seen.contains(verdictKey(key));
            finding.key = static_cast<int>(m_keys.size());
            m_keys.push_back(key);
            items.push_back({feature->size, finding.verdict == Verdict::Kept});
            findings.push_back(std::move(finding));
        }
    }
    // A file without holes opens with what it has.
    if (known == wanted && wanted > 0 && std::exchange(m_fresh, false) &&
        counts[static_cast<std::size_t>(m_kind)] == 0) {
        const auto first = std::find_if(counts.begin(), counts.end(), [](int count) { return count > 0; });
        if (first != counts.end()) return showKind(static_cast<ShaveKind>(first - counts.begin()));
    }
    std::stable_sort(findings.begin(), findings.end(),
                     [](const Finding& a, const Finding& b) { return a.size < b.size; });
    layKinds(counts);
    m_diameterRow->setVisible(m_kind == ShaveKind::Threads);
    const bool strips = m_kind == ShaveKind::Rounds || m_kind == ShaveKind::Chamfers;
    m_cutBar->setWords(cellOf(m_kind).name);
    const bool reliefs = m_kind >= ShaveKind::Marks;
    const bool small = m_kind == ShaveKind::Faces || m_kind == ShaveKind::Edges || m_kind == ShaveKind::Corners;
    m_cutBar->setMeasure("mm", !strips && !reliefs && !small, "go");
    m_list->setHeadings(m_kind == ShaveKind::Rounds || m_kind == ShaveKind::Corners ? "R mm"
                        : m_kind == ShaveKind::Marks || m_kind == ShaveKind::Steps  ? "High mm"
                        : m_kind == ShaveKind::Edges                                ? "Long mm"
                        : strips || reliefs || small                                ? "Width mm"
                                                                                    : "Ø mm",
                        "Elements");
    m_cutBar->setTargetSize(model.targetSize);
    m_cutBar->setItems(std::move(items));
    m_cutBar->setFrom(0.0);
    m_cutBar->setLimit(limitOf(m_kind));
    if (const auto from = m_froms.find(m_kind); from != m_froms.end()) m_cutBar->setFrom(from->second);
    m_list->setFindings(std::move(findings), m_cutBar->limit(), m_cutBar->from());
    if (m_session.isEmpty())
        m_state->setText("Open a file; its holes, rounds, marks and bosses will be listed here.");
    else if (known < wanted)
        m_state->setText(wanted == 1 ? QString("Surveying…")
                                     : QString("Surveying, %1 of %2 so far…")
                                           .arg(known)
                                           .arg(QString::fromStdString(counted(wanted, "part"))));
    else if (m_keys.empty())
        m_state->setText(QString("No %1 here.").arg(cellOf(m_kind).many));
    else {
        const QString of = selected.size() == 1 ? QString::fromStdString(model.parts[*selected.begin()]->name)
                                                : QString::fromStdString(counted(wanted, "part"));
        m_state->setText(QString("%1, %2 faces surveyed").arg(of, thousands(faces)));
    }
    recount();
    emit previewChanged();
    emit stateChanged();
}

/// Kinds of which there are some; the others are named in a line below.
void ShaveBench::layKinds(const std::array<int, shaveKinds>& counts) {
    const Palette& p = colours();
    QStringList none;
    int cell = 0;
    const bool known = isKnown();  // before that, 0 would be a claim
    for (std::size_t k = 0; k < shaveKinds; ++k) {
        const bool current = k == static_cast<std::size_t>(m_kind),
                   shown = current || counts[k] > 0 || m_everShown.contains(k) || m_session.isEmpty();
        if (counts[k] > 0) m_everShown.insert(k);  // stays where it is when the last one has gone
        m_kinds[k]->setVisible(shown);
        m_kindGrid->removeWidget(m_kinds[k]);
        if (!shown) {
            none << QString(shaveCells[k].many);
            continue;
        }
        m_kindGrid->addWidget(m_kinds[k], cell / 2, cell % 2);
        ++cell;
        m_kinds[k]->setIcon(glyphIcon(shaveCells[k].glyph, counts[k] > 0 ? p.ink : p.outline));
        m_kinds[k]->setKind(shaveCells[k].name, known || counts[k] > 0 ? std::optional(counts[k]) : std::nullopt,
                            current);
    }
    m_none->setText(none.isEmpty() || !known ? QString() : QString("No %1.").arg(none.join(", ")));
    m_none->setStyleSheet(QString("color: %1; font-size: 11.5px;").arg(p.second.name()));
    m_none->setVisible(!none.isEmpty() && known);
}

void ShaveBench::markSeen(int key) {
    m_seen.insert(verdictKey(m_keys[static_cast<std::size_t>(key)]));
    m_list->setSeen(key);
}

void ShaveBench::recount() {
    const Model& model = m_session.model();
    int count = 0;
    double elements = 0.0, added = 0.0;
    bool weighed = true;
    for (const Key& key : m_keys)
        if (goes(key)) {
            ++count;
            const double copies = static_cast<double>(copiesOf(key.part));
            const auto feature = featureOf(key);
            elements += feature->elements * copies;
            weighed = weighed && feature->weighed;
            added += feature->volume * copies * measure::densityOf(model, *model.parts[key.part]) * 1e-9;
        }
    const auto facts = m_session.facts();
    const double forecast = m_session.forecast(), mass = facts ? measure::massOf(model, *facts).mass : 0.0;
    const auto percent = [](double part, double whole) {
        return whole > 0.0 ? QString::fromStdString(
                                 readableChange(100.0 * part / whole, std::abs(part) < 0.1 * whole ? 2 : 1)) +
                                 " %"
                           : QString();
    };
    const auto line = [](const QString& name, const QString& values, const QString& change) {
        return QString(
                   "<table width='100%' cellspacing='0'><tr><td>%1&nbsp;</td><td align='right'>%2</td><td "
                   "align='right' width='62'><b>%3</b></td></tr></table>")
            .arg(name, values, change);
    };
    if (count > 0 && forecast > 0.0) {
        m_elements->setText(line(
            "Elements", QString("%1 to %2").arg(thousands(forecast), thousands(std::max(0.0, forecast - elements))),
            percent(-elements, forecast)));
        m_mass->setText(
            weighed ? line("Mass", QString("%1 to %2 kg").arg(number(mass), number(mass + added)), percent(added, mass))
                    : line("Mass", QString("%1 kg").arg(number(mass)), ""));
    } else {
        m_elements->setText(forecast > 0.0 ? line("Elements", thousands(forecast), "") : QString());
        m_mass->setText(
            facts ? line("Mass", QString::fromStdString(measure::massText(mass, measure::factsOf(model, *facts))), "")
                  : QString());
    }
    const std::size_t corners = sharpened().size();
    m_stress->setText(corners == 0 ? QString()
                                   : QString("Stress is fictitious at <a href=\"pick\">%1</a>.")
                                         .arg(QString::fromStdString(counted(corners, "sharpened corner"))));
    m_stress->setVisible(corners > 0);
    const QString noun = cellOf(m_kind).one;
    if (count > 0) {
        m_button->setText(
            m_kind == ShaveKind::Threads
                ? QString("Make %1 %2 plain").arg(count).arg(count == 1 ? noun : QString(cellOf(m_kind).many))
                : QString(m_kind == ShaveKind::Corners ? "Square %1 %2" : "Remove %1 %2")
                      .arg(count)
                      .arg(count == 1 ? noun : QString(cellOf(m_kind).many)));
    } else if (!m_keys.empty()) {
        m_button->setText(m_kind == ShaveKind::Bores
                              ? "Take a bore with Space"
                              : QString("No %1 up to %2 mm").arg(noun, number(m_cutBar->limit())));
    } else {
        m_button->setText("Nothing to remove");
    }
    m_button->setEnabled(count > 0 && !m_session.isBusy());
    emit stateChanged();
}

int ShaveBench::openFindings() const {
    // What is within the limit of its kind; what is kept on purpose is settled.
    int count = 0;
    const Model& model = m_session.model();
    for (std::size_t part = 0; part < model.parts.size(); ++part)
        for (const Key& key : keysOf(part)) {
            const auto feature = featureOf(key);
            if (!feature || !feature->byRule || verdictOf(key) == Verdict::Kept) continue;
            const auto from = m_froms.find(feature->kind);
            count += feature->size <= limitOf(feature->kind) * (1 + 1e-6) &&
                     (from == m_froms.end() || feature->size >= from->second * (1 - 1e-6));
        }
    return count;
}

void ShaveBench::setVerdict(const std::vector<int>& keys, Verdict verdict) {
    std::vector<CutItem> items;
    for (const int key : keys) {
        const Key& entry = m_keys[static_cast<std::size_t>(key)];
        m_verdicts[verdictKey(entry)] = verdict;
        m_list->setVerdict(key, verdict);
    }
    for (const Key& key : m_keys)
        if (const auto feature = featureOf(key)) items.push_back({feature->size, verdictOf(key) == Verdict::Kept});
    m_cutBar->setItems(std::move(items));
    recount();
    emit previewChanged();
}

int ShaveBench::keyAt(const select::Pick& pick) const {
    if (pick.occurrence >= m_session.model().occurrences.size() || (pick.face == 0 && pick.edge == 0)) return -1;
    const std::size_t part = m_session.model().occurrences[pick.occurrence].part;
    for (std::size_t k = 0; k < m_keys.size(); ++k) {
        if (m_keys[k].part != part) continue;
        const auto feature = featureOf(m_keys[k]);
        if (!feature) continue;
        if (pick.face > 0 && std::binary_search(feature->faces->begin(), feature->faces->end(), pick.face))
            return static_cast<int>(k);
        const std::vector<int> edges =
            pick.edge > 0 ? shaveEdges(*m_session.knowledge(part), m_keys[k]) : std::vector<int>();
        if (std::find(edges.begin(), edges.end(), pick.edge) != edges.end()) return static_cast<int>(k);
    }
    return -1;
}

std::vector<BenchDeed> ShaveBench::deeds() {
    std::vector<BenchDeed> all;
    for (const auto& [name, kind] : {std::pair{"Find &holes", ShaveKind::Holes},
                                     {"Find s&lots", ShaveKind::Slots},
                                     {"Find &rounds", ShaveKind::Rounds},
                                     {"Find marks", ShaveKind::Marks},
                                     {"Find bosses", ShaveKind::Bosses},
                                     {"Find pockets", ShaveKind::Pockets},
                                     {"Find cutouts", ShaveKind::Cutouts},
                                     {"Find notches", ShaveKind::Notches},
                                     {"Find ribs", ShaveKind::Ribs},
                                     {"Find steps", ShaveKind::Steps},
                                     {"Find threads", ShaveKind::Threads},
                                     {"Find small faces", ShaveKind::Faces},
                                     {"Find short edges", ShaveKind::Edges},
                                     {"Find corners of sheets", ShaveKind::Corners},
                                     {"Find &chamfers", ShaveKind::Chamfers},
                                     {"Find &bores", ShaveKind::Bores}})
        all.push_back({name, {}, [this, kind = kind](const auto&) { showKind(kind); }});
    all.push_back({"Remove the picked &faces\tDel", {}, [this](const auto& picks) { removePicked(picks); }});
    return all;
}

bool ShaveBench::isKnown() const {
    const Model& model = m_session.model();
    for (std::size_t part = 0; part < model.parts.size(); ++part) {
        if (model.isAside(part) || model.parts[part]->lump || model.parts[part]->shape.IsNull()) continue;
        const PartKnowledge* knowledge = m_session.knowledge(part);
        if (knowledge == nullptr || !knowledge->complete) return false;
    }
    return true;
}

QString ShaveBench::state() const {
    const int open = openFindings();
    return stateOr(isKnown(), open > 0 ? QString("%1 open").arg(open) : QString("settled"));
}

void ShaveBench::keep(const std::vector<select::Pick>& picks) {
    if (m_list->hasFocus()) {
        m_list->keepSelected();
        return;
    }
    for (const select::Pick& pick : std::vector<select::Pick>(picks)) keepPicked(pick);
}

void ShaveBench::picksChanged(const std::vector<select::Pick>& picks) {
    if (picks.size() == 1) setHovered(picks[0]);
}

void ShaveBench::setHovered(const select::Pick& pick) {
    if (const int key = keyAt(pick); key >= 0) m_list->reveal(key);
}

void ShaveBench::keepPicked(const select::Pick& pick) {
    const int key = keyAt(pick);
    if (key < 0) return;
    setVerdict({key},
               verdictOf(m_keys[static_cast<std::size_t>(key)]) == Verdict::Kept ? Verdict::ByLimit : Verdict::Kept);
    markSeen(key);
    m_list->reveal(key);
}

std::vector<select::Pick> ShaveBench::sharpened() const {
    std::vector<select::Pick> picks;
    const Model& model = m_session.model();
    const auto selected = m_session.places().selectedParts();
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const std::size_t part = model.occurrences[o].part;
        const PartKnowledge* known = m_session.knowledge(part);
        if (known == nullptr || m_session.places().isHidden(o) || model.occurrences[o].aside ||
            (!selected.empty() && !selected.contains(part)))
            continue;
        std::set<int> edges;  // one edge may have been left by two rounds
        for (const survey::StressNote& note : known->stress) edges.insert(note.edges.begin(), note.edges.end());
        for (const int e : edges) picks.push_back({o, 0, e});
    }
    return picks;
}

BenchPreview ShaveBench::preview() const {
    BenchPreview preview;
    const Model& model = m_session.model();
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (m_session.places().isHidden(o)) continue;
        const Occurrence& occurrence = model.occurrences[o];
        PreviewFaces going{model.parts[occurrence.part], occurrence.placement, {}}, kept = going;
        for (std::size_t k = 0; k < m_keys.size(); ++k) {
            const Key& key = m_keys[k];
            if (key.part != occurrence.part) continue;
            const auto feature = featureOf(key);
            if (!feature) continue;
            const bool isKept = verdictOf(key) == Verdict::Kept, isGoing = goes(key);
            const bool hovered = std::find(m_hovered.begin(), m_hovered.end(), static_cast<int>(k)) != m_hovered.end();
            if (isKept) kept.faces.insert(kept.faces.end(), feature->faces->begin(), feature->faces->end());
            if (isGoing) going.faces.insert(going.faces.end(), feature->faces->begin(), feature->faces->end());
            if (isKept || isGoing || hovered)
                preview.marks.push_back(
                    {feature->middle.Transformed(occurrence.placement), isKept, hovered, feature->size});
        }
        if (!going.faces.empty()) preview.goes.push_back(std::move(going));
        if (!kept.faces.empty()) preview.kept.push_back(std::move(kept));
    }
    return preview;
}

std::optional<BenchStep> ShaveBench::step() const {
    if (std::none_of(m_keys.begin(), m_keys.end(), [this](const Key& key) { return goes(key); })) return std::nullopt;
    const Model& model = m_session.model();
    std::vector<std::string> parts;
    for (const std::size_t part : m_session.places().selectedParts()) parts.push_back(model.parts[part]->name);
    const double upTo = m_kind == ShaveKind::Bores ? 0.0 : m_cutBar->limit();
    std::vector<FaceRef> kept, chosen;
    std::vector<std::array<double, 3>> keptAt, chosenAt;
    for (const Key& key : m_keys) {
        const auto feature = featureOf(key);
        if (!feature) continue;
        const Verdict verdict = verdictOf(key);
        if (feature->face == 0 ||
            key.of ==
                Key::Of::Small) {  // a hole of a sheet has no faces, a tiny one is hard to tell: the middle names it
            if (verdict == Verdict::Kept)
                keptAt.push_back({feature->middle.X(), feature->middle.Y(), feature->middle.Z()});
            if (verdict == Verdict::Taken)
                chosenAt.push_back({feature->middle.X(), feature->middle.Y(), feature->middle.Z()});
            continue;
        }
        if (verdict == Verdict::Kept && feature->size <= upTo * (1 + 1e-6))
            kept.push_back(makeFaceRef(*model.parts[key.part], feature->face));
        if (verdict == Verdict::Taken) chosen.push_back(makeFaceRef(*model.parts[key.part], feature->face));
    }
    BenchStep made{"shave.removeHoles", {}};
    if (m_kind == ShaveKind::Rounds || m_kind == ShaveKind::Chamfers) {
        made.operation = m_kind == ShaveKind::Rounds ? "shave.removeRounds" : "shave.removeChamfers";
        shave::RemoveStrips step;
        step.upTo = upTo;
        step.from = upTo > 0.0 ? m_cutBar->from() : 0.0;
        step.parts = std::move(parts);
        step.kept = std::move(kept);
        step.chosen = std::move(chosen);
        to_json(made.parameters, step);
    } else if (m_kind == ShaveKind::Threads) {
        made.operation = "shave.plainThreads";
        shave::PlainThreads step;
        step.diameter = m_diameter->currentData().toString().toStdString();
        step.upTo = upTo;
        step.from = upTo > 0.0 ? m_cutBar->from() : 0.0;
        step.parts = std::move(parts);
        step.kept = std::move(kept);
        step.chosen = std::move(chosen);
        to_json(made.parameters, step);
    } else if (m_kind == ShaveKind::Corners) {
        made.operation = "shave.squareCorners";
        shave::SquareCorners step;
        step.upTo = upTo;
        step.from = m_cutBar->from();
        step.parts = std::move(parts);
        step.chosenAt = std::move(chosenAt);
        step.keptAt = std::move(keptAt);
        to_json(made.parameters, step);
    } else if (m_kind == ShaveKind::Faces || m_kind == ShaveKind::Edges) {
        made.operation = "shave.removeSmall";
        shave::RemoveSmall step;
        (m_kind == ShaveKind::Faces ? step.facesUpTo : step.edgesUpTo) = upTo;
        step.from = m_cutBar->from();
        step.parts = std::move(parts);
        step.chosenAt = std::move(chosenAt);
        step.keptAt = std::move(keptAt);
        to_json(made.parameters, step);
    } else if (m_kind >= ShaveKind::Marks) {
        made.operation = "shave.removeReliefs";
        shave::RemoveReliefs step;
        step.upTo = upTo;
        step.from = upTo > 0.0 ? m_cutBar->from() : 0.0;
        step.kinds = {cellOf(m_kind).one};
        step.parts = std::move(parts);
        step.kept = std::move(kept);
        step.chosen = std::move(chosen);
        to_json(made.parameters, step);
    } else {
        shave::RemoveHoles step;
        step.upTo = upTo;
        step.from = upTo > 0.0 ? m_cutBar->from() : 0.0;
        step.parts = std::move(parts);
        step.kept = std::move(kept);
        step.chosen = std::move(chosen);
        step.keptAt = std::move(keptAt);
        step.chosenAt = std::move(chosenAt);
        if (m_kind == ShaveKind::Slots) step.kinds = {"slot"};
        to_json(made.parameters, step);
    }
    return made;
}

void ShaveBench::apply() {
    const auto wanted = step();
    if (!wanted) return;
    showMessage({});
    m_list->setFocus();  // the button goes dead while it works
    m_asked = wanted;
    m_session.apply(wanted->operation, wanted->parameters);
}

void ShaveBench::sayOfLastStep() {
    const auto& steps = m_session.work().ledger().steps;
    const bool atEnd = !steps.empty() && m_session.marker() == steps.size();
    if (std::exchange(m_closingOtherwise, false) && atEnd && steps.back().state == StepState::Failed) {
        const QString why = steps.back().problem ? QString::fromStdString(sentence(*steps.back().problem)) : QString();
        m_session.undo();  // the way it was closed before
        const auto& now = m_session.work().ledger().steps;
        const bool elsewhere = !now.empty() && now.back().operation == "shave.removeFaces" &&
                               now.back().parameters.value("closing", 0) > 0;
        showMessage(why.toHtmlEscaped() + (elsewhere ? " <a href='nearest'>Close it the nearest way</a>" : ""));
        return;
    }
    QString text = leftByLastStep(m_session, "not removed");
    if (text.isEmpty() && atEnd && steps.back().operation == "shave.removeFaces" &&
        steps.back().state == StepState::Done)
        text = QString("%1 <a href='closing'>Close it another way</a>")
                   .arg(steps.back().parameters.value("closing", 0) == 0 ? "Closed where its neighbours meet first."
                                                                         : "Closed another way than the nearest.");
    showMessage(text);
}

void ShaveBench::takeAlong() {
    const auto& steps = m_session.work().ledger().steps;
    const bool stepLeft = !steps.empty() && m_session.marker() == steps.size() &&
                          steps.back().state == StepState::Done &&
                          std::any_of(steps.back().items.begin(), steps.back().items.end(),
                                      [](const Item& item) { return !item.done && !item.problem.lacking.empty(); });
    if (stepLeft) {
        Json parameters = steps.back().parameters;
        parameters["along"] = true;
        m_session.editStep(steps.size() - 1, parameters);
    } else if (m_asked) {
        m_asked->parameters["along"] = true;
        showMessage({});
        m_session.apply(m_asked->operation, m_asked->parameters);
    }
}

void ShaveBench::closeOtherwise(bool nearest) {
    const auto& steps = m_session.work().ledger().steps;
    if (steps.empty() || steps.back().operation != "shave.removeFaces" || m_session.marker() != steps.size()) return;
    Json parameters = steps.back().parameters;
    parameters["closing"] = nearest ? 0 : parameters.value("closing", 0) + 1;
    m_closingOtherwise = !nearest;
    m_session.editStep(steps.size() - 1, parameters);
}

void ShaveBench::removePicked(const std::vector<select::Pick>& picks) {
    const Model& model = m_session.model();
    shave::RemoveFaces step;
    std::set<std::pair<std::size_t, int>> seen;
    for (const select::Pick& pick : picks) {
        if (select::kindOf(pick) != select::PickKind::Face || pick.occurrence >= model.occurrences.size()) continue;
        const std::size_t part = model.occurrences[pick.occurrence].part;
        if (seen.insert({part, pick.face}).second) step.faces.push_back(makeFaceRef(*model.parts[part], pick.face));
    }
    if (step.faces.empty()) {
        showMessage("No face is picked: click the faces that are to go, then ask again.");
        return;
    }
    showMessage({});
    m_asked = BenchStep{"shave.removeFaces", Json(step)};
    m_session.apply(m_asked->operation, m_asked->parameters);
}

}  // namespace rasoir::app
