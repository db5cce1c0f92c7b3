// Faces and edges that are small against the target size and belong to nothing that has a name, and how each can go.
#pragma once
#include <gp_Pnt.hxx>
#include <set>
#include <string>
#include <vector>

#include "common/progress.h"
#include "model/model.h"
#include "survey/holes.h"
#include "survey/reliefs.h"
#include "survey/rounds.h"
#include "survey/threads.h"

namespace rasoir::survey {

enum class SmallKind { Face, Edge };

/// How it would go; a step tries this way first, then the others.
enum class SmallWay {
    Merge,    ///< it is a piece of a surface or curve that runs on beside it
    Remove,   ///< the faces beside it are carried on until they meet
    Flatten,  ///< it becomes a piece of the larger face that it meets nearly smoothly
    Collapse  ///< it shrinks to an edge or a point; what lies beside it is shifted by half its size
};

struct Small {
    SmallKind kind = SmallKind::Face;
    SmallWay way = SmallWay::Remove;
    int number = 0;          ///< Incidence number of the face or the edge
    std::vector<int> faces;  ///< the face itself; of an edge none
    int into =
        0;  ///< for Merge and Flatten: the face that it becomes one with; 0: an edge that becomes one with the next
    double size = 0.0;      ///< [mm] a face's width, twice its area over its outline; an edge's length
    double length = 0.0;    ///< [mm] of a face: half its outline less the width
    gp_Pnt middle;          ///< a face's centre of area, an edge's middle: names it in a step
    double elements = 0.0;  ///< at the target size
};

/// Small faces and edges of closed bodies and sheets of one part, up to the target size, smallest first.
/// `named`: faces of holes, rounds, marks and the like, which go with those; edges at them too. Edges of small faces
/// are not told besides. Cost      linear in faces and edges. Refuses   only when cancelled.
[[nodiscard]] Result<std::vector<Small>> findSmall(const Part& part, double targetSize, const std::set<int>& named,
                                                   Progress& progress);

/// The same with `named` found too: holes, rounds and chamfers, reliefs, threads.
[[nodiscard]] Result<std::vector<Small>> findUnnamedSmall(const Part& part, double targetSize, Progress& progress);

/// Faces of all these, for `named`.
[[nodiscard]] std::set<int> facesOf(const std::vector<Hole>& holes, const std::vector<StripChain>& strips,
                                    const std::vector<Relief>& reliefs, const std::vector<Thread>& threads);

std::string smallWayName(SmallWay way);    ///< "merge", "remove", "flatten", "collapse"
std::string describe(const Small& small);  ///< "merge, 3.2 long"

}  // namespace rasoir::survey
