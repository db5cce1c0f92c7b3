// Beams: sections against closed forms, straight bars found, frames joined in nodes.
#include "reduce/beams.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepLib.hxx>
#include <BRepOffsetAPI_MakePipe.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <GeomAPI_Interpolate.hxx>
#include <gp_Ax2.hxx>
#include <gp_Circ.hxx>
#include <gp_Elips.hxx>
#include <gp_Pln.hxx>
#include <TColgp_HArray1OfPnt.hxx>
#include <TopoDS_Wire.hxx>

#include "geometry/integrals.h"
#include "reduce/frame_members.h"
#include "reduce/proof.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace reduce;

class BeamsTest : public QObject {
    Q_OBJECT

    using Outline = std::vector<std::pair<double, double>>;

    static TopoDS_Wire polygon(const std::vector<std::pair<double, double>>& outline) {
        BRepBuilderAPI_MakePolygon made;
        for (const auto& [x, y] : outline) made.Add(gp_Pnt(x, y, 0));
        made.Close();
        return made.Wire();
    }
    static TopoDS_Wire circle(double radius) {
        return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(), radius)).Edge()).Wire();
    }
    static TopoDS_Face with(const TopoDS_Wire& outer, const TopoDS_Wire& inner = {}) {
        BRepBuilderAPI_MakeFace face(gp_Pln(), outer);
        if (!inner.IsNull()) face.Add(TopoDS::Wire(inner.Reversed()));
        return face.Face();
    }
    static TopoDS_Wire rectangle(double x, double y) {
        return polygon({{-x / 2, -y / 2}, {x / 2, -y / 2}, {x / 2, y / 2}, {-x / 2, y / 2}});
    }
    static Model framed(const std::vector<std::pair<TopoDS_Shape, gp_Trsf>>& bars) {
        Model model;
        for (const auto& [bar, move] : bars) {
            const std::string name = "bar " + std::to_string(model.parts.size() + 1);
            model.occurrences.push_back({model.parts.size(), move, name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, bar));
        }
        model.giveIds();
        return model;
    }
    static gp_Trsf by(double x, double y, double z) {
        gp_Trsf move;
        move.SetTranslation(gp_Vec(x, y, z));
        return move;
    }
    static gp_Trsf turned(const gp_Dir& about, double angle) {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(), about), angle);
        return turn;
    }

    /// A face carried straight on, or turned about an axis in its plane, piece by piece. Returns the solid.
    struct Step {
        double length;        // [mm] straight on
        double radius, turn;  // of a bend before it: to the centre of the face, and by how much [rad]
        double tilt = 0.0;    // [rad] of the bend's plane about the way, against the one before
    };
    static TopoDS_Shape carried(const TopoDS_Face& section, const std::vector<Step>& steps, double& length) {
        TopoDS_Shape face = section, all;
        gp_Ax3 frame;  // at the face's centroid: main direction the way, x towards the bend's axis
        frame.Translate(gp_Vec(gp_Pnt(), skinOf(section).centre));
        const auto take = [&](const TopoDS_Shape& piece, const gp_Trsf& move) {
            all = all.IsNull() ? piece : fuse(all, piece);
            face = moved(face, move);
            frame.Transform(move);
        };
        length = 0.0;
        for (const Step& step : steps) {
            frame.Rotate(frame.Axis(), step.tilt);
            if (step.turn != 0.0) {
                const gp_Ax1 about(frame.Location().Translated(gp_Vec(frame.XDirection()) * step.radius),
                                   frame.YDirection().Reversed());
                gp_Trsf turn;
                turn.SetRotation(about.Reversed(), step.turn);
                take(BRepPrimAPI_MakeRevol(face, about.Reversed(), step.turn).Shape(), turn);
                length += step.radius * step.turn;
            }
            if (step.length > 0.0) {
                gp_Trsf on;
                on.SetTranslation(gp_Vec(frame.Direction()) * step.length);
                take(BRepPrimAPI_MakePrism(face, gp_Vec(frame.Direction()) * step.length).Shape(), on);
                length += step.length;
            }
        }
        return all;
    }

private slots:
    void bentBars_data() {
        QTest::addColumn<TopoDS_Face>("section");
        QTest::addColumn<QString>("shape");
        QTest::newRow("round") << with(circle(5)) << "round";
        QTest::newRow("tube") << with(circle(6), circle(4.5)) << "tube";
        QTest::newRow("flat") << with(rectangle(4, 12)) << "rectangle";
        QTest::newRow("box") << with(rectangle(12, 12), rectangle(9, 9)) << "box";
        QTest::newRow("angle") << with(polygon({{0, 0}, {12, 0}, {12, 2}, {2, 2}, {2, 12}, {0, 12}})) << "L";
    }
    void bentBars() {
        QFETCH(TopoDS_Face, section);
        QFETCH(QString, shape);
        const std::vector<std::vector<Step>> paths = {
            {{100, 0, 0}, {80, 30, M_PI / 2}},
            {{60, 0, 0}, {40, 30, M_PI / 2}, {50, 25, M_PI / 3, 1.1}, {0, 40, M_PI, -0.4}},
            {{0, 50, 1.5 * M_PI}}};
        for (const auto& path : paths) {
            double length = 0.0;
            const TopoDS_Shape bar = carried(section, path, length);
            QVERIFY(isValid(bar));
            for (const gp_Trsf& move : {gp_Trsf(), turned(gp_Dir(1, 2, 3), 0.7)}) {
                const Model model = modelOf(moved(bar, move), "bar");
                const auto found = findSlender(model, 0, 5.0, quietly());
                QVERIFY2(found, said(found));
                QVERIFY(found->has_value());
                QCOMPARE_NEAR((*found)->length(), length, 1e-6);
                QCOMPARE(QString::fromStdString((*found)->section.section.shape), shape);
                QCOMPARE_NEAR((*found)->dropped, 0.0, 1e-5);  // by Pappus
                const auto done = run(model, "reduce.beams", {{"leastRatio", 5.0}});
                QVERIFY2(done, said(done));
                const Part& beam = *done->model.parts[0];
                QVERIFY(isValid(beam.shape));
                QCOMPARE(static_cast<int>(beam.kind()), static_cast<int>(BodyKind::Wire));
                double sum = 0.0;
                for (int e = 1; e <= beam.incidence().edgeCount(); ++e) {
                    sum += lengthOf(beam.incidence().edge(e));
                    const Section& own = beam.known.sections.at({EntityKind::Edge, e});
                    // The height stays square to the line.
                    const BRepAdaptor_Curve curve(beam.incidence().edge(e));
                    gp_Pnt at;
                    gp_Vec along;
                    curve.D1(curve.FirstParameter(), at, along);
                    QVERIFY(std::abs(own.up.Dot(along.Normalized())) < 1e-6);
                }
                QCOMPARE_NEAR(sum, length, 1e-6);
                // It weighs as much as the solid.
                const auto proof = proofOf(done->model, {model.parts[0], {0}}, quietly());
                QVERIFY2(proof, said(proof));
                QCOMPARE_NEAR(proof->drawnVolume, proof->solidVolume, 1e-5 * proof->solidVolume);
                // The section is where the solid is, all along and nowhere else.
                QVERIFY2(proof->left.by < 0.01 && proof->beyond.by < 0.2,
                         qPrintable(QString("%1 %2").arg(proof->left.by).arg(proof->beyond.by)));
                QVERIFY(proof->covered > 0.95);
                QVERIFY(!proof->sheets);
                // Planes along a leg of the bar are left out.
                QVERIFY(!proof->stations.empty());
                // Across an arc the section is carried straight to the plane, which is a little off.
                for (const Station& station : proof->stations) {
                    QCOMPARE_NEAR(station.drawn.area, station.solid.area, 0.06 * station.solid.area);
                    QCOMPARE_NEAR(station.drawn.largest, station.solid.largest, 0.25 * station.solid.largest);
                }
                QVERIFY(proof->elementsAfter < proof->elementsBefore);
            }
        }
    }
    void sectionsAreDrawnAsTheyAreWhicheverWayTheyLie() {
        // A Z has no symmetry but a half turn, an angle with unlike legs none at all: mirrored they lie the other way.
        const TopoDS_Face angle = with(polygon({{0, 0}, {30, 0}, {30, 3}, {3, 3}, {3, 50}, {0, 50}}));
        gp_Trsf mirror;
        mirror.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)));
        const TopoDS_Shape bar = BRepPrimAPI_MakePrism(angle, gp_Vec(0, 0, 900)).Shape();
        for (const gp_Trsf& move : {gp_Trsf(), turned(gp_Dir(1, 2, 3), 2.1), mirror, turned(gp_Dir(1, 0, 0), M_PI)}) {
            const Model model = modelOf(moved(bar, move), "angle");
            const auto done = run(model, "reduce.beams");
            QVERIFY2(done, said(done));
            const Section& own = done->model.parts[0]->known.sections.begin()->second;
            QCOMPARE(own.outline.size(), std::size_t(1));
            QCOMPARE(own.outline.front().size(), std::size_t(6));
            const auto proof = proofOf(done->model, {model.parts[0], {0}}, quietly());
            QVERIFY2(proof, said(proof));
            QVERIFY2(proof->left.by < 1e-6 && proof->beyond.by < 1e-6,
                     qPrintable(QString("%1 %2").arg(proof->left.by).arg(proof->beyond.by)));
            QVERIFY(proof->covered > 0.99);  // all but the two ends
            for (const Station& station : proof->stations) {
                QCOMPARE_NEAR(station.drawn.area, station.solid.area, 1e-6 * station.solid.area);
                QCOMPARE_NEAR(station.drawn.largest, station.solid.largest, 1e-6 * station.solid.largest);
                QCOMPARE_NEAR(station.drawn.least, station.solid.least, 1e-6 * station.solid.least);
            }
            // The product of its own axes goes with them through a mirror, and scaled by four.
            const Section twice = CarryRule<Section>::moved(own, [] {
                gp_Trsf scale;
                scale.SetScale(gp_Pnt(0, 0, 0), 2.0);
                return scale;
            }());
            QCOMPARE_NEAR(twice.area, 4.0 * own.area, 1e-9 * own.area);
            QCOMPARE_NEAR(twice.secondUp, 16.0 * own.secondUp, 1e-9 * own.secondUp);
            const Section mirrored = CarryRule<Section>::moved(own, mirror);
            QCOMPARE_NEAR(mirrored.product, -own.product, 1e-12);
            QCOMPARE_NEAR(mirrored.outline[0][0][1], -own.outline[0][5][1], 1e-12);
        }
    }
    void aBentBarHasNodesOfOthersOnIt() {
        // A hoop of a round bar, and a straight one that ends on the middle of its arc.
        double length = 0.0;
        const TopoDS_Shape hoop = carried(with(circle(3)), {{100, 0, 0}, {100, 60, M_PI}}, length);
        // Its arc goes about (60, 0, 100); the top of it lies at (60, 0, 160).
        gp_Trsf up;
        up.SetTranslation(gp_Vec(60, 0, 162));
        const TopoDS_Shape post = BRepPrimAPI_MakePrism(with(circle(3)), gp_Vec(0, 0, 120)).Shape();
        const auto done = run(framed({{hoop, gp_Trsf()}, {post, up}}), "reduce.beams");
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.joints.size(), std::size_t(1));
        const Part& bent = *done->model.parts[0];
        QCOMPARE(bent.incidence().edgeCount(), 4);  // the arc is parted at the node
        double sum = 0.0;
        for (int e = 1; e <= 4; ++e) sum += lengthOf(bent.incidence().edge(e));
        QCOMPARE_NEAR(sum, length, 1e-6);
        QCOMPARE_NEAR(lengthOf(done->model.parts[1]->shape), 122.0, 1e-6);
    }
    void whatIsNoBentBarIsNone() {
        double length = 0.0;
        const TopoDS_Shape bar = carried(with(circle(5)), {{100, 0, 0}, {80, 30, M_PI / 2}}, length);
        // With a bore across; with a collar: not the same section all along.
        const gp_Ax1 across(gp_Pnt(0, -10, 50), gp_Dir(0, 1, 0));
        for (const TopoDS_Shape& other :
             {cut(bar, rod(across, 2, 20)), fuse(bar, rod(gp_Ax1(gp_Pnt(0, 0, 40), gp_Dir(0, 0, 1)), 7, 10))}) {
            const auto found = findSlender(modelOf(other, "bar"), 0, 5.0, quietly());
            QVERIFY2(found, said(found));
            QVERIFY(!found->has_value());
        }
    }
    void sectionsAgreeWithClosedForms() {
        const auto near = [](double a, double b, double share) { return std::abs(a - b) <= share * std::abs(b); };
        const BeamSection round = beamSection(with(circle(5)));
        QCOMPARE(round.section.shape, std::string("round"));
        QVERIFY(near(round.section.area, M_PI * 25, 1e-9));
        QVERIFY(near(round.section.secondUp, M_PI * 625 / 4, 1e-9));
        QVERIFY(near(round.section.torsion, M_PI * 625 / 2, 1e-9));
        const BeamSection tube = beamSection(with(circle(5), circle(4)));
        QCOMPARE(tube.section.shape, std::string("tube"));
        QCOMPARE_NEAR(tube.section.sizes[1], 1.0, 1e-9);
        QVERIFY(near(tube.section.torsion, M_PI * (625 - 256) / 2, 1e-9));
        const BeamSection flat = beamSection(with(rectangle(3, 12)));
        QCOMPARE(flat.section.shape, std::string("rectangle"));
        QVERIFY(near(flat.section.sizes[0], 12, 1e-9) && near(flat.section.sizes[1], 3, 1e-9));
        QVERIFY(near(flat.section.secondUp, 3.0 * 12 * 12 * 12 / 12, 1e-9));
        QVERIFY(near(flat.section.secondAcross, 12.0 * 27 / 12, 1e-9));
        QCOMPARE_NEAR(std::abs(flat.section.up.Dot(gp_Vec(0, 1, 0))), 1.0, 1e-9);
        // Roark's table: 0.1406 a^4 for a square, 0.281 a b^3 at four to one.
        QVERIFY(near(torsionOfRectangle(10, 10), 0.140577 * 10000, 1e-5));
        QVERIFY(near(flat.section.torsion, 0.280813 * 12 * 27, 1e-5));
        const BeamSection box = beamSection(with(rectangle(40, 60), rectangle(36, 56)));
        QCOMPARE(box.section.shape, std::string("box"));
        QVERIFY(near(box.section.sizes[2], 2.0, 1e-9));
        QVERIFY(near(box.section.torsion, 2.0 * 4 * 38 * 38 * 58 * 58 / (2.0 * (38 + 58)), 0.01));
    }
    void shapesAreNamedByTheirCorners_data() {
        QTest::addColumn<Outline>("outline");
        QTest::addColumn<QString>("name");
        QTest::newRow("L") << Outline{{0, 0}, {30, 0}, {30, 3}, {3, 3}, {3, 50}, {0, 50}} << "L";
        QTest::newRow("T") << Outline{{14, 0}, {16, 0}, {16, 28}, {30, 28}, {30, 30}, {0, 30}, {0, 28}, {14, 28}}
                           << "T";
        QTest::newRow("U") << Outline{{0, 0}, {30, 0}, {30, 2}, {2, 2}, {2, 48}, {30, 48}, {30, 50}, {0, 50}} << "U";
        QTest::newRow("Z") << Outline{{0, 0}, {22, 0}, {22, 48}, {42, 48}, {42, 50}, {20, 50}, {20, 2}, {0, 2}} << "Z";
        QTest::newRow("I") << Outline{{0, 0},   {30, 0}, {30, 3}, {16, 3},  {16, 57}, {30, 57},
                                      {30, 60}, {0, 60}, {0, 57}, {14, 57}, {14, 3},  {0, 3}}
                           << "I";
        QTest::newRow("hat") << Outline{{0, 0},  {12, 0}, {12, 28}, {28, 28}, {28, 0}, {40, 0},
                                        {40, 2}, {30, 2}, {30, 30}, {10, 30}, {10, 2}, {0, 2}}
                             << "outline";
    }
    void shapesAreNamedByTheirCorners() {
        QFETCH(Outline, outline);
        QFETCH(QString, name);
        QCOMPARE(QString::fromStdString(beamSection(with(polygon(outline))).section.shape), name);
        std::reverse(outline.begin(), outline.end());
        QCOMPARE(QString::fromStdString(beamSection(with(polygon(outline))).section.shape), name);
    }
    void openSectionsKnowTheirWallAndTorsion() {
        // Of walls of one thickness: torsion is a third of the middle line's length times the thickness cubed.
        const double t = 2.0;
        const std::vector<std::pair<Outline, double>> outlines{
            {{{0, 0}, {30, 0}, {30, t}, {t, t}, {t, 50}, {0, 50}}, 30 + 50 - t},
            {{{14, 0}, {16, 0}, {16, 28}, {30, 28}, {30, 30}, {0, 30}, {0, 28}, {14, 28}}, 30 + 30 - t},
            {{{0, 0}, {30, 0}, {30, t}, {t, t}, {t, 48}, {30, 48}, {30, 50}, {0, 50}}, 30 + 30 + 50 - 2 * t},
            {{{0, 0}, {22, 0}, {22, 48}, {42, 48}, {42, 50}, {20, 50}, {20, t}, {0, t}}, 22 + 22 + 50 - 2 * t},
            {{{0, 0},
              {30, 0},
              {30, t},
              {16, t},
              {16, 58},
              {30, 58},
              {30, 60},
              {0, 60},
              {0, 58},
              {14, 58},
              {14, t},
              {0, t}},
             30 + 30 + 60 - 2 * t}};
        for (const auto& [outline, length] : outlines) {
            const BeamSection made = beamSection(with(polygon(outline)));
            QCOMPARE_NEAR(made.section.area, length * t, 1e-9);
            QCOMPARE_NEAR(made.section.sizes.back(), t, 1e-9);
            QCOMPARE_NEAR(made.section.torsion, length * t * t * t / 3.0, 1e-9 * made.section.torsion);
            QVERIFY(!made.torsionEstimated);
        }
    }
    void straightBarsAreFoundWithHolesAndMitres() {
        const TopoDS_Shape bar = block(400, 20, 10);
        const auto found = findSlender(modelOf(bar), 0, 10.0, quietly());
        QVERIFY2(found && *found, said(found));
        QCOMPARE_NEAR((*found)->length(), 400.0, 1e-9);
        QCOMPARE_NEAR((*found)->ratio, 20.0, 1e-9);
        QCOMPARE_NEAR((*found)->dropped, 0.0, 1e-9);
        const TopoDS_Shape drilled = cut(bar, rod(gp_Ax1(gp_Pnt(200, 10, -1), gp_Dir(0, 0, 1)), 4, 20));
        const auto holed = findSlender(modelOf(drilled), 0, 10.0, quietly());
        QVERIFY2(holed && *holed, said(holed));
        QCOMPARE_NEAR((*holed)->section.section.area, 200.0, 1e-9);
        QCOMPARE_NEAR((*holed)->dropped, -M_PI * 16 * 10 / (80000 - M_PI * 160), 1e-6);
        // A mitred end counts with its middle: volume is area times length, and turned it is the same.
        gp_Trsf mitre = turned(gp_Dir(0, 0, 1), M_PI / 4);
        mitre.SetTranslationPart(gp_Vec(400, 0, -1));
        const TopoDS_Shape mitred = cut(bar, moved(block(100, 100, 20), mitre));
        const auto cutEnd = findSlender(modelOf(moved(mitred, turned(gp_Dir(1, 2, 3), 0.7))), 0, 10.0, quietly());
        QVERIFY2(cutEnd && *cutEnd, said(cutEnd));
        QCOMPARE_NEAR((*cutEnd)->length() * 200.0, volumeOf(mitred), 1e-3);
        // A plate, a cube and a short bar are none.
        for (const TopoDS_Shape& other : {block(400, 300, 10), block(20, 20, 20), block(90, 20, 10)}) {
            const auto none = findSlender(modelOf(other), 0, 10.0, quietly());
            QVERIFY2(none && !*none, said(none));
        }
    }
    /// A face swept along a wire by the kernel, keeping square to it.
    static TopoDS_Shape swept(const TopoDS_Wire& along, const TopoDS_Shape& face) {
        BRepOffsetAPI_MakePipe pipe(along, face, GeomFill_IsCorrectedFrenet);
        return pipe.Shape();
    }
    static TopoDS_Shape disc(const gp_Ax2& at, double radius) {
        return BRepBuilderAPI_MakeFace(
                   gp_Pln(gp_Ax3(at)),
                   BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(at, radius)).Edge()).Wire())
            .Face();
    }
    static TopoDS_Wire splineThrough(const std::vector<gp_Pnt>& points) {
        const Handle(TColgp_HArray1OfPnt) list = new TColgp_HArray1OfPnt(1, static_cast<int>(points.size()));
        for (std::size_t i = 0; i < points.size(); ++i) list->SetValue(static_cast<int>(i) + 1, points[i]);
        GeomAPI_Interpolate through(list, false, 1e-9);
        through.Perform();
        return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(through.Curve()).Edge()).Wire();
    }
    void springsAndCablesAreFound_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        QTest::addColumn<double>("length");
        QTest::addColumn<double>("area");
        QTest::addColumn<QString>("shape");
        const auto helix = [](double radius, double lead, double turns) {
            const Handle(Geom_Surface) around = new Geom_CylindricalSurface(gp_Ax3(), radius);
            const double slope = lead / (2.0 * M_PI), end = 2.0 * M_PI * turns;
            const Handle(Geom2d_Curve) line = new Geom2d_Line(gp_Pnt2d(0, 0), gp_Dir2d(1.0, slope));
            TopoDS_Edge edge = BRepBuilderAPI_MakeEdge(line, around, 0.0, end * std::hypot(1.0, slope)).Edge();
            BRepLib::BuildCurve3d(edge, 1e-7, GeomAbs_C2, 14, 2000);
            return TopoDS_Wire(BRepBuilderAPI_MakeWire(edge).Wire());
        };
        const auto lengthOfHelix = [](double radius, double lead, double turns) {
            return turns * std::hypot(2.0 * M_PI * radius, lead);
        };
        for (const auto& [name, radius, lead, wire, turns] : {std::tuple("spring", 20.0, 12.0, 2.0, 5.0),
                                                              {"wide spring", 50.0, 60.0, 3.0, 2.5},
                                                              {"wide spring of many turns", 50.0, 40.0, 3.0, 6.0},
                                                              {"fine spring", 6.0, 2.0, 0.4, 8.0},
                                                              {"nearly closed spring", 20.0, 4.2, 2.0, 4.0}}) {
            const gp_Ax2 start(gp_Pnt(radius, 0, 0), gp_Dir(0, radius, lead / (2.0 * M_PI)));
            QTest::newRow(name) << swept(helix(radius, lead, turns), disc(start, wire))
                                << lengthOfHelix(radius, lead, turns) << M_PI * wire * wire << QString("round");
        }
        const TopoDS_Wire line = splineThrough({{0, 0, 0}, {80, 10, 0}, {150, 60, 20}, {230, 60, 60}, {300, 0, 60}});
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(TopoDS::Edge(Incidence(line).edge(1)), first, last);
        gp_Pnt at;
        gp_Vec along;
        curve->D1(first, at, along);
        const gp_Ax2 start(at, gp_Dir(along));
        const double length = lengthOf(line);
        QTest::newRow("cable") << swept(line, disc(start, 4.0)) << length << M_PI * 16.0 << QString("round");
        QTest::newRow("tube") << cut(swept(line, disc(start, 6.0)), swept(line, disc(start, 5.0))) << length
                              << M_PI * 11.0 << QString("tube");
    }
    void springsAndCablesAreFound() {
        QFETCH(TopoDS_Shape, body);
        QFETCH(double, length);
        QFETCH(double, area);
        QFETCH(QString, shape);
        QVERIFY(isValid(body));
        for (const auto& [turn, scale] : {std::pair(0.0, 1.0), {0.7, 25.4}}) {
            if (scale > 1.0 && shape == "round" && length > 400.0) continue;  // the kernel's triangles take seconds
            const TopoDS_Shape placed = scaledBy(moved(body, turned(gp_Dir(1, 2, 3), turn)), scale);
            const auto found = findSlender(modelOf(placed), 0, 10.0, quietly());
            QVERIFY2(found && *found, said(found));
            QCOMPARE_NEAR((*found)->length() / scale, length, 2e-3 * length);
            QCOMPARE_NEAR((*found)->section.section.area / scale / scale, area, 1e-6 * area);
            QCOMPARE(QString::fromStdString((*found)->section.section.shape), shape);
            // Far fewer arcs than steps of the walk, end to end and smooth.
            const auto& pieces = (*found)->line.pieces();
            QVERIFY2(pieces.size() < length / (2.0 * std::sqrt(area / M_PI)),
                     qPrintable(QString::number(pieces.size())));
            for (std::size_t i = 0; i + 1 < pieces.size(); ++i) {
                QVERIFY(pieces[i].to.Distance(pieces[i + 1].from) < 1e-6 * scale);
                QVERIFY(pieces[i].along(pieces[i].length()).Angle(pieces[i + 1].along(0.0)) < 1e-4);
            }
        }
        const auto done = run(modelOf(body, "bar"), "reduce.beams");
        QVERIFY2(done, said(done));
        double made = 0.0;
        for (int e = 1; e <= done->model.parts[0]->incidence().edgeCount(); ++e)
            made += lengthOf(done->model.parts[0]->incidence().edge(e));
        QCOMPARE_NEAR(made, length, 2e-3 * length);
    }
    void whatSwellsOrTwistsAlongALineIsNoBar() {
        const TopoDS_Wire line = splineThrough({{0, 0, 0}, {80, 30, 0}, {150, 0, 0}, {230, 30, 0}});
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(TopoDS::Edge(Incidence(line).edge(1)), first, last);
        gp_Pnt at;
        gp_Vec along;
        curve->D1(first, at, along);
        const TopoDS_Shape cable = swept(line, disc(gp_Ax2(at, gp_Dir(along)), 4.0));
        // A bead on it, and a bite out of it: a hundredth and more of the volume.
        const TopoDS_Shape bead = BRepPrimAPI_MakeSphere(curve->Value(0.4 * last), 8.0).Shape();
        for (const TopoDS_Shape& other : {fuse(cable, bead), cut(cable, moved(block(20, 20, 20), by(140, 0, 0)))}) {
            QVERIFY(isValid(other));
            const auto none = findSlender(modelOf(other), 0, 10.0, quietly());
            QVERIFY2(none && !*none, said(none));
        }
    }
    void aFrameMeetsInItsNodes() {
        // Two posts of 1 m under a beam of 2 m that lies on them: the posts end half its depth below its middle line.
        const TopoDS_Shape tube = cut(block(2000, 40, 40), moved(block(2002, 36, 36), by(-1, 2, 2)));
        const TopoDS_Shape post = cut(block(30, 30, 1000), moved(block(26, 26, 1002), by(2, 2, -1)));
        Model model = framed({{tube, by(0, 0, 1000)}, {post, by(500, 5, 0)}});
        model.occurrences.push_back({1, by(1500, 5, 0), "post", {}, std::nullopt});
        model.occurrences.push_back({1, by(0, 5, 0), "post", {}, std::nullopt});
        model.giveIds();
        const auto done = run(model, "reduce.beams");
        QVERIFY2(done, said(done));
        for (const auto& part : done->model.parts)
            QCOMPARE(static_cast<int>(part->kind()), static_cast<int>(BodyKind::Wire));
        // The beam has three edges: two posts stand under it, the third at its end.
        const Part& beam = *done->model.parts[0];
        QCOMPARE(beam.incidence().edgeCount(), 3);
        QCOMPARE(done->model.joints.size(), std::size_t(3));
        for (const Joint& joint : done->model.joints)
            QCOMPARE(static_cast<int>(joint.kind), static_cast<int>(EntityKind::Vertex));
        QCOMPARE(beam.known.sections.size(), std::size_t(3));
        QCOMPARE(beam.known.sections.begin()->second.shape, std::string("box"));
        double length = 0.0;
        for (int e = 1; e <= beam.incidence().edgeCount(); ++e) length += lengthOf(beam.incidence().edge(e));
        QCOMPARE_NEAR(length, 2000.0, 1e-6);
        // The first two posts now reach the beam's middle line, 20 above their tops, without an offset.
        const Part& first = *done->model.parts[done->model.occurrences[1].part];
        QCOMPARE_NEAR(lengthOf(first.incidence().edge(1)), 1020.0, 1e-6);
        QCOMPARE_NEAR(first.known.sections.begin()->second.startOffset.Magnitude(), 0.0, 1e-6);
        QCOMPARE(done->model.occurrences[1].part, done->model.occurrences[2].part);
        // The third one's line runs 15 beside the beam's end: that is its section's offset there.
        const Part& last = *done->model.parts[done->model.occurrences[3].part];
        const Section& section = last.known.sections.begin()->second;
        QCOMPARE_NEAR(std::max(section.startOffset.Magnitude(), section.endOffset.Magnitude()), 15.0, 1e-6);
        // Without nodes every bar stays as it is.
        const auto alone = run(model, "reduce.beams", {{"nodesWithin", -1.0}});
        QVERIFY2(alone, said(alone));
        QVERIFY(alone->model.joints.empty());
        QCOMPARE(alone->model.parts.size(), std::size_t(2));
    }
    void aFrameMadeAsOneSolidIsPartedAtItsJoints() {
        // Twelve bars of 20 x 20 along the edges of a box; each line runs 10 within, from node to node.
        const TopoDS_Shape frame = cut(cut(cut(block(400, 300, 200), moved(block(402, 260, 160), by(-1, 20, 20))),
                                           moved(block(360, 302, 160), by(20, -1, 20))),
                                       moved(block(360, 260, 202), by(20, 20, -1)));
        for (const double angle : {0.0, 0.7}) {
            Model model = modelOf(moved(frame, turned(gp_Dir(1, 2, 3), angle)), "frame");
            model.occurrences.push_back({0, by(0, 0, 1000), "second frame", {}, std::nullopt});
            model.giveIds();
            const auto members = findBars(model, 0, 5.0, quietly());
            QVERIFY2(members, said(members));
            QCOMPARE(members->size(), std::size_t(12));
            const auto done = run(model, "reduce.beams");
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.occurrences.size(), std::size_t(24));
            QCOMPARE(done->model.parts.size(), std::size_t(12));  // the second frame is the same
            double length = 0.0;
            for (const auto& part : done->model.parts) {
                QCOMPARE(static_cast<int>(part->kind()), static_cast<int>(BodyKind::Wire));
                QCOMPARE(part->incidence().edgeCount(), 1);
                const double own = lengthOf(part->incidence().edge(1));
                QVERIFY2(std::abs(own - 380) < 1e-6 || std::abs(own - 280) < 1e-6 || std::abs(own - 180) < 1e-6,
                         qPrintable(QString::number(own)));
                length += own;
                QCOMPARE_NEAR(part->known.sections.begin()->second.area, 400.0, 1e-6);
            }
            QCOMPARE_NEAR(length, 4.0 * (380 + 280 + 180), 1e-6);
            // Eight nodes of three members in each frame.
            QCOMPARE(done->model.joints.size(), std::size_t(16));
            for (const Joint& joint : done->model.joints) QCOMPARE(joint.uses.size(), std::size_t(3));
        }
    }
    void aLongLadderHasItsRailsAndRungs() {
        // Rails with a rung between them are one section too, the same at each of the rungs.
        TopoDS_Shape ladder = fuse(block(1300, 20, 20), moved(block(1300, 20, 20), by(0, 300, 0)));
        for (int i = 1; i <= 12; ++i) ladder = fuse(ladder, moved(block(14, 300, 14), by(100.0 * i, 10, 3)));
        const auto members = findBars(modelOf(ladder, "ladder"), 0, 5.0, quietly());
        QVERIFY2(members, said(members));
        QCOMPARE(members->size(), std::size_t(14));
        for (const Slender& one : *members) {
            const bool rail = std::abs(one.section.section.area - 400.0) < 1e-6;
            QCOMPARE_NEAR(one.section.section.area, rail ? 400.0 : 196.0, 1e-6);
            QCOMPARE_NEAR(one.length(), rail ? 1300.0 : 300.0, 1e-6);
        }
    }
    void bracesAndChordsOfOneSolidMeet() {
        // A ladder of tubes: two chords of 1 m, four rungs, and a brace across one bay.
        const auto tube = [](const gp_Pnt& from, const gp_Pnt& to, double radius) {
            return rod(gp_Ax1(from, gp_Dir(gp_Vec(from, to))), radius, from.Distance(to));
        };
        TopoDS_Shape ladder = fuse(tube({0, 0, 0}, {1000, 0, 0}, 15), tube({0, 300, 0}, {1000, 300, 0}, 15));
        for (const double x : {100.0, 400.0, 700.0, 900.0}) ladder = fuse(ladder, tube({x, 0, 0}, {x, 300, 0}, 10));
        ladder = fuse(ladder, tube({100, 0, 0}, {400, 300, 0}, 8));
        const auto done = run(modelOf(ladder, "ladder"), "reduce.beams");
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts.size(), std::size_t(7));
        double length = 0.0;
        std::size_t edges = 0;
        for (const auto& part : done->model.parts) {
            for (int e = 1; e <= part->incidence().edgeCount(); ++e, ++edges)
                length += lengthOf(part->incidence().edge(e));
        }
        QCOMPARE_NEAR(length, 2 * 1000 + 4 * 300 + 300 * std::sqrt(2.0), 1e-3);
        QCOMPARE(edges, std::size_t(2 * 5 + 4 + 1));  // each chord has four nodes along it
        // A thick box, a plate and a comb of fins are no frames.
        const TopoDS_Shape box = cut(block(100, 100, 100), moved(block(80, 80, 80), by(10, 10, 10)));
        for (const TopoDS_Shape& other : {block(400, 300, 10), box})
            QVERIFY(findBars(modelOf(other), 0, 5.0, quietly())->empty());
    }
    void whatIsNoBarIsTold() {
        const Model model = framed({{block(400, 20, 10), by(0, 0, 0)}, {block(50, 50, 50), by(0, 100, 0)}});
        const auto done = run(model, "reduce.beams", {{"parts", {"bar 1", "bar 2"}}});
        QVERIFY2(done, said(done));
        QCOMPARE(static_cast<int>(done->model.parts[1]->kind()), static_cast<int>(BodyKind::Solid));
        QVERIFY(std::any_of(done->items.begin(), done->items.end(), [](const Item& item) { return !item.done; }));
        const auto nothing = run(model, "reduce.beams", {{"parts", {"bar 2"}}});
        QVERIFY(!nothing);
        QVERIFY(!run(model, "reduce.beams", {{"leastRatio", 0.0}}));
        const auto none = run(framed({{block(5, 5, 5), by(0, 0, 0)}}), "reduce.beams");
        QVERIFY(!none && none.error().kind == ProblemKind::NothingToDo);
    }
};

static Registered<BeamsTest> beamsTest;

}  // namespace rasoir::test

#include "beams_test.moc"
