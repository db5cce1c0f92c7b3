#include "reduce/frame_members.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <gp_Lin.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "reduce/body_slices.h"
#include "reduce/solid_section.h"

// Between two neighbouring corners of the solid, seen along a direction, nothing begins or ends. So for every direction
// in which straight edges run, the solid is cut across twice in each such slab, first its triangles, and then the solid
// itself where those show regions that can be bars. A region that is the same in both places is a stretch of a bar.
// Stretches of one section on one line, with no more between them than a joint takes, are one bar; a bar is as long as
// several depths. What lies between the bars, the joints, belongs to none of them: each end is carried on to the line
// of the bar that it meets, which is where the joint's node is.

namespace rasoir::reduce {
namespace {

struct Stretch {
    double low = 0.0, high = 0.0;  // along the direction, from the centre
    double seen = 0.0;             // of that length, where the section was found
    BeamSection section;
};

bool isSameSection(const BeamSection& a, const BeamSection& b, const gp_Dir& along, double exact) {
    const gp_Vec between(a.centroid, b.centroid);
    const double aside = (between - gp_Vec(along) * between.Dot(gp_Vec(along))).Magnitude();
    return std::abs(a.section.area - b.section.area) < exact * a.section.area && aside < exact * a.depth &&
           std::abs(a.section.secondUp - b.section.secondUp) < 2.0 * exact * a.section.secondUp;
}

class MemberSearch {
public:
    MemberSearch(const Part& part, std::size_t p, double tolerance, Progress& progress)
        : m_part(part), m_number(p), m_tolerance(tolerance), m_progress(progress) {
        m_size = std::sqrt(tightBox(part.shape).SquareExtent());
        m_centre = skinOf(part.shape).centre;
    }

    Result<std::vector<Slender>> run(double leastRatio) {
        std::vector<Slender> members;
        if (isCompact(leastRatio)) return members;
        std::size_t asked = 0;
        for (const gp_Dir& along : directions()) {
            // A frame has bars in the directions of most of its edges; what has none there is none.
            if (asked++ == unasked && members.empty()) return members;
            auto runs = runsAlong(along);
            if (!runs) return tl::unexpected(runs.error());
            for (const Stretch& one : *runs) members.push_back(barOf(one, along));
        }
        carryToNodes(members);
        std::erase_if(members, [leastRatio](const Slender& one) { return one.ratio < leastMemberShare * leastRatio; });
        const double longest =
            members.empty() ? 0.0 : std::max_element(members.begin(), members.end(), [](const auto& a, const auto& b) {
                                        return a.ratio < b.ratio;
                                    })->ratio;
        if (members.size() < 2 || longest < leastRatio) return std::vector<Slender>();
        const double volume = volumeOf(m_part.shape);
        double drawn = 0.0;
        for (const Slender& one : members) drawn += one.section.section.area * one.length();
        const double dropped = (volume - drawn) / volume;
        if (std::abs(dropped) > mostDropped) return std::vector<Slender>();
        for (std::size_t m = 0; m < members.size(); ++m) {
            members[m].member = m + 1;
            members[m].dropped = dropped;
        }
        return members;
    }

private:
    static constexpr double leastMemberShare = 0.4;
    static constexpr double mostDropped = 0.25;
    static constexpr std::size_t mostDirections = 16, mostSlabs = 60, unasked = 3, longestSlabs = 10;
    static constexpr double leastRun = 2.0;  // depths, without the joints at its ends

    const Part& m_part;
    std::size_t m_number;
    double m_tolerance, m_size = 0.0;
    Progress& m_progress;
    gp_Pnt m_centre;
    std::optional<BodySlices> m_slices;

    /// Of a bar that is not hollow, four times the volume over the skin is its depth; of a hollow one it is less. So a
    /// body that is not as long as the longest of its bars ought to be has none.
    [[nodiscard]] bool isCompact(double leastRatio) const {
        return m_size * areaOf(m_part.shape) < leastRatio * 4.0 * volumeOf(m_part.shape);
    }

    [[nodiscard]] double at(const gp_Pnt& point, const gp_Dir& along) const {
        return gp_Vec(m_centre, point).Dot(gp_Vec(along));
    }

    /// Those in which straight edges run, the ones with most of them first.
    [[nodiscard]] std::vector<gp_Dir> directions() const {
        struct Weighed {
            gp_Dir along;
            double length = 0.0;
        };
        std::vector<Weighed> all;
        double total = 0.0;
        const Incidence& topology = m_part.incidence();
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const TopoDS_Edge edge = topology.edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            const BRepAdaptor_Curve curve(edge);
            if (curve.GetType() != GeomAbs_Line) continue;
            const gp_Dir along = curve.Line().Direction();
            const double length = lengthOf(edge);
            total += length;
            auto known = std::find_if(all.begin(), all.end(), [&along](const Weighed& one) {
                return one.along.IsParallel(along, Tolerance::fittedDirection);
            });
            if (known == all.end()) known = all.insert(all.end(), {along, 0.0});
            known->length += length;
        }
        std::erase_if(all, [total](const Weighed& one) { return one.length < 0.02 * total; });
        std::stable_sort(all.begin(), all.end(),
                         [](const Weighed& a, const Weighed& b) { return a.length > b.length; });
        std::vector<gp_Dir> chosen;
        for (const Weighed& one : all)
            if (chosen.size() < mostDirections) chosen.push_back(one.along);
        return chosen;
    }

    /// Between which heights nothing begins or ends, longest first.
    [[nodiscard]] std::vector<std::pair<double, double>> slabs(const gp_Dir& along) const {
        std::vector<double> heights;
        const Incidence& topology = m_part.incidence();
        for (int v = 1; v <= topology.vertexCount(); ++v)
            heights.push_back(at(BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(v))), along));
        std::sort(heights.begin(), heights.end());
        std::vector<std::pair<double, double>> all;
        // Slabs thinner than that lie between two digits of one height.
        for (std::size_t i = 0; i + 1 < heights.size(); ++i)
            if (heights[i + 1] - heights[i] > 2e-3 * m_size) all.emplace_back(heights[i], heights[i + 1]);
        std::stable_sort(all.begin(), all.end(),
                         [](const auto& a, const auto& b) { return a.second - a.first > b.second - b.first; });
        if (all.size() > mostSlabs) all.resize(mostSlabs);
        return all;
    }

    Result<std::vector<BeamSection>> regionsAt(double height, const gp_Dir& along) {
        const auto faces = sectionsAt(m_part.shape, m_centre.Translated(gp_Vec(along) * height), along, m_size,
                                      m_tolerance, m_progress);
        if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        std::vector<BeamSection> regions;
        if (!faces) return regions;  // a place that cannot be cut is one that nothing is known of
        for (const TopoDS_Face& face : *faces) regions.push_back(beamSection(face, along));
        return regions;
    }

    /// Whether the triangles show a region that is the same in two places of a slab, and not too large for a bar.
    [[nodiscard]] bool canHaveBars(double low, double high, const gp_Dir& along, double whole) {
        // Of the body, by which triangles may be off; sections are compared to a hundredth.
        if (!m_slices) m_slices.emplace(m_part.shape, 1e-3 * m_size);
        const auto at = [&](double share) {
            return m_slices->all(m_centre.Translated(gp_Vec(along) * (low + share * (high - low))), along);
        };
        const std::vector<Slice> first = at(0.3), second = at(0.7);
        // A diagonal is at most 1.5 times the depth.
        return std::any_of(first.begin(), first.end(), [&](const Slice& one) {
            return leastRun * one.extent <= 1.5 * whole &&
                   std::any_of(second.begin(), second.end(), [&](const Slice& other) {
                       return std::abs(one.area - other.area) < 0.05 * one.area &&
                              gp_Lin(one.centroid, along).Distance(other.centroid) < 0.05 * one.extent;
                   });
        });
    }

    Result<std::vector<Stretch>> runsAlong(const gp_Dir& along) {
        std::vector<Stretch> stretches;
        const auto between = slabs(along);
        double lowest = 1e300, highest = -1e300;
        for (const auto& [low, high] : between) {
            lowest = std::min(lowest, low);
            highest = std::max(highest, high);
        }
        std::size_t cut = 0;
        for (const auto& [low, high] : between) {
            // Bars show in the longest slabs.
            if (cut++ == longestSlabs && stretches.empty()) break;
            if (!canHaveBars(low, high, along, highest - lowest)) continue;
            const auto first = regionsAt(0.7 * low + 0.3 * high, along),
                       second = regionsAt(0.3 * low + 0.7 * high, along);
            if (!first) return tl::unexpected(first.error());
            if (!second) return tl::unexpected(second.error());
            // One cut through two of the same member agrees that well.
            for (const BeamSection& one : *first)
                if (leastRun * one.depth <= highest - lowest &&
                    std::any_of(second->begin(), second->end(),
                                [&](const BeamSection& other) { return isSameSection(one, other, along, 1e-3); }))
                    stretches.push_back({low, high, high - low, one});
        }
        std::stable_sort(stretches.begin(), stretches.end(),
                         [](const Stretch& a, const Stretch& b) { return a.low < b.low; });
        std::vector<Stretch> runs;
        for (Stretch& one : stretches) {
            const auto before = std::find_if(runs.begin(), runs.end(), [&](const Stretch& run) {
                // Triangles leave a hundredth between cuts of one member.
                return isSameSection(run.section, one.section, along, 1e-2) &&
                       one.low - run.high < 2.0 * one.section.depth;
            });
            if (before == runs.end()) {
                runs.push_back(std::move(one));
                continue;
            }
            before->high = std::max(before->high, one.high);
            before->seen += one.seen;
        }
        // Rails with a rung between them are a section too, found again at each rung; but of a bar most is seen.
        std::erase_if(runs, [](const Stretch& one) {
            return one.high - one.low < leastRun * one.section.depth || one.seen < 0.5 * (one.high - one.low);
        });
        return runs;
    }

    [[nodiscard]] Slender barOf(const Stretch& run, const gp_Dir& along) const {
        Slender bar;
        bar.part = m_number;
        bar.section = run.section;
        const gp_Pnt& middle = run.section.centroid;
        const double own = at(middle, along);
        setLine(bar, middle.Translated(gp_Vec(along) * (run.low - own)),
                middle.Translated(gp_Vec(along) * (run.high - own)));
        return bar;
    }

    static void setLine(Slender& bar, const gp_Pnt& from, const gp_Pnt& to) {
        bar.line = BarLine({{from, to}});
        bar.ratio = bar.length() / bar.section.depth;
    }

    /// Each end goes on to where its line passes that of another bar which is near enough to be met in the joint.
    static void carryToNodes(std::vector<Slender>& members) {
        const std::vector<Slender> before = members;
        for (std::size_t m = 0; m < members.size(); ++m) {
            const BarPiece& own = before[m].line.pieces().front();
            gp_Pnt ends[2]{own.from, own.to};
            for (const int end : {0, 1}) {
                const gp_Dir outwards = end == 0 ? gp_Dir(gp_Vec(own.to, own.from)) : gp_Dir(gp_Vec(own.from, own.to));
                double least = 1e300;
                for (std::size_t k = 0; k < before.size(); ++k) {
                    if (k == m) continue;
                    const BarPiece& other = before[k].line.pieces().front();
                    const gp_Dir along(gp_Vec(other.from, other.to));
                    const double cosine = outwards.Dot(along), square = 1.0 - cosine * cosine;
                    if (square < Tolerance::sameDirection) continue;
                    // The nearest points of two lines.
                    const gp_Vec between(ends[end], other.from);
                    const double t = (between.Dot(gp_Vec(outwards)) - between.Dot(gp_Vec(along)) * cosine) / square;
                    const double s = (between.Dot(gp_Vec(outwards)) * cosine - between.Dot(gp_Vec(along))) / square;
                    const gp_Pnt here = ends[end].Translated(gp_Vec(outwards) * t),
                                 there = other.from.Translated(gp_Vec(along) * s);
                    const double depths = before[m].section.depth + before[k].section.depth;
                    constexpr double beside = 0.55;
                    if (here.Distance(there) > beside * std::max(before[m].section.depth, before[k].section.depth))
                        continue;
                    // The flatter they meet, the farther from the node the joint begins.
                    const double reach = depths / std::max(0.25, std::sqrt(square));
                    if (t < -Tolerance::sameSize * depths || t > reach || s < -reach || s > other.length() + reach)
                        continue;
                    least = std::min(least, t);
                }
                if (least < 1e300) ends[end].Translate(gp_Vec(outwards) * least);
            }
            setLine(members[m], ends[0], ends[1]);
        }
    }
};

}  // namespace

Result<std::vector<Slender>> findMembers(const Model& model, std::size_t p, double leastRatio, Progress& progress) {
    const Part& part = *model.parts[p];
    if (part.shape.IsNull() || part.kind() != BodyKind::Solid || part.incidence().solidCount() != 1)
        return std::vector<Slender>();
    return MemberSearch(part, p, model.samePoint(), progress).run(leastRatio);
}

Result<std::vector<Slender>> findBars(const Model& model, std::size_t p, double leastRatio, Progress& progress) {
    auto whole = findSlender(model, p, leastRatio, progress);
    if (!whole) return tl::unexpected(whole.error());
    if (*whole) return std::vector{std::move(**whole)};
    return findMembers(model, p, leastRatio, progress);
}

}  // namespace rasoir::reduce
