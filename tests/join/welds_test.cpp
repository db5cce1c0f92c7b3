// Welds: lines, lengths and throats where one knows them.
#include "join/welds.h"

#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <gp_Pln.hxx>

#include "geometry/integrals.h"
#include "join/joint_faults.h"
#include "model/reference.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class WeldsTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape at(const TopoDS_Shape& shape, double x, double y, double z) {
        gp_Trsf move;
        move.SetTranslation(gp_Vec(x, y, z));
        return moved(shape, move);
    }
    static Model bodies(const std::vector<std::pair<std::string, TopoDS_Shape>>& all, bool turn = false) {
        gp_Trsf place;
        if (turn) place.SetRotation(gp_Ax1(gp_Pnt(7, 3, 1), gp_Dir(1, 2, 3)), 0.6);
        Model model;
        for (const auto& [name, shape] : all) {
            Occurrence one;
            one.part = model.parts.size();
            one.name = name;
            one.placement = place;
            model.occurrences.push_back(one);
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        model.targetSize = 5.0;
        model.giveIds();
        return model;
    }
    /// A plate of 200 by 100 by 8, and a rib of 120 by 5 by 40 on it.
    static Model ribOnPlate(bool turn = false) {
        return bodies({{"plate", block(200, 100, 8)}, {"rib", at(block(120, 5, 40), 40, 50, 8)}}, turn);
    }
    static double lengthIn(const Model& model, const std::string& group) {
        for (const Group& one : model.groups)
            if (one.name == group) {
                double length = 0.0;
                for (const Member& member : one.members)
                    for (const auto& part : model.parts)
                        if (part->id == member.part) length += lengthOf(part->incidence().edge(member.entity.number));
                return length;
            }
        return -1.0;
    }

    static double areaOf(const Model& model, const std::string& group) {
        double area = 0.0;
        for (const Group& one : model.groups)
            if (one.name == group)
                for (const Member& member : one.members)
                    for (const auto& part : model.parts)
                        if (part->id == member.part && member.entity.kind == EntityKind::Face)
                            area += rasoir::areaOf(part->incidence().face(member.entity.number));
        return area;
    }

private slots:
    void aRibHasASeamOnEitherSideAndAtItsEnds() {
        for (const bool turn : {false, true}) {
            const auto plan = join::findWelds(ribOnPlate(turn), {}, {}, quietly());
            QVERIFY2(plan, said(plan));
            QCOMPARE(plan->lines.size(), std::size_t(4));
            for (std::size_t i = 0; i < 4; ++i) {
                const join::WeldLine& line = plan->lines[i];
                QCOMPARE_NEAR(line.length, i < 2 ? 120.0 : 5.0, 1e-9);
                QCOMPARE_NEAR(line.angle, M_PI / 2, 1e-6);
                QCOMPARE(line.place, std::size_t(1));  // the rib stands on the plate
                QCOMPARE_NEAR(line.thicknessA, 5.0, 1e-2);
                QCOMPARE_NEAR(line.thicknessB, 8.0, 1e-2);
                QCOMPARE(line.proposedThroat(), 3.5);
            }
            QVERIFY(plan->parted.model.joints.empty());
        }
    }
    void seamsAreKeptAsPairsOfEdges() {
        const auto done = run(ribOnPlate(), "join.weld");
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(2));  // the ends are shorter than three throats
        QVERIFY(!done->notes.empty());
        QVERIFY(done->model.joints.empty());
        for (const Pairing& weld : done->model.pairings) {
            QCOMPARE(static_cast<int>(weld.kind), static_cast<int>(PairingKind::Weld));
            QCOMPARE(weld.throat, 3.5);
            QCOMPARE_NEAR(weld.length, 120.0, 1e-9);
            QCOMPARE_NEAR(lengthIn(done->model, weld.first), 120.0, 1e-9);
            QCOMPARE_NEAR(lengthIn(done->model, weld.second), 120.0, 1e-9);
            QCOMPARE(pairingFromJson(toJson(weld)), weld);
        }
        // The plate is parted at the rib's outline and as large as before.
        QCOMPARE(done->model.parts[0]->incidence().faceCount(), 7);
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), 160000.0, 1e-6);
        const auto all = run(ribOnPlate(), "join.weld", {{"shortest", 1.0}, {"throat", 3.0}});
        QVERIFY2(all, said(all));
        QCOMPARE(all->model.pairings.size(), std::size_t(4));
        QCOMPARE(all->model.pairings[0].throat, 3.0);
    }
    void lappedPlatesAndTubes() {
        // Two plates of 6 and 4 that lap by 30: seams at the two ends of the lap, none along the flush sides.
        const Model lapped = bodies({{"below", block(100, 50, 6)}, {"above", at(block(100, 50, 4), 70, 0, 6)}});
        const auto lap = join::findWelds(lapped, {}, {}, quietly());
        QVERIFY2(lap, said(lap));
        QCOMPARE(lap->lines.size(), std::size_t(2));
        for (const join::WeldLine& line : lap->lines) {
            QCOMPARE_NEAR(line.length, 50.0, 1e-9);
            QCOMPARE_NEAR(line.angle, M_PI / 2, 1e-6);
            QCOMPARE_NEAR(std::min(line.thicknessA, line.thicknessB), 4.0, 1e-2);
        }
        // A tube on a plate: one line outside; inside it is closed off by the tube alone, and open all the same.
        const TopoDS_Shape tube = cut(rod(gp_Ax1(gp_Pnt(50, 50, 8), gp_Dir(0, 0, 1)), 20, 30),
                                      rod(gp_Ax1(gp_Pnt(50, 50, 7), gp_Dir(0, 0, 1)), 17, 32));
        const auto round = join::findWelds(bodies({{"plate", block(100, 100, 8)}, {"tube", tube}}), {}, {}, quietly());
        QVERIFY2(round, said(round));
        QCOMPARE(round->lines.size(), std::size_t(2));
        QCOMPARE_NEAR(round->lines[0].length, 2.0 * M_PI * 20.0, 1e-6);
        QCOMPARE_NEAR(round->lines[1].length, 2.0 * M_PI * 17.0, 1e-6);
        QCOMPARE_NEAR(round->lines[0].thicknessA, 3.0, 0.05);
    }
    void stripsAreFacesBesideTheLine() {
        for (const bool turn : {false, true}) {
            const Model model = ribOnPlate(turn);
            const auto done = run(model, "join.weld", {{"strip", 6.0}, {"shortest", 1.0}});
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.pairings.size(), std::size_t(4));
            double ofRib = 0.0, ofPlate = 0.0;
            for (const Pairing& weld : done->model.pairings) {
                const double a = areaOf(done->model, weld.first), b = areaOf(done->model, weld.second);
                QCOMPARE_NEAR(a, 6.0 * weld.length, 1e-6);
                QCOMPARE_NEAR(b, 6.0 * weld.length, 1e-6);
                ofRib += a;
                ofPlate += b;
            }
            QCOMPARE_NEAR(ofRib, 6.0 * 250.0, 1e-6);
            QCOMPARE_NEAR(ofPlate, 6.0 * 250.0, 1e-6);
            for (std::size_t p = 0; p < 2; ++p) {
                QVERIFY(isValid(done->model.parts[p]->shape));
                QCOMPARE_NEAR(volumeOf(done->model.parts[p]->shape), volumeOf(model.parts[p]->shape), 1e-6);
            }
        }
        // Round a tube on a plate: a ring on the plate, a band on the tube.
        const TopoDS_Shape tube = cut(rod(gp_Ax1(gp_Pnt(50, 50, 8), gp_Dir(0, 0, 1)), 20, 60),
                                      rod(gp_Ax1(gp_Pnt(50, 50, 7), gp_Dir(0, 0, 1)), 16, 62));
        const auto round = run(bodies({{"plate", block(100, 100, 8)}, {"tube", tube}}), "join.weld", {{"strip", 5.0}});
        QVERIFY2(round, said(round));
        QCOMPARE(round->model.pairings.size(), std::size_t(2));
        for (const Pairing& weld : round->model.pairings) {
            const bool outside = weld.length > 2.0 * M_PI * 18.0;
            const double radius = outside ? 20.0 : 16.0, across = outside ? 25.0 : 11.0;
            QCOMPARE_NEAR(areaOf(round->model, weld.first), 2.0 * M_PI * radius * 5.0, 1e-6);
            QCOMPARE_NEAR(areaOf(round->model, weld.second), M_PI * std::abs(across * across - radius * radius), 1e-6);
        }
        // Wider than the rib is high: all of its side is the strip.
        const auto wide = run(ribOnPlate(), "join.weld", {{"strip", 45.0}});
        QVERIFY2(wide, said(wide));
        const auto longest = std::max_element(wide->model.pairings.begin(), wide->model.pairings.end(),
                                              [](const Pairing& a, const Pairing& b) { return a.length < b.length; });
        QCOMPARE_NEAR(areaOf(wide->model, longest->first), 120.0 * 40.0, 1e-6);
        const auto tight = run(bodies({{"plate", block(100, 100, 8)}, {"tube", tube}}), "join.weld", {{"strip", 17.0}});
        QVERIFY(!tight);
        QVERIFY2(tight.error().what.find("too tightly") != std::string::npos, said(tight));
        QVERIFY(!run(ribOnPlate(), "join.weld", {{"strip", -1.0}}));
    }
    void whatIsWeldedIsNotProposedAgain() {
        for (const double strip : {0.0, 6.0}) {
            const auto done = run(ribOnPlate(), "join.weld", {{"strip", strip}});  // the ends are too short
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.pairings.size(), std::size_t(2));
            const auto again = join::findWelds(done->model, {}, {}, quietly());
            QVERIFY2(again, said(again));
            QCOMPARE(again->lines.size(), std::size_t(2));
            for (const join::WeldLine& line : again->lines) QCOMPARE_NEAR(line.length, 5.0, 1e-6);
            const auto twice = run(done->model, "join.weld");
            QVERIFY(!twice);
            QCOMPARE(twice.error().kind, ProblemKind::NothingToDo);
        }
    }
    void copiesThatArePartedAreHeldAsWell() {
        // Two ribs of one part, one turned, so that each is parted in its own way.
        Model model = ribOnPlate();
        Occurrence other = model.occurrences[1];
        other.id = 0;
        other.name = "second rib";
        other.placement.SetTranslation(gp_Vec(60, 20, 0));
        model.occurrences.push_back(other);
        model.parts[0] = std::make_shared<Part>("plate", block(180, 100, 8));  // the second one overhangs
        model.giveIds();
        for (const double strip : {0.0, 5.0}) {
            const auto done = run(model, "join.weld", {{"strip", strip}});
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.pairings.size(), std::size_t(4));
            for (const Pairing& weld : done->model.pairings)
                for (const std::string& side : {weld.first, weld.second}) {
                    if (strip > 0.0)
                        QCOMPARE_NEAR(areaOf(done->model, side), strip * weld.length, 1e-6);
                    else
                        QCOMPARE_NEAR(lengthIn(done->model, side), weld.length, 1e-6);
                }
        }
    }
    void whatWasJoinedStaysSo() {
        // Two plates with a common face, and a rib that is welded onto the seam between them.
        const Model model = bodies({{"left", block(100, 100, 8)},
                                    {"right", at(block(100, 100, 8), 100, 0, 0)},
                                    {"rib", at(block(120, 5, 40), 40, 50, 8)}});
        const auto joined = run(model, "join.pairs", {{"places", {"left", "right"}}});
        QVERIFY2(joined, said(joined));
        const auto faces = [](const Model& of) {
            return std::count_if(of.joints.begin(), of.joints.end(),
                                 [](const Joint& joint) { return joint.kind == EntityKind::Face; });
        };
        QCOMPARE(faces(joined->model), std::ptrdiff_t(1));
        for (const double strip : {0.0, 5.0}) {
            const auto done = run(joined->model, "join.weld", {{"strip", strip}});
            QVERIFY2(done, said(done));
            QVERIFY(!done->model.pairings.empty());
            QVERIFY(faces(done->model) >= 1);
            const auto faults = join::faultsInJoints(done->model);
            QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().c_str());
            for (const Joint& joint : done->model.joints)
                for (const JointUse& use : joint.uses) QVERIFY(done->model.placeOf(use.place) != std::size_t(2));
        }
    }
    void beadsBecomeLines() {
        // A rib on a plate with a bead of 4 by 4 along either side.
        {
            const auto bead = [](double x, double y, double a, double b, const gp_Vec& along, double turn) {
                BRepBuilderAPI_MakePolygon outline(gp_Pnt(0, 0, 0), gp_Pnt(a, 0, 0), gp_Pnt(0, 0, b), true);
                gp_Trsf put, stand;
                stand.SetRotation(gp_Ax1(gp::Origin(), gp::DZ()), turn);
                put.SetTranslation(gp_Vec(x, y, 8));
                const TopoDS_Shape lying = moved(BRepBuilderAPI_MakeFace(outline.Wire(), true).Shape(), put * stand);
                return TopoDS_Shape(BRepPrimAPI_MakePrism(lying, along).Shape());
            };
            const Model model = bodies({{"plate", block(200, 100, 8)},
                                        {"rib", at(block(120, 5, 40), 40, 50, 8)},
                                        {"bead a", bead(40, 55, 4, 4, gp_Vec(120, 0, 0), M_PI / 2)},
                                        {"bead b", bead(40, 50, 4, 4, gp_Vec(120, 0, 0), -M_PI / 2)}});
            const auto done = run(model, "join.weld");
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.pairings.size(), std::size_t(2));  // the rib's ends are too short
            int beads = 0;
            for (const Pairing& weld : done->model.pairings)
                if (weld.length > 100.0) {
                    QCOMPARE_NEAR(weld.throat, 2.83, 1e-9);  // of 4 by 4, to a hundredth
                    QCOMPARE_NEAR(weld.length, 120.0, 1e-6);
                    QCOMPARE_NEAR(lengthIn(done->model, weld.first), 120.0, 1e-6);
                    QCOMPARE_NEAR(lengthIn(done->model, weld.second), 120.0, 1e-6);
                    ++beads;
                }
            QCOMPARE(beads, 2);
            for (std::size_t o = 0; o < 4; ++o) QCOMPARE(done->model.occurrences[o].aside, o >= 2);
            // The strips lie under the beads.
            const auto strips = run(model, "join.weld", {{"strip", 4.0}});
            QVERIFY2(strips, said(strips));
            for (const Pairing& weld : strips->model.pairings) {
                QCOMPARE_NEAR(areaOf(strips->model, weld.first), 4.0 * weld.length, 1e-5);
                QCOMPARE_NEAR(areaOf(strips->model, weld.second), 4.0 * weld.length, 1e-5);
            }
            // Left as bodies, they are welded themselves.
            const auto kept = run(model, "join.weld", {{"beads", false}});
            QVERIFY2(kept, said(kept));
            QVERIFY(!kept->model.occurrences[2].aside);
        }
        // A gusset in a corner is no bead.
        BRepBuilderAPI_MakePolygon triangle(gp_Pnt(0, 0, 0), gp_Pnt(30, 0, 0), gp_Pnt(0, 0, 30), true);
        const TopoDS_Shape gusset =
            BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(triangle.Wire(), true).Face(), gp_Vec(0, 6, 0)).Shape();
        const auto plain = run(bodies({{"floor", at(block(100, 50, 8), 0, 0, -8)},
                                       {"wall", at(block(8, 50, 60), -8, 0, 0)},
                                       {"gusset", at(gusset, 0, 20, 0)}}),
                               "join.weld");
        QVERIFY2(plain, said(plain));
        QVERIFY(!plain->model.occurrences[2].aside);
    }
    void oneBodyHasNothingToBeWeldedTo() {
        const auto plan = join::findWelds(bodies({{"plate", block(200, 100, 8)}}), {}, {}, quietly());
        QVERIFY2(plan, said(plan));
        QVERIFY(plan->lines.empty());
        QCOMPARE(run(bodies({{"plate", block(200, 100, 8)}}), "join.weld").error().kind, ProblemKind::NothingToDo);
    }
    void flushBlocksAndGapsHaveNone() {
        const auto butt =
            run(bodies({{"left", block(50, 50, 10)}, {"right", at(block(50, 50, 10), 50, 0, 0)}}), "join.weld");
        QVERIFY(!butt);
        QCOMPARE(butt.error().kind, ProblemKind::NothingToDo);
        const auto gap =
            run(bodies({{"plate", block(200, 100, 8)}, {"rib", at(block(120, 5, 40), 40, 50, 8.5)}}), "join.weld");
        QVERIFY(!gap);
        QCOMPARE(gap.error().kind, ProblemKind::NothingToDo);
    }
    void sheetsAreWeldedAlongTheLineTheyMeetIn() {
        Model model = bodies({{"plate", BRepBuilderAPI_MakeFace(gp_Pln(gp::XOY()), 0.0, 100.0, -30.0, 30.0).Face()},
                              {"rib", BRepBuilderAPI_MakeFace(gp_Pln(gp::ZOX()), 0.0, 40.0, 0.0, 100.0).Face()}});
        const auto thick = run(model, "reduce.thickness", {{"parts", {"*"}}, {"thickness", 4.0}});
        QVERIFY2(thick, said(thick));
        for (const bool joined : {false, true}) {
            Model sheets = thick->model;
            if (joined) {
                const auto one = run(sheets, "join.pairs");
                QVERIFY2(one, said(one));
                sheets = one->model;
            }
            const std::size_t joints = sheets.joints.size();
            const auto done = run(sheets, "join.weld");
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.pairings.size(), std::size_t(1));
            QCOMPARE_NEAR(done->model.pairings[0].length, 100.0, 1e-6);
            QCOMPARE_NEAR(done->model.pairings[0].throat, 2.5, 1e-9);
            QCOMPARE(done->model.joints.size(), joints);
        }
    }
    void fastenersAreNotWelded() {
        // A bolt through a plate touches it under its head and nowhere else.
        const TopoDS_Shape bolt = fuse(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 6.5, 5),
                                       rod(gp_Ax1(gp_Pnt(0, 0, -18), gp_Dir(0, 0, 1)), 4, 18));
        const Model model =
            bodies({{"plate", cut(block(60, 60, 10), rod(gp_Ax1(gp_Pnt(30, 30, -1), gp_Dir(0, 0, 1)), 4.5, 12))},
                    {"bolt", at(bolt, 30, 30, 10)}});
        const auto plan = join::findWelds(model, {}, {}, quietly());
        QVERIFY2(plan, said(plan));
        QVERIFY(plan->lines.empty());
        const auto named = join::findWelds(model, {}, {{"bolt", "plate"}}, quietly());
        QVERIFY2(named, said(named));
        QVERIFY(!named->lines.empty());  // who asks for it gets it
    }
    void seamsFollowLaterSteps() {
        const auto done = run(ribOnPlate(), "join.weld");
        QVERIFY2(done, said(done));
        // The rib loses its end: 20 of 120.
        const auto cut = run(
            done->model, "divide.cut",
            {{"parts", {"rib"}}, {"planes", {{{"through", {140, 0, 0}}, {"normal", {1, 0, 0}}}}}, {"keep", "below"}});
        QVERIFY2(cut, said(cut));
        for (const Pairing& weld : cut->model.pairings) QCOMPARE_NEAR(lengthIn(cut->model, weld.first), 100.0, 1e-6);
    }
    void whatCannotBeIsRefused() {
        for (const Json& bad : {Json{{"throat", -1.0}}, Json{{"throat", 7.0}}, Json{{"shortest", -1.0}},
                                Json{{"name", ""}}, Json{{"places", {"nobody"}}}, Json{{"pairs", {{"rib"}}}}})
            QVERIFY2(!run(ribOnPlate(), "join.weld", bad), bad.dump().c_str());
        const auto long_ = run(ribOnPlate(), "join.weld", {{"shortest", 500.0}});
        QVERIFY(!long_);
        QCOMPARE(long_.error().kind, ProblemKind::NothingToDo);
    }

    void spotWeldsHoldEverySheetWithinReach() {
        // Three sheets over each other, 1.2 apart; the third is shorter, so that the last points of the row miss it.
        Model model;
        const auto sheet = [&model](const char* name, double z, double length) {
            gp_Trsf up;
            up.SetTranslation(gp_Vec(0, 0, z));
            model.occurrences.push_back({model.parts.size(), up, name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(
                name, BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(), gp::DZ()), 0, length, 0, 30).Face()));
        };
        sheet("a", 0.0, 100);
        sheet("b", 1.2, 100);
        sheet("c", 2.4, 60);
        model.giveIds();
        const Json row{{"from", {{"at", {10, 15, 1.2}}}}, {"to", {{"at", {130, 15, 1.2}}}}, {"count", 7}};
        const auto done = run(model, "join.spotWelds", {{"row", row}, {"reach", 2.0}, {"diameter", 5.0}});
        QVERIFY2(done, said(done));
        // At x = 10, 30, 50 all three; at 70 and 90 two; at 110 and 130 none.
        QCOMPARE(done->model.pairings.size(), std::size_t(5));
        std::vector<std::size_t> held;
        for (const Group& group : done->model.groups)
            if (group.name.ends_with(", held")) held.push_back(group.members.size());
        QCOMPARE(held, (std::vector<std::size_t>{3, 3, 3, 2, 2}));
        QCOMPARE_NEAR(done->model.pairings[0].gap, 2.4, 1e-9);
        QCOMPARE_NEAR(done->model.pairings[4].gap, 1.2, 1e-9);
        QCOMPARE(std::count_if(done->items.begin(), done->items.end(), [](const Item& item) { return !item.done; }), 2);
        QCOMPARE(done->model.parts.size(), std::size_t(8));
        QVERIFY(makeRef(*done->model.parts[3], {EntityKind::Vertex, 1}).at.Distance(gp_Pnt(10, 15, 1.2)) < 1e-9);
        // A point that holds one sheet alone makes nothing, and says which.
        const auto alone = run(model, "join.spotWelds", {{"points", {{{"at", {50, 15, 0}}}}}, {"reach", 0.5}});
        QVERIFY(!alone);
        QVERIFY2(QString(said(alone)).contains("\"a\" alone"), said(alone));
        QVERIFY(!run(model, "join.spotWelds", {{"points", Json::array()}}));
        QVERIFY(!run(model, "join.spotWelds", {{"row", row}, {"reach", -1.0}}));
        // What is held follows a cut of the sheet as groups do: to both pieces.
        const auto cut = run(done->model, "divide.cut",
                             {{"parts", {"a"}}, {"planes", {{{"through", {60, 0, 0}}, {"normal", {1, 0, 0}}}}}});
        QVERIFY2(cut, said(cut));
        for (const Group& group : cut->model.groups)
            if (group.name == "spot weld 1, held") QCOMPARE(group.members.size(), std::size_t(4));
    }
};

static Registered<WeldsTest> weldsTest;

}  // namespace rasoir::test

#include "welds_test.moc"
