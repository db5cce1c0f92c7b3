#include "forecast/elements.h"

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class ElementsTest : public QObject {
    Q_OBJECT
private slots:
    void aLargePlainFaceCostsNothingExtra() {
        QCOMPARE_NEAR(forecast::faceShare(10000.0, 400.0, 0.0, 4.0).extra, 0.0, 1e-12);
        QCOMPARE_NEAR(forecast::faceShare(10000.0, 400.0, 0.0, 4.0).localSize, 4.0, 1e-12);
    }
    void smallerAndTighterCostsMore() {
        double before = 0.0;
        for (const double radius : {8.0, 4.0, 2.0, 1.0}) {
            const double extra = forecast::faceShare(100.0, 45.0, radius, 5.0).extra;
            QVERIFY(extra > before);
            before = extra;
        }
    }
    void theEstimateDoesNotDependOnTheUnit() {
        // Same shape, same target in proportion: same number of elements.
        for (const double factor : {0.01, 1.0, 100.0}) {
            const auto share = forecast::faceShare(50.0 * factor * factor, 40.0 * factor, 1.5 * factor, 4.0 * factor);
            QCOMPARE_NEAR(share.extra, forecast::faceShare(50.0, 40.0, 1.5, 4.0).extra, 1e-6 * share.extra);
        }
    }
    void theClosedFormIsTheIntegral() {
        // Elements per volume from the face outwards, summed by hand.
        const double h = 5.0, area = 30.0, perimeter = 60.0, s = 2.0 * area / perimeter, growth = 0.25,
                     perCube = 6.0 * std::sqrt(2.0);
        double sum = 0.0;
        const double reach = (h - s) / growth;
        constexpr int steps = 200000;
        for (int i = 0; i < steps; ++i) {
            const double size = s + growth * reach * (i + 0.5) / steps;
            sum += area * perCube * (1.0 / (size * size * size) - 1.0 / (h * h * h)) * reach / steps;
        }
        QCOMPARE_NEAR(forecast::faceShare(area, perimeter, 0.0, h).extra, sum, 1e-6 * sum);
    }
    void absurdlySmallFacesDoNotRunAway() { QVERIFY(std::isfinite(forecast::faceShare(1e-12, 1.0, 1e-9, 5.0).extra)); }
};

static Registered<ElementsTest> elementsTest;

}  // namespace rasoir::test

#include "elements_test.moc"
