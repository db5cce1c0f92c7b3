#include "bench/reduce_bench.h"

#include "bench/bench_page.h"
#include "common/text.h"
#include "measure/mass.h"
#include "model/places.h"
#include "stage/part_presentation.h"
#include "theme.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// Just above the thickest wall; or, where thicknesses leave a stretch empty over which they grow threefold, its middle
/// on a log scale. Less than that is one body's walls of two thicknesses, and to take half of them takes none: the rest
/// of the body would be lost.
double proposedLimit(std::vector<double> sizes) {
    std::sort(sizes.begin(), sizes.end());
    double best = sizes.empty() ? 1.0 : 1.2 * sizes.back(), widest = 3.0;
    for (std::size_t i = 1; i < sizes.size(); ++i)
        if (const double stretch = sizes[i] / sizes[i - 1]; stretch > widest) {
            widest = stretch;
            best = std::sqrt(sizes[i] * sizes[i - 1]);
        }
    // A number that one would say: one, two or five of a decade, where that lies in the stretch as well.
    const bool between = !sizes.empty() && best < sizes.back();
    const double low = between ? best / std::sqrt(widest) : best / 1.15,
                 high = best * (between ? std::sqrt(widest) : 2);
    const double decade = std::pow(10.0, std::floor(std::log10(best)));
    for (const double step : {1.0, 2.0, 5.0, 10.0, 1.5, 3.0, 4.0, 6.0, 8.0})
        if (const double round = step * decade; round > low && round < high) return round;
    return best;
}

}  // namespace

ReduceBench::ReduceBench(Session& session, QWidget* parent)
    : LaidOutBench("Reduce", "What is thin, what is slender?",
                   "Makes sheets midway in thin walls, joined where walls meet, and beams of slender bodies.", session,
                   parent) {
    QVBoxLayout* column = lay({{"Walls", Glyph::Wall},
                               {"Beams", Glyph::Beam},
                               {"Lumps", Glyph::Lump},
                               {"Joints", Glyph::Gap},
                               {"By hand", Glyph::PartEdge},
                               {"Proof", Glyph::Lens},
                               {"Stiffeners", Glyph::Rib}});
    m_cutBar = new CutBar("Walls up to", "", this);
    m_cutBar->setMeasure("mm", false, "reduce");
    column->addWidget(m_cutBar);
    m_options = new QWidget(this);
    auto* options = new QVBoxLayout(m_options);
    options->setContentsMargins(0, 0, 0, 0);
    options->setSpacing(2);
    m_doubtful = new QCheckBox("also the doubtful ones", m_options);
    m_doubtful->setToolTip("Walls between a tenth and a fifth as thick as they are broad");
    m_doubtful->setObjectName("doubtful");
    options->addWidget(m_doubtful);
    auto* steps = new QHBoxLayout;
    steps->setSpacing(4);
    m_flush = new QLineEdit("0", m_options);
    m_flush->setObjectName("flushUpTo");
    m_flush->setAccessibleName("Steps made flush up to, in mm");
    m_flush->setMaximumWidth(60);
    m_flush->setToolTip(
        "Where the thickness changes by a step, one wall's middle is off the sheet.\nUp to this it is taken to lie on "
        "it; beyond, the sheet knows its offset.");
    steps->addWidget(new QLabel("Steps made flush up to", m_options));
    steps->addWidget(m_flush);
    steps->addWidget(new QLabel("mm", m_options));
    steps->addStretch(1);
    options->addLayout(steps);
    auto* others = new QHBoxLayout;
    others->setSpacing(4);
    m_steps = new QComboBox(m_options);
    m_steps->setObjectName("steps");
    m_steps->setAccessibleName("Steps in thickness");
    m_steps->addItems({"keep their offset", "bridged by a short sheet"});
    m_steps->setToolTip(
        "One sheet whose faces know how far their middle is off it,\nor a middle for each, and a short sheet across "
        "the step.");
    others->addWidget(new QLabel("Other steps", m_options));
    others->addWidget(m_steps, 1);
    options->addLayout(others);
    connect(m_steps, &QComboBox::currentIndexChanged, this, [this] {
        refresh();
        emit previewChanged();
    });
    column->addWidget(m_options);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("walls");
    m_list->setAccessibleName("Walls");
    m_list->setColumnCount(2);
    m_list->setHeaderLabels({"Thick mm", "What and where"});
    m_list->setRootIsDecorated(false);
    m_list->header()->setStretchLastSection(true);
    m_list->header()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
    column->addWidget(m_list, 1);
    m_beams = twoColumns(this, "beams", "Slender bodies", {"Body and section", "Long mm"});
    column->addWidget(m_beams, 1);
    m_lumps = twoColumns(this, "lumps", "Bodies by their mass", {"Body", "kg"});
    column->addWidget(m_lumps, 1);
    connect(m_lumps, &QTreeWidget::itemChanged, this, [this] {
        lumpsMarked();
        emit previewChanged();
    });
    m_flushPage = new FlushPage(session, m_cutBar, this);
    column->addWidget(m_flushPage, 1);
    connect(m_flushPage, &BenchPage::closerWanted, this, &Bench::closerWanted);
    connect(m_flushPage, &BenchPage::changed, this, [this] {
        if (kind() == ReduceKind::Joints) showFlush();
        emit previewChanged();
    });
    m_byHand = new ByHandPage(session, this);
    column->addWidget(m_byHand, 1);
    m_proof = new ProofPage(session, this);
    column->addWidget(m_proof, 1);
    m_stiffeners = new StiffenersPage(session, this);
    column->addWidget(m_stiffeners, 1);
    connect(m_stiffeners, &BenchPage::closerWanted, this, &Bench::closerWanted);
    connect(m_stiffeners, &BenchPage::changed, this, [this] {
        if (kind() == ReduceKind::Stiffeners) showStiffeners();
        emit previewChanged();
    });
    connect(m_proof, &ProofPage::closerWanted, this, &Bench::closerWanted);
    connect(m_proof, &ProofPage::changed, this, [this] {
        if (kind() == ReduceKind::Proof) setAnswer(m_proof->answer());
        emit previewChanged();
    });
    connect(m_byHand, &PickPage::changed, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(m_list, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item) {
        const auto row = static_cast<std::size_t>(m_list->indexOfTopLevelItem(item));
        if (row >= m_rows.size() || found() == nullptr) return;
        const bool on = item->checkState(0) == Qt::Checked;
        const std::pair key(m_rows[row].part, m_rows[row].wall);
        if (on == goesByRule(found()->at(key.first)[key.second]))
            m_byMark.erase(key);
        else
            m_byMark[key] = on;
        afterwards(this, [this] {
            refresh();
            emit previewChanged();
        });
    });
    connect(m_kinds, &KindGrid::chosen, this, [this](int) {
        // The blade is one for walls and for ends: each kind begins at its own proposal.
        m_limitChosen = false;
        m_flushPage->begin();
        refresh();
        emit previewChanged();
    });
    connect(m_beams, &QTreeWidget::itemChanged, this, [this] {
        refreshBeams();
        emit previewChanged();
    });
    connect(m_beams, &QTreeWidget::currentItemChanged, this, [this] { emit previewChanged(); });
    connect(&m_session.surveys().bars, &WholeSurveyBase::changed, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(m_cutBar, &CutBar::limitChanged, this, [this] {
        if (kind() == ReduceKind::Joints)
            m_flushPage->bladeMoved();
        else
            m_limitChosen = true;
        refresh();
        emit previewChanged();
    });
    connect(m_doubtful, &QCheckBox::toggled, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(m_flush, &QLineEdit::textChanged, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(m_list, &QTreeWidget::currentItemChanged, this, [this] { emit previewChanged(); });
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const auto row = static_cast<std::size_t>(m_list->indexOfTopLevelItem(item));
        if (row >= m_rows.size() || found() == nullptr) return;
        const reduce::Wall& wall = found()->at(m_rows[row].part)[m_rows[row].wall];
        for (const Occurrence& place : m_session.model().occurrences)
            if (place.part == m_rows[row].part) {
                emit closerWanted(wall.where.Transformed(place.placement), std::sqrt(wall.area));
                return;
            }
    });
    connect(&m_session.surveys().walls, &WholeSurveyBase::changed, this, [this] {
        m_byMark.clear();
        refresh();
        emit previewChanged();
    });
    connect(&m_session, &Session::opened, this, [this] { m_limitChosen = false; });
    refresh();
}

const std::map<std::size_t, std::vector<reduce::Wall>>* ReduceBench::found() const {
    return m_session.surveys().walls.found() ? &*m_session.surveys().walls.found() : nullptr;
}

void ReduceBench::showEvent(QShowEvent* event) {
    LaidOutBench::showEvent(event);
    m_session.surveys().walls.request();
    if (kind() == ReduceKind::Beams) m_session.surveys().bars.request();
    if (kind() == ReduceKind::Joints) m_session.surveys().notFlush.request();
}

std::vector<std::size_t> ReduceBench::markedIn(const QTreeWidget* list) {
    std::vector<std::size_t> marked;
    for (int i = 0; i < list->topLevelItemCount(); ++i)
        if (list->topLevelItem(i)->checkState(0) == Qt::Checked)
            marked.push_back(list->topLevelItem(i)->data(0, Qt::UserRole).toULongLong());
    return marked;
}

void ReduceBench::refreshLumps() {
    const Model& model = m_session.model();
    const auto marked = markedIn(m_lumps);
    const auto picked = m_session.places().selectedParts();
    std::vector<std::pair<double, std::size_t>> rows;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const PartKnowledge* known = m_session.knowledge(p);
        if (model.isAside(p) || model.parts[p]->lump || model.parts[p]->kind() != BodyKind::Solid) continue;
        if (known == nullptr || !known->facts) continue;
        rows.emplace_back(measure::massOf(model, *model.parts[p], *known->facts).mass, p);
    }
    std::stable_sort(rows.begin(), rows.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    {
        const QSignalBlocker quiet(m_lumps);
        m_lumps->clear();
        for (const auto& [mass, p] : rows) {
            auto* item = new QTreeWidgetItem(m_lumps, {text(model.parts[p]->name), number(mass)});
            item->setData(0, Qt::UserRole, static_cast<qulonglong>(p));
            item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
            const bool on = picked.contains(p) || std::find(marked.begin(), marked.end(), p) != marked.end();
            item->setCheckState(0, on ? Qt::Checked : Qt::Unchecked);
            item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        }
    }
    lumpsMarked();
}

void ReduceBench::lumpsMarked() {
    const std::size_t count = markedIn(m_lumps).size();
    setAnswer(m_session.isEmpty()
                  ? QString("Open a file; its bodies will be listed here by their mass.")
                  : QString("Mark what shall only weigh: a lump keeps mass, centre and inertia, tied to the "
                            "faces that held it."));
    button()->setText(count > 0 ? QString("Make lumps of %1").arg(text(counted(count, "part")))
                                : QString("No body is marked"));
    button()->setEnabled(count > 0 && !m_session.isBusy());
    emit stateChanged();
}

void ReduceBench::showFlush() {
    setAnswer(m_flushPage->answer());
    m_kinds->setCount(static_cast<int>(ReduceKind::Joints), m_flushPage->count());
    button()->setText(m_flushPage->words());
    button()->setEnabled(m_flushPage->step().has_value() && !m_session.isBusy());
    emit stateChanged();
}

QString ReduceBench::state() const {
    if (m_session.isEmpty()) return "no file";
    if (found() == nullptr) return "no survey";
    std::size_t thin = 0;
    for (const auto& [part, walls] : *found())
        thin += static_cast<std::size_t>(std::count_if(walls.begin(), walls.end(), [](const reduce::Wall& wall) {
            return wall.slenderness == reduce::Slenderness::Thin;
        }));
    return thin > 0 ? QString("%1 thin").arg(thin) : QString("nothing thin");
}

bool ReduceBench::goes(const Row& row) const {
    const auto marked = m_byMark.find({row.part, row.wall});
    return marked != m_byMark.end() ? marked->second : goesByRule(found()->at(row.part)[row.wall]);
}

void ReduceBench::picksChanged(const std::vector<select::Pick>& picks) {
    m_picks = picks;
    if (kind() != ReduceKind::ByHand) return;
    refresh();
    emit previewChanged();
}

bool ReduceBench::goesByRule(const reduce::Wall& wall) const {
    return wall.thickness <= m_cutBar->limit() * (1 + 1e-6) && wall.thickness >= m_cutBar->from() * (1 - 1e-6) &&
           (wall.slenderness == reduce::Slenderness::Thin ||
            (wall.slenderness == reduce::Slenderness::Doubtful && m_doubtful->isChecked()));
}

void ReduceBench::showKind(ReduceKind kind) {
    m_kinds->setCurrent(static_cast<int>(kind));
    emit m_kinds->chosen(static_cast<int>(kind));
}

std::vector<BenchDeed> ReduceBench::deeds() {
    return {{"Show thin walls", {}, [this](const auto&) { showKind(ReduceKind::Walls); }},
            {"Show slender bodies", {}, [this](const auto&) { showKind(ReduceKind::Beams); }},
            {"Make lumps", {}, [this](const auto&) { showKind(ReduceKind::Lumps); }},
            {"Put beams on sheets", {}, [this](const auto&) { showKind(ReduceKind::Stiffeners); }},
            {"Make sheets flush, join them", {}, [this](const auto&) { showKind(ReduceKind::Joints); }},
            {"Hold sheets and beams against their solids", {}, [this](const auto&) { showKind(ReduceKind::Proof); }},
            {"Carry edges of sheets on, cut them back, set thickness", {}, [this](const auto& picks) {
                 m_picks = picks;
                 showKind(ReduceKind::ByHand);
             }}};
}

std::vector<std::size_t> ReduceBench::chosenBars() const {
    return m_session.surveys().bars.found() ? markedIn(m_beams) : std::vector<std::size_t>{};
}

QTreeWidgetItem* ReduceBench::frameRow(const std::vector<reduce::Slender>& bars, std::size_t part) {
    double length = 0.0;
    std::size_t members = 0;
    for (const reduce::Slender& bar : bars)
        if (bar.part == part) {
            length += bar.length();
            ++members;
        }
    auto* row = new QTreeWidgetItem(
        m_beams,
        {QString("%1: %2 members").arg(text(m_session.model().parts[part]->name)).arg(members), number(length)});
    row->setData(0, Qt::UserRole, static_cast<qulonglong>(part));
    row->setFlags(row->flags() | Qt::ItemIsUserCheckable);
    row->setCheckState(0, Qt::Checked);
    row->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
    return row;
}

void ReduceBench::refreshBeams() {
    const std::size_t count = chosenBars().size();
    setAnswer(m_session.isEmpty()                 ? QString("Open a file; its slender bodies will be listed here.")
              : !m_session.surveys().bars.found() ? QString("Looking for slender bodies…")
              : m_beams->topLevelItemCount() == 0
                  ? QString("Nothing here is a bar of one section, five times as long as deep.")
                  : QString("Ten times as long as deep is slender; shorter ones are not marked."));
    button()->setText(count > 0 ? QString("Make beams of %1").arg(text(counted(count, "part")))
                                : QString("No bar is marked"));
    button()->setEnabled(count > 0 && !m_session.isBusy());
    emit stateChanged();
}

void ReduceBench::refresh() {
    const bool beams = kind() == ReduceKind::Beams;
    const bool joints = kind() == ReduceKind::Joints;
    m_beams->setVisible(beams);
    const bool lumps = kind() == ReduceKind::Lumps;
    m_flushPage->setVisible(joints);
    m_lumps->setVisible(lumps);
    const bool byHand = kind() == ReduceKind::ByHand;
    const bool proof = kind() == ReduceKind::Proof;
    button()->setVisible(!proof);
    resultSwitch()->setVisible(!proof);
    const bool stiffeners = kind() == ReduceKind::Stiffeners;
    m_list->setVisible(!beams && !joints && !lumps && !byHand && !proof && !stiffeners);
    m_stiffeners->setVisible(stiffeners);
    m_byHand->setVisible(byHand);
    m_proof->setVisible(proof);
    if (proof) {
        m_cutBar->hide();
        m_options->hide();
        m_proof->refresh();
        setAnswer(m_proof->answer());
        emit stateChanged();
        return;
    }
    if (stiffeners) {
        m_cutBar->hide();
        m_options->hide();
        m_stiffeners->refresh();
        showStiffeners();
        return;
    }
    if (byHand) {
        m_cutBar->hide();
        m_options->hide();
        m_byHand->setPicks(m_picks, {});
        setAnswer({});
        button()->setText(m_byHand->words());
        button()->setEnabled(m_byHand->step().has_value() && !m_session.isBusy());
        emit stateChanged();
        return;
    }
    if (lumps) {
        m_cutBar->hide();
        m_options->hide();
        refreshLumps();
        return;
    }
    m_cutBar->setMeasure("mm", false, joints ? "are met" : "reduce");
    if (joints) {
        m_options->hide();
        m_flushPage->refresh();
        showFlush();
        return;
    }
    m_cutBar->setWords("Walls");
    m_kinds->setCount(1, m_session.surveys().bars.found()
                             ? std::optional(static_cast<int>(m_session.surveys().bars.found()->size()))
                             : std::nullopt);
    if (beams) {
        m_cutBar->hide();
        m_options->hide();
        if (isVisible()) m_session.surveys().bars.request();
        const auto picked = m_session.places().selectedParts();
        {
            const QSignalBlocker quiet(m_beams);
            m_beams->clear();
            m_beams->setRootIsDecorated(false);
            QTreeWidgetItem* frame = nullptr;  // that the members which follow belong to
            if (m_session.surveys().bars.found())
                for (const reduce::Slender& bar : *m_session.surveys().bars.found()) {
                    if (!picked.empty() && !picked.contains(bar.part)) continue;
                    const Section& section = bar.section.section;
                    QString what = text(section.shape);
                    for (std::size_t i = 0; i < section.sizes.size(); ++i)
                        what += (i == 0 ? " " : " × ") + number(section.sizes[i]);
                    const QString name = text(m_session.model().parts[bar.part]->name);
                    if (bar.member == 1) {
                        frame = frameRow(*m_session.surveys().bars.found(), bar.part);
                        m_beams->setRootIsDecorated(true);
                    }
                    what = (bar.member > 0 ? QString("Member %1").arg(bar.member) : name) + ", " + what;
                    auto* item = bar.member > 0 ? new QTreeWidgetItem(frame, {what, number(bar.length())})
                                                : new QTreeWidgetItem(m_beams, {what, number(bar.length())});
                    item->setData(0, Qt::UserRole, static_cast<qulonglong>(bar.part));
                    if (bar.member == 0) {
                        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
                        item->setCheckState(0, bar.ratio >= 10.0 ? Qt::Checked : Qt::Unchecked);
                    }
                    item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
                    item->setToolTip(0, QString("%1, %2 times as long as deep; area %3 mm²")
                                            .arg(what, number(std::round(bar.ratio)), number(section.area)));
                }
        }
        refreshBeams();
        return;
    }
    if (isVisible()) m_session.surveys().walls.request();
    const Model& model = m_session.model();
    const auto selected = m_session.places().selectedParts();
    m_rows.clear();
    std::vector<CutItem> items;
    std::vector<double> sizes;
    if (found() != nullptr)
        for (const auto& [part, walls] : *found()) {
            if (!selected.empty() ? !selected.contains(part) : model.isAside(part)) continue;
            for (std::size_t w = 0; w < walls.size(); ++w) {
                if (walls[w].slenderness == reduce::Slenderness::Thick) continue;
                m_rows.push_back({part, w});
                if (walls[w].slenderness == reduce::Slenderness::Thin || m_doubtful->isChecked())
                    items.push_back({walls[w].thickness, false});
                sizes.push_back(walls[w].thickness);
            }
        }
    std::stable_sort(m_rows.begin(), m_rows.end(), [this](const Row& a, const Row& b) {
        return found()->at(a.part)[a.wall].thickness < found()->at(b.part)[b.wall].thickness;
    });
    m_cutBar->setTargetSize(model.targetSize);
    m_cutBar->setItems(std::move(items));
    if (!m_limitChosen && !sizes.empty()) m_cutBar->setLimit(proposedLimit(sizes));
    m_cutBar->setVisible(!m_rows.empty());
    m_options->setVisible(!m_rows.empty());
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    std::set<std::size_t> parts;
    std::size_t count = 0;
    for (const Row& row : m_rows) {
        const reduce::Wall& wall = found()->at(row.part)[row.wall];
        const QString kind = wall.slenderness == reduce::Slenderness::Doubtful ? "doubtful, " : "";
        auto* item =
            new QTreeWidgetItem(m_list, {number(wall.thickness), kind + text(model.parts[row.part]->name) + ", " +
                                                                     number(std::round(wall.area)) + " mm²"});
        item->setTextAlignment(0, Qt::AlignRight | Qt::AlignVCenter);
        item->setToolTip(1, item->text(1));
        QFont font = item->font(0);
        font.setBold(goes(row));
        item->setFont(0, font);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(0, goes(row) ? Qt::Checked : Qt::Unchecked);
        item->setForeground(1, goes(row) ? colours().ink : colours().second);
        if (goes(row)) {
            parts.insert(row.part);
            ++count;
        }
    }
    // What makes no wall and ends none, with why: without a mark, since no sheet can be made of it so.
    m_withoutWall.clear();
    constexpr std::size_t most = 300;
    for (const std::size_t part : parts)
        for (const reduce::FaceWithoutWall& face : reduce::facesWithoutWall(*model.parts[part], found()->at(part))) {
            if (m_withoutWall.size() == most) break;
            m_withoutWall.emplace_back(part, face.face);
            auto* item = new QTreeWidgetItem(
                m_list, {QString("–"), "no wall: " + text(face.why) + ", " + text(model.parts[part]->name) + ", " +
                                           number(std::round(face.area)) + " mm²"});
            item->setTextAlignment(0, Qt::AlignRight | Qt::AlignVCenter);
            item->setToolTip(1, item->text(1));
            item->setForeground(1, colours().second);
        }
    if (current >= 0 && current < m_list->topLevelItemCount()) m_list->setCurrentItem(m_list->topLevelItem(current));
    m_kinds->setCount(0, found() != nullptr ? std::optional(static_cast<int>(m_rows.size())) : std::nullopt);
    setAnswer(m_session.isEmpty()  ? QString("Open a file; its thin walls will be listed here.")
              : found() == nullptr ? QString("Looking for walls…")
              : m_rows.empty()     ? QString("Nothing here is thin for its breadth.")
                                   : QString());
    button()->setText(
        count > 0 && !step() ? QString("A number is missing")
        : count > 0
            ? QString("Make sheets of %1 in %2").arg(text(counted(count, "wall")), text(counted(parts.size(), "part")))
            : QString("No wall that thin"));
    button()->setEnabled(step().has_value() && !m_session.isBusy());
    emit stateChanged();
}

void ReduceBench::showStiffeners() {
    setAnswer(m_stiffeners->answer());
    m_kinds->setCount(static_cast<int>(ReduceKind::Stiffeners), m_stiffeners->count());
    button()->setText(m_stiffeners->words());
    button()->setEnabled(m_stiffeners->step().has_value() && !m_session.isBusy());
    emit stateChanged();
}

std::optional<BenchStep> ReduceBench::step() const {
    if (kind() == ReduceKind::Stiffeners) return m_stiffeners->step();
    if (kind() == ReduceKind::Proof) return std::nullopt;
    if (kind() == ReduceKind::ByHand) return m_byHand->step();
    if (kind() == ReduceKind::Beams) {
        std::vector<std::string> names;
        double ratio = 10.0;
        for (const std::size_t p : chosenBars()) {
            names.push_back(m_session.model().parts[p]->name);
            for (const reduce::Slender& bar : *m_session.surveys().bars.found())
                if (bar.part == p && bar.ratio < ratio) ratio = 5.0;
        }
        if (names.empty()) return std::nullopt;
        return BenchStep{"reduce.beams", {{"parts", names}, {"leastRatio", ratio}}};
    }
    if (kind() == ReduceKind::Lumps) {
        std::vector<std::string> names;
        for (const std::size_t p : markedIn(m_lumps)) names.push_back(m_session.model().parts[p]->name);
        if (names.empty()) return std::nullopt;
        return BenchStep{"reduce.lump", {{"parts", names}}};
    }
    if (kind() == ReduceKind::Joints) return m_flushPage->step();
    if (found() == nullptr) return std::nullopt;
    std::vector<std::string> parts;
    std::set<std::size_t> seen;
    for (const Row& row : m_rows)
        if (goes(row) && seen.insert(row.part).second) parts.push_back(m_session.model().parts[row.part]->name);
    if (parts.empty()) return std::nullopt;
    Json parameters{{"parts", parts}, {"upTo", m_cutBar->limit()}};
    if (m_cutBar->from() > 0.0) parameters["from"] = m_cutBar->from();
    if (m_doubtful->isChecked()) parameters["doubtful"] = true;
    const auto flush =
        parseLength(m_flush->text().trimmed().toStdString(), Unit::Millimetre, m_session.model().targetSize);
    if (!flush || *flush < 0.0) return std::nullopt;
    if (*flush > 0.0) parameters["flushUpTo"] = *flush;
    if (m_steps->currentIndex() == 1) parameters["steps"] = "bridge";
    for (const auto& [key, on] : m_byMark) {
        // A part none of whose walls goes is not in the step.
        if (!seen.contains(key.first)) continue;
        const reduce::Wall& wall = found()->at(key.first)[key.second];
        const Part& part = *m_session.model().parts[key.first];
        parameters[on ? "pairs" : "notPairs"].push_back(
            Json{makeFaceRef(part, wall.sideA.front()), makeFaceRef(part, wall.sideB.front())});
    }
    return BenchStep{"reduce.midsurface", std::move(parameters)};
}

BenchPreview ReduceBench::preview() const {
    BenchPreview preview;
    if (kind() == ReduceKind::Proof) return m_proof->preview();
    if (kind() == ReduceKind::Stiffeners) {
        m_stiffeners->addTo(preview);
        return preview;
    }
    if (kind() == ReduceKind::ByHand) {
        preview.lines = m_byHand->lines();
        return preview;
    }
    if (kind() == ReduceKind::Beams) {
        if (!m_session.surveys().bars.found()) return preview;
        const auto chosen = chosenBars();
        for (const reduce::Slender& bar : *m_session.surveys().bars.found()) {
            if (std::find(chosen.begin(), chosen.end(), bar.part) == chosen.end()) continue;
            for (std::size_t o = 0; o < m_session.model().occurrences.size(); ++o) {
                const Occurrence& place = m_session.model().occurrences[o];
                if (place.part != bar.part || m_session.places().isHidden(o)) continue;
                StageLine line;
                line.style = StageLine::Style::Brass;
                for (const reduce::BarPiece& piece : bar.line.pieces()) {
                    const int steps = piece.turn == 0.0 ? 1 : 16;
                    for (int i = 0; i <= steps; ++i)
                        line.points.push_back(piece.at(piece.length() * i / steps).Transformed(place.placement));
                }
                preview.lines.push_back(std::move(line));
            }
        }
        return preview;
    }
    if (kind() == ReduceKind::Lumps) {
        const auto marked = markedIn(m_lumps);
        for (std::size_t o = 0; o < m_session.model().occurrences.size(); ++o)
            if (std::find(marked.begin(), marked.end(), m_session.model().occurrences[o].part) != marked.end() &&
                !m_session.places().isHidden(o))
                preview.going.push_back(o);
        return preview;
    }
    if (kind() == ReduceKind::Joints) {
        m_flushPage->addTo(preview);
        return preview;
    }
    if (found() == nullptr) return preview;
    const Model& model = m_session.model();
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    if (current >= static_cast<int>(m_rows.size())) {
        const auto& [part, face] = m_withoutWall[static_cast<std::size_t>(current) - m_rows.size()];
        for (std::size_t o = 0; o < model.occurrences.size(); ++o)
            if (model.occurrences[o].part == part && !m_session.places().isHidden(o))
                preview.kept.push_back({model.parts[part], model.occurrences[o].placement, {face}});
        return preview;
    }
    // Each wall in a tone of its own, as far as tones can be told apart: beside each other are hardly ever two of one.
    constexpr std::size_t tones = 6;
    std::vector<std::map<std::size_t, std::set<int>>> faces;  // by tone and part
    std::size_t shown = 0;
    for (std::size_t r = 0; r < m_rows.size(); ++r) {
        const reduce::Wall& wall = found()->at(m_rows[r].part)[m_rows[r].wall];
        if (current >= 0 ? static_cast<int>(r) != current : !goes(m_rows[r])) continue;
        const std::size_t tone = shown++ % tones;
        if (faces.size() <= tone) faces.emplace_back();
        faces[tone][m_rows[r].part].insert(wall.sideA.begin(), wall.sideA.end());
        faces[tone][m_rows[r].part].insert(wall.sideB.begin(), wall.sideB.end());
    }
    for (const auto& ofTone : faces) {
        std::vector<PreviewFaces> band;
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
            const auto own = ofTone.find(model.occurrences[o].part);
            if (own == ofTone.end() || m_session.places().isHidden(o)) continue;
            band.push_back(
                {model.parts[own->first], model.occurrences[o].placement, {own->second.begin(), own->second.end()}});
        }
        preview.bands.push_back(std::move(band));
    }
    return preview;
}

}  // namespace rasoir::app
