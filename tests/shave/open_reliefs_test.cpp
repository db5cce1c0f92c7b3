// Notches and ribs that are open to a side: found with their sizes, removed, and the bare body is back; the body's own
// shape is neither.
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "geometry/edge_probe.h"
#include "model/reference.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/reliefs.h"

namespace rasoir::test {

using survey::Relief;
using survey::ReliefKind;

class OpenReliefsTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape box(double x0, double y0, double z0, double x1, double y1, double z1) {
        gp_Trsf to;
        to.SetTranslation(gp_Vec(x0, y0, z0));
        return moved(block(x1 - x0, y1 - y0, z1 - z0), to);
    }
    static TopoDS_Shape plate() { return box(0, 0, 0, 100, 60, 30); }
    static TopoDS_Shape angle() { return cut(plate(), box(30, -1, 10, 101, 61, 31)); }
    /// Radius and height of its outline, corner by corner, turned about z.
    static TopoDS_Shape turnedPart(const std::vector<std::array<double, 2>>& outline) {
        BRepBuilderAPI_MakePolygon polygon;
        for (const auto& [radius, height] : outline) polygon.Add(gp_Pnt(radius, 0, height));
        polygon.Close();
        return BRepPrimAPI_MakeRevol(BRepBuilderAPI_MakeFace(polygon.Wire(), true).Face(), gp_Ax1()).Shape();
    }
    static std::vector<Relief> openOnes(const Model& model) {
        std::vector<Relief> some;
        const auto holes = survey::findHoles(*model.parts[0], model.targetSize, {}, quietly());
        const auto found = survey::findReliefs(*model.parts[0], model.targetSize, *holes, quietly());
        if (found)
            for (const Relief& relief : *found)
                if (relief.kind == ReliefKind::Notch || relief.kind == ReliefKind::Rib) some.push_back(relief);
        return some;
    }
    static Model modelWith(const TopoDS_Shape& shape, double targetSize) {
        Model model = modelOf(shape);
        model.targetSize = targetSize;
        return model;
    }

private slots:
    void theyAreFoundAndGo_data() {
        QTest::addColumn<TopoDS_Shape>("bare");
        QTest::addColumn<TopoDS_Shape>("made");
        QTest::addColumn<bool>("raised");
        QTest::addColumn<double>("least");
        QTest::addColumn<double>("longest");
        QTest::newRow("step at an edge") << plate() << cut(plate(), box(97, -1, 26, 101, 61, 31)) << false << 3.0
                                         << 60.0;
        QTest::newRow("notch right through")
            << plate() << cut(plate(), box(94, 20, -1, 101, 25, 31)) << false << 5.0 << 30.0;
        QTest::newRow("pocket open to a side")
            << plate() << cut(plate(), box(90, 20, 20, 101, 28, 31)) << false << 8.0 << 10.0;
        QTest::newRow("at a corner") << plate() << cut(plate(), box(92, 55, 24, 101, 61, 31)) << false << 5.0 << 8.0;
        QTest::newRow("groove across") << plate() << cut(plate(), box(40, -1, 27, 44, 61, 31)) << false << 3.0 << 60.0;
        QTest::newRow("half a hole") << plate()
                                     << cut(plate(), rod(gp_Ax1(gp_Pnt(100, 30, -1), gp_Dir(0, 0, 1)), 4, 40)) << false
                                     << 4.0 << 30.0;
        QTest::newRow("keyway with a round end")
            << plate()
            << cut(cut(plate(), box(80, 26, 27, 101, 34, 31)), rod(gp_Ax1(gp_Pnt(80, 30, 27), gp_Dir(0, 0, 1)), 4, 10))
            << false << 3.0 << 24.0;
        QTest::newRow("groove round a shaft")
            << rod(gp_Ax1(), 20, 80)
            << cut(rod(gp_Ax1(), 20, 80), cut(rod(gp_Ax1(gp_Pnt(0, 0, 30), gp_Dir(0, 0, 1)), 30, 3),
                                              rod(gp_Ax1(gp_Pnt(0, 0, 29), gp_Dir(0, 0, 1)), 18, 5)))
            << false << 3.0 << 40.0;
        QTest::newRow("groove in a cone")
            << coneOf(gp_Ax1(), 20, 14, 80)
            << cut(coneOf(gp_Ax1(), 20, 14, 80), cut(rod(gp_Ax1(gp_Pnt(0, 0, 40), gp_Dir(0, 0, 1)), 30, 3),
                                                     rod(gp_Ax1(gp_Pnt(0, 0, 39), gp_Dir(0, 0, 1)), 15, 5)))
            << false << 3.0 << 34.0;
        QTest::newRow("rib") << angle() << fuse(angle(), box(25, 28, 9, 40, 32, 18)) << true << 4.0 << 10.0;
        QTest::newRow("gusset") << angle()
                                << fuse(angle(), cut(box(25, 28, 9, 42, 32, 22),
                                                     [] {
                                                         gp_Trsf to;
                                                         to.SetRotation(gp_Ax1(gp_Pnt(42, 0, 10), gp_Dir(0, 1, 0)),
                                                                        -M_PI_4);
                                                         return moved(box(42, 0, 10, 80, 60, 60), to);
                                                     }()))
                                << true << 4.0 << 12.0 * std::sqrt(2.0);  // along its slope
    }
    void theyAreFoundAndGo() {
        QFETCH(TopoDS_Shape, bare);
        QFETCH(TopoDS_Shape, made);
        QFETCH(bool, raised);
        QFETCH(double, least);
        QFETCH(double, longest);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, -2, 2)), 0.8);
        for (const double scale : {1.0, 0.001, 1000.0}) {
            const Model model = modelWith(scaledBy(scale == 1.0 ? made : moved(made, turn), scale), 4.0 * scale);
            const auto found = openOnes(model);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(found[0].raised, raised);
            QCOMPARE_NEAR(found[0].size(), least * scale, 1e-2 * least * scale);
            QCOMPARE_NEAR(found[0].sides[2], longest * scale, 1e-2 * longest * scale);
            const std::string kind = survey::reliefKindName(found[0].kind);
            const auto none = findOperation("shave.removeReliefs")
                                  ->run(model, {{"upTo", 0.9 * least * scale}, {"kinds", {kind}}}, quietly());
            QVERIFY(!none);  // all are larger
            const auto done = findOperation("shave.removeReliefs")
                                  ->run(model, {{"upTo", 1.1 * least * scale}, {"kinds", {kind}}}, quietly());
            QVERIFY2(done, said(done));
            const TopoDS_Shape& shape = done->model.parts[0]->shape;
            const double cube = scale * scale * scale;
            QVERIFY(isValid(shape));
            QCOMPARE(openEdgesIn(shape), 0);
            QCOMPARE_NEAR(volumeOf(shape), volumeOf(bare) * cube, 1e-6 * volumeOf(bare) * cube);
            QCOMPARE(facesIn(shape), facesIn(bare));
        }
    }
    void theBodysOwnShapeIsNeither_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::newRow("block") << plate();
        QTest::newRow("angle") << angle();
        QTest::newRow("channel") << cut(plate(), box(-1, 10, 10, 101, 50, 31));
        QTest::newRow("boss on a plate") << fuse(plate(), rod(gp_Ax1(gp_Pnt(50, 30, 29), gp_Dir(0, 0, 1)), 8, 6));
        QTest::newRow("pocket in a plate") << cut(plate(), box(40, 20, 25, 50, 30, 31));
        QTest::newRow("holes") << drilledPlate(100, 60, 8, 6, 5.0);
        QTest::newRow("bolt") << fuse(rod(gp_Ax1(), 5, 30), rod(gp_Ax1(gp_Pnt(0, 0, 30), gp_Dir(0, 0, 1)), 9, 6));
        QTest::newRow("stepped shaft") << fuse(rod(gp_Ax1(), 10, 60),
                                               rod(gp_Ax1(gp_Pnt(0, 0, 60), gp_Dir(0, 0, 1)), 7, 40));
    }
    void theBodysOwnShapeIsNeither() {
        QFETCH(TopoDS_Shape, body);
        const auto found = openOnes(modelWith(body, 4.0));
        for (const Relief& relief : found)
            qInfo("%s, %s", survey::reliefKindName(relief.kind).c_str(), survey::describe(relief).c_str());
        QVERIFY(found.empty());
    }
    void aGrooveAtAShoulderGoesWhenPicked() {
        // Its lower wall is the shoulder itself, so it is no notch of its own. Floor and upper wall out, shaft and
        // shoulder meet in a new ring.
        const TopoDS_Shape bare = turnedPart({{0, 0}, {26, 0}, {26, 30}, {20, 30}, {20, 80}, {0, 80}});
        const TopoDS_Shape made =
            turnedPart({{0, 0}, {26, 0}, {26, 30}, {18, 30}, {18, 33}, {20, 33}, {20, 80}, {0, 80}});
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, -2, 2)), 0.8);
        for (const bool turned : {false, true}) {
            const Model model = modelWith(turned ? moved(made, turn) : made, 4.0);
            const Part& part = *model.parts[0];
            Json picked = Json::array();
            for (int f = 1; f <= part.incidence().faceCount(); ++f) {
                const FaceRef face = makeFaceRef(part, f);
                gp_Pnt centre = face.centre;
                if (turned) centre.Transform(turn.Inverted());
                if ((face.surface == "cylinder" && std::abs(face.size - 18) < 1e-6) ||
                    (face.surface == "plane" && std::abs(centre.Z() - 33) < 1e-6))
                    picked.push_back(Json(face));
            }
            QCOMPARE(picked.size(), std::size_t(2));
            const auto done = findOperation("shave.removeFaces")->run(model, {{"faces", picked}}, quietly());
            QVERIFY2(done, said(done));
            const TopoDS_Shape& shape = done->model.parts[0]->shape;
            QVERIFY(isValid(shape));
            QCOMPARE(openEdgesIn(shape), 0);
            QCOMPARE(facesIn(shape), facesIn(bare));
            QCOMPARE_NEAR(volumeOf(shape), volumeOf(bare), 1e-6 * volumeOf(bare));
        }
    }
    void aNotchWithRoundCornersWaitsForItsRounds() {
        // Its floor and walls run smoothly into each other; with the rounds gone it is a notch again.
        const TopoDS_Shape sharp = cut(plate(), box(90, 20, 20, 101, 28, 31));
        BRepFilletAPI_MakeFillet fillet(sharp);
        TopTools_IndexedMapOfShape edges;
        TopExp::MapShapes(sharp, TopAbs_EDGE, edges);
        int rounded = 0;
        for (int e = 1; e <= edges.Extent(); ++e) {
            const EdgeProbe probe(TopoDS::Edge(edges(e)));
            const gp_Pnt at = probe.value(0.5 * (probe.first() + probe.last()));
            if (at.X() > 89 && at.X() < 99.9 && at.Y() > 19.9 && at.Y() < 28.1 &&
                std::abs(at.Z() - 20) < 1e-9) {  // round the floor
                fillet.Add(1.0, TopoDS::Edge(edges(e)));
                ++rounded;
            }
        }
        QCOMPARE(rounded, 3);
        const Model model = modelWith(fillet.Shape(), 4.0);
        const auto found = openOnes(model);  // inner rounds belong to it
        QCOMPARE(found.size(), std::size_t(1));
        const auto done =
            findOperation("shave.removeReliefs")->run(model, {{"upTo", 9.0}, {"kinds", {"notch"}}}, quietly());
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), 180000.0, 1e-3);
    }
};

static Registered<OpenReliefsTest> openReliefsTest;

}  // namespace rasoir::test

#include "open_reliefs_test.moc"
