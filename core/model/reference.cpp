#include "model/reference.h"

#include <fmt/format.h>

#include "geometry/integrals.h"
#include "geometry/round_surface.h"

namespace rasoir {
namespace {

bool sameFingerprint(const FaceRef& a, const FaceRef& b) {
    const double scale = std::sqrt(std::max(a.area, b.area));
    return a.surface == b.surface && std::abs(a.size - b.size) <= 1e-4 * std::max(a.size, b.size) + 1e-12 &&
           std::abs(a.area - b.area) <= 0.02 * std::max(a.area, b.area) && a.centre.Distance(b.centre) <= 0.02 * scale;
}

}  // namespace

FaceRef makeFaceRef(const Part& part, int face) {
    FaceRef reference;
    reference.part = part.name;
    reference.face = face;
    const TopoDS_Face shape = part.incidence().face(face);
    reference.surface = surfaceKindName(surfaceKind(shape));
    if (const auto round = roundSurface(shape)) reference.size = round->radius;
    const Skin skin = skinOf(shape);
    reference.area = skin.area;
    reference.centre = skin.centre;
    return reference;
}

Result<FoundFace> findFace(const Model& model, const FaceRef& reference) {
    std::vector<FoundFace> matches;
    bool partKnown = false;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (part.name != reference.part) continue;
        partKnown = true;
        const int count = part.incidence().faceCount();
        // The number is a hint: when it still fits, the search is over.
        if (reference.face >= 1 && reference.face <= count &&
            sameFingerprint(makeFaceRef(part, reference.face), reference))
            return FoundFace{p, reference.face};
        for (int f = 1; f <= count; ++f)
            if (surfaceKindName(surfaceKind(part.incidence().face(f))) == reference.surface &&
                sameFingerprint(makeFaceRef(part, f), reference))
                matches.push_back({p, f});
    }
    const std::string what =
        fmt::format("{} of {} mm² in part \"{}\"", reference.surface, readable(reference.area), reference.part);
    if (!partKnown)
        return fail(ProblemKind::NotPossible, fmt::format("There is no part \"{}\" here.", reference.part),
                    "Rename the part, or edit the step.", {reference.part, {}, reference.centre});
    if (matches.empty())
        return fail(ProblemKind::NotPossible, fmt::format("The face is not here any more: {}.", what), "Edit the step.",
                    {reference.part, {}, reference.centre});
    if (matches.size() > 1)
        return fail(ProblemKind::NotPossible, fmt::format("{} faces fit and one was meant: {}.", matches.size(), what),
                    "Pick the face again.", {reference.part, {}, reference.centre});
    return matches.front();
}

void to_json(Json& json, const FaceRef& reference) {
    json = Json{
        {"part", reference.part},       {"face", reference.face},
        {"surface", reference.surface}, {"area", reference.area},
        {"size", reference.size},       {"centre", {reference.centre.X(), reference.centre.Y(), reference.centre.Z()}}};
}

void from_json(const Json& json, FaceRef& reference) {
    json.at("part").get_to(reference.part);
    reference.face = json.value("face", 0);
    json.at("surface").get_to(reference.surface);
    json.at("area").get_to(reference.area);
    reference.size = json.value("size", 0.0);
    const auto centre = json.at("centre").get<std::vector<double>>();
    if (centre.size() != 3) throw std::invalid_argument("a centre needs three numbers");
    reference.centre = gp_Pnt(centre[0], centre[1], centre[2]);
}

Json toJson(const Problem& problem) {
    Json json{{"what", problem.what}};
    if (!problem.remedy.empty()) json["remedy"] = problem.remedy;
    if (!problem.where.part.empty()) json["part"] = problem.where.part;
    if (!problem.where.faces.empty()) json["faces"] = problem.where.faces;
    if (!problem.lacking.empty()) json["lacking"] = problem.lacking;
    if (problem.where.point)
        json["point"] = {problem.where.point->X(), problem.where.point->Y(), problem.where.point->Z()};
    return json;
}

}  // namespace rasoir
