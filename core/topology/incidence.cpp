#include "topology/incidence.h"

#include <algorithm>
#include <atomic>
#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

namespace rasoir {
namespace {

void collectBodies(const TopoDS_Shape& shape, TopTools_IndexedMapOfShape& bodies) {
    if (shape.ShapeType() > TopAbs_COMPSOLID) {
        bodies.Add(shape);
        return;
    }
    for (TopoDS_Iterator it(shape); it.More(); it.Next()) collectBodies(it.Value(), bodies);
}

}  // namespace

// Two threads that ask for the same face at once may both sum it; the second one's sums are dropped. A lock would be
// held while the kernel works, and a thread that waits in a parallel loop may take up work that asks again.
struct Incidence::Sums {
    explicit Sums(std::size_t faces) : of(faces + 1) {}
    ~Sums() {
        for (const auto& one : of) delete one.load();
    }
    Sums(const Sums&) = delete;
    Sums& operator=(const Sums&) = delete;
    std::vector<std::atomic<const FaceSums*>> of;  // by face
};

const FaceSums& Incidence::sums(int number) const {
    std::atomic<const FaceSums*>& place = m_sums->of[static_cast<std::size_t>(number)];
    if (const FaceSums* known = place.load()) return *known;
    auto own = std::make_unique<FaceSums>();
    const TopoDS_Face shape = face(number);
    own->moments = momentsOf(shape, m_base);
    if (own->moments && own->moments->area > 0.0)
        own->skin = {own->moments->area, gp_Pnt(m_base.XYZ() + own->moments->areaFirst / own->moments->area)};
    else
        own->skin = skinOf(shape);
    const FaceSums* none = nullptr;
    return place.compare_exchange_strong(none, own.get()) ? *own.release() : *none;
}

Incidence::Incidence(const TopoDS_Shape& shape) {
    if (shape.IsNull()) {
        m_useStart.assign(2, 0);
        m_edgeStart.assign(2, 0);
        m_sums = std::make_shared<Sums>(0);
        return;
    }
    collectBodies(shape, m_bodies);
    TopExp::MapShapes(shape, TopAbs_FACE, m_faces);
    TopExp::MapShapes(shape, TopAbs_EDGE, m_edges);
    TopExp::MapShapes(shape, TopAbs_VERTEX, m_vertices);
    const auto faces = static_cast<std::size_t>(m_faces.Extent());
    m_sums = std::make_shared<Sums>(faces);
    if (m_vertices.Extent() > 0) {
        m_base = BRep_Tool::Pnt(TopoDS::Vertex(m_vertices(1)));
    } else {
        Bnd_Box box;
        BRepBndLib::Add(shape, box, false);
        if (!box.IsVoid()) m_base = gp_Pnt(0.5 * (box.CornerMin().XYZ() + box.CornerMax().XYZ()));
    }
    m_bodyOfFace.assign(faces + 1, -1);
    m_orientation.assign(faces + 1, TopAbs_FORWARD);
    for (int f = 1; f <= m_faces.Extent(); ++f) m_orientation[f] = m_faces(f).Orientation();
    for (TopExp_Explorer solid(shape, TopAbs_SOLID); solid.More(); solid.Next(), ++m_solids)
        for (TopExp_Explorer face(solid.Current(), TopAbs_FACE); face.More(); face.Next()) {
            const int number = m_faces.FindIndex(face.Current());
            m_bodyOfFace[number] = m_solids;
            m_orientation[number] = face.Current().Orientation();
        }

    std::vector<std::vector<EdgeUse>> uses(static_cast<std::size_t>(m_edges.Extent()) + 1);
    m_edgeStart.assign(faces + 2, 0);
    for (int f = 1; f <= m_faces.Extent(); ++f) {
        m_edgeStart[f] = static_cast<int>(m_faceEdges.size());
        for (TopoDS_Iterator wire(face(f)); wire.More(); wire.Next()) {
            if (wire.Value().ShapeType() != TopAbs_WIRE) continue;
            for (TopoDS_Iterator edge(wire.Value()); edge.More(); edge.Next()) {
                if (BRep_Tool::Degenerated(TopoDS::Edge(edge.Value()))) continue;
                const int number = m_edges.FindIndex(edge.Value());
                const auto own = m_faceEdges.begin() + m_edgeStart[f];
                if (std::find(own, m_faceEdges.end(), number) == m_faceEdges.end() || uses[number].empty() ||
                    uses[number].back().face != f)
                    m_faceEdges.push_back(number);
                uses[number].push_back({f, edge.Value().Orientation() != TopAbs_REVERSED});
            }
        }
    }
    m_edgeStart[faces + 1] = static_cast<int>(m_faceEdges.size());
    m_useStart.assign(uses.size() + 1, 0);
    for (std::size_t e = 1; e < uses.size(); ++e) {
        m_useStart[e] = static_cast<int>(m_uses.size());
        m_uses.insert(m_uses.end(), uses[e].begin(), uses[e].end());
    }
    m_useStart[uses.size()] = static_cast<int>(m_uses.size());
}

TopoDS_Face Incidence::face(int number) const {
    return TopoDS::Face(m_faces(number).Oriented(m_orientation[static_cast<std::size_t>(number)]));
}

TopoDS_Edge Incidence::edge(int number) const {
    return TopoDS::Edge(m_edges(number));
}

std::span<const EdgeUse> Incidence::usesOf(int edge) const {
    const auto e = static_cast<std::size_t>(edge);
    return {m_uses.data() + m_useStart[e], static_cast<std::size_t>(m_useStart[e + 1] - m_useStart[e])};
}

std::span<const int> Incidence::edgesOf(int face) const {
    const auto f = static_cast<std::size_t>(face);
    return {m_faceEdges.data() + m_edgeStart[f], static_cast<std::size_t>(m_edgeStart[f + 1] - m_edgeStart[f])};
}

std::vector<int> Incidence::neighboursOf(int face) const {
    std::vector<int> neighbours;
    for (const int edge : edgesOf(face))
        for (const EdgeUse& use : usesOf(edge))
            if (use.face != face) neighbours.push_back(use.face);
    std::sort(neighbours.begin(), neighbours.end());
    neighbours.erase(std::unique(neighbours.begin(), neighbours.end()), neighbours.end());
    return neighbours;
}

}  // namespace rasoir
