// Pictures in the creature's own light, or in the museum's where it has none; and lights mixed afterwards.
#include "cli/commands.h"
#include "cli/reading.h"

#include "base/files.h"
#include "command/command.h"
#include "document/ops/portraits.h"
#include "document/ops/posing.h"
#include "export/portrait_series.h"
#include "export/shown_scene.h"
#include "image/picture_file.h"
#include "portrait/passes.h"
#include "portrait/path_tracer.h"
#include "portrait/picture_look.h"
#include "portrait/rendering.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bonemoss::cli {

using nlohmann::json;

namespace {

constexpr int kLargestPicture = 16384;

std::vector<std::string> wordsOf(const std::string &text)
{
    std::vector<std::string> out;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find(',', at), text.size());
        if (end > at)
            out.push_back(text.substr(at, end - at));
        at = end + 1;
    }
    return out;
}

/// What shall fill the picture: all, a piece, or a form that is in the skin.
Result<std::vector<Vec3f>> framedPoints(const RenderOptions &o, const io::Scene &scene, const document::Creature &creature)
{
    if (o.on.empty())
        return scene.points(creature.stage.ground.standsOn());
    std::vector<Vec3f> shown;
    for (const io::Object &part : scene.objects)
        if (part.name == o.on)
            for (const io::Placement &place : part.places)
                scene.shapeOf(part).eachPoint([&](Vec3f p) { shown.push_back(place.apply(p)); });
    if (!shown.empty())
        return shown;
    const auto &forms = creature.armature.forms;
    const auto form = std::find_if(forms.begin(), forms.end(), [&](const auto &f) { return f.name == o.on; });
    if (form == forms.end())
        return Error{ErrorCode::Unknown, "--on", "there is no piece and no form of the name " + o.on};
    return tessellateAll(creature.armature, *form).positions;
}

/// The creature as it was asked for: scheme, pose, lights, surroundings, through the same commands as anywhere.
Result<document::Creature> prepared(document::Creature creature, const RenderOptions &o)
{
    std::vector<json> commands;
    if (!o.scheme.empty())
        commands.push_back({{"do", "scheme.use"}, {"scheme", o.scheme}});
    if (!o.pose.empty())
        commands.push_back({{"do", "pose.use"}, {"pose", o.pose}});
    if (!o.lights.empty())
        commands.push_back({{"do", "portrait.lights"}, {"set", o.lights}});
    if (!o.surroundings.empty())
        commands.push_back({{"do", "portrait.surroundings"}, {"path", std::filesystem::absolute(o.surroundings).native()}});
    if (!o.ground.empty())
        commands.push_back({{"do", "portrait.ground"}, {"kind", o.ground}});
    if (o.exposure)
        commands.push_back({{"do", "portrait.film"}, {"exposure", *o.exposure}});
    if (!o.look.empty())
        commands.push_back({{"do", "portrait.film"}, {"look", o.look}});
    command::CommandContext context;
    for (const json &c : commands) {
        auto next = command::apply(creature, c, context);
        if (!next)
            return next.error();
        creature = std::move(*next);
    }
    for (const Note &note : context.notes)
        fmt::print(stderr, "bonemoss-cli: {}\n", command::told(note));
    return creature;
}

/// "A,B,C,D" within a picture, or "I/N": a band of rows of it.
Result<std::array<int, 4>> tileOf(const RenderOptions &o, int width, int height)
{
    std::array<int, 4> t{0, 0, width, height};
    char rest = 0;
    if (!o.tile.empty()
        && (std::sscanf(o.tile.c_str(), "%d,%d,%d,%d%c", &t[0], &t[1], &t[2], &t[3], &rest) != 4 || t[0] < 0 || t[1] < 0
            || t[2] < 1 || t[3] < 1 || t[0] > width - t[2] || t[1] > height - t[3]))
        return Error{ErrorCode::BadValue, "--tile", "must be X,Y,WIDTH,HEIGHT within the picture"};
    int number = 1, of = 1;
    if (!o.part.empty()
        && (std::sscanf(o.part.c_str(), "%d/%d%c", &number, &of, &rest) != 2 || of < 1 || number < 1 || number > of || of > t[3]))
        return Error{ErrorCode::BadValue, "--part", "must be I/N: the I-th of N bands of rows"};
    const int top = int(std::int64_t(t[3]) * (number - 1) / of), bottom = int(std::int64_t(t[3]) * number / of);
    return std::array<int, 4>{t[0], t[1] + top, t[2], bottom - top};
}

/// Parts of a PNG must not hang on the rest of the picture.
Status developsInParts(const RenderOptions &o, const portrait::Rendering &job)
{
    const bool isPart = job.tile[2] != job.width || job.tile[3] != job.height;
    if (!isPart || o.out.extension() == ".exr" || (!job.film.isMetered && job.film.bloom <= 0))
        return Done{};
    return Error{ErrorCode::BadValue, "--part",
                 "exposing by the picture and bloom need the whole picture: write parts as .exr and join them"};
}

} // namespace

Status sizeFrom(const std::string &text, int &width, int &height)
{
    char rest = 0;
    if (std::sscanf(text.c_str(), "%dx%d%c", &width, &height, &rest) != 2 || width < 1 || height < 1 || width > kLargestPicture
        || height > kLargestPicture)
        return Error{ErrorCode::BadValue, "--size", "must be WIDTHxHEIGHT, 1 to 16384 each"};
    return Done{};
}

Result<PictureSource> pictureSource(const RenderOptions &o, int &exitCode)
{
    PictureSource out;
    exitCode = kUnreadable;
    if (isCreature(o.in)) {
        auto loaded = loadTold(o.in);
        if (!loaded)
            return loaded.error();
        auto ready = prepared(std::move(*loaded), o);
        exitCode = kUsage;
        if (!ready)
            return ready.error();
        out.creature = std::move(*ready);
        out.scene = exporting::pictureScene(document::posed(out.creature));
        return out;
    }
    auto read = readPictureScene(o.in);
    if (!read)
        return read.error();
    out.scene = std::move(*read), out.isCreature = false;
    exitCode = kUsage;
    const portrait::LightSet *set = o.lights.empty() ? &portrait::lightSets().front() : portrait::lightSet(o.lights);
    if (!set)
        return Error{ErrorCode::Unknown, "--lights", "there is no such set; see bonemoss-cli schema, portrait.lights"};
    out.creature.stage = set->make(std::max(out.scene.box().diagonal(), 1e-3f));
    if (!o.look.empty())
        out.creature.stage.film.look = o.look;
    if (!o.look.empty() && portrait::pictureLook(o.look).id != o.look)
        return Error{ErrorCode::Unknown, "--look", "there is no such look; see bonemoss-cli schema, portrait.film"};
    return out;
}

Result<portrait::Shot> shotFor(const RenderOptions &o, const PictureSource &source, int width, int height)
{
    const auto shown = framedPoints(o, source.scene, source.creature);
    if (!shown)
        return shown.error();
    auto shot = shotNamed(source.creature, o.camera.empty() ? o.view : o.camera, *shown, o.lens, float(width) / float(height));
    if (shot)
        shot->camera.isParallel = shot->camera.isParallel || o.parallel;
    return shot;
}

int render(const RenderOptions &o)
{
    int width = 0, height = 0, code = kUsage;
    if (const Status is = sizeFrom(o.size, width, height); !is)
        return fail(is.error(), kUsage);
    if (o.camera.empty() && !portrait::viewRotation(o.view))
        return fail({ErrorCode::BadValue, "--view", "must be nose, left, tail, right, crown, belly or three-quarter"}, kUsage);
    int first = 0, last = 0;
    char rest = 0;
    if (!o.frames.empty()
        && (std::sscanf(o.frames.c_str(), "%d-%d%c", &first, &last, &rest) != 2 || first < 1 || last < first || last > o.turn))
        return fail({ErrorCode::BadValue, "--frames", fmt::format("must be A-B, within the {} of a turn", o.turn)}, kUsage);
    auto source = pictureSource(o, code);
    if (!source)
        return fail(source.error(), code);
    const double start = now();
    const auto shot = shotFor(o, *source, width, height);
    if (!shot)
        return fail(shot.error(), kUsage);
    const auto tile = tileOf(o, width, height);
    if (!tile)
        return fail(tile.error(), kUsage);
    const portrait::Stage stage = litStage(source->creature);
    const auto tracer = portrait::PathTracer::make(std::move(source->scene), stage, *shot);
    if (!tracer)
        return fail(tracer.error(), kFailed);
    const double built = now();
    portrait::Rendering job{.width = width, .height = height, .tile = *tile};
    job.how = {.samples = o.samples > 0 ? o.samples : 64, .error = o.error, .seed = o.seed};
    job.passes = wordsOf(o.passes), job.film = stage.film, job.isRaw = o.isRaw;
    if (const Status fits = developsInParts(o, job); !fits)
        return fail(fits.error(), kUsage);
    portrait::Rendered made;
    const auto make = [&](const portrait::PathTracer &by, const std::filesystem::path &out) -> int {
        job.kept = out, job.kept += ".unfinished";
        auto picture = rendered(by, job);
        if (!picture)
            return fail(picture.error(), picture.error().code == ErrorCode::Unknown ? kUsage : kFailed);
        made = std::move(*picture);
        if (made.rowsKept > 0)
            fmt::print(stderr, "bonemoss-cli: went on from {} rows of an unfinished picture\n", made.rowsKept);
        const Status written = portrait::writePicture(out, made.picture, job.film, o.isClear);
        return written ? kDone : fail(written.error(), kFailed);
    };
    if (first == 0)
        code = make(**tracer, o.out);
    for (int frame = first; frame > 0 && frame <= last; ++frame) {
        const auto by = (*tracer)->with(stage, exporting::turned(*shot, 360 * float(frame - 1) / float(o.turn)));
        code = by ? make(**by, exporting::framePath(o.out, frame)) : fail(by.error(), kFailed);
        if (code != kDone)
            break;
    }
    if (code != kDone)
        return code;
    const double gathered = now();
    if (o.json) {
        fmt::print("{}\n", json{{"seconds", {{"scene", built - start}, {"picture", gathered - built}}},
                                {"rays", (*tracer)->rays()},
                                {"samples", made.samples},
                                {"error", made.error},
                                {"lights", made.lights},
                                {"objects", (*tracer)->items()},
                                {"tile", *tile}}
                               .dump(2));
    }
    return kDone;
}

namespace {

portrait::Film filmOf(const MixOptions &o)
{
    portrait::Film film;
    film.exposure = o.exposure, film.contrast = o.contrast, film.isMetered = o.isMetered, film.bloom = o.bloom;
    return film;
}

} // namespace

int join(const std::vector<std::filesystem::path> &files, const MixOptions &o)
{
    std::vector<image::ChannelPicture> parts;
    for (const auto &file : files) {
        auto part = image::readChannels(file);
        if (!part)
            return fail(part.error(), kUnreadable);
        parts.push_back(std::move(*part));
    }
    const auto whole = portrait::joinedParts(parts);
    if (!whole)
        return fail(whole.error(), kUnreadable);
    const Status written = portrait::writePicture(o.out, *whole, filmOf(o), false);
    return written ? kDone : fail(written.error(), kFailed);
}

int mix(const MixOptions &o)
{
    const auto picture = image::readChannels(o.in);
    if (!picture)
        return fail(picture.error(), kUnreadable);
    const auto g = portrait::lightsFrom(*picture);
    if (!g)
        return fail(g.error(), kUnreadable);
    std::vector<portrait::LightMix> lights;
    std::string known;
    for (const std::string &name : g->lights)
        known += (known.empty() ? "" : ", ") + name;
    for (const std::string &text : o.lights) {
        auto one = portrait::lightMixOf(text);
        if (!one)
            return fail(one.error(), kUsage);
        if (std::find(g->lights.begin(), g->lights.end(), one->light) == g->lights.end())
            return fail({ErrorCode::Unknown, "--light", fmt::format("there is no light {}; there are {}", one->light, known)},
                        kUsage);
        lights.push_back(std::move(*one));
    }
    const Status written = image::writePng(o.out, developed(mixed(*g, lights), filmOf(o)));
    return written ? kDone : fail(written.error(), kFailed);
}

} // namespace bonemoss::cli
