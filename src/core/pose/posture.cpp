#include "pose/posture.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::pose {

Quat Posture::turnOf(BoneKey bone) const
{
    const auto at = std::find_if(turns.begin(), turns.end(), [&](const Turn &t) { return t.bone == bone; });
    return at == turns.end() ? Quat() : at->turn;
}

void Posture::set(BoneKey bone, Quat turn)
{
    turn = normalized(turn);
    if (turn.w < 0)
        turn = {-turn.x, -turn.y, -turn.z, -turn.w};
    const bool isRest = std::abs(turn.x) + std::abs(turn.y) + std::abs(turn.z) < 1e-7f;
    const auto at = std::lower_bound(turns.begin(), turns.end(), bone, [](const Turn &t, BoneKey b) { return t.bone < b; });
    const bool isThere = at != turns.end() && at->bone == bone;
    if (isRest && isThere)
        turns.erase(at);
    else if (!isRest && isThere)
        at->turn = turn;
    else if (!isRest)
        turns.insert(at, {bone, turn});
}

namespace {

OutgrowthPose &poseOf(std::vector<OutgrowthPose> &list, std::uint32_t id)
{
    const auto at =
        std::lower_bound(list.begin(), list.end(), id, [](const OutgrowthPose &o, std::uint32_t i) { return o.outgrowth < i; });
    return at != list.end() && at->outgrowth == id ? *at : *list.insert(at, OutgrowthPose{.outgrowth = id});
}

} // namespace

const OutgrowthPose *Posture::outgrowth(std::uint32_t id) const
{
    const auto at = std::find_if(outgrowths.begin(), outgrowths.end(), [&](const OutgrowthPose &o) { return o.outgrowth == id; });
    return at == outgrowths.end() ? nullptr : &*at;
}

float Posture::changeOf(std::uint32_t id, std::string_view setting) const
{
    const OutgrowthPose *o = outgrowth(id);
    if (!o)
        return 0;
    const auto at = o->changes.find(setting);
    return at == o->changes.end() ? 0 : at->second;
}

void Posture::setChange(std::uint32_t id, std::string_view setting, float change)
{
    OutgrowthPose &o = poseOf(outgrowths, id);
    if (change == 0)
        o.changes.erase(std::string(setting));
    else
        o.changes[std::string(setting)] = change;
    std::erase_if(outgrowths, [](const OutgrowthPose &x) { return x.isRest(); });
}

void Posture::setLook(std::uint32_t id, std::optional<Vec3f> at)
{
    poseOf(outgrowths, id).look = at;
    std::erase_if(outgrowths, [](const OutgrowthPose &x) { return x.isRest(); });
}

namespace {

/// The bone's own part: about its joint.
Rigid aboutJoint(const Bone &bone, Quat turn)
{
    const Quat whole = bone.frame * turn * bone.frame.conjugate();
    return {whole, bone.head - rotate(whole, bone.head)};
}

} // namespace

std::vector<Rigid> placesOf(const Skeleton &skeleton, const Posture &posture)
{
    std::vector<Rigid> out(skeleton.bones.size());
    for (std::size_t b = 0; b < out.size(); ++b) {
        const Bone &bone = skeleton.bones[b];
        const Rigid above = bone.parent == kNone ? posture.whole : out[bone.parent];
        const Quat turn = posture.turnOf(bone.key);
        out[b] = turn == Quat() ? above : above * aboutJoint(bone, turn);
        out[b].turn = out[b].turn == Quat() ? Quat() : normalized(out[b].turn);
    }
    return out;
}

Vec3f anglesOf(Quat turn)
{
    return toEulerDeg(turn);
}

Quat turnOfAngles(Vec3f degrees)
{
    return fromEulerDeg(degrees);
}

float beyondLimits(const Bone &bone, Quat turn)
{
    const Vec3f a = anglesOf(turn);
    float most = 0;
    for (int k = 0; k < 3; ++k)
        most = std::max({most, at(bone.low, k) - at(a, k), at(a, k) - at(bone.high, k)});
    return most;
}

Quat withinLimits(const Bone &bone, Quat turn)
{
    if (beyondLimits(bone, turn) <= 0)
        return turn;
    const Vec3f a = anglesOf(turn);
    return turnOfAngles({std::clamp(a.x, bone.low.x, bone.high.x), std::clamp(a.y, bone.low.y, bone.high.y),
                         std::clamp(a.z, bone.low.z, bone.high.z)});
}

std::vector<std::uint32_t> limbOf(const Skeleton &skeleton, std::uint32_t bone, std::span<const std::uint32_t> pinned)
{
    std::vector<std::uint32_t> out{bone};
    const auto isPinned = [&](std::uint32_t b) { return std::find(pinned.begin(), pinned.end(), b) != pinned.end(); };
    const auto isBody = [&](std::uint32_t b) { // what limbs hang from
        return skeleton.bones[b].parent == kNone || (skeleton.twinOf(b) == b && skeleton.childrenOf(b).size() > 1);
    };
    for (std::uint32_t b = skeleton.bones[bone].parent; b != kNone && !isBody(b) && !isPinned(b); b = skeleton.bones[b].parent)
        out.push_back(b);
    std::reverse(out.begin(), out.end());
    return out;
}

float reach(const Skeleton &skeleton, Posture &posture, std::span<const std::uint32_t> chain, Vec3f from, Vec3f to,
            const Reach &how)
{
    const std::size_t n = chain.size();
    const Bone &first = skeleton.bones[chain[0]];
    const std::vector<Rigid> start = placesOf(skeleton, posture);
    const Rigid base = first.parent == kNone ? posture.whole : start[first.parent];
    std::vector<Vec3f> rest(n + 1); // the joints, and the place that is dragged
    for (std::size_t k = 0; k < n; ++k)
        rest[k] = skeleton.bones[chain[k]].head;
    rest[n] = from;
    std::vector<float> far(n);
    for (std::size_t k = 0; k < n; ++k)
        far[k] = length(rest[k + 1] - rest[k]);
    std::vector<Quat> turns(n), bestTurns(n);
    std::vector<Rigid> places(n);
    for (std::size_t k = 0; k < n; ++k)
        turns[k] = posture.turnOf(skeleton.bones[chain[k]].key), places[k] = start[chain[k]];
    std::vector<Vec3f> p(n + 1);
    const auto stand = [&] { // by the turns
        for (std::size_t k = 0; k < n; ++k) {
            const Bone &bone = skeleton.bones[chain[k]];
            const Quat whole = bone.frame * turns[k] * bone.frame.conjugate();
            places[k] = (k == 0 ? base : places[k - 1]) * Rigid{whole, bone.head - rotate(whole, bone.head)};
            places[k].turn = normalized(places[k].turn);
        }
        for (std::size_t k = 0; k < n; ++k)
            p[k] = (k == 0 ? base : places[k - 1]).apply(rest[k]);
        p[n] = places[n - 1].apply(rest[n]);
    };
    stand();
    float best = length(p[n] - to);
    bestTurns = turns;
    int stuck = 0;
    for (int step = 0; step < how.steps && best > how.tolerance && stuck < 12; ++step) {
        std::vector<Vec3f> q = p; // backward: from the target to the root
        q[n] = to;
        for (std::size_t k = n; k-- > 0;) {
            Vec3f way = q[k] - q[k + 1];
            if (squaredLength(way) < 1e-12f)
                way = Vec3f{1e-3f, 1e-3f, 1e-3f};
            q[k] = q[k + 1] + normalized(way) * far[k];
        }
        // Forward: each bone turns from where its parent brings it to the way that is wanted, as far as it may.
        Rigid above = base;
        for (std::size_t k = 0; k < n; ++k) {
            const Bone &bone = skeleton.bones[chain[k]];
            const Vec3f joint = above.apply(rest[k]);
            const Vec3f wanted = normalized(q[k + 1] - joint),
                        now = normalized(places[k].apply(rest[k + 1]) - places[k].apply(rest[k]));
            if (far[k] > 1e-6f && squaredLength(wanted) > 0 && squaredLength(now) > 0) {
                // In creature space the bone now stands as places[k].turn; turn it on, then find its own part.
                const Quat whole = rotationFromTo(now, wanted) * places[k].turn;
                const Quat own = bone.frame.conjugate() * (above.turn.conjugate() * whole) * bone.frame;
                turns[k] = how.keepsLimits ? withinLimits(bone, normalized(own)) : normalized(own);
            }
            const Quat whole = bone.frame * turns[k] * bone.frame.conjugate();
            above = above * Rigid{whole, bone.head - rotate(whole, bone.head)};
            above.turn = normalized(above.turn);
        }
        stand();
        const float off = length(p[n] - to);
        stuck = off < best * 0.999f ? 0 : stuck + 1;
        if (off < best)
            best = off, bestTurns = turns;
    }
    for (std::size_t k = 0; k < n; ++k)
        posture.set(skeleton.bones[chain[k]].key, bestTurns[k]);
    return best;
}

void curl(const Skeleton &skeleton, Posture &posture, std::span<const std::uint32_t> chain, Vec3f axis)
{
    const float angle = length(axis) * kRadiansPerDegree;
    const Quat each = angle > 0 ? rotationAbout(normalized(axis), angle / float(chain.size())) : Quat();
    for (const std::uint32_t b : chain) {
        const BoneKey key = skeleton.bones[b].key;
        posture.set(key, posture.turnOf(key) * each);
    }
}

namespace {

Quat mirroredTurn(Quat q)
{
    return {q.x, -q.y, -q.z, q.w};
}

} // namespace

Posture mirrored(const Skeleton &skeleton, const Posture &posture)
{
    Posture out;
    out.whole = {mirroredTurn(posture.whole.turn), bonemoss::mirrored(posture.whole.move)};
    for (std::uint32_t b = 0; b < skeleton.bones.size(); ++b)
        out.set(skeleton.bones[b].key, mirroredTurn(posture.turnOf(skeleton.bones[skeleton.twinOf(b)].key)));
    out.outgrowths = posture.outgrowths;
    for (OutgrowthPose &o : out.outgrowths)
        if (o.look)
            o.look = bonemoss::mirrored(*o.look);
    return out;
}

Posture symmetrical(const Skeleton &skeleton, const Posture &posture, bool fromLeft)
{
    Posture out = posture;
    for (std::uint32_t b = 0; b < skeleton.bones.size(); ++b) {
        const std::uint32_t twin = skeleton.twinOf(b);
        if (twin != b && (skeleton.bones[b].head.x > skeleton.bones[twin].head.x) != fromLeft)
            out.set(skeleton.bones[b].key, mirroredTurn(posture.turnOf(skeleton.bones[twin].key)));
    }
    return out;
}

Quat slerp(Quat a, Quat b, float t)
{
    float c = a.x * b.x + a.y * b.y + a.z * b.z + a.w * b.w;
    if (c < 0)
        b = {-b.x, -b.y, -b.z, -b.w}, c = -c;
    const float angle = std::acos(std::min(c, 1.0f));
    const float s = std::sin(angle), u = s < 1e-4f ? 1 - t : std::sin((1 - t) * angle) / s,
                v = s < 1e-4f ? t : std::sin(t * angle) / s;
    return normalized(Quat{a.x * u + b.x * v, a.y * u + b.y * v, a.z * u + b.z * v, a.w * u + b.w * v});
}

Posture between(const Skeleton &skeleton, const Posture &a, const Posture &b, float share)
{
    if (share <= 0)
        return a;
    if (share >= 1)
        return b;
    Posture out;
    out.whole = {slerp(a.whole.turn, b.whole.turn, share), lerp(a.whole.move, b.whole.move, share)};
    for (const Bone &bone : skeleton.bones)
        out.set(bone.key, slerp(a.turnOf(bone.key), b.turnOf(bone.key), share));
    for (const Posture *p : {&a, &b})
        for (const OutgrowthPose &o : p->outgrowths) {
            for (const auto &[setting, change] : o.changes)
                out.setChange(o.outgrowth, setting,
                              std::lerp(a.changeOf(o.outgrowth, setting), b.changeOf(o.outgrowth, setting), share));
            const OutgrowthPose *from = a.outgrowth(o.outgrowth), *to = b.outgrowth(o.outgrowth);
            if (from && to && from->look && to->look)
                out.setLook(o.outgrowth, lerp(*from->look, *to->look, share));
            else if (const OutgrowthPose *nearer = share < 0.5f ? from : to; nearer && nearer->look)
                out.setLook(o.outgrowth, nearer->look); // one that looks nowhere has no place to come from
        }
    return out;
}

} // namespace bonemoss::pose
