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

/// Lattice lines from lo to hi (both counted) lie within a triangle's box along each axis.
struct Span {
    std::int32_t lo[3], hi[3];
    bool isEmpty(int axis) const { return lo[axis] > hi[axis]; }
};

Span spanOf(const Lattice &a, const Lattice &b, const Lattice &c)
{
    Span s;
    for (int k = 0; k < 3; ++k) {
        s.lo[k] = (std::min({a.p[k], b.p[k], c.p[k]}) + std::int32_t(kSub) - 1) >> kSubBits;
        s.hi[k] = std::max({a.p[k], b.p[k], c.p[k]}) >> kSubBits;
    }
    return s;
}

/// Which lattice lines pass through a triangle seen along `axis`, and where they cross it.
/// Each line passes through exactly one of two triangles that share an edge: an edge owns the points
/// on it when it points up, or points left when level (the rule of polygon rasterisers).
template <typename Visit>
void scanTriangle(const Lattice &a, const Lattice &b0, const Lattice &c0, const Span &span, int axis, const Visit &visit)
{
    const int u = axis == 2 ? 0 : axis + 1, v = axis == 0 ? 2 : axis - 1;
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
    const std::int64_t ta = owns(b, c) ? 0 : 1, tb = owns(c, a) ? 0 : 1;
    const std::int64_t most = total - (owns(a, b) ? 0 : 1); // of the two together
    const std::int64_t left = std::int64_t(span.lo[u]) * kSub, low = std::int64_t(span.lo[v]) * kSub;
    std::int64_t rowA = edge(b, c, left, low), rowB = edge(c, a, left, low);
    const std::int64_t acrossA = -std::int64_t(c.p[v] - b.p[v]) * kSub, acrossB = -std::int64_t(a.p[v] - c.p[v]) * kSub;
    const std::int64_t upA = std::int64_t(c.p[u] - b.p[u]) * kSub, upB = std::int64_t(a.p[u] - c.p[u]) * kSub;
    for (std::int32_t j = span.lo[v]; j <= span.hi[v]; ++j, rowA += upA, rowB += upB) {
        std::int64_t wa = rowA, wb = rowB;
        for (std::int32_t i = span.lo[u]; i <= span.hi[u]; ++i, wa += acrossA, wb += acrossB) {
            if (wa < ta || wb < tb || wa + wb > most)
                continue;
            const double at =
                (double(wa) * double(a.p[axis]) + double(wb) * double(b.p[axis]) + double(total - wa - wb) * double(c.p[axis]))
                / double(total);
            visit(i, j, at, area > 0 ? -1 : 1); // facing + : leaving the solid
        }
    }
}

/// Records of one chunk of triangles.
void scanChunk(const mesh::PolyMesh &mesh, const std::vector<Lattice> &points, BlockRange r, const SignGrid &grid,
               detail::Records &out, bool keepsFaces)
{
    const auto record = [&](int axis, std::int32_t i, std::int32_t j, double at, int step) {
        const double cell = at * (1.0 / double(kSub));
        const auto k = std::int32_t(cell); // coordinates are positive
        std::int32_t q[3];
        q[axis] = k, q[axis == 2 ? 0 : axis + 1] = i, q[axis == 0 ? 2 : axis - 1] = j;
        const auto part = std::uint32_t((cell - double(k)) * 65536.0);
        const std::size_t block = grid.denseIndex(q[0] >> 3, q[1] >> 3, q[2] >> 3);
        const std::uint32_t local = std::uint32_t((q[0] & 7) << 6 | (q[2] & 7) << 3 | (q[1] & 7)) | std::uint32_t(axis) << 9;
        out.crossings.push_back(
            {std::uint32_t(block), std::uint16_t(local | (step > 0 ? 0x8000u : 0u)), std::uint16_t(std::min(part, 65535u))});
    };
    out.crossings.reserve((r.end - r.begin) * 4);
    if (keepsFaces)
        out.faces.reserve((r.end - r.begin) * 4);
    for (std::size_t f = r.begin; f < r.end; ++f) {
        const mesh::Face &face = mesh.faces[f];
        const std::size_t before = out.crossings.size();
        for (int half = 0; half < face.size() - 2; ++half) {
            const Lattice &a = points[face.v[0]], &b = points[face.v[std::size_t(half) + 1]],
                          &c = points[face.v[std::size_t(half) + 2]];
            const Span span = spanOf(a, b, c);
            const bool none[3] = {span.isEmpty(0), span.isEmpty(1), span.isEmpty(2)};
            if (none[0] + none[1] + none[2] > 1)
                continue; // no line in its box
            const auto visit = [&](int axis) {
                return [&record, axis](std::int32_t i, std::int32_t j, double at, int step) { record(axis, i, j, at, step); };
            };
            if (!none[1] && !none[2])
                scanTriangle(a, b, c, span, 0, visit(0));
            if (!none[2] && !none[0])
                scanTriangle(a, b, c, span, 1, visit(1));
            if (!none[0] && !none[1])
                scanTriangle(a, b, c, span, 2, visit(2));
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
