// Which output faces and edges come from which inputs.
#pragma once
#include <cstddef>
#include <vector>

namespace rasoir {

enum class Descent { Kept, Changed, Split, Merged, Made, Gone };

/// One link: `before` and `after` are 1-based numbers in the part's old and new numbering; 0 stands for none.
struct Link {
    Descent descent = Descent::Kept;
    int before = 0;
    int after = 0;
};

/// What became of one part in an operation. Parts without an entry were kept untouched.
struct PartLineage {
    std::size_t part = 0;  ///< index in the model
    std::vector<Link> faces;
    std::vector<Link> edges;
};

/// The lineage of two operations, one after the other, as that of one.
[[nodiscard]] PartLineage chained(const PartLineage& first, const PartLineage& second);

}  // namespace rasoir
