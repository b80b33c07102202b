#pragma once

#include "base/progress.h"
#include "skin/skin.h"

#include <optional>

namespace bonemoss::growth {

using skin::Layer;
using skin::Skin;

/// A stretch of a limb as the armature has it: the line through it, from its root on, and how thick it is.
struct Limb {
    Vec3f from, to; ///< mm
    float fromRadius = 1, toRadius = 1;
    friend bool operator==(const Limb &, const Limb &) = default;
};
/// A place where one limb turns against another.
struct JointSpot {
    Vec3f at;         ///< mm
    Vec3f axis;       ///< unit, along the limb
    Vec3f inside;     ///< unit, towards the inside of the bend; zero when it is straight
    float radius = 1; ///< of the limb there, mm
    friend bool operator==(const JointSpot &, const JointSpot &) = default;
};
/// A short stroke on the skin that says which way things grow, and how large.
struct Guide {
    std::vector<Vec3f> points; ///< mm, two or more
    float size = 1;            ///< times the size of what grows
    friend bool operator==(const Guide &, const Guide &) = default;
};
/// All that a growth follows besides the skin itself.
struct Surroundings {
    std::vector<Limb> limbs;
    std::vector<JointSpot> joints;
    std::vector<Guide> guides;
    std::optional<Vec3f> plane, planeNormal;           ///< of the piece's symmetry
    std::shared_ptr<const image::HeightPicture> stamp; ///< that prints are made of
    mesh::BlockArray<std::uint8_t> sizes; ///< 255: what grows there is a third as large; blank or empty for all alike
    std::size_t flowPoints = 5000;        ///< that the flow is worked out at
};

/// A point of the skin that stands for the skin about it.
struct GroundPoint {
    Vec3f at, normal;
    std::uint32_t vertex = 0;
    std::uint64_t number = 0; ///< random, and the same for the same place whatever the faces
};

/// What growths stand on: the skin as it is without any growth.
struct Ground {
    decltype(mesh::Surface::positions) positions;
    decltype(mesh::Surface::normals) normals;
    std::shared_ptr<const mesh::Topology> topology; ///< whose cells tell how the skin was stretched
    float spacing = 0;                              ///< mean edge, mm
    float area = 0;                                 ///< about, mm^2

    /// One point in each cube of that size that the skin passes through, and for each of six directions it faces there:
    /// the vertex nearest to a random place in the cube. Cubes and places do not hang on the faces, so that the points
    /// stay nearly the same when the skin is knitted again. They are in the order of the vertices. roughly: of
    /// some fifty vertices of a cube, where it has more. O(vertices), parallel, same on any number of threads.
    std::vector<GroundPoint> points(float cube, std::uint64_t seed, bool roughly = false) const;
};

/// Body and painted layers, O(vertices) where there are growths, else shared with what is shown.
Ground groundOf(const Skin &skin);

/// A number that changes when the ground does: XXH3 over its positions. O(vertices), at the speed of memory.
std::uint64_t fingerprint(const Skin &skin);

} // namespace bonemoss::growth
