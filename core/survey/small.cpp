#include "survey/small.h"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <BRep_Tool.hxx>
#include <map>
#include <TopExp.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "forecast/elements.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "topology/edge_angle.h"

namespace rasoir::survey {
namespace {

constexpr double tooFlatToMeet = 0.25;  // [rad] flatter than that, two faces do not say where they meet

class SmallFinder {
public:
    SmallFinder(const Part& part, double targetSize, const std::set<int>& named)
        : m_topology(part.incidence()), m_targetSize(targetSize), m_named(named) {}

    std::vector<Small> run(Progress& progress) {
        measure(progress);
        std::vector<Small> found;
        std::set<int> small;
        for (int f = 1; f <= m_topology.faceCount() && !progress.cancelled(); ++f) {
            const double width = m_outlines[f] > 0.0 ? 2.0 * m_skins[f].area / m_outlines[f] : 0.0;
            if (m_named.contains(f) || !(width > 0.0) || width > m_targetSize) continue;
            small.insert(f);
            found.push_back(ofFace(f, width));
        }
        for (int e = 1; e <= m_topology.edgeCount() && !progress.cancelled(); ++e) {
            if (!(m_lengths[e] > 0.0) || m_lengths[e] > m_targetSize) continue;
            const auto uses = m_topology.usesOf(e);
            if (uses.empty() || std::any_of(uses.begin(), uses.end(), [&](const EdgeUse& use) {
                    return m_named.contains(use.face) || small.contains(use.face);
                }))
                continue;
            if (const auto [start, end] = endsOf(e); start == end)
                continue;  // a whole circle: a hole's mouth or a boss
            found.push_back(ofEdge(e));
        }
        std::stable_sort(found.begin(), found.end(), [](const Small& a, const Small& b) { return a.size < b.size; });
        return found;
    }

private:
    const Incidence& m_topology;
    double m_targetSize;
    const std::set<int>& m_named;
    std::vector<double> m_lengths, m_outlines;  // by edge, by face
    std::vector<Skin> m_skins;                  // by face
    std::map<int, std::vector<int>> m_edgesAt;  // by vertex, of short edges' ends

    void measure(const Progress& progress) {
        m_lengths.assign(static_cast<std::size_t>(m_topology.edgeCount()) + 1, 0.0);
        m_outlines.assign(static_cast<std::size_t>(m_topology.faceCount()) + 1, 0.0);
        m_skins.assign(m_outlines.size(), {});
        tbb::parallel_for(1, m_topology.edgeCount() + 1, [&](int e) {
            if (progress.cancelled() || BRep_Tool::Degenerated(m_topology.edge(e))) return;
            (void)guarded("Measuring an edge", [&]() -> Result<void> {
                m_lengths[static_cast<std::size_t>(e)] = EdgeProbe(m_topology.edge(e)).length();
                return {};
            });
        });
        tbb::parallel_for(1, m_topology.faceCount() + 1, [&](int f) {
            if (progress.cancelled() || m_named.contains(f)) return;
            for (const int e : m_topology.edgesOf(f)) {
                const auto uses = m_topology.usesOf(e);
                if (std::count_if(uses.begin(), uses.end(), [f](const EdgeUse& use) { return use.face == f; }) == 1)
                    m_outlines[static_cast<std::size_t>(f)] += m_lengths[static_cast<std::size_t>(e)];
            }
            (void)guarded("Measuring a face", [&]() -> Result<void> {
                m_skins[static_cast<std::size_t>(f)] = m_topology.skin(f);
                return {};
            });
        });
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            if (!(m_lengths[e] > 0.0)) continue;
            const auto [start, end] = endsOf(e);
            m_edgesAt[start].push_back(e);
            if (end != start) m_edgesAt[end].push_back(e);
        }
    }

    [[nodiscard]] std::pair<int, int> endsOf(int e) const {
        TopoDS_Vertex start, end;
        TopExp::Vertices(m_topology.edge(e), start, end);
        return {m_topology.vertexNumber(start), m_topology.vertexNumber(end)};
    }

    [[nodiscard]] int beyond(int e, int f) const {
        const auto uses = m_topology.usesOf(e);
        return uses.size() != 2 ? 0 : uses[0].face == f ? uses[1].face : uses[0].face;
    }

    Small ofFace(int f, double width) const {
        Small small;
        small.number = f;
        small.faces = {f};
        small.size = width;
        small.length = std::max(width, 0.5 * m_outlines[f] - width);
        small.middle = m_skins[f].centre;
        small.elements = forecast::faceShare(m_topology.face(f), m_targetSize).extra;
        double longest = 0.0;
        for (const int e : m_topology.edgesOf(f)) {
            const int other = beyond(e, f);
            if (other == 0 || other == f) continue;
            if (sameSurface(m_topology.face(f), m_topology.face(other), Tolerance::samePlace)) {
                small.way = SmallWay::Merge;
                small.into = other;
                return small;
            }
            if (m_lengths[e] > longest && m_skins[other].area > 4.0 * m_skins[f].area &&
                std::abs(edgeAngle(m_topology, e, Tolerance::sameDirection).turn) < tooFlatToMeet) {
                longest = m_lengths[e];
                small.way = SmallWay::Flatten;
                small.into = other;
            }
        }
        return small;
    }

    Small ofEdge(int e) const {
        Small small;
        small.kind = SmallKind::Edge;
        small.way = SmallWay::Collapse;
        small.number = e;
        small.size = small.length = m_lengths[e];
        const EdgeProbe probe(m_topology.edge(e));
        small.middle = probe.value(0.5 * (probe.first() + probe.last()));
        small.elements = forecast::faceShare(small.size * small.size, 4.0 * small.size, 0.0, m_targetSize).extra;
        const auto uses = m_topology.usesOf(e);
        if (uses.size() == 2 && uses[0].face != uses[1].face &&
            sameSurface(m_topology.face(uses[0].face), m_topology.face(uses[1].face), Tolerance::samePlace)) {
            small.way = SmallWay::Merge;
            small.into = uses[0].face;
            return small;
        }
        // A vertex between two edges of the same two faces divides one curve.
        const auto [start, end] = endsOf(e);
        for (const int v : {start, end}) {
            const std::vector<int>& there = m_edgesAt.at(v);
            if (there.size() != 2) continue;
            const int other = there[0] == e ? there[1] : there[0];
            const EdgeProbe beside(m_topology.edge(other));
            const bool atEnd = v == end;
            const gp_Vec own = probe.tangent(atEnd ? probe.last() : probe.first());
            const gp_Pnt corner = probe.value(atEnd ? probe.last() : probe.first());
            const gp_Vec its = beside.tangent(beside.value(beside.first()).Distance(corner) <
                                                      beside.value(beside.last()).Distance(corner)
                                                  ? beside.first()
                                                  : beside.last());
            // [rad] edges that run on into each other, one of them perhaps fitted.
            if (own.Crossed(its).Magnitude() < 1e-3 * own.Magnitude() * its.Magnitude()) small.way = SmallWay::Merge;
        }
        return small;
    }
};

}  // namespace

Result<std::vector<Small>> findSmall(const Part& part, double targetSize, const std::set<int>& named,
                                     Progress& progress) {
    if (part.shape.IsNull()) return std::vector<Small>{};
    auto found = guarded("Looking for what is small", [&]() -> Result<std::vector<Small>> {
        return SmallFinder(part, targetSize, named).run(progress);
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
    return found;
}

Result<std::vector<Small>> findUnnamedSmall(const Part& part, double targetSize, Progress& progress) {
    const auto holes = findHoles(part, targetSize, {}, progress);
    if (!holes) return tl::unexpected(holes.error());
    const auto strips = findStrips(part, targetSize, progress);
    if (!strips) return tl::unexpected(strips.error());
    const auto reliefs = findReliefs(part, targetSize, *holes, progress);
    if (!reliefs) return tl::unexpected(reliefs.error());
    const auto threads = findThreads(part, targetSize, progress);
    if (!threads) return tl::unexpected(threads.error());
    return findSmall(part, targetSize, facesOf(*holes, *strips, *reliefs, *threads), progress);
}

std::set<int> facesOf(const std::vector<Hole>& holes, const std::vector<StripChain>& strips,
                      const std::vector<Relief>& reliefs, const std::vector<Thread>& threads) {
    std::set<int> faces;
    for (const Hole& hole : holes) faces.insert(hole.faces.begin(), hole.faces.end());
    for (const StripChain& chain : strips) faces.insert(chain.faces.begin(), chain.faces.end());
    for (const Relief& relief : reliefs) faces.insert(relief.faces.begin(), relief.faces.end());
    for (const Thread& thread : threads) faces.insert(thread.faces.begin(), thread.faces.end());
    return faces;
}

std::string smallWayName(SmallWay way) {
    switch (way) {
        case SmallWay::Merge:
            return "merge";
        case SmallWay::Remove:
            return "remove";
        case SmallWay::Flatten:
            return "flatten";
        case SmallWay::Collapse:
            return "collapse";
    }
    return "remove";
}

std::string describe(const Small& small) {
    if (small.kind == SmallKind::Edge) return smallWayName(small.way);
    return fmt::format("{}, {} long", smallWayName(small.way), readable(small.length));
}

}  // namespace rasoir::survey
