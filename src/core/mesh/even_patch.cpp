#include "mesh/even_patch.h"

#include <algorithm>
#include <cassert>
#include <cmath>

namespace bonemoss::mesh {

namespace {

using Triangle = std::array<std::uint32_t, 3>;

constexpr float kLong = 4.0f / 3, kShort = 4.0f / 5; // of the wanted length; the paper's section 4
constexpr float kSameWay = 0.5f;                     // least cosine between a triangle's normal before and after a change
constexpr float kFlat = 0.7f; // least cosine across an edge that may be turned, or about a vertex that may slide: sharper is form

struct Edge {
    std::uint32_t a, b;
};

/// The triangles being changed, with those about each vertex.
class Mesh
{
public:
    explicit Mesh(const EdgePatch &p)
        : m_p(p.positions), m_edge(p.edge), m_isFixed(p.isFixed), m_isGone(p.positions.size(), 0),
          m_isMoved(p.positions.size(), 0), m_isBorder(p.positions.size(), 0), m_triangles(p.triangles),
          m_isDead(p.triangles.size(), 0), m_about(p.positions.size())
    {
        for (std::uint32_t t = 0; t < m_triangles.size(); ++t)
            for (const std::uint32_t v : m_triangles[t])
                m_about[v].push_back(t);
        for (const Edge &e : edges()) // a border stays
            if (std::uint32_t two[2]; trianglesOf(e.a, e.b, two) != 2)
                for (const std::uint32_t v : {e.a, e.b})
                    m_isFixed[v] = m_isBorder[v] = 1;
        // Beside an edge that stays, its own length is the finest that triangles without slivers can have.
        for (const Edge &e : edges())
            if (isKept(e))
                for (const std::uint32_t v : {e.a, e.b})
                    m_edge[v] = std::max(m_edge[v], lengthOf(e));
    }

    void splitLong(std::size_t mostVertices)
    {
        std::vector<Edge> queue = edges();
        for (std::size_t next = 0; next < queue.size() && m_p.size() < mostVertices; ++next) {
            const Edge e = queue[next];
            std::uint32_t two[2];
            if (lengthOf(e) <= kLong * wantedAt(e) || isKept(e) || trianglesOf(e.a, e.b, two) != 2)
                continue;
            const std::uint32_t m = split(e, two);
            for (const std::uint32_t t : m_about[m])
                for (const std::uint32_t v : m_triangles[t])
                    if (v != m)
                        queue.push_back({std::min(m, v), std::max(m, v)});
        }
    }

    void collapseShort()
    {
        for (Edge e : edges()) {
            if (m_isGone[e.a] || m_isGone[e.b] || (m_isFixed[e.a] && m_isFixed[e.b]))
                continue;
            const float length = lengthOf(e);
            if (length >= kShort * wantedAt(e))
                continue;
            if (m_isFixed[e.a])
                std::swap(e.a, e.b); // a goes
            if (!mayCollapse(e) && (std::swap(e.a, e.b), m_isFixed[e.a] || !mayCollapse(e)))
                continue;
            collapse(e);
        }
    }

    void turnEdges()
    {
        for (int round = 0; round < 4; ++round) {
            std::size_t turned = 0;
            for (const Edge &e : edges())
                turned += turn(e);
            if (turned == 0)
                return;
        }
    }

    /// Towards the mean of the neighbours in the plane of the vertex, on to the surface as it was.
    void relax(const NearestFaces &before)
    {
        std::vector<Vec3f> next = m_p;
        for (std::uint32_t v = 0; v < m_p.size(); ++v) {
            if (m_isGone[v] || m_isFixed[v] || m_about[v].empty())
                continue;
            Vec3f mean, normal;
            for (const std::uint32_t t : m_about[v]) {
                const Triangle &k = m_triangles[t];
                normal += normalOf(k);
                mean += m_p[k[0]] + m_p[k[1]] + m_p[k[2]] - m_p[v];
            }
            const Vec3f n = normalized(normal);
            if (!isFlat(v, n))
                continue; // the tip of a limb or the line of a ridge would be worn down
            Vec3f move = mean * (0.5f / float(m_about[v].size())) - m_p[v];
            move -= n * dot(move, n);
            if (!isOpenMove(v, m_p[v] + move))
                continue;
            const NearestFace at = before.find(m_p[v] + move);
            // Never on to another sheet that happens to lie near.
            const Vec3f there = pointOf(m_start, at);
            if (length(there - m_p[v]) <= 2 * length(move) && isOpenMove(v, there))
                next[v] = there, m_isMoved[v] = 1;
        }
        for (std::uint32_t v = 0; v < m_p.size(); ++v) // all at once, unless a triangle would turn over
            if (!(next[v] == m_p[v]) && isOpenMove(v, next[v]))
                m_p[v] = next[v];
    }

    bool isChanged() const { return m_isChanged; }
    void keepStart(const PolyMesh &start) { m_start = start.positions; }

    EvenedPatch take(const NearestFaces &before)
    {
        EvenedPatch out;
        out.isChanged = m_isChanged;
        out.on.resize(m_p.size());
        for (std::uint32_t v = 0; v < m_p.size(); ++v)
            if (m_isMoved[v] && !m_isGone[v]) {
                out.on[v] = before.find(m_p[v]);
                m_p[v] = pointOf(m_start, out.on[v]);
            }
        for (std::size_t t = 0; t < m_triangles.size(); ++t)
            if (!m_isDead[t])
                out.triangles.push_back(m_triangles[t]);
        out.positions = std::move(m_p);
        out.isGone = std::move(m_isGone);
        out.isMoved = std::move(m_isMoved);
        return out;
    }

private:
    static Vec3f pointOf(const std::vector<Vec3f> &p, const NearestFace &at)
    {
        return p[at.corners[0]] * at.weights[0] + p[at.corners[1]] * at.weights[1] + p[at.corners[2]] * at.weights[2];
    }
    std::vector<Edge> edges() const
    {
        std::vector<Edge> out;
        out.reserve(m_triangles.size() * 3 / 2);
        for (std::size_t t = 0; t < m_triangles.size(); ++t)
            if (!m_isDead[t])
                for (std::size_t k = 0; k < 3; ++k) {
                    const std::uint32_t a = m_triangles[t][k], b = m_triangles[t][(k + 1) % 3];
                    std::uint32_t two[2];
                    if (a < b || trianglesOf(a, b, two) == 1) // each once, those of a border too
                        out.push_back({std::min(a, b), std::max(a, b)});
                }
        return out;
    }
    float lengthOf(Edge e) const { return length(m_p[e.a] - m_p[e.b]); }
    float wantedAt(Edge e) const { return (m_edge[e.a] + m_edge[e.b]) / 2; }
    bool isKept(Edge e) const { return m_isFixed[e.a] && m_isFixed[e.b]; }
    Vec3f normalOf(const Triangle &t) const { return cross(m_p[t[1]] - m_p[t[0]], m_p[t[2]] - m_p[t[0]]); }

    /// How many triangles an edge has (up to 3); the first two of them.
    int trianglesOf(std::uint32_t a, std::uint32_t b, std::uint32_t two[2]) const
    {
        int n = 0;
        for (const std::uint32_t t : m_about[a]) {
            const Triangle &k = m_triangles[t];
            if (k[0] != b && k[1] != b && k[2] != b)
                continue;
            if (n < 2)
                two[n] = t;
            ++n;
        }
        return n;
    }
    static std::uint32_t third(const Triangle &t, std::uint32_t a, std::uint32_t b)
    {
        return t[0] != a && t[0] != b ? t[0] : t[1] != a && t[1] != b ? t[1] : t[2];
    }
    void forget(std::uint32_t v, std::uint32_t t) { std::erase(m_about[v], t); }
    std::uint32_t addTriangle(Triangle k)
    {
        m_triangles.push_back(k);
        m_isDead.push_back(0);
        const auto t = std::uint32_t(m_triangles.size() - 1);
        for (const std::uint32_t v : k)
            m_about[v].push_back(t);
        return t;
    }

    std::uint32_t split(Edge e, const std::uint32_t two[2])
    {
        m_isChanged = true;
        const auto m = std::uint32_t(m_p.size());
        m_p.push_back((m_p[e.a] + m_p[e.b]) * 0.5f);
        m_edge.push_back(wantedAt(e));
        m_isFixed.push_back(0);
        m_isGone.push_back(0);
        m_isMoved.push_back(1);
        m_isBorder.push_back(0);
        m_about.emplace_back();
        for (int k = 0; k < 2; ++k) {
            Triangle &t = m_triangles[two[k]];
            Triangle other = t; // the old one keeps a, the new one takes b
            *std::find(t.begin(), t.end(), e.b) = m;
            *std::find(other.begin(), other.end(), e.a) = m;
            forget(e.b, two[k]);
            m_about[m].push_back(two[k]);
            addTriangle(other);
        }
        return m;
    }

    /// Whether the triangles about v keep their side when it goes to `at`, leaving out those that hold `without`.
    bool isOpenMove(std::uint32_t v, Vec3f at, std::uint32_t without = kNone) const
    {
        for (const std::uint32_t t : m_about[v]) {
            const Triangle &k = m_triangles[t];
            if (k[0] == without || k[1] == without || k[2] == without)
                continue;
            Vec3f p[3];
            for (std::size_t i = 0; i < 3; ++i)
                p[i] = k[i] == v ? at : m_p[k[i]];
            const Vec3f was = normalOf(k), is = cross(p[1] - p[0], p[2] - p[0]);
            const float both = length(was) * length(is);
            if (!(dot(was, is) > kSameWay * both) || length(is) < 1e-4f * squaredLength(p[1] - p[0]))
                return false;
        }
        return true;
    }

    bool isFlat(std::uint32_t v, Vec3f normal) const
    {
        return std::all_of(m_about[v].begin(), m_about[v].end(), [&](std::uint32_t t) {
            const Vec3f n = normalOf(m_triangles[t]);
            return dot(n, normal) > kFlat * length(n);
        });
    }

    bool mayCollapse(Edge e) const
    {
        std::uint32_t two[2];
        if (trianglesOf(e.a, e.b, two) != 2)
            return false;
        const std::uint32_t c = third(m_triangles[two[0]], e.a, e.b), d = third(m_triangles[two[1]], e.a, e.b);
        // What a and b have in common besides c and d would become an edge of four triangles. Two of the border may meet
        // outside of the patch.
        for (const std::uint32_t t : m_about[e.a])
            for (const std::uint32_t v : m_triangles[t])
                if (v != e.a && v != e.b && v != c && v != d && ((m_isBorder[v] && m_isBorder[e.b]) || areNeighbours(v, e.b)))
                    return false;
        if (c == d || m_about[c].size() <= 3 || m_about[d].size() <= 3)
            return false;
        for (const std::uint32_t t : m_about[e.a])
            for (const std::uint32_t v : m_triangles[t])
                if (v != e.a && v != e.b && length(m_p[v] - m_p[e.b]) > kLong * (m_edge[v] + m_edge[e.b]) / 2)
                    return false;
        return isOpenMove(e.a, m_p[e.b], e.b);
    }
    bool areNeighbours(std::uint32_t v, std::uint32_t w) const
    {
        for (const std::uint32_t t : m_about[v])
            if (const Triangle &k = m_triangles[t]; k[0] == w || k[1] == w || k[2] == w)
                return true;
        return false;
    }
    void collapse(Edge e)
    {
        const std::vector<std::uint32_t> about = std::move(m_about[e.a]);
        m_about[e.a].clear();
        m_isGone[e.a] = 1;
        m_isChanged = true;
        for (const std::uint32_t t : about) {
            Triangle &k = m_triangles[t];
            if (k[0] == e.b || k[1] == e.b || k[2] == e.b) {
                m_isDead[t] = 1;
                for (const std::uint32_t v : k)
                    if (v != e.a)
                        forget(v, t);
            } else {
                *std::find(k.begin(), k.end(), e.a) = e.b;
                m_about[e.b].push_back(t);
            }
        }
    }

    static float cotangent(Vec3f at, Vec3f a, Vec3f b)
    {
        const Vec3f u = a - at, v = b - at;
        return dot(u, v) / std::max(length(cross(u, v)), 1e-20f);
    }
    bool turn(Edge e)
    {
        std::uint32_t two[2];
        if (isKept(e) || trianglesOf(e.a, e.b, two) != 2)
            return false;
        const Triangle &s = m_triangles[two[0]], &t = m_triangles[two[1]];
        const std::uint32_t c = third(s, e.a, e.b), d = third(t, e.a, e.b);
        if (c == d || (m_isFixed[c] && m_isFixed[d]) || m_about[e.a].size() <= 3 || m_about[e.b].size() <= 3
            || areNeighbours(c, d))
            return false;
        // Angles that add up to more than pi have cotangents that add up to less than 0.
        if (cotangent(m_p[c], m_p[e.a], m_p[e.b]) + cotangent(m_p[d], m_p[e.a], m_p[e.b]) > -1e-3f)
            return false;
        const Vec3f ns = normalOf(s), nt = normalOf(t);
        if (dot(ns, nt) < kFlat * length(ns) * length(nt))
            return false;
        // s holds a and b in that order, or the other way round.
        const std::size_t i = std::size_t(std::find(s.begin(), s.end(), e.a) - s.begin());
        const bool isForward = s[(i + 1) % 3] == e.b;
        const std::uint32_t a = isForward ? e.a : e.b, b = isForward ? e.b : e.a;
        const Triangle u{a, d, c}, w{d, b, c};
        const Vec3f nu = normalOf(u), nw = normalOf(w), sum = ns + nt;
        if (dot(nu, sum) < kSameWay * length(nu) * length(sum) || dot(nw, sum) < kSameWay * length(nw) * length(sum))
            return false;
        m_triangles[two[0]] = u, m_triangles[two[1]] = w;
        forget(b, two[0]);
        forget(a, two[1]);
        m_about[d].push_back(two[0]);
        m_about[c].push_back(two[1]);
        return true;
    }

    bool m_isChanged = false;
    std::vector<Vec3f> m_p, m_start;
    std::vector<float> m_edge;
    std::vector<std::uint8_t> m_isFixed, m_isGone, m_isMoved, m_isBorder;
    std::vector<Triangle> m_triangles;
    std::vector<std::uint8_t> m_isDead;
    std::vector<std::vector<std::uint32_t>> m_about;
};

} // namespace

EvenedPatch evenOut(const EdgePatch &patch, int passes, std::size_t mostVertices)
{
    assert(patch.edge.size() == patch.positions.size() && patch.isFixed.size() == patch.positions.size());
    PolyMesh start{patch.positions, {}};
    for (const Triangle &t : patch.triangles)
        start.faces.push_back({{t[0], t[1], t[2], kNone}});
    Mesh mesh(patch);
    if (start.faces.empty())
        return {};
    const NearestFaces before(start);
    mesh.keepStart(start);
    for (int pass = 0; pass < passes; ++pass) {
        mesh.splitLong(mostVertices);
        mesh.collapseShort();
        if (!mesh.isChanged())
            break; // edges that are right already are left alone
        mesh.turnEdges();
        mesh.relax(before);
    }
    if (mesh.isChanged())
        mesh.turnEdges();
    return mesh.take(before);
}

} // namespace bonemoss::mesh
