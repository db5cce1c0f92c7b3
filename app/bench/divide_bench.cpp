#include "bench/divide_bench.h"

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepTools.hxx>
#include <ElSLib.hxx>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <TopoDS.hxx>

#include "model/places.h"
#include "model/reference.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// A length that may be negative: "-12.5", "3 in".
std::optional<double> signedLength(QString typed, double targetSize) {
    typed = typed.trimmed();
    typed.replace(QChar(0x2212), '-');  // the true minus that is shown
    typed.remove(QChar(0x2009));
    const bool negative = typed.startsWith('-');
    if (negative) typed.remove(0, 1);
    const auto length = parseLength(typed.toStdString(), Unit::Millimetre, targetSize);
    if (!length) return std::nullopt;
    return negative ? -*length : *length;
}

QLineEdit* field(const char* name, const char* spoken, QWidget* parent) {
    auto* edit = new QLineEdit(parent);
    edit->setObjectName(name);
    edit->setAccessibleName(spoken);
    return edit;
}

/// The four corners of a plane across a box, a little outside it.
std::vector<gp_Pnt> frameOf(const gp_Pln& plane, const Bnd_Box& box) {
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    double u0 = 1e300, u1 = -1e300, v0 = 1e300, v1 = -1e300;
    for (int corner = 0; corner < 8; ++corner) {
        double u = 0.0, v = 0.0;
        ElSLib::Parameters(
            plane,
            gp_Pnt(corner & 1 ? high.X() : low.X(), corner & 2 ? high.Y() : low.Y(), corner & 4 ? high.Z() : low.Z()),
            u, v);
        u0 = std::min(u0, u);
        u1 = std::max(u1, u);
        v0 = std::min(v0, v);
        v1 = std::max(v1, v);
    }
    const double margin = 0.06 * std::max(u1 - u0, v1 - v0);
    return {ElSLib::Value(u0 - margin, v0 - margin, plane), ElSLib::Value(u1 + margin, v0 - margin, plane),
            ElSLib::Value(u1 + margin, v1 + margin, plane), ElSLib::Value(u0 - margin, v1 + margin, plane)};
}

}  // namespace

double DivideBench::Cutter::number() const {
    if (axis < 0) return shift;
    const gp_XYZ at = now().Location().XYZ();
    return at.Coord(axis + 1);
}

DivideBench::DivideBench(Session& session, Selection& selection, QWidget* parent)
    : LaidOutBench("Divide", "Where do loads and materials change?",
                   "Cuts bodies, parts faces and edges, unites, subtracts; cross-sections and symmetry.", session,
                   parent),
      m_selection(selection) {
    QVBoxLayout* column = lay({{"Cut", Glyph::Cut},
                               {"Unite", Glyph::Unite},
                               {"Subtract", Glyph::Subtract},
                               {"Intersect", Glyph::Intersect},
                               {"Block round", Glyph::Surround},
                               {"Part face", Glyph::PartFace},
                               {"Part edge", Glyph::PartEdge},
                               {"Section", Glyph::Section},
                               {"Symmetry", Glyph::Symmetry}});

    m_cutPage = new QWidget(this);
    auto* cut = new QVBoxLayout(m_cutPage);
    cut->setContentsMargins(0, 0, 0, 0);
    cut->setSpacing(4);
    auto* add = new QHBoxLayout;
    int axis = 0;
    for (const char* name : {"x", "y", "z"}) {
        auto* button = new QPushButton(QString("Across %1").arg(name), m_cutPage);
        button->setObjectName(QString("across%1").arg(QString(name).toUpper()));
        button->setToolTip(QString("A plane square to %1, through the middle of what is selected").arg(name));
        connect(button, &QPushButton::clicked, this, [this, axis] { addAcross(axis); });
        add->addWidget(button);
        ++axis;
    }
    cut->addLayout(add);
    auto* picked = new QPushButton("From what is picked", m_cutPage);
    picked->setObjectName("cutterFromPicks");
    picked->setToolTip("Along a flat face, or through three vertices");
    connect(picked, &QPushButton::clicked, this, &DivideBench::addFromPicks);
    cut->addWidget(picked);
    m_list = new QTreeWidget(m_cutPage);
    m_list->setObjectName("cutters");
    m_list->setAccessibleName("Cutters");
    m_list->setColumnCount(2);
    m_list->setHeaderLabels({"Cutter", "mm"});
    m_list->setRootIsDecorated(false);
    m_list->header()->setStretchLastSection(false);
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_list->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    m_list->installEventFilter(this);
    m_list->setMaximumHeight(150);
    cut->addWidget(m_list);
    auto* placed = new QHBoxLayout;
    m_positionLabel = new QLabel("Position", m_cutPage);
    m_position = field("cutterPosition", "Position of the cutter", m_cutPage);
    placed->addWidget(m_positionLabel);
    placed->addWidget(m_position, 1);
    cut->addLayout(placed);
    auto* kept = new QHBoxLayout;
    m_keep = new QComboBox(m_cutPage);
    m_keep->setObjectName("keepSide");
    m_keep->setAccessibleName("What is kept");
    m_keep->addItems({"both sides stay", "above all planes stays", "below all planes stays"});
    kept->addWidget(m_keep, 1);
    cut->addLayout(kept);
    auto* grouped = new QHBoxLayout;
    m_group = field("cutGroup", "Group of the cut faces", m_cutPage);
    m_group->setPlaceholderText("none");
    grouped->addWidget(new QLabel("Group of the cut faces", m_cutPage));
    grouped->addWidget(m_group, 1);
    cut->addLayout(grouped);
    m_met = new QLabel(m_cutPage);
    m_met->setObjectName("met");
    m_met->setWordWrap(true);
    cut->addWidget(m_met);
    cut->addStretch(1);
    column->addWidget(m_cutPage, 1);

    m_bodyPage = new QWidget(this);
    auto* body = new QVBoxLayout(m_bodyPage);
    body->setContentsMargins(0, 0, 0, 0);
    body->setSpacing(4);
    m_bodyHint = new QLabel(m_bodyPage);
    m_bodyHint->setWordWrap(true);
    body->addWidget(m_bodyHint);
    m_bodies = new QTreeWidget(m_bodyPage);
    m_bodies->setObjectName("bodies");
    m_bodies->setAccessibleName("Bodies, in the order they were picked");
    m_bodies->setColumnCount(1);
    m_bodies->setHeaderHidden(true);
    m_bodies->setRootIsDecorated(false);
    body->addWidget(m_bodies, 1);
    auto* round = new QHBoxLayout;
    m_by = new QComboBox(m_bodyPage);
    m_by->setObjectName("surroundBy");
    m_by->setAccessibleName("Shape of what goes round");
    m_by->addItems({"block", "cylinder", "ball"});
    m_clearanceLabel = new QLabel("Clearance mm", m_bodyPage);
    m_clearance = field("clearance", "Clearance on each side", m_bodyPage);
    m_clearance->setText("10");
    m_clearance->setToolTip("One number for all sides, or six: -x +x -y +y -z +z");
    round->addWidget(m_by);
    round->addWidget(m_clearanceLabel);
    round->addWidget(m_clearance, 1);
    body->addLayout(round);
    m_option = new QCheckBox(m_bodyPage);
    m_option->setObjectName("bodyOption");
    body->addWidget(m_option);
    column->addWidget(m_bodyPage, 1);

    m_outline = new OutlinePage(session, this);
    m_symmetry = new SymmetryPage(session, this);
    m_pages = {{DivideKind::PartFace, m_outline},
               {DivideKind::PartEdge, new PartEdgePage(session, this)},
               {DivideKind::Section, new SectionPage(session, this)},
               {DivideKind::Symmetry, m_symmetry}};
    for (const auto& [kind, page] : m_pages) {
        page->hide();
        column->addWidget(page, 1);
        connect(page, &PickPage::changed, this, [this] {
            refresh();
            emit previewChanged();
        });
    }

    connect(m_list, &QTreeWidget::currentItemChanged, this, [this] { refreshCutters(); });
    connect(m_position, &QLineEdit::editingFinished, this, [this] {
        const auto typed = signedLength(m_position->text(), m_session.model().targetSize);
        if (typed)
            setNumber(*typed);
        else
            refreshCutters();
    });
    for (QLineEdit* edit : {m_group, m_clearance})
        connect(edit, &QLineEdit::editingFinished, this, [this] {
            refresh();
            emit previewChanged();
        });
    for (QComboBox* box : {m_keep, m_by})
        connect(box, &QComboBox::activated, this, [this] {
            refresh();
            emit previewChanged();
        });
    connect(m_option, &QCheckBox::toggled, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(&m_session, &Session::opened, this, [this] {
        m_cutters.clear();
        refresh();
    });
    connect(m_kinds, &KindGrid::chosen, this, [this] { m_option->setChecked(false); });
    refresh();
}

QString DivideBench::state() const {
    return stateOr(true, m_cutters.empty() ? QString("ready") : text(counted(m_cutters.size(), "cutter")));
}

std::vector<BenchDeed> DivideBench::deeds() {
    std::vector<BenchDeed> all;
    for (const int axis : {0, 1, 2})
        all.push_back({QString("Cut across %1").arg(QChar("xyz"[axis])), {}, [this, axis](const auto&) {
                           showKind(DivideKind::Cut);
                           addAcross(axis);
                       }});
    all.push_back({"Cut along what is picked", {}, [this](const auto& picks) {
                       showKind(DivideKind::Cut);
                       picksChanged(picks);
                       addFromPicks();
                   }});
    for (const auto& [name, kind] : {std::pair{"Unite bodies", DivideKind::Unite},
                                     {"Subtract bodies", DivideKind::Subtract},
                                     {"Intersect bodies", DivideKind::Intersect},
                                     {"Put a block round bodies", DivideKind::Surround},
                                     {"Part a face", DivideKind::PartFace},
                                     {"Part edges", DivideKind::PartEdge},
                                     {"Make a cross-section", DivideKind::Section},
                                     {"Look for symmetries", DivideKind::Symmetry}})
        all.push_back({name, {}, [this, kind = kind](const auto&) { showKind(kind); }});
    for (const bool apart : {false, true})
        all.push_back({apart ? "Mesh what is picked apart again" : "Mesh what is picked as one",
                       {},
                       [this, apart](const std::vector<select::Pick>& picks) { meshAsOne(picks, apart); }});
    return all;
}

void DivideBench::meshAsOne(const std::vector<select::Pick>& picks, bool apart) {
    const Model& model = m_session.model();
    Json things = Json::array();
    for (const select::Pick& pick : picks) {
        const Part& part = *model.parts[model.occurrences[pick.occurrence].part];
        if (pick.face > 0) things.push_back(makeRef(part, {EntityKind::Face, pick.face}));
        if (pick.edge > 0) things.push_back(makeRef(part, {EntityKind::Edge, pick.edge}));
    }
    Json parameters{{"things", std::move(things)}};
    if (apart) parameters["apart"] = true;
    m_session.apply("divide.asOne", parameters);
}

void DivideBench::showKind(DivideKind kind) {
    m_kinds->setCurrent(static_cast<int>(kind));
    emit m_kinds->chosen(static_cast<int>(kind));
}

std::vector<std::string> DivideBench::names() const {
    const auto& selected = m_session.selectedOccurrences();
    if (selected.empty()) return {};
    return placeNames(m_session.model(), {selected.begin(), selected.end()});
}

Bnd_Box DivideBench::boxOfWanted() const {
    Bnd_Box box;
    const Model& model = m_session.model();
    const auto& selected = m_session.selectedOccurrences();
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (model.occurrences[o].aside || (!selected.empty() && !selected.contains(o))) continue;
        const TopoDS_Shape& shape = model.parts[model.occurrences[o].part]->shape;
        if (!shape.IsNull()) BRepBndLib::Add(shape.Moved(TopLoc_Location(model.occurrences[o].placement)), box, true);
    }
    if (!box.IsVoid()) box.SetGap(0.0);
    return box;
}

void DivideBench::addAcross(int axis) {
    const Bnd_Box box = boxOfWanted();
    if (box.IsVoid()) return;
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    gp_XYZ normal(0, 0, 0);
    normal.SetCoord(axis + 1, 1.0);
    Cutter cutter;
    cutter.axis = axis;
    // On a round number near the middle: a cut at 37.4183 was meant by nobody.
    gp_XYZ at = 0.5 * (low.XYZ() + high.XYZ());
    const double extent = high.Coord(axis + 1) - low.Coord(axis + 1);
    const double step = std::pow(10.0, std::floor(std::log10(std::max(extent, 1e-6) / 20.0)));
    at.SetCoord(axis + 1, step * std::round(at.Coord(axis + 1) / step));
    cutter.plane = gp_Pln(gp_Pnt(at), gp_Dir(normal));
    cutter.name = QString("square to %1").arg(QChar("xyz"[axis]));
    m_cutters.push_back(cutter);
    refresh();
    m_list->setCurrentItem(m_list->topLevelItem(m_list->topLevelItemCount() - 1));
    emit previewChanged();
    emit stateChanged();
}

void DivideBench::addFromPicks() {
    const Model& model = m_session.model();
    std::vector<gp_Pnt> points;
    Cutter cutter;
    bool found = false;
    for (const select::Pick& pick : m_picks) {
        if (pick.occurrence >= model.occurrences.size()) continue;
        const Occurrence& place = model.occurrences[pick.occurrence];
        const Incidence& topology = model.parts[place.part]->incidence();
        if (pick.vertex > 0) {
            points.push_back(BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(pick.vertex))).Transformed(place.placement));
        } else if (pick.face > 0 && !found) {
            const BRepAdaptor_Surface surface(topology.face(pick.face), false);
            if (surface.GetType() != GeomAbs_Plane) continue;
            gp_Dir normal = surface.Plane().Axis().Direction();
            if (topology.face(pick.face).Orientation() == TopAbs_REVERSED) normal.Reverse();
            double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
            BRepTools::UVBounds(topology.face(pick.face), u0, u1, v0, v1);
            cutter.plane = gp_Pln(surface.Value(0.5 * (u0 + u1), 0.5 * (v0 + v1)), normal);
            cutter.plane.Transform(place.placement);
            cutter.name = QString("along a face of %1").arg(text(model.parts[place.part]->name));
            found = true;
        }
    }
    if (!found && points.size() >= 3) {
        const gp_Vec normal = gp_Vec(points[0], points[1]).Crossed(gp_Vec(points[0], points[2]));
        if (normal.Magnitude() > 1e-12) {
            cutter.plane = gp_Pln(points[0], gp_Dir(normal));
            cutter.name = "through three vertices";
            found = true;
        }
    }
    if (!found) {
        showMessage(troubleText({ProblemKind::NotPossible,
                                 "What is picked gives no plane.",
                                 {},
                                 "Pick a flat face, or three vertices that are not in a line."}));
        return;
    }
    showMessage({});
    m_cutters.push_back(cutter);
    refresh();
    m_list->setCurrentItem(m_list->topLevelItem(m_list->topLevelItemCount() - 1));
    emit previewChanged();
    emit stateChanged();
}

void DivideBench::setNumber(double typed) {
    const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
    if (row < 0) return;
    Cutter& cutter = m_cutters[static_cast<std::size_t>(row)];
    cutter.shift += typed - cutter.number();
    refreshCutters();
    emit previewChanged();
}

void DivideBench::handleMoved(int handle, double by) {
    if (page() != nullptr) {
        page()->handleMoved(by);
        return;
    }
    if (handle < 0 || handle >= static_cast<int>(m_cutters.size())) return;
    m_list->setCurrentItem(m_list->topLevelItem(handle));
    m_cutters[static_cast<std::size_t>(handle)].shift += by;
    refreshCutters();
    emit previewChanged();
}

bool DivideBench::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_list && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
        if ((key == Qt::Key_Delete || key == Qt::Key_Backspace) && row >= 0) {
            m_cutters.erase(m_cutters.begin() + row);
            refresh();
            emit previewChanged();
            emit stateChanged();
            return true;
        }
    }
    // The window's own Del must not set a part aside while a cutter is chosen.
    if (watched == m_list && event->type() == QEvent::ShortcutOverride &&
        static_cast<QKeyEvent*>(event)->key() == Qt::Key_Delete) {
        event->accept();
        return true;
    }
    return LaidOutBench::eventFilter(watched, event);
}

void DivideBench::picksChanged(const std::vector<select::Pick>& picks) {
    m_picks = picks;
    if (kind() != DivideKind::Cut) {
        refresh();
        emit previewChanged();
    }
}

void DivideBench::refreshCutters() {
    const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
    for (int r = 0; r < m_list->topLevelItemCount() && r < static_cast<int>(m_cutters.size()); ++r)
        m_list->topLevelItem(r)->setText(1, number(m_cutters[static_cast<std::size_t>(r)].number()));
    m_position->setEnabled(row >= 0);
    m_positionLabel->setEnabled(row >= 0);
    if (row < 0) {
        m_position->clear();
        return;
    }
    const Cutter& cutter = m_cutters[static_cast<std::size_t>(row)];
    m_positionLabel->setText(cutter.axis >= 0 ? QString("Position on %1").arg(QChar("xyz"[cutter.axis]))
                                              : QString("Shift outwards"));
    m_position->setText(number(cutter.number()) + " mm");
    // What a plane meets is told by boxes: quick enough to follow a drag, and the step itself tells the rest.
    const Model& model = m_session.model();
    const auto& selected = m_session.selectedOccurrences();
    std::size_t met = 0, missed = 0;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (model.occurrences[o].aside || (!selected.empty() && !selected.contains(o))) continue;
        const TopoDS_Shape& shape = model.parts[model.occurrences[o].part]->shape;
        if (shape.IsNull()) continue;
        Bnd_Box box;
        BRepBndLib::Add(shape.Moved(TopLoc_Location(model.occurrences[o].placement)), box, true);
        box.SetGap(0.0);
        const bool any = std::any_of(m_cutters.begin(), m_cutters.end(), [&box](const Cutter& one) {
            return !divide::faceAcross(one.now(), box, 0.0).IsNull();
        });
        ++(any ? met : missed);
    }
    m_met->setText(
        QString("%1 met%2.")
            .arg(text(counted(met, "body", "bodies")), missed > 0 ? QString(", %1 missed").arg(missed) : QString()));
}

void DivideBench::refreshBodies() {
    const Model& model = m_session.model();
    m_bodies->clear();
    // In the order of the picks, since the first one leads; else as they stand in the list.
    std::vector<std::size_t> places;
    for (const select::Pick& pick : m_picks)
        if (pick.occurrence < model.occurrences.size() &&
            std::find(places.begin(), places.end(), pick.occurrence) == places.end())
            places.push_back(pick.occurrence);
    for (const std::size_t o : m_session.selectedOccurrences())
        if (std::find(places.begin(), places.end(), o) == places.end()) places.push_back(o);
    for (std::size_t i = 0; i < places.size(); ++i) {
        auto* item = new QTreeWidgetItem(m_bodies, {text(placeName(model, places[i]))});
        if (kind() == DivideKind::Subtract) item->setText(0, (i == 0 ? "from  " : "take out  ") + item->text(0));
        item->setData(0, Qt::UserRole, text(placeName(model, places[i])));
    }
}

PickPage* DivideBench::page() const {
    const auto own = m_pages.find(kind());
    return own == m_pages.end() ? nullptr : own->second;
}

void DivideBench::refresh() {
    const bool cuts = kind() == DivideKind::Cut;
    m_cutPage->setVisible(cuts);
    m_bodyPage->setVisible(!cuts && page() == nullptr);
    for (const auto& [own, one] : m_pages) one->setVisible(own == kind());
    if (page() != nullptr) {
        setAnswer({});
        page()->setPicks(m_picks, names());
        button()->setText(page()->words());
        button()->setEnabled(step().has_value() && !m_session.isBusy());
        emit stateChanged();
        return;
    }
    if (cuts) {
        const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
        const QSignalBlocker quiet(m_list);
        m_list->clear();
        for (const Cutter& cutter : m_cutters) new QTreeWidgetItem(m_list, {cutter.name, number(cutter.number())});
        if (!m_cutters.empty())
            m_list->setCurrentItem(m_list->topLevelItem(std::clamp(row, 0, static_cast<int>(m_cutters.size()) - 1)));
        m_met->clear();
        refreshCutters();
    } else {
        refreshBodies();
    }
    const bool round = kind() == DivideKind::Surround;
    m_by->setVisible(round);
    m_clearance->setVisible(round);
    m_clearanceLabel->setVisible(round);
    m_option->setVisible(round || kind() == DivideKind::Subtract || kind() == DivideKind::Intersect);
    m_option->setText(round                            ? "less the bodies in it"
                      : kind() == DivideKind::Subtract ? "the tools stay"
                                                       : "the bodies stay besides");
    m_bodyHint->setText(kind() == DivideKind::Unite       ? "Pick the bodies; the first gives name and material."
                        : kind() == DivideKind::Subtract  ? "Pick the body first, then what is taken out of it."
                        : kind() == DivideKind::Intersect ? "Pick the bodies whose common volume is wanted."
                                                          : "Round what is selected, or round everything.");
    setAnswer(m_session.isEmpty() ? "Open a file; then cut it where loads and materials change." : QString());
    const auto wanted = step();
    QString words;
    const auto chosen = static_cast<std::size_t>(m_bodies->topLevelItemCount());
    switch (kind()) {
        case DivideKind::Cut: {
            const auto bodies = m_session.selectedOccurrences().size();
            words = m_cutters.empty()
                        ? QString("No cutter yet")
                        : QString("Cut %1 by %2")
                              .arg(bodies == 0 ? QString("everything") : text(counted(bodies, "body", "bodies")),
                                   text(counted(m_cutters.size(), "plane")));
            break;
        }
        case DivideKind::Unite:
            words = chosen < 2 ? QString("Pick two bodies") : "Unite " + text(counted(chosen, "body", "bodies"));
            break;
        case DivideKind::Subtract:
            words = chosen < 2 ? QString("Pick a body and a tool")
                               : QString("Subtract %1").arg(text(counted(chosen - 1, "body", "bodies")));
            break;
        case DivideKind::Intersect:
            words = chosen < 2 ? QString("Pick two bodies") : "Intersect " + text(counted(chosen, "body", "bodies"));
            break;
        case DivideKind::Surround:
            words = QString("Put a %1 round %2")
                        .arg(m_by->currentText(),
                             chosen == 0 ? QString("everything") : text(counted(chosen, "body", "bodies")));
            break;
        default:
            break;
    }
    button()->setText(words);
    button()->setEnabled(wanted.has_value() && !m_session.isBusy());
    emit stateChanged();
}

std::optional<BenchStep> DivideBench::step() const {
    if (m_session.isEmpty()) return std::nullopt;
    if (page() != nullptr) return page()->step();
    std::vector<std::string> bodies;
    for (int r = 0; r < m_bodies->topLevelItemCount(); ++r)
        bodies.push_back(m_bodies->topLevelItem(r)->data(0, Qt::UserRole).toString().toStdString());
    switch (kind()) {
        case DivideKind::Cut: {
            if (m_cutters.empty()) return std::nullopt;
            Json planes = Json::array();
            for (const Cutter& cutter : m_cutters) {
                const gp_Pln plane = cutter.now();
                const gp_XYZ at = plane.Location().XYZ(), normal = plane.Axis().Direction().XYZ();
                planes.push_back(divide::Plane{{at.X(), at.Y(), at.Z()}, {normal.X(), normal.Y(), normal.Z()}});
            }
            Json parameters{{"planes", std::move(planes)}};
            if (const auto parts = names(); !parts.empty()) parameters["parts"] = parts;
            if (m_keep->currentIndex() > 0) parameters["keep"] = m_keep->currentIndex() == 1 ? "above" : "below";
            if (const QString group = m_group->text().trimmed(); !group.isEmpty())
                parameters["group"] = group.toStdString();
            return BenchStep{"divide.cut", std::move(parameters)};
        }
        case DivideKind::Unite:
            if (bodies.size() < 2) return std::nullopt;
            return BenchStep{"divide.unite", {{"places", bodies}}};
        case DivideKind::Subtract: {
            if (bodies.size() < 2) return std::nullopt;
            const std::vector<std::string> tools(bodies.begin() + 1, bodies.end());
            return BenchStep{"divide.subtract",
                             {{"from", {bodies.front()}}, {"tools", tools}, {"keepTools", m_option->isChecked()}}};
        }
        case DivideKind::Intersect:
            if (bodies.size() < 2) return std::nullopt;
            return BenchStep{"divide.intersect", {{"places", bodies}, {"keep", m_option->isChecked()}}};
        case DivideKind::Surround: {
            std::array<double, 6> clearance{};
            const QStringList typed = m_clearance->text().split(QRegularExpression("[\\s;]+"), Qt::SkipEmptyParts);
            if (typed.size() != 1 && typed.size() != 6) return std::nullopt;
            for (int i = 0; i < 6; ++i) {
                const auto gap = signedLength(typed[typed.size() == 1 ? 0 : i], m_session.model().targetSize);
                if (!gap) return std::nullopt;
                clearance[static_cast<std::size_t>(i)] = *gap;
            }
            Json parameters{{"by", m_by->currentText().toStdString()},
                            {"clearance", clearance},
                            {"name", m_by->currentText().toStdString() + " round"},
                            {"without", m_option->isChecked()}};
            if (!bodies.empty()) parameters["places"] = bodies;
            return BenchStep{"divide.surround", std::move(parameters)};
        }
        default:
            break;
    }
    return std::nullopt;
}

BenchPreview DivideBench::preview() const {
    BenchPreview preview;
    if (page() != nullptr) {
        preview.lines = page()->lines();
        preview.handles = page()->handles();
    }
    if (kind() != DivideKind::Cut || m_cutters.empty()) return preview;
    const Bnd_Box box = boxOfWanted();
    if (box.IsVoid()) return preview;
    for (std::size_t c = 0; c < m_cutters.size(); ++c) {
        const gp_Pln plane = m_cutters[c].now();
        StageLine frame;
        frame.points = frameOf(plane, box);
        gp_XYZ middle(0, 0, 0);
        for (const gp_Pnt& corner : frame.points) middle += 0.25 * corner.XYZ();
        frame.closed = true;
        preview.handles.push_back({static_cast<int>(c), gp_Pnt(0.5 * (frame.points[2].XYZ() + frame.points[3].XYZ())),
                                   plane.Axis().Direction(), number(m_cutters[c].number())});
        preview.lines.push_back(std::move(frame));
    }
    return preview;
}

}  // namespace rasoir::app
