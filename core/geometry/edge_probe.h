// One edge's curve, sampled once, for asking again and again how near a point is.
#pragma once
#include <Bnd_Box.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <TopoDS_Edge.hxx>
#include <vector>

namespace rasoir {

class EdgeProbe {
public:
    explicit EdgeProbe(const TopoDS_Edge& edge);

    struct Near {
        double parameter = 0.0;  ///< within the range asked for
        double distance = 0.0;   ///< [mm]
    };
    /// Nearest point of the edge between two of its parameters. Method: nearest of the sampled segments, then Newton.
    /// A detour narrower than a segment (1/16 of a circle, 1/8 of a spline's span) may be missed.
    [[nodiscard]] Near nearest(const gp_Pnt& point, double from, double to) const;
    [[nodiscard]] Near nearest(const gp_Pnt& point) const { return nearest(point, first(), last()); }

    [[nodiscard]] gp_Pnt value(double parameter) const { return m_curve.Value(parameter); }
    [[nodiscard]] gp_Vec tangent(double parameter) const;
    [[nodiscard]] double first() const { return m_at.front(); }
    [[nodiscard]] double last() const { return m_at.back(); }
    [[nodiscard]] double length(double from, double to) const;  ///< [mm] of the samples' polygon
    [[nodiscard]] double length() const { return m_length.back(); }
    [[nodiscard]] const Bnd_Box& box() const { return m_box; }
    [[nodiscard]] bool isLine() const { return m_curve.GetType() == GeomAbs_Line; }

private:
    BRepAdaptor_Curve m_curve;
    std::vector<double> m_at, m_length;  ///< parameters, and length up to there
    std::vector<gp_Pnt> m_points;
    Bnd_Box m_box;
};

}  // namespace rasoir
