#include "geometry/box_tree.h"

#include <boost/geometry.hpp>
#include <boost/geometry/index/rtree.hpp>

namespace rasoir {
namespace {

namespace bg = boost::geometry;
using TreePoint = bg::model::point<double, 3, bg::cs::cartesian>;
using TreeBox = bg::model::box<TreePoint>;
using Entry = std::pair<TreeBox, std::size_t>;

TreePoint treePoint(const gp_Pnt& point, double by = 0.0) {
    return {point.X() + by, point.Y() + by, point.Z() + by};
}

TreeBox treeBox(const Bnd_Box& box, double gap) {
    return {treePoint(box.CornerMin(), -gap), treePoint(box.CornerMax(), gap)};
}

std::vector<Entry> entriesOf(const std::vector<Bnd_Box>& boxes) {
    std::vector<Entry> entries;
    for (std::size_t i = 0; i < boxes.size(); ++i)
        if (!boxes[i].IsVoid()) entries.emplace_back(treeBox(boxes[i], 0.0), i);
    return entries;
}

std::vector<Entry> entriesOf(const std::vector<gp_Pnt>& points) {
    std::vector<Entry> entries;
    for (std::size_t i = 0; i < points.size(); ++i)
        entries.emplace_back(TreeBox(treePoint(points[i]), treePoint(points[i])), i);
    return entries;
}

}  // namespace

struct BoxTree::Inside {
    bg::index::rtree<Entry, bg::index::quadratic<16>> tree;
};

BoxTree::BoxTree() = default;
BoxTree::BoxTree(const std::vector<Bnd_Box>& boxes)
    : m_inside(new Inside{bg::index::rtree<Entry, bg::index::quadratic<16>>(entriesOf(boxes))}) {}
BoxTree::BoxTree(const std::vector<gp_Pnt>& points)
    : m_inside(new Inside{bg::index::rtree<Entry, bg::index::quadratic<16>>(entriesOf(points))}) {}
BoxTree::~BoxTree() = default;
BoxTree::BoxTree(BoxTree&&) noexcept = default;
BoxTree& BoxTree::operator=(BoxTree&&) noexcept = default;

void BoxTree::visit(const Bnd_Box& box, double gap, const std::function<bool(std::size_t)>& take) const {
    if (!m_inside || box.IsVoid()) return;
    for (auto it = m_inside->tree.qbegin(bg::index::intersects(treeBox(box, gap))); it != m_inside->tree.qend(); ++it)
        if (!take(it->second)) return;
}

std::vector<std::size_t> BoxTree::near(const Bnd_Box& box, double gap) const {
    std::vector<std::size_t> found;
    visit(box, gap, [&found](std::size_t i) {
        found.push_back(i);
        return true;
    });
    std::sort(found.begin(), found.end());
    return found;
}

std::vector<std::size_t> BoxTree::nearest(const gp_Pnt& point, std::size_t most, double gap) const {
    std::vector<std::size_t> found;
    if (!m_inside) return found;
    std::vector<Entry> entries;
    const TreeBox around(treePoint(point, -gap), treePoint(point, gap));
    m_inside->tree.query(
        bg::index::nearest(treePoint(point), static_cast<unsigned>(most)) && bg::index::intersects(around),
        std::back_inserter(entries));
    for (const Entry& entry : entries) found.push_back(entry.second);
    return found;
}

}  // namespace rasoir
