#include <fmt/format.h>
#include <fmt/ranges.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <Geom_Line.hxx>
#include <numeric>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Wire.hxx>

#include "arrange/arrangement.h"
#include "common/sets.h"
#include "common/tolerance.h"
#include "divide/parted.h"
#include "geometry/curves.h"
#include "geometry/extent.h"
#include "join/contacts.h"
#include "join/touchable.h"
#include "model/lineage_builder.h"
#include "model/named.h"
#include "model/places.h"
#include "reduce/beams_on_sheets.h"
#include "reduce/line_on_sheets.h"
#include "topology/making.h"

// 1. The survey of contacts (beams_on_sheets.cpp) says which edges of beams come near which faces, measured from skin
// to skin.
// 2. Through each beam's line goes a curtain (see feet.h). Arranged with the sheet it parts the faces there; where the
//    line itself ends the curtain has an edge, so the sheet gets a node. A beam may lie on several sheets, and each
//    sheet is parted for all its beams at once: so beams that have sheets in common are placed together.
// 3. The beam's line is put together anew of the sheets' edges at its foot (line_on_sheets). What it was off is the
//    section's offset.
// A beam for which any of this does not hold is linked instead: never half moved. Then those that remain are placed
// from the beginning, so that no sheet keeps a line of a beam that did not come.

namespace rasoir::reduce {
namespace {

using Reason = std::string;

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
        std::vector<const BeamOnSheet*> along;
        Sets together(m_outcome.model.occurrences.size());
        for (const BeamOnSheet& one : *found) {
            if (one.edges.empty()) {
                m_linked.emplace_back(&one, "it only ends there");
            } else if (hasNodes(one.beam)) {
                m_linked.emplace_back(&one, "other beams end at its nodes");
            } else {
                along.push_back(&one);
                together.join(static_cast<int>(one.beam), static_cast<int>(one.sheet));
            }
        }
        std::map<int, std::vector<const BeamOnSheet*>> groups;
        for (const BeamOnSheet* one : along) groups[together.root(static_cast<int>(one->beam))].push_back(one);
        for (auto& [root, group] : groups) {
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            place(std::move(group));
        }
        std::set<std::size_t> sheets;
        for (const BeamOnSheet& one : *found) sheets.insert(one.sheet);
        for (const auto& [beam, why] : m_linked) link(*beam, why);
        m_outcome.model.joints.insert(m_outcome.model.joints.end(), m_joints.begin(), m_joints.end());
        m_outcome.jointsMade = m_joints.size();
        m_outcome.summary = fmt::format("Beams onto {}", counted(sheets.size(), "sheet"));
        return std::move(m_outcome);
    }

private:
    const BeamsOnSheets& m_step;
    Progress& m_progress;
    Outcome m_outcome;
    std::vector<Joint> m_joints;
    std::vector<std::pair<const BeamOnSheet*, Reason>> m_linked;

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

    /// Whether a beam has nodes in common with others: moved alone it would leave them.
    [[nodiscard]] bool hasNodes(std::size_t beam) const {
        const PlaceId id = m_outcome.model.occurrences[beam].id;
        return std::any_of(m_outcome.model.joints.begin(), m_outcome.model.joints.end(), [id](const Joint& joint) {
            return std::any_of(joint.uses.begin(), joint.uses.end(),
                               [id](const JointUse& use) { return use.place == id; });
        });
    }

    /// The lines of a beam over a sheet; the reason, where there is none.
    Result<Laid> laidOn(const BeamOnSheet& one) const {
        const Incidence& topology = partAt(one.beam).incidence();
        std::vector<join::SkinFace> faces = facesAt(one.sheet);
        std::erase_if(faces, [&one](const join::SkinFace& face) { return !one.faces.contains(face.number()); });
        Laid laid{&one, {}};
        for (const int e : one.edges) {
            double first = 0.0, last = 0.0;
            const Handle(Geom_Curve) curve = BRep_Tool::Curve(topology.edge(e), first, last);
            const gp_Trsf there = fromSheetToBeam(m_outcome.model, one.beam, one.sheet).Inverted();
            auto foot = footOf(e, Handle(Geom_Curve)::DownCast(curve->Transformed(there)), first, last, faces);
            if (!foot) return tl::unexpected(foot.error());
            laid.feet.push_back(std::move(*foot));
        }
        return laid;
    }

    Result<PartedSheet> partedFor(std::size_t sheet, const std::vector<const Laid*>& beams) {
        const Part& part = partAt(sheet);
        const Bnd_Box box = tightBox(part.shape);
        const double size = box.CornerMin().Distance(box.CornerMax());
        const double same = m_outcome.model.samePoint();
        PartedSheet made;
        // Of the plates: high enough that its top is clear of them, low enough to meet nothing else.
        made.height = std::max(1e-3 * size, 100.0 * same);
        std::vector<arrange::Input> inputs{{part.shape, part.name}};
        for (const Laid* one : beams)
            for (const Foot& foot : one->feet)
                inputs.push_back({curtainOf(foot, made.height, size), placeName(m_outcome.model, one->on->beam)});
        const auto all = arrange::arrange(std::move(inputs), same, m_progress);
        auto parted = all ? divide::putTogether(part, *all) : tl::unexpected(all.error());
        if (!parted) return tl::unexpected(parted.error());
        made.parted = std::move(*parted);
        return made;
    }

    /// Places beams that hang together by their sheets. Each round leaves out those that do not come.
    void place(std::vector<const BeamOnSheet*> group) {
        const auto leave = [&](const auto& isOut, const Reason& why) {
            for (const BeamOnSheet* one : group)
                if (isOut(*one)) m_linked.emplace_back(one, why);
            std::erase_if(group, [&isOut](const BeamOnSheet* one) { return isOut(*one); });
        };
        while (!group.empty() && !m_progress.cancelled()) {
            std::vector<Laid> laid;
            std::map<const BeamOnSheet*, Reason> without;
            for (const BeamOnSheet* one : group) {
                auto lines = laidOn(*one);
                if (lines)
                    laid.push_back(std::move(*lines));
                else
                    without[one] = lines.error().what;
            }
            std::map<std::size_t, std::vector<const Laid*>> bySheet, byBeam;
            for (const Laid& one : laid) {
                bySheet[one.on->sheet].push_back(&one);
                byBeam[one.on->beam].push_back(&one);
            }
            std::map<std::size_t, PartedSheet> sheets;
            for (const auto& [sheet, beams] : bySheet) {
                auto parted = without.empty() ? partedFor(sheet, beams) : fail(ProblemKind::NotPossible, "");
                if (parted)
                    sheets.emplace(sheet, std::move(*parted));
                else if (without.empty())
                    for (const Laid* one : beams) without[one->on] = parted.error().what;
            }
            std::map<std::size_t, NewLine> lines;
            for (const auto& [beam, own] : byBeam) {
                if (!without.empty()) break;
                auto line = newLine(m_outcome.model, beam, own, sheets);
                if (line)
                    lines.emplace(beam, std::move(*line));
                else
                    for (const Laid* one : own) without[one->on] = line.error().what;
            }
            if (without.empty()) {
                for (auto& [sheet, made] : sheets) replaceSheet(sheet, std::move(made.parted));
                for (auto& [beam, line] : lines) moveBeam(beam, line);
                return;
            }
            for (const auto& [out, why] : without)
                leave([out = out](const BeamOnSheet& one) { return &one == out; }, why);
        }
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

    void moveBeam(std::size_t beam, const NewLine& line) {
        Model& model = m_outcome.model;
        const std::size_t p = model.occurrences[beam].part;
        const Part& before = *model.parts[p];
        std::vector<TopoDS_Vertex> vertices;
        double moved = 0.0;
        for (const LineNode& node : line.nodes) {
            BRep_Builder().MakeVertex(vertices.emplace_back(), *node.now, Tolerance::least);
            moved = std::max(moved, node.was.Distance(*node.now));
        }
        const BRep_Builder builder;
        TopoDS_Wire wire;
        builder.MakeWire(wire);
        std::vector<TopoDS_Edge> edges;
        std::vector<Section> sections;
        std::map<std::size_t, double> onSheets;  // [mm] by sheet
        double free = 0.0;
        for (const LineStretch& own : line.stretches) {
            edges.push_back(edgeAlong(own.curve, own.first, own.last, vertices[own.begin], vertices[own.end]));
            widenEnds(edges.back());
            builder.Add(wire, edges.back());
            sections.push_back(sectionOf(before, own));
            (own.sheet ? onSheets[*own.sheet] : free) += GCPnts_AbscissaPoint::Length(BRepAdaptor_Curve(edges.back()));
        }
        auto part = before.copy();
        part->setShape(wire);
        part->known = {};
        const Incidence& topology = part->incidence();
        LineageBuilder descent(before.incidence(), wire);
        for (std::size_t i = 0; i < edges.size(); ++i) descent.edge(line.stretches[i].edge, edges[i]);
        PartLineage lineage = descent.finish();
        lineage.of(EntityKind::Body) = {{1, 1, true, false}};
        part->inherit(before, lineage, gp_Trsf());
        const PlaceId beamId = model.occurrences[beam].id;
        const auto idOf = [&model](std::size_t sheet) { return model.occurrences[sheet].id; };
        for (std::size_t i = 0; i < edges.size(); ++i) {
            const LineStretch& own = line.stretches[i];
            const int number = topology.edgeNumber(edges[i]);
            part->known.sections[{EntityKind::Edge, number}] = sections[i];
            if (own.sheet)
                addUse(EntityKind::Edge, {idOf(*own.sheet), own.sheetEdge, false}, {beamId, number, own.reversed});
        }
        for (std::size_t n = 0; n < line.nodes.size(); ++n)
            for (const auto& [sheet, vertex] : line.nodes[n].onSheets)
                addUse(EntityKind::Vertex, {idOf(sheet), vertex, false},
                       {beamId, topology.vertexNumber(vertices[n]), false});
        std::vector<std::string> carriers;
        double common = 0.0;
        for (const auto& [sheet, length] : onSheets) {
            carriers.push_back(placeName(model, sheet));
            common += length;
        }
        std::string told =
            fmt::format("{} on {}: {} mm in common, its line moved by up to {} mm", placeName(model, beam),
                        fmt::join(carriers, ", "), readable(common), readable(moved));
        if (free > toleranceOfFeet(m_outcome.model)) told += fmt::format(", {} mm of it free", readable(free));
        replaceBeam(beam, std::move(part), std::move(lineage));
        m_outcome.items.push_back({std::move(told), true, {}, 0.0});
    }

    /// The section stays where it was: what the line has moved by is added to its offset.
    [[nodiscard]] static Section sectionOf(const Part& before, const LineStretch& own) {
        const auto known = before.known.sections.find({EntityKind::Edge, own.edge});
        Section section;
        if (known != before.known.sections.end()) section = known->second;
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(before.incidence().edge(own.edge), first, last);
        const auto offset = [&](double along, const gp_Pnt& at) {
            const double share = (along - first) / (last - first);
            const gp_Vec off(at, curve->Value(along));
            if (known == before.known.sections.end()) return off;
            return off + known->second.startOffset * (1.0 - share) + known->second.endOffset * share;
        };
        section.startOffset = offset(own.from, own.curve->Value(own.first));
        section.endOffset = offset(own.to, own.curve->Value(own.last));
        return section;
    }

    void replaceBeam(std::size_t beam, std::shared_ptr<Part> part, PartLineage lineage) {
        Model& model = m_outcome.model;
        const std::size_t p = model.occurrences[beam].part;
        lineage.part = lineage.into = p;
        if (placesWith(p) > 1) {
            part->id = 0;
            part->name = freeName(model, part->name);
            lineage.into = model.parts.size();
            model.occurrences.change(beam).part = lineage.into;
            model.parts.push_back(std::move(part));
            model.giveIds();
        } else {
            model.parts[p] = std::move(part);
        }
        m_outcome.lineage.push_back(std::move(lineage));
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

Result<Outcome> putBeamsOnSheets(const Model& model, const BeamsOnSheets& step, Progress& progress) {
    return Placing(model, step, progress).run();
}

}  // namespace rasoir::reduce
