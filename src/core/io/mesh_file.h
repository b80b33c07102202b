#pragma once

#include "base/files.h"
#include "base/progress.h"
#include "base/result.h"
#include "io/byte_stream.h"
#include "io/scene.h"

#include <cstddef>
#include <filesystem>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace bonemoss::io {

/// One kind of repair made while reading, with how often.
struct Repair {
    std::string what; ///< "corners of polygons fanned into triangles", ...
    std::size_t count = 0;
    std::optional<Vec3f> first = {}; ///< where, as the file has it
};

struct ImportedMesh {
    mesh::PolyMesh mesh; ///< mm, +Y up
    std::vector<Repair> repairs;
    std::vector<std::string> leftOut; ///< names of attributes that the file has and the mesh has not
};
struct ImportedScene {
    Scene scene;
    std::vector<Repair> repairs;
};

/// Faces of any corner count as files give them, before repair.
struct RawMesh {
    std::string name = {};
    std::vector<Vec3f> positions = {};
    std::vector<std::uint32_t> corners = {};
    std::vector<std::uint32_t> faceEnds = {}; ///< end of each face in corners
    std::vector<Attribute> attributes = {};   ///< of positions and corners
    std::vector<Repair> remarks = {};         ///< what was odd about the file, and how it was taken
    bool mergeEqualPoints = false;            ///< the format has no shared vertices
    bool zUp = false;                         ///< turn +Z up into +Y up
};
struct RawScene {
    std::vector<RawMesh> shapes = {};
    std::vector<Material> materials = {};
    std::vector<Object> objects = {};
    std::vector<Repair> remarks = {};
};
/// A file of one mesh.
RawScene sceneOf(RawMesh raw);

/// A file format as one row: add one here to read or write another.
struct MeshFormat {
    const char *extension; ///< with dot, lower case
    const char *name;
    std::function<Result<RawScene>(std::span<const std::byte>, const std::filesystem::path &, const Progress &)> read;
    std::function<void(const Scene &, ByteStream &)> write;
};
const std::vector<MeshFormat> &meshFormats();
/// The row for a path's extension, or null.
const MeshFormat *formatFor(const std::filesystem::path &path);

/// Reads and repairs: polygons are fanned, equal points of formats without sharing merged, faces with
/// repeated corners and unused points dropped; attributes go along. Nothing else is reduced. Errors: Unreadable, Malformed
/// (truncated, wrong counts, index out of range, not finite), Unsupported, Empty, TooLarge, Cancelled.
Result<ImportedScene> readScene(const std::filesystem::path &path, const Progress &progress = {});
/// The same as one mesh, without attributes and materials.
Result<ImportedMesh> readMesh(const std::filesystem::path &path, const Progress &progress = {});

/// Puts a new file in place when it is whole (base/files.h), written stretch by stretch.
/// mm; STL and 3MF are written +Z up, all others +Y up. Errors: Unsupported, Unwritable, Cancelled.
/// OBJ and GLB keep objects and their names apart and have texture coordinates, GLB and PLY colours at points, GLB materials and
/// copies that share a mesh; in STL and PLY all is one mesh.
Status writeScene(const std::filesystem::path &path, const Scene &scene, const Progress &progress = {});
/// One mesh, which is not copied.
Status writeMesh(const std::filesystem::path &path, const mesh::PolyMesh &mesh);
/// The same to anywhere: name decides the format.
Status writeTo(const Sink &sink, const std::filesystem::path &name, const Scene &scene, const Progress &progress = {});

Result<RawMesh> readObj(std::span<const std::byte> file, const Progress &progress = {});
/// The same in stretches of whole lines of about that many bytes, side by side; the size changes nothing but the time.
Result<RawMesh> readObjInChunks(std::span<const std::byte> file, std::size_t chunkBytes, const Progress &progress = {});
Result<RawMesh> readStl(std::span<const std::byte> file, const Progress &progress = {});
Result<RawMesh> readPly(std::span<const std::byte> file, const Progress &progress = {});
Result<RawMesh> readOff(std::span<const std::byte> file, const Progress &progress = {});
Result<RawScene> readGltf(std::span<const std::byte> file, const std::filesystem::path &path, const Progress &progress = {});
void writeObj(const Scene &scene, ByteStream &out);
void writeStl(const Scene &scene, ByteStream &out);
void writePly(const Scene &scene, ByteStream &out);
void writeGlb(const Scene &scene, ByteStream &out);
void write3mf(const Scene &scene, ByteStream &out);

/// Turns raw faces into clean shapes; see readScene.
Result<ImportedScene> repair(RawScene raw, const Progress &progress = {});

/// For loops of readers over n things: looks now and then whether anybody still wants them. Throws a Failure.
inline void stopIfCancelled(const Progress &progress, std::size_t n)
{
    if ((n & 0xffff) == 0 && progress.isCancelled())
        throw Failure{{ErrorCode::Cancelled, "", "stopped on request"}};
}

inline Error malformed(std::string why)
{
    return {ErrorCode::Malformed, "", std::move(why)};
}

} // namespace bonemoss::io
