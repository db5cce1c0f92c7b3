// What counts as nothing, as the same and as level, wherever that is not a matter of one algorithm alone.
//
// The kernel works in millimetres and in double precision: a coordinate of a metre is known to 1e-13 mm, what was
// computed from it in some steps to 1e-10, and what was written to a file and read again to about 1e-7. Between these
// and what anybody draws on purpose lie several powers of ten, and these numbers lie there. A number that only one
// algorithm knows stays beside it, with its reason; `SourcesTest` holds that.
#pragma once

namespace rasoir {

struct Tolerance {
    // Places [mm]
    static constexpr double least = 1e-7;      ///< of edges and vertices made exactly: the least the kernel honours
    static constexpr double samePlace = 1e-6;  ///< coordinates in files are rounded to about that; closer is one place
    static constexpr double sameSkin = 1e-5;   ///< surfaces nearer than this are one; a spline may stand for a plane
    static constexpr double noWay = 1e-9;      ///< between two places: what rounding leaves, so it leads nowhere

    // Directions [rad]
    static constexpr double smooth = 0.01;           ///< faces that meet at less look smooth, drawn by whatever means
    static constexpr double fittedDirection = 1e-4;  ///< one of them may be fitted to points, or have been rounded
    static constexpr double parallel = 1e-5;         ///< where a rule of the user's asks for parallel faces
    static constexpr double sameDirection = 1e-6;    ///< both are written as directions, to the digits of a file
    static constexpr double exactDirection = 1e-9;   ///< both are said to be the same, such as an axis of coordinates

    // Shares of a quantity
    static constexpr double atLimit = 1e-6;   ///< a feature as large as a limit is within it, whatever was rounded
    static constexpr double sameSize = 1e-6;  ///< radii, areas and volumes of one thing that was got in two ways
    static constexpr double rounding = 1e-9;  ///< equal but for the order in which sums were made

    // Parameters of curves and surfaces
    static constexpr double parameter = 1e-9;  ///< of turns and of what is about one long; nearer is on it

    // Guards: what divides must be more than this
    static constexpr double noLength = 1e-12;        ///< [mm, or mm per parameter] of what has no direction
    static constexpr double noLengthSquare = 1e-24;  ///< its square
    static constexpr double divisible = 1e-200;      ///< quotients and roots stay finite, whatever they then mean
};

}  // namespace rasoir
