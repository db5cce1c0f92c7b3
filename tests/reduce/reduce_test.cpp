// Sheets from walls, on bodies whose middles one knows: number of faces, area, thickness, joints.
#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepExtrema_DistShapeShape.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_OffsetSurface.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GeomAPI_PointsToBSplineSurface.hxx>
#include <GeomConvert_ApproxSurface.hxx>
#include <GeomFill.hxx>
#include <TColgp_Array2OfPnt.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Shell.hxx>

#include "geometry/integrals.h"
#include "model/on_purpose.h"
#include "reduce/midsurface.h"
#include "reduce/proof.h"
#include "reduce/walls.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/defects.h"
#include "survey/receiving.h"
#include "topology/making.h"

namespace rasoir::test {

using namespace reduce;

class ReduceTest : public QObject {
    Q_OBJECT

    /// A profile in the xz plane, 100 long in y.
    static TopoDS_Shape profile(const std::vector<std::pair<double, double>>& outline, double length = 100.0) {
        BRepBuilderAPI_MakePolygon polygon;
        for (const auto& [x, z] : outline) polygon.Add(gp_Pnt(x, 0, z));
        polygon.Close();
        return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(polygon.Wire()).Face(), gp_Vec(0, length, 0)).Shape();
    }
    static gp_Trsf turned() {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(7, 3, 1), gp_Dir(1, 2, 3)), 0.6);
        return turn;
    }
    static int jointsIn(const Part& part) {
        int joints = 0;
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) joints += part.incidence().facesAt(e) > 2;
        return joints;
    }

    /// A freeform panel, 200 by 120, with its lower side an offset of the upper one; of so many patches each way.
    static TopoDS_Shape panel(double thickness, int patches) {
        TColgp_Array2OfPnt points(1, 13, 1, 9);
        for (int i = 1; i <= 13; ++i)
            for (int k = 1; k <= 9; ++k) {
                const double x = 200.0 * (i - 1) / 12, y = 120.0 * (k - 1) / 8;
                points.SetValue(i, k, gp_Pnt(x, y, 12.0 * std::sin(0.02 * x) + 8.0 * std::cos(0.03 * y + 0.4)));
            }
        const Handle(Geom_BSplineSurface) above =
            GeomAPI_PointsToBSplineSurface(points, 3, 8, GeomAbs_C2, 1e-6).Surface();
        const Handle(Geom_BSplineSurface) below = GeomConvert_ApproxSurface(new Geom_OffsetSurface(above, -thickness),
                                                                            1e-6, GeomAbs_C2, GeomAbs_C2, 9, 9, 60, 0)
                                                      .Surface();
        BRepBuilderAPI_Sewing sewing(1e-4);
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
        above->Bounds(u0, u1, v0, v1);
        for (const Handle(Geom_BSplineSurface) & side : {above, below})
            for (int i = 0; i < patches; ++i)
                for (int k = 0; k < patches; ++k) {
                    const auto patch = Handle(Geom_BSplineSurface)::DownCast(side->Copy());
                    patch->Segment(u0 + (u1 - u0) * i / patches, u0 + (u1 - u0) * (i + 1) / patches,
                                   v0 + (v1 - v0) * k / patches, v0 + (v1 - v0) * (k + 1) / patches);
                    sewing.Add(BRepBuilderAPI_MakeFace(patch, 1e-6).Face());
                }
        for (int i = 0; i < patches; ++i)
            for (const bool end : {false, true}) {
                const auto piece = [&](const Handle(Geom_Curve) & curve, double from, double to) {
                    return Handle(Geom_Curve)(new Geom_TrimmedCurve(curve, from + (to - from) * i / patches,
                                                                    from + (to - from) * (i + 1) / patches));
                };
                const double u = end ? u1 : u0, v = end ? v1 : v0;
                for (const auto& [one, other] :
                     {std::pair{piece(above->UIso(u), v0, v1), piece(below->UIso(u), v0, v1)},
                      {piece(above->VIso(v), u0, u1), piece(below->VIso(v), u0, u1)}})
                    sewing.Add(BRepBuilderAPI_MakeFace(GeomFill::Surface(one, other), 1e-6).Face());
            }
        sewing.Perform();
        const TopExp_Explorer shell(sewing.SewedShape(), TopAbs_SHELL);
        TopoDS_Shape solid = BRepBuilderAPI_MakeSolid(TopoDS::Shell(shell.Current())).Shape();
        if (rasoir::volumeOf(solid) < 0.0) solid.Reverse();
        return solid;
    }
    /// Of a body that has been reduced by one step with these parameters.
    static Result<Proof> proven(const TopoDS_Shape& body, const Json& parameters, Model* made = nullptr) {
        measure::FactsCache facts;
        Work work = Work(modelOf(body, "body"), "body.step").withStep("reduce.midsurface", parameters);
        auto done = work.replayed(facts, quietly());
        if (!done) return tl::unexpected(done.error());
        const auto all = standIns(*done);
        if (all.size() != 1) return fail(ProblemKind::BadInput, "there is not one stand-in");
        if (made != nullptr) *made = done->current();
        return proofOf(done->current(), all.front(), quietly());
    }

private slots:
    void theTableOfTruth_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<int>("faces");
        QTest::addColumn<double>("area");
        QTest::addColumn<int>("joints");  // edges of three faces
        QTest::newRow("plate") << block(100, 60, 4) << 1 << 6000.0 << 0;
        QTest::newRow("plate with holes") << drilledPlateThrough() << 1 << 6000.0 - 2.0 * M_PI * 25.0 << 0;
        // An L of 40 and 30 outside, 2 thick: the middles meet in the mitre, 39 and 29 long.
        QTest::newRow("L") << profile({{0, 0}, {40, 0}, {40, 2}, {2, 2}, {2, 30}, {0, 30}}) << 2
                           << 100.0 * (39.0 + 29.0) << 0;
        // A T: the flange 40 wide and 2 thick, the web 30 tall on its middle: one edge of three.
        QTest::newRow("T") << profile({{0, 0}, {40, 0}, {40, 2}, {21, 2}, {21, 32}, {19, 32}, {19, 2}, {0, 2}}) << 3
                           << 100.0 * (40.0 + 31.0) << 1;
        QTest::newRow("U") << profile({{0, 0}, {40, 0}, {40, 30}, {38, 30}, {38, 2}, {2, 2}, {2, 30}, {0, 30}}) << 3
                           << 100.0 * (38.0 + 29.0 + 29.0) << 0;
        QTest::newRow("Z") << profile({{0, 0}, {2, 0}, {2, 28}, {30, 28}, {30, 30}, {0, 30}}) << 2
                           << 100.0 * (29.0 + 29.0) << 0;
        QTest::newRow("I") << profile({{0, 0},
                                       {40, 0},
                                       {40, 2},
                                       {21, 2},
                                       {21, 38},
                                       {40, 38},
                                       {40, 40},
                                       {0, 40},
                                       {0, 38},
                                       {19, 38},
                                       {19, 2},
                                       {0, 2}})
                           << 5 << 100.0 * (40.0 + 40.0 + 38.0) << 2;
        QTest::newRow("two thicknesses") << profile({{0, 0}, {40, 0}, {40, 3}, {2, 3}, {2, 30}, {0, 30}}) << 2
                                         << 100.0 * (39.0 + 28.5) << 0;
        const gp_Ax1 up(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        QTest::newRow("tube") << cut(rod(up, 20, 100), rod(gp_Ax1(gp_Pnt(0, 0, -1), gp_Dir(0, 0, 1)), 18, 102)) << 1
                              << 2.0 * M_PI * 19.0 * 100.0 << 0;
        // Both rounded alike: bends about two axes, with the middle about a third one and a radius between.
        QTest::newRow("square tube rounded alike")
            << bentTube(10.0, 10.0) << 8 << 100.0 * (4.0 * (38.0 - 20.0) + 2.0 * M_PI * 10.0) << 0;
        QTest::newRow("square tube rounded more inside")
            << bentTube(10.0, 11.0) << 8 << 100.0 * (4.0 * (38.0 - 21.0) + 2.0 * M_PI * 10.5) << 0;
        QTest::newRow("square tube with bends") << bentTube() << 8 << 100.0 * (4.0 * 30.0 + 2.0 * M_PI * 4.0) << 0;
        // Two webs that cross: an edge of four.
        QTest::newRow("X") << profile({{19, 0},
                                       {21, 0},
                                       {21, 19},
                                       {40, 19},
                                       {40, 21},
                                       {21, 21},
                                       {21, 40},
                                       {19, 40},
                                       {19, 21},
                                       {0, 21},
                                       {0, 19},
                                       {19, 19}})
                           << 4 << 100.0 * 80.0 << 1;
        // A flange of 2 from whose middle two webs of 2 lean away under 45 degrees.
        const double foot = std::sqrt(2.0), reach = 30.0;
        QTest::newRow("K") << profile({{-40, -1},
                                       {40, -1},
                                       {40, 1},
                                       {1 + foot, 1},
                                       {reach + foot / 2, reach - foot / 2},
                                       {reach - foot / 2, reach + foot / 2},
                                       {0, foot},
                                       {-(reach - foot / 2), reach + foot / 2},
                                       {-(reach + foot / 2), reach - foot / 2},
                                       {-(1 + foot), 1},
                                       {-40, 1}})
                           << 4 << 100.0 * (80.0 + 2.0 * std::sqrt(2.0) * reach) << 1;
        QTest::newRow("hat") << profile({{0, 0},
                                         {20, 0},
                                         {20, 28},
                                         {50, 28},
                                         {50, 0},
                                         {70, 0},
                                         {70, 2},
                                         {52, 2},
                                         {52, 30},
                                         {18, 30},
                                         {18, 2},
                                         {0, 2}})
                             << 5 << 100.0 * (19.0 + 28.0 + 32.0 + 28.0 + 19.0) << 0;
        QTest::newRow("box section") << cut(block(40, 100, 30), moved(block(36, 100, 26), by(2, 0, 2))) << 4
                                     << 100.0 * 2.0 * (38.0 + 28.0) << 0;
        const gp_Ax1 foot2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        const double across = 2.0 / std::cos(std::atan(10.0 / 80.0));
        QTest::newRow("cone") << cut(coneOf(foot2, 30, 20, 80), coneOf(foot2, 30 - across, 20 - across, 80)) << 1
                              << M_PI * (50.0 - across) * std::hypot(80.0, 10.0) << 0;
        // A tray of 2 with a rim round its floor, a rib of 1 across it and one along one half, up to the other.
        QTest::newRow("ribbed tray") << fuse(fuse(cut(block(100, 60, 20), moved(block(96, 56, 20), by(2, 2, 2))),
                                                  moved(block(1, 56, 10), by(49.5, 2, 2))),
                                             moved(block(47.5, 1, 10), by(50.5, 29.5, 2)))
                                     << 13 << 98.0 * 58.0 + 2.0 * (98.0 + 58.0) * 19.0 + (58.0 + 49.0) * 11.0 << 7;
    }
    /// A U folded from a sheet of 1.5, so broad outside and so long in y, with flanges of 20 above the bends.
    static TopoDS_Shape folded(double broad, double length) {
        BRepBuilderAPI_MakeWire wire;
        const auto at = [](double x, double z) { return gp_Pnt(x, 0, z); };
        const auto line = [&](const gp_Pnt& a, const gp_Pnt& b) { wire.Add(BRepBuilderAPI_MakeEdge(a, b).Edge()); };
        const auto arc = [&](const gp_Pnt& a, const gp_Pnt& centre, double radius, double from, const gp_Pnt& b) {
            const gp_Pnt middle = centre.Translated(
                gp_Vec(radius * std::cos(from + 0.25 * M_PI), 0, radius * std::sin(from + 0.25 * M_PI)));
            wire.Add(BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(a, middle, b).Value()).Edge());
        };
        const gp_Pnt left = at(3, 3), right = at(broad - 3, 3);
        line(at(3, 0), at(broad - 3, 0));
        arc(at(broad - 3, 0), right, 3.0, -0.5 * M_PI, at(broad, 3));
        line(at(broad, 3), at(broad, 23));
        line(at(broad, 23), at(broad - 1.5, 23));
        line(at(broad - 1.5, 23), at(broad - 1.5, 3));
        arc(at(broad - 1.5, 3), right, 1.5, -0.5 * M_PI, at(broad - 3, 1.5));
        line(at(broad - 3, 1.5), at(3, 1.5));
        arc(at(3, 1.5), left, 1.5, M_PI, at(1.5, 3));
        line(at(1.5, 3), at(1.5, 23));
        line(at(1.5, 23), at(0, 23));
        line(at(0, 23), at(0, 3));
        arc(at(0, 3), left, 3.0, M_PI, at(3, 0));
        return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire.Wire()).Face(), gp_Vec(0, length, 0)).Shape();
    }
    static TopoDS_Shape turnedFlat(const TopoDS_Shape& shape) {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 0.5 * M_PI);
        return moved(shape, turn);
    }
    /// A square tube, 40 outside, 2 thick, its corners bent round: about one axis where the radii differ by 2.
    static TopoDS_Shape bentTube(double outside = 5.0, double inside = 3.0) {
        const auto rounded = [](double side, double radius, double at) {
            const TopoDS_Shape bar = moved(block(side, 100, side), [at] {
                gp_Trsf move;
                move.SetTranslation(gp_Vec(at, 0, at));
                return move;
            }());
            BRepFilletAPI_MakeFillet fillet(bar);
            const Incidence topology(bar);
            for (int e = 1; e <= topology.edgeCount(); ++e)
                if (std::abs(lengthOf(topology.edge(e)) - 100.0) < 1e-9) fillet.Add(radius, topology.edge(e));
            return fillet.Shape();
        };
        return cut(rounded(40, outside, 0), rounded(36, inside, 2));
    }
    static TopoDS_Shape drilledPlateThrough() {
        TopoDS_Shape plate = block(100, 60, 4);
        for (const double x : {30.0, 70.0}) plate = cut(plate, rod(gp_Ax1(gp_Pnt(x, 30, -1), gp_Dir(0, 0, 1)), 5, 6));
        return plate;
    }
    /// The same solid with its faces numbered from the last to the first.
    static TopoDS_Shape facesTheOtherWay(const TopoDS_Shape& solid) {
        std::vector<TopoDS_Shape> faces;
        for (TopExp_Explorer it(solid, TopAbs_FACE); it.More(); it.Next()) faces.insert(faces.begin(), it.Current());
        const BRep_Builder builder;
        TopoDS_Shell shell;
        builder.MakeShell(shell);
        for (const TopoDS_Shape& face : faces) builder.Add(shell, face);
        shell.Closed(true);
        return BRepBuilderAPI_MakeSolid(shell).Shape();
    }
    void theTableOfTruth() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(int, faces);
        QFETCH(double, area);
        QFETCH(int, joints);
        // Moved and turned, in inches and a tenth as large, with its faces in another order.
        struct Variant {
            TopoDS_Shape body;
            double scale;
        };
        for (const auto& [shape, scale] : {Variant{body, 1.0},
                                           {moved(body, turned()), 1.0},
                                           {scaledBy(body, 25.4), 25.4},
                                           {scaledBy(moved(body, turned()), 0.1), 0.1},
                                           {facesTheOtherWay(body), 1.0}}) {
            const Model model = modelOf(shape, "wall");
            const auto done = run(model, "reduce.midsurface", {{"upTo", 5.0 * scale}});
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QCOMPARE(static_cast<int>(sheet.kind()), static_cast<int>(BodyKind::Sheet));
            QVERIFY(isValid(sheet.shape));
            QCOMPARE_NEAR(areaOf(sheet.shape), scale * scale * area, 1e-6 * scale * scale * area);
            QCOMPARE(facesIn(sheet.shape), faces);
            QCOMPARE(jointsIn(sheet), joints);
            QCOMPARE(sheet.incidence().bodyCount(), 1);  // one connected sheet
            QCOMPARE(sheet.known.thickness.size(), static_cast<std::size_t>(faces));
        }
    }
    void aFoldedBoxWithReliefs() {
        // Of one sheet of 1.5: four bends of 1.5 inside, flanges of 20, and a relief at each corner. Its floor is in
        // five pieces, as two profiles laid across each other leave it, and so is the sheet's.
        const TopoDS_Shape box = fuse(folded(100, 50), moved(turnedFlat(folded(60, 90)), by(95, -5, 0)));
        const double bend = 0.5 * M_PI * 2.25;
        const double area = 50.0 * (94.0 + 2.0 * bend + 40.0) + 90.0 * (54.0 + 2.0 * bend + 40.0) - 90.0 * 50.0;
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const auto done = run(modelOf(moved(box, move), "box"), "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QVERIFY(isValid(sheet.shape));
            QCOMPARE_NEAR(areaOf(sheet.shape), area, 1e-6 * area);
            QCOMPARE(facesIn(sheet.shape), 13);
            QCOMPARE(jointsIn(sheet), 0);
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            for (const auto& [face, own] : sheet.known.thickness) QCOMPARE_NEAR(own.at, 1.5, 1e-9);
        }
    }
    void wallsThatAreSplinesAreTheSame_data() { theTableOfTruth_data(); }
    void wallsThatAreSplinesAreTheSame() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(double, area);
        const auto done = run(modelOf(asSplines(body), "wall"), "reduce.midsurface", {{"upTo", 5.0}});
        QVERIFY2(done, said(done));
        const Part& sheet = *done->model.parts[0];
        QVERIFY(isValid(sheet.shape));
        QCOMPARE_NEAR(areaOf(sheet.shape), area, 1e-6 * area);
        QCOMPARE(sheet.incidence().bodyCount(), 1);
    }
    void roundsAtTheJointNeedNotGoFirst() {
        const TopoDS_Shape sharp = profile({{0, 0}, {40, 0}, {40, 2}, {21, 2}, {21, 32}, {19, 32}, {19, 2}, {0, 2}});
        BRepFilletAPI_MakeFillet fillet(sharp);
        for (TopExp_Explorer it(sharp, TopAbs_EDGE); it.More(); it.Next()) {
            const TopoDS_Edge edge = TopoDS::Edge(it.Current());
            const Skin middle = skinOf(edge);
            double first = 0, last = 0;
            const gp_Pnt at = BRep_Tool::Curve(edge, first, last)->Value(0.5 * (first + last));
            if (std::abs(at.Z() - 2.0) < 1e-9 && std::abs(std::abs(at.X() - 20.0) - 1.0) < 1e-9 &&
                std::abs(at.Y() - 50) < 1)
                fillet.Add(3.0, edge);
            (void)middle;
        }
        const auto done = run(modelOf(fillet.Shape(), "T"), "reduce.midsurface", {{"upTo", 5.0}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 100.0 * (40.0 + 31.0), 1e-3);
        QCOMPARE(jointsIn(*done->model.parts[0]), 1);
    }
    /// A tray of 100 by 60 by 30, its upright corners and the edge of its floor rounded, taken in by `in` all round.
    static TopoDS_Shape trayBlock(double upright, double floor, double in, double top) {
        const TopoDS_Shape raw = moved(block(100 - 2 * in, 60 - 2 * in, top - in), [in] {
            gp_Trsf move;
            move.SetTranslation(gp_Vec(in, in, in));
            return move;
        }());
        const auto round = [](const TopoDS_Shape& body, double radius, const auto& rule) {
            BRepFilletAPI_MakeFillet fillet(body);
            const Incidence topology(body);
            for (int e = 1; e <= topology.edgeCount(); ++e) {
                double first = 0, last = 0;
                const Handle(Geom_Curve) curve = BRep_Tool::Curve(topology.edge(e), first, last);
                if (rule(curve->Value(first), curve->Value(last))) fillet.Add(radius, topology.edge(e));
            }
            return fillet.Shape();
        };
        const TopoDS_Shape corners =
            round(raw, upright - in, [](const gp_Pnt& a, const gp_Pnt& b) { return std::abs(a.Z() - b.Z()) > 1.0; });
        return round(corners, floor - in, [in](const gp_Pnt& a, const gp_Pnt& b) {
            return std::abs(a.Z() - in) < 1e-6 && std::abs(b.Z() - in) < 1e-6;
        });
    }
    /// Its middle without the top, as area and number of faces.
    static std::pair<double, int> middleOfTray(double upright, double floor) {
        const TopoDS_Shape middle = trayBlock(upright, floor, 1, 30);
        const Incidence topology(middle);
        double area = 0.0;
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (skinOf(topology.face(f)).centre.Z() < 30 - 1e-6) area += areaOf(topology.face(f));
        return {area, topology.faceCount() - 1};
    }
    void pressedTraysWithRoundCorners_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<int>("faces");
        QTest::addColumn<double>("area");
        QTest::addColumn<int>("joints");
        for (const auto& [name, upright, floor] : {std::tuple("tori", 15.0, 5.0), {"balls", 8.0, 8.0}}) {
            const TopoDS_Shape tray = cut(trayBlock(upright, floor, 0, 30), trayBlock(upright, floor, 2, 50));
            const auto [area, faces] = middleOfTray(upright, floor);
            QTest::newRow(name) << tray << faces << area << 0;
            const TopoDS_Shape drilled = cut(tray, rod(gp_Ax1(gp_Pnt(40, 30, -1), gp_Dir(0, 0, 1)), 6, 4));
            QTest::addRow("%s, a hole in the floor", name) << drilled << faces << area - 36.0 * M_PI << 0;
            // A rib across the floor, 2 thick and 25 high, from the middle of the floor on.
            gp_Trsf move;
            move.SetTranslation(gp_Vec(30, 29, 2));
            const TopoDS_Shape ribbed = fuse(tray, moved(block(40, 2, 25), move));
            QTest::addRow("%s, a rib on the floor", name) << ribbed << -1 << area + 40.0 * 26.0 << -1;
        }
        const gp_Ax1 up(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        const auto dome = [&](double radius) {
            return fuse(
                rod(up, radius, 20),
                BRepPrimAPI_MakeSphere(gp_Ax2(gp_Pnt(0, 0, 20), gp_Dir(0, 0, 1)), radius, 0.0, M_PI / 2).Shape());
        };
        QTest::newRow("dome on a skirt") << cut(dome(31), moved(dome(29), gp_Trsf())) << -1
                                         << 2.0 * M_PI * 30.0 * 20.0 + 2.0 * M_PI * 900.0 << 0;
        const auto pipe = [&](double radius) {
            const TopoDS_Shape bend =
                BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(40, 0, 50), gp_Dir(0, 1, 0), gp_Dir(-1, 0, 0)), 40, radius,
                                      M_PI / 2)
                    .Shape();
            return fuse(fuse(rod(up, radius, 50), bend), rod(gp_Ax1(gp_Pnt(40, 0, 90), gp_Dir(1, 0, 0)), radius, 30));
        };
        QTest::newRow("bent pipe") << cut(pipe(11), pipe(9)) << 3 << 2.0 * M_PI * 10.0 * (80.0 + 20.0 * M_PI) << 0;
    }
    void pressedTraysWithRoundCorners() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(int, faces);
        QFETCH(double, area);
        QFETCH(int, joints);
        for (const bool turn : {false, true}) {
            const auto done = run(modelOf(turn ? moved(body, turned()) : body, "tray"), "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QVERIFY(isValid(sheet.shape));
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            if (faces >= 0) QCOMPARE(sheet.incidence().faceCount(), faces);
            if (joints >= 0) QCOMPARE(jointsIn(sheet), joints);
            if (joints < 0) QVERIFY(jointsIn(sheet) > 0);
            // A rib that ends within the floor leaves lips of half a thickness beside its foot.
            QCOMPARE_NEAR(areaOf(sheet.shape), area, (joints < 0 ? 0.01 : 1e-6) * area);
            QCOMPARE(static_cast<int>(sheet.known.thickness.size()), sheet.incidence().faceCount());
        }
    }
    /// Outside and inside of a tray, sharp or rounded each for itself: the middles are five planes, where neither side
    /// is rounded as the other is; they meet in sharp lines, five faces and eight common edges.
    void traysRoundedOnOneSideMeetInSharpLines_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        const auto sharp = [](double in, double top) {
            return moved(block(100 - 2 * in, 60 - 2 * in, top - in), by(in, in, in));
        };
        // Outside, a ball of more than 2.4 cuts off the corner of the middles, a round of 3.4 all of their edges.
        for (const double radius : {0.8, 2.0, 2.3, 3.0, 4.0}) {
            QTest::addRow("outside, all, %g", radius) << cut(trayBlock(radius, radius, 0, 30), sharp(2, 50));
            QTest::addRow("inside, all, %g", radius) << cut(sharp(0, 30), trayBlock(radius + 2, radius + 2, 2, 50));
        }
        QTest::newRow("outside, two radii") << cut(trayBlock(4.0, 1.5, 0, 30), sharp(2, 50));
        QTest::newRow("inside, two radii") << cut(sharp(0, 30), trayBlock(5.0, 3.5, 2, 50));
    }
    void traysRoundedOnOneSideMeetInSharpLines() {
        QFETCH(TopoDS_Shape, body);
        for (const bool turn : {false, true}) {
            const auto done = run(modelOf(turn ? moved(body, turned()) : body, "tray"), "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QVERIFY(isValid(sheet.shape));
            QCOMPARE(sheet.incidence().faceCount(), 5);
            QCOMPARE_NEAR(areaOf(sheet.shape), 98.0 * 58.0 + 2 * 29.0 * (98.0 + 58.0), 1e-6 * 10000);
            int common = 0;
            for (int e = 1; e <= sheet.incidence().edgeCount(); ++e) {
                const auto uses = sheet.incidence().usesOf(e);
                common += uses.size() == 2;
                // Both show the same side.
                if (uses.size() == 2) QVERIFY(uses[0].forward != uses[1].forward);
            }
            QCOMPARE(common, 8);
        }
    }
    /// A hood of 60 by 40 by 30 on a flange of 100 by 80, 2 thick, its upright edges round on both sides. Where it
    /// rises from the flange it is rounded outside, with a radius of several thicknesses, and sharp inside.
    void aHoodRoundedAtItsFootOnOneSide_data() {
        QTest::addColumn<double>("upright");
        QTest::addColumn<double>("foot");
        for (const double upright : {0.0, 6.0, 10.0})
            for (const double foot : {1.0, 4.0, 8.0}) QTest::addRow("%g, foot %g", upright, foot) << upright << foot;
    }
    void aHoodRoundedAtItsFootOnOneSide() {
        QFETCH(double, upright);
        QFETCH(double, foot);
        const auto rounded = [](const TopoDS_Shape& body, double radius, const auto& rule) {
            if (radius <= 0.0) return body;  // stays sharp
            BRepFilletAPI_MakeFillet fillet(body);
            const Incidence topology(body);
            for (int e = 1; e <= topology.edgeCount(); ++e) {
                double first = 0, last = 0;
                const Handle(Geom_Curve) curve = BRep_Tool::Curve(topology.edge(e), first, last);
                if (rule(curve->Value(first), curve->Value(0.5 * (first + last)), curve->Value(last)))
                    fillet.Add(radius, topology.edge(e));
            }
            return fillet.Shape();
        };
        const auto standing = [](const gp_Pnt& a, const gp_Pnt&, const gp_Pnt& b) {
            return std::abs(a.Z() - b.Z()) > 10.0;
        };
        const TopoDS_Shape outside = rounded(moved(block(60, 40, 30), by(-30, -20, 0)), upright, standing),
                           inside = rounded(moved(block(56, 36, 30), by(-28, -18, -2)), upright - 2.0, standing);
        const TopoDS_Shape flanged = rounded(fuse(outside, moved(block(100, 80, 2), by(-50, -40, 0))), foot,
                                             [](const gp_Pnt& a, const gp_Pnt& middle, const gp_Pnt& b) {
                                                 return std::abs(a.Z() - 2.0) < 1e-6 && std::abs(b.Z() - 2.0) < 1e-6 &&
                                                        std::abs(middle.X()) < 31 && std::abs(middle.Y()) < 21;
                                             });
        const TopoDS_Shape body = cut(flanged, inside);
        const double r = std::max(0.0, upright - 1.0);
        const auto inner = [&](double radius) { return 58.0 * 38.0 - (4.0 - M_PI) * radius * radius; };
        const double round = 2.0 * (58.0 + 38.0) - (8.0 - 2.0 * M_PI) * r;
        const double area = inner(r) + round * 28.0 + 100.0 * 80.0 - inner(r);
        for (const bool turn : {false, true}) {
            const auto done =
                run(modelOf(turn ? moved(body, turned()) : body, "hood"), "reduce.midsurface", {{"doubtful", true}});
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QVERIFY(isValid(sheet.shape));
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            QCOMPARE_NEAR(areaOf(sheet.shape), area, 1e-6 * area);
            // The flange's outline alone is free.
            double free = 0.0;
            for (int e = 1; e <= sheet.incidence().edgeCount(); ++e)
                if (sheet.incidence().facesAt(e) == 1) free += lengthOf(sheet.incidence().edge(e));
            QCOMPARE_NEAR(free, 360.0, 1e-6);
        }
    }
    void thicknessAndNamesComeAlong() {
        Model model = modelOf(profile({{0, 0}, {40, 0}, {40, 3}, {2, 3}, {2, 30}, {0, 30}}), "bracket");
        auto part = model.parts[0]->copy();
        for (int f = 1; f <= part->incidence().faceCount(); ++f)
            part->known.sizes[{EntityKind::Face, f}] = {static_cast<double>(f)};
        model.parts[0] = part;
        model.giveIds();
        const auto done = run(model, "reduce.midsurface", {{"upTo", 5.0}});
        QVERIFY2(done, said(done));
        std::multiset<double> thicknesses;
        for (const auto& [face, thickness] : done->model.parts[0]->known.thickness) thicknesses.insert(thickness.at);
        QCOMPARE_NEAR(*thicknesses.begin(), 2.0, 1e-9);
        QCOMPARE_NEAR(*thicknesses.rbegin(), 3.0, 1e-9);
        QCOMPARE(done->model.parts[0]->known.sizes.size(), std::size_t(2));  // each the finer of its two sides
        QVERIFY(!done->notes.empty());                                       // the rims' sizes went with them
    }
    void groupsOfRimsFollowToEdges() {
        // An L with a support at the flange's end, a load on one skin, and both rims of its profile: ends of two walls.
        const TopoDS_Shape angle = profile({{0, 0}, {40, 0}, {40, 2}, {2, 2}, {2, 30}, {0, 30}});
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            Model model = modelOf(moved(angle, move), "angle");
            model.giveIds();
            const Part& part = *model.parts[0];
            const auto faceAt = [&](double x, double y, double z) {
                for (int f = 1; f <= part.incidence().faceCount(); ++f)
                    if (part.incidence().skin(f).centre.Distance(gp_Pnt(x, y, z).Transformed(move)) < 1e-6) return f;
                return 0;
            };
            const auto group = [&](const std::string& name, int face) {
                Group own;
                own.name = name;
                own.members.insert({part.id, everyPlace, {EntityKind::Face, face}});
                model.groups.push_back(own);
            };
            const int end = faceAt(40, 50, 1), top = faceAt(21, 50, 2);
            int profileEnd = 0;  // where the profile begins, six edges round it
            for (int f = 1; f <= part.incidence().faceCount(); ++f)
                if (part.incidence().edgesOf(f).size() == 6) profileEnd = f;
            QVERIFY(end > 0 && top > 0 && profileEnd > 0);
            group("support", end);
            group("load", top);
            group("profile", profileEnd);
            const auto done = run(model, "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            const auto lengthIn = [&](std::size_t g) {
                double length = 0.0;
                for (const Member& member : done->model.groups[g].members)
                    length += member.entity.kind == EntityKind::Edge
                                  ? lengthOf(sheet.incidence().edge(member.entity.number))
                                  : -1e9;
                return length;
            };
            QCOMPARE_NEAR(lengthIn(0), 100.0, 1e-6);
            QCOMPARE(done->model.groups[1].members.size(), std::size_t(1));
            QCOMPARE(static_cast<int>(done->model.groups[1].members.begin()->entity.kind),
                     static_cast<int>(EntityKind::Face));
            QCOMPARE_NEAR(lengthIn(2), 39.0 + 29.0, 1e-6);
            QVERIFY(std::any_of(done->notes.begin(), done->notes.end(), [](const std::string& note) {
                return note.find("Of \"support\" 1 edge where walls end") != std::string::npos;
            }));
            for (const GroupChange& change : done->groups) QCOMPARE(change.gone, std::size_t(0));
        }
    }
    void thickRegionsStaySolid_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<double>("sheet");   // area
        QTest::addColumn<double>("solid");   // volume
        QTest::addColumn<double>("common");  // length of the lines in common
        const gp_Ax1 up(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        // A rib of 2 on a block of 30 x 30, 40 high.
        QTest::newRow("rib on a block")
            << profile({{0, 0}, {30, 0}, {30, 30}, {16, 30}, {16, 70}, {14, 70}, {14, 30}, {0, 30}}) << 4000.0
            << 30.0 * 30 * 100 << 100.0;
        // The same, leaning by 20 degrees: cut off as the block's top runs.
        const double lean = std::tan(20.0 * M_PI / 180.0);
        QTest::newRow("leaning rib")
            << profile(
                   {{0, 0}, {30, 0}, {30, 30}, {16, 30}, {16 + 40 * lean, 70}, {14 + 40 * lean, 70}, {14, 30}, {0, 30}})
            << 4000.0 / std::cos(20.0 * M_PI / 180.0) << 30.0 * 30 * 100 << 100.0;
        const TopoDS_Shape plate = moved(block(120, 80, 3), [] {
            gp_Trsf move;
            move.SetTranslation(gp_Vec(-60, -40, 0));
            return move;
        }());
        QTest::newRow("boss on a plate") << fuse(plate, rod(up, 12, 30)) << 120.0 * 80 - M_PI * 144.0
                                         << M_PI * 144.0 * 30.0 << 2.0 * M_PI * 12.0;
        // Of two diameters: the thick region is what has thick matter above or below.
        QTest::newRow("bosses of two diameters")
            << fuse(fuse(plate, rod(up, 12, 30)), rod(gp_Ax1(gp_Pnt(0, 0, 3), gp_Dir(0, 0, -1)), 15, 20))
            << 120.0 * 80 - M_PI * 225.0 << M_PI * (144.0 * 27.0 + 225.0 * 20.0) << 2.0 * M_PI * 15.0;
        QTest::newRow("plate with a thick end")
            << profile({{0, 0}, {80, 0}, {80, 20}, {50, 20}, {50, 3}, {0, 3}}) << 5000.0 << 30.0 * 20 * 100 << 100.0;
        // Sloping rails, at their least not twice as thick as the plate. Sheets alone would be two thirds of the body.
        QTest::newRow("plate with rails along its borders")
            << profile({{0, 0}, {52, 0}, {52, 8}, {46, 4}, {46, 3}, {6, 3}, {6, 4}, {0, 8}}) << 4000.0
            << 2 * 6.0 * 6 * 100 << 200.0;
        QTest::newRow("tube with a thick ring")
            << cut(fuse(rod(up, 20, 100), rod(gp_Ax1(gp_Pnt(0, 0, 80), gp_Dir(0, 0, 1)), 40, 20)),
                   rod(gp_Ax1(gp_Pnt(0, 0, -1), gp_Dir(0, 0, 1)), 18, 102))
            << 2.0 * M_PI * 19.0 * 80.0 << M_PI * (1600.0 - 324.0) * 20.0 << 2.0 * M_PI * 19.0;
    }
    void thickRegionsStaySolid() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(double, sheet);
        QFETCH(double, solid);
        QFETCH(double, common);
        for (const bool turn : {false, true}) {
            const auto done = run(modelOf(turn ? moved(body, turned()) : body, "mixed"), "reduce.midsurface");
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.parts.size(), std::size_t(2));
            const Part &thin = *done->model.parts[0], &thick = *done->model.parts[1];
            QCOMPARE(thick.name, std::string("mixed, solid"));
            QCOMPARE(static_cast<int>(thin.kind()), static_cast<int>(BodyKind::Sheet));
            QCOMPARE(static_cast<int>(thick.kind()), static_cast<int>(BodyKind::Solid));
            QVERIFY(isValid(thin.shape) && isValid(thick.shape));
            QCOMPARE_NEAR(areaOf(thin.shape), sheet, 1e-6 * sheet);
            QCOMPARE_NEAR(volumeOf(thick.shape), solid, 1e-6 * solid);
            double inCommon = 0.0;
            for (const Joint& joint : done->model.joints)
                if (joint.kind == EntityKind::Edge)
                    inCommon += lengthOf(thin.incidence().edge(joint.uses[0].place == done->model.occurrences[0].id
                                                                   ? joint.uses[0].number
                                                                   : joint.uses[1].number));
            QCOMPARE_NEAR(inCommon, common, 1e-6 * common);
        }
    }
    void roundsAtTheFootStayWithTheBlock() {
        // A round of 2 at the foot of a boss belongs to the solid; a boss no thicker than a wall is no region at all.
        const TopoDS_Shape plate = fuse(block(120, 80, 3), rod(gp_Ax1(gp_Pnt(60, 40, 0), gp_Dir(0, 0, 1)), 12, 30));
        BRepFilletAPI_MakeFillet fillet(plate);
        const Incidence topology(plate);
        for (int e = 1; e <= topology.edgeCount(); ++e)
            if (std::abs(lengthOf(topology.edge(e)) - 24.0 * M_PI) < 1e-6 &&
                std::abs(skinOf(topology.edge(e)).centre.Z() - 3.0) < 1e-6)
                fillet.Add(2.0, topology.edge(e));
        const auto done = run(modelOf(fillet.Shape(), "bossed"), "reduce.midsurface");
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 120.0 * 80 - M_PI * 196.0, 1e-3);
        QCOMPARE(done->model.parts.size(), std::size_t(2));
        QCOMPARE_NEAR(volumeOf(done->model.parts[1]->shape) + 3.0 * areaOf(done->model.parts[0]->shape),
                      volumeOf(fillet.Shape()), 1e-2);
        const auto low = run(modelOf(fuse(block(120, 80, 3), rod(gp_Ax1(gp_Pnt(60, 40, 0), gp_Dir(0, 0, 1)), 12, 5))),
                             "reduce.midsurface");
        QVERIFY2(low, said(low));
        QCOMPARE(low->model.parts.size(), std::size_t(1));
        QCOMPARE_NEAR(areaOf(low->model.parts[0]->shape), 120.0 * 80, 1e-6);  // runs on under it
    }
    static Model welded(const std::vector<std::pair<std::string, TopoDS_Shape>>& bodies, bool turn) {
        Model model;
        for (const auto& [name, shape] : bodies) {
            Occurrence place;
            place.part = model.parts.size();
            place.name = name;
            if (turn) place.placement = turned();
            model.parts.push_back(std::make_shared<Part>(name, shape));
            model.occurrences.push_back(place);
        }
        model.giveIds();
        return model;
    }
    static double commonLength(const Model& model) {
        double length = 0.0;
        for (const Joint& joint : model.joints)
            if (joint.kind == EntityKind::Edge) {
                const std::size_t place = *model.placeOf(joint.uses[0].place);
                length += lengthOf(model.parts[model.occurrences[place].part]->incidence().edge(joint.uses[0].number));
            }
        return length;
    }
    void weldedPlatesAreJoinedAcrossParts_data() {
        QTest::addColumn<TopoDS_Shape>("rib");
        QTest::addColumn<double>("area");    // of the rib's sheet when it reaches the plate's
        QTest::addColumn<double>("common");  // length of the line they meet in
        const double lean = std::tan(0.35);
        QTest::newRow("upright") << profile({{-1, 0}, {1, 0}, {1, 40}, {-1, 40}}) << 100.0 * 42.0 << 100.0;
        QTest::newRow("a gap of 0.5") << profile({{-1, 0.5}, {1, 0.5}, {1, 40.5}, {-1, 40.5}}) << 100.0 * 42.5 << 100.0;
        QTest::newRow("leaning") << profile({{-1, 0}, {1, 0}, {1 + 40 * lean, 40}, {-1 + 40 * lean, 40}})
                                 << 100.0 * 42.0 / std::cos(0.35) << 100.0;
        QTest::newRow("a tube") << moved(cut(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 21, 40),
                                             rod(gp_Ax1(gp_Pnt(0, 0, -1), gp_Dir(0, 0, 1)), 19, 42)),
                                         [] {
                                             gp_Trsf move;
                                             move.SetTranslation(gp_Vec(0, 50, 0));
                                             return move;
                                         }())
                                << 2.0 * M_PI * 20.0 * 42.0 << 2.0 * M_PI * 20.0;
    }
    void weldedPlatesAreJoinedAcrossParts() {
        QFETCH(TopoDS_Shape, rib);
        QFETCH(double, area);
        QFETCH(double, common);
        const TopoDS_Shape plate = profile({{-60, -4}, {60, -4}, {60, 0}, {-60, 0}});
        for (const bool turn : {false, true}) {
            Model model = welded({{"plate", plate}, {"rib", rib}}, turn);
            model.targetSize = 5.0;
            const auto sheets = run(model, "reduce.midsurface");
            QVERIFY2(sheets, said(sheets));
            const auto done = run(sheets->model, "reduce.joinSheets", {{"upTo", 3.0}});
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.parts.size(), std::size_t(2));
            for (const Item& item : done->items) QVERIFY2(item.done, sentence(item.problem).c_str());
            const Part &base = *done->model.parts[0], &grown = *done->model.parts[1];
            QVERIFY(isValid(base.shape) && isValid(grown.shape));
            QCOMPARE_NEAR(areaOf(base.shape), 12000.0, 1e-6);
            QCOMPARE_NEAR(areaOf(grown.shape), area, 1e-6 * area);
            QCOMPARE(grown.incidence().faceCount(), 1);  // grown itself, not patched
            QCOMPARE(grown.known.thickness.size(), std::size_t(1));
            QCOMPARE_NEAR(commonLength(done->model), common, 1e-6 * common);
        }
    }
    void aRibInACornerIsCarriedOnThere() {
        // A tray of floor and side wall, 4 and 2 thick, bent from one sheet; a rib of 2 stands in its corner.
        const TopoDS_Shape tray = profile({{0, 0}, {60, 0}, {60, 4}, {2, 4}, {2, 40}, {0, 40}}),
                           rib = moved(block(40, 2, 30), [] {
                               gp_Trsf move;
                               move.SetTranslation(gp_Vec(2, 50, 4));
                               return move;
                           }());
        Model model = welded({{"tray", tray}, {"rib", rib}}, false);
        model.targetSize = 5.0;
        const auto sheets = run(model, "reduce.midsurface");
        QVERIFY2(sheets, said(sheets));
        const auto done = run(sheets->model, "reduce.joinSheets");
        QVERIFY2(done, said(done));
        // From the middle of the wall to that of the floor: 1 and 2 more on two sides.
        QCOMPARE_NEAR(areaOf(done->model.parts[1]->shape), 41.0 * 32.0, 1e-6);
        QCOMPARE(done->model.parts[1]->incidence().faceCount(), 1);
        QCOMPARE_NEAR(commonLength(done->model), 41.0 + 32.0, 1e-6);
    }
    void sheetsAreCarriedOnWithinTheLimitAlone() {
        const TopoDS_Shape plate = profile({{-60, -4}, {60, -4}, {60, 0}, {-60, 0}}),
                           far = profile({{-1, 3}, {1, 3}, {1, 40}, {-1, 40}});
        Model model = welded({{"plate", plate}, {"rib", far}}, false);
        model.targetSize = 5.0;
        const auto sheets = run(model, "reduce.midsurface");
        QVERIFY2(sheets, said(sheets));
        const auto unasked = run(sheets->model, "reduce.joinSheets");  // half of 4 and the safe gap: 5 are beyond
        QVERIFY(!unasked);
        QCOMPARE(unasked.error().kind, ProblemKind::NothingToDo);
        const auto asked = run(sheets->model, "reduce.joinSheets", {{"upTo", 6.0}});
        QVERIFY2(asked, said(asked));
        QCOMPARE_NEAR(commonLength(asked->model), 100.0, 1e-6);
        const auto odd = run(sheets->model, "reduce.joinSheets", {{"upTo", -1.0}});
        QVERIFY(!odd);
        QCOMPARE(odd.error().kind, ProblemKind::BadInput);
    }
    void likeRibsStayCopies() {
        // Three places of one rib on one plate, and a fourth that stands beside it.
        Model model = welded({{"plate", profile({{-60, -4}, {60, -4}, {60, 0}, {-60, 0}})},
                              {"rib", profile({{-1, 0}, {1, 0}, {1, 40}, {-1, 40}})}},
                             false);
        model.targetSize = 5.0;
        for (const double x : {-30.0, 30.0, 200.0}) {
            Occurrence place = model.occurrences[1];
            place.placement.SetTranslation(gp_Vec(x, 0, 0));
            place.id = 0;
            model.occurrences.push_back(place);
        }
        model.giveIds();
        const auto sheets = run(model, "reduce.midsurface");
        QVERIFY2(sheets, said(sheets));
        const auto done = run(sheets->model, "reduce.joinSheets");
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(commonLength(done->model), 300.0, 1e-6);
        QCOMPARE_NEAR(areaOf(done->model.parts[done->model.occurrences[4].part]->shape), 4000.0, 1e-6);
        for (const std::size_t o : {1u, 2u, 3u})
            QCOMPARE_NEAR(areaOf(done->model.parts[done->model.occurrences[o].part]->shape), 4200.0, 1e-6);
        QVERIFY(!done->notes.empty());
    }
    void stepsInThicknessStayOneSheet_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<int>("faces");
        QTest::addColumn<double>("area");
        QTest::addColumn<double>("share");  // of the solid's volume
        const auto below = [](double a, double b) {
            return profile({{0, 0}, {60, 0}, {60, b}, {30, b}, {30, a}, {0, a}});
        };
        QTest::newRow("flush below, twice as thick") << below(1, 2) << 2 << 6000.0 << 1.0;
        QTest::newRow("flush below, a little thicker") << below(1, 1.3) << 2 << 6000.0 << 1.0;
        QTest::newRow("flush below, a tenth thicker") << below(2, 2.2) << 2 << 6000.0 << 1.0;
        QTest::newRow("about one middle")
            << profile({{0, 0.5}, {30, 0.5}, {30, 0}, {60, 0}, {60, 2}, {30, 2}, {30, 1.5}, {0, 1.5}}) << 2 << 6000.0
            << 1.0;
        QTest::newRow("three levels") << profile(
                                             {{0, 0}, {90, 0}, {90, 2}, {60, 2}, {60, 1.5}, {30, 1.5}, {30, 1}, {0, 1}})
                                      << 3 << 9000.0 << 1.0;
        QTest::newRow("a groove") << profile({{0, 0}, {90, 0}, {90, 2}, {60, 2}, {60, 1.2}, {30, 1.2}, {30, 2}, {0, 2}})
                                  << 3 << 9000.0 << 1.0;
        gp_Trsf to;
        to.SetTranslation(gp_Vec(30, 30, 2));
        QTest::newRow("a square pad") << fuse(block(100, 100, 2), moved(block(40, 40, 1), to)) << 2 << 10000.0 << 1.0;
        QTest::newRow("a round pad") << fuse(block(100, 100, 2), rod(gp_Ax1(gp_Pnt(50, 50, 1), gp_Dir(0, 0, 1)), 20, 2))
                                     << 2 << 10000.0 << 1.0;
        // A board that is nearly all pad, so that what is left beside it is a narrow frame; a can on a board, more than
        // twice as thick as that.
        gp_Trsf pad;
        pad.SetTranslation(gp_Vec(4, 4, 2));
        QTest::newRow("a narrow frame round a pad")
            << fuse(block(100, 100, 2), moved(block(92, 92, 1.5), pad)) << 2 << 10000.0 << 1.0;
        gp_Trsf can;
        can.SetTranslation(gp_Vec(5, 5, 1));
        QTest::newRow("a can on a board")
            << fuse(block(40, 40, 1), moved(block(30, 30, 1.1), can)) << 2 << 1600.0 << 1.0;
        // With a rib of 2 on the thick half, whose sheet reaches the common middle: what is in the plate counts twice.
        gp_Trsf rib;
        rib.SetTranslation(gp_Vec(44, 0, 0));
        QTest::newRow("a rib on the thicker half")
            << fuse(below(2, 3), moved(block(2, 100, 30), rib)) << 4 << 6000.0 + 2900.0
            << (2.0 * 3000 + 3.0 * 3000 + 2.0 * 2900) / 20400.0;
    }
    void stepsInThicknessStayOneSheet() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(int, faces);
        QFETCH(double, area);
        QFETCH(double, share);
        for (const TopoDS_Shape& placed : {body, moved(body, turned())}) {
            const Model model = modelOf(placed);
            const auto done = run(model, "reduce.midsurface");
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.parts.size(), std::size_t(1));
            const Part& sheet = *done->model.parts[0];
            QVERIFY(isValid(sheet.shape));
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            QCOMPARE(sheet.incidence().faceCount(), faces);
            QCOMPARE_NEAR(areaOf(sheet.shape), area, 1e-6 * area);
            double mass = 0.0;
            gp_XYZ moment(0, 0, 0);
            for (int f = 1; f <= faces; ++f) {
                const Thickness own = sheet.known.thickness.at({EntityKind::Face, f});
                const Skin skin = skinOf(sheet.incidence().face(f));
                mass += skin.area * own.at;
                // The offset leads from the sheet to the middle of the wall, along the face's normal.
                const TopoDS_Face face = sheet.incidence().face(f);
                const GeomAdaptor_Surface surface(BRep_Tool::Surface(face));
                gp_Pnt at;
                gp_Vec du, dv;
                surface.D1(0, 0, at, du, dv);
                gp_Vec normal = du.Crossed(dv).Normalized();
                if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
                moment += (skin.centre.XYZ() + normal.XYZ() * own.offset) * skin.area * own.at;
            }
            QCOMPARE_NEAR(mass, share * rasoir::volumeOf(body), 1e-6 * mass);
            // With the offsets the sheet's mass lies where the solid's does, but for the rib's foot.
            if (share == 1.0) {
                const BodyMoments solid = [&] {
                    FaceMoments sum;
                    const Incidence topology(placed);
                    for (int f = 1; f <= topology.faceCount(); ++f) sum.add(*momentsOf(topology.face(f), gp_Pnt()));
                    return bodyOf(sum, gp_Pnt());
                }();
                QVERIFY(gp_Pnt(moment / mass).Distance(solid.centre) < 1e-6);
            }
        }
    }
    void stepsAreBridged_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<QString>("steps");
        QTest::addColumn<int>("faces");
        QTest::addColumn<double>("area");
        const auto below = [](double thin, double thick) {
            return profile({{0, 0}, {90, 0}, {90, thick}, {50, thick}, {50, thin}, {0, thin}});
        };
        QTest::newRow("twice as thick") << below(1, 2) << "bridge" << 3 << 100.0 * (90.0 + 0.5);
        QTest::newRow("half as thick again") << below(2, 3) << "bridge" << 3 << 100.0 * (90.0 + 0.5);
        QTest::newRow("a little thicker") << below(1, 1.3) << "bridge" << 3 << 100.0 * (90.0 + 0.15);
        // No middle lies well within both, so that one sheet with an offset is none: bridged unasked.
        QTest::newRow("a jog")
            << profile({{0, 0}, {50, 0}, {50, 0.95}, {90, 0.95}, {90, 2.95}, {50, 2.95}, {50, 2}, {0, 2}}) << "offset"
            << 3 << 100.0 * (90.0 + 0.95);
        QTest::newRow("about one middle")
            << profile({{0, 0}, {40, 0}, {40, -0.5}, {90, -0.5}, {90, 1.5}, {40, 1.5}, {40, 1}, {0, 1}}) << "bridge"
            << 2 << 9000.0;
        QTest::newRow("a groove") << profile({{0, 0}, {90, 0}, {90, 2}, {60, 2}, {60, 1.2}, {30, 1.2}, {30, 2}, {0, 2}})
                                  << "bridge" << 5 << 100.0 * (90.0 + 2.0 * 0.4);
        QTest::newRow("a slope") << profile({{0, 0}, {90, 0}, {90, 3}, {52, 3}, {50, 2}, {0, 2}}) << "bridge" << 3
                                 << 100.0 * (90.0 + 0.5);
        gp_Trsf to;
        to.SetTranslation(gp_Vec(30, 30, 1.5));
        QTest::newRow("a square pad") << fuse(block(100, 100, 2), moved(block(40, 40, 1.5), to)) << "bridge" << 6
                                      << 10000.0 + 160.0 * 0.5;
        QTest::newRow("a round pad") << fuse(block(100, 100, 2),
                                             rod(gp_Ax1(gp_Pnt(50, 50, 1), gp_Dir(0, 0, 1)), 20, 2.5))
                                     << "bridge" << 3 << 10000.0 + 2.0 * M_PI * 20.0 * 0.75;
    }
    void stepsAreBridged() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(QString, steps);
        QFETCH(int, faces);
        QFETCH(double, area);
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const auto done = run(modelOf(moved(body, move)), "reduce.midsurface", {{"steps", steps.toStdString()}});
            QVERIFY2(done, said(done));
            const Part& part = *done->model.parts[0];
            QVERIFY(isValid(part.shape));
            QCOMPARE(part.incidence().faceCount(), faces);
            QCOMPARE_NEAR(areaOf(part.shape), area, 1e-6 * area);
            QCOMPARE(part.incidence().bodyCount(), 1);  // it hangs together
            QCOMPARE(part.known.thickness.size(), static_cast<std::size_t>(faces));
            for (const auto& [entity, own] : part.known.thickness) QCOMPARE_NEAR(own.offset, 0.0, 1e-9);
        }
        const auto odd = run(modelOf(body), "reduce.midsurface", {{"steps", "anyhow"}});
        QVERIFY(!odd);
    }
    void smallStepsAreMadeFlush() {
        // 4 and 3 thick on one bottom: the middles are half a millimetre apart.
        const Model model = modelOf(profile({{0, 0}, {120, 0}, {120, 3}, {70, 3}, {70, 4}, {0, 4}}), "stepped");
        const auto largest = [](const Model& of) {
            double most = 0.0;
            for (const auto& [key, value] : of.parts[0]->known.thickness) most = std::max(most, std::abs(value.offset));
            return most;
        };
        for (const auto& [upTo, left] : std::vector<std::pair<double, double>>{{0.0, 0.5}, {0.4, 0.5}, {0.5, 0.0}}) {
            const auto done = run(model, "reduce.midsurface", {{"flushUpTo", upTo}});
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.parts[0]->incidence().faceCount(), 2);
            QCOMPARE_NEAR(largest(done->model), left, 1e-9);
            QCOMPARE(done->notes.empty(), left > 0.0);
        }
        QVERIFY(!run(model, "reduce.midsurface", {{"flushUpTo", -1.0}}));
    }
    void sheetsThatStandForWallsAreNoDefects() {
        // A plate of two thicknesses with a rib across and a hole: the line of the step is no needless edge, the hole
        // no missing face, the rib no surplus one; and merging what is needless keeps both thicknesses.
        TopoDS_Shape body = fuse(block(100, 100, 2), moved(block(40, 100, 3), by(0, 0, 0)));
        body = fuse(body, moved(block(2, 100, 20), by(70, 0, 1)));
        body = cut(body, rod(gp_Ax1(gp_Pnt(20, 50, -1), gp_Dir(0, 0, 1)), 8, 10));
        const auto done = run(modelOf(body, "plate"), "reduce.midsurface");
        QVERIFY2(done, said(done));
        const Part& sheet = *done->model.parts[0];
        QVERIFY(standsForWalls(sheet));
        QVERIFY(jointsIn(sheet) >= 1);
        std::set<long> thick;
        for (const auto& [face, own] : sheet.known.thickness) thick.insert(std::lround(1e6 * own.at));
        QCOMPARE(thick.size(), std::size_t(2));
        survey::DefectLimits limits;
        limits.targetSize = 2.0;
        const auto report = survey::findDefects(sheet, limits, true, quietly());
        QVERIFY2(report, said(report));
        for (const auto& defect : report->defects)
            QVERIFY2(defect.kind == survey::DefectKind::Rim, defect.what.c_str());
        QVERIFY(!report->defects.empty());
        const auto merged = run(done->model, "mend.mergeFaces");
        const Part& after = merged ? *merged->model.parts[0] : sheet;
        QCOMPARE(after.incidence().faceCount(), sheet.incidence().faceCount());
        // The same sheet without its thicknesses has all of them.
        const Part bare("bare", sheet.shape);
        QVERIFY(!standsForWalls(bare));
        const auto found = survey::findDefects(bare, limits, true, quietly());
        QVERIFY2(found, said(found));
        std::set<survey::DefectKind> kinds;
        for (const auto& defect : found->defects) kinds.insert(defect.kind);
        QVERIFY(kinds.contains(survey::DefectKind::ManyFaces));
        QVERIFY(kinds.contains(survey::DefectKind::Opening));
    }
    void linesAtWhichPartsAreJoinedAreNoDefects() {
        // A rib shorter than its plate, as two parts: the plate is parted along its line and on to the outline.
        Model model = welded({{"plate", profile({{-60, -4}, {60, -4}, {60, 0}, {-60, 0}})},
                              {"rib", moved(block(2, 60, 30), by(-1, 20, 0))}},
                             false);
        model.targetSize = 5.0;
        const auto sheets = run(model, "reduce.midsurface");
        QVERIFY2(sheets, said(sheets));
        const auto joined = run(sheets->model, "reduce.joinSheets");
        QVERIFY2(joined, said(joined));
        QCOMPARE_NEAR(commonLength(joined->model), 60.0, 1e-6);
        std::vector<measure::Facts> facts;
        for (const auto& part : joined->model.parts) {
            survey::DefectLimits limits;
            limits.targetSize = 2.0;
            const auto report = survey::findDefects(*part, limits, true, quietly());
            QVERIFY2(report, said(report));
            for (const auto& defect : report->defects)
                QVERIFY2(defect.kind == survey::DefectKind::Rim, defect.what.c_str());
            facts.push_back(measure::factsOf(*part, 5.0, false));
        }
        // Merging what is needless leaves the line, and so the joint.
        const auto merged = run(joined->model, "mend.mergeFaces");
        QCOMPARE_NEAR(commonLength(merged ? merged->model : joined->model), 60.0, 1e-6);
        const auto received = survey::receivingReport(joined->model, facts, quietly());
        QVERIFY2(received, said(received));
        for (const auto& odd : received->odd) QVERIFY2(odd.kind != survey::Oddity::NotClosed, odd.what.c_str());
    }
    void ribsThatEndWithinAPlateLeaveNoLips_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<double>("area");
        QTest::addColumn<int>("joints");
        const auto at = [](double x, double y, double z, double dx, double dy, double dz) {
            gp_Trsf to;
            to.SetTranslation(gp_Vec(x, y, z));
            return moved(block(dx, dy, dz), to);
        };
        const TopoDS_Shape plate = block(100, 100, 2), rib = at(49, 20, 1, 2, 60, 21);
        QTest::newRow("a rib within") << fuse(plate, rib) << 10000.0 + 60.0 * 21.0 << 1;
        QTest::newRow("crossing ribs within")
            << fuse(fuse(plate, rib), at(20, 49, 1, 60, 2, 21)) << 10000.0 + 2.0 * 60.0 * 21.0 << 5;
        QTest::newRow("a rib that reaches a wall")
            << fuse(fuse(plate, at(0, 0, 0, 2, 100, 40)), at(1, 49, 1, 59, 2, 29)) << 9900.0 + 3900.0 + 59.0 * 29.0
            << 2;
    }
    void ribsThatEndWithinAPlateLeaveNoLips() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(double, area);
        QFETCH(int, joints);
        for (const TopoDS_Shape& placed : {body, moved(body, turned())}) {
            const auto done = run(modelOf(placed), "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QVERIFY(isValid(sheet.shape));
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            QCOMPARE_NEAR(areaOf(sheet.shape), area, 1e-6 * area);
            QCOMPARE(jointsIn(sheet), joints);
        }
    }
    void bentRibsReachThePlateTheyStandOn() {
        // A square tube with round corners stands on a plate: its walls run on into each other and end at the plate's
        // skin, and its sheet has to reach the plate's middle.
        gp_Trsf up;
        up.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), M_PI / 2);
        gp_Trsf to;
        to.SetTranslation(gp_Vec(30, 70, 0));
        const TopoDS_Shape body = fuse(block(100, 100, 2), moved(bentTube(), to * up));
        for (const TopoDS_Shape& placed : {body, moved(body, turned())}) {
            const auto done = run(modelOf(placed), "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QVERIFY(isValid(sheet.shape));
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            QCOMPARE(jointsIn(sheet), 8);
            QCOMPARE_NEAR(areaOf(sheet.shape), 10000.0 + 99.0 * (4.0 * 30.0 + 2.0 * M_PI * 4.0), 1e-6 * 20000.0);
        }
    }
    void freeformPanels_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<double>("thickness");
        QTest::addColumn<int>("faces");
        QTest::addColumn<int>("joints");
        QTest::newRow("one patch") << panel(2.0, 1) << 2.0 << 1 << 0;
        QTest::newRow("one thin patch") << panel(0.5, 1) << 0.5 << 1 << 0;
        QTest::newRow("four patches") << panel(2.0, 2) << 2.0 << 4 << 0;
        QTest::newRow("nine patches with a hole in one")
            << cut(panel(2.0, 3), rod(gp_Ax1(gp_Pnt(100, 60, -60), gp_Dir(0, 0, 1)), 10, 120)) << 2.0 << 9 << 0;
        QTest::newRow("with a hole across four")
            << cut(panel(2.0, 2), rod(gp_Ax1(gp_Pnt(100, 60, -60), gp_Dir(0, 0, 1)), 10, 120)) << 2.0 << 4 << 0;
    }
    void freeformPanels() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(double, thickness);
        QFETCH(int, faces);
        QFETCH(int, joints);
        QVERIFY(isValid(body));
        for (const TopoDS_Shape& placed : {body, moved(body, turned())}) {
            const auto done = run(modelOf(placed), "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QVERIFY(isValid(sheet.shape));
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            QCOMPARE(sheet.incidence().faceCount(), faces);
            QCOMPARE(jointsIn(sheet), joints);
            double mass = 0.0;
            for (int f = 1; f <= faces; ++f) {
                const Thickness own = sheet.known.thickness.at({EntityKind::Face, f});
                QCOMPARE_NEAR(own.at, thickness, 1e-3 * thickness);
                mass += areaOf(sheet.incidence().face(f)) * own.at;
            }
            // Of a shell about its middle, area times thickness is its volume but for a twelfth of t² K.
            QCOMPARE_NEAR(mass, rasoir::volumeOf(placed), 2e-3 * mass);
            // Every point of the sheet lies half a thickness from both skins.
            for (int f = 1; f <= faces; ++f)
                for (TopExp_Explorer edge(sheet.incidence().face(f), TopAbs_EDGE); edge.More(); edge.Next()) {
                    const BRepAdaptor_Curve curve(TopoDS::Edge(edge.Current()));
                    const gp_Pnt at = curve.Value(0.37 * curve.FirstParameter() + 0.63 * curve.LastParameter());
                    BRepExtrema_DistShapeShape distance(BRepBuilderAPI_MakeVertex(at).Shape(), placed);
                    QVERIFY(distance.Value() < 0.52 * thickness);
                }
        }
    }
    void solidsOfOnePartAreReducedEachByItself() {
        // A plate, a lump and an angle in one part, the plate's middle right through the lump.
        gp_Trsf beside, above;
        beside.SetTranslation(gp_Vec(150, 0, -13));
        above.SetTranslation(gp_Vec(0, 0, 50));
        TopoDS_Compound all;
        const BRep_Builder builder;
        builder.MakeCompound(all);
        for (const TopoDS_Shape& body : {block(100, 60, 4), moved(block(30, 30, 30), beside),
                                         moved(profile({{0, 0}, {40, 0}, {40, 2}, {2, 2}, {2, 30}, {0, 30}}), above)})
            builder.Add(all, body);
        for (const TopoDS_Shape& placed : {TopoDS_Shape(all), moved(all, turned())}) {
            Model model = modelOf(placed, "part");
            auto part = std::make_shared<Part>(*model.parts[0]);
            const Incidence& before = part->incidence();
            QCOMPARE(before.bodyCount(), 3);
            const auto colourOf = [](int face) { return Colour{0.01 * face, 0.5, 0.5}; };
            for (int f = 1; f <= before.faceCount(); ++f) part->known.colours[{EntityKind::Face, f}] = colourOf(f);
            model.parts[0] = part;
            const auto done = run(model, "reduce.midsurface");
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.parts.size(), std::size_t(2));
            const Part &sheet = *done->model.parts[0], &solid = *done->model.parts[1];
            QVERIFY(isValid(sheet.shape) && isValid(solid.shape));
            QCOMPARE(sheet.incidence().bodyCount(), 2);
            QCOMPARE(sheet.incidence().faceCount(), 3);
            QCOMPARE_NEAR(areaOf(sheet.shape), 6000.0 + 6800.0, 1e-6 * 12800.0);
            QCOMPARE(sheet.known.thickness.size(), std::size_t(3));
            QCOMPARE_NEAR(rasoir::volumeOf(solid.shape), 27000.0, 1e-9 * 27000.0);
            // Each face has the colour of what it comes from: by its place.
            for (int f = 1; f <= solid.incidence().faceCount(); ++f) {
                const gp_Pnt at = skinOf(solid.incidence().face(f)).centre;
                for (int g = 1; g <= before.faceCount(); ++g)
                    if (skinOf(before.face(g)).centre.Distance(at) < 1e-6)
                        QVERIFY(solid.known.colours.at({EntityKind::Face, f}) == colourOf(g));
            }
            for (int f = 1; f <= 3; ++f) {
                const double thick = sheet.known.thickness.at({EntityKind::Face, f}).at;
                QCOMPARE_NEAR(thick, areaOf(sheet.incidence().face(f)) > 5000.0 ? 4.0 : 2.0, 1e-9);
            }
        }
    }
    void aThickFieldWithARimIsOneSheetWithItsPlate() {
        // A plate of 1 with a field of 5.5 in it, whose rim of 2.5 stands half a millimetre higher and is no wall. The
        // middle of the plate ends at the rim's foot, and the field is laid on it with its offset.
        const TopoDS_Shape field =
            cut(moved(block(60, 40, 6), by(20, 15, 0)), moved(block(55, 35, 1), by(22.5, 17.5, 5.5)));
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const Model model = modelOf(moved(fuse(block(100, 70, 1), field), move));
            const auto done = run(model, "reduce.midsurface", {{"upTo", 5.6}, {"doubtful", true}});
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.parts.size(), std::size_t(1));
            const Part& sheet = *done->model.parts.front();
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            double plate = 0.0, thick = 0.0;
            for (int f = 1; f <= sheet.incidence().faceCount(); ++f) {
                const Thickness& own = sheet.known.thickness.at({EntityKind::Face, f});
                (own.at > 2.0 ? thick : plate) += areaOf(sheet.incidence().face(f));
                if (own.at > 2.0) QCOMPARE_NEAR(std::abs(own.offset), 2.25, 1e-6);
            }
            // The strip under the rim goes with either.
            QVERIFY(thick > 55.0 * 35.0 - 1e-3 && thick < 60.0 * 40.0 + 1e-3);
            QCOMPARE_NEAR(plate + thick, 7000.0, 1e-3);
        }
    }
    void lappedPlatesStayTwoSheetsAndAreTied() {
        // Two plates of 3 and 2 that lap over 20, and a rib of 2 that stands on the first: it ends there.
        Model model = withBodies(
            {block(100, 60, 3), moved(block(100, 60, 2), by(80, 0, 3)), moved(block(60, 2, 30), by(5, 30, 3))});
        const auto done = run(model, "reduce.midsurface");
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(1));
        const Pairing& link = done->model.pairings.front();
        QCOMPARE(link.kind, PairingKind::Link);
        QCOMPARE(link.name, std::string("body 1 laps body 2"));
        for (const std::string& name : {link.first, link.second}) {
            const auto group = std::find_if(done->model.groups.begin(), done->model.groups.end(),
                                            [&name](const Group& one) { return one.name == name; });
            QVERIFY(group != done->model.groups.end());
            QCOMPARE(group->members.size(), std::size_t(1));
        }
        const auto alone = run(model, "reduce.midsurface", {{"laps", false}});
        QVERIFY2(alone, said(alone));
        QVERIFY(alone->model.pairings.empty());
    }
    void aLeafThatLeansOnAWallIsTied() {
        // By 13 degrees: its middle would meet the wall's 12 mm farther down, where the leaf is not. Two places of it.
        BRepBuilderAPI_MakePolygon outline;
        for (const auto& [x, z] : std::vector<std::pair<double, double>>{
                 {2.5, 15}, {3.4, 15}, {3.4, 20}, {9, 45}, {8.6, 45}, {3, 20}, {2.5, 20}})
            outline.Add(gp_Pnt(x, 25, z));
        outline.Close();
        const TopoDS_Shape leaf =
            BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(outline.Wire()).Face(), gp_Vec(0, 10, 0)).Shape();
        Model model = modelOf(fuse(block(3, 60, 60), leaf), "wall");
        model.occurrences.push_back(model.occurrences[0]);
        Occurrence& second = model.occurrences.change(1);
        second.id = 0;
        second.name = "other wall";
        second.placement = turned();
        model.giveIds();
        const auto done = run(model, "reduce.midsurface");
        QVERIFY2(done, said(done));
        const Part& sheet = *done->model.parts[0];
        QCOMPARE(sheet.incidence().bodyCount(), 2);
        QCOMPARE(done->model.pairings.size(), std::size_t(2));
        std::set<PlaceId> places;
        for (const Pairing& link : done->model.pairings) {
            QCOMPARE(static_cast<int>(link.kind), static_cast<int>(PairingKind::Link));
            for (const Group& group : done->model.groups)
                for (const auto& member : group.members) {
                    if (group.name == link.first) {
                        QCOMPARE(static_cast<int>(member.entity.kind), static_cast<int>(EntityKind::Edge));
                        QCOMPARE_NEAR(lengthOf(sheet.incidence().edge(member.entity.number)), 10.0, 1e-9);
                        places.insert(member.place);
                    } else if (group.name == link.second) {
                        QCOMPARE_NEAR(areaOf(sheet.incidence().face(member.entity.number)), 60.0 * 60, 1e-6);
                    }
                }
        }
        QCOMPARE(places.size(), std::size_t(2));
        const auto untied = run(model, "reduce.midsurface", {{"laps", false}});
        QVERIFY2(untied, said(untied));
        QVERIFY(untied->model.pairings.empty());
        // Plates of one part that touch nobody are not loose, they are two.
        const auto apart = run(modelOf(gathered({block(3, 60, 60), moved(block(3, 60, 60), by(3.1, 0, 0))}), "two"),
                               "reduce.midsurface");
        QVERIFY2(apart, said(apart));
        QVERIFY(apart->model.pairings.empty());
    }
    void proofOfWhatIsExact() {
        const std::vector<TopoDS_Shape> bodies{block(100, 60, 4), moved(block(100, 60, 4), turned())};
        for (const TopoDS_Shape& placed : bodies) {
            const auto proof = proven(placed, Json::object());
            QVERIFY2(proof, said(proof));
            QCOMPARE_NEAR(proof->drawnVolume, proof->solidVolume, 1e-6);
            QVERIFY(proof->centreShift < 1e-6);
            QVERIFY(proof->largestMoment < 1e-6);
            QCOMPARE_NEAR(proof->covered, 12000.0 / (12000.0 + 1280.0), 1e-6);  // all but the rims
            QVERIFY(proof->left.by < 1e-3);
            QVERIFY(proof->beyond.by == 0.0 && proof->thickness.by < 1e-3);
            QVERIFY(std::none_of(proof->reachesOut.begin(), proof->reachesOut.end(), [](bool out) { return out; }));
            QCOMPARE(proof->pieces, 1);
            // Cut askew, the ends of a strip are drawn square.
            const double exact = &placed == &bodies.front() ? 1e-6 : 0.02;
            for (const Station& station : proof->stations) {
                QCOMPARE_NEAR(station.drawn.area, station.solid.area, exact * station.solid.area);
                QCOMPARE_NEAR(station.drawn.largest, station.solid.largest, exact * station.solid.largest);
                QCOMPARE_NEAR(station.drawn.least, station.solid.least, exact * station.solid.least);
            }
            QCOMPARE(proof->freeEdges, 4);
            QCOMPARE_NEAR(proof->freeLength, 320.0, 1e-6);
        }
    }
    void proofOfCornersAndSteps() {
        // The outer corner of an L of 2 lies at the square root of two from the mitre, and is not drawn.
        const TopoDS_Shape corner = profile({{0, 0}, {40, 0}, {40, 2}, {2, 2}, {2, 30}, {0, 30}});
        const auto l = proven(corner, Json::object());
        QVERIFY2(l, said(l));
        QCOMPARE(l->stations.size(), std::size_t(5));
        // In the mitre nothing is counted twice and nothing is left out of the area.
        for (const Station& station : l->stations)
            QCOMPARE_NEAR(station.drawn.area, station.solid.area, 1e-6 * station.solid.area);
        QCOMPARE_NEAR(l->drawnVolume, l->solidVolume, 1e-6);
        QVERIFY(l->left.by > 0.7 && l->left.by < 1.45);
        QVERIFY(l->left.at.Distance(gp_Pnt(0, l->left.at.Y(), 0)) < 1.5);
        QVERIFY(l->beyond.by == 0.0);
        // Over a step with an offset all of both skins is drawn where it is, and the centre stays.
        const auto step = proven(profile({{0, 0}, {60, 0}, {60, 3}, {30, 3}, {30, 2}, {0, 2}}), Json::object());
        QVERIFY2(step, said(step));
        QVERIFY(step->centreShift < 1e-6);
        QVERIFY(step->left.by < 1e-3);
        QCOMPARE_NEAR(step->covered, 12000.0 / (12000.0 + 100.0 + 300.0 + 200.0 + 2.0 * 150.0), 2e-3);
    }
    void proofTellsWhereTheVolumeDiffers() {
        // A T: the web's lower half thickness lies in the flange. An L: a quarter of the corner is in both, as much of
        // it in none. A box tube's four corners alike; a plate has none.
        struct Known {
            TopoDS_Shape body;
            double twice, missing;
            std::size_t walls;
        };
        for (const Known& known :
             {Known{profile({{0, 0}, {40, 0}, {40, 2}, {21, 2}, {21, 32}, {19, 32}, {19, 2}, {0, 2}}), 200.0, 0.0, 2},
              {profile({{0, 0}, {40, 0}, {40, 2}, {2, 2}, {2, 30}, {0, 30}}), 100.0, 100.0, 2},
              {cut(block(40, 100, 30), moved(block(36, 100, 26), by(2, 0, 2))), 400.0, 400.0, 4},
              {block(100, 60, 4), 0.0, 0.0, 1}}) {
            const auto proof = proven(known.body, Json::object());
            QVERIFY2(proof, said(proof));
            QCOMPARE_NEAR(proof->twice, known.twice, 1e-6);
            QCOMPARE_NEAR(proof->solidVolume - (proof->drawnVolume - proof->twice), known.missing, 1e-6);
            QCOMPARE(proof->walls.size(), known.walls);
            for (const WallProof& wall : proof->walls) {
                QVERIFY(wall.covered > 0.85);  // all but what is beside the joints
                QCOMPARE_NEAR(wall.off.by, 0.0, 1e-6);
            }
            const std::string first = proofLines(*proof).front();
            QCOMPARE(first.find("where they meet") != std::string::npos, known.twice > 0.0);
            QCOMPARE(first.find("are not drawn") != std::string::npos, known.missing > 0.0);
        }
    }
    void proofFindsWhatIsMissingAndWrong() {
        // A web that was left out, and a thickness that was set wrong.
        const TopoDS_Shape tee = profile({{0, 0}, {40, 0}, {40, 2}, {21, 2}, {21, 32}, {19, 32}, {19, 2}, {0, 2}});
        Model model = modelOf(tee, "body");
        const auto walls = findWalls(*model.parts[0], 0.0, 5.0, quietly());
        QVERIFY2(walls, said(walls));
        StandIn one{model.parts[0], {0}};
        Model reduced = run(model, "reduce.midsurface", {{"upTo", 5.0}})->model;
        const auto whole = proofOf(reduced, one, quietly());
        QVERIFY2(whole, said(whole));
        QVERIFY2(whole->left.by < 0.1 && whole->thickness.by < 1e-3, proofLines(*whole)[3].c_str());
        auto without = std::make_shared<Part>(*reduced.parts[0]);
        auto thick = std::make_shared<Part>(*reduced.parts[0]);
        for (int f = 1; f <= 3; ++f)
            if (std::abs(areaOf(reduced.parts[0]->incidence().face(f)) - 3100.0) < 1.0) {
                BRep_Builder builder;
                TopoDS_Shell rest;
                builder.MakeShell(rest);
                for (int g = 1; g <= 3; ++g)
                    if (g != f) builder.Add(rest, reduced.parts[0]->incidence().face(g));
                without->setShape(rest);
                const Incidence left(rest);
                without->known.thickness.clear();
                for (int g = 1; g <= 2; ++g) without->known.thickness[{EntityKind::Face, g}].at = 2.0;
                thick->known.thickness.at({EntityKind::Face, f}).at = 2.5;
            }
        Model lacking = reduced, wrong = reduced;
        lacking.parts[0] = without;
        wrong.parts[0] = thick;
        const auto less = proofOf(lacking, one, quietly());
        QVERIFY2(less, said(less));
        QVERIFY(less->left.by > 28.0 && less->left.by < 31.0);
        QVERIFY(less->covered < 0.65 * whole->covered);
        const auto more = proofOf(wrong, one, quietly());
        QVERIFY2(more, said(more));
        QCOMPARE_NEAR(more->thickness.by, 0.5, 1e-3);
        QVERIFY(more->beyond.by > 0.2);
        QVERIFY(std::count(more->reachesOut.begin(), more->reachesOut.end(), true) > 0);
    }
    void whatOtherMiddlesCrossStaysOneFace_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<int>("faces");
        QTest::addColumn<double>("area");
        const auto at = [](double x, double y, double z, double dx, double dy, double dz) {
            gp_Trsf to;
            to.SetTranslation(gp_Vec(x, y, z));
            return moved(block(dx, dy, dz), to);
        };
        const TopoDS_Shape plate = block(100, 60, 2);
        // The middle of a tab along half of an edge is carried on over the other half as well.
        QTest::newRow("a tab") << fuse(plate, at(0, 0, 0, 2, 30, 30)) << 2 << 6000.0 - 30.0 + 29.0 * 30.0;
        QTest::newRow("tabs on two edges") << fuse(fuse(plate, at(0, 0, 0, 2, 30, 30)), at(60, 58, 0, 40, 2, 30)) << 3
                                           << 6000.0 - 30.0 - 40.0 + 29.0 * 70.0;
        // Each rib parts the plate where it stands; beyond its end it must not, but for what keeps the joint an edge.
        QTest::newRow("a rib from edge to edge") << fuse(plate, at(49, 0, 1, 2, 60, 21)) << 3 << 6000.0 + 60.0 * 21.0;
        QTest::newRow("a rib within") << fuse(plate, at(49, 20, 1, 2, 20, 21)) << 3 << 6000.0 + 20.0 * 21.0;
        // A bore is let in where one of those lines ran: its rim is two edges no more.
        QTest::newRow("a bore beside a tab")
            << cut(fuse(plate, at(30, 0, 0, 2, 20, 30)), rod(gp_Ax1(gp_Pnt(31, 45, -1), gp_Dir(0, 0, 1)), 8, 5)) << 3
            << 6000.0 - 64.0 * M_PI + 29.0 * 20.0;
    }
    void whatOtherMiddlesCrossStaysOneFace() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(int, faces);
        QFETCH(double, area);
        for (const TopoDS_Shape& placed : {body, moved(body, turned())}) {
            const auto done = run(modelOf(placed), "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QVERIFY(isValid(sheet.shape));
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            QCOMPARE_NEAR(areaOf(sheet.shape), area, 1e-6 * area);
            QCOMPARE(sheet.incidence().faceCount(), faces);
        }
    }
    void roundedAndSlopingStepsStayOneSheet() {
        const auto roundedAt = [](const TopoDS_Shape& body, double radius, const std::vector<double>& heights) {
            BRepFilletAPI_MakeFillet fillet(body);
            const Incidence topology(body);
            for (int e = 1; e <= topology.edgeCount(); ++e) {
                const BRepAdaptor_Curve curve(topology.edge(e));
                const gp_Pnt at = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
                for (const double height : heights)
                    if (at.Distance(gp_Pnt(30, at.Y(), height)) < 1e-6 && std::abs(at.Y() - 50.0) < 1e-6)
                        fillet.Add(radius, topology.edge(e));
            }
            fillet.Build();
            return fillet.Shape();
        };
        const TopoDS_Shape stepped = profile({{0, 0}, {60, 0}, {60, 2}, {30, 2}, {30, 1}, {0, 1}});
        for (const TopoDS_Shape& body : {roundedAt(stepped, 0.5, {1.0}), roundedAt(stepped, 0.4, {1.0, 2.0}),
                                         profile({{0, 0}, {60, 0}, {60, 1.8}, {32, 1.8}, {30, 1}, {0, 1}})}) {
            QVERIFY(isValid(body));
            const Model model = modelOf(body);
            const auto done = run(model, "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            QCOMPARE(sheet.incidence().faceCount(), 2);
            QCOMPARE_NEAR(areaOf(sheet.shape), 6000.0, 1e-3);
            double mass = 0.0;
            for (int f = 1; f <= 2; ++f)
                mass += areaOf(sheet.incidence().face(f)) * sheet.known.thickness.at({EntityKind::Face, f}).at;
            QCOMPARE_NEAR(mass, rasoir::volumeOf(body), 0.012 * mass);
        }
    }
    void lumpsHangOnWhatHeldThem() {
        gp_Trsf up;
        up.SetTranslation(gp_Vec(5, 5, 20));
        const Model model = welded({{"frame", block(20, 20, 20)}, {"weight", moved(block(10, 10, 10), up)}}, false);
        const auto done = run(model, "reduce.lump", {{"parts", {"weight"}}});
        QVERIFY2(done, said(done));
        const Part& weight = *done->model.parts[1];
        QVERIFY(weight.lump.has_value());
        QCOMPARE_NEAR(weight.lump->mass, 1000.0 * 7850e-9, 1e-9);
        QCOMPARE_NEAR(weight.lump->centre.Z(), 25.0, 1e-9);
        QCOMPARE(done->model.pairings.size(), std::size_t(1));
        QCOMPARE(done->model.pairings[0].behaviour, std::string("rigid"));
        const auto held = std::find_if(done->model.groups.begin(), done->model.groups.end(),
                                       [](const Group& group) { return group.name == "weight, held here"; });
        QVERIFY(held != done->model.groups.end());
        QCOMPARE(held->members.size(), std::size_t(1));
        QCOMPARE(held->members.begin()->part, done->model.parts[0]->id);
        QCOMPARE_NEAR(skinOf(done->model.parts[0]->incidence().face(held->members.begin()->entity.number)).centre.Z(),
                      20.0, 1e-9);
        up.SetTranslation(gp_Vec(100, 0, 0));
        const auto free = run(welded({{"frame", block(20, 20, 20)}, {"weight", moved(block(10, 10, 10), up)}}, false),
                              "reduce.lump", {{"parts", {"weight"}}});
        QVERIFY2(free, said(free));
        QVERIFY(free->model.pairings.empty() && !free->notes.empty());
        for (const Json& bad : {Json::object(), Json{{"parts", {"nobody"}}}}) QVERIFY(!run(model, "reduce.lump", bad));
    }
    void lumpsAreNotWalls() {
        const auto thick = run(modelOf(block(30, 30, 20), "block"), "reduce.midsurface");
        QVERIFY(!thick);
        QCOMPARE(thick.error().kind, ProblemKind::NothingToDo);
        const auto named = run(modelOf(block(30, 30, 20), "block"), "reduce.midsurface", {{"parts", {"block"}}});
        QVERIFY(!named);
        QCOMPARE(named.error().kind, ProblemKind::NotPossible);
        for (const Json& bad : {Json{{"from", 3.0}, {"upTo", 2.0}}, Json{{"upTo", -1.0}}, Json{{"upTo", 1e-12}}}) {
            const auto refused = run(modelOf(block(100, 60, 4), "plate"), "reduce.midsurface", bad);
            QVERIFY(!refused);
            QCOMPARE(refused.error().kind, ProblemKind::BadInput);
        }
    }
    void whatMakesNoWallIsTold() {
        // A plate with a boss: its top and its side make no wall, all else does or ends one.
        const TopoDS_Shape bossed =
            fuse(block(120, 80, 2), moved(rod(gp_Ax1(gp_Pnt(0, 0, 1), gp_Dir(0, 0, 1)), 12, 29), by(60, 40, 0)));
        const Model model = modelOf(bossed, "plate");
        const auto walls = findWalls(*model.parts[0], 0.0, 0.0, quietly());
        QVERIFY2(walls, said(walls));
        const auto left = facesWithoutWall(*model.parts[0], *walls);
        QCOMPARE(left.size(), std::size_t(2));
        QCOMPARE_NEAR(left[0].area, 2.0 * M_PI * 12.0 * 28.0, 1e-3);
        QCOMPARE_NEAR(left[1].area, M_PI * 144.0, 1e-3);
        for (const FaceWithoutWall& face : left) QVERIFY(!face.why.empty());
        const Model tee = modelOf(profile({{0, 0}, {40, 0}, {40, 2}, {21, 2}, {21, 32}, {19, 32}, {19, 2}, {0, 2}}));
        const auto all = findWalls(*tee.parts[0], 0.0, 0.0, quietly());
        QVERIFY(all && facesWithoutWall(*tee.parts[0], *all).empty());
    }
    void doubtfulWallsAreListedAndNotTaken() {
        const Model model = modelOf(block(60, 14, 4), "bar");
        const auto walls = findWalls(*model.parts[0], 0.0, 5.0, quietly());
        QVERIFY(walls && walls->size() == 1);
        QCOMPARE(walls->front().slenderness, Slenderness::Doubtful);
        QVERIFY(!run(model, "reduce.midsurface", {{"upTo", 5.0}}));
        const auto taken = run(model, "reduce.midsurface", {{"upTo", 5.0}, {"doubtful", true}});
        QVERIFY2(taken, said(taken));
        QCOMPARE_NEAR(areaOf(taken->model.parts[0]->shape), 60.0 * 14.0, 1e-9);
    }
    void holesDoNotMakeAPlateNarrow() {
        // A sheet of 100 by 60, two thick, punched full of holes: without them its outline would be four times as long.
        TopoDS_Shape sheet = block(100, 60, 2);
        for (int i = 0; i < 9; ++i)
            for (int k = 0; k < 5; ++k)
                sheet = cut(sheet, rod(gp_Ax1(gp_Pnt(10 + 10.0 * i, 10 + 10.0 * k, -1), gp_Dir(0, 0, 1)), 4, 4));
        const auto walls = findWalls(*modelOf(sheet).parts[0], 0.0, 3.0, quietly());
        QVERIFY(walls && walls->size() == 1);
        QCOMPARE(walls->front().slenderness, Slenderness::Thin);
        // A frame is as narrow as its sides.
        const TopoDS_Shape frame = cut(block(100, 60, 2), moved(block(88, 48, 4), [] {
                                           gp_Trsf move;
                                           move.SetTranslation(gp_Vec(6, 6, -1));
                                           return move;
                                       }()));
        const auto sides = findWalls(*modelOf(frame).parts[0], 0.0, 3.0, quietly());
        QVERIFY(sides && sides->size() == 1);
        QVERIFY(sides->front().slenderness != Slenderness::Thin);
    }
    void wallsThatOthersHoldAreAsThinAsThose() {
        // An egg crate: cells of 10 with walls of 1.8; each wall by itself is more than a tenth as thick as it is
        // broad.
        TopoDS_Shape crate = block(52, 52, 40);
        for (int i = 0; i < 4; ++i)
            for (int k = 0; k < 4; ++k)
                crate = cut(crate, moved(block(10, 10, 60), [&] {
                                gp_Trsf move;
                                move.SetTranslation(gp_Vec(2.4 + 12.4 * i, 2.4 + 12.4 * k, -10));
                                return move;
                            }()));
        const auto walls = findWalls(*modelOf(crate).parts[0], 0.0, 3.0, quietly());
        QVERIFY(walls);
        QVERIFY(walls->size() >= 10);
        for (const Wall& wall : *walls) QVERIFY(wall.slenderness != Slenderness::Thick);
        const auto done = run(modelOf(crate), "reduce.midsurface", {{"upTo", 3.0}});
        QVERIFY2(done, said(done));
        // Five planes each way, 49.6 long between the outer ones' middles, 40 tall.
        QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 10 * 49.6 * 40, 1e-6);
        QCOMPARE(jointsIn(*done->model.parts[0]), 21);  // 25 crossings, but for the four corners
    }
    void theWebOfAShortBracketComesAlong() {
        // A U of 3 with legs of 60 and a web of 26: the web by itself is doubtful.
        const TopoDS_Shape bracket =
            profile({{0, 0}, {26, 0}, {26, 60}, {23, 60}, {23, 3}, {3, 3}, {3, 60}, {0, 60}}, 60.0);
        const auto done = run(modelOf(bracket), "reduce.midsurface");
        QVERIFY2(done, said(done));
        QCOMPARE(static_cast<int>(done->model.parts[0]->kind()), static_cast<int>(BodyKind::Sheet));
        QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 60.0 * (23.0 + 58.5 + 58.5), 1e-6);
    }
    void aKnobDoesNotMakeAWallASolid() {
        // A plate on which fins stand, and a lump of twice its thickness in a corner: plate and fins become sheets.
        TopoDS_Shape body = block(100, 100, 3);
        body = fuse(body, moved(block(12, 12, 7), [] {
                        gp_Trsf move;
                        move.SetTranslation(gp_Vec(0, 0, 3));
                        return move;
                    }()));
        for (int i = 0; i < 3; ++i)
            body = fuse(body, moved(block(100, 0.5, 20), [i] {
                            gp_Trsf move;
                            move.SetTranslation(gp_Vec(0, 40 + 20.0 * i, 3));
                            return move;
                        }()));
        const auto done = run(modelOf(body), "reduce.midsurface");
        QVERIFY2(done, said(done));
        double area = 0.0, solid = 0.0;
        for (const auto& part : done->model.parts) {
            if (part->kind() == BodyKind::Sheet)
                area += areaOf(part->shape);
            else
                solid += rasoir::volumeOf(part->shape);
        }
        QVERIFY2(area > 10000.0 - 144.0 + 3 * 100 * 20 - 1.0, qPrintable(QString::number(area)));
        QVERIFY2(solid < 12 * 12 * 10 + 1.0, qPrintable(QString::number(solid)));
    }

    void aTaperedRibKeepsItsDraft() {
        // 100 long, 40 high, 3 thick at the top and 5 at its foot: a degree and a half on either side.
        const TopoDS_Shape rib = profile({{-2.5, 0}, {2.5, 0}, {1.5, 40}, {-1.5, 40}});
        for (const bool turn : {false, true}) {
            const TopoDS_Shape shape = turn ? moved(rib, turned()) : rib;
            const auto done = run(modelOf(shape), "reduce.midsurface");
            QVERIFY2(done, said(done));
            const Part& sheet = *done->model.parts[0];
            QCOMPARE(sheet.incidence().faceCount(), 1);
            QCOMPARE_NEAR(areaOf(sheet.shape), 4000.0, 1e-6);
            const Thickness& thickness = sheet.known.thickness.at({EntityKind::Face, 1});
            const auto at = [&](double z) {
                gp_Pnt point(0, 50, z);
                if (turn) point.Transform(turned());
                return thickness.at + thickness.gradient.Dot(gp_Vec(thickness.from, point));
            };
            QCOMPARE_NEAR(at(0), 5.0, 1e-6);
            QCOMPARE_NEAR(at(40), 3.0, 1e-6);
            QCOMPARE_NEAR(thickness.at * areaOf(sheet.shape), volumeOf(shape), 1e-4);
        }
        // A wedge is no wall, and planes that lean by more than ten degrees are none either.
        for (const auto& outline : {std::vector<std::pair<double, double>>{{-2, 0}, {2, 0}, {0.1, 40}, {-0.1, 40}},
                                    std::vector<std::pair<double, double>>{{-6, 0}, {6, 0}, {1.5, 40}, {-1.5, 40}}})
            QVERIFY(!run(modelOf(profile(outline)), "reduce.midsurface"));
    }
    void draftedRibsStandOnTheirPlate() {
        // A plate of 3 with a rib on it that tapers from 3 to 2: two sheets that share the line where they meet.
        const TopoDS_Shape tee =
            profile({{-50, 0}, {50, 0}, {50, 3}, {1.5, 3}, {1.0, 33}, {-1.0, 33}, {-1.5, 3}, {-50, 3}});
        const auto done = run(modelOf(tee), "reduce.midsurface");
        QVERIFY2(done, said(done));
        const Part& sheet = *done->model.parts[0];
        QCOMPARE(jointsIn(sheet), 1);
        QCOMPARE_NEAR(areaOf(sheet.shape), 100.0 * 100 + 31.5 * 100, 1e-4);
    }
};

static Registered<ReduceTest> reduceTest;

}  // namespace rasoir::test

#include "reduce_test.moc"
