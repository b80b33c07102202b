#include "io/mesh_file.h"
#include "io/text_scan.h"

#include <cstring>

namespace bonemoss::io {

namespace {

constexpr std::size_t kHeader = 84, kRecord = 50; // 80 + count; normal, 3 corners, 2 spare

Result<RawMesh> readText(std::span<const std::byte> file)
{
    RawMesh raw;
    raw.mergeEqualPoints = raw.zUp = true;
    TextScan in(file);
    while (!in.atEnd()) {
        in.skipSpace();
        if (in.word() != "vertex")
            continue;
        Vec3f p;
        for (float *x : {&p.x, &p.y, &p.z}) {
            in.skipBlanks();
            if (!in.number(*x))
                return Error{ErrorCode::Malformed, "", "a vertex needs three numbers"};
        }
        raw.corners.push_back(std::uint32_t(raw.positions.size()));
        raw.positions.push_back(p);
        if (raw.positions.size() % 3 == 0)
            raw.faceEnds.push_back(std::uint32_t(raw.corners.size()));
    }
    if (raw.positions.empty() || raw.positions.size() % 3 != 0)
        return Error{ErrorCode::Malformed, "", "it ends in the middle of a triangle or holds none"};
    return raw;
}

} // namespace

Result<RawMesh> readStl(std::span<const std::byte> file)
{
    std::uint32_t count = 0; // little-endian, as is every machine we build for
    if (file.size() >= kHeader)
        std::memcpy(&count, file.data() + 80, sizeof count);
    const bool fits = file.size() >= kHeader && (file.size() - kHeader) / kRecord >= count;
    const bool exact = file.size() >= kHeader && file.size() == kHeader + std::size_t(count) * kRecord;
    if (!exact && file.size() >= 5 && std::memcmp(file.data(), "solid", 5) == 0)
        return readText(file);
    if (file.size() < kHeader)
        return Error{ErrorCode::Malformed, "", "shorter than the 84-byte header of an STL file"};
    if (!fits)
        return Error{ErrorCode::Malformed, "", "fewer triangles than the header says"};
    RawMesh raw;
    raw.mergeEqualPoints = raw.zUp = true;
    raw.positions.resize(std::size_t(count) * 3);
    raw.corners.resize(raw.positions.size());
    raw.faceEnds.resize(count);
    for (std::uint32_t t = 0; t < count; ++t) {
        std::memcpy(&raw.positions[std::size_t(t) * 3], file.data() + kHeader + std::size_t(t) * kRecord + 12, 36);
        for (std::uint32_t c = 0; c < 3; ++c)
            raw.corners[std::size_t(t) * 3 + c] = t * 3 + c;
        raw.faceEnds[t] = t * 3 + 3;
    }
    return raw;
}

std::string writeStl(const mesh::PolyMesh &mesh)
{
    const auto triangles = mesh::triangulate(mesh);
    std::string out(kHeader + triangles.size() * kRecord, '\0');
    std::memcpy(out.data(), "Bone Moss, millimetres, +Z up", 29);
    const auto count = std::uint32_t(triangles.size());
    std::memcpy(out.data() + 80, &count, 4);
    for (std::size_t t = 0; t < triangles.size(); ++t) {
        Vec3f p[4]; // normal and corners
        for (std::size_t c = 0; c < 3; ++c) {
            const Vec3f v = mesh.positions[triangles[t][c]];
            p[c + 1] = {v.x, -v.z, v.y}; // +Y up to +Z up
        }
        p[0] = normalized(cross(p[2] - p[1], p[3] - p[1]));
        std::memcpy(out.data() + kHeader + t * kRecord, p, 48);
    }
    return out;
}

} // namespace bonemoss::io
