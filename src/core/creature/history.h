#pragma once

#include "creature/creature.h"

#include <nlohmann/json_fwd.hpp>

#include <memory>
#include <string>
#include <vector>

namespace bonemoss::creature {

/// States one after another, each with the command that made it. States share blocks, so that a step
/// costs what it changed.
class History
{
public:
    struct Step {
        std::string title;
        std::shared_ptr<const nlohmann::json> command; ///< null for the state it began with
        std::shared_ptr<const Creature> state;
    };

    explicit History(std::shared_ptr<const Creature> start, std::string title);

    const Creature &now() const { return *m_steps[m_at].state; }
    std::shared_ptr<const Creature> share() const { return m_steps[m_at].state; }
    const std::vector<Step> &steps() const { return m_steps; }
    std::size_t at() const { return m_at; }
    bool canUndo() const { return m_at > 0; }
    bool canRedo() const { return m_at + 1 < m_steps.size(); }

    /// Drops what could be redone and adds a step. Past kMostSteps the oldest goes.
    void push(Creature state, const nlohmann::json &command);
    void goTo(std::size_t step);
    /// Commands from the oldest kept state to the present one.
    std::vector<nlohmann::json> commands() const;

    static constexpr std::size_t kMostSteps = 500;

private:
    std::vector<Step> m_steps;
    std::size_t m_at = 0;
};

} // namespace bonemoss::creature
