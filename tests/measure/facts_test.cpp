#include "measure/facts.h"

#include "measure/effect.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class FactsTest : public QObject {
    Q_OBJECT
private slots:
    void aBlocksFactsAreThoseOfTheTextbook() {
        const measure::Facts facts = measure::factsOf(Part("block", block(10, 20, 30)), 4.0, true);
        QCOMPARE_NEAR(facts.volume, 6000.0, 1e-9);
        QCOMPARE_NEAR(facts.area, 2200.0, 1e-9);
        QCOMPARE_NEAR(facts.centre.Distance(gp_Pnt(5, 10, 15)), 0.0, 1e-9);
        QCOMPARE_NEAR(facts.inertia[0], 6000.0 / 12 * (400 + 900), 1e-6);
        QCOMPARE_NEAR(facts.inertia[1], 6000.0 / 12 * (100 + 900), 1e-6);
        QCOMPARE_NEAR(facts.inertia[2], 6000.0 / 12 * (100 + 400), 1e-6);
        QCOMPARE_NEAR(facts.shortestEdge, 10.0, 1e-9);
        QCOMPARE_NEAR(facts.smallestFace, 200.0, 1e-9);
        QCOMPARE_NEAR(facts.high[2] - facts.low[2], 30.0, 1e-6);
        QVERIFY(facts.closed);
        QVERIFY(*facts.valid);
        QCOMPARE(facts.solids, 1);
        QCOMPARE(facts.surfaces.at("plane"), 6);
        QCOMPARE_NEAR(measure::massOf(facts, 7850), 0.0471, 1e-9);
    }
    void theWholeIsTheSumOfItsPlaces() {
        // Eight small cubes as one assembly, and the same cube eight times as large.
        Model model = modelOf(block(10, 10, 10), "cube");
        model.occurrences.clear();
        for (int i = 0; i < 8; ++i) {
            gp_Trsf place;
            place.SetTranslation(gp_Vec(10 * (i & 1), 10 * (i >> 1 & 1), 10 * (i >> 2)));
            gp_Trsf turn;
            turn.SetRotation(gp_Ax1(gp_Pnt(5, 5, 5), gp_Dir(0, 0, 1)), M_PI_2 * i);
            model.occurrences.push_back({0, place * turn, "cube", {}, std::nullopt});
        }
        const measure::Facts sum = measure::factsOf(model, *measure::factsOfParts(model, true, quietly()));
        const measure::Facts large = measure::factsOf(Part("large", block(20, 20, 20)), 4.0, true);
        QCOMPARE_NEAR(sum.volume, large.volume, 1e-8);
        QCOMPARE_NEAR(sum.centre.Distance(large.centre), 0.0, 1e-9);
        for (std::size_t i = 0; i < 6; ++i) QCOMPARE_NEAR(sum.inertia[i], large.inertia[i], 1e-6 * large.inertia[0]);
        QCOMPARE_NEAR(sum.high[0], 20.0, 1e-6);
        QCOMPARE(sum.faces, 48);
    }
    void aSheetIsNotClosed() {
        const measure::Facts facts = measure::factsOf(Part("sheet", TopExp_Explorer(block(10, 20, 30), TopAbs_FACE).Current()), 4.0, true);
        QCOMPARE(facts.sheets, 1);
        QCOMPARE(facts.openEdges, 4);
        QVERIFY(!facts.closed);
        QCOMPARE_NEAR(facts.volume, 0.0, 0.0);
    }
    void nothingHasNoFacts() {
        const measure::Facts facts = measure::factsOf(Part("none", TopoDS_Shape()), 4.0, true);
        QCOMPARE(facts.faces, 0);
        QVERIFY(!facts.closed);
    }
    void anEffectIsTheDifference() {
        const measure::Facts before = measure::factsOf(Part("b", drilledPlate(100, 60, 8, 4, 5)), 4.0, false), after = measure::factsOf(Part("a", block(100, 60, 8)), 4.0, false);
        const measure::Effect effect = measure::effectOf(before, after, 1000);
        QCOMPARE_NEAR(effect.massAfter - effect.massBefore, (after.volume - before.volume) * 1e-6, 1e-12);
        QCOMPARE(effect.facesAfter, 6);
        QVERIFY(effect.elementsAfter < effect.elementsBefore);
        const Json json = measure::toJson(effect);
        QCOMPARE(json.at("faces").at("after").get<int>(), 6);
    }
    void theCacheMeasuresAShapeOnce() {
        measure::FactsCache cache;
        Model model = modelOf(block(10, 20, 30));
        const auto once = cache.of(model, quietly());
        QVERIFY(once);
        Progress stopped;
        stopped.cancel();
        model.parts.push_back(std::make_shared<Part>("other", block(1, 1, 1)));
        QVERIFY(!cache.of(model, stopped));
        const auto both = cache.of(model, quietly());
        QCOMPARE_NEAR((*both)[0].volume, 6000.0, 1e-9);
        QCOMPARE_NEAR((*both)[1].volume, 1.0, 1e-12);
    }
};

static Registered<FactsTest> factsTest;

}  // namespace rasoir::test

#include "facts_test.moc"
