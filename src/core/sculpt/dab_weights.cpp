#include "sculpt/dab_weights.h"

#include "base/parallel.h"

#include <algorithm>
#include <bit>
#include <cstring>
#include <limits>
#include <numeric>

namespace bonemoss::sculpt {

namespace {

/// Where all skin inside the ball faces the dab more than this (cosine), has no border there, and hangs together spot by
/// spot, it is one sheet: no line along the dab's normal can meet such a skin twice but where it has come round outside
/// of the ball, and a spot is not that long. Then nothing needs to be followed from face to face.
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

/// What is found out about the vertices that may lie in the ball.
struct Inside {
    float least = std::numeric_limits<float>::max(), most = 0; ///< squared distances of them all
    float leastFacing = 1;                                     ///< of those inside: the least that any faces the dab

    void add(const Inside &o)
    {
        least = std::min(least, o.least), most = std::max(most, o.most), leastFacing = std::min(leastFacing, o.leastFacing);
    }
};

using mesh::Lanes;

/// Squared distances of a run of vertices to square, how much they face the dab (cosine) to facing.
Inside insideOf(const mesh::Surface &surface, const Dab &dab, std::uint32_t block, BlockRange r, float *square, float *facing)
{
    const Vec3f *p = surface.positions.data(block);
    const mesh::PackedNormal *normals = surface.normals.data(block);
    const Vec3f c = dab.centre, d = dab.normal * (1 / 32767.0f);
    const float limit = dab.radius * dab.radius;
    Inside found;
    const auto one = [&](std::size_t i) {
        const float x = p[i].x - c.x, y = p[i].y - c.y, z = p[i].z - c.z;
        square[i] = x * x + y * y + z * z;
        facing[i] = float(normals[i].x) * d.x + float(normals[i].y) * d.y + float(normals[i].z) * d.z;
        found.least = std::min(found.least, square[i]), found.most = std::max(found.most, square[i]);
        found.leastFacing = std::min(found.leastFacing, square[i] < limit ? facing[i] : 1.0f);
    };
    std::size_t i = r.begin;
    const Lanes centre{c.x, c.y, c.z, 0}, turn{d.x, d.y, d.z, 0};
    Lanes least = Lanes{} + found.least, most{}, leastFacing = Lanes{} + 1;
    const auto away = [&](std::size_t at) { // from the middle, squared by coordinate
        Lanes v;
        std::memcpy(&v, p + at, sizeof v);
        v -= centre;
        return v * v;
    };
    typedef std::int16_t Halves __attribute__((vector_size(16)));
    typedef std::int32_t Whole __attribute__((vector_size(16)));
    const auto turned = [&](Halves twice) { // each number twice: its upper half, shifted down, is it with its sign
        return __builtin_convertvector(std::bit_cast<Whole>(twice) >> 16, Lanes) * turn;
    };
    for (; i + 5 <= r.end; i += 4) { // another follows in memory: four floats are read for three
        const Lanes far = mesh::sumsOfThree(away(i), away(i + 1), away(i + 2), away(i + 3));
        Halves a, b;
        std::memcpy(&a, normals + i, sizeof a);
        std::memcpy(&b, normals + i + 2, sizeof b);
        const Lanes faces = mesh::sumsOfThree(turned(__builtin_shufflevector(a, a, 0, 0, 1, 1, 2, 2, 3, 3)),
                                              turned(__builtin_shufflevector(a, a, 4, 4, 5, 5, 6, 6, 7, 7)),
                                              turned(__builtin_shufflevector(b, b, 0, 0, 1, 1, 2, 2, 3, 3)),
                                              turned(__builtin_shufflevector(b, b, 4, 4, 5, 5, 6, 6, 7, 7)));
        std::memcpy(square + i, &far, sizeof far);
        std::memcpy(facing + i, &faces, sizeof faces);
        least = far < least ? far : least;
        most = far > most ? far : most;
        const Lanes inside = far < limit ? faces : Lanes{} + 1;
        leastFacing = inside < leastFacing ? inside : leastFacing;
    }
    for (std::size_t k = 0; k < 4; ++k)
        found.add({least[k], most[k], leastFacing[k]});
    for (; i < r.end; ++i)
        one(i);
    return found;
}

/// Squared distances become weights.
void spreadOver(const mesh::Surface &surface, std::uint32_t b, const Spread &spread, BlockRange r, float inverseSquare,
                const float *facing, float *w)
{
    weighByDistance(spread, w + r.begin, r.end - r.begin, inverseSquare);
    if (spread.facesTheBrush)
        for (std::size_t i = r.begin; i < r.end; ++i)
            w[i] *= std::min(std::max(facing[i] * 4 + 0.2f, 0.0f), 1.0f);
    const Vec3f *p = surface.positions.data(b);
    for (std::size_t i = r.begin; spread.stencil && i < r.end; ++i)
        if (w[i] > 0)
            w[i] *= spread.stencil->openness(spread.toStencil.apply(p[i]));
    if (spread.island && spread.island->blocks[b] != mesh::Island::All)
        for (std::size_t i = r.begin; i < r.end; ++i)
            w[i] = spread.island->blocks[b] == mesh::Island::Some && spread.island->some[b][i] ? w[i] : 0;
    if (const std::uint8_t *hidden = surface.hidden.data(b))
        for (std::size_t i = r.begin; i < r.end; ++i)
            w[i] = hidden[i] ? 0 : w[i];
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
    const float limit = dab.radius * dab.radius;
    part.isReached = squaredDistance(surface.bounds[b]->box, dab.centre) < limit;
    if (!part.isReached) // one of several dabs that share a list
        return;
    const std::size_t n = surface.positions.countIn(b);
    part.spots = surface.bounds[b]->spots.near(dab.centre, limit);
    part.weight.resize(n);
    float *w = part.weight.data();
    mesh::eachRun(~part.spots, n, [&](std::size_t begin, std::size_t end) { std::fill(w + begin, w + end, 0.0f); });
    thread_local std::vector<float> facings; // scratch
    facings.resize(n);
    Inside all;
    mesh::eachRun(part.spots, n, [&](std::size_t begin, std::size_t end) {
        const BlockRange r{begin, end};
        all.add(insideOf(surface, dab, b, r, w, facings.data()));
        spreadOver(surface, b, spread, r, 1 / limit, facings.data(), w);
    });
    part.isReached = all.least < limit;
    part.isWhole = all.most < limit && ~part.spots == 0;
    part.isPlain = all.leastFacing > kPlainlyFacing;
    // The middle lies on the skin: of a thin part's two sides the one that faces the dab is meant.
    part.nearest = part.isPlain ? all.least : std::numeric_limits<float>::max();
    part.nearestAt = kNone; // in plain skin looked for when it is wanted, which is seldom
    if (!part.isPlain)
        mesh::eachRun(part.spots, n, [&](std::size_t begin, std::size_t end) {
            for (std::size_t i = begin; i < end; ++i) {
                const float square = squaredLength(surface.positions.data(b)[i] - dab.centre);
                if (const float far = square + (facings[i] <= 0 ? limit : 0); square < limit && far < part.nearest)
                    part.nearest = far, part.nearestAt = std::uint32_t(i); // a facing of 0: no face has it
            }
        });
    for (std::uint64_t bits = all.most < limit ? 0 : part.spots; bits; bits &= bits - 1) { // boxes that only seemed to be met
        const auto spot = std::size_t(std::countr_zero(bits)), begin = spot * mesh::kSpotSize;
        float *const last = w + std::min(begin + mesh::kSpotSize, n);
        if (std::all_of(w + begin, last, [](float weight) { return weight == 0; }))
            part.spots &= ~(std::uint64_t(1) << spot);
    }
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

/// Whether from each vertex inside the ball in some spots a side or diagonal of a face leads nearer to the middle: so that
/// a way leads out of them towards it.
static bool descends(const mesh::Surface &surface, const Dab &dab, std::uint32_t b, std::uint64_t spots)
{
    const mesh::BlockFaces &faces = surface.topology->block(b);
    const Vec3f *p = surface.positions.data(b);
    thread_local std::vector<std::uint8_t> does; // scratch
    does.assign(faces.own, 0);
    constexpr std::size_t kFaces = mesh::BlockFaces::SpotLinks::kFaces;
    for (std::size_t i = 0; i < faces.faces.size(); ++i) {
        if (!(faces.spotLinks().ofFaces[i / kFaces] & spots)) {
            i += kFaces - 1; // to the next that are told together
            continue;
        }
        const mesh::LocalFace &f = faces.faces[i];
        std::array<float, 4> far;
        for (std::size_t c = 0; c < 4; ++c) {
            const std::uint16_t l = f.v[c] == mesh::kLocalNone ? f.v[0] : f.v[c];
            far[c] = squaredLength((l < faces.own ? p[l] : surface.positions[faces.borrowed[l - faces.own]]) - dab.centre);
        }
        const float least = std::min(std::min(far[0], far[1]), std::min(far[2], far[3]));
        for (std::size_t c = 0; c < 4; ++c)
            if (f.v[c] < faces.own && far[c] > least)
                does[f.v[c]] = 1;
    }
    const float limit = dab.radius * dab.radius;
    bool all = true;
    mesh::eachRun(spots, faces.own, [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i)
            all = all && (does[i] || squaredLength(p[i] - dab.centre) >= limit);
    });
    return all;
}

bool DabWeights::isOneSheet(const mesh::Surface &surface, const Dab &dab, const std::vector<std::uint32_t> &blocks) const
{
    using Links = mesh::BlockFaces::SpotLinks;
    const float limit = dab.radius * dab.radius;
    std::vector<const Links *> links(blocks.size(), nullptr);
    std::vector<std::uint64_t> left(blocks.size(), 0); // spots not yet come to
    std::size_t first = blocks.size();
    for (std::size_t k = 0; k < blocks.size(); ++k) {
        if (!m_blocks[k].isReached || !m_blocks[k].spots)
            continue;
        const mesh::BlockFaces &faces = surface.topology->block(blocks[k]);
        const Vec3f *p = surface.positions.data(blocks[k]);
        const auto &open = faces.openVertices();
        if (!m_blocks[k].isPlain
            || std::any_of(open.begin(), open.end(), [&](auto i) { return squaredLength(p[i] - dab.centre) < limit; }))
            return false;
        links[k] = &faces.spotLinks();
        left[k] = m_blocks[k].spots & links[k]->whole;
        if (left[k])
            first = std::min(first, k);
    }
    if (first == blocks.size())
        return false;
    const auto placeOf = [&](std::uint32_t b) {
        const auto at = std::lower_bound(blocks.begin(), blocks.end(), b);
        return at != blocks.end() && *at == b && links[std::size_t(at - blocks.begin())] ? std::size_t(at - blocks.begin())
                                                                                         : blocks.size();
    };
    // From one spot on to those that share faces with it, as far as the dab reaches: first within a block, then across.
    std::vector<std::uint64_t> fresh(blocks.size(), 0);
    std::vector<std::size_t> next;
    const auto come = [&](std::size_t k, std::uint64_t spots) {
        if (spots &= left[k]; spots && !fresh[k])
            next.push_back(k);
        left[k] &= ~spots, fresh[k] |= spots;
    };
    come(first, left[first] & (~left[first] + 1));
    while (!next.empty()) {
        const std::size_t k = next.back();
        std::uint64_t spots = 0;
        while (fresh[k]) {
            const std::uint64_t spot = fresh[k] & (~fresh[k] + 1);
            spots |= spot;
            const std::uint64_t beside = links[k]->besideOwn[std::size_t(std::countr_zero(spot))] & left[k];
            left[k] &= ~beside, fresh[k] = (fresh[k] & ~spot) | beside;
        }
        next.pop_back();
        for (const Links::Across &a : links[k]->across)
            if (const std::size_t o = a.own & spots ? placeOf(a.block) : blocks.size(); o < blocks.size())
                come(o, std::uint64_t(1) << a.spot);
    }
    // All whole spots were come to, and each piece of the others lies beside one.
    const auto isMet = [&](std::size_t k, std::uint64_t spots) { return (spots & m_blocks[k].spots & links[k]->whole) != 0; };
    for (std::size_t k = 0; k < blocks.size(); ++k) {
        if (left[k])
            return false;
        if (!links[k])
            continue;
        std::uint64_t rest = 0;
        for (const Links::Piece &piece : links[k]->pieces)
            if (m_blocks[k].spots >> piece.spot & 1 && !isMet(k, piece.own)
                && std::none_of(piece.across.begin(), piece.across.end(), [&](const Links::Across &a) {
                       const std::size_t o = placeOf(a.block);
                       return o < blocks.size() && isMet(o, std::uint64_t(1) << a.spot);
                   }))
                rest |= std::uint64_t(1) << piece.spot;
        if (rest && !descends(surface, dab, blocks[k], rest))
            return false;
    }
    return true;
}

void DabWeights::keepConnected(const mesh::Surface &surface, const Dab &dab, const std::vector<std::uint32_t> &blocks)
{
    if (isOneSheet(surface, dab, blocks))
        return;
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        if (m_blocks[r.begin].isReached)
            findGroups(surface, dab, blocks[r.begin], m_blocks[r.begin]);
    });
    const float limit = dab.radius * dab.radius;
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
