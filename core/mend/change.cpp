#include "mend/change.h"

#include <fmt/format.h>

#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "geometry/integrals.h"

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
                           readable(1e-3 * volumeOf(shape)));
    }
    return fmt::format("{} left", counted(static_cast<std::size_t>(open), "open edge"));
}

Change rebuilt(const Incidence& before, const std::vector<TopoDS_Face>& faces, const std::vector<int>& numbers) {
    Change change;
    const Bodies bodies = bodiesFrom(faces);
    change.shape = bodies.shape;
    TopTools_IndexedMapOfShape faceMap, edgeMap;
    TopExp::MapShapes(change.shape, TopAbs_FACE, faceMap);
    TopExp::MapShapes(change.shape, TopAbs_EDGE, edgeMap);
    std::vector<char> kept(static_cast<std::size_t>(before.faceCount()) + 1, false);
    for (std::size_t i = 0; i < faces.size(); ++i) {
        change.lineage.faces.push_back(
            {numbers[i] == 0 ? Descent::Made : Descent::Kept, numbers[i], faceMap.FindIndex(faces[i])});
        kept[numbers[i]] = true;
    }
    for (int f = 1; f <= before.faceCount(); ++f)
        if (!kept[f]) change.lineage.faces.push_back({Descent::Gone, f, 0});
    for (int e = 1; e <= before.edgeCount(); ++e) {
        const int now = edgeMap.FindIndex(before.edge(e));
        change.lineage.edges.push_back({now > 0 ? Descent::Kept : Descent::Gone, e, now});
    }
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
