// Cutting, uniting, subtracting and intersecting as steps: volumes that need no expert, names, places, groups,
// refusals.
#include <BRep_Builder.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <gp_Pln.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Shell.hxx>

#include "divide/combine.h"
#include "divide/cut.h"
#include "geometry/integrals.h"
#include "measure/facts.h"
#include "model/reference.h"
#include "model/work.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class DivideTest : public QObject {
    Q_OBJECT

    static Json plane(std::array<double, 3> through, std::array<double, 3> normal) {
        return {{"through", through}, {"normal", normal}};
    }
    static gp_Trsf by(double x, double y, double z) {
        gp_Trsf move;
        move.SetTranslation(gp_Vec(x, y, z));
        return move;
    }
    static Model withParts(const std::vector<std::pair<std::string, TopoDS_Shape>>& parts) {
        Model model;
        for (const auto& [name, shape] : parts) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        model.giveIds();
        return model;
    }
    static double volumeOfPart(const Model& model, const std::string& name) {
        const auto part = model.partNamed(name);
        return part ? test::volumeOf(model.parts[*part]->shape) : -1.0;
    }
    static double total(const Model& model) {
        double sum = 0.0;
        for (const Occurrence& place : model.occurrences) sum += test::volumeOf(model.parts[place.part]->shape);
        return sum;
    }

private slots:
    void aPlateIsCutByAPlane() {
        const Model model = withParts({{"plate", drilledPlate(100, 60, 8, 4, 5)}});
        const double whole = total(model);
        const auto done = run(model, "divide.cut", {{"planes", {plane({0, 0, 3}, {0, 0, 1})}}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), std::size_t(2));
        QVERIFY(done->model.partNamed("plate, above") && done->model.partNamed("plate, below"));
        for (const auto& part : done->model.parts) {
            QVERIFY(isValid(part->shape));
            QCOMPARE(skinOf(part->shape).centre.Z() > 3.0, part->name == "plate, above");
        }
        QCOMPARE_NEAR(total(done->model), whole, 1e-9 * whole);
        // Above the cut the plate is 5 thick, with holes right through where they were.
        const Part& above = *done->model.parts[*done->model.partNamed("plate, above")];
        QCOMPARE_NEAR(above.incidence().bodyCount(), 1, 0);
        QVERIFY(done->model.parts[0]->id != done->model.parts[1]->id && done->model.parts[0]->id > model.parts[0]->id);
    }
    void threePlanesMakeEightPieces() {
        const Model model = withParts({{"cube", block(10, 10, 10)}});
        const auto done =
            run(model, "divide.cut",
                {{"planes", {plane({4, 0, 0}, {1, 0, 0}), plane({0, 5, 0}, {0, 1, 0}), plane({0, 0, 3}, {0, 0, 1})}}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), std::size_t(8));
        std::vector<double> volumes;
        for (const auto& part : done->model.parts) {
            volumes.push_back(test::volumeOf(part->shape));
            QCOMPARE(facesIn(part->shape), 6);
        }
        std::sort(volumes.begin(), volumes.end());
        const std::vector<double> wanted{60, 60, 90, 90, 140, 140, 210, 210};
        for (std::size_t i = 0; i < 8; ++i) QCOMPARE_NEAR(volumes[i], wanted[i], 1e-9 * wanted[i]);
    }
    void oneSideIsKept() {
        const Model model = withParts({{"ball", BRepPrimAPI_MakeSphere(5.0).Shape()}});
        const auto done = run(model, "divide.cut", {{"planes", {plane({0, 0, 0}, {1, 1, 0})}}, {"keep", "above"}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), std::size_t(1));
        QCOMPARE_NEAR(total(done->model), 2.0 / 3.0 * M_PI * 125.0, 1e-6 * total(model));
    }
    void piecesKeepWhatIsKnown() {
        Model model = withParts({{"arm", block(10, 20, 30)}});
        auto part = model.parts[0]->copy();
        part->material = "steel";
        for (int f = 1; f <= 6; ++f) part->known.names[{EntityKind::Face, f}] = "face " + std::to_string(f);
        model.parts[0] = part;
        Group all{"skin", "", std::nullopt, {}, std::nullopt};
        for (int f = 1; f <= 6; ++f) all.members.insert({part->id, everyPlace, {EntityKind::Face, f}});
        model.groups.push_back(all);
        const auto done = run(model, "divide.cut", {{"planes", {plane({0, 0, 10}, {0, 0, 1})}}, {"group", "the cut"}});
        QVERIFY2(done, said(done));
        // Four sides in two, top and bottom once: ten faces with names, and two new ones without.
        std::size_t named = 0;
        for (const auto& piece : done->model.parts) {
            QCOMPARE(piece->material, std::string("steel"));
            named += piece->known.names.size();
        }
        QCOMPARE(named, std::size_t(10));
        QCOMPARE(done->model.groups.size(), std::size_t(2));
        QCOMPARE(done->model.groups[0].members.size(), std::size_t(10));
        QCOMPARE(done->model.groups[1].members.size(), std::size_t(2));
        QCOMPARE(done->groups.size(), std::size_t(1));
        QCOMPARE_NEAR(done->groups[0].measureAfter, done->groups[0].measureBefore, 1e-6);
    }
    void copiesThatAreMetAlikeStayCopies() {
        Model model = withParts({{"bolt", block(4, 4, 20)}});
        for (const double x : {10.0, 20.0}) {
            model.occurrences.push_back(model.occurrences[0]);
            model.occurrences.changeLast().placement = by(x, 0, 0);
            model.occurrences.changeLast().id = 0;
        }
        model.occurrences.change(2).placement = by(20, 0, 5);
        model.giveIds();
        const double whole = total(model);
        const auto done = run(model, "divide.cut", {{"planes", {plane({0, 0, 8}, {0, 0, 1})}}});
        QVERIFY2(done, said(done));
        // Two stand at one height and are cut alike; the third is met elsewhere.
        QCOMPARE(done->model.parts.size(), std::size_t(4));
        QCOMPARE(done->model.occurrences.size(), std::size_t(6));
        QCOMPARE_NEAR(total(done->model), whole, 1e-9 * whole);
    }
    void whatIsNotMetStaysTheSameObject() {
        const Model model = withParts({{"near", block(10, 10, 10)}, {"far", moved(block(10, 10, 10), by(0, 0, 50))}});
        const auto done = run(model, "divide.cut", {{"planes", {plane({0, 0, 5}, {0, 0, 1})}}});
        QVERIFY2(done, said(done));
        const auto far = done->model.partNamed("far");
        QVERIFY(far);
        QVERIFY(done->model.parts[*far] == model.parts[1]);
        // Of the part that was cut, the faces that the plane does not meet are the very same ones.
        const Part& below = *done->model.parts[*done->model.partNamed("near, below")];
        int same = 0;
        for (int f = 1; f <= 6; ++f) same += model.parts[0]->incidence().faceNumber(below.incidence().face(f)) > 0;
        QCOMPARE(same, 1);  // its bottom
    }
    void bodiesOfOnePartAreCutEachForItself() {
        // Touching, overlapping, within one another, and one that no cutter meets: as files have them in one part.
        const TopoDS_Shape far = moved(block(5, 5, 5), by(100, 0, 0));
        const std::vector<TopoDS_Shape> bodies{block(20, 20, 20), moved(block(20, 20, 20), by(20, 0, 0)),
                                               moved(block(20, 20, 20), by(30, 10, 0)),
                                               moved(block(5, 5, 5), by(5, 5, 5)), far};
        TopoDS_Compound all;
        const BRep_Builder builder;
        builder.MakeCompound(all);
        double sum = 0.0;
        for (const TopoDS_Shape& body : bodies) {
            builder.Add(all, body);
            sum += test::volumeOf(body);
        }
        Model model = withParts({{"set", all}});
        auto known = model.parts[0]->copy();
        for (int f = 1; f <= known->incidence().faceCount(); ++f)
            known->known.sizes[{EntityKind::Face, f}] = {static_cast<double>(f)};
        model.parts[0] = known;
        const auto done = run(model, "divide.cut", {{"planes", {plane({0, 0, 7}, {0.1, 0.2, 1})}}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), std::size_t(9));
        QCOMPARE_NEAR(total(done->model), sum, 1e-9 * sum);
        std::set<double> sizes;
        bool sameObject = false;
        for (const auto& part : done->model.parts) {
            QVERIFY(isValid(part->shape));
            QCOMPARE(part->incidence().solidCount(), 1);
            sameObject = sameObject || part->shape.IsSame(far);
            // Every face is where the face was whose size it has.
            for (const auto& [thing, size] : part->known.sizes) {
                sizes.insert(size.mm);
                const TopoDS_Face from = known->incidence().face(static_cast<int>(size.mm));
                const BRepAdaptor_Surface was(from), is(part->incidence().face(thing.number));
                QCOMPARE_NEAR(is.Plane().Distance(was.Plane()), 0.0, 1e-9);
            }
        }
        QVERIFY(sameObject);
        QCOMPARE(sizes.size(), std::size_t(30));
    }
    void refusalsChangeNothingAndSayWhy() {
        const Model model = withParts({{"cube", block(10, 10, 10)}});
        const auto missed = run(model, "divide.cut", {{"planes", {plane({0, 0, 20}, {0, 0, 1})}}});
        QVERIFY(!missed);
        QCOMPARE(missed.error().kind, ProblemKind::NothingToDo);
        const auto named = run(model, "divide.cut", {{"parts", {"cube"}}, {"planes", {plane({0, 0, 20}, {0, 0, 1})}}});
        QVERIFY(!named);
        QCOMPARE(named.error().kind, ProblemKind::NotPossible);
        const auto inFace = run(model, "divide.cut", {{"planes", {plane({0, 0, 10}, {0, 0, 1})}}});
        QVERIFY(!inFace);
        for (const Json& bad : {Json{{"planes", {plane({0, 0, 0}, {0, 0, 0})}}}, Json{{"planes", Json::array()}},
                                Json{{"planes", {plane({0, 0, 1e300}, {0, 0, 1})}}}, Json{{"keep", "left"}},
                                Json{{"planes", {{{"through", {1, 2}}, {"normal", {0, 0, 1}}}}}}}) {
            const auto refused = run(model, "divide.cut", bad);
            QVERIFY(!refused);
            QCOMPARE(refused.error().kind, ProblemKind::BadInput);
            QVERIFY(!refused.error().what.empty());
        }
    }
    void anOpenPartDoesNotStopTheOthers() {
        const TopoDS_Shape cube = block(10, 10, 10);
        const Incidence topology(cube);
        TopoDS_Compound open;
        BRep_Builder().MakeCompound(open);
        for (int f = 1; f <= 5; ++f) BRep_Builder().Add(open, topology.face(f));
        const Model model = withParts({{"open", open}, {"solid", moved(cube, by(20, 0, 0))}});
        const auto done = run(model, "divide.cut", {{"planes", {plane({0, 4, 0}, {0, 1, 0})}}});
        QVERIFY2(done, said(done));
        QVERIFY(done->model.partNamed("solid, front") && done->model.partNamed("solid, back"));
    }
    void cutAndUnitedIsTheFirstBody() {
        const Model model = withParts({{"plate", drilledPlate(100, 60, 8, 4, 5)}});
        const auto parted = run(model, "divide.cut", {{"planes", {plane({47, 0, 0}, {1, 0.2, 0})}}});
        QVERIFY2(parted, said(parted));
        const auto united =
            run(parted->model, "divide.unite",
                {{"places", {parted->model.parts[0]->name, parted->model.parts[1]->name}}, {"name", "plate"}});
        QVERIFY2(united, said(united));
        QCOMPARE(united->model.parts.size(), std::size_t(1));
        QCOMPARE_NEAR(total(united->model), total(model), 1e-6 * total(model));
        QCOMPARE(facesIn(united->model.parts[0]->shape), facesIn(model.parts[0]->shape));
        QVERIFY(isValid(united->model.parts[0]->shape));
    }
    void subtractAndIntersectAddUp() {
        const Model model =
            withParts({{"cube", block(10, 10, 10)}, {"pin", rod(gp_Ax1(gp_Pnt(5, 5, -5), gp_Dir(0, 0, 1)), 3, 20)}});
        const double common = M_PI * 90.0;
        const auto less = run(model, "divide.subtract", {{"from", {"cube"}}, {"tools", {"pin"}}});
        QVERIFY2(less, said(less));
        QCOMPARE(less->model.parts.size(), std::size_t(1));
        QCOMPARE_NEAR(volumeOfPart(less->model, "cube"), 1000.0 - common, 1e-6 * 1000);
        const auto kept = run(model, "divide.subtract", {{"from", {"cube"}}, {"tools", {"pin"}}, {"keepTools", true}});
        QVERIFY(kept);
        QCOMPARE(kept->model.parts.size(), std::size_t(2));
        const auto both = run(model, "divide.intersect", {{"places", {"cube", "pin"}}});
        QVERIFY2(both, said(both));
        QCOMPARE(both->model.parts.size(), std::size_t(1));
        QCOMPARE_NEAR(volumeOfPart(both->model, "cube"), common, 1e-6 * common);
        const auto all = run(model, "divide.unite", {{"places", {"cube", "pin"}}});
        QVERIFY2(all, said(all));
        QCOMPARE_NEAR(volumeOfPart(all->model, "cube"), 1000.0 + M_PI * 9.0 * 10.0, 1e-6 * 1000);
        // The bore that subtracting made is a hole like any other.
        const auto filled = run(less->model, "shave.removeHoles", {{"upTo", 7.0}});
        QVERIFY2(filled, said(filled));
        QCOMPARE_NEAR(volumeOfPart(filled->model, "cube"), 1000.0, 1e-6);
    }
    void aGroupOfTheToolsSkinFollowsToTheWallThatItLeft() {
        const Model model =
            withParts({{"plate", block(20, 20, 10)}, {"pin", rod(gp_Ax1(gp_Pnt(10, 10, -5), gp_Dir(0, 0, 1)), 4, 20)}});
        int round = 0;
        for (int f = 1; f <= model.parts[1]->incidence().faceCount(); ++f)
            if (BRepAdaptor_Surface(model.parts[1]->incidence().face(f)).GetType() == GeomAbs_Cylinder) round = f;
        const auto grouped = run(model, "handover.group",
                                 {{"name", "wet"}, {"things", {makeRef(*model.parts[1], {EntityKind::Face, round})}}});
        QVERIFY2(grouped, said(grouped));
        for (const bool keeps : {false, true}) {
            const auto done =
                run(grouped->model, "divide.subtract", {{"from", {"plate"}}, {"tools", {"pin"}}, {"keepTools", keeps}});
            QVERIFY2(done, said(done));
            const Model& now = done->model;
            QCOMPARE(now.groups.size(), std::size_t(1));
            double area = 0.0;
            for (const Member& member : now.groups[0].members) {
                const auto part = std::find_if(now.parts.begin(), now.parts.end(),
                                               [&member](const auto& one) { return one->id == member.part; });
                QVERIFY(part != now.parts.end());
                area += areaOf((*part)->incidence().face(member.entity.number));
            }
            // The wall is as long as the plate is thick; the pin's own skin counts where it stays.
            QCOMPARE_NEAR(area, 2 * M_PI * 4 * (keeps ? 10.0 + 20.0 : 10.0), 1e-6);
        }
    }
    void whatDoesNotTouchIsNotUnited() {
        const Model model = withParts({{"a", block(10, 10, 10)}, {"b", moved(block(10, 10, 10), by(10, 10, 0))}});
        const auto refused = run(model, "divide.unite", {{"places", {"a", "b"}}});
        QVERIFY(!refused);
        QCOMPARE(refused.error().kind, ProblemKind::NotPossible);
        QVERIFY(!run(model, "divide.intersect", {{"places", {"a", "b"}}}));
        QVERIFY(!run(model, "divide.subtract", {{"from", {"a"}}, {"tools", {"a"}}}));
    }
    void aBlockRoundLessTheBodies() {
        const Model model = withParts({{"ball", BRepPrimAPI_MakeSphere(5.0).Shape()}});
        const auto flow =
            run(model, "divide.surround", {{"clearance", {5, 15, 5, 5, 5, 5}}, {"without", true}, {"name", "air"}});
        QVERIFY2(flow, said(flow));
        QCOMPARE_NEAR(volumeOfPart(flow->model, "air"), 30.0 * 20.0 * 20.0 - 4.0 / 3.0 * M_PI * 125.0, 1e-6 * 12000);
        const auto none = run(model, "divide.surround", {{"clearance", {-10, -10, 0, 0, 0, 0}}});
        QVERIFY(!none);
    }
    void theStepReplaysAndSavesItself() {
        measure::FactsCache cache;
        const Model model = withParts({{"plate", drilledPlate(100, 60, 8, 4, 5)}});
        const auto work = Work(model, "plate.step")
                              .withStep("divide.cut", {{"planes", {plane({0, 0, 3}, {0, 0, 1})}}})
                              .withStep("shave.removeHoles", {{"upTo", 6.0}})
                              .replayed(cache, quietly());
        QVERIFY2(work, said(work));
        QCOMPARE(work->ledger().steps[0].state, StepState::Done);
        QCOMPARE(work->ledger().steps[1].state, StepState::Done);
        QCOMPARE_NEAR(total(work->current()), 100.0 * 60.0 * 8.0, 1e-3);
        // A face as received can be asked what became of it, through both steps.
        const auto lineage = work->lineageOf(2);
        QCOMPARE(lineage.size(), std::size_t(2));
    }

    void facesAreMeshedAsOne() {
        // A strip a hair wide beside a large face, as cuts leave them: parted from it, it forces small elements.
        const Model plate = modelOf(block(100, 60, 10), "plate");
        Json top;
        for (int f = 1; f <= plate.parts[0]->incidence().faceCount(); ++f)
            if (const FaceRef face = makeFaceRef(*plate.parts[0], f); std::abs(face.centre.Z() - 10.0) < 1e-9)
                top = face;
        const auto cutOff =
            run(plate, "divide.partFace", {{"faces", Json::array({top})}, {"plane", plane({0.2, 0, 0}, {1, 0, 0})}});
        QVERIFY2(cutOff, said(cutOff));
        const Part& part = *cutOff->model.parts[0];
        Json things = Json::array();
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (std::abs(makeRef(part, {EntityKind::Face, f}).at.Z() - 10.0) < 1e-9)
                things.push_back(makeRef(part, {EntityKind::Face, f}));
        QCOMPARE(things.size(), std::size_t(2));
        const auto done = run(cutOff->model, "divide.asOne", {{"things", things}});
        QVERIFY2(done, said(done));
        const Part& marked = *done->model.parts[0];
        QCOMPARE(marked.known.asOne.size(), std::size_t(2));
        QVERIFY(marked.shape.IsPartner(part.shape));
        const auto facts = [](const Part& one) { return measure::factsOf(one, 4.0, false); };
        QVERIFY2(facts(marked).elements < 0.7 * facts(part).elements,
                 qPrintable(QString("%1 of %2").arg(facts(marked).elements).arg(facts(part).elements)));
        // As many as the plate has that was never parted.
        QCOMPARE_NEAR(facts(marked).elements, facts(*plate.parts[0]).elements, 1.0);
        const auto apart = run(done->model, "divide.asOne", {{"things", things}, {"apart", true}});
        QVERIFY2(apart, said(apart));
        QVERIFY(apart->model.parts[0]->known.asOne.empty());
        // A face far away does not hang together with it, and one alone is nothing.
        Json far = Json::array({things[0]});
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (std::abs(makeRef(part, {EntityKind::Face, f}).at.Z()) < 1e-9)
                far.push_back(makeRef(part, {EntityKind::Face, f}));
        const auto refused = run(cutOff->model, "divide.asOne", {{"things", far}});
        QVERIFY(!refused && refused.error().what.find("hang together") != std::string::npos);
        QVERIFY(!run(cutOff->model, "divide.asOne", {{"things", Json::array({things[0]})}}));
        QVERIFY(!run(cutOff->model, "divide.asOne", {{"things", Json::array()}}));
    }

    void flatSheetsAreCut_data() {
        QTest::addColumn<bool>("bent");
        QTest::addColumn<bool>("bySheet");
        for (const bool bent : {false, true})
            for (const bool bySheet : {false, true})
                QTest::addRow("%s, by a %s", bent ? "an angle" : "one flat", bySheet ? "sheet" : "plane")
                    << bent << bySheet;
    }
    void flatSheetsAreCut() {
        QFETCH(bool, bent);
        QFETCH(bool, bySheet);
        // The line of the cut ends within the cutter on both sides, so that it parts nothing of the cutter itself.
        const auto flat = [](const gp_Pln& plane, double u, double v) {
            return BRepBuilderAPI_MakeFace(plane, 0, u, 0, v).Face();
        };
        TopoDS_Shape sheet = flat(gp_Pln(gp_Pnt(), gp::DZ()), 100, 30);
        double area = 3000.0;
        if (bent) {
            // Two sides of a block: an angle of 100 by 30 and 100 by 20.
            const Incidence sides(block(100, 30, 20));
            BRep_Builder builder;
            TopoDS_Shell shell;
            builder.MakeShell(shell);
            for (int f = 1; f <= sides.faceCount(); ++f) {
                const gp_Pnt centre = skinOf(sides.face(f)).centre;
                if (std::abs(centre.Z()) < 1e-9 || std::abs(centre.Y()) < 1e-9) builder.Add(shell, sides.face(f));
            }
            sheet = shell;
            area = 5000.0;
        }
        Model model = modelOf(sheet, "sheet");
        Json step{{"parts", {"sheet"}}};
        if (bySheet) {
            model.occurrences.push_back({1, gp_Trsf(), "knife", {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(
                "knife", BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(60, 0, 0), gp::DX()), -200, 200, -200, 200).Face()));
            model.giveIds();
            step["bodies"] = {"knife"};
        } else {
            step["planes"] = {{{"through", {60, 0, 0}}, {"normal", {1, 0, 0}}}};
        }
        const auto done = run(model, "divide.cut", step);
        QVERIFY2(done, said(done));
        std::vector<double> areas;
        for (const auto& part : done->model.parts)
            if (part->name.starts_with("sheet")) areas.push_back(areaOf(part->shape));
        std::sort(areas.begin(), areas.end());
        QCOMPARE(areas.size(), std::size_t(2));
        QCOMPARE_NEAR(areas[0], 0.4 * area, 1e-9);
        QCOMPARE_NEAR(areas[1], 0.6 * area, 1e-9);
    }
};

static Registered<DivideTest> divideTest;

}  // namespace rasoir::test

#include "divide_test.moc"
