#include "exchange/files.h"

#include <fstream>
#include <QRegularExpression>
#include <QTemporaryDir>

#include "common/safe_file.h"
#include "exchange/step_syntax.h"
#include "measure/facts.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {
namespace fs = std::filesystem;

class FilesTest : public QObject {
    Q_OBJECT
    QTemporaryDir m_folder;

    [[nodiscard]] fs::path at(const std::string& name) const { return m_folder.path().toStdString() + "/" + name; }

    /// Two parts, one of them in three places below an assembly, one face red.
    static Model smallAssembly() {
        Model model =
            modelOf(cut(block(30, 20, 10), rod(gp_Ax1(gp_Pnt(10, 10, -1), gp_Dir(0, 0, 1)), 3, 20)), "träger");
        auto pin = std::make_shared<Part>("pin", rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 2, 15));
        pin->colour = Colour{0.1, 0.5, 0.2};
        pin->known.colours[{EntityKind::Face, 2}] = Colour{1.0, 0.0, 0.0};
        model.parts.push_back(pin);
        for (int i = 0; i < 3; ++i) {
            gp_Trsf place;
            place.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), 0.4 * i);
            place.SetTranslationPart(gp_Vec(40 + 10 * i, 0, 0));
            model.occurrences.push_back({1, place, "pin", {"pins", i == 2 ? "spare" : "fitted"}, std::nullopt});
        }
        model.name = "small assembly";
        return model;
    }
    static measure::Facts factsOf(const Model& model) {
        return measure::factsOf(model, *measure::factsOfParts(model, false, quietly()));
    }
    /// A STEP file with its text changed.
    fs::path altered(const std::string& name, const std::function<void(std::string&)>& change) {
        std::string text = *readText(demoFile("hanger-arm.step"));
        change(text);
        std::ofstream(at(name), std::ios::binary) << text;
        return at(name);
    }

private slots:
    /// Damage that a fuzzer found to lead the translator astray: into its own stack, or into a search without end.
    void whatWouldLeadTheTranslatorAstrayIsRefusedBefore_data() {
        QTest::addColumn<QString>("pattern");
        QTest::addColumn<QString>("instead");
        QTest::addColumn<QString>("says");
        QTest::newRow("an instance built of itself") << "#(\\d+) = AXIS2_PLACEMENT_3D\\('',#\\d+"
                                                     << "#\\1 = AXIS2_PLACEMENT_3D('',#\\1"
                                                     << "is built of itself";
        QTest::newRow("a piece between instances") << "(#\\d+ = DIRECTION\\('',\\([^)]*\\)\\);)"
                                                   << "\\1SENTATION('',(#278),#282);"
                                                   << "that is none";
        QTest::newRow("a type that cannot be") << "AXIS2_PLACEMENT_3D"
                                               << "AXIS1e-320_PLACEMENT_3D"
                                               << "does not say what";
        QTest::newRow("a point beyond all size") << "(#\\d+ = CARTESIAN_POINT\\('',\\()[-0-9.E+]+"
                                                 << "\\g1 4294967296."
                                                 << "a number reads";
    }
    void whatWouldLeadTheTranslatorAstrayIsRefusedBefore() {
        QFETCH(QString, pattern);
        QFETCH(QString, instead);
        QFETCH(QString, says);
        const auto path = altered("astray.step", [&](std::string& text) {
            QString all = QString::fromStdString(text);
            const auto found = QRegularExpression(pattern).match(all);
            QVERIFY(found.hasMatch());
            QString put = instead;
            put.replace("\\g1 ", found.captured(1)).replace("\\1", found.captured(1));
            all.replace(found.capturedStart(), found.capturedLength(), put);
            text = all.toStdString();
        });
        const auto model = exchange::readFile(path, {}, quietly());
        QVERIFY(!model);
        QCOMPARE(model.error().kind, ProblemKind::BadInput);
        QVERIFY2(QString::fromStdString(model.error().what).contains(says), said(model));
    }
    void stepRoundTripKeepsEverything_data() {
        QTest::addColumn<int>("unit");
        QTest::addColumn<int>("schema");
        for (const Unit unit : {Unit::Millimetre, Unit::Inch, Unit::Metre})
            for (const auto schema :
                 {exchange::StepSchema::Ap203, exchange::StepSchema::Ap214, exchange::StepSchema::Ap242})
                QTest::addRow("%s, schema %d", unitName(unit).c_str(), int(schema)) << int(unit) << int(schema);
    }
    void stepRoundTripKeepsEverything() {
        QFETCH(int, unit);
        QFETCH(int, schema);
        const Model before = smallAssembly();
        QVERIFY(exchange::writeFile(before, at("trip.step"), {Unit(unit), exchange::StepSchema(schema)}, quietly()));
        const auto after = exchange::readFile(at("trip.step"), {}, quietly());
        QVERIFY2(after, said(after));
        QCOMPARE(after->fileUnit, std::optional(Unit(unit)));
        QCOMPARE(after->parts.size(), before.parts.size());
        QCOMPARE(after->occurrences.size(), before.occurrences.size());
        QCOMPARE(after->name, before.name);
        for (std::size_t p = 0; p < before.parts.size(); ++p) QVERIFY(after->partNamed(before.parts[p]->name));
        const Part& pin = *after->parts[*after->partNamed("pin")];
        const measure::Facts a = factsOf(before), b = factsOf(*after);
        QCOMPARE_NEAR(b.volume, a.volume, 1e-9 * a.volume);
        QCOMPARE_NEAR(b.area, a.area, 1e-9 * a.area);
        QCOMPARE_NEAR(b.centre.Distance(a.centre), 0.0, 1e-8);
        QCOMPARE(b.surfaces, a.surfaces);  // a cylinder is still a cylinder
        std::multiset<std::vector<std::string>> pathsBefore, pathsAfter;
        for (const Occurrence& o : before.occurrences) pathsBefore.insert(o.path);
        for (const Occurrence& o : after->occurrences) pathsAfter.insert(o.path);
        QCOMPARE(pathsAfter, pathsBefore);
        if (schema != int(exchange::StepSchema::Ap203)) {
            QVERIFY(pin.colour);
            QCOMPARE_NEAR(pin.colour->green, 0.5, 1e-3);
            QCOMPARE(pin.known.colours.size(), std::size_t(1));
            QCOMPARE_NEAR(pin.known.colours.begin()->second.red, 1.0, 1e-3);
        }
    }
    void brepRoundTripKeepsShapes() {
        const Model before = smallAssembly();
        QVERIFY(exchange::writeFile(before, at("trip.brep"), {}, quietly()));
        const auto after = exchange::readFile(at("trip.brep"), {}, quietly());
        QVERIFY2(after, said(after));
        const measure::Facts a = factsOf(before), b = factsOf(*after);
        QCOMPARE_NEAR(b.volume, a.volume, 1e-9 * a.volume);
        QCOMPARE(b.faces, a.faces);
        QVERIFY(!after->fileUnit);
        QVERIFY(!after->notes.empty());
        const auto inches = exchange::readFile(at("trip.brep"), {Unit::Inch}, quietly());
        QVERIFY(inches);
        QCOMPARE_NEAR(factsOf(*inches).volume, a.volume * std::pow(25.4, 3), 1e-8 * a.volume * std::pow(25.4, 3));
    }
    void aFileWithoutAUnitAsksForOne() {
        const fs::path path = altered("unitless.step", [](std::string& text) {
            // Without the unit assignment the representation context says nothing about lengths.
            for (std::size_t p = text.find("GLOBAL_UNIT_ASSIGNED_CONTEXT"); p != std::string::npos;
                 p = text.find("GLOBAL_UNIT_ASSIGNED_CONTEXT", p)) {
                const std::size_t end = text.find("))", p) + 2;
                text.erase(p, end - p);
            }
        });
        const auto asked = exchange::readFile(path, {}, quietly());
        QVERIFY(!asked);
        QCOMPARE(asked.error().kind, ProblemKind::NeedsUnit);
        const auto millimetres = exchange::readFile(path, {Unit::Millimetre}, quietly());
        QVERIFY2(millimetres, said(millimetres));
        const auto metres = exchange::readFile(path, {Unit::Metre}, quietly());
        QVERIFY2(metres, said(metres));
        QCOMPARE_NEAR(factsOf(*millimetres).high[0], 424.0, 0.1);
        QCOMPARE_NEAR(metres->extent() / millimetres->extent(), 1000.0, 1e-6);
    }
    void theCarrierIsAsItsTableSays() {
        const Json truth = Json::parse(*readText(demoFile("carrier.json")));
        const auto model = exchange::readFile(demoFile("carrier.step"), {}, quietly());
        QVERIFY2(model, said(model));
        QCOMPARE(model->occurrences.size(), truth.at("occurrences").get<std::size_t>());
        const auto parts = measure::factsOfParts(*model, true, quietly());
        QVERIFY(parts);
        for (const Json& part : truth.at("parts")) {
            const auto index = model->partNamed(part.at("name"));
            QVERIFY2(index, part.at("name").get<std::string>().c_str());
            const double volume = part.at("volume_mm3");
            QCOMPARE_NEAR((*parts)[*index].volume, volume, 1e-9 * volume);
            QVERIFY(*(*parts)[*index].valid);
            QVERIFY(model->parts[*index]->colour.has_value());
            const auto count = std::count_if(model->occurrences.begin(), model->occurrences.end(),
                                             [&](const Occurrence& o) { return o.part == *index; });
            QCOMPARE(count, part.at("occurrences").get<std::ptrdiff_t>());
        }
        QVERIFY(std::count_if(model->occurrences.begin(), model->occurrences.end(), [&](const Occurrence& o) {
                    return model->parts[o.part]->name == "bolt with nut";
                }) >= 40);
    }
    void filesThatAreNoneAreRefusedWithASentence() {
        std::ofstream(at("empty.step")).flush();
        std::ofstream(at("letter.step")) << "Dear colleague, the part is attached.\n" << std::string(1000, 'x');
        std::ofstream(at("picture.stp"), std::ios::binary) << "\x89PNG\r\n" << std::string(5000, '\0');
        std::ofstream(at("nothing.step"))
            << "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\n"
               "FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n";
        for (const char* name : {"empty.step", "letter.step", "picture.stp", "nothing.step", "absent.step"}) {
            const auto model = exchange::readFile(at(name), {Unit::Millimetre}, quietly());
            QVERIFY2(!model, name);
            QVERIFY2(model.error().what.size() > 10 && model.error().what.back() == '.', said(model));
        }
        QVERIFY(!exchange::readFile(m_folder.path().toStdString(), {}, quietly()));
    }
    void theSuffixDoesNotDecide() {
        fs::copy_file(demoFile("hanger-arm.step"), at("arm.brep"));
        QVERIFY(exchange::readFile(at("arm.brep"), {}, quietly()));
    }
    void aTruncatedFileSaysSo() {
        const fs::path path = altered("cut.step", [](std::string& text) { text.resize(text.size() / 2); });
        const auto model = exchange::readFile(path, {}, quietly());
        QVERIFY(!model);
        QVERIFY(model.error().what.find("ends in the middle") != std::string::npos);
    }
    void damageIsFoundByItsLine_data() {
        QTest::addColumn<QString>("data");
        QTest::addColumn<QString>("said");
        QTest::newRow("twice") << "#1=A(1);\n#2=B(2);\n#1=C(3);"
                               << "#1 is defined twice";
        QTest::newRow("open parenthesis") << "#1=A((1);\n#2=B(2);"
                                          << "line 3";
        QTest::newRow("closed too often") << "#1=A(1));\n#2=B(2);"
                                          << "never opened";
        QTest::newRow("no equals") << "#1 A(1);"
                                   << "no number and equals sign";
        QTest::newRow("no kind") << "#1=;"
                                 << "does not say what it is";
        QTest::newRow("text") << "#1=A('abc);"
                              << "does not end";
        QTest::newRow("comment") << "#1=A(1);/* and so on"
                                 << "does not end";
        QTest::newRow("fine, with texts and comments") << "#1=A('it''s; (fine', /* #1=( */ 2);\n#2=(B(1)C($));"
                                                       << "";
    }
    void damageIsFoundByItsLine() {
        QFETCH(QString, data);
        QFETCH(QString, said);
        std::ofstream(at("syntax.step")) << "ISO-10303-21;\nDATA;\n"
                                         << data.toStdString() << "\nENDSEC;\nEND-ISO-10303-21;\n";
        const auto checked = exchange::checkStepSyntax(at("syntax.step"));
        QCOMPARE(checked.has_value(), said.isEmpty());
        if (!checked)
            QVERIFY2(checked.error().what.find(said.toStdString()) != std::string::npos, checked.error().what.c_str());
    }
    void damagedCopiesNeverCrash_data() {
        QTest::addColumn<int>("seed");
        for (int seed = 0; seed < (qEnvironmentVariableIsSet("RASOIR_LONG") ? 200 : 12); ++seed)
            QTest::addRow("seed %d", seed) << seed;
    }
    void damagedCopiesNeverCrash() {
        QFETCH(int, seed);
        Random random(static_cast<std::uint64_t>(seed));
        const bool brep = seed % 3 == 2;
        std::string text;
        if (brep) {
            QVERIFY(exchange::writeFile(smallAssembly(), at("fuzz-base.brep"), {}, quietly()));
            text = *readText(at("fuzz-base.brep"));
        } else {
            QVERIFY(exchange::writeFile(smallAssembly(), at("fuzz-base.step"), {}, quietly()));
            text = *readText(at("fuzz-base.step"));
        }
        const auto place = [&] {
            return static_cast<std::size_t>(between(random, 200, static_cast<double>(text.size()) - 200));
        };
        const int wounds = 1 + seed % 7;
        for (int i = 0; i < wounds; ++i) {
            switch (static_cast<int>(between(random, 0, 4))) {
                case 0:
                    text[place()] = static_cast<char>(between(random, 32, 126));
                    break;
                case 1:
                    text.erase(place(), 1 + static_cast<std::size_t>(between(random, 0, 60)));
                    break;
                case 2:
                    text.insert(place(), text.substr(place(), 40));
                    break;
                default: {
                    const std::size_t digit = text.find_first_of("0123456789", place());
                    if (digit != std::string::npos)
                        text[digit] = static_cast<char>('0' + static_cast<int>(between(random, 0, 9.99)));
                }
            }
        }
        const fs::path path = at(brep ? "fuzz.brep" : "fuzz.step");
        std::ofstream(path, std::ios::binary) << text;
        const auto model = exchange::readFile(path, {Unit::Millimetre}, quietly());
        if (!model) {
            QVERIFY(!model.error().what.empty());
            return;
        }
        // What could be read can be measured and surveyed without harm.
        (void)guarded("Measuring", [&]() -> Result<void> {
            (void)measure::factsOfParts(*model, true, quietly());
            return {};
        });
    }
    void aCancelledLoadChangesNothing() {
        Progress progress([&progress](double fraction, const std::string&) {
            if (fraction > 0.25) progress.cancel();
        });
        const auto model = exchange::readFile(demoFile("carrier.step"), {}, progress);
        QVERIFY(!model);
        QCOMPARE(model.error().kind, ProblemKind::Cancelled);
    }
    void farAndTinyModelsSurvive_data() {
        QTest::addColumn<double>("size");
        QTest::addColumn<double>("away");
        QTest::newRow("0.01 mm across") << 0.01 << 0.0;
        QTest::newRow("at 1e7 mm") << 100.0 << 1e7;
    }
    void farAndTinyModelsSurvive() {
        QFETCH(double, size);
        QFETCH(double, away);
        gp_Trsf move;
        move.SetTranslation(gp_Vec(away, 0, 0));
        const Model before = modelOf(moved(block(size, size, 0.5 * size), move));
        QVERIFY(exchange::writeFile(before, at("odd.step"), {}, quietly()));
        const auto after = exchange::readFile(at("odd.step"), {}, quietly());
        QVERIFY2(after, said(after));
        const double volume = 0.5 * size * size * size;
        QCOMPARE_NEAR(volumeOf(after->parts[0]->shape), volume, 1e-6 * volume);
        if (size < 0.1)
            QVERIFY(std::any_of(after->notes.begin(), after->notes.end(),
                                [](const std::string& n) { return n.find("unit right") != std::string::npos; }));
    }
    void aReadOnlyFolderIsSaidAndTheOldFileStays() {
        const fs::path target = "/proc/rasoir-cannot-write-here.step";
        const auto written = exchange::writeFile(smallAssembly(), target, {}, quietly());
        QVERIFY(!written);
        QCOMPARE(written.error().kind, ProblemKind::Storage);
        QVERIFY(!exchange::writeFile(smallAssembly(), at("no-suffix"), {}, quietly()));
        QVERIFY(!exchange::writeFile(Model(), at("none.step"), {}, quietly()));
    }
    void aWrongUnitIsCorrectedAsAStep() {
        const Model model = smallAssembly();
        const auto outcome = exchange::correctUnit(model, {25.4}, quietly());
        QVERIFY2(outcome, said(outcome));
        QCOMPARE_NEAR(factsOf(outcome->model).volume / factsOf(model).volume, std::pow(25.4, 3), 1e-6);
        QCOMPARE_NEAR(outcome->model.extent() / model.extent(), 25.4, 1e-6);
        QVERIFY(!exchange::correctUnit(model, {0.0}, quietly()));
        QVERIFY(!exchange::correctUnit(model, {std::nan("")}, quietly()));
    }
};

static Registered<FilesTest> filesTest;

}  // namespace rasoir::test

#include "files_test.moc"
