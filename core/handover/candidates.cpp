#include "handover/candidates.h"

#include <fmt/format.h>

#include "common/text.h"
#include "geometry/extent.h"
#include "geometry/round_surface.h"

namespace rasoir::handover {
namespace {

constexpr double farthest = 0.25;  // of the part's extent
constexpr double mostRatio = 4.0;  // of measures

/// Both kinds of reference in one: what is compared is the same.
struct Missed {
    std::string part, surface;
    EntityKind kind = EntityKind::Face;
    gp_Pnt at;
    double measure = 0.0, size = 0.0;
    bool isFaceRef = false;
};

/// None for JSON that is no reference.
std::optional<Missed> referenceIn(const Json& json) {
    if (!json.is_object() || !json.contains("part")) return std::nullopt;
    try {
        if (json.contains("surface") && json.contains("centre")) {
            const auto ref = json.get<FaceRef>();
            return Missed{ref.part, ref.surface, EntityKind::Face, ref.centre, ref.area, ref.size, true};
        }
        if (json.contains("kind") && json.contains("at") && json.contains("measure")) {
            const auto ref = json.get<EntityRef>();
            return Missed{ref.part, {}, ref.entity.kind, ref.at, ref.measure, 0.0, false};
        }
    } catch (const std::exception&) {
        return std::nullopt;  // something else that looks like one
    }
    return std::nullopt;
}

bool isThere(const Model& model, const Json& json, const Missed& missed) {
    return missed.isFaceRef ? findFace(model, json.get<FaceRef>()).has_value()
                            : findEntity(model, json.get<EntityRef>()).has_value();
}

double ratioOf(double a, double b) {
    if (a <= 0.0 || b <= 0.0) return a == b ? 1.0 : 1e9;
    return std::max(a / b, b / a);
}

std::string told(const Missed& missed, const std::string& surface, const FoundEntity& thing, double away,
                 double measure, const std::string& part) {
    const char* unit = missed.kind == EntityKind::Face ? " mm²" : missed.kind == EntityKind::Body ? " mm³" : " mm";
    std::string text = surface.empty() ? entityKindName(missed.kind) : surface;
    if (missed.kind != EntityKind::Vertex) text += fmt::format(" of {}{}", readable(missed.measure), unit);
    text += fmt::format(" → {} {} of \"{}\", {} mm away", entityKindName(thing.entity.kind), thing.entity.number, part,
                        readable(away));
    if (missed.measure > 0.0) {
        const double change = 100.0 * (measure - missed.measure) / missed.measure;
        text += std::abs(change) < 0.05
                    ? std::string(", as large")
                    : fmt::format(", {:.2g} % {}", std::abs(change), change > 0.0 ? "larger" : "smaller");
    }
    return text;
}

std::optional<Candidate> nearestTo(const Model& model, const Missed& missed, const std::string& at) {
    const auto p = model.partNamed(missed.part);
    if (!p) return std::nullopt;
    const Part& part = *model.parts[*p];
    const Incidence& topology = part.incidence();
    const int count = missed.kind == EntityKind::Face     ? topology.faceCount()
                      : missed.kind == EntityKind::Edge   ? topology.edgeCount()
                      : missed.kind == EntityKind::Vertex ? topology.vertexCount()
                                                          : topology.bodyCount();
    const Bnd_Box box = tightBox(part.shape);
    if (box.IsVoid()) return std::nullopt;
    const double extent = box.CornerMin().Distance(box.CornerMax());
    std::optional<Candidate> best;
    double least = 1e300;
    for (int n = 1; n <= count; ++n) {
        double size = 0.0;
        if (missed.isFaceRef) {
            const TopoDS_Face face = topology.face(n);
            if (surfaceKindName(surfaceKind(face)) != missed.surface) continue;
            if (missed.size > 0.0)
                if (const auto round = roundSurface(face)) size = round->radius;
        }
        const EntityRef own = makeRef(part, {missed.kind, n});
        const double away = own.at.Distance(missed.at);
        if (away > farthest * extent) continue;
        double ratio = missed.kind == EntityKind::Vertex ? 1.0 : ratioOf(own.measure, missed.measure);
        if (missed.size > 0.0) ratio = std::max(ratio, ratioOf(size, missed.size));
        if (ratio > mostRatio) continue;
        // A step as wide as a twentieth of the part weighs as much as a measure that doubled.
        const double score = away / (0.05 * extent) + std::log2(ratio);
        if (score >= least) continue;
        least = score;
        const FoundEntity thing{*p, {missed.kind, n}};
        best = Candidate{at, told(missed, missed.surface, thing, away, own.measure, part.name), thing};
    }
    return best;
}

/// Calls `visit(reference's JSON, its pointer)` for everything in the parameters that is a reference.
template <class Visit>
void eachReference(const Json& json, const Json::json_pointer& at, Visit&& visit) {
    if (const auto missed = referenceIn(json)) {
        visit(json, at, *missed);
        return;
    }
    if (json.is_object())
        for (const auto& [key, value] : json.items()) eachReference(value, at / key, visit);
    if (json.is_array())
        for (std::size_t i = 0; i < json.size(); ++i) eachReference(json[i], at / i, visit);
}

Json referenceTo(const Model& model, const Candidate& candidate, const Json& old) {
    const Part& part = *model.parts[candidate.thing.part];
    return old.contains("surface") ? Json(makeFaceRef(part, candidate.thing.entity.number))
                                   : Json(makeRef(part, candidate.thing.entity));
}

}  // namespace

std::vector<Candidate> candidatesFor(const Model& model, const Json& parameters) {
    std::vector<Candidate> found;
    eachReference(parameters, Json::json_pointer(),
                  [&](const Json& json, const Json::json_pointer& at, const Missed& missed) {
                      if (isThere(model, json, missed)) return;
                      if (auto candidate = nearestTo(model, missed, at.to_string()))
                          found.push_back(std::move(*candidate));
                  });
    return found;
}

std::vector<Offer> offersOf(const Work& work) {
    std::vector<Offer> offers;
    for (std::size_t s = 0; s < work.ledger().steps.size(); ++s) {
        const Step& step = work.ledger().steps[s];
        if (step.state != StepState::Failed) continue;
        const Model& before = work.modelAfter(s);
        std::size_t missing = 0;
        eachReference(step.parameters, Json::json_pointer(),
                      [&](const Json& json, const Json::json_pointer&, const Missed& missed) {
                          missing += !isThere(before, json, missed);
                      });
        Offer offer{s, candidatesFor(before, step.parameters), step.parameters};
        if (missing == 0 || offer.candidates.size() < missing) continue;
        for (const Candidate& candidate : offer.candidates) {
            Json& reference = offer.parameters[Json::json_pointer(candidate.at)];
            reference = referenceTo(before, candidate, reference);
        }
        offers.push_back(std::move(offer));
    }
    return offers;
}

Result<Work> withNearest(Work work, std::vector<std::string>& told, measure::FactsCache& facts, Progress& progress) {
    // What a step makes may be what a later one misses: one step after the other, each once.
    std::set<std::size_t> taken;
    while (true) {
        std::optional<Offer> next;
        for (Offer& offer : offersOf(work))
            if (!taken.contains(offer.step)) {
                next = std::move(offer);
                break;
            }
        if (!next) return work;
        taken.insert(next->step);
        for (const Candidate& candidate : next->candidates)
            told.push_back(fmt::format("step {}: {}", next->step + 1, candidate.told));
        auto run = work.withStepEdited(next->step, std::move(next->parameters)).replayed(facts, progress, true);
        if (!run) return run;
        work = std::move(*run);
    }
}

}  // namespace rasoir::handover
