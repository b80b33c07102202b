#include "document/items.h"

#include "base/colour.h"
#include "document/ops/forms.h"
#include "io/scene.h"
#include "outgrowth/outgrowth.h"
#include "skin/colour_layers.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>
#include <fmt/format.h>

namespace bonemoss::document {

namespace {

/// The colour of each member goes by that of the skin under it, as far as is wished.
void tintBySkin(const Creature &c, const outgrowth::Outgrowth &o, io::Scene &scene)
{
    constexpr Vec3f kPlain{0.60f, 0.545f, 0.43f}; // of kinds that say nothing: bone
    const Piece *piece = o.skinColour > 0 ? c.piece(o.parent) : nullptr;
    if (!piece)
        return;
    std::vector<io::Object *> of(o.made->shapes.size());
    for (io::Object &object : scene.objects)
        of[object.shape] = &object;
    for (const outgrowth::Member &m : o.made->members) {
        io::Material &material = scene.materials[of[m.shape]->material];
        Vec3f own = material.colour ? *material.colour : kPlain;
        material.colour = own;
        if (!o.made->along[m.shape].empty()) // its points say it: from the root on
            own = {fromSrgb(o.colours[0].x), fromSrgb(o.colours[0].y), fromSrgb(o.colours[0].z)};
        const auto times = [](float wanted, float there) { return std::min(wanted / std::max(there, 0.02f), 8.0f); };
        Vec3f tint{1, 1, 1};
        if (m.vertex < piece->skin.body.size()) {
            const Vec3f skin = skin::seenColour(piece->skin, m.vertex);
            tint = lerp(tint, Vec3f{times(skin.x, own.x), times(skin.y, own.y), times(skin.z, own.z)}, o.skinColour);
        }
        of[m.shape]->tints.push_back(tint);
    }
}

/// The row of a kind whose items lie, shared by states, in a list of Creature: the rest it says of itself.
template <auto List> struct Shared {
    using Value = std::remove_cvref_t<decltype(*(std::declval<Creature>().*List)[0])>;

    static std::size_t count(const Creature &c) { return (c.*List).size(); }
    static const Item &at(const Creature &c, std::size_t k) { return *(c.*List)[k]; }
    static Value &own(Creature &c, std::size_t k)
    {
        auto copy = std::make_shared<Value>(*(c.*List)[k]);
        Value &value = *copy;
        (c.*List)[k] = std::move(copy);
        return value;
    }
    static Item &edit(Creature &c, std::size_t k) { return own(c, k); }
    static Box3f bounds(const Creature &c, std::size_t k) { return (c.*List)[k]->bounds(); }
    static void shift(Creature &c, std::size_t k, Vec3f by) { own(c, k).shift(by); }
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
    static bool isSeen(const Creature &c, std::size_t k, Shown) { return isVisible(*(c.*List)[k]); }
    static void show(const Creature &c, std::size_t k, io::Scene &scene)
    {
        (c.*List)[k]->show(scene);
        if constexpr (std::is_same_v<Value, outgrowth::Outgrowth>)
            tintBySkin(c, *(c.*List)[k], scene);
    }
    static std::shared_ptr<const void> share(const Creature &c, std::size_t k) { return (c.*List)[k]; }
    static std::string notFinite(const Creature &c, std::size_t k, const Creature &before)
    {
        const auto &now = (c.*List)[k];
        const auto &olds = before.*List;
        const auto old = std::find_if(olds.begin(), olds.end(), [&](const auto &o) { return o->id == now->id; });
        return old == olds.end() ? now->notFinite(nullptr) : *old == now ? std::string() : now->notFinite(old->get());
    }
    static std::size_t memory(const Creature &c, std::size_t k) { return (c.*List)[k]->memoryBytes(); }
    static std::string about(const Creature &c, std::size_t k) { return (c.*List)[k]->about(); }

    static constexpr ItemKind row()
    {
        return {Value::kKind, Value::kKinds, count, at,    edit,      bounds, shift,
                remove,       isSeen,        show,  share, notFinite, memory, about};
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

/// A form kept apart is an eye unless it has a colour of its own (teeth).
std::optional<Vec3f> colourOf(const armature::Form &f)
{
    if (f.role != armature::FormRole::Apart)
        return {};
    if (!f.colour)
        return Vec3f{0.035f, 0.03f, 0.026f};
    const auto part = [&](int shift) { return fromSrgb(float(f.colour >> shift & 255) / 255); };
    return Vec3f{part(16), part(8), part(0)};
}

bool isSeen(const Creature &c, std::size_t k, Shown what)
{
    const armature::Form &f = c.armature.forms[k];
    if (!isVisible(f) || f.role == armature::FormRole::Cut || f.role == armature::FormRole::Bone || !hasShape(f.kind))
        return false;
    const bool isInSkin = f.role == armature::FormRole::Add && f.isKnitted;
    return !(isInSkin || what == Shown::Bodies)
           || std::none_of(c.pieces.begin(), c.pieces.end(), [](const auto &p) { return isVisible(*p); });
}

/// With its twin and copies.
void show(const Creature &c, std::size_t k, io::Scene &scene)
{
    const armature::Form &f = c.armature.forms[k];
    mesh::PolyMesh mesh = tessellateAll(c.armature, f);
    if (mesh.isEmpty())
        return;
    io::Object &o = scene.add({f.name, std::move(mesh)}, {{}, colourOf(f), f.role == armature::FormRole::Apart});
    if (f.isMirrored)
        o.places.push_back(io::Placement::mirroring());
}

} // namespace forms

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
std::string notFinite(const Creature &c, std::size_t k, const Creature &)
{
    const Reference &r = c.references[k];
    const bool is = std::isfinite(r.across) && std::isfinite(r.up) && std::isfinite(r.heightMm) && std::isfinite(r.rotation);
    return is ? std::string() : "the place of picture " + r.name;
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

bool isNeverSeen(const Creature &, std::size_t, Shown)
{
    return false;
}
void showsNothing(const Creature &, std::size_t, io::Scene &) {}
std::shared_ptr<const void> nothingShared(const Creature &, std::size_t)
{
    return {};
}

/// All at once, by whatIsNotFinite: where one stands follows from others.
std::string formsAreLookedThrough(const Creature &, std::size_t, const Creature &)
{
    return {};
}

constexpr ItemKind kForms{"form",       "forms",        forms::count,  forms::at,   forms::edit,   forms::bounds,
                          forms::shift, removeBranches, forms::isSeen, forms::show, nothingShared, formsAreLookedThrough,
                          small,        forms::about};
constexpr ItemKind kPictures{
    "picture",        "pictures",  pictures::count, pictures::at,  pictures::edit,      noRoom,           staysPut,
    pictures::remove, isNeverSeen, showsNothing,    nothingShared, pictures::notFinite, pictures::memory, pictures::about};

template <std::size_t... K> constexpr auto allKinds(std::index_sequence<K...>)
{
    return std::array{Shared<std::get<K>(kItemLists)>::row()..., kForms, kPictures};
}
constexpr std::array kKinds = allKinds(std::make_index_sequence<std::tuple_size_v<decltype(kItemLists)>>());

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

bool hasItems(const Creature &creature)
{
    return std::any_of(kKinds.begin(), kKinds.end(), [&](const ItemKind &kind) { return kind.count(creature) > 0; });
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
