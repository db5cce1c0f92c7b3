// Faces whose traces lie whole turns apart, as some files bring them.
#include "topology/traces.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <Geom2d_Line.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "geometry/integrals.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class TracesTest : public QObject {
    Q_OBJECT

    static TopoDS_Face sideOf(const TopoDS_Shape& shape) {
        for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next())
            if (BRep_Tool::Surface(TopoDS::Face(it.Current()))->IsUPeriodic())
                return TopoDS::Face(it.Current().Oriented(TopAbs_FORWARD));
        return {};
    }

private slots:
    void aSideTwoTurnsApartIsOneAgain() {
        const TopoDS_Shape shape = rod(gp_Ax1(gp_Pnt(), gp::DZ()), 5, 20);
        const double volume = M_PI * 500;
        const TopoDS_Face face = sideOf(shape);
        TopoDS_Wire wire = TopoDS::Wire(TopoDS_Iterator(face).Value());
        // One of its circles is moved by two turns, and edges without length bridge the way there and back.
        const BRep_Builder builder;
        std::vector<TopoDS_Edge> edges;
        for (TopoDS_Iterator it(wire); it.More(); it.Next()) edges.push_back(TopoDS::Edge(it.Value()));
        QCOMPARE(edges.size(), std::size_t(4));
        wire.Free(true);
        for (const TopoDS_Edge& edge : edges) builder.Remove(wire, edge);
        for (std::size_t i = 0; i < edges.size(); ++i) {
            double first = 0.0, last = 0.0;
            Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edges[i], face, first, last);
            const bool circle = std::abs(trace->Value(first).Y() - trace->Value(last).Y()) < 1e-9;
            if (!circle || trace->Value(first).Y() < 10.0) {
                builder.Add(wire, edges[i]);
                continue;
            }
            trace = Handle(Geom2d_Curve)::DownCast(trace->Translated(gp_Vec2d(4 * M_PI, 0.0)));
            builder.UpdateEdge(edges[i], trace, face, 1e-7);
            builder.Range(edges[i], face, first, last);
            const bool against = edges[i].Orientation() == TopAbs_REVERSED;
            const gp_Pnt2d from = trace->Value(against ? last : first), to = trace->Value(against ? first : last);
            const auto bridge = [&](const gp_Pnt2d& a, double turns, const TopoDS_Shape& vertex) {
                TopoDS_Edge pole;
                builder.MakeEdge(pole);
                builder.UpdateEdge(pole, new Geom2d_Line(a, gp_Dir2d(turns, 0.0)), face, 1e-7);
                builder.Range(pole, face, 0.0, std::abs(turns));
                builder.Degenerated(pole, true);
                builder.Add(pole, vertex.Oriented(TopAbs_FORWARD));
                builder.Add(pole, vertex.Oriented(TopAbs_REVERSED));
                builder.Add(wire, pole);
            };
            bridge(from.Translated(gp_Vec2d(-4 * M_PI, 0.0)), 4 * M_PI, TopExp::FirstVertex(edges[i]));
            builder.Add(wire, edges[i]);
            bridge(to, -4 * M_PI, TopExp::LastVertex(edges[i]));
        }
        QCOMPARE(straightenTraces(shape), 1);
        QCOMPARE(straightenTraces(shape), 0);
        QVERIFY(BRepCheck_Analyzer(shape).IsValid());
        QCOMPARE_NEAR(rasoir::volumeOf(shape), volume, 1e-9 * volume);
        int count = 0;
        for (TopExp_Explorer it(sideOf(shape), TopAbs_EDGE); it.More(); it.Next()) ++count;
        QCOMPARE(count, 4);
    }
    void realPolesStay() {
        const TopoDS_Shape cone = coneOf(gp_Ax1(gp_Pnt(), gp::DZ()), 5, 0, 10);
        QCOMPARE(straightenTraces(cone), 0);
        int poles = 0;
        for (TopExp_Explorer it(cone, TopAbs_EDGE); it.More(); it.Next())
            poles += BRep_Tool::Degenerated(TopoDS::Edge(it.Current()));
        QVERIFY(poles > 0);
    }
};
static Registered<TracesTest> tracesTest;

}  // namespace rasoir::test

#include "traces_test.moc"
