// glTF 2.0 (Khronos Group, ISO/IEC 12113:2022): metres in the file, millimetres here.
#include "io/gltf_words.h"
#include "io/mesh_file.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <map>
#include <nlohmann/json.hpp>
#include <numeric>
#include <utility>

namespace bonemoss::io {

namespace {

using nlohmann::json;
constexpr float kGlossy = 0.5f; // below that roughness

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

class Reader
{
public:
    Reader(json document, std::vector<std::vector<std::byte>> buffers) : m_doc(std::move(document)), m_buffers(std::move(buffers))
    {}

    Result<RawScene> run(const Progress &progress)
    {
        const json &nodes = list("nodes"), &scenes = list("scenes");
        m_isPlaced.resize(nodes.size());
        if (!m_doc.contains("nodes") && m_doc.contains("meshes")) { // a file of meshes alone
            for (std::size_t m = 0; m < list("meshes").size(); ++m)
                m_uses.push_back({m, {}, nameOf(list("meshes")[m])});
        } else if (const std::size_t scene = whole(m_doc, "scene", 0); scene < scenes.size()) {
            if (scenes[scene].contains("nodes"))
                for (const json &n : scenes[scene]["nodes"])
                    readTree(whole(n));
        } else {
            readRoots(nodes);
        }
        readMaterials();
        readUses(progress);
        if (!m_problem.empty())
            return malformed(m_problem);
        if (m_without > 0)
            m_scene.remarks.push_back({"points and lines without faces left out", m_without});
        return std::move(m_scene);
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
        std::vector<std::pair<std::size_t, Placement>> open{{root, {}}};
        while (!open.empty() && m_problem.empty()) {
            const auto [index, parent] = open.back();
            open.pop_back();
            const json &node = m_doc.at("nodes").at(index);
            if (m_isPlaced[index]) { // the standard allows one parent only; with two, copies could double at each step down
                m_problem = "a node hangs below two others, or below itself";
                return;
            }
            m_isPlaced[index] = true;
            const Placement placed = parent * localOf(node);
            if (node.contains("mesh"))
                m_uses.push_back({whole(node["mesh"]), placed, nameOf(node)});
            if (node.contains("children")) {
                const json &children = node["children"];
                for (std::size_t k = children.size(); k-- > 0;) // the first child comes next
                    open.push_back({whole(children[k]), placed});
            }
        }
    }

    static Placement localOf(const json &node)
    {
        Placement local;
        if (node.contains("matrix")) { // the last row is 0 0 0 1
            for (std::size_t c = 0; c < 4; ++c)
                for (std::size_t i = 0; i < 3; ++i)
                    local.m[c * 3 + i] = node["matrix"].at(c * 4 + i).get<float>();
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
                local.m[c * 3 + i] = at(axes[c], i);
        for (std::size_t i = 0; i < 3; ++i)
            local.m[9 + i] = v("translation", i, 0);
        return local;
    }

    static std::string nameOf(const json &j) { return j.is_object() ? j.value("name", std::string()) : std::string(); }

    void readMaterials()
    {
        for (const json &m : list("materials")) {
            Material material{nameOf(m)};
            const json *pbr = m.contains("pbrMetallicRoughness") ? &m["pbrMetallicRoughness"] : nullptr;
            if (pbr && pbr->contains("baseColorFactor"))
                material.colour =
                    Vec3f{(*pbr)["baseColorFactor"].at(0).get<float>(), (*pbr)["baseColorFactor"].at(1).get<float>(),
                          (*pbr)["baseColorFactor"].at(2).get<float>()};
            material.isGlossy = pbr && pbr->value("roughnessFactor", 1.0f) < kGlossy;
            m_scene.materials.push_back(std::move(material));
        }
        m_scene.materials.push_back({"clay"}); // for what has none
    }

    /// Each mesh once: in its place where one node alone has it, or else as it is, with a placement for each node.
    void readUses(const Progress &progress)
    {
        std::vector<std::size_t> count(list("meshes").size()), shapeOf(count.size(), kNone);
        for (const Use &use : m_uses)
            ++count.at(use.mesh);
        for (const Use &use : m_uses) {
            if (progress.isCancelled())
                throw Failure{{ErrorCode::Cancelled, "", "stopped on request"}};
            if (!m_problem.empty())
                return;
            const bool isAlone = count[use.mesh] == 1;
            std::size_t &shape = shapeOf[use.mesh];
            if (shape == kNone) {
                shape = m_scene.shapes.size();
                readMesh(use.mesh, isAlone ? use.place : Placement());
            }
            Object object{use.name.empty() ? m_scene.shapes[shape].name : use.name, shape, m_materials[shape]};
            if (!isAlone) {
                object.places[0] = use.place;
                for (int i = 9; i < 12; ++i)
                    object.places[0].m[i] *= kMmPerMetre;
            }
            m_scene.objects.push_back(std::move(object));
        }
    }

    void readMesh(std::size_t index, const Placement &place)
    {
        for (auto &[accessor, placed] : m_placed)
            placed.clear();
        const json &mesh = list("meshes").at(index);
        m_raw = {};
        m_raw.name = nameOf(mesh);
        m_material = m_scene.materials.size() - 1;
        bool isFirst = true;
        for (const json &p : mesh.at("primitives")) {
            readPrimitive(p, place);
            if (std::exchange(isFirst, false) && p.contains("material"))
                m_material = std::min(whole(p["material"]), m_scene.materials.size() - 1);
        }
        m_scene.shapes.push_back(std::move(m_raw));
        m_materials.push_back(m_material);
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

    /// Numbers of an accessor, of floats or of whole numbers that stand for 0 to 1.
    std::vector<float> numbers(std::size_t accessor, std::size_t width)
    {
        std::vector<float> out;
        eachElement(accessor, width, [&](const std::byte *b, int type) {
            for (std::size_t k = 0; k < width; ++k) {
                float f = 0;
                std::uint16_t s = 0;
                if (type == 5126)
                    std::memcpy(&f, b + k * 4, 4);
                else if (type == 5123)
                    std::memcpy(&s, b + k * 2, 2), f = float(s) / 65535;
                else
                    f = float(std::to_integer<unsigned>(b[k])) / 255;
                out.push_back(f);
            }
        });
        return out;
    }

    /// Colours and texture coordinates go to the corners: primitives may share points, and differ in these.
    void readCorners(const json &attributes, std::string_view name, const char *key, std::size_t width, std::size_t firstCorner,
                     const std::vector<std::uint32_t> &points)
    {
        auto found =
            std::find_if(m_raw.attributes.begin(), m_raw.attributes.end(), [&](const Attribute &a) { return a.name == name; });
        std::vector<float> values;
        std::size_t stride = width;
        if (attributes.contains(key)) {
            const std::size_t accessor = whole(attributes[key]);
            const std::string type = list("accessors").at(accessor).value("type", std::string());
            stride = type == "VEC2" ? 2 : type == "VEC3" ? 3 : type == "VEC4" ? 4 : 0;
            if (stride >= width)
                values = numbers(accessor, stride);
            if (!values.empty() && found == m_raw.attributes.end())
                found = m_raw.attributes.insert(found, {std::string(name), mesh::Domain::Corner, width, {}});
        }
        if (found == m_raw.attributes.end())
            return;
        found->values.resize(firstCorner * width, 0); // of primitives that had none
        const bool isTurned = name == kTexture;       // v counts down in the file
        for (const std::uint32_t p : points)
            for (std::size_t k = 0; k < width; ++k) {
                const std::size_t i = p * stride + k;
                const float v = i < values.size() ? values[i] : 0;
                found->values.push_back(isTurned && k == 1 ? 1 - v : v);
            }
    }

    void readPrimitive(const json &p, const Placement &place)
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
        if ((m_corners += 3 * all.size()) > kMostCorners) {
            m_problem = "its parts repeat to more than a thousand million corners";
            return;
        }
        const std::size_t firstCorner = m_raw.corners.size();
        std::vector<std::uint32_t> corners; // by number in the accessor
        // One accessor may serve thousands of primitives, each of a few faces: only the points of those come in, once for all
        // primitives of the mesh.
        Placed &placed = m_placed[accessor];
        placed.at.resize(from.size(), kNone);
        const auto corner = [&](std::uint32_t c) {
            corners.push_back(c);
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
        readCorners(p["attributes"], kColour, "COLOR_0", 3, firstCorner, corners);
        readCorners(p["attributes"], kTexture, "TEXCOORD_0", 2, firstCorner, corners);
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
    RawScene m_scene;
    /// A mesh at a node.
    struct Use {
        std::size_t mesh = 0;
        Placement place;
        std::string name;
    };
    std::vector<Use> m_uses;
    std::vector<std::size_t> m_materials; ///< by shape
    RawMesh m_raw;                        ///< the mesh in hand, and what follows about it
    std::size_t m_material = 0, m_corners = 0;
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

Result<RawScene> readGltf(std::span<const std::byte> file, const std::filesystem::path &path, const Progress &progress)
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
        return Reader(std::move(doc), std::move(*buffers)).run(progress);
    } catch (const std::exception &e) {
        return malformed(e.what());
    }
}

} // namespace bonemoss::io
