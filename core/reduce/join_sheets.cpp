#include "reduce/join_sheets.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBndLib.hxx>
#include <BRepClass_FaceClassifier.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <TopoDS.hxx>

#include "arrange/choice.h"
#include "divide/cutters.h"
#include "geometry/ray_field.h"
#include "join/contacts.h"
#include "join/pairs.h"
#include "model/on_purpose.h"
#include "model/places.h"
#include "reduce/sheet_growth.h"
#include "topology/edge_angle.h"

// 1. Rays from five points of each free edge, along its sheet, tell which edges end before another sheet, and how far.
// 2. A sheet grows past each such edge, by somewhat more than it is to there (sheet_growth.h).
// 3. What has grown is cut back to the sheets it was grown to.
// 4. A line that ends within the face it lies on parts no face, and would be no edge of it. So that face is parted
// along
//    the line carried on to its outline.
// 5. Now edges lie on sheets, and joining them is join.pairs.
//
// Places of one part that are to grow alike stay places of one part.

namespace rasoir::reduce {
namespace {

constexpr std::array<double, 5> shares{0.05, 0.275, 0.5, 0.725, 0.95};

}  // namespace

std::vector<ShortEnd> findShortEnds(const Model& model, const std::vector<std::size_t>& places, double upTo,
                                    Progress& progress) {
    std::vector<ShortEnd> found;
    // Of a part, by which triangles may be off: gaps of sheets are compared with their thickness.
    const RayField rays(model, places, 1e-4, progress);
    const double safe = join::safeLimit(model).mm, least = 10.0 * model.samePoint();
    for (const std::size_t o : places) {
        const Part& part = *model.parts[model.occurrences[o].part];
        const Incidence& topology = part.incidence();
        const gp_Trsf& place = model.occurrences[o].placement;
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            if (topology.facesAt(e) != 1) continue;
            const int face = topology.usesOf(e).front().face;
            const BRepAdaptor_Curve curve(topology.edge(e));
            ShortEnd end{o, o, e, face, {}, {}, true};
            bool meets = true;
            for (std::size_t i = 0; i < shares.size() && meets; ++i) {
                gp_Pnt at;
                const double parameter =
                    curve.FirstParameter() + shares[i] * (curve.LastParameter() - curve.FirstParameter());
                const gp_Vec out = outAlong(topology, face, e, parameter, at);
                if (out.SquareMagnitude() < 0.5) {
                    meets = false;
                    break;
                }
                if (i == 2) end.out = out;
                const gp_Dir way = gp_Dir(out).Transformed(place);
                const gp_Pnt from = at.Transformed(place);
                const auto hit = rays.first(from, way, least);
                meets = hit && hit->occurrence != o && (i == 0 || hit->occurrence == end.target);
                if (!meets) break;
                end.target = hit->occurrence;
                end.far[i] = hit->distance;
                const Occurrence& other = model.occurrences[hit->occurrence];
                const double lean = std::abs(gp_Vec(way).Dot(hit->normal));
                const gp_Pnt there =
                    from.Translated(gp_Vec(way) * hit->distance).Transformed(other.placement.Inverted());
                const double through = 0.5 * thicknessAt(*model.parts[other.part], hit->face, there);
                end.expected = end.expected && hit->distance <= 1.05 * through / std::max(lean, 0.2) + safe;
                meets = lean > 0.2 && (upTo > 0.0 ? hit->distance <= upTo : end.expected);
            }
            if (meets) found.push_back(end);
        }
    }
    return found;
}

namespace {

class SheetJoining {
public:
    SheetJoining(const Model& received, const JoinSheets& step, Progress& progress)
        : m_model(received), m_step(step), m_progress(progress) {
        m_model.giveIds();
        m_outcome.model = m_model;
    }

    Result<Outcome> run() {
        if (!(m_step.upTo >= 0.0) || !std::isfinite(m_step.upTo))
            return fail(ProblemKind::BadInput, "How far edges are carried on must be zero or more.");
        const auto meant = placesMeant(m_model, m_step.places);
        if (!meant) return tl::unexpected(meant.error());
        for (const std::size_t o : *meant)
            if (m_model.parts[m_model.occurrences[o].part]->kind() == BodyKind::Sheet) m_places.push_back(o);
        if (m_places.size() < 2)
            return fail(ProblemKind::NotPossible, "Joining sheets takes at least two places of sheets.",
                        "Make sheets first, or name more of them.");
        std::set<std::pair<std::size_t, int>> named;  // parts and edges
        for (const EntityRef& edge : m_step.edges) {
            const auto found = findEntity(m_model, edge);
            if (!found) return tl::unexpected(found.error());
            named.insert({found->part, found->entity.number});
        }
        for (ShortEnd& end : findShortEnds(m_model, m_places, m_step.upTo, m_progress))
            if (named.empty() || named.contains({m_model.occurrences[end.place].part, end.edge}))
                m_ends[end.place].push_back(end);
        if (auto fine = grow(); !fine) return tl::unexpected(fine.error());
        if (auto fine = partTargets(); !fine) return tl::unexpected(fine.error());
        if (auto fine = joinThem(); !fine) return tl::unexpected(fine.error());
        m_outcome.summary = fmt::format("Join sheets, {} carried on", counted(m_grown, "edge"));
        m_progress.report(1.0, m_outcome.summary);
        return std::move(m_outcome);
    }

private:
    Model m_model;
    const JoinSheets& m_step;
    Progress& m_progress;
    Outcome m_outcome;
    std::vector<std::size_t> m_places;
    std::map<std::size_t, std::vector<ShortEnd>> m_ends;  // by occurrence
    std::size_t m_grown = 0;

    [[nodiscard]] const Part& partAt(std::size_t place) const {
        return *m_model.parts[m_model.occurrences[place].part];
    }

    /// How long the strip at an edge is: somewhat longer than it is to the other sheet.
    [[nodiscard]] double reach(const ShortEnd& end) const { return 1.5 * end.farthest() + 100.0 * m_model.samePoint(); }

    /// The sheets that ends were grown to, in the coordinates of the part that grows.
    [[nodiscard]] std::vector<arrange::Input> targetsOf(std::size_t place, const std::vector<ShortEnd>& ends) const {
        const gp_Trsf inverse = m_model.occurrences[place].placement.Inverted();
        std::set<std::size_t> targets;
        for (const ShortEnd& end : ends) targets.insert(end.target);
        std::vector<arrange::Input> inputs;
        for (const std::size_t target : targets)
            inputs.push_back(
                {partAt(target).shape.Moved(TopLoc_Location(inverse * m_model.occurrences[target].placement)),
                 placeName(m_model, target)});
        return inputs;
    }

    Result<void> grow() {
        for (std::size_t p = 0; p < m_model.parts.size(); ++p) {
            // Places that grow alike.
            std::vector<std::vector<std::size_t>> classes;
            for (const auto& [place, ends] : m_ends) {
                if (m_model.occurrences[place].part != p) continue;
                const auto known = std::find_if(classes.begin(), classes.end(), [&](const auto& one) {
                    const auto& others = m_ends.at(one.front());
                    return others.size() == ends.size() &&
                           std::equal(ends.begin(), ends.end(), others.begin(),
                                      [](const ShortEnd& a, const ShortEnd& b) {
                                          // Of the farthest: two gaps that are to be one thickness.
                                          for (std::size_t i = 0; i < a.far.size(); ++i)
                                              if (std::abs(a.far[i] - b.far[i]) > 1e-4 * a.farthest()) return false;
                                          return a.edge == b.edge;
                                      });
                });
                if (known == classes.end())
                    classes.push_back({place});
                else
                    known->push_back(place);
            }
            for (const auto& places : classes) {
                if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                const Part& part = *m_model.parts[p];
                const double tolerance = m_model.samePoint();
                std::vector<GrowingEdge> growing;
                for (const ShortEnd& end : m_ends.at(places.front()))
                    growing.push_back({end.edge, end.face, end.out, reach(end)});
                auto grown = grownPast(part, growing, jointEdgesOf(m_model, p), tolerance, m_progress);
                std::vector<ShortEnd> ends = m_ends.at(places.front());
                std::erase_if(ends, [&](const ShortEnd& end) {
                    return std::none_of(growing.begin(), growing.end(),
                                        [&](const GrowingEdge& one) { return one.edge == end.edge; });
                });
                if (grown) grown = cutBackTo(part, *grown, targetsOf(places.front(), ends), tolerance, m_progress);
                if (!grown) {
                    if (grown.error().kind == ProblemKind::Cancelled) return tl::unexpected(grown.error());
                    Item item{fmt::format("\"{}\" is not carried on", part.name), false, grown.error(), 0.0};
                    item.problem.where.part = part.name;
                    m_outcome.items.push_back(std::move(item));
                    continue;
                }
                for (const ShortEnd& end : ends)
                    m_outcome.items.push_back({fmt::format("\"{}\": an edge carried on by {} mm to \"{}\"",
                                                           placeName(m_model, places.front()), readable(end.farthest()),
                                                           placeName(m_model, end.target)),
                                               true,
                                               {},
                                               end.farthest()});
                m_grown += ends.size() * places.size();
                replaceIn(m_outcome, p, *grown, places);
            }
        }
        return {};
    }

    /// The plane of a flat sheet that was carried on, and points of the line in which it now ends on another sheet:
    /// beyond its start, midway, beyond its end; model coordinates.
    struct Line {
        gp_Pln plane;
        std::array<gp_Pnt, 3> points;
    };
    [[nodiscard]] std::optional<Line> lineOf(std::size_t place, const ShortEnd& end) const {
        const Part& part = partAt(place);
        const GeomAdaptor_Surface surface(BRep_Tool::Surface(part.incidence().face(end.face)));
        const BRepAdaptor_Curve curve(part.incidence().edge(end.edge));
        if (surface.GetType() != GeomAbs_Plane || curve.GetType() != GeomAbs_Line) return std::nullopt;
        const double first = curve.FirstParameter(), length = curve.LastParameter() - first;
        const gp_Trsf& placement = m_model.occurrences[place].placement;
        const auto at = [&](std::size_t i) {
            return curve.Value(first + shares[i] * length).Translated(end.out * end.far[i]);
        };
        const gp_Pnt a = at(0), b = at(4);
        Line line{surface.Plane().Transformed(placement), {}};
        for (std::size_t k = 0; k < 3; ++k) {
            // The outermost samples are a twentieth of its length within; asked is a hundredth beyond its ends.
            const double share = std::array{-0.06 / 0.9, 0.5, 1.0 + 0.06 / 0.9}[k];
            line.points[k] = a.Translated(gp_Vec(a, b) * share).Transformed(placement);
        }
        return line;
    }

    /// Parts the faces in which lines end.
    Result<void> partTargets() {
        std::map<std::size_t, std::vector<Line>> linesOn;
        for (const auto& [place, ends] : m_ends)
            for (const ShortEnd& end : ends)
                if (const auto line = lineOf(place, end)) linesOn[end.target].push_back(*line);
        for (const auto& [target, lines] : linesOn) {
            const std::size_t p = m_outcome.model.occurrences[target].part;
            const Part part = *m_outcome.model.parts[p];
            const gp_Trsf inverse = m_model.occurrences[target].placement.Inverted();
            std::vector<arrange::Input> inputs{{part.shape, part.name}};
            for (const Line& line : lines)
                for (int f = 1; f <= part.incidence().faceCount(); ++f) {
                    const auto inFace = [&](const gp_Pnt& point) {
                        BRepClass_FaceClassifier where(part.incidence().face(f), point.Transformed(inverse),
                                                       m_model.samePoint());
                        return where.State() == TopAbs_IN;
                    };
                    if (!inFace(line.points[1]) || !(inFace(line.points[0]) || inFace(line.points[2]))) continue;
                    Bnd_Box box;
                    BRepBndLib::Add(part.incidence().face(f), box, false);
                    const TopoDS_Face wall =
                        divide::faceAcross(line.plane.Transformed(inverse), box, m_model.samePoint());
                    if (!wall.IsNull()) inputs.push_back({wall, part.name, {f}});
                }
            if (inputs.size() == 1) continue;
            const auto all = arrange::arrange(std::move(inputs), m_model.samePoint(), m_progress);
            if (!all) return tl::unexpected(all.error());
            const auto chosen = arrange::sheetOf(*all, arrange::piecesOf(*all, 0));
            if (!chosen) return tl::unexpected(chosen.error());
            const std::vector<PartLineage> before = std::move(m_outcome.lineage);
            m_outcome.lineage.clear();
            const std::size_t into = replaceIn(m_outcome, p, {chosen->shape, chosen->lineage.at(0)}, {target});
            auto marked = m_outcome.model.parts[into]->copy();
            markParted(*marked, chosen->lineage.at(0));
            m_outcome.model.parts[into] = std::move(marked);
            m_outcome.lineage = followed(before, m_outcome.lineage);
            m_outcome.notes.push_back(fmt::format("\"{}\" is parted along lines that end within its faces.",
                                                  placeName(m_outcome.model, target)));
        }
        return {};
    }

    Result<void> joinThem() {
        m_outcome.model.giveIds();
        join::Pairs pairs;
        for (const std::size_t place : m_places) pairs.places.push_back(placeName(m_outcome.model, place));
        auto joined = join::joinPairs(m_outcome.model, pairs, m_progress);
        if (!joined) {
            if (joined.error().kind == ProblemKind::NothingToDo && m_grown == 0) {
                for (const Item& item : m_outcome.items)
                    if (!item.done) return tl::unexpected(item.problem);
                return fail(ProblemKind::NothingToDo, "No edge of these sheets ends near another sheet.",
                            "Give a larger limit.");
            }
            if (joined.error().kind != ProblemKind::NothingToDo) return tl::unexpected(joined.error());
            return {};
        }
        m_outcome.lineage = followed(m_outcome.lineage, joined->lineage);
        m_outcome.model = std::move(joined->model);
        m_outcome.jointsMade = joined->jointsMade;
        for (Item& item : joined->items) m_outcome.items.push_back(std::move(item));
        for (std::string& note : joined->notes) m_outcome.notes.push_back(std::move(note));
        return {};
    }
};

}  // namespace

std::vector<ParameterInfo> JoinSheets::infos() {
    return {
        {"places", "list of names", "", "Parts or places of sheets; empty: all that are not set aside.", Json::array()},
        {"upTo", "number", "mm",
         "How far an edge is carried on; 0: half the thickness it has to go through, and the safe gap.", 0.0},
        {"edges", "list of edge references", "", "These alone are carried on; empty: all that end so near.",
         Json::array()}};
}
void to_json(Json& json, const JoinSheets& step) {
    json = Json::object();
    if (!step.places.empty()) json["places"] = step.places;
    if (step.upTo > 0.0) json["upTo"] = step.upTo;
    if (!step.edges.empty()) json["edges"] = step.edges;
}
void from_json(const Json& json, JoinSheets& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
    step.edges = json.value("edges", std::vector<EntityRef>{});
}

Result<Outcome> joinSheets(const Model& model, const JoinSheets& step, Progress& progress) {
    return SheetJoining(model, step, progress).run();
}

}  // namespace rasoir::reduce
