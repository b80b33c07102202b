#pragma once

#include "document/creature.h"

#include <nlohmann/json_fwd.hpp>

#include <memory>
#include <string>
#include <vector>

namespace bonemoss::command {

/// States one after another, each with the command that made it. States share blocks, so that a step
/// costs what it changed. Past a budget of bytes, and past kMostSteps, the oldest go; the present one and the one before never do.
class History
{
public:
    struct Step {
        std::string title;
        std::shared_ptr<const nlohmann::json> command; ///< null for the state it began with
        std::shared_ptr<const document::Creature> state;
        std::size_t bytes = 0; ///< that it does not share with the step before
    };

    explicit History(std::shared_ptr<const document::Creature> start, std::string title);

    const document::Creature &now() const { return *m_steps[m_at].state; }
    std::shared_ptr<const document::Creature> share() const { return m_steps[m_at].state; }
    const std::vector<Step> &steps() const { return m_steps; }
    std::size_t at() const { return m_at; }
    bool canUndo() const { return m_at > 0; }
    bool canRedo() const { return m_at + 1 < m_steps.size(); }

    /// Drops what could be redone and adds a step. O(blocks of the pieces that changed).
    void push(document::Creature state, const nlohmann::json &command);
    void goTo(std::size_t step);
    /// The present state with its caches filled; the same in all that counts.
    void refresh(std::shared_ptr<const document::Creature> state) { m_steps[m_at].state = std::move(state); }
    /// Of the states, without what the present one holds anyway.
    std::size_t bytes() const;
    void setBudget(std::size_t bytes);
    std::size_t budget() const { return m_budget; }
    /// Steps that went, so that a step's number counted from the beginning is this and its place here.
    std::size_t dropped() const { return m_dropped; }
    /// Commands from the oldest kept state to the present one.
    std::vector<nlohmann::json> commands() const;

    static constexpr std::size_t kMostSteps = 500;

private:
    void keepWithin();
    std::vector<Step> m_steps;
    std::size_t m_at = 0, m_dropped = 0, m_budget = SIZE_MAX;
};

/// Bytes of a creature that another does not share.
std::size_t bytesNotIn(const document::Creature &before, const document::Creature &now);

} // namespace bonemoss::command
