#include "survey/steps.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <gp_Lin.hxx>
#include <gp_Pln.hxx>
#include <map>
#include <numeric>

#include "common/tolerance.h"
#include "forecast/elements.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "topology/edge_angle.h"

namespace rasoir::survey {
namespace {

constexpr double parallel = 1e-4;  // [rad]
constexpr std::size_t mostBeside = 200;

/// A flat or a cylinder, and how high it lies: along its normal, or from its axis.
struct Level {
    bool round = false, inward = false;
    gp_Ax1 axis;          // of a flat: its normal, away from the material
    double height = 0.0;  // [mm] a cylinder's radius
};

class StepFinder {
public:
    StepFinder(const Part& part, double targetSize, const std::set<int>& ofOthers)
        : m_topology(part.incidence()), m_targetSize(targetSize), m_ofOthers(ofOthers) {}

    std::vector<Relief> run() {
        std::vector<Riser> risers;
        for (int f = 1; f <= m_topology.faceCount(); ++f)
            if (m_topology.bodyOf(f) >= 0 && !m_ofOthers.contains(f))
                if (auto riser = look(f)) risers.push_back(std::move(*riser));
        std::vector<Relief> found;
        for (const std::vector<std::size_t>& members : together(risers)) found.push_back(reliefOf(risers, members));
        return found;
    }

private:
    const Incidence& m_topology;
    double m_targetSize;
    const std::set<int>& m_ofOthers;
    std::map<int, std::optional<Level>> m_levels;
    std::map<int, double> m_areas;

    /// Faces that a face meets in outer edges, and in inner ones, with the lengths of those.
    [[nodiscard]] std::pair<std::map<int, double>, std::map<int, double>> sides(int f) const {
        std::map<int, double> outer, inner;
        for (const int e : m_topology.edgesOf(f)) {
            const auto uses = m_topology.usesOf(e);
            if (uses.size() != 2 || BRep_Tool::Degenerated(m_topology.edge(e))) continue;
            const int other = uses[0].face == f ? uses[1].face : uses[0].face;
            if (other == f || m_ofOthers.contains(other)) continue;
            const EdgeKind kind = edgeAngle(m_topology, e).kind;
            if (kind == EdgeKind::Convex) outer[other] += EdgeProbe(m_topology.edge(e)).length();
            if (kind == EdgeKind::Concave) inner[other] += EdgeProbe(m_topology.edge(e)).length();
        }
        return {std::move(outer), std::move(inner)};
    }

    struct Riser {
        int face = 0;
        int stays = 0;          // the face that both sides become one with
        std::vector<int> goes;  // those that become one with it, of one level
        bool raised = false;    // what goes lies higher
        double height = 0.0, length = 0.0;
    };

    double areaAt(int f) {
        const auto [it, fresh] = m_areas.try_emplace(f, 0.0);
        if (fresh) it->second = m_topology.area(f);
        return it->second;
    }

    /// The face between one face along its outer edge and those of one level along its inner one, or the other way
    /// round.
    std::optional<Riser> look(int f) {
        // Most faces lie between no two that run beside each other: seen before any angle is measured.
        const std::vector<int> beside = m_topology.neighboursOf(f);
        bool between = false;
        if (beside.size() > mostBeside) return std::nullopt;  // a plate's flat, no narrow riser
        for (std::size_t i = 0; i < beside.size() && !between; ++i)
            for (std::size_t j = 0; j < i && !between; ++j)
                if (const auto height = apart(beside[i], beside[j])) between = *height <= 2.0 * m_targetSize;
        if (!between) return std::nullopt;
        const auto [outer, inner] = sides(f);
        std::optional<Riser> best;
        for (const bool raised : {false, true})
            for (const auto& [stays, length] : raised ? inner : outer) {
                std::map<double, std::pair<double, std::vector<int>>> levels;  // by height: how long, and which
                for (const auto& [other, along] : raised ? outer : inner)
                    if (const auto height = other == stays ? std::nullopt : apart(stays, other);
                        height && *height <= 2.0 * m_targetSize) {
                        auto level = levels.lower_bound(*height * (1.0 - Tolerance::atLimit));
                        if (level == levels.end() || level->first > *height * (1.0 + Tolerance::atLimit))
                            level = levels.emplace(*height, std::pair<double, std::vector<int>>()).first;
                        level->second.first += along;
                        level->second.second.push_back(other);
                    }
                for (const auto& [height, level] : levels) {
                    const auto& [along, faces] = level;
                    if (std::min(along, length) < 0.8 * std::max(along, length) ||
                        areaAt(f) > 1.3 * height * std::max(length, along))
                        continue;
                    double area = 0.0;
                    for (const int g : faces) area += areaAt(g);
                    if (area > areaAt(stays) || (area == areaAt(stays) && raised) || (best && best->length >= length))
                        continue;
                    best = Riser{f, stays, faces, raised, height, length};
                }
            }
        return best;
    }

    /// Risers that lead to the same faces, or meet each other, are one step.
    [[nodiscard]] std::vector<std::vector<std::size_t>> together(const std::vector<Riser>& risers) const {
        std::vector<std::size_t> parent(risers.size());
        std::iota(parent.begin(), parent.end(), 0);
        const auto root = [&parent](std::size_t i) {
            while (parent[i] != i) i = parent[i] = parent[parent[i]];
            return i;
        };
        std::map<int, std::vector<std::size_t>> byStay, byFace;
        for (std::size_t i = 0; i < risers.size(); ++i) byStay[risers[i].stays].push_back(i);
        for (const auto& [stays, members] : byStay) {
            byFace.clear();
            for (const std::size_t i : members) {
                for (const int g : risers[i].goes) byFace[g].push_back(i);
                for (const int g : m_topology.neighboursOf(risers[i].face)) byFace[g].push_back(i);
            }
            for (const std::size_t i : members) {
                std::vector<int> of = risers[i].goes;
                of.push_back(risers[i].face);
                for (const int g : of)
                    for (const std::size_t j : byFace[g])
                        if (risers[j].raised == risers[i].raised &&
                            std::abs(risers[j].height - risers[i].height) <= Tolerance::sameSize * risers[i].height &&
                            (g == risers[i].face ||
                             std::find(risers[j].goes.begin(), risers[j].goes.end(), g) != risers[j].goes.end()))
                            parent[root(i)] = root(j);
            }
        }
        std::map<std::size_t, std::vector<std::size_t>> groups;
        for (std::size_t i = 0; i < risers.size(); ++i) groups[root(i)].push_back(i);
        std::vector<std::vector<std::size_t>> all;
        for (auto& [first, members] : groups) all.push_back(std::move(members));
        return all;
    }

    Relief reliefOf(const std::vector<Riser>& risers, const std::vector<std::size_t>& members) {
        Relief relief;
        relief.kind = ReliefKind::Step;
        relief.raised = risers[members.front()].raised;
        relief.height = risers[members.front()].height;
        std::set<int> goes;
        double area = 0.0, of = 0.0;
        gp_XYZ middle(0, 0, 0);
        for (const std::size_t i : members) {
            const Riser& riser = risers[i];
            relief.faces.push_back(riser.face);
            relief.breadth += riser.length;
            goes.insert(riser.goes.begin(), riser.goes.end());
            const Skin& skin = m_topology.skin(riser.face);
            area += skin.area;
            middle += skin.centre.XYZ() * skin.area;
            relief.elements += forecast::faceShare(m_topology.face(riser.face), m_targetSize).extra;
        }
        // Pieces of the same flat beside them go along.
        std::vector<int> row(goes.begin(), goes.end());
        for (std::size_t i = 0; i < row.size(); ++i)
            for (const int g : m_topology.neighboursOf(row[i]))
                if (!goes.contains(g) &&
                    sameSurface(m_topology.face(row[i]), m_topology.face(g), Tolerance::samePlace)) {
                    goes.insert(g);
                    row.push_back(g);
                }
        std::sort(relief.faces.begin(), relief.faces.end());
        relief.wall = relief.faces.front();
        relief.middle = gp_Pnt(middle / std::max(area, Tolerance::divisible));
        for (const int g : goes) of += areaAt(g);
        relief.bases = {risers[members.front()].stays};
        relief.bases.insert(relief.bases.end(), goes.begin(), goes.end());
        relief.sides = {relief.height, relief.breadth, of / std::max(relief.breadth, Tolerance::noWay)};
        std::sort(relief.sides.begin(), relief.sides.end());
        relief.gain = (relief.raised ? -1.0 : 1.0) * relief.height * of;
        return relief;
    }

    const std::optional<Level>& levelOf(int f) {
        const auto [it, fresh] = m_levels.try_emplace(f);
        if (!fresh) return it->second;
        const TopoDS_Face face = m_topology.face(f);
        if (surfaceKind(face) == SurfaceKind::Plane) {
            const BRepAdaptor_Surface surface(face, false);
            if (surface.GetType() != GeomAbs_Plane) return it->second;
            gp_Ax1 normal = surface.Plane().Axis();
            if (!surface.Plane().Direct()) normal.Reverse();
            if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
            it->second =
                Level{false, false, normal, gp_Vec(gp::Origin(), normal.Location()).Dot(gp_Vec(normal.Direction()))};
        } else if (const auto round = roundSurface(face); round && round->kind == SurfaceKind::Cylinder) {
            it->second = Level{true, round->inward, round->axis, round->radius};
        }
        return it->second;
    }

    /// [mm] how far two faces lie apart that run beside each other; none where they do not.
    std::optional<double> apart(int a, int b) {
        const auto one = levelOf(a), two = levelOf(b);
        if (!one || !two || one->round != two->round || one->inward != two->inward) return std::nullopt;
        const double angle = one->axis.Direction().Angle(two->axis.Direction());
        if (angle > parallel && (!one->round || angle < M_PI - parallel)) return std::nullopt;
        const double height = std::abs(one->height - two->height);
        // Of the height: cylinders about one axis that were placed by other digits.
        if (one->round && gp_Lin(one->axis).Distance(two->axis.Location()) > 1e-3 * height) return std::nullopt;
        return height > Tolerance::samePlace ? std::optional(height) : std::nullopt;
    }
};

}  // namespace

std::vector<Relief> findSteps(const Part& part, double targetSize, const std::set<int>& ofOthers) {
    return StepFinder(part, targetSize, ofOthers).run();
}

}  // namespace rasoir::survey
