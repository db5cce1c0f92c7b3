// All like this: the faces and edges of the same area, radius, length, kind or colour, in one part or in all.
#pragma once
#include "common/progress.h"
#include "geometry/round_surface.h"
#include "model/model.h"
#include "select/pick.h"
#include "survey/holes.h"

namespace rasoir::select {

/// What a face or an edge is like; measured once for a part's shape.
struct Traits {
    struct Face {
        SurfaceKind kind = SurfaceKind::Other;
        double area = 0.0;    ///< [mm^2]
        double radius = 0.0;  ///< [mm] of a round surface (torus: of the tube), else 0
        bool inward = false;  ///< concave
    };
    struct Edge {
        int kind = 0;         ///< the kernel's kind of curve
        double length = 0.0;  ///< [mm]
        double radius = 0.0;  ///< [mm] of a circle, else 0
        int faces = 0;        ///< that meet at it
    };
    std::vector<Face> faces;  ///< by number; [0] stands for none
    std::vector<Edge> edges;
};
/// Cost: one integration over each face and edge.
[[nodiscard]] Traits traitsOf(const Part& part);

enum class Likeness { Area, Radius, Length, Kind, Colour, Feature };

struct AlikeWanted {
    Likeness by = Likeness::Area;
    /// Which sizes count, as multiples of the sample's own [1] (for Area, Radius and Length): the same is 1 to 1. A low
    /// of 0 is "up to".
    double low = 1.0, high = 1.0;
    bool absolute = false;        ///< low and high are mm or mm^2, not multiples
    double slack = 1e-4;          ///< relative; what still is the same
    std::set<std::size_t> parts;  ///< where to look; empty: everywhere
};

/// Items like the sample (a face or an edge), the sample among them, ordered by occurrence and number. Places set aside
/// or in `hidden` are passed over. Area, Radius, Length: sizes within the limits; faces also of the same kind for
/// Radius, and both concave or both convex. Kind: the same kind of surface or curve (and as many faces at an edge).
/// Colour: drawn in the same colour. Feature: of holes of the same kind and size, all their faces. Empty when the
/// sample has no such property (a plane has no radius). Cost: one comparison for each face or edge.
[[nodiscard]] std::vector<Pick> findAlike(const Model& model, const std::vector<std::shared_ptr<const Traits>>& traits,
                                          const std::vector<const std::vector<survey::Hole>*>& holes,
                                          const Pick& sample, const AlikeWanted& wanted,
                                          const std::set<std::size_t>& hidden = {});

/// The size that Area, Radius or Length compares for an item; 0 when it has none.
[[nodiscard]] double sizeOf(const Traits& traits, const Pick& item, Likeness by);
/// The colour in which a face is drawn; none: no colour came with it.
[[nodiscard]] std::optional<Colour> drawnColour(const Model& model, std::size_t occurrence, int face);

std::string likenessName(Likeness by);

}  // namespace rasoir::select
