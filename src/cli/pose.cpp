// Poses of a creature: what there is, bringing it into one, and checks.
#include "cli/commands.h"
#include "armature/balance.h"
#include "base/files.h"
#include "command/command.h"
#include "document/ops/controls.h"
#include "export/shown_scene.h"
#include "mesh/measures.h"
#include "store/store.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>

namespace bonemoss::cli {

using nlohmann::json;

namespace {

json row(Vec3f v)
{
    return {v.x, v.y, v.z};
}

int list(const document::Creature &creature, bool asJson)
{
    const pose::Skeleton skeleton = skeletonOf(creature);
    json bones = json::array(), poses = json::array();
    for (const pose::Bone &b : skeleton.bones)
        bones.push_back({{"name", b.name},
                         {"parent", b.parent == kNone ? json() : json(skeleton.bones[b.parent].name)},
                         {"length", b.length()},
                         {"head", row(b.head)},
                         {"tail", row(b.tail)},
                         {"low", row(b.low)},
                         {"high", row(b.high)},
                         {"angles", row(pose::anglesOf(creature.posing.now.turnOf(b.key)))}});
    for (const pose::Pose &p : creature.posing.poses)
        poses.push_back({{"id", p.id}, {"name", p.name}, {"bones", p.posture.turns.size()}, {"isOfSome", !p.bones.empty()}});
    json controls = json::array();
    for (const document::Control &c : controlsOf(creature, skeleton))
        controls.push_back({{"name", c.name}, {"low", c.low}, {"high", c.high}, {"value", valueOf(creature, skeleton, c)}});
    if (asJson) {
        fmt::print(
            "{}\n",
            json{{"bones", bones}, {"poses", poses}, {"controls", controls}, {"rest", creature.posing.now.isRest()}}.dump(2));
        return kDone;
    }
    for (const pose::Bone &b : skeleton.bones)
        fmt::print("{:28} {:8.1f} mm  {}\n", b.name, b.length(), b.parent == kNone ? "" : skeleton.bones[b.parent].name);
    for (const pose::Pose &p : creature.posing.poses)
        fmt::print("pose {}\n", p.name);
    for (const json &c : controls)
        fmt::print("control {} ({:g} to {:g}): {:g}\n", c["name"].get<std::string>(), c["low"].get<double>(),
                   c["high"].get<double>(), c["value"].get<double>());
    return kDone;
}

int check(const document::Creature &creature, bool asJson)
{
    const document::PoseCheck found = checkPose(creature);
    const mesh::PolyMesh body = io::joined(exporting::skinScene(posed(creature)));
    if (body.isEmpty())
        return fail({ErrorCode::Empty, "creature", "has no skin to be checked"}, kFailed);
    const armature::Balance stands =
        armature::balanceOf(body.positions, mesh::massOf(body).centre, 0.005f * creature.bounds().diagonal());
    if (asJson) {
        fmt::print("{}\n", json{{"weightError", found.weightError},
                                {"unmoved", found.unmoved},
                                {"stretch", found.stretch},
                                {"beyondLimits", found.beyond},
                                {"lostCorrections", found.lost},
                                {"stands", stands.stands()},
                                {"margin", stands.margin},
                                {"weightPoint", row(stands.weightPoint)}}
                               .dump(2));
        return kDone;
    }
    fmt::print(
        "largest error of a sum of weights {:.4f}\n{} vertices that no bone moves\nlargest stretch {:.2f}\n{} by {:.1f} mm\n",
        found.weightError, found.unmoved, found.stretch, stands.stands() ? "stands" : "falls", stands.margin);
    for (const std::string &bone : found.beyond)
        fmt::print("{} is turned beyond its limits\n", bone);
    for (const std::string &layer : found.lost)
        fmt::print("layer \"{}\" corrects a pose of a bone that is gone\n", layer);
    return kDone;
}

/// "BONE=x,y,z".
Result<json> commandOfText(const char *name, const char *numbers, const std::string &text)
{
    const std::size_t at = text.rfind('=');
    Vec3f v;
    if (at == std::string::npos || std::sscanf(text.c_str() + at + 1, "%f,%f,%f", &v.x, &v.y, &v.z) != 3)
        return Error{ErrorCode::BadValue, text, "must be BONE=x,y,z"};
    return json{{"do", name}, {"bone", text.substr(0, at)}, {numbers, row(v)}};
}

} // namespace

int pose(const PoseOptions &o)
{
    auto loaded = store::loadStore(o.in);
    if (!loaded)
        return fail(loaded.error(), kUnreadable);
    document::Creature creature = std::move(loaded->creature);
    command::CommandContext context;
    std::vector<json> commands;
    if (!o.to.empty())
        commands.push_back({{"do", "pose.use"}, {"pose", o.to}});
    for (const std::string &bone : o.pins)
        commands.push_back({{"do", "pose.pin"}, {"bone", bone}});
    for (const auto &[texts, name, numbers] :
         {std::tuple{&o.turns, "pose.turn", "angles"}, std::tuple{&o.reaches, "pose.reach", "at"}})
        for (const std::string &text : *texts) {
            auto command = commandOfText(name, numbers, text);
            if (!command)
                return fail(command.error(), kUsage);
            commands.push_back(std::move(*command));
        }
    for (const std::string &text : o.controls) {
        const std::size_t at = text.rfind('=');
        float value = 0;
        if (at == std::string::npos || std::sscanf(text.c_str() + at + 1, "%f", &value) != 1)
            return fail({ErrorCode::BadValue, text, "must be NAME=VALUE"}, kUsage);
        commands.push_back({{"do", "pose.control"}, {"control", text.substr(0, at)}, {"value", value}});
    }
    if (o.freezes)
        commands.push_back({{"do", "pose.apply"}});
    for (const json &c : commands) {
        auto next = command::apply(creature, c, context);
        if (!next)
            return fail(next.error(), kFailed);
        creature = std::move(*next);
    }
    for (const Note &note : context.notes)
        fmt::print(stderr, "bonemoss-cli: {}\n", command::told(note));
    if (o.lists)
        return list(creature, o.json);
    if (o.checks)
        return check(creature, o.json);
    if (o.out.empty())
        return fail({ErrorCode::BadValue, "--out", "say where the creature goes, or --list, or --check"}, kUsage);
    if (isCreature(o.out)) {
        const auto saved = store::saveAs(o.out, creature);
        return saved ? kDone : fail(saved.error(), kFailed);
    }
    return writeOut(o.out, exporting::sceneForFile(creature, o.out.extension() == ".glb"));
}

} // namespace bonemoss::cli
