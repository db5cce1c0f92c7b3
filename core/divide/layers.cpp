#include "divide/layers.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <ElSLib.hxx>
#include <gp_Lin.hxx>
#include <numeric>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "arrange/choice.h"
#include "common/sets.h"
#include "common/text.h"
#include "common/tolerance.h"
#include "divide/cutters.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "topology/edge_angle.h"

// Layers need walls and two ends. Whether a face is a wall is asked of its normals at a grid of points, so that any
// kind of surface counts that happens to run along the way: a spline that was swept, a plane, a cylinder about it.
//
// What stands in the way is cut off. Cuts are searched for greedily: of some planes that suggest themselves the one is
// taken that leaves most volume in pieces which can be meshed in layers, then the same again with all cuts so far. Each
// trial divides the body with the arrangement, so that what is proposed is known to work.

namespace rasoir::divide {
namespace {

constexpr double wallWithin = 1e-5;  // [sine] of a wall's normal along the way; numbers in files are rounded
const double steepest = std::sin(10.0 * M_PI / 180.0);  // of an end against a wall; steeper, elements would be daggers
constexpr int largestBody = 400;                        // faces, above which no cuts are searched for
constexpr std::size_t mostCuts = 4, mostCandidates = 14;

/// [mm] of a body alone: what Model::samePoint is of a model.
double samePointIn(const Bnd_Box& box) {
    return Tolerance::least * (1.0 + std::sqrt(box.SquareExtent()));
}

struct FaceSamples {
    std::vector<gp_Pnt> at;
    std::vector<gp_Vec> normals;  // outward, unit
    double area = 0.0;
};

/// A grid of points over the face's parameters; only those that lie in it, so that what was trimmed away does not vote.
FaceSamples sampled(const TopoDS_Face& face) {
    FaceSamples samples;
    const BRepAdaptor_Surface surface(face, true);
    const double sense = face.Orientation() == TopAbs_REVERSED ? -1.0 : 1.0;
    double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    const bool flat = surface.GetType() == GeomAbs_Plane;
    // Areas only weigh one way against another: of bent faces the grid's own sum will do.
    if (flat) samples.area = areaOf(face);
    const BRepTopAdaptor_FClass2d classifier(face, Tolerance::parameter);
    constexpr int grid = 5;
    for (const bool inside : {true, false}) {
        for (int i = 0; i < grid; ++i)
            for (int k = 0; k < grid; ++k) {
                const double u = u0 + (u1 - u0) * (i + 0.02) / (grid - 0.96),
                             v = v0 + (v1 - v0) * (k + 0.02) / (grid - 0.96);
                if (inside && !flat && classifier.Perform(gp_Pnt2d(u, v)) == TopAbs_OUT) continue;
                gp_Pnt point;
                gp_Vec du, dv;
                surface.D1(u, v, point, du, dv);
                const gp_Vec normal = du.Crossed(dv);
                if (normal.SquareMagnitude() < Tolerance::noLengthSquare) continue;
                samples.at.push_back(point);
                samples.normals.push_back(normal.Normalized() * sense);
                if (!flat) samples.area += normal.Magnitude() * (u1 - u0) * (v1 - v0) / (grid * grid);
                if (flat) return samples;  // one normal is all there is; for turns a flat is asked again below
            }
        if (!samples.at.empty()) break;
    }
    return samples;
}

/// Points of a flat face, for turns about an axis: its corners and the middles of its edges.
void addRim(const TopoDS_Face& face, FaceSamples& samples) {
    const gp_Vec normal = samples.normals.front();
    samples.at.clear();
    samples.normals.clear();
    for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next()) {
        const BRepAdaptor_Curve curve(TopoDS::Edge(it.Current()));
        for (const double share : {0.0, 0.5}) {
            samples.at.push_back(
                curve.Value(curve.FirstParameter() + share * (curve.LastParameter() - curve.FirstParameter())));
            samples.normals.push_back(normal);
        }
    }
}

enum class Role { Wall, From, To, Neither };

Role roleOf(const FaceSamples& face, const gp_Ax1& axis, bool turned) {
    double least = 1.0, largest = -1.0;
    for (std::size_t i = 0; i < face.at.size(); ++i) {
        gp_Vec way(axis.Direction());
        if (turned) {
            way = gp_Vec(axis.Direction()).Crossed(gp_Vec(axis.Location(), face.at[i]));
            if (way.Magnitude() < Tolerance::noWay) continue;
            way.Normalize();
        }
        const double along = way.Dot(face.normals[i]);
        least = std::min(least, along);
        largest = std::max(largest, along);
    }
    if (largest < -1.0 || (least > -wallWithin && largest < wallWithin)) return Role::Wall;
    if (least > steepest) return Role::To;
    if (largest < -steepest) return Role::From;
    return Role::Neither;
}

/// Whether a body reaches its axis: layers turned about it would all meet there.
bool reaches(const Incidence& body, const gp_Ax1& axis) {
    const gp_Lin line(axis);
    Bnd_Box box;
    BRepBndLib::Add(body.body(1), box, false);
    const double near = samePointIn(box);
    for (int v = 1; v <= body.vertexCount(); ++v)
        if (line.Distance(BRep_Tool::Pnt(TopoDS::Vertex(body.vertex(v)))) < near) return true;
    for (int f = 1; f <= body.faceCount(); ++f) {
        const BRepAdaptor_Surface surface(body.face(f), false);
        if (surface.GetType() != GeomAbs_Plane || !surface.Plane().Axis().IsParallel(axis, Tolerance::sameDirection))
            continue;
        double u = 0.0, v = 0.0;
        ElSLib::Parameters(surface.Plane(), axis.Location(), u, v);
        if (BRepTopAdaptor_FClass2d(body.face(f), Tolerance::parameter).Perform(gp_Pnt2d(u, v)) == TopAbs_IN)
            return true;
    }
    return false;
}

/// Faces of one role that hang together over edges, largest set first.
std::vector<std::vector<int>> setsOf(const Incidence& body, const std::vector<Role>& roles, Role role,
                                     const std::vector<FaceSamples>& samples) {
    Sets sets(roles.size());
    for (int e = 1; e <= body.edgeCount(); ++e) {
        const auto uses = body.usesOf(e);
        for (std::size_t i = 1; i < uses.size(); ++i)
            if (roles[static_cast<std::size_t>(uses[0].face)] == role &&
                roles[static_cast<std::size_t>(uses[i].face)] == role)
                sets.join(uses[0].face, uses[i].face);
    }
    std::map<int, std::vector<int>> byRoot;
    for (int f = 1; f <= body.faceCount(); ++f)
        if (roles[static_cast<std::size_t>(f)] == role) byRoot[sets.root(f)].push_back(f);
    std::vector<std::vector<int>> all;
    for (auto& [root, faces] : byRoot) all.push_back(std::move(faces));
    const auto area = [&](const std::vector<int>& faces) {
        return std::accumulate(faces.begin(), faces.end(), 0.0,
                               [&](double sum, int f) { return sum + samples[static_cast<std::size_t>(f)].area; });
    };
    std::stable_sort(all.begin(), all.end(), [&](const auto& a, const auto& b) { return area(a) > area(b); });
    return all;
}

LayerWay tried(const Incidence& body, const std::vector<FaceSamples>& flat, const std::vector<FaceSamples>& rims,
               const gp_Ax1& axis, bool turned) {
    LayerWay way;
    way.turned = turned;
    way.axis = axis;
    const std::vector<FaceSamples>& samples = turned ? rims : flat;
    std::vector<Role> roles(static_cast<std::size_t>(body.faceCount()) + 1, Role::Wall);
    double whole = 0.0;
    for (int f = 1; f <= body.faceCount(); ++f) {
        roles[static_cast<std::size_t>(f)] = roleOf(samples[static_cast<std::size_t>(f)], axis, turned);
        whole += samples[static_cast<std::size_t>(f)].area;
        if (roles[static_cast<std::size_t>(f)] == Role::Neither) way.forbidding.push_back(f);
    }
    // Two ends that share an edge leave no height there.
    for (int e = 1; e <= body.edgeCount(); ++e) {
        const auto uses = body.usesOf(e);
        if (uses.size() != 2) continue;
        const int a = uses[0].face, b = uses[1].face;
        Role &ofA = roles[static_cast<std::size_t>(a)], &ofB = roles[static_cast<std::size_t>(b)];
        if (!((ofA == Role::From && ofB == Role::To) || (ofA == Role::To && ofB == Role::From))) continue;
        const bool first = samples[static_cast<std::size_t>(a)].area < samples[static_cast<std::size_t>(b)].area;
        way.forbidding.push_back(first ? a : b);
        (first ? ofA : ofB) = Role::Neither;
    }
    for (const Role role : {Role::From, Role::To}) {
        const auto sets = setsOf(body, roles, role, samples);
        for (std::size_t i = 0; i < sets.size(); ++i) {
            auto& into = i == 0 ? (role == Role::From ? way.from : way.to) : way.forbidding;
            into.insert(into.end(), sets[i].begin(), sets[i].end());
        }
    }
    // Along a direction there are two ends; about an axis a ring has none.
    if (way.from.empty() != way.to.empty() || (!turned && way.from.empty())) {
        auto& lonely = way.from.empty() ? way.to : way.from;
        way.forbidding.insert(way.forbidding.end(), lonely.begin(), lonely.end());
        if (way.forbidding.empty()) way.forbidding.push_back(1);
    }
    std::sort(way.forbidding.begin(), way.forbidding.end());
    double forbidden = 0.0;
    for (const int f : way.forbidding) forbidden += samples[static_cast<std::size_t>(f)].area;
    way.forbidden = whole > 0.0 ? forbidden / whole : 1.0;
    return way;
}

/// Pieces of a solid along planes.
Result<std::vector<arrange::Chosen>> divided(const TopoDS_Shape& solid, const std::vector<gp_Pln>& planes,
                                             Progress& progress) {
    Bnd_Box box;
    BRepBndLib::Add(solid, box, false);
    std::vector<arrange::Input> inputs{{solid, "body"}};
    for (const gp_Pln& plane : planes)
        if (const TopoDS_Face across = faceAcross(plane, box, 0.0); !across.IsNull()) inputs.push_back({across, "cut"});
    const auto all = arrange::arrange(std::move(inputs), samePointIn(box), progress);
    if (!all) return tl::unexpected(all.error());
    std::vector<arrange::Chosen> pieces;
    for (const int cell : arrange::cellsIn(*all, 0)) {
        auto piece = arrange::solidsOf(*all, {cell});
        if (!piece) return tl::unexpected(piece.error());
        pieces.push_back(std::move(*piece));
    }
    return pieces;
}

/// A piece of the body on the way to being freed.
struct Piece {
    TopoDS_Shape shape;
    double volume = 0.0;
    bool works = false;
};

double workingShare(const std::vector<Piece>& pieces) {
    double whole = 0.0, free = 0.0;
    for (const Piece& piece : pieces) {
        whole += piece.volume;
        free += piece.works ? piece.volume : 0.0;
    }
    return whole > 0.0 ? free / whole : 0.0;
}

/// The pieces with those that do not work yet cut by a plane; none where it meets none of them, or cannot be done.
std::optional<std::vector<Piece>> cutBy(const std::vector<Piece>& pieces, const std::vector<gp_Pln>& planes,
                                        bool alsoWorking, Progress& progress) {
    std::vector<Piece> all;
    bool met = false;
    for (const Piece& piece : pieces) {
        if (piece.works && !alsoWorking) {
            all.push_back(piece);
            continue;
        }
        const auto parts = divided(piece.shape, planes, progress);
        if (!parts) return std::nullopt;
        met = met || parts->size() > 1;
        for (const arrange::Chosen& part : *parts)
            all.push_back({part.shape, part.volume, bestLayerWay(Incidence(part.shape)).works()});
    }
    if (!met) return std::nullopt;
    return all;
}

/// Planes that suggest themselves, each once, those of the largest faces first.
std::vector<gp_Pln> candidatesOf(const Incidence& body, const LayerWay& way, double size) {
    std::vector<std::pair<double, gp_Pln>> all;
    const auto add = [&](double weight, const gp_Pln& plane) {
        for (auto& [known, other] : all)
            if (other.Axis().IsParallel(plane.Axis(), Tolerance::sameDirection) &&
                other.Distance(plane.Location()) < Tolerance::sameSize * size) {
                known += weight;
                return;
            }
        all.emplace_back(weight, plane);
    };
    // A flat that meets others in a concave edge is carried on through the body.
    for (int e = 1; e <= body.edgeCount(); ++e) {
        if (edgeAngle(body, e).kind != EdgeKind::Concave) continue;
        for (const EdgeUse& use : body.usesOf(e)) {
            const BRepAdaptor_Surface surface(body.face(use.face), false);
            if (surface.GetType() == GeomAbs_Plane) add(areaOf(body.face(use.face)), surface.Plane());
        }
    }
    // What forbids is fenced in by planes a little beside it: across the way, and across other main directions.
    if (!way.turned && !way.forbidding.empty()) {
        std::vector<gp_Dir> across{way.axis.Direction()};
        for (const WeighedDirection& direction : mainDirections(body))
            if (across.size() < 3 && !direction.along.IsParallel(way.axis.Direction(), Tolerance::sameDirection))
                across.push_back(direction.along);
        for (const gp_Dir& along : across) {
            const gp_Ax3 axes(gp::Origin(), along);
            const Extent whole = extentAlong(body.body(1), axes);
            for (const int f : way.forbidding) {
                const Extent own = extentAlong(body.face(f), axes);
                const double height = own.high[2] - own.low[2];
                const bool flat = height < Tolerance::sameSize * size;
                for (const bool upper : {false, true}) {
                    double at = upper ? own.high[2] : own.low[2];
                    const double end = upper ? whole.high[2] : whole.low[2];
                    if (!flat) at += (upper ? 1.0 : -1.0) * std::min(0.25 * height, 0.5 * std::abs(end - at));
                    if (std::abs(end - at) < Tolerance::sameSize * size || (flat && upper)) continue;
                    add(areaOf(body.face(f)), gp_Pln(gp::Origin().Translated(gp_Vec(along) * at), along));
                }
            }
        }
    }
    std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<gp_Pln> planes;
    for (std::size_t i = 0; i < all.size() && i < mostCandidates; ++i) planes.push_back(all[i].second);
    return planes;
}

/// How many cuts may be tried: dividing freeform faces takes a second where others take milliseconds.
int trialsFor(const Incidence& body) {
    int effort = body.faceCount();
    for (int f = 1; f <= body.faceCount(); ++f) {
        const SurfaceKind kind = surfaceKind(body.face(f));
        if (kind == SurfaceKind::Spline || kind == SurfaceKind::Other) effort += 200;
    }
    return std::clamp(2400 / std::max(1, effort), 2, 40);
}

void findCuts(const Incidence& body, BodyLayers& found, Progress& progress) {
    Bnd_Box box;
    BRepBndLib::Add(body.body(1), box, false);
    const double size = std::sqrt(box.SquareExtent());
    std::vector<gp_Pln> left = candidatesOf(body, found.way, size);
    std::vector<Piece> pieces{{body.body(1), 1.0, false}};
    double share = 0.0;
    int trials = trialsFor(body);
    while (found.cuts.size() < mostCuts && !left.empty() && share < 1.0 - Tolerance::rounding) {
        std::optional<std::size_t> best;
        std::vector<Piece> ofBest;
        double shareOfBest = share;
        for (std::size_t i = 0; i < left.size() && trials > 0; ++i, --trials) {
            if (progress.cancelled()) return;
            auto one = cutBy(pieces, {left[i]}, false, progress);
            if (!one) continue;
            const double freed = workingShare(*one);
            // Of two that free as much, the one with fewer pieces.
            if (freed > shareOfBest + 1e-9 || (best && freed > shareOfBest - 1e-9 && one->size() < ofBest.size())) {
                best = i;
                ofBest = std::move(*one);
                shareOfBest = freed;
            }
        }
        if (!best) break;
        share = shareOfBest;
        pieces = std::move(ofBest);
        found.cuts.push_back(left[*best]);
        left.erase(left.begin() + static_cast<std::ptrdiff_t>(*best));
    }
    if (found.cuts.empty()) return;
    // All at once, as the step will do it: a cut also meets what an earlier one had freed.
    const auto made = cutBy({{body.body(1), 1.0, false}}, found.cuts, true, progress);
    if (!made) {
        found.cuts.clear();
        return;
    }
    found.pieces = made->size();
    found.freed = static_cast<std::size_t>(
        std::count_if(made->begin(), made->end(), [](const Piece& piece) { return piece.works; }));
}

}  // namespace

LayerWay bestLayerWay(const Incidence& body) {
    std::vector<FaceSamples> flat(1), rims(1);
    std::map<std::size_t, gp_Ax1> axes;  // by where it was first met
    std::vector<std::pair<double, gp_Ax1>> turns;
    for (int f = 1; f <= body.faceCount(); ++f) {
        flat.push_back(sampled(body.face(f)));
        rims.push_back(flat.back());
        if (surfaceKind(body.face(f)) == SurfaceKind::Plane && !rims.back().normals.empty())
            addRim(body.face(f), rims.back());
        const auto round = roundSurface(body.face(f));
        if (!round || round->kind == SurfaceKind::Sphere) continue;
        const auto known = std::find_if(turns.begin(), turns.end(), [&](const auto& one) {
            return one.second.IsParallel(round->axis, Tolerance::sameDirection) &&
                   gp_Lin(one.second).Distance(round->axis.Location()) < Tolerance::sameSkin;
        });
        if (known == turns.end())
            turns.emplace_back(flat.back().area, round->axis);
        else
            known->first += flat.back().area;
    }
    std::optional<LayerWay> best;
    const auto offer = [&](LayerWay way) {
        // By more than the order of the sums: else the first one found stays.
        if (!best || way.forbidden < best->forbidden - 1e-12 || (way.works() && !best->works())) best = std::move(way);
    };
    std::size_t count = 0;
    for (const WeighedDirection& direction : mainDirections(body)) {
        if (++count > 12 || (best && best->works())) break;
        offer(tried(body, flat, rims, gp_Ax1(gp::Origin(), direction.along), false));
    }
    std::stable_sort(turns.begin(), turns.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    for (std::size_t i = 0; i < turns.size() && i < 6 && !(best && best->works()); ++i)
        if (!reaches(body, turns[i].second)) offer(tried(body, flat, rims, turns[i].second, true));
    if (best) return *best;
    LayerWay none;
    for (int f = 1; f <= body.faceCount(); ++f) none.forbidding.push_back(f);
    none.forbidden = 1.0;
    return none;
}

Result<std::vector<BodyLayers>> findLayers(const Model& model, Progress& progress) {
    std::vector<BodyLayers> all;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (model.isAside(p) || part.lump || part.shape.IsNull()) continue;
        progress.report(static_cast<double>(p) / static_cast<double>(model.parts.size()), "Looking for layers");
        const Incidence& topology = part.incidence();
        for (int b = 1; b <= topology.bodyCount(); ++b) {
            if (topology.body(b).ShapeType() != TopAbs_SOLID) continue;
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
            const Incidence body(topology.body(b));
            BodyLayers found;
            found.part = p;
            found.body = b;
            found.way = bestLayerWay(body);
            if (!found.way.works() && body.faceCount() <= largestBody) findCuts(body, found, progress);
            for (std::vector<int>* faces : {&found.way.from, &found.way.to, &found.way.forbidding})
                for (int& face : *faces) face = topology.faceNumber(body.face(face));
            all.push_back(std::move(found));
        }
    }
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
    return all;
}

std::string describe(const LayerWay& way) {
    const gp_Dir d = way.axis.Direction();
    std::string along;
    for (int i = 1; i <= 3 && along.empty(); ++i)
        if (std::abs(d.Coord(i)) > 1.0 - Tolerance::exactDirection) along = fmt::format("{}", "xyz"[i - 1]);
    if (along.empty()) along = fmt::format("({}, {}, {})", readable(d.X()), readable(d.Y()), readable(d.Z()));
    return way.turned ? "about an axis along " + along : "along " + along;
}

std::string BodyLayers::told() const {
    if (way.works()) return fmt::format("in layers {}", describe(way));
    std::string text =
        fmt::format("not in layers: {} in the way {}", counted(way.forbidding.size(), "face"), describe(way));
    if (!cuts.empty())
        text += fmt::format("; {} would make {}, {} in layers", counted(cuts.size(), "cut"), counted(pieces, "piece"),
                            freed == pieces ? "all" : fmt::format("{} of them", freed));
    return text;
}

}  // namespace rasoir::divide
