// Holes in sheets, and holes that form circles, rows and grids.
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepGProp.hxx>
#include <gp_Circ.hxx>
#include <gp_Pln.hxx>
#include <GProp_GProps.hxx>

#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/holes.h"

namespace rasoir::test {

class PatternsTest : public QObject {
    Q_OBJECT

    static gp_Ax1 up(double x, double y) { return gp_Ax1(gp_Pnt(x, y, -1), gp_Dir(0, 0, 1)); }
    static std::vector<survey::Hole> holesIn(const TopoDS_Shape& body) {
        auto found = survey::findHoles(*modelOf(body).parts[0], 4.0, {}, quietly());
        return found ? *found : std::vector<survey::Hole>();
    }
    static double areaOf(const TopoDS_Shape& shape) {
        GProp_GProps props;
        BRepGProp::SurfaceProperties(shape, props);
        return props.Mass();
    }
    /// 100 x 60, with round holes of 6 and a square one of 8.
    static TopoDS_Shape sheet(const std::vector<gp_Pnt>& round, const std::vector<gp_Pnt>& square) {
        BRepBuilderAPI_MakeFace face(gp_Pln(gp::XOY()), 0.0, 100.0, 0.0, 60.0);
        for (const gp_Pnt& at : round)
            face.Add(TopoDS::Wire(
                BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(at, gp_Dir(0, 0, -1)), 3)).Edge())
                    .Wire()));
        for (const gp_Pnt& at : square) {
            BRepBuilderAPI_MakePolygon outline;
            for (const auto& [x, y] : {std::pair{-4, -4}, {-4, 4}, {4, 4}, {4, -4}})
                outline.Add(at.Translated(gp_Vec(x, y, 0)));
            outline.Close();
            face.Add(outline.Wire());
        }
        return face.Face();
    }

private slots:
    void circlesRowsAndGridsAreSeen_data() {
        QTest::addColumn<QString>("form");
        QTest::addColumn<QString>("told");
        QTest::newRow("circle") << "circle"
                                << "in a circle of 5, Ø 40";
        QTest::newRow("row") << "row"
                             << "in a row of 4, 20 apart";
        QTest::newRow("grid") << "grid"
                              << "in a grid of 3 × 2, 20 and 25 apart";
        QTest::newRow("square") << "square"
                                << "in a grid of 2 × 2, 20 and 20 apart";
        QTest::newRow("anyhow") << "anyhow"
                                << "";
        QTest::newRow("a grid with a gap") << "gap"
                                           << "";
    }
    void circlesRowsAndGridsAreSeen() {
        QFETCH(QString, form);
        QFETCH(QString, told);
        std::vector<gp_Pnt> places;
        if (form == "circle")
            for (int i = 0; i < 5; ++i)
                places.emplace_back(50 + 20 * std::cos(0.3 + 2 * M_PI * i / 5),
                                    40 + 20 * std::sin(0.3 + 2 * M_PI * i / 5), 0);
        else if (form == "row")
            for (int i = 0; i < 4; ++i) places.emplace_back(15 + 20 * i, 30, 0);
        else if (form == "anyhow")
            places = {{10, 10, 0}, {31, 17, 0}, {55, 40, 0}, {80, 22, 0}};
        else if (form == "square")
            places = {{20, 20, 0}, {40, 20, 0}, {20, 40, 0}, {40, 40, 0}};
        else
            for (int i = 0; i < 3; ++i)
                for (int j = 0; j < 2; ++j)
                    if (form != "gap" || i != 1 || j != 1) places.emplace_back(15 + 20 * i, 15 + 25 * j, 0);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(2, -1, 1)), 0.6);
        TopoDS_Shape plate = block(100, 80, 8);
        for (const gp_Pnt& at : places) plate = cut(plate, rod(up(at.X(), at.Y()), 3, 20));
        for (const TopoDS_Shape& body : {plate, moved(plate, turn)}) {
            const auto holes = holesIn(body);
            QCOMPARE(holes.size(), places.size());
            for (const auto& hole : holes) QCOMPARE(QString::fromStdString(hole.pattern), told);
        }
        if (!told.isEmpty()) QVERIFY(QString::fromStdString(survey::describe(holesIn(plate).front())).contains(told));
    }
    void holesOfSheetsAreFoundKeptAndFilled() {
        const std::vector<gp_Pnt> round{{20, 15, 0}, {20, 45, 0}, {80, 15, 0}, {80, 45, 0}};
        const TopoDS_Shape body = sheet(round, {gp_Pnt(50, 30, 0)});
        const double full = 100 * 60, disc = M_PI * 9;
        QCOMPARE_NEAR(areaOf(body), full - 4 * disc - 64, 1e-6);
        for (const double scale : {1.0, 0.01, 1000.0}) {
            const TopoDS_Shape scaled = scaledBy(body, scale);
            const Model model = modelOf(scaled);
            const auto holes = survey::findHoles(*model.parts[0], 4.0 * scale, {}, quietly());
            QVERIFY(holes.has_value());
            QCOMPARE(holes->size(), std::size_t(5));
            for (std::size_t h = 0; h < 5; ++h) {
                QVERIFY((*holes)[h].kind == survey::HoleKind::Sheet);
                QCOMPARE_NEAR((*holes)[h].size, (h < 4 ? 6.0 : 8.0) * scale, 1e-9 * scale);
            }
            QVERIFY((*holes)[0].pattern.find("grid of 2 × 2") != std::string::npos);
            const auto small =
                findOperation("shave.removeHoles")
                    ->run(model, {{"upTo", 7 * scale}, {"keptAt", {{20 * scale, 15 * scale, 0.0}}}}, quietly());
            QVERIFY2(small, said(small));
            QCOMPARE_NEAR(areaOf(small->model.parts[0]->shape), (full - disc - 64) * scale * scale,
                          1e-9 * full * scale * scale);
            QVERIFY(isValid(small->model.parts[0]->shape));
            QCOMPARE(small->items.size(), std::size_t(3));
            const auto square =
                findOperation("shave.removeHoles")
                    ->run(model, {{"upTo", 0}, {"chosenAt", {{50 * scale, 30 * scale, 0.0}}}}, quietly());
            QVERIFY2(square, said(square));
            QCOMPARE_NEAR(areaOf(square->model.parts[0]->shape), (full - 4 * disc) * scale * scale,
                          1e-9 * full * scale * scale);
        }
        // A middle that is none is refused, even beside one that is.
        const auto wrong =
            findOperation("shave.removeHoles")
                ->run(modelOf(body), {{"upTo", 0}, {"chosenAt", {{50.0, 30.0, 0.0}, {51.0, 40.0, 0.0}}}}, quietly());
        QVERIFY(!wrong);
        QVERIFY(wrong.error().what.find("no hole of a sheet") != std::string::npos);
        // The outline is no hole, and a sheet without any says so.
        QVERIFY(holesIn(sheet({}, {})).empty());
        QVERIFY(!findOperation("shave.removeHoles")->run(modelOf(sheet({}, {})), {{"upTo", 100}}, quietly()));
    }
    void aSolidBesideASheetLosesItsHolesInTheSameStep() {
        TopoDS_Compound both;
        const BRep_Builder builder;
        builder.MakeCompound(both);
        builder.Add(both, cut(block(40, 40, 10), rod(up(20, 20), 3, 20)));
        gp_Trsf away;
        away.SetTranslation(gp_Vec(0, 0, 50));
        builder.Add(both, moved(sheet({gp_Pnt(50, 30, 0)}, {}), away));
        const auto done = findOperation("shave.removeHoles")->run(modelOf(both), {{"upTo", 7}}, quietly());
        QVERIFY2(done, said(done));
        QCOMPARE(done->items.size(), std::size_t(2));
        QCOMPARE(solidsIn(done->model.parts[0]->shape), 1);
        QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 2 * 1600.0 + 4 * 400.0 + 6000.0, 1e-6);
    }
};

static Registered<PatternsTest> patternsTest;

}  // namespace rasoir::test

#include "patterns_test.moc"
