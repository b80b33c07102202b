#include "solid/combine.h"

#include "solid/detail/cgal_mesh.h"
#include "solid/detail/combine_near.h"
#include "solid/detail/stoppable.h"
#include "solid/holes.h"

#include <CGAL/Polygon_mesh_processing/corefinement.h>
#include <CGAL/Polygon_mesh_processing/orientation.h>
#include <CGAL/Polygon_mesh_processing/self_intersections.h>

#include <fmt/format.h>

namespace bonemoss::solid {

namespace pmp = CGAL::Polygon_mesh_processing;

namespace {

/// Closed, facing outwards.
Result<detail::SurfaceMesh> solidOf(const mesh::PolyMesh &given, const char *which, Combined &out)
{
    detail::SurfaceMesh m = detail::toCgal(given);
    if (!CGAL::is_closed(m)) {
        const Closed closed = closeHoles(detail::fromCgal(m), Fill::Flat);
        if (closed.left > 0)
            return Error{ErrorCode::BadValue, which, "is open, and its border cannot be closed; re-knit it first"};
        out.notes.push_back(fmt::format("the {} was open: {} holes were closed first", which, closed.holes));
        m = detail::toCgal(closed.mesh);
    }
    if (!CGAL::is_closed(m) || !pmp::is_outward_oriented(m))
        pmp::orient_to_bound_a_volume(m);
    if (!pmp::does_bound_a_volume(m))
        return Error{ErrorCode::BadValue, which, "bounds no volume (its shells cross or lie in each other); re-knit it first"};
    return m;
}

Result<Combined> combined(const mesh::PolyMesh &first, const mesh::PolyMesh &second, Boolean how, const Progress &progress)
{
    Combined out;
    if (auto quick = detail::combinedNearSeam(first, second, how, progress)) {
        out.mesh = std::move(*quick);
        return out;
    }
    const detail::StoppableVisitor<detail::SurfaceMesh> visitor(progress);
    visitor.check();
    auto a = solidOf(first, "first piece", out);
    if (!a)
        return a.error();
    visitor.check();
    auto b = solidOf(second, "second piece", out);
    if (!b)
        return b.error();
    visitor.check();
    detail::SurfaceMesh result;
    bool isDone = false;
    try {
        const auto strict = CGAL::parameters::throw_on_self_intersection(true).visitor(visitor);
        isDone = how == Boolean::Join  ? pmp::corefine_and_compute_union(*a, *b, result, strict)
                 : how == Boolean::Cut ? pmp::corefine_and_compute_difference(*a, *b, result, strict)
                                       : pmp::corefine_and_compute_intersection(*a, *b, result, strict);
    } catch (const pmp::Corefinement::Self_intersection_exception &) {
        return Error{ErrorCode::BadValue, "pieces",
                     "one of them crosses itself where they meet; re-knit it first, or join softly"};
    }
    if (!isDone)
        return Error{ErrorCode::BadValue, "pieces", "they touch so that the result would not be a solid; move one a little"};
    if (result.number_of_faces() == 0)
        return Error{ErrorCode::Empty, "pieces",
                     how == Boolean::Common ? "they have nothing in common" : "nothing would be left"};
    out.mesh = detail::withQuads(detail::withQuads(detail::fromCgal(result), first), second);
    return out;
}

} // namespace

Result<Combined> combine(const mesh::PolyMesh &first, const mesh::PolyMesh &second, Boolean how, const Progress &progress)
{
    try {
        return combined(first, second, how, progress);
    } catch (const detail::Stopped &) {
        return Error{ErrorCode::Cancelled, "pieces", "stopped on request"};
    } catch (const CGAL::Failure_exception &) { // what it takes for granted of a mesh is not so
        return Error{ErrorCode::BadValue, "pieces", "one of them touches itself at a point or an edge; re-knit it first"};
    }
}

} // namespace bonemoss::solid
