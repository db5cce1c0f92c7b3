// Rounds and chamfers at random edges of random bodies: taken away again the bare body is back, or they stay with a
// reason; never another body.
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepGProp.hxx>
#include <GProp_GProps.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/rounds.h"

namespace rasoir::test {

class RandomStripsTest : public QObject {
    Q_OBJECT

    static gp_Trsf at(double x, double y, double z) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(x, y, z));
        return by;
    }
    static TopoDS_Shape bare(int kind, Random& random) {
        const TopoDS_Shape box = block(between(random, 40, 80), between(random, 30, 60), between(random, 20, 40));
        const auto upright = [&](double x, double y, double z) {
            return gp_Ax1(gp_Pnt(x, y, z), gp_Dir(between(random, -0.2, 0.2), between(random, -0.2, 0.2), 1));
        };
        switch (kind) {
            case 0:
                return box;
            case 1:
                return cut(box, moved(block(60, 60, 60), at(between(random, 12, 22), -1, between(random, 8, 14))));
            case 2:
                return fuse(box, rod(upright(20, 15, 10), between(random, 5, 9), 50));
            case 3:
                return cut(box, moved(block(between(random, 12, 20), between(random, 10, 14), 50),
                                      at(9, 8, between(random, 8, 14))));
            case 4:
                return rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), between(random, 8, 20), between(random, 10, 40));
            case 5:
                return fuse(coneOf(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 20, between(random, 8, 16), 25),
                            moved(block(12, 60, 12), at(-6, -30, 0)));
            default:
                return splineTopped(60, 40, 20, 2);
        }
    }

private slots:
    void roundsComeAndGo_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<bool>("chamfers");
        const char* names[] = {"blocks", "steps", "bosses askew", "pockets", "rods", "cones and bars", "spline tops"};
        for (const bool chamfers : {false, true})
            for (int kind = 0; kind < 7; ++kind)
                QTest::newRow(qPrintable(QString("%1, %2").arg(names[kind], chamfers ? "chamfers" : "rounds")))
                    << kind << chamfers;
    }
    void roundsComeAndGo() {
        QFETCH(int, kind);
        QFETCH(bool, chamfers);
        const int rounds = qEnvironmentVariableIsSet("RASOIR_LONG") ? 200 : 15;
        Random random(static_cast<std::uint64_t>(kind) * 2 + chamfers + 100);
        int made = 0, bodiesBack = 0, chains = 0, gone = 0, other = 0;
        for (int round = 0; round < rounds; ++round) {
            const TopoDS_Shape base = bare(kind, random);
            TopTools_IndexedMapOfShape edges;
            TopExp::MapShapes(base, TopAbs_EDGE, edges);
            const double size = between(random, 0.5, 2.5);
            TopoDS_Shape shape;
            try {  // the kernel does not manage every set of edges
                const int wanted = 1 + static_cast<int>(random() % 4);
                if (chamfers) {
                    BRepFilletAPI_MakeChamfer maker(base);
                    for (int i = 0; i < wanted; ++i)
                        maker.Add(size, TopoDS::Edge(edges(1 + static_cast<int>(random() % static_cast<std::uint64_t>(
                                                                                               edges.Extent())))));
                    maker.Build();
                    if (maker.IsDone()) shape = maker.Shape();
                } else {
                    BRepFilletAPI_MakeFillet maker(base);
                    for (int i = 0; i < wanted; ++i)
                        maker.Add(size, TopoDS::Edge(edges(1 + static_cast<int>(random() % static_cast<std::uint64_t>(
                                                                                               edges.Extent())))));
                    maker.Build();
                    if (maker.IsDone()) shape = maker.Shape();
                }
            } catch (const Standard_Failure&) {
            }
            if (shape.IsNull() || !isValid(shape) || solidsIn(shape) != 1 ||
                std::abs(volumeOf(shape) - volumeOf(base)) < 1e-6 * volumeOf(base))
                continue;
            ++made;
            const Model model = modelOf(shape);
            const auto done = findOperation(chamfers ? "shave.removeChamfers" : "shave.removeRounds")
                                  ->run(model, {{"upTo", 2.0 * size}}, quietly());
            const bool tell = qEnvironmentVariableIsSet("RASOIR_TELL");
            if (!done && tell) qInfo("round %d, size %g: %s", round, size, done.error().what.c_str());
            const auto chainsBefore = survey::findStrips(*model.parts[0], 4.0, quietly());
            QVERIFY(chainsBefore);
            if (!done) {  // refused whole: all that was found stays
                chains +=
                    static_cast<int>(std::count_if(chainsBefore->begin(), chainsBefore->end(), [&](const auto& chain) {
                        return (chain.kind == survey::StripKind::Chamfer) == chamfers && chain.size <= 2.0 * size;
                    }));
                continue;
            }
            for (const Item& item : done->items)
                if (!item.done && tell)
                    qInfo("round %d, size %g: %s: %s", round, size, item.what.c_str(), item.problem.what.c_str());
            bool all = true;
            for (const Item& item : done->items) {
                ++chains;
                gone += item.done;
                all = all && item.done;
                if (!item.done) QVERIFY(!item.problem.what.empty());
            }
            const TopoDS_Shape& left = done->model.parts[0]->shape;
            QVERIFY(isValid(left));
            QCOMPARE(openEdgesIn(left), 0);
            QCOMPARE(solidsIn(left), 1);
            // All gone, the bare volume is back to the sixth digit; else no more has changed than what went can hold.
            const double before = volumeOf(shape), target = volumeOf(base), now = volumeOf(left);
            double most = 0.0;
            for (const auto& chain : *chainsBefore) most += 1.5 * chain.change;
            QVERIFY(std::abs(now - before) <= most);
            // A body with the bare one's faces is the bare one. More faces: a chamfer on a curved face came as a
            // freeform strip that is not called one.
            if (all && facesIn(left) == facesIn(base))
                QCOMPARE_NEAR(now, target, 1e-6 * target);
            else if (all)
                ++other;
            if (all && std::abs(now - target) <= 1e-6 * target && facesIn(left) == facesIn(base)) ++bodiesBack;
        }
        QVERIFY(made > rounds / 10);
        qInfo(
            "%s: %d bodies made, %d of %d chains gone, %d bodies back to the bare shape, %d with faces that were not "
            "recognised",
            QTest::currentDataTag(), made, gone, chains, bodiesBack, other);
        QVERIFY2((chamfers ? 4 : 2) * bodiesBack >= made, "too few come back");
        QVERIFY2(10 * gone >= 8 * chains, "too few go");
    }
};

static Registered<RandomStripsTest> randomStripsTest;

}  // namespace rasoir::test

#include "random_strips_test.moc"
