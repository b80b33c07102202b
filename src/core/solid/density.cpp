#include "solid/density.h"

#include "solid/detail/cgal_mesh.h"

#include <CGAL/Polygon_mesh_processing/remesh.h>
#include <CGAL/Surface_mesh_simplification/Policies/Edge_collapse/LindstromTurk_cost.h>
#include <CGAL/Surface_mesh_simplification/Policies/Edge_collapse/LindstromTurk_placement.h>
#include <CGAL/Surface_mesh_simplification/edge_collapse.h>

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::solid {

namespace pmp = CGAL::Polygon_mesh_processing;
namespace sms = CGAL::Surface_mesh_simplification;
using detail::SurfaceMesh;

namespace {

constexpr double kDearest = 100; // times the error where all shall be kept

/// Edges of open borders.
struct Borders {
    using key_type = SurfaceMesh::Edge_index;
    using value_type = bool;
    using reference = bool;
    using category = boost::readable_property_map_tag;
    const SurfaceMesh *mesh;
    friend bool get(const Borders &b, key_type e) { return b.mesh->is_border(e); }
};

/// The error of a collapse, dearer where more shall be kept.
struct Weighted {
    sms::LindstromTurk_cost<SurfaceMesh> plain;
    std::span<const float> keep;

    template <typename Profile> auto operator()(const Profile &p, const boost::optional<typename Profile::Point> &at) const
    {
        auto cost = plain(p, at);
        if (cost && !keep.empty()) {
            const auto share = [&](auto v) { return std::size_t(v) < keep.size() ? double(keep[std::size_t(v)]) : 0.0; };
            const double most = std::max(share(p.v0()), share(p.v1()));
            if (most >= double(kStays))
                return boost::optional<typename Profile::FT>();
            *cost *= 1 + (kDearest - 1) * most;
        }
        return cost;
    }
};

} // namespace

Result<mesh::PolyMesh> simplify(const mesh::PolyMesh &mesh, std::size_t faces, std::span<const float> keep,
                                const Progress &progress)
{
    SurfaceMesh m = detail::toCgal(mesh);
    const std::size_t before = m.number_of_faces();
    if (faces < 4 || faces >= before)
        return Error{ErrorCode::BadValue, "faces", fmt::format("must be from 4 to below the {} triangles there are", before)};
    const auto stop = [&](const auto &, const auto &, std::size_t, std::size_t) {
        const std::size_t now = m.number_of_faces();
        if (now % 4096 < 2)
            progress.say(float(before - now) / float(before - faces), "drawing edges together");
        return now <= faces || progress.isCancelled();
    };
    sms::edge_collapse(m, stop,
                       CGAL::parameters::get_cost(Weighted{{}, keep})
                           .get_placement(sms::LindstromTurk_placement<SurfaceMesh>())
                           .edge_is_constrained_map(Borders{&m}));
    if (progress.isCancelled())
        return Error{ErrorCode::Cancelled, "simplify", "stopped on request"};
    m.collect_garbage();
    return detail::fromCgal(m);
}

void keepRims(const mesh::PolyMesh &mesh, std::span<const std::uint16_t> groupOf, std::vector<float> &keep)
{
    keep.resize(mesh.positions.size(), 0);
    for (const mesh::Face &f : mesh.faces) {
        const auto end = f.v.begin() + f.size();
        if (std::any_of(f.v.begin(), end, [&](std::uint32_t v) { return groupOf[v] != groupOf[f.v[0]]; }))
            std::for_each(f.v.begin(), end, [&](std::uint32_t v) { keep[v] = kStays; });
    }
}

Result<mesh::PolyMesh> remesh(const mesh::PolyMesh &mesh, std::span<const std::uint32_t> faces, float edge)
{
    // As triangles, in the order of triangulate(): a quad's two stand next to each other.
    std::vector<bool> isWanted(mesh.faces.size(), false);
    for (const std::uint32_t f : faces)
        isWanted[f] = true;
    SurfaceMesh m = detail::toCgal(mesh);
    std::vector<SurfaceMesh::Face_index> chosen;
    std::uint32_t triangle = 0;
    for (std::size_t f = 0; f < mesh.faces.size(); ++f)
        for (int k = 0; k < mesh.faces[f].size() - 2; ++k, ++triangle)
            if (isWanted[f] && triangle < m.number_of_faces())
                chosen.push_back(SurfaceMesh::Face_index(triangle));
    if (chosen.empty())
        return Error{ErrorCode::Empty, "faces", "there are none to make anew"};
    pmp::isotropic_remeshing(chosen, double(edge), m, CGAL::parameters::number_of_iterations(5).number_of_relaxation_steps(3));
    m.collect_garbage();
    return detail::withQuads(detail::fromCgal(m), mesh);
}

} // namespace bonemoss::solid
