#include "bench/join_bench.h"

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <QCheckBox>
#include <QHBoxLayout>
#include <QHeaderView>

#include "bench/bench_page.h"
#include "join/joint_faults.h"
#include "join/pairs.h"
#include "model/places.h"
#include "stage/part_presentation.h"
#include "theme.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// The materials of two places, in the order of their names.
std::pair<std::string, std::string> materialsOf(const Model& model, std::size_t a, std::size_t b) {
    const auto named = [&model](std::size_t place) {
        const std::string& own = model.parts[model.occurrences[place].part]->material;
        return own.empty() ? std::string("no material") : own;
    };
    return std::minmax<std::string>({named(a), named(b)});
}

}  // namespace
JoinBench::JoinBench(Session& session, QWidget* parent)
    : LaidOutBench("Join", "What touches what?",
                   "Finds contact, gaps and overlaps between bodies, and gives them common faces.", session, parent) {
    QVBoxLayout* column = lay({{"Touching", Glyph::Touch},
                               {"Near misses", Glyph::Gap},
                               {"Overlaps", Glyph::Overlap},
                               {"Joined", Glyph::Joined},
                               {"Bolts", Glyph::Slot},
                               {"Welds", Glyph::Fillet},
                               {"Spot welds", Glyph::Point},
                               {"Flow spaces", Glyph::Hole},
                               {"Regions", Glyph::Group}});
    m_cutBar = new CutBar("Gaps up to", "", this);
    m_cutBar->setMeasure("mm", false, "close");
    column->addWidget(m_cutBar);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("pairs");
    m_list->setAccessibleName("Pairs of bodies");
    m_list->setColumnCount(2);
    m_list->setRootIsDecorated(false);
    m_list->setWordWrap(true);
    m_list->header()->setStretchLastSection(false);
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_list->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    column->addWidget(m_list, 1);
    m_bolts = new BoltsPage(session, this);
    m_welds = new WeldsPage(session, this);
    m_spots = new SpotsPage(session, this);
    m_flow = new FlowPage(session, this);
    m_regions = new RegionsPage(session, this);
    m_pages = {m_bolts, m_welds, m_spots, m_flow, m_regions};
    for (BenchPage* own : m_pages) {
        column->addWidget(own, 1);
        connect(own, &BenchPage::closerWanted, this, &Bench::closerWanted);
        connect(own, &BenchPage::changed, this, [this, own] {
            if (page() != own) return;
            showPage();
            emit previewChanged();
        });
    }
    m_becomes = choice("becomes", "What the listed pairs become",
                       {{"become one face, one mesh", "common"},
                        {"are kept as contact pairs", "contact"},
                        {"are tied by links", "link"}});
    m_gapsBy = choice("gapsBy", "Whose faces move where a gap is closed",
                      {{"gaps: the smaller face moves", "smaller"},
                       {"gaps: the larger face moves", "larger"},
                       {"gaps: both meet midway", "midway"}});
    m_overlaps = choice("overlaps", "Bodies that reach into one another can only be joined once one of them gives way",
                        {{"overlaps: the smaller keeps it", "smaller"},
                         {"overlaps: the larger keeps it", "larger"},
                         {"overlaps: the earlier keeps it", "first"},
                         {"overlaps: the harder material keeps it", "harder"},
                         {"overlaps: one stays apart", "apart"}});
    for (QComboBox* box : {m_becomes, m_gapsBy, m_overlaps}) column->addWidget(box);
    m_byMaterials = new QCheckBox("a row for each pair of materials", this);
    m_byMaterials->setToolTip("Rows fold by materials instead of by parts: all steel on rubber, say, in one decision");
    m_byMaterials->setObjectName("byMaterials");
    column->addWidget(m_byMaterials);
    connect(m_byMaterials, &QCheckBox::toggled, this, [this] {
        m_left.clear();
        refresh();
        emit previewChanged();
    });
    m_pulling = new QWidget(this);
    auto* pulling = new QHBoxLayout(m_pulling);
    pulling->setContentsMargins(0, 0, 0, 0);
    pulling->addWidget(new QLabel("Pull apart", m_pulling));
    m_pull = new QSlider(Qt::Horizontal, m_pulling);
    m_pull->setObjectName("pullApart");
    m_pull->setAccessibleName("Pull apart what is not joined");
    m_pull->setToolTip("Draws what holds together away from the rest; the model stays as it is");
    m_pull->setRange(0, 100);
    pulling->addWidget(m_pull, 1);
    column->addWidget(m_pulling);
    connect(m_pull, &QSlider::valueChanged, this, [this] { emit previewChanged(); });
    connect(m_cutBar, &CutBar::limitChanged, this, [this] {
        m_limitChosen = true;
        refresh();
        emit previewChanged();
    });
    connect(m_list, &QTreeWidget::currentItemChanged, this, [this] { emit previewChanged(); });
    connect(m_list, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item) {
        const auto row = static_cast<std::size_t>(m_list->indexOfTopLevelItem(item));
        if (row >= m_rows.size()) return;
        const bool own = m_rows[row].isOwn();
        if ((item->checkState(0) == Qt::Checked) == own)
            (own ? m_own : m_left).insert(namesOf(m_rows[row]));
        else
            (own ? m_own : m_left).erase(namesOf(m_rows[row]));
        afterwards(this, [this] {
            refresh();
            emit previewChanged();
        });
    });
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const auto row = static_cast<std::size_t>(m_list->indexOfTopLevelItem(item));
        if (row >= m_rows.size()) return;
        std::set<std::size_t> places;
        for (const auto& [a, b] : m_rows[row].pairs) places.insert({a, b});
        std::vector<select::Pick> picks;
        for (const std::size_t o : places) picks.push_back({o});
        emit picksWanted(picks);
        if (const auto* all = report(); all != nullptr && !m_rows[row].contacts.empty()) {
            const join::Contact& contact = all->contacts[m_rows[row].contacts.front()];
            emit closerWanted(contact.where, std::max(2.0 * std::sqrt(contact.area), 1.0));
        }
    });
    connect(&m_session.surveys().contacts, &WholeSurveyBase::changed, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(&m_session, &Session::opened, this, [this] {
        m_limitChosen = false;
        m_left.clear();
        m_own.clear();
        m_pull->setValue(0);
    });
    refresh();
}

std::pair<std::string, std::string> JoinBench::namesOf(const Row& row) const {
    const Model& model = m_session.model();
    if (m_byMaterials->isChecked()) return materialsOf(model, row.placeA, row.placeB);
    if (row.pairs.size() == 1) return {placeName(model, row.placeA), placeName(model, row.placeB)};
    return {model.parts[model.occurrences[row.placeA].part]->name,
            model.parts[model.occurrences[row.placeB].part]->name};
}

bool JoinBench::isLeft(const Row& row) const {
    if (row.isOwn()) return !m_own.contains(namesOf(row));
    return (kind() == JoinKind::Touching || kind() == JoinKind::Near) && m_left.contains(namesOf(row));
}

QString JoinBench::detailOf(const Row& row) const {
    switch (kind()) {
        case JoinKind::Near:
            return QString("\ngap %1 to %2 mm, %3")
                .arg(number(row.gap), number(row.widest), row.wedge ? "a wedge" : "parallel");
        case JoinKind::Overlaps:
            return row.volume > 0.0
                       ? QString("\nabout %1 mm³, up to %2 mm deep").arg(number(row.volume), number(row.widest))
                       : QString("\none passes through the other");
        case JoinKind::Touching:
            return row.tangent ? QString("\nround faces that touch along a line or in a point: nothing can become one")
                   : row.isOwn() ? QString("\nmarked, its bodies become parts of their own and are joined")
                                 : QString();
        default:
            return {};
    }
}

QComboBox* JoinBench::choice(const char* name, const QString& whatFor,
                             const std::vector<std::pair<const char*, const char*>>& ways) {
    auto* box = new QComboBox(this);
    box->setObjectName(name);
    box->setAccessibleName(whatFor);
    box->setToolTip(whatFor);
    for (const auto& [words, value] : ways) box->addItem(words, value);
    connect(box, &QComboBox::activated, this, [this] {
        refresh();
        emit previewChanged();
    });
    return box;
}

const join::ContactReport* JoinBench::report() const {
    return m_session.surveys().contacts.found() ? &*m_session.surveys().contacts.found() : nullptr;
}

void JoinBench::showEvent(QShowEvent* event) {
    LaidOutBench::showEvent(event);
    m_session.surveys().contacts.request();
}

QString JoinBench::state() const {
    if (m_session.isEmpty()) return "no file";
    if (m_session.model().occurrences.size() < 2) return "one body";
    if (report() == nullptr) return "no survey";
    const std::size_t open = promised();  // a pair that touches and overlaps is one
    if (!m_session.model().joints.empty() && open == 0) return "joined";
    return open > 0 ? QString("%1 pairs").arg(open) : QString("nothing touches");
}

void JoinBench::showKind(JoinKind kind) {
    m_kinds->setCurrent(static_cast<int>(kind));
    emit m_kinds->chosen(static_cast<int>(kind));
}

std::vector<BenchDeed> JoinBench::deeds() {
    std::vector<BenchDeed> all;
    for (const auto& [name, kind] : {std::pair{"Show what touches", JoinKind::Touching},
                                     {"Show near misses", JoinKind::Near},
                                     {"Show overlaps", JoinKind::Overlaps},
                                     {"Show what is joined", JoinKind::Joined},
                                     {"Make beams of bolts", JoinKind::Bolts},
                                     {"Weld along lines", JoinKind::Welds},
                                     {"Set spot welds", JoinKind::Spots},
                                     {"Make a flow space", JoinKind::Flow},
                                     {"Say what bodies and boundaries are", JoinKind::Regions}})
        all.push_back({name, {}, [this, kind = kind](const auto&) { showKind(kind); }});
    return all;
}

void JoinBench::picksChanged(const std::vector<select::Pick>& picks) {
    m_flow->picksChanged(picks);
    m_regions->picksChanged(picks);
    m_spots->picksChanged(picks);
    if (page() == m_regions) showPage();
}

double JoinBench::limit() const {
    return kind() == JoinKind::Near ? m_cutBar->limit() : 0.0;
}

std::size_t JoinBench::promised() const {
    std::set<std::pair<std::size_t, std::size_t>> pairs;
    for (const JoinKind one : {JoinKind::Touching, JoinKind::Overlaps}) {
        if (one == JoinKind::Overlaps && m_overlaps->currentData().toString() == "apart") continue;
        for (const Row& row : rowsOf(one))
            if (!row.tangent && (!row.isOwn() || m_own.contains(namesOf(row))))
                pairs.insert(row.pairs.begin(), row.pairs.end());
    }
    return pairs.size();
}

std::set<std::size_t> JoinBench::scope() const {
    const auto& selected = m_session.places().selected();
    if (selected.size() < 2) return {};
    return {selected.begin(), selected.end()};
}

std::vector<JoinBench::Row> JoinBench::rowsOf(JoinKind wanted) const {
    std::vector<Row> rows;
    const Model& model = m_session.model();
    const std::set<std::size_t> chosen = scope();
    const auto outOfScope = [&](std::size_t a, std::size_t b) {
        return !chosen.empty() && (!chosen.contains(a) || !chosen.contains(b));
    };
    std::map<std::pair<std::string, std::string>, std::size_t> known;
    const auto rowOf = [&](std::size_t a, std::size_t b) -> Row& {
        const std::pair parts(std::to_string(model.occurrences[a].part), std::to_string(model.occurrences[b].part));
        const auto [at, fresh] =
            known.try_emplace(m_byMaterials->isChecked() ? materialsOf(model, a, b) : parts, rows.size());
        if (fresh) {
            rows.emplace_back();
            rows.back().placeA = a;
            rows.back().placeB = b;
            rows.back().gap = -1.0;
        }
        rows[at->second].pairs.insert({a, b});
        return rows[at->second];
    };
    std::set<std::pair<std::size_t, std::size_t>> joined;
    for (const auto& [pair, kept] : pairedPlaces(model)) {
        joined.insert(pair);
        if (wanted == JoinKind::Joined && !outOfScope(pair.first, pair.second))
            rowOf(pair.first, pair.second).kept = kept;
    }
    for (const Joint& joint : model.joints)
        for (std::size_t i = 0; i < joint.uses.size(); ++i)
            for (std::size_t k = i + 1; k < joint.uses.size(); ++k) {
                const auto a = model.placeOf(joint.uses[i].place), b = model.placeOf(joint.uses[k].place);
                if (!a || !b || joint.kind == EntityKind::Vertex) continue;
                const auto pair = std::minmax(*a, *b);
                joined.insert({pair.first, pair.second});
                if (wanted != JoinKind::Joined || outOfScope(*a, *b)) continue;
                Row& row = rowOf(pair.first, pair.second);
                (joint.kind == EntityKind::Face ? row.area : row.lines) += 1.0;
                row.widest = std::max(row.widest, joint.deviation);
            }
    if (wanted == JoinKind::Joined || report() == nullptr) return rows;
    const auto listedAs = [](join::ContactKind kind) {
        return kind == join::ContactKind::Near      ? JoinKind::Near
               : kind == join::ContactKind::Overlap ? JoinKind::Overlaps
                                                    : JoinKind::Touching;
    };
    const auto& contacts = report()->contacts;
    for (std::size_t c = 0; c < contacts.size(); ++c) {
        const join::Contact& contact = contacts[c];
        if (listedAs(contact.kind) != wanted || joined.contains({contact.placeA, contact.placeB})) continue;
        if (outOfScope(contact.placeA, contact.placeB)) continue;
        // A contact or a link is between two parts: bodies of one have to be parted first.
        if (contact.placeA == contact.placeB && asContact()) continue;
        Row& row = rowOf(contact.placeA, contact.placeB);
        row.contacts.push_back(c);
        row.area += contact.area;
        row.lines += contact.length;
        row.volume += contact.volume;
        if (row.gap < 0.0 || contact.gap < row.gap) row.wedge = contact.isWedge();
        row.tangent = row.tangent && contact.isTangent();
        row.gap = row.gap < 0.0 ? contact.gap : std::min(row.gap, contact.gap);
        row.widest = std::max(row.widest, contact.widest);
    }
    std::stable_sort(rows.begin(), rows.end(), [](const Row& a, const Row& b) { return a.gap < b.gap; });
    return rows;
}

void JoinBench::refresh() {
    if (isVisible()) m_session.surveys().contacts.request();
    const Model& model = m_session.model();
    const bool known = report() != nullptr || m_session.isEmpty();
    for (const JoinKind one : {JoinKind::Touching, JoinKind::Near, JoinKind::Overlaps, JoinKind::Joined})
        m_kinds->setCount(static_cast<int>(one), known || one == JoinKind::Joined
                                                     ? std::optional(static_cast<int>(rowsOf(one).size()))
                                                     : std::nullopt);
    m_list->setVisible(page() == nullptr);
    for (BenchPage* own : m_pages) own->setVisible(own == page());
    if (page() != nullptr) {
        m_rows.clear();
        page()->refresh();
        for (QWidget* own :
             std::initializer_list<QWidget*>{m_cutBar, m_becomes, m_gapsBy, m_overlaps, m_byMaterials, m_pulling})
            own->hide();
        showPage();
        emit previewChanged();
        return;
    }
    m_rows = rowsOf(kind());
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    m_list->setHeaderLabels({"Bodies", kind() == JoinKind::Near       ? "Gap mm"
                                       : kind() == JoinKind::Joined   ? "Common"
                                       : kind() == JoinKind::Overlaps ? "about mm³"
                                                                      : "mm²"});
    std::vector<CutItem> gaps;
    for (const Row& row : m_rows) {
        const auto [one, other] = namesOf(row);
        const QString bodies =
            row.isOwn() ? QString("%1, among its bodies").arg(text(one)) : text(one) + " – " + text(other);
        const QString value =
            kind() == JoinKind::Near       ? number(row.gap) + (row.wedge ? " wedge" : "")
            : row.kept                     ? text(pairingKindName(*row.kept))
            : kind() == JoinKind::Joined   ? text(row.area > 0.0 ? counted(static_cast<std::size_t>(row.area), "face")
                                                                 : counted(static_cast<std::size_t>(row.lines), "edge"))
            : kind() == JoinKind::Overlaps ? row.volume > 0.0 ? number(row.volume) : QString("through")
            : row.area > 0.0 ? number(row.area)
            : row.lines > 0.0              ? QString("line, %1 mm").arg(number(row.lines))
                                           : QString("point");
        auto* item = new QTreeWidgetItem(
            m_list, {row.pairs.size() == 1 ? bodies : bodies + QString(" ×%1").arg(row.pairs.size()), value});
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        item->setToolTip(0, item->text(0) + detailOf(row));
        if (kind() == JoinKind::Touching || kind() == JoinKind::Near || (kind() == JoinKind::Overlaps && row.isOwn())) {
            item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
            item->setCheckState(0, isLeft(row) ? Qt::Unchecked : Qt::Checked);
        }
        if (kind() == JoinKind::Near) gaps.push_back({std::max(row.gap, 1e-6), false});
    }
    if (current >= 0 && current < m_list->topLevelItemCount()) m_list->setCurrentItem(m_list->topLevelItem(current));
    wrapRows(m_list, 0);
    m_cutBar->setVisible(kind() == JoinKind::Near && !m_rows.empty());
    m_cutBar->setTargetSize(model.targetSize);
    m_cutBar->setItems(std::move(gaps));
    if (!m_limitChosen && known && !m_session.isEmpty()) m_cutBar->setLimit(report()->safe.mm);
    QString answer;
    if (m_session.isEmpty())
        answer = "Open a file; what touches, nearly touches and overlaps will be listed here.";
    else if (!known)
        answer = "Looking for contacts…";
    else if (kind() == JoinKind::Near) {
        const join::SafeLimit& safe = report()->safe;
        answer = QString("Safe up to %1 mm: %2.").arg(number(safe.mm), text(safe.why));
    } else if (kind() == JoinKind::Joined && !model.joints.empty()) {
        const join::Counted counts = join::countJoined(model);
        answer = QString("%1 faces and %2 edges, counted once.").arg(counts.faces).arg(counts.edges);
    }
    setAnswer(answer);
    const auto wanted = step();
    const std::size_t overlaps = rowsOf(JoinKind::Overlaps).size();
    const bool joined = kind() == JoinKind::Joined;
    m_pulling->setVisible(joined && !model.joints.empty());
    m_becomes->setVisible(!joined && kind() != JoinKind::Overlaps);
    m_byMaterials->setVisible(!m_session.isEmpty());
    m_gapsBy->setVisible(kind() == JoinKind::Near && !asContact());
    m_overlaps->setVisible(overlaps > 0 && !joined && !asContact());
    button()->setText(wordsOnButton());
    button()->setEnabled(wanted.has_value() && !m_session.isBusy());
    emit stateChanged();
}

BenchPage* JoinBench::page() const {
    switch (kind()) {
        case JoinKind::Bolts:
            return m_bolts;
        case JoinKind::Welds:
            return m_welds;
        case JoinKind::Flow:
            return m_flow;
        case JoinKind::Spots:
            return m_spots;
        case JoinKind::Regions:
            return m_regions;
        default:
            return nullptr;
    }
}

void JoinBench::showPage() {
    setAnswer(page()->answer());
    m_kinds->setCount(static_cast<int>(kind()), page()->count());
    button()->setText(page()->words());
    button()->setEnabled(page()->step().has_value() && !m_session.isBusy());
    emit stateChanged();
}

QString JoinBench::wordsOnButton() const {
    const auto within = std::count_if(m_rows.begin(), m_rows.end(), [this](const Row& row) {
        return row.gap <= limit() * (1 + 1e-9) && !isLeft(row);
    });
    switch (kind()) {
        case JoinKind::Touching:
        case JoinKind::Overlaps: {
            if (asContact() && kind() == JoinKind::Touching) {
                std::size_t pairs = 0;
                for (const Row& row : m_rows)
                    if (!isLeft(row)) pairs += row.pairs.size();
                return pairs > 0 ? QString(asLink() ? "Tie %1 by links" : "Keep %1 as contact")
                                       .arg(text(counted(pairs, "pair")))
                                 : QString("Nothing touches");
            }
            std::size_t count = promised();
            for (const Row& row : m_rows)
                if (isLeft(row) && !row.isOwn() && !row.tangent) count -= std::min(count, row.pairs.size());
            return count > 0 ? QString("Join %1").arg(text(counted(count, "pair"))) : QString("Nothing to join");
        }
        case JoinKind::Near:
            if (within == 0) return "No gap that narrow";
            return QString(asLink()      ? "Tie by links, gaps up to %1 mm"
                           : asContact() ? "Keep as contact, gaps up to %1 mm"
                                         : "Join, closing gaps up to %1 mm")
                .arg(number(limit()));
        case JoinKind::Joined:
        default:
            break;
    }
    return "Switch the step off to part them";
}

std::optional<BenchStep> JoinBench::step() const {
    if (page() != nullptr) return page()->step();
    if (m_session.isEmpty() || report() == nullptr || kind() == JoinKind::Joined) return std::nullopt;
    Json parameters{{"upTo", 0.0}};
    if (const auto chosen = scope(); !chosen.empty())
        parameters["places"] = placeNames(m_session.model(), {chosen.begin(), chosen.end()});
    if (kind() == JoinKind::Near) {
        if (std::none_of(m_rows.begin(), m_rows.end(),
                         [this](const Row& row) { return row.gap <= limit() * (1 + 1e-9); }))
            return std::nullopt;
        parameters["upTo"] = limit();
    }
    // Where rows were left out, the others are named.
    const bool withOwn =
        std::any_of(m_rows.begin(), m_rows.end(), [this](const Row& row) { return row.isOwn() && !isLeft(row); });
    if (withOwn) parameters["bodies"] = true;
    if (withOwn ||
        std::any_of(m_rows.begin(), m_rows.end(), [this](const Row& row) { return !row.isOwn() && isLeft(row); })) {
        Json pairs = Json::array();
        for (const Row& row : m_rows)
            if (!isLeft(row)) {
                if (m_byMaterials->isChecked()) {
                    for (const auto& [a, b] : row.pairs)
                        pairs.push_back(
                            Json::array({placeName(m_session.model(), a), placeName(m_session.model(), b)}));
                    continue;
                }
                const auto [a, b] = namesOf(row);
                pairs.push_back(Json::array({a, b}));
            }
        if (pairs.empty()) return std::nullopt;
        parameters["pairs"] = std::move(pairs);
    }
    if (asLink() && kind() != JoinKind::Overlaps) parameters["link"] = true;
    if (asContact() && kind() != JoinKind::Overlaps)
        return m_rows.empty() ? std::nullopt : std::optional(BenchStep{"join.contact", std::move(parameters)});
    if (kind() != JoinKind::Near && promised() == 0) return std::nullopt;
    const QString rule = m_overlaps->currentData().toString();
    if (rule != "apart" && !rowsOf(JoinKind::Overlaps).empty()) parameters["overlaps"] = rule.toStdString();
    if (kind() == JoinKind::Near && m_gapsBy->currentIndex() > 0)
        parameters["gapsBy"] = m_gapsBy->currentData().toString().toStdString();
    return BenchStep{"join.pairs", std::move(parameters)};
}

/// Edges in common, by how many faces meet there: three are what a joint of two bodies has, four and more carry their
/// number.
void JoinBench::addJoinedEdges(BenchPreview& preview) const {
    const Model& model = m_session.model();
    for (const join::JoinedEdge& edge : join::joinedEdges(model)) {
        if (m_session.places().isHidden(edge.place)) continue;
        const Occurrence& place = model.occurrences[edge.place];
        StageLine line;
        line.points = edgePoints(model.parts[place.part]->incidence(), edge.edge);
        if (line.points.size() < 2) continue;
        for (gp_Pnt& point : line.points) point.Transform(place.placement);
        line.style = edge.faces <= 2 ? StageLine::Style::Frame : StageLine::Style::Brass;
        if (edge.faces >= 4) line.text = QString::number(edge.faces);
        preview.lines.push_back(std::move(line));
    }
}

/// What holds together in one tone; pulled apart, each set goes away from the middle of all, as does what is alone.
void JoinBench::addSets(BenchPreview& preview) const {
    const Model& model = m_session.model();
    if (model.joints.empty()) return;
    preview.sets = join::joinedSets(model);
    if (m_pull->value() == 0) return;
    const std::size_t count = model.occurrences.size();
    std::vector<gp_XYZ> middles(count);
    Bnd_Box all;
    std::map<int, std::pair<gp_XYZ, double>> bySet;  // sum of middles, and how many
    for (std::size_t o = 0; o < count; ++o) {
        Bnd_Box box;
        BRepBndLib::Add(model.parts[model.occurrences[o].part]->shape, box);
        if (box.IsVoid()) continue;
        box = box.Transformed(model.occurrences[o].placement);
        middles[o] = 0.5 * (box.CornerMin().XYZ() + box.CornerMax().XYZ());
        all.Add(box);
        if (preview.sets[o] < 0) continue;
        auto& [sum, members] = bySet[preview.sets[o]];
        sum += middles[o];
        members += 1.0;
    }
    if (all.IsVoid()) return;
    const gp_XYZ centre = 0.5 * (all.CornerMin().XYZ() + all.CornerMax().XYZ());
    const double share = 0.015 * m_pull->value();
    for (std::size_t o = 0; o < count; ++o) {
        const auto set = bySet.find(preview.sets[o]);
        const gp_XYZ own = set == bySet.end() ? middles[o] : set->second.first / set->second.second;
        preview.apart.emplace_back((own - centre) * share);
    }
}

BenchPreview JoinBench::preview() const {
    BenchPreview preview;
    if (page() != nullptr) {
        page()->addTo(preview);
        return preview;
    }
    if (kind() == JoinKind::Joined) {
        if (m_pull->value() == 0) addJoinedEdges(preview);  // they are where the bodies are, not where those are drawn
        addSets(preview);
    }
    const auto* all = report();
    if (all == nullptr) return preview;
    const Model& model = m_session.model();
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    // What would become one, in brass on both sides; of a chosen row only its own.
    std::map<std::size_t, std::set<int>> faces;
    for (std::size_t r = 0; r < m_rows.size(); ++r) {
        if (current >= 0 && static_cast<int>(r) != current) continue;
        if (current < 0 && isLeft(m_rows[r])) continue;
        if (kind() == JoinKind::Near && m_rows[r].gap > limit() * (1 + 1e-9)) continue;
        // One mark for a pair, at its narrowest: more would hide what they mark.
        std::map<std::pair<std::size_t, std::size_t>, std::size_t> marked;
        for (const std::size_t c : m_rows[r].contacts) {
            const join::Contact& contact = all->contacts[c];
            const auto [known, fresh] = marked.try_emplace({contact.placeA, contact.placeB}, c);
            if (!fresh && contact.gap < all->contacts[known->second].gap) known->second = c;
            if (contact.faceA > 0) faces[contact.placeA].insert(contact.faceA);
            if (contact.faceB > 0) faces[contact.placeB].insert(contact.faceB);
            for (const auto& [place, edge] :
                 {std::pair{contact.placeA, contact.edgeA}, {contact.placeB, contact.edgeB}})
                if (edge > 0 && place < model.occurrences.size() && !m_session.places().isHidden(place)) {
                    StageLine line;
                    line.points = edgePoints(model.parts[model.occurrences[place].part]->incidence(), edge);
                    for (gp_Pnt& point : line.points) point.Transform(model.occurrences[place].placement);
                    line.style = StageLine::Style::Brass;
                    if (line.points.size() > 1) preview.lines.push_back(std::move(line));
                }
        }
        for (const auto& [pair, c] : marked)
            preview.marks.push_back({all->contacts[c].where, false, static_cast<int>(r) == current,
                                     std::max(std::sqrt(all->contacts[c].area), 0.1 * all->contacts[c].length)});
    }
    for (const auto& [place, own] : faces) {
        if (place >= model.occurrences.size() || m_session.places().isHidden(place)) continue;
        const Occurrence& occurrence = model.occurrences[place];
        preview.goes.push_back({model.parts[occurrence.part], occurrence.placement, {own.begin(), own.end()}});
    }
    return preview;
}

}  // namespace rasoir::app
