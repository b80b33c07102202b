// Masks from the shape of a skin, from what is drawn round in the view, and their borders.
#include "command/fields.h"
#include "command/marks/mark_fields.h"
#include "command/named_items.h"
#include "command/region.h"
#include "skin/skin_maps.h"
#include "base/parallel.h"
#include "portrait/camera.h"

#include <fmt/format.h>

#include <algorithm>
#include <numbers>

namespace bonemoss::command {

namespace {

using Bytes = mesh::BlockArray<std::uint8_t>;

/// Puts a mask made anew together with the one in hand.
void combine(skin::Skin &skin, const Bytes &made, MaskCombine how)
{
    if (how == MaskCombine::Replace) {
        skin.mask = made;
    } else {
        for (std::size_t b = 0; b < made.blockCount(); ++b) {
            const std::uint8_t *with = made.data(b);
            if (!with && how != MaskCombine::Common)
                continue;
            std::uint8_t *m = skin.mask.edit(b);
            for (std::size_t i = 0; i < made.countIn(b); ++i) {
                const std::uint8_t v = with ? with[i] : std::uint8_t(0);
                m[i] = how == MaskCombine::Add ? std::max(m[i], v)
                                               : std::min(m[i], how == MaskCombine::Common ? v : std::uint8_t(255 - v));
            }
        }
    }
    skin::dropBlank(skin.mask);
}

/// A mask from what is worked out at each place of a skin, 0 to 1. Parallel.
template <typename Share> Bytes maskOf(const mesh::Surface &s, const Share &share)
{
    Bytes made(s.positions.size());
    for (std::size_t b = 0; b < made.blockCount(); ++b)
        made.edit(b); // so that the loop below only writes
    forEachBlock(made.blockCount(), 1, [&](BlockRange r) {
        std::uint8_t *m = made.edit(r.begin);
        const Vec3f *at = s.positions.data(r.begin);
        for (std::size_t i = 0; i < made.countIn(r.begin); ++i)
            m[i] = std::uint8_t(std::lround(255 * share(at[i], s.normals.data(r.begin)[i].unpack())));
    });
    return made;
}

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
    float sign, least, most, soft; ///< what is masked when nothing is said
};
constexpr std::array<Source, kMaskedShapeNames.size()> kSources{{
    // in the order of MaskedShape
    {skin::SkinMap::MeanCurvature, 1, 0.3f, 1000, 0.3f},
    {skin::SkinMap::MeanCurvature, -1, 0.3f, 1000, 0.3f},
    {skin::SkinMap::Slope, 1, 0, 45, 15},
    {skin::SkinMap::Thickness, 1, 0, 4, 1},
    {skin::SkinMap::Colour, 1, 0.5f, 1, 0.1f},
    {skin::SkinMap::Stretch, 1, 4, 1e6f, 1},
    {skin::SkinMap::Work, 1, 0, 0.5f, 0.5f},
    {skin::SkinMap::Mirror, 1, 0.5f, 1e6f, 0.2f},
    {skin::SkinMap::AmbientOcclusion, 1, 0.5f, 1, 0.2f},
    {skin::SkinMap::Overlap, 1, 1, 1e6f, 0.1f},
    {skin::SkinMap::Seen, 1, 1, 1, 0.1f},
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
        if (!p.eye || !p.target || length(*p.target - *p.eye) < 1e-3f)
            return Error{ErrorCode::BadValue, "seen", "say from where to where it is looked (eye, target)"};
        portrait::Camera camera;
        camera.target = *p.target;
        camera.distance = length(*p.target - *p.eye);
        camera.rotation = portrait::rotationLooking(*p.eye - *p.target, p.up);
        camera.fieldOfView = p.angle * std::numbers::pi_v<float> / 180;
        camera.isParallel = p.isParallel;
        settings.sight = portrait::sightOf(camera, p.aspect);
    }
    settings.point = piece->symmetry.point, settings.normal = piece->symmetry.normal;
    const std::vector<float> map = skin::mapOf(skin, source.map, settings, context.progress);
    if (map.empty() && skin.body.size() > 0)
        return Error{ErrorCode::Cancelled, piece->name, "the mask was not made"};
    const float least = p.from.value_or(source.least), most = p.to.value_or(source.most);
    const float soft = std::max(p.soft.value_or(source.soft), 1e-6f);
    Bytes made(skin.body.size());
    std::size_t masked = 0;
    for (std::size_t b = 0; b < made.blockCount(); ++b) {
        std::uint8_t *m = made.edit(b);
        for (std::size_t i = 0; i < made.countIn(b); ++i) {
            const float v = map[b * mesh::kBlockSize + i] * source.sign;
            const float share = std::clamp(std::min((v - least) / soft + 1, (most - v) / soft + 1), 0.0f, 1.0f);
            m[i] = std::uint8_t(std::lround(share * 255));
            masked += m[i] > 127;
        }
    }
    combine(skin, made, p.how);
    context.notes.push_back(
        fmt::format("{:.1f} % of the skin", 100.0 * double(masked) / double(std::max<std::size_t>(1, map.size()))));
    return putBack(before, std::move(piece));
}

/// Whether a point is inside an outline: the crossing number of a ray to the right.
bool isInside(const std::vector<std::array<float, 2>> &outline, float x, float y)
{
    bool inside = false;
    for (std::size_t i = 0, j = outline.size() - 1; i < outline.size(); j = i++) {
        const auto &a = outline[i], &b = outline[j];
        if ((a[1] > y) != (b[1] > y) && x < (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]) + a[0])
            inside = !inside;
    }
    return inside;
}

Result<Creature> maskArea(const Creature &before, const MaskArea &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    skin::Skin &skin = piece->skin;
    const Vec3f direction = normalized(p.direction);
    const std::vector<Vec3f> &line = p.outline;
    if (line.size() < 3 || direction == Vec3f{})
        return Error{ErrorCode::BadValue, "mask.area", "an outline of three points and a direction are needed"};
    const Vec3f u = normalized(cross(std::abs(direction.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, direction));
    const Vec3f v = cross(direction, u), origin = line[0];
    const bool hasEye = p.eye.has_value();
    const Vec3f eye = p.eye.value_or(Vec3f{});
    const float far = dot(origin - eye, direction); // of the plane of the outline from the eye
    // Through the eye on to the plane of the outline, or along the direction.
    const auto flat = [&](Vec3f q) -> std::optional<std::array<float, 2>> {
        if (hasEye) {
            const float deep = dot(q - eye, direction);
            if (deep <= 1e-6f)
                return {};
            q = eye + (q - eye) * (far / deep);
        }
        return std::array{dot(q - origin, u), dot(q - origin, v)};
    };
    std::vector<std::array<float, 2>> outline;
    for (const Vec3f q : line)
        if (const auto at = flat(q))
            outline.push_back(*at);
    const mesh::Surface &s = skin.shown;
    const Bytes made = maskOf(s, [&](Vec3f at, Vec3f normal) {
        const auto q = flat(at);
        if (!q || !isInside(outline, (*q)[0], (*q)[1]))
            return 0.0f;
        return !p.isFrontOnly || isSeen(s, at, normal, hasEye ? normalized(eye - at) : -direction) ? 1.0f : 0.0f;
    });
    combine(skin, made, p.how);
    return putBack(before, std::move(piece));
}

Result<Creature> maskPicture(const Creature &before, const MaskPicture &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    const auto stencil = need(stencilOf(before, p.stencil));
    skin::Skin &skin = piece->skin;
    const mesh::Surface &s = skin.shown;
    const Bytes made = maskOf(s, [&](Vec3f at, Vec3f normal) {
        const float open = stencil->openness(at);
        return open > 0 && (!p.isFrontOnly || isSeen(s, at, normal, -stencil->sightTo(at))) ? open : 0.0f;
    });
    combine(skin, made, p.how);
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
