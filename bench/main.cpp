// Runs figures and writes them as JSON: bonemoss-bench [NAME...] [--json FILE]
#include "bench/figure.h"

#include "base/parallel.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fmt/format.h>
#include <fstream>
#include <nlohmann/json.hpp>
#include <stdexcept>
#include <thread>

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

int main(int argc, char **argv)
{
    using namespace bonemoss;
    keepFreedMemory();
    std::vector<std::string> names;
    std::string file;
    for (int i = 1; i < argc; ++i)
        if (std::string(argv[i]) == "--json" && i + 1 < argc)
            file = argv[++i];
        else
            names.push_back(argv[i]);
    nlohmann::json figures = nlohmann::json::array();
    bool failed = false;
    for (auto group : {bench::fieldFigures(), bench::skinFigures(), bench::fileFigures()})
        for (const bench::Entry &e : group) {
            if (!names.empty() && std::find(names.begin(), names.end(), e.name) == names.end())
                continue;
            try {
                const bench::Figure f = e.run();
                fmt::print("{:15} {:10.4g} {:12} against {:10.4g} ({}): ratio {:.3g}, goal {} {:g}: {}{}\n", f.name, f.value,
                           f.unit, f.referenceValue, f.reference, f.ratio, f.isAtLeast ? "at least" : "at most", f.goal,
                           f.met() ? "met" : "not met", f.note.empty() ? "" : "; " + f.note);
                std::fflush(stdout);
                figures.push_back({{"name", f.name},
                                   {"value", f.value},
                                   {"unit", f.unit},
                                   {"reference", f.reference},
                                   {"reference_value", f.referenceValue},
                                   {"ratio", f.ratio},
                                   {"goal", f.goal},
                                   {"met", f.met()},
                                   {"note", f.note}});
            } catch (const std::exception &x) {
                fmt::print(stderr, "{}: {}\n", e.name, x.what());
                failed = true;
            }
        }
    if (!file.empty())
        std::ofstream(file)
            << nlohmann::json{{"machine", {{"threads", std::thread::hardware_concurrency()}}}, {"figures", figures}}.dump(2)
            << "\n";
    return failed ? 1 : 0;
}
