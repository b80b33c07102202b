#pragma once

#include "app/view/renderer.h"

#include <QString>

#include <atomic>
#include <memory>
#include <vector>

namespace bonemoss::app {

/// A creature on the graphics card, and what was made for it beside the window.
struct Stage {
    std::unique_ptr<Renderer> renderer;
    std::vector<std::uint32_t> lightOrdered; ///< pieces whose lighter versions are being made
    std::shared_ptr<const creature::Creature> shadowOf;
};

/// One of the views side by side: where it looks from, and what of the creature it shows.
struct Pane {
    portrait::Camera camera;
    std::vector<portrait::Camera> back, forward; ///< camera moves that can be undone and done again
    Look look = Look::Clay;
    bool wasUsed = false; ///< its camera was set up once
    /// An earlier state, or another creature, that it shows instead of the one in work; null for that one.
    std::shared_ptr<const creature::Creature> kept;
    QString keptName;
    std::shared_ptr<Stage> keptStage;
};
inline constexpr std::size_t kMostPanes = 4;

} // namespace bonemoss::app
