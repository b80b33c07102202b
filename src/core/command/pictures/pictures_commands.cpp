// Commands about pictures to work from.
#include "command/fields.h"
#include "command/pictures/picture_fields.h"
#include "command/named_items.h"
#include "base/files.h"
#include "document/reference.h"
#include "image/picture_file.h"
#include "portrait/camera.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

constexpr std::size_t kMostPictures = 200;

Reference &takePicture(Creature &c, const ItemName &name)
{
    return *need(takeItemOf<Reference>(c, "picture", name, Lock::Allows));
}

void readPicture(const PictureChanges &p, Reference &r)
{
    if (p.view && *p.view != r.view) {
        r.view = *p.view;
        r.crown.reset(), r.ground.reset(); // they said something about another direction
    }
    if (p.middle)
        r.across = (*p.middle)[0], r.up = (*p.middle)[1];
    setIfGiven(r.heightMm, p.height);
    if (p.turn)
        r.rotation = *p.turn * kRadiansPerDegree;
    setIfGiven(r.opacity, p.opacity);
    setIfGiven(r.isOver, p.isOver);
    setIfGiven(r.isHidden, p.isHidden);
    setIfGiven(r.isLocked, p.isLocked);
}

Result<Creature> addPicture(const Creature &before, const AddPicture &p, CommandContext &context)
{
    if (before.references.size() >= kMostPictures)
        return Error{ErrorCode::TooLarge, "picture", fmt::format("a creature keeps at most {} pictures", kMostPictures)};
    const std::filesystem::path path = context.folder / p.path;
    auto bytes = need(image::readPictureFile(path));
    const auto shown = image::decodePicture(bytes);
    if (!shown)
        return Error{shown.error().code, shownPath(path.filename()), shown.error().detail};
    auto file = std::make_shared<PictureFile>();
    file->bytes = std::move(bytes);
    file->width = shown->width, file->height = shown->height;
    Creature after = before;
    Reference r;
    r.id = after.nextId++;
    r.name = after.uniqueName(p.name.value_or(shownPath(path.stem())));
    r.file = std::move(file);
    r.heightMm = before.heightMm;
    r.up = before.heightMm / 2; // standing on the floor until told otherwise
    if (p.changes.view && (*p.changes.view == "crown" || *p.changes.view == "belly"))
        r.up = 0;
    readPicture(p.changes, r);
    after.references.push_back(std::move(r));
    return after;
}

Result<Creature> setPicture(const Creature &before, const SetPicture &p, CommandContext &)
{
    Creature after = before;
    Reference &r = takePicture(after, p.picture);
    if (r.isLocked && (p.changes.middle || p.changes.height || p.changes.turn || p.changes.view)
        && !p.changes.isLocked.has_value())
        return Error{ErrorCode::BadValue, r.name, "is locked; unlock it first"};
    if (p.name && *p.name != r.name)
        r.name = after.uniqueName(*p.name);
    readPicture(p.changes, r);
    return after;
}

Result<Creature> removePicture(const Creature &before, const RemovePicture &p, CommandContext &)
{
    Creature after = before;
    need(removeItems(after, {takePicture(after, p.picture).id}));
    return after;
}

Result<Creature> lineUpPicture(const Creature &before, const LineUpPicture &p, CommandContext &context)
{
    Creature after = before;
    Reference &r = takePicture(after, p.picture);
    const PicturePoint crown{p.crown[0], p.crown[1]}, ground{p.ground[0], p.ground[1]};
    const bool fromAbove = r.view == "crown" || r.view == "belly";
    const Box3f box = before.bounds();
    float size = before.heightMm;
    if (fromAbove) {
        if (!p.length && box.isEmpty())
            return Error{ErrorCode::BadValue, r.name, "say how long the creature is from nose to tail (length, mm)"};
        size = p.length ? *p.length : box.size().z;
    }
    const Vec3f low = placeOf(r, ground), high = placeOf(r, crown);
    need(lineUp(r, crown, ground, size, box.isEmpty() ? 0 : box.centre().z));
    if (fromAbove)
        context.notes.push_back(fmt::format("{}: {:.4g} mm from nose to tail", r.name, size));
    else // what was wrong before, so that one learns of drawings that do not agree
        context.notes.push_back(fmt::format("{}: crown was {:+.1f} mm off, ground {:+.1f} mm; both are at {:.4g} and 0 mm now",
                                            r.name, high.y - size, low.y, size));
    return after;
}

} // namespace

Fields<PictureChanges> PictureChanges::fields()
{
    using P = PictureChanges;
    std::vector<std::string> views;
    for (const portrait::NamedView &v : portrait::anatomicalViews())
        views.emplace_back(v.key);
    views.emplace_back(kBoard);
    return {wordOf<P>(&P::view, "view", "the view it lies on, or the board of loose pictures", views),
            fieldOf<P>(&P::middle, "middle", "mm", "its middle: to the right and up in its view, from the origin"),
            fieldOf<P>(&P::height, "height", "mm", "how high the whole picture is", 0.1, 1000000),
            fieldOf<P>(&P::turn, "turn", "deg", "counter-clockwise as seen", -360, 360),
            fieldOf<P>(&P::opacity, "opacity", "", "0 not seen, 1 solid", 0, 1),
            fieldOf<P>(&P::isOver, "over", "", "drawn over the creature instead of behind it"),
            fieldOf<P>(&P::isHidden, "hidden", "", "not shown"),
            fieldOf<P>(&P::isLocked, "locked", "", "cannot be moved or picked")};
}

Fields<AddPicture> AddPicture::fields()
{
    using P = AddPicture;
    return fieldList<P>({fieldOf<P>(&P::path, "path", "", "PNG, JPEG, TIFF or EXR file; kept inside the creature").required(),
                         fieldOf<P>(&P::name, "name", "", "as the list shows it; made unique"),
                         nested<P>(&P::changes, PictureChanges::fields())});
}

Fields<SetPicture> SetPicture::fields()
{
    using P = SetPicture;
    return fieldList<P>({fieldOf<P>(&P::picture, "picture", "", "name or id").required(),
                         fieldOf<P>(&P::name, "name", "", "as the list shows it; made unique"),
                         nested<P>(&P::changes, PictureChanges::fields())});
}

Fields<RemovePicture> RemovePicture::fields()
{
    using P = RemovePicture;
    return {fieldOf<P>(&P::picture, "picture", "", "name or id").required()};
}

Fields<LineUpPicture> LineUpPicture::fields()
{
    using P = LineUpPicture;
    return {fieldOf<P>(&P::picture, "picture", "", "name or id").required(),
            fieldOf<P>(&P::crown, "crown", "", "shares of the picture from its left and its top").required(),
            fieldOf<P>(&P::ground, "ground", "", "shares of the picture from its left and its top").required(),
            fieldOf<P>(&P::length, "length", "mm", "from crown or belly: nose to tail; as long as the creature is when not given",
                       0.1, 1000000)};
}

std::vector<CommandSpec> pictureCommands()
{
    return {
        commandOf(addPicture, true),
        commandOf(setPicture),
        commandOf(removePicture),
        commandOf(lineUpPicture),
    };
}

} // namespace bonemoss::command
