#include "io/mesh_file.h"
#include "io/text_scan.h"

#include <algorithm>
#include <cstring>
#include <fmt/format.h>
#include <limits>

namespace bonemoss::io {

namespace {

constexpr std::size_t kHeader = 84, kRecord = 50; // 80 + count; normal, 3 corners, 2 spare

/// Facets of three corners, or of more: the loop tells where one ends.
Result<RawMesh> readText(std::span<const std::byte> file, const Progress &progress)
{
    RawMesh raw;
    raw.mergeEqualPoints = raw.zUp = true;
    TextScan in(file);
    std::size_t begin = 0; // of the facet's corners
    const auto endFacet = [&] {
        if (raw.corners.size() > begin)
            raw.faceEnds.push_back(std::uint32_t(raw.corners.size()));
        begin = raw.corners.size();
    };
    bool isOpen = false;
    while (!in.atEnd()) {
        in.skipSpace();
        const std::string_view word = in.word();
        if (word == "facet" || word == "outer")
            endFacet(), isOpen = true;
        else if (word == "endloop" || word == "endfacet")
            endFacet(), isOpen = false;
        if (word != "vertex")
            continue;
        stopIfCancelled(progress, raw.positions.size());
        if (!isOpen && raw.corners.size() - begin == 3) // without loops: three by three
            endFacet();
        Vec3f p;
        for (float *x : {&p.x, &p.y, &p.z}) {
            in.skipBlanks();
            if (!in.number(*x))
                return Error{ErrorCode::Malformed, "", "a vertex needs three numbers"};
        }
        raw.corners.push_back(std::uint32_t(raw.positions.size()));
        raw.positions.push_back(p);
    }
    const bool isCut = (isOpen && raw.corners.size() > begin) || raw.corners.size() - begin > 3;
    if (raw.positions.empty() || isCut)
        return Error{ErrorCode::Malformed, "", "it ends in the middle of a triangle or holds none"};
    endFacet();
    for (std::size_t f = 0; f < raw.faceEnds.size(); ++f)
        if (raw.faceEnds[f] - (f ? raw.faceEnds[f - 1] : 0) < 3)
            return Error{ErrorCode::Malformed, "", "a facet has fewer than three corners"};
    return raw;
}

/// Whether a file that begins with "solid" is text: many programs begin their binary files with that word too. Text has the
/// word "facet" or "endsolid" soon, and no zero bytes.
bool isText(std::span<const std::byte> file)
{
    constexpr std::size_t kLook = 1024;
    if (file.size() < 5 || std::memcmp(file.data(), "solid", 5) != 0)
        return false;
    const std::string_view start(reinterpret_cast<const char *>(file.data()), std::min(file.size(), kLook));
    return start.find('\0') == std::string_view::npos
           && (start.find("facet") != std::string_view::npos || start.find("endsolid") != std::string_view::npos
               || start.find("vertex") != std::string_view::npos);
}

} // namespace

Result<RawMesh> readStl(std::span<const std::byte> file, const Progress &progress)
{
    if (isText(file))
        return readText(file, progress);
    if (file.size() < kHeader)
        return Error{ErrorCode::Malformed, "", "shorter than the 84-byte header of an STL file"};
    std::uint32_t promised = 0; // little-endian, as is every machine we build for
    std::memcpy(&promised, file.data() + 80, sizeof promised);
    const std::size_t there = std::min<std::size_t>((file.size() - kHeader) / kRecord, 0x55555554);
    RawMesh raw;
    raw.mergeEqualPoints = raw.zUp = true;
    // A counter that says more than there is, or nothing, is wrong; what is there is read. Bytes after what it says are none of it.
    const std::size_t count = promised == 0 || promised > there ? there : promised;
    if (count != promised)
        raw.remarks.push_back(
            {fmt::format("the file says that it has {} triangles; it was read with as many as are there", promised), count});
    else if (file.size() > kHeader + count * kRecord)
        raw.remarks.push_back({"bytes after the last triangle were left out", file.size() - kHeader - count * kRecord});
    // Nothing but zeros behind a counter of millions is no mesh.
    const auto bytes = file.subspan(kHeader, count * kRecord);
    if (count == 0
        || (count < promised && std::all_of(bytes.begin(), bytes.end(), [](std::byte b) { return b == std::byte(0); })))
        return Error{ErrorCode::Malformed, "", "fewer triangles than the header says"};
    raw.positions.resize(count * 3);
    raw.corners.resize(raw.positions.size());
    raw.faceEnds.resize(count);
    for (std::size_t t = 0; t < count; ++t) {
        stopIfCancelled(progress, t);
        std::memcpy(&raw.positions[t * 3], file.data() + kHeader + t * kRecord + 12, 36);
        for (std::size_t c = 0; c < 3; ++c)
            raw.corners[t * 3 + c] = std::uint32_t(t * 3 + c);
        raw.faceEnds[t] = std::uint32_t(t * 3 + 3);
    }
    return raw;
}

void writeStl(const Scene &scene, ByteStream &out)
{
    std::size_t count = 0;
    for (const Object &o : scene.objects)
        count += scene.shapeOf(o).triangleCount() * o.places.size();
    if (count > std::numeric_limits<std::uint32_t>::max())
        throw Failure{{ErrorCode::TooLarge, "", "an STL file holds at most four thousand million triangles"}};
    std::string header = "Bone Moss, millimetres, +Z up";
    header.resize(kHeader - 4);
    out.put(header);
    out.putRaw(std::uint32_t(count));
    for (const Object &o : scene.objects)
        for (const Placement &place : o.places) {
            const bool isTurned = place.isMirroring();
            scene.shapeOf(o).eachTriangle([&](const std::array<Vec3f, 3> &corners, const auto &) {
                Vec3f p[4]; // normal and corners
                for (std::size_t c = 0; c < 3; ++c) {
                    const Vec3f v = place.apply(corners[isTurned ? 2 - c : c]);
                    p[c + 1] = {v.x, -v.z, v.y}; // +Y up to +Z up
                }
                p[0] = normalized(cross(p[2] - p[1], p[3] - p[1]));
                out.put({reinterpret_cast<const char *>(p), sizeof p});
                out.put({"\0\0", 2});
                out.advance(0.75);
            });
        }
}

} // namespace bonemoss::io
