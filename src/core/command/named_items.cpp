#include "command/named_items.h"

#include "skin/levels.h"

#include <fmt/format.h>

namespace bonemoss::command {

namespace {

bool isMeant(std::uint32_t id, const std::string &itsName, const ItemName &name)
{
    return std::holds_alternative<std::string>(name) ? itsName == std::get<std::string>(name)
                                                     : id == std::get<std::uint32_t>(name);
}

Result<ItemPlace> placeOf(const Creature &c, std::string_view kindName, const ItemName &name)
{
    for (const ItemKind &kind : itemKinds())
        for (std::size_t k = 0; kind.name == kindName && k < kind.count(c); ++k)
            if (isNamed(kind.at(c, k), name))
                return ItemPlace{&kind, k};
    return Error{ErrorCode::Unknown, std::string(kindName), fmt::format("there is no {} {}", kindName, told(name))};
}

} // namespace

Result<const Item *> findItemOf(const Creature &c, std::string_view kind, const ItemName &name)
{
    const auto place = placeOf(c, kind, name);
    return place ? Result<const Item *>(&place->in(c)) : Result<const Item *>(place.error());
}

Result<Item *> takeItem(Creature &after, std::string_view kind, const ItemName &name, Lock lock)
{
    const auto place = placeOf(after, kind, name);
    if (!place)
        return place.error();
    if (lock == Lock::Refuses)
        if (const Status free = refuseLocked(place->in(after)); !free)
            return free.error();
    return &place->kind->edit(after, place->index);
}

Result<std::uint32_t> findForm(const Creature &c, const ItemName &name)
{
    const auto form = findItemOf(c, "form", name);
    return form ? Result<std::uint32_t>((*form)->id) : Result<std::uint32_t>(form.error());
}

bool isNamed(const Item &item, const ItemName &name)
{
    return isMeant(item.id, item.name, name);
}

std::optional<ItemPlace> findAny(const Creature &c, const ItemName &name)
{
    if (const auto *text = std::get_if<std::string>(&name))
        return findItem(c, std::string_view(*text));
    return findItem(c, std::get<std::uint32_t>(name));
}

Result<std::uint32_t> findAnyItem(const Creature &c, const ItemName &name, const char *parameter)
{
    if (isNone(name))
        return 0u;
    const auto place = findAny(c, name);
    if (!place)
        return Error{ErrorCode::Unknown, parameter, fmt::format("there is no item {}", told(name))};
    return place->in(c).id;
}

bool isNone(const ItemName &name)
{
    return name == ItemName(0u) || name == ItemName(std::string());
}

std::string told(const ItemName &name)
{
    return std::holds_alternative<std::string>(name) ? fmt::format("\"{}\"", std::get<std::string>(name))
                                                     : fmt::format("{}", std::get<std::uint32_t>(name));
}

Result<std::uint32_t> findPiece(const Creature &c, const std::optional<ItemName> &name, const char *parameter)
{
    if (!name) {
        if (c.pieces.size() == 1)
            return c.pieces.front()->id;
        return Error{ErrorCode::Unknown, parameter,
                     c.pieces.empty() ? "there is no skin yet; knit the forms first" : "say which piece: there is more than one"};
    }
    const auto piece = findItemOf(c, "piece", *name);
    return piece ? Result<std::uint32_t>((*piece)->id) : Result<std::uint32_t>(piece.error());
}

Result<std::shared_ptr<Piece>> takePiece(const Creature &c, const std::optional<ItemName> &name)
{
    const auto id = findPiece(c, name);
    if (!id)
        return id.error();
    if (const Status free = refuseLocked(*c.piece(*id)); !free)
        return free.error();
    return std::make_shared<Piece>(*c.piece(*id));
}

Result<std::shared_ptr<Piece>> takeWhole(const Creature &c, const std::optional<ItemName> &name, CommandContext &context)
{
    auto taken = takePiece(c, name);
    if (!taken)
        return taken;
    if (!(*taken)->skin.links.empty())
        context.notes.push_back(fmt::format("{} had {} levels; the finest was taken, and is its only one now", (*taken)->name,
                                            (*taken)->skin.links.size() + 1));
    (*taken)->skin = wholeSkin(**taken);
    return taken;
}

Result<std::uint32_t> findLayer(const Piece &piece, const ItemName &name)
{
    if (name == ItemName(0u))
        return 0u;
    for (const auto &l : piece.skin.layers)
        if (isMeant(l.id, l.name, name))
            return l.id;
    if (name == ItemName("body"))
        return 0u;
    return Error{ErrorCode::Unknown, "layer", fmt::format("{} has no layer {}", piece.name, told(name))};
}

Result<std::uint32_t> findColourLayer(const Piece &piece, const ItemName &name)
{
    const auto &all = piece.skin.colourLayers;
    if (name == ItemName(0u) && !all.empty())
        return all.back().id;
    for (const auto &l : all)
        if (isMeant(l.id, l.name, name))
            return l.id;
    return Error{ErrorCode::Unknown, "layer",
                 all.empty() ? fmt::format("{} has no colour layers; add one first (colour.add)", piece.name)
                             : fmt::format("{} has no colour layer {}", piece.name, told(name))};
}

} // namespace bonemoss::command
