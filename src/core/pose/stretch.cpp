#include "pose/stretch.h"

#include "skin/skin.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::pose {

using skin::LayerDrive;

float Stretch::of(LayerDrive::By by) const
{
    switch (by) {
    case LayerDrive::By::Shrink: return least;
    case LayerDrive::By::Area: return std::sqrt(least * most);
    case LayerDrive::By::Grow: return most;
    default: return 1;
    }
}

namespace {

/// Singular values of the map of a triangle's plane that takes its edges a, b to c, d; and its area at rest.
Stretch stretchOf(Vec3f a, Vec3f b, Vec3f c, Vec3f d, float &area)
{
    const float aa = dot(a, a), ab = dot(a, b), bb = dot(b, b), whole = aa * bb - ab * ab; // squared twice the area
    area = std::sqrt(std::max(whole, 0.0f)) / 2;
    if (!(whole > 1e-20f))
        return {};
    // In a basis along a and square to it: the Cauchy-Green tensor of the map.
    const float cc = dot(c, c), cd = dot(c, d), dd = dot(d, d);
    const float size = std::sqrt(aa), up = std::sqrt(whole) / size, over = ab / size;
    const float xx = cc / aa, xy = (cd - over / size * cc) / (size * up),
                yy = (dd - 2 * over / size * cd + over * over / aa * cc) / (up * up);
    const float mean = (xx + yy) / 2, apart = std::sqrt((xx - yy) * (xx - yy) / 4 + xy * xy);
    return {std::sqrt(std::max(mean - apart, 0.0f)), std::sqrt(std::max(mean + apart, 0.0f))};
}

} // namespace

std::vector<Stretch> stretchOf(const mesh::Surface &rest, const mesh::BlockArray<Vec3f> &posed, std::size_t block)
{
    const mesh::BlockFaces &faces = rest.topology->block(block);
    std::vector<Vec3f> was, is(faces.own + faces.borrowed.size());
    gatherPositions(rest, block, was);
    std::copy_n(posed.data(block), faces.own, is.begin());
    for (std::size_t i = 0; i < faces.borrowed.size(); ++i)
        is[faces.own + i] = posed[faces.borrowed[i]];
    std::vector<Stretch> sums(faces.own, {0, 0});
    std::vector<float> areas(faces.own, 0);
    for (const mesh::LocalFace &f : faces.faces)
        for (int k = 1; k + 1 < f.size(); ++k) {
            const std::size_t u = f.v[0], v = f.v[std::size_t(k)], w = f.v[std::size_t(k + 1)];
            float area = 0;
            const Stretch s = stretchOf(was[v] - was[u], was[w] - was[u], is[v] - is[u], is[w] - is[u], area);
            for (const std::size_t c : {u, v, w})
                if (c < faces.own)
                    sums[c].least += area * s.least, sums[c].most += area * s.most, areas[c] += area;
        }
    for (std::size_t i = 0; i < sums.size(); ++i)
        sums[i] = areas[i] > 0 ? Stretch{sums[i].least / areas[i], sums[i].most / areas[i]} : Stretch{};
    return sums;
}

namespace {

/// Radians between two rotations.
float angleBetween(Quat a, Quat b)
{
    const Quat d = a.conjugate() * b;
    return 2 * std::atan2(std::sqrt(d.x * d.x + d.y * d.y + d.z * d.z), std::abs(d.w));
}

/// Solves n equations in place by elimination with pivots; false where they have no one solution.
bool solve(std::vector<std::vector<double>> &m, std::vector<double> &v)
{
    const std::size_t n = v.size();
    for (std::size_t k = 0; k < n; ++k) {
        std::size_t best = k;
        for (std::size_t r = k + 1; r < n; ++r)
            best = std::abs(m[r][k]) > std::abs(m[best][k]) ? r : best;
        if (std::abs(m[best][k]) < 1e-9)
            return false;
        std::swap(m[k], m[best]), std::swap(v[k], v[best]);
        for (std::size_t r = k + 1; r < n; ++r) {
            const double by = m[r][k] / m[k][k];
            for (std::size_t c = k; c < n; ++c)
                m[r][c] -= by * m[k][c];
            v[r] -= by * v[k];
        }
    }
    for (std::size_t k = n; k-- > 0;) {
        for (std::size_t c = k + 1; c < n; ++c)
            v[k] -= m[k][c] * v[c];
        v[k] /= m[k][k];
    }
    return true;
}

bool isOfSameBones(const LayerDrive &a, const LayerDrive &b)
{
    return std::equal(a.joints.begin(), a.joints.end(), b.joints.begin(), b.joints.end(),
                      [](const auto &x, const auto &y) { return x.bone == y.bone; });
}

} // namespace

std::vector<float> poseShares(const std::vector<skin::Layer> &layers, const Posture &posture)
{
    std::vector<float> out(layers.size(), 1);
    std::vector<bool> isDone(layers.size(), false);
    for (std::size_t first = 0; first < layers.size(); ++first) {
        if (layers[first].drive.by != LayerDrive::By::Pose || isDone[first])
            continue;
        const auto &bones = layers[first].drive.joints;
        std::vector<std::size_t> group;
        std::vector<std::vector<Quat>> places{std::vector<Quat>(bones.size())}; // rest, then each pose that is corrected
        for (std::size_t k = first; k < layers.size(); ++k)
            if (layers[k].drive.by == LayerDrive::By::Pose && isOfSameBones(layers[k].drive, layers[first].drive)) {
                isDone[k] = true, out[k] = 0;
                std::vector<Quat> place;
                for (const auto &j : layers[k].drive.joints)
                    place.push_back(j.turn);
                group.push_back(k), places.push_back(std::move(place));
            }
        std::vector<Quat> now;
        for (const auto &j : bones)
            now.push_back(posture.turnOf(boneKeyOf(j.bone)));
        const auto far = [](const std::vector<Quat> &a, const std::vector<Quat> &b) {
            float sum = 0;
            for (std::size_t k = 0; k < a.size(); ++k)
                sum += angleBetween(a[k], b[k]) * angleBetween(a[k], b[k]);
            return std::sqrt(sum);
        };
        constexpr float kNear = 1e-5f;
        if (far(now, places[0]) < kNear)
            continue; // nothing shows at rest
        // Two layers for the same pose share one place.
        std::vector<std::size_t> at;
        std::vector<std::vector<Quat>> apart{places[0]};
        for (std::size_t k = 1; k < places.size(); ++k) {
            std::size_t same = 0;
            while (same < apart.size() && far(apart[same], places[k]) > 1e-3f)
                ++same;
            if (same == apart.size())
                apart.push_back(places[k]);
            at.push_back(same);
        }
        const std::size_t n = apart.size();
        float width = 0; // mean distance to the nearest other
        for (std::size_t i = 0; i < n; ++i) {
            float least = std::numeric_limits<float>::max();
            for (std::size_t j = 0; j < n; ++j)
                least = i == j ? least : std::min(least, far(apart[i], apart[j]));
            width += n > 1 ? least / float(n) : 0;
        }
        if (!(width > 0))
            continue;
        const auto bump = [&](float d) { return std::exp(-double(d * d) / (2 * 0.36 * double(width * width))); };
        for (std::size_t k = 0; k < group.size(); ++k) {
            if (at[k] == 0)
                continue; // a pose that is rest has nothing to correct
            std::vector<std::vector<double>> m(n, std::vector<double>(n));
            std::vector<double> v(n, 0);
            for (std::size_t i = 0; i < n; ++i)
                for (std::size_t j = 0; j < n; ++j)
                    m[i][j] = bump(far(apart[i], apart[j]));
            v[at[k]] = 1;
            if (!solve(m, v))
                continue;
            double share = 0;
            for (std::size_t i = 0; i < n; ++i)
                share += v[i] * bump(far(now, apart[i]));
            out[group[k]] = far(now, apart[at[k]]) < kNear ? 1.0f : float(std::clamp(share, 0.0, 1.0));
        }
    }
    return out;
}

} // namespace bonemoss::pose
