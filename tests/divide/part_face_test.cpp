// Faces and edges parted at measured places: exact areas, groups, and the same again on a changed plate.
#include "divide/part_face.h"

#include "geometry/integrals.h"
#include "model/work.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/defects.h"

namespace rasoir::test {

class PartFaceTest : public QObject {
    Q_OBJECT

    static Model plateOf(double length) {
        Model model;
        model.occurrences.push_back({0, gp_Trsf(), "plate", {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>("plate", block(length, 60, 8)));
        model.giveIds();
        return model;
    }
    /// The face whose middle is nearest to a point, and the edge likewise.
    static int faceAt(const Model& model, const gp_Pnt& point) {
        const Incidence& topology = model.parts[0]->incidence();
        int best = 1;
        for (int f = 2; f <= topology.faceCount(); ++f)
            if (skinOf(topology.face(f)).centre.Distance(point) < skinOf(topology.face(best)).centre.Distance(point))
                best = f;
        return best;
    }
    static EntityRef edgeAt(const Model& model, const gp_Pnt& point) {
        const Part& part = *model.parts[0];
        EntityRef best = makeRef(part, {EntityKind::Edge, 1});
        for (int e = 2; e <= part.incidence().edgeCount(); ++e) {
            const EntityRef here = makeRef(part, {EntityKind::Edge, e});
            if (here.at.Distance(point) < best.at.Distance(point)) best = here;
        }
        return best;
    }
    static Json facesOf(const Model& model, const gp_Pnt& point) {
        return Json::array({makeFaceRef(*model.parts[0], faceAt(model, point))});
    }
    static std::vector<double> areasAtTop(const Model& model, double z = 8.0) {
        std::vector<double> areas;
        const Incidence& topology = model.parts[0]->incidence();
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (const Skin skin = skinOf(topology.face(f)); std::abs(skin.centre.Z() - z) < 1e-9)
                areas.push_back(skin.area);
        std::sort(areas.begin(), areas.end());
        return areas;
    }

private slots:
    void aLineMeasuredFromAnEdge_data() {
        QTest::addColumn<double>("length");  // of the plate on which the step is replayed
        QTest::newRow("as drawn") << 100.0;
        QTest::newRow("5 mm longer") << 105.0;
        QTest::newRow("5 mm shorter") << 95.0;
    }
    void aLineMeasuredFromAnEdge() {
        QFETCH(double, length);
        const Model first = plateOf(100);
        divide::Outline outline;
        outline.along = edgeAt(first, gp_Pnt(0, 30, 8));
        outline.at = {0.0, 7.5};
        const Json step{{"faces", facesOf(first, gp_Pnt(50, 30, 8))}, {"outline", outline}, {"group", "strip"}};
        const Model model = plateOf(length);
        const auto done = run(model, "divide.partFace", step);
        QVERIFY2(done, said(done));
        const auto areas = areasAtTop(done->model);
        QCOMPARE(areas.size(), std::size_t(2));
        QCOMPARE_NEAR(areas[0], 7.5 * 60, 1e-9);
        QCOMPARE_NEAR(areas[1], (length - 7.5) * 60, 1e-9);
        QVERIFY(isValid(done->model.parts[0]->shape));
        QCOMPARE_NEAR(rasoir::volumeOf(done->model.parts[0]->shape), length * 480, 1e-9);
        // The strip between line and edge is the group.
        QCOMPARE(done->model.groups.size(), std::size_t(1));
        QCOMPARE(done->model.groups[0].members.size(), std::size_t(1));
        const int strip = done->model.groups[0].members.begin()->entity.number;
        QCOMPARE_NEAR(areaOf(done->model.parts[0]->incidence().face(strip)), 450.0, 1e-9);
        // Untouched: the other five faces but for the two whose edges were divided; and the model that went in.
        QCOMPARE(model.parts[0]->incidence().faceCount(), 6);
        QCOMPARE(done->model.parts[0]->incidence().faceCount(), 7);
        QCOMPARE(done->model.parts[0]->incidence().edgeCount(), 15);
    }
    void outlinesOfEveryShape_data() {
        QTest::addColumn<QString>("outline");
        QTest::addColumn<double>("area");
        QTest::newRow("rectangle") << R"({"shape":"rectangle","at":[30,20],"size":[10,4]})" << 40.0;
        QTest::newRow("turned rectangle") << R"({"shape":"rectangle","at":[30,20],"size":[10,4],"angle":33})" << 40.0;
        QTest::newRow("circle") << R"({"shape":"circle","at":[30,20],"size":[10,0]})" << 25 * M_PI;
        QTest::newRow("slot") << R"({"shape":"slot","at":[30,20],"size":[20,6],"angle":-20})" << 14.0 * 6 + 9 * M_PI;
        QTest::newRow("closed polyline")
            << R"({"shape":"closedPolyline","at":[30,20],"points":[[0,0],[10,0],[10,10],[5,4],[0,10]]})" << 70.0;
    }
    void outlinesOfEveryShape() {
        QFETCH(QString, outline);
        QFETCH(double, area);
        const Model model = plateOf(100);
        const Json drawn = Json::parse(outline.toStdString());
        const auto done = run(model, "divide.partFace",
                              {{"faces", facesOf(model, gp_Pnt(50, 30, 8))}, {"outline", drawn}, {"group", "pad"}});
        QVERIFY2(done, said(done));
        const auto areas = areasAtTop(done->model);
        QCOMPARE(areas.size(), std::size_t(2));
        QCOMPARE_NEAR(areas[0], area, 1e-9 * area);
        QCOMPARE_NEAR(areas[0] + areas[1], 6000.0, 1e-9 * 6000);
        QVERIFY(isValid(done->model.parts[0]->shape));
        const int pad = done->model.groups.at(0).members.begin()->entity.number;
        QCOMPARE_NEAR(areaOf(done->model.parts[0]->incidence().face(pad)), area, 1e-9 * area);
        // The same outline, pushed in: 3 mm deep, and all through.
        for (const double depth : {3.0, 0.0}) {
            const auto hollow =
                run(model, "divide.cutOut",
                    {{"face", facesOf(model, gp_Pnt(50, 30, 8))[0]}, {"outline", drawn}, {"depth", depth}});
            QVERIFY2(hollow, said(hollow));
            QCOMPARE_NEAR(rasoir::volumeOf(hollow->model.parts[0]->shape), 48000.0 - area * (depth > 0.0 ? depth : 8.0),
                          1e-6 * area);
            QVERIFY(isValid(hollow->model.parts[0]->shape));
        }
    }
    void aRingRoundAHole() {
        Model model = plateOf(100);
        model.parts[0] =
            std::make_shared<Part>("plate", cut(block(100, 60, 8), rod(gp_Ax1(gp_Pnt(40, 30, -1), gp::DZ()), 4, 10)));
        model.giveIds();
        const EntityRef rim = edgeAt(model, gp_Pnt(36, 30, 8));
        const Json faces = facesOf(model, gp_Pnt(50, 30, 8));
        for (const auto& [width, outer] : {std::pair{Json(), 8.0}, {Json(2.5), 6.5}}) {
            Json ring{{"rim", rim}};
            if (!width.is_null()) ring["offset"] = width;
            const auto done = run(model, "divide.partFace", {{"faces", faces}, {"ring", ring}, {"group", "head"}});
            QVERIFY2(done, said(done));
            const auto areas = areasAtTop(done->model);
            QCOMPARE(areas.size(), std::size_t(2));
            QCOMPARE_NEAR(areas[0], M_PI * (outer * outer - 16), 1e-8);
            QCOMPARE(done->model.groups.at(0).members.size(), std::size_t(1));
            QVERIFY(isValid(done->model.parts[0]->shape));
        }
    }
    void aBentFaceIsPartedByAPlaneAndThroughTwoPoints() {
        Model model = plateOf(100);
        model.parts[0] = std::make_shared<Part>("plate", rod(gp_Ax1(gp_Pnt(), gp::DZ()), 10, 30));
        model.giveIds();
        const int side = [&] {
            for (int f = 1; f <= 3; ++f)
                if (makeFaceRef(*model.parts[0], f).surface == "cylinder") return f;
            return 0;
        }();
        const Json faces = Json::array({makeFaceRef(*model.parts[0], side)});
        const auto done = run(model, "divide.partFace",
                              {{"faces", faces}, {"plane", {{"through", {0, 0, 12}}, {"normal", {0, 0.3, 1}}}}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts[0]->incidence().faceCount(), 4);
        double sum = 0.0;
        for (int f = 1; f <= 4; ++f)
            if (makeFaceRef(*done->model.parts[0], f).surface == "cylinder")
                sum += areaOf(done->model.parts[0]->incidence().face(f));
        QCOMPARE_NEAR(sum, 2 * M_PI * 300, 1e-5 * sum);
        QVERIFY(isValid(done->model.parts[0]->shape));
        // Only the face that was named is parted: the plane leaves the ends alone though it would meet them.
        const auto steep = run(model, "divide.partFace",
                               {{"faces", faces}, {"plane", {{"through", {3, 0, 0}}, {"normal", {1, 0, 0}}}}});
        QVERIFY2(steep, said(steep));
        // What lies round the seam comes in two: the seam stays an edge.
        QCOMPARE(steep->model.parts[0]->incidence().faceCount(), 5);
        QVERIFY(isValid(steep->model.parts[0]->shape));
    }
    void twoPointsOnItsEdges() {
        const Model model = plateOf(100);
        const Json points = Json::array({Json{{"edge", edgeAt(model, gp_Pnt(50, 0, 8))}, {"share", 0.5}},
                                         Json{{"edge", edgeAt(model, gp_Pnt(0, 30, 8))}, {"at", 30.0}}});
        const auto done =
            run(model, "divide.partFace", {{"faces", facesOf(model, gp_Pnt(50, 30, 8))}, {"points", points}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(areasAtTop(done->model).front(), 0.5 * 50 * 30, 1e-8);
    }
    void whatIsPartedOnPurposeIsNothingToMend() {
        const Model model = plateOf(100);
        divide::Outline outline;
        outline.shape = "rectangle";
        outline.at = {30, 20};
        outline.size = {10, 4};
        auto done = run(model, "divide.partFace", {{"faces", facesOf(model, gp_Pnt(50, 30, 8))}, {"outline", outline}});
        QVERIFY2(done, said(done));
        done = run(done->model, "divide.partEdge", {{"edges", {edgeAt(done->model, gp_Pnt(50, 60, 0))}}, {"into", 2}});
        QVERIFY2(done, said(done));
        const Part& part = *done->model.parts[0];
        QCOMPARE(part.incidence().faceCount(), 7);
        QCOMPARE(part.incidence().edgeCount(), 17);
        const auto report = survey::findDefects(part, {}, false, quietly());
        QVERIFY2(report, said(report));
        QVERIFY2(report->defects.empty(), report->defects.empty() ? "" : report->defects.front().what.c_str());
        // Nor does merging take it away; without the marks it would.
        const auto merged = run(done->model, "mend.mergeFaces");
        QVERIFY(!merged || merged->model.parts[0]->incidence().edgeCount() == 17);
        auto plain = part.copy();
        plain->known.parted.clear();
        Model bare = done->model;
        bare.parts[0] = plain;
        const auto gone = run(bare, "mend.mergeFaces");
        QVERIFY2(gone, said(gone));
        QCOMPARE(gone->model.parts[0]->incidence().edgeCount(), 12);
    }
    void edgesInPieces() {
        const Model model = plateOf(100);
        const auto thirds = run(model, "divide.partEdge", {{"edges", {edgeAt(model, gp_Pnt(50, 0, 8))}}, {"into", 3}});
        QVERIFY2(thirds, said(thirds));
        QCOMPARE(thirds->model.parts[0]->incidence().edgeCount(), 14);
        QCOMPARE(thirds->model.parts[0]->incidence().vertexCount(), 10);
        QCOMPARE(thirds->model.parts[0]->incidence().faceCount(), 6);
        QVERIFY(isValid(thirds->model.parts[0]->shape));
        const auto measured =
            run(model, "divide.partEdge", {{"edges", {edgeAt(model, gp_Pnt(50, 0, 8))}}, {"at", {12.5}}});
        QVERIFY2(measured, said(measured));
        bool found = false;
        for (int e = 1; e <= measured->model.parts[0]->incidence().edgeCount(); ++e)
            found = found || std::abs(lengthOf(measured->model.parts[0]->incidence().edge(e)) - 12.5) < 1e-9;
        QVERIFY(found);
    }
    void whatCannotBe_data() {
        QTest::addColumn<QString>("operation");
        QTest::addColumn<QString>("more");
        QTest::addColumn<QString>("words");
        QTest::newRow("self-crossing")
            << "divide.partFace"
            << R"({"outline":{"shape":"closedPolyline","at":[30,20],"points":[[0,0],[10,10],[10,0],[0,10]]}})"
            << "crosses or touches itself";
        QTest::newRow("beside the face") << "divide.partFace"
                                         << R"({"outline":{"shape":"line","at":[0,-7.5]}})"
                                         << "is not parted";
        QTest::newRow("no size") << "divide.partFace"
                                 << R"({"outline":{"shape":"circle","at":[30,20]}})"
                                 << "no diameter";
        QTest::newRow("ends freely") << "divide.partFace"
                                     << R"({"outline":{"shape":"polyline","at":[30,20],"points":[[0,0],[10,10]]}})"
                                     << "is not parted";
        QTest::newRow("no way") << "divide.partFace"
                                << "{}"
                                << "says by what";
        QTest::newRow("beyond the edge") << "divide.partEdge"
                                         << R"({"at":[130]})"
                                         << "no place within the edge";
        QTest::newRow("at its end") << "divide.partEdge"
                                    << R"({"at":[0]})"
                                    << "no place within the edge";
    }
    void whatCannotBe() {
        QFETCH(QString, operation);
        QFETCH(QString, more);
        QFETCH(QString, words);
        const Model model = plateOf(100);
        Json step = Json::parse(more.toStdString());
        if (operation == "divide.partFace")
            step["faces"] = facesOf(model, gp_Pnt(50, 30, 8));
        else
            step["edges"] = Json::array({edgeAt(model, gp_Pnt(50, 0, 8))});
        const auto done = run(model, operation.toStdString(), step);
        QVERIFY(!done);
        QVERIFY2(sentence(done.error()).find(words.toStdString()) != std::string::npos, said(done));
    }
    void aRingAsWideAsTheWasherThatLiesThere() {
        // A plate with a bore, and a washer on it.
        const gp_Ax1 axis(gp_Pnt(50, 30, -1), gp_Dir(0, 0, 1));
        Model model;
        const auto put = [&model](const char* name, const TopoDS_Shape& shape) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        };
        put("plate", cut(block(100, 60, 8), rod(axis, 5, 20)));
        const gp_Ax1 above(gp_Pnt(50, 30, 8), gp_Dir(0, 0, 1));
        put("washer", cut(rod(above, 9, 2), rod(axis, 5.2, 20)));
        model.giveIds();
        const EntityRef rim = edgeAt(model, gp_Pnt(45, 30, 8));
        const Json step{{"faces", facesOf(model, gp_Pnt(50, 30, 8))}, {"ring", {{"rim", rim}}}, {"group", "seat"}};
        const auto seat = [&](const Model& on) {
            const auto done = run(on, "divide.partFace", step);
            if (!done) return -1.0;
            return areaOf(done->model.parts[0]->incidence().face(done->model.groups[0].members.begin()->entity.number));
        };
        QCOMPARE_NEAR(seat(model), M_PI * (81 - 25), 1e-9);
        // Lifted off, it does not lie there: twice the hole is assumed. The same when it is set aside.
        gp_Trsf up;
        up.SetTranslation(gp_Vec(0, 0, 30));
        model.occurrences.change(1).placement = up;
        QCOMPARE_NEAR(seat(model), M_PI * (100 - 25), 1e-9);
        model.occurrences.change(1).placement = gp_Trsf();
        model.occurrences.change(1).aside = true;
        QCOMPARE_NEAR(seat(model), M_PI * (100 - 25), 1e-9);
    }
    void edgesThrownTogetherPartByTheirOutline() {
        // The four edges of a foot above the plate, thrown onto it: the foot's print.
        Model model = plateOf(100);
        gp_Trsf above;
        above.SetTranslation(gp_Vec(20, 10, 30));
        model.occurrences.push_back({1, above, "foot", {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>("foot", block(30, 20, 5)));
        model.giveIds();
        const Part& foot = *model.parts[1];
        Json edges = Json::array();
        for (int e = 1; e <= foot.incidence().edgeCount(); ++e)
            if (const EntityRef here = makeRef(foot, {EntityKind::Edge, e}); std::abs(here.at.Z()) < 1e-9)
                edges.push_back(here);
        QCOMPARE(edges.size(), std::size_t(4));
        const Json top = facesOf(model, gp_Pnt(50, 30, 8));
        const auto done = run(model, "divide.partFace", {{"faces", top}, {"thrown", edges}});
        QVERIFY2(done, said(done));
        const auto areas = areasAtTop(done->model);
        QCOMPARE(areas.size(), std::size_t(2));
        QCOMPARE_NEAR(areas[0], 600.0, 1e-9);
        QCOMPARE_NEAR(areas[1], 5400.0, 1e-9);
        // A single edge may stand for itself; it parts nothing that it does not cross.
        const auto none = run(model, "divide.partFace", {{"faces", top}, {"thrown", edges[0]}});
        QVERIFY(!none);
        QVERIFY2(QString(said(none)).contains("not parted"), said(none));
    }
};
static Registered<PartFaceTest> partFaceTest;

}  // namespace rasoir::test

#include "part_face_test.moc"
