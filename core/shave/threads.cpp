#include "shave/threads.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Lin.hxx>
#include <set>

#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "heal/reface.h"
#include "shave/choice.h"
#include "shave/sequence.h"

namespace rasoir::shave {
namespace {

std::string nameOf(const survey::Thread& thread) {
    return fmt::format("Ø {} mm thread, {}", readable(thread.major), survey::describe(thread));
}

/// What lies at one end of a thread.
struct End {
    std::set<int> faces;
    std::optional<double> shank;  ///< [mm] radius of a cylinder about the axis, other than the fresh one's
};

class Planner {
public:
    Planner(const Part& part, const survey::Thread& thread, double radius, double tolerance)
        : m_topology(part.incidence()),
          m_thread(thread),
          m_radius(radius),
          m_tolerance(tolerance),
          m_region(thread.faces.begin(), thread.faces.end()) {}

    heal::Refacing plan() {
        std::array<End, 2> ends = lookRound();
        // A crest in one face with the shank: the shank's part is made anew.
        std::array<std::optional<double>, 2> own;
        for (const int f : m_region)
            if (const auto round = aboutAxis(f)) {
                const auto [low, high, inner, outer] = reachOf(f);
                if (low < m_thread.low - 0.3 * m_thread.lead) own[0] = round->radius;
                if (high > m_thread.high + 0.3 * m_thread.lead) own[1] = round->radius;
            }
        heal::Refacing refacing;
        refacing.axis = m_thread.axis;
        refacing.faces.assign(m_region.begin(), m_region.end());
        const gp_Ax3 axes = axesFor();
        const auto cylinder = [&](double radius) {
            return heal::FreshFace{new Geom_CylindricalSurface(axes, radius), !m_thread.outer};
        };
        const auto flat = [&](std::size_t end, double shank) {
            // It belongs to whichever is the thicker, and looks at the other.
            const bool shankIsMore = m_thread.outer ? shank > m_radius : shank < m_radius;
            const gp_Vec up(m_thread.axis.Direction());
            const bool looksUp = shankIsMore == (end == 0);
            gp_Ax3 place = axes;
            place.SetLocation(m_thread.axis.Location().Translated(up * (end == 0 ? m_thread.low : m_thread.high)));
            return heal::FreshFace{new Geom_Plane(place), !looksUp};
        };
        const auto differs = [&](const std::optional<double>& radius) {
            return radius && std::abs(*radius - m_radius) > 10.0 * m_tolerance;
        };
        if (differs(own[0])) {
            refacing.chain.push_back(cylinder(*own[0]));
            refacing.chain.push_back(flat(0, *own[0]));
        } else if (differs(ends[0].shank)) {
            refacing.chain.push_back(flat(0, *ends[0].shank));
        }
        refacing.chain.push_back(cylinder(m_radius));
        if (differs(own[1])) {
            refacing.chain.push_back(flat(1, *own[1]));
            refacing.chain.push_back(cylinder(*own[1]));
        } else if (differs(ends[1].shank)) {
            refacing.chain.push_back(flat(1, *ends[1].shank));
        }
        return refacing;
    }

private:
    const Incidence& m_topology;
    const survey::Thread& m_thread;
    double m_radius, m_tolerance;
    std::set<int> m_region;

    [[nodiscard]] std::optional<RoundSurface> aboutAxis(int f) const {
        const auto round = roundSurface(m_topology.face(f), 1e-4);  // [mm] flanks that were written as splines
        if (!round || (round->kind != SurfaceKind::Cylinder && round->kind != SurfaceKind::Cone)) return std::nullopt;
        // [rad] flanks that were written as splines have an axis by fitting; of the thread, for the same reason.
        if (!m_thread.axis.Direction().IsParallel(round->axis.Direction(), 1e-3) ||
            gp_Lin(m_thread.axis).Distance(round->axis.Location()) > 1e-3 * m_thread.major)
            return std::nullopt;
        return round;
    }

    /// [mm] heights and radii between which a face's edges lie.
    [[nodiscard]] std::array<double, 4> reachOf(int f) const {
        std::array<double, 4> reach{1e300, -1e300, 1e300, -1e300};
        for (const int e : m_topology.edgesOf(f)) {
            if (BRep_Tool::Degenerated(m_topology.edge(e))) continue;
            const EdgeProbe probe(m_topology.edge(e));
            for (int k = 0; k <= 12; ++k) {
                const gp_Pnt p = probe.value(probe.first() + (probe.last() - probe.first()) * k / 12.0);
                const double height = gp_Vec(m_thread.axis.Location(), p).Dot(gp_Vec(m_thread.axis.Direction())),
                             radius = gp_Lin(m_thread.axis).Distance(p);
                reach = {std::min(reach[0], height), std::max(reach[1], height), std::min(reach[2], radius),
                         std::max(reach[3], radius)};
            }
        }
        return reach;
    }

    /// Faces at its two ends; those that cannot stay beside the fresh cylinder, or are of one piece with it, join the
    /// region.
    std::array<End, 2> lookRound() {
        std::array<End, 2> ends;
        for (bool joined = true; joined;) {
            joined = false;
            ends = {};
            const std::set<int> region = m_region;
            for (const int f : region)
                for (const int g : m_topology.neighboursOf(f)) {
                    if (m_region.contains(g)) continue;
                    const auto round = aboutAxis(g);
                    const auto [low, high, inner, outer] = reachOf(g);
                    const bool same = round && round->kind == SurfaceKind::Cylinder &&
                                      std::abs(round->radius - m_radius) <= 10.0 * m_tolerance;
                    const bool passed = round && round->kind == SurfaceKind::Cone &&
                                        (m_thread.outer ? m_radius < inner + 10.0 * m_tolerance
                                                        : m_radius > outer - 10.0 * m_tolerance);
                    if (same || passed) {
                        m_region.insert(g);
                        joined = true;
                        continue;
                    }
                    const bool atLow = 0.5 * (low + high) < 0.5 * (m_thread.low + m_thread.high);
                    End& end = ends[atLow ? 0 : 1];
                    end.faces.insert(g);
                    if (round && round->kind == SurfaceKind::Cylinder) end.shank = round->radius;
                }
        }
        return ends;
    }

    /// About the axis, turned so that seams go on those of what lies beside it.
    [[nodiscard]] gp_Ax3 axesFor() const {
        for (const int f : m_region)
            for (const int g : m_topology.neighboursOf(f)) {
                if (m_region.contains(g) || !aboutAxis(g)) continue;
                const BRepAdaptor_Surface surface(m_topology.face(g), false);
                if (surface.GetType() == GeomAbs_Cylinder)
                    return gp_Ax3(m_thread.axis.Location(), m_thread.axis.Direction(),
                                  surface.Cylinder().Position().XDirection());
                if (surface.GetType() == GeomAbs_Cone)
                    return gp_Ax3(m_thread.axis.Location(), m_thread.axis.Direction(),
                                  surface.Cone().Position().XDirection());
            }
        return gp_Ax3(m_thread.axis.Location(), m_thread.axis.Direction());
    }
};

}  // namespace

Result<heal::Removal> withPlain(const Part& part, const survey::Thread& thread, double diameter, double tolerance) {
    auto done = heal::reface(part, Planner(part, thread, 0.5 * diameter, tolerance).plan(), tolerance);
    if (!done) {
        Problem problem = done.error();
        problem.what = fmt::format("The {} stays: {}{}", nameOf(thread),
                                   static_cast<char>(std::tolower(problem.what.empty() ? ' ' : problem.what[0])),
                                   problem.what.empty() ? "" : problem.what.substr(1));
        problem.where.part = part.name;
        if (problem.where.faces.empty()) problem.where.faces = thread.faces;
        if (!problem.where.point) problem.where.point = thread.middle;
        return tl::unexpected(std::move(problem));
    }
    const double change = volumeOf(done->shape) - volumeOf(part.shape);
    const double most = 1.5 * 0.25 * M_PI * (thread.major * thread.major - thread.minor * thread.minor) *
                        (thread.length() + 2.0 * thread.lead);
    if (!(std::abs(change) <= most))
        return fail(
            ProblemKind::NotPossible,
            fmt::format(
                "The {} stays: the volume would change by {} mm³ where no more than {} mm³ lie between its diameters.",
                nameOf(thread), readable(change), readable(most)),
            "Remove what lies beside it first.", {part.name, thread.faces, thread.middle});
    return done;
}

Result<Outcome> plainThreads(const Model& model, const PlainThreads& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo) || !(step.from >= 0.0) || !std::isfinite(step.from))
        return fail(ProblemKind::BadInput, "The diameters must be positive lengths.");
    if (step.upTo == 0.0 && step.chosen.empty())
        return fail(ProblemKind::BadInput, "No size and no thread was given, so there is nothing to make plain.",
                    "Give upTo in mm, or pick threads.");
    if (step.diameter != "minor" && step.diameter != "mean" && step.diameter != "major")
        return fail(ProblemKind::BadInput, fmt::format("There is no diameter called \"{}\".", step.diameter),
                    "Known: minor, mean, major.");
    const auto choice = Choice::of(model, step.parts, step.chosen, step.kept);
    if (!choice) return tl::unexpected(choice.error());
    Outcome outcome;
    outcome.model = model;
    std::size_t made = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const bool byRule = step.upTo > 0.0 && choice->isRuled(model, p);
        if ((!byRule && !choice->isChosen(p)) || model.parts[p]->shape.IsNull() || model.parts[p]->lump) continue;
        const auto found = survey::findThreads(*model.parts[p], model.targetSize, progress);
        if (!found) return tl::unexpected(found.error());
        for (const int face : choice->chosenOf(p))
            if (std::none_of(found->begin(), found->end(), [f = face](const survey::Thread& thread) {
                    return std::binary_search(thread.faces.begin(), thread.faces.end(), f);
                }))
                return fail(ProblemKind::NotPossible,
                            fmt::format("Face {} of \"{}\" is not part of a thread.", face, model.parts[p]->name),
                            "Pick a flank of a thread.", {model.parts[p]->name, {face}, {}});
        std::vector<survey::Thread> taken;
        for (const survey::Thread& thread : *found) {
            const bool rule = byRule && thread.major <= step.upTo * (1.0 + Tolerance::atLimit) &&
                              thread.major >= step.from * (1.0 - Tolerance::atLimit) && !choice->keeps(p, thread.faces);
            if (rule || choice->chooses(p, thread.faces)) taken.push_back(thread);
        }
        Sequence sequence(model.parts[p]);
        for (survey::Thread thread : taken) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            progress.report(0.5, "Making threads plain");
            const double diameter = step.diameter == "minor"   ? thread.minor
                                    : step.diameter == "major" ? thread.major
                                                               : thread.mean();
            Item item{fmt::format("{}, to Ø {} in {}", nameOf(thread), readable(diameter), sequence.now().name),
                      false,
                      {},
                      thread.major};
            const auto faces = sequence.numbersOf(thread.faces);
            auto done = faces ? Result<heal::Removal>()
                              : fail(ProblemKind::NotPossible, "Another thread took some of its faces.",
                                     "Make it plain in a step of its own.");
            if (faces) {
                thread.faces = *faces;
                done = withPlain(sequence.now(), thread, diameter, model.samePoint());
            }
            item.done = done.has_value();
            if (done) {
                sequence.take(done->shape, done->lineage);
                ++made;
            } else {
                item.problem = done.error();
            }
            outcome.items.push_back(std::move(item));
        }
        if (!sequence.changed()) continue;
        outcome.model.parts[p] = sequence.part();
        outcome.lineage.push_back(sequence.lineage());
        outcome.lineage.back().part = p;
    }
    if (outcome.items.empty())
        return fail(ProblemKind::NotPossible,
                    step.upTo > 0.0
                        ? fmt::format("There are no modelled threads up to {} mm here.", readable(step.upTo))
                        : "None of the chosen faces belongs to a thread.");
    if (made == 0) return tl::unexpected(outcome.items.front().problem);
    outcome.summary =
        fmt::format("Make {} plain, {} diameter",
                    step.upTo > 0.0 ? fmt::format("{} {} mm", counted(made, "thread"), sizeRange(step.from, step.upTo))
                                    : counted(made, "picked thread"),
                    step.diameter);
    progress.report(1.0, outcome.summary);
    return outcome;
}

std::vector<ParameterInfo> PlainThreads::infos() {
    return {{"diameter", "word", "", "Of the cylinder that takes its place: minor, mean or major.", "mean"},
            {"upTo", "number", "mm", "Every thread whose major diameter is no larger; 0: only those chosen.", 0.0},
            {"from", "number", "mm", "And no smaller than this.", 0.0},
            {"parts", "list of names", "", "Parts to look at; empty: all.", Json::array()},
            {"chosen", "list of face references", "", "Any one face of each further thread, whatever its size.",
             Json::array()},
            {"kept", "list of face references", "", "Any one face of each thread that stays.", Json::array()}};
}

void to_json(Json& json, const PlainThreads& step) {
    json = Json{{"diameter", step.diameter}, {"upTo", step.upTo}};
    if (step.from > 0.0) json["from"] = step.from;
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.chosen.empty()) json["chosen"] = step.chosen;
    if (!step.kept.empty()) json["kept"] = step.kept;
}

void from_json(const Json& json, PlainThreads& step) {
    step.diameter = json.value("diameter", std::string("mean"));
    step.upTo = json.value("upTo", 0.0);
    step.from = json.value("from", 0.0);
    step.parts = json.value("parts", std::vector<std::string>{});
    step.chosen = json.value("chosen", std::vector<FaceRef>{});
    step.kept = json.value("kept", std::vector<FaceRef>{});
}

}  // namespace rasoir::shave
