#pragma once

#include "creature/command.h"

#include <QStringList>
#include <nlohmann/json_fwd.hpp>

#include <optional>
#include <vector>

class QWidget;

namespace bonemoss::app {

/// Asks for the numbers, choices and switches of a command, as its table knows them. Null when it was cancelled.
/// name   of the command
/// given  values that are settled, or to begin from where they are also asked
/// asked  parameters that are shown, in that order
std::optional<nlohmann::json> askCommand(QWidget *parent, const char *name, nlohmann::json given, const QStringList &asked);

/// Asks which pieces go with `first`, which stands at the head of the result. Null when it was cancelled or none was ticked.
std::optional<std::vector<std::uint32_t>> askPieces(QWidget *parent, const creature::Creature &creature, const QString &title,
                                                    const QString &words, std::uint32_t first);

} // namespace bonemoss::app
