// Threads cut into rods and bores of known size: found with their diameters and lead, and plain afterwards.
#include "survey/threads.h"

#include "exchange/files.h"
#include "operations.h"
#include "shave/threads.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/holes.h"

namespace rasoir::test {

class ThreadsTest : public QObject {
    Q_OBJECT

    /// A body with one thread round the z axis, and what is true of it.
    struct Threaded {
        TopoDS_Shape body, bare;  // bare: before the thread was cut or put on
        double minor = 0.0, major = 0.0, lead = 0.0;
        bool outer = true, rightHanded = true;
        double low = 0.0, high = 0.0;  // [mm] z between which it lies, within the body

        /// The body with a cylinder of this radius instead, from one z to another.
        [[nodiscard]] TopoDS_Shape plain(double radius, double from, double to) const {
            if (!outer) return cut(bare, zRod(radius, from, to));
            if (raised) return fuse(bare, zRod(radius, from, to));
            return radius < 0.5 * major ? cut(bare, cut(zRod(8, from, to), zRod(radius, from, to))) : bare;
        }
        bool raised = false;
    };
    static TopoDS_Shape zRod(double radius, double from, double to) {
        return rod(gp_Ax1(gp_Pnt(0, 0, from), gp::DZ()), radius, to - from);
    }

    static const Threaded& make(const QString& kind) {
        static std::map<QString, Threaded> made;  // winding and cutting takes seconds
        if (const auto known = made.find(kind); known != made.end()) return known->second;
        return made[kind] = fresh(kind);
    }
    static Threaded fresh(const QString& kind) {
        Threaded t;
        t.minor = 8.0;
        t.major = 10.0;
        t.lead = 1.5;
        // Grooves reach a little beyond the rod so that their flanks cut it cleanly: at radius 5 they are 1.1 mm wide.
        const auto groove = [](double z, double turns, double lead = 1.5) {
            return wound(4.0, 5.2, 0.3, 1.26, lead, turns, z);
        };
        const double half = 0.5 * 1.1;  // of a groove's width at the rod's own radius
        if (kind == "runs out on to the shank") {
            t.bare = zRod(5, 0, 25);
            t.body = cut(t.bare, groove(-1.5, 8));
            t.low = 0.0;
            t.high = -1.5 + 12.0 + half;
        } else if (kind == "between two shanks") {
            t.bare = zRod(5, 0, 30);
            t.body = cut(t.bare, groove(8, 6));
            t.low = 8.0 - half;
            t.high = 8.0 + 9.0 + half;
        } else if (kind == "a chamfered end") {
            const TopoDS_Shape corner = cut(zRod(7, -3, 0), coneOf(gp_Ax1(gp_Pnt(0, 0, -1.5), gp::DZ()), 3.5, 5, 1.5));
            t.bare = cut(zRod(5, -1.5, 25), corner);
            t.body = cut(cut(zRod(5, -1.5, 25), groove(-3.4, 9.3)), corner);
            t.low = -1.0;  // where the grooves have come out of the chamfer
            t.high = -3.4 + 1.5 * 9.3 + half;
        } else if (kind == "left-handed") {
            t = make("runs out on to the shank");
            gp_Trsf mirror;
            mirror.SetMirror(gp::ZOX());
            t.body = moved(t.body, mirror);
            t.rightHanded = false;
        } else if (kind == "two starts") {
            t.lead = 3.0;
            gp_Trsf turn;
            turn.SetRotation(gp::OZ(), M_PI);
            t.bare = zRod(5, 0, 25);
            t.body = cut(cut(t.bare, groove(-3, 5, 3.0)), moved(groove(-3, 5, 3.0), turn));
            t.low = 0.0;
            t.high = -3.0 + 15.0 + half;
        } else if (kind == "a ridge on a rod") {
            t.raised = true;
            t.bare = zRod(4, 0, 25);
            t.body = fuse(t.bare, wound(3.9, 5.0, 1.1, 0.3, 1.5, 8, 5));
            t.low = 5.0 - 0.52;
            t.high = 17.0 + 0.52;
        } else if (kind == "in a hole") {
            t.outer = false;
            t.bare = cut(moved(block(20, 20, 16),
                               [] {
                                   gp_Trsf s;
                                   s.SetTranslation(gp_Vec(-10, -10, 0));
                                   return s;
                               }()),
                         zRod(4, -1, 17));
            t.body = cut(t.bare, wound(3.8, 5.0, 1.26, 0.3, 1.5, 14, -2.5));
            t.low = 0.0;
            t.high = 16.0;
        } else if (kind == "in a blind hole") {
            t.outer = false;
            t.bare = cut(moved(block(20, 20, 30),
                               [] {
                                   gp_Trsf s;
                                   s.SetTranslation(gp_Vec(-10, -10, 0));
                                   return s;
                               }()),
                         zRod(4, 8, 31));
            t.body = cut(moved(block(20, 20, 30),
                               [] {
                                   gp_Trsf s;
                                   s.SetTranslation(gp_Vec(-10, -10, 0));
                                   return s;
                               }()),
                         fuse(zRod(4, 8, 31), wound(3.8, 5.0, 1.26, 0.3, 1.5, 10.3, 17)));
            t.low = 17.0 - half;
            t.high = 30.0;
        }
        return t;
    }
    static std::vector<survey::Thread> found(const TopoDS_Shape& shape) {
        const Model model = modelOf(shape);
        const auto threads = survey::findThreads(*model.parts[0], 2.0, quietly());
        return threads ? *threads : std::vector<survey::Thread>{};
    }
    static std::pair<double, double> heights(const survey::Thread& thread) {
        const double a = thread.axis.Location().Z() + thread.axis.Direction().Z() * thread.low,
                     b = thread.axis.Location().Z() + thread.axis.Direction().Z() * thread.high;
        return {std::min(a, b), std::max(a, b)};
    }
    static void kinds() {
        QTest::addColumn<QString>("kind");
        for (const char* kind : {"runs out on to the shank", "between two shanks", "a chamfered end", "left-handed",
                                 "two starts", "a ridge on a rod", "in a hole", "in a blind hole"})
            QTest::newRow(kind) << QString(kind);
    }

private slots:
    void isFoundAsMade_data() { kinds(); }
    void isFoundAsMade() {
        QFETCH(QString, kind);
        const Threaded& t = make(kind);
        QVERIFY(isValid(t.body));
        const auto threads = found(t.body);
        QCOMPARE(threads.size(), 1u);
        const survey::Thread& thread = threads.front();
        QVERIFY2(std::abs(thread.major - t.major) < 2e-3, qPrintable(QString::number(thread.major, 'g', 10)));
        QVERIFY2(std::abs(thread.minor - t.minor) < 2e-3, qPrintable(QString::number(thread.minor, 'g', 10)));
        QVERIFY2(std::abs(thread.lead - t.lead) < 2e-3, qPrintable(QString::number(thread.lead, 'g', 10)));
        QCOMPARE(thread.outer, t.outer);
        QCOMPARE(thread.rightHanded, t.rightHanded);
        const auto [low, high] = heights(thread);
        QVERIFY2(std::abs(low - t.low) < 0.1 && std::abs(high - t.high) < 0.1,
                 qPrintable(QString("%1 to %2, wanted %3 to %4").arg(low).arg(high).arg(t.low).arg(t.high)));
        QVERIFY(thread.elements > 0.0);
    }

    void givesWayToACylinder_data() { kinds(); }
    void givesWayToACylinder() {
        QFETCH(QString, kind);
        const Threaded& t = make(kind);
        const Model model = modelOf(t.body);
        for (const char* diameter : {"minor", "mean", "major"}) {
            const auto outcome =
                findOperation("shave.plainThreads")->run(model, {{"diameter", diameter}, {"upTo", 12.0}}, quietly());
            QVERIFY2(outcome, said(outcome));
            const TopoDS_Shape made = outcome->model.parts[0]->shape;
            QVERIFY(isValid(made));
            QCOMPARE(openEdgesIn(made), 0);
            QCOMPARE(solidsIn(made), 1);
            QVERIFY(found(made).empty());
            const double radius = diameter == std::string("minor") ? 4.0 : diameter == std::string("major") ? 5.0 : 4.5;
            const auto [low, high] = heights(found(t.body).front());
            const double expected = volumeOf(t.plain(radius, low, high));
            QVERIFY2(
                std::abs(volumeOf(made) - expected) < 1e-4 * expected,
                qPrintable(
                    QString("%1: %2 for %3").arg(diameter).arg(volumeOf(made), 0, 'g', 10).arg(expected, 0, 'g', 10)));
        }
    }

    void turnedAndScaledItIsTheSame_data() {
        QTest::addColumn<double>("scale");
        QTest::addColumn<QString>("kind");
        for (const char* kind : {"a chamfered end", "in a blind hole"})
            for (const double scale : {0.001, 0.0393700787, 1000.0})
                QTest::newRow(qPrintable(QString("%1, x%2").arg(kind).arg(scale))) << scale << QString(kind);
    }
    void turnedAndScaledItIsTheSame() {
        QFETCH(double, scale);
        QFETCH(QString, kind);
        const Threaded& t = make(kind);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, -2, 0.7)), 1.1);
        const TopoDS_Shape body = scaledBy(moved(t.body, turn), scale);
        const auto threads = found(body);
        QCOMPARE(threads.size(), 1u);
        QCOMPARE_NEAR(threads.front().major / scale, t.major, 2e-3);
        QCOMPARE(threads.front().rightHanded, t.rightHanded);
        const auto outcome = findOperation("shave.plainThreads")
                                 ->run(modelOf(body), {{"diameter", "mean"}, {"upTo", 12.0 * scale}}, quietly());
        QVERIFY2(outcome, said(outcome));
        const auto [low, high] = heights(found(t.body).front());
        const double expected = volumeOf(t.plain(4.5, low, high));
        QVERIFY(isValid(outcome->model.parts[0]->shape));
        QCOMPARE_NEAR(volumeOf(outcome->model.parts[0]->shape) / (scale * scale * scale), expected, 2e-4 * expected);
    }

    void aHoleAcrossItStays() {
        const Threaded& t = make("runs out on to the shank");
        const TopoDS_Shape drill = rod(gp_Ax1(gp_Pnt(0, -10, 5), gp::DY()), 1.0, 20);
        const TopoDS_Shape body = cut(t.body, drill);
        QVERIFY(isValid(body));
        const auto outcome =
            findOperation("shave.plainThreads")->run(modelOf(body), {{"diameter", "minor"}, {"upTo", 12.0}}, quietly());
        QVERIFY2(outcome, said(outcome));
        const auto [low, high] = heights(found(t.body).front());
        const double expected = volumeOf(cut(t.plain(4.0, low, high), drill));
        QVERIFY(isValid(outcome->model.parts[0]->shape));
        QCOMPARE_NEAR(volumeOf(outcome->model.parts[0]->shape), expected, 1e-4 * expected);
        const auto holes = survey::findHoles(*outcome->model.parts[0], 2.0, {}, quietly());
        QVERIFY(holes && holes->size() == 1 && holes->front().through);
    }

    void aHoleAcrossIsLedToTheCylinderThatItOpensIn() {
        // On this bolt the crests are one face with the shank, which is made anew: three fresh faces, of which the hole
        // reaches one.
        auto bolt = exchange::readFile(demoFile("hanger-bolt.step"), {}, quietly());
        QVERIFY2(bolt, said(bolt));
        const TopoDS_Shape plain = findOperation("shave.plainThreads")
                                       ->run(*bolt, {{"diameter", "minor"}, {"upTo", 30.0}}, quietly())
                                       ->model.parts[0]
                                       ->shape;
        for (const double z : {-50.0, -12.0}) {
            const TopoDS_Shape drill = rod(gp_Ax1(gp_Pnt(0, -30, z), gp::DY()), 2.0, 60);
            const TopoDS_Shape body = cut(bolt->parts[0]->shape, drill);
            QVERIFY(isValid(body));
            const auto outcome = findOperation("shave.plainThreads")
                                     ->run(modelOf(body), {{"diameter", "minor"}, {"upTo", 30.0}}, quietly());
            QVERIFY2(outcome, said(outcome));
            QVERIFY(isValid(outcome->model.parts[0]->shape));
            const double expected = volumeOf(cut(plain, drill));
            QCOMPARE_NEAR(volumeOf(outcome->model.parts[0]->shape), expected, 1e-4 * expected);
        }
    }

    void whatTurnsFewTimesOrStandsAloneIsNone() {
        QVERIFY(found(wound(8.0, 9.5, 1.2, 1.2, 3.0, 5, 0)).empty());  // a spring: it ends in two flats
        QVERIFY(found(cut(zRod(5, 0, 25), wound(4.0, 5.2, 0.3, 1.26, 20.0, 0.6, 5))).empty());  // an oil groove
        QVERIFY(found(block(10, 10, 10)).empty());
    }

    void whatIsAskedOfItIsChecked() {
        const Threaded& t = make("in a hole");
        const auto run = [&](const Json& parameters) {
            return findOperation("shave.plainThreads")->run(modelOf(t.body), parameters, quietly());
        };
        for (const Json& wrong : {Json{{"upTo", -1.0}}, Json{{"upTo", 0.0}},
                                  Json{{"upTo", 12.0}, {"diameter", "outer"}}, Json{{"upTo", 5.0}}}) {
            const auto outcome = run(wrong);
            QVERIFY(!outcome);
            QVERIFY(!outcome.error().what.empty());
        }
        Progress cancelled;
        cancelled.cancel();
        const auto stopped = findOperation("shave.plainThreads")->run(modelOf(t.body), {{"upTo", 12.0}}, cancelled);
        QVERIFY(!stopped && stopped.error().kind == ProblemKind::Cancelled);
        const Model model = modelOf(t.body);
        const auto keeping =
            run({{"upTo", 12.0},
                 {"kept", Json::array({Json(makeFaceRef(*model.parts[0], found(t.body).front().faces.front()))})}});
        QVERIFY(!keeping);
    }
};
static Registered<ThreadsTest> threadsTest;

}  // namespace rasoir::test

#include "threads_test.moc"
