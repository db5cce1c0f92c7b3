#include "join/outer_space.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Pln.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "common/tolerance.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "join/pairs.h"
#include "model/places.h"
#include "topology/making.h"

namespace rasoir::join {
namespace {

/// The name of the hull's side that a face of the fluid is on; none for a face that lies on a body.
std::optional<std::string> sideOf(const TopoDS_Face& face, const Bnd_Box& hull, const std::string& by, double exact) {
    const GeomAdaptor_Surface surface(BRep_Tool::Surface(face));
    const gp_Pnt centre = skinOf(face).centre, low = hull.CornerMin(), high = hull.CornerMax();
    if (surface.GetType() == GeomAbs_Plane) {
        const gp_Dir normal = surface.Plane().Axis().Direction();
        for (int axis = 1; axis <= 3; ++axis) {
            if (std::abs(std::abs(normal.Coord(axis)) - 1.0) > Tolerance::exactDirection) continue;
            if (by == "ball" || (by == "cylinder" && axis != 3)) return std::nullopt;
            const char letter = "xyz"[axis - 1];
            if (std::abs(centre.Coord(axis) - low.Coord(axis)) < exact) return fmt::format("-{}", letter);
            if (std::abs(centre.Coord(axis) - high.Coord(axis)) < exact) return fmt::format("+{}", letter);
        }
        return std::nullopt;
    }
    const double half = 0.5 * (high.X() - low.X());
    const gp_Pnt middle(0.5 * (low.XYZ() + high.XYZ()));
    const auto isAbout = [&](const gp_Pnt& at, double radius) {
        return std::abs(radius - half) < exact && std::hypot(at.X() - middle.X(), at.Y() - middle.Y()) < exact;
    };
    if (by == "cylinder" && surface.GetType() == GeomAbs_Cylinder &&
        isAbout(surface.Cylinder().Location(), surface.Cylinder().Radius()))
        return "round";
    if (by == "ball" && surface.GetType() == GeomAbs_Sphere &&
        isAbout(surface.Sphere().Location(), surface.Sphere().Radius()))
        return "round";
    return std::nullopt;
}

}  // namespace

std::vector<ParameterInfo> OuterSpace::infos() {
    std::vector<ParameterInfo> all = divide::Surround::infos();
    std::erase_if(all, [](const ParameterInfo& info) {
        return info.name == "without" || info.name == "parting" || info.name == "partingBy";
    });
    for (ParameterInfo& info : all)
        if (info.name == "name") info.standard = "outer space";
    all.push_back({"joined", "yes or no", "", "Walls and fluid get common faces.", true});
    return all;
}
void to_json(Json& json, const OuterSpace& step) {
    to_json(json, step.round);
    json.erase("without");
    if (!step.joined) json["joined"] = false;
}
void from_json(const Json& json, OuterSpace& step) {
    Json round = json;
    for (const char* other : {"joined", "parting", "partingBy"}) round.erase(other);
    if (!round.contains("name")) round["name"] = "outer space";
    from_json(round, step.round);
    step.round.without = true;
    step.joined = json.value("joined", true);
}

Result<Outcome> makeOuterSpace(const Model& model, const OuterSpace& step, Progress& progress) {
    const auto meant = placesMeant(model, step.round.places);
    if (!meant) return tl::unexpected(meant.error());
    auto outcome = divide::surround(model, step.round, progress);
    if (!outcome) return outcome;
    const std::size_t fresh = outcome->model.parts.size() - 1;
    auto part = outcome->model.parts[fresh]->copy();
    const Bnd_Box hull = tightBox(part->shape);
    const double exact = 10.0 * model.samePoint();
    // What the outside does not reach has no face on the hull.
    const Incidence& topology = part->incidence();
    std::set<int> reached;
    for (int f = 1; f <= topology.faceCount(); ++f)
        if (sideOf(topology.face(f), hull, step.round.by, exact)) reached.insert(topology.bodyOf(f) + 1);
    if (static_cast<int>(reached.size()) < topology.bodyCount()) {
        outcome->notes.push_back(fmt::format("{} the outside does not reach: left out.",
                                             counted(static_cast<std::size_t>(topology.bodyCount()) - reached.size(),
                                                     "closed cavity", "closed cavities")));
        std::vector<TopoDS_Shape> bodies;
        for (const int b : reached) bodies.push_back(topology.body(b));
        part->setShape(gathered(bodies));
    }
    for (int b = 1; b <= part->incidence().bodyCount(); ++b)
        part->known.regions[{EntityKind::Body, b}] = RegionKind::Fluid;
    const std::string name = part->name;
    const double volume = volumeOf(part->shape);
    outcome->model.parts[fresh] = std::move(part);
    outcome->model.giveIds();
    const PlaceId fluid = outcome->model.occurrences.back().id;
    if (step.joined) {
        Pairs joining;
        for (const std::size_t o : *meant)
            if (!outcome->model.parts[outcome->model.occurrences[o].part]->lump)
                joining.places.push_back(placeName(outcome->model, o));
        joining.places.push_back(name);
        auto joined = joinPairs(outcome->model, joining, progress);
        if (joined) {
            // The fluid is new: nothing was it before.
            std::erase_if(joined->lineage, [&](const PartLineage& own) { return own.part == fresh; });
            joined->notes.insert(joined->notes.begin(), outcome->notes.begin(), outcome->notes.end());
            outcome = std::move(joined);
        } else {
            outcome->notes.push_back("It is not joined to its walls: " + sentence(joined.error()));
        }
    }
    // Of joining, only what had to be left is told: the rest is told by walls.
    std::erase_if(outcome->items, [](const Item& item) { return item.done; });
    Model& made = outcome->model;
    const std::size_t p = made.occurrences[*made.placeOf(fluid)].part;
    const Part& now = *made.parts[p];
    std::map<std::string, std::pair<std::string, std::set<int>>> named;
    for (int f = 1; f <= now.incidence().faceCount(); ++f)
        if (const auto side = sideOf(now.incidence().face(f), hull, step.round.by, exact)) {
            auto& [purpose, faces] = named[fmt::format("{}, {}", name, *side)];
            purpose = "opening";
            faces.insert(f);
        }
    for (const Joint& joint : made.joints) {
        const auto own = std::find_if(joint.uses.begin(), joint.uses.end(),
                                      [fluid](const JointUse& use) { return use.place == fluid; });
        if (joint.kind != EntityKind::Face || own == joint.uses.end()) continue;
        for (const JointUse& use : joint.uses)
            if (use.place != fluid) {
                auto& [purpose, faces] =
                    named[fmt::format("{}, wall of {}", name, placeName(made, *made.placeOf(use.place)))];
                purpose = "wall";
                faces.insert(own->number);
            }
    }
    for (auto& [own, entry] : named) {
        Group group{own, entry.first, std::nullopt, {}, std::nullopt};
        double area = 0.0;
        for (const int f : entry.second) {
            group.members.insert({now.id, everyPlace, {EntityKind::Face, f}});
            area += areaOf(now.incidence().face(f));
        }
        outcome->items.push_back({fmt::format("{}: {} mm²", own, readable(area)), true, {}, 0.0});
        putByName(made.groups, std::move(group));
    }
    outcome->items.insert(outcome->items.begin(), {fmt::format("\"{}\": {} mm³ round {}", name, readable(volume),
                                                               counted(meant->size(), "body", "bodies")),
                                                   true,
                                                   {},
                                                   volume});
    outcome->summary = fmt::format("Make the {}", name);
    return outcome;
}

}  // namespace rasoir::join
