#include "armature/naming.h"

#include <algorithm>

namespace bonemoss::armature {

namespace {

/// The next part down a limb: limb, shank, foot, toe, claw.
std::string nextDown(const std::string &name)
{
    static constexpr std::pair<std::string_view, std::string_view> kNext[] = {
        {"limb", "shank"}, {"shank", "foot"}, {"foot", "toe"}, {"toe", "claw"}};
    for (const auto &[part, next] : kNext)
        if (const auto at = name.find(part); at != std::string::npos) {
            std::string out = name.substr(0, at) + std::string(next);
            return out;
        }
    return {};
}

Box3f boxOf(const Form &form, const Transform &world)
{
    Box3f box;
    for (const Vec3f p : tessellate(form, world).positions)
        box.add(p);
    return box;
}

std::string partName(const Armature &a, const Form &form, const Transform &world, const Box3f &whole)
{
    const Box3f box = boxOf(form, world);
    const Vec3f size = max(whole.size(), Vec3f{1, 1, 1}), middle = box.centre();
    // Heights and places along the body as shares of what is there: 0 tail or floor, 1 nose or crown.
    const float high = (middle.y - whole.lo.y) / size.y, ahead = (middle.z - whole.lo.z) / size.z;
    const bool isSmall = box.diagonal() < 0.12f * whole.diagonal();
    const Form *parent = a.find(form.parent);
    if (hasPath(form.kind) && form.kind != FormKind::Turned && form.path.size() > 1) {
        const Vec3f way = normalized(world.apply(form.path.back().at) - world.apply(form.path.front().at));
        const std::string further = parent ? nextDown(parent->name) : std::string();
        if (!further.empty())
            return further;
        if (form.kind == FormKind::Cone && isSmall)
            return high < 0.15f ? "claw" : ahead > 0.8f && high > 0.6f ? "horn" : "spike";
        if (way.y < -0.6f)
            return ahead > 0.62f ? "fore limb" : ahead < 0.38f ? "hind limb" : "mid limb";
        if (form.kind == FormKind::Cone)
            return ahead > 0.7f && high > 0.6f ? "horn" : "spike";
        if (way.z < -0.4f && ahead < 0.4f)
            return "tail";
        if (ahead > 0.5f && way.y > 0.35f)
            return "neck";
        if (ahead > 0.8f && way.z > 0.6f)
            return "muzzle";
        return std::string(nameOf(form.kind));
    }
    const bool isRound = form.kind == FormKind::Ball || form.kind == FormKind::Ellipsoid || form.kind == FormKind::Blob
                         || form.kind == FormKind::Body;
    if (!isRound)
        return std::string(nameOf(form.kind));
    if (isSmall)
        return ahead > 0.75f && high > 0.6f && std::abs(middle.x) > 0.02f * whole.diagonal() ? "eye" : "knob";
    if (ahead > 0.85f && high > 0.55f)
        return "skull";
    return ahead > 0.66f ? "chest" : ahead < 0.34f ? "rump" : "belly";
}

} // namespace

std::string proposeName(const Armature &a, const Form &form, const Transform &world)
{
    Box3f whole;
    for (const Form &f : a.forms)
        if (!f.isHidden)
            whole.add(boxOf(f, a.worldPlace(f)));
    const bool isFirst = whole.isEmpty();
    if (isFirst)
        return form.kind == FormKind::Ball || form.kind == FormKind::Ellipsoid || form.kind == FormKind::Body
                   ? "barrel"
                   : std::string(nameOf(form.kind));
    std::string name = partName(a, form, world, whole);
    const float aside = boxOf(form, world).centre().x;
    if (!form.isMirrored && std::abs(aside) > 0.04f * whole.diagonal())
        name += aside > 0 ? ", left" : ", right";
    return name;
}

} // namespace bonemoss::armature
