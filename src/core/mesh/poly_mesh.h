#pragma once

#include "base/types.h"

#include <array>
#include <vector>

namespace bonemoss::mesh {

/// A face of three or four corners, counter-clockwise from outside; v[3] == kNone for a triangle.
struct Face {
    std::array<std::uint32_t, 4> v{kNone, kNone, kNone, kNone};
    constexpr int size() const { return v[3] == kNone ? 3 : 4; }
    friend constexpr bool operator==(const Face &, const Face &) = default;
};

/// Where the values of an attribute lie.
enum class Domain : std::uint8_t {
    Vertex,
    Corner ///< of a face: the faces about a vertex may differ
};

/// Plain mesh as files and algorithms pass it on: positions in mm and faces over them.
struct PolyMesh {
    std::vector<Vec3f> positions;
    std::vector<Face> faces;
    bool isEmpty() const { return faces.empty(); }
};

Box3f boundsOf(const std::vector<Vec3f> &positions);

/// Adds a mesh beside what is there.
void append(PolyMesh &to, const PolyMesh &from);

/// The twin across the middle plane, still facing outwards.
PolyMesh mirrored(PolyMesh mesh);

/// Reorders vertices along a Hilbert curve and faces after them, so that blocks become
/// compact spots. O(n log n).
PolyMesh inSpatialOrder(const PolyMesh &mesh);
/// Whether a mesh in that order can be cut into blocks: none may touch more than 65,534 vertices. False only where thousands of
/// faces meet at thousands of points.
bool fitsBlocks(const PolyMesh &mesh);

/// The triangles of a face with corners at p, by place in the face; a quad is split along its shorter diagonal. The second one of a
/// triangle is empty: its places are equal.
inline std::array<std::array<std::uint8_t, 3>, 2> trianglesOf(const Face &f, const std::array<Vec3f, 4> &p)
{
    if (f.size() == 3)
        return {{{0, 1, 2}, {}}};
    if (squaredLength(p[0] - p[2]) <= squaredLength(p[1] - p[3]))
        return {{{0, 1, 2}, {0, 2, 3}}};
    return {{{0, 1, 3}, {1, 2, 3}}};
}

/// All as triangles, split so.
std::vector<std::array<std::uint32_t, 3>> triangulate(const PolyMesh &mesh);

/// Place of a cell on the Hilbert curve through a cube of 2^bits cells a side (at most 21 bits): cells
/// next to each other on the curve share a side, so that a stretch of it is one compact spot.
std::uint64_t hilbertCode(std::uint32_t x, std::uint32_t y, std::uint32_t z, int bits);

} // namespace bonemoss::mesh
