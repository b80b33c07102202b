// Commands about items of any kind: forms, pieces, cages, pictures and what joins them.
#include "command/fields.h"
#include "command/items/item_fields.h"
#include "command/named_items.h"
#include "command/forms/form_edit.h"

#include <fmt/format.h>

namespace bonemoss::command {

namespace {

/// The items that a list names, of any kinds.
Result<std::vector<ItemPlace>> placesOf(const Creature &c, const std::vector<ItemName> &names, const char *list)
{
    std::vector<ItemPlace> out;
    for (const ItemName &name : names) {
        const auto found = findAny(c, name);
        if (!found)
            return Error{ErrorCode::Unknown, list, fmt::format("there is nothing called {}", told(name))};
        out.push_back(*found);
    }
    return out;
}

Result<Creature> showItems(const Creature &before, const ShowItems &p, CommandContext &)
{
    Creature after = before;
    for (const auto &[list, names, isHidden] : {std::tuple{"show", &p.show, false}, std::tuple{"hide", &p.hide, true}}) {
        if (!*names)
            continue;
        for (const ItemPlace &place : need(placesOf(before, **names, list)))
            place.kind->edit(after, place.index).isHidden = isHidden;
    }
    return after;
}

Result<Creature> setItems(const Creature &before, const SetItems &p, CommandContext &)
{
    const auto places = need(placesOf(before, p.items, "items"));
    if (p.name && places.size() != 1)
        return Error{ErrorCode::BadValue, "name", "is for one item alone"};
    const auto colour = colourNamed(p.colour.value_or(""));
    if (!colour)
        return Error{ErrorCode::BadValue, "colour", "a colour is written #rrggbb; an empty one stands for none"};
    const bool isChange = (p.name || p.colour) && !p.isLocked; // what is locked may be shown, hidden and unlocked
    Creature after = before;
    for (const ItemPlace &place : places) {
        if (isChange)
            need(refuseLocked(place.in(before)));
        Item &item = place.kind->edit(after, place.index);
        item.isHidden = p.isHidden.value_or(item.isHidden);
        item.isLocked = p.isLocked.value_or(item.isLocked);
        if (p.name && *p.name != item.name)
            item.name = before.uniqueName(*p.name);
        if (p.colour)
            item.colour = *colour;
    }
    return after;
}

Result<Creature> removeNamed(const Creature &before, const RemoveItems &p, CommandContext &)
{
    const auto places = need(placesOf(before, p.items, "items"));
    std::vector<std::uint32_t> ids;
    for (const ItemPlace &place : places)
        ids.push_back(place.in(before).id);
    Creature after = before;
    need(removeItems(after, ids));
    return after;
}

} // namespace

Fields<ShowItems> ShowItems::fields()
{
    using P = ShowItems;
    return {fieldOf<P>(&P::show, "show", "", "what shall be seen"), fieldOf<P>(&P::hide, "hide", "", "what shall not")};
}

Fields<SetItems> SetItems::fields()
{
    using P = SetItems;
    return {fieldOf<P>(&P::items, "items", "", "names or ids, of any kind").required(),
            fieldOf<P>(&P::name, "name", "", "of one item; made unique"), fieldOf<P>(&P::isHidden, "hidden", "", "not shown"),
            fieldOf<P>(&P::isLocked, "locked", "", "cannot be changed"),
            fieldOf<P>(&P::colour, "colour", "", "#rrggbb to tell it apart; empty for none")};
}

Fields<RemoveItems> RemoveItems::fields()
{
    return {fieldOf<RemoveItems>(&RemoveItems::items, "items", "", "names or ids, of any kind").required()};
}

std::vector<CommandSpec> itemCommands()
{
    return {commandOf<ShowItems>(showItems), commandOf<SetItems>(setItems), commandOf<RemoveItems>(removeNamed)};
}

} // namespace bonemoss::command
