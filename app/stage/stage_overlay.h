// Drawn over the stage in screen pixels: rings round small things that go, pennants on what is kept, the wipe, the
// tripod.
#pragma once
#include <gp_Pnt.hxx>
#include <QPainter>
#include <QWidget>
#include <vector>

namespace rasoir::app {

class Stage;

struct StageMark {
    gp_Pnt at;          ///< model coordinates
    bool kept = false;  ///< a pennant; else a ring
    bool hovered = false;
    double size = 0.0;  ///< [mm] of the thing: no ring when it is large on the screen
};

/// A line in the model, drawn over it: the frame of a cutter, the outline of what would become one.
struct StageLine {
    enum class Style { Frame, Brass, Trouble, Ghost };
    std::vector<gp_Pnt> points;  ///< model coordinates
    bool closed = false;
    Style style = Style::Frame;
    QString text = {};  ///< beside its middle
};

/// A ring that places something along a direction, with its number beside it.
struct StageHandle {
    int id = 0;
    gp_Pnt at;  ///< model coordinates
    gp_Dir along;
    QString text;
};

class StageOverlay : public QWidget {
    Q_OBJECT
public:
    explicit StageOverlay(Stage* stage);
    void setMarks(std::vector<StageMark> marks);
    /// Where the section plane is held, in widget pixels.
    [[nodiscard]] QPointF sectionHandle() const;
    void setDrawn(std::vector<StageLine> lines, std::vector<StageHandle> handles);
    /// The handle under a point in widget pixels.
    [[nodiscard]] const StageHandle* handleAt(const QPointF& position) const;
    void setHint(const QString& hint);  ///< shown in the middle where nothing can be drawn

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void paintPins(QPainter& painter) const;
    void paintSection(QPainter& painter) const;
    void paintWipe(QPainter& painter) const;
    void paintRegion(QPainter& painter) const;
    void paintJoin(QPainter& painter) const;
    void paintDrawn(QPainter& painter) const;

    Stage* m_stage;
    std::vector<StageMark> m_marks;
    std::vector<StageLine> m_lines;
    std::vector<StageHandle> m_handles;
    QString m_hint;
};

}  // namespace rasoir::app
