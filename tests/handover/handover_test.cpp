// Groups that follow, attributes, the check, and what another reader finds of it in the exported file.
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <gp_Pln.hxx>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <STEPCAFControl_Reader.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>

#include "common/safe_file.h"
#include "exchange/files.h"
#include "exchange/groups.h"
#include "handover/check.h"
#include "handover/groups.h"
#include "handover/report.h"
#include "measure/between.h"
#include "measure/mass.h"
#include "model/reference.h"
#include "model/work.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class HandoverTest : public QObject {
    Q_OBJECT

    static Model plate() {
        Model model = modelOf(drilledPlate(100, 60, 8, 4, 5), "plate");
        model.giveIds();
        model.targetSize = 4.0;
        return model;
    }
    static int faceAt(const Part& part, double z) {
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (const EntityRef ref = makeRef(part, {EntityKind::Face, f});
                std::abs(ref.at.Z() - z) < 1e-9 && ref.measure > 5000.0)
                return f;
        return 0;
    }

private slots:
    void drawingSpoilsNoCheck() {
        // As the window does: every state is drawn before the next step, which keeps edges that have been drawn.
        const auto received = exchange::readFile(demoFile("hanger-arm-as-received.step"), {}, quietly());
        QVERIFY2(received, said(received));
        Model model = *received;
        const auto draw = [](const Model& of) {
            for (const auto& part : of.parts) BRepMesh_IncrementalMesh(part->shape, 0.5, false, 0.35);
        };
        for (const auto& [operation, parameters] : {std::pair<std::string, Json>{"mend.mendSafe", Json::object()},
                                                    {"mend.collapseTiny", Json::object()},
                                                    {"shave.removeHoles", {{"upTo", 10.0}}},
                                                    {"shave.removeRounds", {{"upTo", 5.0}}}}) {
            draw(model);
            const auto done = run(model, operation, parameters);
            QVERIFY2(done, said(done));
            model = done->model;
        }
        const auto count = [&] {
            const auto found = handover::check(model, quietly());
            if (!found) throw std::logic_error(found.error().what);
            return std::count_if(found->begin(), found->end(), [](const handover::CheckFinding& one) {
                return one.severity == handover::Severity::Error;
            });
        };
        const auto before = count();
        draw(model);
        QCOMPARE(count(), before);
        QCOMPARE(before, std::ptrdiff_t(0));
    }
    void whatAPartLacksIsSpreadOverItsSkin() {
        const Model model = modelOf(block(100, 60, 8), "plate");
        const double modelled = 100 * 60 * 8 * 7850e-9;
        const auto massOf = [](const Model& of) {
            const auto facts = measure::factsOfParts(of, false, quietly());
            return measure::massOf(of, *facts);
        };
        const auto done = run(model, "handover.spreadMass", {{"parts", {"plate"}}, {"stated", 0.5}});
        QVERIFY2(done, said(done));
        const auto now = massOf(done->model);
        QCOMPARE_NEAR(now.mass, 0.5, 1e-9);
        QVERIFY(now.centre.Distance(gp_Pnt(50, 30, 4)) < 1e-6);
        QCOMPARE_NEAR(measure::addedMassOf(*done->model.parts[0]), 0.5 - modelled, 1e-9);
        // Its inertia is the solid's and that of six flats of so much per area.
        const double perArea = (0.5 - modelled) / (2 * (100 * 60 + 100 * 8 + 60 * 8));
        const auto flat = [perArea](double u, double v, double away) {  // about an axis along u, and two of them
            return 2 * perArea * u * v * (v * v / 12 + away * away);
        };
        const double aboutX = modelled * (60 * 60 + 64) / 12 + flat(100, 60, 4) + flat(100, 8, 30) +
                              2 * perArea * 60 * 8 * (60 * 60 + 64) / 12;
        QCOMPARE_NEAR(now.inertia[0], aboutX, 1e-6 * aboutX);
        // It weighs the same in pieces, moved, and out of a file.
        const Json plane{{"through", {30, 0, 0}}, {"normal", {1, 0, 0.2}}};
        const auto cut = run(done->model, "divide.cut", {{"planes", {plane}}});
        QVERIFY2(cut, said(cut));
        QCOMPARE_NEAR(massOf(cut->model).mass, 0.5, 1e-9);
        const auto scaled = run(done->model, "intake.correctUnit", {{"factor", 10.0}});
        QVERIFY2(scaled, said(scaled));
        QCOMPARE_NEAR(measure::addedMassOf(*scaled->model.parts[0]), 0.5 - modelled, 1e-9);
        QCOMPARE(attributesFromJson(toJson(done->model.parts[0]->known)), done->model.parts[0]->known);
        // To the digit also where every face is a spline.
        const Model pin = modelOf(asSplines(rod(gp_Ax1(gp_Pnt(), gp_Dir(0, 0, 1)), 10, 28)), "pin");
        const auto stated = run(pin, "handover.spreadMass", {{"parts", {"pin"}}, {"stated", 0.2}});
        QVERIFY2(stated, said(stated));
        QCOMPARE_NEAR(massOf(stated->model).mass, 0.2, 1e-12);
        // Over edges, in addition; and away again.
        const EntityRef edge = makeRef(*model.parts[0], {EntityKind::Edge, 1});
        const auto more = run(done->model, "handover.spreadMass", {{"things", {edge}}, {"mass", 0.1}});
        QVERIFY2(more, said(more));
        QCOMPARE_NEAR(massOf(more->model).mass, 0.6, 1e-9);
        const auto away = run(more->model, "handover.spreadMass", {{"parts", {"plate"}}, {"away", true}});
        QVERIFY2(away, said(away));
        QCOMPARE_NEAR(massOf(away->model).mass, modelled + 0.1, 1e-9);
        // A part that weighs more than is stated, no mass, and both at once.
        QVERIFY(!run(model, "handover.spreadMass", {{"parts", {"plate"}}, {"stated", 0.2}}));
        QVERIFY(!run(model, "handover.spreadMass", {{"parts", {"plate"}}}));
        QVERIFY(!run(model, "handover.spreadMass", {{"parts", {"plate"}}, {"stated", 0.5}, {"mass", 0.1}}));
        QVERIFY(!run(model, "handover.spreadMass", {{"parts", {"plate"}}, {"mass", -1.0}}));
    }
    void whatAPartLacksStandsBesideItAsALump() {
        Model model = modelOf(block(100, 10, 10), "bar");
        model.occurrences.push_back({0, by(0, 50, 0), "bar", {}, std::nullopt});
        model.giveIds();
        measure::FactsCache cache;
        const auto massOf = [&](const Model& of) {
            const auto facts = cache.of(of, quietly());
            return measure::massOf(of, *facts, std::nullopt);
        };
        const double bar = 0.5 * massOf(model).mass;
        // Twice its weight, with the common centre a quarter from its end: the lump lies at that end's side.
        const auto lumped = run(model, "handover.spreadMass",
                                {{"parts", {"bar"}}, {"stated", 2.0 * bar}, {"asLump", true}, {"centre", {25, 5, 5}}});
        QVERIFY2(lumped, said(lumped));
        const measure::MassProperties now = massOf(lumped->model);
        QCOMPARE_NEAR(now.mass, 4.0 * bar, 1e-9 * bar);
        QVERIFY(now.centre.Distance(gp_Pnt(25, 30, 5)) < 1e-9);
        // It is handed over beside the geometry, in both places.
        const QTemporaryDir folder;
        const std::filesystem::path path = folder.path().toStdString() + "/bars.step";
        const auto written = exchange::writeFile(lumped->model, path, {}, quietly());
        QVERIFY2(written, said(written));
        const auto text = readText(exchange::groupsBeside(path));
        QVERIFY2(text, said(text));
        const Json file = Json::parse(*text);
        QCOMPARE(file.at("lumps").size(), std::size_t(2));
        QCOMPARE_NEAR(file.at("lumps")[1].at("mass_kg").get<double>(), bar, 1e-9 * bar);
        QCOMPARE_NEAR(file.at("lumps")[1].at("centre_mm")[0].get<double>(), 0.0, 1e-6);
        QCOMPARE_NEAR(file.at("lumps")[1].at("centre_mm")[1].get<double>(), 55.0, 1e-6);
        // A centre without a lump, or a lump of a face, makes no sense.
        QVERIFY(!run(model, "handover.spreadMass", {{"parts", {"bar"}}, {"mass", 1.0}, {"centre", {0, 0, 0}}}));
        const EntityRef face = makeRef(*model.parts[0], {EntityKind::Face, 1});
        QVERIFY(!run(model, "handover.spreadMass", {{"things", {face}}, {"mass", 1.0}, {"asLump", true}}));
    }
    void pairsThatNobodyDecidedAboutAreTold() {
        const auto told = [](const Model& model) {
            std::map<std::string, int> count;
            const auto found = handover::check(model, quietly());
            for (const handover::CheckFinding& one : *found)
                if (one.bench == "Join")
                    ++count[one.what.find("reach into") != std::string::npos ? "overlap"
                            : one.what.find("apart") != std::string::npos    ? "gap"
                            : one.what.find("touch") != std::string::npos    ? "touching"
                                                                             : "other"];
            return count;
        };
        using Told = std::map<std::string, int>;
        const TopoDS_Shape cube = block(10, 10, 10);
        const auto beside = [&cube](double x) {
            Model model = withBodies({cube, moved(cube, by(x, 0, 0))});
            model.targetSize = 4.0;
            return model;
        };
        QCOMPARE(told(beside(30.0)), Told());
        QCOMPARE(told(beside(10.05)), (Told{{"gap", 1}}));
        QCOMPARE(told(beside(9.0)), (Told{{"overlap", 1}}));
        QCOMPARE(told(beside(10.0)), (Told{{"touching", 1}}));
        // What is joined, or kept as a contact, has been decided.
        const auto joined = run(beside(10.0), "join.pairs");
        QVERIFY2(joined, said(joined));
        QCOMPARE(told(joined->model), Told());
        const auto contact = run(beside(10.05), "join.contact",
                                 {{"pairs", Json::array({Json::array({"body 1", "body 2"})})}, {"upTo", 0.1}});
        QVERIFY2(contact, said(contact));
        QCOMPARE(told(contact->model), Told());
    }
    void wedgesDaggersAndNearlySmoothEdgesAreTold() {
        const auto prism = [](const std::vector<gp_Pnt>& outline) {
            BRepBuilderAPI_MakePolygon polygon;
            for (const gp_Pnt& corner : outline) polygon.Add(corner);
            polygon.Close();
            return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(polygon.Wire()).Face(), gp_Vec(0, 0, 20)).Shape();
        };
        const auto says = [](const TopoDS_Shape& shape, const char* what) {
            for (const gp_Trsf& move : {gp_Trsf(), by(3, -200, 7)}) {
                const auto found = handover::check(modelOf(moved(shape, move), "body"), quietly());
                if (std::none_of(found->begin(), found->end(), [what](const handover::CheckFinding& one) {
                        return one.what.find(what) != std::string::npos;
                    }))
                    return false;
            }
            return true;
        };
        const double lean = std::tan(8.0 * M_PI / 180.0);
        const TopoDS_Shape wedge = prism({{0, 0, 0}, {50, 0, 0}, {50, 50 * lean, 0}}), cube = block(50, 50, 50),
                           kinked = prism({{0, 0, 0}, {40, 0, 0}, {40, 20, 0}, {20, 20.4, 0}, {0, 20, 0}}),
                           angled = prism({{0, 0, 0}, {40, 0, 0}, {40, 20, 0}, {20, 24, 0}, {0, 20, 0}});
        QVERIFY(says(wedge, "wedge of 8 degrees") && says(wedge, "2 faces of \"body\" with a corner under 10 degrees"));
        QVERIFY(says(kinked, "1 edge of \"body\" faces meet nearly"));
        for (const char* what : {"wedge", "corner", "nearly"}) QVERIFY(!says(cube, what));
        QVERIFY(!says(angled, "nearly"));
        for (const char* what : {"wedge", "corner", "nearly"})
            QVERIFY(!says(rod(gp_Ax1(gp_Pnt(), gp_Dir(0, 0, 1)), 10, 28), what));
    }
    void aFaceThatCrossesItselfIsAnError() {
        BRepBuilderAPI_MakePolygon crossed(gp_Pnt(0, 0, 0), gp_Pnt(20, 10, 0), gp_Pnt(20, 0, 0), gp_Pnt(0, 10, 0),
                                           true);
        const TopoDS_Face face = BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), gp::DZ()), crossed.Wire()).Face();
        const auto found = handover::check(modelOf(face, "crossed"), quietly());
        QVERIFY2(found, said(found));
        const auto own = std::find_if(found->begin(), found->end(), [](const handover::CheckFinding& one) {
            return one.what.find("not sound") != std::string::npos;
        });
        QVERIFY(own != found->end());
        QCOMPARE(static_cast<int>(own->severity), static_cast<int>(handover::Severity::Error));
        QVERIFY(own->things.size() == 1 && own->things[0] == (Entity{EntityKind::Face, 1}));
    }
    void aGroupFollowsThroughStepsAndReplays() {
        const Model model = plate();
        const EntityRef top = makeRef(*model.parts[0], {EntityKind::Face, faceAt(*model.parts[0], 8.0)});
        measure::FactsCache cache;
        const Json cut{{"through", {50, 0, 0}}, {"normal", {1, 0, 0}}};
        const auto work = Work(model, "plate.step")
                              .withStep("handover.group", {{"name", "load"}, {"things", {top}}})
                              .withStep("shave.removeHoles", {{"upTo", 6.0}})
                              .withStep("divide.cut", {{"planes", {cut}}})
                              .replayed(cache, quietly());
        QVERIFY2(work, said(work));
        QVERIFY(work->upToDate());
        // One face, then the same without its holes, then the two pieces of it: never lost, and told.
        for (const std::size_t s : {1u, 2u, 3u}) {
            QCOMPARE(work->modelAfter(s).groups.size(), std::size_t(1));
            QCOMPARE(work->modelAfter(s).groups[0].members.size(), std::size_t(s == 3 ? 2 : 1));
        }
        double area = 0.0;
        for (const Member& member : work->current().groups[0].members) {
            const auto part = work->current().partOf(member.part);
            QVERIFY(part);
            const EntityRef ref = makeRef(*work->current().parts[*part], member.entity);
            QCOMPARE_NEAR(ref.at.Z(), 8.0, 1e-9);
            area += ref.measure;
        }
        QCOMPARE_NEAR(area, 6000.0, 1e-6);
        const Json& effect = work->ledger().steps[1].effect;
        QVERIFY(effect.contains("groups"));
        QCOMPARE_NEAR(effect["groups"][0]["measureAfter"].get<double>(), 6000.0, 1e-6);
    }
    void aRuleIsAskedAnewAfterEachStep() {
        const Model model = plate();
        const auto ruled =
            run(model, "handover.rule", {{"name", "bores"}, {"rule", {{"surface", "cylinder"}, {"diameter", 5.0}}}});
        QVERIFY2(ruled, said(ruled));
        QCOMPARE(ruled->model.groups[0].members.size(), std::size_t(4));
        const auto filled = run(ruled->model, "shave.removeHoles", {{"upTo", 6.0}});
        QVERIFY2(filled, said(filled));
        QVERIFY(filled->model.groups[0].members.empty());
        QCOMPARE(filled->groups.size(), std::size_t(1));
        const auto findings = handover::check(filled->model, quietly());
        QVERIFY(findings);
        QVERIFY(std::any_of(findings->begin(), findings->end(),
                            [](const auto& one) { return one.what.find("bores") != std::string::npos; }));
        const auto below = run(model, "handover.rule",
                               {{"name", "ground"}, {"rule", {{"axis", "z"}, {"at", 0.0}, {"normal", {0, 0, -1}}}}});
        QVERIFY2(below, said(below));
        QCOMPARE(below->model.groups[0].members.size(), std::size_t(1));
    }
    void referencesFindEveryKindAgain() {
        const Model model = plate();
        const Incidence& topology = model.parts[0]->incidence();
        for (const EntityKind kind : entityKinds) {
            EntityRef ref = makeRef(*model.parts[0], {kind, 1});
            ref.entity.number = 999;  // the hint is wrong; what it is says enough
            const auto found = findEntity(model, ref);
            QVERIFY2(found, said(found));
            QCOMPARE(found->entity.number, 1);
            Json json = ref;
            QVERIFY(findEntity(model, json.get<EntityRef>()));
            ref.at.Translate(gp_Vec(500, 0, 0));
            const auto none = findEntity(model, ref);
            QVERIFY(!none && none.error().where.point);
        }
        // A part that was cut bears its name and a word more: its faces are found in the pieces.
        const int side = [&] {
            for (int f = 1; f <= topology.faceCount(); ++f)
                if (std::abs(makeRef(*model.parts[0], {EntityKind::Face, f}).at.X()) < 1e-9) return f;
            return 0;
        }();
        const EntityRef left = makeRef(*model.parts[0], {EntityKind::Face, side});
        const Json cut{{"through", {50, 0, 0}}, {"normal", {1, 0, 0}}};
        const auto done = run(model, "divide.cut", {{"planes", {cut}}});
        QVERIFY2(done, said(done));
        const auto found = findEntity(done->model, left);
        QVERIFY2(found, said(found));
        QCOMPARE(done->model.parts[found->part]->name, std::string("plate, left"));
    }
    void badGroupsAreRefused() {
        const Model model = plate();
        for (const Json& bad : {Json{{"name", "  "}, {"parts", {"plate"}}}, Json{{"name", "x"}},
                                Json{{"name", "x"}, {"drop", true}}, Json{{"name", "x"}, {"parts", {"nobody"}}}}) {
            const auto refused = run(model, "handover.group", bad);
            QVERIFY(!refused);
            QVERIFY(!refused.error().what.empty());
        }
        QVERIFY(!run(model, "handover.rule", {{"name", "x"}, {"rule", {{"colour", "red"}}}}));
        for (const Json& bad : {Json{{"attribute", "weight"}, {"value", 1}, {"parts", {"plate"}}},
                                Json{{"attribute", "size"}, {"value", -1}, {"parts", {"plate"}}},
                                Json{{"attribute", "region"}, {"value", "ice"}, {"parts", {"plate"}}},
                                Json{{"attribute", "thickness"}, {"value", 2}, {"parts", {"plate"}}}})
            QVERIFY(!run(model, "handover.attribute", bad));
        const auto set = run(model, "handover.attribute", {{"attribute", "size"}, {"value", 2}, {"parts", {"plate"}}});
        QVERIFY2(set, said(set));
        QCOMPARE(set->model.parts[0]->known.sizes.size(), std::size_t(1));
    }
    void theCheckSaysWhatIsWrongAndWhere() {
        Model model = plate();
        auto part = model.parts[0]->copy();
        const Incidence topology(part->shape);
        TopoDS_Compound open;
        BRep_Builder().MakeCompound(open);
        for (int f = 1; f < topology.faceCount(); ++f) BRep_Builder().Add(open, topology.face(f));
        part->setShape(open);
        model.parts[0] = part;
        const auto findings = handover::check(model, quietly());
        QVERIFY2(findings, said(findings));
        QVERIFY(std::any_of(findings->begin(), findings->end(),
                            [](const auto& one) { return one.what.find("thickness") != std::string::npos; }));
        const auto clean = handover::check(plate(), quietly());
        QVERIFY(clean);
        QVERIFY(std::none_of(clean->begin(), clean->end(),
                             [](const auto& one) { return one.severity == handover::Severity::Error; }));
    }
    void anotherReaderFindsTheGroupsInStep() {
        Model model = plate();
        const EntityRef top = makeRef(*model.parts[0], {EntityKind::Face, faceAt(*model.parts[0], 8.0)});
        const auto grouped = run(model, "handover.group", {{"name", "seat load"}, {"things", {top}}});
        QVERIFY2(grouped, said(grouped));
        const QTemporaryDir folder;
        const std::string path = folder.path().toStdString() + "/plate.step";
        const auto written = exchange::writeFile(grouped->model, path, {}, quietly());
        QVERIFY2(written, said(written));
        const auto text = readText(path);
        QVERIFY(text && text->find("seat load") != std::string::npos);
        const auto back = exchange::readFile(path, {}, quietly());
        QVERIFY2(back, said(back));
        QCOMPARE(back->parts[0]->known.names.size(), std::size_t(1));
        const auto& [thing, name] = *back->parts[0]->known.names.begin();
        QCOMPARE(name, std::string("seat load"));
        const EntityRef again = makeRef(*back->parts[0], thing);
        QCOMPARE_NEAR(again.measure, top.measure, 1e-6);
        QVERIFY(again.at.Distance(top.at) < 1e-6);
        const auto beside = readText(folder.path().toStdString() + "/plate.groups.json");
        QVERIFY(beside);
        const Json json = Json::parse(*beside);
        QCOMPARE(json["groups"][0]["name"].get<std::string>(), std::string("seat load"));
        QCOMPARE_NEAR(json["groups"][0]["members"][0]["area_mm2"].get<double>(), top.measure, 1e-6);
        QCOMPARE_NEAR(json["groups"][0]["members"][0]["normal"][2].get<double>(), 1.0, 1e-9);
    }

    void theReportTellsWhatWasDoneAndIsTheSameEachTime() {
        Model model;
        model.name = "plate & <holes>";
        model.targetSize = 4.0;
        model.occurrences.push_back({0, gp_Trsf(), "plate", {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>("plate", drilledPlate(100, 60, 8, 4, 5)));
        model.giveIds();
        measure::FactsCache facts;
        const auto work = Work(model, "/somewhere/plate.step")
                              .withStep("shave.removeHoles", {{"upTo", 8.0}})
                              .withStep("divide.cut", {{"planes", {{{"through", {500, 0, 0}}, {"normal", {1, 0, 0}}}}}})
                              .replayed(facts, quietly(), true);
        QVERIFY2(work, said(work));
        const auto page = handover::reportOf(*work, {}, facts, quietly());
        QVERIFY2(page, said(page));
        const QString text = QString::fromStdString(*page);
        QVERIFY(text.startsWith("<!DOCTYPE html>") && text.trimmed().endsWith("</html>"));
        QVERIFY(text.contains("plate &amp; &lt;holes&gt;"));
        QVERIFY(!text.contains("/somewhere"));  // of a path only the file's name is anybody's business
        QVERIFY(text.contains(QString::fromStdString(work->ledger().steps[0].summary)));
        QVERIFY(text.contains(QString::fromStdString(stepStateName(work->ledger().steps[1].state))));
        QVERIFY(text.contains("Mass") && text.contains("kg/m³ assumed"));
        // Every tag is closed.
        for (const char* tag : {"table", "tr", "td", "th", "ul", "li", "p", "h1", "h2", "span", "html", "body"})
            QCOMPARE(text.count(QRegularExpression(QString("<%1[ >]").arg(tag))),
                     text.count(QString("</%1>").arg(tag)));
        measure::FactsCache fresh;
        const auto again = handover::reportOf(*work, {}, fresh, quietly());
        QVERIFY(again && *again == *page);
    }

    void thicknessAndSectionsAreHandedOver() {
        // A thin plate and a bar, the plate in a place that is turned: what is told is in the model's coordinates.
        Model model = modelOf(block(200, 100, 3), "plate");
        gp_Trsf upright;
        upright.SetRotation(gp_Ax1(gp_Pnt(), gp_Dir(0, 1, 0)), M_PI / 2);
        model.occurrences.change(0).placement = upright;
        model.occurrences.push_back({1, gp_Trsf(), "bar", {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>("bar", block(400, 20, 10)));
        model.giveIds();
        const auto sheets = run(model, "reduce.midsurface", {{"parts", {"plate"}}});
        QVERIFY2(sheets, said(sheets));
        const auto beams = run(sheets->model, "reduce.beams", {{"parts", {"bar"}}});
        QVERIFY2(beams, said(beams));
        const QTemporaryDir folder;
        const std::filesystem::path path = folder.path().toStdString() + "/reduced.step";
        const auto written = exchange::writeFile(beams->model, path, {}, quietly());
        QVERIFY2(written, said(written));
        const auto text = readText(exchange::groupsBeside(path));
        QVERIFY2(text, said(text));
        std::map<std::string, Json> told;
        const Json file = Json::parse(*text);
        for (const Json& one : file.at("attributes")) told[one.at("attribute").get<std::string>()] = one;
        QCOMPARE(told.size(), std::size_t(2));
        const Json& thickness = told.at("thickness");
        QCOMPARE(thickness.at("part").get<std::string>(), std::string("plate"));
        QCOMPARE_NEAR(thickness.at("value").at("at_mm").get<double>(), 3.0, 1e-9);
        // The middle of the plate, (100, 50, 1.5), stands at (1.5, 50, -100) once it is turned.
        const Json from = thickness.at("value").at("from_mm");
        QVERIFY(gp_Pnt(from[0], from[1], from[2]).Distance(gp_Pnt(1.5, 50, -100)) < 1e-6);
        const Json& section = told.at("section");
        QCOMPARE_NEAR(section.at("length_mm").get<double>(), 400.0, 1e-9);
        QCOMPARE(section.at("value").at("shape").get<std::string>(), std::string("rectangle"));
        QCOMPARE_NEAR(section.at("value").at("area_mm2").get<double>(), 200.0, 1e-9);
    }
    void theDrawingIsHeldAgainstTheGeometry() {
        // A plate of 60 by 40 by 6 with one bore of 8.4.
        Model model = modelOf(cut(block(60, 40, 6), rod(gp_Ax1(gp_Pnt(20, 20, -1), gp::DZ()), 4.2, 8.0)), "plate");
        model.giveIds();
        const Part& part = *model.parts[0];
        const auto faceWhere = [&](auto fits) {
            for (int f = 1; f <= part.incidence().faceCount(); ++f)
                if (fits(measure::readingOf(model, {0, f, 0, 0, 0}))) return Json(makeRef(part, {EntityKind::Face, f}));
            return Json();
        };
        const Json bore = faceWhere([](const measure::Reading& one) { return one.radius.has_value(); });
        const auto plane = [&](double x) {
            return faceWhere([x](const measure::Reading& one) {
                return !one.radius && one.direction && std::abs(one.direction->X()) > 0.9 &&
                       std::abs(one.centre->X() - x) < 1e-6;
            });
        };
        const auto held = [&](const Json& things, double value, const Json& more = Json::object()) {
            Json parameters{{"things", things}, {"value", value}};
            parameters.update(more);
            return run(model, "handover.dimension", parameters);
        };
        // Within what is allowed, beyond it, and only told.
        const auto within = held(Json::array({bore}), 8.5, {{"tolerance", 0.2}});
        QVERIFY2(within, said(within));
        QVERIFY(within->items[0].done);
        QVERIFY2(within->items[0].what.find("8.4 mm, 8.5 mm in the drawing, 0.1 mm less") != std::string::npos,
                 within->items[0].what.c_str());
        QVERIFY(within->model.parts[0] == model.parts[0]);
        const auto beyond = held(Json::array({bore}), 8.0, {{"tolerance", 0.2}, {"name", "pilot bore"}});
        QVERIFY2(beyond, said(beyond));
        QVERIFY(!beyond->items[0].done);
        QVERIFY(beyond->items[0].problem.what.find("pilot bore") == 0);
        QVERIFY(held(Json::array({bore}), 3.0)->items[0].done);
        const auto length = held(Json::array({plane(0.0), plane(60.0)}), 60.0, {{"of", "planes"}});
        QVERIFY2(length, said(length));
        QVERIFY2(length->items[0].what.find("the same") != std::string::npos, length->items[0].what.c_str());
        // What cannot be measured is refused.
        QVERIFY(!held(Json::array({plane(0.0)}), 5.0, {{"of", "radius"}}));
        QVERIFY(!held(Json::array(), 5.0));
        QVERIFY(!held(Json::array({bore}), 5.0, {{"tolerance", -1.0}}));
        QVERIFY(!held(Json::array({bore}), 5.0, {{"of", "beauty"}}));
        // In the report they stand in a table of their own.
        Work work(model, "plate.step");
        work = work.withStep(
            "handover.dimension",
            {{"things", Json::array({bore})}, {"value", 8.0}, {"tolerance", 0.2}, {"name", "pilot bore"}});
        measure::FactsCache facts;
        const auto replayed = work.replayed(facts, quietly(), true);
        QVERIFY2(replayed, said(replayed));
        handover::ReportOptions options;
        options.pictures = false;
        const auto page = handover::reportOf(*replayed, options, facts, quietly());
        QVERIFY2(page, said(page));
        QVERIFY(page->find("Dimensions of the drawing") != std::string::npos);
        QVERIFY2(page->find("<td>pilot bore</td><td class=number>8 mm</td><td class=number>8.4 mm</td>") !=
                     std::string::npos,
                 page->c_str() + page->find("Dimensions of"));
        QVERIFY(page->find("\"number left\">+0.4 mm") != std::string::npos);
    }
};

static Registered<HandoverTest> handoverTest;

}  // namespace rasoir::test

#include "handover_test.moc"
