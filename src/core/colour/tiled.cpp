#include "colour/tiled.h"

#include "base/colour.h"
#include "base/parallel.h"
#include "base/point_grid.h"
#include "base/random.h"

#include <algorithm>
#include <array>

namespace bonemoss::colour {

namespace {

/// A pixel in linear light; beyond its borders the picture is mirrored.
class Pixels
{
public:
    explicit Pixels(const image::ColourPicture &picture) : m_picture(picture)
    {
        for (std::size_t k = 0; k < m_light.size(); ++k)
            m_light[k] = fromSrgb(float(k) / 255);
    }
    /// Bilinear at u, v in widths of the picture.
    Vec3f at(float u, float v) const
    {
        const float x = u * float(m_picture.width) - 0.5f, y = v * float(m_picture.width) - 0.5f;
        const float fx = std::floor(x), fy = std::floor(y), tx = x - fx, ty = y - fy;
        const auto pixel = [&](int i, int j) { return light(int(fx) + i, int(fy) + j); };
        return lerp(lerp(pixel(0, 0), pixel(1, 0), tx), lerp(pixel(0, 1), pixel(1, 1), tx), ty);
    }

private:
    static int within(int i, int n)
    {
        const int k = ((i % (2 * n)) + 2 * n) % (2 * n);
        return k < n ? k : 2 * n - 1 - k;
    }
    Vec3f light(int x, int y) const
    {
        const std::uint8_t *p =
            m_picture.rgba.data() + std::size_t(within(y, m_picture.height) * m_picture.width + within(x, m_picture.width)) * 4;
        return {m_light[p[0]], m_light[p[1]], m_light[p[2]]};
    }
    const image::ColourPicture &m_picture;
    std::array<float, 256> m_light{};
};

} // namespace

std::vector<Vec3f> tiledOver(const growth::Ground &ground, const growth::Flow &flow, const image::ColourPicture &picture,
                             const TiledSettings &settings, const Progress &progress)
{
    const float patch = 0.42f * settings.size,
                reach = 1.7f * patch; // patches are smaller than the picture, so that none shows whole
    const std::vector<growth::GroundPoint> points = ground.points(patch, settings.seed);
    std::vector<Vec3f> at(points.size());
    std::vector<growth::Flow::At> ways(points.size());
    for (std::size_t k = 0; k < points.size(); ++k)
        at[k] = points[k].at;
    flow.at(points, ways);
    struct Frame {
        Vec3f u, v;
        float du = 0, dv = 0;
    };
    std::vector<Frame> frames(points.size());
    for (std::size_t k = 0; k < points.size(); ++k) {
        const std::uint64_t n = points[k].number;
        const float turn = settings.turn * kPi * randomSigned(settings.seed + 1, n);
        const Vec3f along = normalized(ways[k].along), across = normalized(cross(points[k].normal, along));
        frames[k] = {along * std::cos(turn) + across * std::sin(turn), across * std::cos(turn) - along * std::sin(turn),
                     randomUnit(settings.seed + 2, n), randomUnit(settings.seed + 3, n)};
    }
    const PointGrid grid(at, reach);
    const Pixels pixels(picture);
    const float sharp = 2 + 14 * (1 - std::clamp(settings.seam, 0.0f, 1.0f));
    std::vector<Vec3f> out(ground.positions.size());
    const bool whole = forEachBlock(ground.positions.blockCount(), 1, progress.stop, [&](BlockRange r) {
        const Vec3f *p = ground.positions.data(r.begin);
        const mesh::PackedNormal *normals = ground.normals.data(r.begin);
        for (std::size_t i = 0; i < ground.positions.countIn(r.begin); ++i) {
            const Vec3f n = normals[i].unpack();
            Vec3f sum;
            float weight = 0;
            grid.around(p[i], reach, [&](std::uint32_t k) {
                const float facing = dot(points[k].normal, n);
                if (facing <= 0.05f)
                    return;
                const Vec3f d = p[i] - at[k];
                const float w = std::pow(facing * (1 - length(d) / reach), sharp);
                const Frame &f = frames[k];
                sum += pixels.at(dot(d, f.u) / settings.size + f.du, dot(d, f.v) / settings.size + f.dv) * w;
                weight += w;
            });
            if (weight > 0)
                sum *= 1 / weight;
            out[r.begin * mesh::kBlockSize + i] = {toSrgb(sum.x), toSrgb(sum.y), toSrgb(sum.z)};
        }
    });
    return whole ? out : std::vector<Vec3f>{};
}

} // namespace bonemoss::colour
