#include "topology/bodies.h"

#include <Bnd_Box.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "topology/making.h"

namespace rasoir {
namespace {

struct FaceSide {
    int face = 0;
    bool forward = true;  // as the face is given
};

struct Skin {
    std::vector<int> faces;
    TopoDS_Shell shell;
    bool closed = false;
    bool oneSided = false;
    double volume = 0.0;  // as received, before turning outwards
    Bnd_Box box;
};

class Assembler {
public:
    explicit Assembler(const std::vector<TopoDS_Face>& faces) : m_faces(faces), m_flip(faces.size(), false) {}

    Bodies run() {
        collectSides();
        findSkins();
        for (Skin& skin : m_skins) build(skin);
        return putTogether();
    }

private:
    const std::vector<TopoDS_Face>& m_faces;
    std::vector<char> m_flip;
    std::vector<int> m_skinOf;
    TopTools_IndexedMapOfShape m_edges;
    std::vector<std::vector<FaceSide>> m_sides;  // by edge
    std::vector<std::vector<int>> m_edgesOfFace;
    std::vector<Skin> m_skins;
    Bodies m_bodies;

    void collectSides() {
        m_edgesOfFace.resize(m_faces.size());
        for (std::size_t f = 0; f < m_faces.size(); ++f)
            for (TopExp_Explorer it(m_faces[f], TopAbs_EDGE); it.More(); it.Next()) {
                const TopoDS_Edge& edge = TopoDS::Edge(it.Current());
                if (BRep_Tool::Degenerated(edge) || edge.Orientation() == TopAbs_INTERNAL ||
                    edge.Orientation() == TopAbs_EXTERNAL)
                    continue;
                const auto e = static_cast<std::size_t>(m_edges.Add(edge));
                if (m_sides.size() <= e) m_sides.resize(e + 1);
                m_sides[e].push_back({static_cast<int>(f), edge.Orientation() == TopAbs_FORWARD});
                m_edgesOfFace[f].push_back(static_cast<int>(e));
            }
    }

    void findSkins() {
        m_skinOf.assign(m_faces.size(), -1);
        for (std::size_t seed = 0; seed < m_faces.size(); ++seed) {
            if (m_skinOf[seed] >= 0) continue;
            Skin skin;
            const int number = static_cast<int>(m_skins.size());
            m_skinOf[seed] = number;
            skin.faces.push_back(static_cast<int>(seed));
            for (std::size_t at = 0; at < skin.faces.size(); ++at) {
                const int f = skin.faces[at];
                for (const int e : m_edgesOfFace[f]) {
                    const auto& sides = m_sides[e];
                    if (sides.size() != 2 || sides[0].face == sides[1].face) continue;
                    const FaceSide& own = sides[0].face == f ? sides[0] : sides[1];
                    const FaceSide& other = sides[0].face == f ? sides[1] : sides[0];
                    const bool wantsFlip = (own.forward != static_cast<bool>(m_flip[f])) == other.forward;
                    if (m_skinOf[other.face] < 0) {
                        m_skinOf[other.face] = number;
                        m_flip[other.face] = wantsFlip;
                        skin.faces.push_back(other.face);
                    } else if (static_cast<bool>(m_flip[other.face]) != wantsFlip) {
                        skin.oneSided = true;
                    }
                }
            }
            if (skin.oneSided) {  // no direction suits: as received
                for (const int f : skin.faces) m_flip[f] = false;
                ++m_bodies.oneSided;
            } else if (const auto flipped =
                           std::count_if(skin.faces.begin(), skin.faces.end(), [&](int f) { return m_flip[f]; });
                       2 * flipped > static_cast<std::ptrdiff_t>(skin.faces.size())) {
                for (const int f : skin.faces) m_flip[f] = !m_flip[f];
            }
            skin.closed = !skin.oneSided && isClosed(skin, number);
            m_skins.push_back(std::move(skin));
        }
    }

    bool isClosed(const Skin& skin, int number) const {
        for (const int f : skin.faces)
            for (const int e : m_edgesOfFace[f]) {
                int with = 0, against = 0;
                for (const FaceSide& side : m_sides[e])
                    if (m_skinOf[side.face] == number)
                        ++((side.forward != static_cast<bool>(m_flip[side.face])) ? with : against);
                if (with != against) return false;
            }
        return true;
    }

    void build(Skin& skin) {
        const BRep_Builder builder;
        builder.MakeShell(skin.shell);
        for (const int f : skin.faces)
            builder.Add(skin.shell, m_faces[f].Oriented(m_flip[f] ? TopAbs::Reverse(m_faces[f].Orientation())
                                                                  : m_faces[f].Orientation()));
        skin.shell.Closed(skin.closed);
        if (!skin.closed) {
            turnNearlyClosed(skin);
            return;
        }
        skin.volume = volumeOf(skin.shell);
        BRepBndLib::Add(skin.shell, skin.box, false);
        if (skin.volume < 0.0) skin.shell.Reverse();
    }

    /// A skin that lacks but little shows already which way is out.
    void turnNearlyClosed(Skin& skin) {
        if (skin.oneSided || skin.faces.size() < 4) return;
        Bnd_Box box;
        BRepBndLib::Add(skin.shell, box, false);
        if (box.IsVoid()) return;
        const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
        const double area = areaOf(skin.shell);
        if (volumeSeenFrom(gp_Pnt(0.5 * (low.XYZ() + high.XYZ())), skin.shell) > -0.02 * area * std::sqrt(area)) return;
        const BRep_Builder builder;
        builder.MakeShell(skin.shell);
        for (const int f : skin.faces) {
            m_flip[f] = !m_flip[f];
            builder.Add(skin.shell, m_faces[f].Oriented(m_flip[f] ? TopAbs::Reverse(m_faces[f].Orientation())
                                                                  : m_faces[f].Orientation()));
        }
    }

    /// How many closed skins a skin lies in, and the innermost of them.
    Bodies putTogether() {
        std::vector<int> closed;
        for (std::size_t s = 0; s < m_skins.size(); ++s)
            if (m_skins[s].closed) closed.push_back(static_cast<int>(s));
        std::sort(closed.begin(), closed.end(),
                  [this](int a, int b) { return std::abs(m_skins[a].volume) > std::abs(m_skins[b].volume); });
        const BRep_Builder builder;
        std::vector<TopoDS_Solid> alone(m_skins.size());
        std::vector<int> depth(m_skins.size(), 0), parent(m_skins.size(), -1);
        for (std::size_t i = 0; i < closed.size(); ++i) {
            const int s = closed[i];
            builder.MakeSolid(alone[s]);
            builder.Add(alone[s], m_skins[s].shell);
            for (std::size_t j = i; j-- > 0;) {  // the smallest that holds it
                const int around = closed[j];
                if (!holds(alone[around], m_skins[around], m_skins[s])) continue;
                parent[s] = around;
                depth[s] = depth[around] + 1;
                break;
            }
        }
        std::vector<TopoDS_Shape> bodies;
        for (const int s : closed) {
            if (depth[s] % 2 == 1) continue;
            TopoDS_Solid solid;
            builder.MakeSolid(solid);
            builder.Add(solid, m_skins[s].shell);
            for (const int inner : closed)
                if (parent[inner] == s && depth[inner] == depth[s] + 1) {
                    builder.Add(solid, m_skins[inner].shell.Reversed());
                    ++m_bodies.voids;
                }
            bodies.push_back(solid);
            ++m_bodies.solids;
        }
        for (const Skin& skin : m_skins)
            if (!skin.closed && skin.faces.size() > 1) {
                bodies.push_back(skin.shell);
                ++m_bodies.sheets;
            }
        for (const Skin& skin : m_skins)
            if (!skin.closed && skin.faces.size() == 1) {
                bodies.push_back(m_faces[skin.faces.front()]);
                ++m_bodies.looseFaces;
            }
        m_bodies.turned = static_cast<int>(std::count(m_flip.begin(), m_flip.end(), true));
        for (const Skin& skin : m_skins)
            if (skin.closed && skin.volume < 0.0)
                for (const int f : skin.faces) m_bodies.turned += m_flip[f] ? -1 : 1;
        m_bodies.shape = gathered(bodies);
        return m_bodies;
    }

    static bool holds(const TopoDS_Solid& solid, const Skin& outer, const Skin& inner) {
        const gp_Pnt low = outer.box.CornerMin(), high = outer.box.CornerMax(), innerLow = inner.box.CornerMin(),
                     innerHigh = inner.box.CornerMax();
        for (int c = 1; c <= 3; ++c)
            if (innerLow.Coord(c) < low.Coord(c) || innerHigh.Coord(c) > high.Coord(c)) return false;
        for (TopExp_Explorer vertex(inner.shell, TopAbs_VERTEX); vertex.More(); vertex.Next()) {
            const TopoDS_Vertex& v = TopoDS::Vertex(vertex.Current());
            BRepClass3d_SolidClassifier classifier(solid, BRep_Tool::Pnt(v),
                                                   std::max(Tolerance::least, BRep_Tool::Tolerance(v)));
            if (classifier.State() == TopAbs_ON) continue;  // they touch there: another point tells
            return classifier.State() == TopAbs_IN;
        }
        for (TopExp_Explorer it(inner.shell, TopAbs_EDGE); it.More(); it.Next()) {
            const TopoDS_Edge& edge = TopoDS::Edge(it.Current());
            double first = 0.0, last = 0.0;
            const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
            if (curve.IsNull()) continue;
            BRepClass3d_SolidClassifier classifier(solid, curve->Value(first + 0.37 * (last - first)),
                                                   std::max(Tolerance::least, BRep_Tool::Tolerance(edge)));
            if (classifier.State() == TopAbs_ON) continue;
            return classifier.State() == TopAbs_IN;
        }
        return false;
    }
};

}  // namespace

Bodies bodiesFrom(const std::vector<TopoDS_Face>& faces) {
    return Assembler(faces).run();
}

}  // namespace rasoir
