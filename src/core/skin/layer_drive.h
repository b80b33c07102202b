#pragma once

#include "base/item.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::skin {

/// What lets a layer come and go with the pose of a creature: how much the skin under it is stretched against rest, or how near
/// joints are to a pose that the layer corrects.
struct LayerDrive {
    /// Shrink, Grow: the least and the greatest of the two principal stretches of the skin; Area: the root of their product.
    enum class By : std::uint8_t { None, Shrink, Area, Grow, Pose };
    struct Joint {
        std::string bone; ///< as bone weights name it
        Quat turn;        ///< from rest, in the pose that is corrected
        friend bool operator==(const Joint &, const Joint &) = default;
    };
    By by = By::None;
    float none = 1, full = 0.6f; ///< stretch (length against rest) at which nothing of the layer shows, and all of it
    float curve = 1;             ///< exponent of the share between them: above 1 comes late, below 1 early
    std::vector<Joint> joints;   ///< of Pose

    bool isOfStretch() const { return by != By::None && by != By::Pose; }
    /// Share of the layer that shows where the skin is stretched so, 0 to 1.
    float shareAt(float stretch) const
    {
        const float t = std::clamp((stretch - none) / (std::abs(full - none) < 1e-4f ? 1e-4f : full - none), 0.0f, 1.0f);
        return curve == 1 || t == 0 ? t : std::pow(t, curve);
    }
    float shareAtRest() const { return by == By::None ? 1 : by == By::Pose ? 0 : shareAt(1); }
    friend bool operator==(const LayerDrive &, const LayerDrive &) = default;
};
inline constexpr std::array<std::string_view, 5> kDriveNames{"none", "shrink", "area", "grow", "pose"};

} // namespace bonemoss::skin
