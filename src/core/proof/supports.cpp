#include "proof/supports.h"

#include "mesh/measures.h"
#include "portrait/traced_scene.h"
#include "proof/layers.h"
#include "proof/parts.h"
#include "solid/seal.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <tuple>

namespace bonemoss::proof {

namespace {

std::vector<Triangle> trianglesIn(const mesh::PolyMesh &m, Quat turn = {})
{
    std::vector<Vec3f> points = m.positions;
    for (Vec3f &p : points)
        p = rotate(turn, p);
    std::vector<Triangle> out;
    for (const auto &t : mesh::triangulate(m))
        out.push_back({points[t[0]], points[t[1]], points[t[2]]});
    return out;
}

bool needsSupport(Vec3f normal, const PrinterProfile &p)
{
    return normal.y < -std::cos(p.overhang * kRadiansPerDegree);
}

} // namespace

std::vector<Orientation> orientations(const mesh::PolyMesh &body, const PrinterProfile &profile, const Progress &progress)
{
    struct Face {
        Vec3f normal;
        double area;
    };
    // Normals in cells of about four degrees: what a direction costs does not need each face.
    std::map<std::tuple<int, int, int>, Face> cells;
    for (const Triangle &t : trianglesIn(body)) {
        const Vec3f n = cross(t[1] - t[0], t[2] - t[0]);
        const float area = length(n) / 2;
        if (area <= 0)
            continue;
        const Vec3f unit = n * (0.5f / area);
        const auto cell = [](float x) { return int(std::lround(x * 14)); };
        Face &f = cells[{cell(unit.x), cell(unit.y), cell(unit.z)}];
        f.normal = f.normal + unit * area, f.area += double(area);
    }
    const std::size_t step = std::max<std::size_t>(1, body.positions.size() / 20000);
    std::vector<Orientation> all;
    constexpr int kWays = 162;
    for (int k = 0; k <= kWays; ++k) { // a spiral over the sphere; first as it stands
        const float y = 1 - 2 * (float(k) + 0.5f) / float(kWays), a = 2.399963f * float(k),
                    r = std::sqrt(std::max(0.0f, 1 - y * y));
        const Vec3f up = k == kWays ? Vec3f{0, 1, 0} : Vec3f{r * std::cos(a), y, r * std::sin(a)};
        Orientation o;
        o.turn = rotationFromTo(up, {0, 1, 0});
        for (const auto &[key, f] : cells)
            if (needsSupport({0, dot(normalized(f.normal), up), 0}, profile))
                o.overhangMm2 += f.area;
        float low = 1e30f, high = -1e30f;
        for (std::size_t v = 0; v < body.positions.size(); v += step)
            low = std::min(low, dot(body.positions[v], up)), high = std::max(high, dot(body.positions[v], up));
        o.heightMm = high - low;
        o.cost = o.overhangMm2 + 2 * double(o.heightMm);
        all.push_back(o);
    }
    std::stable_sort(all.begin(), all.end(), [](const Orientation &a, const Orientation &b) { return a.cost < b.cost; });
    all.resize(8);
    for (Orientation &o : all) {
        if (progress.isCancelled())
            return {};
        const float layer = std::max(profile.layer, o.heightMm / 250);
        if (const auto layers = layersOf(trianglesIn(body, o.turn), layer, 2 * layer, progress))
            for (const Region &r : regionsOf(*layers, progress))
                o.islands += r.kind == Region::Kind::Island && r.layer > 0;
        o.cost += 20 * double(o.islands);
    }
    std::stable_sort(all.begin(), all.end(), [](const Orientation &a, const Orientation &b) { return a.cost < b.cost; });
    return all;
}

namespace {

/// Places to hold, the lowest of each cell.
std::vector<Vec3f> placesToHold(const mesh::PolyMesh &body, const PrinterProfile &p, float apart, const Progress &progress)
{
    const auto triangles = trianglesIn(body);
    const Box3f box = mesh::boundsOf(body.positions);
    const float layer = std::max(p.layer, box.size().y / 400);
    std::map<std::tuple<int, int, int>, Vec3f> cells;
    const auto offer = [&](Vec3f at) {
        if (at.y < box.lo.y + std::max(0.2f, 2 * layer))
            return; // lies on the plate
        const auto cell = [&](float x) { return int(std::floor(x / apart)); };
        const auto [it, isNew] = cells.try_emplace({cell(at.x), cell(at.y), cell(at.z)}, at);
        if (!isNew && at.y < it->second.y)
            it->second = at;
    };
    if (const auto layers = layersOf(triangles, layer, layer, progress))
        for (const Region &r : regionsOf(*layers, progress))
            if (r.kind == Region::Kind::Island)
                offer(r.at);
    for (const Triangle &t : triangles) {
        const Vec3f n = cross(t[1] - t[0], t[2] - t[0]);
        if (length(n) <= 0 || !needsSupport(normalized(n), p))
            continue;
        // Large faces by points over them.
        const int cuts = std::clamp(int(std::max(length(t[1] - t[0]), length(t[2] - t[0])) / apart), 1, 64);
        for (int i = 0; i < cuts; ++i)
            for (int k = 0; k < cuts - i; ++k) {
                const float u = (float(i) + 1 / 3.0f) / float(cuts), v = (float(k) + 1 / 3.0f) / float(cuts);
                offer(t[0] + (t[1] - t[0]) * u + (t[2] - t[0]) * v);
            }
    }
    std::vector<Vec3f> out;
    for (const auto &[key, at] : cells)
        if (std::none_of(out.begin(), out.end(), [&](Vec3f q) { return length(q - at) < apart / 2; }))
            out.push_back(at);
    return out;
}

} // namespace

Result<Supports> supportsFor(const mesh::PolyMesh &body, const PrinterProfile &profile, float apart, const Progress &progress)
{
    if (apart <= 0)
        apart = profile.isResin ? 3 : 5;
    const float tip = profile.isResin ? 0.2f : 0.5f,
                trunk = profile.isResin ? 0.6f : 1.2f; // radii, mm; common practice, no source
    io::Scene scene;
    scene.add(io::Shape("body", body));
    const portrait::TracedScene traced(scene);
    const float plate = mesh::boundsOf(body.positions).lo.y;
    std::vector<Vec3f> places = placesToHold(body, profile, apart, progress);
    if (progress.isCancelled())
        return Error{ErrorCode::Cancelled, "supports", "stopped on request"};
    std::sort(places.begin(), places.end(),
              [](Vec3f a, Vec3f b) { return std::tuple(-a.y, a.x, a.z) < std::tuple(-b.y, b.x, b.z); });
    const auto isFree = [&](Vec3f from, Vec3f to) {
        const float far = length(to - from);
        return far < 1e-4f || !traced.meet({from, normalized(to - from)}, far, 0.02f);
    };
    struct Trunk {
        Vec3f top;
        float foot;
        bool isOnBody;
    };
    std::vector<Trunk> trunks;
    std::map<std::pair<int, int>, std::vector<std::size_t>> near; // trunks by cells of two distances
    Supports out;
    mesh::PolyMesh all;
    const auto cellOf = [&](Vec3f p) {
        return std::pair(int(std::floor(p.x / (2 * apart))), int(std::floor(p.z / (2 * apart))));
    };
    for (const Vec3f p : places) {
        const Vec3f start = p - Vec3f{0, 0.05f, 0};
        std::size_t best = trunks.size();
        float least = 2 * apart;
        const auto [cx, cz] = cellOf(p);
        for (int k = 0; k < 9; ++k) {
            const auto it = near.find({cx + k % 3 - 1, cz + k / 3 - 1});
            if (it == near.end())
                continue;
            for (const std::size_t n : it->second) {
                const Trunk &t = trunks[n];
                const float across = std::hypot(p.x - t.top.x, p.z - t.top.z);
                const Vec3f joint{t.top.x, p.y - std::max(across, 1.0f), t.top.z};
                if (across < least && joint.y > t.foot + 1 && joint.y <= t.top.y && isFree(start, joint))
                    least = across, best = n;
            }
        }
        Support s{p, {}, {}, false};
        if (best < trunks.size()) {
            const Trunk &t = trunks[best];
            s.joint = {t.top.x, p.y - std::max(least, 1.0f), t.top.z};
            s.foot = {t.top.x, t.foot, t.top.z}, s.standsOnBody = t.isOnBody;
        } else {
            const auto below = traced.meet({start, {0, -1, 0}}, 1e30f, 0.02f);
            s.standsOnBody = below.has_value();
            s.foot = {p.x, below ? start.y - below->distance : plate, p.z};
            if (p.y - s.foot.y < 0.3f)
                continue; // the body itself carries it there
            s.joint = {p.x, std::max(s.foot.y + 0.1f, p.y - 2), p.z};
            trunks.push_back({s.joint, s.foot.y, s.standsOnBody});
            near[cellOf(p)].push_back(trunks.size() - 1);
            const float foot = s.standsOnBody ? tip * 2 : trunk * 3;
            mesh::append(all, prism(s.foot - Vec3f{0, s.standsOnBody ? 0.1f : 0, 0},
                                    s.foot + Vec3f{0, std::min(0.8f, s.joint.y - s.foot.y), 0}, foot, 12));
            mesh::append(all, prism(s.foot, s.joint + Vec3f{0, 0.1f, 0}, trunk, 10));
        }
        // The branch, which narrows to its tip and goes into the body by a tenth of a mm.
        mesh::PolyMesh branch = prism(s.joint, p + Vec3f{0, 0.1f, 0}, trunk * 0.8f, 8);
        const Vec3f end = p + Vec3f{0, 0.1f, 0};
        const float middle = length(end - s.joint) / 2;
        for (Vec3f &q : branch.positions)
            if (length(q - end) < middle)
                q = end + (q - end) * (tip / (trunk * 0.8f));
        mesh::append(all, branch);
        out.contactMm2 += double(kPi * tip * tip) * (s.standsOnBody ? 2 : 1);
        out.members.push_back(s);
    }
    if (out.members.empty())
        return out;
    auto sealed = solid::seal(all, true, progress);
    if (!sealed)
        return sealed.error();
    out.mesh = std::move(sealed->mesh);
    out.volumeMm3 = mesh::massOf(out.mesh).volumeMm3;
    return out;
}

} // namespace bonemoss::proof
