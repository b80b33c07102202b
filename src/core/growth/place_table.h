#pragma once

#include "base/parallel.h"
#include "base/point_grid.h"

#include <array>

namespace bonemoss::growth {

/// Places with a size and a direction they face, in the order of a grid over them, coordinate by coordinate: who is near is
/// told eight at a time.
class PlaceTable
{
public:
    /// Room for the answers of many questions, one after the other.
    struct Search {
        std::vector<std::pair<std::uint32_t, std::uint32_t>> runs;
        std::vector<std::uint32_t> found;
    };
    /// What counts as near: where a, b and c are the ways along three directions, those with a^2 + b^2 + c^2 less than
    /// (own + per size * their size)^2, that face the probe's way by more than that.
    struct Probe {
        Vec3f at, along, across, normal; ///< along and across need not be unit: what is near is an ellipsoid
        float own = 0, perSize = 0;      ///< mm; mm/mm
        float facing = 0;                ///< least cosine
    };

    PlaceTable() = default;
    /// Of n places, all to be set.
    explicit PlaceTable(std::size_t n);
    void set(std::size_t i, Vec3f at, float size, Vec3f facing)
    {
        const float values[] = {at.x, at.y, at.z, size, facing.x, facing.y, facing.z};
        for (std::size_t k = 0; k < kKinds; ++k)
            m_values[k][i] = values[k];
    }
    Vec3f at(std::size_t i) const { return {m_values[0][i], m_values[1][i], m_values[2][i]}; }
    Vec3f normal(std::size_t i) const { return {m_values[4][i], m_values[5][i], m_values[6][i]}; }
    float size(std::size_t i) const { return m_values[3][i]; }

    /// The numbers of the places near, in the grid's order of cells. reach: mm that none of them is farther than.
    std::span<const std::uint32_t> near(const PointGrid &grid, const Probe &probe, float reach, Search &search) const;
    /// The place nearest to p of those within reach mm that face along the normal; kNone where there is none. off: how far, squared.
    std::uint32_t nearest(const PointGrid &grid, Vec3f p, Vec3f normal, float reach, Search &search, float &off) const;

private:
    static constexpr std::size_t kKinds = 7;
    std::array<RawVector<float>, kKinds> m_values; ///< with eight more, so that the last can be read by eights
};

} // namespace bonemoss::growth
