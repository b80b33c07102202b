#include "export/shown_scene.h"

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
    io::Scene scene;
    for (const document::ItemKind &kind : document::itemKinds())
        kind.show(creature, what, scene);
    return scene;
}

} // namespace bonemoss::exporting
