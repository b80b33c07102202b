#include "store/detail/growth_manifest.h"

#include "store/detail/form_manifest.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::store::detail {

using bonemoss::growth::Growth;
using bonemoss::growth::Guide;
using bonemoss::skin::Layer;
using nlohmann::json;

namespace {

json driveRecord(const skin::LayerDrive &d)
{
    json joints = json::array();
    for (const auto &j : d.joints)
        joints.push_back({{"bone", j.bone}, {"turn", {j.turn.x, j.turn.y, j.turn.z, j.turn.w}}});
    return {
        {"by", skin::kDriveNames[std::size_t(d.by)]}, {"none", d.none}, {"full", d.full}, {"curve", d.curve}, {"joints", joints}};
}

void readDrive(const json &record, Layer &layer, std::vector<std::string> &damage)
{
    const auto by = record.at("by").get<std::string>();
    const auto known = std::find(skin::kDriveNames.begin(), skin::kDriveNames.end(), by);
    skin::LayerDrive d;
    d.none = record.at("none"), d.full = record.at("full"), d.curve = record.at("curve");
    bool isWhole = known != skin::kDriveNames.end() && std::isfinite(d.none) && std::isfinite(d.full) && d.curve > 0;
    for (const json &j : record.at("joints")) {
        const json &q = j.at("turn");
        const Quat turn{q.at(0), q.at(1), q.at(2), q.at(3)};
        const float size = turn.x * turn.x + turn.y * turn.y + turn.z * turn.z + turn.w * turn.w;
        isWhole = isWhole && std::isfinite(size) && size > 1e-6f;
        d.joints.push_back({j.at("bone"), isWhole ? normalized(turn) : Quat()});
    }
    if (!isWhole) {
        damage.push_back(fmt::format("what drives the layer {} could not be read; it is shown always", layer.name));
        return;
    }
    d.by = skin::LayerDrive::By(known - skin::kDriveNames.begin());
    layer.drive = std::move(d);
}

} // namespace

void writeRule(const Layer &layer, json &record)
{
    if (layer.isLocked)
        record["locked"] = true;
    if (layer.isAside)
        record["aside"] = true;
    if (layer.handOver)
        record["handOver"] = layer.handOver;
    if (layer.drive.by != skin::LayerDrive::By::None)
        record["drive"] = driveRecord(layer.drive);
    if (layer.rigid > 0)
        record["rigid"] = layer.rigid;
    if (!layer.growth)
        return;
    const Growth &g = *layer.growth;
    json values = json::object(), edits = json::array();
    for (std::size_t k = 0; k < g.values.size(); ++k)
        values[std::string(g.kind->settings[k].name)] = g.values[k];
    for (const auto &e : g.edits)
        edits.push_back({{"at", row(e.at)}, {"turn", e.rotation}, {"size", e.size}, {"lift", e.lift}, {"missing", e.isMissing}});
    record["growth"] = {{"kind", g.kind->name}, {"seed", g.seed},   {"mirror", g.isMirrored}, {"stamp", g.stamp},
                        {"sizes", g.sizes},     {"values", values}, {"edits", edits},         {"ground", g.ground}};
}

void readRule(const json &record, Layer &layer, std::vector<std::string> &damage)
{
    layer.isLocked = record.value("locked", false), layer.isAside = record.value("aside", false);
    layer.handOver = record.value("handOver", 0u);
    if (const float rigid = record.value("rigid", 0.0f); std::isfinite(rigid))
        layer.rigid = std::clamp(rigid, 0.0f, 1.0f);
    if (record.contains("drive"))
        readDrive(record.at("drive"), layer, damage);
    if (!record.contains("growth"))
        return;
    const json &j = record.at("growth");
    const auto *kind = bonemoss::growth::growthNamed(j.at("kind").get<std::string>());
    if (!kind) {
        damage.push_back(fmt::format("{} was grown as \"{}\", which this program does not know; it is kept as a painted layer",
                                     layer.name, j.at("kind").get<std::string>()));
        return;
    }
    Growth g = growthOf(*kind);
    for (std::size_t k = 0; k < g.values.size(); ++k) {
        const auto &s = kind->settings[k];
        g.values[k] = std::clamp(j.at("values").value(std::string(s.name), g.values[k]), s.min, s.max);
    }
    g.stamp = j.value("stamp", g.stamp), g.sizes = j.value("sizes", g.sizes);
    g.seed = j.at("seed"), g.isMirrored = j.at("mirror"), g.ground = j.at("ground");
    for (const json &e : j.at("edits"))
        g.edits.push_back({vec(e.at("at")), e.at("turn"), e.at("size"), e.at("lift"), e.at("missing")});
    layer.growth = std::make_shared<const Growth>(std::move(g));
}

json writeStamps(const std::vector<Stamp> &stamps, const WriteBlob &write)
{
    json list = json::array();
    for (const Stamp &s : stamps)
        list.push_back({{"name", s.name},
                        {"heights", toHex(write(s.contentHash, [&] { return bytesOfStamp(*s.picture); }))},
                        {"width", s.picture->width},
                        {"height", s.picture->height},
                        {"middle", s.picture->middle},
                        {"depth", s.depth}});
    return list;
}

void readStamps(const json &manifest, const ReadBlob &read, std::vector<Stamp> &stamps, std::vector<std::string> &damage)
{
    for (const json &s : manifest.value("stamps", json::array())) {
        const auto bytes = read(nameIn(s.at("heights")));
        auto picture = bytes ? stampFromBytes(*bytes, s.at("width"), s.at("height"), s.at("middle")) : nullptr;
        if (picture)
            stamps.push_back({s.at("name"), std::move(picture), s.at("depth"), {}});
        else
            damage.push_back(fmt::format("stamp {} could not be read and is left out", s.at("name").get<std::string>()));
    }
}

json writeGuides(const std::vector<Guide> &guides)
{
    json list = json::array();
    for (const Guide &g : guides) {
        json points = json::array();
        for (const Vec3f p : g.points)
            points.push_back(row(p));
        list.push_back({{"points", points}, {"size", g.size}});
    }
    return list;
}

std::vector<Guide> readGuides(const json &list)
{
    std::vector<Guide> guides;
    for (const json &j : list) {
        Guide g;
        for (const json &p : j.at("points"))
            g.points.push_back(vec(p));
        g.size = j.at("size");
        if (g.points.size() >= 2)
            guides.push_back(std::move(g));
    }
    return guides;
}

} // namespace bonemoss::store::detail
