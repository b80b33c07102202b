#include "portrait/gathered.h"

#include "portrait/frame.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::portrait {

Gathered::Gathered(int wide, int high, std::array<int, 4> tile, std::vector<std::string> names)
    : left(tile[0]), top(tile[1]), width(tile[2]), height(tile[3]), wholeWidth(wide), wholeHeight(high), lights(std::move(names))
{
    const std::size_t n = std::size_t(width) * std::size_t(height);
    light.assign(lights.size(), std::vector<Vec3f>(n));
    odd.resize(n), albedo.resize(n), normal.resize(n);
    for (auto *v : {&depth, &facing, &open, &cover, &shade, &squares})
        v->assign(n, 0);
    count.assign(n, 0), object.assign(n, kNone);
}

Vec3f Gathered::all(std::size_t pixel) const
{
    Vec3f sum;
    for (const auto &l : light)
        sum += l[pixel];
    return sum * (1 / float(std::max(count[pixel], 1u)));
}

float relativeError(float sum, float squares, std::uint32_t count)
{
    const float n = float(count);
    if (n < 2)
        return 1;
    const float mean = sum / n, spread = std::max(0.0f, squares / n - mean * mean);
    return std::sqrt(spread / (n - 1)) / (mean + 0.02f);
}

float Gathered::error(std::size_t pixel) const
{
    return relativeError(luminance(all(pixel)) * float(count[pixel]), squares[pixel], count[pixel]);
}

double Gathered::meanError() const
{
    double sum = 0;
    for (std::size_t i = 0; i < size(); ++i)
        sum += double(error(i));
    return size() ? sum / double(size()) : 0;
}

Gathered Gathered::cut(std::array<int, 4> t) const
{
    Gathered out(wholeWidth, wholeHeight, t, lights);
    out.scale = scale, out.reach = reach;
    for (int y = 0; y < out.height; ++y) {
        const auto n = std::ptrdiff_t(out.width);
        const std::ptrdiff_t from = std::ptrdiff_t(t[1] - top + y) * width + (t[0] - left), to = std::ptrdiff_t(y) * n;
        const auto copy = [&](const auto &a, auto &b) { std::copy_n(a.begin() + from, n, b.begin() + to); };
        for (std::size_t k = 0; k < light.size(); ++k)
            copy(light[k], out.light[k]);
        copy(odd, out.odd), copy(albedo, out.albedo), copy(normal, out.normal), copy(depth, out.depth);
        copy(facing, out.facing), copy(open, out.open), copy(cover, out.cover), copy(shade, out.shade);
        copy(squares, out.squares), copy(count, out.count), copy(object, out.object);
    }
    return out;
}

void Gathered::append(const Gathered &b)
{
    const auto add = [](auto &to, const auto &from) { to.insert(to.end(), from.begin(), from.end()); };
    for (std::size_t k = 0; k < light.size(); ++k)
        add(light[k], b.light[k]);
    add(odd, b.odd), add(albedo, b.albedo), add(normal, b.normal), add(depth, b.depth), add(facing, b.facing), add(open, b.open);
    add(cover, b.cover), add(shade, b.shade), add(squares, b.squares), add(count, b.count), add(object, b.object);
    height += b.height;
}

std::size_t Gathered::memoryBytes() const
{
    return size() * (12 * (light.size() + 3) + 4 * 8);
}

} // namespace bonemoss::portrait
