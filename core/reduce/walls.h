// Walls: pairs of faces of one body that face away from each other across thin material.
#pragma once
#include <Geom_Surface.hxx>

#include "common/problem.h"
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::reduce {

enum class Slenderness {
    Thin,      ///< thinner than a tenth of its least breadth
    Doubtful,  ///< up to a fifth: listed, not taken unasked
    Thick
};

struct Wall {
    std::vector<int> sideA, sideB;  ///< faces on either side
    double thickness = 0.0;         ///< [mm]
    double area = 0.0;              ///< [mm^2] of side A that has side B behind it, by sampling
    double breadth = 0.0;           ///< [mm] least breadth: twice the area over the outline
    Slenderness slenderness = Slenderness::Thin;
    Handle(Geom_Surface) middle;  ///< the surface midway, without end
    bool reversed = false;        ///< side A lies where the middle's normal does not point
    gp_Pnt where;                 ///< [mm, part coordinates] a point midway in it
};

/// Finds walls of constant thickness: parallel planes, coaxial cylinders, concentric balls, coaxial cones of one
/// angle. Faces on one surface make one wall with what lies behind them.
/// `upTo` [mm]: thicker walls are left out; 0: none are.
/// Cost: near n log n in the faces for the pairs of carriers, plus the samples of those that pair.
[[nodiscard]] Result<std::vector<Wall>> findWalls(const Part& part, double from, double upTo, Progress& progress);

/// Whether a point lies between the two sides of a wall, within both faces' outlines.
class WallProbe {
public:
    WallProbe(const Part& part, const Wall& wall);
    ~WallProbe();
    [[nodiscard]] bool between(const gp_Pnt& point) const;

private:
    struct Faces;
    std::unique_ptr<Faces> m_faces;
    double m_half = 0.0;
};

}  // namespace rasoir::reduce
