#pragma once

#include "outgrowth/outgrowth.h"

#include <span>

namespace bonemoss::app {

/// What a drag in the view does to the outgrowth that is chosen.
enum class Gesture { Choose, Comb, Longer, Shorter, Lift, Lay, Curl, Straighten, Denser, Thinner, Part, Path, Cut, Look, Seen };

struct GestureRow {
    Gesture gesture;
    const char *title, *hint;
    bool (*fits)(const outgrowth::Kind &kind);
    /// Of those that paint a map: which, and 1 for more or -1 for less.
    std::optional<outgrowth::Map> map{};
    float way = 0;
};
/// Each stands where its number says.
std::span<const GestureRow> gestures();
const GestureRow &rowOf(Gesture gesture);

} // namespace bonemoss::app
