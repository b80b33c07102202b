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

/// What of a creature or a mesh file is printed; plan: set to what a creature says of its print.
Result<io::Scene> printSource(const std::filesystem::path &in, document::PrintPlan *plan = nullptr);

struct RenderOptions;
/// What pictures are made of: a creature as options want it, posed; of a mesh file or part the scene alone.
struct PictureSource {
    document::Creature creature;
    io::Scene scene;
    bool isCreature = true;
};
/// Told with the exit code it means.
Result<PictureSource> pictureSource(const RenderOptions &options, int &exitCode);
/// "1280x800". Error: BadValue.
Status sizeFrom(const std::string &text, int &width, int &height);
/// The camera, or the view that frames what is named.
Result<portrait::Shot> shotFor(const RenderOptions &options, const PictureSource &source, int width, int height);

} // namespace bonemoss::cli
