#include "armature/form.h"

#include <algorithm>
#include <array>

namespace bonemoss::armature {

namespace {

constexpr std::array<std::string_view, 6> kKinds{"ball", "ellipsoid", "limb", "block", "cone", "tube"};
constexpr std::array<std::string_view, 3> kRoles{"add", "cut", "apart"};

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
    return kKinds[std::size_t(kind)];
}
std::optional<FormKind> kindNamed(std::string_view name)
{
    return named<FormKind>(kKinds, name);
}
std::string_view nameOf(FormRole role)
{
    return kRoles[std::size_t(role)];
}
std::optional<FormRole> roleNamed(std::string_view name)
{
    return named<FormRole>(kRoles, name);
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
    for (const Form &f : forms)
        if (isDescendant(f.id, id))
            ids.push_back(f.id);
    return ids;
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
            return {path[0].at * 2.0f - path[1].at, path[0].radius};
        if (i >= std::ptrdiff_t(n))
            return {path[n - 1].at * 2.0f - path[n - 2].at, path[n - 1].radius};
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
                const float w = (x - ta) / (tb - ta);
                return PathPoint{lerp(a.at, b.at, w), a.radius + (b.radius - a.radius) * w};
            };
            const PathPoint a1 = mix(p[0], p[1], t[0], t[1]), a2 = mix(p[1], p[2], t[1], t[2]), a3 = mix(p[2], p[3], t[2], t[3]);
            const PathPoint b1 = mix(a1, a2, t[0], t[2]), b2 = mix(a2, a3, t[1], t[3]);
            PathPoint c = mix(b1, b2, t[1], t[2]);
            const float least = std::min(p[1].radius, p[2].radius) * 0.5f;
            c.radius = std::max(c.radius, least);
            out.push_back(c);
        }
    }
    out.push_back(path.back());
    return out;
}

} // namespace bonemoss::armature
