// What one action makes of one part, and the means all of them share.
#pragma once
#include <set>

#include "model/operation.h"
#include "topology/bodies.h"

namespace rasoir::mend {

/// What one action made of one part. A null shape: nothing was to be done.
struct Change {
    TopoDS_Shape shape;
    PartLineage lineage;
    std::vector<Item> items;
    int done = 0;
};

/// Carries on from what the last action made.
struct Chain {
    std::shared_ptr<const Part> part;
    Change all;

    /// Items of what an action left are kept, also where it did nothing else.
    void take(Result<Change> change) {
        if (!change) return;
        for (Item& item : change->items) all.items.push_back(std::move(item));
        if (change->shape.IsNull()) return;
        all.lineage = all.shape.IsNull() ? change->lineage : chained(all.lineage, change->lineage);
        all.shape = change->shape;
        all.done += change->done;
        part = part->withShape(change->shape, change->lineage);
    }
};

int openEdges(const Incidence& incidence);
int solidsIn(const TopoDS_Shape& shape);
/// "Watertight: 1 solid, volume 1 234.5 cm³", or how far from it.
std::string state(const TopoDS_Shape& shape);
/// Puts faces together anew after some were left out or added. `numbers`: old number of each, 0 for new ones.
[[nodiscard]] Change rebuilt(const Incidence& before, const std::vector<TopoDS_Face>& faces,
                             const std::vector<int>& numbers);
/// Takes faces out; what is left stays open. Refuses to take all.
[[nodiscard]] Result<Change> withoutFaces(const Part& part, const std::set<int>& dropped);

}  // namespace rasoir::mend
