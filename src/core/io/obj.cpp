#include "io/mesh_file.h"
#include "io/text_scan.h"

#include "base/parallel.h"

#include <algorithm>
#include <fmt/format.h>
#include <iterator>

namespace bonemoss::io {

namespace {

Error bad(std::size_t line, const char *why)
{
    return {ErrorCode::Malformed, "", fmt::format("line {}: {}", line, why)};
}

/// One "v", "v/t" or "v/t/n" corner: the number before any slash. A corner counted from the end is kept below 0.
bool readCorner(TextScan &in, std::int64_t &index)
{
    if (!in.number(index) || index == 0)
        return false;
    std::int64_t ignored = 0;
    for (int k = 0; k < 2 && in.take('/'); ++k)
        in.number(ignored);
    return true;
}

/// What a stretch of whole lines holds.
struct Chunk {
    std::vector<Vec3f> positions;
    std::vector<std::int64_t> corners;   ///< from 1 in the file; those in `back` from 0 at the chunk's first point
    std::vector<std::uint32_t> faceEnds; ///< in corners
    std::vector<std::uint32_t> back;     ///< corners that were counted from the end
    std::size_t lines = 0;
    const char *trouble = nullptr; ///< in the line numbered `lines`
};

void readChunk(std::span<const std::byte> bytes, Chunk &out)
{
    TextScan in(bytes);
    for (out.lines = 1; !in.atEnd(); ++out.lines, in.skipLine()) {
        in.skipBlanks();
        const std::string_view word = in.word();
        if (word == "v") {
            Vec3f p;
            out.lines += in.skipBlanksAndJoins();
            bool ok = in.number(p.x);
            out.lines += in.skipBlanksAndJoins();
            ok = ok && in.number(p.y);
            out.lines += in.skipBlanksAndJoins();
            if (!ok || !in.number(p.z)) {
                out.trouble = "a point needs three numbers";
                return;
            }
            out.positions.push_back(p);
        } else if (word == "f") {
            while (out.lines += in.skipBlanksAndJoins(), !in.atLineEnd()) {
                std::int64_t index = 0;
                if (!readCorner(in, index)) {
                    out.trouble = "a face refers to a point that is not there";
                    return;
                }
                if (index < 0) {
                    out.back.push_back(std::uint32_t(out.corners.size()));
                    index += std::int64_t(out.positions.size());
                }
                out.corners.push_back(index);
            }
            out.faceEnds.push_back(std::uint32_t(out.corners.size()));
        }
    }
    --out.lines;
}

/// Ends of stretches of whole lines, with those that a backslash joins to them.
std::vector<std::size_t> chunkEnds(std::span<const std::byte> file, std::size_t chunkBytes)
{
    std::vector<std::size_t> ends;
    for (std::size_t at = 0; at < file.size();) {
        at = std::min(at + chunkBytes, file.size());
        const auto before = [&](std::size_t n) { return at >= n ? file[at - n] : std::byte(0); };
        const auto isJoined = [&] { return before(before(2) == std::byte('\r') ? 3 : 2) == std::byte('\\'); };
        while (at < file.size() && (before(1) != std::byte('\n') || isJoined()))
            ++at;
        ends.push_back(at);
    }
    return ends;
}

} // namespace

Result<RawMesh> readObj(std::span<const std::byte> file)
{
    return readObjInChunks(file, 1 << 20);
}

Result<RawMesh> readObjInChunks(std::span<const std::byte> file, std::size_t chunkBytes)
{
    const std::vector<std::size_t> ends = chunkEnds(file, chunkBytes);
    std::vector<Chunk> chunks(ends.size());
    forEachBlock(chunks.size(), 1, [&](BlockRange r) {
        const std::size_t begin = r.begin ? ends[r.begin - 1] : 0;
        readChunk(file.subspan(begin, ends[r.begin] - begin), chunks[r.begin]);
    });
    struct Start {
        std::size_t point = 0, corner = 0, face = 0, line = 0;
    };
    std::vector<Start> starts(chunks.size() + 1);
    for (std::size_t k = 0; k < chunks.size(); ++k) {
        const Chunk &c = chunks[k];
        if (c.trouble)
            return bad(starts[k].line + c.lines, c.trouble);
        starts[k + 1] = {starts[k].point + c.positions.size(), starts[k].corner + c.corners.size(),
                         starts[k].face + c.faceEnds.size(), starts[k].line + c.lines};
    }
    RawMesh raw;
    if (starts.back().point == 0)
        return Error{ErrorCode::Malformed, "", "no points were found; is it an OBJ file?"};
    if (starts.back().corner > 0xffffffffu)
        return Error{ErrorCode::TooLarge, "", "it has more than four thousand million corners"};
    raw.positions.resize(starts.back().point);
    raw.corners.resize(starts.back().corner);
    raw.faceEnds.resize(starts.back().face);
    std::vector<std::uint8_t> isWrong(chunks.size(), 0);
    forEachBlock(chunks.size(), 1, [&](BlockRange r) {
        Chunk &c = chunks[r.begin];
        const Start &at = starts[r.begin];
        std::copy(c.positions.begin(), c.positions.end(), raw.positions.begin() + std::ptrdiff_t(at.point));
        for (const std::uint32_t k : c.back)
            c.corners[k] += std::int64_t(at.point) + 1;
        for (std::size_t k = 0; k < c.corners.size(); ++k) {
            isWrong[r.begin] |= c.corners[k] < 1 || c.corners[k] > std::int64_t(raw.positions.size());
            raw.corners[at.corner + k] = std::uint32_t(c.corners[k] - 1);
        }
        for (std::size_t f = 0; f < c.faceEnds.size(); ++f)
            raw.faceEnds[at.face + f] = c.faceEnds[f] + std::uint32_t(at.corner);
    });
    if (std::find(isWrong.begin(), isWrong.end(), 1) != isWrong.end())
        return Error{ErrorCode::Malformed, "", "a face refers to a point that is not there"};
    return raw;
}

std::string writeObj(MeshParts parts)
{
    fmt::memory_buffer out;
    fmt::format_to(std::back_inserter(out), "# Bone Moss, millimetres, +Y up\n");
    std::size_t first = 1;
    for (const MeshPart &part : parts) {
        std::string name = part.name; // what ends a line or a name would begin something else
        std::replace_if(
            name.begin(), name.end(), [](unsigned char c) { return c <= ' ' || c == 0x7f; }, '_');
        fmt::format_to(std::back_inserter(out), "o {}\n", name);
        for (const Vec3f p : part.mesh->positions)
            fmt::format_to(std::back_inserter(out), "v {:.7g} {:.7g} {:.7g}\n", p.x, p.y, p.z);
        for (const mesh::Face &f : part.mesh->faces) {
            out.push_back('f');
            for (int c = 0; c < f.size(); ++c)
                fmt::format_to(std::back_inserter(out), " {}", f.v[std::size_t(c)] + first);
            out.push_back('\n');
        }
        first += part.mesh->positions.size();
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
