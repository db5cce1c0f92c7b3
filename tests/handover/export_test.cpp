// What an export proves, and what another reader finds in the file.
#include "handover/export.h"

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <QTemporaryDir>
#include <TopoDS.hxx>

#include "common/safe_file.h"
#include "exchange/groups.h"
#include "geometry/integrals.h"
#include "handover/report.h"
#include "measure/frames.h"
#include "model/reference.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace handover;

class ExportTest : public QObject {
    Q_OBJECT
    QTemporaryDir m_folder;

    [[nodiscard]] std::string at(const char* name) const { return m_folder.filePath(name).toStdString(); }
    /// A plate in two places, one of them turned, and a ball.
    static Model assembly() {
        Model model;
        model.name = "assembly";
        gp_Trsf turn, aside;
        turn.SetRotation(gp_Ax1(gp_Pnt(7, 3, 1), gp_Dir(1, 2, 3)), 0.6);
        aside.SetTranslation(gp_Vec(300, 0, 0));
        model.parts = {std::make_shared<Part>(
                           "plate", cut(block(100, 60, 8), rod(gp_Ax1(gp_Pnt(30, 30, -1), gp_Dir(0, 0, 1)), 4, 10))),
                       std::make_shared<Part>("ball", BRepPrimAPI_MakeSphere(12.0).Shape())};
        model.occurrences.push_back({0, gp_Trsf(), "plate", {}, std::nullopt});
        model.occurrences.push_back({1, turn, "ball", {}, std::nullopt});
        model.occurrences.push_back({0, aside * turn, "plate", {}, std::nullopt});
        model.giveIds();
        return model;
    }
    /// With a group of faces and of edges on the plate.
    static Model grouped() {
        const Model model = assembly();
        const Part& plate = *model.parts[0];
        Json faces = Json::array(), edges = Json::array();
        for (const int f : {1, 2, 3}) faces.push_back(makeRef(plate, {EntityKind::Face, f}));
        edges.push_back(makeRef(plate, {EntityKind::Edge, 1}));
        const auto one = run(model, "handover.group", {{"name", "load"}, {"things", faces}});
        const auto two = run(one->model, "handover.group", {{"name", "support"}, {"things", edges}});
        return two->model;
    }

    static int faceAt(const Part& part, const gp_Pnt& middle) {
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (skinOf(part.incidence().face(f)).centre.Distance(middle) < 1e-6) return f;
        return 0;
    }
    static Model framed(const Model& model, const char* name, const std::vector<Entity>& things) {
        Json refs = Json::array();
        for (const Entity& thing : things) refs.push_back(makeRef(*model.parts[0], thing));
        return run(model, "handover.group", {{"name", name}, {"purpose", measure::framePurpose}, {"things", refs}})
            ->model;
    }

private slots:
    void coordinateSystemsHangOnWhatTheyAreTakenFrom() {
        Model model = modelOf(cut(block(100, 60, 8), rod(gp_Ax1(gp_Pnt(30, 20, -1), gp_Dir(0, 0, 1)), 4, 10)), "plate");
        gp_Trsf place;
        place.SetTranslation(gp_Vec(1000, 0, 0));
        model.occurrences.change(0).placement = place;
        model.giveIds();
        const Part& plate = *model.parts[0];
        const Entity side{EntityKind::Face, faceAt(plate, gp_Pnt(100, 30, 4))},
            hole{EntityKind::Face, faceAt(plate, gp_Pnt(30, 20, 4))};
        int top = 0;
        for (int f = 1; f <= plate.incidence().faceCount(); ++f)
            if (const gp_Pnt c = skinOf(plate.incidence().face(f)).centre; std::abs(c.Z() - 8) < 1e-6) top = f;
        model = framed(model, "side", {side});
        model = framed(model, "hole", {hole});
        model = framed(model, "seat", {hole, {EntityKind::Face, top}});
        std::vector<Entity> corners;
        for (int v = 1; v <= plate.incidence().vertexCount(); ++v) {
            const gp_Pnt p = BRep_Tool::Pnt(TopoDS::Vertex(plate.incidence().vertex(v)));
            for (const gp_Pnt& wanted : {gp_Pnt(0, 0, 8), gp_Pnt(100, 0, 8), gp_Pnt(0, 60, 8)})
                if (p.Distance(wanted) < 1e-6) corners.push_back({EntityKind::Vertex, v});
        }
        QCOMPARE(corners.size(), std::size_t(3));
        model = framed(model, "corner", corners);
        model = framed(model, "nothing", {{EntityKind::Edge, 1}});
        const auto check = [](const measure::Frame& frame, const char* name, const gp_Pnt& origin, const gp_Dir& x,
                              const gp_Dir& z) {
            QCOMPARE(frame.name, std::string(name));
            QVERIFY(frame.axes.Location().Distance(origin) < 1e-9);
            QVERIFY(frame.axes.XDirection().IsEqual(x, 1e-9) && frame.axes.Direction().IsEqual(z, 1e-9));
        };
        auto frames = measure::framesOf(model);
        QCOMPARE(frames.size(), std::size_t(4));  // an edge alone says none
        check(frames[0], "side", gp_Pnt(1100, 30, 4), gp::DY(), gp::DX());
        check(frames[1], "hole", gp_Pnt(1030, 20, 4), gp::DX(), gp::DZ());
        check(frames[2], "seat", gp_Pnt(1030, 20, 8), gp::DX(), gp::DZ());
        check(frames[3], "corner", gp_Pnt(1000, 0, 8), gp::DX(), gp::DZ());
        // They follow: the plate is moved, and the side is pushed outwards.
        const auto moved = run(model, "intake.move", {{"places", {"plate"}}, {"shift", {0, 0, 50}}});
        QVERIFY2(moved, said(moved));
        const auto pushed = run(moved->model, "shave.moveFaces",
                                {{"faces", {makeFaceRef(*moved->model.parts[0], side.number)}}, {"by", 5.0}});
        QVERIFY2(pushed, said(pushed));
        frames = measure::framesOf(pushed->model);
        QCOMPARE(frames.size(), std::size_t(4));
        check(frames[0], "side", gp_Pnt(1105, 30, 54), gp::DY(), gp::DX());
        check(frames[2], "seat", gp_Pnt(1030, 20, 58), gp::DX(), gp::DZ());
    }
    void anExportIsWrittenInACoordinateSystem() {
        Model model = modelOf(block(100, 60, 8), "plate");
        model.giveIds();
        model = framed(model, "side", {{EntityKind::Face, faceAt(*model.parts[0], gp_Pnt(100, 30, 4))}});
        ExportWanted wanted;
        wanted.path = at("seen.step");
        wanted.places = {0};
        wanted.axes = "side";
        const auto written = exportAll(model, wanted, quietly());
        QVERIFY2(written, said(written));
        QVERIFY(written->front().told.find("read back and compared") != std::string::npos);
        const auto read = exchange::readFile(at("seen.step"), {}, quietly());
        QVERIFY2(read, said(read));
        // Seen from the side: Z out of it, X along its longer edge (60), so that the plate lies behind in Z.
        Bnd_Box box;
        BRepBndLib::Add(read->parts[0]->shape.Moved(TopLoc_Location(read->occurrences[0].placement)), box, false);
        box.SetGap(0.0);
        QVERIFY(box.CornerMin().Distance(gp_Pnt(-30, -4, -100)) < 1e-6);
        QVERIFY(box.CornerMax().Distance(gp_Pnt(30, 4, 0)) < 1e-6);
        // The file beside it speaks in the same coordinates.
        const Json beside = Json::parse(*readText(at("seen.groups.json")));
        QCOMPARE(beside.at("coordinateSystems").size(), std::size_t(1));
        QCOMPARE(beside.at("coordinateSystems")[0].at("name").get<std::string>(), std::string("side"));
        for (const Json& number : beside.at("coordinateSystems")[0].at("origin_mm"))
            QVERIFY(std::abs(number.get<double>()) < 1e-9);
        wanted.axes = "top";
        const auto unknown = exportAll(model, wanted, quietly());
        QVERIFY(!unknown);
        QVERIFY(sentence(unknown.error()).find("There is \"side\"") != std::string::npos);
    }
    void everyBodyIsReadBack() {
        const Model model = assembly();
        for (const char* name : {"a.step", "a.brep"}) {
            const auto proof = exportFile(model, at(name), {}, quietly());
            QVERIFY2(proof, said(proof));
            QCOMPARE(proof->bodies.size(), std::size_t(std::string(name) == "a.step" ? 3 : 1));
            for (const ExportProof::Body& body : proof->bodies) {
                QCOMPARE_NEAR(body.volume, body.volumeRead, 1e-9 * body.volume);
                QCOMPARE_NEAR(body.area, body.areaRead, 1e-9 * body.area);
                QVERIFY(body.apart < 1e-6);
            }
            QVERIFY(proof->told().find("read back") != std::string::npos);
        }
        exchange::WriteOptions inches;
        inches.unit = Unit::Inch;
        const auto proof = exportFile(model, at("inches.step"), inches, quietly());
        QVERIFY2(proof, said(proof));
    }
    void whatDoesNotReadBackIsNotWritten() {
        const std::string path = at("kept.step");
        QVERIFY(writeText(path, "what was there"));
        exchange::WriteOptions options;
        options.proof = [](const Model&, const Model&, bool) -> Result<void> {
            return fail(ProblemKind::NotPossible, "It differs.");
        };
        const auto done = exchange::writeFile(assembly(), path, options, quietly());
        QVERIFY(!done);
        QCOMPARE(done.error().what, std::string("It differs."));
        QCOMPARE(*readText(path), std::string("what was there"));
    }
    void aBodyThatTheFileLacksIsNamed() {
        // The proof itself, with a file of another model: one body fewer, and one of another size.
        exchange::WriteOptions options;
        Model other = assembly();
        other.parts[1] = std::make_shared<Part>("ball", BRepPrimAPI_MakeSphere(12.001).Shape());
        QVERIFY(exchange::writeFile(other, at("other.step"), options, quietly()));
        const auto read = exchange::readFile(at("other.step"), {}, quietly());
        QVERIFY2(read, said(read));
        const auto compared = proved(assembly(), *read, true, quietly());
        QVERIFY(!compared);
        QVERIFY2(compared.error().what.find("\"ball\"") != std::string::npos, compared.error().what.c_str());
        Model fewer = assembly();
        fewer.occurrences.erase(fewer.occurrences.size() - 1);
        QVERIFY(!proved(assembly(), fewer, true, quietly()));
        QVERIFY(!proved(fewer, assembly(), true, quietly()));
        QVERIFY(proved(fewer, fewer, true, quietly()));
    }
    void groupsAreShapeAspectsInAp242() {
        exchange::WriteOptions options;
        options.schema = exchange::StepSchema::Ap242;
        const auto proof = exportFile(grouped(), at("grouped.step"), options, quietly());
        QVERIFY2(proof, said(proof));
        const std::string text = *readText(at("grouped.step"));
        const auto count = [&](const std::string& what) {
            std::size_t found = 0;
            for (std::size_t i = text.find(what); i != std::string::npos; i = text.find(what, i + 1)) ++found;
            return found;
        };
        QCOMPARE(count("SHAPE_ASPECT('load'"), std::size_t(1));
        QCOMPARE(count("SHAPE_ASPECT('support'"), std::size_t(1));
        QCOMPARE(count("GEOMETRIC_ITEM_SPECIFIC_USAGE("), std::size_t(4));
        // Each usage names a face or an edge that is in the file.
        std::size_t faces = 0, edges = 0;
        for (std::size_t i = text.find("GEOMETRIC_ITEM_SPECIFIC_USAGE("); i != std::string::npos;
             i = text.find("GEOMETRIC_ITEM_SPECIFIC_USAGE(", i + 1)) {
            const std::size_t end = text.find(");", i), hash = text.rfind('#', end);
            const std::string id = text.substr(hash, end - hash);
            faces += text.find("\n" + id + " = ADVANCED_FACE") != std::string::npos;
            edges += text.find("\n" + id + " = EDGE_CURVE") != std::string::npos;
        }
        QCOMPARE(faces, std::size_t(3));
        QCOMPARE(edges, std::size_t(1));
        // The older schema has no such thing: names of faces say it there.
        QVERIFY(exportFile(grouped(), at("older.step"), {}, quietly()));
        const std::string older = *readText(at("older.step"));
        QVERIFY(older.find("GEOMETRIC_ITEM_SPECIFIC_USAGE") == std::string::npos);
        QVERIFY(older.find("'load'") != std::string::npos);
    }
    void placesThatAreNamedDifferentlyBecomeProducts() {
        // The load is on one of two plates alone; in the file a name holds for all places of its product.
        const Model model = assembly();
        EntityRef top = makeRef(*model.parts[0], {EntityKind::Face, 2});
        top.place = "plate #2";
        const auto loaded = run(model, "handover.group", {{"name", "load"}, {"things", {top}}});
        QVERIFY2(loaded, said(loaded));
        const auto proof = exportFile(loaded->model, at("places.step"), {}, quietly());
        QVERIFY2(proof, said(proof));
        QCOMPARE(proof->bodies.size(), std::size_t(3));
        QCOMPARE(proof->groups.size(), std::size_t(1));
        QCOMPARE(proof->groups[0].faces, std::size_t(1));
        QCOMPARE(proof->groups[0].facesRead, std::size_t(1));
        QVERIFY(proof->told().starts_with("3 bodies and 1 group read back"));
        const auto read = exchange::readFile(at("places.step"), {}, quietly());
        QVERIFY2(read, said(read));
        QCOMPARE(read->parts.size(), std::size_t(3));  // two plates, one of them with a name on it
        const Group& load = read->groups.front();
        QCOMPARE(load.members.size(), std::size_t(1));
        const auto part = read->partOf(load.members.begin()->part);
        QVERIFY(part && read->parts[*part]->name.starts_with("plate"));
        // And where all places are named alike, they stay one product.
        top.place.clear();
        const auto both = run(model, "handover.group", {{"name", "load"}, {"things", {top}}});
        const auto one = exportFile(both->model, at("alike.step"), {}, quietly());
        QVERIFY2(one, said(one));
        QCOMPARE(one->groups[0].faces, std::size_t(2));
        const auto alike = exchange::readFile(at("alike.step"), {}, quietly());
        QVERIFY(alike && alike->parts.size() == 2);
    }
    void bothSidesOfAJoinedFaceAreNamedAsAPair() {
        Model model = modelOf(block(10, 10, 10), "low");
        model.occurrences.push_back({1, by(0, 0, 10), "high", {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>("high", block(10, 10, 10)));
        model.giveIds();
        const auto joined = run(model, "join.pairs", {{"upTo", 0.0}});
        QVERIFY2(joined, said(joined));
        const auto proof = exportFile(joined->model, at("pair.step"), {}, quietly());
        QVERIFY2(proof, said(proof));
        const auto read = exchange::readFile(at("pair.step"), {}, quietly());
        QVERIFY2(read, said(read));
        const auto pair = std::find_if(read->groups.begin(), read->groups.end(),
                                       [](const Group& group) { return group.name == "joined 1"; });
        QVERIFY(pair != read->groups.end());
        QCOMPARE(pair->members.size(), std::size_t(2));
        std::vector<gp_Pnt> middles;
        for (const Member& member : pair->members)
            for (const Occurrence& place : read->occurrences)
                if (place.part == *read->partOf(member.part))
                    middles.push_back(makeRef(*read->parts[place.part], member.entity).at.Transformed(place.placement));
        QCOMPARE(middles.size(), std::size_t(2));
        for (const gp_Pnt& middle : middles) QVERIFY(middle.Distance(gp_Pnt(5, 5, 10)) < 1e-6);
        // The file beside it says the same, with edges.
        const auto beside = readText(exchange::groupsBeside(at("pair.step")));
        QVERIFY2(beside, said(beside));
        std::map<std::string, int> kinds;
        const Json told = Json::parse(*beside);
        for (const Json& joint : told.at("joints")) {
            QCOMPARE(joint.at("uses").size(), std::size_t(2));
            QCOMPARE(joint.at("uses")[0].at("point_mm"), joint.at("uses")[1].at("point_mm"));
            ++kinds[joint.at("kind").get<std::string>()];
        }
        QCOMPARE(kinds["face"], 1);
        QCOMPARE(kinds["edge"], 4);
    }
    void theReportHoldsTheFileAgainstTheWork() {
        const Model model = grouped();
        const auto proof = exportFile(model, at("held.step"), {}, quietly());
        QVERIFY2(proof, said(proof));
        measure::FactsCache facts;
        ReportOptions options;
        options.pictures = false;
        options.mesh = true;
        options.exported = {at("held.step"), at("nothing.step")};
        const auto page = reportOf(Work(model, "assembly.step"), options, facts, quietly());
        QVERIFY2(page, said(page));
        QVERIFY(page->find("The exported file held.step") != std::string::npos);
        QVERIFY(page->find("<td>load</td><td class=number>6</td><td class=number>6</td>") != std::string::npos);
        QVERIFY(page->find("its skin lies no farther than") != std::string::npos);
        QVERIFY(page->find("The exported file nothing.step</h2>\n<p class=left>") != std::string::npos);
        QVERIFY(page->find("<td>least angle</td><td class=number>20 ") != std::string::npos);
        // A file of another model is told, with what is missing.
        const auto other = exportFile(modelOf(block(10, 20, 30), "other"), at("other.step"), {}, quietly());
        QVERIFY2(other, said(other));
        options.mesh = false;
        options.exported = {at("other.step")};
        const auto wrong = reportOf(Work(model, "assembly.step"), options, facts, quietly());
        QVERIFY2(wrong, said(wrong));
        QVERIFY(wrong->find("does not read back as it was") != std::string::npos);
    }
    void materialsAndValidationGoAlong() {
        const auto steel = run(assembly(), "intake.assignMaterial",
                               {{"parts", {"plate"}}, {"material", "made-up alloy"}, {"density", 4321.0}});
        QVERIFY2(steel, said(steel));
        QVERIFY(exportFile(steel->model, at("alloy.step"), {}, quietly()));
        const auto back = exchange::readFile(at("alloy.step"), {}, quietly());
        QVERIFY2(back, said(back));
        const auto plate = std::find_if(back->parts.begin(), back->parts.end(),
                                        [](const auto& part) { return part->name == "plate"; });
        QCOMPARE((*plate)->material, std::string("made-up alloy"));
        const Material* known = findMaterial(back->materials, "made-up alloy");
        QVERIFY(known != nullptr);
        QCOMPARE_NEAR(known->density, 4321.0, 1e-6);
        const std::string text = *readText(at("alloy.step"));
        QVERIFY(text.find("geometric validation property") != std::string::npos);
        // Grams by cubic centimetres: the translator's own exponents are 3 and 2.
        const std::size_t unit = text.find("= DERIVED_UNIT(", text.find("'made-up alloy'"));
        const std::size_t first = text.find("DERIVED_UNIT_ELEMENT", unit + 15);
        QVERIFY(text.substr(first, 40).find(",1.)") != std::string::npos);
        QVERIFY(text.substr(text.find("DERIVED_UNIT_ELEMENT", first + 10), 40).find(",-3.)") != std::string::npos);
    }
};

static Registered<ExportTest> exportTest;

}  // namespace rasoir::test

#include "export_test.moc"
