#include "solid/mend.h"

#include "mesh/measures.h"
#include "mesh/parts.h"
#include "solid/detail/cgal_mesh.h"
#include "solid/holes.h"

#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace bonemoss::solid {

namespace {

constexpr std::size_t kDustFaces = 20;

Vec3f middleOf(const mesh::PolyMesh &m, const mesh::Face &f)
{
    Vec3f sum;
    for (int k = 0; k < f.size(); ++k)
        sum += m.positions[f.v[std::size_t(k)]];
    return sum * (1 / float(f.size()));
}

class Mender
{
public:
    Mender(const mesh::PolyMesh &mesh) { m_out.mesh = mesh; }

    void dropDoubled()
    {
        std::set<std::array<std::uint32_t, 4>> seen;
        std::vector<mesh::Face> kept;
        Fault fault;
        for (const mesh::Face &f : m_out.mesh.faces) {
            std::array<std::uint32_t, 4> key = f.v;
            std::sort(key.begin(), key.end());
            if (seen.insert(key).second)
                kept.push_back(f);
            else
                fault.meet(middleOf(m_out.mesh, f));
        }
        if (fault.count > 0)
            m_out.mesh.faces = std::move(kept);
        tell(fault, "faces that stood there twice were left out", true);
    }

    /// Edges with more than two faces, or with two that run the same way along them.
    void makeManifold()
    {
        const mesh::Measures before = measure(m_out.mesh);
        if (before.nonManifoldEdges == 0 && before.flippedEdges == 0)
            return;
        const mesh::PolyMesh source = m_out.mesh;
        m_out.mesh = detail::withQuads(detail::fromCgal(detail::toCgal(source)), source);
        if (before.nonManifoldEdges > 0)
            tell({before.nonManifoldEdges, before.firstNonManifold}, "edges of more than two faces were parted", true);
        if (before.flippedEdges > 0)
            tell({before.flippedEdges, before.firstFlipped}, "edges had faces turned against each other; they were turned alike",
                 true);
    }

    void closeHoles(bool isSmooth)
    {
        const auto borders = openBorders(m_out.mesh);
        if (borders.empty())
            return;
        Fault fault;
        for (const auto &b : borders)
            fault.meet(m_out.mesh.positions[b.front()]);
        Closed closed = solid::closeHoles(m_out.mesh, isSmooth ? Fill::Smooth : Fill::Flat);
        m_out.mesh = std::move(closed.mesh);
        fault.count = closed.holes;
        tell(fault, "holes were closed", true);
        tell({closed.left, fault.first}, "borders touch themselves and stay open; re-knitting closes them", false);
    }

    void turnShells()
    {
        std::uint32_t count = 0;
        const std::vector<std::uint32_t> island = islandsOf(m_out.mesh, count);
        std::vector<std::size_t> faces(count, 0);
        std::vector<double> volume(count, 0);
        std::vector<bool> isOpen(count, false);
        for (const auto &b : openBorders(m_out.mesh))
            isOpen[island[b.front()]] = true;
        const auto &p = m_out.mesh.positions;
        for (const mesh::Face &f : m_out.mesh.faces) {
            const std::uint32_t k = island[f.v[0]];
            ++faces[k];
            for (int c = 0; c + 2 < f.size(); ++c)
                volume[k] += double(dot(p[f.v[0]], cross(p[f.v[std::size_t(c + 1)]], p[f.v[std::size_t(c + 2)]])));
        }
        // A shell inside another one may be a pocket, and is right as it is: only the outermost are judged.
        std::vector<Box3f> boxes(count);
        for (std::size_t v = 0; v < p.size(); ++v)
            boxes[island[v]].add(p[v]);
        const auto isWithin = [&](const Box3f &a, const Box3f &b) {
            return a.lo.x > b.lo.x && a.lo.y > b.lo.y && a.lo.z > b.lo.z && a.hi.x < b.hi.x && a.hi.y < b.hi.y && a.hi.z < b.hi.z;
        };
        Fault turned, dust;
        std::vector<bool> isTurned(count, false);
        for (std::uint32_t k = 0; k < count; ++k) {
            if (faces[k] > 0 && faces[k] < kDustFaces && count > 1)
                dust.meet(boxes[k].centre());
            bool isInner = false;
            for (std::uint32_t j = 0; j < count && count <= 2000 && !isInner; ++j)
                isInner = j != k && isWithin(boxes[k], boxes[j]);
            isTurned[k] = volume[k] < 0 && !isOpen[k] && !isInner;
            if (isTurned[k])
                turned.meet(boxes[k].centre());
        }
        if (turned.count > 0)
            for (mesh::Face &f : m_out.mesh.faces)
                if (isTurned[island[f.v[0]]])
                    std::reverse(f.v.begin(), f.v.begin() + f.size());
        tell(turned, "shells were inside out and were turned", true);
        tell(dust, "islands of a few faces lie loose; they were kept", false);
    }
    Mended take() { return std::move(m_out); }

private:
    struct Fault {
        std::size_t count = 0;
        std::optional<Vec3f> first;
        void meet(Vec3f at)
        {
            ++count;
            if (!first)
                first = at;
        }
    };
    void tell(const Fault &fault, const char *what, bool isDone)
    {
        if (fault.count == 0)
            return;
        m_out.isChanged = m_out.isChanged || isDone;
        m_out.notes.push_back({fmt::format("{} {}", fault.count, what), fault.first});
    }

    Mended m_out;
};

} // namespace

Mended mend(const mesh::PolyMesh &mesh, bool isSmooth)
{
    Mender mender(mesh);
    mender.dropDoubled();
    mender.makeManifold();
    mender.closeHoles(isSmooth);
    mender.turnShells();
    return mender.take();
}

} // namespace bonemoss::solid
