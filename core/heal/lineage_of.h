// What has become of the faces and edges of a part that a half-edge body has changed.
#pragma once
#include "model/lineage.h"
#include "model/model.h"
#include "topology/half_edges.h"

namespace rasoir::heal {

/// `built`: as body.build() returned it; `shape`: the part with those faces in place.
[[nodiscard]] PartLineage lineageOf(const Part& part, const HalfEdgeBody& body,
                                    const TopTools_DataMapOfShapeShape& built, const TopoDS_Shape& shape);

}  // namespace rasoir::heal
