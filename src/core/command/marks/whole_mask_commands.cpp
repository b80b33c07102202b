// Masks as a whole.
#include "command/fields.h"
#include "command/marks/mark_fields.h"
#include "command/named_items.h"

namespace bonemoss::command {

namespace {

Result<Creature> invert(const Creature &before, const InvertMask &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    skin::invertMask(piece->skin);
    return putBack(before, std::move(piece));
}

Result<Creature> clear(const Creature &before, const ClearMask &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    skin::clearMask(piece->skin);
    return putBack(before, std::move(piece));
}

Result<Creature> blur(const Creature &before, const BlurMask &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    skin::blurMask(piece->skin, int(p.passes));
    return putBack(before, std::move(piece));
}

} // namespace

Fields<InvertMask> InvertMask::fields()
{
    return {pieceField<InvertMask>()};
}

Fields<ClearMask> ClearMask::fields()
{
    return {pieceField<ClearMask>()};
}

Fields<BlurMask> BlurMask::fields()
{
    using P = BlurMask;
    return {pieceField<P>(),
            fieldOf<P>(&P::passes, "passes", "", "how often each vertex takes the mean of its neighbours", 1, 100)};
}

std::vector<CommandSpec> wholeMaskCommands()
{
    return {commandOf(invert), commandOf(clear), commandOf(blur)};
}

} // namespace bonemoss::command
