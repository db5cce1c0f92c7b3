// Boxes and points found in a tree are those that are found by looking at each.
#include "geometry/box_tree.h"

#include <algorithm>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class BoxTreeTest : public QObject {
    Q_OBJECT

    static Bnd_Box boxAt(const gp_Pnt& low, double x, double y, double z) {
        Bnd_Box box;
        box.Update(low.X(), low.Y(), low.Z(), low.X() + x, low.Y() + y, low.Z() + z);
        return box;
    }
    static gp_Pnt somewhere(Random& random) {
        return {between(random, -50, 50), between(random, -50, 50), between(random, -50, 50)};
    }
    static Bnd_Box someBox(Random& random) {
        return boxAt(somewhere(random), between(random, 0, 25), between(random, 0, 25), between(random, 0, 25));
    }
    /// Whether two boxes come within a gap of each other along each axis.
    static bool meet(const Bnd_Box& a, const Bnd_Box& b, double gap) {
        for (int k = 1; k <= 3; ++k)
            if (a.CornerMin().Coord(k) > b.CornerMax().Coord(k) + gap ||
                b.CornerMin().Coord(k) > a.CornerMax().Coord(k) + gap)
                return false;
        return true;
    }

private slots:
    void boxesAreThoseThatComeNear() {
        Random random(41);
        std::vector<Bnd_Box> boxes;
        for (int i = 0; i < 400; ++i) boxes.push_back(i % 17 == 3 ? Bnd_Box() : someBox(random));
        const BoxTree tree(boxes);
        std::size_t found = 0;
        for (int round = 0; round < 200; ++round) {
            const Bnd_Box asked = someBox(random);
            const double gap = round % 2 == 0 ? 0.0 : between(random, 0, 5);
            std::vector<std::size_t> wanted;
            for (std::size_t i = 0; i < boxes.size(); ++i)
                if (!boxes[i].IsVoid() && meet(boxes[i], asked, gap)) wanted.push_back(i);
            QCOMPARE(tree.near(asked, gap), wanted);
            std::vector<std::size_t> visited;
            tree.visit(asked, gap, [&](std::size_t i) {
                visited.push_back(i);
                return true;
            });
            std::sort(visited.begin(), visited.end());
            QCOMPARE(visited, wanted);
            found += wanted.size();
        }
        QVERIFY(found > 200);
    }
    void aVisitEndsWhenItIsToldTo() {
        Random random(5);
        std::vector<Bnd_Box> boxes;
        for (int i = 0; i < 100; ++i) boxes.push_back(someBox(random));
        int seen = 0;
        BoxTree(boxes).visit(boxAt(gp_Pnt(-60, -60, -60), 120, 120, 120), 0.0, [&](std::size_t) { return ++seen < 7; });
        QCOMPARE(seen, 7);
    }
    void theNearestPointsAreTheNearest() {
        Random random(77);
        std::vector<gp_Pnt> points;
        for (int i = 0; i < 500; ++i) points.push_back(somewhere(random));
        const BoxTree tree(points);
        for (int round = 0; round < 100; ++round) {
            const gp_Pnt asked = somewhere(random);
            const double gap = between(random, 5, 30);
            std::vector<std::size_t> within;
            for (std::size_t i = 0; i < points.size(); ++i) {
                const gp_XYZ way = points[i].XYZ() - asked.XYZ();
                if (std::max({std::abs(way.X()), std::abs(way.Y()), std::abs(way.Z())}) <= gap) within.push_back(i);
            }
            std::sort(within.begin(), within.end(), [&](std::size_t a, std::size_t b) {
                return points[a].SquareDistance(asked) < points[b].SquareDistance(asked);
            });
            if (within.size() > 6) within.resize(6);
            std::sort(within.begin(), within.end());
            auto got = tree.nearest(asked, 6, gap);
            std::sort(got.begin(), got.end());
            QCOMPARE(got, within);
        }
    }
    void nothingIsFoundWhereNothingIs() {
        QVERIFY(BoxTree().near(boxAt(gp_Pnt(0, 0, 0), 1, 1, 1)).empty());
        QVERIFY(BoxTree(std::vector<Bnd_Box>(3)).near(boxAt(gp_Pnt(0, 0, 0), 1, 1, 1), 1e9).empty());
        QVERIFY(BoxTree(std::vector<gp_Pnt>{}).nearest(gp_Pnt(0, 0, 0), 4, 1e9).empty());
    }
};
static Registered<BoxTreeTest> boxTreeTest;

}  // namespace rasoir::test
#include "box_tree_test.moc"
