#include "bench/flow_page.h"

#include <QHeaderView>
#include <QTimer>

#include "model/places.h"
#include "model/reference.h"
#include "session.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {

FlowPage::FlowPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* line = new QHBoxLayout;
    m_outer = new QCheckBox("Round bodies, by", this);
    m_outer->setObjectName("outerSpace");
    m_outer->setToolTip("The space outside, in a block round what is picked, or round all");
    m_clearance = new QDoubleSpinBox(this);
    m_clearance->setObjectName("outerClearance");
    m_clearance->setAccessibleName("Clearance on each side");
    m_clearance->setRange(0.001, 1e6);
    m_clearance->setDecimals(1);
    m_clearance->setSuffix(" mm");
    m_clearance->setValue(100.0);
    line->addWidget(m_outer);
    line->addWidget(m_clearance, 1);
    column->addLayout(line);
    for (const auto& again : {[this] {
             for (QWidget* own : std::initializer_list<QWidget*>{m_list, m_every, m_spaces, m_narrow, m_narrowField,
                                                                 m_longer, m_longerField})
                 own->setVisible(!isOuter());
             fillReach();
             fillLeaks();
             emit changed();
         }}) {
        connect(m_outer, &QCheckBox::toggled, this, again);
        connect(m_clearance, &QDoubleSpinBox::valueChanged, this, again);
    }
    auto* wholes = new QHBoxLayout;
    m_every = new QCheckBox("Every opening", this);
    m_every->setObjectName("everyLid");
    m_every->setToolTip("A lid on every opening");
    m_every->setChecked(true);
    wholes->addWidget(m_every);
    m_spaces = new QComboBox(this);
    m_spaces->setObjectName("spaces");
    m_spaces->setAccessibleName("Which closed spaces become bodies");
    m_spaces->setToolTip("The one of the seed, or each with a lid; closed cavities too, as what is said");
    for (const auto& [words, cavities] : {std::pair{"The one space", ""},
                                          {"Every space", ""},
                                          {"Also cavities: void", "void"},
                                          {"Also cavities: fluid", "fluid"},
                                          {"Also cavities: solid", "solid"}})
        m_spaces->addItem(words, cavities);
    connect(m_spaces, &QComboBox::currentIndexChanged, this, [this] { emit changed(); });
    wholes->addWidget(m_spaces, 1);
    column->addLayout(wholes);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("openings");
    m_list->setAccessibleName("Openings, marked where they get a lid");
    m_list->setColumnCount(2);
    m_list->setHeaderLabels({"Opening of", "Wide mm"});
    m_list->setRootIsDecorated(false);
    m_list->header()->setStretchLastSection(false);
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_list->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    column->addWidget(m_list, 2);
    m_lidByHand = new QPushButton(this);
    m_lidByHand->setObjectName("lidByHand");
    m_lidByHand->setToolTip("Edges that close to one flat loop, of one body or of several");
    m_lidByHand->hide();
    connect(m_lidByHand, &QPushButton::clicked, this, &FlowPage::addLidByHand);
    column->addWidget(m_lidByHand);
    column->addLayout(checkedNumber(m_narrow, m_narrowField, "Close up to", "closeNarrow"));
    m_narrowField->setSuffix(" mm");
    m_narrowField->setRange(0.001, 1e4);
    m_narrowField->setDecimals(3);
    m_narrowField->setValue(0.5);
    m_narrow->setToolTip(
        "Openings get a lid, gaps between flats and round pins a plug; nothing of it stays in the model");
    column->addLayout(checkedNumber(m_longer, m_longerField, "Lengthen lids by", "lengthenLids"));
    m_longerField->setSuffix(" diameters");
    m_longerField->setRange(0.1, 1000.0);
    m_longerField->setDecimals(1);
    m_longerField->setValue(5.0);
    m_longer->setToolTip("Each lid goes outwards by so many of its hydraulic diameters");
    m_reachBar = new CutBar("Reached within", "", this);
    m_reachBar->setMeasure("mm", false, "lit");
    m_reachBar->plot()->setFixedHeight(84);
    m_reachBar->hide();
    connect(m_reachBar, &CutBar::limitChanged, this, [this] { emit changed(); });
    connect(&m_session.surveys().reach, &WholeSurveyBase::changed, this, [this] {
        fillReach();
        look();  // for the leaks
        emit changed();
    });
    column->addWidget(m_reachBar);
    m_leaksSaid = new QLabel(this);
    m_leaksSaid->setWordWrap(true);
    column->addWidget(m_leaksSaid);
    m_leaks = twoColumns(this, "leaks", "Ways outside, the widest first", {"Gets outside", "Wide mm"});
    m_leaks->setWordWrap(true);
    m_leaks->setMinimumHeight(84);  // its head and a row of two lines
    m_list->setMinimumHeight(84);
    column->addWidget(m_leaks, 1);
    connect(m_leaks, &QTreeWidget::currentItemChanged, this, [this] {
        m_visited = 0;
        emit changed();
    });
    connect(m_leaks, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        // Again and again from one to the next.
        const std::vector<std::size_t> kind = currentLeaks();
        const join::LeakReport* found = report();
        if (!found || kind.empty() || item != m_leaks->currentItem()) return;
        const join::Leak& leak = found->leaks[kind[m_visited++ % kind.size()]];
        emit closerWanted(leak.where, std::max(20.0 * leak.width, m_session.model().targetSize));
    });
    connect(&m_session.surveys().leaks, &WholeSurveyBase::changed, this, [this] {
        fillLeaks();
        emit changed();
    });
    fillLeaks();
    connect(m_every, &QCheckBox::clicked, this, [this](bool on) {
        const QSignalBlocker quiet(m_list);
        for (int i = 0; i < static_cast<int>(m_numbers.size()); ++i)
            m_list->topLevelItem(i)->setCheckState(0, on ? Qt::Checked : Qt::Unchecked);
        m_withoutLid.clear();
        if (!on) m_withoutLid.insert(m_numbers.begin(), m_numbers.end());
        look();
        emit changed();
    });
    connect(m_list, &QTreeWidget::itemChanged, this, [this] {
        bool all = true;
        for (int i = 0; i < m_list->topLevelItemCount(); ++i) {
            const bool lid = m_list->topLevelItem(i)->checkState(0) == Qt::Checked;
            if (const std::size_t row = static_cast<std::size_t>(i); row >= m_numbers.size()) {
                m_byHand[row - m_numbers.size()].marked = lid;
                continue;
            }
            all = all && lid;
            if (lid)
                m_withoutLid.erase(m_numbers[static_cast<std::size_t>(i)]);
            else
                m_withoutLid.insert(m_numbers[static_cast<std::size_t>(i)]);
        }
        look();
        m_every->setChecked(all);
        emit changed();
    });
    connect(m_list, &QTreeWidget::currentItemChanged, this, [this] { emit changed(); });
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const join::Opening& opening = m_openings[static_cast<std::size_t>(m_list->indexOfTopLevelItem(item))];
        emit closerWanted(opening.middle, 3.0 * opening.hydraulicDiameter());
    });
    connect(&m_session.surveys().openings, &WholeSurveyBase::changed, this, [this] {
        m_withoutLid.clear();
        m_byHand.clear();  // their edges may have other numbers now
        fill();
        look();
        emit changed();
    });
}

QHBoxLayout* FlowPage::checkedNumber(QCheckBox*& check, QDoubleSpinBox*& field, const QString& words,
                                     const char* name) {
    auto* line = new QHBoxLayout;
    check = new QCheckBox(words, this);
    check->setObjectName(name);
    field = new QDoubleSpinBox(this);
    field->setAccessibleName(words);
    field->setEnabled(false);
    line->addWidget(check);
    line->addWidget(field, 1);
    connect(check, &QCheckBox::toggled, field, &QWidget::setEnabled);
    connect(check, &QCheckBox::toggled, this, [this] { emit changed(); });
    connect(field, &QDoubleSpinBox::valueChanged, this, [this] { emit changed(); });
    return line;
}

void FlowPage::look() {
    if (!isVisible() || isOuter() || !m_seed || !m_session.surveys().openings.found()) return;
    FlowWish wish{m_seed->first, m_seed->second, m_walls, {}, {}};
    for (std::size_t i = 0; i < m_openings.size(); ++i) {
        if (m_list->topLevelItem(static_cast<int>(i))->checkState(0) != Qt::Checked) continue;
        if (i < m_numbers.size())
            wish.lids.insert(m_numbers[i]);
        else
            wish.byHand.push_back(m_byHand[i - m_numbers.size()].edges);
    }
    m_session.surveys().lookAtFlow(wish);
    if (!m_session.surveys().reach.found()) fillReach();
    if (!m_session.surveys().leaks.found()) fillLeaks();
}

const join::ReachReport* FlowPage::reach() const {
    return m_session.surveys().reach.found() && *m_session.surveys().reach.found()
               ? &**m_session.surveys().reach.found()
               : nullptr;
}

void FlowPage::fillReach() {
    const join::ReachReport* found = reach();
    const bool shown = !isOuter() && m_seed.has_value() && found && !found->faces.empty();
    m_reachBar->setVisible(shown);
    if (!shown) return;
    std::vector<CutItem> ways;
    double farthest = 0.0;
    for (const join::ReachedFace& face : found->faces) {
        ways.push_back({std::max(face.way, 0.1 * m_session.model().targetSize), false});
        farthest = std::max(farthest, ways.back().size);
    }
    m_reachBar->setTargetSize(m_session.model().targetSize);
    m_reachBar->setItems(std::move(ways));
    m_reachBar->setLimit(farthest);
}

void FlowPage::addLidByHand() {
    auto made = join::openingOf(m_session.model(), m_pickedEdges);
    m_refused.clear();
    if (made) {
        m_byHand.push_back({m_pickedEdges, std::move(*made)});
        m_pickedEdges.clear();
        m_lidByHand->hide();
        fill();
        look();
    } else {
        m_refused = text(sentence(made.error()));
    }
    emit changed();
}

const join::LeakReport* FlowPage::report() const {
    return m_session.surveys().leaks.found() && *m_session.surveys().leaks.found()
               ? &**m_session.surveys().leaks.found()
               : nullptr;
}

std::vector<std::size_t> FlowPage::currentLeaks() const {
    const int row = m_leaks->indexOfTopLevelItem(m_leaks->currentItem());
    return row < 0 || row >= static_cast<int>(m_leakKinds.size()) ? std::vector<std::size_t>()
                                                                  : m_leakKinds[static_cast<std::size_t>(row)];
}

void FlowPage::fillLeaks() {
    const QSignalBlocker quiet(m_leaks);
    m_leaks->clear();
    m_leakKinds.clear();
    const join::LeakReport* found = report();
    const bool asked = !isOuter() && m_seed.has_value();
    m_leaksSaid->setVisible(asked);
    m_leaks->setVisible(asked && found && !found->leaks.empty());
    if (!asked) return;
    if (!found) {
        m_leaksSaid->setText(m_session.surveys().leaks.found()
                                 ? text(sentence(m_session.surveys().leaks.found()->error()))
                                 : QString("Looking for ways outside…"));
        return;
    }
    m_leaksSaid->setText(
        found->leaks.empty()
            ? QString("From there nothing wider than %1 mm leads outside.").arg(number(found->finest))
            : QString("From there it gets outside in %1%2:")
                  .arg(found->more ? QString("more than ") : QString(), text(counted(found->leaks.size(), "place"))));
    m_leakKinds = join::kindsOf(m_session.model(), found->leaks);
    for (const std::vector<std::size_t>& kind : m_leakKinds) {
        const join::Leak& leak = found->leaks[kind.front()];
        QString what = text(join::describe(m_session.model(), leak)).section(", ", 0, 0);
        if (kind.size() > 1) what += QString(", in %1 places").arg(kind.size());
        auto* row = new QTreeWidgetItem(m_leaks, {what, number(leak.width)});
        row->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        row->setToolTip(0,
                        "Double-click to fly there, again for the next. Join the two with a limit that wide, put a lid "
                        "on it, or close "
                        "what is narrower.");
    }
    wrapRows(m_leaks, 0);
    if (!found->leaks.empty()) m_leaks->setCurrentItem(m_leaks->topLevelItem(0));
}

void FlowPage::picksChanged(const std::vector<select::Pick>& picks) {
    m_seed.reset();
    m_pickedEdges.clear();
    m_refused.clear();
    for (const select::Pick& pick : picks) {
        if (pick.face > 0 && !m_seed) m_seed.emplace(pick.occurrence, pick.face);
        if (pick.edge > 0) m_pickedEdges.emplace_back(pick.occurrence, pick.edge);
    }
    m_lidByHand->setVisible(!m_pickedEdges.empty() && !isOuter());
    m_lidByHand->setText(QString("Lid on %1").arg(text(counted(m_pickedEdges.size(), "picked edge"))));
    fillReach();
    fillLeaks();
    look();
    emit changed();
}

void FlowPage::refresh() {
    if (isVisible()) m_session.surveys().openings.request();
    // A face that is picked marks its part as well, which does not make that the only wall; the pick itself may be told
    // only after the part.
    QTimer::singleShot(0, this, [this] {
        const auto& chosen = m_session.places().selected();
        const std::vector<std::size_t> walls =
            m_seed || !m_pickedEdges.empty() ? m_walls : std::vector<std::size_t>(chosen.begin(), chosen.end());
        if (walls == m_walls && m_filled == m_session.surveys().openings.found().has_value()) return;
        m_walls = walls;
        fill();
        look();
        emit changed();
    });
    look();
}

void FlowPage::addRow(const join::Opening& opening, const QString& what, bool lid) {
    QTreeWidgetItem* item = markedRow(m_list, what, number(opening.hydraulicDiameter()), lid);
    item->setToolTip(0, QString("%1 mm², at (%2, %3, %4)")
                            .arg(number(opening.area), number(opening.middle.X()), number(opening.middle.Y()),
                                 number(opening.middle.Z())));
}

void FlowPage::fill() {
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    m_openings.clear();
    m_numbers.clear();
    m_filled = m_session.surveys().openings.found().has_value();
    if (!m_session.surveys().openings.found()) return;
    const Model& model = m_session.model();
    for (std::size_t n = 0; n < m_session.surveys().openings.found()->size(); ++n) {
        const join::Opening& opening = (*m_session.surveys().openings.found())[n];
        if (!m_walls.empty() && std::find(m_walls.begin(), m_walls.end(), opening.place) == m_walls.end()) continue;
        if (opening.place >= model.occurrences.size()) continue;
        if (opening.inner) continue;  // from one channel into another: no fluid leaves there
        m_openings.push_back(opening);
        m_numbers.push_back(n);
        addRow(opening, text(placeName(model, opening.place)), !m_withoutLid.contains(n));
    }
    for (const LidByHand& lid : m_byHand) {
        m_openings.push_back(lid.opening);
        addRow(lid.opening, text(placeName(model, lid.opening.place)) + ", by hand", lid.marked);
    }
    m_every->setChecked(
        std::none_of(m_numbers.begin(), m_numbers.end(), [this](std::size_t n) { return m_withoutLid.contains(n); }));
}

QString FlowPage::answer() const {
    if (isOuter()) {
        const std::size_t count = m_session.places().selected().size();
        return QString("A block round %1, less the bodies, with a group for each side.")
            .arg(count == 0 ? QString("everything") : text(counted(count, "body", "bodies")));
    }
    if (!m_refused.isEmpty()) return m_refused;
    if (!m_session.surveys().openings.found()) return "Looking for openings…";
    const Model& model = m_session.model();
    if (m_seed && m_seed->first < model.occurrences.size())
        return QString("The fluid wets the picked face of %1.").arg(text(placeName(model, m_seed->first)));
    if (m_walls.size() == 1 && m_walls.front() < model.occurrences.size())
        return QString("Inside %1. Pick a face that the fluid wets; without one it is the largest space with a lid.")
            .arg(text(placeName(model, m_walls.front())));
    return "Pick a face that the fluid wets; without one it is the largest space with a lid.";
}

QString FlowPage::words() const {
    if (!step()) return "No opening has a lid";
    if (isOuter()) return "Make the space round them";
    return m_spaces->currentIndex() > 0 ? "Make all flow spaces" : "Make the flow space";
}

std::optional<BenchStep> FlowPage::step() const {
    if (isOuter()) {
        if (m_session.isEmpty()) return std::nullopt;
        const double gap = m_clearance->value();
        Json outside{{"name", "outer space"}, {"clearance", std::vector<double>(6, gap)}};
        const auto& picked = m_session.places().selected();
        if (!picked.empty()) outside["places"] = placeNames(m_session.model(), {picked.begin(), picked.end()});
        return BenchStep{"join.outerSpace", std::move(outside)};
    }
    if (!m_session.surveys().openings.found()) return std::nullopt;
    if (m_openings.empty() && m_spaces->currentData().toString().isEmpty()) return std::nullopt;
    const Model& model = m_session.model();
    Json parameters{{"name", "flow space"}};
    if (!m_walls.empty()) parameters["places"] = placeNames(model, m_walls);
    if (m_narrow->isChecked()) parameters["ignoreUpTo"] = m_narrowField->value();
    if (m_longer->isChecked()) parameters["lengthen"] = m_longerField->value();
    if (m_spaces->currentIndex() > 0) parameters["every"] = true;
    if (const QString cavities = m_spaces->currentData().toString(); !cavities.isEmpty())
        parameters["cavities"] = cavities.toStdString();
    if (!m_every->isChecked() || !m_byHand.empty()) {
        Json lids = Json::array();
        for (std::size_t i = 0; i < m_openings.size(); ++i) {
            if (m_list->topLevelItem(static_cast<int>(i))->checkState(0) != Qt::Checked) continue;
            const Loop loop = i < m_numbers.size() ? Loop{{m_openings[i].place, m_openings[i].edges.front()}}
                                                   : m_byHand[i - m_numbers.size()].edges;
            Json lid = Json::array();
            for (const auto& [place, edge] : loop)
                lid.push_back(makeRef(*model.parts[model.occurrences[place].part], {EntityKind::Edge, edge}));
            lids.push_back(std::move(lid));
        }
        if (lids.empty()) return std::nullopt;
        parameters["lids"] = std::move(lids);
    }
    if (m_seed && m_seed->first < model.occurrences.size())
        parameters["seed"] = makeFaceRef(*model.parts[model.occurrences[m_seed->first].part], m_seed->second);
    return BenchStep{"join.flowSpace", std::move(parameters)};
}

/// The faces reached up to the blade, those first that are near.
void FlowPage::addBands(BenchPreview& preview) const {
    const join::ReachReport* found = reach();
    if (!m_seed || !found || found->faces.empty()) return;
    constexpr std::size_t bandCount = 6;
    const Model& model = m_session.model();
    const double farthest = std::max(found->faces.back().way, 1e-9);
    std::vector<std::map<std::size_t, std::vector<int>>> faces(bandCount);  // by place
    for (const join::ReachedFace& face : found->faces) {
        if (face.place >= model.occurrences.size() || face.way > m_reachBar->limit() * (1.0 + 1e-6)) continue;
        const auto band = static_cast<std::size_t>(static_cast<double>(bandCount) * face.way / farthest);
        faces[std::min(band, bandCount - 1)][face.place].push_back(face.face);
    }
    for (const auto& band : faces) {
        preview.bands.emplace_back();
        for (const auto& [place, own] : band) {
            const Occurrence& occurrence = model.occurrences[place];
            preview.bands.back().push_back({model.parts[occurrence.part], occurrence.placement, own});
        }
    }
}

void FlowPage::addTo(BenchPreview& preview) const {
    if (isOuter()) return;
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    for (std::size_t i = 0; i < m_openings.size(); ++i)
        if (m_list->topLevelItem(static_cast<int>(i))->checkState(0) == Qt::Checked)
            preview.marks.push_back(
                {m_openings[i].middle, false, static_cast<int>(i) == current, 0.5 * m_openings[i].hydraulicDiameter()});
    addBands(preview);
    // The way outside from the seed, and the place where it is narrowest.
    const join::LeakReport* found = report();
    if (!m_seed || !found) return;
    for (const std::size_t l : currentLeaks()) {
        const join::Leak& leak = found->leaks[l];
        StageLine way;
        way.points = leak.way;
        way.style = StageLine::Style::Trouble;
        preview.lines.push_back(std::move(way));
        preview.marks.push_back({leak.where, false, true, leak.width});
    }
}

}  // namespace rasoir::app
