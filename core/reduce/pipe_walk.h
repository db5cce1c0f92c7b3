// The centre line of a round bar or tube, felt from inside.
#pragma once
#include <array>
#include <Geom_Surface.hxx>
#include <gp_Dir.hxx>
#include <gp_Pnt2d.hxx>
#include <optional>
#include <vector>

#include "topology/incidence.h"

namespace rasoir::reduce {

/// The skin of a pipe lies everywhere one radius from its centre line, along the skin's own normal. So from any place
/// inside, the nearest points of the skin in several directions say where the line is, exactly and without triangles;
/// that they agree says that it is a pipe there.
class PipeWalk {
public:
    /// `first`: the flat face in which it begins. `radius` [mm] of the skin to be felt: of a tube its bore.
    PipeWalk(const Incidence& topology, int first, double radius);

    /// The point of the centre line beside a place that lies less than a third of the radius from it. To be asked step
    /// by step from the first end on: where the skin was found before is where it is looked for next.
    /// Returns   none where fewer than four of six directions find the skin, or these lie apart by more than a fiftieth
    ///           of the radius.
    [[nodiscard]] std::optional<gp_Pnt> centreBeside(const gp_Pnt& place, const gp_Dir& along);
    [[nodiscard]] double radius() const { return m_radius; }

private:
    static constexpr std::size_t directions = 6;
    struct Wall {
        int face = 0;
        Handle(Geom_Surface) surface;
        double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;  // of its parameters
        gp_Pnt low, high;                               // [mm] its box
    };
    struct Foot {
        std::size_t wall = 0;
        gp_Pnt2d uv;
    };
    std::vector<Wall> m_walls;  // faces that are no planes
    double m_radius = 0.0;
    std::vector<Foot> m_rim;                                 // round the first end, to begin with
    std::array<std::optional<Foot>, directions> m_lastFoot;  // by direction

    [[nodiscard]] std::optional<gp_Pnt> feel(const gp_Pnt& place, const gp_Vec& along, const gp_Vec& out,
                                             std::optional<Foot>& last) const;
    [[nodiscard]] std::optional<gp_Pnt> feelOn(const Wall& wall, const gp_Pnt& place, const gp_Vec& along,
                                               const gp_Vec& out, std::optional<gp_Pnt2d>& uv) const;
    [[nodiscard]] std::optional<Foot> rimNear(const gp_Pnt& point) const;
};

}  // namespace rasoir::reduce
