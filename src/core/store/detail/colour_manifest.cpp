// Colour layers, palettes and schemes in a manifest.
#include "store/detail/colour_manifest.h"

#include "colour/rule.h"
#include "store/detail/form_manifest.h"

#include <algorithm>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::store::detail {

using bonemoss::colour::Rule;
using nlohmann::json;
using skin::ColourLayer;
using skin::ColourRamp;
using skin::PaletteColour;

namespace {

float shareIn(const json &j, const char *key, float otherwise)
{
    return std::clamp(j.value(key, otherwise), 0.0f, 1.0f);
}

Vec3f colourFrom(const json &j)
{
    const Vec3f c = vec(j);
    return {std::clamp(c.x, 0.0f, 1.0f), std::clamp(c.y, 0.0f, 1.0f), std::clamp(c.z, 0.0f, 1.0f)};
}

json writeRamp(const ColourRamp &ramp)
{
    json stops = json::array(), finish = json::array();
    for (const ColourRamp::Stop &s : ramp.stops) {
        stops.push_back({{"at", s.at}, {"colour", row(s.ink.colour)}, {"cover", s.cover}});
        if (s.ink.entry)
            stops.back()["entry"] = s.ink.entry;
    }
    for (const std::optional<float> &f : ramp.finish)
        finish.push_back(f ? json(*f) : json());
    return {{"stops", stops}, {"finish", finish}};
}

ColourRamp readRamp(const json &j)
{
    ColourRamp ramp;
    for (const json &s : j.at("stops"))
        ramp.stops.push_back({shareIn(s, "at", 0), {colourFrom(s.at("colour")), s.value("entry", 0u)}, shareIn(s, "cover", 1)});
    std::stable_sort(ramp.stops.begin(), ramp.stops.end(), [](const auto &a, const auto &b) { return a.at < b.at; });
    for (std::size_t k = 0; k < ramp.finish.size() && k < j.at("finish").size(); ++k)
        if (const json &f = j.at("finish").at(k); !f.is_null())
            ramp.finish[k] = std::clamp(f.get<float>(), 0.0f, 1.0f);
    return ramp;
}

json writeColourRule(const Rule &r)
{
    json settings = json::object();
    for (std::size_t k = 0; k < r.settings.size(); ++k)
        settings[std::string(r.kind->settings[k].name)] = r.settings[k];
    json out{{"kind", r.kind->name},   {"settings", settings},   {"source", r.source},
             {"seed", r.seed},         {"mirror", r.isMirrored}, {"reverse", r.isReversed},
             {"contrast", r.contrast}, {"blur", r.blur},         {"ground", r.ground}};
    if (r.curve)
        out["curve"] = *r.curve;
    for (const Vec3f p : r.points)
        out["points"].push_back(row(p));
    return out;
}

Rule readColourRule(const json &j, const colour::RuleKind &kind)
{
    Rule r = colour::ruleOf(kind);
    for (std::size_t k = 0; k < r.settings.size(); ++k) {
        const auto &s = kind.settings[k];
        r.settings[k] = std::clamp(j.at("settings").value(std::string(s.name), r.settings[k]), s.min, s.max);
    }
    r.source = j.at("source"), r.seed = j.at("seed"), r.isMirrored = j.at("mirror"), r.isReversed = j.at("reverse");
    r.contrast = shareIn(j, "contrast", 0), r.blur = std::min(j.at("blur").get<std::uint32_t>(), 200u), r.ground = j.at("ground");
    if (j.contains("curve"))
        r.curve = j.at("curve").get<sculpt::DrawnFalloff>();
    for (const json &p : j.value("points", json::array()))
        r.points.push_back(vec(p));
    return r;
}

} // namespace

json writeColourLayer(const ColourLayer &l)
{
    json out{{"id", l.id},
             {"name", l.name},
             {"opacity", l.opacity},
             {"blend", skin::kColourBlendNames[std::size_t(l.blend)]},
             {"on", l.isOn}};
    if (l.isLocked)
        out["locked"] = true;
    if (l.isAside)
        out["aside"] = true;
    if (l.rule)
        out["rule"] = writeColourRule(*l.rule);
    if (l.ramp)
        out["ramp"] = writeRamp(*l.ramp);
    return out;
}

ColourLayer readColourLayer(const json &j, const std::string &piece, std::vector<std::string> &damage)
{
    ColourLayer l{.id = j.at("id"),
                  .name = j.at("name"),
                  .opacity = std::clamp(j.at("opacity").get<float>(), 0.0f, 1.0f),
                  .isOn = j.at("on"),
                  .isAside = j.value("aside", false),
                  .isLocked = j.value("locked", false)};
    const auto blend =
        std::find(skin::kColourBlendNames.begin(), skin::kColourBlendNames.end(), j.at("blend").get<std::string>());
    if (blend != skin::kColourBlendNames.end())
        l.blend = skin::ColourBlend(blend - skin::kColourBlendNames.begin());
    else
        damage.push_back(fmt::format("colour layer {} of {} mixes in a way that this program does not know; it is mixed as usual",
                                     l.name, piece));
    if (j.contains("ramp"))
        l.ramp = std::make_shared<const ColourRamp>(readRamp(j.at("ramp")));
    if (j.contains("rule")) {
        if (const colour::RuleKind *kind = colour::ruleNamed(j.at("rule").at("kind").get<std::string>()))
            l.rule = std::make_shared<const Rule>(readColourRule(j.at("rule"), *kind));
        else
            damage.push_back(fmt::format("colour layer {} of {} goes by the rule \"{}\", which this program does not know; it "
                                         "stays as it was saved",
                                         l.name, piece, j.at("rule").at("kind").get<std::string>()));
    }
    return l;
}

json writePalette(const std::vector<PaletteColour> &palette)
{
    json out = json::array();
    for (const PaletteColour &c : palette)
        out.push_back({{"id", c.id}, {"name", c.name}, {"colour", row(c.colour)}});
    return out;
}

std::vector<PaletteColour> readPalette(const json &list)
{
    std::vector<PaletteColour> out;
    for (const json &c : list)
        out.push_back({c.at("id"), c.at("name"), colourFrom(c.at("colour"))});
    return out;
}

json writeOwnPalette(const Creature &creature, const WriteBlob &)
{
    return writePalette(creature.palette);
}

Status readOwnPalette(const json &m, const ReadBlob &, Creature &creature, std::vector<std::string> &)
{
    creature.palette = readPalette(m.value("palette", json::array()));
    return Done{};
}

json writeSchemes(const Creature &creature, const WriteBlob &)
{
    json out = json::array();
    for (const Scheme &s : creature.schemes) {
        json layers = json::array(), outgrowths = json::array();
        for (const Scheme::Layer &l : s.layers)
            layers.push_back({{"piece", l.piece}, {"layer", l.layer}, {"on", l.isOn}, {"opacity", l.opacity}});
        for (const Scheme::Outgrowth &o : s.outgrowths) {
            outgrowths.push_back({{"id", o.id}});
            if (o.colours)
                outgrowths.back()["colours"] = {row((*o.colours)[0]), row((*o.colours)[1])};
        }
        out.push_back({{"id", s.id},
                       {"name", s.name},
                       {"colours", writePalette(s.colours)},
                       {"layers", layers},
                       {"outgrowths", outgrowths},
                       {"used", s.id == creature.scheme}});
    }
    return out;
}

Status readSchemes(const json &m, const ReadBlob &, Creature &creature, std::vector<std::string> &)
{
    for (const json &j : m.value("schemes", json::array())) {
        Scheme s{j.at("id"), j.at("name"), readPalette(j.at("colours")), {}, {}};
        for (const json &l : j.at("layers"))
            s.layers.push_back({l.at("piece"), l.at("layer"), l.at("on"), shareIn(l, "opacity", 1)});
        for (const json &o : j.at("outgrowths")) {
            Scheme::Outgrowth &at = s.outgrowths.emplace_back();
            at.id = o.at("id");
            if (o.contains("colours"))
                at.colours = {colourFrom(o.at("colours").at(0)), colourFrom(o.at("colours").at(1))};
        }
        if (j.value("used", false))
            creature.scheme = s.id;
        creature.schemes.push_back(std::move(s));
    }
    return Done{};
}

} // namespace bonemoss::store::detail
