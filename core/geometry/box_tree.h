// Boxes and points, found by where they are. Hides the tree that does it, whose headers cost more to compile than most
// of our files.
#pragma once
#include <Bnd_Box.hxx>
#include <functional>
#include <gp_Pnt.hxx>
#include <memory>
#include <vector>

namespace rasoir {

/// Made once, in n log n; asking is safe from any thread. Lengths in mm. Method: an R-tree packed at once, from Boost.
class BoxTree {
public:
    BoxTree();
    /// Boxes that hold nothing are never found.
    explicit BoxTree(const std::vector<Bnd_Box>& boxes);
    explicit BoxTree(const std::vector<gp_Pnt>& points);
    ~BoxTree();
    BoxTree(BoxTree&&) noexcept;
    BoxTree& operator=(BoxTree&&) noexcept;

    /// Indices of all that come within `gap` of a box, ascending; measured along the axes of coordinates.
    [[nodiscard]] std::vector<std::size_t> near(const Bnd_Box& box, double gap = 0.0) const;
    /// The same one by one, in no order, until `take` returns false.
    void visit(const Bnd_Box& box, double gap, const std::function<bool(std::size_t)>& take) const;
    /// At most `most` of those that come within `gap` of a point along each axis of coordinates: the nearest, in no
    /// order.
    [[nodiscard]] std::vector<std::size_t> nearest(const gp_Pnt& point, std::size_t most, double gap) const;

private:
    struct Inside;
    std::unique_ptr<Inside> m_inside;
};

}  // namespace rasoir
