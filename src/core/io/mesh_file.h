#pragma once

#include "base/files.h"
#include "base/progress.h"
#include "base/result.h"
#include "mesh/poly_mesh.h"

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
};

/// Faces of any corner count as files give them, before repair.
struct RawMesh {
    std::vector<Vec3f> positions;
    std::vector<std::uint32_t> corners;
    std::vector<std::uint32_t> faceEnds; ///< end of each face in corners
    bool mergeEqualPoints = false;       ///< the format has no shared vertices
    std::vector<Repair> remarks;         ///< what was odd about the file, and how it was taken
    bool zUp = false;                    ///< turn +Z up into +Y up
};

/// One of the meshes of a file. Borrows it.
struct MeshPart {
    std::string name;
    const mesh::PolyMesh *mesh = nullptr;
    std::optional<Vec3f> colour = {}; ///< linear light; clay when there is none
};
using MeshParts = std::span<const MeshPart>;

/// A file format as one row: add one here to read or write another.
struct MeshFormat {
    const char *extension; ///< with dot, lower case
    const char *name;
    std::function<Result<RawMesh>(std::span<const std::byte>, const std::filesystem::path &)> read;
    std::function<std::string(MeshParts)> write; ///< the file's bytes
};
const std::vector<MeshFormat> &meshFormats();
/// The row for a path's extension, or null.
const MeshFormat *formatFor(const std::filesystem::path &path);

/// Reads and repairs: polygons are fanned, equal points of formats without sharing merged, faces with
/// repeated corners and unused points dropped. Nothing else is reduced. Errors: Unreadable, Malformed
/// (truncated, wrong counts, index out of range, not finite), Unsupported, Empty.
Result<ImportedMesh> readMesh(const std::filesystem::path &path, const Progress &progress = {});

/// Puts a new file in place when it is whole (base/files.h).
/// mm; STL is written +Z up, all others +Y up. Errors: Unsupported, Unwritable.
/// OBJ and GLB keep parts and their names apart; in STL and PLY they are one mesh.
Status writeMesh(const std::filesystem::path &path, MeshParts parts);
Status writeMesh(const std::filesystem::path &path, const mesh::PolyMesh &mesh);

Result<RawMesh> readObj(std::span<const std::byte> file);
/// The same in stretches of whole lines of about that many bytes, side by side; the size changes nothing but the time.
Result<RawMesh> readObjInChunks(std::span<const std::byte> file, std::size_t chunkBytes);
Result<RawMesh> readStl(std::span<const std::byte> file);
Result<RawMesh> readPly(std::span<const std::byte> file);
Result<RawMesh> readOff(std::span<const std::byte> file);
Result<RawMesh> readGltf(std::span<const std::byte> file, const std::filesystem::path &path);
std::string writeObj(MeshParts parts);
std::string writeStl(MeshParts parts);
std::string writePly(MeshParts parts);
std::string writeGlb(MeshParts parts);
/// All parts as one mesh.
mesh::PolyMesh joined(MeshParts parts);

/// Turns raw faces into a clean mesh; see readMesh.
Result<ImportedMesh> repair(RawMesh raw);

inline Error malformed(std::string why)
{
    return {ErrorCode::Malformed, "", std::move(why)};
}

} // namespace bonemoss::io
