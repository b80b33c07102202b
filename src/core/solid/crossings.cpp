#include "solid/crossings.h"

#include "base/parallel.h"
#include "solid/detail/cgal_mesh.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <numeric>

namespace bonemoss::solid {

namespace detail {

struct Vec3d {
    double x = 0, y = 0, z = 0;
    friend Vec3d operator-(const Vec3d &a, const Vec3d &b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
};
inline Vec3d wide(Vec3f p)
{
    return {double(p.x), double(p.y), double(p.z)};
}
inline double dotOf(const Vec3d &a, const Vec3d &b)
{
    return a.x * b.x + a.y * b.y + a.z * b.z;
}
inline Vec3d crossOf(const Vec3d &a, const Vec3d &b)
{
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
inline double reach(const Vec3d &a)
{
    return std::max({std::abs(a.x), std::abs(a.y), std::abs(a.z)});
}

/// A plane through the first corner of a triangle, with how far off its values may be for each mm away from it.
struct Plane {
    Vec3d at, normal;
    double bound;

    Plane(Vec3f a, Vec3f b, Vec3f c) : at(wide(a))
    {
        const Vec3d u = wide(b) - at, v = wide(c) - at;
        normal = crossOf(u, v);
        bound = 4e-15 * reach(u) * reach(v); // some ten roundings of 1.1e-16 each, of six products, with room
    }
    /// 1 above, -1 below, 0 where rounding leaves it open.
    int side(Vec3f p) const
    {
        const Vec3d d = wide(p) - at;
        const double h = dotOf(normal, d), error = bound * reach(d);
        return h > error ? 1 : h < -error ? -1 : 0;
    }
};

} // namespace detail

namespace {

using namespace detail;

constexpr std::uint32_t kGroup = 4;

Kernel::Triangle_3 triangleOf(const std::array<Vec3f, 3> &t)
{
    return {toCgal(t[0]), toCgal(t[1]), toCgal(t[2])};
}

/// Triangles that share their first corner alone; planes through them.
bool crossAtCorner(const std::array<Vec3f, 3> &a, const Plane &planeA, const std::array<Vec3f, 3> &b)
{
    const int b1 = planeA.side(b[1]), b2 = planeA.side(b[2]);
    if (b1 * b2 > 0)
        return false;
    const Plane planeB(b[0], b[1], b[2]);
    const int a1 = planeB.side(a[1]), a2 = planeB.side(a[2]);
    if (a1 * a2 > 0)
        return false;
    if (a1 * a2 < 0 && b1 * b2 < 0) { // both are met by the line of both planes, each on one side of the corner
        const auto along = [&](const Plane &p, Vec3f u, Vec3f v) {
            const Vec3d x = wide(u) - planeB.at, y = wide(v) - planeB.at;
            const double hx = std::abs(dotOf(p.normal, x)), hy = std::abs(dotOf(p.normal, y));
            return Vec3d{x.x * hy + y.x * hx, x.y * hy + y.y * hx, x.z * hy + y.z * hx};
        };
        const Vec3d u = along(planeB, a[1], a[2]), v = along(planeA, b[1], b[2]);
        if (dotOf(u, v) < -1e-6 * reach(u) * reach(v)) // far beyond what rounding does
            return false;
    }
    const Kernel::Triangle_3 ta = triangleOf(a), tb = triangleOf(b);
    return CGAL::do_intersect(ta, Kernel::Segment_3(tb[1], tb[2])) || CGAL::do_intersect(tb, Kernel::Segment_3(ta[1], ta[2]));
}

/// Triangles over the side from the first corner to the second.
bool foldedFlat(const Plane &plane, Vec3f first, Vec3f second, Vec3f a, Vec3f b)
{
    if (plane.side(b) != 0)
        return false;
    const auto p = toCgal(first), q = toCgal(second), r = toCgal(a), s = toCgal(b);
    return CGAL::coplanar(p, q, r, s) && CGAL::coplanar_orientation(p, q, r, s) == CGAL::POSITIVE;
}

bool crossApart(const std::array<Vec3f, 3> &a, const Plane &planeA, const std::array<Vec3f, 3> &b)
{
    const auto isAside = [](const Plane &p, const std::array<Vec3f, 3> &t) {
        const int first = p.side(t[0]);
        return first != 0 && first == p.side(t[1]) && first == p.side(t[2]);
    };
    if (isAside(planeA, b) || isAside(Plane(b[0], b[1], b[2]), a))
        return false;
    return CGAL::do_intersect(triangleOf(a), triangleOf(b));
}

bool hasNoArea(const std::array<Vec3f, 3> &t)
{
    const Vec3d u = wide(t[1]) - wide(t[0]), v = wide(t[2]) - wide(t[0]);
    const double bound = 4e-15 * reach(u) * reach(v);
    return reach(crossOf(u, v)) <= bound && CGAL::collinear(toCgal(t[0]), toCgal(t[1]), toCgal(t[2]));
}

std::vector<CrossingFinder::Pair> sorted(const std::vector<std::vector<CrossingFinder::Pair>> &parts)
{
    std::vector<CrossingFinder::Pair> out;
    for (const auto &part : parts)
        out.insert(out.end(), part.begin(), part.end());
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

} // namespace

/// A triangle that is asked about, with what of it is the same for all others.
struct CrossingFinder::Asked {
    Triangle numbers;
    std::array<Vec3f, 3> at;
    detail::Plane plane;

    Asked(const CrossingFinder &all, std::uint32_t t)
        : numbers(all.m_triangles[t]), at(all.cornersOf(t)), plane(at[0], at[1], at[2])
    {}
};

std::span<const std::uint32_t> CrossingFinder::group(std::uint32_t g) const
{
    return std::span(m_order).subspan(g * kGroup, std::min<std::size_t>(kGroup, m_order.size() - g * kGroup));
}

std::array<Vec3f, 3> CrossingFinder::cornersOf(std::uint32_t t) const
{
    const Triangle &v = m_triangles[t];
    return {m_points[v[0]], m_points[v[1]], m_points[v[2]]};
}

Box3f CrossingFinder::boxOf(std::uint32_t t) const
{
    Box3f box;
    for (const Vec3f p : cornersOf(t))
        box.add(p);
    return box;
}

Box3f CrossingFinder::putBoxes(std::uint32_t g)
{
    Box3f all;
    int lane = 0;
    for (const std::uint32_t t : group(g)) {
        const Box3f box = boxOf(t);
        all.add(box);
        for (int axis = 0; axis < 3; ++axis)
            m_boxes[g].plane[axis][lane] = at(box.lo, axis), m_boxes[g].plane[axis + 3][lane] = at(box.hi, axis);
        ++lane;
    }
    for (; lane < int(kGroup); ++lane)
        for (int axis = 0; axis < 3; ++axis)
            m_boxes[g].plane[axis][lane] = std::numeric_limits<float>::max(),
            m_boxes[g].plane[axis + 3][lane] = -std::numeric_limits<float>::max();
    return all;
}

/// Triangles that follow each other are near each other in meshes that were put in order; others are sorted.
void CrossingFinder::orderInSpace()
{
    const std::size_t n = m_triangles.size();
    m_order.resize(n), m_groupOf.resize(n);
    std::iota(m_order.begin(), m_order.end(), 0u);
    const auto jump = [this](std::size_t t) {
        return length(boxOf(std::uint32_t(t)).centre() - boxOf(std::uint32_t(t - 1)).centre());
    };
    const float steps = sumBlocks<float>(n, 1 << 14, [&](BlockRange r) {
        float sum = 0;
        for (std::size_t t = std::max<std::size_t>(1, r.begin); t < r.end; ++t)
            sum += jump(t) > 4 * boxOf(std::uint32_t(t)).diagonal() ? 1.0f : 0.0f;
        return sum;
    });
    if (steps > 0.02f * float(n)) {
        const Box3f all = mesh::boundsOf(m_points);
        const float longest = std::max({all.size().x, all.size().y, all.size().z, 1e-30f});
        std::vector<std::pair<std::uint64_t, std::uint32_t>> keys(n);
        forEachBlock(n, 1 << 14, [&](BlockRange r) {
            for (std::size_t t = r.begin; t < r.end; ++t) {
                const Vec3f p = (boxOf(std::uint32_t(t)).centre() - all.lo) * (1023 / longest);
                keys[t] = {mesh::hilbertCode(std::uint32_t(p.x), std::uint32_t(p.y), std::uint32_t(p.z), 10), std::uint32_t(t)};
            }
        });
        std::sort(keys.begin(), keys.end());
        for (std::size_t k = 0; k < n; ++k)
            m_order[k] = keys[k].second;
    }
    for (std::size_t k = 0; k < n; ++k)
        m_groupOf[m_order[k]] = std::uint32_t(k / kGroup);
}

CrossingFinder::CrossingFinder(std::vector<Vec3f> points, std::vector<Triangle> triangles)
    : m_points(std::move(points)), m_triangles(std::move(triangles))
{
    orderInSpace();
    const std::size_t groups = (m_triangles.size() + kGroup - 1) / kGroup;
    std::vector<std::uint32_t> ids(groups);
    std::iota(ids.begin(), ids.end(), 0u);
    std::vector<Box3f> boxes(groups);
    m_boxes.resize(groups);
    forEachBlock(groups, 1 << 12, [&](BlockRange r) {
        for (std::size_t g = r.begin; g < r.end; ++g)
            boxes[g] = putBoxes(std::uint32_t(g));
    });
    m_tree = mesh::BoxTree::inOrder(groups);
    m_tree.set(ids, boxes);
}

void CrossingFinder::move(std::span<const std::uint32_t> points, std::span<const Vec3f> places,
                          std::span<const std::uint32_t> triangles)
{
    for (std::size_t k = 0; k < points.size(); ++k)
        m_points[points[k]] = places[k];
    std::vector<std::uint32_t> groups;
    for (const std::uint32_t t : triangles)
        groups.push_back(m_groupOf[t]);
    std::sort(groups.begin(), groups.end());
    groups.erase(std::unique(groups.begin(), groups.end()), groups.end());
    std::vector<Box3f> boxes;
    for (const std::uint32_t g : groups)
        boxes.push_back(putBoxes(g));
    m_tree.set(groups, boxes);
}

bool CrossingFinder::cross(const Asked &asked, std::uint32_t t) const
{
    const Triangle &a = asked.numbers, &b = m_triangles[t];
    int count = 0, atA[3]{}, atB[3]{};
    for (int i = 0; i < 3; ++i)
        for (int k = 0; k < 3; ++k)
            if (a[std::size_t(i)] == b[std::size_t(k)] && count < 3)
                atA[count] = i, atB[count++] = k;
    const auto from = [](const std::array<Vec3f, 3> &of, int first) {
        return std::array{of[std::size_t(first)], of[std::size_t((first + 1) % 3)], of[std::size_t((first + 2) % 3)]};
    };
    switch (count) {
    case 0: return crossApart(asked.at, asked.plane, cornersOf(t));
    case 1: return crossAtCorner(from(asked.at, atA[0]), asked.plane, from(cornersOf(t), atB[0]));
    case 2:
        return foldedFlat(asked.plane, asked.at[std::size_t(atA[0])], asked.at[std::size_t(atA[1])],
                          asked.at[std::size_t(3 - atA[0] - atA[1])], m_points[b[std::size_t(3 - atB[0] - atB[1])]]);
    default: return true;
    }
}

std::vector<CrossingFinder::Pair> CrossingFinder::all(const Progress &progress, std::size_t most) const
{
    constexpr std::size_t kBlock = 512;
    const std::size_t groups = m_boxes.size();
    std::vector<std::vector<Pair>> parts((groups + kBlock - 1) / kBlock);
    std::vector<char> isFlat(m_triangles.size());
    forEachBlock(m_triangles.size(), 1 << 13, progress.stop, [&](BlockRange r) {
        for (std::size_t t = r.begin; t < r.end; ++t)
            isFlat[t] = hasNoArea(cornersOf(std::uint32_t(t)));
    });
    constexpr float kLimit = 0;
    std::atomic<std::size_t> count = 0;
    forEachBlock(groups, kBlock, progress.stop, [&](BlockRange r) {
        std::vector<Pair> &found = parts[r.begin / kBlock];
        if (count > most)
            return;
        std::vector<std::uint32_t> others;
        for (std::size_t g = r.begin; g < r.end; ++g) {
            const auto own = group(std::uint32_t(g));
            Box3f about;
            for (const std::uint32_t t : own)
                about.add(boxOf(t));
            others.clear();
            m_tree.visit(mesh::Meets(about), kLimit, [&](std::span<const std::uint32_t> leaf) {
                for (const std::uint32_t o : leaf)
                    if (o >= g)
                        others.push_back(o);
            });
            for (std::size_t i = 0; i < own.size(); ++i) {
                if (isFlat[own[i]]) {
                    found.emplace_back(own[i], own[i]);
                    continue;
                }
                const mesh::Meets meets(boxOf(own[i]));
                const Asked asked(*this, own[i]);
                for (const std::uint32_t o : others) {
                    const mesh::Lanes miss = meets(m_boxes[o]);
                    const auto of = group(o);
                    for (std::size_t k = o == g ? i + 1 : 0; k < of.size(); ++k)
                        if (miss[k] == 0 && !isFlat[of[k]] && cross(asked, of[k]))
                            found.emplace_back(std::minmax(own[i], of[k]));
                }
            }
        }
        count += found.size();
    });
    return progress.isCancelled() ? std::vector<Pair>() : sorted(parts);
}

std::vector<CrossingFinder::Pair> CrossingFinder::of(std::span<const std::uint32_t> triangles) const
{
    constexpr std::size_t kBlock = 256;
    constexpr float kLimit = 0;
    std::vector<std::vector<Pair>> parts((triangles.size() + kBlock - 1) / kBlock);
    forEachBlock(triangles.size(), kBlock, [&](BlockRange r) {
        std::vector<Pair> &found = parts[r.begin / kBlock];
        for (std::size_t n = r.begin; n < r.end; ++n) {
            const std::uint32_t t = triangles[n];
            if (hasNoArea(cornersOf(t))) {
                found.emplace_back(t, t);
                continue;
            }
            const mesh::Meets meets(boxOf(t));
            const Asked asked(*this, t);
            m_tree.visit(meets, kLimit, [&](std::span<const std::uint32_t> leaf) {
                for (const std::uint32_t g : leaf) {
                    const mesh::Lanes miss = meets(m_boxes[g]);
                    const auto of = group(g);
                    for (std::size_t k = 0; k < of.size(); ++k)
                        if (miss[k] == 0 && of[k] != t && cross(asked, of[k]) && !hasNoArea(cornersOf(of[k])))
                            found.emplace_back(std::minmax(t, of[k]));
                }
            });
        }
    });
    return sorted(parts);
}

std::size_t selfCrossings(const mesh::PolyMesh &mesh)
{
    return CrossingFinder(mesh.positions, mesh::triangulate(mesh)).all().size();
}

} // namespace bonemoss::solid
