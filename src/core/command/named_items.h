#pragma once

#include "command/command.h"
#include "command/field_list.h"
#include "document/items.h"
#include "document/ops/pieces.h"

namespace bonemoss::command {

/// Whether a command may change what is locked.
enum class Lock { Refuses, Allows };

/// Whether an item is the one of that name.
bool isNamed(const Item &item, const ItemName &name);

/// A name as a message shows it: a number, or text in quotes.
std::string told(const ItemName &name);

/// Items are named by id or by name. kind: "form", "piece", "cage", "picture". Unknown when there is none.
Result<const Item *> findItemOf(const Creature &c, std::string_view kind, const ItemName &name);
/// The same to be changed, in the new creature; refused when it is locked, unless the command may.
Result<Item *> takeItem(Creature &after, std::string_view kind, const ItemName &name, Lock lock);
template <typename T>
Result<T *> takeItemOf(Creature &after, std::string_view kind, const ItemName &name, Lock lock = Lock::Refuses)
{
    const auto item = takeItem(after, kind, name, lock);
    return item ? Result<T *>(static_cast<T *>(*item)) : Result<T *>(item.error());
}
Result<std::uint32_t> findForm(const Creature &c, const ItemName &name);
/// The item of any kind by id or name.
std::optional<ItemPlace> findAny(const Creature &c, const ItemName &name);
/// Its id; 0 for a name that stands for none.
Result<std::uint32_t> findAnyItem(const Creature &c, const ItemName &name, const char *parameter);
/// Whether a name stands for no item: 0, or an empty text.
bool isNone(const ItemName &name);
/// The piece that is named, or the only one. parameter: what the message calls it.
Result<std::uint32_t> findPiece(const Creature &c, const std::optional<ItemName> &name, const char *parameter = "piece");
/// A copy of the piece a command is about, to be changed and put back; refused when it is locked.
Result<std::shared_ptr<Piece>> takePiece(const Creature &c, const std::optional<ItemName> &name);
/// The same for a command that gives it new faces: its finest level alone. context is told when that leaves levels behind.
Result<std::shared_ptr<Piece>> takeWhole(const Creature &c, const std::optional<ItemName> &name, CommandContext &context);
/// A layer by id or name; 0 for the body (0, "body").
Result<std::uint32_t> findLayer(const Piece &piece, const ItemName &name);
/// A colour layer by id or name; 0 for the topmost.
Result<std::uint32_t> findColourLayer(const Piece &piece, const ItemName &name);

} // namespace bonemoss::command
