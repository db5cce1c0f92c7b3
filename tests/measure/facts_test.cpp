#include "measure/facts.h"

#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>

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
        const Model model = modelOf(block(10, 20, 30));
        QCOMPARE_NEAR(measure::massOf(model, *model.parts[0], facts).mass, 0.0471, 1e-9);
        QCOMPARE(measure::massText(0.0471, facts), std::string("0.0471 kg"));
        measure::Facts loose = facts;  // a solid among loose faces, then loose faces alone
        loose.sheets = loose.bareSheets = 3;
        QCOMPARE(measure::massText(0.0471, loose), std::string("0.0471 kg, without open skins"));
        // Sheets of known thickness weigh what they weigh.
        loose.bareSheets = 0;
        QCOMPARE(measure::massText(0.0471, loose), std::string("0.0471 kg"));
        loose.bareSheets = 3;
        loose.solids = 0;
        QCOMPARE(measure::massText(0.0, loose), std::string("none: open skins weigh nothing"));
    }
    void bodiesOfSplinesWeighWhatTheyDid() {
        // A pin whose every surface came as a spline: plain quadrature is off by a thousandth on its discs.
        const TopoDS_Shape pin =
            fuse(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp::DZ()), 10, 28), coneOf(gp_Ax1(gp_Pnt(0, 0, 28), gp::DZ()), 10, 8, 2));
        const measure::Facts plain = measure::factsOf(Part("pin", pin), 4.0, false),
                             splines = measure::factsOf(Part("pin", asSplines(pin)), 4.0, false);
        QCOMPARE_NEAR(plain.volume, M_PI * (2800.0 + (100.0 + 80 + 64) * 2 / 3), 1e-6 * plain.volume);
        QCOMPARE_NEAR(splines.volume, plain.volume, 1e-5 * plain.volume);
        QCOMPARE_NEAR(splines.area, plain.area, 1e-5 * plain.area);
        QVERIFY(splines.centre.Distance(plain.centre) < 1e-3);
        QCOMPARE_NEAR(splines.inertia[2], plain.inertia[2], 1e-4 * plain.inertia[2]);
    }
    void productsOfInertiaHaveTheirSign() {
        // Two blocks on each other, neither in the middle of the other: each has no products of its own, so that the
        // whole has those of two points (parallel axes).
        const TopoDS_Shape shape = fuse(block(10, 20, 30), moved(block(6, 8, 12), [] {
                                            gp_Trsf by;
                                            by.SetTranslation(gp_Vec(10, 3, 5));
                                            return by;
                                        }()));
        const measure::Facts facts = measure::factsOf(Part("two", shape), 4.0, false);
        const std::array<double, 2> volumes{6000.0, 576.0};
        const std::array<gp_XYZ, 2> sizes{gp_XYZ(10, 20, 30), gp_XYZ(6, 8, 12)},
            at{gp_XYZ(5, 10, 15), gp_XYZ(13, 7, 11)};
        const double volume = volumes[0] + volumes[1];
        const gp_XYZ centre = (at[0] * volumes[0] + at[1] * volumes[1]) / volume;
        std::array<double, 6> wanted{};
        for (std::size_t k = 0; k < 2; ++k) {
            const gp_XYZ d = at[k] - centre, s = sizes[k];
            const double v = volumes[k];
            wanted[0] += v * ((s.Y() * s.Y() + s.Z() * s.Z()) / 12 + d.Y() * d.Y() + d.Z() * d.Z());
            wanted[1] += v * ((s.X() * s.X() + s.Z() * s.Z()) / 12 + d.X() * d.X() + d.Z() * d.Z());
            wanted[2] += v * ((s.X() * s.X() + s.Y() * s.Y()) / 12 + d.X() * d.X() + d.Y() * d.Y());
            wanted[3] -= v * d.X() * d.Y();
            wanted[4] -= v * d.X() * d.Z();
            wanted[5] -= v * d.Y() * d.Z();
        }
        QCOMPARE_NEAR(facts.volume, volume, 1e-9 * volume);
        QVERIFY(facts.centre.Distance(gp_Pnt(centre)) < 1e-9);
        for (std::size_t k = 0; k < 6; ++k) QCOMPARE_NEAR(facts.inertia[k], wanted[k], 1e-9 * wanted[2]);
    }
    void piecesOfAWholeWeighWhatItDoes() {
        // Their cut faces are flats bounded by long splines, and the rest of each ring ends in them.
        const TopoDS_Shape ring = BRepPrimAPI_MakeTorus(20, 6).Shape();
        for (const auto& [through, normal] : {std::pair{gp_Pnt(3, 1, 0.5), gp_Dir(1, 0.3, 0.8)},
                                              {gp_Pnt(0, 5, 0), gp_Dir(0.1, 1, 0.2)},
                                              {gp_Pnt(0, 0, 2), gp_Dir(0.05, 0.02, 1)}}) {
            const auto done = run(modelOf(ring), "divide.cut",
                                  {{"planes",
                                    {{{"through", {through.X(), through.Y(), through.Z()}},
                                      {"normal", {normal.X(), normal.Y(), normal.Z()}}}}}});
            QVERIFY2(done, said(done));
            const auto pieces = measure::factsOfParts(done->model, false, quietly());
            QVERIFY2(pieces, said(pieces));
            const measure::Facts whole = measure::factsOf(Part("ring", ring), 4.0, false);
            double volume = 0.0;
            gp_XYZ first;
            std::array<double, 3> about{};  // of the pieces about the origin, where the ring's centre is
            for (const measure::Facts& piece : *pieces) {
                volume += piece.volume;
                first += piece.centre.XYZ() * piece.volume;
                const gp_XYZ c = piece.centre.XYZ();
                for (int k = 0; k < 3; ++k)
                    about[static_cast<std::size_t>(k)] +=
                        piece.inertia[static_cast<std::size_t>(k)] +
                        piece.volume * (c.SquareModulus() - c.Coord(k + 1) * c.Coord(k + 1));
            }
            QCOMPARE_NEAR(volume, 2.0 * M_PI * M_PI * 20 * 36, 1e-7 * volume);
            QVERIFY(first.Modulus() < 1e-6 * volume * 20);
            for (std::size_t k = 0; k < 3; ++k) QCOMPARE_NEAR(about[k], whole.inertia[k], 1e-6 * whole.inertia[k]);
        }
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
        // Inertia, each cube weighed by itself, against the one large cube.
        const measure::MassProperties many = measure::massOf(model, *measure::factsOfParts(model, false, quietly()));
        const measure::MassProperties one = measure::massOf(model, Part("large", block(20, 20, 20)), large);
        QCOMPARE_NEAR(many.mass, one.mass, 1e-12);
        for (std::size_t i = 0; i < 6; ++i) QCOMPARE_NEAR(many.inertia[i], one.inertia[i], 1e-9 * one.inertia[0]);
        for (std::size_t i = 0; i < 6; ++i)
            QCOMPARE_NEAR(many.about(gp_Pnt(7, -3, 100))[i], one.about(gp_Pnt(7, -3, 100))[i],
                          1e-9 * one.about(gp_Pnt(7, -3, 100))[0]);
        QCOMPARE_NEAR(sum.high[0], 20.0, 1e-6);
        QCOMPARE(sum.faces, 48);
    }
    void massesAndInertiasOfKnownBodies() {
        // Box, cylinder, sphere, torus and hollow bodies against their formulas, moved and turned.
        struct Known {
            TopoDS_Shape shape;
            double volume, small, large;  // principal second moments per unit volume, two of them
        };
        const double r = 7, h = 30, ring = 20, tube = 4, inner = 4;
        const auto z = gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        const auto ball = [](double radius) { return BRepPrimAPI_MakeSphere(radius).Shape(); };
        const double outerBall = 4.0 / 3 * M_PI * std::pow(r, 3), innerBall = 4.0 / 3 * M_PI * std::pow(inner, 3);
        const double hollowBall = (0.4 * outerBall * r * r - 0.4 * innerBall * inner * inner) / (outerBall - innerBall);
        const std::vector<Known> bodies = {
            {block(10, 20, 30), 6000, (100.0 + 400) / 12, (400.0 + 900) / 12},
            {rod(z, r, h), M_PI * r * r * h, r * r / 2, (3 * r * r + h * h) / 12},
            {ball(r), outerBall, 0.4 * r * r, 0.4 * r * r},
            {BRepPrimAPI_MakeTorus(ring, tube).Shape(), 2 * M_PI * M_PI * ring * tube * tube,
             ring * ring / 2 + 5.0 / 8 * tube * tube, ring * ring + 0.75 * tube * tube},
            {cut(rod(z, r, h), rod(gp_Ax1(gp_Pnt(0, 0, -1), gp_Dir(0, 0, 1)), inner, h + 2)),
             M_PI * (r * r - inner * inner) * h, (r * r + inner * inner) / 2,
             (3 * (r * r + inner * inner) + h * h) / 12},
            {cut(ball(r), ball(inner)), outerBall - innerBall, hollowBall, hollowBall}};
        Random random(5);
        for (const Known& body : bodies) {
            Model model = modelOf(body.shape);
            gp_Trsf turn, shift;
            turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3),
                                    gp_Dir(between(random, 0.1, 1), between(random, -1, 1), between(random, -1, 1))),
                             between(random, 0, 6));
            shift.SetTranslation(gp_Vec(between(random, -100, 100), 5, 6));
            model.occurrences.change(0).placement = shift * turn;
            const auto mass = measure::massOf(model, *measure::factsOfParts(model, false, quietly()));
            QCOMPARE_NEAR(mass.mass, body.volume * 7850e-9, 1e-9 * mass.mass);
            const auto principal = mass.principal();
            const auto has = [&](double wanted) {
                return std::any_of(principal.begin(), principal.end(),
                                   [&](double p) { return std::abs(p - wanted * mass.mass) <= 1e-9 * principal[2]; });
            };
            QVERIFY2(has(body.small) && has(body.large), qPrintable(QString("%1 %2 %3 wanted %4 %5")
                                                                        .arg(principal[0])
                                                                        .arg(principal[1])
                                                                        .arg(principal[2])
                                                                        .arg(body.small * mass.mass)
                                                                        .arg(body.large * mass.mass)));
        }
    }
    void aSheetIsNotClosed() {
        const measure::Facts facts =
            measure::factsOf(Part("sheet", TopExp_Explorer(block(10, 20, 30), TopAbs_FACE).Current()), 4.0, true);
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
        Model drilled = modelOf(drilledPlate(100, 60, 8, 4, 5)), bare = modelOf(block(100, 60, 8));
        drilled.density = bare.density = 1000;
        const auto before = measure::factsOfParts(drilled, false, quietly()),
                   after = measure::factsOfParts(bare, false, quietly());
        const measure::Effect effect = measure::effectOf(drilled, *before, bare, *after);
        QCOMPARE_NEAR(effect.massAfter - effect.massBefore, ((*after)[0].volume - (*before)[0].volume) * 1e-6, 1e-12);
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
