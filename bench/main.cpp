// Runs figures and writes them as JSON: bonemoss-bench [NAME...] [--json FILE] [--creature FILE]
#include "bench/figure.h"

#include "base/parallel.h"

#include <algorithm>
#include <fmt/format.h>
#include <fstream>
#include <nlohmann/json.hpp>
#include <stdexcept>
#include <thread>

int main(int argc, char **argv)
{
    using namespace bonemoss;
    keepFreedMemory();
    std::vector<std::string> names;
    std::string file, creature;
    for (int i = 1; i < argc; ++i)
        if (std::string(argv[i]) == "--json" && i + 1 < argc)
            file = argv[++i];
        else if (std::string(argv[i]) == "--creature" && i + 1 < argc)
            creature = argv[++i];
        else
            names.push_back(argv[i]);
    nlohmann::json figures = nlohmann::json::array();
    bool failed = false;
    for (auto group : {bench::fieldFigures(), bench::skinFigures(creature), bench::outgrowthFigures(), bench::colourFigures(),
                       bench::poseFigures(), bench::portraitFigures(), bench::proofFigures(), bench::fileFigures(creature)})
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
