#include "reduce/sharp_bends.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <TopoDS_Iterator.hxx>

#include "arrange/choice.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "model/places.h"
#include "reduce/beside.h"
#include "reduce/sheet_growth.h"
#include "topology/edge_angle.h"

// The planes beside a bend touch its cylinder where they end. So each has to grow by exactly the way from there to the
// line in which the two planes meet, which is the same on both sides; what grew meets there and nothing has to be cut.

namespace rasoir::reduce {
namespace {

struct Bend {
    int face = 0;
    double radius = 0.0, setback = 0.0;  // [mm] by which both sides grow
    std::vector<int> edges;              // towards the flats
};

std::optional<gp_Pln> flatOf(const Incidence& topology, int face) {
    const GeomAdaptor_Surface surface(BRep_Tool::Surface(topology.face(face)));
    return surface.GetType() == GeomAbs_Plane ? std::optional(surface.Plane()) : std::nullopt;
}

/// A bend at a round face; a reason where it looks like one and cannot go; neither where it is none.
struct Looked {
    std::optional<Bend> bend;
    std::string why;
};
Looked bendAt(const Incidence& topology, int face, const std::set<int>& joined) {
    const GeomAdaptor_Surface surface(BRep_Tool::Surface(topology.face(face)));
    if (surface.GetType() != GeomAbs_Cylinder) return {};
    Bend bend{face, surface.Cylinder().Radius(), 0.0, {}};
    std::vector<gp_Pln> flats;
    std::string why;
    for (const int e : topology.edgesOf(face)) {
        const auto uses = topology.usesOf(e);
        if (uses.size() == 1 && !joined.contains(e)) continue;  // where the bend ends
        const int other = uses.size() == 2 ? (uses[0].face == face ? uses[1].face : uses[0].face) : 0;
        const auto flat = other > 0 && other != face ? flatOf(topology, other) : std::nullopt;
        const bool along = BRepAdaptor_Curve(topology.edge(e)).GetType() == GeomAbs_Line;
        if (flat && along && edgeAngle(topology, e, smoothInFiles).kind == EdgeKind::Smooth) {
            bend.edges.push_back(e);
            if (std::none_of(flats.begin(), flats.end(), [&](const gp_Pln& one) {
                    return one.Axis().IsParallel(flat->Axis(), Tolerance::sameDirection);
                }))
                flats.push_back(*flat);
        } else if (uses.size() == 2 && other == face) {
            return {};  // a tube that closes on itself
        } else {
            why = uses.size() > 2 || joined.contains(e) ? "another sheet stands on it" : "it runs on into another face";
        }
    }
    if (flats.size() != 2) return {};  // a round wall, or one that ends on something
    int loops = 0;
    for (TopoDS_Iterator it(topology.face(face)); it.More(); it.Next()) ++loops;
    if (loops > 1) why = "it has a hole, which would be lost";
    if (!why.empty()) return {std::nullopt, why};
    const BRepAdaptor_Curve rim(topology.edge(bend.edges.front()));
    gp_Pnt at;
    const gp_Vec out =
        outAlong(topology, face, bend.edges.front(), 0.5 * (rim.FirstParameter() + rim.LastParameter()), at);
    // Along the flat, from its end on under the bend, to the other plane.
    const gp_Vec ahead = out.Reversed();
    for (const gp_Pln& flat : flats) {
        const double lean = ahead.Dot(gp_Vec(flat.Axis().Direction()));
        if (std::abs(lean) < 0.02) continue;  // the plane that it lies in
        bend.setback = gp_Vec(at, flat.Location()).Dot(gp_Vec(flat.Axis().Direction())) / lean;
    }
    constexpr double far = 20.0;  // of the radius: turned by 174 degrees
    if (!(bend.setback > 0.0) || bend.setback > far * bend.radius)
        return {std::nullopt, "its sides turn back on each other and meet far away or nowhere"};
    return {bend, {}};
}

Result<Regrown> withoutBends(const Part& part, const std::vector<Bend>& bends, const std::set<int>& joined,
                             double tolerance, Progress& progress) {
    const auto all = arrange::arrange({{part.shape, part.name}}, tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    auto pieces = arrange::piecesOf(*all, 0);
    std::erase_if(pieces, [&](const std::pair<int, bool>& one) {
        const auto& owners = all->pieces[static_cast<std::size_t>(one.first)].owners;
        return std::any_of(owners.begin(), owners.end(), [&](const arrange::Owner& owner) {
            return std::any_of(bends.begin(), bends.end(), [&](const Bend& bend) { return bend.face == owner.number; });
        });
    });
    const auto left = arrange::sheetOf(*all, pieces);
    if (!left) return tl::unexpected(left.error());
    const PartLineage& toLeft = left->lineage.at(0);
    const auto flats = remade(part, left->shape, toLeft);
    std::map<int, double> setback;  // by edge of the part
    for (const Bend& bend : bends)
        for (const int e : bend.edges) setback[e] = bend.setback;
    std::vector<GrowingEdge> growing;
    std::set<int> stillJoined;
    const Incidence& topology = flats->incidence();
    for (const Link& link : toLeft.edges()) {
        if (joined.contains(link.before)) stillJoined.insert(link.after);
        const auto own = setback.find(link.before);
        if (own == setback.end() || topology.facesAt(link.after) != 1) continue;
        const int face = topology.usesOf(link.after).front().face;
        const BRepAdaptor_Curve curve(topology.edge(link.after));
        gp_Pnt at;
        const gp_Vec out =
            outAlong(topology, face, link.after, 0.5 * (curve.FirstParameter() + curve.LastParameter()), at);
        growing.push_back({link.after, face, out, own->second});
    }
    auto grown = grownPast(*flats, growing, stillJoined, tolerance, progress);
    if (!grown) return grown;
    grown->lineage = chained(toLeft, grown->lineage);
    return grown;
}

}  // namespace

std::vector<ParameterInfo> SharpBends::infos() {
    return {
        {"parts", "list of names", "", "Sheets, names or patterns; empty: all that are not set aside.", Json::array()},
        {"upTo", "number", "mm", "Largest radius, of the sheet itself; 0: whatever it is.", 0.0}};
}
void to_json(Json& json, const SharpBends& step) {
    json = Json{{"upTo", step.upTo}};
    if (!step.parts.empty()) json["parts"] = step.parts;
}
void from_json(const Json& json, SharpBends& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> sharpenBends(const Model& model, const SharpBends& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "That is no radius up to which bends could be made sharp.");
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = model;
    std::size_t count = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (step.parts.empty() ? model.isAside(p) : !std::binary_search(chosen->begin(), chosen->end(), p)) continue;
        const Part& part = *model.parts[p];
        if (part.kind() != BodyKind::Sheet) continue;
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const Incidence& topology = part.incidence();
        const std::set<int> joined = jointEdgesOf(model, p);
        std::vector<Bend> bends;
        for (int f = 1; f <= topology.faceCount(); ++f) {
            Looked looked = bendAt(topology, f, joined);
            const double radius =
                GeomAdaptor_Surface(BRep_Tool::Surface(topology.face(f))).GetType() == GeomAbs_Cylinder
                    ? GeomAdaptor_Surface(BRep_Tool::Surface(topology.face(f))).Cylinder().Radius()
                    : 0.0;
            if (step.upTo > 0.0 && radius > step.upTo * (1.0 + Tolerance::atLimit)) continue;
            if (looked.bend) bends.push_back(std::move(*looked.bend));
            if (looked.why.empty()) continue;
            Item item{fmt::format("Bend of {} mm in \"{}\"", readable(radius), part.name), false, {}, radius};
            item.problem = {ProblemKind::NotPossible,
                            fmt::format("The bend at face {} of \"{}\" stays: {}.", f, part.name, looked.why),
                            {part.name, {f}, topology.skin(f).centre},
                            "Cut it out by hand and carry its sides on."};
            outcome.items.push_back(std::move(item));
        }
        if (bends.empty()) continue;
        auto sharp = withoutBends(part, bends, joined, model.samePoint(), progress);
        if (!sharp) {
            if (sharp.error().kind == ProblemKind::Cancelled) return tl::unexpected(sharp.error());
            outcome.items.push_back({fmt::format("\"{}\": {}", part.name, counted(bends.size(), "bend")), false,
                                     sharp.error(), bends.front().radius});
            continue;
        }
        outcome.items.push_back(
            {fmt::format("\"{}\": {} made sharp, area {} to {} mm²", part.name, counted(bends.size(), "bend"),
                         readable(areaOf(part.shape)), readable(areaOf(sharp->shape))),
             true,
             {},
             bends.front().radius});
        outcome.model.parts[p] = remade(part, sharp->shape, sharp->lineage);
        sharp->lineage.part = p;
        sharp->lineage.into = p;
        outcome.lineage.push_back(std::move(sharp->lineage));
        count += bends.size();
    }
    if (count == 0) {
        for (const Item& item : outcome.items) return tl::unexpected(item.problem);
        return fail(ProblemKind::NothingToDo, "No sheet has a bend between two flats of so small a radius.",
                    "Give a larger radius.");
    }
    outcome.summary = fmt::format("Make {} sharp", counted(count, "bend"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::reduce
