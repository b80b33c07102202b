#pragma once

#include "document/creature.h"
#include "field/knit.h"
#include "io/scene.h"

#include <nlohmann/json_fwd.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace bonemoss::cli {

enum Exit { kDone = 0, kFindings = 1, kUsage = 2, kUnreadable = 3, kFailed = 4 };

int info(const std::filesystem::path &file, bool json);
int knit(const std::vector<std::filesystem::path> &in, const std::filesystem::path &out, field::Density density, bool json);
/// on: a creature to begin with; empty for a new one.
int replay(const std::filesystem::path &recipe, const std::filesystem::path &on, const std::filesystem::path &out,
           const std::vector<std::filesystem::path> &exports);
int convert(const std::filesystem::path &in, const std::filesystem::path &out);
struct RenderOptions {
    bool parallel = false; ///< without perspective, as drawings are made
    std::filesystem::path in, out;
    std::string on; ///< name of the piece or form that shall fill the picture; empty: all
    std::string view = "left", size = "1280x800";
    std::string camera, scheme, pose, lights, ground, look, passes, tile, part, frames;
    std::filesystem::path surroundings;
    float lens = 85, error = 0; ///< mm; relative, 0: all samples
    std::optional<float> exposure;
    std::uint64_t seed = 1;
    int samples = 0; ///< 0: 64
    int turn = 96;   ///< frames of a whole turn
    bool isClear = false, isRaw = false, json = false;
};
int render(const RenderOptions &options);
/// Mixes the lights of a picture that keeps each by itself.
struct MixOptions {
    std::filesystem::path in, out;
    std::vector<std::string> lights; ///< "NAME=STRENGTH" or "NAME=STRENGTH,R,G,B"
    float exposure = 0, contrast = 0.5f, bloom = 0;
    bool isMetered = false;
};
int mix(const MixOptions &options);
/// Parts of a picture put together: EXR, or developed as PNG with the film of MixOptions.
int join(const std::vector<std::filesystem::path> &parts, const MixOptions &film);
/// A turn about a creature as a film or as numbered pictures.
int turntable(const RenderOptions &options, int framesPerSecond);
/// Six views on one sheet, PNG or PDF. width: pixels of one view.
int sheet(const RenderOptions &options, int width);
/// The natural-history plate of a creature, PNG or PDF.
int plate(const RenderOptions &options, float dpi);
/// What a printer will make of it: exit code 1 where something spoils the print.
struct ProofOptions {
    std::filesystem::path in, out; ///< out: of a print sheet
    std::string profile;           ///< empty: the creature's, else a small resin printer
    float height = 0;              ///< mm of the print; 0: the creature's, else as it is
    int samples = 16;              ///< of a sheet's pictures
    bool isQuick = false, json = false;
};
int proofOf(const ProofOptions &options);
/// A page for whoever prints it: PDF or PNG.
int printSheet(const ProofOptions &options);
/// Layers as outlines in one SVG file, or as pictures in a folder.
struct SliceOptions {
    std::filesystem::path in, out;
    float layer = 0.05f, height = 0, pixel = 0.1f; ///< mm; height 0: as it is
    bool json = false;
};
int slice(const SliceOptions &options);
/// One body of creatures and mesh files; height: mm of the print, 0: as they are.
struct PrintOptions {
    std::vector<std::filesystem::path> inputs;
    std::filesystem::path out;
    std::string profile; ///< empty: the creature's, else a small resin printer
    float height = 0;
    bool keepsPockets = false, json = false;
};
int solid(const PrintOptions &options);
/// That body with one print command run on it.
int makeForPrint(const PrintOptions &options, const nlohmann::json &command);
int schema();
/// Kinds of outgrowths with their settings: name, unit, range, default.
int listOutgrowths(bool json);
/// The colour layers of each piece: what each holds and how much of the surface it covers.
int listColours(const std::filesystem::path &in, bool json);
int makePalette(const std::filesystem::path &picture, int count, const std::filesystem::path &out);
int planPaint(const std::filesystem::path &in, const std::filesystem::path &paints, int count, const std::filesystem::path &out,
              bool asJson);
int sheetOfCoats(const std::filesystem::path &in, const std::filesystem::path &out, int columns, int samples);
/// A picture of each kind, in the order of the table; which one stands where is printed by row and column.
int sheetOfOutgrowths(const std::filesystem::path &out, int columns, int samples);
/// Balance, and lengths of all forms in units, of a .bonemoss file.
int stand(const std::filesystem::path &file, bool json);
/// numbers: a place and the direction across which it is cut, x y z each.
int girth(const std::filesystem::path &file, const std::vector<float> &numbers, bool json);
/// Writes a form of a creature with all that hangs from it as a part file.
int savePart(const std::filesystem::path &file, const std::string &form, const std::filesystem::path &out,
             const std::string &title, const std::string &outward, float fits);

/// Writes a stamp as a picture: of a .bonemoss file, or (empty path) one that comes with the program. bits: 16 or 32.
int writeStamp(const std::string &name, const std::filesystem::path &of, const std::filesystem::path &out, int bits);

/// Reads pieces, runs one command of the recipe format on them (which one is filled in) and writes the result.
int rework(const std::vector<std::filesystem::path> &inputs, const std::filesystem::path &out, nlohmann::json command,
           bool asJson);

/// Poses: what there is (lists), bringing the creature into one, reaching, turning, pinning, and a check.
struct PoseOptions {
    std::filesystem::path in, out;
    std::string to;                                ///< name of a pose
    std::vector<std::string> reaches, turns, pins; ///< "BONE=x,y,z" mm or degrees; names of bones
    std::vector<std::string> controls;             ///< "NAME=VALUE"
    bool lists = false, checks = false, json = false, freezes = false;
};
int pose(const PoseOptions &options);

bool isCreature(const std::filesystem::path &file);
/// A mesh file, or a creature of a piece for each object.
int writeOut(const std::filesystem::path &out, const io::Scene &scene);
/// A wrong output name is told before any work is done.
int checkOut(const std::filesystem::path &out);

/// Tells an error on the console; gives the code back.
int fail(const Error &e, int code);

} // namespace bonemoss::cli
