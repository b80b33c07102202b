#include "command/region.h"

#include <fmt/format.h>

namespace bonemoss::command {

std::vector<ParamSpec> regionParams()
{
    return {
        plainParam(ParamKind::Point, "island", "mm", "only the island nearest to this place"),
        textParam("group", "only this group of the skin"),
        plainParam(ParamKind::Point, "lineFrom", "mm", "nothing before this end of a line"),
        plainParam(ParamKind::Point, "lineTo", "mm", "all of it beyond this end, softly between"),
    };
}

Result<std::vector<float>> regionShares(const Piece &piece, const Params &p)
{
    skin::Region region;
    if (p.has("island"))
        region.island = p.point("island");
    if (p.has("group")) {
        const skin::Group *group = piece.skin.group(p.text("group"));
        if (!group)
            return Error{ErrorCode::Unknown, piece.name, fmt::format("has no group {}", p.text("group"))};
        region.group = group->number;
    }
    if (p.has("lineFrom") != p.has("lineTo"))
        return Error{ErrorCode::BadValue, piece.name, "a line needs both its ends (lineFrom, lineTo)"};
    if (p.has("lineFrom")) {
        region.hasLine = true;
        region.from = p.point("lineFrom"), region.to = p.point("lineTo");
        if (length(region.to - region.from) < 1e-3f)
            return Error{ErrorCode::BadValue, piece.name, "the line's ends are the same place"};
    }
    std::vector<float> shares = skin::sharesOf(piece.skin, region);
    if (shares.empty())
        return Error{ErrorCode::Empty, piece.name, "nothing of it takes part: all that was chosen is masked"};
    return shares;
}

bool isSeen(const mesh::Surface &skin, Vec3f place, Vec3f normal, Vec3f fromWay)
{
    if (dot(normal, fromWay) <= 0)
        return false;
    const float little = 0.2f * std::max(meanEdgeLength(skin), 1e-6f); // clear of the faces about it
    return !castRay(skin, {place + (normal + fromWay) * little, fromWay});
}

std::vector<ParamSpec> stencilParams(bool isNeeded)
{
    std::vector<ParamSpec> out{
        textParam("stencil", "stamp whose picture is held before the skin; bright parts let through"),
        plainParam(ParamKind::Point, "stencilAt", "mm", "middle of the picture"),
        plainParam(ParamKind::Point, "stencilRight", "mm", "from its middle to its right border"),
        plainParam(ParamKind::Point, "stencilUp", "mm", "from its middle to its upper border"),
    };
    if (isNeeded)
        for (ParamSpec &s : out)
            s = required(std::move(s));
    out.push_back(
        plainParam(ParamKind::Point, "stencilEye", "mm", "from where it is looked at; left out: square to the picture"));
    out.push_back(switchParam("stencilInvert", "dark parts let through", "false"));
    return out;
}

Result<std::shared_ptr<const sculpt::Stencil>> stencilOf(const Creature &creature, const Params &p)
{
    if (!p.has("stencil"))
        return std::shared_ptr<const sculpt::Stencil>();
    auto s = std::make_shared<sculpt::Stencil>();
    s->name = p.text("stencil");
    if (!(s->picture = stampNamed(creature, s->name)))
        return Error{ErrorCode::Unknown, "stencil", fmt::format("there is no stamp \"{}\"", s->name)};
    if (!p.has("stencilAt") || !p.has("stencilRight") || !p.has("stencilUp"))
        return Error{ErrorCode::BadValue, "stencil", "needs a place: stencilAt, stencilRight and stencilUp"};
    s->centre = p.point("stencilAt"), s->right = p.point("stencilRight"), s->up = p.point("stencilUp");
    const float wide = length(s->right), high = length(s->up);
    if (wide < 1e-3f || high < 1e-3f || std::abs(dot(s->right, s->up)) > 0.02f * wide * high)
        return Error{ErrorCode::BadValue, "stencil", "right and up must have a length and be square to each other"};
    if (p.has("stencilEye"))
        s->eye = p.point("stencilEye");
    s->isInverted = p.isOn("stencilInvert");
    return std::shared_ptr<const sculpt::Stencil>(std::move(s));
}

void writeStencil(const sculpt::Stencil &s, nlohmann::json &command)
{
    const auto row = [](Vec3f v) { return std::array<float, 3>{v.x, v.y, v.z}; };
    command["stencil"] = s.name;
    command["stencilAt"] = row(s.centre), command["stencilRight"] = row(s.right), command["stencilUp"] = row(s.up);
    if (s.eye)
        command["stencilEye"] = row(*s.eye);
    if (s.isInverted)
        command["stencilInvert"] = true;
}

} // namespace bonemoss::command
