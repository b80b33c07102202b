#pragma once

#include "document/items.h"
#include "document/ops/pieces.h"
#include "command/command.h"
#include "sculpt/stroke.h"

#include <nlohmann/json.hpp>

namespace bonemoss::command {

/// Read access to a command's parameters after they were checked against its table; defaults filled in.
class Params
{
public:
    /// Checks kinds, ranges, choices and unknown names.
    static Result<Params> check(const CommandSpec &spec, const nlohmann::json &command);

    bool has(const char *name) const { return m_values.contains(name); }
    float number(const char *name) const { return m_values.at(name).get<float>(); }
    std::size_t integer(const char *name) const { return m_values.at(name).get<std::size_t>(); }
    bool isOn(const char *name) const { return m_values.at(name).get<bool>(); }
    std::string text(const char *name) const { return m_values.at(name).get<std::string>(); }
    Vec3f point(const char *name) const;
    /// Rows of [x, y, z, radius, squash, square, turn in degrees], of which the first three must be there.
    std::vector<armature::PathPoint> path(const char *name) const;
    std::vector<float> numbers(const char *name) const;
    std::vector<sculpt::PenSample> samples(const char *name) const;
    const nlohmann::json &value(const char *name) const { return m_values.at(name); }

private:
    nlohmann::json m_values;
};

/// Whether a command may change what is locked.
enum class Lock { Refuses, Allows };

/// Items are named by id (a number) or by name (text). kind: "form", "piece", "cage", "picture". Unknown when there is none.
Result<const Item *> findItemOf(const Creature &c, std::string_view kind, const nlohmann::json &reference);
/// The same to be changed, in the new creature; refused when it is locked, unless the command may.
Result<Item *> takeItem(Creature &after, std::string_view kind, const nlohmann::json &reference, Lock lock);
template <typename T>
Result<T *> takeItemOf(Creature &after, std::string_view kind, const nlohmann::json &reference, Lock lock = Lock::Refuses)
{
    const auto item = takeItem(after, kind, reference, lock);
    return item ? Result<T *>(static_cast<T *>(*item)) : Result<T *>(item.error());
}
Result<std::uint32_t> findForm(const Creature &c, const nlohmann::json &reference);
Result<std::uint32_t> findPiece(const Creature &c, const Params &params, const char *name = "piece");
/// A copy of the piece a command is about, to be changed and put back; refused when it is locked.
Result<std::shared_ptr<Piece>> takePiece(const Creature &c, const Params &params);
/// The same for a command that gives it new faces: its finest level alone. context is told when that leaves levels behind.
Result<std::shared_ptr<Piece>> takeWhole(const Creature &c, const Params &params, CommandContext &context);
Result<std::uint32_t> findLayer(const Piece &piece, const nlohmann::json &reference);

/// What is wrong with a value for a parameter; empty when it fits.
std::string complaint(const ParamSpec &param, const nlohmann::json &value);

// Rows for tables.
ParamSpec numberParam(std::string name, std::string unit, std::string text, double least, double most, std::string missing = "");
ParamSpec switchParam(std::string name, std::string text, std::string missing = "");
ParamSpec textParam(std::string name, std::string text, std::string missing = "");
ParamSpec pathParam(std::string name, std::string text); ///< of a file
ParamSpec choiceParam(std::string name, std::string text, std::vector<std::string> choices, std::string missing = "");
ParamSpec plainParam(ParamKind kind, std::string name, std::string unit, std::string text, std::string missing = "");
ParamSpec required(ParamSpec spec);
ParamSpec pieceParam();
ParamSpec scaleParam(std::string text, std::string missing = ""); ///< three numbers

} // namespace bonemoss::command
