#pragma once

#include "document/creature.h"
#include "io/scene.h"

#include <filesystem>

namespace bonemoss::cli {

/// Seconds, for reports.
double now();
/// A creature; what of it is damaged is told.
Result<document::Creature> loadTold(const std::filesystem::path &file);
/// What a picture shows of a mesh file or a ready part.
Result<io::Scene> readPictureScene(const std::filesystem::path &file);

} // namespace bonemoss::cli
