#include "handover/rules.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <gp_Pln.hxx>

#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "geometry/round_surface.h"
#include "join/contacts.h"
#include "model/places.h"

namespace rasoir::handover {
namespace {

/// Whether a cylinder or cone goes round for more than seven twelfths of a turn, with the faces beside it that go on in
/// the same surface: a hole, also one that is cut into, and no fillet or slot's end.
bool goesRound(const Incidence& topology, int face, const RoundSurface& round) {
    std::set<int> same{face};
    std::vector<int> waiting{face};
    while (!waiting.empty()) {
        const int from = waiting.back();
        waiting.pop_back();
        for (const int next : topology.neighboursOf(from))
            if (!same.contains(next) &&
                sameSurface(topology.face(face), topology.face(next), Tolerance::sameSize * round.radius)) {
                same.insert(next);
                waiting.push_back(next);
            }
    }
    const gp_Ax2 about(round.axis.Location(), round.axis.Direction());
    std::vector<double> angles;  // round the axis, of points along the outlines
    for (const int f : same)
        for (const int e : topology.edgesOf(f)) {
            if (BRep_Tool::Degenerated(topology.edge(e))) continue;
            const EdgeProbe probe(topology.edge(e));
            constexpr int steps = 24;
            for (int i = 0; i <= steps; ++i) {
                const gp_Vec arm(about.Location(),
                                 probe.value(probe.first() + (probe.last() - probe.first()) * i / steps));
                angles.push_back(std::atan2(arm.Dot(gp_Vec(about.YDirection())), arm.Dot(gp_Vec(about.XDirection()))));
            }
        }
    if (angles.empty()) return false;
    std::sort(angles.begin(), angles.end());
    double widest = angles.front() + 2.0 * M_PI - angles.back();
    for (std::size_t i = 1; i < angles.size(); ++i) widest = std::max(widest, angles[i] - angles[i - 1]);
    return widest < 2.0 * M_PI * 5.0 / 12.0;
}

/// What a rule asks of a face in its part, wherever that stands.
bool fitsAnywhere(const Part& part, int number, const GroupRule& rule) {
    const TopoDS_Face face = part.incidence().face(number);
    if (!rule.surface.empty() && surfaceKindName(surfaceKind(face)) != rule.surface) return false;
    if (rule.diameter || rule.inward) {
        const auto round = roundSurface(face);
        if (!round || (rule.inward && round->inward != *rule.inward)) return false;
        const bool wide = round->kind == SurfaceKind::Cylinder || round->kind == SurfaceKind::Sphere;
        // A diameter that a user writes has three digits.
        if (rule.diameter && (!wide || std::abs(2.0 * round->radius - *rule.diameter) > 1e-3 * *rule.diameter))
            return false;
        const bool mayBeAFillet = round->kind == SurfaceKind::Cylinder || round->kind == SurfaceKind::Cone;
        if (rule.inward && mayBeAFillet && !goesRound(part.incidence(), number, *round)) return false;
    }
    if (rule.colour) {
        const auto colour = part.colourOf(number);
        if (!colour || hexText(*colour) != hexText(*rule.colour)) return false;
    }
    if (!rule.named.empty()) {
        const auto name = part.known.names.find({EntityKind::Face, number});
        if (name == part.known.names.end() || !fitsPattern(name->second, rule.named)) return false;
    }
    return true;
}

bool isMeant(const Part& part, const GroupRule& rule) {
    return (rule.parts.empty() || fitsPattern(part.name, rule.parts)) &&
           (rule.material.empty() || part.material == rule.material);
}

/// Faces of the parts that a rule means, by place, that lie on or beside faces of the parts it looks towards.
Result<std::set<Member>> facing(const Model& model, const GroupRule& rule, Progress& progress) {
    Model seen = model;
    std::vector<bool> own(model.parts.size()), other(model.parts.size());
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        own[p] = isMeant(*model.parts[p], rule);
        other[p] = fitsPattern(model.parts[p]->name, rule.towards);
    }
    seen.occurrences.changeWhere([&](const Occurrence& place) { return !own[place.part] && !other[place.part]; },
                                 [](Occurrence& place) { place.aside = true; });
    join::ContactSearch search;
    search.upTo = join::safeLimit(seen).mm;
    search.fromSkins = true;
    std::set<Member> found;
    const auto report = join::findContacts(seen, search, progress);
    if (!report) return tl::unexpected(report.error());
    for (const join::Contact& contact : report->contacts) {
        const auto side = [&](std::size_t place, int face, std::size_t partner) {
            const Occurrence& stands = model.occurrences[place];
            if (face > 0 && own[stands.part] && other[model.occurrences[partner].part])
                found.insert({model.parts[stands.part]->id, stands.id, {EntityKind::Face, face}});
        };
        side(contact.placeA, contact.faceA, contact.placeB);
        side(contact.placeB, contact.faceB, contact.placeA);
    }
    return found;
}

/// What it asks of a plane in its place: where it looks, and where it lies.
bool fitsHere(const TopoDS_Face& face, bool ofSheet, const gp_Trsf& placement, const GroupRule& rule,
              double samePoint) {
    if (!rule.normal && !rule.axis) return true;
    const BRepAdaptor_Surface surface(face, false);
    if (surface.GetType() != GeomAbs_Plane) return false;
    gp_Dir normal = surface.Plane().Axis().Direction();
    if (!surface.Plane().Direct()) normal.Reverse();
    if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
    normal.Transform(placement);
    // A sheet looks both ways.
    if (rule.normal && normal.Angle(gp_Dir(*rule.normal)) > Tolerance::smooth &&
        !(ofSheet && normal.Reversed().Angle(gp_Dir(*rule.normal)) <= Tolerance::smooth))
        return false;
    if (rule.axis) {
        const gp_Dir across(*rule.axis == 0, *rule.axis == 1, *rule.axis == 2);
        if (!normal.IsParallel(across, Tolerance::parallel)) return false;
        const gp_Pnt at = surface.Plane().Location().Transformed(placement);
        if (std::abs(at.XYZ().Dot(across.XYZ()) - rule.at) > 10.0 * samePoint) return false;
    }
    return true;
}

}  // namespace

bool mayAnswerOtherwise(const Model& before, const Model& after, const GroupRule& rule) {
    if (rule.towards.empty()) return true;
    const auto concerned = [&rule](const Model& model) {
        std::vector<std::pair<const Occurrence*, const Part*>> places;
        for (const Occurrence& place : model.occurrences)
            if (const Part& part = *model.parts[place.part];
                !place.aside && (isMeant(part, rule) || fitsPattern(part.name, rule.towards)))
                places.emplace_back(&place, &part);
        return places;
    };
    const auto was = concerned(before), is = concerned(after);
    return !std::equal(was.begin(), was.end(), is.begin(), is.end(), [](const auto& a, const auto& b) {
        const gp_Trsf &one = a.first->placement, &other = b.first->placement;
        if (a.second != b.second || a.first->id != b.first->id) return false;
        if (a.first == b.first) return true;
        for (int row = 1; row <= 3; ++row)
            for (int column = 1; column <= 4; ++column)
                if (one.Value(row, column) != other.Value(row, column)) return false;
        return true;
    });
}

Result<std::set<Member>> membersByRule(const Model& model, const GroupRule& rule, Progress& progress) {
    std::set<Member> members;
    const double samePoint = model.samePoint();
    const bool faces = rule.kind == EntityKind::Face;
    const bool byPlace = faces && (rule.normal || rule.axis || !rule.towards.empty());
    std::set<Member> beside;
    if (faces && !rule.towards.empty()) {
        auto found = facing(model, rule, progress);
        if (!found) return tl::unexpected(found.error());
        beside = std::move(*found);
    }
    std::vector<std::size_t> standing(model.parts.size());
    for (const Occurrence& place : model.occurrences) ++standing[place.part];
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (part.shape.IsNull() || model.isAside(p) || !isMeant(part, rule)) continue;
        const Incidence& topology = part.incidence();
        const std::array<int, 4> counts{topology.bodyCount(), topology.faceCount(), topology.edgeCount(),
                                        topology.vertexCount()};
        for (int n = 1; n <= counts[static_cast<std::size_t>(rule.kind)]; ++n) {
            const Entity entity{rule.kind, n};
            if (faces && !fitsAnywhere(part, n, rule)) continue;
            if (!byPlace) {
                members.insert({part.id, everyPlace, entity});
                continue;
            }
            for (const Occurrence& place : model.occurrences) {
                const Member member{part.id, place.id, entity};
                if (place.part == p && !place.aside && (rule.towards.empty() || beside.contains(member)) &&
                    fitsHere(topology.face(n), topology.bodyOf(n) < 0, place.placement, rule, samePoint))
                    members.insert(standing[p] == 1 ? Member{part.id, everyPlace, entity} : member);
            }
        }
    }
    return members;
}

std::optional<GroupRule> ruleFor(const Model& model, std::size_t occurrence, const Entity& thing) {
    if (occurrence >= model.occurrences.size() || thing.kind == EntityKind::Vertex) return std::nullopt;
    const Occurrence& place = model.occurrences[occurrence];
    const Part& part = *model.parts[place.part];
    GroupRule rule;
    rule.kind = thing.kind;
    rule.parts = part.name;
    if (thing.kind != EntityKind::Face) return rule;
    const TopoDS_Face face = part.incidence().face(thing.number);
    rule.surface = surfaceKindName(surfaceKind(face));
    if (const auto round = roundSurface(face)) {
        const bool fillet = (round->kind == SurfaceKind::Cylinder || round->kind == SurfaceKind::Cone) &&
                            !goesRound(part.incidence(), thing.number, *round);
        if (!fillet) rule.inward = round->inward;
        if (round->kind == SurfaceKind::Cylinder || round->kind == SurfaceKind::Sphere)
            rule.diameter = 2.0 * round->radius;
        return rule;
    }
    const BRepAdaptor_Surface surface(face, false);
    if (surface.GetType() != GeomAbs_Plane) return rule;
    gp_Dir normal = surface.Plane().Axis().Direction();
    if (surface.Plane().Direct() == (face.Orientation() == TopAbs_REVERSED)) normal.Reverse();
    normal.Transform(place.placement);
    const gp_Pnt at = surface.Plane().Location().Transformed(place.placement);
    rule.parts.clear();  // a plane's place is the model's, whichever parts end there
    for (int axis = 0; axis < 3; ++axis)
        if (std::abs(std::abs(normal.XYZ().Coord(axis + 1)) - 1.0) < Tolerance::exactDirection) {
            rule.axis = axis;
            // The plane's own digits: what is at zero within the tolerance is at zero.
            rule.at = std::abs(at.Coord(axis + 1)) < model.samePoint() ? 0.0 : at.Coord(axis + 1);
            return rule;
        }
    rule.normal = normal.XYZ();
    return rule;
}

std::string ruleText(const GroupRule& rule) {
    std::string what = rule.kind == EntityKind::Body     ? "bodies"
                       : rule.kind == EntityKind::Edge   ? "edges"
                       : rule.kind == EntityKind::Vertex ? "vertices"
                       : rule.surface.empty()            ? rule.normal || rule.axis ? "planes" : "faces"
                                                         : rule.surface + " faces";
    if (rule.inward) what = (*rule.inward ? "hollow " : "bulging ") + what;
    if (rule.diameter) what += fmt::format(" of Ø {}", readable(*rule.diameter));
    if (rule.axis) what += fmt::format(" at {} = {}", "xyz"[*rule.axis], readable(rule.at));
    if (rule.normal)
        what += fmt::format(" looking along {}, {}, {}", readable(rule.normal->X()), readable(rule.normal->Y()),
                            readable(rule.normal->Z()));
    if (rule.colour) what += " coloured " + hexText(*rule.colour);
    if (!rule.named.empty()) what += fmt::format(" named \"{}\"", rule.named);
    if (!rule.towards.empty()) what += fmt::format(" towards \"{}\"", rule.towards);
    if (!rule.material.empty()) what += fmt::format(" of {}", rule.material);
    if (!rule.parts.empty()) what += fmt::format(" in \"{}\"", rule.parts);
    return what;
}

}  // namespace rasoir::handover
