// What all figures share.
#include "bench/figure.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <stdexcept>

namespace bonemoss::bench {

double seconds(const std::function<void()> &work)
{
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

double median(std::vector<double> v)
{
    std::sort(v.begin(), v.end());
    return v[v.size() / 2];
}

Pair medians(int runs, const std::function<void()> &a, const std::function<void()> &b)
{
    std::vector<double> as, bs;
    a(), b(); // warm up
    for (int i = 0; i < runs; ++i)
        as.push_back(seconds(a)), bs.push_back(seconds(b));
    return {median(as), median(bs)};
}

mesh::PolyMesh waves(std::uint32_t n, float side)
{
    mesh::PolyMesh m;
    for (std::uint32_t j = 0; j <= n; ++j)
        for (std::uint32_t i = 0; i <= n; ++i) {
            const float x = (float(i) / float(n) - 0.5f) * side, z = (float(j) / float(n) - 0.5f) * side;
            m.positions.push_back({x, side * 0.02f * std::sin(x * 20 / side) * std::cos(z * 17 / side), z});
        }
    const auto at = [&](std::uint32_t i, std::uint32_t j) { return j * (n + 1) + i; };
    for (std::uint32_t j = 0; j < n; ++j)
        for (std::uint32_t i = 0; i < n; ++i)
            m.faces.push_back({{at(i, j), at(i, j + 1), at(i + 1, j + 1), at(i + 1, j)}});
    return inSpatialOrder(m);
}

std::string meshPath(const char *name)
{
    const char *folder = std::getenv("BONEMOSS_MESHES");
    const std::string path = std::string(folder ? folder : "build/meshes") + "/" + name;
    if (!std::filesystem::exists(path))
        throw std::runtime_error("missing input: " + path);
    return path;
}

} // namespace bonemoss::bench
