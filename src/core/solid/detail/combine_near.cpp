#include "solid/detail/combine_near.h"

#include "solid/detail/near_seam.h"
#include "solid/detail/stoppable.h"

#include <CGAL/Polygon_mesh_processing/corefinement.h>

#include <algorithm>
#include <map>

namespace bonemoss::solid::detail {

namespace pmp = CGAL::Polygon_mesh_processing;

namespace {

using mesh::Face;
using mesh::PolyMesh;
using SeamMap = SurfaceMesh::Property_map<SurfaceMesh::Edge_index, bool>;

/// The near part of a solid, cut along the seam.
struct CutPart {
    SurfaceMesh mesh;                   ///< vertices of the near part keep their numbers
    SeamMap isSeam;                     ///< edges along which it meets the other
    std::vector<std::uint32_t> patchOf; ///< of each face: patches end at seams
    std::vector<bool> isKept;           ///< of each patch

    explicit CutPart(const PolyMesh &near) : mesh(toCgal(near))
    {
        isSeam = mesh.add_property_map<SurfaceMesh::Edge_index, bool>("e:seam", false).first;
    }
};

void findPatches(CutPart &part)
{
    const SurfaceMesh &m = part.mesh;
    part.patchOf.assign(m.number_of_faces() + m.number_of_removed_faces(), kNone);
    std::uint32_t count = 0;
    std::vector<SurfaceMesh::Face_index> front;
    for (const auto start : m.faces()) {
        if (part.patchOf[start] != kNone)
            continue;
        part.patchOf[start] = count;
        front.assign(1, start);
        while (!front.empty()) {
            const auto f = front.back();
            front.pop_back();
            for (const auto h : m.halfedges_around_face(m.halfedge(f))) {
                const auto across = m.face(m.opposite(h));
                if (part.isSeam[m.edge(h)] || across == SurfaceMesh::null_face() || part.patchOf[across] != kNone)
                    continue;
                part.patchOf[across] = count;
                front.push_back(across);
            }
        }
        ++count;
    }
    part.isKept.assign(count, false);
}

/// Keeps the patches inside the other, or those outside; each is told by the middle of its thickest triangle. False where one
/// lies on the other.
bool choosePatches(CutPart &part, const Whole &other, bool isInsideKept)
{
    struct Middle {
        double thickness = 0;
        Point at;
    };
    std::vector<Middle> middles(part.isKept.size());
    const SurfaceMesh &m = part.mesh;
    for (const auto f : m.faces()) {
        std::array<Point, 3> p;
        std::size_t k = 0;
        for (const auto v : m.vertices_around_face(m.halfedge(f)))
            p[k++] = m.point(v);
        const double longest = std::max(
            {CGAL::squared_distance(p[0], p[1]), CGAL::squared_distance(p[1], p[2]), CGAL::squared_distance(p[2], p[0])});
        const double thickness = longest > 0 ? CGAL::squared_area(p[0], p[1], p[2]) / longest : 0;
        if (Middle &best = middles[part.patchOf[f]]; thickness > best.thickness)
            best = {thickness, CGAL::centroid(p[0], p[1], p[2])};
    }
    for (std::size_t k = 0; k < middles.size(); ++k) {
        const auto isInside = middles[k].thickness > 0 ? other.encloses(middles[k].at) : std::nullopt;
        if (!isInside)
            return false;
        part.isKept[k] = *isInside == isInsideKept;
    }
    return true;
}

/// Puts the kept patches together, and what hangs on them.
class Assembly
{
public:
    /// Patches, joined to those that are there along the seam.
    void addPatches(const CutPart &part, std::vector<std::uint32_t> &now, bool isTurned)
    {
        const SurfaceMesh &m = part.mesh;
        now.assign(m.number_of_vertices() + m.number_of_removed_vertices(), kNone);
        std::vector<bool> isOnSeam(now.size(), false);
        for (const auto e : m.edges())
            if (part.isSeam[e])
                isOnSeam[m.vertex(e, 0)] = isOnSeam[m.vertex(e, 1)] = true;
        for (const auto f : m.faces()) {
            if (!part.isKept[part.patchOf[f]])
                continue;
            Face face;
            std::size_t k = 0;
            for (const auto v : m.vertices_around_face(m.halfedge(f))) {
                if (now[v] == kNone)
                    now[v] = isOnSeam[v] ? seamVertex(m.point(v)) : add(fromCgal(m.point(v)));
                face.v[k++] = now[v];
            }
            addFace(face, isTurned);
        }
    }
    /// Far parts of which a rim hangs on a kept patch. What hangs half is found when all is there.
    void addFar(const CutPart &part, const Whole &whole, const NearSeam &seam, const std::vector<std::uint32_t> &now,
                bool isTurned)
    {
        const SurfaceMesh &m = part.mesh;
        std::vector<bool> isKept(seam.farParts, false);
        for (const auto h : m.halfedges()) {
            if (!m.is_border(h) || !part.isKept[part.patchOf[m.face(m.opposite(h))]])
                continue;
            const std::uint32_t face = whole.ways().faceAlong(seam.sources[m.source(h)], seam.sources[m.target(h)]);
            if (face != kNone && seam.farPart[face] != kNone)
                isKept[seam.farPart[face]] = true;
        }
        std::vector<std::uint32_t> place(whole.mesh().positions.size(), kNone);
        for (std::size_t v = 0; v < seam.sources.size(); ++v)
            place[seam.sources[v]] = now[v];
        for (std::uint32_t i = 0; i < seam.farPart.size(); ++i) {
            if (seam.farPart[i] == kNone || !isKept[seam.farPart[i]])
                continue;
            Face face = whole.mesh().faces[i];
            for (std::size_t k = 0; k < std::size_t(face.size()); ++k) {
                std::uint32_t &v = place[face.v[k]];
                if (v == kNone)
                    v = add(whole.mesh().positions[face.v[k]]);
                face.v[k] = v;
            }
            addFace(face, isTurned);
        }
    }
    PolyMesh mesh;

private:
    std::uint32_t add(Vec3f p)
    {
        mesh.positions.push_back(p);
        return std::uint32_t(mesh.positions.size() - 1);
    }
    std::uint32_t seamVertex(const Point &p)
    {
        const auto [it, isNew] = m_onSeam.insert({{p.x(), p.y(), p.z()}, 0});
        if (isNew)
            it->second = add(fromCgal(p));
        return it->second;
    }
    void addFace(Face f, bool isTurned)
    {
        if (isTurned)
            std::reverse(f.v.begin(), f.v.begin() + f.size());
        mesh.faces.push_back(f);
    }
    std::map<std::array<double, 3>, std::uint32_t> m_onSeam;
};

} // namespace

std::optional<PolyMesh> combinedNearSeam(const PolyMesh &first, const PolyMesh &second, Boolean how, const Progress &progress)
{
    const Whole wholeFirst(first), wholeSecond(second);
    const auto seams = nearSeam(wholeFirst, wholeSecond);
    if (!seams)
        return {};
    const auto &[nearFirst, nearSecond] = *seams;
    CutPart a(nearFirst.near), b(nearSecond.near);
    if (a.mesh.number_of_vertices() != nearFirst.near.positions.size()
        || b.mesh.number_of_vertices() != nearSecond.near.positions.size())
        return {}; // skin touches itself at a point there, which was doubled
    try {
        pmp::corefine(a.mesh, b.mesh,
                      CGAL::parameters::edge_is_constrained_map(a.isSeam).throw_on_self_intersection(true).visitor(
                          StoppableVisitor<SurfaceMesh>(progress)),
                      CGAL::parameters::edge_is_constrained_map(b.isSeam));
    } catch (const pmp::Corefinement::Self_intersection_exception &) {
        return {};
    }
    findPatches(a);
    findPatches(b);
    const bool isTurned = how == Boolean::Cut;
    if (!choosePatches(a, wholeSecond, how == Boolean::Common) || !choosePatches(b, wholeFirst, how != Boolean::Join))
        return {};
    Assembly all;
    std::vector<std::uint32_t> nowFirst, nowSecond;
    all.addPatches(a, nowFirst, false);
    all.addPatches(b, nowSecond, isTurned);
    all.mesh = withQuads(withQuads(all.mesh, nearFirst.near), nearSecond.near);
    all.addFar(a, wholeFirst, nearFirst, nowFirst, false);
    all.addFar(b, wholeSecond, nearSecond, nowSecond, isTurned);
    const Ways ways(all.mesh);
    bool isSolid = !all.mesh.faces.empty();
    eachEdge(all.mesh, ways, [&](std::uint32_t i, std::size_t k, std::uint32_t twin) {
        const Face &f = all.mesh.faces[i];
        isSolid = isSolid && twin != kNone && ways.faceAlong(f.v[k], f.v[next(f, k)]) == i;
    });
    return isSolid ? std::optional(std::move(all.mesh)) : std::nullopt;
}

} // namespace bonemoss::solid::detail
