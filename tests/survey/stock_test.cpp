// Taking stock: copies, fasteners, inner parts, and the receiving report.
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <gp_Ax2.hxx>

#include "common/safe_file.h"
#include "exchange/files.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/copies.h"
#include "survey/fasteners.h"
#include "survey/hidden.h"
#include "survey/receiving.h"

namespace rasoir::test {

class StockTest : public QObject {
    Q_OBJECT

    static Model modelOfAll(const std::vector<std::pair<std::string, TopoDS_Shape>>& shapes) {
        Model model;
        for (const auto& [name, shape] : shapes) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        return model;
    }
    static gp_Trsf anyMovement(Random& random) {
        gp_Trsf turn, shift;
        turn.SetRotation(
            gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(between(random, -1, 1), between(random, -1, 1), between(random, 0.1, 1))),
            between(random, 0, 6));
        shift.SetTranslation(
            gp_Vec(between(random, -500, 500), between(random, -500, 500), between(random, -500, 500)));
        return shift * turn;
    }
    static gp_Trsf mirrorAt(const gp_Dir& normal) {
        gp_Trsf mirror;
        mirror.SetMirror(gp_Ax2(gp_Pnt(1, 2, 3), normal));
        return mirror;
    }
    static std::string namesOf(const std::vector<survey::Fastener>& fasteners) {
        QStringList names;
        for (const survey::Fastener& fastener : fasteners)
            names << QString::fromStdString(survey::fastenerName(fastener.kind));
        return names.join(' ').toStdString();
    }
    static gp_Ax1 zAt(double x, double y, double z) { return gp_Ax1(gp_Pnt(x, y, z), gp_Dir(0, 0, 1)); }
    /// One of many bodies, chiral or not.
    static TopoDS_Shape someBody(int kind, double by) {
        gp_Trsf aside;
        aside.SetTranslation(gp_Vec(20, 3, 5));
        switch (kind) {
            case 0:
                return block(30, 20 * by, 10);
            case 1:
                return drilledPlate(100, 60, 8, 5, 5 * by);
            case 2:
                return rod(zAt(0, 0, 0), 5 * by, 30);
            case 3:
                return BRepPrimAPI_MakeSphere(7 * by).Shape();
            case 4:
                return BRepPrimAPI_MakeTorus(20, 4 * by).Shape();
            case 5:
                return coneOf(zAt(0, 0, 0), 10 * by, 4, 25);
            case 6:
                return fuse(block(30, 10, 5), moved(block(4, 5 * by, 17), aside));  // chiral
            case 7:
                return splineTopped(40, 30, 10, 1.0 * by);
            case 8:
                return cut(rod(zAt(0, 0, 0), 12, 40), rod(zAt(3 * by, 1, -1), 4, 60));  // an eccentric bore
            default:
                return cut(block(30, 30, 30), rod(zAt(15, 15, -1), 5 * by, 40));
        }
    }

private slots:
    void movedAndTurnedCopiesAreFoundAndNearOnesAreNot() {
        Random random(11);
        for (int kind = 0; kind < 10; ++kind) {
            const TopoDS_Shape body = someBody(kind, 1.0), near = someBody(kind, 1.001);
            const gp_Trsf by = anyMovement(random);
            const auto groups = survey::findCopies(
                modelOfAll(
                    {{"a", body}, {"near", near}, {"b", moved(body, by)}, {"c", moved(body, anyMovement(random))}}),
                0.0, quietly());
            QVERIFY(groups);
            QVERIFY2(groups->size() == 1, qPrintable(QString("kind %1: %2 groups").arg(kind).arg(groups->size())));
            QCOMPARE(groups->front().original, std::size_t(0));
            QCOMPARE(groups->front().copies.size(), std::size_t(2));
            for (const survey::Copy& copy : groups->front().copies) {
                QVERIFY(copy.part != 1);
                QVERIFY(!copy.mirrored);
                // What the movement says is true of the volume they share.
                const TopoDS_Shape there = moved(body, copy.from);
                const TopoDS_Shape target = copy.part == 2 ? moved(body, by) : TopoDS_Shape();
                if (!target.IsNull() && kind != 7) {
                    const TopoDS_Shape rest = cut(target, there);
                    QVERIFY2(rest.IsNull() || volumeOf(rest) < 1e-4 * volumeOf(body),
                             qPrintable(QString("kind %1").arg(kind)));
                }
            }
        }
    }
    void mirroredCopiesAreFoundAndCalledSo() {
        Random random(12);
        for (const int kind : {6, 0, 2, 8}) {
            const TopoDS_Shape body = someBody(kind, 1.0);
            const auto groups = survey::findCopies(
                modelOfAll(
                    {{"a", body}, {"mirrored", moved(moved(body, mirrorAt(gp_Dir(1, 2, 0.5))), anyMovement(random))}}),
                0.0, quietly());
            QVERIFY2(groups->size() == 1, qPrintable(QString("kind %1").arg(kind)));
            // Only what is chiral needs the mirror.
            QCOMPARE(groups->front().copies.front().mirrored, kind == 6);
        }
        const auto near = survey::findCopies(
            modelOfAll({{"a", someBody(6, 1.0)}, {"b", moved(someBody(6, 1.001), mirrorAt(gp_Dir(0, 1, 0)))}}), 0.0,
            quietly());
        QVERIFY(near->empty());
    }
    void toleranceDecidesAndSizeDoesNotMatter() {
        const TopoDS_Shape a = block(30, 20, 10), b = block(30.01, 20, 10);
        QVERIFY(survey::findCopies(modelOfAll({{"a", a}, {"b", b}}), 0.0, quietly())->empty());
        QCOMPARE(survey::findCopies(modelOfAll({{"a", a}, {"b", b}}), 0.02, quietly())->size(), std::size_t(1));
        for (const double scale : {1e-3, 1e3}) {
            Random random(3);
            const TopoDS_Shape body = scaledBy(someBody(6, 1.0), scale);
            QCOMPARE(survey::findCopies(modelOfAll({{"a", body},
                                                    {"b", moved(body, anyMovement(random))},
                                                    {"c", scaledBy(someBody(6, 1.001), scale)}}),
                                        0.0, quietly())
                         ->size(),
                     std::size_t(1));
        }
    }
    void fastenersAreKnownByTheirShape() {
        const auto kinds = [](const TopoDS_Shape& shape) {
            const auto found = survey::fastenersIn(Part("x", shape));
            return found ? namesOf(*found) : std::string();
        };
        const TopoDS_Shape shank = rod(zAt(0, 0, 0), 5, 40), socket = rod(zAt(0, 0, 46), 3, 5);
        QCOMPARE(kinds(fuse(shank, rod(zAt(0, 0, 40), 8, 6))), std::string("bolt"));
        QCOMPARE(kinds(cut(fuse(shank, rod(zAt(0, 0, 40), 8, 10)), socket)), std::string("bolt"));
        QCOMPARE(kinds(fuse(shank, coneOf(zAt(0, 0, 40), 5, 10, 5))), std::string("bolt"));  // countersunk head
        QCOMPARE(kinds(cut(rod(zAt(0, 0, 0), 10, 2), rod(zAt(0, 0, -1), 5.3, 4))), std::string("washer"));
        QCOMPARE(kinds(shank), std::string("pin"));
        Random random(4);
        QCOMPARE(kinds(moved(fuse(shank, rod(zAt(0, 0, 40), 8, 6)), anyMovement(random))), std::string("bolt"));
        // And what is none:
        QCOMPARE(kinds(block(10, 20, 30)), std::string());
        QCOMPARE(kinds(drilledPlate(100, 60, 8, 4, 5)), std::string());
        QCOMPARE(kinds(cut(rod(zAt(0, 0, 0), 10, 60), rod(zAt(0, 0, -1), 9, 70))), std::string());  // a tube
        QCOMPARE(kinds(rod(zAt(0, 0, 0), 50, 10)), std::string());                                  // a disc
        QCOMPARE(kinds(BRepPrimAPI_MakeSphere(7).Shape()), std::string());
        QCOMPARE(kinds(fuse(shank, moved(block(4, 4, 4), gp_Trsf()))), std::string());  // an arm sticks out
        const auto carrier = exchange::readFile(demoFile("carrier.step"), {}, quietly());
        std::map<std::string, std::string> found;
        for (const auto& part : carrier->parts)
            if (const auto fasteners = survey::fastenersIn(*part)) found[part->name] = namesOf(*fasteners);
        QCOMPARE(found["bolt with nut"], std::string("bolt nut"));
        QCOMPARE(found["washer"], std::string("washer"));
        QCOMPARE(found["pin"], std::string("pin"));
        QVERIFY(!found.contains("hanger arm") && !found.contains("round tube") && !found.contains("bushing") &&
                !found.contains("counterweight"));
    }
    void closedInPartsAreFound() {
        const TopoDS_Shape shellOutside = block(60, 60, 60);
        gp_Trsf in, far;
        in.SetTranslation(gp_Vec(5, 5, 5));
        far.SetTranslation(gp_Vec(25, 25, 25));
        const TopoDS_Shape housing = cut(shellOutside, moved(block(50, 50, 50), in));
        const TopoDS_Shape core = moved(block(10, 10, 10), far);
        const auto hidden = survey::hiddenPlaces(modelOfAll({{"housing", housing}, {"core", core}}), quietly());
        QVERIFY2(hidden, said(hidden));
        QCOMPARE(*hidden, std::vector<std::size_t>{1});
        // A window in the wall, and it is seen.
        const TopoDS_Shape open = cut(housing, rod(gp_Ax1(gp_Pnt(30, 30, 50), gp_Dir(0, 0, 1)), 8, 20));
        QVERIFY(survey::hiddenPlaces(modelOfAll({{"housing", open}, {"core", core}}), quietly())->empty());
        // What is set aside hides nothing.
        Model model = modelOfAll({{"housing", housing}, {"core", core}});
        model.occurrences.change(0).aside = true;
        QVERIFY(survey::hiddenPlaces(model, quietly())->empty());
        Progress stopped;
        stopped.cancel();
        QVERIFY(!survey::hiddenPlaces(model, stopped));
    }
    void theCarriersReportIsTheTableOfTruth() {
        const auto carrier = exchange::readFile(demoFile("carrier.step"), {}, quietly());
        QVERIFY(carrier);
        const Json truth = Json::parse(*readText(demoFile("carrier.json")));
        const auto facts = measure::factsOfParts(*carrier, false, quietly());
        const auto report = survey::receivingReport(*carrier, *facts, quietly());
        QVERIFY2(report, said(report));
        QCOMPARE(report->parts, truth.at("parts").size());
        QCOMPARE(report->places, truth.at("occurrences").get<std::size_t>());
        QCOMPARE(report->copies, report->places - report->parts);
        QCOMPARE_NEAR(report->volume, truth.at("volume_mm3").get<double>(), 1e-6 * report->volume);
        QCOMPARE_NEAR(report->mass, report->volume * 7850e-9, 1e-9);
        QCOMPARE(report->unit, std::optional(Unit::Millimetre));
        QVERIFY(report->colours > 3);
        for (std::size_t p = 0; p < carrier->parts.size(); ++p) {
            const Json& part = truth.at("parts")[p];
            QCOMPARE(carrier->parts[p]->name, part.at("name").get<std::string>());
            QCOMPARE(static_cast<std::size_t>(std::count_if(carrier->occurrences.begin(), carrier->occurrences.end(),
                                                            [p](const Occurrence& o) { return o.part == p; })),
                     part.at("occurrences").get<std::size_t>());
        }
        for (const survey::OddFinding& odd : report->odd) QVERIFY2(odd.kind == survey::Oddity::Note, odd.what.c_str());
        const Json json = survey::toJson(*report, *carrier);
        QCOMPARE(json.at("places").get<std::size_t>(), report->places);
    }
    void whatIsOddIsSaidWithItsRemedy() {
        Model model = modelOfAll({{"a", block(30, 20, 10)},
                                  {"b", block(31, 20, 10)},
                                  {"c", block(32, 20, 10)},
                                  {"stray", block(9, 8, 7)},
                                  {"askew", block(50, 21, 10)},
                                  {"twin", block(30, 20, 10)}});
        model.occurrences.change(3).placement.SetTranslation(gp_Vec(90000, 0, 0));
        model.occurrences.change(4).placement.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 0.005);
        model.occurrences.push_back({1, gp_Trsf(), "b", {}, std::nullopt});
        const auto facts = measure::factsOfParts(model, false, quietly());
        const auto report = survey::receivingReport(model, *facts, quietly());
        QVERIFY2(report, said(report));
        std::map<survey::Oddity, std::vector<const survey::OddFinding*>> odd;
        for (const survey::OddFinding& finding : report->odd) odd[finding.kind].push_back(&finding);
        QCOMPARE(odd[survey::Oddity::FarAway].size(), std::size_t(1));
        QCOMPARE(odd[survey::Oddity::FarAway][0]->occurrences, std::vector<std::size_t>{3});
        QCOMPARE(odd[survey::Oddity::Askew].size(), std::size_t(1));
        QCOMPARE_NEAR(odd[survey::Oddity::Askew][0]->size, 0.005 * 180 / M_PI, 1e-6);
        QCOMPARE(odd[survey::Oddity::SamePlace].size(), std::size_t(1));
        QCOMPARE(odd[survey::Oddity::SameShape].size(), std::size_t(1));
        // Each remedy is a step that works, and what it mends is not found again.
        for (const survey::OddFinding& finding : report->odd) {
            if (finding.operation.empty()) continue;
            const auto mended = findOperation(finding.operation)->run(model, finding.parameters, quietly());
            QVERIFY2(mended, said(mended));
            if (finding.kind != survey::Oddity::Askew && finding.kind != survey::Oddity::SameShape) continue;
            const auto again = survey::receivingReport(
                mended->model, *measure::factsOfParts(mended->model, false, quietly()), quietly());
            QVERIFY(std::none_of(again->odd.begin(), again->odd.end(),
                                 [&](const auto& o) { return o.kind == finding.kind; }));
        }
    }
    void farFromTheOriginAndOddUnits() {
        Model model = modelOfAll({{"a", block(30, 20, 10)}});
        model.occurrences.change(0).placement.SetTranslation(gp_Vec(1e5, 0, 0));
        const auto report = survey::receivingReport(model, *measure::factsOfParts(model, false, quietly()), quietly());
        QCOMPARE(report->odd.size(), std::size_t(1));
        QVERIFY(report->odd[0].what.find("origin") != std::string::npos);
        const auto moved = findOperation(report->odd[0].operation)->run(model, report->odd[0].parameters, quietly());
        QCOMPARE_NEAR(moved->model.occurrences[0].placement.TranslationPart().X(), -15.0, 1e-6);
    }
};

static Registered<StockTest> stockTest;

}  // namespace rasoir::test

#include "stock_test.moc"
