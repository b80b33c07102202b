// Commands about what a portrait is made of beside lights: surroundings, backdrop, ground, fog, film and cameras.
#include "command/fields.h"
#include "command/named_items.h"
#include "command/portrait/stage_fields.h"
#include "base/files.h"
#include "document/ops/portraits.h"
#include "document/ops/posing.h"
#include "export/shown_scene.h"
#include "image/picture_file.h"
#include "portrait/grounds.h"
#include "portrait/picture_look.h"

#include <algorithm>
#include <fmt/format.h>

namespace bonemoss::command {

namespace {

using portrait::Shot;
constexpr std::size_t kMostCameras = 100;

/// A picture file that is kept in the creature as it is; it must be readable as light.
std::shared_ptr<const PictureFile> lightPictureOf(const std::filesystem::path &given, CommandContext &context)
{
    const std::filesystem::path path = context.folder / given;
    auto file = std::make_shared<PictureFile>();
    file->bytes = need(image::readPictureFile(path));
    const auto light = image::decodeLight(file->bytes, 64); // that it can be read at all
    if (!light)
        throw Failure(Error{light.error().code, shownPath(path.filename()), light.error().detail});
    file->width = light->width, file->height = light->height;
    return file;
}

Result<Creature> setSurroundings(const Creature &before, const SetSurroundings &p, CommandContext &context)
{
    using Kind = portrait::Surroundings::Kind;
    Creature after = before;
    portrait::Surroundings &s = after.stage.surroundings;
    if (p.path) {
        s.picture = lightPictureOf(*p.path, context), s.kind = Kind::Picture;
        if (std::abs(float(s.picture->width) / float(s.picture->height) - 2) > 0.2f)
            context.notes.push_back("pictures of a whole sphere are twice as wide as high; this one is stretched to it");
    }
    setIfGiven(s.kind, p.kind), setIfGiven(s.above, p.above), setIfGiven(s.below, p.below);
    setIfGiven(s.sunHeight, p.sunHeight), setIfGiven(s.haze, p.haze), setIfGiven(s.rotation, p.turn);
    setIfGiven(s.strength, p.strength), setIfGiven(s.isShown, p.isShown);
    if (s.kind == Kind::Picture && !s.picture)
        return Error{ErrorCode::BadValue, "kind", "needs a picture: give its path"};
    return after;
}

Result<Creature> setBackdrop(const Creature &before, const SetBackdrop &p, CommandContext &context)
{
    using Kind = portrait::Backdrop::Kind;
    Creature after = before;
    portrait::Backdrop &b = after.stage.backdrop;
    if (p.path)
        b.picture = lightPictureOf(*p.path, context), b.kind = Kind::Picture;
    setIfGiven(b.kind, p.kind), setIfGiven(b.high, p.high), setIfGiven(b.low, p.low), setIfGiven(b.seed, p.seed);
    if (b.kind == Kind::Picture && !b.picture)
        return Error{ErrorCode::BadValue, "kind", "needs a picture: give its path"};
    return after;
}

Result<Creature> setGround(const Creature &before, const SetGround &p, CommandContext &context)
{
    Creature after = before;
    portrait::Ground &g = after.stage.ground;
    setIfGiven(g.kind, p.kind), setIfGiven(g.seed, p.seed), setIfGiven(g.sink, p.sink);
    if (p.piece)
        g.piece = need(findPiece(before, p.piece)), g.kind = "piece";
    if (g.kind == "piece" && !before.piece(g.piece)) {
        if (before.pieces.empty())
            return Error{ErrorCode::Empty, "piece", "there is no piece to stand on"};
        const auto lowest = std::min_element(before.pieces.begin(), before.pieces.end(), [](const auto &a, const auto &b) {
            return a->bounds().centre().y < b->bounds().centre().y;
        });
        g.piece = (*lowest)->id;
        context.notes.push_back(fmt::format("it stands on {}, the lowest piece", (*lowest)->name));
    }
    if (p.ownColour)
        g.colour.reset();
    if (p.colour)
        g.colour = *p.colour;
    return after;
}

Result<Creature> setFog(const Creature &before, const SetFog &p, CommandContext &)
{
    Creature after = before;
    setIfGiven(after.stage.fog.distance, p.distance), setIfGiven(after.stage.fog.colour, p.colour);
    return after;
}

Result<Creature> setFilm(const Creature &before, const SetFilm &p, CommandContext &)
{
    Creature after = before;
    portrait::Film &f = after.stage.film;
    setIfGiven(f.look, p.look), setIfGiven(f.exposure, p.exposure), setIfGiven(f.contrast, p.contrast),
        setIfGiven(f.bloom, p.bloom);
    setIfGiven(f.grain, p.grain), setIfGiven(f.isMetered, p.isMetered);
    return after;
}

void change(const Creature &c, Shot &s, const CameraChanges &p)
{
    portrait::Camera &camera = s.camera;
    float lens = portrait::lensOf(camera, s.aspect);
    setIfGiven(lens, p.lens), setIfGiven(s.aspect, p.aspect), setIfGiven(camera.isParallel, p.isParallel);
    camera.fieldOfView = portrait::fieldOfViewOf(lens, s.aspect);
    if (p.view) {
        const std::vector<Vec3f> shown = exporting::shownScene(posed(c)).points(c.stage.ground.standsOn());
        const Shot framed = need(shotNamed(c, *p.view, shown, lens, s.aspect));
        const bool isParallel = camera.isParallel;
        camera = framed.camera, camera.isParallel = isParallel;
    }
    if (p.eye || p.target) {
        const Vec3f eye = p.eye.value_or(camera.eye()), target = p.target.value_or(camera.target);
        const Vec3f back = eye - target;
        if (length(back) < 1e-3f)
            throw Failure(Error{ErrorCode::BadValue, "eye", "must be apart from what it looks at"});
        camera.target = target, camera.distance = length(back);
        camera.rotation = portrait::uprightRotation(back);
    }
    if (p.tilt) // about the way it looks
        camera.rotation = portrait::uprightRotation(-camera.forward()) * rotationAbout({0, 0, 1}, *p.tilt * kRadiansPerDegree);
    setIfGiven(s.aperture, p.aperture), setIfGiven(s.focus, p.focus);
    if (p.focusAt)
        s.focus = std::max(0.0f, dot(*p.focusAt - camera.eye(), camera.forward()));
}

Shot &cameraOf(Creature &c, const ItemName &name)
{
    for (Shot &s : c.stage.shots)
        if (std::holds_alternative<std::uint32_t>(name) ? s.id == std::get<std::uint32_t>(name)
                                                        : s.name == std::get<std::string>(name))
            return s;
    throw Failure(Error{ErrorCode::Unknown, "camera", fmt::format("there is no camera {}", told(name))});
}

void checkCameraName(const Creature &c, const std::string &name, std::uint32_t own)
{
    if (name.empty() || portrait::viewRotation(name))
        throw Failure(Error{ErrorCode::BadValue, "name", "must be a word or more, and none of the views that are always there"});
    for (const Shot &s : c.stage.shots)
        if (s.name == name && s.id != own)
            throw Failure(Error{ErrorCode::BadValue, "name", fmt::format("there is a camera {} already", name)});
}

Result<Creature> keepCamera(const Creature &before, const KeepCamera &p, CommandContext &)
{
    Creature after = before;
    auto at = std::find_if(after.stage.shots.begin(), after.stage.shots.end(), [&](const Shot &s) { return s.name == p.name; });
    Shot shot;
    shot.camera.rotation = *portrait::viewRotation("three-quarter");
    if (at != after.stage.shots.end())
        shot = *at;
    else
        checkCameraName(after, p.name, 0);
    CameraChanges changes = p.changes;
    if (!changes.view && !changes.eye && !changes.target && at == after.stage.shots.end())
        changes.view = "three-quarter";
    shot.name = p.name;
    change(before, shot, changes);
    if (at != after.stage.shots.end()) {
        *at = std::move(shot);
        return after;
    }
    if (after.stage.shots.size() >= kMostCameras)
        return Error{ErrorCode::TooLarge, "cameras", fmt::format("there are {} already; delete some", kMostCameras)};
    shot.id = after.nextId++;
    after.stage.shots.push_back(std::move(shot));
    return after;
}

Result<Creature> setCamera(const Creature &before, const SetCamera &p, CommandContext &)
{
    Creature after = before;
    Shot &s = cameraOf(after, p.camera);
    if (p.name) {
        checkCameraName(after, *p.name, s.id);
        s.name = *p.name;
    }
    change(before, s, p.changes);
    return after;
}

Result<Creature> removeCamera(const Creature &before, const RemoveCamera &p, CommandContext &)
{
    Creature after = before;
    const std::uint32_t id = cameraOf(after, p.camera).id;
    std::erase_if(after.stage.shots, [&](const Shot &s) { return s.id == id; });
    return after;
}

} // namespace

Fields<SetSurroundings> SetSurroundings::fields()
{
    using P = SetSurroundings;
    return {choiceOf<P>(&P::kind, "kind", "none, even (two colours), sky, or picture", kSurroundingsNames),
            fieldOf<P>(&P::path, "path", "", "EXR, HDR, JPEG or PNG of a whole sphere; kept inside the creature"),
            fieldOf<P>(&P::above, "above", "", "of even: linear light from above", 0, 100),
            fieldOf<P>(&P::below, "below", "", "of even: linear light from below", 0, 100),
            fieldOf<P>(&P::sunHeight, "sunHeight", "deg", "of a sky: the sun above the horizon", 0, 90),
            fieldOf<P>(&P::haze, "haze", "", "of a sky: turbidity, 2 clear to 10 hazy", 2, 10),
            fieldOf<P>(&P::turn, "turn", "deg", "the sun's azimuth, or how far a picture is turned to the left flank", -360, 360),
            fieldOf<P>(&P::strength, "strength", "", "times its light", 0, 1000),
            fieldOf<P>(&P::isShown, "shown", "", "seen behind the creature in place of the backdrop")};
}

Fields<SetBackdrop> SetBackdrop::fields()
{
    using P = SetBackdrop;
    return {choiceOf<P>(&P::kind, "kind", "surroundings, colour, gradient, picture or hills", kBackdropNames),
            fieldOf<P>(&P::path, "path", "", "picture file; kept inside the creature"),
            fieldOf<P>(&P::high, "high", "", "colour above, of distant hills and their sky; linear light", 0, 100),
            fieldOf<P>(&P::low, "low", "", "colour below, of near hills; linear light", 0, 100),
            fieldOf<P>(&P::seed, "seed", "", "of hills: another number, other hills", 0, 1000000)};
}

Fields<SetGround> SetGround::fields()
{
    using P = SetGround;
    return {wordOf<P>(&P::kind, "kind", "what it stands on", idsOf(portrait::groundKinds())),
            fieldOf<P>(&P::seed, "seed", "", "another number, other stones and grass", 0, 1000000),
            fieldOf<P>(&P::colour, "colour", "", "linear light", 0, 1),
            fieldOf<P>(&P::piece, "piece", "", "name or id of the piece that it stands on; kind becomes piece"),
            fieldOf<P>(&P::ownColour, "ownColour", "", "the colour it has by itself"),
            fieldOf<P>(&P::sink, "sink", "mm", "how deep the creature stands in it", -10000, 10000)};
}

Fields<SetFog> SetFog::fields()
{
    using P = SetFog;
    return {fieldOf<P>(&P::distance, "distance", "mm", "behind the creature at which 63 % of what is seen is fog; 0 for none", 0,
                       10000000),
            fieldOf<P>(&P::colour, "colour", "", "linear light", 0, 100)};
}

Fields<SetFilm> SetFilm::fields()
{
    using P = SetFilm;
    return {wordOf<P>(&P::look, "look", "what pictures make of the creature", idsOf(portrait::pictureLooks())),
            fieldOf<P>(&P::exposure, "exposure", "stops", "beyond what is metered", -10, 10),
            fieldOf<P>(&P::isMetered, "metered", "", "exposed by the picture first"),
            fieldOf<P>(&P::contrast, "contrast", "", "of the tone curve; at 0 what is brighter than white is cut off", 0, 1),
            fieldOf<P>(&P::bloom, "bloom", "", "share of the light that the lens scatters", 0, 1),
            fieldOf<P>(&P::grain, "grain", "", "of the film", 0, 1)};
}

Fields<CameraChanges> CameraChanges::fields()
{
    using P = CameraChanges;
    return {fieldOf<P>(&P::view, "view", "", "frames the creature from a view (left, three-quarter) or like another camera"),
            fieldOf<P>(&P::eye, "eye", "mm", "where it stands", -1e6, 1e6),
            fieldOf<P>(&P::target, "target", "mm", "what it looks at", -1e6, 1e6),
            fieldOf<P>(&P::tilt, "tilt", "deg", "about the way it looks", -180, 180),
            fieldOf<P>(&P::lens, "lens", "mm", "focal length, on film 36 mm wide", 8, 1000),
            fieldOf<P>(&P::aperture, "aperture", "", "f-number; 0: all is sharp", 0, 128),
            fieldOf<P>(&P::focus, "focus", "mm", "from the eye; 0: at what it looks at", 0, 1e6),
            fieldOf<P>(&P::focusAt, "focusAt", "mm", "place that shall be sharp", -1e6, 1e6),
            fieldOf<P>(&P::aspect, "aspect", "", "width over height of its pictures", 0.1, 10),
            fieldOf<P>(&P::isParallel, "parallel", "", "without perspective")};
}

Fields<KeepCamera> KeepCamera::fields()
{
    using P = KeepCamera;
    return fieldList<P>({fieldOf<P>(&P::name, "name", "", "by which it is found again").required(),
                         nested<P>(&P::changes, CameraChanges::fields())});
}

Fields<SetCamera> SetCamera::fields()
{
    using P = SetCamera;
    return fieldList<P>({fieldOf<P>(&P::camera, "camera", "", "name or id").required(),
                         fieldOf<P>(&P::name, "name", "", "a new one"), nested<P>(&P::changes, CameraChanges::fields())});
}

Fields<RemoveCamera> RemoveCamera::fields()
{
    using P = RemoveCamera;
    return {fieldOf<P>(&P::camera, "camera", "", "name or id").required()};
}

std::vector<CommandSpec> stageCommands()
{
    return {commandOf(setSurroundings, true),
            commandOf(setBackdrop, true),
            commandOf(setGround),
            commandOf(setFog),
            commandOf(setFilm),
            commandOf(keepCamera),
            commandOf(setCamera),
            commandOf(removeCamera)};
}

} // namespace bonemoss::command
