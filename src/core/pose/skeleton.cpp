#include "pose/skeleton.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>

namespace bonemoss::pose {

using armature::Form;
using armature::FormKind;

std::string textOf(BoneKey key)
{
    std::string out = fmt::format("{}{}", key.form, key.isTwin ? "t" : "");
    if (key.part)
        out += fmt::format(".{}", key.part);
    return out;
}

BoneKey boneKeyOf(std::string_view text)
{
    BoneKey key;
    const char *end = text.data() + text.size();
    auto read = std::from_chars(text.data(), end, key.form);
    if (read.ec != std::errc())
        return {};
    if (read.ptr != end && *read.ptr == 't')
        key.isTwin = true, ++read.ptr;
    if (read.ptr != end && *read.ptr == '.')
        read = std::from_chars(read.ptr + 1, end, key.part);
    return read.ptr == end && read.ec == std::errc() ? key : BoneKey();
}

std::uint32_t Skeleton::find(BoneKey key) const
{
    const auto at = std::find_if(bones.begin(), bones.end(), [&](const Bone &b) { return b.key == key; });
    return at == bones.end() ? kNone : std::uint32_t(at - bones.begin());
}

std::uint32_t Skeleton::find(std::string_view name) const
{
    const auto at = std::find_if(bones.begin(), bones.end(), [&](const Bone &b) { return b.name == name; });
    return at == bones.end() ? kNone : std::uint32_t(at - bones.begin());
}

std::uint32_t Skeleton::twinOf(std::uint32_t bone) const
{
    BoneKey key = bones[bone].key;
    key.isTwin = !key.isTwin;
    const std::uint32_t twin = find(key);
    return twin == kNone ? bone : twin;
}

std::vector<std::uint32_t> Skeleton::childrenOf(std::uint32_t bone) const
{
    std::vector<std::uint32_t> out;
    for (std::uint32_t b = bone + 1; b < bones.size(); ++b)
        if (bones[b].parent == bone)
            out.push_back(b);
    return out;
}

std::uint32_t Skeleton::carrierOf(const armature::Armature &armature, std::uint32_t form, bool isTwin, Vec3f at) const
{
    for (const Form *f = armature.find(form); f; f = armature.find(f->parent))
        for (const bool twin : {isTwin, false}) {
            std::uint32_t best = kNone;
            float least = 0;
            for (std::uint32_t b = 0; b < bones.size(); ++b)
                if (bones[b].key.form == f->id && bones[b].key.isTwin == twin) {
                    const float far = squaredLength((bones[b].head + bones[b].tail) * 0.5f - at);
                    if (best == kNone || far < least)
                        best = b, least = far;
                }
            if (best != kNone)
                return best;
        }
    return bones.empty() ? kNone : 0;
}

namespace {

constexpr std::uint32_t kUsualParts = 4; ///< of a tube

bool isTurning(const Form &f)
{
    const armature::Joint all;
    return f.joint.low != all.low || f.joint.high != all.high;
}

bool isBone(const armature::Armature &armature, const Form &f, const Rigging &rigging);

/// How many bones hang from a mass, directly or by masses.
int bonesBelow(const armature::Armature &armature, const Form &mass, const Rigging &rigging)
{
    int n = 0;
    for (const Form &f : armature.forms)
        if (f.parent == mass.id) {
            const int own = isBone(armature, f, rigging) ? 1 : bonesBelow(armature, f, rigging);
            n += own * (f.isMirrored && !mass.isMirrored ? 2 : 1);
        }
    return n;
}

/// Whether a form is a bone.
bool isBone(const armature::Armature &armature, const Form &f, const Rigging &rigging)
{
    if (f.role == armature::FormRole::Cut || f.isHidden || f.repeat.mode != armature::RepeatMode::None)
        return f.parent == 0;
    if (f.parent == 0 || f.kind == FormKind::Group)
        return f.parent == 0;
    if (std::find(rigging.leftOut.begin(), rigging.leftOut.end(), f.id) != rigging.leftOut.end())
        return false;
    if (isTurning(f) || f.kind == FormKind::Limb || f.kind == FormKind::Tube || f.kind == FormKind::Cone
        || f.kind == FormKind::Body)
        return true;
    return f.role == armature::FormRole::Add && bonesBelow(armature, f, rigging) > 1; // a foot with toes, a pelvis
}

/// Its middle line in creature space, from the joint on; of a mass the longest way through it.
std::vector<armature::PathPoint> lineOf(const Form &f, const Transform &world)
{
    std::vector<armature::PathPoint> out;
    const float scale = (std::abs(world.scale.x) + std::abs(world.scale.y) + std::abs(world.scale.z)) / 3;
    if (f.kind == FormKind::Body)
        out = armature::bodyPath(f, 8);
    else if (f.kind == FormKind::Tube && f.path.size() > 2)
        out = armature::smoothPath(f.path, 6);
    else if (armature::hasPath(f.kind) && f.kind != FormKind::Turned)
        out = f.path;
    if (out.size() >= 2) {
        for (armature::PathPoint &p : out)
            p.at = world.apply(p.at), p.radius *= scale;
        if (length(out.back().at - world.translation) < 0.5f * length(out.front().at - world.translation))
            std::reverse(out.begin(), out.end());
        return out;
    }
    Vec3f radii = f.radii;
    if (f.kind == FormKind::Ball || f.kind == FormKind::Blob)
        radii = {f.radii.x, f.radii.x, f.radii.x};
    if (f.kind == FormKind::Torus)
        radii = {f.radii.x + f.radii.y, f.radii.y, f.radii.x + f.radii.y};
    if (f.kind == FormKind::Disc)
        radii = {f.radii.x, f.radii.y, f.radii.x};
    if (f.kind == FormKind::Turned || f.kind == FormKind::Group)
        radii = {1, 1, 1};
    const int longest = radii.x >= radii.y && radii.x >= radii.z ? 0 : radii.y >= radii.z ? 1 : 2;
    const Vec3f axis = longest == 0 ? Vec3f{1, 0, 0} : longest == 1 ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1};
    const float most = at(radii, longest), across = (radii.x + radii.y + radii.z - most) / 2,
                half = std::max(0.0f, most - across);
    for (const float side : {-1.0f, 1.0f})
        out.push_back({world.apply(axis * (side * half)), std::min(across, most) * scale});
    return out;
}

Quat mirroredTurn(Quat q)
{
    return {q.x, -q.y, -q.z, q.w};
}

class Maker
{
public:
    Maker(const armature::Armature &armature, const Rigging &rigging) : m_armature(armature), m_rigging(rigging)
    {
        for (const Form &f : armature.forms)
            add(f);
        finish();
    }
    Skeleton take() { return std::move(m_out); }

private:
    void add(const Form &f)
    {
        const Transform world = m_armature.worldPlace(f);
        const std::vector<armature::PathPoint> line = lineOf(f, world);
        for (const bool isTwin : {false, true}) {
            if (isTwin && !f.isMirrored)
                continue;
            const auto side = [&](Vec3f p) { return isTwin ? mirrored(p) : p; };
            if (!isBone(m_armature, f, m_rigging)) {
                ride(f, line, isTwin);
                continue;
            }
            const std::uint32_t parts = partsOf(f);
            std::uint32_t parent = f.parent ? m_out.carrierOf(m_armature, f.parent, isTwin, side(line.front().at)) : kNone;
            for (std::uint32_t k = 0; k < parts; ++k) {
                Bone bone;
                bone.key = {f.id, k, isTwin};
                bone.name = nameFor(f, isTwin, k, parts, side(line.front().at));
                bone.parent = parent;
                bone.frame = isTwin ? mirroredTurn(world.rotation) : world.rotation;
                const bool isMass = line.size() == 2 && !armature::hasPath(f.kind);
                bone.head = side(k > 0 || !isMass ? along(line, float(k) / float(parts)).at : world.translation);
                if (isMass && parent != kNone && m_out.bones[parent].isLine)
                    bone.head = m_out.bones[parent].tail; // a skull turns where the neck ends, not about its middle
                bone.isLine = !isMass;
                bone.tail = side(along(line, float(k + 1) / float(parts)).at);
                bone.low = f.joint.low, bone.high = f.joint.high;
                if (isTwin) // across the plane a turn about x stays, those about y and z change their sign
                    bone.low = {f.joint.low.x, -f.joint.high.y, -f.joint.high.z},
                    bone.high = {f.joint.high.x, -f.joint.low.y, -f.joint.low.z};
                if (parts > 1 && isTurning(f))
                    bone.low *= 1 / float(parts), bone.high *= 1 / float(parts);
                constexpr int kPieces = 3;
                for (int i = 0; i < kPieces; ++i) {
                    const auto a = along(line, (float(k) + float(i) / kPieces) / float(parts)),
                               b = along(line, (float(k) + float(i + 1) / kPieces) / float(parts));
                    bone.flesh.push_back({side(a.at), side(b.at), (a.radius + b.radius) / 2});
                }
                parent = std::uint32_t(m_out.bones.size());
                m_out.bones.push_back(std::move(bone));
            }
        }
    }

    /// A mass goes with the bone above it.
    void ride(const Form &f, const std::vector<armature::PathPoint> &line, bool isTwin)
    {
        if (f.role != armature::FormRole::Add || f.isHidden || !armature::hasShape(f.kind) || m_out.bones.empty())
            return;
        const auto side = [&](Vec3f p) { return isTwin ? mirrored(p) : p; };
        const Vec3f middle = (line.front().at + line.back().at) * 0.5f;
        const std::uint32_t on = m_out.carrierOf(m_armature, f.parent, isTwin, side(middle));
        if (on != kNone)
            m_out.bones[on].flesh.push_back(
                {side(line.front().at), side(line.back().at), (line.front().radius + line.back().radius) / 2});
    }

    std::uint32_t partsOf(const Form &f) const
    {
        for (const Rigging::Chain &c : m_rigging.chains)
            if (c.form == f.id)
                return std::clamp(c.parts, 1u, kMostParts);
        return f.kind == FormKind::Tube ? std::clamp(std::uint32_t(f.path.size()), 2u, kUsualParts) : 1;
    }

    std::string nameFor(const Form &f, bool isTwin, std::uint32_t part, std::uint32_t parts, Vec3f head) const
    {
        std::string out = f.name;
        if (f.isMirrored)
            out += (head.x > 0 || (head.x == 0 && !isTwin)) ? " left" : " right";
        return parts > 1 ? fmt::format("{} {}", out, part + 1) : out;
    }

    /// At a share of its length.
    static armature::PathPoint along(const std::vector<armature::PathPoint> &line, float share)
    {
        float whole = 0;
        for (std::size_t i = 1; i < line.size(); ++i)
            whole += length(line[i].at - line[i - 1].at);
        float left = share * whole;
        for (std::size_t i = 1; i < line.size(); ++i) {
            const float step = length(line[i].at - line[i - 1].at);
            if (left <= step || i + 1 == line.size()) {
                const float t = step > 0 ? std::clamp(left / step, 0.0f, 1.0f) : 0;
                return {lerp(line[i - 1].at, line[i].at, t), std::lerp(line[i - 1].radius, line[i].radius, t)};
            }
            left -= step;
        }
        return line.front();
    }

    /// A bone with one bone below it ends where that begins; no bone is without length.
    void finish()
    {
        for (std::uint32_t b = 0; b < m_out.bones.size(); ++b) {
            Bone &bone = m_out.bones[b];
            const std::vector<std::uint32_t> children = m_out.childrenOf(b);
            const float least = 1e-3f;
            if (children.size() == 1 && length(m_out.bones[children[0]].head - bone.head) > least)
                bone.tail = m_out.bones[children[0]].head;
            if (bone.length() < least)
                bone.tail = bone.head + rotate(bone.frame, {0, 1, 0});
        }
    }

    const armature::Armature &m_armature;
    const Rigging &m_rigging;
    Skeleton m_out;
};

} // namespace

Skeleton skeletonOf(const armature::Armature &armature, const Rigging &rigging)
{
    return Maker(armature, rigging).take();
}

} // namespace bonemoss::pose
