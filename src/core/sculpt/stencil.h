#pragma once

#include "base/types.h"
#include "image/picture.h"

#include <array>
#include <memory>
#include <optional>
#include <string>

namespace bonemoss::sculpt {

/// A picture held before the creature as it is seen: what its bright parts cover is reached, what its dark parts cover or
/// what lies beside it is kept. From a seat of perspective its shadow widens with the distance from the eye.
struct Stencil {
    std::string name; ///< of the stamp whose picture it is
    std::shared_ptr<const image::HeightPicture> picture;
    Vec3f centre;                        ///< mm, of the picture
    Vec3f right{10, 0, 0}, up{0, 10, 0}; ///< mm, half its width and half its height
    std::optional<Vec3f> eye;            ///< mm; none for parallel sight, square to the picture
    bool isInverted = false;

    /// Unit way of sight through a point.
    Vec3f sightTo(Vec3f p) const;
    /// Where the picture lies before a point: u from left, v from the top, 0 to 1 inside; nothing beside it or behind the eye.
    std::optional<std::array<float, 2>> placeOf(Vec3f p) const;
    /// Height of the picture there, as in the picture; nothing beside it.
    std::optional<float> heightAt(Vec3f p) const;
    /// 0 to 1: how much gets through to a point.
    float openness(Vec3f p) const;
};

} // namespace bonemoss::sculpt
