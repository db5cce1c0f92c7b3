// Bodies that stand on another made one with it, on bodies of known volume.
#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <TopoDS_Compound.hxx>

#include "geometry/integrals.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class UniteTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape at(const TopoDS_Shape& shape, double x, double y, double z) {
        gp_Trsf shift;
        shift.SetTranslation(gp_Vec(x, y, z));
        return moved(shape, shift);
    }
    static TopoDS_Shape bag(const std::vector<TopoDS_Shape>& bodies) {
        TopoDS_Compound all;
        const BRep_Builder builder;
        builder.MakeCompound(all);
        for (const TopoDS_Shape& body : bodies) builder.Add(all, body);
        return all;
    }
    static Result<Outcome> unite(const TopoDS_Shape& shape, double upTo) {
        return findOperation("mend.uniteStray")->run(modelOf(shape), {{"upTo", upTo}}, quietly());
    }

private slots:
    void bodiesThatTouchBecomeOne_data() {
        QTest::addColumn<TopoDS_Shape>("shape");
        QTest::addColumn<double>("volume");
        QTest::addColumn<int>("faces");
        const TopoDS_Shape plate = block(60, 40, 10);
        QTest::newRow("a block on a plate") << bag({plate, at(block(8, 6, 5), 20, 15, 10)}) << 24240.0 << 11;
        QTest::newRow("a pin on a plate")
            << bag({plate, rod(gp_Ax1(gp_Pnt(30, 20, 10), gp_Dir(0, 0, 1)), 4, 7)}) << 24000 + M_PI * 16 * 7 << 8;
        QTest::newRow("two on one face") << bag({plate, at(block(8, 6, 5), 20, 15, 10), at(block(4, 4, 4), 45, 25, 10)})
                                         << 24304.0 << 16;
        QTest::newRow("one on each side")
            << bag({plate, at(block(8, 6, 5), 20, 15, 10), at(block(4, 4, 4), 45, 25, -4)}) << 24304.0 << 16;
        QTest::newRow("end to end") << bag({block(60, 10, 10), at(block(20, 10, 10), 60, 0, 0)}) << 8000.0 << 10;
        QTest::newRow("a wider foot under a post")
            << bag({at(block(4, 4, 60), 3, 3, 4), block(10, 10, 4)}) << 1360.0 << 11;
        QTest::newRow("on a pin's end") << bag({rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 10, 50),
                                                rod(gp_Ax1(gp_Pnt(0, 0, 50), gp_Dir(0, 0, 1)), 3, 5)})
                                        << M_PI * (5000 + 45) << 5;
    }
    void bodiesThatTouchBecomeOne() {
        QFETCH(TopoDS_Shape, shape);
        QFETCH(double, volume);
        QFETCH(int, faces);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(5, -3, 2), gp_Dir(1, 1, -2)), 0.9);
        for (const double factor : {1.0, 0.001, 1000.0}) {
            const TopoDS_Shape received = scaledBy(factor == 1.0 ? shape : moved(shape, turn), factor);
            const auto done = unite(received, 25.0 * factor);
            QVERIFY2(done, said(done));
            const TopoDS_Shape& made = done->model.parts[0]->shape;
            QCOMPARE(solidsIn(made), 1);
            QCOMPARE(openEdgesIn(made), 0);
            QVERIFY(isValid(made));
            QCOMPARE(facesIn(made), faces);
            QCOMPARE_NEAR(volumeOf(made), volume * factor * factor * factor, 1e-7 * volume * factor * factor * factor);
            QVERIFY(isValid(received) && solidsIn(received) > 1);  // as it was
        }
    }
    void whatCannotBeUnitedStays_data() {
        QTest::addColumn<TopoDS_Shape>("shape");
        QTest::addColumn<QString>("why");
        const TopoDS_Shape plate = block(60, 40, 10);
        QTest::newRow("apart") << bag({plate, at(block(8, 6, 5), 20, 15, 11)}) << "none of its faces";
        QTest::newRow("over the rim") << bag({plate, at(block(8, 6, 5), 56, 15, 10)}) << "only in part";
        QTest::newRow("sunk in") << bag({plate, at(block(8, 6, 5), 20, 15, 8)}) << "reach into each other";
        QTest::newRow("touching an edge") << bag({plate, at(block(8, 6, 5), 60, 15, 10)}) << "none of its faces";
    }
    void whatCannotBeUnitedStays() {
        QFETCH(TopoDS_Shape, shape);
        QFETCH(QString, why);
        const auto done = unite(shape, 25.0);
        QVERIFY(!done);
        QVERIFY2(QString::fromStdString(done.error().what).contains(why), said(done));
        QVERIFY(done.error().where.point.has_value());
    }
    void twoEdgesAreBridged_data() {
        QTest::addColumn<double>("lift");
        QTest::addColumn<bool>("turned");
        QTest::newRow("in one plane") << 0.0 << false;
        QTest::newRow("one lifted") << 2.0 << false;
        QTest::newRow("looking opposite ways") << 2.0 << true;
    }
    void twoEdgesAreBridged() {
        QFETCH(double, lift);
        QFETCH(bool, turned);
        // Two plates 1.5 mm apart, the second lifted: a strip between them.
        const auto plate = [](double x0, double x1, double z) {
            return BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, z), gp::DZ()), x0, x1, 0, 30).Face();
        };
        const TopoDS_Shape second = plate(41.5, 80, lift);
        const TopoDS_Shape received = bag({plate(0, 40, 0), turned ? second.Reversed() : second});
        const Model model = modelOf(received);
        const Json edges = Json::array({Json::array({Json::array({40, 15, 0}), Json::array({41.5, 15, lift})})});
        const auto done =
            findOperation("mend.bridge")->run(model, {{"part", model.parts[0]->name}, {"edges", edges}}, quietly());
        QVERIFY2(done, said(done));
        const TopoDS_Shape& made = done->model.parts[0]->shape;
        QCOMPARE(facesIn(made), 3);
        QCOMPARE(openEdgesIn(made), 8);
        QVERIFY(isValid(made));
        QCOMPARE_NEAR(areaOf(made), (40.0 + 38.5 + std::hypot(1.5, lift)) * 30.0, 1e-6);
        QCOMPARE(facesIn(received), 2);
        // Far from any edge, twice the same one, or a number that is none.
        for (const Json& bad :
             {Json::array({Json::array({Json::array({20, 200, 0}), Json::array({41.5, 15, lift})})}),
              Json::array({Json::array({Json::array({40, 15, 0}), Json::array({40, 16, 0})})}), Json::array()})
            QVERIFY(
                !findOperation("mend.bridge")->run(model, {{"part", model.parts[0]->name}, {"edges", bad}}, quietly()));
    }
    void curvedEdgesAreBridgedByARuledFace() {
        // Two quarters of pipes of different radius: the face between their ends is ruled, and its sides the straight
        // ones.
        const auto arc = [](double radius, double z) {
            BRepBuilderAPI_MakeFace face(gp_Cylinder(gp_Ax3(gp_Pnt(0, 0, z), gp_Dir(0, 0, 1)), radius), 0.0, M_PI / 2,
                                         0.0, 10.0);
            return face.Face();
        };
        const Model model = modelOf(bag({arc(10, 0), arc(8, 15)}));
        const double s = std::sqrt(0.5);
        const Json edges =
            Json::array({Json::array({Json::array({10 * s, 10 * s, 10}), Json::array({8 * s, 8 * s, 15})})});
        const auto done =
            findOperation("mend.bridge")->run(model, {{"part", model.parts[0]->name}, {"edges", edges}}, quietly());
        QVERIFY2(done, said(done));
        const TopoDS_Shape& made = done->model.parts[0]->shape;
        QVERIFY(isValid(made));
        QCOMPARE(facesIn(made), 3);
        QCOMPARE(openEdgesIn(made), 8);
        const double cone = M_PI * (10 + 8) * std::hypot(2.0, 5.0) / 4.0;  // a quarter of a frustum's wall
        QCOMPARE_NEAR(areaOf(made), M_PI / 2 * 180 + cone, 0.01);
    }
    void oneThatStaysDoesNotHinderTheOthers() {
        const auto done =
            unite(bag({block(60, 40, 10), at(block(8, 6, 5), 20, 15, 10), at(block(3, 3, 3), 20, 15, 30)}), 25.0);
        QVERIFY2(done, said(done));
        QCOMPARE(solidsIn(done->model.parts[0]->shape), 2);
        QCOMPARE(std::count_if(done->items.begin(), done->items.end(), [](const Item& item) { return !item.done; }),
                 std::ptrdiff_t(1));
        QVERIFY(!unite(block(10, 10, 10), 25.0));
        QVERIFY(!unite(block(10, 10, 10), -1.0));
    }
};

static Registered<UniteTest> uniteTest;

}  // namespace rasoir::test

#include "unite_test.moc"
