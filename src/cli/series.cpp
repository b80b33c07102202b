// Several pictures at once: a turn, a sheet of six views, the natural-history plate.
#include "cli/commands.h"
#include "cli/reading.h"

#include "base/files.h"
#include "export/plate.h"
#include "export/portrait_series.h"

#include <fmt/format.h>

#include <cstdio>

namespace bonemoss::cli {

namespace {

/// A creature, since a mesh has no labels, lights or poses; of a mesh file one that has only its scene is not enough.
Result<document::Creature> creatureFor(const RenderOptions &o, int &code)
{
    if (const Status is = exporting::isPageFile(o.out); !is)
        return is.error();
    auto source = pictureSource(o, code);
    if (!source)
        return source.error();
    if (!source->isCreature)
        return Error{ErrorCode::Unsupported, shownPath(o.in),
                     "must be a creature, .bonemoss; a recipe with piece.import makes one of a mesh"};
    return std::move(source->creature);
}

int told(const Status &done)
{
    return done ? kDone : fail(done.error(), kFailed);
}

} // namespace

int turntable(const RenderOptions &o, int framesPerSecond)
{
    exporting::Turntable t{
        .frames = o.turn, .framesPerSecond = framesPerSecond, .samples = o.samples > 0 ? o.samples : 64, .seed = o.seed};
    if (const Status is = sizeFrom(o.size, t.width, t.height); !is)
        return fail(is.error(), kUsage);
    char rest = 0;
    if (!o.frames.empty()
        && (std::sscanf(o.frames.c_str(), "%d-%d%c", &t.first, &t.last, &rest) != 2 || t.first < 1 || t.last < t.first
            || t.last > t.frames || o.out.extension() != ".png"))
        return fail(
            {ErrorCode::BadValue, "--frames", fmt::format("must be A-B, within the {} of a turn, and is of .png", t.frames)},
            kUsage);
    int code = kUsage;
    auto source = pictureSource(o, code);
    if (!source)
        return fail(source.error(), code);
    if (!source->isCreature)
        return fail({ErrorCode::Unsupported, shownPath(o.in), "must be a creature, .bonemoss"}, kUsage);
    const auto shot = shotFor(o, *source, t.width, t.height);
    if (!shot)
        return fail(shot.error(), kUsage);
    t.shot = *shot;
    source->scene = {};
    return told(writeTurntable(source->creature, t, o.out));
}

int sheet(const RenderOptions &o, int width)
{
    int code = kUsage;
    const auto creature = creatureFor(o, code);
    if (!creature)
        return fail(creature.error(), code);
    const auto page = exporting::contactSheet(*creature, width, o.samples > 0 ? o.samples : 64, o.seed);
    if (!page)
        return fail(page.error(), kFailed);
    return told(exporting::writePages(o.out, std::span(&*page, 1), "Six views", exporting::kSheetDpi));
}

int plate(const RenderOptions &o, float dpi)
{
    int code = kUsage;
    const auto creature = creatureFor(o, code);
    if (!creature)
        return fail(creature.error(), code);
    const auto made = exporting::plateOf(*creature, {.dpi = dpi, .samples = o.samples > 0 ? o.samples : 64, .seed = o.seed});
    if (!made)
        return fail(made.error(), kFailed);
    const exporting::Page page = plateAsPage(*made);
    return told(exporting::writePages(o.out, std::span(&page, 1), made->name, dpi));
}

} // namespace bonemoss::cli
