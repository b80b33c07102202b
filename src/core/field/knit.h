#pragma once

#include "base/progress.h"
#include "base/result.h"
#include "mesh/nearest_faces.h"
#include "mesh/surface.h"

#include <span>

namespace bonemoss::field {

/// Signed distance of a solid, sampled in batches.
class DistanceSource
{
public:
    virtual ~DistanceSource() = default;
    /// Encloses the surface.
    virtual Box3f bounds() const = 0;
    /// values[i] = signed distance (mm, negative inside) at points[i], all within `around`. May be an
    /// estimate, but exact in sign and never more than kLipschitz times as large as the true distance; what is
    /// farther off than the border of `around` is from the points may be told as anything that far or farther.
    virtual void sample(const Box3f &around, std::span<const Vec3f> points, std::span<float> values) const = 0;
    /// Whether values are distances and no estimates of them: no two differ by more than their points are apart.
    virtual bool isTrueDistance() const { return false; }
    static constexpr float kLipschitz = 1.05f;
};

/// Seconds spent and what was met on the way.
struct KnitReport {
    double fieldSeconds = 0, contourSeconds = 0;
    std::size_t filledEdges = 0; ///< lattice edges where a hole was closed; 0 for clean input
    std::size_t crumbs = 0;      ///< islands of a few faces that were left out: tips thinner than the spacing
    float spacing = 0;           ///< mm
    std::size_t forecastFaces = 0;
};

struct Knitted {
    mesh::PolyMesh mesh;
    KnitReport report;
    std::vector<mesh::FacesNear> near; ///< faces of the input about each vertex; of knitAgain only
    std::vector<std::uint32_t> kept;   ///< the vertex of the input in whose place each stands, or kNone; of knitAgain only
};

/// How dense a knit shall be: a spacing in mm, or a face count when faces is above 0.
struct Density {
    float spacing = 0;
    std::size_t faces = 0;
};

/// One closed skin of quads about a mesh (or several overlapping shells), or about a distance source.
/// With a face count, coarse knits find the spacing; the count is then met within 3 %.
Result<Knitted> knitMesh(const mesh::PolyMesh &mesh, Density density, const Progress &progress = {});
Result<Knitted> knitSource(const DistanceSource &source, Density density, const Progress &progress = {});

/// The same at a given spacing (mm) without a forecast, for a skin that is knitted again while one works; tells the faces
/// about each vertex. The lattice lies still: knitted again at the same spacing, vertices keep the places they came to, and
/// with them what lies on them, where they would hardly move.
Result<Knitted> knitAgain(const mesh::PolyMesh &mesh, float spacing, const Progress &progress = {});

/// The same at a given spacing (mm) without forecast or report, for a skin that is shown while forms move.
Result<mesh::PolyMesh> previewSource(const DistanceSource &source, float spacing, const Progress &progress = {});

/// Faces a knit at this spacing is expected to have, from a coarse knit. Within 3 % for smooth forms
/// at least 60 cells long. O(coarse knit).
Result<std::size_t> forecastFaces(const DistanceSource &source, float spacing);
Result<std::size_t> forecastFaces(const mesh::PolyMesh &mesh, float spacing);

/// Spacing (mm) at which a knit of a skin has about as many quads as it has now; two triangles count as one. A lattice meets
/// skin of area vector N in (|Nx| + |Ny| + |Nz|) / spacing^2 edges, each of which a quad goes about. O(faces).
float spacingOf(const mesh::Surface &skin);

/// Bytes a skin of that many faces takes, with shown, body and one layer.
constexpr std::size_t forecastBytes(std::size_t faces)
{
    return faces * 76;
}

} // namespace bonemoss::field
