// glTF 2.0 (Khronos Group, ISO/IEC 12113:2022): metres in the file, millimetres here.
#include "io/mesh_file.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <map>
#include <nlohmann/json.hpp>
#include <numeric>

namespace bonemoss::io {

namespace {

using nlohmann::json;
constexpr float kMmPerMetre = 1000;
constexpr std::uint32_t kGlbMagic = 0x46546C67, kJsonChunk = 0x4E4F534A, kBinChunk = 0x004E4942;

std::uint32_t word(std::span<const std::byte> b, std::size_t at)
{
    std::uint32_t v = 0;
    std::memcpy(&v, b.data() + at, 4);
    return v;
}

std::vector<std::byte> fromBase64(std::string_view text)
{
    std::vector<std::byte> out;
    unsigned bits = 0, count = 0;
    for (const char c : text) {
        const int v = c >= 'A' && c <= 'Z'   ? c - 'A'
                      : c >= 'a' && c <= 'z' ? c - 'a' + 26
                      : c >= '0' && c <= '9' ? c - '0' + 52
                      : c == '+'             ? 62
                      : c == '/'             ? 63
                                             : -1;
        if (v < 0)
            continue;
        bits = bits << 6 | unsigned(v);
        if ((count += 6) >= 8)
            out.push_back(std::byte(bits >> (count -= 8) & 0xff));
    }
    return out;
}

/// The bytes of a name in which some are written as %20 and the like (RFC 3986, section 2.1); nothing where that is broken.
std::optional<std::string> fromPercent(std::string_view uri)
{
    std::string out;
    for (std::size_t k = 0; k < uri.size(); ++k) {
        if (uri[k] != '%') {
            out += uri[k];
            continue;
        }
        unsigned value = 0;
        if (k + 2 >= uri.size() || std::from_chars(uri.data() + k + 1, uri.data() + k + 3, value, 16).ptr != uri.data() + k + 3
            || value == 0)
            return std::nullopt;
        out += char(value);
        k += 2;
    }
    return out;
}

/// A count, an offset or a number of something. The library would take what fits no whole number for whatever comes of it.
std::size_t whole(const json &j)
{
    const double v = j.is_number() ? j.get<double>() : -1;
    if (!(v >= 0 && v < 9e15 && v == std::floor(v))) // all that a double holds exactly
        throw std::runtime_error("a number that counts is not a whole number");
    return std::size_t(v);
}
std::size_t whole(const json &object, const char *key, std::size_t missing)
{
    return object.contains(key) ? whole(object[key]) : missing;
}

struct Matrix {
    float m[16] = {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1}; // column by column
    Vec3f apply(Vec3f p) const
    {
        return {m[0] * p.x + m[4] * p.y + m[8] * p.z + m[12], m[1] * p.x + m[5] * p.y + m[9] * p.z + m[13],
                m[2] * p.x + m[6] * p.y + m[10] * p.z + m[14]};
    }
    bool isMirroring() const
    {
        const Vec3f x{m[0], m[1], m[2]}, y{m[4], m[5], m[6]}, z{m[8], m[9], m[10]};
        return dot(cross(x, y), z) < 0;
    }
    friend Matrix operator*(const Matrix &a, const Matrix &b)
    {
        Matrix r;
        for (int c = 0; c < 4; ++c)
            for (int i = 0; i < 4; ++i) {
                r.m[c * 4 + i] = 0;
                for (int k = 0; k < 4; ++k)
                    r.m[c * 4 + i] += a.m[k * 4 + i] * b.m[c * 4 + k];
            }
        return r;
    }
};

class Reader
{
public:
    Reader(json document, std::vector<std::vector<std::byte>> buffers) : m_doc(std::move(document)), m_buffers(std::move(buffers))
    {}

    Result<RawMesh> run()
    {
        const json &nodes = list("nodes"), &scenes = list("scenes");
        m_isPlaced.resize(nodes.size());
        if (!m_doc.contains("nodes") && m_doc.contains("meshes")) { // a file of meshes alone
            for (std::size_t m = 0; m < list("meshes").size(); ++m)
                readMesh(m, {});
        } else if (const std::size_t scene = whole(m_doc, "scene", 0); scene < scenes.size()) {
            if (scenes[scene].contains("nodes"))
                for (const json &n : scenes[scene]["nodes"])
                    readTree(whole(n));
        } else {
            readRoots(nodes);
        }
        if (!m_problem.empty())
            return malformed(m_problem);
        if (m_without > 0)
            m_raw.remarks.push_back({"points and lines without faces left out", m_without});
        return std::move(m_raw);
    }

private:
    const json &list(const char *name) const
    {
        static const json empty = json::array();
        return m_doc.contains(name) ? m_doc[name] : empty;
    }

    /// Without a scene: every node that hangs below no other.
    void readRoots(const json &nodes)
    {
        std::vector<bool> isChild(nodes.size());
        for (const json &node : nodes)
            if (node.contains("children"))
                for (const json &c : node["children"])
                    isChild.at(whole(c)) = true;
        for (std::size_t i = 0; i < nodes.size(); ++i)
            if (!isChild[i])
                readTree(i);
        if (std::find(m_isPlaced.begin(), m_isPlaced.end(), false) != m_isPlaced.end())
            m_problem = "nodes hang below each other in a circle";
    }

    /// A node and all below it; with a list of what is still to be done, since chains may be as long as a file is large.
    void readTree(std::size_t root)
    {
        std::vector<std::pair<std::size_t, Matrix>> open{{root, {}}};
        while (!open.empty() && m_problem.empty()) {
            const auto [index, parent] = open.back();
            open.pop_back();
            const json &node = m_doc.at("nodes").at(index);
            if (m_isPlaced[index]) { // the standard allows one parent only; with two, copies could double at each step down
                m_problem = "a node hangs below two others, or below itself";
                return;
            }
            m_isPlaced[index] = true;
            const Matrix placed = parent * localOf(node);
            if (node.contains("mesh"))
                readMesh(whole(node["mesh"]), placed);
            if (node.contains("children")) {
                const json &children = node["children"];
                for (std::size_t k = children.size(); k-- > 0;) // the first child comes next
                    open.push_back({whole(children[k]), placed});
            }
        }
    }

    static Matrix localOf(const json &node)
    {
        Matrix local;
        if (node.contains("matrix")) {
            for (std::size_t i = 0; i < 16; ++i)
                local.m[i] = node["matrix"].at(i).get<float>();
            return local;
        }
        const auto v = [&](const char *key, std::size_t i, float missing) {
            return node.contains(key) ? node[key].at(i).get<float>() : missing;
        };
        const Quat q{v("rotation", 0, 0), v("rotation", 1, 0), v("rotation", 2, 0), v("rotation", 3, 1)};
        const Vec3f axes[3] = {rotate(q, {v("scale", 0, 1), 0, 0}), rotate(q, {0, v("scale", 1, 1), 0}),
                               rotate(q, {0, 0, v("scale", 2, 1)})};
        for (int c = 0; c < 3; ++c)
            for (int i = 0; i < 3; ++i)
                local.m[c * 4 + i] = at(axes[c], i);
        for (std::size_t i = 0; i < 3; ++i)
            local.m[12 + i] = v("translation", i, 0);
        return local;
    }

    void readMesh(std::size_t mesh, const Matrix &place)
    {
        for (auto &[accessor, placed] : m_placed)
            placed.clear();
        for (const json &p : m_doc.at("meshes").at(mesh).at("primitives"))
            readPrimitive(p, place);
    }

    /// Points of an accessor as the file has them. Many primitives may share one: it is read once.
    const std::vector<Vec3f> &points(std::size_t accessor)
    {
        const auto [found, isNew] = m_points.try_emplace(accessor);
        std::vector<Vec3f> &read = found->second;
        if (isNew)
            eachElement(accessor, 3, [&](const std::byte *b, int type) {
                if (type != 5126) {
                    m_problem = "positions are not 32-bit floats";
                    return;
                }
                Vec3f v;
                std::memcpy(&v, b, 12);
                read.push_back(v);
            });
        return read;
    }

    void readPrimitive(const json &p, const Matrix &place)
    {
        constexpr std::size_t kTriangles = 4, kStrip = 5, kFan = 6;
        const std::size_t mode = whole(p, "mode", kTriangles);
        if (!p.contains("attributes") || !p["attributes"].contains("POSITION"))
            return;
        if (mode < kTriangles || mode > kFan) { // points and lines
            ++m_without;
            return;
        }
        const std::size_t accessor = whole(p["attributes"]["POSITION"]);
        const std::vector<Vec3f> &from = points(accessor);
        std::vector<std::uint32_t> all;
        if (p.contains("indices")) {
            eachElement(whole(p["indices"]), 1, [&](const std::byte *b, int type) {
                std::uint32_t v = 0;
                std::memcpy(&v, b, type == 5125 ? 4 : type == 5123 ? 2 : 1);
                all.push_back(v);
            });
        } else {
            all.resize(from.size());
            std::iota(all.begin(), all.end(), 0u);
        }
        if (m_raw.corners.size() + 3 * all.size() > kMostCorners) {
            m_problem = "its parts repeat to more than a thousand million corners";
            return;
        }
        // One accessor may serve thousands of primitives, each of a few faces: only the points of those come in, once for all
        // primitives of the mesh.
        Placed &placed = m_placed[accessor];
        placed.at.resize(from.size(), kNone);
        const auto corner = [&](std::uint32_t c) {
            if (c >= from.size())
                return m_raw.corners.push_back(kNone);
            if (placed.at[c] == kNone) {
                placed.at[c] = std::uint32_t(m_raw.positions.size());
                placed.used.push_back(c);
                m_raw.positions.push_back(place.apply(from[c]) * kMmPerMetre);
            }
            m_raw.corners.push_back(placed.at[c]);
        };
        const bool isTurned = place.isMirroring(); // what was outside would be inside
        const auto triangle = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
            corner(a), corner(isTurned ? c : b), corner(isTurned ? b : c);
            m_raw.faceEnds.push_back(std::uint32_t(m_raw.corners.size()));
        };
        // glTF 2.0, section 3.7.2.1: which vertices make the triangles of strips and fans.
        if (mode == kTriangles)
            for (std::size_t i = 0; i + 2 < all.size(); i += 3)
                triangle(all[i], all[i + 1], all[i + 2]);
        else if (mode == kStrip)
            for (std::size_t i = 0; i + 2 < all.size(); ++i)
                triangle(all[i], all[i + 1 + i % 2], all[i + 2 - i % 2]);
        else
            for (std::size_t i = 1; i + 1 < all.size(); ++i)
                triangle(all[i], all[i + 1], all[0]);
    }

    template <typename Visit> void eachElement(std::size_t accessor, std::size_t components, const Visit &visit)
    {
        const json &a = m_doc.at("accessors").at(accessor);
        if (a.contains("sparse") || !a.contains("bufferView")) {
            m_problem = "sparse accessors are not read";
            return;
        }
        const json &view = m_doc.at("bufferViews").at(whole(a["bufferView"]));
        const auto &buffer = m_buffers.at(whole(view.at("buffer")));
        const int type = int(std::min<std::size_t>(whole(a.at("componentType")), 65535));
        const std::size_t size = (type == 5126 || type == 5125 ? 4u : type == 5123 || type == 5122 ? 2u : 1u) * components;
        const std::size_t stride = std::max<std::size_t>(whole(view, "byteStride", size), 1);
        const std::size_t begin = whole(view, "byteOffset", 0) + whole(a, "byteOffset", 0);
        const std::size_t count = whole(a.at("count"));
        if (count == 0 || begin > buffer.size() || size > buffer.size() - begin
            || (count - 1) > (buffer.size() - begin - size) / stride) {
            m_problem = "an accessor reaches past the end of its buffer";
            return;
        }
        for (std::size_t i = 0; i < count; ++i)
            visit(buffer.data() + begin + i * stride, type);
    }

    static constexpr std::size_t kMostCorners = 1'000'000'000;
    json m_doc;
    std::vector<std::vector<std::byte>> m_buffers;
    RawMesh m_raw;
    std::vector<bool> m_isPlaced;                       ///< nodes
    std::map<std::size_t, std::vector<Vec3f>> m_points; ///< by accessor
    /// Where the mesh in hand has the points of an accessor. Costs what it uses of them, not all there are.
    struct Placed {
        std::vector<std::uint32_t> at, used;
        void clear()
        {
            for (const std::uint32_t v : used)
                at[v] = kNone;
            used.clear();
        }
    };
    std::map<std::size_t, Placed> m_placed; ///< by accessor
    std::size_t m_without = 0;              ///< primitives that have no faces
    std::string m_problem;
};

Result<std::vector<std::vector<std::byte>>> loadBuffers(const json &doc, std::span<const std::byte> binary,
                                                        const std::filesystem::path &path)
{
    std::vector<std::vector<std::byte>> buffers;
    for (const json &b : doc.value("buffers", json::array())) {
        const std::string uri = b.value("uri", std::string());
        if (uri.empty()) {
            buffers.emplace_back(binary.begin(), binary.end());
        } else if (uri.starts_with("data:")) {
            buffers.push_back(fromBase64(std::string_view(uri).substr(std::min(uri.find(',') + 1, uri.size()))));
        } else {
            const auto name = fromPercent(uri);
            if (!name)
                return malformed("the name of a buffer's file is not coded as it should be");
            const std::filesystem::path inside = std::filesystem::path(*name).lexically_normal();
            if (inside.is_absolute() || inside.empty() || *inside.begin() == "..")
                return malformed("a buffer lies outside the file's folder");
            auto bytes = readFile(path.parent_path() / inside);
            if (!bytes)
                return bytes.error();
            buffers.push_back(std::move(*bytes));
        }
    }
    return buffers;
}

} // namespace

Result<RawMesh> readGltf(std::span<const std::byte> file, const std::filesystem::path &path)
{
    std::span<const std::byte> text = file, binary;
    if (file.size() >= 20 && word(file, 0) == kGlbMagic) {
        const std::size_t length = word(file, 12);
        if (word(file, 16) != kJsonChunk || length > file.size() - 20)
            return malformed("the first chunk is not complete JSON");
        text = file.subspan(20, length);
        if (file.size() >= 28 + length && word(file, 24 + length) == kBinChunk) {
            const std::size_t bytes = word(file, 20 + length);
            if (bytes > file.size() - 28 - length)
                return malformed("the binary chunk is cut short");
            binary = file.subspan(28 + length, bytes);
        }
    }
    json doc = json::parse(reinterpret_cast<const char *>(text.data()), reinterpret_cast<const char *>(text.data()) + text.size(),
                           nullptr, false);
    if (doc.is_discarded() || !doc.is_object())
        return malformed("its JSON cannot be read");
    try { // the library reports wrong kinds and missing members by exception; none leaves this function
        auto buffers = loadBuffers(doc, binary, path);
        if (!buffers)
            return buffers.error();
        return Reader(std::move(doc), std::move(*buffers)).run();
    } catch (const std::exception &e) {
        return malformed(e.what());
    }
}

std::string writeGlb(MeshParts parts)
{
    json nodes = json::array(), meshes = json::array(), materials = json::array(), accessors = json::array(),
         views = json::array();
    json roots = json::array();
    std::string binary;
    const auto addView = [&](const void *bytes, std::size_t size, int target) {
        views.push_back({{"buffer", 0}, {"byteOffset", binary.size()}, {"byteLength", size}, {"target", target}});
        binary.append(static_cast<const char *>(bytes), size); // of whole 4-byte values: the next begins aligned
        return views.size() - 1;
    };
    for (const MeshPart &part : parts) {
        const auto triangles = mesh::triangulate(*part.mesh);
        if (triangles.empty())
            continue;
        std::vector<Vec3f> points = part.mesh->positions;
        for (Vec3f &p : points)
            p *= 1 / kMmPerMetre;
        const Box3f box = mesh::boundsOf(points);
        const Vec3f colour = part.colour.value_or(Vec3f{0.62f, 0.57f, 0.49f});
        const std::size_t at = accessors.size(), number = meshes.size();
        accessors.push_back({{"bufferView", addView(points.data(), points.size() * 12, 34962)},
                             {"componentType", 5126},
                             {"count", points.size()},
                             {"type", "VEC3"},
                             {"min", {box.lo.x, box.lo.y, box.lo.z}},
                             {"max", {box.hi.x, box.hi.y, box.hi.z}}});
        accessors.push_back({{"bufferView", addView(triangles.data(), triangles.size() * 12, 34963)},
                             {"componentType", 5125},
                             {"count", triangles.size() * 3},
                             {"type", "SCALAR"}});
        materials.push_back({{"name", part.colour ? part.name : "clay"},
                             {"pbrMetallicRoughness",
                              {{"baseColorFactor", {colour.x, colour.y, colour.z, 1.0}},
                               {"metallicFactor", 0.0},
                               {"roughnessFactor", part.colour ? 0.3 : 0.8}}}});
        meshes.push_back({{"name", part.name},
                          {"primitives", {{{"attributes", {{"POSITION", at}}}, {"indices", at + 1}, {"material", number}}}}});
        nodes.push_back({{"mesh", number}, {"name", part.name}});
        roots.push_back(number);
    }
    json doc = {{"asset", {{"version", "2.0"}, {"generator", "Bone Moss"}}}};
    if (!nodes.empty()) // the standard wants no empty lists
        doc.update({{"scene", 0},
                    {"scenes", {{{"nodes", roots}}}},
                    {"nodes", nodes},
                    {"meshes", meshes},
                    {"materials", materials},
                    {"accessors", accessors},
                    {"bufferViews", views},
                    {"buffers", {{{"byteLength", binary.size()}}}}});
    std::string text = doc.dump(-1, ' ', false, json::error_handler_t::replace);
    text.resize((text.size() + 3) / 4 * 4, ' ');
    std::string out;
    out.reserve(28 + text.size() + binary.size());
    const auto put = [&](std::size_t v) {
        const auto w = std::uint32_t(v);
        out.append(reinterpret_cast<const char *>(&w), 4);
    };
    put(kGlbMagic), put(2), put(12 + 8 + text.size() + (binary.empty() ? 0 : 8 + binary.size()));
    put(text.size()), put(kJsonChunk);
    out += text;
    if (!binary.empty()) {
        put(binary.size()), put(kBinChunk);
        out += binary;
    }
    return out;
}

} // namespace bonemoss::io
