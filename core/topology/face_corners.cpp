#include "topology/face_corners.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "topology/edge_angle.h"

namespace rasoir {
namespace {

struct End {
    gp_Pnt point;
    gp_Vec along;  // the way of the loop; null where there is none
    double parameter = 0.0;
};

End endOf(const TopoDS_Edge& edge, bool last) {
    const BRepAdaptor_Curve curve(edge);
    const bool atLast = last != (edge.Orientation() == TopAbs_REVERSED);
    End end;
    end.parameter = atLast ? curve.LastParameter() : curve.FirstParameter();
    curve.D1(end.parameter, end.point, end.along);
    if (edge.Orientation() == TopAbs_REVERSED) end.along.Reverse();
    if (end.along.Magnitude() > Tolerance::noLength)
        end.along.Normalize();
    else
        end.along = gp_Vec();
    return end;
}

}  // namespace

std::optional<FaceCorner> sharpestCorner(const TopoDS_Face& face) {
    std::optional<FaceCorner> sharpest;
    for (TopExp_Explorer wire(face, TopAbs_WIRE); wire.More(); wire.Next()) {
        std::vector<TopoDS_Edge> loop;
        for (BRepTools_WireExplorer it(TopoDS::Wire(wire.Current()), face); it.More(); it.Next())
            loop.push_back(it.Current());
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const TopoDS_Edge &one = loop[i], &next = loop[(i + 1) % loop.size()];
            if (BRep_Tool::Degenerated(one) || BRep_Tool::Degenerated(next)) continue;
            if (BRep_Tool::IsClosed(one, face) || BRep_Tool::IsClosed(next, face)) continue;  // a seam is no corner
            const End in = endOf(one, true), out = endOf(next, false);
            if (in.along.Magnitude() < 0.5 || out.along.Magnitude() < 0.5) continue;
            const gp_Vec normal = outwardNormal(face, one, in.parameter);
            if (normal.Magnitude() < 0.5) continue;
            // The face lies to the left of its loop, so a left turn of t leaves a corner of pi - t.
            const double turn = std::atan2(in.along.Crossed(out.along).Dot(normal), in.along.Dot(out.along));
            double degrees = (M_PI - turn) * 180.0 / M_PI;
            // Turning right back, the sign of the turn is noise: outside of a cusp the face is on both sides.
            if (degrees > 355.0) degrees = 360.0 - degrees;
            if (degrees > 175.0) continue;
            if (!sharpest || degrees < sharpest->degrees) sharpest = FaceCorner{degrees, in.point};
        }
    }
    return sharpest;
}

}  // namespace rasoir
