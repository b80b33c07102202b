#include "field/detail/line_signs.h"

#include "base/parallel.h"

#include <algorithm>
#include <atomic>
#include <bit>
#include <cstring>

namespace bonemoss::field::detail {

namespace {

struct Binned {
    std::vector<std::uint32_t> start; // by slot, size slots + 1
    std::vector<Crossing> records;
    std::vector<std::uint32_t> faces; // beside them, or none
};

/// Slots for every block with crossings and its neighbours towards minus, whose cells they bound.
void makeSlots(SignGrid &grid, const std::vector<std::uint32_t> &counts)
{
    std::vector<std::uint8_t> wanted(counts.size(), 0);
    for (int z = 0; z < grid.nz; ++z)
        for (int y = 0; y < grid.ny; ++y)
            for (int x = 0; x < grid.nx; ++x)
                if (counts[grid.denseIndex(x, y, z)])
                    for (int d = 0; d < 8; ++d) {
                        const int bx = x - (d & 1), by = y - (d >> 1 & 1), bz = z - (d >> 2);
                        if (bx >= 0 && by >= 0 && bz >= 0)
                            wanted[grid.denseIndex(bx, by, bz)] = 1;
                    }
    for (int z = 0; z < grid.nz; ++z)
        for (int y = 0; y < grid.ny; ++y)
            for (int x = 0; x < grid.nx; ++x)
                if (wanted[grid.denseIndex(x, y, z)])
                    grid.coords.push_back({std::uint16_t(x), std::uint16_t(y), std::uint16_t(z)});
}

void placeSlots(SignGrid &grid)
{
    sortAlongCurve(grid.coords);
    for (std::size_t s = 0; s < grid.coords.size(); ++s) {
        const auto c = grid.coords[s];
        grid.blockAt[grid.denseIndex(c.x, c.y, c.z)] = std::uint32_t(s);
    }
    grid.signs.assign(grid.coords.size(), {});
}

Binned bin(const SignGrid &grid, const std::vector<Records> &records, const std::vector<std::uint32_t> &counts)
{
    Binned out;
    out.start.resize(grid.coords.size() + 1);
    std::uint32_t sum = 0;
    for (std::size_t s = 0; s < grid.coords.size(); ++s) {
        const auto c = grid.coords[s];
        out.start[s] = sum;
        sum += counts[grid.denseIndex(c.x, c.y, c.z)];
    }
    out.start.back() = sum;
    out.records.resize(sum);
    const bool keepsFaces = std::any_of(records.begin(), records.end(), [](const Records &r) { return !r.faces.empty(); });
    out.faces.resize(keepsFaces ? sum : 0);
    std::vector<std::uint32_t> cursor(out.start.begin(), out.start.end() - 1);
    forEachBlock(records.size(), 1, [&](BlockRange r) {
        const Records &mine = records[r.begin];
        for (std::size_t i = 0; i < mine.crossings.size(); ++i) {
            std::atomic_ref<std::uint32_t> next(cursor[grid.blockAt[mine.crossings[i].block]]);
            const std::uint32_t at = next.fetch_add(1, std::memory_order_relaxed);
            out.records[at] = mine.crossings[i];
            if (keepsFaces)
                out.faces[at] = mine.faces[i];
        }
    });
    return out;
}

/// Winding numbers of 64 parallel lines, walked block by block along an axis.
struct Lines {
    std::int8_t w[64] = {};

    std::uint64_t inside() const
    {
        std::uint64_t bits = 0;
        for (int i = 0; i < 64; ++i)
            bits |= std::uint64_t(w[i] > 0) << i;
        return bits;
    }
};

using Steps = std::array<std::array<std::int8_t, 64>, 8>;

/// Steps of the winding along one axis in a slot: [position along the axis][line].
/// The line number is z * 8 + y for axis 0, z * 8 + x for axis 1, y * 8 + x for axis 2.
bool collectSteps(const Binned &bins, std::uint32_t slot, unsigned axis, Steps &steps)
{
    bool any = false;
    for (std::uint32_t i = bins.start[slot]; i < bins.start[slot + 1]; ++i) {
        const Crossing &c = bins.records[i];
        if (c.axis() != axis)
            continue;
        if (!any)
            std::memset(&steps, 0, sizeof steps);
        any = true;
        const unsigned x = c.x(), y = c.bit() & 7, z = c.bit() >> 3;
        const unsigned along = axis == 0 ? x : axis == 1 ? y : z;
        const unsigned line = axis == 0 ? z * 8 + y : axis == 1 ? z * 8 + x : y * 8 + x;
        steps[along][line] = std::int8_t(steps[along][line] + (c.enters() ? 1 : -1));
    }
    return any;
}

/// Walks all lines along x. Signs go to slots, uniform states to other blocks. Returns bad lines.
std::size_t walkAlongX(SignGrid &grid, const Binned &bins)
{
    const std::size_t rows = std::size_t(grid.ny) * std::size_t(grid.nz);
    return sumBlocks<std::size_t>(rows, 16, [&](BlockRange r) {
        std::size_t bad = 0;
        Steps steps;
        for (std::size_t row = r.begin; row < r.end; ++row) {
            Lines lines;
            std::uint64_t inside = 0;
            std::uint32_t *blocks = &grid.blockAt[row * std::size_t(grid.nx)];
            for (int x = 0; x < grid.nx; ++x) {
                const std::uint32_t slot = blocks[x];
                if (slot >= SignGrid::kInside) {
                    blocks[x] = inside & 1 ? SignGrid::kInside : SignGrid::kOutside;
                } else if (!collectSteps(bins, slot, 0, steps)) {
                    grid.signs[slot].fill(inside);
                } else {
                    for (std::size_t i = 0; i < 8; ++i) {
                        grid.signs[slot][i] = inside;
                        for (std::size_t k = 0; k < 64; ++k)
                            lines.w[k] = std::int8_t(lines.w[k] + steps[i][k]);
                        inside = lines.inside();
                    }
                }
            }
            for (const std::int8_t w : lines.w)
                bad += w != 0;
        }
        return bad;
    });
}

/// Dense votes of one walking direction: a bit per sample, and which lines are to be trusted.
struct Votes {
    std::vector<SignGrid::Words> inside; // by dense block
    std::vector<std::uint64_t> good;     // by column of blocks along the axis; a bit per line
};

struct Column {
    std::size_t first, step, index;
    int count;
};

Column columnOf(const SignGrid &g, unsigned axis, std::size_t index)
{
    const auto nx = std::size_t(g.nx), ny = std::size_t(g.ny);
    if (axis == 0)
        return {index * nx, 1, index, g.nx};
    if (axis == 1)
        return {(index / nx) * nx * ny + index % nx, nx, index, g.ny};
    return {index, nx * ny, index, g.nz};
}

/// Writes a sign of all lines at one position along the axis into the words of a block.
void writeSigns(SignGrid::Words &words, unsigned axis, unsigned along, std::uint64_t inside)
{
    if (axis == 0) {
        words[along] = inside;
        return;
    }
    for (unsigned other = 0; other < 8; ++other)
        for (unsigned x = 0; x < 8; ++x)
            if (inside >> (other * 8 + x) & 1)
                words[x] |= 1ull << (axis == 1 ? other * 8 + along : along * 8 + other);
}

/// A bad line counts as inside only where both the walk from its start and from its end say so.
Votes walkAll(const SignGrid &grid, const Binned &bins, unsigned axis)
{
    const int along = axis == 0 ? grid.nx : axis == 1 ? grid.ny : grid.nz;
    const std::size_t columns = grid.blockAt.size() / std::size_t(along);
    Votes votes{std::vector<SignGrid::Words>(grid.blockAt.size(), SignGrid::Words{}), std::vector<std::uint64_t>(columns, 0)};
    forEachBlock(columns, 16, [&](BlockRange r) {
        Steps steps;
        for (std::size_t i = r.begin; i < r.end; ++i) {
            const Column c = columnOf(grid, axis, i);
            Lines end, now;
            for (int k = 0; k < c.count; ++k) {
                const std::uint32_t slot = grid.blockAt[c.first + std::size_t(k) * c.step];
                if (slot < SignGrid::kInside && collectSteps(bins, slot, axis, steps))
                    for (const auto &s : steps)
                        for (std::size_t l = 0; l < 64; ++l)
                            end.w[l] = std::int8_t(end.w[l] + s[l]);
            }
            for (std::size_t l = 0; l < 64; ++l)
                votes.good[i] |= std::uint64_t(end.w[l] == 0) << l;
            const auto inside = [&] {
                std::uint64_t bits = 0;
                for (std::size_t l = 0; l < 64; ++l)
                    bits |= std::uint64_t(now.w[l] > 0 && now.w[l] - end.w[l] > 0) << l;
                return bits;
            };
            std::uint64_t bits = 0;
            for (int k = 0; k < c.count; ++k) {
                const std::size_t block = c.first + std::size_t(k) * c.step;
                const std::uint32_t slot = grid.blockAt[block];
                const bool any = slot < SignGrid::kInside && collectSteps(bins, slot, axis, steps);
                for (unsigned a = 0; a < 8; ++a) {
                    if (bits)
                        writeSigns(votes.inside[block], axis, a, bits);
                    if (!any)
                        continue;
                    for (std::size_t l = 0; l < 64; ++l)
                        now.w[l] = std::int8_t(now.w[l] + steps[a][l]);
                    bits = inside();
                }
            }
        }
    });
    return votes;
}

std::uint64_t majority(std::uint64_t a, std::uint64_t b, std::uint64_t c)
{
    return (a & b) | (a & c) | (b & c);
}

/// Majority of the three directions; where just one of the three lines is good, that one decides.
std::vector<SignGrid::Words> voteAll(const SignGrid &g, const Binned &bins)
{
    const Votes vx = walkAll(g, bins, 0), vy = walkAll(g, bins, 1), vz = walkAll(g, bins, 2);
    std::vector<SignGrid::Words> result(g.blockAt.size());
    const auto nx = std::size_t(g.nx), ny = std::size_t(g.ny);
    forEachBlock(result.size(), 256, [&](BlockRange r) {
        for (std::size_t b = r.begin; b < r.end; ++b) {
            const std::uint64_t gx = vx.good[b / nx], gy = vy.good[(b / (nx * ny)) * nx + b % nx], gz = vz.good[b % (nx * ny)];
            for (unsigned x = 0; x < 8; ++x) {
                std::uint64_t wy = 0, wz = 0; // trust of lines along y and z, spread over the samples
                for (unsigned o = 0; o < 8; ++o) {
                    if (gy >> (o * 8 + x) & 1)
                        wy |= 0xffull << (o * 8);
                    if (gz >> (o * 8 + x) & 1)
                        wz |= 0x0101010101010101ull << o;
                }
                const std::uint64_t ix = vx.inside[b][x], iy = vy.inside[b][x], iz = vz.inside[b][x];
                const std::uint64_t ox = gx & ~wy & ~wz, oy = wy & ~gx & ~wz, oz = wz & ~gx & ~wy;
                const std::uint64_t one = ox | oy | oz;
                result[b][x] = (majority(ix, iy, iz) & ~one) | (ix & ox) | (iy & oy) | (iz & oz);
            }
        }
    });
    return result;
}

/// Replaces the slots by those that the voted signs ask for: mixed blocks and blocks beside others.
void takeVotes(SignGrid &g, const std::vector<SignGrid::Words> &votes)
{
    const auto uniform = [&](std::size_t b) {
        const std::uint64_t first = votes[b][0];
        if (first != 0 && first != ~0ull)
            return -1;
        for (const std::uint64_t w : votes[b])
            if (w != first)
                return -1;
        return first ? 1 : 0;
    };
    std::vector<std::int8_t> state(votes.size());
    forEachBlock(votes.size(), 1024, [&](BlockRange r) {
        for (std::size_t b = r.begin; b < r.end; ++b)
            state[b] = std::int8_t(uniform(b));
    });
    g.coords.clear();
    for (int z = 0; z < g.nz; ++z)
        for (int y = 0; y < g.ny; ++y)
            for (int x = 0; x < g.nx; ++x) {
                const std::size_t here = g.denseIndex(x, y, z);
                bool wanted = state[here] < 0;
                for (int d = 1; d < 8 && !wanted; ++d) {
                    const int bx = x + (d & 1), by = y + (d >> 1 & 1), bz = z + (d >> 2);
                    const int other = bx < g.nx && by < g.ny && bz < g.nz ? state[g.denseIndex(bx, by, bz)] : 0;
                    wanted = other != state[here];
                }
                g.blockAt[here] = state[here] > 0 ? SignGrid::kInside : SignGrid::kOutside;
                if (wanted)
                    g.coords.push_back({std::uint16_t(x), std::uint16_t(y), std::uint16_t(z)});
            }
    placeSlots(g);
    for (std::size_t s = 0; s < g.coords.size(); ++s)
        g.signs[s] = votes[g.denseIndex(g.coords[s].x, g.coords[s].y, g.coords[s].z)];
}

/// Positions on changed edges. Of several crossings on one edge the outermost of the right sense is
/// taken; an edge without one (closed by vote) gets its middle.
void placeCrossings(SignGrid &g, const Binned &bins, const std::vector<std::uint32_t> &binOf)
{
    const std::size_t slots = g.coords.size();
    std::vector<CornerWords> words(slots);
    g.crossingStart.assign(slots + 1, 0);
    forEachBlock(slots, 256, [&](BlockRange r) {
        for (std::size_t s = r.begin; s < r.end; ++s) {
            words[s] = cornerWords(g, std::uint32_t(s));
            int count = 0;
            for (int axis = 0; axis < 3; ++axis)
                for (std::size_t x = 0; x < 8; ++x)
                    count += std::popcount(changedEdges(words[s], axis, x));
            g.crossingStart[s + 1] = std::uint32_t(count);
        }
    });
    for (std::size_t s = 0; s < slots; ++s)
        g.crossingStart[s + 1] += g.crossingStart[s];
    g.crossings.resize(g.crossingStart.back());
    g.crossingFaces.resize(bins.faces.empty() ? 0 : g.crossings.size());
    g.filledEdges = sumBlocks<std::size_t>(slots, 256, [&](BlockRange r) {
        std::size_t filled = 0;
        constexpr std::int32_t kUnset = -1;
        std::array<std::int32_t, 1536> part;
        std::array<std::uint32_t, 1536> face;
        for (std::size_t s = r.begin; s < r.end; ++s) {
            part.fill(kUnset);
            const std::uint32_t bin = binOf[s];
            for (std::uint32_t i = bin == kNone ? 0 : bins.start[bin]; bin != kNone && i < bins.start[bin + 1]; ++i) {
                const Crossing &c = bins.records[i];
                if (c.enters() == bool(g.signs[s][c.x()] >> c.bit() & 1))
                    continue; // an edge that starts inside wants the way out, and the other way round
                const std::size_t edge = c.axis() * 512 + c.x() * 64 + c.bit();
                std::int32_t &p = part[edge];
                const bool isOuter = p == kUnset || (c.enters() ? c.part < p : c.part > p);
                // The order of records is no one's: of two faces at one place the lower stands.
                if (!bins.faces.empty() && (isOuter || (c.part == p && bins.faces[i] < face[edge])))
                    face[edge] = bins.faces[i];
                if (isOuter)
                    p = c.part;
            }
            std::uint16_t *out = g.crossings.data() + g.crossingStart[s];
            for (int axis = 0; axis < 3; ++axis)
                for (std::size_t x = 0; x < 8; ++x)
                    for (std::uint64_t m = changedEdges(words[s], axis, x); m; m &= m - 1) {
                        const std::size_t edge = std::size_t(axis) * 512 + x * 64 + std::size_t(std::countr_zero(m));
                        const std::int32_t p = part[edge];
                        filled += p == kUnset;
                        if (!bins.faces.empty())
                            g.crossingFaces[std::size_t(out - g.crossings.data())] = p == kUnset ? kNone : face[edge];
                        *out++ = p == kUnset ? 0x8000 : std::uint16_t(p);
                    }
        }
        return filled;
    });
}

} // namespace

void resolveLines(SignGrid &grid, const std::vector<Records> &records)
{
    const std::size_t dense = std::size_t(grid.nx) * std::size_t(grid.ny) * std::size_t(grid.nz);
    std::vector<std::uint32_t> counts(dense, 0);
    forEachBlock(records.size(), 1, [&](BlockRange r) {
        for (const Crossing &c : records[r.begin].crossings)
            std::atomic_ref<std::uint32_t>(counts[c.block]).fetch_add(1, std::memory_order_relaxed);
    });
    grid.blockAt.assign(dense, SignGrid::kOutside);
    makeSlots(grid, counts);
    placeSlots(grid);
    const Binned bins = bin(grid, records, counts);
    grid.badLines = walkAlongX(grid, bins);
    std::vector<std::uint32_t> binOf(grid.coords.size());
    for (std::size_t s = 0; s < binOf.size(); ++s)
        binOf[s] = std::uint32_t(s);
    if (grid.badLines == 0)
        placeCrossings(grid, bins, binOf);
    // Lines that all pair up along x may still pass a hole by: then some edge changes without a crossing.
    if (grid.badLines > 0 || grid.filledEdges > 0) {
        const std::vector<std::uint32_t> before = grid.blockAt;
        grid.isVoted = true;
        takeVotes(grid, voteAll(grid, bins));
        binOf.resize(grid.coords.size());
        for (std::size_t s = 0; s < grid.coords.size(); ++s) {
            const auto c = grid.coords[s];
            const std::uint32_t old = before[grid.denseIndex(c.x, c.y, c.z)];
            binOf[s] = old < SignGrid::kInside ? old : kNone;
        }
        placeCrossings(grid, bins, binOf);
    }
}

} // namespace bonemoss::field::detail
