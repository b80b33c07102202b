#include "io/scene.h"

#include <algorithm>
#include <cstring>
#include <unordered_map>
#include <utility>

namespace bonemoss::io {

Shape::Shape(std::string shapeName, std::shared_ptr<const mesh::PolyMesh> mesh)
    : name(std::move(shapeName)), m_mesh(std::move(mesh)), m_points(m_mesh->positions.size())
{}

Shape::Shape(std::string shapeName, mesh::PolyMesh mesh)
    : Shape(std::move(shapeName), std::shared_ptr<const mesh::PolyMesh>(std::make_shared<mesh::PolyMesh>(std::move(mesh))))
{
    m_isOwn = true;
}

Shape::Shape(std::string shapeName, const mesh::Surface &surface)
    : name(std::move(shapeName)), m_surface(surface), m_points(surface.positions.size())
{
    if (!surface.topology || surface.topology->unusedCount() == 0)
        return;
    m_numbers.assign(surface.positions.size(), 0);
    for (std::size_t b = 0; b < surface.topology->blockCount(); ++b)
        for (const std::uint16_t l : surface.topology->block(b).unused())
            m_numbers[b * mesh::kBlockSize + l] = kNone;
    m_points = 0;
    for (std::uint32_t &n : m_numbers)
        n = n == kNone ? kNone : std::uint32_t(m_points++);
}

std::size_t Shape::faceCount() const
{
    return m_mesh ? m_mesh->faces.size() : m_surface.topology ? m_surface.topology->faceCount() : 0;
}

std::size_t Shape::triangleCount() const
{
    std::size_t n = 0;
    eachOwnFace([&](const mesh::Face &f) { n += std::size_t(f.size()) - 2; });
    return n;
}

Box3f Shape::box() const
{
    return m_mesh ? mesh::boundsOf(m_mesh->positions) : m_surface.box();
}

const Attribute *Shape::attribute(std::string_view attributeName) const
{
    const auto found =
        std::find_if(attributes.begin(), attributes.end(), [&](const Attribute &a) { return a.name == attributeName; });
    return found == attributes.end() ? nullptr : &*found;
}

mesh::PolyMesh Shape::toPolyMesh() &&
{
    if (m_isOwn && m_mesh.use_count() == 1)
        return std::move(*std::const_pointer_cast<mesh::PolyMesh>(m_mesh));
    return std::as_const(*this).toPolyMesh();
}

mesh::PolyMesh Shape::toPolyMesh() const &
{
    if (m_mesh)
        return *m_mesh;
    mesh::PolyMesh out;
    out.positions.reserve(pointCount());
    out.faces.reserve(faceCount());
    eachPoint([&](Vec3f p) { out.positions.push_back(p); });
    eachFace([&](const mesh::Face &f) { out.faces.push_back(f); });
    return out;
}

Placement operator*(const Placement &a, const Placement &b)
{
    Placement r;
    for (int c = 0; c < 4; ++c)
        for (int i = 0; i < 3; ++i) {
            float sum = 0;
            for (int k = 0; k < 3; ++k)
                sum += a.m[k * 3 + i] * b.m[c * 3 + k];
            r.m[c * 3 + i] = c == 3 ? sum + a.m[9 + i] : sum;
        }
    return r;
}

Object &Scene::add(Shape shape, Material material)
{
    objects.push_back({shape.name, shapes.size(), materials.size()});
    if (material.name.empty())
        material.name = material.colour ? shape.name : "clay";
    shapes.push_back(std::move(shape));
    materials.push_back(std::move(material));
    return objects.back();
}

void Scene::append(Scene other)
{
    const std::size_t firstShape = shapes.size(), firstMaterial = materials.size();
    if (!rig)
        rig = std::move(other.rig);
    std::move(other.shapes.begin(), other.shapes.end(), std::back_inserter(shapes));
    std::move(other.materials.begin(), other.materials.end(), std::back_inserter(materials));
    for (Object &o : other.objects) {
        o.shape += firstShape, o.material += firstMaterial;
        objects.push_back(std::move(o));
    }
}

Box3f Scene::box(std::uint32_t without) const
{
    Box3f all;
    for (const Object &o : objects)
        for (const Placement &place : o.places)
            if (without != 0 && o.item == without)
                continue;
            else if (place == Placement())
                all.add(shapeOf(o).box());
            else
                shapeOf(o).eachPoint([&](Vec3f p) { all.add(place.apply(p)); });
    return all;
}

std::vector<Vec3f> Scene::points(std::uint32_t without) const
{
    std::vector<Vec3f> all;
    for (const Object &o : objects)
        for (const Placement &place : o.places)
            if (without == 0 || o.item != without)
                shapeOf(o).eachPoint([&](Vec3f p) { all.push_back(place.apply(p)); });
    return all;
}

void Scene::leaveOut(std::uint32_t item)
{
    std::erase_if(objects, [&](const Object &o) { return item != 0 && o.item == item; });
}

mesh::Face flipped(const mesh::Face &f)
{
    return f.size() == 3 ? mesh::Face{{f.v[0], f.v[2], f.v[1], kNone}} : mesh::Face{{f.v[0], f.v[3], f.v[2], f.v[1]}};
}

namespace {

void appendTo(mesh::PolyMesh &out, const Scene &scene, const Object &object)
{
    const Shape &shape = scene.shapeOf(object);
    for (const Placement &place : object.places) {
        const auto base = std::uint32_t(out.positions.size());
        const bool isAsItIs = place == Placement(), isTurned = place.isMirroring();
        out.positions.reserve(out.positions.size() + shape.pointCount());
        out.faces.reserve(out.faces.size() + shape.faceCount());
        shape.eachPoint([&](Vec3f p) { out.positions.push_back(isAsItIs ? p : place.apply(p)); });
        shape.eachFace([&](mesh::Face f) {
            for (std::uint32_t &v : f.v)
                v = v == kNone ? kNone : v + base;
            out.faces.push_back(isTurned ? flipped(f) : f);
        });
    }
}

} // namespace

mesh::PolyMesh meshOf(const Scene &scene, const Object &object)
{
    mesh::PolyMesh out;
    appendTo(out, scene, object);
    return out;
}

mesh::PolyMesh joined(const Scene &scene)
{
    mesh::PolyMesh out;
    for (const Object &o : scene.objects)
        appendTo(out, scene, o);
    return out;
}

mesh::PolyMesh joined(Scene &&scene)
{
    if (scene.objects.size() == 1 && scene.objects[0].places == std::vector{Placement()})
        return std::move(scene.shapes[scene.objects[0].shape]).toPolyMesh();
    return joined(scene);
}

Shape splitAtSeams(const Shape &shape)
{
    std::size_t width = 0; // numbers at a corner
    for (const Attribute &a : shape.attributes)
        width += a.domain == mesh::Domain::Corner ? a.width : 0;
    if (width == 0)
        return shape;
    const mesh::PolyMesh from = shape.toPolyMesh();
    mesh::PolyMesh to;
    to.faces.reserve(from.faces.size());
    std::vector<std::uint32_t> pointOf, cornerOf; // of each new point: the old one, and a corner with its numbers
    std::unordered_map<std::string, std::uint32_t> known;
    std::uint32_t corner = 0;
    for (mesh::Face f : from.faces) {
        for (int k = 0; k < f.size(); ++k, ++corner) {
            std::uint32_t &v = f.v[std::size_t(k)];
            std::string key(reinterpret_cast<const char *>(&v), sizeof v);
            for (const Attribute &a : shape.attributes)
                if (a.domain == mesh::Domain::Corner)
                    key.append(reinterpret_cast<const char *>(&a.values[corner * a.width]), a.width * sizeof(float));
            const auto [found, isNew] = known.try_emplace(std::move(key), std::uint32_t(pointOf.size()));
            if (isNew) {
                pointOf.push_back(v), cornerOf.push_back(corner);
                to.positions.push_back(from.positions[v]);
            }
            v = found->second;
        }
        to.faces.push_back(f);
    }
    Shape out(shape.name, std::move(to));
    for (const Attribute &a : shape.attributes) {
        Attribute at{a.name, mesh::Domain::Vertex, a.width, {}};
        for (const std::uint32_t k : a.domain == mesh::Domain::Corner ? cornerOf : pointOf)
            at.values.insert(at.values.end(), &a.values[k * a.width], &a.values[k * a.width] + a.width);
        out.attributes.push_back(std::move(at));
    }
    return out;
}

Shape flattened(const Scene &scene, const Object &object)
{
    Scene one;
    one.add(splitAtSeams(scene.shapeOf(object))).places = object.places;
    Shape out(object.name, meshOf(one, one.objects[0]));
    for (const Attribute &a : one.shapes[0].attributes) {
        out.attributes.push_back({a.name, a.domain, a.width, {}});
        for (std::size_t k = 0; k < object.places.size(); ++k)
            out.attributes.back().values.insert(out.attributes.back().values.end(), a.values.begin(), a.values.end());
    }
    return out;
}

} // namespace bonemoss::io
