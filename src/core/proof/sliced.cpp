#include "proof/sliced.h"

#include "proof/proof.h"

#include <algorithm>

namespace bonemoss::proof {

Result<Sliced> sliced(const io::Scene &scene, const PrinterProfile &profile, float heightMm, int most, const Progress &progress)
{
    const mesh::PolyMesh mesh = io::joined(printable(scene));
    const Box3f box = mesh::boundsOf(mesh.positions);
    if (mesh.faces.empty() || box.size().y <= 0)
        return Error{ErrorCode::Empty, "slices", "there is nothing to print: only surfaces can be"};
    Sliced out;
    out.scale = heightMm > 0 ? heightMm / box.size().y : 1;
    std::vector<Triangle> triangles;
    for (const auto &t : mesh::triangulate(mesh))
        triangles.push_back(
            {mesh.positions[t[0]] * out.scale, mesh.positions[t[1]] * out.scale, mesh.positions[t[2]] * out.scale});
    const Vec3f size = box.size() * out.scale;
    const float height = std::max(profile.layer, size.y / float(most)),
                cell = std::max({2 * profile.layer, size.x / 600, size.z / 600});
    auto layers = layersOf(triangles, height, cell, progress);
    if (!layers)
        return layers.error();
    out.layers = std::move(*layers);
    out.islandsIn.resize(std::size_t(out.layers.count));
    for (const Region &r : regionsOf(out.layers, progress))
        if (r.kind == Region::Kind::Island)
            out.islands.push_back(r), ++out.islandsIn[std::size_t(r.layer)];
    if (progress.isCancelled())
        return Error{ErrorCode::Cancelled, "slices", "stopped on request"};
    out.volumeMm3 = out.layers.volume();
    out.weightG = out.volumeMm3 / 1000 * double(profile.density);
    out.cost = out.weightG / 1000 * double(profile.price);
    const double layerCount = double(size.y) / double(profile.layer);
    out.hours = (layerCount * double(profile.secondsPerLayer)
                 + (profile.mm3PerSecond > 0 ? out.volumeMm3 / double(profile.mm3PerSecond) : 0))
                / 3600;
    return out;
}

} // namespace bonemoss::proof
