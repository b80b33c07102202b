// glTF 2.0 (Khronos Group, ISO/IEC 12113:2022): metres in the file, millimetres here.
#include "io/mesh_file.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::io {

namespace {

using nlohmann::json;
constexpr float kMmPerMetre = 1000;
constexpr std::uint32_t kGlbMagic = 0x46546C67, kJsonChunk = 0x4E4F534A, kBinChunk = 0x004E4942;

Error malformed(std::string why)
{
    return {ErrorCode::Malformed, "", std::move(why)};
}

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
        const json &scenes = m_doc.value("scenes", json::array());
        const std::size_t scene = whole(m_doc, "scene", 0);
        if (scene < scenes.size())
            for (const json &n : scenes[scene].value("nodes", json::array()))
                readNode(whole(n), {});
        else
            readRoots();
        if (!m_problem.empty())
            return malformed(m_problem);
        return std::move(m_raw);
    }

private:
    /// Without a scene: every node that hangs below no other.
    void readRoots()
    {
        const json nodes = m_doc.value("nodes", json::array());
        std::vector<bool> isChild(nodes.size());
        for (const json &node : nodes)
            for (const json &c : node.value("children", json::array()))
                isChild.at(whole(c)) = true;
        for (std::size_t i = 0; i < nodes.size(); ++i)
            if (!isChild[i])
                readNode(i, {});
        if (std::find(m_isPlaced.begin(), m_isPlaced.end(), false) != m_isPlaced.end() || m_isPlaced.size() < nodes.size())
            m_problem = "nodes hang below each other in a circle";
    }

    void readNode(std::size_t index, const Matrix &parent)
    {
        const json &node = m_doc.at("nodes").at(index);
        m_isPlaced.resize(m_doc.at("nodes").size());
        if (m_isPlaced[index]) { // the standard allows one parent only; with two, copies could double at each step down
            m_problem = "a node hangs below two others, or below itself";
            return;
        }
        m_isPlaced[index] = true;
        Matrix local;
        if (node.contains("matrix")) {
            for (std::size_t i = 0; i < 16; ++i)
                local.m[i] = node["matrix"].at(i).get<float>();
        } else {
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
        }
        const Matrix placed = parent * local;
        if (node.contains("mesh"))
            for (const json &p : m_doc.at("meshes").at(whole(node["mesh"])).at("primitives"))
                readPrimitive(p, placed);
        for (const json &c : node.value("children", json::array()))
            readNode(whole(c), placed);
    }

    void readPrimitive(const json &p, const Matrix &place)
    {
        if (whole(p, "mode", 4) != 4 || !p.contains("attributes") || !p["attributes"].contains("POSITION"))
            return;
        const auto first = std::uint32_t(m_raw.positions.size());
        std::size_t count = 0;
        eachElement(whole(p["attributes"]["POSITION"]), 3, [&](const std::byte *b, int type) {
            if (type != 5126) {
                m_problem = "positions are not 32-bit floats";
                return;
            }
            Vec3f v;
            std::memcpy(&v, b, 12);
            m_raw.positions.push_back(place.apply(v) * kMmPerMetre);
            ++count;
        });
        const auto corner = [&](std::uint32_t c) {
            m_raw.corners.push_back(c < count ? first + c : kNone);
            if (m_raw.corners.size() % 3 == 0)
                m_raw.faceEnds.push_back(std::uint32_t(m_raw.corners.size()));
        };
        if (!p.contains("indices")) {
            for (std::uint32_t c = 0; c + 2 < count; c += 3)
                corner(c), corner(c + 1), corner(c + 2);
            return;
        }
        std::vector<std::uint32_t> all;
        eachElement(whole(p["indices"]), 1, [&](const std::byte *b, int type) {
            std::uint32_t v = 0;
            std::memcpy(&v, b, type == 5125 ? 4 : type == 5123 ? 2 : 1);
            all.push_back(v);
        });
        for (std::size_t c = 0; c + 2 < all.size(); c += 3)
            corner(all[c]), corner(all[c + 1]), corner(all[c + 2]);
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
        const std::size_t stride = whole(view, "byteStride", size);
        const std::size_t begin = whole(view, "byteOffset", 0) + whole(a, "byteOffset", 0);
        const std::size_t count = whole(a.at("count"));
        if (count == 0 || begin > buffer.size() || size > buffer.size() - begin
            || (count - 1) > (buffer.size() - begin - size) / std::max<std::size_t>(stride, 1)) {
            m_problem = "an accessor reaches past the end of its buffer";
            return;
        }
        for (std::size_t i = 0; i < count; ++i)
            visit(buffer.data() + begin + i * stride, type);
    }

    json m_doc;
    std::vector<std::vector<std::byte>> m_buffers;
    RawMesh m_raw;
    std::vector<bool> m_isPlaced; ///< nodes
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
            if (uri.find("..") != std::string::npos || uri.starts_with('/'))
                return malformed("a buffer lies outside the file's folder");
            auto bytes = readFile(path.parent_path() / uri);
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

std::string writeGlb(const mesh::PolyMesh &mesh)
{
    const auto triangles = mesh::triangulate(mesh);
    const Box3f box = mesh::boundsOf(mesh.positions);
    const std::size_t points = mesh.positions.size() * 12, indices = triangles.size() * 12;
    const auto metres = [](Vec3f p) { return p * (1 / kMmPerMetre); };
    const Vec3f lo = metres(box.lo), hi = metres(box.hi);
    const json doc = {
        {"asset", {{"version", "2.0"}, {"generator", "Bone Moss"}}},
        {"scene", 0},
        {"scenes", {{{"nodes", {0}}}}},
        {"nodes", {{{"mesh", 0}, {"name", "skin"}}}},
        {"meshes", {{{"primitives", {{{"attributes", {{"POSITION", 0}}}, {"indices", 1}, {"material", 0}}}}}}},
        {"materials",
         {{{"name", "clay"},
           {"pbrMetallicRoughness",
            {{"baseColorFactor", {0.62, 0.57, 0.49, 1.0}}, {"metallicFactor", 0.0}, {"roughnessFactor", 0.8}}}}}},
        {"accessors",
         {{{"bufferView", 0},
           {"componentType", 5126},
           {"count", mesh.positions.size()},
           {"type", "VEC3"},
           {"min", {lo.x, lo.y, lo.z}},
           {"max", {hi.x, hi.y, hi.z}}},
          {{"bufferView", 1}, {"componentType", 5125}, {"count", triangles.size() * 3}, {"type", "SCALAR"}}}},
        {"bufferViews",
         {{{"buffer", 0}, {"byteOffset", 0}, {"byteLength", points}, {"target", 34962}},
          {{"buffer", 0}, {"byteOffset", points}, {"byteLength", indices}, {"target", 34963}}}},
        {"buffers", {{{"byteLength", points + indices}}}},
    };
    std::string text = doc.dump();
    text.resize((text.size() + 3) / 4 * 4, ' ');
    std::string out;
    const auto put = [&](std::size_t v) {
        const auto w = std::uint32_t(v);
        out.append(reinterpret_cast<const char *>(&w), 4);
    };
    put(kGlbMagic), put(2), put(12 + 8 + text.size() + 8 + points + indices);
    put(text.size()), put(kJsonChunk);
    out += text;
    put(points + indices), put(kBinChunk);
    for (const Vec3f p : mesh.positions) {
        const Vec3f m = metres(p);
        out.append(reinterpret_cast<const char *>(&m), 12);
    }
    out.append(reinterpret_cast<const char *>(triangles.data()), indices);
    return out;
}

} // namespace bonemoss::io
