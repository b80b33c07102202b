#include "mesh/depth_picture.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace bonemoss::mesh {

namespace {
constexpr float kNothing = std::numeric_limits<float>::max();
constexpr float kNearest = 1e-3f; // mm before the eye
} // namespace

DepthPicture::DepthPicture(const Sight &sight, int side)
    : m_sight(sight), m_side(side), m_pixel(2 * std::max(sight.halfWidth, sight.halfHeight) / float(side)),
      m_depth(std::size_t(side) * std::size_t(side), kNothing)
{}

DepthPicture::Place DepthPicture::placeOf(Vec3f p) const
{
    const Vec3f d = p - m_sight.eye;
    const float depth = dot(d, m_sight.forward);
    const float scale = m_sight.isParallel ? 1 : 1 / std::max(depth, kNearest);
    const float half = float(m_side) / 2;
    return {half + dot(d, m_sight.right) * scale / m_sight.halfWidth * half,
            half - dot(d, m_sight.up) * scale / m_sight.halfHeight * half, depth};
}

void DepthPicture::triangle(Place a, Place b, Place c)
{
    if (!m_sight.isParallel && std::min({a.depth, b.depth, c.depth}) <= kNearest)
        return; // reaches behind the eye
    const float twice = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
    if (twice == 0)
        return;
    const float most = float(m_side - 1);
    const auto inside = [&](float v) { return int(std::clamp(v, 0.0f, most)); };
    const float lowX = std::min({a.x, b.x, c.x}), highX = std::max({a.x, b.x, c.x});
    const float lowY = std::min({a.y, b.y, c.y}), highY = std::max({a.y, b.y, c.y});
    if (highX < 0 || highY < 0 || lowX > most || lowY > most)
        return;
    const int x0 = inside(std::ceil(lowX - 0.5f)), x1 = inside(std::floor(highX - 0.5f));
    const int y0 = inside(std::ceil(lowY - 0.5f)), y1 = inside(std::floor(highY - 0.5f));
    for (int y = y0; y <= y1; ++y)
        for (int x = x0; x <= x1; ++x) {
            const float px = float(x) + 0.5f, py = float(y) + 0.5f;
            const float v = ((px - a.x) * (c.y - a.y) - (py - a.y) * (c.x - a.x)) / twice;
            const float w = ((b.x - a.x) * (py - a.y) - (b.y - a.y) * (px - a.x)) / twice;
            if (v < 0 || w < 0 || v + w > 1)
                continue;
            float &depth = m_depth[std::size_t(y) * std::size_t(m_side) + std::size_t(x)];
            depth = std::min(depth, a.depth + (b.depth - a.depth) * v + (c.depth - a.depth) * w);
        }
}

void DepthPicture::add(const Surface &surface)
{
    const bool isWhole = surface.hidden.isBlank();
    std::vector<Vec3f> positions;
    std::vector<Place> places;
    for (std::size_t b = 0; b < surface.topology->blockCount(); ++b) {
        gatherPositions(surface, b, positions);
        places.resize(positions.size());
        for (std::size_t i = 0; i < positions.size(); ++i)
            places[i] = placeOf(positions[i]);
        const BlockFaces &f = surface.topology->block(b);
        for (std::size_t i = 0; i < f.drawnFaces; ++i) {
            if (!isWhole && isHidden(surface, surface.topology->faceOf(b, i)))
                continue;
            const LocalFace &l = f.faces[i];
            triangle(places[l.v[0]], places[l.v[1]], places[l.v[2]]);
            if (l.size() == 4)
                triangle(places[l.v[0]], places[l.v[2]], places[l.v[3]]);
        }
    }
}

bool DepthPicture::sees(Vec3f point, Vec3f normal) const
{
    const Vec3f toEye = m_sight.isParallel ? -m_sight.forward : normalized(m_sight.eye - point);
    if (dot(normal, toEye) <= 0)
        return false;
    // Off the skin by more than a pixel, or its own faces would cover it where they lie aslant.
    const float off = 1.5f * pixelAt(dot(point - m_sight.eye, m_sight.forward));
    const Place p = placeOf(point + normal * off);
    const float x = std::floor(p.x), y = std::floor(p.y);
    if (!(x >= 0 && y >= 0 && x < float(m_side) && y < float(m_side)) || (!m_sight.isParallel && p.depth <= kNearest))
        return false;
    return p.depth - 0.5f * off <= m_depth[std::size_t(y) * std::size_t(m_side) + std::size_t(x)];
}

} // namespace bonemoss::mesh
