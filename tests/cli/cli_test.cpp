// rasoir-cli as a stranger would call it: what it prints, what it writes, how it ends.
#include <fstream>
#include <QProcess>
#include <QTemporaryDir>

#include "common/safe_file.h"
#include "exchange/files.h"
#include "exchange/work_file.h"
#include "geometry/integrals.h"
#include "join/joint_faults.h"
#include "model/json.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class CliTest : public QObject {
    Q_OBJECT
    QTemporaryDir m_folder;

    struct Run {
        int code;
        QString out, err;
    };
    static Run cli(const QStringList& arguments) {
        QProcess process;
        process.start(RASOIR_CLI, arguments);
        process.waitForFinished(120000);
        return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1, process.readAllStandardOutput(),
                process.readAllStandardError()};
    }
    [[nodiscard]] QString at(const QString& name) const { return m_folder.filePath(name); }
    [[nodiscard]] QString ledger(const Json& parameters, const QString& name = "l.json") const {
        std::ofstream(at(name).toStdString())
            << Json{{"format", "rasoir-ledger"},
                    {"version", 1},
                    {"source", "x"},
                    {"steps", {{{"operation", "shave.removeHoles"}, {"parameters", parameters}, {"on", true}}}}}
                   .dump();
        return at(name);
    }
    static QString arm() { return QString::fromStdString(demoFile("hanger-arm.step")); }

private slots:
    void inspectTellsTheFacts() {
        const Run run = cli({"inspect", arm(), "--json"});
        QCOMPARE(run.code, 0);
        QVERIFY(run.err.isEmpty());  // no progress in a pipe
        const Json json = Json::parse(run.out.toStdString()),
                   truth = Json::parse(*readText(demoFile("hanger-arm.json")));
        QCOMPARE(json.at("unit").get<std::string>(), std::string("mm"));
        const double volume = truth.at("volume_mm3");
        QCOMPARE_NEAR(json.at("whole").at("volume_mm3").get<double>(), volume, 1e-9 * volume);
        QVERIFY(json.at("whole").at("valid").get<bool>());
        QVERIFY(cli({"inspect", arm()}).out.contains("closed, valid"));
    }
    void theCarrierIsJoinedByOneLedgerThatReplaysOnARevision() {
        // The designer's next one has no bores in the damper any more.
        std::ofstream(at("revise.json").toStdString())
            << Json{{"format", "rasoir-ledger"},
                    {"version", 1},
                    {"steps",
                     {{{"operation", "shave.removeHoles"},
                       {"parameters", {{"parts", {"damper body"}}, {"upTo", 60.0}}}}}}}
                   .dump();
        const QString carrier = QString::fromStdString(demoFile("carrier.step")),
                      joining = QString::fromStdString(demoFile("join-carrier.ledger.json"));
        QCOMPARE(cli({"run", at("revise.json"), "--in", carrier, "--out", at("revised.step")}).code, 0);
        for (const QString& file : {carrier, at("revised.step")}) {
            const Run run =
                cli({"run", joining, "--in", file, "--out", at("joined.rasoir"), "--report", at("joined.json")});
            QVERIFY2(run.code == 0, qPrintable(run.err + run.out));
            Progress progress;
            const auto opened = exchange::openWork(at("joined.rasoir").toStdString(), progress);
            QVERIFY(opened);
            const Model& model = opened->work.current();
            QVERIFY(join::faultsInJoints(model).empty());
            // Pairs of parts that have a face in common, by the beginnings of their names.
            std::map<std::string, int> common;
            const auto kindOf = [&model](PlaceId id) {
                std::string name = model.parts[model.occurrences[*model.placeOf(id)].part]->name;
                return name.substr(0, name.find(" ("));
            };
            for (const Joint& joint : model.joints)
                if (joint.kind == EntityKind::Face && joint.uses.size() == 2)
                    ++common[std::min(kindOf(joint.uses[0].place), kindOf(joint.uses[1].place)) + ", " +
                             std::max(kindOf(joint.uses[0].place), kindOf(joint.uses[1].place))];
            QCOMPARE(common["rib, tray"], 18);  // each stands on the floor, and between two sides
            QCOMPARE(common["rectangular tube, round tube"], 4);
            QVERIFY(common["bushing, hanger arm"] >= 2 && common["bushing, pin"] >= 2 && common["washer, washer"] >= 2);
            const auto contacts = std::count_if(model.pairings.begin(), model.pairings.end(), [](const Pairing& one) {
                return one.kind == PairingKind::Contact && one.friction == 0.2;
            });
            QCOMPARE(contacts, std::ptrdiff_t(4));
            QVERIFY(std::any_of(model.parts.begin(), model.parts.end(),
                                [](const auto& part) { return part->lump.has_value(); }));
        }
    }
    void filesAreComparedExportedAndReported() {
        QCOMPARE(cli({"run", ledger({{"upTo", 9.0}}), "--in", arm(), "--out", at("shaved.step")}).code, 0);
        QCOMPARE(cli({"run", ledger({{"upTo", 9.0}}), "--in", arm(), "--out", at("shaved.rasoir")}).code, 0);
        const Run same = cli({"compare", arm(), arm()});
        QCOMPARE(same.code, 0);
        QVERIFY(same.out.contains("Nothing changed"));
        const Run changed = cli({"compare", arm(), at("shaved.step"), "--json"});
        QCOMPARE(changed.code, 1);
        const Json json = Json::parse(changed.out.toStdString());
        QCOMPARE(json.at("parts").size(), std::size_t(1));
        std::size_t gone = 0;
        for (const Json& face : json.at("parts")[0].at("faces")) {
            gone += face.at("change") == "gone";
            QVERIFY(face.at("change") != "new");
        }
        QVERIFY(gone > 0);
        QCOMPARE(cli({"compare", arm(), at("nowhere.step")}).code, 3);
        const Run exported = cli({"export", at("shaved.rasoir"), "--out", at("again.step"), "--schema", "ap242"});
        QCOMPARE(exported.code, 0);
        QVERIFY(exported.out.contains("1 body read back and compared"));
        QCOMPARE(cli({"compare", at("shaved.step"), at("again.step")}).code, 0);
        const QString carrier = QString::fromStdString(demoFile("carrier.step"));
        const Run each = cli({"export", carrier, "--out", at("c.step"), "--part", "tray", "--part", "rib*", "--each"});
        QCOMPARE(each.code, 0);
        QVERIFY(QFile::exists(at("c tray.step")));
        QVERIFY(cli({"export", carrier, "--out", at("x.step"), "--part", "nobody"}).code != 0);
        QVERIFY(!QFile::exists(at("x.step")));
        QCOMPARE(cli({"report", at("shaved.rasoir"), "--out", at("page.html")}).code, 0);
        QVERIFY(readText(at("page.html").toStdString())->find("Remove") != std::string::npos);
        QCOMPARE(cli({"report", at("shaved.rasoir"), "--out", at("page.pdf"), "--author", "A. Nalyst"}).code, 0);
        QVERIFY(readText(at("page.pdf").toStdString())->starts_with("%PDF"));
        QCOMPARE(cli({"report", at("shaved.rasoir"), "--out", at("page.doc")}).code, 2);
        QCOMPARE(cli({"report", at("shaved.rasoir"), "--out", "/nowhere/page.pdf"}).code, 3);
    }
    void aWorkFileHoldsVariants() {
        QCOMPARE(cli({"run", ledger({{"upTo", 9.0}}), "--in", arm(), "--out", at("v.rasoir")}).code, 0);
        QCOMPARE(cli({"run", ledger({{"upTo", 5.0}}), "--in", at("v.rasoir"), "--as", "small holes", "--out",
                      at("v.rasoir")})
                     .code,
                 0);
        const Run listed = cli({"variants", at("v.rasoir"), "--json"});
        QCOMPARE(listed.code, 0);
        const Json variants = Json::parse(listed.out.toStdString())["variants"];
        QCOMPARE(variants.size(), std::size_t(2));
        QCOMPARE(variants[1]["name"].get<std::string>(), std::string("small holes"));
        QVERIFY(variants[1]["inHand"].get<bool>());
        QCOMPARE(variants[0]["steps"].size(), std::size_t(1));
        const auto facesOf = [this](const QString& variant) {
            const Run run = cli({"inspect", at("v.rasoir"), "--variant", variant, "--json"});
            return run.code == 0 ? Json::parse(run.out.toStdString())["whole"]["faces"].get<int>() : -1;
        };
        QVERIFY(facesOf("first") < facesOf("small holes"));
        QCOMPARE(facesOf("sheets"), -1);
        QCOMPARE(cli({"compare", at("v.rasoir"), at("v.rasoir"), "--before-variant", "first", "--after-variant",
                      "small holes"})
                     .code,
                 1);
        QCOMPARE(
            cli({"compare", at("v.rasoir"), at("v.rasoir"), "--before-variant", "first", "--after-variant", "first"})
                .code,
            0);
        QCOMPARE(cli({"export", at("v.rasoir"), "--variant", "first", "--out", at("first.step")}).code, 0);
        // A name that is taken, and a variant in what is no work file.
        QVERIFY(cli({"run", ledger({{"upTo", 5.0}}), "--in", at("v.rasoir"), "--as", "first"}).code != 0);
        QCOMPARE(cli({"run", ledger({{"upTo", 5.0}}), "--in", arm(), "--as", "other"}).code, 2);
        QVERIFY(cli({"inspect", arm(), "--variant", "first"}).code != 0);
    }
    void surveyListsRoundsAndTheyGo() {
        const Run run = cli({"survey", arm(), "--rounds", "--up-to", "8mm", "--json"});
        QCOMPARE(run.code, 0);
        int rounds = 0, chamfers = 0;
        const Json listed = Json::parse(run.out.toStdString());
        for (const auto& one : listed["rounds"]) {
            QVERIFY(one["size_mm"].get<double>() <= 8.0 + 1e-6);
            ++(one["kind"] == "round" ? rounds : chamfers);
        }
        QCOMPARE(rounds, 12);
        QVERIFY(chamfers > 0);
        QTemporaryDir folder;
        const QString out = folder.filePath("bare.step");
        const Run done =
            cli({"run", QString::fromStdString(demoFile("shave-arm.ledger.json")), "--in", arm(), "--out", out});
        QVERIFY2(done.code == 0, qPrintable(done.out + done.err));
        const Run left = cli({"survey", out, "--rounds", "--json"});
        QCOMPARE(left.code, 0);
        QVERIFY(Json::parse(left.out.toStdString())["rounds"].size() <= 2);
    }
    void surveyListsReliefsAndTheyGo() {
        const QString cover = QString::fromStdString(demoFile("clamp-cover.step"));
        const Run run = cli({"survey", cover, "--reliefs", "--target-size", "4mm", "--json"});
        QCOMPARE(run.code, 0);
        // Every one of the table of truth, none besides: kind, height, pieces and volume.
        const Json truth = Json::parse(*readText(demoFile("clamp-cover.json"))),
                   listed = Json::parse(run.out.toStdString())["reliefs"];
        QCOMPARE(listed.size(), truth["reliefs"].size());
        for (const Json& put : truth["reliefs"]) {
            const bool found = std::any_of(listed.begin(), listed.end(), [&](const Json& one) {
                // The pocket is told with what stands in it.
                const double volume = put["kind"] == "pocket" ? put["volume_mm3"].get<double>() - M_PI * 9 * 3
                                                              : put["volume_mm3"].get<double>();
                return one["kind"] == put["kind"] && one["pieces"] == put["pieces"] &&
                       std::abs(one["height_mm"].get<double>() - put["height_mm"].get<double>()) < 1e-6 &&
                       std::abs(std::abs(one["gain_mm3"].get<double>()) - volume) < 2e-3 * volume;
            });
            QVERIFY2(found, put.dump().c_str());
        }
        QTemporaryDir folder;
        const QString out = folder.filePath("bare.step"), ledger = folder.filePath("all.ledger.json");
        std::ofstream(ledger.toStdString()) << R"({"format": "rasoir-ledger", "version": 1, "targetSize_mm": 4.0,
                "steps": [{"operation": "shave.removeReliefs", 
                "parameters": {"upTo": 100, "kinds": ["mark", "boss", "pocket", "cutout"]}, "on": true}]})";
        const Run done = cli({"run", ledger, "--in", cover, "--out", out});
        QVERIFY2(done.code == 0, qPrintable(done.out + done.err));
        const Run left = cli({"inspect", out, "--json"});
        const Json facts = Json::parse(left.out.toStdString());
        QVERIFY2(left.out.contains("\"faces\": 6"), qPrintable(left.out));
        const Run ledgerOfDemo =
            cli({"run", QString::fromStdString(demoFile("shave-cover.ledger.json")), "--in", cover, "--out", out});
        QVERIFY2(ledgerOfDemo.code == 0, qPrintable(ledgerOfDemo.out + ledgerOfDemo.err));
    }
    void aThreadIsListedAndBecomesPlain() {
        const QString bolt = QString::fromStdString(demoFile("hanger-bolt.step"));
        const Run run = cli({"survey", bolt, "--threads", "--small", "--reliefs", "--target-size", "4mm", "--json"});
        QVERIFY2(run.code == 0, qPrintable(run.err));
        const Json listed = Json::parse(run.out.toStdString()),
                   truth = Json::parse(*readText(demoFile("hanger-bolt.json")));
        QCOMPARE(listed["threads"].size(), 1u);
        for (const char* size : {"major_mm", "minor_mm", "lead_mm"})
            QVERIFY(std::abs(listed["threads"][0][size].get<double>() - truth["thread"][size].get<double>()) < 5e-3);
        QCOMPARE(listed["reliefs"].size(), 1u);
        QCOMPARE_NEAR(listed["reliefs"][0]["height_mm"].get<double>(), truth["steps_mm"][0].get<double>(), 1e-6);
        const auto nicks = std::count_if(listed["small"].begin(), listed["small"].end(), [](const Json& one) {
            return one["kind"] == "face" && one["size_mm"].get<double>() < 1.0;
        });
        QCOMPARE(nicks, truth["nicked_corners"].get<long>());
        QTemporaryDir folder;
        const QString out = folder.filePath("plain.step"), ledger = folder.filePath("plain.ledger.json");
        std::ofstream(ledger.toStdString()) << R"({"format": "rasoir-ledger", "version": 1, "targetSize_mm": 4.0,
                "steps": [{"operation": "shave.plainThreads", 
                "parameters": {"upTo": 30, "diameter": "major"}, "on": true}]})";
        const Run done = cli({"run", ledger, "--in", bolt, "--out", out});
        QVERIFY2(done.code == 0, qPrintable(done.out + done.err));
        const Json facts = Json::parse(cli({"inspect", out, "--json"}).out.toStdString());
        const double wanted = truth["volume_with_plain_major_diameter_mm3"].get<double>();
        QCOMPARE_NEAR(facts["whole"]["volume_mm3"].get<double>(), wanted, 1e-5 * wanted);
        const Run ledgerOfDemo =
            cli({"run", QString::fromStdString(demoFile("shave-bolt.ledger.json")), "--in", bolt, "--out", out});
        QVERIFY2(ledgerOfDemo.code == 0, qPrintable(ledgerOfDemo.out + ledgerOfDemo.err));
    }
    void surveyListsTheHoles() {
        const Run run = cli({"survey", arm(), "--holes", "--up-to", "8mm", "--json"});
        QCOMPARE(run.code, 0);
        const Json json = Json::parse(run.out.toStdString()),
                   truth = Json::parse(*readText(demoFile("hanger-arm.json")));
        std::size_t wanted = 0;
        for (const Json& put : truth.at("features")) wanted += put.at("size_mm").get<double>() <= 8.0;
        QCOMPARE(json.at("holes").size(), wanted);
        for (const Json& hole : json.at("holes")) QVERIFY(hole.at("size_mm").get<double>() <= 8.0 + 1e-6);
        QCOMPARE(cli({"survey", arm()}).code, 2);
        QCOMPARE(cli({"survey", arm(), "--holes", "--up-to", "wide"}).code, 2);
    }
    void defectsAreSurveyedAndMended() {
        const QString received = QString::fromStdString(demoFile("hanger-arm-as-received.step"));
        const Run run = cli({"survey", received, "--defects", "--target-size", "4mm", "--json"});
        QCOMPARE(run.code, 0);
        const Json found = Json::parse(run.out.toStdString()).at("defects").at(0),
                   truth = Json::parse(*readText(demoFile("hanger-arm-as-received.json")));
        QVERIFY(!found.at("watertight").get<bool>());
        int doubled = 0, stray = 0;
        for (const Json& one : found.at("found")) {
            doubled += one.at("kind") == "doubled face";
            stray += one.at("kind") == "stray body";
            if (one.at("kind") == "gap")
                QVERIFY(one.at("width_mm").at(0).get<double>() <= one.at("width_mm").at(2).get<double>());
        }
        QCOMPARE(doubled, truth.at("doubled").get<int>());
        QCOMPARE(stray, 1);
        QVERIFY(cli({"survey", received, "--defects"}).out.contains("not watertight"));
        // The ledger of the demo: one solid, as large as the arm was. What the first step left is told by the exit
        // code.
        const Run mended = cli({"run", QString::fromStdString(demoFile("mend-arm.ledger.json")), "--in", received,
                                "--out", at("mended.step")});
        QCOMPARE(mended.code, 1);
        QVERIFY(mended.out.contains("more than the safe limit"));
        const Json whole = Json::parse(cli({"inspect", at("mended.step"), "--json"}).out.toStdString()).at("whole");
        const double volume = truth.at("volume_mm3");
        QCOMPARE_NEAR(whole.at("volume_mm3").get<double>(), volume, 1e-4 * volume);
        QVERIFY(whole.at("valid").get<bool>());
    }
    void theReceivingReportIsPrinted() {
        const QString carrier = QString::fromStdString(demoFile("carrier.step"));
        const Run run = cli({"survey", carrier, "--received", "--fasteners", "--copies", "--hidden", "--json"});
        QCOMPARE(run.code, 0);
        const Json json = Json::parse(run.out.toStdString()), truth = Json::parse(*readText(demoFile("carrier.json")));
        QCOMPARE(json.at("received").at("places"), truth.at("occurrences"));
        QCOMPARE(json.at("received").at("parts").get<std::size_t>(), truth.at("parts").size());
        QCOMPARE(json.at("fasteners").size(), std::size_t(4));  // bolt and nut, washer, pin
        QVERIFY(json.at("copies").empty());
        QVERIFY(cli({"survey", carrier, "--received"}).out.contains("Nothing odd."));
        // Two files as one model.
        const Run both = cli({"inspect", carrier, arm(), "--json"});
        QCOMPARE(both.code, 0);
        QCOMPARE(Json::parse(both.out.toStdString()).at("parts").size(), truth.at("parts").size() + 1);
    }
    void intakeStepsRunWithoutAWindow() {
        std::ofstream(at("intake.json").toStdString())
            << Json{{"format", "rasoir-ledger"},
                    {"version", 1},
                    {"source", "x"},
                    {"steps",
                     {{{"operation", "intake.setAside"}, {"parameters", {{"kinds", {"bolt", "nut"}}}}},
                      {{"operation", "intake.assignMaterial"},
                       {"parameters", {{"parts", {"counterweight"}}, {"material", "lead"}}}},
                      {{"operation", "intake.rename"}, {"parameters", {{"parts", {"pin"}}, {"to", "pivot"}}}}}}}
                   .dump();
        const QString carrier = QString::fromStdString(demoFile("carrier.step"));
        QCOMPARE(cli({"run", at("intake.json"), "--in", carrier, "--out", at("out.step")}).code, 0);
        const Json out = Json::parse(cli({"inspect", at("out.step"), "--json"}).out.toStdString());
        std::set<std::string> names;
        for (const Json& part : out.at("parts")) names.insert(part.at("name").get<std::string>());
        QVERIFY(names.contains("pivot") && !names.contains("pin") && !names.contains("bolt with nut"));
        // The whole work in one file, which can be looked at and run again.
        QCOMPARE(cli({"run", at("intake.json"), "--in", carrier, "--out", at("out.rasoir")}).code, 0);
        QCOMPARE(Json::parse(cli({"inspect", at("out.rasoir"), "--json"}).out.toStdString()).at("parts").size(),
                 std::size_t(12));
        QCOMPARE(cli({"run", at("out.rasoir"), "--in", carrier, "--out", at("again.step")}).code, 0);
        QCOMPARE(cli({"run", at("intake.json"), "--in", carrier, arm(), "--out", at("both.step")}).code, 0);
        QCOMPARE(Json::parse(cli({"inspect", at("both.step"), "--json"}).out.toStdString()).at("parts").size(),
                 std::size_t(12));  // 12, less the bolts, and the arm
    }
    void runWritesResultAndReport() {
        const Run run =
            cli({"run", ledger({{"upTo", 8}}), "--in", arm(), "--out", at("out.step"), "--report", at("r.json")});
        QVERIFY2(run.code == 0, qPrintable(run.err + run.out));
        const Json report = Json::parse(*readText(at("r.json").toStdString()));
        const double after = report.at("effect").at("volume_mm3").at("after");
        const auto model = exchange::readFile(at("out.step").toStdString(), {}, quietly());
        QVERIFY2(model, said(model));
        QCOMPARE_NEAR(rasoir::volumeOf(model->parts[0]->shape), after, 1e-9 * after);
        QCOMPARE(model->parts[0]->name, std::string("hanger arm"));
        for (const Json& item : report.at("steps")[0].at("items")) QVERIFY(item.at("done").get<bool>());
    }
    void aStepThatDoesNotFitWritesNothing() {
        const Run run = cli({"run", ledger({{"upTo", 8}, {"parts", {"nobody"}}}), "--in", arm(), "--out",
                             at("none.step"), "--report", at("none.json")});
        QCOMPARE(run.code, 5);
        QVERIFY(!QFile::exists(at("none.step")));
        QCOMPARE(Json::parse(*readText(at("none.json").toStdString())).at("written").get<bool>(), false);
    }
    void aRuleThatFindsNothingIsNoFailure() {  // a ledger runs over a folder, and not every part has a small hole
        const Run run = cli({"run", ledger({{"upTo", 0.5}}), "--in", arm(), "--out", at("same.step")});
        QCOMPARE(run.code, 0);
        QVERIFY(run.out.contains("nothing to do"));
        QVERIFY(QFile::exists(at("same.step")));
    }
    void wrongCallsEndWithTheirCodes() {
        QCOMPARE(cli({}).code, 2);
        QCOMPARE(cli({"frobnicate"}).code, 2);
        QCOMPARE(cli({"inspect", at("absent.step")}).code, 3);
        std::ofstream(at("letter.step").toStdString()) << "Dear colleague,";
        const Run letter = cli({"inspect", at("letter.step")});
        QCOMPARE(letter.code, 3);
        QVERIFY(letter.err.contains("neither STEP, IGES nor BREP"));
        QCOMPARE(cli({"run", at("letter.step"), "--in", arm()}).code, 3);
        QCOMPARE(cli({"run", ledger({{"upTo", 4}}), "--in", arm(), "--out", "/proc/no.step"}).code, 3);
    }
    void aFileWithoutAUnitNeedsOne() {
        std::string text = *readText(demoFile("hanger-arm.step"));
        for (std::size_t p = text.find("GLOBAL_UNIT_ASSIGNED_CONTEXT"); p != std::string::npos;
             p = text.find("GLOBAL_UNIT_ASSIGNED_CONTEXT", p))
            text.erase(p, text.find("))", p) + 2 - p);
        std::ofstream(at("unitless.step").toStdString()) << text;
        QCOMPARE(cli({"inspect", at("unitless.step")}).code, 4);
        QCOMPARE(cli({"inspect", at("unitless.step"), "--unit", "mm"}).code, 0);
        QCOMPARE(cli({"inspect", at("unitless.step"), "--unit", "cubit"}).code, 3);
    }
    void operationsAndHelpAreReadable() {
        const Json list = Json::parse(cli({"operations", "--json"}).out.toStdString());
        QVERIFY(
            std::any_of(list.begin(), list.end(), [](const Json& one) { return one.at("id") == "shave.removeHoles"; }));
        for (const QStringList& call :
             {QStringList{"--help"}, {"inspect", "--help"}, {"survey", "--help"}, {"run", "--help"}}) {
            const Run run = cli(call);
            QCOMPARE(run.code, 0);
            QVERIFY(run.out.contains("Example"));
        }
    }
};

static Registered<CliTest> cliTest;

}  // namespace rasoir::test

int main(int argc, char** argv) {
    QCoreApplication application(argc, argv);
    return rasoir::test::runAll(argc, argv);
}

#include "cli_test.moc"
