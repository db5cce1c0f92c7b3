#include <fmt/format.h>

#include "mesh/mesh_files.h"
#include "mesh/quality.h"
#include "model/places.h"
#include "survey/holes.h"
#include "survey/rounds.h"
#include "terminal.h"

namespace rasoir::cli {
namespace {

/// Holes and rounds of the parts that were meshed, as what bad elements can be put down to.
std::vector<mesh::KnownFeature> knownFeatures(const Model& model, const mesh::TrialMesh& trial, Progress& progress) {
    std::vector<mesh::KnownFeature> known;
    for (const auto& [p, own] : trial.parts) {
        const Part& part = *model.parts[p];
        if (const auto holes = survey::findHoles(part, trial.rules.target, {}, progress))
            for (const survey::Hole& hole : *holes)
                known.push_back({p, hole.faces, fmt::format("hole Ø {}", readable(hole.size))});
        if (const auto strips = survey::findStrips(part, trial.rules.target, progress))
            for (const survey::StripChain& chain : *strips)
                known.push_back({p, chain.faces,
                                 chain.kind == survey::StripKind::Round
                                     ? fmt::format("round R {}", readable(chain.size))
                                     : fmt::format("chamfer {}", readable(chain.size))});
    }
    return known;
}

Json toJson(const Model& model, const mesh::QualityFigures& figures) {
    Json json{{"measure", mesh::measureName(figures.measure)},
              {"unit", mesh::measureUnit(figures.measure)},
              {"limit", figures.limit},
              {"elements", figures.elements},
              {"bad", figures.bad},
              {"worst", figures.worst},
              {"mean", figures.mean}};
    json["places"] = Json::array();
    for (const mesh::BadPlace& place : figures.places)
        json["places"].push_back({{"part", model.parts[place.part]->name},
                                  {"what", place.what},
                                  {"faces", place.faces},
                                  {"elements", place.elements},
                                  {"worst", place.worst},
                                  {"at_mm", {place.where.X(), place.where.Y(), place.where.Z()}}});
    return json;
}

}  // namespace

int trialMesh(const Input& input, const MeshWanted& wanted) {
    Progress progress(terminalListener());
    const auto model = open(input, progress);
    if (!model) return complain(model.error());
    mesh::SizeRules rules;
    rules.target = model->targetSize;
    std::vector<std::size_t> parts;
    if (!wanted.parts.empty()) {
        auto named = partsNamed(*model, wanted.parts);
        if (!named) return complain(named.error());
        parts = std::move(*named);
    }
    const auto trial = mesh::makeTrialMesh(*model, parts, rules, progress);
    if (!trial) return complain(trial.error());
    std::size_t left = 0;
    for (const auto& [p, own] : trial->parts) {
        left += own.left.size();
        for (const auto& [face, problem] : own.left) fmt::print(stderr, "{}\n", sentence(problem));
    }
    Json json{{"targetSize_mm", rules.target},
              {"triangles", trial->triangles},
              {"lines", trial->lines},
              {"facesLeft", left},
              {"quality", Json::array()}};
    if (!input.json)
        fmt::print("{} triangles{} at {} mm\n", trial->triangles,
                   trial->lines > 0 ? fmt::format(", {} beam elements", trial->lines) : "", readable(rules.target));
    const auto features = knownFeatures(*model, *trial, progress);
    for (const mesh::Measure measure : mesh::measures) {
        const auto figures =
            mesh::qualityOf(*model, *trial, measure, mesh::customaryLimit(measure, rules.target), features);
        if (input.json) {
            json["quality"].push_back(toJson(*model, figures));
            continue;
        }
        const std::string unit = *mesh::measureUnit(measure) != 0 ? fmt::format(" {}", mesh::measureUnit(measure)) : "";
        fmt::print("{}: worst {}{}, mean {}{}; {} of {} {} {}{}\n", mesh::measureName(measure),
                   readable(figures.worst, 3), unit, readable(figures.mean, 3), unit, figures.bad, figures.elements,
                   mesh::smallIsBad(measure) ? "below" : "above", readable(figures.limit), unit);
        std::size_t told = 0;
        for (const mesh::BadPlace& place : figures.places) {
            if (++told > 5) {
                fmt::print("    and at {} more places\n", figures.places.size() - 5);
                break;
            }
            fmt::print("    {} at a {} of \"{}\", face {}, worst {}{}\n", place.elements, place.what,
                       model->parts[place.part]->name, place.faces.front(), readable(place.worst, 3), unit);
        }
    }
    if (!wanted.out.empty())
        if (const auto written = mesh::writeMesh(*model, *trial, wanted.out); !written)
            return complain(written.error());
    if (input.json) print(json);
    return left > 0 ? Partly : Fine;
}

}  // namespace rasoir::cli
