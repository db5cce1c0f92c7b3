// Everything that keeps a part from being watertight, or that only disturbs: what, where, how large, what can be done.
#pragma once
#include "model/model.h"
#include "survey/gaps.h"

namespace rasoir::survey {

enum class DefectKind {
    Gap,      ///< two open chains alongside each other; size: largest width
    Opening,  ///< a closed chain of open edges: a face is missing; size: longest side of its box
    Rim,  ///< an opening that is meant: declared so, or it bounds a sheet and spans more than half of the sheet's own
          ///< area
    LooseEnd,        ///< a chain of open edges that does not close; size: its length
    ManyFaces,       ///< an edge where three or more faces meet; size: its length
    Doubled,         ///< two faces on one another; size: area
    RunsOver,        ///< a face reaches past its neighbours; size: how far
    PartlyDoubled,   ///< a face reaches over another on its surface; size: how far
    Sliver,          ///< a thin face; size: its width
    TinyEdge,        ///< size: its length
    NeedlessEdge,    ///< smooth, with one surface on both sides; size: length
    NeedlessVertex,  ///< between two edges that continue one curve; size: length of the shorter
    WrongWay,        ///< two neighbours that face opposite ways; size: length of their edge
    InsideOut,       ///< a closed skin whose faces look inwards; size: volume
    Unsound,         ///< a face whose loops cross or leave its surface; size: area
    StrayBody,       ///< a body far smaller than the largest; size: longest side
    InnerVoid,       ///< a hollow inside a solid; size: volume
    TouchesItself    ///< a vertex where skins that share no edge there meet; size: 0
};

struct Defect {
    DefectKind kind = DefectKind::Gap;
    std::vector<int> faces, edges;  ///< Incidence numbers; Gap: the two faces; Doubled: the one that fits worse last;
                                    ///< Opening: those round it
    gp_Pnt where;
    double size = 0.0;               ///< see the kinds
    double least = 0.0, mean = 0.0;  ///< [mm] gaps: the other widths
    double length = 0.0;             ///< [mm] of a chain
    std::string what;                ///< a sentence
    std::string remedy;              ///< what can be done; may be empty
};

struct DefectLimits {
    double targetSize = 4.0;  ///< [mm]
    double exact = 1e-6;      ///< [mm] closer is the same place
    double gapsUpTo = 0.0;  ///< [mm] wider apart is not a gap; 0: half the target size, at most a fiftieth of the part
};

struct DefectReport {
    std::vector<Defect> defects;  ///< by kind, largest first
    int openEdges = 0;
    int gaps = 0, openings = 0;
    bool watertight = false;  ///< solids only, every edge with two faces
    double safeLimit = 0.0;   ///< [mm] gaps up to here close without swallowing anything
    std::string safeWhy;      ///< what it is set by
};

/// Looks over one part. Cost: n log n in the faces; the check of each face dominates where `checkFaces` is set.
/// Slivers and tiny edges are those below a fiftieth of the target size.
/// Refuses only when cancelled.
[[nodiscard]] Result<DefectReport> findDefects(const Part& part, const DefectLimits& limits, bool checkFaces,
                                               Progress& progress);

/// Faces that the kernel's check finds wrong: loops that cross themselves, do not close, or leave the surface. Dearer
/// than all the rest.
[[nodiscard]] std::vector<Defect> findUnsound(const Part& part, const Progress& progress);

/// The widest gap that can be closed without harm [mm], and why: half the shortest open edge, half the narrowest face
/// between two open edges of its own (the wall of a thin plate), a tenth of the target size. Cost: quadratic in the
/// open edges of one face.
[[nodiscard]] std::pair<double, std::string> safeGapLimit(const Rims& rims, double targetSize);

std::string defectKindName(DefectKind kind);  ///< "gap", "opening", ...

}  // namespace rasoir::survey
