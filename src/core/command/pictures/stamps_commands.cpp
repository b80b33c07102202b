// Stamps of the creature's own: read from pictures, or harvested from skin.
#include "command/fields.h"
#include "command/pictures/picture_fields.h"
#include "command/named_items.h"
#include "base/files.h"
#include "skin/harvest.h"
#include "image/picture_file.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

constexpr std::size_t kMostStamps = 500;
constexpr int kMostSide = 1400; // with 16 bits below the largest block that a store takes

/// Puts a stamp under a name; one that is there already, or one that comes with the program, keeps it.
Result<Creature> withStamp(const Creature &before, const std::string &wanted, image::HeightPicture picture, float depth,
                           CommandContext &context)
{
    if (before.stamps.size() >= kMostStamps)
        return Error{ErrorCode::TooLarge, "stamp", fmt::format("a creature keeps at most {} stamps", kMostStamps)};
    if (wanted.empty())
        return Error{ErrorCode::BadValue, "name", "a stamp needs a name"};
    std::string name = wanted;
    for (int n = 2; stampNamed(before, name); ++n)
        name = fmt::format("{} {}", wanted, n);
    if (name != wanted)
        context.notes.push_back(fmt::format("there is a stamp \"{}\" already; this one is called \"{}\"", wanted, name));
    Creature after = before;
    after.stamps.push_back({name, std::make_shared<const image::HeightPicture>(std::move(picture)), depth, {}});
    return after;
}

Error noOwnStamp(const std::string &name)
{
    return {ErrorCode::Unknown, "stamp", fmt::format("the creature has no stamp \"{}\" of its own", name)};
}

Result<Creature> addStamp(const Creature &before, const AddStamp &p, CommandContext &context)
{
    const std::filesystem::path path = context.folder / p.path;
    const auto bytes = need(image::readPictureFile(path));
    auto picture = image::decodeHeights(bytes, kMostSide);
    if (!picture)
        return Error{picture.error().code, shownPath(path), picture.error().detail};
    if (p.isInverted)
        for (float &v : picture->values)
            v = 1 - v;
    picture->middle = p.middle;
    image::HeightPicture made = p.isTiled ? tileable(*picture) : std::move(*picture);
    toSixteenBits(made);
    return withStamp(before, p.name.value_or(shownPath(path.stem())), std::move(made), p.depth, context);
}

Result<Creature> harvestStamp(const Creature &before, const HarvestStamp &p, CommandContext &context)
{
    const auto id = need(findPiece(before, p.piece));
    const Piece &piece = *before.piece(id);
    const mesh::Surface &skin = piece.skin.shown;
    if (skin.isEmpty())
        return Error{ErrorCode::Empty, "harvest", "there is no skin"};
    if (p.group.has_value() == p.at.has_value())
        return Error{ErrorCode::BadValue, "harvest", "either a place (at) or a group is needed"};
    const Vec3f up = p.up.value_or(Vec3f{0, 1, 0});
    skin::HarvestSpot spot;
    if (p.group) {
        const skin::Group *group = piece.skin.group(*p.group);
        if (!group)
            return Error{ErrorCode::Unknown, piece.name, fmt::format("has no group {}", *p.group)};
        const auto about = skin::spotAbout(skin, {&piece.skin.groupOf, group->number}, up);
        if (!about)
            return Error{ErrorCode::Empty, group->name,
                         "has no skin, or goes round the body; a stamp needs a side to be seen from"};
        spot = *about;
    } else {
        const auto under = mesh::nearestPoint(skin, *p.at);
        if (!under)
            return Error{ErrorCode::Empty, "harvest", "there is no skin"};
        spot.at = under->point, spot.normal = p.normal ? normalized(*p.normal) : under->normal;
        spot.up = up, spot.size = p.size, spot.tall = p.height.value_or(0);
    }
    auto taken = need(skin::harvest(skin, spot));
    image::HeightPicture made = p.isTiled ? tileable(taken.picture) : std::move(taken.picture);
    toSixteenBits(made);
    context.notes.push_back(fmt::format("{:.2g} mm from its base to its extremes", taken.depth));
    const std::string name = p.name ? *p.name : p.group ? *p.group : "Harvest";
    return withStamp(before, name, std::move(made), taken.depth, context);
}

Result<Creature> setStamp(const Creature &before, const SetStamp &p, CommandContext &)
{
    Creature after = before;
    const std::string name = p.name;
    const auto stamp = std::find_if(after.stamps.begin(), after.stamps.end(), [&](const Stamp &s) { return s.name == name; });
    if (stamp == after.stamps.end())
        return noOwnStamp(name);
    image::HeightPicture picture = *stamp->picture;
    setIfGiven(picture.middle, p.middle);
    if (p.isInverted) {
        for (float &v : picture.values)
            v = 1 - v;
        picture.middle = 1 - picture.middle;
    }
    if (p.isTiled)
        picture = tileable(picture);
    toSixteenBits(picture);
    *stamp = {name, std::make_shared<const image::HeightPicture>(std::move(picture)), p.depth ? *p.depth : stamp->depth, {}};
    return after;
}

Result<Creature> removeStamp(const Creature &before, const RemoveStamp &p, CommandContext &)
{
    Creature after = before;
    const std::string name = p.name;
    if (std::erase_if(after.stamps, [&](const Stamp &s) { return s.name == name; }) == 0)
        return noOwnStamp(name);
    return after;
}

} // namespace

Fields<AddStamp> AddStamp::fields()
{
    using P = AddStamp;
    return {
        fieldOf<P>(&P::path, "path", "", "PNG, JPEG, TIFF or EXR file").required(),
        fieldOf<P>(&P::name, "name", "", "left out: that of the file"),
        fieldOf<P>(&P::middle, "middle", "", "the value that leaves the skin as it is, 0 to 1", 0, 1),
        fieldOf<P>(&P::depth, "depth", "mm", "from the middle to the extremes, as first set when it is taken up", 0.001, 1000),
        fieldOf<P>(&P::isInverted, "invert", "", "dark is high"),
        fieldOf<P>(&P::isTiled, "tile", "", "make it repeat without a seam")};
}

Fields<HarvestStamp> HarvestStamp::fields()
{
    using P = HarvestStamp;
    return {pieceField<P>(),
            fieldOf<P>(&P::at, "at", "mm", "middle of the rectangle"),
            fieldOf<P>(&P::group, "group", "", "instead of a place: all of this group, and nothing beside it"),
            fieldOf<P>(&P::normal, "normal", "", "from where it is looked at; left out: square to the skin"),
            fieldOf<P>(&P::up, "up", "", "towards the picture's top; left out: the crown"),
            fieldOf<P>(&P::size, "size", "mm", "half the width", 0.01, 1000),
            fieldOf<P>(&P::height, "height", "mm", "half the height; left out: as wide", 0.01, 1000),
            fieldOf<P>(&P::name, "name", "", "of the stamp; left out: that of the group, or Harvest"),
            fieldOf<P>(&P::isTiled, "tile", "", "make it repeat without a seam")};
}

Fields<SetStamp> SetStamp::fields()
{
    using P = SetStamp;
    return {
        fieldOf<P>(&P::name, "name", "", "its name").required(),
        fieldOf<P>(&P::middle, "middle", "", "the value that leaves the skin as it is, 0 to 1", 0, 1),
        fieldOf<P>(&P::depth, "depth", "mm", "from the middle to the extremes, as first set when it is taken up", 0.001, 1000),
        fieldOf<P>(&P::isInverted, "invert", "", "low becomes high"),
        fieldOf<P>(&P::isTiled, "tile", "", "make it repeat without a seam")};
}

Fields<RemoveStamp> RemoveStamp::fields()
{
    using P = RemoveStamp;
    return {fieldOf<P>(&P::name, "name", "", "its name").required()};
}

std::vector<CommandSpec> stampCommands()
{
    return {
        commandOf(addStamp, true),
        commandOf(harvestStamp),
        commandOf(setStamp),
        commandOf(removeStamp),
    };
}

} // namespace bonemoss::command
