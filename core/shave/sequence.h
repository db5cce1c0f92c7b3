// Changes to one part, one after another, each asked for in the numbers of the part as it was at first.
#pragma once
#include <algorithm>
#include <optional>

#include "heal/removal.h"

namespace rasoir::shave {

class Sequence {
public:
    explicit Sequence(std::shared_ptr<const Part> part) : m_part(std::move(part)) {}

    [[nodiscard]] const Part& now() const { return *m_part; }
    [[nodiscard]] std::shared_ptr<const Part> part() const { return m_part; }
    [[nodiscard]] bool changed() const { return m_changed; }
    [[nodiscard]] const PartLineage& lineage() const { return m_lineage; }

    /// Today's number of a face or an edge, and 0 where it is gone.
    [[nodiscard]] int numberOf(int before) const { return nowIn(m_lineage.faces(), before); }
    [[nodiscard]] int edgeNumberOf(int before) const { return nowIn(m_lineage.edges(), before); }
    /// The same for several, ascending, each once; none where one of them is gone.
    [[nodiscard]] std::optional<std::vector<int>> numbersOf(const std::vector<int>& before) const {
        std::vector<int> now;
        for (const int f : before) {
            now.push_back(numberOf(f));
            if (now.back() == 0) return std::nullopt;
        }
        std::sort(now.begin(), now.end());
        now.erase(std::unique(now.begin(), now.end()), now.end());
        return now;
    }

    void take(const TopoDS_Shape& shape, const PartLineage& lineage) {
        m_lineage = changed() ? chained(m_lineage, lineage) : lineage;
        m_changed = true;
        m_part = m_part->withShape(shape, lineage);
    }

private:
    [[nodiscard]] int nowIn(const std::vector<Link>& links, int before) const {
        if (!changed()) return before;
        const auto link =
            std::find_if(links.begin(), links.end(), [before](const Link& one) { return one.before == before; });
        return link == links.end() ? 0 : link->after;
    }

    std::shared_ptr<const Part> m_part;
    PartLineage m_lineage;
    bool m_changed = false;
};

}  // namespace rasoir::shave
