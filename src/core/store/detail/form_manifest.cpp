#include "store/detail/form_manifest.h"

namespace bonemoss::store::detail {

using nlohmann::json;

namespace {

json writeTurn(Quat q)
{
    return {q.x, q.y, q.z, q.w};
}
Quat readTurn(const json &j)
{
    return {j.at(0), j.at(1), j.at(2), j.at(3)};
}

json writeRepeat(const armature::Repeat &r)
{
    if (r == armature::Repeat{})
        return nullptr;
    json changes = json::array();
    for (const auto &c : r.changes)
        changes.push_back({{"index", c.index},
                           {"move", row(c.translation)},
                           {"turn", writeTurn(c.rotation)},
                           {"scale", c.scale},
                           {"hidden", c.isHidden}});
    return {{"mode", armature::kRepeatNames[std::size_t(r.mode)]},
            {"count", r.count},
            {"centre", row(r.centre)},
            {"axis", row(r.axis)},
            {"spread", r.spread},
            {"guide", r.guide},
            {"from", r.from},
            {"to", r.to},
            {"sizes", r.sizes},
            {"changes", changes}};
}

armature::Repeat readRepeat(const json &j)
{
    armature::Repeat r;
    for (std::size_t i = 0; i < armature::kRepeatNames.size(); ++i)
        if (j.at("mode") == armature::kRepeatNames[i])
            r.mode = armature::RepeatMode(i);
    r.count = j.at("count"), r.centre = vec(j.at("centre")), r.axis = vec(j.at("axis")), r.spread = j.at("spread");
    r.guide = j.at("guide"), r.from = j.at("from"), r.to = j.at("to");
    r.sizes = j.at("sizes").get<std::vector<float>>();
    for (const json &c : j.at("changes"))
        r.changes.push_back({c.at("index"), vec(c.at("move")), readTurn(c.at("turn")), c.at("scale"), c.at("hidden")});
    return r;
}

} // namespace

json writeForm(const armature::Form &f)
{
    json path = json::array();
    for (const auto &p : f.path)
        path.push_back({p.at.x, p.at.y, p.at.z, p.radius, p.squash, p.square, p.rotation});
    json sides = json::array();
    for (const auto &curve : f.sides) {
        sides.push_back(json::array());
        for (const Vec3f p : curve)
            sides.back().push_back(row(p));
    }
    return {
        {"id", f.id},
        {"parent", f.parent},
        {"name", f.name},
        {"kind", nameOf(f.kind)},
        {"role", nameOf(f.role)},
        {"move", row(f.place.translation)},
        {"turn", {f.place.rotation.x, f.place.rotation.y, f.place.rotation.z, f.place.rotation.w}},
        {"scale", row(f.place.scale)},
        {"radii", row(f.radii)},
        {"rounding", f.rounding},
        {"bore", f.bore},
        {"square", f.square},
        {"path", path},
        {"sides", sides},
        {"melt", f.melt},
        {"mirror", f.isMirrored},
        {"locked", f.isLocked},
        {"hidden", f.isHidden},
        {"knitted", f.isKnitted},
        {"link", f.link},
        {"colour", f.colour},
        {"repeat", writeRepeat(f.repeat)},
        {"joint", f.joint == armature::Joint{} ? json(nullptr) : json{row(f.joint.rest), row(f.joint.low), row(f.joint.high)}}};
}

armature::Form readForm(const json &j)
{
    armature::Form f;
    f.id = j.at("id"), f.parent = j.at("parent"), f.name = j.at("name");
    f.kind = armature::kindNamed(j.at("kind").get<std::string>()).value();
    f.role = armature::roleNamed(j.at("role").get<std::string>()).value();
    f.place.translation = vec(j.at("move")), f.place.scale = vec(j.at("scale")), f.radii = vec(j.at("radii"));
    const json &t = j.at("turn");
    f.place.rotation = {t.at(0), t.at(1), t.at(2), t.at(3)};
    f.rounding = j.at("rounding"), f.melt = j.at("melt");
    for (const json &p : j.at("path"))
        if (p.size() > 4) // files of the first version have four numbers
            f.path.push_back({vec(p), p.at(3), p.at(4), p.at(5), p.at(6)});
        else
            f.path.push_back({vec(p), p.at(3).get<float>()});
    f.isKnitted = j.value("knitted", false);
    f.link = j.value("link", 0u), f.colour = j.value("colour", 0u);
    if (const auto repeat = j.find("repeat"); repeat != j.end() && !repeat->is_null())
        f.repeat = readRepeat(*repeat);
    if (const auto joint = j.find("joint"); joint != j.end() && !joint->is_null())
        f.joint = {vec(joint->at(0)), vec(joint->at(1)), vec(joint->at(2))};
    f.bore = j.value("bore", 0.0f), f.square = j.value("square", 0.0f);
    if (j.contains("sides"))
        for (std::size_t k = 0; k < f.sides.size(); ++k)
            for (const json &p : j.at("sides").at(k))
                f.sides[k].push_back(vec(p));
    f.isMirrored = j.at("mirror"), f.isLocked = j.at("locked"), f.isHidden = j.at("hidden");
    return f;
}

void writeItem(const Item &item, json &record)
{
    record["id"] = item.id, record["name"] = item.name, record["hidden"] = item.isHidden, record["locked"] = item.isLocked;
    if (item.parent)
        record["parent"] = item.parent;
    if (item.colour)
        record["colour"] = item.colour;
}

void readItem(const json &record, Item &item)
{
    item.id = record.at("id"), item.name = record.at("name");
    item.isHidden = record.at("hidden"), item.isLocked = record.at("locked");
    item.parent = record.value("parent", 0u), item.colour = record.value("colour", 0u);
}

} // namespace bonemoss::store::detail
