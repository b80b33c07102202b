#include "mesh/box_tree.h"

#include <algorithm>
#include <cassert>
#include <numeric>

namespace bonemoss::mesh {

namespace {

int longestAxis(const Box3f &box)
{
    const Vec3f s = box.size();
    return s.x >= s.y && s.x >= s.z ? 0 : s.y >= s.z ? 1 : 2;
}

constexpr float kMost = std::numeric_limits<float>::max();
constexpr Box3f kEmpty{{kMost, kMost, kMost}, {-kMost, -kMost, -kMost}};

} // namespace

void BoxTree::put(Boxes &b, int k, const Box3f &box)
{
    const Box3f &from = box.isEmpty() ? kEmpty : box;
    for (int axis = 0; axis < 3; ++axis) {
        b.plane[axis][k] = at(from.lo, axis);
        b.plane[axis + 3][k] = at(from.hi, axis);
    }
}

Box3f BoxTree::boxOf(std::size_t node) const
{
    const Boxes &b = m_nodes[node].boxes;
    Box3f box = kEmpty;
    for (int k = 0; k < 4; ++k) {
        box.lo = min(box.lo, {b.plane[0][k], b.plane[1][k], b.plane[2][k]});
        box.hi = max(box.hi, {b.plane[3][k], b.plane[4][k], b.plane[5][k]});
    }
    return box;
}

std::uint32_t BoxTree::split(std::span<const Box3f> boxes, std::span<const Vec3f> middles, std::uint32_t begin, std::uint32_t end,
                             Box3f &box)
{
    if (end - begin <= kLeaf) {
        for (std::uint32_t i = begin; i < end; ++i)
            box.add(boxes[m_order[i]]);
        return kIsLeaf | (end - begin) << 26 | begin;
    }
    const auto halve = [&](std::uint32_t from, std::uint32_t to) {
        if (to - from <= kLeaf)
            return to;
        Box3f about;
        for (std::uint32_t i = from; i < to; ++i)
            about.add(middles[m_order[i]]);
        const int axis = longestAxis(about);
        const std::uint32_t half = from + std::uint32_t(((to - from) / 2 + kLeaf - 1) / kLeaf * kLeaf); // so that leaves are full
        std::nth_element(m_order.begin() + from, m_order.begin() + half, m_order.begin() + to,
                         [&](std::uint32_t a, std::uint32_t b) { return at(middles[a], axis) < at(middles[b], axis); });
        return half;
    };
    const std::uint32_t half = halve(begin, end), first = halve(begin, half), last = halve(half, end);
    const std::uint32_t cuts[5] = {begin, first, half, last, end};
    const auto node = std::uint32_t(m_nodes.size());
    m_nodes.emplace_back();
    for (int k = 0; k < 4; ++k) {
        Box3f own;
        if (cuts[k] < cuts[k + 1]) {
            const std::uint32_t child = split(boxes, middles, cuts[k], cuts[k + 1], own);
            m_nodes[node].child[k] = child;
        }
        put(m_nodes[node].boxes, k, own);
        box.add(own);
    }
    return node;
}

BoxTree BoxTree::build(std::span<const Box3f> boxes)
{
    assert(boxes.size() <= kFirst);
    BoxTree tree;
    tree.m_order.resize(boxes.size());
    std::iota(tree.m_order.begin(), tree.m_order.end(), 0u);
    std::vector<Vec3f> middles(boxes.size());
    for (std::size_t i = 0; i < boxes.size(); ++i)
        middles[i] = boxes[i].centre();
    tree.m_nodes.reserve(boxes.size() / 8 + 4);
    Box3f box;
    const std::uint32_t root = tree.split(boxes, middles, 0, std::uint32_t(boxes.size()), box);
    if (!(root & kIsLeaf)) {
        tree.m_top = tree.m_nodes[root];
    } else { // so few that they are one leaf
        for (int k = 0; k < 4; ++k)
            put(tree.m_top.boxes, k, k == 0 ? box : Box3f{});
        tree.m_top.child[0] = root;
    }
    return tree;
}

BoxTree BoxTree::inOrder(std::size_t n)
{
    BoxTree tree;
    tree.m_order.resize(n);
    std::iota(tree.m_order.begin(), tree.m_order.end(), 0u);
    std::size_t below = 0; // the first thing or node of the level below
    for (std::size_t count = n; n > 0; below = tree.m_levels.back()) {
        const bool isLowest = tree.m_levels.empty();
        tree.m_levels.push_back(std::uint32_t(tree.m_nodes.size()));
        const std::size_t nodes = (count + 3) / 4;
        for (std::size_t i = 0; i < nodes; ++i) {
            tree.m_nodes.emplace_back();
            for (std::size_t k = 0; k < 4; ++k) {
                put(tree.m_nodes.back().boxes, int(k), {});
                if (const std::size_t child = i * 4 + k; child < count)
                    tree.m_nodes.back().child[k] = std::uint32_t(isLowest ? kIsLeaf | 1u << 26 | child : below + child);
            }
        }
        count = nodes;
        if (count == 1)
            break;
    }
    if (!tree.m_nodes.empty())
        tree.m_top = tree.m_nodes.back();
    return tree;
}

void BoxTree::set(std::span<const std::uint32_t> ids, std::span<const Box3f> boxes)
{
    for (std::size_t i = 0; i < ids.size(); ++i)
        put(m_nodes[ids[i] / 4].boxes, int(ids[i] % 4), boxes[i]);
    std::vector<std::uint32_t> changed(ids.begin(), ids.end()), above;
    for (std::size_t level = 0; level < m_levels.size(); ++level) {
        above.clear();
        for (const std::uint32_t id : changed)
            if (above.empty() || above.back() != id / 4) // most follow each other
                above.push_back(id / 4);
        if (level + 1 < m_levels.size())
            for (const std::uint32_t node : above)
                put(m_nodes[m_levels[level + 1] + node / 4].boxes, int(node % 4), boxOf(m_levels[level] + node));
        changed.swap(above);
    }
    if (!m_nodes.empty())
        m_top = m_nodes.back();
}

} // namespace bonemoss::mesh
