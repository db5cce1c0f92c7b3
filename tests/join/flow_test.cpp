// Flow spaces of bodies whose channels one can compute, and the ways they leak.
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <gp_Ax2.hxx>
#include <gp_Circ.hxx>

#include "geometry/integrals.h"
#include "join/flow_bodies.h"
#include "join/joint_faults.h"
#include "join/leaks.h"
#include "join/openings.h"
#include "join/reach.h"
#include "join/regions.h"
#include "model/reference.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace join;

class FlowTest : public QObject {
    Q_OBJECT

    static gp_Ax1 alongX(double x, double y, double z) { return {gp_Pnt(x, y, z), gp_Dir(1, 0, 0)}; }
    static gp_Ax1 alongZ(double x, double y, double z) { return {gp_Pnt(x, y, z), gp_Dir(0, 0, 1)}; }
    /// 40 x 20 x 20 with a bore of 6 right through along x, and one of 4 from above into it.
    static TopoDS_Shape tee() {
        return cut(cut(block(40, 20, 20), rod(alongX(-1, 10, 10), 3, 42)), rod(alongZ(20, 10, 10), 2, 11));
    }
    static double groupArea(const Model& model, const std::string& name) {
        double sum = 0.0;
        for (const Group& group : model.groups)
            if (group.name == name)
                for (const Member& member : group.members)
                    sum += areaOf(model.parts[*model.partOf(member.part)]->incidence().face(member.entity.number));
        return sum;
    }
    static std::size_t faceJoints(const Model& model) {
        return static_cast<std::size_t>(std::count_if(model.joints.begin(), model.joints.end(), [](const Joint& joint) {
            return joint.kind == EntityKind::Face;
        }));
    }
    /// An edge on the circle of this middle and radius.
    static Json rim(const Model& model, const gp_Pnt& middle, double radius) {
        const Part& part = *model.parts[0];
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) {
            const EntityRef reference = makeRef(part, {EntityKind::Edge, e});
            if (std::abs(reference.measure - 2.0 * M_PI * radius) < 1e-6 &&
                std::abs(reference.at.Distance(middle) - radius) < 1e-6)
                return reference;
        }
        throw std::runtime_error("no such rim");
    }

private slots:
    void openingsAreMouthsAndNotBosses() {
        const TopoDS_Shape bossed = fuse(tee(), rod(alongZ(8, 10, 20), 3, 5));
        for (const TopoDS_Shape& body : {tee(), bossed}) {
            const auto found = findOpenings(modelOf(body), {0}, quietly());
            QVERIFY2(found, said(found));
            // Both ends, the mouth above, and the one by which the branch opens into the bore.
            QCOMPARE(found->size(), std::size_t(4));
            QCOMPARE_NEAR((*found)[0].hydraulicDiameter(), 6.0, 1e-9);
            const auto above = std::find_if(found->begin(), found->end(), [](const Opening& opening) {
                return opening.middle.Distance(gp_Pnt(20, 10, 20)) < 1e-6;
            });
            QVERIFY(above != found->end());
            QCOMPARE_NEAR(above->hydraulicDiameter(), 4.0, 1e-9);
            QCOMPARE_NEAR(above->area, 4.0 * M_PI, 1e-9);
        }
        QVERIFY(findOpenings(modelOf(block(5, 5, 5)), {0}, quietly())->empty());
    }
    void aMouthInARoundWallGetsARoundLid() {
        // A radial hole in a tube: its lid is a piece of the tube's outside, so the flow fills the hole to the skin.
        const TopoDS_Shape solid = rod(alongZ(0, 0, 0), 10, 40), bored = cut(solid, rod(alongZ(0, 0, -1), 6, 42)),
                           tube = cut(bored, rod(gp_Ax1(gp_Pnt(0, 0, 20), gp_Dir(1, 0, 0)), 2, 20));
        const Model model = modelOf(tube);
        const auto found = findOpenings(model, {0}, quietly());
        QVERIFY2(found, said(found));
        QCOMPARE(found->size(), std::size_t(4));  // two ends, and both mouths of the radial hole, one across the seam
        const auto done = run(model, "join.flowSpace");
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(volumeOf(done->model.parts[1]->shape), volumeOf(solid) - volumeOf(tube), 0.05);
        QVERIFY(isValid(done->model.parts[1]->shape));
    }
    void mouthsWithinAreTold() {
        // The tee's second bore opens into the first: that mouth leads nowhere but into the fluid.
        const Model model = modelOf(tee(), "tee");
        auto found = findOpenings(model, {0}, quietly());
        QVERIFY2(found, said(found));
        QVERIFY(tellInner(model, {0}, *found, quietly()));
        int inner = 0;
        for (const Opening& opening : *found) {
            const bool within = opening.middle.X() > 1.0 && opening.middle.X() < 39.0 && opening.middle.Z() < 19.0;
            QCOMPARE(opening.inner, within);
            inner += opening.inner;
        }
        QCOMPARE(static_cast<int>(found->size()) - inner, 3);
        QCOMPARE(inner, 1);
    }
    void mouthsAreTheSameWhicheverWayTheBodyLies() {
        for (int i = 0; i < 40; ++i) {
            gp_Trsf away;
            away.SetRotation(gp_Ax1(gp_Pnt(3, 1, 2), gp_Dir(std::sin(i), std::cos(2.0 * i), std::sin(3.0 * i + 1.0))),
                             0.17 * i);
            const Model model = modelOf(moved(tee(), away), "tee");
            auto found = findOpenings(model, {0}, quietly());
            QVERIFY2(found, said(found));
            QCOMPARE(found->size(), std::size_t(4));
            QVERIFY(tellInner(model, {0}, *found, quietly()));
            const gp_Pnt within = gp_Pnt(20, 10, 13).Transformed(away);
            for (const Opening& opening : *found)
                QVERIFY2(opening.inner == (opening.middle.Distance(within) < 1.0), qPrintable(QString::number(i)));
        }
    }
    void mouthsWithinALongManifoldAreToldAsWell() {
        // A gallery, closed at its far end, with many branches into it: none of their inner mouths leads outside.
        constexpr int branches = 24;
        const double length = 10.0 * branches + 10.0;
        TopoDS_Shape bar = cut(block(length, 20, 20), rod(alongX(-1, 10, 10), 4, length - 4.0));
        for (int i = 0; i < branches; ++i) bar = cut(bar, rod(alongZ(10.0 * i + 8.0, 10, 10), 2, 11));
        const Model model = modelOf(bar, "manifold");
        auto found = findOpenings(model, {0}, quietly());
        QVERIFY2(found, said(found));
        QCOMPARE(found->size(), std::size_t(2 * branches + 1));
        QVERIFY(tellInner(model, {0}, *found, quietly()));
        for (const Opening& opening : *found)
            QCOMPARE(opening.inner, opening.middle.X() > 1.0 && opening.middle.Z() < 19.0);
    }
    void theChannelsOfABlockBecomeABody() {
        const Model model = modelOf(tee(), "manifold");
        const auto done = run(model, "join.flowSpace", {{"name", "water"}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), std::size_t(2));
        const Part& water = *done->model.parts[1];
        QCOMPARE(water.name, std::string("water"));
        QCOMPARE_NEAR(volumeOf(water.shape), 16000.0 - volumeOf(tee()), 1e-3);
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), volumeOf(tee()), 1e-9);
        QVERIFY(isValid(water.shape));
        QCOMPARE(water.known.regions.at({EntityKind::Body, 1}), RegionKind::Fluid);
        // Two walls of bores are common; the three lids are the water's alone.
        QCOMPARE(faceJoints(done->model), std::size_t(2));
        QVERIFY(faultsInJoints(done->model).empty());
        QCOMPARE_NEAR(groupArea(done->model, "water, lid 1") + groupArea(done->model, "water, lid 2") +
                          groupArea(done->model, "water, lid 3"),
                      2.0 * 9.0 * M_PI + 4.0 * M_PI, 1e-9);
        QCOMPARE_NEAR(groupArea(done->model, "water, wall of manifold"), areaOf(water.shape) - 22.0 * M_PI, 1e-6);
        // The same in inches, moved and turned.
        gp_Trsf away;
        away.SetRotation(gp_Ax1(gp_Pnt(3, 1, 2), gp_Dir(1, 2, 3)), 1.1);
        Model turned = modelOf(tee());
        turned.occurrences.change(0).placement = away;
        const auto again = run(turned, "join.flowSpace");
        QVERIFY2(again, said(again));
        QCOMPARE_NEAR(volumeOf(again->model.parts[1]->shape), volumeOf(water.shape), 1e-3);
        QCOMPARE(faceJoints(again->model), std::size_t(2));
        const auto inches = run(modelOf(scaledBy(tee(), 1.0 / 25.4)), "join.flowSpace");
        QVERIFY2(inches, said(inches));
        QCOMPARE_NEAR(volumeOf(inches->model.parts[1]->shape) * std::pow(25.4, 3), volumeOf(water.shape), 1e-3);
    }
    void aHoleThatNobodyLookedAtIsNamed() {
        const TopoDS_Shape leaking = cut(tee(), rod(alongZ(30, 10, -1), 0.15, 9));
        const Model model = modelOf(leaking, "manifold");
        const Json lids = Json::array({Json::array({rim(model, gp_Pnt(0, 10, 10), 3)}),
                                       Json::array({rim(model, gp_Pnt(40, 10, 10), 3)}),
                                       Json::array({rim(model, gp_Pnt(20, 10, 20), 2)})});
        const Json seed = Json::array({5.0, 10.0, 10.0});
        const auto leak = run(model, "join.flowSpace", {{"lids", lids}, {"seed", seed}});
        QVERIFY(!leak);
        QVERIFY2(leak.error().what.find("\"manifold\", 0.3 mm wide, at (30, 10, 0)") != std::string::npos, said(leak));
        QVERIFY(leak.error().where.point && leak.error().where.point->Distance(gp_Pnt(30, 10, 0)) < 1e-6);
        const auto closed = run(model, "join.flowSpace", {{"lids", lids}, {"seed", seed}, {"ignoreUpTo", 0.5}});
        QVERIFY2(closed, said(closed));
        QCOMPARE_NEAR(volumeOf(closed->model.parts[1]->shape), 16000.0 - volumeOf(leaking), 1e-3);
        // A face as the seed does the same.
        int bore = 0;
        for (int f = 1; f <= model.parts[0]->incidence().faceCount(); ++f)
            if (areaOf(model.parts[0]->incidence().face(f)) > 700.0 &&
                makeFaceRef(*model.parts[0], f).surface == "cylinder")
                bore = f;
        QVERIFY(bore > 0);
        const Json face = makeFaceRef(*model.parts[0], bore);
        const auto byFace = run(model, "join.flowSpace", {{"seed", face}});
        QVERIFY2(byFace, said(byFace));
        QCOMPARE_NEAR(volumeOf(byFace->model.parts[1]->shape), 16000.0 - volumeOf(leaking), 1e-3);
    }
    void aGapBetweenHalvesIsALeak() {
        // A box of two halves, each with half of the cavity and no opening of its own, 0.2 mm apart.
        gp_Trsf in, up;
        in.SetTranslation(gp_Vec(3, 3, 3));
        up.SetMirror(gp_Ax2(gp_Pnt(0, 0, 10.1), gp_Dir(0, 0, 1)));
        const TopoDS_Shape lower = cut(block(20, 20, 10), moved(block(14, 14, 20), in));
        const TopoDS_Shape upper = BRepBuilderAPI_Transform(lower, up, true).Shape();
        Model model = modelOf(lower, "lower");
        model.occurrences.push_back({1, gp_Trsf(), "upper", {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>("upper", upper));
        model.giveIds();
        model.targetSize = 5.0;
        const Json seed = Json::array({10.0, 10.0, 8.0});
        // The mouth of one half faces that of the other, so neither needs a lid: the gap is the leak.
        const auto open = run(model, "join.flowSpace", {{"seed", seed}});
        QVERIFY(!open);
        QVERIFY2(open.error().what.find("0.2 mm wide") != std::string::npos, said(open));
        // Without a seed it is not claimed that there were no openings.
        const auto unseeded = run(model, "join.flowSpace");
        QVERIFY2(unseeded, said(unseeded));
        QCOMPARE_NEAR(volumeOf(unseeded->model.parts[2]->shape), 14.0 * 14.0 * 7.0, 1e-6);
        const auto all = run(model, "join.flowSpace", {{"seed", seed}, {"ignoreUpTo", 0.3}});
        QVERIFY2(all, said(all));
        QCOMPARE_NEAR(volumeOf(all->model.parts[2]->shape), 14.0 * 14.0 * 14.2, 1e-6);
        const auto joined = run(model, "join.pairs", {{"upTo", 0.4}});
        QVERIFY2(joined, said(joined));
        const auto still = run(joined->model, "join.flowSpace", {{"seed", seed}});
        QVERIFY2(still, said(still));
    }
    void lidsGoOutwardsByTheirDiameters() {
        Model model = modelOf(tee(), "tee");
        model.targetSize = 2.0;
        const auto plain = run(model, "join.flowSpace"), longer = run(model, "join.flowSpace", {{"lengthen", 5.0}});
        QVERIFY2(plain, said(plain));
        QVERIFY2(longer, said(longer));
        // Two mouths of 6 and one of 4, each five of its diameters longer.
        const double added = 2.0 * M_PI * 9.0 * 30.0 + M_PI * 4.0 * 20.0;
        QCOMPARE_NEAR(volumeOf(longer->model.parts[1]->shape) - volumeOf(plain->model.parts[1]->shape), added,
                      1e-6 * added);
        QVERIFY(isValid(longer->model.parts[1]->shape));
        QCOMPARE_NEAR(groupArea(longer->model, "flow space, lid 1") + groupArea(longer->model, "flow space, lid 2") +
                          groupArea(longer->model, "flow space, lid 3"),
                      2.0 * M_PI * 9.0 + M_PI * 4.0, 1e-6);
        QCOMPARE_NEAR(groupArea(longer->model, "flow space, wall of tee"),
                      groupArea(plain->model, "flow space, wall of tee"), 1e-6);
        double sides = 0.0;
        for (const char* lid : {"1", "2", "3"})
            sides += groupArea(longer->model, std::string("flow space, before lid ") + lid);
        QCOMPARE_NEAR(sides, 2.0 * 2.0 * M_PI * 3.0 * 30.0 + 2.0 * M_PI * 2.0 * 20.0, 1e-6);
        // A body in the way is named.
        gp_Trsf beside;
        beside.SetTranslation(gp_Vec(50, 0, 0));
        Model blocked = model;
        blocked.occurrences.push_back({1, gp_Trsf(), "post", {}, std::nullopt});
        blocked.parts.push_back(std::make_shared<Part>("post", moved(block(4, 20, 20), beside)));
        blocked.giveIds();
        const auto refused = run(blocked, "join.flowSpace", {{"lengthen", 5.0}});
        QVERIFY(!refused);
        QVERIFY2(refused.error().what.find("\"post\" is in the way") != std::string::npos, said(refused));
        QVERIFY(!run(model, "join.flowSpace", {{"lengthen", -1.0}}));
    }
    void flowWallsAndTheRestAddUp() {
        // The tee with a closed cavity in a corner.
        gp_Trsf in;
        in.SetTranslation(gp_Vec(2, 2, 2));
        Model model = modelOf(cut(tee(), moved(block(3, 3, 3), in)), "tee");
        model.targetSize = 2.0;
        const auto done = run(model, "join.flowSpace");
        QVERIFY2(done, said(done));
        const auto itemWith = [&](const std::string& words) -> const Item* {
            for (const Item& item : done->items)
                if (item.what.find(words) != std::string::npos) return &item;
            return nullptr;
        };
        const Item *sum = itemWith("filled"), *wets = itemWith("wets"), *passage = itemWith("narrowest passage");
        QVERIFY(sum != nullptr);
        QVERIFY(wets != nullptr);
        QVERIFY(passage != nullptr);
        QCOMPARE_NEAR(sum->size, 16000.0, 1e-6);
        QVERIFY2(sum->what.find("16\u2009000 of 16\u2009000") != std::string::npos, sum->what.c_str());
        QVERIFY(sum->what.find("other closed spaces 27") != std::string::npos);
        QCOMPARE_NEAR(wets->size, groupArea(done->model, "flow space, wall of tee"), 1e-6);
        QCOMPARE_NEAR(passage->size, 4.0, 0.4);
        QVERIFY(std::any_of(done->notes.begin(), done->notes.end(),
                            [](const std::string& note) { return note.find("elements wide") != std::string::npos; }));
    }
    void sheetsStandInTheFlow_data() {
        QTest::addColumn<TopoDS_Shape>("sheet");
        QTest::addColumn<double>("area");  // with flow on both sides
        // In the bore of 6 about (x, 10, 10), from x = 0 to 40.
        QTest::newRow("a vane along the bore") << sheetAt({5, 10, 8}, {10, 0, 0}, {0, 0, 4}) << 40.0;
        QTest::newRow("one from wall to wall") << sheetAt({5, 7, 10}, {10, 0, 0}, {0, 6, 0}) << 60.0;
        QTest::newRow("one that reaches into the walls") << sheetAt({5, 6, 10}, {10, 0, 0}, {0, 8, 0}) << 60.0;
        QTest::newRow("a screen right across") << sheetAt({8, 5, 5}, {0, 10, 0}, {0, 0, 10}) << 9.0 * M_PI;
    }
    void sheetsStandInTheFlow() {
        QFETCH(TopoDS_Shape, sheet);
        QFETCH(double, area);
        for (const double angle : {0.0, 0.7}) {
            gp_Trsf away;
            away.SetRotation(gp_Ax1(gp_Pnt(3, 1, 2), gp_Dir(1, 2, 3)), angle);
            Model model = withBodies({moved(tee(), away), moved(sheet, away)});
            model.targetSize = 1.0;
            const auto done = run(model, "join.flowSpace", {{"name", "water"}});
            QVERIFY2(done, said(done));
            const Part& water = *done->model.parts.back();
            QCOMPARE_NEAR(volumeOf(water.shape), 16000.0 - volumeOf(tee()), 1e-3);
            QCOMPARE(solidsIn(water.shape), 1);
            QVERIFY(isValid(water.shape));
            QVERIFY(faultsInJoints(done->model).empty());
            // What reaches into the walls lies in them as well.
            const auto within = std::find_if(done->model.pairings.begin(), done->model.pairings.end(),
                                             [](const Pairing& one) { return one.name == "body 2 in water"; });
            QVERIFY(within != done->model.pairings.end());
            QCOMPARE(within->kind, PairingKind::Within);
            QCOMPARE_NEAR(groupArea(done->model, within->first), area, 1e-6);
        }
    }
    void narrowGapsCloseByThemselves() {
        // A box of six plates whose upright walls do not reach each other at the corners, with a hole as mouth.
        const auto blockAt = [](double x, double y, double z, double dx, double dy, double dz) {
            gp_Trsf to;
            to.SetTranslation(gp_Vec(x, y, z));
            return moved(block(dx, dy, dz), to);
        };
        Model model;
        const TopoDS_Shape roof = cut(blockAt(0, 0, 19, 40, 30, 1), rod(alongZ(20, 15, 18), 3, 4));
        for (const TopoDS_Shape& body :
             {roof, block(40, 30, 1), blockAt(0, 1.5, 1, 1, 27, 18), blockAt(39, 1.5, 1, 1, 27, 18),
              blockAt(0, 0, 1, 40, 1, 18), blockAt(0, 29, 1, 40, 1, 18)}) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), {}, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>("plate " + std::to_string(model.parts.size() + 1), body));
        }
        model.giveIds();
        model.targetSize = 5.0;
        const Json seed = Json::array({20.0, 15.0, 10.0});
        const auto open = run(model, "join.flowSpace", {{"seed", seed}});
        QVERIFY(!open);
        QVERIFY2(open.error().what.find("0.5 mm wide") != std::string::npos, said(open));
        QVERIFY(open.error().what.find("3 other places") != std::string::npos);
        QVERIFY(open.error().where.point.has_value());
        const auto tooNarrow = run(model, "join.flowSpace", {{"seed", seed}, {"ignoreUpTo", 0.3}});
        QVERIFY(!tooNarrow);
        const auto closed = run(model, "join.flowSpace", {{"seed", seed}, {"ignoreUpTo", 0.6}});
        QVERIFY2(closed, said(closed));
        // Between the walls, and in the roof's hole; the corners reach to the inner faces of the plates.
        QCOMPARE_NEAR(volumeOf(closed->model.parts.back()->shape), 38.0 * 28.0 * 18.0 + M_PI * 9.0 * 1.0,
                      38.0 * 1e-6 + 1e-3);
        QCOMPARE_NEAR(groupArea(closed->model, "flow space, closed gaps"), 4.0 * 0.5 * 18.0, 1e-6);
        // Nothing of the plugs stays in the model.
        QCOMPARE(closed->model.parts.size(), model.parts.size() + 1);
    }
    void channelsAndCavitiesBecomeBodiesAtOnce() {
        // Two bores beside each other and a closed cavity between them.
        gp_Trsf in;
        in.SetTranslation(gp_Vec(18, 8, 8));
        const TopoDS_Shape body =
            cut(cut(cut(block(40, 20, 20), rod(alongX(-1, 4, 10), 2, 42)), rod(alongX(-1, 16, 10), 3, 42)),
                moved(block(4, 4, 4), in));
        const Model model = modelOf(body, "block");
        const auto one = run(model, "join.flowSpace");
        QVERIFY2(one, said(one));
        QCOMPARE(one->model.parts.size(), std::size_t(2));
        QCOMPARE_NEAR(volumeOf(one->model.parts[1]->shape), M_PI * 9.0 * 40.0, 1e-3);
        QVERIFY(std::any_of(one->notes.begin(), one->notes.end(), [](const std::string& note) {
            return note.find("64 mm³, with no opening") != std::string::npos;
        }));
        const auto all = run(model, "join.flowSpace", {{"every", true}, {"cavities", "void"}});
        QVERIFY2(all, said(all));
        QCOMPARE(all->model.parts.size(), std::size_t(4));
        const auto kindOf = [&](std::size_t p) { return all->model.parts[p]->known.regions.at({EntityKind::Body, 1}); };
        QCOMPARE_NEAR(volumeOf(all->model.parts[1]->shape), M_PI * 9.0 * 40.0, 1e-3);
        QCOMPARE_NEAR(volumeOf(all->model.parts[2]->shape), M_PI * 4.0 * 40.0, 1e-3);
        QCOMPARE_NEAR(volumeOf(all->model.parts[3]->shape), 64.0, 1e-6);
        QCOMPARE(kindOf(1), RegionKind::Fluid);
        QCOMPARE(kindOf(2), RegionKind::Fluid);
        QCOMPARE(kindOf(3), RegionKind::Void);
        QCOMPARE(all->model.parts[3]->name, std::string("cavity"));
        QCOMPARE_NEAR(groupArea(all->model, "flow space (2), wall of block"), 2.0 * M_PI * 2.0 * 40.0, 1e-6);
        QCOMPARE_NEAR(groupArea(all->model, "flow space (2), lid 1"), M_PI * 4.0, 1e-6);
        QVERIFY(faultsInJoints(all->model).empty());
        QCOMPARE(faceJoints(all->model), std::size_t(1 + 1 + 6));
        const auto sum = std::find_if(all->items.begin(), all->items.end(), [](const Item& item) {
            return item.what.find("other closed spaces 0") != std::string::npos;
        });
        QVERIFY(sum != all->items.end());
        QVERIFY2(sum->what.find("cavities 64") != std::string::npos, sum->what.c_str());
        QCOMPARE(all->summary, std::string("Make 2 flow spaces and 1 cavity"));
        QCOMPARE_NEAR(sum->size, 16000.0, 1e-6);
        QVERIFY(!run(model, "join.flowSpace", {{"cavities", "soup"}}));
        // A body with nothing but a cavity.
        const Model hollow = modelOf(cut(block(20, 20, 20), moved(block(1, 4, 4), in)), "hollow");
        QVERIFY(!run(hollow, "join.flowSpace"));
        const auto filled = run(hollow, "join.flowSpace", {{"cavities", "solid"}});
        QVERIFY2(filled, said(filled));
        QCOMPARE_NEAR(volumeOf(filled->model.parts[1]->shape), 16.0, 1e-6);
        QCOMPARE(filled->model.parts[1]->known.regions.at({EntityKind::Body, 1}), RegionKind::Solid);
    }
    void theGapRoundAPinClosesByItself() {
        // A bore of 6 with a pin of 5.8 in its end, once in its middle and once a hair aside.
        for (const double aside : {0.0, 0.03}) {
            Model model = modelOf(cut(block(40, 20, 20), rod(alongX(-1, 10, 10), 3, 42)), "block");
            model.occurrences.push_back({1, gp_Trsf(), "pin", {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>("pin", rod(alongX(-5, 10 + aside, 10), 2.9, 11)));
            model.giveIds();
            const Json lids = Json::array({Json::array({rim(model, gp_Pnt(40, 10, 10), 3)})});
            const Json seed = Json::array({20.0, 10.0, 10.0});
            const auto open = run(model, "join.flowSpace", {{"lids", lids}, {"seed", seed}});
            QVERIFY(!open);
            QVERIFY2(open.error().what.find("between \"pin\" and \"block\"") != std::string::npos ||
                         open.error().what.find("between \"block\" and \"pin\"") != std::string::npos,
                     said(open));
            const auto closed = run(model, "join.flowSpace", {{"lids", lids}, {"seed", seed}, {"ignoreUpTo", 0.2}});
            QVERIFY2(closed, said(closed));
            QCOMPARE_NEAR(volumeOf(closed->model.parts.back()->shape), M_PI * 9.0 * 34.0, 1e-3);
            // What was a gap is a ring between the two circles.
            QCOMPARE_NEAR(groupArea(closed->model, "flow space, closed gaps"), M_PI * (9.0 - 2.9 * 2.9), 1e-3);
        }
    }
    void wedgesArePinchedFluid() {
        // Between a floor and a round of 5 that lies on it, 10 long; and a rib of 3 degrees that points into the fluid.
        const auto drawn = [](const std::vector<TopoDS_Edge>& outline) {
            BRepBuilderAPI_MakeWire wire;
            for (const TopoDS_Edge& edge : outline) wire.Add(edge);
            return TopoDS_Shape(
                BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire.Wire(), true).Face(), gp_Vec(0, 10, 0)).Shape());
        };
        const auto line = [](double x0, double z0, double x1, double z1) {
            return BRepBuilderAPI_MakeEdge(gp_Pnt(x0, 0, z0), gp_Pnt(x1, 0, z1)).Edge();
        };
        const gp_Circ round(gp_Ax2(gp_Pnt(0, 0, 5), gp_Dir(0, -1, 0), gp_Dir(0, 0, -1)), 5.0);
        const TopoDS_Edge arc = BRepBuilderAPI_MakeEdge(round, gp_Pnt(0, 0, 0), gp_Pnt(5, 0, 5)).Edge();
        const TopoDS_Shape wedge = drawn({line(0, 0, 5, 0), line(5, 0, 5, 5), arc});
        QCOMPARE_NEAR(volumeOf(wedge), 10.0 * (25.0 - 25.0 * M_PI / 4.0), 1e-6);
        const std::vector<Wedge> fine = wedgesOf(wedge, 15.0, 1.0);
        QCOMPARE(fine.size(), std::size_t(2));  // and where the round runs out into the wall
        QCOMPARE_NEAR(fine[0].length, 10.0, 1e-9);
        // One from the edge along the floor, to what is nearest to it on the round.
        QCOMPARE_NEAR(fine[0].degrees, (std::sqrt(26.0) - 5.0) * 180.0 / M_PI, 1e-6);
        for (const gp_Pnt& at : {gp_Pnt(0, 5, 0), gp_Pnt(5, 5, 5)})
            QVERIFY(std::any_of(fine.begin(), fine.end(),
                                [&at](const Wedge& one) { return one.where.Distance(at) < 1e-9; }));
        QVERIFY(wedgesOf(wedge, 15.0, 4.0).empty());  // four away it is wide enough
        QVERIFY(wedgesOf(drawn({line(0, 0, 10, 0), line(10, 0, 10, 10), line(10, 10, 5.2, 10), line(5.2, 10, 5, 2),
                                line(5, 2, 4.8, 10), line(4.8, 10, 0, 10), line(0, 10, 0, 0)}),
                         15.0, 1.0)
                    .empty());
        QCOMPARE(wedgesOf(drawn({line(0, 0, 10, 0), line(10, 0, 0, 1), line(0, 1, 0, 0)}), 15.0, 1.0).size(),
                 std::size_t(1));
        QVERIFY(wedgesOf(block(1, 1, 1), 15.0, 1.0).empty());
    }
    void reachIsTheWayThroughTheAir() {
        const Model model = modelOf(tee(), "tee");
        auto openings = findOpenings(model, {0}, quietly());
        QVERIFY(openings && tellInner(model, {0}, *openings, quietly()));
        std::vector<TopoDS_Face> lids;
        for (const Opening& opening : *openings)
            if (!opening.inner) lids.push_back(opening.lid);
        const auto within = findReach(model, {0}, lids, gp_Pnt(2, 10, 10), quietly());
        QVERIFY2(within, said(within));
        QVERIFY(!within->outside);
        // The bore and the branch, no outer face.
        QCOMPARE(within->faces.size(), std::size_t(2));
        QVERIFY(within->faces[0].way < 3.0);
        const double branch = std::hypot(18.0, 3.0) - 2.0;  // to where its rim begins
        QVERIFY2(within->faces[1].way > 0.8 * branch && within->faces[1].way < 1.3 * branch,
                 std::to_string(within->faces[1].way).c_str());
        // Without a lid at one end it gets outside.
        std::vector<TopoDS_Face> fewer;
        for (const Opening& opening : *openings)
            if (!opening.inner && opening.middle.X() < 39.0) fewer.push_back(opening.lid);
        const auto out = findReach(model, {0}, fewer, gp_Pnt(2, 10, 10), quietly());
        QVERIFY2(out, said(out));
        QVERIFY(out->outside);
        QVERIFY(out->faces.size() > 2);
        QVERIFY(!findReach(model, {0}, lids, gp_Pnt(1, 1, 1), quietly()));
        QVERIFY(!findReach(model, {0}, lids, gp_Pnt(100, 1, 1), quietly()));
    }
    void theSpaceRoundBodiesIsTheirHullLessThem() {
        // A block with a closed cavity, and a rod beside it that touches it; 10 of clearance on all sides but below.
        Model model = modelOf(cut(block(20, 20, 20), moved(block(4, 4, 4),
                                                           [] {
                                                               gp_Trsf move;
                                                               move.SetTranslation(gp_Vec(8, 8, 8));
                                                               return move;
                                                           }())),
                              "block");
        Occurrence place;
        place.part = 1;
        place.name = "rod";
        model.parts.push_back(std::make_shared<Part>("rod", rod(alongX(20, 10, 10), 3, 15)));
        model.occurrences.push_back(place);
        model.giveIds();
        const auto done = run(model, "join.outerSpace", {{"clearance", {10, 10, 10, 10, 0, 10}}, {"name", "air"}});
        QVERIFY2(done, said(done));
        const Part& air = *done->model.parts[2];
        QVERIFY(isValid(air.shape));
        QCOMPARE(air.known.regions.at({EntityKind::Body, 1}), RegionKind::Fluid);
        const double hull = 55.0 * 40.0 * 30.0, solids = 8000.0 + M_PI * 9.0 * 15.0;
        QCOMPARE_NEAR(rasoir::volumeOf(air.shape), hull - solids, 1e-3);
        QCOMPARE_NEAR(groupArea(done->model, "air, +z"), 55.0 * 40.0, 1e-3);
        QCOMPARE_NEAR(groupArea(done->model, "air, -z"), 55.0 * 40.0 - 400.0, 1e-3);  // the block stands on it
        QCOMPARE_NEAR(groupArea(done->model, "air, wall of rod"), 2.0 * M_PI * 3.0 * 15.0 + M_PI * 9.0, 1e-3);
        QCOMPARE_NEAR(groupArea(done->model, "air, wall of block"), 5.0 * 400.0 - M_PI * 9.0, 1e-3);
        QVERIFY(faultsInJoints(done->model).empty());
        QVERIFY(std::any_of(done->notes.begin(), done->notes.end(), [](const std::string& note) {
            return note.find("1 closed cavity the outside does not reach") != std::string::npos;
        }));
        for (const char* by : {"cylinder", "ball"}) {
            const auto round = run(model, "join.outerSpace", {{"clearance", {10, 0, 0, 0, 5, 5}}, {"by", by}});
            QVERIFY2(round, said(round));
            QVERIFY(isValid(round->model.parts[2]->shape));
            QVERIFY(groupArea(round->model, "outer space, round") > 1000.0);
        }
    }
    void regionsAndBoundariesAreSaid() {
        Model model = modelOf(block(10, 10, 10), "air");
        model.giveIds();
        const auto fluid = run(model, "join.region", {{"parts", {"air"}}, {"kind", "fluid"}});
        QVERIFY2(fluid, said(fluid));
        QCOMPARE(fluid->model.parts[0]->known.regions.at({EntityKind::Body, 1}), RegionKind::Fluid);
        const auto again = run(fluid->model, "join.region", {{"parts", {"air"}}, {"kind", "fluid"}});
        QVERIFY(!again);
        QCOMPARE(again.error().kind, ProblemKind::NothingToDo);
        for (const Json& bad : {Json{{"parts", {"air"}}, {"kind", "soup"}}, Json{{"kind", "fluid"}},
                                Json{{"parts", {"water"}}, {"kind", "fluid"}}})
            QVERIFY(!run(model, "join.region", bad));
        const auto face = [&](int f) { return Json::array({makeRef(*model.parts[0], {EntityKind::Face, f})}); };
        auto done = run(fluid->model, "join.boundary", {{"name", "cold water in"}, {"things", face(1)}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.groups[0].purpose, std::string("inlet"));  // its name says so
        done = run(done->model, "join.boundary", {{"name", "left"}, {"kind", "symmetry"}, {"things", face(2)}});
        QVERIFY2(done, said(done));
        done = run(done->model, "join.boundary", {{"name", "right"}, {"kind", "wall"}, {"things", face(3)}});
        QVERIFY2(done, said(done));
        const auto alone = run(done->model, "join.boundary", {{"name", "left"}, {"kind", "periodic"}});
        QVERIFY(!alone);
        const auto pair =
            run(done->model, "join.boundary", {{"name", "left"}, {"kind", "periodic"}, {"partner", "right"}});
        QVERIFY2(pair, said(pair));
        QCOMPARE(pair->model.pairings.size(), std::size_t(1));
        QCOMPARE(pair->model.groups[2].purpose, std::string("periodic"));
        QVERIFY(!run(done->model, "join.boundary", {{"name", "nobody"}, {"kind", "wall"}}));
        QVERIFY(!run(done->model, "join.boundary", {{"name", "left"}, {"kind", "door"}}));
        const auto dumb = run(done->model, "join.boundary", {{"name", "left"}});
        QVERIFY(!dumb);
        QCOMPARE(dumb.error().kind, ProblemKind::NotPossible);
        for (const auto& [name, kind] :
             {std::pair{"Outlet 2", "outlet"}, {"in", "inlet"}, {"air, wall of rod", "wall"}, {"solid wall", "wall"}})
            QCOMPARE(boundaryKindOf(name).value_or("-"), std::string(kind));
        QVERIFY(!boundaryKindOf("winding"));
        // Words of one's own come first, and stand in the step, so that a ledger says the same everywhere.
        QCOMPARE(boundaryKindOf("Zulauf 3", {{"zulauf", "inlet"}}).value_or("-"), std::string("inlet"));
        QCOMPARE(boundaryKindOf("wall of wool", {{"Wall", "interface"}}).value_or("-"), std::string("interface"));
        Model many = done->model;
        many.groups[0].name = "Zulauf 1";
        many.groups[1].name = "outer wall";
        const auto named =
            run(many, "join.boundary", {{"names", {"Zulauf*", "outer wall"}}, {"words", {{"zulauf", "inlet"}}}});
        QVERIFY2(named, said(named));
        QCOMPARE(named->model.groups[0].purpose, std::string("inlet"));
        QCOMPARE(named->model.groups[1].purpose, std::string("wall"));
        QVERIFY(!run(many, "join.boundary", {{"names", {"nobody"}}}));
        QVERIFY(!run(many, "join.boundary", {{"name", "left"}, {"words", {{"left", "door"}}}}));
        QVERIFY(!run(many, "join.boundary", Json::object()));
        QVERIFY(!boundaryKindOf("solid"));
    }
    void badSeedsAndLidsAreRefused() {
        const Model model = modelOf(tee(), "manifold");
        const auto refuse = [&](const Json& step, const char* words) {
            const auto refused = run(model, "join.flowSpace", step);
            return !refused && refused.error().what.find(words) != std::string::npos;
        };
        QVERIFY(refuse({{"seed", {2.0, 2.0, 2.0}}}, "in the material of \"manifold\""));
        QVERIFY(refuse({{"seed", {200.0, 2.0, 2.0}}}, "outside"));
        QVERIFY(refuse({{"ignoreUpTo", -1.0}}, "no length"));
        QVERIFY(refuse({{"name", "  "}}, "no name"));
        QVERIFY(refuse({{"places", {"nobody"}}}, "nobody"));
        const auto solid = run(modelOf(block(5, 5, 5)), "join.flowSpace");
        QVERIFY(!solid && solid.error().what.find("no opening") != std::string::npos);
        // One straight edge is no loop.
        for (int e = 1; e <= model.parts[0]->incidence().edgeCount(); ++e) {
            const EntityRef reference = makeRef(*model.parts[0], {EntityKind::Edge, e});
            if (std::abs(reference.measure - 40.0) > 1e-6 || reference.at.Y() > 1e-6) continue;
            QVERIFY(refuse({{"lids", Json::array({Json::array({Json(reference)})})}}, "do not close"));
            break;
        }
    }
};

static Registered<FlowTest> flowTest;

}  // namespace rasoir::test

#include "flow_test.moc"
