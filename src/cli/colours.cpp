// What is painted on a creature.
#include "cli/commands.h"
#include "base/files.h"
#include "colour/palette.h"
#include "colour/rule.h"
#include "command/command.h"
#include "export/paint_plan.h"
#include "export/shown_scene.h"
#include "image/picture_file.h"
#include "portrait/studio.h"
#include "skin/colour_layers.h"
#include "store/store.h"

#include <algorithm>
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
            const auto holds = [&](const skin::Bytes *values) { return values && !values->isBlank(); };
            const auto channel = [&](skin::LayerChannel c) { return holds(layerValues(p->skin, l.id, c)); };
            const bool ruled = l.ramp && channel(skin::LayerChannel::Rule);
            bool hasColour = channel(skin::LayerChannel::Cover) || (ruled && !l.ramp->stops.empty());
            for (const skin::PaletteColour &c : p->skin.palette)
                hasColour = hasColour || holds(entryValues(p->skin, l.id, c.id));
            bool hasFinish = channel(skin::LayerChannel::FinishCover);
            for (std::size_t k = 0; ruled && k < l.ramp->finish.size(); ++k)
                hasFinish = hasFinish || l.ramp->finish[k];
            json what = json::array();
            if (hasColour)
                what.push_back("colour");
            if (hasFinish)
                what.push_back("finish");
            layers.push_back({{"id", l.id},
                              {"name", l.name},
                              {"opacity", l.opacity},
                              {"blend", skin::kColourBlendNames[std::size_t(l.blend)]},
                              {"on", l.isOn},
                              {"locked", l.isLocked},
                              {"holds", what},
                              {"covers", skin::coveredShare(p->skin, l.id)}});
            if (l.rule)
                layers.back()["rule"] = l.rule->kind->name;
        }
        pieces.push_back({{"name", p->name}, {"painted", p->skin.paint.isSeen()}, {"layers", layers}});
    }
    if (asJson) {
        json palette = json::array(), schemes = json::array();
        for (const skin::PaletteColour &c : loaded->creature.palette)
            palette.push_back({{"id", c.id}, {"name", c.name}, {"colour", colour::hexOf(c.colour)}});
        for (const document::Scheme &s : loaded->creature.schemes)
            schemes.push_back({{"id", s.id}, {"name", s.name}, {"used", s.id == loaded->creature.scheme}});
        fmt::print("{}\n", json{{"pieces", pieces}, {"palette", palette}, {"schemes", schemes}}.dump(2));
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

int makePalette(const std::filesystem::path &picture, int count, const std::filesystem::path &out)
{
    const auto bytes = image::readPictureFile(picture);
    if (!bytes)
        return fail(bytes.error(), kUnreadable);
    const auto read = image::decodePicture(*bytes, 1024);
    if (!read)
        return fail({read.error().code, shownPath(picture), read.error().detail}, kUnreadable);
    std::vector<skin::PaletteColour> palette;
    for (const colour::Found &f : colour::coloursIn(*read, count)) {
        palette.push_back({0, colour::hexOf(f.colour), f.colour});
        fmt::print("{}  {:.1f} %\n", colour::hexOf(f.colour), 100 * f.share);
    }
    if (palette.empty())
        return fail({ErrorCode::Empty, shownPath(picture), "the picture is wholly transparent"}, kFailed);
    const Status written =
        out.extension() == ".png" ? image::writePng(out, colour::swatchesOf(palette)) : writeFile(out, colour::toText(palette));
    return written ? kDone : fail(written.error(), kFailed);
}

int planPaint(const std::filesystem::path &in, const std::filesystem::path &paints, int count, const std::filesystem::path &out,
              bool asJson)
{
    const auto loaded = store::loadStore(in);
    if (!loaded)
        return fail(loaded.error(), kUnreadable);
    std::vector<skin::PaletteColour> list = colour::usualPaints();
    if (!paints.empty()) {
        const auto bytes = readFile(paints);
        if (!bytes)
            return fail(bytes.error(), kUnreadable);
        auto read = colour::fromText({reinterpret_cast<const char *>(bytes->data()), bytes->size()});
        if (!read)
            return fail({read.error().code, shownPath(paints), read.error().text()}, kUnreadable);
        list = std::move(*read);
    }
    const auto plan = exporting::paintPlanOf(loaded->creature, shownPath(in.stem()), count, std::move(list));
    if (!plan)
        return fail(plan.error(), kFailed);
    if (!out.empty())
        if (const Status written = exporting::writePaintPlan(out, *plan); !written)
            return fail(written.error(), kFailed);
    json all = json::array();
    for (const exporting::PlannedColour &c : plan->colours) {
        json parts = json::array();
        for (const colour::Mix::Part &p : c.mix.parts)
            parts.push_back({{"paint", plan->paints[p.paint].name}, {"parts", p.parts}});
        all.push_back({{"colour", colour::hexOf(c.colour)},
                       {"share", c.share},
                       {"mix", parts},
                       {"gives", colour::hexOf(c.mix.colour)},
                       {"difference", c.mix.difference}});
    }
    if (asJson) {
        fmt::print("{}\n", json{{"colours", all}}.dump(2));
        return kDone;
    }
    for (const json &c : all) {
        std::string mix;
        for (const json &p : c["mix"])
            mix += fmt::format("{}{} {}", mix.empty() ? "" : " + ", p["parts"].get<int>(), p["paint"].get<std::string>());
        fmt::print("{}  {:5.1f} %  {}\n", c["colour"].get<std::string>(), 100 * c["share"].get<float>(), mix);
    }
    return kDone;
}

int sheetOfCoats(const std::filesystem::path &in, const std::filesystem::path &out, int columns, int samples)
{
    constexpr int kWide = 360, kHigh = 240;
    const auto loaded = store::loadStore(in);
    if (!loaded)
        return fail(loaded.error(), kUnreadable);
    const auto &pieces = loaded->creature.pieces;
    const auto largest = std::max_element(pieces.begin(), pieces.end(),
                                          [](const auto &a, const auto &b) { return a->skin.body.size() < b->skin.body.size(); });
    if (largest == pieces.end())
        return fail({ErrorCode::Empty, shownPath(in), "has no skin to colour"}, kFailed);
    std::vector<const colour::RuleKind *> coats;
    for (const colour::RuleKind &kind : colour::ruleKinds())
        if (kind.isCoat)
            coats.push_back(&kind);
    image::ColourPicture sheet;
    const int rows = (int(coats.size()) + columns - 1) / columns;
    sheet.width = columns * kWide, sheet.height = rows * kHigh;
    sheet.rgba.resize(std::size_t(sheet.width) * std::size_t(sheet.height) * 4, 255);
    for (std::size_t k = 0; k < coats.size(); ++k) {
        command::CommandContext context;
        const json commands = json::array(
            {{{"do", "colour.add"}, {"piece", (*largest)->id}, {"name", "Ground of the sheet"}},
             {{"do", "colour.fill"}, {"piece", (*largest)->id}, {"colour", {0.74, 0.64, 0.47}}},
             {{"do", fmt::format("rule.{}", coats[k]->name)}, {"piece", (*largest)->id}, {"colour", {0.16, 0.11, 0.07}}}});
        document::Creature creature = loaded->creature;
        for (const json &c : commands) {
            auto next = command::apply(creature, c, context);
            if (!next)
                return fail(next.error(), kFailed);
            creature = std::move(*next);
        }
        portrait::Camera camera;
        camera.rotation = portrait::viewRotation("left").value_or(Quat{});
        camera = portrait::framing(camera, creature.bounds(), float(kWide) / kHigh);
        const auto picture = portrait::studioPicture(exporting::pictureScene(creature), camera, kWide, kHigh, samples);
        if (!picture)
            return fail(picture.error(), kFailed);
        const auto left = int(k) % columns * kWide, top = int(k) / columns * kHigh;
        for (int y = 0; y < kHigh; ++y)
            std::copy_n(picture->rgba.begin() + std::ptrdiff_t(y) * kWide * 4, kWide * 4,
                        sheet.rgba.begin() + (std::ptrdiff_t(top + y) * sheet.width + left) * 4);
        fmt::print("{} {}: {}\n", int(k) / columns + 1, int(k) % columns + 1, coats[k]->name);
    }
    const Status written = image::writePng(out, sheet);
    return written ? kDone : fail(written.error(), kFailed);
}

} // namespace bonemoss::cli
