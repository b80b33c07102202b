#pragma once

#include "base/result.h"
#include "document/creature.h"

#include <filesystem>

namespace bonemoss::store {

using document::Creature;

/// A branch of forms to be used again: a paw, a beak, an eye in its socket. It stands as on a creature that looks
/// towards +z, with the place where it is joined on at the origin.
struct Part {
    std::string title;
    armature::Armature armature; ///< its first form is the one that is hung on
    Vec3f outward{0, -1, 0};     ///< unit; from the body out through the part
    bool turnsToNormal = true;   ///< set down with `outward` along the normal; else it stands as it is
    float fitsRadius = 10;       ///< mm: thickness of what it is made to sit on
};

/// Reads a .part.json file. Errors: Unreadable, Malformed, Unsupported (a newer format).
Result<Part> readPart(const std::filesystem::path &path);
/// Writes one, whole or not at all.
Status writePart(const std::filesystem::path &path, const Part &part);

/// A branch of a creature as a part, its root's joint at the origin. Copies along a guide outside the branch become
/// forms of their own. Error: Unknown form.
Result<Part> partFrom(const Creature &creature, std::uint32_t form);

/// A part that came with the program, or that the person keeps.
struct ShelfEntry {
    std::string name; ///< as in commands: "paw"
    std::string title;
    std::filesystem::path path;
};
/// The shipped parts, sorted by title. Read once.
const std::vector<ShelfEntry> &shippedParts();

/// Where the program's own data lies: beside the program when installed, else in the source tree.
std::filesystem::path dataFolder();

} // namespace bonemoss::store
