#include "shave/openings.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <gp_Pln.hxx>
#include <set>

#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "heal/reface.h"
#include "model/reference.h"
#include "shave/sequence.h"
#include "survey/holes.h"
#include "survey/reliefs.h"

namespace rasoir::shave {
namespace {

/// The walls of one opening and the flat that it opens in.
struct Opening {
    std::vector<int> walls;  ///< Incidence numbers
    gp_Ax1 axis;             ///< out of the flat, through the middle of the opening's area
    double area = 0.0;       ///< [mm^2] in the flat
    double volume = 0.0;     ///< [mm^3] that it holds, to where its walls end
    double depth() const { return area > 0.0 ? volume / area : 0.0; }
};

std::optional<gp_Ax1> outwardsOf(const TopoDS_Face& face) {
    const BRepAdaptor_Surface surface(face, false);
    if (surface.GetType() != GeomAbs_Plane) return std::nullopt;
    gp_Ax1 normal = surface.Plane().Axis();
    if (!surface.Plane().Direct()) normal.Reverse();
    if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
    return normal;
}

/// Area and its middle, of the loop of edges in which these faces meet a flat.
std::optional<std::pair<double, gp_Pnt>> mouth(const Incidence& topology, const std::set<int>& faces, int flat,
                                               const gp_Ax1& normal) {
    gp_Vec doubled;
    gp_XYZ moment(0, 0, 0);
    double twice = 0.0;
    std::optional<gp_Pnt> base;
    const gp_Vec up(normal.Direction());
    for (const int f : faces)
        for (const int e : topology.edgesOf(f)) {
            const auto uses = topology.usesOf(e);
            const auto own =
                std::find_if(uses.begin(), uses.end(), [flat](const EdgeUse& use) { return use.face == flat; });
            if (uses.size() != 2 || own == uses.end()) continue;
            const EdgeProbe probe(topology.edge(e));
            gp_Pnt before;
            constexpr int pieces = 64;
            for (int k = 0; k <= pieces; ++k) {
                const double share = static_cast<double>(own->forward ? k : pieces - k) / pieces;
                const gp_Pnt at = probe.value(probe.first() + (probe.last() - probe.first()) * share);
                if (!base) base = at;
                if (k > 0) {
                    const double part = gp_Vec(*base, before).Crossed(gp_Vec(*base, at)).Dot(up);
                    twice += part;
                    moment += (base->XYZ() + before.XYZ() + at.XYZ()) * (part / 3.0);
                }
                before = at;
            }
        }
    if (!base || std::abs(twice) < 1e-12) return std::nullopt;  // [mm2] an outline without area
    return std::pair(0.5 * std::abs(twice), gp_Pnt(moment / twice));
}

Result<Opening> openingAt(const Part& part, int face, double targetSize, Progress& progress) {
    const Incidence& topology = part.incidence();
    const auto holes = survey::findHoles(part, targetSize, {}, progress);
    if (!holes) return tl::unexpected(holes.error());
    const auto reliefs = survey::findReliefs(part, targetSize, *holes, progress);
    if (!reliefs) return tl::unexpected(reliefs.error());
    std::vector<int> faces, flats;
    double volume = 0.0;
    for (const survey::Hole& hole : *holes)
        if (std::binary_search(hole.faces.begin(), hole.faces.end(), face)) {
            faces = hole.faces;
            volume = hole.volume;
            for (const survey::Mouth& one : hole.mouths)
                flats.insert(flats.end(), one.neighbours.begin(), one.neighbours.end());
        }
    for (const survey::Relief& relief : *reliefs)
        if ((relief.kind == survey::ReliefKind::Cutout || relief.kind == survey::ReliefKind::Pocket) &&
            std::binary_search(relief.faces.begin(), relief.faces.end(), face) &&
            (faces.empty() || relief.faces.size() < faces.size())) {
            faces = relief.faces;
            volume = relief.gain;
            flats = relief.bases;
        }
    const auto refuse = [&](const std::string& why, const std::string& remedy) {
        return fail(ProblemKind::NotPossible, fmt::format("Face {} of \"{}\" {}.", face, part.name, why), remedy,
                    {part.name, {face}, skinOf(topology.face(face)).centre});
    };
    if (faces.empty()) return refuse("belongs to no opening, hole or pocket", "Pick a wall of one.");
    Opening opening;
    opening.volume = std::abs(volume);
    std::set<int> all(faces.begin(), faces.end());
    for (const int flat : flats) {
        const auto normal = outwardsOf(topology.face(flat));
        if (!normal) continue;
        const auto at = mouth(topology, all, flat, *normal);
        if (!at || at->first <= opening.area) continue;
        opening.area = at->first;
        opening.axis = gp_Ax1(at->second, normal->Direction());
    }
    if (opening.area == 0.0)
        return refuse("opens in no flat, so there is no square direction for a hole",
                      "Remove the opening and cut the hole in another way.");
    // What lies square to the axis is a floor, and stays.
    for (const int f : faces) {
        const auto normal = outwardsOf(topology.face(f));
        // [rad] what looks along the opening is its floor, drawn by whatever means.
        if (!normal || normal->Direction().Angle(opening.axis.Direction()) > 1e-3) opening.walls.push_back(f);
    }
    return opening;
}

}  // namespace

Result<Outcome> roundOpenings(const Model& model, const RoundOpenings& step, Progress& progress) {
    if (step.openings.empty()) return fail(ProblemKind::BadInput, "No opening was named.", "Pick a wall of each.");
    if (!(step.diameter >= 0.0) || !std::isfinite(step.diameter))
        return fail(ProblemKind::BadInput, "The diameter must be a positive length, or 0 for the opening's own.");
    Outcome outcome;
    outcome.model = model;
    std::map<std::size_t, std::vector<int>> chosen;
    for (const FaceRef& reference : step.openings) {
        const auto found = findFace(model, reference);
        if (!found) return tl::unexpected(found.error());
        chosen[found->part].push_back(found->face);
    }
    std::size_t made = 0;
    for (const auto& [p, faces] : chosen) {
        Sequence sequence(model.parts[p]);
        std::set<int> done;
        for (const int face : faces) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            if (done.contains(face)) continue;
            const int now = sequence.numberOf(face);
            const auto opening = now == 0
                                     ? Result<Opening>(fail(ProblemKind::NotPossible, "It went with another opening."))
                                     : openingAt(sequence.now(), now, model.targetSize, progress);
            if (!opening) return tl::unexpected(opening.error());
            const double diameter = step.diameter > 0.0 ? step.diameter : 2.0 * std::sqrt(opening->area / M_PI);
            const std::string name =
                fmt::format("opening of {} mm² in {}", readable(opening->area), sequence.now().name);
            for (const int other : faces)
                if (std::find(opening->walls.begin(), opening->walls.end(), sequence.numberOf(other)) !=
                    opening->walls.end())
                    done.insert(other);
            const heal::FreshFace wall{new Geom_CylindricalSurface(
                                           gp_Ax3(opening->axis.Location(), opening->axis.Direction()), 0.5 * diameter),
                                       true};
            auto removal = heal::reface(sequence.now(), {opening->walls, {wall}, opening->axis}, model.samePoint());
            Item item{fmt::format("{}: one hole Ø {} mm", name, readable(diameter)), removal.has_value(), {}, diameter};
            if (removal) {
                const double taken = 0.25 * M_PI * diameter * diameter * opening->depth(),
                             change = volumeOf(removal->shape) - volumeOf(sequence.now().shape);
                if (std::abs(change - (opening->volume - taken)) > 0.1 * std::max(opening->volume, taken)) {
                    item.done = false;
                    item.problem = {
                        ProblemKind::NotPossible,
                        fmt::format("The {} stays: the volume would change by {} mm³ where {} mm³ are to be expected.",
                                    name, readable(change), readable(opening->volume - taken)),
                        {sequence.now().name, opening->walls, opening->axis.Location()},
                        "Remove what lies beside it first."};
                } else {
                    sequence.take(removal->shape, removal->lineage);
                    ++made;
                }
            } else {
                item.problem = removal.error();
                item.problem.what = fmt::format("The {} stays: {}", name, item.problem.what);
                item.problem.where = {sequence.now().name, opening->walls, opening->axis.Location()};
                if (item.problem.remedy.empty()) item.problem.remedy = "Choose a smaller diameter.";
            }
            outcome.items.push_back(std::move(item));
        }
        if (!sequence.changed()) continue;
        outcome.model.parts[p] = sequence.part();
        outcome.lineage.push_back(sequence.lineage());
        outcome.lineage.back().part = p;
    }
    if (made == 0) return tl::unexpected(outcome.items.front().problem);
    outcome.summary = step.diameter > 0.0
                          ? fmt::format("Make {} round, Ø {} mm", counted(made, "opening"), readable(step.diameter))
                          : fmt::format("Make {} round", counted(made, "opening"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

std::vector<ParameterInfo> RoundOpenings::infos() {
    return {{"openings", "list of face references", "", "Any one wall of each opening, slot or pocket.", Json::array()},
            {"diameter", "number", "mm", "Of the hole; 0: each as wide as a circle of the opening's own area.", 0.0}};
}
void to_json(Json& json, const RoundOpenings& step) {
    json = Json{{"openings", step.openings}, {"diameter", step.diameter}};
}
void from_json(const Json& json, RoundOpenings& step) {
    step.openings = json.at("openings").get<std::vector<FaceRef>>();
    step.diameter = json.value("diameter", 0.0);
}

}  // namespace rasoir::shave
