#include "armature/form.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bonemoss::armature {

namespace {

/// Turn that takes +z to the tangent and +y as near to the crown as that allows.
Quat frameTurn(Vec3f tangent)
{
    const Quat lean = rotationFromTo({0, 0, 1}, tangent);
    const Vec3f up = std::abs(tangent.y) < 0.98f ? Vec3f{0, 1, 0} : Vec3f{0, 0, -1};
    const Vec3f wanted = normalized(up - tangent * dot(up, tangent)), has = rotate(lean, {0, 1, 0});
    return rotationAbout(tangent, std::atan2(dot(cross(has, wanted), tangent), dot(has, wanted))) * lean;
}

struct Station {
    Vec3f at;
    Quat turn;
};

/// Place and direction at shares of a curve's length. Straight between its points.
class Curve
{
public:
    Curve(const Form &form, const Transform &world)
    {
        const auto path = form.kind == FormKind::Body ? bodyPath(form, 40) : smoothPath(form.path, 12);
        for (const PathPoint &p : path) {
            m_points.push_back(world.apply(p.at));
            const std::size_t n = m_points.size();
            m_along.push_back(n > 1 ? m_along.back() + length(m_points[n - 1] - m_points[n - 2]) : 0);
        }
    }
    bool isUsable() const { return m_points.size() > 1 && m_along.back() > 0; }
    Station at(float share) const
    {
        const float s = std::clamp(share, 0.0f, 1.0f) * m_along.back();
        const auto next = std::upper_bound(m_along.begin() + 1, m_along.end() - 1, s);
        const auto i = std::size_t(next - m_along.begin());
        const Vec3f a = m_points[i - 1], b = m_points[i];
        const float span = m_along[i] - m_along[i - 1];
        const float w = span > 0 ? (s - m_along[i - 1]) / span : 0;
        // The direction turns evenly from one piece to the next.
        const Vec3f before = m_points[i > 1 ? i - 2 : 0], after = m_points[std::min(i + 1, m_points.size() - 1)];
        return {lerp(a, b, w), frameTurn(normalized(lerp(normalized(b - before), normalized(after - a), w)))};
    }

private:
    std::vector<Vec3f> m_points;
    std::vector<float> m_along;
};

float sizeAt(const std::vector<float> &sizes, float share)
{
    if (sizes.empty())
        return 1;
    const float x = share * float(sizes.size() - 1);
    const auto i = std::min(std::size_t(x), sizes.size() - 1), j = std::min(i + 1, sizes.size() - 1);
    return sizes[i] + (sizes[j] - sizes[i]) * (x - float(i));
}

/// Places by the rule alone, the form's own first.
std::vector<Transform> ruled(const Armature &a, const Form &f, const Transform &own)
{
    const Repeat &r = f.repeat;
    std::vector<Transform> places(1, own);
    if (r.mode == RepeatMode::Around && r.count > 1) {
        const Form *parent = a.find(f.parent);
        const Transform frame = parent ? a.worldPlace(*parent) : Transform{};
        const Vec3f centre = frame.apply(r.centre), axis = normalized(rotate(frame.rotation, r.axis));
        const bool closes = std::abs(r.spread) > 2 * std::numbers::pi_v<float> - 1e-3f;
        for (std::uint32_t i = 1; i < r.count; ++i) {
            const Quat turn = rotationAbout(axis, r.spread * float(i) / float(closes ? r.count : r.count - 1));
            places.push_back({centre + rotate(turn, own.translation - centre), normalized(turn * own.rotation), own.scale});
        }
    } else if (r.mode == RepeatMode::Along && r.count > 1) {
        const Form *guide = a.find(r.guide);
        if (!guide)
            return places;
        const Curve curve(*guide, a.worldPlace(*guide));
        if (!curve.isUsable())
            return places;
        const Station first = curve.at(r.from);
        for (std::uint32_t i = 1; i < r.count; ++i) {
            const Station s = curve.at(r.from + (r.to - r.from) * float(i) / float(r.count - 1));
            const Quat turn = normalized(s.turn * first.turn.conjugate());
            places.push_back({s.at + rotate(turn, own.translation - first.at), normalized(turn * own.rotation), own.scale});
        }
    }
    for (std::size_t i = 0; i < places.size() && places.size() > 1; ++i)
        places[i].scale = places[i].scale * sizeAt(r.sizes, float(i) / float(places.size() - 1));
    return places;
}

} // namespace

std::vector<Transform> placesOf(const Armature &a, const Form &f)
{
    const std::vector<Transform> all = ruled(a, f, a.worldPlace(f));
    if (f.repeat.changes.empty())
        return all;
    std::vector<Transform> shown;
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto change =
            std::find_if(f.repeat.changes.begin(), f.repeat.changes.end(), [&](const CopyChange &c) { return c.index == i; });
        if (change == f.repeat.changes.end())
            shown.push_back(all[i]);
        else if (!change->isHidden)
            shown.push_back({all[i].translation + change->translation, normalized(change->rotation * all[i].rotation),
                             all[i].scale * change->scale});
    }
    return shown;
}

mesh::PolyMesh tessellateAll(const Armature &a, const Form &f)
{
    mesh::PolyMesh all;
    for (const Transform &place : placesOf(a, f))
        append(all, tessellate(f, place));
    return all;
}

} // namespace bonemoss::armature
