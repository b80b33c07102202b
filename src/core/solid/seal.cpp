#include "solid/seal.h"

#include "mesh/box_tree.h"
#include "mesh/measures.h"
#include "mesh/parts.h"
#include "solid/detail/arrangement.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <unordered_map>

namespace bonemoss::solid {

namespace {

using detail::Arrangement;
using Triangle = Arrangement::Triangle;

class Sets
{
public:
    explicit Sets(std::size_t n) : m_parent(n) { std::iota(m_parent.begin(), m_parent.end(), 0u); }
    std::uint32_t find(std::uint32_t v)
    {
        while (m_parent[v] != v)
            v = m_parent[v] = m_parent[m_parent[v]];
        return v;
    }
    void join(std::uint32_t a, std::uint32_t b)
    {
        a = find(a), b = find(b);
        if (a != b)
            m_parent[std::max(a, b)] = std::min(a, b);
    }

private:
    std::vector<std::uint32_t> m_parent;
};

std::uint64_t keyOf(std::uint32_t a, std::uint32_t b)
{
    return std::uint64_t(std::min(a, b)) << 32 | std::max(a, b);
}

/// How many bodies a point lies in, looking along a direction: faces met from behind less those met from the front.
class Inside
{
public:
    Inside(const std::vector<Vec3f> &points, const std::vector<Triangle> &triangles) : m_points(points), m_triangles(triangles)
    {
        std::vector<Box3f> boxes(triangles.size());
        for (std::size_t t = 0; t < triangles.size(); ++t)
            for (const std::uint32_t v : triangles[t])
                boxes[t].add(points[v]);
        m_tree = mesh::BoxTree::build(boxes);
    }
    /// Without the triangle that the point lies on.
    int at(const std::array<double, 3> &from, std::uint32_t without, Vec3f way) const
    {
        for (int attempt = 0;; ++attempt) {
            bool isSure = true;
            const int found = along(from, without, way, isSure);
            if (isSure || attempt == 16)
                return found;
            way = normalized(way + Vec3f{0.13f, 0.07f * float(attempt), -0.05f});
        }
    }

private:
    int along(const std::array<double, 3> &from, std::uint32_t without, Vec3f way, bool &isSure) const
    {
        int count = 0;
        const float limit = std::numeric_limits<float>::max();
        const mesh::RaySlabs slabs({float(from[0]), float(from[1]), float(from[2])}, way);
        const double d[3] = {double(way.x), double(way.y), double(way.z)};
        m_tree.visit(slabs, limit, [&](std::span<const std::uint32_t> leaf) {
            for (const std::uint32_t t : leaf) {
                if (t == without)
                    continue;
                double p[3][3];
                for (std::size_t k = 0; k < 3; ++k) {
                    const Vec3f q = m_points[m_triangles[t][k]];
                    p[k][0] = double(q.x) - from[0], p[k][1] = double(q.y) - from[1], p[k][2] = double(q.z) - from[2];
                }
                const auto triple = [](const double *a, const double *b, const double *c) {
                    return a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2])
                           + a[2] * (b[0] * c[1] - b[1] * c[0]);
                };
                const double a = triple(d, p[1], p[2]), b = triple(d, p[2], p[0]), c = triple(d, p[0], p[1]);
                const double most = std::max({std::abs(a), std::abs(b), std::abs(c)}),
                             least = std::min({std::abs(a), std::abs(b), std::abs(c)});
                if (!((a > 0) == (b > 0) && (b > 0) == (c > 0))) {
                    isSure = isSure && !(least < 1e-9 * most);
                    continue;
                }
                isSure = isSure && least >= 1e-9 * most;
                if (triple(p[0], p[1], p[2]) / (a + b + c) > 0) // ahead
                    count += a > 0 ? 1 : -1;
            }
        });
        return count;
    }

    const std::vector<Vec3f> &m_points;
    const std::vector<Triangle> &m_triangles;
    mesh::BoxTree m_tree;
};

/// Stretches of surface between seams, and how many bodies lie before each.
class Patches
{
public:
    Patches(const Arrangement &all, const std::vector<Triangle> &triangles);
    /// False where they contradict each other: something is open.
    bool count();
    bool isOuterTriangle(std::uint32_t t) const { return m_before.at(m_sets.find(nodeOf(t))) == 0; }
    bool isOuterPart(std::size_t p) const { return m_before.at(m_sets.find(m_firstPart + std::uint32_t(p))) == 0; }

private:
    std::uint32_t nodeOf(std::uint32_t t) const
    {
        for (const std::uint32_t v : m_triangles[t])
            if (!m_isCorner[v])
                return v;
        return m_ownNode.at(t);
    }
    struct Step {
        std::uint32_t to;
        int by;
    };
    void relate(std::uint32_t a, std::uint32_t b, int by) // before b there are `by` more
    {
        m_steps[a].push_back({b, by}), m_steps[b].push_back({a, -by});
    }

    const Arrangement &m_all;
    const std::vector<Triangle> &m_triangles;
    std::uint32_t m_firstPart = 0;
    std::vector<std::uint8_t> m_isCorner; ///< given points where the surface crosses itself
    std::unordered_map<std::uint32_t, std::uint32_t> m_ownNode;
    mutable Sets m_sets{0};
    std::unordered_map<std::uint32_t, std::vector<Step>> m_steps;
    std::unordered_map<std::uint32_t, int> m_before; ///< of each patch
    bool m_isSound = true;
};

/// Nodes are points given, then parts, then uncut triangles at corners. Triangles about a point that no seam goes through are one patch.
Patches::Patches(const Arrangement &all, const std::vector<Triangle> &triangles)
    : m_all(all), m_triangles(triangles), m_firstPart(std::uint32_t(all.given)), m_isCorner(all.given)
{
    for (const std::uint32_t v : all.corners)
        m_isCorner[v] = 1;
    auto nodes = std::uint32_t(all.given + all.parts.size());
    std::vector<std::uint32_t> atCorners;
    for (std::uint32_t t = 0; t < triangles.size(); ++t)
        if (const Triangle &v = triangles[t]; !all.isCut[t] && (m_isCorner[v[0]] || m_isCorner[v[1]] || m_isCorner[v[2]]))
            atCorners.push_back(t), m_ownNode[t] = nodes++;
    m_sets = Sets(nodes);
    for (std::uint32_t t = 0; t < triangles.size(); ++t) {
        const Triangle &v = triangles[t];
        if (all.isCut[t])
            continue;
        const std::uint32_t node = nodeOf(t);
        for (const std::uint32_t w : v)
            if (!m_isCorner[w])
                m_sets.join(node, w);
    }
    struct Edge {
        std::vector<std::pair<std::uint32_t, Triangle>> about;
    };
    std::unordered_map<std::uint64_t, Edge> edges;
    const auto take = [&](std::uint32_t node, const Triangle &v) {
        for (std::size_t k = 0; k < 3; ++k) {
            if (v[k] < all.given && !m_isCorner[v[k]])
                m_sets.join(node, v[k]);
            edges[keyOf(v[k], v[(k + 1) % 3])].about.emplace_back(node, v);
        }
    };
    for (std::size_t p = 0; p < all.parts.size(); ++p)
        take(m_firstPart + std::uint32_t(p), all.parts[p].v);
    for (const std::uint32_t t : atCorners)
        take(m_ownNode.at(t), triangles[t]);
    std::unordered_map<std::uint64_t, std::uint32_t> seamAt;
    for (std::uint32_t s = 0; s < all.seams.size(); ++s)
        seamAt[keyOf(all.seams[s].from, all.seams[s].to)] = s;
    for (const auto &[key, edge] : edges)
        if (edge.about.size() == 2 && !seamAt.contains(key))
            m_sets.join(edge.about[0].first, edge.about[1].first);
    for (const Arrangement::Seam &s : all.seams) {
        // Left and right of it on each of both: what is behind the other has one body more before it.
        std::array<std::uint32_t, 4> found{kNone, kNone, kNone, kNone}; // behind b, before b; behind a, before a
        const auto it = edges.find(keyOf(s.from, s.to));
        if (it == edges.end()) {
            m_isSound = false;
            continue;
        }
        for (const auto &[node, v] : it->second.about) {
            if (node < m_firstPart || node - m_firstPart >= all.parts.size())
                continue;
            const std::uint32_t of = all.parts[node - m_firstPart].of;
            for (std::size_t k = 0; k < 3; ++k)
                if (v[k] == s.from && v[(k + 1) % 3] == s.to)
                    found[of == s.a ? 0 : 3] = node;
                else if (v[k] == s.to && v[(k + 1) % 3] == s.from)
                    found[of == s.a ? 1 : 2] = node;
        }
        if (std::find(found.begin(), found.end(), kNone) != found.end()) {
            m_isSound = false;
            continue;
        }
        relate(m_sets.find(found[1]), m_sets.find(found[3]), 0);
        relate(m_sets.find(found[1]), m_sets.find(found[0]), 1);
        relate(m_sets.find(found[1]), m_sets.find(found[2]), 1);
    }
}

bool Patches::count()
{
    if (!m_isSound)
        return false;
    // Of each patch its largest triangle or part, to look from.
    struct Start {
        float area = -1;
        std::uint32_t triangle = 0;
        Triangle v{};
    };
    std::unordered_map<std::uint32_t, Start> starts;
    const auto offer = [&](std::uint32_t node, std::uint32_t t, const Triangle &v) {
        const Vec3f a = m_all.points[v[0]], b = m_all.points[v[1]], c = m_all.points[v[2]];
        const float longest = std::max({squaredLength(b - a), squaredLength(c - b), squaredLength(a - c), 1e-30f});
        const float area = squaredLength(cross(b - a, c - a)) / longest; // its height, squared
        Start &s = starts[node];
        if (area > s.area)
            s = {area, t, v};
    };
    std::uint32_t last = kNone;
    for (std::uint32_t t = 0; t < m_triangles.size(); ++t)
        if (!m_all.isCut[t]) {
            const std::uint32_t node = m_sets.find(nodeOf(t));
            if (node != last || t % 64 == 0) // any of many does
                offer(node, t, m_triangles[t]);
            last = node;
        }
    for (std::size_t p = 0; p < m_all.parts.size(); ++p)
        offer(m_sets.find(m_firstPart + std::uint32_t(p)), m_all.parts[p].of, m_all.parts[p].v);
    std::vector<std::uint32_t> order;
    for (const auto &[node, start] : starts)
        order.push_back(node);
    std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
        return std::pair(-starts.at(a).area, a) < std::pair(-starts.at(b).area, b);
    });
    const Inside inside(m_all.points, m_triangles);
    for (const std::uint32_t first : order) {
        if (m_before.contains(first))
            continue;
        const Start &s = starts.at(first);
        std::array<double, 3> from{};
        for (const std::uint32_t v : s.v) {
            const Vec3f p = m_all.points[v];
            from[0] += double(p.x) / 3, from[1] += double(p.y) / 3, from[2] += double(p.z) / 3;
        }
        const Vec3f out = cross(m_all.points[s.v[1]] - m_all.points[s.v[0]], m_all.points[s.v[2]] - m_all.points[s.v[0]]);
        m_before[first] = inside.at(from, s.triangle, length(out) > 0 ? normalized(out) : Vec3f{0, 1, 0});
        std::vector<std::uint32_t> stack{first};
        while (!stack.empty()) {
            const std::uint32_t node = stack.back();
            stack.pop_back();
            const auto it = m_steps.find(node);
            if (it == m_steps.end())
                continue;
            const int here = m_before.at(node);
            for (const Step &step : it->second) {
                const auto [to, isNew] = m_before.try_emplace(step.to, here + step.by);
                if (isNew)
                    stack.push_back(step.to);
                else if (to->second != here + step.by)
                    return false;
            }
        }
    }
    return true;
}

/// Draws edges that are shorter than places are told apart together, where the surface stays one.
void dropShortEdges(std::vector<Vec3f> &points, std::vector<Triangle> &triangles, std::size_t given, std::size_t uncut)
{
    const float least = 4e-7f * mesh::boundsOf(points).diagonal();
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> about; // triangles about new points and their neighbours
    std::vector<std::uint8_t> isNear(points.size());
    for (std::size_t t = uncut; t < triangles.size(); ++t)
        for (const std::uint32_t v : triangles[t])
            isNear[v] = 1;
    for (std::uint32_t t = 0; t < triangles.size(); ++t)
        for (const std::uint32_t v : triangles[t])
            if (isNear[v])
                about[v].push_back(t);
    const auto isGone = [&](std::uint32_t t) { return triangles[t][0] == triangles[t][1]; };
    const auto ringOf = [&](std::uint32_t v) {
        std::vector<std::uint32_t> ring;
        for (const std::uint32_t t : about[v])
            if (!isGone(t))
                for (const std::uint32_t w : triangles[t])
                    if (w != v)
                        ring.push_back(w);
        std::sort(ring.begin(), ring.end());
        ring.erase(std::unique(ring.begin(), ring.end()), ring.end());
        return ring;
    };
    const auto turns = [&](std::uint32_t gone, std::uint32_t kept) { // whether a face would
        for (const std::uint32_t t : about[gone]) {
            const Triangle &v = triangles[t];
            if (isGone(t) || std::find(v.begin(), v.end(), kept) != v.end())
                continue;
            std::array<Vec3f, 3> a, b;
            for (std::size_t k = 0; k < 3; ++k)
                a[k] = points[v[k]], b[k] = points[v[k] == gone ? kept : v[k]];
            const Vec3f n = cross(a[1] - a[0], a[2] - a[0]), m = cross(b[1] - b[0], b[2] - b[0]);
            if (dot(n, m) < 0 && length(n) > least * least)
                return true;
        }
        return false;
    };
    for (std::size_t t = uncut; t < triangles.size(); ++t)
        for (std::size_t k = 0; k < 3 && !isGone(std::uint32_t(t)); ++k) {
            std::uint32_t gone = triangles[t][k], kept = triangles[t][(k + 1) % 3];
            if (length(points[gone] - points[kept]) > least)
                continue;
            if (gone < given && kept >= given)
                std::swap(gone, kept);
            if (gone < given) // two that were there before stay two
                continue;
            const auto a = ringOf(gone), b = ringOf(kept);
            std::vector<std::uint32_t> both;
            std::set_intersection(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(both));
            if (both.size() != 2 || turns(gone, kept))
                continue;
            for (const std::uint32_t n : about[gone]) {
                Triangle &v = triangles[n];
                if (isGone(n))
                    continue;
                std::replace(v.begin(), v.end(), gone, kept);
                if (v[0] == v[1] || v[1] == v[2] || v[2] == v[0])
                    v = {0, 0, 0};
                else
                    about[kept].push_back(n);
            }
        }
    // What is left of a sliver: two faces over the same corners, back to back.
    std::map<Triangle, std::uint32_t> seen;
    for (std::size_t t = uncut; t < triangles.size(); ++t) {
        if (isGone(std::uint32_t(t)))
            continue;
        Triangle key = triangles[t];
        std::sort(key.begin(), key.end());
        const auto [it, isNew] = seen.try_emplace(key, std::uint32_t(t));
        if (!isNew)
            triangles[it->second] = triangles[t] = {0, 0, 0}, seen.erase(it);
    }
    std::erase_if(triangles, [](const Triangle &v) { return v[0] == v[1]; });
}

/// Closed hollows: islands of faces that enclose less than nothing. Returns how many were left out.
std::size_t dropPockets(mesh::PolyMesh &mesh, bool fills, std::size_t &left)
{
    std::uint32_t count = 0;
    const std::vector<std::uint32_t> islands = mesh::islandsOf(mesh, count);
    std::vector<double> volume(count);
    std::vector<std::uint8_t> isUsed(count);
    for (const mesh::Face &f : mesh.faces) {
        const std::uint32_t of = islands[f.v[0]];
        isUsed[of] = 1;
        for (int k = 1; k + 1 < f.size(); ++k) {
            const Vec3f a = mesh.positions[f.v[0]], b = mesh.positions[f.v[std::size_t(k)]],
                        c = mesh.positions[f.v[std::size_t(k + 1)]];
            volume[of] += double(dot(a, cross(b, c))) / 6;
        }
    }
    std::size_t pockets = 0;
    left = 0;
    for (std::uint32_t k = 0; k < count; ++k)
        if (isUsed[k])
            ++(volume[k] < 0 ? pockets : left);
    if (pockets == 0 || !fills)
        return 0;
    std::erase_if(mesh.faces, [&](const mesh::Face &f) { return volume[islands[f.v[0]]] < 0; });
    return pockets;
}

/// The normals of a closed surface, each as long as its face is large, sum up to nothing.
bool isAnyOpen(const mesh::PolyMesh &mesh, const std::vector<Triangle> &triangles, std::span<const std::uint32_t> bodyOf,
               std::size_t bodies)
{
    std::vector<std::array<double, 4>> sums(bodies);
    for (const Triangle &t : triangles) {
        const Vec3f a = mesh.positions[t[0]], n = cross(mesh.positions[t[1]] - a, mesh.positions[t[2]] - a);
        auto &s = sums[bodyOf[t[0]]];
        s[0] += double(n.x), s[1] += double(n.y), s[2] += double(n.z), s[3] += double(length(n));
    }
    return std::any_of(sums.begin(), sums.end(), [](const auto &s) { return std::hypot(s[0], s[1], s[2]) > 1e-4 * s[3]; });
}

mesh::PolyMesh compacted(const mesh::PolyMesh &mesh)
{
    std::vector<std::uint32_t> to(mesh.positions.size(), kNone);
    mesh::PolyMesh out;
    for (mesh::Face f : mesh.faces) {
        for (int k = 0; k < f.size(); ++k) {
            std::uint32_t &v = f.v[std::size_t(k)];
            if (to[v] == kNone)
                to[v] = std::uint32_t(out.positions.size()), out.positions.push_back(mesh.positions[v]);
            v = to[v];
        }
        out.faces.push_back(f);
    }
    return out;
}

} // namespace

Result<Sealed> seal(const mesh::PolyMesh &bodies, bool fillsPockets, const Progress &progress)
{
    if (bodies.faces.empty())
        return Error{ErrorCode::Empty, "solid", "there is nothing to seal"};
    Sealed out;
    std::uint32_t islands = 0;
    const std::vector<std::uint32_t> bodyOf = mesh::islandsOf(bodies, islands);
    out.bodies = islands;
    std::vector<Triangle> triangles;
    std::vector<std::uint32_t> faceOf; // first triangle of each face
    for (const mesh::Face &f : bodies.faces) {
        std::array<Vec3f, 4> p;
        for (int k = 0; k < f.size(); ++k)
            p[std::size_t(k)] = bodies.positions[f.v[std::size_t(k)]];
        faceOf.push_back(std::uint32_t(triangles.size()));
        for (const auto &t : mesh::trianglesOf(f, p))
            if (t[0] != t[1])
                triangles.push_back({f.v[t[0]], f.v[t[1]], f.v[t[2]]});
    }
    constexpr const char *kOpen = "a body is open, so that inside and outside cannot be told; close it first";
    if (isAnyOpen(bodies, triangles, bodyOf, islands))
        return Error{ErrorCode::BadValue, "solid", kOpen};
    progress.say(0.1f, "Looking for crossings");
    auto arranged = detail::arranged(bodies.positions, triangles, bodyOf, progress);
    if (!arranged)
        return arranged.error();
    out.crossings = arranged->pairs;
    if (arranged->moved > 0)
        out.notes.push_back(
            fmt::format("{} points lay on other faces and were moved by up to {:.4f} mm", arranged->moved, arranged->most));
    progress.say(0.7f, "Taking away what is inside");
    Patches patches(*arranged, triangles);
    if (!patches.count())
        return Error{ErrorCode::BadValue, "solid", kOpen};
    // Quads stay where both their triangles do; then triangles, then parts.
    std::vector<Triangle> rest;
    out.mesh.positions = arranged->points;
    for (std::size_t f = 0; f < bodies.faces.size(); ++f) {
        const std::uint32_t first = faceOf[f], end = f + 1 < faceOf.size() ? faceOf[f + 1] : std::uint32_t(triangles.size());
        std::size_t kept = 0;
        for (std::uint32_t t = first; t < end; ++t)
            kept += !arranged->isCut[t] && patches.isOuterTriangle(t);
        if (kept == 2)
            out.mesh.faces.push_back(bodies.faces[f]);
        else
            for (std::uint32_t t = first; t < end; ++t)
                if (!arranged->isCut[t] && patches.isOuterTriangle(t))
                    rest.push_back(triangles[t]);
    }
    const std::size_t uncut = rest.size();
    for (std::size_t p = 0; p < arranged->parts.size(); ++p)
        if (patches.isOuterPart(p))
            rest.push_back(arranged->parts[p].v);
    if (rest.size() > uncut) { // neighbours of parts take part, quads as they are
        std::vector<std::uint8_t> isAtParts(out.mesh.positions.size());
        for (std::size_t t = uncut; t < rest.size(); ++t)
            for (const std::uint32_t v : rest[t])
                isAtParts[v] = 1;
        std::vector<Triangle> beside;
        std::erase_if(out.mesh.faces, [&](const mesh::Face &f) {
            if (std::none_of(f.v.begin(), f.v.begin() + f.size(), [&](std::uint32_t v) { return isAtParts[v]; }))
                return false;
            std::array<Vec3f, 4> p;
            for (int k = 0; k < f.size(); ++k)
                p[std::size_t(k)] = out.mesh.positions[f.v[std::size_t(k)]];
            for (const auto &t : mesh::trianglesOf(f, p))
                if (t[0] != t[1])
                    beside.push_back({f.v[t[0]], f.v[t[1]], f.v[t[2]]});
            return true;
        });
        const std::size_t first = beside.size() + uncut;
        beside.insert(beside.end(), rest.begin(), rest.end());
        rest = std::move(beside);
        dropShortEdges(out.mesh.positions, rest, arranged->given, first);
    }
    for (const Triangle &t : rest)
        out.mesh.faces.push_back({{t[0], t[1], t[2], kNone}});
    out.pockets = dropPockets(out.mesh, fillsPockets, out.left);
    out.mesh = compacted(out.mesh);
    if (out.mesh.faces.empty())
        return Error{ErrorCode::Empty, "solid", "all of it faces inwards: nothing would be left"};
    return out;
}

} // namespace bonemoss::solid
