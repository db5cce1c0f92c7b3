#include "intake/aside.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <Eigen/Eigenvalues>

#include "common/tolerance.h"
#include "geometry/extent.h"
#include "measure/mass.h"
#include "model/places.h"
#include "survey/fasteners.h"
#include "survey/hidden.h"

namespace rasoir::intake {

std::vector<ParameterInfo> SetAside::infos() {
    return {{"places", "list of names", "", "Parts, patterns, or single places as \"bolt #3\".", Json::array()},
            {"allBut", "list of names", "", "When given: everything but these.", Json::array()},
            {"measure", "word", "", "volume, longest side or mass: with upTo, every part no larger.", ""},
            {"upTo", "number", "", "mm³, mm or kg, as the measure has it.", 0.0},
            {"kinds", "list of words", "", "bolt, nut, washer, pin: recognised by their shape.", Json::array()},
            {"hidden", "boolean", "", "Those that cannot be seen from outside.", false},
            {"kept", "list of names", "", "Places that stay whatever the rules say.", Json::array()}};
}
void to_json(Json& json, const SetAside& step) {
    json = Json::object();
    if (!step.places.empty()) json["places"] = step.places;
    if (!step.allBut.empty()) json["allBut"] = step.allBut;
    if (!step.measure.empty()) {
        json["measure"] = step.measure;
        json["upTo"] = step.upTo;
    }
    if (!step.kinds.empty()) json["kinds"] = step.kinds;
    if (step.hidden) json["hidden"] = true;
    if (!step.kept.empty()) json["kept"] = step.kept;
}
void from_json(const Json& json, SetAside& step) {
    const auto names = [&json](const char* key) { return json.value(key, std::vector<std::string>{}); };
    step.places = names("places");
    step.allBut = names("allBut");
    step.measure = json.value("measure", "");
    step.upTo = json.value("upTo", 0.0);
    step.kinds = names("kinds");
    step.hidden = json.value("hidden", false);
    step.kept = names("kept");
}

PartSizes sizesOf(const Model& model, std::size_t part) {
    const measure::Facts facts = measure::factsOf(*model.parts[part], model.targetSize, false);
    PartSizes sizes;
    sizes.volume = facts.volume;
    sizes.longestSide =
        std::max({facts.high[0] - facts.low[0], facts.high[1] - facts.low[1], facts.high[2] - facts.low[2]});
    sizes.mass = measure::massOf(model, *model.parts[part], facts).mass;
    return sizes;
}

Result<Outcome> setAside(const Model& model, const SetAside& step, Progress& progress) {
    std::set<std::size_t> chosen;
    const auto add = [&](const std::vector<std::string>& names) -> Result<void> {
        const auto found = placesNamed(model, names);
        if (!found) return tl::unexpected(found.error());
        chosen.insert(found->begin(), found->end());
        return {};
    };
    if (auto named = add(step.places); !named) return tl::unexpected(named.error());
    if (!step.allBut.empty()) {
        const auto stay = placesNamed(model, step.allBut);
        if (!stay) return tl::unexpected(stay.error());
        for (std::size_t o = 0; o < model.occurrences.size(); ++o)
            if (!std::binary_search(stay->begin(), stay->end(), o)) chosen.insert(o);
    }
    std::set<std::size_t> parts;
    std::string rule;
    if (!step.measure.empty()) {
        if (step.measure != "volume" && step.measure != "longest side" && step.measure != "mass")
            return fail(ProblemKind::BadInput, fmt::format("\"{}\" is no measure of a part.", step.measure),
                        "Use volume, longest side or mass.");
        if (!(step.upTo > 0.0) || !std::isfinite(step.upTo))
            return fail(ProblemKind::BadInput, "The limit must be greater than zero.");
        for (std::size_t p = 0; p < model.parts.size(); ++p) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            const PartSizes sizes = sizesOf(model, p);
            const double size = step.measure == "volume" ? sizes.volume
                                : step.measure == "mass" ? sizes.mass
                                                         : sizes.longestSide;
            if (size <= step.upTo * (1.0 + Tolerance::rounding)) parts.insert(p);
        }
        rule = fmt::format(" with a {} up to {} {}", step.measure, readable(step.upTo),
                           step.measure == "volume" ? "mm³"
                           : step.measure == "mass" ? "kg"
                                                    : "mm");
    }
    if (!step.kinds.empty()) {
        for (const std::string& kind : step.kinds)
            if (!survey::fastenerFromName(kind))
                return fail(ProblemKind::BadInput, fmt::format("\"{}\" is no kind of fastener.", kind),
                            "Use bolt, nut, washer or pin.");
        for (std::size_t p = 0; p < model.parts.size(); ++p) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            for (const survey::Fastener& fastener :
                 survey::fastenersIn(*model.parts[p]).value_or(std::vector<survey::Fastener>{}))
                if (std::find(step.kinds.begin(), step.kinds.end(), survey::fastenerName(fastener.kind)) !=
                    step.kinds.end())
                    parts.insert(p);
        }
        if (rule.empty()) rule = ", fasteners";
    }
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (parts.contains(model.occurrences[o].part)) chosen.insert(o);
    if (step.hidden) {
        const auto hidden = survey::hiddenPlaces(model, progress);
        if (!hidden) return tl::unexpected(hidden.error());
        chosen.insert(hidden->begin(), hidden->end());
        if (rule.empty()) rule = " that cannot be seen from outside";
    }
    const auto kept = placesNamed(model, step.kept);
    if (!kept) return tl::unexpected(kept.error());
    for (const std::size_t o : *kept) chosen.erase(o);
    Outcome outcome;
    outcome.model = model;
    for (const std::size_t o : chosen) {
        if (model.occurrences[o].aside) continue;
        outcome.model.occurrences.change(o).aside = true;
        outcome.items.push_back({placeName(model, o), true, {}, 0.0});
    }
    if (outcome.items.empty())
        return fail(ProblemKind::NotPossible, "There is nothing to set aside.", "Raise the limit, or pick parts.");
    if (std::all_of(outcome.model.occurrences.begin(), outcome.model.occurrences.end(),
                    [](const Occurrence& o) { return o.aside; }))
        return fail(ProblemKind::NotPossible, "That would set everything aside.",
                    "Keep at least one part in the work.");
    outcome.summary = outcome.items.size() == 1
                          ? fmt::format("Set {} aside", outcome.items.front().what)
                          : fmt::format("Set {} aside{}", counted(outcome.items.size(), "place"), rule);
    return outcome;
}

std::vector<ParameterInfo> BringBack::infos() {
    return {{"places", "list of names", "", "Parts or places; empty: all that are set aside.", Json::array()}};
}
void to_json(Json& json, const BringBack& step) {
    json = Json{{"places", step.places}};
}
void from_json(const Json& json, BringBack& step) {
    step.places = json.value("places", std::vector<std::string>{});
}

Result<Outcome> bringBack(const Model& model, const BringBack& step, Progress&) {
    const auto places = placesNamed(model, step.places);
    if (!places) return tl::unexpected(places.error());
    Outcome outcome;
    outcome.model = model;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (!model.occurrences[o].aside ||
            (!step.places.empty() && !std::binary_search(places->begin(), places->end(), o)))
            continue;
        outcome.model.occurrences.change(o).aside = false;
        outcome.items.push_back({placeName(model, o), true, {}, 0.0});
    }
    if (outcome.items.empty()) return fail(ProblemKind::NotPossible, "None of these is set aside.");
    outcome.summary = outcome.items.size() == 1 ? fmt::format("Bring {} back", outcome.items.front().what)
                                                : fmt::format("Bring {} back", counted(outcome.items.size(), "place"));
    return outcome;
}

std::vector<ParameterInfo> StandIn::infos() {
    return {{"parts", "list of names", "", "Parts, names or patterns.", Json::array()},
            {"by", "word", "", "box, cylinder or lump (mass, centre and inertia alone).", "box"}};
}
void to_json(Json& json, const StandIn& step) {
    json = Json{{"parts", step.parts}, {"by", step.by}};
}
void from_json(const Json& json, StandIn& step) {
    step.parts = json.at("parts").get<std::vector<std::string>>();
    step.by = json.value("by", "box");
}

namespace {

/// Systems of axes worth trying: the part's own coordinates, those of its inertia, and those of its heaviest faces.
std::vector<gp_Ax3> likelyAxes(const Part& part, const measure::MassProperties& mass) {
    std::vector<gp_Ax3> all{gp_Ax3(mass.centre, gp_Dir(0, 0, 1), gp_Dir(1, 0, 0))};
    const auto& i = mass.inertia;
    Eigen::Matrix3d m;
    m << i[0], i[3], i[4], i[3], i[1], i[5], i[4], i[5], i[2];
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(m);
    const Eigen::Vector3d x = solver.eigenvectors().col(0), z = solver.eigenvectors().col(2);
    all.emplace_back(mass.centre, gp_Dir(z[0], z[1], z[2]), gp_Dir(x[0], x[1], x[2]));
    const auto directions = mainDirections(part.incidence());
    for (std::size_t a = 0; a < std::min<std::size_t>(3, directions.size()); ++a) {
        gp_Dir across = gp_Ax2(mass.centre, directions[a].along).XDirection();
        for (const WeighedDirection& other : directions)
            if (other.along.IsNormal(directions[a].along, Tolerance::sameDirection)) {
                across = other.along;
                break;
            }
        all.emplace_back(mass.centre, directions[a].along, across);
    }
    return all;
}

TopoDS_Shape smallestBox(const TopoDS_Shape& shape, const std::vector<gp_Ax3>& candidates) {
    TopoDS_Shape best;
    double smallest = 0.0;
    for (const gp_Ax3& axes : candidates) {
        const Extent extent = extentAlong(shape, axes);
        const double x = extent.high[0] - extent.low[0], y = extent.high[1] - extent.low[1],
                     z = extent.high[2] - extent.low[2];
        if (!best.IsNull() && x * y * z >= smallest * (1.0 - Tolerance::atLimit)) continue;
        smallest = x * y * z;
        const gp_Pnt corner = axes.Location().Translated(gp_Vec(axes.XDirection()) * extent.low[0] +
                                                         gp_Vec(axes.YDirection()) * extent.low[1] +
                                                         gp_Vec(axes.Direction()) * extent.low[2]);
        best = BRepPrimAPI_MakeBox(gp_Ax2(corner, axes.Direction(), axes.XDirection()), x, y, z).Shape();
    }
    return best;
}

TopoDS_Shape smallestCylinder(const TopoDS_Shape& shape, const std::vector<gp_Ax3>& candidates) {
    TopoDS_Shape best;
    double smallest = 0.0;
    for (const gp_Ax3& axes : candidates) {
        const Extent extent = extentAlong(shape, axes);
        const gp_Pnt middle =
            axes.Location().Translated(gp_Vec(axes.XDirection()) * 0.5 * (extent.low[0] + extent.high[0]) +
                                       gp_Vec(axes.YDirection()) * 0.5 * (extent.low[1] + extent.high[1]) +
                                       gp_Vec(axes.Direction()) * 0.5 * (extent.low[2] + extent.high[2]));
        for (const gp_Dir& along : {axes.Direction(), axes.XDirection(), axes.YDirection()})
            for (const gp_Pnt& through : {axes.Location(), middle}) {
                const gp_Ax1 axis(through, along);
                const auto [radius, from, to] = reachRound(shape, axis);
                const double volume = M_PI * radius * radius * (to - from);
                if (!best.IsNull() && volume >= smallest * (1.0 - Tolerance::atLimit)) continue;
                smallest = volume;
                best =
                    BRepPrimAPI_MakeCylinder(gp_Ax2(through.Translated(gp_Vec(along) * from), along), radius, to - from)
                        .Shape();
            }
    }
    return best;
}

}  // namespace

Result<Outcome> standIn(const Model& model, const StandIn& step, Progress& progress) {
    if (step.by != "box" && step.by != "cylinder" && step.by != "lump")
        return fail(ProblemKind::BadInput, fmt::format("Nothing can be stood in for by \"{}\".", step.by),
                    "Use box, cylinder or lump.");
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    if (chosen->empty()) return fail(ProblemKind::BadInput, "No parts were named.", "Name the parts to stand in for.");
    Outcome outcome;
    outcome.model = model;
    for (const std::size_t p : *chosen) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const Part& part = *model.parts[p];
        const measure::Facts facts = measure::factsOf(part, model.targetSize, false);
        const measure::MassProperties mass = measure::massOf(model, part, facts);
        if (!(mass.mass > 0.0) || (step.by != "lump" && !(facts.volume > 0.0)))
            return fail(ProblemKind::NotPossible,
                        fmt::format("\"{}\" has no volume that something could stand in for.", part.name),
                        "Mend it first, or set it aside.", {part.name, {}, {}});
        std::shared_ptr<Part> simple = part.copy();
        if (step.by == "lump") {
            simple->lump = Lump{mass.mass, mass.centre, mass.inertia};
        } else {
            const auto axes = likelyAxes(part, mass);
            const TopoDS_Shape shape =
                step.by == "box" ? smallestBox(part.shape, axes) : smallestCylinder(part.shape, axes);
            PartLineage lineage;  // nothing of the part lives on in what stands in for it
            lineage.part = p;
            auto replaced = std::make_shared<Part>(*part.withShape(shape, lineage));
            replaced->standsFor = nullptr;
            const measure::Facts now = measure::factsOf(*replaced, model.targetSize, true);
            if (!now.closed || !now.valid.value_or(false) || now.volume < facts.volume * (1.0 - Tolerance::atLimit))
                return fail(ProblemKind::Internal,
                            fmt::format("The {} for \"{}\" came out wrong and was dropped.", step.by, part.name), {},
                            {part.name, {}, {}});
            simple = std::move(replaced);
            outcome.lineage.push_back(std::move(lineage));
        }
        outcome.model.parts[p] = std::move(simple);
        outcome.items.push_back({part.name, true, {}, 0.0});
    }
    outcome.summary = chosen->size() == 1
                          ? fmt::format("A {} for {}", step.by, model.parts[chosen->front()]->name)
                          : fmt::format("A {} for each of {}", step.by, counted(chosen->size(), "part"));
    return outcome;
}

}  // namespace rasoir::intake
