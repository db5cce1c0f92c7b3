// Receiving: IGES, several files at once, odd names, and files of our own, sound and damaged.
#include <fstream>
#include <IGESControl_Controller.hxx>
#include <IGESControl_Writer.hxx>
#include <Interface_Static.hxx>
#include <QTemporaryDir>
#include <STEPControl_Writer.hxx>

#include "common/safe_file.h"
#include "exchange/files.h"
#include "exchange/work_file.h"
#include "measure/mass.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {
namespace fs = std::filesystem;

class ReceiveTest : public QObject {
    Q_OBJECT
    QTemporaryDir m_folder;
    [[nodiscard]] fs::path at(const std::string& name) const { return m_folder.path().toStdString() + "/" + name; }
    [[nodiscard]] fs::path inFolder(const std::string& name) const { return at(name); }  // where a local hides it

    fs::path iges(const std::string& name, const TopoDS_Shape& shape, const char* unit, bool solids) {
        IGESControl_Controller::Init();
        IGESControl_Writer writer(unit, solids ? 1 : 0);
        writer.AddShape(shape);
        writer.ComputeModel();
        if (!writer.Write(at(name).c_str())) return {};
        return at(name);
    }
    static std::string text(const fs::path& path) { return *readText(path); }
    fs::path altered(const fs::path& from, const std::string& name, const std::function<void(std::string&)>& change) {
        std::string all = text(from);
        change(all);
        std::ofstream(at(name), std::ios::binary) << all;
        return at(name);
    }
    static double volume(const Model& model) {
        double sum = 0.0;
        for (const Occurrence& o : model.occurrences) sum += volumeOf(model.parts[o.part]->shape);
        return sum;
    }
    /// Work with two steps done, one off, one failed, one waiting.
    static Work someWork() {
        Work work(modelOf(drilledPlate(100, 60, 8, 6, 5), "plate"), "plate.step");
        work = work.withStep("intake.assignMaterial", {{"material", "brass"}})
                   .withStep("shave.removeHoles", {{"upTo", 6.0}})
                   .withStep("intake.rename", {{"parts", {"plate"}}, {"to", "base"}});
        work = work.withStepSwitched(2, false).withStep("shave.removeHoles", {{"upTo", 6.0}});
        measure::FactsCache cache;
        return *work.replayed(cache, quietly());
    }

private slots:
    void whatNamesNothingIsNamedByItsFile() {
        // The kernel's own writer puts its own name in for want of one.
        STEPControl_Writer writer;
        Interface_Static::SetCVal("write.step.product.name", "Open CASCADE STEP translator 7.6 1");
        writer.Transfer(block(10, 20, 30), STEPControl_AsIs);
        QCOMPARE(writer.Write(at("plain lid.step").c_str()), IFSelect_RetDone);
        const auto model = exchange::readFile(at("plain lid.step"), {}, quietly());
        QVERIFY2(model, said(model));
        QCOMPARE(model->parts.front()->name, std::string("plain lid"));
        QCOMPARE(model->name, std::string("plain lid"));
    }
    void igesSolidsComeInWithTheirUnit_data() {
        QTest::addColumn<QString>("unit");
        QTest::addColumn<int>("expected");
        QTest::newRow("mm") << "MM" << static_cast<int>(Unit::Millimetre);
        QTest::newRow("inch") << "INCH" << static_cast<int>(Unit::Inch);
        QTest::newRow("metre") << "M" << static_cast<int>(Unit::Metre);
    }
    void igesSolidsComeInWithTheirUnit() {
        QFETCH(QString, unit);
        QFETCH(int, expected);
        const TopoDS_Shape plate = drilledPlate(100, 60, 8, 4, 5);
        const auto model = exchange::readFile(iges("solid.igs", plate, qPrintable(unit), true), {}, quietly());
        QVERIFY2(model, said(model));
        QCOMPARE(static_cast<int>(*model->fileUnit), expected);
        QCOMPARE(model->parts.size(), std::size_t(1));
        QCOMPARE_NEAR(volume(*model), volumeOf(plate), 1e-6 * volumeOf(plate));
    }
    void igesFacesBecomeOneBag() {
        const TopoDS_Shape plate = drilledPlate(100, 60, 8, 4, 5);
        const auto model = exchange::readFile(iges("faces.igs", plate, "MM", false), {}, quietly());
        QVERIFY2(model, said(model));
        QCOMPARE(model->parts.size(), std::size_t(1));
        QCOMPARE(model->parts[0]->name, std::string("faces"));
        QCOMPARE(model->parts[0]->incidence().faceCount(), facesIn(plate));
        // Nothing was stitched behind our back: every edge is open.
        const auto facts = measure::factsOf(*model->parts[0], 4.0, false);
        QVERIFY(facts.openEdges > 20);
        const double area = measure::factsOf(Part("p", plate), 4.0, false).area;
        QCOMPARE_NEAR(facts.area, area, 1e-6 * area);
    }
    void igesWithMissingSectionsSaysWhich() {
        const fs::path sound = iges("sound.igs", drilledPlate(100, 60, 8, 2, 5), "MM", true);
        for (const char letter : std::string("SGDPT")) {
            const auto without = altered(sound, std::string("no") + letter + ".igs", [letter](std::string& all) {
                std::string kept;
                std::istringstream lines(all);
                for (std::string line; std::getline(lines, line);)
                    if (line.size() < 73 || line[72] != letter) kept += line + "\n";
                all = kept;
            });
            const auto model = exchange::readFile(without, {}, quietly());
            QVERIFY2(!model, std::string(1, letter).c_str());
            QVERIFY(!model.error().what.empty());
        }
        const auto half = altered(sound, "half.igs", [](std::string& all) { all.resize(all.size() / 2 / 81 * 81); });
        QVERIFY(!exchange::readFile(half, {}, quietly()));
        const auto fewer =
            altered(sound, "fewer.igs", [](std::string& all) { all.erase(all.find("P0000003") - 72, 81); });
        QVERIFY2(!exchange::readFile(fewer, {}, quietly()), "a missing line");
    }
    void damagedIgesNeverCrashes() {
        const std::string sound = text(iges("whole.igs", drilledPlate(100, 60, 8, 2, 5), "MM", true));
        Random random(17);
        int refused = 0, read = 0;
        for (int round = 0; round < 60; ++round) {
            std::string all = sound;
            // Within the lines' text, so that the sections stay in order and the translator is reached.
            for (int hit = 0; hit < 1 + round % 5; ++hit) {
                const auto line =
                    static_cast<std::size_t>(between(random, 4, static_cast<double>(all.size() / 81) - 1));
                const auto column = static_cast<std::size_t>(between(random, 0, 64));
                all[81 * line + column] = "0123456789.,;-D "[static_cast<std::size_t>(between(random, 0, 15.99))];
            }
            std::ofstream(at("damaged.igs"), std::ios::binary) << all;
            const auto model = exchange::readFile(at("damaged.igs"), {}, quietly());
            if (model)
                ++read;
            else
                ++refused;
        }
        QCOMPARE(read + refused, 60);
    }
    void severalFilesBecomeOneModel() {
        QVERIFY(exchange::writeFile(modelOf(block(10, 20, 30), "block"), at("one.step"), {}, quietly()));
        exchange::WriteOptions inches;
        inches.unit = Unit::Inch;
        QVERIFY(exchange::writeFile(modelOf(block(5, 6, 7), "block"), at("two.step"), inches, quietly()));
        const auto both = exchange::readFiles({at("one.step"), at("two.step"), at("one.step")}, {}, quietly());
        QVERIFY2(both, said(both));
        QCOMPARE(both->parts.size(), std::size_t(3));
        QCOMPARE(both->parts[1]->name, std::string("block (2)"));
        QCOMPARE(both->parts[2]->name, std::string("block (3)"));  // the same file twice
        QCOMPARE(both->occurrences[1].path, std::vector<std::string>{"two"});
        QCOMPARE(both->occurrences[2].path, std::vector<std::string>{"one (2)"});
        QCOMPARE_NEAR(volume(*both), 2 * 6000.0 + 210.0, 1e-6);
        QVERIFY(std::any_of(both->notes.begin(), both->notes.end(),
                            [](const std::string& n) { return n.find("converted") != std::string::npos; }));
        QVERIFY(!exchange::readFiles({at("one.step"), at("none.step")}, {}, quietly()));
    }
    void oddNamesAreRepairedAndTold() {
        QVERIFY(exchange::writeFile(modelOf(block(10, 20, 30), "TRAEGER"), at("names.step"), {}, quietly()));
        // As a program writes it that knows no encodings: UTF-8 twice over, and bare Latin-1.
        for (const std::string& stored : {std::string("Tr\u00c3\u00a4ger"), std::string("Tr\xe4ger")}) {
            const auto path = altered(at("names.step"), "odd.step", [&stored](std::string& all) {
                for (std::size_t i = all.find("TRAEGER"); i != std::string::npos; i = all.find("TRAEGER", i))
                    all.replace(i, 7, stored);
            });
            const auto model = exchange::readFile(path, {}, quietly());
            QVERIFY2(model, said(model));
            QCOMPARE(QString::fromStdString(model->parts[0]->name), QString::fromUtf8("Tr\u00e4ger"));
        }
    }
    void assembliesThatHoldThemselvesAreRefused() {
        const std::string sound = text(demoFile("carrier.step"));
        // Every other use of a part in turn: the part becomes the whole that holds it, or the root.
        int refused = 0;
        std::size_t at = 0, use = 0;
        while ((at = sound.find("NEXT_ASSEMBLY_USAGE_OCCURRENCE(", at)) != std::string::npos) {
            const std::size_t whole = sound.find('#', at), part = sound.find('#', whole + 1),
                              end = sound.find(',', part);
            at = end;
            if (use++ % 2 != 0) continue;
            const std::string wholeNumber = sound.substr(whole, sound.find(',', whole) - whole);
            std::string circular = sound;
            circular.replace(part, end - part, wholeNumber);
            std::ofstream(inFolder("circle.step"), std::ios::binary) << circular;
            const auto model = exchange::readFile(inFolder("circle.step"), {}, quietly());
            QVERIFY(!model);
            QVERIFY2(model.error().what.find("built of itself") != std::string::npos, said(model));
            ++refused;
        }
        QVERIFY(refused > 10);
        QVERIFY(exchange::readFile(demoFile("carrier.step"), {}, quietly()));
    }
    void aLedgerIsReadOutOfAWorkFile() {
        QVERIFY(exchange::saveWork(someWork(), {}, at("w.rasoir"), quietly()));
        const auto ledger = exchange::readLedger(at("w.rasoir"));
        QVERIFY2(ledger, said(ledger));
        QCOMPARE(ledger->steps.size(), std::size_t(4));
        QVERIFY(saveLedger(*ledger, at("w.json")));
        QCOMPARE(exchange::readLedger(at("w.json"))->steps.size(), std::size_t(4));
    }
    void aLongLoadIsCancelledAtAnyMoment() {
        // Stopped at the first, the second, ... report: always "stopped", never half a model.
        for (int stopAt = 1; stopAt < 12; ++stopAt) {
            int reports = 0;
            std::unique_ptr<Progress> progress;
            progress = std::make_unique<Progress>([&](double, const std::string&) {
                if (++reports == stopAt) progress->cancel();
            });
            const auto model = exchange::readFile(demoFile("carrier.step"), {}, *progress);
            QVERIFY2(!model || reports < stopAt, "cancelled, and still a model");
            if (!model) QCOMPARE(model.error().kind, ProblemKind::Cancelled);
        }
    }
    void manyCopiesComeQuickly() {
        Model model = modelOf(drilledPlate(30, 20, 4, 2, 3), "clip");
        model.occurrences.clear();
        for (int i = 0; i < 3000; ++i) {
            gp_Trsf place;
            place.SetTranslation(gp_Vec(40 * (i % 60), 30 * (i / 60), 0));
            model.occurrences.push_back({0, place, "clip", {}, std::nullopt});
        }
        QVERIFY(exchange::writeFile(model, at("clips.step"), {}, quietly()));
        const auto read = exchange::readFile(at("clips.step"), {}, quietly());
        QVERIFY2(read, said(read));
        QCOMPARE(read->parts.size(), std::size_t(1));
        QCOMPARE(read->occurrences.size(), std::size_t(3000));
    }
    void numbersThatAreNoneAreRefusedBeforeTheTranslatorSeesThem() {
        QVERIFY(exchange::writeFile(modelOf(block(10, 20, 30)), at("fine.step"), {}, quietly()));
        const std::string fine = *readText(at("fine.step"));
        QVERIFY(exchange::readFile(at("fine.step"), {}, quietly()));
        for (const char* bad : {"nan", "-nan", "inf", "1.E999", "-inf"}) {
            std::string broken = fine;
            const std::size_t point = broken.find("CARTESIAN_POINT('',(", broken.find("VERTEX_POINT"));
            QVERIFY(point != std::string::npos);
            const std::size_t from = point + 20, to = broken.find(',', from);
            broken.replace(from, to - from, bad);
            QVERIFY(writeText(at("broken.step"), broken));
            const auto refused = exchange::readFile(at("broken.step"), {}, quietly());
            QVERIFY2(!refused, bad);
            QCOMPARE(refused.error().kind, ProblemKind::BadInput);
            QVERIFY2(refused.error().what.find("a number reads") != std::string::npos, refused.error().what.c_str());
        }
    }
    void aWorkFileComesBackAsItWas() {
        const Work work = someWork();
        const Json view{{"views", {{"front", {1, 2, 3}}}}};
        QVERIFY(exchange::saveWork(work, view, at("w.rasoir"), quietly()));
        const auto file = exchange::openWork(at("w.rasoir"), quietly());
        QVERIFY2(file, said(file));
        QVERIFY(file->notes.empty());
        QCOMPARE(file->view, view);
        QCOMPARE(toJson(file->work.ledger()), toJson(work.ledger()));
        QCOMPARE(file->work.statesKnown(), work.statesKnown());
        for (std::size_t s = 0; s <= work.statesKnown(); ++s) {
            const Model &a = work.modelAfter(s), &b = file->work.modelAfter(s);
            QCOMPARE(b.parts.size(), a.parts.size());
            QCOMPARE(b.parts[0]->name, a.parts[0]->name);
            QCOMPARE(b.parts[0]->material, a.parts[0]->material);
            QCOMPARE(b.parts[0]->incidence().faceCount(), a.parts[0]->incidence().faceCount());
            QCOMPARE_NEAR(volume(b), volume(a), 1e-9 * volume(a));
            QVERIFY(b.materials == a.materials);
        }
        QCOMPARE(file->work.ledger().steps[3].state, StepState::Nothing);  // no holes are left
        // The work goes on.
        measure::FactsCache cache;
        const auto on = file->work.withStepSwitched(2, true).replayed(cache, quietly());
        QVERIFY(on);
        QCOMPARE(on->modelAfter(3).parts[0]->name, std::string("base"));
        // And the file opens as geometry too.
        const auto model = exchange::readFile(at("w.rasoir"), {}, quietly());
        QVERIFY2(model, said(model));
        QCOMPARE_NEAR(volume(*model), 48000.0, 1e-6);
    }
    void groupsComeBackWithAllTheyKnow() {
        Model model = modelOf(block(10, 20, 30), "block");
        model.giveIds();
        const PartId part = model.parts[0]->id;
        const PlaceId place = model.occurrences[0].id;
        GroupRule rule;
        rule.surface = "plane";
        rule.axis = 2;
        rule.at = 30.0;
        rule.material = "steel";
        model.groups.push_back({"lid", "load", Colour{0.1, 0.5, 0.9}, {}, rule});
        model.groups.push_back({"foot",
                                "support",
                                std::nullopt,
                                {{part, everyPlace, {EntityKind::Face, 3}}, {part, place, {EntityKind::Edge, 7}}},
                                std::nullopt});
        QVERIFY(exchange::saveWork(Work(model, "block.step"), Json::object(), at("g.rasoir"), quietly()));
        const auto file = exchange::openWork(at("g.rasoir"), quietly());
        QVERIFY2(file, said(file));
        const std::vector<Group>& back = file->work.received().groups;
        QCOMPARE(back.size(), std::size_t(2));
        for (std::size_t g = 0; g < 2; ++g) {
            QCOMPARE(back[g].name, model.groups[g].name);
            QCOMPARE(back[g].purpose, model.groups[g].purpose);
            QVERIFY(back[g].colour == model.groups[g].colour);
            QVERIFY(back[g].members == model.groups[g].members);
            QCOMPARE(back[g].rule.has_value(), model.groups[g].rule.has_value());
        }
        QCOMPARE(toJson(*back[0].rule), toJson(rule));
    }
    void lineagesComeBackLinkForLink() {
        Model model = modelOf(block(20, 20, 10), "plate");
        model.parts.push_back(std::make_shared<Part>("pin", rod(gp_Ax1(gp_Pnt(10, 10, -5), gp_Dir(0, 0, 1)), 4, 20)));
        model.occurrences.push_back({1, gp_Trsf(), "pin", {}, std::nullopt});
        measure::FactsCache facts;
        const auto work = Work(model, "plate.step")
                              .withStep("divide.subtract", {{"from", {"plate"}}, {"tools", {"pin"}}})
                              .replayed(facts, quietly());
        QVERIFY2(work, said(work));
        QVERIFY(exchange::saveWork(*work, Json::object(), at("l.rasoir"), quietly()));
        const auto file = exchange::openWork(at("l.rasoir"), quietly());
        QVERIFY2(file, said(file));
        const auto *was = work->lineageOfStep(0), *is = file->work.lineageOfStep(0);
        QVERIFY(was != nullptr && is != nullptr);
        QCOMPARE(is->size(), was->size());
        int reversed = 0;
        for (std::size_t k = 0; k < was->size(); ++k) {
            QCOMPARE((*is)[k].part, (*was)[k].part);
            QCOMPARE((*is)[k].into, (*was)[k].into);
            QCOMPARE((*is)[k].untouched, (*was)[k].untouched);
            QVERIFY((*is)[k].links == (*was)[k].links);
            for (const Link& link : (*was)[k].faces()) reversed += link.reversed;
        }
        QVERIFY(reversed > 0);  // the skin of the pin has become a hole
    }
    void variantsGoTheirOwnWaysAndComeBack() {
        const Work work = someWork();
        measure::FactsCache cache;
        QVERIFY(!work.withVariant("  "));
        QVERIFY(!work.withVariant("first"));
        auto plain = work.withVariant("plain");
        QVERIFY2(plain, said(plain));
        // Begun with the same steps: nothing is run again, and the states are the very same.
        QVERIFY(plain->upToDate());
        QVERIFY(&plain->current() == &work.current());
        Work own = *plain;
        while (!own.ledger().steps.empty()) own = own.withoutStep(own.ledger().steps.size() - 1);
        own = *own.withStep("intake.rename", {{"parts", {"plate"}}, {"to", "lid"}}).replayed(cache, quietly());
        QCOMPARE(own.ledger().steps[0].state, StepState::Done);
        own = own.withTargetSize(1.25);
        const Work back = own.onVariant(0);
        QCOMPARE(back.ledger().steps.size(), work.ledger().steps.size());
        QVERIFY(back.upToDate());
        QCOMPARE(back.current().targetSize, 1.25);  // one size for all variants
        QCOMPARE(back.variantAt(1).ledger.steps.size(), std::size_t(1));
        QVERIFY(!back.withoutVariant(0));
        QCOMPARE((*back.withoutVariant(1)).variantNames(), std::vector<std::string>{"first"});
        QVERIFY(!back.withVariantRenamed(0, "plain"));
        QVERIFY(!back.variantNamed("sheets"));

        // Through the file, whichever is in hand.
        for (const std::size_t inHand : {0, 1}) {
            const Work saved = back.onVariant(inHand);
            QVERIFY(exchange::saveWork(saved, Json::object(), at("v.rasoir"), quietly()));
            const auto file = exchange::openWork(at("v.rasoir"), quietly());
            QVERIFY2(file, said(file));
            QVERIFY(file->notes.empty());
            QCOMPARE(file->work.variantNames(), (std::vector<std::string>{"first", "plain"}));
            QCOMPARE(file->work.variant(), inHand);
            for (const std::size_t v : {0, 1}) {
                const Work a = saved.onVariant(v), b = file->work.onVariant(v);
                QCOMPARE(toJson(b.ledger()), toJson(a.ledger()));
                QVERIFY(b.upToDate());
                QCOMPARE(b.current().parts[0]->name, a.current().parts[0]->name);
                QCOMPARE_NEAR(volume(b.current()), volume(a.current()), 1e-9 * volume(a.current()));
                exchange::ReadOptions options;
                options.variant = a.variantNames()[v];
                const auto model = exchange::readFile(at("v.rasoir"), options, quietly());
                QVERIFY2(model, said(model));
                QCOMPARE(model->parts[0]->name, a.current().parts[0]->name);
            }
            exchange::ReadOptions unknown;
            unknown.variant = "sheets";
            QVERIFY(!exchange::readFile(at("v.rasoir"), unknown, quietly()));
        }
    }
    void assembliesLumpsAndColoursComeBack() {
        Model model = *exchange::readFile(demoFile("carrier.step"), {}, quietly());
        model.occurrences.change(5).aside = true;
        const auto lump =
            findOperation("intake.standIn")->run(model, {{"parts", {"counterweight"}}, {"by", "lump"}}, quietly());
        QVERIFY(exchange::saveWork(Work(lump->model, "carrier.step"), {}, at("c.rasoir"), quietly()));
        const auto file = exchange::openWork(at("c.rasoir"), quietly());
        QVERIFY2(file, said(file));
        const Model& back = file->work.received();
        QCOMPARE(back.occurrences.size(), model.occurrences.size());
        QVERIFY(back.occurrences[5].aside);
        for (std::size_t o = 0; o < back.occurrences.size(); ++o) {
            QCOMPARE(back.occurrences[o].path, model.occurrences[o].path);
            QCOMPARE_NEAR(back.occurrences[o].placement.TranslationPart().X(),
                          model.occurrences[o].placement.TranslationPart().X(), 1e-9);
        }
        for (std::size_t p = 0; p < back.parts.size(); ++p)
            QVERIFY(back.parts[p]->colour == model.parts[p]->colour && back.parts[p]->known == model.parts[p]->known);
        const std::size_t weight = *back.partNamed("counterweight");
        QVERIFY(back.parts[weight]->lump.has_value());
        QCOMPARE_NEAR(back.parts[weight]->lump->mass, lump->model.parts[weight]->lump->mass, 1e-12);
    }
    void damagedWorkFilesSayWhatCouldBeSaved() {
        const Work work = someWork();
        QVERIFY(exchange::saveWork(work, {{"a", 1}}, at("w.rasoir"), quietly()));
        const std::string whole = text(at("w.rasoir"));
        // Cut short: the ledger is saved.
        const std::size_t ledgerEnd = whole.find("\n}\n") + 3;
        for (const std::size_t length : {whole.size() - 10, (whole.size() + ledgerEnd) / 2, ledgerEnd}) {
            std::ofstream(at("cut.rasoir"), std::ios::binary) << whole.substr(0, length);
            const auto file = exchange::openWork(at("cut.rasoir"), quietly());
            QVERIFY(!file);
            const auto ledger = exchange::ledgerOfWorkFile(at("cut.rasoir"));
            QVERIFY2(ledger, said(ledger));
            QCOMPARE(ledger->steps.size(), std::size_t(4));
            QVERIFY2(sentence(file.error()).find("4 steps can still be read") != std::string::npos,
                     sentence(file.error()).c_str());
        }
        // Damage anywhere: opened with a note, or refused; never silently wrong.
        Random random(23);
        int opened = 0, told = 0, refused = 0;
        for (int round = 0; round < 200; ++round) {
            std::string bytes = whole;
            for (int hit = 0; hit < 8; ++hit)
                bytes[static_cast<std::size_t>(between(random, 0, static_cast<double>(bytes.size()) - 1))] ^=
                    static_cast<char>(1 + static_cast<int>(between(random, 0, 254)));
            std::ofstream(at("damaged.rasoir"), std::ios::binary) << bytes;
            const auto file = exchange::openWork(at("damaged.rasoir"), quietly());
            if (!file)
                ++refused;
            else if (!file->notes.empty())
                ++told;
            else {
                ++opened;
                QCOMPARE_NEAR(volume(file->work.current()), volume(work.current()), 1e-9 * volume(work.current()));
            }
        }
        QVERIFY(refused + told > 100);
    }
    void newerAndForeignFilesAreRefused() {
        QVERIFY(exchange::saveWork(someWork(), {}, at("w.rasoir"), quietly()));
        std::ofstream(at("letter.rasoir")) << "Dear colleague";
        QVERIFY(!exchange::openWork(at("letter.rasoir"), quietly()));
        QVERIFY(!exchange::openWork(at("none.rasoir"), quietly()));
        Progress stopped;
        stopped.cancel();
        QVERIFY(!exchange::saveWork(someWork(), {}, at("w.rasoir"), stopped));
        QVERIFY(exchange::openWork(at("w.rasoir"), quietly()));  // the old one is still whole
    }
};

static Registered<ReceiveTest> receiveTest;

}  // namespace rasoir::test

#include "receive_test.moc"
