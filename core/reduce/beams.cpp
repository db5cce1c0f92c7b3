#include "reduce/beams.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Line.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Wire.hxx>

#include "common/tolerance.h"
#include "model/lineage_builder.h"
#include "model/places.h"
#include "reduce/frame_members.h"
#include "topology/making.h"

// 1. Every part is asked once whether it is slender; its line is known in each place where it stands.
// 2. Nodes, in model coordinates: each end of each member looks for the nearest line of another one within the limit.
//    Ends that come to lie together are one node; an end on the middle of a line is a node of both.
// 3. Each member is drawn from node to node. Where its own line does not go through a node, the way from the node to
//    the line is its section's offset there.
// 4. Copies whose nodes lie at the same places along them stay copies.

namespace rasoir::reduce {
namespace {

struct Member {
    std::size_t place = 0;
    const Slender* bar = nullptr;
    BarLine line;                 // model coordinates
    gp_Pnt ends[2];               // of it
    int nodes[2]{-1, -1};         // at its ends
    std::map<double, int> along;  // nodes between, by the distance from its first end

    [[nodiscard]] double length() const { return line.length(); }
    [[nodiscard]] double footOf(const gp_Pnt& point) const { return line.footOf(point); }
    [[nodiscard]] gp_Pnt at(double distance) const { return line.at(distance); }
    /// Whether an end can be drawn to a node beside it: an arc would become another one.
    [[nodiscard]] bool canMove(int end) const {
        return (end == 0 ? line.pieces().front() : line.pieces().back()).turn == 0.0;
    }
};

class Framer {
public:
    Framer(std::vector<Member>& members, double within, double samePoint)
        : m_members(members), m_within(within), m_samePoint(samePoint) {}

    std::vector<gp_Pnt> run() {
        for (std::size_t m = 0; m < m_members.size(); ++m)
            for (const int end : {0, 1}) place(m, end);
        // Ends that are no node yet are nodes of their own.
        for (Member& member : m_members)
            for (const int end : {0, 1})
                if (member.nodes[end] < 0) {
                    member.nodes[end] = static_cast<int>(m_nodes.size());
                    m_nodes.push_back(member.ends[end]);
                }
        return m_nodes;
    }

private:
    std::vector<Member>& m_members;
    double m_within, m_samePoint;
    std::vector<gp_Pnt> m_nodes;

    int nodeAt(const gp_Pnt& point, double within) {
        for (std::size_t n = 0; n < m_nodes.size(); ++n)
            if (m_nodes[n].Distance(point) <= within) return static_cast<int>(n);
        m_nodes.push_back(point);
        return static_cast<int>(m_nodes.size()) - 1;
    }

    /// Joins one end to the nearest line within reach.
    void place(std::size_t m, int end) {
        Member& own = m_members[m];
        const gp_Pnt from = own.ends[end];
        Member* nearest = nullptr;
        double least = own.canMove(end) ? m_within : std::min(m_within, m_samePoint), where = 0.0;
        for (std::size_t k = 0; k < m_members.size(); ++k) {
            if (k == m) continue;
            const double foot = m_members[k].footOf(from), off = m_members[k].at(foot).Distance(from);
            if (off > least) continue;
            least = off;
            where = foot;
            nearest = &m_members[k];
        }
        if (nearest == nullptr) return;
        // Near its end it is its end: a node a hair beside another makes an edge a hair long.
        for (const int other : {0, 1}) {
            const double away = other == 0 ? where : nearest->length() - where;
            if (away > (nearest->canMove(other) ? m_within : m_samePoint)) continue;
            // Two that stay where they are have a node only where they meet.
            if (!own.canMove(end) && nearest->ends[other].Distance(from) > m_samePoint) continue;
            if (nearest->nodes[other] < 0)
                nearest->nodes[other] =
                    own.nodes[end] >= 0 ? own.nodes[end] : nodeAt(nearest->ends[other], m_samePoint);
            if (own.nodes[end] < 0) own.nodes[end] = nearest->nodes[other];
            return;
        }
        if (own.nodes[end] < 0) own.nodes[end] = nodeAt(nearest->at(where), m_samePoint);
        const int node = own.nodes[end];
        if (std::none_of(nearest->along.begin(), nearest->along.end(),
                         [node](const auto& one) { return one.second == node; }))
            nearest->along.emplace(where, node);
    }
};

/// A wire along a bar, with a section for each edge; part coordinates.
struct Drawn {
    TopoDS_Shape shape;
    std::vector<TopoDS_Edge> edges;
    std::vector<Section> sections;        // of the edges
    std::vector<TopoDS_Vertex> vertices;  // at the nodes, in their order
};

/// A node of a bar: how far along its own line, and where it lies.
struct Stop {
    double along;
    gp_Pnt at;
};

/// From stop to stop, and on arcs by way of the line's own stations. The first and the last stop may lie beside the
/// line; where its own line does not go through them, the way there is the section's offset.
Drawn drawn(const Slender& bar, const std::vector<Stop>& stops) {
    Drawn made;
    const BRep_Builder builder;
    TopoDS_Wire wire;
    builder.MakeWire(wire);
    const auto vertexAt = [&](const gp_Pnt& point) {
        TopoDS_Vertex vertex;
        builder.MakeVertex(vertex, point, Tolerance::least);
        return vertex;
    };
    made.vertices.push_back(vertexAt(stops.front().at));
    TopoDS_Vertex last = made.vertices.front();
    const auto& pieces = bar.line.pieces();
    std::size_t next = 1;
    double before = 0.0;  // where the piece begins
    gp_Vec up = bar.section.section.up;
    for (std::size_t p = 0; p < pieces.size(); ++p) {
        const BarPiece& piece = pieces[p];
        const double own = piece.length();
        double from = 0.0;
        while (from < own) {
            const bool lastPiece = p + 1 == pieces.size();
            const bool atStop = next + 1 < stops.size() && stops[next].along <= before + own + Tolerance::noWay;
            const bool ends = !atStop && lastPiece;
            const double to = atStop ? std::min(own, stops[next].along - before) : own;
            if (to - from <= Tolerance::noWay) {
                if (!atStop) break;
                // A node at the very beginning of a piece is the end of the one before.
                made.vertices.push_back(last);
                ++next;
                continue;
            }
            const gp_Pnt here = BRep_Tool::Pnt(last), there = atStop ? stops[next].at
                                                              : ends ? stops.back().at
                                                                     : piece.to;
            const TopoDS_Vertex end = vertexAt(there);
            TopoDS_Edge edge;
            if (piece.turn == 0.0) {
                edge = straightEdge(last, end);
            } else {
                const gp_Pnt begin = piece.at(from);
                const gp_Dir axis = piece.turn > 0.0 ? piece.about.Direction() : piece.about.Direction().Reversed();
                const gp_Vec out(piece.about.Location(), begin), along(axis);
                const gp_Vec first = out - along * out.Dot(along);
                const gp_Pnt centre = begin.Translated(-first);
                edge = edgeAlong(new Geom_Circle(gp_Ax2(centre, axis, gp_Dir(first)), first.Magnitude()), 0.0,
                                 (to - from) / first.Magnitude(), last, end);
            }
            builder.Add(wire, edge);
            Section section = bar.section.section;
            section.up = up.Transformed(piece.carriedTo(from));
            const auto offset = [](const gp_Pnt& node, const gp_Pnt& line, const gp_Vec& way) {
                const gp_Vec off(node, line), across = off - way * off.Dot(way);
                return across.Magnitude() > Tolerance::samePlace ? across : gp_Vec();
            };
            section.startOffset = offset(here, piece.at(from), piece.along(from));
            section.endOffset = offset(there, piece.at(to), piece.along(to));
            made.edges.push_back(edge);
            made.sections.push_back(section);
            last = end;
            from = to;
            if (atStop) {
                made.vertices.push_back(end);
                ++next;
            }
        }
        before += own;
        up.Transform(piece.carriedTo(own));
    }
    made.vertices.push_back(last);
    made.shape = wire;
    return made;
}

std::string sizesOf(const Section& section) {
    std::string text = section.shape;
    for (std::size_t i = 0; i < section.sizes.size(); ++i) text += (i == 0 ? " " : " × ") + readable(section.sizes[i]);
    return text;
}

}  // namespace

namespace {

struct BarsFound {
    std::map<std::size_t, Slender> bars;  // by part; members of a frame have parts of their own by now
    std::map<std::size_t, std::shared_ptr<const Part>> solids;  // of the same, as received
    double deepest = 0.0;
};

/// Gives every member of a frame a part and places of its own, the first one those of the frame.
void addMembers(Model& model, std::size_t p, std::vector<Slender>&& members, BarsFound& found) {
    const std::shared_ptr<const Part> frame = model.parts[p];
    for (Slender& member : members) {
        std::size_t own = p;
        if (member.member > 1) {
            auto part = frame->copy();
            part->id = 0;
            part->name = freeName(model, fmt::format("{}, member {}", frame->name, member.member));
            own = model.parts.size();
            for (std::size_t o = model.occurrences.size(); o-- > 0;) {
                if (model.occurrences[o].part != p) continue;
                Occurrence place = model.occurrences[o];
                place.part = own;
                place.name = part->name;
                place.id = 0;
                model.occurrences.insert(o + member.member - 1, std::move(place));
            }
            model.parts.push_back(std::move(part));
        }
        found.solids.emplace(own, frame);
        found.bars.emplace(own, std::move(member));
    }
    model.giveIds();
}

/// What is slender of the parts that a step means; what is named and is not becomes an item of the outcome.
Result<BarsFound> barsIn(Model& model, const Beams& step, const std::vector<std::size_t>& chosen, Outcome& outcome,
                         Progress& progress) {
    BarsFound found;
    const std::size_t count = model.parts.size();
    for (std::size_t p = 0; p < count; ++p) {
        if (step.parts.empty() ? model.isAside(p) : !std::binary_search(chosen.begin(), chosen.end(), p)) continue;
        if (model.parts[p]->lump) continue;
        auto bars = findBars(model, p, step.leastRatio, progress);
        if (!bars && bars.error().kind == ProblemKind::Cancelled) return tl::unexpected(bars.error());
        if (bars && !bars->empty()) {
            for (const Slender& bar : *bars) found.deepest = std::max(found.deepest, bar.section.depth);
            if (bars->size() > 1) {
                outcome.items.push_back(
                    {fmt::format("\"{}\" is a frame of {} members, {} % of its volume in beams", model.parts[p]->name,
                                 bars->size(), readable(100.0 * (1.0 - bars->front().dropped), 3)),
                     true,
                     {},
                     found.deepest});
            }
            addMembers(model, p, std::move(*bars), found);
        } else if (!step.parts.empty()) {
            Item item{fmt::format("\"{}\" stays a solid", model.parts[p]->name), false, {}, 0.0};
            item.problem = bars ? Problem{ProblemKind::NotPossible,
                                          fmt::format("\"{}\" is no bar of one section, straight or bent along arcs, "
                                                      "that is {} times as long as deep, nor a frame of such bars.",
                                                      model.parts[p]->name, readable(step.leastRatio)),
                                          {model.parts[p]->name, {}, {}},
                                          "Cut it into bars in Divide, or lower the ratio."}
                                : bars.error();
            outcome.items.push_back(std::move(item));
        }
    }
    if (found.bars.empty()) {
        for (const Item& item : outcome.items) return tl::unexpected(item.problem);
        return fail(ProblemKind::NothingToDo, "Nothing here is slender.", "Lower the least ratio.");
    }
    return found;
}

}  // namespace

std::vector<ParameterInfo> Beams::infos() {
    return {
        {"parts", "list of names", "", "Parts to reduce, names or patterns; empty: all that are slender.",
         Json::array()},
        {"leastRatio", "number", "", "Least length over the section's depth.", 10.0},
        {"nodesWithin", "number", "mm",
         "How far an end may lie from the line it is joined to; 0: half the deepest section; negative: none is.", 0.0}};
}
void to_json(Json& json, const Beams& step) {
    json = Json{{"leastRatio", step.leastRatio}, {"nodesWithin", step.nodesWithin}};
    if (!step.parts.empty()) json["parts"] = step.parts;
}
void from_json(const Json& json, Beams& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.leastRatio = json.value("leastRatio", 10.0);
    step.nodesWithin = json.value("nodesWithin", 0.0);
}

Result<Outcome> makeBeams(const Model& received, const Beams& step, Progress& progress) {
    if (!(step.leastRatio >= 1.0) || !std::isfinite(step.leastRatio) || !std::isfinite(step.nodesWithin))
        return fail(ProblemKind::BadInput, "A beam is at least as long as it is deep.", "Ten times is usual.");
    const auto chosen = partsNamed(received, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = received;
    outcome.model.giveIds();
    Model& model = outcome.model;
    auto chosenBars = barsIn(model, step, *chosen, outcome, progress);
    if (!chosenBars) return tl::unexpected(chosenBars.error());
    const std::map<std::size_t, Slender> bars = std::move(chosenBars->bars);
    const double deepest = chosenBars->deepest;
    std::vector<Member> members;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const auto bar = bars.find(model.occurrences[o].part);
        if (bar == bars.end() || model.occurrences[o].aside) continue;
        Member member;
        member.place = o;
        member.bar = &bar->second;
        member.line = bar->second.line.transformed(model.occurrences[o].placement);
        member.ends[0] = member.line.at(0.0);
        member.ends[1] = member.line.at(member.line.length());
        members.push_back(std::move(member));
    }
    const double within = step.nodesWithin < 0.0 ? -1.0 : step.nodesWithin > 0.0 ? step.nodesWithin : 0.55 * deepest;
    const std::vector<gp_Pnt> nodes = Framer(members, within, model.samePoint()).run();

    // The same parameters along the same part make the same beam.
    struct Made {
        std::size_t part = 0;
        std::vector<int> vertexNumbers;
    };
    std::map<std::pair<std::size_t, std::string>, Made> known;
    std::map<std::size_t, std::size_t> uses;
    std::map<int, std::vector<JointUse>> usesOfNode;
    std::set<std::size_t> told;
    for (const Occurrence& place : model.occurrences) ++uses[place.part];
    for (const Member& member : members) {
        Occurrence& place = model.occurrences.change(member.place);
        const std::size_t p = place.part;
        const std::shared_ptr<const Part> solidPart = chosenBars->solids.at(p);
        const Part& solid = *solidPart;
        const gp_Trsf into = place.placement.Inverted();
        std::vector<int> row{member.nodes[0]};
        std::vector<double> distances{0.0};
        for (const auto& [distance, node] : member.along)
            if (node != row.front() && node != member.nodes[1]) {
                row.push_back(node);
                distances.push_back(distance);
            }
        row.push_back(member.nodes[1]);
        distances.push_back(member.length());
        std::vector<Stop> stops;
        std::string key;
        for (std::size_t i = 0; i < row.size(); ++i) {
            stops.push_back({distances[i], nodes[static_cast<std::size_t>(row[i])].Transformed(into)});
            const gp_Pnt& point = stops.back().at;
            key += fmt::format("{:.5f} {:.5f} {:.5f};", point.X() + 0.0, point.Y() + 0.0, point.Z() + 0.0);
        }
        const auto [at, fresh] = known.try_emplace({p, key});
        if (fresh) {
            const Drawn wire = drawn(*member.bar, stops);
            auto part = solid.copy();
            part->id = model.parts[p]->id;
            part->name = model.parts[p]->name;
            part->setShape(wire.shape);
            part->known = {};
            part->meantOpen.clear();
            part->sharpened.clear();
            LineageBuilder builder(solid.incidence(), wire.shape);
            PartLineage lineage = builder.finish();
            lineage.of(EntityKind::Body) = {{1, 1, true, false}};
            lineage.part = bars.at(p).part;
            part->inherit(solid, lineage, gp_Trsf());
            for (std::size_t i = 0; i < wire.edges.size(); ++i)
                part->known.sections[{EntityKind::Edge, part->incidence().edgeNumber(wire.edges[i])}] =
                    wire.sections[i];
            for (const TopoDS_Vertex& vertex : wire.vertices)
                at->second.vertexNumbers.push_back(part->incidence().vertexNumber(vertex));
            const bool first = !told.contains(p);
            if (first) {
                at->second.part = p;
                lineage.into = p;
                model.parts[p] = std::move(part);
            } else {
                part->id = 0;
                part->name = freeName(model, part->name);
                outcome.notes.push_back(
                    fmt::format("\"{}\" meets others in its own way and is a part of its own now: \"{}\".",
                                placeName(model, member.place), part->name));
                lineage.into = at->second.part = model.parts.size();
                model.parts.push_back(std::move(part));
            }
            outcome.lineage.push_back(std::move(lineage));
            if (first) {
                const Slender& bar = *member.bar;
                const std::string share = bar.member > 0 ? std::string()
                                                         : fmt::format(", {} % of the solid's volume",
                                                                       readable(100.0 * (1.0 - bar.dropped), 3));
                outcome.items.push_back({fmt::format("\"{}\": {} mm long, {} mm{}{}", model.parts[p]->name,
                                                     readable(bar.length()), sizesOf(bar.section.section),
                                                     bar.section.torsionEstimated ? ", torsion estimated" : "", share),
                                         true,
                                         {},
                                         bar.section.depth});
                told.insert(p);
            }
        }
        place.part = at->second.part;
        for (std::size_t i = 0; i < row.size(); ++i)
            usesOfNode[row[i]].push_back({place.id, at->second.vertexNumbers[i], false});
    }
    std::size_t shared = 0;
    for (auto& [node, own] : usesOfNode) {
        if (own.size() < 2) continue;
        model.joints.push_back({EntityKind::Vertex, std::move(own), 0.0});
        ++outcome.jointsMade;
        ++shared;
    }
    outcome.summary = fmt::format("Make {} of slender bodies, {} in common", counted(members.size(), "beam"),
                                  counted(shared, "node"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::reduce
