#include "colour/detail/cloth.h"

#include "base/parallel.h"
#include "base/random.h"

#include <algorithm>
#include <numeric>

namespace bonemoss::colour::detail {

void Cloth::findNeighbours()
{
    first.assign(size() + 1, 0);
    const auto eachSide = [&](const auto &use) {
        for (const auto &f : faces)
            for (std::size_t k = 0; k < 3; ++k)
                use(f[k], f[(k + 1) % 3]), use(f[(k + 1) % 3], f[k]);
    };
    std::vector<std::uint32_t> count(size() + 1, 0);
    eachSide([&](std::uint32_t a, std::uint32_t) { ++count[a + 1]; });
    std::partial_sum(count.begin(), count.end(), count.begin());
    std::vector<std::uint32_t> all(count.back()), next(count.begin(), count.end() - 1);
    eachSide([&](std::uint32_t a, std::uint32_t b) { all[next[a]++] = b; });
    about.clear(), about.reserve(all.size() / 2);
    for (std::size_t v = 0; v < size(); ++v) { // each once
        const auto begin = all.begin() + count[v], end = all.begin() + count[v + 1];
        std::sort(begin, end);
        about.insert(about.end(), begin, std::unique(begin, end));
        first[v + 1] = std::uint32_t(about.size());
    }
}

Cloth clothOf(const mesh::Surface &surface)
{
    Cloth out;
    out.at = surface.positions.flatten();
    out.normal.resize(out.at.size());
    forEachBlock(surface.normals.blockCount(), 1, [&](BlockRange r) {
        const mesh::PackedNormal *n = surface.normals.data(r.begin);
        for (std::size_t i = 0; i < surface.normals.countIn(r.begin); ++i)
            out.normal[r.begin * mesh::kBlockSize + i] = n[i].unpack();
    });
    const mesh::Topology &t = *surface.topology;
    out.faces.reserve(2 * t.faceCount());
    for (std::size_t b = 0; b < t.blockCount(); ++b)
        for (std::size_t i = 0; i < t.block(b).drawnFaces; ++i) {
            const mesh::Face f = t.faceOf(b, i);
            out.faces.push_back({f.v[0], f.v[1], f.v[2]});
            if (f.size() == 4)
                out.faces.push_back({f.v[0], f.v[2], f.v[3]});
        }
    out.findNeighbours();
    return out;
}

namespace {

/// Which vertices are nodes: at random, none within reach of another over the skin.
std::vector<std::uint32_t> nodesOf(const Cloth &fine, const std::function<float(std::size_t)> &apart)
{
    std::vector<std::pair<std::uint32_t, std::uint32_t>> order(fine.size()); // a random number first
    for (std::uint32_t v = 0; v < order.size(); ++v)
        order[v] = {std::uint32_t(randomBits(11, v)), v};
    std::sort(order.begin(), order.end());
    std::vector<std::uint32_t> nodes, takenBy(fine.size(), kNone), seenBy(fine.size(), kNone), way;
    for (const auto &[random, v] : order) {
        if (takenBy[v] != kNone || fine.neighbours(v).empty())
            continue;
        const auto node = std::uint32_t(nodes.size());
        nodes.push_back(v);
        const float reach = apart(v), most = reach * reach;
        way.assign(1, v), seenBy[v] = node;
        while (!way.empty()) {
            const std::uint32_t a = way.back();
            way.pop_back();
            takenBy[a] = node;
            for (const std::uint32_t o : fine.neighbours(a))
                if (seenBy[o] != node && squaredLength(fine.at[o] - fine.at[v]) < most)
                    seenBy[o] = node, way.push_back(o);
        }
    }
    std::sort(nodes.begin(), nodes.end()); // as the vertices lie, near ones follow each other
    return nodes;
}

/// The node each vertex is nearest to, over the skin.
std::vector<std::uint32_t> ownersOf(const Cloth &fine, const std::vector<std::uint32_t> &nodes)
{
    std::vector<std::uint32_t> owner(fine.size(), kNone);
    std::vector<float> far(fine.size(), std::numeric_limits<float>::max());
    // Outward ring by ring; what turns out nearer to another node later goes on from there again, which is rare.
    std::vector<std::uint32_t> ring, next;
    std::vector<bool> isWaiting(fine.size(), false);
    for (std::uint32_t k = 0; k < nodes.size(); ++k)
        owner[nodes[k]] = k, far[nodes[k]] = 0, ring.push_back(nodes[k]);
    while (!ring.empty()) {
        next.clear();
        for (const std::uint32_t v : ring) {
            isWaiting[v] = false;
            const Vec3f from = fine.at[nodes[owner[v]]];
            for (const std::uint32_t o : fine.neighbours(v))
                if (const float there = squaredLength(fine.at[o] - from); there < far[o]) {
                    far[o] = there, owner[o] = owner[v];
                    if (!isWaiting[o])
                        isWaiting[o] = true, next.push_back(o);
                }
        }
        ring.swap(next);
    }
    return owner;
}

/// Weights of a point in the plane of a triangle.
std::array<float, 3> weightsIn(Vec3f a, Vec3f b, Vec3f c, Vec3f p)
{
    const Vec3f n = cross(b - a, c - a);
    const float whole = dot(n, n);
    if (whole <= 0)
        return {1, 0, 0};
    const float u = dot(cross(c - b, p - b), n) / whole, v = dot(cross(a - c, p - c), n) / whole;
    return {u, v, 1 - u - v};
}

} // namespace

CoarseCloth coarser(const Cloth &fine, const std::function<float(std::size_t)> &apart, std::vector<std::uint32_t> *which)
{
    CoarseCloth out;
    const std::vector<std::uint32_t> nodes = nodesOf(fine, apart), owner = ownersOf(fine, nodes);
    if (which)
        *which = nodes;
    for (const std::uint32_t v : nodes)
        out.cloth.at.push_back(fine.at[v]), out.cloth.normal.push_back(fine.normal[v]);
    struct Corner {
        std::array<std::uint32_t, 3> sorted, as;
    };
    std::vector<Corner> corners;
    for (const auto &f : fine.faces) {
        const std::array<std::uint32_t, 3> as{owner[f[0]], owner[f[1]], owner[f[2]]};
        if (as[0] == as[1] || as[1] == as[2] || as[2] == as[0])
            continue;
        std::array<std::uint32_t, 3> sorted = as;
        std::sort(sorted.begin(), sorted.end());
        corners.push_back({sorted, as});
    }
    std::sort(corners.begin(), corners.end(),
              [](const Corner &a, const Corner &b) { return std::tie(a.sorted, a.as) < std::tie(b.sorted, b.as); });
    for (std::size_t k = 0; k < corners.size(); ++k)
        if (k == 0 || corners[k].sorted != corners[k - 1].sorted)
            out.cloth.faces.push_back(corners[k].as);
    out.cloth.findNeighbours();
    std::vector<std::uint32_t> first(nodes.size() + 1, 0), at; // faces about each node
    for (const auto &f : out.cloth.faces)
        for (const std::uint32_t v : f)
            ++first[v + 1];
    std::partial_sum(first.begin(), first.end(), first.begin());
    at.resize(first.back());
    std::vector<std::uint32_t> next(first.begin(), first.end() - 1);
    for (std::uint32_t f = 0; f < out.cloth.faces.size(); ++f)
        for (const std::uint32_t v : out.cloth.faces[f])
            at[next[v]++] = f;
    out.held.resize(fine.size());
    forEachBlock(fine.size(), 16384, [&](BlockRange r) {
        for (std::size_t v = r.begin; v < r.end; ++v) {
            const std::uint32_t own = owner[v];
            if (own == kNone) {
                out.held[v].weight = {0, 0, 0};
                continue;
            }
            Held best{{own, own, own}, {1, 0, 0}};
            float inside = -std::numeric_limits<float>::max();
            for (std::uint32_t k = first[own]; k < first[own + 1]; ++k) {
                const auto &f = out.cloth.faces[at[k]];
                const std::array<float, 3> w = weightsIn(out.cloth.at[f[0]], out.cloth.at[f[1]], out.cloth.at[f[2]], fine.at[v]);
                if (const float least = std::min({w[0], w[1], w[2]}); least > inside)
                    inside = least, best = {f, w};
            }
            float sum = 0;
            for (float &w : best.weight)
                w = std::max(w, 0.0f), sum += w;
            for (float &w : best.weight)
                w /= std::max(sum, 1e-9f);
            out.held[v] = best;
        }
    });
    return out;
}

NodeField carried(const NodeField &from, const CoarseCloth &coarse, const Cloth &fine)
{
    NodeField out{std::vector<float>(fine.size()), std::vector<Vec3f>(fine.size())};
    forEachBlock(fine.size(), 16384, [&](BlockRange r) {
        for (std::size_t v = r.begin; v < r.end; ++v) {
            const Held &h = coarse.held[v];
            float sum = 0, value = 0;
            Vec3f slope;
            for (std::size_t k = 0; k < 3; ++k) {
                const float w = h.weight[k], q = w * w * (3 - 2 * w);
                const std::uint32_t n = h.node[k];
                value += q * (from.value[n] + dot(from.slope[n], fine.at[v] - coarse.cloth.at[n]));
                slope += from.slope[n] * w;
                sum += q;
            }
            out.value[v] = sum > 0 ? value / sum : 0;
            out.slope[v] = slope;
        }
    });
    return out;
}

namespace {

/// Gradients of the three weights over a face, mm^-1, with its area; slivers count as wider than they are.
struct Slopes {
    std::array<Vec3f, 3> of;
    float area = 0;
};
Slopes slopesOf(const Cloth &c, const std::array<std::uint32_t, 3> &f)
{
    const Vec3f a = c.at[f[0]], b = c.at[f[1]], d = c.at[f[2]], n = cross(b - a, d - a);
    const float longest = std::max({squaredLength(b - a), squaredLength(d - b), squaredLength(a - d)}),
                twice = std::max(length(n), 0.2f * longest);
    Slopes out;
    out.area = twice / 2;
    if (twice <= 0)
        return out;
    const Vec3f unit = normalized(n);
    out.of = {cross(unit, d - b) * (1 / twice), cross(unit, a - d) * (1 / twice), cross(unit, b - a) * (1 / twice)};
    return out;
}

/// M^-1 K of a cloth, row by row.
struct Operator {
    std::vector<std::uint32_t> first, column;
    std::vector<float> value; ///< the diagonal first in each row
    float largest = 0;        ///< bound of its eigenvalues

    void times(const std::vector<float> &u, std::vector<float> &out) const
    {
        forEachBlock(u.size(), 4096, [&](BlockRange r) {
            for (std::size_t v = r.begin; v < r.end; ++v) {
                float sum = 0;
                for (std::uint32_t k = first[v]; k < first[v + 1]; ++k)
                    sum += value[k] * u[column[k]];
                out[v] = sum;
            }
        });
    }
};

/// tensor(face) gives D of K_ij = area g_i D g_j, applied to a vector.
template <typename Tensor> Operator operatorOf(const Cloth &c, const Tensor &tensor)
{
    Operator op;
    const std::size_t n = c.size();
    op.first.assign(n + 1, 0);
    for (std::size_t v = 0; v < n; ++v)
        op.first[v + 1] = op.first[v] + std::uint32_t(c.neighbours(v).size()) + 1;
    op.column.resize(op.first[n]), op.value.assign(op.first[n], 0);
    for (std::size_t v = 0; v < n; ++v) {
        op.column[op.first[v]] = std::uint32_t(v);
        std::copy(c.neighbours(v).begin(), c.neighbours(v).end(), op.column.begin() + op.first[v] + 1);
    }
    std::vector<float> mass(n, 0);
    for (const auto &f : c.faces) {
        const Slopes s = slopesOf(c, f);
        for (std::size_t i = 0; i < 3; ++i) {
            mass[f[i]] += s.area / 3;
            const Vec3f d = tensor(f, s.of[i]);
            for (std::size_t j = 0; j < 3; ++j) {
                const auto row = op.column.begin() + op.first[f[i]], end = op.column.begin() + op.first[f[i] + 1];
                const auto at = i == j ? row : std::lower_bound(row + 1, end, f[j]);
                op.value[std::size_t(at - op.column.begin())] += s.area * dot(d, s.of[j]);
            }
        }
    }
    std::vector<float> ratio; // of stiffness to mass: what stands out would cost a long series
    for (std::size_t v = 0; v < n; ++v)
        if (mass[v] > 0)
            ratio.push_back(op.value[op.first[v]] / mass[v]);
    if (ratio.empty())
        return op;
    std::nth_element(ratio.begin(), ratio.begin() + std::ptrdiff_t(ratio.size() / 2), ratio.end());
    const float most = 1.8f * ratio[ratio.size() / 2];
    for (std::size_t v = 0; v < n; ++v) {
        const float whole = std::max({mass[v], op.value[op.first[v]] / std::max(most, 1e-20f), 1e-20f});
        for (std::uint32_t k = op.first[v]; k < op.first[v + 1]; ++k)
            op.value[k] /= whole;
    }
    std::vector<float> u(n), w(n);
    for (std::size_t v = 0; v < n; ++v)
        u[v] = randomSigned(5, v);
    for (int step = 0; step < 25; ++step) {
        op.times(u, w);
        const double len = std::sqrt(sumBlocks<double>(n, 4096, [&](BlockRange r) {
            double sum = 0;
            for (std::size_t v = r.begin; v < r.end; ++v)
                sum += double(w[v]) * double(w[v]);
            return sum;
        }));
        const double before = std::sqrt(sumBlocks<double>(n, 4096, [&](BlockRange r) {
            double sum = 0;
            for (std::size_t v = r.begin; v < r.end; ++v)
                sum += double(u[v]) * double(u[v]);
            return sum;
        }));
        op.largest = float(1.15 * len / std::max(before, 1e-30));
        for (std::size_t v = 0; v < n; ++v)
            u[v] = float(double(w[v]) / std::max(len, 1e-30));
    }
    return op;
}

/// A function of an operator as a Chebyshev series over 0 to its largest eigenvalue.
class Series
{
public:
    template <typename F> Series(const Operator &op, const F &f) : m_op(op)
    {
        constexpr int kMost = 96;
        std::array<double, kMost> c{};
        for (int k = 0; k < kMost; ++k)
            for (int j = 0; j < kMost; ++j) {
                const double x = std::cos(double(kPi) * (j + 0.5) / kMost);
                c[std::size_t(k)] +=
                    2.0 / kMost * f(double(op.largest) / 2 * (x + 1)) * std::cos(double(kPi) * k * (j + 0.5) / kMost);
            }
        int degree = kMost - 1;
        for (double tail = 0; degree > 1; --degree) {
            tail += std::abs(c[std::size_t(degree)]);
            if (tail > 1.2e-2)
                break;
        }
        for (int k = 0; k <= degree; ++k)
            m_c.push_back(float(k == 0 ? c[0] / 2 : c[std::size_t(k)]));
    }
    void apply(const std::vector<float> &u, std::vector<float> &out)
    {
        const std::size_t n = u.size();
        m_a.resize(n), m_b.resize(n), m_t.resize(n), out.resize(n);
        const float scale = 2 / std::max(m_op.largest, 1e-20f);
        m_op.times(u, m_t);
        forEachBlock(n, 16384, [&](BlockRange r) {
            for (std::size_t v = r.begin; v < r.end; ++v) {
                m_a[v] = u[v], m_b[v] = scale * m_t[v] - u[v];
                out[v] = m_c[0] * m_a[v] + (m_c.size() > 1 ? m_c[1] * m_b[v] : 0.0f);
            }
        });
        for (std::size_t k = 2; k < m_c.size(); ++k) {
            m_op.times(m_b, m_t);
            forEachBlock(n, 16384, [&](BlockRange r) {
                for (std::size_t v = r.begin; v < r.end; ++v) {
                    const float next = 2 * (scale * m_t[v] - m_b[v]) - m_a[v];
                    m_a[v] = m_b[v], m_b[v] = next;
                    out[v] += m_c[k] * next;
                }
            });
        }
    }

private:
    const Operator &m_op;
    std::vector<float> m_c, m_a, m_b, m_t;
};

/// Random values on a lattice, blended; -1 to 1.
float valueNoise(Vec3f p, std::uint64_t seed)
{
    const Vec3f whole{std::floor(p.x), std::floor(p.y), std::floor(p.z)}, t = p - whole;
    const auto corner = [&](int i, int j, int k) {
        const auto part = [](float x, std::uint64_t by) { return std::uint64_t(std::int64_t(x)) * by; };
        return randomSigned(seed, part(whole.x + float(i), 0x9e3779b97f4a7c15u) ^ part(whole.y + float(j), 0xc2b2ae3d27d4eb4fu)
                                      ^ part(whole.z + float(k), 0x165667b19e3779f9u));
    };
    const auto mixed = [](float x, float y, float s) { return x + (y - x) * s * s * (3 - 2 * s); };
    float planes[2];
    for (int k = 0; k < 2; ++k)
        planes[k] = mixed(mixed(corner(0, 0, k), corner(1, 0, k), t.x), mixed(corner(0, 1, k), corner(1, 1, k), t.x), t.y);
    return mixed(planes[0], planes[1], t.z);
}

} // namespace

NodeField withSlopes(const Cloth &cloth, std::vector<float> values)
{
    NodeField out{std::move(values), std::vector<Vec3f>(cloth.size())};
    std::vector<float> area(cloth.size(), 0);
    for (const auto &f : cloth.faces) {
        const Slopes s = slopesOf(cloth, f);
        const Vec3f here = s.of[0] * out.value[f[0]] + s.of[1] * out.value[f[1]] + s.of[2] * out.value[f[2]];
        for (const std::uint32_t v : f)
            out.slope[v] += here * s.area, area[v] += s.area;
    }
    for (std::size_t v = 0; v < cloth.size(); ++v)
        if (area[v] > 0)
            out.slope[v] *= 1 / area[v];
    return out;
}

std::vector<float> areasOf(const Cloth &cloth)
{
    std::vector<float> out(cloth.size(), 0);
    for (const auto &f : cloth.faces)
        for (const std::uint32_t v : f)
            out[v] += length(cross(cloth.at[f[1]] - cloth.at[f[0]], cloth.at[f[2]] - cloth.at[f[0]])) / 6;
    return out;
}

std::vector<float> grownPattern(const PatternInput &in, const PatternSettings &settings, const Progress &progress)
{
    constexpr int kSteps = 35;
    const Cloth &c = in.cloth;
    const std::size_t n = c.size();
    const float e = std::pow(std::max(settings.stretch, 1.0f), 1.35f);
    const auto meanOf = [&](const std::array<std::uint32_t, 3> &f, Vec3f &t, Vec3f &b) {
        t = in.along[f[0]];
        for (std::size_t k = 1; k < 3; ++k) // a line has no front
            t += dot(in.along[f[k]], in.along[f[0]]) < 0 ? -in.along[f[k]] : in.along[f[k]];
        t = normalized(t);
        b = normalized(cross(c.normal[f[0]] + c.normal[f[1]] + c.normal[f[2]], t));
        const float wave = (in.wavelength[f[0]] + in.wavelength[f[1]] + in.wavelength[f[2]]) / 3 / (2 * kPi);
        return wave * wave;
    };
    const Operator a = operatorOf(c, [&](const std::array<std::uint32_t, 3> &f, Vec3f g) {
        Vec3f t, b;
        const float wave = meanOf(f, t, b);
        if (e == 1)
            return g * wave;
        const Vec3f out = g - t * dot(t, g) - b * dot(b, g); // what is left out of the plane by rounding
        return (t * (e * dot(t, g)) + b * (dot(b, g) / e) + out) * wave;
    });
    Series band(a, [m = double(settings.even)](double x) { return std::pow(x * std::exp(1 - x), m); });
    std::optional<Operator> side;
    std::optional<Series> order;
    if (settings.order > 0) {
        side = operatorOf(c, [&](const std::array<std::uint32_t, 3> &f, Vec3f g) {
            Vec3f t, b;
            const float wave = meanOf(f, t, b);
            const Vec3f way = settings.isAlong ? t : b; // stripes run that way: what changes along it goes
            return way * (wave * dot(way, g));
        });
        order.emplace(*side, [o = double(settings.order)](double x) { return std::exp(-o * x); });
    }
    std::vector<float> u(n), v(n, 0), last(n, 0), even;
    const float share = in.besideAt.empty() ? 0.0f : in.beside;
    for (std::size_t k = 0; k < n; ++k)
        u[k] = 1.2f
               * (valueNoise(in.noiseAt[k] * (1 / settings.cell), settings.seed) * (1 - share)
                  + (share > 0 ? share * valueNoise(in.besideAt[k] * (1 / settings.cell), settings.seed + 50) : 0.0f));
    for (int step = 0; step < kSteps; ++step) {
        if (progress.isCancelled())
            return {};
        if (order) {
            order->apply(u, even);
            band.apply(even, v);
        } else {
            band.apply(u, v);
        }
        if (settings.mirrored > 0 && !in.twins.empty()) {
            even = v;
            for (std::size_t k = 0; k < n; ++k)
                v[k] = even[k] + settings.mirrored / 2 * (even[in.twins[k]] - even[k]);
        }
        double moved = 0, whole = 0;
        for (std::size_t k = 0; k < n; ++k)
            moved += std::abs(double(v[k]) - double(last[k])), whole += std::abs(double(v[k]));
        if (moved < 0.01 * whole)
            break;
        last = v;
        forEachBlock(n, 4096, [&](BlockRange r) {
            for (std::size_t k = r.begin; k < r.end; ++k)
                u[k] = std::tanh(settings.sharpness * (v[k] + settings.bias + (in.bias.empty() ? 0.0f : in.bias[k])));
        });
    }
    return v;
}

} // namespace bonemoss::colour::detail
