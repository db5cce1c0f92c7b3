#include "model/ledger.h"

#include <QTemporaryDir>

#include "common/safe_file.h"
#include "model/work.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class LedgerTest : public QObject {
    Q_OBJECT
    measure::FactsCache m_facts;

    static Json upTo(double size) { return Json{{"upTo", size}}; }
    /// A plate with four 3 mm and four 6 mm holes.
    static Model plate() {
        TopoDS_Shape body = block(100, 60, 8);
        for (int i = 0; i < 4; ++i) {
            body = cut(body, rod(gp_Ax1(gp_Pnt(12.5 + 25 * i, 20, -1), gp_Dir(0, 0, 1)), 1.5, 10));
            body = cut(body, rod(gp_Ax1(gp_Pnt(12.5 + 25 * i, 40, -1), gp_Dir(0, 0, 1)), 3, 10));
        }
        return modelOf(body);
    }
    static int faces(const Work& work) { return work.current().parts[0]->incidence().faceCount(); }
    Work run(const Work& work) { return *work.replayed(m_facts, quietly()); }

private slots:
    void stepsRunSwitchOffAndComeBack() {
        const Work received(plate(), "plate.step");
        const Work small = run(received.withStep("shave.removeHoles", upTo(4)));
        QCOMPARE(faces(small), 10);
        const Work both = run(small.withStep("shave.removeHoles", upTo(7)));
        QCOMPARE(faces(both), 6);
        QCOMPARE(both.modelAfter(0).parts[0].get(), received.received().parts[0].get());
        QCOMPARE(both.modelAfter(1).parts[0]->incidence().faceCount(), 10);
        // The first step off: the second now takes all eight.
        const Work off = run(both.withStepSwitched(0, false));
        QCOMPARE(off.ledger().steps[0].state, StepState::Off);
        QCOMPARE(off.ledger().steps[1].items.size(), std::size_t(8));
        QCOMPARE(faces(off), 6);
        const Work on = run(off.withStepSwitched(0, true));
        QCOMPARE(on.ledger().steps[1].items.size(), std::size_t(4));
        QCOMPARE_NEAR(volumeOf(on.current().parts[0]->shape), volumeOf(both.current().parts[0]->shape), 1e-9);
        const Work edited = run(on.withStepEdited(1, upTo(5)));
        QCOMPARE(edited.ledger().steps[1].state, StepState::Nothing);  // nothing between 3 and 5
        QCOMPARE(faces(edited), 10);
        QCOMPARE(faces(run(edited.withoutStep(1))), 10);
    }
    void aRuleThatFindsNothingIsSaidAndTheRestGoesOn() {
        const Work done = run(
            Work(plate(), "plate.step").withStep("shave.removeHoles", upTo(1)).withStep("shave.removeHoles", upTo(7)));
        QVERIFY(done.upToDate());
        QCOMPARE(done.ledger().steps[0].state, StepState::Nothing);
        QVERIFY(done.ledger().steps[0].problem.has_value());
        QCOMPARE(done.ledger().steps[1].state, StepState::Done);
        QCOMPARE(faces(done), 6);
        QCOMPARE(&done.modelAfter(1), &done.received());  // nothing changed, so nothing is kept twice
        const auto loaded = ledgerFromJson(toJson(done.ledger()).dump());
        QVERIFY(loaded);
        QCOMPARE(loaded->steps[0].state, StepState::Nothing);
    }
    void aStepThatDoesNotFitStopsTheRestUnlessTold() {
        Json named = upTo(7);
        named["parts"] = {"nobody"};
        const Work work =
            Work(plate(), "plate.step").withStep("shave.removeHoles", named).withStep("shave.removeHoles", upTo(7));
        const Work stopped = run(work);
        QCOMPARE(stopped.ledger().steps[0].state, StepState::Failed);
        QVERIFY(stopped.ledger().steps[0].problem.has_value());
        QCOMPARE(stopped.ledger().steps[1].state, StepState::Waiting);
        QVERIFY(!stopped.upToDate());
        const auto going = work.replayed(m_facts, quietly(), true);
        QVERIFY(going);
        QCOMPARE(going->ledger().steps[1].state, StepState::Done);
        QCOMPARE(faces(*going), 6);
    }
    void undoAndRedoGoAllTheWay() {
        History history;
        history.reset(Work(plate(), "plate.step"));
        for (const double size : {4.0, 7.0})
            history.push(run(history.present().withStep("shave.removeHoles", upTo(size))), "remove");
        QCOMPARE(faces(history.present()), 6);
        history.undo();
        QCOMPARE(faces(history.present()), 10);
        history.undo();
        QCOMPARE(faces(history.present()), 14);
        QVERIFY(!history.canUndo());
        history.undo();
        history.redo();
        history.redo();
        QCOMPARE(faces(history.present()), 6);
        QVERIFY(!history.canRedo());
        history.undo();
        history.push(run(history.present().withStep("shave.removeHoles", upTo(10))), "other");
        QVERIFY(!history.canRedo());
    }
    void undoHasNoLimit() {
        // Two hundred changes, and every state on the way back and forth is the one that was.
        History history;
        history.reset(run(Work(plate(), "plate.step").withStep("shave.removeHoles", upTo(4))));
        std::vector<bool> states{true};
        for (int change = 0; change < 200; ++change) {
            states.push_back(!states.back());
            history.push(run(history.present().withStepSwitched(0, states.back())), "switch");
        }
        for (std::size_t at = states.size() - 1; at > 0; --at) {
            QCOMPARE(faces(history.present()), states[at] ? 10 : 14);
            history.undo();
        }
        QVERIFY(!history.canUndo());
        for (std::size_t at = 0; at + 1 < states.size(); ++at) {
            QCOMPARE(faces(history.present()), states[at] ? 10 : 14);
            history.redo();
        }
        QVERIFY(!history.canRedo());
    }
    /// Forty moves of one place each over sixty places: what no step touched is held once by all states and all values.
    void statesHoldInCommonWhatNoStepChanged() {
        Model row = plate();
        while (row.occurrences.size() < 60) row.occurrences.push_back(row.occurrences[0]);
        History history;
        history.reset(run(Work(row, "row.step")));
        for (int step = 1; step <= 40; ++step) {
            const Json one{{"places", {"part #" + std::to_string(step)}}, {"shift", {0.0, 0.0, 5.0}}};
            history.push(run(history.present().withStep("intake.move", one)), "Move");
            QCOMPARE(history.present().ledger().steps.back().state, StepState::Done);
        }
        std::set<const Occurrence*> places;
        std::set<const Step*> steps;
        for (;; history.undo()) {
            for (std::size_t state = 0; state <= history.present().statesKnown(); ++state)
                for (const Occurrence& place : history.present().modelAfter(state).occurrences) places.insert(&place);
            for (const Step& step : history.present().ledger().steps) steps.insert(&step);
            if (!history.canUndo()) break;
        }
        QCOMPARE(places.size(), std::size_t(60 + 40));
        QCOMPARE(steps.size(), std::size_t(40));
    }
    void aLedgerSurvivesItsFileAndReplaysOnARevision() {
        const Work done = run(Work(plate(), "plate.step").withStep("shave.removeHoles", upTo(4)));
        const QTemporaryDir folder;
        const std::string path = folder.path().toStdString() + "/a.json";
        QVERIFY(saveLedger(done.ledger(), path));
        const auto loaded = loadLedger(path);
        QVERIFY2(loaded, said(loaded));
        QCOMPARE(loaded->steps.size(), std::size_t(1));
        QCOMPARE(loaded->steps[0].parameters, done.ledger().steps[0].parameters);
        QVERIFY(!loaded->steps[0].effect.is_null());
        // A revision with one more hole.
        const Model revised =
            modelOf(cut(plate().parts[0]->shape, rod(gp_Ax1(gp_Pnt(50, 30, -1), gp_Dir(0, 0, 1)), 1.2, 10)));
        const Work replayed = run(Work(revised, "plate-b.step").withLedger(*loaded));
        QCOMPARE(replayed.ledger().steps[0].items.size(), std::size_t(5));
        QCOMPARE(replayed.ledger().source, std::string("plate-b.step"));
    }
    void theEffectIsThatOfTheModels() {
        const Work done = run(Work(plate(), "plate.step").withStep("shave.removeHoles", upTo(7)));
        const Json& effect = done.ledger().steps[0].effect;
        const double grown =
            effect.at("volume_mm3").at("after").get<double>() - effect.at("volume_mm3").at("before").get<double>();
        QCOMPARE_NEAR(grown, 4 * M_PI * 8 * (2.25 + 9), 1e-6 * grown);
        QCOMPARE(effect.at("faces").at("after").get<int>(), 6);
    }
    void cancellingLeavesTheWork() {
        Progress stopped;
        stopped.cancel();
        const Work work = Work(plate(), "plate.step").withStep("shave.removeHoles", upTo(7));
        const auto result = work.replayed(m_facts, stopped);
        QVERIFY(!result);
        QCOMPARE(result.error().kind, ProblemKind::Cancelled);
    }
    void nonsenseIsRefused() {
        const char* texts[] = {
            "",
            "{",
            "[]",
            "null",
            "{\"format\":\"rasoir-ledger\"}",
            "{\"format\":\"rasoir-ledger\",\"version\":99,\"steps\":[]}",
            "{\"format\":\"rasoir-ledger\",\"version\":1,\"steps\":{}}",
            "{\"format\":\"rasoir-ledger\",\"version\":1,\"steps\":[{}]}",
            "{\"format\":\"rasoir-ledger\",\"version\":1,\"steps\":[{\"operation\":\"make.coffee\"}]}",
            "{\"format\":\"rasoir-ledger\",\"version\":1,\"targetSize_mm\":-4,\"steps\":[]}",
            "{\"format\":\"rasoir-ledger\",\"version\":1,\"density_kg_m3\":\"heavy\",\"steps\":[]}",
            "{\"format\":7,\"version\":1,\"steps\":[]}"};
        for (const char* text : texts) {
            const auto ledger = ledgerFromJson(text);
            QVERIFY2(!ledger, text);
            QVERIFY(!ledger.error().what.empty());
        }
        const Work odd = run(Work(plate(), "x").withStep("shave.removeHoles", Json{{"upTo", "wide"}}));
        QCOMPARE(odd.ledger().steps[0].state, StepState::Failed);
        const Work unknown = run(Work(plate(), "x").withStep("shave.removeHoles", Json{{"upTwo", 4}}));
        QVERIFY(unknown.ledger().steps[0].problem->what.find("upTwo") != std::string::npos);
    }
    void damagedLedgersNeverCrash() {
        const std::string good =
            toJson(run(Work(plate(), "plate.step").withStep("shave.removeHoles", upTo(4))).ledger()).dump();
        Random random(7);
        for (int round = 0; round < (qEnvironmentVariableIsSet("RASOIR_LONG") ? 20000 : 1000); ++round) {
            std::string text = good;
            for (int i = 0; i < 1 + round % 5; ++i) {
                const auto at = static_cast<std::size_t>(between(random, 0, static_cast<double>(text.size()) - 1));
                if (round % 2 == 0)
                    text[at] = static_cast<char>(between(random, 1, 255));
                else
                    text.erase(at, 1 + static_cast<std::size_t>(between(random, 0, 8)));
            }
            const auto ledger = ledgerFromJson(text);
            if (!ledger) QVERIFY(!ledger.error().what.empty());
        }
    }
    void everyOperationIsDescribed() {
        QVERIFY(operations().size() >= 2);
        for (const Operation& operation : operations()) {
            QVERIFY(findOperation(operation.id) == &operation);
            // Null is a standard only where a parameter takes anything: there it says "none".
            for (const ParameterInfo& info : operation.parameters) {
                QVERIFY(!info.meaning.empty() && !info.type.empty());
                QVERIFY2(!info.standard.is_null() || info.type == "any", operation.id.c_str());
            }
        }
    }
};

static Registered<LedgerTest> ledgerTest;

}  // namespace rasoir::test

#include "ledger_test.moc"
