#include "handover/report.h"

#include <fmt/format.h>

#include "common/text.h"
#include "common/tolerance.h"
#include "common/xml.h"
#include "geometry/integrals.h"
#include "handover/dimension.h"
#include "handover/report_pictures.h"
#include "handover/report_sections.h"
#include "model/places.h"

namespace rasoir::handover {
namespace {

constexpr std::size_t closeUps = 60;  // steps that have one; a page is to be opened, too

constexpr const char* style = R"(
body { font: 14px/1.45 sans-serif; max-width: 60em; margin: 2em auto; padding: 0 1em; color: #2b2b2b; }
h1 { font-size: 1.5em; margin-bottom: 0; } h2 { font-size: 1.1em; margin: 2em 0 .4em; border-bottom: 1px solid #bbb; }
table { border-collapse: collapse; width: 100%; } th { text-align: left; font-weight: 600; }
td, th { padding: .2em .8em .2em 0; vertical-align: top; border-bottom: 1px solid #e4e0d8; }
td.number, th.number { text-align: right; white-space: nowrap; } ul { margin: .2em 0; padding-left: 1.2em; }
.left { color: #8a3324; } .quiet { color: #777; }
)";

std::string row(const char* what, double before, double after, const char* unit) {
    const double change = std::abs(before) > 0.0 ? 100.0 * (after - before) / std::abs(before) : 0.0;
    // The same number but for its last digits is no change.
    return fmt::format(
        "<tr><td>{}</td><td class=number>{} {}</td><td class=number>{} {}</td><td class=number>{}</td></tr>\n", what,
        readable(before), unit, readable(after), unit,
        std::abs(after - before) <= 1e-12 * std::abs(before) ? std::string("–") : fmt::format("{:+.3g} %", change));
}

/// What a group amounts to: area of its faces, length of its edges, how many vertices, bodies and parts.
std::string sizeOf(const Model& model, const Group& group) {
    std::map<EntityKind, std::size_t> count;
    double area = 0.0, length = 0.0;
    for (const Member& member : group.members) {
        ++count[member.entity.kind];
        const auto part = std::find_if(model.parts.begin(), model.parts.end(),
                                       [&member](const auto& one) { return one->id == member.part; });
        if (part == model.parts.end()) continue;
        const Incidence& topology = (*part)->incidence();
        if (member.entity.kind == EntityKind::Face && member.entity.number <= topology.faceCount())
            area += areaOf(topology.face(member.entity.number));
        if (member.entity.kind == EntityKind::Edge && member.entity.number <= topology.edgeCount())
            length += lengthOf(topology.edge(member.entity.number));
    }
    std::string told;
    for (const auto& [kind, members] : count) {
        told += told.empty() ? "" : ", ";
        told += kind == EntityKind::Body     ? counted(members, "body", "bodies")
                : kind == EntityKind::Vertex ? counted(members, "vertex", "vertices")
                                             : counted(members, entityKindName(kind));
        if (kind == EntityKind::Face) told += fmt::format(", {} mm²", readable(area));
        if (kind == EntityKind::Edge) told += fmt::format(", {} mm", readable(length));
    }
    return told.empty() ? "empty" : told;
}

}  // namespace

namespace {

/// Which file this is about, and who says so.
/// What the drawing says beside what was measured, where it was asked for.
std::string dimensionsOf(const Work& work) {
    std::string rows;
    for (std::size_t k = 0; k < work.ledger().steps.size(); ++k) {
        const Step& step = work.ledger().steps[k];
        if (step.operation != "handover.dimension" || step.state != StepState::Done) continue;
        const auto dimension = step.parameters.get<Dimension>();
        const auto measured = measuredOf(work.modelAfter(k + 1), dimension);
        if (!measured) continue;
        const double off = measured->value - dimension.value;
        const bool beyond = dimension.tolerance && std::abs(off) > *dimension.tolerance * (1.0 + Tolerance::rounding);
        rows += fmt::format(
            "<tr><td>{}</td><td class=number>{}</td><td class=number>{}</td><td class=\"number{}\">{}{}</td>"
            "<td class=number>{}</td></tr>\n",
            escapedXml(dimension.name.empty() ? measured->what : dimension.name), measured->with(dimension.value),
            measured->with(measured->value), beyond ? " left" : "", off > 0.0 ? "+" : "", measured->with(off),
            dimension.tolerance ? "± " + measured->with(*dimension.tolerance) : std::string());
    }
    if (rows.empty()) return {};
    return "<h2>Dimensions of the drawing</h2>\n<table><tr><th></th><th class=number>Drawing</th><th "
           "class=number>Measured</th><th class=number>Off by</th><th class=number>Allowed</th></tr>\n" +
           rows + "</table>\n";
}

std::string headOf(const Work& work, const ReportOptions& options) {
    const Model& received = work.received();
    std::vector<std::string> files{work.ledger().source};
    files.insert(files.end(), work.ledger().moreSources.begin(), work.ledger().moreSources.end());
    std::string head = "<p class=quiet>";
    for (std::size_t f = 0; f < files.size(); ++f) {
        head += escapedXml(std::filesystem::path(files[f]).filename().string());
        if (files.size() == received.fileHashes.size())
            head += fmt::format(", SHA-256 <small>{}</small>", received.fileHashes[f]);
        head += "<br>\n";
    }
    if (const auto variants = work.variantNames(); variants.size() > 1)
        head += fmt::format("variant \"{}\"; ", escapedXml(variants[work.variant()]));
    head += fmt::format("target size {} mm", readable(work.current().targetSize));
    for (const auto& [what, who] : {std::pair{"made by", &options.author}, {"checked by", &options.checker}})
        if (!who->empty()) head += fmt::format("; {} {}", what, escapedXml(*who));
    if (!options.date.empty()) head += "; " + escapedXml(options.date);
    return head + fmt::format("; Rasoir {}</p>\n", RASOIR_VERSION);
}

}  // namespace

Result<std::string> reportOf(const Work& work, const ReportOptions& options, measure::FactsCache& facts,
                             Progress& progress) {
    const Model& now = work.current();
    const auto before = facts.of(work.received(), progress), after = facts.of(now, progress);
    if (!before) return tl::unexpected(before.error());
    if (!after) return tl::unexpected(after.error());
    const auto findings = check(now, progress);
    if (!findings) return tl::unexpected(findings.error());
    const measure::Effect effect = measure::effectOf(work.received(), *before, now, *after);

    std::string page = fmt::format(
        "<!DOCTYPE html>\n<html lang=en><head><meta charset=utf-8><title>{0}</title><style>{1}</style></head>\n"
        "<body>\n<h1>{0}</h1>\n{2}",
        escapedXml(now.name.empty() ? "Report" : now.name), style, headOf(work, options));

    page += "<h2>As received, and now</h2>\n";
    if (options.pictures) {
        page += picturesOf(work, progress);
        for (const NamedSight& view : options.views)
            if (const std::string pictures = picturesOf(work, progress, view.sight); !pictures.empty())
                page += fmt::format("<h3>{}</h3>\n{}", escapedXml(view.name), pictures);
    }
    page +=
        "<table><tr><th></th><th class=number>received</th><th class=number>now</th><th "
        "class=number>change</th></tr>\n";
    page += row("Mass", effect.massBefore, effect.massAfter, "kg");
    page += row("Volume", effect.volumeBefore, effect.volumeAfter, "mm³");
    page += row("Area", effect.areaBefore, effect.areaAfter, "mm²");
    static constexpr std::array<const char*, 3> axes{"Inertia xx", "Inertia yy", "Inertia zz"};
    for (std::size_t k = 0; k < 3; ++k) page += row(axes[k], effect.inertiaBefore[k], effect.inertiaAfter[k], "kg mm²");
    page += row("Faces", effect.facesBefore, effect.facesAfter, "");
    page += row("Edges", effect.edgesBefore, effect.edgesAfter, "");
    page += row("Shortest edge", effect.shortestEdgeBefore, effect.shortestEdgeAfter, "mm");
    page += row("Smallest face", effect.smallestFaceBefore, effect.smallestFaceAfter, "mm²");
    page += row("Elements, about", std::round(effect.elementsBefore), std::round(effect.elementsAfter), "");
    page +=
        fmt::format("</table>\n<p>The centre of mass moved by {} mm.</p>\n", readable(effect.centreShift.Magnitude()));

    page += "<h2>Steps</h2>\n";
    if (work.ledger().steps.empty()) page += "<p>None: this is the file as received.</p>\n";
    std::size_t number = 0;
    page += work.ledger().steps.empty()
                ? ""
                : "<table><tr><th></th><th>What was done</th><th class=number>Volume mm³</th></tr>\n";
    for (const Step& step : work.ledger().steps) {
        if (step.operation == "handover.note") {
            page += fmt::format("<tr><td class=quiet>{}</td><td colspan=2><i>{}</i></td></tr>\n", ++number,
                                escapedXml(step.parameters.value("text", "")));
            continue;
        }
        std::string told = escapedXml(step.summary.empty() ? step.operation : step.summary);
        if (step.state != StepState::Done)
            told += fmt::format(" <span class=left>({})</span>", stepStateName(step.state));
        if (step.problem) told += fmt::format("<br><span class=left>{}</span>", escapedXml(sentence(*step.problem)));
        std::string left;
        std::size_t done = 0;
        for (const Item& item : step.items) {
            done += item.done;
            if (!item.done) left += fmt::format("<li class=left>{}</li>", escapedXml(sentence(item.problem)));
        }
        if (!step.items.empty())
            told += fmt::format("<br><span class=quiet>{} done, {} left</span>", done, step.items.size() - done);
        if (!left.empty()) told += "<ul>" + left + "</ul>";
        if (options.pictures && step.state == StepState::Done && number < closeUps) {
            told += closeUpOf(work, number, progress);
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; no report was written.");
        }
        std::string volume;
        if (step.effect.is_object() && step.effect.contains("volume_mm3")) {
            const double change =
                step.effect["volume_mm3"].value("after", 0.0) - step.effect["volume_mm3"].value("before", 0.0);
            volume = (change > 0.0 ? "+" : "") + readable(change);
        }
        page += fmt::format("<tr><td class=quiet>{}</td><td>{}</td><td class=number>{}</td></tr>\n", ++number, told,
                            volume);
    }
    page += work.ledger().steps.empty() ? "" : "</table>\n";

    page += keptSection(work);
    page += dimensionsOf(work);
    if (options.mesh) {
        const auto quality = qualitySection(work, progress);
        if (!quality) return tl::unexpected(quality.error());
        page += *quality;
    }
    page += "<h2>Groups</h2>\n";
    if (now.groups.empty()) page += "<p>None.</p>\n";
    if (!now.groups.empty()) {
        page += "<table><tr><th>Name</th><th>For</th><th>What is in it</th></tr>\n";
        for (const Group& group : now.groups)
            page += fmt::format("<tr><td>{}</td><td>{}{}</td><td>{}</td></tr>\n", escapedXml(group.name),
                                escapedXml(group.purpose), group.rule ? " <span class=quiet>(by a rule)</span>" : "",
                                escapedXml(sizeOf(now, group)));
        page += "</table>\n";
    }

    if (!now.pairings.empty()) {
        page +=
            "<h2>Contacts, links and welds</h2>\n<table><tr><th>Name</th><th>What</th><th>First</th><th>Second</th>"
            "<th class=number>Gap or throat mm</th></tr>\n";
        for (const Pairing& pairing : now.pairings)
            page += fmt::format("<tr><td>{}</td><td>{}{}</td><td>{}</td><td>{}</td><td class=number>{}</td></tr>\n",
                                escapedXml(pairing.name), pairingKindName(pairing.kind),
                                pairing.behaviour.empty() ? "" : ", " + escapedXml(pairing.behaviour),
                                escapedXml(pairing.first), escapedXml(pairing.second),
                                pairing.kind == PairingKind::Contact ? readable(pairing.gap)
                                : pairing.throat > 0.0               ? readable(pairing.throat)
                                                                     : "");
        page += "</table>\n";
    }

    page +=
        "<h2>Parts</h2>\n<table><tr><th>Part</th><th class=number>Places</th><th>Material</th><th class=number>Mass "
        "kg, each</th>"
        "<th class=number>of it spread</th><th class=number>Faces</th></tr>\n";
    std::size_t aside = 0;
    for (std::size_t p = 0; p < now.parts.size(); ++p) {
        std::size_t places = 0;
        for (const Occurrence& place : now.occurrences) {
            if (place.part != p) continue;
            ++(place.aside ? aside : places);
        }
        if (places == 0) continue;
        const Part& part = *now.parts[p];
        page += fmt::format(
            "<tr><td>{}</td><td class=number>{}</td><td>{}</td><td class=number>{}</td><td class=number>{}</td><td "
            "class=number>{}</td></tr>\n",
            escapedXml(part.name), places,
            part.material.empty()
                ? fmt::format("<span class=quiet>none, {} kg/m³ assumed</span>", readable(now.density))
                : escapedXml(part.material),
            readable(measure::massOf(now, part, (*after)[p]).mass),
            part.known.added.empty() ? std::string() : readable(measure::addedMassOf(part)), (*after)[p].faces);
    }
    page += "</table>\n";
    if (aside > 0) page += fmt::format("<p>{} set aside, and left out of the export.</p>\n", counted(aside, "place"));
    if (!now.joints.empty()) {
        const auto faces = std::count_if(now.joints.begin(), now.joints.end(),
                                         [](const Joint& joint) { return joint.kind == EntityKind::Face; });
        const auto edges = std::count_if(now.joints.begin(), now.joints.end(),
                                         [](const Joint& joint) { return joint.kind == EntityKind::Edge; });
        page +=
            fmt::format("<p>Bodies have {} and {} in common.</p>\n", counted(static_cast<std::size_t>(faces), "face"),
                        counted(static_cast<std::size_t>(edges), "edge"));
    }

    page += "<h2>What the next program may choke on</h2>\n";
    if (findings->empty()) page += "<p>Nothing was found.</p>\n";
    if (!findings->empty()) page += "<ul>\n";
    for (const CheckFinding& finding : *findings)
        page += fmt::format("<li{}><b>{}</b>: {} <span class=quiet>{}</span></li>\n",
                            finding.severity == Severity::Error ? " class=left" : "", severityName(finding.severity),
                            escapedXml(finding.what), escapedXml(finding.why));
    if (!findings->empty()) page += "</ul>\n";
    for (const std::filesystem::path& file : options.exported) {
        const auto section = exportedSection(now, file, progress);
        if (!section) return tl::unexpected(section.error());
        page += *section;
    }
    page += "</body></html>\n";
    return page;
}

}  // namespace rasoir::handover
