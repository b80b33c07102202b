// What is painted on a creature.
#include "cli/commands.h"
#include "skin/colour_layers.h"
#include "store/store.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::cli {

using nlohmann::json;

int listColours(const std::filesystem::path &in, bool asJson)
{
    const auto loaded = store::loadStore(in);
    if (!loaded)
        return fail(loaded.error(), kUnreadable);
    json pieces = json::array();
    for (const auto &p : loaded->creature.pieces) {
        json layers = json::array();
        for (const skin::ColourLayer &l : p->skin.colourLayers) {
            const auto holds = [&](skin::LayerChannel c) {
                const skin::Bytes *values = layerValues(p->skin, l.id, c);
                return values && !values->isBlank();
            };
            json what = json::array();
            if (holds(skin::LayerChannel::Cover))
                what.push_back("colour");
            if (holds(skin::LayerChannel::FinishCover))
                what.push_back("finish");
            layers.push_back({{"id", l.id},
                              {"name", l.name},
                              {"opacity", l.opacity},
                              {"blend", skin::kColourBlendNames[std::size_t(l.blend)]},
                              {"on", l.isOn},
                              {"locked", l.isLocked},
                              {"holds", what},
                              {"covers", skin::coveredShare(p->skin, l.id)}});
        }
        pieces.push_back({{"name", p->name}, {"painted", p->skin.paint.isSeen()}, {"layers", layers}});
    }
    if (asJson) {
        fmt::print("{}\n", json{{"pieces", pieces}}.dump(2));
        return kDone;
    }
    for (const json &p : pieces) {
        fmt::print("{}: {} colour layers{}\n", p["name"].get<std::string>(), p["layers"].size(),
                   p["layers"].empty() && p["painted"].get<bool>() ? ", painted evenly" : "");
        for (const json &l : p["layers"])
            fmt::print("  {}: {} at {:.0f} %, {}, covers {:.1f} %{}\n", l["name"].get<std::string>(),
                       l["blend"].get<std::string>(), 100 * l["opacity"].get<float>(),
                       l["holds"].empty() ? "holds nothing" : "holds " + l["holds"].dump(), 100 * l["covers"].get<double>(),
                       l["on"].get<bool>() ? "" : ", off");
    }
    return kDone;
}

} // namespace bonemoss::cli
