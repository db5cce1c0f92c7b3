#include "reduce/join_sheets.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepClass_FaceClassifier.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Circ.hxx>
#include <gp_Cylinder.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "arrange/choice.h"
#include "divide/cutters.h"
#include "geometry/ray_field.h"
#include "join/contacts.h"
#include "join/pairs.h"
#include "mend/merge.h"
#include "model/lineage_builder.h"
#include "model/places.h"
#include "topology/edge_angle.h"

// 1. Rays from five points of each free edge, along its sheet, tell which edges end before another sheet, and how far.
// 2. A sheet gets a strip at each such edge, longer than it is to there. Sheet and strips are arranged, and merged
// where
//    the strip begins, so that the face itself has grown and no edge is left half a thickness before the joint.
// 3. What has grown is arranged with the sheets it was grown to. Of each face the piece that holds some of the old face
//    stays, and what hangs over beyond goes.
// 4. A line that ends within the face it lies on parts no face, and would be no edge of it. So that face is parted
// along
//    the line carried on to its outline.
// 5. Now edges lie on sheets, and joining them is join.pairs.
//
// Places of one part that are to grow alike stay places of one part.

namespace rasoir::reduce {
namespace {

constexpr std::array<double, 5> shares{0.05, 0.275, 0.5, 0.725, 0.95};

double thicknessAt(const Part& part, int face, const gp_Pnt& point) {
    const auto known = part.known.thickness.find({EntityKind::Face, face});
    if (known == part.known.thickness.end()) return 0.0;
    return known->second.at + known->second.gradient.Dot(gp_Vec(known->second.from, point));
}

/// Along a sheet, out of its face, at a point of one of its edges; null where it has no direction.
gp_Vec outAlong(const Incidence& topology, int face, int edge, const BRepAdaptor_Curve& curve, double parameter,
                gp_Pnt& at) {
    gp_Vec along;
    curve.D1(parameter, at, along);
    const gp_Vec normal = outwardNormal(topology.face(face), topology.edge(edge), parameter);
    if (along.SquareMagnitude() < 1e-200 || normal.SquareMagnitude() < 0.5) return {};
    gp_Vec out = along.Normalized().Crossed(normal);
    for (const EdgeUse& use : topology.usesOf(edge))
        if (use.face == face && !use.forward) out.Reverse();
    return out;
}

}  // namespace

std::vector<ShortEnd> findShortEnds(const Model& model, const std::vector<std::size_t>& places, double upTo,
                                    Progress& progress) {
    std::vector<ShortEnd> found;
    const RayField rays(model, places, 1e-4, progress);
    const double safe = join::safeLimit(model).mm, least = 10.0 * model.tolerances().samePoint;
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
                const gp_Vec out = outAlong(topology, face, e, curve, parameter, at);
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
        for (ShortEnd& end : findShortEnds(m_model, m_places, m_step.upTo, m_progress))
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
    [[nodiscard]] double reach(const ShortEnd& end) const {
        return 1.5 * end.farthest() + 100.0 * m_model.tolerances().samePoint;
    }

    /// Where a strip's corner lies, from the vertex at which it begins. Strips at two edges of one corner have the
    /// point in common that lies as far out as either asks for, so that together they fill the corner.
    [[nodiscard]] gp_Vec cornerShift(const Part& part, const std::vector<ShortEnd>& ends, std::size_t s,
                                     const TopoDS_Vertex& vertex) const {
        const gp_Vec own = ends[s].out;
        for (std::size_t t = 0; t < ends.size(); ++t) {
            if (t == s || ends[t].face != ends[s].face) continue;
            const TopoDS_Edge other = part.incidence().edge(ends[t].edge);
            if (!TopExp::FirstVertex(other).IsSame(vertex) && !TopExp::LastVertex(other).IsSame(vertex)) continue;
            if (BRepAdaptor_Curve(other).GetType() != GeomAbs_Line) continue;
            const double across = own.Dot(ends[t].out), mine = reach(ends[s]), theirs = reach(ends[t]);
            const double det = 1.0 - across * across;
            if (det < 0.01) return own * std::max(mine, theirs);
            return own * ((mine - across * theirs) / det) + ends[t].out * ((theirs - across * mine) / det);
        }
        return own * reach(ends[s]);
    }

    /// A strip at an edge, along its sheet.
    TopoDS_Face stripAt(const Part& part, const std::vector<ShortEnd>& ends, std::size_t s) const {
        const ShortEnd& end = ends[s];
        const TopoDS_Edge edge = part.incidence().edge(end.edge);
        const GeomAdaptor_Surface surface(BRep_Tool::Surface(part.incidence().face(end.face)));
        const BRepAdaptor_Curve curve(edge);
        const double length = reach(end);
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
            const TopoDS_Vertex a = TopExp::FirstVertex(near), b = TopExp::LastVertex(near),
                                c = TopExp::LastVertex(there), d = TopExp::FirstVertex(there);
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

    struct Grown {
        TopoDS_Shape shape;
        PartLineage lineage;
    };

    /// The sheet with its strips as one, in its part's coordinates, as far as they can be made; the ends that could are
    /// left in `ends`.
    Result<Grown> withStrips(const Part& part, std::vector<ShortEnd>& ends) {
        std::vector<arrange::Input> inputs{{part.shape, part.name}};
        std::vector<TopoDS_Face> strips;
        std::vector<ShortEnd> done;
        for (std::size_t s = 0; s < ends.size(); ++s) {
            const TopoDS_Face strip = stripAt(part, ends, s);
            if (strip.IsNull()) continue;
            strips.push_back(strip);
            done.push_back(ends[s]);
        }
        ends = std::move(done);
        if (ends.empty()) return fail(ProblemKind::NotPossible, "Its edges are of a kind that cannot be carried on.");
        for (const TopoDS_Face& strip : strips) inputs.push_back({strip, part.name});
        const auto all = arrange::arrange(std::move(inputs), m_model.tolerances().samePoint, m_progress);
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
                    normal =
                        radial - gp_Vec(cylinder.Axis().Direction()) * radial.Dot(gp_Vec(cylinder.Axis().Direction()));
                    if (!cylinder.Direct()) normal.Reverse();
                }
                pieces.emplace_back(piece, normal.Dot(wanted) < 0.0);
            }
        auto chosen = arrange::sheetOf(*all, pieces);
        if (!chosen) return tl::unexpected(chosen.error());
        Grown grown{chosen->shape, chosen->lineage.at(0)};
        for (const auto& [piece, face] : growsFrom)
            if (const auto number = chosen->faceOfPiece.find(piece); number != chosen->faceOfPiece.end())
                grown.lineage.of(EntityKind::Face).push_back({face, number->second, true, false});
        std::sort(grown.lineage.of(EntityKind::Face).begin(), grown.lineage.of(EntityKind::Face).end());
        // Merged is where strips begin, and where they meet; edges that the sheet had stay.
        std::set<Entity> kept;
        for (const Link& link : grown.lineage.edges())
            if (std::none_of(ends.begin(), ends.end(), [&](const ShortEnd& end) { return end.edge == link.before; }))
                kept.insert({EntityKind::Edge, link.after});
        auto merged = mend::mergeNeedless(grown.shape, m_model.tolerances().samePoint, m_progress, kept);
        if (!merged) return tl::unexpected(merged.error());
        if (!merged->shape.IsNull()) {
            grown.lineage = chained(grown.lineage, merged->lineage);
            grown.shape = merged->shape;
        }
        return grown;
    }

    /// What has grown beyond the sheets it was grown to goes. `place`: in model coordinates.
    Result<Grown> cutBack(const Part& part, const Grown& grown, std::size_t place, const std::vector<ShortEnd>& ends) {
        const gp_Trsf& placement = m_model.occurrences[place].placement;
        std::vector<arrange::Input> inputs{{grown.shape, part.name}};
        std::set<std::size_t> targets;
        for (const ShortEnd& end : ends) targets.insert(end.target);
        for (const std::size_t target : targets)
            inputs.push_back({partAt(target).shape.Moved(
                                  TopLoc_Location(placement.Inverted() * m_model.occurrences[target].placement)),
                              placeName(m_model, target)});
        const auto all = arrange::arrange(std::move(inputs), m_model.tolerances().samePoint, m_progress);
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
                const gp_Vec2d left =
                    gp_Vec2d(-along.Y(), along.X()) * (1e-3 * (use.forward ? 1.0 : -1.0) * (arc.last - arc.first));
                points.push_back(its.Value(at.X() + left.X(), at.Y() + left.Y()));
            }
            for (const Link& link : faces.ancestorsOf(owner->number)) {
                const TopoDS_Face old = part.incidence().face(link.before);
                for (const gp_Pnt& point : points) {
                    BRepClass_FaceClassifier where(old, point, m_model.tolerances().samePoint);
                    if (where.State() == TopAbs_IN) return false;
                }
            }
            return true;
        });
        auto chosen = arrange::sheetOf(*all, pieces);
        if (!chosen) return tl::unexpected(chosen.error());
        return Grown{chosen->shape, chained(grown.lineage, chosen->lineage.at(0))};
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
            std::size_t standing = 0;
            for (const Occurrence& place : m_model.occurrences) standing += place.part == p;
            for (const auto& places : classes) {
                if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                const Part& part = *m_model.parts[p];
                std::vector<ShortEnd> ends = m_ends.at(places.front());
                auto grown = withStrips(part, ends);
                if (grown) grown = cutBack(part, *grown, places.front(), ends);
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
                replace(p, part, *grown, places, places.size() == standing);
            }
        }
        return {};
    }

    void replace(std::size_t p, const Part& part, const Grown& grown, const std::vector<std::size_t>& places,
                 bool all) {
        auto fresh = part.copy();
        fresh->setShape(grown.shape);
        fresh->known = {};
        fresh->meantOpen.clear();
        fresh->sharpened.clear();
        fresh->inherit(part, grown.lineage, gp_Trsf());
        PartLineage lineage = grown.lineage;
        lineage.part = p;
        lineage.into = all ? p : m_outcome.model.parts.size();
        if (all) {
            m_outcome.model.parts[p] = std::move(fresh);
        } else {
            fresh->id = 0;
            fresh->name = freeName(m_outcome.model, part.name);
            m_outcome.notes.push_back(
                fmt::format("\"{}\" is carried on in its own way and is a part of its own now: \"{}\".",
                            placeName(m_model, places.front()), fresh->name));
            for (const std::size_t place : places) m_outcome.model.occurrences[place].part = lineage.into;
            m_outcome.model.parts.push_back(std::move(fresh));
        }
        m_outcome.lineage.push_back(std::move(lineage));
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
                                                       m_model.tolerances().samePoint);
                        return where.State() == TopAbs_IN;
                    };
                    if (!inFace(line.points[1]) || !(inFace(line.points[0]) || inFace(line.points[2]))) continue;
                    Bnd_Box box;
                    BRepBndLib::Add(part.incidence().face(f), box, false);
                    const TopoDS_Face wall =
                        divide::faceAcross(line.plane.Transformed(inverse), box, m_model.tolerances().samePoint);
                    if (!wall.IsNull()) inputs.push_back({wall, part.name, {f}});
                }
            if (inputs.size() == 1) continue;
            const auto all = arrange::arrange(std::move(inputs), m_model.tolerances().samePoint, m_progress);
            if (!all) return tl::unexpected(all.error());
            const auto chosen = arrange::sheetOf(*all, arrange::piecesOf(*all, 0));
            if (!chosen) return tl::unexpected(chosen.error());
            std::size_t standing = 0;
            for (const Occurrence& place : m_outcome.model.occurrences) standing += place.part == p;
            const std::vector<PartLineage> before = std::move(m_outcome.lineage);
            m_outcome.lineage.clear();
            replace(p, part, {chosen->shape, chosen->lineage.at(0)}, {target}, standing == 1);
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
         "How far an edge is carried on; 0: half the thickness it has to go through, and the safe gap.", 0.0}};
}
void to_json(Json& json, const JoinSheets& step) {
    json = Json::object();
    if (!step.places.empty()) json["places"] = step.places;
    if (step.upTo > 0.0) json["upTo"] = step.upTo;
}
void from_json(const Json& json, JoinSheets& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> joinSheets(const Model& model, const JoinSheets& step, Progress& progress) {
    return SheetJoining(model, step, progress).run();
}

}  // namespace rasoir::reduce
