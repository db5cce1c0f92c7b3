#include "exchange/step_points.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <STEPConstruct.hxx>
#include <StepGeom_CartesianPoint.hxx>
#include <StepGeom_Line.hxx>
#include <StepGeom_TrimmedCurve.hxx>
#include <StepRepr_RepresentationItem.hxx>
#include <StepShape_GeometricCurveSet.hxx>
#include <StepShape_HArray1OfGeometricSetSelect.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

// The translator turns an edge without faces into a trimmed line in a geometric curve set, with product, name and
// placement as they should be. The line's own point is the point wanted, already in the file's unit; it takes the
// trimmed line's place in the set. The line stays in the file, but nothing refers to it any more.

namespace rasoir::exchange {
bool isPoints(const TopoDS_Shape& shape) {
    return !shape.IsNull() && !TopExp_Explorer(shape, TopAbs_EDGE).More() &&
           TopExp_Explorer(shape, TopAbs_VERTEX).More();
}

TopoDS_Shape standInFor(const TopoDS_Shape& points) {
    const BRep_Builder builder;
    TopoDS_Compound lines;
    builder.MakeCompound(lines);
    TopoDS_Shape only;
    int count = 0;
    for (TopExp_Explorer it(points, TopAbs_VERTEX); it.More(); it.Next()) {
        const gp_Pnt at = BRep_Tool::Pnt(TopoDS::Vertex(it.Current()));
        only = BRepBuilderAPI_MakeEdge(at, at.Translated(gp_Vec(1.0, 0.0, 0.0))).Edge();
        builder.Add(lines, only);
        ++count;
    }
    return count == 1 ? only : TopoDS_Shape(lines);
}

std::size_t putPoints(const TopoDS_Shape& standIn, const Handle(StepData_StepModel) & step,
                      const Handle(Transfer_FinderProcess) & finder) {
    std::set<Standard_Transient*> lines;
    for (TopExp_Explorer it(standIn, TopAbs_EDGE); it.More(); it.Next())
        if (const auto item = STEPConstruct::FindEntity(finder, it.Current()); !item.IsNull()) lines.insert(item.get());
    std::size_t put = 0;
    for (int i = 1; i <= step->NbEntities(); ++i) {
        const auto set = Handle(StepShape_GeometricCurveSet)::DownCast(step->Value(i));
        if (set.IsNull() || set->Elements().IsNull()) continue;
        for (int k = 1; k <= set->NbElements(); ++k) {
            StepShape_GeometricSetSelect element = set->ElementsValue(k);
            const Handle(Standard_Transient) own = element.Value();
            if (!lines.contains(own.get()) && !lines.contains(set.get())) continue;
            const auto trimmed = Handle(StepGeom_TrimmedCurve)::DownCast(own);
            const auto line =
                trimmed.IsNull() ? Handle(StepGeom_Line)() : Handle(StepGeom_Line)::DownCast(trimmed->BasisCurve());
            if (line.IsNull()) continue;
            element.SetValue(line->Pnt());
            set->Elements()->SetValue(k, element);
            ++put;
        }
    }
    return put;
}

}  // namespace rasoir::exchange
