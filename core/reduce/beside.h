// What is made of a part and stands beside it, wherever that part stands.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// A copy of a part with another shape, and of what was known about its things what their heirs take over.
[[nodiscard]] std::shared_ptr<Part> remade(const Part& part, const TopoDS_Shape& shape, const PartLineage& lineage);

/// Adds a shape as a part of its own behind each place of part `p`, with its attributes and material. `lineage`: from
/// the part's things to the shape's. Returns the new part's index.
std::size_t addBeside(Outcome& outcome, std::size_t p, const TopoDS_Shape& shape, PartLineage&& lineage,
                      const std::string& name);

}  // namespace rasoir::reduce
