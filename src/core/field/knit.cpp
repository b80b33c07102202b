#include "field/knit.h"

#include "base/parallel.h"
#include "field/mesh_crossings.h"
#include "field/source_crossings.h"
#include "field/surface_nets.h"
#include "mesh/parts.h"

#include <chrono>
#include <cmath>
#include <functional>

namespace bonemoss::field {

namespace {

constexpr float kCoarseCells = 96; // longest side of a forecasting knit, in cells
constexpr double kCountTolerance = 0.03;
constexpr int kCountTries = 6;

using Cross = std::function<Result<SignGrid>(float, const Progress &)>;

double secondsSince(std::chrono::steady_clock::time_point start)
{
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// The number of faces goes with the area in cells, so a coarse knit tells that of a fine one.
Result<double> coverage(const Cross &cross, const Box3f &box, float finest)
{
    const Vec3f size = box.size();
    const float longest = std::max({size.x, size.y, size.z});
    const float spacing = std::max(finest, longest / kCoarseCells);
    const auto grid = cross(spacing, {});
    if (!grid)
        return grid.error();
    if (countQuads(*grid) == 0)
        return Error{ErrorCode::Empty, "knit",
                     "it encloses nothing at this spacing: it is an open sheet, or thinner than a cell"};
    return double(countQuads(*grid)) * double(spacing) * double(spacing); // mm^2
}

constexpr std::size_t kCrumbFaces = 100; // a ball of some two cells radius

/// Leaves out islands that have next to no faces where there is something larger: where a form thins out below
/// the spacing, the lattice meets it here and there only. Returns how many.
std::size_t dropCrumbs(mesh::PolyMesh &m)
{
    std::uint32_t count = 0;
    const std::vector<std::uint32_t> island = islandsOf(m, count);
    std::vector<std::uint32_t> faces(count, 0);
    for (const mesh::Face &f : m.faces)
        ++faces[island[f.v[0]]];
    std::size_t crumbs = 0;
    for (const std::uint32_t n : faces)
        crumbs += n > 0 && n < kCrumbFaces;
    if (crumbs == 0 || crumbs == count)
        return 0;
    std::vector<bool> isKept(m.faces.size());
    for (std::size_t f = 0; f < isKept.size(); ++f)
        isKept[f] = faces[island[m.faces[f].v[0]]] >= kCrumbFaces;
    m = extract(m, isKept);
    return crumbs;
}

Result<Knitted> knit(const Cross &cross, const Box3f &box, Density density, const Progress &progress)
{
    if (box.isEmpty())
        return Error{ErrorCode::Empty, "knit", "there is nothing to knit"};
    if (!(density.spacing > 0) && density.faces == 0)
        return Error{ErrorCode::BadValue, "spacing", "must be above 0 mm, or a face count given"};
    Knitted out;
    const auto start = std::chrono::steady_clock::now();
    float spacing = density.spacing;
    if (density.faces > 0) {
        const auto area = coverage(cross, box, 0);
        if (!area)
            return area.error();
        spacing = float(std::sqrt(*area / double(density.faces)));
        out.report.forecastFaces = density.faces;
    } else {
        const auto area = coverage(cross, box, spacing);
        if (!area)
            return area.error();
        out.report.forecastFaces = std::size_t(*area / (double(spacing) * double(spacing)));
    }
    progress.say(0.1f, "crossings");
    Result<SignGrid> grid = cross(spacing, progress);
    for (int tries = 1; grid && density.faces > 0 && tries < kCountTries; ++tries) {
        const double got = double(countQuads(*grid));
        if (got == 0 || std::abs(got / double(density.faces) - 1) < kCountTolerance * 0.8)
            break;
        spacing = float(double(spacing) * std::sqrt(got / double(density.faces)));
        grid = cross(spacing, progress);
    }
    if (!grid)
        return grid.error();
    out.report.fieldSeconds = secondsSince(start);
    out.report.filledEdges = grid->filledEdges;
    out.report.spacing = spacing;
    progress.say(0.6f, "skin");
    const auto contour = std::chrono::steady_clock::now();
    out.mesh = surfaceNets(*grid, progress);
    out.report.contourSeconds = secondsSince(contour);
    if (progress.isCancelled())
        return Error{ErrorCode::Cancelled, "knit", "stopped on request"};
    if (out.mesh.isEmpty())
        return Error{ErrorCode::Empty, "knit", "everything is thinner than the spacing; choose a smaller one"};
    return out;
}

Cross crossing(const mesh::PolyMesh &mesh)
{
    return [&](float spacing, const Progress &p) { return crossMesh(mesh, spacing, p); };
}
Cross crossing(const DistanceSource &source)
{
    return [&](float spacing, const Progress &p) { return crossSource(source, spacing, p); };
}

Result<std::size_t> forecast(const Cross &cross, const Box3f &box, float spacing)
{
    const auto area = coverage(cross, box, spacing);
    if (!area)
        return area.error();
    return std::size_t(*area / (double(spacing) * double(spacing)));
}

} // namespace

Result<Knitted> knitMesh(const mesh::PolyMesh &mesh, Density density, const Progress &progress)
{
    return knit(crossing(mesh), mesh::boundsOf(mesh.positions), density, progress);
}

Result<Knitted> knitSource(const DistanceSource &source, Density density, const Progress &progress)
{
    auto knitted = knit(crossing(source), source.bounds(), density, progress);
    if (knitted)
        knitted->report.crumbs = dropCrumbs(knitted->mesh);
    return knitted;
}

Result<Knitted> knitAgain(const mesh::PolyMesh &mesh, float spacing, const Progress &progress)
{
    Knitted out;
    const auto grid = crossMesh(mesh, spacing, progress, true);
    if (!grid)
        return grid.error();
    out.report.spacing = spacing;
    out.report.filledEdges = grid->filledEdges;
    Lineage lineage{mesh, {}, {}};
    out.mesh = surfaceNets(*grid, progress, &lineage);
    out.near = std::move(lineage.near), out.kept = std::move(lineage.kept);
    if (progress.isCancelled())
        return Error{ErrorCode::Cancelled, "knit", "stopped on request"};
    if (out.mesh.isEmpty())
        return Error{ErrorCode::Empty, "knit", "everything is thinner than the spacing; choose a smaller one"};
    return out;
}

float spacingOf(const mesh::Surface &skin)
{
    struct Sum {
        double met = 0, quads = 0;
        Sum operator+(const Sum &o) const { return {met + o.met, quads + o.quads}; }
    };
    const Sum sum = sumBlocks<Sum>(skin.bounds.size(), 1, [&](BlockRange r) {
        Sum s;
        const std::size_t count = skin.topology->block(r.begin).drawnFaces;
        for (std::size_t i = 0; i < count; ++i) {
            const mesh::Face f = skin.topology->faceOf(r.begin, i);
            const auto at = [&](std::size_t k) { return skin.positions[f.v[k]]; };
            const Vec3f n = cross(at(2) - at(0), at(f.size() == 4 ? 3 : 0) - at(1)) * 0.5f;
            s.met += double(std::abs(n.x) + std::abs(n.y) + std::abs(n.z));
            s.quads += f.size() == 4 ? 1 : 0.5;
        }
        return s;
    });
    return sum.quads > 0 ? float(std::sqrt(sum.met / sum.quads)) : 0;
}

Result<mesh::PolyMesh> previewSource(const DistanceSource &source, float spacing, const Progress &progress)
{
    const auto grid = crossSource(source, spacing, progress);
    if (!grid)
        return grid.error();
    mesh::PolyMesh mesh = surfaceNets(*grid, progress);
    if (progress.isCancelled())
        return Error{ErrorCode::Cancelled, "knit", "stopped on request"};
    return mesh;
}

Result<std::size_t> forecastFaces(const DistanceSource &source, float spacing)
{
    return forecast(crossing(source), source.bounds(), spacing);
}
Result<std::size_t> forecastFaces(const mesh::PolyMesh &mesh, float spacing)
{
    return forecast(crossing(mesh), mesh::boundsOf(mesh.positions), spacing);
}

} // namespace bonemoss::field
