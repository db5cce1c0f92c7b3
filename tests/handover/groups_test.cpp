// Groups by rule and by picking: what a rule asks for, what later steps change in its answer, one place of several,
// what a file brings along, and what the check says of it all.
#include "handover/groups.h"

#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <QTemporaryDir>

#include "exchange/files.h"
#include "handover/check.h"
#include "handover/rules.h"
#include "model/reference.h"
#include "select/members.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class GroupsTest : public QObject {
    Q_OBJECT

    static Model blocks(std::vector<std::pair<std::string, gp_Pnt>> named) {
        Model model = modelOf(block(10, 10, 10), named.front().first);
        model.parts.clear();
        model.occurrences.clear();
        for (const auto& [name, at] : named) {
            model.occurrences.push_back({model.parts.size(), by(at.X(), at.Y(), at.Z()), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, block(10, 10, 10)));
        }
        model.giveIds();
        model.targetSize = 2.0;
        return model;
    }
    static std::size_t found(const Model& model, const Json& rule) {
        return handover::membersByRule(model, ruleFromJson(rule), quietly()).value().size();
    }
    static const Group& first(const Outcome& outcome) { return outcome.model.groups.front(); }
    static std::string allSaid(const Model& model) {
        std::string said;
        const auto findings = handover::check(model, quietly());
        if (findings)
            for (const auto& one : *findings) said += one.what + " | ";
        return said;
    }

private slots:
    void aRuleAsksForHolesAndNotForShafts() {
        const TopoDS_Shape hole = cut(block(40, 20, 10), rod(gp_Ax1(gp_Pnt(10, 10, -5), gp::DZ()), 4, 20));
        const TopoDS_Shape both = fuse(hole, rod(gp_Ax1(gp_Pnt(30, 10, 0), gp::DZ()), 4, 20));
        const Model model = modelOf(both, "plate");
        QCOMPARE(found(model, {{"surface", "cylinder"}, {"diameter", 8}}), std::size_t(2));
        QCOMPARE(found(model, {{"surface", "cylinder"}, {"diameter", 8}, {"inward", true}}), std::size_t(1));
        QCOMPARE(found(model, {{"surface", "cylinder"}, {"diameter", 8}, {"inward", false}}), std::size_t(1));
        QCOMPARE(found(model, {{"inward", true}, {"diameter", 8.1}}), std::size_t(0));
        // A slot's ends and an inner fillet of that radius are hollow, and no holes.
        const TopoDS_Shape slot = cut(block(60, 20, 10), rod(gp_Ax1(gp_Pnt(10, 10, -5), gp::DZ()), 4, 20));
        const TopoDS_Shape ended = cut(slot, rod(gp_Ax1(gp_Pnt(30, 10, -5), gp::DZ()), 4, 20));
        const TopoDS_Shape slotted = cut(ended, moved(block(20, 8, 20), by(10, 6, -5)));
        const TopoDS_Shape drilled = cut(slotted, rod(gp_Ax1(gp_Pnt(45, 10, -5), gp::DZ()), 4, 20));
        const Model grooved = modelOf(drilled, "slotted");
        QVERIFY(found(grooved, {{"surface", "cylinder"}, {"diameter", 8}}) >= 3);  // an end may be parted at a seam
        QCOMPARE(found(grooved, {{"surface", "cylinder"}, {"diameter", 8}, {"inward", true}}), std::size_t(1));
        for (int f = 1; f <= grooved.parts[0]->incidence().faceCount(); ++f) {
            const auto rule = handover::ruleFor(grooved, 0, {EntityKind::Face, f});
            QVERIFY(rule);
            const auto members = handover::membersByRule(grooved, *rule, quietly()).value();
            QVERIFY(
                std::any_of(members.begin(), members.end(), [f](const Member& one) { return one.entity.number == f; }));
        }
    }
    void aRuleAsksForFacesTowardsAPart() {
        // B stands on A and beside C, a hundredth away from it; D is alone.
        Model model = blocks({{"A", {0, 0, 0}}, {"B", {0, 0, 10}}, {"C", {10.01, 0, 10}}, {"D", {50, 0, 0}}});
        const auto towards = handover::membersByRule(model, ruleFromJson({{"towards", "B"}}), quietly()).value();
        QCOMPARE(towards.size(), std::size_t(2));
        for (const Member& member : towards) {
            const auto part = model.partOf(member.part);
            QVERIFY(part && (*part == 0 || *part == 2));
            const EntityRef face = makeRef(*model.parts[*part], member.entity);
            QCOMPARE_NEAR(*part == 0 ? face.at.Z() - 10.0 : face.at.X(), 0.0, 1e-9);
        }
        QCOMPARE(found(model, {{"towards", "B"}, {"parts", "A"}}), std::size_t(1));
        QCOMPARE(found(model, {{"towards", "B"}, {"normal", {0, 0, 1}}}), std::size_t(1));
        QCOMPARE(found(model, {{"towards", "nobody"}}), std::size_t(0));
        // What is set aside stands in nobody's way.
        model.occurrences.change(1).aside = true;
        QCOMPARE(found(model, {{"towards", "B"}}), std::size_t(0));
    }
    /// A step that touches neither side of the question does not ask it again; one that does can be stopped at it.
    void whatFacesAPartIsSearchedOnlyWhereItMayHaveChanged() {
        const GroupRule rule = ruleFromJson({{"towards", "B"}, {"parts", "A"}});
        const Model before = blocks({{"A", {0, 0, 0}}, {"B", {0, 0, 10}}, {"C", {30, 0, 0}}});
        Model after = before;
        QVERIFY(!handover::mayAnswerOtherwise(before, after, rule));
        after.occurrences.change(2).placement = by(90, 0, 0);
        after.occurrences.change(0).name = "under B";
        QVERIFY(!handover::mayAnswerOtherwise(before, after, rule));
        after.occurrences.change(1).placement = by(0, 0, 40);
        QVERIFY(handover::mayAnswerOtherwise(before, after, rule));
        after = before;
        after.occurrences.change(0).aside = true;
        QVERIFY(handover::mayAnswerOtherwise(before, after, rule));
        after = before;
        after.parts[0] = after.parts[0]->copy();
        QVERIFY(handover::mayAnswerOtherwise(before, after, rule));
        // A rule on what things are themselves is asked after every step: it costs nothing.
        QVERIFY(handover::mayAnswerOtherwise(before, before, ruleFromJson({{"surface", "plane"}})));

        Progress stopped;
        stopped.cancel();
        const auto answer = handover::membersByRule(before, rule, stopped);
        QVERIFY(!answer);
        QCOMPARE(answer.error().kind, ProblemKind::Cancelled);
    }
    void aRuleAsksForColoursAndNames() {
        Model model = blocks({{"A", {0, 0, 0}}, {"B", {20, 0, 0}}});
        auto part = model.parts[0]->copy();
        part->known.colours[{EntityKind::Face, 2}] = Colour{0.8, 0.1, 0.1};
        part->known.names[{EntityKind::Face, 3}] = "seat left";
        part->known.names[{EntityKind::Face, 4}] = "seat right";
        model.parts[0] = part;
        QCOMPARE(found(model, {{"colour", {0.8, 0.1, 0.1}}}), std::size_t(1));
        QCOMPARE(found(model, {{"colour", {0.1, 0.8, 0.1}}}), std::size_t(0));
        QCOMPARE(found(model, {{"named", "seat*"}}), std::size_t(2));
        QCOMPARE(found(model, {{"named", "seat l*"}}), std::size_t(1));
    }
    void aPickSaysItsRule() {
        const Model model = modelOf(drilledPlate(100, 60, 8, 4, 5), "plate");
        const Part& part = *model.parts[0];
        for (int f = 1; f <= part.incidence().faceCount(); ++f) {
            const auto rule = handover::ruleFor(model, 0, {EntityKind::Face, f});
            QVERIFY(rule);
            const auto members = handover::membersByRule(model, *rule, quietly()).value();
            // The rule takes in what was picked, and its like: all four holes for one of them.
            QVERIFY(
                std::any_of(members.begin(), members.end(), [f](const Member& one) { return one.entity.number == f; }));
            QVERIFY(!rule->diameter || members.size() >= 4);
            QVERIFY(ruleFromJson(toJson(*rule)) == *rule);
            QVERIFY(!handover::ruleText(*rule).empty());
        }
        QVERIFY(!handover::ruleFor(model, 0, {EntityKind::Vertex, 1}));
        QVERIFY(!handover::ruleFor(model, 7, {EntityKind::Face, 1}));
    }
    void whatARuleFindsLaterIsToldUntilItIsAccepted() {
        const Model model = blocks({{"tall", {0, 0, 0}}});
        const auto made = run(model, "handover.rule", {{"name", "five"}, {"rule", {{"axis", "z"}, {"at", 5}}}});
        QVERIFY2(made, said(made));
        QVERIFY(first(*made).members.empty());
        // A cut at that height makes two faces that the rule finds and nobody has seen.
        const Json across{{"through", {0, 0, 5}}, {"normal", {0, 0, 1}}};
        const auto halves = run(made->model, "divide.cut", {{"planes", {across}}});
        QVERIFY2(halves, said(halves));
        QCOMPARE(first(*halves).members.size(), std::size_t(2));
        QCOMPARE(first(*halves).fresh().size(), std::size_t(2));
        QVERIFY(first(*halves).fallen().empty());
        QCOMPARE(halves->groups.size(), std::size_t(1));
        QCOMPARE(halves->groups[0].fresh, std::size_t(2));
        QVERIFY(allSaid(halves->model).find("rule of the group \"five\" finds 2 more") != std::string::npos);
        const auto fine = run(halves->model, "handover.rule", {{"name", "five"}, {"accept", true}});
        QVERIFY2(fine, said(fine));
        QVERIFY(first(*fine).fresh().empty());
        QVERIFY(allSaid(fine->model).find("finds 2 more") == std::string::npos);
        // What is accepted follows the model: a cut across parts the faces, and nothing is new by that.
        const Json along{{"through", {5, 0, 0}}, {"normal", {1, 0, 0}}};
        const auto quarters = run(fine->model, "divide.cut", {{"planes", {along}}});
        QVERIFY2(quarters, said(quarters));
        QCOMPARE(first(*quarters).members.size(), std::size_t(4));
        QVERIFY(first(*quarters).fresh().empty() && first(*quarters).fallen().empty());
        // A part that moves away is found no more, until it is kept as it was.
        const auto away =
            run(quarters->model, "intake.move", {{"places", {quarters->model.parts[0]->name}}, {"shift", {0, 0, 30}}});
        QVERIFY2(away, said(away));
        QCOMPARE(first(*away).members.size(), std::size_t(3));
        QCOMPARE(first(*away).fallen().size(), std::size_t(1));
        const auto kept = run(away->model, "handover.rule", {{"name", "five"}, {"keep", true}});
        QVERIFY2(kept, said(kept));
        QVERIFY(!first(*kept).rule);
        QCOMPARE(first(*kept).members.size(), std::size_t(4));
        QVERIFY(!run(kept->model, "handover.rule", {{"name", "five"}, {"accept", true}}));  // it has no rule now
        QVERIFY(!run(made->model, "handover.rule", {{"name", "nobody"}, {"accept", true}}));
        QVERIFY(!run(made->model, "handover.rule", {{"name", "five"}, {"accept", true}, {"keep", true}}));
        // Saved and read again, the difference is still there.
        QVERIFY(groupFromJson(toJson(first(*away))) == first(*away));
    }
    void aFaceOfOnePlaceOfSeveralIsOneMember() {
        Model model = blocks({{"bolt", {0, 0, 0}}});
        for (const double x : {20.0, 40.0}) model.occurrences.push_back({0, by(x, 0, 0), "bolt", {}, std::nullopt});
        model.giveIds();
        const std::vector<select::Pick> one{{1, 3}}, all{{0, 3}, {1, 3}, {2, 3}};
        const auto onlyOne = select::thingsOf(model, one), everywhere = select::thingsOf(model, all);
        QCOMPARE(onlyOne.size(), std::size_t(1));
        QCOMPARE(onlyOne[0].place, std::string("bolt #2"));
        QCOMPARE(everywhere.size(), std::size_t(1));
        QVERIFY(everywhere[0].place.empty());
        const auto made = run(model, "handover.group", {{"name", "load"}, {"things", onlyOne}});
        QVERIFY2(made, said(made));
        QCOMPARE(first(*made).members.size(), std::size_t(1));
        QCOMPARE(first(*made).members.begin()->place, made->model.occurrences[1].id);
        QCOMPARE(select::picksOf(made->model, first(*made).members), one);
        // A whole place is its bodies there.
        const auto whole = select::membersOf(made->model, {{2}});
        QCOMPARE(whole.size(), std::size_t(1));
        QVERIFY(whole.begin()->entity.kind == EntityKind::Body &&
                whole.begin()->place == made->model.occurrences[2].id);
    }
    void aRenamedPartIsFoundByItsId() {
        const Model model = blocks({{"A", {0, 0, 0}}, {"B", {20, 0, 0}}});
        const EntityRef edge = makeRef(*model.parts[1], {EntityKind::Edge, 5});
        const FaceRef face = makeFaceRef(*model.parts[1], 2);
        const auto renamed = run(model, "intake.rename", {{"parts", {"B"}}, {"to", "lid"}});
        QVERIFY2(renamed, said(renamed));
        const auto again = findEntity(renamed->model, Json(edge).get<EntityRef>());
        QVERIFY2(again, said(again));
        QCOMPARE(again->part, std::size_t(1));
        QCOMPARE(again->entity.number, 5);
        const auto same = findFace(renamed->model, Json(face).get<FaceRef>());
        QVERIFY2(same, said(same));
        QCOMPARE(same->part, std::size_t(1));
        // A name that is there goes before an id: of another file the ids are others.
        FaceRef wrongId = face;
        wrongId.id = model.parts[0]->id;
        const auto byName = findFace(model, wrongId);
        QVERIFY(byName && byName->part == 1);
    }
    void aGroupHasAColour() {
        const Model model = blocks({{"A", {0, 0, 0}}});
        const auto made = run(model, "handover.group", {{"name", "A"}, {"parts", {"A"}}, {"colour", {1, 0, 0}}});
        QVERIFY2(made, said(made));
        QCOMPARE(hexText(*first(*made).colour), std::string("#ff0000"));
        const auto other = run(made->model, "handover.group", {{"name", "A"}, {"colour", {0.21586, 0.21586, 0}}});
        QVERIFY2(other, said(other));
        QCOMPARE(hexText(*first(*other).colour), std::string("#808000"));  // half of what a screen knows
        QCOMPARE(first(*other).members, first(*made).members);
        QVERIFY(!run(model, "handover.group", {{"name", "nobody"}, {"colour", {1, 0, 0}}}));
    }
    void whatAStepMadeIsPicked() {
        const Model model = blocks({{"A", {0, 0, 0}}, {"B", {20, 0, 0}}});
        const Json across{{"through", {5, 0, 0}}, {"normal", {1, 0, 0}}};
        const auto halves = run(model, "divide.cut", {{"planes", {across}}, {"parts", {"A"}}});
        QVERIFY2(halves, said(halves));
        const auto made = select::facesMade(halves->model, halves->lineage);
        QCOMPARE(made.size(), std::size_t(2));
        for (const Member& member : made)
            QCOMPARE_NEAR(makeRef(*halves->model.parts[*halves->model.partOf(member.part)], member.entity).at.X(), 5.0,
                          1e-9);
    }
    void whatAGroupLostIsToldWithItsPlace() {
        const Model model = modelOf(drilledPlate(100, 60, 8, 4, 5), "plate");
        const auto ruled =
            run(model, "handover.rule", {{"name", "bores"}, {"rule", {{"surface", "cylinder"}, {"diameter", 5.0}}}});
        QVERIFY2(ruled, said(ruled));
        const auto filled = run(ruled->model, "shave.removeHoles", {{"upTo", 6.0}});
        QVERIFY2(filled, said(filled));
        QCOMPARE(filled->groups.size(), std::size_t(1));
        const GroupChange& change = filled->groups[0];
        QCOMPARE(change.gone, std::size_t(4));
        QCOMPARE(change.unit, std::string("mm²"));
        QCOMPARE(change.lostAt.size(), std::size_t(4));
        double area = 0.0;
        std::size_t known = 0;
        for (const Member& member : first(*ruled).members) {
            const EntityRef bore = makeRef(*model.parts[0], member.entity);
            area += bore.measure;
            for (const gp_XYZ& at : change.lostAt) known += bore.at.Distance(at) < 1e-9;
        }
        QCOMPARE(known, std::size_t(4));
        QCOMPARE_NEAR(change.measureBefore, area, 1e-6);
    }
    void layersAndNamesOfAFileBecomeGroups() {
        Model model = blocks({{"A", {0, 0, 0}}, {"B", {20, 0, 0}}});
        Group fixed{"walls", "layer", std::nullopt, {}, std::nullopt};
        fixed.members.insert({model.parts[0]->id, everyPlace, {EntityKind::Face, 1}});
        fixed.members.insert({model.parts[1]->id, everyPlace, {EntityKind::Body, 1}});
        Group seat{"seat", "support", std::nullopt, {}, std::nullopt};
        seat.members.insert({model.parts[1]->id, everyPlace, {EntityKind::Face, 4}});
        const gp_Pnt seatAt = makeRef(*model.parts[1], {EntityKind::Face, 4}).at;
        model.groups = {fixed, seat};
        const QTemporaryDir folder;
        const std::filesystem::path path = folder.path().toStdString() + "/layers.step";
        const auto written = exchange::writeFile(model, path, {}, quietly());
        QVERIFY2(written, said(written));
        const auto read = exchange::readFile(path, {}, quietly());
        QVERIFY2(read, said(read));
        std::map<std::string, Group> groups;
        for (const Group& group : read->groups) groups[group.name] = group;
        QVERIFY(groups.contains("walls") && groups.contains("seat"));
        QCOMPARE(groups["walls"].purpose, std::string("layer"));
        QCOMPARE(groups["walls"].members.size(), std::size_t(2));
        QCOMPARE(groups["seat"].members.size(), std::size_t(1));
        const Member& member = *groups["seat"].members.begin();
        const auto part = read->partOf(member.part);
        QVERIFY(part);
        QVERIFY(makeRef(*read->parts[*part], member.entity).at.Distance(seatAt) < 1e-6);
    }
    void theCheckTellsUnitsAndWhatIsThereTwice() {
        Model model = modelOf(block(200, 100, 3), "plate");
        model.targetSize = 4.0;
        QVERIFY(allSaid(model).find("unit") == std::string::npos);
        model.unitAssumed = true;
        QVERIFY(allSaid(model).find("states no unit; in mm the model is") != std::string::npos);
        model.unitAssumed = false;
        const std::string speck = allSaid(modelOf(block(0.2, 0.1, 0.1), "speck"));
        QVERIFY2(speck.find("mm wide") != std::string::npos, speck.c_str());
        // The plate and its own sheet, side by side in one hand-over.
        const auto sheets = run(model, "reduce.midsurface", {{"parts", {"plate"}}});
        QVERIFY2(sheets, said(sheets));
        Model both = sheets->model;
        QVERIFY(allSaid(both).find("as a solid and as its sheet") == std::string::npos);
        both.occurrences.push_back({both.parts.size(), gp_Trsf(), "whole", {}, std::nullopt});
        both.parts.push_back(std::make_shared<Part>("whole", block(200, 100, 3)));
        both.giveIds();
        QVERIFY2(
            allSaid(both).find("\"whole\" is handed over as a solid and as its sheet \"plate\"") != std::string::npos,
            allSaid(both).c_str());
        // Beside it, or twice as thick, it is another body.
        both.occurrences.changeLast().placement = by(0, 0, 50);
        QVERIFY(allSaid(both).find("as a solid and as its sheet") == std::string::npos);
        both.occurrences.changeLast().placement = gp_Trsf();
        both.parts.back() = std::make_shared<Part>("whole", block(200, 100, 6));
        both.giveIds();
        QVERIFY(allSaid(both).find("as a solid and as its sheet") == std::string::npos);
    }
    void aWedgeNamesItsEdges() {
        // A wedge of ten degrees: its sharp edge is named, so that the list can show it.
        const double high = 20.0 * std::tan(10.0 * M_PI / 180.0);
        BRepBuilderAPI_MakePolygon outline(gp_Pnt(0, 0, 0), gp_Pnt(20, 0, 0), gp_Pnt(20, 0, high), true);
        const TopoDS_Face end = BRepBuilderAPI_MakeFace(outline.Wire(), true);
        const Model model = modelOf(BRepPrimAPI_MakePrism(end, gp_Vec(0, 10, 0)).Shape(), "wedge");
        const auto findings = handover::check(model, quietly());
        QVERIFY(findings);
        const auto wedge = std::find_if(findings->begin(), findings->end(), [](const auto& one) {
            return one.what.find("ends in a wedge") != std::string::npos;
        });
        QVERIFY(wedge != findings->end());
        QCOMPARE(wedge->things.size(), std::size_t(1));
        const EntityRef edge = makeRef(*model.parts[0], wedge->things[0]);
        QVERIFY(edge.at.Distance(gp_Pnt(0, 5, 0)) < 1e-9);
    }
};

static Registered<GroupsTest> groupsTest;

}  // namespace rasoir::test

#include "groups_test.moc"
