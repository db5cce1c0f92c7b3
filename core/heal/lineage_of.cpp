#include "heal/lineage_of.h"

#include <map>
#include <TopExp.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

namespace rasoir::heal {

PartLineage lineageOf(const Part& part, const HalfEdgeBody& body, const TopTools_DataMapOfShapeShape& built,
                      const TopoDS_Shape& shape) {
    PartLineage lineage;
    const Incidence& topology = part.incidence();
    TopTools_IndexedMapOfShape faces, edges;
    TopExp::MapShapes(shape, TopAbs_FACE, faces);
    TopExp::MapShapes(shape, TopAbs_EDGE, edges);
    std::map<int, int> recordOf;
    for (int f = 0; f < body.faceCount(); ++f) recordOf[body.face(f).number] = f;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        const TopoDS_Face old = topology.face(f);
        const TopoDS_Shape* made = built.Seek(old);
        if (made == nullptr) {
            lineage.faces.push_back({Descent::Kept, f, faces.FindIndex(old)});
        } else if (!made->IsNull()) {
            lineage.faces.push_back({Descent::Changed, f, faces.FindIndex(*made)});
        } else {
            int r = recordOf.at(f);
            const bool merged = body.face(r).mergedInto >= 0;
            while (body.face(r).mergedInto >= 0) r = body.face(r).mergedInto;
            const TopoDS_Shape* into = merged ? built.Seek(body.face(r).received) : nullptr;
            if (into != nullptr && !into->IsNull())
                lineage.faces.push_back({Descent::Merged, f, faces.FindIndex(*into)});
            else
                lineage.faces.push_back({Descent::Gone, f, 0});
        }
    }
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const int now = edges.FindIndex(topology.edge(e));
        lineage.edges.push_back({now > 0 ? Descent::Kept : Descent::Gone, e, now});
    }
    return lineage;
}

}  // namespace rasoir::heal
