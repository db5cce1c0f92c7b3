// Inner corners made sharp are noted, and the note goes where the corner goes.
#include "survey/stress_notes.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <QTemporaryDir>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "common/safe_file.h"
#include "exchange/files.h"
#include "exchange/groups.h"
#include "exchange/work_file.h"
#include "model/reference.h"
#include "model/work.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "topology/edge_angle.h"

namespace rasoir::test {

class StressNotesTest : public QObject {
    Q_OBJECT

    QTemporaryDir m_folder;

    static TopoDS_Shape
    angle() {  // a block 40 x 30 x 20 without its upper right half: the inner corner runs along y at x = 20, z = 10
        gp_Trsf shift;
        shift.SetTranslation(gp_Vec(20, 0, 10));
        return cut(block(40, 30, 20), moved(block(30, 30, 20), shift));
    }
    /// The inner corner with a round of this radius, one outer edge too.
    static TopoDS_Shape rounded(double radius) {
        const TopoDS_Shape raw = angle();
        const Incidence topology(raw);
        BRepFilletAPI_MakeFillet fillet(raw);
        bool outer = false;
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const EdgeKind kind = edgeAngle(topology, e).kind;
            if (kind == EdgeKind::Concave)
                fillet.Add(radius, TopoDS::Edge(topology.edge(e)));
            else if (const BRepAdaptor_Curve curve(topology.edge(e));
                     !outer && std::abs(curve.Value(curve.FirstParameter()).X()) < 1e-9 &&
                     std::abs(curve.Value(curve.LastParameter()).X()) < 1e-9 &&
                     curve.Value(curve.FirstParameter()).Z() > 19 && curve.Value(curve.LastParameter()).Z() > 19) {
                fillet.Add(2.0, TopoDS::Edge(topology.edge(e)));
                outer = true;
            }
        }
        return fillet.Shape();
    }
    static Model shaved(const TopoDS_Shape& shape, double upTo) {
        const auto done = run(modelOf(shape, "angle"), "shave.removeRounds", {{"upTo", upTo}});
        return done ? done->model : Model();
    }

private slots:
    void innerCornersAreNotedWithTheirRadius() {
        for (const double factor : {1.0, 0.001, 1000.0}) {
            const Model model = shaved(scaledBy(rounded(4.0), factor), 10.0 * factor);
            QCOMPARE(model.parts.size(), std::size_t(1));
            QCOMPARE_NEAR(volumeOf(model.parts[0]->shape), 18000.0 * factor * factor * factor,
                          1e-6 * 18000 * factor * factor * factor);
            const auto notes = survey::stressNotes(*model.parts[0]);
            QCOMPARE(notes.size(), std::size_t(1));  // the outer edge is none
            QCOMPARE(notes[0].edges.size(), std::size_t(1));
            QCOMPARE_NEAR(notes[0].radius, 4.0 * factor, 1e-6 * factor);
            QCOMPARE_NEAR(notes[0].length, 30.0 * factor, 1e-6 * factor);
            QVERIFY(notes[0].where.Distance(gp_Pnt(20 * factor, 15 * factor, 10 * factor)) < 1e-6 * factor);
            QCOMPARE(edgeAngle(model.parts[0]->incidence(), notes[0].edges[0]).kind, EdgeKind::Concave);
        }
        // Only what went is noted.
        const Model outerOnly = shaved(rounded(4.0), 3.0);
        QVERIFY(!outerOnly.parts.empty() && survey::stressNotes(*outerOnly.parts[0]).empty());
    }
    void everyCornerGetsItsOwnRadius() {
        // A pocket: its walls meet in R 8 corners, walls and floor in an R 4 chain that runs round below them.
        gp_Trsf shift;
        shift.SetTranslation(gp_Vec(10, 10, 10));
        const TopoDS_Shape raw = cut(block(80, 60, 30), moved(block(60, 40, 30), shift));
        const auto filleted = [](const TopoDS_Shape& shape, double radius, bool upright) {
            const Incidence topology(shape);
            BRepFilletAPI_MakeFillet fillet(shape);
            for (int e = 1; e <= topology.edgeCount(); ++e) {
                const BRepAdaptor_Curve curve(topology.edge(e));
                const double low = curve.Value(curve.FirstParameter()).Z(),
                             high = curve.Value(curve.LastParameter()).Z();
                if (edgeAngle(topology, e).kind == EdgeKind::Concave &&
                    (upright ? std::abs(low - high) > 1.0 : std::abs(low - high) < 1e-6 && std::abs(low - 10) < 1e-6))
                    fillet.Add(radius, TopoDS::Edge(topology.edge(e)));
            }
            return fillet.Shape();
        };
        const Model model = shaved(filleted(filleted(raw, 8.0, true), 4.0, false), 10.0);
        QVERIFY(!model.parts.empty());
        QCOMPARE_NEAR(volumeOf(model.parts[0]->shape), volumeOf(raw), 1e-6 * volumeOf(raw));
        int upright = 0, level = 0;
        for (const auto& note : survey::stressNotes(*model.parts[0])) {
            const bool stands = std::abs(note.where.Z() - 20.0) < 1e-6;
            QCOMPARE_NEAR(note.radius, stands ? 8.0 : 4.0, 1e-6);
            ++(stands ? upright : level);
        }
        QCOMPARE(upright, 4);
        QCOMPARE(level, 4);
    }
    void aPickedRoundIsNotedToo() {
        const Model model = modelOf(rounded(4.0), "angle");
        int face = 0;
        for (int f = 1; f <= model.parts[0]->incidence().faceCount(); ++f)
            if (const BRepAdaptor_Surface surface(model.parts[0]->incidence().face(f));
                surface.GetType() == GeomAbs_Cylinder && std::abs(surface.Cylinder().Radius() - 4.0) < 1e-9)
                face = f;
        QVERIFY(face > 0);
        const auto done =
            run(model, "shave.removeFaces", {{"faces", Json::array({Json(makeFaceRef(*model.parts[0], face))})}});
        QVERIFY2(done, said(done));
        QCOMPARE(survey::stressNotes(*done->model.parts[0]).size(), std::size_t(1));
    }
    void theNoteFollowsThePart() {
        const Model model = shaved(rounded(4.0), 10.0);
        // Later steps: a hole elsewhere goes on carrying it; so do joining and the image of a mirrored pair.
        auto joined = model;
        Occurrence second = joined.occurrences[0];
        gp_Trsf there;
        there.SetTranslation(gp_Vec(0, 100, 0));
        second.placement = there;
        joined.occurrences.push_back(second);
        const auto one = run(joined, "intake.joinParts", {{"places", Json::array()}});
        QVERIFY2(one, said(one));
        const auto notes = survey::stressNotes(*one->model.parts[0]);
        QCOMPARE(notes.size(), std::size_t(2));
        QVERIFY(std::abs(notes[0].where.Y() - notes[1].where.Y()) > 99.0);
        // A shape without that corner has no such note, whatever the part remembers.
        const auto other = model.parts[0]->withShape(block(40, 30, 20), {});
        QVERIFY(!other->sharpened.empty() && survey::stressNotes(*other).empty());
    }
    void theNoteIsKeptWithTheWork() {
        Work work(modelOf(rounded(4.0), "angle"), "angle.step");
        measure::FactsCache facts;
        const auto done = work.withStep("shave.removeRounds", {{"upTo", 10.0}}).replayed(facts, quietly());
        QVERIFY2(done, said(done));
        const std::filesystem::path path = m_folder.filePath("angle.rasoir").toStdString();
        QVERIFY(exchange::saveWork(*done, Json::object(), path, quietly()));
        const auto back = exchange::openWork(path, quietly());
        QVERIFY2(back, said(back));
        const Part& part = *back->work.current().parts[0];
        QCOMPARE(survey::stressNotes(part).size(), std::size_t(1));
        QCOMPARE_NEAR(part.sharpened[0].radius, 4.0, 1e-9);
        // What is meant open is kept as well.
        auto tray = modelOf(block(10, 10, 10), "tray");
        auto open = tray.parts[0]->copy();
        open->meantOpen = {gp_Pnt(5, 5, 10)};
        tray.parts[0] = open;
        QVERIFY(exchange::saveWork(Work(tray, "tray.step"), Json::object(), path, quietly()));
        const auto again = exchange::openWork(path, quietly());
        QVERIFY2(again, said(again));
        QCOMPARE(again->work.current().parts[0]->meantOpen.size(), std::size_t(1));
    }
    void theExportCarriesTheGroup() {
        Model model = shaved(rounded(4.0), 10.0);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), M_PI / 2);
        model.occurrences.change(0).placement = turn;
        const std::filesystem::path path = m_folder.filePath("out.step").toStdString();
        const auto written = exchange::writeFile(model, path, {}, quietly());
        QVERIFY2(written, said(written));
        const auto text = readText(exchange::groupsBeside(path));
        QVERIFY2(text, said(text));
        const Json file = Json::parse(*text);
        QCOMPARE(file["groups"].size(), std::size_t(1));
        QCOMPARE(file["groups"][0]["name"].get<std::string>(), std::string("fictitious stress"));
        const Json& edge = file["groups"][0]["edges"][0];
        QCOMPARE_NEAR(edge["radius_mm"].get<double>(), 4.0, 1e-9);
        QCOMPARE_NEAR(edge["points_mm"][2][0].get<double>(), -15.0, 1e-6);  // the place's coordinates, not the part's
        QCOMPARE_NEAR(edge["points_mm"][2][1].get<double>(), 20.0, 1e-6);
        // Written anew without such corners, the file says so; where there was none, none appears.
        QVERIFY(exchange::writeFile(modelOf(angle(), "angle"), path, {}, quietly()));
        QVERIFY(Json::parse(*readText(exchange::groupsBeside(path)))["groups"].empty());
        const std::filesystem::path plain = m_folder.filePath("plain.brep").toStdString();
        QVERIFY(exchange::writeFile(modelOf(angle(), "angle"), plain, {}, quietly()));
        QVERIFY(!std::filesystem::exists(exchange::groupsBeside(plain)));
    }
};

static Registered<StressNotesTest> stressNotesTest;

}  // namespace rasoir::test

#include "stress_notes_test.moc"
