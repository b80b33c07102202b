#include "document/ops/portraits.h"

#include "document/items.h"

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::document {

float sizeOf(const Creature &creature)
{
    Box3f box;
    for (const auto &p : creature.pieces)
        if (isVisible(*p) && p->id != creature.stage.ground.standsOn())
            box.add(p->bounds());
    if (box.isEmpty())
        box = creature.bounds();
    return box.isEmpty() ? std::max(creature.heightMm, 1.0f) : std::max(box.diagonal(), 1e-3f);
}

portrait::Stage litStage(const Creature &creature)
{
    portrait::Stage out = creature.stage;
    if (!out.lights.empty() || out.surroundings != portrait::Surroundings())
        return out;
    out = portrait::lightSets().front().make(sizeOf(creature));
    out.film = creature.stage.film, out.shots = creature.stage.shots;
    return out;
}

namespace {

const portrait::Shot *findCamera(const Creature &c, const std::string &name)
{
    const auto &shots = c.stage.shots;
    const auto at = std::find_if(shots.begin(), shots.end(),
                                 [&](const portrait::Shot &s) { return s.name == name || std::to_string(s.id) == name; });
    return at == shots.end() ? nullptr : &*at;
}

std::string camerasOf(const Creature &c)
{
    std::string known;
    for (const portrait::Shot &s : c.stage.shots)
        known += (known.empty() ? "" : ", ") + s.name;
    return known;
}

} // namespace

Result<portrait::Shot> keptCamera(const Creature &creature, const std::string &name)
{
    if (const portrait::Shot *s = findCamera(creature, name))
        return *s;
    const std::string known = camerasOf(creature);
    return Error{ErrorCode::Unknown, "camera",
                 known.empty() ? fmt::format("there is no camera \"{}\"; none is kept (camera.keep)", name)
                               : fmt::format("there is no camera \"{}\"; there are {}", name, known)};
}

Result<portrait::Shot> shotNamed(const Creature &creature, const std::string &name, std::span<const Vec3f> shown, float lensMm,
                                 float aspect)
{
    if (const portrait::Shot *s = findCamera(creature, name)) {
        portrait::Shot out = *s;
        out.camera.fieldOfView = portrait::fieldOfViewOf(portrait::lensOf(s->camera, s->aspect), aspect);
        out.aspect = aspect;
        return out;
    }
    const auto turn = portrait::viewRotation(name);
    if (!turn) {
        const std::string known = camerasOf(creature);
        return Error{
            ErrorCode::Unknown, "camera",
            fmt::format("there is no camera and no view \"{}\"; there are {}nose, left, tail, right, crown, belly, three-quarter",
                        name, known.empty() ? known : known + ", ")};
    }
    portrait::Shot out;
    out.name = name, out.aspect = aspect;
    out.camera.rotation = *turn, out.camera.fieldOfView = portrait::fieldOfViewOf(lensMm, aspect);
    out.camera = portrait::framing(out.camera, shown, aspect);
    return out;
}

} // namespace bonemoss::document
