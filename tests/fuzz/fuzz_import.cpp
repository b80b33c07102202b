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
    auto raw = format->read(bytes, "/nowhere/fuzz.glb", {});
    if (std::string_view(format->extension) == ".obj") { // cut up small it must come to the same
        const auto cut = io::readObjInChunks(bytes, 16);
        require(bool(cut) == bool(raw));
        const auto same = [](const io::RawMesh &a, const io::RawMesh &b) {
            return a.corners == b.corners && a.faceEnds == b.faceEnds && a.positions.size() == b.positions.size()
                   && a.attributes.size() == b.attributes.size();
        };
        require(!raw || same(*cut, raw->shapes[0]));
    }
    if (!raw)
        return require(!raw.error().text().empty()), 0;
    const auto scene = io::repair(std::move(*raw));
    if (!scene)
        return require(!scene.error().text().empty()), 0;
    std::size_t corners = 0;
    for (const io::Object &o : scene->scene.objects) {
        const io::Shape &shape = scene->scene.shapeOf(o);
        corners += shape.cornerCount() * o.places.size();
        for (const io::Attribute &a : shape.attributes)
            require(a.values.size() == a.width * (a.domain == mesh::Domain::Vertex ? shape.pointCount() : shape.cornerCount()));
    }
    if (corners > 3'000'000) // copies of copies
        return 0;
    const mesh::PolyMesh mesh = io::joined(scene->scene);
    for (const Vec3f p : mesh.positions)
        require(std::isfinite(p.x) && std::isfinite(p.y) && std::isfinite(p.z));
    for (const mesh::Face &f : mesh.faces)
        for (int c = 0; c < f.size(); ++c)
            require(f.v[std::size_t(c)] < mesh.positions.size());
    const mesh::Surface surface = mesh::makeSurface(mesh);
    require(surface.topology->faceCount() == mesh.faces.size());
    measure(mesh);
    for (const char *name : {"x.obj", "x.ply", "x.stl", "x.glb"}) // what was read can be written
        require(bool(io::writeTo([](std::string_view) { return Done{}; }, name, scene->scene)));
    return 0;
}
