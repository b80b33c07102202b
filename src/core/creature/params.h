#pragma once

#include "creature/command.h"
#include "sculpt/stroke.h"

#include <nlohmann/json.hpp>

namespace bonemoss::creature {

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

/// Things are named by id (a number) or by name (text).
Result<std::uint32_t> findForm(const Creature &c, const nlohmann::json &reference);
Result<std::uint32_t> findPiece(const Creature &c, const Params &params, const char *name = "piece");
/// A copy of the piece a command is about, to be changed and put back; refused when it is locked.
Result<std::shared_ptr<Piece>> takePiece(const Creature &c, const Params &params);
/// The same for a command that gives it new faces: its finest level alone. context is told when that leaves levels behind.
Result<std::shared_ptr<Piece>> takeWhole(const Creature &c, const Params &params, CommandContext &context);
/// The finest level of a piece that a command only looks at.
detail::Skin wholeSkin(const Piece &piece);
Result<std::uint32_t> findLayer(const Piece &piece, const nlohmann::json &reference);

/// The mask that a command names: the one in hand ("hand"), a kept one, or none ("none"); inverted on wish.
Result<mesh::BlockArray<std::uint8_t>> maskNamed(const detail::Skin &skin, const std::string &from, bool isInverted);
/// A name for a layer that no other of the skin has.
std::string layerName(const detail::Skin &skin, const std::string &wanted);
/// Whether a stroke on a layer goes to its hand layer: a growth is only changed by what shows of it.
bool needsHandLayer(const detail::Skin &skin, std::uint32_t layer, sculpt::Tool tool);
/// The layer above a growth that holds the hand work on it; made when there is none.
std::uint32_t handLayer(detail::Skin &skin, std::uint32_t growth, std::uint32_t &nextId);

/// The creature with one more piece, under that name or one like it.
Creature withNewPiece(Creature creature, const std::string &name, detail::Skin skin);
/// The creature with a taken piece in its new shape.
Creature putBack(Creature creature, std::shared_ptr<const Piece> piece);

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

} // namespace bonemoss::creature
