#pragma once

#include "sculpt/stroke.h"

#include <array>

namespace bonemoss::colour {

/// A ready brush for what makes a face live: settings of Paint. Adding one is one row. Sizes for a creature of 180 mm; values by eye
/// (no source).
struct Accent {
    std::string_view name, title;
    Vec3f colour; ///< sRGB
    float size = 5, strength = 0.4f;
    std::optional<float> gloss, wet;
};
inline constexpr std::array kAccents{
    Accent{"underEye", "Under the eye", {0.30f, 0.17f, 0.16f}, 6, 0.35f, {}, {}},
    Accent{"nose", "Nose", {0.16f, 0.10f, 0.10f}, 8, 0.6f, 0.55f, 0.8f},
    Accent{"lip", "Lip", {0.45f, 0.20f, 0.19f}, 4, 0.45f, 0.4f, 0.5f},
    Accent{"knuckle", "Knuckle", {0.58f, 0.32f, 0.26f}, 7, 0.3f, {}, {}},
    Accent{"clawRoot", "Root of a claw", {0.14f, 0.10f, 0.08f}, 5, 0.5f, {}, {}},
    Accent{"toothTinge", "Tinge of a tooth", {0.62f, 0.47f, 0.22f}, 3, 0.35f, {}, {}},
    Accent{"scar", "Scar", {0.78f, 0.58f, 0.52f}, 3, 0.6f, 0.5f, {}},
};
/// The settings of an accent; what it says nothing of stays. height: of the creature, mm.
inline void takeAccent(sculpt::StrokeSettings &s, const Accent &accent, float height)
{
    s.colour = accent.colour, s.entry = 0, s.laysColour = true;
    s.size = accent.size * height / 180, s.strength = accent.strength, s.falloff = sculpt::Falloff::Soft;
    s.finish = {accent.gloss, std::optional<float>(), accent.wet, std::optional<float>()};
}

} // namespace bonemoss::colour
