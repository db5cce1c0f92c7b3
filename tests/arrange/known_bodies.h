// Random bodies of which it is known in closed form what lies in them, and pairs of them that touch smoothly. The
// judges of the arrangement: they share no code with it.
#pragma once
#include <functional>
#include <gp_Trsf.hxx>
#include <optional>
#include <TopoDS_Shape.hxx>
#include <utility>

#include "support/bodies.h"

namespace rasoir::test {

struct KnownBody {
    TopoDS_Shape shape;
    /// [mm] positive within the body, negative outside, and as small as the distance from its skin where that is near.
    std::function<double(const gp_Pnt&)> depth;
};

constexpr int knownKinds = 7;  ///< block, cylinder, cone, ball, torus, a prism over a letter, a block under a spline
/// Of random size, standing on the origin or about it.
[[nodiscard]] KnownBody knownBody(int kind, Random& random);
[[nodiscard]] KnownBody moved(const KnownBody& body, const gp_Trsf& by);

constexpr int touchingKinds = 10;
/// Two bodies that touch smoothly: from outside, from inside, or along a line. What they are is a part of it.
[[nodiscard]] std::pair<KnownBody, KnownBody> touching(int kind, Random& random);

/// How often the closed skin of a body goes round points, by the solid angles of its triangles: one within, none
/// outside. Points nearer to the skin than the triangles' error have no sure answer.
/// Source: Van Oosterom and Strackee, The solid angle of a plane triangle (IEEE Trans. Biomed. Eng. 30, 1983).
class Winding {
public:
    Winding(const TopoDS_Shape& closed, double deflection);  ///< [mm] how far triangles may be off
    [[nodiscard]] bool within(const gp_Pnt& at) const;

private:
    std::vector<std::array<gp_XYZ, 3>> _triangles;
};

}  // namespace rasoir::test
