#include "proof/layers.h"

#include "base/parallel.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::proof {

namespace {

constexpr int kChunk = 16; ///< layers that are cut together
constexpr std::size_t kMostRows = 400'000'000;

/// Where a row goes in or out of a body.
struct Crossing {
    float x;
    int turn; ///< 1 in, -1 out
};

/// Where an edge meets a level: worked out from its lower end, so that both faces at it find the same.
Vec3f meet(Vec3f a, Vec3f b, float y)
{
    if (b.y < a.y || (b.y == a.y && (b.x < a.x || (b.x == a.x && b.z < a.z))))
        std::swap(a, b);
    const double t = (double(y) - double(a.y)) / (double(b.y) - double(a.y));
    return {float(double(a.x) + (double(b.x) - double(a.x)) * t), y, float(double(a.z) + (double(b.z) - double(a.z)) * t)};
}

struct Cut {
    std::vector<std::vector<Crossing>> rows;

    void add(const Triangle &t, float y, const Layers &l)
    {
        // A corner in the level counts as above it. The side that goes up lies at the far end where the row goes in.
        Vec3f up, down;
        int found = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3f p = t[k], q = t[(k + 1) % 3];
            if ((p.y >= y) != (q.y >= y))
                (q.y >= y ? up : down) = meet(p, q, y), ++found;
        }
        if (found != 2 || up.z == down.z)
            return;
        const int turn = up.z > down.z ? 1 : -1;
        const Vec3f a = turn > 0 ? down : up, b = turn > 0 ? up : down;
        const auto rowOf = [&](float z) { return int(std::ceil((double(z) - double(l.origin.z)) / double(l.cell) - 0.5)); };
        for (int r = std::max(0, rowOf(a.z)), last = std::min(l.rows, rowOf(b.z)); r < last; ++r) {
            const double z = double(l.origin.z) + (double(r) + 0.5) * double(l.cell);
            const double s = (z - double(a.z)) / (double(b.z) - double(a.z));
            rows[std::size_t(r)].push_back({float(double(a.x) + (double(b.x) - double(a.x)) * s), turn});
        }
    }
};

} // namespace

double Layers::volume() const
{
    double sum = 0;
    for (const double a : area)
        sum += a;
    return sum * double(height);
}

Result<Layers> layersOf(std::span<const Triangle> triangles, float height, float cell, const Progress &progress)
{
    Box3f box;
    for (const Triangle &t : triangles)
        for (const Vec3f p : t)
            box.add(p);
    if (box.isEmpty())
        return Error{ErrorCode::Empty, "proof", "there is nothing to print"};
    Layers out;
    out.height = height, out.cell = cell;
    const Vec3f size = box.size();
    const double levels = std::ceil(double(size.y) / double(height)), across = std::ceil(double(size.x) / double(cell)) + 2,
                 deep = std::ceil(double(size.z) / double(cell)) + 2;
    if (levels * deep > double(kMostRows) || across > 1e6)
        return Error{ErrorCode::TooLarge, "proof", "has too many layers: take higher layers or a smaller figure"};
    out.count = std::max(1, int(levels)), out.columns = int(across), out.rows = int(deep);
    out.origin = box.lo - Vec3f{cell, 0, cell};
    out.area.resize(std::size_t(out.count)), out.overlap.resize(std::size_t(out.count));
    // Which triangles each chunk of layers may meet.
    const std::size_t chunks = std::size_t((out.count + kChunk - 1) / kChunk);
    const auto chunkOf = [&](float y) {
        return std::size_t(std::clamp(int((y - out.origin.y) / height) / kChunk, 0, int(chunks) - 1));
    };
    std::vector<std::uint32_t> first(chunks + 1);
    const auto eachChunk = [&](const Triangle &t, const auto &use) {
        const auto [lo, hi] = std::minmax({t[0].y, t[1].y, t[2].y});
        for (std::size_t c = chunkOf(lo); c <= chunkOf(hi); ++c)
            use(c);
    };
    for (const Triangle &t : triangles)
        eachChunk(t, [&](std::size_t c) { ++first[c + 1]; });
    for (std::size_t c = 0; c < chunks; ++c)
        first[c + 1] += first[c];
    std::vector<std::uint32_t> list(first[chunks]), next(first.begin(), first.end() - 1);
    for (std::size_t t = 0; t < triangles.size(); ++t)
        eachChunk(triangles[t], [&](std::size_t c) { list[next[c]++] = std::uint32_t(t); });
    std::vector<std::vector<Run>> runs(chunks);
    std::vector<std::vector<std::uint32_t>> counts(chunks);
    const bool isDone = forEachBlock(chunks, 1, progress.stop, [&](BlockRange range) {
        const std::size_t c = range.begin;
        std::vector<Cut> cuts(kChunk);
        for (Cut &cut : cuts)
            cut.rows.resize(std::size_t(out.rows));
        const int from = int(c) * kChunk, to = std::min(out.count, from + kChunk);
        for (std::uint32_t k = first[c]; k < first[c + 1]; ++k) {
            const Triangle &t = triangles[list[k]];
            const auto [lo, hi] = std::minmax({t[0].y, t[1].y, t[2].y});
            const int a = std::max(from, int(std::floor((lo - out.origin.y) / height - 0.5f))),
                      b = std::min(to - 1, int(std::ceil((hi - out.origin.y) / height)));
            for (int layer = a; layer <= b; ++layer)
                cuts[std::size_t(layer - from)].add(t, out.origin.y + (float(layer) + 0.5f) * height, out);
        }
        for (int layer = from; layer < to; ++layer)
            for (std::vector<Crossing> &row : cuts[std::size_t(layer - from)].rows) {
                std::sort(row.begin(), row.end(),
                          [](const Crossing &a, const Crossing &b) { return a.x != b.x ? a.x < b.x : a.turn > b.turn; });
                std::uint32_t n = 0;
                int about = 0;
                double inside = 0, twice = 0;
                float began = 0;
                for (std::size_t k = 0; k < row.size(); ++k) {
                    const Crossing &x = row[k];
                    if (k > 0 && about > 1)
                        twice += double(x.x) - double(row[k - 1].x);
                    const int before = about;
                    about += x.turn;
                    if (before <= 0 && about > 0) {
                        began = x.x;
                    } else if (before > 0 && about <= 0) {
                        inside += double(x.x) - double(began);
                        const auto columnOf = [&](float at) {
                            return std::int32_t(std::ceil((double(at) - double(out.origin.x)) / double(cell) - 0.5));
                        };
                        const Run r{columnOf(began), columnOf(x.x)};
                        if (r.end > r.begin && n > 0 && runs[c].back().end >= r.begin)
                            runs[c].back().end = r.end;
                        else if (r.end > r.begin)
                            runs[c].push_back(r), ++n;
                    }
                }
                out.area[std::size_t(layer)] += inside * double(cell), out.overlap[std::size_t(layer)] += twice * double(cell);
                counts[c].push_back(n);
            }
        progress.say(float(c) / float(chunks), "layers");
    });
    if (!isDone || progress.isCancelled())
        return Error{ErrorCode::Cancelled, "proof", "stopped on request"};
    out.starts.push_back(0);
    for (std::size_t c = 0; c < chunks; ++c) {
        for (const std::uint32_t n : counts[c])
            out.starts.push_back(out.starts.back() + n);
        out.runs.insert(out.runs.end(), runs[c].begin(), runs[c].end());
        runs[c] = {};
    }
    return out;
}

} // namespace bonemoss::proof
