#pragma once

#include "command/layers/layer_fields.h"
#include "document/creature.h"

#include <QString>

#include <optional>

namespace bonemoss::app {

/// Puts a layer on the clipboard, for any piece of any creature. It is kept as a file of its own among what the program keeps
/// for the person, where it stays for recipes that took it; the same layer again is the same file.
Status copyLayer(const document::Piece &piece, const skin::Layer &layer);

/// The command that lays what is on the clipboard on a piece, but for the piece; nothing when there is no layer on it.
std::optional<command::TakeFromFile> pasteLayer();
/// The name of the layer on the clipboard; empty for none.
QString layerOnClipboard();

} // namespace bonemoss::app
