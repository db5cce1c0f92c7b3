// Faces of one part on new surfaces, also where rounds rest on them.
#pragma once
#include <functional>
#include <Geom_Surface.hxx>

#include "heal/resurface.h"
#include "shave/rounding.h"

namespace rasoir::shave {

/// Says why what was made is not wanted after all; none when it is.
using SurfaceObjection = std::function<std::optional<std::string>(const heal::Resurfaced&)>;

struct OnSurfaces {
    Reworked made;
    double moved = 0.0;  ///< [mm] farthest that a vertex moved
};

/// Puts faces (Incidence numbers) on surfaces, and lets their neighbours follow. With `withRounds`, rounds of one
/// radius that rest on those faces are taken off before, and put back afterwards. Refuses   what heal::resurface
/// refuses, rounds that cannot go or come back, and what `objection` objects to.
[[nodiscard]] Result<OnSurfaces> onSurfaces(const Part& part, const std::map<int, Handle(Geom_Surface)>& surfaces,
                                            double tolerance, const SurfaceObjection& objection,
                                            Progress* withRounds = nullptr);

/// "Face 7 of "plate" <why>." at the middle of the face.
[[nodiscard]] tl::unexpected<Problem> impossible(const Part& part, int face, const std::string& why);

}  // namespace rasoir::shave
