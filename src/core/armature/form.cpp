#include "armature/form.h"

#include <algorithm>
#include <array>
#include <unordered_set>

namespace bonemoss::armature {

namespace {

template <typename Enum, std::size_t N>
std::optional<Enum> named(const std::array<std::string_view, N> &names, std::string_view name)
{
    for (std::size_t i = 0; i < N; ++i)
        if (names[i] == name)
            return Enum(i);
    return {};
}

} // namespace

std::string_view nameOf(FormKind kind)
{
    return kKindNames[std::size_t(kind)];
}
bool hasPath(FormKind k)
{
    return k == FormKind::Limb || k == FormKind::Cone || k == FormKind::Cylinder || k == FormKind::Tube || k == FormKind::Turned;
}
std::optional<FormKind> kindNamed(std::string_view name)
{
    return named<FormKind>(kKindNames, name);
}
std::string_view nameOf(FormRole role)
{
    return kRoleNames[std::size_t(role)];
}
std::optional<FormRole> roleNamed(std::string_view name)
{
    return named<FormRole>(kRoleNames, name);
}

const Form *Armature::find(std::uint32_t id) const
{
    for (const Form &f : forms)
        if (f.id == id)
            return &f;
    return nullptr;
}

Form *Armature::find(std::uint32_t id)
{
    return const_cast<Form *>(static_cast<const Armature *>(this)->find(id)); // *this is not const here
}

Transform Armature::worldPlace(const Form &form) const
{
    Transform whole = form.place;
    std::uint32_t parent = form.parent;
    for (std::size_t guard = 0; parent != 0 && guard < forms.size(); ++guard) {
        const Form *p = find(parent);
        if (!p)
            break;
        whole = compose(p->place, whole);
        parent = p->parent;
    }
    return whole;
}

bool Armature::isDescendant(std::uint32_t id, std::uint32_t ancestor) const
{
    for (std::size_t guard = 0; guard <= forms.size(); ++guard) {
        const Form *f = find(id);
        if (!f || f->parent == 0)
            return false;
        if (f->parent == ancestor)
            return true;
        id = f->parent;
    }
    return false;
}

std::vector<std::uint32_t> Armature::branch(std::uint32_t id) const
{
    std::vector<std::uint32_t> ids{id};
    std::unordered_set<std::uint32_t> seen{id};
    for (const Form &f : forms) // a parent stands before its children
        if (seen.contains(f.parent) && seen.insert(f.id).second)
            ids.push_back(f.id);
    return ids;
}

namespace {

/// Every number of a path point, so that curves are mixed in one place.
PathPoint mixed(const PathPoint &a, const PathPoint &b, float w)
{
    const auto mix = [w](float x, float y) { return x + (y - x) * w; };
    return {lerp(a.at, b.at, w), mix(a.radius, b.radius), mix(a.squash, b.squash), mix(a.square, b.square),
            mix(a.rotation, b.rotation)};
}

/// Height of a curve over z (component `up` of its points), straight between points; sorted by z.
struct Profile {
    std::vector<std::pair<float, float>> points;

    Profile(const std::vector<Vec3f> &curve, int up)
    {
        std::vector<PathPoint> path;
        for (const Vec3f p : curve)
            path.push_back({p});
        std::stable_sort(path.begin(), path.end(), [](const auto &a, const auto &b) { return a.at.z < b.at.z; });
        for (const PathPoint &p : smoothPath(path, 8))
            points.push_back({p.at.z, bonemoss::at(p.at, up)});
    }
    float at(float z) const
    {
        const auto next = std::lower_bound(points.begin(), points.end(), std::pair{z, -1e30f});
        if (next == points.begin())
            return points.front().second;
        if (next == points.end())
            return points.back().second;
        const auto before = std::prev(next);
        const float span = next->first - before->first;
        return span > 0 ? before->second + (next->second - before->second) * (z - before->first) / span : next->second;
    }
};

} // namespace

std::vector<PathPoint> bodyPath(const Form &form, int steps)
{
    if (form.sides[0].size() < 2 || form.sides[1].size() < 2)
        return {};
    const Profile crown(form.sides[0], 1), belly(form.sides[1], 1);
    const float from = std::max(crown.points.front().first, belly.points.front().first);
    const float to = std::min(crown.points.back().first, belly.points.back().first);
    if (!(to > from))
        return {};
    const auto &left = form.sides[2], &right = form.sides[3];
    std::vector<PathPoint> path;
    for (int i = 0; i <= steps; ++i) {
        const float z = from + (to - from) * float(i) / float(steps);
        const float top = crown.at(z), bottom = belly.at(z);
        PathPoint p;
        p.radius = std::max(std::abs(top - bottom) / 2, 0.02f);
        float l = 0.8f * p.radius, r = -l;
        if (left.size() > 1)
            l = Profile(left, 0).at(z), r = right.size() > 1 ? Profile(right, 0).at(z) : -l;
        else if (right.size() > 1)
            r = Profile(right, 0).at(z), l = -r;
        p.at = {(l + r) / 2, (top + bottom) / 2, z};
        p.squash = std::max(std::abs(l - r) / 2, 0.02f) / p.radius;
        p.square = form.square;
        path.push_back(p);
    }
    // Where the curves meet at a tip the section has no shape of its own.
    path.front().squash = path[1].squash;
    path.back().squash = path[path.size() - 2].squash;
    return path;
}

std::vector<PathPoint> smoothPath(const std::vector<PathPoint> &path, int steps)
{
    if (path.size() < 3)
        return path;
    std::vector<PathPoint> out;
    const auto n = path.size();
    // Mirror the outer spans so that the curve ends at the first and last point.
    const auto get = [&](std::ptrdiff_t i) -> PathPoint {
        if (i < 0)
            return mixed(path[0], path[1], -1);
        if (i >= std::ptrdiff_t(n))
            return mixed(path[n - 1], path[n - 2], -1);
        return path[std::size_t(i)];
    };
    for (std::size_t s = 0; s + 1 < n; ++s) {
        const auto i = std::ptrdiff_t(s);
        const PathPoint p[4] = {get(i - 1), get(i), get(i + 1), get(i + 2)};
        float t[4] = {0, 0, 0, 0};
        for (std::size_t k = 1; k < 4; ++k)
            t[k] = t[k - 1] + std::sqrt(std::max(length(p[k].at - p[k - 1].at), 1e-4f));
        for (int k = 0; k < steps; ++k) {
            const float x = t[1] + (t[2] - t[1]) * float(k) / float(steps);
            const auto mix = [&](const PathPoint &a, const PathPoint &b, float ta, float tb) {
                return mixed(a, b, (x - ta) / (tb - ta));
            };
            const PathPoint a1 = mix(p[0], p[1], t[0], t[1]), a2 = mix(p[1], p[2], t[1], t[2]), a3 = mix(p[2], p[3], t[2], t[3]);
            const PathPoint b1 = mix(a1, a2, t[0], t[2]), b2 = mix(a2, a3, t[1], t[3]);
            PathPoint c = mix(b1, b2, t[1], t[2]);
            const float least = std::min(p[1].radius, p[2].radius) * 0.5f;
            c.radius = std::max(c.radius, least);
            c.squash = std::max(c.squash, std::min(p[1].squash, p[2].squash) * 0.5f);
            c.square = std::clamp(c.square, 0.0f, 1.0f);
            out.push_back(c);
        }
    }
    out.push_back(path.back());
    return out;
}

} // namespace bonemoss::armature
