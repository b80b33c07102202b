#include "proof/proof.h"

#include "armature/balance.h"
#include "base/parallel.h"
#include "mesh/measures.h"
#include "mesh/parts.h"
#include "proof/layers.h"
#include "proof/walls.h"
#include "solid/crossings.h"

#include <Eigen/Eigenvalues>

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace bonemoss::proof {

namespace {

constexpr std::size_t kMostPlaces = 600'000; ///< at which walls are measured
constexpr std::size_t kMostOfAKind = 40;     ///< findings that are told one by one

/// What all checks look at.
struct Work {
    const io::Scene &scene; ///< without curves
    const ProofJob &job;
    float scale = 1; ///< mm of the print for one of the creature
    Box3f box;
    std::vector<Triangle> triangles; ///< of all copies in place
    std::vector<std::uint32_t> objectOf;
    const portrait::TracedScene *traced = nullptr;
    Report &out;

    float mm(float printed) const { return printed / scale; } ///< in the creature
    Finding &add(std::string_view kind, double value, Vec3f at, float radius, std::size_t object = std::size_t(-1))
    {
        const Vec3f away = at - box.centre();
        Finding f{&findingKind(kind), findingKind(kind).severity, value, at, radius};
        f.outward = length(away) > 1e-3f ? normalized(away) : Vec3f{0, 0, 1};
        if (object < scene.objects.size())
            f.item = scene.objects[object].item, f.piece = scene.objects[object].name;
        out.findings.push_back(std::move(f));
        return out.findings.back();
    }
    /// What a region lies at: the object met above or below it.
    std::size_t objectAt(Vec3f at) const
    {
        for (const float up : {-1.0f, 1.0f})
            if (const auto m = traced->meet({at, {0, up, 0}}))
                return m->object;
        return std::size_t(-1);
    }
};

/// Places that lie together.
struct Group {
    std::vector<std::uint32_t> of;
};

std::vector<Group> groupsOf(std::span<const Vec3f> places, float reach)
{
    const auto keyOf = [&](int x, int y, int z) {
        return (std::uint64_t(std::uint32_t(x + (1 << 20))) << 42) ^ (std::uint64_t(std::uint32_t(y + (1 << 20))) << 21)
               ^ std::uint64_t(std::uint32_t(z + (1 << 20)));
    };
    struct Cell {
        int x, y, z;
        std::vector<std::uint32_t> of;
        std::uint32_t group = kNone;
    };
    std::vector<Cell> cells;
    std::unordered_map<std::uint64_t, std::uint32_t> at;
    for (std::uint32_t k = 0; k < places.size(); ++k) {
        const int x = int(std::floor(places[k].x / reach)), y = int(std::floor(places[k].y / reach)),
                  z = int(std::floor(places[k].z / reach));
        const auto [it, isNew] = at.try_emplace(keyOf(x, y, z), std::uint32_t(cells.size()));
        if (isNew)
            cells.push_back({x, y, z, {}});
        cells[it->second].of.push_back(k);
    }
    std::vector<Group> out;
    std::vector<std::uint32_t> stack;
    for (std::uint32_t c = 0; c < cells.size(); ++c) {
        if (cells[c].group != kNone)
            continue;
        out.emplace_back();
        stack.assign(1, c), cells[c].group = std::uint32_t(out.size() - 1);
        while (!stack.empty()) {
            const Cell &cell = cells[stack.back()];
            stack.pop_back();
            out.back().of.insert(out.back().of.end(), cell.of.begin(), cell.of.end());
            for (int n = 0; n < 27; ++n)
                if (const auto it = at.find(keyOf(cell.x + n % 3 - 1, cell.y + n / 3 % 3 - 1, cell.z + n / 9 - 1));
                    it != at.end() && cells[it->second].group == kNone)
                    cells[it->second].group = std::uint32_t(out.size() - 1), stack.push_back(it->second);
        }
    }
    return out;
}

/// Largest share of the normals' spread along one direction: 1 of a wall, a half of a rod.
float flatness(std::span<const WallPlace> walls, const Group &g)
{
    Eigen::Matrix3f sum = Eigen::Matrix3f::Zero();
    for (const std::uint32_t k : g.of) {
        const Eigen::Vector3f n(walls[k].normal.x, walls[k].normal.y, walls[k].normal.z);
        sum += n * n.transpose();
    }
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3f> solved(sum, Eigen::EigenvaluesOnly);
    return solved.eigenvalues()[2] / std::max(sum.trace(), 1e-6f);
}

/// Where a mesh crosses itself, places that lie together as one.
void tellCrossings(Work &w, const solid::CrossingFinder &finder, std::span<const solid::CrossingFinder::Pair> pairs,
                   std::size_t object)
{
    std::vector<Vec3f> places, normals;
    for (const auto &[a, b] : pairs) {
        const auto &t = finder.triangles()[a];
        const Vec3f p = finder.points()[t[0]], q = finder.points()[t[1]], r = finder.points()[t[2]];
        places.push_back((p + q + r) * (1.0f / 3)), normals.push_back(cross(q - p, r - p));
    }
    std::vector<Group> groups = groupsOf(places, 0.01f * w.box.diagonal());
    std::stable_sort(groups.begin(), groups.end(), [](const Group &a, const Group &b) { return a.of.size() > b.of.size(); });
    for (std::size_t g = 0; g < std::min(groups.size(), kMostOfAKind); ++g) {
        Box3f box;
        Vec3f outward;
        for (const std::uint32_t k : groups[g].of)
            box.add(places[k]), outward = outward + normals[k];
        Finding &f = w.add("crossing", double(groups[g].of.size()), box.centre(), std::max(box.diagonal() / 2, w.mm(1)), object);
        if (length(outward) > 0)
            f.outward = normalized(outward);
    }
}

void checkMeshes(Work &w, const Progress &progress)
{
    std::vector<std::uint8_t> isDone(w.scene.shapes.size());
    for (std::size_t k = 0; k < w.scene.objects.size(); ++k) {
        const io::Object &o = w.scene.objects[k];
        if (isDone[o.shape] || o.places.empty()) // linked copies have the same faults
            continue;
        isDone[o.shape] = 1;
        io::Object one = o;
        one.places.resize(1);
        const mesh::PolyMesh mesh = meshOf(w.scene, one);
        const mesh::Measures m = measure(mesh);
        const float radius = 0.02f * w.box.diagonal();
        if (m.firstBoundary)
            w.add("open", double(m.boundaryEdges), *m.firstBoundary, radius, k);
        if (m.firstNonManifold)
            w.add("non-manifold", double(m.nonManifoldEdges), *m.firstNonManifold, radius, k);
        if (m.firstFlipped)
            w.add("flipped", double(m.flippedEdges), *m.firstFlipped, radius, k);
        if (m.closed && m.volumeMm3 < 0)
            w.add("inverted", -m.volumeMm3 * std::pow(double(w.scale), 3), m.bounds.centre(), m.bounds.diagonal() / 2, k);
        if (w.job.isQuick)
            continue;
        const solid::CrossingFinder finder(mesh.positions, mesh::triangulate(mesh));
        const auto pairs = finder.all(progress);
        w.out.selfCrossings += pairs.size();
        tellCrossings(w, finder, pairs, k);
    }
}

/// What a kind of region is told as, and from which size on, mm^2 or mm^3 of the print, it is told by itself.
struct RegionRow {
    std::string_view kind;
    bool isArea;
    double least, own; ///< less than least: not at all; less than own: with those about it, as a note
};
constexpr std::array<RegionRow, 4> kRegionRows{{{"island", true, 0, 0.05},
                                                {"cup", true, 4, 4},
                                                {"pocket", false, 0, 1},
                                                {"loose", false, 0, 1}}}; // in the order of Region::Kind

void tellRegions(Work &w, const std::vector<Region> &regions, float cell)
{
    const double cubic = std::pow(double(w.scale), 3), square = double(w.scale) * double(w.scale);
    std::array<std::size_t, 4> told{};
    std::array<std::vector<const Region *>, 4> small;
    const auto valueOf = [&](const Region &r) {
        return kRegionRows[std::size_t(r.kind)].isArea ? double(r.area) * square : r.volume * cubic;
    };
    for (const Region &r : regions) {
        const auto kind = std::size_t(r.kind);
        const RegionRow &row = kRegionRows[kind];
        if (valueOf(r) < row.least || (r.kind == Region::Kind::Cup && !w.job.profile.isResin)
            || (row.isArea && r.area < 2 * cell * cell)) // thinner than is looked at: walls tell of it
            continue;
        w.out.pockets += r.kind == Region::Kind::Pocket;
        w.out.islands += r.kind == Region::Kind::Island;
        if (valueOf(r) < row.own) {
            small[kind].push_back(&r);
        } else if (told[kind]++ < kMostOfAKind) {
            const float radius = row.isArea ? std::sqrt(r.area / kPi) : std::cbrt(float(r.volume));
            w.add(row.kind, valueOf(r), r.at, std::max(2 * cell, radius), w.objectAt(r.at));
        }
    }
    for (std::size_t kind = 0; kind < small.size(); ++kind) {
        std::vector<Vec3f> places;
        for (const Region *r : small[kind])
            places.push_back(r->at);
        std::vector<Group> groups = groupsOf(places, 0.05f * w.box.diagonal());
        std::sort(groups.begin(), groups.end(), [](const Group &a, const Group &b) { return a.of.size() > b.of.size(); });
        for (std::size_t n = 0; n < std::min(groups.size(), kMostOfAKind); ++n) {
            double sum = 0;
            Box3f box;
            for (const std::uint32_t k : groups[n].of)
                sum += valueOf(*small[kind][k]), box.add(places[k]);
            const Vec3f at = places[groups[n].of[0]];
            Finding &f = w.add(kRegionRows[kind].kind, sum, at, std::max(2 * cell, box.diagonal() / 2), w.objectAt(at));
            f.severity = Severity::Note, f.count = std::uint32_t(groups[n].of.size());
        }
    }
}

Status checkLayers(Work &w, const Progress &progress)
{
    const PrinterProfile &p = w.job.profile;
    const Vec3f size = w.box.size();
    const float most = w.job.isQuick ? 250 : 1500, across = w.job.isQuick ? 200 : 900;
    const float layer = std::max(w.mm(p.layer), size.y / most),
                cell = std::max({w.mm(p.layer), size.x / across, size.z / across});
    w.out.layerMm = layer * w.scale, w.out.cellMm = cell * w.scale;
    const auto layers = layersOf(w.triangles, layer, cell, progress);
    if (!layers)
        return layers.error();
    const double cubic = std::pow(double(w.scale), 3);
    w.out.volumeMm3 = layers->volume() * cubic;
    for (const double a : layers->overlap)
        w.out.overlapMm3 += a * double(layer) * cubic;
    double widest = 0;
    std::size_t at = 0;
    for (std::size_t k = 0; k < layers->overlap.size(); ++k)
        if (layers->overlap[k] > widest)
            widest = layers->overlap[k], at = k;
    if (w.out.overlapMm3 > 0.001 * w.out.volumeMm3)
        w.add("overlap", w.out.overlapMm3, layers->middleOf(int(at), layers->rows / 2, float(layers->columns) / 2), size.x / 4);
    tellRegions(w, regionsOf(*layers, progress), cell);
    w.out.layers = std::max(1, int(std::ceil(size.y * w.scale / p.layer)));
    w.out.weightG = w.out.volumeMm3 * double(p.density) / 1000;
    w.out.cost = w.out.weightG * double(p.price) / 1000;
    w.out.hours =
        (double(w.out.layers) * double(p.secondsPerLayer) + (p.mm3PerSecond > 0 ? w.out.volumeMm3 / double(p.mm3PerSecond) : 0))
        / 3600;
    // How it stands: the lowest layer's faces, and the middle of all layers.
    const mesh::Mass mass = [&] {
        mesh::Mass m;
        double x = 0, y = 0, z = 0;
        for (int k = 0; k < layers->count; ++k)
            for (int row = 0; row < layers->rows; ++row)
                for (const Run r : layers->row(k, row)) {
                    const double n = r.end - r.begin;
                    const Vec3f c = layers->middleOf(k, row, float(r.begin + r.end - 1) / 2);
                    m.volumeMm3 += n, x += n * double(c.x), y += n * double(c.y), z += n * double(c.z);
                }
        if (m.volumeMm3 > 0)
            m.centre = {float(x / m.volumeMm3), float(y / m.volumeMm3), float(z / m.volumeMm3)};
        return m;
    }();
    if (mass.volumeMm3 > 0) {
        std::vector<Vec3f> low;
        const float touch = std::max(w.mm(0.1f), 0.005f * w.box.diagonal()); // what little is missing is taken off, or leaned on
        for (const Triangle &t : w.triangles)
            for (const Vec3f q : t)
                if (q.y <= w.box.lo.y + touch)
                    low.push_back(q);
        const armature::Balance b = armature::balanceOf(low, mass.centre, touch);
        w.out.stands = b.stands(), w.out.marginMm = b.margin * w.scale;
        if (!b.stands())
            w.add("stance", double(std::max(0.0f, -b.margin) * w.scale), {mass.centre.x, w.box.lo.y, mass.centre.z}, size.y / 8);
    }
    return Done{};
}

/// Cuts triangles whose sides are longer than that, so that the middles of all tell enough of the surface.
void cutLong(std::vector<Triangle> &triangles, std::vector<std::uint32_t> &objectOf, float longest)
{
    for (std::size_t k = 0; k < triangles.size(); ++k)
        for (;;) { // the longest side in two, until it is short
            const Triangle t = triangles[k];
            std::size_t side = 0;
            for (std::size_t s = 1; s < 3; ++s)
                if (squaredLength(t[s] - t[(s + 1) % 3]) > squaredLength(t[side] - t[(side + 1) % 3]))
                    side = s;
            const Vec3f a = t[side], b = t[(side + 1) % 3], c = t[(side + 2) % 3], middle = (a + b) * 0.5f;
            if (squaredLength(a - b) <= longest * longest)
                break;
            triangles[k] = {a, middle, c};
            triangles.push_back({middle, b, c}), objectOf.push_back(objectOf[k]);
        }
}

void checkWalls(Work &w, const Progress &progress)
{
    cutLong(w.triangles, w.objectOf, w.box.diagonal() / 150);
    const PrinterProfile &p = w.job.profile;
    const std::size_t most = w.job.isQuick ? kMostPlaces / 10 : kMostPlaces;
    const std::size_t step = (w.triangles.size() + most - 1) / most;
    const float thin = w.mm(std::max(p.wall, p.tip));
    const std::vector<WallPlace> walls = wallsOf(*w.traced, w.triangles, step, 2 * thin, w.mm(p.gap), progress);
    std::vector<float> all;
    for (const WallPlace &m : walls)
        if (m.thickness < 1e29f)
            all.push_back(m.thickness);
    if (!all.empty()) { // all but the thousandth part, which is apexes and creases
        std::nth_element(all.begin(), all.begin() + std::ptrdiff_t(all.size() / 1000), all.end());
        w.out.leastThicknessMm = all[all.size() / 1000] * w.scale;
    }
    const auto tell = [&](const std::vector<std::uint32_t> &which, float WallPlace::*value, float reach, const auto &kindOf) {
        std::vector<Vec3f> places;
        for (const std::uint32_t k : which)
            places.push_back(walls[k].at);
        std::vector<Group> groups = groupsOf(places, reach);
        for (Group &g : groups)
            for (std::uint32_t &k : g.of)
                k = which[k];
        std::sort(groups.begin(), groups.end(), [](const Group &a, const Group &b) { return a.of.size() > b.of.size(); });
        for (std::size_t n = 0; n < std::min(groups.size(), 2 * kMostOfAKind); ++n) {
            const Group &g = groups[n];
            if (g.of.size() < 3)
                continue;                             // a single face says little
            std::vector<std::uint32_t> sorted = g.of; // single places may lie in a crease or at an apex
            const auto quarter = sorted.begin() + std::ptrdiff_t(sorted.size() / 4);
            std::nth_element(sorted.begin(), quarter, sorted.end(), [&](std::uint32_t a, std::uint32_t b) {
                return std::pair(walls[a].*value, a) < std::pair(walls[b].*value, b);
            });
            const std::uint32_t worst = *quarter;
            Box3f box;
            for (const std::uint32_t k : g.of)
                box.add(walls[k].at);
            const std::string_view kind = kindOf(g, walls[worst].*value);
            if (kind.empty())
                continue;
            Finding &f = w.add(kind, double(walls[worst].*value * w.scale), walls[worst].at, std::max(box.diagonal() / 2, reach),
                               w.objectOf[walls[worst].triangle]);
            f.count = std::uint32_t(g.of.size()), f.outward = walls[worst].normal;
        }
    };
    std::vector<std::uint32_t> thinOnes, narrow;
    for (std::uint32_t k = 0; k < walls.size(); ++k) {
        if (walls[k].thickness < thin)
            thinOnes.push_back(k);
        if (walls[k].gap < w.mm(p.gap))
            narrow.push_back(k);
    }
    const float reach = std::max(2 * thin, 0.004f * w.box.diagonal());
    tell(thinOnes, &WallPlace::thickness, reach, [&](const Group &g, float value) -> std::string_view {
        const bool isRod = flatness(walls, g) < 0.75f;
        return value >= w.mm(isRod ? p.tip : p.wall) ? "" : isRod ? "tip" : "wall";
    });
    tell(narrow, &WallPlace::gap, reach, [](const Group &, float) -> std::string_view { return "gap"; });
    // What looks down and does not lie on the plate.
    const float cosine = std::cos(p.overhang * kRadiansPerDegree), ground = w.box.lo.y + w.mm(std::max(p.layer, 0.1f));
    std::vector<Vec3f> places;
    std::vector<std::uint32_t> which;
    for (std::uint32_t k = 0; k < walls.size(); ++k)
        if (walls[k].normal.y < -cosine && walls[k].at.y > ground)
            places.push_back(walls[k].at), which.push_back(k);
    std::vector<Group> groups = groupsOf(places, std::max(w.mm(1), 0.01f * w.box.diagonal()));
    const auto areaOf = [&](const Group &g) {
        double sum = 0;
        for (const std::uint32_t k : g.of) {
            const Triangle &t = w.triangles[walls[which[k]].triangle];
            sum += 0.5 * double(length(cross(t[1] - t[0], t[2] - t[0]))) * double(step);
        }
        return sum * double(w.scale) * double(w.scale);
    };
    std::vector<std::pair<double, std::size_t>> byArea;
    for (std::size_t g = 0; g < groups.size(); ++g)
        byArea.emplace_back(areaOf(groups[g]), g);
    std::sort(byArea.begin(), byArea.end(), std::greater());
    for (std::size_t n = 0; n < std::min(byArea.size(), kMostOfAKind); ++n) {
        const auto &[area, g] = byArea[n];
        if (area < 1)
            break;
        Box3f box;
        std::uint32_t lowest = groups[g].of[0];
        for (const std::uint32_t k : groups[g].of) {
            box.add(places[k]);
            if (places[k].y < places[lowest].y)
                lowest = k;
        }
        w.add("overhang", area, places[lowest], box.diagonal() / 2, w.objectOf[walls[which[lowest]].triangle]).count =
            std::uint32_t(groups[g].of.size());
    }
}

} // namespace

bool Report::isSound() const
{
    return std::none_of(findings.begin(), findings.end(), [](const Finding &f) { return f.severity == Severity::Spoils; });
}

io::Scene printable(io::Scene scene, std::size_t *fibres)
{
    for (io::Shape &s : scene.shapes)
        if (s.curves) {
            if (fibres)
                *fibres += s.curves->starts.size();
            s = io::Shape(s.name, mesh::PolyMesh{});
        }
    for (io::Material &m : scene.materials)
        m.opacity = 1;
    std::erase_if(scene.objects, [&](const io::Object &o) { return scene.shapeOf(o).faceCount() == 0; });
    return scene;
}

Result<Report> prove(const io::Scene &scene, const ProofJob &job, const Progress &progress)
{
    Report out;
    const io::Scene solid = printable(scene, &out.fibres);
    const Box3f box = solid.box();
    if (box.isEmpty())
        return Error{ErrorCode::Empty, "proof", "there is nothing to print: only surfaces can be"};
    Work w{solid, job, 1, box, {}, {}, nullptr, out};
    if (job.heightMm > 0)
        w.scale = job.heightMm / std::max(box.size().y, 1e-6f);
    out.size = box.size() * w.scale, out.scale = w.scale;
    for (std::size_t k = 0; k < solid.objects.size(); ++k)
        for (const io::Placement &place : solid.objects[k].places) {
            const bool isMirrored = place.isMirroring(), isPlain = place == io::Placement();
            solid.shapeOf(solid.objects[k]).eachTriangle([&](std::array<Vec3f, 3> p, const std::array<std::uint32_t, 3> &) {
                if (!isPlain)
                    for (Vec3f &q : p)
                        q = place.apply(q);
                if (isMirrored)
                    std::swap(p[1], p[2]);
                w.triangles.push_back(p), w.objectOf.push_back(std::uint32_t(k));
            });
        }
    const Vec3f fits = job.profile.build;
    const float flat =
        std::min(std::max(out.size.x - fits.x, out.size.z - fits.z), std::max(out.size.z - fits.x, out.size.x - fits.z));
    if (const float over = std::max(flat, out.size.y - fits.y); over > 0)
        w.add("size", double(over), box.centre(), box.diagonal() / 2);
    const portrait::TracedScene traced(solid);
    w.traced = &traced;
    checkMeshes(w, progress);
    if (progress.isCancelled())
        return Error{ErrorCode::Cancelled, "proof", "stopped on request"};
    if (const Status done = checkLayers(w, progress); !done)
        return done.error();
    checkWalls(w, progress);
    if (progress.isCancelled())
        return Error{ErrorCode::Cancelled, "proof", "stopped on request"};
    std::stable_sort(out.findings.begin(), out.findings.end(),
                     [](const Finding &a, const Finding &b) { return a.severity < b.severity; });
    return out;
}

} // namespace bonemoss::proof
