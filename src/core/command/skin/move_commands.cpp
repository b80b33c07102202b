// Pieces and parts of them moved, turned and sized.
#include "command/region.h"

#include <cmath>

namespace bonemoss::command {

namespace {

Result<Creature> movePiece(const Creature &before, const Params &p, CommandContext &)
{
    auto piece = takePiece(before, p);
    if (!piece)
        return piece.error();
    const auto shares = regionShares(**piece, p);
    if (!shares)
        return shares.error();
    skin::Skin &skin = (*piece)->skin;
    skin::Motion m;
    m.by = p.point("by");
    m.scale = p.point("scale");
    if (std::min({m.scale.x, m.scale.y, m.scale.z}) < 0.01f)
        return Error{ErrorCode::BadValue, (*piece)->name, "scale must be 0.01 at least; to mirror a piece, symmetrise it"};
    const Quat turn = fromEulerDeg(p.point("turn"));
    const Vec3f sine{turn.x, turn.y, turn.z};
    if (length(sine) > 1e-7f) {
        m.axis = normalized(sine);
        m.angle = 2 * std::atan2(length(sine), turn.w);
    }
    if (p.has("about")) {
        m.pivot = p.point("about");
    } else { // the middle of what moves
        Vec3f sum;
        float whole = 0;
        for (std::size_t v = 0; v < shares->size(); ++v)
            sum += skin.body[v] * (*shares)[v], whole += (*shares)[v];
        m.pivot = sum * (1 / whole);
    }
    const sculpt::Symmetry &symmetry = (*piece)->symmetry;
    if (p.isOn("mirror") && symmetry.hasPlane)
        m.mirror = symmetry.normal, m.mirrorPoint = symmetry.point;
    move(skin, *shares, m);
    return putBack(before, std::move(*piece));
}

} // namespace

std::vector<CommandSpec> moveCommands()
{
    std::vector<ParamSpec> params{
        pieceParam(),
        plainParam(ParamKind::Point, "by", "mm", "how far", "[0, 0, 0]"),
        plainParam(ParamKind::Point, "turn", "deg", "about x, then y, then z", "[0, 0, 0]"),
        scaleParam("times its size, along each axis; before it turns", "[1, 1, 1]"),
        plainParam(ParamKind::Point, "about", "mm", "the place that turning and sizing keep; left out: the middle of what moves"),
        switchParam("mirror", "the same beyond the piece's plane of symmetry", "false")};
    for (ParamSpec &s : regionParams())
        params.push_back(std::move(s));
    return {{"piece.move", "Move piece",
             "Moves, turns and sizes a piece, or a part of it: what is not masked, an island, a group, or softly along a line.",
             params, movePiece}};
}

} // namespace bonemoss::command
