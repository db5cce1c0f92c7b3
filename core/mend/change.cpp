#include "mend/change.h"

#include <fmt/format.h>

#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "geometry/integrals.h"
#include "model/lineage_builder.h"

namespace rasoir::mend {

int openEdges(const Incidence& incidence) {
    int open = 0;
    for (int e = 1; e <= incidence.edgeCount(); ++e) open += incidence.facesAt(e) == 1 ? 1 : 0;
    return open;
}
int solidsIn(const TopoDS_Shape& shape) {
    int count = 0;
    for (TopExp_Explorer it(shape, TopAbs_SOLID); it.More(); it.Next()) ++count;
    return count;
}

std::string state(const TopoDS_Shape& shape) {
    const Incidence incidence(shape);
    const int open = openEdges(incidence), solids = solidsIn(shape);
    if (open == 0 && solids > 0) {
        return fmt::format("watertight: {}, volume {} cm³", counted(static_cast<std::size_t>(solids), "solid"),
                           readable(1e-3 * volumeOf(shape)));  // mm3 to cm3
    }
    return fmt::format("{} left", counted(static_cast<std::size_t>(open), "open edge"));
}

Change rebuilt(const Incidence& before, const std::vector<TopoDS_Face>& faces, const std::vector<int>& numbers) {
    Change change;
    const Bodies bodies = bodiesFrom(faces);
    change.shape = bodies.shape;
    LineageBuilder lineage(before, change.shape);
    for (std::size_t i = 0; i < faces.size(); ++i)
        if (numbers[i] > 0) lineage.face(numbers[i], faces[i], !faces[i].IsSame(before.face(numbers[i])));
    change.lineage = lineage.finish();
    return change;
}

Result<Change> withoutFaces(const Part& part, const std::set<int>& dropped) {
    const Incidence& topology = part.incidence();
    std::vector<TopoDS_Face> faces;
    std::vector<int> numbers;
    for (int f = 1; f <= topology.faceCount(); ++f)
        if (!dropped.contains(f)) {
            faces.push_back(topology.face(f));
            numbers.push_back(f);
        }
    if (faces.empty())
        return fail(ProblemKind::NotPossible, fmt::format("Nothing would be left of \"{}\".", part.name),
                    "Set the part aside instead.", {part.name, {}, {}});
    return rebuilt(topology, faces, numbers);
}

}  // namespace rasoir::mend
