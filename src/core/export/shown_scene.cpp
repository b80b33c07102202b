#include "export/shown_scene.h"

#include "base/parallel.h"
#include "skin/colour_layers.h"

namespace bonemoss::exporting {

io::Scene skinScene(const Creature &creature)
{
    io::Scene scene;
    for (const auto &p : creature.pieces)
        if (isVisible(*p))
            p->show(scene);
    return scene;
}

namespace {

io::Scene sceneOf(const Creature &creature, Shown what, bool isColoured)
{
    std::vector<document::ItemPlace> seen;
    document::eachItem(creature, [&](const document::ItemKind &kind, std::size_t k, const Item &) {
        if (kind.isSeen(creature, k, what))
            seen.push_back({&kind, k});
    });
    std::vector<io::Scene> scenes(seen.size()); // made side by side
    forEachBlock(seen.size(), 1, [&](BlockRange r) {
        const document::ItemPlace &item = seen[r.begin];
        io::Scene &scene = scenes[r.begin];
        item.kind->show(creature, item.index, scene);
        const document::Piece *piece = isColoured ? creature.piece(item.kind->at(creature, item.index).id) : nullptr;
        if (!piece || scene.shapes.empty() || piece->skin.paint.of(skin::Channel::Cover).isBlank())
            return;
        scene.shapes[0].attributes.push_back({std::string(io::kColour), mesh::Domain::Vertex, 3, skin::seenColours(piece->skin)});
        scene.materials[0] = {"painted", Vec3f{1, 1, 1}};
    });
    io::Scene all;
    for (io::Scene &s : scenes)
        all.append(std::move(s));
    return all;
}

} // namespace

io::Scene shownScene(const Creature &creature, Shown what)
{
    return sceneOf(creature, what, false);
}

io::Scene colouredScene(const Creature &creature)
{
    return sceneOf(creature, Shown::All, true);
}

} // namespace bonemoss::exporting
