#include "bench/cut_page.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepTools.hxx>
#include <ElSLib.hxx>
#include <gp_Circ.hxx>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QSignalBlocker>
#include <TopoDS.hxx>

#include "bench/bench.h"
#include "divide/cutters.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "model/places.h"
#include "stage/part_presentation.h"
#include "theme.h"
#include "words.h"

// A cutter keeps where it was put, and a shift and a turn on top of that: so a number typed twice gives the same plane,
// and one that is dragged back lies where it began. What the cut would make comes from the trial that runs beside the
// window; until it has answered, the list keeps what it last knew.

namespace rasoir::app {
namespace {

/// The four corners of a plane across a box, a little outside it.
std::vector<gp_Pnt> frameOf(const gp_Pln& plane, const Bnd_Box& box) {
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    double u0 = 1e300, u1 = -1e300, v0 = 1e300, v1 = -1e300;
    for (int corner = 0; corner < 8; ++corner) {
        double u = 0.0, v = 0.0;
        ElSLib::Parameters(plane,
                           gp_Pnt((corner & 1) != 0 ? high.X() : low.X(), (corner & 2) != 0 ? high.Y() : low.Y(),
                                  (corner & 4) != 0 ? high.Z() : low.Z()),
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

/// A plane through a line; of all those the one nearest to upright, since cuts are mostly meant along an axis.
gp_Pln through(const gp_Ax1& line) {
    const gp_Dir along = line.Direction();
    const gp_Dir other = std::abs(along.Z()) < 0.9 ? gp_Dir(0, 0, 1) : gp_Dir(1, 0, 0);
    return gp_Pln(line.Location(), gp_Dir(along.Crossed(other)));
}

/// All edges of a part as lines; of a part of very many none, since they would hide it.
std::vector<StageLine> edgesOf(const Part& part, const gp_Trsf& placement) {
    std::vector<StageLine> lines;
    const Incidence& topology = part.incidence();
    if (topology.edgeCount() > 800) return lines;
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        StageLine line;
        line.style = StageLine::Style::Brass;
        line.points = edgePoints(topology, e);
        if (line.points.size() < 2) continue;
        for (gp_Pnt& point : line.points) point.Transform(placement);
        lines.push_back(std::move(line));
    }
    return lines;
}

}  // namespace

gp_Pln Cutter::now() const {
    gp_Pln turned = plane;
    if (degrees != 0.0 && pivot) turned.Rotate(*pivot, degrees * M_PI / 180.0);
    return turned.Translated(gp_Vec(turned.Axis().Direction()) * shift);
}

double Cutter::number() const {
    if (axis < 0 || degrees != 0.0) return shift;
    return now().Location().XYZ().Coord(axis + 1);
}

CutPage::CutPage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* across = new QHBoxLayout;
    for (int axis = 0; axis < 3; ++axis) {
        const QChar name("xyz"[axis]);
        auto* button = new QPushButton(QString("Across %1").arg(name), this);
        button->setObjectName(QString("across%1").arg(name.toUpper()));
        button->setToolTip(QString("A plane square to %1, through the middle of what is selected").arg(name));
        connect(button, &QPushButton::clicked, this, [this, axis] { addAcross(axis); });
        across->addWidget(button);
    }
    column->addLayout(across);
    auto* picked = new QPushButton("From what is picked", this);
    picked->setObjectName("cutterFromPicks");
    picked->setToolTip(
        "Along a flat face; through the axis of a round one or a straight edge, to be turned about it; in the plane of "
        "a circle; through three vertices; by whole bodies or sheets");
    connect(picked, &QPushButton::clicked, this, [this] { addFromPicks(); });
    auto* carried = new QPushButton("The face itself", this);
    carried->setObjectName("cutterCarriedOn");
    carried->setToolTip("Along a picked round or freeform face, carried on past its ends: a cylinder all round, ...");
    connect(carried, &QPushButton::clicked, this, [this] { addFromPicks(true); });
    auto* fromPicks = new QHBoxLayout;
    fromPicks->addWidget(picked, 1);
    fromPicks->addWidget(carried);
    column->addLayout(fromPicks);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("cutters");
    m_list->setAccessibleName("Cutters");
    m_list->setColumnCount(2);
    m_list->setHeaderLabels({"Cutter", "mm"});
    m_list->setMaximumHeight(100);
    m_pieces = new QTreeWidget(this);
    m_pieces->setObjectName("pieces");
    m_pieces->setAccessibleName("Pieces the cut would make; unmarked ones are dropped");
    m_pieces->setColumnCount(2);
    m_pieces->setHeaderLabels({"Piece", "mm³"});
    m_pieces->setToolTip("Del or the mark drops a piece, or takes it back");
    for (QTreeWidget* list : {m_list, m_pieces}) {
        list->setRootIsDecorated(false);
        list->header()->setStretchLastSection(false);
        list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
        list->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
        list->installEventFilter(this);
    }
    column->addWidget(m_list);
    auto* placed = new QHBoxLayout;
    m_positionLabel = new QLabel("Position", this);
    m_position = new QLineEdit(this);
    m_position->setObjectName("cutterPosition");
    m_position->setAccessibleName("Position of the cutter");
    m_angle = new QLineEdit(this);
    m_angle->setObjectName("cutterAngle");
    m_angle->setAccessibleName("Degrees by which the cutter is turned about its own line");
    m_angle->setMaximumWidth(64);
    placed->addWidget(m_positionLabel);
    placed->addWidget(m_position, 1);
    placed->addWidget(new QLabel("turned", this));
    placed->addWidget(m_angle);
    column->addLayout(placed);
    m_snap = new QPushButton(this);
    m_snap->setObjectName("snapToEdge");
    m_snap->setToolTip("So close to an edge a cut leaves a sliver that no element fits into");
    m_snap->hide();
    column->addWidget(m_snap);
    auto* form = new QFormLayout;
    form->setSpacing(4);
    m_keep = new QComboBox(this);
    m_keep->setObjectName("keepSide");
    m_keep->setAccessibleName("What is kept");
    m_keep->addItems({"both sides", "above all planes", "below all planes"});
    form->addRow("Kept", m_keep);
    m_group = field(this, "cutGroup", "Group of the cut faces", {});
    m_group->setPlaceholderText("none");
    form->addRow("Group of cut faces", m_group);
    column->addLayout(form);
    m_met = new QLabel(this);
    m_met->setObjectName("met");
    m_met->setWordWrap(true);
    column->addWidget(m_met);
    column->addWidget(m_pieces, 1);

    connect(m_list, &QTreeWidget::currentItemChanged, this, [this] { refreshNumbers(); });
    connect(m_position, &QLineEdit::editingFinished, this, [this] {
        Cutter* cutter = current();
        const auto typed = numberIn(m_position);
        if (cutter != nullptr && typed && *typed != cutter->number()) {
            cutter->shift += *typed - cutter->number();
            emit changed();
        }
        refreshNumbers();
    });
    connect(m_angle, &QLineEdit::editingFinished, this, [this] {
        Cutter* cutter = current();
        QString typed = m_angle->text().trimmed().remove(QChar(0x00b0));
        typed.replace(QChar(0x2212), '-');
        bool fine = false;
        const double degrees = typed.toDouble(&fine);
        if (cutter != nullptr && fine && std::isfinite(degrees) && degrees != cutter->degrees) {
            cutter->degrees = degrees;
            emit changed();
        }
        refreshNumbers();
    });
    connect(m_snap, &QPushButton::clicked, this, [this] {
        Cutter* cutter = current();
        const auto off = edgeNearby();
        if (cutter == nullptr || !off) return;
        cutter->shift += *off;
        refreshNumbers();
        emit changed();
    });
    connect(m_keep, &QComboBox::activated, this, &CutPage::changed);
    connect(m_pieces, &QTreeWidget::currentItemChanged, this, [this] { emit changed(); });
    // A piece lights up under the pointer; when the pointer leaves the list, the chosen one does again.
    m_pieces->setMouseTracking(true);
    connect(m_pieces, &QTreeWidget::itemEntered, this, [this](QTreeWidgetItem* item) {
        m_under = item->text(0);
        emit lit();
    });
    connect(m_pieces, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item) {
        const std::string name = item->text(0).toStdString();
        std::erase(m_dropped, name);
        if (item->checkState(0) == Qt::Unchecked) m_dropped.push_back(name);
        emit changed();
    });
    connect(&m_session, &Session::opened, this, &CutPage::forgetCutters);
    connect(&m_session, &Session::changed, this, [this] { m_dropped.clear(); });
}

void CutPage::forgetCutters() {
    m_cutters.clear();
    m_dropped.clear();
    refresh();
}

std::vector<std::size_t> CutPage::wanted() const {
    const Model& model = m_session.model();
    const auto& selected = m_session.places().selected();
    std::vector<std::size_t> places;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (model.occurrences[o].aside || model.parts[model.occurrences[o].part]->shape.IsNull()) continue;
        if (!selected.empty() && !selected.contains(o)) continue;
        const std::string name = placeName(model, o);
        if (std::none_of(m_cutters.begin(), m_cutters.end(), [&](const Cutter& one) { return one.body == name; }))
            places.push_back(o);
    }
    return places;
}

Bnd_Box CutPage::boxOfWanted() const {
    Bnd_Box box;
    const Model& model = m_session.model();
    for (const std::size_t o : wanted()) {
        const Occurrence& place = model.occurrences[o];
        BRepBndLib::Add(model.parts[place.part]->shape.Moved(TopLoc_Location(place.placement)), box, true);
    }
    if (!box.IsVoid()) box.SetGap(0.0);
    return box;
}

Cutter* CutPage::current() {
    const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
    return row < 0 || row >= static_cast<int>(m_cutters.size()) ? nullptr : &m_cutters[static_cast<std::size_t>(row)];
}

void CutPage::add(Cutter cutter) {
    if (!cutter.pivot) cutter.pivot = gp_Ax1(cutter.plane.Location(), cutter.plane.XAxis().Direction());
    m_cutters.push_back(std::move(cutter));
    refresh();
    m_list->setCurrentItem(m_list->topLevelItem(m_list->topLevelItemCount() - 1));
    emit changed();
}

void CutPage::addAcross(int axis) {
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
    gp_XYZ along(0, 0, 0);
    along.SetCoord((axis + 1) % 3 + 1, 1.0);
    cutter.pivot = gp_Ax1(gp_Pnt(at), gp_Dir(along));
    cutter.name = QString("square to %1").arg(QChar("xyz"[axis]));
    add(std::move(cutter));
}

void CutPage::addFromPicks(bool carriedOn) {
    std::vector<gp_Pnt> points;
    std::vector<Cutter> found;
    for (const select::Pick& pick : m_picks) {
        const Part& part = partOf(pick);
        const Incidence& topology = part.incidence();
        const gp_Trsf& place = placementOf(pick);
        Cutter cutter;
        if (pick.vertex > 0) {
            points.push_back(BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(pick.vertex))).Transformed(place));
        } else if (pick.edge > 0) {
            const BRepAdaptor_Curve curve(topology.edge(pick.edge));
            if (curve.GetType() == GeomAbs_Line) {
                const gp_Pnt middle = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
                cutter.pivot = gp_Ax1(middle, curve.Line().Direction()).Transformed(place);
                cutter.plane = through(*cutter.pivot);
                cutter.name = QString("through an edge of %1").arg(text(part.name));
            } else if (curve.GetType() == GeomAbs_Circle) {
                cutter.plane = gp_Pln(gp_Ax3(curve.Circle().Position())).Transformed(place);
                cutter.name = QString("in a circle of %1").arg(text(part.name));
            } else {
                continue;
            }
            found.push_back(cutter);
        } else if (pick.face > 0) {
            const TopoDS_Face face = topology.face(pick.face);
            const BRepAdaptor_Surface surface(face, false);
            if (surface.GetType() == GeomAbs_Plane) {
                gp_Dir normal = surface.Plane().Axis().Direction();
                if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
                double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
                BRepTools::UVBounds(face, u0, u1, v0, v1);
                cutter.plane = gp_Pln(surface.Value(0.5 * (u0 + u1), 0.5 * (v0 + v1)), normal).Transformed(place);
                cutter.name = QString("along a face of %1").arg(text(part.name));
            } else if (const auto round = roundSurface(face); round && !carriedOn) {
                cutter.pivot = round->axis.Transformed(place);
                cutter.plane = through(*cutter.pivot);
                cutter.name = QString("through an axis of %1").arg(text(part.name));
            } else {
                cutter.face = makeFaceRef(part, pick.face);
                cutter.name =
                    QString("along a %1 of %2").arg(text(surfaceKindName(surfaceKind(face))), text(part.name));
            }
            found.push_back(cutter);
        } else {
            cutter.body = placeName(m_session.model(), pick.occurrence);
            cutter.name = "by " + text(cutter.body);
            found.push_back(cutter);
        }
    }
    if (found.empty() && points.size() >= 3) {
        const gp_Vec normal = gp_Vec(points[0], points[1]).Crossed(gp_Vec(points[0], points[2]));
        if (normal.Magnitude() > 1e-12) {
            Cutter cutter;
            cutter.plane = gp_Pln(points[0], gp_Dir(normal));
            cutter.pivot = gp_Ax1(points[0], gp_Dir(gp_Vec(points[0], points[1])));
            cutter.name = "through three vertices";
            found.push_back(cutter);
        }
    }
    if (found.empty()) {
        emit told(troubleText({ProblemKind::NotPossible,
                               "What is picked gives no cutter.",
                               {},
                               "Pick a flat or round face, a straight or round edge, three vertices that are not in a "
                               "line, or a whole body."}));
        return;
    }
    emit told({});
    for (Cutter& cutter : found) add(std::move(cutter));
}

void CutPage::handleMoved(int handle, double by) {
    if (handle < 0 || handle >= static_cast<int>(m_cutters.size())) return;
    m_list->setCurrentItem(m_list->topLevelItem(handle));
    m_cutters[static_cast<std::size_t>(handle)].shift += by;
    refreshNumbers();
    emit changed();
}

bool CutPage::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_pieces && event->type() == QEvent::Leave && !m_under.isEmpty()) {
        m_under.clear();
        emit lit();
    }
    const bool key = event->type() == QEvent::KeyPress || event->type() == QEvent::ShortcutOverride;
    if ((watched != m_list && watched != m_pieces) || !key) return PickPage::eventFilter(watched, event);
    const int pressed = static_cast<QKeyEvent*>(event)->key();
    if (pressed != Qt::Key_Delete && pressed != Qt::Key_Backspace) return PickPage::eventFilter(watched, event);
    event->accept();  // the window's own Del must not set a part aside while a cutter is chosen
    if (event->type() == QEvent::ShortcutOverride) return true;
    if (watched == m_list) {
        const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
        if (row < 0) return true;
        m_cutters.erase(m_cutters.begin() + row);
        refresh();
        emit changed();
    } else if (QTreeWidgetItem* item = m_pieces->currentItem()) {
        item->setCheckState(0, item->checkState(0) == Qt::Checked ? Qt::Unchecked : Qt::Checked);
    }
    return true;
}

void CutPage::refresh() {
    {
        const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
        const QSignalBlocker quiet(m_list);
        m_list->clear();
        for (const Cutter& cutter : m_cutters) new QTreeWidgetItem(m_list, {cutter.name, {}});
        // As high as its rows, so that the pieces below have the room.
        m_list->setMaximumHeight(36 + 27 * std::clamp(static_cast<int>(m_cutters.size()), 1, 3));
        if (!m_cutters.empty())
            m_list->setCurrentItem(m_list->topLevelItem(std::clamp(row, 0, static_cast<int>(m_cutters.size()) - 1)));
    }
    refreshNumbers();
}

void CutPage::refreshNumbers() {
    for (int r = 0; r < m_list->topLevelItemCount() && r < static_cast<int>(m_cutters.size()); ++r) {
        const Cutter& cutter = m_cutters[static_cast<std::size_t>(r)];
        m_list->topLevelItem(r)->setText(1, cutter.isPlane() ? number(cutter.number()) : QString());
    }
    const Cutter* cutter = current();
    const bool plane = cutter != nullptr && cutter->isPlane();
    for (QWidget* own :
         {static_cast<QWidget*>(m_position), static_cast<QWidget*>(m_angle), static_cast<QWidget*>(m_positionLabel)})
        own->setEnabled(plane);
    m_position->setText(plane ? number(cutter->number()) + " mm" : QString());
    m_angle->setText(plane ? number(cutter->degrees) + QChar(0x00b0) : QString());
    if (plane)
        m_positionLabel->setText(cutter->axis >= 0 && cutter->degrees == 0.0
                                     ? QString("Position on %1").arg(QChar("xyz"[cutter->axis]))
                                     : QString("Shift"));
    const auto off = edgeNearby();
    m_snap->setVisible(off.has_value());
    if (off) m_snap->setText(QString("Snap to an edge %1 mm away").arg(number(std::abs(*off))));
    tellMet();
}

std::optional<double> CutPage::edgeNearby() const {
    const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
    if (row < 0 || row >= static_cast<int>(m_cutters.size())) return std::nullopt;
    const Cutter& cutter = m_cutters[static_cast<std::size_t>(row)];
    if (!cutter.isPlane()) return std::nullopt;
    const Model& model = m_session.model();
    const double reach = 0.25 * model.targetSize, same = 10.0 * model.samePoint();
    std::optional<double> nearest;
    for (const std::size_t o : wanted()) {
        const gp_Pln plane = cutter.now().Transformed(model.occurrences[o].placement.Inverted());
        const gp_Vec normal(plane.Axis().Direction());
        const Incidence& topology = model.parts[model.occurrences[o].part]->incidence();
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            double first = 0.0, last = 0.0;
            const Handle(Geom_Curve) curve = BRep_Tool::Curve(topology.edge(e), first, last);
            if (curve.IsNull()) continue;
            const double off = gp_Vec(plane.Location(), curve->Value(first)).Dot(normal);
            if (std::abs(off) <= same || std::abs(off) > reach || (nearest && std::abs(off) >= std::abs(*nearest)))
                continue;
            bool along = true;  // three more places: a line or a flat curve in a plane beside the cutter's
            for (const double share : {0.31, 0.62, 1.0}) {
                const double there = gp_Vec(plane.Location(), curve->Value(first + share * (last - first))).Dot(normal);
                along = along && std::abs(there - off) <= same;
            }
            if (along) nearest = off;
        }
    }
    return nearest;
}

void CutPage::tellMet() {
    // What a plane meets is told by boxes: quick enough to follow a drag, and the pieces below tell the rest.
    const Model& model = m_session.model();
    std::vector<std::size_t> met, missed;
    if (!m_cutters.empty())
        for (const std::size_t o : wanted()) {
            Bnd_Box box;
            const Occurrence& place = model.occurrences[o];
            BRepBndLib::Add(model.parts[place.part]->shape.Moved(TopLoc_Location(place.placement)), box, true);
            box.SetGap(0.0);
            const bool any = std::any_of(m_cutters.begin(), m_cutters.end(), [&box](const Cutter& one) {
                return !one.isPlane() || !divide::faceAcross(one.now(), box, 0.0).IsNull();
            });
            (any ? met : missed).push_back(o);
        }
    const auto named = [&model](const std::vector<std::size_t>& places) {
        QStringList names;
        for (const std::string& name : placeNames(model, places)) names << text(name);
        if (const auto more = names.size() - 5; more > 1) names = names.mid(0, 5) << QString("%1 more").arg(more);
        return names.join(", ");
    };
    m_met->setText(m_cutters.empty() ? QString()
                                     : QString("%1 met%2.%3")
                                           .arg(text(counted(met.size(), "body", "bodies")),
                                                met.empty() || met.size() > 40 ? QString() : ": " + named(met),
                                                missed.empty() ? QString() : " Missed: " + named(missed) + "."));
}

void CutPage::triedOut(const Outcome* outcome) {
    const QSignalBlocker quiet(m_pieces);
    m_under.clear();
    const QString chosen = m_pieces->currentItem() != nullptr ? m_pieces->currentItem()->text(0) : QString();
    m_pieces->clear();
    m_drawn.clear();
    if (outcome == nullptr || m_cutters.empty()) return;
    const auto row = [&](const std::string& name, const QString& measure, bool stays) {
        auto* item = new QTreeWidgetItem(m_pieces, {text(name), measure});
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(0, stays ? Qt::Checked : Qt::Unchecked);
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        if (text(name) == chosen) m_pieces->setCurrentItem(item);
    };
    constexpr std::size_t weighed = 60;  // more would keep the window waiting
    std::set<std::size_t> pieces;
    for (const PartLineage& own : outcome->lineage)
        if (!own.untouched && own.into < outcome->model.parts.size()) pieces.insert(own.into);
    for (const std::size_t p : pieces) {
        const Part& part = *outcome->model.parts[p];
        const bool solid = part.kind() == BodyKind::Solid;
        row(part.name,
            pieces.size() > weighed ? QString()
                                    : number(solid ? volumeOf(part.shape) : areaOf(part.shape)) + (solid ? "" : " mm²"),
            true);
        const auto place = std::find_if(outcome->model.occurrences.begin(), outcome->model.occurrences.end(),
                                        [p](const Occurrence& one) { return one.part == p; });
        if (place != outcome->model.occurrences.end() && pieces.size() <= weighed)
            m_drawn[part.name] = edgesOf(part, place->placement);
    }
    for (const std::string& name : m_dropped) row(name, "dropped", false);
    QString told = m_met->text();
    for (const std::string& note : outcome->notes) told += "\n" + text(note);
    for (const Item& item : outcome->items)
        if (!item.done) told += "\n" + text(item.what.empty() ? "" : item.what + ": ") + text(sentence(item.problem));
    m_met->setText(told);
}

std::vector<StageLine> CutPage::lines() const {
    std::vector<StageLine> all;
    const Bnd_Box box = boxOfWanted();
    if (!box.IsVoid())
        for (const Cutter& cutter : m_cutters) {
            if (!cutter.isPlane()) continue;
            StageLine frame;
            frame.points = frameOf(cutter.now(), box);
            frame.closed = true;
            all.push_back(std::move(frame));
        }
    const QTreeWidgetItem* item = m_pieces->currentItem();
    const QString name = !m_under.isEmpty() ? m_under : item != nullptr ? item->text(0) : QString();
    if (!name.isEmpty())
        if (const auto drawn = m_drawn.find(name.toStdString()); drawn != m_drawn.end())
            all.insert(all.end(), drawn->second.begin(), drawn->second.end());
    return all;
}

std::vector<StageHandle> CutPage::handles() const {
    std::vector<StageHandle> all;
    const Bnd_Box box = boxOfWanted();
    if (box.IsVoid()) return all;
    for (std::size_t c = 0; c < m_cutters.size(); ++c) {
        if (!m_cutters[c].isPlane()) continue;
        const gp_Pln plane = m_cutters[c].now();
        const std::vector<gp_Pnt> frame = frameOf(plane, box);
        all.push_back({static_cast<int>(c), gp_Pnt(0.5 * (frame[2].XYZ() + frame[3].XYZ())), plane.Axis().Direction(),
                       number(m_cutters[c].number())});
    }
    return all;
}

std::optional<BenchStep> CutPage::step() const {
    if (m_cutters.empty() || m_session.isEmpty()) return std::nullopt;
    Json planes = Json::array(), faces = Json::array();
    std::vector<std::string> bodies;
    for (const Cutter& cutter : m_cutters) {
        if (!cutter.body.empty()) {
            bodies.push_back(cutter.body);
            continue;
        }
        if (cutter.face) {
            faces.push_back(*cutter.face);
            continue;
        }
        const gp_Pln plane = cutter.now();
        const gp_XYZ at = plane.Location().XYZ(), normal = plane.Axis().Direction().XYZ();
        planes.push_back(divide::Plane{{at.X(), at.Y(), at.Z()}, {normal.X(), normal.Y(), normal.Z()}});
    }
    Json parameters = Json::object();
    if (!planes.empty()) parameters["planes"] = std::move(planes);
    if (!faces.empty()) parameters["faces"] = std::move(faces);
    if (!bodies.empty()) parameters["bodies"] = bodies;
    std::vector<std::string> parts;
    for (const std::string& name : m_places)
        if (std::find(bodies.begin(), bodies.end(), name) == bodies.end()) parts.push_back(name);
    if (!parts.empty()) parameters["parts"] = parts;
    if (m_keep->currentIndex() > 0) parameters["keep"] = m_keep->currentIndex() == 1 ? "above" : "below";
    if (const QString group = m_group->text().trimmed(); !group.isEmpty()) parameters["group"] = group.toStdString();
    if (!m_dropped.empty()) parameters["without"] = m_dropped;
    return BenchStep{"divide.cut", std::move(parameters)};
}

QString CutPage::words() const {
    if (m_cutters.empty()) return "No cutter yet";
    const auto selected = m_session.places().selected().empty() ? std::size_t{0} : wanted().size();
    const bool planesOnly =
        std::all_of(m_cutters.begin(), m_cutters.end(), [](const Cutter& one) { return one.isPlane(); });
    return QString("Cut %1 by %2")
        .arg(selected == 0 ? QString("everything") : text(counted(selected, "body", "bodies")),
             text(counted(m_cutters.size(), planesOnly ? "plane" : "cutter")));
}

}  // namespace rasoir::app
