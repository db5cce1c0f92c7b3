// Open edges side by side: what is paired, how wide, and what is never paired. And the probe that measures it, against
// brute force.
#include "survey/gaps.h"

#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <Geom_BezierCurve.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <GeomConvert.hxx>
#include <gp_Elips.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "support/bodies.h"
#include "support/run.h"
#include "survey/defects.h"

namespace rasoir::test {

class GapsTest : public QObject {
    Q_OBJECT

    /// A flat rectangle in z = `z`.
    static TopoDS_Face plate(double x0, double y0, double x1, double y1, double z = 0.0) {
        return BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, z), gp_Dir(0, 0, 1)), x0, x1, y0, y1).Face();
    }
    static TopoDS_Shape bag(const std::vector<TopoDS_Shape>& shapes) {
        TopoDS_Compound all;
        const BRep_Builder builder;
        builder.MakeCompound(all);
        for (const TopoDS_Shape& shape : shapes) builder.Add(all, shape);
        return all;
    }
    static survey::Rims rimsOf(const TopoDS_Shape& shape, double upTo, const std::set<int>& without = {}) {
        return *survey::pairRims(Incidence(shape), upTo, 1e-6, quietly(), without);
    }
    static int paired(const survey::Rims& rims) {
        return static_cast<int>(std::count_if(rims.pieces.begin(), rims.pieces.end(),
                                              [](const survey::RimPiece& p) { return p.partner >= 0; }));
    }
    static std::vector<TopoDS_Edge> edges() {
        std::vector<TopoDS_Edge> all{
            BRepBuilderAPI_MakeEdge(gp_Pnt(1, 2, 3), gp_Pnt(11, -2, 7)).Edge(),
            BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(0, 0, 1), gp_Dir(1, 1, 1)), 7.0)).Edge(),
            BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(0, 0, 1), gp_Dir(1, 1, 1)), 7.0), 0.3, 2.1).Edge(),
            BRepBuilderAPI_MakeEdge(gp_Elips(gp_Ax2(gp_Pnt(2, 0, 1), gp_Dir(0, 1, 1)), 9.0, 4.0)).Edge()};
        TColgp_Array1OfPnt poles(1, 5);
        poles(1) = gp_Pnt(0, 0, 0);
        poles(2) = gp_Pnt(4, 9, 1);
        poles(3) = gp_Pnt(8, -9, 2);
        poles(4) = gp_Pnt(12, 9, -3);
        poles(5) = gp_Pnt(16, 0, 0);
        all.push_back(BRepBuilderAPI_MakeEdge(Handle(Geom_Curve)(new Geom_BezierCurve(poles))).Edge());
        return all;
    }

private slots:
    void edgesOfOneFaceAreNotJoinedUnlessItClosesUponItself() {
        // A strip narrower than the limit: its two long sides must not be laid on each other.
        const TopoDS_Shape strip = BRepBuilderAPI_MakeFace(gp_Pln(gp::XOY()), 0.0, 50.0, 0.0, 0.02).Face();
        const Incidence flat(strip);
        const auto rims = survey::pairRims(flat, 0.05, 1e-6, quietly());
        QVERIFY(rims.has_value());
        for (const auto& piece : rims->pieces) QVERIFY(piece.partner < 0);
        // A sheet rolled up until its ends nearly touch, as a spline that is closed: they are its seam.
        const Handle(Geom_Surface) tube = GeomConvert::SurfaceToBSplineSurface(new Geom_RectangularTrimmedSurface(
            new Geom_CylindricalSurface(gp::XOY(), 5.0), 0.0, 2.0 * M_PI, 0.0, 10.0));
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
        tube->Bounds(u0, u1, v0, v1);
        const double slit = 1e-4 * (u1 - u0);
        const TopoDS_Shape rolled = BRepBuilderAPI_MakeFace(tube, u0 + slit, u1 - slit, v0, v1, 1e-7).Face();
        const Incidence round(rolled);
        const auto seam = survey::pairRims(round, 0.05, 1e-6, quietly());
        QVERIFY(seam.has_value());
        QVERIFY(std::any_of(seam->pieces.begin(), seam->pieces.end(),
                            [](const auto& piece) { return piece.partner >= 0; }));
    }
    void theNearestPointIsTheNearest() {
        Random random(3);
        for (const TopoDS_Edge& edge : edges()) {
            const EdgeProbe probe(edge);
            for (int i = 0; i < 60; ++i) {
                // Close by, where the answer is unique: that is what it is asked for.
                const double at = between(random, probe.first(), probe.last());
                const gp_Pnt point = probe.value(at).Translated(
                    gp_Vec(between(random, -1, 1), between(random, -1, 1), between(random, -1, 1)) * 0.3);
                double best = std::numeric_limits<double>::max();
                for (int k = 0; k <= 4000; ++k)
                    best = std::min(
                        best, point.Distance(probe.value(probe.first() + (probe.last() - probe.first()) * k / 4000.0)));
                const EdgeProbe::Near near = probe.nearest(point);
                QVERIFY2(near.distance <= best + 1e-9, qPrintable(QString("%1 > %2").arg(near.distance).arg(best)));
                QVERIFY(near.distance >= best - 0.01);
                QCOMPARE_NEAR(probe.value(near.parameter).Distance(point), near.distance, 1e-12);
                // Within a part of the edge the answer stays within.
                const double low = probe.first() + 0.2 * (probe.last() - probe.first()),
                             high = probe.first() + 0.4 * (probe.last() - probe.first());
                const EdgeProbe::Near part = probe.nearest(point, low, high);
                QVERIFY(part.parameter >= low && part.parameter <= high && part.distance >= near.distance - 1e-9);
            }
        }
    }
    void lengthsAddUp() {
        for (const TopoDS_Edge& edge : edges()) {
            const EdgeProbe probe(edge);
            const double middle = 0.3 * probe.first() + 0.7 * probe.last();
            QCOMPARE_NEAR(probe.length(probe.first(), middle) + probe.length(middle, probe.last()), probe.length(),
                          1e-9);
        }
        QCOMPARE_NEAR(EdgeProbe(edges()[1]).length(), 2.0 * M_PI * 7.0, 0.4);
    }
    void widthsAreThoseOfTheGap() {
        // A wedge of a gap: nothing at one end, 0.2 at the other.
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(0, 10, 0), gp_Dir(0, 0, 1)), std::atan(0.2 / 100.0));
        const survey::Rims rims = rimsOf(bag({plate(0, 0, 100, 10), moved(plate(0, 10, 100, 20), turn)}), 0.5);
        QCOMPARE(paired(rims), 2);
        for (const survey::RimPiece& piece : rims.pieces)
            if (piece.partner >= 0) {
                QCOMPARE_NEAR(piece.mean, 0.1, 0.002);
                QVERIFY(piece.most > 0.15 && piece.most <= 0.2);  // sampled between the ends
                QVERIFY(piece.least < 0.05);
            }
    }
    void theLimitDecides() {
        const TopoDS_Shape two = bag({plate(0, 0, 30, 10), plate(0, 10.3, 30, 20)});
        QCOMPARE(paired(rimsOf(two, 0.29)), 0);
        QCOMPARE(paired(rimsOf(two, 0.31)), 2);
        // The same in other places and sizes.
        for (const double factor : {1e-3, 1e3}) {
            const TopoDS_Shape scaled = scaledBy(two, factor);
            const Incidence incidence(scaled);
            QCOMPARE(paired(*survey::pairRims(incidence, 0.31 * factor, 1e-6 * factor, quietly())), 2);
            QCOMPARE(paired(*survey::pairRims(incidence, 0.29 * factor, 1e-6 * factor, quietly())), 0);
        }
    }
    void longEdgesAreCutWhereShortOnesEnd() {
        const TopoDS_Shape row =
            bag({plate(0, 0, 90, 10), plate(0, 10, 20, 20), plate(20, 10, 65, 20), plate(65, 10, 90, 20)});
        const survey::Rims rims = rimsOf(row, 1e-3);
        QCOMPARE(paired(rims), 2 * (3 + 2));
        int longest = 0;
        for (const survey::RimPiece& piece : rims.pieces) longest += piece.face == 1 && piece.partner >= 0;
        QCOMPARE(longest, 3);
        // What was cut for nothing is whole again: the other three sides of the long plate.
        QCOMPARE(std::count_if(rims.pieces.begin(), rims.pieces.end(), [](const auto& p) { return p.face == 1; }),
                 std::ptrdiff_t(6));
    }
    void edgesThatOnlyTouchAreNotPaired() {
        // A plate that stands with its corner on the edge of another.
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(50, 10, 0), gp_Dir(0, 0, 1)), M_PI / 4.0);
        const survey::Rims rims = rimsOf(bag({plate(0, 0, 100, 10), moved(plate(50, 10, 60, 20), turn)}), 1e-3);
        QCOMPARE(paired(rims), 0);
        QCOMPARE(rims.pieces.size(), std::size_t(9));  // the edge knows the corner that lies on it, and that is all
    }
    void thinThingsKeepTheirTwoSides() {
        // A strip thinner than the limit: its own two long edges are no gap.
        const survey::Rims rims = rimsOf(bag({plate(0, 0, 100, 0.1)}), 1.0);
        QCOMPARE(paired(rims), 0);
    }
    void facesLeftOutAreNotThere() {
        const TopoDS_Shape three =
            bag({plate(0, 0, 30, 10), plate(0, 10, 30, 20), BRepBuilderAPI_Copy(plate(0, 10, 30, 20)).Shape()});
        const survey::Rims rims = rimsOf(three, 1e-3, {3});
        QCOMPARE(paired(rims), 2);
        for (const survey::RimPiece& piece : rims.pieces) QVERIFY(piece.face != 3);
    }
    void closedEdgesMeetWhereverTheyBegin() {
        const gp_Ax2 place(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1));
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 1.0);
        const TopoDS_Wire ring = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(place, 5.0)).Edge()).Wire();
        const TopoDS_Shape disc = BRepBuilderAPI_MakeFace(ring).Shape();
        const TopoDS_Shape other = moved(BRepBuilderAPI_Copy(disc).Shape(), turn);
        const survey::Rims rims = rimsOf(bag({disc, other}), 1e-3);
        QCOMPARE(paired(rims), 4);  // each cut where the other begins
    }
    void cancellingStops() {
        Progress stopped;
        stopped.cancel();
        const TopoDS_Shape two = bag({plate(0, 0, 30, 10), plate(0, 10, 30, 20)});
        const auto rims = survey::pairRims(Incidence(two), 1e-3, 1e-6, stopped);
        QVERIFY(!rims && rims.error().kind == ProblemKind::Cancelled);
    }
    void theSafeLimitIsExplained() {
        const auto [byEdge, why] = survey::safeGapLimit(rimsOf(bag({plate(0, 0, 30, 0.4)}), 1e-3), 10.0);
        QCOMPARE_NEAR(byEdge, 0.2, 1e-9);
        QVERIFY(why.find("shortest open edge") != std::string::npos);
        const auto [byTarget, other] = survey::safeGapLimit(rimsOf(bag({plate(0, 0, 30, 40)}), 1e-3), 10.0);
        QCOMPARE_NEAR(byTarget, 1.0, 1e-12);
        QVERIFY(other.find("target size") != std::string::npos);
    }
    void slendernessAndTinyEdgesAreJudgedByTheTargetSize() {
        const Model strip = modelOf(plate(0, 0, 100, 0.05));
        const auto coarse = survey::findDefects(*strip.parts[0], {4.0, 1e-6, 0.0}, true, quietly());
        const auto fine = survey::findDefects(*strip.parts[0], {1.0, 1e-6, 0.0}, true, quietly());
        QVERIFY(coarse && fine);
        const auto count = [](const survey::DefectReport& report, survey::DefectKind kind) {
            return std::count_if(report.defects.begin(), report.defects.end(),
                                 [kind](const auto& d) { return d.kind == kind; });
        };
        QCOMPARE(count(*coarse, survey::DefectKind::Sliver), std::ptrdiff_t(1));
        QCOMPARE(count(*coarse, survey::DefectKind::TinyEdge), std::ptrdiff_t(2));
        QCOMPARE(count(*fine, survey::DefectKind::Sliver), std::ptrdiff_t(0));
        for (const survey::Defect& defect : coarse->defects)
            if (defect.kind == survey::DefectKind::Sliver) QCOMPARE_NEAR(defect.size, 0.05, 1e-4);
    }
    void edgesOfManyFacesAndTurnedFacesAreFound() {
        // A rib on a skin, all three sharing one edge.
        const TopoDS_Shape box = block(10, 10, 10);
        TopoDS_Compound skin;
        const BRep_Builder builder;
        builder.MakeCompound(skin);
        TopTools_IndexedMapOfShape faces;
        TopExp::MapShapes(box, TopAbs_FACE, faces);
        builder.Add(skin, faces(1));
        builder.Add(skin, faces(3).Reversed());
        const Model model = modelOf(skin);
        const auto report = survey::findDefects(*model.parts[0], {1.0, 1e-6, 0.0}, true, quietly());
        QVERIFY(report);
        QCOMPARE(std::count_if(report->defects.begin(), report->defects.end(),
                               [](const auto& d) { return d.kind == survey::DefectKind::WrongWay; }),
                 std::ptrdiff_t(1));
        const Model inside = modelOf(box.Reversed());
        const auto turned = survey::findDefects(*inside.parts[0], {1.0, 1e-6, 0.0}, true, quietly());
        QVERIFY(turned);
        QCOMPARE(std::count_if(turned->defects.begin(), turned->defects.end(),
                               [](const auto& d) { return d.kind == survey::DefectKind::InsideOut; }),
                 std::ptrdiff_t(1));
    }
};

static Registered<GapsTest> gapsTest;

}  // namespace rasoir::test

#include "gaps_test.moc"
