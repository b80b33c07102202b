// Rows: plates, spikes, shields and the like along a line on the skin.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

Track::Track(std::span<const Root> line) : roots(line), upTo(line.size(), 0.0f)
{
    for (std::size_t i = 1; i < line.size(); ++i)
        upTo[i] = upTo[i - 1] + length(line[i].at - line[i - 1].at);
}

Root Track::at(float mm, Vec3f &forward) const
{
    const auto it = std::upper_bound(upTo.begin() + 1, upTo.end() - 1, mm);
    const auto k = std::size_t(it - upTo.begin());
    const float step = upTo[k] - upTo[k - 1], t = step > 0 ? std::clamp((mm - upTo[k - 1]) / step, 0.0f, 1.0f) : 0;
    // Directions turn evenly between the middles of the stretches about a place.
    const auto way = [&](std::size_t i) {
        return normalized(roots[std::min(i + 1, roots.size() - 1)].at - roots[i > 0 ? i - 1 : 0].at);
    };
    forward = normalized(lerp(way(k - 1), way(k), t));
    return {lerp(roots[k - 1].at, roots[k].at, t), normalized(lerp(roots[k - 1].normal, roots[k].normal, t))};
}

namespace {

constexpr std::uint32_t kSac = 1000;        ///< the variant that is soft skin between two members
constexpr std::uint32_t kFirstSac = 100000; ///< number of the first of them

/// Where members stand along a line, mm from its beginning, with the sizes that the profile gives them.
std::vector<std::pair<float, float>> stepsOf(const Input &in, float whole)
{
    std::vector<std::pair<float, float>> out;
    const int count = in.count("count");
    const float spacing = in.value("spacing");
    if (count > 0 || spacing > 0) {
        const int n = count > 0 ? count : std::min(int(whole / spacing + 1e-3f) + 1, kMostInRow);
        for (int k = 0; k < n; ++k) {
            const float mm = count <= 0 ? spacing * float(k) : n > 1 ? whole * float(k) / float(n - 1) : whole / 2;
            out.push_back({mm, in.profileAt(whole > 0 ? mm / whole : 0.5f)});
        }
        return out;
    }
    // By their own sizes: neighbours cover each other by a share of their width.
    const float wide = std::max(in.value("height") * in.value("width"), 0.2f) * (1 - in.value("overlap"));
    float mm = 0;
    while (mm <= whole && int(out.size()) < kMostInRow) {
        const float size = in.profileAt(whole > 0 ? mm / whole : 0.5f);
        out.push_back({mm, size});
        const float ahead = in.profileAt(std::min(1.0f, (mm + wide * size) / std::max(whole, 1e-6f)));
        mm += std::max(0.5f * wide * (size + ahead), 0.05f * wide + 0.05f);
    }
    return out;
}

} // namespace

void alongLine(const Input &in, std::vector<Spot> &out)
{
    if (in.rule.roots.size() < 2)
        return;
    const Track track(in.rule.roots);
    const float whole = track.whole();
    const std::vector<std::pair<float, float>> steps = stepsOf(in, whole);
    const bool isDouble = in.count("lines") > 1;
    const float jitter = in.value("jitter"), apart = in.value("apart") / 2;
    const bool hasPlane = in.rule.isMirrored && in.about.plane && in.about.planeNormal;
    // A line on the plane of symmetry is its own twin.
    const auto isOnPlane = [&](Vec3f p) { return hasPlane && std::abs(dot(p - *in.about.plane, *in.about.planeNormal)) < 0.6f; };
    bool liesOnPlane = hasPlane;
    for (const Root &r : in.rule.roots)
        liesOnPlane = liesOnPlane && isOnPlane(r.at);
    const bool isStaggered = in.count("lines") == 3;
    const auto variants = std::uint32_t(std::max(1, in.count("variants")));
    std::vector<Spot> sacs;
    for (std::size_t k = 0; k < steps.size(); ++k) {
        const auto [mm, size] = steps[k];
        const float gap = k + 1 < steps.size() ? steps[k + 1].first - mm : k > 0 ? mm - steps[k - 1].first : 0;
        const auto stand = [&](float aside, float ahead, std::uint64_t which) {
            const auto r = [&](std::uint64_t what) { return jitter * in.randomSigned(what * 2 + which, k); };
            Spot s;
            s.root = track.at(std::clamp(mm + ahead + 0.25f * gap * r(1), 0.0f, track.whole()), s.forward);
            if (aside != 0) {
                const Vec3f across = normalized(cross(s.root.normal, s.forward));
                if (const auto hit = mesh::nearestPoint(in.skin, s.root.at + across * aside))
                    s.root = {hit->point, hit->normal};
            }
            s.size = std::max(size * (1 + 0.25f * r(2)), 0.02f);
            s.rotation = {in.value("lean") + in.value("fan") * (whole > 0 ? mm / whole - 0.5f : 0.0f) + 9 * r(3),
                          in.value("turn") + 12 * r(4), in.value("splay") + 6 * r(5)};
            s.lift = -in.value("sink") * in.value("height") * s.size;
            s.variant = std::uint32_t(in.random(40 + which, k) * float(variants));
            s.isOnPlane = liesOnPlane && aside == 0;
            if (s.isOnPlane) // neither beside it nor turned out of it
                s.rotation.y = in.value("turn"), s.rotation.z = 0;
            out.push_back(s);
        };
        if (!isDouble) {
            stand(0, 0, 0);
            if (in.value("sacs") > 0 && k + 1 < steps.size()) {
                Spot sac = out.back();
                sac.root = track.at(mm + gap / 2, sac.forward);
                sac.size = (size + steps[k + 1].second) / 2;
                sac.rotation = {}, sac.lift = 0, sac.variant = kSac, sac.number = kFirstSac + std::uint32_t(k);
                out.back().number = std::uint32_t(k);
                sacs.push_back(sac);
            } else if (!sacs.empty()) {
                out.back().number = std::uint32_t(k);
            }
        } else if (isStaggered) { // left and right in turn; a twin would stand beside it
            stand(k % 2 ? -apart : apart, 0, 0);
            out.back().isOnPlane = liesOnPlane;
        } else {
            stand(apart, 0, 0);
            if (!liesOnPlane) // else its twin stands there
                stand(-apart, 0, 1);
        }
    }
    out.insert(out.end(), sacs.begin(), sacs.end());
}

namespace {

/// A soft bag, broad across the line, that swells out between two members.
mesh::PolyMesh sacShape(const Input &in)
{
    const float high = in.value("height"), half = 0.42f * high * in.value("width"), swell = 0.35f * in.value("sacs");
    const float apart = in.value("spacing") > 0 ? in.value("spacing") : high * in.value("width") * (1 - in.value("overlap"));
    constexpr std::size_t kAlong = 14;
    std::vector<Vec3f> line;
    for (std::size_t i = 0; i < kAlong; ++i)
        line.push_back({-half * std::cos(kPi * (0.05f + 0.9f * float(i) / (kAlong - 1))), 0, 0});
    std::vector<Station> stations = framed(line, {0, 0, 1});
    for (Station &s : stations) {
        const float round = std::sqrt(std::max(1 - s.at.x * s.at.x / (half * half), 0.01f));
        s.width = 0.6f * apart * round, s.height = std::max(swell * high * round, 0.02f * high);
    }
    return swept(stations, 16, [](std::size_t, std::uint32_t j) {
        const float a = 2 * kPi * float(j) / 16;
        return Corner{std::cos(a), std::sin(a) * (std::sin(a) > 0 ? 1.0f : 0.7f)};
    });
}

} // namespace

io::Material rowMaterial(const Input &, const Variation &v)
{
    return v.variant == kSac ? io::Material{"sac"} : io::Material{"horn"};
}

mesh::PolyMesh plateShape(const Input &in, const Variation &v)
{
    enum Form { Plate, Leaf, Spine, Scute, Hook, Spike, Shell };
    if (v.variant == kSac)
        return sacShape(in);
    const auto form = Form(in.count("form"));
    const float high = in.value("height"), wide = high * in.value("width") / 2, thick = high * in.value("thickness") / 2;
    const std::uint64_t seed = std::uint64_t(in.rule.seed) << 16 ^ v.variant;
    const float own = float(v.variant > 0); // the first shape is the plain one
    constexpr std::size_t kAlong = 26;
    constexpr std::uint32_t kAround = 28;
    const float below = 0.12f + in.value("sink"); // share of its height that it goes on under the skin
    const auto widthAt = [&](float y) {
        switch (form) {
        case Plate: return y < 0.35f ? std::lerp(0.62f, 1.0f, smooth(0, 0.35f, y)) : 1 - std::pow((y - 0.35f) / 0.65f, 1.35f);
        case Leaf:
            return y < 0.45f ? std::lerp(0.42f, 1.0f, smooth(0, 0.45f, y))
                             : std::sqrt(std::max(0.0f, 1 - std::pow((y - 0.45f) / 0.55f, 1.7f)));
        case Spine: return 0.34f * (1 - y) + 0.10f + 0.3f * std::pow(1 - y, 4.0f);
        case Scute: return std::sqrt(std::max(0.0f, 1 - y * y));
        case Hook: return 0.75f * (1 - y) + 0.3f * std::pow(1 - y, 3.0f);
        case Shell: return std::lerp(0.8f, 1.0f, smooth(0, 0.5f, y)) * std::sqrt(std::max(0.0f, 1 - std::pow(y, 3.2f)));
        case Spike: break;
        }
        return 1 - y;
    };
    const float curl = (form == Hook ? 0.55f : 0.12f + 0.25f * in.value("curve")) * high * (form == Shell ? -1.0f : 1.0f);
    std::vector<Vec3f> line;
    for (std::size_t i = 0; i < kAlong; ++i) {
        const float y = -below + (0.97f + below) * float(i) / float(kAlong - 1), back = std::max(y, 0.0f);
        line.push_back({0, y * high, -curl * back * back * (1 + 0.3f * own * randomSigned(seed, 3))});
    }
    const float cut = std::clamp(v.broken, 0.0f, 0.9f);
    // A plate stands along the line; a shell lies across it, and bends back out of its own plane.
    std::vector<Station> stations = framed(line, form == Shell ? Vec3f{0, 0, 1} : Vec3f{1, 0, 0});
    const float stout = form == Spine || form == Spike || form == Hook ? 1.0f : 0.72f;
    for (std::size_t i = 0; i < kAlong; ++i) {
        const float y = std::clamp(line[i].y / high, 0.0f, 1.0f);
        const float uneven = 1 + 0.10f * own * waver(seed + 4, y * 3);
        stations[i].height = std::max(wide * widthAt(y) * uneven, 0.02f * high);
        stations[i].width =
            std::min(std::max(thick * std::pow(1 - y, 0.75f) * std::lerp(1.0f, stout, y), 0.012f * high), stations[i].height);
    }
    keepApart(stations, 1.1f);
    if (cut > 0) {
        std::size_t last = kAlong - 1;
        while (last > 4 && line[last].y > high * (1 - cut))
            --last;
        stations.resize(last + 1);
    } else {
        roundTip(stations, 0.8f * std::max(stations.back().width, 0.25f * stations.back().height));
    }
    const float edge = 0.9f * in.value("edge"), keel = in.value("keel"), wear = in.value("wear");
    const int rings = in.count("rings");
    const std::size_t inside = cut > 0 ? stations.size() : kAlong;
    return swept(stations, kAround, [&](std::size_t i, std::uint32_t j) {
        const float a = 2 * kPi * float(j) / float(kAround), c = std::cos(a), s = std::sin(a);
        Corner out{c * std::pow(std::abs(c), edge), s};
        if (i == 0 || i + 1 >= stations.size())
            return Corner{c, s};
        const float y = std::clamp(float(i) / float(kAlong - 1) * (1 + below) - below, 0.0f, 1.0f);
        const float open = smooth(0.0f, 0.12f, y) * float(i < inside);
        out.x *= 1 + 0.5f * keel * std::exp(-s * s / 0.03f) * open;
        if (form == Shell) { // as if the next one's rim lay under it; its own is thin
            const float under = (y - 0.34f - 0.1f * s * s) / 0.05f;
            out.x *=
                (1 + (c < 0 ? 0.55f : 0.0f) * std::exp(-under * under) * open) * std::lerp(1.0f, 0.4f, smooth(0.7f, 1.0f, y));
        }
        if (rings > 0) // lines of growth run round, as the rim once lay
            out.x *= 1 + 0.16f * std::cos(2 * kPi * float(rings) * (y + 0.35f * s * s)) * open * (1 - std::abs(s));
        if (wear > 0) { // bites out of the rim
            const float bite = std::max(0.0f, waver(seed + 11 + (s > 0 ? 1u : 0u), y * 11) - 0.25f);
            out.y *= 1 - 0.38f * wear * bite * smooth(0.15f, 0.5f, y) * open;
        }
        return out;
    });
}

} // namespace bonemoss::outgrowth
