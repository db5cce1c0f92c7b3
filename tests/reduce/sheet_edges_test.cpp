// Sheets by hand: edges carried on and cut back, thickness, walls named by their faces. Areas tell.
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>

#include "geometry/integrals.h"
#include "measure/facts.h"
#include "mend/merge.h"
#include "model/reference.h"
#include "model/work.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class SheetEdgesTest : public QObject {
    Q_OBJECT

    static gp_Trsf turned() {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(7, 3, 1), gp_Dir(1, 2, 3)), 0.6);
        return turn;
    }
    /// A sheet in the plane z = 0 from (0, 0) to (50, 30), moved.
    static TopoDS_Shape flat(const gp_Trsf& move = gp_Trsf()) {
        return moved(BRepBuilderAPI_MakeFace(gp_Pln(gp::XOY()), 0.0, 50.0, 0.0, 30.0).Face(), move);
    }
    static Model sheets(const std::vector<std::pair<std::string, TopoDS_Shape>>& bodies) {
        Model model;
        for (const auto& [name, shape] : bodies) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        model.giveIds();
        return model;
    }
    /// References to the faces whose middle a test likes.
    static Json facesWhere(const Part& part, const std::function<bool(const gp_Pnt&)>& likes) {
        Json refs = Json::array();
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (likes(part.incidence().skin(f).centre)) refs.push_back(makeFaceRef(part, f));
        return refs;
    }
    static gp_Trsf by(double x, double y, double z) {
        gp_Trsf move;
        move.SetTranslation(gp_Vec(x, y, z));
        return move;
    }
    /// The edge of a part whose middle lies at a point.
    static EntityRef edgeAt(const Part& part, const gp_Pnt& point) {
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) {
            EntityRef ref = makeRef(part, {EntityKind::Edge, e});
            if (ref.at.Distance(point) < 1e-6) return ref;
        }
        throw std::logic_error("no edge there");
    }
    static Json planeAt(const gp_Pnt& through, const gp_Dir& normal) {
        return {{"through", {through.X(), through.Y(), through.Z()}}, {"normal", {normal.X(), normal.Y(), normal.Z()}}};
    }

private slots:
    void edgesGrowByALength() {
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const Model model = sheets({{"sheet", flat(move)}});
            const Part& part = *model.parts[0];
            const EntityRef right = edgeAt(part, gp_Pnt(50, 15, 0).Transformed(move)),
                            top = edgeAt(part, gp_Pnt(25, 30, 0).Transformed(move));
            const auto one = run(model, "reduce.carryOn", {{"edges", {right}}, {"by", 7.0}});
            QVERIFY2(one, said(one));
            QCOMPARE_NEAR(areaOf(one->model.parts[0]->shape), 57.0 * 30.0, 1e-6);
            QCOMPARE(facesIn(one->model.parts[0]->shape), 1);
            // No vertex is left where it began to grow.
            QCOMPARE(one->model.parts[0]->incidence().edgeCount(), 4);
            // Two edges of one corner fill it.
            const auto both = run(model, "reduce.carryOn", {{"edges", {right, top}}, {"by", 7.0}});
            QVERIFY2(both, said(both));
            QCOMPARE_NEAR(areaOf(both->model.parts[0]->shape), 57.0 * 37.0, 1e-6);
            QCOMPARE(facesIn(both->model.parts[0]->shape), 1);
            QCOMPARE(both->model.parts[0]->incidence().edgeCount(), 4);
            QVERIFY(isValid(both->model.parts[0]->shape));
        }
    }
    void edgesGrowToAPlane() {
        // Leaning by 45 degrees in the sheet: from (60, 0) to (90, 30); the corner fills up to there.
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const Model model = sheets({{"sheet", flat(move)}});
            const EntityRef right = edgeAt(*model.parts[0], gp_Pnt(50, 15, 0).Transformed(move));
            const Json plane = planeAt(gp_Pnt(60, 0, 0).Transformed(move), gp_Dir(1, -1, 0).Transformed(move));
            const auto done = run(model, "reduce.carryOn", {{"edges", {right}}, {"plane", plane}});
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 50.0 * 30.0 + 30.0 * (10.0 + 40.0) / 2.0, 1e-6);
            QCOMPARE(facesIn(done->model.parts[0]->shape), 1);
        }
    }
    void edgesGrowToASheetAndToASolid() {
        gp_Trsf beside;
        beside.SetTranslation(gp_Vec(65, -10, -20));
        for (const bool solid : {false, true}) {
            const TopoDS_Shape wall =
                solid ? block(10, 60, 40)
                      : TopoDS_Shape(BRepBuilderAPI_MakeFace(gp_Pln(gp::YOZ()), 0.0, 60.0, 0.0, 40.0).Face());
            const Model model = sheets({{"sheet", flat()}, {"wall", moved(wall, beside)}});
            const EntityRef right = edgeAt(*model.parts[0], gp_Pnt(50, 15, 0));
            const auto done = run(model, "reduce.carryOn", {{"edges", {right}}, {"to", {"wall"}}});
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 65.0 * 30.0, 1e-6);
            QCOMPARE_NEAR(areaOf(done->model.parts[1]->shape), areaOf(wall), 1e-9);
        }
    }
    void roundSheetsGrowAlongAndAbout() {
        const gp_Cylinder cylinder(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 20.0);
        const Model model = sheets({{"shell", BRepBuilderAPI_MakeFace(cylinder, 0.0, M_PI / 2, 0.0, 30.0).Face()}});
        const Part& part = *model.parts[0];
        const double middle = 20.0 * std::sqrt(0.5);
        const auto along =
            run(model, "reduce.carryOn", {{"edges", {edgeAt(part, gp_Pnt(middle, middle, 30))}}, {"by", 5.0}});
        QVERIFY2(along, said(along));
        QCOMPARE_NEAR(areaOf(along->model.parts[0]->shape), 10.0 * M_PI * 35.0, 1e-6);
        const auto about = run(model, "reduce.carryOn", {{"edges", {edgeAt(part, gp_Pnt(0, 20, 15))}}, {"by", 4.0}});
        QVERIFY2(about, said(about));
        QCOMPARE_NEAR(areaOf(about->model.parts[0]->shape), (10.0 * M_PI + 4.0) * 30.0, 1e-6);
    }
    void whatSticksOutIsCutBack() {
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const Model model = sheets({{"sheet", flat(move)}});
            const EntityRef right = edgeAt(*model.parts[0], gp_Pnt(50, 15, 0).Transformed(move)),
                            left = edgeAt(*model.parts[0], gp_Pnt(0, 15, 0).Transformed(move)),
                            top = edgeAt(*model.parts[0], gp_Pnt(25, 30, 0).Transformed(move));
            const Json plane = planeAt(gp_Pnt(40, 0, 0).Transformed(move), gp_Dir(1, 0, 0).Transformed(move));
            const auto done = run(model, "reduce.cutBack", {{"edges", {right}}, {"plane", plane}});
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 40.0 * 30.0, 1e-6);
            QCOMPARE(done->model.parts[0]->incidence().edgeCount(), 4);
            const auto other = run(model, "reduce.cutBack", {{"edges", {left}}, {"plane", plane}});
            QVERIFY2(other, said(other));
            QCOMPARE_NEAR(areaOf(other->model.parts[0]->shape), 10.0 * 30.0, 1e-6);
            const auto crossed = run(model, "reduce.cutBack", {{"edges", {top}}, {"plane", plane}});
            QVERIFY(!crossed);
            QVERIFY(crossed.error().what.find("crosses edge") != std::string::npos);
        }
    }
    void aPlaneMeetsTheFacesThatAreMeantAlone() {
        // Two faces in an L: the floor ends at x = 50, and the wall beside it crosses the planes too.
        gp_Trsf up;
        up.SetTransformation(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, -1, 0), gp_Dir(1, 0, 0)), gp_Ax3());
        BRepBuilderAPI_Sewing sewing(1e-6);
        sewing.Add(flat());
        sewing.Add(flat(up.Inverted()));
        sewing.Perform();
        const Model model = sheets({{"sheet", sewing.SewedShape()}});
        QCOMPARE(facesIn(model.parts[0]->shape), 2);
        const EntityRef right = edgeAt(*model.parts[0], gp_Pnt(50, 15, 0));
        const auto back =
            run(model, "reduce.cutBack", {{"edges", {right}}, {"plane", planeAt(gp_Pnt(40, 0, 0), gp_Dir(1, 0, 0))}});
        QVERIFY2(back, said(back));
        QCOMPARE(facesIn(back->model.parts[0]->shape), 2);
        QCOMPARE_NEAR(areaOf(back->model.parts[0]->shape), 2700.0, 1e-6);
        const auto on =
            run(model, "reduce.carryOn", {{"edges", {right}}, {"plane", planeAt(gp_Pnt(55, 0, 0), gp_Dir(1, 0, 0))}});
        QVERIFY2(on, said(on));
        QCOMPARE(facesIn(on->model.parts[0]->shape), 2);
        QCOMPARE_NEAR(areaOf(on->model.parts[0]->shape), 3150.0, 1e-6);
    }
    void whatCannotBeIsRefused() {
        const Model model = sheets({{"sheet", flat()}, {"block", block(5, 5, 5)}});
        const EntityRef right = edgeAt(*model.parts[0], gp_Pnt(50, 15, 0));
        const EntityRef onBlock = makeRef(*model.parts[1], {EntityKind::Edge, 1});
        const Json away = planeAt(gp_Pnt(-10, 0, 0), gp_Dir(1, 0, 0));
        for (const Json& bad :
             {Json{{"edges", Json::array()}, {"by", 5.0}}, Json{{"edges", {right}}},
              Json{{"edges", {right}}, {"by", -5.0}}, Json{{"edges", {right}}, {"by", 5.0}, {"plane", away}},
              Json{{"edges", {onBlock}}, {"by", 5.0}}, Json{{"edges", {right}}, {"plane", away}},
              Json{{"edges", {right}}, {"to", {"block"}}}, Json{{"edges", {right}}, {"to", {"nobody"}}}}) {
            const auto done = run(model, "reduce.carryOn", bad);
            QVERIFY2(!done, bad.dump().c_str());
            QVERIFY(!done.error().what.empty());
        }
        const auto whole = run(model, "reduce.cutBack", {{"edges", {right}}, {"plane", away}});
        QVERIFY(!whole);
    }
    void thicknessIsSet() {
        const Model model = sheets({{"sheet", flat()}, {"block", block(5, 5, 5)}});
        const FaceRef face = makeFaceRef(*model.parts[0], 1);
        const auto known = [](const Model& of) { return of.parts[0]->known.thickness.at({EntityKind::Face, 1}); };
        const auto done = run(model, "reduce.thickness", {{"faces", {face}}, {"thickness", 3.0}});
        QVERIFY2(done, said(done));
        QCOMPARE(known(done->model).at, 3.0);
        QCOMPARE(known(done->model).offset, 0.0);
        const auto above = run(done->model, "reduce.thickness", {{"parts", {"sheet"}}, {"position", "above"}});
        QVERIFY2(above, said(above));
        QCOMPARE(known(above->model).at, 3.0);
        QCOMPARE(known(above->model).offset, 1.5);
        // A thicker wall still lies on its skin.
        const auto thicker = run(above->model, "reduce.thickness", {{"parts", {"sheet"}}, {"thickness", 5.0}});
        QVERIFY2(thicker, said(thicker));
        QCOMPARE(known(thicker->model).offset, 2.5);
        for (const Json& bad :
             {Json{{"parts", {"block"}}, {"thickness", 3.0}}, Json{{"parts", {"sheet"}}, {"thickness", 0.0}},
              Json{{"parts", {"sheet"}}, {"position", "sideways"}}, Json{{"parts", {"sheet"}}, {"position", "above"}},
              Json{{"thickness", 3.0}}, Json::object()})
            QVERIFY2(!run(model, "reduce.thickness", bad), bad.dump().c_str());
    }
    void aSheetIsMadeOfFaces_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<double>("thickness");
        QTest::addColumn<bool>("skin");
        QTest::addColumn<double>("area");
        QTest::addColumn<int>("faces");
        // Bent about 20 mm inside, 4 thick: the outer side is two flats and a quarter of a cylinder.
        const auto bent = [] {
            const TopoDS_Shape ring = cut(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)), 24, 50),
                                          rod(gp_Ax1(gp_Pnt(0, -1, 0), gp_Dir(0, 1, 0)), 20, 52));
            TopoDS_Shape quarter = cut(ring, moved(block(60, 52, 60), by(-60, -1, -30)));
            quarter = cut(quarter, moved(block(60, 52, 60), by(-30, -1, -60)));
            return fuse(fuse(quarter, moved(block(4, 50, 30), by(20, 0, -30))),
                        moved(block(30, 50, 4), by(-30, 0, 20)));
        }();
        QTest::newRow("bent, midway") << bent << 4.0 << false << 50.0 * (60.0 + 0.5 * M_PI * 22.0) << 3;
        QTest::newRow("bent, on the faces") << bent << 4.0 << true << 50.0 * (60.0 + 0.5 * M_PI * 24.0) << 3;
        QTest::newRow("bent as splines") << asSplines(bent) << 4.0 << false << 50.0 * (60.0 + 0.5 * M_PI * 22.0) << 3;
    }
    void aSheetIsMadeOfFaces() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(double, thickness);
        QFETCH(bool, skin);
        QFETCH(double, area);
        QFETCH(int, faces);
        for (const bool turn : {false, true}) {
            Model model = modelOf(turn ? moved(body, turned()) : body, "bracket");
            const gp_Trsf back = turn ? turned().Inverted() : gp_Trsf();
            // Rims are at y of 0 and 50, and at the ends of the flats.
            const Json refs = facesWhere(*model.parts[0], [&](const gp_Pnt& centre) {
                const gp_Pnt at = centre.Transformed(back);
                return std::abs(at.Y() - 25.0) < 1.0 && at.X() > -29.0 && at.Z() > -29.0 &&
                       (at.X() > 23.9 || at.Z() > 23.9 ||
                        (at.X() > 10.0 && at.Z() > 10.0 && std::hypot(at.X(), at.Z()) > 20.5));
            });
            QCOMPARE(static_cast<int>(refs.size()), faces);
            Json parameters{{"faces", refs}, {"thickness", thickness}};
            if (skin) parameters["position"] = "skin";
            const auto done = run(model, "reduce.sheetFrom", parameters);
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.parts.size(), std::size_t(2));
            QVERIFY(done->model.parts[0]->shape.IsSame(model.parts[0]->shape));
            const Part& sheet = *done->model.parts[1];
            QCOMPARE(sheet.name, std::string("bracket, sheet"));
            QCOMPARE(sheet.incidence().bodyCount(), 1);
            QVERIFY(isValid(sheet.shape));
            QCOMPARE_NEAR(areaOf(sheet.shape), area, 1e-5 * area);
            for (int f = 1; f <= faces; ++f) {
                const Thickness& known = sheet.known.thickness.at({EntityKind::Face, f});
                QCOMPARE(known.at, thickness);
                QCOMPARE(known.offset, skin ? -0.5 * thickness : 0.0);
            }
        }
    }
    void sheetsOfFacesFollowTheirBody() {
        // Two places, a group on the top, and a face at an angle to it: two sheets, both in both places.
        Model model = modelOf(block(60, 40, 3), "plate");
        model.occurrences.push_back(model.occurrences[0]);
        model.occurrences.change(1).id = 0;
        model.occurrences.change(1).placement = turned();
        model.giveIds();
        const Part& part = *model.parts[0];
        const Json top = facesWhere(part, [](const gp_Pnt&at) { return at.Z() > 2.9; }),
                   both = facesWhere(part, [](const gp_Pnt&at) { return at.Z() > 2.9 || at.X() > 59.9; });
        Group group{"loaded", "", std::nullopt, {}, std::nullopt};
        group.members.insert({part.id, everyPlace, {EntityKind::Face, findFace(model, top[0].get<FaceRef>())->face}});
        model.groups.push_back(group);
        const auto done = run(model, "reduce.sheetFrom", {{"faces", both}, {"thickness", 3.0}, {"name", "skins"}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.occurrences.size(), std::size_t(4));
        QCOMPARE(done->notes.size(), std::size_t(1));
        const Part& sheet = *done->model.parts[1];
        QCOMPARE(sheet.name, std::string("skins"));
        QCOMPARE(sheet.incidence().bodyCount(), 2);
        QCOMPARE_NEAR(areaOf(sheet.shape), 60.0 * 40 + 40.0 * 3, 1e-9);
        QCOMPARE(done->lineage.size(), std::size_t(2));
        // In the ledger the group has the sheet's face beside the plate's.
        measure::FactsCache facts;
        const auto replayed = Work(model, "plate.step")
                                  .withStep("reduce.sheetFrom", {{"faces", top}, {"thickness", 3.0}})
                                  .replayed(facts, quietly());
        QVERIFY2(replayed, said(replayed));
        const Model& after = replayed->current();
        std::set<PartId> parts;
        for (const Member& member : after.groups.at(0).members) parts.insert(member.part);
        QCOMPARE(parts, (std::set<PartId>{after.parts[0]->id, after.parts[1]->id}));
        // Of an inner cylinder of 1 mm nothing is left 2 mm farther in; of a thickness of nothing, nothing at all.
        const Model drilled =
            modelOf(cut(block(20, 20, 5), rod(gp_Ax1(gp_Pnt(10, 10, -1), gp::DZ()), 1, 7)), "drilled");
        const Json ring = facesWhere(*drilled.parts[0], [](const gp_Pnt& at) {
            return std::hypot(at.X() - 10, at.Y() - 10) < 0.1 && std::abs(at.Z() - 2.5) < 0.1;
        });
        QCOMPARE(ring.size(), std::size_t(1));
        const Model pin = modelOf(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp::DZ()), 1, 7), "pin");
        const Json round = facesWhere(*pin.parts[0], [](const gp_Pnt& at) { return std::abs(at.Z() - 3.5) < 0.1; });
        QVERIFY(run(drilled, "reduce.sheetFrom", {{"faces", ring}, {"thickness", 4.0}}));
        const auto vanished = run(pin, "reduce.sheetFrom", {{"faces", round}, {"thickness", 4.0}});
        QVERIFY(!vanished);
        QCOMPARE(vanished.error().where.faces.size(), std::size_t(1));
        for (const Json& bad :
             {Json{{"faces", Json::array()}, {"thickness", 1.0}}, Json{{"faces", top}, {"thickness", -1.0}},
              Json{{"faces", top}, {"thickness", 1.0}, {"position", "sideways"}}})
            QVERIFY2(!run(model, "reduce.sheetFrom", bad), bad.dump().c_str());
    }
    void wallsAreNamedByTheirFaces() {
        // A block of 40 by 40, 12 thick: thick for its breadth, taken when its faces are named.
        const Model model = modelOf(block(40, 40, 12), "block");
        const Part& part = *model.parts[0];
        std::vector<FaceRef> upAndDown;
        for (int f = 1; f <= 6; ++f) {
            const double z = skinOf(part.incidence().face(f)).centre.Z();
            if (std::abs(z) < 1e-6 || std::abs(z - 12.0) < 1e-6) upAndDown.push_back(makeFaceRef(part, f));
        }
        QCOMPARE(upAndDown.size(), std::size_t(2));
        QVERIFY(!run(model, "reduce.midsurface"));
        for (const Json& pair : {Json(upAndDown), Json{upAndDown[0]}}) {
            const auto done = run(model, "reduce.midsurface", {{"pairs", {pair}}});
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 1600.0, 1e-6);
            QCOMPARE_NEAR(done->model.parts[0]->known.thickness.begin()->second.at, 12.0, 1e-9);
        }
        // Two faces that make no wall.
        FaceRef side;
        for (int f = 1; f <= 6; ++f)
            if (std::abs(skinOf(part.incidence().face(f)).centre.Z() - 6.0) < 1e-6) side = makeFaceRef(part, f);
        const auto none = run(model, "reduce.midsurface", {{"pairs", {Json{upAndDown[0], side}}}});
        QVERIFY(!none);
        QVERIFY(none.error().what.find("not the two sides") != std::string::npos);
        // A thin plate, but not that one.
        const Model plate = modelOf(block(100, 60, 4), "plate");
        const FaceRef top = [&] {
            for (int f = 1; f <= 6; ++f)
                if (std::abs(skinOf(plate.parts[0]->incidence().face(f)).centre.Z() - 4.0) < 1e-6)
                    return makeFaceRef(*plate.parts[0], f);
            return FaceRef();
        }();
        QVERIFY(run(plate, "reduce.midsurface"));
        QVERIFY(!run(plate, "reduce.midsurface", {{"notPairs", {Json{top}}}}));
    }
    void thicknessIsMeasuredWhereNoneIsTyped() {
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const Model model = modelOf(moved(block(100, 60, 3.7), move), "plate");
            const Json top = facesWhere(*model.parts[0], [&](const gp_Pnt& at) {
                return at.Distance(gp_Pnt(50, 30, 3.7).Transformed(move)) < 1e-6;
            });
            const auto done = run(model, "reduce.sheetFrom", {{"faces", top}});
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(done->model.parts[1]->known.thickness.at({EntityKind::Face, 1}).at, 3.7, 1e-9);
        }
        // A step behind the face: 2 and 5 thick, so that no number is the wall's.
        const Model stepped = modelOf(fuse(block(100, 60, 2), moved(block(50, 60, 3), by(0, 0, -3))), "stepped");
        const Json top = facesWhere(*stepped.parts[0], [](const gp_Pnt& at) { return at.Z() > 2.0 - 1e-6; });
        const auto refused = run(stepped, "reduce.sheetFrom", {{"faces", top}});
        QVERIFY(!refused);
        QVERIFY2(refused.error().what.find("2 to 5 mm thick") != std::string::npos, refused.error().what.c_str());
    }
    void bendsBecomeSharpLines_data() {
        QTest::addColumn<std::vector<double>>("lengths");  // of the flats, to the sharp corners
        QTest::addColumn<std::vector<double>>("turns");    // degrees between them
        QTest::newRow("L") << std::vector<double>{40, 30} << std::vector<double>{90};
        QTest::newRow("open") << std::vector<double>{40, 30} << std::vector<double>{35};
        QTest::newRow("acute") << std::vector<double>{60, 60} << std::vector<double>{130};
        QTest::newRow("U") << std::vector<double>{40, 30, 40} << std::vector<double>{90, 90};
        QTest::newRow("Z") << std::vector<double>{40, 30, 40} << std::vector<double>{90, -90};
        QTest::newRow("hat") << std::vector<double>{20, 30, 40, 30, 20} << std::vector<double>{60, -60, -60, 60};
    }
    void bendsBecomeSharpLines() {
        QFETCH(std::vector<double>, lengths);
        QFETCH(std::vector<double>, turns);
        constexpr double radius = 4.0, wide = 50.0;
        // Corners of the sharp line in the xz plane, then the line with its arcs.
        std::vector<gp_Pnt> corners{gp_Pnt(0, 0, 0)};
        double angle = 0.0, sharp = 0.0;
        for (std::size_t i = 0; i < lengths.size(); ++i) {
            corners.push_back(corners.back().Translated(gp_Vec(std::cos(angle), 0, std::sin(angle)) * lengths[i]));
            if (i < turns.size()) angle += turns[i] * M_PI / 180.0;
            sharp += lengths[i];
        }
        BRepBuilderAPI_MakeWire wire;
        gp_Pnt from = corners.front();
        for (std::size_t i = 1; i < corners.size(); ++i) {
            if (i + 1 == corners.size()) {
                wire.Add(BRepBuilderAPI_MakeEdge(from, corners[i]).Edge());
                break;
            }
            const gp_Vec in = gp_Vec(corners[i - 1], corners[i]).Normalized(),
                         on = gp_Vec(corners[i], corners[i + 1]).Normalized();
            const double back = radius * std::tan(0.5 * std::abs(turns[i - 1]) * M_PI / 180.0);
            const gp_Pnt begin = corners[i].Translated(in * -back), end = corners[i].Translated(on * back);
            wire.Add(BRepBuilderAPI_MakeEdge(from, begin).Edge());
            wire.Add(BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(begin, in, end).Value()).Edge());
            from = end;
        }
        const TopoDS_Shape bent = BRepPrimAPI_MakePrism(wire.Wire(), gp_Vec(0, wide, 0)).Shape();
        for (const gp_Trsf& move : {gp_Trsf(), turned()}) {
            const Model model = sheets({{"bent", moved(bent, move)}});
            const auto done = run(model, "reduce.sharpBends", {{"upTo", 5.0}});
            QVERIFY2(done, said(done));
            const Part& part = *done->model.parts[0];
            QVERIFY(isValid(part.shape));
            QCOMPARE(part.incidence().faceCount(), static_cast<int>(lengths.size()));
            QCOMPARE_NEAR(areaOf(part.shape), sharp * wide, 1e-6);
            QCOMPARE(part.incidence().bodyCount(), 1);
            QCOMPARE(openEdgesIn(part.shape), 2 * static_cast<int>(lengths.size()) + 2);
            QVERIFY(!run(model, "reduce.sharpBends", {{"upTo", 3.0}}));
            QVERIFY(!run(model, "reduce.sharpBends", {{"upTo", -1.0}}));
            QVERIFY(!run(done->model, "reduce.sharpBends"));
        }
    }
    void bendsWithHolesStayAndShallowOnesGo() {
        // From the middle of the bend a hole goes through it; without it the same bend goes, also turned by 4 degrees.
        for (const double degrees : {4.0, 90.0})
            for (const bool drilled : {false, true}) {
                const double turn = degrees * M_PI / 180.0, radius = 20.0;
                const gp_Pnt begin(40, 0, 0), end(40 + radius * std::sin(turn), 0, radius * (1.0 - std::cos(turn)));
                const gp_Vec on(std::cos(turn), 0, std::sin(turn));
                BRepBuilderAPI_MakeWire wire(BRepBuilderAPI_MakeEdge(gp_Pnt(0, 0, 0), begin).Edge());
                wire.Add(BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(begin, gp_Vec(1, 0, 0), end).Value()).Edge());
                wire.Add(BRepBuilderAPI_MakeEdge(end, end.Translated(on * 40.0)).Edge());
                TopoDS_Shape bent = BRepPrimAPI_MakePrism(wire.Wire(), gp_Vec(0, 50, 0)).Shape();
                const gp_Pnt middle(40 + radius * std::sin(0.5 * turn), 25, radius * (1.0 - std::cos(0.5 * turn)));
                if (drilled)
                    bent = cut(bent, rod(gp_Ax1(middle.Translated(gp_Vec(0, 0, -5)), gp_Dir(0, 0, 1)), 0.3, 10));
                const auto done = run(sheets({{"bent", bent}}), "reduce.sharpBends");
                QCOMPARE(done.has_value(), !drilled);
                if (drilled)
                    QVERIFY2(done.error().what.find("hole") != std::string::npos, done.error().what.c_str());
                else
                    QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape),
                                  50.0 * (80.0 + 2.0 * radius * std::tan(0.5 * turn)), 1e-6);
            }
    }
    void bendsThatAreHeldStay() {
        // A bend in two halves, each with a flat on one side alone, as where something stands on its middle.
        BRepBuilderAPI_Sewing sewing(1e-6, true, true, true, true);
        const gp_Cylinder cylinder(gp_Ax3(gp_Pnt(0, 0, 20), gp_Dir(0, 1, 0), gp_Dir(0, 0, -1)), 20.0);
        sewing.Add(sheetAt(gp_Pnt(-40, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 50, 0)));
        for (const double from : {0.0, M_PI / 4.0})
            sewing.Add(BRepBuilderAPI_MakeFace(cylinder, -from - M_PI / 4.0, -from, 0.0, 50.0).Face());
        sewing.Add(sheetAt(gp_Pnt(20, 0, 20), gp_Vec(0, 50, 0), gp_Vec(0, 0, 40)));
        sewing.Perform();
        const Model model = sheets({{"bent", sewing.SewedShape()}});
        QCOMPARE(facesIn(model.parts[0]->shape), 4);
        const auto done = run(model, "reduce.sharpBends");
        QVERIFY(!done);  // each half of the bend has a flat on one side alone
        QVERIFY(!done.error().what.empty());
    }
    void edgesThatRunAgainstEachOtherBecomeOne() {
        // The lower side of a rectangle in three edges: the middle one comes first, and the one before it runs against.
        const auto at = [](double x, double y) { return BRepBuilderAPI_MakeVertex(gp_Pnt(x, y, 0)).Vertex(); };
        const std::array v{at(0, 0), at(10, 0), at(25, 0), at(40, 0), at(40, 30), at(0, 30)};
        for (const bool against : {false, true}) {
            BRepBuilderAPI_MakeWire wire;
            const auto add = [&](int from, int to) {
                wire.Add(BRepBuilderAPI_MakeEdge(v[static_cast<std::size_t>(from)], v[static_cast<std::size_t>(to)]));
            };
            add(1, 2);
            add(2, 3);
            add(3, 4);
            add(4, 5);
            add(5, 0);
            against ? add(1, 0) : add(0, 1);
            const TopoDS_Shape sheet = BRepBuilderAPI_MakeFace(wire.Wire()).Face();
            QCOMPARE(Incidence(sheet).edgeCount(), 6);
            const auto merged = mend::mergeNeedless(sheet, 1e-6, quietly(), {}, true);
            QVERIFY2(merged, said(merged));
            QCOMPARE(Incidence(merged->shape).edgeCount(), 4);
            QCOMPARE_NEAR(areaOf(merged->shape), 1200.0, 1e-9);
            QVERIFY(isValid(merged->shape));
            // As Mend asks for it outlines keep their corners: what they are to meet may have one there.
            const auto kept = mend::mergeNeedless(sheet, 1e-6, quietly());
            QVERIFY2(kept, said(kept));
            QVERIFY(kept->shape.IsNull());
        }
    }
    void stepsByHandComeBackFromALedger() {
        const Model model = sheets({{"sheet", flat()}});
        const EntityRef right = edgeAt(*model.parts[0], gp_Pnt(50, 15, 0));
        const Json asked{{"edges", {right}}, {"by", 7.0}};
        const auto once = run(model, "reduce.carryOn", asked);
        const auto again = run(model, "reduce.carryOn", Json::parse(asked.dump()));
        QVERIFY(once && again);
        QCOMPARE(areaOf(once->model.parts[0]->shape), areaOf(again->model.parts[0]->shape));
    }
};

static Registered<SheetEdgesTest> sheetEdgesTest;

}  // namespace rasoir::test

#include "sheet_edges_test.moc"
