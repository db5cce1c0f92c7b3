// Faces that one surface was needlessly divided into become one again; so do edges of one curve.
#pragma once
#include <set>

#include "common/problem.h"
#include "common/progress.h"
#include "model/attributes.h"
#include "model/lineage.h"
#include "topology/incidence.h"

namespace rasoir::mend {

struct NotMerged {
    std::vector<int> faces;
    gp_Pnt where;
};

struct Merged {
    TopoDS_Shape shape;  ///< null when there was nothing to merge
    PartLineage lineage;
    int edges = 0;     ///< needless edges that are gone
    int vertices = 0;  ///< needless vertices that are gone
    std::vector<NotMerged> left;
};

/// The edge is smooth, has two different faces, and both lie on one surface.
[[nodiscard]] bool isNeedless(const Incidence& incidence, int edge, double exact);

/// Merges faces across needless edges and edges across needless vertices, also all round: one of the edges then stays
/// as the seam. Checks    each new face is sound and as large as those it was made of, to 1e-6; else the group stays
/// and is listed. Leaves    groups with poles or apexes, and surfaces closed in both directions, as they are.
/// `onPurpose`: edges and vertices of the shape (Incidence numbers) that stay whatever they divide. `outlines`: also
/// vertices along free edges of sheets, where those are to meet nothing any more.
[[nodiscard]] Result<Merged> mergeNeedless(const TopoDS_Shape& shape, double exact, Progress& progress,
                                           const std::set<Entity>& onPurpose = {}, bool outlines = false);
/// Only the needless vertices at the ends of these edges (Incidence numbers); faces stay as they are.
[[nodiscard]] Result<Merged> mergeAtEdges(const TopoDS_Shape& shape, const std::set<int>& edges, double exact,
                                          Progress& progress);

}  // namespace rasoir::mend
