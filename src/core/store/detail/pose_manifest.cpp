#include "store/detail/pose_manifest.h"

#include "store/detail/form_manifest.h"

#include <nlohmann/json.hpp>

#include <cmath>

namespace bonemoss::store::detail {

using nlohmann::json;

namespace {

json turnOf(Quat q)
{
    return {q.x, q.y, q.z, q.w};
}

Quat turnFrom(const json &j)
{
    const Quat q{j.at(0).get<float>(), j.at(1).get<float>(), j.at(2).get<float>(), j.at(3).get<float>()};
    const float size = q.x * q.x + q.y * q.y + q.z * q.z + q.w * q.w;
    return std::isfinite(size) && size > 1e-6f ? normalized(q) : Quat();
}

json writePosture(const pose::Posture &p)
{
    json turns = json::object();
    for (const pose::Turn &t : p.turns)
        turns[textOf(t.bone)] = turnOf(t.turn);
    json outgrowths = json::array();
    for (const pose::OutgrowthPose &o : p.outgrowths) {
        outgrowths.push_back({{"id", o.outgrowth}, {"changes", o.changes}});
        if (o.look)
            outgrowths.back()["look"] = row(*o.look);
    }
    return {{"turns", turns}, {"turn", turnOf(p.whole.turn)}, {"move", row(p.whole.move)}, {"outgrowths", outgrowths}};
}

pose::Posture readPosture(const json &j)
{
    pose::Posture out;
    for (const auto &[key, turn] : j.at("turns").items())
        if (const pose::BoneKey bone = pose::boneKeyOf(key); bone.form)
            out.set(bone, turnFrom(turn));
    out.whole = {turnFrom(j.at("turn")), vec(j.at("move"))};
    if (!isFinite(out.whole.move))
        out.whole.move = {};
    for (const json &o : j.value("outgrowths", json::array())) {
        for (const auto &[setting, change] : o.at("changes").items())
            if (const float by = change; std::isfinite(by))
                out.setChange(o.at("id"), setting, by);
        if (o.contains("look"))
            if (const Vec3f at = vec(o.at("look")); isFinite(at))
                out.setLook(o.at("id"), at);
    }
    return out;
}

} // namespace

json writePosing(const Creature &creature, const WriteBlob &)
{
    const auto &p = creature.posing;
    json chains = json::array(), poses = json::array(), pins = json::array();
    for (const pose::Rigging::Chain &c : p.rigging.chains)
        chains.push_back({c.form, c.parts});
    for (const pose::Pose &pose : p.poses) {
        json bones = json::array();
        for (const pose::BoneKey &b : pose.bones)
            bones.push_back(textOf(b));
        poses.push_back({{"id", pose.id}, {"name", pose.name}, {"posture", writePosture(pose.posture)}, {"bones", bones}});
    }
    for (const auto &pin : p.pins)
        pins.push_back({{"bone", textOf(pin.bone)}, {"turn", turnOf(pin.place.turn)}, {"move", row(pin.place.move)}});
    return {{"leftOut", p.rigging.leftOut}, {"chains", chains}, {"now", writePosture(p.now)}, {"poses", poses}, {"pins", pins}};
}

Status readPosing(const json &m, const ReadBlob &, Creature &creature, std::vector<std::string> &damage)
try {
    const json all = m.value("posing", json());
    if (!all.is_object())
        return Done{};
    auto &p = creature.posing;
    p.rigging.leftOut = all.at("leftOut").get<std::vector<std::uint32_t>>();
    for (const json &c : all.at("chains"))
        p.rigging.chains.push_back({c.at(0), c.at(1)});
    p.now = readPosture(all.at("now"));
    for (const json &j : all.at("poses")) {
        pose::Pose known{j.at("id"), j.at("name"), readPosture(j.at("posture")), {}};
        for (const json &b : j.value("bones", json::array()))
            known.bones.push_back(pose::boneKeyOf(b.get<std::string>()));
        p.poses.push_back(std::move(known));
    }
    for (const json &j : all.at("pins"))
        if (const Vec3f move = vec(j.at("move")); isFinite(move))
            p.pins.push_back({pose::boneKeyOf(j.at("bone").get<std::string>()), {turnFrom(j.at("turn")), move}});
    return Done{};
} catch (const json::exception &) { // the shapes are whole without it
    creature.posing = {};
    damage.push_back("the poses could not be read and are left out");
    return Done{};
}

} // namespace bonemoss::store::detail
