#include "field/mesh_crossings.h"

#include "base/parallel.h"
#include "field/detail/line_signs.h"

#include <algorithm>
#include <atomic>
#include <fmt/format.h>

namespace bonemoss::field {

namespace {

using detail::Crossing;

constexpr int kSubBits = 12; // vertices snap to 1/4096 of a cell, then all is exact
constexpr std::int64_t kSub = 1 << kSubBits;
constexpr std::size_t kTrianglesPerChunk = 8192;

struct Lattice {
    std::int32_t p[3]; // 1/4096 cells; 3,000 cells a side leave room
};

/// Which lattice lines pass through a triangle seen along `axis`, and where they cross it.
/// Each line passes through exactly one of two triangles that share an edge: an edge owns the points
/// on it when it points up, or points left when level (the rule of polygon rasterisers).
template <typename Visit> void scanTriangle(const Lattice &a, const Lattice &b0, const Lattice &c0, int axis, const Visit &visit)
{
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    const auto up = [](std::int32_t x) { return (x + std::int32_t(kSub) - 1) >> kSubBits; };
    const std::int32_t u0 = up(std::min({a.p[u], b0.p[u], c0.p[u]})), u1 = std::max({a.p[u], b0.p[u], c0.p[u]}) >> kSubBits;
    const std::int32_t v0 = up(std::min({a.p[v], b0.p[v], c0.p[v]})), v1 = std::max({a.p[v], b0.p[v], c0.p[v]}) >> kSubBits;
    if (u0 > u1 || v0 > v1)
        return; // no line in its box
    const auto edge = [&](const Lattice &s, const Lattice &e, std::int64_t pu, std::int64_t pv) {
        return std::int64_t(e.p[u] - s.p[u]) * (pv - s.p[v]) - std::int64_t(e.p[v] - s.p[v]) * (pu - s.p[u]);
    };
    const std::int64_t area = edge(a, b0, c0.p[u], c0.p[v]);
    if (area == 0)
        return; // seen edge on: its neighbours account for the lines
    const Lattice &b = area > 0 ? b0 : c0, &c = area > 0 ? c0 : b0;
    const std::int64_t total = area > 0 ? area : -area;
    const auto owns = [&](const Lattice &s, const Lattice &e) {
        const std::int32_t du = e.p[u] - s.p[u], dv = e.p[v] - s.p[v];
        return dv > 0 || (dv == 0 && du < 0);
    };
    const std::int64_t ta = owns(b, c) ? 0 : 1, tb = owns(c, a) ? 0 : 1, tc = owns(a, b) ? 0 : 1;
    const double inv = 1.0 / double(total);
    for (std::int64_t j = v0; j <= v1; ++j)
        for (std::int64_t i = u0; i <= u1; ++i) {
            const std::int64_t wa = edge(b, c, i * kSub, j * kSub);
            const std::int64_t wb = edge(c, a, i * kSub, j * kSub);
            const std::int64_t wc = total - wa - wb;
            if (wa < ta || wb < tb || wc < tc)
                continue;
            const double at =
                (double(wa) * double(a.p[axis]) + double(wb) * double(b.p[axis]) + double(wc) * double(c.p[axis])) * inv;
            visit(i, j, at, area > 0 ? -1 : 1); // facing + : leaving the solid
        }
}

/// Records of one chunk of triangles.
void scanChunk(const mesh::PolyMesh &mesh, const std::vector<Lattice> &points, BlockRange r, const SignGrid &grid,
               detail::Records &out, bool keepsFaces)
{
    const auto record = [&](int axis, std::int64_t i, std::int64_t j, double at, int step) {
        const double cell = at * (1.0 / double(kSub));
        const std::int64_t k = std::int64_t(cell); // coordinates are positive
        std::int64_t q[3];
        q[axis] = k, q[(axis + 1) % 3] = i, q[(axis + 2) % 3] = j;
        const auto part = std::uint32_t((cell - double(k)) * 65536.0);
        const std::size_t block = grid.denseIndex(int(q[0] >> 3), int(q[1] >> 3), int(q[2] >> 3));
        const std::uint32_t local = std::uint32_t((q[0] & 7) << 6 | (q[2] & 7) << 3 | (q[1] & 7)) | std::uint32_t(axis) << 9;
        out.crossings.push_back(
            {std::uint32_t(block), std::uint16_t(local | (step > 0 ? 0x8000u : 0u)), std::uint16_t(std::min(part, 65535u))});
    };
    for (std::size_t f = r.begin; f < r.end; ++f) {
        const mesh::Face &face = mesh.faces[f];
        const std::size_t before = out.crossings.size();
        for (int half = 0; half < face.size() - 2; ++half) {
            const Lattice &a = points[face.v[0]], &b = points[face.v[std::size_t(half) + 1]],
                          &c = points[face.v[std::size_t(half) + 2]];
            for (int axis = 0; axis < 3; ++axis)
                scanTriangle(a, b, c, axis,
                             [&](std::int64_t i, std::int64_t j, double at, int step) { record(axis, i, j, at, step); });
        }
        if (keepsFaces)
            out.faces.insert(out.faces.end(), out.crossings.size() - before, std::uint32_t(f));
    }
}

Status layOut(const Box3f &box, float spacing, SignGrid &grid)
{
    grid.spacing = spacing;
    const Vec3f margin{2 * spacing, 2 * spacing, 2 * spacing};
    grid.origin = box.lo - margin;
    const Vec3f cells = (box.size() + margin * 2) * (1 / spacing);
    const auto blocks = [](float n) { return int(std::min(n / 8.0f, 1e6f)) + 1; };
    grid.nx = blocks(cells.x), grid.ny = blocks(cells.y), grid.nz = blocks(cells.z);
    if (std::max({grid.nx, grid.ny, grid.nz}) > SignGrid::kMaxBlocksPerSide)
        return Error{
            ErrorCode::TooLarge, "spacing",
            fmt::format("{:g} mm would need more than {} cells along one side", spacing, SignGrid::kMaxBlocksPerSide * 8)};
    return Done{};
}

std::vector<Lattice> toLattice(const mesh::PolyMesh &mesh, const SignGrid &grid)
{
    std::vector<Lattice> points(mesh.positions.size());
    const double scale = double(kSub) / double(grid.spacing);
    forEachBlock(points.size(), 16384, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i) {
            const Vec3f p = mesh.positions[i];
            for (int axis = 0; axis < 3; ++axis)
                points[i].p[axis] = std::int32_t((double(at(p, axis)) - double(at(grid.origin, axis))) * scale + 0.5);
        }
    });
    return points;
}

} // namespace

namespace {

/// Signed volume about the middle of the box: below zero where a mesh is inside out.
double signedVolume(const mesh::PolyMesh &mesh, Vec3f middle)
{
    return sumBlocks<double>(mesh.faces.size(), kTrianglesPerChunk, [&](BlockRange r) {
        double sum = 0;
        for (std::size_t f = r.begin; f < r.end; ++f) {
            const mesh::Face &face = mesh.faces[f];
            for (int half = 0; half < face.size() - 2; ++half)
                sum += double(
                    dot(mesh.positions[face.v[0]] - middle, cross(mesh.positions[face.v[std::size_t(half) + 1]] - middle,
                                                                  mesh.positions[face.v[std::size_t(half) + 2]] - middle)));
        }
        return sum;
    });
}

} // namespace

Result<SignGrid> crossMesh(const mesh::PolyMesh &mesh, float spacing, const Progress &progress, bool keepsFaces)
{
    assert(spacing > 0);
    if (mesh.faces.empty())
        return Error{ErrorCode::Empty, "mesh", "it has no faces"};
    SignGrid grid;
    const Box3f box = mesh::boundsOf(mesh.positions);
    if (const Status laid = layOut(box, spacing, grid); !laid)
        return laid.error();
    const std::vector<Lattice> points = toLattice(mesh, grid);
    const std::size_t chunks = (mesh.faces.size() + kTrianglesPerChunk - 1) / kTrianglesPerChunk;
    std::vector<detail::Records> records(chunks);
    const bool isInsideOut = signedVolume(mesh, box.centre()) < 0;
    const bool scanned = forEachBlock(mesh.faces.size(), kTrianglesPerChunk, progress.stop, [&](BlockRange r) {
        detail::Records &mine = records[r.begin / kTrianglesPerChunk];
        scanChunk(mesh, points, r, grid, mine, keepsFaces);
        if (isInsideOut)
            for (Crossing &c : mine.crossings)
                c.edge ^= 0x8000u;
    });
    if (!scanned)
        return Error{ErrorCode::Cancelled, "knit", "stopped on request"};
    progress.say(0.4f, "inside and outside");
    detail::resolveLines(grid, records);
    return grid;
}

} // namespace bonemoss::field
