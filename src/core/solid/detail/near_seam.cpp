#include "solid/detail/near_seam.h"

#include "base/parallel.h"
#include "mesh/measures.h"
#include "mesh/parts.h"

#include <algorithm>
#include <limits>

namespace bonemoss::solid::detail {

namespace {

using mesh::Face;
using mesh::PolyMesh;

constexpr int kRings = 2;           // of faces about those that meet: their rims are none of theirs
constexpr std::size_t kBlock = 256; // faces to a task

/// The triangles of a face, as they are cut from quads everywhere.
struct Triangles {
    std::array<Kernel::Triangle_3, 2> t;
    std::size_t count = 0;
    Box3f box;
    bool isFlat = false; ///< one is no more than a line

    Triangles(const PolyMesh &m, std::uint32_t face)
    {
        PolyMesh one;
        for (std::size_t k = 0; k < std::size_t(m.faces[face].size()); ++k)
            one.positions.push_back(m.positions[m.faces[face].v[k]]), box.add(one.positions.back());
        one.faces = {one.positions.size() == 4 ? Face{{0, 1, 2, 3}} : Face{{0, 1, 2, kNone}}};
        for (const auto &c : mesh::triangulate(one)) {
            t[count] = {toCgal(one.positions[c[0]]), toCgal(one.positions[c[1]]), toCgal(one.positions[c[2]])};
            isFlat |= t[count++].is_degenerate();
        }
    }
    bool meets(const Triangles &o) const
    {
        for (std::size_t i = 0; i < count; ++i)
            for (std::size_t j = 0; j < o.count; ++j)
                if (CGAL::do_intersect(t[i], o.t[j]))
                    return true;
        return false;
    }
};

/// Whether a box lies to one side of a triangle's plane, with room for rounding.
bool isBeside(const Box3f &box, const Kernel::Triangle_3 &t)
{
    const Vec3f a = fromCgal(t[0]), n = cross(fromCgal(t[1]) - a, fromCgal(t[2]) - a), half = box.size() * 0.5f;
    const float reach = half.x * std::abs(n.x) + half.y * std::abs(n.y) + half.z * std::abs(n.z);
    return std::abs(dot(box.centre() - a, n)) > reach * 1.001f + length(n) * 1e-4f * (length(half) + length(a));
}

/// Marks the faces of each mesh that meet one of the other. False where a face has no area there.
bool findMeeting(const Whole &whole, const PolyMesh &few, std::vector<bool> &ofMany, std::vector<bool> &ofFew)
{
    const PolyMesh &many = whole.mesh();
    struct Found {
        std::vector<std::uint32_t> many, few;
        bool isFlat = false;
    };
    std::vector<Found> found((few.faces.size() + kBlock - 1) / kBlock);
    forEachBlock(few.faces.size(), kBlock, [&](BlockRange r) {
        Found &out = found[r.begin / kBlock];
        for (std::uint32_t i = std::uint32_t(r.begin); i < r.end; ++i) {
            const Triangles own(few, i);
            const float limit = 0;
            bool isMet = false;
            whole.tree().visit(mesh::Meets(own.box), limit, [&](std::span<const std::uint32_t> leaf) {
                for (const std::uint32_t j : leaf) {
                    bool isAside = !own.isFlat;
                    for (std::size_t k = 0; k < own.count && isAside; ++k)
                        isAside = isBeside(whole.boxOf(j), own.t[k]);
                    if (isAside)
                        continue;
                    const Triangles other(many, j);
                    if (own.isFlat || other.isFlat)
                        out.isFlat = true;
                    else if (own.meets(other))
                        out.many.push_back(j), isMet = true;
                }
            });
            if (isMet)
                out.few.push_back(i);
        }
    });
    for (const Found &f : found) {
        if (f.isFlat)
            return false;
        for (const std::uint32_t i : f.many)
            ofMany[i] = true;
        for (const std::uint32_t i : f.few)
            ofFew[i] = true;
    }
    return true;
}

/// More faces about the chosen ones: rings, and all about vertices at which their rim would touch itself.
void grow(const Whole &whole, std::vector<bool> &isNear)
{
    const PolyMesh &m = whole.mesh();
    const Ways &ways = whole.ways();
    const auto addAbout = [&](const std::vector<bool> &vertices) {
        for (std::uint32_t v = 0; v < vertices.size(); ++v)
            if (vertices[v])
                for (const Ways::Way w : ways.from(v))
                    isNear[w.face] = true;
    };
    for (int ring = 0; ring < kRings; ++ring) {
        std::vector<bool> isTouched(m.positions.size(), false);
        for (std::size_t i = 0; i < isNear.size(); ++i)
            for (std::size_t k = 0; isNear[i] && k < std::size_t(m.faces[i].size()); ++k)
                isTouched[m.faces[i].v[k]] = true;
        addAbout(isTouched);
    }
    for (bool isDone = false; !isDone;) { // ends: each round adds faces
        isDone = true;
        std::vector<bool> hasRim(m.positions.size(), false), isPinched(m.positions.size(), false);
        eachEdge(m, ways, [&](std::uint32_t i, std::size_t k, std::uint32_t twin) {
            if (!isNear[i] || isNear[twin])
                return;
            const std::uint32_t v = m.faces[i].v[k];
            if (hasRim[v])
                isPinched[v] = true, isDone = false;
            hasRim[v] = true;
        });
        addAbout(isPinched);
    }
}

NearSeam apart(const Whole &whole, const std::vector<bool> &isNear)
{
    const PolyMesh &m = whole.mesh();
    const Ways &ways = whole.ways();
    NearSeam out;
    out.near = mesh::extract(m, isNear, &out.sources);
    out.farPart.assign(m.faces.size(), kNone);
    std::vector<std::uint32_t> front;
    for (std::uint32_t start = 0; start < m.faces.size(); ++start) {
        if (isNear[start] || out.farPart[start] != kNone)
            continue;
        out.farPart[start] = out.farParts;
        front.assign(1, start);
        while (!front.empty()) {
            const Face f = m.faces[front.back()];
            front.pop_back();
            for (std::size_t k = 0; k < std::size_t(f.size()); ++k)
                if (const std::uint32_t twin = ways.faceAlong(f.v[next(f, k)], f.v[k]);
                    !isNear[twin] && out.farPart[twin] == kNone)
                    out.farPart[twin] = out.farParts, front.push_back(twin);
        }
        ++out.farParts;
    }
    return out;
}

} // namespace

Whole::Whole(const PolyMesh &mesh) : m_mesh(mesh), m_ways(mesh)
{
    std::uint32_t islands = 0;
    mesh::islandsOf(mesh, islands);
    m_isSolid = islands == 1;
    eachEdge(mesh, m_ways, [&](std::uint32_t i, std::size_t k, std::uint32_t twin) {
        const Face &f = mesh.faces[i];
        m_isSolid = m_isSolid && twin != kNone && m_ways.faceAlong(f.v[k], f.v[next(f, k)]) == i;
    });
    m_isSolid = m_isSolid && mesh::massOf(mesh).volumeMm3 > 0;
    if (!m_isSolid)
        return;
    std::vector<Box3f> boxes(mesh.faces.size());
    for (std::uint32_t i = 0; i < boxes.size(); ++i)
        boxes[i] = boxOf(i);
    m_tree = mesh::BoxTree::build(boxes);
}

Box3f Whole::boxOf(std::uint32_t face) const
{
    Box3f box;
    for (std::size_t k = 0; k < std::size_t(m_mesh.faces[face].size()); ++k)
        box.add(m_mesh.positions[m_mesh.faces[face].v[k]]);
    return box;
}

std::optional<bool> Whole::encloses(const Point &p) const
{
    const Box3f bounds = mesh::boundsOf(m_mesh.positions);
    for (int axis = 0; axis < 3; ++axis) {
        // From p along an axis until outside: it is left once more often than entered, or twice where skin overlaps itself.
        const Vec3f from = fromCgal(p), epsilon = bounds.size() * 1e-5f + Vec3f{1e-5f, 1e-5f, 1e-5f};
        Box3f along;
        along.add(from - epsilon), along.add(from + epsilon);
        (axis == 0 ? along.hi.x : axis == 1 ? along.hi.y : along.hi.z) = std::numeric_limits<float>::max();
        const auto far = [&](int k) { return k == axis ? 1e7 : 0.0; };
        const Point q{p.x() + far(0), p.y() + far(1), p.z() + far(2)};
        int left = 0;
        bool isPlain = true;
        const float limit = 0;
        m_tree.visit(mesh::Meets(along), limit, [&](std::span<const std::uint32_t> leaf) {
            for (const std::uint32_t j : leaf) {
                const Triangles face(m_mesh, j);
                for (std::size_t k = 0; k < face.count; ++k) {
                    const auto &[a, b, c] = std::array{face.t[k][0], face.t[k][1], face.t[k][2]};
                    const auto u = CGAL::orientation(p, q, a, b), v = CGAL::orientation(p, q, b, c),
                               w = CGAL::orientation(p, q, c, a);
                    if (u * v < 0 || v * w < 0 || w * u < 0)
                        continue; // beside it
                    const auto here = CGAL::orientation(a, b, c, p), there = CGAL::orientation(a, b, c, q);
                    if (here * there > 0)
                        continue; // before it
                    isPlain = isPlain && u * v * w != 0 && here * there < 0;
                    left -= here; // negative: p is behind it
                }
            }
        });
        if (isPlain)
            return left > 0;
    }
    return {};
}

std::optional<std::array<NearSeam, 2>> nearSeam(const Whole &first, const Whole &second)
{
    const std::size_t faces = first.mesh().faces.size() + second.mesh().faces.size();
    std::vector<bool> ofFirst(first.mesh().faces.size(), false), ofSecond(second.mesh().faces.size(), false);
    if (!first.isSolid() || !second.isSolid()
        || !(ofFirst.size() >= ofSecond.size() ? findMeeting(first, second.mesh(), ofFirst, ofSecond)
                                               : findMeeting(second, first.mesh(), ofSecond, ofFirst)))
        return {};
    grow(first, ofFirst);
    grow(second, ofSecond);
    const auto near =
        std::size_t(std::count(ofFirst.begin(), ofFirst.end(), true) + std::count(ofSecond.begin(), ofSecond.end(), true));
    if (near == 0 || near * 3 > faces * 2)
        return {};
    return std::array{apart(first, ofFirst), apart(second, ofSecond)};
}

} // namespace bonemoss::solid::detail
