#pragma once

#include "base/result.h"
#include "document/creature.h"

#include <memory>
#include <optional>
#include <span>
#include <string_view>

namespace bonemoss::document {

/// What of a creature a scene has.
enum class Shown {
    All,   ///< what is seen: visible pieces, cages as they are shown, and forms that no skin stands for, with twins and copies
    Bodies ///< the same without forms where there is a piece
};

/// A kind of item, as lookups, visibility, locks, deletion, moves, the tree, files, pictures and the store know it. Adding one is a
/// struct with the header of base/item.h that says the same of itself as Cage does, a list of it in Creature and kItemLists, and a
/// codec row in store/detail/item_codecs.cpp.
struct ItemKind {
    std::string_view name;   ///< "form": what commands call the parameter that names one
    std::string_view plural; ///< "forms"
    std::size_t (*count)(const Creature &) = nullptr;
    const Item &(*at)(const Creature &, std::size_t) = nullptr;
    Item &(*edit)(Creature &, std::size_t) = nullptr; ///< its own from then on: what states share is copied
    /// As it is shown, hidden or not; empty where it takes no room in the creature.
    Box3f (*bounds)(const Creature &, std::size_t) = nullptr;
    /// Moves it with all that hangs from it, of those without a parent.
    void (*shift)(Creature &, std::size_t, Vec3f) = nullptr;
    /// Takes items away, with what hangs from them; refuses when one is locked, and then takes none.
    Status (*remove)(Creature &, const std::vector<std::uint32_t> &) = nullptr;
    /// Whether it is seen. As isVisible, but for forms that a skin stands for.
    bool (*isSeen)(const Creature &, std::size_t, Shown) = nullptr;
    /// Adds what it shows, hidden or not, in creature space. May run beside others.
    void (*show)(const Creature &, std::size_t, io::Scene &) = nullptr;
    /// What states share of it while it stays the same; null where nothing tells.
    std::shared_ptr<const void> (*share)(const Creature &, std::size_t) = nullptr;
    /// What in it holds a number that is not finite, in words; looks only at what differs from before.
    std::string (*notFinite)(const Creature &, std::size_t, const Creature &before) = nullptr;
    std::size_t (*memory)(const Creature &, std::size_t) = nullptr; ///< bytes
    std::string (*about)(const Creature &, std::size_t) = nullptr;  ///< how much it is, in a word or two: faces, kind, view
};
std::span<const ItemKind> itemKinds();

/// An item by its place in the list of its kind; good until the creature changes.
struct ItemPlace {
    const ItemKind *kind;
    std::size_t index;
    const Item &in(const Creature &c) const { return kind->at(c, index); }
};
/// By id, or by name: names differ across kinds. O(items).
std::optional<ItemPlace> findItem(const Creature &creature, std::uint32_t id);
std::optional<ItemPlace> findItem(const Creature &creature, std::string_view name);

/// Calls use(kind, index, item) for all items, kind by kind.
template <typename Use> void eachItem(const Creature &creature, const Use &use)
{
    for (const ItemKind &kind : itemKinds())
        for (std::size_t k = 0; k < kind.count(creature); ++k)
            use(kind, k, kind.at(creature, k));
}

/// Whether a creature has any item.
bool hasItems(const Creature &creature);

/// Takes items of any kind away; on an error the creature is as it was.
Status removeItems(Creature &creature, const std::vector<std::uint32_t> &ids);

/// The one rule for locks: BadValue, naming the item, when it is locked.
Status refuseLocked(const Item &item);
/// The one rule for what is seen of an item that is there: it is not hidden.
inline bool isVisible(const Item &item)
{
    return !item.isHidden;
}

} // namespace bonemoss::document
