// The line of a bar: straight pieces and arcs, end to end.
#pragma once
#include <gp_Ax1.hxx>
#include <gp_Trsf.hxx>
#include <vector>

namespace rasoir::reduce {

struct BarPiece {
    gp_Pnt from, to;    ///< [mm]
    gp_Ax1 about = {};  ///< of an arc
    double turn = 0.0;  ///< [rad] about that axis, from `from` to `to`; 0: straight
    [[nodiscard]] double length() const;
    [[nodiscard]] gp_Pnt at(double distance) const;     ///< from its beginning
    [[nodiscard]] gp_Vec along(double distance) const;  ///< unit
    [[nodiscard]] double footOf(const gp_Pnt& point) const;
    /// The move that carries its beginning to a place on it: what a section does along it.
    [[nodiscard]] gp_Trsf carriedTo(double distance) const;
};

class BarLine {
public:
    BarLine() = default;
    explicit BarLine(std::vector<BarPiece> pieces) : m_pieces(std::move(pieces)) {}

    [[nodiscard]] const std::vector<BarPiece>& pieces() const { return m_pieces; }
    [[nodiscard]] bool isStraight() const { return m_pieces.size() == 1 && m_pieces.front().turn == 0.0; }
    [[nodiscard]] double length() const;
    [[nodiscard]] gp_Pnt at(double distance) const;
    /// The distance along it of the nearest point of it, not beyond its ends.
    [[nodiscard]] double footOf(const gp_Pnt& point) const;
    [[nodiscard]] BarLine transformed(const gp_Trsf& move) const;
    /// Distances at which its pieces begin and end.
    [[nodiscard]] std::vector<double> stations() const;

private:
    std::vector<BarPiece> m_pieces;
};

}  // namespace rasoir::reduce
