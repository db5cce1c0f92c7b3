// The general mechanism: any faces out, the neighbours grow together. Holes are one case; these are the others.
#include "heal/wound.h"

#include <Bnd_Box.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <TopExp.hxx>

#include "model/reference.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/holes.h"

namespace rasoir::test {

class WoundTest : public QObject {
    Q_OBJECT

    /// Faces whose middle point satisfies `wanted`.
    static std::vector<int> facesWhere(const Incidence& topology, const std::function<bool(const gp_Pnt&)>& wanted) {
        std::vector<int> faces;
        for (int f = 1; f <= topology.faceCount(); ++f) {
            gp_XYZ sum(0, 0, 0);
            int count = 0;
            for (TopExp_Explorer v(topology.face(f), TopAbs_VERTEX); v.More(); v.Next(), ++count)
                sum += BRep_Tool::Pnt(TopoDS::Vertex(v.Current())).XYZ();
            if (count > 0 && wanted(gp_Pnt(sum / count))) faces.push_back(f);
        }
        return faces;
    }
    static Result<TopoDS_Shape> without(const TopoDS_Shape& shape, const std::vector<int>& faces) {
        const Incidence topology(shape);
        HalfEdgeBody body(topology);
        if (auto healed = heal::removeAndHeal(body, faces, 1e-6); !healed) return tl::unexpected(healed.error());
        auto built = body.build(1e-6);
        if (!built) return tl::unexpected(built.error());
        return substituted(shape, *built);
    }
    static QString same(const Result<TopoDS_Shape>& got, const TopoDS_Shape& wanted) {
        if (!got) return QString::fromStdString(sentence(got.error()));
        if (!isValid(*got)) return "not valid";
        if (openEdgesIn(*got) != 0) return "not closed";
        if (std::abs(volumeOf(*got) - volumeOf(wanted)) > 1e-6 * volumeOf(wanted))
            return QString("volume %1, wanted %2").arg(volumeOf(*got)).arg(volumeOf(wanted));
        if (facesIn(*got) != facesIn(wanted))
            return QString("%1 faces, wanted %2").arg(facesIn(*got)).arg(facesIn(wanted));
        return {};
    }
    static TopoDS_Shape at(const TopoDS_Shape& shape, double x, double y, double z) {
        gp_Trsf move;
        move.SetTranslation(gp_Vec(x, y, z));
        return moved(shape, move);
    }

private slots:
    void aBossInAFaceLeavesTheFaceWhole() {
        const TopoDS_Shape plate = block(40, 40, 10), bossed = fuse(plate, at(block(8, 8, 6), 16, 16, 10));
        const QString why =
            same(without(bossed, facesWhere(Incidence(bossed), [](const gp_Pnt& p) { return p.Z() > 11; })), plate);
        QVERIFY2(why.isEmpty(), qPrintable(why));
    }
    void aBossAcrossAnEdgeJoinsTheEdge() {
        const TopoDS_Shape plate = block(40, 40, 10), bossed = fuse(plate, at(block(8, 12, 14), 16, -6, -2));
        const auto faces = facesWhere(Incidence(bossed), [](const gp_Pnt& p) {
            return p.Y() < -0.5 || p.Z() > 10.5 || p.Z() < -0.5 ||
                   (std::abs(p.X() - 16) < 0.1 || std::abs(p.X() - 24) < 0.1);
        });
        const QString why = same(without(bossed, faces), plate);
        QVERIFY2(why.isEmpty(), qPrintable(why));
    }
    void twoHolesOnOneEdgeThatMeetInside() {
        // Out together: the piece of edge between them has both its ends in the wound.
        const TopoDS_Shape bare = block(60, 30, 30);
        TopoDS_Shape drilled = bare;
        for (const double x : {20.0, 40.0})
            drilled = cut(drilled, rod(gp_Ax1(gp_Pnt(x, 0, 30), gp_Dir(gp_Vec(gp_Pnt(x, 0, 30), gp_Pnt(30, 15, 15))))
                                           .Translated(gp_Vec(x, 0, 30) - gp_Vec(30, 15, 15)),
                                       3, 60));
        const Incidence topology(drilled);
        // Walls and floors: all that is not on the block's own six planes.
        std::vector<int> walls;
        for (int f = 1; f <= topology.faceCount(); ++f) {
            Bnd_Box box;
            BRepBndLib::AddOptimal(topology.face(f), box, false, false);
            const gp_Vec size(box.CornerMin(), box.CornerMax());
            if (std::min({size.X(), size.Y(), size.Z()}) > 0.01) walls.push_back(f);
        }
        QVERIFY(walls.size() >= 2);
        const QString why = same(without(drilled, walls), bare);
        QVERIFY2(why.isEmpty(), qPrintable(why));
    }
    void aNotchAtACornerGrowsTheCornerBack() {
        const TopoDS_Shape plate = block(40, 30, 20), notched = cut(plate, at(block(20, 20, 20), -10, -10, 12));
        const auto faces = facesWhere(
            Incidence(notched), [](const gp_Pnt& p) { return p.X() < 12 && p.Y() < 12 && p.X() > 0.1 && p.Y() > 0.1; });
        QCOMPARE(faces.size(), std::size_t(3));
        const QString why = same(without(notched, faces), plate);
        QVERIFY2(why.isEmpty(), qPrintable(why));
    }
    void aChamferedEdgeBecomesSharp() {
        // One slanting face between two others: a wound with four neighbours and one new edge.
        const TopoDS_Shape plate = block(40, 30, 20);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 20), gp_Dir(1, 0, 0)), M_PI / 4);
        const TopoDS_Shape chamfered = cut(plate, moved(at(block(60, 60, 60), -10, -30, 20 - 2), turn));
        const auto faces = facesWhere(Incidence(chamfered), [](const gp_Pnt& p) {
            return p.Y() > 0.1 && p.Y() < 5 && p.Z() > 15 && p.Z() < 19.9;
        });
        QCOMPARE(faces.size(), std::size_t(1));
        const QString why = same(without(chamfered, faces), plate);
        QVERIFY2(why.isEmpty(), qPrintable(why));
    }
    void aRefusalLeavesTheBodyAsItWas() {
        const TopoDS_Shape plate = block(40, 30, 20);
        const Incidence topology(plate);
        HalfEdgeBody body(topology);
        const auto healed = heal::removeAndHeal(body, {1}, 1e-6);  // the four sides never meet
        QVERIFY(!healed);
        QVERIFY(!healed.error().what.empty());
        const auto built = body.build(1e-6);
        QVERIFY(built);
        QVERIFY(built->IsEmpty());  // nothing changed
        // And it can go on with something else afterwards.
        const TopoDS_Shape drilled = cut(plate, rod(gp_Ax1(gp_Pnt(20, 15, -1), gp_Dir(0, 0, 1)), 4, 40));
        const Incidence drilledTopology(drilled);
        HalfEdgeBody other(drilledTopology);
        QVERIFY(!heal::removeAndHeal(other, facesWhere(drilledTopology, [](const gp_Pnt& p) { return p.Z() < 0.1; }),
                                     1e-6));
        std::vector<int> wall;
        for (int f = 1; f <= drilledTopology.faceCount(); ++f)
            if (drilledTopology.neighboursOf(f).size() == 2) wall.push_back(f);
        QCOMPARE(wall.size(), std::size_t(1));
        QVERIFY(heal::removeAndHeal(other, wall, 1e-6));
        const TopoDS_Shape whole = substituted(drilled, *other.build(1e-6));
        QCOMPARE_NEAR(volumeOf(whole), 40.0 * 30 * 20, 1e-6);
        QCOMPARE(facesIn(whole), 6);
    }
    void aHoleAcrossAGrooveLeavesTheRecessesInItsWalls() {
        // The groove under the hole is narrower than both its diameters: its ceiling, in two pieces, grows together
        // over the smaller one's remains.
        const TopoDS_Shape grooved = cut(block(60, 40, 10), at(block(60, 2.6, 0.5), 0, 18.7, 0));
        const gp_Ax1 axis(gp_Pnt(30, 20, -1), gp_Dir(0, 0, 1)), above(gp_Pnt(30, 20, 0.3), gp_Dir(0, 0, 1));
        const TopoDS_Shape drilled = cut(cut(grooved, rod(axis, 2.5, 20)), rod(above, 3, 20)),
                           recessed = cut(grooved, rod(axis, 2.5, 1.5));
        const Model model = modelOf(drilled);
        const Incidence& topology = model.parts[0]->incidence();
        Json faces = Json::array();
        for (int f = 1; f <= topology.faceCount(); ++f) {
            const BRepAdaptor_Surface surface(topology.face(f));
            const bool wall = surface.GetType() == GeomAbs_Cylinder && std::abs(surface.Cylinder().Radius() - 3) < 1e-9;
            const bool shoulder =
                surface.GetType() == GeomAbs_Plane && std::abs(surface.Plane().Location().Z() - 0.3) < 1e-9;
            if (wall || shoulder) faces.push_back(makeFaceRef(*model.parts[0], f));
        }
        QCOMPARE(faces.size(), std::size_t(3));
        const auto done = run(model, "shave.removeFaces", {{"faces", faces}});
        QVERIFY2(done, said(done));
        const TopoDS_Shape& shape = done->model.parts[0]->shape;
        QVERIFY(isValid(shape));
        QCOMPARE(openEdgesIn(shape), 0);
        QCOMPARE_NEAR(volumeOf(shape), volumeOf(recessed), 1e-6 * volumeOf(recessed));
        QCOMPARE(facesIn(shape), 14);  // block 6, its bottom in two; groove walls 4 and a ceiling; recesses 2
    }
    void aHoleThatTookAContactLineGivesItBack_data() {
        QTest::addColumn<bool>("splines");
        QTest::newRow("cylinders") << false;
        QTest::newRow("splines") << true;
    }
    void aHoleThatTookAContactLineGivesItBack() {
        // A round in three pieces; of the middle one the hole's mouth has taken all that touched the top.
        QFETCH(bool, splines);
        const double radius = 3.0, off = 2.5, half = std::sqrt(radius * radius - off * off);
        BRepBuilderAPI_MakePolygon outline;
        for (const auto& [x, y] :
             {std::pair{0.0, 0.0}, {20 - half, 0.0}, {20 + half, 0.0}, {40.0, 0.0}, {40.0, 30.0}, {0.0, 30.0}})
            outline.Add(gp_Pnt(x, y, 0));
        outline.Close();
        const TopoDS_Shape plain =
            BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(outline.Wire()).Face(), gp_Vec(0, 0, 12)).Shape();
        BRepFilletAPI_MakeFillet rounding(plain);
        TopTools_IndexedMapOfShape edges;
        TopExp::MapShapes(plain, TopAbs_EDGE, edges);
        for (int e = 1; e <= edges.Extent(); ++e) {
            const BRepAdaptor_Curve curve(TopoDS::Edge(edges(e)));
            const gp_Pnt middle = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
            if (std::abs(middle.Z() - 12) < 1e-9 && middle.Y() < 1e-9) rounding.Add(2.0, TopoDS::Edge(edges(e)));
        }
        TopoDS_Shape rounded = rounding.Shape();
        TopoDS_Shape drilled = cut(rounded, rod(gp_Ax1(gp_Pnt(20, 2 + off, -1), gp_Dir(0, 0, 1)), radius, 20));
        if (splines) drilled = asSplines(drilled);
        const Model model = modelOf(drilled);
        const auto holes = survey::findHoles(*model.parts[0], 4.0, {}, quietly());
        QVERIFY2(holes, said(holes));
        QCOMPARE(holes->size(), std::size_t(1));
        const auto done = run(model, "shave.removeHoles", {{"upTo", 10.0}});
        QVERIFY2(done, said(done));
        const TopoDS_Shape& shape = done->model.parts[0]->shape;
        QVERIFY(isValid(shape));
        QCOMPARE(openEdgesIn(shape), 0);
        QCOMPARE_NEAR(volumeOf(shape), volumeOf(rounded), 1e-6 * volumeOf(rounded));
    }
    void theOrderOfTheFacesDoesNotMatter() {
        const TopoDS_Shape notched = cut(block(40, 30, 20), at(block(20, 20, 20), -10, -10, 12));
        auto faces = facesWhere(Incidence(notched),
                                [](const gp_Pnt& p) { return p.X() < 12 && p.Y() < 12 && p.X() > 0.1 && p.Y() > 0.1; });
        std::sort(faces.begin(), faces.end());
        do {
            const auto got = without(notched, faces);
            QVERIFY2(got, said(got));
            QCOMPARE_NEAR(volumeOf(*got), 24000.0, 1e-6);
        } while (std::next_permutation(faces.begin(), faces.end()));
    }
    void anOpenBodyIsRefused() {
        const TopoDS_Shape drilled = cut(block(40, 30, 20), rod(gp_Ax1(gp_Pnt(20, 15, -1), gp_Dir(0, 0, 1)), 4, 40));
        const BRep_Builder builder;
        TopoDS_Shell shell;
        builder.MakeShell(shell);
        int n = 0;
        for (TopExp_Explorer it(drilled, TopAbs_FACE); it.More(); it.Next())
            if (++n != 1) builder.Add(shell, it.Current());
        const Incidence topology(shell);
        int refused = 0;
        for (int f = 1; f <= topology.faceCount(); ++f) {
            HalfEdgeBody body(topology);
            refused += !heal::removeAndHeal(body, {f}, 1e-6);
        }
        QVERIFY(refused >= topology.faceCount() - 1);
    }
};

static Registered<WoundTest> woundTest;

}  // namespace rasoir::test

#include "wound_test.moc"
