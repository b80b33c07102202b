// Stamps of the creature's own: read from pictures, or harvested from skin.
#include "command/params.h"
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

Result<Creature> addStamp(const Creature &before, const Params &p, CommandContext &context)
{
    const std::filesystem::path path = context.folder / p.text("path");
    const auto bytes = image::readPictureFile(path);
    if (!bytes)
        return bytes.error();
    auto picture = image::decodeHeights(*bytes, kMostSide);
    if (!picture)
        return Error{picture.error().code, shownPath(path), picture.error().detail};
    if (p.isOn("invert"))
        for (float &v : picture->values)
            v = 1 - v;
    picture->middle = p.number("middle");
    image::HeightPicture made = p.isOn("tile") ? tileable(*picture) : std::move(*picture);
    toSixteenBits(made);
    return withStamp(before, p.has("name") ? p.text("name") : shownPath(path.stem()), std::move(made), p.number("depth"),
                     context);
}

Result<Creature> harvestStamp(const Creature &before, const Params &p, CommandContext &context)
{
    const auto id = findPiece(before, p);
    if (!id)
        return id.error();
    const Piece &piece = *before.piece(*id);
    const mesh::Surface &skin = piece.skin.shown;
    if (skin.isEmpty())
        return Error{ErrorCode::Empty, "harvest", "there is no skin"};
    if (p.has("group") == p.has("at"))
        return Error{ErrorCode::BadValue, "harvest", "either a place (at) or a group is needed"};
    const Vec3f up = p.has("up") ? p.point("up") : Vec3f{0, 1, 0};
    skin::HarvestSpot spot;
    if (p.has("group")) {
        const skin::Group *group = piece.skin.group(p.text("group"));
        if (!group)
            return Error{ErrorCode::Unknown, piece.name, fmt::format("has no group {}", p.text("group"))};
        const auto about = skin::spotAbout(skin, {&piece.skin.groupOf, group->number}, up);
        if (!about)
            return Error{ErrorCode::Empty, group->name,
                         "has no skin, or goes round the body; a stamp needs a side to be seen from"};
        spot = *about;
    } else {
        const auto under = mesh::nearestPoint(skin, p.point("at"));
        if (!under)
            return Error{ErrorCode::Empty, "harvest", "there is no skin"};
        spot.at = under->point, spot.normal = p.has("normal") ? normalized(p.point("normal")) : under->normal;
        spot.up = up, spot.size = p.number("size"), spot.tall = p.has("height") ? p.number("height") : 0;
    }
    auto taken = skin::harvest(skin, spot);
    if (!taken)
        return taken.error();
    image::HeightPicture made = p.isOn("tile") ? tileable(taken->picture) : std::move(taken->picture);
    toSixteenBits(made);
    context.notes.push_back(fmt::format("{:.2g} mm from its base to its extremes", taken->depth));
    const std::string name = p.has("name") ? p.text("name") : p.has("group") ? p.text("group") : "Harvest";
    return withStamp(before, name, std::move(made), taken->depth, context);
}

Result<Creature> setStamp(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    const std::string name = p.text("name");
    const auto stamp = std::find_if(after.stamps.begin(), after.stamps.end(), [&](const Stamp &s) { return s.name == name; });
    if (stamp == after.stamps.end())
        return noOwnStamp(name);
    image::HeightPicture picture = *stamp->picture;
    if (p.has("middle"))
        picture.middle = p.number("middle");
    if (p.isOn("invert")) {
        for (float &v : picture.values)
            v = 1 - v;
        picture.middle = 1 - picture.middle;
    }
    if (p.isOn("tile"))
        picture = tileable(picture);
    toSixteenBits(picture);
    *stamp = {name,
              std::make_shared<const image::HeightPicture>(std::move(picture)),
              p.has("depth") ? p.number("depth") : stamp->depth,
              {}};
    return after;
}

Result<Creature> removeStamp(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    const std::string name = p.text("name");
    if (std::erase_if(after.stamps, [&](const Stamp &s) { return s.name == name; }) == 0)
        return noOwnStamp(name);
    return after;
}

} // namespace

std::vector<CommandSpec> stampCommands()
{
    const ParamSpec tile = switchParam("tile", "make it repeat without a seam", "false");
    return {
        {"stamp.add",
         "Add stamp",
         "Takes a picture of 8, 16 or 32 bits as a stamp of the creature's own.",
         {required(pathParam("path", "PNG, JPEG, TIFF or EXR file")), textParam("name", "left out: that of the file"),
          numberParam("middle", "", "the value that leaves the skin as it is, 0 to 1", 0, 1, "0.5"),
          numberParam("depth", "mm", "from the middle to the extremes, as first set when it is taken up", 0.001, 1000, "1"),
          switchParam("invert", "dark is high", "false"), tile},
         addStamp,
         true},
        {"stamp.harvest",
         "Harvest stamp",
         "Takes the relief of a skin over its own base as a stamp.",
         {pieceParam(), plainParam(ParamKind::Point, "at", "mm", "middle of the rectangle"),
          textParam("group", "instead of a place: all of this group, and nothing beside it"),
          plainParam(ParamKind::Point, "normal", "", "from where it is looked at; left out: square to the skin"),
          plainParam(ParamKind::Point, "up", "", "towards the picture's top; left out: the crown"),
          numberParam("size", "mm", "half the width", 0.01, 1000, "10"),
          numberParam("height", "mm", "half the height; left out: as wide", 0.01, 1000),
          textParam("name", "of the stamp; left out: that of the group, or Harvest"), tile},
         harvestStamp},
        {"stamp.set",
         "Change stamp",
         "Changes a stamp of the creature's own. What was pressed or has grown with it stays as it is.",
         {required(textParam("name", "its name")),
          numberParam("middle", "", "the value that leaves the skin as it is, 0 to 1", 0, 1),
          numberParam("depth", "mm", "from the middle to the extremes, as first set when it is taken up", 0.001, 1000),
          switchParam("invert", "low becomes high", "false"), tile},
         setStamp},
        {"stamp.remove",
         "Delete stamp",
         "Deletes a stamp of the creature's own.",
         {required(textParam("name", "its name"))},
         removeStamp},
    };
}

} // namespace bonemoss::command
