#include "solid/detail/cgal_mesh.h"

#include <CGAL/Polygon_mesh_processing/orient_polygon_soup.h>
#include <CGAL/Polygon_mesh_processing/polygon_soup_to_polygon_mesh.h>

#include <algorithm>
#include <map>
#include <unordered_map>

namespace bonemoss::solid::detail {

namespace pmp = CGAL::Polygon_mesh_processing;
using Triangle = std::array<std::uint32_t, 3>;

namespace {

struct HashTriangle {
    std::size_t operator()(const Triangle &t) const
    {
        const std::uint64_t h = (t[0] * 0x9E3779B97F4A7C15ull + t[1]) * 0x9E3779B97F4A7C15ull + t[2];
        return std::size_t(h ^ h >> 31);
    }
};

Triangle sorted(Triangle t)
{
    std::sort(t.begin(), t.end());
    return t;
}

} // namespace

SurfaceMesh toCgal(const mesh::PolyMesh &mesh)
{
    SurfaceMesh out;
    const std::vector<Triangle> triangles = triangulate(mesh);
    out.reserve(SurfaceMesh::size_type(mesh.positions.size()), SurfaceMesh::size_type(triangles.size() * 3 / 2),
                SurfaceMesh::size_type(triangles.size()));
    for (const Vec3f p : mesh.positions)
        out.add_vertex(toCgal(p));
    bool isManifold = true;
    for (const Triangle &t : triangles) {
        const auto f =
            out.add_face(SurfaceMesh::Vertex_index(t[0]), SurfaceMesh::Vertex_index(t[1]), SurfaceMesh::Vertex_index(t[2]));
        if (f == SurfaceMesh::null_face()) {
            isManifold = false;
            break;
        }
    }
    if (isManifold)
        return out;
    std::vector<Point> points;
    for (const Vec3f p : mesh.positions)
        points.push_back(toCgal(p));
    std::vector<std::vector<std::size_t>> soup;
    for (const Triangle &t : triangles)
        soup.push_back({t[0], t[1], t[2]});
    pmp::orient_polygon_soup(points, soup);
    out.clear();
    pmp::polygon_soup_to_polygon_mesh(points, soup, out);
    return out;
}

mesh::PolyMesh fromCgal(const SurfaceMesh &mesh)
{
    mesh::PolyMesh out;
    std::vector<std::uint32_t> place(mesh.number_of_vertices() + mesh.number_of_removed_vertices(), kNone);
    for (const auto v : mesh.vertices()) {
        if (mesh.is_isolated(v))
            continue;
        place[v] = std::uint32_t(out.positions.size());
        out.positions.push_back(fromCgal(mesh.point(v)));
    }
    for (const auto f : mesh.faces()) {
        mesh::Face face;
        std::size_t k = 0;
        for (const auto v : mesh.vertices_around_face(mesh.halfedge(f)))
            face.v[k++] = place[v];
        out.faces.push_back(face);
    }
    return out;
}

mesh::PolyMesh withQuads(const mesh::PolyMesh &triangles, const mesh::PolyMesh &source)
{
    std::unordered_map<Vec3f, std::uint32_t, HashPlace> at;
    at.reserve(triangles.positions.size());
    for (std::uint32_t v = 0; v < triangles.positions.size(); ++v)
        at.insert({triangles.positions[v], v});
    std::unordered_map<Triangle, std::uint32_t, HashTriangle> faceOf;
    faceOf.reserve(triangles.faces.size());
    for (std::uint32_t f = 0; f < triangles.faces.size(); ++f) {
        const auto &v = triangles.faces[f].v;
        if (triangles.faces[f].size() == 3)
            faceOf.insert({sorted({v[0], v[1], v[2]}), f});
    }
    mesh::PolyMesh out = triangles;
    std::vector<bool> isGone(triangles.faces.size(), false);
    for (const mesh::Face &quad : source.faces) {
        if (quad.size() != 4)
            continue;
        mesh::Face now;
        bool isThere = true;
        for (std::size_t k = 0; k < 4 && isThere; ++k) {
            const auto it = at.find(source.positions[quad.v[k]]);
            isThere = it != at.end();
            if (isThere)
                now.v[k] = it->second;
        }
        if (!isThere)
            continue;
        mesh::PolyMesh one;
        one.positions = {source.positions[quad.v[0]], source.positions[quad.v[1]], source.positions[quad.v[2]],
                         source.positions[quad.v[3]]};
        one.faces = {{{0, 1, 2, 3}}};
        const auto halves = mesh::triangulate(one);
        const auto find = [&](const Triangle &t) { return faceOf.find(sorted({now.v[t[0]], now.v[t[1]], now.v[t[2]]})); };
        const auto a = find(halves[0]), b = find(halves[1]);
        if (a == faceOf.end() || b == faceOf.end() || isGone[a->second] || isGone[b->second])
            continue;
        // A cut turns its partner's faces round: follow the triangle's own way.
        const auto &v = triangles.faces[a->second].v;
        const auto corner = [&](std::uint32_t w) {
            return std::size_t(std::find(now.v.begin(), now.v.end(), w) - now.v.begin());
        };
        const std::size_t i = corner(v[0]), j = corner(v[1]), k = corner(v[2]);
        if (!((i < j && j < k) || (j < k && k < i) || (k < i && i < j)))
            std::reverse(now.v.begin(), now.v.end());
        out.faces[a->second] = now;
        isGone[b->second] = true;
    }
    std::size_t kept = 0;
    for (std::size_t f = 0; f < out.faces.size(); ++f)
        if (!isGone[f])
            out.faces[kept++] = out.faces[f];
    out.faces.resize(kept);
    return out;
}

} // namespace bonemoss::solid::detail
