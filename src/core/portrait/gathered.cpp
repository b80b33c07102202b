#include "portrait/gathered.h"

#include "portrait/frame.h"

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

float Gathered::error(std::size_t pixel) const
{
    const float n = float(count[pixel]);
    if (n < 2)
        return 1;
    const float mean = luminance(all(pixel)), spread = std::max(0.0f, squares[pixel] / n - mean * mean);
    return std::sqrt(spread / (n - 1)) / (mean + 0.02f);
}

double Gathered::meanError() const
{
    double sum = 0;
    for (std::size_t i = 0; i < size(); ++i)
        sum += double(error(i));
    return size() ? sum / double(size()) : 0;
}

std::size_t Gathered::memoryBytes() const
{
    return size() * (12 * (light.size() + 3) + 4 * 8);
}

} // namespace bonemoss::portrait
