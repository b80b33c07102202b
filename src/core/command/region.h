#pragma once

#include "command/params.h"
#include "skin/reshape.h"

namespace bonemoss::command {

/// Parameters that say which part of a piece is meant, and the shares of its vertices that they come to. Errors: Unknown for a
/// group, Empty when nothing takes part.
std::vector<ParamSpec> regionParams();
Result<std::vector<float>> regionShares(const Piece &piece, const Params &params);

/// Whether a place of a skin is seen from a unit way: it faces it, and no skin lies before it.
bool isSeen(const mesh::Surface &skin, Vec3f place, Vec3f normal, Vec3f fromWay);

/// Parameters of a stencil, and the stencil they describe; null when none is given.
std::vector<ParamSpec> stencilParams(bool isNeeded);
Result<std::shared_ptr<const sculpt::Stencil>> stencilOf(const Creature &creature, const Params &params);
/// The same as parameters, to be put into a command.
void writeStencil(const sculpt::Stencil &stencil, nlohmann::json &command);

} // namespace bonemoss::command
