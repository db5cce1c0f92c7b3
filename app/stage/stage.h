// The stage: the model in three dimensions, drawn by the kernel's viewer inside a QOpenGLWidget.
#pragma once
#include <AIS_InteractiveContext.hxx>
#include <Graphic3d_ClipPlane.hxx>
#include <QOpenGLWidget>
#include <QPointF>
#include <QTimer>
#include <V3d_View.hxx>

#include "selection.h"
#include "stage/coarse_presentation.h"
#include "stage/highlight_presentation.h"
#include "stage/mesh_presentation.h"
#include "stage/part_presentation.h"
#include "stage/preview_presentation.h"
#include "stage/region_drag.h"
#include "stage/stage_overlay.h"

namespace rasoir::app {

enum class SquareView { Front, Back, Left, Right, Top, Bottom, Corner };
/// What the colours of faces tell.
enum class ColourBy { Bone, Received, Part, Material, Body, Group, Thickness, Convexity };

/// Left drag turns, middle or right drag shifts, the wheel zooms to the pointer. A click picks, Ctrl+click adds or
/// takes away, a click in the same spot again reaches one layer deeper. Shift+drag draws a box: downwards for what lies
/// wholly inside, upwards also for what it touches. Alt+drag takes an edge and drops it onto another. Keys: arrows
/// turn, Shift+arrows shift, comma and period roll, + and - zoom. With a section or a wipe shown, Page Up and Down move
/// it.
class Stage : public QOpenGLWidget {
    Q_OBJECT
public:
    Stage(Session& session, Selection& selection, QWidget* parent = nullptr);
    ~Stage() override;

    void fit(bool selectedOnly = false);
    void look(SquareView view);
    void setPerspective(bool on);
    [[nodiscard]] bool perspective() const { return m_perspective; }
    /// Parts selected on the board are tinted too: wanted where parts are what one works on, in the way where features
    /// are.
    void setTintsParts(bool on);
    void setColourBy(ColourBy by);
    [[nodiscard]] ColourBy colourBy() const { return m_colourBy; }
    /// Thickness at which the scale of ColourBy::Thickness changes colour [mm]: below it faces are brass.
    void setThicknessLimit(double millimetres);
    void lookAtFace(const Pick& face);  ///< square onto it
    void roll(double degrees);          ///< in the plane of the view
    [[nodiscard]] Json camera() const;
    void setCamera(const Json& camera);
    /// The next drag with the left button draws this instead of turning.
    void drawNext(RegionShape shape);
    void setSeenOnly(bool on) { m_seenOnly = on; }
    /// Esc: a region being drawn, then the wipe. False when there was nothing to step back from.
    bool stepBack();
    /// A plane through the model, square to an axis (1 x, 2 y, 3 z), its cut filled; 0: none.
    void setSection(int axis);
    [[nodiscard]] int section() const { return m_sectionAxis; }
    void moveSection(double millimetres);
    void flipSection();
    [[nodiscard]] bool isCutAway(const gp_Pnt& point) const;
    [[nodiscard]] double sectionAt() const { return m_sectionAt; }
    /// Left of a line the model as received, right of it as it is.
    void setWipe(bool on);
    [[nodiscard]] bool wipes() const { return m_wipe.has_value(); }
    void moveWipe(double pixels);
    [[nodiscard]] std::pair<int, int> wipeFaces() const;  ///< faces of all places, left of the wipe and now
    [[nodiscard]] QString wipeName() const { return m_session.besideName(); }  ///< what stands left of it
    [[nodiscard]] double wipeAt() const { return m_wipe.value_or(0.0); }       ///< [pixels] from the left
    [[nodiscard]] const std::optional<RegionDrag>& drag() const { return m_region; }
    [[nodiscard]] const std::optional<Pick>& dragged() const { return m_dragged; }
    /// From where to where an edge is being dragged, in widget pixels.
    [[nodiscard]] std::optional<QLineF> joinLine() const {
        return m_drag == Drag::Join ? std::optional(QLineF(m_pressed, m_last)) : std::nullopt;
    }
    /// A measured value or a note that stays at a place.
    struct Pin {
        gp_Pnt from, to;
        QString text;
    };
    void addPin(Pin pin);
    void clearPins();
    [[nodiscard]] const std::vector<Pin>& pins() const { return m_pins; }
    /// Occurrences lit on the stage as about to go (the board's and Intake's cut bar).
    void setGoing(std::vector<std::size_t> occurrences);
    /// Seconds the last redraw took.
    [[nodiscard]] double lastDrawSeconds() const { return m_drawSeconds; }
    void zoomTo(const gp_Pnt& point, double size);
    [[nodiscard]] const std::optional<Pick>& hovered() const { return m_hovered; }
    [[nodiscard]] const std::optional<gp_Pnt>& hoveredPoint() const { return m_hoveredPoint; }  ///< model coordinates

    /// Walls of holes about to go (brass) and kept (plum), with their marks.
    /// Draws what a step would make of the parts instead of what they are, the faces it would change in the colour of
    /// what goes; no model: the parts as they are. What is picked is always the part as it is.
    void setResult(const Model* model, const std::vector<PartLineage>& lineage);
    [[nodiscard]] bool showsResult() const { return !m_result.empty(); }
    /// Sets of places in tones of their own, and places drawn away from where they are. Empty: as ever.
    void setApart(std::vector<int> sets, std::vector<gp_Vec> apart);
    void setPreview(std::vector<PreviewFaces> goes, std::vector<PreviewFaces> kept, std::vector<StageMark> marks,
                    std::vector<std::vector<PreviewFaces>> bands = {});  ///< the paler the later
    /// A mesh drawn instead of the parts, and one instead of the parts as received, left of the wipe; null: none.
    void setMesh(std::shared_ptr<const StageMesh> now, std::shared_ptr<const StageMesh> received);
    [[nodiscard]] bool showsMesh() const { return m_mesh != nullptr; }
    /// Lines and handles over the model; a handle that is dragged says so.
    void setDrawn(std::vector<StageLine> lines, std::vector<StageHandle> handles);

    // For the overlay and for tests: where a model point is on the screen, in widget pixels.
    [[nodiscard]] QPointF toPixels(const gp_Pnt& point) const;
    [[nodiscard]] QPointF screenDirection(const gp_Dir& direction) const;  ///< unit length across the screen, y down
    [[nodiscard]] double pixelsPerMillimetre() const;
    /// Drawn with less detail just now, because it is moving.
    [[nodiscard]] bool isMoving() const { return m_moving; }
    [[nodiscard]] bool isShowing() const { return !m_session.isEmpty(); }
    /// Seconds the last highlight under the pointer took.
    [[nodiscard]] double lastHoverSeconds() const { return m_hoverSeconds; }

signals:
    void hoverChanged();
    void regionChanged();
    void edgeDropped(const rasoir::select::Pick& edge,
                     const rasoir::select::Pick& onto);  ///< Alt+drag from edge to edge
    void viewChanged();
    void handleMoved(int handle, double millimetres);  ///< along its direction
    void clicked(const gp_Pnt& point);                 ///< on the model
    void filesDropped(const QStringList& paths);

protected:
    void initializeGL() override;
    void paintGL() override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    void rebuild();
    void refreshVisibility();
    void showSelection();
    void applyTheme();
    void activate(const Handle(PartPresentation) & presentation);
    void hoverAt(const QPointF& position);
    void pickAt(const QPointF& position, bool add);
    void turn(double dx, double dy);
    void requestDraw(bool scene = true);
    void viewMoved();
    void refreshWipe();
    /// A heavy scene loses detail from here until endMoving(), or until the view has rested a while.
    void beginMoving();
    void endMoving();
    void setDetailShown(bool on);
    void weigh();
    void showMarks();
    void refreshSection();
    bool startJoin();
    void startRegion(const QPointF& position, RegionShape shape);
    void endRegion(bool take, bool add);
    [[nodiscard]] PartLook lookOf(std::size_t occurrence) const;
    [[nodiscard]] bool isShown(std::size_t occurrence) const;
    [[nodiscard]] std::optional<Pick> pickOf(const Handle(SelectMgr_EntityOwner) & owner) const;
    [[nodiscard]] select::Projection projection() const;
    [[nodiscard]] bool overWipe(const QPointF& position) const;
    [[nodiscard]] bool overSection(const QPointF& position) const;

    Session& m_session;
    Selection& m_selection;
    Handle(V3d_Viewer) m_viewer;
    Handle(V3d_View) m_view;
    Handle(AIS_InteractiveContext) m_context;
    std::vector<Handle(PartPresentation)> m_parts;  // by occurrence; null when the part is empty
    std::vector<Handle(PreviewPresentation)> m_previews;
    std::map<std::size_t, Handle(PartPresentation)> m_result;  // what a step would make, by its occurrences
    std::set<std::size_t> m_replaced;                          // occurrences shown now that give way to it
    std::vector<Handle(PartPresentation)> m_received;          // left of the wipe
    Handle(HighlightPresentation) m_highlight, m_regionHighlight, m_going;
    Handle(CoarsePresentation) m_coarse;
    std::shared_ptr<const StageMesh> m_mesh, m_meshReceived;
    Handle(MeshPresentation) m_meshDrawn, m_meshReceivedDrawn;
    QTimer m_rest;
    bool m_heavy = false, m_moving = false;
    Handle(Graphic3d_ClipPlane) m_sectionPlane, m_wipeNow, m_wipeReceived;
    StageOverlay* m_overlay;
    std::optional<Pick> m_hovered, m_dragged;  // the edge under the pointer; the one it was pressed on
    std::optional<gp_Pnt> m_hoveredPoint;
    std::optional<RegionDrag> m_region;
    std::optional<RegionShape> m_drawNext;
    std::shared_ptr<const RayField> m_rays;  // of what is shown; made when it is needed
    std::vector<Pin> m_pins;
    std::vector<std::size_t> m_goingPlaces;
    std::vector<StageMark> m_previewMarks, m_goingMarks;
    ColourBy m_colourBy = ColourBy::Bone;
    std::vector<int> m_sets;      // by place
    std::vector<gp_Vec> m_apart;  // by place
    [[nodiscard]] gp_Trsf drawnAt(std::size_t occurrence) const;
    double m_thicknessLimit = 0.0;
    int m_sectionAxis = 0;
    double m_sectionAt = 0.0;
    bool m_sectionFlipped = false;
    std::optional<double> m_wipe;
    enum class Drag { None, Turn, Shift, Region, Wipe, Section, Join, Handle } m_drag = Drag::None;
    QPointF m_pressed, m_last, m_lastPick;
    StageHandle m_handle;  // the one being dragged
    int m_depth = 0;
    bool m_fitWanted = false, m_sceneDirty = true, m_perspective = false, m_seenOnly = false, m_themeChanged = false,
         m_tintsParts = false;
    double m_hoverSeconds = 0.0, m_drawSeconds = 0.0;
};

}  // namespace rasoir::app
