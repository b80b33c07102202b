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

/// A scene as rays meet it: each shape once, all its copies as instances; hair as curves, each hair for itself. What is clear is met by meetClear() alone. Made in O(points of the shapes + copies); memory likewise.
class TracedScene
{
public:
    explicit TracedScene(const io::Scene &shown);
    ~TracedScene();
    TracedScene(const TracedScene &) = delete;
    TracedScene &operator=(const TracedScene &) = delete;

    std::optional<Meeting> meet(const mesh::Ray &ray, float far = 1e30f, float near = 0) const;
    /// The same of what is clear.
    std::optional<Meeting> meetClear(const mesh::Ray &ray, float far = 1e30f, float near = 0) const;
    bool hasClear() const { return m_hasClear; }
    bool isBlocked(Vec3f from, Vec3f direction, float far, float near = 0) const;
    const Box3f &box() const { return m_box; } ///< of all that is shown
    std::size_t memoryBytes() const;           ///< of points and faces, without the hierarchy

private:
    void add(std::size_t part, const io::Placement &place, std::size_t object, std::size_t material, Vec3f tint, bool isClear);
    std::optional<Meeting> meetIn(bool clear, const mesh::Ray &ray, float far, float near) const;

    struct Part;
    struct Copy;
    struct Embree;
    std::unique_ptr<Embree> m_embree;
    std::vector<std::unique_ptr<Part>> m_parts; ///< of each shape that is met
    std::vector<Copy> m_copies;                 ///< by their number in the hierarchy
    Box3f m_box;
    bool m_hasClear = false;
};

} // namespace bonemoss::portrait
