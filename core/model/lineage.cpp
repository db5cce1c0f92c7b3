#include "model/lineage.h"

#include <map>

namespace rasoir {

PartLineage chained(const PartLineage& first, const PartLineage& second) {
    const auto join = [](const std::vector<Link>& a, const std::vector<Link>& b) {
        std::multimap<int, Link> onward;
        std::vector<Link> out;
        for (const Link& link : b) {
            if (link.before == 0) out.push_back(link);
            else onward.emplace(link.before, link);
        }
        for (const Link& link : a) {
            if (link.after == 0) {
                out.push_back(link);
                continue;
            }
            const auto [from, to] = onward.equal_range(link.after);
            if (from == to) out.push_back({Descent::Gone, link.before, 0});
            for (auto it = from; it != to; ++it) out.push_back({it->second.descent == Descent::Kept ? link.descent : it->second.descent, link.before, it->second.after});
        }
        return out;
    };
    return {first.part, join(first.faces, second.faces), join(first.edges, second.edges)};
}

}  // namespace rasoir
