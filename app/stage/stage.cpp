#include "stage/stage.h"

#include <AIS_Shape.hxx>
#include <Aspect_DisplayConnection.hxx>
#include <Aspect_NeutralWindow.hxx>
#include <gp_Ax2.hxx>
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

#include "measure/between.h"
#include "words.h"

namespace rasoir::app {
namespace {
constexpr std::size_t heavyScene = 250000;  // triangles that software drawing still turns at ten pictures a second
constexpr std::size_t manyPlugs = 3000;
}  // namespace

Stage::Stage(Session& session, Selection& selection, QWidget* parent)
    : QOpenGLWidget(parent), m_session(session), m_selection(selection) {
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

    // One connection for the program's life: the widget's context is last bound through it, and Qt unbinds it after we
    // are gone.
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
    const Handle(V3d_DirectionalLight) key =
        new V3d_DirectionalLight(gp_Dir(0.3, -0.45, -1.0), Quantity_Color(1, 1, 1, Quantity_TOC_RGB));
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
        m_themeChanged = true;
        rebuild();
    });
    connect(&m_session, &Session::opened, this, [this] {
        m_hovered.reset();
        m_pins.clear();
        m_goingPlaces.clear();
        m_goingMarks.clear();
        m_wipe.reset();
        m_sectionAxis = 0;
        look(SquareView::Corner);
        m_fitWanted = true;
    });
    connect(&m_session, &Session::changed, this, &Stage::rebuild);
    connect(&m_session.places(), &PlaceView::visibilityChanged, this, &Stage::refreshVisibility);
    connect(&m_session, &Session::besideChanged, this, [this] {
        if (m_view->Window().IsNull()) return;
        makeCurrent();
        for (const auto& part : m_received) m_context->Remove(part, false);
        m_received.clear();
        doneCurrent();
        refreshWipe();
    });
    connect(&m_session, &Session::knowledgeChanged, this, [this] {
        if (m_colourBy == ColourBy::Thickness) rebuild();
    });
    m_rest.setSingleShot(true);
    m_rest.setInterval(350);
    connect(&m_rest, &QTimer::timeout, this, &Stage::endMoving);
    connect(&m_selection, &Selection::changed, this, &Stage::showSelection);
    connect(&m_session.places(), &PlaceView::selectionChanged, this, [this] {
        if (m_tintsParts) showSelection();
    });
    connect(&m_selection, &Selection::filterChanged, this, [this] {
        if (m_view->Window().IsNull()) return;
        makeCurrent();
        for (const Handle(PartPresentation) & part : m_parts)
            if (!part.IsNull() && m_context->IsDisplayed(part)) activate(part);
        doneCurrent();
    });
}

Stage::~Stage() {
    // The viewer's buffers live in this widget's GL context.
    makeCurrent();
    m_context->RemoveAll(false);
    m_previews.clear();
    m_parts.clear();
    m_received.clear();
    m_coarse.Nullify();
    m_highlight.Nullify();
    m_regionHighlight.Nullify();
    m_going.Nullify();
    m_context.Nullify();
    if (!m_view.IsNull()) m_view->Remove();
    m_view.Nullify();
    m_viewer.Nullify();
    doneCurrent();
}

void Stage::applyTheme() {
    const Palette& p = colours();
    m_view->SetBackgroundColor(kernelColour(p.stage));
    for (const Prs3d_TypeOfHighlight kind : {Prs3d_TypeOfHighlight_Dynamic, Prs3d_TypeOfHighlight_LocalDynamic,
                                             Prs3d_TypeOfHighlight_Selected, Prs3d_TypeOfHighlight_LocalSelected}) {
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
    // The viewer asks X for the visual of a window: of ours, not of the buffer that is drawn into. (This widget's own
    // winId() would make it native and break its context.)
    window->SetNativeHandle(static_cast<Aspect_Drawable>(this->window()->winId()));
    window->SetSize(std::max(1, static_cast<int>(width() * devicePixelRatioF())),
                    std::max(1, static_cast<int>(height() * devicePixelRatioF())));
    m_view->SetWindow(window, gl->RenderingContext());
    rebuild();
}

void Stage::paintGL() {
    if (m_view->Window().IsNull()) return;
    QElapsedTimer timer;
    timer.start();
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
        QMetaObject::invokeMethod(this, &Stage::viewMoved, Qt::QueuedConnection);
    }
    const Handle(Graphic3d_Camera)& camera = m_view->Camera();
    m_session.sight()->set(gp_Lin(camera->Center(), camera->Direction()));
    m_view->InvalidateImmediate();
    if (m_sceneDirty) {
        m_view->Invalidate();
        m_sceneDirty = false;
    }
    m_view->Redraw();
    m_drawSeconds = 1e-9 * static_cast<double>(timer.nsecsElapsed());
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

void Stage::activate(const Handle(PartPresentation) & presentation) {
    m_context->Deactivate(presentation);
    if (presentation->look().ghost) return;
    // Only what its manager has been given can be activated; displaying without a mode does not give it.
    m_context->SelectionManager()->Load(presentation);
    const auto take = [&](TopAbs_ShapeEnum kind) {
        m_context->Activate(presentation, AIS_Shape::SelectionMode(kind), true);
    };
    switch (m_selection.filter()) {
        case PickFilter::Parts:
            take(TopAbs_SHAPE);
            break;
        case PickFilter::Bodies:
            take(TopAbs_SOLID);
            break;
        case PickFilter::Faces:
            take(TopAbs_FACE);
            break;
        case PickFilter::Edges:
            take(TopAbs_EDGE);
            break;
        case PickFilter::Vertices:
            take(TopAbs_VERTEX);
            break;
        case PickFilter::FacesAndEdges:
            take(TopAbs_FACE);
            take(TopAbs_EDGE);
    }
}

bool Stage::isShown(std::size_t occurrence) const {
    return !m_session.places().isHidden(occurrence) &&
           (m_session.places().showsAside() || !m_session.model().occurrences[occurrence].aside);
}

PartLook Stage::lookOf(std::size_t o) const {
    const Model& model = m_session.model();
    const Occurrence& occurrence = model.occurrences[o];
    const Part& part = *model.parts[occurrence.part];
    PartLook look;
    look.ghost = occurrence.aside || part.lump || m_session.places().ghosts().contains(o);
    look.convexity = m_colourBy == ColourBy::Convexity;
    const auto hidden = m_session.places().hiddenFaces().find(o);
    if (hidden != m_session.places().hiddenFaces().end()) look.hiddenFaces = hidden->second;
    const bool inSet = o < m_sets.size() && m_sets[o] >= 0;
    if (!inSet && (m_colourBy == ColourBy::Bone || m_colourBy == ColourBy::Convexity)) return look;
    const int faces = part.incidence().faceCount();
    look.faceColours.resize(static_cast<std::size_t>(faces) + 1);
    // Hues that stay apart on paper and on ink, in the order of appearance.
    const auto hue = [](std::size_t index) {
        return QColor::fromHslF(static_cast<float>(std::fmod(0.08 + 0.381966 * static_cast<double>(index), 1.0)), 0.36f,
                                colours().dark ? 0.58f : 0.80f);
    };
    if (inSet) {
        std::fill(look.faceColours.begin(), look.faceColours.end(), hue(static_cast<std::size_t>(m_sets[o])));
        return look;
    }
    // Bodies are counted through all places, so that two of one place are told apart and two places too.
    std::size_t firstBody = 0;
    if (m_colourBy == ColourBy::Body)
        for (std::size_t earlier = 0; earlier < o; ++earlier)
            firstBody +=
                static_cast<std::size_t>(model.parts[model.occurrences[earlier].part]->incidence().solidCount());
    if (m_colourBy == ColourBy::Group) {
        for (std::size_t g = 0; g < model.groups.size(); ++g) {
            const Group& group = model.groups[g];
            const QColor tone = group.colour ? screenColour(*group.colour) : hue(g);
            for (auto it = group.members.lower_bound({part.id, everyPlace, {}});
                 it != group.members.end() && it->part == part.id; ++it) {
                if (it->place != everyPlace && it->place != occurrence.id) continue;
                const auto tint = [&](int face) { look.faceColours[static_cast<std::size_t>(face)] = tone; };
                if (it->entity.kind == EntityKind::Face && it->entity.number <= faces) tint(it->entity.number);
                if (it->entity.kind == EntityKind::Body && it->entity.number <= part.incidence().bodyCount())
                    for (TopExp_Explorer face(part.incidence().body(it->entity.number), TopAbs_FACE); face.More();
                         face.Next())
                        if (const int number = part.incidence().faceNumber(face.Current())) tint(number);
            }
        }
        return look;
    }
    for (int f = 1; f <= faces; ++f) {
        QColor& colour = look.faceColours[static_cast<std::size_t>(f)];
        switch (m_colourBy) {
            case ColourBy::Received:
                if (const auto own = select::drawnColour(model, o, f)) colour = screenColour(*own);
                break;
            case ColourBy::Part:
                colour = hue(occurrence.part);
                break;
            case ColourBy::Body:
                colour = part.incidence().bodyOf(f) >= 0
                             ? hue(firstBody + static_cast<std::size_t>(part.incidence().bodyOf(f)))
                             : QColor();
                break;
            case ColourBy::Material: {
                const auto found = std::find_if(model.materials.begin(), model.materials.end(),
                                                [&part](const Material& m) { return m.name == part.material; });
                if (found != model.materials.end())
                    colour = hue(static_cast<std::size_t>(found - model.materials.begin()));
                break;
            }
            case ColourBy::Thickness: {
                const PartKnowledge* known = m_session.knowledge(occurrence.part);
                if (known == nullptr || !known->thickness) break;
                const double thickness = known->thickness->thicknessOfFace[static_cast<std::size_t>(f)];
                if (thickness <= 0.0) break;
                const double limit = m_thicknessLimit > 0.0 ? m_thicknessLimit : 2.0 * model.targetSize;
                // Brass up to the limit, the thinner the deeper; beyond it from bone to slate.
                if (thickness <= limit * (1 + 1e-6))
                    colour = QColor::fromHslF(0.107f, 0.68f, static_cast<float>(0.36 + 0.24 * thickness / limit));
                else
                    colour = QColor::fromHslF(
                        0.58f, 0.14f,
                        static_cast<float>(0.80 - 0.42 * std::min(1.0, std::log2(thickness / limit) / 5.0)));
                break;
            }
            default:
                break;
        }
    }
    return look;
}

void Stage::rebuild() {
    if (m_view->Window().IsNull()) return;
    makeCurrent();
    const Model& model = m_session.model();
    m_context->ClearDetected(false);
    std::vector<Handle(PartPresentation)> next(model.occurrences.size());
    std::vector<bool> stays(m_parts.size(), false);
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const auto& part = model.parts[model.occurrences[o].part];
        if (part->shape.IsNull()) continue;
        // Parts that did not change keep their drawing.
        if (o < m_parts.size() && !m_parts[o].IsNull() && !m_themeChanged &&
            m_parts[o]->part().shape.IsEqual(part->shape) &&
            m_parts[o]->partPointer()->known.colours == part->known.colours) {
            const gp_Trsf apart = m_parts[o]->LocalTransformation().Inverted() * drawnAt(o);
            if (apart.Form() == gp_Identity && m_parts[o]->look() == lookOf(o)) {
                next[o] = m_parts[o];
                next[o]->setPart(part);
                stays[o] = true;
                continue;
            }
        }
        next[o] = new PartPresentation(part, o, drawnAt(o), colours(), lookOf(o));
    }
    m_themeChanged = false;
    for (std::size_t o = 0; o < m_parts.size(); ++o)
        if (!m_parts[o].IsNull() && !stays[o]) m_context->Remove(m_parts[o], false);
    for (const auto& preview : m_previews) m_context->Remove(preview, false);
    m_previews.clear();
    for (const auto& [o, drawn] : m_result) m_context->Remove(drawn, false);
    m_result.clear();
    m_replaced.clear();
    m_hovered.reset();
    m_rays.reset();
    m_parts = std::move(next);
    doneCurrent();
    refreshVisibility();
    showSelection();
    refreshWipe();
    refreshSection();
    emit hoverChanged();
    requestDraw();
}

void Stage::refreshVisibility() {
    if (m_view->Window().IsNull()) return;
    makeCurrent();
    for (std::size_t o = 0; o < m_parts.size(); ++o) {
        if (m_parts[o].IsNull()) continue;
        const bool wanted = isShown(o) && !m_replaced.contains(o) && !m_mesh,
                   shown = m_context->IsDisplayed(m_parts[o]);
        if (wanted && !(m_parts[o]->look() == lookOf(o))) {
            m_context->Remove(m_parts[o], false);
            const auto& part = m_session.model().parts[m_session.model().occurrences[o].part];
            m_parts[o] = new PartPresentation(part, o, drawnAt(o), colours(), lookOf(o));
        } else if (wanted == shown) {
            continue;
        }
        if (wanted) {
            m_context->Display(m_parts[o], AIS_Shaded, -1, false);
            activate(m_parts[o]);
        } else {
            m_context->Erase(m_parts[o], false);
        }
    }
    m_rays.reset();
    doneCurrent();
    weigh();
    refreshWipe();
    requestDraw();
}

void Stage::showSelection() {
    if (m_view->Window().IsNull()) return;
    makeCurrent();
    if (!m_highlight.IsNull()) m_context->Remove(m_highlight, false);
    m_highlight.Nullify();
    std::vector<Pick> seen;
    for (const Pick& pick : m_selection.picks())
        if (pick.occurrence < m_parts.size() && isShown(pick.occurrence)) seen.push_back(pick);
    const bool parts = seen.empty() && m_tintsParts;
    if (parts)
        for (const std::size_t o : m_session.places().selected())
            if (o < m_parts.size() && isShown(o)) seen.push_back({o});
    if (!seen.empty()) {
        m_highlight = new HighlightPresentation(m_session.model(), seen, colours().cobalt, parts ? 0.34 : 0.55);
        m_context->Display(m_highlight, 0, -1, false);
    }
    doneCurrent();
    requestDraw();
}

void Stage::showMarks() {
    std::vector<StageMark> all = m_previewMarks;
    all.insert(all.end(), m_goingMarks.begin(), m_goingMarks.end());
    m_overlay->setMarks(std::move(all));
}

void Stage::setGoing(std::vector<std::size_t> occurrences) {
    if (occurrences == m_goingPlaces || m_view->Window().IsNull()) return;
    m_goingPlaces = std::move(occurrences);
    makeCurrent();
    if (!m_going.IsNull()) m_context->Remove(m_going, false);
    m_going.Nullify();
    std::vector<Pick> parts;
    std::vector<StageMark> marks;
    for (const std::size_t o : m_goingPlaces) {
        if (o >= m_parts.size() || m_parts[o].IsNull() || !isShown(o)) continue;
        parts.push_back({o});
        Bnd_Box box;
        m_parts[o]->BoundingBox(box);
        if (!box.IsVoid())
            marks.push_back({gp_Pnt(0.5 * (box.CornerMin().XYZ() + box.CornerMax().XYZ())), false, false,
                             box.CornerMin().Distance(box.CornerMax())});
    }
    m_goingMarks = std::move(marks);
    showMarks();
    if (!parts.empty()) {
        m_going = new HighlightPresentation(m_session.model(), parts, colours().brass, 0.62);
        m_context->Display(m_going, 0, -1, false);
    }
    doneCurrent();
    requestDraw();
}

void Stage::setTintsParts(bool on) {
    m_tintsParts = on;
    showSelection();
}

void Stage::setColourBy(ColourBy by) {
    m_colourBy = by;
    refreshVisibility();
}

void Stage::setThicknessLimit(double millimetres) {
    if (millimetres == m_thicknessLimit) return;
    m_thicknessLimit = millimetres;
    if (m_colourBy == ColourBy::Thickness) refreshVisibility();
}

void Stage::addPin(Pin pin) {
    m_pins.push_back(std::move(pin));
    m_overlay->update();
}

void Stage::clearPins() {
    m_pins.clear();
    m_overlay->update();
}

void Stage::setResult(const Model* model, const std::vector<PartLineage>& lineage) {
    if (m_view->Window().IsNull() || (model == nullptr && m_result.empty())) return;
    const Model& now = m_session.model();
    // Places of the model that would come, each with the place that is shown now and gives way to it. A place is known
    // again by its id; what a cut makes of it stands in its stead under ids of its own.
    struct Shown {
        std::shared_ptr<const Part> part;
        std::size_t place = 0, partIndex = 0;
    };
    std::map<std::size_t, Shown> wanted;  // by occurrence of the model that would come
    std::set<std::size_t> replaced;       // occurrences shown now
    if (model != nullptr) {
        std::map<PlaceId, std::size_t> before;
        for (std::size_t o = 0; o < now.occurrences.size(); ++o) before.emplace(now.occurrences[o].id, o);
        std::set<std::size_t> stays;
        for (std::size_t o = 0; o < model->occurrences.size(); ++o) {
            const Occurrence& place = model->occurrences[o];
            const auto& part = model->parts[place.part];
            if (part->shape.IsNull() || place.aside) continue;
            const auto known = before.find(place.id);
            if (known != before.end()) {
                stays.insert(known->second);
                const Part& old = *now.parts[now.occurrences[known->second].part];
                if (!isShown(known->second) || part->shape.IsEqual(old.shape)) continue;
                replaced.insert(known->second);
            }
            wanted.emplace(o, Shown{part, known == before.end() ? o : known->second, place.part});
        }
        for (std::size_t o = 0; o < now.occurrences.size(); ++o)
            if (!stays.contains(o)) replaced.insert(o);
    }
    // Asked again whenever the pointer moves over the findings: what is drawn already stays.
    if (std::equal(wanted.begin(), wanted.end(), m_result.begin(), m_result.end(), [](const auto& a, const auto& b) {
            return a.first == b.first && a.second.part == b.second->partPointer();
        }))
        return;
    makeCurrent();
    for (const auto& [o, drawn] : m_result) m_context->Remove(drawn, false);
    m_result.clear();
    m_replaced = std::move(replaced);
    for (const auto& [o, shown] : wanted) {
        const auto& [part, place, p] = shown;
        // What is new stands out; a wide face that lost a hole only hints at it.
        const auto tint = [](double share) {
            const QColor &from = colours().body, &to = colours().brass;
            const auto mix = [share](double a, double b) { return static_cast<float>(a + share * (b - a)); };
            return QColor::fromRgbF(mix(from.redF(), to.redF()), mix(from.greenF(), to.greenF()),
                                    mix(from.blueF(), to.blueF()));
        };
        PartLook look;
        look.faceColours.resize(static_cast<std::size_t>(part->incidence().faceCount()) + 1);
        // Pieces of one body are told apart by two tints in turn.
        const bool isPiece = !std::any_of(now.occurrences.begin(), now.occurrences.end(),
                                          [&](const Occurrence& one) { return one.id == model->occurrences[o].id; });
        if (isPiece && o % 2 == 1) look.faceColours.assign(look.faceColours.size(), tint(0.12));
        for (const PartLineage& own : lineage) {
            if (own.into != p || own.untouched) continue;
            const Descents faces(own.faces());
            for (int f = 1; f <= part->incidence().faceCount(); ++f)
                if (const Descent origin = faces.originOf(f); origin == Descent::Made)
                    look.faceColours[static_cast<std::size_t>(f)] = tint(0.7);
                else if (origin != Descent::Kept && !isPiece)
                    look.faceColours[static_cast<std::size_t>(f)] = tint(0.2);
        }
        const Handle(PartPresentation) drawn =
            new PartPresentation(part, place, model->occurrences[o].placement, colours(), look);
        m_context->Display(drawn, AIS_Shaded, -1, false);
        m_context->Deactivate(drawn);
        m_result.emplace(o, drawn);
    }
    doneCurrent();
    refreshVisibility();
}

void Stage::setMesh(std::shared_ptr<const StageMesh> now, std::shared_ptr<const StageMesh> received) {
    if (m_view->Window().IsNull() || (now == m_mesh && received == m_meshReceived)) return;
    makeCurrent();
    for (auto* drawn : {&m_meshDrawn, &m_meshReceivedDrawn}) {
        if (!drawn->IsNull()) m_context->Remove(*drawn, false);
        drawn->Nullify();
    }
    m_mesh = std::move(now);
    m_meshReceived = std::move(received);
    if (m_mesh) {
        m_meshDrawn = new MeshPresentation(m_mesh, colours());
        m_context->Display(m_meshDrawn, 0, -1, false);
    }
    if (m_wipe) {
        // What is drawn left of the wipe is made anew.
        for (const auto& part : m_received) m_context->Remove(part, false);
        m_received.clear();
    }
    doneCurrent();
    refreshVisibility();
}

void Stage::setDrawn(std::vector<StageLine> lines, std::vector<StageHandle> handles) {
    m_overlay->setDrawn(std::move(lines), std::move(handles));
}

gp_Trsf Stage::drawnAt(std::size_t occurrence) const {
    gp_Trsf move;
    if (occurrence < m_apart.size()) move.SetTranslation(m_apart[occurrence]);
    return move * m_session.model().occurrences[occurrence].placement;
}

void Stage::setApart(std::vector<int> sets, std::vector<gp_Vec> apart) {
    if (m_view->Window().IsNull()) return;
    const bool moved = apart.size() != m_apart.size() ||
                       !std::equal(apart.begin(), apart.end(), m_apart.begin(),
                                   [](const gp_Vec& a, const gp_Vec& b) { return a.IsEqual(b, 1e-9, 1e-9); });
    if (!moved && sets == m_sets) return;
    m_apart = std::move(apart);
    m_sets = std::move(sets);
    makeCurrent();
    for (std::size_t o = 0; moved && o < m_parts.size() && o < m_session.model().occurrences.size(); ++o)
        if (!m_parts[o].IsNull()) m_context->SetLocation(m_parts[o], TopLoc_Location(drawnAt(o)));
    doneCurrent();
    refreshVisibility();  // where the tone is another one
    requestDraw();
}

void Stage::setPreview(std::vector<PreviewFaces> goes, std::vector<PreviewFaces> kept, std::vector<StageMark> marks,
                       std::vector<std::vector<PreviewFaces>> bands) {
    if (m_view->Window().IsNull()) return;
    makeCurrent();
    for (const auto& preview : m_previews) m_context->Remove(preview, false);
    m_previews.clear();
    const Palette& p = colours();
    std::vector<std::pair<const std::vector<PreviewFaces>*, QColor>> shown{{&goes, p.brass}, {&kept, p.plum}};
    for (std::size_t b = 0; b < bands.size(); ++b) {
        const double pale = bands.size() > 1 ? static_cast<double>(b) / static_cast<double>(bands.size() - 1) : 0.0;
        const auto mixed = [pale](int near, int far) { return static_cast<int>(near + pale * (far - near)); };
        const QColor far = p.cobaltTint;
        shown.emplace_back(&bands[b], QColor(mixed(p.brass.red(), far.red()), mixed(p.brass.green(), far.green()),
                                             mixed(p.brass.blue(), far.blue())));
    }
    for (const auto& [faces, colour] : shown) {
        if (faces->empty()) continue;
        std::size_t plugs = 0;
        for (const PreviewFaces& entry : *faces) plugs += entry.faces.size();
        for (const bool through : {false, true}) {
            if (through && plugs > manyPlugs) continue;  // thousands of plugs shining through are fog, and slow
            const Handle(PreviewPresentation) preview =
                new PreviewPresentation(*faces, colour, through ? 0.26 : 0.88, through);
            m_context->Display(preview, 0, -1, false);
            m_previews.push_back(preview);
        }
    }
    doneCurrent();
    m_previewMarks = std::move(marks);
    showMarks();
    requestDraw();
}

void Stage::fit(bool selectedOnly) {
    if (m_view->Window().IsNull()) return;
    if (selectedOnly && !m_session.places().selected().empty()) {
        Bnd_Box box;
        for (const std::size_t o : m_session.places().selected())
            if (o < m_parts.size() && !m_parts[o].IsNull()) {
                Bnd_Box own;
                m_parts[o]->BoundingBox(own);
                box.Add(own);
            }
        if (!box.IsVoid()) m_view->FitAll(box, 0.05, false);
    } else {
        m_view->FitAll(0.05, false);
    }
    viewMoved();
}

void Stage::look(SquareView view) {
    switch (view) {
        case SquareView::Front:
            m_view->SetProj(V3d_Yneg);
            break;
        case SquareView::Back:
            m_view->SetProj(V3d_Ypos);
            break;
        case SquareView::Left:
            m_view->SetProj(V3d_Xneg);
            break;
        case SquareView::Right:
            m_view->SetProj(V3d_Xpos);
            break;
        case SquareView::Top:
            m_view->SetProj(V3d_Zpos);
            break;
        case SquareView::Bottom:
            m_view->SetProj(V3d_Zneg);
            break;
        case SquareView::Corner:
            m_view->SetProj(0.75, 0.9, 0.55);
            m_view->SetTwist(0.0);
            break;
    }
    fit();
}

void Stage::lookAtFace(const Pick& pick) {
    if (pick.face == 0 || m_view->Window().IsNull()) return;
    const auto reading = measure::readingOf(m_session.model(), pick);
    if (!reading.direction || !reading.centre) return;
    const Handle(Graphic3d_Camera)& camera = m_view->Camera();
    const gp_Dir old = camera->OrthogonalizedUp();
    gp_Dir towards = *reading.direction;
    // Onto a plane from outside; along an axis from the side one looks from already.
    if (reading.kind != "plane" && towards.Dot(camera->Direction()) > 0.0) towards.Reverse();
    gp_Vec up = gp_Vec(old) - gp_Vec(towards) * old.Dot(towards);
    if (up.Magnitude() < 0.05) up = gp_Vec(gp_Ax2(gp_Pnt(0, 0, 0), towards).YDirection());
    const double distance = camera->Distance();
    camera->SetUp(gp_Dir(up));
    camera->SetEyeAndCenter(reading.centre->Translated(gp_Vec(towards) * distance), *reading.centre);
    viewMoved();
}

void Stage::roll(double degrees) {
    if (m_view->Window().IsNull()) return;
    const Handle(Graphic3d_Camera)& camera = m_view->Camera();
    gp_Trsf about;
    about.SetRotation(gp_Ax1(camera->Center(), camera->Direction()), degrees * M_PI / 180.0);
    camera->SetUp(camera->OrthogonalizedUp().Transformed(about));
    viewMoved();
}

void Stage::weigh() {
    std::vector<std::size_t> shown;
    for (std::size_t o = 0; o < m_parts.size(); ++o)
        if (!m_parts[o].IsNull() && isShown(o)) shown.push_back(o);
    m_heavy = trianglesIn(m_session.model(), shown) > heavyScene;
    m_view->ChangeRenderingParams().NbMsaaSamples = m_heavy ? 0 : 4;
    makeCurrent();
    if (!m_coarse.IsNull()) m_context->Remove(m_coarse, false);
    m_coarse.Nullify();
    doneCurrent();
    if (m_moving) {
        m_moving = false;
        setDetailShown(true);
    }
}

void Stage::setDetailShown(bool on) {
    const auto show = [on](const Handle(AIS_InteractiveObject) & object) {
        if (object.IsNull()) return;
        for (PrsMgr_Presentations::Iterator it(object->Presentations()); it.More(); it.Next())
            it.Value()->SetVisible(on);
    };
    for (std::size_t o = 0; o < m_parts.size(); ++o)
        if (!m_parts[o].IsNull() && m_context->IsDisplayed(m_parts[o])) show(m_parts[o]);
    for (const auto& preview : m_previews) show(preview);
    show(m_going);
}

void Stage::beginMoving() {
    if (!m_heavy || m_wipe || m_sectionAxis > 0 || !m_apart.empty()) return;
    if (m_drag == Drag::None) m_rest.start();
    if (m_moving) return;
    m_moving = true;
    makeCurrent();
    if (m_coarse.IsNull()) {
        std::vector<std::size_t> shown;
        for (std::size_t o = 0; o < m_parts.size(); ++o)
            if (!m_parts[o].IsNull() && isShown(o) && !m_parts[o]->look().ghost) shown.push_back(o);
        const Bnd_Box all = m_view->View()->MinMaxValues();
        m_coarse =
            new CoarsePresentation(m_session.model(), shown,
                                   all.IsVoid() ? 0.0 : 0.006 * all.CornerMin().Distance(all.CornerMax()), colours());
    }
    setDetailShown(false);
    m_context->Display(m_coarse, 0, -1, false);
    doneCurrent();
}

void Stage::endMoving() {
    if (!m_moving || m_drag != Drag::None) return;
    m_moving = false;
    makeCurrent();
    m_context->Erase(m_coarse, false);
    setDetailShown(true);
    doneCurrent();
    requestDraw();
    emit viewChanged();
}

Json Stage::camera() const {
    const Handle(Graphic3d_Camera)& camera = m_view->Camera();
    const auto triple = [](const auto& v) { return Json{v.X(), v.Y(), v.Z()}; };
    return Json{{"eye_mm", triple(camera->Eye())},
                {"at_mm", triple(camera->Center())},
                {"up", triple(camera->OrthogonalizedUp())},
                {"scale_mm", camera->Scale()},
                {"perspective", m_perspective}};
}

void Stage::setCamera(const Json& json) {
    try {
        const auto triple = [&json](const char* key) { return json.at(key).get<std::array<double, 3>>(); };
        const auto eye = triple("eye_mm"), at = triple("at_mm"), up = triple("up");
        const double scale = json.at("scale_mm").get<double>();
        const gp_Pnt from(eye[0], eye[1], eye[2]), to(at[0], at[1], at[2]);
        if (!(scale > 0.0) || from.Distance(to) < 1e-12) return;
        setPerspective(json.value("perspective", false));
        const Handle(Graphic3d_Camera)& camera = m_view->Camera();
        camera->SetUp(gp_Dir(up[0], up[1], up[2]));
        camera->SetEyeAndCenter(from, to);
        camera->SetScale(scale);
        viewMoved();
    } catch (const std::exception&) {
        // A damaged view is no view.
    } catch (const Standard_Failure&) {
    }
}

void Stage::setPerspective(bool on) {
    m_perspective = on;
    m_view->Camera()->SetProjectionType(on ? Graphic3d_Camera::Projection_Perspective
                                           : Graphic3d_Camera::Projection_Orthographic);
    fit();
}

void Stage::zoomTo(const gp_Pnt& point, double size) {
    Bnd_Box box;
    box.Add(point);
    box.Enlarge(std::max(size, 1e-6) * 1.5);
    m_view->FitAll(box, 0.05, false);
    viewMoved();
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

}  // namespace rasoir::app
