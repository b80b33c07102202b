// Several pictures of one creature: a turn about it, and its six views on a sheet.
#include "export/portrait_series.h"

#include "document/ops/portraits.h"
#include "document/ops/posing.h"
#include "export/shown_scene.h"
#include "image/film_file.h"
#include "portrait/passes.h"
#include "portrait/path_tracer.h"
#include "portrait/picture_look.h"
#include "portrait/plate.h"
#include "portrait/rendering.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bonemoss::exporting {

using namespace portrait;

Shot turned(Shot shot, float degrees)
{
    shot.camera.rotation = rotationAbout({0, 1, 0}, degrees * kRadiansPerDegree) * shot.camera.rotation;
    return shot;
}

std::filesystem::path framePath(const std::filesystem::path &path, int frame)
{
    return path.parent_path() / fmt::format("{}-{:04}{}", path.stem().native(), frame, path.extension().native());
}

namespace {

Result<image::ColourPicture> pictureBy(const PathTracer &tracer, const Stage &stage, const Shot &shot, const Rendering &job,
                                       const Progress &progress)
{
    const auto by = tracer.with(stage, shot);
    if (!by)
        return by.error();
    const auto made = rendered(**by, job, progress);
    if (!made)
        return made.error();
    return developed(beautyOf(made->picture), pictureLook(stage.film.look).draw ? inkFilm(stage.film) : stage.film);
}

} // namespace

Status writeTurntable(const document::Creature &creature, const Turntable &t, const std::filesystem::path &out,
                      const Progress &progress)
{
    const int last = t.last > 0 ? t.last : t.frames;
    if (t.frames < 1 || t.frames > 9999 || t.first < 1 || last > t.frames || t.first > last)
        return Error{ErrorCode::BadValue, "frames", "must be A-B within those of a turn, of which there are 1 to 9,999"};
    const bool isFilm = out.extension() != ".png";
    std::unique_ptr<image::FilmFile> film;
    if (isFilm) {
        auto begun = image::FilmFile::begin(out, t.width, t.height, t.framesPerSecond);
        if (!begun)
            return begun.error();
        film = std::move(*begun);
    }
    const Stage stage = litStage(creature);
    const auto tracer = PathTracer::make(pictureScene(document::posed(creature)), stage, t.shot);
    if (!tracer)
        return tracer.error();
    const Rendering job{.width = t.width, .height = t.height, .how = {.samples = t.samples, .seed = t.seed}, .film = stage.film};
    for (int frame = t.first; frame <= last; ++frame) {
        const Progress part{progress.stop, [&](float share, std::string_view) {
                                progress.say((float(frame - t.first) + share) / float(last - t.first + 1),
                                             fmt::format("frame {} of {}", frame, last));
                            }};
        const Shot shot = turned(t.shot, 360 * float(frame - 1) / float(t.frames));
        const auto picture = pictureBy(**tracer, stage, shot, job, part);
        if (!picture)
            return picture.error();
        const Status done = isFilm ? film->add(*picture) : image::writePng(framePath(out, frame), *picture);
        if (!done)
            return done;
    }
    return isFilm ? film->finish() : Status(Done{});
}

Result<Page> contactSheet(const document::Creature &creature, int cellWidth, int samples, std::uint64_t seed,
                          const Progress &progress)
{
    constexpr int kAcross = 3;
    const Stage stage = litStage(creature);
    io::Scene scene = pictureScene(document::posed(creature));
    const std::vector<Vec3f> points = scene.points(stage.ground.standsOn());
    const auto tracer = PathTracer::make(std::move(scene), stage, {});
    if (!tracer)
        return tracer.error();
    const int high = cellWidth * 3 / 4;
    const auto &views = anatomicalViews();
    std::vector<Shot> shots;
    float largest = 0;
    for (const NamedView &v : views) {
        Shot &shot = shots.emplace_back();
        shot.aspect = float(cellWidth) / float(high);
        shot.camera.fieldOfView = fieldOfViewOf(85, shot.aspect);
        shot.camera.rotation = *viewRotation(v.key);
        shot.camera = framing(shot.camera, points, shot.aspect);
        largest = std::max(largest, shot.camera.distance);
    }
    std::vector<std::pair<std::string, image::ColourPicture>> pictures;
    const Rendering job{.width = cellWidth, .height = high, .how = {.samples = samples, .seed = seed}, .film = stage.film};
    for (std::size_t k = 0; k < views.size(); ++k) {
        shots[k].camera.distance = largest; // one scale
        const Progress part{progress.stop, [&](float share, std::string_view) {
                                progress.say((float(k) + share) / float(views.size()), views[k].title);
                            }};
        auto picture = pictureBy(**tracer, stage, shots[k], job, part);
        if (!picture)
            return picture.error();
        pictures.emplace_back(views[k].title, std::move(*picture));
    }
    const float mm = 25.4f / kSheetDpi, wide = float(cellWidth) * mm, tall = float(high) * mm, gap = wide / 40, line = wide / 14;
    const std::string name = creature.stage.plate.name;
    const float top = name.empty() ? gap : gap + 1.6f * line;
    const auto paper = platePaper(creature.stage.plate.paper);
    return Page{
        kAcross * wide + (kAcross + 1) * gap, top + 2 * (tall + gap + line) + gap,
        [=, pictures = std::move(pictures)](Canvas &c) {
            c.box({0, 0}, kAcross * wide + (kAcross + 1) * gap, top + 2 * (tall + gap + line) + gap, paper.paper);
            c.words({gap, 1.35f * line}, name, {.size = line, .colour = paper.ink});
            for (std::size_t k = 0; k < pictures.size(); ++k) {
                const PagePoint at{gap + float(k % kAcross) * (wide + gap), top + float(k / kAcross) * (tall + gap + line)};
                c.picture(at, wide, pictures[k].second);
                c.words({at.x, at.y + tall + 0.72f * line}, pictures[k].first, {.size = 0.62f * line, .colour = paper.ink});
            }
        }};
}

} // namespace bonemoss::exporting
