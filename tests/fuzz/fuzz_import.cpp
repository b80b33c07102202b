// Feeds made-up bytes to one importer and then to everything that a mesh from a file meets first: repair, topology,
// normals, measures. Built by `./moss fuzz FORMAT`, with libFuzzer and the address and undefined-behaviour sanitizers.
#include "io/mesh_file.h"
#include "mesh/measures.h"
#include "mesh/surface.h"

#include <cmath>
#include <cstdlib>

namespace {

void require(bool isTrue)
{
    if (!isTrue)
        std::abort();
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size)
{
    using namespace bonemoss;
    static const io::MeshFormat *const format = io::formatFor(std::string("fuzz") + std::getenv("BONEMOSS_FORMAT"));
    const std::span bytes(reinterpret_cast<const std::byte *>(data), size);
    auto raw = format->read(bytes, "/nowhere/fuzz.glb");
    if (std::string_view(format->extension) == ".obj") { // cut up small it must come to the same
        const auto cut = io::readObjInChunks(bytes, 16);
        require(bool(cut) == bool(raw));
        require(!raw
                || (cut->corners == raw->corners && cut->faceEnds == raw->faceEnds
                    && cut->positions.size() == raw->positions.size()));
    }
    if (!raw)
        return require(!raw.error().text().empty()), 0;
    const auto mesh = io::repair(std::move(*raw));
    if (!mesh)
        return require(!mesh.error().text().empty()), 0;
    for (const Vec3f p : mesh->mesh.positions)
        require(std::isfinite(p.x) && std::isfinite(p.y) && std::isfinite(p.z));
    for (const mesh::Face &f : mesh->mesh.faces)
        for (int c = 0; c < f.size(); ++c)
            require(f.v[std::size_t(c)] < mesh->mesh.positions.size());
    const mesh::Surface surface = mesh::makeSurface(mesh->mesh);
    require(surface.topology->faceCount() == mesh->mesh.faces.size());
    measure(mesh->mesh);
    return 0;
}
