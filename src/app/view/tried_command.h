#pragma once

#include "command/command.h"

#include <nlohmann/json.hpp>

#include <memory>
#include <optional>
#include <utility>

namespace bonemoss::app {

/// A command that is tried out while something is dragged: the view shows what it would make, and it is sent when it is let go.
class TriedCommand
{
public:
    /// The last that could be run stays when this one cannot.
    void attempt(const document::Creature &on, const nlohmann::json &command)
    {
        command::CommandContext context;
        auto after = command::apply(on, command, context);
        if (!after) {
            m_failed = command;
            return;
        }
        m_command = command;
        m_made = std::make_unique<document::Creature>(std::move(*after));
    }
    void drop() { m_command.reset(), m_failed.reset(), m_made.reset(); }
    std::optional<nlohmann::json> take()
    {
        m_made.reset();
        m_failed.reset();
        return std::exchange(m_command, {});
    }
    /// The same, or where none could be run the last of them, which then tells why.
    std::optional<nlohmann::json> takeAny()
    {
        auto failed = std::exchange(m_failed, {});
        auto command = take();
        return command ? command : failed;
    }
    bool isThere() const { return m_command.has_value(); }
    const document::Creature *made() const { return m_made.get(); } ///< null while there is nothing to show
    void show(document::Creature made) { m_made = std::make_unique<document::Creature>(std::move(made)); }

private:
    std::optional<nlohmann::json> m_command, m_failed;
    std::unique_ptr<document::Creature> m_made;
};

} // namespace bonemoss::app
