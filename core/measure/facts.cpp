#include "measure/facts.h"

#include <tbb/parallel_for.h>

#include <atomic>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <gp_Circ.hxx>
#include <gp_Mat.hxx>
#include <GProp_GProps.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "forecast/elements.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "measure/mass.h"
#include "model/on_purpose.h"
#include "topology/soundness.h"

namespace rasoir::measure {
namespace {

/// Areas of all faces, the middle of the skin, and volume, centre and inertia of the solids.
struct Measured {
    std::vector<double> areas;  // by face, from 1
    double area = 0.0;
    gp_Pnt skinCentre;
    bool hasSolids = false;
    BodyMoments body;
};

/// The kernel's own integrals, for solids that have a face without a trace.
FaceMoments plainMomentsOf(const TopoDS_Shape& solid, const gp_Pnt& base) {
    GProp_GProps one;
    BRepGProp::VolumeProperties(solid, one, Tolerance::sameSize);
    FaceMoments sum;
    const gp_XYZ c = one.CentreOfMass().XYZ() - base.XYZ();
    const gp_Mat m = one.MatrixOfInertia();
    const double half = 0.5 * (m(1, 1) + m(2, 2) + m(3, 3));
    sum.volume = one.Mass();
    sum.first = c * one.Mass();
    sum.second = {half - m(1, 1), half - m(2, 2), half - m(3, 3), -m(1, 2), -m(1, 3), -m(2, 3)};
    static constexpr std::array<std::array<int, 2>, 6> pairs{{{1, 1}, {2, 2}, {3, 3}, {1, 2}, {1, 3}, {2, 3}}};
    for (std::size_t k = 0; k < 6; ++k) sum.second[k] += one.Mass() * c.Coord(pairs[k][0]) * c.Coord(pairs[k][1]);
    return sum;
}

Measured measured(const Part& part) {
    const Incidence& topology = part.incidence();
    const auto faces = static_cast<std::size_t>(topology.faceCount());
    Measured all;
    all.areas.assign(faces + 1, 0.0);
    // All is summed from one point near the part: seen from far away, differences of large numbers would be summed.
    const gp_Pnt base = topology.base();
    std::atomic<bool> failed = false;
    tbb::parallel_for(tbb::blocked_range<std::size_t>(1, faces + 1, 16),
                      [&](const tbb::blocked_range<std::size_t>& range) {
                          const auto done = guarded("Measuring", [&]() -> Result<void> {
                              for (std::size_t f = range.begin(); f != range.end(); ++f)
                                  (void)topology.sums(static_cast<int>(f));
                              return {};
                          });
                          if (!done) failed = true;
                      });
    if (failed) throw Standard_Failure("a face cannot be measured");
    gp_XYZ skin;
    const auto momentsAt = [&topology](std::size_t f) -> const std::optional<FaceMoments>& {
        return topology.sums(static_cast<int>(f)).moments;
    };
    for (std::size_t f = 1; f <= faces; ++f) {
        const auto& own = momentsAt(f);
        if (!own) {
            GProp_GProps plain;
            BRepGProp::SurfaceProperties(topology.face(static_cast<int>(f)), plain, Tolerance::sameSize);
            all.areas[f] = std::abs(plain.Mass());
            skin += (plain.CentreOfMass().XYZ() - base.XYZ()) * all.areas[f];
        } else {
            all.areas[f] = own->area;
            skin += own->areaFirst;
        }
        all.area += all.areas[f];
    }
    all.skinCentre = all.area > 0.0 ? gp_Pnt(base.XYZ() + skin / all.area) : base;
    FaceMoments sum;
    for (TopExp_Explorer solid(part.shape, TopAbs_SOLID); solid.More(); solid.Next()) {
        all.hasSolids = true;
        FaceMoments own;
        bool known = true;
        for (TopExp_Explorer it(solid.Current(), TopAbs_FACE); it.More() && known; it.Next()) {
            const TopAbs_Orientation side = it.Current().Orientation();
            if (side != TopAbs_FORWARD && side != TopAbs_REVERSED) continue;
            const auto f = static_cast<std::size_t>(topology.faceNumber(it.Current()));
            known = momentsAt(f).has_value();
            // A face between two solids of one part is used once each way.
            if (known) own.add(*momentsAt(f), side == topology.face(static_cast<int>(f)).Orientation() ? 1.0 : -1.0);
        }
        sum.add(known ? own : plainMomentsOf(solid.Current(), base));
    }
    all.body = rasoir::bodyOf(sum, base);
    return all;
}

}  // namespace

Facts factsOf(const Part& part, double targetSize, bool checkValid) {
    Facts facts;
    if (part.shape.IsNull()) return facts;
    const Incidence& topology = part.incidence();
    facts.faces = topology.faceCount();
    facts.edges = topology.edgeCount();
    facts.vertices = topology.vertexCount();
    facts.solids = topology.solidCount();
    for (TopExp_Explorer it(part.shape, TopAbs_SHELL, TopAbs_SOLID); it.More(); it.Next()) ++facts.sheets;
    for (TopExp_Explorer it(part.shape, TopAbs_FACE, TopAbs_SHELL); it.More(); it.Next()) ++facts.sheets;
    if (!standsForWalls(part)) facts.bareSheets = facts.sheets;
    for (TopExp_Explorer it(part.shape, TopAbs_EDGE, TopAbs_FACE); it.More(); it.Next()) ++facts.wires;

    const Bnd_Box box = tightBox(part.shape);
    if (!box.IsVoid()) {
        const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
        facts.low = {low.X(), low.Y(), low.Z()};
        facts.high = {high.X(), high.Y(), high.Z()};
    }
    std::vector<double> lengthOf(static_cast<std::size_t>(facts.edges) + 1, 0.0);
    facts.shortestEdge = 0.0;
    for (int e = 1; e <= facts.edges; ++e) {
        const TopoDS_Edge edge = topology.edge(e);
        facts.tolerance = std::max(facts.tolerance, BRep_Tool::Tolerance(edge));
        if (BRep_Tool::Degenerated(edge)) continue;
        const int uses = topology.facesAt(e);
        if (uses == 1) ++facts.openEdges;
        if (uses > 2) ++facts.manyFaceEdges;
        double first = 0.0, last = 0.0;
        if (BRep_Tool::Curve(edge, first, last).IsNull()) continue;
        const double length = GCPnts_AbscissaPoint::Length(BRepAdaptor_Curve(edge), Tolerance::least);
        lengthOf[e] = length;
        if (facts.shortestEdge == 0.0 || length < facts.shortestEdge) facts.shortestEdge = length;
    }
    const Measured sizes = measured(part);
    struct MeshedAsOne {
        double area = 0.0, perimeter = 0.0, radius = 0.0;
    };
    std::map<std::string, MeshedAsOne> asOne;
    for (int f = 1; f <= facts.faces; ++f) {
        const TopoDS_Face face = topology.face(f);
        facts.tolerance = std::max(facts.tolerance, BRep_Tool::Tolerance(face));
        const SurfaceKind kind = surfaceKind(face);
        ++facts.surfaces[surfaceKindName(kind)];
        const double size = sizes.areas[static_cast<std::size_t>(f)];
        if (facts.smallestFace == 0.0 || size < facts.smallestFace) facts.smallestFace = size;
        const auto mark = part.known.asOne.find({EntityKind::Face, f});
        const std::string one = mark == part.known.asOne.end() ? std::string() : mark->second;
        double perimeter = 0.0;
        for (const int e : topology.edgesOf(f)) {
            // A line between two faces that are meshed as one bounds no element.
            const bool inner =
                !one.empty() &&
                std::all_of(topology.usesOf(e).begin(), topology.usesOf(e).end(), [&](const EdgeUse& use) {
                    const auto other = part.known.asOne.find({EntityKind::Face, use.face});
                    return other != part.known.asOne.end() && other->second == one;
                });
            if (!inner) perimeter += lengthOf[e];
        }
        double radius = 0.0;
        if (kind == SurfaceKind::Cylinder || kind == SurfaceKind::Sphere || kind == SurfaceKind::Torus)
            if (const auto round = roundSurface(face)) radius = round->radius;
        if (topology.bodyOf(f) < 0 && part.known.thickness.contains({EntityKind::Face, f})) {
            std::vector<forecast::SheetRim> rims;
            for (const int e : topology.edgesOf(f)) {
                const BRepAdaptor_Curve curve(topology.edge(e));
                rims.push_back({lengthOf[e], curve.GetType() == GeomAbs_Circle ? curve.Circle().Radius() : 0.0});
            }
            facts.elements += forecast::sheetElements(size, rims, radius, targetSize);
            continue;
        }
        if (one.empty()) {
            facts.elements += forecast::faceShare(size, perimeter, radius, targetSize).extra;
            continue;
        }
        MeshedAsOne& whole = asOne[one];
        whole.area += size;
        whole.perimeter += perimeter;
        if (radius > 0.0) whole.radius = whole.radius > 0.0 ? std::min(whole.radius, radius) : radius;
    }
    for (const auto& [name, whole] : asOne)
        facts.elements += forecast::faceShare(whole.area, whole.perimeter, whole.radius, targetSize).extra;
    facts.area = sizes.area;
    if (facts.faces > 0) facts.centre = sizes.skinCentre;
    if (sizes.hasSolids) {
        facts.volume = sizes.body.volume;
        if (std::abs(facts.volume) > 0.0) {
            facts.centre = sizes.body.centre;
            facts.inertia = sizes.body.inertia;
        }
    }
    for (const auto& [thing, section] : part.known.sections)
        if (thing.kind == EntityKind::Edge && thing.number <= facts.edges)
            facts.elements += forecast::beamElements(lengthOf[thing.number], targetSize);
    facts.elements += forecast::bulk(facts.volume, targetSize);
    facts.closed = facts.solids > 0 && facts.sheets == 0 && facts.openEdges == 0 && facts.manyFaceEdges == 0;
    if (checkValid) {
        // The check gives up with an exception on some damaged shapes: that too is an answer.
        const auto checked =
            guarded("The check", [&]() -> Result<bool> { return BRepCheck_Analyzer(undrawn(part.shape)).IsValid(); });
        facts.valid = checked && *checked;
    }
    return facts;
}

Result<std::vector<Facts>> factsOfParts(const Model& model, bool checkValid, Progress& progress) {
    std::vector<Facts> all(model.parts.size());
    std::vector<Result<void>> outcomes(model.parts.size());
    tbb::parallel_for(std::size_t{0}, model.parts.size(), [&](std::size_t p) {
        if (progress.cancelled()) return;
        outcomes[p] = guarded("Measuring \"" + model.parts[p]->name + "\"", [&]() -> Result<void> {
            all[p] = factsOf(*model.parts[p], model.targetSize, checkValid);
            return {};
        });
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Measuring was stopped.");
    for (const auto& outcome : outcomes)
        if (!outcome) return tl::unexpected(outcome.error());
    return all;
}

Facts factsOf(const Model& model, const std::vector<Facts>& parts) {
    Facts sum;
    Bnd_Box box;
    gp_XYZ moment(0, 0, 0), areaMoment(0, 0, 0);
    sum.valid = true;
    bool any = false, open = false;
    for (const Occurrence& occurrence : model.occurrences) {
        // A lump has no shape in the work: it only weighs.
        if (occurrence.aside || model.parts[occurrence.part]->lump) continue;
        any = true;
        const Facts& part = parts[occurrence.part];
        const gp_Trsf& place = occurrence.placement;
        const double scale = std::abs(place.ScaleFactor());
        sum.solids += part.solids;
        sum.sheets += part.sheets;
        sum.bareSheets += part.bareSheets;
        sum.wires += part.wires;
        sum.faces += part.faces;
        sum.edges += part.edges;
        sum.vertices += part.vertices;
        sum.openEdges += part.openEdges;
        sum.manyFaceEdges += part.manyFaceEdges;
        for (const auto& [kind, count] : part.surfaces) sum.surfaces[kind] += count;
        sum.volume += part.volume * scale * scale * scale;
        sum.area += part.area * scale * scale;
        sum.elements += part.elements;
        moment += part.centre.Transformed(place).XYZ() * part.volume * scale * scale * scale;
        areaMoment += part.centre.Transformed(place).XYZ() * part.area * scale * scale;
        if (part.shortestEdge > 0.0 && (sum.shortestEdge == 0.0 || part.shortestEdge * scale < sum.shortestEdge))
            sum.shortestEdge = part.shortestEdge * scale;
        if (part.smallestFace > 0.0 &&
            (sum.smallestFace == 0.0 || part.smallestFace * scale * scale < sum.smallestFace))
            sum.smallestFace = part.smallestFace * scale * scale;
        sum.tolerance = std::max(sum.tolerance, part.tolerance * scale);
        open = open || !part.closed;
        if (!part.valid)
            sum.valid.reset();
        else if (sum.valid)
            sum.valid = *sum.valid && *part.valid;
        if (part.faces + part.wires > 0 && !model.parts[occurrence.part]->shape.IsNull()) {
            Bnd_Box own;
            own.Update(part.low[0], part.low[1], part.low[2], part.high[0], part.high[1], part.high[2]);
            box.Add(own.Transformed(place));
        }
    }
    sum.closed = any && !open;
    if (sum.volume > 0.0)
        sum.centre = gp_Pnt(moment / sum.volume);
    else if (sum.area > 0.0)
        sum.centre = gp_Pnt(areaMoment / sum.area);
    if (!box.IsVoid()) {
        const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
        sum.low = {low.X(), low.Y(), low.Z()};
        sum.high = {high.X(), high.Y(), high.Z()};
    }
    return sum;
}

Json toJson(const Facts& facts, const MassProperties& mass) {
    Json json{{"solids", facts.solids},
              {"sheets", facts.sheets},
              {"wires", facts.wires},
              {"faces", facts.faces},
              {"edges", facts.edges},
              {"vertices", facts.vertices},
              {"openEdges", facts.openEdges},
              {"manyFaceEdges", facts.manyFaceEdges},
              {"surfaces", facts.surfaces},
              {"low_mm", facts.low},
              {"high_mm", facts.high},
              {"volume_mm3", facts.volume},
              {"area_mm2", facts.area},
              {"mass_kg", mass.mass},
              {"centre_mm", {mass.centre.X(), mass.centre.Y(), mass.centre.Z()}},
              {"inertia_kg_mm2", mass.inertia},
              {"shortestEdge_mm", facts.shortestEdge},
              {"smallestFace_mm2", facts.smallestFace},
              {"tolerance_mm", facts.tolerance},
              {"elements", std::round(facts.elements)},
              {"closed", facts.closed}};
    if (!(mass.mass > 0.0)) json["centre_mm"] = {facts.centre.X(), facts.centre.Y(), facts.centre.Z()};  // of area
    if (facts.valid) json["valid"] = *facts.valid;
    return json;
}

}  // namespace rasoir::measure
