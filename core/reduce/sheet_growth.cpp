#include "reduce/sheet_growth.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepClass_FaceClassifier.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Cylinder.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "arrange/choice.h"
#include "common/tolerance.h"
#include "mend/merge.h"
#include "model/places.h"
#include "topology/edge_angle.h"

// A face grows by a strip at its edge, on the same surface. Sheet and strips are arranged, and merged where the strip
// begins, so that the face itself has grown and no edge is left there. Cut back, what has grown is arranged with what
// it was grown to, and of each face the pieces stay that hold some of the old one.

namespace rasoir::reduce {

gp_Vec outAlong(const Incidence& topology, int face, int edge, double parameter, gp_Pnt& at) {
    gp_Vec along;
    BRepAdaptor_Curve(topology.edge(edge)).D1(parameter, at, along);
    const gp_Vec normal = outwardNormal(topology.face(face), topology.edge(edge), parameter);
    if (along.SquareMagnitude() < Tolerance::divisible || normal.SquareMagnitude() < 0.5) return {};
    gp_Vec out = along.Normalized().Crossed(normal);
    for (const EdgeUse& use : topology.usesOf(edge))
        if (use.face == face && !use.forward) out.Reverse();
    return out;
}

namespace {

/// Where a strip's corner lies, from the vertex at which it begins. Strips at two edges of one corner have the
/// point in common that lies as far out as either asks for, so that together they fill the corner.
gp_Vec cornerShift(const Part& part, const std::vector<GrowingEdge>& ends, std::size_t s, const TopoDS_Vertex& vertex) {
    const gp_Vec own = ends[s].out;
    for (std::size_t t = 0; t < ends.size(); ++t) {
        if (t == s || ends[t].face != ends[s].face) continue;
        const TopoDS_Edge other = part.incidence().edge(ends[t].edge);
        if (!TopExp::FirstVertex(other).IsSame(vertex) && !TopExp::LastVertex(other).IsSame(vertex)) continue;
        if (BRepAdaptor_Curve(other).GetType() != GeomAbs_Line) continue;
        const double across = own.Dot(ends[t].out), mine = ends[s].reach, theirs = ends[t].reach;
        const double det = 1.0 - across * across;
        if (det < 0.01) return own * std::max(mine, theirs);
        return own * ((mine - across * theirs) / det) + ends[t].out * ((theirs - across * mine) / det);
    }
    return own * ends[s].reach;
}

/// A strip at an edge, along its sheet.
TopoDS_Face stripAt(const Part& part, const std::vector<GrowingEdge>& ends, std::size_t s) {
    const GrowingEdge& end = ends[s];
    const TopoDS_Edge edge = part.incidence().edge(end.edge);
    const GeomAdaptor_Surface surface(BRep_Tool::Surface(part.incidence().face(end.face)));
    const BRepAdaptor_Curve curve(edge);
    const double length = end.reach;
    if (surface.GetType() == GeomAbs_Plane && curve.GetType() == GeomAbs_Line) {
        const TopoDS_Edge near = TopoDS::Edge(edge.Oriented(TopAbs_FORWARD));
        const TopoDS_Vertex a = TopExp::FirstVertex(near), b = TopExp::LastVertex(near);
        const gp_Pnt pa = BRep_Tool::Pnt(a), pb = BRep_Tool::Pnt(b);
        const gp_Pnt fa = pa.Translated(cornerShift(part, ends, s, a)),
                     fb = pb.Translated(cornerShift(part, ends, s, b));
        const TopoDS_Vertex c = BRepBuilderAPI_MakeVertex(fb), d = BRepBuilderAPI_MakeVertex(fa);
        BRepBuilderAPI_MakeWire outline(near, BRepBuilderAPI_MakeEdge(b, c).Edge(),
                                        BRepBuilderAPI_MakeEdge(c, d).Edge(), BRepBuilderAPI_MakeEdge(d, a).Edge());
        return outline.IsDone() ? BRepBuilderAPI_MakeFace(surface.Plane(), outline.Wire()).Face() : TopoDS_Face();
    }
    if (surface.GetType() == GeomAbs_Plane) {
        const gp_Vec shift = end.out * length;
        gp_Trsf move;
        move.SetTranslation(shift);
        const TopoDS_Edge near = TopoDS::Edge(edge.Oriented(TopAbs_FORWARD)),
                          there = TopoDS::Edge(BRepBuilderAPI_Transform(near, move, true).Shape());
        const TopoDS_Vertex a = TopExp::FirstVertex(near), b = TopExp::LastVertex(near), c = TopExp::LastVertex(there),
                            d = TopExp::FirstVertex(there);
        if (a.IsSame(b)) return {};
        BRepBuilderAPI_MakeWire outline(near, BRepBuilderAPI_MakeEdge(b, c).Edge(), there,
                                        BRepBuilderAPI_MakeEdge(d, a).Edge());
        return outline.IsDone() ? BRepBuilderAPI_MakeFace(surface.Plane(), outline.Wire()).Face() : TopoDS_Face();
    }
    if (surface.GetType() != GeomAbs_Cylinder) return {};
    const gp_Cylinder cylinder = surface.Cylinder();
    TopoDS_Shape swept;
    if (curve.GetType() == GeomAbs_Circle) {
        const gp_Vec axis(cylinder.Axis().Direction());
        // A cosine: 1.4e-3 rad, as ends of walls are drawn.
        if (std::abs(std::abs(axis.Dot(end.out)) - 1.0) > 1e-6) return {};
        swept = BRepPrimAPI_MakePrism(edge, end.out * length).Shape();
    } else if (curve.GetType() == GeomAbs_Line) {
        const gp_Pnt at = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
        const gp_Vec round = gp_Vec(cylinder.Axis().Direction()).Crossed(gp_Vec(cylinder.Location(), at));
        swept = BRepPrimAPI_MakeRevol(edge, cylinder.Axis(),
                                      (round.Dot(end.out) > 0.0 ? 1.0 : -1.0) * length / cylinder.Radius())
                    .Shape();
    }
    return !swept.IsNull() && swept.ShapeType() == TopAbs_FACE ? TopoDS::Face(swept) : TopoDS_Face();
}

}  // namespace

Result<Regrown> grownPast(const Part& part, std::vector<GrowingEdge>& ends, const std::set<int>& joined,
                          double tolerance, Progress& progress) {
    std::vector<arrange::Input> inputs{{part.shape, part.name}};
    std::vector<TopoDS_Face> strips;
    std::vector<GrowingEdge> done;
    for (std::size_t s = 0; s < ends.size(); ++s) {
        const TopoDS_Face strip = stripAt(part, ends, s);
        if (strip.IsNull()) continue;
        strips.push_back(strip);
        done.push_back(ends[s]);
    }
    ends = std::move(done);
    if (ends.empty()) return fail(ProblemKind::NotPossible, "Its edges are of a kind that cannot be carried on.");
    for (const TopoDS_Face& strip : strips) inputs.push_back({strip, part.name});
    const auto all = arrange::arrange(std::move(inputs), tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    auto pieces = arrange::piecesOf(*all, 0);
    std::map<int, int> growsFrom;  // piece of a strip: face of the sheet
    for (std::size_t s = 0; s < ends.size(); ++s)
        for (const auto& [piece, turned] : arrange::piecesOf(*all, static_cast<int>(s) + 1)) {
            const auto& owners = all->pieces[static_cast<std::size_t>(piece)].owners;
            if (std::any_of(owners.begin(), owners.end(), [](const arrange::Owner& one) { return one.input == 0; }))
                continue;  // it lies on the sheet
            if (!growsFrom.emplace(piece, ends[s].face).second) continue;
            // The same side out as the face that it continues.
            const TopoDS_Face face = part.incidence().face(ends[s].face), strip = strips[s];
            const TopoDS_Edge edge = part.incidence().edge(ends[s].edge);
            const BRepAdaptor_Curve curve(edge);
            const double middle = 0.5 * (curve.FirstParameter() + curve.LastParameter());
            const gp_Vec wanted = outwardNormal(face, edge, middle);
            const GeomAdaptor_Surface own(BRep_Tool::Surface(all->faceOf(owners.front())));
            gp_Vec normal;
            if (own.GetType() == GeomAbs_Plane) {
                normal = gp_Vec(own.Plane().XAxis().Direction()).Crossed(gp_Vec(own.Plane().YAxis().Direction()));
            } else {
                const gp_Cylinder cylinder = own.Cylinder();
                const gp_Vec radial(cylinder.Location(), curve.Value(middle));
                normal = radial - gp_Vec(cylinder.Axis().Direction()) * radial.Dot(gp_Vec(cylinder.Axis().Direction()));
                if (!cylinder.Direct()) normal.Reverse();
            }
            pieces.emplace_back(piece, normal.Dot(wanted) < 0.0);
        }
    auto chosen = arrange::sheetOf(*all, pieces);
    if (!chosen) return tl::unexpected(chosen.error());
    Regrown grown{chosen->shape, chosen->lineage.at(0)};
    for (const auto& [piece, face] : growsFrom)
        if (const auto number = chosen->faceOfPiece.find(piece); number != chosen->faceOfPiece.end())
            grown.lineage.of(EntityKind::Face).push_back({face, number->second, true, false});
    std::sort(grown.lineage.of(EntityKind::Face).begin(), grown.lineage.of(EntityKind::Face).end());
    // Merged is where strips begin, and where they meet, and corners that have become straight. All else that the sheet
    // had stays.
    std::set<Entity> kept;
    const std::set<int> onTheWay = verticesOnTheWay(part.incidence());
    const Incidence now(grown.shape);
    for (const Link& link : grown.lineage.edges()) {
        if (joined.contains(link.before))
            for (TopoDS_Iterator end(now.edge(link.after)); end.More(); end.Next())
                kept.insert({EntityKind::Vertex, now.vertexNumber(end.Value())});
        if (joined.contains(link.before) ||
            (part.incidence().facesAt(link.before) > 1 &&
             std::none_of(ends.begin(), ends.end(), [&](const GrowingEdge& end) { return end.edge == link.before; })))
            kept.insert({EntityKind::Edge, link.after});
    }
    for (const Link& link : grown.lineage.of(EntityKind::Vertex))
        if (onTheWay.contains(link.before)) kept.insert({EntityKind::Vertex, link.after});
    auto merged = mend::mergeNeedless(grown.shape, tolerance, progress, kept, true);
    if (!merged) return tl::unexpected(merged.error());
    if (!merged->shape.IsNull()) {
        grown.lineage = chained(grown.lineage, merged->lineage);
        grown.shape = merged->shape;
    }
    return grown;
}

Result<Regrown> cutBackTo(const Part& part, const Regrown& grown, const std::vector<arrange::Input>& cutters,
                          double tolerance, Progress& progress) {
    std::vector<arrange::Input> inputs{{grown.shape, part.name}};
    inputs.insert(inputs.end(), cutters.begin(), cutters.end());
    const auto all = arrange::arrange(std::move(inputs), tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    // A piece stays when it holds a point of the sheet as it was.
    const Descents faces(grown.lineage.faces());
    auto pieces = arrange::piecesOf(*all, 0);
    std::erase_if(pieces, [&](const std::pair<int, bool>& one) {
        const arrange::Piece& piece = all->pieces[static_cast<std::size_t>(one.first)];
        if (piece.whole) return false;
        const auto owner = std::find_if(piece.owners.begin(), piece.owners.end(),
                                        [](const arrange::Owner& own) { return own.input == 0; });
        // Points of the piece: one well within, and one just beside the middle of each of its arcs.
        std::vector<gp_Pnt> points{piece.inside};
        const GeomAdaptor_Surface its(BRep_Tool::Surface(all->faceOf(piece.owners.front())));
        for (const arrange::Use& use : piece.uses) {
            if (use.trace.IsNull()) continue;
            const arrange::Arc& arc = all->arcs[static_cast<std::size_t>(use.arc)];
            gp_Pnt2d at;
            gp_Vec2d along;
            use.trace->D1(0.5 * (arc.first + arc.last), at, along);
            // Of the edge's parameters: just within the face.
            const gp_Vec2d left =
                gp_Vec2d(-along.Y(), along.X()) * (1e-3 * (use.forward ? 1.0 : -1.0) * (arc.last - arc.first));
            points.push_back(its.Value(at.X() + left.X(), at.Y() + left.Y()));
        }
        for (const Link& link : faces.ancestorsOf(owner->number)) {
            const TopoDS_Face old = part.incidence().face(link.before);
            for (const gp_Pnt& point : points) {
                BRepClass_FaceClassifier where(old, point, tolerance);
                if (where.State() == TopAbs_IN) return false;
            }
        }
        return true;
    });
    auto chosen = arrange::sheetOf(*all, pieces);
    if (!chosen) return tl::unexpected(chosen.error());
    return Regrown{chosen->shape, chained(grown.lineage, chosen->lineage.at(0))};
}

double thicknessAt(const Part& part, int face, const gp_Pnt& point) {
    const auto known = part.known.thickness.find({EntityKind::Face, face});
    if (known == part.known.thickness.end()) return 0.0;
    return known->second.at + known->second.gradient.Dot(gp_Vec(known->second.from, point));
}

std::set<int> verticesOnTheWay(const Incidence& topology) {
    std::map<int, std::vector<gp_Vec>> ways;  // away from each vertex, unit
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const TopoDS_Edge edge = topology.edge(e);
        if (BRep_Tool::Degenerated(edge)) continue;
        const BRepAdaptor_Curve curve(edge);
        for (const bool last : {false, true}) {
            gp_Pnt at;
            gp_Vec way;
            curve.D1(last ? curve.LastParameter() : curve.FirstParameter(), at, way);
            if (way.Magnitude() < Tolerance::noLength) continue;
            const TopoDS_Edge forward = TopoDS::Edge(edge.Oriented(TopAbs_FORWARD));
            ways[topology.vertexNumber(last ? TopExp::LastVertex(forward) : TopExp::FirstVertex(forward))].push_back(
                way.Normalized() * (last ? -1.0 : 1.0));
        }
    }
    std::set<int> found;
    for (const auto& [vertex, own] : ways)
        if (own.size() == 2 && own[0].Dot(own[1]) < -std::cos(Tolerance::smooth)) found.insert(vertex);
    return found;
}

std::set<int> jointEdgesOf(const Model& model, std::size_t part) {
    std::set<int> edges;
    for (const Joint& joint : model.joints) {
        if (joint.kind != EntityKind::Edge) continue;
        for (const JointUse& use : joint.uses)
            if (const auto place = model.placeOf(use.place); place && model.occurrences[*place].part == part)
                edges.insert(use.number);
    }
    return edges;
}

std::size_t replaceIn(Outcome& outcome, std::size_t p, const Regrown& regrown, const std::vector<std::size_t>& places) {
    const std::shared_ptr<const Part> part = outcome.model.parts[p];
    const auto standing = std::count_if(outcome.model.occurrences.begin(), outcome.model.occurrences.end(),
                                        [p](const Occurrence& place) { return place.part == p; });
    const bool all = static_cast<std::size_t>(standing) == places.size();
    auto fresh = part->copy();
    fresh->setShape(regrown.shape);
    fresh->known = {};
    fresh->meantOpen.clear();
    fresh->sharpened.clear();
    fresh->inherit(*part, regrown.lineage, gp_Trsf());
    PartLineage lineage = regrown.lineage;
    lineage.part = p;
    lineage.into = all ? p : outcome.model.parts.size();
    if (all) {
        outcome.model.parts[p] = std::move(fresh);
    } else {
        fresh->id = 0;
        fresh->name = freeName(outcome.model, part->name);
        outcome.notes.push_back(fmt::format("\"{}\" is carried on in its own way and is a part of its own now: \"{}\".",
                                            placeName(outcome.model, places.front()), fresh->name));
        for (const std::size_t place : places) outcome.model.occurrences.change(place).part = lineage.into;
        outcome.model.parts.push_back(std::move(fresh));
    }
    const std::size_t into = lineage.into;
    outcome.lineage.push_back(std::move(lineage));
    return into;
}

}  // namespace rasoir::reduce
