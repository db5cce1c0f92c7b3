// The one place where the lineage of a part is put together.
#pragma once
#include <gp_Trsf.hxx>
#include <TopoDS_Shape.hxx>

#include "model/lineage.h"
#include "topology/incidence.h"

namespace rasoir {

/// Say which faces come from which where that is not plain from the objects; all else is found out.
///   - What is the very same object before and after is kept. That needs no word.
///   - Faces that were reshaped, and edges known to have been: `face()` and `edge()` link them.
///   - Edges without a link: a new edge between heirs of two faces, that runs along the old edge of those two, is a
///     piece of it; an old and a new edge that are the only ones between the same two faces are one, moved.
///   - Vertices: a new one at which heirs of the edges of an old one end, at the same place or the only such.
///   - Bodies: by the faces (or edges, or points) that they are made of.
/// Cost: linear in both shapes, but for faces that share very many edges.
class LineageBuilder {
public:
    /// `moved`: what has become of the part's coordinates. Old things are looked for after that move.
    LineageBuilder(const Incidence& before, const TopoDS_Shape& after, const gp_Trsf& moved = {});

    /// The old face lives on in this one of the new shape; a shape that does not occur in it is passed over.
    void face(int before, const TopoDS_Shape& after, bool changed = true, bool reversed = false);
    void edge(int before, const TopoDS_Shape& after, bool changed = true, bool reversed = false);
    void vertex(int before, const TopoDS_Shape& after, bool changed = true);
    /// Links every face with the face of like surface, area and middle, for shapes made anew: copies, mirror images.
    void facesByPlace();
    /// Both shapes have the same numbering: all numbers are linked with themselves.
    void sameNumbers(bool changed, bool reversed);
    [[nodiscard]] PartLineage finish();

private:
    void keptObjects();
    void inferEdges();
    void inferVertices();
    void inferBodies();

    const Incidence& m_before;
    Incidence m_after;
    gp_Trsf m_move;
    bool m_moves = false;
    PartLineage m_lineage;
};

/// The whole of a part moved to other coordinates, mirrored or scaled: same numbering throughout.
[[nodiscard]] PartLineage sameNumbering(const Incidence& before, bool reversed);

}  // namespace rasoir
