#include "mend/stray.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <map>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/edge_probe.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "mend/closing.h"
#include "mend/loops.h"
#include "survey/defects.h"
#include "topology/making.h"
#include "topology/soundness.h"

namespace rasoir::mend {
namespace {

/// How one face lies towards another on the same surface.
enum class Lies { Apart, Within, Same, Partly };

/// Makes one body of two that touch.
class Uniter {
public:
    Uniter(const Incidence& topology, const std::set<int>& stray, double exact)
        : m_topology(topology), m_stray(stray), m_exact(exact) {}

    /// Faces instead of those of the part; null ones are gone.
    Result<std::map<int, TopoDS_Face>> run() {
        std::map<int, TopoDS_Face> changed;
        std::map<int, std::vector<int>> holes;  // by face: the faces that stand on it
        bool touches = false;
        for (const int small : m_stray)
            for (int other = 1; other <= m_topology.faceCount(); ++other) {
                if (m_stray.contains(other) || !facesEachOther(small, other)) continue;
                Lies lies = liesOn(small, other);
                if (lies == Lies::Apart) continue;
                int inner = small, outer = other;
                if (lies == Lies::Partly &&
                    liesOn(other, small) == Lies::Within) {  // the stray body is the wider one there
                    lies = Lies::Within;
                    std::swap(inner, outer);
                }
                if (lies == Lies::Partly)
                    return refused(fmt::format("faces {} and {} lie on each other only in part", small, other));
                if (changed.contains(inner)) return refused(fmt::format("face {} touches two others", inner));
                touches = true;
                changed[inner] = {};
                if (lies == Lies::Same)
                    changed[outer] = {};
                else
                    holes[outer].push_back(inner);
            }
        if (!touches) return refused("none of its faces lies on one of the other body");
        for (const auto& [outer, inners] : holes) {
            if (changed.contains(outer)) return refused(fmt::format("face {} touches two others", outer));
            auto made = withHoles(outer, inners);
            if (!made) return tl::unexpected(made.error());
            changed[outer] = *made;
        }
        return changed;
    }

private:
    const Incidence& m_topology;
    const std::set<int>& m_stray;
    double m_exact;
    std::map<int, std::unique_ptr<BRepTopAdaptor_FClass2d>> m_classifiers;

    [[nodiscard]] tl::unexpected<Problem> refused(const std::string& why) const {
        return fail(ProblemKind::NotPossible,
                    fmt::format("The stray body could not be united with the other: {}.", why),
                    "Drop it, or cut it to where the other ends.", {{}, {*m_stray.begin()}, {}});
    }

    [[nodiscard]] bool facesEachOther(int a, int b) const {
        const TopoDS_Face one = m_topology.face(a), two = m_topology.face(b);
        if (!sameSurface(one, two, std::max(10.0 * m_exact, Tolerance::samePlace))) return false;
        // Outward directions at a point of the one's outline.
        const EdgeProbe probe(m_topology.edge(m_topology.edgesOf(a).front()));
        const gp_Pnt at = probe.value(0.5 * (probe.first() + probe.last()));
        const auto outward = [&](const TopoDS_Face& face) -> std::optional<gp_Vec> {
            const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
            const auto uv = parametersOn(surface, at, m_exact);
            if (!uv) return std::nullopt;
            gp_Pnt foot;
            gp_Vec du, dv;
            surface->D1(uv->X(), uv->Y(), foot, du, dv);
            return du.Crossed(dv) * (face.Orientation() == TopAbs_REVERSED ? -1.0 : 1.0);
        };
        const auto n1 = outward(one), n2 = outward(two);
        return n1 && n2 && n1->Dot(*n2) < 0.0;
    }

    [[nodiscard]] TopAbs_State stateOn(int face, const gp_Pnt& point) {
        const TopoDS_Face shape = TopoDS::Face(m_topology.face(face).Oriented(TopAbs_FORWARD));
        const auto uv = parametersOn(BRep_Tool::Surface(shape), point, m_exact);
        if (!uv) return TopAbs_OUT;
        for (const int e : m_topology.edgesOf(face))
            if (!BRep_Tool::Degenerated(m_topology.edge(e)) &&
                EdgeProbe(m_topology.edge(e)).nearest(point).distance <= 10.0 * m_exact)
                return TopAbs_ON;
        auto& classifier = m_classifiers[face];
        if (!classifier) classifier = std::make_unique<BRepTopAdaptor_FClass2d>(shape, Tolerance::least);
        return classifier->Perform(*uv);
    }

    [[nodiscard]] Lies liesOn(int inner, int outer) {
        int in = 0, on = 0, out = 0;
        for (const int e : m_topology.edgesOf(inner)) {
            if (BRep_Tool::Degenerated(m_topology.edge(e))) continue;
            const EdgeProbe probe(m_topology.edge(e));
            for (const double share : {0.0, 0.21, 0.5, 0.83}) {
                switch (stateOn(outer, probe.value(probe.first() + share * (probe.last() - probe.first())))) {
                    case TopAbs_IN:
                        ++in;
                        break;
                    case TopAbs_ON:
                        ++on;
                        break;
                    default:
                        ++out;
                }
            }
        }
        if (on == 0 && out == 0) return Lies::Within;
        if (in == 0 && out == 0 &&
            std::abs(areaOf(m_topology.face(inner)) - areaOf(m_topology.face(outer))) <=
                Tolerance::sameSize * areaOf(m_topology.face(outer)))
            return Lies::Same;
        if (in > 0) return Lies::Partly;
        // All outside or on the rim: apart, unless the other lies within.
        for (const int e : m_topology.edgesOf(outer))
            if (!BRep_Tool::Degenerated(m_topology.edge(e)))
                if (const EdgeProbe probe(m_topology.edge(e));
                    stateOn(inner, probe.value(0.5 * (probe.first() + probe.last()))) == TopAbs_IN)
                    return Lies::Partly;
        return Lies::Apart;
    }

    /// The face with the outlines of others as inner loops. Their edges keep running as those faces used them.
    [[nodiscard]] Result<TopoDS_Face> withHoles(int outer, const std::vector<int>& inners) const {
        const TopoDS_Face old = m_topology.face(outer);
        const TopoDS_Face forward = TopoDS::Face(old.Oriented(TopAbs_FORWARD));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(forward);
        const BRep_Builder builder;
        TopoDS_Face made = TopoDS::Face(forward.EmptyCopied());
        for (TopoDS_Iterator it(forward); it.More(); it.Next()) builder.Add(made, it.Value());
        for (const int inner : inners) {
            const TopoDS_Face face = m_topology.face(inner);
            if (TopExp_Explorer wires(face, TopAbs_WIRE); wires.More()) {
                wires.Next();
                if (wires.More()) return refused(fmt::format("face {} has a hole", inner));
            }
            TopoDS_Wire wire;
            builder.MakeWire(wire);
            for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next()) {
                const TopoDS_Edge edge = TopoDS::Edge(it.Current());
                double first = 0.0, last = 0.0;
                const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
                if (curve.IsNull()) return refused(fmt::format("an edge of face {} has no curve", inner));
                const auto trace = traceOn(surface, curve, first, last, 10.0 * m_exact);
                if (!trace) return refused(fmt::format("an edge of face {} leaves face {}", inner, outer));
                putTrace(edge, trace->curve, surface, TopLoc_Location(), 1.1 * trace->deviation);
                widenToTolerance(edge);
                builder.Add(wire,
                            edge.Oriented(old.Orientation() == TopAbs_REVERSED ? TopAbs::Reverse(edge.Orientation())
                                                                               : edge.Orientation()));
            }
            wire.Closed(true);
            builder.Add(made, wire);
        }
        made.Orientation(old.Orientation());
        if (!soundFace(made)) return refused(fmt::format("face {} would not be sound", outer));
        return made;
    }
};

/// What a face of the part as received is in a copy of the part as it is now; null where it changed.
TopoDS_Shape nowOf(const Part& now, const Change& sofar, int face, BRepBuilderAPI_Copy& copy) {
    int number = face;
    if (!sofar.shape.IsNull()) {
        number = 0;
        for (const Link& link : sofar.lineage.faces())
            if (link.before == face && !link.changed) number = link.after;
    }
    return number > 0 ? copy.ModifiedShape(now.incidence().face(number)) : TopoDS_Shape();
}

/// A vertex or the middle of an edge of the one lies inside the other.
bool reachesInto(const Incidence& topology, const std::set<int>& faces, const TopoDS_Shape& solid, double exact) {
    BRepClass3d_SolidClassifier classifier(solid);
    for (const int f : faces)
        for (const int e : topology.edgesOf(f)) {
            if (BRep_Tool::Degenerated(topology.edge(e))) continue;
            const EdgeProbe probe(topology.edge(e));
            for (const double share : {0.0, 0.5}) {
                classifier.Perform(probe.value(probe.first() + share * (probe.last() - probe.first())), 10.0 * exact);
                if (classifier.State() == TopAbs_IN) return true;
            }
        }
    return false;
}

}  // namespace

Result<Change> withoutStray(const Part& part, double upTo, double targetSize, double exact, Progress& progress) {
    const auto report = survey::findDefects(part, {targetSize, exact, 0.0}, false, progress);
    if (!report) return tl::unexpected(report.error());
    std::set<int> dropped;
    Change change;
    for (const survey::Defect& defect : report->defects) {
        if (defect.kind != survey::DefectKind::StrayBody || (upTo > 0.0 && defect.size > upTo)) continue;
        dropped.insert(defect.faces.begin(), defect.faces.end());
        change.items.push_back({fmt::format("a body of {} in {} dropped, {} mm across",
                                            counted(defect.faces.size(), "face"), part.name, readable(defect.size)),
                                true,
                                {},
                                defect.size});
    }
    if (dropped.empty()) return change;
    auto made = withoutFaces(part, dropped);
    if (!made) return made;
    made->items = std::move(change.items);
    made->done = static_cast<int>(made->items.size());
    return made;
}

Result<Change> withStrayUnited(const Part& part, double upTo, double targetSize, double exact, Progress& progress) {
    struct Body {
        std::vector<int> faces;
        gp_Pnt where;
        double size = 0.0;
    };
    std::vector<Body> bodies;
    if (upTo > 0.0) {  // all but the largest
        std::map<int, Body> bySolid;
        std::map<int, double> area;
        const Incidence& own = part.incidence();
        for (int f = 1; f <= own.faceCount(); ++f)
            if (const int b = own.bodyOf(f); b >= 0) {
                bySolid[b].faces.push_back(f);
                area[b] += areaOf(own.face(f));
            }
        const auto largest = std::max_element(area.begin(), area.end(),
                                              [](const auto& a, const auto& b) { return a.second < b.second; });
        for (auto& [b, body] : bySolid) {
            if (b == largest->first) continue;
            Bnd_Box box;
            for (const int f : body.faces) box.Add(tightBox(own.face(f)));
            const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
            body.where = gp_Pnt(0.5 * (low.XYZ() + high.XYZ()));
            body.size = std::max({high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()});
            if (body.size <= upTo) bodies.push_back(std::move(body));
        }
    } else {
        const auto report = survey::findDefects(part, {targetSize, exact, 0.0}, false, progress);
        if (!report) return tl::unexpected(report.error());
        for (const survey::Defect& defect : report->defects)
            if (defect.kind == survey::DefectKind::StrayBody)
                bodies.push_back({defect.faces, defect.where, defect.size});
    }
    Chain chain{part.copy(), {}};
    for (const Body& defect : bodies) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const std::string what = fmt::format("a body of {} in {}, {} mm across", counted(defect.faces.size(), "face"),
                                             part.name, readable(defect.size));
        const auto united = guarded("Uniting", [&]() -> Result<Change> {
            // The faces write traces onto shared edges: never onto those of the model as it is.
            BRepBuilderAPI_Copy copy(chain.part->shape, false);
            const Incidence topology(copy.Shape());
            std::set<int> stray;
            for (const int f : defect.faces)
                if (const TopoDS_Shape now = nowOf(*chain.part, chain.all, f, copy); !now.IsNull())
                    stray.insert(topology.faceNumber(now));
            stray.erase(0);
            if (stray.size() != defect.faces.size())
                return fail(ProblemKind::NotPossible, "What it stands on has changed with another.", "Unite again.");
            const double before = volumeOf(copy.Shape());
            for (TopExp_Explorer it(copy.Shape(), TopAbs_SOLID); it.More(); it.Next()) {
                std::set<int> own;
                for (TopExp_Explorer face(it.Current(), TopAbs_FACE); face.More(); face.Next())
                    own.insert(topology.faceNumber(face.Current()));
                const bool isStray = stray.contains(*own.begin());
                std::set<int> others;
                for (int f = 1; f <= topology.faceCount(); ++f)
                    if (stray.contains(f) != isStray) others.insert(f);
                if (reachesInto(topology, others, it.Current(), exact))
                    return fail(ProblemKind::NotPossible, "The stray body and another reach into each other.",
                                "Drop it, or cut it to where the other ends.", {part.name, defect.faces, defect.where});
            }
            auto changed = Uniter(topology, stray, exact).run();
            if (!changed) return tl::unexpected(changed.error());
            std::vector<TopoDS_Face> faces;
            std::vector<int> numbers;
            for (int f = 1; f <= topology.faceCount(); ++f) {
                const auto other = changed->find(f);
                if (other != changed->end() && other->second.IsNull()) continue;
                faces.push_back(other != changed->end() ? other->second : topology.face(f));
                numbers.push_back(f);
            }
            Change change = rebuilt(topology, faces, numbers);
            change.done = 1;
            // Faces that were the same left open edges on both sides.
            if (openEdges(Incidence(change.shape)) > 0) {
                Chain joined{chain.part->withShape(change.shape, change.lineage), change};
                joined.take(stitched(*joined.part, {10.0 * exact, exact, {}, {}}, progress));
                joined.all.done = 1;
                change = std::move(joined.all);
            }
            if (openEdges(Incidence(change.shape)) > 0 || solidsIn(change.shape) >= solidsIn(copy.Shape()) ||
                std::abs(volumeOf(change.shape) - before) > Tolerance::sameSize * before)
                return fail(ProblemKind::NotPossible,
                            "The stray body and the one it stands on do not make one closed body.", "Drop it.",
                            {part.name, defect.faces, defect.where});
            change.items.clear();
            return change;
        });
        if (!united) {
            Problem problem = united.error();
            problem.where = {part.name, defect.faces, defect.where};
            chain.all.items.push_back({what, false, problem, defect.size});
            continue;
        }
        chain.take(*united);
        chain.all.items.push_back({what + ": one with the body it stands on", true, {}, defect.size});
    }
    return std::move(chain.all);
}

}  // namespace rasoir::mend
