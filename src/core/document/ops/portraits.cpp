#include "document/ops/portraits.h"

#include <fmt/format.h>

#include <algorithm>

namespace bonemoss::document {

float sizeOf(const Creature &creature)
{
    const Box3f box = creature.bounds();
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

Result<portrait::Shot> shotNamed(const Creature &creature, const std::string &name, std::span<const Vec3f> shown, float lensMm,
                                 float aspect)
{
    for (const portrait::Shot &s : creature.stage.shots)
        if (s.name == name || std::to_string(s.id) == name) {
            portrait::Shot out = s;
            out.camera.fieldOfView = portrait::fieldOfViewOf(portrait::lensOf(s.camera, s.aspect), aspect);
            out.aspect = aspect;
            return out;
        }
    const auto turn = portrait::viewRotation(name);
    if (!turn) {
        std::string known;
        for (const portrait::Shot &s : creature.stage.shots)
            known += s.name + ", ";
        return Error{
            ErrorCode::Unknown, "camera",
            fmt::format("there is no camera and no view \"{}\"; there are {}nose, left, tail, right, crown, belly, three-quarter",
                        name, known)};
    }
    portrait::Shot out;
    out.name = name, out.aspect = aspect;
    out.camera.rotation = *turn, out.camera.fieldOfView = portrait::fieldOfViewOf(lensMm, aspect);
    out.camera = portrait::framing(out.camera, shown, aspect);
    return out;
}

} // namespace bonemoss::document
