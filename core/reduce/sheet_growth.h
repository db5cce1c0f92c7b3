// Sheets carried on past free edges, and cut back: what joining them and work by hand have in common.
#pragma once
#include "arrange/arrangement.h"
#include "model/operation.h"

namespace rasoir::reduce {

/// A free edge of a sheet, past which its face is to grow.
struct GrowingEdge {
    int edge = 0, face = 0;
    gp_Vec out;          ///< unit, along the sheet at the edge's middle, out of the face; part coordinates
    double reach = 0.0;  ///< [mm] by which it grows
};
/// A face along an edge of it at a parameter, out of the face: unit, or null where it has no direction there. `at`: the
/// point of the edge [mm, part coordinates].
[[nodiscard]] gp_Vec outAlong(const Incidence& topology, int face, int edge, double parameter, gp_Pnt& at);

/// A sheet that has another shape now, and what became of what it had.
struct Regrown {
    TopoDS_Shape shape;
    PartLineage lineage;
};

/// The sheet grown past the edges, each face itself on its own surface: no edge is left where it began to grow. Two
/// edges of one corner grow together and fill it. Flat faces grow at any edge, round ones at circles and straight
/// lines. `edges`: those that cannot be carried on are taken out of it.
/// `joined`: edges that the part has in common with others, which stay as they are; what is carried on straight beside
/// others is one edge with what was there.
/// Refuses   when none can.
[[nodiscard]] Result<Regrown> grownPast(const Part& part, std::vector<GrowingEdge>& edges, const std::set<int>& joined,
                                        double tolerance, Progress& progress);

/// A grown sheet without what hangs over beyond the cutters: of each face the pieces stay that hold some of the face as
/// it was. `cutters`: sheets or solids in the part's coordinates.
[[nodiscard]] Result<Regrown> cutBackTo(const Part& part, const Regrown& grown,
                                        const std::vector<arrange::Input>& cutters, double tolerance,
                                        Progress& progress);

/// [mm] How thick the wall is that a sheet's face stands for, at a point of it; 0 where that is not known.
[[nodiscard]] double thicknessAt(const Part& part, int face, const gp_Pnt& point);

/// Vertices of a sheet at which two edges run on into each other. Somebody wanted them, or others end there; corners
/// that a step makes straight are another matter.
[[nodiscard]] std::set<int> verticesOnTheWay(const Incidence& topology);

/// Edges of a part that it has in common with others in some place of it.
[[nodiscard]] std::set<int> jointEdgesOf(const Model& model, std::size_t part);

/// Puts a new shape in the place of a part: in all its places, or in some, which then become a part of their own.
/// Adds the lineage to the outcome. Returns the index of the part.
std::size_t replaceIn(Outcome& outcome, std::size_t part, const Regrown& regrown,
                      const std::vector<std::size_t>& places);

}  // namespace rasoir::reduce
