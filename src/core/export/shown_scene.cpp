#include "export/shown_scene.h"

#include "base/parallel.h"
#include "document/ops/posing.h"
#include "outgrowth/outgrowth.h"
#include "skin/colour_layers.h"

#include <algorithm>

namespace bonemoss::exporting {

io::Scene skinScene(const Creature &creature)
{
    io::Scene scene;
    for (const auto &p : creature.pieces)
        if (isVisible(*p))
            p->show(scene);
    return scene;
}

namespace {

enum class Painted { No, Colour, ColourAndFinish };

io::Scene sceneOf(const Creature &creature, Shown what, Painted painted)
{
    std::vector<document::ItemPlace> seen;
    document::eachItem(creature, [&](const document::ItemKind &kind, std::size_t k, const Item &) {
        if (kind.isSeen(creature, k, what))
            seen.push_back({&kind, k});
    });
    std::vector<io::Scene> scenes(seen.size()); // made side by side
    forEachBlock(seen.size(), 1, [&](BlockRange r) {
        const document::ItemPlace &item = seen[r.begin];
        io::Scene &scene = scenes[r.begin];
        item.kind->show(creature, item.index, scene);
        const Item &own = item.kind->at(creature, item.index);
        const document::Piece *flesh = creature.piece(own.id);
        if (const auto *o = creature.outgrowth(own.id))
            flesh = creature.piece(o->parent);
        for (io::Object &object : scene.objects)
            object.item = own.id;
        if (flesh)
            for (io::Material &m : scene.materials)
                m.inside = flesh->inside;
        const document::Piece *piece = painted != Painted::No ? creature.piece(own.id) : nullptr;
        if (!piece || scene.shapes.empty())
            return;
        if (painted == Painted::ColourAndFinish)
            if (std::vector<float> finish = skin::seenFinish(piece->skin); !finish.empty())
                scene.shapes[0].attributes.push_back(
                    {std::string(io::kFinish), mesh::Domain::Vertex, kFinishes, std::move(finish)});
        if (piece->skin.paint.of(skin::Channel::Cover).isBlank())
            return;
        scene.shapes[0].attributes.push_back({std::string(io::kColour), mesh::Domain::Vertex, 3, skin::seenColours(piece->skin)});
        scene.materials[0].name = "painted", scene.materials[0].colour = Vec3f{1, 1, 1};
    });
    io::Scene all;
    for (io::Scene &s : scenes)
        all.append(std::move(s));
    return all;
}

} // namespace

io::Scene shownScene(const Creature &creature, Shown what)
{
    return sceneOf(creature, what, Painted::No);
}

io::Scene colouredScene(const Creature &creature)
{
    return sceneOf(creature, Shown::All, Painted::Colour);
}

namespace {

/// How bones stand in a posture, as a rig has it.
io::Rig::Stand standOf(const pose::Skeleton &skeleton, const pose::Posture &posture, const std::string &name)
{
    io::Rig::Stand out{name, {}, {}};
    const std::vector<pose::Rigid> places = placesOf(skeleton, posture);
    for (std::size_t b = 0; b < places.size(); ++b) {
        const pose::Bone &bone = skeleton.bones[b];
        out.heads.push_back(places[b].apply(bone.head));
        out.turns.push_back(bone.parent == kNone ? places[b].turn
                                                 : normalized(places[bone.parent].turn.conjugate() * places[b].turn));
    }
    return out;
}

/// Joints and weights of the points of a skin, as its shape numbers them.
void bindShape(const skin::Skin &skin, const pose::Skeleton &skeleton, io::Shape &shape)
{
    io::Attribute joints{std::string(io::kJoints), mesh::Domain::Vertex, 4, {}},
        weights{std::string(io::kWeights), mesh::Domain::Vertex, 4, {}};
    std::vector<std::pair<std::uint32_t, const skin::Bytes *>> bones;
    for (const skin::KeptMask &m : skin.boneWeights)
        if (const std::uint32_t b = skeleton.find(pose::boneKeyOf(m.name)); b != kNone)
            bones.emplace_back(b, &m.values);
    std::vector<float> shares(bones.size());
    std::vector<std::uint8_t> bytes(bones.size());
    for (std::size_t b = 0; b < skin.body.blockCount(); ++b) {
        const std::vector<std::uint16_t> unused = skin.shown.topology->block(b).unused();
        std::size_t next = 0;
        for (std::size_t i = 0; i < skin.body.countIn(b); ++i) {
            if (next < unused.size() && unused[next] == i) {
                ++next;
                continue;
            }
            for (std::size_t k = 0; k < bones.size(); ++k) {
                const std::uint8_t *v = bones[k].second->data(b);
                shares[k] = v ? float(v[i]) : 0;
            }
            pose::roundWeights(shares, bytes); // what was carried over may not add up any more
            std::size_t n = 0;
            for (std::size_t k = 0; k < bones.size(); ++k)
                if (bytes[k] > 0)
                    joints.values.push_back(float(bones[k].first)), weights.values.push_back(float(bytes[k])), ++n;
            if (n == 0)
                joints.values.push_back(0), weights.values.push_back(255), ++n;
            for (; n < 4; ++n)
                joints.values.push_back(0), weights.values.push_back(0);
        }
    }
    shape.attributes.push_back(std::move(joints)), shape.attributes.push_back(std::move(weights));
}

/// The bone that moves a vertex most.
std::uint32_t mainBone(const skin::Skin &skin, const pose::Skeleton &skeleton, std::uint32_t vertex)
{
    std::uint32_t best = 0;
    int most = 0;
    for (const skin::KeptMask &m : skin.boneWeights)
        if (vertex < m.values.size() && int(m.values[vertex]) > most)
            if (const std::uint32_t b = skeleton.find(pose::boneKeyOf(m.name)); b != kNone)
                most = m.values[vertex], best = b;
    return best;
}

} // namespace

io::Scene sceneForFile(const Creature &creature, bool takesRig)
{
    const bool isBound =
        std::any_of(creature.pieces.begin(), creature.pieces.end(), [](const auto &p) { return !p->skin.boneWeights.empty(); });
    const pose::Skeleton skeleton = skeletonOf(creature);
    if (!takesRig || !isBound || skeleton.bones.empty())
        return colouredScene(document::posed(creature));
    auto rig = std::make_shared<io::Rig>();
    for (const pose::Bone &b : skeleton.bones)
        rig->joints.push_back({b.name, b.parent, b.head});
    rig->now = standOf(skeleton, creature.posing.now, {});
    rig->stands.push_back(standOf(skeleton, {}, "rest"));
    for (const pose::Pose &p : creature.posing.poses)
        rig->stands.push_back(standOf(skeleton, p.posture, p.name));
    io::Scene all;
    document::eachItem(creature, [&](const document::ItemKind &kind, std::size_t k, const Item &item) {
        if (!kind.isSeen(creature, k, Shown::All))
            return;
        io::Scene scene;
        kind.show(creature, k, scene);
        if (const document::Piece *piece = creature.piece(item.id); piece && !scene.shapes.empty()) {
            if (!piece->skin.paint.of(skin::Channel::Cover).isBlank()) {
                scene.shapes[0].attributes.push_back(
                    {std::string(io::kColour), mesh::Domain::Vertex, 3, skin::seenColours(piece->skin)});
                scene.materials[0] = {"painted", Vec3f{1, 1, 1}};
            }
            bindShape(piece->skin, skeleton, scene.shapes[0]);
        } else if (const auto *o = creature.outgrowth(item.id)) {
            const document::Piece *under = creature.piece(o->parent);
            std::vector<io::Object *> of(o->made->shapes.size());
            for (io::Object &object : scene.objects)
                of[object.shape] = &object;
            for (const outgrowth::Member &m : o->made->members)
                of[m.shape]->joints.push_back(under ? mainBone(under->skin, skeleton, m.vertex) : 0);
        } else if (creature.armature.find(item.id)) {
            for (io::Object &object : scene.objects)
                for (const io::Placement &place : object.places)
                    object.joints.push_back(
                        skeleton.carrierOf(creature.armature, item.id, place.isMirroring(),
                                           creature.armature.worldPlace(*creature.armature.find(item.id)).translation));
        }
        all.append(std::move(scene));
    });
    all.rig = std::move(rig);
    return all;
}

io::Scene printScene(const Creature &creature)
{
    io::Scene scene = shownScene(document::posed(creature));
    scene.leaveOut(creature.stage.ground.standsOn());
    return scene;
}

io::Scene pictureScene(const Creature &creature)
{
    return sceneOf(creature, Shown::All, Painted::ColourAndFinish);
}

} // namespace bonemoss::exporting
