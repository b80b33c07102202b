#include "solid/holes.h"

#include "solid/detail/cgal_mesh.h"

#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Delaunay_mesh_face_base_2.h>
#include <CGAL/Delaunay_mesh_size_criteria_2.h>
#include <CGAL/Delaunay_mesh_vertex_base_2.h>
#include <CGAL/Delaunay_mesher_2.h>
#include <CGAL/Polygon_2.h>
#include <CGAL/Polygon_mesh_processing/fair.h>
#include <CGAL/Polygon_mesh_processing/refine.h>
#include <CGAL/Polygon_mesh_processing/triangulate_hole.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>

#include <algorithm>
#include <map>
#include <unordered_map>

namespace bonemoss::solid {

namespace pmp = CGAL::Polygon_mesh_processing;
using detail::Kernel;

namespace {

/// New faces over the border's vertices (numbers below `border.size()`) and over inner points (numbers after them).
struct Patch {
    std::vector<Vec3f> inner;
    std::vector<std::array<std::uint32_t, 3>> faces;
    bool isEmpty() const { return faces.empty(); }
};

/// The border's mean plane: normal by the area its polygon encloses (Newell), and two directions in it.
struct Plane {
    Vec3f middle, u, v, normal;
    explicit Plane(std::span<const Vec3f> border)
    {
        for (const Vec3f p : border)
            middle += p * (1 / float(border.size()));
        for (std::size_t i = 0; i < border.size(); ++i)
            normal += cross(border[i] - middle, border[(i + 1) % border.size()] - middle);
        normal = normalized(normal);
        u = normalized(cross(std::abs(normal.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, normal));
        v = cross(normal, u);
    }
};

using Vertex2 = CGAL::Delaunay_mesh_vertex_base_2<Kernel, CGAL::Triangulation_vertex_base_with_info_2<std::uint32_t, Kernel>>;
using Face2 = CGAL::Delaunay_mesh_face_base_2<Kernel>;
using Flat = CGAL::Constrained_Delaunay_triangulation_2<Kernel, CGAL::Triangulation_data_structure_2<Vertex2, Face2>>;
using Criteria = CGAL::Delaunay_mesh_size_criteria_2<Flat>;

/// Faces inside the constraint, by flood from the outside.
void markInside(Flat &flat)
{
    for (auto f = flat.all_faces_begin(); f != flat.all_faces_end(); ++f)
        f->set_in_domain(true);
    std::vector<Flat::Face_handle> open{flat.infinite_face()};
    flat.infinite_face()->set_in_domain(false);
    while (!open.empty()) {
        const auto f = open.back();
        open.pop_back();
        for (int k = 0; k < 3; ++k)
            if (const auto n = f->neighbor(k); n->is_in_domain() && !flat.is_constrained({f, k})) {
                n->set_in_domain(false);
                open.push_back(n);
            }
    }
}

/// Points of an even lattice of triangles inside the outline, clear of its corners.
std::vector<Kernel::Point_2> latticeInside(const Flat &flat, const CGAL::Bbox_2 &box, double edge)
{
    const double rise = edge * 0.866, most = 4e6;
    std::vector<Kernel::Point_2> inner;
    if ((box.xmax() - box.xmin()) / edge * (box.ymax() - box.ymin()) / rise >= most)
        return inner;
    bool odd = false;
    Flat::Face_handle hint;
    for (double y = box.ymin() + rise; y < box.ymax(); y += rise, odd = !odd)
        for (double x = box.xmin() + (odd ? edge / 2 : 0); x < box.xmax(); x += edge) {
            const Kernel::Point_2 p(x, y);
            hint = flat.locate(p, hint);
            if (flat.is_infinite(hint) || !hint->is_in_domain())
                continue;
            double nearest = 1e300; // of the face's corners that lie on the border
            for (int k = 0; k < 3; ++k)
                nearest = std::min(nearest, CGAL::squared_distance(p, hint->vertex(k)->point()));
            if (nearest > 0.36 * edge * edge)
                inner.push_back(p);
        }
    return inner;
}

/// Puts points in, but for those near a border's edge, which they would split.
void insertClear(Flat &flat, const std::vector<Kernel::Point_2> &points, double edge)
{
    Flat::Face_handle beside;
    for (const auto &p : points) {
        bool isNearBorder = false;
        const auto f = flat.locate(p, beside);
        for (int k = 0; k < 3; ++k)
            if (flat.is_constrained({f, k})) {
                const Kernel::Segment_2 side(f->vertex(f->cw(k))->point(), f->vertex(f->ccw(k))->point());
                isNearBorder = isNearBorder || CGAL::squared_distance(side, p) < 0.12 * edge * edge;
            }
        beside = f;
        if (isNearBorder)
            continue;
        const auto v = flat.insert(p, f);
        v->info() = kNone;
        beside = v->face();
    }
}

/// Every height from `first` on becomes the mean of those around it: Gauss-Seidel with overrelaxation (Young 1954).
void relaxHeights(std::vector<double> &height, const std::vector<std::vector<std::uint32_t>> &around, std::size_t first,
                  double edge)
{
    for (int pass = 0; pass < 200; ++pass) {
        double moved = 0;
        for (std::size_t i = first; i < height.size(); ++i) {
            double mean = 0;
            for (const std::uint32_t n : around[i])
                mean += height[n] / double(around[i].size());
            const double by = 1.8 * (mean - height[i]);
            height[i] += by;
            moved = std::max(moved, std::abs(by));
        }
        if (moved < 1e-3 * edge)
            break;
    }
}

/// Points on a lattice of equal triangles inside the patch, so that its faces are about as large as the border's edges;
/// then a few rounds of heights as the mean of neighbours lift them on to a membrane over the border.
Patch flatPatch(std::span<const Vec3f> border, bool isCoarse)
{
    const Plane plane(border);
    const auto to2 = [&](Vec3f p) {
        return Kernel::Point_2(double(dot(p - plane.middle, plane.u)), double(dot(p - plane.middle, plane.v)));
    };
    CGAL::Polygon_2<Kernel> outline;
    double edge = 0;
    for (std::size_t i = 0; i < border.size(); ++i) {
        outline.push_back(to2(border[i]));
        edge += double(length(border[(i + 1) % border.size()] - border[i])) / double(border.size());
    }
    if (!outline.is_simple())
        return {}; // it hides behind itself in this plane
    Flat flat;
    std::vector<Flat::Vertex_handle> handles;
    for (std::uint32_t i = 0; i < border.size(); ++i) {
        handles.push_back(flat.insert(outline[i]));
        handles.back()->info() = i;
    }
    for (std::size_t i = 0; i < handles.size(); ++i) {
        if (handles[i] == handles[(i + 1) % handles.size()])
            return {};
        flat.insert_constraint(handles[i], handles[(i + 1) % handles.size()]);
    }
    if (flat.number_of_vertices() != border.size())
        return {};
    markInside(flat);
    if (!isCoarse)
        insertClear(flat, latticeInside(flat, outline.bbox(), edge), edge);
    markInside(flat);
    Patch out;
    std::vector<double> height;
    for (const Vec3f p : border)
        height.push_back(double(dot(p - plane.middle, plane.normal)));
    std::vector<Kernel::Point_2> places;
    for (auto v = flat.finite_vertices_begin(); v != flat.finite_vertices_end(); ++v)
        if (v->info() == kNone) {
            v->info() = std::uint32_t(border.size() + places.size());
            places.push_back(v->point());
            height.push_back(0);
        }
    std::vector<std::vector<std::uint32_t>> around(height.size());
    for (auto f = flat.finite_faces_begin(); f != flat.finite_faces_end(); ++f) {
        if (!f->is_in_domain())
            continue;
        out.faces.push_back({f->vertex(0)->info(), f->vertex(1)->info(), f->vertex(2)->info()});
        for (int k = 0; k < 3; ++k) {
            const std::uint32_t a = f->vertex(k)->info(), b = f->vertex((k + 1) % 3)->info();
            around[a].push_back(b), around[b].push_back(a);
        }
    }
    relaxHeights(height, around, border.size(), edge);
    for (std::size_t i = 0; i < places.size(); ++i)
        out.inner.push_back(plane.middle + plane.u * float(places[i].x()) + plane.v * float(places[i].y())
                            + plane.normal * float(height[border.size() + i]));
    return out;
}

/// Over a border that no plane shows whole.
Patch foldedPatch(std::span<const Vec3f> border)
{
    std::vector<detail::Point> points;
    for (const Vec3f p : border)
        points.push_back(detail::toCgal(p));
    struct Three {
        int a, b, c;
        Three(int x, int y, int z) : a(x), b(y), c(z) {}
    };
    std::vector<Three> faces;
    pmp::triangulate_hole_polyline(points, std::back_inserter(faces));
    Patch out;
    for (const Three &t : faces)
        out.faces.push_back({std::uint32_t(t.a), std::uint32_t(t.b), std::uint32_t(t.c)});
    return out;
}

/// Lets a patch go on with the curvature around it.
void fairPatch(mesh::PolyMesh &mesh, std::size_t firstFace)
{
    detail::SurfaceMesh m = detail::toCgal(mesh);
    if (m.number_of_vertices() != mesh.positions.size())
        return; // doubled vertices: the numbers would not fit
    std::vector<bool> isOld(mesh.positions.size(), false);
    for (std::size_t f = 0; f < firstFace; ++f)
        for (const std::uint32_t v : mesh.faces[f].v)
            if (v != kNone)
                isOld[v] = true;
    std::vector<detail::SurfaceMesh::Vertex_index> fresh;
    for (std::size_t f = firstFace; f < mesh.faces.size(); ++f)
        for (const std::uint32_t v : mesh.faces[f].v)
            if (v != kNone && !isOld[v]) {
                isOld[v] = true;
                fresh.push_back(detail::SurfaceMesh::Vertex_index(v));
            }
    if (fresh.empty() || !pmp::fair(m, fresh, CGAL::parameters::fairing_continuity(1)))
        return;
    for (const auto v : fresh)
        mesh.positions[v] = detail::fromCgal(m.point(v));
}

} // namespace

std::vector<std::vector<std::uint32_t>> openBorders(const mesh::PolyMesh &mesh)
{
    using Edge = std::pair<std::uint32_t, std::uint32_t>;
    std::vector<Edge> edges;
    for (const mesh::Face &f : mesh.faces)
        for (int k = 0; k < f.size(); ++k)
            edges.push_back({f.v[std::size_t(k)], f.v[std::size_t((k + 1) % f.size())]});
    std::sort(edges.begin(), edges.end());
    std::multimap<std::uint32_t, std::uint32_t> next; // along open edges
    for (const Edge &e : edges)
        if (!std::binary_search(edges.begin(), edges.end(), Edge{e.second, e.first}))
            next.insert(e);
    std::vector<std::vector<std::uint32_t>> out;
    while (!next.empty()) {
        std::vector<std::uint32_t> border;
        auto it = next.begin();
        const std::uint32_t start = it->first;
        while (it != next.end()) {
            border.push_back(it->first);
            const std::uint32_t to = it->second;
            next.erase(it);
            if (to == start)
                break;
            it = next.find(to);
        }
        if (it == next.end() && (border.empty() || border.size() < 3))
            continue;
        out.push_back(std::move(border));
    }
    return out;
}

Closed closeHoles(const mesh::PolyMesh &mesh, Fill how, std::span<const std::size_t> only)
{
    Closed out{mesh, 0, 0};
    const auto borders = openBorders(mesh);
    for (std::size_t k = 0; k < borders.size(); ++k) {
        if (!only.empty() && std::find(only.begin(), only.end(), k) == only.end())
            continue;
        std::vector<std::uint32_t> border = borders[k];
        std::reverse(border.begin(), border.end()); // the patch runs the other way along it
        std::vector<std::uint32_t> sorted = border;
        std::sort(sorted.begin(), sorted.end());
        if (border.size() < 3 || std::adjacent_find(sorted.begin(), sorted.end()) != sorted.end()) {
            ++out.left;
            continue;
        }
        std::vector<Vec3f> at;
        for (const std::uint32_t v : border)
            at.push_back(mesh.positions[v]);
        Patch patch = flatPatch(at, how == Fill::Coarse);
        if (patch.isEmpty())
            patch = foldedPatch(at);
        if (patch.isEmpty()) {
            ++out.left;
            continue;
        }
        const std::size_t firstFace = out.mesh.faces.size(), firstInner = out.mesh.positions.size();
        out.mesh.positions.insert(out.mesh.positions.end(), patch.inner.begin(), patch.inner.end());
        for (const auto &f : patch.faces) {
            mesh::Face face;
            for (std::size_t c = 0; c < 3; ++c)
                face.v[c] = f[c] < border.size() ? border[f[c]] : std::uint32_t(firstInner + f[c] - border.size());
            out.mesh.faces.push_back(face);
        }
        if (how == Fill::Smooth)
            fairPatch(out.mesh, firstFace);
        ++out.holes;
    }
    return out;
}

} // namespace bonemoss::solid
