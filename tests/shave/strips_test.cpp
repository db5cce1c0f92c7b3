// Rounds and chamfers on bodies of known answer: found, removed, and the bare body is back.
#include "shave/strips.h"

#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepGProp.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <GProp_GProps.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "exchange/files.h"
#include "geometry/edge_probe.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/edges.h"
#include "support/run.h"
#include "survey/rounds.h"
#include "topology/edge_angle.h"

namespace rasoir::test {

class StripsTest : public QObject {
    Q_OBJECT

    static bool isRing(const TopoDS_Edge& edge) { return TopExp::FirstVertex(edge).IsSame(TopExp::LastVertex(edge)); }
    static TopoDS_Shape rounded(const TopoDS_Shape& body, const std::vector<TopoDS_Edge>& edges, double radius,
                                double radiusTo = 0.0) {
        BRepFilletAPI_MakeFillet made(body);
        for (const TopoDS_Edge& edge : edges)
            if (radiusTo > 0.0)
                made.Add(radius, radiusTo, edge);
            else
                made.Add(radius, edge);
        try {
            made.Build();
        } catch (const Standard_Failure&) {
            return {};
        }
        return made.IsDone() ? made.Shape() : TopoDS_Shape();
    }
    static TopoDS_Shape chamfered(const TopoDS_Shape& body, const std::vector<TopoDS_Edge>& edges, double width) {
        BRepFilletAPI_MakeChamfer made(body);
        for (const TopoDS_Edge& edge : edges) made.Add(width, edge);
        try {
            made.Build();
        } catch (const Standard_Failure&) {
            return {};
        }
        return made.IsDone() ? made.Shape() : TopoDS_Shape();
    }
    static TopoDS_Shape lShape() { return cut(block(60, 40, 30), moved(block(60, 40, 30), at(20, 0, 12))); }
    static gp_Trsf at(double x, double y, double z) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(x, y, z));
        return by;
    }
    static gp_Ax1 up(double x, double y, double z = 0) { return gp_Ax1(gp_Pnt(x, y, z), gp_Dir(0, 0, 1)); }

    struct Case {
        TopoDS_Shape bare, made;
        int chains = 1;
        double radius = 3.0;
        double upTo = 0.0;  // where not just above the radius
    };
    static Case rounds(int kind) {
        const auto all = [](const gp_Pnt&, const TopoDS_Edge&) { return true; };
        const TopoDS_Shape box = block(60, 40, 30);
        switch (kind) {
            case 0:
                return {box,
                        rounded(box,
                                edgesWhere(box,
                                           [](const gp_Pnt& p, const TopoDS_Edge&) {
                                               return std::abs(p.X()) < 1e-9 && std::abs(p.Z()) < 1e-9;
                                           }),
                                3),
                        1};
            case 1:
                return {box,
                        rounded(box,
                                edgesWhere(
                                    box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 15) < 1; }),
                                3),
                        4};  // four upright edges
            case 2:
                return {box, rounded(box, edgesWhere(box, all), 3), 1};  // spheres at the corners
            case 3:
                return {box,
                        rounded(box,
                                edgesWhere(box, [](const gp_Pnt& p,
                                                   const TopoDS_Edge&) { return std::abs(p.Z() - 30) < 1e-9; }),
                                3),
                        1};  // round the top, mitred corners
            case 4: {        // round the top of a block whose upright edges are round already
                const TopoDS_Shape base = rounded(
                    box, edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 15) < 1; }),
                    8);
                return {base,
                        rounded(base,
                                edgesWhere(base, [](const gp_Pnt& p,
                                                    const TopoDS_Edge&) { return std::abs(p.Z() - 30) < 1e-9; }),
                                3),
                        1};
            }
            case 5: {  // inner edge of an L
                const TopoDS_Shape base = lShape();
                return {base,
                        rounded(base,
                                edgesWhere(base,
                                           [](const gp_Pnt& p, const TopoDS_Edge&) {
                                               return std::abs(p.X() - 20) < 1e-9 && std::abs(p.Z() - 12) < 1e-9;
                                           }),
                                3),
                        1};
            }
            case 6: {  // foot of a boss, all round
                const TopoDS_Shape base = fuse(box, rod(up(30, 20, 20), 8, 25));
                return {base,
                        rounded(base,
                                edgesWhere(base,
                                           [](const gp_Pnt& p, const TopoDS_Edge& e) {
                                               return std::abs(p.Z() - 30) < 1e-9 && isRing(e);
                                           }),
                                3),
                        1};
            }
            case 7: {  // head of a pin
                const TopoDS_Shape base = rod(up(0, 0), 10, 30);
                return {base,
                        rounded(base,
                                edgesWhere(base,
                                           [](const gp_Pnt& p, const TopoDS_Edge& e) {
                                               return std::abs(p.Z() - 30) < 1e-9 && isRing(e);
                                           }),
                                3),
                        1};
            }
            case 8: {  // mouth of a hole
                const TopoDS_Shape base = cut(box, rod(up(30, 20, -1), 6, 40));
                return {base,
                        rounded(base,
                                edgesWhere(base,
                                           [](const gp_Pnt& p, const TopoDS_Edge& e) {
                                               return std::abs(p.Z() - 30) < 1e-9 && isRing(e);
                                           }),
                                3),
                        1};
            }
            case 9: {  // outer and inner edges of an L meeting at its ends
                const TopoDS_Shape base = lShape();
                return {base,
                        rounded(base,
                                edgesWhere(base, [](const gp_Pnt& p,
                                                    const TopoDS_Edge&) { return std::abs(p.Y() - 20) < 1e-9; }),
                                3),
                        6};
            }
            case 10: {  // foot of a boss on a cylinder: splines
                const TopoDS_Shape base =
                    fuse(rod(gp_Ax1(gp_Pnt(-30, 0, 0), gp_Dir(1, 0, 0)), 20, 60), rod(up(0, 0), 9, 40));
                return {base,
                        rounded(base,
                                edgesWhere(base,
                                           [](const gp_Pnt& p, const TopoDS_Edge&) {
                                               return p.Z() > 17 && p.Z() < 20.1 && std::hypot(p.X(), p.Y()) > 8.9 &&
                                                      std::hypot(p.X(), p.Y()) < 9.1;
                                           }),
                                3),
                        1};
            }
            case 11:
                return {box,
                        rounded(box,
                                edgesWhere(box,
                                           [](const gp_Pnt& p, const TopoDS_Edge&) {
                                               return std::abs(p.X()) < 1e-9 && std::abs(p.Z()) < 1e-9;
                                           }),
                                2, 5),
                        1, 5.0};  // variable
            case 12: {            // pocket: floor and uprights
                const TopoDS_Shape base = cut(box, moved(block(30, 20, 20), at(15, 10, 15)));
                return {base,
                        rounded(base,
                                edgesWhere(base,
                                           [](const gp_Pnt& p, const TopoDS_Edge&) {
                                               return p.X() > 10 && p.X() < 50 && p.Y() > 5 && p.Y() < 35 &&
                                                      p.Z() > 10 && p.Z() < 29;
                                           }),
                                3),
                        1};
            }
            case 14: {  // lower edge of a bar that ends at a cone: one side of the round is used up before the other
                const TopoDS_Shape base = fuse(coneOf(up(0, 0), 20, 10, 25), moved(block(12, 60, 12), at(-6, -30, 0)));
                return {base,
                        rounded(base,
                                edgesWhere(base,
                                           [](const gp_Pnt& p, const TopoDS_Edge&) {
                                               return std::abs(p.X() - 6) < 1e-9 && p.Y() > 20 && p.Y() < 29 &&
                                                      std::abs(p.Z()) < 1e-9;
                                           }),
                                2),
                        1, 2.0};
            }
            default: {  // three edges at a corner, three radii
                BRepFilletAPI_MakeFillet made(box);
                double radius = 3.0;
                for (const TopoDS_Edge& edge : edgesWhere(box, [](const gp_Pnt&p, const TopoDS_Edge&) {
                         return (p.X() < 1e-9) + (p.Y() < 1e-9) + (p.Z() < 1e-9) == 2;
                     })) {
                    made.Add(radius, edge);
                    radius += 1.0;
                }
                return {box, made.Shape(), 2, 4.0, 5.1};
            }
        }
    }

private slots:
    void roundsAreFoundAndRemoved_data() {
        QTest::addColumn<int>("kind");
        const char* names[] = {
            "one edge",           "four edges",     "all edges",     "round the top",   "round a rounded top",
            "inner edge",         "foot of a boss", "head of a pin", "mouth of a hole", "edges of an L",
            "boss on a cylinder", "variable",       "pocket",        "three radii",     "running out over a cone"};
        for (int kind = 0; kind < 15; ++kind) QTest::newRow(names[kind]) << kind;
    }
    void roundsAreFoundAndRemoved() {
        QFETCH(int, kind);
        const Case one = rounds(kind);
        QVERIFY(!one.made.IsNull());
        QVERIFY(std::abs(volumeOf(one.made) - volumeOf(one.bare)) > 1e-3);
        const Model model = modelOf(one.made);
        const auto chains = survey::findStrips(*model.parts[0], 4.0, quietly());
        QVERIFY2(chains, said(chains));
        std::size_t known = 0;
        if (kind == 4) known = 4;  // the upright ones, R 8
        if (qEnvironmentVariableIsSet("RASOIR_TELL"))
            for (const auto& chain : *chains)
                qInfo() << chain.size << survey::describe(chain).c_str() << chain.faces << chain.layer;
        QCOMPARE(chains->size(), static_cast<std::size_t>(one.chains) + known);
        QCOMPARE_NEAR(chains->front().size, one.radius, 2e-2 * one.radius);
        const auto done = run(model, "shave.removeRounds", {{"upTo", std::max(one.upTo, one.radius * 1.05)}});
        QVERIFY2(done, said(done));
        for (const Item& item : done->items) QVERIFY2(item.done, sentence(item.problem).c_str());
        const TopoDS_Shape& shape = done->model.parts[0]->shape;
        // What was told beforehand of the volume holds, roughly: patches are left out, lengths are those of the contact
        // lines.
        double gain = 0.0;
        for (const auto& chain : *chains)
            if (chain.size <= std::max(one.upTo, one.radius * 1.05)) gain += chain.gain;
        const double gained = volumeOf(one.bare) - volumeOf(one.made);
        QCOMPARE_NEAR(gain, gained, 0.35 * std::abs(gained));
        QVERIFY(isValid(shape));
        QCOMPARE(openEdgesIn(shape), 0);
        QCOMPARE_NEAR(volumeOf(shape), volumeOf(one.bare), 1e-6 * volumeOf(one.bare));
        QCOMPARE(facesIn(shape), facesIn(one.bare));
    }
    void sameAnswerMovedTurnedAndScaled_data() {
        QTest::addColumn<int>("kind");
        for (const int kind : {2, 4, 6, 10, 12}) QTest::newRow(qPrintable(QString::number(kind))) << kind;
    }
    void sameAnswerMovedTurnedAndScaled() {
        QFETCH(int, kind);
        const Case one = rounds(kind);
        const auto count = [](const TopoDS_Shape& shape) {
            const auto chains = survey::findStrips(*modelOf(shape).parts[0], 4.0, quietly());
            return chains ? chains->size() : 0;
        };
        const std::size_t found = count(one.made);
        for (const double scale : {1e-2, 1.0, 1e3}) {
            gp_Trsf turn;
            turn.SetRotation(gp_Ax1(gp_Pnt(3, 1, 2), gp_Dir(1, 2, -1)), 0.8);
            turn.SetTranslationPart(gp_Vec(30, -50, 11));
            const TopoDS_Shape shape = scaledBy(moved(one.made, turn), scale),
                               bare = scaledBy(moved(one.bare, turn), scale);
            QCOMPARE(count(shape), found);
            const auto done = run(modelOf(shape), "shave.removeRounds", {{"upTo", one.radius * 1.05 * scale}});
            QVERIFY2(done, said(done));
            const TopoDS_Shape& left = done->model.parts[0]->shape;
            QVERIFY(isValid(left));
            QCOMPARE_NEAR(volumeOf(left), volumeOf(bare), 1e-6 * volumeOf(bare));
        }
    }
    void splinesAreStillRounds_data() {
        QTest::addColumn<int>("kind");
        for (const int kind : {0, 1, 5, 12}) QTest::newRow(qPrintable(QString::number(kind))) << kind;
    }
    void splinesAreStillRounds() {  // a body whose every surface came as a spline: found all the same
        QFETCH(int, kind);
        const Case one = rounds(kind);
        const auto plain = survey::findStrips(*modelOf(one.made).parts[0], 4.0, quietly());
        const auto chains = survey::findStrips(*modelOf(asSplines(one.made)).parts[0], 4.0, quietly());
        QVERIFY(plain && chains);
        QCOMPARE(chains->size(), plain->size());
        for (std::size_t c = 0; c < chains->size(); ++c)
            QCOMPARE_NEAR((*chains)[c].size, (*plain)[c].size, 1e-3 * (*plain)[c].size);
    }
    void roundsBetweenSplinesGo_data() {
        QTest::addColumn<int>("kind");
        for (const int kind : {0, 1, 3, 5}) QTest::newRow(qPrintable(QString::number(kind))) << kind;
    }
    void roundsBetweenSplinesGo() {  // what they ran along ends where they began: it has to be carried on
        QFETCH(int, kind);
        const Case one = rounds(kind);
        const TopoDS_Shape made = asSplines(one.made);
        const auto done = run(modelOf(made), "shave.removeRounds", {{"upTo", std::max(one.upTo, one.radius * 1.05)}});
        QVERIFY2(done, said(done));
        for (const Item& item : done->items) QVERIFY2(item.done, sentence(item.problem).c_str());
        const TopoDS_Shape& shape = done->model.parts[0]->shape;
        QVERIFY(isValid(shape));
        QCOMPARE(openEdgesIn(shape), 0);
        QCOMPARE_NEAR(volumeOf(shape), volumeOf(one.bare), 1e-6 * volumeOf(one.bare));
        QCOMPARE(facesIn(shape), facesIn(one.bare));
    }
    void ofSeveralWaysToCloseTheSoundOneIsTaken() {
        // The round ends half on its own body's end, half against a neighbour with a slanted side: which side the new
        // edge meets that one on cannot be told from distances alone.
        const TopoDS_Shape bar = block(40, 20, 20);
        const TopoDS_Shape soft = rounded(
            bar,
            edgesWhere(bar, [](const gp_Pnt& p,
                               const TopoDS_Edge&) { return std::abs(p.X()) < 1e-9 && std::abs(p.Z() - 20) < 1e-9; }),
            5);
        for (const double lean : {2.0, -3.0}) {
            BRepBuilderAPI_MakePolygon outline;
            for (const auto& [x, z] : {std::pair{2.0 - 0.7 * lean, 5.0}, {20.0, 5.0}, {20.0, 30.0}, {2.0 + lean, 30.0}})
                outline.Add(gp_Pnt(x, 0, z));
            outline.Close();
            const TopoDS_Shape neighbour =
                BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(outline.Wire()).Face(), gp_Vec(0, -10, 0)).Shape();
            const TopoDS_Shape made = fuse(soft, neighbour), bare = fuse(bar, neighbour);
            const auto done = run(modelOf(made), "shave.removeRounds", {{"upTo", 6}});
            QVERIFY2(done, said(done));
            const TopoDS_Shape& shape = done->model.parts[0]->shape;
            QVERIFY(isValid(shape));
            QCOMPARE(openEdgesIn(shape), 0);
            QCOMPARE_NEAR(volumeOf(shape), volumeOf(bare), 1e-9 * volumeOf(bare));
        }
    }
    void whatRestsOnARoundIsNamedAndTakenAlong() {
        // An upright edge rounded with 6, the rim of the top with 2 after it: the rim's round runs over the upright one
        // and rests on it.
        const TopoDS_Shape box = block(60, 40, 30);
        const TopoDS_Shape upright =
            rounded(box,
                    edgesWhere(box,
                               [](const gp_Pnt& p, const TopoDS_Edge&) {
                                   return p.X() < 1e-9 && p.Y() < 1e-9 && std::abs(p.Z() - 15) < 1;
                               }),
                    6);
        const TopoDS_Shape made = rounded(
            upright,
            edgesWhere(upright, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 30) < 1e-9; }), 2);
        QVERIFY(!made.IsNull());
        const Model model = modelOf(made);
        const auto chains = survey::findStrips(*model.parts[0], 4.0, quietly());
        QVERIFY(chains);
        const auto big = std::find_if(chains->begin(), chains->end(),
                                      [](const auto& chain) { return std::abs(chain.size - 6) < 1e-6; });
        const auto small = std::find_if(chains->begin(), chains->end(),
                                        [](const auto& chain) { return std::abs(chain.size - 2) < 1e-6; });
        QVERIFY(big != chains->end() && small != chains->end());
        QVERIFY(big->layer > small->layer);
        const Json chosen = Json::array({makeFaceRef(*model.parts[0], big->faces.front())});
        const auto alone = run(model, "shave.removeRounds", {{"upTo", 0}, {"chosen", chosen}});
        QVERIFY(!alone);
        QCOMPARE(alone.error().lacking, small->faces);
        QVERIFY2(alone.error().remedy.find("R 2 mm round") != std::string::npos, alone.error().remedy.c_str());
        const auto along = run(model, "shave.removeRounds", {{"upTo", 0}, {"chosen", chosen}, {"along", true}});
        QVERIFY2(along, said(along));
        QCOMPARE(along->items.size(), std::size_t(2));
        QVERIFY(along->items[1].what.find("taken along") != std::string::npos);
        QCOMPARE_NEAR(volumeOf(along->model.parts[0]->shape), 72000.0, 1e-4);
        // Picked as faces the same: refused with what is lacking, done when it may go too.
        const auto faces = run(model, "shave.removeFaces", {{"faces", chosen}, {"along", true}});
        QVERIFY2(faces, said(faces));
        QCOMPARE_NEAR(volumeOf(faces->model.parts[0]->shape), 72000.0, 1e-4);
    }
    void theNextWayToCloseAWoundCanBeAskedFor() {
        const Case one = rounds(1);
        const Model model = modelOf(one.made);
        const auto chains = survey::findStrips(*model.parts[0], 4.0, quietly());
        const Json faces = Json::array({makeFaceRef(*model.parts[0], chains->front().faces.front())});
        const auto nearest = run(model, "shave.removeFaces", {{"faces", faces}});
        QVERIFY2(nearest, said(nearest));
        // A plain round has one way only: there is no next one, and that is said.
        const auto next = run(model, "shave.removeFaces", {{"faces", faces}, {"closing", 1}});
        QVERIFY(!next);
        QCOMPARE(QString::fromStdString(next.error().what).contains("no further way"), true);
        QVERIFY(!run(model, "shave.removeFaces", {{"faces", faces}, {"closing", -1}}));
    }
    void theTriangleBetweenTwoChamfersGoesWithThem() {
        // A pocket: chamfers on one of its upper edges and on an upright one beside it leave a triangle where they
        // meet.
        const TopoDS_Shape bare = cut(block(60, 40, 30), moved(block(30, 20, 20), at(15, 10, 15)));
        BRepFilletAPI_MakeChamfer maker(bare);
        for (const TopoDS_Edge& edge : edgesWhere(bare, [](const gp_Pnt&p, const TopoDS_Edge&) {
                 return p.Distance(gp_Pnt(15, 20, 30)) < 1e-6 || p.Distance(gp_Pnt(15, 10, 22.5)) < 1e-6;
             }))
            maker.Add(2.0, edge);
        const TopoDS_Shape made = maker.Shape();
        QCOMPARE(facesIn(made), facesIn(bare) + 3);
        const Model model = modelOf(made);
        const auto found = survey::findStrips(*model.parts[0], 4.0, quietly());
        QVERIFY2(found, said(found));
        QCOMPARE(found->size(), std::size_t(1));
        QCOMPARE(found->front().faces.size(), std::size_t(3));
        const auto done = run(model, "shave.removeChamfers", {{"upTo", 3.0}});
        QVERIFY2(done, said(done));
        QVERIFY(isValid(done->model.parts[0]->shape));
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), volumeOf(bare), 1e-6 * volumeOf(bare));
        QCOMPARE(facesIn(done->model.parts[0]->shape), facesIn(bare));
    }
    void aNeckClosesAsADomeOrAsABall_data() {
        QTest::addColumn<bool>("groove");
        QTest::addColumn<double>("seam");
        QTest::newRow("chamfer, seams in line") << false << 0.0;
        QTest::newRow("chamfer, seams apart") << false << 2.0;
        QTest::newRow("groove, seams in line") << true << 0.0;
        QTest::newRow("groove, seams apart") << true << -1.0;
    }
    /// A pin meets the ball on its end in two circles. Either is a sound end of it; the nearer one comes first, the
    /// other is "closing" 1.
    void aNeckClosesAsADomeOrAsABall() {
        QFETCH(bool, groove);
        QFETCH(double, seam);
        const NeckedPin pin = neckedPin(groove, seam);
        const Model model = modelOf(pin.made);
        const Part& part = *model.parts[0];
        Json faces = Json::array();
        for (int f = 1; f <= part.incidence().faceCount(); ++f) {
            bool within = true;
            for (const int e : part.incidence().edgesOf(f))
                for (const double t : {0.0, 0.3}) {
                    double first = 0, last = 0;
                    const Handle(Geom_Curve) curve = BRep_Tool::Curve(part.incidence().edge(e), first, last);
                    const double z = curve->Value(first + t * (last - first)).Z();
                    within = within && z > 2.9 && z < 6.1;
                }
            if (within) faces.push_back(makeFaceRef(part, f));
        }
        QCOMPARE(faces.size(), std::size_t(groove ? 3 : 1));
        for (const auto& [closing, wanted] : {std::pair{0, pin.domed}, {1, pin.knob}}) {
            const auto done = run(model, "shave.removeFaces", {{"faces", faces}, {"closing", closing}});
            QVERIFY2(done, said(done));
            const TopoDS_Shape& shape = done->model.parts[0]->shape;
            QVERIFY(isValid(shape));
            QCOMPARE(openEdgesIn(shape), 0);
            QCOMPARE_NEAR(volumeOf(shape), volumeOf(wanted), 1e-6 * volumeOf(wanted));
            QCOMPARE(facesIn(shape), 3);
        }
        const auto third = run(model, "shave.removeFaces", {{"faces", faces}, {"closing", 2}});
        QVERIFY(!third);
        QVERIFY2(third.error().what.find("no further way") != std::string::npos, third.error().what.c_str());
    }
    void chamfersAreFoundAndRemoved_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("one edge") << 0;
        QTest::newRow("four upright edges") << 1;
        QTest::newRow("head of a pin") << 2;
        QTest::newRow("mouth of a hole") << 3;
        QTest::newRow("round the top") << 4;
    }
    void chamfersAreFoundAndRemoved() {
        QFETCH(int, kind);
        const TopoDS_Shape box = block(60, 40, 30);
        TopoDS_Shape bare = box, made;
        std::size_t chains = 1;
        switch (kind) {
            case 0:
                made = chamfered(box,
                                 edgesWhere(box,
                                            [](const gp_Pnt& p, const TopoDS_Edge&) {
                                                return std::abs(p.X()) < 1e-9 && std::abs(p.Z()) < 1e-9;
                                            }),
                                 2);
                break;
            case 1:
                made = chamfered(
                    box, edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 15) < 1; }),
                    2);
                chains = 4;
                break;
            case 2:
                bare = rod(up(0, 0), 10, 30);
                made = chamfered(
                    bare,
                    edgesWhere(bare, [](const gp_Pnt& p,
                                        const TopoDS_Edge& e) { return std::abs(p.Z() - 30) < 1e-9 && isRing(e); }),
                    2);
                break;
            case 3:
                bare = cut(box, rod(up(30, 20, -1), 6, 40));
                made = chamfered(
                    bare,
                    edgesWhere(bare, [](const gp_Pnt& p,
                                        const TopoDS_Edge& e) { return std::abs(p.Z() - 30) < 1e-9 && isRing(e); }),
                    2);
                break;
            default:
                made = chamfered(
                    box,
                    edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 30) < 1e-9; }),
                    2);
                break;
        }
        QVERIFY(!made.IsNull());
        const Model model = modelOf(made);
        const auto found = survey::findStrips(*model.parts[0], 4.0, quietly());
        QVERIFY2(found, said(found));
        QCOMPARE(found->size(), chains);
        QVERIFY(found->front().kind == survey::StripKind::Chamfer);
        QCOMPARE_NEAR(found->front().size, 2.0 * std::sqrt(2.0), 1e-6);
        const auto done = run(model, "shave.removeChamfers", {{"upTo", 3.0}});
        QVERIFY2(done, said(done));
        const TopoDS_Shape& shape = done->model.parts[0]->shape;
        QVERIFY(isValid(shape));
        QCOMPARE_NEAR(volumeOf(shape), volumeOf(bare), 1e-6 * volumeOf(bare));
        QCOMPARE(facesIn(shape), facesIn(bare));
    }
    void chamfersThatCameAsSplinesAreFoundAndRemoved() {
        const TopoDS_Shape box = block(60, 40, 30);
        const TopoDS_Shape upright = chamfered(
            box, edgesWhere(box, [](const gp_Pnt& p, const TopoDS_Edge&) { return std::abs(p.Z() - 15) < 1; }), 2);
        const TopoDS_Shape pin = rod(up(0, 0), 10, 30),
                           headed = chamfered(pin,
                                              edgesWhere(pin,
                                                         [](const gp_Pnt&p, const TopoDS_Edge&e) {
                                                             return std::abs(p.Z() - 30) < 1e-9 && isRing(e);
                                                         }),
                                              2);
        for (const auto& [made, bare, count] :
             {std::tuple{upright, box, std::size_t(4)}, {headed, pin, std::size_t(1)}}) {
            const Model model = modelOf(asSplines(made));
            const auto found = survey::findStrips(*model.parts[0], 4.0, quietly());
            QVERIFY2(found, said(found));
            QCOMPARE(found->size(), count);
            for (const auto& chain : *found) {
                QVERIFY(chain.kind == survey::StripKind::Chamfer);
                QCOMPARE_NEAR(chain.size, 2.0 * std::sqrt(2.0), 1e-3);
            }
            const auto done = run(model, "shave.removeChamfers", {{"upTo", 3.0}});
            QVERIFY2(done, said(done));
            QVERIFY(isValid(done->model.parts[0]->shape));
            GProp_GProps exactly;  // between splines the kernel's plain quadrature is off by up to a hundredth
            BRepGProp::VolumeProperties(done->model.parts[0]->shape, exactly, 1e-8);
            QCOMPARE_NEAR(exactly.Mass(), volumeOf(bare), 1e-5 * volumeOf(bare));
            QCOMPARE(facesIn(done->model.parts[0]->shape), facesIn(bare));
        }
    }
    void aChamferAlongAFreeformEdgeIsFoundAndRemoved() {
        const TopoDS_Shape bare = splineTopped(60, 40, 20, 1.0);
        const TopoDS_Shape made = chamfered(
            bare,
            edgesWhere(bare, [](const gp_Pnt& p, const TopoDS_Edge&) { return p.Z() > 15 && std::abs(p.Y()) < 1e-6; }),
            1.5);
        QVERIFY(!made.IsNull() && isValid(made));
        const Model model = modelOf(made);
        const auto found = survey::findStrips(*model.parts[0], 4.0, quietly());
        QVERIFY2(found, said(found));
        QCOMPARE(found->size(), std::size_t(1));
        QVERIFY(found->front().kind == survey::StripKind::Chamfer);
        const auto done = run(model, "shave.removeChamfers", {{"upTo", 4.0}});
        QVERIFY2(done, said(done));
        QVERIFY(isValid(done->model.parts[0]->shape));
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), volumeOf(bare), 1e-5 * volumeOf(bare));
        QCOMPARE(facesIn(done->model.parts[0]->shape), facesIn(bare));
    }
    void whatIsNoRoundIsNotCalledOne() {
        // Holes, pins, the ends of slots, a full tube, and a bent sheet.
        const TopoDS_Shape box = block(60, 40, 30);
        const TopoDS_Shape slot = cut(box, fuse(fuse(rod(up(20, 20, -1), 5, 40), rod(up(40, 20, -1), 5, 40)),
                                                moved(block(20, 10, 40), at(20, 15, -1))));
        for (const TopoDS_Shape& body : {cut(box, rod(up(30, 20, -1), 6, 40)), fuse(box, rod(up(30, 20, 20), 8, 25)),
                                         slot, rod(up(0, 0), 10, 30)}) {
            const auto found = survey::findStrips(*modelOf(body).parts[0], 4.0, quietly());
            QVERIFY(found);
            QVERIFY2(found->empty(), found->empty() ? "" : survey::describe(found->front()).c_str());
        }
        TopoDS_Shape sheet = cut(block(40, 20, 40), moved(block(40, 20, 40), at(2, 0, 2)));
        sheet = rounded(sheet,
                        edgesWhere(sheet,
                                   [](const gp_Pnt& p, const TopoDS_Edge&) {
                                       return std::abs(p.X() - 2) < 1e-9 && std::abs(p.Z() - 2) < 1e-9;
                                   }),
                        3);
        sheet = rounded(
            sheet,
            edgesWhere(sheet, [](const gp_Pnt& p,
                                 const TopoDS_Edge&) { return std::abs(p.X()) < 1e-9 && std::abs(p.Z()) < 1e-9; }),
            5);
        const auto bends = survey::findStrips(*modelOf(sheet).parts[0], 4.0, quietly());
        QVERIFY(bends);
        QCOMPARE(bends->size(), std::size_t(2));
        for (const auto& chain : *bends) QVERIFY(chain.bend);
        QVERIFY(!run(modelOf(sheet), "shave.removeRounds", {{"upTo", 10}}));  // only when asked for
        const auto flat = run(modelOf(sheet), "shave.removeRounds", {{"upTo", 10}, {"bends", true}});
        QVERIFY2(flat, said(flat));
        QCOMPARE_NEAR(volumeOf(flat->model.parts[0]->shape), 20.0 * (40 * 2 + 38 * 2), 1e-6);
    }
    void rulesAndChoices() {
        const Case one = rounds(1);
        const Model model = modelOf(one.made);
        const auto chains = survey::findStrips(*model.parts[0], 4.0, quietly());
        const FaceRef first = makeFaceRef(*model.parts[0], chains->front().faces.front());
        const auto three = run(model, "shave.removeRounds", {{"upTo", 5}, {"kept", Json::array({first})}});
        QVERIFY2(three, said(three));
        QCOMPARE(facesIn(three->model.parts[0]->shape), 7);
        const auto single = run(model, "shave.removeRounds", {{"upTo", 0}, {"chosen", Json::array({first})}});
        QVERIFY2(single, said(single));
        QCOMPARE(facesIn(single->model.parts[0]->shape), 9);
        QVERIFY(!run(model, "shave.removeRounds", {{"upTo", 5}, {"sides", {"inner"}}}));
        QVERIFY(!run(model, "shave.removeRounds", {{"upTo", 5}, {"from", 4}}));
        QVERIFY(!run(model, "shave.removeRounds", {{"upTo", -1}}));
        QVERIFY(!run(model, "shave.removeRounds", {{"upTo", 5}, {"sides", {"upper"}}}));
        QVERIFY(!run(modelOf(one.bare), "shave.removeRounds", {{"upTo", 5}}));
    }
    void pickedFacesGo() {
        const TopoDS_Shape box = block(60, 40, 30);
        const auto faces = [](const Model& model, auto rule) {
            Json list = Json::array();
            const Incidence& topology = model.parts[0]->incidence();
            for (int f = 1; f <= topology.faceCount(); ++f) {
                GProp_GProps props;
                BRepGProp::SurfaceProperties(topology.face(f), props);
                if (rule(props.CentreOfMass())) list.push_back(makeFaceRef(*model.parts[0], f));
            }
            return list;
        };
        struct Pick {
            TopoDS_Shape body;
            std::function<bool(const gp_Pnt&)> rule;
            double volume;
        };
        const TopoDS_Shape boss = fuse(box, moved(block(10, 10, 10), at(20, 15, 30)));
        const TopoDS_Shape pocket = cut(box, moved(block(20, 10, 12), at(10, 10, 20)));
        const TopoDS_Shape notch = cut(box, moved(block(20, 10, 12), at(50, 35, 22)));
        const TopoDS_Shape step = cut(box, moved(block(60, 60, 30), at(40, -1, 22)));
        for (const Pick& one :
             {Pick{boss, [](const gp_Pnt& p) { return p.Z() > 30.1; }, 72000.0},
              {pocket,
               [](const gp_Pnt& p) {
                   return p.Z() > 19 && p.X() > 9 && p.X() < 31 && p.Y() > 9 && p.Y() < 21 && p.Z() < 29;
               },
               72000.0},
              {notch,
               [](const gp_Pnt& p) {
                   return p.X() > 49 && p.Y() > 34 && p.Z() > 21 && p.X() < 59.9 && p.Y() < 39.9 && p.Z() < 29.9;
               },
               72000.0},
              {step, [](const gp_Pnt& p) { return std::abs(p.X() - 40) < 1e-6 || std::abs(p.Z() - 22) < 1e-6; },
               72000.0}}) {
            const Model model = modelOf(one.body);
            const Json list = faces(model, one.rule);
            QVERIFY(!list.empty());
            const auto done = run(model, "shave.removeFaces", {{"faces", list}});
            QVERIFY2(done, said(done));
            QVERIFY(isValid(done->model.parts[0]->shape));
            QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), one.volume, 1e-6 * one.volume);
            QCOMPARE(facesIn(done->model.parts[0]->shape), 6);
        }
        // One strip of a chain goes alone where those beside it run on to the end, as if its edge had never been
        // rounded.
        const Case mitred = rounds(3);
        const Model around = modelOf(mitred.made);
        for (int f = 1; f <= facesIn(mitred.made); ++f) {
            GProp_GProps props;
            BRepGProp::SurfaceProperties(around.parts[0]->incidence().face(f), props);
            const gp_Pnt centre = props.CentreOfMass();
            if (centre.Z() < 28 || centre.Z() > 29.99 || centre.Y() > 5) continue;
            const TopoDS_Shape bare =
                rounded(box,
                        edgesWhere(box, [](const gp_Pnt& p,
                                           const TopoDS_Edge&) { return std::abs(p.Z() - 30) < 1e-9 && p.Y() > 1e-9; }),
                        3);
            const auto alone =
                run(around, "shave.removeFaces", {{"faces", Json::array({makeFaceRef(*around.parts[0], f)})}});
            QVERIFY2(alone, said(alone));
            QVERIFY(isValid(alone->model.parts[0]->shape));
            QCOMPARE_NEAR(volumeOf(alone->model.parts[0]->shape), volumeOf(bare), 1e-6 * volumeOf(bare));
            QCOMPARE(facesIn(alone->model.parts[0]->shape), facesIn(bare));
        }
        // Where they do not, one face of a chain takes the chain along.
        const Case chain = rounds(2);
        const Model model = modelOf(chain.made);
        const auto found = survey::findStrips(*model.parts[0], 4.0, quietly());
        const auto whole = run(model, "shave.removeFaces",
                               {{"faces", Json::array({makeFaceRef(*model.parts[0], found->front().faces.front())})}});
        QVERIFY2(whole, said(whole));
        QCOMPARE_NEAR(volumeOf(whole->model.parts[0]->shape), 72000.0, 1e-4);
        // A whole side of the block cannot go: nothing is left of it to close with. The model is as it was.
        const Model plain = modelOf(box);
        QVERIFY(
            !run(plain, "shave.removeFaces", {{"faces", faces(plain, [](const gp_Pnt& p) { return p.Z() > 29.9; })}}));
        QVERIFY(!run(plain, "shave.removeFaces", {{"faces", Json::array()}}));
    }
    void theArmsRoundsAndChamfersAreFound() {
        auto model = exchange::readFile(demoFile("hanger-arm.step"), {}, quietly());
        QVERIFY2(model, said(model));
        model->targetSize = 4.0;
        const auto found = survey::findStrips(*model->parts[0], 4.0, quietly());
        QVERIFY(found);
        std::map<double, int> radii;
        int chamfers = 0;
        for (const auto& chain : *found)
            if (chain.kind == survey::StripKind::Round)
                ++radii[std::round(chain.size * 1000) / 1000];
            else
                ++chamfers;
        // As made: the pocket's floors 4 and uprights 8, flange rim 3 and uprights 15, neck 10, one rim of a hole 1.5.
        const std::map<double, int> wanted{{1.5, 1}, {3, 1}, {4, 2}, {8, 8}, {10, 1}, {15, 4}};
        QVERIFY2(radii == wanted, qPrintable(QString::number(radii.size())));
        QVERIFY(chamfers >= 4);
        const auto done = run(*model, "shave.removeRounds", {{"upTo", 20}});
        QVERIFY2(done, said(done));
        int fictitious = 0;
        for (const Item& item : done->items) {
            QVERIFY2(item.done, sentence(item.problem).c_str());
            fictitious += item.what.find("fictitious") != std::string::npos;
        }
        QCOMPARE(fictitious, 2 + 8 + 1);  // floors and uprights of the pockets, the neck's foot
        QVERIFY(isValid(done->model.parts[0]->shape));
        const auto again = survey::findStrips(*done->model.parts[0], 4.0, quietly());
        QVERIFY(again);
        QVERIFY(std::none_of(again->begin(), again->end(),
                             [](const auto& chain) { return chain.kind == survey::StripKind::Round; }));
    }
};

static Registered<StripsTest> stripsTest;

}  // namespace rasoir::test

#include "strips_test.moc"
