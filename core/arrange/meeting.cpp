#include "arrange/meeting.h"

#include <ElCLib.hxx>
#include <Geom_BoundedCurve.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Conic.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <Geom_SurfaceOfLinearExtrusion.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GeomInt_IntSS.hxx>
#include <Precision.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/surface_meeting.h"

// Two questions. Are the surfaces one, where the faces lie? That is measured at the faces, not told from the forms
// alone: two planes that are turned against each other by 1e-7 are one for small faces and two for large ones. If they
// are not: in which curves do they meet? Conics come from closed formulas, all else from the kernel's intersection of
// the surfaces, trimmed a little outside the faces.

namespace rasoir::arrange {
namespace {

Handle(Geom_Surface) trimmed(const FaceRecord& face) {
    double low[2], high[2], first[2], last[2];
    face.surface->Bounds(first[0], last[0], first[1], last[1]);
    for (const int way : {0, 1}) {
        const double margin = 0.02 * (face.high[way] - face.low[way]);
        low[way] = face.low[way] - margin;
        high[way] = face.high[way] + margin;
        if (face.period[way] > 0.0) {
            if (high[way] - low[way] >= face.period[way]) {
                // All round: cut where the face has its seam.
                low[way] = face.low[way];
                high[way] = face.low[way] + face.period[way];
            }
        } else {
            low[way] = std::max(low[way], first[way]);
            high[way] = std::min(high[way], last[way]);
        }
    }
    return new Geom_RectangularTrimmedSurface(face.surface, low[0], high[0], low[1], high[1]);
}

}  // namespace

namespace {

bool elementary(const FaceRecord& face) {
    return face.adaptor.GetType() <= GeomAbs_Torus;
}

/// The same for two surfaces of one simple kind, told from their forms over the box in which both faces can be.
bool sameForm(const FaceRecord& a, const FaceRecord& b, const Bnd_Box& common, double allowed) {
    const gp_Pnt low = common.CornerMin(), high = common.CornerMax();
    const gp_Pnt middle(0.5 * (low.XYZ() + high.XYZ()));
    const double size = std::max(low.Distance(high), allowed);
    // Two lines near the box: as far apart as they are at its middle and half its size to either side.
    const auto sameAxis = [&](const gp_Ax1& one, const gp_Ax1& two) {
        const gp_Lin line(two);
        for (const double along : {-0.5, 0.0, 0.5}) {
            const double t = ElCLib::Parameter(gp_Lin(one), middle) + along * size;
            if (line.Distance(ElCLib::Value(t, gp_Lin(one))) > allowed) return false;
        }
        return true;
    };
    switch (a.adaptor.GetType()) {
        case GeomAbs_Plane: {
            const gp_Pln one = a.adaptor.Plane(), two = b.adaptor.Plane();
            gp_Dir normal = two.Axis().Direction();
            if (normal.Dot(one.Axis().Direction()) < 0.0) normal.Reverse();
            if (normal.Angle(one.Axis().Direction()) > 0.01) return false;
            for (int corner = 0; corner < 8; ++corner) {
                const gp_Pnt p(corner & 1 ? high.X() : low.X(), corner & 2 ? high.Y() : low.Y(),
                               corner & 4 ? high.Z() : low.Z());
                const double off =
                    gp_Vec(one.Location(), p).Dot(one.Axis().Direction()) - gp_Vec(two.Location(), p).Dot(normal);
                if (std::abs(off) > allowed) return false;
            }
            return true;
        }
        case GeomAbs_Cylinder:
            return std::abs(a.adaptor.Cylinder().Radius() - b.adaptor.Cylinder().Radius()) <= allowed &&
                   sameAxis(a.adaptor.Cylinder().Axis(), b.adaptor.Cylinder().Axis());
        case GeomAbs_Cone: {
            const gp_Cone one = a.adaptor.Cone(), two = b.adaptor.Cone();
            const double reach = one.Apex().Distance(middle) + size;
            return std::abs(std::abs(one.SemiAngle()) - std::abs(two.SemiAngle())) * reach <= allowed &&
                   one.Apex().Distance(two.Apex()) * std::abs(std::sin(one.SemiAngle())) <= allowed &&
                   sameAxis(one.Axis(), two.Axis());
        }
        case GeomAbs_Sphere:
            return a.adaptor.Sphere().Location().Distance(b.adaptor.Sphere().Location()) +
                       std::abs(a.adaptor.Sphere().Radius() - b.adaptor.Sphere().Radius()) <=
                   allowed;
        case GeomAbs_Torus: {
            const gp_Torus one = a.adaptor.Torus(), two = b.adaptor.Torus();
            return one.Location().Distance(two.Location()) <= allowed &&
                   std::abs(one.MajorRadius() - two.MajorRadius()) <= allowed &&
                   std::abs(one.MinorRadius() - two.MinorRadius()) <= allowed &&
                   one.Axis().Direction().Crossed(two.Axis().Direction()).XYZ().Modulus() * one.MajorRadius() <=
                       allowed;
        }
        default:
            return false;
    }
}

gp_Vec normalAt(const Handle(Geom_Surface) & surface, double u, double v) {
    gp_Pnt point;
    gp_Vec du, dv;
    surface->D1(u, v, point, du, dv);
    gp_Vec normal = du.Crossed(dv);
    if (normal.SquareMagnitude() > Tolerance::divisible) normal.Normalize();
    return normal;
}

}  // namespace

bool sameCarrier(const FaceRecord& a, const FaceRecord& b, double tolerance) {
    if (a.surface == b.surface) return true;
    const double allowed = tolerance + a.tolerance + b.tolerance;
    Bnd_Box common;
    {
        const gp_Pnt lowA = a.box.CornerMin(), highA = a.box.CornerMax(), lowB = b.box.CornerMin(),
                     highB = b.box.CornerMax();
        common.Update(std::max(lowA.X(), lowB.X()), std::max(lowA.Y(), lowB.Y()), std::max(lowA.Z(), lowB.Z()),
                      std::min(highA.X(), highB.X()), std::min(highA.Y(), highB.Y()), std::min(highA.Z(), highB.Z()));
    }
    if (elementary(a) && elementary(b))
        return a.adaptor.GetType() == b.adaptor.GetType() && sameForm(a, b, common, allowed);
    std::size_t asked = 0;
    for (const auto& [one, other] : {std::pair{&a, &b}, {&b, &a}}) {
        Bnd_Box reach = other->box;
        reach.Enlarge(allowed);
        constexpr int count = 7;
        for (int i = 0; i < count; ++i)
            for (int j = 0; j < count; ++j) {
                const double u = one->low[0] + (one->high[0] - one->low[0]) * i / (count - 1);
                const double v = one->low[1] + (one->high[1] - one->low[1]) * j / (count - 1);
                const gp_Pnt point = one->surface->Value(u, v);
                if (reach.IsOut(point)) continue;
                auto uv = elementaryParameters(other->adaptor, point);
                if (!uv) uv = footOn(other->surface, point, tolerance);
                if (!uv || other->surface->Value(uv->X(), uv->Y()).Distance(point) > allowed) return false;
                // On a line in which two surfaces cross, points lie on both as well: there the normals differ.
                if (normalAt(one->surface, u, v).Crossed(normalAt(other->surface, uv->X(), uv->Y())).Magnitude() > 0.05)
                    return false;
                ++asked;
            }
    }
    return asked >= 5;
}

namespace {

/// Where a plane cuts a curve that is swept straight on: each point of the curve moves along the sweep to the plane,
/// which is an affine map, so that a spline's poles tell it all. Conics are left alone but for planes square to the
/// sweep that they are parallel to. None where the sweep runs along the plane, or nearly.
std::optional<Branch> cutThroughSweep(const FaceRecord& flat, const FaceRecord& swept) {
    if (flat.adaptor.GetType() != GeomAbs_Plane) return std::nullopt;
    Handle(Geom_Surface) basis = swept.surface;
    while (const auto piece = Handle(Geom_RectangularTrimmedSurface)::DownCast(basis)) basis = piece->BasisSurface();
    const auto sweep = Handle(Geom_SurfaceOfLinearExtrusion)::DownCast(basis);
    if (sweep.IsNull()) return std::nullopt;
    const gp_Pln plane = flat.adaptor.Plane();
    const gp_Vec normal(plane.Axis().Direction()), along(sweep->Direction());
    const double rise = normal.Dot(along);
    constexpr double steep = 0.05, square = 1e-9;  // [rad]
    if (std::abs(rise) < steep) return std::nullopt;
    const auto moved = [&](const gp_Pnt& point) {
        return point.Translated(along * (gp_Vec(point, plane.Location()).Dot(normal) / rise));
    };
    Handle(Geom_Curve) curve = sweep->BasisCurve();
    double first = curve->FirstParameter(), last = curve->LastParameter();
    while (const auto piece = Handle(Geom_TrimmedCurve)::DownCast(curve)) curve = piece->BasisCurve();
    curve = Handle(Geom_Curve)::DownCast(curve->Copy());
    if (const auto spline = Handle(Geom_BSplineCurve)::DownCast(curve); !spline.IsNull()) {
        for (int pole = 1; pole <= spline->NbPoles(); ++pole) spline->SetPole(pole, moved(spline->Pole(pole)));
    } else if (const auto conic = Handle(Geom_Conic)::DownCast(curve); !conic.IsNull()) {
        if (conic->Axis().Direction().XYZ().Crossed(normal.XYZ()).Modulus() > square || std::abs(rise) < 1.0 - square)
            return std::nullopt;
        conic->Translate(conic->Location(), moved(conic->Location()));
    } else {
        return std::nullopt;
    }
    const bool whole = curve->IsPeriodic() != 0 && last - first > curve->Period() * (1.0 - Tolerance::rounding);
    if (curve->IsPeriodic() != 0 && !whole) {
        // A piece of a ring, as what is not closed.
        curve = new Geom_TrimmedCurve(curve, first, last);
        return Branch{curve, first, last, false, 0.0, true};
    }
    const bool closed = whole || curve->Value(first).Distance(curve->Value(last)) < Tolerance::noWay;
    return Branch{curve, first, last, closed, 0.0, true};
}

}  // namespace

std::optional<Meeting> meetingOf(const FaceRecord& a, const FaceRecord& b, double tolerance) {
    Meeting meeting;
    if (sameCarrier(a, b, tolerance)) {
        meeting.relation = Relation::Same;
        return meeting;
    }
    const ExactMeeting exact = exactMeeting(a.surface, b.surface, tolerance);
    if (exact.known) {
        for (const Handle(Geom_Curve) & curve : exact.curves) {
            Branch branch{curve, curve->FirstParameter(), curve->LastParameter(), curve->IsPeriodic() != 0, 0.0, true};
            meeting.branches.push_back(std::move(branch));
        }
        if (!meeting.branches.empty()) meeting.relation = Relation::Meet;
        meeting.complete = true;
        return meeting;
    }
    for (const auto& [flat, swept] : {std::pair{&a, &b}, {&b, &a}})
        if (auto branch = cutThroughSweep(*flat, *swept)) {
            meeting.branches.push_back(std::move(*branch));
            meeting.relation = Relation::Meet;
            meeting.complete = true;
            return meeting;
        }
    GeomInt_IntSS general;
    general.Perform(trimmed(a), trimmed(b), tolerance);
    if (!general.IsDone()) return std::nullopt;
    for (int i = 1; i <= general.NbLines(); ++i) {
        Handle(Geom_Curve) curve = general.Line(i);
        Branch branch{curve, curve->FirstParameter(), curve->LastParameter(), false, general.TolReached3d()};
        if (Precision::IsInfinite(branch.first) || Precision::IsInfinite(branch.last)) {
            branch.closed = false;
        } else {
            branch.closed = curve->Value(branch.first).Distance(curve->Value(branch.last)) <= tolerance;
        }
        if (const auto piece = Handle(Geom_TrimmedCurve)::DownCast(curve); !piece.IsNull())
            branch.curve = piece->BasisCurve();
        meeting.branches.push_back(std::move(branch));
    }
    if (!meeting.branches.empty()) meeting.relation = Relation::Meet;
    return meeting;
}

}  // namespace rasoir::arrange
