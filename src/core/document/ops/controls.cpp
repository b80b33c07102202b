#include "document/ops/controls.h"

#include "mesh/nearest_faces.h"
#include "outgrowth/outgrowth.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

namespace bonemoss::document {

using pose::Bone;
using pose::Rigid;
using pose::Skeleton;

namespace {

bool hasWord(std::string name, std::string_view word)
{
    std::transform(name.begin(), name.end(), name.begin(), [](unsigned char c) { return char(std::tolower(c)); });
    return name.find(word) != std::string::npos;
}

/// Of a bone's own axes, the one that lies closest to a direction, and which way.
std::pair<int, float> axisAlong(const Bone &bone, Vec3f way)
{
    const Vec3f own = rotate(bone.frame.conjugate(), way), size{std::abs(own.x), std::abs(own.y), std::abs(own.z)};
    const int axis = size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
    return {axis, at(own, axis) < 0 ? -1.0f : 1.0f};
}

/// The chain from a bone on while there is one way to go; empty where it branches.
std::vector<std::uint32_t> digitFrom(const Skeleton &skeleton, std::uint32_t bone)
{
    std::vector<std::uint32_t> out{bone};
    for (std::vector<std::uint32_t> next = skeleton.childrenOf(bone); !next.empty(); next = skeleton.childrenOf(out.back())) {
        if (next.size() > 1)
            return {};
        out.push_back(next[0]);
    }
    constexpr std::size_t kMostJoints = 5;
    return out.size() <= kMostJoints ? out : std::vector<std::uint32_t>();
}

void addJaws(std::vector<Control> &out, const Skeleton &skeleton)
{
    for (std::uint32_t b = 0; b < skeleton.bones.size(); ++b) {
        const Bone &bone = skeleton.bones[b];
        if (bone.parent == kNone || !bone.isLine || !hasWord(bone.name, "jaw"))
            continue;
        const float down = std::abs(bone.low.x), up = std::abs(bone.high.x);
        const bool isFree = down >= 180 && up >= 180;
        out.push_back(
            {fmt::format("{} open", bone.name), isFree ? -5 : bone.low.x, isFree ? 40 : bone.high.x, "deg", {{b, 0, 1}}});
    }
}

/// Toes and fingers: three digits or more, or two on a bone that is a mass, that hang from one bone and lead nowhere else.
void addDigits(std::vector<Control> &out, const Skeleton &skeleton)
{
    for (std::uint32_t b = 0; b < skeleton.bones.size(); ++b) {
        std::vector<std::vector<std::uint32_t>> digits;
        Vec3f middle;
        for (const std::uint32_t child : skeleton.childrenOf(b))
            if (std::vector<std::uint32_t> digit = digitFrom(skeleton, child);
                !digit.empty() && skeleton.bones[child].isLine && skeleton.bones[child].key.isTwin == skeleton.bones[b].key.isTwin
                && skeleton.twinOf(b) != b) {
                middle += normalized(skeleton.bones[digit.back()].tail - skeleton.bones[child].head);
                digits.push_back(std::move(digit));
            }
        if (digits.size() < 2 || squaredLength(middle) < 1e-6f)
            continue;
        middle = normalized(middle);
        // The way across them, from the first to the last.
        const Vec3f across0 = skeleton.bones[digits.back()[0]].head - skeleton.bones[digits.front()[0]].head;
        const Vec3f across = across0 - middle * dot(across0, middle);
        if (squaredLength(across) < 1e-8f)
            continue;
        const Vec3f side = normalized(across);
        Vec3f palm = cross(middle, side);
        if (palm.y > 0)
            palm = -palm; // curling goes down
        Control curl{fmt::format("{} curl", skeleton.bones[b].name), -30, 80, "deg"},
            spread{fmt::format("{} spread", skeleton.bones[b].name), -20, 40, "deg"};
        for (std::size_t d = 0; d < digits.size(); ++d) {
            for (const std::uint32_t bone : digits[d]) {
                const Vec3f along = normalized(skeleton.bones[bone].tail - skeleton.bones[bone].head);
                const auto [axis, way] = axisAlong(skeleton.bones[bone], cross(along, palm));
                curl.bones.push_back({bone, axis, way / float(digits[d].size())});
            }
            const std::uint32_t first = digits[d][0];
            const float place = digits.size() > 1 ? 2 * float(d) / float(digits.size() - 1) - 1 : 0;
            const Vec3f along = normalized(skeleton.bones[first].tail - skeleton.bones[first].head);
            if (place == 0)
                continue;
            const auto [axis, way] = axisAlong(skeleton.bones[first], cross(along, side));
            spread.bones.push_back({first, axis, way * place});
        }
        out.push_back(std::move(curl)), out.push_back(std::move(spread));
    }
}

/// Settings of outgrowths that a pose may want otherwise than they rest.
constexpr std::string_view kPosedSettings[] = {"upperLid",  "lowerLid", "gazeUp", "gazeOut",
                                               "pupilSize", "raise",    "spread", "lift"};

} // namespace

std::vector<Control> controlsOf(const Creature &creature, const Skeleton &skeleton)
{
    std::vector<Control> out;
    addJaws(out, skeleton);
    addDigits(out, skeleton);
    for (const auto &o : creature.outgrowths)
        for (const outgrowth::Setting &s : o->kind->settings)
            if (std::find(std::begin(kPosedSettings), std::end(kPosedSettings), s.name) != std::end(kPosedSettings))
                out.push_back({fmt::format("{} {}", o->name, s.title), s.min, s.max, s.unit, {}, o->id, s.name});
    for (const pose::Pose &p : creature.posing.poses)
        if (!p.bones.empty())
            out.push_back({.name = p.name, .pose = p.id});
    return out;
}

float valueOf(const Creature &creature, const Skeleton &skeleton, const Control &control)
{
    const pose::Posture &now = creature.posing.now;
    if (control.outgrowth) {
        for (const auto &o : creature.outgrowths)
            if (o->id == control.outgrowth)
                return o->value(control.setting) + now.changeOf(o->id, control.setting);
        return 0;
    }
    if (!control.bones.empty()) {
        const auto most = std::max_element(control.bones.begin(), control.bones.end(),
                                           [](const auto &a, const auto &b) { return std::abs(a.times) < std::abs(b.times); });
        return at(pose::anglesOf(now.turnOf(skeleton.bones[most->bone].key)), most->axis) / most->times + 0.0f; // no -0
    }
    for (const pose::Pose &p : creature.posing.poses)
        if (p.id == control.pose) { // by the bone that it turns most
            float most = 0, share = 0;
            for (const pose::BoneKey &b : p.bones) {
                const auto angle = [](Quat q) { return 2 * std::acos(std::min(1.0f, std::abs(q.w))); };
                const float whole = angle(p.posture.turnOf(b));
                if (whole > most)
                    most = whole, share = angle(now.turnOf(b)) / whole;
            }
            return share;
        }
    return 0;
}

void setControl(Creature &creature, const Skeleton &skeleton, const Control &control, float value)
{
    pose::Posture &now = creature.posing.now;
    value = std::clamp(value, control.low, control.high);
    for (const Control::Turned &t : control.bones) {
        const pose::BoneKey key = skeleton.bones[t.bone].key;
        Vec3f angles = pose::anglesOf(now.turnOf(key));
        (t.axis == 0 ? angles.x : t.axis == 1 ? angles.y : angles.z) = value * t.times;
        now.set(key, pose::turnOfAngles(angles));
    }
    if (control.outgrowth)
        for (const auto &o : creature.outgrowths)
            if (o->id == control.outgrowth)
                now.setChange(o->id, control.setting, value - o->value(control.setting));
    for (const pose::Pose &p : creature.posing.poses)
        if (control.pose && p.id == control.pose)
            for (const pose::BoneKey &b : p.bones)
                now.set(b, pose::slerp({}, p.posture.turnOf(b), value));
    keepPins(creature.posing, skeleton);
}

float lookAt(Posing &posing, const Skeleton &skeleton, std::uint32_t bone, std::uint32_t neck, Vec3f at, Vec3f front,
             bool keepsLimits)
{
    std::vector<std::uint32_t> chain;
    for (std::uint32_t b = bone; b != kNone; b = b == neck ? kNone : skeleton.bones[b].parent)
        chain.push_back(b);
    if (neck == kNone || chain.back() != neck)
        chain = {bone};
    Box3f box; // it looks from the middle of its flesh
    for (const pose::Flesh &f : skeleton.bones[bone].flesh)
        box.add(f.a), box.add(f.b);
    const Vec3f eye = box.isEmpty() ? skeleton.bones[bone].head : box.centre();
    constexpr int kRounds = 4; // the eye moves as the neck turns
    const auto left = [&] {
        const Rigid place = placesOf(skeleton, posing.now)[bone];
        const Vec3f now = rotate(place.turn, normalized(front)), wanted = normalized(at - place.apply(eye));
        return std::acos(std::clamp(dot(now, wanted), -1.0f, 1.0f)) / kRadiansPerDegree;
    };
    for (int round = 0; round < kRounds; ++round)
        for (std::size_t k = chain.size(); k-- > 0;) { // from the root of the neck on, each its share of what is left
            const Bone &b = skeleton.bones[chain[k]];
            const std::vector<Rigid> places = placesOf(skeleton, posing.now);
            const Rigid place = places[bone];
            const Vec3f now = rotate(place.turn, normalized(front)), wanted = normalized(at - place.apply(eye));
            if (squaredLength(wanted) < 0.5f)
                continue;
            const Quat by = pose::slerp({}, rotationFromTo(now, wanted), 1 / float(k + 1));
            const Quat above = b.parent == kNone ? posing.now.whole.turn : places[b.parent].turn;
            Quat own = normalized(b.frame.conjugate() * (above.conjugate() * (by * places[chain[k]].turn)) * b.frame);
            posing.now.set(b.key, keepsLimits ? withinLimits(b, own) : own);
        }
    return left();
}

std::size_t eyesLookAt(Creature &creature, const Skeleton &skeleton, std::uint32_t bone, Vec3f at)
{
    const std::vector<Rigid> places = placesOf(skeleton, creature.posing.now);
    std::size_t found = 0;
    for (const auto &o : creature.outgrowths) {
        const Piece *piece = creature.piece(o->parent);
        if (o->kind->name != "eye" || !piece || piece->skin.isEmpty() || o->roots.empty())
            continue;
        const std::vector<Vec3f> root{o->roots[0].at};
        const std::uint32_t v = mesh::nearestFaces(piece->skin.shown, root, 4 * meanEdgeLength(piece->skin.shown))[0].corners[0];
        int most = 0;
        std::uint32_t carrier = kNone;
        for (const skin::KeptMask &m : piece->skin.boneWeights)
            if (const int w = m.values[v]; w > most)
                most = w, carrier = skeleton.find(pose::boneKeyOf(m.name));
        std::uint32_t above = carrier;
        while (above != kNone && above != bone)
            above = skeleton.bones[above].parent;
        if (above == kNone)
            continue;
        creature.posing.now.setLook(o->id, places[carrier].applyInverse(at));
        ++found;
    }
    return found;
}

} // namespace bonemoss::document
