#include "detail/harvest.h"

#include "base/parallel.h"

#include <Eigen/Dense>

#include <algorithm>

namespace bonemoss::detail {

namespace {

Eigen::Matrix<double, 6, 1> terms(double x, double y)
{
    Eigen::Matrix<double, 6, 1> t;
    t << 1, x, y, x * x, x * y, y * y;
    return t;
}

} // namespace

Result<Harvest> harvest(const mesh::Surface &surface, const HarvestSpot &spot)
{
    const int n = std::clamp(spot.pixels, 16, 1024);
    const Vec3f normal = normalized(spot.normal);
    Vec3f v = normalized(spot.up - normal * dot(spot.up, normal));
    if (v == Vec3f{})
        v = normalized(cross(std::abs(normal.x) < 0.8f ? Vec3f{1, 0, 0} : Vec3f{0, 1, 0}, normal));
    const Vec3f u = cross(v, normal);
    constexpr float kNone = std::numeric_limits<float>::quiet_NaN();
    std::vector<float> height(std::size_t(n) * std::size_t(n), kNone);
    const auto place = [&](int i) { return 2 * (float(i) + 0.5f) / float(n) - 1; }; // -1 to 1
    forEachBlock(std::size_t(n), 1, [&](BlockRange r) {
        for (int x = 0; x < n; ++x) {
            const Vec3f from =
                spot.at + u * (place(x) * spot.size) - v * (place(int(r.begin)) * spot.size) + normal * (1.5f * spot.size);
            if (const auto hit = mesh::castRay(surface, {from, -normal}); hit && hit->distance < 3 * spot.size)
                height[r.begin * std::size_t(n) + std::size_t(x)] = 1.5f * spot.size - hit->distance;
        }
    });
    Eigen::Matrix<double, 6, 6> a = Eigen::Matrix<double, 6, 6>::Zero();
    Eigen::Matrix<double, 6, 1> b = Eigen::Matrix<double, 6, 1>::Zero();
    std::size_t met = 0;
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            const float h = height[std::size_t(y * n + x)];
            if (std::isnan(h))
                continue;
            ++met;
            const double px = double(place(x)), py = double(place(y));
            if (px * px + py * py < 0.7 * 0.7) // the rim and the corners
                continue;
            const auto t = terms(px, py);
            a += t * t.transpose(), b += t * double(h);
        }
    if (met * 2 < height.size())
        return Error{ErrorCode::Empty, "harvest",
                     "less than half of the square meets skin; take a smaller one, or one that faces the skin"};
    a += Eigen::Matrix<double, 6, 6>::Identity() * 1e-9;
    const Eigen::Matrix<double, 6, 1> base = a.ldlt().solve(b);
    Harvest out;
    out.picture = {n, n, std::vector<float>(height.size()), 0.5f};
    std::vector<float> &values = out.picture.values;
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            const auto i = std::size_t(y * n + x);
            values[i] = std::isnan(height[i]) ? 0 : height[i] - float(base.dot(terms(double(place(x)), double(place(y)))));
            out.depth = std::max(out.depth, std::abs(values[i]));
        }
    const float per = out.depth > 0 ? 0.5f / out.depth : 0;
    for (float &h : values)
        h = 0.5f + h * per;
    toSixteenBits(out.picture);
    return out;
}

} // namespace bonemoss::detail
