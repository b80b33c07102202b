// Figures of proofs: slices, self-crossings, many bodies as one.
#include "bench/figure.h"

#include "base/parallel.h"
#include "mesh/measures.h"
#include "mesh/poly_mesh.h"
#include "proof/outlines.h"
#include "solid/crossings.h"
#include "solid/detail/cgal_mesh.h"
#include "solid/seal.h"

#include <CGAL/AABB_halfedge_graph_segment_primitive.h>
#include <CGAL/AABB_traits.h>
#include <CGAL/AABB_tree.h>
#include <CGAL/Polygon_mesh_processing/corefinement.h>
#include <CGAL/Polygon_mesh_processing/measure.h>
#include <CGAL/Polygon_mesh_processing/self_intersections.h>
#include <CGAL/Polygon_mesh_slicer.h>
#include <fmt/format.h>

#include <cmath>
#include <numeric>

namespace bonemoss::bench {

namespace {

using namespace proof;

/// A ball with bumps, closed, of about twice as many triangles as rings times rings.
mesh::PolyMesh bumpyBall(std::uint32_t rings = 708)
{
    const std::uint32_t sectors = rings;
    mesh::PolyMesh out;
    const auto at = [](double a, double b) {
        const double r = 50 + 2 * std::sin(9 * a) * std::sin(11 * b) + 0.3 * std::sin(61 * a) * std::sin(67 * b);
        return Vec3f{float(r * std::sin(a) * std::cos(b)), float(r * std::cos(a)), float(r * std::sin(a) * std::sin(b))};
    };
    out.positions.push_back(at(0, 0));
    for (std::uint32_t r = 1; r < rings; ++r)
        for (std::uint32_t s = 0; s < sectors; ++s)
            out.positions.push_back(at(double(kPi) * r / rings, 2 * double(kPi) * s / sectors));
    out.positions.push_back(at(double(kPi), 0));
    const auto v = [sectors](std::uint32_t r, std::uint32_t s) { return 1 + (r - 1) * sectors + s % sectors; };
    const auto last = std::uint32_t(out.positions.size() - 1);
    for (std::uint32_t s = 0; s < sectors; ++s) {
        out.faces.push_back({{0, v(1, s + 1), v(1, s), kNone}});
        for (std::uint32_t r = 1; r + 1 < rings; ++r) {
            out.faces.push_back({{v(r, s), v(r, s + 1), v(r + 1, s + 1), kNone}});
            out.faces.push_back({{v(r, s), v(r + 1, s + 1), v(r + 1, s), kNone}});
        }
        out.faces.push_back({{v(rings - 1, s), v(rings - 1, s + 1), last, kNone}});
    }
    return inSpatialOrder(out);
}

Figure slices()
{
    using Kernel = solid::detail::Kernel;
    using Mesh = solid::detail::SurfaceMesh;
    using Points = std::vector<Kernel::Point_3>;
    const mesh::PolyMesh mesh = bumpyBall();
    const Box3f box = mesh::boundsOf(mesh.positions);
    constexpr int kLayers = 3600, kEach = 12; // the library cuts every twelfth of them
    const std::vector<float> heights = middlesOfLayers(box.lo.y, box.hi.y, box.size().y / (kLayers - 0.5f));
    std::vector<double> cuts, all;
    std::vector<Slice> own;
    for (int k = 0; k < 5; ++k)
        all.push_back(seconds([&] {
            const Slicer slicer(mesh);
            cuts.push_back(seconds([&] { own = slicer.cut(heights); }));
        }));
    const Mesh other = solid::detail::toCgal(mesh);
    using Primitive = CGAL::AABB_halfedge_graph_segment_primitive<Mesh>;
    using Tree = CGAL::AABB_tree<CGAL::AABB_traits<Kernel, Primitive>>;
    Tree tree(edges(other).first, edges(other).second, other);
    const double built = seconds([&] { tree.build(); });
    const CGAL::Polygon_mesh_slicer<Mesh, Kernel> slicer(other, tree);
    std::size_t lines = 0, ownLines = 0;
    double sum = 0, ownSum = 0;
    const double cgal = kEach * seconds([&] {
                            for (std::size_t h = 0; h < heights.size(); h += kEach) {
                                std::vector<Points> found;
                                slicer(Kernel::Plane_3(0, 1, 0, -double(heights[h])), std::back_inserter(found));
                                lines += found.size();
                                for (const Points &l : found) { // which way round a line goes it does not say
                                    double twice = 0;
                                    for (std::size_t k = 0; k + 1 < l.size(); ++k)
                                        twice += l[k].x() * l[k + 1].z() - l[k + 1].x() * l[k].z();
                                    sum += std::abs(twice / 2);
                                }
                            }
                        });
    for (std::size_t h = 0; h < heights.size(); h += kEach)
        for (std::size_t k = 0; k < own[h].starts.size(); ++k) {
            const auto l = own[h].loop(k);
            double twice = 0;
            for (std::size_t i = 0; i < l.size(); ++i) {
                const Point2 a = l[i], b = l[(i + 1) % l.size()];
                twice += double(a[0]) * double(b[1]) - double(b[0]) * double(a[1]);
            }
            ++ownLines, ownSum += std::abs(twice / 2);
        }
    const double ratio = cgal / median(cuts), withAll = (cgal + built) / median(all);
    return {
        "slice",
        median(cuts),
        "s",
        "CGAL's slicer with its tree ready",
        cgal,
        std::min(ratio / 16, withAll / 8),
        1,
        true,
        fmt::format("{} triangles, {} layers: {:.1f} times as fast, {:.1f} times with all set-up; lines {} and {}, summed areas "
                    "apart by {:.1e}",
                    mesh.faces.size(), heights.size(), ratio, withAll, ownLines, lines, std::abs(ownSum / sum - 1))};
}

/// The ball with a stretch of it pushed through its other side.
mesh::PolyMesh foldedBall()
{
    mesh::PolyMesh out = bumpyBall();
    for (Vec3f &p : out.positions)
        if (p.y > 46)
            p.y -= 30 * (p.y - 46);
    return out;
}

Figure crossings()
{
    namespace pmp = CGAL::Polygon_mesh_processing;
    using Mesh = solid::detail::SurfaceMesh;
    const mesh::PolyMesh mesh = foldedBall();
    const auto triangles = mesh::triangulate(mesh);
    std::vector<double> one, two, live;
    std::size_t own = 0;
    const auto run = [&] { own = solid::CrossingFinder(mesh.positions, triangles).all().size(); };
    for (int k = 0; k < 5; ++k) {
        {
            const ThreadLimit limit(1);
            one.push_back(seconds(run));
        }
        two.push_back(seconds(run));
    }
    solid::CrossingFinder finder(mesh.positions, triangles);
    std::vector<std::uint32_t> touched(20'000), points;
    std::iota(touched.begin(), touched.end(), std::uint32_t(triangles.size() / 2));
    for (const std::uint32_t t : touched)
        points.insert(points.end(), triangles[t].begin(), triangles[t].end());
    std::vector<Vec3f> places;
    for (const std::uint32_t v : points)
        places.push_back(mesh.positions[v] * 1.0001f);
    for (int k = 0; k < 5; ++k)
        live.push_back(seconds([&] {
            finder.move(points, places, touched);
            finder.of(touched);
        }));
    const Mesh other = solid::detail::toCgal(mesh);
    std::vector<std::pair<Mesh::Face_index, Mesh::Face_index>> found;
    const auto cgal = [&](auto tag) {
        found.clear();
        return seconds([&] { pmp::self_intersections<decltype(tag)>(other, std::back_inserter(found)); });
    };
    const double reference = std::min(cgal(CGAL::Sequential_tag()), cgal(CGAL::Parallel_tag()));
    return {
        "proof.cross",
        median(two),
        "s",
        "CGAL's self-crossings, the faster of its two tags",
        reference,
        std::min(reference / median(one) / 2.5, reference / median(two) / 4),
        1,
        true,
        fmt::format("{} triangles: {:.2f} times as fast on one thread, {:.2f} times on two; pairs {} and {}; after a stroke over "
                    "20,000 triangles {:.0f} ms",
                    triangles.size(), reference / median(one), reference / median(two), own, found.size(), 1000 * median(live))};
}

Figure solids()
{
    namespace pmp = CGAL::Polygon_mesh_processing;
    using Mesh = solid::detail::SurfaceMesh;
    constexpr int kPieces = 40;
    mesh::PolyMesh all;
    std::vector<Mesh> pieces;
    for (int k = 0; k < kPieces; ++k) { // along a coil, each in its neighbours
        mesh::PolyMesh ball = bumpyBall(158);
        const float a = 0.55f * float(k);
        for (Vec3f &p : ball.positions)
            p += Vec3f{130 * std::cos(a), 9.0f * float(k), 130 * std::sin(a)};
        pieces.push_back(solid::detail::toCgal(ball));
        mesh::append(all, ball);
    }
    std::vector<double> own;
    mesh::PolyMesh result;
    std::size_t crossing = 0;
    for (int k = 0; k < 3; ++k)
        own.push_back(seconds([&] {
            auto sealed = solid::seal(all);
            crossing = sealed->crossings, result = std::move(sealed->mesh);
        }));
    const double reference = seconds([&] { // two by two, so that none is gone through forty times
        for (std::size_t n = pieces.size(); n > 1; n = (n + 1) / 2)
            for (std::size_t k = 0; k < n / 2; ++k) {
                Mesh joined;
                pmp::corefine_and_compute_union(pieces[2 * k], pieces[2 * k + 1], joined);
                pieces[k] = std::move(joined);
                if (k + 1 == n / 2 && n % 2 == 1)
                    pieces[k + 1] = std::move(pieces[n - 1]);
            }
    });
    const double theirs = double(CGAL::to_double(pmp::volume(pieces[0]))), ours = mesh::massOf(result).volumeMm3;
    return {"solid",
            median(own),
            "s",
            "CGAL's unions, two by two",
            reference,
            reference / median(own),
            5,
            true,
            fmt::format("{} triangles of {} pieces, {} pairs that cross; volumes apart by {:.1e}", all.faces.size(), kPieces,
                        crossing, std::abs(ours / theirs - 1))};
}

} // namespace

std::vector<Entry> proofFigures()
{
    return {{"slice", slices}, {"proof.cross", crossings}, {"solid", solids}};
}

} // namespace bonemoss::bench
