// What an export proves, and what another reader finds in the file.
#include "handover/export.h"

#include <BRepPrimAPI_MakeSphere.hxx>
#include <QTemporaryDir>

#include "common/safe_file.h"
#include "exchange/groups.h"
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

private slots:
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
        fewer.occurrences.pop_back();
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
