// Curves carried on past their ends, and the trace a curve leaves in a surface's parameters.
#pragma once
#include <Geom2d_Curve.hxx>
#include <Geom_Curve.hxx>
#include <Geom_Surface.hxx>
#include <gp_Pnt2d.hxx>
#include <optional>

namespace rasoir {

/// The curve below any trimming: a line without end, a whole circle, the full spline.
Handle(Geom_Curve) untrimmedCurve(const Handle(Geom_Curve) & curve);
/// Lines, circles, ellipses, hyperbolas, parabolas: curves that are exact beyond the part that was used.
bool runsOn(const Handle(Geom_Curve) & curve);
/// Parameter of the point of an untrimmed curve nearest to `point`, if no farther than `tolerance` [mm]. A periodic
/// curve answers within one period from its first parameter.
std::optional<double> parameterAt(const Handle(Geom_Curve) & curve, const gp_Pnt& point, double tolerance);

/// Nearest parameters of a surface, by Gauss-Newton from `guess`; without a guess, from a global search.
/// None when it does not settle within `tolerance` [mm] of a stationary point.
std::optional<gp_Pnt2d> parametersOn(const Handle(Geom_Surface) & surface, const gp_Pnt& point, double tolerance,
                                     const std::optional<gp_Pnt2d>& guess = std::nullopt);

/// The foot of a point that may lie far from the surface, for steps of a search that checks its own result: by
/// Gauss-Newton from `guess`, else from the nearest of a grid of points. Never asks for the sure global search of
/// parametersOn, which between splines takes a hundred times as long.
std::optional<gp_Pnt2d> footOn(const Handle(Geom_Surface) & surface, const gp_Pnt& point, double tolerance,
                               const std::optional<gp_Pnt2d>& guess = std::nullopt);

/// A curve seen in a surface's parameters, running in step with it.
struct Trace {
    Handle(Geom2d_Curve) curve;
    double deviation = 0.0;  ///< [mm] largest distance, between curve and trace, at points between those interpolated
};
/// Refuses (none) when the curve leaves the surface by more than `tolerance` [mm]. On a periodic surface the trace is
/// continuous and starts near `startGuess`.
std::optional<Trace> traceOn(const Handle(Geom_Surface) & surface, const Handle(Geom_Curve) & curve, double first,
                             double last, double tolerance, const std::optional<gp_Pnt2d>& startGuess = std::nullopt);

/// The same trace at the pace t = scale * s + shift, where that is exact (lines at their own pace, splines); else null.
Handle(Geom2d_Curve) inOtherStep(const Handle(Geom2d_Curve) & trace, double scale, double shift);

}  // namespace rasoir
