#include "portrait/silhouette.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::portrait {

namespace {

struct Point {
    float x, y;
};

class Canvas
{
public:
    Canvas(int width, int height) : m_width(width), m_height(height), m_pixels(std::size_t(width) * std::size_t(height), 0) {}

    void set(int x, int y)
    {
        if (x >= 0 && y >= 0 && x < m_width && y < m_height)
            m_pixels[std::size_t(y) * std::size_t(m_width) + std::size_t(x)] = 255;
    }
    void triangle(Point a, Point b, Point c)
    {
        const float lowX = std::min({a.x, b.x, c.x}), highX = std::max({a.x, b.x, c.x});
        const float lowY = std::min({a.y, b.y, c.y}), highY = std::max({a.y, b.y, c.y});
        set(int(a.x), int(a.y));
        const int x0 = std::max(0, int(std::ceil(lowX - 0.5f))), x1 = std::min(m_width - 1, int(std::floor(highX - 0.5f)));
        const int y0 = std::max(0, int(std::ceil(lowY - 0.5f))), y1 = std::min(m_height - 1, int(std::floor(highY - 0.5f)));
        if (x0 > x1 || y0 > y1)
            return; // no middle of a pixel in reach
        const auto edge = [](Point p, Point q, float x, float y) { return (q.x - p.x) * (y - p.y) - (q.y - p.y) * (x - p.x); };
        const float area = edge(a, b, c.x, c.y);
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x) {
                const float px = float(x) + 0.5f, py = float(y) + 0.5f;
                const float e0 = edge(a, b, px, py) * area, e1 = edge(b, c, px, py) * area, e2 = edge(c, a, px, py) * area;
                if (e0 >= 0 && e1 >= 0 && e2 >= 0)
                    set(x, y);
            }
    }
    std::vector<std::uint8_t> take() { return std::move(m_pixels); }

private:
    int m_width, m_height;
    std::vector<std::uint8_t> m_pixels;
};

} // namespace

std::vector<std::uint8_t> silhouette(const io::Scene &scene, const Camera &camera, int width, int height)
{
    Canvas canvas(width, height);
    const Vec3f right = camera.right(), up = camera.up();
    const float scale = float(height) / camera.heightAtTarget();
    std::vector<Point> points;
    for (const io::Object &o : scene.objects)
        for (const io::Placement &place : o.places) {
            const bool isAsItIs = place == io::Placement();
            scene.shapeOf(o).eachPatch([&](std::span<const Vec3f> patch, std::size_t faces, const auto &faceOf) {
                points.resize(patch.size());
                for (std::size_t i = 0; i < patch.size(); ++i) {
                    const Vec3f d = (isAsItIs ? patch[i] : place.apply(patch[i])) - camera.target;
                    points[i] = {float(width) / 2 + dot(d, right) * scale, float(height) / 2 - dot(d, up) * scale};
                }
                for (std::size_t i = 0; i < faces; ++i) {
                    const mesh::Face f = faceOf(i);
                    canvas.triangle(points[f.v[0]], points[f.v[1]], points[f.v[2]]);
                    if (f.size() == 4)
                        canvas.triangle(points[f.v[0]], points[f.v[2]], points[f.v[3]]);
                }
            });
        }
    return canvas.take();
}

std::vector<std::uint8_t> contactShadow(const io::Scene &scene, const Box3f &area, int side)
{
    std::vector<float> values(std::size_t(side) * std::size_t(side), 0);
    const Vec3f size = area.size();
    const float reach = std::max(size.x, size.z) * 0.22f; // higher than this casts nothing
    const auto add = [&](Vec3f p) {
        const float near = 1 - (p.y - area.lo.y) / reach;
        const int x = int((p.x - area.lo.x) / size.x * float(side)), z = int((p.z - area.lo.z) / size.z * float(side));
        if (near <= 0 || x < 0 || z < 0 || x >= side || z >= side)
            return;
        float &v = values[std::size_t(z) * std::size_t(side) + std::size_t(x)];
        v = std::max(v, near * near);
    };
    for (const io::Object &o : scene.objects)
        for (const io::Placement &place : o.places)
            if (place == io::Placement())
                scene.shapeOf(o).eachPointBelow(area.lo.y + reach, add);
            else
                scene.shapeOf(o).eachPoint([&](Vec3f p) { add(place.apply(p)); });
    const int radius = std::max(1, side / 40);
    std::vector<float> line(values.size());
    for (int pass = 0; pass < 4; ++pass) { // two box blurs each way: nearly a bell curve
        const bool rows = pass % 2 == 0;
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) {
                float sum = 0;
                for (int k = -radius; k <= radius; ++k) {
                    const int u = std::clamp((rows ? x : y) + k, 0, side - 1);
                    sum += values[std::size_t(rows ? y : u) * std::size_t(side) + std::size_t(rows ? u : x)];
                }
                line[std::size_t(y) * std::size_t(side) + std::size_t(x)] = sum / float(2 * radius + 1);
            }
        values.swap(line);
    }
    std::vector<std::uint8_t> out(values.size());
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = std::uint8_t(std::clamp(values[i] * 255, 0.0f, 255.0f));
    return out;
}

} // namespace bonemoss::portrait
