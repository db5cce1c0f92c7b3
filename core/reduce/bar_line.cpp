#include "reduce/bar_line.h"

#include <algorithm>
#include <cmath>
#include <gp_Lin.hxx>

namespace rasoir::reduce {

double BarPiece::length() const {
    return turn == 0.0 ? from.Distance(to) : std::abs(turn) * gp_Lin(about).Distance(from);
}

gp_Trsf BarPiece::carriedTo(double distance) const {
    gp_Trsf move;
    const double all = length(), share = all > 0.0 ? distance / all : 0.0;
    if (turn == 0.0)
        move.SetTranslation(gp_Vec(from, to) * share);
    else
        move.SetRotation(about, turn * share);
    return move;
}

gp_Pnt BarPiece::at(double distance) const {
    return from.Transformed(carriedTo(distance));
}

gp_Vec BarPiece::along(double distance) const {
    gp_Vec way = turn == 0.0 ? gp_Vec(from, to)
                             : gp_Vec(about.Direction()).Crossed(gp_Vec(about.Location(), from)) * (turn > 0 ? 1 : -1);
    if (way.Magnitude() > 0.0) way.Normalize();
    return way.Transformed(carriedTo(distance));
}

double BarPiece::footOf(const gp_Pnt& point) const {
    if (turn == 0.0) return std::clamp(gp_Vec(from, point).Dot(along(0.0)), 0.0, length());
    const gp_Vec axis(about.Direction()), out(about.Location(), from);
    const gp_Vec first = out - axis * out.Dot(axis), second = axis.Crossed(first);
    const gp_Vec there(about.Location(), point);
    double angle = std::atan2(there.Dot(second), there.Dot(first)) * (turn > 0 ? 1.0 : -1.0);
    // Outside of the arc the nearer end counts.
    const double all = std::abs(turn);
    if (angle < 0.0) angle += 2.0 * M_PI;
    if (angle > all) angle = angle - all < 2.0 * M_PI - angle ? all : 0.0;
    return angle * first.Magnitude();
}

double BarLine::length() const {
    double sum = 0.0;
    for (const BarPiece& piece : m_pieces) sum += piece.length();
    return sum;
}

gp_Pnt BarLine::at(double distance) const {
    for (std::size_t i = 0; i < m_pieces.size(); ++i) {
        const double own = m_pieces[i].length();
        if (distance <= own || i + 1 == m_pieces.size()) return m_pieces[i].at(std::clamp(distance, 0.0, own));
        distance -= own;
    }
    return {};
}

double BarLine::footOf(const gp_Pnt& point) const {
    double before = 0.0, best = 0.0, nearest = -1.0;
    for (const BarPiece& piece : m_pieces) {
        const double own = piece.footOf(point);
        if (const double off = piece.at(own).Distance(point); nearest < 0.0 || off < nearest) {
            nearest = off;
            best = before + own;
        }
        before += piece.length();
    }
    return best;
}

BarLine BarLine::transformed(const gp_Trsf& move) const {
    BarLine made = *this;
    for (BarPiece& piece : made.m_pieces) {
        piece.from.Transform(move);
        piece.to.Transform(move);
        piece.about.Transform(move);
        if (move.IsNegative()) piece.turn = -piece.turn;
    }
    return made;
}

std::vector<double> BarLine::stations() const {
    std::vector<double> at{0.0};
    for (const BarPiece& piece : m_pieces) at.push_back(at.back() + piece.length());
    return at;
}

}  // namespace rasoir::reduce
