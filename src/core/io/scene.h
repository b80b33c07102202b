#pragma once

#include "base/finish.h"
#include "mesh/curves.h"
#include "mesh/surface.h"

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::io {

// Names of attributes that several file formats know.
inline constexpr std::string_view kJoints = "joints";               ///< four numbers of joints of the rig; with kWeights
inline constexpr std::string_view kWeights = "weights";             ///< how much each of them moves a point, 255 in all
inline constexpr std::string_view kFinish = "finish";               ///< as FinishValues; of pictures alone
inline constexpr std::string_view kColour = "colours";              ///< red, green, blue (and opacity), 0 to 1, linear light
inline constexpr std::string_view kTexture = "texture coordinates"; ///< u to the right, v up, 0 to 1 over the picture

/// Numbers at the points of a shape, or at the corners of its faces.
struct Attribute {
    std::string name; ///< one of those above, or the file's own
    mesh::Domain domain = mesh::Domain::Vertex;
    std::size_t width = 1;     ///< numbers at each point or corner
    std::vector<float> values; ///< width for each point by number, or for each corner, face by face
};

/// Faces of three or four corners over points, mm, +Y up. The mesh is shared with whoever made it, never copied; points that no
/// face uses do not count. Copying a shape costs nothing but its attributes.
class Shape
{
public:
    Shape(std::string shapeName, std::shared_ptr<const mesh::PolyMesh> mesh);
    Shape(std::string shapeName, mesh::PolyMesh mesh);
    /// Shares the surface's blocks. O(blocks); with unused vertices O(vertices).
    Shape(std::string shapeName, const mesh::Surface &surface);

    std::string name;
    std::vector<Attribute> attributes;
    /// What the faces thicken: drawn and traced in their place. Files and checks take the faces.
    std::shared_ptr<const mesh::Curves> curves;

    std::size_t pointCount() const { return m_points; }
    std::size_t faceCount() const;
    std::size_t triangleCount() const; ///< when each quad is cut into two; O(faces)
    std::size_t cornerCount() const { return triangleCount() + 2 * faceCount(); }
    Box3f box() const;
    const Attribute *attribute(std::string_view attributeName) const;

    /// Calls use(point) for all points in order of their numbers.
    template <typename Use> void eachPoint(const Use &use) const
    {
        if (m_mesh)
            for (const Vec3f p : m_mesh->positions)
                use(p);
        else
            for (std::size_t b = 0; b < m_surface.positions.blockCount(); ++b)
                eachOfBlock(b, use);
    }
    /// Calls use(point) for all points as low as this, and some more: blocks that lie higher are not looked at.
    template <typename Use> void eachPointBelow(float y, const Use &use) const
    {
        if (m_mesh)
            return eachPoint(use);
        for (std::size_t b = 0; b < m_surface.positions.blockCount(); ++b)
            if (m_surface.bounds[b]->box.lo.y <= y)
                eachOfBlock(b, use);
    }
    /// Calls use(face) for all faces, with the numbers of its points.
    template <typename Use> void eachFace(const Use &use) const
    {
        eachOwnFace([&](mesh::Face f) {
            for (std::uint32_t &v : f.v)
                v = v == kNone ? kNone : numberOf(v);
            use(f);
        });
    }
    /// Calls use(points, count, faceOf) for patches that together are the shape: faceOf(i) is a face over those points. Patches of a
    /// surface are its blocks, so that what is worked out of the points stays near in memory.
    template <typename Use> void eachPatch(const Use &use) const
    {
        if (m_mesh)
            return use(std::span(m_mesh->positions), m_mesh->faces.size(), [this](std::size_t i) { return m_mesh->faces[i]; });
        std::vector<Vec3f> points;
        for (std::size_t b = 0; m_surface.topology && b < m_surface.topology->blockCount(); ++b) {
            mesh::gatherPositions(m_surface, b, points);
            const mesh::BlockFaces &block = m_surface.topology->block(b);
            use(std::span<const Vec3f>(points), std::size_t(block.drawnFaces), [&block](std::size_t i) {
                const auto &l = block.faces[i].v;
                return mesh::Face{{l[0], l[1], l[2], l[3] == mesh::kLocalNone ? kNone : l[3]}};
            });
        }
    }
    /// Calls use(corners, numbers): points and their numbers of all triangles, quads being cut along their shorter diagonal.
    template <typename Use> void eachTriangle(const Use &use) const
    {
        eachOwnFace([&](const mesh::Face &f) {
            std::array<Vec3f, 4> p;
            for (int k = 0; k < f.size(); ++k)
                p[std::size_t(k)] = at(f.v[std::size_t(k)]);
            for (const auto &t : mesh::trianglesOf(f, p))
                if (t[0] != t[1])
                    use(std::array{p[t[0]], p[t[1]], p[t[2]]},
                        std::array{numberOf(f.v[t[0]]), numberOf(f.v[t[1]]), numberOf(f.v[t[2]])});
        });
    }
    /// As a plain mesh: a copy, or what it held when nobody else holds it.
    mesh::PolyMesh toPolyMesh() const &;
    mesh::PolyMesh toPolyMesh() &&;
    /// The plain mesh, as it was given: the same pointer is the same mesh. Null where it is a surface in blocks.
    const std::shared_ptr<const mesh::PolyMesh> &plainMesh() const { return m_mesh; }
    /// The surface in blocks, or null where it is a plain mesh.
    const mesh::Surface *surface() const { return m_mesh ? nullptr : &m_surface; }
    /// The number of a point among those that faces use, of a vertex of the surface or mesh.
    std::uint32_t numberOf(std::uint32_t v) const { return m_numbers.empty() ? v : m_numbers[v]; }

private:
    template <typename Use> void eachOwnFace(const Use &use) const
    {
        if (m_mesh) {
            for (const mesh::Face &f : m_mesh->faces)
                use(f);
        } else if (m_surface.topology) {
            for (std::size_t b = 0; b < m_surface.topology->blockCount(); ++b) {
                const mesh::BlockFaces &block = m_surface.topology->block(b);
                const auto first = std::uint32_t(b * mesh::kBlockSize);
                const auto whole = [&](std::uint16_t l) { return l < block.own ? first + l : block.borrowed[l - block.own]; };
                for (std::size_t i = 0; i < block.drawnFaces; ++i) {
                    const auto &l = block.faces[i].v;
                    use(mesh::Face{{whole(l[0]), whole(l[1]), whole(l[2]), l[3] == mesh::kLocalNone ? kNone : whole(l[3])}});
                }
            }
        }
    }
    template <typename Use> void eachOfBlock(std::size_t b, const Use &use) const
    {
        const Vec3f *p = m_surface.positions.data(b);
        for (std::size_t l = 0; l < m_surface.positions.countIn(b); ++l)
            if (m_numbers.empty() || m_numbers[b * mesh::kBlockSize + l] != kNone)
                use(p ? p[l] : Vec3f{}); // a block of zeros need not be there
    }
    Vec3f at(std::uint32_t v) const { return m_mesh ? m_mesh->positions[v] : m_surface.positions[v]; }

    std::shared_ptr<const mesh::PolyMesh> m_mesh; ///< or else the surface
    bool m_isOwn = false;                         ///< made here, not given
    mesh::Surface m_surface;
    std::vector<std::uint32_t> m_numbers; ///< of each vertex, where some are unused
    std::size_t m_points = 0;
};

/// What light does on a shape.
struct Material {
    std::string name;
    std::optional<Vec3f> colour{};    ///< linear light; clay when there is none
    bool isGlossy = false;            ///< an eye, a tooth
    float opacity = 1;                ///< 0 clear
    std::optional<Vec3f> tipColour{}; ///< of curves, at their ends
    Finish finish{};                  ///< what is said of it
    Scattering inside{};              ///< of what is translucent
};

/// A linear map and a translation, column by column.
struct Placement {
    float m[12] = {1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0};

    static Placement mirroring() { return {{-1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0}}; } ///< across the middle plane
    Vec3f apply(Vec3f p) const
    {
        return {m[0] * p.x + m[3] * p.y + m[6] * p.z + m[9], m[1] * p.x + m[4] * p.y + m[7] * p.z + m[10],
                m[2] * p.x + m[5] * p.y + m[8] * p.z + m[11]};
    }
    /// What is outside would be inside: faces have to be reversed.
    bool isMirroring() const
    {
        const Vec3f x{m[0], m[1], m[2]}, y{m[3], m[4], m[5]}, z{m[6], m[7], m[8]};
        return dot(cross(x, y), z) < 0;
    }
    /// b first, then a.
    friend Placement operator*(const Placement &a, const Placement &b);
    friend bool operator==(const Placement &, const Placement &) = default;
};

/// A shape as it stands in a scene, once or several times: with a twin, in copies.
struct Object {
    std::string name;
    std::size_t shape = 0, material = 0; ///< in the scene's lists
    std::vector<Placement> places{Placement()};
    std::vector<std::uint32_t> joints{}; ///< that each place goes with; empty where none does
    std::vector<Vec3f> tints{};          ///< of each place, times its colours, linear light; empty for none. Pictures have them
    std::uint32_t item = 0;              ///< of the creature that it shows; 0 where that is not known
};

/// Bones that points are bound to by their attributes, and copies by their object. Axes are those of the scene at rest.
struct Rig {
    struct Joint {
        std::string name;
        std::uint32_t parent = kNone; ///< before it
        Vec3f head;                   ///< mm, at rest
    };
    /// How the joints stand: each turned against its parent, and (mm) where those without one are.
    struct Stand {
        std::string name;
        std::vector<Quat> turns;
        std::vector<Vec3f> heads; ///< of all; what counts is that of joints without a parent
    };
    std::vector<Joint> joints;
    Stand now;
    std::vector<Stand> stands; ///< poses by name
};

/// What files hold, and what pictures and checks look at. Millimetres, +Y up.
struct Scene {
    std::vector<Shape> shapes;
    std::vector<Material> materials;
    std::vector<Object> objects;
    std::shared_ptr<const Rig> rig; ///< null for none

    bool isEmpty() const { return objects.empty(); }
    /// A shape of its own that stands once, of a material of its own.
    Object &add(Shape shape, Material material = {});
    /// All of another scene. O(its shapes, materials and objects).
    void append(Scene scene);
    const Shape &shapeOf(const Object &o) const { return shapes[o.shape]; }
    const Material &materialOf(const Object &o) const { return materials[o.material]; }
    // Of all, or without what shows an item.
    Box3f box(std::uint32_t without = 0) const;                 ///< O(objects), of those that are turned or copied O(points)
    std::vector<Vec3f> points(std::uint32_t without = 0) const; ///< as they stand; O(points)
    void leaveOut(std::uint32_t item);
};

/// The face with its corners reversed, as a mirrored placement needs it.
mesh::Face flipped(const mesh::Face &f);
/// One object as a plain mesh, all its copies in place.
mesh::PolyMesh meshOf(const Scene &scene, const Object &object);
/// All objects as one plain mesh.
mesh::PolyMesh joined(const Scene &scene);
mesh::PolyMesh joined(Scene &&scene); ///< without a copy where it is one mesh
/// The same shape with all attributes at points: points are split where corners about them differ. O(corners).
Shape splitAtSeams(const Shape &shape);
/// One object with all its copies as one shape, its attributes at points.
Shape flattened(const Scene &scene, const Object &object);

} // namespace bonemoss::io
