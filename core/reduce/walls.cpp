#include "reduce/walls.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SphericalSurface.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <GeomLib_IsPlanarSurface.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>
#include <numeric>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/guard.h"
#include "common/sets.h"
#include "common/text.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/edge_probe.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "reduce/freeform_walls.h"
#include "reduce/wall_side.h"

// First the carriers: faces of one body that lie on one surface and look the same way are one carrier. Then pairs of
// carriers that are offsets of each other with material between. Of those, the samples of the smaller side are sent
// straight through the wall: what share comes out within the other side? A pair that faces itself across little of its
// area is no wall but two ends of something.

namespace rasoir::reduce {
namespace {

/// What makes two faces one carrier, and a carrier another's offset.
struct Carrier {
    GeomAbs_SurfaceType kind = GeomAbs_OtherSurface;
    int body = 0;
    gp_Ax1 axis;          // plane: a point and the outward normal
    double radius = 0.0;  // cylinder, sphere, tube of a torus; cone: at the axis' point
    double angle = 0.0;   // cone
    double major = 0.0;   // torus: of the circle that its tube runs round
    bool inward = false;  // round: the outside looks to the axis or centre
    std::vector<int> faces;
    double area = 0.0;
};

/// A plane or a round surface that was written as a spline, or as something swept.
std::optional<Carrier> carrierInDisguise(const TopoDS_Face& face, Carrier carrier) {
    const GeomLib_IsPlanarSurface flat(BRep_Tool::Surface(face), Tolerance::sameSkin);
    if (flat.IsPlanar()) {
        carrier.kind = GeomAbs_Plane;
        const auto samples = skinSamples(face, 3);
        if (samples.empty()) return std::nullopt;
        const gp_Dir normal = flat.Plan().Axis().Direction();
        carrier.axis =
            gp_Ax1(samples.front().at, gp_Vec(normal).Dot(samples.front().out) < 0.0 ? normal.Reversed() : normal);
        return carrier;
    }
    const auto round = roundSurface(face, Tolerance::sameSkin);
    if (!round) return std::nullopt;
    carrier.axis = round->axis;
    carrier.radius = round->radius;
    carrier.inward = round->inward;
    switch (round->kind) {
        case SurfaceKind::Cylinder:
            carrier.kind = GeomAbs_Cylinder;
            return carrier;
        case SurfaceKind::Sphere:
            carrier.kind = GeomAbs_Sphere;
            carrier.axis.SetDirection(gp::DZ());
            return carrier;
        case SurfaceKind::Cone:
            carrier.kind = GeomAbs_Cone;
            carrier.angle = std::atan(round->slope);
            return carrier;
        case SurfaceKind::Torus:
            carrier.kind = GeomAbs_Torus;
            carrier.major = round->ringRadius;
            if (carrier.major <= carrier.radius) return std::nullopt;
            return carrier;
        default:
            return std::nullopt;
    }
}

std::optional<Carrier> carrierOf(const Incidence& topology, int face) {
    const TopoDS_Face shape = topology.face(face);
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(shape);
    const GeomAdaptor_Surface adaptor(surface);
    Carrier carrier;
    carrier.kind = adaptor.GetType();
    carrier.body = topology.bodyOf(face);
    carrier.faces = {face};
    carrier.area = areaOf(shape);
    const bool reversed = shape.Orientation() == TopAbs_REVERSED;
    switch (carrier.kind) {
        case GeomAbs_Plane: {
            const gp_Pln plane = adaptor.Plane();
            gp_Dir normal = plane.Axis().Direction();
            if (!plane.Direct()) normal.Reverse();
            if (reversed) normal.Reverse();
            carrier.axis = gp_Ax1(plane.Location(), normal);
            return carrier;
        }
        case GeomAbs_Cylinder:
            carrier.axis = adaptor.Cylinder().Axis();
            carrier.radius = adaptor.Cylinder().Radius();
            carrier.inward = reversed == adaptor.Cylinder().Direct();
            return carrier;
        case GeomAbs_Sphere:
            carrier.axis = gp_Ax1(adaptor.Sphere().Location(), gp::DZ());
            carrier.radius = adaptor.Sphere().Radius();
            carrier.inward = reversed == adaptor.Sphere().Direct();
            return carrier;
        case GeomAbs_Cone:
            carrier.axis = gp_Ax1(adaptor.Cone().Location(), adaptor.Cone().Axis().Direction());
            carrier.radius = adaptor.Cone().RefRadius();
            carrier.angle = adaptor.Cone().SemiAngle();
            carrier.inward = reversed == adaptor.Cone().Direct();
            return carrier;
        case GeomAbs_Torus:
            carrier.axis = adaptor.Torus().Axis();
            carrier.radius = adaptor.Torus().MinorRadius();
            carrier.major = adaptor.Torus().MajorRadius();
            carrier.inward = reversed == adaptor.Torus().Direct();
            if (carrier.major <= carrier.radius) return std::nullopt;  // it passes through itself at its axis
            return carrier;
        default:
            return carrierInDisguise(shape, std::move(carrier));
    }
}

bool oneAxis(const gp_Ax1& a, const gp_Ax1& b, double exact) {
    return a.Direction().IsParallel(b.Direction(), Tolerance::sameDirection) &&
           gp_Lin(a).Distance(b.Location()) <= exact;
}

/// Two tori whose tubes run round one circle.
bool oneCircle(const Carrier& a, const Carrier& b, double exact) {
    return oneAxis(a.axis, b.axis, exact) && a.axis.Location().Distance(b.axis.Location()) <= exact &&
           std::abs(a.major - b.major) <= exact;
}

/// Radius of a cone at the point of an axis.
double radiusAt(const Carrier& cone, const gp_Pnt& point) {
    return cone.radius + gp_Vec(cone.axis.Location(), point).Dot(cone.axis.Direction()) * std::tan(cone.angle);
}

bool sameCarrier(const Carrier& a, const Carrier& b, double exact) {
    if (a.kind != b.kind || a.body != b.body || a.inward != b.inward) return false;
    switch (a.kind) {
        case GeomAbs_Plane:
            return a.axis.Direction().IsEqual(b.axis.Direction(), Tolerance::sameDirection) &&
                   std::abs(gp_Vec(a.axis.Location(), b.axis.Location()).Dot(a.axis.Direction())) <= exact;
        case GeomAbs_Cylinder:
            return oneAxis(a.axis, b.axis, exact) && std::abs(a.radius - b.radius) <= exact;
        case GeomAbs_Sphere:
            return a.axis.Location().Distance(b.axis.Location()) <= exact && std::abs(a.radius - b.radius) <= exact;
        case GeomAbs_Cone:
            return oneAxis(a.axis, b.axis, exact) &&
                   std::abs(std::abs(radiusAt(a, b.axis.Location())) - std::abs(b.radius)) <= exact &&
                   std::abs(std::abs(a.angle) - std::abs(b.angle)) < Tolerance::sameDirection;
        case GeomAbs_Torus:
            return oneCircle(a, b, exact) && std::abs(a.radius - b.radius) <= exact;
        default:
            return false;
    }
}

/// Thickness of the material between two carriers that are offsets of each other; none where they are not. `a` is the
/// outer one, or either of two planes.
std::optional<double> thicknessBetween(const Carrier& a, const Carrier& b, double exact) {
    if (a.kind != b.kind || a.body != b.body) return std::nullopt;
    double thick = 0.0;
    switch (a.kind) {
        case GeomAbs_Plane:
            if (!a.axis.Direction().IsOpposite(b.axis.Direction(), Tolerance::sameDirection)) return std::nullopt;
            thick = -gp_Vec(a.axis.Location(), b.axis.Location()).Dot(a.axis.Direction());
            break;
        case GeomAbs_Cylinder:
            if (a.inward || !b.inward || !oneAxis(a.axis, b.axis, exact)) return std::nullopt;
            thick = a.radius - b.radius;
            break;
        case GeomAbs_Sphere:
            if (a.inward || !b.inward || a.axis.Location().Distance(b.axis.Location()) > exact) return std::nullopt;
            thick = a.radius - b.radius;
            break;
        case GeomAbs_Cone: {
            if (a.inward || !b.inward || !oneAxis(a.axis, b.axis, exact)) return std::nullopt;
            const double sense = a.axis.Direction().Dot(b.axis.Direction()) > 0.0 ? 1.0 : -1.0;
            if (std::abs(a.angle - sense * b.angle) > Tolerance::sameDirection) return std::nullopt;
            thick = (radiusAt(a, b.axis.Location()) - b.radius) * std::cos(a.angle);
            break;
        }
        case GeomAbs_Torus:
            if (a.inward || !b.inward || !oneCircle(a, b, exact)) return std::nullopt;
            thick = a.radius - b.radius;
            break;
        default:
            return std::nullopt;
    }
    return thick > exact ? std::optional(thick) : std::nullopt;
}

/// The plane that halves the angle between two planes which lean towards each other, its normal on the side of `a`.
/// None where they are parallel or lean by more than ten degrees.
std::optional<gp_Pln> halfway(const Carrier& a, const Carrier& b) {
    if (a.kind != GeomAbs_Plane || b.kind != GeomAbs_Plane || a.body != b.body) return std::nullopt;
    const double lean = a.axis.Direction().Angle(b.axis.Direction().Reversed());
    if (lean < Tolerance::sameDirection || lean > 10.0 * M_PI / 180.0) return std::nullopt;
    const gp_Vec na(a.axis.Direction()), nb(b.axis.Direction());
    const gp_Dir normal(na - nb);
    // A point of both planes, or near it: any point that is as far below the one as below the other lies halfway.
    const gp_Pnt at = a.axis.Location();
    const double below = -gp_Vec(b.axis.Location(), at).Dot(nb);
    return gp_Pln(at.Translated(gp_Vec(normal) * (-below / (gp_Vec(normal).Dot(na) - gp_Vec(normal).Dot(nb)))), normal);
}

/// How thick it is through a point, along a direction from the side of `a` to that of `b`; none the wrong way round.
std::optional<std::pair<double, gp_Pnt>> across(const gp_Pnt& from, const gp_Vec& way, const Carrier& b, double exact) {
    const double fall = way.Dot(gp_Vec(b.axis.Direction()));
    if (fall < 0.1) return std::nullopt;
    const double far = gp_Vec(from, b.axis.Location()).Dot(gp_Vec(b.axis.Direction())) / fall;
    if (far <= exact) return std::nullopt;
    return std::pair(far, from.Translated(way * far));
}

/// Two cylinders about parallel axes, material between them: a bend whose inside and outside were rounded for
/// themselves.
bool isUnevenBend(const Carrier& a, const Carrier& b, double exact) {
    if (a.kind != GeomAbs_Cylinder || b.kind != GeomAbs_Cylinder || a.body != b.body || a.inward || !b.inward)
        return false;
    if (!a.axis.Direction().IsParallel(b.axis.Direction(), Tolerance::sameDirection)) return false;
    const double apart = gp_Lin(a.axis).Distance(b.axis.Location());
    return apart > exact && apart < 0.5 * (a.radius + b.radius);
}

/// The cylinder midway between both: about the mean of the axes, with the mean of the radii. Where both sides run on
/// smoothly into walls of one thickness it runs on smoothly into their middles.
gp_Cylinder midwayBetween(const Carrier& a, const Carrier& b) {
    const gp_Pnt at = a.axis.Location();
    const gp_Vec off(at, b.axis.Location());
    const gp_Vec sideways = off - gp_Vec(a.axis.Direction()) * off.Dot(gp_Vec(a.axis.Direction()));
    return {gp_Ax3(at.Translated(sideways * 0.5), a.axis.Direction()), 0.5 * (a.radius + b.radius)};
}

/// How far it is from a point of the outer cylinder straight inwards to the inner one; none where it is missed.
std::optional<double> throughBend(const gp_Pnt& point, const gp_Vec& inwards, const Carrier& inner) {
    const gp_Vec axis(inner.axis.Direction()), off(inner.axis.Location(), point);
    const gp_Vec p = off - axis * off.Dot(axis), w = inwards - axis * inwards.Dot(axis);
    const double a = w.SquareMagnitude(), b = p.Dot(w), c = p.SquareMagnitude() - inner.radius * inner.radius;
    const double root = b * b - a * c;
    if (a < 1e-12 || root < 0.0) return std::nullopt;  // of a quadratic in unit numbers: no square term is left
    const double far = (-b - std::sqrt(root)) / a;
    if (far <= 0.0) return std::nullopt;
    // Where it comes out at a slant the two are no sides of one wall.
    const gp_Vec out = p + w * far;
    if (-out.Dot(w) < 0.94 * out.Magnitude() * w.Magnitude()) return std::nullopt;
    return far;
}

Handle(Geom_Surface) middleOf(const Carrier& a, double thickness) {
    switch (a.kind) {
        case GeomAbs_Plane:
            return new Geom_Plane(a.axis.Location().Translated(gp_Vec(a.axis.Direction()) * (-0.5 * thickness)),
                                  a.axis.Direction());
        case GeomAbs_Cylinder:
            return new Geom_CylindricalSurface(gp_Ax2(a.axis.Location(), a.axis.Direction()),
                                               a.radius - 0.5 * thickness);
        case GeomAbs_Sphere:
            return new Geom_SphericalSurface(gp_Ax2(a.axis.Location(), a.axis.Direction()), a.radius - 0.5 * thickness);
        case GeomAbs_Torus:
            return new Geom_ToroidalSurface(gp_Ax2(a.axis.Location(), a.axis.Direction()), a.major,
                                            a.radius - 0.5 * thickness);
        default: {
            double radius = a.radius - 0.5 * thickness / std::cos(a.angle);
            gp_Pnt at = a.axis.Location();
            if (radius <= 0.0) {
                // Beyond the tip of the middle cone at that height: begun where it is as wide as the outer one is here.
                at.Translate(gp_Vec(a.axis.Direction()) * ((a.radius - radius) / std::tan(a.angle)));
                radius = a.radius;
            }
            return new Geom_ConicalSurface(gp_Ax2(at, a.axis.Direction()), a.angle, radius);
        }
    }
}

/// What samples say of a wall between two planes that lean.
struct Taper {
    std::size_t count = 0;
    double least = 1e300, most = 0.0, sum = 0.0;
    gp_XYZ middle{0.0, 0.0, 0.0};

    void add(const gp_Pnt& half, double thick) {
        ++count;
        least = std::min(least, thick);
        most = std::max(most, thick);
        sum += thick;
        middle += half.XYZ();
    }
    /// Puts thickness and growth into a wall; false where it runs out to an edge, which is a wedge and no wall.
    bool settle(Wall& wall, const gp_Pln& plane, const gp_Dir& outwardA) const {
        if (count == 0 || least < 0.25 * most) return false;
        wall.where = gp_Pnt(middle / static_cast<double>(count));
        wall.thickness = sum / static_cast<double>(count);
        if (most - least < 0.05 * wall.thickness) return true;
        // Along the plane, the way in which side A leans outwards, by twice what it leans.
        const gp_Vec normal(plane.Axis().Direction()), out(outwardA);
        const double rise = normal.Dot(out);
        const gp_Vec sideways = out - normal * rise;
        wall.growth = sideways * (-2.0 / rise);
        return true;
    }
};

// Of a wall: its thickness over twice its area by its outline, which is the breadth of a long strip. A tenth of a
// breadth is meant for squares, of which that is half.
constexpr double thinShare = 0.2, doubtfulShare = 0.4;

/// By its own breadth: half of that of a square, that of a long strip.
Slenderness slendernessOf(const Wall& wall) {
    const double share = wall.breadth > 0.0 ? wall.thickness / wall.breadth : 1.0;
    if (share <= thinShare) return Slenderness::Thin;
    return share <= doubtfulShare ? Slenderness::Doubtful : Slenderness::Thick;
}

/// How long the outline of a face is, holes that are small beside it left out: a perforated plate is as broad as it is
/// without them, a frame is not.
double outlineOf(const TopoDS_Face& face) {
    double outer = 0.0;
    std::vector<double> loops;
    for (TopoDS_Iterator loop(face); loop.More(); loop.Next()) {
        if (loop.Value().ShapeType() != TopAbs_WIRE) continue;
        double length = 0.0;
        for (TopoDS_Iterator edge(loop.Value()); edge.More(); edge.Next())
            length += EdgeProbe(TopoDS::Edge(edge.Value())).length();
        outer = std::max(outer, length);
        loops.push_back(length);
    }
    return std::accumulate(loops.begin(), loops.end(), 0.0,
                           [outer](double sum, double length) { return length > 0.3 * outer ? sum + length : sum; });
}

/// A wall that is narrow only because other walls bound it, as in a housing of many cells, is as thin as they are: it
/// is measured by the part of its outline that is its own rim, and counts as the next thinner kind.
void heldByOthers(const Incidence& topology, std::vector<Wall>& walls) {
    std::vector<double> thinnest(static_cast<std::size_t>(topology.faceCount()) + 1, 1e300);  // wall of each face
    for (const Wall& wall : walls)
        for (const auto* side : {&wall.sideA, &wall.sideB})
            for (const int f : *side)
                thinnest[static_cast<std::size_t>(f)] = std::min(thinnest[static_cast<std::size_t>(f)], wall.thickness);
    for (Wall& wall : walls) {
        if (wall.slenderness == Slenderness::Thin) continue;
        double rim = 0.0, whole = 0.0;
        for (const int f : wall.sideA)
            for (const int e : topology.edgesOf(f)) {
                const double length = EdgeProbe(topology.edge(e)).length();
                whole += length;
                const auto uses = topology.usesOf(e);
                const bool held = std::any_of(uses.begin(), uses.end(), [&](const EdgeUse& use) {
                    return std::find(wall.sideA.begin(), wall.sideA.end(), use.face) == wall.sideA.end() &&
                           thinnest[static_cast<std::size_t>(use.face)] < 2.0 * wall.thickness;
                });
                if (!held) rim += length;
            }
        if (whole <= 0.0 || wall.breadth <= 0.0) continue;
        const double share = wall.thickness / wall.breadth, own = share * rim / whole;
        if (wall.slenderness == Slenderness::Doubtful && own <= thinShare) wall.slenderness = Slenderness::Thin;
        if (wall.slenderness == Slenderness::Thick && share <= 2.0 * doubtfulShare && own <= thinShare)
            wall.slenderness = Slenderness::Doubtful;
    }
}

/// A plate with pads and pockets has a wall for each of its thicknesses, and each of them is narrow: a frame round a
/// pad, say. They have one side in common. Where the largest of them is thin by the breadth of that, so is the plate,
/// up to the doubtful thickness, since the others hold it. What rises from it by more than half of its own breadth is a
/// boss and no step.
void stepsOfPlates(const Incidence& topology, std::vector<Wall>& walls) {
    constexpr double mostTimes = 3.0;  // as thick as what it rises from
    std::map<int, std::vector<std::size_t>> wallsAt;
    for (std::size_t w = 0; w < walls.size(); ++w)
        if (GeomAdaptor_Surface(walls[w].middle).GetType() == GeomAbs_Plane)
            for (const auto* side : {&walls[w].sideA, &walls[w].sideB})
                for (const int f : *side) wallsAt[f].push_back(w);
    for (const auto& [face, own] : wallsAt) {
        if (own.size() < 2) continue;
        const double outline = outlineOf(topology.face(face));
        const double breadth = outline > 0.0 ? 2.0 * areaOf(topology.face(face)) / outline : 0.0;
        const auto isWithin = [&](std::size_t w, double share) { return walls[w].thickness <= share * breadth; };
        const std::size_t main = *std::max_element(
            own.begin(), own.end(), [&](std::size_t a, std::size_t b) { return walls[a].area < walls[b].area; });
        if (!isWithin(main, thinShare)) continue;
        std::vector<std::size_t> plate{main};
        std::set<std::size_t> left(own.begin(), own.end());
        left.erase(main);
        for (std::size_t i = 0; i < plate.size(); ++i)
            for (auto it = left.begin(); it != left.end();) {
                const Wall &from = walls[plate[i]], &to = walls[*it];
                const bool step = isWithin(*it, doubtfulShare) && to.thickness <= mostTimes * from.thickness &&
                                  from.thickness <= mostTimes * to.thickness &&
                                  to.breadth >= 2.0 * std::abs(to.thickness - from.thickness);
                if (step) plate.push_back(*it);
                it = step ? left.erase(it) : std::next(it);
            }
        if (plate.size() < 2) continue;
        for (const std::size_t w : plate) walls[w].slenderness = Slenderness::Thin;
    }
}

}  // namespace

std::vector<FaceWithoutWall> facesWithoutWall(const Part& part, const std::vector<Wall>& walls) {
    const Incidence& topology = part.incidence();
    std::map<int, const Wall*> wallOf;  // by face: the thinnest
    for (const Wall& wall : walls)
        for (const auto* side : {&wall.sideA, &wall.sideB})
            for (const int f : *side) {
                const Wall*& own = wallOf[f];
                if (own == nullptr || wall.thickness < own->thickness) own = &wall;
            }
    const auto makesWall = [&](int face) {
        const auto own = wallOf.find(face);
        return own != wallOf.end() && own->second->slenderness != Slenderness::Thick;
    };
    // A rim touches both sides of a wall, a round at a joint those of two; also where it was needlessly divided, so
    // that only its pieces together do.
    Sets rims(static_cast<std::size_t>(topology.faceCount()) + 1);
    for (int f = 1; f <= topology.faceCount(); ++f)
        for (const int g : topology.neighboursOf(f))
            if (f < g && !makesWall(f) && !makesWall(g) &&
                sameSurface(topology.face(f), topology.face(g), Tolerance::sameSkin))
                rims.join(f, g);
    std::map<int, std::set<int>> wallsBeside;
    for (int f = 1; f <= topology.faceCount(); ++f)
        for (const int g : topology.neighboursOf(f))
            if (makesWall(g)) wallsBeside[rims.root(f)].insert(g);
    std::vector<FaceWithoutWall> left;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        if (makesWall(f) || wallsBeside[rims.root(f)].size() >= 2) continue;
        const auto own = wallOf.find(f);
        left.push_back({f, topology.area(f),
                        own == wallOf.end()
                            ? std::string("nothing faces it at one distance")
                            : fmt::format("{} mm thick, too much for its breadth of {} mm",
                                          readable(own->second->thickness), readable(own->second->breadth))});
    }
    std::stable_sort(left.begin(), left.end(),
                     [](const FaceWithoutWall& a, const FaceWithoutWall& b) { return a.area > b.area; });
    return left;
}

Result<std::vector<Wall>> findWalls(const Part& part, double from, double upTo, Progress& progress) {
    return guarded("Looking for walls", [&]() -> Result<std::vector<Wall>> {
        const Incidence& topology = part.incidence();
        constexpr double exact = Tolerance::samePlace;
        std::vector<Carrier> carriers;
        for (int f = 1; f <= topology.faceCount(); ++f) {
            if (topology.bodyOf(f) < 0) continue;
            auto own = carrierOf(topology, f);
            if (!own) continue;
            const auto known = std::find_if(carriers.begin(), carriers.end(),
                                            [&](const Carrier& one) { return sameCarrier(one, *own, exact); });
            if (known == carriers.end()) {
                carriers.push_back(std::move(*own));
            } else {
                known->faces.push_back(f);
                known->area += own->area;
            }
        }
        std::map<int, WallSide> known;
        const auto sideNumbered = [&](int f) -> const WallSide& {
            const auto found = known.find(f);
            return found != known.end() ? found->second : known.emplace(f, sideOf(topology.face(f))).first->second;
        };
        // The nearest first: what has an opposite side right behind it is no side of anything farther away, as the
        // skins of many ribs beside each other would be of all that lies between them.
        const auto outside = [&](double thick) {
            return thick < from * (1.0 - Tolerance::rounding) ||
                   (upTo > 0.0 && thick > upTo * (1.0 + Tolerance::rounding));
        };
        struct Pair {
            double thickness;  // without end where it is not one
            std::size_t a, b;
        };
        std::vector<Pair> pairs;
        for (std::size_t i = 0; i < carriers.size(); ++i) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            for (std::size_t k = 0; k < carriers.size(); ++k) {
                if (k == i || (carriers[i].kind == GeomAbs_Plane && k < i)) continue;
                // A flat wall is measured from its smaller side: what of the larger one lies behind is told by samples.
                const bool turned = carriers[i].kind == GeomAbs_Plane && carriers[k].area < carriers[i].area;
                const Carrier &a = carriers[turned ? k : i], &b = carriers[turned ? i : k];
                const auto thickness = thicknessBetween(a, b, exact);
                if (thickness ? outside(*thickness) : !halfway(a, b) && !isUnevenBend(a, b, exact)) continue;
                pairs.push_back({thickness.value_or(1e300), turned ? k : i, turned ? i : k});
            }
        }
        std::stable_sort(pairs.begin(), pairs.end(),
                         [](const Pair& x, const Pair& y) { return x.thickness < y.thickness; });
        std::vector<double> areas(static_cast<std::size_t>(topology.faceCount()) + 1, 0.0), claimed = areas;
        for (const Carrier& carrier : carriers)
            for (const int f : carrier.faces) areas[static_cast<std::size_t>(f)] = areaOf(topology.face(f));
        const auto isClaimed = [&](int f) {
            return claimed[static_cast<std::size_t>(f)] > 0.98 * areas[static_cast<std::size_t>(f)];
        };
        std::vector<Wall> walls;
        for (const Pair& pair : pairs) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            const Carrier &a = carriers[pair.a], &b = carriers[pair.b];
            const bool constant = pair.thickness < 1e300;
            const auto leaning = constant ? std::nullopt : halfway(a, b);
            const bool uneven = !constant && !leaning;
            const bool flat = constant && a.kind == GeomAbs_Plane;
            if (flat && (std::all_of(a.faces.begin(), a.faces.end(), isClaimed) ||
                         std::all_of(b.faces.begin(), b.faces.end(), isClaimed)))
                continue;
            Wall wall;
            Taper taper;
            if (constant) {
                wall.thickness = pair.thickness;
                wall.middle = middleOf(a, pair.thickness);
            } else if (leaning) {
                wall.middle = new Geom_Plane(*leaning);
            } else {
                wall.middle = new Geom_CylindricalSurface(midwayBetween(a, b));
            }
            // Face against face: those that have another behind them belong to the wall, with the area that has.
            std::set<int> facesB;
            double outline = 0.0;
            for (const int f : a.faces) {
                const TopoDS_Face shape = topology.face(f);
                const WallSide& side = sideNumbered(f);
                if (flat && isClaimed(f)) continue;
                std::vector<std::pair<int, const WallSide*>> sidesB;
                // Moved through the wall, a flat has to meet another.
                gp_Trsf through;
                if (flat) through.SetTranslation(gp_Vec(a.axis.Direction()) * -pair.thickness);
                const Bnd_Box behindIt = flat ? side.box.Transformed(through) : Bnd_Box();
                for (const int g : b.faces)
                    if (const WallSide& other = sideNumbered(g); !flat || (!isClaimed(g) && !other.box.IsOut(behindIt)))
                        sidesB.emplace_back(g, &other);
                if (sidesB.empty()) continue;
                std::size_t asked = 0, behind = 0;
                std::optional<gp_Pnt> middle;
                for (const gp_Pnt2d& uv : side.samples) {
                    ++asked;
                    gp_Pnt point;
                    gp_Vec du, dv;
                    side.surface->D1(uv.X(), uv.Y(), point, du, dv);
                    gp_Vec normal = du.Crossed(dv);
                    if (normal.SquareMagnitude() < Tolerance::divisible) continue;
                    normal.Normalize();
                    if (shape.Orientation() == TopAbs_REVERSED) normal.Reverse();
                    double thick = constant ? pair.thickness : 0.0;
                    gp_Pnt there = point.Translated(normal * -thick);
                    if (leaning) {
                        const auto other = across(point, gp_Vec(leaning->Axis().Direction()).Reversed(), b, exact);
                        if (!other) continue;
                        std::tie(thick, there) = *other;
                    } else if (uneven) {
                        const auto far = throughBend(point, normal.Reversed(), b);
                        if (!far) continue;
                        thick = *far;
                        there = point.Translated(normal * -thick);
                    }
                    for (std::size_t s = 0; s < sidesB.size(); ++s) {
                        const auto off = footWithin(*sidesB[s].second, there);
                        // Of the thickness, by which a wall's face may lie off its fellow.
                        if (!off || *off > 1e-3 * thick + exact) continue;
                        facesB.insert(sidesB[s].first);
                        ++behind;
                        if (flat) {
                            const double share =
                                areas[static_cast<std::size_t>(f)] / static_cast<double>(side.samples.size());
                            claimed[static_cast<std::size_t>(f)] += share;
                            claimed[static_cast<std::size_t>(sidesB[s].first)] += share;
                        }
                        const gp_Pnt half(0.5 * (point.XYZ() + there.XYZ()));
                        if (leaning || uneven) taper.add(half, thick);
                        if (!middle) middle = half;
                        break;
                    }
                }
                if (behind == 0) continue;
                wall.sideA.push_back(f);
                if (wall.area == 0.0) wall.where = *middle;
                wall.area += areaOf(shape) * static_cast<double>(behind) / static_cast<double>(asked);
                outline += outlineOf(shape);
            }
            if (wall.sideA.empty()) continue;
            if (leaning) {
                if (!taper.settle(wall, *leaning, a.axis.Direction()) || outside(wall.thickness)) continue;
            } else if (uneven) {
                if (taper.count == 0 || taper.least < 0.5 * taper.most) continue;
                wall.thickness = taper.sum / static_cast<double>(taper.count);
                wall.uneven = taper.most - taper.least;
                if (outside(wall.thickness)) continue;
            }
            wall.sideB.assign(facesB.begin(), facesB.end());
            double areaA = 0.0, areaB = 0.0;
            for (const int f : wall.sideA) areaA += areaOf(topology.face(f));
            for (const int f : wall.sideB) areaB += areaOf(topology.face(f));
            // Most of the smaller side has the other behind it, else they are ends of something long.
            if (wall.area < 0.3 * std::min(areaA, areaB)) continue;
            wall.breadth = outline > 0.0 ? 2.0 * wall.area / outline : 0.0;
            wall.slenderness = slendernessOf(wall);
            walls.push_back(std::move(wall));
        }
        for (Wall& wall : freeformWalls(part, walls, from, upTo, progress)) {
            const double outline = outlineOf(topology.face(wall.sideA.front()));
            wall.breadth = outline > 0.0 ? 2.0 * wall.area / outline : 0.0;
            wall.slenderness = slendernessOf(wall);
            walls.push_back(std::move(wall));
        }
        heldByOthers(topology, walls);
        stepsOfPlates(topology, walls);
        // A bend is short for its thickness and yet part of the sheet: what runs on in a thin wall of its thickness is
        // as thin as that. So is a flat that is only doubtful by itself, as the web of a short bracket.
        std::vector<std::set<int>> around(walls.size());
        for (std::size_t w = 0; w < walls.size(); ++w)
            for (const int f : walls[w].sideA)
                for (const int g : topology.neighboursOf(f)) around[w].insert(g);
        for (bool again = true; again;) {
            again = false;
            for (std::size_t w = 0; w < walls.size(); ++w) {
                const bool flat = GeomAdaptor_Surface(walls[w].middle).GetType() == GeomAbs_Plane;
                // What is narrower than half its thickness is the side of a letter, say, and no bend.
                if (walls[w].slenderness == Slenderness::Thin || (flat && walls[w].slenderness == Slenderness::Thick) ||
                    walls[w].breadth < 0.5 * walls[w].thickness)
                    continue;
                for (const Wall& other : walls) {
                    const auto touches = [&](int f) { return around[w].contains(f); };
                    if (other.slenderness != Slenderness::Thin ||
                        std::abs(other.thickness - walls[w].thickness) > 0.01 * other.thickness + walls[w].uneven ||
                        !(std::any_of(other.sideA.begin(), other.sideA.end(), touches) ||
                          std::any_of(other.sideB.begin(), other.sideB.end(), touches)))
                        continue;
                    walls[w].slenderness = Slenderness::Thin;
                    again = true;
                    break;
                }
            }
        }
        // A face pair that looks through the whole body at something far behind is not its wall: nearest first.
        std::stable_sort(walls.begin(), walls.end(),
                         [](const Wall& x, const Wall& y) { return x.thickness < y.thickness; });
        return walls;
    });
}

}  // namespace rasoir::reduce
