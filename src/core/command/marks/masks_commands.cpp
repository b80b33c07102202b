// Masks from the shape of a skin, from what is drawn round in the view, and their borders.
#include "command/fields.h"
#include "command/marks/mark_fields.h"
#include "command/named_items.h"
#include "command/region.h"
#include "document/ops/portraits.h"
#include "skin/skin_maps.h"
#include "mesh/sight_outline.h"
#include "portrait/camera.h"

#include <fmt/format.h>

#include <algorithm>
#include <numbers>

namespace bonemoss::command {

namespace {

Result<Creature> growMask(const Creature &before, const GrowMask &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    skin::growMask(piece->skin, int(std::lround(p.rings)));
    return putBack(before, std::move(piece));
}

Result<Creature> sharpenMask(const Creature &before, const SharpenMask &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    skin::sharpenMask(piece->skin, p.amount);
    return putBack(before, std::move(piece));
}

struct Source {
    skin::SkinMap map;
    skin::MaskRange range; ///< what is masked when nothing is said
};
constexpr std::array<Source, kMaskedShapeNames.size()> kSources{{
    // in the order of MaskedShape
    {skin::SkinMap::MeanCurvature, {1, 0.3f, 1000, 0.3f}},
    {skin::SkinMap::MeanCurvature, {-1, 0.3f, 1000, 0.3f}},
    {skin::SkinMap::Slope, {1, 0, 45, 15}},
    {skin::SkinMap::Thickness, {1, 0, 4, 1}},
    {skin::SkinMap::Colour, {1, 0.5f, 1, 0.1f}},
    {skin::SkinMap::Stretch, {1, 4, 1e6f, 1}},
    {skin::SkinMap::Work, {1, 0, 0.5f, 0.5f}},
    {skin::SkinMap::Mirror, {1, 0.5f, 1e6f, 0.2f}},
    {skin::SkinMap::AmbientOcclusion, {1, 0.5f, 1, 0.2f}},
    {skin::SkinMap::Overlap, {1, 1, 1e6f, 0.1f}},
    {skin::SkinMap::Seen, {1, 1, 1, 0.1f}},
}};

Result<Creature> maskShape(const Creature &before, const MaskShape &p, CommandContext &context)
{
    auto piece = need(takePiece(before, p.piece));
    skin::Skin &skin = piece->skin;
    const Source &source = kSources[std::size_t(p.what)];
    skin::MapSettings settings;
    settings.width = p.width;
    for (const auto &other : before.pieces)
        if (other->id != piece->id && !other->isHidden)
            settings.others.push_back(&other->skin.shown);
    if (source.map == skin::SkinMap::Seen) {
        if (!p.camera && (!p.eye || !p.target || length(*p.target - *p.eye) < 1e-3f))
            return Error{ErrorCode::BadValue, "seen", "say from where to where it is looked (eye, target), or by which camera"};
        portrait::Camera camera;
        float aspect = p.aspect;
        if (p.camera) {
            const portrait::Shot shot = need(keptCamera(before, *p.camera));
            camera = shot.camera, aspect = shot.aspect;
        } else {
            camera.target = *p.target;
            camera.distance = length(*p.target - *p.eye);
            camera.rotation = portrait::rotationLooking(*p.eye - *p.target, p.up);
            camera.fieldOfView = p.angle * std::numbers::pi_v<float> / 180;
            camera.isParallel = p.isParallel;
        }
        settings.sight = portrait::sightOf(camera, aspect);
    }
    settings.point = piece->symmetry.point, settings.normal = piece->symmetry.normal;
    const std::vector<float> map = skin::mapOf(skin, source.map, settings, context.progress);
    if (map.empty() && skin.body.size() > 0)
        return Error{ErrorCode::Cancelled, piece->name, "the mask was not made"};
    skin::MaskRange range = source.range;
    setIfGiven(range.least, p.from);
    setIfGiven(range.most, p.to);
    setIfGiven(range.soft, p.soft);
    range.soft = std::max(range.soft, 1e-6f);
    const skin::Bytes made = skin::maskOf(map, range);
    skin::combineMask(skin, made, p.how);
    context.notes.push_back(fmt::format("{:.1f} % of the skin", 100 * skin::maskedShare(made)));
    return putBack(before, std::move(piece));
}

Result<Creature> maskArea(const Creature &before, const MaskArea &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    skin::Skin &skin = piece->skin;
    const Vec3f direction = normalized(p.direction);
    if (p.outline.size() < 3 || direction == Vec3f{})
        return Error{ErrorCode::BadValue, "mask.area", "an outline of three points and a direction are needed"};
    const mesh::SightOutline outline(p.outline, direction, p.eye);
    const mesh::Surface &s = skin.shown;
    const skin::Bytes made = skin::maskOf(s, [&](Vec3f at, Vec3f normal) {
        if (!outline.holds(at))
            return 0.0f;
        return !p.isFrontOnly || mesh::isSeen(s, at, normal, p.eye ? normalized(*p.eye - at) : -direction) ? 1.0f : 0.0f;
    });
    skin::combineMask(skin, made, p.how);
    return putBack(before, std::move(piece));
}

Result<Creature> maskPicture(const Creature &before, const MaskPicture &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    const auto stencil = need(stencilOf(before, p.stencil));
    skin::Skin &skin = piece->skin;
    const mesh::Surface &s = skin.shown;
    const skin::Bytes made = skin::maskOf(s, [&](Vec3f at, Vec3f normal) {
        const float open = stencil->openness(at);
        return open > 0 && (!p.isFrontOnly || mesh::isSeen(s, at, normal, -stencil->sightTo(at))) ? open : 0.0f;
    });
    skin::combineMask(skin, made, p.how);
    return putBack(before, std::move(piece));
}

} // namespace

Fields<GrowMask> GrowMask::fields()
{
    using P = GrowMask;
    return {pieceField<P>(), fieldOf<P>(&P::rings, "rings", "", "how far; below 0 the mask shrinks", -100, 100)};
}

Fields<SharpenMask> SharpenMask::fields()
{
    using P = SharpenMask;
    return {pieceField<P>(), fieldOf<P>(&P::amount, "amount", "", "1 for a hard edge", 0, 1)};
}

Fields<MaskShape> MaskShape::fields()
{
    using P = MaskShape;
    return {pieceField<P>(),
            choiceOf<P>(&P::what, "what", "is masked", kMaskedShapeNames).required(),
            fieldOf<P>(&P::width, "width", "mm", "of hollows and ridges; finer form does not count", 0.01, 1000),
            fieldOf<P>(&P::from, "from", "", "least value that is masked; left out: as suits", -1000000, 1000000),
            fieldOf<P>(&P::to, "to", "", "greatest value that is masked; left out: as suits", -1000000, 1000000),
            fieldOf<P>(&P::soft, "soft", "", "over how much the mask fades; left out: as suits", 0, 1000000),
            fieldOf<P>(&P::camera, "camera", "", "seen: by a camera that was kept, by name or id"),
            fieldOf<P>(&P::eye, "eye", "mm", "seen: from where"),
            fieldOf<P>(&P::target, "target", "mm", "seen: the middle of the picture"),
            fieldOf<P>(&P::up, "up", "", "seen: towards the picture's upper border"),
            fieldOf<P>(&P::angle, "angle", "deg", "seen: from the lower to the upper border", 0.1, 170),
            fieldOf<P>(&P::aspect, "aspect", "", "seen: the picture's width over its height", 0.1, 10),
            fieldOf<P>(&P::isParallel, "parallel", "", "seen: without perspective"),
            choiceOf<P>(&P::how, "how", "what becomes of the mask in hand", kMaskCombineNames)};
}

Fields<MaskArea> MaskArea::fields()
{
    using P = MaskArea;
    return {pieceField<P>(),
            fieldOf<P>(&P::outline, "outline", "mm", "its points").required(),
            fieldOf<P>(&P::direction, "direction", "", "along which it is looked").required(),
            fieldOf<P>(&P::eye, "eye", "mm", "from which, as in a perspective view"),
            fieldOf<P>(&P::isFrontOnly, "frontOnly", "", "only what is seen from there"),
            choiceOf<P>(&P::how, "how", "what becomes of the mask in hand", kMaskCombineNames)};
}

Fields<MaskPicture> MaskPicture::fields()
{
    using P = MaskPicture;
    return fieldList<P>({pieceField<P>(), fieldOf<P>(&P::isFrontOnly, "frontOnly", "", "only what is seen from there"),
                         choiceOf<P>(&P::how, "how", "what becomes of the mask in hand", kMaskCombineNames),
                         nested<P>(&P::stencil, StencilParams::fields(true))});
}

std::vector<CommandSpec> maskCommands()
{
    return {
        commandOf(growMask), commandOf(sharpenMask), commandOf(maskShape), commandOf(maskArea), commandOf(maskPicture),
    };
}

} // namespace bonemoss::command
