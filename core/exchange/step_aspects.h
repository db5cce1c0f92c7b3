// Groups in a STEP file the way the standard has it: shape aspects that name faces, edges and vertices.
#pragma once
#include <StepData_StepModel.hxx>
#include <Transfer_FinderProcess.hxx>

#include "model/model.h"

namespace rasoir::exchange {

/// Adds a shape aspect for each group and part, with a geometric item specific usage for each thing in it (ISO 10303,
/// AP242), to a model that was translated and not yet written. `shapes`: of each part as the translator was given it;
/// null where there is none. A member of one place alone is in an aspect of its own, "NAME @ PLACE".
/// Returns how many things were named.
std::size_t addShapeAspects(const Model& model, const std::vector<TopoDS_Shape>& shapes,
                            const Handle(StepData_StepModel) & step, const Handle(Transfer_FinderProcess) & finder);

}  // namespace rasoir::exchange
