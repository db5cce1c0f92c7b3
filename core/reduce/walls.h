// Walls: pairs of faces of one body that face away from each other across thin material.
#pragma once
#include <Geom_Surface.hxx>

#include "common/problem.h"
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::reduce {

enum class Slenderness {
    /// Thinner than a tenth of its least breadth; or than a fifth, where other walls bound it and not its own rim.
    Thin,
    Doubtful,  ///< up to a fifth: listed, not taken unasked
    Thick
};

struct Wall {
    std::vector<int> sideA, sideB;  ///< faces on either side
    double thickness = 0.0;         ///< [mm] at `where`
    gp_Vec growth;                  ///< [1] of a tapered wall: by which its thickness grows per mm; else null
    double uneven = 0.0;  ///< [mm] by which its thickness differs from place to place, of bends whose two sides are not
                          ///< about one axis; `thickness` is then the mean
    bool freeform = false;  ///< its first side is a spline, and `middle` an offset of that with its parameters
    double area = 0.0;      ///< [mm^2] of side A that has side B behind it, by sampling
    double breadth = 0.0;   ///< [mm] least breadth: twice the area over the outline
    Slenderness slenderness = Slenderness::Thin;
    Handle(Geom_Surface) middle;  ///< the surface midway, without end
    bool reversed = false;        ///< side A lies where the middle's normal does not point
    gp_Pnt where;                 ///< [mm, part coordinates] a point midway in it

    [[nodiscard]] double thicknessAt(const gp_Pnt& point) const { return thickness + growth.Dot(gp_Vec(where, point)); }
};

/// Finds walls of constant thickness: parallel planes, coaxial cylinders, concentric balls, coaxial cones of one
/// angle, tori round one circle; bends between cylinders about axes beside each other; flat ones that taper by up to
/// ten degrees, as draft makes them; and freeform faces with whatever runs behind them (see freeformWalls()). Faces on
/// one surface make one wall with what lies behind them. A thickness that varies by less than a twentieth is constant.
/// `upTo` [mm]: thicker walls are left out; 0: none are.
/// Cost: near n log n in the faces for the pairs of carriers, plus the samples of those that pair.
[[nodiscard]] Result<std::vector<Wall>> findWalls(const Part& part, double from, double upTo, Progress& progress);

/// A face that neither makes a thin wall nor ends one, nor lies between some.
struct FaceWithoutWall {
    int face = 0;
    double area = 0.0;  ///< [mm^2]
    std::string why;    ///< "nothing faces it at one distance"
};
/// Of a part that has thin walls, the largest first. `walls`: all that were found in it.
[[nodiscard]] std::vector<FaceWithoutWall> facesWithoutWall(const Part& part, const std::vector<Wall>& walls);

/// Whether a point lies between the two sides of a wall, within both faces' outlines. The wall must outlive it.
class WallProbe {
public:
    WallProbe(const Part& part, const Wall& wall);
    ~WallProbe();
    [[nodiscard]] bool between(const gp_Pnt& point) const;

private:
    struct Faces;
    std::unique_ptr<Faces> m_faces;
    const Wall& m_wall;
};

}  // namespace rasoir::reduce
