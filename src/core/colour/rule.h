#pragma once

#include "growth/growth.h"
#include "sculpt/falloff.h"
#include "skin/colour_layers.h"

#include <memory>

namespace bonemoss::colour {

using growth::GrowthSetting;
using skin::Skin;

/// What a kind of rule needs to be told beside its settings.
enum class Source {
    None,
    Place,  ///< a mask, a group, a form (its joint) or an outgrowth (its roots), by name
    Growth, ///< a detail layer grown as scales or spots
    Layer,  ///< any detail layer
    Line,   ///< a line drawn on the skin
};

struct Rule;
struct RuleInput;

/// A kind of rule, as tables, commands, the hand and the manual know it. Adding one is one row.
struct RuleKind {
    std::string_view name, title, text;
    std::span<const GrowthSetting> settings;
    std::span<const float> usual; ///< of each setting; sizes for a creature of 180 mm
    Source source = Source::None;
    /// Values of all vertices, 0 to 1; below 0 where it lays nothing. False when it was cancelled.
    bool (*values)(const RuleInput &, std::span<float>) = nullptr;
    float (*finest)(const Rule &) = nullptr; ///< mm, of what it draws; null for what has no edges of its own
    bool isCoat = false;                     ///< a pattern grown on the skin
};
std::span<const RuleKind> ruleKinds();
const RuleKind *ruleNamed(std::string_view name);

/// Where a colour layer shows, by the shape of the skin.
struct Rule {
    const RuleKind *kind = nullptr;
    std::vector<float> settings;
    std::string source; ///< name of what the kind goes by
    std::uint32_t seed = 1;
    bool isMirrored = true;
    bool isReversed = false;
    float contrast = 0;                        ///< 0 as it is, 1 a hard edge in the middle
    std::uint32_t blur = 0;                    ///< passes over neighbours
    std::optional<sculpt::DrawnFalloff> curve; ///< heights at even steps of the value; none for a straight line
    std::vector<Vec3f> points;                 ///< Source::Line: mm
    std::uint64_t ground = 0;                  ///< a mark of what it last ran on (see document::colourMark)

    float value(std::string_view setting) const;
};
Rule ruleOf(const RuleKind &kind);
/// A ramp of one colour that is fuller the higher the value.
skin::ColourRamp rampOf(const skin::Ink &ink);

/// Runs a rule for a colour layer: its values, blurred, reversed, along its curve, with its contrast, become what the layer's ramp is
/// read at; what was painted by hand over it, and wiped away, stays. The paint is composed. The same bits on any number of threads.
/// Errors: Cancelled, and then nothing is changed.
Status run(Skin &skin, std::uint32_t layer, const Rule &rule, const RuleInput &input);

} // namespace bonemoss::colour
