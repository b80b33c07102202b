// The PLY format after G. Turk, "The PLY Polygon File Format", 1994.
#include "base/colour.h"
#include "base/parallel.h"
#include "io/mesh_file.h"
#include "io/text_scan.h"

#include <array>
#include <atomic>
#include <cstring>
#include <fmt/format.h>
#include <optional>

namespace bonemoss::io {

namespace {

enum class Kind { I8, U8, I16, U16, I32, U32, F32, F64, Bad };

constexpr std::size_t kSizes[] = {1, 1, 2, 2, 4, 4, 4, 8, 0};

Kind kindOf(std::string_view w)
{
    static constexpr std::pair<std::string_view, Kind> names[] = {
        {"char", Kind::I8},   {"int8", Kind::I8},     {"uchar", Kind::U8},   {"uint8", Kind::U8},
        {"short", Kind::I16}, {"int16", Kind::I16},   {"ushort", Kind::U16}, {"uint16", Kind::U16},
        {"int", Kind::I32},   {"int32", Kind::I32},   {"uint", Kind::U32},   {"uint32", Kind::U32},
        {"float", Kind::F32}, {"float32", Kind::F32}, {"double", Kind::F64}, {"float64", Kind::F64}};
    for (const auto &[name, kind] : names)
        if (w == name)
            return kind;
    return Kind::Bad;
}

struct Property {
    std::string name;
    Kind kind = Kind::Bad;
    Kind countKind = Kind::Bad; ///< of lists; Bad for single values
};
struct Element {
    std::string name;
    std::size_t count = 0;
    std::vector<Property> properties;
};
struct Header {
    enum { Text, Little, Big } format = Text;
    std::vector<Element> elements;
    std::size_t bytes = 0;
};

Result<Header> readHeader(std::span<const std::byte> file)
{
    Header h;
    bool knowsFormat = false;
    TextScan in(file);
    if (in.word() != "ply")
        return malformed("it does not begin with ply");
    in.skipLine();
    while (!in.atEnd()) {
        const std::string_view w = in.word();
        in.skipBlanks();
        if (w == "format") {
            const std::string_view f = in.word();
            if (f != "ascii" && f != "binary_little_endian" && f != "binary_big_endian")
                return Error{ErrorCode::Unsupported, "",
                             fmt::format("its format is \"{}\"; ascii, binary_little_endian and binary_big_endian are read",
                                         f.substr(0, 40))};
            h.format = f == "ascii" ? Header::Text : f == "binary_little_endian" ? Header::Little : Header::Big;
            knowsFormat = true;
        } else if (w == "element") {
            Element e;
            e.name = in.word();
            in.skipBlanks();
            if (!in.number(e.count))
                return malformed("an element has no count");
            h.elements.push_back(std::move(e));
        } else if (w == "property" && !h.elements.empty()) {
            Property p;
            std::string_view type = in.word();
            in.skipBlanks();
            if (type == "list") {
                p.countKind = kindOf(in.word());
                in.skipBlanks();
                type = in.word();
                in.skipBlanks();
                if (p.countKind == Kind::Bad)
                    return malformed("a list has no known count type");
            }
            p.kind = kindOf(type);
            p.name = in.word();
            if (p.kind == Kind::Bad)
                return malformed("a property has no known type");
            h.elements.back().properties.push_back(std::move(p));
        } else if (w == "end_header") {
            if (!knowsFormat)
                return malformed("the header does not say its format");
            in.skipLine();
            h.bytes = std::size_t(in.position() - reinterpret_cast<const char *>(file.data()));
            return h;
        }
        in.skipLine();
    }
    return malformed("the header has no end");
}

/// Values one after another, from text or bytes; ok() turns false past the end.
class Values
{
public:
    Values(std::span<const std::byte> data, int format) : m_text(data), m_data(data), m_format(format) {}
    bool ok() const { return m_ok; }
    std::size_t left() const { return m_data.size() - m_at; }
    const std::byte *at() const { return m_data.data() + m_at; }
    void advance(std::size_t n) { m_at += n; }

    double next(Kind k)
    {
        if (m_format == Header::Text) {
            double v = 0;
            m_text.skipSpace();
            m_ok = m_ok && m_text.number(v);
            return v;
        }
        std::array<std::byte, 8> b{};
        const std::size_t n = kSizes[std::size_t(k)];
        if (left() < n) {
            m_ok = false;
            return 0;
        }
        for (std::size_t i = 0; i < n; ++i)
            b[m_format == Header::Big ? n - 1 - i : i] = m_data[m_at + i];
        m_at += n;
        return value(b.data(), k);
    }
    static double value(const std::byte *b, Kind k)
    {
        const auto as = [&](auto v) {
            std::memcpy(&v, b, sizeof v);
            return double(v);
        };
        switch (k) {
        case Kind::I8: return as(std::int8_t{});
        case Kind::U8: return as(std::uint8_t{});
        case Kind::I16: return as(std::int16_t{});
        case Kind::U16: return as(std::uint16_t{});
        case Kind::I32: return as(std::int32_t{});
        case Kind::U32: return as(std::uint32_t{});
        case Kind::F32: return as(float{});
        default: return as(double{});
        }
    }

private:
    TextScan m_text;
    std::span<const std::byte> m_data;
    int m_format;
    std::size_t m_at = 0;
    bool m_ok = true;
};

/// A value of a colour as linear light: whole numbers are a share of the largest, in sRGB (common practice, no source).
float lightOf(double v, Kind k)
{
    switch (k) {
    case Kind::U8: return fromSrgb(float(v / 255));
    case Kind::U16: return fromSrgb(float(v / 65535));
    default: return float(v);
    }
}

/// Where red, green and blue stand among the properties; nothing when one is missing.
std::optional<std::array<std::size_t, 3>> colourSlots(const Element &e)
{
    std::array<std::size_t, 3> slots{};
    for (std::size_t k = 0; k < 3; ++k) {
        const auto found = std::find_if(e.properties.begin(), e.properties.end(), [&](const Property &p) {
            return p.countKind == Kind::Bad && p.name == std::array{"red", "green", "blue"}[k];
        });
        if (found == e.properties.end())
            return std::nullopt;
        slots[k] = std::size_t(found - e.properties.begin());
    }
    return slots;
}

Status readPoints(const Element &e, Values &in, bool little, RawMesh &raw, const Progress &progress)
{
    const auto colours = colourSlots(e);
    Attribute colour{std::string(kColour), mesh::Domain::Vertex, 3, {}};
    int slot[3] = {-1, -1, -1};
    bool flat = little;
    std::size_t stride = 0, offset[3] = {0, 0, 0};
    std::vector<std::size_t> offsets;
    for (std::size_t i = 0; i < e.properties.size(); ++i) {
        const Property &p = e.properties[i];
        if (p.name == "x" || p.name == "y" || p.name == "z")
            slot[p.name[0] - 'x'] = int(i), offset[p.name[0] - 'x'] = stride;
        flat = flat && p.countKind == Kind::Bad;
        offsets.push_back(stride);
        stride += kSizes[std::size_t(p.kind)];
    }
    if (slot[0] < 0 || slot[1] < 0 || slot[2] < 0)
        return malformed("points have no x, y and z");
    if (flat) { // fixed stride: one pass, one check
        if (stride == 0 || in.left() / stride < e.count)
            return malformed("fewer points than the header says");
        raw.positions.resize(e.count);
        const std::byte *row = in.at();
        if (colours)
            colour.values.reserve(e.count * 3);
        for (std::size_t i = 0; i < e.count; ++i, row += stride) {
            stopIfCancelled(progress, i);
            if (colours)
                for (const std::size_t k : *colours)
                    colour.values.push_back(lightOf(Values::value(row + offsets[k], e.properties[k].kind), e.properties[k].kind));
            for (int k = 0; k < 3; ++k) {
                const float v = float(Values::value(row + offset[k], e.properties[std::size_t(slot[k])].kind));
                (k == 0 ? raw.positions[i].x : k == 1 ? raw.positions[i].y : raw.positions[i].z) = v;
            }
        }
        in.advance(e.count * stride);
        if (colours)
            raw.attributes.push_back(std::move(colour));
        return Done{};
    }
    for (std::size_t i = 0; i < e.count && in.ok(); ++i) {
        stopIfCancelled(progress, i);
        Vec3f p;
        std::array<float, 3> light{};
        for (std::size_t k = 0; k < e.properties.size(); ++k) {
            const Property &prop = e.properties[k];
            const double n = prop.countKind == Kind::Bad ? 1 : in.next(prop.countKind);
            for (double j = 0; j < n && in.ok(); ++j) {
                const double value = in.next(prop.kind);
                const float v = float(value);
                if (colours)
                    for (std::size_t c = 0; c < 3; ++c)
                        if (k == (*colours)[c])
                            light[c] = lightOf(value, prop.kind);
                if (int(k) == slot[0])
                    p.x = v;
                if (int(k) == slot[1])
                    p.y = v;
                if (int(k) == slot[2])
                    p.z = v;
            }
        }
        raw.positions.push_back(p);
        if (colours)
            colour.values.insert(colour.values.end(), light.begin(), light.end());
    }
    if (colours)
        raw.attributes.push_back(std::move(colour));
    return in.ok() ? Status(Done{}) : malformed("fewer points than the header says");
}

/// Faces that all have as many corners as the first: side by side.
bool readEvenFaces(std::size_t count, Values &in, RawMesh &raw)
{
    const std::byte *at = in.at();
    const std::size_t n = in.left() > 0 ? std::size_t(*at) : 0, stride = 1 + 4 * n;
    if (n == 0 || count == 0 || in.left() / stride < count || count * n >= kNone)
        return false;
    constexpr std::size_t kRun = 65536;
    std::atomic<bool> isEven = true;
    forEachBlock(count, kRun, [&](BlockRange r) {
        bool isSame = true;
        for (std::size_t f = r.begin; f < r.end; ++f)
            isSame &= std::size_t(at[f * stride]) == n;
        if (!isSame)
            isEven = false;
    });
    if (!isEven)
        return false;
    raw.corners.resize(count * n);
    raw.faceEnds.resize(count);
    forEachBlock(count, kRun, [&](BlockRange r) {
        for (std::size_t f = r.begin; f < r.end; ++f) {
            std::memcpy(&raw.corners[f * n], at + f * stride + 1, 4 * n);
            raw.faceEnds[f] = std::uint32_t((f + 1) * n);
        }
    });
    in.advance(count * stride);
    return true;
}

/// The usual layout, one list of 4-byte indices a face, without a call per value.
bool readPlainFaces(const Element &e, Values &in, RawMesh &raw)
{
    if (e.properties.size() != 1 || e.properties[0].countKind != Kind::U8
        || (e.properties[0].kind != Kind::I32 && e.properties[0].kind != Kind::U32))
        return false;
    const std::byte *at = in.at(), *end = at + in.left();
    if (readEvenFaces(e.count, in, raw))
        return true;
    raw.faceEnds.reserve(std::min<std::size_t>(e.count, in.left() / 13 + 1));
    raw.corners.reserve(std::min<std::size_t>(e.count * 4, in.left() / 4 + 4));
    for (std::size_t i = 0; i < e.count; ++i) {
        if (at == end)
            return false;
        const auto n = std::size_t(*at++);
        if (std::size_t(end - at) < n * 4)
            return false;
        const std::size_t first = raw.corners.size();
        raw.corners.resize(first + n);
        std::memcpy(raw.corners.data() + first, at, n * 4);
        at += n * 4;
        raw.faceEnds.push_back(std::uint32_t(raw.corners.size()));
    }
    in.advance(std::size_t(at - in.at()));
    return true;
}

Status readFaces(const Element &e, Values &in, bool little, RawMesh &raw, const Progress &progress)
{
    if (little && readPlainFaces(e, in, raw))
        return Done{};
    raw.corners.clear();
    raw.faceEnds.clear();
    for (std::size_t i = 0; i < e.count && in.ok(); ++i) {
        stopIfCancelled(progress, i);
        for (const Property &p : e.properties) {
            const bool list = p.countKind != Kind::Bad;
            const double n = list ? in.next(p.countKind) : 1;
            const bool corners = list && (p.name == "vertex_indices" || p.name == "vertex_index");
            for (double k = 0; k < n && in.ok(); ++k) {
                const double v = in.next(p.kind);
                if (corners)
                    raw.corners.push_back(v >= 0 && v < 4e9 ? std::uint32_t(v) : kNone);
            }
            if (corners)
                raw.faceEnds.push_back(std::uint32_t(raw.corners.size()));
        }
    }
    return in.ok() ? Status(Done{}) : malformed("fewer faces than the header says");
}

} // namespace

Result<RawMesh> readPly(std::span<const std::byte> file, const Progress &progress)
{
    const auto header = readHeader(file);
    if (!header)
        return header.error();
    RawMesh raw;
    Values in(file.subspan(header->bytes), header->format);
    const bool little = header->format == Header::Little;
    for (const Element &e : header->elements) {
        if (e.count > file.size())
            return malformed(fmt::format("{} of {} are promised in a file of {} bytes", e.count, e.name, file.size()));
        Status read = Done{};
        if (e.name == "vertex") {
            read = readPoints(e, in, little, raw, progress);
        } else if (e.name == "face") {
            read = readFaces(e, in, little, raw, progress);
        } else {
            for (std::size_t i = 0; i < e.count && in.ok(); ++i)
                for (const Property &p : e.properties)
                    for (double n = p.countKind == Kind::Bad ? 1 : in.next(p.countKind); n > 0 && in.ok(); --n)
                        in.next(p.kind);
        }
        if (!read)
            return read.error();
    }
    return raw;
}

void writePly(const Scene &scene, ByteStream &out)
{
    std::size_t points = 0, faces = 0;
    bool hasColours = false;
    std::vector<Shape> shapes; // by object, with attributes at points
    for (const Object &o : scene.objects) {
        shapes.push_back(splitAtSeams(scene.shapeOf(o)));
        points += shapes.back().pointCount() * o.places.size();
        faces += shapes.back().faceCount() * o.places.size();
        hasColours = hasColours || shapes.back().attribute(kColour);
    }
    out.put(fmt::format("ply\nformat binary_little_endian 1.0\ncomment Bone Moss, millimetres, +Y up\nelement vertex {}\n"
                        "property float x\nproperty float y\nproperty float z\n{}element face {}\n"
                        "property list uchar int vertex_indices\nend_header\n",
                        points, hasColours ? "property uchar red\nproperty uchar green\nproperty uchar blue\n" : "", faces));
    for (std::size_t k = 0; k < shapes.size(); ++k) {
        const Attribute *colours = shapes[k].attribute(kColour);
        const Vec3f plain = scene.materialOf(scene.objects[k]).colour.value_or(Vec3f{1, 1, 1});
        for (const Placement &place : scene.objects[k].places) {
            const bool isAsItIs = place == Placement();
            std::size_t i = 0;
            shapes[k].eachPoint([&](Vec3f p) {
                out.putRaw(isAsItIs ? p : place.apply(p));
                if (hasColours) {
                    const float *c = colours ? &colours->values[i * colours->width] : &plain.x;
                    out.putRaw(std::array{srgbByte(c[0]), srgbByte(c[1]), srgbByte(c[2])});
                }
                ++i, out.advance(1);
            });
        }
    }
    std::uint32_t first = 0;
    for (std::size_t k = 0; k < shapes.size(); ++k)
        for (const Placement &place : scene.objects[k].places) {
            const bool isTurned = place.isMirroring();
            shapes[k].eachFace([&](mesh::Face f) {
                f = isTurned ? flipped(f) : f;
                const auto n = std::size_t(f.size());
                for (std::size_t c = 0; c < n; ++c)
                    f.v[c] += first;
                out.putRaw(std::uint8_t(n));
                out.put({reinterpret_cast<const char *>(f.v.data()), n * 4});
                out.advance(1);
            });
            first += std::uint32_t(shapes[k].pointCount());
        }
}

} // namespace bonemoss::io
