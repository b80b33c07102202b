#pragma once

#include "document/creature.h"
#include "mesh/poly_mesh.h"

#include <string>

namespace bonemoss::test {

/// A ball of rings and sectors with triangles at its poles.
mesh::PolyMesh sphere(float radius, std::uint32_t rings, std::uint32_t sectors, Vec3f centre = {});
mesh::PolyMesh torus(float ring, float tube, std::uint32_t around, std::uint32_t across);
mesh::PolyMesh box(Vec3f lo, Vec3f hi);
/// n by n quads in the plane y = 0, side mm long, middle at the origin, facing up.
mesh::PolyMesh plane(float side, std::uint32_t n);
/// Path of a mesh that Debian ships with CGAL; empty when the test data is not there.
std::string cgalMesh(const char *name);

} // namespace bonemoss::test
