#include "arrange/known_bodies.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <GeomAPI_ProjectPointOnSurf.hxx>
#include <Poly_Triangulation.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

namespace rasoir::test {

namespace {

using Corners = std::vector<std::pair<double, double>>;

KnownBody brick(double x, double y, double z) {
    return {block(x, y, z), [=](const gp_Pnt& p) {
                return std::min({p.X(), x - p.X(), p.Y(), y - p.Y(), p.Z(), z - p.Z()});
            }};
}
KnownBody pinAlong(const gp_Ax1& axis, double radius, double length) {
    return {
        rod(axis, radius, length), [=](const gp_Pnt& p) {
            const gp_Vec from(axis.Location(), p);
            const double along = from.Dot(axis.Direction());
            return std::min({radius - (from - along * gp_Vec(axis.Direction())).Magnitude(), along, length - along});
        }};
}
KnownBody ball(double radius) {
    return {BRepPrimAPI_MakeSphere(radius).Shape(), [=](const gp_Pnt& p) { return radius - p.Distance(gp_Pnt()); }};
}
KnownBody ring(double large, double small) {
    return {BRepPrimAPI_MakeTorus(large, small).Shape(),
            [=](const gp_Pnt& p) { return small - std::hypot(std::hypot(p.X(), p.Y()) - large, p.Z()); }};
}
/// Distance from the outline, positive within: the crossings of a ray along x are counted.
double depthIn(const Corners& corners, double x, double y) {
    double nearest = 1e9;
    bool within = false;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const auto [ax, ay] = corners[i];
        const auto [bx, by] = corners[(i + 1) % corners.size()];
        const double dx = bx - ax, dy = by - ay,
                     t = std::clamp(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy), 0.0, 1.0);
        nearest = std::min(nearest, std::hypot(x - ax - t * dx, y - ay - t * dy));
        if ((ay > y) != (by > y) && x < ax + (y - ay) / (by - ay) * (bx - ax)) within = !within;
    }
    return within ? nearest : -nearest;
}
/// Over an L, a Z or an A without its bar.
KnownBody letter(double size, Random& random) {
    const double w = 0.3 * size, h = between(random, 8, 14);
    const int which = static_cast<int>(between(random, 0, 3));
    const Corners corners = which == 0   ? Corners{{0, 0}, {size, 0}, {size, w}, {w, w}, {w, h}, {0, h}}
                            : which == 1 ? Corners{{0, 0},    {w, 0},        {w, h - w},        {size, h - w},
                                                   {size, h}, {w - size, h}, {w - size, h - w}, {0, h - w}}
                                         : Corners{{0, 0},
                                                   {w, 0},
                                                   {0.5 * size, 0.6 * h},
                                                   {size - w, 0},
                                                   {size, 0},
                                                   {0.5 * size + w, h},
                                                   {0.5 * size - w, h}};
    BRepBuilderAPI_MakePolygon outline;
    for (const auto& [x, y] : corners) outline.Add(gp_Pnt(x, y, 0));
    outline.Close();
    const double tall = between(random, 3, 10);
    return {BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(outline.Wire()).Face(), gp_Vec(0, 0, tall)).Shape(),
            [=](const gp_Pnt& p) {
                return std::min({depthIn(corners, p.X(), p.Y()), p.Z(), tall - p.Z()});
            }};
}
/// The spline is the one face that is no plane; what lies below it is told by the nearest point of its whole surface.
KnownBody underASpline(double x, double y, double z, double wave) {
    const TopoDS_Shape shape = splineTopped(x, y, z, wave);
    Handle(Geom_Surface) top;
    for (TopExp_Explorer face(shape, TopAbs_FACE); face.More(); face.Next())
        if (BRepAdaptor_Surface(TopoDS::Face(face.Current())).GetType() != GeomAbs_Plane)
            top = BRep_Tool::Surface(TopoDS::Face(face.Current()));
    const auto nearest = std::make_shared<GeomAPI_ProjectPointOnSurf>(gp_Pnt(), top);
    return {shape, [=](const gp_Pnt& p) {
                const double beside = std::min({p.X(), x - p.X(), p.Y(), y - p.Y(), p.Z()});
                // Far outside nobody asks for the spline, and its carried-on ends would mislead.
                if (beside < -1e-3) return beside;
                nearest->Perform(p);
                if (nearest->NbPoints() == 0) return 0.0;
                const double off = nearest->LowerDistance();
                return std::min(beside, nearest->NearestPoint().Z() >= p.Z() ? off : -off);
            }};
}
KnownBody shifted(const KnownBody& body, double x, double y, double z) {
    gp_Trsf move;
    move.SetTranslation(gp_Vec(x, y, z));
    return moved(body, move);
}

}  // namespace

KnownBody knownBody(int kind, Random& random) {
    const double size = between(random, 4, 12);
    const gp_Ax1 up(gp_Pnt(), gp_Dir(0, 0, 1));
    switch (kind) {
        case 0: {
            const double y = between(random, 3, 12);
            return brick(size, y, between(random, 3, 12));
        }
        case 1:
            return pinAlong(up, 0.5 * size, between(random, 4, 14));
        case 2: {
            const double low = 0.5 * size, high = between(random, 0.0, 2.0), h = between(random, 5, 12),
                         slope = std::atan2(low - high, h);
            return {coneOf(up, low, high, h), [=](const gp_Pnt& p) {
                        const double beside =
                            (low - (low - high) * p.Z() / h - std::hypot(p.X(), p.Y())) * std::cos(slope);
                        return std::min({beside, p.Z(), h - p.Z()});
                    }};
        }
        case 3:
            return ball(0.5 * size);
        case 4:
            return ring(size, between(random, 1.0, 0.6 * size));
        case 5:
            return letter(size, random);
        default: {
            const double y = between(random, 4, 10), z = between(random, 4, 8);
            return underASpline(size, y, z, between(random, 0.2, 1.0));
        }
    }
}

KnownBody moved(const KnownBody& body, const gp_Trsf& by) {
    return {moved(body.shape, by),
            [back = by.Inverted(), depth = body.depth](const gp_Pnt& p) { return depth(p.Transformed(back)); }};
}

std::pair<KnownBody, KnownBody> touching(int kind, Random& random) {
    const double r = between(random, 2, 6), s = between(random, 1, r - 0.5), h = between(random, 4, 12);
    const gp_Ax1 up(gp_Pnt(), gp_Dir(0, 0, 1));
    const auto turn = [&random](const KnownBody& body) {
        gp_Trsf turned;
        turned.SetRotation(gp_Ax1(gp_Pnt(), gp_Dir(0, 0, 1)), between(random, 0, 6));
        return moved(body, turned);
    };
    const KnownBody pin = pinAlong(up, r, h), thin = pinAlong(up, s, between(random, 4, 12)), large = ball(r),
                    small = ball(s);
    switch (kind) {
        case 0:  // side by side along a line
            return {pin, shifted(turn(thin), r + s, 0, between(random, -3, 3))};
        case 1:  // a thinner one within, along the wall
            return {pin, shifted(turn(thin), r - s, 0, between(random, -3, 3))};
        case 2:  // a pin on a flat, lying
            return {brick(2 * r, 2 * r, h), pinAlong(gp_Ax1(gp_Pnt(-1, r, h + s), gp_Dir(1, 0, 0)), s, 3 * r)};
        case 3:  // a pin let into a flat so that it touches the bottom from inside
            return {brick(2 * r, 2 * r, h), pinAlong(gp_Ax1(gp_Pnt(-1, r, s), gp_Dir(1, 0, 0)), s, 3 * r)};
        case 4:
            return {large, shifted(turn(small), r + s, 0, 0)};
        case 5:
            return {large, shifted(turn(small), r - s, 0, 0)};
        case 6:  // a ball in a bore of its own radius
            return {pin, shifted(turn(large), 0, 0, 0.5 * h)};
        case 7:  // a ring round a pin: the tube touches it all round
            return {pinAlong(up, 2 * r - s, h), shifted(ring(2 * r, s), 0, 0, 0.4 * h)};
        case 8:  // a ring on a flat
            return {brick(8 * r, 8 * r, h), shifted(ring(2 * r, s), 4 * r, 4 * r, h + s)};
        default:  // two crossing pins of one radius: their meeting curves touch each other
            return {shifted(pin, 0, 0, -0.5 * h), pinAlong(gp_Ax1(gp_Pnt(-2 * r, 0, 0), gp_Dir(1, 0, 0)), r, 4 * r)};
    }
}

Winding::Winding(const TopoDS_Shape& closed, double deflection) {
    // A copy of its own: triangles would stay with the body's faces.
    const TopoDS_Shape own = BRepBuilderAPI_Copy(closed).Shape();
    // The kernel's mesher does not always keep to the distance on cones; a narrow angle does it here.
    BRepMesh_IncrementalMesh mesh(own, deflection, false, 0.1);
    for (TopExp_Explorer face(own, TopAbs_FACE); face.More(); face.Next()) {
        TopLoc_Location place;
        const Handle(Poly_Triangulation) part = BRep_Tool::Triangulation(TopoDS::Face(face.Current()), place);
        if (part.IsNull()) continue;
        for (int i = 1; i <= part->NbTriangles(); ++i) {
            int a = 0, b = 0, c = 0;
            part->Triangle(i).Get(a, b, c);
            if (face.Current().Orientation() == TopAbs_REVERSED) std::swap(b, c);
            const auto at = [&](int node) { return part->Node(node).Transformed(place).XYZ(); };
            _triangles.push_back({at(a), at(b), at(c)});
        }
    }
}
bool Winding::within(const gp_Pnt& at) const {
    double sum = 0.0;
    for (const auto& [p, q, r] : _triangles) {
        const gp_XYZ a = p - at.XYZ(), b = q - at.XYZ(), c = r - at.XYZ();
        const double la = a.Modulus(), lb = b.Modulus(), lc = c.Modulus();
        sum += std::atan2(a.Dot(b.Crossed(c)), la * lb * lc + a.Dot(b) * lc + b.Dot(c) * la + c.Dot(a) * lb);
    }
    return sum > M_PI;
}

}  // namespace rasoir::test
