// Which things after a step come from which things before it: bodies, faces, edges and vertices, across parts.
//
// The lineage of a step is a relation, not a list of words. It holds a link for each pair (thing before, thing after)
// in which the later one is all or a piece of the earlier one. Split, merged, made and gone are read off: what has no
// link forward is gone, what has none backward is made. So nothing can be left out by mistake and still look tidy, and
// the relation of two steps done one after the other is simply their product.
#pragma once
#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace rasoir {

/// What a number speaks of. Bodies are the solids, sheets, wires and single points of a part, in the order in which
/// they stand in it (see Incidence::body).
enum class EntityKind { Body, Face, Edge, Vertex };
inline constexpr std::array<EntityKind, 4> entityKinds{EntityKind::Body, EntityKind::Face, EntityKind::Edge,
                                                       EntityKind::Vertex};
const char* entityKindName(EntityKind kind);  ///< "body", "face", "edge", "vertex"

/// One pair of the relation. Numbers are 1-based, in the numbering of the part before and of the part after.
struct Link {
    int before = 0;
    int after = 0;
    bool changed = false;   ///< the shape is not the very same any more: trimmed, moved, put on another surface
    bool reversed = false;  ///< outside has become inside; the edge runs the other way
    friend auto operator<=>(const Link&, const Link&) = default;
};

/// What became of a thing, or where it came from.
enum class Descent { Kept, Changed, Split, Merged, Made, Gone };

/// The links between one part before and one part after. A part that became two has two of these, and two parts that
/// became one as well.
struct PartLineage {
    static constexpr std::size_t samePlace = ~std::size_t{0};
    std::size_t part = 0;          ///< index in the model before
    std::size_t into = samePlace;  ///< index in the model after
    bool untouched = false;        ///< the very same shape: each number is linked with itself, and no links are listed
    std::array<std::vector<Link>, 4> links;

    [[nodiscard]] const std::vector<Link>& of(EntityKind kind) const { return links[static_cast<std::size_t>(kind)]; }
    [[nodiscard]] std::vector<Link>& of(EntityKind kind) { return links[static_cast<std::size_t>(kind)]; }
    [[nodiscard]] const std::vector<Link>& faces() const { return of(EntityKind::Face); }
    [[nodiscard]] const std::vector<Link>& edges() const { return of(EntityKind::Edge); }
};

/// The same relation, asked from either end in constant time.
class Descents {
public:
    explicit Descents(std::span<const Link> links);
    [[nodiscard]] std::span<const Link> heirsOf(int before) const;
    [[nodiscard]] std::span<const Link> ancestorsOf(int after) const;
    /// Gone, Split, Merged (its heir has other ancestors too), Changed or Kept.
    [[nodiscard]] Descent fateOf(int before) const;
    /// Made, Merged, Split (its ancestor has other heirs too), Changed or Kept.
    [[nodiscard]] Descent originOf(int after) const;

private:
    std::vector<Link> m_byBefore, m_byAfter;  // sorted
};

/// Two operations on one part, one after the other, as one.
[[nodiscard]] PartLineage chained(const PartLineage& first, const PartLineage& second);
/// The same over all parts of a model; entries for pairs of parts that have nothing to do with each other are left out.
[[nodiscard]] std::vector<PartLineage> chained(const std::vector<PartLineage>& first,
                                               const std::vector<PartLineage>& second);

/// The same where the second step speaks only of the parts that it changed: what it does not mention stays as the first
/// one left it.
[[nodiscard]] std::vector<PartLineage> followed(std::vector<PartLineage> first, const std::vector<PartLineage>& second);

}  // namespace rasoir
