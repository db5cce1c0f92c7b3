// The stage's hands: pointer, keys, picking, boxes and lassos, and the planes that are dragged through the view.
#include <AIS_Shape.hxx>
#include <gp_Pln.hxx>
#include <Graphic3d_AspectFillArea3d.hxx>
#include <Graphic3d_Camera.hxx>
#include <Graphic3d_ClipPlane.hxx>
#include <QElapsedTimer>
#include <QMouseEvent>
#include <SelectMgr_EntityOwner.hxx>
#include <SelectMgr_ViewerSelector.hxx>
#include <StdSelect_BRepOwner.hxx>

#include "stage/stage.h"

namespace rasoir::app {
namespace {
constexpr double dragStarts = 4.0;  // [px]
constexpr double grip = 9.0;        // [px] how near the pointer has to come to a line
}  // namespace

std::optional<Pick> Stage::pickOf(const Handle(SelectMgr_EntityOwner) & entity) const {
    if (entity.IsNull()) return std::nullopt;
    const Handle(PartPresentation) part = Handle(PartPresentation)::DownCast(entity->Selectable());
    if (part.IsNull()) return std::nullopt;
    Pick pick{part->occurrence()};
    const Handle(StdSelect_BRepOwner) owner = Handle(StdSelect_BRepOwner)::DownCast(entity);
    if (owner.IsNull() || !owner->HasShape() || m_selection.filter() == PickFilter::Parts) return pick;
    const Incidence& topology = part->part().incidence();
    switch (owner->Shape().ShapeType()) {
        case TopAbs_FACE:
            pick.face = topology.faceNumber(owner->Shape());
            break;
        case TopAbs_EDGE:
            pick.edge = topology.edgeNumber(owner->Shape());
            break;
        case TopAbs_VERTEX:
            pick.vertex = topology.vertexNumber(owner->Shape());
            break;
        case TopAbs_SOLID: {
            const TopExp_Explorer face(owner->Shape(), TopAbs_FACE);
            if (face.More()) pick.body = topology.bodyOf(topology.faceNumber(face.Current())) + 1;
            break;
        }
        default:
            break;
    }
    return pick;
}

void Stage::hoverAt(const QPointF& position) {
    if (m_view->Window().IsNull() || m_session.isEmpty()) return;
    QElapsedTimer timer;
    timer.start();
    makeCurrent();
    const QPointF device = position * devicePixelRatioF();
    m_context->MoveTo(static_cast<int>(device.x()), static_cast<int>(device.y()), m_view, false);
    doneCurrent();
    const auto now = m_context->HasDetected() ? pickOf(m_context->DetectedOwner()) : std::nullopt;
    m_hoveredPoint.reset();
    const Handle(StdSelect_ViewerSelector3d)& selector = m_context->MainSelector();
    if (now && selector->NbPicked() > 0) m_hoveredPoint = selector->PickedPoint(1);
    m_hoverSeconds = 1e-9 * static_cast<double>(timer.nsecsElapsed());
    if (now != m_hovered) {
        m_hovered = now;
        emit hoverChanged();
    }
    requestDraw(false);
}

void Stage::pickAt(const QPointF& position, bool add) {
    hoverAt(position);
    if (m_view->Window().IsNull()) return;
    // Once more in the same spot: one layer deeper.
    const bool again = !add && (position - m_lastPick).manhattanLength() < dragStarts;
    m_lastPick = position;
    m_depth = again ? m_depth + 1 : 0;
    std::vector<Pick> layers;
    const Handle(StdSelect_ViewerSelector3d)& selector = m_context->MainSelector();
    for (int rank = 1; rank <= selector->NbPicked(); ++rank)
        if (const auto pick = pickOf(selector->Picked(rank));
            pick && std::find(layers.begin(), layers.end(), *pick) == layers.end())
            layers.push_back(*pick);
    // What is lit under the pointer comes first, whatever the picker's order.
    if (m_hovered) {
        std::erase(layers, *m_hovered);
        layers.insert(layers.begin(), *m_hovered);
    }
    if (layers.empty()) {
        if (!add) m_selection.clear();
        return;
    }
    const Pick pick = layers[static_cast<std::size_t>(m_depth) % layers.size()];
    if (add)
        m_selection.toggle(pick);
    else
        m_selection.set({pick});
}

bool Stage::startJoin() {
    m_selection.setFilter(PickFilter::Edges);
    hoverAt(m_pressed);
    m_dragged = m_hovered && select::kindOf(*m_hovered) == select::PickKind::Edge ? m_hovered : std::nullopt;
    if (m_dragged) m_selection.set({*m_dragged});
    return m_dragged.has_value();
}

void Stage::turn(double dx, double dy) {
    // About the middle of what is shown, upright axis first: a model does not roll by accident.
    const Handle(Graphic3d_Camera)& camera = m_view->Camera();
    const gp_Pnt centre = m_view->GravityPoint();
    gp_Trsf sideways, upward;
    sideways.SetRotation(gp_Ax1(centre, gp_Dir(0, 0, 1)), -dx);
    const gp_Dir right = camera->Direction().Crossed(camera->OrthogonalizedUp());
    upward.SetRotation(gp_Ax1(centre, right), -dy);
    camera->Transform(sideways * upward);
    viewMoved();
}

void Stage::viewMoved() {
    beginMoving();
    if (m_wipe) refreshWipe();
    requestDraw();
    emit viewChanged();
}

// --- boxes and lassos
// -----------------------------------------------------------------------------------------------------

select::Projection Stage::projection() const {
    const Handle(Graphic3d_Camera)& camera = m_view->Camera();
    const Graphic3d_Mat4d matrix = camera->ProjectionMatrix() * camera->OrientationMatrix();
    const double w = width(), h = height();
    const bool flat = camera->IsOrthographic();
    const gp_Dir back = camera->Direction().Reversed();
    const gp_Pnt eye = camera->Eye();
    return {
        [matrix, w, h](const gp_Pnt& p) {
            const Graphic3d_Vec4d at = matrix * Graphic3d_Vec4d(p.X(), p.Y(), p.Z(), 1.0);
            return select::ScreenPoint{0.5 * w * (1.0 + at.x() / at.w()), 0.5 * h * (1.0 - at.y() / at.w())};
        },
        [flat, back, eye](const gp_Pnt& p) { return flat || p.Distance(eye) < 1e-12 ? back : gp_Dir(gp_Vec(p, eye)); }};
}

void Stage::drawNext(RegionShape shape) {
    m_drawNext = shape;
    setCursor(Qt::CrossCursor);
}

void Stage::startRegion(const QPointF& position, RegionShape shape) {
    std::vector<std::size_t> shown;
    for (std::size_t o = 0; o < m_parts.size(); ++o)
        if (!m_parts[o].IsNull() && isShown(o) && !m_parts[o]->look().ghost) shown.push_back(o);
    if (m_seenOnly && !m_rays) {
        Progress progress;
        m_rays = std::make_shared<RayField>(m_session.model(), shown, 1e-3, progress);
    }
    const PickFilter filter = m_selection.filter();
    const PickKind kind = filter == PickFilter::Edges      ? PickKind::Edge
                          : filter == PickFilter::Vertices ? PickKind::Vertex
                          : filter == PickFilter::Bodies   ? PickKind::Body
                          : filter == PickFilter::Parts    ? PickKind::Part
                                                           : PickKind::Face;
    m_region.emplace(shape, position, std::make_shared<select::ScreenMap>(m_session.model(), shown, projection()), kind,
                     filter == PickFilter::FacesAndEdges, m_seenOnly ? m_rays : nullptr);
}

void Stage::endRegion(bool take, bool add) {
    if (!m_region) return;
    const std::vector<Pick> found = m_region->found();
    m_region.reset();
    m_drawNext.reset();
    unsetCursor();
    makeCurrent();
    if (!m_regionHighlight.IsNull()) m_context->Remove(m_regionHighlight, false);
    m_regionHighlight.Nullify();
    doneCurrent();
    if (take && add)
        m_selection.add(found);
    else if (take)
        m_selection.set(found);
    requestDraw();
    emit regionChanged();
}

// --- section and wipe
// -----------------------------------------------------------------------------------------------------

void Stage::setSection(int axis) {
    m_sectionAxis = axis;
    if (axis > 0) {
        Bnd_Box box = m_view->View()->MinMaxValues();
        m_sectionAt = box.IsVoid() ? 0.0 : 0.5 * (box.CornerMin().Coord(axis) + box.CornerMax().Coord(axis));
    }
    refreshSection();
}

void Stage::moveSection(double millimetres) {
    m_sectionAt += millimetres;
    refreshSection();
}

void Stage::flipSection() {
    m_sectionFlipped = !m_sectionFlipped;
    refreshSection();
}

void Stage::refreshSection() {
    if (m_view->Window().IsNull()) return;
    if (m_sectionAxis == 0) {
        if (!m_sectionPlane.IsNull()) m_view->RemoveClipPlane(m_sectionPlane);
        m_sectionPlane.Nullify();
        requestDraw();
        return;
    }
    gp_XYZ at(0, 0, 0), normal(0, 0, 0);
    at.SetCoord(m_sectionAxis, m_sectionAt);
    normal.SetCoord(m_sectionAxis, m_sectionFlipped ? 1.0 : -1.0);
    const gp_Pln plane{gp_Pnt(at), gp_Dir(normal)};
    if (m_sectionPlane.IsNull()) {
        m_sectionPlane = new Graphic3d_ClipPlane(plane);
        m_sectionPlane->SetCapping(true);
        m_view->AddClipPlane(m_sectionPlane);
    }
    m_sectionPlane->SetEquation(plane);
    // The cut is paper with ink lines, whatever the light.
    const Handle(Graphic3d_AspectFillArea3d) cut = new Graphic3d_AspectFillArea3d();
    cut->SetShadingModel(Graphic3d_TOSM_UNLIT);
    cut->SetInteriorStyle(Aspect_IS_SOLID);
    cut->SetInteriorColor(kernelColour(colours().dark ? QColor("#8C8578") : QColor("#E4D9BE")));
    cut->SetFaceCulling(Graphic3d_TypeOfBackfacingModel_DoubleSided);
    m_sectionPlane->SetCappingAspect(cut);
    requestDraw();
}

void Stage::setWipe(bool on) {
    if (on == m_wipe.has_value()) return;
    if (on)
        m_wipe = 0.5 * width();
    else
        m_wipe.reset();
    if (!on) m_session.forgetBeside();
    refreshWipe();
}

void Stage::moveWipe(double pixels) {
    if (!m_wipe) return;
    m_wipe = std::clamp(*m_wipe + pixels, 0.0, static_cast<double>(width()));
    refreshWipe();
}

void Stage::refreshWipe() {
    if (m_view->Window().IsNull()) return;
    makeCurrent();
    const auto without = [this](const Handle(AIS_InteractiveObject) & object,
                                const Handle(Graphic3d_ClipPlane) & plane) {
        if (!object.IsNull() && !plane.IsNull()) object->RemoveClipPlane(plane);
    };
    if (!m_wipe) {
        for (const auto& part : m_parts) without(part, m_wipeNow);
        for (const auto& part : m_received) m_context->Remove(part, false);
        m_received.clear();
        without(m_meshDrawn, m_wipeNow);
        if (!m_meshReceivedDrawn.IsNull()) m_context->Remove(m_meshReceivedDrawn, false);
        m_meshReceivedDrawn.Nullify();
        m_wipeNow.Nullify();
        m_wipeReceived.Nullify();
        doneCurrent();
        requestDraw();
        return;
    }
    // The plane through the line on the screen and the eye: the one keeps what lies right of it, the other what lies
    // left.
    const Handle(Graphic3d_Camera)& camera = m_view->Camera();
    const gp_Dir up = camera->OrthogonalizedUp(), right = camera->Direction().Crossed(up);
    double x = 0, y = 0, z = 0;
    m_view->Convert(static_cast<int>(*m_wipe * devicePixelRatioF()),
                    static_cast<int>(0.5 * height() * devicePixelRatioF()), x, y, z);
    const gp_Pnt through(x, y, z);
    gp_Dir normal = right;
    if (!camera->IsOrthographic()) normal = gp_Dir(gp_Vec(camera->Eye(), through).Crossed(gp_Vec(up)));
    const gp_Pln plane(through, normal);
    if (m_wipeNow.IsNull()) {
        m_wipeNow = new Graphic3d_ClipPlane(plane);
        m_wipeReceived = new Graphic3d_ClipPlane(plane);
    }
    m_wipeNow->SetEquation(plane);
    m_wipeReceived->SetEquation(gp_Pln(through, normal.Reversed()));
    const Model& received = m_session.beside();
    if (m_meshReceived && m_meshReceivedDrawn.IsNull()) {
        m_meshReceivedDrawn = new MeshPresentation(m_meshReceived, colours());
        m_meshReceivedDrawn->AddClipPlane(m_wipeReceived);
        m_context->Display(m_meshReceivedDrawn, 0, -1, false);
    }
    if (m_received.empty() && !m_meshReceived)
        for (std::size_t o = 0; o < received.occurrences.size(); ++o) {
            const auto& part = received.parts[received.occurrences[o].part];
            if (part->shape.IsNull()) continue;
            const Handle(PartPresentation) drawn =
                new PartPresentation(part, o, received.occurrences[o].placement, colours(), {});
            drawn->AddClipPlane(m_wipeReceived);
            m_context->Display(drawn, AIS_Shaded, -1, false);
            m_received.push_back(drawn);
        }
    std::vector<Handle(AIS_InteractiveObject)> now(m_parts.begin(), m_parts.end());
    now.emplace_back(m_meshDrawn);
    for (const auto& part : now) {
        if (part.IsNull()) continue;
        const Handle(Graphic3d_SequenceOfHClipPlane)& planes = part->ClipPlanes();
        bool has = false;
        if (!planes.IsNull())
            for (Graphic3d_SequenceOfHClipPlane::Iterator it(*planes); it.More(); it.Next())
                has = has || it.Value() == m_wipeNow;
        if (!has) part->AddClipPlane(m_wipeNow);
    }
    doneCurrent();
    requestDraw();
}

std::pair<int, int> Stage::wipeFaces() const {
    const auto count = [](const Model& model) {
        int faces = 0;
        for (const Occurrence& o : model.occurrences)
            if (!o.aside) faces += model.parts[o.part]->incidence().faceCount();
        return faces;
    };
    return {count(m_session.beside()), count(m_session.model())};
}

bool Stage::isCutAway(const gp_Pnt& point) const {
    if (m_sectionAxis == 0) return false;
    return m_sectionFlipped ? point.Coord(m_sectionAxis) < m_sectionAt : point.Coord(m_sectionAxis) > m_sectionAt;
}

bool Stage::overWipe(const QPointF& position) const {
    return m_wipe && std::abs(position.x() - *m_wipe) < grip;
}

bool Stage::overSection(const QPointF& position) const {
    return m_sectionAxis > 0 && QLineF(position, m_overlay->sectionHandle()).length() < 16.0;
}

// --- pointer and keys
// -----------------------------------------------------------------------------------------------------

void Stage::mousePressEvent(QMouseEvent* event) {
    m_pressed = m_last = event->position();
    m_drag = Drag::None;
}

void Stage::mouseMoveEvent(QMouseEvent* event) {
    const QPointF at = event->position();
    if (event->buttons() == Qt::NoButton) {
        if (!m_drawNext) {
            if (overWipe(at))
                setCursor(Qt::SizeHorCursor);
            else if (overSection(at) || m_overlay->handleAt(at) != nullptr)
                setCursor(Qt::SizeAllCursor);
            else
                unsetCursor();
        }
        hoverAt(at);
        return;
    }
    if (m_drag == Drag::None) {
        if ((at - m_pressed).manhattanLength() < dragStarts || m_view->Window().IsNull() || m_session.isEmpty()) return;
        const bool left = event->buttons() & Qt::LeftButton;
        if (!left)
            m_drag = Drag::Shift;
        else if (m_drawNext || event->modifiers() & Qt::ShiftModifier)
            m_drag = Drag::Region;
        else if (event->modifiers() & Qt::AltModifier && startJoin())
            m_drag = Drag::Join;
        else if (overWipe(m_pressed))
            m_drag = Drag::Wipe;
        else if (const StageHandle* handle = m_overlay->handleAt(m_pressed)) {
            m_handle = *handle;
            m_drag = Drag::Handle;
        } else if (overSection(m_pressed))
            m_drag = Drag::Section;
        else
            m_drag = Drag::Turn;
        if (m_drag == Drag::Region) startRegion(m_pressed, m_drawNext.value_or(RegionShape::Box));
    }
    const QPointF by = at - m_last;
    m_last = at;
    switch (m_drag) {
        case Drag::Shift:
            m_view->Pan(static_cast<int>(by.x() * devicePixelRatioF()),
                        static_cast<int>(-by.y() * devicePixelRatioF()));
            viewMoved();
            break;
        case Drag::Turn:
            turn(by.x() * 0.008, by.y() * 0.008);
            break;
        case Drag::Wipe:
            moveWipe(by.x());
            break;
        case Drag::Handle: {
            const QPointF along = screenDirection(m_handle.along);
            const double length2 = along.x() * along.x() + along.y() * along.y(), scale = pixelsPerMillimetre();
            if (scale > 0.0)
                emit handleMoved(m_handle.id, length2 > 0.02
                                                  ? (by.x() * along.x() + by.y() * along.y()) / length2 / scale
                                                  : -by.y() / scale);
            break;
        }
        case Drag::Section: {
            gp_XYZ axis(0, 0, 0);
            axis.SetCoord(m_sectionAxis, 1.0);
            const QPointF along = screenDirection(gp_Dir(axis));
            const double length2 = along.x() * along.x() + along.y() * along.y(), scale = pixelsPerMillimetre();
            // Square onto the plane its axis is a point on the screen: then up and down move it.
            if (scale > 0.0)
                moveSection(length2 > 0.02 ? (by.x() * along.x() + by.y() * along.y()) / length2 / scale
                                           : -by.y() / scale);
            break;
        }
        case Drag::Join:
            hoverAt(at);
            break;
        case Drag::Region: {
            if (!m_region) break;
            const std::vector<Pick> before = m_region->found();
            m_region->moveTo(at, event->modifiers() & Qt::AltModifier);
            if (m_region->found() != before) {
                makeCurrent();
                if (!m_regionHighlight.IsNull()) m_context->Remove(m_regionHighlight, false);
                m_regionHighlight =
                    new HighlightPresentation(m_session.model(), m_region->found(), colours().cobalt, 0.38);
                m_context->Display(m_regionHighlight, 0, -1, false);
                doneCurrent();
            }
            requestDraw();
            emit regionChanged();
            break;
        }
        case Drag::None:
            break;
    }
}

void Stage::mouseReleaseEvent(QMouseEvent* event) {
    const bool add = event->modifiers() & Qt::ControlModifier;
    if (m_drag == Drag::Region)
        endRegion(true, add);
    else if (m_drag == Drag::Join) {
        hoverAt(event->position());
        m_drag = Drag::None;
        requestDraw(false);
        if (m_dragged && m_hovered && *m_hovered != *m_dragged && select::kindOf(*m_hovered) == select::PickKind::Edge)
            emit edgeDropped(*m_dragged, *m_hovered);
        m_dragged.reset();
    } else if (m_drag == Drag::None && event->button() == Qt::LeftButton) {
        pickAt(event->position(), add);
        if (m_hoveredPoint) emit clicked(*m_hoveredPoint);
    }
    m_drag = Drag::None;
    if (m_moving) m_rest.start();
}

void Stage::wheelEvent(QWheelEvent* event) {
    if (m_view->Window().IsNull() || m_session.isEmpty()) return;
    const QPointF at = event->position() * devicePixelRatioF();
    const int steps = event->angleDelta().y() / 8;
    m_view->StartZoomAtPoint(static_cast<int>(at.x()), static_cast<int>(at.y()));
    m_view->ZoomAtPoint(0, 0, steps * 2, steps * 2);
    viewMoved();
}

bool Stage::stepBack() {
    if (m_drag == Drag::Join) {
        m_drag = Drag::None;
        m_dragged.reset();
        requestDraw(false);
        return true;
    }
    if (m_region) {
        m_drag = Drag::None;
        endRegion(false, false);
        return true;
    }
    if (m_drawNext) {
        m_drawNext.reset();
        unsetCursor();
        return true;
    }
    if (m_wipe) {
        setWipe(false);
        return true;
    }
    return false;
}

void Stage::keyPressEvent(QKeyEvent* event) {
    constexpr double step = M_PI / 24;
    const bool shift = event->modifiers() & Qt::ShiftModifier;
    const auto go = [&](int dx, int dy) {
        if (m_view->Window().IsNull()) return;
        if (m_wipe && dx != 0 && !shift) {
            moveWipe(8.0 * dx);
            return;
        }
        if (shift) {
            m_view->Pan(-40 * dx, 40 * dy);
            viewMoved();
        } else {
            turn(step * dx, step * dy);
        }
    };
    const auto zoom = [this](double by) {
        m_view->SetZoom(by);
        viewMoved();
    };
    const double fine = pixelsPerMillimetre() > 0.0 ? 8.0 / pixelsPerMillimetre() : 1.0;
    switch (event->key()) {
        case Qt::Key_Left:
            go(-1, 0);
            break;
        case Qt::Key_Right:
            go(1, 0);
            break;
        case Qt::Key_Up:
            go(0, -1);
            break;
        case Qt::Key_Down:
            go(0, 1);
            break;
        case Qt::Key_Comma:
            roll(-15.0);
            break;
        case Qt::Key_Period:
            roll(15.0);
            break;
        case Qt::Key_PageUp:
            if (m_sectionAxis > 0) moveSection(fine);
            break;
        case Qt::Key_PageDown:
            if (m_sectionAxis > 0) moveSection(-fine);
            break;
        case Qt::Key_Plus:
        case Qt::Key_Equal:
            zoom(1.25);
            break;
        case Qt::Key_Minus:
            zoom(0.8);
            break;
        default:
            QOpenGLWidget::keyPressEvent(event);
    }
}

void Stage::leaveEvent(QEvent*) {
    if (!m_hovered) return;
    makeCurrent();
    m_context->ClearDetected(false);
    doneCurrent();
    m_hovered.reset();
    m_hoveredPoint.reset();
    emit hoverChanged();
    requestDraw(false);
}

}  // namespace rasoir::app
