#include "stage/stage.h"

#include <AIS_Shape.hxx>
#include <Aspect_DisplayConnection.hxx>
#include <Aspect_NeutralWindow.hxx>
#include <Graphic3d_Camera.hxx>
#include <OpenGl_Context.hxx>
#include <OpenGl_FrameBuffer.hxx>
#include <OpenGl_GraphicDriver.hxx>
#include <OpenGl_View.hxx>
#include <OpenGl_Window.hxx>
#include <Prs3d_Drawer.hxx>
#include <QElapsedTimer>
#include <SelectMgr_SelectionManager.hxx>
#include <StdSelect_BRepOwner.hxx>
#include <V3d_AmbientLight.hxx>
#include <V3d_DirectionalLight.hxx>

namespace rasoir::app {

Stage::Stage(Session& session, QWidget* parent) : QOpenGLWidget(parent), m_session(session) {
    QSurfaceFormat format;
    format.setDepthBufferSize(24);
    format.setStencilBufferSize(8);
    format.setVersion(3, 3);
    format.setProfile(QSurfaceFormat::CoreProfile);
    setFormat(format);
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(300, 240);
    setAccessibleName("Stage");
    setAccessibleDescription("The model in three dimensions. Arrow keys turn it, F fits it.");
    m_overlay = new StageOverlay(this);
    m_overlay->setHint("Open a file, or drop one here.");

    // One connection for the program's life: the widget's context is last bound through it, and Qt unbinds it after we are gone.
    static const Handle(Aspect_DisplayConnection) display = new Aspect_DisplayConnection();
    const Handle(OpenGl_GraphicDriver) driver = new OpenGl_GraphicDriver(display, false);
    driver->ChangeOptions().buffersNoSwap = true;
    driver->ChangeOptions().buffersOpaqueAlpha = true;
    driver->ChangeOptions().useSystemBuffer = false;
    driver->ChangeOptions().sRGBDisable = true;
    m_viewer = new V3d_Viewer(driver);
    m_viewer->SetDefaultLights();
    m_viewer->SetLightOff();
    const Handle(V3d_AmbientLight) ambient = new V3d_AmbientLight(Quantity_Color(1, 1, 1, Quantity_TOC_RGB));
    // One soft light from the upper left, fixed to the camera.
    const Handle(V3d_DirectionalLight) key = new V3d_DirectionalLight(gp_Dir(0.3, -0.45, -1.0), Quantity_Color(1, 1, 1, Quantity_TOC_RGB));
    key->SetHeadlight(true);
    m_viewer->AddLight(ambient);
    m_viewer->AddLight(key);
    m_viewer->SetLightOn(ambient);
    m_viewer->SetLightOn(key);
    m_context = new AIS_InteractiveContext(m_viewer);
    m_context->SetPixelTolerance(3);
    m_view = m_viewer->CreateView();
    m_view->SetImmediateUpdate(false);
    m_view->ChangeRenderingParams().NbMsaaSamples = 4;
    m_view->SetProj(V3d_XposYnegZpos);
    applyTheme();

    connect(&Theme::instance(), &Theme::changed, this, [this] {
        applyTheme();
        rebuild();
    });
    connect(&m_session, &Session::opened, this, [this] {
        m_picks.clear();
        m_hovered.reset();
        look(SquareView::Corner);
        m_fitWanted = true;
    });
    connect(&m_session, &Session::changed, this, &Stage::rebuild);
    connect(&m_session, &Session::visibilityChanged, this, &Stage::refreshVisibility);
    connect(&m_session, &Session::selectionChanged, this, &Stage::showSelection);
}

Stage::~Stage() {
    // The viewer's buffers live in this widget's GL context.
    makeCurrent();
    m_context->RemoveAll(false);
    m_previews.clear();
    m_parts.clear();
    m_context.Nullify();
    if (!m_view.IsNull()) m_view->Remove();
    m_view.Nullify();
    m_viewer.Nullify();
    doneCurrent();
}

void Stage::applyTheme() {
    const Palette& p = colours();
    m_view->SetBackgroundColor(kernelColour(p.stage));
    for (const Prs3d_TypeOfHighlight kind : {Prs3d_TypeOfHighlight_Dynamic, Prs3d_TypeOfHighlight_LocalDynamic, Prs3d_TypeOfHighlight_Selected,
                                             Prs3d_TypeOfHighlight_LocalSelected}) {
        const Handle(Prs3d_Drawer)& style = m_context->HighlightStyle(kind);
        const bool hover = kind == Prs3d_TypeOfHighlight_Dynamic || kind == Prs3d_TypeOfHighlight_LocalDynamic;
        style->SetColor(kernelColour(p.cobalt));
        style->SetTransparency(hover ? 0.72f : 0.45f);
        style->SetDisplayMode(AIS_Shaded);
    }
}

void Stage::initializeGL() {
    const Handle(OpenGl_Context) gl = new OpenGl_Context();
    if (!gl->Init(true)) {
        m_overlay->setHint("This display has no OpenGL 3.3, so nothing can be drawn here.");
        return;
    }
    const Handle(Aspect_NeutralWindow) window = new Aspect_NeutralWindow();
    window->SetVirtual(true);
    // The viewer asks X for the visual of a window: of ours, not of the buffer that is drawn into. (This widget's own winId()
    // would make it native and break its context.)
    window->SetNativeHandle(static_cast<Aspect_Drawable>(this->window()->winId()));
    window->SetSize(std::max(1, static_cast<int>(width() * devicePixelRatioF())), std::max(1, static_cast<int>(height() * devicePixelRatioF())));
    m_view->SetWindow(window, gl->RenderingContext());
    rebuild();
}

void Stage::paintGL() {
    if (m_view->Window().IsNull()) return;
    const Handle(OpenGl_GraphicDriver) driver = Handle(OpenGl_GraphicDriver)::DownCast(m_viewer->Driver());
    const Handle(OpenGl_Context)& gl = driver->GetSharedContext();
    Handle(OpenGl_FrameBuffer) buffer = gl->DefaultFrameBuffer();
    if (buffer.IsNull()) {
        buffer = new OpenGl_FrameBuffer();
        gl->SetDefaultFrameBuffer(buffer);
    }
    if (!buffer->InitWrapper(gl)) return;
    const Graphic3d_Vec2i size = buffer->GetVPSize();
    const Handle(Aspect_NeutralWindow) window = Handle(Aspect_NeutralWindow)::DownCast(m_view->Window());
    Graphic3d_Vec2i before;
    window->Size(before.x(), before.y());
    if (size != before) {
        window->SetSize(size.x(), size.y());
        m_view->MustBeResized();
        m_sceneDirty = true;
    }
    if (m_fitWanted && !m_session.isEmpty()) {
        m_fitWanted = false;
        m_view->FitAll(0.05, false);
        m_sceneDirty = true;
        QMetaObject::invokeMethod(this, &Stage::viewChanged, Qt::QueuedConnection);
    }
    m_view->InvalidateImmediate();
    if (m_sceneDirty) {
        m_view->Invalidate();
        m_sceneDirty = false;
    }
    m_view->Redraw();
}

void Stage::requestDraw(bool scene) {
    m_sceneDirty = m_sceneDirty || scene;
    update();
    if (scene) m_overlay->update();
}

void Stage::resizeEvent(QResizeEvent* event) {
    QOpenGLWidget::resizeEvent(event);
    m_overlay->setGeometry(rect());
}

void Stage::activate(const Handle(PartPresentation)& presentation) {
    m_context->Deactivate(presentation);
    // Only what its manager has been given can be activated; displaying without a mode does not give it.
    m_context->SelectionManager()->Load(presentation);
    if (m_pickMode == PickMode::Parts) {
        m_context->Activate(presentation, AIS_Shape::SelectionMode(TopAbs_SHAPE), true);
        return;
    }
    m_context->Activate(presentation, AIS_Shape::SelectionMode(TopAbs_FACE), true);
    m_context->Activate(presentation, AIS_Shape::SelectionMode(TopAbs_EDGE), true);
}

void Stage::rebuild() {
    if (m_view->Window().IsNull()) return;
    makeCurrent();
    const Model& model = m_session.model();
    m_overlay->setHint(model.parts.empty() ? "Open a file, or drop one here." : "");
    std::vector<Handle(PartPresentation)> next(model.occurrences.size());
    // Parts that did not change keep their drawing.
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const auto& part = model.parts[model.occurrences[o].part];
        if (part->shape.IsNull()) continue;
        next[o] = new PartPresentation(part, o, model.occurrences[o].placement, colours(), m_partColours);
    }
    m_context->ClearDetected(false);
    m_context->RemoveAll(false);
    m_previews.clear();
    m_picks.clear();
    m_hovered.reset();
    m_parts = std::move(next);
    for (std::size_t o = 0; o < m_parts.size(); ++o) {
        if (m_parts[o].IsNull() || m_session.isHidden(o)) continue;
        m_context->Display(m_parts[o], AIS_Shaded, -1, false);
        activate(m_parts[o]);
    }
    showSelection();
    doneCurrent();
    emit picksChanged();
    emit hoverChanged();
    requestDraw();
}

void Stage::refreshVisibility() {
    if (m_view->Window().IsNull()) return;
    makeCurrent();
    for (std::size_t o = 0; o < m_parts.size(); ++o) {
        if (m_parts[o].IsNull()) continue;
        const bool shown = m_context->IsDisplayed(m_parts[o]);
        if (m_session.isHidden(o) == !shown) continue;
        if (shown) {
            m_context->Erase(m_parts[o], false);
        } else {
            m_context->Display(m_parts[o], AIS_Shaded, -1, false);
            activate(m_parts[o]);
        }
    }
    doneCurrent();
    requestDraw();
}

void Stage::showSelection() {
    // A selected part is told by its row and by what the bench speaks of; painting it over would hide the findings.
    requestDraw();
}

void Stage::setPickMode(PickMode mode) {
    m_pickMode = mode;
    if (m_view->Window().IsNull()) return;
    clearPicks();
    for (const Handle(PartPresentation)& part : m_parts)
        if (!part.IsNull() && m_context->IsDisplayed(part)) activate(part);
}

void Stage::setPartColours(bool on) {
    m_partColours = on;
    rebuild();
}

void Stage::setPreview(std::vector<PreviewFaces> goes, std::vector<PreviewFaces> kept, std::vector<StageMark> marks) {
    if (m_view->Window().IsNull()) return;
    makeCurrent();
    for (const auto& preview : m_previews) m_context->Remove(preview, false);
    m_previews.clear();
    const Palette& p = colours();
    for (const auto& [faces, colour] : {std::pair{&goes, p.brass}, {&kept, p.plum}}) {
        if (faces->empty()) continue;
        for (const bool through : {false, true}) {
            const Handle(PreviewPresentation) preview = new PreviewPresentation(*faces, colour, through ? 0.26 : 0.88, through);
            m_context->Display(preview, 0, -1, false);
            m_previews.push_back(preview);
        }
    }
    doneCurrent();
    m_overlay->setMarks(std::move(marks));
    requestDraw();
}

void Stage::fit(bool selectedOnly) {
    if (m_view->Window().IsNull()) return;
    if (selectedOnly && !m_session.selectedOccurrences().empty()) {
        Bnd_Box box;
        for (const std::size_t o : m_session.selectedOccurrences())
            if (o < m_parts.size() && !m_parts[o].IsNull()) {
                Bnd_Box own;
                m_parts[o]->BoundingBox(own);
                box.Add(own);
            }
        if (!box.IsVoid()) m_view->FitAll(box, 0.05, false);
    } else {
        m_view->FitAll(0.05, false);
    }
    requestDraw();
    emit viewChanged();
}

void Stage::look(SquareView view) {
    switch (view) {
        case SquareView::Front: m_view->SetProj(V3d_Yneg); break;
        case SquareView::Back: m_view->SetProj(V3d_Ypos); break;
        case SquareView::Left: m_view->SetProj(V3d_Xneg); break;
        case SquareView::Right: m_view->SetProj(V3d_Xpos); break;
        case SquareView::Top: m_view->SetProj(V3d_Zpos); break;
        case SquareView::Bottom: m_view->SetProj(V3d_Zneg); break;
        case SquareView::Corner:
            m_view->SetProj(0.75, 0.9, 0.55);
            m_view->SetTwist(0.0);
            break;
    }
    fit();
}

void Stage::setPerspective(bool on) {
    m_perspective = on;
    m_view->Camera()->SetProjectionType(on ? Graphic3d_Camera::Projection_Perspective : Graphic3d_Camera::Projection_Orthographic);
    fit();
}

void Stage::zoomTo(const gp_Pnt& point, double size) {
    Bnd_Box box;
    box.Add(point);
    box.Enlarge(std::max(size, 1e-6) * 1.5);
    m_view->FitAll(box, 0.05, false);
    requestDraw();
    emit viewChanged();
}

QPointF Stage::toPixels(const gp_Pnt& point) const {
    if (m_view->Window().IsNull()) return {};
    int x = 0, y = 0;
    m_view->Convert(point.X(), point.Y(), point.Z(), x, y);
    return QPointF(x, y) / devicePixelRatioF();
}

QPointF Stage::screenDirection(const gp_Dir& direction) const {
    const Handle(Graphic3d_Camera)& camera = m_view->Camera();
    const gp_Dir up = camera->OrthogonalizedUp(), right = camera->Direction().Crossed(up);
    return {direction.Dot(right), -direction.Dot(up)};
}

double Stage::pixelsPerMillimetre() const {
    double w = 0, h = 0;
    if (m_view->Window().IsNull()) return 0.0;
    m_view->Size(w, h);
    return h > 0.0 ? height() / h : 0.0;
}

std::optional<StagePick> Stage::detected() const {
    if (!m_context->HasDetected()) return std::nullopt;
    const Handle(PartPresentation) part = Handle(PartPresentation)::DownCast(m_context->DetectedInteractive());
    if (part.IsNull()) return std::nullopt;
    StagePick pick{part->occurrence(), 0, 0};
    const Handle(StdSelect_BRepOwner) owner = Handle(StdSelect_BRepOwner)::DownCast(m_context->DetectedOwner());
    if (!owner.IsNull() && owner->HasShape() && m_pickMode != PickMode::Parts) {
        if (owner->Shape().ShapeType() == TopAbs_FACE) pick.face = part->part().incidence().faceNumber(owner->Shape());
        if (owner->Shape().ShapeType() == TopAbs_EDGE) pick.edge = part->part().incidence().edgeNumber(owner->Shape());
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
    const auto now = detected();
    m_hoverSeconds = 1e-9 * static_cast<double>(timer.nsecsElapsed());
    if (now != m_hovered) {
        m_hovered = now;
        emit hoverChanged();
    }
    requestDraw(false);
}

void Stage::pickAt(const QPointF& position, bool add) {
    hoverAt(position);
    makeCurrent();
    m_context->SelectDetected(add ? AIS_SelectionScheme_XOR : AIS_SelectionScheme_Replace);
    doneCurrent();
    const auto now = detected();
    if (!add) m_picks.clear();
    if (now) {
        const auto found = std::find(m_picks.begin(), m_picks.end(), *now);
        if (found == m_picks.end()) m_picks.push_back(*now);
        else m_picks.erase(found);
        std::set<std::size_t> occurrences;
        for (const StagePick& pick : m_picks) occurrences.insert(pick.occurrence);
        m_session.selectOccurrences(occurrences);
    } else if (!add) {
        m_session.selectOccurrences({});
    }
    emit picksChanged();
    requestDraw();
}

void Stage::clearPicks() {
    makeCurrent();
    m_context->ClearSelected(false);
    doneCurrent();
    m_picks.clear();
    emit picksChanged();
    requestDraw();
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
    requestDraw();
    emit viewChanged();
}

void Stage::mousePressEvent(QMouseEvent* event) {
    m_pressed = m_last = event->position();
    m_dragging = false;
}

void Stage::mouseMoveEvent(QMouseEvent* event) {
    const QPointF at = event->position();
    if (event->buttons() == Qt::NoButton) {
        hoverAt(at);
        return;
    }
    if (!m_dragging && (at - m_pressed).manhattanLength() < 4) return;
    m_dragging = true;
    const QPointF by = at - m_last;
    m_last = at;
    if (m_view->Window().IsNull() || m_session.isEmpty()) return;
    if (event->buttons() & (Qt::MiddleButton | Qt::RightButton)) {
        m_view->Pan(static_cast<int>(by.x() * devicePixelRatioF()), static_cast<int>(-by.y() * devicePixelRatioF()));
        requestDraw();
        emit viewChanged();
    } else {
        turn(by.x() * 0.008, by.y() * 0.008);
    }
}

void Stage::mouseReleaseEvent(QMouseEvent* event) {
    if (!m_dragging && event->button() == Qt::LeftButton) pickAt(event->position(), event->modifiers() & Qt::ControlModifier);
    m_dragging = false;
}

void Stage::wheelEvent(QWheelEvent* event) {
    if (m_view->Window().IsNull() || m_session.isEmpty()) return;
    const QPointF at = event->position() * devicePixelRatioF();
    const int steps = event->angleDelta().y() / 8;
    m_view->StartZoomAtPoint(static_cast<int>(at.x()), static_cast<int>(at.y()));
    m_view->ZoomAtPoint(0, 0, steps * 2, steps * 2);
    requestDraw();
    emit viewChanged();
}

void Stage::keyPressEvent(QKeyEvent* event) {
    constexpr double step = M_PI / 24;
    const bool shift = event->modifiers() & Qt::ShiftModifier;
    const auto go = [&](int dx, int dy) {
        if (m_view->Window().IsNull()) return;
        if (shift) m_view->Pan(-40 * dx, 40 * dy);
        else turn(step * dx, step * dy);
        requestDraw();
        emit viewChanged();
    };
    switch (event->key()) {
        case Qt::Key_Left: go(-1, 0); break;
        case Qt::Key_Right: go(1, 0); break;
        case Qt::Key_Up: go(0, -1); break;
        case Qt::Key_Down: go(0, 1); break;
        case Qt::Key_Plus:
        case Qt::Key_Equal: m_view->SetZoom(1.25); requestDraw(); emit viewChanged(); break;
        case Qt::Key_Minus: m_view->SetZoom(0.8); requestDraw(); emit viewChanged(); break;
        default: QOpenGLWidget::keyPressEvent(event);
    }
}

void Stage::leaveEvent(QEvent*) {
    if (!m_hovered) return;
    makeCurrent();
    m_context->ClearDetected(false);
    doneCurrent();
    m_hovered.reset();
    emit hoverChanged();
    requestDraw(false);
}

}  // namespace rasoir::app
