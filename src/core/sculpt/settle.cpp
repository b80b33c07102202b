// Tools that settle the skin: smoothing over neighbours, smoothing of wide bumps, relaxing.
#include "sculpt/dab.h"

#include "base/parallel.h"

#include <algorithm>

namespace bonemoss::sculpt {

namespace {

/// G. Taubin, "A Signal Processing Approach to Fair Surface Design", 1995: a step that shrinks and
/// one that grows, with pass band 1 / lambda + 1 / mu = 0.1.
constexpr float kLambda = 0.6307f, kMu = -0.6732f;

/// Means of the neighbours of a block's own vertices; where there are none, the vertex itself.
/// Also gathers the positions they were taken from.
void neighbourMeans(const mesh::Surface &surface, std::uint32_t b, std::vector<Vec3f> &position, std::vector<Vec3f> &mean)
{
    thread_local std::vector<float> count; // scratch
    const mesh::BlockFaces &faces = surface.topology->block(b);
    gatherPositions(surface, b, position);
    mean.assign(position.size(), Vec3f{});
    count.assign(position.size(), 0);
    for (const mesh::LocalFace &f : faces.faces) {
        const std::size_t n = std::size_t(f.size());
        for (std::size_t c = 0; c < n; ++c) { // an inner edge is met from both sides: same weight for all
            const std::uint16_t a = f.v[c], d = f.v[c + 1 < n ? c + 1 : 0];
            mean[a] += position[d], count[a] += 1;
            mean[d] += position[a], count[d] += 1;
        }
    }
    for (std::size_t i = 0; i < faces.own; ++i)
        mean[i] = count[i] > 0 ? mean[i] * (1 / count[i]) : position[i];
}

/// Steps over all blocks at once: target(block, i, position, mean of neighbours) gives the way a vertex of full weight goes.
template <typename Way>
void step(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, std::vector<std::vector<Vec3f>> &next,
          const Way &way)
{
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        thread_local std::vector<Vec3f> position, mean; // scratch
        std::vector<Vec3f> &out = next[r.begin];
        out.clear();
        const Shares shares = work.sharesOf(dabs, r.begin);
        if (shares.count == 0)
            return;
        const std::uint32_t b = blocks[r.begin];
        neighbourMeans(work.surface, b, position, mean);
        const std::uint8_t *masked = work.mask.data(b);
        const float limit = changesFaces(work.settings.tool) ? 0 : work.settings.limit; // new faces have no start
        const Vec3f *start = limit > 0 ? work.start.positions.data(b) : nullptr;
        out.assign(position.begin(), position.begin() + work.surface.topology->block(b).own);
        for (std::size_t i = 0; i < out.size(); ++i) {
            const float w = shares.most(i) * openness(masked, i);
            if (w == 0)
                continue;
            out[i] = position[i] + way(b, i, mean[i] - position[i]) * w;
            if (limit > 0)
                out[i] = held(out[i], start[i], limit);
        }
    });
    forEachBlock(blocks.size(), 1, [&](BlockRange r) {
        if (!next[r.begin].empty())
            std::copy(next[r.begin].begin(), next[r.begin].end(), work.surface.positions.edit(blocks[r.begin]));
    });
}

} // namespace

void applySmooth(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, int passes)
{
    work.weighGuarded(dabs, blocks);
    std::vector<std::vector<Vec3f>> next(blocks.size());
    const float amount = std::abs(dabs[0].amount);
    for (int pass = 0; pass < passes * (work.settings.shrinks ? 1 : 2); ++pass) {
        const float factor = (pass % 2 && !work.settings.shrinks ? kMu : kLambda) * amount;
        step(work, dabs, blocks, next, [&](std::uint32_t, std::size_t, Vec3f way) { return way * factor; });
    }
    refresh(work, dabs, blocks);
}

void applyRelax(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, int passes)
{
    work.weighGuarded(dabs, blocks);
    std::vector<std::vector<Vec3f>> next(blocks.size());
    const float amount = std::abs(dabs[0].amount) * 0.5f;
    for (int pass = 0; pass < passes; ++pass) { // within the tangent plane: the shape stays to first order
        step(work, dabs, blocks, next, [&](std::uint32_t b, std::size_t i, Vec3f way) {
            const Vec3f n = work.surface.normals.data(b)[i].unpack();
            return (way - n * dot(way, n)) * amount;
        });
        refresh(work, dabs, blocks);
    }
}

namespace {

/// A cube of cells about a dab, in two sheets: skin that faces it and skin that faces away. Each cell stands for the
/// vertices in it by their mean.
class Cells
{
public:
    Cells(const Dab &dab, float cell) : m_dab(dab), m_cell(cell), m_side(2 * (int(std::ceil(dab.radius / cell)) + 1) + 1) {}

    std::size_t count() const { return std::size_t(m_side) * std::size_t(m_side) * std::size_t(m_side) * 2; }
    std::size_t of(Vec3f p, Vec3f n) const
    {
        const Vec3f q = (p - m_dab.centre) * (1 / m_cell);
        const auto place = [&](float x) { return std::clamp(int(std::lround(x)) + m_side / 2, 0, m_side - 1); };
        const std::size_t sheet = dot(n, m_dab.normal) < 0;
        return ((sheet * std::size_t(m_side) + std::size_t(place(q.z))) * std::size_t(m_side) + std::size_t(place(q.y)))
                   * std::size_t(m_side)
               + std::size_t(place(q.x));
    }
    /// Calls use(cell) for a cell's neighbours in its sheet and itself.
    template <typename Use> void eachAbout(std::size_t cell, const Use &use) const
    {
        const int side = m_side, x = int(cell) % side, y = int(cell) / side % side, z = int(cell) / (side * side) % side;
        const int sheet = int(cell) / (side * side * side);
        for (int c = std::max(z - 1, 0); c <= std::min(z + 1, side - 1); ++c)
            for (int b = std::max(y - 1, 0); b <= std::min(y + 1, side - 1); ++b)
                for (int a = std::max(x - 1, 0); a <= std::min(x + 1, side - 1); ++a)
                    use(std::size_t(((sheet * side + c) * side + b) * side + a));
    }

private:
    const Dab &m_dab;
    float m_cell;
    int m_side;
};

struct CellSum {
    Vec3f place;
    float count = 0;
};

/// Where the cells' means go, as ways from where they are.
std::vector<Vec3f> waysOf(const Cells &cells, const std::vector<CellSum> &sums, float cell, float amount, int passes,
                          bool shrinks)
{
    std::vector<std::uint32_t> filled;
    std::vector<Vec3f> at(sums.size()), next(sums.size());
    for (std::size_t c = 0; c < sums.size(); ++c)
        if (sums[c].count > 0) {
            filled.push_back(std::uint32_t(c));
            at[c] = sums[c].place * (1 / sums[c].count);
        }
    const std::vector<Vec3f> was = at;
    for (int pass = 0; pass < passes * (shrinks ? 1 : 2); ++pass) {
        const float factor = (pass % 2 && !shrinks ? kMu : kLambda) * amount;
        for (const std::uint32_t c : filled) {
            Vec3f sum;
            float weights = 0;
            cells.eachAbout(c, [&](std::size_t other) {
                if (sums[other].count == 0 || other == c)
                    return;
                const float w = std::exp(-squaredLength(was[other] - was[c]) / (cell * cell)); // a Gaussian of the cell's width
                sum += at[other] * w, weights += w;
            });
            next[c] = weights > 0 ? at[c] + (sum * (1 / weights) - at[c]) * factor : at[c];
        }
        at.swap(next);
    }
    for (const std::uint32_t c : filled)
        at[c] -= was[c];
    return at;
}

} // namespace

void applyBroadSmooth(DabWork &work, const DabSet &dabs, const std::vector<std::uint32_t> &blocks, int passes)
{
    work.weighGuarded(dabs, blocks);
    const float cell = std::clamp(work.settings.reach, 0.05f, 0.5f) * dabs[0].radius;
    for (std::size_t d = 0; d < dabs.size(); ++d) {
        const Cells cells(dabs[d], cell);
        std::vector<std::vector<std::pair<std::uint32_t, CellSum>>> found(blocks.size());
        forEachBlock(blocks.size(), 1, [&](BlockRange r) {
            const float *w = work.weights[d].of(r.begin);
            if (!w)
                return;
            const Vec3f *p = work.surface.positions.data(blocks[r.begin]);
            const mesh::PackedNormal *n = work.surface.normals.data(blocks[r.begin]);
            auto &mine = found[r.begin];
            std::vector<std::uint32_t> place(cells.count(), kNone);
            for (std::size_t i = 0; i < work.surface.positions.countIn(blocks[r.begin]); ++i) {
                if (w[i] == 0)
                    continue;
                const std::size_t c = cells.of(p[i], n[i].unpack());
                if (place[c] == kNone) {
                    place[c] = std::uint32_t(mine.size());
                    mine.push_back({std::uint32_t(c), {}});
                }
                mine[place[c]].second.place += p[i];
                mine[place[c]].second.count += 1;
            }
        });
        std::vector<CellSum> sums(cells.count());
        for (const auto &mine : found) // in order: the same sums on any number of threads
            for (const auto &[c, sum] : mine)
                sums[c].place += sum.place, sums[c].count += sum.count;
        const std::vector<Vec3f> ways = waysOf(cells, sums, cell, std::abs(dabs[d].amount), passes, work.settings.shrinks);
        forEachBlock(blocks.size(), 1, [&](BlockRange r) {
            const float *own = work.weights[d].of(r.begin);
            if (!own)
                return;
            const std::uint32_t b = blocks[r.begin];
            const Shares shares = work.sharesOf(dabs, r.begin);
            const std::uint8_t *masked = work.mask.data(b);
            const mesh::PackedNormal *n = work.surface.normals.data(b);
            Vec3f *p = work.surface.positions.edit(b);
            for (std::size_t i = 0; i < work.surface.positions.countIn(b); ++i) {
                if (own[i] == 0)
                    continue;
                float all = 0;
                for (int k = 0; k < shares.count; ++k)
                    all += shares.weights[std::size_t(k)][i];
                const float w = own[i] * shares.most(i) / all * openness(masked, i);
                Vec3f way;
                float weights = 0;
                const Vec3f at = p[i];
                cells.eachAbout(cells.of(at, n[i].unpack()), [&](std::size_t c) {
                    if (sums[c].count == 0)
                        return;
                    const Vec3f r3 = sums[c].place * (1 / sums[c].count) - at;
                    const float near =
                        std::max(0.0f, 1 - squaredLength(r3) / (2.25f * cell * cell)); // out before the next but one
                    way += ways[c] * (near * near), weights += near * near;
                });
                if (weights > 0)
                    p[i] = at + way * (w / weights);
                if (work.settings.limit > 0)
                    p[i] = held(p[i], work.start.positions.data(b)[i], work.settings.limit);
            }
        });
    }
    refresh(work, dabs, blocks);
}

} // namespace bonemoss::sculpt
