#include "export/shown_scene.h"

#include <cmath>

namespace bonemoss::exporting {

using namespace document;

namespace {

/// A form kept apart is an eye unless it has a colour of its own (teeth).
std::optional<Vec3f> colourOf(const armature::Form &f)
{
    if (f.role != armature::FormRole::Apart)
        return {};
    if (!f.colour)
        return Vec3f{0.035f, 0.03f, 0.026f};
    const auto part = [&](int shift) { return std::pow(float(f.colour >> shift & 255) / 255, 2.2f); };
    return Vec3f{part(16), part(8), part(0)};
}

} // namespace

std::vector<ShownPart> shownScene(const Creature &creature)
{
    std::vector<ShownPart> parts;
    for (const auto &p : creature.pieces)
        if (!p->isHidden)
            parts.push_back({p->name, meshOf(*p)});
    for (const auto &c : creature.cages)
        if (!c->isHidden)
            parts.push_back({c->name, shownCage(*c)});
    for (const armature::Form *f : shownForms(creature)) {
        ShownPart part{f->name, tessellateAll(creature.armature, *f), colourOf(*f), f->role == armature::FormRole::Apart};
        if (f->isMirrored)
            append(part.mesh, mesh::mirrored(mesh::PolyMesh(part.mesh)));
        parts.push_back(std::move(part));
    }
    std::erase_if(parts, [](const ShownPart &p) { return p.mesh.isEmpty(); });
    return parts;
}

std::vector<io::MeshPart> meshParts(const std::vector<ShownPart> &parts)
{
    std::vector<io::MeshPart> out;
    for (const ShownPart &p : parts)
        out.push_back({p.name, &p.mesh, p.colour});
    return out;
}

} // namespace bonemoss::exporting
