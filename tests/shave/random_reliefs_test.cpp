// Bare bodies with features put on and cut in at random: found, removed, and the bare body is back; or what stays is
// told. Never a wrong body.
#include <BRepAdaptor_Surface.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "geometry/round_surface.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/reliefs.h"

namespace rasoir::test {

class RandomReliefsTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape box(double x0, double y0, double z0, double x1, double y1, double z1) {
        gp_Trsf to;
        to.SetTranslation(gp_Vec(x0, y0, z0));
        return moved(block(x1 - x0, y1 - y0, z1 - z0), to);
    }
    enum Base { Block, Angle, Shaft, Splines, bases };
    enum Feature { Boss, Pocket, Letters, Notch, Groove, CornerNotch, Rib, Step, features };

    /// A body some 100 long, its main face at z = 30 (a shaft's is its wall, of radius 30).
    static TopoDS_Shape bare(int base) {
        switch (base) {
            case Angle:
                return cut(box(0, 0, 0, 100, 60, 70), box(25, -1, 30, 101, 61, 71));
            case Shaft:
                return rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), 30, 100);
            default:
                return box(0, 0, 0, 100, 60, 30);
        }
    }
    /// The body with one more feature, within a cell of some 20 by 20 mm about (x, y).
    static TopoDS_Shape with(const TopoDS_Shape& body, int base, int feature, double x, double y, Random& random) {
        const double a = between(random, 2, 6), b = between(random, 2, 6), depth = between(random, 0.4, 3);
        const bool shaft = base == Shaft;
        const double end = 100;  // the side at which things are open
        switch (feature) {
            case Boss:
                return fuse(body, random() % 2 == 0 ? box(x - a, y - b, 20, x + a, y + b, 30 + depth)
                                                    : rod(gp_Ax1(gp_Pnt(x, y, 20), gp_Dir(0, 0, 1)), a, 10 + depth));
            case Pocket:
                return cut(body, random() % 2 == 0 ? box(x - a, y - b, (shaft ? 26 : 30) - depth, x + a, y + b, 45)
                                                   : box(x - a, y - a, (shaft ? 26 : 30) - depth, x + a, y + a, 45));
            case Letters: {
                TopoDS_Shape made = body;
                for (int letter = 0; letter < 3; ++letter) {
                    const double at = x - 6 + 4 * letter;
                    made = fuse(made, shaft ? cut(box(at, y - 3, 20, at + 2, y + 3, 45),
                                                  cut(box(at - 1, y - 4, 19, at + 3, y + 4, 46),
                                                      rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), 30.5, 100)))
                                            : box(at, y - 3, 25, at + 2, y + 3, 30.5));
                }
                return made;
            }
            case Notch:
                return cut(body, box(end - a, y - b, 30 - depth, end + 1, y + b, 71));
            case Groove:
                if (shaft)
                    return cut(body, cut(rod(gp_Ax1(gp_Pnt(x, 0, 0), gp_Dir(1, 0, 0)), 40, 0.5 * a),
                                         rod(gp_Ax1(gp_Pnt(x - 1, 0, 0), gp_Dir(1, 0, 0)), 30 - depth, 20)));
                return cut(body, box(x - 0.5 * a, -1, 30 - depth, x + 0.5 * a, 61, base == Angle ? 30.01 : 45));
            case CornerNotch:
                return cut(body, box(end - a, shaft ? 10 : 60 - b, -1, end + 1, 61, 31));
            case Step: {  // the end a little lower; several of them, at random lengths, make a stair
                const double length = between(random, 12, 40), low = between(random, 0.2, 1.5);
                if (shaft)
                    return cut(body, cut(rod(gp_Ax1(gp_Pnt(end - length, 0, 0), gp_Dir(1, 0, 0)), 40, length + 1),
                                         rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), 30 - low, 120)));
                return cut(body, box(end - length, -1, 30 - low, end + 1, 61, base == Angle ? 30.01 : 45));
            }
            default: {  // between the upright leg and the floor
                return fuse(body, box(20, y - 0.5 * a, 25, 25 + 2 * b, y + 0.5 * a, 30 + 2 * b));
            }
        }
    }
    static bool suits(int base, int feature) {
        if (feature == Rib) return base == Angle;
        if (base == Shaft)
            return feature == Boss || feature == Letters || feature == Groove || feature == Pocket || feature == Step;
        return true;
    }

private slots:
    void featuresComeAndGo_data() {
        QTest::addColumn<int>("base");
        QTest::addColumn<int>("feature");
        QTest::addColumn<double>("least");  // share that must come back
        const char* names[] = {"bosses", "pockets", "letters", "notches", "grooves", "corner notches", "ribs", "steps"};
        const char* on[] = {"block", "angle", "shaft", "splines"};
        for (int base = 0; base < bases; ++base)
            for (int feature = 0; feature < features; ++feature)
                if (suits(base, feature))
                    QTest::newRow(qPrintable(QString("%1 on %2").arg(names[feature], on[base])))
                        << base << feature
                        << (base == Splines && (feature == Groove || feature == CornerNotch || feature == Step)
                                ? 0.0
                                : 0.75);  // splines end where they end: nothing to grow with
    }
    void featuresComeAndGo() {
        QFETCH(int, base);
        QFETCH(int, feature);
        QFETCH(double, least);
        const int rounds = qEnvironmentVariableIsSet("RASOIR_LONG") ? 60 : 4;
        Random random(static_cast<std::uint64_t>(base) * 10 + static_cast<std::uint64_t>(feature) + 77);
        int made = 0, back = 0, refused = 0, unseen = 0;
        for (int round = 0; round < rounds; ++round) {
            const TopoDS_Shape plain = bare(base);
            TopoDS_Shape body = plain;
            // One to three of the kind, in cells of their own; a second kind beside them every third time.
            const int count = 1 + round % 3;
            for (int i = 0; i < count; ++i) {
                const double x = 42 + 18.0 * i + between(random, -2, 2), y = base == Shaft ? between(random, -2, 2)
                                                                             : feature == Notch
                                                                                 ? 12 + 18.0 * i
                                                                                 : between(random, 18, 42);
                if (feature == CornerNotch && i > 0) break;
                body = with(body, base, feature, feature == Rib ? 0 : x, feature == Rib ? 12 + 18.0 * i : y, random);
            }
            const bool mixed = round % 3 == 2 && feature != Boss && feature != Groove && base != Shaft;
            if (mixed) body = with(body, base, Boss, 32, feature == Rib ? 57 : 8, random);
            gp_Trsf turn;
            turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(between(random, -1, 1), between(random, -1, 1), 1)),
                             between(random, 0, 6));
            body = moved(body, turn);
            if (base == Splines) body = asSplines(body);
            if (solidsIn(body) != 1 || !isValid(body)) continue;
            TopExp_Explorer solid(body, TopAbs_SOLID);
            Model model = modelOf(solid.Current());
            model.targetSize = 4.0;
            ++made;
            const double before = volumeOf(body), target = volumeOf(plain);
            const auto done =
                findOperation("shave.removeReliefs")
                    ->run(model,
                          {{"upTo", 30.0}, {"kinds", {"mark", "boss", "pocket", "cutout", "notch", "rib", "step"}}},
                          quietly());
            if (!done) {
                QVERIFY(!done.error().what.empty());
                ++refused;
                if (qEnvironmentVariableIsSet("RASOIR_TELL")) qInfo("round %d: %s", round, done.error().what.c_str());
                continue;
            }
            const TopoDS_Shape& left = done->model.parts[0]->shape;
            QVERIFY2(isValid(left), qPrintable(QString("round %1").arg(round)));
            QCOMPARE(openEdgesIn(left), 0);
            QCOMPARE(solidsIn(left), 1);
            const bool all =
                std::all_of(done->items.begin(), done->items.end(), [](const Item& item) { return item.done; });
            // The body is the bare one, or it lies between that and what it was: nothing was cut away or filled beyond.
            const double off = std::abs(volumeOf(left) - target) / target, allowed = base == Splines ? 1e-4 : 1e-6;
            if (off <= allowed && facesIn(left) == facesIn(plain))
                ++back;
            else {
                if (qEnvironmentVariableIsSet("RASOIR_TELL"))
                    for (const Item& item : done->items)
                        qInfo("  %d %s: %s", item.done, item.what.c_str(), item.problem.what.c_str());
                const double low = std::min(before, target), high = std::max(before, target);
                // A boss of up to 450 mm³ beside what is sunk; a stair's middle may first have gone down to what is
                // lower but larger.
                const double slack = feature == Step ? 0.02 * target : mixed ? 1000.0 : allowed * target;
                QVERIFY2(
                    volumeOf(left) >= low - slack && volumeOf(left) <= high + slack,
                    qPrintable(
                        QString("round %1: %2, between %3 and %4").arg(round).arg(volumeOf(left)).arg(low).arg(high)));
                ++(all ? unseen : refused);
                if (qEnvironmentVariableIsSet("RASOIR_TELL")) {
                    qInfo("round %d: %d faces, bare %d, off %g", round, facesIn(left), facesIn(plain), off);
                    for (const Item& item : done->items)
                        qInfo("  %d %s: %s", item.done, item.what.c_str(), item.problem.what.c_str());
                }
            }
        }
        qInfo(
            "%s: %d bodies, %d back to the bare one, %d with something that stays and says why, %d with something that "
            "was not recognised",
            QTest::currentDataTag(), made, back, refused, unseen);
        QVERIFY(made > rounds / 2);
        QVERIFY2(back >= least * made, "too few come back");
    }
};

static Registered<RandomReliefsTest> randomReliefsTest;

}  // namespace rasoir::test

#include "random_reliefs_test.moc"
