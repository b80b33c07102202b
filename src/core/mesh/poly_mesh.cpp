#include "mesh/poly_mesh.h"

#include "mesh/topology.h"

#include <algorithm>
#include <numeric>

namespace bonemoss::mesh {

namespace {
std::uint64_t spread(std::uint64_t x)
{
    x &= 0x1fffff;
    x = (x | x << 32) & 0x1f00000000ffffull;
    x = (x | x << 16) & 0x1f0000ff0000ffull;
    x = (x | x << 8) & 0x100f00f00f00f00full;
    x = (x | x << 4) & 0x10c30c30c30c30c3ull;
    return (x | x << 2) & 0x1249249249249249ull;
}
} // namespace

std::uint64_t hilbertCode(std::uint32_t x, std::uint32_t y, std::uint32_t z, int bits)
{
    // J. Skilling, "Programming the Hilbert curve", AIP Conference Proceedings 707, 2004: from the largest
    // cube down, undo the turn and the reflection of the curve in it; then the Gray code of what is left.
    std::uint32_t axis[3] = {x, y, z};
    for (std::uint32_t half = 1u << (bits - 1); half > 1; half >>= 1) {
        const std::uint32_t below = half - 1;
        for (std::uint32_t &a : axis) {
            const bool isUpper = a & half;
            const std::uint32_t swapped = isUpper ? 0 : (axis[0] ^ a) & below;
            axis[0] ^= isUpper ? below : swapped;
            a ^= swapped;
        }
    }
    axis[1] ^= axis[0];
    axis[2] ^= axis[1];
    std::uint32_t turn = 0;
    for (std::uint32_t half = 1u << (bits - 1); half > 1; half >>= 1)
        turn ^= axis[2] & half ? half - 1 : 0;
    return spread(axis[0] ^ turn) << 2 | spread(axis[1] ^ turn) << 1 | spread(axis[2] ^ turn);
}

Box3f boundsOf(const std::vector<Vec3f> &positions)
{
    Box3f box;
    for (const Vec3f p : positions)
        box.add(p);
    return box;
}

void append(PolyMesh &to, const PolyMesh &from)
{
    const auto base = std::uint32_t(to.positions.size());
    to.positions.insert(to.positions.end(), from.positions.begin(), from.positions.end());
    to.faces.reserve(to.faces.size() + from.faces.size());
    for (Face f : from.faces) {
        for (std::uint32_t &v : f.v)
            v = v == kNone ? kNone : v + base;
        to.faces.push_back(f);
    }
}

PolyMesh mirrored(PolyMesh mesh)
{
    for (Vec3f &p : mesh.positions)
        p = bonemoss::mirrored(p);
    for (Face &f : mesh.faces)
        std::swap(f.v[0], f.v[2]);
    return mesh;
}

/// Points at which very many faces meet borrow as many vertices; only so many of them go together in a block. Those that are too
/// many for one go to the beginning of the next.
static void spreadFans(const PolyMesh &mesh, std::vector<std::pair<std::uint64_t, std::uint32_t>> &keys)
{
    constexpr std::uint32_t kFan = 256;   // faces at a point
    constexpr std::size_t kRoom = 52'000; // vertices that the fans of a block may borrow, of the 61,439 that it can
    std::vector<std::uint32_t> uses(keys.size(), 0);
    std::uint32_t most = 0;
    for (const Face &f : mesh.faces)
        for (const std::uint32_t v : f.v)
            if (v != kNone)
                most = std::max(most, ++uses[v]);
    if (most <= kFan)
        return;
    std::vector<std::pair<std::uint64_t, std::uint32_t>> order, later;
    order.reserve(keys.size());
    std::size_t room = kRoom, nextLater = 0;
    const auto place = [&](const auto &key, bool isForced) {
        const std::size_t needs = uses[key.second] > kFan ? 2 * std::size_t(uses[key.second]) : 0;
        if (needs > room && !isForced)
            return false;
        room -= std::min(room, needs);
        order.push_back(key);
        if (order.size() % kBlockSize == 0)
            room = kRoom;
        return true;
    };
    for (const auto &key : keys) {
        while (nextLater < later.size() && place(later[nextLater], false))
            ++nextLater;
        if (!place(key, false))
            later.push_back(key);
    }
    while (nextLater < later.size())
        place(later[nextLater++], true);
    keys = std::move(order);
}

bool fitsBlocks(const PolyMesh &mesh)
{
    const std::size_t blocks = blockCountFor(mesh.positions.size());
    std::vector<std::vector<std::uint32_t>> borrowed(blocks);
    std::vector<std::size_t> bound(blocks, 0); // of each block: corners elsewhere of faces that touch it
    const auto eachAcross = [&](const auto &visit) {
        for (const Face &f : mesh.faces)
            for (int c = 0; c < f.size(); ++c)
                for (int d = 0; d < f.size(); ++d)
                    if (f.v[std::size_t(c)] / kBlockSize != f.v[std::size_t(d)] / kBlockSize)
                        visit(f.v[std::size_t(c)] / kBlockSize, f.v[std::size_t(d)]);
    };
    static constexpr std::size_t kMost = kLocalNone - kBlockSize; // local corners have 16 bits
    eachAcross([&](std::size_t block, std::uint32_t) { ++bound[block]; });
    if (std::none_of(bound.begin(), bound.end(), [](std::size_t n) { return n > kMost; }))
        return true;
    eachAcross([&](std::size_t block, std::uint32_t v) {
        if (bound[block] > kMost)
            borrowed[block].push_back(v);
    });
    for (auto &list : borrowed) {
        std::sort(list.begin(), list.end());
        if (std::size_t(std::unique(list.begin(), list.end()) - list.begin()) > kMost)
            return false;
    }
    return true;
}

PolyMesh inSpatialOrder(const PolyMesh &mesh)
{
    const std::size_t n = mesh.positions.size();
    const Box3f box = boundsOf(mesh.positions);
    const float longest = std::max({box.size().x, box.size().y, box.size().z, 1e-20f});
    const float scale = 65535.0f / longest;
    std::vector<std::pair<std::uint64_t, std::uint32_t>> keys(n);
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3f g = (mesh.positions[i] - box.lo) * scale;
        keys[i] = {hilbertCode(std::uint32_t(g.x), std::uint32_t(g.y), std::uint32_t(g.z), 16), std::uint32_t(i)};
    }
    std::sort(keys.begin(), keys.end());
    spreadFans(mesh, keys);
    PolyMesh out;
    out.positions.resize(n);
    std::vector<std::uint32_t> place(n);
    for (std::size_t i = 0; i < n; ++i) {
        out.positions[i] = mesh.positions[keys[i].second];
        place[keys[i].second] = std::uint32_t(i);
    }
    out.faces = mesh.faces;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> order(out.faces.size());
    for (std::size_t f = 0; f < out.faces.size(); ++f) {
        std::uint32_t least = kNone;
        for (std::uint32_t &v : out.faces[f].v)
            if (v != kNone)
                v = place[v], least = std::min(least, v);
        order[f] = {least, std::uint32_t(f)};
    }
    std::sort(order.begin(), order.end());
    std::vector<Face> sorted(out.faces.size());
    for (std::size_t f = 0; f < sorted.size(); ++f)
        sorted[f] = out.faces[order[f].second];
    out.faces = std::move(sorted);
    return out;
}

std::vector<std::array<std::uint32_t, 3>> triangulate(const PolyMesh &mesh)
{
    std::vector<std::array<std::uint32_t, 3>> out;
    out.reserve(mesh.faces.size() * 2);
    for (const Face &f : mesh.faces) {
        std::array<Vec3f, 4> p;
        for (int k = 0; k < f.size(); ++k)
            p[std::size_t(k)] = mesh.positions[f.v[std::size_t(k)]];
        for (const auto &t : trianglesOf(f, p))
            if (t[0] != t[1])
                out.push_back({f.v[t[0]], f.v[t[1]], f.v[t[2]]});
    }
    return out;
}

} // namespace bonemoss::mesh
