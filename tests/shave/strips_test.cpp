// Rounds and chamfers on bodies of known answer: found, removed, and the bare body is back.
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "geometry/edge_probe.h"
#include "operations.h"
#include "shave/strips.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/rounds.h"
#include "topology/edge_angle.h"

namespace rasoir::test {

class StripsTest : public QObject {
    Q_OBJECT

    /// Edges of a body that a rule picks, by their middle.
    template <class Rule>
    static std::vector<TopoDS_Edge> edgesWhere(const TopoDS_Shape& body, Rule rule) {
        TopTools_IndexedMapOfShape edges;
        TopExp::MapShapes(body, TopAbs_EDGE, edges);
        std::vector<TopoDS_Edge> some;
        for (int e = 1; e <= edges.Extent(); ++e) {
            const TopoDS_Edge edge = TopoDS::Edge(edges(e));
            if (BRep_Tool::Degenerated(edge)) continue;
            const EdgeProbe probe(edge);
            if (rule(probe.value(0.5 * (probe.first() + probe.last())), edge)) some.push_back(edge);
        }
        return some;
    }
    static bool isRing(const TopoDS_Edge& edge) { return TopExp::FirstVertex(edge).IsSame(TopExp::LastVertex(edge)); }
    static TopoDS_Shape rounded(const TopoDS_Shape& body, const std::vector<TopoDS_Edge>& edges, double radius, double radiusTo = 0.0) {
        BRepFilletAPI_MakeFillet made(body);
        for (const TopoDS_Edge& edge : edges)
            if (radiusTo > 0.0) made.Add(radius, radiusTo, edge);
            else made.Add(radius, edge);
        try {
            made.Build();
        } catch (const Standard_Failure&) {
            return {};
        }
        return made.IsDone() ? made.Shape() : TopoDS_Shape();
    }
    static TopoDS_Shape chamfered(const TopoDS_Shape& body, const std::vector<TopoDS_Edge>& edges, double width) {
        BRepFilletAPI_MakeChamfer made(body);
        for (const TopoDS_Edge& edge : edges) made.Add(width, edge);
        try {
            made.Build();
        } catch (const Standard_Failure&) {
            return {};
        }
        return made.IsDone() ? made.Shape() : TopoDS_Shape();
    }
    static TopoDS_Shape lShape() { return cut(block(60, 40, 30), moved(block(60, 40, 30), at(20, 0, 12))); }
    static gp_Trsf at(double x, double y, double z) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(x, y, z));
        return by;
    }
    static gp_Ax1 up(double x, double y, double z = 0) { return gp_Ax1(gp_Pnt(x, y, z), gp_Dir(0, 0, 1)); }
    static Result<Outcome> run(const Model& model, const std::string& operation, const Json& parameters) { return findOperation(operation)->run(model, parameters, quietly()); }

    struct Case {
        TopoDS_Shape bare, made;
        int chains = 1;
        double radius = 3.0;
        double upTo = 0.0;   // where not just above the radius
    };
    static Case rounds(int kind) {
        const auto all = [](const gp_Pnt&, const TopoDS_Edge&) { return true; };
        const TopoDS_Shape box = block(60, 40, 30);
        switch (kind) {
            case 0: return {box, rounded(box, edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.X()) < 1e-9 && std::abs(p.Z()) < 1e-9; }), 3), 1};
            case 1: return {box, rounded(box, edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 15) < 1; }), 3), 4};            // four upright edges
            case 2: return {box, rounded(box, edgesWhere(box, all), 3), 1};                                                                                  // spheres at the corners
            case 3: return {box, rounded(box, edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 30) < 1e-9; }), 3), 1};         // round the top, mitred corners
            case 4: {   // round the top of a block whose upright edges are round already
                const TopoDS_Shape base = rounded(box, edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 15) < 1; }), 8);
                return {base, rounded(base, edgesWhere(base, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 30) < 1e-9; }), 3), 1};
            }
            case 5: {   // inner edge of an L
                const TopoDS_Shape base = lShape();
                return {base, rounded(base, edgesWhere(base, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.X() - 20) < 1e-9 && std::abs(p.Z() - 12) < 1e-9; }), 3), 1};
            }
            case 6: {   // foot of a boss, all round
                const TopoDS_Shape base = fuse(box, rod(up(30, 20, 20), 8, 25));
                return {base, rounded(base, edgesWhere(base, [](const gp_Pnt& p, const TopoDS_Edge& e) { return std::abs(p.Z() - 30) < 1e-9 && isRing(e); }), 3), 1};
            }
            case 7: {   // head of a pin
                const TopoDS_Shape base = rod(up(0, 0), 10, 30);
                return {base, rounded(base, edgesWhere(base, [](const gp_Pnt& p, const TopoDS_Edge& e) { return std::abs(p.Z() - 30) < 1e-9 && isRing(e); }), 3), 1};
            }
            case 8: {   // mouth of a hole
                const TopoDS_Shape base = cut(box, rod(up(30, 20, -1), 6, 40));
                return {base, rounded(base, edgesWhere(base, [](const gp_Pnt& p, const TopoDS_Edge& e) { return std::abs(p.Z() - 30) < 1e-9 && isRing(e); }), 3), 1};
            }
            case 9: {   // outer and inner edges of an L meeting at its ends
                const TopoDS_Shape base = lShape();
                return {base, rounded(base, edgesWhere(base, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Y() - 20) < 1e-9; }), 3), 6};
            }
            case 10: {   // foot of a boss on a cylinder: splines
                const TopoDS_Shape base = fuse(rod(gp_Ax1(gp_Pnt(-30, 0, 0), gp_Dir(1, 0, 0)), 20, 60), rod(up(0, 0), 9, 40));
                return {base, rounded(base, edgesWhere(base, [](const gp_Pnt& p, const TopoDS_Edge&) { return p.Z() > 17 && p.Z() < 20.1 && std::hypot(p.X(), p.Y()) > 8.9 && std::hypot(p.X(), p.Y()) < 9.1; }), 3), 1};
            }
            case 11: return {box, rounded(box, edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.X()) < 1e-9 && std::abs(p.Z()) < 1e-9; }), 2, 5), 1, 5.0};   // variable
            case 12: {   // pocket: floor and uprights
                const TopoDS_Shape base = cut(box, moved(block(30, 20, 20), at(15, 10, 15)));
                return {base, rounded(base, edgesWhere(base, [](const gp_Pnt& p, const TopoDS_Edge&) { return p.X() > 10 && p.X() < 50 && p.Y() > 5 && p.Y() < 35 && p.Z() > 10 && p.Z() < 29; }), 3), 1};
            }
            default: {   // three edges at a corner, three radii
                BRepFilletAPI_MakeFillet made(box);
                double radius = 3.0;
                for (const TopoDS_Edge& edge : edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return (p.X() < 1e-9) + (p.Y() < 1e-9) + (p.Z() < 1e-9) == 2; })) {
                    made.Add(radius, edge);
                    radius += 1.0;
                }
                return {box, made.Shape(), 2, 4.0, 5.1};
            }
        }
    }

private slots:
    void roundsAreFoundAndRemoved_data() {
        QTest::addColumn<int>("kind");
        const char* names[] = {"one edge", "four edges", "all edges", "round the top", "round a rounded top", "inner edge", "foot of a boss", "head of a pin", "mouth of a hole", "edges of an L", "boss on a cylinder", "variable", "pocket", "three radii"};
        for (int kind = 0; kind < 14; ++kind) QTest::newRow(names[kind]) << kind;
    }
    void roundsAreFoundAndRemoved() {
        QFETCH(int, kind);
        const Case one = rounds(kind);
        QVERIFY(!one.made.IsNull());
        QVERIFY(std::abs(volumeOf(one.made) - volumeOf(one.bare)) > 1e-3);
        const Model model = modelOf(one.made);
        const auto chains = survey::findStrips(*model.parts[0], 4.0, quietly());
        QVERIFY2(chains, said(chains));
        std::size_t known = 0;
        if (kind == 4) known = 4;   // the upright ones, R 8
        if (qEnvironmentVariableIsSet("RASOIR_TELL"))
            for (const auto& chain : *chains) qInfo() << chain.size << survey::describe(chain).c_str() << chain.faces << chain.layer;
        QCOMPARE(chains->size(), static_cast<std::size_t>(one.chains) + known);
        QCOMPARE_NEAR(chains->front().size, one.radius, 2e-2 * one.radius);
        const auto done = run(model, "shave.removeRounds", {{"upTo", std::max(one.upTo, one.radius * 1.05)}});
        QVERIFY2(done, said(done));
        for (const Item& item : done->items) QVERIFY2(item.done, sentence(item.problem).c_str());
        const TopoDS_Shape& shape = done->model.parts[0]->shape;
        QVERIFY(isValid(shape));
        QCOMPARE(openEdgesIn(shape), 0);
        QCOMPARE_NEAR(volumeOf(shape), volumeOf(one.bare), 1e-6 * volumeOf(one.bare));
        QCOMPARE(facesIn(shape), facesIn(one.bare));
    }
};

static Registered<StripsTest> stripsTest;

}  // namespace rasoir::test

#include "strips_test.moc"
