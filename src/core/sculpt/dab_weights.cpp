#include "sculpt/dab_weights.h"

#include "base/parallel.h"

#include <algorithm>
#include <cstring>
#include <limits>
#include <numeric>

namespace bonemoss::sculpt {

namespace {

/// Where all of a closed skin inside the ball faces the dab more than this (cosine), no line along the
/// dab's normal can meet it twice: between two such meetings lies one that faces away, and it lies in the
/// ball too. So the skin in the ball is one sheet, and nothing needs to be followed from face to face.
constexpr float kPlainlyFacing = 0.3f;

/// Weight from the squared distance over the squared radius, without a branch, so that the loop over a
/// block is done in vector registers.
template <Falloff F> void weighByDistance(float *w, std::size_t n, float inverseSquare)
{
    for (std::size_t i = 0; i < n; ++i) {
        const float q = std::min(w[i] * inverseSquare, 1.0f);
        if constexpr (F == Falloff::Dome)
            w[i] = (1 - q) * (1 - q);
        else
            w[i] = weightOf(F, std::sqrt(q));
    }
}

/// The least of what is made of arrays at each of n places, four at a time: a comparison that waits for the one before
/// costs more than all else in such a loop. made(at, i) is asked for four and for single places; at reads an array there.
template <typename Made> float leastOf(std::size_t n, const Made &made)
{
    const auto four = [](const float *from, std::size_t i) {
        mesh::Lanes v;
        std::memcpy(&v, from + i, sizeof v);
        return v;
    };
    constexpr float kFar = std::numeric_limits<float>::max();
    mesh::Lanes lanes[2] = {{kFar, kFar, kFar, kFar}, {kFar, kFar, kFar, kFar}};
    std::size_t i = 0;
    for (; i + 8 <= n; i += 8)
        for (std::size_t k = 0; k < 2; ++k) {
            const mesh::Lanes v = made(four, i + 4 * k);
            lanes[k] = v < lanes[k] ? v : lanes[k];
        }
    float least = kFar;
    for (std::size_t k = 0; k < 4; ++k)
        least = std::min({least, lanes[0][k], lanes[1][k]});
    for (; i < n; ++i)
        least = std::min(least, made([](const float *from, std::size_t at) { return from[at]; }, i));
    return least;
}

/// A drawn falloff, looked up in a table made once for the block.
void weighAsDrawn(const DrawnFalloff &drawn, float *w, std::size_t n, float inverseSquare)
{
    constexpr std::size_t kSteps = 64;
    float table[kSteps + 2];
    for (std::size_t k = 0; k < kSteps + 2; ++k)
        table[k] = weightOf(drawn, float(k) / kSteps);
    for (std::size_t i = 0; i < n; ++i) {
        const float t = std::sqrt(std::min(w[i] * inverseSquare, 1.0f)) * kSteps;
        const auto k = std::size_t(t);
        w[i] = table[k] + (table[k + 1] - table[k]) * (t - float(k));
    }
}

void weighByDistance(const Spread &spread, float *w, std::size_t n, float inverseSquare)
{
    if (spread.reach > 1) {
        for (std::size_t i = 0; i < n; ++i) { // smoothly out over the last quarter
            const float t = std::clamp(4 - 4 * std::sqrt(w[i] * inverseSquare), 0.0f, 1.0f);
            w[i] = t * t * (3 - 2 * t);
        }
        return;
    }
    switch (spread.falloff) {
    case Falloff::Dome: return weighByDistance<Falloff::Dome>(w, n, inverseSquare);
    case Falloff::Soft: return weighByDistance<Falloff::Soft>(w, n, inverseSquare);
    case Falloff::Sharp: return weighByDistance<Falloff::Sharp>(w, n, inverseSquare);
    case Falloff::Plateau: return weighByDistance<Falloff::Plateau>(w, n, inverseSquare);
    case Falloff::Line: return weighByDistance<Falloff::Line>(w, n, inverseSquare);
    case Falloff::Drawn: return weighAsDrawn(spread.drawn, w, n, inverseSquare);
    }
}

/// Root of a group in a forest of parents, halving the way.
std::uint32_t rootOf(std::vector<std::uint32_t> &parent, std::uint32_t v)
{
    while (parent[v] != v)
        v = parent[v] = parent[parent[v]];
    return v;
}

} // namespace

void DabWeights::weigh(const mesh::Surface &surface, const Dab &dab, std::uint32_t b, const Spread &spread, Part &part)
{
    part.isReached = squaredDistance(surface.bounds[b]->box, dab.centre) < dab.radius * dab.radius;
    if (!part.isReached) // one of several dabs that share a list
        return;
    const std::size_t n = surface.positions.countIn(b);
    const Vec3f *p = surface.positions.data(b);
    part.weight.resize(n);
    float *w = part.weight.data();
    const Vec3f c = dab.centre;
    for (std::size_t i = 0; i < n; ++i) {
        const float x = p[i].x - c.x, y = p[i].y - c.y, z = p[i].z - c.z;
        w[i] = x * x + y * y + z * z;
    }
    const float least = leastOf(n, [&](auto at, auto i) { return at(w, i); });
    const float most = -leastOf(n, [&](auto at, auto i) { return -at(w, i); });
    const float limit = dab.radius * dab.radius;
    part.isReached = least < limit;
    part.isWhole = most < limit;
    if (!part.isReached)
        return;
    const mesh::PackedNormal *normals = surface.normals.data(b);
    const Vec3f d = dab.normal * (1 / 32767.0f);
    thread_local std::vector<float> scratch;
    scratch.resize(n);
    float *facing = scratch.data();
    for (std::size_t i = 0; i < n; ++i)
        facing[i] = float(normals[i].x) * d.x + float(normals[i].y) * d.y + float(normals[i].z) * d.z;
    part.isPlain = leastOf(n,
                           [&](auto at, auto i) {
                               const auto square = at(w, i), turned = at(facing, i);
                               return square < limit ? turned : turned * 0 + 1;
                           })
                   > kPlainlyFacing; // the least that any vertex inside faces the dab
    // The middle lies on the skin: of a thin part's two sides the one that faces the dab is meant.
    part.nearest = part.isPlain ? least : std::numeric_limits<float>::max();
    part.nearestAt = kNone; // in plain skin looked for when it is wanted, which is seldom
    for (std::size_t i = 0; !part.isPlain && i < n; ++i)
        if (const float far = w[i] + (facing[i] <= 0 ? limit : 0); w[i] < limit && far < part.nearest) // 0: no face has it
            part.nearest = far, part.nearestAt = std::uint32_t(i);
    weighByDistance(spread, w, n, 1 / limit);
    if (spread.facesTheBrush)
        for (std::size_t i = 0; i < n; ++i)
            w[i] *= std::min(std::max(facing[i] * 4 + 0.2f, 0.0f), 1.0f);
    if (spread.stencil)
        for (std::size_t i = 0; i < n; ++i)
            if (w[i] > 0)
                w[i] *= spread.stencil->openness(spread.toStencil.apply(p[i]));
    if (spread.island && spread.island->blocks[b] != mesh::Island::All)
        for (std::size_t i = 0; i < n; ++i)
            w[i] = spread.island->blocks[b] == mesh::Island::Some && spread.island->some[b][i] ? w[i] : 0;
    if (const std::uint8_t *hidden = surface.hidden.data(b))
        for (std::size_t i = 0; i < n; ++i)
            w[i] = hidden[i] ? 0 : w[i];
}

void DabWeights::findGroups(const mesh::Surface &surface, const Dab &dab, std::uint32_t b, Part &part)
{
    const mesh::BlockFaces &faces = surface.topology->block(b);
    part.groups = 1;
    thread_local std::vector<std::uint8_t> inside; // scratch
    inside.resize(faces.own + faces.borrowed.size());
    const Vec3f *p = surface.positions.data(b);
    const float limit = dab.radius * dab.radius;
    for (std::size_t i = 0; i < faces.own; ++i)
        inside[i] = squaredLength(p[i] - dab.centre) < limit;
    bool isWhole = part.isWhole;
    for (std::size_t i = 0; i < faces.borrowed.size(); ++i) {
        inside[faces.own + i] = squaredLength(surface.positions[faces.borrowed[i]] - dab.centre) < limit;
        isWhole = isWhole && inside[faces.own + i];
    }
    if (!isWhole || !faces.isOnePiece())
        part.groups = groupsOf(faces, inside, part.group);
}

void DabWeights::keepConnected(const mesh::Surface &surface, const Dab &dab, const std::vector<std::uint32_t> &blocks)
{
    bool isOneSheet = true;
    for (std::size_t k = 0; k < blocks.size() && isOneSheet; ++k)
        isOneSheet = !m_blocks[k].isReached || (m_blocks[k].isPlain && surface.topology->block(blocks[k]).isClosed());
    if (isOneSheet)
        return;
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        if (m_blocks[r.begin].isReached)
            findGroups(surface, dab, blocks[r.begin], m_blocks[r.begin]);
    });
    // Groups of neighbouring blocks are one where a block has borrowed a vertex inside the ball.
    std::vector<std::uint32_t> first(blocks.size() + 1, 0);
    std::size_t seed = blocks.size();
    for (std::size_t k = 0; k < blocks.size(); ++k) {
        const Part &part = m_blocks[k];
        first[k + 1] = first[k] + (part.isReached ? part.groups : 0);
        if (part.isReached && (seed == blocks.size() || part.nearest < m_blocks[seed].nearest))
            seed = k;
    }
    if (first.back() < 2)
        return;
    std::vector<std::uint32_t> parent(first.back());
    std::iota(parent.begin(), parent.end(), 0u);
    const auto groupOf = [&](std::size_t k, std::uint32_t l) {
        return first[k] + (m_blocks[k].groups > 1 ? m_blocks[k].group[l] : 0);
    };
    const float limit = dab.radius * dab.radius;
    for (std::size_t k = 0; k < blocks.size(); ++k) {
        if (!m_blocks[k].isReached)
            continue;
        const mesh::BlockFaces &faces = surface.topology->block(blocks[k]);
        for (std::size_t i = 0; i < faces.borrowed.size(); ++i) {
            const std::uint32_t v = faces.borrowed[i], owner = v / std::uint32_t(mesh::kBlockSize);
            if (squaredLength(surface.positions[v] - dab.centre) >= limit)
                continue;
            const auto at = std::lower_bound(blocks.begin(), blocks.end(), owner);
            if (at == blocks.end() || *at != owner)
                continue;
            const auto other = std::size_t(at - blocks.begin());
            const std::uint32_t mine = rootOf(parent, groupOf(k, faces.own + std::uint32_t(i)));
            const std::uint32_t theirs = rootOf(parent, groupOf(other, v % std::uint32_t(mesh::kBlockSize)));
            parent[std::max(mine, theirs)] = std::min(mine, theirs);
        }
    }
    std::uint32_t nearest = m_blocks[seed].nearestAt;
    if (nearest == kNone) {
        const Vec3f *p = surface.positions.data(blocks[seed]);
        const auto isNearer = [&](Vec3f a, Vec3f b) { return squaredLength(a - dab.centre) < squaredLength(b - dab.centre); };
        nearest = std::uint32_t(std::min_element(p, p + surface.positions.countIn(blocks[seed]), isNearer) - p);
    }
    const std::uint32_t kept = rootOf(parent, groupOf(seed, nearest));
    for (std::size_t k = 0; k < blocks.size(); ++k) {
        Part &part = m_blocks[k];
        if (!part.isReached)
            continue;
        if (part.groups == 1) {
            part.isReached = rootOf(parent, first[k]) == kept;
            continue;
        }
        for (std::size_t i = 0; i < part.weight.size(); ++i)
            if (part.group[i] == mesh::kLocalNone || rootOf(parent, groupOf(k, std::uint32_t(i))) != kept)
                part.weight[i] = 0;
    }
}

void DabWeights::compute(const mesh::Surface &surface, const Dab &given, const std::vector<std::uint32_t> &blocks,
                         const Spread &spread)
{
    Dab dab = given;
    dab.radius *= spread.reach;
    m_blocks.resize(std::max(m_blocks.size(), blocks.size()));
    forEachBlock(blocks.size(), 1, [&](BlockRange r) { weigh(surface, dab, blocks[r.begin], spread, m_blocks[r.begin]); });
    if (spread.isConnected)
        keepConnected(surface, dab, blocks);
}

} // namespace bonemoss::sculpt
