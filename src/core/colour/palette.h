#pragma once

#include "base/result.h"
#include "image/picture.h"
#include "skin/colour_layer.h"

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace bonemoss::colour {

/// Lightness, and two opponent axes; after B. Ottosson, "A perceptual color space for image processing", 2020.
struct Oklab {
    float l = 0, a = 0, b = 0;
};
Oklab toOklab(Vec3f srgb);
/// Beyond sRGB where the colour is.
Vec3f fromOklab(Oklab lab);
/// Lightness 0 to 1, chroma 0 to about 0.33 within sRGB, hue in degrees from 0 on.
struct Oklch {
    float l = 0, c = 0, h = 0;
};
Oklch toOklch(Vec3f srgb);
/// Within sRGB: chroma is taken away until it is.
Vec3f fromOklch(Oklch lch);
/// Euclidean distance in OKLab; about 0.02 can just be seen side by side.
float difference(Vec3f a, Vec3f b);

/// "#rrggbb" and back; nothing for other words.
std::string hexOf(Vec3f srgb);
std::optional<Vec3f> colourOfHex(std::string_view text);

enum class Harmony { Complement, Split, Triad, Analogous, Shades };
inline constexpr std::array<std::string_view, 5> kHarmonyNames{"complement", "split", "triad", "analogous", "shades"};
/// Colours that go with one, itself first, by turning its hue; shades: the same hue darker and lighter.
std::vector<Vec3f> harmonyOf(Vec3f srgb, Harmony harmony);

/// What a picture is made of, the commonest first, with the share of its pixels: k-means in OKLab (S. P. Lloyd 1982) from the means of a
/// median cut (P. Heckbert 1982). Transparent pixels do not count. O(pixels * colours), of some hundred thousand pixels at most.
struct Found {
    Vec3f colour; ///< sRGB
    float share = 0;
};
std::vector<Found> coloursIn(const image::ColourPicture &picture, int count);
/// The same of any colours with weights.
std::vector<Found> coloursIn(std::span<const Vec3f> srgb, std::span<const float> weights, int count);

/// A palette as text: a row "red green blue name" each, 0 to 255; empty rows and what follows # is passed over.
std::string toText(std::span<const skin::PaletteColour> palette);
/// Ids are 0. Errors: Malformed with the row, Empty, TooLarge (over 256 colours).
Result<std::vector<skin::PaletteColour>> fromText(std::string_view text);
/// A picture of swatches, eight in a row.
image::ColourPicture swatchesOf(std::span<const skin::PaletteColour> palette);

enum class Eyesight { Usual, Protan, Deutan, Tritan };
inline constexpr std::array<std::string_view, 4> kEyesightNames{"usual", "protan", "deutan", "tritan"};
/// What eyes see that lack a kind of cone: G. M. Machado, M. M. Oliveira & L. A. F. Fernandes, "A Physiologically-based Model for Simulation
/// of Color Vision Deficiency", 2009, table 1 at full severity, in linear light.
Vec3f seenBy(Eyesight eyes, Vec3f linear);

/// Two colours that can hardly be told apart.
struct Close {
    std::size_t a = 0, b = 0;
    Eyesight eyes = Eyesight::Usual;
    float difference = 0;
};
std::vector<Close> closeOnes(std::span<const Vec3f> srgb, float least = 0.045f);

} // namespace bonemoss::colour
