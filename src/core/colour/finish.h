#pragma once

#include "base/finish.h"

#include <array>
#include <string_view>

namespace bonemoss::colour {

/// A finish to lay as it is: gloss, metal, wet, translucent, grain, 0 to 1. Adding one is one row.
struct ReadyFinish {
    std::string_view name, title;
    FinishValues values;
};
/// Values by eye (no source).
inline constexpr std::array kReadyFinishes{
    ReadyFinish{"dryHide", "Dry hide", {0.18f, 0, 0, 0.05f, 0.5f}},
    ReadyFinish{"wetNose", "Wet nose", {0.55f, 0, 0.8f, 0.15f, 0.3f}},
    ReadyFinish{"tongue", "Tongue", {0.5f, 0, 0.7f, 0.6f, 0.25f}},
    ReadyFinish{"horn", "Horn", {0.45f, 0, 0.1f, 0.35f, 0.2f}},
    ReadyFinish{"tooth", "Tooth", {0.6f, 0, 0.35f, 0.4f, 0}},
    ReadyFinish{"claw", "Claw", {0.5f, 0, 0.15f, 0.3f, 0.1f}},
    ReadyFinish{"stone", "Stone", {0.08f, 0, 0, 0, 0.8f}},
    ReadyFinish{"mattPupil", "Matt pupil", {0.1f, 1, 0, 0, 0}},
    ReadyFinish{"wetEye", "Wet eye", {0.9f, 0, 1, 0.2f, 0}},
    ReadyFinish{"membrane", "Membrane", {0.35f, 0, 0.1f, 0.85f, 0}},
};
inline constexpr std::array<std::string_view, kReadyFinishes.size()> kReadyFinishNames = [] {
    std::array<std::string_view, kReadyFinishes.size()> out;
    for (std::size_t k = 0; k < out.size(); ++k)
        out[k] = kReadyFinishes[k].name;
    return out;
}();

} // namespace bonemoss::colour
