// Several faces missing side by side: what was there comes back, or the opening stays.
#include <BRep_Builder.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/defects.h"

namespace rasoir::test {

class CornerPatchTest : public QObject {
    Q_OBJECT

    static gp_Pnt middleOf(const TopoDS_Face& face) {
        const BRepAdaptor_Surface surface(face);
        return surface.Value(0.5 * (surface.FirstUParameter() + surface.LastUParameter()),
                             0.5 * (surface.FirstVParameter() + surface.LastVParameter()));
    }
    /// Everything but the faces whose middles are nearest to the points.
    static TopoDS_Shape without(const TopoDS_Shape& body, const std::vector<gp_Pnt>& at) {
        std::vector<TopoDS_Face> faces;
        for (TopExp_Explorer it(body, TopAbs_FACE); it.More(); it.Next()) faces.push_back(TopoDS::Face(it.Current()));
        for (const gp_Pnt& point : at)
            faces.erase(std::min_element(faces.begin(), faces.end(), [&](const TopoDS_Face& a, const TopoDS_Face& b) {
                return middleOf(a).Distance(point) < middleOf(b).Distance(point);
            }));
        TopoDS_Compound rest;
        const BRep_Builder builder;
        builder.MakeCompound(rest);
        for (const TopoDS_Face& face : faces) builder.Add(rest, face);
        return rest;
    }
    /// Every opening and rim asked for.
    static Result<Outcome> patched(const TopoDS_Shape& shape) {
        Model model = modelOf(shape);
        model.targetSize = 4.0;
        const auto report = survey::findDefects(*model.parts[0], {4.0, 1e-6, 0.0}, false, quietly());
        Json at = Json::array();
        for (const survey::Defect& defect : report->defects)
            if (defect.kind == survey::DefectKind::Opening || defect.kind == survey::DefectKind::Rim)
                at.push_back({defect.where.X(), defect.where.Y(), defect.where.Z()});
        return findOperation("mend.patch")->run(model, {{"at", at}}, quietly());
    }
    static TopoDS_Shape halfRound() {  // a block that ends in half a cylinder
        return fuse(block(40, 20, 10), rod(gp_Ax1(gp_Pnt(40, 10, 0), gp_Dir(0, 0, 1)), 10, 10));
    }
    static TopoDS_Shape step() {
        return cut(block(40, 30, 20), moved(block(20, 30, 10), [] {
                       gp_Trsf t;
                       t.SetTranslation(gp_Vec(20, 0, 10));
                       return t;
                   }()));
    }

private slots:
    void facesSideBySideComeBack_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<QList<QList<double>>>("at");
        const TopoDS_Shape box = block(40, 30, 20);
        QTest::newRow("two of a block") << box << QList<QList<double>>{{20, 15, 20}, {40, 15, 10}};
        QTest::newRow("three round a corner") << box << QList<QList<double>>{{20, 15, 20}, {40, 15, 10}, {20, 30, 10}};
        QTest::newRow("three in a row") << box << QList<QList<double>>{{20, 15, 20}, {40, 15, 10}, {20, 15, 0}};
        QTest::newRow("two with a hole in one") << cut(box, rod(gp_Ax1(gp_Pnt(10, 10, -1), gp_Dir(0, 0, 1)), 3, 30))
                                                << QList<QList<double>>{{20, 15, 20}, {40, 15, 10}};
        QTest::newRow("both sides of an inner corner") << step() << QList<QList<double>>{{30, 15, 10}, {20, 15, 15}};
        QTest::newRow("three over a step") << step() << QList<QList<double>>{{30, 15, 10}, {20, 15, 15}, {10, 15, 20}};
        QTest::newRow("a flat face and a cylinder") << halfRound() << QList<QList<double>>{{20, 10, 10}, {50, 10, 5}};
    }
    void facesSideBySideComeBack() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(QList<QList<double>>, at);
        for (const double factor : {1.0, 0.001, 1000.0}) {
            gp_Trsf turn;
            turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, -2, 0.5)), factor == 1.0 ? 0.0 : 0.8);
            std::vector<gp_Pnt> points;
            for (const QList<double>& p : at) points.emplace_back(p[0], p[1], p[2]);
            const TopoDS_Shape open = scaledBy(moved(without(body, points), turn), factor);
            const auto done = patched(open);
            QVERIFY2(done, said(done));
            const TopoDS_Shape& made = done->model.parts[0]->shape;
            QCOMPARE(solidsIn(made), 1);
            QCOMPARE(openEdgesIn(made), 0);
            QVERIFY(isValid(made));
            QCOMPARE(facesIn(made), facesIn(body));
            const double wanted = volumeOf(body) * factor * factor * factor;
            QCOMPARE_NEAR(volumeOf(made), wanted, 1e-7 * wanted);
            QCOMPARE(openEdgesIn(open) > 0, true);  // what was received is as it was
        }
    }
    void aTwistedFaceIsNotFolded() {
        // Four straight edges that no plane holds, every one beside another face: one face is missing, not two.
        const std::array<gp_Pnt, 4> low{gp_Pnt(0, 0, 0), gp_Pnt(30, 0, 0), gp_Pnt(30, 30, 0), gp_Pnt(0, 30, 0)},
            high{gp_Pnt(0, 0, 20), gp_Pnt(30, 0, 14), gp_Pnt(30, 30, 20), gp_Pnt(0, 30, 14)};
        const BRep_Builder builder;
        TopoDS_Compound bag;
        builder.MakeCompound(bag);
        const auto polygon = [](const std::vector<gp_Pnt>& corners) {
            BRepBuilderAPI_MakePolygon outline;
            for (const gp_Pnt& corner : corners) outline.Add(corner);
            outline.Close();
            return BRepBuilderAPI_MakeFace(outline.Wire(), true).Face();
        };
        builder.Add(bag, polygon({low[0], low[1], low[2], low[3]}));
        for (std::size_t i = 0; i < 4; ++i)
            builder.Add(bag, polygon({low[i], low[(i + 1) % 4], high[(i + 1) % 4], high[i]}));
        Model model = modelOf(bag);
        model.targetSize = 4.0;
        const auto stitched = findOperation("mend.stitch")->run(model, {{"upTo", 1e-4}}, quietly());
        QVERIFY2(stitched, said(stitched));
        const auto done = patched(stitched->model.parts[0]->shape);
        QVERIFY2(done, said(done));
        QCOMPARE(facesIn(done->model.parts[0]->shape), 6);
        QCOMPARE(openEdgesIn(done->model.parts[0]->shape), 0);
    }
};

static Registered<CornerPatchTest> cornerPatchTest;

}  // namespace rasoir::test

#include "corner_patch_test.moc"
