// Eyes: ball, iris, pupil, a clear ball about them, two lids that close over it and the water along the lower one.
#include "outgrowth/shapes.h"

#include <algorithm>

namespace bonemoss::outgrowth {

namespace {

enum Part : std::uint32_t { Ball, Iris, Pupil, Clear, UpperLid, LowerLid, WetRim, kParts };
enum PupilForm { Round, Slit, Bar, Wave, Split };

/// Lengths of an eye, mm, in its own frame: +Y where it looks, +Z to the upper lid, the ball's middle at the origin.
struct Measures {
    float radius, iris, limbus, depth; ///< limbus: height of the iris' rim; depth: how far the iris lies below it
    float clear;                       ///< radius of the clear ball

    explicit Measures(const Input &in)
        : radius(in.value("radius")), iris(radius * in.value("iris")), limbus(std::sqrt(radius * radius - iris * iris)),
          depth(in.value("depth") * 0.35f * iris), clear(radius * (1.02f + 0.05f * in.value("bulge")))
    {}
};

Station level(float y, float r)
{
    return {{0, y, 0}, {1, 0, 0}, {0, 0, 1}, r, r};
}

Corner round(std::uint32_t j, std::uint32_t around)
{
    const float a = 2 * kPi * float(j) / float(around);
    return {std::cos(a), std::sin(a)};
}

mesh::PolyMesh turned(std::span<const Station> profile, std::uint32_t around)
{
    return swept(profile, around, [around](std::size_t, std::uint32_t j) { return round(j, around); });
}

mesh::PolyMesh ball(const Measures &m)
{
    constexpr int kRings = 26;
    const float first = 0.08f, last = kPi - std::asin(m.iris / m.radius);
    std::vector<Station> s;
    for (int k = 0; k <= kRings; ++k) {
        const float a = std::lerp(first, last, float(k) / kRings);
        s.push_back(level(-m.radius * std::cos(a), m.radius * std::sin(a)));
    }
    s.push_back(level(m.limbus - 0.06f * m.iris, m.iris * 0.95f)); // a dish that the iris lies in
    s.push_back(level(m.limbus - m.depth - 0.14f * m.iris, m.iris * 0.80f));
    s.push_back(level(m.limbus - m.depth - 0.16f * m.iris, m.iris * 0.30f));
    return turned(s, 40);
}

mesh::PolyMesh iris(const Input &in, const Measures &m)
{
    const float under = m.limbus - m.depth - 0.12f * m.iris;
    const int rings = in.count("irisRings");
    std::vector<Station> s{level(under, m.iris * 0.2f), level(under, m.iris * 0.7f),
                           level(m.limbus - 0.06f * m.iris, m.iris * 0.985f)};
    constexpr int kRings = 22;
    for (int k = 1; k <= kRings; ++k) {
        const float t = float(k) / kRings, r = std::lerp(0.97f, 0.12f, t);
        const float relief = 0.035f * m.iris * std::cos(2 * kPi * float(rings) * t) * float(rings > 0);
        s.push_back(level(m.limbus - m.depth * smooth(0, 0.9f, t) - 0.03f * m.iris + relief, m.iris * r));
    }
    return swept(s, 48, [](std::size_t i, std::uint32_t j) {
        const Corner c = round(j, 48);
        const float fibre = 1 + 0.02f * float(j % 3 == 0) * float(i > 3 && i + 2 < 25);
        return Corner{c.x * fibre, c.y * fibre};
    });
}

/// Half extents of the pupil at an angle, of its size.
Corner pupilCorner(PupilForm form, float a)
{
    const float c = std::cos(a), s = std::sin(a);
    switch (form) {
    case Slit: return {0.26f * c * std::abs(c), s}; // upright, with pointed ends
    case Bar: return {std::copysign(std::sqrt(std::abs(c)), c), 0.36f * std::copysign(std::pow(std::abs(s), 0.6f), s)};
    case Wave: return {c, 0.42f * s - 0.26f * std::cos(2 * kPi * c) * 0.5f}; // a W lying on its side walls
    case Split: {
        const float r = 0.42f + 0.58f * c * c;
        return {r * c, 0.8f * r * s};
    }
    case Round: break;
    }
    return {c, s};
}

mesh::PolyMesh pupil(const Input &in, const Measures &m)
{
    const auto form = PupilForm(in.count("pupil"));
    const float size = m.iris * in.value("pupilSize"), turn = in.value("pupilTurn") * kRadiansPerDegree;
    const float under = m.limbus - m.depth - 0.1f * m.iris;
    std::vector<Station> s;
    for (const float t : {0.0f, 0.5f, 1.0f}) // a plug that stands out of the iris by a hair
        s.push_back(level(std::lerp(under, m.limbus - m.depth + 0.05f * m.iris, t), size));
    for (Station &st : s) {
        const Vec3f x = st.side;
        st.side = x * std::cos(turn) + st.up * std::sin(turn), st.up = st.up * std::cos(turn) - x * std::sin(turn);
    }
    return swept(s, 40, [form](std::size_t, std::uint32_t j) { return pupilCorner(form, 2 * kPi * (float(j) + 0.5f) / 40); });
}

mesh::PolyMesh clearBall(const Input &in, const Measures &m)
{
    constexpr int kRings = 30;
    std::vector<Station> s;
    for (int k = 0; k <= kRings; ++k) {
        const float a = std::lerp(0.08f, kPi - 0.06f, float(k) / kRings), out = std::max(0.0f, -std::cos(a));
        const float r = m.clear * (1 + 0.10f * in.value("bulge") * std::pow(out, 8.0f)); // over the iris it stands out
        s.push_back(level(-r * std::cos(a), r * std::sin(a)));
    }
    return turned(s, 40);
}

/// Where the lids lie, in their own frame: they turn about the line through both corners of the eye.
struct LidPlaces {
    const Input &in;
    const Measures &m;
    Vec3f gaze;         ///< unit
    float thick, whole; ///< mm; from the middle to a corner of the eye

    LidPlaces(const Input &input, const Measures &measures, Vec3f gazeDegrees)
        : in(input), m(measures), thick(std::max(in.value("lidThickness"), 0.02f * m.radius)),
          whole(in.value("lidWidth") * 84 * kRadiansPerDegree)
    {
        // They lie on the clear ball, which stands out where the eye looks to; seen from the lids, which do not turn with the eye.
        const Vec3f looked = rotate(fromEulerDeg(gazeDegrees), {0, 1, 0});
        gaze = rotate(fromEulerDeg({0, -in.value("tilt"), 0}), looked);
    }
    float inside(Vec3f direction) const
    {
        return m.clear * (1 + 0.10f * in.value("bulge") * std::pow(std::max(0.0f, dot(direction, gaze)), 8.0f)) + 0.02f;
    }
    /// across: from one corner to the other; angle: from the front upward.
    static Vec3f at(float across, float angle, float r)
    {
        return Vec3f{r * std::sin(across), r * std::cos(across) * std::cos(angle), r * std::cos(across) * std::sin(angle)};
    }
    /// 1 in the middle, 0 at the corners: a margin runs down to them. u: from -1 to 1.
    static float arch(float u) { return 1 - std::pow(std::abs(u), 2.4f); }
    /// The angle of a margin. way: 1 upper, -1 lower.
    float margin(float u, float way) const
    {
        const float open = (way > 0 ? 62.0f : 52.0f) * kRadiansPerDegree, meet = -8 * kRadiansPerDegree;
        const float shut = in.value(way > 0 ? "upperLid" : "lowerLid");
        return std::lerp(meet, std::lerp(open * way, meet, shut), arch(u)) + 0.02f * way;
    }
};

/// A lid: a shell about the ball; its margin is round. way: 1 upper, -1 lower.
mesh::PolyMesh lid(const LidPlaces &places, float way)
{
    constexpr std::uint32_t kAcross = 28, kDown = 16;
    const float root = 112 * kRadiansPerDegree, thick = places.thick;
    const float bag = way < 0 ? places.in.value("bags") : 0.0f, crease = way > 0 ? places.in.value("crease") : 0.0f;
    const auto point = [&](std::uint32_t i, std::uint32_t k, bool isOuter) {
        const float u = float(i) / kAcross * 2 - 1, across = u * places.whole, arch = places.arch(u);
        const float t = float(k) / kDown, angle = std::lerp(places.margin(u, way), root * way, t);
        float r = places.inside(places.at(across, angle, 1));
        if (isOuter) {
            const float rim = std::sqrt(std::max(0.0f, 1 - std::pow(1 - std::min(1.0f, t * 7), 2.0f))); // a round margin
            r += thick * (0.25f + 0.75f * rim) * (0.55f + 0.45f * arch);
            r += 1.6f * thick * bag * std::exp(-std::pow((t - 0.45f) / 0.16f, 2.0f)) * arch;
            r -= 0.75f * thick * crease * std::exp(-std::pow((t - 0.42f) / 0.05f, 2.0f)) * arch;
        }
        return places.at(across, angle, r);
    };
    mesh::PolyMesh out;
    const auto index = [&](std::uint32_t i, std::uint32_t k, bool isOuter) {
        return (isOuter ? (kAcross + 1) * (kDown + 1) : 0) + k * (kAcross + 1) + i;
    };
    for (const bool isOuter : {false, true})
        for (std::uint32_t k = 0; k <= kDown; ++k)
            for (std::uint32_t i = 0; i <= kAcross; ++i)
                out.positions.push_back(point(i, k, isOuter));
    const auto face = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d) {
        out.faces.push_back(way > 0 ? mesh::Face{{a, b, c, d}} : mesh::Face{{d, c, b, a}});
    };
    for (std::uint32_t k = 0; k < kDown; ++k)
        for (std::uint32_t i = 0; i < kAcross; ++i) {
            face(index(i, k, true), index(i, k + 1, true), index(i + 1, k + 1, true), index(i + 1, k, true));
            face(index(i, k, false), index(i + 1, k, false), index(i + 1, k + 1, false), index(i, k + 1, false));
        }
    for (std::uint32_t i = 0; i < kAcross; ++i) {
        face(index(i, 0, false), index(i, 0, true), index(i + 1, 0, true), index(i + 1, 0, false));
        face(index(i + 1, kDown, false), index(i + 1, kDown, true), index(i, kDown, true), index(i, kDown, false));
    }
    for (std::uint32_t k = 0; k < kDown; ++k) {
        face(index(0, k + 1, false), index(0, k + 1, true), index(0, k, true), index(0, k, false));
        face(index(kAcross, k, false), index(kAcross, k, true), index(kAcross, k + 1, true), index(kAcross, k + 1, false));
    }
    return out;
}

/// The water that stands along the lower margin: a thin round line in the corner between lid and ball.
mesh::PolyMesh wetRim(const LidPlaces &places)
{
    constexpr std::size_t kAlong = 29;
    const float wide = places.in.value("wet") * 0.6f * std::min(places.thick, 0.12f * places.m.radius);
    std::vector<Vec3f> line;
    std::vector<float> radii;
    for (std::size_t i = 0; i < kAlong; ++i) {
        const float u = 0.94f * (float(i) / float(kAlong - 1) * 2 - 1);
        const float r = std::max(wide * (0.35f + 0.65f * places.arch(u)), 1e-3f);
        const float angle = places.margin(u, -1) + 0.7f * r / places.m.clear;
        line.push_back(places.at(u * places.whole, angle, places.inside(places.at(u * places.whole, angle, 1)) + 0.1f * r));
        radii.push_back(r);
    }
    std::vector<Station> stations = framed(line, {0, 1, 0});
    for (std::size_t i = 0; i < kAlong; ++i)
        stations[i].width = stations[i].height = radii[i];
    keepApart(stations);
    return swept(stations, 10, [](std::size_t, std::uint32_t j) { return round(j, 10); });
}

} // namespace

namespace {

constexpr float kFarthestTurn = 55; ///< degrees that an eye turns to look at a point

/// Where the eyes stand: at each root, and in a stack below it.
std::vector<Root> placesOf(const Input &in)
{
    const int count = std::max(1, in.count("stack"));
    std::vector<Root> out;
    for (const Root &root : in.rule.roots) {
        const io::Placement frame = frameAt(root, {0, -1, 0});
        const Vec3f x{frame.m[0], frame.m[1], frame.m[2]}, down{frame.m[6], frame.m[7], frame.m[8]};
        const float a = in.value("stackTurn") * kRadiansPerDegree;
        const Vec3f way = down * std::cos(a) + x * std::sin(a);
        Root at = root;
        float size = in.profileAt(0);
        for (int k = 0; k < count; ++k) {
            if (k > 0) {
                const float next = in.profileAt(float(k) / float(count - 1));
                const Vec3f to = at.at
                                 + normalized(way - at.normal * dot(way, at.normal))
                                       * (in.value("radius") * in.value("apart") * (size + next));
                size = next;
                if (const auto hit = mesh::nearestPoint(in.skin, to))
                    at = {hit->point, hit->normal};
                else
                    at.at = to;
            }
            out.push_back(at);
        }
    }
    return out;
}

Vec3f forwardOf(const Root &root)
{
    return std::abs(root.normal.y) < 0.94f ? Vec3f{0, 1, 0} : Vec3f{0, 0, 1};
}

/// Degrees that the eye at that place is turned by; isTwin: of the one across, before it is mirrored.
Vec3f gazeOf(const Input &in, const Root &root, bool isTwin)
{
    if (!in.rule.look)
        return {in.value("gazeUp"), 0, in.value("gazeOut")};
    Vec3f to = *in.rule.look;
    if (isTwin && in.about.plane && in.about.planeNormal)
        to -= *in.about.planeNormal * (2 * dot(to - *in.about.plane, *in.about.planeNormal));
    const io::Placement f = frameAt(root, forwardOf(root));
    const Vec3f d = to - (root.at - root.normal * (in.value("sink") * in.value("radius")));
    if (squaredLength(d) < 1e-6f)
        return {};
    Vec3f own =
        normalized(Vec3f{dot(d, {f.m[0], f.m[1], f.m[2]}), dot(d, {f.m[3], f.m[4], f.m[5]}), dot(d, {f.m[6], f.m[7], f.m[8]})});
    const float most = kFarthestTurn * kRadiansPerDegree;
    if (own.y < std::cos(most)) { // as far as it goes
        const Vec3f aside = normalized(Vec3f{own.x, 0, own.z} + Vec3f{1e-6f, 0, 0});
        own = aside * std::sin(most) + Vec3f{0, std::cos(most), 0};
    }
    return toEulerDeg(rotationFromTo({0, 1, 0}, own));
}

} // namespace

/// Variants are parts; where the eyes look at a point, of each eye and its twin.
mesh::PolyMesh eyeShape(const Input &in, const Variation &v)
{
    const Measures m(in);
    const std::uint32_t part = v.variant % kParts, eye = v.variant / kParts / 2;
    Vec3f gaze{in.value("gazeUp"), 0, in.value("gazeOut")};
    if (in.rule.look && part >= UpperLid)
        gaze = gazeOf(in, placesOf(in)[eye], v.variant / kParts % 2 == 1);
    switch (part) {
    case Iris: return iris(in, m);
    case Pupil: return pupil(in, m);
    case Clear: return clearBall(in, m);
    case UpperLid: return lid({in, m, gaze}, 1);
    case LowerLid: return lid({in, m, gaze}, -1);
    case WetRim: return wetRim({in, m, gaze});
    default: return ball(m);
    }
}

io::Material eyeMaterial(const Input &in, const Variation &v)
{
    const auto tone = [](float r, float g, float b) { return Vec3f{r, g, b}; };
    switch (v.variant % kParts) {
    case Iris: return {"iris", tone(0.42f, 0.20f + 0.16f * in.random(7), 0.03f), true};
    case Pupil: return {"pupil", tone(0.004f, 0.004f, 0.004f), false};
    case Clear: return {"clear", tone(0.9f, 0.92f, 0.95f), true, 0.12f};
    case UpperLid:
    case LowerLid: return {"lid", {}, false};
    case WetRim: return {"wet rim", tone(0.30f, 0.24f, 0.20f), true};
    default: return {"eyeball", tone(0.035f, 0.03f, 0.026f), true};
    }
}

void eyeParts(const Input &in, std::vector<Spot> &out)
{
    const std::vector<Root> places = placesOf(in);
    const auto count = std::uint32_t(places.size());
    const bool hasLids = in.count("lids") > 0;
    for (std::uint32_t k = 0; k < count; ++k)
        for (std::uint32_t part = 0; part < kParts; ++part) {
            if ((part >= UpperLid && !hasLids) || (part == WetRim && in.value("wet") <= 0))
                continue;
            Spot s;
            s.number = k;
            s.root = places[k];
            s.forward = forwardOf(s.root);
            const Vec3f lids{0, in.value("tilt"), 0};
            s.rotation = part >= UpperLid ? lids : gazeOf(in, s.root, false);
            s.lift = -in.value("sink") * in.value("radius");
            s.size = in.profileAt(count > 1 ? float(k) / float(count - 1) : 0);
            s.variant = part;
            if (in.rule.look) { // both look at the same point, so the twin is no mirrored copy
                const bool isLid = part >= UpperLid;
                s.variant = isLid ? part + kParts * 2 * k : part;
                s.twin = {isLid ? lids : gazeOf(in, s.root, true), isLid ? s.variant + kParts : part};
            }
            if (in.about.plane && in.about.planeNormal)
                s.isOnPlane = std::abs(dot(s.root.at - *in.about.plane, *in.about.planeNormal)) < 0.3f;
            out.push_back(s);
        }
}

} // namespace bonemoss::outgrowth
