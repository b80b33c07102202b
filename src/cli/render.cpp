// Pictures: traced in the creature's own light, or as clay where it has none; and lights mixed afterwards.
#include "cli/commands.h"
#include "cli/reading.h"

#include "base/files.h"
#include "command/command.h"
#include "document/ops/portraits.h"
#include "document/ops/posing.h"
#include "export/shown_scene.h"
#include "image/picture_file.h"
#include "portrait/clay_picture.h"
#include "portrait/filter.h"
#include "portrait/passes.h"
#include "portrait/path_tracer.h"

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
    std::vector<Vec3f> shown;
    for (const io::Object &part : scene.objects)
        if (o.on.empty() || part.name == o.on)
            for (const io::Placement &place : part.places)
                scene.shapeOf(part).eachPoint([&](Vec3f p) { shown.push_back(place.apply(p)); });
    if (!shown.empty() || o.on.empty())
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

int renderClay(const RenderOptions &o, const io::Scene &scene, const document::Creature &creature, int width, int height)
{
    const auto shown = framedPoints(o, scene, creature);
    if (!shown)
        return fail(shown.error(), kUsage);
    portrait::Camera camera;
    camera.rotation = *portrait::viewRotation(o.view);
    camera.isParallel = o.parallel;
    camera = portrait::framing(camera, *shown, float(width) / float(height));
    const auto picture = portrait::clayPicture(scene, camera, width, height, std::min(o.samples > 0 ? o.samples : 4, 64));
    if (!picture)
        return fail(picture.error(), kFailed);
    const Status written = image::writePng(o.out, *picture);
    return written ? kDone : fail(written.error(), kFailed);
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

} // namespace

int render(const RenderOptions &o)
{
    int width = 0, height = 0;
    char rest = 0;
    if (std::sscanf(o.size.c_str(), "%dx%d%c", &width, &height, &rest) != 2 || width < 1 || height < 1 || width > kLargestPicture
        || height > kLargestPicture)
        return fail({ErrorCode::BadValue, "--size", "must be WIDTHxHEIGHT, 1 to 16384 each"}, kUsage);
    if (o.camera.empty() && !portrait::viewRotation(o.view))
        return fail({ErrorCode::BadValue, "--view", "must be nose, left, tail, right, crown, belly or three-quarter"}, kUsage);
    document::Creature creature;
    io::Scene scene;
    if (isCreature(o.in)) {
        auto loaded = loadTold(o.in);
        if (!loaded)
            return fail(loaded.error(), kUnreadable);
        auto ready = prepared(std::move(*loaded), o);
        if (!ready)
            return fail(ready.error(), kUsage);
        creature = std::move(*ready);
        scene = exporting::pictureScene(document::posed(creature));
    } else {
        auto read = readPictureScene(o.in);
        if (!read)
            return fail(read.error(), kUnreadable);
        scene = std::move(*read);
        if (!o.lights.empty()) {
            if (!portrait::lightSet(o.lights))
                return fail({ErrorCode::Unknown, "--lights", "there is no such set; see bonemoss-cli schema, portrait.lights"},
                            kUsage);
            creature.stage = portrait::lightSet(o.lights)->make(std::max(scene.box().diagonal(), 1e-3f));
        }
    }
    const bool isLit = !creature.stage.lights.empty() || creature.stage.surroundings != portrait::Surroundings();
    if (!isLit && o.camera.empty() && o.passes.empty())
        return renderClay(o, scene, creature, width, height);
    const double start = now();
    const auto shown = framedPoints(o, scene, creature);
    if (!shown)
        return fail(shown.error(), kUsage);
    auto shot = shotNamed(creature, o.camera.empty() ? o.view : o.camera, *shown, o.lens, float(width) / float(height));
    if (!shot)
        return fail(shot.error(), kUsage);
    shot->camera.isParallel = shot->camera.isParallel || o.parallel;
    const auto tile = tileOf(o, width, height);
    if (!tile)
        return fail(tile.error(), kUsage);
    const auto tracer = portrait::PathTracer::make(std::move(scene), litStage(creature), *shot);
    if (!tracer)
        return fail(tracer.error(), kFailed);
    const double built = now();
    const portrait::Gathering how{.samples = o.samples > 0 ? o.samples : 64, .error = o.error, .seed = o.seed};
    if (const Status room = (*tracer)->hasRoom((*tile)[2], (*tile)[3]); !room)
        return fail(room.error(), kFailed);
    portrait::Gathered g = (*tracer)->blank(width, height, *tile);
    (*tracer)->gather(g, how);
    const double gathered = now();
    std::vector<Vec3f> light = o.isRaw ? mixed(g).light : filtered(g, portrait::FilterQuality::Full);
    const double filteredAt = now();
    if (const Status written = portrait::writePicture(o.out, g, light, creature.stage.film, wordsOf(o.passes), o.isClear);
        !written)
        return fail(written.error(), written.error().code == ErrorCode::Unknown ? kUsage : kFailed);
    if (o.json) {
        std::uint64_t samples = 0;
        for (const std::uint32_t n : g.count)
            samples += n;
        json objects = json::array();
        for (const io::Object &obj : (*tracer)->scene().objects)
            objects.push_back(obj.name);
        fmt::print("{}\n",
                   json{{"seconds", {{"scene", built - start}, {"rays", gathered - built}, {"filter", filteredAt - gathered}}},
                        {"rays", (*tracer)->rays()},
                        {"samples", double(samples) / double(std::max<std::size_t>(1, g.size()))},
                        {"error", g.meanError()},
                        {"lights", g.lights},
                        {"objects", objects},
                        {"tile", *tile}}
                       .dump(2));
    }
    return kDone;
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
    portrait::Film film;
    film.exposure = o.exposure, film.contrast = o.contrast, film.isMetered = o.isMetered;
    const Status written = image::writePng(o.out, developed(mixed(*g, lights), film));
    return written ? kDone : fail(written.error(), kFailed);
}

} // namespace bonemoss::cli
