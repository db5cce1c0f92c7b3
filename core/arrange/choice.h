// Bodies as choices among the cells and pieces of an arrangement.
#pragma once
#include <map>

#include "arrange/arrangement.h"
#include "model/lineage.h"

namespace rasoir::arrange {

/// Bodies made from some cells, and where their faces and edges come from.
struct Chosen {
    TopoDS_Shape shape;  ///< one solid, or a compound of several; null where nothing was chosen
    int solids = 0;
    double volume = 0.0;                 ///< [mm^3]
    std::map<int, PartLineage> lineage;  ///< by input, for those that some face of it comes from
    std::vector<int> cutFaces;           ///< numbers, in the shape, of faces that come from `cutters`
    std::map<int, int> faceOfPiece, edgeOfArc, vertexOfNode;  ///< numbers in the shape
    double widest = 0.0;                                      ///< [mm] largest tolerance that something new had to get
};

/// The region that the cells make together, as solids: what parts two chosen cells is left out. Each call makes objects
/// of its own, but for what the arrangement left untouched.
/// `cutters`: inputs whose faces are told in `cutFaces`.
/// Refuses   where the result is not closed, not sound, or has not the volume of its cells.
[[nodiscard]] Result<Chosen> solidsOf(const Arrangement& all, const std::vector<int>& cells,
                                      const std::set<int>& cutters = {});

/// The pieces of sheets, as sheets: pieces that hang together over arcs which no cutter owns stay together.
/// Refuses   where a piece, or a sheet as a whole, would not be sound though what it comes from is.
[[nodiscard]] Result<std::vector<Chosen>> sheetsOf(const Arrangement& all, int input, const std::set<int>& cutters);

/// Some pieces as one sheet, or several that do not hang together in one compound; true: turned to the other side.
[[nodiscard]] Result<Chosen> sheetOf(const Arrangement& all, const std::vector<std::pair<int, bool>>& pieces,
                                     const std::set<int>& cutters = {});

/// All pieces of a sheet, each with whether its face looks to the other side than its surface: for sheetOf().
[[nodiscard]] std::vector<std::pair<int, bool>> piecesOf(const Arrangement& all, int sheet);

/// The pieces of a sheet that lie within a solid, each with whether it is turned to the sheet's other side: for
/// sheetOf().
[[nodiscard]] std::vector<std::pair<int, bool>> piecesWithin(const Arrangement& all, int sheet, int solid);

/// Cells that lie in an input.
[[nodiscard]] std::vector<int> cellsIn(const Arrangement& all, int input);

}  // namespace rasoir::arrange
