#pragma once

#include "command/field_list.h"
#include "command/region.h"

namespace bonemoss::command {

struct Stroke {
    static constexpr const char *kName = "sculpt.stroke", *kTitle = "Stroke",
                                *kText = "One stroke of a tool, from its pen readings.";
    std::optional<ItemName> piece;
    ItemName layer = 0u;
    std::vector<sculpt::PenSample> samples;
    sculpt::StrokeSettings settings;
    std::optional<float> reknit;
    std::optional<ItemName> entry;
    bool isPosed = false;
    std::optional<std::string> bone;
    bool evensWeights = false;
    StencilParams stencil;
    static Fields<Stroke> fields();
};

struct SetSymmetry {
    static constexpr const char
        *kName = "piece.symmetry",
        *kTitle = "Symmetry",
        *kText = "Where strokes on a piece are repeated: across a plane, around an axis, or both. At first the middle plane.";
    std::optional<ItemName> piece;
    std::optional<bool> hasPlane;
    std::optional<Vec3f> point, normal;
    std::optional<std::uint32_t> around;
    std::optional<Vec3f> axisPoint, axis;
    static Fields<SetSymmetry> fields();
};

struct PressStencil {
    static constexpr const char *kName = "stencil.press", *kTitle = "Press a stencil",
                                *kText =
                                    "Presses a picture held before the skin into what is seen of it, as it lies there in sight.";
    std::optional<ItemName> piece;
    ItemName layer = 0u;
    float depth = 1;
    StencilParams stencil;
    static Fields<PressStencil> fields();
};

} // namespace bonemoss::command
