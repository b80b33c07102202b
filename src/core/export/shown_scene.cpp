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

enum class Painted { No, Colour, ColourAndFinish };

io::Scene sceneOf(const Creature &creature, Shown what, Painted painted)
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
        const document::Piece *piece = painted != Painted::No ? creature.piece(item.kind->at(creature, item.index).id) : nullptr;
        if (!piece || scene.shapes.empty())
            return;
        if (painted == Painted::ColourAndFinish)
            if (std::vector<float> finish = skin::seenFinish(piece->skin); !finish.empty())
                scene.shapes[0].attributes.push_back(
                    {std::string(io::kFinish), mesh::Domain::Vertex, kFinishes, std::move(finish)});
        if (piece->skin.paint.of(skin::Channel::Cover).isBlank())
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
    return sceneOf(creature, what, Painted::No);
}

io::Scene colouredScene(const Creature &creature)
{
    return sceneOf(creature, Shown::All, Painted::Colour);
}

io::Scene pictureScene(const Creature &creature)
{
    return sceneOf(creature, Shown::All, Painted::ColourAndFinish);
}

} // namespace bonemoss::exporting
