#include "io/mesh_file.h"

#include "base/parallel.h"

#include <algorithm>
#include <bit>
#include <fmt/format.h>
#include <numeric>

namespace bonemoss::io {

namespace {

/// A vertex with more faces than this would not fit the 16-bit corners of a block.
constexpr std::uint32_t kMostFacesAtVertex = 4000;

/// Spreads a point's bits; 0 and -0 are one.
std::uint64_t hashOf(Vec3f p)
{
    const auto bits = [](float v) { return std::uint64_t(std::bit_cast<std::uint32_t>(v + 0.0f)); };
    std::uint64_t h = (bits(p.x) | bits(p.y) << 32) * 0x9E3779B97F4A7C15ull;
    h = (h ^ h >> 32 ^ bits(p.z)) * 0xC2B2AE3D27D4EB4Full;
    return h ^ h >> 29;
}

/// Gives equal points one number; the first of them stays. Returns how many went. O(points) on average.
std::size_t mergeEqual(RawMesh &raw)
{
    const auto &p = raw.positions;
    const std::size_t slots = std::bit_ceil(p.size() * 2 + 1);
    std::vector<std::uint32_t> table(slots, kNone), target(p.size());
    std::vector<std::uint64_t> hashes(p.size());
    forEachBlock(p.size(), 65536, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i)
            hashes[i] = hashOf(p[i]) & (slots - 1);
    });
    constexpr std::size_t kAhead = 12; // slots fetched before their turn: each is a miss of the cache
    std::size_t merged = 0;
    for (std::size_t i = 0; i < p.size(); ++i) {
        if (i + kAhead < p.size())
            __builtin_prefetch(&table[hashes[i + kAhead]]);
        std::size_t at = hashes[i];
        while (table[at] != kNone && !(p[table[at]] == p[i]))
            at = (at + 1) & (slots - 1);
        if (table[at] == kNone)
            table[at] = std::uint32_t(i);
        else
            ++merged;
        target[i] = table[at];
    }
    for (std::uint32_t &c : raw.corners)
        c = target[c];
    return merged;
}

/// Splits vertices of enormous fans among several copies at the same place; the shape is unchanged.
std::size_t splitFans(mesh::PolyMesh &mesh)
{
    std::vector<std::uint32_t> uses(mesh.positions.size(), 0);
    std::vector<std::uint32_t> current(mesh.positions.size());
    std::iota(current.begin(), current.end(), 0u);
    std::size_t split = 0;
    for (mesh::Face &f : mesh.faces)
        for (std::uint32_t &v : f.v) {
            if (v == kNone)
                continue;
            if (++uses[v] % kMostFacesAtVertex == 0) {
                current[v] = std::uint32_t(mesh.positions.size());
                mesh.positions.push_back(mesh.positions[v]);
                uses.push_back(0);
                current.push_back(current[v]);
                ++split;
            }
            v = current[v];
        }
    return split;
}

void dropUnused(mesh::PolyMesh &mesh, std::size_t &dropped)
{
    std::vector<std::uint32_t> place(mesh.positions.size(), kNone);
    for (const mesh::Face &f : mesh.faces)
        for (const std::uint32_t v : f.v)
            if (v != kNone)
                place[v] = 0;
    std::uint32_t next = 0;
    for (std::size_t v = 0; v < place.size(); ++v)
        if (place[v] == 0) {
            mesh.positions[next] = mesh.positions[v];
            place[v] = next++;
        }
    dropped = mesh.positions.size() - next;
    mesh.positions.resize(next);
    for (mesh::Face &f : mesh.faces)
        for (std::uint32_t &v : f.v)
            if (v != kNone)
                v = place[v];
}

} // namespace

Result<ImportedMesh> repair(RawMesh raw)
{
    const auto malformed = [](std::string why) { return Error{ErrorCode::Malformed, "", std::move(why)}; };
    for (Vec3f &p : raw.positions) {
        if (!isFinite(p))
            return malformed("a coordinate is not a finite number");
        if (std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)}) > 1e9f)
            return malformed("a coordinate is beyond a thousand kilometres");
        if (raw.zUp)
            p = {p.x, p.z, -p.y};
    }
    for (const std::uint32_t c : raw.corners)
        if (c >= raw.positions.size())
            return malformed(fmt::format("a face refers to point {} of {}", c, raw.positions.size()));
    ImportedMesh out;
    const auto note = [&](const char *what, std::size_t n, std::optional<Vec3f> first = {}) {
        if (n > 0)
            out.repairs.push_back({what, n, first});
    };
    std::optional<Vec3f> firstFanned, firstDegenerate, firstFlat;
    const auto meet = [&](std::size_t &count, std::optional<Vec3f> &first, std::uint32_t corner) {
        if (count++ == 0)
            first = raw.positions[corner];
    };
    if (raw.mergeEqualPoints)
        note("equal points joined", mergeEqual(raw));
    std::size_t fanned = 0, degenerate = 0, flat = 0, unused = 0;
    out.mesh.faces.reserve(raw.faceEnds.size());
    const auto add = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d) {
        if (a == b || b == c || c == a || (d != kNone && (d == a || d == b || d == c))) {
            meet(degenerate, firstDegenerate, a);
            return;
        }
        const auto &p = raw.positions;
        if (d == kNone && cross(p[b] - p[a], p[c] - p[a]) == Vec3f{})
            meet(flat, firstFlat, a);
        out.mesh.faces.push_back({{a, b, c, d}});
    };
    std::uint32_t begin = 0;
    for (const std::uint32_t end : raw.faceEnds) {
        const std::uint32_t *c = raw.corners.data() + begin;
        const std::uint32_t n = end - begin;
        begin = end;
        if (n < 3) {
            n > 0 ? meet(degenerate, firstDegenerate, c[0]) : void(++degenerate);
        } else if (n <= 4) {
            add(c[0], c[1], c[2], n == 4 ? c[3] : kNone);
        } else {
            meet(fanned, firstFanned, c[0]);
            for (std::uint32_t k = 1; k + 1 < n; ++k)
                add(c[0], c[k], c[k + 1], kNone);
        }
    }
    note("polygons of more than four corners cut into triangles", fanned, firstFanned);
    note("faces without area (repeated corners) left out", degenerate, firstDegenerate);
    note("faces without area (corners in a line) kept, as their neighbours need them", flat, firstFlat);
    if (out.mesh.faces.empty())
        return Error{ErrorCode::Empty, "", "it holds no faces"};
    out.mesh.positions = std::move(raw.positions);
    dropUnused(out.mesh, unused);
    note("points without faces left out", unused);
    note("points of very large fans doubled in place", splitFans(out.mesh));
    return out;
}

} // namespace bonemoss::io
