#pragma once

#include "command/command.h"

#include <QStringList>
#include <nlohmann/json_fwd.hpp>

#include <functional>
#include <optional>
#include <vector>

class QWidget;

namespace bonemoss::app {

/// Shows what a command would do, or (null) the creature as it is.
using TryOut = std::function<void(const nlohmann::json *command)>;

/// What a command would come to, in a few words; asked beside the window, where it may take a moment.
using Forecast = std::function<QString(const nlohmann::json &command)>;

/// Asks for the numbers, choices and switches of a command, as its table knows them. Null when it was cancelled.
/// given  the command with values that are settled, or to begin from where they are also asked
/// asked  parameters that are shown, in that order
/// tryOut when given, a button shows what would come of it
/// forecast  when given, its words stand below the fields and follow them
/// title, words  what stands at its head, where the command does more than is asked for here
std::optional<nlohmann::json> askCommand(QWidget *parent, const nlohmann::json &given, const QStringList &asked,
                                         const TryOut &tryOut = {}, const QString &title = {}, const QString &words = {},
                                         const Forecast &forecast = {});

/// Asks which pieces go with `first`, which stands at the head of the result. Null when it was cancelled or none was ticked.
/// command  the rest of the command that takes them, for tryOut
std::optional<std::vector<std::uint32_t>> askPieces(QWidget *parent, const document::Creature &creature, const QString &title,
                                                    const QString &words, std::uint32_t first, const nlohmann::json &command,
                                                    const TryOut &tryOut = {});

} // namespace bonemoss::app
