// Small line pictures, 16 px, drawn in one colour: the thing itself, not a symbol for it.
#pragma once
#include <QIcon>
#include <QPainter>

namespace rasoir::app {

enum class Glyph {
    Hole,
    Slot,
    Gap,
    Opening,
    Doubled,
    RunsOver,
    Sliver,
    Tiny,
    Needless,
    Other,
    Fillet,
    Chamfer,
    Mark,
    Boss,
    Pocket,
    Notch,
    Rib,
    Step,
    Thread,
    Solid,
    Sheet,
    Beam,
    Pennant,
    PennantFilled,
    Trouble,
    Tick,
    Lens,
    Cut,
    Unite,
    Subtract,
    Intersect,
    Surround,
    PartFace,
    PartEdge,
    Section,
    Symmetry,
    Touch,
    Overlap,
    Joined,
    Wall,
    Mesh,
    Lump,
    Group,
    Export,
    Branch,
    Point,
    Findings
};

/// Draws into the 16 × 16 square at `at`.
void drawGlyph(QPainter& painter, Glyph glyph, QPointF at, const QColor& colour);
QIcon glyphIcon(Glyph glyph, const QColor& colour);

}  // namespace rasoir::app
