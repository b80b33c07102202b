#include "colour/projected.h"

#include "base/parallel.h"
#include "mesh/depth_picture.h"

#include <Eigen/LU>

#include <algorithm>
#include <cmath>

namespace bonemoss::colour {

namespace {

/// The card's plane, and the map from it to the unit square.
struct Plane {
    Vec3f centre, right, up, forward; ///< unit; forward away from the viewer
    std::array<std::array<float, 2>, 4> corners{};
    Eigen::Matrix3f toSquare;
    float sign = 1; ///< of the map's third row where the picture lies

    std::array<float, 2> flat(Vec3f p) const { return {dot(p - centre, right), dot(p - centre, up)}; }
    /// From left and from the top, 0 to 1 inside; nothing behind the horizon of the map.
    std::optional<std::array<float, 2>> inSquare(std::array<float, 2> at) const
    {
        const Eigen::Vector3f h = toSquare * Eigen::Vector3f(at[0], at[1], 1);
        if (h.z() * sign <= 1e-9f)
            return {};
        return std::array{h.x() / h.z(), h.y() / h.z()};
    }
};

/// The map that brings the unit square's corners to four places.
Eigen::Matrix3f fromSquare(const std::array<std::array<float, 2>, 4> &c)
{
    const float sx = c[0][0] - c[1][0] + c[2][0] - c[3][0], sy = c[0][1] - c[1][1] + c[2][1] - c[3][1];
    const float dx1 = c[1][0] - c[2][0], dx2 = c[3][0] - c[2][0], dy1 = c[1][1] - c[2][1], dy2 = c[3][1] - c[2][1];
    const float det = dx1 * dy2 - dx2 * dy1, g = (sx * dy2 - dx2 * sy) / det, h = (dx1 * sy - sx * dy1) / det;
    Eigen::Matrix3f m;
    m << c[1][0] - c[0][0] + g * c[1][0], c[3][0] - c[0][0] + h * c[3][0], c[0][0], //
        c[1][1] - c[0][1] + g * c[1][1], c[3][1] - c[0][1] + h * c[3][1], c[0][1],  //
        g, h, 1;
    return m;
}

std::optional<Plane> planeOf(const PictureCard &card)
{
    const auto &c = card.corners;
    Plane p;
    p.centre = (c[0] + c[1] + c[2] + c[3]) * 0.25f;
    const Vec3f across = c[1] + c[2] - c[0] - c[3], along = c[0] + c[1] - c[2] - c[3], n = cross(along, across);
    const float size = std::max(length(across), length(along));
    if (!(squaredLength(n) > 1e-12f * size * size * size * size))
        return {};
    p.forward = normalized(n), p.right = normalized(across), p.up = cross(p.right, p.forward);
    for (std::size_t k = 0; k < 4; ++k)
        p.corners[k] = p.flat(c[k]);
    for (std::size_t k = 0; k < 4; ++k) { // each corner turns the same way
        const auto &a = p.corners[k], &b = p.corners[(k + 1) % 4], &d = p.corners[(k + 2) % 4];
        const float turn = (b[0] - a[0]) * (d[1] - b[1]) - (b[1] - a[1]) * (d[0] - b[0]);
        if (!(turn < -1e-6f * size * size))
            return {};
    }
    const Eigen::Matrix3f m = fromSquare(p.corners);
    if (!m.allFinite() || std::abs(m.determinant()) < 1e-12f)
        return {};
    p.toSquare = m.inverse();
    const Eigen::Vector3f middle =
        p.toSquare
        * Eigen::Vector3f(0.25f * (p.corners[0][0] + p.corners[1][0] + p.corners[2][0] + p.corners[3][0]),
                          0.25f * (p.corners[0][1] + p.corners[1][1] + p.corners[2][1] + p.corners[3][1]), 1);
    p.sign = middle.z() < 0 ? -1.0f : 1.0f;
    return p;
}

/// Bilinear, with its opacity as the fourth.
std::array<float, 4> colourAt(const image::ColourPicture &picture, float u, float v)
{
    const float x = std::clamp(u * float(picture.width) - 0.5f, 0.0f, float(picture.width - 1)),
                y = std::clamp(v * float(picture.height) - 0.5f, 0.0f, float(picture.height - 1));
    const int x0 = int(x), y0 = int(y), x1 = std::min(x0 + 1, picture.width - 1), y1 = std::min(y0 + 1, picture.height - 1);
    const float fx = x - float(x0), fy = y - float(y0);
    std::array<float, 4> out{};
    float whole = 0;
    for (const auto &[px, py, w] :
         {std::tuple{x0, y0, (1 - fx) * (1 - fy)}, {x1, y0, fx * (1 - fy)}, {x0, y1, (1 - fx) * fy}, {x1, y1, fx * fy}}) {
        const std::uint8_t *at = picture.rgba.data() + (std::size_t(py) * std::size_t(picture.width) + std::size_t(px)) * 4;
        const float a = w * float(at[3]) / 255;
        for (std::size_t c = 0; c < 3; ++c)
            out[c] += a * float(at[c]) / 255;
        whole += a;
    }
    for (std::size_t c = 0; c < 3; ++c)
        out[c] /= std::max(whole, 1e-6f);
    out[3] = whole;
    return out;
}

/// The window through which the whole card is seen.
mesh::Sight sightThrough(const Plane &plane, const PictureCard &card, float far)
{
    mesh::Sight sight{plane.centre - plane.forward * far, plane.right, plane.up, plane.forward, 0, 0, true};
    float deep = 1;
    if (card.eye)
        sight.eye = *card.eye, sight.isParallel = false, deep = std::max(dot(plane.centre - *card.eye, plane.forward), 1e-3f);
    for (const Vec3f c : card.corners) {
        sight.halfWidth = std::max(sight.halfWidth, 1.01f * std::abs(dot(c - sight.eye, plane.right)) / deep);
        sight.halfHeight = std::max(sight.halfHeight, 1.01f * std::abs(dot(c - sight.eye, plane.up)) / deep);
    }
    return sight;
}

} // namespace

std::optional<Thrown> thrownOn(const mesh::Surface &surface, const image::ColourPicture &picture, const PictureCard &card,
                               float soft)
{
    const auto plane = planeOf(card);
    if (!plane || picture.width < 1 || picture.height < 1 || (card.eye && dot(plane->centre - *card.eye, plane->forward) <= 0))
        return {};
    constexpr int kSide = 2048;
    mesh::DepthPicture depth(
        sightThrough(*plane, card, 2 * surface.box().diagonal() + 2 * length(surface.box().centre() - plane->centre)), kSide);
    depth.add(surface);
    Thrown out{std::vector<Vec3f>(surface.positions.size()), std::vector<float>(surface.positions.size(), 0.0f)};
    forEachBlock(surface.positions.blockCount(), 1, [&](BlockRange r) {
        const Vec3f *p = surface.positions.data(r.begin);
        const mesh::PackedNormal *normals = surface.normals.data(r.begin);
        for (std::size_t i = 0; p && normals && i < surface.positions.countIn(r.begin); ++i) {
            Vec3f at = p[i], way = plane->forward;
            if (card.eye) {
                way = at - *card.eye;
                const float deep = dot(way, plane->forward);
                if (deep <= 0)
                    continue;
                at = *card.eye + way * (dot(plane->centre - *card.eye, plane->forward) / deep);
                way = normalized(way);
            }
            const auto uv = plane->inSquare(plane->flat(at));
            if (!uv || std::min((*uv)[0], (*uv)[1]) < 0 || std::max((*uv)[0], (*uv)[1]) > 1)
                continue;
            const Vec3f n = normals[i].unpack();
            const float facing = std::clamp((-dot(n, way) - 0.08f) / 0.25f, 0.0f, 1.0f); // what is seen edge on would be smeared
            if (facing <= 0 || !depth.sees(p[i], n))
                continue;
            const auto c = colourAt(picture, (*uv)[0], (*uv)[1]);
            const float inside = std::min({(*uv)[0], (*uv)[1], 1 - (*uv)[0], 1 - (*uv)[1]});
            const std::size_t v = r.begin * mesh::kBlockSize + i;
            out.colours[v] = {c[0], c[1], c[2]};
            out.shares[v] = c[3] * facing * (soft > 0 ? std::min(1.0f, inside / soft) : 1.0f);
        }
    });
    return out;
}

} // namespace bonemoss::colour
