#include "handover/report_pictures.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>

#include "common/tolerance.h"
#include "handover/picture.h"

namespace rasoir::handover {
namespace {

constexpr double deviation = 1e-3;  // of a part's size: finer than a pixel of these pictures

struct Changed {
    Marked before, after;
    std::map<std::size_t, std::size_t> faces;  // by part after: how many
};

/// What is gone and what is new by a lineage, in all places of the parts concerned; `marksChanged`: also what was
/// trimmed, grown or moved.
Changed changedBy(const std::vector<PartLineage>& lineage, const Model& before, const Model& after,
                  bool marksChanged = false) {
    std::map<std::size_t, std::set<int>> kept;  // by part before: faces that are, untouched, in some part after
    std::set<std::size_t> mentioned;
    Changed changed;
    std::map<std::size_t, std::set<int>> now;
    std::map<std::size_t, std::set<int>> keptAfter;
    for (const PartLineage& own : lineage) {
        if (own.part >= before.parts.size() || own.into >= after.parts.size()) continue;
        mentioned.insert(own.part);
        if (own.untouched) {
            for (int f = 1; f <= before.parts[own.part]->incidence().faceCount(); ++f) kept[own.part].insert(f);
            for (int f = 1; f <= after.parts[own.into]->incidence().faceCount(); ++f) keptAfter[own.into].insert(f);
            continue;
        }
        for (const Link& link : own.faces()) {
            if (marksChanged && link.changed) continue;
            kept[own.part].insert(link.before);
            keptAfter[own.into].insert(link.after);
        }
        now.try_emplace(own.into);
    }
    for (std::size_t o = 0; o < before.occurrences.size(); ++o) {
        const std::size_t p = before.occurrences[o].part;
        if (!mentioned.contains(p)) continue;
        for (int f = 1; f <= before.parts[p]->incidence().faceCount(); ++f)
            if (!kept[p].contains(f)) changed.before[o].insert(f);
    }
    for (std::size_t o = 0; o < after.occurrences.size(); ++o) {
        const std::size_t p = after.occurrences[o].part;
        if (!now.contains(p)) continue;
        for (int f = 1; f <= after.parts[p]->incidence().faceCount(); ++f)
            if (!keptAfter[p].contains(f)) changed.after[o].insert(f);
        changed.faces[p] += changed.after[o].size();
    }
    for (std::size_t o = 0; o < before.occurrences.size(); ++o) {
        // What only loses faces is changed as well: counted where the part went.
        const std::size_t p = before.occurrences[o].part;
        for (const PartLineage& own : lineage)
            if (own.part == p && now.contains(own.into)) changed.faces[own.into] += changed.before[o].size();
    }
    return changed;
}

std::vector<std::size_t> shownPlaces(const Model& model) {
    std::vector<std::size_t> shown;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (!model.occurrences[o].aside && !model.parts[model.occurrences[o].part]->shape.IsNull()) shown.push_back(o);
    return shown;
}

std::string figure(const Model& model, const std::vector<std::size_t>& places, const Sight& sight, int width,
                   int height, const Marked& marked, const char* caption, Progress& progress) {
    if (places.empty()) return {};
    const RayField field(model, places, deviation, progress);
    const auto png = pngOf(pictureOf(model, field, sight, width, height, marked));
    if (!png) return {};
    return fmt::format("<td><img width={} height={} alt=\"{}\" src=\"{}\"><br><span class=quiet>{}</span></td>", width,
                       height, caption, asDataUrl(*png), caption);
}

void addBoxes(const Model& model, const Marked& marked, std::size_t place, Bnd_Box& box) {
    const auto here = marked.find(place);
    if (here == marked.end()) return;
    const Part& part = *model.parts[model.occurrences[place].part];
    for (const int f : here->second) {
        Bnd_Box own;
        BRepBndLib::Add(part.incidence().face(f), own, false);
        if (!own.IsVoid()) box.Add(own.Transformed(model.occurrences[place].placement));
    }
}

}  // namespace

std::vector<NamedSight> sightsIn(const Json& views) {
    std::vector<NamedSight> sights;
    if (!views.is_object()) return sights;
    for (const auto& [name, camera] : views.items()) {
        try {
            const gp_Pnt eye(tripleFromJson(camera.at("eye_mm"))), at(tripleFromJson(camera.at("at_mm")));
            const gp_XYZ up = tripleFromJson(camera.at("up"));
            const double height = camera.at("scale_mm").get<double>();
            const gp_Vec along(eye, at);
            if (!(height > 0.0) || !std::isfinite(height) || along.Magnitude() < Tolerance::noLength ||
                up.Modulus() < Tolerance::noLength)
                continue;
            Sight sight{gp_Dir(along), gp_Dir(up), at, height};
            if (!sight.along.IsParallel(sight.up, Tolerance::sameDirection)) sights.push_back({name, sight});
        } catch (const std::exception&) {
            continue;  // a camera that was damaged is no view
        }
    }
    return sights;
}

std::string picturesOf(const Work& work, Progress& progress, const std::optional<Sight>& from) {
    const Model &before = work.received(), &after = work.current();
    const Changed changed = changedBy(work.lineageOf(work.ledger().steps.size()), before, after);
    constexpr int width = 380, height = 285;
    const Sight sight = from ? *from : sightOf(before, width, height);
    const std::string left =
        figure(before, shownPlaces(before), sight, width, height, changed.before, "as received", progress);
    const std::string right = figure(after, shownPlaces(after), sight, width, height, changed.after, "now", progress);
    return left.empty() && right.empty() ? std::string() : "<table><tr>" + left + right + "</tr></table>\n";
}

std::string closeUpOf(const Work& work, std::size_t step, Progress& progress) {
    const std::vector<PartLineage>* lineage = work.lineageOfStep(step);
    if (lineage == nullptr) return {};
    const Model &before = work.modelAfter(step), &after = work.modelAfter(step + 1);
    Changed changed = changedBy(*lineage, before, after);
    // A step that neither takes nor makes a face has moved some: then those are what it is about.
    const bool none =
        std::all_of(changed.faces.begin(), changed.faces.end(), [](const auto& one) { return one.second == 0; });
    if (none) changed = changedBy(*lineage, before, after, true);
    const auto most = std::max_element(changed.faces.begin(), changed.faces.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    if (most == changed.faces.end() || most->second == 0) return {};
    const auto placeOf = [](const Model& model, std::size_t part) -> std::optional<std::size_t> {
        for (std::size_t o = 0; o < model.occurrences.size(); ++o)
            if (model.occurrences[o].part == part && !model.occurrences[o].aside) return o;
        return std::nullopt;
    };
    const auto from = std::find_if(lineage->begin(), lineage->end(),
                                   [&most](const PartLineage& own) { return own.into == most->first; });
    const auto placeBefore = placeOf(before, from->part), placeAfter = placeOf(after, most->first);
    if (!placeBefore || !placeAfter) return {};
    Bnd_Box box;
    // Carried-on neighbours can reach all over a part: where what went is known, that alone says where to look.
    addBoxes(before, changed.before, *placeBefore, box);
    if (box.IsVoid()) addBoxes(after, changed.after, *placeAfter, box);
    if (box.IsVoid()) return {};
    constexpr int width = 300, height = 200;
    Sight sight = sightOf(before, width, height, box);
    gp_Vec facing;
    double skin = 0.0;
    const RayField field(before, {*placeBefore}, deviation, progress);
    for (const RayField::Triangle& triangle : field.triangles())
        if (changed.before[*placeBefore].contains(triangle.face)) {
            facing += triangle.normal * triangle.area;
            skin += triangle.area;
        }
    if (facing.Magnitude() > 0.2 * skin && skin > 0.0) {  // holes look to all sides: then the usual direction does
        const gp_Vec along = gp_Vec(sight.along) - 0.9 * facing.Normalized();
        // Shorter, the face looks along the picture's height and has no way across.
        if (along.Magnitude() > 1e-3) sight.along = gp_Dir(along);
        if (sight.along.IsParallel(sight.up, 0.2)) sight.up = gp_Dir(0, 1, 0);
    }
    box.Enlarge(0.1 * box.CornerMin().Distance(box.CornerMax()));
    fit(sight, box, width, height);
    const auto part = [](const Marked& marked, std::size_t place) {
        Marked only;
        if (const auto found = marked.find(place); found != marked.end()) only.insert(*found);
        return only;
    };
    return "<table><tr>" +
           figure(before, {*placeBefore}, sight, width, height, part(changed.before, *placeBefore), "before",
                  progress) +
           figure(after, {*placeAfter}, sight, width, height, part(changed.after, *placeAfter), "after", progress) +
           "</tr></table>";
}

}  // namespace rasoir::handover
