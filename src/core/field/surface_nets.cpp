#include "field/surface_nets.h"

#include "base/parallel.h"
#include "field/detail/sheet_table.h"

#include <algorithm>
#include <atomic>
#include <bit>

namespace bonemoss::field {

namespace {

using detail::Sheets;

constexpr std::size_t kSlotsPerTask = 64;

/// A cell crossed by more than one sheet, or by one that was parted at a knotted face.
struct SplitCell {
    std::uint16_t cell;  // word << 6 | bit
    std::uint16_t extra; // its second and further vertices start here, counted from the slot's extras
    Sheets sheets;
};

struct Slot {
    SignGrid::Words active{};                    // cells with a surface
    std::array<std::uint16_t, 8> before{};       // active cells in earlier words
    std::array<std::uint16_t, 24> edgesBefore{}; // changed edges before (axis, word)
    std::uint32_t vertexStart = 0, quadStart = 0;
    std::uint16_t cells = 0, extras = 0, quads = 0;
    std::vector<SplitCell> split;
};

unsigned configurationOf(const CornerWords &w, std::size_t x, int bit)
{
    const auto get = [&](std::uint64_t word) { return unsigned(word >> bit & 1); };
    return get(w.a[x]) | get(w.a[x + 1]) << 1 | get(w.y[x]) << 2 | get(w.y[x + 1]) << 3 | get(w.z[x]) << 4 | get(w.z[x + 1]) << 5
           | get(w.yz[x]) << 6 | get(w.yz[x + 1]) << 7;
}

/// Cells of a word that more than one sheet may cross: those with a face whose corners alternate, and those where two
/// opposite corners differ from all others. (All other cells have one; W. Lorensen, H. Cline, "Marching Cubes", 1987,
/// lists the cases.)
std::uint64_t maySplit(const CornerWords &w, std::size_t x)
{
    const std::uint64_t c[8] = {w.a[x], w.a[x + 1], w.y[x], w.y[x + 1], w.z[x], w.z[x + 1], w.yz[x], w.yz[x + 1]};
    static constexpr unsigned kFaces[6][4] = {{0, 1, 3, 2}, {4, 5, 7, 6}, {0, 2, 6, 4}, {1, 3, 7, 5}, {0, 4, 5, 1}, {2, 6, 7, 3}};
    std::uint64_t found = 0;
    for (const auto &f : kFaces)
        found |= (c[f[0]] ^ c[f[1]]) & (c[f[1]] ^ c[f[2]]) & (c[f[2]] ^ c[f[3]]);
    for (unsigned k = 0; k < 4; ++k) {
        std::uint64_t all = ~0ull, any = 0;
        for (unsigned o = 0; o < 8; ++o)
            if (o != k && o != 7 - k)
                all &= c[o], any |= c[o];
        found |= (c[k] & c[7 - k] & ~any) | (all & ~(c[k] | c[7 - k]));
    }
    return found;
}

/// Along each axis: what is added to the number of a cell (x * 64 + z * 8 + y), and where a word's samples at 0 lie.
constexpr unsigned kStride[3] = {64, 1, 8};
constexpr std::uint64_t kAtZero[3] = {~0ull, 0x0101010101010101ull, 0xffull};

/// The four cells about an edge, counter-clockwise seen from its end: steps along the two other axes.
constexpr unsigned kBack[4][2] = {{1, 1}, {0, 1}, {0, 0}, {1, 0}};

/// The edge as such a cell numbers it: offsets along the other axes in rising order.
constexpr unsigned edgeInCell(int axis, unsigned backU, unsigned backV)
{
    return unsigned(axis) * 4 + (axis == 1 ? backV + 2 * backU : backU + 2 * backV);
}

/// Everything the passes share.
class Net
{
public:
    Net(const SignGrid &grid) : m_grid(grid), m_slots(grid.coords.size()), m_words(grid.coords.size()) {}

    bool isInside(int x, int y, int z) const
    {
        const std::uint32_t state = m_grid.blockState(x >> 3, y >> 3, z >> 3);
        return m_grid.word(state, std::size_t(x & 7)) >> ((z & 7) * 8 + (y & 7)) & 1;
    }

    unsigned configurationAt(int x, int y, int z) const
    {
        unsigned c = 0;
        for (int k = 0; k < 8; ++k)
            c |= unsigned(isInside(x + (k & 1), y + (k >> 1 & 1), z + (k >> 2))) << k;
        return c;
    }

    void countSlot(std::uint32_t s)
    {
        const CornerWords &w = m_words[s] = cornerWords(m_grid, s);
        Slot &slot = m_slots[s];
        for (std::size_t x = 0; x < 8; ++x) {
            const std::uint64_t any = w.a[x] | w.a[x + 1] | w.y[x] | w.y[x + 1] | w.z[x] | w.z[x + 1] | w.yz[x] | w.yz[x + 1];
            const std::uint64_t all = w.a[x] & w.a[x + 1] & w.y[x] & w.y[x + 1] & w.z[x] & w.z[x + 1] & w.yz[x] & w.yz[x + 1];
            slot.active[x] = any & ~all;
            slot.before[x] = slot.cells;
            slot.cells = std::uint16_t(slot.cells + std::popcount(slot.active[x]));
            for (std::uint64_t m = slot.active[x] & maySplit(w, x); m; m &= m - 1)
                noteSplit(slot, s, x, std::countr_zero(m));
        }
        for (int axis = 0; axis < 3; ++axis)
            for (std::size_t x = 0; x < 8; ++x) {
                slot.edgesBefore[std::size_t(axis) * 8 + x] = slot.quads;
                slot.quads = std::uint16_t(slot.quads + std::popcount(changedEdges(w, axis, x)));
            }
    }

    void noteSplit(Slot &slot, std::uint32_t s, std::size_t x, int bit)
    {
        const unsigned c = configurationOf(m_words[s], x, bit);
        const unsigned knotted = detail::knottedFaces(c);
        unsigned flipped = 0;
        if (knotted) { // an edge would be met by four quads if the cell beyond is knotted there too
            const auto at = m_grid.coords[s];
            const int p[3] = {at.x * 8 + int(x), at.y * 8 + (bit & 7), at.z * 8 + (bit >> 3)};
            for (unsigned face = 0; face < 6; ++face) {
                if (!(knotted >> face & 1))
                    continue;
                int q[3] = {p[0], p[1], p[2]};
                q[face / 2] += face % 2 ? 1 : -1;
                if (detail::knottedFaces(configurationAt(q[0], q[1], q[2])) >> (face ^ 1) & 1)
                    flipped |= 1u << face;
            }
        }
        const Sheets &plain = detail::sheetsOf(c);
        if (plain.count == 1 && !flipped)
            return;
        const Sheets sheets = flipped ? detail::makeSheets(c, flipped) : plain;
        slot.split.push_back({std::uint16_t(x << 6 | std::size_t(bit)), slot.extras, sheets});
        slot.extras = std::uint16_t(slot.extras + sheets.count - 1);
    }

    const SplitCell *splitAt(const Slot &slot, std::size_t x, int bit) const
    {
        if (slot.split.empty())
            return nullptr;
        const std::uint16_t cell = std::uint16_t(x << 6 | std::size_t(bit));
        for (const SplitCell &c : slot.split)
            if (c.cell == cell)
                return &c;
        return nullptr;
    }

    std::uint32_t vertexAt(std::uint32_t s, std::size_t x, int bit, unsigned edge) const
    {
        const Slot &slot = m_slots[s];
        const std::uint64_t below = slot.active[x] & ((1ull << bit) - 1);
        const std::uint32_t rank = std::uint32_t(slot.before[x]) + std::uint32_t(std::popcount(below));
        if (const SplitCell *c = splitAt(slot, x, bit); c && c->sheets.of[edge] > 0)
            return slot.vertexStart + slot.cells + c->extra + c->sheets.of[edge] - 1u;
        return slot.vertexStart + rank;
    }

    /// Vertex of the cell at (x, y, z), each from -1 to 7 relative to a slot's block.
    std::uint32_t vertexNear(const std::uint32_t *around, int x, int y, int z, unsigned edge) const
    {
        const unsigned which = unsigned(x < 0) | unsigned(y < 0) << 1 | unsigned(z < 0) << 2;
        return vertexAt(around[which], std::size_t(x & 7), (z & 7) * 8 + (y & 7), edge);
    }

    /// What one slot's vertices and quads are worked out with; kept from slot to slot.
    struct Work {
        std::array<std::uint16_t, 512> vertex;  // of each cell with a surface, counted from the slot's start
        std::vector<std::array<float, 4>> sums; // of each vertex: x, y, z of its crossings, and how many
        std::vector<mesh::FacesNear> near;
    };
    static constexpr std::uint16_t kSplit = 0x8000; // the cell has several: its edge tells which

    static std::uint32_t vertexIn(const Slot &slot, std::uint16_t found, unsigned cell, unsigned edge)
    {
        if (!(found & kSplit))
            return found;
        const auto c = std::find_if(slot.split.begin(), slot.split.end(), [&](const SplitCell &k) { return k.cell == cell; });
        const std::uint8_t sheet = c->sheets.of[edge];
        return sheet == 0 ? found & std::uint32_t(kSplit - 1) : slot.cells + c->extra + sheet - 1u;
    }

    /// Vertices at the mean of their crossings, and the quads about the slot's edges.
    /// near  faces at the crossings that make each vertex, or null
    void placeSlot(std::uint32_t s, Work &work, Vec3f *positions, mesh::Face *faces, mesh::FacesNear *near) const
    {
        const Slot &slot = m_slots[s];
        if (slot.cells == 0 && slot.quads == 0)
            return;
        std::uint16_t next = 0;
        for (std::size_t x = 0; x < 8; ++x)
            for (std::uint64_t m = slot.active[x]; m; m &= m - 1)
                work.vertex[x << 6 | std::size_t(std::countr_zero(m))] = next++;
        for (const SplitCell &c : slot.split)
            work.vertex[c.cell] |= kSplit;
        const std::size_t count = std::size_t(slot.cells) + slot.extras;
        work.sums.assign(count, {});
        if (near)
            work.near.assign(count, {kNone, kNone, kNone, kNone});
        const auto at = m_grid.coords[s];
        std::uint32_t before[8], after[8]; // slots towards - and +
        for (int k = 0; k < 8; ++k) {
            before[k] = m_grid.blockState(at.x - (k & 1), at.y - (k >> 1 & 1), at.z - (k >> 2));
            after[k] = m_grid.blockState(at.x + (k & 1), at.y + (k >> 1 & 1), at.z + (k >> 2));
        }
        mesh::Face *out = faces + slot.quadStart;
        std::uint32_t rank = m_grid.crossingStart[s];
        ownEdges<0>(s, work, before, rank, out, near);
        ownEdges<1>(s, work, before, rank, out, near);
        ownEdges<2>(s, work, before, rank, out, near);
        for (int beyond = 1; beyond < 4; ++beyond) {
            edgesBeyond<0>(s, work, after, beyond & 1, beyond >> 1, near);
            edgesBeyond<1>(s, work, after, beyond & 1, beyond >> 1, near);
            edgesBeyond<2>(s, work, after, beyond & 1, beyond >> 1, near);
        }
        const Vec3f base{float(at.x * 8), float(at.y * 8), float(at.z * 8)};
        for (std::size_t v = 0; v < count; ++v) {
            const auto &sum = work.sums[v];
            positions[slot.vertexStart + v] =
                m_grid.origin + (base + Vec3f{sum[0], sum[1], sum[2]} * (1 / sum[3])) * m_grid.spacing;
            if (near)
                near[slot.vertexStart + v] = work.near[v];
        }
    }

    /// A crossing's share in the vertex of a cell.
    template <int Axis> void add(Work &work, std::uint32_t vertex, int x, int y, int z, std::uint32_t rank, bool keepsFaces) const
    {
        std::array<float, 4> &sum = work.sums[vertex];
        const float t = float(m_grid.crossings[rank]) * (1.0f / 65536.0f);
        sum[0] += float(x) + (Axis == 0 ? t : 0);
        sum[1] += float(y) + (Axis == 1 ? t : 0);
        sum[2] += float(z) + (Axis == 2 ? t : 0);
        sum[3] += 1;
        if (keepsFaces)
            note(work.near[vertex], m_grid.crossingFaces[rank]);
    }

    /// The slot's own edges along an axis: their crossings go to the cells about them that are the slot's, their quads out.
    template <int Axis>
    void ownEdges(std::uint32_t s, Work &work, const std::uint32_t *before, std::uint32_t &rank, mesh::Face *&out,
                  const mesh::FacesNear *near) const
    {
        constexpr int u = (Axis + 1) % 3, v = (Axis + 2) % 3;
        const Slot &slot = m_slots[s];
        for (std::size_t x = 0; x < 8; ++x)
            for (std::uint64_t m = changedEdges(m_words[s], Axis, x); m; m &= m - 1, ++rank) {
                const unsigned bit = unsigned(std::countr_zero(m)), cell = unsigned(x << 6) | bit;
                const int p[3] = {int(x), int(bit & 7), int(bit >> 3)};
                std::array<std::uint32_t, 4> corner;
                for (unsigned k = 0; k < 4; ++k) {
                    const unsigned edge = edgeInCell(Axis, kBack[k][0], kBack[k][1]);
                    const bool isBeforeU = kBack[k][0] && p[u] == 0, isBeforeV = kBack[k][1] && p[v] == 0;
                    if (isBeforeU || isBeforeV) {
                        int q[3] = {p[0], p[1], p[2]};
                        q[u] -= int(kBack[k][0]), q[v] -= int(kBack[k][1]);
                        corner[k] = vertexNear(before, q[0], q[1], q[2], edge);
                        continue;
                    }
                    const unsigned there = cell - kBack[k][0] * kStride[u] - kBack[k][1] * kStride[v];
                    const std::uint32_t vertex = vertexIn(slot, work.vertex[there], there, edge);
                    corner[k] = slot.vertexStart + vertex;
                    add<Axis>(work, vertex, p[0], p[1], p[2], rank, near);
                }
                const bool startInside = m_words[s].a[x] >> bit & 1;
                *out++ = startInside ? mesh::Face{corner} : mesh::Face{{corner[3], corner[2], corner[1], corner[0]}};
            }
    }

    /// Edges of a slot beyond (towards + along one or both of the other axes) that bound this slot's last cells.
    template <int Axis>
    void edgesBeyond(std::uint32_t s, Work &work, const std::uint32_t *after, bool beyondU, bool beyondV,
                     const mesh::FacesNear *near) const
    {
        constexpr int u = (Axis + 1) % 3, v = (Axis + 2) % 3;
        const std::uint32_t n = after[unsigned(beyondU) << u | unsigned(beyondV) << v];
        if (n >= SignGrid::kInside)
            return;
        const Slot &slot = m_slots[s];
        const std::uint64_t mask = (beyondU ? kAtZero[u] : ~0ull) & (beyondV ? kAtZero[v] : ~0ull);
        const bool isFirstWord = (beyondU && u == 0) || (beyondV && v == 0);
        for (std::size_t x = 0; x < (isFirstWord ? 1u : 8u); ++x) {
            const std::uint64_t changed = changedEdges(m_words[n], Axis, x);
            for (std::uint64_t m = changed & mask; m; m &= m - 1) {
                const unsigned bit = unsigned(std::countr_zero(m));
                const std::uint32_t rank = m_grid.crossingStart[n] + m_slots[n].edgesBefore[std::size_t(Axis) * 8 + x]
                                           + std::uint32_t(std::popcount(changed & ((1ull << bit) - 1)));
                int p[3] = {int(x), int(bit & 7), int(bit >> 3)};
                p[u] += beyondU ? 8 : 0, p[v] += beyondV ? 8 : 0;
                for (unsigned k = 0; k < 4; ++k) {
                    if ((beyondU && !kBack[k][0]) || (beyondV && !kBack[k][1]))
                        continue; // a cell of the slot beyond
                    int q[3] = {p[0], p[1], p[2]};
                    q[u] -= int(kBack[k][0]), q[v] -= int(kBack[k][1]);
                    if (q[u] < 0 || q[v] < 0)
                        continue; // one of a slot before
                    const unsigned there = unsigned(q[0] << 6 | q[2] << 3 | q[1]);
                    add<Axis>(work, vertexIn(slot, work.vertex[there], there, edgeInCell(Axis, kBack[k][0], kBack[k][1])), p[0],
                              p[1], p[2], rank, near);
                }
            }
        }
    }

    static void note(mesh::FacesNear &faces, std::uint32_t face)
    {
        if (face == kNone)
            return;
        for (std::uint32_t &f : faces) {
            if (f == face)
                return;
            if (f == kNone) {
                f = face;
                return;
            }
        }
    }

    /// The vertex in the cell about a point, where only one sheet passes through it; else kNone.
    std::uint32_t vertexOfCell(Vec3f p) const
    {
        const Vec3f q = (p - m_grid.origin) * (1 / m_grid.spacing);
        const int x = int(q.x), y = int(q.y), z = int(q.z); // never below 0
        const std::uint32_t s = m_grid.blockState(x >> 3, y >> 3, z >> 3);
        if (s >= SignGrid::kInside)
            return kNone;
        const Slot &slot = m_slots[s];
        const auto word = std::size_t(x & 7);
        const int bit = (z & 7) * 8 + (y & 7);
        if (!(slot.active[word] >> bit & 1) || splitAt(slot, word, bit))
            return kNone;
        return slot.vertexStart + slot.before[word] + std::uint32_t(std::popcount(slot.active[word] & ((1ull << bit) - 1)));
    }

    /// Puts vertices in the places of those of the mesh they come from, where these hardly differ.
    void keepPlaces(std::vector<Vec3f> &positions, Lineage &lineage) const
    {
        constexpr std::uint32_t kSeveral = kNone - 1;
        const mesh::PolyMesh &from = lineage.from;
        lineage.kept.assign(positions.size(), kNone);
        forEachBlock(from.positions.size(), 8192, [&](BlockRange r) {
            for (std::size_t i = r.begin; i < r.end; ++i)
                if (const std::uint32_t v = vertexOfCell(from.positions[i]); v != kNone) {
                    std::uint32_t none = kNone;
                    const std::atomic_ref<std::uint32_t> kept(lineage.kept[v]);
                    if (!kept.compare_exchange_strong(none, std::uint32_t(i), std::memory_order_relaxed))
                        kept.store(kSeveral, std::memory_order_relaxed);
                }
        });
        const float near = 0.2f * m_grid.spacing;
        forEachBlock(positions.size(), 8192, [&](BlockRange r) {
            for (std::size_t v = r.begin; v < r.end; ++v) {
                std::uint32_t &kept = lineage.kept[v];
                const auto isCorner = [&](std::uint32_t f) {
                    const auto &c = from.faces[f].v;
                    return c[0] == kept || c[1] == kept || c[2] == kept || c[3] == kept;
                };
                const mesh::FacesNear &faces = lineage.near[v];
                if (kept < kSeveral && squaredLength(from.positions[kept] - positions[v]) < near * near
                    && std::any_of(faces.begin(), faces.end(), [&](auto f) { return f != kNone && isCorner(f); }))
                    positions[v] = from.positions[kept];
                else
                    kept = kNone;
            }
        });
    }

    mesh::PolyMesh run(const Progress &progress, Lineage *lineage)
    {
        std::vector<mesh::FacesNear> *near = lineage ? &lineage->near : nullptr;
        const std::size_t n = m_slots.size();
        mesh::PolyMesh mesh;
        if (!forEachBlock(n, kSlotsPerTask, progress.stop, [&](BlockRange r) {
                for (std::size_t s = r.begin; s < r.end; ++s)
                    countSlot(std::uint32_t(s));
            }))
            return {};
        std::uint32_t vertices = 0, quads = 0;
        for (Slot &s : m_slots) {
            s.vertexStart = vertices, s.quadStart = quads;
            vertices += s.cells + s.extras, quads += s.quads;
        }
        mesh.positions.resize(vertices);
        mesh.faces.resize(quads);
        if (near)
            near->resize(vertices);
        if (!forEachBlock(n, kSlotsPerTask, progress.stop, [&](BlockRange r) {
                Work work;
                for (std::size_t s = r.begin; s < r.end; ++s)
                    placeSlot(std::uint32_t(s), work, mesh.positions.data(), mesh.faces.data(), near ? near->data() : nullptr);
            }))
            return {};
        if (lineage)
            keepPlaces(mesh.positions, *lineage);
        return mesh;
    }

private:
    const SignGrid &m_grid;
    std::vector<Slot> m_slots;
    std::vector<CornerWords> m_words;
};

} // namespace

mesh::PolyMesh surfaceNets(const SignGrid &grid, const Progress &progress, Lineage *lineage)
{
    return Net(grid).run(progress, lineage);
}

std::size_t countQuads(const SignGrid &grid)
{
    return grid.crossings.size();
}

} // namespace bonemoss::field
