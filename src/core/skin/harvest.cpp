#include "skin/harvest.h"

#include "base/parallel.h"

#include <Eigen/Dense>

#include <algorithm>

namespace bonemoss::skin {

namespace {

using Terms = Eigen::Matrix<double, 6, 1>;

Terms terms(double x, double y)
{
    Terms t;
    t << 1, x, y, x * x, x * y, y * y;
    return t;
}

/// Axes of a picture that lies square to a unit normal: to its right and to its top.
struct Axes {
    Vec3f u, v;
};
Axes axesOf(Vec3f normal, Vec3f up)
{
    Vec3f v = normalized(up - normal * dot(up, normal));
    if (v == Vec3f{})
        v = normalized(cross(std::abs(normal.x) < 0.8f ? Vec3f{1, 0, 0} : Vec3f{0, 1, 0}, normal));
    return {cross(v, normal), v};
}

/// Whether what a ray met belongs to the group: at least half of the face's corners do.
bool isOf(const mesh::Surface &surface, const OneGroup &group, const mesh::Hit &hit)
{
    if (!group.groupOf)
        return true;
    const mesh::Face f = surface.topology->faceOf(hit.block, hit.face);
    int in = 0;
    for (int k = 0; k < f.size(); ++k)
        in += (*group.groupOf)[f.v[std::size_t(k)]] == group.number;
    return 2 * in >= f.size();
}

/// Heights on a grid, NaN where there are none.
struct Heights {
    int width, height;
    std::vector<float> values;
    bool isAt(int x, int y) const { return !std::isnan(values[std::size_t(y * width + x)]); }
};

/// How far each pixel is from the nearest without a height, in pixels by steps to the sides; whatever lies beyond the picture has
/// none either. Two passes (Rosenfeld & Pfaltz 1966, "Sequential operations in digital picture processing").
std::vector<int> depthsIn(const Heights &h)
{
    std::vector<int> depth(h.values.size());
    const auto at = [&](int x, int y) {
        return x < 0 || y < 0 || x >= h.width || y >= h.height ? 0 : depth[std::size_t(y * h.width + x)];
    };
    for (int y = 0; y < h.height; ++y)
        for (int x = 0; x < h.width; ++x)
            depth[std::size_t(y * h.width + x)] = h.isAt(x, y) ? 1 + std::min(at(x - 1, y), at(x, y - 1)) : 0;
    for (int y = h.height - 1; y >= 0; --y)
        for (int x = h.width - 1; x >= 0; --x)
            if (int &d = depth[std::size_t(y * h.width + x)]; d > 0)
                d = std::min(d, 1 + std::min(at(x + 1, y), at(x, y + 1)));
    return depth;
}

} // namespace

std::optional<HarvestSpot> spotAbout(const mesh::Surface &surface, const OneGroup &group, Vec3f up)
{
    Vec3f sum, middle;
    std::size_t n = 0;
    const auto each = [&](const auto &body) {
        for (std::size_t v = 0; v < surface.positions.size(); ++v)
            if ((*group.groupOf)[v] == group.number)
                body(surface.positions[v], v);
    };
    each([&](Vec3f p, std::size_t v) { sum += surface.normals[v].unpack(), middle += p, ++n; });
    if (n < 3 || length(sum) < 0.2f * float(n))
        return {};
    HarvestSpot spot;
    spot.normal = normalized(sum), spot.up = up, spot.group = group;
    middle *= 1 / float(n);
    const Axes axes = axesOf(spot.normal, up);
    Box3f box; // along the picture's axes
    each([&](Vec3f p, std::size_t) {
        box.add(Vec3f{dot(p - middle, axes.u), dot(p - middle, axes.v), dot(p - middle, spot.normal)});
    });
    const Vec3f c = box.centre(), half = box.size() * 0.5f;
    spot.at = middle + axes.u * c.x + axes.v * c.y + spot.normal * c.z;
    spot.size = std::max(half.x, 1e-3f), spot.tall = std::max(half.y, 1e-3f);
    return spot;
}

Result<Harvest> harvest(const mesh::Surface &surface, const HarvestSpot &spot)
{
    const float tall = spot.tall > 0 ? spot.tall : spot.size, longest = std::max(spot.size, tall);
    const auto pixels = [&](float side) { return std::clamp(int(std::lround(float(spot.pixels) * side / longest)), 16, 1024); };
    const Vec3f normal = normalized(spot.normal);
    const Axes axes = axesOf(normal, spot.up);
    const Vec3f u = axes.u, v = axes.v;
    Heights h{pixels(spot.size), pixels(tall), {}};
    h.values.assign(std::size_t(h.width) * std::size_t(h.height), std::numeric_limits<float>::quiet_NaN());
    const auto place = [](int i, int n) { return 2 * (float(i) + 0.5f) / float(n) - 1; }; // -1 to 1
    forEachBlock(std::size_t(h.height), 1, [&](BlockRange r) {
        for (int x = 0; x < h.width; ++x) {
            const Vec3f from = spot.at + u * (place(x, h.width) * spot.size) - v * (place(int(r.begin), h.height) * tall)
                               + normal * (1.5f * longest);
            const auto hit = mesh::castRay(surface, {from, -normal});
            if (hit && hit->distance < 3 * longest && isOf(surface, spot.group, *hit))
                h.values[r.begin * std::size_t(h.width) + std::size_t(x)] = 1.5f * longest - hit->distance;
        }
    });
    // Of a rectangle the rim is what lies outside an oval, of a group what lies near its border.
    const bool isGroup = spot.group.groupOf != nullptr;
    const std::vector<int> depth = isGroup ? depthsIn(h) : std::vector<int>();
    const int deepest = isGroup ? *std::max_element(depth.begin(), depth.end()) : 0;
    const float band = std::max(2.0f, 0.25f * float(deepest));
    Eigen::Matrix<double, 6, 6> a = Eigen::Matrix<double, 6, 6>::Identity() * 1e-9;
    Terms b = Terms::Zero();
    std::size_t met = 0;
    for (int y = 0; y < h.height; ++y)
        for (int x = 0; x < h.width; ++x) {
            if (!h.isAt(x, y))
                continue;
            ++met;
            const double px = double(place(x, h.width)), py = double(place(y, h.height));
            const auto i = std::size_t(y * h.width + x);
            if (isGroup ? float(depth[i]) > band : px * px + py * py < 0.7 * 0.7)
                continue;
            const Terms t = terms(px, py);
            a += t * t.transpose(), b += t * double(h.values[i]);
        }
    if (isGroup ? met < 64 : met * 2 < h.values.size())
        return Error{ErrorCode::Empty, "harvest",
                     isGroup ? "next to nothing of the group is met square to it; take one that does not go round the body"
                             : "less than half of the rectangle meets skin; take a smaller one, or one that faces the skin"};
    const Terms base = a.ldlt().solve(b);
    Harvest out;
    out.picture = {h.width, h.height, std::vector<float>(h.values.size()), 0.5f};
    std::vector<float> &values = out.picture.values;
    for (int y = 0; y < h.height; ++y)
        for (int x = 0; x < h.width; ++x) {
            const auto i = std::size_t(y * h.width + x);
            const Terms t = terms(double(place(x, h.width)), double(place(y, h.height)));
            values[i] = h.isAt(x, y) ? h.values[i] - float(base.dot(t)) : 0;
            if (isGroup) // no step at its border
                values[i] *= std::min(1.0f, float(depth[i]) / band);
            out.depth = std::max(out.depth, std::abs(values[i]));
        }
    const float per = out.depth > 0 ? 0.5f / out.depth : 0;
    for (float &value : values)
        value = 0.5f + value * per;
    toSixteenBits(out.picture);
    return out;
}

} // namespace bonemoss::skin
