// Areas, centres and volumes of faces of known answer, and the same as the kernel's where both know it.
#include "geometry/integrals.h"

#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_NurbsConvert.hxx>
#include <BRepGProp.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <gp_Elips.hxx>
#include <GProp_GProps.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class IntegralsTest : public QObject {
    Q_OBJECT

    static Skin byKernel(const TopoDS_Shape& shape) {
        GProp_GProps integral;
        BRepGProp::SurfaceProperties(shape, integral, 1e-12);
        return {std::abs(integral.Mass()), integral.CentreOfMass()};
    }

private slots:
    void anEllipseWithAnEllipseInIt() {
        const gp_Ax2 axes(gp_Pnt(1e3, -2e3, 5e2), gp_Dir(1, 2, 3));
        BRepBuilderAPI_MakeFace made(
            BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Elips(axes, 7, 4)).Edge()).Wire(), true);
        const double whole = areaOf(made.Face());
        QCOMPARE_NEAR(whole, M_PI * 28, 1e-11);
        QVERIFY(skinOf(made.Face()).centre.Distance(axes.Location()) < 1e-9);
        TopoDS_Wire inner = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Elips(axes, 2, 1)).Edge()).Wire();
        inner.Reverse();
        made.Add(inner);
        QCOMPARE_NEAR(areaOf(made.Face()), M_PI * 26, 1e-11);
    }

    void everyFaceOfABodyAsTheKernelHasIt_data() {
        QTest::addColumn<double>("scale");
        for (const double scale : {0.001, 1.0, 1000.0}) QTest::newRow(qPrintable(QString("x%1").arg(scale))) << scale;
    }
    void everyFaceOfABodyAsTheKernelHasIt() {
        QFETCH(double, scale);
        TopoDS_Shape body = cut(cut(block(60, 40, 20), rod(gp_Ax1(gp_Pnt(0, 20, 10), gp_Dir(1, 0, 0.3)), 6, 100)),
                                coneOf(gp_Ax1(gp_Pnt(60, 0, 0), gp::DZ()), 12, 4, 25));
        gp_Trsf turn, mirror;
        turn.SetRotation(gp_Ax1(gp_Pnt(30, -20, 10), gp_Dir(1, 2, -0.4)), 0.8);
        mirror.SetMirror(gp_Ax2(gp_Pnt(3, 4, 5), gp_Dir(1, 1, 1)));
        for (const TopoDS_Shape& placed : {moved(body, turn), moved(body, mirror)}) {  // mirrored: left-handed planes
            const TopoDS_Shape shape = scaledBy(placed, scale);
            for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next()) {
                const Skin own = skinOf(it.Current()), other = byKernel(it.Current());
                QCOMPARE_NEAR(own.area, other.area, 1e-6 * other.area);
                QVERIFY(own.centre.Distance(other.centre) < 1e-5 * std::sqrt(other.area));
            }
            QCOMPARE_NEAR(rasoir::volumeOf(shape), test::volumeOf(shape), 1e-5 * test::volumeOf(shape));
            QVERIFY(rasoir::volumeOf(shape) > 0.0);
            QCOMPARE_NEAR(rasoir::volumeOf(shape.Reversed()), -rasoir::volumeOf(shape), 1e-9 * rasoir::volumeOf(shape));
        }
    }

    void aBlockIsExact() {
        const TopoDS_Shape shape = moved(block(3, 5, 7), [] {
            gp_Trsf s;
            s.SetTranslation(gp_Vec(1e4, 2e4, -3e4));
            return s;
        }());
        QCOMPARE_NEAR(rasoir::volumeOf(shape), 105.0, 1e-9);
        QCOMPARE_NEAR(areaOf(shape), 2.0 * (15 + 21 + 35), 1e-9);
    }

    void roundBodiesAndTheSameAsSplines_data() {
        QTest::addColumn<TopoDS_Shape>("shape");
        QTest::addColumn<double>("volume");
        QTest::addColumn<double>("area");
        const gp_Ax1 axis(gp_Pnt(3, 4, 5), gp_Dir(1, 2, 2));
        const gp_Ax2 axes(axis.Location(), axis.Direction());
        const auto row = [](const char* name, const TopoDS_Shape& shape, double volume, double area) {
            QTest::newRow(name) << shape << volume << area;
            QTest::newRow(qPrintable(QString("%1 as splines").arg(name)))
                << BRepBuilderAPI_NurbsConvert(shape).Shape() << volume << area;
        };
        row("rod", rod(axis, 6, 100), M_PI * 3600, M_PI * (72 + 1200));
        row("cone", coneOf(axis, 12, 4, 15), M_PI * 15 * (144 + 48 + 16) / 3, M_PI * (144 + 16 + 16 * 17));
        row("ball", BRepPrimAPI_MakeSphere(axes, 7).Shape(), 4.0 / 3.0 * M_PI * 343, 4 * M_PI * 49);
        row("ring", BRepPrimAPI_MakeTorus(axes, 20, 3).Shape(), 2 * M_PI * M_PI * 180, 4 * M_PI * M_PI * 60);
        row("wedge of a ring", BRepPrimAPI_MakeTorus(axes, 20, 3, M_PI / 3).Shape(), 2 * M_PI * M_PI * 30,
            4 * M_PI * M_PI * 10 + 2 * M_PI * 9);
        // Two equal cylinders across each other have 16 r^3 / 3 in common: edges that are no conics in the parameters.
        const TopoDS_Shape one = rod(gp_Ax1(gp_Pnt(-20, 0, 0), gp::DX()), 5, 40),
                           two = rod(gp_Ax1(gp_Pnt(0, -20, 0), gp::DY()), 5, 40);
        row("two cylinders across", fuse(one, two), 2 * M_PI * 1000 - 16.0 * 125 / 3,
            4 * M_PI * (25 + 200) - 16.0 * 25);
    }
    void roundBodiesAndTheSameAsSplines() {
        QFETCH(TopoDS_Shape, shape);
        QFETCH(double, volume);
        QFETCH(double, area);
        QCOMPARE_NEAR(rasoir::volumeOf(shape), volume, 2e-7 * volume);
        QCOMPARE_NEAR(areaOf(shape), area, 2e-7 * area);
        gp_Trsf far;
        far.SetTranslation(gp_Vec(1e4, -2e4, 1e4));
        QCOMPARE_NEAR(rasoir::volumeOf(moved(shape, far)), volume, 2e-7 * volume);
    }
};
static Registered<IntegralsTest> integralsTest;

}  // namespace rasoir::test

#include "integrals_test.moc"
