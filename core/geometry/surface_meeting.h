// Where surfaces, carried on past their faces, meet: points of three, curves of two.
#pragma once
#include <Geom_Curve.hxx>
#include <Geom_Surface.hxx>
#include <gp_Pnt.hxx>
#include <gp_Pnt2d.hxx>
#include <gp_Vec.hxx>
#include <optional>
#include <vector>

namespace rasoir {

/// The common point of three surfaces nearest to `start`, to within `tolerance` [mm].
/// Method: Newton on their tangent planes; quadratic near a clean crossing. None where two of them are nearly tangent,
/// where the steps do not settle, or where a spline ends before it gets there.
std::optional<gp_Pnt> meetingPoint(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                   const Handle(Geom_Surface) & c, const gp_Pnt& start, double tolerance);

/// Where a curve that runs on (see runsOn) meets a surface, begun at its point nearest to `start`, which lies no
/// farther than `reach` [mm]. None where it runs along the surface. Method: Newton on the tangent plane at the foot.
std::optional<gp_Pnt> meetingPoint(const Handle(Geom_Curve) & curve, const Handle(Geom_Surface) & surface,
                                   const gp_Pnt& start, double reach, double tolerance);

/// All points in which a curve that runs on (see runsOn) meets a surface, nearest to `start` first; none where it runs
/// along the surface.
std::vector<gp_Pnt> meetingPoints(const Handle(Geom_Curve) & curve, const Handle(Geom_Surface) & surface,
                                  const gp_Pnt& start);

/// Where two curves that run on come nearest to each other near `start`, midway between them; none where they stay
/// farther apart than `tolerance` [mm], run side by side, or pass `start` by more than `reach` [mm]. Method:
/// Gauss-Newton.
std::optional<gp_Pnt> crossingOf(const Handle(Geom_Curve) & a, const Handle(Geom_Curve) & b, const gp_Pnt& start,
                                 double reach, double tolerance);

/// Lines and conics in which two elementary surfaces meet, each without end or whole.
struct ExactMeeting {
    bool known = false;  ///< the pair has a closed formula; else the rest says nothing
    bool same = false;   ///< the two surfaces are one
    std::vector<Handle(Geom_Curve)> curves;
    std::vector<gp_Pnt> points;  ///< where they only touch
};
/// By the closed formulas for the pair. The kernel's general intersection is not asked: it searches along the surfaces'
/// bounds, of a plane and a cone without end.
ExactMeeting exactMeeting(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b, double tolerance);

struct CurvePiece {
    Handle(Geom_Curve) curve;  ///< runs from the first point to the second
    double first = 0.0, last = 0.0;
};
/// The piece of the two surfaces' intersection from `from` to `to`, both of which lie on it. Exact (line, circle,
/// ellipse) for pairs that have such an intersection, else a spline through points on both surfaces, within `tolerance`
/// [mm] of them. A piece that turns back on itself as seen along the chord is not found.
std::optional<CurvePiece> meetingCurve(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                       const gp_Pnt& from, const gp_Pnt& to, double tolerance);

/// The piece of curve in which two surfaces touch from `from` to `to`, where it is a parameter line of one of them: a
/// round and what it rolls along. None where no such line lies on both to within `tolerance` [mm]. The surfaces must
/// not be one.
std::optional<CurvePiece> touchingCurve(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                        const gp_Pnt& from, const gp_Pnt& to, double tolerance);

/// The closed curve (circle, ellipse) in which two surfaces meet that passes through `through`, begun there and running
/// along `direction`. None where they meet in no such curve: meetingAlong then finds others.
std::optional<CurvePiece> meetingRing(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                      const gp_Pnt& through, const gp_Vec& direction, double tolerance);

/// The piece of the two surfaces' intersection that leaves `from` along `direction` and ends at `to`, or all round
/// where the two are one: a spline within `tolerance` [mm] of both, also where it turns back on itself as seen along
/// the chord. None where they are tangent somewhere along it, or it never comes there. Method: marching along the cross
/// product of the normals, corrected onto both at each step; steps by how the direction turns.
std::optional<CurvePiece> meetingAlong(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                       const gp_Pnt& from, const gp_Vec& direction, const gp_Pnt& to, double tolerance);

/// The point nearest to all surfaces at once (least squares), starting from `start`; `uv` are first guesses, one for
/// each surface. Directions about which the surfaces say little, as they meet there at less than `steep` [rad], are
/// left as they are. Returns `start` where the search leads farther away than `reach` [mm]. Method: Gauss-Newton on the
/// tangent planes with the weak directions cut off (truncated eigenvalues).
gp_Pnt nearestToAll(const std::vector<Handle(Geom_Surface)>& surfaces, std::vector<std::optional<gp_Pnt2d>> uv,
                    const gp_Pnt& start, double reach, double tolerance, double steep);

}  // namespace rasoir
