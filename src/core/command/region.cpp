#include "command/region.h"

#include "command/fields.h"

#include <fmt/format.h>

namespace bonemoss::command {

Fields<StencilParams> StencilParams::fields(bool isNeeded)
{
    using P = StencilParams;
    return {fieldOf<P>(&P::name, "stencil", "", "stamp whose picture is held before the skin; bright parts let through")
                .requiredIf(isNeeded),
            fieldOf<P>(&P::centre, "stencilAt", "mm", "middle of the picture").requiredIf(isNeeded),
            fieldOf<P>(&P::right, "stencilRight", "mm", "from its middle to its right border").requiredIf(isNeeded),
            fieldOf<P>(&P::up, "stencilUp", "mm", "from its middle to its upper border").requiredIf(isNeeded),
            fieldOf<P>(&P::eye, "stencilEye", "mm", "from where it is looked at; left out: square to the picture"),
            fieldOf<P>(&P::isInverted, "stencilInvert", "", "dark parts let through")};
}

Fields<Region> Region::fields()
{
    using P = Region;
    return {fieldOf<P>(&P::island, "island", "mm", "only the island nearest to this place"),
            fieldOf<P>(&P::group, "group", "", "only this group of the skin"),
            fieldOf<P>(&P::lineFrom, "lineFrom", "mm", "nothing before this end of a line"),
            fieldOf<P>(&P::lineTo, "lineTo", "mm", "all of it beyond this end, softly between")};
}

Fields<AxisMap> AxisMap::fields()
{
    using P = AxisMap;
    return {
        choiceOf<P>(&P::kind, "kind", "what happens along the axis", kSpaceMapNames).required(),
        fieldOf<P>(&P::from, "from", "mm", "where the axis begins: what lies before stays").required(),
        fieldOf<P>(&P::to, "to", "mm", "where the axis ends: what lies beyond goes along").required(),
        fieldOf<P>(
            &P::amount, "amount", "",
            "bend and twist: degrees; taper: thickness at the end against the beginning; stretch: times its length, volume kept",
            -3600, 3600)
            .required(),
        fieldOf<P>(&P::side, "side", "", "bend: the direction it bends to")};
}

Result<std::vector<float>> regionShares(const Piece &piece, const Region &p)
{
    skin::Region region;
    setIfGiven(region.island, p.island);
    if (p.group) {
        const skin::Group *group = piece.skin.group(*p.group);
        if (!group)
            return Error{ErrorCode::Unknown, piece.name, fmt::format("has no group {}", *p.group)};
        region.group = group->number;
    }
    if (p.lineFrom.has_value() != p.lineTo.has_value())
        return Error{ErrorCode::BadValue, piece.name, "a line needs both its ends (lineFrom, lineTo)"};
    if (p.lineFrom) {
        region.hasLine = true;
        region.from = *p.lineFrom, region.to = *p.lineTo;
        if (length(region.to - region.from) < 1e-3f)
            return Error{ErrorCode::BadValue, piece.name, "the line's ends are the same place"};
    }
    std::vector<float> shares = skin::sharesOf(piece.skin, region);
    if (shares.empty())
        return Error{ErrorCode::Empty, piece.name, "nothing of it takes part: all that was chosen is masked"};
    return shares;
}

Result<std::shared_ptr<const sculpt::Stencil>> stencilOf(const Creature &creature, const StencilParams &p)
{
    if (!p.name)
        return std::shared_ptr<const sculpt::Stencil>();
    auto s = std::make_shared<sculpt::Stencil>();
    s->name = *p.name;
    if (!(s->picture = stampNamed(creature, s->name)))
        return Error{ErrorCode::Unknown, "stencil", fmt::format("there is no stamp \"{}\"", s->name)};
    if (!p.centre || !p.right || !p.up)
        return Error{ErrorCode::BadValue, "stencil", "needs a place: stencilAt, stencilRight and stencilUp"};
    s->centre = *p.centre, s->right = *p.right, s->up = *p.up;
    const float wide = length(s->right), high = length(s->up);
    if (wide < 1e-3f || high < 1e-3f || std::abs(dot(s->right, s->up)) > 0.02f * wide * high)
        return Error{ErrorCode::BadValue, "stencil", "right and up must have a length and be square to each other"};
    setIfGiven(s->eye, p.eye);
    s->isInverted = p.isInverted;
    return std::shared_ptr<const sculpt::Stencil>(std::move(s));
}

StencilParams stencilParams(const sculpt::Stencil &s)
{
    return {s.name, s.centre, s.right, s.up, s.eye, s.isInverted};
}

} // namespace bonemoss::command
