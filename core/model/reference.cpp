#include "model/reference.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <TopoDS.hxx>

#include "geometry/integrals.h"
#include "geometry/round_surface.h"

namespace rasoir {
namespace {

constexpr double slack = 0.02;  // of area, and of its root for the centre

/// Whether a thing's middle can be there at all: asked of its box, so that a reference that fits nothing does not cost
/// an integral over every face.
bool mayLieIn(const TopoDS_Shape& shape, const gp_Pnt& middle, double reach) {
    Bnd_Box box;
    BRepBndLib::Add(shape, box, true);
    if (box.IsVoid()) return false;
    box.Enlarge(reach);
    return !box.IsOut(middle);
}

/// The parts that a reference may mean: those of its name and what they were split into, which bears the name and a
/// word behind a comma. Where there is none, the part of its id, which may have been renamed since.
std::vector<std::size_t> partsMeant(const Model& model, const std::string& name, PartId id) {
    std::vector<std::size_t> own, pieces;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (model.parts[p]->name == name) own.push_back(p);
        if (model.parts[p]->name.starts_with(name + ", ")) pieces.push_back(p);
    }
    own.insert(own.end(), pieces.begin(), pieces.end());
    if (const auto known = id == 0 ? std::nullopt : model.partOf(id); own.empty() && known) return {*known};
    return own;
}

bool sameFingerprint(const FaceRef& a, const FaceRef& b) {
    const double scale = std::sqrt(std::max(a.area, b.area));
    // A size is rounded to be read, and a revision may have rounded it otherwise.
    return a.surface == b.surface && std::abs(a.size - b.size) <= 1e-4 * std::max(a.size, b.size) + 1e-12 &&
           std::abs(a.area - b.area) <= slack * std::max(a.area, b.area) &&
           a.centre.Distance(b.centre) <= slack * scale;
}

}  // namespace

FaceRef makeFaceRef(const Part& part, int face) {
    FaceRef reference;
    reference.part = part.name;
    reference.id = part.id;
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
    const auto meant = partsMeant(model, reference.part, reference.id);
    for (const std::size_t p : meant) {
        const Part& part = *model.parts[p];
        const int count = part.incidence().faceCount();
        // The number is a hint: when it still fits, the search is over.
        if (reference.face >= 1 && reference.face <= count &&
            sameFingerprint(makeFaceRef(part, reference.face), reference))
            return FoundFace{p, reference.face};
        for (int f = 1; f <= count; ++f) {
            const TopoDS_Face face = part.incidence().face(f);
            if (surfaceKindName(surfaceKind(face)) == reference.surface &&
                mayLieIn(face, reference.centre, slack * std::sqrt(reference.area)) &&
                sameFingerprint(makeFaceRef(part, f), reference))
                matches.push_back({p, f});
        }
    }
    const std::string what =
        fmt::format("{} of {} mm² in part \"{}\"", reference.surface, readable(reference.area), reference.part);
    if (meant.empty())
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
    if (reference.id != 0) json["id"] = reference.id;
}

void from_json(const Json& json, FaceRef& reference) {
    json.at("part").get_to(reference.part);
    reference.id = json.value("id", PartId{0});
    reference.face = json.value("face", 0);
    json.at("surface").get_to(reference.surface);
    json.at("area").get_to(reference.area);
    reference.size = json.value("size", 0.0);
    const auto centre = json.at("centre").get<std::vector<double>>();
    if (centre.size() != 3) throw std::invalid_argument("a centre needs three numbers");
    reference.centre = gp_Pnt(centre[0], centre[1], centre[2]);
}

namespace {

int countOf(const Incidence& topology, EntityKind kind) {
    switch (kind) {
        case EntityKind::Body:
            return topology.bodyCount();
        case EntityKind::Face:
            return topology.faceCount();
        case EntityKind::Edge:
            return topology.edgeCount();
        case EntityKind::Vertex:
            return topology.vertexCount();
    }
    return 0;
}

/// How far the point of a thing may have moved and it still be the same.
double slackOf(const EntityRef& reference, double partSize) {
    switch (reference.entity.kind) {
        case EntityKind::Body:
            return 0.01 * std::cbrt(std::abs(reference.measure));
        case EntityKind::Face:
            return 0.01 * std::sqrt(reference.measure);
        case EntityKind::Edge:
            return 0.01 * reference.measure;
        case EntityKind::Vertex:
            return 0.001 * partSize;
    }
    return 0.0;
}

}  // namespace

EntityRef makeRef(const Part& part, const Entity& entity) {
    EntityRef reference{part.name, part.id, entity, gp_Pnt(), 0.0};
    const Incidence& topology = part.incidence();
    switch (entity.kind) {
        case EntityKind::Body: {
            const TopoDS_Shape body = topology.body(entity.number);
            reference.at = skinOf(body).centre;
            reference.measure = body.ShapeType() == TopAbs_SOLID ? volumeOf(body) : areaOf(body);
            break;
        }
        case EntityKind::Face: {
            const Skin skin = skinOf(topology.face(entity.number));
            reference.at = skin.centre;
            reference.measure = skin.area;
            break;
        }
        case EntityKind::Edge: {
            const TopoDS_Edge edge = topology.edge(entity.number);
            double first = 0.0, last = 0.0;
            const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
            if (!curve.IsNull()) {
                reference.at = curve->Value(0.5 * (first + last));
                reference.measure = lengthOf(edge);
            }
            break;
        }
        case EntityKind::Vertex:
            reference.at = BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(entity.number)));
            break;
    }
    return reference;
}

Result<FoundEntity> findEntity(const Model& model, const EntityRef& reference) {
    std::optional<FoundEntity> best;
    double nearest = 0.0;
    const auto meant = partsMeant(model, reference.part, reference.id);
    for (const std::size_t p : meant) {
        const Part& part = *model.parts[p];
        const bool itself = part.name == reference.part || (reference.id != 0 && part.id == reference.id);
        const Incidence& topology = part.incidence();
        const int count = countOf(topology, reference.entity.kind);
        const double reach = slackOf(reference, 1000.0);
        const auto fits = [&](int number) -> std::optional<double> {
            const bool extended =
                reference.entity.kind == EntityKind::Face || reference.entity.kind == EntityKind::Edge;
            if (extended && !mayLieIn(reference.entity.kind == EntityKind::Face ? TopoDS_Shape(topology.face(number))
                                                                                : topology.edge(number),
                                      reference.at, reach))
                return std::nullopt;
            const EntityRef own = makeRef(part, {reference.entity.kind, number});
            const double off = own.at.Distance(reference.at);
            if (off > reach || std::abs(own.measure - reference.measure) > 0.01 * std::abs(reference.measure))
                return std::nullopt;
            return off;
        };
        if (itself && reference.entity.number >= 1 && reference.entity.number <= count && fits(reference.entity.number))
            return FoundEntity{p, reference.entity};
        for (int n = 1; n <= count; ++n) {
            const auto off = fits(n);
            if (!off || (best && *off >= nearest)) continue;
            best = FoundEntity{p, {reference.entity.kind, n}};
            nearest = *off;
        }
    }
    if (best) return *best;
    if (meant.empty())
        return fail(ProblemKind::NotPossible, fmt::format("There is no part \"{}\" here.", reference.part),
                    "Rename the part, or edit the step.", {reference.part, {}, reference.at});
    return fail(
        ProblemKind::NotPossible,
        fmt::format("The {} at {}, {}, {} of \"{}\" is not here any more.", entityKindName(reference.entity.kind),
                    readable(reference.at.X()), readable(reference.at.Y()), readable(reference.at.Z()), reference.part),
        "Pick it again, or edit the step.", {reference.part, {}, reference.at});
}

void to_json(Json& json, const EntityRef& reference) {
    json = Json{{"part", reference.part},
                {"kind", entityKindName(reference.entity.kind)},
                {"number", reference.entity.number},
                {"at", {reference.at.X(), reference.at.Y(), reference.at.Z()}},
                {"measure", reference.measure}};
    if (reference.id != 0) json["id"] = reference.id;
    if (!reference.place.empty()) json["place"] = reference.place;
}

void from_json(const Json& json, EntityRef& reference) {
    json.at("part").get_to(reference.part);
    const auto kind = entityKindFromName(json.at("kind").get<std::string>());
    if (!kind) throw std::invalid_argument("a kind is not body, face, edge or vertex");
    reference.entity = {*kind, json.value("number", 0)};
    reference.at.SetXYZ(tripleFromJson(json.at("at")));
    reference.measure = json.value("measure", 0.0);
    reference.id = json.value("id", PartId{0});
    reference.place = json.value("place", "");
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
