// The page of the Divide bench that draws on a face: to part it, or to cut an outline out of the body.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QTreeWidget>

#include "bench/pick_page.h"
#include "divide/outline.h"

namespace rasoir::app {

/// Lines and outlines drawn on a face in distances from one of its edges. A polyline is drawn by clicks on the face,
/// which snap to vertices, middles and centres; its points can be typed, dragged and taken out.
class OutlinePage : public PickPage {
    Q_OBJECT
public:
    OutlinePage(Session& session, QWidget* parent);
    [[nodiscard]] std::optional<BenchStep> step() const override;
    [[nodiscard]] QString words() const override;
    [[nodiscard]] std::vector<StageLine> lines() const override;
    [[nodiscard]] std::vector<StageHandle> handles() const override;
    void handleMoved(int handle, double by) override;
    void clicked(const gp_Pnt& point) override;
    void refresh() override;
    [[nodiscard]] QComboBox* way() const { return m_way; }
    [[nodiscard]] QLineEdit* distance() const { return m_y; }
    [[nodiscard]] QTreeWidget* points() const { return m_points; }

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;  ///< Delete takes a point out

private:
    enum class Way { Line, Rectangle, Circle, Slot, Polyline, Ring, Points, Thrown, Plane };
    [[nodiscard]] Way current() const {
        return static_cast<Way>(std::min(m_way->currentIndex(), static_cast<int>(Way::Plane)));
    }
    /// Across which axis the plane lies: 0 x, 1 y, 2 z; the last three ways.
    [[nodiscard]] int planeAxis() const {
        return std::clamp(m_way->currentIndex() - static_cast<int>(Way::Plane), 0, 2);
    }
    [[nodiscard]] bool isDrawn() const { return current() <= Way::Polyline; }
    /// The face drawn on, and the edge that is measured from: of a polyline those it was begun with, since clicks that
    /// draw it pick faces too.
    [[nodiscard]] std::optional<select::Pick> face() const;
    [[nodiscard]] std::optional<select::Pick> edge() const;
    [[nodiscard]] std::optional<divide::Outline> outline() const;
    /// Frame of the picked face, and how far the face reaches along its x.
    struct Seen {
        gp_Ax3 frame;
        double low = 0.0, high = 0.0;
    };
    [[nodiscard]] std::optional<Seen> seen(const divide::Outline& outline) const;
    [[nodiscard]] std::vector<StageLine> ringLines() const;
    [[nodiscard]] std::vector<StageLine> planeLines() const;
    [[nodiscard]] std::vector<std::array<double, 2>> drawnPoints() const;
    void showPoint(QTreeWidgetItem* item, double x, double y);
    void takeBase();

    std::optional<select::Pick> m_baseFace, m_baseEdge;  // of the polyline
    bool m_skipClick = false;                            // the click that picked the face draws nothing
    QComboBox *m_way, *m_from, *m_does, *m_deep;
    QLabel *m_hint, *m_xLabel, *m_yLabel, *m_aLabel, *m_bLabel, *m_angleLabel, *m_fromLabel, *m_deepLabel,
        *m_depthLabel, *m_groupLabel, *m_firstLabel, *m_secondLabel;
    QLineEdit *m_x, *m_y, *m_a, *m_b, *m_angle, *m_depth, *m_group, *m_first, *m_second;
    QTreeWidget* m_points;
    QCheckBox* m_closed;
};

}  // namespace rasoir::app
