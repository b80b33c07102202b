#include "io/mesh_file.h"

#include "base/parallel.h"

#include <algorithm>
#include <utility>

namespace bonemoss::io {

const std::vector<MeshFormat> &meshFormats()
{
    using Bytes = std::span<const std::byte>;
    static const auto plain = [](Result<RawMesh> (*read)(Bytes, const Progress &)) {
        return [read](Bytes f, const std::filesystem::path &, const Progress &progress) -> Result<RawScene> {
            auto raw = read(f, progress);
            if (!raw)
                return raw.error();
            return sceneOf(std::move(*raw));
        };
    };
    static const std::vector<MeshFormat> formats{
        {".obj", "OBJ", plain(readObj), writeObj}, {".stl", "STL", plain(readStl), writeStl},
        {".ply", "PLY", plain(readPly), writePly}, {".glb", "glTF binary", readGltf, writeGlb},
        {".gltf", "glTF", readGltf, nullptr},      {".off", "OFF", plain(readOff), nullptr},
        {".3mf", "3MF", nullptr, write3mf},
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

RawScene sceneOf(RawMesh raw)
{
    RawScene scene;
    scene.remarks = std::exchange(raw.remarks, {});
    scene.objects.push_back({raw.name, 0, 0});
    scene.materials.push_back({"clay"});
    scene.shapes.push_back(std::move(raw));
    return scene;
}

Result<ImportedScene> readScene(const std::filesystem::path &path, const Progress &progress)
{
    const MeshFormat *format = formatFor(path);
    std::error_code ec;
    if (!format && !std::filesystem::exists(path, ec))
        return Error{ErrorCode::Unreadable, shownPath(path), "there is no such file"};
    if (!format)
        return Error{ErrorCode::Unsupported, shownPath(path),
                     "not a mesh format that is read here (" + namesOf([](const MeshFormat &f) { return bool(f.read); }) + ")"};
    progress.say(0, "reading");
    const auto named = [&](const Error &e) { return Error{e.code, shownPath(path), e.detail}; };
    try {
        const auto bytes = need(readFile(path));
        if (bytes.empty())
            return Error{ErrorCode::Malformed, shownPath(path), "the file is empty"};
        auto raw = format->read(bytes, path, progress);
        if (!raw)
            return named(raw.error());
        progress.say(0.5f, "repairing");
        auto scene = repair(std::move(*raw), progress);
        if (!scene)
            return named(scene.error());
        return scene;
    } catch (...) {
        return errorInFlight(shownPath(path));
    }
}

Result<ImportedMesh> readMesh(const std::filesystem::path &path, const Progress &progress)
{
    auto read = readScene(path, progress);
    if (!read)
        return read.error();
    Scene &scene = read->scene;
    constexpr std::size_t kMostCorners = 1'000'000'000; // copies of copies of a small file could be more than any machine holds
    std::size_t corners = 0;
    for (const Object &o : scene.objects)
        corners += scene.shapeOf(o).cornerCount() * o.places.size();
    if (corners > kMostCorners)
        return Error{ErrorCode::TooLarge, shownPath(path), "its parts repeat to more than a thousand million corners"};
    std::vector<std::string> leftOut;
    for (const Shape &s : scene.shapes)
        for (const Attribute &a : s.attributes)
            if (std::find(leftOut.begin(), leftOut.end(), a.name) == leftOut.end())
                leftOut.push_back(a.name);
    return ImportedMesh{joined(std::move(scene)), std::move(read->repairs), std::move(leftOut)};
}

Status writeMesh(const std::filesystem::path &path, const mesh::PolyMesh &mesh)
{
    Scene scene; // of a mesh that is somebody else's
    scene.add(Shape("skin", std::shared_ptr<const mesh::PolyMesh>(std::shared_ptr<void>(), &mesh)));
    return writeScene(path, scene);
}

namespace {

void writeAll(const MeshFormat &format, const Sink &sink, const Scene &scene, const Progress &progress)
{
    ByteStream out(sink, progress);
    double work = 0;
    for (const Object &o : scene.objects)
        work += double(scene.shapeOf(o).pointCount() + scene.shapeOf(o).faceCount()) * double(o.places.size());
    out.expect(work);
    format.write(scene, out);
    out.flush();
}

/// The row to write with, or the error.
Result<const MeshFormat *> writerFor(const std::filesystem::path &path)
{
    const MeshFormat *format = formatFor(path);
    if (!format || !format->write)
        return Error{ErrorCode::Unsupported, shownPath(path),
                     "not a mesh format that is written here (" + namesOf([](const MeshFormat &f) { return bool(f.write); })
                         + ")"};
    return format;
}

} // namespace

Status writeTo(const Sink &sink, const std::filesystem::path &name, const Scene &scene, const Progress &progress)
{
    try {
        writeAll(*need(writerFor(name)), sink, scene, progress);
        return Done{};
    } catch (...) {
        return errorInFlight(shownPath(name));
    }
}

Status writeScene(const std::filesystem::path &path, const Scene &scene, const Progress &progress)
{
    try {
        const MeshFormat *format = need(writerFor(path));
        NewFile file = need(NewFile::beside(path));
        writeAll(
            *format, [&](std::string_view bytes) { return file.append(bytes); }, scene, progress);
        return file.commit();
    } catch (...) {
        return errorInFlight(shownPath(path));
    }
}

} // namespace bonemoss::io
