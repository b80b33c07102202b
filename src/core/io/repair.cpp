#include "io/mesh_file.h"

#include "base/parallel.h"

#include <algorithm>
#include <atomic>
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

void dropUnused(mesh::PolyMesh &mesh, const std::vector<std::uint32_t> &uses)
{
    std::vector<std::uint32_t> place(mesh.positions.size(), kNone);
    std::uint32_t next = 0;
    for (std::size_t v = 0; v < place.size(); ++v)
        if (uses[v] > 0) {
            mesh.positions[next] = mesh.positions[v];
            place[v] = next++;
        }
    mesh.positions.resize(next);
    for (mesh::Face &f : mesh.faces)
        for (std::uint32_t &v : f.v)
            if (v != kNone)
                v = place[v];
}

/// How many, and where the first of them is.
struct Met {
    std::size_t count = 0;
    std::optional<Vec3f> first;

    void add(Vec3f at)
    {
        if (count++ == 0)
            first = at;
    }
    void add(const Met &later)
    {
        count += later.count;
        first = first ? first : later.first;
    }
};

/// Faces made of a run of polygons, and what was met on the way.
struct Run {
    std::vector<mesh::Face> faces;
    Met fanned, degenerate, flat;

    void add(const std::vector<Vec3f> &p, std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d)
    {
        if (a == b || b == c || c == a || (d != kNone && (d == a || d == b || d == c)))
            return degenerate.add(p[a]);
        if (d == kNone && cross(p[b] - p[a], p[c] - p[a]) == Vec3f{})
            flat.add(p[a]);
        faces.push_back({{a, b, c, d}});
    }
    void addPolygon(const std::vector<Vec3f> &p, std::span<const std::uint32_t> c)
    {
        if (c.empty())
            ++degenerate.count;
        else if (c.size() < 3)
            degenerate.add(p[c[0]]);
        else if (c.size() <= 4)
            add(p, c[0], c[1], c[2], c.size() == 4 ? c[3] : kNone);
        else {
            fanned.add(p[c[0]]);
            for (std::size_t k = 1; k + 1 < c.size(); ++k)
                add(p, c[0], c[k], c[k + 1], kNone);
        }
    }
};

/// The polygons as triangles and quads, run by run side by side.
Run facesOf(const RawMesh &raw)
{
    constexpr std::size_t kRun = 65536;
    std::vector<Run> runs((raw.faceEnds.size() + kRun - 1) / kRun);
    forEachBlock(raw.faceEnds.size(), kRun, [&](BlockRange r) {
        Run &run = runs[r.begin / kRun];
        run.faces.reserve(r.end - r.begin);
        for (std::size_t f = r.begin; f < r.end; ++f) {
            const std::uint32_t begin = f > 0 ? raw.faceEnds[f - 1] : 0;
            run.addPolygon(raw.positions, {raw.corners.data() + begin, raw.faceEnds[f] - begin});
        }
    });
    Run all;
    std::size_t count = 0;
    for (const Run &r : runs)
        count += r.faces.size();
    all.faces.reserve(count);
    for (Run &r : runs) {
        all.faces.insert(all.faces.end(), r.faces.begin(), r.faces.end());
        all.fanned.add(r.fanned), all.degenerate.add(r.degenerate), all.flat.add(r.flat);
        r.faces = {};
    }
    return all;
}

/// What is wrong with the numbers of a mesh, if anything; and turns it upright.
std::optional<std::string> check(RawMesh &raw)
{
    constexpr std::size_t kRun = 65536;
    std::atomic<bool> isNumber = true, isNear = true;
    forEachBlock(raw.positions.size(), kRun, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i) {
            Vec3f &p = raw.positions[i];
            if (!isFinite(p))
                isNumber = false;
            else if (std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)}) > 1e9f)
                isNear = false;
            if (raw.zUp)
                p = {p.x, p.z, -p.y};
        }
    });
    if (!isNumber)
        return "a coordinate is not a finite number";
    if (!isNear)
        return "a coordinate is beyond a thousand kilometres";
    std::vector<std::uint32_t> most((raw.corners.size() + kRun - 1) / kRun, 0);
    forEachBlock(raw.corners.size(), kRun, [&](BlockRange r) {
        most[r.begin / kRun] =
            *std::max_element(raw.corners.begin() + std::ptrdiff_t(r.begin), raw.corners.begin() + std::ptrdiff_t(r.end));
    });
    for (const std::uint32_t c : most)
        if (c >= raw.positions.size())
            return fmt::format("a face refers to point {} of {}", c, raw.positions.size());
    return std::nullopt;
}

} // namespace

Result<ImportedMesh> repair(RawMesh raw)
{
    if (const auto wrong = check(raw))
        return Error{ErrorCode::Malformed, "", *wrong};
    ImportedMesh out;
    out.repairs = std::move(raw.remarks);
    const auto note = [&](const char *what, std::size_t n, std::optional<Vec3f> first = {}) {
        if (n > 0)
            out.repairs.push_back({what, n, first});
    };
    if (raw.mergeEqualPoints)
        note("equal points joined", mergeEqual(raw));
    Run made = facesOf(raw);
    note("polygons of more than four corners cut into triangles", made.fanned.count, made.fanned.first);
    note("faces without area (repeated corners) left out", made.degenerate.count, made.degenerate.first);
    note("faces without area (corners in a line) kept, as their neighbours need them", made.flat.count, made.flat.first);
    if (made.faces.empty())
        return Error{ErrorCode::Empty, "", "it holds no faces"};
    out.mesh.faces = std::move(made.faces);
    out.mesh.positions = std::move(raw.positions);
    std::vector<std::uint32_t> uses(out.mesh.positions.size(), 0);
    for (const mesh::Face &f : out.mesh.faces)
        for (const std::uint32_t v : f.v)
            if (v != kNone)
                ++uses[v];
    const auto unused = std::size_t(std::count(uses.begin(), uses.end(), 0u));
    const bool hasFans = *std::max_element(uses.begin(), uses.end()) >= kMostFacesAtVertex;
    if (unused > 0)
        dropUnused(out.mesh, uses);
    note("points without faces left out", unused);
    if (hasFans)
        note("points of very large fans doubled in place", splitFans(out.mesh));
    return out;
}

} // namespace bonemoss::io
