// Commands that mark parts of a skin: masks kept by name, groups, hidden parts.
#include "command/fields.h"
#include "command/marks/mark_fields.h"
#include "command/named_items.h"

#include <algorithm>
#include <fmt/format.h>
#include <numeric>

namespace bonemoss::command {

namespace {

/// The group of that name on a piece.
const skin::Group &needGroup(const Piece &piece, const std::string &name)
{
    const skin::Group *group = piece.skin.group(name);
    if (!group)
        throw Failure{{ErrorCode::Unknown, piece.name, fmt::format("has no group {}", name)}};
    return *group;
}

Result<Creature> keepMask(const Creature &before, const KeepMask &p, CommandContext &)
{
    const auto taken = need(takePiece(before, p.piece));
    if (!taken->skin.hasMask())
        return Error{ErrorCode::BadValue, taken->name, "nothing is masked"};
    skin::keepMask(taken->skin, p.name);
    return putBack(before, taken);
}

Result<Creature> recallMask(const Creature &before, const RecallMask &p, CommandContext &)
{
    const auto taken = need(takePiece(before, p.piece));
    const skin::KeptMask *kept = taken->skin.keptMask(p.name);
    if (!kept)
        return Error{ErrorCode::Unknown, taken->name, fmt::format("keeps no mask {}", p.name)};
    skin::combineMask(taken->skin, kept->values, p.how);
    return putBack(before, taken);
}

Result<Creature> forgetMask(const Creature &before, const ForgetMask &p, CommandContext &)
{
    const auto taken = need(takePiece(before, p.piece));
    if (std::erase_if(taken->skin.masks, [&](const auto &m) { return m.name == p.name; }) == 0)
        return Error{ErrorCode::Unknown, taken->name, fmt::format("keeps no mask {}", p.name)};
    return putBack(before, taken);
}

Result<Creature> makeGroup(const Creature &before, const MakeGroup &p, CommandContext &context)
{
    constexpr std::size_t kMost = 2000;
    const auto taken = need(takePiece(before, p.piece));
    skin::Skin &skin = taken->skin;
    if (p.of == GroupOf::Islands) {
        const std::size_t count = skin::groupIslands(skin, p.name, kMost);
        if (count > kMost)
            return Error{ErrorCode::TooLarge, taken->name, fmt::format("has {} islands", count)};
        context.notes.push_back(fmt::format("{} groups", count));
        return putBack(before, taken);
    }
    if (!skin.hasMask())
        return Error{ErrorCode::BadValue, taken->name, "nothing is masked; mask what the group shall be"};
    if (skin.groups.size() >= kMost)
        return Error{ErrorCode::TooLarge, taken->name, fmt::format("has {} groups already", skin.groups.size())};
    skin::groupMasked(skin, p.name);
    return putBack(before, taken);
}

Result<Creature> removeGroup(const Creature &before, const RemoveGroup &p, CommandContext &)
{
    const auto taken = need(takePiece(before, p.piece));
    skin::removeGroup(taken->skin, needGroup(*taken, p.name).number);
    return putBack(before, taken);
}

Result<Creature> maskGroup(const Creature &before, const MaskGroup &p, CommandContext &)
{
    const auto taken = need(takePiece(before, p.piece));
    taken->skin.mask = skin::maskOfGroup(taken->skin, needGroup(*taken, p.name).number);
    return putBack(before, taken);
}

Result<Creature> hideParts(const Creature &before, const HideParts &p, CommandContext &)
{
    const auto taken = need(takePiece(before, p.piece));
    skin::Skin &skin = taken->skin;
    const skin::Group *group = p.group ? skin.group(*p.group) : nullptr;
    if (p.what == HideWhat::Group && !group)
        return Error{ErrorCode::Unknown, taken->name, "has no such group; name one of its groups"};
    if ((p.what == HideWhat::Masked || p.what == HideWhat::Free) && !skin.hasMask())
        return Error{ErrorCode::BadValue, taken->name, "nothing is masked"};
    if (!skin::hide(skin, p.what, group ? group->number : std::uint16_t(0)))
        return Error{ErrorCode::BadValue, taken->name, "nothing would be left to see; hide the piece itself instead"};
    return putBack(before, taken);
}

/// Colour and finish, evenly over a part of a skin: what is given changes, the rest stays.
Result<Creature> paintPiece(const Creature &before, const PaintPiece &p, CommandContext &)
{
    const auto taken = need(takePiece(before, p.piece));
    skin::Skin &skin = taken->skin;
    const PaintWhere where = p.where;
    const skin::Group *group = where == PaintWhere::Group && p.group ? skin.group(*p.group) : nullptr;
    if (where == PaintWhere::Group && !group)
        return Error{ErrorCode::BadValue, taken->name, "has no such group; name one of its groups"};
    const auto share = [&](std::size_t v) { // how much of the paint a vertex takes
        return where == PaintWhere::Masked  ? float(skin.mask[v]) / 255
               : where == PaintWhere::Free  ? 1 - float(skin.mask[v]) / 255
               : where == PaintWhere::Group ? float(skin.groupOf[v] == group->number)
                                            : 1.0f;
    };
    std::array<std::optional<float>, skin::kChannels> wanted;
    const auto want = [&](skin::Channel c, float value) { wanted[std::size_t(c)] = value * 255; };
    if (p.colour) {
        const Vec3f colour = *p.colour;
        if (std::min({colour.x, colour.y, colour.z}) < 0 || std::max({colour.x, colour.y, colour.z}) > 1)
            return Error{ErrorCode::BadValue, "colour", "must be three numbers from 0 to 1: red, green and blue"};
        const float cover = p.cover;
        want(skin::Channel::Red, colour.x * cover);
        want(skin::Channel::Green, colour.y * cover);
        want(skin::Channel::Blue, colour.z * cover);
        want(skin::Channel::Cover, cover);
    }
    for (const auto &[value, channel] : {std::pair{p.gloss, skin::Channel::Gloss},
                                         {p.metal, skin::Channel::Metal},
                                         {p.wet, skin::Channel::Clearcoat},
                                         {p.translucent, skin::Channel::Translucency},
                                         {p.grain, skin::Channel::Grain}})
        if (value)
            want(channel, *value);
    if (std::none_of(wanted.begin(), wanted.end(), [](const auto &w) { return w.has_value(); }))
        return Error{ErrorCode::BadValue, "paint", "give a colour or a finish"};
    if (skin.colourLayers.empty()) {
        skin::paintOver(skin, wanted, share);
        return putBack(before, taken);
    }
    // The lowest layer stands for what a skin without layers has.
    const skin::ColourLayer lowest = skin.colourLayers.front();
    if (lowest.isLocked)
        return Error{ErrorCode::BadValue, lowest.name, "the lowest colour layer is locked; unlock it first"};
    const bool isBare = p.colour && p.cover <= 0;
    const float cover = p.colour && !isBare ? p.cover : 1;
    const skin::Bytes shares = skin::valuesBy<std::uint8_t>(
        skin.body.size(), [&](std::size_t v) { return std::uint8_t(std::lround(255 * share(v) * cover)); });
    std::vector<std::uint32_t> all(skin.body.blockCount());
    std::iota(all.begin(), all.end(), 0u);
    const skin::Skin from = skin;
    skin::ColourCoat coat{{}, {p.gloss, p.metal, p.wet, p.translucent, p.grain}, isBare};
    if (p.colour && !isBare)
        coat.colour = skin::Ink{*p.colour, 0};
    skin::layCoat(skin, from, lowest.id, coat, shares, all);
    return putBack(before, taken);
}

} // namespace

Fields<KeepMask> KeepMask::fields()
{
    using P = KeepMask;
    return {pieceField<P>(), fieldOf<P>(&P::name, "name", "", "by which it is found again").required()};
}

Fields<RecallMask> RecallMask::fields()
{
    using P = RecallMask;
    return {pieceField<P>(), fieldOf<P>(&P::name, "name", "", "by which it is found again").required(),
            choiceOf<P>(&P::how, "how", "what becomes of the mask in hand", kMaskCombineNames)};
}

Fields<ForgetMask> ForgetMask::fields()
{
    using P = ForgetMask;
    return {pieceField<P>(), fieldOf<P>(&P::name, "name", "", "by which it is found again").required()};
}

Fields<MaskGroup> MaskGroup::fields()
{
    using P = MaskGroup;
    return {pieceField<P>(), fieldOf<P>(&P::name, "name", "", "by which it is found again").required()};
}

Fields<MakeGroup> MakeGroup::fields()
{
    using P = MakeGroup;
    return {pieceField<P>(), choiceOf<P>(&P::of, "of", "what", kGroupOfNames), fieldOf<P>(&P::name, "name", "", "of the group")};
}

Fields<RemoveGroup> RemoveGroup::fields()
{
    using P = RemoveGroup;
    return {pieceField<P>(), fieldOf<P>(&P::name, "name", "", "by which it is found again").required()};
}

Fields<PaintPiece> PaintPiece::fields()
{
    using P = PaintPiece;
    return {pieceField<P>(),
            fieldOf<P>(&P::colour, "colour", "", "red, green and blue, 0 to 1 (sRGB)"),
            fieldOf<P>(&P::cover, "cover", "", "how much of the clay the colour hides; 0 takes colour away", 0, 1),
            fieldOf<P>(&P::gloss, "gloss", "", "0 matt, 1 mirror-like", 0, 1),
            fieldOf<P>(&P::metal, "metal", "", "0 to 1", 0, 1),
            fieldOf<P>(&P::wet, "wet", "", "0 to 1", 0, 1),
            fieldOf<P>(&P::translucent, "translucent", "", "0 to 1", 0, 1),
            fieldOf<P>(&P::grain, "grain", "", "fine relief that only pictures show, 0 to 1", 0, 1),
            choiceOf<P>(&P::where, "where", "which part of it", kPaintWhereNames),
            fieldOf<P>(&P::group, "group", "", "its name, with where: group")};
}

Fields<HideParts> HideParts::fields()
{
    using P = HideParts;
    return {pieceField<P>(), choiceOf<P>(&P::what, "what", "to hide", kHideWhatNames).required(),
            fieldOf<P>(&P::group, "group", "", "its name, with what: group")};
}

std::vector<CommandSpec> markCommands()
{
    return {
        commandOf(keepMask),  commandOf(recallMask),  commandOf(forgetMask), commandOf(maskGroup),
        commandOf(makeGroup), commandOf(removeGroup), commandOf(paintPiece), commandOf(hideParts),
    };
}

} // namespace bonemoss::command
