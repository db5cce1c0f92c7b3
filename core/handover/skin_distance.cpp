#include "handover/skin_distance.h"

#include <tbb/parallel_for.h>

#include <BRep_Tool.hxx>
#include <Poly_Triangulation.hxx>
#include <TopoDS.hxx>

#include "geometry/ray_field.h"

namespace rasoir::handover {
namespace {

constexpr std::size_t manyTriangles = 300000;

std::vector<std::size_t> placesShown(const Model& model) {
    std::vector<std::size_t> places;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Part& part = *model.parts[model.occurrences[o].part];
        if (!model.occurrences[o].aside && !part.shape.IsNull() && part.incidence().faceCount() > 0)
            places.push_back(o);
    }
    return places;
}

/// Takes a triangle in quarters until its sides are short enough.
void take(SkinDistances& into, const std::array<gp_Pnt, 3>& corners, double fineness, int depth) {
    const double longest =
        std::max({corners[0].Distance(corners[1]), corners[1].Distance(corners[2]), corners[2].Distance(corners[0])});
    if (depth > 0 && longest > fineness && into.triangles.size() < manyTriangles) {
        std::array<gp_Pnt, 3> middle;
        for (std::size_t i = 0; i < 3; ++i) middle[i] = gp_Pnt(0.5 * (corners[i].XYZ() + corners[(i + 1) % 3].XYZ()));
        for (std::size_t i = 0; i < 3; ++i)
            take(into, {corners[i], middle[i], middle[(i + 2) % 3]}, fineness, depth - 1);
        take(into, middle, fineness, depth - 1);
        return;
    }
    const int first = static_cast<int>(into.points.size());
    into.points.insert(into.points.end(), corners.begin(), corners.end());
    into.triangles.push_back({first, first + 1, first + 2});
}

}  // namespace

Result<SkinDistances> skinDistances(const Model& of, const Model& from, double fineness, Progress& progress) {
    const std::vector<std::size_t> own = placesShown(of), other = placesShown(from);
    if (own.empty() || other.empty())
        return fail(ProblemKind::NotPossible, "One of the two has no skin that could be compared.",
                    "Bring parts back from aside.");
    // Both are tessellated on the way, alike: the same face gets the same triangles, and no distance from itself.
    const RayField tessellated(of, own, 0.0005, progress), field(from, other, 0.0005, progress);
    SkinDistances made;
    for (const std::size_t o : own) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const Incidence& topology = of.parts[of.occurrences[o].part]->incidence();
        for (int f = 1; f <= topology.faceCount(); ++f) {
            TopLoc_Location place;
            const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(topology.face(f), place);
            if (mesh.IsNull()) continue;
            const gp_Trsf by = of.occurrences[o].placement * place.Transformation();
            for (int t = 1; t <= mesh->NbTriangles(); ++t) {
                std::array<int, 3> numbers{};
                mesh->Triangle(t).Get(numbers[0], numbers[1], numbers[2]);
                std::array<gp_Pnt, 3> corners;
                for (std::size_t i = 0; i < 3; ++i) corners[i] = mesh->Node(numbers[i]).Transformed(by);
                take(made, corners, fineness, 5);
            }
        }
    }
    made.off.resize(made.triangles.size(), 0.0);
    tbb::parallel_for(std::size_t{0}, made.triangles.size(), [&](std::size_t t) {
        if (progress.cancelled()) return;
        gp_XYZ sum(0, 0, 0);
        for (const int p : made.triangles[t]) sum += made.points[static_cast<std::size_t>(p)].XYZ();
        if (const auto hit = field.nearest(gp_Pnt(sum / 3.0))) made.off[t] = hit->distance;
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
    const auto farthest = std::max_element(made.off.begin(), made.off.end());
    if (farthest != made.off.end()) {
        made.most = *farthest;
        made.where = made.points[static_cast<std::size_t>(
            made.triangles[static_cast<std::size_t>(farthest - made.off.begin())][0])];
    }
    return made;
}

}  // namespace rasoir::handover
