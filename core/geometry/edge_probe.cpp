#include "geometry/edge_probe.h"

#include <algorithm>

namespace rasoir {

EdgeProbe::EdgeProbe(const TopoDS_Edge& edge) : m_curve(edge) {
    int pieces = 1;
    const double from = m_curve.FirstParameter(), to = m_curve.LastParameter();
    switch (m_curve.GetType()) {
        case GeomAbs_Line:
            break;
        case GeomAbs_Circle:
        case GeomAbs_Ellipse:
            pieces = std::max(2, static_cast<int>(std::ceil((to - from) / (2.0 * M_PI) * 16.0)));
            break;
        default:
            pieces = std::clamp(8 * m_curve.NbIntervals(GeomAbs_C1), 16, 256);
    }
    gp_Pnt previous;
    double length = 0.0;
    for (int i = 0; i <= pieces; ++i) {
        const double at = i == pieces ? to : from + (to - from) * i / pieces;
        const gp_Pnt point = m_curve.Value(at);
        if (i > 0) length += previous.Distance(point);
        m_at.push_back(at);
        m_points.push_back(point);
        m_length.push_back(length);
        m_box.Add(point);
        previous = point;
    }
    if (pieces > 1) m_box.Enlarge(0.05 * length / pieces * 2.0);  // the curve bulges out of its polygon
}

gp_Vec EdgeProbe::tangent(double parameter) const {
    gp_Pnt point;
    gp_Vec along;
    m_curve.D1(parameter, point, along);
    return along;
}

double EdgeProbe::length(double from, double to) const {
    const auto upTo = [this](double parameter) {
        const auto after = std::upper_bound(m_at.begin(), m_at.end(), parameter);
        if (after == m_at.begin()) return 0.0;
        if (after == m_at.end()) return m_length.back();
        const auto i = static_cast<std::size_t>(after - m_at.begin());
        return m_length[i - 1] + (m_length[i] - m_length[i - 1]) * (parameter - m_at[i - 1]) / (m_at[i] - m_at[i - 1]);
    };
    return upTo(to) - upTo(from);
}

EdgeProbe::Near EdgeProbe::nearest(const gp_Pnt& point, double from, double to) const {
    Near best{from, point.Distance(m_curve.Value(from))};
    if (const double end = point.Distance(m_curve.Value(to)); end < best.distance) best = {to, end};
    // The nearest segment whose parameters overlap the range.
    double nearestSquare = std::numeric_limits<double>::max(), start = best.parameter;
    for (std::size_t i = 0; i + 1 < m_at.size(); ++i) {
        if (m_at[i + 1] < from || m_at[i] > to) continue;
        const gp_Vec along(m_points[i], m_points[i + 1]), reach(m_points[i], point);
        const double square = along.SquareMagnitude();
        const double share = square > 0.0 ? std::clamp(along.Dot(reach) / square, 0.0, 1.0) : 0.0;
        const double off = point.SquareDistance(m_points[i].Translated(along * share));
        if (off < nearestSquare) {
            nearestSquare = off;
            start = m_at[i] + share * (m_at[i + 1] - m_at[i]);
        }
    }
    double at = std::clamp(start, from, to);
    for (int round = 0; round < 12; ++round) {
        gp_Pnt here;
        gp_Vec d1, d2;
        m_curve.D2(at, here, d1, d2);
        const gp_Vec miss(here, point);
        const double slope = d1.SquareMagnitude() - miss.Dot(d2), gauss = d1.SquareMagnitude();
        if (gauss == 0.0) break;
        const double step = miss.Dot(d1) / (slope > 0.1 * gauss ? slope : gauss);
        const double next = std::clamp(at + step, from, to);
        // Below what a double can settle at, three digits are left for rounding.
        const bool settled = std::abs(next - at) <= 1e-12 * std::max(1.0, std::abs(at));
        at = next;
        if (settled) break;
    }
    if (const double distance = point.Distance(m_curve.Value(at)); distance < best.distance) best = {at, distance};
    return best;
}

}  // namespace rasoir
