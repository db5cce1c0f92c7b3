// Points in faces, judged by the kernel's own classifier.
#include "geometry/face_region.h"

#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_NurbsConvert.hxx>
#include <BRepClass_FaceClassifier.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "exchange/files.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class FaceRegionTest : public QObject {
    Q_OBJECT

    /// Points that the two judge differently, of some hundred in and around each face and close to its edges.
    static int differences(const TopoDS_Shape& shape, int& asked) {
        Random random(7);
        int wrong = 0;
        for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next()) {
            const TopoDS_Face face = TopoDS::Face(it.Current().Oriented(TopAbs_FORWARD));
            const FaceRegion region(face);
            const BRepTopAdaptor_FClass2d kernel(face, 1e-9);
            const double size = std::hypot(region.high[0] - region.low[0], region.high[1] - region.low[1]);
            std::vector<gp_Pnt2d> points;
            for (int i = 0; i < 200; ++i) {
                const double u = between(random, -0.05, 1.05), v = between(random, -0.05, 1.05);
                points.emplace_back(region.low[0] + u * (region.high[0] - region.low[0]),
                                    region.low[1] + v * (region.high[1] - region.low[1]));
            }
            // A thousandth of the face beside its edges, where straight pieces would not do.
            for (TopExp_Explorer edge(face, TopAbs_EDGE); edge.More(); edge.Next()) {
                double first = 0.0, last = 0.0;
                const Handle(Geom2d_Curve) trace =
                    BRep_Tool::CurveOnSurface(TopoDS::Edge(edge.Current()), face, first, last);
                if (trace.IsNull()) continue;
                for (int i = 0; i < 20; ++i) {
                    gp_Pnt2d at;
                    gp_Vec2d along;
                    trace->D1(between(random, first, last), at, along);
                    if (along.Magnitude() < 1e-12) continue;
                    const gp_Vec2d aside = gp_Vec2d(-along.Y(), along.X()).Normalized();
                    points.push_back(at.Translated(aside * between(random, -1e-3, 1e-3) * size));
                }
            }
            for (const gp_Pnt2d& uv : points) {
                const auto own = region.where(uv);
                const TopAbs_State theirs = kernel.Perform(uv, false);
                ++asked;
                if (own == FaceRegion::Where::On || theirs == TopAbs_ON) continue;
                if ((own == FaceRegion::Where::In) == (theirs == TopAbs_IN)) continue;
                // The kernel's quick judge goes by straight pieces too; its slow one cuts a ray with the outlines.
                wrong +=
                    (own == FaceRegion::Where::In) != (BRepClass_FaceClassifier(face, uv, 1e-9).State() == TopAbs_IN);
            }
        }
        return wrong;
    }

private slots:
    void pointsAreJudgedAsTheKernelDoes_data() {
        QTest::addColumn<int>("which");
        for (const auto& [name, which] : {std::pair{"drilled plate", 0},
                                          {"ball", 1},
                                          {"ring", 2},
                                          {"ball as splines", 3},
                                          {"wavy block", 4},
                                          {"plate as splines", 5},
                                          {"cone", 6},
                                          {"carrier", 7},
                                          {"arm as received", 8}})
            QTest::newRow(name) << which;
    }
    void pointsAreJudgedAsTheKernelDoes() {
        QFETCH(int, which);
        std::vector<TopoDS_Shape> shapes;
        const TopoDS_Shape plate = drilledPlate(60, 40, 6, 9, 5.0), ball = BRepPrimAPI_MakeSphere(7.0).Shape();
        switch (which) {
            case 0:
                shapes = {plate};
                break;
            case 1:
                shapes = {ball, cut(ball, moved(block(20, 20, 20), by(1, 2, -9)))};
                break;
            case 2:
                shapes = {BRepPrimAPI_MakeTorus(9.0, 2.0).Shape()};
                break;
            case 3:
                shapes = {asSplines(ball)};
                break;
            case 4:
                shapes = {cut(splineTopped(30, 20, 8, 2.0), rod(gp_Ax1(gp_Pnt(12, 9, -1), gp::DZ()), 4.0, 20.0))};
                break;
            case 5:
                shapes = {asSplines(plate)};
                break;
            case 6:
                shapes = {coneOf(gp_Ax1(gp::Origin(), gp_Dir(1, 1, 1)), 5.0, 0.0, 9.0),
                          coneOf(gp_Ax1(gp::Origin(), gp_Dir(1, 1, 1)), 5.0, 2.0, 9.0)};
                break;
            default: {
                const auto model = exchange::readFile(
                    demoFile(which == 7 ? "carrier.step" : "hanger-arm-as-received.step"), {}, quietly());
                QVERIFY2(model, said(model));
                for (const auto& part : model->parts) shapes.push_back(part->shape);
            }
        }
        int asked = 0, wrong = 0;
        for (const TopoDS_Shape& shape : shapes) wrong += differences(shape, asked);
        QVERIFY(asked > 200);
        QCOMPARE(wrong, 0);
    }
    void theRimIsOn() {
        const TopoDS_Shape plate = drilledPlate(60, 40, 6, 4, 5.0);
        for (TopExp_Explorer it(plate, TopAbs_FACE); it.More(); it.Next()) {
            const TopoDS_Face face = TopoDS::Face(it.Current().Oriented(TopAbs_FORWARD));
            const FaceRegion region(face);
            for (TopExp_Explorer edge(face, TopAbs_EDGE); edge.More(); edge.Next()) {
                double first = 0.0, last = 0.0;
                const Handle(Geom2d_Curve) trace =
                    BRep_Tool::CurveOnSurface(TopoDS::Edge(edge.Current()), face, first, last);
                for (const double share : {0.0, 0.123, 0.5, 0.871, 1.0})
                    QVERIFY(region.where(trace->Value(first + share * (last - first))) == FaceRegion::Where::On);
            }
        }
    }
    void samplesShareTheArea() {
        for (TopExp_Explorer it(drilledPlate(60, 40, 6, 9, 5.0), TopAbs_FACE); it.More(); it.Next()) {
            const TopoDS_Face face = TopoDS::Face(it.Current());
            double sum = 0.0;
            for (const SkinSample& sample : skinSamples(face, 9)) sum += sample.area;
            QCOMPARE_NEAR(sum, areaOf(face), 1e-9 * areaOf(face));
        }
    }
};

static Registered<FaceRegionTest> faceRegionTest;

}  // namespace rasoir::test

#include "face_region_test.moc"
