#pragma once

#include "base/space_map.h"
#include "command/command.h"
#include "command/field_list.h"
#include "sculpt/stroke.h"
#include "skin/reshape.h"

namespace bonemoss::command {

/// Which part of a piece is meant.
struct Region {
    std::optional<Vec3f> island;
    std::optional<std::string> group;
    std::optional<Vec3f> lineFrom, lineTo;
    static Fields<Region> fields();
};
/// The shares of its vertices that it comes to. Errors: Unknown for a group, Empty when nothing takes part.
Result<std::vector<float>> regionShares(const Piece &piece, const Region &region);

/// What happens to space along an axis.
struct AxisMap {
    SpaceMapKind kind{};
    Vec3f from, to;
    float amount{};
    std::optional<Vec3f> side;
    static Fields<AxisMap> fields();
};

/// A picture held before the skin that a stroke or command goes through.
struct StencilParams {
    std::optional<std::string> name;
    std::optional<Vec3f> centre, right, up, eye;
    bool isInverted = false;
    static Fields<StencilParams> fields(bool isNeeded);
};
/// The stencil they describe; null when none is given.
Result<std::shared_ptr<const sculpt::Stencil>> stencilOf(const Creature &creature, const StencilParams &params);
/// The same as parameters.
StencilParams stencilParams(const sculpt::Stencil &stencil);

} // namespace bonemoss::command
