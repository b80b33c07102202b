#include "solid/crossings.h"

#include "solid/detail/cgal_mesh.h"

#include <CGAL/Polygon_mesh_processing/self_intersections.h>

#include <iterator>
#include <utility>
#include <vector>

namespace bonemoss::solid {

std::size_t selfCrossings(const mesh::PolyMesh &mesh)
{
    const detail::SurfaceMesh s = detail::toCgal(mesh);
    std::vector<std::pair<detail::SurfaceMesh::Face_index, detail::SurfaceMesh::Face_index>> found;
    CGAL::Polygon_mesh_processing::self_intersections(s, std::back_inserter(found));
    return found.size();
}

} // namespace bonemoss::solid
