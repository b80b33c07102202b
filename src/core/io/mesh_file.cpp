#include "io/mesh_file.h"

#include "base/parallel.h"

#include <algorithm>

namespace bonemoss::io {

const std::vector<MeshFormat> &meshFormats()
{
    static const auto plain = [](auto read) {
        return [read](std::span<const std::byte> f, const std::filesystem::path &) { return read(f); };
    };
    static const std::vector<MeshFormat> formats{
        {".obj", "OBJ", plain(readObj), writeObj}, {".stl", "STL", plain(readStl), writeStl},
        {".ply", "PLY", plain(readPly), writePly}, {".glb", "glTF binary", readGltf, writeGlb},
        {".gltf", "glTF", readGltf, nullptr},      {".off", "OFF", plain(readOff), nullptr},
    };
    return formats;
}

const MeshFormat *formatFor(const std::filesystem::path &path)
{
    std::string ext = path.extension().string();
    std::transform(ext.begin(), ext.end(), ext.begin(), [](unsigned char c) { return char(std::tolower(c)); });
    for (const MeshFormat &f : meshFormats())
        if (ext == f.extension)
            return &f;
    return nullptr;
}

namespace {

/// ".obj, .stl"
template <typename Is> std::string namesOf(const Is &is)
{
    std::string out;
    for (const MeshFormat &f : meshFormats())
        if (is(f))
            out += (out.empty() ? "" : ", ") + std::string(f.extension);
    return out;
}

} // namespace

Result<ImportedMesh> readMesh(const std::filesystem::path &path, const Progress &progress)
{
    const MeshFormat *format = formatFor(path);
    std::error_code ec;
    if (!format && !std::filesystem::exists(path, ec))
        return Error{ErrorCode::Unreadable, shownPath(path), "there is no such file"};
    if (!format)
        return Error{ErrorCode::Unsupported, shownPath(path),
                     "not a mesh format that is read here (" + namesOf([](const MeshFormat &f) { return bool(f.read); }) + ")"};
    progress.say(0, "reading");
    const auto bytes = readFile(path);
    if (!bytes)
        return bytes.error();
    if (bytes->empty())
        return Error{ErrorCode::Malformed, shownPath(path), "the file is empty"};
    auto raw = format->read(*bytes, path);
    if (!raw)
        return Error{raw.error().code, shownPath(path), raw.error().detail};
    progress.say(0.6f, "repairing");
    auto mesh = repair(std::move(*raw));
    if (!mesh)
        return Error{mesh.error().code, shownPath(path), mesh.error().detail};
    return mesh;
}

mesh::PolyMesh joined(MeshParts parts)
{
    mesh::PolyMesh all;
    for (const MeshPart &p : parts)
        mesh::append(all, *p.mesh);
    return all;
}

Status writeMesh(const std::filesystem::path &path, const mesh::PolyMesh &mesh)
{
    const MeshPart all{"skin", &mesh};
    return writeMesh(path, {&all, 1});
}

Status writeMesh(const std::filesystem::path &path, MeshParts parts)
{
    const MeshFormat *format = formatFor(path);
    if (!format || !format->write)
        return Error{ErrorCode::Unsupported, shownPath(path),
                     "not a mesh format that is written here (" + namesOf([](const MeshFormat &f) { return bool(f.write); })
                         + ")"};
    return writeFile(path, format->write(parts));
}

} // namespace bonemoss::io
