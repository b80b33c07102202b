#pragma once

#include "base/types.h"

#include <cstdint>
#include <limits>
#include <span>
#include <vector>

namespace bonemoss::mesh {

/// Four floats in one register. (GCC's vector extension: four lanes on any machine.)
typedef float Lanes __attribute__((vector_size(16)));

/// x + y + z of each of four, in this order; their fourth lanes are left out.
inline Lanes sumsOfThree(Lanes a, Lanes b, Lanes c, Lanes d)
{
    const Lanes ab = __builtin_shufflevector(a, b, 0, 4, 1, 5), cd = __builtin_shufflevector(c, d, 0, 4, 1, 5);
    const Lanes abZ = __builtin_shufflevector(a, b, 2, 6, 2, 6), cdZ = __builtin_shufflevector(c, d, 2, 6, 2, 6);
    return (__builtin_shufflevector(ab, cd, 0, 1, 4, 5) + __builtin_shufflevector(ab, cd, 2, 3, 6, 7))
           + __builtin_shufflevector(abZ, cdZ, 0, 1, 4, 5);
}

/// A tree of boxes, four under each, that finds the nearest first. What lies in a leaf are numbers of the user's.
class BoxTree
{
public:
    static constexpr std::size_t kLeaf = 4; ///< most things in a leaf of build()

    /// Four boxes side by side: least x, y, z of each, then greatest.
    struct Boxes {
        Lanes plane[6];
    };

    /// A tree over things with these boxes, halved at the middle along the longest side. O(n log n). At most 2^26 things.
    static BoxTree build(std::span<const Box3f> boxes);
    /// A tree over n things that follow each other in space, all boxes empty yet: one to a leaf, 4 neighbours under a node.
    static BoxTree inOrder(std::size_t n);
    /// Puts in the box of each of some things of a tree made in order, and mends those above. O(ids * log n).
    void set(std::span<const std::uint32_t> ids, std::span<const Box3f> boxes);

    std::size_t size() const { return m_order.size(); }
    std::size_t memoryBytes() const { return m_nodes.size() * sizeof(Node) + m_order.size() * 4; }

    /// Calls use(things of a leaf) for the leaves whose measure is at most limit, nearest first as far as boxes tell;
    /// use may lower the limit. measure(Boxes) gives four distances, one past any limit for a miss.
    /// ahead(place): told early where in the order each leaf begins that may be met, to fetch what belongs to it.
    template <typename Measure, typename Use, typename Ahead>
    void visit(const Measure &measure, const float &limit, const Use &use, const Ahead &ahead) const;
    template <typename Measure, typename Use> void visit(const Measure &measure, const float &limit, const Use &use) const
    {
        visit(measure, limit, use, [](std::size_t) {});
    }
    /// Where the things of a leaf stand in the order of the tree, so that what belongs to them can be kept in that order.
    std::size_t placeOf(std::span<const std::uint32_t> leaf) const { return std::size_t(leaf.data() - m_order.data()); }
    const std::vector<std::uint32_t> &order() const { return m_order; }

private:
    struct Node {
        Boxes boxes;
        std::uint32_t child[4] = {0, 0, 0, 0}; ///< a node, or kIsLeaf | count << 26 | first in the order
    };
    static constexpr std::uint32_t kIsLeaf = 0x80000000u, kFirst = (1u << 26) - 1;
    static void put(Boxes &boxes, int k, const Box3f &box);
    Box3f boxOf(std::size_t node) const;
    std::uint32_t split(std::span<const Box3f> boxes, std::span<const Vec3f> middles, std::uint32_t begin, std::uint32_t end,
                        Box3f &box);

    Node m_top;                ///< a copy of the root, at hand: of many trees asked, most are left again at once
    std::vector<Node> m_nodes; ///< the root first when built, last when in order
    std::vector<std::uint32_t> m_order;
    std::vector<std::uint32_t> m_levels; ///< in order: the first node of each level, leaves first
};

/// Entry distances of a ray into boxes: the slab test.
class RaySlabs
{
public:
    RaySlabs(Vec3f origin, Vec3f direction)
    {
        for (int k = 0; k < 3; ++k) {
            const float d = at(direction, k);
            const float inverse = 1 / (d > 1e-12f || d < -1e-12f ? d : d < 0 ? -1e-12f : 1e-12f);
            const float o = at(origin, k);
            m_origin[k] = Lanes{o, o, o, o};
            m_inverse[k] = Lanes{inverse, inverse, inverse, inverse};
            m_near[k] = inverse < 0 ? k + 3 : k;
        }
    }
    Lanes operator()(const BoxTree::Boxes &b) const
    {
        constexpr float kMiss = std::numeric_limits<float>::infinity();
        Lanes in = {0, 0, 0, 0}, out = {kMiss, kMiss, kMiss, kMiss};
        for (int k = 0; k < 3; ++k) {
            const Lanes near = (b.plane[m_near[k]] - m_origin[k]) * m_inverse[k];
            const Lanes far = (b.plane[m_near[k] < 3 ? k + 3 : k] - m_origin[k]) * m_inverse[k];
            in = near > in ? near : in;
            out = far < out ? far : out;
        }
        return in <= out * (1 + 1e-6f) ? in : Lanes{kMiss, kMiss, kMiss, kMiss};
    }

private:
    Lanes m_origin[3], m_inverse[3];
    int m_near[3];
};

/// Squared distances of boxes from a point.
class FromPoint
{
public:
    explicit FromPoint(Vec3f p) : m_at{{p.x, p.x, p.x, p.x}, {p.y, p.y, p.y, p.y}, {p.z, p.z, p.z, p.z}} {}
    Lanes operator()(const BoxTree::Boxes &b) const
    {
        Lanes sum = {0, 0, 0, 0};
        for (int k = 0; k < 3; ++k) {
            const Lanes below = b.plane[k] - m_at[k], above = m_at[k] - b.plane[k + 3];
            Lanes d = below > above ? below : above;
            d = d > 0 ? d : Lanes{};
            sum += d * d;
        }
        return sum;
    }

private:
    Lanes m_at[3];
};

/// 0 for boxes that meet one given, else a miss.
class Meets
{
public:
    explicit Meets(const Box3f &box)
    {
        for (int k = 0; k < 3; ++k) {
            const float lo = at(box.lo, k), hi = at(box.hi, k);
            m_lo[k] = Lanes{lo, lo, lo, lo};
            m_hi[k] = Lanes{hi, hi, hi, hi};
        }
    }
    Lanes operator()(const BoxTree::Boxes &b) const
    {
        constexpr float kMiss = std::numeric_limits<float>::infinity();
        const auto isIn = (b.plane[0] <= m_hi[0]) & (m_lo[0] <= b.plane[3]) & (b.plane[1] <= m_hi[1]) & (m_lo[1] <= b.plane[4])
                          & (b.plane[2] <= m_hi[2]) & (m_lo[2] <= b.plane[5]);
        return isIn ? Lanes{} : Lanes{kMiss, kMiss, kMiss, kMiss};
    }

private:
    Lanes m_lo[3], m_hi[3];
};

template <typename Measure, typename Use, typename Ahead>
void BoxTree::visit(const Measure &measure, const float &limit, const Use &use, const Ahead &ahead) const
{
    if (m_order.empty())
        return;
    struct Waiting {
        float at;
        std::uint32_t child;
    };
    Waiting stack[64]; // three more at each level, of which there are at most 15
    int top = 0;
    const Node *node = &m_top;
    while (true) {
        const Lanes far = measure(node->boxes);
        const int first = top;
        for (int k = 0; k < 4; ++k) {
            const float at = far[k];
            if (!(at <= limit))
                continue;
            if (!(node->child[k] & kIsLeaf)) {
                __builtin_prefetch(&m_nodes[node->child[k]]);
                __builtin_prefetch(reinterpret_cast<const char *>(&m_nodes[node->child[k]]) + 64);
            } else {
                ahead(node->child[k] & kFirst);
            }
            int i = top++;
            for (; i > first && stack[i - 1].at < at; --i) // the nearest on top
                stack[i] = stack[i - 1];
            stack[i] = {at, node->child[k]};
        }
        while (true) { // leaves at once, up to the next node
            if (top == 0)
                return;
            const Waiting next = stack[--top];
            if (next.at > limit)
                continue;
            if (!(next.child & kIsLeaf)) {
                node = &m_nodes[next.child];
                break;
            }
            use(std::span(m_order).subspan(next.child & kFirst, (next.child & ~kIsLeaf) >> 26));
        }
    }
}

} // namespace bonemoss::mesh
