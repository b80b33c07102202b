#include "document/ops/reknit.h"

#include "skin/carry.h"
#include "skin/levels.h"

#include <fmt/format.h>

namespace bonemoss::document {

namespace {

/// Within which distance of a skin (mm) most vertices knitted from it lie.
float reachFor(const skin::Skin &skin, const field::Knitted &knitted)
{
    return std::max(knitted.report.spacing, meanEdgeLength(skin.shown));
}

} // namespace

skin::Skin carriedTo(const skin::Skin &skin, const field::Knitted &knitted, Operation &context, bool isMeasured,
                     const mesh::PolyMesh *from)
{
    if (skin.isBare())
        return skin::makeSkin(knitted.mesh, true);
    skin::Carried carried = skin::carryOver(skin, knitted.mesh, reachFor(skin, knitted), context.progress,
                                            {false, isMeasured, knitted.near, knitted.kept, from});
    for (const skin::CarryLoss &loss : carried.losses)
        context.notes.push_back(loss.text());
    return std::move(carried.skin);
}

skin::Skin skinOn(const mesh::PolyMesh &mesh, const skin::Skin &source, Operation &context, bool isPart)
{
    const mesh::PolyMesh ordered = inSpatialOrder(mesh);
    if (source.isBare())
        return skin::makeSkin(ordered, true);
    skin::Carried carried = skin::carryOver(source, ordered, 1.5f * meanEdgeLength(source.shown), context.progress, {isPart});
    for (const skin::CarryLoss &loss : carried.losses)
        context.notes.push_back(loss.text());
    return std::move(carried.skin);
}

Result<skin::Skin> reknitted(const skin::Skin &skin, field::Density density, Operation &context, bool isMeasured)
{
    if (!skin.links.empty()) {
        context.notes.push_back(
            fmt::format("it had {} levels; the finest was taken, and is its only one now", skin.links.size() + 1));
        return reknitted(skin::finest(skin, context.progress), density, context, isMeasured);
    }
    const mesh::PolyMesh shown = toPolyMesh(skin.shown);
    auto knitted = density.faces > 0 ? field::knitMesh(shown, density, context.progress)
                                     : field::knitAgain(shown, density.spacing, context.progress);
    if (!knitted)
        return knitted.error();
    skin::Skin out = carriedTo(skin, *knitted, context, isMeasured, &shown);
    context.notes.push_back(
        fmt::format("{} faces at {:.3g} mm", fmt::group_digits(knitted->mesh.faces.size()), knitted->report.spacing));
    if (knitted->report.filledEdges > 0)
        context.notes.push_back("the skin was open or inside out in places; its holes were closed");
    return out;
}

} // namespace bonemoss::document
