#include "field/mesh_crossings.h"

#include "base/parallel.h"
#include "field/detail/line_signs.h"

#include <algorithm>
#include <atomic>
#include <cmath>
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

/// Lattice lines from lo to hi (both counted) lie within a face's box along each axis.
struct Span {
    std::int32_t lo[3], hi[3];
    bool isEmpty(int axis) const { return lo[axis] > hi[axis]; }
};

using Corners = std::array<const Lattice *, 4>; // the fourth of a triangle is its third again

Span spanOf(const Corners &c)
{
    Span s;
    for (int k = 0; k < 3; ++k) {
        const std::int32_t p[4] = {c[0]->p[k], c[1]->p[k], c[2]->p[k], c[3]->p[k]};
        s.lo[k] = (std::min(std::min(p[0], p[1]), std::min(p[2], p[3])) + std::int32_t(kSub) - 1) >> kSubBits;
        s.hi[k] = std::max(std::max(p[0], p[1]), std::max(p[2], p[3])) >> kSubBits;
    }
    return s;
}

/// A side of a face seen along an axis: on which hand of it a lattice line passes, followed from line to line.
/// The lattice is taken to lie a very little towards - of where it does, by far the most along x, least along z: so no line
/// passes through a side, of two triangles that share one each line passes through one, and no sample lies on the surface.
/// (H. Edelsbrunner, E. Muecke, "Simulation of Simplicity", 1990.)
struct Side {
    std::int64_t at, across; ///< twice the area of the triangle of side and line, 1/4096 cells squared; and from line to line
    std::int64_t bias;

    template <int U, int V> void start(const Lattice &s, const Lattice &e, std::int64_t u, std::int64_t v)
    {
        const std::int64_t du = e.p[U] - s.p[U], dv = e.p[V] - s.p[V];
        at = du * (v - s.p[V]) - dv * (u - s.p[U]);
        across = -dv * kSub;
        constexpr bool isMoreAlongV = V < U;
        const std::int64_t first = isMoreAlongV ? -du : dv, second = isMoreAlongV ? dv : -du;
        bias = first > 0 || (first == 0 && second > 0) ? 0 : 1;
    }
    bool isLeft() const { return at >= bias; }
};

/// Whether a point on a triangle, moved as the lattice is, is behind it.
bool isBehind(const Lattice &a, const Lattice &b, const Lattice &c)
{
    for (int k = 0; k < 3; ++k) {
        const int u = (k + 1) % 3, v = (k + 2) % 3;
        const std::int64_t area =
            std::int64_t(b.p[u] - a.p[u]) * (c.p[v] - a.p[v]) - std::int64_t(b.p[v] - a.p[v]) * (c.p[u] - a.p[u]);
        if (area != 0)
            return area > 0;
    }
    return false;
}

/// Which lattice lines pass through a face seen along an axis, and where they cross its two triangles: those that have all
/// three sides on one hand.
template <int Axis, typename Visit> void scanFace(const Corners &c, const Span &span, const Visit &visit)
{
    constexpr int kU = Axis == 2 ? 0 : Axis + 1, kV = Axis == 0 ? 2 : Axis - 1;
    std::array<Side, 5> side; // 0 1, 1 2, 2 3, 3 0, and 2 0 across
    const auto cross = [&](std::int32_t i, std::int32_t j, std::int64_t wa, std::int64_t wb, std::int64_t wc, std::size_t b) {
        const std::int64_t total = wa + wb + wc;
        if (total == 0)
            return; // seen edge on: its neighbours account for the lines
        const double at =
            (double(wa) * double(c[0]->p[Axis]) + double(wb) * double(c[b]->p[Axis]) + double(wc) * double(c[b + 1]->p[Axis]))
            / double(total) * (1.0 / double(kSub));
        const bool enters = total < 0; // facing + : leaving the solid
        auto k = std::int32_t(at);     // coordinates are positive
        auto part = std::uint32_t((at - double(k)) * 65536.0);
        if (at == double(k) && enters == isBehind(*c[0], *c[b], *c[b + 1])) // through a sample: before it
            --k, part = 65535;
        visit(i, j, k, part, enters);
    };
    for (std::int32_t j = span.lo[kV]; j <= span.hi[kV]; ++j) {
        for (std::size_t k = 0; k < 5; ++k)
            side[k].start<kU, kV>(*c[k == 4 ? 2 : k], *c[k == 4 ? 0 : (k + 1) % 4], std::int64_t(span.lo[kU]) * kSub,
                                  std::int64_t(j) * kSub);
        for (std::int32_t i = span.lo[kU]; i <= span.hi[kU]; ++i) {
            const bool across = side[4].isLeft(), s0 = side[0].isLeft(), s1 = side[1].isLeft(), s2 = side[2].isLeft(),
                       s3 = side[3].isLeft();
            if ((s0 == across) & (s1 == across))
                cross(i, j, side[1].at, side[4].at, side[0].at, 1);
            if ((s2 != across) & (s3 != across))
                cross(i, j, side[2].at, side[3].at, -side[4].at, 2);
            for (Side &s : side)
                s.at += s.across;
        }
    }
}

/// Records of one chunk of triangles.
void scanChunk(const mesh::PolyMesh &mesh, const std::vector<Lattice> &points, BlockRange r, const SignGrid &grid,
               detail::Records &out, bool keepsFaces)
{
    const auto record = [&](int axis, std::int32_t i, std::int32_t j, std::int32_t k, std::uint32_t part, bool enters) {
        std::int32_t q[3];
        q[axis] = k, q[axis == 2 ? 0 : axis + 1] = i, q[axis == 0 ? 2 : axis - 1] = j;
        const std::size_t block = grid.denseIndex(q[0] >> 3, q[1] >> 3, q[2] >> 3);
        const std::uint32_t local = std::uint32_t((q[0] & 7) << 6 | (q[2] & 7) << 3 | (q[1] & 7)) | std::uint32_t(axis) << 9;
        out.crossings.push_back(
            {std::uint32_t(block), std::uint16_t(local | (enters ? 0x8000u : 0u)), std::uint16_t(std::min(part, 65535u))});
    };
    out.crossings.reserve((r.end - r.begin) * 4);
    if (keepsFaces)
        out.faces.reserve((r.end - r.begin) * 4);
    for (std::size_t f = r.begin; f < r.end; ++f) {
        const mesh::Face &face = mesh.faces[f];
        const std::size_t before = out.crossings.size();
        const Corners c = {&points[face.v[0]], &points[face.v[1]], &points[face.v[2]], &points[face.v[face.size() == 4 ? 3 : 2]]};
        const Span span = spanOf(c);
        const bool none[3] = {span.isEmpty(0), span.isEmpty(1), span.isEmpty(2)};
        if (none[0] + none[1] + none[2] > 1)
            continue; // no line in its box
        const auto visit = [&](int axis) {
            return [&record, axis](std::int32_t i, std::int32_t j, std::int32_t k, std::uint32_t part, bool enters) {
                record(axis, i, j, k, part, enters);
            };
        };
        if (!none[1] && !none[2])
            scanFace<0>(c, span, visit(0));
        if (!none[2] && !none[0])
            scanFace<1>(c, span, visit(1));
        if (!none[0] && !none[1])
            scanFace<2>(c, span, visit(2));
        if (keepsFaces)
            out.faces.insert(out.faces.end(), out.crossings.size() - before, std::uint32_t(f));
    }
}

Status layOut(const Box3f &box, float spacing, bool isSteady, SignGrid &grid)
{
    grid.spacing = spacing;
    const Vec3f margin{2 * spacing, 2 * spacing, 2 * spacing};
    const auto whole = [&](float x) { return float(std::floor(double(x) / double(spacing)) * double(spacing)); };
    grid.origin = (isSteady ? Vec3f{whole(box.lo.x), whole(box.lo.y), whole(box.lo.z)} : box.lo) - margin;
    const Vec3f cells = (box.hi + margin - grid.origin) * (1 / spacing);
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

Result<SignGrid> crossMesh(const mesh::PolyMesh &mesh, float spacing, const Progress &progress, bool isSteady)
{
    assert(spacing > 0);
    if (mesh.faces.empty())
        return Error{ErrorCode::Empty, "mesh", "it has no faces"};
    SignGrid grid;
    const Box3f box = mesh::boundsOf(mesh.positions);
    if (const Status laid = layOut(box, spacing, isSteady, grid); !laid)
        return laid.error();
    const std::vector<Lattice> points = toLattice(mesh, grid);
    const std::size_t chunks = (mesh.faces.size() + kTrianglesPerChunk - 1) / kTrianglesPerChunk;
    std::vector<detail::Records> records(chunks);
    const bool isInsideOut = signedVolume(mesh, box.centre()) < 0;
    const bool scanned = forEachBlock(mesh.faces.size(), kTrianglesPerChunk, progress.stop, [&](BlockRange r) {
        detail::Records &mine = records[r.begin / kTrianglesPerChunk];
        scanChunk(mesh, points, r, grid, mine, isSteady);
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
