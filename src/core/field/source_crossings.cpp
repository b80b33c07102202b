// J. C. Hart, "Sphere tracing", The Visual Computer 12, 1996: a distance bound lets whole regions be
// passed over; here a cube is passed over when the distance at its middle exceeds its reach.
#include "field/source_crossings.h"

#include "base/parallel.h"

#include <algorithm>
#include <array>
#include <bit>
#include <fmt/format.h>

namespace bonemoss::field {

namespace {

constexpr int kTop = 8; // blocks along a side of the largest cube of the descent

struct Descent {
    const DistanceSource &source;
    SignGrid &grid;

    /// Marks blocks of a cube, whose middle has this value, as uniform or, at the bottom, as wanted.
    void visit(int x, int y, int z, int size, float value, std::vector<SignGrid::Coord> &wanted)
    {
        if (x >= grid.nx || y >= grid.ny || z >= grid.nz)
            return;
        if (std::abs(value) > reachOf(size) * DistanceSource::kLipschitz) {
            if (value < 0)
                fill(x, y, z, size);
            return;
        }
        if (size == 1) {
            wanted.push_back({std::uint16_t(x), std::uint16_t(y), std::uint16_t(z)});
            return;
        }
        const int h = size / 2;
        std::array<Vec3f, 8> middles;
        std::array<float, 8> values;
        Box3f around;
        for (int k = 0; k < 8; ++k)
            around.add(middles[std::size_t(k)] = middleOf(x + (k & 1) * h, y + (k >> 1 & 1) * h, z + (k >> 2) * h, h));
        around.grow(reachOf(h)); // what is not exact is farther off than any of the parts reaches
        source.sample(around, middles, values);
        for (int k = 0; k < 8; ++k)
            visit(x + (k & 1) * h, y + (k >> 1 & 1) * h, z + (k >> 2) * h, h, values[std::size_t(k)], wanted);
    }

    /// From the middle of a cube to its corners and one sample more: cells of neighbours reach into its
    /// first samples.
    float reachOf(int size) const { return (float(size) * 4 + 1) * grid.spacing * 1.7320508f; }
    Vec3f middleOf(int x, int y, int z, int size) const
    {
        const float half = float(size) / 2;
        return grid.origin + Vec3f{float(x) + half, float(y) + half, float(z) + half} * (8 * grid.spacing);
    }
    void start(int x, int y, int z, std::vector<SignGrid::Coord> &wanted)
    {
        const Vec3f middle = middleOf(x, y, z, kTop);
        Box3f around;
        around.add(middle);
        around.grow(reachOf(kTop));
        float value = 0;
        source.sample(around, {&middle, 1}, {&value, 1});
        visit(x, y, z, kTop, value, wanted);
    }

    void fill(int x, int y, int z, int size)
    {
        for (int k = z; k < std::min(z + size, grid.nz); ++k)
            for (int j = y; j < std::min(y + size, grid.ny); ++j)
                for (int i = x; i < std::min(x + size, grid.nx); ++i)
                    grid.blockAt[grid.denseIndex(i, j, k)] = SignGrid::kInside;
    }
};

using Values = std::array<float, 512>; // [x][z * 8 + y], as the sign words

/// Samples of a block. Of its eight 4 x 4 x 4 parts, and where distances are true of their eight parts in turn, those too far from
/// the surface to hold an end of a crossed edge get the sign of their middle, and no values.
void sampleBlock(const DistanceSource &source, const SignGrid &grid, SignGrid::Coord c, Values &values, SignGrid::Words &signs)
{
    struct Part { // a cube of samples
        unsigned x, y, z;
    };
    const Vec3f base{float(c.x * 8), float(c.y * 8), float(c.z * 8)};
    const auto at = [&](float x, float y, float z) { return grid.origin + (base + Vec3f{x, y, z}) * grid.spacing; };
    signs = {};
    std::array<Part, 64> parts, kept;
    Box3f around;
    unsigned side = 0; // of the parts that are left
    std::array<Vec3f, 512> points;
    std::array<float, 512> found;
    std::size_t count = 1;
    parts[0] = {0, 0, 0};
    for (const unsigned size : {4u, 2u}) {
        if (size == 2 && !source.isTrueDistance())
            break;
        const float half = float(size - 1) / 2, reach = (half * 1.7320508f + 1.5f) * grid.spacing; // beyond its longest edge
        std::size_t n = 0;
        std::array<Part, 64> cubes;
        around = {};
        for (std::size_t p = 0; p < count; ++p)
            for (unsigned k = 0; k < 8; ++k) {
                const Part cube{parts[p].x + (k & 1 ? size : 0), parts[p].y + (k & 2 ? size : 0),
                                parts[p].z + (k & 4 ? size : 0)};
                around.add(points[n] = at(float(cube.x) + half, float(cube.y) + half, float(cube.z) + half));
                cubes[n++] = cube;
            }
        around.grow(reach);
        source.sample(around, {points.data(), n}, {found.data(), n});
        count = 0, side = size, around = {};
        for (std::size_t i = 0; i < n; ++i) {
            const Part cube = cubes[i];
            if (std::abs(found[i]) <= reach * DistanceSource::kLipschitz) {
                kept[count++] = cube;
                around.add(points[i]);
                continue;
            }
            const std::uint64_t inside = found[i] < 0 ? (1ull << size) - 1 : 0;
            for (unsigned x = cube.x; x < cube.x + size; ++x)
                for (unsigned z = cube.z; z < cube.z + size; ++z) {
                    std::fill_n(values.begin() + (x << 6 | z << 3 | cube.y), size, std::copysign(grid.spacing, found[i]));
                    signs[x] |= inside << (z << 3 | cube.y);
                }
        }
        parts = kept;
        if (count == 0)
            return;
        around.grow((half + 1) * grid.spacing); // the parts' samples and a spacing more
    }
    std::array<std::uint16_t, 512> places;
    std::size_t n = 0;
    for (std::size_t p = 0; p < count; ++p)
        for (unsigned x = parts[p].x; x < parts[p].x + side; ++x)
            for (unsigned z = parts[p].z; z < parts[p].z + side; ++z)
                for (unsigned y = parts[p].y; y < parts[p].y + side; ++y) {
                    places[n] = std::uint16_t(x << 6 | z << 3 | y);
                    points[n++] = at(float(x), float(y), float(z));
                }
    source.sample(around, {points.data(), n}, {found.data(), n});
    for (std::size_t i = 0; i < n; ++i) {
        values[places[i]] = found[i];
        if (found[i] < 0)
            signs[places[i] >> 6] |= 1ull << (places[i] & 63);
    }
}

/// Samples of a block that lie next to its neighbour in a direction of -1, 0, 1 a side.
SignGrid::Words nextTo(int dx, int dy, int dz)
{
    std::uint64_t plane = 0;
    for (int z = 0; z < 8; ++z)
        for (int y = 0; y < 8; ++y)
            if ((dy == 0 || y == (dy > 0 ? 7 : 0)) && (dz == 0 || z == (dz > 0 ? 7 : 0)))
                plane |= 1ull << (z * 8 + y);
    SignGrid::Words words{};
    for (int x = 0; x < 8; ++x)
        words[std::size_t(x)] = dx == 0 || x == (dx > 0 ? 7 : 0) ? plane : 0;
    return words;
}

/// Takes in every uniform block beside which a sampled one (from `from` on) has a sample of the other sign.
/// With true distances there is none; estimates may have misjudged a corner, and a surface must go on.
void addMissedNeighbours(SignGrid &grid, std::size_t from)
{
    const std::size_t end = grid.coords.size();
    for (int d = 0; d < 27; ++d) {
        const int dx = d % 3 - 1, dy = d / 3 % 3 - 1, dz = d / 9 - 1;
        if (dx == 0 && dy == 0 && dz == 0)
            continue;
        const SignGrid::Words border = nextTo(dx, dy, dz);
        for (std::size_t s = from; s < end; ++s) {
            const auto c = grid.coords[s];
            const int x = c.x + dx, y = c.y + dy, z = c.z + dz;
            if (x < 0 || y < 0 || z < 0 || x >= grid.nx || y >= grid.ny || z >= grid.nz)
                continue;
            std::uint32_t &state = grid.blockAt[grid.denseIndex(x, y, z)];
            if (state < SignGrid::kInside)
                continue;
            bool isSame = true;
            for (std::size_t k = 0; k < 8; ++k)
                isSame = isSame && ((state == SignGrid::kInside ? ~grid.signs[s][k] : grid.signs[s][k]) & border[k]) == 0;
            if (isSame)
                continue;
            state = std::uint32_t(grid.coords.size());
            grid.coords.push_back({std::uint16_t(x), std::uint16_t(y), std::uint16_t(z)});
        }
    }
}

float valueAt(const SignGrid &g, const std::vector<Values> &values, int x, int y, int z)
{
    const std::uint32_t s = g.blockState(x >> 3, y >> 3, z >> 3);
    if (s >= SignGrid::kInside)
        return s == SignGrid::kInside ? -g.spacing : g.spacing;
    return values[s][std::size_t((x & 7) << 6 | (z & 7) << 3 | (y & 7))];
}

/// Crossings of one slot, in the order SignGrid asks for.
void findCrossings(const DistanceSource &source, const SignGrid &g, const std::vector<Values> &values, std::uint32_t s,
                   std::vector<std::uint16_t> &out)
{
    struct Edge {
        float a, b, t;
    };
    const CornerWords w = cornerWords(g, s);
    const auto c = g.coords[s];
    std::vector<Edge> edges;
    std::vector<Vec3f> points;
    Box3f around;
    std::vector<Vec3f> starts;
    for (int axis = 0; axis < 3; ++axis)
        for (std::size_t x = 0; x < 8; ++x)
            for (std::uint64_t m = changedEdges(w, axis, x); m; m &= m - 1) {
                const int bit = std::countr_zero(m);
                const int p[3] = {c.x * 8 + int(x), c.y * 8 + (bit & 7), c.z * 8 + (bit >> 3)};
                const float a = valueAt(g, values, p[0], p[1], p[2]);
                const float b = valueAt(g, values, p[0] + (axis == 0), p[1] + (axis == 1), p[2] + (axis == 2));
                const float t = std::clamp(a / (a - b), 0.0f, 1.0f);
                Vec3f q{float(p[0]), float(p[1]), float(p[2])};
                (axis == 0 ? q.x : axis == 1 ? q.y : q.z) += t;
                edges.push_back({a, b, t});
                points.push_back(g.origin + q * g.spacing);
                around.add(points.back());
            }
    std::vector<float> f(points.size());
    source.sample(around, points, f);
    out.resize(edges.size());
    for (std::size_t i = 0; i < edges.size(); ++i) {
        const auto [a, b, t] = edges[i];
        float root = t; // secant between the estimate and the end of the other sign
        if ((f[i] < 0) == (a < 0))
            root = f[i] == b ? t : t + (1 - t) * (f[i] / (f[i] - b));
        else
            root = f[i] == a ? t : t * (a / (a - f[i]));
        out[i] = std::uint16_t(std::clamp(root, 0.0f, 0.99999f) * 65536.0f);
    }
}

Status layOut(const DistanceSource &source, float spacing, SignGrid &grid)
{
    const Box3f box = source.bounds();
    if (box.isEmpty())
        return Error{ErrorCode::Empty, "forms", "there is nothing to knit"};
    grid.spacing = spacing;
    const Vec3f margin{3 * spacing, 3 * spacing, 3 * spacing};
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

} // namespace

Result<SignGrid> crossSource(const DistanceSource &source, float spacing, const Progress &progress)
{
    assert(spacing > 0);
    SignGrid grid;
    if (const Status laid = layOut(source, spacing, grid); !laid)
        return laid.error();
    grid.blockAt.assign(std::size_t(grid.nx) * std::size_t(grid.ny) * std::size_t(grid.nz), SignGrid::kOutside);
    const auto tops = [](int n) { return (n + kTop - 1) / kTop; };
    const int tx = tops(grid.nx), ty = tops(grid.ny), tz = tops(grid.nz);
    std::vector<std::vector<SignGrid::Coord>> wanted(std::size_t(tx) * std::size_t(ty) * std::size_t(tz));
    forEachBlock(wanted.size(), 1, progress.stop, [&](BlockRange r) {
        const int i = int(r.begin);
        Descent{source, grid}.start(i % tx * kTop, i / tx % ty * kTop, i / tx / ty * kTop, wanted[r.begin]);
    });
    for (const auto &w : wanted)
        grid.coords.insert(grid.coords.end(), w.begin(), w.end());
    sortAlongCurve(grid.coords);
    std::vector<Values> values;
    bool done = true;
    for (std::size_t from = 0; done && from < grid.coords.size();) {
        const std::size_t slots = grid.coords.size();
        for (std::size_t s = from; s < slots; ++s)
            grid.blockAt[grid.denseIndex(grid.coords[s].x, grid.coords[s].y, grid.coords[s].z)] = std::uint32_t(s);
        grid.signs.resize(slots);
        values.resize(slots);
        done = forEachBlock(slots - from, 16, progress.stop, [&](BlockRange r) {
            for (std::size_t s = from + r.begin; s < from + r.end; ++s)
                sampleBlock(source, grid, grid.coords[s], values[s], grid.signs[s]);
        });
        addMissedNeighbours(grid, from);
        from = slots;
    }
    const std::size_t slots = grid.coords.size();
    std::vector<std::vector<std::uint16_t>> found(slots);
    done = done && forEachBlock(slots, 16, progress.stop, [&](BlockRange r) {
               for (std::size_t s = r.begin; s < r.end; ++s)
                   findCrossings(source, grid, values, std::uint32_t(s), found[s]);
           });
    if (!done)
        return Error{ErrorCode::Cancelled, "knit", "stopped on request"};
    grid.crossingStart.assign(slots + 1, 0);
    for (std::size_t s = 0; s < slots; ++s) {
        grid.crossingStart[s + 1] = grid.crossingStart[s] + std::uint32_t(found[s].size());
        grid.crossings.insert(grid.crossings.end(), found[s].begin(), found[s].end());
    }
    return grid;
}

} // namespace bonemoss::field
