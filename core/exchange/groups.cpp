#include "exchange/groups.h"

#include <TopoDS.hxx>

#include "common/safe_file.h"
#include "geometry/edge_probe.h"
#include "survey/stress_notes.h"

namespace rasoir::exchange {

std::filesystem::path groupsBeside(const std::filesystem::path& geometry) {
    std::filesystem::path beside = geometry;
    return beside.replace_extension(".groups.json");
}

Json groupsOf(const Model& model) {
    Json corners = Json::array();
    std::map<std::size_t, std::vector<survey::StressNote>> notes;
    for (const Occurrence& occurrence : model.occurrences) {
        const Part& part = *model.parts[occurrence.part];
        if (occurrence.aside || part.lump || part.sharpened.empty()) continue;
        const auto [known, fresh] = notes.try_emplace(occurrence.part);
        if (fresh) known->second = survey::stressNotes(part);
        for (const survey::StressNote& note : known->second)
            for (const int e : note.edges) {
                const EdgeProbe probe(part.incidence().edge(e));
                Json points = Json::array();
                for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0}) {
                    const gp_Pnt at = probe.value(probe.first() + share * (probe.last() - probe.first()))
                                          .Transformed(occurrence.placement);
                    points.push_back({at.X(), at.Y(), at.Z()});
                }
                corners.push_back({{"part", part.name},
                                   {"place", occurrence.name},
                                   {"radius_mm", note.radius},
                                   {"length_mm", probe.length()},
                                   {"points_mm", std::move(points)}});
            }
    }
    Json groups = Json::array();
    if (!corners.empty())
        groups.push_back(
            {{"name", "fictitious stress"},
             {"why",
              "Inner corners that were round as designed: the stress there grows without end as the mesh gets finer."},
             {"edges", std::move(corners)}});
    return groups;
}

Result<void> writeGroups(const Model& model, const std::filesystem::path& geometry) {
    const Json groups = groupsOf(model);
    const std::filesystem::path beside = groupsBeside(geometry);
    std::error_code unknown;
    if (groups.empty() && !std::filesystem::exists(beside, unknown)) return {};
    const Json file{
        {"format", "rasoir-groups"}, {"version", 1}, {"geometry", geometry.filename().string()}, {"groups", groups}};
    return writeText(beside, file.dump(2, ' ', false, Json::error_handler_t::replace) + "\n");
}

}  // namespace rasoir::exchange
