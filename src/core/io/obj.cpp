#include "io/mesh_file.h"
#include "io/text_scan.h"

#include <fmt/format.h>
#include <iterator>

namespace bonemoss::io {

namespace {

Error bad(std::size_t line, const char *why)
{
    return {ErrorCode::Malformed, "", fmt::format("line {}: {}", line, why)};
}

/// One "v", "v/t" or "v/t/n" corner; negative numbers count from the end.
bool readCorner(TextScan &in, std::size_t points, std::uint32_t &corner)
{
    std::int64_t index = 0;
    if (!in.number(index))
        return false;
    std::int64_t ignored = 0;
    for (int k = 0; k < 2 && in.take('/'); ++k)
        in.number(ignored);
    const std::int64_t at = index > 0 ? index - 1 : std::int64_t(points) + index;
    if (index == 0 || at < 0 || at >= std::int64_t(points))
        return false;
    corner = std::uint32_t(at);
    return true;
}

} // namespace

Result<RawMesh> readObj(std::span<const std::byte> file)
{
    RawMesh raw;
    TextScan in(file);
    for (std::size_t line = 1; !in.atEnd(); ++line, in.skipLine()) {
        in.skipBlanks();
        const std::string_view word = in.word();
        if (word == "v") {
            Vec3f p;
            in.skipBlanks();
            bool ok = in.number(p.x);
            in.skipBlanks();
            ok = ok && in.number(p.y);
            in.skipBlanks();
            if (!ok || !in.number(p.z))
                return bad(line, "a point needs three numbers");
            raw.positions.push_back(p);
        } else if (word == "f") {
            while (!in.atLineEnd()) {
                std::uint32_t corner = 0;
                if (!readCorner(in, raw.positions.size(), corner))
                    return bad(line, "a face refers to a point that is not there");
                raw.corners.push_back(corner);
            }
            raw.faceEnds.push_back(std::uint32_t(raw.corners.size()));
        }
    }
    if (raw.positions.empty())
        return Error{ErrorCode::Malformed, "", "no points were found; is it an OBJ file?"};
    return raw;
}

std::string writeObj(const mesh::PolyMesh &mesh)
{
    fmt::memory_buffer out;
    fmt::format_to(std::back_inserter(out), "# Bone Moss, millimetres, +Y up\n");
    for (const Vec3f p : mesh.positions)
        fmt::format_to(std::back_inserter(out), "v {:.7g} {:.7g} {:.7g}\n", p.x, p.y, p.z);
    for (const mesh::Face &f : mesh.faces) {
        out.push_back('f');
        for (int c = 0; c < f.size(); ++c)
            fmt::format_to(std::back_inserter(out), " {}", f.v[std::size_t(c)] + 1);
        out.push_back('\n');
    }
    return fmt::to_string(out);
}

Result<RawMesh> readOff(std::span<const std::byte> file)
{
    const auto malformed = [](const char *why) { return Error{ErrorCode::Malformed, "", why}; };
    RawMesh raw;
    TextScan in(file);
    const auto next = [&] {
        in.skipSpace();
        while (!in.atEnd() && *in.position() == '#')
            in.skipLine(), in.skipSpace();
    };
    next();
    const std::string_view kind = in.word(); // COFF, NOFF and the like put more behind each point
    if (!kind.ends_with("OFF") || kind.ends_with("4OFF") || kind.ends_with("nOFF"))
        return malformed("it does not begin with OFF");
    std::size_t counts[3] = {0, 0, 0};
    for (std::size_t &c : counts) {
        next();
        if (!in.number(c))
            return malformed("the counts are missing");
    }
    if (counts[0] > file.size() / 6 + 1 || counts[1] > file.size() / 8 + 1)
        return malformed("more points or faces are promised than the file can hold");
    for (std::size_t i = 0; i < counts[0]; ++i) {
        Vec3f p;
        for (float *x : {&p.x, &p.y, &p.z}) {
            next();
            if (!in.number(*x))
                return malformed("fewer points than promised");
        }
        raw.positions.push_back(p);
        in.skipLine();
    }
    for (std::size_t i = 0; i < counts[1]; ++i) {
        std::uint32_t n = 0;
        next();
        if (!in.number(n))
            return malformed("fewer faces than promised");
        for (std::uint32_t k = 0; k < n; ++k) {
            std::uint32_t c = 0;
            in.skipBlanks();
            if (!in.number(c))
                return malformed("a face has fewer corners than it says");
            raw.corners.push_back(c);
        }
        raw.faceEnds.push_back(std::uint32_t(raw.corners.size()));
        in.skipLine();
    }
    return raw;
}

} // namespace bonemoss::io
