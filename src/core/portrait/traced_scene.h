#pragma once

#include "base/finish.h"
#include "io/scene.h"

#include <memory>
#include <optional>

namespace bonemoss::portrait {

/// What a ray meets first.
struct Meeting {
    Vec3f point;
    Vec3f normal;             ///< unit, towards the ray; of a hair the side that it turns to the ray
    Vec3f tangent;            ///< unit, along a hair; zero on a face
    float along = 0;          ///< from the root of a hair, 0, to its tip, 1
    std::size_t material = 0; ///< in the scene's list
    Vec3f colour{1, 1, 1};    ///< of its points there, linear light, times that of the material
    FinishValues finish{};    ///< of its points there
    Vec3f face;               ///< unit normal of the face itself, outwards; of a hair as normal
    float distance = 0;       ///< from where the ray begins
    float across = 0;         ///< of a hair: -1 to 1 over its width
    float radius = 0;         ///< of a hair, mm
    std::size_t object = 0;   ///< in the scene's list; of hair one of those of its material
    bool isHair() const { return radius > 0; }
};

/// Rays as they were asked for, to be cast again: for measuring.
struct RayLog {
    struct Ray {
        mesh::Ray ray;
        float near = 0, far = 0;
        bool isShadow = false;
    };
    std::vector<Ray> rays;
};

/// A scene as rays meet it: each shape once, all its copies as instances; surfaces block by block, with the normals and colours they
/// have; hair as curves, each hair for itself. What is clear is met by meetClear() alone. Made in O(points of the shapes + copies);
/// memory likewise.
class TracedScene
{
public:
    enum class Upkeep {
        Once, ///< quickest to trace
        Live  ///< quick to follow changes
    };
    explicit TracedScene(io::Scene shown, Upkeep upkeep = Upkeep::Once);
    ~TracedScene();
    TracedScene(const TracedScene &) = delete;
    TracedScene &operator=(const TracedScene &) = delete;

    /// Becomes another scene that differs from this in points of surfaces, places, colours and materials alone: costs what changed.
    /// False, and still the same, where more differs. Of Live ones; no ray may be under way.
    bool follow(io::Scene &shown);

    const io::Scene &scene() const { return m_scene; }
    std::optional<Meeting> meet(const mesh::Ray &ray, float far = 1e30f, float near = 0) const;
    /// The same of what is clear.
    std::optional<Meeting> meetClear(const mesh::Ray &ray, float far = 1e30f, float near = 0) const;
    bool hasClear() const { return m_hasClear; }
    bool isBlocked(Vec3f from, Vec3f direction, float far, float near = 0) const;
    const Box3f &box() const { return m_box; } ///< of all that is shown
    /// Writes rays down from now on, of one thread; null ends it.
    void setLog(RayLog *log) { m_log = log; }
    /// Casts rays again and looks at nothing they meet. Returns how many meet something.
    std::size_t replay(const RayLog &log) const;
    /// Bytes of points, faces and copies, and of the hierarchy.
    std::size_t memoryBytes() const;
    std::size_t hierarchyBytes() const;

private:
    void add(std::size_t part, std::size_t object, std::size_t place, bool isClear);
    void commit();
    bool isOfSameShape(const io::Scene &other) const;
    std::optional<Meeting> meetIn(bool clear, const mesh::Ray &ray, float far, float near) const;

    struct Patch;
    struct Part;
    struct Copy;
    struct Slot;
    struct Embree;
    io::Scene m_scene;
    std::unique_ptr<Embree> m_embree;
    std::vector<std::unique_ptr<Part>> m_parts; ///< of each shape that is met
    std::vector<Copy> m_copies;
    std::vector<Slot> m_slots; ///< by the number of a geometry or instance in the hierarchy
    Box3f m_box;
    bool m_hasClear = false;
    RayLog *m_log = nullptr;
};

} // namespace bonemoss::portrait
