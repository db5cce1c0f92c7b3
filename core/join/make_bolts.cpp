#include "join/make_bolts.h"

#include <fmt/format.h>

#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <gp_Circ.hxx>
#include <TopExp.hxx>

#include "common/tolerance.h"
#include "divide/cut.h"
#include "divide/part_face.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "model/places.h"

// Seats come first, on the clamped parts as they were received: they are named by what they are and where, so that one
// does not spoil the numbers of the next. Then the joints are read once more, off the parted model, and each becomes a
// beam, or its bolt is cut. A place that a cut changes goes, with its number; so the others are kept by their ids.

namespace rasoir::join {
namespace {

/// A face of a clamped body on which head or nut bears, and the rim of the hole in it.
struct Seat {
    std::string group, part;
    FaceRef face;
    EntityRef rim;
};

/// The flat face at the rim of a member's hole, at a place along the axis; none where there is no flat.
std::optional<Seat> seatAt(const Model& model, const BoltedJoint& joint, const BoltedJoint::Member& member, double at,
                           const std::string& group) {
    const Part& part = *model.parts[model.occurrences[member.place].part];
    for (const int e : rimOf(model, member, joint.axis, at))
        for (const EdgeUse& use : part.incidence().usesOf(e))
            if (use.face != member.face && surfaceKind(part.incidence().face(use.face)) == SurfaceKind::Plane)
                return Seat{group, part.name, makeFaceRef(part, use.face), makeRef(part, {EntityKind::Edge, e})};
    return std::nullopt;
}

/// Parts the faces on which heads and nuts bear. Holes of a part that stands in several places are parted once.
Result<void> partSeats(Outcome& outcome, const std::vector<std::pair<std::string, BoltedJoint>>& joints,
                       Progress& progress) {
    std::vector<Seat> seats;
    for (const auto& [name, joint] : joints) {
        const auto want = [&, &bolt = name, &own = joint](const BoltedJoint::Member& member, double at,
                                                          const char* which) {
            auto seat = seatAt(outcome.model, own, member, at, fmt::format("{}, seat of the {}", bolt, which));
            if (!seat) {
                outcome.notes.push_back(fmt::format("The {} of \"{}\" bears on no flat face.", which, bolt));
                return;
            }
            const bool again = std::any_of(seats.begin(), seats.end(), [&](const Seat& other) {
                return other.part == seat->part && other.rim.at.Distance(seat->rim.at) < Tolerance::samePlace;
            });
            if (!again) seats.push_back(std::move(*seat));
        };
        want(joint.clamped.front(), joint.clamped.front().from, "head");
        if (joint.nut) want(joint.clamped.back(), joint.clamped.back().to, "nut");
    }
    for (const Seat& seat : seats) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        divide::PartFace step;
        step.faces = {seat.face};
        step.ring = divide::PartFace::Ring{seat.rim, std::nullopt};
        step.group = seat.group;
        auto parted = divide::partFace(outcome.model, step, progress);
        if (!parted) {
            if (parted.error().kind == ProblemKind::Cancelled) return tl::unexpected(parted.error());
            outcome.items.push_back({seat.group, false, parted.error(), 0.0});
            continue;
        }
        outcome.lineage = followed(std::move(outcome.lineage), parted->lineage);
        outcome.model = std::move(parted->model);
        outcome.items.push_back({fmt::format("\"{}\" on \"{}\"", seat.group, seat.part), true, {}, 0.0});
    }
    return {};
}

/// Links a thing of a bolt to what holds it.
void addLink(Model& model, const std::string& name, Group first, Group second, const char* behaviour) {
    Pairing pair;
    pair.name = name;
    pair.kind = PairingKind::Link;
    pair.first = first.name;
    pair.second = second.name;
    pair.behaviour = behaviour;
    model.groups.push_back(std::move(first));
    model.groups.push_back(std::move(second));
    model.pairings.push_back(std::move(pair));
}

/// A beam of the shank's section, tied at both ends.
void putBeam(Outcome& outcome, const BoltedJoint& joint, const std::string& name) {
    Model& model = outcome.model;
    const TopoDS_Edge edge = BRepBuilderAPI_MakeEdge(joint.axis.Location(), joint.end());
    auto part = std::make_shared<Part>(name, BRepBuilderAPI_MakeWire(edge).Wire());
    const double d = joint.diameter;
    Section section;
    section.shape = "round";
    section.sizes = {d};
    section.area = M_PI * d * d / 4.0;
    section.secondUp = section.secondAcross = M_PI * d * d * d * d / 64.0;
    section.torsion = M_PI * d * d * d * d / 32.0;
    const gp_Dir any = std::abs(joint.axis.Direction().Z()) < 0.9 ? gp::DZ() : gp::DX();
    section.up = gp_Vec(joint.axis.Direction().Crossed(any).Crossed(joint.axis.Direction()));
    part->known.sections[{EntityKind::Edge, 1}] = section;
    part->material = model.parts[model.occurrences[joint.bolt].part]->material;
    Occurrence place;
    place.part = model.parts.size();
    place.name = name;
    place.path = model.occurrences[joint.bolt].path;
    model.parts.push_back(part);
    model.occurrences.push_back(place);
    model.giveIds();
    const PartId id = model.parts.back()->id;
    const int first = part->incidence().vertexNumber(TopExp::FirstVertex(edge)),
              last = part->incidence().vertexNumber(TopExp::LastVertex(edge));
    const auto link = [&](const char* which, int vertex, std::set<Member> held) {
        if (held.empty()) {
            outcome.notes.push_back(
                fmt::format("The {} of \"{}\" is tied to nothing: its hole has no rim there.", which, name));
            return;
        }
        Group end{fmt::format("{}, {}", name, which), "end of a bolt", std::nullopt, {}, std::nullopt};
        end.members.insert({id, everyPlace, {EntityKind::Vertex, vertex}});
        addLink(model, fmt::format("{} by its {}", name, which), std::move(end),
                {fmt::format("{}, held at its {}", name, which), "support of a bolt", std::nullopt, std::move(held),
                 std::nullopt},
                "rigid");
    };
    const auto rim = [&](const BoltedJoint::Member& member, double at) {
        std::set<Member> held;
        const Occurrence& its = model.occurrences[member.place];
        for (const int e : rimOf(model, member, joint.axis, at))
            held.insert({model.parts[its.part]->id, its.id, {EntityKind::Edge, e}});
        return held;
    };
    link("head", first, rim(joint.clamped.front(), joint.clamped.front().from));
    if (joint.nut) {
        link("nut", last, rim(joint.clamped.back(), joint.clamped.back().to));
    } else {
        const Occurrence& its = model.occurrences[joint.clamped.back().place];
        link("thread", last, {{model.parts[its.part]->id, its.id, {EntityKind::Face, joint.clamped.back().face}}});
    }
}

/// Cuts the bolt that stands in a place (by its id, since cuts renumber places) across its shank, for preload.
Result<void> cutShank(Outcome& outcome, PlaceId bolt, const BoltedJoint& joint, const std::string& name,
                      Progress& progress) {
    const Model& before = outcome.model;
    const auto place = std::find_if(before.occurrences.begin(), before.occurrences.end(),
                                    [bolt](const Occurrence& one) { return one.id == bolt; });
    const auto index = static_cast<std::size_t>(place - before.occurrences.begin());
    const gp_Pnt middle = joint.axis.Location().Translated(gp_Vec(joint.axis.Direction()) * (0.5 * joint.length));
    const gp_XYZ at = middle.XYZ(), way = joint.axis.Direction().XYZ();
    divide::Cut step;
    step.parts = {placeName(before, index)};
    step.planes = {{{at.X(), at.Y(), at.Z()}, {way.X(), way.Y(), way.Z()}}};
    step.group = name + ", preload";
    auto cut = divide::cut(before, step, progress);
    if (!cut) return tl::unexpected(cut.error());
    for (const Item& item : cut->items)
        if (!item.done) return tl::unexpected(item.problem);
    outcome.lineage = followed(std::move(outcome.lineage), cut->lineage);
    outcome.model = std::move(cut->model);
    Model& model = outcome.model;
    model.giveIds();
    // Both faces are in one group; each side of the cut has its own.
    const auto both = std::find_if(model.groups.begin(), model.groups.end(),
                                   [&](const Group& group) { return group.name == step.group; });
    Group head{name + ", preload, head side", "preload", std::nullopt, {}, std::nullopt},
        tip{name + ", preload, tip side", "preload", std::nullopt, {}, std::nullopt};
    for (const Member& member : both->members)
        for (const Occurrence& one : model.occurrences) {
            const Part& part = *model.parts[one.part];
            if (part.id != member.part) continue;
            const gp_Pnt centre = skinOf(part.shape).centre.Transformed(one.placement);
            const bool beyond = gp_Vec(middle, centre).Dot(gp_Vec(joint.axis.Direction())) > 0.0;
            (beyond ? tip : head).members.insert(member);
            break;
        }
    model.groups.erase(both);
    addLink(model, name + ", preload", std::move(head), std::move(tip), "preload");
    return {};
}

}  // namespace

std::vector<ParameterInfo> MakeBolts::infos() {
    return {{"bolts", "list of names", "", "Parts or places of bolts; empty: all that are found.", Json::array()},
            {"name", "text", "", "Of what is made, followed by a number.", "bolt"},
            {"as", "text", "", "beam; or body: the bolt stays, its shank cut for preload.", "beam"},
            {"rings", "yes or no", "", "The faces under head and nut are parted to rings.", false}};
}
void to_json(Json& json, const MakeBolts& step) {
    json = Json{{"name", step.name}};
    if (!step.bolts.empty()) json["bolts"] = step.bolts;
    if (step.as != "beam") json["as"] = step.as;
    if (step.rings) json["rings"] = true;
}
void from_json(const Json& json, MakeBolts& step) {
    step.bolts = json.value("bolts", std::vector<std::string>{});
    step.name = json.value("name", "bolt");
    step.as = json.value("as", "beam");
    if (step.as != "beam" && step.as != "body") throw std::invalid_argument("as is beam or body");
    step.rings = json.value("rings", false);
}

Result<Outcome> makeBolts(const Model& received, const MakeBolts& step, Progress& progress) {
    if (step.name.empty()) return fail(ProblemKind::BadInput, "The beams need a name.");
    Outcome outcome;
    outcome.model = received;
    outcome.model.giveIds();
    const auto meant = placesMeant(outcome.model, step.bolts);
    if (!meant) return tl::unexpected(meant.error());
    const std::set<std::size_t> wanted(meant->begin(), meant->end());
    const auto joints = [&]() -> Result<std::vector<std::pair<std::string, BoltedJoint>>> {
        auto found = findBolts(outcome.model, progress);
        if (!found) return tl::unexpected(found.error());
        std::vector<std::pair<std::string, BoltedJoint>> named;
        std::size_t number = 0;
        for (BoltedJoint& joint : *found)
            if (wanted.contains(joint.bolt))
                named.emplace_back(freeName(received, fmt::format("{} {}", step.name, ++number)), std::move(joint));
        return named;
    };
    auto found = joints();
    if (!found) return tl::unexpected(found.error());
    if (found->empty())
        return fail(step.bolts.empty() ? ProblemKind::NothingToDo : ProblemKind::NotPossible,
                    "No bolt here goes through anything.", "Bolts are known by their shape: a head on a plain shank.");
    if (step.rings) {
        if (auto fine = partSeats(outcome, *found, progress); !fine) return tl::unexpected(fine.error());
        found = joints();
        if (!found) return tl::unexpected(found.error());
    }
    std::set<PlaceId> gone;
    std::vector<PlaceId> ids;  // of the bolts, before any is cut
    for (const auto& [name, joint] : *found) ids.push_back(outcome.model.occurrences[joint.bolt].id);
    const Model before = outcome.model;
    for (std::size_t j = 0; j < found->size(); ++j) {
        const auto& [name, joint] = (*found)[j];
        if (step.as == "body") {
            if (auto fine = cutShank(outcome, ids[j], joint, name, progress); !fine)
                return tl::unexpected(fine.error());
        } else {
            putBeam(outcome, joint, name);
            gone.insert(ids[j]);
            for (const std::size_t o : joint.with) gone.insert(before.occurrences[o].id);
        }
        std::string through;
        std::set<std::string> names;
        for (const auto& member : joint.clamped) names.insert(placeName(before, member.place));
        for (const std::string& one : names) through += (through.empty() ? "\"" : ", \"") + one + "\"";
        outcome.items.push_back({fmt::format("\"{}\": Ø {} mm, {} mm clamped, through {}", name,
                                             readable(joint.diameter), readable(joint.length), through),
                                 true,
                                 {},
                                 joint.diameter});
    }
    outcome.model.occurrences.changeWhere([&gone](const Occurrence& place) { return gone.contains(place.id); },
                                          [](Occurrence& place) { place.aside = true; });
    outcome.summary = step.as == "body" ? fmt::format("Cut {} for preload", counted(found->size(), "bolt"))
                                        : fmt::format("Make beams of {}", counted(found->size(), "bolt"));
    return outcome;
}

}  // namespace rasoir::join
