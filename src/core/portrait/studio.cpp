#include "portrait/studio.h"

#include "portrait/develop.h"
#include "portrait/filter.h"
#include "portrait/path_tracer.h"

namespace bonemoss::portrait {

Result<image::ColourPicture> studioPicture(const io::Scene &shown, const Camera &camera, int width, int height, int samples,
                                           const Progress &progress)
{
    Shot shot;
    shot.camera = camera, shot.aspect = float(width) / float(height);
    const Stage stage = lightSets().front().make(std::max(shown.box().diagonal(), 1e-3f));
    const auto tracer = PathTracer::make(shown, stage, shot);
    if (!tracer)
        return tracer.error();
    if (const Status room = (*tracer)->hasRoom(width, height); !room)
        return room.error();
    Gathered g = (*tracer)->blank(width, height);
    if (!(*tracer)->gather(g, {.samples = samples}, progress) || progress.isCancelled())
        return Error{ErrorCode::Cancelled, "picture", "stopped on request"};
    LinearPicture picture = mixed(g);
    picture.light = filtered(g, samples < 4 ? FilterQuality::Quick : FilterQuality::Full, {progress.stop, {}});
    return developed(picture, stage.film);
}

} // namespace bonemoss::portrait
