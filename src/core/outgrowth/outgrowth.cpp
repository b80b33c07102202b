#include "outgrowth/outgrowth.h"

#include "base/colour.h"
#include "base/parallel.h"
#include "base/random.h"
#include "base/space_map.h"
#include "mesh/nearest_faces.h"
#include "outgrowth/coat.h"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <map>
#include <numeric>
#include <queue>
#include <set>

namespace bonemoss::outgrowth {

std::size_t Made::faceCount() const
{
    std::size_t n = 0;
    for (const Member &m : members)
        n += shapes[m.shape]->faces.size();
    return n;
}

std::size_t Made::memoryBytes() const
{
    std::size_t n = members.size() * sizeof(Member);
    for (const auto &s : shapes)
        n += s->positions.size() * sizeof(Vec3f) + s->faces.size() * sizeof(mesh::Face);
    for (const auto &list : attributes)
        for (const io::Attribute &a : list)
            n += a.values.size() * sizeof(float);
    for (const auto &c : curves)
        n += c ? c->memoryBytes() : 0;
    return n + (prepared && prepared->standing ? prepared->standing->memoryBytes() : 0);
}

void Outgrowth::shift(Vec3f by)
{
    for (Root &r : roots)
        r.at += by;
    for (auto *point : {&look, &seenFrom})
        if (*point)
            **point += by;
    auto moved = std::make_shared<Made>(*made);
    for (Member &m : moved->members) {
        m.place.m[9] += by.x, m.place.m[10] += by.y, m.place.m[11] += by.z;
        m.root += by;
    }
    moved->box.lo += by, moved->box.hi += by;
    made = std::move(moved);
}

namespace {

Vec3f linear(Vec3f c)
{
    return {fromSrgb(c.x), fromSrgb(c.y), fromSrgb(c.z)};
}

/// How far each point is from the root over the edges, 0 to 1. O(points log points).
std::vector<float> alongOf(const mesh::PolyMesh &mesh)
{
    const std::vector<Vec3f> &p = mesh.positions;
    std::vector<std::uint32_t> starts(p.size() + 1, 0), beside;
    const auto eachSide = [&](const auto &use) {
        for (const mesh::Face &f : mesh.faces)
            for (std::size_t c = 0, n = f.v[3] == kNone ? 3 : 4; c < n; ++c)
                use(f.v[c], f.v[(c + 1) % n]);
    };
    eachSide([&](std::uint32_t a, std::uint32_t b) { ++starts[a + 1], ++starts[b + 1]; });
    std::partial_sum(starts.begin(), starts.end(), starts.begin());
    beside.resize(starts.back());
    std::vector<std::uint32_t> next(starts.begin(), starts.end() - 1);
    eachSide([&](std::uint32_t a, std::uint32_t b) { beside[next[a]++] = b, beside[next[b]++] = a; });
    std::vector<float> far(p.size(), std::numeric_limits<float>::max());
    using Step = std::pair<float, std::uint32_t>;
    std::priority_queue<Step, std::vector<Step>, std::greater<>> open;
    // Each part (a bundle is several solids) from the point of it that is nearest to the root.
    std::vector<std::uint32_t> order(p.size());
    std::iota(order.begin(), order.end(), 0u);
    std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
        return std::pair(squaredLength(p[a]), a) < std::pair(squaredLength(p[b]), b);
    });
    float most = 1e-6f;
    for (const std::uint32_t first : order) {
        if (far[first] < std::numeric_limits<float>::max())
            continue;
        open.push({far[first] = length(p[first]), first});
        while (!open.empty()) {
            const auto [way, v] = open.top();
            open.pop();
            if (way > far[v])
                continue;
            most = std::max(most, way);
            for (std::uint32_t i = starts[v]; i < starts[v + 1]; ++i)
                if (const float w = way + length(p[beside[i]] - p[v]); w < far[beside[i]])
                    open.push({far[beside[i]] = w, beside[i]});
        }
    }
    for (float &f : far)
        f /= most;
    return far;
}

io::Attribute coloursAlong(std::span<const float> along, std::span<const Vec3f> ends)
{
    const Vec3f root = linear(ends[0]), tip = linear(ends[1]);
    io::Attribute out{std::string(io::kColour), mesh::Domain::Vertex, 3, {}};
    out.values.reserve(along.size() * 3);
    for (const float t : along) {
        const Vec3f c = lerp(root, tip, t);
        out.values.insert(out.values.end(), {c.x, c.y, c.z});
    }
    return out;
}

} // namespace

void Outgrowth::show(io::Scene &scene) const
{
    if (made->members.empty())
        return;
    for (std::size_t k = 0; k < made->shapes.size(); ++k) {
        scene.shapes.push_back({name, made->shapes[k]});
        scene.shapes.back().curves = made->curves[k];
        scene.shapes.back().attributes = made->attributes[k];
        if (const std::vector<float> &along = made->along[k]; !along.empty())
            scene.shapes.back().attributes.push_back(coloursAlong(along, colours));
    }
    for (std::size_t k = 0; k < made->shapes.size(); ++k) {
        io::Material &m = scene.materials.emplace_back(made->materials[k]);
        if (!made->along[k].empty())
            m.colour = Vec3f{1, 1, 1};
        m.finish = finish;
    }
    std::vector<io::Object> objects(made->shapes.size());
    for (std::size_t k = 0; k < objects.size(); ++k)
        objects[k] = {name, k, k, {}};
    for (const Member &m : made->members)
        objects[m.shape].places.push_back(m.place);
    for (io::Object &o : objects)
        if (!o.places.empty())
            scene.objects.push_back(std::move(o));
}

std::string Outgrowth::notFinite(const Outgrowth *) const
{
    const auto is = [](const auto &list) {
        return std::all_of(list.begin(), list.end(), [](float v) { return std::isfinite(v); });
    };
    bool good = is(values) && is(profile) && is(section) && (!look || isFinite(*look)) && (!seenFrom || isFinite(*seenFrom))
                && std::isfinite(rim.height) && std::isfinite(rim.width);
    for (const Root &r : roots)
        good = good && isFinite(r.at) && isFinite(r.normal);
    for (const auto *points : {&path, &colours})
        for (const Vec3f p : *points)
            good = good && isFinite(p);
    for (const Correction &c : corrections)
        good = good && isFinite(c.translation) && isFinite(c.rotation) && isFinite(c.pull) && std::isfinite(c.size)
               && std::isfinite(c.bend) && std::isfinite(c.thin);
    for (const Member &m : made->members)
        for (const float v : m.place.m)
            good = good && std::isfinite(v);
    return good ? std::string() : "the shape of outgrowth " + name;
}

std::string Outgrowth::about() const
{
    return made->members.size() == 1 ? std::string(kind->title) : fmt::format("{}", made->members.size());
}

float Outgrowth::value(std::string_view setting) const
{
    for (std::size_t k = 0; k < kind->settings.size(); ++k)
        if (kind->settings[k].name == setting)
            return values[k];
    return 0;
}

const Correction *Outgrowth::correction(std::uint32_t member, bool isTwin) const
{
    const auto it = std::find_if(corrections.begin(), corrections.end(),
                                 [&](const Correction &c) { return c.member == member && c.isTwin == isTwin; });
    return it == corrections.end() ? nullptr : &*it;
}

bool Kind::takes(Map map) const
{
    return rooting == Rooting::Area && !is(IsCut) && (map != Map::Curl || is(ShapedByPlace));
}

Outgrowth outgrowthOf(const Kind &kind, float size)
{
    Outgrowth o;
    o.kind = &kind;
    o.values.assign(kind.usual.begin(), kind.usual.end());
    if (size > 0 && std::isfinite(size) && size != kUsualSize)
        for (std::size_t k = 0; k < o.values.size(); ++k)
            if (const Setting &s = kind.settings[k]; s.unit == "mm" && o.values[k] != 0) { // two digits are enough
                const float wanted = o.values[k] * size / kUsualSize,
                            digit = std::pow(10.0f, std::floor(std::log10(std::abs(wanted))) - 1);
                o.values[k] = std::clamp(std::round(wanted / digit) * digit, s.min, s.max);
            }
    o.made = std::make_shared<Made>();
    return o;
}

float Input::random(std::uint64_t what, std::uint64_t k) const
{
    return randomUnit(std::uint64_t(rule.seed) << 20 ^ what, k);
}

float profileAt(const Outgrowth &rule, float t)
{
    const std::vector<float> &p = rule.profile;
    if (p.empty())
        return 1;
    const float x = std::clamp(t, 0.0f, 1.0f) * float(p.size() - 1);
    const auto k = std::min(std::size_t(x), p.size() - 1);
    return std::lerp(p[k], p[std::min(k + 1, p.size() - 1)], x - float(k));
}

io::Placement frameAt(const Root &root, Vec3f forward)
{
    const Vec3f y = normalized(root.normal);
    Vec3f z = forward - y * dot(forward, y);
    if (squaredLength(z) < 1e-6f)
        z = cross(std::abs(y.x) < 0.9f ? Vec3f{1, 0, 0} : Vec3f{0, 1, 0}, y);
    z = normalized(z);
    const Vec3f x = cross(y, z);
    return {{x.x, x.y, x.z, y.x, y.y, y.z, z.x, z.y, z.z, root.at.x, root.at.y, root.at.z}};
}

namespace {

io::Placement turned(Vec3f degrees)
{
    const Quat q = fromEulerDeg(degrees);
    const Vec3f x = rotate(q, {1, 0, 0}), y = rotate(q, {0, 1, 0}), z = rotate(q, {0, 0, 1});
    return {{x.x, x.y, x.z, y.x, y.y, y.z, z.x, z.y, z.z, 0, 0, 0}};
}
io::Placement scaled(Vec3f by)
{
    return {{by.x, 0, 0, 0, by.y, 0, 0, 0, by.z, 0, 0, 0}};
}
io::Placement moved(Vec3f by)
{
    return {{1, 0, 0, 0, 1, 0, 0, 0, 1, by.x, by.y, by.z}};
}

/// The reflection across a plane.
io::Placement reflection(Vec3f point, Vec3f n)
{
    const Vec3f x = Vec3f{1, 0, 0} - n * (2 * n.x), y = Vec3f{0, 1, 0} - n * (2 * n.y), z = Vec3f{0, 0, 1} - n * (2 * n.z);
    const Vec3f t = n * (2 * dot(point, n));
    return {{x.x, x.y, x.z, y.x, y.y, y.z, z.x, z.y, z.z, t.x, t.y, t.z}};
}

io::Placement placeOf(const Spot &s)
{
    return frameAt(s.root, s.forward) * moved({0, s.lift, 0}) * turned(s.rotation) * scaled(Vec3f{1, 1, 1} * s.size);
}

/// The placed corners of the box of a shape hold the member. O(points of the shapes + members).
Box3f boxOf(const Made &made)
{
    std::vector<Box3f> own;
    for (const auto &shape : made.shapes)
        own.push_back(mesh::boundsOf(shape->positions));
    Box3f all;
    for (const Member &m : made.members)
        for (int k = 0; k < 8; ++k) {
            const Box3f &b = own[m.shape];
            all.add(m.place.apply({k & 1 ? b.hi.x : b.lo.x, k & 2 ? b.hi.y : b.lo.y, k & 4 ? b.hi.z : b.lo.z}));
        }
    return all;
}

/// Thinned about its middle line, its tip drawn out, and bent. A part that lies about its origin, as those of a mass do, is long along
/// its own z; others grow away from the origin. line: the middles of its rings, where it has such.
void deform(std::vector<Vec3f> &points, const std::vector<Vec3f> &line, const Variation &v)
{
    const Box3f box = mesh::boundsOf(points);
    const std::size_t around = line.empty() ? 0 : points.size() / line.size();
    const bool liesAbout = line.empty() && box.lo.z < -0.25f * box.hi.z && box.size().z > box.size().y;
    for (std::size_t i = 0; i < points.size(); ++i) {
        Vec3f &p = points[i];
        if (around > 0)
            p = line[i / around] + (p - line[i / around]) * v.thin;
        else
            p.x = box.centre().x + (p.x - box.centre().x) * v.thin, (liesAbout ? p.y : p.z) *= v.thin;
    }
    float root = 0, tip = 1e-3f; // mm from the origin, of what stays and of what moves most
    for (const Vec3f p : points) {
        tip = std::max(tip, length(p));
        if (p.y <= 0)
            root = std::max(root, length(p));
    }
    root = std::min(root, 0.35f * tip);
    const Vec3f pull{v.pull[0], v.pull[1], v.pull[2]};
    for (Vec3f &p : points) {
        const float t = liesAbout ? (p.z - box.lo.z) / box.size().z : (length(p) - root) / (tip - root),
                    share = std::clamp(t, 0.0f, 1.0f);
        p += pull * (share * share);
    }
    if (v.bend == 0)
        return;
    const SpaceMap map{SpaceMapKind::Bend, {}, {0, std::max(box.hi.y, 1e-3f), 0}, {0, 0, 1}, v.bend * kRadiansPerDegree};
    for (Vec3f &p : points)
        p = map.at(p).at;
}

/// Of a shape: a chosen colour is that of curves from root to tip, and of a solid where its points say no more the mean of both.
io::Material materialOf(const Input &in, const Variation &v)
{
    const Outgrowth &rule = in.rule;
    io::Material out = rule.kind->material && !v.item ? rule.kind->material(in, v) : io::Material{"horn"};
    if (rule.colours.size() != 2 || !rule.kind->is(Coloured))
        return out;
    const Vec3f root = linear(rule.colours[0]), tip = linear(rule.colours[1]);
    out.colour = rule.kind->curves ? root : (root + tip) * 0.5f;
    if (rule.kind->curves)
        out.tipColour = tip;
    return out;
}

/// Of a solid whose root and tip have different colours.
void colourShape(const Input &in, Made &made, std::size_t k)
{
    const std::vector<Vec3f> &c = in.rule.colours;
    if (made.curves[k] || !in.rule.kind->is(Coloured) || c.size() != 2 || c[0] == c[1])
        made.along[k].clear();
    else if (made.along[k].empty())
        made.along[k] = alongOf(*made.shapes[k]);
}

/// The vertex of the skin under each root.
void rootOnVertices(const mesh::Surface &skin, std::vector<Member> &members)
{
    std::vector<Vec3f> roots;
    roots.reserve(members.size());
    for (const Member &m : members)
        roots.push_back(m.root);
    const std::vector<mesh::NearestFace> at = mesh::nearestFaces(skin, roots, 2 * meanEdgeLength(skin));
    for (std::size_t k = 0; k < members.size(); ++k) {
        const auto &w = at[k].weights;
        members[k].vertex = at[k].corners[std::size_t(std::max_element(w.begin(), w.end()) - w.begin())];
    }
}

/// Shape k of those made, with what goes with it; of old what is still the same.
void makeShape(const Input &in, const Made *old, Made &made, std::size_t k)
{
    const Kind &kind = *in.rule.kind;
    const Variation &v = made.variations[k];
    auto &shape = made.shapes[k];
    if (old && !v.item)
        if (const auto it = std::find(old->variations.begin(), old->variations.end(), v); it != old->variations.end()) {
            const auto same = std::size_t(it - old->variations.begin());
            shape = old->shapes[same], made.curves[k] = old->curves[same], made.attributes[k] = old->attributes[same];
            made.along[k] = old->along[same];
            colourShape(in, made, k);
            return;
        }
    if (v.item)
        shape = in.itemShape ? in.itemShape(v.item) : nullptr;
    if (!shape || !v.isItsOwn()) {
        auto own = std::make_shared<mesh::PolyMesh>(shape ? *shape : kind.shape(in, v));
        if (!v.isItsOwn())
            deform(own->positions, middleLine(*own), v);
        shape = std::move(own);
    }
    if (kind.attributes && !v.item)
        made.attributes[k] = kind.attributes(in, v);
    if (kind.curves && !v.item) {
        auto curves = std::make_shared<mesh::Curves>(kind.curves(in, v));
        if (!v.isItsOwn())
            deform(curves->points, {}, v);
        made.curves[k] = std::move(curves);
    }
    colourShape(in, made, k);
}

} // namespace

Result<std::shared_ptr<const Made>> make(const Input &given, const Progress &progress)
{
    const Outgrowth &rule = given.rule;
    Input in = given;
    if (rule.kind->prepare)
        in.prepared = rule.kind->prepare(in);
    const Made::Key key{rule.kind, rule.values, rule.profile, rule.section, rule.path, rule.look, rule.seed};
    const bool isShapedByPlace = rule.kind->is(ShapedByPlace) || rule.look.has_value();
    const Made *old = rule.made && rule.made->key == key && !isShapedByPlace ? rule.made.get() : nullptr;
    std::vector<Spot> spots;
    rule.kind->layout(in, spots);
    if (spots.empty() && rule.seenFrom)
        return Error{ErrorCode::Empty, rule.name, "nothing of it is seen from there"};
    if (spots.empty())
        return Error{ErrorCode::Empty, rule.name.empty() ? std::string(rule.kind->title) : rule.name,
                     "nothing of it would stand on the skin"};
    const bool hasTwin = rule.isMirrored && in.about.plane && in.about.planeNormal;
    auto made = std::make_shared<Made>();
    std::map<Variation, std::size_t> shapes; // numbers in the order in which they are met
    std::vector<Variation> wanted;
    const io::Placement mirror = hasTwin ? reflection(*in.about.plane, *in.about.planeNormal) : io::Placement();
    for (std::uint32_t k = 0; k < spots.size(); ++k) {
        const std::uint32_t number = spots[k].number == kNone ? k : spots[k].number;
        for (const bool isTwin : {false, true}) {
            if (isTwin ? !hasTwin || spots[k].isOnPlane : spots[k].isTwinAlone)
                continue;
            const Correction *c = rule.correction(number, isTwin);
            if (c && c->isMissing)
                continue;
            Variation v{.variant = spots[k].variant, .item = rule.item};
            Spot stands = spots[k];
            if (isTwin && stands.twin)
                stands.rotation = stands.twin->rotation, v.variant = stands.twin->variant;
            io::Placement place = placeOf(stands);
            if (c) {
                v.broken = c->broken, v.bend = c->bend, v.item = c->item ? c->item : rule.item;
                v.thin = c->thin, v.pull = {c->pull.x, c->pull.y, c->pull.z};
                place = place * moved(c->translation) * turned(c->rotation) * scaled(Vec3f{1, 1, 1} * c->size);
            }
            if (v.item)
                v.variant = 0, v.broken = 0; // the item is what it is
            const auto [it, isNew] = shapes.try_emplace(v, shapes.size());
            if (isNew)
                wanted.push_back(v);
            const Vec3f root = spots[k].root.at;
            made->members.push_back(
                {number, isTwin, it->second, isTwin ? mirror * place : place, isTwin ? mirror.apply(root) : root, kNone});
        }
    }
    if (spots.size() >= (rule.kind->is(ShapedByPlace) ? 2 * std::size_t(kMostInRow) : kMostOnArea))
        made->notes.push_back(
            fmt::format("{} would have more than {} members; the others are left out: give it more room between them, "
                        "or a smaller place",
                        rule.name, spots.size()));
    made->shapes.resize(wanted.size());
    made->curves.resize(wanted.size());
    made->attributes.resize(wanted.size());
    made->along.resize(wanted.size());
    made->variations = wanted;
    made->prepared = in.prepared;
    made->key = key;
    for (const Variation &v : wanted)
        made->materials.push_back(materialOf(in, v));
    const bool isDone = forEachBlock(wanted.size(), 1, progress.stop, [&](BlockRange r) { makeShape(in, old, *made, r.begin); });
    if (!isDone)
        return Error{ErrorCode::Cancelled, rule.name, "nothing was made"};
    rootOnVertices(in.skin, made->members);
    made->box = boxOf(*made);
    return std::shared_ptr<const Made>(std::move(made));
}

} // namespace bonemoss::outgrowth
