#pragma once

#include "app/session/latest.h"
#include "app/view/renderer.h"

#include <QString>

#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

namespace bonemoss::app {

/// How near the floor things are, over an area of it.
struct ContactShadow {
    std::vector<std::uint8_t> values; ///< a square, 255 touching
    int side = 1;
    Box3f area;
};

/// A creature on the graphics card, and what was made for it beside the window.
struct Stage {
    explicit Stage(std::function<void()> arrived)
        : shadow([this, arrived = std::move(arrived)](ContactShadow made) {
              newShadow = std::move(made);
              arrived();
          })
    {}
    std::unique_ptr<Renderer> renderer;
    std::vector<std::uint32_t> lightOrdered; ///< pieces whose lighter versions are being made
    std::shared_ptr<const document::Creature> shadowOf;
    std::optional<ContactShadow> newShadow; ///< not yet on the card
    Latest<ContactShadow> shadow;
};

/// One of the views side by side: where it looks from, and what of the creature it shows.
struct Pane {
    portrait::Camera camera;
    std::vector<portrait::Camera> back, forward; ///< camera moves that can be undone and done again
    Look look = Look::Clay;
    bool wasUsed = false; ///< its camera was set up once
    /// An earlier state, or another creature, that it shows instead of the one in work; null for that one.
    std::shared_ptr<const document::Creature> kept;
    QString keptName;
    std::shared_ptr<Stage> keptStage;
};
inline constexpr std::size_t kMostPanes = 4;

} // namespace bonemoss::app
