#include "arrange/arrangement.h"

#include "arrange/builder.h"
#include "common/guard.h"

// The order in which an arrangement is found. Each question is asked once, and what it finds is a fact for all that
// come after it.
//   1. Boxes: which faces of different inputs can meet at all?                              catalogue.cpp
//   2. Points: which vertices are one; where do they lie on edges, edges cross edges,
//      edges pierce faces?                                                                  points.cpp
//   3. Sections: the curves in which faces meet, cut at those points; where three meet.      sections.cpp
//   4. Arcs: edges and sections cut at all their nodes; those that coincide are one.        arcs.cpp
//   5. Pieces: each face divided by the arcs on it; pieces that coincide are one.           pieces.cpp
//   6. Cells: what the pieces enclose, and in which solids that lies.                       cells.cpp

namespace rasoir::arrange {

Result<void> Builder::run(Progress& progress) {
    if (auto fine = m_catalogue.fill(progress); !fine) return fine;
    progress.report(0.1, "Finding where edges meet");
    verticesOnEdges();
    edgesAcrossEdges();
    if (auto fine = edgesThroughFaces(progress); !fine) return fine;
    if (auto fine = findSections(progress); !fine) return fine;
    crossSections();
    progress.report(0.6, "Dividing faces");
    cutEdges();
    if (auto fine = layOnFaces(); !fine) return fine;
    if (auto fine = divideFaces(progress); !fine) return fine;
    addWholeFaces();
    mergePieces();
    progress.report(0.8, "Finding what they enclose");
    return findCells(progress);
}

Result<Arrangement> arrange(std::vector<Input> inputs, double tolerance, Progress& progress) {
    return guarded("Arranging the bodies", [&]() -> Result<Arrangement> {
        Arrangement all;
        all.inputs = std::move(inputs);
        for (const Input& input : all.inputs) all.topology.push_back(std::make_shared<const Incidence>(input.shape));
        if (auto fine = Builder(all, tolerance).run(progress); !fine) return tl::unexpected(fine.error());
        return all;
    });
}

}  // namespace rasoir::arrange
