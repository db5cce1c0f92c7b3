// Rounds and chamfers as their neighbours see them.
#pragma once
#include <array>
#include <vector>

namespace rasoir {

/// A face that runs along others on two sides, as a round does.
struct Strip {
    int face = 0;  ///< Incidence number
    std::array<std::vector<int>, 2>
        contact;  ///< Incidence numbers of the edges along which it touches what it runs along
};

}  // namespace rasoir
