#pragma once

#include "base/types.h"

#include <array>
#include <span>
#include <vector>

namespace bonemoss::growth {

/// Numbered balls, coordinate by coordinate: which of them meet a box is told eight at a time.
class BallTable
{
public:
    void clear();
    void add(Vec3f centre, float squaredRadius, std::uint32_t number);
    /// The numbers of those that meet the box, in their order.
    void meet(const Box3f &box, std::vector<std::uint32_t> &numbers);
    /// The same as a table, which is cleared first.
    void meet(const Box3f &box, BallTable &out);

private:
    std::span<const std::uint32_t> placesThatMeet(const Box3f &box);

    std::array<std::vector<float>, 4> m_values; ///< centre and squared radius, filled up to whole eights
    std::vector<std::uint32_t> m_numbers, m_found;
};

/// The box about some points. O(points), several at once.
Box3f boxAbout(std::span<const Vec3f> points);

} // namespace bonemoss::growth
