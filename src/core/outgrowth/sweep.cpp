#include "outgrowth/sweep.h"

#include "base/random.h"

#include <algorithm>

namespace bonemoss::outgrowth {

std::vector<Station> framed(std::span<const Vec3f> line, Vec3f firstSide)
{
    const std::size_t n = line.size();
    const auto wayAt = [&](std::size_t i) {
        const Vec3f before = line[i > 0 ? i - 1 : 0], after = line[std::min(i + 1, n - 1)];
        return normalized(after - before);
    };
    std::vector<Station> out(n);
    Vec3f way = wayAt(0);
    Vec3f side = firstSide - way * dot(firstSide, way);
    if (squaredLength(side) < 1e-8f)
        side = cross(std::abs(way.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, way);
    side = normalized(side);
    for (std::size_t i = 0; i < n; ++i) {
        if (i > 0) { // both reflections: in the plane between the points, then in the one between the directions
            const Vec3f v = line[i] - line[i - 1], next = wayAt(i);
            if (const float c = squaredLength(v); c > 0) {
                const Vec3f s = side - v * (2 / c * dot(v, side)), w = way - v * (2 / c * dot(v, way));
                const Vec3f u = next - w;
                const float d = squaredLength(u);
                side = d > 1e-12f ? s - u * (2 / d * dot(u, s)) : s;
            }
            way = next;
            side = normalized(side - way * dot(side, way));
        }
        out[i] = {line[i], side, cross(side, way)};
    }
    return out;
}

std::vector<Vec3f> evenLine(std::span<const Vec3f> points, std::size_t n)
{
    constexpr int kSteps = 16;
    const auto pointAt = [&](std::ptrdiff_t i) { // mirrored on past the ends
        const auto last = std::ptrdiff_t(points.size()) - 1;
        return i < 0      ? points[0] * 2 - points[1]
               : i > last ? points[std::size_t(last)] * 2 - points[std::size_t(last - 1)]
                          : points[std::size_t(i)];
    };
    std::vector<Vec3f> fine;
    for (std::size_t k = 0; k + 1 < points.size(); ++k) {
        const auto i = std::ptrdiff_t(k);
        const Vec3f p[4] = {pointAt(i - 1), pointAt(i), pointAt(i + 1), pointAt(i + 2)};
        float t[4] = {0};
        for (int q = 1; q < 4; ++q)
            t[q] = t[q - 1] + std::max(std::sqrt(length(p[q] - p[q - 1])), 1e-4f);
        const auto mix = [&](Vec3f a, Vec3f b, float ta, float tb, float x) { return lerp(a, b, (x - ta) / (tb - ta)); };
        for (int step = 0; step < kSteps; ++step) { // the pyramid of Barry & Goldman 1988
            const float x = t[1] + (t[2] - t[1]) * float(step) / kSteps;
            const Vec3f a = mix(p[0], p[1], t[0], t[1], x), b = mix(p[1], p[2], t[1], t[2], x),
                        c = mix(p[2], p[3], t[2], t[3], x);
            fine.push_back(mix(mix(a, b, t[0], t[2], x), mix(b, c, t[1], t[3], x), t[1], t[2], x));
        }
    }
    fine.push_back(points.back());
    std::vector<float> upTo(fine.size(), 0.0f);
    for (std::size_t i = 1; i < fine.size(); ++i)
        upTo[i] = upTo[i - 1] + length(fine[i] - fine[i - 1]);
    std::vector<Vec3f> out;
    std::size_t at = 0;
    for (std::size_t k = 0; k < n; ++k) {
        const float s = upTo.back() * float(k) / float(std::max<std::size_t>(1, n - 1));
        while (at + 2 < fine.size() && upTo[at + 1] < s)
            ++at;
        const float step = upTo[at + 1] - upTo[at];
        out.push_back(lerp(fine[at], fine[at + 1], step > 0 ? std::clamp((s - upTo[at]) / step, 0.0f, 1.0f) : 0));
    }
    return out;
}

float keepApart(std::vector<Station> &stations, float margin)
{
    constexpr float kMostBend = 0.62f, kApart = 1.06f, kSlope = 0.12f;
    const std::size_t n = stations.size();
    std::vector<float> factor(n, 1.0f), upTo(n, 0.0f), wide(n);
    for (std::size_t i = 0; i < n; ++i) {
        wide[i] = std::max(stations[i].width, stations[i].height) * margin;
        if (i > 0)
            upTo[i] = upTo[i - 1] + length(stations[i].at - stations[i - 1].at);
    }
    for (std::size_t i = 1; i + 1 < n; ++i) {
        const Vec3f a = stations[i].at - stations[i - 1].at, b = stations[i + 1].at - stations[i].at;
        const float step = 0.5f * (length(a) + length(b));
        const Vec3f bend = normalized(b) - normalized(a); // towards the inside, as long as the turn
        const Vec3f inside = normalized(bend);
        const Station &s = stations[i];
        const float x = dot(inside, s.side) * s.width, y = dot(inside, s.up) * s.height;
        const float reach = length(bend) / std::max(step, 1e-6f) * std::sqrt(x * x + y * y) * margin;
        if (reach > kMostBend)
            factor[i] = kMostBend / reach;
    }
    // Sections near each other stand in order: no point of one lies beyond the plane of the other.
    const auto inOrder = [&](std::size_t i, std::size_t j, Vec3f plane) { // the section i against the plane of j
        const Station &s = stations[i];
        const float room = std::abs(dot(stations[j].at - s.at, plane));
        const float x = dot(plane, s.side) * s.width, y = dot(plane, s.up) * s.height;
        const float tilt = std::sqrt(x * x + y * y) * margin;
        const bool isBack = dot(stations[j].at - s.at, plane) * (j > i ? 1.0f : -1.0f) <= 0;
        const float fits = isBack ? 0.02f : tilt > 0 ? 0.85f * room / tilt : 1;
        factor[i] = std::min(factor[i], std::max(fits, 0.02f));
    };
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = i + 1; j < std::min(i + 4, n); ++j) {
            inOrder(i, j, stations[j].along());
            inOrder(j, i, stations[i].along());
        }
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = i + 4; j < n; ++j) {
            const float apart = length(stations[j].at - stations[i].at);
            const float needed = kApart * (wide[i] * factor[i] + wide[j] * factor[j]);
            if (apart < 0.7f * (upTo[j] - upTo[i]) && needed > apart) {
                const float less = apart / needed;
                factor[i] *= less, factor[j] *= less;
            }
        }
    for (std::size_t i = 1; i < n; ++i)
        factor[i] = std::min(factor[i], factor[i - 1] + kSlope);
    for (std::size_t i = n - 1; i-- > 0;)
        factor[i] = std::min(factor[i], factor[i + 1] + kSlope);
    for (std::size_t i = 0; i < n; ++i)
        stations[i].width *= factor[i], stations[i].height *= factor[i];
    return n == 0 ? 1 : *std::min_element(factor.begin(), factor.end());
}

void roundTip(std::vector<Station> &stations, float reach, int rings)
{
    const Station tip = stations.back();
    const float end = std::acos(0.3f);
    for (int k = 1; k <= rings; ++k) {
        const float a = end * float(k) / float(rings);
        Station s = tip;
        s.at = tip.at + tip.along() * (reach * std::sin(a));
        s.width *= std::cos(a), s.height *= std::cos(a);
        stations.push_back(s);
    }
}

void closeSheet(mesh::PolyMesh &sheet, std::uint32_t columns, std::uint32_t rows, bool isFlipped)
{
    const std::uint32_t across = columns + 1, back = across * (rows + 1);
    const auto at = [&](bool isBack, std::uint32_t i, std::uint32_t k) { return (isBack ? back : 0) + k * across + i; };
    const auto face = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d) {
        sheet.faces.push_back(isFlipped ? mesh::Face{{d, c, b, a}} : mesh::Face{{a, b, c, d}});
    };
    for (std::uint32_t k = 0; k < rows; ++k)
        for (std::uint32_t i = 0; i < columns; ++i) {
            face(at(false, i, k), at(false, i + 1, k), at(false, i + 1, k + 1), at(false, i, k + 1));
            face(at(true, i, k), at(true, i, k + 1), at(true, i + 1, k + 1), at(true, i + 1, k));
        }
    for (std::uint32_t i = 0; i < columns; ++i) {
        face(at(false, i, rows), at(false, i + 1, rows), at(true, i + 1, rows), at(true, i, rows));
        face(at(true, i, 0), at(true, i + 1, 0), at(false, i + 1, 0), at(false, i, 0));
    }
    for (std::uint32_t k = 0; k < rows; ++k) {
        face(at(true, 0, k), at(false, 0, k), at(false, 0, k + 1), at(true, 0, k + 1));
        face(at(false, columns, k), at(true, columns, k), at(true, columns, k + 1), at(false, columns, k + 1));
    }
}

float waver(std::uint64_t seed, float x)
{
    const float whole = std::floor(x), t = x - whole;
    const auto at = [&](float k) { return randomSigned(seed, std::uint64_t(std::int64_t(k))); };
    return std::lerp(at(whole), at(whole + 1), t * t * (3 - 2 * t));
}

std::vector<Vec3f> middleLine(const mesh::PolyMesh &mesh)
{
    std::vector<Vec3f> line;
    if (mesh.faces.empty() || mesh.faces[0].size() < 4)
        return line;
    const std::size_t around = mesh.faces[0].v[1] - mesh.faces[0].v[0], n = mesh.positions.size();
    if (around < 4 || around % 2 || n % around || mesh.faces.size() != n - around + 2 * (around / 2 - 1))
        return line;
    for (std::size_t i = 0; i < n; i += around) {
        Vec3f sum;
        for (std::size_t j = 0; j < around; ++j)
            sum += mesh.positions[i + j];
        line.push_back(sum * (1 / float(around)));
    }
    return line;
}

} // namespace bonemoss::outgrowth
