#include "reduce/reduced_part.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "model/lineage_builder.h"
#include "reduce/thick_regions.h"
#include "shave/rounding.h"

namespace rasoir::reduce {
namespace {

/// Corner terms and rounds at joints are a few per cent; what loses more has not been understood.
constexpr double leastKept = 0.85;
/// At corners and feet of ribs material counts twice; what counts more has taken one place for two walls.
constexpr double mostKept = 1.25;

/// Where sheets alone would lose much, what is barely thicker than the wall, or stands on it, stays solid.
constexpr ThickFrom barelyThick{1.2, 0.2};

/// One solid as sheets, with what of it stays solid.
struct ReducedSolid {
    Sheets sheets;
    std::optional<PartedWalls> parted;
    double volume = 0.0;  // [mm^3] of the solid
    [[nodiscard]] double kept() const { return (sheets.mass + (parted ? parted->thickVolume : 0.0)) / volume; }
};

double freeEdgesOf(const TopoDS_Shape& sheet) {
    const Incidence topology(sheet);
    double length = 0.0;
    for (int e = 1; e <= topology.edgeCount(); ++e)
        if (topology.facesAt(e) == 1) length += lengthOf(topology.edge(e));
    return length;
}

/// Sheets of a solid whose outer rounds keep middles apart: over an inner corner that is sharp, a round much larger
/// than the wall is thick lies within where they would meet. Those rounds go first, on a copy. None where there are
/// none, or where that brings nothing together.
std::optional<Sheets> withoutOuterRounds(const Part& solid, const std::vector<Wall>& walls, const Sheets& before,
                                         AtSteps steps, double tolerance, Progress& progress) {
    std::set<int> sides;
    double thinnest = 1e300;
    for (const Wall& wall : walls) {
        for (const auto* side : {&wall.sideA, &wall.sideB}) sides.insert(side->begin(), side->end());
        thinnest = std::min(thinnest, wall.thickness);
    }
    auto chains = survey::findStrips(solid, thinnest, progress);
    if (!chains) return std::nullopt;
    std::erase_if(*chains, [&](const survey::StripChain& chain) {
        return chain.kind != survey::StripKind::Round || !chain.convex || chain.bend ||
               std::any_of(chain.faces.begin(), chain.faces.end(), [&](int f) { return sides.contains(f); });
    });
    // Small ones leave the middles where they meet: a ball in a corner, up to 1.18 of the thickness. Beside a large one
    // they have to go as well.
    if (std::none_of(chains->begin(), chains->end(),
                     [&](const survey::StripChain& chain) { return chain.size > 1.15 * thinnest; }))
        return std::nullopt;
    const auto sharp = shave::withoutRounds(solid, *chains, tolerance, progress);
    if (!sharp) return std::nullopt;
    const std::vector<Wall> left = wallsAfter(walls, sharp->made.lineage);
    if (left.size() != walls.size()) return std::nullopt;
    auto sheets = sheetsOf(*sharp->made.part, left, {}, steps, tolerance, progress);
    if (!sheets || freeEdgesOf(sheets->shape) > freeEdgesOf(before.shape) * (1.0 - Tolerance::atLimit))
        return std::nullopt;
    sheets->lineage = chained(sharp->made.lineage, sheets->lineage);
    return std::move(*sheets);
}

/// Sheets of what was cut off from thicker matter. There a middle may run on as its neighbours ask, since its ends are
/// open. One that runs on far into another wall, on a slant, is no wall's any more for the most part, and with it the
/// wall would be lost: then all end where they were cut.
Result<Sheets> sheetsOfThin(const Part& thin, const std::vector<Wall>& walls, const std::vector<TopoDS_Face>& ends,
                            AtSteps steps, double tolerance, Progress& progress) {
    const auto lost = [&](const Sheets& sheets) { return walls.size() - wallsAfter(walls, sheets.lineage).size(); };
    auto sheets = sheetsOf(thin, walls, {}, steps, tolerance, progress);
    if (!sheets || lost(*sheets) == 0) return sheets;
    auto ended = sheetsOf(thin, walls, ends, steps, tolerance, progress);
    return ended && lost(*ended) < lost(*sheets) ? std::move(ended) : std::move(sheets);
}

/// `thickFrom`   see partThickRegions().
Result<ReducedSolid> sheetsAndRest(const Part& solid, const std::vector<Wall>& walls, const ThickFrom& thickFrom,
                                   AtSteps steps, double tolerance, Progress& progress) {
    auto regions = partThickRegions(solid, walls, thickFrom, tolerance, progress);
    if (!regions) return tl::unexpected(regions.error());
    std::optional<PartedWalls>& parted = regions->parted;
    auto sheets = parted ? sheetsOfThin(Part(solid.name, parted->thin), wallsAfter(walls, parted->toThin),
                                        regions->ends, steps, tolerance, progress)
                         : sheetsOf(solid, walls, regions->ends, steps, tolerance, progress);
    if (!sheets) return tl::unexpected(sheets.error());
    if (!parted)
        if (auto joined = withoutOuterRounds(solid, walls, *sheets, steps, tolerance, progress))
            *sheets = std::move(*joined);
    if (parted) sheets->lineage = chained(parted->toThin, sheets->lineage);
    return ReducedSolid{std::move(*sheets), std::move(parted), volumeOf(solid.shape)};
}

Result<ReducedSolid> reduceSolid(const Part& solid, const std::vector<Wall>& walls, AtSteps steps, double tolerance,
                                 Progress& progress) {
    auto made = sheetsAndRest(solid, walls, ThickFrom{}, steps, tolerance, progress);
    if (!made) return made;
    // A rail along a wall's border, not twice as thick as the wall, carries no sheet of it: nothing goes on beyond.
    // What is lost so stays solid, and only then, since along walls of two thicknesses one sheet is the better answer.
    if (made->kept() < leastKept) {
        auto again = sheetsAndRest(solid, walls, barelyThick, steps, tolerance, progress);
        if (again && again->kept() > made->kept()) made = std::move(again);
    }
    const auto refused = [&](const char* what, const char* hint) {
        return fail(ProblemKind::NotPossible,
                    fmt::format("Sheets of the walls that were found would be {} % of the volume of \"{}\": {}.",
                                readable(100.0 * made->kept(), 2), solid.name, what),
                    hint, {solid.name, walls.front().sideA, walls.front().where});
    };
    if (made->kept() < leastKept)
        return refused("the rest of it would be lost",
                       "Take thicker or doubtful walls too, or cut off in Divide what shall be sheets.");
    if (made->kept() > mostKept)
        return refused("much of it would count twice",
                       "Leave out walls that are the same matter seen across another way.");
    return made;
}

/// Bodies put together, and how their things come from those of the part.
class Gathered {
public:
    explicit Gathered(const Part& part) : m_part(part) { BRep_Builder().MakeCompound(m_all); }

    void add(const TopoDS_Shape& made, const Incidence& from, int body, const PartLineage& lineage) {
        BRep_Builder().Add(m_all, made);
        m_added.push_back({std::make_shared<const Incidence>(made), from, body, lineage});
    }
    [[nodiscard]] bool isEmpty() const { return m_added.empty(); }
    /// The shape, and the lineage with the part's and its own numbers. `renumber`: told each face's number as added and
    /// as it is.
    TopoDS_Shape finish(PartLineage& lineage, const std::function<void(std::size_t, int, int)>& renumber) const {
        const TopoDS_Shape shape = m_added.size() == 1 ? onlyOne() : TopoDS_Shape(m_all);
        const Incidence all(shape);
        const Incidence& part = m_part.incidence();
        int bodies = 0;
        for (std::size_t i = 0; i < m_added.size(); ++i) {
            const Added& own = m_added[i];
            for (const EntityKind kind : entityKinds)
                for (Link link : own.lineage.of(kind)) {
                    switch (kind) {
                        case EntityKind::Body:
                            link.before = own.body;
                            link.after += bodies;
                            break;
                        case EntityKind::Face:
                            link.before = part.faceNumber(own.from.face(link.before));
                            link.after = all.faceNumber(own.made->face(link.after));
                            break;
                        case EntityKind::Edge:
                            link.before = part.edgeNumber(own.from.edge(link.before));
                            link.after = all.edgeNumber(own.made->edge(link.after));
                            break;
                        case EntityKind::Vertex:
                            link.before = part.vertexNumber(own.from.vertex(link.before));
                            link.after = all.vertexNumber(own.made->vertex(link.after));
                            break;
                    }
                    lineage.of(kind).push_back(link);
                }
            bodies += own.made->bodyCount();
            if (renumber)
                for (int f = 1; f <= own.made->faceCount(); ++f) renumber(i, f, all.faceNumber(own.made->face(f)));
        }
        return shape;
    }

private:
    struct Added {
        std::shared_ptr<const Incidence> made;
        Incidence from;
        int body;
        PartLineage lineage;
    };
    const Part& m_part;
    TopoDS_Compound m_all;
    std::vector<Added> m_added;

    [[nodiscard]] TopoDS_Shape onlyOne() const { return TopoDS_Iterator(m_all).Value(); }
};

}  // namespace

Result<ReducedPart> reducePart(const Part& part, const std::vector<Wall>& walls, AtSteps steps, double tolerance,
                               Progress& progress) {
    ReducedPart made;
    const Incidence& topology = part.incidence();
    Gathered sheets(part), solids(part);
    std::vector<std::map<int, Thickness>> thickness;
    for (int b = 1; b <= topology.bodyCount(); ++b) {
        const Part solid(part.name, topology.body(b));
        const Incidence& own = solid.incidence();
        made.volume += volumeOf(solid.shape);
        std::vector<Wall> ofBody;
        for (const Wall& wall : walls) {
            if (topology.bodyOf(wall.sideA.front()) != b - 1) continue;
            ofBody.push_back(wall);
            for (auto* side : {&ofBody.back().sideA, &ofBody.back().sideB})
                for (int& f : *side) f = own.faceNumber(topology.face(f));
        }
        std::optional<ReducedSolid> reduced;
        if (!ofBody.empty()) {
            auto tried = reduceSolid(solid, ofBody, steps, tolerance, progress);
            if (tried) {
                reduced = std::move(*tried);
            } else {
                if (tried.error().kind == ProblemKind::Cancelled) return tl::unexpected(tried.error());
                if (!made.refused) made.refused = tried.error();
                if (topology.bodyCount() > 1)
                    made.notes.push_back(
                        fmt::format("Body {} of \"{}\" stays solid: {}", b, part.name, tried.error().what));
            }
        }
        if (!reduced) {
            const PartLineage same = LineageBuilder(own, solid.shape).finish();
            solids.add(solid.shape, own, b, same);
            made.solidVolume += volumeOf(solid.shape);
            continue;
        }
        made.walls += ofBody.size();
        sheets.add(reduced->sheets.shape, own, b, reduced->sheets.lineage);
        thickness.push_back(std::move(reduced->sheets.thickness));
        made.sheets.connected += reduced->sheets.connected;
        made.sheets.area += reduced->sheets.area;
        made.sheets.mass += reduced->sheets.mass;
        made.sheets.joints += reduced->sheets.joints;
        if (reduced->parted) {
            solids.add(reduced->parted->thick, own, b, reduced->parted->toThick);
            made.solidVolume += reduced->parted->thickVolume;
            made.cutOff = true;
        }
    }
    if (sheets.isEmpty()) return tl::unexpected(*made.refused);
    made.sheets.shape = sheets.finish(made.sheets.lineage, [&](std::size_t i, int before, int now) {
        if (const auto own = thickness[i].find(before); own != thickness[i].end())
            made.sheets.thickness[now] = own->second;
    });
    if (!solids.isEmpty()) made.solid = solids.finish(made.toSolid, {});
    return made;
}

}  // namespace rasoir::reduce
