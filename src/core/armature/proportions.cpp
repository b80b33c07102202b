#include "armature/proportions.h"

#include <algorithm>

namespace bonemoss::armature {

namespace {

float pathLength(const std::vector<PathPoint> &path, Vec3f scale)
{
    float sum = 0;
    for (std::size_t i = 1; i < path.size(); ++i)
        sum += length((path[i].at - path[i - 1].at) * scale);
    return sum;
}

} // namespace

float lengthOf(const Form &f, const Transform &world)
{
    const Vec3f k = world.scale;
    const float even = std::min({k.x, k.y, k.z}); // what radii along a path are scaled by
    switch (f.kind) {
    case FormKind::Ball:
    case FormKind::Blob: return 2 * f.radii.x * std::max({k.x, k.y, k.z});
    case FormKind::Ellipsoid:
    case FormKind::Block:
    case FormKind::Wedge: return 2 * std::max({f.radii.x * k.x, f.radii.y * k.y, f.radii.z * k.z});
    case FormKind::Torus: return 2 * (f.radii.x + f.radii.y) * std::max(k.x, k.z);
    case FormKind::Disc: return 2 * std::max(f.radii.x * std::max(k.x, k.z), f.radii.y * k.y);
    case FormKind::Cone:
    case FormKind::Cylinder: return pathLength(f.path, k);
    case FormKind::Limb:
    case FormKind::Tube:
        return f.path.empty() ? 0 : pathLength(smoothPath(f.path, 8), k) + (f.path.front().radius + f.path.back().radius) * even;
    case FormKind::Turned: {
        float lo = 0, hi = 0, widest = 0;
        for (const PathPoint &p : f.path)
            lo = std::min(lo, p.at.y), hi = std::max(hi, p.at.y), widest = std::max(widest, p.radius);
        return std::max((hi - lo) * k.y, 2 * widest * std::max(k.x, k.z));
    }
    case FormKind::Body: {
        const auto path = bodyPath(f, 16);
        return path.empty() ? 0 : pathLength(path, k);
    }
    case FormKind::Group: return 0;
    }
    return 0;
}

std::vector<Proportion> proportionsOf(const Armature &a, std::span<const MeasuredPart> others)
{
    std::vector<MeasuredPart> parts;
    for (const Form &f : a.forms)
        if (hasShape(f.kind))
            parts.push_back({f.id, f.name, lengthOf(f, a.worldPlace(f))});
    parts.insert(parts.end(), others.begin(), others.end());
    float one = 0;
    for (const MeasuredPart &m : parts)
        if (m.id == a.unitForm)
            one = m.lengthMm;
    std::vector<Proportion> out;
    for (const MeasuredPart &m : parts) {
        Proportion p;
        p.form = m.id;
        p.name = m.name;
        p.lengthMm = m.lengthMm;
        p.inUnits = one > 0 ? p.lengthMm / one : 0;
        for (const ProportionTarget &t : a.targets)
            if (t.form == m.id)
                p.target = &t;
        if (p.target && one > 0) {
            p.miss = p.inUnits / p.target->ratio - 1;
            p.isMissed = std::abs(p.miss) > p.target->tolerance;
        }
        out.push_back(p);
    }
    std::stable_partition(out.begin(), out.end(), [](const Proportion &p) { return p.target != nullptr; });
    return out;
}

} // namespace bonemoss::armature
