// Commands about pictures to work from.
#include "command/params.h"
#include "base/files.h"
#include "document/reference.h"
#include "image/picture_file.h"
#include "portrait/camera.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

constexpr std::size_t kMostPictures = 200;

Result<Reference *> takePicture(Creature &c, const Params &p)
{
    return takeItemOf<Reference>(c, "picture", p.value("picture"), Lock::Allows);
}

Result<PicturePoint> pair(const Params &p, const char *name)
{
    const std::vector<float> v = p.numbers(name);
    if (v.size() != 2)
        return Error{ErrorCode::BadValue, name, "must be two numbers: shares from the left and from the top"};
    return PicturePoint{v[0], v[1]};
}

Status readPicture(const Params &p, Reference &r)
{
    if (p.has("view") && p.text("view") != r.view) {
        r.view = p.text("view");
        r.crown.reset(), r.ground.reset(); // they said something about another direction
    }
    if (p.has("middle")) {
        const std::vector<float> v = p.numbers("middle");
        if (v.size() != 2)
            return Error{ErrorCode::BadValue, "middle", "must be two numbers: mm to the right and up in its view"};
        r.across = v[0], r.up = v[1];
    }
    if (p.has("height"))
        r.heightMm = p.number("height");
    if (p.has("turn"))
        r.turn = p.number("turn") * kRadiansPerDegree;
    if (p.has("opacity"))
        r.opacity = p.number("opacity");
    if (p.has("over"))
        r.isOver = p.isOn("over");
    if (p.has("hidden"))
        r.isHidden = p.isOn("hidden");
    if (p.has("locked"))
        r.isLocked = p.isOn("locked");
    return Done{};
}

Result<Creature> addPicture(const Creature &before, const Params &p, CommandContext &context)
{
    if (before.references.size() >= kMostPictures)
        return Error{ErrorCode::TooLarge, "picture", fmt::format("a creature keeps at most {} pictures", kMostPictures)};
    const std::filesystem::path path = context.folder / p.text("path");
    auto bytes = image::readPictureFile(path);
    if (!bytes)
        return bytes.error();
    const auto shown = image::decodePicture(*bytes);
    if (!shown)
        return Error{shown.error().code, shownPath(path.filename()), shown.error().detail};
    auto file = std::make_shared<PictureFile>();
    file->bytes = std::move(*bytes);
    file->width = shown->width, file->height = shown->height;
    Creature after = before;
    Reference r;
    r.id = after.nextId++;
    r.name = after.uniqueName(p.has("name") ? p.text("name") : shownPath(path.stem()));
    r.file = std::move(file);
    r.heightMm = before.heightMm;
    r.up = before.heightMm / 2; // standing on the floor until told otherwise
    if (p.has("view") && (p.text("view") == "crown" || p.text("view") == "belly"))
        r.up = 0;
    if (const Status read = readPicture(p, r); !read)
        return read.error();
    after.references.push_back(std::move(r));
    return after;
}

Result<Creature> setPicture(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    const auto taken = takePicture(after, p);
    if (!taken)
        return taken.error();
    Reference &r = **taken;
    if (r.isLocked && (p.has("middle") || p.has("height") || p.has("turn") || p.has("view")) && !p.has("locked"))
        return Error{ErrorCode::BadValue, r.name, "is locked; unlock it first"};
    if (p.has("name") && p.text("name") != r.name)
        r.name = after.uniqueName(p.text("name"));
    if (const Status read = readPicture(p, r); !read)
        return read.error();
    return after;
}

Result<Creature> removePicture(const Creature &before, const Params &p, CommandContext &)
{
    Creature after = before;
    const auto taken = takePicture(after, p);
    if (!taken)
        return taken.error();
    if (const Status gone = removeItems(after, {(*taken)->id}); !gone)
        return gone.error();
    return after;
}

Result<Creature> lineUpPicture(const Creature &before, const Params &p, CommandContext &context)
{
    Creature after = before;
    const auto taken = takePicture(after, p);
    if (!taken)
        return taken.error();
    Reference &r = **taken;
    const auto crown = pair(p, "crown"), ground = pair(p, "ground");
    if (!crown)
        return crown.error();
    if (!ground)
        return ground.error();
    const bool fromAbove = r.view == "crown" || r.view == "belly";
    const Box3f box = before.bounds();
    float size = before.heightMm;
    if (fromAbove) {
        if (!p.has("length") && box.isEmpty())
            return Error{ErrorCode::BadValue, r.name, "say how long the creature is from nose to tail (length, mm)"};
        size = p.has("length") ? p.number("length") : box.size().z;
    }
    const Vec3f low = placeOf(r, *ground), high = placeOf(r, *crown);
    if (const Status done = lineUp(r, *crown, *ground, size, box.isEmpty() ? 0 : box.centre().z); !done)
        return done.error();
    if (fromAbove)
        context.notes.push_back(fmt::format("{}: {:.4g} mm from nose to tail", r.name, size));
    else // what was wrong before, so that one learns of drawings that do not agree
        context.notes.push_back(fmt::format("{}: crown was {:+.1f} mm off, ground {:+.1f} mm; both are at {:.4g} and 0 mm now",
                                            r.name, high.y - size, low.y, size));
    return after;
}

std::vector<ParamSpec> pictureParams()
{
    std::vector<std::string> views;
    for (const portrait::NamedView &v : portrait::anatomicalViews())
        views.emplace_back(v.key);
    views.emplace_back(kBoard);
    return {
        textParam("name", "as the list shows it; made unique"),
        choiceParam("view", "the view it lies on, or the board of loose pictures", views),
        plainParam(ParamKind::Numbers, "middle", "mm", "its middle: to the right and up in its view, from the origin"),
        numberParam("height", "mm", "how high the whole picture is", 0.1, 1e6),
        numberParam("turn", "deg", "counter-clockwise as seen", -360, 360),
        numberParam("opacity", "", "0 not seen, 1 solid", 0, 1),
        switchParam("over", "drawn over the creature instead of behind it"),
        switchParam("hidden", "not shown"),
        switchParam("locked", "cannot be moved or picked"),
    };
}

} // namespace

std::vector<CommandSpec> pictureCommands()
{
    const ParamSpec picture = required(plainParam(ParamKind::Reference, "picture", "", "name or id"));
    auto add = pictureParams(), set = pictureParams();
    add.insert(add.begin(), required(pathParam("path", "PNG, JPEG, TIFF or EXR file; kept inside the creature")));
    set.insert(set.begin(), picture);
    return {
        {"picture.add", "Add picture", "Takes a picture to work from into the creature.", add, addPicture, true},
        {"picture.set", "Change picture", "Changes what is given of a picture and leaves the rest.", set, setPicture},
        {"picture.remove", "Delete picture", "Deletes a picture.", {picture}, removePicture},
        {"picture.lineup",
         "Line up picture",
         "Scales and moves a picture so that its crown and ground are at the final height and the floor; from nose "
         "or tail it is centred on the middle plane. From crown or belly the two points are nose and tail.",
         {picture, required(plainParam(ParamKind::Numbers, "crown", "", "shares of the picture from its left and its top")),
          required(plainParam(ParamKind::Numbers, "ground", "", "shares of the picture from its left and its top")),
          numberParam("length", "mm", "from crown or belly: nose to tail; as long as the creature is when not given", 0.1, 1e6)},
         lineUpPicture},
    };
}

} // namespace bonemoss::command
