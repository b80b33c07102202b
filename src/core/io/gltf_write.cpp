// glTF 2.0 in its binary form, written stretch by stretch.
#include "io/gltf_words.h"
#include "io/mesh_file.h"

#include <algorithm>
#include <charconv>
#include <limits>
#include <nlohmann/json.hpp>
#include <span>

namespace bonemoss::io {

using nlohmann::json;

namespace {

/// Lists of a file's JSON, and what its binary chunk will hold.
struct Lists {
    json nodes = json::array(), meshes = json::array(), materials = json::array(), accessors = json::array(),
         views = json::array(), roots = json::array();
    std::size_t bytes = 0;
    bool isForRig = false; ///< what is added is no vertex's

    /// An accessor of 4-byte values with a view of its own; returns its number.
    std::size_t add(std::size_t count, const char *type, std::size_t width, int componentType, json more = json::object())
    {
        views.push_back({{"buffer", 0}, {"byteOffset", bytes}, {"byteLength", count * width * 4}});
        if (!isForRig)
            views.back()["target"] = componentType == 5125 ? 34963 : 34962;
        bytes += count * width * 4; // whole 4-byte values: the next begins aligned
        json accessor{{"bufferView", views.size() - 1}, {"componentType", componentType}, {"count", count}, {"type", type}};
        accessor.update(more);
        accessors.push_back(std::move(accessor));
        return accessors.size() - 1;
    }
};

Vec3f inMetres(Vec3f p)
{
    return p * (1 / kMmPerMetre);
}

/// The attributes of a shape that glTF has: number of values at a point, and its word for them.
struct GltfAttribute {
    std::string_view name;
    const char *key, *type;
    std::size_t width;
};
constexpr GltfAttribute kAttributes[] = {{kColour, "COLOR_0", "VEC3", 3}, {kTexture, "TEXCOORD_0", "VEC2", 2}};

const Attribute *find(const Shape &shape, const GltfAttribute &a)
{
    const Attribute *found = shape.attribute(a.name);
    return found && found->width >= a.width ? found : nullptr;
}

/// As few digits as give the same float again.
double inFewDigits(float v)
{
    char text[32];
    const auto end = std::to_chars(text, text + sizeof text, v).ptr;
    double out = double(v);
    std::from_chars(text, end, out);
    return out;
}

json matrixOf(const Placement &place)
{
    json m = json::array();
    for (int c = 0; c < 4; ++c) {
        for (int i = 0; i < 3; ++i)
            m.push_back(inFewDigits(c < 3 ? place.m[c * 3 + i] : place.m[9 + i] / kMmPerMetre));
        m.push_back(c < 3 ? 0 : 1);
    }
    return m;
}

/// Whether its points are bound to joints; four of them, and no more than bytes can count.
bool isBound(const Shape &shape)
{
    const Attribute *joints = shape.attribute(kJoints), *weights = shape.attribute(kWeights);
    return joints && weights && joints->width == 4 && weights->width == 4 && joints->values.size() == 4 * shape.pointCount()
           && weights->values.size() == joints->values.size();
}

void listShape(Lists &lists, const Shape &shape, std::size_t material)
{
    Box3f box; // as rounded in the file
    shape.eachPoint([&](Vec3f p) { box.add(inMetres(p)); });
    json attributes{{"POSITION", lists.add(shape.pointCount(), "VEC3", 3, 5126,
                                           {{"min", {box.lo.x, box.lo.y, box.lo.z}}, {"max", {box.hi.x, box.hi.y, box.hi.z}}})}};
    for (const GltfAttribute &a : kAttributes)
        if (find(shape, a))
            attributes[a.key] = lists.add(shape.pointCount(), a.type, a.width, 5126);
    if (isBound(shape)) { // four bytes each
        attributes["JOINTS_0"] = lists.add(shape.pointCount(), "VEC4", 1, 5121);
        attributes["WEIGHTS_0"] = lists.add(shape.pointCount(), "VEC4", 1, 5121, {{"normalized", true}});
    }
    const std::size_t indices = lists.add(shape.triangleCount() * 3, "SCALAR", 1, 5125);
    lists.meshes.push_back(
        {{"name", shape.name}, {"primitives", {{{"attributes", attributes}, {"indices", indices}, {"material", material}}}}});
}

/// Where a mesh stands.
struct Stand {
    std::size_t mesh;
    Placement place;
    std::uint32_t joint = kNone; ///< that it goes with
};

/// A node for an object, or one above a node for each of its copies.
void listObject(Lists &lists, const std::string &name, std::span<const Stand> stands)
{
    const auto add = [&](const Stand &stand) {
        json n{{"mesh", stand.mesh}};
        if (stands.size() == 1) // copies are below a node of that name
            n["name"] = name;
        if (stand.place != Placement())
            n["matrix"] = matrixOf(stand.place);
        lists.nodes.push_back(std::move(n));
        return lists.nodes.size() - 1;
    };
    if (stands.size() == 1) {
        lists.roots.push_back(add(stands[0]));
        return;
    }
    json children = json::array();
    for (const Stand &stand : stands)
        children.push_back(add(stand));
    lists.roots.push_back(lists.nodes.size());
    lists.nodes.push_back({{"name", name}, {"children", children}});
}

void putShape(ByteStream &out, const Shape &shape)
{
    shape.eachPoint([&](Vec3f p) { out.putRaw(inMetres(p)), out.advance(1); });
    for (const GltfAttribute &a : kAttributes)
        if (const Attribute *values = find(shape, a))
            for (std::size_t i = 0; i < shape.pointCount(); ++i)
                for (std::size_t k = 0; k < a.width; ++k) {
                    const float v = values->values[i * values->width + k];
                    out.putRaw(a.name == kTexture && k == 1 ? 1 - v : v);
                }
    if (isBound(shape))
        for (const std::string_view name : {kJoints, kWeights})
            for (const float v : shape.attribute(name)->values)
                out.putRaw(std::uint8_t(v));
    shape.eachTriangle([&](const auto &, const std::array<std::uint32_t, 3> &t) { out.putRaw(t), out.advance(0.5); });
}

/// A rig's nodes, below one node; what its skin and its poses hold comes after the shapes. Returns the first joint's node.
std::size_t listRig(Lists &lists, const Rig &rig, json &doc)
{
    const std::size_t first = lists.nodes.size();
    json roots = json::array(), joints = json::array();
    for (std::size_t j = 0; j < rig.joints.size(); ++j) {
        const Rig::Joint &joint = rig.joints[j];
        const Vec3f at = inMetres(joint.parent == kNone ? rig.now.heads[j] : joint.head - rig.joints[joint.parent].head);
        const Quat q = rig.now.turns[j];
        lists.nodes.push_back({{"name", joint.name}, {"translation", {at.x, at.y, at.z}}, {"rotation", {q.x, q.y, q.z, q.w}}});
        joints.push_back(first + j);
        if (joint.parent == kNone)
            roots.push_back(first + j);
        else
            lists.nodes[first + joint.parent]["children"].push_back(first + j);
    }
    lists.roots.push_back(lists.nodes.size());
    lists.nodes.push_back({{"name", "Bones"}, {"children", roots}});
    lists.isForRig = true;
    doc["skins"] = {{{"joints", joints},
                     {"skeleton", lists.nodes.size() - 1},
                     {"inverseBindMatrices", lists.add(rig.joints.size(), "MAT4", 16, 5126)}}};
    if (rig.stands.empty())
        return first;
    const std::size_t time = lists.add(1, "SCALAR", 1, 5126, {{"min", {0}}, {"max", {0}}});
    for (const Rig::Stand &stand : rig.stands) {
        json channels = json::array(), samplers = json::array();
        const auto add = [&](std::size_t node, const char *path, std::size_t values) {
            channels.push_back({{"sampler", samplers.size()}, {"target", {{"node", node}, {"path", path}}}});
            samplers.push_back({{"input", time}, {"output", values}, {"interpolation", "STEP"}});
        };
        for (std::size_t j = 0; j < rig.joints.size(); ++j) {
            add(first + j, "rotation", lists.add(1, "VEC4", 4, 5126));
            if (rig.joints[j].parent == kNone)
                add(first + j, "translation", lists.add(1, "VEC3", 3, 5126));
        }
        doc["animations"].push_back({{"name", stand.name}, {"channels", channels}, {"samplers", samplers}});
    }
    return first;
}

void putRig(ByteStream &out, const Rig &rig)
{
    for (const Rig::Joint &joint : rig.joints) { // back from where it stands at rest
        const Vec3f at = inMetres(joint.head);
        for (const float v : {1.0f, 0.0f, 0.0f, 0.0f, 0.0f, 1.0f, 0.0f, 0.0f, 0.0f, 0.0f, 1.0f, 0.0f, -at.x, -at.y, -at.z, 1.0f})
            out.putRaw(v);
    }
    if (rig.stands.empty())
        return;
    out.putRaw(0.0f);
    for (const Rig::Stand &stand : rig.stands)
        for (std::size_t j = 0; j < rig.joints.size(); ++j) {
            const Quat q = stand.turns[j];
            for (const float v : {q.x, q.y, q.z, q.w})
                out.putRaw(v);
            if (rig.joints[j].parent == kNone)
                out.putRaw(inMetres(stand.heads[j]));
        }
}

} // namespace

void writeGlb(const Scene &scene, ByteStream &out)
{
    Lists lists;
    std::vector<Shape> shapes;                                       // with attributes at points
    std::vector<std::size_t> meshOf(2 * scene.shapes.size(), kNone); // as it is, and mirrored
    json doc = {{"asset", {{"version", "2.0"}, {"generator", "Bone Moss"}}}};
    const bool hasRig = scene.rig && !scene.rig->joints.empty() && scene.rig->joints.size() <= 256;
    std::size_t firstJoint = 0;
    std::vector<std::pair<std::string, Stand>> hanging; // below joints, which come after the shapes
    const auto bind = [&](const Shape &shape) {
        if (hasRig && isBound(shape))
            lists.nodes.back()["skin"] = 0;
    };
    const auto hang = [&](const std::string &name, const std::vector<Stand> &stands) {
        for (const Stand &stand : stands)
            hanging.emplace_back(name, stand);
    };
    for (const Object &o : scene.objects) {
        if (scene.shapeOf(o).faceCount() == 0)
            continue;
        // Many programs leave faces inside out below a node that mirrors, against the standard: a pair of twins is one mesh, and of more
        // the mirrored ones are copies of a mirrored mesh.
        const auto isMirroring = [](const Placement &p) { return p.isMirroring(); };
        if (o.joints.empty() && o.places.size() <= 2 && std::any_of(o.places.begin(), o.places.end(), isMirroring)) {
            shapes.push_back(flattened(scene, o));
            listShape(lists, shapes.back(), o.material);
            const Stand one{shapes.size() - 1, {}};
            listObject(lists, o.name, {&one, 1});
            bind(shapes.back());
            continue;
        }
        std::vector<Stand> stands;
        for (std::size_t k = 0; k < o.places.size(); ++k) {
            const Placement &place = o.places[k];
            const bool isMirrored = place.isMirroring();
            std::size_t &mesh = meshOf[2 * o.shape + isMirrored];
            if (mesh == kNone) {
                mesh = shapes.size();
                const Object mirrored{o.name, o.shape, o.material, {Placement::mirroring()}};
                shapes.push_back(isMirrored ? flattened(scene, mirrored) : splitAtSeams(scene.shapeOf(o)));
                listShape(lists, shapes.back(), o.material);
            }
            stands.push_back({mesh, isMirrored ? place * Placement::mirroring() : place, o.joints.empty() ? kNone : o.joints[k]});
        }
        if (scene.rig && !o.joints.empty()) {
            hang(o.name, stands);
            continue;
        }
        listObject(lists, o.name, stands);
        if (stands.size() == 1)
            bind(shapes[stands[0].mesh]);
    }
    for (const Material &m : scene.materials) {
        const Vec3f colour = m.colour.value_or(Vec3f{0.62f, 0.57f, 0.49f});
        lists.materials.push_back({{"name", m.name},
                                   {"pbrMetallicRoughness",
                                    {{"baseColorFactor", {colour.x, colour.y, colour.z, m.opacity}},
                                     {"metallicFactor", 0.0},
                                     {"roughnessFactor", m.isGlossy ? 0.3 : 0.8}}}});
        if (m.opacity < 1)
            lists.materials.back()["alphaMode"] = "BLEND";
    }
    if (hasRig)
        firstJoint = listRig(lists, *scene.rig, doc);
    for (const auto &[name, stand] : hanging) {
        Placement place = stand.place;
        const bool hasJoint = hasRig && stand.joint < scene.rig->joints.size();
        if (hasJoint) {
            const Vec3f head = scene.rig->joints[stand.joint].head;
            place.m[9] -= head.x, place.m[10] -= head.y, place.m[11] -= head.z;
            lists.nodes[firstJoint + stand.joint]["children"].push_back(lists.nodes.size());
        } else {
            lists.roots.push_back(lists.nodes.size());
        }
        lists.nodes.push_back({{"name", name}, {"mesh", stand.mesh}, {"matrix", matrixOf(place)}});
    }
    if (!lists.nodes.empty()) // the standard wants no empty lists
        doc.update({{"scene", 0},
                    {"scenes", {{{"nodes", lists.roots}}}},
                    {"nodes", lists.nodes},
                    {"meshes", lists.meshes},
                    {"materials", lists.materials},
                    {"accessors", lists.accessors},
                    {"bufferViews", lists.views},
                    {"buffers", {{{"byteLength", lists.bytes}}}}});
    std::string text = doc.dump(-1, ' ', false, json::error_handler_t::replace);
    text.resize((text.size() + 3) / 4 * 4, ' ');
    const auto put = [&](std::size_t v) { out.putRaw(std::uint32_t(v)); };
    const std::size_t size = 12 + 8 + text.size() + (lists.bytes == 0 ? 0 : 8 + lists.bytes);
    if (size > std::numeric_limits<std::uint32_t>::max())
        throw Failure{{ErrorCode::TooLarge, "", "a glTF binary holds at most 4 GB"}};
    put(kGlbMagic), put(2), put(size);
    put(text.size()), put(kJsonChunk);
    out.put(text);
    if (lists.bytes > 0) {
        put(lists.bytes), put(kBinChunk);
        for (const Shape &s : shapes)
            putShape(out, s);
        if (hasRig)
            putRig(out, *scene.rig);
    }
}

} // namespace bonemoss::io
