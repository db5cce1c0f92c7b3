// Whether a face is sound: its loops close, lie on its surface and do not cross.
#pragma once
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Shape.hxx>
#include <vector>

namespace rasoir {

/// True when the loops of a face surely do not cross, each runs the right way round, and islands lie within the
/// outline: seen by polygons in the surface's parameters that stay clear of one another by more than they leave the
/// traces. False says only that this quick look does not tell (loops that touch, poles, corners with next to no angle).
/// Does not look at the distance between curves and traces.
[[nodiscard]] bool loopsClear(const TopoDS_Face& face);

/// The verdict: the quick look where it tells, the kernel's own check for all else. A face that cannot even be checked
/// is not sound.
[[nodiscard]] bool soundFace(const TopoDS_Face& face);

/// The shape as checks shall see it: what it is drawn with left out, since the kernel's check also compares the lines
/// that were drawn along edges with triangles that may have been made at another time. The same shape where nothing
/// was drawn.
[[nodiscard]] TopoDS_Shape undrawn(const TopoDS_Shape& shape);

/// Edges of an unsound face that seem to be at fault: those that do not lie on it, whose ends do not run on in another
/// edge, or that cross another one (both). May be empty where none of these is what is wrong.
[[nodiscard]] std::vector<TopoDS_Edge> edgesAtFault(const TopoDS_Face& face);

}  // namespace rasoir
