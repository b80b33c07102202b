#include "command/params.h"

namespace bonemoss::command {

using nlohmann::json;

namespace {

template <void (*Edit)(skin::Skin &)> Result<Creature> editMask(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    Edit((*piece)->skin);
    return putBack(before, std::move(*piece));
}

Result<Creature> blur(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    skin::blurMask((*piece)->skin, int(p.integer("passes")));
    return putBack(before, std::move(*piece));
}

} // namespace

std::vector<CommandSpec> sculptCommands()
{
    ParamSpec passes = numberParam("passes", "", "how often each vertex takes the mean of its neighbours", 1, 100, "3");
    passes.kind = ParamKind::Integer;
    return {
        {"mask.invert", "Invert mask", "Masked becomes open and open masked.", {pieceParam()}, editMask<skin::invertMask>},
        {"mask.clear", "Clear mask", "Opens everything.", {pieceParam()}, editMask<skin::clearMask>},
        {"mask.blur", "Blur mask", "Softens the mask's border.", {pieceParam(), passes}, blur},
    };
}

} // namespace bonemoss::command
