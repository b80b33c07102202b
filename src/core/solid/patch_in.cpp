#include "solid/patch_in.h"

#include "mesh/even_patch.h"
#include "mesh/parts.h"
#include "solid/holes.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <unordered_map>

namespace bonemoss::solid {

namespace {

using mesh::Face;
using mesh::PolyMesh;
using Loop = std::vector<std::uint32_t>;

constexpr float kGap = 0.8f; // of the longer of spacing and border edge: room for one row of well-shaped triangles

/// Takes away faces about vertices where the chosen ones touch each other at a point only, until there are none: then
/// every border is a plain loop.
void dropPinches(const PolyMesh &mesh, std::vector<bool> &chosen)
{
    for (bool isDone = false; !isDone;) {
        isDone = true;
        // Ways out of each vertex along open edges of the chosen faces: more than one at a pinch.
        std::vector<std::pair<std::uint32_t, std::uint32_t>> edges;
        for (std::size_t f = 0; f < chosen.size(); ++f)
            for (std::size_t k = 0, n = std::size_t(mesh.faces[f].size()); chosen[f] && k < n; ++k)
                edges.push_back({mesh.faces[f].v[k], mesh.faces[f].v[(k + 1) % n]});
        std::sort(edges.begin(), edges.end());
        std::vector<std::uint8_t> ways(mesh.positions.size(), 0);
        for (const auto &[a, b] : edges)
            if (!std::binary_search(edges.begin(), edges.end(), std::pair{b, a}) && ways[a] < 2)
                ++ways[a];
        for (std::size_t f = 0; f < chosen.size(); ++f)
            for (int k = 0; chosen[f] && k < mesh.faces[f].size(); ++k)
                if (ways[mesh.faces[f].v[std::size_t(k)]] > 1)
                    chosen[f] = false, isDone = false;
    }
}

/// Points along some loops in a lattice of cells, to ask whether one is near.
class NearLoops
{
public:
    NearLoops(const PolyMesh &mesh, const std::vector<Loop> &loops, float reach) : m_reach(reach)
    {
        for (const Loop &l : loops)
            for (std::size_t i = 0; i < l.size(); ++i) {
                const Vec3f a = mesh.positions[l[i]], b = mesh.positions[l[(i + 1) % l.size()]];
                const int steps = 1 + int(length(b - a) / (reach / 4));
                for (int k = 0; k < steps; ++k) {
                    const Vec3f p = lerp(a, b, float(k) / float(steps));
                    m_cells[keyOf(p, 0, 0, 0)].push_back(p);
                }
            }
    }
    bool isNear(Vec3f p) const
    {
        for (int x = -1; x < 2; ++x)
            for (int y = -1; y < 2; ++y)
                for (int z = -1; z < 2; ++z)
                    if (const auto it = m_cells.find(keyOf(p, x, y, z)); it != m_cells.end())
                        for (const Vec3f q : it->second)
                            if (squaredLength(q - p) < m_reach * m_reach)
                                return true;
        return false;
    }

private:
    std::uint64_t keyOf(Vec3f p, int dx, int dy, int dz) const
    {
        const auto cell = [&](float v, int d) { return std::uint64_t(std::int64_t(std::floor(v / m_reach)) + d) & 0x1fffff; };
        return cell(p.x, dx) << 42 | cell(p.y, dy) << 21 | cell(p.z, dz);
    }
    float m_reach;
    std::unordered_map<std::uint64_t, std::vector<Vec3f>> m_cells;
};

/// Triangles between two loops that run the same way round; `outer` as the strip's other side has it reversed.
/// M. Christiansen, T. Sederberg, "Conversion of Complex Contour Line Definitions into Polygonal Element Mosaics", 1978:
/// always on to the nearer of the two next points.
void zip(const std::vector<Vec3f> &at, const Loop &outer, const Loop &inner, std::vector<Face> &out)
{
    std::size_t startA = 0, startB = 0;
    float least = std::numeric_limits<float>::max();
    for (std::size_t j = 0; j < inner.size(); ++j)
        if (const float d = squaredLength(at[outer[0]] - at[inner[j]]); d < least)
            least = d, startB = j;
    std::size_t i = 0, j = 0;
    const auto a = [&](std::size_t k) { return outer[(startA + k) % outer.size()]; };
    const auto b = [&](std::size_t k) { return inner[(startB + k) % inner.size()]; };
    while (i < outer.size() || j < inner.size()) {
        const bool isA = j == inner.size()
                         || (i < outer.size() && squaredLength(at[a(i + 1)] - at[b(j)]) < squaredLength(at[a(i)] - at[b(j + 1)]));
        if (isA) {
            out.push_back({{a(i + 1), a(i), b(j), kNone}});
            ++i;
        } else {
            out.push_back({{b(j), b(j + 1), a(i), kNone}});
            ++j;
        }
    }
}

float meanDistance(const std::vector<Vec3f> &at, const Loop &from, const Loop &to)
{
    double sum = 0;
    std::size_t n = 0;
    for (std::size_t i = 0; i < from.size(); i += 1 + from.size() / 64, ++n) {
        float least = std::numeric_limits<float>::max();
        for (const std::uint32_t v : to)
            least = std::min(least, squaredLength(at[from[i]] - at[v]));
        sum += double(std::sqrt(least));
    }
    return float(sum / double(std::max<std::size_t>(1, n)));
}

/// Turns and relaxes the strip and the row of new faces along it; old vertices stay.
void evenSeam(PolyMesh &mesh, std::size_t oldVertices, std::size_t firstStrip, const std::vector<Loop> &rims, float oldEdge,
              float newEdge)
{
    std::vector<bool> isRim(mesh.positions.size(), false), chosen(mesh.faces.size(), false);
    for (const Loop &l : rims)
        for (const std::uint32_t v : l)
            isRim[v] = true;
    for (std::size_t f = 0; f < mesh.faces.size(); ++f)
        for (int k = 0; k < mesh.faces[f].size(); ++k)
            chosen[f] = chosen[f] || f >= firstStrip || isRim[mesh.faces[f].v[std::size_t(k)]];
    std::vector<std::uint32_t> source;
    const PolyMesh part = extract(mesh, chosen, &source);
    mesh::EdgePatch patch{part.positions, triangulate(part), {}, {}};
    for (const std::uint32_t v : source) {
        patch.isFixed.push_back(v < oldVertices);
        patch.edge.push_back(v < oldVertices ? oldEdge : newEdge);
    }
    const mesh::EvenedPatch evened = mesh::evenOut(patch, 2);
    if (!evened.isChanged)
        return;
    std::vector<Face> faces;
    for (std::size_t f = 0; f < mesh.faces.size(); ++f)
        if (!chosen[f])
            faces.push_back(mesh.faces[f]);
    for (std::size_t v = source.size(); v < evened.positions.size(); ++v) {
        source.push_back(std::uint32_t(mesh.positions.size()));
        mesh.positions.push_back(evened.positions[v]);
    }
    for (std::size_t v = 0; v < evened.positions.size(); ++v)
        if (evened.isMoved[v] && !evened.isGone[v])
            mesh.positions[source[v]] = evened.positions[v];
    for (const auto &t : evened.triangles)
        faces.push_back({{source[t[0]], source[t[1]], source[t[2]], kNone}});
    mesh.faces = std::move(faces);
    mesh = extract(mesh, std::vector<bool>(mesh.faces.size(), true)); // without vertices that went
}

/// All faces but those of a region, of which both are bounded by plain loops.
std::vector<bool> restOf(const PolyMesh &mesh, std::vector<bool> region)
{
    dropPinches(mesh, region);
    region.flip();
    dropPinches(mesh, region);
    return region;
}

Result<PolyMesh> patched(const PolyMesh &mesh, const std::vector<bool> &rest, const PolyMesh &knitted, std::vector<bool> isIn,
                         float spacing)
{
    PolyMesh out = extract(mesh, rest);
    const std::vector<Loop> before = openBorders(mesh);
    std::vector<Loop> rims = openBorders(out);
    if (!before.empty())
        return Error{ErrorCode::BadValue, "mesh", "has open borders; close its holes first"};
    float border = 0;
    std::size_t edges = 0;
    for (const Loop &l : rims)
        for (std::size_t i = 0; i < l.size(); ++i, ++edges)
            border += length(out.positions[l[i]] - out.positions[l[(i + 1) % l.size()]]);
    const float oldEdge = edges ? border / float(edges) : spacing;
    const float gap = kGap * std::max(spacing, oldEdge);
    const NearLoops nearRim(out, rims, gap);
    for (std::size_t v = 0; v < isIn.size(); ++v)
        isIn[v] = isIn[v] && !nearRim.isNear(knitted.positions[v]);
    std::vector<bool> chosen(knitted.faces.size(), true);
    for (std::size_t f = 0; f < chosen.size(); ++f)
        for (int k = 0; k < knitted.faces[f].size(); ++k)
            chosen[f] = chosen[f] && isIn[knitted.faces[f].v[std::size_t(k)]];
    dropPinches(knitted, chosen);
    const PolyMesh inner = extract(knitted, chosen);
    const Error tooNarrow{ErrorCode::BadValue, "region",
                          "has no room for new skin at this spacing; mask more, or choose a smaller spacing"};
    if (inner.isEmpty())
        return tooNarrow;
    const std::size_t oldVertices = out.positions.size();
    mesh::append(out, inner);
    std::vector<Loop> newRims = openBorders(inner);
    for (Loop &l : newRims) {
        for (std::uint32_t &v : l)
            v += std::uint32_t(oldVertices);
        std::reverse(l.begin(), l.end());
    }
    // Each new rim to the old one it runs along; both must be used up.
    const std::size_t firstStrip = out.faces.size();
    std::vector<std::uint8_t> isUsed(rims.size(), 0);
    for (const Loop &l : newRims) {
        std::size_t best = rims.size();
        float least = 6 * gap;
        for (std::size_t k = 0; k < rims.size(); ++k)
            if (const float d = meanDistance(out.positions, l, rims[k]); !isUsed[k] && d < least)
                least = d, best = k;
        if (best == rims.size())
            return tooNarrow;
        isUsed[best] = 1;
        zip(out.positions, rims[best], l, out.faces);
    }
    if (std::find(isUsed.begin(), isUsed.end(), 0) != isUsed.end())
        return tooNarrow;
    evenSeam(out, oldVertices, firstStrip, newRims, oldEdge, spacing);
    return out;
}

} // namespace

Result<PolyMesh> patchedIn(const PolyMesh &mesh, std::vector<bool> region, const PolyMesh &knitted,
                           std::span<const mesh::FacesNear> near, float spacing)
{
    const std::vector<bool> rest = restOf(mesh, std::move(region));
    std::vector<bool> isIn(knitted.positions.size());
    for (std::size_t v = 0; v < isIn.size(); ++v) {
        isIn[v] = near[v][0] != kNone;
        for (const std::uint32_t f : near[v])
            isIn[v] = isIn[v] && (f == kNone || !rest[f]);
    }
    return patched(mesh, rest, knitted, std::move(isIn), spacing);
}

Result<PolyMesh> patchedIn(const PolyMesh &mesh, std::vector<bool> region, const PolyMesh &knitted, std::vector<bool> isIn,
                           float spacing)
{
    return patched(mesh, restOf(mesh, std::move(region)), knitted, std::move(isIn), spacing);
}

} // namespace bonemoss::solid
