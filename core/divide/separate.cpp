#include "divide/separate.h"

#include <fmt/format.h>

#include "geometry/integrals.h"
#include "model/lineage_builder.h"
#include "model/places.h"

namespace rasoir::divide {
namespace {

/// The body that keeps the part: by volume, of sheets by area; solids before sheets, sheets before lines.
int keptBody(const Incidence& topology) {
    int largest = 1;
    std::tuple<int, double> most{-1, 0.0};
    for (int b = 1; b <= topology.bodyCount(); ++b) {
        const TopoDS_Shape body = topology.body(b);
        std::tuple<int, double> size{0, 0.0};
        if (body.ShapeType() == TopAbs_SOLID)
            size = {2, volumeOf(body)};
        else if (body.ShapeType() == TopAbs_SHELL || body.ShapeType() == TopAbs_FACE)
            size = {1, areaOf(body)};
        if (size > most) {
            most = size;
            largest = b;
        }
    }
    return largest;
}

std::shared_ptr<Part> withBody(const Part& part, int body, PartLineage& lineage) {
    auto made = part.copy();
    made->setShape(part.incidence().body(body));
    made->known = {};
    made->meantOpen.clear();
    made->sharpened.clear();
    lineage = LineageBuilder(part.incidence(), made->shape).finish();
    made->inherit(part, lineage, gp_Trsf());
    return made;
}

}  // namespace

std::vector<ParameterInfo> Separate::infos() {
    return {{"parts", "list of names", "", "Parts to separate; empty: all that hold several bodies.", Json::array()}};
}
void to_json(Json& json, const Separate& step) {
    json = Json::object();
    if (!step.parts.empty()) json["parts"] = step.parts;
}
void from_json(const Json& json, Separate& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
}

Result<Outcome> separate(const Model& model, const Separate& step, Progress& progress) {
    std::vector<std::size_t> wanted;
    if (step.parts.empty()) {
        wanted.resize(model.parts.size());
        std::iota(wanted.begin(), wanted.end(), std::size_t{0});
    } else {
        const auto named = partsNamed(model, step.parts);
        if (!named) return tl::unexpected(named.error());
        wanted = *named;
    }
    Outcome outcome;
    outcome.model = model;
    std::map<std::size_t, std::vector<std::size_t>> others;  // by part: those made of its other bodies
    for (const std::size_t p : wanted) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const Part& part = *model.parts[p];
        if (part.shape.IsNull() || part.lump || part.incidence().bodyCount() < 2) continue;
        const int count = part.incidence().bodyCount(), keeps = keptBody(part.incidence());
        PartLineage lineage;
        auto kept = withBody(part, keeps, lineage);
        lineage.part = lineage.into = p;
        outcome.model.parts[p] = std::move(kept);
        outcome.lineage.push_back(std::move(lineage));
        for (int b = 1; b <= count; ++b) {
            if (b == keeps) continue;
            PartLineage own;
            auto fresh = withBody(part, b, own);
            fresh->id = 0;
            const auto named = part.known.names.find({EntityKind::Body, b});
            fresh->name = freeName(outcome.model, named != part.known.names.end() && !named->second.empty()
                                                      ? named->second
                                                      : fmt::format("{}, body {}", part.name, b));
            own.part = p;
            own.into = outcome.model.parts.size();
            others[p].push_back(own.into);
            outcome.lineage.push_back(std::move(own));
            outcome.model.parts.push_back(std::move(fresh));
        }
        outcome.items.push_back({fmt::format("\"{}\": {} parts", part.name, count), true, {}, 0.0});
        if (model.mirrorPairOf(p) != nullptr) {
            std::erase_if(outcome.model.mirrors,
                          [p](const MirrorPair& pair) { return pair.original == p || pair.image == p; });
            outcome.notes.push_back(fmt::format("\"{}\" is no mirror image any more.", part.name));
        }
    }
    if (others.empty())
        return fail(ProblemKind::NothingToDo, "No part holds several bodies.", "There is nothing to separate.");
    SharedVector<Occurrence> places;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Occurrence& place = model.occurrences[o];
        places.share(model.occurrences, o);
        const auto more = others.find(place.part);
        if (more == others.end()) continue;
        for (const std::size_t part : more->second) {
            places.push_back(place);
            Occurrence& own = places.changeLast();
            own.part = part;
            own.name = outcome.model.parts[part]->name;
            own.id = 0;
        }
    }
    outcome.model.occurrences = std::move(places);
    outcome.model.giveIds();
    outcome.summary =
        fmt::format("Separate the bodies of {}", others.size() == 1 ? "a part" : counted(others.size(), "part"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::divide
