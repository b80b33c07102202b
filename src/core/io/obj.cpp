#include "io/mesh_file.h"
#include "io/text_scan.h"

#include "base/parallel.h"

#include <algorithm>
#include <fmt/format.h>
#include <iterator>
#include <map>

namespace bonemoss::io {

namespace {

Error bad(std::size_t line, const char *why)
{
    return {ErrorCode::Malformed, "", fmt::format("line {}: {}", line, why)};
}

/// One "v", "v/t" or "v/t/n" corner: the numbers of point and texture coordinates, 0 for none of these. What is counted from the
/// end is below 0.
bool readCorner(TextScan &in, std::int64_t &index, std::int64_t &texture)
{
    if (!in.number(index) || index == 0)
        return false;
    texture = 0;
    std::int64_t normal = 0;
    if (in.take('/') && (in.number(texture), in.take('/')))
        in.number(normal);
    return true;
}

/// What a stretch of whole lines holds.
struct Chunk {
    std::vector<Vec3f> positions;
    std::vector<std::int64_t> corners;   ///< from 1 in the file; those in `back` from 0 at the chunk's first point
    std::vector<std::uint32_t> faceEnds; ///< in corners
    std::vector<std::uint32_t> back;     ///< corners that were counted from the end
    std::vector<std::array<float, 2>> texture;
    std::vector<std::int64_t> textureCorners; ///< the same for texture coordinates, 0 for none; empty while no corner had some
    std::vector<std::uint32_t> textureBack;
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
        } else if (word == "vt") {
            std::array<float, 2> t{};
            in.skipBlanks();
            in.number(t[0]), in.skipBlanks(), in.number(t[1]); // what is not there is 0
            out.texture.push_back(t);
        } else if (word == "f") {
            while (out.lines += in.skipBlanksAndJoins(), !in.atLineEnd()) {
                std::int64_t index = 0, texture = 0;
                if (!readCorner(in, index, texture)) {
                    out.trouble = "a face refers to a point that is not there";
                    return;
                }
                if (index < 0) {
                    out.back.push_back(std::uint32_t(out.corners.size()));
                    index += std::int64_t(out.positions.size());
                }
                if (texture != 0 && out.textureCorners.empty())
                    out.textureCorners.resize(out.corners.size(), 0);
                if (texture < 0) {
                    out.textureBack.push_back(std::uint32_t(out.corners.size()));
                    texture += std::int64_t(out.texture.size());
                }
                if (texture != 0 || !out.textureCorners.empty() || !out.textureBack.empty())
                    out.textureCorners.push_back(texture);
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

namespace {

/// Texture coordinates of all corners, where there are some; those of numbers that are not there are 0.
void gatherTexture(const std::vector<Chunk> &chunks, RawMesh &raw)
{
    if (std::all_of(chunks.begin(), chunks.end(), [](const Chunk &c) { return c.textureCorners.empty(); }))
        return;
    std::vector<std::array<float, 2>> all;
    for (const Chunk &c : chunks)
        all.insert(all.end(), c.texture.begin(), c.texture.end());
    Attribute texture{std::string(kTexture), mesh::Domain::Corner, 2, {}};
    texture.values.reserve(raw.corners.size() * 2);
    std::size_t missing = 0, first = 0;
    for (const Chunk &c : chunks) {
        std::vector<std::int64_t> numbers = c.textureCorners;
        numbers.resize(c.corners.size(), 0);
        for (const std::uint32_t k : c.textureBack)
            numbers[k] += std::int64_t(first) + 1;
        for (const std::int64_t n : numbers) {
            const bool isThere = n >= 1 && n <= std::int64_t(all.size());
            missing += n != 0 && !isThere;
            const auto uv = isThere ? all[std::size_t(n - 1)] : std::array<float, 2>{};
            texture.values.insert(texture.values.end(), uv.begin(), uv.end());
        }
        first += c.texture.size();
    }
    if (missing > 0)
        raw.remarks.push_back({"corners refer to texture coordinates that are not there", missing});
    raw.attributes.push_back(std::move(texture));
}

} // namespace

Result<RawMesh> readObj(std::span<const std::byte> file, const Progress &progress)
{
    return readObjInChunks(file, 1 << 20, progress);
}

Result<RawMesh> readObjInChunks(std::span<const std::byte> file, std::size_t chunkBytes, const Progress &progress)
{
    const std::vector<std::size_t> ends = chunkEnds(file, chunkBytes);
    std::vector<Chunk> chunks(ends.size());
    const bool isWhole = forEachBlock(chunks.size(), 1, progress.stop, [&](BlockRange r) {
        const std::size_t begin = r.begin ? ends[r.begin - 1] : 0;
        readChunk(file.subspan(begin, ends[r.begin] - begin), chunks[r.begin]);
    });
    if (!isWhole)
        return Error{ErrorCode::Cancelled, "", "stopped on request"};
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
    gatherTexture(chunks, raw);
    return raw;
}

namespace {

/// Texture coordinates of a shape as lines and the line that each corner has: equal ones are written once.
std::vector<std::uint32_t> writeTexture(const Attribute &a, ByteStream &out)
{
    std::map<std::array<float, 2>, std::uint32_t> known;
    std::vector<std::uint32_t> lineOf;
    lineOf.reserve(a.values.size() / a.width);
    for (std::size_t k = 0; k + a.width <= a.values.size(); k += a.width) {
        const std::array<float, 2> uv{a.values[k], a.values[k + 1]};
        const auto [found, isNew] = known.try_emplace(uv, std::uint32_t(known.size()));
        if (isNew)
            out.put(fmt::format("vt {:.7g} {:.7g}\n", uv[0], uv[1]));
        lineOf.push_back(found->second);
    }
    return lineOf;
}

} // namespace

void writeObj(const Scene &scene, ByteStream &out)
{
    out.put("# Bone Moss, millimetres, +Y up\n");
    std::size_t first = 1, firstTexture = 1;
    std::string line;
    for (const Object &o : scene.objects) {
        std::string name = o.name; // what ends a line or a name would begin something else
        std::replace_if(
            name.begin(), name.end(), [](unsigned char c) { return c <= ' ' || c == 0x7f; }, '_');
        out.put(fmt::format("o {}\n", name));
        const Shape &shape = scene.shapeOf(o);
        const Attribute *texture = shape.attribute(kTexture);
        if (texture && texture->width < 2)
            texture = nullptr;
        const auto lineOf = texture ? writeTexture(*texture, out) : std::vector<std::uint32_t>();
        for (const Placement &place : o.places) {
            const bool isAsItIs = place == Placement(), isTurned = place.isMirroring();
            shape.eachPoint([&](Vec3f p) {
                p = isAsItIs ? p : place.apply(p);
                line.clear();
                fmt::format_to(std::back_inserter(line), "v {:.7g} {:.7g} {:.7g}\n", p.x, p.y, p.z);
                out.put(line), out.advance(1);
            });
            std::size_t corner = 0;
            shape.eachFace([&](const mesh::Face &f) {
                line = "f";
                for (int c = 0; c < f.size(); ++c) {
                    const auto k = std::size_t(isTurned ? (f.size() - c) % f.size() : c);
                    fmt::format_to(std::back_inserter(line), " {}", f.v[k] + first);
                    if (texture) {
                        const std::size_t at = texture->domain == mesh::Domain::Vertex ? f.v[k] : corner + k;
                        fmt::format_to(std::back_inserter(line), "/{}", lineOf[at] + firstTexture);
                    }
                }
                corner += std::size_t(f.size());
                line += '\n';
                out.put(line), out.advance(1);
            });
            first += shape.pointCount();
        }
        firstTexture += lineOf.empty() ? 0 : *std::max_element(lineOf.begin(), lineOf.end()) + 1;
    }
}

Result<RawMesh> readOff(std::span<const std::byte> file, const Progress &progress)
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
        stopIfCancelled(progress, i);
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
        stopIfCancelled(progress, i);
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
