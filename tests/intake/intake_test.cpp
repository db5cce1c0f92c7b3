// Every step of Intake through its operation, as ledger and command line call it.
#include <BRepGProp.hxx>
#include <gp_Ax2.hxx>
#include <GProp_GProps.hxx>
#include <QTemporaryDir>

#include "exchange/files.h"
#include "exchange/work_file.h"
#include "geometry/round_surface.h"
#include "intake/aside.h"
#include "intake/copies.h"
#include "intake/naming.h"
#include "intake/placing.h"
#include "measure/mass.h"
#include "model/places.h"
#include "model/work.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/receiving.h"

namespace rasoir::test {

class IntakeTest : public QObject {
    Q_OBJECT

    static gp_Trsf shift(double x, double y, double z) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(x, y, z));
        return by;
    }
    /// A plate, two brackets of one shape that are parts of their own, a mirrored one, and a peg in three places.
    static Model machine() {
        Model model;
        const auto add = [&model](const std::string& name, const TopoDS_Shape& shape, std::vector<gp_Trsf> places) {
            for (const gp_Trsf& place : places)
                model.occurrences.push_back({model.parts.size(), place, name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        };
        const TopoDS_Shape bracket = fuse(fuse(block(30, 10, 5), moved(block(5, 10, 20), shift(0, 0, 0))),
                                          moved(block(4, 4, 9), shift(24, 1, 0)));
        gp_Trsf turn, mirror;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, 4, 5), gp_Dir(1, 2, 3)), 1.1);
        mirror.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)));
        add("plate", drilledPlate(100, 60, 8, 4, 5), {gp_Trsf()});
        add("bracket", bracket, {shift(0, 0, 8)});
        add("bracket again", moved(bracket, turn), {shift(70, 40, 8)});
        add("bracket left", moved(bracket, mirror), {shift(50, 40, 8)});
        add("peg", rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 2, 12),
            {shift(10, 10, 8), shift(20, 10, 8), shift(30, 10, 8)});
        return model;
    }
    static double areaOf(const TopoDS_Shape& shape) {
        GProp_GProps props;
        BRepGProp::SurfaceProperties(shape, props);
        return props.Mass();
    }
    static double totalVolume(const Model& model) {
        double sum = 0.0;
        for (const Occurrence& o : model.occurrences)
            if (!o.aside) sum += volumeOf(model.parts[o.part]->shape);
        return sum;
    }
    static std::vector<std::string> names(const Model& model) {
        std::vector<std::string> all;
        for (const auto& part : model.parts) all.push_back(part->name);
        return all;
    }

private slots:
    void patternsFit() {
        QVERIFY(fitsPattern("bolt with nut", "bolt*"));
        QVERIFY(fitsPattern("Bolt", "b?lt"));
        QVERIFY(fitsPattern("", "*"));
        QVERIFY(fitsPattern("aaaaaaaaaaaaaaaaaaaaab", "a*a*a*a*a*a*b"));
        QVERIFY(!fitsPattern("aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaac", "a*a*a*a*a*a*a*a*b"));
        QVERIFY(!fitsPattern("bolt", "bol"));
    }
    void placesGoByName() {
        const Model model = machine();
        QCOMPARE(placesNamed(model, {"peg"})->size(), std::size_t(3));
        QCOMPARE(*placesNamed(model, {"peg #2"}), std::vector<std::size_t>{5});
        QCOMPARE(placesNamed(model, {"bracket*"})->size(), std::size_t(3));
        QCOMPARE(placesNamed(model, {"bracket"})->size(), std::size_t(1));
        QVERIFY(!placesNamed(model, {"peg #4"}));
        QVERIFY(!placesNamed(model, {"peg #0"}));
        QVERIFY(!placesNamed(model, {"nothing"}));
        for (std::size_t o = 0; o < model.occurrences.size(); ++o)
            QCOMPARE(*placesNamed(model, {placeName(model, o)}), std::vector<std::size_t>{o});
        QCOMPARE(placeNames(model, {0, 4, 5, 6}), (std::vector<std::string>{"plate", "peg"}));
        QCOMPARE(placeNames(model, {4, 6}), (std::vector<std::string>{"peg #1", "peg #3"}));
    }
    void renamingInPlaceByPatternAndMany() {
        const Model model = machine();
        const auto one = run(model, "intake.rename", {{"parts", {"plate"}}, {"to", "base"}});
        QVERIFY2(one, said(one));
        QCOMPARE(one->model.parts[0]->name, std::string("base"));
        QCOMPARE(one->model.occurrences[0].name, std::string("base"));
        const auto many = run(model, "intake.rename", {{"parts", {"bracket*"}}, {"to", "angle #"}});
        QVERIFY2(many, said(many));
        QCOMPARE(names(many->model), (std::vector<std::string>{"plate", "angle 1", "angle 2", "angle 3", "peg"}));
        const auto found = run(model, "intake.rename", {{"find", "bracket"}, {"replace", "angle"}});
        QCOMPARE(names(found->model)[3], std::string("angle left"));
        const auto expression = run(model, "intake.rename", {{"find", "/^(\\w+) again$/"}, {"replace", "second $1"}});
        QVERIFY2(expression, said(expression));
        QCOMPARE(names(expression->model)[2], std::string("second bracket"));
        QVERIFY(!run(model, "intake.rename", {{"parts", {"plate"}}, {"to", "peg"}}));  // borne already
        QVERIFY(!run(model, "intake.rename", {{"parts", {"plate"}}, {"to", "  "}}));
        QVERIFY(!run(model, "intake.rename", {{"find", "/(/"}, {"replace", ""}}));
        QVERIFY(!run(model, "intake.rename", {{"find", "no such text"}, {"replace", ""}}));
        QVERIFY(!run(model, "intake.rename", Json::object()));
        // Names can change places in one go.
        const auto swapped = run(model, "intake.rename", {{"parts", {"bracket", "bracket again"}}, {"to", "x #"}});
        QVERIFY(swapped);
    }
    void groupingAndOrder() {
        const Model model = machine();
        const auto grouped = run(model, "intake.regroup", {{"places", {"peg", "plate"}}, {"group", {"lower", "deck"}}});
        QVERIFY2(grouped, said(grouped));
        QCOMPARE(grouped->model.occurrences[4].path, (std::vector<std::string>{"lower", "deck"}));
        QVERIFY(grouped->model.occurrences[1].path.empty());
        const auto ordered = run(model, "intake.reorder", {{"parts", {"peg"}}, {"before", "bracket"}});
        QVERIFY2(ordered, said(ordered));
        QCOMPARE(names(ordered->model),
                 (std::vector<std::string>{"plate", "peg", "bracket", "bracket again", "bracket left"}));
        for (const Occurrence& o : ordered->model.occurrences) QVERIFY(ordered->model.parts[o.part]->name == o.name);
        QCOMPARE_NEAR(totalVolume(ordered->model), totalVolume(model), 1e-9);
        QVERIFY(!run(model, "intake.reorder", {{"parts", {"peg"}}, {"before", "peg"}}));
    }
    void materialsWeigh() {
        const Model model = machine();
        const auto alloy = run(model, "intake.assignMaterial", {{"parts", {"peg"}}, {"material", "aluminium alloy"}});
        QVERIFY2(alloy, said(alloy));
        const auto facts = measure::factsOfParts(model, false, quietly());
        const double steel = measure::massOf(model, *facts).mass, mixed = measure::massOf(alloy->model, *facts).mass;
        const double pegs = 3 * M_PI * 4 * 12;
        QCOMPARE_NEAR(steel - mixed, pegs * (7850 - 2700) * 1e-9, 1e-12);
        QCOMPARE(alloy->model.materials.size(), std::size_t(1));
        const auto all = run(alloy->model, "intake.assignMaterial", {{"material", "felt"}, {"density", 200.0}});
        QVERIFY2(all, said(all));
        QCOMPARE(all->model.materials.size(), std::size_t(1));  // the alloy is used no more
        QVERIFY(!run(model, "intake.assignMaterial", {{"material", "felt"}}));
        QVERIFY(!run(model, "intake.assignMaterial", {{"material", "felt"}, {"density", -1.0}}));
        QVERIFY(
            !run(model, "intake.assignMaterial", {{"material", "felt"}, {"density", 200.0}, {"poissonsRatio", 0.7}}));
        // The material survives a step that changes the shape.
        const auto shaved = run(all->model, "shave.removeHoles", {{"upTo", 6.0}});
        QVERIFY2(shaved, said(shaved));
        QCOMPARE(shaved->model.parts[0]->material, std::string("felt"));
    }
    void theUsersMaterialsAddAndReplace() {
        const QTemporaryDir folder;
        const std::filesystem::path path = folder.path().toStdString() + "/m.json";
        QCOMPARE(materialLibrary(path)->size(), standardMaterials().size());
        QVERIFY(saveMaterials({{"felt", 200, 10, 0.1}, {"Copper", 8900, 118000, 0.35}}, path));
        const auto library = materialLibrary(path);
        QVERIFY2(library, said(library));
        QCOMPARE(library->size(), standardMaterials().size() + 1);
        QCOMPARE(findMaterial(*library, "COPPER")->density, 8900.0);
        QVERIFY(saveMaterials({{"heavy", 1e9, 0, 0}}, path));
        QVERIFY(!materialLibrary(path));
        for (const Material& material : standardMaterials()) QVERIFY2(checkMaterial(material), material.name.c_str());
    }
    void movingByNumbersAndTogether() {
        const Model model = machine();
        const auto moved = run(model, "intake.move", {{"places", {"peg #2"}}, {"shift", {5, 0, 0}}});
        QVERIFY2(moved, said(moved));
        QCOMPARE_NEAR(moved->model.occurrences[5].placement.TranslationPart().X(), 25.0, 1e-12);
        QCOMPARE_NEAR(moved->model.occurrences[4].placement.TranslationPart().X(), 10.0, 1e-12);
        const auto turned =
            run(model, "intake.move", {{"axisPoint", {50, 30, 0}}, {"axisDirection", {0, 0, 2}}, {"degrees", 90}});
        QVERIFY2(turned, said(turned));
        const auto facts = measure::factsOfParts(model, false, quietly());
        const auto before = measure::massOf(model, *facts), after = measure::massOf(turned->model, *facts);
        QCOMPARE_NEAR(after.mass, before.mass, 1e-15);
        for (std::size_t i = 0; i < 3; ++i)
            QCOMPARE_NEAR(after.principal()[i], before.principal()[i], 1e-9 * before.principal()[2]);
        gp_Trsf by;
        by.SetRotation(gp_Ax1(gp_Pnt(50, 30, 0), gp_Dir(0, 0, 1)), M_PI_2);
        QCOMPARE_NEAR(after.centre.Distance(before.centre.Transformed(by)), 0.0, 1e-9);
        QVERIFY(!run(model, "intake.move", Json::object()));
        QVERIFY(!run(model, "intake.move", {{"shift", {1e300, 0, 0}}}));
        QVERIFY(!run(model, "intake.move", {{"degrees", 10}, {"axisDirection", {0, 0, 0}}}));
        QVERIFY(!run(model, "intake.move", {{"shift", {1, 2}}}));
    }
    void onePickedThingOntoAnother() {
        // The bracket's foot (a plane) onto the plate's top, wherever the part stands: the normals end up against each
        // other.
        const Model model = machine();
        Random random(7);
        for (int round = 0; round < 50; ++round) {
            const auto any = [&random] { return between(random, -1, 1); };
            const intake::Anchor from{gp_Pnt(10 * any(), 10 * any(), 10 * any()), gp_Dir(any(), any(), any() + 2)},
                to{gp_Pnt(5 * any(), any(), any()), gp_Dir(any(), any() + 2, any())};
            for (const bool flipped : {false, true}) {
                const gp_Trsf by = intake::transformationOf(intake::moveOnto(from, to, flipped));
                QCOMPARE_NEAR(from.point.Transformed(by).Distance(to.point), 0.0, 1e-12 * 100);
                QCOMPARE_NEAR(from.direction->Transformed(by).Dot(*to.direction), flipped ? -1.0 : 1.0, 1e-12);
            }
        }
        // Opposite directions turn over.
        const intake::Anchor up{gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)}, down{gp_Pnt(1, 2, 3), gp_Dir(0, 0, -1)};
        QCOMPARE_NEAR(up.direction->Transformed(intake::transformationOf(intake::moveOnto(up, down))).Z(), -1.0, 1e-12);
        // Anchors of faces: a hole's axis, a plane's outward normal.
        const Incidence& topology = model.parts[0]->incidence();
        for (int f = 1; f <= topology.faceCount(); ++f) {
            const intake::Anchor anchor = intake::anchorOf(model, 0, f);
            if (!anchor.direction) continue;
            if (surfaceKind(topology.face(f)) == SurfaceKind::Plane && anchor.point.Z() > 7.9)
                QCOMPARE_NEAR(anchor.direction->Z(), 1.0, 1e-12);
        }
        const intake::Move parallel = intake::turnParallel(gp_Pnt(0, 0, 0), gp_Dir(0.01, 0, -1), gp_Dir(0, 0, 1));
        QCOMPARE_NEAR(std::abs(gp_Dir(0.01, 0, -1).Transformed(intake::transformationOf(parallel)).Z()), 1.0, 1e-12);
        QVERIFY(parallel.degrees < 1.0);
    }
    void settingAsideAndBack() {
        const Model model = machine();
        const auto bySize = run(model, "intake.setAside", {{"measure", "volume"}, {"upTo", 200.0}});
        QVERIFY2(bySize, said(bySize));
        QCOMPARE(bySize->items.size(), std::size_t(3));  // the pegs, 151 mm³ each
        QVERIFY(bySize->model.isAside(4));
        QCOMPARE_NEAR(totalVolume(model) - totalVolume(bySize->model), 3 * M_PI * 4 * 12, 1e-9);
        const auto kept =
            run(model, "intake.setAside", {{"measure", "longest side"}, {"upTo", 12.5}, {"kept", {"peg #2"}}});
        QCOMPARE(kept->items.size(), std::size_t(2));
        QVERIFY(!kept->model.isAside(4));
        const auto allBut = run(model, "intake.setAside", {{"allBut", {"plate"}}});
        QCOMPARE(allBut->items.size(), std::size_t(6));
        const auto pins = run(model, "intake.setAside", {{"kinds", {"pin"}}});
        QVERIFY2(pins, said(pins));
        QCOMPARE(pins->items.size(), std::size_t(3));
        const auto back = run(bySize->model, "intake.bringBack", {{"places", {"peg #1"}}});
        QVERIFY2(back, said(back));
        QCOMPARE(std::count_if(back->model.occurrences.begin(), back->model.occurrences.end(),
                               [](const Occurrence& o) { return o.aside; }),
                 2);
        QVERIFY(!run(model, "intake.bringBack", Json::object()));
        QVERIFY(!run(model, "intake.setAside", {{"places", {"*"}}}));  // everything
        QVERIFY(!run(model, "intake.setAside", {{"measure", "volume"}, {"upTo", 1.0}}));
        QVERIFY(!run(model, "intake.setAside", {{"measure", "beauty"}, {"upTo", 1.0}}));
        QVERIFY(!run(model, "intake.setAside", {{"kinds", {"rivet gun"}}}));
    }
    void whatIsAsideIsLeftAloneByRules() {
        const Model model = machine();
        const auto aside = run(model, "intake.setAside", {{"places", {"plate"}}});
        QVERIFY(!run(aside->model, "shave.removeHoles", {{"upTo", 6.0}}));  // the only holes are in the plate
        QVERIFY(run(aside->model, "shave.removeHoles", {{"upTo", 6.0}, {"parts", {"plate"}}}));  // named, it is meant
        QVERIFY(run(model, "shave.removeHoles", {{"upTo", 6.0}}));
    }
    void whatIsAsideIsNotExported() {
        const QTemporaryDir folder;
        const std::filesystem::path path = folder.path().toStdString() + "/out.step";
        const auto aside = run(machine(), "intake.setAside", {{"places", {"peg", "bracket left"}}});
        QVERIFY(exchange::writeFile(aside->model, path, {}, quietly()));
        const auto read = exchange::readFile(path, {}, quietly());
        QVERIFY2(read, said(read));
        QCOMPARE(names(*read), (std::vector<std::string>{"plate", "bracket", "bracket again"}));
        QCOMPARE_NEAR(totalVolume(*read), totalVolume(aside->model), 1e-6 * totalVolume(*read));
    }
    void simpleBodiesStandIn() {
        const Model model = machine();
        for (const char* by : {"box", "cylinder"}) {
            const auto simple =
                run(model, "intake.standIn", {{"parts", {"plate", "bracket again", "peg"}}, {"by", by}});
            QVERIFY2(simple, said(simple));
            for (const std::size_t p : {std::size_t(0), std::size_t(2), std::size_t(4)}) {
                const TopoDS_Shape shape = simple->model.parts[p]->shape, old = model.parts[p]->shape;
                QVERIFY(isValid(shape));
                QCOMPARE(facesIn(shape), std::string(by) == "box" ? 6 : 3);
                QVERIFY(cut(old, shape).IsNull() ||
                        volumeOf(cut(old, shape)) < 1e-6 * volumeOf(old));  // nothing sticks out
            }
        }
        const auto plateBox = run(model, "intake.standIn", {{"parts", {"plate"}}, {"by", "box"}});
        QCOMPARE_NEAR(volumeOf(plateBox->model.parts[0]->shape), 100.0 * 60 * 8, 1e-6);
        const auto pegCylinder = run(model, "intake.standIn", {{"parts", {"peg"}}, {"by", "cylinder"}});
        QCOMPARE_NEAR(volumeOf(pegCylinder->model.parts[4]->shape), M_PI * 4 * 12, 1e-6);
    }
    void aLumpWeighsWhatItWas() {
        const Model model = machine();
        const auto lump = run(model, "intake.standIn", {{"parts", {"bracket again", "peg"}}, {"by", "lump"}});
        QVERIFY2(lump, said(lump));
        const auto facts = measure::factsOfParts(model, false, quietly());
        const auto before = measure::massOf(model, *facts), after = measure::massOf(lump->model, *facts);
        QCOMPARE_NEAR(after.mass, before.mass, 1e-12);
        for (std::size_t i = 0; i < 6; ++i)
            QCOMPARE_NEAR(after.inertia[i], before.inertia[i], 1e-9 * before.inertia[2]);
        // What only weighs has no volume and no elements in the work, and is not written.
        const measure::Facts whole = measure::factsOf(model, *facts), work = measure::factsOf(lump->model, *facts);
        QCOMPARE_NEAR(whole.volume - work.volume, volumeOf(model.parts[2]->shape) + 3 * M_PI * 4 * 12, 1e-6);
        QVERIFY(work.elements < whole.elements);
        const QTemporaryDir folder;
        QVERIFY(exchange::writeFile(lump->model, folder.path().toStdString() + "/l.step", {}, quietly()));
        QCOMPARE(exchange::readFile(folder.path().toStdString() + "/l.step", {}, quietly())->parts.size(),
                 std::size_t(3));
        QVERIFY(!run(model, "intake.standIn", {{"parts", {"peg"}}, {"by", "cloud"}}));
    }
    void sameShapesBecomeCopies() {
        const Model model = machine();
        const auto copies = run(model, "intake.makeCopies", Json::object());
        QVERIFY2(copies, said(copies));
        QCOMPARE(names(copies->model), (std::vector<std::string>{"plate", "bracket", "bracket left", "peg"}));
        QCOMPARE(copies->items.size(), std::size_t(2));
        QCOMPARE(copies->model.mirrors.size(), std::size_t(1));  // the mirrored one stays a part, and is paired
        // Everything stands where it stood.
        const auto factsBefore = measure::factsOfParts(model, false, quietly()),
                   factsAfter = measure::factsOfParts(copies->model, false, quietly());
        const auto before = measure::massOf(model, *factsBefore), after = measure::massOf(copies->model, *factsAfter);
        QCOMPARE_NEAR(after.mass, before.mass, 1e-12);
        QCOMPARE_NEAR(after.centre.Distance(before.centre), 0.0, 1e-6);
        for (std::size_t i = 0; i < 6; ++i)
            QCOMPARE_NEAR(after.inertia[i], before.inertia[i], 1e-7 * before.inertia[2]);
        const auto alone = run(copies->model, "intake.makeIndependent", {{"places", {"bracket #2"}}});
        QVERIFY2(alone, said(alone));
        QCOMPARE(alone->model.parts.size(), std::size_t(5));
        QCOMPARE(alone->model.parts.back()->name, std::string("bracket (2)"));
        QVERIFY(!run(alone->model, "intake.makeIndependent", {{"places", {"plate"}}}));
        QVERIFY(!run(alone->model, "intake.makeCopies", {{"parts", {"plate", "peg"}}}));
    }
    void mirrorImagesChangeTogether() {
        Model model = machine();
        // A drilled bracket, so that there is something to change, as it is, mirrored twice, and one of another
        // material.
        const TopoDS_Shape drilled = cut(model.parts[1]->shape, rod(gp_Ax1(gp_Pnt(15, 5, -1), gp_Dir(0, 0, 1)), 2, 7));
        gp_Trsf mirror, turn;
        mirror.SetMirror(gp_Ax2(gp_Pnt(1, 2, 3), gp_Dir(1, 2, 2)));
        turn.SetRotation(gp_Ax1(gp_Pnt(3, 4, 5), gp_Dir(1, -2, 3)), 0.7);
        model.parts[1] = std::make_shared<Part>("right", drilled);
        model.parts[2] = std::make_shared<Part>("left", moved(drilled, mirror));
        model.parts[3] = std::make_shared<Part>("left again", moved(moved(drilled, mirror), turn));
        const auto paired = run(model, "intake.makeCopies", Json::object());
        QVERIFY2(paired, said(paired));
        QCOMPARE(names(paired->model), (std::vector<std::string>{"plate", "right", "left", "peg"}));
        QCOMPARE(placesNamed(paired->model, {"left"})->size(), std::size_t(2));
        QCOMPARE_NEAR(totalVolume(paired->model), totalVolume(model), 1e-9 * totalVolume(model));
        QVERIFY(!run(paired->model, "intake.makeCopies", Json::object()));  // nothing is left to be made a copy
        const auto report =
            survey::receivingReport(paired->model, *measure::factsOfParts(paired->model, false, quietly()), quietly());
        QVERIFY(report);
        QVERIFY(std::none_of(report->odd.begin(), report->odd.end(),
                             [](const auto& odd) { return odd.kind == survey::Oddity::SameShape; }));

        const double bare = volumeOf(machine().parts[1]->shape);
        for (const char* edited : {"right", "left"}) {
            const auto filled = run(paired->model, "shave.removeHoles", {{"upTo", 10.0}, {"parts", {edited}}});
            QVERIFY2(filled, said(filled));
            QCOMPARE_NEAR(volumeOf(filled->model.parts[1]->shape), bare, 1e-9 * bare);
            QCOMPARE_NEAR(volumeOf(filled->model.parts[2]->shape), bare, 1e-9 * bare);
            QCOMPARE_NEAR(volumeOf(filled->model.parts[0]->shape), volumeOf(model.parts[0]->shape), 1e-6);
            QCOMPARE(filled->lineage.size(), filled->model.parts.size());
            QVERIFY(filled->lineage[0].untouched);
            QCOMPARE(filled->lineage[1].faces().size(), filled->lineage[2].faces().size());
            // It is the mirror image still: its centre is where the pair says.
            const auto centreOf = [](const TopoDS_Shape& shape) {
                GProp_GProps props;
                BRepGProp::VolumeProperties(shape, props);
                return props.CentreOfMass();
            };
            const MirrorPair& pair = filled->model.mirrors.front();
            QCOMPARE_NEAR(centreOf(filled->model.parts[1]->shape)
                              .Transformed(pair.across)
                              .Distance(centreOf(filled->model.parts[2]->shape)),
                          0.0, 1e-6);
            // The numbering is the same on both.
            for (int f = 1; f <= filled->model.parts[1]->incidence().faceCount(); ++f)
                QCOMPARE_NEAR(areaOf(filled->model.parts[1]->incidence().face(f)),
                              areaOf(filled->model.parts[2]->incidence().face(f)), 1e-7);
        }
        // Saved and opened again, they still do.
        {
            const QTemporaryDir folder;
            const std::filesystem::path path = folder.path().toStdString() + "/pair.rasoir";
            QVERIFY(exchange::saveWork(Work(paired->model, "pair"), Json::object(), path, quietly()));
            const auto read = exchange::openWork(path, quietly());
            QVERIFY2(read, said(read));
            const Model& again = read->work.received();
            QCOMPARE(again.mirrors.size(), std::size_t(1));
            const auto filled = run(again, "shave.removeHoles", {{"upTo", 10.0}, {"parts", {"left"}}});
            QVERIFY2(filled, said(filled));
            QCOMPARE_NEAR(volumeOf(filled->model.parts[1]->shape), bare, 1e-9 * bare);
        }
        // Made independent, each goes its own way.
        const auto own = run(paired->model, "intake.makeIndependent", {{"places", {"left"}}});
        QVERIFY2(own, said(own));
        QVERIFY(own->model.mirrors.empty());
        const auto filled = run(own->model, "shave.removeHoles", {{"upTo", 10.0}, {"parts", {"right"}}});
        QVERIFY2(filled, said(filled));
        QVERIFY(volumeOf(filled->model.parts[2]->shape) < bare - 10.0);
        // Reordered and with a part dropped, the pair still points at the right two.
        const auto first = run(paired->model, "intake.reorder", {{"parts", {"left"}}, {"before", "plate"}});
        QVERIFY2(first, said(first));
        const MirrorPair& pair = first->model.mirrors.front();
        QCOMPARE(first->model.parts[pair.original]->name, std::string("right"));
        QCOMPARE(first->model.parts[pair.image]->name, std::string("left"));
    }
    /// The same steps on a revision: parts in another order, one more, one longer, everything elsewhere and in other
    /// copies.
    void allOfItReplaysOnARevision() {
        const Model old = machine();
        Model revised;
        const auto keep = [&](std::size_t part, const TopoDS_Shape& shape, int more) {
            for (const Occurrence& o : old.occurrences)
                if (o.part == part)
                    revised.occurrences.push_back({revised.parts.size(), o.placement, o.name, {}, std::nullopt});
            for (int i = 0; i < more; ++i)
                revised.occurrences.push_back(
                    {revised.parts.size(), shift(5.0 * i, -40, 0), old.parts[part]->name, {}, std::nullopt});
            revised.parts.push_back(std::make_shared<Part>(old.parts[part]->name, shape));
        };
        keep(4, rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 2, 15), 2);
        keep(2, old.parts[2]->shape, 0);
        keep(0, drilledPlate(120, 60, 8, 6, 5), 0);
        keep(1, old.parts[1]->shape, 0);
        revised.parts.push_back(std::make_shared<Part>("cover", block(100, 60, 2)));
        revised.occurrences.push_back({revised.parts.size() - 1, shift(0, 0, 40), "cover", {}, std::nullopt});
        Work work(old, "machine");
        work = work.withStep("intake.assignMaterial", {{"parts", {"p*"}}, {"material", "lead"}, {"density", 11340.0}})
                   .withStep("intake.regroup", {{"places", {"peg"}}, {"group", {"pins"}}})
                   .withStep("intake.setAside", {{"places", {"peg #2"}}})
                   .withStep("intake.makeCopies", {{"parts", {"bracket", "bracket again"}}})
                   .withStep("intake.standIn", {{"parts", {"plate"}}, {"by", "box"}})
                   .withStep("intake.rename", {{"parts", {"bracket left"}}, {"to", "left"}});
        measure::FactsCache facts;
        const auto first = work.replayed(facts, quietly());
        QVERIFY2(first, said(first));
        for (const Step& step : first->ledger().steps)
            QVERIFY2(step.state == StepState::Done, step.problem ? step.problem->what.c_str() : "");
        const auto again = Work(revised, "machine 2").withLedger(first->ledger()).replayed(facts, quietly(), true);
        QVERIFY2(again, said(again));
        const auto& steps = again->ledger().steps;
        for (std::size_t s = 0; s < 5; ++s)
            QVERIFY2(steps[s].state == StepState::Done, steps[s].problem ? steps[s].problem->what.c_str() : "");
        const Model& now = again->current();
        const auto part = [&now](const std::string& name) -> const Part& { return *now.parts[*now.partNamed(name)]; };
        QCOMPARE(part("peg").material, std::string("lead"));
        QCOMPARE(part("plate").material, std::string("lead"));
        QVERIFY(part("cover").material.empty());
        QCOMPARE_NEAR(volumeOf(part("plate").shape), 120.0 * 60.0 * 8.0, 1e-6);
        QVERIFY(now.partNamed("bracket again").has_value() !=
                now.partNamed("bracket").has_value());  // the first of the same shape stays
        QCOMPARE(std::count_if(now.occurrences.begin(), now.occurrences.end(),
                               [](const Occurrence& o) { return o.path == std::vector<std::string>{"pins"}; }),
                 5);
        QCOMPARE(
            std::count_if(now.occurrences.begin(), now.occurrences.end(), [](const Occurrence& o) { return o.aside; }),
            1);
        // What the revision no longer has is said by name; nothing is guessed.
        QVERIFY(steps[5].state == StepState::Failed);
        QVERIFY2(steps[5].problem->what.find("bracket left") != std::string::npos, steps[5].problem->what.c_str());
    }
    void independentCopiesAreWrittenAsPartsOfTheirOwn() {
        const QTemporaryDir folder;
        const std::filesystem::path path = folder.path().toStdString() + "/own.step";
        const auto alone = run(machine(), "intake.makeIndependent", {{"places", {"peg #2"}}});
        QVERIFY2(alone, said(alone));
        QVERIFY(exchange::writeFile(alone->model, path, {}, quietly()));
        const auto read = exchange::readFile(path, {}, quietly());
        QVERIFY2(read, said(read));
        QCOMPARE(names(*read), names(alone->model));
        QCOMPARE(placesNamed(*read, {"peg"})->size(), std::size_t(2));
        QCOMPARE(placesNamed(*read, {"peg (2)"})->size(), std::size_t(1));
        QCOMPARE_NEAR(totalVolume(*read), totalVolume(alone->model), 1e-6 * totalVolume(*read));
        // Edited alone: the other pegs keep their length.
        const auto longer = run(alone->model, "intake.standIn", {{"parts", {"peg (2)"}}, {"by", "box"}});
        QVERIFY(longer->model.parts[*longer->model.partNamed("peg")]->shape.IsSame(
            alone->model.parts[*alone->model.partNamed("peg")]->shape));
    }
    void joiningKeepsBodiesAndPlaces() {
        const Model model = machine();
        const auto joined = run(model, "intake.joinParts", {{"name", "all of it"}});
        QVERIFY2(joined, said(joined));
        QCOMPARE(joined->model.parts.size(), std::size_t(1));
        QCOMPARE(joined->model.parts[0]->name, std::string("all of it"));
        QCOMPARE(solidsIn(joined->model.parts[0]->shape), 7);
        QCOMPARE_NEAR(totalVolume(joined->model), totalVolume(model), 1e-6);
        QVERIFY(!run(model, "intake.joinParts", {{"places", {"plate"}}}));
        const auto brass = run(model, "intake.assignMaterial", {{"parts", {"peg"}}, {"material", "brass"}});
        QVERIFY(!run(brass->model, "intake.joinParts", Json::object()));
    }
    void allOfItReplaysFromALedger() {
        const Model model = machine();
        Work work(model, "machine.step");
        work = work.withStep("intake.rename", {{"parts", {"plate"}}, {"to", "base"}})
                   .withStep("intake.assignMaterial", {{"parts", {"base"}}, {"material", "brass"}})
                   .withStep("intake.makeCopies", Json::object())
                   .withStep("intake.setAside", {{"places", {"peg"}}})
                   .withStep("shave.removeHoles", {{"upTo", 6.0}});
        measure::FactsCache cache;
        const auto done = work.replayed(cache, quietly());
        QVERIFY2(done, said(done));
        for (const Step& step : done->ledger().steps)
            QVERIFY2(step.state == StepState::Done, step.problem ? sentence(*step.problem).c_str() : "");
        QCOMPARE(done->current().parts[0]->material, std::string("brass"));
        const auto text = toJson(done->ledger()).dump();
        const auto again = Work(model, "machine.step").withLedger(*ledgerFromJson(text)).replayed(cache, quietly());
        QVERIFY(again);
        QCOMPARE_NEAR(totalVolume(again->current()), totalVolume(done->current()), 1e-9);
    }
};

static Registered<IntakeTest> intakeTest;

}  // namespace rasoir::test

#include "intake_test.moc"
