// Pieces and parts of them moved, turned and sized.
#include "command/fields.h"
#include "command/skin/piece_fields.h"
#include "command/named_items.h"
#include "command/region.h"

#include <cmath>

namespace bonemoss::command {

namespace {

Result<Creature> movePiece(const Creature &before, const MovePiece &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    const auto shares = need(regionShares(*piece, p.region));
    skin::Skin &skin = piece->skin;
    skin::Motion m;
    m.by = p.by;
    m.scale = p.scale;
    if (std::min({m.scale.x, m.scale.y, m.scale.z}) < 0.01f)
        return Error{ErrorCode::BadValue, piece->name, "scale must be 0.01 at least; to mirror a piece, symmetrise it"};
    const Quat turn = fromEulerDeg(p.turn);
    const Vec3f sine{turn.x, turn.y, turn.z};
    if (length(sine) > 1e-7f) {
        m.axis = normalized(sine);
        m.angle = 2 * std::atan2(length(sine), turn.w);
    }
    if (p.about) {
        m.pivot = *p.about;
    } else { // the middle of what moves
        Vec3f sum;
        float whole = 0;
        for (std::size_t v = 0; v < shares.size(); ++v)
            sum += skin.body[v] * shares[v], whole += shares[v];
        m.pivot = sum * (1 / whole);
    }
    const sculpt::Symmetry &symmetry = piece->symmetry;
    if (p.isMirrored && symmetry.hasPlane)
        m.mirror = symmetry.normal, m.mirrorPoint = symmetry.point;
    move(skin, shares, m);
    return putBack(before, std::move(piece));
}

} // namespace

Fields<MovePiece> MovePiece::fields()
{
    using P = MovePiece;
    return fieldList<P>(
        {pieceField<P>(), fieldOf<P>(&P::by, "by", "mm", "how far"),
         fieldOf<P>(&P::turn, "turn", "deg", "about x, then y, then z"),
         fieldOf<P>(&P::scale, "scale", "", "times its size, along each axis; before it turns", 1e-06, 1000000),
         fieldOf<P>(&P::about, "about", "mm", "the place that turning and sizing keep; left out: the middle of what moves"),
         fieldOf<P>(&P::isMirrored, "mirror", "", "the same beyond the piece's plane of symmetry"),
         nested<P>(&P::region, Region::fields())});
}

std::vector<CommandSpec> moveCommands()
{
    return {commandOf(movePiece)};
}

} // namespace bonemoss::command
