// What makes bodies ready for meshing in blocks: cuts along round faces, moulds in halves, layers and the cuts that
// free them, small things that would better be one with a neighbour; outlines down to a face, edges parted by points,
// points.
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <gp_Cylinder.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "divide/layers.h"
#include "divide/outline.h"
#include "divide/points.h"
#include "divide/small_beside.h"
#include "exchange/files.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "model/work.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class BlocksTest : public QObject {
    Q_OBJECT

    static const gp_Ax1& upright() {
        static const gp_Ax1 axis(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        return axis;
    }
    static gp_Ax1 standingAt(double x, double y, double z) { return {gp_Pnt(x, y, z), gp_Dir(0, 0, 1)}; }
    static int faceAt(const Part& part, const gp_Pnt& point) {
        const Incidence& topology = part.incidence();
        int best = 1;
        for (int f = 2; f <= topology.faceCount(); ++f)
            if (skinOf(topology.face(f)).centre.Distance(point) < skinOf(topology.face(best)).centre.Distance(point))
                best = f;
        return best;
    }
    static EntityRef edgeAt(const Part& part, const gp_Pnt& point) {
        EntityRef best = makeRef(part, {EntityKind::Edge, 1});
        for (int e = 2; e <= part.incidence().edgeCount(); ++e) {
            const EntityRef here = makeRef(part, {EntityKind::Edge, e});
            if (here.at.Distance(point) < best.at.Distance(point)) best = here;
        }
        return best;
    }
    static EntityRef vertexAt(const Part& part, const gp_Pnt& point) {
        EntityRef best = makeRef(part, {EntityKind::Vertex, 1});
        for (int v = 2; v <= part.incidence().vertexCount(); ++v) {
            const EntityRef here = makeRef(part, {EntityKind::Vertex, v});
            if (here.at.Distance(point) < best.at.Distance(point)) best = here;
        }
        return best;
    }
    static std::vector<double> volumesOf(const Model& model) {
        std::vector<double> volumes;
        for (const auto& part : model.parts)
            if (part->kind() == BodyKind::Solid) volumes.push_back(rasoir::volumeOf(part->shape));
        std::sort(volumes.begin(), volumes.end());
        return volumes;
    }
    static Model withPart(Model model, const std::string& name, const TopoDS_Shape& shape) {
        model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>(name, shape));
        model.giveIds();
        return model;
    }
    static gp_Trsf askew() {
        gp_Trsf turn, move;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, 1, 2), gp_Dir(1, 2, 3)), 0.7);
        move.SetTranslation(gp_Vec(40, -20, 11));
        return move * turn;
    }

private slots:
    // --- cuts along faces that are not flat

    void aRoundFaceCutsCarriedOn_data() {
        QTest::addColumn<bool>("turned");
        QTest::newRow("upright") << false;
        QTest::newRow("askew") << true;
    }
    void aRoundFaceCutsCarriedOn() {
        QFETCH(bool, turned);
        // A quarter of a bar's round end, on a boss, cuts the plate below it all round and all through.
        const gp_Trsf place = turned ? askew() : gp_Trsf();
        const TopoDS_Shape boss = cut(rod(standingAt(20, 30, 10), 6, 5), moved(block(40, 40, 40), [] {
                                          gp_Trsf move;
                                          move.SetTranslation(gp_Vec(20, 0, 0));
                                          return move;
                                      }()));
        Model model = modelOf(moved(block(60, 60, 10), place), "plate");
        model = withPart(model, "half boss", moved(boss, place));
        const Part& part = *model.parts[1];
        int round = 0;
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (surfaceKind(part.incidence().face(f)) == SurfaceKind::Cylinder) round = f;
        const auto done =
            run(model, "divide.cut", {{"parts", {"plate"}}, {"faces", {makeFaceRef(part, round)}}, {"group", "skin"}});
        QVERIFY2(done, said(done));
        const auto volumes = volumesOf(done->model);
        QCOMPARE(volumes.size(), std::size_t(3));
        QCOMPARE_NEAR(volumes[1], M_PI * 36 * 10, 1e-6);  // the boss is half of half of that
        QCOMPARE_NEAR(volumes[2], 36000 - M_PI * 36 * 10, 1e-6);
        for (const auto& one : done->model.parts) QVERIFY(isValid(one->shape));
        // Shifted outwards by two.
        const auto wider =
            run(model, "divide.cut", {{"parts", {"plate"}}, {"faces", {makeFaceRef(part, round)}}, {"offset", 2.0}});
        QVERIFY2(wider, said(wider));
        QCOMPARE_NEAR(volumesOf(wider->model)[1], M_PI * 64 * 10, 1e-6);
        // So far inwards that nothing is left.
        const auto none =
            run(model, "divide.cut", {{"parts", {"plate"}}, {"faces", {makeFaceRef(part, round)}}, {"offset", -7.0}});
        QVERIFY(!none);
    }
    void conesBallsAndToriCutCarriedOn_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("cone") << 0;
        QTest::newRow("ball") << 1;
        QTest::newRow("torus") << 2;
    }
    void conesBallsAndToriCutCarriedOn() {
        QFETCH(int, kind);
        const TopoDS_Shape tool = kind == 0 ? coneOf(standingAt(30, 30, 12), 3, 1, 4)
                                  : kind == 1
                                      ? BRepPrimAPI_MakeSphere(gp_Pnt(30, 30, 8), 5).Shape()
                                      : BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(30, 30, 8), gp::DZ()), 12, 3).Shape();
        const SurfaceKind wanted = kind == 0 ? SurfaceKind::Cone : kind == 1 ? SurfaceKind::Sphere : SurfaceKind::Torus;
        Model model = withPart(modelOf(block(60, 60, 10), "plate"), "tool", tool);
        const Part& part = *model.parts[1];
        int face = 0;
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (surfaceKind(part.incidence().face(f)) == wanted) face = f;
        const auto done = run(model, "divide.cut", {{"parts", {"plate"}}, {"faces", {makeFaceRef(part, face)}}});
        QVERIFY2(done, said(done));
        // The cone loses half a millimetre of radius for each of height: 9 at the bottom, 4 at the top of the plate.
        const double inside = kind == 0   ? M_PI * 10 / 3 * (9 * 9 + 9 * 4 + 4 * 4)
                              : kind == 1 ? 4.0 / 3 * M_PI * 125 - M_PI * 9 * (5 - 1.0)
                                          : 0.0;
        const auto volumes = volumesOf(done->model);
        QCOMPARE_NEAR(std::accumulate(volumes.begin(), volumes.end(), 0.0) - rasoir::volumeOf(tool), 36000.0, 1e-5);
        if (kind < 2) {
            QVERIFY(std::any_of(volumes.begin(), volumes.end(),
                                [inside](double v) { return std::abs(v - inside) < 1e-6; }));
        } else {
            // Above its middle plane the ring is cut off at z = 10, two above its middle: a segment of its circle.
            const double segment = 9 * std::acos(2.0 / 3) - 2 * std::sqrt(5.0);
            const double ring = 2 * M_PI * 12 * (M_PI * 9 - segment);
            QVERIFY(
                std::any_of(volumes.begin(), volumes.end(), [ring](double v) { return std::abs(v - ring) < 1e-5; }));
        }
    }

    // --- moulds

    void aMouldInTwoHalves() {
        const Model model = modelOf(BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), 10).Shape(), "ball");
        const auto done = run(model, "divide.surround",
                              {{"clearance", {5, 5, 5, 5, 5, 5}},
                               {"without", true},
                               {"name", "mould"},
                               {"parting", {{"through", {0, 0, 0}}, {"normal", {0, 0, 1}}}}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), std::size_t(3));
        QCOMPARE(done->model.parts[1]->name, std::string("mould, above"));
        QCOMPARE(done->model.parts[2]->name, std::string("mould, below"));
        const double half = 0.5 * (27000 - 4.0 / 3 * M_PI * 1000);
        for (const std::size_t p : {1, 2}) {
            QCOMPARE_NEAR(rasoir::volumeOf(done->model.parts[p]->shape), half, 1e-6);
            QVERIFY(isValid(done->model.parts[p]->shape));
        }
        const auto missed = run(model, "divide.surround",
                                {{"clearance", {5, 5, 5, 5, 5, 5}},
                                 {"without", true},
                                 {"parting", {{"through", {0, 0, 40}}, {"normal", {0, 0, 1}}}}});
        QVERIFY(!missed);
        QVERIFY2(QString(said(missed)).contains("misses"), said(missed));
    }
    void aSheetPartsAMould() {
        const TopoDS_Face sheet = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 2), gp::DZ()), -8, 8, -8, 8).Face();
        const Model model = withPart(modelOf(rod(gp_Ax1(gp_Pnt(0, 0, -10), gp::DZ()), 5, 20), "pin"), "parting", sheet);
        const auto done = run(model, "divide.surround",
                              {{"places", {"pin"}},
                               {"clearance", {5, 5, 5, 5, 5, 5}},
                               {"without", true},
                               {"name", "mould"},
                               {"partingBy", "parting"}});
        QVERIFY2(done, said(done));  // a single face goes on by itself where it is too short
        std::vector<double> halves = volumesOf(done->model);
        QCOMPARE(halves.size(), std::size_t(3));
        std::vector<double> wanted{M_PI * 25 * 20, 400 * 17 - M_PI * 25 * 12, 400 * 13 - M_PI * 25 * 8};
        std::sort(wanted.begin(), wanted.end());
        for (std::size_t i = 0; i < 3; ++i) QCOMPARE_NEAR(halves[i], wanted[i], 1e-6);
        QVERIFY(!run(model, "divide.surround", {{"places", {"pin"}}, {"partingBy", "pin"}}));
    }
    void aCylinderAlongAnyAxis_data() {
        QTest::addColumn<QString>("axis");
        QTest::addColumn<double>("volume");
        QTest::newRow("x") << "x" << M_PI * std::pow(0.5 * std::hypot(20, 30) + 3, 2) * (10 + 3);
        QTest::newRow("y") << "y" << M_PI * std::pow(0.5 * std::hypot(10, 30) + 1, 2) * (20 + 7);
        QTest::newRow("z") << "z" << M_PI * std::pow(0.5 * std::hypot(10, 20) + 1, 2) * (30 + 11);
    }
    void aCylinderAlongAnyAxis() {
        QFETCH(QString, axis);
        QFETCH(double, volume);
        const auto done =
            run(modelOf(block(10, 20, 30)), "divide.surround",
                {{"by", "cylinder"}, {"axis", axis.toStdString()}, {"clearance", {1, 2, 3, 4, 5, 6}}, {"name", "c"}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(rasoir::volumeOf(done->model.parts[1]->shape), volume, 1e-6);
    }

    // --- layers

    void whatCanBeMeshedInLayers_data() {
        QTest::addColumn<int>("body");
        QTest::addColumn<bool>("works");
        QTest::addColumn<bool>("about");
        QTest::newRow("block") << 0 << true << false;
        QTest::newRow("plate with through holes") << 1 << true << false;
        QTest::newRow("wavy on top") << 2 << true << false;
        QTest::newRow("ring") << 3 << true << true;
        QTest::newRow("ball") << 4 << false << false;
        QTest::newRow("blind hole") << 5 << false << false;
        QTest::newRow("wedge without an edge") << 6 << true << false;
        QTest::newRow("cross bored") << 7 << false << false;
    }
    static TopoDS_Shape bodyOf(int kind) {
        switch (kind) {
            case 0:
                return block(10, 20, 30);
            case 1:
                return cut(cut(block(60, 40, 8), rod(standingAt(15, 20, -1), 5, 20)),
                           rod(standingAt(45, 20, -1), 3, 20));
            case 2:
                return splineTopped(30, 20, 8, 0.5);
            case 3:
                return BRepPrimAPI_MakeTorus(20, 4).Shape();
            case 4:
                return BRepPrimAPI_MakeSphere(10).Shape();
            case 5:
                return cut(block(40, 40, 20), rod(standingAt(20, 20, 8), 5, 20));
            case 6: {  // a roof: along its ridge it is a prism
                const TopoDS_Shape tilted = moved(block(60, 60, 60), [] {
                    gp_Trsf turn, move;
                    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 10), gp_Dir(1, 0, 0)), 0.3);
                    move.SetTranslation(gp_Vec(-10, 0, 10));
                    return turn * move;
                }());
                return cut(block(30, 20, 20), tilted);
            }
            default:
                return cut(cut(block(60, 40, 30), rod(standingAt(15, 20, -1), 5, 50)),
                           rod(gp_Ax1(gp_Pnt(45, -1, 15), gp_Dir(0, 1, 0)), 5, 60));
        }
    }
    void whatCanBeMeshedInLayers() {
        QFETCH(int, body);
        QFETCH(bool, works);
        QFETCH(bool, about);
        for (const bool turned : {false, true}) {
            const TopoDS_Shape shape = turned ? moved(bodyOf(body), askew()) : bodyOf(body);
            const divide::LayerWay way = divide::bestLayerWay(Incidence(shape));
            QCOMPARE(way.works(), works);
            if (!works) continue;
            QCOMPARE(way.turned, about);
            // Along a way that works both ends have the same area as seen along it: the sums cancel.
            if (about) continue;
            gp_Vec sum(0, 0, 0);
            const Incidence topology(shape);
            QVERIFY(!way.from.empty() && !way.to.empty());
            for (const auto* faces : {&way.from, &way.to})
                for (const int f : *faces) {
                    // The projected area is what a prism over the face, one high, would hold.
                    const FaceMoments low = *momentsOf(topology.face(f), gp_Pnt(0, 0, 0)),
                                      high = *momentsOf(topology.face(f),
                                                        gp_Pnt(0, 0, 0).Translated(gp_Vec(way.axis.Direction())));
                    sum += gp_Vec(way.axis.Direction()) * (3.0 * (high.volume - low.volume));
                }
            QVERIFY2(sum.Magnitude() < 1e-5, qPrintable(QString::number(sum.Magnitude())));
        }
    }
    void cutsThatFreeABody_data() {
        QTest::addColumn<int>("body");
        QTest::addColumn<int>("pieces");
        QTest::newRow("blind hole") << 5 << 2;
        QTest::newRow("cross bored") << 7 << 2;
    }
    void cutsThatFreeABody() {
        QFETCH(int, body);
        QFETCH(int, pieces);
        const Model model = modelOf(bodyOf(body), "body");
        const auto found = divide::findLayers(model, quietly());
        QVERIFY2(found, said(found));
        QCOMPARE(found->size(), std::size_t(1));
        const divide::BodyLayers& one = found->front();
        QVERIFY(!one.way.works());
        QVERIFY2(!one.cuts.empty(), one.told().c_str());
        QVERIFY2(one.freed == one.pieces, one.told().c_str());
        QVERIFY2(static_cast<int>(one.pieces) >= pieces, one.told().c_str());
        // What is proposed is what the step does.
        Json planes = Json::array();
        for (const gp_Pln& cut : one.cuts) {
            const gp_XYZ at = cut.Location().XYZ(), normal = cut.Axis().Direction().XYZ();
            planes.push_back({{"through", {at.X(), at.Y(), at.Z()}}, {"normal", {normal.X(), normal.Y(), normal.Z()}}});
        }
        const auto done = run(model, "divide.cut", {{"planes", planes}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), one.pieces);
        const auto after = divide::findLayers(done->model, quietly());
        for (const divide::BodyLayers& piece : *after) QVERIFY2(piece.way.works(), piece.told().c_str());
    }

    // --- small beside large

    void aStripBesideALargeFaceIsFound() {
        Model model = modelOf(block(100, 60, 8), "plate");
        model.targetSize = 6.0;
        divide::Outline line;
        line.along = edgeAt(*model.parts[0], gp_Pnt(0, 30, 8));
        line.at = {0.0, 1.5};
        const auto parted = run(
            model, "divide.partFace",
            {{"faces", {makeFaceRef(*model.parts[0], faceAt(*model.parts[0], gp_Pnt(50, 30, 8)))}}, {"outline", line}});
        QVERIFY2(parted, said(parted));
        const auto found = divide::findSmallBeside(parted->model, 6.0, quietly());
        QVERIFY2(found, said(found));
        // The strip, and the short ends of the two edges that the line parts.
        QCOMPARE(std::count_if(found->begin(), found->end(),
                               [](const auto& one) { return one.small.kind == EntityKind::Face; }),
                 1);
        const auto strip = std::find_if(found->begin(), found->end(),
                                        [](const auto& one) { return one.small.kind == EntityKind::Face; });
        QCOMPARE_NEAR(areaOf(parted->model.parts[0]->incidence().face(strip->small.number)), 90.0, 1e-9);
        QCOMPARE_NEAR(areaOf(parted->model.parts[0]->incidence().face(strip->with.number)), 5910.0, 1e-9);
        // Marked as one it is found no more; nor where it is large against the target.
        const Part& part = *parted->model.parts[0];
        const auto marked =
            run(parted->model, "divide.asOne", {{"things", {makeRef(part, strip->small), makeRef(part, strip->with)}}});
        QVERIFY2(marked, said(marked));
        const auto after = divide::findSmallBeside(marked->model, 6.0, quietly());
        QVERIFY(std::none_of(after->begin(), after->end(),
                             [](const auto& one) { return one.small.kind == EntityKind::Face; }));
        QVERIFY(divide::findSmallBeside(parted->model, 1.0, quietly())->empty());
        // A group on the strip says that it is meant to be told apart.
        const auto grouped =
            run(parted->model, "handover.group", {{"name", "load"}, {"things", {makeRef(part, strip->small)}}});
        QVERIFY2(grouped, said(grouped));
        const auto kept = divide::findSmallBeside(grouped->model, 6.0, quietly());
        QVERIFY(std::none_of(kept->begin(), kept->end(),
                             [](const auto& one) { return one.small.kind == EntityKind::Face; }));
    }
    void aRoundIsNotOneWithItsNeighbour() {
        const TopoDS_Shape plate = block(60, 40, 10);
        BRepFilletAPI_MakeFillet fillet(plate);
        fillet.Add(1.0, TopoDS::Edge(TopExp_Explorer(plate, TopAbs_EDGE).Current()));
        Model model = modelOf(fillet.Shape());
        const auto found = divide::findSmallBeside(model, 10.0, quietly());
        QVERIFY2(found, said(found));
        QVERIFY(std::none_of(found->begin(), found->end(),
                             [](const auto& one) { return one.small.kind == EntityKind::Face; }));
    }

    // --- outlines down to a face, and measured from other things

    void anOutlineCutDownToAFace() {
        // A pocket from above down to the level of a step's tread beside it.
        const TopoDS_Shape stepped = cut(block(60, 40, 20), moved(block(20, 40, 20), [] {
                                             gp_Trsf move;
                                             move.SetTranslation(gp_Vec(40, 0, 8));
                                             return move;
                                         }()));
        const Model model = modelOf(stepped, "stepped");
        const Part& part = *model.parts[0];
        divide::Outline outline;
        outline.shape = "circle";
        outline.along = edgeAt(part, gp_Pnt(0, 20, 20));
        outline.at = {20.0, 15.0};
        outline.size = {10.0, 0.0};
        const FaceRef top = makeFaceRef(part, faceAt(part, gp_Pnt(20, 20, 20))),
                      tread = makeFaceRef(part, faceAt(part, gp_Pnt(50, 20, 8)));
        const auto done = run(model, "divide.cutOut", {{"face", top}, {"outline", outline}, {"to", tread}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(rasoir::volumeOf(done->model.parts[0]->shape), rasoir::volumeOf(stepped) - M_PI * 25 * 12, 1e-6);
        QVERIFY(isValid(done->model.parts[0]->shape));
        // A face that stands upright is no floor, and a depth besides is one too many.
        const FaceRef wall = makeFaceRef(part, faceAt(part, gp_Pnt(0, 20, 10)));
        QVERIFY(!run(model, "divide.cutOut", {{"face", top}, {"outline", outline}, {"to", wall}}));
        QVERIFY(!run(model, "divide.cutOut", {{"face", top}, {"outline", outline}, {"to", tread}, {"depth", 3.0}}));
    }
    void anOutlineDownToARoundFace() {
        // From the top of a block down to the bore that crosses it: what is cut ends on the bore's near side.
        const TopoDS_Shape bored = cut(block(60, 40, 30), rod(gp_Ax1(gp_Pnt(-1, 20, 12), gp_Dir(1, 0, 0)), 6, 80));
        const Model model = modelOf(bored, "bored");
        const Part& part = *model.parts[0];
        divide::Outline outline;
        outline.shape = "circle";
        outline.along = edgeAt(part, gp_Pnt(30, 0, 30));
        outline.from = "middle";
        outline.at = {0.0, 20.0};
        outline.size = {8.0, 0.0};
        const FaceRef top = makeFaceRef(part, faceAt(part, gp_Pnt(30, 20, 30))),
                      bore = makeFaceRef(part, faceAt(part, gp_Pnt(30, 20, 12)));
        QCOMPARE(bore.surface, std::string("cylinder"));
        const auto done = run(model, "divide.cutOut", {{"face", top}, {"outline", outline}, {"to", bore}});
        QVERIFY2(done, said(done));
        // The judge takes the same away by other means: a rod down to the middle of the bore.
        const TopoDS_Shape judged = cut(bored, rod(gp_Ax1(gp_Pnt(30, 20, 12), gp_Dir(0, 0, 1)), 4, 40));
        QCOMPARE_NEAR(rasoir::volumeOf(done->model.parts[0]->shape), rasoir::volumeOf(judged), 1e-5);
    }
    void anOutlineMeasuredFromAVertexOrAHole_data() {
        QTest::addColumn<int>("from");
        QTest::newRow("vertex") << 0;
        QTest::newRow("hole") << 1;
        QTest::newRow("edge") << 2;
    }
    void anOutlineMeasuredFromAVertexOrAHole() {
        QFETCH(int, from);
        for (const double longer : {0.0, 7.0}) {
            // A revision that moves hole and far end, by more than a reference allows for.
            const auto plate = [](double more) {
                return modelOf(cut(block(100 + more, 60, 8), rod(standingAt(70 + more, 30, -1), 5, 20)), "plate");
            };
            const Model drawnOn = plate(0.0), model = plate(longer);
            const Part& part = *drawnOn.parts[0];
            divide::Outline outline;
            outline.shape = "rectangle";
            outline.along = edgeAt(part, gp_Pnt(50, 0, 8));
            outline.origin = from == 0   ? vertexAt(part, gp_Pnt(100, 60, 8))
                             : from == 1 ? edgeAt(part, gp_Pnt(65, 30, 8))
                                         : edgeAt(part, gp_Pnt(100, 30, 8));
            // x runs along the edge as its face goes round, from x = 0 on: backwards in this plate or not.
            const gp_Ax3 frame = *divide::frameOf(part, faceAt(part, gp_Pnt(50, 30, 8)), outline);
            const double sense = frame.XDirection().X();
            outline.at = {sense * -30.0, 15.0};
            outline.size = {10.0, 6.0};
            const auto done = run(model, "divide.partFace",
                                  {{"faces", {makeFaceRef(part, faceAt(part, gp_Pnt(50, 30, 8)))}},
                                   {"outline", outline},
                                   {"group", "pad"}});
            if (longer > 0.0) {
                // A reference to what has moved is refused, naming it; it is never mistaken for something else.
                QVERIFY(!done);
                QVERIFY2(QString(said(done)).contains("not here any more"), said(done));
                continue;
            }
            QVERIFY2(done, said(done));
            const int pad = done->model.groups[0].members.begin()->entity.number;
            const gp_Pnt centre = skinOf(done->model.parts[0]->incidence().face(pad)).centre;
            const double origin = from == 1 ? 70 : 100;
            QCOMPARE_NEAR(centre.X(), origin - 30.0, 1e-7);
            QCOMPARE_NEAR(centre.Y(), 15.0, 1e-7);
        }
    }

    // --- edges by points, and points

    void anEdgePartedByAThrownVertex() {
        // A pin's rim stands over the plate's edge: its vertex thrown square onto that edge.
        Model model = withPart(modelOf(block(100, 60, 8), "plate"), "post", moved(block(4, 4, 30), [] {
                                   gp_Trsf move;
                                   move.SetTranslation(gp_Vec(37, 0, 8));
                                   return move;
                               }()));
        const EntityRef edge = edgeAt(*model.parts[0], gp_Pnt(50, 0, 8));
        const EntityRef vertex = vertexAt(*model.parts[1], gp_Pnt(37, 4, 38));
        const auto done =
            run(model, "divide.partEdge", {{"edges", {edge}}, {"by", {{{"of", vertex}}, {{"at", {60, 5, 5}}}}}});
        QVERIFY2(done, said(done));
        const Incidence& topology = done->model.parts[0]->incidence();
        std::vector<double> lengths;
        for (int e = 1; e <= topology.edgeCount(); ++e)
            if (const EntityRef here = makeRef(*done->model.parts[0], {EntityKind::Edge, e});
                std::abs(here.at.Y()) < 1e-9 && std::abs(here.at.Z() - 8) < 1e-9)
                lengths.push_back(here.measure);
        std::sort(lengths.begin(), lengths.end());
        QCOMPARE(lengths.size(), std::size_t(3));
        QCOMPARE_NEAR(lengths[0], 23.0, 1e-9);
        QCOMPARE_NEAR(lengths[1], 37.0, 1e-9);
        QCOMPARE_NEAR(lengths[2], 40.0, 1e-9);
        // A point beyond the edge falls on its end.
        QVERIFY(!run(model, "divide.partEdge", {{"edges", {edge}}, {"by", {{{"at", {-20, 0, 8}}}}}}));
    }
    void pointsAreKeptAndExported() {
        Model model = modelOf(cut(block(100, 60, 8), rod(standingAt(70, 30, -1), 5, 20)), "plate");
        const Part& part = *model.parts[0];
        const auto done = run(model, "divide.point",
                              {{"places",
                                {{{"of", edgeAt(part, gp_Pnt(65, 30, 8))}},
                                 {{"of", vertexAt(part, gp_Pnt(0, 0, 8))}},
                                 {{"at", {1, 2, 3}}}}},
                               {"name", "load"},
                               {"group", "loads"}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), std::size_t(4));
        const auto at = [](const Model& where, std::size_t p) {
            return makeRef(*where.parts[p], {EntityKind::Vertex, 1}).at;
        };
        QVERIFY(at(done->model, 1).Distance(gp_Pnt(70, 30, 8)) < 1e-9);
        QVERIFY(at(done->model, 2).Distance(gp_Pnt(0, 0, 8)) < 1e-9);
        QVERIFY(at(done->model, 3).Distance(gp_Pnt(1, 2, 3)) < 1e-9);
        QCOMPARE(done->model.groups.size(), std::size_t(1));
        QCOMPARE(done->model.groups[0].members.size(), std::size_t(3));
        // Thrown onto the top, the shortest way.
        const auto thrown = run(model, "divide.point",
                                {{"places", {{{"at", {20, 20, 30}}}}},
                                 {"onto", makeRef(part, {EntityKind::Face, faceAt(part, gp_Pnt(50, 30, 8))})}});
        QVERIFY2(thrown, said(thrown));
        QVERIFY(at(thrown->model, 1).Distance(gp_Pnt(20, 20, 8)) < 1e-9);
        // Written and read back as points, in STEP and in BREP.
        QTemporaryDir folder;
        for (const char* name : {"points.step", "points.brep"}) {
            const std::string path = folder.filePath(name).toStdString();
            const auto written = exchange::writeFile(done->model, path, {}, quietly());
            QVERIFY2(written, said(written));
            const auto back = exchange::readFile(path, {}, quietly());
            QVERIFY2(back, said(back));
            int found = 0;
            for (const Occurrence& place : back->occurrences) {
                const Incidence& topology = back->parts[place.part]->incidence();
                for (int b = 1; b <= topology.bodyCount(); ++b) found += topology.body(b).ShapeType() == TopAbs_VERTEX;
            }
            QCOMPARE(found, 3);
        }
        QVERIFY(!run(model, "divide.point", {{"places", Json::array()}}));
        QVERIFY(!run(model, "divide.point", {{"places", {{{"at", {1e12, 0, 0}}}}}}));
    }
    void bodiesBecomePartsOfTheirOwn() {
        Model model =
            modelOf(compoundOf({block(2, 2, 2), block(10, 10, 10), moved(block(3, 3, 3), by(20, 0, 0))}), "three");
        auto known = model.parts[0]->copy();
        known->material = "steel";
        known->known.names[{EntityKind::Body, 3}] = "lug";
        known->known.colours[{EntityKind::Face, 1}] = {1.0, 0.0, 0.0};
        model.parts[0] = known;
        model.occurrences.push_back({0, by(0, 0, 40), "three", {}, std::nullopt});
        model.giveIds();
        const PartId id = model.parts[0]->id;
        Group group{"all", "", std::nullopt, {}, std::nullopt};
        for (int body = 1; body <= 3; ++body) group.members.insert({id, everyPlace, {EntityKind::Body, body}});
        model.groups.push_back(group);
        const Work planned = Work(model, "three.step").withStep("divide.separate", Json::object());
        measure::FactsCache facts;
        const auto work = planned.replayed(facts, quietly());
        QVERIFY2(work, said(work));
        const Model& made = work->current();
        QCOMPARE(made.parts.size(), std::size_t(3));
        QCOMPARE(made.occurrences.size(), std::size_t(6));
        // The largest keeps name and number.
        QCOMPARE(made.parts[0]->name, std::string("three"));
        QCOMPARE(made.parts[0]->id, id);
        QCOMPARE_NEAR(volumeOf(made.parts[0]->shape), 1000.0, 1e-9);
        QCOMPARE(made.parts[1]->name, std::string("three, body 1"));
        QCOMPARE_NEAR(volumeOf(made.parts[1]->shape), 8.0, 1e-9);
        QCOMPARE(made.parts[2]->name, std::string("lug"));
        QCOMPARE(made.parts[2]->material, std::string("steel"));
        QCOMPARE(made.parts[1]->known.colours.size(), std::size_t(1));
        QVERIFY(made.parts[0]->known.colours.empty());
        // A group holds what it held.
        QCOMPARE(made.groups.size(), std::size_t(1));
        QCOMPARE(made.groups[0].members.size(), std::size_t(3));
        const auto again = run(made, "divide.separate");
        QVERIFY(!again);
        QCOMPARE(again.error().kind, ProblemKind::NothingToDo);
        QVERIFY(!run(model, "divide.separate", {{"parts", {"nobody"}}}));
    }
};

static Registered<BlocksTest> blocksTest;

}  // namespace rasoir::test

#include "blocks_test.moc"
