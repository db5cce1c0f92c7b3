// Small faces and short edges on bodies of known answer: told with the right way to be rid of them, and gone in it.
#include "shave/small.h"

#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeWedge.hxx>
#include <gp_Ax3.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <TopoDS.hxx>

#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class SmallTest : public QObject {
    Q_OBJECT

    using Kind = survey::SmallKind;
    using Way = survey::SmallWay;

    static TopoDS_Shape at(const TopoDS_Shape& shape, double x, double y, double z) {
        gp_Trsf shift;
        shift.SetTranslation(gp_Vec(x, y, z));
        return moved(shape, shift);
    }
    static TopoDS_Shape prism(const std::vector<gp_Pnt>& corners, double height) {
        BRepBuilderAPI_MakePolygon polygon;
        for (const gp_Pnt& p : corners) polygon.Add(p);
        polygon.Close();
        return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(polygon.Wire()).Face(), gp_Vec(0, 0, height)).Shape();
    }
    /// A hip roof on a 20 x 20.2 floor: its ridge is 0.2 long.
    static TopoDS_Shape roof() {
        const gp_Pnt a(0, 0, 0), b(20, 0, 0), c(20, 20.2, 0), d(0, 20.2, 0), r(10, 10, 8), s(10, 10.2, 8);
        BRepBuilderAPI_Sewing sewing(1e-6);
        for (const std::vector<gp_Pnt>& face :
             {std::vector<gp_Pnt>{a, d, c, b}, {a, b, r}, {b, c, s, r}, {c, d, s}, {d, a, r, s}}) {
            BRepBuilderAPI_MakePolygon polygon;
            for (const gp_Pnt& p : face) polygon.Add(p);
            polygon.Close();
            sewing.Add(BRepBuilderAPI_MakeFace(polygon.Wire(), true).Face());
        }
        sewing.Perform();
        return BRepBuilderAPI_MakeSolid(TopoDS::Shell(sewing.SewedShape())).Shape();
    }
    /// A corner with a triangle instead of its tip, of which 0.8 goes along each edge.
    static TopoDS_Shape cornerCut(const TopoDS_Shape& body, const gp_Pnt& tip, const gp_Dir& inwards) {
        gp_Trsf place;
        place.SetTransformation(gp_Ax3(tip.Translated(gp_Vec(inwards) * (0.8 / std::sqrt(3.0))), inwards.Reversed()),
                                gp_Ax3());
        return cut(body, moved(at(block(10, 10, 10), -5, -5, 0), place));
    }
    struct Case {
        TopoDS_Shape body;
        Kind kind = Kind::Face;
        Way way = Way::Remove;
        double size = 0.0;
        double volume = 0.0, allowed = 1e-6;  // afterwards; allowed: share of it
        int faces = 0;
    };
    static Case make(const QString& kind) {
        if (kind == "a cut corner")
            return {cornerCut(block(40, 30, 20), {0, 0, 0}, {1, 1, 1}),
                    Kind::Face,
                    Way::Remove,
                    0.3266,
                    40.0 * 30 * 20,
                    1e-6,
                    6};
        if (kind == "a strip of the same flat")
            return {fuse(block(40, 30, 20), at(block(0.4, 30, 20), 40, 0, 0)),
                    Kind::Face,
                    Way::Merge,
                    0.4,
                    40.4 * 30 * 20,
                    1e-6,
                    6};
        if (kind == "nearly flat beside a flat")
            return {prism({{0, 0, 0}, {40, 0, 0}, {40, 29.95, 0}, {39.5, 30, 0}, {0, 30, 0}}, 20),
                    Kind::Face,
                    Way::Flatten,
                    0.49,
                    40.0 * 30 * 20,
                    1e-4,
                    6};
        if (kind == "a ridge") return {roof(), Kind::Edge, Way::Collapse, 0.2, 8.0 / 3.0 * 20 * 20.2, 0.02, 5};
        return {};
    }
    static std::vector<survey::Small> found(const TopoDS_Shape& shape, double target) {
        const auto all = survey::findSmall(*modelOf(shape).parts[0], target, {}, quietly());
        return all ? *all : std::vector<survey::Small>{};
    }
    static Result<Outcome> without(const TopoDS_Shape& shape, const Json& parameters, double target = 1.0) {
        Model model = modelOf(shape);
        model.targetSize = target;
        return findOperation("shave.removeSmall")->run(model, parameters, quietly());
    }
    static void kinds() {
        QTest::addColumn<QString>("kind");
        for (const char* kind : {"a cut corner", "a strip of the same flat", "nearly flat beside a flat", "a ridge"})
            QTest::newRow(kind) << QString(kind);
    }

private slots:
    void itsWayIsTold_data() { kinds(); }
    void itsWayIsTold() {
        QFETCH(QString, kind);
        const Case c = make(kind);
        QVERIFY(isValid(c.body));
        const auto all = found(c.body, 1.0);
        QVERIFY(!all.empty());
        const auto one = std::find_if(all.begin(), all.end(), [&](const auto& small) { return small.kind == c.kind; });
        QVERIFY(one != all.end());
        QCOMPARE(QString::fromStdString(survey::smallWayName(one->way)),
                 QString::fromStdString(survey::smallWayName(c.way)));
        QCOMPARE_NEAR(one->size, c.size, 0.12 * c.size);
        QVERIFY(one->elements > 0.0);
    }

    void itGoes_data() { kinds(); }
    void itGoes() {
        QFETCH(QString, kind);
        const Case c = make(kind);
        for (const double scale : {1.0, 0.001, 1000.0}) {
            gp_Trsf turn;
            turn.SetRotation(gp_Ax1(gp_Pnt(3, -2, 1), gp_Dir(1, 2, -0.4)), 0.8);
            const auto outcome = without(scaledBy(moved(c.body, turn), scale),
                                         {{"facesUpTo", 0.7 * scale}, {"edgesUpTo", 0.7 * scale}}, scale);
            QVERIFY2(outcome, said(outcome));
            const TopoDS_Shape made = outcome->model.parts[0]->shape;
            QVERIFY(isValid(made));
            QCOMPARE(openEdgesIn(made), 0);
            QCOMPARE(facesIn(made), c.faces);
            QCOMPARE_NEAR(volumeOf(made) / (scale * scale * scale), c.volume, c.allowed * c.volume);
            QVERIFY(found(made, 0.3 * scale).empty());
        }
    }

    void oneIsChosenOrKeptByItsMiddle() {
        // Two cut corners.
        const TopoDS_Shape body = cornerCut(make("a cut corner").body, {40, 30, 20}, {-1, -1, -1});
        const auto all = found(body, 1.0);
        std::vector<survey::Small> faces;
        for (const auto& small : all)
            if (small.kind == Kind::Face) faces.push_back(small);
        QCOMPARE(faces.size(), 2u);
        const auto point = [](const survey::Small& small) {
            return Json{{small.middle.X(), small.middle.Y(), small.middle.Z()}};
        };
        const auto chosen = without(body, {{"chosenAt", point(faces[0])}});
        QVERIFY2(chosen, said(chosen));
        QCOMPARE(chosen->items.size(), 1u);
        QCOMPARE(facesIn(chosen->model.parts[0]->shape), 7);
        const auto kept = without(body, {{"facesUpTo", 0.9}, {"keptAt", point(faces[1])}});
        QVERIFY2(kept, said(kept));
        QCOMPARE_NEAR(volumeOf(kept->model.parts[0]->shape), volumeOf(chosen->model.parts[0]->shape), 1e-6);
        QVERIFY(!without(body, {{"chosenAt", Json{{1.0, 2.0, 3.0}}}}));
        QVERIFY(!without(body, {{"facesUpTo", -1.0}}));
        QVERIFY(!without(body, Json::object()));
        QVERIFY(!without(body, {{"facesUpTo", 1e-3}}));
    }

    void anEdgeThatDividesACurveGoesAndNoOther() {
        // Faces in one piece whose straight edges are not: 0.4 of the front ones lies between two vertices, the back
        // ones are halved.
        const TopoDS_Shape pieces =
            prism({{0, 0, 0}, {10, 0, 0}, {10.4, 0, 0}, {40, 0, 0}, {40, 30, 0}, {20, 30, 0}, {0, 30, 0}}, 20);
        ShapeUpgrade_UnifySameDomain faces(pieces, false, true, false);
        faces.Build();
        const TopoDS_Shape body = faces.Shape();
        QCOMPARE(facesIn(body), 6);
        const Incidence before(body);
        QCOMPARE(before.edgeCount(), 12 + 4 + 2);
        const auto all = found(body, 1.0);
        QCOMPARE(all.size(), std::size_t(2));
        for (const auto& small : all) {
            QVERIFY(small.kind == Kind::Edge);
            QCOMPARE(QString::fromStdString(survey::smallWayName(small.way)), QString("merge"));
        }
        const auto outcome = without(body, {{"edgesUpTo", 0.5}});
        QVERIFY2(outcome, said(outcome));
        QCOMPARE(outcome->items.size(), std::size_t(2));
        for (const Item& item : outcome->items) QVERIFY2(item.done, item.what.c_str());
        const TopoDS_Shape made = outcome->model.parts[0]->shape;
        QVERIFY(isValid(made));
        QCOMPARE(openEdgesIn(made), 0);
        QCOMPARE(Incidence(made).edgeCount(), 12 + 2);  // the halved ones stay: nobody asked for them
        QCOMPARE_NEAR(volumeOf(made), 24000.0, 1e-6);
    }
    void whatHasANameIsNotTold() {
        const TopoDS_Shape body = cut(block(40, 30, 0.5), rod(gp_Ax1(gp_Pnt(20, 15, -1), gp::DZ()), 3, 10));
        const Model model = modelOf(body);
        const auto holes = survey::findHoles(*model.parts[0], 1.0, {}, quietly());
        QVERIFY(holes && holes->size() == 1);
        const auto all = survey::findSmall(*model.parts[0], 1.0, survey::facesOf(*holes, {}, {}, {}), quietly());
        QVERIFY(all);
        for (const auto& small : *all)
            QVERIFY(small.kind == Kind::Edge || small.number != holes->front().faces.front());
        QCOMPARE(std::count_if(all->begin(), all->end(), [](const auto& small) { return small.kind == Kind::Face; }),
                 4);  // the thin walls
    }
};
static Registered<SmallTest> smallTest;

}  // namespace rasoir::test

#include "small_test.moc"
