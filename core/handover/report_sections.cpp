#include "handover/report_sections.h"

#include <fmt/format.h>

#include "common/text.h"
#include "common/xml.h"
#include "exchange/files.h"
#include "handover/export.h"
#include "handover/skin_distance.h"
#include "mesh/quality.h"
#include "survey/stress_notes.h"

namespace rasoir::handover {
namespace {

/// How many things a step was told to leave: named by their faces or by where they are.
std::size_t keptBy(const Step& step) {
    std::size_t count = 0;
    for (const char* list : {"kept", "keptAt"})
        if (step.parameters.is_object() && step.parameters.contains(list) && step.parameters[list].is_array())
            count += step.parameters[list].size();
    return count;
}

}  // namespace

std::string keptSection(const Work& work) {
    std::string lines;
    for (const Step& step : work.ledger().steps)
        if (const std::size_t kept = step.state == StepState::Done ? keptBy(step) : 0; kept > 0)
            lines +=
                fmt::format("<li>{}: {} kept on purpose</li>\n",
                            escapedXml(step.summary.empty() ? step.operation : step.summary), counted(kept, "thing"));
    const Model& now = work.current();
    for (std::size_t p = 0; p < now.parts.size(); ++p) {
        const Part& part = *now.parts[p];
        if (now.isAside(p)) continue;
        if (!part.meantOpen.empty())
            lines += fmt::format("<li>{}: {} meant to be open</li>\n", escapedXml(part.name),
                                 counted(part.meantOpen.size(), "opening is", "openings are"));
        for (const survey::StressNote& note : survey::stressNotes(part))
            lines += fmt::format(
                "<li class=left>{}: stress is fictitious along {} of {} mm at {}, {}, {}: as designed it was round "
                "with "
                "R {} mm.</li>\n",
                escapedXml(part.name), counted(note.edges.size(), "corner"), readable(note.length),
                readable(note.where.X()), readable(note.where.Y()), readable(note.where.Z()), readable(note.radius));
    }
    return lines.empty() ? std::string() : "<h2>Kept on purpose, and to be minded</h2>\n<ul>\n" + lines + "</ul>\n";
}

Result<std::string> qualitySection(const Work& work, Progress& progress) {
    const double target = work.current().targetSize;
    mesh::SizeRules rules;
    rules.target = target;
    std::array<const Model*, 2> models{&work.received(), &work.current()};
    std::array<mesh::TrialMesh, 2> meshes;
    std::string section = fmt::format("<h2>The trial mesh at {} mm</h2>\n", readable(target));
    for (std::size_t i = 0; i < 2; ++i) {
        auto made = mesh::makeTrialMesh(*models[i], {}, rules, progress);
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; no report was written.");
        if (!made)
            return section + fmt::format("<p>{} it could not be made: {}</p>\n", i == 0 ? "As received," : "Now,",
                                         escapedXml(sentence(made.error())));
        meshes[i] = std::move(*made);
    }
    section +=
        "<table><tr><th>Falls short by</th><th class=number>limit</th><th class=number>as received</th><th "
        "class=number>now</th><th class=number>worst, now</th></tr>\n";
    for (const mesh::Measure measure : mesh::measures) {
        const double limit = mesh::customaryLimit(measure, target);
        std::array<mesh::QualityFigures, 2> figures;
        for (std::size_t i = 0; i < 2; ++i) figures[i] = mesh::qualityOf(*models[i], meshes[i], measure, limit);
        const auto share = [](const mesh::QualityFigures& one) {
            return one.elements == 0 ? std::string("–")
                                     : fmt::format("{:.2f} %", 100.0 * static_cast<double>(one.bad) /
                                                                   static_cast<double>(one.elements));
        };
        section += fmt::format(
            "<tr><td>{}</td><td class=number>{} {}</td><td class=number>{}</td><td class=number>{}</td><td "
            "class=number>{}</td></tr>\n",
            mesh::measureName(measure), readable(limit), mesh::measureUnit(measure), share(figures[0]),
            share(figures[1]), readable(figures[1].worst));
    }
    return section + fmt::format("</table>\n<p>{} triangles as received, {} now.</p>\n", meshes[0].triangles,
                                 meshes[1].triangles);
}

Result<std::string> exportedSection(const Model& model, const std::filesystem::path& file, Progress& progress) {
    std::string section = fmt::format("<h2>The exported file {}</h2>\n", escapedXml(file.filename().string()));
    const auto told = [&](const Problem& problem) {
        return section + fmt::format("<p class=left>{}</p>\n", escapedXml(sentence(problem)));
    };
    exchange::ReadOptions options;
    const bool hasPlaces = file.extension() == ".step" || file.extension() == ".stp";
    if (!hasPlaces) options.unit = Unit::Millimetre;
    const auto read = exchange::readFile(file, options, progress);
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; no report was written.");
    if (!read) return told(read.error());
    const Model written = exchange::asExported(model);
    const auto proof = proved(written, *read, hasPlaces, progress);
    if (!proof) return told(proof.error());
    section +=
        "<table><tr><th>Body</th><th class=number>Volume mm³</th><th class=number>in the file</th><th "
        "class=number>Area mm²</th><th class=number>in the file</th><th class=number>Centres apart mm</th></tr>\n";
    constexpr std::size_t most = 50;
    for (std::size_t b = 0; b < std::min(most, proof->bodies.size()); ++b) {
        const ExportProof::Body& body = proof->bodies[b];
        section += fmt::format(
            "<tr><td>{}</td><td class=number>{}</td><td class=number>{}</td><td class=number>{}</td><td "
            "class=number>{}</td><td class=number>{}</td></tr>\n",
            escapedXml(body.place), readable(body.volume), readable(body.volumeRead), readable(body.area),
            readable(body.areaRead), readable(body.apart));
    }
    section += "</table>\n";
    if (proof->bodies.size() > most)
        section += fmt::format("<p>And {} more, as like.</p>\n", proof->bodies.size() - most);
    if (!proof->groups.empty()) {
        section +=
            "<table><tr><th>Group</th><th class=number>Faces</th><th class=number>in the file</th><th "
            "class=number>Area mm²</th><th class=number>in the file</th></tr>\n";
        for (const ExportProof::Named& named : proof->groups)
            section += fmt::format(
                "<tr{}><td>{}</td><td class=number>{}</td><td class=number>{}</td><td class=number>{}</td><td "
                "class=number>{}</td></tr>\n",
                named.same() ? "" : " class=left", escapedXml(named.group), named.faces, named.facesRead,
                readable(named.area), readable(named.areaRead));
        section += "</table>\n";
    }
    section += fmt::format("<p>{}; the widest tolerance it claims is {} mm", escapedXml(proof->told()),
                           readable(proof->widestTolerance));
    if (const auto skins = skinDistances(*read, written, model.targetSize, progress); skins)
        section += fmt::format("; its skin lies no farther than {} mm from this one's, as triangles show it",
                               readable(skins->most));
    return section + ".</p>\n";
}

}  // namespace rasoir::handover
