#include "document/creature.h"

#include "document/items.h"
#include "io/scene.h"
#include "skin/local_density.h"

#include "base/parallel.h"
#include "outgrowth/outgrowth.h"

#include <algorithm>
#include <cassert>
#include <fmt/format.h>

namespace bonemoss::document {

const Piece *Creature::piece(std::uint32_t id) const
{
    for (const auto &p : pieces)
        if (p->id == id)
            return p.get();
    return nullptr;
}

const Cage *Creature::cage(std::uint32_t id) const
{
    const auto found = std::find_if(cages.begin(), cages.end(), [&](const auto &c) { return c->id == id; });
    return found == cages.end() ? nullptr : found->get();
}

const outgrowth::Outgrowth *Creature::outgrowth(std::uint32_t id) const
{
    const auto found = std::find_if(outgrowths.begin(), outgrowths.end(), [&](const auto &c) { return c->id == id; });
    return found == outgrowths.end() ? nullptr : found->get();
}

const Reference *Creature::reference(std::uint32_t id) const
{
    const auto found = std::find_if(references.begin(), references.end(), [&](const Reference &r) { return r.id == id; });
    return found == references.end() ? nullptr : &*found;
}

void Creature::put(std::shared_ptr<const Piece> changed)
{
    for (auto &p : pieces)
        if (p->id == changed->id) {
            p = std::move(changed);
            return;
        }
    assert(false && "no piece of this id");
}

std::string Creature::uniqueName(const std::string &wanted) const
{
    const std::string base = wanted.empty() ? "thing" : wanted;
    std::string name = base;
    for (int n = 2; findItem(*this, std::string_view(name)); ++n)
        name = base + " " + std::to_string(n);
    return name;
}

Box3f Creature::bounds() const
{
    Box3f box;
    for (const auto &p : pieces)
        if (!p->isHidden)
            box.add(p->skin.shown.box());
    const bool isBare = box.isEmpty();
    for (const auto &c : cages)
        if (!c->isHidden)
            box.add(mesh::boundsOf(shownCage(*c).positions));
    for (const auto &o : outgrowths)
        if (!o->isHidden)
            box.add(o->bounds());
    if (isBare && !armature.forms.empty()) {
        std::vector<std::uint32_t> shown;
        for (const auto &f : armature.forms)
            if (!f.isHidden && f.role != armature::FormRole::Cut)
                shown.push_back(f.id);
        if (!shown.empty())
            box.add(armature::makeDistance(armature, shown)->bounds());
    }
    return box;
}

void Piece::shift(Vec3f by)
{
    skin::shift(skin, by);
}

void Piece::show(io::Scene &scene) const
{
    if (!skin.isEmpty() && skin.shown.topology->faceCount() > 0)
        scene.add({name, skin.shown});
}

std::string Piece::about() const
{
    return fmt::format("{}", fmt::group_digits(skin.isEmpty() ? 0 : skin.shown.topology->faceCount()));
}

mesh::PolyMesh meshOf(const Piece &piece)
{
    if (piece.skin.isEmpty() || piece.skin.shown.topology->unusedCount() == 0)
        return toPolyMesh(piece.skin.shown);
    skin::Skin skin = piece.skin;
    skin::compact(skin);
    return toPolyMesh(skin.shown);
}

std::size_t Creature::faceCount() const
{
    std::size_t n = 0;
    for (const auto &p : pieces)
        n += p->skin.isEmpty() ? 0 : p->skin.shown.topology->faceCount();
    return n;
}

std::size_t Creature::memoryBytes() const
{
    std::size_t n = 0;
    eachItem(*this, [&](const ItemKind &kind, std::size_t k, const Item &) { n += kind.memory(*this, k); });
    return n;
}

std::vector<armature::Proportion> proportionsOf(const Creature &creature)
{
    std::vector<armature::MeasuredPart> pieces;
    for (const auto &p : creature.pieces) {
        const Vec3f size = p->skin.shown.box().size();
        pieces.push_back({p->id, p->name, std::max({size.x, size.y, size.z})});
    }
    return armature::proportionsOf(creature.armature, pieces);
}

float unitLength(const Creature &creature)
{
    if (creature.armature.unitForm)
        for (const armature::Proportion &p : proportionsOf(creature))
            if (p.form == creature.armature.unitForm)
                return p.lengthMm;
    return 0;
}

} // namespace bonemoss::document
