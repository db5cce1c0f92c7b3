#include "join/weld_strips.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <Geom_Circle.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GeomFill_Pipe.hxx>
#include <gp_Circ.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "arrange/arrangement.h"
#include "common/tolerance.h"
#include "divide/parted.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "model/lineage.h"
#include "topology/edge_angle.h"

namespace rasoir::join {
namespace {

/// A sixth of a disc on either side of a direction.
TopoDS_Face sectorAt(const gp_Pnt& middle, const gp_Dir& axis, const gp_Dir& towards, double radius) {
    const gp_Circ circle(gp_Ax2(middle, axis, towards), radius);
    const TopoDS_Edge arc = BRepBuilderAPI_MakeEdge(circle, -M_PI / 3.0, M_PI / 3.0).Edge();
    const TopoDS_Vertex begin = TopExp::FirstVertex(arc), end = TopExp::LastVertex(arc);
    const TopoDS_Vertex centre = BRepBuilderAPI_MakeVertex(middle).Vertex();
    BRepBuilderAPI_MakeWire outline(BRepBuilderAPI_MakeEdge(centre, begin).Edge(), arc,
                                    BRepBuilderAPI_MakeEdge(end, centre).Edge());
    return BRepBuilderAPI_MakeFace(outline.Wire(), true).Face();
}

/// Whether the face itself ends about square to one of its edges, at the beginning of that or at its end.
bool endsAt(const Incidence& topology, int number, int face, bool beginning, const gp_Vec& into) {
    const TopoDS_Edge edge = TopoDS::Edge(topology.edge(number).Oriented(TopAbs_FORWARD));
    const TopoDS_Vertex corner = beginning ? TopExp::FirstVertex(edge) : TopExp::LastVertex(edge);
    for (const int other : topology.edgesOf(face)) {
        if (other == number) continue;
        const TopoDS_Edge own = TopoDS::Edge(topology.edge(other).Oriented(TopAbs_FORWARD));
        const BRepAdaptor_Curve curve(own);
        gp_Pnt at;
        gp_Vec away;
        for (const bool begins : {true, false}) {
            if (!corner.IsSame(begins ? TopExp::FirstVertex(own) : TopExp::LastVertex(own))) continue;
            curve.D1(begins ? curve.FirstParameter() : curve.LastParameter(), at, away);
            constexpr double square = 0.35;  // [rad] off a right angle: a sliver between would serve nobody
            if (away.SquareMagnitude() > Tolerance::noLengthSquare &&
                (begins ? away : away.Reversed()).Angle(into) < square)
                return true;
        }
    }
    return false;
}

/// A third of the wall of a tube round an edge, that on the side of a face, with what closes it where the edge ends;
/// null where there is none. The rest of the tube would meet the face again on the other side of the edge, or run along
/// edges that go on from its ends, and divide them.
TopoDS_Shape tubeBeside(const Incidence& topology, int number, int faceNumber, double radius) {
    constexpr double side = M_PI / 3.0;
    const TopoDS_Edge edge = TopoDS::Edge(topology.edge(number).Oriented(TopAbs_FORWARD));
    const TopoDS_Face face = topology.face(faceNumber);
    const BRepAdaptor_Curve curve(edge);
    const double first = curve.FirstParameter(), last = curve.LastParameter(), middle = 0.5 * (first + last);
    const auto uses = topology.usesOf(number);
    const auto use =
        std::find_if(uses.begin(), uses.end(), [faceNumber](const EdgeUse& one) { return one.face == faceNumber; });
    const auto intoAt = [&](double parameter, gp_Pnt& at, gp_Vec& along) {
        curve.D1(parameter, at, along);
        const gp_Vec into = outwardNormal(face, edge, parameter).Crossed(along);
        return use != uses.end() && !use->forward ? into.Reversed() : into;
    };
    gp_Pnt at;
    gp_Vec along;
    const gp_Vec into = intoAt(middle, at, along);
    if (into.SquareMagnitude() < Tolerance::noLengthSquare) return {};
    TopoDS_Compound skin;
    const BRep_Builder builder;
    builder.MakeCompound(skin);
    const auto addWall = [&](const Handle(Geom_Surface) & wall, double u0, double u1, double v0, double v1) {
        builder.Add(skin, BRepBuilderAPI_MakeFace(wall, u0, u1, v0, v1, Precision::Confusion()).Face());
    };
    const bool closed = curve.Value(first).Distance(curve.Value(last)) < Tolerance::noWay;
    if (curve.GetType() == GeomAbs_Line) {
        const gp_Lin line = curve.Line();
        addWall(new Geom_CylindricalSurface(gp_Ax3(line.Location(), line.Direction(), gp_Dir(into)), radius), -side,
                side, first, last);
    } else if (curve.GetType() == GeomAbs_Circle) {
        const gp_Circ circle = curve.Circle();
        const gp_Vec out(circle.Location(), at);
        const double turn = std::atan2(into.Dot(gp_Vec(circle.Axis().Direction())), into.Dot(out.Normalized()));
        addWall(new Geom_ToroidalSurface(gp_Ax3(circle.Position()), circle.Radius(), radius), first, last, turn - side,
                turn + side);
    } else {
        double from, to;
        const Handle(Geom_Curve) path = BRep_Tool::Curve(edge, from, to);
        gp_Pnt start;
        gp_Vec tangent;
        const gp_Vec inwards = intoAt(first, start, tangent);
        if (path.IsNull() || inwards.SquareMagnitude() < Tolerance::noLengthSquare) return {};
        const Handle(Geom_Curve) section = new Geom_TrimmedCurve(
            new Geom_Circle(gp_Ax2(start, gp_Dir(tangent), gp_Dir(inwards)), radius), -side, side);
        GeomFill_Pipe pipe(new Geom_TrimmedCurve(path, first, last), section, GeomFill_IsCorrectedFrenet);
        pipe.Perform();
        if (!pipe.IsDone() || pipe.Surface().IsNull()) return {};
        double u0, u1, v0, v1;
        pipe.Surface()->Bounds(u0, u1, v0, v1);
        addWall(pipe.Surface(), u0, u1, v0, v1);
    }
    if (closed) return skin;
    for (const double end : {first, last}) {
        const gp_Vec inwards = intoAt(end, at, along);
        if (inwards.SquareMagnitude() < Tolerance::noLengthSquare) return {};
        if (!endsAt(topology, number, faceNumber, end == first, inwards))
            builder.Add(skin, sectorAt(at, gp_Dir(along), gp_Dir(inwards), radius));
    }
    return skin;
}

/// Whether a point lies in the tube round an edge, not before or behind its ends.
bool isBeside(const TopoDS_Edge& edge, const gp_Pnt& point, double width) {
    const EdgeProbe probe(edge);
    const auto near = probe.nearest(point);
    if (near.distance > width) return false;
    if (probe.value(probe.first()).Distance(probe.value(probe.last())) < Tolerance::noWay) return true;
    // Of the range: next to an end, where a direction still is a direction.
    const double hair = 1e-6 * (probe.last() - probe.first());
    return near.parameter > probe.first() + hair && near.parameter < probe.last() - hair;
}

/// One part's share: which of its faces are parted along which of its edges.
using Beside = std::map<int, std::set<int>>;  // edges by face

class StripMaker {
public:
    StripMaker(Outcome& outcome, double width, Progress& progress)
        : m_outcome(outcome), m_width(width), m_progress(progress) {}

    Result<std::vector<WeldStrip>> run(const std::vector<WeldLine>& lines) {
        std::map<std::size_t, Beside> wanted;  // by part
        for (const WeldLine& line : lines) {
            note(wanted, line.place, line.edges, line.outers);
            note(wanted, line.on, line.edgesOn, line.outersOn);
        }
        for (const auto& [part, beside] : wanted)
            if (auto fine = partOne(part, beside); !fine) return tl::unexpected(fine.error());
        carryJoints();
        m_outcome.lineage = followed(std::move(m_outcome.lineage), m_lineage);
        std::vector<WeldStrip> strips;
        for (const WeldLine& line : lines)
            strips.push_back(
                {facesOf(line.place, line.edges, line.outers), facesOf(line.on, line.edgesOn, line.outersOn)});
        return strips;
    }

private:
    Outcome& m_outcome;
    double m_width;
    Progress& m_progress;
    std::vector<PartLineage> m_lineage;
    std::map<std::tuple<std::size_t, int, int>, std::set<int>> m_pieces;  // by part, face and edge as they were

    [[nodiscard]] std::size_t partOf(std::size_t place) const { return m_outcome.model.occurrences[place].part; }
    void note(std::map<std::size_t, Beside>& wanted, std::size_t place, const std::vector<int>& edges,
              const std::vector<std::vector<int>>& faces) const {
        for (std::size_t i = 0; i < edges.size(); ++i)
            for (const int face : faces[i]) wanted[partOf(place)][face].insert(edges[i]);
    }
    [[nodiscard]] std::set<int> facesOf(std::size_t place, const std::vector<int>& edges,
                                        const std::vector<std::vector<int>>& faces) const {
        std::set<int> all;
        for (std::size_t i = 0; i < edges.size(); ++i)
            for (const int face : faces[i])
                if (const auto own = m_pieces.find({partOf(place), face, edges[i]}); own != m_pieces.end())
                    all.insert(own->second.begin(), own->second.end());
        return all;
    }

    Result<void> partOne(std::size_t index, const Beside& beside) {
        const std::shared_ptr<const Part> received = m_outcome.model.parts[index];
        const Incidence& topology = received->incidence();
        std::map<int, std::map<int, gp_Pnt>> now;  // what became of the faces, each piece with a point in it
        for (const auto& [face, edges] : beside) now[face] = {{face, skinOf(topology.face(face)).centre}};
        // Where two edges meet, what closes their tubes may coincide: they take turns.
        for (auto& turn : inTurns(topology, beside)) {
            const std::shared_ptr<const Part> part = m_outcome.model.parts[index];
            std::vector<arrange::Input> inputs{{part->shape, part->name}};
            for (const auto& [face, e] : turn) {
                const BRepAdaptor_Curve curve(topology.edge(e));
                const bool tight = curve.GetType() == GeomAbs_Circle && curve.Circle().Radius() <= m_width;
                const TopoDS_Shape tube = tight ? TopoDS_Shape() : tubeBeside(topology, e, face, m_width);
                if (tube.IsNull())
                    return fail(
                        ProblemKind::NotPossible,
                        fmt::format("A line on \"{}\" is bent too tightly for strips {} mm wide.", part->name,
                                    readable(m_width)),
                        "Take narrower strips, or none.",
                        {part->name, {face}, curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))});
                inputs.push_back({tube, "a strip beside a weld"});
                for (const auto& [own, inside] : now[face]) inputs.back().only.insert(own);
            }
            const auto all = arrange::arrange(std::move(inputs), m_outcome.model.samePoint(), m_progress);
            if (!all) return tl::unexpected(all.error());
            auto parted = divide::putTogether(*part, *all);
            if (!parted) return tl::unexpected(parted.error());
            const Descents descents(parted->lineage.faces());
            for (auto& [face, heirs] : now) {
                std::map<int, gp_Pnt> next;
                for (const auto& [own, inside] : heirs)
                    for (const Link& heir : descents.heirsOf(own)) next[heir.after] = inside;
                for (const auto& [piece, inside] : parted->pieces)
                    if (const auto own = next.find(piece); own != next.end()) own->second = inside;
                heirs = std::move(next);
            }
            parted->lineage.part = index;
            m_lineage = followed(std::move(m_lineage), {parted->lineage});
            m_outcome.model.parts[index] = parted->part;
        }
        for (const auto& [face, heirs] : now)
            for (const auto& [heir, inside] : heirs)
                for (const int e : beside.at(face))
                    if (isBeside(topology.edge(e), inside, m_width)) m_pieces[{index, face, e}].insert(heir);
        return {};
    }

    /// Joints that were made on the way speak of the model as it was before the strips.
    void carryJoints() {
        std::vector<Joint>& joints = m_outcome.model.joints;
        for (std::size_t j = joints.size() - m_outcome.jointsMade; j < joints.size();) {
            Joint& joint = joints[j];
            const bool whole = std::all_of(joint.uses.begin(), joint.uses.end(), [&](JointUse& use) {
                const auto place = m_outcome.model.placeOf(use.place);
                if (!place) return false;
                for (const PartLineage& own : m_lineage) {
                    if (own.part != partOf(*place)) continue;
                    std::vector<Link> heirs;
                    for (const Link& link : own.of(joint.kind))
                        if (link.before == use.number && link.after > 0) heirs.push_back(link);
                    if (heirs.size() != 1) return false;
                    use.number = heirs.front().after;
                    use.reversed = use.reversed != heirs.front().reversed;
                }
                return true;
            });
            if (whole) {
                ++j;
                continue;
            }
            joints.erase(joints.begin() + static_cast<std::ptrdiff_t>(j));
            --m_outcome.jointsMade;
        }
    }

    /// Faces with edges, in as few rounds as it takes for no two edges of one round to meet.
    [[nodiscard]] static std::vector<std::vector<std::pair<int, int>>> inTurns(const Incidence& topology,
                                                                               const Beside& beside) {
        std::vector<std::vector<std::pair<int, int>>> turns;
        std::vector<std::set<int>> vertices;  // in step with the turns: of the edges in them
        std::map<int, std::size_t> turnOf;    // by edge
        for (const auto& [face, edges] : beside)
            for (const int e : edges) {
                if (!turnOf.contains(e)) {
                    const TopoDS_Edge edge = topology.edge(e);
                    const std::set<int> own{topology.vertexNumber(TopExp::FirstVertex(edge)),
                                            topology.vertexNumber(TopExp::LastVertex(edge))};
                    std::size_t turn = 0;
                    while (turn < turns.size() &&
                           std::any_of(own.begin(), own.end(), [&](int v) { return vertices[turn].contains(v); }))
                        ++turn;
                    if (turn == turns.size()) {
                        turns.emplace_back();
                        vertices.emplace_back();
                    }
                    vertices[turn].insert(own.begin(), own.end());
                    turnOf[e] = turn;
                }
                turns[turnOf[e]].emplace_back(face, e);
            }
        return turns;
    }
};

}  // namespace

Result<std::vector<WeldStrip>> partStrips(Outcome& outcome, const std::vector<WeldLine>& lines, double width,
                                          Progress& progress) {
    return StripMaker(outcome, width, progress).run(lines);
}

}  // namespace rasoir::join
