#pragma once

#include "base/finish.h"
#include "base/types.h"

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace bonemoss::colour {
struct Rule;
}

namespace bonemoss::skin {

/// How a colour layer mixes with what lies below it.
enum class ColourBlend { Mix, Darken, Lighten, Multiply, Screen, Overlay, Add, Colour };

/// A colour with a number, by which paint refers to it: when it changes, what was painted with it changes too.
struct PaletteColour {
    std::uint32_t id = 0;
    std::string name;
    Vec3f colour; ///< sRGB, 0 to 1
    friend bool operator==(const PaletteColour &, const PaletteColour &) = default;
};

/// A colour to paint with: one of the palette where `entry` is not 0, else its own.
struct Ink {
    Vec3f colour; ///< sRGB, 0 to 1
    std::uint32_t entry = 0;
    friend bool operator==(const Ink &, const Ink &) = default;
};

/// What a rule lays down by its value: colours between stops, and one finish.
struct ColourRamp {
    struct Stop {
        float at = 0; ///< value, 0 to 1
        Ink ink;
        float cover = 1; ///< 0 to 1
        friend bool operator==(const Stop &, const Stop &) = default;
    };
    std::vector<Stop> stops; ///< rising; empty for finish alone
    Finish finish;           ///< by the value
    friend bool operator==(const ColourRamp &, const ColourRamp &) = default;
};

/// A layer of colour and finish, without what it holds (see colour_layers.h).
struct ColourLayer {
    std::uint32_t id = 0;
    std::string name;
    float opacity = 1; ///< 0 to 1
    ColourBlend blend = ColourBlend::Mix;
    bool isOn = true;
    bool isAside = false;                     ///< not shown because another layer is looked at alone
    bool isLocked = false;                    ///< no stroke or command changes it
    std::shared_ptr<const colour::Rule> rule; ///< that says where it shows (colour/rule.h); null when painted
    std::shared_ptr<const ColourRamp> ramp;   ///< what it shows there; null without a rule
    bool isShown() const { return isOn && !isAside; }
    friend bool operator==(const ColourLayer &, const ColourLayer &) = default;
};

} // namespace bonemoss::skin
