#include "mesh/section.h"

#include <algorithm>
#include <limits>
#include <unordered_map>

namespace bonemoss::mesh {

namespace {

/// An edge of the mesh by its two vertices, the smaller first.
using EdgeKey = std::uint64_t;

struct Crossing {
    Vec3f at;
    EdgeKey next[2] = {0, 0};
    int links = 0;
    bool isUsed = false;
};

class Cutter
{
public:
    Cutter(Vec3f point, Vec3f normal) : m_point(point), m_normal(normal) {}

    void addBlock(const Surface &s, std::size_t b)
    {
        gatherPositions(s, b, m_positions);
        const BlockFaces &f = s.topology->block(b);
        m_heights.resize(m_positions.size());
        for (std::size_t i = 0; i < m_positions.size(); ++i)
            m_heights[i] = dot(m_positions[i] - m_point, m_normal);
        for (std::size_t i = 0; i < f.drawnFaces; ++i) {
            const LocalFace &l = f.faces[i];
            // As triangles: a quad that is not flat may be crossed four times.
            for (int t = 0; t + 2 < l.size(); ++t)
                addTriangle(f, b, {l.v[0], l.v[std::size_t(t + 1)], l.v[std::size_t(t + 2)]});
        }
    }
    std::vector<Section> lines()
    {
        std::vector<Section> out;
        for (const bool closed : {false, true}) // open lines from their ends first; what is left are rings
            for (const EdgeKey key : m_order) {
                Crossing &start = m_crossings.at(key);
                if (!start.isUsed && (closed || start.links == 1))
                    out.push_back(follow(key, closed));
            }
        return out;
    }

private:
    void addTriangle(const BlockFaces &f, std::size_t b, std::array<std::uint32_t, 3> v)
    {
        EdgeKey found[2];
        int n = 0;
        for (std::size_t e = 0; e < 3 && n < 2; ++e) {
            const std::uint32_t i = v[e], j = v[(e + 1) % 3];
            if ((m_heights[i] >= 0) == (m_heights[j] >= 0))
                continue;
            const auto global = [&](std::uint32_t k) {
                return k < f.own ? std::uint64_t(b) * kBlockSize + k : std::uint64_t(f.borrowed[k - f.own]);
            };
            const std::uint64_t gi = global(i), gj = global(j);
            const EdgeKey key = (std::min(gi, gj) << 32 | std::max(gi, gj)) + 1; // never 0
            Crossing &c = m_crossings[key];
            if (c.links == 0) {
                m_order.push_back(key);
                // From the same end whichever face asks, so that the bits do not depend on the order.
                const bool turned = gi > gj;
                const float hi = m_heights[turned ? j : i], hj = m_heights[turned ? i : j];
                c.at = lerp(m_positions[turned ? j : i], m_positions[turned ? i : j], hi / (hi - hj));
            }
            found[n++] = key;
        }
        if (n < 2)
            return;
        for (int k = 0; k < 2; ++k) {
            Crossing &c = m_crossings[found[k]];
            if (c.links < 2)
                c.next[c.links++] = found[1 - k];
        }
    }
    Section follow(EdgeKey key, bool closed)
    {
        Section s;
        s.isClosed = closed;
        for (EdgeKey at = key; at != 0;) {
            Crossing &c = m_crossings.at(at);
            c.isUsed = true;
            s.points.push_back(c.at);
            EdgeKey next = 0;
            for (int k = 0; k < c.links; ++k)
                if (!m_crossings.at(c.next[k]).isUsed)
                    next = c.next[k];
            at = next;
        }
        Vec3f twice;
        const std::size_t n = s.points.size();
        for (std::size_t i = 0; i + (closed ? 0 : 1) < n; ++i) {
            const Vec3f a = s.points[i], b = s.points[(i + 1) % n];
            s.length += bonemoss::length(b - a);
            twice += cross(a - s.points[0], b - s.points[0]);
        }
        s.area = closed ? std::abs(dot(twice, m_normal)) / 2 : 0;
        return s;
    }

    Vec3f m_point, m_normal;
    std::unordered_map<EdgeKey, Crossing> m_crossings;
    std::vector<EdgeKey> m_order; // so that results do not depend on the map
    std::vector<Vec3f> m_positions;
    std::vector<float> m_heights;
};

} // namespace

std::vector<Section> sections(const Surface &s, Vec3f point, Vec3f normal)
{
    Cutter cutter(point, normal);
    for (std::size_t b = 0; b < s.topology->blockCount(); ++b) {
        const Box3f &box = s.bounds[b]->box;
        const Vec3f half = box.size() * 0.5f;
        const float reach = std::abs(normal.x) * half.x + std::abs(normal.y) * half.y + std::abs(normal.z) * half.z;
        if (std::abs(dot(box.centre() - point, normal)) <= reach * 1.0001f + 1e-4f)
            cutter.addBlock(s, b);
    }
    return cutter.lines();
}

const Section *nearestSection(const std::vector<Section> &all, Vec3f place)
{
    const Section *best = nullptr;
    float nearest = std::numeric_limits<float>::max();
    for (const Section &s : all)
        for (const Vec3f p : s.points)
            if (const float d = squaredLength(p - place); d < nearest)
                nearest = d, best = &s;
    return best;
}

} // namespace bonemoss::mesh
