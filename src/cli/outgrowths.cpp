// What the table of outgrowths has, in words and as a picture.
#include "cli/commands.h"
#include "image/picture.h"
#include "outgrowth/specimen.h"
#include "portrait/studio.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>

namespace bonemoss::cli {

using nlohmann::json;

namespace {

json toJson(const outgrowth::Setting &s, float usual)
{
    json out{{"name", s.name}, {"title", s.title}};
    if (!s.choices.empty()) {
        out["choices"] = json::array();
        for (std::size_t k = std::size_t(s.min); k < s.choices.size(); ++k)
            out["choices"].push_back(s.choices[k]);
        out["default"] = s.choices[std::size_t(usual)];
        return out;
    }
    out.update({{"unit", s.unit}, {"min", s.min}, {"max", s.max}, {"low", s.low}, {"high", s.high}, {"default", usual}});
    return out;
}

constexpr std::string_view rootingWord(outgrowth::Rooting rooting)
{
    return rooting == outgrowth::Rooting::Point   ? "point"
           : rooting == outgrowth::Rooting::Line  ? "line"
           : rooting == outgrowth::Rooting::Lines ? "lines"
                                                  : "mask";
}

} // namespace

int listOutgrowths(bool asJson)
{
    json all = json::array();
    for (const outgrowth::Kind &kind : outgrowth::kinds()) {
        json settings = json::array();
        for (std::size_t k = 0; k < kind.settings.size(); ++k)
            settings.push_back(toJson(kind.settings[k], kind.usual[k]));
        all.push_back({{"kind", kind.name},
                       {"title", kind.title},
                       {"group", kind.group},
                       {"on", rootingWord(kind.rooting)},
                       {"description", kind.text},
                       {"settings", settings}});
    }
    if (asJson) {
        fmt::print("{}\n", all.dump(2));
        return kDone;
    }
    for (const json &kind : all) {
        fmt::print("{} (on a {}): {}\n", kind["kind"].get<std::string>(), kind["on"].get<std::string>(),
                   kind["description"].get<std::string>());
        for (const json &s : kind["settings"])
            if (s.contains("choices"))
                fmt::print("  {}: one of {}; {}\n", s["name"].get<std::string>(), s["choices"].dump(),
                           s["default"].get<std::string>());
            else
                fmt::print("  {}: {:g} to {:g} {}; {:g}\n", s["name"].get<std::string>(), s["min"].get<float>(),
                           s["max"].get<float>(), s["unit"].get<std::string>(), s["default"].get<float>());
    }
    return kDone;
}

int sheetOfOutgrowths(const std::filesystem::path &out, int columns, int samples)
{
    constexpr int kWide = 320, kHigh = 260;
    const auto kinds = outgrowth::kinds();
    const int rows = (int(kinds.size()) + columns - 1) / columns;
    image::ColourPicture sheet;
    sheet.width = columns * kWide, sheet.height = rows * kHigh;
    sheet.rgba.resize(std::size_t(sheet.width) * std::size_t(sheet.height) * 4, 255);
    for (std::size_t k = 0; k < kinds.size(); ++k) {
        const io::Scene scene = specimenOf(outgrowthOf(kinds[k]));
        std::vector<Vec3f> shown; // what shall fill the picture
        for (std::size_t o = 1; o < scene.objects.size(); ++o)
            for (const io::Placement &place : scene.objects[o].places)
                scene.shapeOf(scene.objects[o]).eachPoint([&](Vec3f p) {
                    if (const Vec3f at = place.apply(p); at.y > 0)
                        shown.push_back(at);
                });
        portrait::Camera camera;
        camera.rotation = portrait::rotationLooking({0.85f, 0.42f, 0.5f}, {0, 1, 0});
        camera = portrait::framing(camera, shown, float(kWide) / kHigh);
        camera.distance *= 1.12f;
        const auto picture = portrait::studioPicture(scene, camera, kWide, kHigh, samples);
        if (!picture)
            return fail(picture.error(), kFailed);
        const auto left = int(k) % columns * kWide, top = int(k) / columns * kHigh;
        for (int y = 0; y < kHigh; ++y)
            std::copy_n(picture->rgba.begin() + std::ptrdiff_t(y) * kWide * 4, kWide * 4,
                        sheet.rgba.begin() + (std::ptrdiff_t(top + y) * sheet.width + left) * 4);
        fmt::print("{} {}: {}\n", int(k) / columns + 1, int(k) % columns + 1, kinds[k].name);
    }
    const Status written = image::writePng(out, sheet);
    return written ? kDone : fail(written.error(), kFailed);
}

} // namespace bonemoss::cli
