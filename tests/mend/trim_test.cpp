// Faces that reach too far, slivers and tiny edges, on bodies of known answer.
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepGProp.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepTools.hxx>
#include <gp_Pln.hxx>
#include <GProp_GProps.hxx>
#include <set>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/defects.h"

namespace rasoir::test {

using survey::DefectKind;

class TrimTest : public QObject {
    Q_OBJECT

    static TopoDS_Face rectangle(double x0, double x1, double y0, double y1, double z) {
        return BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, z), gp::DZ()), x0, x1, y0, y1).Face();
    }
    /// Loose copies of all faces but those that `skip` says, and some more.
    template <class Skip>
    static TopoDS_Compound bagOf(const TopoDS_Shape& body, Skip skip, const std::vector<TopoDS_Face>& more) {
        TopoDS_Compound bag;
        const BRep_Builder builder;
        builder.MakeCompound(bag);
        for (TopExp_Explorer it(body, TopAbs_FACE); it.More(); it.Next())
            if (!skip(TopoDS::Face(it.Current()))) builder.Add(bag, BRepBuilderAPI_Copy(it.Current()).Shape());
        for (const TopoDS_Face& face : more) builder.Add(bag, face);
        return bag;
    }
    static bool isTop(const TopoDS_Face& face, double z) {
        const BRepAdaptor_Surface surface(face);
        return surface.GetType() == GeomAbs_Plane && std::abs(surface.Plane().Axis().Direction().Z()) > 0.99 &&
               std::abs(surface.Plane().Location().Z() - z) < 1e-9;
    }
    static Model asModel(const TopoDS_Shape& shape) {
        Model model = modelOf(shape);
        model.targetSize = 4.0;
        return model;
    }
    static const TopoDS_Shape& shapeOf(const Result<Outcome>& outcome) { return outcome->model.parts[0]->shape; }
    static std::vector<survey::Defect> found(const TopoDS_Shape& shape, DefectKind kind) {
        const auto report = survey::findDefects(*asModel(shape).parts[0], {4.0, 1e-6, 0.0}, false, quietly());
        std::vector<survey::Defect> some;
        if (report)
            for (const auto& defect : report->defects)
                if (defect.kind == kind) some.push_back(defect);
        return some;
    }
    static void isClosed(const TopoDS_Shape& shape, double volume, int faces, double allowed) {
        QCOMPARE(solidsIn(shape), 1);
        QCOMPARE(openEdgesIn(shape), 0);
        QVERIFY(isValid(shape));
        QCOMPARE(facesIn(shape), faces);
        QCOMPARE_NEAR(volumeOf(shape), volume, allowed * volume);
    }

private slots:
    void aFlatFaceThatRunsOverIsCutBack_data() {
        QTest::addColumn<double>("left");
        QTest::addColumn<double>("right");
        QTest::addColumn<double>("front");
        QTest::addColumn<double>("back");
        QTest::newRow("one side") << 0.0 << 3.0 << 0.0 << 0.0;
        QTest::newRow("two sides round a corner") << 0.0 << 3.0 << 0.0 << 5.0;
        QTest::newRow("two opposite sides") << 4.0 << 3.0 << 0.0 << 0.0;
        QTest::newRow("three sides") << 4.0 << 3.0 << 2.5 << 0.0;
        QTest::newRow("all round") << 4.0 << 3.0 << 2.5 << 6.0;
    }
    void aFlatFaceThatRunsOverIsCutBack() {
        QFETCH(double, left);
        QFETCH(double, right);
        QFETCH(double, front);
        QFETCH(double, back);
        const TopoDS_Shape whole = block(40, 30, 20);
        const TopoDS_Shape bag = bagOf(whole, [](const TopoDS_Face& f) { return isTop(f, 20); },
                                       {rectangle(-left, 40 + right, -front, 30 + back, 20)});
        const auto defects = found(bag, DefectKind::RunsOver);
        QVERIFY(!defects.empty());
        QVERIFY(found(bag, DefectKind::LooseEnd).empty());
        QVERIFY(found(bag, DefectKind::Opening).empty());
        const auto cut = run(asModel(bag), "mend.trimOverlong");
        QVERIFY2(cut, said(cut));
        const auto safe = run(asModel(bag), "mend.mendSafe");
        QVERIFY2(safe, said(safe));
        isClosed(shapeOf(safe), 24000, 6, 1e-9);
        // As received, the bag is as it was.
        QCOMPARE(facesIn(bag), 6);
        QCOMPARE(found(bag, DefectKind::RunsOver).size(), defects.size());
    }
    void facesThatRunOverEachOtherAreCutWhereTheyMeet_data() {
        QTest::addColumn<double>("top");  // [mm] past the edge that the two share
        QTest::addColumn<double>("side");
        QTest::addColumn<double>("further");  // past an edge that the other has nothing to do with
        QTest::newRow("equally far") << 3.0 << 3.0 << 0.0;
        QTest::newRow("one farther") << 1.0 << 6.0 << 0.0;
        QTest::newRow("and round the corner") << 2.0 << 4.0 << 5.0;
    }
    void facesThatRunOverEachOtherAreCutWhereTheyMeet() {
        QFETCH(double, top);
        QFETCH(double, side);
        QFETCH(double, further);
        // The top from x = 0 to 40 and the side at x = 40: neither has an edge where they meet.
        const TopoDS_Shape whole = block(40, 30, 20);
        const auto isSide = [](const TopoDS_Face& f) {
            const BRepAdaptor_Surface surface(f);
            return std::abs(surface.Plane().Axis().Direction().X()) > 0.99 &&
                   std::abs(surface.Plane().Location().X() - 40) < 1e-9;
        };
        const TopoDS_Face longSide =
            BRepBuilderAPI_MakeFace(gp_Pln(gp_Ax3(gp_Pnt(40, 0, 0), gp_Dir(1, 0, 0), gp_Dir(0, 1, 0))), 0, 30 + further,
                                    0, 20 + side)
                .Face();
        const TopoDS_Shape flat = bagOf(whole, [&](const TopoDS_Face& f) { return isTop(f, 20) || isSide(f); },
                                        {rectangle(0, 40 + top, 0, 30, 20), longSide});
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, 2, 1), gp_Dir(1, 2, -1)), 0.7);
        for (const TopoDS_Shape& bag : {flat, moved(flat, turn)}) {
            QVERIFY(found(bag, DefectKind::RunsOver).size() >= 2);
            const auto safe = run(asModel(bag), "mend.mendSafe");
            QVERIFY2(safe, said(safe));
            isClosed(shapeOf(safe), 24000, 6, 1e-9);
        }
    }
    void threeThatEachRunOverTheNextRoundACorner() {
        // Round (40, 30, 20): the top runs past the side, the side past the back, the back past the top. No edge ends
        // at the corner.
        const TopoDS_Shape whole = block(40, 30, 20);
        const auto isOneOf = [](const TopoDS_Face& f) {
            const gp_Pln plane = BRepAdaptor_Surface(f).Plane();
            const gp_Vec from(gp_Pnt(0, 0, 0), plane.Location());
            const gp_Dir normal = plane.Axis().Direction();
            return std::abs(std::abs(from.Dot(normal)) - (std::abs(normal.X()) > 0.9   ? 40
                                                          : std::abs(normal.Y()) > 0.9 ? 30
                                                                                       : 20)) < 1e-9;
        };
        const TopoDS_Face top = rectangle(0, 43, 0, 30, 20);
        const TopoDS_Face side =
            BRepBuilderAPI_MakeFace(gp_Pln(gp_Ax3(gp_Pnt(40, 0, 0), gp_Dir(1, 0, 0), gp_Dir(0, 1, 0))), 0, 32, 0, 20)
                .Face();
        const TopoDS_Face back =
            BRepBuilderAPI_MakeFace(gp_Pln(gp_Ax3(gp_Pnt(0, 30, 0), gp_Dir(0, -1, 0), gp_Dir(1, 0, 0))), 0, 40, 0, 24)
                .Face();
        const TopoDS_Shape flat = bagOf(whole, isOneOf, {top, side, back});
        QCOMPARE(facesIn(flat), 6);
        for (const double scale : {1.0, 1000.0}) {
            gp_Trsf turn;
            turn.SetRotation(gp_Ax1(gp_Pnt(3, 2, 1), gp_Dir(1, 2, -1)), scale == 1.0 ? 0.0 : 0.7);
            const TopoDS_Shape bag = moved(scaledBy(flat, scale), turn);
            Model model = asModel(bag);
            model.targetSize = 4.0 * scale;
            std::multiset<int> past;
            const auto report =
                survey::findDefects(*model.parts[0], {model.targetSize, 1e-6 * scale, 0.0}, false, quietly());
            QVERIFY(report.has_value());
            for (const auto& defect : report->defects)
                if (defect.kind == DefectKind::RunsOver)
                    past.insert(static_cast<int>(std::lround(defect.size / scale)));
            QVERIFY((past == std::multiset<int>{2, 3, 4}));
            const auto safe = run(model, "mend.mendSafe");
            QVERIFY2(safe, said(safe));
            isClosed(shapeOf(safe), 24000 * std::pow(scale, 3), 6, 1e-9);
        }
    }
    void aRoundThatRunsOverIsCutBack() {
        TopTools_IndexedMapOfShape edges;
        const TopoDS_Shape raw = block(40, 30, 20);
        TopExp::MapShapes(raw, TopAbs_EDGE, edges);
        BRepFilletAPI_MakeFillet made(raw);
        made.Add(5.0, TopoDS::Edge(edges(1)));
        const TopoDS_Shape whole = made.Shape();
        TopoDS_Face longer;
        const auto isRound = [](const TopoDS_Face& f) { return BRepAdaptor_Surface(f).GetType() == GeomAbs_Cylinder; };
        for (TopExp_Explorer it(whole, TopAbs_FACE); it.More(); it.Next())
            if (isRound(TopoDS::Face(it.Current()))) {
                double u0, u1, v0, v1;
                BRepTools::UVBounds(TopoDS::Face(it.Current()), u0, u1, v0, v1);
                longer =
                    BRepBuilderAPI_MakeFace(BRep_Tool::Surface(TopoDS::Face(it.Current())), u0, u1, v0, v1 + 4.0, 1e-7)
                        .Face();
            }
        const TopoDS_Shape bag = bagOf(whole, isRound, {longer});
        QCOMPARE(found(bag, DefectKind::RunsOver).size(), std::size_t(1));
        QCOMPARE_NEAR(found(bag, DefectKind::RunsOver).front().size, 4.0, 1e-6);
        const auto safe = run(asModel(bag), "mend.mendSafe");
        QVERIFY2(safe, said(safe));
        isClosed(shapeOf(safe), volumeOf(whole), 7, 1e-9);
    }
    void theWallOfAHoleThatRunsOverIsReplaced() {  // its seam would have to be cut: the wall is made anew
        const TopoDS_Shape whole = cut(block(40, 30, 20), rod(gp_Ax1(gp_Pnt(20, 15, -1), gp::DZ()), 6, 30));
        const auto isWall = [](const TopoDS_Face& f) { return BRepAdaptor_Surface(f).GetType() == GeomAbs_Cylinder; };
        TopoDS_Face longer;
        for (TopExp_Explorer it(whole, TopAbs_FACE); it.More(); it.Next())
            if (isWall(TopoDS::Face(it.Current()))) {
                double u0, u1, v0, v1;
                BRepTools::UVBounds(TopoDS::Face(it.Current()), u0, u1, v0, v1);
                longer =
                    BRepBuilderAPI_MakeFace(BRep_Tool::Surface(TopoDS::Face(it.Current())), u0, u1, v0, v1 + 4.0, 1e-7)
                        .Face();
            }
        const TopoDS_Shape bag = bagOf(whole, isWall, {longer});
        QCOMPARE(found(bag, DefectKind::RunsOver).size(), std::size_t(1));
        const auto safe = run(asModel(bag), "mend.mendSafe");
        QVERIFY2(safe, said(safe));
        isClosed(shapeOf(safe), volumeOf(whole), 7, 1e-9);
    }
    void facesThatPartlyCoverEachOtherAreToldApart() {
        const TopoDS_Shape bag = bagOf(block(40, 30, 20), [](const TopoDS_Face& f) { return isTop(f, 20); },
                                       {rectangle(0, 25, 0, 30, 20), rectangle(20, 40, 0, 30, 20)});
        const auto defects = found(bag, DefectKind::PartlyDoubled);
        QCOMPARE(defects.size(), std::size_t(1));
        QCOMPARE_NEAR(defects.front().size, 5.0, 1e-6);
        const auto safe = run(asModel(bag), "mend.mendSafe");
        QVERIFY2(safe, said(safe));
        isClosed(shapeOf(safe), 24000, 7, 1e-9);
        const auto merged = run(safe->model, "mend.mergeFaces");
        QVERIFY2(merged, said(merged));
        isClosed(shapeOf(merged), 24000, 6, 1e-9);
    }
    void aFlangeIsNoMistake() {  // a rib on a sheet that goes on behind it
        const TopoDS_Face skin = rectangle(0, 60, 0, 30, 0);
        const TopoDS_Face rib = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(40, 0, 0), gp::DX()), -20, 0, 0, 30).Face();
        const TopoDS_Face wall = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 0), gp::DX()), -20, 0, 0, 30).Face();
        const TopoDS_Shape bag = bagOf(skin, [](const TopoDS_Face&) { return false; }, {rib, wall});
        const auto safe = run(asModel(bag), "mend.mendSafe");
        GProp_GProps props;
        BRepGProp::SurfaceProperties(safe ? shapeOf(safe) : bag, props);
        QCOMPARE_NEAR(props.Mass(), 60.0 * 30 + 2 * 20 * 30, 1e-6);
    }
    void sliversGoToTheirNeighbours_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("chamfer 0.03 wide") << 0;
        QTest::newRow("walls of a step 0.02 high") << 1;
        QTest::newRow("wedge that ends in a point") << 2;
    }
    void sliversGoToTheirNeighbours() {
        QFETCH(int, kind);
        TopoDS_Shape whole = block(40, 30, 20);
        double shrinks = 0.0;
        if (kind == 0) {
            TopTools_IndexedMapOfShape edges;
            TopExp::MapShapes(whole, TopAbs_EDGE, edges);
            BRepFilletAPI_MakeChamfer made(whole);
            made.Add(0.03, TopoDS::Edge(edges(1)));
            whole = made.Shape();
        } else if (kind == 1) {
            // A step so low that its walls are slivers, between faces in the same direction.
            whole = fuse(whole, block(15, 30, 20.02));
            shrinks = 1.0;
        } else {
            BRepBuilderAPI_MakePolygon triangle(gp_Pnt(-1, 0, 20), gp_Pnt(-1, 0, 21), gp_Pnt(0.05, 0, 20), true);
            const TopoDS_Shape wedge =
                BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(triangle.Wire()).Face(), gp_Vec(0, 30, 0)).Shape();
            gp_Trsf turn;
            turn.SetRotation(gp_Ax1(gp_Pnt(0.05, 0, 20), gp_Dir(0, 0, 1)), 0.05 / 30.0);
            whole = cut(whole, moved(wedge, turn));
            QVERIFY(facesIn(whole) > 6);
        }
        const auto defects = found(whole, DefectKind::Sliver);
        QVERIFY(!defects.empty());
        const int before = facesIn(whole);
        const auto done = run(asModel(whole), "mend.absorbSlivers");
        QVERIFY2(done, said(done));
        QCOMPARE(solidsIn(shapeOf(done)), 1);
        QCOMPARE(openEdgesIn(shapeOf(done)), 0);
        QVERIFY(isValid(shapeOf(done)));
        QCOMPARE(facesIn(shapeOf(done)), before - static_cast<int>(defects.size()));
        QCOMPARE_NEAR(volumeOf(shapeOf(done)), volumeOf(whole), shrinks > 0.0 ? 9.0 : 0.1);
    }
    void tinyEdgesShrink() {
        // A corner's tip is off: three edges of hundredths of a millimetre round a tiny face.
        const TopoDS_Shape tip =
            BRepPrimAPI_MakePrism(
                BRepBuilderAPI_MakeFace(
                    BRepBuilderAPI_MakePolygon(gp_Pnt(0.02, 0, 0), gp_Pnt(0, 0.03, 0), gp_Pnt(0, 0, 0.025), true)
                        .Wire())
                    .Face(),
                gp_Vec(-1, -1, -1))
                .Shape();
        const TopoDS_Shape whole = cut(block(40, 30, 20), tip);
        QCOMPARE(facesIn(whole), 7);
        QCOMPARE(found(whole, DefectKind::TinyEdge).size(), std::size_t(3));
        const auto done = run(asModel(whole), "mend.collapseTiny");
        QVERIFY2(done, said(done));
        isClosed(shapeOf(done), 24000, 6, 1e-5);
        QVERIFY(found(shapeOf(done), DefectKind::TinyEdge).empty());
        const auto none = run(asModel(block(40, 30, 20)), "mend.collapseTiny");
        QVERIFY(!none);
        const auto absurd =
            run(asModel(whole), "mend.collapseTiny", {{"upTo", std::numeric_limits<double>::quiet_NaN()}});
        QVERIFY(!absurd);
    }
    void collapsingMoreThanThereIsIsRefused() {  // every edge of the block: nothing would be left
        const auto done = run(asModel(block(40, 30, 20)), "mend.collapseTiny", {{"upTo", 1000.0}});
        QVERIFY(!done);
    }
};

static Registered<TrimTest> trimTest;

}  // namespace rasoir::test

#include "trim_test.moc"
