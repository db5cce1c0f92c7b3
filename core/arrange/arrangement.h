// The arrangement: any solids and sheets in one coordinate system as one consistent set of nodes, arcs, pieces and
// cells.
//
// Cutting, uniting, subtracting, intersecting, joining and sections are choices among its pieces and cells (choice.h).
#pragma once
#include <Geom2d_Curve.hxx>
#include <Geom_Curve.hxx>
#include <gp_Pnt.hxx>
#include <memory>
#include <set>
#include <string>
#include <TopoDS_Shape.hxx>
#include <vector>

#include "common/problem.h"
#include "common/progress.h"
#include "topology/incidence.h"

namespace rasoir::arrange {

/// What an input meets.
enum class Meets {
    All,
    Sheets,  ///< a cutter: it parts sheets, meets nothing else, and leaves no pieces itself
    Nothing  ///< known to lie free of all others: only in which cells is asked
};

/// One shape that goes in. Solids are what cells lie in; faces outside solids (sheets, cutting planes) only divide.
struct Input {
    TopoDS_Shape shape;       ///< [mm] in the coordinates that all inputs share
    std::string name;         ///< for sentences
    std::set<int> only = {};  ///< it meets nothing but these faces of the first input; empty: whatever there is
    std::vector<std::pair<int, double>> stops = {};  ///< edges of it, and parameters at which they are divided
    Meets meets = Meets::All;
};

/// A face, edge or vertex of an input: by its number in the Incidence of that input.
struct Owner {
    int input = 0;
    int number = 0;
    bool reversed = false;  ///< against the first owner: its surface's normal, or the sense of its curve
    friend auto operator<=>(const Owner&, const Owner&) = default;
};

struct Node {
    gp_Pnt point;
    double tolerance = 0.0;     ///< [mm]
    std::vector<Owner> owners;  ///< vertices; none for a point that the arrangement found
};

/// A piece of an edge, or of the curve in which two faces meet. It ends at nodes and meets nothing in between.
struct Arc {
    Handle(Geom_Curve) curve;
    double first = 0.0, last = 0.0;
    int from = -1, to = -1;     ///< nodes
    double tolerance = 0.0;     ///< [mm]
    std::vector<Owner> owners;  ///< edges it is (a piece of); the first gave the curve. None: a meeting of faces
    std::set<int> within = {};  ///< inputs in whose faces it lies, also where it ends in them and so parts nothing
    bool whole = false;         ///< all of the first owner's edge
    int edge = -1;              ///< in the catalogue, of the first owner
};

/// The use of an arc by a piece: its area lies to the left when seen against the surface's own normal.
struct Use {
    int arc = -1;
    bool forward = true;
    Handle(Geom2d_Curve) trace;  ///< in step with the arc; null where the piece is a whole face
};

/// A piece of a face, or of several that lie on one another.
struct Piece {
    std::vector<Owner> owners;            ///< faces; the first gave the surface
    std::vector<std::vector<Use>> loops;  ///< outer one first, on the surface's own side; empty loops: a whole face
    std::vector<Use> uses;                ///< all of its uses, also of a whole face
    std::vector<Use> slits;               ///< arcs that end freely in it: they part nothing of it, but others end there
    bool whole = false;                   ///< nothing lies in it, and nothing divides its edges
    gp_Pnt inside;                        ///< [mm] a point well within it; only of pieces that are not whole
    int plusCell = -1, minusCell = -1;    ///< the cell towards the surface's normal, and the one behind it
};

struct Cell {
    std::set<int> inputs;                     ///< the solids' inputs it lies in; empty: outside all
    std::vector<std::pair<int, bool>> sides;  ///< pieces that bound it; true: it lies on their plus side
    bool outermost = false;
    double volume = 0.0;  ///< [mm^3]; of the outermost one, less all that it surrounds
};

struct Arrangement {
    std::vector<Input> inputs;
    std::vector<std::shared_ptr<const Incidence>> topology;  ///< by input
    std::vector<Node> nodes;
    std::vector<Arc> arcs;
    std::vector<Piece> pieces;
    std::vector<Cell> cells;
    double widest = 0.0;  ///< [mm] largest tolerance that had to be given to a node or an arc
    // How much work it was, for those who watch its growth:
    std::size_t pairsMet = 0;      ///< pairs of faces whose surfaces were intersected
    std::size_t facesDivided = 0;  ///< faces that were laid out anew

    [[nodiscard]] TopoDS_Face faceOf(const Owner& owner) const { return topology[owner.input]->face(owner.number); }
};

/// Arranges the inputs.
/// Input     sound solids and sheets. Entities of one input are never merged with, or cut by, each other.
/// `tolerance` [mm]: what is closer than this is one; entities' own tolerances count on top of it.
/// Refuses   surfaces whose meeting cannot be found, a meeting that ends nowhere, cells that contradict each other:
///           with the parts, the faces and the place.
/// Cost      near n log n in the faces, plus the pairs of faces whose boxes touch. What is not met is only walked.
/// Method    edges pierce faces first; meeting curves are cut at those points; each touched face is divided in its own
///           tangent planes and parameters; cells are the sectors round each arc, put together. After Mäntylä (1988)
///           and Weiler, Topological structures for geometric modeling (1986), the radial-edge structure.
[[nodiscard]] Result<Arrangement> arrange(std::vector<Input> inputs, double tolerance, Progress& progress);

}  // namespace rasoir::arrange
