// Trial meshes on bodies of known answer: conforming, closed, of the right Euler number and area, in good shape.
#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Circ.hxx>
#include <QFile>
#include <QTemporaryDir>

#include "geometry/integrals.h"
#include "measure/facts.h"
#include "mesh/mesh_files.h"
#include "mesh/outline.h"
#include "mesh/quality.h"
#include "mesh/trial_mesh.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace mesh;

class MeshTest : public QObject {
    Q_OBJECT

    struct Counted {
        int euler = 0, open = 0, many = 0, against = 0;
        double area = 0.0, volume = 0.0, leastAngle = 180.0;
        std::size_t below20 = 0;
    };
    /// Everything that a mesh can be asked by itself.
    template <class Mesh>
    static Counted count(const Mesh& mesh) {
        Counted all;
        std::map<std::pair<int, int>, std::array<int, 2>> edges;  // uses along, and against
        std::set<int> points;
        for (const auto& t : mesh.triangles) {
            const gp_Pnt &a = mesh.points[t[0]], &b = mesh.points[t[1]], &c = mesh.points[t[2]];
            all.area += 0.5 * gp_Vec(a, b).Crossed(gp_Vec(a, c)).Magnitude();
            all.volume += a.XYZ().Dot(b.XYZ().Crossed(c.XYZ())) / 6.0;
            const double least = measured(Measure::LeastAngle, a, b, c);
            all.leastAngle = std::min(all.leastAngle, least);
            all.below20 += least < 20.0;
            for (int i = 0; i < 3; ++i) {
                const int p = t[i], q = t[(i + 1) % 3];
                ++edges[std::minmax(p, q)][p < q ? 0 : 1];
                points.insert(p);
            }
        }
        for (const auto& [edge, uses] : edges) {
            all.open += uses[0] + uses[1] == 1;
            all.many += uses[0] + uses[1] > 2;
            all.against += uses[0] > 1 || uses[1] > 1;
        }
        all.euler =
            static_cast<int>(points.size()) - static_cast<int>(edges.size()) + static_cast<int>(mesh.triangles.size());
        return all;
    }
    static SizeRules sized(double target) {
        SizeRules rules;
        rules.target = target;
        return rules;
    }

private slots:
    void outlinesAreFilled() {
        // A square with two holes, one in a row with the other; points along its sides.
        std::vector<std::vector<gp_Pnt2d>> loops(3);
        for (int i = 0; i < 10; ++i) loops[0].emplace_back(i, 0);
        for (int i = 0; i < 10; ++i) loops[0].emplace_back(10, i);
        for (int i = 10; i > 0; --i) loops[0].emplace_back(i, 10);
        for (int i = 10; i > 0; --i) loops[0].emplace_back(0, i);
        for (const double x : {2.0, 6.0}) {
            auto& hole = loops[x < 3 ? 1 : 2];
            hole = {{x, 4}, {x + 2, 4}, {x + 2, 6}, {x, 6}};
        }
        const auto filled = fillOutline(loops);
        QVERIFY(filled.has_value());
        std::vector<gp_Pnt2d> points;
        for (const auto& loop : loops) points.insert(points.end(), loop.begin(), loop.end());
        double area = 0.0;
        for (const auto& t : *filled) {
            const double twice = (points[t[1]].XY() - points[t[0]].XY()).Crossed(points[t[2]].XY() - points[t[0]].XY());
            QVERIFY(twice > 0.0);
            area += 0.5 * twice;
        }
        QCOMPARE_NEAR(area, 100.0 - 8.0, 1e-12);
        QCOMPARE(filled->size(), points.size() + 2 * 2 - 2);                    // n + 2h - 2
        QVERIFY(!fillOutline({{{0, 0}, {2, 2}, {2, 0}, {0, 2}}}).has_value());  // crosses itself
        QVERIFY(!fillOutline({{{0, 0}, {1, 0}}}).has_value());
    }
    void tableOfBodies_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<double>("size");
        QTest::addColumn<int>("euler");
        const gp_Ax1 up(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        QTest::newRow("cube") << block(10, 10, 10) << 2.0 << 2;
        QTest::newRow("plate with holes") << drilledPlate(100, 60, 5, 8, 6) << 4.0 << -999;
        QTest::newRow("rod") << rod(up, 5, 40) << 2.0 << 2;
        QTest::newRow("tube") << cut(rod(up, 10, 40), rod(gp_Ax1(gp_Pnt(0, 0, -1), gp_Dir(0, 0, 1)), 8, 42)) << 2.0
                              << 0;
        QTest::newRow("ball") << BRepPrimAPI_MakeSphere(10).Shape() << 2.0 << 2;
        QTest::newRow("half ball") << BRepPrimAPI_MakeSphere(gp_Ax2(), 10, 0.0, M_PI / 2).Shape() << 2.0 << 2;
        QTest::newRow("ring") << BRepPrimAPI_MakeTorus(20, 5).Shape() << 2.5 << 0;
        QTest::newRow("cone with its tip") << coneOf(up, 10, 0, 20) << 2.0 << 2;
        QTest::newRow("blunt cone") << coneOf(up, 10, 4, 20) << 2.0 << 2;
        QTest::newRow("wavy top") << splineTopped(40, 30, 10, 4) << 2.0 << 2;
        QTest::newRow("crossed rods") << fuse(rod(gp_Ax1(gp_Pnt(-20, 0, 0), gp_Dir(1, 0, 0)), 5, 40),
                                              rod(gp_Ax1(gp_Pnt(0, -20, 0), gp_Dir(0, 1, 0)), 4, 40))
                                      << 1.5 << 2;
        const TopoDS_Shape cube = block(20, 20, 20);
        BRepFilletAPI_MakeFillet all(cube);
        const Incidence edges(cube);
        for (int e = 1; e <= edges.edgeCount(); ++e) all.Add(3.0, edges.edge(e));
        QTest::newRow("cube all rounded") << all.Shape() << 2.0 << 2;
    }
    void tableOfBodies() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(double, size);
        QFETCH(int, euler);
        for (const double scale : {1.0, 1000.0}) {
            const TopoDS_Shape shape = scale == 1.0 ? body : scaledBy(body, scale);
            const auto made = makeTrialMesh(modelOf(shape), {}, sized(size * scale), quietly());
            QVERIFY2(made, said(made));
            const PartMesh& mesh = made->parts.at(0);
            QVERIFY2(mesh.left.empty(), mesh.left.empty() ? "" : mesh.left.begin()->second.what.c_str());
            const Counted all = count(mesh);
            QCOMPARE(all.open, 0);
            QCOMPARE(all.many, 0);
            QCOMPARE(all.against, 0);
            if (euler != -999) QCOMPARE(all.euler, euler);
            // The chords of twelve to a turn lose up to five per cent of a round skin, and nothing of a flat one.
            const double area = areaOf(shape), volume = volumeOf(shape);
            QVERIFY(all.area < area * (1.0 + 1e-3) && all.area > 0.95 * area);
            QVERIFY(all.volume > 0.9 * volume && all.volume < 1.05 * volume);
            QVERIFY2(all.below20 <= mesh.triangles.size() / 1000 + 0,
                     qPrintable(QString("%1 of %2 below 20 degrees, least %3")
                                    .arg(all.below20)
                                    .arg(mesh.triangles.size())
                                    .arg(all.leastAngle)));
            // Neither far too many nor far too few: a triangle of that size has an area of 0.433 squares of it.
            const double expected = area / (0.433 * size * scale * size * scale);
            QVERIFY2(mesh.triangles.size() > 0.6 * expected,
                     qPrintable(QString("%1 of %2").arg(mesh.triangles.size()).arg(expected)));
        }
    }
    void sizesAreKeptOnFlats() {
        const auto made = makeTrialMesh(modelOf(block(100, 100, 100)), {}, sized(4.0), quietly());
        QVERIFY2(made, said(made));
        const auto figures = qualityOf(modelOf(block(100, 100, 100)), *made, Measure::ShortestSide, 0.8);
        QCOMPARE(figures.bad, std::size_t(0));
        QVERIFY2(figures.worst > 0.5 * 4.0, qPrintable(QString::number(figures.worst)));
        QCOMPARE_NEAR(double(figures.elements), 60000.0 / (0.433 * 16.0), 0.2 * 60000.0 / (0.433 * 16.0));
    }
    void smallHolesAreToBlame() {
        const Model model = modelOf(cut(block(100, 60, 5), rod(gp_Ax1(gp_Pnt(40, 30, -1), gp_Dir(0, 0, 1)), 0.5, 7)));
        const auto made = makeTrialMesh(model, {}, sized(4.0), quietly());
        QVERIFY2(made, said(made));
        int wall = 0;
        for (int f = 1; f <= model.parts[0]->incidence().faceCount(); ++f)
            if (GeomAdaptor_Surface(BRep_Tool::Surface(model.parts[0]->incidence().face(f))).GetType() ==
                GeomAbs_Cylinder)
                wall = f;
        const auto figures = qualityOf(model, *made, Measure::ShortestSide, 0.8, {{0, {wall}, "hole Ø 1"}});
        QVERIFY(figures.bad > 10);
        QCOMPARE(figures.places.front().what, std::string("hole Ø 1"));
        QVERIFY(figures.places.front().elements > figures.bad / 2);
        // Without a name it is the cylinder.
        const auto unnamed = qualityOf(model, *made, Measure::ShortestSide, 0.8);
        QCOMPARE(unnamed.places.front().faces, std::vector<int>{wall});
        QCOMPARE(unnamed.places.front().what, std::string("cylinder"));
    }
    void joinedBodiesShareTheirPoints() {
        Model model = modelOf(block(20, 20, 20), "large");
        gp_Trsf move;
        move.SetTranslation(gp_Vec(5, 5, 20));
        model.parts.push_back(std::make_shared<Part>("small", moved(block(8, 8, 8), move)));
        Occurrence place;
        place.part = 1;
        place.name = "small";
        model.occurrences.push_back(place);
        model.giveIds();
        const auto joined = run(model, "join.pairs");
        QVERIFY2(joined, said(joined));
        const auto made = makeTrialMesh(joined->model, {}, sized(2.0), quietly());
        QVERIFY2(made, said(made));
        const AssembledMesh all = assembled(joined->model, *made);
        QCOMPARE(all.triangles.size(), made->triangles);
        const Counted counted = count(all);
        QCOMPARE(counted.open, 0);
        QVERIFY(counted.many > 0);                                // round the common face, three meet
        QCOMPARE_NEAR(counted.area, 6 * 400.0 + 5 * 64.0, 1e-6);  // the common one once
        std::set<std::tuple<long, long, long>> places;
        for (const gp_Pnt& p : all.points)
            QVERIFY(
                places.insert({std::lround(p.X() * 1e6), std::lround(p.Y() * 1e6), std::lround(p.Z() * 1e6)}).second);
    }
    void facesThatAreOneShareTheirElements() {
        // One side of a block in three faces, the middle one a strip of 0.2: rows of small elements, unless the three
        // are meshed as one.
        BRepBuilderAPI_MakePolygon outline;
        for (const auto& [x, y] :
             std::vector<std::pair<double, double>>{{0, 0}, {50, 0}, {50.2, 0}, {100, 0}, {100, 60}, {0, 60}})
            outline.Add(gp_Pnt(x, y, 0));
        outline.Close();
        Model model = modelOf(
            BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(outline.Wire()).Face(), gp_Vec(0, 0, 40)).Shape(), "plate");
        const auto shortOf = [&](const Model& from) {
            const auto made = makeTrialMesh(from, {}, sized(4.0), quietly());
            if (!made) return std::size_t(999999);
            const Counted all = count(made->parts.at(0));
            if (all.open + all.many + all.against != 0 || all.euler != 2) return std::size_t(888888);
            if (std::abs(all.area - areaOf(from.parts[0]->shape)) > 1e-6) return std::size_t(777777);
            return qualityOf(from, *made, Measure::ShortestSide, 0.8).bad;
        };
        const std::size_t before = shortOf(model);
        QVERIFY2(before < 777777, qPrintable(QString::number(before)));
        QVERIFY(before > 20);
        auto part = model.parts[0]->copy();
        for (int f = 1; f <= part->incidence().faceCount(); ++f)
            if (std::abs(skinOf(part->incidence().face(f)).centre.Y()) < 1e-9)
                part->known.asOne[{EntityKind::Face, f}] = "side";
        model.parts[0] = part;
        // What is left is round the two short ends of the strip, which are edges of top and bottom.
        const std::size_t after = shortOf(model);
        QVERIFY2(after > 0 && 5 * after < before, qPrintable(QString("%1 to %2").arg(before).arg(after)));
        // Unless the edges there are one as well.
        for (int e = 1; e <= part->incidence().edgeCount(); ++e)
            if (const gp_Pnt at = skinOf(part->incidence().edge(e)).centre;
                std::abs(at.Y()) < 1e-9 && std::abs(at.Z() - 20.0) > 1.0)
                part->known.asOne[{EntityKind::Edge, e}] = at.Z() > 20.0 ? "upper" : "lower";
        model.parts[0] = part;
        QVERIFY2(20 * shortOf(model) < after, qPrintable(QString::number(shortOf(model))));
    }
    void aBandWithoutASeamIsMeshed() {
        // A cylinder's side between two circles, as some programs write it: no seam.
        const Handle(Geom_CylindricalSurface) surface = new Geom_CylindricalSurface(gp_Ax3(), 10.0);
        BRep_Builder builder;
        TopoDS_Face face;
        builder.MakeFace(face, surface, 1e-7);
        for (const double z : {0.0, 30.0}) {
            TopoDS_Edge edge = BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(0, 0, z), gp::DZ()), 10.0));
            builder.UpdateEdge(edge, new Geom2d_Line(gp_Pnt2d(0, z), gp_Dir2d(1, 0)), face, 1e-7);
            TopoDS_Wire wire;
            builder.MakeWire(wire);
            builder.Add(wire, edge.Oriented(z == 0.0 ? TopAbs_FORWARD : TopAbs_REVERSED));
            wire.Closed(true);
            builder.Add(face, wire);
        }
        const auto made = makeTrialMesh(modelOf(face), {}, sized(3.0), quietly());
        QVERIFY2(made, said(made));
        const PartMesh& mesh = made->parts.at(0);
        QVERIFY2(mesh.left.empty(), mesh.left.empty() ? "" : mesh.left.begin()->second.what.c_str());
        const Counted all = count(mesh);
        QCOMPARE(all.euler, 0);  // a band
        QCOMPARE(all.many + all.against, 0);
        QVERIFY(all.area > 0.95 * 600.0 * M_PI && all.area < 600.0 * M_PI);
        QCOMPARE(all.below20, std::size_t(0));
    }
    void theForecastOfSheetsAgreesWithTheMesh_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::newRow("plate") << block(100, 60, 3);
        TopoDS_Shape drilled = block(100, 60, 3);
        for (const double x : {20.0, 50.0, 80.0})
            drilled = cut(drilled, rod(gp_Ax1(gp_Pnt(x, 30, -1), gp_Dir(0, 0, 1)), 8, 6));
        QTest::newRow("plate with holes") << drilled;
        QTest::newRow("tube") << cut(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 20, 100),
                                     rod(gp_Ax1(gp_Pnt(0, 0, -1), gp_Dir(0, 0, 1)), 18, 102));
        QTest::newRow("strip") << block(200, 12, 1);
    }
    void theForecastOfSheetsAgreesWithTheMesh() {
        QFETCH(TopoDS_Shape, body);
        const auto sheet = run(modelOf(body), "reduce.midsurface");
        QVERIFY2(sheet, said(sheet));
        for (const double size : {8.0, 4.0, 1.5}) {
            const auto made = makeTrialMesh(sheet->model, {}, sized(size), quietly());
            QVERIFY2(made, said(made));
            const double expected = measure::factsOf(*sheet->model.parts[0], size, false).elements,
                         counted = static_cast<double>(made->triangles);
            QVERIFY2(std::abs(expected - counted) <= 0.3 * counted,
                     qPrintable(QString("%1 forecast, %2 made at %3").arg(expected).arg(counted).arg(size)));
        }
    }
    void badSizesAreRefused() {
        const Model model = modelOf(block(100, 100, 100));
        for (const double size : {0.0, -1.0, std::nan("")}) {
            const auto made = makeTrialMesh(model, {}, sized(size), quietly());
            QVERIFY(!made);
            QCOMPARE(made.error().kind, ProblemKind::BadInput);
        }
        const auto huge = makeTrialMesh(model, {}, sized(0.01), quietly());
        QVERIFY(!huge);
        QVERIFY(huge.error().what.find("million") != std::string::npos);
    }
    void filesHoldWhatWasMade() {
        const Model model = modelOf(block(10, 10, 10));
        const auto made = makeTrialMesh(model, {}, sized(2.0), quietly());
        QVERIFY2(made, said(made));
        QTemporaryDir dir;
        const std::string stl = (dir.path() + "/cube.stl").toStdString(),
                          vtu = (dir.path() + "/cube.vtu").toStdString();
        QVERIFY(writeMesh(model, *made, stl) && writeMesh(model, *made, vtu));
        QCOMPARE(QFile(QString::fromStdString(stl)).size(), qint64(84 + 50 * made->triangles));
        QFile file(QString::fromStdString(vtu));
        QVERIFY(file.open(QIODevice::ReadOnly));
        const QByteArray text = file.readAll();
        QVERIFY(text.contains("NumberOfCells=\"" + QByteArray::number(qulonglong(made->triangles)) + "\""));
        QVERIFY(text.contains("Name=\"scaled Jacobian\""));
        const auto odd = writeMesh(model, *made, (dir.path() + "/cube.obj").toStdString());
        QVERIFY(!odd);
        QCOMPARE(odd.error().kind, ProblemKind::BadInput);
    }
    void measuresOfKnownTriangles() {
        const gp_Pnt a(0, 0, 0), b(1, 0, 0), c(0.5, std::sqrt(0.75), 0), d(0, 1, 0);
        for (const Measure measure : {Measure::LeastAngle, Measure::LargestAngle})
            QCOMPARE_NEAR(measured(measure, a, b, c), 60.0, 1e-9);
        QCOMPARE_NEAR(measured(Measure::Skewness, a, b, c), 0.0, 1e-9);
        QCOMPARE_NEAR(measured(Measure::AspectRatio, a, b, c), 1.0, 1e-9);
        QCOMPARE_NEAR(measured(Measure::ScaledJacobian, a, b, c), 1.0, 1e-9);
        QCOMPARE_NEAR(measured(Measure::LeastAngle, a, b, d), 45.0, 1e-9);
        QCOMPARE_NEAR(measured(Measure::LargestAngle, a, b, d), 90.0, 1e-9);
        QCOMPARE_NEAR(measured(Measure::Skewness, a, b, d), 0.25, 1e-9);
        QCOMPARE_NEAR(measured(Measure::ScaledJacobian, a, b, d), std::sqrt(2.0 / 3.0), 1e-9);
        QCOMPARE_NEAR(measured(Measure::AspectRatio, a, b, d),
                      std::sqrt(2.0) * (2 + std::sqrt(2.0)) / (2 * std::sqrt(3.0)), 1e-9);
        // A needle is skew by its least angle, a dagger by its largest: the worse of the two shares counts.
        const double half = std::tan(5.0 * M_PI / 180.0);
        const gp_Pnt tip(0, 0, 0), left(-half, 1, 0), right(half, 1, 0);
        QCOMPARE_NEAR(measured(Measure::Skewness, tip, left, right), 50.0 / 60.0, 1e-9);
        const gp_Pnt flat(0, std::tan(15.0 * M_PI / 180.0), 0);
        QCOMPARE_NEAR(measured(Measure::Skewness, gp_Pnt(-1, 0, 0), gp_Pnt(1, 0, 0), flat), 0.75, 1e-9);
    }
};

static Registered<MeshTest> meshTest;

}  // namespace rasoir::test

#include "mesh_test.moc"
