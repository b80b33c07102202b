#include "document/finite.h"

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

std::string inPiece(const Piece &now, const Piece *before)
{
    if (!areNewBlocksFinite(now.skin.body, before ? &before->skin.body : nullptr))
        return "the skin of " + now.name;
    for (const skin::Layer &l : now.skin.layers) {
        const skin::Layer *old = before ? before->skin.layer(l.id) : nullptr;
        if (!std::isfinite(l.strength) || !areNewBlocksFinite(l.offsets, old ? &old->offsets : nullptr))
            return "layer " + l.name + " of " + now.name;
    }
    for (const growth::Guide &g : now.guides)
        if (!areFinite(g.points) || !std::isfinite(g.size))
            return "a guide on " + now.name;
    if (!isFinite(now.symmetry.point) || !isFinite(now.symmetry.normal) || !isFinite(now.symmetry.axis))
        return "the symmetry of " + now.name;
    return {};
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

bool isFinite(const Cage &cage)
{
    return areFinite(cage.mesh.positions);
}

std::string whatIsNotFinite(const Creature &before, const Creature &after)
{
    if (std::string what = inForms(before.armature, after.armature); !what.empty())
        return what;
    for (const auto &p : after.pieces) {
        const auto old = std::find_if(before.pieces.begin(), before.pieces.end(), [&](const auto &o) { return o->id == p->id; });
        if (old != before.pieces.end() && *old == p)
            continue;
        if (std::string what = inPiece(*p, old == before.pieces.end() ? nullptr : old->get()); !what.empty())
            return what;
    }
    for (const auto &c : after.cages)
        if (before.cage(c->id) != c.get() && !isFinite(*c))
            return "the points of cage " + c->name;
    for (const Reference &r : after.references)
        if (!std::isfinite(r.across) || !std::isfinite(r.up) || !std::isfinite(r.heightMm) || !std::isfinite(r.rotation))
            return "the place of picture " + r.name;
    return std::isfinite(after.heightMm) ? std::string() : "the height of the creature";
}

} // namespace bonemoss::document
