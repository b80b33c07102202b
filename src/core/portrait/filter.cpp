#include "portrait/filter.h"

#include "base/parallel.h"
#include "base/wide.h"
#include "portrait/frame.h"

#include <algorithm>
#include <cmath>
#include <cstring>

namespace bonemoss::portrait {

namespace {

constexpr int kGuides = 7, kTerms = kGuides + 1, kPairs = kTerms * (kTerms + 1) / 2;
using Plane = std::vector<float>;

/// What a picture is filtered by, one plane for each number.
struct Guided {
    int width, height;
    std::array<std::array<Plane, 3>, 2> half; ///< colour of each half of the samples
    Plane variance;                           ///< of the mean of a half
    std::array<Plane, kGuides> guide;         ///< colour, normal, depth, as large as they matter
};

/// Means over squares, 2 * radius + 1 a side, of what lies within the picture. O(pixels).
Plane mean(const Plane &p, int width, int height, int radius)
{
    Plane across(p.size()), out(p.size());
    const auto pass = [&](const Plane &from, Plane &to, int lines, int count, int along, int between) {
        for (int line = 0; line < lines; ++line) {
            const float *a = from.data() + std::ptrdiff_t(line) * between;
            float *b = to.data() + std::ptrdiff_t(line) * between;
            for (int k = 0; k < count; ++k) {
                const int lo = std::max(0, k - radius), hi = std::min(count - 1, k + radius);
                float sum = 0;
                for (int i = lo; i <= hi; ++i)
                    sum += a[std::ptrdiff_t(i) * along];
                b[std::ptrdiff_t(k) * along] = sum / float(hi - lo + 1);
            }
        }
    };
    pass(p, across, height, width, 1, width);
    pass(across, out, width, height, width, 1);
    return out;
}

Guided guidedOf(const Gathered &g)
{
    Guided out{g.width, g.height, {}, Plane(g.size()), {}};
    for (auto &h : out.half)
        for (Plane &p : h)
            p.resize(g.size());
    for (Plane &p : out.guide)
        p.resize(g.size());
    const float far = std::max(g.reach, 1e-6f);
    Plane raw(g.size()), apart(g.size());
    forEachBlock(g.size(), 8192, [&](BlockRange r) {
        for (std::size_t i = r.begin; i < r.end; ++i) {
            const float n = float(std::max(g.count[i], 1u)), odd = std::floor(n / 2), even = n - odd;
            const Vec3f all = g.all(i) * n, a = (all - g.odd[i]) * (1 / even), b = odd > 0 ? g.odd[i] * (1 / odd) : a;
            for (std::size_t k = 0; k < 3; ++k)
                out.half[0][k][i] = at(a, int(k)), out.half[1][k][i] = at(b, int(k));
            const float mean = luminance(all) / n, between = luminance(a) - luminance(b);
            raw[i] = std::max(0.0f, g.squares[i] / n - mean * mean) / std::max(1.0f, n - 1) * 2;
            apart[i] = between * between * 0.5f;
            const Vec3f albedo = g.albedo[i] * (1 / n), up = g.normal[i] * (0.5f / n);
            const float depth = g.cover[i] > 0 ? g.depth[i] / g.cover[i] : far;
            const std::array<float, kGuides> v{albedo.x, albedo.y, albedo.z, up.x, up.y, up.z, 2 * depth / far};
            for (std::size_t k = 0; k < kGuides; ++k)
                out.guide[k][i] = v[k];
        }
    });
    // Samples that are spread evenly err less than their spread tells. How much less, the difference between the halves says: too rough
    // for one pixel, but not for a few about it (F. Rousselle, C. Knaus & M. Zwicker 2012, section 4).
    const Plane rawNear = mean(raw, g.width, g.height, 1), rawWide = mean(raw, g.width, g.height, 5),
                apartWide = mean(apart, g.width, g.height, 5);
    for (std::size_t i = 0; i < g.size(); ++i)
        out.variance[i] = rawNear[i] * std::min(1.0f, apartWide[i] / std::max(rawWide[i], 1e-12f));
    return out;
}

constexpr int kWindow = 5, kPatch = 3, kMargin = kWindow + kPatch, kTile = 48, kWide = kTile + 2 * kMargin;
using Row = std::array<float, kWide>;

/// A tile with its margin, of everything; what lies beyond the picture repeats its border.
struct TilePart {
    std::array<std::array<std::array<Row, kWide>, 3>, 2> half;
    std::array<Row, kWide> variance, inside; ///< inside: 1 within the picture
    std::array<std::array<Row, kWide>, kGuides> guide;
};

void take(const Guided &g, int x0, int y0, TilePart &t)
{
    for (int j = 0; j < kWide; ++j)
        for (int i = 0; i < kWide; ++i) {
            const int x = x0 + i - kMargin, y = y0 + j - kMargin;
            const int cx = std::clamp(x, 0, g.width - 1), cy = std::clamp(y, 0, g.height - 1);
            const std::size_t from = std::size_t(cy) * std::size_t(g.width) + std::size_t(cx), a = std::size_t(j),
                              b = std::size_t(i);
            for (std::size_t h = 0; h < 2; ++h)
                for (std::size_t k = 0; k < 3; ++k)
                    t.half[h][k][a][b] = g.half[h][k][from];
            t.variance[a][b] = g.variance[from];
            t.inside[a][b] = x == cx && y == cy;
            for (std::size_t k = 0; k < kGuides; ++k)
                t.guide[k][a][b] = g.guide[k][from];
        }
}

/// How unlike pixels are to those at an offset, row by row: difference beyond what noise explains.
BONEMOSS_WIDE void difference(const float *const *c, const float *const *d, const float *v, const float *w, int n, float *out)
{
    for (int i = 0; i < n; ++i) {
        float sum = 0;
        for (int k = 0; k < 3; ++k) {
            const float e = c[k][i] - d[k][i];
            sum += e * e;
        }
        const float own = v[i], other = w[i], least = other < own ? other : own;
        out[i] = (sum * (1.0f / 3) - (own + least)) / (1e-6f + 0.36f * (own + other));
    }
}
BONEMOSS_WIDE void addRows(const float *a, int n, float *sum)
{
    for (int i = 0; i < n; ++i)
        sum[i] += a[i];
}

/// Sums for regression over a row of pixels: of pairs of terms, and of terms and colours.
struct Sums {
    std::array<std::array<float, kTile>, kPairs> pair;
    std::array<std::array<std::array<float, kTile>, 3>, kTerms> colour;
};
using Terms = std::array<std::array<float, kTile>, kTerms>; ///< the first is the weight itself

BONEMOSS_WIDE void addTo(Sums &s, const Terms &f, const float *w, const float *const *colour, int n)
{
    std::array<float, kTile> wf;
    int pair = 0;
    for (int a = 0; a < kTerms; ++a) {
        for (int i = 0; i < n; ++i)
            wf[std::size_t(i)] = w[i] * f[std::size_t(a)][std::size_t(i)];
        for (int b = 0; b <= a; ++b, ++pair) {
            float *to = s.pair[std::size_t(pair)].data();
            const float *fb = f[std::size_t(b)].data();
            for (int i = 0; i < n; ++i)
                to[i] += wf[std::size_t(i)] * fb[i];
        }
        for (int k = 0; k < 3; ++k) {
            float *to = s.colour[std::size_t(a)][std::size_t(k)].data();
            for (int i = 0; i < n; ++i)
                to[i] += wf[std::size_t(i)] * colour[k][i];
        }
    }
}

/// Solves all of a row at once, after A.-L. Cholesky: what fits the colours best, in place of them.
constexpr float kStill = 1e-4f; ///< squared difference of guides below which they say nothing
BONEMOSS_WIDE void solve(Sums &s, int n)
{
    const auto at = [](int r, int c) { return std::size_t(r * (r + 1) / 2 + c); };
    for (int i = 0; i < n; ++i) { // guides that say nothing are held at zero
        const float w = s.pair[0][std::size_t(i)];
        s.pair[0][std::size_t(i)] += 1e-6f;
        for (int r = 1; r < kTerms; ++r)
            s.pair[at(r, r)][std::size_t(i)] += 1e-3f * s.pair[at(r, r)][std::size_t(i)] + kStill * w + 1e-6f;
    }
    for (int c = 0; c < kTerms; ++c) {
        for (int k = 0; k < c; ++k)
            for (int r = c; r < kTerms; ++r) {
                float *to = s.pair[at(r, c)].data();
                const float *x = s.pair[at(r, k)].data(), *y = s.pair[at(c, k)].data();
                for (int i = 0; i < n; ++i)
                    to[i] -= x[i] * y[i];
            }
        float *d = s.pair[at(c, c)].data();
        for (int i = 0; i < n; ++i)
            d[i] = 1 / std::sqrt(std::max(d[i], 1e-9f));
        for (int r = c + 1; r < kTerms; ++r)
            for (int i = 0; i < n; ++i)
                s.pair[at(r, c)][std::size_t(i)] *= d[i];
    }
    for (int k = 0; k < 3; ++k) {
        for (int r = 0; r < kTerms; ++r) {
            float *to = s.colour[std::size_t(r)][std::size_t(k)].data();
            for (int c = 0; c < r; ++c) {
                const float *l = s.pair[at(r, c)].data(), *y = s.colour[std::size_t(c)][std::size_t(k)].data();
                for (int i = 0; i < n; ++i)
                    to[i] -= l[i] * y[i];
            }
            for (int i = 0; i < n; ++i)
                to[i] *= s.pair[at(r, r)][std::size_t(i)];
        }
        for (int r = kTerms - 1; r >= 0; --r) {
            float *to = s.colour[std::size_t(r)][std::size_t(k)].data();
            for (int c = r + 1; c < kTerms; ++c) {
                const float *l = s.pair[at(c, r)].data(), *y = s.colour[std::size_t(c)][std::size_t(k)].data();
                for (int i = 0; i < n; ++i)
                    to[i] -= l[i] * y[i];
            }
            for (int i = 0; i < n; ++i)
                to[i] *= s.pair[at(r, r)][std::size_t(i)];
        }
    }
}

/// What regressions of a row of pixels say of the pixels at an offset.
BONEMOSS_WIDE void say(const Sums &s, const Terms &f, const float *w, int n, float *const *out, float *weight)
{
    for (int i = 0; i < n; ++i)
        weight[i] += w[i];
    for (int k = 0; k < 3; ++k)
        for (int i = 0; i < n; ++i) {
            float v = 0;
            for (int a = 0; a < kTerms; ++a)
                v += s.colour[std::size_t(a)][std::size_t(k)][std::size_t(i)] * f[std::size_t(a)][std::size_t(i)];
            out[k][i] += w[i] * v;
        }
}

struct Said {
    std::array<std::array<Row, kWide>, 3> colour;
    std::array<Row, kWide> weight;
};

/// Weights of all offsets for a tile, from one half of the samples.
struct Alike {
    static constexpr int kSide = 2 * kWindow + 1;
    std::vector<float> w = std::vector<float>(std::size_t(kSide * kSide * kTile * kTile));
    float *row(int dx, int dy, int y)
    {
        return w.data() + std::size_t((((dy + kWindow) * kSide + dx + kWindow) * kTile + y) * kTile);
    }
};

void findAlike(const TilePart &t, std::size_t half, Alike &out)
{
    constexpr int kHigh = kTile + 2 * kPatch, kPatchSide = 2 * kPatch + 1;
    std::array<std::array<float, kHigh>, kHigh> d, across;
    for (int dy = -kWindow; dy <= kWindow; ++dy)
        for (int dx = -kWindow; dx <= kWindow; ++dx) {
            for (int j = 0; j < kHigh; ++j) {
                const std::size_t y = std::size_t(j + kWindow), q = std::size_t(j + kWindow + dy);
                const std::size_t x = std::size_t(kWindow), o = std::size_t(kWindow + dx);
                const float *c[3], *e[3];
                for (std::size_t k = 0; k < 3; ++k)
                    c[k] = &t.half[half][k][y][x], e[k] = &t.half[half][k][q][o];
                difference(c, e, &t.variance[y][x], &t.variance[q][o], kHigh, d[std::size_t(j)].data());
            }
            for (std::size_t j = 0; j < kHigh; ++j) { // means over patches, across and then down
                across[j].fill(0);
                for (int k = 0; k < kPatchSide; ++k)
                    addRows(d[j].data() + k, kTile, across[j].data());
            }
            for (int y = 0; y < kTile; ++y) {
                std::array<float, kTile> sum{};
                for (int k = 0; k < kPatchSide; ++k)
                    addRows(across[std::size_t(y + k)].data(), kTile, sum.data());
                float *w = out.row(dx, dy, y);
                const float *in = &t.inside[std::size_t(y + kMargin + dy)][std::size_t(kMargin + dx)];
                for (std::size_t i = 0; i < kTile; ++i)
                    w[i] = in[i] * std::exp(-std::max(0.0f, sum[i] * (1.0f / (kPatchSide * kPatchSide))));
            }
        }
}

/// Filters one half of a tile by weights of the other, into what was said so far.
void regress(const TilePart &t, std::size_t half, Alike &alike, Said &said)
{
    auto sums = std::make_unique<Sums>();
    Terms f;
    const auto termsAt = [&](int y, int dx, int dy) {
        const std::size_t p = std::size_t(y + kMargin), q = std::size_t(y + kMargin + dy), x = kMargin,
                          o = std::size_t(kMargin + dx);
        f[0].fill(1);
        for (std::size_t k = 0; k < kGuides; ++k)
            for (std::size_t i = 0; i < kTile; ++i)
                f[k + 1][i] = t.guide[k][q][o + i] - t.guide[k][p][x + i];
    };
    for (int y = 0; y < kTile; ++y) {
        std::memset(sums.get(), 0, sizeof(Sums));
        for (int dy = -kWindow; dy <= kWindow; ++dy)
            for (int dx = -kWindow; dx <= kWindow; ++dx) {
                termsAt(y, dx, dy);
                const float *c[3];
                for (std::size_t k = 0; k < 3; ++k)
                    c[k] = &t.half[half][k][std::size_t(y + kMargin + dy)][std::size_t(kMargin + dx)];
                addTo(*sums, f, alike.row(dx, dy, y), c, kTile);
            }
        solve(*sums, kTile);
        for (int dy = -kWindow; dy <= kWindow; ++dy)
            for (int dx = -kWindow; dx <= kWindow; ++dx) {
                termsAt(y, dx, dy);
                const std::size_t q = std::size_t(y + kMargin + dy), o = std::size_t(kMargin + dx);
                float *c[3];
                for (std::size_t k = 0; k < 3; ++k)
                    c[k] = &said.colour[k][q][o];
                say(*sums, f, alike.row(dx, dy, y), kTile, c, &said.weight[q][o]);
            }
    }
}

std::vector<Vec3f> filteredFull(const Gathered &g, const Progress &progress)
{
    const Guided guided = guidedOf(g);
    const int w = g.width, h = g.height;
    // Tiles lie as those of the whole picture, so that a part of it comes out with the same bits.
    const int x0 = -(g.left % kTile), y0 = -(g.top % kTile);
    const int across = (w - x0 + kTile - 1) / kTile, down = (h - y0 + kTile - 1) / kTile;
    std::vector<Vec3f> out(g.size());
    // Tiles say something of a margin of each other too: each adds its own margins in a fixed order afterwards.
    std::vector<std::unique_ptr<Said>> said(std::size_t(across) * std::size_t(down));
    const bool isDone = forEachBlock(said.size(), 1, progress.stop, [&](BlockRange r) {
        auto tile = std::make_unique<TilePart>();
        auto own = std::make_unique<Said>();
        std::memset(own.get(), 0, sizeof(Said));
        Alike alike;
        take(guided, x0 + int(r.begin) % across * kTile, y0 + int(r.begin) / across * kTile, *tile);
        for (std::size_t half = 0; half < 2; ++half) {
            findAlike(*tile, 1 - half, alike);
            regress(*tile, half, alike, *own);
        }
        said[r.begin] = std::move(own);
    });
    if (!isDone) {
        for (std::size_t i = 0; i < g.size(); ++i)
            out[i] = g.all(i);
        return out;
    }
    forEachBlock(std::size_t(down), 1, [&](BlockRange r) {
        for (int y = std::max(0, y0 + int(r.begin) * kTile); y < std::min(h, y0 + int(r.begin + 1) * kTile); ++y)
            for (int x = 0; x < w; ++x) {
                Vec3f sum;
                float weight = 0;
                const int u = x - x0, v = y - y0; // from the corner of the first tile
                const int tx0 = std::max(0, (u - kMargin) / kTile), tx1 = std::min(across - 1, (u + kMargin) / kTile);
                const int ty0 = std::max(0, (v - kMargin) / kTile), ty1 = std::min(down - 1, (v + kMargin) / kTile);
                for (int ty = ty0; ty <= ty1; ++ty)
                    for (int tx = tx0; tx <= tx1; ++tx) {
                        const int i = u - tx * kTile + kMargin, j = v - ty * kTile + kMargin;
                        if (i < 0 || j < 0 || i >= kWide || j >= kWide)
                            continue;
                        const Said &s = *said[std::size_t(ty) * std::size_t(across) + std::size_t(tx)];
                        const std::size_t a = std::size_t(j), b = std::size_t(i);
                        sum += Vec3f{s.colour[0][a][b], s.colour[1][a][b], s.colour[2][a][b]};
                        weight += s.weight[a][b];
                    }
                const std::size_t at = std::size_t(y) * std::size_t(w) + std::size_t(x);
                out[at] = weight > 1e-6f ? max(Vec3f{}, sum * (1 / weight)) : g.all(at);
            }
    });
    return out;
}

std::vector<Vec3f> filteredQuick(const Gathered &g)
{
    const Guided guided = guidedOf(g);
    const std::size_t n = g.size();
    std::vector<Vec3f> c(n), to(n), albedo(n);
    Plane variance(n), toVariance(n);
    for (std::size_t i = 0; i < n; ++i) { // light without the colour it falls on
        albedo[i] = {guided.guide[0][i] + 0.02f, guided.guide[1][i] + 0.02f, guided.guide[2][i] + 0.02f};
        if (g.cover[i] < 0.5f * float(g.count[i]))
            albedo[i] = {1, 1, 1};
        const Vec3f all = g.all(i);
        c[i] = {all.x / albedo[i].x, all.y / albedo[i].y, all.z / albedo[i].z};
        const float l = luminance(albedo[i]);
        variance[i] = guided.variance[i] / (2 * l * l);
    }
    if (n > 0 && g.count[0] < 4) { // too few to tell of their spread: that of those about them
        Plane light(n), square(n);
        for (std::size_t i = 0; i < n; ++i)
            light[i] = luminance(c[i]), square[i] = light[i] * light[i];
        light = mean(light, g.width, g.height, 3), square = mean(square, g.width, g.height, 3);
        for (std::size_t i = 0; i < n; ++i)
            variance[i] = std::max(0.0f, square[i] - light[i] * light[i]);
    }
    constexpr std::array<float, 3> kKernel{0.375f, 0.25f, 0.0625f};
    for (int pass = 0, step = 1; pass < 4; ++pass, step *= 2) {
        forEachBlock(std::size_t(g.height), 8, [&](BlockRange r) {
            for (int y = int(r.begin); y < int(r.end); ++y)
                for (int x = 0; x < g.width; ++x) {
                    const std::size_t p = std::size_t(y * g.width + x);
                    const float mine = luminance(c[p]), scale = 1 / (4 * std::sqrt(variance[p]) + 1e-4f);
                    Vec3f sum;
                    float weight = 0, spread = 0;
                    for (int j = -2; j <= 2; ++j)
                        for (int i = -2; i <= 2; ++i) {
                            const int qx = x + i * step, qy = y + j * step;
                            if (qx < 0 || qy < 0 || qx >= g.width || qy >= g.height)
                                continue;
                            const std::size_t q = std::size_t(qy * g.width + qx);
                            float apart = std::abs(mine - luminance(c[q])) * scale;
                            float n2 = 0;
                            for (std::size_t k = 3; k < 6; ++k)
                                n2 += (guided.guide[k][p] - guided.guide[k][q]) * (guided.guide[k][p] - guided.guide[k][q]);
                            apart += n2 * 60 + std::abs(guided.guide[6][p] - guided.guide[6][q]) * 40 / float(step);
                            const float w =
                                kKernel[std::size_t(std::abs(i))] * kKernel[std::size_t(std::abs(j))] * std::exp(-apart);
                            sum += c[q] * w, weight += w, spread += w * w * variance[q];
                        }
                    to[p] = sum * (1 / weight), toVariance[p] = spread / (weight * weight);
                }
        });
        c.swap(to), variance.swap(toVariance);
    }
    for (std::size_t i = 0; i < n; ++i)
        c[i] = c[i] * albedo[i];
    return c;
}

} // namespace

std::vector<Vec3f> filtered(const Gathered &g, FilterQuality quality, const Progress &progress)
{
    if (quality == FilterQuality::Full)
        return filteredFull(g, progress);
    return filteredQuick(g);
}

} // namespace bonemoss::portrait
