#include "field/surface_nets.h"

#include "base/parallel.h"
#include "field/detail/sheet_table.h"

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
            for (std::uint64_t m = slot.active[x]; m; m &= m - 1)
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

    std::uint32_t crossingAt(std::uint32_t s, int axis, std::size_t x, int bit) const
    {
        const std::uint64_t changed = changedEdges(m_words[s], axis, x);
        return m_grid.crossingStart[s] + m_slots[s].edgesBefore[std::size_t(axis) * 8 + x]
               + std::uint32_t(std::popcount(changed & ((1ull << bit) - 1)));
    }

    /// near  faces at the crossings that make each vertex, or null
    void placeVertices(std::uint32_t s, Vec3f *out, mesh::FacesNear *near) const
    {
        const Slot &slot = m_slots[s];
        if (slot.cells == 0)
            return;
        const auto at = m_grid.coords[s];
        std::uint32_t around[8]; // slots towards +
        for (int k = 0; k < 8; ++k)
            around[k] = m_grid.blockState(at.x + (k & 1), at.y + (k >> 1 & 1), at.z + (k >> 2));
        for (std::size_t x = 0; x < 8; ++x)
            for (std::uint64_t m = slot.active[x]; m; m &= m - 1)
                placeCell(s, around, x, std::countr_zero(m), out, near);
    }

    void placeCell(std::uint32_t s, const std::uint32_t *around, std::size_t x, int bit, Vec3f *out, mesh::FacesNear *near) const
    {
        const unsigned c = configurationOf(m_words[s], x, bit);
        const SplitCell *split = splitAt(m_slots[s], x, bit);
        const Sheets &sheets = split ? split->sheets : detail::sheetsOf(c);
        std::array<Vec3f, 4> sum{};
        std::array<float, 4> count{};
        std::array<std::uint8_t, 4> anyEdge{};
        std::array<mesh::FacesNear, 4> faces;
        faces.fill({kNone, kNone, kNone, kNone});
        for (unsigned e = 0; e < 12; ++e) {
            if (sheets.of[e] == 255)
                continue;
            const int axis = int(e / 4), b = int(e & 1), d = int(e >> 1 & 1);
            const int ox = axis == 0 ? 0 : b, oy = axis == 0 ? b : axis == 1 ? 0 : d, oz = axis == 2 ? 0 : d;
            const int ex = int(x) + ox, ey = (bit & 7) + oy, ez = (bit >> 3) + oz;
            const std::uint32_t owner = around[(ex >> 3) | (ey >> 3) << 1 | (ez >> 3) << 2];
            const std::uint32_t rank = crossingAt(owner, axis, std::size_t(ex & 7), (ez & 7) * 8 + (ey & 7));
            const float t = float(m_grid.crossings[rank]) * (1.0f / 65536.0f);
            const std::size_t sheet = sheets.of[e];
            if (near)
                note(faces[sheet], m_grid.crossingFaces[rank]);
            sum[sheet] +=
                Vec3f{float(ox) + (axis == 0 ? t : 0), float(oy) + (axis == 1 ? t : 0), float(oz) + (axis == 2 ? t : 0)};
            count[sheet] += 1;
            anyEdge[sheet] = std::uint8_t(e);
        }
        const auto at = m_grid.coords[s];
        const Vec3f base{float(at.x * 8 + int(x)), float(at.y * 8 + (bit & 7)), float(at.z * 8 + (bit >> 3))};
        for (std::size_t k = 0; k < sheets.count; ++k) {
            const std::uint32_t v = vertexAt(s, x, bit, anyEdge[k]);
            out[v] = m_grid.origin + (base + sum[k] * (1 / count[k])) * m_grid.spacing;
            if (near)
                near[v] = faces[k];
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

    void placeQuads(std::uint32_t s, mesh::Face *out) const
    {
        const auto at = m_grid.coords[s];
        if (m_slots[s].quads == 0)
            return;
        std::uint32_t around[8]; // slots towards -
        for (int k = 0; k < 8; ++k)
            around[k] = m_grid.blockState(at.x - (k & 1), at.y - (k >> 1 & 1), at.z - (k >> 2));
        out += m_slots[s].quadStart;
        for (int axis = 0; axis < 3; ++axis)
            for (std::size_t x = 0; x < 8; ++x)
                for (std::uint64_t m = changedEdges(m_words[s], axis, x); m; m &= m - 1) {
                    const int bit = std::countr_zero(m);
                    const bool startInside = m_words[s].a[x] >> bit & 1;
                    *out++ = quadAround(around, axis, int(x), bit & 7, bit >> 3, startInside);
                }
    }

    /// The four cells about an edge, counter-clockwise seen from its end.
    mesh::Face quadAround(const std::uint32_t *around, int axis, int x, int y, int z, bool startInside) const
    {
        const int u = (axis + 1) % 3, v = (axis + 2) % 3;
        static constexpr int kStep[4][2] = {{-1, -1}, {0, -1}, {0, 0}, {-1, 0}};
        mesh::Face f;
        for (std::size_t k = 0; k < 4; ++k) {
            int p[3] = {x, y, z};
            p[u] += kStep[k][0], p[v] += kStep[k][1];
            // The edge as that cell numbers it: offsets along the other axes in rising order.
            const unsigned ou = unsigned(-kStep[k][0]), ov = unsigned(-kStep[k][1]);
            const unsigned edge = unsigned(axis) * 4 + (u < v ? ou + 2 * ov : ov + 2 * ou);
            f.v[startInside ? k : 3 - k] = vertexNear(around, p[0], p[1], p[2], edge);
        }
        return f;
    }

    mesh::PolyMesh run(const Progress &progress, std::vector<mesh::FacesNear> *near)
    {
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
                for (std::size_t s = r.begin; s < r.end; ++s) {
                    placeVertices(std::uint32_t(s), mesh.positions.data(), near ? near->data() : nullptr);
                    placeQuads(std::uint32_t(s), mesh.faces.data());
                }
            }))
            return {};
        return mesh;
    }

private:
    const SignGrid &m_grid;
    std::vector<Slot> m_slots;
    std::vector<CornerWords> m_words;
};

} // namespace

mesh::PolyMesh surfaceNets(const SignGrid &grid, const Progress &progress, std::vector<mesh::FacesNear> *near)
{
    return Net(grid).run(progress, near);
}

std::size_t countQuads(const SignGrid &grid)
{
    return grid.crossings.size();
}

} // namespace bonemoss::field
