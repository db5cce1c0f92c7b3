#include "heal/lineage_of.h"

#include <map>

#include "model/lineage_builder.h"

namespace rasoir::heal {

PartLineage lineageOf(const Part& part, const HalfEdgeBody& body, const TopTools_DataMapOfShapeShape& built,
                      const TopoDS_Shape& shape) {
    const Incidence& topology = part.incidence();
    LineageBuilder lineage(topology, shape);
    std::map<int, int> recordOf;
    for (int f = 0; f < body.faceCount(); ++f) recordOf[body.face(f).number] = f;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        const TopoDS_Shape* made = built.Seek(topology.face(f));
        if (made == nullptr) continue;
        if (!made->IsNull()) {
            lineage.face(f, *made);
            continue;
        }
        int r = recordOf.at(f);
        if (body.face(r).mergedInto < 0) continue;
        while (body.face(r).mergedInto >= 0) r = body.face(r).mergedInto;
        if (const TopoDS_Shape* into = built.Seek(body.face(r).received); into != nullptr && !into->IsNull())
            lineage.face(f, *into);
    }
    return lineage.finish();
}

}  // namespace rasoir::heal
