#include "document/cage.h"

#include "io/scene.h"
#include "mesh/subdivide.h"

#include <fmt/format.h>

#include <cmath>
#include <vector>

namespace bonemoss::document {

mesh::PolyMesh shownCage(const Cage &cage)
{
    mesh::PolyMesh whole = cage.mesh;
    if (cage.isMirrored) {
        const std::size_t n = cage.mesh.positions.size();
        std::vector<std::uint32_t> twin(n);
        for (std::size_t v = 0; v < n; ++v) {
            Vec3f p = cage.mesh.positions[v];
            if (std::abs(p.x) < 1e-3f) {
                whole.positions[v].x = 0;
                twin[v] = std::uint32_t(v);
                continue;
            }
            p.x = -p.x;
            twin[v] = std::uint32_t(whole.positions.size());
            whole.positions.push_back(p);
        }
        for (const mesh::Face &f : cage.mesh.faces) {
            mesh::Face t;
            const int k = f.size();
            for (int i = 0; i < k; ++i)
                t.v[std::size_t(i)] = twin[f.v[std::size_t(k - 1 - i)]];
            whole.faces.push_back(t);
        }
    }
    return mesh::subdivide(whole, cage.smooth);
}

Box3f Cage::bounds() const
{
    return mesh::boundsOf(shownCage(*this).positions);
}

void Cage::shift(Vec3f by)
{
    for (Vec3f &p : mesh.positions)
        p += by;
}

void Cage::show(io::Scene &scene) const
{
    if (mesh::PolyMesh shown = shownCage(*this); !shown.isEmpty())
        scene.add({name, std::move(shown)});
}

std::string Cage::about() const
{
    return fmt::format("{}", mesh.faces.size());
}

} // namespace bonemoss::document
