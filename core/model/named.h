// Lists of things with names of their own: groups, pairings.
#pragma once
#include <algorithm>
#include <vector>

namespace rasoir {

/// Puts a thing in, in the place of the one of its name.
template <class Named>
void putByName(std::vector<Named>& all, Named one) {
    const auto known = std::find_if(all.begin(), all.end(), [&](const Named& other) { return other.name == one.name; });
    if (known == all.end())
        all.push_back(std::move(one));
    else
        *known = std::move(one);
}

}  // namespace rasoir
