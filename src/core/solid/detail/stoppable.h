#pragma once

#include "base/progress.h"

#include <CGAL/Polygon_mesh_processing/corefinement.h>

namespace bonemoss::solid::detail {

/// Thrown out of a library's algorithm when nobody wants its result any more; never leaves this module.
struct Stopped {
};

/// Looks at the steps of a corefinement whether it shall stop.
template <typename Mesh> struct StoppableVisitor : CGAL::Polygon_mesh_processing::Corefinement::Default_visitor<Mesh> {
    const Progress *progress = nullptr; ///< borrowed

    explicit StoppableVisitor(const Progress &p) : progress(&p) {}
    void check() const
    {
        if (progress->isCancelled())
            throw Stopped{};
    }
    void progress_filtering_intersections(double) const { check(); }
    void edge_face_intersections_step() const { check(); }
    void intersection_of_coplanar_faces_step() const { check(); }
    void triangulating_faces_step() const { check(); }
    void start_building_output() const { check(); }
    void detect_patches() const { check(); }
};

} // namespace bonemoss::solid::detail
