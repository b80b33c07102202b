#include "document/finite.h"

#include "document/items.h"
#include "portrait/stage_values.h"

#include <algorithm>
#include <bit>

namespace bonemoss::document {

namespace {

using bonemoss::isFinite;

bool isFinite(Quat q)
{
    return std::isfinite(q.x) && std::isfinite(q.y) && std::isfinite(q.z) && std::isfinite(q.w);
}

bool isFinite(const Transform &t)
{
    return isFinite(t.translation) && isFinite(t.rotation) && isFinite(t.scale);
}

bool areFinite(const std::vector<float> &values)
{
    return std::all_of(values.begin(), values.end(), [](float v) { return std::isfinite(v); });
}

bool areFinite(const std::vector<Vec3f> &points)
{
    return std::all_of(points.begin(), points.end(), [](Vec3f p) { return isFinite(p); });
}

bool isFinite(const armature::Repeat &r)
{
    return isFinite(r.centre) && isFinite(r.axis) && std::isfinite(r.spread) && std::isfinite(r.from) && std::isfinite(r.to)
           && areFinite(r.sizes) && std::all_of(r.changes.begin(), r.changes.end(), [](const armature::CopyChange &c) {
                  return isFinite(c.translation) && isFinite(c.rotation) && std::isfinite(c.scale);
              });
}

/// Blocks that the other does not share.
bool areNewBlocksFinite(const mesh::BlockArray<Vec3f> &now, const mesh::BlockArray<Vec3f> *before)
{
    const bool hasBefore = before && before->blockCount() == now.blockCount();
    for (std::size_t b = 0; b < now.blockCount(); ++b) {
        const Vec3f *p = now.data(b);
        if (!p || (hasBefore && now.sharesWith(*before, b)))
            continue;
        // IEEE 754: all bits of the exponent are set in infinities and in what is not a number, and nowhere else. Without
        // branches, so that several are looked at together.
        constexpr std::uint32_t kExponent = 0x7f800000;
        std::uint32_t most = 0;
        for (std::size_t i = 0; i < now.countIn(b); ++i)
            for (const float x : {p[i].x, p[i].y, p[i].z})
                most = std::max(most, std::bit_cast<std::uint32_t>(x) & kExponent);
        if (most == kExponent)
            return false;
    }
    return true;
}

bool isFiniteStage(const portrait::Stage &stage)
{
    bool is = true;
    const auto look = [&](const char *, const auto &value) {
        using T = std::remove_cvref_t<decltype(value)>;
        if constexpr (std::is_same_v<T, float>)
            is = is && std::isfinite(value);
        else if constexpr (std::is_same_v<T, Vec3f> || std::is_same_v<T, Quat>)
            is = is && isFinite(value);
        else if constexpr (std::is_same_v<T, std::optional<Vec3f>>)
            is = is && (!value || isFinite(*value));
    };
    eachPart(stage, [&](const char *, const auto &part) { eachValue(part, look); });
    eachList(stage, [&](const char *, const auto &list, const char *) {
        for (const auto &one : list)
            eachValue(one, look);
    });
    return is;
}

std::string inForms(const armature::Armature &before, const armature::Armature &after)
{
    if (after == before)
        return {};
    for (const armature::Form &f : after.forms) {
        if (!isFinite(f.place) || !isFinite(after.worldPlace(f)))
            return "the place of form " + f.name;
        if (!document::isFinite(f))
            return "the shape of form " + f.name;
    }
    for (const armature::ProportionTarget &t : after.targets)
        if (!std::isfinite(t.ratio) || !std::isfinite(t.tolerance))
            return "a wanted proportion";
    return {};
}

} // namespace

bool isFinite(const armature::Form &f)
{
    bool is = isFinite(f.place) && isFinite(f.radii) && std::isfinite(f.rounding) && std::isfinite(f.bore)
              && std::isfinite(f.square) && std::isfinite(f.melt) && isFinite(f.repeat) && isFinite(f.joint.rest)
              && isFinite(f.joint.low) && isFinite(f.joint.high);
    for (const armature::PathPoint &p : f.path)
        is = is && isFinite(p.at) && std::isfinite(p.radius) && std::isfinite(p.squash) && std::isfinite(p.square)
             && std::isfinite(p.rotation);
    for (const auto &side : f.sides)
        is = is && areFinite(side);
    return is;
}

std::string Piece::notFinite(const Piece *before) const
{
    if (!areNewBlocksFinite(skin.body, before ? &before->skin.body : nullptr))
        return "the skin of " + name;
    for (const skin::Layer &l : skin.layers) {
        const skin::Layer *old = before ? before->skin.layer(l.id) : nullptr;
        if (!std::isfinite(l.strength) || !areNewBlocksFinite(l.offsets, old ? &old->offsets : nullptr))
            return "layer " + l.name + " of " + name;
    }
    for (const growth::Guide &g : guides)
        if (!areFinite(g.points) || !std::isfinite(g.size))
            return "a guide on " + name;
    if (!isFinite(symmetry.point) || !isFinite(symmetry.normal) || !isFinite(symmetry.axis))
        return "the symmetry of " + name;
    return {};
}

std::string Cage::notFinite(const Cage *) const
{
    return areFinite(mesh.positions) ? std::string() : "the points of cage " + name;
}

std::string whatIsNotFinite(const Creature &before, const Creature &after)
{
    std::string what = inForms(before.armature, after.armature);
    for (const ItemKind &kind : itemKinds())
        for (std::size_t k = 0; what.empty() && k < kind.count(after); ++k)
            what = kind.notFinite(after, k, before);
    const auto isPosture = [](const pose::Posture &p) {
        return isFinite(p.whole.move) && std::all_of(p.turns.begin(), p.turns.end(), [](const pose::Turn &t) {
                   return std::isfinite(t.turn.x + t.turn.w);
               });
    };
    if (what.empty() && !isPosture(after.posing.now))
        what = "the pose";
    if (what.empty() && !isFiniteStage(after.stage))
        what = "the portrait";
    if (what.empty() && !std::isfinite(after.print.heightMm))
        what = "the height of the print";
    return what.empty() && !std::isfinite(after.heightMm) ? "the height of the creature" : what;
}

} // namespace bonemoss::document
