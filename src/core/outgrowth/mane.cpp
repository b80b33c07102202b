// Locks in rows along a line, and in a ring about a place.
#include "outgrowth/coat.h"

#include <algorithm>
#include <array>

namespace bonemoss::outgrowth {

namespace {

/// With the sizes that the settings give one of so many times the length.
Lock lockOf(const Input &in, std::uint64_t number, float size)
{
    const float length = in.value("length"), variation = in.value("variation");
    const auto random = [&](std::uint64_t what) {
        return variation * randomSigned(number ^ std::uint64_t(in.rule.seed) << 40, what);
    };
    Lock l;
    l.number = number;
    l.level = size > 0.75f ? 0 : size > 0.5f ? 1 : 2;
    l.length = std::max(length * size * (1 + 0.18f * random(2)), 1.0f);
    l.half = std::max(0.5f * length * in.value("width") * std::sqrt(size) * (1 + 0.15f * random(3)), kLeastHalf * 1.3f);
    l.thick = std::max(in.value("thickness") * l.half, kLeastHalf);
    l.flick = in.value("flick") * kRadiansPerDegree;
    l.yaw = 8 * kRadiansPerDegree * random(5);
    l.curl = in.value("curl");
    l.wave = in.value("wave") * (1 + 0.3f * random(6));
    l.ridges = l.level == 2 ? 1 : std::clamp(int(std::lround(1 + in.value("clump") * (l.level == 0 ? 3.2f : 1.6f))), 1, 4);
    return l;
}

} // namespace

/// The middle row lies along the line, the others fall to its sides, the farther the flatter. Sizes follow a pattern that is
/// shifted from row to row, and waves go along the line, so that neighbours move together.
std::shared_ptr<const Prepared> prepareMane(const Input &in)
{
    auto coat = std::make_shared<Coat>();
    if (in.rule.roots.size() < 2)
        return coat;
    constexpr std::array<float, 7> kSizes{1, 0.58f, 0.84f, 0.66f, 0.9f, 0.5f, 0.74f};
    const Track track(in.rule.roots);
    const int rows = std::max(1, in.count("rows"));
    const bool hasPlane = in.rule.isMirrored && in.about.plane;
    bool isOnPlane = hasPlane;
    for (const Root &r : in.rule.roots)
        isOnPlane = isOnPlane && std::abs(sideOf(in, r.at)) < 0.6f;
    const float fall = in.value("fall") * kRadiansPerDegree, spread = in.value("spread"), lift = in.value("lift"),
                step = std::max(0.72f * in.value("length") * in.value("width") / in.value("density"), 0.3f),
                variation = in.value("variation");
    const auto along = std::min<std::size_t>(std::size_t(track.whole() / step) + 1, 400);
    for (int row = 0; row < rows; ++row) {
        const float share = rows > 1 ? float(row) / float(rows - 1) : 0, off = spread * share;
        for (std::size_t k = 0; k < along && coat->locks.size() < std::size_t(kMostInRow) * 2; ++k)
            for (const float side : {1.0f, -1.0f}) {
                if (row == 0 && side < 0)
                    continue;
                const std::uint64_t number = k * 64 + std::uint64_t(row) * 2 + std::uint64_t(side < 0);
                const auto random = [&](std::uint64_t what) {
                    return randomSigned(number ^ std::uint64_t(in.rule.seed) << 40, what);
                };
                const float mm =
                    std::clamp(step * (float(k) + 0.5f * float(row % 2) + 0.3f * variation * random(20)), 0.0f, track.whole());
                const float t = track.whole() > 0 ? mm / track.whole() : 0;
                Lock l = lockOf(in, number, kSizes[(k + std::size_t(row) * 3) % kSizes.size()] * in.profileAt(t));
                Vec3f forward;
                l.root = track.at(mm, forward);
                const Vec3f aside = normalized(cross(l.root.normal, forward)) * (row == 0 ? (k % 2 ? 1.0f : -1.0f) : side);
                if (off > 0)
                    if (const auto hit = mesh::nearestPoint(in.skin, l.root.at + aside * off))
                        l.root = {hit->point, hit->normal};
                const float turn = fall * (row == 0 ? 0.45f : 1.0f);
                Vec3f way = forward * std::cos(turn) + aside * std::sin(turn);
                way = way - l.root.normal * dot(way, l.root.normal);
                l.along = normalized(squaredLength(way) > 1e-6f ? way : forward);
                l.lift = (lift * (1 - 0.55f * share) + 5 * variation * random(4)) * kRadiansPerDegree;
                l.phase = 0.5f + 0.5f * std::sin(2 * kPi * mm / (3.5f * in.value("length"))) + 0.06f * random(7);
                coat->locks.push_back(l);
                // Both sides are made here where the line is its own twin; uneven, as hair is.
                coat->isOwnTwin.push_back(isOnPlane);
            }
    }
    pushApart(in, *coat, 0.7f);
    return coat;
}

/// Tufts about a place: one leads, one is short, those to the nose lie flatter than those behind.
std::shared_ptr<const Prepared> prepareCrown(const Input &in)
{
    auto coat = std::make_shared<Coat>();
    if (in.rule.roots.empty())
        return coat;
    const Root &root = in.rule.roots.front();
    const int count = std::max(1, in.count("count"));
    const io::Placement frame = frameAt(root, {0, 0, 1});
    const Vec3f x{frame.m[0], frame.m[1], frame.m[2]}, z{frame.m[6], frame.m[7], frame.m[8]};
    const bool isOnPlane = in.rule.isMirrored && in.about.plane && std::abs(sideOf(in, root.at)) < 0.6f;
    const float variation = in.value("variation");
    for (int k = 0; k < count; ++k) {
        const auto number = std::uint64_t(k) + 1;
        const auto random = [&](std::uint64_t what) {
            return variation * randomSigned(number ^ std::uint64_t(in.rule.seed) << 40, what);
        };
        const float size = (k == 0 ? 1.15f : k == (count + 1) / 2 ? 0.66f : 0.9f) * in.profileAt(float(k) / float(count));
        Lock l = lockOf(in, number, size);
        l.level = 0;
        const float a = 2 * kPi * (float(k) + 0.35f * random(1)) / float(count);
        const Vec3f outward = z * std::cos(a) + x * std::sin(a);
        l.root = root;
        if (const auto hit = mesh::nearestPoint(in.skin, root.at + outward * in.value("distance")))
            l.root = {hit->point, normalized(hit->normal + root.normal)};
        const Vec3f way = outward - l.root.normal * dot(outward, l.root.normal);
        l.along = normalized(squaredLength(way) > 1e-6f ? way : x);
        l.lift = std::clamp(in.value("lift") - 14 * std::cos(a) + 8 * random(4), 0.0f, 88.0f) * kRadiansPerDegree;
        l.phase = 0.25f;
        coat->locks.push_back(l);
        coat->isOwnTwin.push_back(isOnPlane);
    }
    return coat;
}

} // namespace bonemoss::outgrowth
