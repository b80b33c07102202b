#pragma once

#include "document/creature.h"
#include "outgrowth/outgrowth.h"
#include "pose/blend.h"

#include <array>
#include <vector>

namespace bonemoss::document {

/// What one vertex of an outgrowth goes with in a pose: vertices of the skin, and how much each counts.
struct Hold {
    static constexpr std::size_t kMost = 6;
    std::array<std::uint32_t, kMost> vertex{};
    std::array<float, kMost> weight{1};
    std::size_t count = 1;
    float far = 0; ///< mm at rest to where the outgrowth is held
};

/// The nearest vertex of the skin to each place; 0 where none is.
std::vector<std::uint32_t> verticesNear(const mesh::Surface &surface, const std::vector<Vec3f> &places);
/// Holds of each vertex of the members' shapes. What is stretched between ribs goes with all of them by distance; all else with the skin
/// that is nearest. O(vertices * log of the skin), of what is stretched * those that lie on the skin.
std::vector<std::vector<Hold>> holdsOf(const outgrowth::Outgrowth &rule, const mesh::Surface &skin);
/// Shapes in creature space, each member its own, bent with the skin. What is stretched between ribs folds where they come nearer, so
/// that it keeps its length from rib to rib.
void bend(outgrowth::Made &made, const std::vector<std::vector<Hold>> &holds, bool isStretched, const pose::Blend &blend);

} // namespace bonemoss::document
