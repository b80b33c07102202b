// Members spread over an area, along the flow.
#include "base/parallel.h"
#include "growth/darts.h"
#include "outgrowth/coat.h"

#include <algorithm>

namespace bonemoss::outgrowth {

namespace {

growth::Ground groundOf(const mesh::Surface &s)
{
    growth::Ground g{s.positions, s.normals, s.topology, meanEdgeLength(s), 0};
    g.area = 0.9f * float(s.topology->faceCount()) * g.spacing * g.spacing;
    return g;
}

/// The skin where the rule grows and the faces beside, each cut into n by n: places are chosen among points, of which a coarse skin has
/// too few. outside: 255 where it does not grow.
struct Patch {
    growth::Ground ground;
    mesh::BlockArray<std::uint8_t> outside;
};

Patch patchOf(const Input &in, int n)
{
    std::vector<Vec3f> at;
    std::vector<mesh::PackedNormal> normals;
    std::vector<std::uint8_t> outside;
    const mesh::Surface &s = in.skin;
    const auto eachFace = [&](int rings, const auto &use) {
        for (const std::uint32_t b : blocksNear(in, rings))
            for (std::size_t f = 0; f < s.topology->block(b).drawnFaces; ++f) {
                const mesh::Face face = s.topology->faceOf(b, f);
                use(std::array<std::uint32_t, 4>{face.v[0], face.v[1], face.v[2], face.v[face.size() == 4 ? 3 : 2]});
            }
    };
    std::vector<bool> isNear(s.positions.size(), false);
    eachFace(1, [&](const std::array<std::uint32_t, 4> &v) {
        if (in.area[v[0]] > 0 || in.area[v[1]] > 0 || in.area[v[2]] > 0 || in.area[v[3]] > 0)
            for (const std::uint32_t i : v)
                isNear[i] = true;
    });
    eachFace(2, [&](const std::array<std::uint32_t, 4> &v) {
        if (!isNear[v[0]] && !isNear[v[1]] && !isNear[v[2]] && !isNear[v[3]])
            return;
        for (int k = 0; k < n * n; ++k) { // the middles of the parts
            const float x = (float(k % n) + 0.5f) / float(n), y = (float(k / n) + 0.5f) / float(n);
            const std::array<float, 4> share{(1 - x) * (1 - y), x * (1 - y), x * y, (1 - x) * y};
            Vec3f p, normal;
            float area = 0;
            for (std::size_t c = 0; c < 4; ++c) {
                p += s.positions[v[c]] * share[c];
                normal += s.normals[v[c]].unpack() * share[c];
                area += float(in.area[v[c]]) * share[c];
            }
            at.push_back(p);
            const Vec3f unit = normalized(normal) * 32767;
            normals.push_back({std::int16_t(unit.x), std::int16_t(unit.y), std::int16_t(unit.z)});
            outside.push_back(std::uint8_t(255 - std::lround(area)));
        }
    });
    Patch out;
    out.ground = groundOf(s);
    const float cut = 1 / float(n);
    out.ground.topology = nullptr, out.ground.spacing *= cut;
    out.ground.area = float(at.size()) * out.ground.spacing * out.ground.spacing;
    out.ground.positions = decltype(out.ground.positions)(std::move(at));
    out.ground.normals = decltype(out.ground.normals)(std::move(normals));
    out.outside = mesh::BlockArray<std::uint8_t>(std::move(outside));
    return out;
}

template <typename T> bool isShared(const mesh::BlockArray<T> &a, const mesh::BlockArray<T> &b)
{
    if (a.size() != b.size())
        return false;
    for (std::size_t k = 0; k < a.blockCount(); ++k)
        if (a.has(k) != b.has(k) || (a.has(k) && !a.sharesWith(b, k)))
            return false;
    return true;
}

bool isSame(const growth::Surroundings &a, const growth::Surroundings &b)
{
    return a.limbs == b.limbs && a.joints == b.joints && a.guides == b.guides && a.plane == b.plane
           && a.planeNormal == b.planeNormal && a.stamp == b.stamp && a.flowPoints == b.flowPoints && isShared(a.sizes, b.sizes);
}

} // namespace

void Standing::take(const Input &in)
{
    positions = decltype(positions)(in.skin.positions.size());
    for (std::size_t b = 0; b < in.area.blockCount(); ++b)
        if (in.area.has(b))
            positions.takeFrom(in.skin.positions, b);
    topology = in.skin.topology, area = in.area, about = in.about;
}

bool Standing::isOf(const Input &in) const
{
    return topology == in.skin.topology && isShared(area, in.area) && isSameUnder(area, positions, in.skin.positions)
           && isSame(about, in.about);
}

namespace {

/// Where hair stands: as it falls, since even places would show as rows. Its twins come last.
std::vector<growth::Site> hairSites(const Input &in, const growth::Flow &flow, const growth::ScatterSettings &settings)
{
    constexpr float kCloser = 0.9f; // so that there are as many as of evened places that far apart
    growth::DartSettings wanted{kCloser * settings.size, settings.border * settings.size, settings.seed, {}, {}};
    if (settings.isMirrored)
        wanted.plane = in.about.plane, wanted.planeNormal = normalized(*in.about.planeNormal);
    const std::vector<growth::Dart> darts = growth::dartsOn(in.skin, in.area, blocksNear(in, 1), wanted);
    std::vector<growth::Site> sites(darts.size());
    forEachBlock(darts.size(), 1024, [&](BlockRange r) {
        std::vector<growth::GroundPoint> here;
        for (std::size_t i = r.begin; i < r.end; ++i)
            here.push_back({darts[i].at, darts[i].normal, 0, darts[i].number});
        std::vector<growth::Flow::At> lies(here.size());
        flow.at(here, lies);
        for (std::size_t i = r.begin; i < r.end; ++i) {
            const growth::Dart &d = darts[i];
            const growth::Flow::At &f = lies[i - r.begin];
            growth::Site &s = sites[i];
            s.at = d.at, s.normal = d.normal, s.along = f.along, s.across = cross(d.normal, f.along);
            s.size = settings.size, s.certain = f.certain, s.inner = d.inner, s.number = d.number;
            if (wanted.plane)
                if (const float side = dot(s.at - *wanted.plane, *wanted.planeNormal); side < 0.3f * s.size) {
                    s.at -= *wanted.planeNormal * side;
                    s.isMiddle = true;
                }
        }
    });
    for (std::size_t i = 0; wanted.plane && i < darts.size(); ++i)
        if (!sites[i].isMiddle)
            sites.push_back(growth::mirrored(sites[i], *wanted.plane, *wanted.planeNormal));
    return sites;
}

} // namespace

std::shared_ptr<const Standing> standingOf(const Input &in, const growth::ScatterSettings &settings)
{
    const std::shared_ptr<const Standing> old =
        in.rule.made && in.rule.made->prepared ? in.rule.made->prepared->standing : nullptr;
    const bool isKept = old && old->isOf(in);
    if (isKept && old->settings == settings)
        return old;
    auto now = std::make_shared<Standing>();
    now->take(in);
    now->settings = settings;
    const growth::Ground ground = groundOf(in.skin);
    const bool isHair = in.rule.kind->curves;
    now->flow = isKept ? old->flow : std::make_shared<const growth::Flow>(ground, in.about);
    if (isHair) {
        now->sites = std::make_shared<const std::vector<growth::Site>>(hairSites(in, *now->flow, settings));
        return now;
    }
    constexpr int kFinest = 12;
    const Patch patch = patchOf(in, std::clamp(int(std::ceil(ground.spacing / (0.4f * settings.size))), 1, kFinest));
    now->sites =
        std::make_shared<const std::vector<growth::Site>>(scatter(patch.ground, *now->flow, in.about, patch.outside, settings));
    return now;
}

bool isSameUnder(const mesh::BlockArray<std::uint8_t> &mask, const mesh::BlockArray<Vec3f> &before,
                 const mesh::BlockArray<Vec3f> &after)
{
    for (std::size_t b = 0; b < mask.blockCount(); ++b) {
        const std::uint8_t *m = mask.data(b);
        if (!m || before.sharesWith(after, b))
            continue;
        const Vec3f *was = before.data(b), *is = after.data(b);
        for (std::size_t i = 0; i < mask.countIn(b); ++i)
            if (m[i] > 0 && (!was || !is || !(was[i] == is[i])))
                return false;
    }
    return true;
}

std::vector<std::uint32_t> blocksNear(const Input &in, int rings)
{
    const mesh::Topology &t = *in.skin.topology;
    std::vector<bool> is(t.blockCount());
    for (std::size_t b = 0; b < is.size(); ++b)
        is[b] = in.area.has(b);
    for (int ring = 0; ring < rings; ++ring) {
        std::vector<bool> wider = is;
        for (std::size_t b = 0; b < is.size(); ++b)
            if (is[b])
                for (const std::uint32_t beside : t.block(b).blocksBeside())
                    wider[beside] = true;
        is = std::move(wider);
    }
    std::vector<std::uint32_t> out;
    for (std::uint32_t b = 0; b < is.size(); ++b)
        if (is[b])
            out.push_back(b);
    return out;
}

float sideOf(const Input &in, Vec3f p)
{
    return in.about.plane ? dot(p - *in.about.plane, *in.about.planeNormal) : 1.0f;
}

float mapAt(const Input &in, Map map, Vec3f p)
{
    const mesh::BlockArray<std::uint8_t> &values = in.maps[std::size_t(map)];
    if (values.size() == 0)
        return 1;
    const float share = shareAt(in, values, p);
    return share > 0 ? 2 * share : 1;
}

float shareAt(const Input &in, const mesh::BlockArray<std::uint8_t> &mask, Vec3f p)
{
    const auto hit = mesh::nearestPoint(in.skin, p);
    if (!hit || mask.size() == 0)
        return 1;
    const mesh::Face f = in.skin.topology->faceOf(hit->block, hit->face);
    float sum = 0, whole = 0;
    for (int k = 0; k < f.size(); ++k) {
        const std::uint32_t v = f.v[std::size_t(k)];
        const float near = 1 / (length(in.skin.positions[v] - hit->point) + 1e-3f);
        sum += near * float(mask[v]) / 255, whole += near;
    }
    return sum / whole;
}

std::shared_ptr<const Prepared> prepareArea(const Input &in)
{
    growth::ScatterSettings settings;
    settings.size = in.value("spacing"), settings.variation = in.value("variation"), settings.seed = in.rule.seed;
    settings.border = 2 * in.value("border");
    settings.isMirrored = in.rule.isMirrored && in.about.plane;
    auto out = std::make_shared<Prepared>();
    out->standing = standingOf(in, settings);
    return out;
}

namespace {

/// Whether what grows at a place, so many mm tall, can be seen from a point: it does not stand on the far side, and no skin is between.
bool isSeen(const Input &in, Vec3f at, Vec3f normal, float tall, Vec3f eye)
{
    const Vec3f top = at + normal * std::max(tall, 0.3f), way = eye - top;
    const float far = length(way);
    if (far < 1e-3f || dot(way, normal) < -0.35f * far)
        return false;
    const auto hit = mesh::castRay(in.skin, {top, way * (1 / far)});
    return !hit || hit->distance > far;
}

} // namespace

/// Half a mask, half the members: each place is kept with the share of the mask there.
void overArea(const Input &in, std::vector<Spot> &out)
{
    const std::vector<growth::Site> &sites = *in.prepared->standing->sites;
    const bool isMirrored = in.rule.isMirrored && in.about.plane;
    const float middle = in.value("uneven"), variation = in.value("variation"), lift = in.value("lift");
    const auto variants = std::uint32_t(std::max(1, in.count("variants")));
    for (const growth::Site &s : sites) {
        if (out.size() >= kMostOnArea)
            break;
        const bool isFree = isMirrored && std::abs(sideOf(in, s.at)) < middle;
        if (isMirrored && !isFree && sideOf(in, s.at) < 0)
            continue; // its twin stands for it
        const std::uint64_t number = isFree ? s.number * 31 + (sideOf(in, s.at) < 0 ? 7 : 3) : s.number;
        if (randomUnit(number, 11) >= shareAt(in, in.area, s.at) * mapAt(in, Map::Density, s.at))
            continue;
        const auto random = [&](std::uint64_t what) {
            return variation * randomSigned(number ^ std::uint64_t(in.rule.seed) << 40, what);
        };
        const float border = std::clamp(s.inner / 0.5f, 0.0f, 1.0f);
        Spot spot;
        spot.root = {s.at, s.normal};
        spot.forward = s.along;
        spot.size = (1 + 0.25f * random(1)) * std::lerp(1.0f, 0.45f + 0.55f * border, in.value("border")) * in.profileAt(border)
                    * std::max(mapAt(in, Map::Length, s.at), 0.06f);
        const float up = std::clamp(lift + kLiftByMap * (mapAt(in, Map::Lift, s.at) - 1), 0.0f, 90.0f);
        spot.rotation = {90 - up + 9 * random(2), in.value("turn") + 14 * random(3), 10 * random(4)};
        spot.lift = -in.value("sink") * spot.size;
        spot.variant = std::uint32_t(randomUnit(number, 12) * float(variants));
        spot.isOnPlane = isFree || s.isMiddle;
        if (in.rule.seenFrom) {
            const float tall = 0.5f * in.value("height") * spot.size;
            const bool isOwnSeen = isSeen(in, s.at, s.normal, tall, *in.rule.seenFrom);
            bool isTwinSeen = false;
            if (isMirrored && !spot.isOnPlane) { // the twin sees the eye where its mirror image is
                const Vec3f eye = *in.rule.seenFrom - *in.about.planeNormal * (2 * sideOf(in, *in.rule.seenFrom));
                isTwinSeen = isSeen(in, s.at, s.normal, tall, eye);
            }
            if (!isOwnSeen && !isTwinSeen)
                continue;
            spot.isOnPlane = spot.isOnPlane || !isTwinSeen;
            spot.isTwinAlone = !isOwnSeen;
        }
        out.push_back(spot);
    }
}

/// A worn stone: what is copied until an item is chosen.
mesh::PolyMesh pebbleShape(const Input &in, const Variation &v)
{
    const float half = in.value("height") / 2;
    constexpr std::size_t kAlong = 12;
    constexpr std::uint32_t kAround = 16;
    std::vector<Vec3f> line;
    for (std::size_t i = 0; i < kAlong; ++i)
        line.push_back({0, -0.94f * half * std::cos(kPi * (0.06f + 0.88f * float(i) / (kAlong - 1))), 0});
    std::vector<Station> stations = framed(line, {1, 0, 0});
    for (Station &s : stations)
        s.width = s.height = std::sqrt(std::max(half * half - s.at.y * s.at.y, 1e-4f * half * half));
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16 ^ v.variant;
    return swept(stations, kAround, [&](std::size_t i, std::uint32_t j) {
        const float a = 2 * kPi * float(j) / float(kAround);
        const float uneven =
            0.07f * std::sin(2 * a + 6 * randomUnit(seed, 1)) + 0.04f * std::sin(3 * a + 6 * randomUnit(seed, 2));
        const float r = 1 + uneven * std::sin(kPi * float(i) / (kAlong - 1));
        return Corner{std::cos(a) * r, std::sin(a) * r};
    });
}

} // namespace bonemoss::outgrowth
