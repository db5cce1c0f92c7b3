// The lineage as a relation: complete after every operation, composing, and carrying attributes and groups.
#include "model/lineage.h"

#include <BRepFilletAPI_MakeFillet.hxx>
#include <TopExp_Explorer.hxx>

#include "model/lineage_builder.h"
#include "model/work.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class LineageTest : public QObject {
    Q_OBJECT

    static Model plate() {
        Model model = modelOf(drilledPlate(100, 60, 8, 4, 5), "plate");
        model.giveIds();
        return model;
    }
    /// Every body, face, edge and vertex named for its number, and in a group of its kind.
    static Model labelled(Model model) {
        auto part = model.parts[0]->copy();
        const Incidence& topology = part->incidence();
        const std::array<int, 4> counts{topology.bodyCount(), topology.faceCount(), topology.edgeCount(),
                                        topology.vertexCount()};
        for (const EntityKind kind : entityKinds) {
            Group group{entityKindName(kind), "", std::nullopt, {}, std::nullopt};
            for (int n = 1; n <= counts[static_cast<std::size_t>(kind)]; ++n) {
                part->known.names[{kind, n}] = std::to_string(n);
                group.members.insert({part->id, everyPlace, {kind, n}});
            }
            model.groups.push_back(std::move(group));
        }
        model.parts[0] = std::move(part);
        return model;
    }
    /// Steps that change one plate in every way there is without asking for a pick.
    static std::vector<std::pair<std::string, Json>> steps() {
        const Json cut{{"through", {50, 0, 0}}, {"normal", {1, 0, 0}}};
        return {{"shave.removeHoles", {{"upTo", 6.0}}},   {"intake.correctUnit", {{"factor", 2.0}}},
                {"intake.move", {{"shift", {10, 0, 0}}}}, {"intake.rename", {{"parts", {"plate"}}, {"to", "board"}}},
                {"divide.cut", {{"planes", {cut}}}},      {"divide.surround", {{"clearance", {1, 1, 1, 1, 1, 1}}}}};
    }
    static std::size_t countOf(const Incidence& topology, EntityKind kind) {
        const std::array<int, 4> counts{topology.bodyCount(), topology.faceCount(), topology.edgeCount(),
                                        topology.vertexCount()};
        return static_cast<std::size_t>(counts[static_cast<std::size_t>(kind)]);
    }

private slots:
    void fatesAreReadOff() {
        const std::vector<Link> links{{1, 1}, {2, 2, true}, {3, 3, true}, {3, 4, true}, {4, 5, true}, {5, 5, true}};
        const Descents all(links);
        QCOMPARE(all.fateOf(1), Descent::Kept);
        QCOMPARE(all.fateOf(2), Descent::Changed);
        QCOMPARE(all.fateOf(3), Descent::Split);
        QCOMPARE(all.fateOf(4), Descent::Merged);
        QCOMPARE(all.fateOf(6), Descent::Gone);
        QCOMPARE(all.originOf(4), Descent::Split);
        QCOMPARE(all.originOf(5), Descent::Merged);
        QCOMPARE(all.originOf(6), Descent::Made);
        QCOMPARE(all.originOf(1), Descent::Kept);
    }
    void chainedIsTheProduct() {
        PartLineage first, second;
        first.of(EntityKind::Face) = {{1, 1}, {2, 2, true}, {2, 3, true, true}, {4, 4}};
        second.of(EntityKind::Face) = {{1, 7}, {2, 8, true}, {3, 8, true, true}, {5, 9}};
        const PartLineage both = chained(first, second);
        // 1 to 7 unchanged; 2 to 8 by two ways; 4 went in between, and 9 came from what was made in between.
        QCOMPARE(both.faces().size(), std::size_t(2));
        QVERIFY((both.faces()[0] == Link{1, 7, false, false}));
        QVERIFY(both.faces()[1].before == 2 && both.faces()[1].after == 8 && both.faces()[1].changed);
        const Descents all(both.faces());
        QCOMPARE(all.fateOf(4), Descent::Gone);
        QCOMPARE(all.originOf(9), Descent::Made);
    }
    void whatOnlyTheSecondStepChangedIsKept() {
        PartLineage one, two;
        one.part = 0;
        one.into = 0;
        one.of(EntityKind::Face) = {{1, 1}};
        two.part = 3;
        two.into = 4;
        two.of(EntityKind::Face) = {{5, 6, true}};
        const auto both = followed({one}, {two});
        QCOMPARE(both.size(), std::size_t(2));
        QCOMPARE(both[1].part, std::size_t(3));
        QCOMPARE(both[1].into, std::size_t(4));
        QVERIFY((both[1].faces()[0] == Link{5, 6, true, false}));
        // And what both changed is chained: the part of the second is that into which the first went.
        PartLineage on;
        on.part = 0;
        on.into = 2;
        on.of(EntityKind::Face) = {{1, 9, true}};
        const auto chain = followed({one}, {on});
        QCOMPARE(chain.size(), std::size_t(1));
        QCOMPARE(chain[0].into, std::size_t(2));
        QVERIFY((chain[0].faces()[0] == Link{1, 9, true, false}));
    }
    void theSkinOfAToolIsTurnedOver() {
        Model model = modelOf(block(20, 20, 10), "plate");
        model.parts.push_back(std::make_shared<Part>("pin", rod(gp_Ax1(gp_Pnt(10, 10, -5), gp_Dir(0, 0, 1)), 4, 20)));
        model.occurrences.push_back({1, gp_Trsf(), "pin", {}, std::nullopt});
        model.giveIds();
        const auto done = run(model, "divide.subtract", {{"from", {"plate"}}, {"tools", {"pin"}}});
        QVERIFY2(done, said(done));
        int turned = 0, straight = 0;
        for (const PartLineage& own : done->lineage)
            for (const Link& link : own.faces()) {
                if (own.part == 1) QVERIFY(link.reversed);  // outside has become inside
                if (own.part == 0) QVERIFY(!link.reversed);
                ++(link.reversed ? turned : straight);
            }
        QCOMPARE(turned, 1);
        QCOMPARE(straight, 6);
    }
    void chainingIsAssociative() {
        Random random(7);
        const auto any = [&random](int count) {
            PartLineage own;
            for (int i = 0; i < count; ++i)
                own.of(EntityKind::Edge)
                    .push_back({static_cast<int>(between(random, 1, 9)), static_cast<int>(between(random, 1, 9)),
                                between(random, 0, 1) < 0.5, false});
            return own;
        };
        for (int round = 0; round < 200; ++round) {
            const PartLineage a = any(12), b = any(12), c = any(12);
            QVERIFY(chained(chained(a, b), c).edges() == chained(a, chained(b, c)).edges());
        }
    }
    void everyOperationAccountsForEverything() {
        for (const auto& [operation, parameters] : steps()) {
            const Model model = labelled(plate());
            const auto done = run(model, operation, parameters);
            QVERIFY2(done, said(done));
            for (std::size_t p = 0; p < done->model.parts.size(); ++p) {
                const Part& now = *done->model.parts[p];
                std::vector<const PartLineage*> entries;
                for (const PartLineage& own : done->lineage)
                    if (own.into == p) entries.push_back(&own);
                if (now.name == "block round") {
                    QVERIFY(entries.empty());  // made from nothing
                    continue;
                }
                QVERIFY2(entries.size() == 1, operation.c_str());
                const PartLineage& own = *entries.front();
                if (own.untouched) {
                    QVERIFY(now.shape.IsEqual(model.parts[own.part]->shape));
                    continue;
                }
                const Incidence &before = model.parts[own.part]->incidence(), &after = now.incidence();
                for (const EntityKind kind : entityKinds)
                    for (const Link& link : own.of(kind)) {
                        QVERIFY(link.before >= 1 && link.before <= static_cast<int>(countOf(before, kind)));
                        QVERIFY(link.after >= 1 && link.after <= static_cast<int>(countOf(after, kind)));
                    }
                // What is the very same object must be linked, and as unchanged.
                const Descents faces(own.faces()), edges(own.edges());
                for (int f = 1; f <= before.faceCount(); ++f)
                    if (const int there = after.faceNumber(before.face(f)); there > 0)
                        QVERIFY(!faces.heirsOf(f).empty() && !faces.heirsOf(f).front().changed);
                for (int e = 1; e <= before.edgeCount(); ++e)
                    if (after.edgeNumber(before.edge(e)) > 0) QVERIFY(!edges.heirsOf(e).empty());
                QCOMPARE(own.of(EntityKind::Body).size(), std::size_t(after.bodyCount()));
            }
        }
    }
    void edgesThatWereShortenedAreKnownAgain() {
        const Model model = labelled(plate());
        const Json cut{{"through", {50, 0, 0}}, {"normal", {1, 0, 0}}};
        const auto done = run(model, "divide.cut", {{"planes", {cut}}});
        QVERIFY2(done, said(done));
        // Four long edges in two pieces each; all other edges whole. Each new vertex lies in the cut.
        std::map<int, int> pieces;
        for (const PartLineage& own : done->lineage)
            for (const Link& link : own.edges()) ++pieces[link.before];
        const Incidence& before = model.parts[0]->incidence();
        int split = 0;
        for (int e = 1; e <= before.edgeCount(); ++e) {
            QVERIFY(pieces[e] >= 1);
            split += pieces[e] == 2;
        }
        QCOMPARE(split, 4);
    }
    void healedEdgesAreKnownAgain() {
        // A block with one edge rounded. Without the round there are a block's twelve edges: one made, which the round
        // had taken; four at its ends grown longer, and seven that nothing has touched.
        const TopoDS_Shape cube = block(20, 30, 40);
        BRepFilletAPI_MakeFillet fillet(cube);
        fillet.Add(4.0, TopoDS::Edge(TopExp_Explorer(cube, TopAbs_EDGE).Current()));
        Model model = modelOf(fillet.Shape(), "block");
        model.giveIds();
        const auto done = run(model, "shave.removeRounds", {{"upTo", 5.0}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->lineage.size(), std::size_t(1));
        const Descents edges(done->lineage[0].edges()), vertices(done->lineage[0].of(EntityKind::Vertex));
        std::map<Descent, int> edgesBy, verticesBy;
        const Incidence& now = done->model.parts[0]->incidence();
        QCOMPARE(now.edgeCount(), 12);
        for (int e = 1; e <= 12; ++e) ++edgesBy[edges.originOf(e)];
        for (int v = 1; v <= 8; ++v) ++verticesBy[vertices.originOf(v)];
        QCOMPARE(edgesBy[Descent::Made], 1);
        QCOMPARE(edgesBy[Descent::Changed], 4);
        QCOMPARE(edgesBy[Descent::Kept], 7);
        QCOMPARE(verticesBy[Descent::Kept], 6);
        for (const Link& link : done->lineage[0].edges()) QVERIFY(!link.reversed);
    }
    void groupsFollowOrTheLossIsTold() {
        const Model model = labelled(plate());
        const auto done = run(model, "shave.removeHoles", {{"upTo", 6.0}});
        QVERIFY2(done, said(done));
        const Part& now = *done->model.parts[0];
        for (const Group& group : done->model.groups)
            for (const Member& member : group.members) {
                QCOMPARE(member.part, now.id);
                QVERIFY(member.entity.number <= static_cast<int>(countOf(now.incidence(), member.entity.kind)));
            }
        QCOMPARE(done->model.groups[1].members.size(), std::size_t(6));  // faces of a block
        QCOMPARE(done->model.groups[2].members.size(), std::size_t(12));
        QCOMPARE(done->model.groups[3].members.size(), std::size_t(8));
        const auto told = std::find_if(done->groups.begin(), done->groups.end(),
                                       [](const GroupChange& change) { return change.group == "face"; });
        QVERIFY(told != done->groups.end());
        QCOMPARE(told->gone, static_cast<std::size_t>(model.parts[0]->incidence().faceCount()) - 6);
        QVERIFY(!done->notes.empty());  // the names that went with the holes
    }
    void attributesKnowHowTheyMove() {
        gp_Trsf doubled;
        doubled.SetScale(gp::Origin(), 2.0);
        Thickness wall;
        wall.at = 3.0;
        wall.from = gp_Pnt(1, 0, 0);
        wall.gradient = gp_Vec(0.1, 0, 0);
        wall.offset = 0.5;
        const Thickness now = CarryRule<Thickness>::moved(wall, doubled);
        QCOMPARE_NEAR(now.at, 6.0, 1e-12);
        QCOMPARE_NEAR(now.offset, 1.0, 1e-12);
        // Ten millimetres along x it was 3 + 0.9; twenty along, scaled, it is twice that.
        QCOMPARE_NEAR(now.at + now.gradient.Dot(gp_Vec(now.from, gp_Pnt(20, 0, 0))), 2.0 * (3.0 + 0.1 * 9.0), 1e-12);
        QCOMPARE_NEAR(CarryRule<Thickness>::turned(wall).offset, -0.5, 1e-12);
        Thickness other = wall;
        other.from = gp_Pnt(11, 0, 0);
        other.at = 4.0;
        QVERIFY(CarryRule<Thickness>::merged(wall, other));  // one field told from two places
        other.at = 4.1;
        QVERIFY(!CarryRule<Thickness>::merged(wall, other));
        QCOMPARE_NEAR(CarryRule<Size>::merged(Size{2.0}, Size{1.0})->mm, 1.0, 0);
    }
    void attributesAreSavedAndComeBack() {
        PartAttributes all;
        all.colours[{EntityKind::Face, 3}] = {0.1, 0.2, 0.3};
        all.names[{EntityKind::Body, 1}] = "hull";
        all.materials[{EntityKind::Body, 1}] = "steel";
        all.sizes[{EntityKind::Edge, 7}] = {0.5};
        all.thickness[{EntityKind::Face, 3}] = {2.0, gp_Pnt(1, 2, 3), gp_Vec(0, 0.1, 0), 0.25};
        all.sections[{EntityKind::Edge, 7}] = {
            "round",         {4.0},           50.0,
            200.0,           201.0,           0.5,
            402.0,           gp_Vec(0, 0, 1), {{{2.0, 0.0}, {-1.0, 1.5}, {-1.0, -1.5}}},
            gp_Vec(1, 0, 0), gp_Vec()};
        all.regions[{EntityKind::Body, 1}] = RegionKind::Fluid;
        all.wasRound[{EntityKind::Edge, 7}] = {3.0};
        all.asOne[{EntityKind::Face, 3}] = "lid";
        QVERIFY(attributesFromJson(toJson(all)) == all);
        QVERIFY_THROWS_EXCEPTION(std::exception, attributesFromJson(Json{{"size", {{"edge 7", "wide"}}}}));
        QVERIFY_THROWS_EXCEPTION(std::exception, attributesFromJson(Json{{"size", {{"shell 7", 1.0}}}}));
    }
    void idsAreNeverUsedTwice() {
        Model model = plate();
        model.parts.push_back(model.parts[0]->copy());  // a copy with its original's id
        model.occurrences.push_back({1, gp_Trsf(), "twin", {}, std::nullopt});
        const PartId first = model.parts[0]->id;
        model.giveIds();
        QCOMPARE(model.parts[0]->id, first);
        QVERIFY(model.parts[1]->id != first && model.parts[1]->id != 0);
        std::set<std::uint64_t> ids{model.parts[0]->id, model.parts[1]->id};
        for (const Occurrence& place : model.occurrences) QVERIFY(ids.insert(place.id).second);
        QVERIFY(model.nextId > *ids.rbegin());
    }
    void statesAreSharedNotCopied() {
        measure::FactsCache cache;
        Work work(plate(), "plate.step");
        for (int i = 0; i < 5; ++i) work = work.withStep("intake.rename", {{"parts", {"plate"}}, {"to", "plate"}});
        const auto done = work.withStep("shave.removeHoles", {{"upTo", 1.0}}).replayed(cache, quietly(), true);
        QVERIFY(done);
        const Work copy = *done;
        QCOMPARE(&copy.current(), &done->current());
        QCOMPARE(&done->modelAfter(6), &done->modelAfter(5));  // nothing to do: the same model
    }
};

static Registered<LineageTest> lineageTest;

}  // namespace rasoir::test

#include "lineage_test.moc"
