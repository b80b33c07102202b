#include "bench/figure.h"

#include "armature/form.h"
#include "base/random.h"
#include "command/stroke_command.h"
#include "skin/carry.h"
#include "field/knit.h"
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/nearest_faces.h"
#include "mesh/subdivide.h"
#include "mesh/surface.h"

#include <fmt/format.h>
#include <openvdb/openvdb.h>
#include <openvdb/tools/MeshToVolume.h>
#include <openvdb/tools/VolumeToMesh.h>
#include <opensubdiv/far/primvarRefiner.h>
#include <opensubdiv/far/topologyDescriptor.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <map>
#include <memory>
#include <stdexcept>

namespace bonemoss::bench {

mesh::PolyMesh largeMesh()
{
    const auto read = io::readMesh(meshPath("armadillo.off"));
    if (!read)
        throw std::runtime_error(read.error().text());
    mesh::PolyMesh quads = mesh::subdivide(read->mesh, 2), m;
    m.positions = quads.positions;
    for (const auto &t : triangulate(quads))
        m.faces.push_back({{t[0], t[1], t[2], kNone}});
    return m;
}

namespace {

Figure knitMeshFigure()
{
    const mesh::PolyMesh input = largeMesh();
    const float spacing = mesh::boundsOf(input.positions).diagonal() / 965;
    std::vector<openvdb::Vec3s> points;
    std::vector<openvdb::Vec3I> triangles;
    for (const Vec3f p : input.positions)
        points.emplace_back(p.x, p.y, p.z);
    for (const mesh::Face &f : input.faces)
        triangles.emplace_back(f.v[0], f.v[1], f.v[2]);
    openvdb::initialize();
    const auto transform = openvdb::math::Transform::createLinearTransform(double(spacing));
    mesh::PolyMesh ours;
    std::vector<openvdb::Vec3s> theirs;
    std::vector<double> a, b;
    for (int run = 0; run < 6; ++run) {
        mesh::Surface surface;
        a.push_back(seconds([&] {
            auto k = field::knitMesh(input, {spacing, 0});
            ours = std::move(k->mesh);
            surface = mesh::makeSurface(ours);
        }));
        if (run < 3)
            b.push_back(seconds([&] {
                theirs.clear();
                std::vector<openvdb::Vec3I> tri;
                std::vector<openvdb::Vec4I> quad;
                const auto grid = openvdb::tools::meshToLevelSet<openvdb::FloatGrid>(*transform, points, triangles, 1.5f);
                openvdb::tools::volumeToMesh(*grid, theirs, tri, quad, 0.0, 0.0);
            }));
    }
    std::vector<Vec3f> their;
    for (const auto &p : theirs)
        their.push_back({p.x(), p.y(), p.z()});
    const double mean = mesh::distanceTo(input, ours.positions, 200000).mean / double(spacing);
    const double theirMean = mesh::distanceTo(input, their, 200000).mean / double(spacing);
    const mesh::Measures m = mesh::measure(ours);
    Figure f{"knit.mesh",
             median(a),
             "s",
             "OpenVDB level set and contouring, s",
             median(b),
             median(b) / median(a),
             30,
             true,
             fmt::format("{} triangles to {} vertices, {}; mean distance {:.4f} spacings against {:.4f}", input.faces.size(),
                         ours.positions.size(), m.closed ? "closed, manifold" : "NOT CLOSED", mean, theirMean)};
    return f;
}

/// Seconds OpenVDB takes for a bare surface of a mesh.
double volumeSeconds(const mesh::PolyMesh &mesh, float spacing)
{
    std::vector<openvdb::Vec3s> points, out;
    std::vector<openvdb::Vec3I> triangles, tri;
    std::vector<openvdb::Vec4I> quad;
    for (const Vec3f p : mesh.positions)
        points.emplace_back(p.x, p.y, p.z);
    for (const auto &t : triangulate(mesh))
        triangles.emplace_back(t[0], t[1], t[2]);
    openvdb::initialize();
    const auto transform = openvdb::math::Transform::createLinearTransform(double(spacing));
    return seconds([&] {
        const auto grid = openvdb::tools::meshToLevelSet<openvdb::FloatGrid>(*transform, points, triangles, 1.5f);
        openvdb::tools::volumeToMesh(*grid, out, tri, quad, 0.0, 0.0);
    });
}

/// Every mesh that Debian ships with CGAL at a hundred cells along its diagonal. With BONEMOSS_GOLDEN set to the table of them,
/// each row gets its ratio as last column.
Figure knitTableFigure()
{
    std::map<std::string, double> ratios;
    double ours = 0, theirs = 0;
    for (const auto &entry :
         std::filesystem::directory_iterator(std::filesystem::path(meshPath("armadillo.off")).parent_path())) {
        const auto read = entry.path().extension() == ".off" ? io::readMesh(entry.path()) : Result<io::ImportedMesh>(Error{});
        const float spacing = read ? mesh::boundsOf(read->mesh.positions).diagonal() / 100 : 0;
        if (!(spacing > 0) || !field::knitMesh(read->mesh, {spacing, 0}))
            continue; // the test of the table says which those are
        std::vector<double> times;
        for (int run = 0; run < 5; ++run)
            times.push_back(seconds([&] { (void)field::knitMesh(read->mesh, {spacing, 0}); }));
        const double a = median(times), b = volumeSeconds(read->mesh, spacing);
        ratios[entry.path().filename().string()] = b / a;
        ours += a, theirs += b;
    }
    if (const char *path = std::getenv("BONEMOSS_GOLDEN")) {
        std::ifstream in(path);
        std::vector<std::string> lines;
        for (std::string line; std::getline(in, line);)
            lines.push_back(line);
        std::ofstream out(path);
        for (const std::string &line : lines) {
            const auto it = ratios.find(line.substr(0, line.find(',')));
            out << line << ',' << (it == ratios.end() ? std::string("secondsRatio") : fmt::format("{:.3g}", it->second)) << '\n';
        }
    }
    std::vector<double> all;
    for (const auto &[name, ratio] : ratios)
        all.push_back(ratio);
    return {"knit.table",
            ours,
            "s",
            "OpenVDB, all of them, s",
            theirs,
            median(all),
            1,
            true,
            fmt::format("median over {} meshes; the least {:.3g}", all.size(), *std::min_element(all.begin(), all.end()))};
}

/// A modelled creature as a skin of about that many vertices, with mask, colour and layers of gentle waves.
skin::Skin layeredSkin(std::size_t vertices, int layers)
{
    const auto knitted = field::knitMesh(largeMesh(), {0, vertices});
    if (!knitted)
        throw std::runtime_error(knitted.error().text());
    skin::Skin s = skin::makeSkin(knitted->mesh, true);
    std::vector<std::uint8_t> mask;
    for (const Vec3f p : s.body.flatten())
        mask.push_back(std::uint8_t(127 + 120 * std::sin(p.y * 0.2f)));
    s.mask = mesh::BlockArray<std::uint8_t>(mask);
    for (std::size_t c = 0; c < skin::kColourChannels; ++c)
        s.paint.channels[c] = s.mask;
    for (int k = 0; k < layers; ++k) {
        skin::Layer l(s.body.size());
        l.id = std::uint32_t(k + 1), l.name = fmt::format("layer {}", k);
        std::vector<Vec3f> offsets;
        for (std::size_t v = 0; v < s.body.size(); ++v)
            offsets.push_back(s.shown.normals[v].unpack() * (0.05f * std::sin(s.body[v].x * (0.3f + 0.1f * float(k)))));
        l.offsets = mesh::BlockArray<Vec3f>(offsets);
        s.layers.push_back(std::move(l));
    }
    std::vector<std::uint32_t> all(s.body.blockCount());
    for (std::uint32_t b = 0; b < all.size(); ++b)
        all[b] = b;
    skin::mixBlocks(s, all);
    return s;
}

/// A skin knitted again, everything carried, as a stroke does it or (measured) a command.
skin::Carried again(const skin::Skin &s, float spacing, bool isMeasured, double &kept)
{
    const mesh::PolyMesh shown = toPolyMesh(s.shown);
    const auto knitted = field::knitAgain(shown, spacing);
    kept = 1 - double(std::count(knitted->kept.begin(), knitted->kept.end(), kNone)) / double(knitted->kept.size());
    return skin::carryOver(s, knitted->mesh, std::max(spacing, meanEdgeLength(s.shown)), {},
                           {false, isMeasured, knitted->near, knitted->kept, &shown});
}

/// Median seconds of that.
double knitAgainSeconds(const skin::Skin &s, float spacing, int runs, bool isMeasured, double &kept)
{
    std::vector<double> times;
    for (int run = 0; run < runs; ++run)
        times.push_back(seconds([&] { again(s, spacing, isMeasured, kept); }));
    return median(times);
}

/// A stroke across the front of a skin, as broad as a tenth of it.
void strokeOver(skin::Skin &s)
{
    const Box3f box = s.shown.box();
    sculpt::StrokeSettings settings;
    settings.size = box.diagonal() * 0.1f;
    document::LiveStroke live(s, settings, 0);
    const Vec3f size = box.size();
    for (int i = 0; i < 40; ++i) {
        const float t = float(i) / 40;
        live.add({box.centre() + Vec3f{size.x * (t - 0.5f), size.y * 0.3f * std::sin(t * 6), size.z}, {0, 0, -1}, 1, t * 300});
    }
    if (!live.finish(s))
        throw std::runtime_error("the stroke failed");
}

Figure knitLiveFigure()
{
    skin::Skin s = layeredSkin(100'000, 0);
    const float spacing = field::spacingOf(s.shown);
    double kept = 0;
    const double first = knitAgainSeconds(s, spacing, 15, false, kept) * 1e3;
    s = again(s, spacing, false, kept).skin;
    strokeOver(s);
    const double ours = knitAgainSeconds(s, spacing, 15, false, kept) * 1e3, frame = 33;
    return {
        "knit.live",
        ours,
        "ms",
        "one frame at 30 a second, ms",
        frame,
        ours / frame,
        1,
        false,
        fmt::format("{} vertices with mask and colour after a broad stroke, all threads; {:.0f} % keep their places; {:.1f} ms "
                    "the first time, when none does",
                    s.body.size(), kept * 100, first)};
}

Figure knitCarryFigure()
{
    const skin::Skin s = layeredSkin(1'000'000, 12);
    const float spacing = meanEdgeLength(s.shown);
    double kept = 0;
    const double ours = knitAgainSeconds(s, spacing, 5, true, kept), theirs = volumeSeconds(toPolyMesh(s.shown), spacing);
    return {"knit.carry",
            ours,
            "s",
            "OpenVDB's bare surface, s",
            theirs,
            theirs / ours,
            5,
            true,
            fmt::format("{} vertices, 12 layers, mask and colour, losses measured", s.body.size())};
}

struct Point {
    float x, y, z;
    void Clear(void * = nullptr) { x = y = z = 0; }
    void AddWithWeight(const Point &o, float w) { x += o.x * w, y += o.y * w, z += o.z * w; }
};

Figure refineFigure()
{
    using namespace OpenSubdiv;
    const mesh::PolyMesh cage = waves(126, 100); // 15,876 quads, 4.06 million after four levels
    std::vector<int> counts(cage.faces.size(), 4), corners;
    for (const mesh::Face &f : cage.faces)
        for (const std::uint32_t v : f.v)
            corners.push_back(int(v));
    const auto ours = [&] { mesh::subdivide(cage, 4); };
    const auto theirs = [&] {
        Far::TopologyDescriptor d;
        d.numVertices = int(cage.positions.size());
        d.numFaces = int(counts.size());
        d.numVertsPerFace = counts.data();
        d.vertIndicesPerFace = corners.data();
        using Factory = Far::TopologyRefinerFactory<Far::TopologyDescriptor>;
        Sdc::Options options;
        options.SetVtxBoundaryInterpolation(Sdc::Options::VTX_BOUNDARY_EDGE_AND_CORNER);
        const std::unique_ptr<Far::TopologyRefiner> r(Factory::Create(d, Factory::Options(Sdc::SCHEME_CATMARK, options)));
        r->RefineUniform(Far::TopologyRefiner::UniformOptions(4));
        std::vector<Point> now(cage.positions.size());
        for (std::size_t i = 0; i < now.size(); ++i)
            now[i] = {cage.positions[i].x, cage.positions[i].y, cage.positions[i].z};
        Far::PrimvarRefiner primvar(*r);
        for (int l = 1; l <= 4; ++l) {
            std::vector<Point> next(std::size_t(r->GetLevel(l).GetNumVertices()));
            primvar.Interpolate(l, now, next);
            now.swap(next);
        }
    };
    const Pair t = medians(3, ours, theirs);
    return {
        "refine", t.a, "s", "OpenSubdiv refinement and evaluation, s", t.b, t.b / t.a, 3, true, "15,876 quads to 4.06 million"};
}

/// Sixty forms that overlap like those of a creature: a row of bellies with five limbs of two bones each
/// side, half of them balls and tubes.
armature::Armature sixtyForms()
{
    armature::Armature a;
    for (std::uint32_t i = 0; i < 60; ++i) {
        armature::Form f;
        f.id = i + 1;
        f.melt = 4;
        const float along = float(i % 12) * 14, side = i / 12 % 2 ? 1.0f : -1.0f;
        const auto r = [&](std::uint64_t k) { return randomSigned(i, k); };
        if (i < 12) {
            f.kind = armature::FormKind::Ellipsoid;
            f.radii = {18 + 4 * r(0), 20 + 5 * r(1), 16};
            f.place.translation = {0, 6 * r(2), along};
        } else if (i < 36) {
            f.kind = armature::FormKind::Limb;
            f.path = {{{12 * side, -4, along}, 9}, {{26 * side, -34 + 4 * r(0), along + 6 * r(1)}, 5}};
        } else if (i < 48) {
            f.kind = armature::FormKind::Tube;
            f.path = {{{0, 14, along}, 5}, {{8 * r(0), 30, along + 6}, 4}, {{14 * r(1), 42, along + 3}, 2}};
        } else {
            f.kind = armature::FormKind::Ball;
            f.radii = Vec3f{1, 1, 1} * (8 + 2 * r(0));
            f.place.translation = {16 * r(1), 12, along};
        }
        a.forms.push_back(f);
    }
    return a;
}

Figure knitFormsFigure()
{
    const armature::Armature forms = sixtyForms();
    // The spacing for 100,000 vertices (a closed skin of quads has as many vertices as faces).
    const auto sized = field::knitSource(*armature::makeDistance(forms), {0, 100000});
    if (!sized)
        throw std::runtime_error(sized.error().text());
    std::vector<double> times;
    std::size_t vertices = 0;
    for (int run = 0; run < 15; ++run)
        times.push_back(seconds([&] {
            const auto mesh = field::previewSource(*armature::makeDistance(forms), sized->report.spacing);
            vertices = mesh ? mesh->positions.size() : 0;
        }));
    const double ours = median(times) * 1e3, frame = 66;
    return {"knit.forms",
            ours,
            "ms",
            "one frame at 15 a second, ms",
            frame,
            ours / frame,
            1,
            false,
            fmt::format("60 forms, {} vertices, all threads", vertices)};
}

} // namespace

std::vector<Entry> fieldFigures()
{
    return {{"knit.mesh", knitMeshFigure},   {"knit.table", knitTableFigure}, {"knit.live", knitLiveFigure},
            {"knit.carry", knitCarryFigure}, {"knit.forms", knitFormsFigure}, {"refine", refineFigure}};
}

} // namespace bonemoss::bench
