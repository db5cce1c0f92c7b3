// Rounded corners of sheets' outlines: found by radius and side, and square afterwards. Holes across their folds.
#include "survey/sheet_corners.h"

#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <gp_Ax3.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS_Shell.hxx>

#include "geometry/integrals.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/holes.h"

namespace rasoir::test {

class SheetCornersTest : public QObject {
    Q_OBJECT

    /// 40 x 30 with corners of R 3 at the origin and at 40, 30, and a notch of 10 x 8 in the middle of its upper side
    /// whose two inner corners have R 2.
    static TopoDS_Shape sheet() {
        BRepBuilderAPI_MakeWire wire;
        const auto line = [&](double x0, double y0, double x1, double y1) {
            wire.Add(BRepBuilderAPI_MakeEdge(gp_Pnt(x0, y0, 0), gp_Pnt(x1, y1, 0)).Edge());
        };
        const auto arc = [&](double x0, double y0, double xm, double ym, double x1, double y1) {
            wire.Add(BRepBuilderAPI_MakeEdge(
                         GC_MakeArcOfCircle(gp_Pnt(x0, y0, 0), gp_Pnt(xm, ym, 0), gp_Pnt(x1, y1, 0)).Value())
                         .Edge());
        };
        const double d = std::sqrt(0.5);
        line(3, 0, 40, 0);
        line(40, 0, 40, 27);
        arc(40, 27, 37 + 3 * d, 27 + 3 * d, 37, 30);
        line(37, 30, 25, 30);
        line(25, 30, 25, 24);
        arc(25, 24, 23 + 2 * d, 24 - 2 * d, 23, 22);
        line(23, 22, 17, 22);
        arc(17, 22, 17 - 2 * d, 24 - 2 * d, 15, 24);
        line(15, 24, 15, 30);
        line(15, 30, 0, 30);
        line(0, 30, 0, 3);
        arc(0, 3, 3 - 3 * d, 3 - 3 * d, 3, 0);
        return BRepBuilderAPI_MakeFace(wire.Wire(), true).Face();
    }
    static Result<Outcome> square(const TopoDS_Shape& shape, const Json& parameters) {
        return findOperation("shave.squareCorners")->run(modelOf(shape), parameters, quietly());
    }
    static constexpr double full = 40.0 * 30 - 10 * 8;
    static double areaAfter(const Result<Outcome>& outcome) { return areaOf(outcome->model.parts[0]->shape); }

private slots:
    void areFoundBySide() {
        for (const bool turned : {false, true}) {
            TopoDS_Shape shape = sheet();
            if (turned) shape.Reverse();
            const Model model = modelOf(shape);
            const auto corners = survey::findSheetCorners(*model.parts[0], 4.0);
            QCOMPARE(corners.size(), 4u);
            for (const auto& corner : corners) {
                QCOMPARE_NEAR(corner.turn, 0.5 * M_PI, 1e-6);
                QCOMPARE(corner.outer, corner.radius > 2.5);
                QVERIFY(corner.elements > 0.0);
            }
        }
    }

    void becomeSquare_data() {
        QTest::addColumn<double>("scale");
        for (const double scale : {1.0, 0.001, 1000.0}) QTest::newRow(qPrintable(QString("x%1").arg(scale))) << scale;
    }
    void becomeSquare() {
        QFETCH(double, scale);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, -2, 1), gp_Dir(1, 2, -0.4)), 0.8);
        const TopoDS_Shape shape = scaledBy(moved(sheet(), turn), scale);
        const double cut = 1.0 - 0.25 * M_PI;  // of the square of a radius
        const auto all = square(shape, {{"upTo", 4.0 * scale}});
        QVERIFY2(all, said(all));
        QCOMPARE(all->items.size(), 4u);
        QVERIFY(isValid(all->model.parts[0]->shape));
        QCOMPARE_NEAR(areaAfter(all) / (scale * scale), full, 1e-6 * full);
        const auto outer = square(shape, {{"upTo", 4.0 * scale}, {"sides", {"outer"}}});
        QVERIFY2(outer, said(outer));
        QCOMPARE_NEAR(areaAfter(outer) / (scale * scale), full + 2 * cut * 4, 1e-6 * full);
        const auto small = square(shape, {{"upTo", 2.5 * scale}});
        QVERIFY2(small, said(small));
        QCOMPARE_NEAR(areaAfter(small) / (scale * scale), full - 2 * cut * 9, 1e-6 * full);
    }

    void oneIsChosenOrKeptByItsMiddle() {
        const double at = 3 - 3 * std::sqrt(0.5), cut = 1.0 - 0.25 * M_PI;
        const auto one = square(sheet(), {{"chosenAt", {{at, at, 0.0}}}});
        QVERIFY2(one, said(one));
        QCOMPARE_NEAR(areaAfter(one), full - cut * 9 + 2 * cut * 4, 1e-6 * full);
        const auto others = square(sheet(), {{"upTo", 10.0}, {"keptAt", {{at, at, 0.0}}}});
        QVERIFY2(others, said(others));
        QCOMPARE_NEAR(areaAfter(others), full - cut * 9, 1e-6 * full);
        QVERIFY(!square(sheet(), {{"chosenAt", {{20.0, 15.0, 0.0}}}}));
        QVERIFY(!square(sheet(), {{"upTo", 0.5}}));
        QVERIFY(!square(sheet(), {{"upTo", -1.0}}));
        QVERIFY(!square(sheet(), {{"upTo", 4.0}, {"sides", {"left"}}}));
    }

    void aHoleAcrossAFoldGoes_data() {
        QTest::addColumn<bool>("round");
        QTest::addColumn<double>("scale");
        for (const bool round : {true, false})
            for (const double scale : {1.0, 0.001, 1000.0})
                QTest::newRow(qPrintable(QString("%1, x%2").arg(round ? "round" : "square").arg(scale)))
                    << round << scale;
    }
    void aHoleAcrossAFoldGoes() {
        QFETCH(bool, round);
        QFETCH(double, scale);
        // Two walls of a block that meet in an edge, drilled through in the middle of it; besides, a hole in one of
        // them alone.
        const gp_Ax1 through(gp_Pnt(20, 15, 0), gp_Dir(1, 0, 1));
        gp_Trsf place;
        place.SetTransformation(gp_Ax3(gp_Pnt(40, 15, 20), gp_Dir(1, 0, 1), gp_Dir(0, 1, 0)), gp_Ax3());
        gp_Trsf centred;
        centred.SetTranslation(gp_Vec(-3, -3, -10));
        const TopoDS_Shape tool = round ? rod(through, 4, 60) : moved(moved(block(6, 6, 20), centred), place);
        const TopoDS_Shape body = cut(cut(block(40, 30, 20), tool), rod(gp_Ax1(gp_Pnt(10, 10, 15), gp::DZ()), 2.5, 10));
        TopoDS_Shell shell;
        const BRep_Builder builder;
        builder.MakeShell(shell);
        for (TopExp_Explorer it(body, TopAbs_FACE); it.More(); it.Next()) {
            const gp_Pnt centre = skinOf(it.Current()).centre;
            if (areaOf(it.Current()) > 300 && (std::abs(centre.Z() - 20) < 1e-9 || std::abs(centre.X() - 40) < 1e-9))
                builder.Add(shell, it.Current());
        }
        QCOMPARE(facesIn(shell), 2);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, -2, 1), gp_Dir(1, 2, -0.4)), 0.8);
        Model model = modelOf(scaledBy(moved(shell, turn), scale));
        model.targetSize = 4.0 * scale;
        const auto holes = survey::findHoles(*model.parts[0], model.targetSize, {}, quietly());
        QVERIFY(holes);
        QCOMPARE(holes->size(), 2u);
        QCOMPARE(std::count_if(holes->begin(), holes->end(), [](const auto& hole) { return hole.across; }), 1);
        const auto outcome = findOperation("shave.removeHoles")->run(model, {{"upTo", 20.0 * scale}}, quietly());
        QVERIFY2(outcome, said(outcome));
        for (const Item& item : outcome->items) QVERIFY2(item.done, item.problem.what.c_str());
        const TopoDS_Shape made = outcome->model.parts[0]->shape;
        QVERIFY(isValid(made));
        QCOMPARE(facesIn(made), 2);
        QCOMPARE_NEAR(areaOf(made) / (scale * scale), 40.0 * 30 + 20 * 30, 1e-6 * 1800);
        QCOMPARE(openEdgesIn(made), 6);
        // Alone, by its middle, the other stays.
        const auto one = std::find_if(holes->begin(), holes->end(), [](const auto& hole) { return hole.across; });
        const auto chosen =
            findOperation("shave.removeHoles")
                ->run(model, {{"chosenAt", {{one->middle.X(), one->middle.Y(), one->middle.Z()}}}}, quietly());
        QVERIFY2(chosen, said(chosen));
        QCOMPARE_NEAR(areaOf(chosen->model.parts[0]->shape) / (scale * scale), 1800.0 - M_PI * 2.5 * 2.5, 1e-6 * 1800);
    }

    void ofASolidTheyAreNone() {
        QVERIFY(survey::findSheetCorners(*modelOf(drilledPlate(100, 60, 8, 4, 5)).parts[0], 4.0).empty());
    }
};
static Registered<SheetCornersTest> sheetCornersTest;

}  // namespace rasoir::test

#include "sheet_corners_test.moc"
