#pragma once

#include "base/operation.h"
#include "base/result.h"
#include "document/creature.h"

#include <nlohmann/json_fwd.hpp>

#include <filesystem>
#include <functional>
#include <limits>
#include <string>
#include <vector>

namespace bonemoss::document {
class Standing;
}

namespace bonemoss::command {

using namespace document; // commands are put together from what the document offers

/// What a command may look at besides the creature.
struct CommandContext : Operation {
    std::filesystem::path folder; ///< relative paths in commands start here
    /// The creature before, in its pose, where the caller has it at hand: it is not worked out again then.
    const document::Standing *standing = nullptr;
};

enum class ParamKind { Number, Integer, Switch, Text, Path, Choice, Point, Points, Numbers, Reference, References, Samples };

/// One parameter as the schema, the checks and the manual know it.
struct ParamSpec {
    std::string name;
    ParamKind kind = ParamKind::Number;
    std::string unit; ///< "mm", "deg", "" for none
    std::string description;
    bool isRequired = false;
    double min = -std::numeric_limits<double>::infinity(), max = std::numeric_limits<double>::infinity(); ///< of a point: of
        ///< each coordinate's size
    std::string defaultJson; ///< empty when there is none
    std::vector<std::string> choices;
    std::string title;     ///< in dialogs; empty: made of the name
    std::size_t count = 0; ///< of numbers: how many there must be; 0 for any
};
std::string titleOf(const ParamSpec &param); ///< "Line from" of lineFrom where it has no title of its own

/// An edit as data: a name, parameters, and a pure function from creature to creature.
struct CommandSpec {
    std::string name;  ///< "form.add"
    std::string title; ///< "Add form", as the history shows it
    std::string description;
    std::vector<ParamSpec> params;
    std::function<Result<Creature>(const Creature &, const nlohmann::json &, CommandContext &)> apply;
    bool isKeptWhole = false; ///< a crash could not replay it (it reads a file) or not soon: the rescue file keeps what it made
};

/// Every command, by name. Adding one is one row in one of the tables below.
const std::vector<CommandSpec> &commands();
const CommandSpec *findCommand(std::string_view name);
std::vector<CommandSpec> itemCommands();
std::vector<CommandSpec> armatureCommands();
std::vector<CommandSpec> orderCommands();
std::vector<CommandSpec> skinCommands();
std::vector<CommandSpec> rebuildCommands();
std::vector<CommandSpec> matchCommands();
std::vector<CommandSpec> levelCommands();
std::vector<CommandSpec> markCommands();
std::vector<CommandSpec> maskCommands();
std::vector<CommandSpec> wholeMaskCommands();
std::vector<CommandSpec> strokeCommands();
std::vector<CommandSpec> layerCommands();
std::vector<CommandSpec> growthCommands();
std::vector<CommandSpec> stampCommands();
std::vector<CommandSpec> pictureCommands();
std::vector<CommandSpec> manyCommands();
std::vector<CommandSpec> shapeCommands();
std::vector<CommandSpec> moveCommands();
std::vector<CommandSpec> stencilCommands();
std::vector<CommandSpec> partCommands();
std::vector<CommandSpec> cageCommands();
std::vector<CommandSpec> outgrowthCommands();
std::vector<CommandSpec> colourCommands();
std::vector<CommandSpec> ruleCommands();
std::vector<CommandSpec> paletteCommands();
std::vector<CommandSpec> poseCommands();
std::vector<CommandSpec> driveCommands();
std::vector<CommandSpec> boneCommands();
std::vector<CommandSpec> lightCommands();
std::vector<CommandSpec> stageCommands();
std::vector<CommandSpec> printCommands();
std::vector<CommandSpec> plateCommands();

/// Checks the parameters against the command's table and applies it. The old creature is never
/// changed; on an error nothing has happened. No exception leaves: full memory is TooLarge, anything else Internal. command: {"do": NAME, parameters...}.
Result<Creature> apply(const Creature &before, const nlohmann::json &command, CommandContext &context);

/// A note in one line, with its place.
std::string told(const Note &note);

/// The words the history shows for a command.
std::string titleOf(const nlohmann::json &command);

/// JSON Schema (2020-12) of every command.
nlohmann::json commandSchema();

} // namespace bonemoss::command
