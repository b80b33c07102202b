#pragma once

#include "mesh/surface.h"

#include <memory>
#include <span>

namespace bonemoss::mesh {

/// Nearest point of a mesh: the triangle's corners, their weights there, and how far.
struct NearestFace {
    std::array<std::uint32_t, 3> corners{};
    std::array<float, 3> weights{};
    float distance = 0; ///< mm
};

/// Some faces about a point, by number; kNone where there are fewer.
using FacesNear = std::array<std::uint32_t, 4>;

inline Vec3f pointOf(const Surface &s, const NearestFace &at)
{
    return s.positions[at.corners[0]] * at.weights[0] + s.positions[at.corners[1]] * at.weights[1]
           + s.positions[at.corners[2]] * at.weights[2];
}

/// Many nearest-point queries against one mesh, over Embree's hierarchy.
/// Build O(F log F), a query O(log F) near the surface; queries may run on many threads.
class NearestFaces
{
public:
    explicit NearestFaces(const PolyMesh &mesh);
    ~NearestFaces();
    NearestFaces(const NearestFaces &) = delete;
    NearestFaces &operator=(const NearestFaces &) = delete;

    NearestFace find(Vec3f p) const;

private:
    struct Scene;
    std::unique_ptr<Scene> m_scene;
};

/// The same for many points that lie near a surface: points next to each other in the list shall lie near each
/// other in space (as a knit or a skin has them). Each run of them looks at the clusters of faces within `reach`
/// (mm) of it once; a point with nothing in reach is looked up by itself. No hierarchy is built.
/// O(points) for points within reach. Parallel; same result on any number of threads.
std::vector<NearestFace> nearestFaces(const Surface &surface, std::span<const Vec3f> points, float reach);
/// The same on this thread, where what lies beyond reach is left at the largest float.
std::vector<NearestFace> nearestFacesWithin(const Surface &surface, std::span<const Vec3f> points, float reach);

/// The same where the faces about each point are known, as a knit knows them: the nearest of those; a point with none is
/// looked up. O(points). So a thin part's two sides are never taken for each other.
/// mesh  toPolyMesh(surface)
/// kept  the vertex each point is, or kNone
std::vector<NearestFace> nearestFaces(const Surface &surface, const PolyMesh &mesh, std::span<const Vec3f> points,
                                      std::span<const FacesNear> near, std::span<const std::uint32_t> kept);

struct DistanceStats {
    double mean = 0, largest = 0; ///< mm
    std::size_t samples = 0;
};
/// How far points lie from a mesh; at most maxSamples of them, evenly taken.
DistanceStats distanceTo(const PolyMesh &mesh, std::span<const Vec3f> points, std::size_t maxSamples);

} // namespace bonemoss::mesh
