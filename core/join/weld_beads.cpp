#include "join/weld_beads.h"

#include <BRepAdaptor_Curve.hxx>
#include <TopoDS.hxx>

#include "geometry/integrals.h"
#include "topology/edge_angle.h"

// A bead's root is the edge in which its two contact faces meet, each common with another body. Legs are the areas of
// those faces over the root's length, so that also a curved bead has them; its volume then tells whether it is one.

namespace rasoir::join {
namespace {

class BeadSearch {
public:
    explicit BeadSearch(const Model& joined) : m_model(joined) {
        for (const Joint& joint : joined.joints) {
            if (joint.kind == EntityKind::Vertex) continue;
            for (const JointUse& use : joint.uses)
                if (const auto place = joined.placeOf(use.place))
                    (joint.kind == EntityKind::Face ? m_faces : m_edges)[{*place, use.number}] = &joint;
        }
    }

    std::vector<Bead> run() const {
        std::vector<Bead> all;
        std::set<std::size_t> touching;
        for (const auto& [face, joint] : m_faces) touching.insert(face.first);
        for (const std::size_t o : touching) {
            const Part& part = *m_model.parts[m_model.occurrences[o].part];
            if (part.kind() != BodyKind::Solid || part.lump) continue;
            std::vector<Bead> own = beadsOf(o, part);
            all.insert(all.end(), own.begin(), own.end());
        }
        std::stable_sort(all.begin(), all.end(), [](const Bead& a, const Bead& b) { return a.length > b.length; });
        return all;
    }

private:
    const Model& m_model;
    std::map<std::pair<std::size_t, int>, const Joint*> m_faces, m_edges;  // by place and number

    /// The other place at a common face; none where it is not common, or with more than one.
    [[nodiscard]] std::optional<std::size_t> partnerOf(std::size_t place, int face) const {
        const auto joint = m_faces.find({place, face});
        if (joint == m_faces.end() || joint->second->uses.size() != 2) return std::nullopt;
        for (const JointUse& use : joint->second->uses)
            if (const auto other = m_model.placeOf(use.place); other && *other != place) return other;
        return std::nullopt;
    }
    [[nodiscard]] std::optional<int> edgeOn(const Joint& joint, std::size_t place) const {
        for (const JointUse& use : joint.uses)
            if (m_model.placeOf(use.place) == place) return use.number;
        return std::nullopt;
    }

    /// Its beads, one for each pair that it holds; none where one of its bodies is no bead.
    [[nodiscard]] std::vector<Bead> beadsOf(std::size_t place, const Part& part) const {
        const Incidence& topology = part.incidence();
        struct Root {
            Bead bead;
            std::set<int> legs[2];  // contact faces at it
            double longest = 0.0;
        };
        std::map<int, std::map<std::pair<std::size_t, std::size_t>, Root>> roots;  // by body and what it holds
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const auto uses = topology.usesOf(e);
            if (uses.size() != 2 || uses[0].face == uses[1].face) continue;
            auto one = partnerOf(place, uses[0].face), other = partnerOf(place, uses[1].face);
            if (!one || !other || *one == *other) continue;
            const double corner = M_PI - edgeAngle(topology, e).turn;
            if (corner < M_PI / 6.0 || corner > 5.0 * M_PI / 6.0) continue;
            const auto joint = m_edges.find({place, e});
            if (joint == m_edges.end()) continue;
            int legOne = uses[0].face, legOther = uses[1].face;
            if (*one > *other) {
                std::swap(one, other);
                std::swap(legOne, legOther);
            }
            const auto first = edgeOn(*joint->second, *one), second = edgeOn(*joint->second, *other);
            if (!first || !second) continue;
            Root& root = roots[topology.bodyOf(legOne)][{*one, *other}];
            Bead& bead = root.bead;
            bead.place = place;
            bead.first = *one;
            bead.second = *other;
            bead.corner = corner;
            bead.root.emplace_back(*first, *second);
            root.legs[0].insert(legOne);
            root.legs[1].insert(legOther);
            const double length = lengthOf(topology.edge(e));
            bead.length += length;
            if (length > root.longest) {
                root.longest = length;
                const BRepAdaptor_Curve curve(topology.edge(e));
                bead.where = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))
                                 .Transformed(m_model.occurrences[place].placement);
            }
        }
        std::vector<Bead> all;
        for (int b = 0; b < topology.solidCount(); ++b) {
            const auto own = roots.find(b);
            if (own == roots.end()) return {};
            double expected = 0.0;
            for (auto& [pair, root] : own->second) {
                std::array<double, 2> leg{};
                for (std::size_t i = 0; i < 2; ++i) {
                    for (const int f : root.legs[i]) leg[i] += areaOf(topology.face(f));
                    leg[i] /= root.bead.length;
                }
                constexpr double slender = 4.0;
                if (root.bead.length < slender * std::max(leg[0], leg[1])) return {};
                const double section = 0.5 * leg[0] * leg[1] * std::sin(root.bead.corner);
                const double across =
                    std::sqrt(leg[0] * leg[0] + leg[1] * leg[1] - 2.0 * leg[0] * leg[1] * std::cos(root.bead.corner));
                root.bead.throat = 2.0 * section / across;
                expected += section * root.bead.length;
                all.push_back(root.bead);
            }
            const double volume = volumeOfSolid(topology, b);
            constexpr double like = 0.4;
            if (!(expected > 0.0) || std::abs(volume / expected - 1.0) > like) return {};
        }
        return all;
    }
    static double volumeOfSolid(const Incidence& topology, int body) {
        for (int b = 1, solid = 0; b <= topology.bodyCount(); ++b) {
            if (topology.body(b).ShapeType() != TopAbs_SOLID) continue;
            if (solid++ == body) return volumeOf(topology.body(b));
        }
        return 0.0;
    }
};

}  // namespace

std::vector<Bead> findBeads(const Model& joined) {
    return BeadSearch(joined).run();
}

}  // namespace rasoir::join
