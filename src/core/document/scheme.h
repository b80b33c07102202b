#pragma once

#include "skin/colour_layer.h"

namespace bonemoss::document {

/// One way to colour a creature: which colour layers show and how much, and what the colours of the palette are. Nothing is painted
/// anew when another is taken.
struct Scheme {
    struct Layer {
        std::uint32_t piece = 0, layer = 0;
        bool isOn = true;
        float opacity = 1;
        friend bool operator==(const Layer &, const Layer &) = default;
    };
    struct Outgrowth {
        std::uint32_t id = 0;
        std::optional<std::array<Vec3f, 2>> colours; ///< at root and tip
        friend bool operator==(const Outgrowth &, const Outgrowth &) = default;
    };
    std::uint32_t id = 0;
    std::string name;
    std::vector<skin::PaletteColour> colours;
    std::vector<Layer> layers;
    std::vector<Outgrowth> outgrowths;
    friend bool operator==(const Scheme &, const Scheme &) = default;
};

} // namespace bonemoss::document
