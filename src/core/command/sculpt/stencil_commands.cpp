// A picture held before the skin as it is seen: pressed into a layer.
#include "command/fields.h"
#include "command/sculpt/sculpt_fields.h"
#include "command/named_items.h"
#include "base/parallel.h"
#include "command/region.h"
#include "mesh/sight_outline.h"

#include <algorithm>

namespace bonemoss::command {

namespace {

Result<Creature> pressStencil(const Creature &before, const PressStencil &p, CommandContext &)
{
    auto piece = need(takePiece(before, p.piece));
    const auto stencil = need(stencilOf(before, p.stencil));
    auto layer = need(findLayer(*piece, p.layer));
    Creature after = before;
    skin::Skin &skin = piece->skin;
    if (const skin::Layer *l = skin.layer(layer); l && l->isLocked)
        return Error{ErrorCode::BadValue, piece->name, "has the layer " + l->name + " locked; unlock it first"};
    if (needsHandLayer(skin, layer, sculpt::Tool::Stamp))
        layer = handLayer(skin, layer, after.nextId);
    const sculpt::Stencil &s = *stencil;
    const float depth = p.depth * (s.isInverted ? -2.0f : 2.0f);
    mesh::Surface pressed = skin.shown;
    std::vector<std::uint8_t> isTouched(pressed.positions.blockCount(), 0);
    forEachBlock(isTouched.size(), 1, [&](BlockRange r) {
        const std::uint8_t *mask = skin.mask.data(r.begin);
        const Vec3f *from = skin.shown.positions.data(r.begin);
        const mesh::PackedNormal *normals = skin.shown.normals.data(r.begin);
        Vec3f *to = nullptr;
        for (std::size_t i = 0; i < skin.body.countIn(r.begin); ++i) {
            const auto height = s.heightAt(from[i]);
            const Vec3f n = normals[i].unpack();
            if (!height || !mesh::isSeen(skin.shown, from[i], n, -s.sightTo(from[i])))
                continue;
            const float move = (*height - s.picture->middle) * depth * (mask ? 1 - float(mask[i]) / 255 : 1);
            if (move == 0)
                continue;
            to = to ? to : pressed.positions.edit(r.begin);
            to[i] += n * move;
            isTouched[r.begin] = 1;
        }
    });
    std::vector<std::uint32_t> touched;
    for (std::uint32_t b = 0; b < isTouched.size(); ++b)
        if (isTouched[b])
            touched.push_back(b);
    if (touched.empty())
        return Error{ErrorCode::Empty, piece->name, "the picture lies before no skin that could be moved"};
    need(skin::takeSculpted(skin, pressed, touched, layer));
    return putBack(std::move(after), std::move(piece));
}

} // namespace

Fields<PressStencil> PressStencil::fields()
{
    using P = PressStencil;
    return fieldList<P>({pieceField<P>(), fieldOf<P>(&P::layer, "layer", "", "it goes to; 0 is the body"),
                         fieldOf<P>(&P::depth, "depth", "mm", "from the picture's middle to its extremes", -1000, 1000),
                         nested<P>(&P::stencil, StencilParams::fields(true))});
}

std::vector<CommandSpec> stencilCommands()
{
    return {commandOf(pressStencil)};
}

} // namespace bonemoss::command
