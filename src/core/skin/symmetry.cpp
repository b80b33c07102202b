#include "skin/symmetry.h"

#include "base/parallel.h"
#include "skin/attributes.h"
#include "skin/level_values.h"
#include "skin/levels.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <unordered_map>

namespace bonemoss::skin {

namespace {

using mesh::BlockArray;
using mesh::Face;
using mesh::kBlockSize;
using mesh::NearestFace;

std::uint64_t keyOf(std::uint32_t a, std::uint32_t b)
{
    return std::uint64_t(a) << 32 | b;
}

/// Walks the faces on both sides of a seam at once, mirrored: twins of vertices, or nothing where the two differ.
class MirrorWalk
{
public:
    MirrorWalk(const std::vector<Face> &faces, std::size_t vertices) : m_faces(faces), m_twin(vertices, kNone)
    {
        m_faceAt.reserve(faces.size() * 4);
        for (std::uint32_t f = 0; f < faces.size(); ++f)
            for (int k = 0; k < faces[f].size(); ++k)
                m_faceAt[keyOf(corner(f, k), corner(f, k + 1))] = f;
    }

    /// From an edge that lies on the seam; its faces on both sides are each other's twins.
    bool walk(std::uint32_t a, std::uint32_t b)
    {
        std::vector<Pair> open;
        if (!meet(a, a) || !meet(b, b))
            return false;
        open.push_back({a, b, b, a});
        std::vector<bool> isSeen(m_faces.size(), false);
        while (!open.empty()) {
            const Pair p = open.back();
            open.pop_back();
            const auto left = m_faceAt.find(keyOf(p.a, p.b)), right = m_faceAt.find(keyOf(p.c, p.d));
            if ((left == m_faceAt.end()) != (right == m_faceAt.end()))
                return false;
            if (left == m_faceAt.end() || isSeen[left->second])
                continue;
            isSeen[left->second] = true;
            const int n = m_faces[left->second].size();
            if (m_faces[right->second].size() != n)
                return false;
            // Left runs on from a to b, right from d back to c.
            int i = indexOf(left->second, p.a), j = indexOf(right->second, p.d);
            for (int k = 0; k < n; ++k)
                if (!meet(corner(left->second, i + k), corner(right->second, j - k)))
                    return false;
            for (int k = 0; k < n; ++k) {
                const std::uint32_t u = corner(left->second, i + k), v = corner(left->second, i + k + 1);
                open.push_back({v, u, m_twin[u], m_twin[v]});
            }
        }
        return true;
    }
    bool isWhole() const { return std::find(m_twin.begin(), m_twin.end(), kNone) == m_twin.end(); }
    const std::vector<std::uint32_t> &twins() const { return m_twin; }
    void forget() { std::fill(m_twin.begin(), m_twin.end(), kNone); }

private:
    struct Pair {
        std::uint32_t a, b, c, d; ///< the directed edge a b, and c d whose face is the twin
    };
    std::uint32_t corner(std::uint32_t f, int k) const
    {
        const int n = m_faces[f].size();
        return m_faces[f].v[std::size_t((k % n + n) % n)];
    }
    int indexOf(std::uint32_t f, std::uint32_t v) const
    {
        int k = 0;
        while (corner(f, k) != v)
            ++k;
        return k;
    }
    bool meet(std::uint32_t a, std::uint32_t b)
    {
        if (m_twin[a] == kNone && m_twin[b] == kNone) {
            m_twin[a] = b, m_twin[b] = a;
            return true;
        }
        return m_twin[a] == b && m_twin[b] == a;
    }

    const std::vector<Face> &m_faces;
    std::unordered_map<std::uint64_t, std::uint32_t> m_faceAt;
    std::vector<std::uint32_t> m_twin;
};

constexpr int kTries = 24; // seam edges to begin from

/// Twins by the mirrored faces; empty where there is no such pairing of all.
std::vector<std::uint32_t> twinsByTopology(const Skin &skin)
{
    const std::vector<Face> faces = skin.shown.topology->faces();
    const float near = 0.3f * meanEdgeLength(skin.shown);
    std::vector<std::pair<float, std::pair<std::uint32_t, std::uint32_t>>> seams; // the nearest to the plane first
    for (const Face &f : faces)
        for (int k = 0; k < f.size(); ++k) {
            const std::uint32_t a = f.v[std::size_t(k)], b = f.v[std::size_t((k + 1) % f.size())];
            const float off = std::max(std::abs(skin.body[a].x), std::abs(skin.body[b].x));
            if (a < b && off < near)
                seams.push_back({off, {a, b}});
        }
    std::sort(seams.begin(), seams.end());
    MirrorWalk walk(faces, skin.body.size());
    for (std::size_t k = 0; k < seams.size() && k < kTries; ++k) {
        walk.forget();
        if (walk.walk(seams[k].second.first, seams[k].second.second) && walk.isWhole())
            return walk.twins();
    }
    return {};
}

Vec3f blended(const std::vector<Vec3f> &from, const NearestFace &at)
{
    return from[at.corners[0]] * at.weights[0] + from[at.corners[1]] * at.weights[1] + from[at.corners[2]] * at.weights[2];
}

/// Each value as its own and its twin's, in shares.
template <typename Share>
void mixWithTwins(BlockArray<std::uint8_t> &values, const std::vector<NearestFace> &partner, const Share &shareOf)
{
    if (values.isBlank())
        return;
    const std::vector<std::uint8_t> was = values.flatten();
    std::vector<std::uint8_t> now(was.size());
    for (std::size_t v = 0; v < now.size(); ++v) {
        float there = 0;
        for (std::size_t k = 0; k < partner[v].corners.size(); ++k)
            there += float(was[partner[v].corners[k]]) * partner[v].weights[k];
        now[v] = std::uint8_t(std::lround(std::lerp(float(was[v]), there, shareOf(v))));
    }
    values = BlockArray<std::uint8_t>(now);
    dropBlank(values);
}

/// A number cannot be mixed: it is that of the greater share.
template <typename T, typename Share>
void takeFromTwins(BlockArray<T> &values, const std::vector<NearestFace> &partner, const Share &shareOf)
{
    if (values.isBlank())
        return;
    const std::vector<T> was = values.flatten();
    std::vector<T> now = was;
    for (std::size_t v = 0; v < now.size(); ++v)
        if (const auto &w = partner[v].weights; shareOf(v) > 0.5f)
            now[v] = was[partner[v].corners[std::size_t(std::max_element(w.begin(), w.end()) - w.begin())]];
    values = BlockArray<T>(now);
    dropBlank(values);
}

/// All attributes but what is hidden, which is a matter of seeing.
template <typename Share> void mixAttributesWithTwins(Skin &skin, const std::vector<NearestFace> &partner, const Share &shareOf)
{
    eachAttribute(skin, [&]<typename T>(const AttributeKind &kind, const std::string &, BlockArray<T> &values) {
        if constexpr (std::is_same_v<T, std::uint8_t>)
            if (kind.blend == Blend::Mix)
                return mixWithTwins(values, partner, shareOf);
        if (static_cast<const void *>(&values) != &skin.shown.hidden)
            takeFromTwins(values, partner, shareOf);
    });
    composeColours(skin);
}

} // namespace

std::vector<NearestFace> mirrorPartners(const Skin &skin, bool &byTopology)
{
    const std::vector<std::uint32_t> twins = twinsByTopology(skin);
    byTopology = !twins.empty();
    std::vector<NearestFace> out;
    if (byTopology) {
        for (std::size_t v = 0; v < twins.size(); ++v)
            out.push_back({{twins[v], twins[v], twins[v]}, {1, 0, 0}, 0});
        return out;
    }
    std::vector<Vec3f> there = skin.shown.positions.flatten();
    for (Vec3f &p : there)
        p = mirrored(p);
    return nearestFaces(skin.shown, there, 2 * meanEdgeLength(skin.shown));
}

SymmetryReport symmetrise(Skin &skin, Symmetry how, std::uint32_t layerId)
{
    SymmetryReport report;
    if (!hasSurface(skin))
        skin.shown = surfaceOf(skin);
    const std::vector<NearestFace> partner = mirrorPartners(skin, report.byTopology);
    const std::size_t n = skin.body.size();
    const std::vector<Vec3f> body = skin.body.flatten(), shown = skin.shown.positions.flatten();
    const std::vector<std::uint8_t> mask = skin.mask.flatten();
    for (std::size_t v = 0; v < n; ++v) {
        const double d = double(length(mirrored(blended(shown, partner[v])) - shown[v]));
        report.meanMm += d / double(n);
        report.largestMm = std::max(report.largestMm, d);
    }
    // Which share of a value comes from its twin: seam vertices and means are half each.
    const float seam = 1e-4f + 1e-3f * meanEdgeLength(skin.shown);
    const auto shareOf = [&](std::size_t v) {
        const bool isSeam = std::abs(body[v].x) < seam || (report.byTopology && partner[v].corners[0] == v);
        float share = 0.5f;
        if (how == Symmetry::FromLeft && !isSeam)
            share = body[v].x < 0 ? 1 : 0;
        if (how == Symmetry::FromRight && !isSeam)
            share = body[v].x > 0 ? 1 : 0;
        return share * (1 - float(mask[v]) / 255);
    };
    const auto symmetric = [&](const std::vector<Vec3f> &of) {
        std::vector<Vec3f> out(n);
        forEachBlock(n, kBlockSize, [&](BlockRange r) {
            for (std::size_t v = r.begin; v < r.end; ++v)
                out[v] = lerp(of[v], mirrored(blended(of, partner[v])), shareOf(v));
        });
        return out;
    };
    const std::vector<Vec3f> even = symmetric(body);
    if (how == Symmetry::Layer) {
        Layer rest(n);
        rest.id = layerId;
        rest.name = "Asymmetry";
        std::vector<Vec3f> off(n);
        for (std::size_t v = 0; v < n; ++v)
            off[v] = body[v] - even[v];
        rest.offsets = BlockArray<Vec3f>(off);
        skin.layers.insert(skin.layers.begin(), std::move(rest));
    } else { // what lies on the skin as well as its shape
        for (Layer &l : skin.layers) {
            if (!l.offsets.isBlank())
                l.offsets = BlockArray<Vec3f>(symmetric(l.offsets.flatten()));
            mixWithTwins(l.mask, partner, shareOf);
        }
        mixAttributesWithTwins(skin, partner, shareOf);
    }
    skin.body = BlockArray<Vec3f>(even);
    std::vector<std::uint32_t> all(skin.body.blockCount());
    std::iota(all.begin(), all.end(), 0u);
    mixBlocks(skin, all);
    return report;
}

} // namespace bonemoss::skin
