// A trial mesh: triangles at the target size over the skins of solids and over sheets, to look at and to measure.
//
// It is no mesh to solve with, but the proof of the cleaning: what makes its elements small or bad would do the same in
// any other mesh.
#pragma once
#include <array>
#include <gp_Pnt.hxx>
#include <map>
#include <vector>

#include "mesh/sizes.h"

namespace rasoir::mesh {

/// Where a point of a mesh lies: a vertex, the nth point of an edge, or within a face.
struct PointOrigin {
    EntityKind kind = EntityKind::Face;
    int number = 0;
    int index = 0;  ///< of an edge: 1 is the first after its start
    friend auto operator<=>(const PointOrigin&, const PointOrigin&) = default;
};

struct PartMesh {
    std::vector<gp_Pnt> points;  ///< [mm, part coordinates]
    std::vector<PointOrigin> origins;
    std::vector<std::array<int, 3>> triangles;  ///< of solids turning left as seen from outside
    std::vector<int> faceOf;                    ///< by triangle
    std::vector<std::array<int, 2>> lines;      ///< elements of beams
    std::vector<int> edgeOf;                    ///< by line
    std::vector<int> segmentsOf;                ///< by edge number: how many elements lie along it
    std::map<int, Problem> left;                ///< faces that could not be filled, and why
};

struct TrialMesh {
    SizeRules rules;
    std::map<std::size_t, PartMesh> parts;  ///< by index in the model
    /// Elements in the whole model: each place counts, faces in common once.
    std::size_t triangles = 0, lines = 0;
};

/// Meshes parts; empty: all that is not set aside. Faces that are to be meshed as one share their elements over the
/// edges between them. Parts joined with each other have the same points where they meet.
/// Refuses   a size that is none, one that would make more than ten million elements (estimated beforehand), being
///           cancelled. A face that cannot be filled is named in `left`, and the others are made.
/// Cost      near linear in elements.
[[nodiscard]] Result<TrialMesh> makeTrialMesh(const Model& model, std::vector<std::size_t> parts,
                                              const SizeRules& rules, Progress& progress);

/// The whole model as one mesh in its own coordinates: every place, points in common once, faces in common once.
struct AssembledMesh {
    std::vector<gp_Pnt> points;  ///< [mm]
    std::vector<std::array<int, 3>> triangles;
    std::vector<std::array<int, 2>> lines;
    struct Source {
        std::size_t place = 0;
        int number = 0;  ///< of the face, or edge
    };
    std::vector<Source> triangleOf, lineOf;
};
[[nodiscard]] AssembledMesh assembled(const Model& model, const TrialMesh& mesh);

}  // namespace rasoir::mesh
