#include "document/items.h"

#include "document/ops/forms.h"
#include "skin/local_density.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>

namespace bonemoss::document {

namespace {

/// What kinds that lie in a list of shared values have in common: the list is a member of Creature.
template <auto List> struct Shared {
    static std::size_t count(const Creature &c) { return (c.*List).size(); }
    static const Item &at(const Creature &c, std::size_t k) { return *(c.*List)[k]; }
    static auto &own(Creature &c, std::size_t k)
    {
        using Value = std::remove_cvref_t<decltype(*(c.*List)[k])>;
        auto copy = std::make_shared<Value>(*(c.*List)[k]);
        Value &value = *copy;
        (c.*List)[k] = std::move(copy);
        return value;
    }
    static Item &edit(Creature &c, std::size_t k) { return own(c, k); }
    static Status remove(Creature &c, const std::vector<std::uint32_t> &ids)
    {
        const auto isMeant = [&](const auto &item) { return std::find(ids.begin(), ids.end(), item->id) != ids.end(); };
        for (const auto &item : c.*List)
            if (isMeant(item))
                if (const Status free = refuseLocked(*item); !free)
                    return free;
        std::erase_if(c.*List, isMeant);
        forgetMeasured(c, ids);
        return Done{};
    }
};

namespace forms {

std::size_t count(const Creature &c)
{
    return c.armature.forms.size();
}
const Item &at(const Creature &c, std::size_t k)
{
    return c.armature.forms[k];
}
Item &edit(Creature &c, std::size_t k)
{
    return c.armature.forms[k];
}
Box3f bounds(const Creature &c, std::size_t k)
{
    const std::uint32_t id = c.armature.forms[k].id;
    return armature::makeDistance(c.armature, {&id, 1})->bounds();
}
void shift(Creature &c, std::size_t k, Vec3f by)
{
    armature::Form &f = c.armature.forms[k];
    f.place.translation += by;
    f.repeat.centre += by; // an axis that hangs from nothing goes along
}
std::string about(const Creature &c, std::size_t k)
{
    return std::string(nameOf(c.armature.forms[k].kind));
}

} // namespace forms

namespace pieces {

using List = Shared<&Creature::pieces>;

Box3f bounds(const Creature &c, std::size_t k)
{
    return c.pieces[k]->skin.shown.box();
}
void shift(Creature &c, std::size_t k, Vec3f by)
{
    skin::shift(List::own(c, k).skin, by);
}
std::size_t memory(const Creature &c, std::size_t k)
{
    return c.pieces[k]->skin.memoryBytes();
}
std::string about(const Creature &c, std::size_t k)
{
    const skin::Skin &skin = c.pieces[k]->skin;
    return fmt::format("{} faces", fmt::group_digits(skin.isEmpty() ? 0 : skin.shown.topology->faceCount()));
}

} // namespace pieces

namespace cages {

using List = Shared<&Creature::cages>;

Box3f bounds(const Creature &c, std::size_t k)
{
    return mesh::boundsOf(shownCage(*c.cages[k]).positions);
}
void shift(Creature &c, std::size_t k, Vec3f by)
{
    for (Vec3f &q : List::own(c, k).mesh.positions)
        q += by;
}
std::size_t memory(const Creature &c, std::size_t k)
{
    return c.cages[k]->mesh.positions.size() * sizeof(Vec3f) + c.cages[k]->mesh.faces.size() * sizeof(mesh::Face);
}
std::string about(const Creature &c, std::size_t k)
{
    return fmt::format("{} faces", c.cages[k]->mesh.faces.size());
}

} // namespace cages

namespace pictures {

std::size_t count(const Creature &c)
{
    return c.references.size();
}
const Item &at(const Creature &c, std::size_t k)
{
    return c.references[k];
}
Item &edit(Creature &c, std::size_t k)
{
    return c.references[k];
}
Status remove(Creature &c, const std::vector<std::uint32_t> &ids)
{
    const auto isMeant = [&](const Reference &r) { return std::find(ids.begin(), ids.end(), r.id) != ids.end(); };
    for (const Reference &r : c.references)
        if (isMeant(r))
            if (const Status free = refuseLocked(r); !free)
                return free;
    std::erase_if(c.references, isMeant);
    return Done{};
}
std::size_t memory(const Creature &c, std::size_t k)
{
    return c.references[k].file->bytes.size();
}
std::string about(const Creature &c, std::size_t k)
{
    return c.references[k].view;
}

} // namespace pictures

Box3f noRoom(const Creature &, std::size_t)
{
    return {};
}
void staysPut(Creature &, std::size_t, Vec3f) {}
std::size_t small(const Creature &, std::size_t)
{
    return sizeof(armature::Form);
}

constexpr std::array kKinds{
    ItemKind{"form", "forms", forms::count, forms::at, forms::edit, forms::bounds, forms::shift, removeBranches, small,
             forms::about},
    ItemKind{"piece", "pieces", pieces::List::count, pieces::List::at, pieces::List::edit, pieces::bounds, pieces::shift,
             pieces::List::remove, pieces::memory, pieces::about},
    ItemKind{"cage", "cages", cages::List::count, cages::List::at, cages::List::edit, cages::bounds, cages::shift,
             cages::List::remove, cages::memory, cages::about},
    ItemKind{"picture", "pictures", pictures::count, pictures::at, pictures::edit, noRoom, staysPut, pictures::remove,
             pictures::memory, pictures::about},
};

template <typename Is> std::optional<ItemPlace> firstThat(const Creature &creature, const Is &is)
{
    for (const ItemKind &kind : kKinds)
        for (std::size_t k = 0; k < kind.count(creature); ++k)
            if (is(kind.at(creature, k)))
                return ItemPlace{&kind, k};
    return {};
}

} // namespace

std::span<const ItemKind> itemKinds()
{
    return kKinds;
}

std::optional<ItemPlace> findItem(const Creature &creature, std::uint32_t id)
{
    return firstThat(creature, [&](const Item &i) { return i.id == id; });
}

std::optional<ItemPlace> findItem(const Creature &creature, std::string_view name)
{
    return firstThat(creature, [&](const Item &i) { return i.name == name; });
}

Status removeItems(Creature &creature, const std::vector<std::uint32_t> &ids)
{
    Creature after = creature;
    for (const ItemKind &kind : kKinds) {
        std::vector<std::uint32_t> own;
        for (std::size_t k = 0; k < kind.count(after); ++k)
            if (const std::uint32_t id = kind.at(after, k).id; std::find(ids.begin(), ids.end(), id) != ids.end())
                own.push_back(id);
        if (const Status gone = own.empty() ? Status(Done{}) : kind.remove(after, own); !gone)
            return gone;
    }
    creature = std::move(after);
    return Done{};
}

Status refuseLocked(const Item &item)
{
    if (item.isLocked)
        return Error{ErrorCode::BadValue, item.name, "is locked; unlock it first"};
    return Done{};
}

} // namespace bonemoss::document
