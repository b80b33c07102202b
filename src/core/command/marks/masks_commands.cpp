// Masks from the shape of a skin, from what is drawn round in the view, and their borders.
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
void combine(skin::Skin &skin, const Bytes &made, const std::string &how)
{
    if (how == "replace") {
        skin.mask = made;
    } else {
        for (std::size_t b = 0; b < made.blockCount(); ++b) {
            const std::uint8_t *with = made.data(b);
            if (!with && how != "common")
                continue;
            std::uint8_t *m = skin.mask.edit(b);
            for (std::size_t i = 0; i < made.countIn(b); ++i) {
                const std::uint8_t v = with ? with[i] : std::uint8_t(0);
                m[i] = how == "add" ? std::max(m[i], v) : std::min(m[i], how == "common" ? v : std::uint8_t(255 - v));
            }
        }
    }
    skin::dropBlank(skin.mask);
}

Result<Creature> growMask(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    skin::growMask((*piece)->skin, int(std::lround(p.number("rings"))));
    return putBack(before, std::move(*piece));
}

Result<Creature> sharpenMask(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    skin::sharpenMask((*piece)->skin, p.number("amount"));
    return putBack(before, std::move(*piece));
}

struct Source {
    std::string_view name;
    skin::SkinMap map;
    float sign, least, most, soft; ///< what is masked when nothing is said
};
constexpr Source kSources[] = {
    {"hollows", skin::SkinMap::MeanCurvature, 1, 0.3f, 1000, 0.3f},
    {"ridges", skin::SkinMap::MeanCurvature, -1, 0.3f, 1000, 0.3f},
    {"slope", skin::SkinMap::Slope, 1, 0, 45, 15},
    {"thin", skin::SkinMap::Thickness, 1, 0, 4, 1},
    {"colour", skin::SkinMap::Colour, 1, 0.5f, 1, 0.1f},
    {"stretched", skin::SkinMap::Stretch, 1, 4, 1e6f, 1},
    {"neglected", skin::SkinMap::Work, 1, 0, 0.5f, 0.5f},
    {"uneven", skin::SkinMap::Mirror, 1, 0.5f, 1e6f, 0.2f},
    {"covered", skin::SkinMap::AmbientOcclusion, 1, 0.5f, 1, 0.2f},
    {"overlapping", skin::SkinMap::Overlap, 1, 1, 1e6f, 0.1f},
    {"seen", skin::SkinMap::Seen, 1, 1, 1, 0.1f},
};

Result<Creature> maskShape(const Creature &before, const Params &p, CommandContext &context)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    skin::Skin &skin = (*piece)->skin;
    const std::string what = p.text("what");
    const Source &source =
        *std::find_if(std::begin(kSources), std::end(kSources), [&](const Source &s) { return s.name == what; });
    skin::MapSettings settings;
    settings.width = p.number("width");
    for (const auto &other : before.pieces)
        if (other->id != (*piece)->id && !other->isHidden)
            settings.others.push_back(&other->skin.shown);
    if (source.map == skin::SkinMap::Seen) {
        if (!p.has("eye") || !p.has("target") || length(p.point("target") - p.point("eye")) < 1e-3f)
            return Error{ErrorCode::BadValue, "seen", "say from where to where it is looked (eye, target)"};
        portrait::Camera camera;
        camera.target = p.point("target");
        camera.distance = length(p.point("target") - p.point("eye"));
        camera.turn = portrait::turnLooking(p.point("eye") - p.point("target"), p.point("up"));
        camera.heightAngle = p.number("angle") * std::numbers::pi_v<float> / 180;
        camera.isParallel = p.isOn("parallel");
        settings.sight = portrait::sightOf(camera, p.number("aspect"));
    }
    settings.point = (*piece)->symmetry.point, settings.normal = (*piece)->symmetry.normal;
    const std::vector<float> map = skin::mapOf(skin, source.map, settings, context.progress);
    if (map.empty() && skin.body.size() > 0)
        return Error{ErrorCode::Cancelled, (*piece)->name, "the mask was not made"};
    const float least = p.has("from") ? p.number("from") : source.least, most = p.has("to") ? p.number("to") : source.most;
    const float soft = std::max(p.has("soft") ? p.number("soft") : source.soft, 1e-6f);
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
    combine(skin, made, p.text("how"));
    context.notes.push_back(
        fmt::format("{:.1f} % of the skin", 100.0 * double(masked) / double(std::max<std::size_t>(1, map.size()))));
    return putBack(before, std::move(*piece));
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

Result<Creature> maskArea(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    skin::Skin &skin = (*piece)->skin;
    const Vec3f direction = normalized(p.point("direction"));
    const auto line = p.path("outline");
    if (line.size() < 3 || direction == Vec3f{})
        return Error{ErrorCode::BadValue, "mask.area", "an outline of three points and a direction are needed"};
    const Vec3f u = normalized(cross(std::abs(direction.y) < 0.9f ? Vec3f{0, 1, 0} : Vec3f{1, 0, 0}, direction));
    const Vec3f v = cross(direction, u), origin = line[0].at;
    const bool hasEye = p.has("eye");
    const Vec3f eye = hasEye ? p.point("eye") : Vec3f{};
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
    for (const armature::PathPoint &q : line)
        if (const auto at = flat(q.at))
            outline.push_back(*at);
    const mesh::Surface &s = skin.shown;
    const bool frontOnly = p.isOn("frontOnly");
    Bytes made(skin.body.size());
    for (std::size_t b = 0; b < made.blockCount(); ++b)
        made.edit(b); // so that the loop below only writes
    forEachBlock(made.blockCount(), 1, [&](BlockRange r) {
        std::uint8_t *m = made.edit(r.begin);
        const Vec3f *at = s.positions.data(r.begin);
        for (std::size_t i = 0; i < made.countIn(r.begin); ++i) {
            const auto q = flat(at[i]);
            if (!q || !isInside(outline, (*q)[0], (*q)[1]))
                continue;
            const Vec3f out = s.normals.data(r.begin)[i].unpack(), back = hasEye ? normalized(eye - at[i]) : -direction;
            m[i] = !frontOnly || isSeen(s, at[i], out, back) ? 255 : 0;
        }
    });
    combine(skin, made, p.text("how"));
    return putBack(before, std::move(*piece));
}

Result<Creature> maskPicture(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    const auto stencil = stencilOf(before, p);
    if (!stencil)
        return stencil.error();
    skin::Skin &skin = (*piece)->skin;
    const mesh::Surface &s = skin.shown;
    const bool frontOnly = p.isOn("frontOnly");
    Bytes made(skin.body.size());
    for (std::size_t b = 0; b < made.blockCount(); ++b)
        made.edit(b); // so that the loop below only writes
    forEachBlock(made.blockCount(), 1, [&](BlockRange r) {
        std::uint8_t *m = made.edit(r.begin);
        const Vec3f *at = s.positions.data(r.begin);
        for (std::size_t i = 0; i < made.countIn(r.begin); ++i) {
            const float open = (*stencil)->openness(at[i]);
            if (open > 0 && (!frontOnly || isSeen(s, at[i], s.normals.data(r.begin)[i].unpack(), -(*stencil)->sightTo(at[i]))))
                m[i] = std::uint8_t(std::lround(open * 255));
        }
    });
    combine(skin, made, p.text("how"));
    return putBack(before, std::move(*piece));
}

} // namespace

std::vector<CommandSpec> maskCommands()
{
    std::vector<std::string> sources;
    for (const Source &s : kSources)
        sources.emplace_back(s.name);
    const ParamSpec how =
        choiceParam("how", "what becomes of the mask in hand", {"replace", "add", "subtract", "common"}, "\"replace\"");
    std::vector<ParamSpec> picture{pieceParam(), switchParam("frontOnly", "only what is seen from there", "true"), how};
    for (ParamSpec &s : stencilParams(true))
        picture.push_back(std::move(s));
    return {
        {"mask.grow",
         "Grow mask",
         "Moves the mask's border outward, or inward, over rings of vertices.",
         {pieceParam(), numberParam("rings", "", "how far; below 0 the mask shrinks", -100, 100, "3")},
         growMask},
        {"mask.sharpen",
         "Sharpen mask",
         "Makes the mask's soft border narrower.",
         {pieceParam(), numberParam("amount", "", "1 for a hard edge", 0, 1, "0.5")},
         sharpenMask},
        {"mask.shape",
         "Mask by shape",
         "Masks hollows, ridges, slopes (degrees from the crown side), thin parts (mm), light colour, stretched faces, places no "
         "stroke has met, where left and right differ (mm), what other skin keeps the light from (0 to 1), what lies inside "
         "another body, or what is seen from a place.",
         {pieceParam(), required(choiceParam("what", "is masked", sources)),
          numberParam("width", "mm", "of hollows and ridges; finer form does not count", 0.01, 1000, "3"),
          numberParam("from", "", "least value that is masked; left out: as suits", -1e6, 1e6),
          numberParam("to", "", "greatest value that is masked; left out: as suits", -1e6, 1e6),
          numberParam("soft", "", "over how much the mask fades; left out: as suits", 0, 1e6),
          plainParam(ParamKind::Point, "eye", "mm", "seen: from where"),
          plainParam(ParamKind::Point, "target", "mm", "seen: the middle of the picture"),
          plainParam(ParamKind::Point, "up", "", "seen: towards the picture's upper border", "[0, 1, 0]"),
          numberParam("angle", "deg", "seen: from the lower to the upper border", 0.1, 170, "40"),
          numberParam("aspect", "", "seen: the picture's width over its height", 0.1, 10, "1.6"),
          switchParam("parallel", "seen: without perspective", "false"), how},
         maskShape},
        {"mask.area",
         "Mask an area",
         "Masks what lies inside an outline drawn in the view.",
         {pieceParam(), required(plainParam(ParamKind::Points, "outline", "mm", "its points")),
          required(plainParam(ParamKind::Point, "direction", "", "along which it is looked")),
          plainParam(ParamKind::Point, "eye", "mm", "from which, as in a perspective view"),
          switchParam("frontOnly", "only what is seen from there", "false"), how},
         maskArea},
        {"mask.picture", "Mask by picture", "Masks what the bright parts of a picture cover that is held before the skin.",
         picture, maskPicture},
    };
}

} // namespace bonemoss::command
