#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "mesh/poly_mesh.h"

#include <array>
#include <string_view>
#include <vector>

namespace bonemoss::proof {

/// A prism about a line, closed: `sides` corners at `radius` mm about the axis, from `from` to `to`. isKeyed: with one side cut off flat at
/// 0.55 of the radius, so that it fits one way only.
mesh::PolyMesh prism(Vec3f from, Vec3f to, float radius, int sides, bool isKeyed = false);

/// What is in the first solid and not in the second. Hollows stay. Errors as solid::seal.
Result<mesh::PolyMesh> without(const mesh::PolyMesh &solid, mesh::PolyMesh taken, const Progress &progress = {});

/// A closed mesh without bodies that touch nothing and are smaller than `least` mm^3; the largest stays. dropped: set to how many.
mesh::PolyMesh withoutLoose(const mesh::PolyMesh &solid, double least, std::size_t &dropped);

struct HollowJob {
    float wall = 2;    ///< mm
    float hole = 3;    ///< mm, diameter of drain holes
    int holes = 2;     ///< at most this many; 0 for none
    float spacing = 0; ///< mm of the faces inside; 0: a quarter of the wall
    bool makesPlugs = false;
};
struct Hollowed {
    mesh::PolyMesh mesh;
    std::vector<mesh::PolyMesh> plugs; ///< for the holes, a tenth of a mm narrower all round
    std::vector<Vec3f> holes;          ///< where they come out
    double taken = 0;                  ///< mm^3 of material saved
    std::size_t hollows = 0;
};
/// Takes out what lies deeper than the wall, by distance, and drills holes down from where resin collects; the second one where it
/// collects next, far from the first. Errors: BadValue where nothing lies so deep, and as solid::seal.
Result<Hollowed> hollow(const mesh::PolyMesh &body, const HollowJob &job, const Progress &progress = {});

enum class Peg { None, Round, Square, Keyed };
inline constexpr std::array<std::string_view, 4> kPegNames{"none", "round", "square", "keyed"};
struct PartJob {
    Vec3f point, normal{0, 1, 0}; ///< the plane; the normal looks to the part that gets the socket
    Peg peg = Peg::Keyed;
    float size = 0;         ///< mm, diameter; 0: by the room there is
    float length = 0;       ///< mm; 0: as long as it is wide
    float clearance = 0.1f; ///< mm all round
};
struct Parted {
    mesh::PolyMesh pegged, socketed;
    float size = 0, length = 0; ///< mm of the peg; 0 where there was no room
};
/// Cuts a solid by a plane. Pegs stand in the middle of the largest face of the cut. Errors: Empty where the plane misses it, and as
/// solid::seal.
Result<Parted> part(const mesh::PolyMesh &body, const PartJob &job, const Progress &progress = {});

enum class BaseShape { Disc, Oval, Plinth, Rock };
inline constexpr std::array<std::string_view, 4> kBaseNames{"disc", "oval", "plinth", "rock"};
struct BaseJob {
    BaseShape shape = BaseShape::Oval;
    float height = 5, margin = 5; ///< mm; beyond what stands on it
    float sink = 0.3f;            ///< mm that the feet go into it
    std::uint32_t seed = 1;       ///< of a rock
};
/// A base under what stands lowest in a body. O(points).
mesh::PolyMesh baseFor(const mesh::PolyMesh &body, const BaseJob &job);

/// A body with what lies lower than `mm` above its lowest point cut off, so that it stands on flat soles.
Result<mesh::PolyMesh> flattened(const mesh::PolyMesh &body, float mm, const Progress &progress = {});

struct Thickened {
    mesh::PolyMesh mesh;
    std::size_t moved = 0, left = 0; ///< points; of them those that are thinner still
    float most = 0;                  ///< mm
};
/// Moves the surface outwards where the solid under it is thinner than `wall` mm, by half of what is missing on both sides, evened out
/// with what lies beside; all else stays. Faces stay the same. Empty where nothing is too thin. O(points * log faces), three rounds.
Result<Thickened> thickened(const mesh::PolyMesh &body, float wall, const Progress &progress = {});

} // namespace bonemoss::proof
