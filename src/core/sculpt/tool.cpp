#include "sculpt/tool.h"

#include <array>

namespace bonemoss::sculpt {

namespace {
constexpr std::array<std::string_view, kToolCount> kTools{"raise",   "daub",   "swell",  "slab",    "tug",   "knead",  "tendril",
                                                          "twist",   "crease", "pinch",  "plane",   "gouge", "smooth", "relax",
                                                          "restore", "mask",   "denser", "sparser", "stamp"};
} // namespace

std::string_view nameOf(Tool tool)
{
    return kTools[std::size_t(tool)];
}

std::optional<Tool> toolNamed(std::string_view name)
{
    for (std::size_t i = 0; i < kTools.size(); ++i)
        if (kTools[i] == name)
            return Tool(i);
    return {};
}

} // namespace bonemoss::sculpt
