// Two models side by side: what changed is told, and nothing else.
#include "handover/compare.h"

#include "common/safe_file.h"
#include "exchange/files.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "handover/candidates.h"
#include "handover/revision.h"
#include "handover/skin_distance.h"
#include "model/reference.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace handover;

class CompareTest : public QObject {
    Q_OBJECT

    static gp_Ax1 upAt(double x, double y) { return {gp_Pnt(x, y, -1), gp_Dir(0, 0, 1)}; }
    /// A plate with two holes of a diameter, the second at a place.
    static TopoDS_Shape plate(double length, double diameter, double x = 70.0) {
        return cut(cut(block(length, 60, 8), rod(upAt(30, 30), 0.5 * diameter, 10)), rod(upAt(x, 30), 4.0, 10));
    }
    static Comparison compared(const Model& before, const Model& after) {
        const auto found = compare(before, after, quietly());
        if (!found) throw std::logic_error(found.error().what);
        return *found;
    }
    static std::map<std::string, int> counts(const PartChange& part) {
        std::map<std::string, int> all;
        for (const FaceChange& face : part.faces) ++all[changeName(face.change)];
        return all;
    }

private slots:
    void theSameIsTheSame() {
        const Comparison none = compared(modelOf(plate(100, 8), "plate"), modelOf(plate(100, 8), "plate"));
        QVERIFY(none.same());
        QCOMPARE(none.parts[0].facesSame, std::size_t(8));
        QVERIFY(told(none.parts[0]).empty());
        // Made in another order, so that its faces have other numbers.
        const TopoDS_Shape other = cut(cut(block(100, 60, 8), rod(upAt(70, 30), 4, 10)), rod(upAt(30, 30), 4, 10));
        QVERIFY(compared(modelOf(plate(100, 8), "plate"), modelOf(other, "plate")).same());
    }
    void aWiderHoleIsResized() {
        const Comparison one = compared(modelOf(plate(100, 8), "plate"), modelOf(plate(100, 8.4), "plate"));
        const PartChange& part = one.parts[0];
        QCOMPARE(counts(part), (std::map<std::string, int>{{"resized", 1}, {"changed", 2}}));
        QCOMPARE(part.facesSame, std::size_t(5));
        const auto hole = std::find_if(part.faces.begin(), part.faces.end(),
                                       [](const FaceChange& face) { return face.change == Change::Resized; });
        QCOMPARE(hole->what, std::string("cylinder Ø 8 to Ø 8.4 mm"));
        QCOMPARE_NEAR(part.farthest, 0.2, 0.05);
        QCOMPARE_NEAR(part.volumeBefore - part.volumeAfter, M_PI * 8.0 * (4.2 * 4.2 - 16.0), 1e-6);
    }
    void aLongerPlateHasMovedItsEnd() {
        const Comparison one = compared(modelOf(plate(100, 8), "plate"), modelOf(plate(105, 8), "plate"));
        const PartChange& part = one.parts[0];
        QCOMPARE(counts(part), (std::map<std::string, int>{{"moved", 1}, {"changed", 4}}));
        QCOMPARE_NEAR(part.farthest, 5.0, 1e-3);
        QVERIFY(told(part)[0].find("5 of 8 faces changed") != std::string::npos);
        for (const FaceChange& face : part.faces)
            if (face.change == Change::Moved) {
                QCOMPARE(face.what, std::string("plane moved by 5 mm"));
                QCOMPARE_NEAR(face.where.X(), 105.0, 1e-6);
            }
    }
    void aHoleIsMovedAndAnotherGone() {
        const Comparison moved = compared(modelOf(plate(100, 8), "plate"), modelOf(plate(100, 8, 73.0), "plate"));
        QCOMPARE(counts(moved.parts[0]).at("moved"), 1);
        QVERIFY(std::any_of(moved.parts[0].faces.begin(), moved.parts[0].faces.end(),
                            [](const FaceChange& face) { return face.what == "cylinder Ø 8 mm moved by 3 mm"; }));
        const TopoDS_Shape single = cut(block(100, 60, 8), rod(upAt(30, 30), 4, 10));
        const Comparison gone = compared(modelOf(plate(100, 8), "plate"), modelOf(single, "plate"));
        QCOMPARE(counts(gone.parts[0]), (std::map<std::string, int>{{"gone", 1}, {"changed", 2}}));
        const Comparison back = compared(modelOf(single, "plate"), modelOf(plate(100, 8), "plate"));
        QCOMPARE(counts(back.parts[0]), (std::map<std::string, int>{{"new", 1}, {"changed", 2}}));
    }
    void skinsAreMeasuredPlaceByPlace() {
        // A block that grew by 2 mm upwards, seen from the one before, standing elsewhere.
        gp_Trsf away;
        away.SetRotation(gp_Ax1(gp::Origin(), gp_Dir(1, 1, 0)), 0.8);
        Model before = modelOf(block(40, 30, 10)), after = modelOf(block(40, 30, 12));
        before.occurrences.change(0).placement = after.occurrences.change(0).placement = away;
        const auto found = skinDistances(after, before, 2.0, quietly());
        QVERIFY2(found, said(found));
        QCOMPARE_NEAR(found->most, 2.0, 1e-4);
        QVERIFY(found->triangles.size() > 500);
        double top = 0.0, still = 0.0;
        for (std::size_t t = 0; t < found->triangles.size(); ++t) {
            const auto& [a, b, c] = found->triangles[t];
            const gp_Pnt &p = found->points[a], &q = found->points[b], &r = found->points[c];
            QVERIFY(p.Distance(q) <= 2.0 + 1e-9 && q.Distance(r) <= 2.0 + 1e-9 && r.Distance(p) <= 2.0 + 1e-9);
            const double area = 0.5 * gp_Vec(p, q).Crossed(gp_Vec(p, r)).Magnitude();
            if (std::abs(found->off[t] - 2.0) < 1e-4) top += area;
            if (found->off[t] < 1e-4) still += area;
        }
        QCOMPARE_NEAR(top, 1200.0, 1e-6);
        // The floor, and the sides as far as they were; the strip above them lies between.
        QCOMPARE_NEAR(still, 1200.0 + 2.0 * (40.0 + 30.0) * 10.0, 2.0 * 70.0 * 2.0);
        const auto same = skinDistances(before, before, 2.0, quietly());
        QVERIFY2(same, said(same));
        QVERIFY(same->most < 1e-4);
        after.occurrences.change(0).aside = true;
        QVERIFY(!skinDistances(after, before, 2.0, quietly()));
    }
    void partsAndPlaces() {
        Model before = modelOf(plate(100, 8), "plate");
        before.parts.push_back(std::make_shared<Part>("block", block(10, 10, 10)));
        before.occurrences.push_back({1, gp_Trsf(), "block", {}, std::nullopt});
        Model after = before;
        gp_Trsf up;
        up.SetTranslation(gp_Vec(0, 0, 3));
        after.occurrences.change(1).placement = up;
        auto named = after.parts[0]->copy();
        named->name = "base plate";
        after.parts[0] = named;
        after.parts.push_back(std::make_shared<Part>("pin", rod(upAt(0, 0), 2, 10)));  // nothing is left to be it
        after.occurrences.push_back({2, gp_Trsf(), "pin", {}, std::nullopt});
        const Comparison found = compared(before, after);
        QVERIFY(!found.same());
        QCOMPARE(found.parts.size(), std::size_t(3));
        QCOMPARE(found.parts[0].was, std::string("plate"));
        QVERIFY(found.parts[0].faces.empty());
        QCOMPARE(found.parts[1].placesMoved, std::size_t(1));
        QCOMPARE(static_cast<int>(found.parts[2].change), static_cast<int>(Change::New));
        const Comparison back = compared(after, before);
        QCOMPARE(static_cast<int>(back.parts.back().change), static_cast<int>(Change::Gone));
        QCOMPARE(toJson(found)["parts"].size(), std::size_t(3));
    }
    void distancesToTriangles() {
        const Model model = modelOf(block(10, 10, 10), "block");
        const RayField field(model, {}, 1e-3, quietly());
        for (const auto& [point, far] : {std::pair{gp_Pnt(5, 5, 12), 2.0},
                                         {gp_Pnt(13, 5, 14), 5.0},
                                         {gp_Pnt(-1, -2, -2), 3.0},
                                         {gp_Pnt(5, 5, 4), 4.0}}) {
            const auto hit = field.nearest(point);
            QVERIFY(hit);
            QCOMPARE_NEAR(hit->distance, far, 1e-5);
        }
        QVERIFY(!field.nearest(gp_Pnt(5, 5, 100), 50.0));
    }
    void theRevisedArmIsToldAsItWasMade() {
        const auto arm = exchange::readFile(demoFile("hanger-arm.step"), {}, quietly());
        auto revised = exchange::readFile(demoFile("hanger-arm-revised.step"), {}, quietly());
        QVERIFY2(arm && revised, said(revised));
        const Json truth = Json::parse(*readText(demoFile("hanger-arm-revised.json")));
        const Comparison found = compared(*arm, *revised);
        QCOMPARE(found.parts.size(), std::size_t(1));
        // The list of changes is the generator's; besides them, faces that holes open into have other outlines.
        std::multiset<std::string> told, wanted;
        for (const FaceChange& face : found.parts[0].faces)
            if (face.change != Change::Changed) told.insert(std::string(changeName(face.change)) + " " + face.what);
        for (const Json& change : truth.at("changes"))
            wanted.insert(change.at("change").get<std::string>() + " " + change.at("what").get<std::string>());
        QCOMPARE(told, wanted);
        for (const FaceChange& face : found.parts[0].faces)
            if (face.change == Change::Changed) QVERIFY(face.what.starts_with("plane of another outline"));
        const double volume = truth.at("volume_mm3");
        QCOMPARE_NEAR(found.parts[0].volumeAfter, volume, 1e-9 * volume);
    }
    void aWholeLedgerFitsTheRevision() {
        const auto arm = exchange::readFile(demoFile("hanger-arm.step"), {}, quietly());
        const auto revised = exchange::readFile(demoFile("hanger-arm-revised.step"), {}, quietly());
        const auto ledger = loadLedger(demoFile("shave-arm.ledger.json"));
        QVERIFY2(arm && revised && ledger, said(ledger));
        measure::FactsCache facts;
        const auto work = Work(*arm, "arm").withLedger(*ledger).replayed(facts, quietly());
        QVERIFY2(work, said(work));
        const auto revision = onRevision(*work, *revised, "revised", facts, quietly());
        QVERIFY2(revision, said(revision));
        QCOMPARE(revision->left(), std::size_t(0));
        QCOMPARE(revision->fitting(), ledger->steps.size());
        QVERIFY(!revision->changes.same());
        // Both ends without holes of that size: what is left differs by what was not taken off.
        QVERIFY(revision->work.current().parts[0]->incidence().faceCount() <
                revised->parts[0]->incidence().faceCount());
        // A ledger that names what the designer took away: told, and the other steps go on.
        Ledger named = *ledger;
        const Part& part = *arm->parts[0];
        Json face;
        for (int f = 1; f <= part.incidence().faceCount(); ++f) {
            const FaceRef ref = makeFaceRef(part, f);
            if (std::abs(ref.size - 2.1) < 1e-6 && std::abs(ref.centre.X() - 122.0) < 1e-6) face = ref;
        }
        QVERIFY(!face.is_null());
        Step gone;
        gone.operation = "shave.removeHoles";
        gone.parameters = {{"chosen", {face}}};
        named.steps.insert(0, gone);
        const auto missed = onRevision(Work(*arm, "arm").withLedger(named), *revised, "revised", facts, quietly());
        QVERIFY2(missed, said(missed));
        QCOMPARE(missed->left(), std::size_t(1));
        QCOMPARE(static_cast<int>(missed->work.ledger().steps[0].state), static_cast<int>(StepState::Failed));
    }
    void theNearestIsOfferedForWhatIsNotThere() {
        // The designer moves a hole by 3 mm and makes another one wider: a step that named them finds them again, told.
        const auto plateWith = [](double x, double radius) {
            TopoDS_Shape plate = block(100, 60, 8);
            for (const auto& [at, r] : {std::pair{gp_Pnt(x, 20, -1), 4.0}, {gp_Pnt(70, 40, -1), radius}})
                plate = cut(plate, rod(gp_Ax1(at, gp_Dir(0, 0, 1)), r, 10));
            return modelOf(plate, "plate");
        };
        const Model was = plateWith(20, 5.0), is = plateWith(23, 5.5);
        const auto holeAt = [](const Model& model, double radius) {
            const Part& part = *model.parts[0];
            for (int f = 1; f <= part.incidence().faceCount(); ++f)
                if (const FaceRef ref = makeFaceRef(part, f);
                    ref.surface == "cylinder" && std::abs(ref.size - radius) < 1e-9)
                    return ref;
            return FaceRef{};
        };
        measure::FactsCache facts;
        const Work work =
            *Work(was, "plate.step")
                 .withStep("shave.removeHoles", {{"chosen", {holeAt(was, 4.0)}}})
                 .withStep("handover.group",
                           {{"name", "bore"},
                            {"things", {makeRef(*was.parts[0], {EntityKind::Face, holeAt(was, 5.0).face})}}})
                 .replayed(facts, quietly());
        QVERIFY(candidatesFor(was, work.ledger().steps[0].parameters).empty());  // all is there
        const auto revision = onRevision(work, is, "plate-2.step", facts, quietly());
        QVERIFY2(revision, said(revision));
        QCOMPARE(revision->left(), std::size_t(2));
        const auto offers = offersOf(revision->work);
        QCOMPARE(offers.size(), std::size_t(2));
        QVERIFY2(offers[0].candidates[0].told.find("3 mm away, as large") != std::string::npos,
                 offers[0].candidates[0].told.c_str());
        QVERIFY2(offers[1].candidates[0].told.find("10 % larger") != std::string::npos,
                 offers[1].candidates[0].told.c_str());
        std::vector<std::string> told;
        const auto taken = withNearest(revision->work, told, facts, quietly());
        QVERIFY2(taken, said(taken));
        QCOMPARE(told.size(), std::size_t(2));
        for (const Step& step : taken->ledger().steps)
            QCOMPARE(static_cast<int>(step.state), static_cast<int>(StepState::Done));
        const Model& now = taken->current();
        QCOMPARE_NEAR(rasoir::volumeOf(now.parts[0]->shape), 100 * 60 * 8 - M_PI * 5.5 * 5.5 * 8, 1e-6);
        QCOMPARE(now.groups.size(), std::size_t(1));
        QCOMPARE(now.groups[0].members.begin()->entity.number, holeAt(now, 5.5).face);
        // What has nothing like it near by is not guessed: a plate without any round face, and one of another name.
        QVERIFY(candidatesFor(modelOf(block(100, 60, 8), "plate"), work.ledger().steps[0].parameters).empty());
        QVERIFY(candidatesFor(modelOf(is.parts[0]->shape, "lid"), work.ledger().steps[0].parameters).empty());
    }
    void notesStandInTheLedgerAlone() {
        const Model model = modelOf(block(10, 10, 10), "block");
        const auto done = run(model, "handover.note", {{"text", "agreed with the designer"}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->summary, std::string("Note: agreed with the designer"));
        QVERIFY(compared(model, done->model).same());
        QVERIFY(!run(model, "handover.note", {{"text", "  "}}));
    }
};

static Registered<CompareTest> compareTest;

}  // namespace rasoir::test

#include "compare_test.moc"
