#include "proof/parts.h"

#include "armature/balance.h"
#include "base/noise.h"
#include "base/parallel.h"
#include "field/mesh_distance.h"
#include "mesh/measures.h"
#include "mesh/parts.h"
#include "mesh/surface.h"
#include "portrait/frame.h"
#include "portrait/traced_scene.h"
#include "proof/slicer.h"
#include "solid/seal.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::proof {

using mesh::PolyMesh;

namespace {

PolyMesh inward(PolyMesh m)
{
    for (mesh::Face &f : m.faces)
        std::reverse(f.v.begin(), f.v.begin() + f.size());
    return m;
}

/// Walls between two outlines of as many points, and faces over both; corners go round counter-clockwise as seen from the end `to`.
PolyMesh between(std::vector<Vec3f> low, const std::vector<Vec3f> &high)
{
    const auto n = std::uint32_t(low.size());
    PolyMesh m;
    m.positions = std::move(low);
    m.positions.insert(m.positions.end(), high.begin(), high.end());
    Vec3f below, above;
    for (std::uint32_t k = 0; k < n; ++k)
        below += m.positions[k] * (1 / float(n)), above += m.positions[n + k] * (1 / float(n));
    m.positions.push_back(below), m.positions.push_back(above);
    for (std::uint32_t k = 0; k < n; ++k) {
        const std::uint32_t next = (k + 1) % n;
        m.faces.push_back({{k, next, n + next, n + k}});
        m.faces.push_back({{2 * n, next, k, kNone}});
        m.faces.push_back({{2 * n + 1, n + k, n + next, kNone}});
    }
    return m;
}

/// Where a line from inside leaves a body: the last face met.
float exitOf(const PolyMesh &body, Vec3f from, Vec3f way)
{
    float last = 0;
    for (const auto &t : mesh::triangulate(body)) {
        const Vec3f a = body.positions[t[0]], u = body.positions[t[1]] - a, v = body.positions[t[2]] - a;
        const Vec3f p = cross(way, v), s = from - a, q = cross(s, u);
        const float det = dot(u, p);
        if (std::abs(det) < 1e-12f)
            continue;
        const float x = dot(s, p) / det, y = dot(way, q) / det, at = dot(v, q) / det;
        if (x >= 0 && y >= 0 && x + y <= 1 && at > 0)
            last = last == 0 ? at : std::min(last, at);
    }
    return last;
}

/// Which island each vertex is of, and what each encloses, mm^3: less than nothing for hollows.
std::vector<std::uint32_t> volumesOf(const PolyMesh &m, std::vector<double> &volume)
{
    std::uint32_t islands = 0;
    auto of = mesh::islandsOf(m, islands);
    volume.assign(islands, 0);
    for (const auto &t : mesh::triangulate(m))
        volume[of[t[0]]] += double(dot(m.positions[t[0]], cross(m.positions[t[1]], m.positions[t[2]]))) / 6;
    return of;
}

/// Vertices of which all neighbours lie higher, the lowest first.
std::vector<std::uint32_t> lowPlaces(const PolyMesh &m)
{
    std::vector<std::uint8_t> isLow(m.positions.size(), 1);
    for (const mesh::Face &f : m.faces)
        for (int k = 0; k < f.size(); ++k) {
            const std::uint32_t a = f.v[std::size_t(k)], b = f.v[std::size_t((k + 1) % f.size())];
            const Vec3f p = m.positions[a], q = m.positions[b];
            if (std::pair(p.y, a) > std::pair(q.y, b))
                isLow[a] = 0;
            else
                isLow[b] = 0;
        }
    std::vector<std::uint32_t> out;
    for (std::uint32_t v = 0; v < m.positions.size(); ++v)
        if (isLow[v])
            out.push_back(v);
    std::sort(out.begin(), out.end(), [&](std::uint32_t a, std::uint32_t b) { return m.positions[a].y < m.positions[b].y; });
    return out;
}

} // namespace

PolyMesh prism(Vec3f from, Vec3f to, float radius, int sides, bool isKeyed)
{
    const Vec3f axis = normalized(to - from);
    const portrait::Frame frame(axis);
    std::vector<Vec3f> low, high;
    for (int k = 0; k < sides; ++k) {
        const float a = 2 * kPi * (float(k) + 0.5f) / float(sides);
        const Vec3f out = frame.toWorld(
            {radius * std::cos(a), isKeyed ? std::min(radius * std::sin(a), 0.55f * radius) : radius * std::sin(a), 0});
        low.push_back(from + out), high.push_back(to + out);
    }
    PolyMesh m = between(std::move(low), high);
    if (mesh::massOf(m).volumeMm3 < 0)
        m = inward(std::move(m));
    return m;
}

Result<PolyMesh> without(const PolyMesh &solid, PolyMesh taken, const Progress &progress)
{
    PolyMesh all = solid;
    mesh::append(all, inward(std::move(taken)));
    auto sealed = solid::seal(all, false, progress);
    if (!sealed)
        return sealed.error();
    return std::move(sealed->mesh);
}

PolyMesh withoutLoose(const PolyMesh &solid, double least, std::size_t &dropped)
{
    std::vector<double> volume;
    const auto islandOf = volumesOf(solid, volume);
    const double largest = volume.empty() ? 0 : *std::max_element(volume.begin(), volume.end());
    dropped =
        std::size_t(std::count_if(volume.begin(), volume.end(), [&](double v) { return v > 0 && v < least && v < largest; }));
    std::vector<bool> stays;
    for (const mesh::Face &f : solid.faces)
        stays.push_back(volume[islandOf[f.v[0]]] <= 0 || volume[islandOf[f.v[0]]] >= std::min(least, largest));
    return dropped == 0 ? solid : mesh::extract(solid, stays);
}

Result<Hollowed> hollow(const PolyMesh &body, const HollowJob &job, const Progress &progress)
{
    const float spacing = job.spacing > 0 ? job.spacing : job.wall / 4;
    auto distance = field::distanceOf(mesh::makeSurface(mesh::inSpatialOrder(body)), spacing);
    if (!distance)
        return distance.error();
    const auto inner = field::offsetBy(std::move(*distance), -job.wall);
    auto knitted = field::knitSource(*inner, {spacing, 0}, progress);
    if (!knitted)
        return knitted.error().code == ErrorCode::Empty
                   ? Error{ErrorCode::BadValue, "wall", "nothing lies as deep as that: take a thinner wall"}
                   : knitted.error();
    std::vector<double> volume;
    const auto islandOf = volumesOf(knitted->mesh, volume);
    // What is too small to drain stays full.
    const double least = double(job.hole * job.hole * job.hole) * 2;
    std::vector<bool> stays;
    Hollowed out;
    for (const mesh::Face &f : knitted->mesh.faces)
        stays.push_back(volume[islandOf[f.v[0]]] > least);
    for (const double v : volume)
        if (v > least)
            ++out.hollows, out.taken += v;
    if (out.hollows == 0)
        return Error{ErrorCode::BadValue, "wall", "nothing lies as deep as that: take a thinner wall"};
    const PolyMesh hollows = mesh::extract(knitted->mesh, stays);
    out.mesh = body;
    mesh::append(out.mesh, inward(hollows));
    // Holes: each hollow has its lowest place, then the next ones far from those there are.
    std::vector<Vec3f> starts;
    std::uint32_t count = 0;
    const auto of = mesh::islandsOf(hollows, count);
    std::vector<int> has(count);
    const float apart = 0.2f * mesh::boundsOf(body.positions).diagonal();
    const std::vector<std::uint32_t> lows = lowPlaces(hollows);
    for (int round = 0; round < 2 && job.holes > 0; ++round)
        for (const std::uint32_t v : lows) {
            const Vec3f p = hollows.positions[v];
            const bool isFar =
                std::none_of(starts.begin(), starts.end(), [&](Vec3f q) { return std::hypot(p.x - q.x, p.z - q.z) < apart; });
            if (round == 0 ? has[of[v]] == 0 : isFar && int(starts.size()) < job.holes)
                starts.push_back(p), ++has[of[v]];
        }
    for (const Vec3f p : starts) {
        const Vec3f top = p + Vec3f{0, job.hole, 0};
        const float depth = exitOf(body, p, {0, -1, 0});
        const Vec3f end = p - Vec3f{0, depth, 0};
        auto drilled = without(out.mesh, prism(top, end - Vec3f{0, job.hole, 0}, job.hole / 2, 24), progress);
        if (!drilled)
            return drilled.error();
        out.mesh = std::move(*drilled);
        out.holes.push_back(end);
        if (job.makesPlugs)
            out.plugs.push_back(prism(end + Vec3f{0, std::min(depth, 2 * job.wall), 0}, end, job.hole / 2 - 0.1f, 24));
    }
    return out;
}

namespace {

/// The largest face of a cut in its own plane: x and z of a frame whose y is the normal.
struct Room {
    Vec3f middle;
    float radius = 0;
};

Room roomAt(const PolyMesh &body, Vec3f point, const portrait::Frame &frame)
{
    PolyMesh turned = body;
    for (Vec3f &p : turned.positions) {
        const Vec3f q = frame.toLocal(p - point);
        p = {q.x, q.z, q.y};
    }
    for (mesh::Face &f : turned.faces) // the axes were changed over
        std::reverse(f.v.begin(), f.v.begin() + f.size());
    const float level = 0;
    const auto slices = Slicer(turned).cut(std::span(&level, 1));
    Room out;
    double largest = 0;
    for (std::size_t k = 0; !slices.empty() && k < slices[0].starts.size(); ++k) {
        const auto loop = slices[0].loop(k);
        double twice = 0, x = 0, z = 0;
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const Point2 a = loop[i], b = loop[(i + 1) % loop.size()];
            const double w = double(a[0]) * double(b[1]) - double(b[0]) * double(a[1]);
            twice += w, x += w * double(a[0] + b[0]), z += w * double(a[1] + b[1]);
        }
        if (std::abs(twice) <= largest)
            continue;
        largest = std::abs(twice);
        const Vec3f at{float(x / (3 * twice)), float(z / (3 * twice)), 0};
        float nearest = 1e30f;
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const Point2 a = loop[i], b = loop[(i + 1) % loop.size()];
            const float ux = b[0] - a[0], uz = b[1] - a[1], lengthSquared = std::max(ux * ux + uz * uz, 1e-20f);
            const float t = std::clamp(((at.x - a[0]) * ux + (at.y - a[1]) * uz) / lengthSquared, 0.0f, 1.0f);
            nearest = std::min(nearest, std::hypot(a[0] + t * ux - at.x, a[1] + t * uz - at.y));
        }
        out = {point + frame.toWorld(at), nearest};
    }
    return out;
}

/// A box that holds all that lies on one side of a plane.
PolyMesh sideOf(const Box3f &box, Vec3f point, const portrait::Frame &frame, float sign)
{
    const float far = 2 * box.diagonal() + length(point - box.centre());
    const Vec3f axis = frame.toWorld({0, 0, 1});
    return prism(point, point + axis * (sign * far), 1.5f * far, 4);
}

} // namespace

Result<Parted> part(const PolyMesh &body, const PartJob &job, const Progress &progress)
{
    const Vec3f normal = normalized(job.normal);
    const portrait::Frame frame(normal);
    const Box3f box = mesh::boundsOf(body.positions);
    const Room room = roomAt(body, job.point, frame);
    if (room.radius <= 0)
        return Error{ErrorCode::Empty, "plane", "it does not cut the piece"};
    Parted out;
    auto low = without(body, sideOf(box, job.point, frame, 1), progress);
    auto high = low ? without(body, sideOf(box, job.point, frame, -1), progress) : low;
    if (!low || !high)
        return (low ? high : low).error();
    out.pegged = std::move(*low), out.socketed = std::move(*high);
    if (job.peg == Peg::None)
        return out;
    out.size = job.size > 0 ? job.size : room.radius;
    const float above = exitOf(body, room.middle, normal), below = exitOf(body, room.middle, -normal);
    out.length = job.length > 0 ? job.length : std::min(out.size, 0.5f * above);
    if (out.size / 2 + job.clearance > 0.9f * room.radius) {
        out.size = out.length = 0;
        return out;
    }
    const int sides = job.peg == Peg::Square ? 4 : 32;
    const float radius = out.size / 2 * (job.peg == Peg::Square ? std::numbers::sqrt2_v<float> * 0.9f : 1.0f);
    const auto pegOf = [&](float about, float further) {
        return prism(room.middle - normal * std::min(out.length / 2, 0.5f * below), room.middle + normal * (out.length + further),
                     radius + about, sides, job.peg == Peg::Keyed);
    };
    PolyMesh both = out.pegged;
    mesh::append(both, pegOf(0, 0));
    auto pegged = solid::seal(both, false, progress);
    if (!pegged)
        return pegged.error();
    // All round by the clearance: a flat side moves by it as well where the radius grows by a little more.
    const float about = job.peg == Peg::Round    ? job.clearance / std::cos(kPi / 32)
                        : job.peg == Peg::Square ? job.clearance * std::numbers::sqrt2_v<float>
                                                 : job.clearance / 0.55f;
    auto socketed = without(out.socketed, pegOf(about, job.clearance), progress);
    if (!socketed)
        return socketed.error();
    out.pegged = std::move(pegged->mesh), out.socketed = std::move(*socketed);
    return out;
}

PolyMesh baseFor(const PolyMesh &body, const BaseJob &job)
{
    const Box3f box = mesh::boundsOf(body.positions);
    std::vector<Vec3f> feet;
    for (const Vec3f p : body.positions)
        if (p.y < box.lo.y + std::max(0.03f * box.size().y, job.sink))
            feet.push_back(p);
    Box3f under;
    for (const Vec3f p : armature::floorHull(feet))
        under.add(p);
    const Vec3f c = under.centre(), half = under.size() * 0.5f;
    const float top = box.lo.y + job.sink, low = top - job.height;
    const float round = std::hypot(half.x, half.z) + job.margin;
    const int sides = job.shape == BaseShape::Plinth ? 4 : 96;
    std::vector<Vec3f> below, above;
    for (int k = 0; k < sides; ++k) {
        const float a = -2 * kPi * (float(k) + (sides == 4 ? 0.5f : 0.0f)) / float(sides);
        Vec3f out;
        switch (job.shape) {
        case BaseShape::Disc: out = {round * std::cos(a), 0, round * std::sin(a)}; break;
        case BaseShape::Plinth:
            out = {std::copysign(half.x + job.margin, std::cos(a)), 0, std::copysign(half.z + job.margin, std::sin(a))};
            break;
        default: // an oval about a box is wider than it by the root of two
            out = {(half.x * std::numbers::sqrt2_v<float> + job.margin) * std::cos(a), 0,
                   (half.z * std::numbers::sqrt2_v<float> + job.margin) * std::sin(a)};
        }
        float slope = 1.06f;
        if (job.shape == BaseShape::Rock) {
            slope = 1.12f + 0.1f * noiseAt(out, round / 8, job.seed + 1);
            out = out * (1.08f + 0.12f * noiseAt(out, round / 3, job.seed));
        }
        above.push_back(Vec3f{c.x, top, c.z} + out), below.push_back(Vec3f{c.x, low, c.z} + out * slope);
    }
    PolyMesh m = between(std::move(below), above);
    return mesh::massOf(m).volumeMm3 < 0 ? inward(std::move(m)) : m;
}

Result<PolyMesh> flattened(const PolyMesh &body, float mm, const Progress &progress)
{
    const Box3f box = mesh::boundsOf(body.positions);
    return without(body, sideOf(box, {box.centre().x, box.lo.y + mm, box.centre().z}, portrait::Frame({0, 1, 0}), -1), progress);
}

namespace {

/// Unit normals of points by the area of the faces about them.
std::vector<Vec3f> normalsOf(const PolyMesh &m, const std::vector<std::array<std::uint32_t, 3>> &triangles)
{
    std::vector<Vec3f> normals(m.positions.size());
    for (const auto &t : triangles) {
        const Vec3f n = cross(m.positions[t[1]] - m.positions[t[0]], m.positions[t[2]] - m.positions[t[0]]);
        for (const std::uint32_t v : t)
            normals[v] += n;
    }
    for (Vec3f &n : normals)
        n = length(n) > 0 ? normalized(n) : Vec3f{};
    return normals;
}

/// How much is missing under each point, mm; 0 where it is thick enough. Straight in, or at a slant where that is longer: by a corner
/// the straight way tells of the corner.
std::vector<float> missingOf(const PolyMesh &m, const std::vector<Vec3f> &normals, float wall, const Progress &progress)
{
    io::Scene scene;
    scene.add(io::Shape("body", m));
    const portrait::TracedScene traced(scene);
    const float epsilon = 1e-4f * wall;
    std::vector<float> out(m.positions.size());
    forEachBlock(out.size(), 1024, progress.stop, [&](BlockRange r) {
        for (std::size_t v = r.begin; v < r.end; ++v) {
            const Vec3f in = -normals[v];
            if (in == Vec3f{})
                continue;
            const auto along = [&](Vec3f way) {
                const auto hit = traced.meet({m.positions[v] + in * epsilon, way}, 2 * wall, 0);
                return hit ? hit->distance + epsilon : 2 * wall;
            };
            float far = along(in);
            if (far >= wall)
                continue;
            const portrait::Frame frame(in);
            std::array<float, 5> ways{far};
            for (std::size_t k = 0; k < 4; ++k)
                ways[k + 1] =
                    along(frame.toWorld({0.34f * std::cos(kPi / 2 * float(k)), 0.34f * std::sin(kPi / 2 * float(k)), 0.94f}));
            std::sort(ways.begin(), ways.end());
            far = std::max(far, ways[2]);
            out[v] = std::max(0.0f, wall - far);
        }
    });
    return out;
}

} // namespace

Result<Thickened> thickened(const PolyMesh &body, float wall, const Progress &progress)
{
    Thickened out{body};
    const auto triangles = mesh::triangulate(body);
    std::vector<std::uint8_t> isMoved(body.positions.size());
    std::vector<float> missing;
    for (int round = 0; round < 3; ++round) {
        const std::vector<Vec3f> normals = normalsOf(out.mesh, triangles);
        missing = missingOf(out.mesh, normals, wall, progress);
        if (progress.isCancelled())
            return Error{ErrorCode::Cancelled, "thickness", "stopped on request"};
        std::vector<float> by(missing.size()), sum;
        for (std::size_t v = 0; v < by.size(); ++v)
            by[v] = missing[v] * 0.55f;
        std::vector<std::uint32_t> count;
        for (int pass = 0; pass < 4; ++pass) { // never less than is missing, less and less beside it
            sum.assign(by.size(), 0), count.assign(by.size(), 0);
            for (const auto &t : triangles)
                for (std::size_t k = 0; k < 3; ++k)
                    sum[t[k]] += by[t[(k + 1) % 3]] + by[t[(k + 2) % 3]], count[t[k]] += 2;
            for (std::size_t v = 0; v < by.size(); ++v)
                by[v] = std::max(missing[v] * 0.55f, count[v] > 0 ? sum[v] / float(count[v]) : 0);
        }
        for (std::size_t v = 0; v < by.size(); ++v)
            if (by[v] > 1e-4f * wall)
                out.mesh.positions[v] += normals[v] * by[v], isMoved[v] = 1;
    }
    missing = missingOf(out.mesh, normalsOf(out.mesh, triangles), wall, progress);
    for (std::size_t v = 0; v < missing.size(); ++v) {
        out.moved += isMoved[v], out.left += missing[v] > 0.1f * wall;
        out.most = std::max(out.most, length(out.mesh.positions[v] - body.positions[v]));
    }
    if (out.moved == 0)
        return Error{ErrorCode::Empty, "thickness", "nothing is thinner than that"};
    return out;
}

} // namespace bonemoss::proof
