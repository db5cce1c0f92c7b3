#include "reduce/beams_on_sheets.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Wire.hxx>

#include "arrange/arrangement.h"
#include "divide/parted.h"
#include "geometry/curves.h"
#include "geometry/extent.h"
#include "join/contacts.h"
#include "join/touchable.h"
#include "model/lineage_builder.h"
#include "model/named.h"
#include "model/places.h"
#include "topology/making.h"

// 1. The survey of contacts says which edges of beams come near which faces, measured from skin to skin.
// 2. Through each beam's line goes a curtain: a strip along the line's foot, in the direction from the line to the
//    sheet, only as high as it takes to cross the sheet, and carried on straight past both ends to the sheet's outline.
//    Arranged with the sheet it parts the faces there; where the line itself ends the curtain has an edge, so the sheet
//    gets a node.
// 3. The sheet's edges on the curtain's middle are the beam's new line. What its line was off is the section's offset.
// A beam for which any of this does not hold is linked instead: never half moved.

namespace rasoir::reduce {
namespace {

using PlacePair = std::pair<std::size_t, std::size_t>;

/// A line of a beam over a sheet, in the sheet's coordinates.
struct Foot {
    int edge = 0;  // of the beam
    Handle(Geom_Curve) line;
    double first = 0.0, last = 0.0;
    gp_Vec down;        // unit, from the line to the sheet
    double near = 0.0;  // [mm] least and largest distance along `down`
    double far = 0.0;
};

/// An edge of the parted sheet that lies at the foot of a line.
struct Piece {
    int edge = 0;                 // of the sheet
    double from = 0.0, to = 0.0;  // along the beam's line
};

class Placing {
public:
    Placing(const Model& received, const BeamsOnSheets& step, Progress& progress) : m_step(step), m_progress(progress) {
        m_outcome.model = received;
        m_outcome.model.giveIds();
    }

    Result<Outcome> run() {
        if (!(m_step.upTo >= 0.0) || !std::isfinite(m_step.upTo))
            return fail(ProblemKind::BadInput, "The widest gap must be zero or more.");
        const auto meant = placesMeant(m_outcome.model, m_step.parts);
        if (!meant) return tl::unexpected(meant.error());
        const double upTo = m_step.upTo > 0.0 ? m_step.upTo : join::safeLimit(m_outcome.model).mm;
        auto found = findBeamsOnSheets(m_outcome.model, upTo, m_progress);
        if (!found) return tl::unexpected(found.error());
        std::erase_if(*found, [&](const BeamOnSheet& one) {
            return !std::binary_search(meant->begin(), meant->end(), one.beam);
        });
        if (found->empty())
            return fail(ProblemKind::NothingToDo, fmt::format("No beam comes within {} mm of a sheet.", readable(upTo)),
                        "Take a wider gap, or make beams and sheets first.");
        std::map<std::size_t, std::vector<const BeamOnSheet*>> bySheet;
        std::map<std::size_t, std::size_t> sheetsOf;  // by beam: on how many it lies
        for (const BeamOnSheet& one : *found) sheetsOf[one.beam] += !one.edges.empty();
        std::vector<std::pair<const BeamOnSheet*, std::string>> linked;  // with the reason
        for (const BeamOnSheet& one : *found) {
            if (one.edges.empty())
                linked.emplace_back(&one, "it only ends there");
            else if (sheetsOf[one.beam] > 1)
                linked.emplace_back(&one, "it lies on several sheets");
            else if (hasNodes(one.beam))
                linked.emplace_back(&one, "other beams end at its nodes");
            else
                bySheet[one.sheet].push_back(&one);
        }
        for (const auto& [sheet, beams] : bySheet) {
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            for (const auto& [beam, why] : putOn(sheet, beams)) linked.emplace_back(beam, why);
        }
        for (const auto& [beam, why] : linked) link(*beam, why);
        m_outcome.model.joints.insert(m_outcome.model.joints.end(), m_joints.begin(), m_joints.end());
        m_outcome.jointsMade = m_joints.size();
        m_outcome.summary =
            fmt::format("Beams onto {}", counted(bySheet.size() + linkedSheets(linked, bySheet), "sheet"));
        return std::move(m_outcome);
    }

private:
    const BeamsOnSheets& m_step;
    Progress& m_progress;
    Outcome m_outcome;
    std::vector<Joint> m_joints;

    [[nodiscard]] const Part& partAt(std::size_t place) const {
        return *m_outcome.model.parts[m_outcome.model.occurrences[place].part];
    }

    [[nodiscard]] std::size_t placesWith(std::size_t part) const {
        const auto& places = m_outcome.model.occurrences;
        return static_cast<std::size_t>(
            std::count_if(places.begin(), places.end(), [part](const Occurrence& one) { return one.part == part; }));
    }
    /// The faces of a place's part, to ask for feet; in the part's coordinates.
    [[nodiscard]] std::vector<join::SkinFace> facesAt(std::size_t place) const {
        std::vector<join::SkinFace> faces;
        const Incidence& topology = partAt(place).incidence();
        for (int f = 1; f <= topology.faceCount(); ++f) faces.emplace_back(topology.face(f), f, true, nullptr);
        return faces;
    }

    template <class Linked, class BySheet>
    static std::size_t linkedSheets(const Linked& linked, const BySheet& bySheet) {
        std::set<std::size_t> more;
        for (const auto& [beam, why] : linked)
            if (!bySheet.contains(beam->sheet)) more.insert(beam->sheet);
        return more.size();
    }

    /// Whether a beam has nodes in common with others: moved alone it would leave them.
    [[nodiscard]] bool hasNodes(std::size_t beam) const {
        const PlaceId id = m_outcome.model.occurrences[beam].id;
        return std::any_of(m_outcome.model.joints.begin(), m_outcome.model.joints.end(), [id](const Joint& joint) {
            return std::any_of(joint.uses.begin(), joint.uses.end(),
                               [id](const JointUse& use) { return use.place == id; });
        });
    }

    /// The lines of a beam over a sheet; none, with the reason, where one of them does not lie along it.
    Result<std::vector<Foot>> feetOf(const BeamOnSheet& one) const {
        const auto no = [](const char* why) { return fail(ProblemKind::NotPossible, why); };
        const Part& beam = partAt(one.beam);
        const Incidence& topology = beam.incidence();
        if (static_cast<int>(one.edges.size()) != topology.edgeCount()) return no("it reaches past the sheet");
        const gp_Trsf there = m_outcome.model.occurrences[one.sheet].placement.Inverted() *
                              m_outcome.model.occurrences[one.beam].placement;
        const std::vector<join::SkinFace> sheet = facesAt(one.sheet);
        std::vector<Foot> feet;
        for (const int e : one.edges) {
            Foot foot;
            foot.edge = e;
            const Handle(Geom_Curve) curve = BRep_Tool::Curve(topology.edge(e), foot.first, foot.last);
            foot.line = Handle(Geom_Curve)::DownCast(curve->Transformed(there));
            foot.near = 1e300;
            std::vector<std::pair<gp_Vec, double>> ways;
            for (const double share : {0.02, 0.26, 0.5, 0.74, 0.98}) {
                const gp_Pnt at = foot.line->Value(foot.first + share * (foot.last - foot.first));
                std::optional<gp_Pnt> nearest;
                gp_Vec normal;
                for (const join::SkinFace& face : sheet) {
                    if (!one.faces.contains(face.number())) continue;
                    const auto below = face.below(at);
                    if (!below || (nearest && nearest->Distance(at) <= below->foot.Distance(at))) continue;
                    nearest = below->foot;
                    gp_Pnt on;
                    if (const auto uv = face.footOf(at, std::nullopt)) face.skinAt(*uv, on, normal);
                }
                if (!nearest) return no("it reaches past the sheet");
                const gp_Vec way(at, *nearest);
                ways.emplace_back(way.Magnitude() > 1e-4 ? way.Normalized() : normal, way.Magnitude());
            }
            foot.down = ways[2].first;
            for (const auto& [way, length] : ways) {
                if (std::abs(way.Dot(foot.down)) < std::cos(2e-3)) return no("it stands askew over the sheet");
                const double along = way.Dot(foot.down) > 0.0 ? length : -length;
                foot.near = std::min(foot.near, along);
                foot.far = std::max(foot.far, along);
            }
            feet.push_back(foot);
        }
        return feet;
    }

    /// A strip that crosses the sheet at the foot of a line, and on past its ends.
    static TopoDS_Shape curtainOf(const Foot& foot, double height, double size) {
        gp_Pnt begin, end;
        gp_Vec out, on;
        foot.line->D1(foot.first, begin, out);
        foot.line->D1(foot.last, end, on);
        const gp_Vec lift = foot.down * (foot.near - height);
        gp_Trsf move;
        move.SetTranslation(lift);
        const auto tangent = [&](const gp_Vec& way) {  // level, so that the strip stays at the sheet
            return (way - foot.down * way.Dot(foot.down)).Normalized();
        };
        const Handle(Geom_Curve) line = Handle(Geom_Curve)::DownCast(foot.line->Transformed(move));
        const gp_Pnt from = begin.Translated(lift), to = end.Translated(lift);
        BRepBuilderAPI_MakeWire wire(BRepBuilderAPI_MakeEdge(from.Translated(tangent(out) * -size), from).Edge());
        wire.Add(BRepBuilderAPI_MakeEdge(line, foot.first, foot.last).Edge());
        wire.Add(BRepBuilderAPI_MakeEdge(to, to.Translated(tangent(on) * size)).Edge());
        if (!wire.IsDone()) return {};
        return BRepPrimAPI_MakePrism(wire.Wire(), foot.down * (foot.far - foot.near + 2.0 * height)).Shape();
    }

    /// The edges of a parted sheet at the foot of a line, in order along it; empty where they leave a part of it out.
    std::vector<Piece> piecesAt(const Incidence& sheet, const Foot& foot, double height) const {
        const double tolerance = 20.0 * m_outcome.model.tolerances().samePoint;
        std::vector<Piece> pieces;
        // Where a point lies along the line; none where it is not at its foot.
        const auto along = [&](const gp_Pnt& point) -> std::optional<double> {
            // Straight and round lines have their own foot; the direction down is not counted.
            double at = 0.5 * (foot.first + foot.last);
            for (int round = 0; round < 20; ++round) {
                gp_Pnt on;
                gp_Vec way;
                foot.line->D1(at, on, way);
                const gp_Vec level = way - foot.down * way.Dot(foot.down);
                const double step = gp_Vec(on, point).Dot(level) / level.SquareMagnitude();
                at = std::clamp(at + step, foot.first - 1.0, foot.last + 1.0);
                if (std::abs(step) * level.Magnitude() < 0.01 * tolerance) break;
            }
            const gp_Vec off(foot.line->Value(at), point);
            const double below = off.Dot(foot.down);
            if ((off - foot.down * below).Magnitude() > tolerance) return std::nullopt;
            if (below < foot.near - height || below > foot.far + height) return std::nullopt;
            return at;
        };
        const double slack = tolerance / std::max(1e-9, speedOf(foot));
        for (int e = 1; e <= sheet.edgeCount(); ++e) {
            const BRepAdaptor_Curve curve(sheet.edge(e));
            const double first = curve.FirstParameter(), last = curve.LastParameter();
            const auto from = along(curve.Value(first)), middle = along(curve.Value(0.5 * (first + last))),
                       to = along(curve.Value(last));
            if (!from || !middle || !to) continue;
            const Piece piece{e, *from, *to};
            if (std::min(*from, *to) < foot.first - slack || std::max(*from, *to) > foot.last + slack) continue;
            pieces.push_back(piece);
        }
        std::sort(pieces.begin(), pieces.end(),
                  [](const Piece& a, const Piece& b) { return std::min(a.from, a.to) < std::min(b.from, b.to); });
        double reached = foot.first;
        for (const Piece& piece : pieces) {
            if (std::abs(std::min(piece.from, piece.to) - reached) > slack) return {};
            reached = std::max(piece.from, piece.to);
        }
        if (std::abs(reached - foot.last) > slack) return {};
        return pieces;
    }

    static double speedOf(const Foot& foot) {
        gp_Pnt at;
        gp_Vec way;
        foot.line->D1(0.5 * (foot.first + foot.last), at, way);
        return way.Magnitude();
    }

    /// A thing of a sheet that a beam has in common with it: of several beams that cross there it is one joint.
    void addUse(EntityKind kind, const JointUse& ofSheet, const JointUse& ofBeam) {
        const auto known = std::find_if(m_joints.begin(), m_joints.end(), [&](const Joint& joint) {
            return joint.kind == kind && joint.uses.front() == ofSheet;
        });
        if (known == m_joints.end())
            m_joints.push_back({kind, {ofSheet, ofBeam}, 0.0});
        else
            known->uses.push_back(ofBeam);
    }

    /// Puts beams on one sheet; returns those that have to be linked, with the reason.
    std::vector<std::pair<const BeamOnSheet*, std::string>> putOn(std::size_t sheet,
                                                                  const std::vector<const BeamOnSheet*>& beams) {
        std::vector<std::pair<const BeamOnSheet*, std::string>> left;
        std::vector<std::pair<const BeamOnSheet*, std::vector<Foot>>> laid;
        for (const BeamOnSheet* one : beams) {
            auto feet = feetOf(*one);
            if (feet)
                laid.emplace_back(one, std::move(*feet));
            else
                left.emplace_back(one, feet.error().what);
        }
        if (laid.empty()) return left;
        Model& model = m_outcome.model;
        const Part& part = partAt(sheet);
        const Bnd_Box box = tightBox(part.shape);
        const double size = box.CornerMin().Distance(box.CornerMax());
        const double height = std::max(1e-3 * size, 100.0 * model.tolerances().samePoint);
        std::vector<arrange::Input> inputs{{part.shape, part.name}};
        for (const auto& [one, feet] : laid)
            for (const Foot& foot : feet)
                inputs.push_back({curtainOf(foot, height, size), placeName(model, one->beam)});
        const auto all = arrange::arrange(std::move(inputs), model.tolerances().samePoint, m_progress);
        auto parted = all ? divide::putTogether(part, *all) : tl::unexpected(all.error());
        if (!parted) {
            for (const auto& [one, feet] : laid) left.emplace_back(one, parted.error().what);
            return left;
        }
        const Incidence& topology = parted->part->incidence();
        std::vector<std::pair<const BeamOnSheet*, std::vector<std::pair<Foot, std::vector<Piece>>>>> fitting;
        for (auto& [one, feet] : laid) {
            std::vector<std::pair<Foot, std::vector<Piece>>> lines;
            for (const Foot& foot : feet) {
                auto pieces = piecesAt(topology, foot, height);
                if (!pieces.empty()) lines.emplace_back(foot, std::move(pieces));
            }
            if (lines.size() == feet.size())
                fitting.emplace_back(one, std::move(lines));
            else
                left.emplace_back(one, "the sheet is not parted all along it");
        }
        if (fitting.empty()) return left;
        replaceSheet(sheet, std::move(*parted));
        for (const auto& [one, lines] : fitting) moveBeam(*one, lines);
        return left;
    }

    void replaceSheet(std::size_t place, divide::Parted parted) {
        Model& model = m_outcome.model;
        const std::size_t p = model.occurrences[place].part;
        parted.lineage.part = p;
        parted.lineage.into = p;
        if (placesWith(p) > 1) {
            auto own = parted.part->copy();
            own->id = 0;
            own->name = freeName(model, own->name);
            m_outcome.notes.push_back(
                fmt::format("\"{}\" carries beams of its own and is a part of its own now: \"{}\".",
                            placeName(model, place), own->name));
            parted.lineage.into = model.parts.size();
            model.occurrences.change(place).part = parted.lineage.into;
            model.parts.push_back(std::move(own));
            model.giveIds();
        } else {
            model.parts[p] = std::move(parted.part);
        }
        m_outcome.lineage.push_back(std::move(parted.lineage));
    }

    void moveBeam(const BeamOnSheet& one, const std::vector<std::pair<Foot, std::vector<Piece>>>& lines) {
        Model& model = m_outcome.model;
        const std::size_t p = model.occurrences[one.beam].part;
        const Part& before = *model.parts[p];
        const Incidence& sheet = partAt(one.sheet).incidence();
        const gp_Trsf into = model.occurrences[one.beam].placement.Inverted() * model.occurrences[one.sheet].placement;
        const BRep_Builder builder;
        TopoDS_Wire wire;
        builder.MakeWire(wire);
        std::map<int, TopoDS_Vertex> vertices;  // by the sheet's
        const auto vertexOf = [&](int number) -> const TopoDS_Vertex& {
            const auto [at, fresh] = vertices.try_emplace(number);
            if (fresh)
                builder.MakeVertex(at->second, BRep_Tool::Pnt(TopoDS::Vertex(sheet.vertex(number))).Transformed(into),
                                   1e-7);
            return at->second;
        };
        struct Made {
            TopoDS_Edge edge;
            int onSheet = 0, from = 0;  // the sheet's edge, and the beam's old one
            bool reversed = false;      // against the sheet's
            Section section;
        };
        std::vector<Made> made;
        double moved = 0.0, length = 0.0;
        for (const auto& [foot, pieces] : lines) {
            const auto known = before.known.sections.find({EntityKind::Edge, foot.edge});
            for (const Piece& piece : pieces) {
                Made now;
                now.onSheet = piece.edge;
                now.from = foot.edge;
                now.reversed = piece.from > piece.to;
                const TopoDS_Edge whole = TopoDS::Edge(sheet.edge(piece.edge).Oriented(TopAbs_FORWARD));
                double first = 0.0, last = 0.0;
                Handle(Geom_Curve) curve =
                    Handle(Geom_Curve)::DownCast(BRep_Tool::Curve(whole, first, last)->Transformed(into));
                int begin = sheet.vertexNumber(TopExp::FirstVertex(whole)),
                    end = sheet.vertexNumber(TopExp::LastVertex(whole));
                if (now.reversed) {  // the beam's line runs on as it did
                    const double oldFirst = first;
                    first = curve->ReversedParameter(last);
                    last = curve->ReversedParameter(oldFirst);
                    curve = curve->Reversed();
                    std::swap(begin, end);
                }
                now.edge = edgeAlong(curve, first, last, vertexOf(begin), vertexOf(end));
                builder.Add(wire, now.edge);
                if (known != before.known.sections.end()) now.section = known->second;
                // The section stays where it was: what the line has moved by is added to its offset.
                const auto offset = [&](double along, const gp_Pnt& at) {
                    const double share = (along - foot.first) / (foot.last - foot.first);
                    gp_Vec off(at, foot.line->Value(along).Transformed(into));
                    moved = std::max(moved, off.Magnitude());
                    if (known == before.known.sections.end()) return off;
                    return off + known->second.startOffset * (1.0 - share) + known->second.endOffset * share;
                };
                now.section.startOffset = offset(std::min(piece.from, piece.to), curve->Value(first));
                now.section.endOffset = offset(std::max(piece.from, piece.to), curve->Value(last));
                length += GCPnts_AbscissaPoint::Length(BRepAdaptor_Curve(now.edge));
                made.push_back(std::move(now));
            }
        }
        auto part = before.copy();
        part->setShape(wire);
        part->known = {};
        const Incidence& topology = part->incidence();
        LineageBuilder descent(before.incidence(), wire);
        for (const Made& now : made) descent.edge(now.from, now.edge);
        PartLineage lineage = descent.finish();
        lineage.of(EntityKind::Body) = {{1, 1, true, false}};
        part->inherit(before, lineage, gp_Trsf());
        const PlaceId beamId = model.occurrences[one.beam].id, sheetId = model.occurrences[one.sheet].id;
        for (const Made& now : made) {
            const int number = topology.edgeNumber(now.edge);
            part->known.sections[{EntityKind::Edge, number}] = now.section;
            addUse(EntityKind::Edge, {sheetId, now.onSheet, false}, {beamId, number, now.reversed});
        }
        for (const auto& [number, vertex] : vertices)
            addUse(EntityKind::Vertex, {sheetId, number, false}, {beamId, topology.vertexNumber(vertex), false});
        lineage.part = lineage.into = p;
        if (placesWith(p) > 1) {
            part->id = 0;
            part->name = freeName(model, part->name);
            lineage.into = model.parts.size();
            model.occurrences.change(one.beam).part = lineage.into;
            model.parts.push_back(std::move(part));
            model.giveIds();
        } else {
            model.parts[p] = std::move(part);
        }
        m_outcome.lineage.push_back(std::move(lineage));
        m_outcome.items.push_back(
            {fmt::format("{} on {}: {} mm in common, its line moved by up to {} mm", placeName(model, one.beam),
                         placeName(model, one.sheet), readable(length), readable(moved)),
             true,
             {},
             0.0});
    }

    void link(const BeamOnSheet& one, const std::string& why) {
        Model& model = m_outcome.model;
        const std::string beam = placeName(model, one.beam), sheet = placeName(model, one.sheet);
        if (m_step.otherwise == "leave") {
            m_outcome.items.push_back({fmt::format("{} on {}", beam, sheet),
                                       false,
                                       {ProblemKind::NotPossible,
                                        fmt::format("\"{}\" stays beside \"{}\": {}.", beam, sheet, why),
                                        {beam, {}, one.where},
                                        "Let it be linked."},
                                       one.gap});
            return;
        }
        const Part& part = partAt(one.beam);
        Group line{fmt::format("{} on {}, beam", beam, sheet), "beam", std::nullopt, {}, std::nullopt},
            faces{fmt::format("{} on {}, faces", beam, sheet), "support of a beam", std::nullopt, {}, std::nullopt};
        if (one.edges.empty()) {
            // The end nearest to where it comes near.
            const Incidence& topology = part.incidence();
            int nearest = 1;
            double least = 1e300;
            for (int v = 1; v <= topology.vertexCount(); ++v) {
                const double off = BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(v)))
                                       .Transformed(model.occurrences[one.beam].placement)
                                       .Distance(one.where);
                if (off < least) {
                    least = off;
                    nearest = v;
                }
            }
            line.members.insert({part.id, model.occurrences[one.beam].id, {EntityKind::Vertex, nearest}});
        }
        for (const int e : one.edges)
            line.members.insert({part.id, model.occurrences[one.beam].id, {EntityKind::Edge, e}});
        // Faces parted for other beams are found by place: what lies under the beam is the nearest one now.
        const Part& carrier = partAt(one.sheet);
        const gp_Pnt at = one.where.Transformed(model.occurrences[one.sheet].placement.Inverted());
        std::optional<std::pair<double, int>> under;
        for (const join::SkinFace& face : facesAt(one.sheet))
            if (const auto below = face.below(at); below && (!under || below->foot.Distance(at) < under->first))
                under = {below->foot.Distance(at), face.number()};
        if (!under) return;
        faces.members.insert({carrier.id, model.occurrences[one.sheet].id, {EntityKind::Face, under->second}});
        Pairing pairing;
        pairing.name = fmt::format("{} on {}", beam, sheet);
        pairing.kind = PairingKind::Link;
        pairing.first = line.name;
        pairing.second = faces.name;
        pairing.behaviour = "rigid";
        putByName(model.groups, std::move(line));
        putByName(model.groups, std::move(faces));
        putByName(model.pairings, std::move(pairing));
        m_outcome.items.push_back(
            {fmt::format("{} on {}: a rigid link, since {}", beam, sheet, why), true, {}, one.gap});
    }
};

}  // namespace

Result<std::vector<BeamOnSheet>> findBeamsOnSheets(const Model& model, double upTo, Progress& progress) {
    Model seen = model;
    std::set<std::size_t> beams, sheets;
    for (std::size_t o = 0; o < seen.occurrences.size(); ++o) {
        const Occurrence& place = seen.occurrences[o];
        const BodyKind kind = seen.parts[place.part]->kind();
        if (place.aside) continue;
        if (kind == BodyKind::Wire && !seen.parts[place.part]->known.sections.empty())
            beams.insert(o);
        else if (kind == BodyKind::Sheet)
            sheets.insert(o);
        else
            seen.occurrences.change(o).aside = true;
    }
    std::vector<BeamOnSheet> all;
    if (beams.empty() || sheets.empty()) return all;
    join::ContactSearch search;
    search.upTo = upTo;
    search.fromSkins = search.linesAndPoints = true;
    const auto report = join::findContacts(seen, search, progress);
    if (!report) return tl::unexpected(report.error());
    std::map<PlacePair, BeamOnSheet> found;
    std::map<PlacePair, std::map<int, double>> along;  // by edge
    for (const join::Contact& contact : report->contacts) {
        const bool first = beams.contains(contact.placeA);
        const std::size_t beam = first ? contact.placeA : contact.placeB,
                          sheet = first ? contact.placeB : contact.placeA;
        const int edge = first ? contact.edgeA : contact.edgeB, face = first ? contact.faceB : contact.faceA;
        if (!beams.contains(beam) || !sheets.contains(sheet) || edge == 0 || face == 0) continue;
        const auto [at, fresh] = found.try_emplace({beam, sheet});
        BeamOnSheet& one = at->second;
        if (fresh || contact.gap < one.gap) {
            one.gap = contact.gap;
            one.where = contact.where;
        }
        one.beam = beam;
        one.sheet = sheet;
        one.faces.insert(face);
        one.length += contact.length;
        along[{beam, sheet}][edge] += contact.length;
    }
    for (auto& [pair, one] : found) {
        const Incidence& topology = model.parts[model.occurrences[one.beam].part]->incidence();
        for (const auto& [edge, length] : along[pair]) {
            const BRepAdaptor_Curve curve(topology.edge(edge));
            const double whole = GCPnts_AbscissaPoint::Length(curve);
            if (length > 0.5 * whole) one.edges.insert(edge);
        }
        const PlaceId beam = model.occurrences[one.beam].id, sheet = model.occurrences[one.sheet].id;
        const bool known = std::any_of(model.joints.begin(), model.joints.end(), [&](const Joint& joint) {
            const auto has = [&](PlaceId id) {
                return std::any_of(joint.uses.begin(), joint.uses.end(),
                                   [id](const JointUse& use) { return use.place == id; });
            };
            return has(beam) && has(sheet);
        });
        if (!known) all.push_back(std::move(one));
    }
    std::stable_sort(all.begin(), all.end(), [](const BeamOnSheet& a, const BeamOnSheet& b) { return a.gap < b.gap; });
    return all;
}

std::vector<ParameterInfo> BeamsOnSheets::infos() {
    return {
        {"parts", "list of names", "", "Beams, by parts or places; empty: all that come near a sheet.", Json::array()},
        {"upTo", "number", "mm", "Widest gap from skin to skin; 0: the safe gap.", 0.0},
        {"otherwise", "text", "", "What cannot share nodes: link, tied rigidly; or leave.", "link"}};
}
void to_json(Json& json, const BeamsOnSheets& step) {
    json = Json{{"upTo", step.upTo}};
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (step.otherwise != "link") json["otherwise"] = step.otherwise;
}
void from_json(const Json& json, BeamsOnSheets& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
    step.otherwise = json.value("otherwise", "link");
    if (step.otherwise != "link" && step.otherwise != "leave")
        throw std::invalid_argument("otherwise is link or leave");
}

Result<Outcome> putBeamsOnSheets(const Model& model, const BeamsOnSheets& step, Progress& progress) {
    return Placing(model, step, progress).run();
}

}  // namespace rasoir::reduce
