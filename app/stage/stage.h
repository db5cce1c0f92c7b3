// The stage: the model in three dimensions, drawn by the kernel's viewer inside a QOpenGLWidget.
#pragma once
#include <AIS_InteractiveContext.hxx>
#include <QOpenGLWidget>
#include <QPointF>
#include <V3d_View.hxx>

#include "session.h"
#include "stage/part_presentation.h"
#include "stage/preview_presentation.h"
#include "stage/stage_overlay.h"

namespace rasoir::app {

/// A face or an edge of an occurrence; face == edge == 0: the whole part.
struct StagePick {
    std::size_t occurrence = 0;
    int face = 0;
    int edge = 0;
    friend bool operator==(const StagePick&, const StagePick&) = default;
};

enum class PickMode { FacesAndEdges, Parts };
enum class SquareView { Front, Back, Left, Right, Top, Bottom, Corner };

/// Left drag turns, middle or right drag shifts, the wheel zooms to the pointer, a click picks, Ctrl+click adds.
/// Keys: arrows turn, Shift+arrows shift, + and - zoom, F fits, 1..7 square views.
class Stage : public QOpenGLWidget {
    Q_OBJECT
public:
    explicit Stage(Session& session, QWidget* parent = nullptr);
    ~Stage() override;

    void fit(bool selectedOnly = false);
    void look(SquareView view);
    void setPerspective(bool on);
    [[nodiscard]] bool perspective() const { return m_perspective; }
    void setPickMode(PickMode mode);
    void setPartColours(bool on);
    void zoomTo(const gp_Pnt& point, double size);
    void clearPicks();
    [[nodiscard]] const std::vector<StagePick>& picks() const { return m_picks; }
    [[nodiscard]] const std::optional<StagePick>& hovered() const { return m_hovered; }

    /// Walls of holes about to go (brass) and kept (plum), with their marks.
    void setPreview(std::vector<PreviewFaces> goes, std::vector<PreviewFaces> kept, std::vector<StageMark> marks);

    // For the overlay and for tests: where a model point is on the screen, in widget pixels.
    [[nodiscard]] QPointF toPixels(const gp_Pnt& point) const;
    [[nodiscard]] QPointF screenDirection(const gp_Dir& direction) const;  ///< unit length across the screen, y down
    [[nodiscard]] double pixelsPerMillimetre() const;
    [[nodiscard]] bool isShowing() const { return !m_session.isEmpty(); }
    /// Seconds the last highlight under the pointer took.
    [[nodiscard]] double lastHoverSeconds() const { return m_hoverSeconds; }

signals:
    void hoverChanged();
    void picksChanged();
    void viewChanged();
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
    void activate(const Handle(PartPresentation)& presentation);
    void hoverAt(const QPointF& position);
    void pickAt(const QPointF& position, bool add);
    void turn(double dx, double dy);
    void requestDraw(bool scene = true);
    [[nodiscard]] std::optional<StagePick> detected() const;

    Session& m_session;
    Handle(V3d_Viewer) m_viewer;
    Handle(V3d_View) m_view;
    Handle(AIS_InteractiveContext) m_context;
    std::vector<Handle(PartPresentation)> m_parts;  // by occurrence; null when the part is empty
    std::vector<Handle(PreviewPresentation)> m_previews;
    StageOverlay* m_overlay;
    std::vector<StagePick> m_picks;
    std::optional<StagePick> m_hovered;
    PickMode m_pickMode = PickMode::FacesAndEdges;
    QPointF m_pressed, m_last;
    bool m_dragging = false, m_fitWanted = false, m_sceneDirty = true, m_perspective = false, m_partColours = false;
    double m_hoverSeconds = 0.0;
};

}  // namespace rasoir::app
