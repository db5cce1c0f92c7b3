#include "bench/mend_bench.h"

#include <fmt/format.h>

#include <QVBoxLayout>

#include "geometry/edge_probe.h"
#include "geometry/round_surface.h"
#include "glyphs.h"
#include "mend/loops.h"
#include "mend/mend.h"
#include "model/on_purpose.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

using survey::Defect;
using survey::DefectKind;

struct MendCell {
    const char* name;
    const char* one;
    Glyph glyph;
};
constexpr std::array<MendCell, mendKinds> mendCells = {{{"Gaps", "gap", Glyph::Gap},
                                                        {"Openings", "opening", Glyph::Opening},
                                                        {"Doubled faces", "doubled face", Glyph::Doubled},
                                                        {"Overruns", "overrun", Glyph::RunsOver},
                                                        {"Slivers", "sliver", Glyph::Sliver},
                                                        {"Tiny edges", "tiny edge", Glyph::Tiny},
                                                        {"Needless edges", "needless edge", Glyph::Needless},
                                                        {"Other", "finding", Glyph::Other}}};

/// Rims of sheets are meant and belong to no kind.
std::optional<MendKind> kindOf(const Defect& defect) {
    switch (defect.kind) {
        case DefectKind::Gap:
            return MendKind::Gaps;
        case DefectKind::Opening:
        case DefectKind::LooseEnd:
            return MendKind::Openings;
        case DefectKind::Rim:
            return std::nullopt;
        case DefectKind::Doubled:
            return MendKind::Doubled;
        case DefectKind::RunsOver:
        case DefectKind::PartlyDoubled:
            return MendKind::RunsOver;
        case DefectKind::Sliver:
            return MendKind::Slivers;
        case DefectKind::TinyEdge:
            return MendKind::Tiny;
        case DefectKind::NeedlessEdge:
        case DefectKind::NeedlessVertex:
            return MendKind::Needless;
        default:
            return MendKind::Other;
    }
}

/// "plane to cylinder": which faces a gap lies between.
QString betweenKinds(const Part& part, const Defect& gap) {
    const auto kind = [&part](int face) {
        return QString::fromStdString(surfaceKindName(surfaceKind(part.incidence().face(face))));
    };
    return kind(gap.faces[0]) + " to " + kind(gap.faces[1]);
}

QString severalOf(DefectKind kind) {
    switch (kind) {
        case DefectKind::ManyFaces:
            return "edges of many faces";
        case DefectKind::RunsOver:
            return "faces that run over";
        case DefectKind::NeedlessVertex:
            return "needless vertices";
        case DefectKind::WrongWay:
            return "faces turned round";
        case DefectKind::InsideOut:
            return "inside out";
        case DefectKind::StrayBody:
            return "stray bodies";
        case DefectKind::TouchesItself:
            return "skins that touch themselves";
        default:
            return text(survey::defectKindName(kind)) + "s";
    }
}

QString countedText(std::size_t count, const std::string& one) {
    return text(counted(count, one));
}

}  // namespace

MendBench::MendBench(Session& session, QWidget* parent)
    : Bench("Mend", "Is it watertight?",
            "Finds open edges, gaps, missing and doubled faces; stitches, patches and makes solids.", session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 16);
    column->setSpacing(4);
    auto* asked = new QLabel(question(), this);
    asked->setStyleSheet("font-size: 16px; font-weight: 600;");
    column->addWidget(asked);
    m_state = new QLabel(this);
    m_state->setObjectName("mendState");
    m_state->setWordWrap(true);
    m_state->setAccessibleName("Whether the parts are watertight");
    column->addWidget(m_state);
    m_detail = new QLabel(this);
    m_detail->setWordWrap(true);
    column->addWidget(m_detail);
    auto* kinds = new QGridLayout;
    kinds->setHorizontalSpacing(8);
    kinds->setVerticalSpacing(0);
    for (std::size_t k = 0; k < mendCells.size(); ++k) {
        m_kinds[k] = new KindButton(this);
        m_kinds[k]->setAccessibleName(mendCells[k].name);
        kinds->addWidget(m_kinds[k], static_cast<int>(k) / 2, static_cast<int>(k) % 2);
        connect(m_kinds[k], &QPushButton::clicked, this, [this, k] { showKind(static_cast<MendKind>(k)); });
    }
    column->addLayout(kinds);
    column->addSpacing(6);
    m_cutBar = new CutBar("Gaps up to", "", this);
    m_cutBar->setMeasure("mm", false, "close");
    column->addWidget(m_cutBar);
    m_safe = new QLabel(this);
    m_safe->setObjectName("safeLimit");
    m_safe->setWordWrap(true);
    column->addWidget(m_safe);
    m_list = new FindingsList(this);
    m_list->setObjectName("defects");
    m_list->setAccessibleName("Defects");
    column->addWidget(m_list, 1);
    m_message = new QLabel(this);
    m_message->setObjectName("mendMessage");
    m_message->setWordWrap(true);
    m_message->setTextFormat(Qt::RichText);
    m_message->setTextInteractionFlags(Qt::TextBrowserInteraction);
    m_message->setAccessibleName("Result");
    m_message->hide();
    column->addWidget(m_message);
    m_safeButton = new QPushButton("Mend what is safe", this);
    m_safeButton->setObjectName("mendSafe");
    m_safeButton->installEventFilter(this);
    column->addWidget(m_safeButton);
    m_foot = new ActionFoot(m_session, this);
    column->addWidget(m_foot);

    connect(m_cutBar, &CutBar::limitChanged, this, [this](double) {
        m_limitChosen = true;
        m_list->setLimit(m_cutBar->limit());
        recount();
        emit previewChanged();
    });
    connect(m_safe, &QLabel::linkActivated, this, [this] {
        showMessage({});
        m_session.apply("mend.uniteStray", {{"parts", partNames()}});
    });
    connect(m_list, &FindingsList::verdictWanted, this, &MendBench::setVerdict);
    connect(m_list, &FindingsList::hovered, this, [this](const std::vector<int>& keys) {
        m_hovered = keys;
        emit previewChanged();
    });
    connect(m_list, &FindingsList::closerWanted, this, &MendBench::goTo);
    connect(m_foot->button(), &QPushButton::clicked, this, &MendBench::apply);
    connect(m_safeButton, &QPushButton::clicked, this, &MendBench::applySafe);
    connect(m_foot, &ActionFoot::idleAgain, this, &MendBench::recount);
    connect(m_message, &QLabel::linkActivated, this, [this](const QString& link) {
        if (link == "meant") {
            noteMeantOpen();
            return;
        }
        const QStringList xyz = link.split(',');
        if (xyz.size() == 4)
            emit closerWanted(gp_Pnt(xyz[0].toDouble(), xyz[1].toDouble(), xyz[2].toDouble()), xyz[3].toDouble());
    });
    connect(&m_session, &Session::opened, this, [this] {
        m_verdicts.clear();
        m_limitChosen = m_kindChosen = false;
        m_kind = MendKind::Gaps;
        showMessage({});
    });
    connect(&m_session, &Session::changed, this, [this] {
        const QString left = leftByLastStep(m_session, "left"), place = placeOfLastStep(m_session);
        showMessage(left.isEmpty() || place.isEmpty() ? left + place : left + "<br>" + place);
        refresh();
    });
    connect(&m_session, &Session::failed, this, [this](const Problem& problem) { showMessage(troubleText(problem)); });
    connect(&m_session, &Session::knowledgeChanged, this, &MendBench::refresh);
    connect(&m_session.places(), &PlaceView::selectionChanged, this, &MendBench::refresh);
    connect(&Theme::instance(), &Theme::changed, this, &MendBench::refresh);
    refresh();
}

void MendBench::showMessage(const QString& html) {
    m_message->setText(html);
    m_message->setVisible(!html.isEmpty());
}

const Defect& MendBench::defectOf(const Key& key) const {
    return m_session.knowledge(key.part)->defects->defects[key.defect];
}

std::string MendBench::verdictKey(const Key& key) const {
    const Defect& defect = defectOf(key);
    return fmt::format("{}|{}|{:.3f}|{:.3f}|{:.3f}", m_session.model().parts[key.part]->name,
                       survey::defectKindName(defect.kind), defect.where.X() + 0.0, defect.where.Y() + 0.0,
                       defect.where.Z() + 0.0);
}

Verdict MendBench::verdictOf(const Key& key) const {
    const auto found = m_verdicts.find(verdictKey(key));
    return found == m_verdicts.end() ? Verdict::ByLimit : found->second;
}

bool MendBench::goes(const Key& key) const {
    if (verdictOf(key) == Verdict::Kept) return false;
    return m_kind != MendKind::Gaps || defectOf(key).size <= m_cutBar->limit() * (1 + 1e-6);
}

std::vector<std::string> MendBench::partNames() const {
    std::vector<std::string> names;
    for (const std::size_t part : m_session.places().selectedParts())
        names.push_back(m_session.model().parts[part]->name);
    return names;
}

void MendBench::showKind(MendKind kind) {
    m_kindChosen = true;
    m_kind = kind;
    m_walked = -1;
    refresh();
}

void MendBench::refresh() {
    const Model& model = m_session.model();
    const Palette& p = colours();
    const auto selected = m_session.places().selectedParts();
    m_keys.clear();
    m_hovered.clear();
    std::array<int, mendKinds> counts{};
    std::size_t known = 0, wanted = 0, rims = 0, solids = 0;
    std::size_t walls = 0;  // parts that are sheets of known thickness
    int open = 0;
    bool tight = true;
    double safe = std::numeric_limits<double>::max(), widest = 0.0;
    std::string safeWhy;
    std::vector<Finding> findings;
    std::vector<CutItem> items;
    for (std::size_t part = 0; part < model.parts.size(); ++part) {
        if (!selected.empty() ? !selected.contains(part) : model.isAside(part)) continue;
        if (model.parts[part]->lump) continue;
        ++wanted;
        const PartKnowledge* knowledge = m_session.knowledge(part);
        if (knowledge == nullptr || !knowledge->defects) continue;
        ++known;
        const survey::DefectReport& report = *knowledge->defects;
        const bool isWalls = standsForWalls(*model.parts[part]);
        walls += isWalls;
        open += isWalls ? 0 : report.openEdges;
        tight = tight && (isWalls || report.watertight);
        if (knowledge->facts) solids += static_cast<std::size_t>(knowledge->facts->solids);
        if (report.openEdges > 0 && !isWalls && report.safeLimit < safe) {
            safe = report.safeLimit;
            safeWhy = report.safeWhy;
        }
        for (std::size_t d = 0; d < report.defects.size(); ++d) {
            const Defect& defect = report.defects[d];
            rims += defect.kind == DefectKind::Rim;
            const auto kind = kindOf(defect);
            if (!kind) continue;
            ++counts[static_cast<std::size_t>(*kind)];
            if (*kind == MendKind::Gaps) widest = std::max(widest, defect.size);
            if (*kind != m_kind) continue;
            const Key key{part, d};
            Finding finding;
            finding.size = *kind == MendKind::Gaps ? std::max(defect.size, 1e-4) : defect.size;
            if (*kind == MendKind::Gaps)
                finding.sizeText = defect.size < 1e-4
                                       ? QString("0")
                                       : text(fmt::format("{:.{}f}", defect.size, defect.size < 1.0 ? 3 : 2));
            const QString name = text(survey::defectKindName(defect.kind));
            finding.what = *kind == MendKind::Gaps
                               ? (defect.size < 1e-4 ? QString("touching") : betweenKinds(*model.parts[part], defect))
                           : *kind == MendKind::Openings ? "of " + countedText(defect.edges.size(), "open edge")
                                                         : name;
            if (finding.what == name) finding.several = severalOf(defect.kind);
            finding.where = QString("%1, at %2, %3, %4")
                                .arg(text(model.parts[part]->name), number(std::round(defect.where.X() * 10) / 10),
                                     number(std::round(defect.where.Y() * 10) / 10),
                                     number(std::round(defect.where.Z() * 10) / 10));
            finding.elements = defect.length;
            finding.key = static_cast<int>(m_keys.size());
            m_keys.push_back(key);
            finding.verdict = verdictOf(key);
            items.push_back({finding.size, finding.verdict == Verdict::Kept});
            findings.push_back(std::move(finding));
        }
    }
    std::stable_sort(findings.begin(), findings.end(), [this](const Finding& a, const Finding& b) {
        return m_kind == MendKind::Gaps ? a.size < b.size : a.size > b.size;
    });
    const bool all = known == wanted && wanted > 0;  // before that, 0 would be a claim
    for (std::size_t k = 0; k < mendCells.size(); ++k) {
        const bool current = k == static_cast<std::size_t>(m_kind);
        m_kinds[k]->setIcon(glyphIcon(mendCells[k].glyph, counts[k] > 0 ? p.ink : p.outline));
        m_kinds[k]->setKind(mendCells[k].name, all || counts[k] > 0 ? std::optional(counts[k]) : std::nullopt, current);
    }
    // Until a kind was chosen, the first one that has findings is shown.
    if (const auto first = std::find_if(counts.begin(), counts.end(), [](int count) { return count > 0; });
        all && !m_kindChosen && counts[static_cast<std::size_t>(m_kind)] == 0 && first != counts.end()) {
        m_kind = static_cast<MendKind>(first - counts.begin());
        refresh();
        return;
    }
    // The statement: large, and no better than it is.
    QString statement, detail;
    if (m_session.isEmpty())
        statement = "Open a file; what is not closed will be listed here.";
    else if (!all)
        statement = "Surveying…";
    else if (tight) {
        statement = solids > 0 ? QString("Watertight: %1").arg(countedText(solids, "solid"))
                               : QString("Sheets of known thickness, with free rims as meant.");
        if (solids > 0 && walls > 0) detail = countedText(walls, "part") + " of sheets with free rims, as meant.";
        if (const auto facts = solids > 0 ? m_session.facts() : std::nullopt) {
            Model shown = model;
            shown.occurrences.eraseWhere(
                [&](const Occurrence& o) { return selected.empty() ? o.aside : !selected.contains(o.part); });
            statement += QString(", %1 cm³").arg(number(measure::factsOf(shown, *facts).volume / 1000.0));
        }
    } else if (open == 0) {
        statement = "No open edges, but not all of it is solid.";
    } else {
        statement = "Watertight: no.";
        detail = countedText(static_cast<std::size_t>(open), "open edge");
        const auto openings = static_cast<std::size_t>(counts[1]);
        if (openings > 0) detail += ", " + countedText(openings, "opening");
        if (rims > 0) detail += ", " + countedText(rims, "rim") + " of sheets, meant open";
        if (widest > 1e-4) detail += QString(", widest gap %1 mm").arg(number(widest));
        detail += ".";
    }
    m_state->setText(statement);
    m_state->setStyleSheet(QString("font-size: 15px; font-weight: 600; color: %1;")
                               .arg((all && !tight && open > 0 ? p.vermilionText : p.ink).name()));
    m_detail->setText(detail);
    m_detail->setVisible(!detail.isEmpty());
    const bool gaps = m_kind == MendKind::Gaps;
    m_cutBar->setVisible(gaps && counts[0] > 0);
    m_safe->setVisible(gaps && counts[0] > 0);
    m_list->setHeadings(gaps ? "Gap mm" : m_kind == MendKind::Doubled ? "mm²" : "Size mm", "Length");
    m_cutBar->setTargetSize(model.targetSize);
    m_cutBar->setItems(std::move(items));
    if (safe < std::numeric_limits<double>::max()) {
        if (!m_limitChosen) m_cutBar->setLimit(safe);
        m_safe->setText(QString("Safe up to %1 mm: %2.").arg(number(safe), text(safeWhy)));
    }
    m_list->setFindings(std::move(findings), gaps ? m_cutBar->limit() : std::numeric_limits<double>::max());
    recount();
    emit previewChanged();
    emit stateChanged();
}

void MendBench::recount() {
    std::size_t count = 0, stray = 0, turned = 0;
    for (const Key& key : m_keys)
        if (goes(key)) {
            ++count;
            stray += defectOf(key).kind == DefectKind::StrayBody;
            turned += defectOf(key).kind == DefectKind::WrongWay || defectOf(key).kind == DefectKind::InsideOut;
        }
    QString words;
    bool can = count > 0;
    switch (m_kind) {
        case MendKind::Gaps:
            words = count > 0        ? QString("Stitch %1").arg(countedText(count, "gap"))
                    : m_keys.empty() ? QString("No gaps")
                                     : QString("No gap up to %1 mm").arg(number(m_cutBar->limit()));
            break;
        case MendKind::Openings:
            words = count > 0 ? QString("Patch %1").arg(countedText(count, "opening")) : QString("No openings");
            break;
        case MendKind::Doubled:
            words =
                count > 0 ? QString("Drop %1").arg(countedText(count, "doubled face")) : QString("No doubled faces");
            break;
        case MendKind::Needless:
            words =
                count > 0 ? QString("Merge %1").arg(countedText(count, "needless edge")) : QString("No needless edges");
            break;
        case MendKind::Other:
            if (stray > 0) {
                words = QString("Drop %1").arg(text(counted(stray, "stray body", "stray bodies")));
                m_safe->setText(stray == 1 ? "Or <a href=\"unite\">unite it</a> with the body it stands on."
                                           : "Or <a href=\"unite\">unite them</a> with the bodies they stand on.");
                m_safe->show();
            }
            if (stray == 0 && turned > 0) words = "Turn faces and make solids";
            if (words.isEmpty()) {
                words = m_keys.empty() ? "Nothing else" : "Listed to be looked at";
                can = false;
            }
            break;
        case MendKind::RunsOver:
            words = count > 0 ? QString("Trim %1").arg(countedText(count, "overrun")) : QString("No overruns");
            break;
        case MendKind::Slivers:
            words = count > 0 ? QString("Absorb %1").arg(countedText(count, "sliver")) : QString("No slivers");
            break;
        case MendKind::Tiny:
            words = count > 0 ? QString("Collapse %1").arg(countedText(count, "tiny edge")) : QString("No tiny edges");
            break;
    }
    m_foot->button()->setText(words);
    m_foot->button()->setEnabled(can && !m_session.isBusy());
    m_safeButton->setEnabled(isOpen() && !m_session.isBusy());
    m_safeButton->setToolTip(safeWords());
    emit stateChanged();
}

int MendBench::openFindings() const {
    int count = 0;
    const Model& model = m_session.model();
    for (std::size_t part = 0; part < model.parts.size(); ++part) {
        const PartKnowledge* known = m_session.knowledge(part);
        if (known == nullptr || !known->defects || model.isAside(part)) continue;
        for (const Defect& defect : known->defects->defects) count += kindOf(defect).has_value();
    }
    return count;
}

std::vector<BenchDeed> MendBench::deeds() {
    std::vector<BenchDeed> all;
    for (const auto& [name, kind] : {std::pair{"gaps", MendKind::Gaps},
                                     {"openings", MendKind::Openings},
                                     {"doubled faces", MendKind::Doubled},
                                     {"overruns", MendKind::RunsOver},
                                     {"slivers", MendKind::Slivers},
                                     {"tiny edges", MendKind::Tiny},
                                     {"needless edges", MendKind::Needless}})
        all.push_back({QString("Show %1").arg(name), {}, [this, kind = kind](const auto&) { showKind(kind); }});
    all.push_back({"Mend what is &safe", {}, [this](const auto&) { m_safeButton->click(); }});
    all.push_back(
        {"&Join the two picked edges", QKeySequence("Ctrl+J"), [this](const auto& picks) { joinPicked(picks); }});
    all.push_back({"Put a face &between the two picked edges", QKeySequence("Alt+J"),
                   [this](const auto& picks) { bridgePicked(picks); }});
    all.push_back({"&Patch what the picked edges bound", QKeySequence("Ctrl+Shift+J"),
                   [this](const auto& picks) { patchPicked(picks); }});
    all.push_back({"&Next defect", QKeySequence("Ctrl+Alt+Down"), [this](const auto&) { walk(1); }});
    all.push_back({"Pre&vious defect", QKeySequence("Ctrl+Alt+Up"), [this](const auto&) { walk(-1); }});
    return all;
}

QString MendBench::state() const {
    const Model& model = m_session.model();
    bool known = true;
    for (std::size_t part = 0; part < model.parts.size(); ++part) {
        if (model.isAside(part) || model.parts[part]->lump || model.parts[part]->shape.IsNull()) continue;
        const PartKnowledge* knowledge = m_session.knowledge(part);
        known = known && knowledge != nullptr && knowledge->defects.has_value();
    }
    const int open = openFindings();
    return stateOr(known, open > 0 ? QString("%1 open").arg(open) : QString("settled"));
}

bool MendBench::isOpen() const {
    const Model& model = m_session.model();
    for (std::size_t part = 0; part < model.parts.size(); ++part) {
        const PartKnowledge* known = m_session.knowledge(part);
        if (known == nullptr || !known->defects || model.isAside(part)) continue;
        for (const Defect& defect : known->defects->defects) {
            const auto kind = kindOf(defect);
            if (kind && (*kind == MendKind::Gaps || *kind == MendKind::Openings || *kind == MendKind::Doubled ||
                         *kind == MendKind::RunsOver))
                return true;
        }
    }
    return false;
}

void MendBench::keep(const std::vector<select::Pick>&) {
    m_list->keepSelected();
}

void MendBench::setVerdict(const std::vector<int>& keys, Verdict verdict) {
    // Those steps take all or nothing: a kept one would go all the same.
    if (m_kind != MendKind::Gaps && m_kind != MendKind::Openings) {
        showMessage("Only gaps and openings can be kept one by one; here all go together.");
        return;
    }
    for (const int key : keys) {
        m_verdicts[verdictKey(m_keys[static_cast<std::size_t>(key)])] =
            verdict == Verdict::Taken ? Verdict::ByLimit : verdict;
        m_list->setVerdict(key, verdict == Verdict::Taken ? Verdict::ByLimit : verdict);
    }
    std::vector<CutItem> items;
    for (const Key& key : m_keys)
        items.push_back({std::max(defectOf(key).size, 1e-4), verdictOf(key) == Verdict::Kept});
    m_cutBar->setItems(std::move(items));
    if (m_kind == MendKind::Openings) {
        const auto kept = static_cast<std::size_t>(std::count_if(m_keys.begin(), m_keys.end(), [this](const Key& key) {
            return verdictOf(key) == Verdict::Kept && defectOf(key).kind == DefectKind::Opening;
        }));
        showMessage(
            kept == 0
                ? QString()
                : QString("%1 kept for now. <a href=\"meant\">Note %2 as meant open</a>, and no action will close %2.")
                      .arg(countedText(kept, "opening"), kept == 1 ? "it" : "them"));
    }
    recount();
    emit previewChanged();
}

void MendBench::goTo(int key) {
    const Key& own = m_keys[static_cast<std::size_t>(key)];
    const Defect& defect = defectOf(own);
    for (const Occurrence& occurrence : m_session.model().occurrences)
        if (occurrence.part == own.part) {
            m_hovered = {key};
            emit previewChanged();
            const double length =
                defect.kind == DefectKind::Doubled ? std::sqrt(defect.size) : std::max(defect.size, defect.length);
            emit closerWanted(defect.where.Transformed(occurrence.placement), 0.4 * std::max(length, 1e-3));
            return;
        }
}

void MendBench::walk(int by) {
    if (m_keys.empty()) return;
    const int count = static_cast<int>(m_keys.size());
    m_walked = m_walked < 0 ? (by > 0 ? 0 : count - 1) : (m_walked + by + count) % count;
    m_list->reveal(m_walked);
    goTo(m_walked);
}

std::vector<int> MendBench::openEdgesAmong(const std::vector<select::Pick>& picks, std::size_t& part) {
    std::vector<int> edges;
    const Model& model = m_session.model();
    for (const select::Pick& pick : picks) {
        if (select::kindOf(pick) != select::PickKind::Edge || pick.occurrence >= model.occurrences.size()) continue;
        const std::size_t own = model.occurrences[pick.occurrence].part;
        if (!edges.empty() && own != part) {
            showMessage("The picked edges belong to different parts: join the parts into one first.");
            return {};
        }
        part = own;
        if (model.parts[own]->incidence().facesAt(pick.edge) == 1) edges.push_back(pick.edge);
    }
    if (edges.empty())
        showMessage("No open edge is picked: open edges are drawn dashed. Set the filter to edges and click them.");
    return edges;
}

void MendBench::joinPicked(const std::vector<select::Pick>& picks) {
    std::size_t number = 0;
    const std::vector<int> edges = openEdgesAmong(picks, number);
    if (edges.empty()) return;
    if (edges.size() != 2) {
        showMessage("Pick two open edges that are to become one.");
        return;
    }
    const Part& part = *m_session.model().parts[number];
    const EdgeProbe a(part.incidence().edge(edges[0])), b(part.incidence().edge(edges[1]));
    double apart = 0.0;
    for (int i = 0; i <= 16; ++i) {
        // Where one is longer than the other only what lies alongside counts: of each sample the nearer of its two
        // feet.
        const double share = i / 16.0;
        apart = std::max(apart, std::min(b.nearest(a.value(a.first() + share * (a.last() - a.first()))).distance,
                                         a.nearest(b.value(b.first() + share * (b.last() - b.first()))).distance));
    }
    mend::Stitch step;
    step.parts = {part.name};
    step.upTo = 1.1 * apart + m_session.model().samePoint();
    step.only = {{makeFaceRef(part, part.incidence().usesOf(edges[0]).front().face),
                  makeFaceRef(part, part.incidence().usesOf(edges[1]).front().face)}};
    showMessage({});
    m_session.apply("mend.stitch", Json(step));
}

void MendBench::bridgePicked(const std::vector<select::Pick>& picks) {
    std::size_t number = 0;
    const std::vector<int> edges = openEdgesAmong(picks, number);
    if (edges.empty()) return;
    if (edges.size() != 2) {
        showMessage("Pick two open edges that a face is to lie between.");
        return;
    }
    const Part& part = *m_session.model().parts[number];
    mend::Bridge step;
    step.part = part.name;
    step.edges.emplace_back();
    for (std::size_t i = 0; i < 2; ++i) {
        const EdgeProbe probe(part.incidence().edge(edges[i]));
        const gp_Pnt middle = probe.value(0.5 * (probe.first() + probe.last()));
        step.edges[0][i] = {middle.X(), middle.Y(), middle.Z()};
    }
    showMessage({});
    m_session.apply("mend.bridge", Json(step));
}

void MendBench::patchPicked(const std::vector<select::Pick>& picks) {
    std::size_t number = 0;
    const std::vector<int> edges = openEdgesAmong(picks, number);
    if (edges.empty()) return;
    const Part& part = *m_session.model().parts[number];
    mend::PatchOpenings step;
    step.parts = {part.name};
    std::set<int> served;
    for (const mend::OpenLoop& loop : mend::openLoops(part.incidence())) {
        if (std::none_of(edges.begin(), edges.end(), [&](int e) {
                return std::find(loop.numbers.begin(), loop.numbers.end(), e) != loop.numbers.end();
            }))
            continue;
        served.insert(loop.numbers.begin(), loop.numbers.end());
        step.at.push_back({loop.middle.X(), loop.middle.Y(), loop.middle.Z()});
    }
    if (std::any_of(edges.begin(), edges.end(), [&](int e) { return !served.contains(e); })) {
        showMessage("The open edges there do not form a closed loop: stitch its gaps first.");
        return;
    }
    showMessage({});
    m_session.apply("mend.patch", Json(step));
}

BenchPreview MendBench::preview() const {
    BenchPreview all;
    std::vector<PreviewFaces>& going = all.goes;
    std::vector<StageMark>& marks = all.marks;
    const Model& model = m_session.model();
    const auto showsFaces = [](const Defect& defect) {
        const auto kind = kindOf(defect);
        return kind == MendKind::Doubled || kind == MendKind::RunsOver || kind == MendKind::Slivers ||
               kind == MendKind::Other;
    };
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (m_session.places().isHidden(o)) continue;
        const Occurrence& occurrence = model.occurrences[o];
        const PartKnowledge* known = m_session.knowledge(occurrence.part);
        if (known == nullptr || !known->defects) continue;
        PreviewFaces goingHere{model.parts[occurrence.part], occurrence.placement, {}};
        const auto mark = [&](const Defect& defect, bool kept, bool hovered) {
            marks.push_back({defect.where.Transformed(occurrence.placement), kept, hovered,
                             defect.kind == DefectKind::Gap ? 0.2 * defect.length : defect.size});
        };
        const auto light = [&](const Defect& defect) {
            const auto from = defect.kind == DefectKind::Doubled && m_previewsSafe
                                  ? std::prev(defect.faces.end())
                                  : defect.faces.begin();  // of a double one goes
            goingHere.faces.insert(goingHere.faces.end(), from, defect.faces.end());
        };
        // Hundreds of touching edges would hide the few that matter: those are seen by their dashes.
        const auto tells = [](const Defect& defect) { return defect.kind != DefectKind::Gap || defect.size > 1e-4; };
        if (m_previewsSafe) {
            for (const Defect& defect : known->defects->defects) {
                if (!isSafe(defect, *known->defects)) continue;
                if (showsFaces(defect)) light(defect);
                if (tells(defect)) mark(defect, false, false);
            }
        } else {
            for (std::size_t k = 0; k < m_keys.size(); ++k) {
                const Key& key = m_keys[k];
                if (key.part != occurrence.part || key.defect >= known->defects->defects.size()) continue;
                const Defect& defect = defectOf(key);
                const bool kept = verdictOf(key) == Verdict::Kept,
                           hovered =
                               std::find(m_hovered.begin(), m_hovered.end(), static_cast<int>(k)) != m_hovered.end();
                if (showsFaces(defect) && !kept) light(defect);
                if (hovered || kept || (tells(defect) && goes(key))) mark(defect, kept, hovered);
            }
        }
        if (!goingHere.faces.empty()) going.push_back(std::move(goingHere));
    }
    return all;
}

bool MendBench::isSafe(const Defect& defect, const survey::DefectReport& report) {
    switch (defect.kind) {
        case DefectKind::Gap:
            return defect.size <= report.safeLimit;
        case DefectKind::Opening:
        case DefectKind::Doubled:
        case DefectKind::RunsOver:
        case DefectKind::PartlyDoubled:
        case DefectKind::WrongWay:
        case DefectKind::InsideOut:
            return true;
        default:
            return false;
    }
}

QString MendBench::safeWords() const {
    std::map<DefectKind, std::size_t> counts;
    std::size_t wider = 0;
    const auto chosen = m_session.places().selectedParts();
    for (std::size_t part = 0; part < m_session.model().parts.size(); ++part) {
        const PartKnowledge* known = m_session.knowledge(part);
        if (known == nullptr || !known->defects ||
            (chosen.empty() ? m_session.model().isAside(part) : !chosen.contains(part)))
            continue;
        for (const Defect& defect : known->defects->defects) {
            if (isSafe(defect, *known->defects)) ++counts[defect.kind];
            wider += defect.kind == DefectKind::Gap && defect.size > known->defects->safeLimit;
        }
    }
    QStringList words;
    const auto say = [&](DefectKind kind, const char* verb, const char* what) {
        if (counts[kind] > 0) words << QString("%1 %2").arg(verb, countedText(counts[kind], what));
    };
    say(DefectKind::Doubled, "drop", "doubled face");
    say(DefectKind::Gap, "stitch", "gap");
    say(DefectKind::RunsOver, "cut back", "overrun");
    say(DefectKind::PartlyDoubled, "cut back", "partly doubled face");
    say(DefectKind::Opening, "patch", "opening");
    if (counts[DefectKind::WrongWay] + counts[DefectKind::InsideOut] > 0) words << "turn faces outwards";
    if (words.isEmpty()) return "Nothing here is safe to mend by itself.";
    QString told = words.join(", ") + ", and make solids, in one step.";
    told[0] = told[0].toUpper();
    if (wider > 0) told += QString(" Leaves %1 wider than the safe limit for you.").arg(countedText(wider, "gap"));
    return told;
}

void MendBench::setSafePreview(bool on) {
    if (m_previewsSafe == on) return;
    m_previewsSafe = on;
    emit previewChanged();
}

bool MendBench::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_safeButton) {
        if (event->type() == QEvent::Enter || event->type() == QEvent::FocusIn)
            setSafePreview(m_safeButton->isEnabled());
        if (event->type() == QEvent::Leave || event->type() == QEvent::FocusOut) setSafePreview(false);
    }
    return QWidget::eventFilter(watched, event);
}

void MendBench::noteMeantOpen() {
    mend::LeaveOpen step;
    std::set<std::size_t> parts;
    for (const Key& key : m_keys) {
        if (verdictOf(key) != Verdict::Kept || defectOf(key).kind != DefectKind::Opening) continue;
        const gp_Pnt at = defectOf(key).where;
        step.at.push_back({at.X(), at.Y(), at.Z()});
        parts.insert(key.part);
    }
    for (const std::size_t part : parts) step.parts.push_back(m_session.model().parts[part]->name);
    showMessage({});
    m_session.apply("mend.leaveOpen", Json(step));
}

void MendBench::applySafe() {
    showMessage({});
    m_list->setFocus();
    m_session.apply("mend.mendSafe", {{"parts", partNames()}});
}

std::optional<BenchStep> MendBench::step() const {
    const Json parts{{"parts", partNames()}};
    if (m_previewsSafe) return BenchStep{"mend.mendSafe", parts};
    if (std::none_of(m_keys.begin(), m_keys.end(), [this](const Key& key) { return goes(key); })) return std::nullopt;
    const Model& model = m_session.model();
    switch (m_kind) {
        case MendKind::Gaps: {
            mend::Stitch step;
            step.parts = partNames();
            step.upTo = m_cutBar->limit();
            for (const Key& key : m_keys)
                if (const Defect& gap = defectOf(key); verdictOf(key) == Verdict::Kept && gap.size <= step.upTo)
                    step.kept.emplace_back(makeFaceRef(*model.parts[key.part], gap.faces[0]),
                                           makeFaceRef(*model.parts[key.part], gap.faces[1]));
            return BenchStep{"mend.stitch", Json(step)};
        }
        case MendKind::Openings: {
            mend::PatchOpenings step;
            step.parts = partNames();
            if (keptOnes())
                for (const Key& key : m_keys)
                    if (goes(key))
                        step.at.push_back({defectOf(key).where.X(), defectOf(key).where.Y(), defectOf(key).where.Z()});
            return BenchStep{"mend.patch", Json(step)};
        }
        case MendKind::Doubled:
            return BenchStep{"mend.dropDoubles", parts};
        case MendKind::Needless:
            return BenchStep{"mend.mergeFaces", parts};
        case MendKind::Other:
            if (!m_foot->button()->isEnabled()) return std::nullopt;
            return BenchStep{m_foot->button()->text().startsWith("Drop") ? "mend.dropStray" : "mend.makeSolids", parts};
        case MendKind::RunsOver:
            return BenchStep{"mend.trimOverlong", parts};
        case MendKind::Slivers:
            return BenchStep{"mend.absorbSlivers", parts};
        case MendKind::Tiny:
            return BenchStep{"mend.collapseTiny", parts};
    }
    return std::nullopt;
}

bool MendBench::keptOnes() const {
    return std::any_of(m_keys.begin(), m_keys.end(),
                       [this](const Key& key) { return verdictOf(key) == Verdict::Kept; });
}

void MendBench::apply() {
    showMessage({});
    m_list->setFocus();
    if (m_kind == MendKind::Openings && keptOnes() &&
        std::any_of(m_keys.begin(), m_keys.end(), [this](const Key& key) { return key.part != m_keys.front().part; })) {
        // Openings are named by where they lie in their part: in another part that may be another one.
        showMessage("Openings are kept in one part at a time: select the part.");
        return;
    }
    if (const auto wanted = step()) m_session.apply(wanted->operation, wanted->parameters);
}

}  // namespace rasoir::app
