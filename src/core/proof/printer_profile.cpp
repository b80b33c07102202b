#include "proof/printer_profile.h"

#include "base/files.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <array>
#include <fstream>

namespace bonemoss::proof {

namespace {

using nlohmann::json;

/// Every number of a profile by its name in files, with what it may be.
template <typename P, typename Use> void eachNumber(P &p, const Use &use)
{
    use("layer", p.layer, 0.005f, 2.0f), use("wall", p.wall, 0.01f, 50.0f), use("tip", p.tip, 0.01f, 50.0f);
    use("gap", p.gap, 0.001f, 50.0f), use("overhang", p.overhang, 0.0f, 90.0f), use("width", p.build.x, 1.0f, 10000.0f);
    use("height", p.build.y, 1.0f, 10000.0f), use("depth", p.build.z, 1.0f, 10000.0f), use("density", p.density, 0.1f, 25.0f);
    use("price", p.price, 0.0f, 1e6f), use("secondsPerLayer", p.secondsPerLayer, 0.0f, 3600.0f);
    use("mm3PerSecond", p.mm3PerSecond, 0.0f, 1000.0f);
}

Result<PrinterProfile> fromFile(const std::filesystem::path &path)
{
    std::ifstream in(path);
    if (!in)
        return Error{ErrorCode::Unreadable, shownPath(path), "there is no such printer profile and no such file"};
    const json j = json::parse(in, nullptr, false);
    if (!j.is_object())
        return Error{ErrorCode::Malformed, shownPath(path), "is no printer profile: a JSON object is expected"};
    PrinterProfile out = printerProfiles().front();
    if (j.contains("like")) {
        const auto like = j["like"].is_string() ? j["like"].get<std::string>() : std::string();
        const auto all = printerProfiles();
        const auto at = std::find_if(all.begin(), all.end(), [&](const PrinterProfile &p) { return p.id == like; });
        if (at == all.end())
            return Error{ErrorCode::Unknown, "like", fmt::format("there is no printer profile \"{}\"", like)};
        out = *at;
    }
    out.id = path.stem().string();
    out.title = j.contains("title") && j["title"].is_string() ? j["title"].get<std::string>() : out.id;
    if (j.contains("resin")) {
        if (!j["resin"].is_boolean())
            return Error{ErrorCode::BadValue, "resin", "must be true or false"};
        out.isResin = j["resin"].get<bool>();
    }
    std::string wrong;
    eachNumber(out, [&](const char *name, float &value, float least, float most) {
        if (!j.contains(name) || !wrong.empty())
            return;
        const double given = j[name].is_number() ? j[name].get<double>() : -1;
        if (!(given >= double(least) && given <= double(most)))
            wrong = fmt::format("{} must be a number from {} to {}", name, least, most);
        else
            value = float(given);
    });
    if (!wrong.empty())
        return Error{ErrorCode::BadValue, shownPath(path), wrong};
    return out;
}

} // namespace

std::span<const PrinterProfile> printerProfiles()
{
    static const std::array<PrinterProfile, 4> all{{
        {"resin", "Resin, small plate"},
        {"resin-large", "Resin, large plate", true, 0.05f, 1, 0.8f, 0.3f, 30, {218, 250, 122}, 1.12f, 40, 9},
        {"filament", "Filament, 0.4 mm nozzle", false, 0.16f, 1.2f, 1.2f, 0.4f, 45, {220, 250, 220}, 1.24f, 22, 4, 6},
        {"filament-fine", "Filament, 0.2 mm nozzle", false, 0.08f, 0.6f, 0.7f, 0.25f, 45, {220, 250, 220}, 1.24f, 22, 4, 2},
    }};
    return all;
}

Result<PrinterProfile> printerProfile(const std::string &name)
{
    const auto all = printerProfiles();
    const auto at = std::find_if(all.begin(), all.end(), [&](const PrinterProfile &p) { return p.id == name; });
    if (at != all.end())
        return *at;
    if (name.find('.') != std::string::npos || name.find('/') != std::string::npos)
        return fromFile(name);
    std::string known;
    for (const PrinterProfile &p : all)
        known += (known.empty() ? "" : ", ") + p.id;
    return Error{ErrorCode::Unknown, "profile",
                 fmt::format("there is no printer profile \"{}\"; there are {}, or give a .json file", name, known)};
}

std::string toJson(const PrinterProfile &profile)
{
    json out{{"title", profile.title}, {"resin", profile.isResin}};
    eachNumber(profile, [&](const char *name, const float &value, float, float) { out[name] = value; });
    return out.dump(2);
}

} // namespace bonemoss::proof
