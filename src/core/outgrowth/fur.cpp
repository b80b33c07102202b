// Fur as locks: closed solids that lie on the skin as tiles on a roof.
#include "outgrowth/coat.h"

#include "base/parallel.h"

#include <algorithm>
#include <array>
#include <map>

namespace bonemoss::outgrowth {

namespace {

constexpr std::size_t kStations = 22;

const Coat &coatOf(const Input &in)
{
    return static_cast<const Coat &>(*in.prepared);
}

/// Which sites lead: taken in the order of their numbers, each when no other leader is near; then the middle ones likewise.
std::vector<int> levelsOf(const std::vector<growth::Site> &sites, const std::array<float, 2> &apart, float aspect)
{
    std::vector<std::size_t> order(sites.size());
    for (std::size_t i = 0; i < order.size(); ++i)
        order[i] = i;
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        return sites[a].number != sites[b].number ? sites[a].number < sites[b].number : a < b;
    });
    std::vector<int> level(sites.size(), 2);
    for (int want = 0; want < 2; ++want) {
        std::vector<std::size_t> taken;
        for (const std::size_t i : order) {
            if (level[i] < 2 || sites[i].inner < 0.35f)
                continue;
            const bool isFree = std::none_of(taken.begin(), taken.end(), [&](std::size_t o) {
                return distanceFrom(sites[o], aspect, sites[i].at) < apart[std::size_t(want)];
            });
            if (isFree)
                level[i] = want, taken.push_back(i);
        }
    }
    return level;
}

} // namespace

std::shared_ptr<const Prepared> prepareLocks(const Input &in)
{
    constexpr std::array<float, 3> kSizes{1.0f, 0.66f, 0.42f};
    auto coat = std::make_shared<Coat>();
    const float length = in.value("length"), half = 0.5f * length * in.value("width"), density = in.value("density");
    growth::ScatterSettings settings;
    settings.size = 0.62f * 2 * half * kSizes[1] / std::sqrt(density);
    settings.aspect = std::max(0.5f, 0.42f * length / (0.82f * 2 * half));
    settings.variation = in.value("variation"), settings.seed = in.rule.seed;
    settings.border = 3;
    settings.isMirrored = in.rule.isMirrored && in.about.plane;
    coat->standing = standingOf(in, settings);
    const std::vector<growth::Site> &sites = *coat->standing->sites;
    const std::vector<int> levels = levelsOf(sites, {1.75f * settings.size, 1.15f * settings.size}, settings.aspect);
    const float middle = in.value("uneven");
    const auto side = [&](Vec3f p) { return sideOf(in, p); };
    const float clump = in.value("clump"), variation = in.value("variation");
    for (std::size_t i = 0; i < sites.size() && coat->locks.size() < std::size_t(kMostInRow) * 2; ++i) {
        const growth::Site &s = sites[i];
        const bool isFree = settings.isMirrored && std::abs(side(s.at)) < middle;
        if (settings.isMirrored && !isFree && side(s.at) < 0)
            continue; // its twin stands for it
        const std::uint64_t number = isFree ? s.number * 31 + (side(s.at) < 0 ? 7 : 3) : s.number;
        const auto random = [&](std::uint64_t what) { return randomSigned(number ^ std::uint64_t(in.rule.seed) << 40, what); };
        Lock l;
        l.root = {s.at, s.normal};
        l.along = s.along, l.level = levels[i], l.number = number;
        const float border = std::clamp(s.inner / 0.35f, 0.0f, 1.0f);
        if (border < 1 && randomUnit(number, 17) > 0.35f + 0.65f * border)
            continue;
        if (randomUnit(number, 21) >= mapAt(in, Map::Density, s.at))
            continue;
        const float size =
            kSizes[std::size_t(l.level)] * (1 + 0.28f * variation * random(1)) * (0.5f + 0.5f * border) * s.size / settings.size;
        l.length = length * size * (1 + 0.2f * variation * random(2)) * in.profileAt(border)
                   * std::max(mapAt(in, Map::Length, s.at), 0.06f);
        l.half = std::max(half * size * (1 + 0.2f * variation * random(3)), kLeastHalf * 1.3f);
        l.thick = std::max(in.value("thickness") * l.half, kLeastHalf);
        l.lift = (in.value("lift") + float(std::array{0, 3, 5}[std::size_t(l.level)]) + 4 * variation * random(4))
                 * kRadiansPerDegree * (0.65f + 0.35f * border);
        l.lift = std::clamp(l.lift + kLiftByMap * kRadiansPerDegree * (mapAt(in, Map::Lift, s.at) - 1), 0.02f, 1.5f);
        l.flick = in.value("flick") * kRadiansPerDegree;
        l.yaw = (l.level == 0 ? 14.0f : 8.0f) * kRadiansPerDegree * variation * random(5);
        l.wave = in.value("wave") * (1 + 0.3f * variation * random(6));
        l.phase = randomUnit(number, 18);
        l.ridges = l.level == 2 ? 1 : std::clamp(int(std::lround(1 + clump * (l.level == 0 ? 3.2f : 1.6f))), 1, 4);
        l.curl = std::clamp(in.value("curl") + mapAt(in, Map::Curl, s.at) - 1, 0.0f, 1.0f);
        coat->locks.push_back(l);
        coat->isOwnTwin.push_back(isFree);
    }
    // Followers lean towards the line of the nearest leader and share its rhythm.
    for (Lock &l : coat->locks) {
        if (l.level == 0)
            continue;
        const Lock *leader = nullptr;
        float least = 1.5f * length;
        for (const Lock &o : coat->locks)
            if (o.level == 0) {
                const float away = bonemoss::length(o.root.at - l.root.at);
                if (away < least)
                    least = away, leader = &o;
            }
        if (!leader)
            continue;
        const Vec3f aim = leader->root.at + leader->along * (0.9f * leader->length) - l.root.at;
        const Vec3f across = cross(l.root.normal, l.along);
        const float angle = std::atan2(dot(aim, across), std::max(dot(aim, l.along), 0.2f * leader->length));
        l.yaw += clump * 0.5f * std::clamp(angle, -0.49f, 0.49f);
        l.phase = std::lerp(l.phase, leader->phase, 0.65f);
    }
    pushApart(in, *coat, in.value("push"));
    return coat;
}

void preparedLocks(const Input &in, std::vector<Spot> &out)
{
    const Coat &coat = coatOf(in);
    for (std::size_t k = 0; k < coat.locks.size(); ++k) {
        Spot s;
        s.root = coat.locks[k].root;
        s.forward = coat.locks[k].along;
        s.variant = std::uint32_t(k);
        s.isOnPlane = coat.isOwnTwin[k];
        out.push_back(s);
    }
}

namespace {

/// Its middle line in space, laid along the flow over the skin. wild: 1 as the settings have it, less where it would meet itself. every:
/// at how many stations the skin is looked for anew.
std::vector<Vec3f> lineOf(const Input &in, const Coat &coat, const Lock &l, float wild, std::vector<Vec3f> &ups,
                          std::size_t every = 3)
{
    std::vector<Vec3f> line;
    Vec3f n = l.root.normal, f = l.along, at = l.root.at;
    const float step = l.length / float(kStations - 3), stiff = in.value("stiffness"), gravity = wild * in.value("gravity");
    const float curl = wild * l.curl * l.length * 0.12f, turns = 1.6f;
    Vec3f way = normalized(f * std::cos(l.lift) + n * std::sin(l.lift));
    const float deep = std::max(0.9f * l.thick, 0.5f);
    const Vec3f outward = normalized(way * 0.8f + n * 0.6f); // it comes out of the skin at a slant
    line.push_back(at - outward * (deep * 1.9f));
    line.push_back(at - outward * (deep * 0.8f));
    ups.assign(2, normalized(n - way * dot(n, way)));
    float height = 0;
    for (std::size_t i = 2; i < kStations; ++i) {
        const float s = float(i - 2) / float(kStations - 3);
        if (i % every == 2)
            if (const auto hit = mesh::nearestPoint(in.skin, at)) {
                n = hit->normal;
                height = dot(at - hit->point, n);
                if (coat.standing) {
                    const auto flow = coat.standing->flow->at(hit->point, n);
                    const Vec3f now = flow.along - n * dot(flow.along, n);
                    if (squaredLength(now) > 0.05f)
                        f = normalized(lerp(normalized(f - n * dot(f, n)), normalized(now), 0.5f));
                }
            }
        f = normalized(f - n * dot(f, n));
        float lift = l.lift * (1 - 0.75f * s) + wild * l.flick * s * s * s;
        if (height < 0.75f * l.thick + 0.04f * l.length * s)
            lift += 0.30f;
        const float yaw =
            std::clamp(l.yaw * smooth(0, 0.7f, s) + wild * l.wave * std::sin(2 * kPi * (1.1f * s + l.phase)) * smooth(0, 0.3f, s),
                       -0.6f, 0.6f);
        Vec3f wanted = (f * std::cos(yaw) + cross(n, f) * std::sin(yaw)) * std::cos(lift) + n * std::sin(lift);
        wanted = normalized(wanted + Vec3f{0, -gravity * s, 0});
        way = normalized(lerp(way, wanted, (0.4f + 0.6f * wild) * (1 - std::pow(std::clamp(stiff, 0.05f, 0.95f), 0.45f))));
        Vec3f up = n - way * dot(n, way);
        up = normalized(squaredLength(up) > 1e-6f ? up : ups.back());
        const Vec3f aside = cross(up, way);
        const float r = curl * smooth(0.02f, 0.55f, s) * (1 - 0.45f * s), a = 2 * kPi * (turns * s + l.phase);
        line.push_back(at + (aside * std::cos(a) + up * (std::sin(a) + 0.6f)) * r);
        ups.push_back(up);
        at += way * step;
        height += dot(way, n) * step;
    }
    return line;
}

/// Its sections in the frame of its root; narrowest tells how much they had to be narrowed.
std::vector<Station> sectionsOf(const Input &in, const Coat &coat, const Lock &l, float wild, float &narrowest)
{
    std::vector<Vec3f> ups;
    std::vector<Vec3f> line = lineOf(in, coat, l, wild, ups);
    const io::Placement frame = frameAt(l.root, l.along);
    const Vec3f x{frame.m[0], frame.m[1], frame.m[2]}, y{frame.m[3], frame.m[4], frame.m[5]},
        z{frame.m[6], frame.m[7], frame.m[8]};
    const auto turned = [&](Vec3f d) { return Vec3f{dot(d, x), dot(d, y), dot(d, z)}; };
    for (Vec3f &p : line)
        p = turned(p - l.root.at);
    std::vector<Station> stations = framed(line, turned(cross(ups[0], l.along)));
    const float twist = wild * in.value("twist") * kRadiansPerDegree, curled = std::min(1.0f, l.curl * 2);
    Vec3f carried;
    for (std::size_t i = 0; i < stations.size(); ++i) { // the flat side lies to the skin, but where it curls
        Station &st = stations[i];
        const Vec3f way = st.along();
        // The frame before it, carried on, and turned towards the skin by no more than a sixth of a right angle.
        const Vec3f last = i > 0 ? carried : st.up, skin = turned(ups[i]);
        Vec3f up = normalized(last - way * dot(last, way));
        const Vec3f flat = skin - way * dot(skin, way);
        const float angle = std::atan2(dot(cross(up, flat), way), dot(up, flat));
        const float turn = std::clamp(angle, -0.26f, 0.26f) * (1 - curled) * smooth(0.15f, 0.5f, length(flat));
        up = normalized(up * std::cos(turn) + cross(way, up) * std::sin(turn));
        carried = up;
        const float s = i < 2 ? 0 : float(i - 2) / float(kStations - 3), a = twist * s;
        const Vec3f side = cross(way, up);
        st.side = side * std::cos(a) + up * std::sin(a);
        st.up = cross(st.side, way);
        const float q = std::max(0.0f, (s - 0.3f) / 0.7f), taper = in.value("taper");
        const float flame = std::lerp(1 - q * q * q * q, std::pow(std::max(0.0f, 1 - std::pow(q, 1.45f)), 1.12f), taper);
        const float w = s < 0.3f ? std::lerp(0.55f, 1.0f, smooth(0, 0.3f, s)) : flame;
        st.width = std::max(l.half * w, kLeastHalf), st.height = std::max(l.thick * std::pow(w, 0.8f), kLeastHalf);
    }
    narrowest = keepApart(stations, 1.2f);
    return stations;
}

} // namespace

mesh::PolyMesh lockShape(const Input &in, const Variation &v)
{
    const Coat &coat = coatOf(in);
    const Lock &l = coat.locks[v.variant];
    std::vector<Station> stations;
    float narrowest = 0;
    for (const float wild : {1.0f, 0.6f, 0.3f, 0.1f}) { // calmer until it does not meet itself
        stations = sectionsOf(in, coat, l, wild, narrowest);
        if (narrowest > 0.3f)
            break;
    }
    std::size_t end = kStations; // where it would be thinner than what prints, it ends: no thread hangs from it
    while (end > 8 && stations[end - 2].width <= kLeastHalf * 1.001f)
        --end;
    stations.resize(std::max<std::size_t>(5, std::min(end, std::size_t(float(kStations) * (1 - v.broken)))));
    if (v.broken <= 0)
        roundTip(stations, 0.8f * kLeastHalf, 2);
    // Points lie on grooves and crests, so that these are loops of edges.
    const int ridges = l.ridges;
    const auto top = std::uint32_t(4 * ridges + 1), bottom = std::uint32_t(2 * ridges + 1), around = top + bottom;
    std::array<float, 5> groove{};
    for (int g = 0; g <= ridges; ++g)
        groove[std::size_t(g)] =
            1
            - 2 * (float(g) + (g > 0 && g < ridges ? 0.3f * randomSigned(l.number, std::uint64_t(60 + g)) : 0.0f))
                  / float(ridges);
    const float deep = 0.62f * in.value("grooves");
    const std::size_t last = stations.size() - 1;
    return swept(stations, around, [&](std::size_t i, std::uint32_t j) {
        const float s = i < 2 ? 0 : std::min(1.0f, float(i - 2) / float(kStations - 3));
        const bool isTop = j < top;
        float across, crest = 1;
        if (isTop) {
            const int ridge = std::min(int(j / 4), ridges - 1);
            constexpr float kPlaces[] = {0, 0.24f, 0.5f, 0.76f, 1};
            const float t = kPlaces[j - std::uint32_t(ridge) * 4], q = 2 * t - 1;
            across = std::lerp(groove[std::size_t(ridge)], groove[std::size_t(ridge + 1)], t);
            const float merge = 0.55f + 0.35f * randomUnit(l.number, std::uint64_t(80 + ridge));
            const float cut = deep * smooth(-0.02f, 0.16f, s) * (1 - smooth(merge - 0.28f, merge, s));
            crest = std::lerp(1 - cut, 1 + 0.15f * randomSigned(l.number, std::uint64_t(70 + ridge)),
                              std::sqrt(std::max(0.0f, 1 - q * q)));
        } else {
            across = -1 + 2 * float(j - top + 1) / float(bottom + 1);
        }
        const float round = std::sqrt(std::max(0.0f, 1 - across * across));
        if (i == 0 || i >= last)
            return Corner{across, isTop ? round : -round};
        const float edge = std::pow(std::max(0.0f, 1 - std::pow(std::abs(across), 2.3f)), 0.52f);
        const float blend = smooth(0, 0.1f, s);
        return Corner{across, isTop ? std::lerp(round, edge * crest, blend) : -std::lerp(round, 0.7f * edge, blend)};
    });
}

namespace {

/// A place along a lock.
struct Sample {
    Vec3f at, across, up;
    float half, thick, out; ///< mm; out: from the root
};

/// What two locks that meet ask of one.
struct Change {
    float yaw = 0, lift = 0;
    int count = 0;
};

/// Two places nearer than side: those side by side go apart, of those one over the other the upper rises.
void giveWay(const Sample &a, const Sample &b, float side, Change &ca, Change &cb)
{
    const Vec3f to = b.at - a.at;
    const float x = dot(to, a.across), y = dot(to, a.up), z2 = squaredLength(to) - x * x - y * y;
    const float beside = a.half + b.half - std::abs(x), over = a.thick + b.thick - std::abs(y);
    if (beside <= 0 || over <= 0 || z2 > side * side / 4)
        return;
    ++ca.count, ++cb.count;
    if (beside < 1.6f * over) { // side by side: apart
        const float way = x >= 0 ? 1.0f : -1.0f;
        ca.yaw -= way * 0.35f * beside / a.out;
        cb.yaw += way * 0.35f * beside / b.out;
    } else { // one over the other: in the order they have
        const bool isOver = y > 0 || (y == 0 && dot(to, normalized(cross(a.across, a.up))) < 0);
        ca.lift += (isOver ? -0.30f : 0.45f) * over / a.out;
        cb.lift += (isOver ? 0.45f : -0.30f) * over / b.out;
    }
}

} // namespace

void pushApart(const Input &in, Coat &coat, float strength)
{
    constexpr int kSamples = 4, kPasses = 2;
    constexpr std::array<float, kSamples> kAlong{0.25f, 0.5f, 0.75f, 0.95f}, kWide{1, 0.95f, 0.7f, 0.3f};
    std::vector<Lock> &locks = coat.locks;
    if (locks.size() < 2 || strength <= 0)
        return;
    float widest = 0;
    for (const Lock &l : locks)
        widest = std::max({widest, l.half, l.thick});
    std::vector<Sample> samples(locks.size() * kSamples);
    constexpr float kFarthest = 0.3f; // radians from their own way, so that none stands out
    std::vector<std::pair<float, float>> own;
    for (const Lock &l : locks)
        own.push_back({l.yaw, l.lift});
    for (int pass = 0; pass < kPasses; ++pass) {
        forEachBlock(locks.size(), 16, [&](BlockRange r) {
            std::vector<Vec3f> ups;
            for (std::size_t k = r.begin; k < r.end; ++k) {
                const Lock &l = locks[k];
                const std::vector<Vec3f> line = lineOf(in, coat, l, 1, ups, 7); // roughly: only to see who is in the way
                for (std::size_t q = 0; q < kSamples; ++q) {
                    const auto i = std::min(std::size_t(2 + kAlong[q] * float(kStations - 3)), line.size() - 2);
                    const Vec3f way = normalized(line[i + 1] - line[i - 1]);
                    samples[k * kSamples + q] = {line[i],
                                                 normalized(cross(ups[i], way)),
                                                 ups[i],
                                                 l.half * kWide[q],
                                                 l.thick * kWide[q],
                                                 kAlong[q] * l.length};
                }
            }
        });
        // Those in the same cells or beside; in the order of their numbers, so that threads make no difference.
        const float side = 2 * widest;
        const auto cellOf = [&](Vec3f p) {
            return std::array<int, 3>{int(std::floor(p.x / side)), int(std::floor(p.y / side)), int(std::floor(p.z / side))};
        };
        std::map<std::array<int, 3>, std::vector<std::uint32_t>> cells;
        for (std::uint32_t i = 0; i < samples.size(); ++i)
            cells[cellOf(samples[i].at)].push_back(i);
        std::vector<Change> changes(locks.size());
        for (std::uint32_t i = 0; i < samples.size(); ++i) {
            const Sample &a = samples[i];
            const auto cell = cellOf(a.at);
            for (int n = 0; n < 27; ++n) {
                const auto it = cells.find({cell[0] + n % 3 - 1, cell[1] + n / 3 % 3 - 1, cell[2] + n / 9 - 1});
                if (it == cells.end())
                    continue;
                for (const std::uint32_t j : it->second) {
                    if (j / kSamples <= i / kSamples)
                        continue;
                    const Sample &b = samples[j];
                    giveWay(a, b, side, changes[i / kSamples], changes[j / kSamples]);
                }
            }
        }
        for (std::size_t k = 0; k < locks.size(); ++k)
            if (const Change &c = changes[k]; c.count > 0) {
                const float share = strength / std::sqrt(float(c.count));
                locks[k].yaw = std::clamp(locks[k].yaw + share * c.yaw, own[k].first - kFarthest, own[k].first + kFarthest);
                locks[k].lift = std::clamp(locks[k].lift + share * c.lift, std::max(own[k].second - kFarthest, 0.02f),
                                           own[k].second + kFarthest);
            }
    }
}

} // namespace bonemoss::outgrowth
