#include "document/ops/posing.h"

#include "base/parallel.h"
#include "mesh/nearest_faces.h"
#include "outgrowth/outgrowth.h"
#include "pose/blend.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace bonemoss::document {

using armature::Form;
using pose::Blend;
using pose::Rigid;
using pose::Skeleton;

namespace {

/// The one bone that a piece goes with as a whole; none for a skin that bends.
std::optional<std::uint32_t> carrierOf(const Creature &creature, const Skeleton &skeleton, const Piece &piece)
{
    const Box3f box = piece.skin.shown.box();
    if (creature.armature.find(piece.parent))
        return skeleton.carrierOf(creature.armature, piece.parent, box.centre().x < 0, box.centre());
    std::size_t inside = 0;
    std::uint32_t nearest = 0;
    float least = std::numeric_limits<float>::max();
    for (std::uint32_t b = 0; b < skeleton.bones.size(); ++b) {
        const Vec3f middle = (skeleton.bones[b].head + skeleton.bones[b].tail) * 0.5f;
        inside += squaredDistance(box, middle) == 0;
        for (const pose::Flesh &f : skeleton.bones[b].flesh) {
            const Vec3f along = f.b - f.a;
            const float t = std::clamp(dot(box.centre() - f.a, along) / std::max(squaredLength(along), 1e-9f), 0.0f, 1.0f);
            if (const float far = length(f.a + along * t - box.centre()) - f.radius; far < least)
                least = far, nearest = b;
        }
    }
    if (inside >= 2 || skeleton.bones.size() == 1)
        return {};
    return nearest;
}

} // namespace

Status bind(Creature &creature, std::uint32_t only, Operation &operation)
{
    const Skeleton skeleton = skeletonOf(creature);
    if (skeleton.bones.empty())
        return Error{ErrorCode::Empty, "armature", "there are no bones: the creature has no forms to turn"};
    const auto fits = [&](const Piece &p) { // bones that are gone would leave their skin behind
        return std::all_of(p.skin.boneWeights.begin(), p.skin.boneWeights.end(),
                           [&](const skin::KeptMask &m) { return skeleton.find(pose::boneKeyOf(m.name)) != kNone; });
    };
    for (auto &p : creature.pieces) {
        if (only ? p->id != only : p->skin.isEmpty() || (!p->skin.boneWeights.empty() && fits(*p)))
            continue;
        auto next = std::make_shared<Piece>(*p);
        if (const auto bone = carrierOf(creature, skeleton, *p)) {
            setWeights(next->skin, pose::rigidWeights(p->skin.body.size(), skeleton.bones[*bone].key));
        } else {
            pose::Weights weights = pose::heatWeights(p->skin.shown, skeleton, {}, operation.progress);
            if (weights.empty())
                return Error{ErrorCode::Cancelled, p->name, "no weights were made"};
            setWeights(next->skin, std::move(weights));
        }
        p = std::move(next);
    }
    return Done{};
}

void keepPins(Posing &posing, const Skeleton &skeleton)
{
    constexpr int kRounds = 3; // what holds one pin may move another
    for (int round = 0; round < kRounds; ++round) {
        float most = 0;
        for (const Pin &pin : posing.pins) {
            const std::uint32_t b = skeleton.find(pin.bone);
            if (b == kNone || placesOf(skeleton, posing.now)[b] == pin.place)
                continue;
            const pose::Bone &bone = skeleton.bones[b];
            if (bone.parent == kNone) { // the whole of it is held
                posing.now.whole = pin.place;
                continue;
            }
            const std::vector<std::uint32_t> limb = limbOf(skeleton, bone.parent);
            most = std::max(most, reach(skeleton, posing.now, limb, bone.head, pin.place.apply(bone.head)));
            const Quat above = placesOf(skeleton, posing.now)[bone.parent].turn;
            posing.now.set(bone.key, bone.frame.conjugate() * (above.conjugate() * pin.place.turn) * bone.frame);
        }
        if (most < 0.02f)
            break;
    }
}

float reachTo(Posing &posing, const Skeleton &skeleton, std::uint32_t bone, std::optional<Vec3f> from, Vec3f to, bool keepsLimits)
{
    std::vector<std::uint32_t> pinned;
    for (const Pin &p : posing.pins)
        if (const std::uint32_t b = skeleton.find(p.bone); b != kNone && b != bone)
            pinned.push_back(b);
    std::erase_if(posing.pins, [&](const Pin &p) { return p.bone == skeleton.bones[bone].key; }); // the hand goes before a pin
    const std::vector<std::uint32_t> chain = limbOf(skeleton, bone, pinned);
    pose::Reach how;
    how.keepsLimits = keepsLimits;
    if (skeleton.bones[bone].parent == kNone) { // the body goes, and what is pinned stays
        const Vec3f now = placesOf(skeleton, posing.now)[bone].apply(from.value_or(skeleton.bones[bone].head));
        posing.now.whole.move += to - now;
        keepPins(posing, skeleton);
        return 0;
    }
    const float off = reach(skeleton, posing.now, chain, from.value_or(skeleton.bones[bone].tail), to, how);
    keepPins(posing, skeleton);
    return off;
}

std::vector<std::string> settle(Creature &creature)
{
    const auto lowest = [](const Creature &c) {
        float low = std::numeric_limits<float>::max();
        for (const auto &p : c.pieces)
            if (!p->isHidden && !p->skin.isEmpty())
                low = std::min(low, p->skin.shown.box().lo.y);
        return low;
    };
    const Creature now = posed(creature);
    const float low = lowest(now), floor = lowest(creature);
    const float near = 0.006f * creature.bounds().diagonal();
    creature.posing.now.whole.move.y += floor - low;
    for (Pin &pin : creature.posing.pins)
        pin.place.move.y += floor - low;
    const Skeleton skeleton = skeletonOf(creature);
    std::vector<bool> bears(skeleton.bones.size(), false);
    for (std::size_t k = 0; k < now.pieces.size(); ++k) {
        const mesh::Surface &shown = now.pieces[k]->skin.shown;
        const auto &weights = creature.pieces[k]->skin.boneWeights;
        for (std::size_t b = 0; b < shown.positions.blockCount() && !now.pieces[k]->isHidden; ++b) {
            if (shown.bounds[b]->box.lo.y > low + near)
                continue;
            for (std::size_t i = 0; i < shown.positions.countIn(b); ++i) {
                if (shown.positions.data(b)[i].y > low + near)
                    continue;
                int most = 0;
                std::uint32_t best = kNone;
                for (const skin::KeptMask &m : weights)
                    if (const std::uint8_t *w = m.values.data(b); w && int(w[i]) > most)
                        most = w[i], best = skeleton.find(pose::boneKeyOf(m.name));
                if (best != kNone)
                    bears[best] = true;
            }
        }
    }
    std::vector<std::string> out;
    for (std::size_t b = 0; b < bears.size(); ++b)
        if (bears[b])
            out.push_back(skeleton.bones[b].name);
    return out;
}

std::vector<std::string> lostCorrections(const Creature &creature)
{
    std::vector<std::string> out;
    std::optional<Skeleton> skeleton; // found only where a layer asks for it
    for (const auto &piece : creature.pieces)
        for (const skin::Layer &l : piece->skin.layers) {
            if (l.drive.by != skin::LayerDrive::By::Pose)
                continue;
            if (!skeleton)
                skeleton = skeletonOf(creature);
            if (std::any_of(l.drive.joints.begin(), l.drive.joints.end(),
                            [&](const auto &j) { return skeleton->find(pose::boneKeyOf(j.bone)) == kNone; }))
                out.push_back(l.name);
        }
    return out;
}

PoseCheck checkPose(const Creature &creature)
{
    PoseCheck out;
    out.lost = lostCorrections(creature);
    const Skeleton skeleton = skeletonOf(creature);
    for (const pose::Turn &t : creature.posing.now.turns)
        if (const std::uint32_t b = skeleton.find(t.bone); b != kNone && beyondLimits(skeleton.bones[b], t.turn) > 0.05f)
            out.beyond.push_back(skeleton.bones[b].name);
    const Creature now = posed(creature);
    for (std::size_t k = 0; k < creature.pieces.size(); ++k) {
        const skin::Skin &rest = creature.pieces[k]->skin;
        if (rest.isEmpty())
            continue;
        std::vector<int> sums(rest.body.size(), 0);
        for (const skin::KeptMask &m : rest.boneWeights)
            for (std::size_t v = 0; v < sums.size(); ++v)
                sums[v] += m.values[v];
        for (const int s : sums) {
            out.unmoved += s == 0;
            if (s != 0)
                out.weightError = std::max(out.weightError, std::abs(double(s) / 255 - 1));
        }
        const mesh::PolyMesh was = toPolyMesh(rest.shown), is = toPolyMesh(now.pieces[k]->skin.shown);
        const std::vector<Vec3f> &a = was.positions, &b = is.positions;
        const float least = 0.5f * meanEdgeLength(rest.shown);
        for (const mesh::Face &f : was.faces)
            for (int c = 0; c < f.size(); ++c) {
                const std::uint32_t u = f.v[std::size_t(c)], v = f.v[std::size_t((c + 1) % f.size())];
                if (const float before = length(a[u] - a[v]); before > least)
                    out.stretch = std::max(out.stretch, double(length(b[u] - b[v]) / before));
            }
    }
    return out;
}

} // namespace bonemoss::document
