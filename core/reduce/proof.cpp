#include "reduce/proof.h"

#include <fmt/format.h>

#include <bit>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <Eigen/Eigenvalues>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Circ.hxx>
#include <Poly_Triangulation.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/sets.h"
#include "common/tolerance.h"
#include "geometry/extent.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "measure/facts.h"
#include "measure/mass.h"
#include "reduce/section_outline.h"
#include "reduce/sheet_growth.h"
#include "reduce/wall_side.h"
#include "reduce/walls.h"
#include "topology/edge_angle.h"

// The drawn body is triangles: the sheet's own, moved to either side. Distances between it and the solid are asked of
// points, in both directions. A point of the solid's skin is as far from the drawn body as it is from the sheet, less
// half the thickness there: so rims, where the sheet ends square, count as met. A point of the drawn skin reaches out
// when a ray says that it is outside of the solid.

namespace rasoir::reduce {
namespace {

constexpr double squarely = 0.98;  // cosine between the normals of the two sides of a wall

/// Feet in the faces of parts, on the surfaces themselves.
class Feet {
public:
    explicit Feet(const std::vector<std::shared_ptr<const Part>>& parts) : m_parts(parts) {}

    struct Foot {
        gp_Pnt at;
        gp_Vec normal;  // outwards, as the face looks
    };
    /// None where the foot lies outside the face's outline.
    std::optional<Foot> in(std::size_t part, int face, const gp_Pnt& point) {
        const TopoDS_Face shape = m_parts[part]->incidence().face(face);
        auto known = m_sides.find({part, face});
        if (known == m_sides.end()) known = m_sides.emplace(std::pair(part, face), sideOf(shape)).first;
        const auto uv = footIn(known->second, point);
        if (!uv) return std::nullopt;
        Foot foot;
        gp_Vec du, dv;
        known->second.surface->D1(uv->X(), uv->Y(), foot.at, du, dv);
        foot.normal = du.Crossed(dv);
        if (foot.normal.Magnitude() < Tolerance::divisible) return std::nullopt;
        foot.normal.Normalize();
        if (shape.Orientation() == TopAbs_REVERSED) foot.normal.Reverse();
        return foot;
    }

private:
    const std::vector<std::shared_ptr<const Part>>& m_parts;
    std::map<std::pair<std::size_t, int>, WallSide> m_sides;
};

/// The sheets of some parts, asked for distances from their matter.
class SheetMatter {
public:
    /// `middle`  of the same parts; `extent` [mm] of what is proved.
    SheetMatter(const std::vector<std::shared_ptr<const Part>>& parts, const RayField& middle, double extent)
        : m_parts(parts), m_middle(middle), m_extent(extent), m_feet(parts) {}

    struct Distance {
        double outside = 1e300;  // [mm] of the point from the nearest sheet's matter; 0: within it
        bool onSkin = false;     // it lies on a drawn skin
        bool isSquare = false;   // it lies above its foot
        gp_Vec normal;           // of the sheet there
        double half = 0.0;       // [mm] the sheet's thickness there
    };
    Distance of(const gp_Pnt& point) {
        const auto hit = m_middle.nearest(point);
        if (!hit) return {};
        Distance best = from(*hit, point);
        if (best.outside <= 0.0) return best;
        // Where sheets meet, the one that is nearest by its middle need not be the one whose matter is.
        const Incidence& topology = m_parts[hit->occurrence]->incidence();
        for (const int e : topology.edgesOf(hit->face))
            for (const EdgeUse& use : topology.usesOf(e)) {
                if (use.face == hit->face || topology.facesAt(e) < 2) continue;
                RayHit other = *hit;
                other.face = use.face;
                if (const auto foot = m_feet.in(hit->occurrence, use.face, point)) {
                    other.distance = foot->at.Distance(point);
                } else if (const auto rim = m_feet.in(hit->occurrence, use.face, hit->at)) {
                    other.normal = rim->normal;  // past all outlines: seen from the corner that they have in common
                } else {
                    continue;
                }
                if (const Distance own = from(other, point); own.outside < best.outside) best = own;
            }
        return best;
    }

private:
    const std::vector<std::shared_ptr<const Part>>& m_parts;
    const RayField& m_middle;
    double m_extent;
    Feet m_feet;

    Distance from(RayHit hit, const gp_Pnt& point) {
        if (const auto foot = m_feet.in(hit.occurrence, hit.face, point);
            // Twice what triangles may be off, on either side.
            foot && foot->at.Distance(point) < hit.distance + 2e-3 * m_extent) {
            hit.at = foot->at;
            hit.normal = foot->normal;
            hit.distance = foot->at.Distance(point);
        }
        Distance own;
        own.outside = hit.distance;
        const Part& part = *m_parts[hit.occurrence];
        const auto known = part.known.thickness.find({EntityKind::Face, hit.face});
        if (known == part.known.thickness.end()) return own;
        const auto [offset, half] = offsetAndHalf(known->second, hit.at);
        const gp_Vec away(hit.at, point);
        // Along the wall it counts in full, across it by what it is more than the half on that side.
        const double across = away.Dot(hit.normal) - offset;
        const double aside = std::sqrt(std::max(0.0, hit.distance * hit.distance - std::pow(away.Dot(hit.normal), 2)));
        own.outside =
            std::hypot(std::max(0.0, std::abs(across) - half), aside > Tolerance::sameSize * m_extent ? aside : 0.0);
        own.onSkin = std::abs(std::abs(across) - half) <= 0.02 * half && aside < 0.02 * half;
        own.isSquare = aside < 0.02 * half;
        own.normal = hit.normal;
        own.half = half;
        return own;
    }
};

/// The largest relative difference of principal moments of inertia about the centres.
double momentChange(const measure::MassProperties& before, const measure::MassProperties& after) {
    const auto principal = [](const measure::MassProperties& own) {
        Eigen::Matrix3d matrix;
        const auto& i = own.inertia;
        matrix << i[0], i[3], i[4], i[3], i[1], i[5], i[4], i[5], i[2];
        return Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(matrix).eigenvalues().eval();
    };
    const auto a = principal(before), b = principal(after);
    double most = 0.0;
    for (int i = 0; i < 3; ++i)
        if (a[i] > 0.0) most = std::max(most, std::abs(b[i] - a[i]) / a[i]);
    return most;
}

Model modelOf(const std::vector<std::shared_ptr<const Part>>& parts) {
    Model model;
    for (const auto& part : parts) {
        model.occurrences.push_back({model.parts.size(), gp_Trsf(), part->name, {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>(*part));
    }
    return model;
}

bool isOnePlace(const gp_Trsf& a, const gp_Trsf& b) {
    // Turns to rounding, shifts to a file's digits.
    for (int row = 1; row <= 3; ++row)
        for (int column = 1; column <= 4; ++column)
            if (std::abs(a.Value(row, column) - b.Value(row, column)) > (column < 4 ? 1e-9 : 1e-6)) return false;
    return true;
}

}  // namespace

std::vector<StandIn> standIns(const Work& work) {
    // Each part of the model now is followed back, step by step, to where it was a solid.
    struct Origin {
        std::size_t step, part;
        auto operator<=>(const Origin&) const = default;
    };
    const Model& now = work.current();
    const std::size_t steps = work.statesKnown();
    const auto before = [&](std::size_t step, std::size_t part) {
        const auto* lineage = work.lineageOfStep(step);
        if (lineage != nullptr)
            for (const PartLineage& own : *lineage)
                if ((own.into == PartLineage::samePlace ? own.part : own.into) == part) return own.part;
        return part;
    };
    const auto isReduced = [](const Part& part) {
        return part.kind() != BodyKind::Solid && (!part.known.thickness.empty() || !part.known.sections.empty());
    };
    std::map<Origin, std::vector<std::size_t>> found;
    for (std::size_t p = 0; p < now.parts.size(); ++p) {
        if (!isReduced(*now.parts[p])) continue;
        std::size_t own = p;
        for (std::size_t step = steps; step-- > 0;) {
            own = before(step, own);
            const Model& model = work.modelAfter(step);
            if (own >= model.parts.size()) break;
            if (model.parts[own]->kind() != BodyKind::Solid) continue;
            found[{step, own}].push_back(p);
            break;
        }
    }
    // What was cut off as too thick by the same step stands for the rest of it.
    for (std::size_t p = 0; p < now.parts.size(); ++p) {
        if (now.parts[p]->kind() != BodyKind::Solid) continue;
        std::size_t own = p;
        for (std::size_t step = steps; step-- > 0;) {
            own = before(step, own);
            const auto of = found.find({step, own});
            if (of == found.end()) continue;
            of->second.push_back(p);
            break;
        }
    }
    // Copies that became parts of their own stand each for the solid by themselves; what was parted in one place stands
    // for it together.
    const auto placeOf = [&](std::size_t p) {
        for (const Occurrence& place : now.occurrences)
            if (place.part == p) return place.placement;
        return gp_Trsf();
    };
    std::vector<StandIn> all;
    for (const auto& [origin, parts] : found) {
        const auto solid = work.modelAfter(origin.step).parts[origin.part];
        const std::size_t first = all.size();
        for (const std::size_t p : parts) {
            const gp_Trsf own = placeOf(p);
            const auto same =
                std::find_if(all.begin() + static_cast<std::ptrdiff_t>(first), all.end(),
                             [&](const StandIn& one) { return isOnePlace(placeOf(one.parts.front()), own); });
            if (same != all.end())
                same->parts.push_back(p);
            else if (now.parts[p]->kind() != BodyKind::Solid)
                all.push_back({solid, {p}});
        }
    }
    return all;
}

DrawnBody drawnBodyOf(const Model& model, const StandIn& standIn, double relativeDeviation, Progress& progress) {
    DrawnBody all;
    for (const std::size_t p : standIn.parts) {
        if (model.parts[p]->kind() == BodyKind::Solid) continue;
        const DrawnBody own = drawnBody(*model.parts[p], relativeDeviation, progress);
        const int first = static_cast<int>(all.points.size());
        all.points.insert(all.points.end(), own.points.begin(), own.points.end());
        for (const auto& t : own.triangles) all.triangles.push_back({first + t[0], first + t[1], first + t[2]});
        all.from.insert(all.from.end(), own.from.begin(), own.from.end());
    }
    return all;
}

namespace {

/// How many pieces the parts of a stand-in are, joined as they are. Of joints it is known which part they are of; a
/// part of several bodies counts each of them.
int piecesOf(const Model& model, const std::vector<std::size_t>& parts) {
    Sets together(parts.size());
    int pieces = 0;
    for (const std::size_t p : parts) pieces += model.parts[p]->incidence().bodyCount();
    for (const Joint& joint : model.joints) {
        int first = -1;
        for (const JointUse& use : joint.uses) {
            const auto place = model.placeOf(use.place);
            if (!place) continue;
            const auto own = std::find(parts.begin(), parts.end(), model.occurrences[*place].part);
            if (own == parts.end()) continue;
            const int number = static_cast<int>(own - parts.begin());
            if (first < 0) {
                first = number;
            } else if (together.root(first) != together.root(number)) {
                together.join(first, number);
                --pieces;
            }
        }
    }
    return pieces;
}

/// Across an edge: a wall as a strip that begins there.
struct Strip {
    gp_Vec along, up;  // unit
    double low = 0.0, high = 0.0;
};
using Polygon = std::vector<gp_XY>;

/// What of a convex polygon lies where `keeps` is not negative; that is linear.
Polygon clipped(const Polygon& polygon, const std::function<double(const gp_XY&)>& keeps) {
    Polygon left;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const gp_XY &from = polygon[i], &to = polygon[(i + 1) % polygon.size()];
        const double a = keeps(from), b = keeps(to);
        if (a >= 0.0) left.push_back(from);
        if ((a < 0.0) != (b < 0.0)) left.push_back(from + (to - from) * (a / (a - b)));
    }
    return left;
}

double areaInCommon(const std::vector<Strip>& strips, unsigned chosen, const gp_Vec& x, const gp_Vec& y, double reach) {
    Polygon polygon{{-reach, -reach}, {reach, -reach}, {reach, reach}, {-reach, reach}};
    for (std::size_t i = 0; i < strips.size(); ++i) {
        if ((chosen >> i & 1U) == 0) continue;
        const auto in = [&](const gp_Vec& way, double from, double sign) {
            const gp_XY flat(way.Dot(x), way.Dot(y));
            polygon = clipped(polygon, [=](const gp_XY& at) { return sign * (at.Dot(flat) - from); });
        };
        in(strips[i].along, 0.0, 1.0);
        in(strips[i].up, strips[i].low, 1.0);
        in(strips[i].up, strips[i].high, -1.0);
    }
    double twice = 0.0;
    for (std::size_t i = 0; i < polygon.size(); ++i) twice += polygon[i].Crossed(polygon[(i + 1) % polygon.size()]);
    return 0.5 * std::abs(twice);
}

/// What of walls that meet at an edge is in two of them, by its length: over all choices of two and more of them what
/// these have in common, added and taken off by turns.
double twiceAt(const Part& part, int edge) {
    const Incidence& topology = part.incidence();
    const BRepAdaptor_Curve curve(topology.edge(edge));
    const double middle = 0.5 * (curve.FirstParameter() + curve.LastParameter());
    std::vector<Strip> strips;
    double thickest = 0.0;
    gp_Pnt at;
    for (const EdgeUse& use : topology.usesOf(edge)) {
        const auto known = part.known.thickness.find({EntityKind::Face, use.face});
        const gp_Vec out = outAlong(topology, use.face, edge, middle, at);
        if (known == part.known.thickness.end() || out.SquareMagnitude() < 0.5) return 0.0;
        const auto [offset, half] = offsetAndHalf(known->second, at);
        strips.push_back({out.Reversed(), outwardNormal(topology.face(use.face), topology.edge(edge), middle),
                          offset - half, offset + half});
        thickest = std::max(thickest, half);
    }
    constexpr std::size_t most = 8;  // walls at one edge
    if (strips.size() < 2 || strips.size() > most) return 0.0;
    // Walls at less than some thirty degrees to each other have more in common than this reaches.
    const double reach = 4.0 * thickest;
    const gp_Vec x = strips.front().along, y = strips.front().up;
    double common = 0.0;
    for (unsigned chosen = 1; chosen < 1U << strips.size(); ++chosen) {
        const int walls = std::popcount(chosen);
        if (walls > 1) common += (walls % 2 == 0 ? 1.0 : -1.0) * areaInCommon(strips, chosen, x, y, reach);
    }
    return common * lengthOf(topology.edge(edge));
}

}  // namespace

namespace {

/// Where the difference comes from.
std::string whereItDiffers(const Proof& proof) {
    constexpr double little = 1e-4;  // of the volume
    const double missing = proof.solidVolume - (proof.drawnVolume - proof.twice);
    std::string told;
    if (proof.twice > little * proof.solidVolume)
        told += fmt::format("; about {} mm³ are in two walls where they meet", readable(proof.twice, 0));
    if (std::abs(missing) > little * proof.solidVolume)
        told += missing > 0.0 ? fmt::format("; {} mm³ of the solid are not drawn", readable(missing, 0))
                              : fmt::format("; {} mm³ are drawn beside it", readable(-missing, 0));
    return told;
}

}  // namespace

std::vector<std::string> proofLines(const Proof& proof) {
    // What is less than a ten-thousandth of a millimetre or of a per cent is nothing.
    const auto plain = [](double value) { return std::abs(value) < 1e-4 ? std::string("0") : readable(value); };
    const auto reach = [&](const char* what, const Worst& worst, const char* else_) {
        return worst.by < 1e-4 ? std::string(else_)  // shares smaller than a ten-thousandth are not shown
                               : fmt::format("{} {} mm, at {} {} {}", what, plain(worst.by), plain(worst.at.X()),
                                             plain(worst.at.Y()), plain(worst.at.Z()));
    };
    std::vector<std::string> lines{
        fmt::format("volume {} mm³ for {} mm³, {} %", readable(proof.drawnVolume), readable(proof.solidVolume),
                    readable(100.0 * proof.drawnVolume / std::max(proof.solidVolume, Tolerance::divisible), 2)) +
            whereItDiffers(proof),
        fmt::format("centre moved by {} mm, moments of inertia changed by up to {} %", plain(proof.centreShift),
                    plain(100.0 * proof.largestMoment))};
    const std::string pieces = counted(static_cast<std::size_t>(proof.pieces), "piece");
    lines.push_back(fmt::format("{} % of the skin has a drawn skin on it", readable(100.0 * proof.covered, 1)));
    lines.push_back(reach("the solid reaches out by up to", proof.left, "nothing of the solid is left out"));
    lines.push_back(reach("what is drawn reaches beyond the solid by up to", proof.beyond,
                          "nothing drawn reaches beyond the solid"));
    const auto tellRest = [&] {
        if (const std::string line = stationsLine(proof.stations); !line.empty()) lines.push_back(line);
        lines.push_back(fmt::format("about {} elements of {} mm, the solid {}",
                                    readable(std::round(proof.elementsAfter)), readable(proof.targetSize),
                                    readable(std::round(proof.elementsBefore))));
    };
    if (!proof.sheets) {
        lines.push_back(pieces);
        tellRest();
        return lines;
    }
    lines.push_back(reach("thickness off by up to", proof.thickness, "thickness as measured everywhere"));
    lines.push_back(fmt::format("{}, {} of {} mm", pieces,
                                counted(static_cast<std::size_t>(proof.freeEdges), "free edge"),
                                readable(proof.freeLength)));
    tellRest();
    return lines;
}

std::vector<std::string> wallLines(const Proof& proof) {
    std::vector<std::string> lines;
    for (const WallProof& wall : proof.walls) {
        const bool exact = wall.off.by < 1e-4;  // as above
        lines.push_back(fmt::format("wall of {} mm: {} % covered, thickness {}", readable(wall.thickness),
                                    readable(100.0 * wall.covered, 1),
                                    exact ? "as measured" : fmt::format("off by up to {} mm", readable(wall.off.by))));
    }
    return lines;
}

Result<Proof> proofOf(const Model& model, const StandIn& standIn, Progress& progress) {
    return guarded("Proving what was reduced", [&]() -> Result<Proof> {
        Proof proof;
        std::vector<std::shared_ptr<const Part>> reduced, solids;
        std::vector<std::size_t> reducedParts;
        for (const std::size_t p : standIn.parts)
            if (model.parts[p]->kind() != BodyKind::Solid) reducedParts.push_back(p);
        proof.pieces = piecesOf(model, reducedParts);
        for (const std::size_t p : standIn.parts)
            (model.parts[p]->kind() == BodyKind::Solid ? solids : reduced).push_back(model.parts[p]);
        if (reduced.empty()) return fail(ProblemKind::BadInput, "Nothing stands for that solid.");
        // Mass, as if all weighed the same.
        const auto weighed = [&](const std::vector<std::shared_ptr<const Part>>& parts) {
            Model own = modelOf(parts);
            own.density = 1e9;  // so that a mass is a volume
            measure::MassProperties sum;
            for (auto& part : own.parts) {
                auto plain = part->copy();
                plain->material.clear();
                plain->known.added.clear();
                sum += measure::massOf(own, *plain, measure::factsOf(*plain, 1.0, false));
            }
            return sum;
        };
        const measure::MassProperties whole = weighed({standIn.solid});
        std::vector<std::shared_ptr<const Part>> all = reduced;
        all.insert(all.end(), solids.begin(), solids.end());
        const measure::MassProperties after = weighed(all);
        proof.solidVolume = whole.mass;
        proof.drawnVolume = after.mass;
        proof.centreShift = whole.centre.Distance(after.centre);
        proof.largestMoment = momentChange(whole, after);
        for (const auto& part : reduced) {
            proof.sheets = proof.sheets || !part->known.thickness.empty();
            const Incidence& topology = part->incidence();
            for (int e = 1; e <= topology.edgeCount(); ++e) {
                proof.twice += twiceAt(*part, e);
                if (topology.facesAt(e) != 1) continue;
                ++proof.freeEdges;
                proof.freeLength += lengthOf(topology.edge(e));
            }
        }
        const Model drawn = modelOf(reduced), left = modelOf(solids), before = modelOf({standIn.solid});
        const RayField middle(drawn, {}, RayField::usualDeviation, progress),
            skin(before, {}, RayField::usualDeviation, progress);
        auto stations = stationsOf(*standIn.solid, reduced, solids, 5, model.samePoint(), progress);
        if (!stations) return tl::unexpected(stations.error());
        proof.stations = std::move(*stations);
        proof.targetSize = model.targetSize;
        proof.elementsBefore = measure::factsOf(*standIn.solid, model.targetSize, false).elements;
        for (const auto& part : all) proof.elementsAfter += measure::factsOf(*part, model.targetSize, false).elements;
        const BeamMatter beams(reduced);
        std::unique_ptr<RayField> rest;
        if (!solids.empty())
            rest = std::make_unique<RayField>(left, std::vector<std::size_t>{}, RayField::usualDeviation, progress);
        const std::vector<std::shared_ptr<const Part>> solidAlone{standIn.solid};
        Feet onSolid(solidAlone);
        double area = 0.0, covered = 0.0;
        const double extent = skin.extent();
        SheetMatter sheets(reduced, middle, extent);
        std::vector<SkinSample> samples;
        std::vector<int> faceOf;  // by sample, as far as they are of faces
        struct OfFace {
            double area = 0.0, covered = 0.0;
            Worst off;
        };
        std::vector<OfFace> ofFace(static_cast<std::size_t>(standIn.solid->incidence().faceCount()) + 1);
        for (int f = 1; f <= standIn.solid->incidence().faceCount(); ++f) {
            const auto own = skinSamples(standIn.solid->incidence().face(f), 16);
            samples.insert(samples.end(), own.begin(), own.end());
            faceOf.insert(faceOf.end(), own.size(), f);
        }
        // What reaches out does so at its edges.
        for (int e = 1; e <= standIn.solid->incidence().edgeCount(); ++e) {
            const TopoDS_Edge edge = standIn.solid->incidence().edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            const BRepAdaptor_Curve curve(edge);
            for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0})
                samples.push_back({curve.Value((1.0 - share) * curve.FirstParameter() + share * curve.LastParameter()),
                                   gp_Vec(), 0.0});
        }
        OfFace edges;
        for (std::size_t i = 0; i < samples.size(); ++i) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            const SkinSample& one = samples[i];
            OfFace& own = i < faceOf.size() ? ofFace[static_cast<std::size_t>(faceOf[i])] : edges;
            area += one.area;
            own.area += one.area;
            const SheetMatter::Distance sheet = sheets.of(one.at);
            double off = std::min(sheet.outside, extent);
            bool onSkin = sheet.onSkin;
            // What the solid really measures there, straight through.
            const bool square = sheet.isSquare && std::abs(sheet.normal.Dot(one.out)) > squarely;
            const auto far = square ? skin.first(one.at, gp_Dir(one.out.Reversed()), skin.skin()) : std::nullopt;
            if (far && far->normal.Dot(one.out) < -squarely && far->distance < 6.0 * sheet.half) {
                const auto foot = onSolid.in(0, far->face, one.at);
                const double differs = foot ? std::abs(foot->at.Distance(one.at) - 2.0 * sheet.half) : 0.0;
                if (differs > proof.thickness.by) proof.thickness = {differs, one.at};
                if (differs > own.off.by) own.off = {differs, one.at};
            }
            if (!beams.isEmpty()) {
                const BeamMatter::Distance beam = beams.of(one.at);
                off = std::min(off, beam.outside);
                constexpr double onOutline = 5e-3;  // of the depth: outlines are chords
                onSkin = onSkin || (one.area > 0.0 && beam.toSkin < onOutline * beam.depth);
            }
            if (rest && (!onSkin || off > 0.0))
                if (const auto solid = rest->nearest(one.at, std::max(off, RayField::usualDeviation * extent)); solid) {
                    off = std::min(off, solid->distance);
                    onSkin = onSkin || solid->distance < RayField::usualDeviation * extent;
                }
            if (onSkin) covered += one.area;
            if (onSkin) own.covered += one.area;
            if (off > proof.left.by) proof.left = {off, one.at};
        }
        proof.covered = area > 0.0 ? covered / area : 0.0;
        if (proof.sheets) {
            const auto walls = findWalls(*standIn.solid, 0.0, 0.0, progress);
            if (!walls) return tl::unexpected(walls.error());
            for (const Wall& wall : *walls) {
                if (wall.slenderness != Slenderness::Thin) continue;
                WallProof own{wall.thickness, 0.0, 0.0, {}, wall.where};
                for (const auto* side : {&wall.sideA, &wall.sideB})
                    for (const int f : *side) {
                        const OfFace& face = ofFace[static_cast<std::size_t>(f)];
                        own.area += face.area;
                        own.covered += face.covered;
                        if (face.off.by > own.off.by) own.off = face.off;
                    }
                if (own.area > 0.0) own.covered /= own.area;
                proof.walls.push_back(own);
            }
            std::stable_sort(proof.walls.begin(), proof.walls.end(),
                             [](const WallProof& a, const WallProof& b) { return a.covered < b.covered; });
        }
        // What is drawn outside of the solid.
        const auto outside = [&](const gp_Pnt& at) {
            int inside = 0;
            for (const gp_Dir& along : {gp_Dir(0.31, 0.52, 0.79), gp_Dir(-0.61, 0.33, 0.72), gp_Dir(0.1, -0.9, 0.42)}) {
                const auto hit = skin.first(at, along);
                inside += hit && hit->normal.Dot(gp_Vec(along)) > 0.0;
            }
            return inside < 2;
        };
        for (const auto& part : reduced) {
            const DrawnBody body = drawnBody(*part, RayField::usualDeviation, progress);
            for (const auto& t : body.triangles) {
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                const auto point = [&](int k) {
                    return body.points[static_cast<std::size_t>(t[static_cast<std::size_t>(k)])].XYZ();
                };
                const gp_Pnt at((point(0) + point(1) + point(2)) / 3.0);
                const auto nearest = skin.nearest(at);
                // Triangles are off round skins by as much as they were told they may be.
                const bool out = nearest && nearest->distance > 2e-3 * extent && outside(at);
                proof.reachesOut.push_back(out);
                if (out && nearest->distance > proof.beyond.by) proof.beyond = {nearest->distance, at};
            }
        }
        return proof;
    });
}

}  // namespace rasoir::reduce
