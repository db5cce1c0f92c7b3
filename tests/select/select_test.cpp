// Growing, alike, and regions on the screen, each against what can be counted by hand or by brute force.
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <Poly_Triangulation.hxx>

#include "common/safe_file.h"
#include "exchange/files.h"
#include "geometry/round_surface.h"
#include "select/alike.h"
#include "select/grow.h"
#include "select/region.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace rasoir::select;

class SelectTest : public QObject {
    Q_OBJECT

    /// A block with the four edges of its top rounded: two radii meet nowhere, corners are balls.
    static TopoDS_Shape roundedBlock(double radius) {
        const TopoDS_Shape bare = block(40, 30, 20);
        BRepFilletAPI_MakeFillet fillet(bare);
        TopTools_IndexedMapOfShape edges;
        TopExp::MapShapes(bare, TopAbs_EDGE, edges);
        for (int e = 1; e <= edges.Extent(); ++e) fillet.Add(radius, TopoDS::Edge(edges(e)));
        return fillet.Shape();
    }
    static int faceOfKind(const Incidence& topology, SurfaceKind kind) {
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (surfaceKind(topology.face(f)) == kind) return f;
        return 0;
    }
    static std::vector<std::shared_ptr<const Traits>> traitsOfAll(const Model& model) {
        std::vector<std::shared_ptr<const Traits>> all;
        for (const auto& part : model.parts) all.push_back(std::make_shared<Traits>(traitsOf(*part)));
        return all;
    }
    /// Looking down: x to the right, y up.
    static Projection fromAbove() {
        return {[](const gp_Pnt& p) {
                    return ScreenPoint{p.X(), p.Y()};
                },
                [](const gp_Pnt&) { return gp_Dir(0, 0, 1); }};
    }
    static Projection fromACorner() {
        const gp_Ax2 eye(gp_Pnt(0, 0, 0), gp_Dir(1, 2, 1.5));
        return {[eye](const gp_Pnt& p) {
                    const gp_Vec v(p.XYZ());
                    return ScreenPoint{v.Dot(gp_Vec(eye.XDirection())), v.Dot(gp_Vec(eye.YDirection()))};
                },
                [eye](const gp_Pnt&) { return eye.Direction(); }};
    }
    static void mesh(const Model& model) {
        for (const auto& part : model.parts) BRepMesh_IncrementalMesh(part->shape, 0.05, false, 0.3);
    }

private slots:
    void tangentChainsGoRoundARoundedBlock() {
        const Part part("b", roundedBlock(3));
        const Incidence& topology = part.incidence();
        QCOMPARE(topology.faceCount(), 26);
        // Everything is smooth here: one flood takes it all.
        QCOMPARE(tangentFaces(topology, {1}).size(), std::size_t(26));
        // The feature is the rounds with their corners: 12 + 8.
        const int round = faceOfKind(topology, SurfaceKind::Cylinder);
        const auto feature = featureFaces(part, round, {});
        QCOMPARE(feature.size(), std::size_t(20));
        for (const int f : feature) QVERIFY(surfaceKind(topology.face(f)) != SurfaceKind::Plane);
        QCOMPARE(featureFaces(part, faceOfKind(topology, SurfaceKind::Plane), {}).size(), std::size_t(1));
    }
    void aSharpBlockHasNoChains() {
        const Part part("b", block(40, 30, 20));
        const Incidence& topology = part.incidence();
        QCOMPARE(tangentFaces(topology, {1}), std::set<int>{1});
        QCOMPARE(tangentEdges(topology, {1}), std::set<int>{1});
        QCOMPARE(adjacentFaces(topology, {1}).size(), std::size_t(5));
        QCOMPARE(adjacentFaces(topology, adjacentFaces(topology, {1})).size(), std::size_t(6));
        QCOMPARE(shrunkFaces(topology, adjacentFaces(topology, {1})), std::set<int>{1});
        QCOMPARE(adjacentEdges(topology, {1}).size(), std::size_t(5));
        QCOMPARE(loopOf(topology, 1).size(), std::size_t(4));
        const auto way = facesBetween(topology, 1, 2);
        QVERIFY(way.contains(1) && way.contains(2) && way.size() <= 3);
    }
    void halfOfASplitCylinderBringsTheOther() {
        // Two half rods side by side make the wall in halves.
        const auto axis = gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        gp_Trsf down;
        down.SetTranslation(gp_Vec(-20, 0, -5));
        const TopoDS_Shape half = cut(rod(axis, 5, 30), moved(block(40, 40, 40), down));
        gp_Trsf over;
        over.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), M_PI);
        const Part part("rod", fuse(half, moved(half, over)));
        const Incidence& topology = part.incidence();
        const int wall = faceOfKind(topology, SurfaceKind::Cylinder);
        const auto chain = tangentFaces(topology, {wall});
        for (const int f : chain) QCOMPARE(surfaceKind(topology.face(f)), SurfaceKind::Cylinder);
        double area = 0.0;
        const Traits traits = traitsOf(part);
        for (const int f : chain) area += traits.faces[static_cast<std::size_t>(f)].area;
        QCOMPARE_NEAR(area, 2 * M_PI * 5 * 30, 1e-6);
        QCOMPARE(featureFaces(part, wall, {}), chain);
    }
    void edgesRunOnWithoutABend() {
        const Part part("b", roundedBlock(3));
        const Incidence& topology = part.incidence();
        // Around each flat runs one closed chain of four straight edges: its corners are sharp, so the chain is that
        // edge alone.
        const auto chain = tangentEdges(topology, {1});
        QVERIFY(!chain.empty());
        // The mouths of a slot: straight, half circle, straight, half circle, all the way round.
        gp_Trsf in;
        in.SetTranslation(gp_Vec(15, 10, -1));
        TopoDS_Shape slotted = cut(block(60, 30, 8), moved(block(25, 10, 20), in));
        for (const double x : {15.0, 40.0})
            slotted = cut(slotted, rod(gp_Ax1(gp_Pnt(x, 15, -1), gp_Dir(0, 0, 1)), 5, 20));
        const Part plate("s", slotted);
        const Incidence& own = plate.incidence();
        const Traits lengths = traitsOf(plate);
        int mouthEdges = 0;
        for (int e = 1; e <= own.edgeCount(); ++e) {
            const auto run = tangentEdges(own, {e});
            if (run.size() == 1) continue;
            ++mouthEdges;
            double length = 0.0;
            for (const int one : run) length += lengths.edges[static_cast<std::size_t>(one)].length;
            QCOMPARE_NEAR(length, 2 * 25 + 2 * M_PI * 5, 1e-6);
        }
        QVERIFY(mouthEdges >= 8);
    }
    void openEdgesFormTheirLoop() {
        TopoDS_Shape sheet;
        for (TopExp_Explorer it(drilledPlate(40, 30, 5, 2, 6), TopAbs_FACE); it.More(); it.Next())
            if (TopExp_Explorer(it.Current(), TopAbs_WIRE).More() &&
                surfaceKind(TopoDS::Face(it.Current())) == SurfaceKind::Plane) {
                int wires = 0;
                for (TopExp_Explorer w(it.Current(), TopAbs_WIRE); w.More(); w.Next()) ++wires;
                if (wires > 1) sheet = it.Current();
            }
        QVERIFY(!sheet.IsNull());
        const Incidence topology(sheet);
        std::map<std::size_t, int> sizes;
        for (int e = 1; e <= topology.edgeCount(); ++e) ++sizes[loopOf(topology, e).size()];
        QCOMPARE(sizes[4], 4);   // the outline
        QVERIFY(sizes[1] >= 1);  // each hole's circle is a loop of its own
    }
    void insideABoundary() {
        // A plate with a boss: the boss's faces lie inside the loop where it stands on the plate.
        gp_Trsf up;
        up.SetTranslation(gp_Vec(15, 10, 10));
        const Part part("b", fuse(block(40, 30, 10), moved(block(8, 8, 6), up)));
        const Incidence& topology = part.incidence();
        int top = 0, cap = 0;
        for (int f = 1; f <= topology.faceCount(); ++f) {
            const TopoDS_Face face = topology.face(f);
            TopExp_Explorer v(face, TopAbs_VERTEX);
            double low = 1e9, high = -1e9;
            for (; v.More(); v.Next()) {
                const double z = BRep_Tool::Pnt(TopoDS::Vertex(v.Current())).Z();
                low = std::min(low, z), high = std::max(high, z);
            }
            if (low == high && std::abs(low - 10) < 1e-9) top = f;
            if (low == high && std::abs(low - 16) < 1e-9) cap = f;
        }
        QVERIFY(top > 0 && cap > 0);
        QCOMPARE(insideBoundary(topology, {top}, {}, cap).size(), std::size_t(5));
        std::set<int> rim;
        for (const int e : topology.edgesOf(top))
            if (const auto loop = loopOf(topology, e, top); loop.size() == 4) {
                double reach = 0.0;
                for (const int one : loop)
                    for (TopExp_Explorer v(topology.edge(one), TopAbs_VERTEX); v.More(); v.Next())
                        reach = std::max(reach, BRep_Tool::Pnt(TopoDS::Vertex(v.Current())).X());
                if (reach < 30) rim = loop;
            }
        QCOMPARE(insideBoundary(topology, {}, rim, cap).size(), std::size_t(5));
    }
    void holesAreWholeFeatures() {
        const auto model = exchange::readFile(demoFile("hanger-arm.step"), {}, quietly());
        const Part& part = *model->parts[0];
        const auto holes = survey::findHoles(part, 4.0, {}, quietly());
        for (const survey::Hole& hole : *holes)
            for (const int f : hole.faces)
                QCOMPARE(featureFaces(part, f, *holes), std::set<int>(hole.faces.begin(), hole.faces.end()));
    }
    void alikeAgainstTheTableOfTruth() {
        const auto model = exchange::readFile(demoFile("hanger-arm.step"), {}, quietly());
        const auto holes = survey::findHoles(*model->parts[0], 4.0, {}, quietly());
        const auto traits = traitsOfAll(*model);
        const Json truth = Json::parse(*readText(demoFile("hanger-arm.json")));
        std::map<double, int> bySize;
        for (const Json& put : truth.at("features"))
            if (put.at("kind") == "plain") ++bySize[put.at("size_mm").get<double>()];
        int tried = 0;
        for (const survey::Hole& hole : *holes) {
            if (hole.kind != survey::HoleKind::Plain) continue;
            AlikeWanted wanted;
            wanted.by = Likeness::Feature;
            const auto found = findAlike(*model, traits, {&*holes}, Pick{0, hole.faces.front()}, wanted);
            std::set<const survey::Hole*> whole;
            for (const Pick& item : found)
                for (const survey::Hole& one : *holes)
                    if (std::binary_search(one.faces.begin(), one.faces.end(), item.face)) whole.insert(&one);
            int same = 0;
            for (const survey::Hole& one : *holes)
                same += one.kind == hole.kind && one.through == hole.through && std::abs(one.size - hole.size) < 1e-6;
            QCOMPARE(static_cast<int>(whole.size()), same);
            ++tried;
        }
        QVERIFY(tried > 10);
        // By radius: up to, between, exactly; against plain counting.
        const Traits& own = *traits[0];
        for (std::size_t f = 1; f < own.faces.size(); ++f) {
            if (own.faces[f].radius <= 0.0) continue;
            for (const auto& [low, high] : {std::pair{1.0, 1.0}, {0.0, 1.0}, {0.5, 2.0}}) {
                AlikeWanted wanted;
                wanted.by = Likeness::Radius;
                wanted.low = low;
                wanted.high = high;
                std::size_t count = 0;
                for (std::size_t g = 1; g < own.faces.size(); ++g)
                    count += own.faces[g].kind == own.faces[f].kind && own.faces[g].inward == own.faces[f].inward &&
                             own.faces[g].radius > 0.0 &&
                             own.faces[g].radius >= low * own.faces[f].radius * (1 - 1e-4) &&
                             own.faces[g].radius <= high * own.faces[f].radius * (1 + 1e-4);
                QCOMPARE(findAlike(*model, traits, {}, Pick{0, static_cast<int>(f)}, wanted).size(), count);
            }
        }
    }
    void alikeRespectsScopeColourAndSet() {
        Model model = modelOf(drilledPlate(100, 60, 8, 4, 5), "a");
        auto other = std::make_shared<Part>("b", drilledPlate(100, 60, 8, 4, 5));
        other->colour = Colour{1, 0, 0};
        model.parts.push_back(other);
        for (int i = 0; i < 3; ++i) model.occurrences.push_back({1, gp_Trsf(), "b", {}, std::nullopt});
        const auto traits = traitsOfAll(model);
        const int wall = faceOfKind(model.parts[0]->incidence(), SurfaceKind::Cylinder);
        AlikeWanted wanted;
        wanted.by = Likeness::Radius;
        QCOMPARE(findAlike(model, traits, {}, Pick{0, wall}, wanted).size(), std::size_t(16));
        wanted.parts = {0};
        QCOMPARE(findAlike(model, traits, {}, Pick{0, wall}, wanted).size(), std::size_t(4));
        wanted.parts.clear();
        QCOMPARE(findAlike(model, traits, {}, Pick{0, wall}, wanted, {1, 2}).size(), std::size_t(8));
        model.occurrences.change(3).aside = true;
        QCOMPARE(findAlike(model, traits, {}, Pick{0, wall}, wanted, {1, 2}).size(), std::size_t(4));
        wanted.by = Likeness::Colour;
        QCOMPARE(findAlike(model, traits, {}, Pick{1, wall}, wanted).size(),
                 static_cast<std::size_t>(2 * other->incidence().faceCount()));
        wanted.by = Likeness::Radius;
        QVERIFY(
            findAlike(model, traits, {}, Pick{0, faceOfKind(model.parts[0]->incidence(), SurfaceKind::Plane)}, wanted)
                .empty());
    }
    void regionsAgainstBruteForce_data() {
        QTest::addColumn<bool>("touched");
        QTest::addColumn<bool>("lasso");
        for (const bool touched : {false, true})
            for (const bool lasso : {false, true})
                QTest::addRow("%s %s", touched ? "touching" : "inside", lasso ? "lasso" : "box") << touched << lasso;
    }
    void regionsAgainstBruteForce() {
        QFETCH(bool, touched);
        QFETCH(bool, lasso);
        Model model = *exchange::readFile(demoFile("hanger-arm.step"), {}, quietly());
        mesh(model);
        const Projection projection = fromACorner();
        const ScreenMap map(model, {0}, projection);
        const Incidence& topology = model.parts[0]->incidence();
        Random random(31);
        int differences = 0, found = 0;
        for (int round = 0; round < 12; ++round) {
            const double x = between(random, -400, 300), y = between(random, -300, 300), w = between(random, 30, 400),
                         h = between(random, 30, 300);
            RegionWanted wanted;
            wanted.touched = touched;
            if (lasso)
                for (int i = 0; i < 9; ++i) {
                    const double r = between(random, 0.4, 1.0);
                    wanted.outline.push_back(
                        {x + w * r * std::cos(2 * M_PI * i / 9), y + h * r * std::sin(2 * M_PI * i / 9)});
                }
            else
                wanted.outline = {{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
            std::set<int> got;
            for (const Pick& item : map.find(wanted)) got.insert(item.face);
            found += static_cast<int>(got.size());
            // Brute force: many points on every triangle.
            for (int f = 1; f <= topology.faceCount(); ++f) {
                TopLoc_Location place;
                const auto triangles = BRep_Tool::Triangulation(topology.face(f), place);
                bool any = false, all = true;
                for (int t = 1; t <= triangles->NbTriangles(); ++t) {
                    int n[3];
                    triangles->Triangle(t).Get(n[0], n[1], n[2]);
                    for (int i = 0; i <= 6; ++i)
                        for (int j = 0; i + j <= 6; ++j) {
                            const gp_XYZ p = triangles->Node(n[0]).XYZ() * (i / 6.0) +
                                             triangles->Node(n[1]).XYZ() * (j / 6.0) +
                                             triangles->Node(n[2]).XYZ() * ((6 - i - j) / 6.0);
                            const bool in = inside(wanted.outline, projection.toScreen(gp_Pnt(p)));
                            any = any || in;
                            all = all && in;
                        }
                }
                // Sampling can miss a corner that only just reaches in (or out): those may differ one way, never the
                // other.
                if (touched && any) QVERIFY(got.contains(f));
                if (!touched && !all) QVERIFY(!got.contains(f));
                differences += (touched ? any : all) != got.contains(f);
            }
        }
        QVERIFY(found > 20);
        QVERIFY2(differences <= 8, qPrintable(QString::number(differences)));
    }
    void onlyWhatIsSeen() {
        // Three plates above each other, seen from above: the lower ones are covered.
        Model model = modelOf(block(40, 30, 2), "low");
        for (int i = 1; i < 3; ++i) {
            gp_Trsf up;
            up.SetTranslation(gp_Vec(0, 0, 10 * i));
            model.occurrences.push_back({0, up, "plate", {}, std::nullopt});
        }
        mesh(model);
        const ScreenMap map(model, {0, 1, 2}, fromAbove());
        const RayField field(model, {}, 1e-3, quietly());
        RegionWanted wanted;
        wanted.outline = {{-5, -5}, {45, -5}, {45, 35}, {-5, 35}};
        QCOMPARE(map.find(wanted).size(), std::size_t(18));
        wanted.kind = PickKind::Part;
        QCOMPARE(map.find(wanted).size(), std::size_t(3));
        wanted.seenIn = &field;
        const auto seen = map.find(wanted);
        QCOMPARE(seen.size(), std::size_t(1));
        QCOMPARE(seen[0].occurrence, std::size_t(2));
        wanted.seenIn = nullptr;
        wanted.outline = {{-5, -5}, {20, -5}, {20, 35}, {-5, 35}};
        QCOMPARE(map.find(wanted).size(), std::size_t(0));
        wanted.touched = true;
        QCOMPARE(map.find(wanted).size(), std::size_t(3));
        wanted.kind = PickKind::Vertex;
        QCOMPARE(map.find(wanted).size(), std::size_t(12));
        wanted.kind = PickKind::Edge;
        wanted.touched = false;
        QCOMPARE(map.find(wanted).size(), std::size_t(12));  // four edges of each plate at x = 0
        // A box within one face touches that face, and nothing lies wholly in it.
        wanted.kind = PickKind::Face;
        wanted.outline = {{10, 10}, {12, 10}, {12, 12}, {10, 12}};
        QVERIFY(map.find(wanted).empty());
        wanted.touched = true;
        QCOMPARE(map.find(wanted).size(), std::size_t(6));
        wanted.seenIn = &field;
        QCOMPARE(map.find(wanted).size(), std::size_t(1));
    }
};

static Registered<SelectTest> selectTest;

}  // namespace rasoir::test

#include "select_test.moc"
