#include "growth/flow.h"

#include "base/wide.h"

#include <Eigen/SparseCholesky>

#include <complex>

namespace bonemoss::growth {

namespace {

using Complex = std::complex<double>;

constexpr Vec3f kTailward{0, -0.25f, -1}; ///< what skin does that nothing else is said of
constexpr float kGuideHold = 8, kStretchHold = 2, kLimbHold = 0.05f, kRestHold = 0.005f;

/// How far from each other points are joined, in their cubes: more neighbours cost the solve much and smooth no better. How
/// firmly: what a field that turns evenly takes goes with the fourth power of that reach, and the holds above were chosen at 2.2.
constexpr float kJoined = 1.7f;
constexpr double kFirm = 2.2 * 2.2 * 2.2 * 2.2 / (1.7 * 1.7 * 1.7 * 1.7);

Vec3f inPlane(Vec3f v, Vec3f normal)
{
    return v - normal * dot(v, normal);
}

/// Two unit vectors across a normal.
void basis(Vec3f n, Vec3f &e1, Vec3f &e2)
{
    e1 = normalized(inPlane(std::abs(n.x) < 0.8f ? Vec3f{1, 0, 0} : Vec3f{0, 1, 0}, n));
    e2 = cross(n, e1);
}

/// What a knit makes by itself where the skin lies slantwise in its cells: longer one way by as much as the diagonal of a
/// square, less 1. What is stretched less than that does not count.
constexpr float kKnitted = 0.42f;

/// The sum of the outer products of the edges of cells, each cell counting alike.
struct Pull {
    float xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;

    void add(Vec3f e, float w)
    {
        xx += w * e.x * e.x, xy += w * e.x * e.y, xz += w * e.x * e.z;
        yy += w * e.y * e.y, yz += w * e.y * e.z, zz += w * e.z * e.z;
    }
    float along(Vec3f a, Vec3f b) const
    {
        const Vec3f t{xx * b.x + xy * b.y + xz * b.z, xy * b.x + yy * b.y + yz * b.z, xz * b.x + yz * b.y + zz * b.z};
        return dot(a, t);
    }
    /// In the plane of two unit vectors: the way of the most stretch, as long as it is times the least, less 1.
    Vec3f most(Vec3f e1, Vec3f e2) const
    {
        const float a = along(e1, e1), b = along(e1, e2), c = along(e2, e2);
        const float mean = (a + c) / 2, off = std::hypot((a - c) / 2, b), turn = std::atan2(2 * b, a - c) / 2;
        if (!(mean - off > 0))
            return {};
        return (e1 * std::cos(turn) + e2 * std::sin(turn)) * (std::sqrt((mean + off) / (mean - off)) - 1);
    }
};

/// How the cells within reach of some points were pulled: a hundred or more for each, so that what single cells are like by
/// chance does not tell.
std::vector<Pull> pullsAt(const Ground &ground, const std::vector<Vec3f> &points, const std::vector<Vec3f> &normals,
                          const PointGrid &grid, float reach)
{
    std::vector<Pull> out(points.size());
    const mesh::Topology &t = *ground.topology;
    const std::size_t step = std::max<std::size_t>(1, t.faceCount() / (10 * std::max<std::size_t>(1, points.size())));
    for (std::size_t b = 0; b < t.blockCount(); ++b)
        for (std::size_t i = 0; i < t.block(b).drawnFaces; i += step) {
            const mesh::Face f = t.faceOf(b, i);
            const auto n = std::size_t(f.size());
            Vec3f p[4], edge[4], middle;
            float whole = 0;
            for (std::size_t k = 0; k < n; ++k)
                p[k] = ground.positions[f.v[k]], middle += p[k] * (1 / float(n));
            for (std::size_t k = 0; k < n; ++k)
                edge[k] = p[(k + 1) % n] - p[k], whole += squaredLength(edge[k]);
            if (!(whole > 0))
                continue;
            const Vec3f facing = ground.normals[f.v[0]].unpack();
            grid.around(middle, reach, [&](std::uint32_t at) {
                if (dot(facing, normals[at]) > 0)
                    for (std::size_t k = 0; k < n; ++k)
                        out[at].add(edge[k], 1 / whole);
            });
        }
    return out;
}

struct Nearest {
    float distance = std::numeric_limits<float>::max();
    Vec3f along;
};

Nearest nearestOnGuide(const Guide &g, Vec3f p)
{
    Nearest best;
    for (std::size_t k = 0; k + 1 < g.points.size(); ++k) {
        const Vec3f d = g.points[k + 1] - g.points[k];
        const float len2 = squaredLength(d);
        if (len2 == 0)
            continue;
        const float t = std::clamp(dot(p - g.points[k], d) / len2, 0.0f, 1.0f), off = length(p - (g.points[k] + d * t));
        if (off < best.distance)
            best = {off, d * (1 / std::sqrt(len2))};
    }
    return best;
}

} // namespace

Vec3f alongLimbs(const std::vector<Limb> &limbs, Vec3f p)
{
    float least = std::numeric_limits<float>::max();
    Vec3f along;
    for (const Limb &l : limbs) {
        const Vec3f d = l.to - l.from;
        const float len2 = squaredLength(d);
        if (len2 == 0)
            continue;
        const float t = std::clamp(dot(p - l.from, d) / len2, 0.0f, 1.0f);
        const float off = length(p - (l.from + d * t)) / std::max(std::lerp(l.fromRadius, l.toRadius, t), 1e-3f);
        if (off < least)
            least = off, along = d * (1 / std::sqrt(len2));
    }
    return along;
}

Flow::Flow(const Ground &ground, const Surroundings &about, float stretch)
{
    const float cube = std::max(std::sqrt(ground.area / float(about.flowPoints)), ground.spacing);
    const std::vector<GroundPoint> points = ground.points(cube, 1, true);
    const std::size_t n = points.size();
    for (const GroundPoint &p : points)
        m_points.push_back(p.at), m_normals.push_back(p.normal);
    m_reach = 2.2f * cube;
    m_grid = PointGrid(m_points, m_reach);
    m_along.resize(n);
    m_sizes.assign(n, 1);

    std::vector<Vec3f> e1(n), e2(n);
    for (std::size_t i = 0; i < n; ++i)
        basis(m_normals[i], e1[i], e2[i]);
    const std::vector<Pull> pulls =
        stretch > 0 && ground.topology ? pullsAt(ground, m_points, m_normals, m_grid, m_reach) : std::vector<Pull>();
    std::vector<Eigen::Triplet<Complex>> matrix;
    std::vector<Eigen::Triplet<double>> sizes; // the same without turning, for sizes
    Eigen::VectorXcd wanted(n);
    Eigen::VectorXd wantedSize(n);
    for (std::size_t i = 0; i < n; ++i) {
        double sum = 0;
        m_grid.around(m_points[i], kJoined * cube, [&](std::uint32_t j) {
            if (j == i || dot(m_normals[i], m_normals[j]) < 0.1f)
                return;
            const Vec3f x = inPlane(e1[j], m_normals[i]); // e1 of j in the plane of i
            Complex turn(double(dot(x, e1[i])), double(dot(x, e2[i])));
            const double len = std::abs(turn);
            turn = len > 1e-6 ? turn * (kFirm / len) : Complex(kFirm, 0);
            matrix.emplace_back(int(i), int(j), -turn);
            sizes.emplace_back(int(i), int(j), -kFirm);
            sum += kFirm;
        });
        Vec3f v = inPlane(kTailward, m_normals[i]);
        float hold = kRestHold, size = 1, sizeHold = 0.001f;
        if (const Vec3f limb = inPlane(alongLimbs(about.limbs, m_points[i]), m_normals[i]); squaredLength(limb) > 0.01f)
            v = limb, hold = kLimbHold * length(limb);
        if (!pulls.empty())
            if (const Vec3f pull = pulls[i].most(e1[i], e2[i]); length(pull) > kKnitted) { // a line: of its ends the nearer
                v = dot(pull, v) < 0 ? -pull : pull;
                hold += stretch * kStretchHold * std::min(1.0f, 2 * (length(pull) - kKnitted));
            }
        Nearest best;
        for (const Guide &g : about.guides)
            if (const Nearest here = nearestOnGuide(g, m_points[i]); here.distance < best.distance && here.distance < 1.5f * cube)
                best = here, size = g.size, sizeHold = 1;
        if (squaredLength(best.along) > 0)
            if (const Vec3f guided = inPlane(best.along, m_normals[i]); squaredLength(guided) > 0.01f)
                v = guided, hold = kGuideHold;
        v = normalized(v);
        matrix.emplace_back(int(i), int(i), Complex(sum + double(hold), 0));
        sizes.emplace_back(int(i), int(i), sum + double(sizeHold));
        wanted[Eigen::Index(i)] = double(hold) * Complex(double(dot(v, e1[i])), double(dot(v, e2[i])));
        wantedSize[Eigen::Index(i)] = double(sizeHold) * std::log(double(std::max(size, 0.01f)));
    }
    if (n == 0)
        return;
    // The turn from j to i is the inverse of that from i to j only to first order; the mean of both is hermitian.
    Eigen::SparseMatrix<Complex> a{Eigen::Index(n), Eigen::Index(n)};
    a.setFromTriplets(matrix.begin(), matrix.end());
    const Eigen::SparseMatrix<Complex> hermitian = 0.5 * (a + Eigen::SparseMatrix<Complex>(a.adjoint()));
    const Eigen::SimplicialLDLT<Eigen::SparseMatrix<Complex>> solver(hermitian);
    const Eigen::VectorXcd u = solver.solve(wanted);
    for (std::size_t i = 0; i < n; ++i) {
        const Complex c = u[Eigen::Index(i)];
        const double len = std::abs(c);
        const Vec3f v = e1[i] * float(c.real()) + e2[i] * float(c.imag());
        m_along[i] = len > 1e-12 ? v * float(std::min(1.0, 1 / len)) : Vec3f{};
    }
    m_hasSizes = !about.guides.empty();
    if (m_hasSizes) {
        Eigen::SparseMatrix<double> s{Eigen::Index(n), Eigen::Index(n)};
        s.setFromTriplets(sizes.begin(), sizes.end());
        const Eigen::SimplicialLDLT<Eigen::SparseMatrix<double>> sizeSolver(s);
        const Eigen::VectorXd log = sizeSolver.solve(wantedSize);
        for (std::size_t i = 0; i < n; ++i)
            m_sizes[i] = float(std::exp(log[Eigen::Index(i)]));
    }
}

namespace {

/// What is known of the flow about a place: values of the same kind side by side, filled up to whole eights with nothing.
class Known
{
public:
    enum Kind { X, Y, Z, FacingX, FacingY, FacingZ, AlongX, AlongY, AlongZ, Size, Kinds };
    void clear() { m_count = 0; }
    void add(Vec3f at, Vec3f facing, Vec3f along, float size)
    {
        if (m_count % kEight == 0)
            for (auto &v : m_values)
                v.resize(std::max(v.size(), m_count + kEight)), std::fill_n(v.begin() + std::ptrdiff_t(m_count), kEight, 0.0f);
        const float values[] = {at.x, at.y, at.z, facing.x, facing.y, facing.z, along.x, along.y, along.z, size};
        for (std::size_t k = 0; k < Kinds; ++k)
            m_values[k][m_count] = values[k];
        ++m_count;
    }
    std::size_t count() const { return (m_count + kEight - 1) / kEight * kEight; }
    const float *operator[](Kind k) const { return m_values[k].data(); }
    static constexpr std::size_t kEight = 8;

private:
    std::array<std::vector<float>, Kinds> m_values;
    std::size_t m_count = 0;
};

struct Sum {
    Vec3f along;
    float size = 0, weight = 0;
};

/// The weighted sum of what lies within reach, eight at a time.
BONEMOSS_WIDE Sum summed(const Known &known, Vec3f p, Vec3f normal, float reach)
{
    constexpr std::size_t n = Known::kEight;
    const float most = reach * reach, perMost = 1 / most;
    const float *x = known[Known::X], *y = known[Known::Y], *z = known[Known::Z], *nx = known[Known::FacingX],
                *ny = known[Known::FacingY], *nz = known[Known::FacingZ], *ax = known[Known::AlongX], *ay = known[Known::AlongY],
                *az = known[Known::AlongZ], *sizes = known[Known::Size];
    float sums[5][n] = {};
    for (std::size_t from = 0; from < known.count(); from += n)
        for (std::size_t k = 0; k < n; ++k) {
            const std::size_t i = from + k;
            const float dx = x[i] - p.x, dy = y[i] - p.y, dz = z[i] - p.z;
            const float facing = normal.x * nx[i] + normal.y * ny[i] + normal.z * nz[i];
            const float t = std::max(0.0f, 1 - (dx * dx + dy * dy + dz * dz) * perMost), w = facing < 0.1f ? 0 : t * t * facing;
            sums[0][k] += ax[i] * w, sums[1][k] += ay[i] * w, sums[2][k] += az[i] * w;
            sums[3][k] += sizes[i] * w, sums[4][k] += w;
        }
    float out[5] = {};
    for (std::size_t c = 0; c < 5; ++c)
        for (std::size_t k = 0; k < n; ++k)
            out[c] += sums[c][k];
    return {{out[0], out[1], out[2]}, out[3], out[4]};
}

} // namespace

Flow::At Flow::at(Vec3f p, Vec3f normal) const
{
    At out;
    const GroundPoint point{p, normal};
    at({&point, 1}, {&out, 1});
    return out;
}

void Flow::at(std::span<const GroundPoint> points, std::span<At> out) const
{
    constexpr std::size_t kMost = 256;
    Known near;
    for (std::size_t first = 0, end = 0; first < points.size(); first = end) {
        const Vec3f from = points[first].at;
        const float radius = m_reach / 2;
        while (end < points.size() && end - first < kMost && squaredLength(points[end].at - from) <= radius * radius)
            ++end;
        near.clear();
        m_grid.around(from, 1.001f * (m_reach + radius),
                      [&](std::uint32_t i) { near.add(m_points[i], m_normals[i], m_along[i], m_sizes[i]); });
        for (std::size_t i = first; i < end; ++i) {
            const Vec3f normal = points[i].normal;
            const Sum sum = summed(near, points[i].at, normal, m_reach);
            At &at = out[i] = {};
            if (sum.weight > 0)
                at.size = sum.size / sum.weight;
            const Vec3f v = inPlane(sum.weight > 0 ? sum.along * (1 / sum.weight) : Vec3f{}, normal);
            at.certain = std::min(1.0f, 2 * length(v));
            at.along = normalized(v);
            if (at.along == Vec3f{}) {
                Vec3f e2;
                at.certain = 0;
                basis(normal, at.along, e2);
            }
        }
    }
}

} // namespace bonemoss::growth
