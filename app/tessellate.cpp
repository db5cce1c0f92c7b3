#include "tessellate.h"

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <Poly_Triangulation.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/ray_field.h"

namespace rasoir::app {

void tessellate(const Model& model, Progress& progress) {
    for (std::size_t p = 0; p < model.parts.size() && !progress.cancelled(); ++p) {
        const Part& part = *model.parts[p];
        if (part.shape.IsNull()) continue;
        progress.report(static_cast<double>(p) / static_cast<double>(model.parts.size()), "Drawing " + part.name);
        Bnd_Box box;
        BRepBndLib::Add(part.shape, box, false);
        if (box.IsVoid()) continue;
        const double size = box.CornerMin().Distance(box.CornerMax());
        IMeshTools_Parameters parameters;
        parameters.Deflection = std::max(RayField::usualDeviation * size, Tolerance::least);
        // Faces that are on the stage already are shared with this shape: a little less fine is better than meshing
        // them under its hands.
        double drawn = 0.0;
        for (TopExp_Explorer it(part.shape, TopAbs_FACE); it.More(); it.Next()) {
            TopLoc_Location place;
            if (const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(TopoDS::Face(it.Current()), place);
                !mesh.IsNull())
                drawn = std::max(drawn, mesh->Deflection());
        }
        if (drawn <= 2.0 * parameters.Deflection) parameters.Deflection = std::max(parameters.Deflection, drawn);
        parameters.Angle = 0.35;
        parameters.InParallel = true;
        parameters.AllowQualityDecrease = true;
        (void)guarded("Drawing", [&]() -> Result<void> {
            BRepMesh_IncrementalMesh mesh(part.shape, parameters);
            return {};
        });
    }
}

}  // namespace rasoir::app
