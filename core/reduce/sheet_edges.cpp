#include "reduce/sheet_edges.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBndLib.hxx>
#include <TopoDS_Iterator.hxx>

#include "arrange/choice.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "mend/merge.h"
#include "model/on_purpose.h"
#include "model/places.h"
#include "reduce/sheet_growth.h"

// Both steps by hand name edges; these are put together by part, since what hangs together has to be remade together.
// How far an edge goes is asked for at five points of it, as for joining: rays along the sheet, against a plane in
// closed form.

namespace rasoir::reduce {
namespace {

constexpr std::array<double, 5> askedAt{0.0, 0.25, 0.5, 0.75, 1.0};
/// Of a part, by which triangles may be off: ends are told from skins by a tenth of the thickness.
constexpr double skinDeviation = 1e-4;

/// Where a part stands; the first of these decides for all.
std::vector<std::size_t> placesOf(const Model& model, std::size_t part) {
    std::vector<std::size_t> places;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (model.occurrences[o].part == part) places.push_back(o);
    return places;
}

/// The edges by part, each once. Refuses what is no free edge of a sheet.
Result<std::map<std::size_t, std::set<int>>> freeEdges(const Model& model, const std::vector<EntityRef>& edges) {
    if (edges.empty()) return fail(ProblemKind::BadInput, "No edge is named.", "Pick a free edge of a sheet.");
    std::map<std::size_t, std::set<int>> wanted;
    for (const EntityRef& edge : edges) {
        if (edge.entity.kind != EntityKind::Edge)
            return fail(ProblemKind::BadInput, "Only edges can be carried on or cut back.");
        const auto found = findEntity(model, edge);
        if (!found) return tl::unexpected(found.error());
        const Part& part = *model.parts[found->part];
        if (part.kind() != BodyKind::Sheet || part.incidence().facesAt(found->entity.number) != 1)
            return fail(ProblemKind::BadInput,
                        fmt::format("Edge {} of \"{}\" is no free edge of a sheet.", found->entity.number, part.name),
                        "Pick an edge that ends a sheet.", {part.name, {}, edge.at});
        wanted[found->part].insert(found->entity.number);
    }
    return wanted;
}

/// The solid that a part stands for, alone in a model, in the part's coordinates.
Result<Model> solidBehind(const Part& part) {
    if (!part.standsFor)
        return fail(ProblemKind::NotPossible, fmt::format("Of \"{}\" no solid is known that it stands for.", part.name),
                    "Name what is to be met, or give a plane.", {part.name, {}, {}});
    return aloneInPlace(part.standsFor);
}

/// Faces or bodies that a part is carried on to, or cut at, in its own coordinates. A plane goes on without end, so it
/// meets `faces` of the sheet alone: it would part all others that it crosses.
Result<std::vector<arrange::Input>> cuttersFor(const Model& model, std::size_t place,
                                               const std::optional<divide::Plane>& plane, bool outline,
                                               const std::vector<std::string>& names, const Bnd_Box& box,
                                               const std::set<int>& faces) {
    std::vector<arrange::Input> cutters;
    if (outline) {
        const auto solid = solidBehind(*model.parts[model.occurrences[place].part]);
        if (!solid) return tl::unexpected(solid.error());
        cutters.push_back({solid->parts[0]->shape, "the solid", faces});
        return cutters;
    }
    const gp_Trsf inverse = model.occurrences[place].placement.Inverted();
    if (plane) {
        const auto flat = divide::planeOf(*plane);
        if (!flat) return tl::unexpected(flat.error());
        const TopoDS_Face face = divide::faceAcross(flat->Transformed(inverse), box, model.samePoint());
        if (face.IsNull())
            return fail(ProblemKind::NotPossible, fmt::format("The plane misses \"{}\".", placeName(model, place)),
                        "Move the plane.");
        cutters.push_back({face, "the plane", faces});
        return cutters;
    }
    const auto others = placesNamed(model, names);
    if (!others) return tl::unexpected(others.error());
    for (const std::size_t other : *others) {
        if (other == place) continue;
        const Part& part = *model.parts[model.occurrences[other].part];
        if (part.shape.IsNull() || part.lump) continue;
        cutters.push_back(
            {part.shape.Moved(TopLoc_Location(inverse * model.occurrences[other].placement)), placeName(model, other)});
    }
    if (cutters.empty())
        return fail(ProblemKind::BadInput, "Nothing is named but the sheet itself.", "Name another sheet or a solid.");
    return cutters;
}

class Carrying {
public:
    Carrying(const Model& model, const CarryOn& step, Progress& progress)
        : m_model(model), m_step(step), m_progress(progress), m_tolerance(model.samePoint()) {}

    Result<Outcome> run() {
        if ((m_step.by != 0.0) + m_step.plane.has_value() + !m_step.to.empty() + m_step.outline != 1)
            return fail(ProblemKind::BadInput,
                        "Say how far by one of: a length, a plane, something to meet, the solid's outline.");
        if (!std::isfinite(m_step.by) || (m_step.by != 0.0 && m_step.by < 10.0 * m_tolerance))
            return fail(ProblemKind::BadInput, "That is no length by which an edge could be carried on.");
        const auto wanted = freeEdges(m_model, m_step.edges);
        if (!wanted) return tl::unexpected(wanted.error());
        if (!m_step.to.empty()) {
            const auto others = placesNamed(m_model, m_step.to);
            if (!others) return tl::unexpected(others.error());
            // Of a part, by which triangles may be off: ends are told from skins by a tenth of the thickness.
            m_rays.emplace(m_model, *others, skinDeviation, m_progress);
        }
        Outcome outcome;
        outcome.model = m_model;
        std::size_t edges = 0;
        for (const auto& [p, numbers] : *wanted) {
            const auto places = placesOf(m_model, p);
            if (places.empty()) continue;
            auto regrown = grow(p, places.front(), numbers);
            if (!regrown) return tl::unexpected(regrown.error());
            const Part& part = *m_model.parts[p];
            outcome.items.push_back({fmt::format("\"{}\": {} carried on by {} mm, area {} to {} mm²", part.name,
                                                 counted(numbers.size(), "edge"), readable(m_farthest),
                                                 readable(areaOf(part.shape)), readable(areaOf(regrown->shape))),
                                     true,
                                     {},
                                     m_farthest});
            if (places.size() > 1 && m_step.by == 0.0)
                outcome.notes.push_back(
                    fmt::format("All {} places of \"{}\" are as their first one asked for.", places.size(), part.name));
            replaceIn(outcome, p, *regrown, places);
            edges += numbers.size();
        }
        outcome.summary = fmt::format("Carry {} on", counted(edges, "edge"));
        m_progress.report(1.0, outcome.summary);
        return outcome;
    }

private:
    const Model& m_model;
    const CarryOn& m_step;
    Progress& m_progress;
    double m_tolerance;
    std::optional<RayField> m_rays;
    double m_farthest = 0.0;

    /// How far it is from a point along the sheet, model coordinates; less than zero where nothing is met.
    [[nodiscard]] double farFrom(const gp_Pnt& point, const gp_Dir& out) const {
        if (m_step.by > 0.0) return m_step.by;
        if (m_step.plane) {
            const gp_Pln plane = *divide::planeOf(*m_step.plane);
            const double lean = gp_Vec(out).Dot(gp_Vec(plane.Axis().Direction()));
            // Steeper than about a degree to the plane it would go on for ever.
            if (std::abs(lean) < 0.02) return -1.0;
            return gp_Vec(point, plane.Location()).Dot(gp_Vec(plane.Axis().Direction())) / lean;
        }
        const auto hit = m_rays->first(point, out, 10.0 * m_tolerance);
        if (!m_step.outline) return hit ? hit->distance : -1.0;
        // Out of the solid through its skin; a point on the skin has none ahead of it, or another wall's.
        return hit && hit->normal.Dot(gp_Vec(out)) > 0.0 ? hit->distance : 0.0;
    }

    Result<Regrown> grow(std::size_t p, std::size_t place, const std::set<int>& numbers) {
        const Part& part = *m_model.parts[p];
        const Incidence& topology = part.incidence();
        const gp_Trsf& placement = m_model.occurrences[place].placement;
        std::vector<GrowingEdge> edges;
        m_farthest = 0.0;
        if (m_step.outline) {
            const auto solid = solidBehind(part);
            if (!solid) return tl::unexpected(solid.error());
            m_rays.emplace(*solid, std::vector<std::size_t>{}, skinDeviation, m_progress);
        }
        for (const int number : numbers) {
            const int face = topology.usesOf(number).front().face;
            const BRepAdaptor_Curve curve(topology.edge(number));
            GrowingEdge edge{number, face, {}, 0.0};
            for (const double share : askedAt) {
                gp_Pnt at;
                // At the very ends the direction may be none, and a ray run along a neighbour.
                const double within = 0.001 + 0.998 * share;
                const double parameter =
                    curve.FirstParameter() + within * (curve.LastParameter() - curve.FirstParameter());
                const gp_Vec out = outAlong(topology, face, number, parameter, at);
                // The solid stands in the part's coordinates, all else in the model's.
                const gp_Trsf into = m_step.outline ? gp_Trsf() : placement;
                const double far =
                    out.SquareMagnitude() < 0.5 ? -1.0 : farFrom(at.Transformed(into), gp_Dir(out).Transformed(into));
                if (far < 0.0)
                    return fail(ProblemKind::NotPossible,
                                fmt::format("Edge {} of \"{}\" meets nothing there, carried on from this point.",
                                            number, part.name),
                                "Choose another edge or another end, or give a length.", {part.name, {face}, at});
                if (share == 0.5) edge.out = out;
                m_farthest = std::max(m_farthest, far);
                edge.reach = std::max(edge.reach, far);
            }
            if (edge.reach <= m_tolerance)
                return fail(ProblemKind::NothingToDo,
                            fmt::format("Edge {} of \"{}\" lies there already.", number, part.name));
            if (m_step.by == 0.0) edge.reach = 1.5 * edge.reach + 100.0 * m_tolerance;
            edges.push_back(edge);
        }
        const std::size_t asked = edges.size();
        auto grown = grownPast(part, edges, jointEdgesOf(m_model, p), m_tolerance, m_progress);
        if (!grown) return tl::unexpected(grown.error());
        if (edges.size() < asked) {
            for (const int number : numbers)
                if (std::none_of(edges.begin(), edges.end(), [&](const GrowingEdge& e) { return e.edge == number; }))
                    return fail(ProblemKind::NotPossible,
                                fmt::format("Edge {} of \"{}\" cannot be carried on: flat faces grow at any open edge, "
                                            "round ones at circles and straight lines.",
                                            number, part.name),
                                "Leave it out, or make a face there in Mend.",
                                {part.name,
                                 {topology.usesOf(number).front().face},
                                 makeRef(part, {EntityKind::Edge, number}).at});
        }
        if (m_step.by > 0.0) return grown;
        Bnd_Box box;
        BRepBndLib::Add(grown->shape, box, false);
        std::set<int> grownFaces;
        for (const Link& link : grown->lineage.faces())
            if (std::any_of(edges.begin(), edges.end(), [&](const GrowingEdge& e) { return e.face == link.before; }))
                grownFaces.insert(link.after);
        const auto cutters = cuttersFor(m_model, place, m_step.plane, m_step.outline, m_step.to, box, grownFaces);
        if (!cutters) return tl::unexpected(cutters.error());
        return cutBackTo(part, *grown, *cutters, m_tolerance, m_progress);
    }
};

/// A sheet without some pieces. Inner edges that it had stay, but for `needless` ones, and edges `joined` to others;
/// what cutters have made beside what was dropped goes.
Result<Regrown> leftOf(const Part& part, const arrange::Arrangement& all, const std::set<int>& dropped,
                       const std::set<int>& needless, const std::set<int>& joined, double tolerance,
                       Progress& progress) {
    auto pieces = arrange::piecesOf(all, 0);
    std::erase_if(pieces, [&](const std::pair<int, bool>& one) { return dropped.contains(one.first); });
    if (pieces.empty())
        return fail(ProblemKind::NotPossible, fmt::format("Nothing of \"{}\" would be left.", part.name));
    auto chosen = arrange::sheetOf(all, pieces);
    if (!chosen) return tl::unexpected(chosen.error());
    Regrown left{chosen->shape, chosen->lineage.at(0)};
    std::set<Entity> kept;
    const Incidence now(left.shape);
    for (const Link& link : left.lineage.edges())
        if (!needless.contains(link.before) && part.incidence().facesAt(link.before) > 1)
            kept.insert({EntityKind::Edge, link.after});
    // Where a cut ended on an edge, that edge is one again, and so is what was parted by a corner that has gone.
    const std::set<int> onTheWay = verticesOnTheWay(part.incidence());
    for (const Link& link : left.lineage.of(EntityKind::Vertex))
        if (onTheWay.contains(link.before)) kept.insert({EntityKind::Vertex, link.after});
    for (const Link& link : left.lineage.edges())
        if (joined.contains(link.before))
            for (TopoDS_Iterator end(now.edge(link.after)); end.More(); end.Next())
                kept.insert({EntityKind::Vertex, now.vertexNumber(end.Value())});
    auto fresh = part.copy();
    fresh->setShape(left.shape);
    fresh->known = {};
    fresh->inherit(part, left.lineage, gp_Trsf());
    const std::set<Entity> meant = partedOnPurpose(*fresh);
    kept.insert(meant.begin(), meant.end());
    auto merged = mend::mergeNeedless(left.shape, tolerance, progress, kept, true);
    if (!merged) return tl::unexpected(merged.error());
    if (!merged->shape.IsNull()) {
        left.lineage = chained(left.lineage, merged->lineage);
        left.shape = merged->shape;
    }
    return left;
}

/// What a cutter leaves of a sheet without the pieces that some of its edges belong to.
Result<Regrown> withoutWhatSticksOut(const Part& part, const std::set<int>& numbers,
                                     std::vector<arrange::Input> cutters, const std::set<int>& joined, double tolerance,
                                     Progress& progress) {
    cutters.insert(cutters.begin(), {part.shape, part.name});
    const auto all = arrange::arrange(std::move(cutters), tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    std::map<int, std::set<int>> piecesAt;  // by edge
    for (std::size_t p = 0; p < all->pieces.size(); ++p)
        for (const arrange::Use& use : all->pieces[p].uses)
            for (const arrange::Owner& owner : all->arcs[static_cast<std::size_t>(use.arc)].owners)
                if (owner.input == 0 && numbers.contains(owner.number))
                    piecesAt[owner.number].insert(static_cast<int>(p));
    std::set<int> dropped;
    for (const int number : numbers) {
        const Place where{
            part.name, {part.incidence().usesOf(number).front().face}, makeRef(part, {EntityKind::Edge, number}).at};
        const std::set<int>& pieces = piecesAt[number];
        if (pieces.size() > 1)
            return fail(ProblemKind::NotPossible,
                        fmt::format("The cut crosses edge {} of \"{}\" itself: what sticks out there is not clear.",
                                    number, part.name),
                        "Choose an edge that lies wholly beyond the cut.", where);
        for (const int piece : pieces) {
            if (all->pieces[static_cast<std::size_t>(piece)].whole)
                return fail(ProblemKind::NotPossible,
                            fmt::format("The cut leaves the face at edge {} of \"{}\" whole.", number, part.name),
                            "Move the cut, or choose another edge.", where);
            dropped.insert(piece);
        }
    }
    return leftOf(part, *all, dropped, {}, joined, tolerance, progress);
}

/// What is left of a sheet without the faces at these edges, which hang over beyond a joint.
Result<Regrown> withoutLips(const Part& part, const std::set<int>& numbers, const std::set<int>& jointEdges,
                            double tolerance, Progress& progress) {
    const Incidence& topology = part.incidence();
    std::set<int> faces, joints;
    for (const int number : numbers) {
        const int face = topology.usesOf(number).front().face;
        std::set<int> own;
        for (const int e : topology.edgesOf(face))
            if (topology.facesAt(e) > 2 || jointEdges.contains(e)) own.insert(e);
        if (own.empty())
            return fail(ProblemKind::NotPossible,
                        fmt::format("The face at edge {} of \"{}\" hangs on no joint, beyond which it could be a lip.",
                                    number, part.name),
                        "Cut it at a plane, or at what it crosses.",
                        {part.name, {face}, makeRef(part, {EntityKind::Edge, number}).at});
        faces.insert(face);
        joints.insert(own.begin(), own.end());
    }
    const auto all = arrange::arrange({{part.shape, part.name}}, tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    std::set<int> dropped;
    for (const auto& [piece, turned] : arrange::piecesOf(*all, 0))
        for (const arrange::Owner& owner : all->pieces[static_cast<std::size_t>(piece)].owners)
            if (owner.input == 0 && faces.contains(owner.number)) dropped.insert(piece);
    // Where others are joined at the same line, it stays.
    std::erase_if(joints, [&](int e) { return jointEdges.contains(e); });
    return leftOf(part, *all, dropped, joints, jointEdges, tolerance, progress);
}

const ParameterInfo edgesInfo{"edges", "list of edge references", "", "Free edges of sheets.", Json::array()};

}  // namespace

std::vector<ParameterInfo> CarryOn::infos() {
    return {edgesInfo,
            {"by", "number", "mm", "How far.", 0.0},
            {"plane", "any", "", R"(Up to this plane: {"through": [x, y, z], "normal": [x, y, z]}.)", nullptr},
            {"to", "list of names", "", "Up to these parts or places: sheets, or the skins of solids.", Json::array()},
            {"outline", "yes or no", "", "Up to the skin of the solid that the sheet stands for.", false}};
}
void to_json(Json& json, const CarryOn& step) {
    json = Json{{"edges", step.edges}};
    if (step.by != 0.0) json["by"] = step.by;
    if (step.plane) json["plane"] = *step.plane;
    if (!step.to.empty()) json["to"] = step.to;
    if (step.outline) json["outline"] = true;
}
void from_json(const Json& json, CarryOn& step) {
    step.edges = json.value("edges", std::vector<EntityRef>{});
    step.by = json.value("by", 0.0);
    if (divide::given(json, "plane")) step.plane = json.at("plane").get<divide::Plane>();
    step.to = json.value("to", std::vector<std::string>{});
    step.outline = json.value("outline", false);
}
Result<Outcome> carryOn(const Model& model, const CarryOn& step, Progress& progress) {
    if (step.plane)
        if (const auto plane = divide::planeOf(*step.plane); !plane) return tl::unexpected(plane.error());
    return Carrying(model, step, progress).run();
}

std::vector<ParameterInfo> CutBack::infos() {
    return {edgesInfo,
            {"plane", "any", "", R"(At this plane: {"through": [x, y, z], "normal": [x, y, z]}.)", nullptr},
            {"at", "list of names", "", "At these parts or places: sheets, or the skins of solids.", Json::array()},
            {"outline", "yes or no", "", "At the skin of the solid that the sheet stands for.", false},
            {"lips", "yes or no", "", "The whole faces at those edges go: they hang over beyond a joint.", false}};
}
void to_json(Json& json, const CutBack& step) {
    json = Json{{"edges", step.edges}};
    if (step.plane) json["plane"] = *step.plane;
    if (!step.at.empty()) json["at"] = step.at;
    if (step.outline) json["outline"] = true;
    if (step.lips) json["lips"] = true;
}
void from_json(const Json& json, CutBack& step) {
    step.edges = json.value("edges", std::vector<EntityRef>{});
    if (divide::given(json, "plane")) step.plane = json.at("plane").get<divide::Plane>();
    step.at = json.value("at", std::vector<std::string>{});
    step.outline = json.value("outline", false);
    step.lips = json.value("lips", false);
}
Result<Outcome> cutBack(const Model& model, const CutBack& step, Progress& progress) {
    if (step.plane.has_value() + !step.at.empty() + step.outline + step.lips != 1)
        return fail(ProblemKind::BadInput,
                    "Say where to cut by one of: a plane, something that is met, the solid's outline, lips.");
    const auto wanted = freeEdges(model, step.edges);
    if (!wanted) return tl::unexpected(wanted.error());
    Outcome outcome;
    outcome.model = model;
    std::size_t edges = 0;
    for (const auto& [p, numbers] : *wanted) {
        const auto places = placesOf(model, p);
        if (places.empty()) continue;
        const Part& part = *model.parts[p];
        Bnd_Box box;
        BRepBndLib::Add(part.shape, box, false);
        std::set<int> faces;
        for (const int number : numbers) faces.insert(part.incidence().usesOf(number).front().face);
        const auto without = [&]() -> Result<Regrown> {
            if (step.lips) return withoutLips(part, numbers, jointEdgesOf(model, p), model.samePoint(), progress);
            const auto cutters = cuttersFor(model, places.front(), step.plane, step.outline, step.at, box, faces);
            if (!cutters) return tl::unexpected(cutters.error());
            return withoutWhatSticksOut(part, numbers, *cutters, jointEdgesOf(model, p), model.samePoint(), progress);
        };
        const auto cut = without();
        if (!cut) return tl::unexpected(cut.error());
        outcome.items.push_back(
            {fmt::format("\"{}\": {} cut back, area {} to {} mm²", part.name, counted(numbers.size(), "edge"),
                         readable(areaOf(part.shape)), readable(areaOf(cut->shape))),
             true,
             {},
             0.0});
        if (places.size() > 1)
            outcome.notes.push_back(
                fmt::format("All {} places of \"{}\" are as their first one asked for.", places.size(), part.name));
        replaceIn(outcome, p, *cut, places);
        edges += numbers.size();
    }
    outcome.summary = fmt::format("Cut {} back", counted(edges, "edge"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

std::vector<ParameterInfo> SetThickness::infos() {
    return {{"faces", "list of face references", "", "Faces of sheets.", Json::array()},
            {"parts", "list of names", "", "Sheets all of whose faces are meant, names or patterns.", Json::array()},
            {"thickness", "any", "mm", "Of the wall; left out: as it is.", nullptr},
            {"position", "word", "",
             "middle, above or below: where the wall lies as seen along the face's normal; empty: as it is.", ""}};
}
void to_json(Json& json, const SetThickness& step) {
    json = Json::object();
    if (!step.faces.empty()) json["faces"] = step.faces;
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (step.thickness) json["thickness"] = *step.thickness;
    if (!step.position.empty()) json["position"] = step.position;
}
void from_json(const Json& json, SetThickness& step) {
    step.faces = json.value("faces", std::vector<FaceRef>{});
    step.parts = json.value("parts", std::vector<std::string>{});
    if (divide::given(json, "thickness") || (json.contains("thickness") && json.at("thickness").is_number()))
        step.thickness = json.at("thickness").get<double>();
    step.position = json.value("position", std::string());
}
Result<Outcome> setThickness(const Model& model, const SetThickness& step, Progress& progress) {
    if (!step.thickness && step.position.empty())
        return fail(ProblemKind::BadInput, "Neither a thickness nor a position is given.");
    if (step.thickness && (!std::isfinite(*step.thickness) || *step.thickness < 10.0 * model.samePoint()))
        return fail(ProblemKind::BadInput, "That is no thickness that a wall could have.");
    static const std::map<std::string, double> positions{{"", 0.0}, {"middle", 0.0}, {"above", 0.5}, {"below", -0.5}};
    const auto position = positions.find(step.position);
    if (position == positions.end())
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is no position of a sheet.", step.position),
                    "Say middle, above or below.");
    std::map<std::size_t, std::set<int>> wanted;
    for (const FaceRef& face : step.faces) {
        const auto found = findFace(model, face);
        if (!found) return tl::unexpected(found.error());
        wanted[found->part].insert(found->face);
    }
    if (!step.parts.empty()) {
        const auto parts = partsNamed(model, step.parts);
        if (!parts) return tl::unexpected(parts.error());
        for (const std::size_t p : *parts)
            for (int f = 1; f <= model.parts[p]->incidence().faceCount(); ++f) wanted[p].insert(f);
    }
    if (wanted.empty()) return fail(ProblemKind::BadInput, "No face is named.", "Pick faces of sheets.");
    Outcome outcome;
    outcome.model = model;
    std::size_t count = 0;
    for (const auto& [p, faces] : wanted) {
        const Part& part = *model.parts[p];
        if (part.kind() != BodyKind::Sheet)
            return fail(ProblemKind::BadInput,
                        fmt::format("\"{}\" is no sheet: its faces have no thickness.", part.name),
                        "Pick faces of sheets.", {part.name, {*faces.begin()}, {}});
        auto fresh = part.copy();
        for (const int f : faces) {
            const auto known = part.known.thickness.find({EntityKind::Face, f});
            Thickness value = known == part.known.thickness.end() ? Thickness() : known->second;
            if (step.thickness) {
                // The same share of the wall lies on either side as before.
                const double share = value.at > 0.0 ? value.offset / value.at : 0.0;
                value.at = *step.thickness;
                value.gradient = {};
                value.offset = share * value.at;
            }
            if (value.at <= 0.0)
                return fail(ProblemKind::BadInput, fmt::format("Face {} of \"{}\" has no thickness yet.", f, part.name),
                            "Give its thickness too.", {part.name, {f}, {}});
            if (!step.position.empty()) value.offset = position->second * value.at;
            fresh->known.thickness[{EntityKind::Face, f}] = value;
            ++count;
        }
        outcome.items.push_back({fmt::format("\"{}\": {}", part.name, counted(faces.size(), "face")),
                                 true,
                                 {},
                                 step.thickness.value_or(0.0)});
        outcome.model.parts[p] = std::move(fresh);
    }
    outcome.summary = step.thickness
                          ? fmt::format("Make {} {} mm thick", counted(count, "face"), readable(*step.thickness))
                          : fmt::format("Lay {} {}", counted(count, "wall"), step.position);
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::reduce
