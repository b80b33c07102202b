#include "creature/layer_file.h"

#include "creature/store.h"

namespace bonemoss::creature {

Status saveLayer(const std::filesystem::path &path, const Piece &piece, const detail::Layer &layer)
{
    auto bare = std::make_shared<Piece>();
    bare->id = 1, bare->name = piece.name;
    bare->skin.body = piece.skin.body;
    bare->skin.shown = mesh::makeSurface(piece.skin.shown.topology, piece.skin.body);
    const std::size_t n = bare->skin.body.size();
    bare->skin.mask = mesh::BlockArray<std::uint8_t>(n);
    bare->skin.groupOf = mesh::BlockArray<std::uint16_t>(n);
    bare->skin.paint = detail::Paint(n);
    bare->skin.layers.push_back(layer);
    bare->skin.layers[0].id = 2;
    mixBlocks(bare->skin, detail::blocksWith(layer));
    Creature creature;
    creature.pieces.push_back(std::move(bare));
    creature.nextId = 3;
    const auto saved = saveAs(path, creature);
    return saved ? Status(Done{}) : saved.error();
}

} // namespace bonemoss::creature
