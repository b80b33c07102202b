#include "store/detail/outgrowth_manifest.h"

#include "store/detail/form_manifest.h"

#include <algorithm>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::store::detail {

using bonemoss::outgrowth::Correction;
using bonemoss::outgrowth::Outgrowth;
using nlohmann::json;

json writeOutgrowth(const Outgrowth &o)
{
    json values = json::object(), roots = json::array(), path = json::array(), corrections = json::array();
    for (std::size_t k = 0; k < o.values.size(); ++k)
        values[std::string(o.kind->settings[k].name)] = o.values[k];
    for (const auto &r : o.roots)
        roots.push_back({row(r.at), row(r.normal)});
    for (const Vec3f p : o.path)
        path.push_back(row(p));
    for (const Correction &c : o.corrections)
        corrections.push_back({{"member", c.member},
                               {"twin", c.isTwin},
                               {"move", row(c.translation)},
                               {"turn", row(c.rotation)},
                               {"size", c.size},
                               {"bend", c.bend},
                               {"broken", c.broken},
                               {"thin", c.thin},
                               {"pull", row(c.pull)},
                               {"item", c.item},
                               {"missing", c.isMissing}});
    json out{{"kind", o.kind->name}, {"values", values}, {"seed", o.seed},       {"mirror", o.isMirrored},    {"roots", roots},
             {"path", path},         {"item", o.item},   {"profile", o.profile}, {"corrections", corrections}};
    if (!o.starts.empty())
        out["starts"] = o.starts;
    if (o.rim.layer)
        out["rim"] = {{"layer", o.rim.layer}, {"height", o.rim.height}, {"width", o.rim.width}};
    if (!o.between.empty())
        out["between"] = o.between;
    if (!o.section.empty())
        out["section"] = o.section;
    if (o.look)
        out["look"] = row(*o.look);
    if (o.seenFrom)
        out["seenFrom"] = row(*o.seenFrom);
    if (o.isMelted)
        out["melted"] = true;
    if (!o.colours.empty())
        out["colours"] = {row(o.colours[0]), row(o.colours[1])};
    if (o.skinColour > 0)
        out["skinColour"] = o.skinColour;
    for (std::size_t k = 0; k < kFinishes; ++k)
        if (o.finish[k])
            out["finish"][std::to_string(k)] = *o.finish[k];
    if (!o.mask.empty())
        out["mask"] = o.mask;
    for (std::size_t k = 0; k < o.maps.size(); ++k)
        if (!o.maps[k].empty())
            out["maps"][std::string(bonemoss::outgrowth::kMapNames[k])] = o.maps[k];
    writeItem(o, out);
    return out;
}

Result<Outgrowth> readOutgrowth(const json &j)
{
    const std::string kindName = j.at("kind");
    const auto *kind = bonemoss::outgrowth::kindNamed(kindName);
    if (!kind)
        return Error{ErrorCode::Unsupported, kindName, "is a kind that this program does not know"};
    Outgrowth o = outgrowthOf(*kind);
    readItem(j, o);
    for (std::size_t k = 0; k < o.values.size(); ++k) {
        const auto &s = kind->settings[k];
        o.values[k] = std::clamp(j.at("values").value(std::string(s.name), o.values[k]), s.min, s.max);
    }
    o.seed = j.at("seed"), o.isMirrored = j.at("mirror"), o.item = j.value("item", 0u), o.mask = j.value("mask", std::string());
    for (const json &r : j.at("roots"))
        o.roots.push_back({vec(r.at(0)), vec(r.at(1))});
    o.starts = j.value("starts", std::vector<std::uint32_t>());
    for (std::size_t k = 0; k < o.starts.size(); ++k)
        if (o.starts[k] < (k > 0 ? o.starts[k - 1] : 0) + 2 || std::size_t(o.starts[k]) + 2 > o.roots.size())
            return Error{ErrorCode::Damaged, o.name, "one of its lines has no two places"};
    if (j.contains("rim"))
        o.rim = {j.at("rim").at("height"), j.at("rim").at("width"), j.at("rim").at("layer")};
    for (const json &p : j.at("path"))
        o.path.push_back(vec(p));
    o.profile = j.at("profile").get<std::vector<float>>();
    o.between = j.value("between", std::vector<std::uint32_t>());
    o.section = j.value("section", std::vector<float>());
    if (j.contains("look"))
        o.look = vec(j.at("look"));
    if (j.contains("seenFrom"))
        o.seenFrom = vec(j.at("seenFrom"));
    o.isMelted = j.value("melted", false);
    if (j.contains("colours"))
        o.colours = {vec(j.at("colours").at(0)), vec(j.at("colours").at(1))};
    o.skinColour = std::clamp(j.value("skinColour", 0.0f), 0.0f, 1.0f);
    for (std::size_t k = 0; j.contains("finish") && k < kFinishes; ++k)
        if (const std::string name = std::to_string(k); j.at("finish").contains(name))
            o.finish[k] = std::clamp(j.at("finish").at(name).get<float>(), 0.0f, 1.0f);
    for (std::size_t k = 0; k < o.maps.size(); ++k)
        o.maps[k] = j.value("maps", json::object()).value(std::string(bonemoss::outgrowth::kMapNames[k]), std::string());
    for (const json &c : j.at("corrections")) {
        Correction &to = o.corrections.emplace_back();
        to.member = c.at("member"), to.isTwin = c.at("twin"), to.translation = vec(c.at("move")), to.rotation = vec(c.at("turn"));
        to.size = c.at("size"), to.bend = c.at("bend"), to.broken = c.at("broken"), to.item = c.at("item");
        to.isMissing = c.at("missing"), to.thin = c.value("thin", 1.0f);
        if (c.contains("pull"))
            to.pull = vec(c.at("pull"));
    }
    const bool isRooted = !o.roots.empty() || !o.mask.empty() || !o.between.empty();
    if (const std::string what = o.notFinite(nullptr); !what.empty() || !isRooted || o.path.size() == 1)
        return Error{ErrorCode::Damaged, o.name, "it has a number that is none, or no root"};
    return o;
}

} // namespace bonemoss::store::detail
