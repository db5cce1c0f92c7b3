// Bare bodies with random holes: the bare volume comes back, or there is a refusal; never a wrong body. RASOIR_LONG=1
// runs many more.
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <BRepTools.hxx>

#include "shave/holes.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class RandomHolesTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape bareBody(int kind, Random& random) {
        const gp_Ax1 axis(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        switch (kind) {
            case 0:
                return block(between(random, 40, 80), between(random, 40, 80), between(random, 6, 12));
            case 1:
                return block(between(random, 30, 50), between(random, 30, 50), between(random, 30, 50));
            case 2:
                return rod(axis, between(random, 15, 25), between(random, 30, 60));
            case 3:
                return BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), between(random, 18, 30)).Shape();
            case 4:
                return coneOf(axis, between(random, 20, 30), between(random, 8, 15), between(random, 30, 50));
            case 5:
                return BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), between(random, 30, 40),
                                             between(random, 10, 14))
                    .Shape();
            default:
                return splineTopped(between(random, 40, 60), between(random, 30, 50), between(random, 10, 20),
                                    between(random, 0.5, 2.0));
        }
    }
    static const char* nameOf(int kind) {
        constexpr const char* names[] = {"plate", "block", "cylinder", "sphere", "cone", "torus", "spline top"};
        return names[kind];
    }

private slots:
    void bareBodiesComeBack_data() {
        QTest::addColumn<int>("kind");
        for (int kind = 0; kind < 7; ++kind) QTest::newRow(nameOf(kind)) << kind;
    }
    void bareBodiesComeBack() {
        QFETCH(int, kind);
        const int rounds = qEnvironmentVariableIsSet("RASOIR_LONG") ? 400 : 20;
        int holesPut = 0, removed = 0, refused = 0, missed = 0, bodies = 0, restored = 0;
        std::map<std::string, int> reasons;
        for (int round = 0; round < rounds; ++round) {
            Random random(static_cast<std::uint64_t>(1000 * kind + round));
            const TopoDS_Shape bare = bareBody(kind, random);
            const Incidence skin(bare);
            TopoDS_Shape body = bare;
            const int holes = 1 + static_cast<int>(between(random, 0, 3.99));
            int put = 0;
            for (int h = 0; h < holes; ++h) {
                // Through a random point of the skin, roughly square to it; sometimes exactly over an edge or a vertex.
                gp_Pnt at;
                gp_Vec normal;
                const int f = 1 + static_cast<int>(between(random, 0, skin.faceCount() - 1e-9));
                const TopoDS_Face face = skin.face(f);
                if (between(random, 0, 1) < 0.35 && skin.vertexCount() > 1) {
                    const auto edges = skin.edgesOf(f);
                    const TopoDS_Edge edge = skin.edge(
                        edges[static_cast<std::size_t>(between(random, 0, static_cast<double>(edges.size()) - 1e-9))]);
                    double first = 0, last = 0;
                    const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
                    at = curve->Value(first +
                                      (last - first) * (between(random, 0, 1) < 0.2 ? 0.0 : between(random, 0.1, 0.9)));
                    normal = gp_Vec(at, gp_Pnt(0.5 * (between(random, -4, 4) + 40), 20, 10));
                } else {
                    const TopExp_Explorer any(face, TopAbs_VERTEX);
                    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
                    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
                    surface->Bounds(u0, u1, v0, v1);
                    const auto inside = [&](double low, double high) {
                        return between(random, std::max(low, -60.0), std::min(high, 60.0));
                    };
                    gp_Vec du, dv;
                    surface->D1(inside(u0, u1), inside(v0, v1), at, du, dv);
                    normal = du.Crossed(dv);
                    if (normal.Magnitude() < 1e-9) continue;
                    if (face.Orientation() != TopAbs_REVERSED) normal.Reverse();
                    normal.Normalize();
                    normal +=
                        gp_Vec(between(random, -0.4, 0.4), between(random, -0.4, 0.4), between(random, -0.4, 0.4)) *
                        (between(random, 0, 1) < 0.5 ? 0.0 : 1.0);
                }
                if (normal.Magnitude() < 1e-9) continue;
                const gp_Dir along(normal);
                const double radius = between(random, 1.0, 4.5);
                const gp_Ax1 axis = gp_Ax1(at, along).Translated(gp_Vec(along) * -30.0);
                const double depth = between(random, 0, 1) < 0.4 ? 200.0 : 30.0 + between(random, 3, 15);
                const TopoDS_Shape drilled = cut(body, rod(axis, radius, depth));
                // A cut that divides the body, or misses it, is no hole.
                if (drilled.IsNull() || solidsIn(drilled) != 1 || !isValid(drilled) ||
                    volumeOf(drilled) > volumeOf(body) * (1 - 1e-5))
                    continue;
                body = drilled;
                ++put;
            }
            if (put == 0) continue;
            ++bodies;
            holesPut += put;
            shave::RemoveHoles step;
            step.upTo = 1e6;
            step.bores = true;
            step.kinds = {"plain", "stepped", "counterbored", "countersunk", "tapered", "slot"};
            const Model model = modelOf(body);
            const auto outcome = shave::removeHoles(model, step, quietly());
            const double bareVolume = volumeOf(bare), before = volumeOf(body);
            // RASOIR_DUMP=folder keeps every body that was not fully restored, to look at.
            const auto dump = [&](const char* why) {
                if (qEnvironmentVariableIsSet("RASOIR_DUMP"))
                    BRepTools::Write(
                        body,
                        qPrintable(qEnvironmentVariable("RASOIR_DUMP") +
                                   QString("/%1-%2-%3.brep").arg(nameOf(kind)).arg(round).arg(why).replace(' ', '-')));
            };
            if (!outcome) {
                dump("refused");
                if (outcome.error().what.find("no holes") != std::string::npos)
                    missed += put;  // under seven twelfths of a circle: a notch
                else
                    ++refused, ++reasons[outcome.error().what.substr(outcome.error().what.find("stays: ") + 7)];
                continue;
            }
            const TopoDS_Shape& now = outcome->model.parts[0]->shape;
            const double after = volumeOf(now);
            const auto told = [&](const char* what) {
                return qPrintable(QString("%1, round %2: %3; bare %4, drilled %5, now %6")
                                      .arg(nameOf(kind))
                                      .arg(round)
                                      .arg(what)
                                      .arg(bareVolume, 0, 'g', 12)
                                      .arg(before, 0, 'g', 12)
                                      .arg(after, 0, 'g', 12));
            };
            QVERIFY2(isValid(now), told("not valid"));
            QVERIFY2(openEdgesIn(now) == 0, told("not closed"));
            QVERIFY2(solidsIn(now) == 1, told("not one solid"));
            QVERIFY2(after <= bareVolume * (1 + 1e-6), told("more than the bare body"));
            QVERIFY2(after > before, told("nothing grew"));
            int left = 0;
            for (const Item& item : outcome->items) {
                if (item.done)
                    ++removed;
                else {
                    ++refused, ++left;
                    ++reasons[item.problem.what.substr(item.problem.what.find("stays: ") + 7)];
                }
            }
            if (left > 0) dump("refused");
            const auto still = survey::findHoles(*outcome->model.parts[0], 4.0, {}, quietly());
            if (left == 0 && still->empty()) {
                // Everything that was a hole is gone: what remains may only be notches.
                if (std::abs(after - bareVolume) <= 1e-6 * bareVolume) {
                    ++restored;
                    if (facesIn(now) > facesIn(bare)) dump("faces");
                    QVERIFY2(facesIn(now) <= facesIn(bare), told("faces left over"));
                } else {
                    ++missed;
                    dump("notch");
                }
            }
        }
        qInfo(
            "%s: %d bodies with %d holes put in; %d removed, %d refused, %d bodies bare again, %d notches that are no "
            "holes",
            nameOf(kind), bodies, holesPut, removed, refused, restored, missed);
        for (const auto& [reason, count] : reasons) qInfo("    %d refused: %s", count, reason.c_str());
        QVERIFY(bodies > rounds / 3);
        QVERIFY2(removed >= 4 * refused, "fewer than four in five go");
    }
};

static Registered<RandomHolesTest> randomHolesTest;

}  // namespace rasoir::test

int main(int argc, char** argv) {
    QCoreApplication application(argc, argv);
    return rasoir::test::runAll(argc, argv);
}

#include "random_holes_test.moc"
