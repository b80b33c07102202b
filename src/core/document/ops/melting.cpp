#include "document/ops/melting.h"

#include "base/parallel.h"
#include "field/knit.h"
#include "mesh/nearest_faces.h"
#include "solid/combine.h"
#include "solid/patch_in.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace bonemoss::document {

namespace {

using Pieces = std::span<const std::shared_ptr<const Piece>>;

/// What of a solid lies in a box.
class Within final : public field::DistanceSource
{
public:
    Within(const field::DistanceSource &whole, const Box3f &box) : m_whole(whole), m_box(box) {}
    Box3f bounds() const override { return m_box; }
    void sample(const Box3f &around, std::span<const Vec3f> points, std::span<float> values) const override
    {
        m_whole.sample(around, points, values);
        const Vec3f middle = m_box.centre(), half = m_box.size() * 0.5f;
        for (std::size_t i = 0; i < points.size(); ++i) {
            const Vec3f d = points[i] - middle;
            values[i] = std::max({values[i], std::abs(d.x) - half.x, std::abs(d.y) - half.y, std::abs(d.z) - half.z});
        }
    }

private:
    const field::DistanceSource &m_whole;
    Box3f m_box;
};

/// Which points lie within reach of two of the pieces or more: there they melt.
std::vector<bool> meltingPoints(Pieces pieces, std::span<const Vec3f> points, float reach)
{
    constexpr std::size_t kRun = 512;
    std::vector<std::uint8_t> near(points.size(), 0);
    forEachBlock(points.size(), kRun, [&](BlockRange r) {
        for (const auto &p : pieces) {
            const auto found = mesh::nearestFacesWithin(p->skin.shown, points.subspan(r.begin, r.end - r.begin), reach);
            for (std::size_t i = 0; i < found.size(); ++i)
                near[r.begin + i] = std::uint8_t(std::min(2, near[r.begin + i] + int(found[i].distance < reach)));
        }
    });
    std::vector<bool> out(points.size());
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = near[i] > 1;
    return out;
}

/// The exact join, cut or common part, with the seam put in anew as far as it melts.
Result<mesh::PolyMesh> withMeltedSeam(Pieces pieces, const field::DistanceSource &whole, const Melting &m,
                                      const Progress &progress)
{
    const auto kind = m.how == field::Blend::Join  ? solid::Boolean::Join
                      : m.how == field::Blend::Cut ? solid::Boolean::Cut
                                                   : solid::Boolean::Common;
    mesh::PolyMesh exact = toPolyMesh(pieces.front()->skin.shown);
    for (std::size_t i = 1; i < pieces.size(); ++i) {
        const mesh::PolyMesh next = toPolyMesh(pieces[i]->skin.shown);
        auto more = solid::combine(exact, next, kind, progress);
        if (more)
            exact = std::move(more->mesh);
        else if (m.how == field::Blend::Join) // they only touch, as the sides of a cut do: all of that melts
            append(exact, next);
        else
            return more.error();
    }
    progress.say(0.3f, "what melts");
    const float reach = m.melt + 2 * m.spacing;
    const std::vector<bool> melts = meltingPoints(pieces, exact.positions, reach);
    std::vector<bool> region(exact.faces.size(), true);
    Box3f box;
    for (std::size_t f = 0; f < region.size(); ++f) {
        const auto corners = std::size_t(exact.faces[f].size());
        for (std::size_t k = 0; k < corners; ++k)
            region[f] = region[f] && melts[exact.faces[f].v[k]];
        for (std::size_t k = 0; k < corners && region[f]; ++k)
            box.add(exact.positions[exact.faces[f].v[k]]);
    }
    if (box.isEmpty())
        return exact; // they do not come near each other
    box.grow(m.melt + 4 * m.spacing);
    const auto knitted = field::previewSource(Within(whole, box), m.spacing, progress);
    if (!knitted)
        return knitted.error();
    return solid::patchedIn(exact, std::move(region), *knitted, meltingPoints(pieces, knitted->positions, reach), m.spacing);
}

} // namespace

Result<mesh::PolyMesh> melted(Pieces pieces, const Melting &m, Operation &context)
{
    std::vector<std::unique_ptr<field::DistanceSource>> parts;
    for (const auto &piece : pieces) {
        auto distance = field::distanceOf(piece->skin.shown, m.spacing);
        if (!distance)
            return Error{distance.error().code, piece->name, distance.error().text()};
        parts.push_back(std::move(*distance));
    }
    const auto whole = field::blended(std::move(parts), m.how, m.melt);
    if (m.isSeamOnly) {
        auto seam = withMeltedSeam(pieces, *whole, m, context.progress);
        if (seam || seam.error().code == ErrorCode::Cancelled)
            return seam;
        context.notes.push_back("the seam alone could not be knitted (" + seam.error().text() + "); all of it was");
    }
    auto knitted = field::knitSource(*whole, {m.spacing, 0}, context.progress);
    if (!knitted)
        return knitted.error();
    context.notes.push_back(fmt::format("{} faces at {:.3g} mm", fmt::group_digits(knitted->mesh.faces.size()), m.spacing));
    return std::move(knitted->mesh);
}

} // namespace bonemoss::document
