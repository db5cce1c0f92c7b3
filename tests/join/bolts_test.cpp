// Bolts through plates: found by shape, however they lie; beams in their stead, tied at both ends.
#include "join/bolts.h"

#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepPrimAPI_MakePrism.hxx>

#include "geometry/integrals.h"
#include "join/make_bolts.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace join;

class BoltsTest : public QObject {
    Q_OBJECT

    static gp_Ax1 up(double x, double y, double z) { return {gp_Pnt(x, y, z), gp_Dir(0, 0, 1)}; }
    static TopoDS_Shape plate(double z, double hole) {
        gp_Trsf move;
        move.SetTranslation(gp_Vec(-30, -30, z));
        return cut(moved(block(60, 60, 10), move), rod(up(0, 0, z - 1), 0.5 * hole, 12));
    }
    /// Head from 20 to 25, shank of 8 down to `tip`.
    static TopoDS_Shape bolt(double tip) { return fuse(rod(up(0, 0, 20), 6.5, 5), rod(up(0, 0, tip), 4, 20 - tip)); }
    static TopoDS_Shape nut() {
        BRepBuilderAPI_MakePolygon hexagon;
        for (int i = 0; i < 6; ++i)
            hexagon.Add(gp_Pnt(7.5 * std::cos(i * M_PI / 3), 7.5 * std::sin(i * M_PI / 3), -6.5));
        hexagon.Close();
        return cut(BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(hexagon.Wire()).Face(), gp_Vec(0, 0, 6.5)).Shape(),
                   rod(up(0, 0, -7), 4, 8));
    }
    static Model standing(const std::vector<std::pair<std::string, TopoDS_Shape>>& bodies, bool turn) {
        Model model;
        gp_Trsf turned;
        if (turn) turned.SetRotation(gp_Ax1(gp_Pnt(7, 3, 1), gp_Dir(1, 2, 3)), 0.6);
        for (const auto& [name, shape] : bodies) {
            Occurrence place;
            place.part = model.parts.size();
            place.name = name;
            place.placement = turned;
            model.parts.push_back(std::make_shared<Part>(name, shape));
            model.occurrences.push_back(place);
        }
        model.giveIds();
        return model;
    }

private slots:
    void aBoltWithItsNut() {
        for (const bool turn : {false, true}) {
            const Model model =
                standing({{"upper", plate(10, 9)}, {"lower", plate(0, 9)}, {"bolt", bolt(-8)}, {"nut", nut()}}, turn);
            const auto found = findBolts(model, quietly());
            QVERIFY2(found, said(found));
            QCOMPARE(found->size(), std::size_t(1));
            const BoltedJoint& joint = found->front();
            QVERIFY(joint.nut);
            QCOMPARE(joint.clamped.size(), std::size_t(2));
            QCOMPARE(joint.clamped[0].place, std::size_t(0));  // from the head on
            QCOMPARE_NEAR(joint.length, 20.0, 1e-6);
            QCOMPARE_NEAR(joint.diameter, 8.0, 1e-9);
            const auto done = run(model, "join.bolt");
            QVERIFY2(done, said(done));
            QVERIFY(done->model.occurrences[2].aside && done->model.occurrences[3].aside);
            const Part& beam = *done->model.parts.back();
            QCOMPARE(static_cast<int>(beam.kind()), static_cast<int>(BodyKind::Wire));
            QCOMPARE_NEAR(lengthOf(beam.shape), 20.0, 1e-6);
            QCOMPARE_NEAR(beam.known.sections.at({EntityKind::Edge, 1}).area, 16.0 * M_PI, 1e-9);
            QCOMPARE(done->model.pairings.size(), std::size_t(2));
            QCOMPARE(done->model.groups.size(), std::size_t(4));
            // The rims: a circle of 9 each, on the outer sides of the two plates.
            for (const Group& group : done->model.groups)
                for (const Member& member : group.members)
                    if (member.entity.kind == EntityKind::Edge)
                        QCOMPARE_NEAR(lengthOf(done->model.parts[*done->model.partOf(member.part)]->incidence().edge(
                                          member.entity.number)),
                                      9.0 * M_PI, 1e-6);
        }
    }
    void aBoltInAThread() {
        const Model model = standing({{"cover", plate(10, 9)}, {"body", plate(0, 8)}, {"bolt", bolt(2)}}, true);
        const auto found = findBolts(model, quietly());
        QVERIFY2(found, said(found));
        QCOMPARE(found->size(), std::size_t(1));
        QVERIFY(!found->front().nut);
        QCOMPARE_NEAR(found->front().length, 10.0, 1e-6);  // to where the thread begins
        const auto done = run(model, "join.bolt", {{"name", "M8"}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.back()->name, std::string("M8 1"));
        const auto thread = std::find_if(done->model.groups.begin(), done->model.groups.end(),
                                         [](const Group& group) { return group.name == "M8 1, held at its thread"; });
        QVERIFY(thread != done->model.groups.end());
        QCOMPARE(static_cast<int>(thread->members.begin()->entity.kind), static_cast<int>(EntityKind::Face));
    }
    void whatGoesThroughNothingIsNoJoint() {
        const Model loose = standing({{"bolt", bolt(-8)}}, false);
        const auto found = findBolts(loose, quietly());
        QVERIFY2(found, said(found));
        QVERIFY(found->empty());
        const auto none = run(loose, "join.bolt");
        QVERIFY(!none);
        QCOMPARE(none.error().kind, ProblemKind::NothingToDo);
        const auto named = run(loose, "join.bolt", {{"bolts", {"bolt"}}});
        QVERIFY(!named);
        QCOMPARE(named.error().kind, ProblemKind::NotPossible);
        QVERIFY(!run(loose, "join.bolt", {{"bolts", {"screw"}}}));
    }

    void aBoltIsCutForPreload() {
        for (const bool turn : {false, true}) {
            const Model model =
                standing({{"upper", plate(10, 9)}, {"lower", plate(0, 9)}, {"bolt", bolt(-8)}, {"nut", nut()}}, turn);
            const auto done = run(model, "join.bolt", {{"as", "body"}, {"rings", true}});
            QVERIFY2(done, said(done));
            // Two halves in the bolt's place, cut at z = 10, midway between head and nut; nothing is set aside.
            double volume = 0.0;
            std::size_t halves = 0;
            for (const auto& part : done->model.parts)
                if (part->name.starts_with("bolt")) {
                    ++halves;
                    volume += rasoir::volumeOf(part->shape);
                    QVERIFY(isValid(part->shape));
                }
            QCOMPARE(halves, std::size_t(2));
            QCOMPARE_NEAR(volume, rasoir::volumeOf(bolt(-8)), 1e-6);
            for (const Occurrence& place : done->model.occurrences) QVERIFY(!place.aside);
            QCOMPARE(done->model.pairings.size(), std::size_t(1));
            QCOMPARE(done->model.pairings[0].behaviour, std::string("preload"));
            const auto areaOfGroup = [&](const std::string& name) {
                for (const Group& group : done->model.groups)
                    if (group.name == name) {
                        double sum = 0.0;
                        for (const Member& member : group.members)
                            for (const auto& part : done->model.parts)
                                if (part->id == member.part)
                                    sum += areaOf(part->incidence().face(member.entity.number));
                        return sum;
                    }
                return -1.0;
            };
            QCOMPARE_NEAR(areaOfGroup(done->model.pairings[0].first), M_PI * 16, 1e-9);
            QCOMPARE_NEAR(areaOfGroup(done->model.pairings[0].second), M_PI * 16, 1e-9);
            // The head is round, 13 wide; the nut has no round rim, so twice the hole is assumed.
            QCOMPARE_NEAR(areaOfGroup("bolt 1, seat of the head"), M_PI * (6.5 * 6.5 - 4.5 * 4.5), 1e-9);
            QCOMPARE_NEAR(areaOfGroup("bolt 1, seat of the nut"), M_PI * (81 - 4.5 * 4.5), 1e-9);
        }
    }
    void ringsUnderBoltsThatBecomeBeams() {
        // Two bolts of one part in one plate: each has its seat, and each beam is tied to its own rim.
        Model model =
            standing({{"upper", plate(10, 9)}, {"lower", plate(0, 9)}, {"bolt", bolt(-8)}, {"nut", nut()}}, false);
        gp_Trsf aside;
        aside.SetTranslation(gp_Vec(18, 0, 0));
        for (const std::size_t plateIndex : {std::size_t(0), std::size_t(1)}) {
            auto part = model.parts[plateIndex]->copy();
            part->setShape(cut(part->shape, moved(rod(up(0, 0, -1), 4.5, 30), aside)));
            model.parts[plateIndex] = part;
        }
        for (const std::size_t o : {std::size_t(2), std::size_t(3)}) {
            Occurrence place = model.occurrences[o];
            place.placement = aside;
            place.id = 0;
            model.occurrences.push_back(place);
        }
        model.giveIds();
        const auto done = run(model, "join.bolt", {{"rings", true}});
        QVERIFY2(done, said(done));
        std::size_t seats = 0;
        for (const Group& group : done->model.groups) seats += group.name.find("seat of the") != std::string::npos;
        QCOMPARE(seats, std::size_t(4));
        QCOMPARE(done->model.pairings.size(), std::size_t(4));
        for (const auto& part : done->model.parts) QVERIFY(part->kind() == BodyKind::Wire || isValid(part->shape));
    }
    void twoBoltsOfOnePartAreCutEachForItself() {
        Model model =
            standing({{"upper", plate(10, 9)}, {"lower", plate(0, 9)}, {"bolt", bolt(-8)}, {"nut", nut()}}, false);
        gp_Trsf aside;
        aside.SetTranslation(gp_Vec(0, 200, 0));
        for (std::size_t o = 0; o < 4; ++o) {
            Occurrence place = model.occurrences[o];
            place.placement = aside;
            place.id = 0;
            model.occurrences.push_back(place);
        }
        model.giveIds();
        const auto done = run(model, "join.bolt", {{"as", "body"}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(2));
        double volume = 0.0;
        for (const Occurrence& place : done->model.occurrences)
            if (done->model.parts[place.part]->name.starts_with("bolt"))
                volume += rasoir::volumeOf(done->model.parts[place.part]->shape);
        QCOMPARE_NEAR(volume, 2.0 * rasoir::volumeOf(bolt(-8)), 1e-6);
    }
};

static Registered<BoltsTest> boltsTest;

}  // namespace rasoir::test

#include "bolts_test.moc"
