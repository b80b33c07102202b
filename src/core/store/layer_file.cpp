#include "store/layer_file.h"

#include "skin/attributes.h"
#include "store/store.h"

namespace bonemoss::store {

Status saveLayer(const std::filesystem::path &path, const Piece &piece, const skin::Layer &layer)
{
    auto bare = std::make_shared<Piece>();
    bare->id = 1, bare->name = piece.name;
    bare->skin.body = piece.skin.body;
    bare->skin.shown = mesh::makeSurface(piece.skin.shown.topology, piece.skin.body);
    skin::blankAttributes(bare->skin);
    bare->skin.layers.push_back(layer);
    bare->skin.layers[0].id = 2;
    mixBlocks(bare->skin, skin::blocksWith(layer));
    Creature creature;
    creature.pieces.push_back(std::move(bare));
    creature.nextId = 3;
    const auto saved = saveAs(path, creature);
    return saved ? Status(Done{}) : saved.error();
}

} // namespace bonemoss::store
