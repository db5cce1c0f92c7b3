// Points in STEP files. The kernel's translator reads them and does not write them; the standard says them as elements
// of a geometric curve set (ISO 10303-42), which is how they are written here.
#pragma once
#include <StepData_StepModel.hxx>
#include <TopoDS_Shape.hxx>
#include <Transfer_FinderProcess.hxx>

namespace rasoir::exchange {

/// Whether a shape is made of vertices alone.
[[nodiscard]] bool isPoints(const TopoDS_Shape& shape);

/// What the translator is given in the place of points: a line for each, beginning at it.
[[nodiscard]] TopoDS_Shape standInFor(const TopoDS_Shape& points);
/// In a model that was translated and not yet written, turns the curves that a stand-in became into the points that
/// they begin at. Returns how many.
std::size_t putPoints(const TopoDS_Shape& standIn, const Handle(StepData_StepModel) & step,
                      const Handle(Transfer_FinderProcess) & finder);

}  // namespace rasoir::exchange
