#include "survey/holes.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBndLib.hxx>
#include <BRepTools.hxx>
#include <Geom_Plane.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Pln.hxx>
#include <numeric>

#include "common/tolerance.h"
#include "forecast/elements.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "survey/hole_finder.h"
#include "survey/patterns.h"
#include "survey/sheet_holes.h"
#include "topology/edge_angle.h"

// 1. Walls of one axis and radius are put into rings (hole_rings.cpp).
// 2. From each ring, the narrowest first, a hole grows: floors, shoulders, cones, wider walls above, rims. It ends
// where
//    nothing more belongs to it, and what it opens into makes its mouths. What has an island in it is a pocket.
// 3. Its kind is read off its rings: tapered, countersunk, stepped, counterbored.
// 4. Half rings that face each other with flats between them are slots.
// 5. Pieces of one drill that another hole parts are joined; what a mouth opens into is looked up; bores are told.

namespace rasoir::survey {

Result<std::vector<Hole>> HoleFinder::run() {
    const int faces = m_topology.faceCount();
    m_round.resize(static_cast<std::size_t>(faces) + 1);
    m_kind.resize(m_round.size(), SurfaceKind::Other);
    m_holeOf.assign(m_round.size(), -1);
    m_ringOf.assign(m_round.size(), -1);
    m_halfSide.assign(m_round.size(), -1.0);
    Bnd_Box box;
    if (faces > 0) BRepBndLib::Add(m_part.shape, box, false);
    m_scale = box.IsVoid() ? 1.0 : box.CornerMin().Distance(box.CornerMax());
    m_same = std::max(1e-6 * m_scale, 2e-6);  // of the scale, twice what a file's digits leave
    for (int f = 1; f <= faces; ++f) {
        if (m_topology.bodyOf(f) < 0) continue;
        m_kind[f] = surfaceKind(m_topology.face(f));
        if (m_kind[f] != SurfaceKind::Plane) m_round[f] = roundSurface(m_topology.face(f), m_same);
    }
    if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "The survey was stopped.");
    findRings();
    // Small rings first: a step takes the wider walls above it along.
    std::vector<std::size_t> order(m_rings.size());
    std::iota(order.begin(), order.end(), 0);
    std::stable_sort(order.begin(), order.end(), [this](std::size_t a, std::size_t b) {
        const bool coneA = m_rings[a].surface.kind == SurfaceKind::Cone,
                   coneB = m_rings[b].surface.kind == SurfaceKind::Cone;
        if (coneA != coneB) return coneB;
        return m_rings[a].surface.radius < m_rings[b].surface.radius - m_same;
    });
    for (const std::size_t r : order) {
        if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "The survey was stopped.");
        growFrom(static_cast<int>(r));
    }
    if (m_limits.listSlots) findSlots();
    finish();
    return std::move(m_holes);
}

void HoleFinder::growFrom(int ringIndex) {
    const Ring& ring = m_rings[ringIndex];
    if (m_holeOf[ring.faces.front()] >= 0 || !isWall(ring)) return;
    const double limit = m_limits.upTo > 0.0 ? m_limits.upTo * (1.0 + Tolerance::rounding) : 1e300;
    if (widestOf(ring) > limit) return;
    const bool seedIsCone = ring.surface.kind == SurfaceKind::Cone;
    const gp_Ax1 axis = ring.surface.axis;
    const double radius = seedIsCone ? 0.5 * widestOf(ring) : ring.surface.radius;
    std::vector<char> inside(m_round.size(), 0);
    std::vector<int> faces = ring.faces;
    std::vector<int> rings{ringIndex};
    for (const int f : faces) inside[f] = 1;
    double widestStep = radius;
    const auto take = [&](int f) {
        inside[f] = 1;
        faces.push_back(f);
    };
    bool rimRound = false, ballEnd = false;
    for (std::size_t i = 0; i < faces.size(); ++i) {
        const int f = faces[i];
        for (const int g : m_topology.neighboursOf(f)) {
            if (inside[g] || m_holeOf[g] >= 0) continue;
            double outer = 0.0;
            if (coaxial(axis, g, radius)) {
                const RoundSurface& round = *m_round[g];
                if (concaveWall(g)) {
                    const Ring& other = m_rings[m_ringOf[g]];
                    const double width = widestOf(other);
                    const double narrow = other.surface.kind == SurfaceKind::Cone
                                              ? 2.0 * std::min(std::abs(radiusAt(other.surface, other.low)),
                                                               std::abs(radiusAt(other.surface, other.high)))
                                              : width;
                    if (other.turn < openTurn) continue;
                    if (narrow > 2.0 * m_limits.stepRatio * widestStep) continue;
                    if (other.surface.kind == SurfaceKind::Cylinder &&
                        width > std::min(limit, 2.0 * m_limits.stepRatio * widestStep))
                        continue;
                    if (other.surface.kind == SurfaceKind::Cone && width > 2.0 * m_limits.stepRatio * widestStep * 1.2)
                        continue;
                    rings.push_back(m_ringOf[g]);
                    if (other.surface.kind == SurfaceKind::Cylinder)
                        widestStep = std::max(widestStep, other.surface.radius);
                    for (const int member : other.faces)
                        if (!inside[member]) take(member);
                    continue;
                }
                if (round.kind == SurfaceKind::Torus && round.radius <= widestStep * 1.001 &&
                    round.ringRadius <= m_limits.stepRatio * widestStep && goesAllRound(g) && smoothTo(f, g)) {
                    if (!round.inward) rimRound = true;
                    take(g);
                    continue;
                }
                if (round.kind == SurfaceKind::Sphere && round.inward && round.radius < 2.5 * widestStep) {
                    ballEnd = true;
                    take(g);
                    continue;
                }
            }
            if (isShoulder(g, axis, radius, outer) && outer <= m_limits.stepRatio * widestStep * 1.001 &&
                2.0 * outer <= limit * (1.0 + Tolerance::atLimit)) {
                take(g);
                continue;
            }
            if (isFloor(g, inside) || isOpenFloor(g, axis, inside, widestStep)) {
                take(g);
                continue;
            }
            if (isRimBlend(f, g, inside, widestStep)) {
                rimRound = true;
                take(g);
            }
        }
    }
    std::vector<std::vector<int>> loops = mouthsOf(faces, inside);
    if (loops.empty() || hasIsland(faces, inside)) return;

    Hole hole;
    hole.axis = axis;
    hole.body = m_topology.bodyOf(faces.front());
    hole.rimRound = rimRound;
    hole.ballEnd = ballEnd;
    std::sort(faces.begin(), faces.end());
    hole.faces = faces;
    classify(hole, rings, seedIsCone);
    for (std::vector<int>& loop : loops) hole.mouths.push_back({std::move(loop), -1});
    hole.through = hole.mouths.size() >= 2;
    if (hole.through) hole.drillPoint = false;
    const int index = static_cast<int>(m_holes.size());
    for (const int f : hole.faces) m_holeOf[f] = index;
    m_holes.push_back(std::move(hole));
}

void HoleFinder::classify(Hole& hole, const std::vector<int>& rings, bool seedIsCone) {
    double low = 1e300, high = -1e300;
    for (const int f : hole.faces)
        visitEdgePoints(f, [&](const gp_Pnt& point) {
            const double height = heightOn(hole.axis, point);
            low = std::min(low, height);
            high = std::max(high, height);
        });
    for (const int f : hole.faces)
        if (m_round[f] && m_round[f]->kind == SurfaceKind::Sphere) {  // the bottom of a ball end has no edge
            const double centre = heightOn(hole.axis, m_round[f]->axis.Location());
            if (centre - low < high - centre)
                low = std::min(low, centre - m_round[f]->radius);
            else
                high = std::max(high, centre + m_round[f]->radius);
        }
    hole.depth = high - low;
    hole.middle = hole.axis.Location().Translated(gp_Vec(hole.axis.Direction()) * (0.5 * (low + high)));

    struct Section {
        double low, high, radius;
    };
    std::vector<Section> sections;
    double coneWidest = 0.0;
    bool open = false;
    for (const int r : rings) {
        const Ring& ring = m_rings[r];
        // Heights of this ring about the hole's own axis.
        const double shift = heightOn(hole.axis, ring.surface.axis.Location());
        const double sign = ring.surface.axis.Direction().Dot(hole.axis.Direction()) > 0.0 ? 1.0 : -1.0;
        const double a = shift + sign * ring.low, b = shift + sign * ring.high;
        open = open || ring.turn < fullTurn;
        if (ring.surface.kind == SurfaceKind::Cylinder) {
            sections.push_back({std::min(a, b), std::max(a, b), ring.surface.radius});
            hole.volume += M_PI * ring.surface.radius * ring.surface.radius * std::abs(b - a);
        } else {
            const double ra = std::abs(radiusAt(ring.surface, ring.low)),
                         rb = std::abs(radiusAt(ring.surface, ring.high));
            coneWidest = std::max(coneWidest, 2.0 * std::max(ra, rb));
            hole.volume += M_PI / 3.0 * std::abs(b - a) * (ra * ra + ra * rb + rb * rb);
            if (std::min(ra, rb) < 0.02 * std::max(ra, rb)) hole.drillPoint = true;
        }
    }
    hole.openSide = open;
    for (const Section& section : sections) hole.diameters.push_back(2.0 * section.radius);
    std::sort(hole.diameters.begin(), hole.diameters.end());
    hole.diameters.erase(std::unique(hole.diameters.begin(), hole.diameters.end(),
                                     [this](double a, double b) { return std::abs(a - b) < allowanceFor(b); }),
                         hole.diameters.end());
    if (seedIsCone || hole.diameters.empty()) {
        hole.kind = HoleKind::Tapered;
        hole.size = coneWidest;
        hole.diameters = {coneWidest};
        return;
    }
    hole.size = hole.diameters.back();
    const double coneRatio = coneWidest / hole.size;
    if (coneRatio > 1.0 + Tolerance::sameSize && coneRatio < sinkRatio) hole.rimChamfer = true;
    if (coneRatio >= sinkRatio) {
        hole.kind = HoleKind::Countersunk;
        hole.sinkDiameter = coneWidest;
    } else if (hole.diameters.size() >= 2) {
        hole.kind = HoleKind::Stepped;
        if (hole.diameters.size() == 2 && sections.size() == 2) {
            const Section& wide = sections[0].radius > sections[1].radius ? sections[0] : sections[1];
            const Section& narrow = sections[0].radius > sections[1].radius ? sections[1] : sections[0];
            const bool flatShoulder = std::any_of(hole.faces.begin(), hole.faces.end(), [&](int f) {
                double outer = 0.0;
                return m_kind[f] == SurfaceKind::Plane && isShoulder(f, hole.axis, wide.radius, outer) &&
                       std::abs(outer - wide.radius) < allowanceFor(wide.radius);
            });
            if (flatShoulder && wide.high - wide.low <= narrow.high - narrow.low) hole.kind = HoleKind::Counterbored;
        }
    }
}

void HoleFinder::findSlots() {
    std::vector<int> ends;
    for (std::size_t r = 0; r < m_rings.size(); ++r)
        if (m_rings[r].surface.kind == SurfaceKind::Cylinder &&
            std::abs(m_rings[r].turn - halfTurn) < 3.0 * oneDegree && m_holeOf[m_rings[r].faces.front()] < 0)
            ends.push_back(static_cast<int>(r));
    const double limit = m_limits.upTo > 0.0 ? m_limits.upTo * (1.0 + Tolerance::rounding) : 1e300;
    for (const int first : ends) {
        const Ring& one = m_rings[first];
        if (m_holeOf[one.faces.front()] >= 0 || 2.0 * one.surface.radius > limit) continue;
        std::set<int> flats;
        std::map<int, int> partners;  // ring -> how many flats lead to it
        for (const int f : one.faces)
            for (const int g : m_topology.neighboursOf(f)) {
                if (m_kind[g] != SurfaceKind::Plane || !smoothTo(f, g) || !flats.insert(g).second) continue;
                for (const int h : m_topology.neighboursOf(g)) {
                    const int r = m_ringOf[h];
                    if (r < 0 || r == first || m_holeOf[h] >= 0) continue;
                    if (m_rings[r].surface.kind != SurfaceKind::Cylinder || !smoothTo(h, g)) continue;
                    if (std::abs(m_rings[r].surface.radius - one.surface.radius) > allowanceFor(one.surface.radius))
                        continue;
                    if (std::abs(m_rings[r].turn - halfTurn) > 3.0 * oneDegree) continue;
                    ++partners[r];
                }
            }
        if (flats.size() != 2) continue;
        const auto found =
            std::find_if(partners.begin(), partners.end(), [](const auto& entry) { return entry.second >= 2; });
        if (found == partners.end()) continue;
        const Ring& two = m_rings[found->first];
        std::vector<char> inside(m_round.size(), 0);
        Hole slot;
        slot.kind = HoleKind::Slot;
        const auto take = [&](int f) {
            if (inside[f]) return;
            inside[f] = 1;
            slot.faces.push_back(f);
        };
        for (const int f : one.faces) take(f);
        for (const int f : two.faces) take(f);
        for (const int f : flats) take(f);
        for (std::size_t i = 0; i < slot.faces.size(); ++i)
            for (const int g : m_topology.neighboursOf(slot.faces[i]))
                if (!inside[g] && m_holeOf[g] < 0 && isFloor(g, inside)) take(g);
        auto loops = mouthsOf(slot.faces, inside);
        if (loops.empty() || hasIsland(slot.faces, inside)) continue;
        const gp_Ax1 axis = one.surface.axis;
        double low = 1e300, high = -1e300;
        for (const int f : slot.faces)
            visitEdgePoints(f, [&](const gp_Pnt& point) {
                low = std::min(low, heightOn(axis, point));
                high = std::max(high, heightOn(axis, point));
            });
        const double apart = distanceTo(axis, two.surface.axis.Location());
        const gp_Pnt other = two.surface.axis.Location();
        const gp_Vec across(axis.Location().Translated(gp_Vec(axis.Direction()) * heightOn(axis, other)), other);
        slot.axis = axis.Translated(across * 0.5);
        slot.depth = high - low;
        slot.middle = axis.Location().Translated(gp_Vec(axis.Direction()) * (0.5 * (low + high)) + across * 0.5);
        slot.size = 2.0 * one.surface.radius;
        slot.length = apart + slot.size;
        slot.diameters = {slot.size};
        slot.volume = slot.depth * (M_PI_4 * slot.size * slot.size + apart * slot.size);
        slot.body = m_topology.bodyOf(slot.faces.front());
        std::sort(slot.faces.begin(), slot.faces.end());
        for (auto& loop : loops) slot.mouths.push_back({std::move(loop), -1});
        slot.through = slot.mouths.size() >= 2;
        const int index = static_cast<int>(m_holes.size());
        for (const int f : slot.faces) m_holeOf[f] = index;
        m_holes.push_back(std::move(slot));
    }
}

bool HoleFinder::isBore(const Hole& hole) {
    if (hole.kind == HoleKind::Slot) return false;
    int ends = 0;
    for (const Mouth& mouth : hole.mouths) {
        if (mouth.intoHole >= 0) continue;
        ++ends;
        if (mouth.neighbours.size() != 1) return false;
        for (const int f : mouth.neighbours) {
            if (m_kind[f] != SurfaceKind::Plane || halfSide(f) > hole.size * (1.0 + Tolerance::atLimit)) return false;
            double reach = 0.0;
            visitEdgePoints(f, [&](const gp_Pnt& point) { reach = std::max(reach, distanceTo(hole.axis, point)); });
            if (reach > hole.size * (1.0 + Tolerance::atLimit)) return false;
        }
    }
    return ends >= 2;
}

double HoleFinder::extraOf(int f) const {
    const TopoDS_Face face = m_topology.face(f);
    double perimeter = 0.0;
    for (const int e : m_topology.edgesOf(f)) {
        const BRepAdaptor_Curve curve(m_topology.edge(e));
        const double first = curve.FirstParameter(), last = curve.LastParameter();
        const int pieces = curve.GetType() == GeomAbs_Line ? 1 : 16;
        gp_Pnt before = curve.Value(first);
        double length = 0.0;
        for (int i = 1; i <= pieces; ++i) {
            const gp_Pnt point = curve.Value(first + (last - first) * i / pieces);
            length += before.Distance(point);
            before = point;
        }
        perimeter +=
            length * static_cast<double>(std::count_if(m_topology.usesOf(e).begin(), m_topology.usesOf(e).end(),
                                                       [f](const EdgeUse& use) { return use.face == f; }));
    }
    double area = 0.0;
    if (m_kind[f] == SurfaceKind::Cylinder || m_kind[f] == SurfaceKind::Cone || m_kind[f] == SurfaceKind::Torus) {
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
        BRepTools::UVBounds(face, u0, u1, v0, v1);
        gp_Pnt point;
        gp_Vec du, dv;
        BRep_Tool::Surface(face)->D1(0.5 * (u0 + u1), 0.5 * (v0 + v1), point, du, dv);
        area = du.Crossed(dv).Magnitude() * (u1 - u0) * (v1 - v0);
    } else {
        area = m_topology.area(f);
    }
    const bool curved = m_round[f] && m_kind[f] != SurfaceKind::Cone;
    return forecast::faceShare(area, perimeter, curved ? m_round[f]->radius : 0.0, m_targetSize).extra;
}

void HoleFinder::linkMouths() {
    for (std::size_t i = 0; i < m_holes.size(); ++i)
        for (const int f : m_holes[i].faces) m_holeOf[f] = static_cast<int>(i);
    for (std::size_t i = 0; i < m_holes.size(); ++i)
        for (Mouth& mouth : m_holes[i].mouths) {
            mouth.intoHole = -1;
            for (const int f : mouth.neighbours)
                if (m_holeOf[f] >= 0 && m_holeOf[f] != static_cast<int>(i)) mouth.intoHole = m_holeOf[f];
        }
}

void HoleFinder::joinInterrupted() {
    const auto opensInto = [](const Hole& hole, int other) {
        return std::any_of(hole.mouths.begin(), hole.mouths.end(),
                           [other](const Mouth& mouth) { return mouth.intoHole == other; });
    };
    const auto pieces = [&](const Hole& a, const Hole& b) {
        if (a.kind == HoleKind::Slot || b.kind == HoleKind::Slot || a.body != b.body) return false;
        if (!sameAxis(a.axis, b.axis, allowanceFor(a.size))) return false;
        const bool sameDrill = std::any_of(a.diameters.begin(), a.diameters.end(), [&](double d) {
            return std::any_of(b.diameters.begin(), b.diameters.end(),
                               [&](double e) { return std::abs(d - e) < allowanceFor(d); });
        });
        return sameDrill && std::any_of(a.mouths.begin(), a.mouths.end(), [&](const Mouth& mouth) {
                   return mouth.intoHole >= 0 && opensInto(b, mouth.intoHole);
               });
    };
    linkMouths();
    for (std::size_t i = 0; i < m_holes.size(); ++i)
        for (std::size_t j = i + 1; j < m_holes.size();) {
            if (!pieces(m_holes[i], m_holes[j])) {
                ++j;
                continue;
            }
            Hole& one = m_holes[i];
            Hole other = std::move(m_holes[j]);
            m_holes.erase(m_holes.begin() + static_cast<std::ptrdiff_t>(j));
            const auto endsOf = [&one](const Hole& hole) {
                const double middle = heightOn(one.axis, hole.middle);
                return std::pair{middle - 0.5 * hole.depth, middle + 0.5 * hole.depth};
            };
            const auto [lowA, highA] = endsOf(one);
            const auto [lowB, highB] = endsOf(other);
            const double low = std::min(lowA, lowB), high = std::max(highA, highB);
            // What lay between the pieces was drilled too.
            one.volume +=
                other.volume + std::max(0.0, (high - low) - one.depth - other.depth) * M_PI_4 * other.size * other.size;
            one.depth = high - low;
            one.middle = one.axis.Location().Translated(gp_Vec(one.axis.Direction()) * (0.5 * (low + high)));
            one.through = one.through && other.through;
            one.drillPoint = one.drillPoint || other.drillPoint;
            one.ballEnd = one.ballEnd || other.ballEnd;
            one.rimChamfer = one.rimChamfer || other.rimChamfer;
            one.rimRound = one.rimRound || other.rimRound;
            one.openSide = one.openSide || other.openSide;
            if (other.kind != HoleKind::Plain) one.kind = other.kind;
            one.size = std::max(one.size, other.size);
            one.sinkDiameter = std::max(one.sinkDiameter, other.sinkDiameter);
            for (const double d : other.diameters)
                if (std::none_of(one.diameters.begin(), one.diameters.end(),
                                 [&](double known) { return std::abs(known - d) < allowanceFor(d); }))
                    one.diameters.push_back(d);
            std::sort(one.diameters.begin(), one.diameters.end());
            one.faces.insert(one.faces.end(), other.faces.begin(), other.faces.end());
            std::sort(one.faces.begin(), one.faces.end());
            one.mouths.insert(one.mouths.end(), other.mouths.begin(), other.mouths.end());
            linkMouths();
            j = i + 1;
        }
}

void HoleFinder::finish() {
    joinInterrupted();
    // Order by size, then by place; indices follow.
    std::vector<int> order(m_holes.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [this](int a, int b) {
        if (std::abs(m_holes[a].size - m_holes[b].size) > m_same) return m_holes[a].size < m_holes[b].size;
        return m_holes[a].faces.front() < m_holes[b].faces.front();
    });
    std::vector<Hole> sorted;
    for (const int i : order) sorted.push_back(std::move(m_holes[i]));
    m_holes = std::move(sorted);
    linkMouths();

    std::vector<int> parent(m_holes.size());
    std::iota(parent.begin(), parent.end(), 0);
    const auto root = [&parent](int i) {
        while (parent[i] != i) i = parent[i] = parent[parent[i]];
        return i;
    };
    for (std::size_t i = 0; i < m_holes.size(); ++i) {
        Hole& hole = m_holes[i];
        for (const Mouth& mouth : hole.mouths)
            if (mouth.intoHole >= 0) parent[root(static_cast<int>(i))] = root(mouth.intoHole);
        hole.bore = isBore(hole);
        for (const int f : hole.faces) hole.elements += extraOf(f);
        hole.elements = std::max(0.0, hole.elements - forecast::bulk(hole.volume, m_targetSize));
    }
    std::map<int, int> members;
    for (std::size_t i = 0; i < m_holes.size(); ++i) ++members[root(static_cast<int>(i))];
    std::map<int, int> groupOf;
    for (std::size_t i = 0; i < m_holes.size(); ++i) {
        const int r = root(static_cast<int>(i));
        if (members[r] < 2) continue;
        m_holes[i].group = groupOf.try_emplace(r, static_cast<int>(groupOf.size())).first->second;
    }
}

Result<std::vector<Hole>> findHoles(const Part& part, double targetSize, const HoleLimits& limits, Progress& progress) {
    auto found = HoleFinder(part, targetSize, limits, progress).run();
    if (!found) return found;
    std::vector<Hole> sheet = findSheetHoles(part, targetSize);
    for (Hole& hole : sheet)
        if (limits.upTo <= 0.0 || hole.size <= limits.upTo) found->push_back(std::move(hole));
    std::stable_sort(found->begin(), found->end(), [](const Hole& a, const Hole& b) { return a.size < b.size; });
    tellPatterns(*found);
    return found;
}

std::string holeKindName(HoleKind kind) {
    switch (kind) {
        case HoleKind::Plain:
            return "plain";
        case HoleKind::Stepped:
            return "stepped";
        case HoleKind::Counterbored:
            return "counterbored";
        case HoleKind::Countersunk:
            return "countersunk";
        case HoleKind::Tapered:
            return "tapered";
        case HoleKind::Slot:
            return "slot";
        case HoleKind::Sheet:
            return "sheet";
    }
    return "hole";
}

std::string describe(const Hole& hole) {
    const std::string pattern = hole.pattern.empty() ? std::string() : ", " + hole.pattern;
    if (hole.kind == HoleKind::Sheet)
        return (hole.diameters.empty() ? fmt::format("in a sheet, {}", counted(hole.rim.size(), "edge"))
                                       : std::string("in a sheet, round")) +
               pattern;
    std::string text;
    if (hole.kind == HoleKind::Slot)
        text = fmt::format("slot {:.3g} long", hole.length);
    else if (hole.kind != HoleKind::Plain)
        text = holeKindName(hole.kind);
    if (hole.bore) text += text.empty() ? "bore" : ", bore";
    if (!text.empty()) text += ", ";
    text += hole.through ? "through" : fmt::format("blind, {:.3g} deep", hole.depth);
    if (hole.openSide) text += ", open at one side";
    if (hole.group >= 0) text += ", crossing";
    return text + pattern;
}

}  // namespace rasoir::survey
