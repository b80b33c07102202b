#include "export/shown_scene.h"

#include "base/parallel.h"

namespace bonemoss::exporting {

io::Scene skinScene(const Creature &creature)
{
    io::Scene scene;
    for (const auto &p : creature.pieces)
        if (isVisible(*p))
            p->show(scene);
    return scene;
}

io::Scene shownScene(const Creature &creature, Shown what)
{
    std::vector<document::ItemPlace> seen;
    document::eachItem(creature, [&](const document::ItemKind &kind, std::size_t k, const Item &) {
        if (kind.isSeen(creature, k, what))
            seen.push_back({&kind, k});
    });
    std::vector<io::Scene> scenes(seen.size()); // made side by side
    forEachBlock(seen.size(), 1, [&](BlockRange r) { seen[r.begin].kind->show(creature, seen[r.begin].index, scenes[r.begin]); });
    io::Scene all;
    for (io::Scene &s : scenes)
        all.append(std::move(s));
    return all;
}

} // namespace bonemoss::exporting
