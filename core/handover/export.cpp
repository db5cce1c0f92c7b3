#include "handover/export.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <TopoDS.hxx>

#include "common/text.h"
#include "common/tolerance.h"
#include "exchange/groups.h"
#include "geometry/integrals.h"
#include "measure/facts.h"
#include "measure/frames.h"
#include "model/places.h"

// Places are put together again by what they measure, not by their order: a file lists them by assembly, a model as
// they came. Sorted by volume and area, those that could be one another stand beside each other; of these the nearest
// centre is taken.

namespace rasoir::handover {
namespace {

constexpr double exact = 1e-6;  // of a body's volume and area, and of the model's extent for centres

struct Standing {
    std::string name;
    double volume = 0.0, area = 0.0;
    gp_Pnt centre;
    double loose = 0.0;   // [mm^2] edges by their tolerances: what another reader may make of the skin beside them
    double extent = 0.0;  // [mm]
};

/// The skin beside edges is known to their tolerance alone. Those as fine as files write them are left out.
double looseSkinOf(const Part& part, double finest) {
    double sum = 0.0;
    for (int e = 1; e <= part.incidence().edgeCount(); ++e) {
        const TopoDS_Edge edge = part.incidence().edge(e);
        const double tolerance = BRep_Tool::Tolerance(edge);
        if (tolerance > finest && !BRep_Tool::Degenerated(edge)) sum += tolerance * lengthOf(edge);
    }
    return sum;
}

Result<std::vector<Standing>> standingIn(const Model& model, double& tolerance, Progress& progress) {
    const auto facts = measure::factsOfParts(model, false, progress);
    if (!facts) return tl::unexpected(facts.error());
    std::vector<Standing> all;
    std::vector<double> loose;
    for (const auto& part : model.parts)
        loose.push_back(part->shape.IsNull() ? 0.0 : looseSkinOf(*part, 10.0 * model.samePoint()));
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Occurrence& place = model.occurrences[o];
        if (place.aside || model.parts[place.part]->shape.IsNull()) continue;
        const measure::Facts& own = (*facts)[place.part];
        const double extent =
            gp_Pnt(own.low[0], own.low[1], own.low[2]).Distance(gp_Pnt(own.high[0], own.high[1], own.high[2]));
        all.push_back({placeName(model, o), own.volume, own.area, own.centre.Transformed(place.placement),
                       loose[place.part], extent});
        tolerance = std::max(tolerance, own.tolerance);
    }
    std::stable_sort(all.begin(), all.end(), [](const Standing& a, const Standing& b) {
        return std::tie(a.volume, a.area) > std::tie(b.volume, b.area);
    });
    return all;
}

Standing together(const std::vector<Standing>& all) {
    Standing sum{"everything", 0.0, 0.0, {}, 0.0, 0.0};
    gp_XYZ centre;
    double weight = 0.0;
    for (const Standing& one : all) {
        sum.volume += one.volume;
        sum.area += one.area;
        sum.loose += one.loose;
        sum.extent = std::max(sum.extent, one.extent);
        const double own = std::abs(one.volume) > 0.0 ? std::abs(one.volume) : one.area;
        centre += one.centre.XYZ() * own;
        weight += own;
    }
    if (weight > 0.0) sum.centre.SetXYZ(centre / weight);
    return sum;
}

/// What is in the file instead, as the end of a sentence.
std::string nearestOf(const Standing& out, const std::vector<Standing>& back, const std::vector<char>& taken) {
    const Standing* nearest = nullptr;
    for (std::size_t k = 0; k < back.size(); ++k)
        if (taken[k] == 0 &&
            (nearest == nullptr || back[k].centre.Distance(out.centre) < nearest->centre.Distance(out.centre)))
            nearest = &back[k];
    if (nearest == nullptr) return {};
    return fmt::format("; what lies nearest in it has {} mm³ and {} mm², its centre {} mm away",
                       readable(nearest->volume), readable(nearest->area),
                       readable(nearest->centre.Distance(out.centre)));
}

bool closeVolumes(const Standing& out, double read) {
    return std::abs(out.volume - read) <=
           exact * std::max(std::abs(out.volume), std::abs(read)) + out.loose * out.extent + Tolerance::divisible;
}
bool closeAreas(const Standing& out, double read) {
    return std::abs(out.area - read) <= exact * std::max(out.area, read) + 2.0 * out.loose + Tolerance::divisible;
}

/// Faces that bear a name, of their own or by a group, over all places that are not set aside.
struct NamedFaces {
    std::size_t faces = 0;
    double area = 0.0;
};
std::map<std::string, NamedFaces> namedFacesOf(const Model& model) {
    std::map<std::string, std::set<std::pair<std::size_t, int>>> found;  // by part
    for (const Group& group : model.groups)
        for (const Member& member : group.members)
            if (const auto p = model.partOf(member.part); p && member.entity.kind == EntityKind::Face)
                found[group.name].emplace(*p, member.entity.number);
    for (std::size_t p = 0; p < model.parts.size(); ++p)
        for (const auto& [thing, name] : model.parts[p]->known.names) {
            if (thing.kind != EntityKind::Face) continue;
            for (const std::string& one : exchange::namesIn(name)) found[one].emplace(p, thing.number);
        }
    std::vector<std::size_t> standing(model.parts.size());
    for (const Occurrence& place : model.occurrences) standing[place.part] += !place.aside;
    std::map<std::string, NamedFaces> named;
    for (const auto& [name, faces] : found)
        for (const auto& [p, face] : faces) {
            named[name].faces += standing[p];
            named[name].area += static_cast<double>(standing[p]) * areaOf(model.parts[p]->incidence().face(face));
        }
    return named;
}

/// What the file calls by the name of each group of faces. The geometry is right where a name is lacking, and stands in
/// the file beside it with its place: so that is told and refuses nothing.
void compareGroups(const Model& written, const Model& read, ExportProof& proof) {
    if (written.groups.empty()) return;
    const auto out = namedFacesOf(written), back = namedFacesOf(read);
    for (const Group& group : written.groups) {
        const auto own = out.find(group.name), other = back.find(group.name);
        if (own == out.end()) continue;  // no faces in it
        const NamedFaces found = other == back.end() ? NamedFaces() : other->second;
        proof.groups.push_back({group.name, own->second.faces, found.faces, own->second.area, found.area});
    }
}

}  // namespace

Result<ExportProof> proved(const Model& written, const Model& read, bool hasPlaces, Progress& progress) {
    ExportProof proof;
    double ignored = 0.0;
    auto out = standingIn(written, ignored, progress), back = standingIn(read, proof.widestTolerance, progress);
    if (!out) return tl::unexpected(out.error());
    if (!back) return tl::unexpected(back.error());
    if (!hasPlaces) {
        *out = {together(*out)};
        *back = {together(*back)};
    }
    double extent = 0.0;
    for (const Standing& one : *out)
        extent = std::max({extent, one.centre.Distance(out->front().centre), std::sqrt(one.area)});
    std::vector<char> taken(back->size(), 0);
    std::size_t first = 0;
    for (const Standing& one : *out) {
        while (first < back->size() && (*back)[first].volume > one.volume && !closeVolumes(one, (*back)[first].volume))
            ++first;
        std::optional<std::size_t> nearest;
        for (std::size_t k = first; k < back->size() && closeVolumes(one, (*back)[k].volume); ++k)
            if (!taken[k] && closeAreas(one, (*back)[k].area) &&
                (!nearest || one.centre.Distance((*back)[k].centre) < one.centre.Distance((*back)[*nearest].centre)))
                nearest = k;
        if (!nearest ||
            one.centre.Distance((*back)[*nearest].centre) >
                std::max(exact * extent, Tolerance::least) +
                    one.loose * one.extent * one.extent / std::max(std::abs(one.volume), Tolerance::divisible))
            return fail(ProblemKind::NotPossible,
                        fmt::format("What was written does not read back as it was: \"{}\" with {} mm³ and {} mm² is "
                                    "not in the file{}.",
                                    one.name, readable(one.volume), readable(one.area), nearestOf(one, *back, taken)),
                        "Nothing was replaced. See in Mend whether it is sound, or write it in another format.",
                        {one.name, {}, one.centre});
        taken[*nearest] = 1;
        const Standing& other = (*back)[*nearest];
        proof.bodies.push_back(
            {one.name, one.volume, other.volume, one.area, other.area, one.centre.Distance(other.centre)});
    }
    if (hasPlaces && back->size() != out->size())
        return fail(ProblemKind::NotPossible,
                    fmt::format("What was written does not read back as it was: {} went in, {} came out.",
                                counted(out->size(), "body", "bodies"), back->size()),
                    "Nothing was replaced. Write it in another format.");
    // Formats without places have no names either.
    if (hasPlaces) compareGroups(written, read, proof);
    return proof;
}

std::string ExportProof::told() const {
    double worst = 0.0;
    for (const Body& body : bodies)
        for (const auto& [a, b] : {std::pair{body.volume, body.volumeRead}, {body.area, body.areaRead}})
            if (std::abs(a) > 0.0) worst = std::max(worst, std::abs(a - b) / std::abs(a));
    std::string lacking;
    for (const Named& named : groups)
        if (!named.same())
            lacking += fmt::format("; the group \"{}\" has {} there instead of {}", named.group,
                                   counted(named.facesRead, "face"), named.faces);
    // What doubles can tell apart: "equal to 0" would claim too much.
    return fmt::format("{}{} read back and compared, equal to {:.0e}{}", counted(bodies.size(), "body", "bodies"),
                       groups.empty() ? std::string() : " and " + counted(groups.size(), "group"),
                       std::max(worst, 1e-15), lacking);
}

Json toJson(const ExportProof& proof) {
    Json json{{"widestTolerance_mm", proof.widestTolerance}, {"bodies", Json::array()}};
    for (const ExportProof::Body& body : proof.bodies)
        json["bodies"].push_back({{"place", body.place},
                                  {"volume_mm3", {body.volume, body.volumeRead}},
                                  {"area_mm2", {body.area, body.areaRead}},
                                  {"centresApart_mm", body.apart}});
    for (const ExportProof::Named& named : proof.groups)
        json["groups"].push_back({{"group", named.group},
                                  {"faces", {named.faces, named.facesRead}},
                                  {"area_mm2", {named.area, named.areaRead}}});
    return json;
}

namespace {

/// A name as a part of a file's: what paths do not like becomes an underscore.
std::string asFileName(std::string name) {
    for (char& letter : name)
        if (std::string_view("/\\:*?\"<>|").find(letter) != std::string_view::npos ||
            static_cast<unsigned char>(letter) < 32)
            letter = '_';
    return name.empty() ? "part" : name;
}

/// The model without what is not among the wanted places.
Model only(const Model& model, const std::set<std::size_t>& wanted) {
    Model some = model;
    for (std::size_t o = 0; o < some.occurrences.size(); ++o)
        if (!wanted.contains(o)) some.occurrences.change(o).aside = true;
    return some;
}

Result<std::string> exportOne(const Model& model, const std::filesystem::path& path, const ExportWanted& wanted,
                              Progress& progress) {
    if (wanted.unproven) {
        if (const auto written = exchange::writeFile(model, path, wanted.options, progress); !written)
            return tl::unexpected(written.error());
        return "not compared";
    }
    const auto proof = exportFile(model, path, wanted.options, progress);
    if (!proof) return tl::unexpected(proof.error());
    return proof->bodies.empty() ? std::string("a drawing, not compared") : proof->told();
}

}  // namespace

Result<std::vector<Exported>> exportAll(const Model& model, const ExportWanted& wanted, Progress& progress) {
    Model seen = model;
    if (!wanted.axes.empty()) {
        std::vector<std::string> names;
        std::optional<gp_Ax3> axes;
        for (const measure::Frame& frame : measure::framesOf(model)) {
            names.push_back(frame.name);
            if (frame.name == wanted.axes) axes = frame.axes;
        }
        if (!axes)
            return fail(ProblemKind::BadInput, fmt::format("There is no coordinate system \"{}\".", wanted.axes),
                        names.empty() ? std::string("Group a face, a hole or three vertices for that purpose first.")
                                      : fmt::format("There is \"{}\".", fmt::join(names, "\", \"")));
        seen = measure::seenIn(model, *axes);
    }
    std::vector<Exported> files;
    const auto write = [&](const std::set<std::size_t>& places, const std::filesystem::path& path) -> Result<void> {
        auto told = exportOne(only(seen, places), path, wanted, progress);
        if (!told) return tl::unexpected(told.error());
        files.push_back({path, std::move(*told)});
        return {};
    };
    if (!wanted.each) {
        if (auto done = write({wanted.places.begin(), wanted.places.end()}, wanted.path); !done)
            return tl::unexpected(done.error());
        return files;
    }
    std::map<std::size_t, std::size_t> firstPlace;  // by part
    for (const std::size_t o : wanted.places) firstPlace.emplace(model.occurrences[o].part, o);
    for (const auto& [part, place] : firstPlace) {
        std::filesystem::path path = wanted.path;
        path.replace_filename(path.stem().string() + " " + asFileName(model.parts[part]->name) +
                              path.extension().string());
        if (auto done = write({place}, path); !done) return tl::unexpected(done.error());
    }
    return files;
}

Result<ExportProof> exportFile(const Model& model, const std::filesystem::path& path, exchange::WriteOptions options,
                               Progress& progress) {
    ExportProof proof;
    options.proof = [&](const Model& written, const Model& read, bool hasPlaces) -> Result<void> {
        auto found = proved(written, read, hasPlaces, progress);
        if (!found) return tl::unexpected(found.error());
        proof = std::move(*found);
        return {};
    };
    if (auto done = exchange::writeFile(model, path, options, progress); !done) return tl::unexpected(done.error());
    return proof;
}

}  // namespace rasoir::handover
