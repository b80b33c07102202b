#include "portrait/passes.h"

#include "base/colour.h"
#include "base/random.h"
#include "portrait/picture_look.h"

#include <algorithm>
#include <cstdio>
#include <fmt/format.h>

namespace bonemoss::portrait {

namespace {

float per(const Gathered &g, std::size_t i)
{
    return 1 / float(std::max(g.count[i], 1u));
}
void put(Vec3f v, float *to)
{
    to[0] = v.x, to[1] = v.y, to[2] = v.z;
}

std::string channelName(std::string light)
{
    for (char &c : light) // a point parts layers from channels
        if (c == '.' || c == '\n' || c == '=')
            c = '_';
    return "light." + light;
}

} // namespace

std::span<const PassKind> passKinds()
{
    static const std::vector<PassKind> kinds{
        {"lights", "Each light", {"R", "G", "B"}},
        {"albedo",
         "Colour without light",
         {"albedo.R", "albedo.G", "albedo.B"},
         [](const Gathered &g, std::size_t i, float *to) { put(g.albedo[i] * per(g, i), to); }},
        {"normal",
         "Normal",
         {"normal.X", "normal.Y", "normal.Z"},
         [](const Gathered &g, std::size_t i, float *to) { put(g.normal[i] * per(g, i), to); }},
        {"depth",
         "Depth, mm",
         {"depth.Z"},
         [](const Gathered &g, std::size_t i, float *to) { *to = g.cover[i] > 0 ? g.depth[i] / g.cover[i] : 0; }},
        {"occlusion",
         "Occlusion",
         {"occlusion.Y"},
         [](const Gathered &g, std::size_t i, float *to) { *to = g.cover[i] > 0 ? g.open[i] / g.cover[i] : 1; }},
        {"facing",
         "Facing",
         {"facing.Y"},
         [](const Gathered &g, std::size_t i, float *to) { *to = g.cover[i] > 0 ? g.facing[i] / g.cover[i] : 0; }},
        {"object",
         "Piece and outgrowth",
         {"object.id"},
         [](const Gathered &g, std::size_t i, float *to) { *to = g.object[i] == kNone ? 0 : float(g.object[i] + 1); }},
        {"samples", "Samples", {"samples.Z"}, [](const Gathered &g, std::size_t i, float *to) { *to = float(g.count[i]); }},
    };
    return kinds;
}

Result<image::ChannelPicture> toChannels(const Gathered &g, std::span<const std::string> passes, std::span<const Vec3f> beauty)
{
    image::ChannelPicture out{g.width, g.height, {"R", "G", "B", "A"}, {}, {{"software", "Bone Moss"}, {"unit", "mm"}}};
    std::vector<const PassKind *> chosen;
    bool hasLights = false;
    std::string known;
    for (const PassKind &k : passKinds()) {
        known += (known.empty() ? "" : ", ") + std::string(k.id);
        const bool isAsked = std::any_of(passes.begin(), passes.end(), [&](const auto &p) { return p == k.id || p == "all"; });
        if (isAsked && k.values)
            chosen.push_back(&k), out.names.insert(out.names.end(), k.channels.begin(), k.channels.end());
        hasLights = hasLights || (isAsked && !k.values);
    }
    for (const std::string &p : passes)
        if (p != "all" && std::none_of(passKinds().begin(), passKinds().end(), [&](const PassKind &k) { return k.id == p; }))
            return Error{ErrorCode::Unknown, "passes", fmt::format("there is no pass \"{}\"; there are {} and all", p, known)};
    if (hasLights)
        for (const std::string &l : g.lights)
            for (const char *c : {".R", ".G", ".B"})
                out.names.push_back(channelName(l) + c);
    const LinearPicture picture = mixed(g);
    out.values.resize(g.size() * out.names.size());
    for (std::size_t i = 0; i < g.size(); ++i) {
        float *to = out.values.data() + i * out.names.size();
        put(beauty.empty() ? picture.light[i] : beauty[i], to);
        to[3] = picture.cover[i];
        to += 4;
        for (const PassKind *k : chosen) {
            k->values(g, i, to);
            to += k->channels.size();
        }
        if (hasLights)
            for (const auto &l : g.light) {
                put(l[i] * per(g, i), to);
                to += 3;
            }
    }
    return out;
}

Result<Gathered> lightsFrom(const image::ChannelPicture &p)
{
    std::vector<std::string> names;
    for (const std::string &n : p.names)
        if (n.starts_with("light.") && n.ends_with(".R"))
            names.push_back(n.substr(6, n.size() - 8));
    if (names.empty())
        return Error{ErrorCode::Empty, "picture", "keeps no lights by themselves; render it with --passes lights"};
    Gathered out(p.width, p.height, {0, 0, p.width, p.height}, names);
    std::fill(out.count.begin(), out.count.end(), 1u);
    const std::size_t wide = p.names.size(), alpha = p.channel("A");
    for (std::size_t k = 0; k < names.size(); ++k) {
        const std::array<std::size_t, 3> c{p.channel("light." + names[k] + ".R"), p.channel("light." + names[k] + ".G"),
                                           p.channel("light." + names[k] + ".B")};
        if (std::max({c[0], c[1], c[2]}) >= wide)
            return Error{ErrorCode::Damaged, "light " + names[k], "lacks a channel"};
        for (std::size_t i = 0; i < out.size(); ++i)
            out.light[k][i] = {p.values[i * wide + c[0]], p.values[i * wide + c[1]], p.values[i * wide + c[2]]};
    }
    for (std::size_t i = 0; i < out.size(); ++i)
        out.cover[i] = alpha < wide ? p.values[i * wide + alpha] : 1;
    return out;
}

image::ColourPicture shownPass(const image::ChannelPicture &p, const PassKind &pass)
{
    const std::size_t size = std::size_t(p.width) * std::size_t(p.height), wide = p.names.size(), n = pass.channels.size(),
                      alpha = p.channel("A");
    image::ColourPicture out{p.width, p.height, std::vector<std::uint8_t>(size * 4, 255)};
    std::array<std::size_t, 3> from{};
    for (std::size_t k = 0; k < std::min<std::size_t>(n, 3); ++k)
        if (from[k] = p.channel(pass.channels[k]); from[k] >= wide)
            return out;
    const auto value = [&](std::size_t i, std::size_t k) { return p.values[i * wide + from[k]]; };
    const auto isSeen = [&](std::size_t i) { return alpha >= wide || p.values[i * wide + alpha] > 0; };
    float least = 1e30f, most = -1e30f;
    if (n == 1)
        for (std::size_t i = 0; i < size; ++i)
            if (isSeen(i))
                least = std::min(least, value(i, 0)), most = std::max(most, value(i, 0));
    const bool isRange = pass.id == "depth" || pass.id == "samples";
    for (std::size_t i = 0; i < size; ++i) {
        const float first = value(i, 0);
        Vec3f c{first, n > 1 ? value(i, 1) : 0, n > 2 ? value(i, 2) : 0};
        bool isLight = true; // on the sRGB curve afterwards
        if (pass.id == "normal") {
            c = c * 0.5f + Vec3f{0.5f, 0.5f, 0.5f}, isLight = false;
        } else if (pass.id == "object") {
            const auto number = std::uint64_t(first);
            c = number ? Vec3f{randomUnit(5, number), randomUnit(6, number), randomUnit(7, number)} : Vec3f{};
            isLight = false;
        } else if (n == 1) {
            const float t = !isRange ? first : isSeen(i) && most > least ? 1 - (first - least) / (most - least) : 0;
            c = Vec3f{1, 1, 1} * t, isLight = false;
        }
        const std::array<float, 3> rgb{c.x, c.y, c.z};
        for (std::size_t k = 0; k < 3; ++k)
            out.rgba[i * 4 + k] = isLight ? srgbByte(rgb[k]) : std::uint8_t(std::clamp(rgb[k], 0.0f, 1.0f) * 255 + 0.5f);
    }
    return out;
}

LinearPicture beautyOf(const image::ChannelPicture &p, const std::string &before)
{
    const std::size_t size = std::size_t(p.width) * std::size_t(p.height), wide = p.names.size(), alpha = p.channel("A");
    const std::array<std::size_t, 3> from{p.channel(before + "R"), p.channel(before + "G"), p.channel(before + "B")};
    LinearPicture out{p.width, p.height, std::vector<Vec3f>(size), {}};
    for (const auto &[name, text] : p.about)
        if (int own[2]{}; name == "tile")
            std::sscanf(text.c_str(), "%d %d %d %d %d", &out.left, &out.top, own, own + 1, &out.wholeWidth);
    if (std::max({from[0], from[1], from[2]}) >= wide)
        return out;
    for (std::size_t i = 0; i < size; ++i) {
        const float *v = p.values.data() + i * wide;
        out.light[i] = {v[from[0]], v[from[1]], v[from[2]]};
        if (alpha < wide)
            out.cover.push_back(v[alpha]);
    }
    return out;
}

Status writePicture(const std::filesystem::path &out, const image::ChannelPicture &picture, const Film &film, bool isClear)
{
    if (out.extension() == ".exr")
        return image::writeChannels(out, picture);
    const bool isDrawn = pictureLook(film.look).draw;
    if (const Status done = image::writePng(out, developed(beautyOf(picture), isDrawn ? inkFilm(film) : film, isClear)); !done)
        return done;
    const auto beside = [&](const std::string &name) {
        return out.parent_path() / fmt::format("{}-{}.png", out.stem().native(), name);
    };
    for (const PassKind &k : passKinds())
        if (k.values && picture.channel(k.channels.front()) < picture.names.size())
            if (const Status done = image::writePng(beside(std::string(k.id)), shownPass(picture, k)); !done)
                return done;
    for (const std::string &name : picture.names) // each light alone
        if (name.starts_with("light.") && name.ends_with(".R")) {
            const std::string light = name.substr(0, name.size() - 1);
            std::string file = "light-" + light.substr(6, light.size() - 7);
            std::replace(file.begin(), file.end(), '/', '_');
            LinearPicture alone = beautyOf(picture, light);
            alone.cover.clear();
            if (const Status done = image::writePng(beside(file), developed(alone, film)); !done)
                return done;
        }
    return Done{};
}

Result<LightMix> lightMixOf(const std::string &text)
{
    const std::size_t at = text.rfind('=');
    LightMix out;
    Vec3f c{255, 255, 255};
    char rest = 0;
    if (at == std::string::npos || at == 0)
        return Error{ErrorCode::BadValue, text, "must be NAME=STRENGTH or NAME=STRENGTH,RED,GREEN,BLUE"};
    const int n = std::sscanf(text.c_str() + at + 1, "%f,%f,%f,%f%c", &out.strength, &c.x, &c.y, &c.z, &rest);
    const bool isIn = std::isfinite(out.strength) && out.strength >= 0 && out.strength <= 1e4f && isFinite(c)
                      && std::min({c.x, c.y, c.z}) >= 0 && std::max({c.x, c.y, c.z}) <= 255;
    if ((n != 1 && n != 4) || !isIn)
        return Error{ErrorCode::BadValue, text, "must be NAME=STRENGTH or NAME=STRENGTH,RED,GREEN,BLUE, colours 0 to 255"};
    out.light = text.substr(0, at);
    out.colour = {fromSrgb(c.x / 255), fromSrgb(c.y / 255), fromSrgb(c.z / 255)};
    return out;
}

} // namespace bonemoss::portrait
