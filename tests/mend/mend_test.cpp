// Mend on bodies of known answer: taken apart and put together, moved apart, damaged on purpose.
#include "mend/mend.h"

#include <Bnd_Box.hxx>
#include <BRep_Builder.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepGProp.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <fstream>
#include <GProp_GProps.hxx>
#include <QTemporaryDir>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "exchange/files.h"
#include "geometry/integrals.h"
#include "mend/patch.h"
#include "mend/stitch.h"
#include "model/work.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/defects.h"

namespace rasoir::test {

class MendTest : public QObject {
    Q_OBJECT

    /// Loose faces with edges of their own, in any order and direction; each moved by up to `gap`.
    static TopoDS_Shape takenApart(const TopoDS_Shape& body, Random& random, double gap = 0.0,
                                   const std::set<int>& without = {}) {
        std::vector<TopoDS_Shape> faces;
        int number = 0;
        for (TopExp_Explorer it(body, TopAbs_FACE); it.More(); it.Next())
            if (!without.contains(++number)) faces.push_back(it.Current());
        std::shuffle(faces.begin(), faces.end(), random);
        TopoDS_Compound all;
        const BRep_Builder builder;
        builder.MakeCompound(all);
        for (const TopoDS_Shape& face : faces) {
            TopoDS_Shape copy = BRepBuilderAPI_Copy(face).Shape();
            if (gap > 0.0) {
                gp_Trsf by;
                by.SetTranslation(
                    gp_Vec(between(random, -1, 1), between(random, -1, 1), between(random, -1, 1)).Normalized() *
                    between(random, 0, gap));
                copy = BRepBuilderAPI_Transform(copy, by, true).Shape();
            }
            builder.Add(all, random() % 2 == 0 ? copy : copy.Reversed());
        }
        return all;
    }
    static double sizeOf(const TopoDS_Shape& shape) { return modelOf(shape).extent(); }
    static Result<mend::Stitched> stitch(const TopoDS_Shape& shape, double upTo) {
        const Incidence incidence(shape);
        return mend::stitch(incidence, shape, {upTo, std::max(1e-6, 1e-7 * sizeOf(shape)), {}, {}}, quietly());
    }
    static TopoDS_Shape body(int kind) {
        const gp_Ax1 up(gp_Pnt(30, 20, -1), gp_Dir(0, 0, 1));
        switch (kind) {
            case 0:
                return block(40, 30, 20);
            case 1:
                return drilledPlate(100, 60, 8, 12, 5);
            case 2:
                return rod(up, 10, 50);
            case 3:
                return coneOf(up, 20, 0, 30);  // with an apex
            case 4:
                return BRepPrimAPI_MakeSphere(15).Shape();
            case 5:
                return BRepPrimAPI_MakeTorus(30, 8).Shape();
            case 6:
                return splineTopped(60, 40, 20, 3);
            case 7:
                return asSplines(cut(block(60, 40, 20), rod(up, 6, 30)));
            case 8: {
                TopTools_IndexedMapOfShape edges;
                const TopoDS_Shape raw = block(60, 40, 20);
                BRepFilletAPI_MakeFillet made(raw);
                TopExp::MapShapes(raw, TopAbs_EDGE, edges);
                for (int e = 1; e <= edges.Extent(); ++e) made.Add(4.0, TopoDS::Edge(edges(e)));
                return made.Shape();  // spheres at the corners, with poles
            }
            case 9:
                return cut(block(60, 40, 20), block(20, 20, 10));
            case 10:
                return cut(BRepPrimAPI_MakeSphere(20).Shape(), rod(gp_Ax1(gp_Pnt(0, 0, -30), gp_Dir(0, 0, 1)), 5, 60));
            default:
                return fuse(rod(up, 10, 50), rod(gp_Ax1(gp_Pnt(0, 20, 25), gp_Dir(1, 0, 0)), 7, 60));
        }
    }
    static Model asModel(const TopoDS_Shape& shape) {
        Model model = modelOf(shape);
        model.targetSize = 4.0;
        return model;
    }
    static const TopoDS_Shape& shapeOf(const Result<Outcome>& outcome) { return outcome->model.parts[0]->shape; }
    static void bodies() {
        QTest::addColumn<int>("kind");
        const char* names[] = {"block",         "drilled plate", "rod",        "cone with apex",
                               "ball",          "ring",          "spline top", "all splines",
                               "rounded block", "notched",       "bored ball", "crossing rods"};
        for (int kind = 0; kind < 12; ++kind) QTest::newRow(names[kind]) << kind;
    }

private slots:
    void takenApartAndStitched_data() { bodies(); }
    void takenApartAndStitched() {
        QFETCH(int, kind);
        Random random(static_cast<std::uint64_t>(kind) + 1);
        const TopoDS_Shape whole = body(kind);
        for (const double scale : {1.0, 1e-2, 1e3}) {
            const TopoDS_Shape scaled = scaledBy(whole, scale);
            const TopoDS_Shape loose = takenApart(scaled, random);
            if (facesIn(loose) == 1 && openEdgesIn(loose) == 0) continue;  // closed in itself
            const auto done = stitch(loose, 1e-5 * scale);
            QVERIFY2(done, said(done));
            QCOMPARE(solidsIn(done->shape), 1);
            QCOMPARE(openEdgesIn(done->shape), 0);
            QCOMPARE(facesIn(done->shape), facesIn(scaled));
            QVERIFY(isValid(done->shape));
            QCOMPARE_NEAR(volumeOf(done->shape), volumeOf(scaled), 1e-6 * volumeOf(scaled));
            QVERIFY(done->left.empty());
            QCOMPARE(done->lineage.faces().size(), static_cast<std::size_t>(facesIn(loose)));
            for (const Link& link : done->lineage.faces()) QVERIFY(link.before > 0 && link.after > 0);
        }
    }
    void movedApartAndStitched_data() { bodies(); }
    void movedApartAndStitched() {
        QFETCH(int, kind);
        Random random(static_cast<std::uint64_t>(kind) + 100);
        const TopoDS_Shape whole = body(kind);
        for (const double share : {1e-5, 1e-4, 1e-3}) {
            const double gap = share * sizeOf(whole);
            const TopoDS_Shape loose = takenApart(whole, random, gap);
            if (openEdgesIn(loose) == 0) continue;
            const auto done = stitch(loose, 3.0 * gap);
            QVERIFY2(done, said(done));
            if (!done->left.empty() || openEdgesIn(done->shape) > 0) {
                // An honest remainder: what is open is told, what is told is open.
                QVERIFY(openEdgesIn(done->shape) > 0);
                continue;
            }
            QCOMPARE(solidsIn(done->shape), 1);
            QCOMPARE(facesIn(done->shape), facesIn(whole));
            QCOMPARE_NEAR(volumeOf(done->shape), volumeOf(whole), areaOf(whole) * gap + 1e-6 * volumeOf(whole));
            QVERIFY(isValid(done->shape));
            // No boundary lies farther from where it was than is said.
            QVERIFY(done->largestShift <= 12.0 * gap);
        }
    }
    void featuresAsSmallAsTheGapDoNotOpenTheRest() {
        // A plate with holes and a step of 0.02 in its top: narrower than the gaps are wide.
        TopoDS_Shape whole = cut(drilledPlate(100, 60, 8, 12, 5), moved(block(200, 30, 10), shift(-50, 50, 7.98)));
        const int faces = facesIn(whole);
        int closed = 0, open = 0;
        constexpr int rounds = 12;
        for (int round = 0; round < rounds; ++round) {
            Random random(static_cast<std::uint64_t>(round) + 7);
            const auto done = stitch(takenApart(whole, random, 0.01), 0.03);
            QVERIFY2(done, said(done));
            const int left = openEdgesIn(done->shape);
            for (TopExp_Explorer it(done->shape, TopAbs_FACE); it.More(); it.Next()) QVERIFY(isValid(it.Current()));
            if (left == 0) {
                ++closed;
                QCOMPARE(solidsIn(done->shape), 1);
                QCOMPARE(facesIn(done->shape), faces);
                QCOMPARE_NEAR(volumeOf(done->shape), volumeOf(whole), areaOf(whole) * 0.01);
            }
            open += left;
        }
        QVERIFY2(
            closed == rounds,
            qPrintable(QString("%1 closed, %2 edges open").arg(closed).arg(open)));  // by the nearest ends alone: ten
    }
    void oneLongEdgeFacesSeveralShortOnes() {
        TopoDS_Compound all;
        const BRep_Builder builder;
        builder.MakeCompound(all);
        const auto face = [&](double x0, double x1, double y0, double y1, double z) {
            const TopoDS_Shape plate = moved(block(x1 - x0, y1 - y0, 5), shift(x0, y0, z));
            TopTools_IndexedMapOfShape faces;
            TopExp::MapShapes(plate, TopAbs_FACE, faces);
            for (int f = 1; f <= faces.Extent(); ++f) {
                bool bottom = true;
                for (TopExp_Explorer it(faces(f), TopAbs_VERTEX); it.More(); it.Next())
                    bottom = bottom && std::abs(BRep_Tool::Pnt(TopoDS::Vertex(it.Current())).Z() - z) < 1e-9;
                if (bottom) builder.Add(all, BRepBuilderAPI_Copy(faces(f)).Shape());
            }
        };
        face(0, 90, 0, 20, 0);
        face(0, 30, 20, 40, 0);
        face(30, 55, 20, 40, 0);
        face(55, 90, 20, 40, 0);
        const auto done = stitch(all, 1e-4);
        QVERIFY2(done, said(done));
        QCOMPARE(done->bodies.sheets, 1);
        QCOMPARE(done->bodies.looseFaces, 0);
        QCOMPARE(done->joined, std::size_t(5));  // three along the long edge, two between the short faces
        QVERIFY(isValid(done->shape));
    }
    void nothingShorterThanAnEdgeIsSwallowed() {
        // A limit wider than the thickness of the plate: its two big faces must not become one.
        Random random(5);
        const TopoDS_Shape plate = block(100, 60, 2);
        const auto done = stitch(takenApart(plate, random), 5.0);
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(volumeOf(done->shape), volumeOf(plate), 1e-6);
    }
    void bodiesAreTurnedOutwardsAndVoidsRecognised() {
        Random random(7);
        // A hollow box with a ball in its void, and a block beside it, all in one bag.
        const TopoDS_Shape hollow = cut(block(60, 60, 60), moved(block(40, 40, 40), shift(10, 10, 10)));
        const TopoDS_Shape inner = moved(block(10, 12, 14), shift(20, 20, 20)),
                           aside = moved(block(20, 20, 20), shift(100, 0, 0));
        TopoDS_Compound bag;
        const BRep_Builder builder;
        builder.MakeCompound(bag);
        for (const TopoDS_Shape& one : {hollow, inner, aside})
            for (TopExp_Explorer it(takenApart(one, random), TopAbs_FACE); it.More(); it.Next())
                builder.Add(bag, it.Current());
        const auto done = stitch(bag, 1e-4);
        QVERIFY2(done, said(done));
        QCOMPARE(done->bodies.solids, 3);
        QCOMPARE(done->bodies.voids, 1);
        QCOMPARE_NEAR(volumeOf(done->shape), volumeOf(hollow) + volumeOf(inner) + volumeOf(aside), 1e-6);
        QVERIFY(isValid(done->shape));
        // Inside out: one step turns it.
        const auto turned = run(asModel(block(10, 20, 30).Reversed()), "mend.makeSolids");
        QVERIFY2(turned, said(turned));
        QCOMPARE_NEAR(volumeOf(shapeOf(turned)), 6000.0, 1e-9);
        QVERIFY(!run(asModel(block(10, 20, 30)), "mend.makeSolids"));
    }
    void openingsArePatched_data() {
        QTest::addColumn<int>("kind");
        QTest::addColumn<int>("face");
        // Every face of these bodies in turn.
        for (const int kind : {0, 1, 8, 9})
            for (int face = 1; face <= std::min(14, facesIn(body(kind))); ++face)
                QTest::addRow("body %d without face %d", kind, face) << kind << face;
    }
    void openingsArePatched() {
        QFETCH(int, kind);
        QFETCH(int, face);
        Random random(9);
        const TopoDS_Shape whole = body(kind);
        const auto open = stitch(takenApart(whole, random, 0.0, {face}), 1e-5);
        QVERIFY2(open, said(open));
        QCOMPARE(solidsIn(open->shape), 0);
        // Open still, it looks outwards already, whichever way its faces came; a plate without its top is the hardest
        // of these.
        Bnd_Box box;
        BRepBndLib::Add(open->shape, box, false);
        GProp_GProps about(gp_Pnt(0.5 * (box.CornerMin().XYZ() + box.CornerMax().XYZ())));
        BRepGProp::VolumeProperties(open->shape, about);
        QVERIFY(about.Mass() > 0.0);
        const double before = volumeOf(whole);
        const TopoDS_Shape received = open->shape;
        Json at =
            Json::array();  // asked for one by one: a plate without its top might be a tray, and would be left alone
        for (const mend::OpenLoop& loop : mend::openLoops(Incidence(received)))
            at.push_back({loop.middle.X(), loop.middle.Y(), loop.middle.Z()});
        const auto done = run(asModel(received), "mend.patch", {{"at", at}});
        QVERIFY2(done, said(done));
        QCOMPARE(solidsIn(shapeOf(done)), 1);
        QVERIFY(isValid(shapeOf(done)));
        QCOMPARE(facesIn(shapeOf(done)), facesIn(whole));
        QCOMPARE_NEAR(volumeOf(shapeOf(done)), before, 1e-4 * before);
        // What was received is as it was.
        QCOMPARE(openEdgesIn(received), openEdgesIn(open->shape));
        QVERIFY(isValid(received));
    }
    void sheetsStayOpen() {
        // A tray: a block without its top is closed again, one without top and two sides is not a body.
        Random random(11);
        const auto sheet = stitch(takenApart(block(60, 40, 10), random, 0.0, {5, 6, 1}), 1e-5);
        QVERIFY2(sheet, said(sheet));
        const auto report = survey::findDefects(*asModel(sheet->shape).parts[0], {4.0, 1e-6, 0.0}, true, quietly());
        QVERIFY(report);
        QCOMPARE(report->openings, 0);
        QCOMPARE(std::count_if(report->defects.begin(), report->defects.end(),
                               [](const auto& d) { return d.kind == survey::DefectKind::Rim; }),
                 1);
        QVERIFY(!run(asModel(sheet->shape), "mend.patch"));  // nothing is nagged about, nothing is closed
    }
    void openingsCanBeDeclaredAsMeant() {
        // A box with a window in its side: an opening, until it is said to be meant.
        const TopoDS_Shape box = block(60, 40, 30);
        TopoDS_Compound bag;
        const BRep_Builder builder;
        builder.MakeCompound(bag);
        int number = 0;
        gp_Pnt window;
        for (TopExp_Explorer it(box, TopAbs_FACE); it.More(); it.Next())
            if (++number == 3)
                window = skinOf(it.Current()).centre;
            else
                builder.Add(bag, it.Current());
        Model model = modelOf(bag);
        const auto opened = findOperation("mend.makeSolids")->run(model, Json::object(), quietly());
        const Model& sheet = opened ? opened->model : model;
        const auto count = [](const Model& of, survey::DefectKind kind) {
            const auto report = survey::findDefects(*of.parts[0], {4.0, 1e-6, 0.0}, false, quietly());
            return report ? std::count_if(report->defects.begin(), report->defects.end(),
                                          [kind](const survey::Defect& d) { return d.kind == kind; })
                          : -1;
        };
        QCOMPARE(count(sheet, survey::DefectKind::Opening), 1);
        const auto elsewhere = findOperation("mend.leaveOpen")->run(sheet, {{"at", {{500.0, 0.0, 0.0}}}}, quietly());
        QVERIFY(!elsewhere);
        QVERIFY(!findOperation("mend.leaveOpen")
                     ->run(modelOf(TopoDS_Shape()), Json::object(), quietly()));  // a part without a shape
        const auto declared =
            findOperation("mend.leaveOpen")->run(sheet, {{"at", {{window.X(), window.Y(), window.Z()}}}}, quietly());
        QVERIFY2(declared, said(declared));
        QCOMPARE(count(declared->model, survey::DefectKind::Opening), 0);
        QCOMPARE(count(declared->model, survey::DefectKind::Rim), 1);
        const auto safe = findOperation("mend.mendSafe")->run(declared->model, Json::object(), quietly());
        QVERIFY(!safe || openEdgesIn(safe->model.parts[0]->shape) == 4);
        const auto patch = findOperation("mend.patch")->run(declared->model, Json::object(), quietly());
        QVERIFY(!patch);
        // Asked for by its place it is closed all the same, and what was not declared is closed by itself.
        const auto byPlace = findOperation("mend.patch")
                                 ->run(declared->model, {{"at", {{window.X(), window.Y(), window.Z()}}}}, quietly());
        QVERIFY2(byPlace, said(byPlace));
        QCOMPARE(openEdgesIn(byPlace->model.parts[0]->shape), 0);
        const auto plain = findOperation("mend.mendSafe")->run(sheet, Json::object(), quietly());
        QVERIFY2(plain, said(plain));
        QCOMPARE(openEdgesIn(plain->model.parts[0]->shape), 0);
    }
    void thinWallsSetTheSafeLimit() {
        // A coin has no short edge: its rim is what a wide limit would swallow.
        Random random(3);
        for (const double thickness : {0.05, 0.3}) {
            const TopoDS_Shape coin = takenApart(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 20, thickness), random);
            const Incidence incidence(coin);
            const auto rims = survey::pairRims(incidence, 1e-6, 1e-6, quietly());
            QVERIFY(rims);
            const auto [limit, why] = survey::safeGapLimit(*rims, 10.0);
            QCOMPARE_NEAR(limit, 0.5 * thickness, 1e-9);
            QVERIFY2(why.find("narrowest") != std::string::npos, why.c_str());
        }
        const Incidence thick(takenApart(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 20, 15), random));
        const auto rims = survey::pairRims(thick, 1e-6, 1e-6, quietly());
        QCOMPARE_NEAR(survey::safeGapLimit(*rims, 10.0).first, 1.0, 1e-9);
    }
    void voidsAndTouchingSkinsAreTold() {
        const auto of = [](const TopoDS_Shape& shape, survey::DefectKind kind) {
            const Model model = modelOf(shape);
            const auto report = survey::findDefects(*model.parts[0], {4.0, 1e-6, 0.0}, false, quietly());
            std::vector<survey::Defect> found;
            if (report)
                for (const survey::Defect& defect : report->defects)
                    if (defect.kind == kind) found.push_back(defect);
            return found;
        };
        gp_Trsf inside;
        inside.SetTranslation(gp_Vec(10, 10, 10));
        const auto voids = of(cut(block(60, 40, 30), moved(block(5, 6, 7), inside)), survey::DefectKind::InnerVoid);
        QCOMPARE(voids.size(), std::size_t(1));
        QCOMPARE_NEAR(voids[0].size, 210.0, 1e-6);
        QCOMPARE(voids[0].faces.size(), std::size_t(6));
        QCOMPARE_NEAR(voids[0].where.Distance(gp_Pnt(12.5, 13, 13.5)), 0.0, 1e-6);
        QVERIFY(of(block(60, 40, 30), survey::DefectKind::InnerVoid).empty());
        // Two blocks of one body that share a corner.
        gp_Trsf aside;
        aside.SetTranslation(gp_Vec(20, 20, 20));
        const TopoDS_Shape both = cut(cut(block(40, 40, 40), moved(block(20, 20, 20), aside)), block(20, 20, 20));
        const auto corner = of(both, survey::DefectKind::TouchesItself);
        QCOMPARE(corner.size(), std::size_t(1));
        QCOMPARE_NEAR(corner[0].where.Distance(gp_Pnt(20, 20, 20)), 0.0, 1e-6);
        for (int kind = 0; kind < 9; ++kind)
            QVERIFY2(of(body(kind), survey::DefectKind::TouchesItself).empty(), qPrintable(QString::number(kind)));
    }
    void sliversGoExactlyWhereNeighboursMeet() {
        // A step 0.03 mm wide along one side: with it gone the face beside it is carried on, and nothing is bent.
        gp_Trsf up;
        up.SetTranslation(gp_Vec(0, 0, 15));
        const TopoDS_Shape stepped = cut(block(60, 40, 20), moved(block(60, 0.03, 10), up));
        Model model = modelOf(stepped);
        model.targetSize = 4.0;
        const auto done = findOperation("mend.absorbSlivers")->run(model, Json::object(), quietly());
        QVERIFY2(done, said(done));
        const TopoDS_Shape& made = done->model.parts[0]->shape;
        QVERIFY(isValid(made));
        QCOMPARE(openEdgesIn(made), 0);
        QVERIFY(facesIn(made) <= 7);
        // Its faces lie where they were: planes of the block and no other.
        for (TopExp_Explorer it(made, TopAbs_FACE); it.More(); it.Next()) {
            const gp_Pnt at = skinOf(it.Current()).centre;
            const double off =
                std::min({std::abs(at.X()), std::abs(at.X() - 60), std::abs(at.Y()), std::abs(at.Y() - 40),
                          std::abs(at.Y() - 0.03), std::abs(at.Z()), std::abs(at.Z() - 20), std::abs(at.Z() - 15)});
            QVERIFY2(off < 1e-6, qPrintable(QString("%1 %2 %3").arg(at.X()).arg(at.Y()).arg(at.Z())));
        }
        QVERIFY(std::abs(volumeOf(made) - volumeOf(stepped)) <= 60 * 0.03 * 15 * 1.01);
    }
    void doubledFacesAreFoundAndDropped() {
        Random random(13);
        const TopoDS_Shape whole = body(1);
        TopoDS_Compound bag;
        const BRep_Builder builder;
        builder.MakeCompound(bag);
        int number = 0;
        for (TopExp_Explorer it(takenApart(whole, random), TopAbs_FACE); it.More(); it.Next()) {
            builder.Add(bag, it.Current());
            if (++number % 6 == 0) builder.Add(bag, BRepBuilderAPI_Copy(it.Current()).Shape());
        }
        const int doubles = number / 6;
        QVERIFY(doubles >= 3);
        const Model model = asModel(bag);
        const auto report = survey::findDefects(*model.parts[0], {4.0, 1e-6, 0.0}, true, quietly());
        QVERIFY(report);
        QCOMPARE(std::count_if(report->defects.begin(), report->defects.end(),
                               [](const auto& d) { return d.kind == survey::DefectKind::Doubled; }),
                 doubles);
        QCOMPARE(report->openings, 0);
        const auto dropped = run(model, "mend.dropDoubles");
        QVERIFY2(dropped, said(dropped));
        QCOMPARE(facesIn(shapeOf(dropped)), facesIn(whole));
        const auto safe = run(model, "mend.mendSafe");
        QVERIFY2(safe, said(safe));
        QCOMPARE_NEAR(volumeOf(shapeOf(safe)), volumeOf(whole), 1e-6 * volumeOf(whole));
    }
    void soundBodiesHaveNoDefects() {
        for (const int kind : {0, 1, 2, 6, 9}) {
            const auto report = survey::findDefects(*asModel(body(kind)).parts[0], {4.0, 1e-6, 0.0}, true, quietly());
            QVERIFY(report);
            QVERIFY2(report->defects.empty(), report->defects.empty() ? "" : report->defects.front().what.c_str());
            QVERIFY(report->watertight);
            QVERIFY(!run(asModel(body(kind)), "mend.mendSafe"));
        }
    }
    void theArmAsReceivedIsMended_data() {
        QTest::addColumn<QString>("file");
        QTest::newRow("STEP") << "hanger-arm-as-received.step";
        QTest::newRow("IGES") << "hanger-arm-as-received.igs";
    }
    void theArmAsReceivedIsMended() {
        QFETCH(QString, file);
        std::ifstream stream(demoFile("hanger-arm-as-received.json"));
        const Json truth = Json::parse(stream);
        auto model = exchange::readFile(demoFile(file.toStdString()), {}, quietly());
        QVERIFY2(model, said(model));
        model->targetSize = 4.0;
        const auto report = survey::findDefects(*model->parts[0], {4.0, 1e-6, 0.0}, true, quietly());
        QVERIFY(report);
        std::map<survey::DefectKind, int> counts;
        std::set<int> wide;
        for (const auto& defect : report->defects) {
            ++counts[defect.kind];
            if (defect.kind == survey::DefectKind::Gap && defect.size > 1e-3)
                wide.insert(defect.faces.begin(), defect.faces.end());
        }
        QCOMPARE(counts[survey::DefectKind::Doubled], truth["doubled"].get<int>());
        QCOMPARE(counts[survey::DefectKind::RunsOver], static_cast<int>(truth["overlong_mm"].size()));
        QCOMPARE(counts[survey::DefectKind::PartlyDoubled], 0);
        QCOMPARE(counts[survey::DefectKind::Sliver], static_cast<int>(truth["slivers_mm"].size()));
        QCOMPARE(counts[survey::DefectKind::TinyEdge],
                 2 * static_cast<int>(truth["slivers_mm"].size()));  // their short sides
        for (const auto& defect : report->defects) {
            const auto told = [&](const char* list) {
                return std::any_of(truth[list].begin(), truth[list].end(), [&](const Json& size) {
                    return std::abs(size.get<double>() - defect.size) < 1e-3 * defect.size;
                });
            };
            if (defect.kind == survey::DefectKind::RunsOver) QVERIFY(told("overlong_mm"));
            if (defect.kind == survey::DefectKind::Sliver) QVERIFY(told("slivers_mm"));
        }
        QCOMPARE(counts[survey::DefectKind::StrayBody], truth["stray"].get<int>());
        // A wall that is missing leaves two openings, a flat face one for its outline and those of its holes that open
        // there.
        QVERIFY(report->openings >= static_cast<int>(truth["missing"].size()));
        QVERIFY(report->openings <= static_cast<int>(truth["missing"].size()) + 3);
        QCOMPARE(counts[survey::DefectKind::LooseEnd], 0);
        QCOMPARE(counts[survey::DefectKind::Unsound], 0);
        QVERIFY(wide.size() > truth["shifted_mm"].size());  // each moved face and its neighbours
        QVERIFY(!report->watertight);

        Work work(*model, "arm");
        work = work.withStep("mend.mendSafe", Json::object());
        {
            // One face lies 0.45 mm aside: that is left for a look, and told.
            measure::FactsCache own;
            const auto safe = work.replayed(own, quietly());
            QVERIFY2(safe, said(safe));
            const auto& items = safe->ledger().steps[0].items;
            QVERIFY(std::any_of(items.begin(), items.end(), [](const Item& item) {
                return !item.done && item.problem.what.find("more than the safe limit") != std::string::npos;
            }));
        }
        work = work.withStep("mend.stitch", {{"upTo", 0.6}})
                   .withStep("mend.dropStray", Json::object())
                   .withStep("mend.absorbSlivers", Json::object())
                   .withStep("mend.mergeFaces", Json::object());
        measure::FactsCache facts;
        const auto done = work.replayed(facts, quietly());
        QVERIFY2(done, said(done));
        for (const Step& step : done->ledger().steps)
            QVERIFY2(step.state == StepState::Done, step.problem ? step.problem->what.c_str() : "");
        const TopoDS_Shape& mended = done->current().parts[0]->shape;
        const double volume = truth["volume_mm3"];
        QCOMPARE(solidsIn(mended), 1);
        QCOMPARE(openEdgesIn(mended), 0);
        QCOMPARE(facesIn(mended), truth["faces"].get<int>());
        QCOMPARE_NEAR(volumeOf(mended), volume, 1e-4 * volume);
        QVERIFY(isValid(mended));
        // Off and on again: as before.
        const auto off = done->withStepSwitched(0, false).replayed(facts, quietly(), true);
        QVERIFY(off);
        const auto again = off->withStepSwitched(0, true).replayed(facts, quietly(), true);
        QVERIFY(again);
        QCOMPARE_NEAR(volumeOf(again->current().parts[0]->shape), volumeOf(mended), 1e-9 * volume);
    }
    void needlessEdgesAndVerticesAreMerged() {
        // Bodies united from pieces, so that planes, cylinders and circles come in parts.
        const gp_Ax1 up(gp_Pnt(20, 20, 0), gp_Dir(0, 0, 1));
        const TopoDS_Shape bar = fuse(block(40, 40, 10), moved(block(30, 40, 10), shift(40, 0, 0)));
        const TopoDS_Shape stacked = fuse(rod(up, 8, 15), rod(gp_Ax1(gp_Pnt(20, 20, 15), gp_Dir(0, 0, 1)), 8, 20));
        const TopoDS_Shape halves = fuse(cut(block(40, 40, 10), fuse(rod(up, 6, 10), block(40, 20, 10))),
                                         cut(block(40, 20, 10), rod(up, 6, 10)));
        struct Case {
            TopoDS_Shape shape;
            int faces, edges;
        };
        for (const Case& one :
             {Case{bar, 6, 12}, Case{stacked, 3, 4 /* its seam stays in two pieces */}, Case{halves, 7, 15}}) {
            const Model model = asModel(one.shape);
            const auto report = survey::findDefects(*model.parts[0], {4.0, 1e-6, 0.0}, true, quietly());
            QVERIFY(report);
            QVERIFY(std::any_of(report->defects.begin(), report->defects.end(),
                                [](const auto& d) { return d.kind == survey::DefectKind::NeedlessEdge; }));
            const auto done = run(model, "mend.mergeFaces");
            QVERIFY2(done, said(done));
            QCOMPARE(facesIn(shapeOf(done)), one.faces);
            QCOMPARE(Incidence(shapeOf(done)).edgeCount(), one.edges);
            QCOMPARE(solidsIn(shapeOf(done)), 1);
            QVERIFY(isValid(shapeOf(done)));
            QCOMPARE_NEAR(volumeOf(shapeOf(done)), volumeOf(one.shape), 1e-9 * volumeOf(one.shape));
            QVERIFY(isValid(one.shape));  // what was there is untouched
            QCOMPARE(facesIn(one.shape), facesIn(model.parts[0]->shape));
            QVERIFY(done->lineage[0].faces().size() >= static_cast<std::size_t>(facesIn(shapeOf(done))));
            QVERIFY(!run(done->model, "mend.mergeFaces"));
            const auto after = survey::findDefects(*done->model.parts[0], {4.0, 1e-6, 0.0}, true, quietly());
            QVERIFY(after && after->defects.empty());
        }
    }
    void absurdRequestsAreRefused() {
        Random random(17);
        const Model model = asModel(takenApart(block(10, 10, 10), random));
        QVERIFY(!run(model, "mend.stitch", {{"upTo", -1.0}}));
        QVERIFY(!run(model, "mend.stitch", {{"upTo", std::numeric_limits<double>::infinity()}}));
        QVERIFY(!run(model, "mend.stitch", {{"parts", {"no such"}}}));
        QVERIFY(!run(model, "mend.deleteFaces", {{"faces", Json::array()}}));
        QVERIFY(!run(asModel(block(1, 1, 1)), "mend.stitch", {{"upTo", 1.0}}));
        Progress stopped;
        stopped.cancel();
        const auto cancelled = findOperation("mend.mendSafe")->run(model, Json::object(), stopped);
        QVERIFY(!cancelled);
        QVERIFY(cancelled.error().kind == ProblemKind::Cancelled);
        // Far too wide: what comes of it is sound, or it is refused.
        const auto wide = run(model, "mend.stitch", {{"upTo", 1000.0}});
        if (wide) QCOMPARE_NEAR(volumeOf(shapeOf(wide)), 1000.0, 1e-6);
    }
    void keptGapsStayOpen() {
        Random random(19);
        const Model model = asModel(takenApart(block(10, 20, 30), random));
        const Part& part = *model.parts[0];
        const auto rims = survey::pairRims(part.incidence(), 1e-4, 1e-6, quietly());
        QVERIFY(rims);
        const survey::RimPiece& piece = rims->pieces.front();
        mend::Stitch step;
        step.upTo = 1e-4;
        step.kept.emplace_back(makeFaceRef(part, piece.face),
                               makeFaceRef(part, rims->pieces[static_cast<std::size_t>(piece.partner)].face));
        const auto done = run(model, "mend.stitch", Json(step));
        QVERIFY2(done, said(done));
        QCOMPARE(openEdgesIn(shapeOf(done)), 2);
        step.only = step.kept;
        step.kept.clear();
        const auto one = run(model, "mend.stitch", Json(step));
        QVERIFY2(one, said(one));
        QCOMPARE(openEdgesIn(shapeOf(one)), 22);
    }

private:
    static gp_Trsf shift(double x, double y, double z) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(x, y, z));
        return by;
    }
};

static Registered<MendTest> mendTest;

}  // namespace rasoir::test
#include "mend_test.moc"
