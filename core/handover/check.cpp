#include "handover/check.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepCheck_Analyzer.hxx>

#include "common/guard.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "handover/check_pairs.h"
#include "join/flow_bodies.h"
#include "join/joint_faults.h"
#include "join/pairs.h"
#include "topology/edge_angle.h"
#include "topology/face_corners.h"
#include "topology/soundness.h"

namespace rasoir::handover {
namespace {

class PartCheck {
public:
    PartCheck(const Model& model, std::size_t p, std::vector<CheckFinding>& findings)
        : m_model(model), m_part(*model.parts[p]), m_p(p), m_findings(findings) {}

    void run() {
        closedness();
        soundness();
        smallness();
        angles();
        attributes();
    }

private:
    const Model& m_model;
    const Part& m_part;
    std::size_t m_p;
    std::vector<CheckFinding>& m_findings;

    void say(Severity severity, std::string what, std::string why, std::string bench, std::vector<Entity> things = {},
             std::optional<gp_Pnt> where = std::nullopt) {
        m_findings.push_back(
            {severity, std::move(what), std::move(why), std::move(bench), m_p, std::nullopt, std::move(things), where});
    }

    void closedness() {
        const Incidence& topology = m_part.incidence();
        std::vector<Entity> open, many;
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const int faces = topology.facesAt(e);
            const bool ofSolid = faces > 0 && topology.bodyOf(topology.usesOf(e)[0].face) >= 0;
            if (ofSolid && faces == 1) open.push_back({EntityKind::Edge, e});
            if (ofSolid && faces > 2 && faces % 2 == 1) many.push_back({EntityKind::Edge, e});
        }
        if (!open.empty())
            say(Severity::Error,
                fmt::format("\"{}\" has {} in its solids.", m_part.name, counted(open.size(), "open edge")),
                "A mesher finds no inside.", "Mend", open);
        if (!many.empty())
            say(Severity::Error,
                fmt::format("{} of \"{}\" have three faces of one solid.", counted(many.size(), "edge"), m_part.name),
                "No inside can be told there.", "Mend", many);
        for (int b = 1; b <= topology.bodyCount(); ++b)
            if (topology.body(b).ShapeType() == TopAbs_SOLID && volumeOf(topology.body(b)) < 0.0)
                say(Severity::Error, fmt::format("Body {} of \"{}\" is inside out.", b, m_part.name),
                    "Its volume counts as empty space.", "Mend", {{EntityKind::Body, b}});
    }

    void soundness() {
        const Incidence& topology = m_part.incidence();
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (!soundFace(topology.face(f)))
                say(Severity::Error, fmt::format("Face {} of \"{}\" is not sound.", f, m_part.name),
                    "Its outline crosses itself or leaves its surface.", "Mend", {{EntityKind::Face, f}},
                    skinOf(topology.face(f)).centre);
        double widest = 0.0;
        int at = 0;
        for (int e = 1; e <= topology.edgeCount(); ++e)
            if (const double tolerance = BRep_Tool::Tolerance(topology.edge(e)); tolerance > widest) {
                widest = tolerance;
                at = e;
            }
        if (widest > 0.05 * m_model.targetSize)
            say(Severity::Warning,
                fmt::format("An edge of \"{}\" has a tolerance of {} mm.", m_part.name, readable(widest)),
                "That is more than a twentieth of an element: its faces meet only roughly.", "Mend",
                {{EntityKind::Edge, at}});
    }

    void smallness() {
        const Incidence& topology = m_part.incidence();
        const double target = m_model.targetSize;
        std::vector<Entity> edges, faces;
        std::optional<gp_Pnt> edgeAt, faceAt;
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const TopoDS_Edge edge = topology.edge(e);
            if (BRep_Tool::Degenerated(edge) || topology.facesAt(e) == 0) continue;
            const EdgeProbe probe(edge);
            if (probe.length() > 0.1 * target) continue;
            edges.push_back({EntityKind::Edge, e});
            if (!edgeAt) edgeAt = probe.value(0.5 * (probe.first() + probe.last()));
        }
        for (int f = 1; f <= topology.faceCount(); ++f) {
            const Skin skin = skinOf(topology.face(f));
            double outline = 0.0;
            for (const int e : topology.edgesOf(f)) outline += EdgeProbe(topology.edge(e)).length();
            if (outline <= 0.0 || 2.0 * skin.area / outline > 0.1 * target) continue;
            faces.push_back({EntityKind::Face, f});
            if (!faceAt) faceAt = skin.centre;
        }
        if (!edges.empty())
            say(Severity::Warning,
                fmt::format("{} of \"{}\" shorter than a tenth of an element.", counted(edges.size(), "edge"),
                            m_part.name),
                "Each forces elements as small as itself.", "Shave", edges, edgeAt);
        if (!faces.empty())
            say(Severity::Warning,
                fmt::format("{} of \"{}\" narrower than a tenth of an element.", counted(faces.size(), "face"),
                            m_part.name),
                "Needles: elements there come out thin.", "Shave", faces, faceAt);
    }

    /// Where matter ends in a wedge, where a face has a corner like a dagger's point, and where faces meet so flatly
    /// that no mesher can say whether an edge is meant.
    void angles() {
        const Incidence& topology = m_part.incidence();
        constexpr double wedge = 15.0, dagger = 10.0, flat = 3.0;  // degrees
        if (m_part.kind() == BodyKind::Solid) {
            std::vector<join::Wedge> wedges = join::wedgesOf(m_part.shape, wedge, m_model.targetSize);
            std::vector<Entity> edges;
            for (const join::Wedge& one : wedges) edges.push_back({EntityKind::Edge, one.edge});
            if (!wedges.empty())
                say(Severity::Warning,
                    fmt::format("\"{}\" ends in a wedge of {} degrees along {}.", m_part.name,
                                readable(std::round(wedges.front().degrees)), counted(wedges.size(), "edge")),
                    "Elements there come out flat.", "Shave", edges, wedges.front().where);
        }
        std::vector<Entity> daggers, nearly;
        std::optional<gp_Pnt> daggerAt, nearlyAt;
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (const auto corner = sharpestCorner(topology.face(f)); corner && corner->degrees < dagger) {
                daggers.push_back({EntityKind::Face, f});
                if (!daggerAt) daggerAt = corner->where;
            }
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const double turn = std::abs(edgeAngle(topology, e).turn) * 180.0 / M_PI;
            if (turn < 0.5 || turn > flat) continue;
            nearly.push_back({EntityKind::Edge, e});
            if (!nearlyAt) {
                const EdgeProbe probe(topology.edge(e));
                nearlyAt = probe.value(0.5 * (probe.first() + probe.last()));
            }
        }
        if (!daggers.empty())
            say(Severity::Warning,
                fmt::format("{} of \"{}\" with a corner under 10 degrees.", counted(daggers.size(), "face"),
                            m_part.name),
                "An element in such a corner is as pointed as it.", "Mend", daggers, daggerAt);
        if (!nearly.empty())
            say(Severity::Note,
                fmt::format("At {} of \"{}\" faces meet nearly, but not quite smoothly.",
                            counted(nearly.size(), "edge"), m_part.name),
                "A mesher has to guess whether an edge is meant.", "Mend", nearly, nearlyAt);
    }

    void attributes() {
        const Incidence& topology = m_part.incidence();
        std::vector<Entity> bare;
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (topology.bodyOf(f) < 0 && !m_part.known.thickness.contains({EntityKind::Face, f}))
                bare.push_back({EntityKind::Face, f});
        if (!bare.empty())
            say(Severity::Warning,
                fmt::format("{} of sheets in \"{}\" without a thickness.", counted(bare.size(), "face"), m_part.name),
                "A shell element needs one.", "Hand over", bare);
    }
};

/// A unit that nobody stated, and sizes at which a wrong one is likelier than a right one.
void checkUnits(const Model& model, std::vector<CheckFinding>& findings) {
    const auto say = [&](Severity severity, std::string what, std::string why) {
        findings.push_back({severity, std::move(what), std::move(why), "Intake", 0, std::nullopt, {}, std::nullopt});
    };
    const double extent = model.extent();
    if (model.unitAssumed)
        say(Severity::Note,
            fmt::format("The file states no unit; in {} the model is {} mm wide.",
                        model.fileUnit ? unitName(*model.fileUnit) : "millimetres", readable(extent)),
            "A wrong unit makes every length, mass and stress wrong.");
    else if (extent > 0.0 && (extent < 1.0 || extent > 1e5))
        say(Severity::Note, fmt::format("The model is {} mm wide.", readable(extent)),
            "Few things are that small or large: the unit may be another one.");
}

}  // namespace

const char* severityName(Severity severity) {
    switch (severity) {
        case Severity::Note:
            return "note";
        case Severity::Warning:
            return "warning";
        case Severity::Error:
            return "error";
    }
    return "";
}

Result<std::vector<CheckFinding>> check(const Model& model, Progress& progress) {
    std::vector<CheckFinding> findings;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        progress.report(static_cast<double>(p) / static_cast<double>(model.parts.size()),
                        "Checking " + model.parts[p]->name);
        if (model.isAside(p) || model.parts[p]->shape.IsNull()) continue;
        const auto done = guarded("Checking " + model.parts[p]->name, [&]() -> Result<void> {
            PartCheck(model, p, findings).run();
            return {};
        });
        if (!done) return tl::unexpected(done.error());
    }
    std::size_t bare = 0, first = 0;
    for (std::size_t p = model.parts.size(); p-- > 0;)
        if (model.parts[p]->material.empty() && !model.parts[p]->lump && !model.isAside(p)) {
            ++bare;
            first = p;
        }
    if (bare > 0)
        findings.push_back({Severity::Note,
                            bare == 1 ? fmt::format("\"{}\" has no material.", model.parts[first]->name)
                                      : fmt::format("{} have no material, \"{}\" among them.", counted(bare, "part"),
                                                    model.parts[first]->name),
                            "What has none weighs what the model's own density says.",
                            "Intake",
                            first,
                            std::nullopt,
                            {},
                            std::nullopt});
    checkUnits(model, findings);
    for (const Group& group : model.groups)
        if (const std::size_t fresh = group.fresh().size(), fallen = group.fallen().size(); fresh + fallen > 0)
            findings.push_back(
                {Severity::Warning,
                 fmt::format("The rule of the group \"{}\" finds {} more and {} fewer than were accepted.", group.name,
                             fresh, fallen),
                 "A load on it would act elsewhere than it was meant to.",
                 "Hand over",
                 0,
                 std::nullopt,
                 {},
                 std::nullopt});
    for (const Group& group : model.groups)
        if (group.members.empty())
            findings.push_back({Severity::Warning,
                                fmt::format("The group \"{}\" is empty.", group.name),
                                "A load or support on it would act on nothing.",
                                "Hand over",
                                0,
                                std::nullopt,
                                {},
                                std::nullopt});
    auto pairs = checkPairs(model, progress);
    if (!pairs) return tl::unexpected(pairs.error());
    findings.insert(findings.end(), std::make_move_iterator(pairs->begin()), std::make_move_iterator(pairs->end()));
    for (const std::string& fault : join::faultsInJoints(model))
        findings.push_back(
            {Severity::Error, fault, "The mesh would not be one there.", "Join", 0, std::nullopt, {}, {}});
    std::stable_sort(findings.begin(), findings.end(),
                     [](const CheckFinding& a, const CheckFinding& b) { return a.severity > b.severity; });
    return findings;
}

}  // namespace rasoir::handover
