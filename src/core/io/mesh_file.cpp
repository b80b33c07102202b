#include "io/mesh_file.h"

#include "base/parallel.h"

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

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

Result<std::vector<std::byte>> readFile(const std::filesystem::path &path)
{
    const auto fail = [&](const char *why) { return Error{ErrorCode::Unreadable, path.string(), why}; };
    const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (fd < 0)
        return fail(std::strerror(errno));
    struct stat info = {};
    if (::fstat(fd, &info) != 0 || !S_ISREG(info.st_mode)) {
        ::close(fd);
        return fail(S_ISDIR(info.st_mode) ? "is a folder, not a file" : "is not a regular file");
    }
    std::vector<std::byte> bytes(std::size_t(info.st_size));
    std::size_t done = 0;
    while (done < bytes.size()) {
        const ssize_t n = ::read(fd, bytes.data() + done, bytes.size() - done);
        if (n <= 0)
            break;
        done += std::size_t(n);
    }
    ::close(fd);
    if (done != bytes.size())
        return fail("could not be read to its end");
    return bytes;
}

Status writeFile(const std::filesystem::path &path, std::string_view bytes)
{
    const std::filesystem::path part = path.string() + fmt::format(".part{}", ::getpid());
    const auto fail = [&]() -> Status {
        const std::string why = std::strerror(errno);
        std::error_code ignored;
        std::filesystem::remove(part, ignored);
        return Error{ErrorCode::Unwritable, path.string(), why};
    };
    std::FILE *f = std::fopen(part.c_str(), "wb");
    if (!f)
        return fail();
    const bool written =
        std::fwrite(bytes.data(), 1, bytes.size(), f) == bytes.size() && std::fflush(f) == 0 && ::fsync(fileno(f)) == 0;
    const int kept = errno;
    std::fclose(f);
    errno = kept;
    if (!written || std::rename(part.c_str(), path.c_str()) != 0)
        return fail();
    return Done{};
}

Result<ImportedMesh> readMesh(const std::filesystem::path &path, const Progress &progress)
{
    const MeshFormat *format = formatFor(path);
    std::error_code ec;
    if (!format && !std::filesystem::exists(path, ec))
        return Error{ErrorCode::Unreadable, path.string(), "there is no such file"};
    if (!format)
        return Error{ErrorCode::Unsupported, path.string(),
                     "not a mesh format that is read here "
                     "(OBJ, STL, PLY, glTF, GLB, OFF)"};
    progress.say(0, "reading");
    const auto bytes = readFile(path);
    if (!bytes)
        return bytes.error();
    if (bytes->empty())
        return Error{ErrorCode::Malformed, path.string(), "the file is empty"};
    auto raw = format->read(*bytes, path);
    if (!raw)
        return Error{raw.error().code, path.string(), raw.error().detail};
    progress.say(0.6f, "repairing");
    auto mesh = repair(std::move(*raw));
    if (!mesh)
        return Error{mesh.error().code, path.string(), mesh.error().detail};
    return mesh;
}

Status writeMesh(const std::filesystem::path &path, const mesh::PolyMesh &mesh)
{
    const MeshFormat *format = formatFor(path);
    if (!format || !format->write)
        return Error{ErrorCode::Unsupported, path.string(),
                     "not a mesh format that is written here "
                     "(OBJ, STL, PLY, GLB)"};
    return writeFile(path, format->write(mesh));
}

} // namespace bonemoss::io
