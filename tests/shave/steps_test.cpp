// Low steps on bodies of known answer: found as made, and one face where there were two.
#include "operations.h"
#include "shave/reliefs.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/reliefs.h"

namespace rasoir::test {

class StepsTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape at(const TopoDS_Shape& shape, double x, double y, double z) {
        gp_Trsf shift;
        shift.SetTranslation(gp_Vec(x, y, z));
        return moved(shape, shift);
    }
    struct Case {
        TopoDS_Shape body, bare;
        int steps = 1;
        double height = 0.5;
        bool raised = false;
    };
    static Case make(const QString& kind) {
        const TopoDS_Shape plain = block(60, 40, 20);
        if (kind == "sunk") return {cut(plain, at(block(25, 50, 1), -1, -5, 19.5)), plain};
        if (kind == "raised") return {fuse(plain, at(block(20, 40, 0.5), 0, 0, 20)), plain, 1, 0.5, true};
        if (kind == "raised at a corner") return {fuse(plain, at(block(20, 15, 0.5), 0, 0, 20)), plain, 1, 0.5, true};
        if (kind == "with a hole beside it and one across it") {
            const auto drilled = [](const TopoDS_Shape& shape) {
                return cut(cut(shape, rod(gp_Ax1(gp_Pnt(10, 20, -1), gp::DZ()), 3, 30)),
                           rod(gp_Ax1(gp_Pnt(24, 30, -1), gp::DZ()), 2, 30));
            };
            return {drilled(cut(plain, at(block(25, 50, 1), -1, -5, 19.5))), drilled(plain)};
        }
        if (kind == "two, like a stair")
            return {cut(cut(plain, at(block(36, 50, 1), -1, -5, 19.5)), at(block(16, 50, 1), -1, -5, 19.1)), plain, 2,
                    0.4};
        if (kind == "on a shaft")
            return {
                fuse(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp::DZ()), 10, 30), rod(gp_Ax1(gp_Pnt(0, 0, 30), gp::DZ()), 9.5, 10)),
                rod(gp_Ax1(gp_Pnt(0, 0, 0), gp::DZ()), 10, 40), 1, 0.5, false};
        return {};
    }
    static std::vector<survey::Relief> found(const TopoDS_Shape& shape, double target = 4.0) {
        const Model model = modelOf(shape);
        auto reliefs = survey::findReliefs(*model.parts[0], target, {}, quietly());
        std::vector<survey::Relief> steps;
        if (reliefs)
            for (survey::Relief& relief : *reliefs)
                if (relief.kind == survey::ReliefKind::Step) steps.push_back(std::move(relief));
        return steps;
    }
    static Result<Outcome> without(const TopoDS_Shape& shape, double upTo, double target) {
        Model model = modelOf(shape);
        model.targetSize = target;
        return findOperation("shave.removeReliefs")->run(model, {{"upTo", upTo}, {"kinds", {"step"}}}, quietly());
    }
    static void kinds() {
        QTest::addColumn<QString>("kind");
        for (const char* kind : {"sunk", "raised", "raised at a corner", "with a hole beside it and one across it",
                                 "two, like a stair", "on a shaft"})
            QTest::newRow(kind) << QString(kind);
    }

private slots:
    void isFoundAsMade_data() { kinds(); }
    void isFoundAsMade() {
        QFETCH(QString, kind);
        const Case c = make(kind);
        QVERIFY(isValid(c.body));
        const auto steps = found(c.body);
        QCOMPARE(static_cast<int>(steps.size()), c.steps);
        QCOMPARE_NEAR(steps.front().height, c.height, 1e-6);
        QCOMPARE(steps.front().raised, c.raised);
        QCOMPARE_NEAR(c.steps == 1 ? volumeOf(c.bare) - volumeOf(c.body) : steps.front().gain, steps.front().gain,
                      0.05 * std::abs(steps.front().gain));
        QVERIFY(found(c.bare).empty());
    }

    void goesAndLeavesTheBareBody_data() {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<double>("scale");
        for (const char* kind : {"sunk", "raised", "raised at a corner", "with a hole beside it and one across it",
                                 "two, like a stair", "on a shaft"})
            for (const double scale : {1.0, 0.001, 1000.0})
                QTest::newRow(qPrintable(QString("%1, x%2").arg(kind).arg(scale))) << QString(kind) << scale;
    }
    void goesAndLeavesTheBareBody() {
        QFETCH(QString, kind);
        QFETCH(double, scale);
        const Case c = make(kind);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, -2, 1), gp_Dir(1, 2, -0.4)), 0.8);
        const auto outcome = without(scaledBy(moved(c.body, turn), scale), 0.6 * scale, 4.0 * scale);
        QVERIFY2(outcome, said(outcome));
        for (const Item& item : outcome->items) QVERIFY2(item.done, item.problem.what.c_str());
        const TopoDS_Shape made = outcome->model.parts[0]->shape;
        QVERIFY(isValid(made));
        QCOMPARE(openEdgesIn(made), 0);
        QCOMPARE(facesIn(made), facesIn(c.bare));
        QCOMPARE_NEAR(volumeOf(made) / (scale * scale * scale), volumeOf(c.bare), 1e-6 * volumeOf(c.bare));
    }

    void whatIsTheBodysShapeIsNoStep() {
        QVERIFY(
            found(fuse(block(60, 40, 20), at(block(30, 40, 15), 0, 0, 20))).empty());  // 15 high where elements are 4
        QVERIFY(found(cut(block(60, 40, 20), at(block(10, 50, 0.5), 20, -5, 19.5))).empty());  // a groove: a notch
    }

    void aHigherOneGoesWhenItIsAskedForAndNoneIsSaid() {
        const TopoDS_Shape body = fuse(block(60, 40, 20), at(block(60, 10, 3), 0, 0, 20));
        const auto outcome = without(body, 5.0, 4.0);
        QVERIFY2(outcome, said(outcome));
        QCOMPARE_NEAR(volumeOf(outcome->model.parts[0]->shape), 60.0 * 40 * 20, 1e-3);
        const auto none = without(block(10, 10, 10), 5.0, 4.0);
        QVERIFY(!none);
        QVERIFY(QString::fromStdString(none.error().what).contains("step"));
    }
};
static Registered<StepsTest> stepsTest;

}  // namespace rasoir::test

#include "steps_test.moc"
