#include "solid/shape_tools.h"

#include "solid/holes.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bonemoss::solid {

namespace {

constexpr std::size_t kMostWallFaces = 400'000;
constexpr int kRimSteps = 6;
constexpr float kTails = 0.2f; // of an outline's length may lie beyond where its ends cross

struct Point2 {
    float x, y;
};

bool turnsLeft(Point2 a, Point2 b, Point2 c)
{
    return double(b.x - a.x) * double(c.y - a.y) - double(b.y - a.y) * double(c.x - a.x) > 0;
}

bool doCross(Point2 a, Point2 b, Point2 c, Point2 d)
{
    return turnsLeft(a, b, c) != turnsLeft(a, b, d) && turnsLeft(c, d, a) != turnsLeft(c, d, b);
}

/// An outline drawn by hand, whose ends overlap or meet, without what sticks out beyond the place where they cross.
void dropTails(std::vector<Point2> &p)
{
    const auto far = [](Point2 a, Point2 b) { return std::hypot(b.x - a.x, b.y - a.y); };
    while (p.size() > 3 && far(p.front(), p.back()) < 1e-4f)
        p.pop_back();
    std::vector<float> at{0}; // how far along it
    for (std::size_t i = 1; i < p.size(); ++i)
        at.push_back(at.back() + far(p[i - 1], p[i]));
    const float most = kTails * at.back();
    for (std::size_t i = 0; i + 3 < p.size() && at[i] <= most; ++i)
        for (std::size_t j = p.size() - 2; j > i + 1 && at.back() - at[j + 1] <= most; --j) {
            if (!doCross(p[i], p[i + 1], p[j], p[j + 1]))
                continue;
            const Point2 e{p[i + 1].x - p[i].x, p[i + 1].y - p[i].y}, g{p[j + 1].x - p[j].x, p[j + 1].y - p[j].y},
                d{p[j].x - p[i].x, p[j].y - p[i].y};
            const float area = e.x * g.y - e.y * g.x, t = area != 0 ? std::clamp((d.x * g.y - d.y * g.x) / area, 0.0f, 1.0f) : 0;
            const Point2 meet{p[i].x + e.x * t, p[i].y + e.y * t};
            if (at[i] + far(p[i], meet) + at.back() - at[j] - far(p[j], meet) > most)
                continue;
            p.erase(p.begin() + std::ptrdiff_t(j) + 1, p.end());
            p.erase(p.begin(), p.begin() + std::ptrdiff_t(i));
            p.front() = meet;
            return;
        }
}

/// Runs of a polygon at even steps; its corners stay.
std::vector<Point2> withSteps(const std::vector<Point2> &polygon, float step)
{
    std::vector<Point2> out;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const Point2 a = polygon[i], b = polygon[(i + 1) % polygon.size()];
        const int n = std::clamp(int(std::hypot(b.x - a.x, b.y - a.y) / step), 1, 4000);
        for (int k = 0; k < n; ++k)
            out.push_back({a.x + (b.x - a.x) * float(k) / float(n), a.y + (b.y - a.y) * float(k) / float(n)});
    }
    return out;
}

/// A line goes on at both ends until far outside, then round behind on the side that goes.
void closeFarOutside(std::vector<Point2> &line, float reach)
{
    const auto beyond = [&](Point2 a, Point2 b) {
        const float n = std::hypot(b.x - a.x, b.y - a.y);
        return Point2{b.x + (b.x - a.x) / n * reach, b.y + (b.y - a.y) / n * reach};
    };
    const Point2 first = beyond(line[1], line[0]), last = beyond(line[line.size() - 2], line.back());
    line.insert(line.begin(), first);
    line.push_back(last);
    const float dx = last.x - first.x, dy = last.y - first.y, n = std::max(std::hypot(dx, dy), 1e-6f);
    const Point2 side{dy / n * 2 * reach, -dx / n * 2 * reach};
    line.push_back({last.x + side.x, last.y + side.y});
    line.push_back({first.x + side.x, first.y + side.y});
}

bool crossesItself(const std::vector<Point2> &outline)
{
    const std::size_t n = outline.size();
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = i + 2; j < n; ++j)
            if (!(i == 0 && j + 1 == n) && doCross(outline[i], outline[(i + 1) % n], outline[j], outline[(j + 1) % n]))
                return true;
    return false;
}

float areaOf(const std::vector<Point2> &outline)
{
    float area = 0;
    for (std::size_t i = 0; i < outline.size(); ++i) {
        const Point2 a = outline[i], b = outline[(i + 1) % outline.size()];
        area += a.x * b.y - b.x * a.y;
    }
    return area / 2;
}

float lengthOf(const std::vector<Point2> &outline)
{
    float sum = 0;
    for (std::size_t i = 0; i < outline.size(); ++i) {
        const Point2 a = outline[i], b = outline[(i + 1) % outline.size()];
        sum += std::hypot(b.x - a.x, b.y - a.y);
    }
    return sum;
}

} // namespace

Result<mesh::PolyMesh> sweep(const Sweep &s, const Box3f &around)
{
    const auto bad = [](const char *why) { return Error{ErrorCode::BadValue, "line", why}; };
    if (!(length(s.direction) > 1e-6f) || s.line.size() < (s.isClosed ? 3u : 2u))
        return bad("needs a direction and two points, an outline three");
    const Vec3f w = normalized(s.direction), u = normalized(cross(std::abs(w.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, w)),
                v = cross(w, u);
    // Who looks along w and has u to the right has v downwards.
    std::vector<Point2> flat;
    for (const Vec3f p : s.line)
        if (const Point2 q{dot(p, u), dot(p, v)}; flat.empty() || std::hypot(q.x - flat.back().x, q.y - flat.back().y) > 1e-4f)
            flat.push_back(q);
    if (s.isClosed && flat.size() > 3)
        dropTails(flat);
    if (flat.size() < (s.isClosed ? 3u : 2u))
        return bad("has no length as seen along its direction");
    float near = 1e30f, far = -1e30f, reach = 0;
    for (int k = 0; k < 8; ++k) {
        const Vec3f p{k & 1 ? around.hi.x : around.lo.x, k & 2 ? around.hi.y : around.lo.y, k & 4 ? around.hi.z : around.lo.z};
        near = std::min(near, dot(p, w)), far = std::max(far, dot(p, w));
        for (const Point2 q : flat)
            reach = std::max(reach, std::hypot(dot(p, u) - q.x, dot(p, v) - q.y));
    }
    const float margin = 2 * s.edge + (far - near) * 0.05f;
    float from = near - margin;
    const float to = s.depth > 0 ? near + s.depth : far + margin;
    // A perspective sweep: what lies at the line's depth is scaled about the eye.
    float eyeAt = 0, lineAt = 0;
    Point2 eye{};
    if (s.eye) {
        eyeAt = dot(*s.eye, w), eye = {dot(*s.eye, u), dot(*s.eye, v)};
        for (const Vec3f p : s.line)
            lineAt += dot(p, w) / float(s.line.size());
        from = std::max(from, eyeAt + 0.02f * (to - eyeAt));
        if (!(lineAt > eyeAt && to > from))
            return bad("must lie in front of the eye");
        reach *= std::max(1.0f, (lineAt - eyeAt) / (from - eyeAt));
    }
    const auto scaleAt = [&](float depth) { return s.eye ? (depth - eyeAt) / (lineAt - eyeAt) : 1.0f; };
    reach = reach * 2 + 10 * s.edge;
    if (!s.isClosed)
        closeFarOutside(flat, reach);
    if (crossesItself(flat))
        return bad("crosses itself");
    if (areaOf(flat) < 0)
        std::reverse(flat.begin(), flat.end());
    const float edge = std::max(s.edge, std::sqrt(lengthOf(flat) * (to - from) / float(kMostWallFaces)));
    const std::vector<Point2> ring = withSteps(flat, edge);
    const int rows = std::clamp(int((to - from) / edge), 1, 4000);
    mesh::PolyMesh out;
    for (int r = 0; r <= rows; ++r) {
        const float depth = from + (to - from) * float(r) / float(rows), k = scaleAt(depth);
        for (const Point2 q : ring)
            out.positions.push_back(u * (eye.x + (q.x - eye.x) * k) + v * (eye.y + (q.y - eye.y) * k) + w * depth);
    }
    const auto n = std::uint32_t(ring.size());
    for (std::uint32_t r = 0; r < std::uint32_t(rows); ++r)
        for (std::uint32_t i = 0; i < n; ++i) {
            const std::uint32_t j = (i + 1) % n;
            out.faces.push_back({{r * n + i, r * n + j, (r + 1) * n + j, (r + 1) * n + i}});
        }
    Closed closed = closeHoles(out, s.isClosed && s.depth > 0 ? Fill::Flat : Fill::Coarse);
    if (closed.left > 0)
        return bad("does not enclose anything");
    return std::move(closed.mesh);
}

mesh::PolyMesh plate(const mesh::PolyMesh &sheet, std::span<const Vec3f> normals, float above, float below, Rim rim)
{
    const auto n = std::uint32_t(sheet.positions.size());
    mesh::PolyMesh out;
    for (const float height : {above, below})
        for (std::uint32_t v = 0; v < n; ++v)
            out.positions.push_back(sheet.positions[v] + normals[v] * height);
    out.faces = sheet.faces;
    for (const mesh::Face &f : sheet.faces) {
        mesh::Face back;
        for (int k = 0; k < f.size(); ++k)
            back.v[std::size_t(k)] = n + f.v[std::size_t(f.size() - 1 - k)];
        out.faces.push_back(back);
    }
    for (const std::vector<std::uint32_t> &border : openBorders(sheet)) {
        const std::size_t count = border.size();
        // Rows from the front's border to the back's; a round rim swells outwards by half the thickness.
        const int steps = rim == Rim::Round ? kRimSteps : 1;
        std::vector<std::vector<std::uint32_t>> rows(std::size_t(steps) + 1);
        for (std::size_t i = 0; i < count; ++i) {
            const std::uint32_t v = border[i];
            const Vec3f along = sheet.positions[border[(i + 1) % count]] - sheet.positions[border[(i + count - 1) % count]];
            const Vec3f outwards = normalized(cross(along, normals[v]));
            for (int k = 0; k <= steps; ++k) {
                auto &row = rows[std::size_t(k)];
                if (k == 0 || k == steps) {
                    row.push_back(k == 0 ? v : n + v);
                    continue;
                }
                const float a = std::numbers::pi_v<float> * float(k) / float(steps), half = (above - below) / 2;
                row.push_back(std::uint32_t(out.positions.size()));
                out.positions.push_back(sheet.positions[v] + normals[v] * (below + half + half * std::cos(a))
                                        + outwards * (half * std::sin(a)));
            }
        }
        for (int k = 0; k < steps; ++k)
            for (std::size_t i = 0; i < count; ++i) {
                const std::size_t j = (i + 1) % count;
                const auto &top = rows[std::size_t(k)], &bottom = rows[std::size_t(k) + 1];
                out.faces.push_back({{top[j], top[i], bottom[i], bottom[j]}});
            }
    }
    return out;
}

} // namespace bonemoss::solid
