#pragma once

#include "base/result.h"
#include "portrait/stage.h"

#include <array>
#include <vector>

namespace bonemoss::portrait {

/// Light from all around as a table over the sphere, sampled as often as it is bright (M. Pharr, W. Jakob & G. Humphreys 2016, section
/// 14.2.4). Rows go from the zenith down, columns round the vertical.
class Environment
{
public:
    Environment() = default; ///< none
    /// Errors: those of the picture.
    static Result<Environment> from(const Surroundings &surroundings);

    bool isNone() const { return m_width == 0; }
    struct Sample {
        Vec3f direction, radiance;
        float density = 0; ///< per steradian
    };
    Vec3f radiance(Vec3f direction) const { return ahead(direction).radiance; }
    Sample sample(std::array<float, 2> u) const;
    float density(Vec3f direction) const { return ahead(direction).density; }
    /// Radiance and density of a direction.
    Sample ahead(Vec3f direction) const;
    /// Irradiance on a level surface that faces up, and on all that face anywhere on average.
    Vec3f meanRadiance() const { return m_mean; }

    /// Of a table, width * height from the zenith down.
    Environment(int width, int height, std::vector<Vec3f> texels);

private:
    Sample at(float u, float v, Vec3f direction) const;
    Vec3f texel(int x, int y) const { return m_texels[std::size_t(y) * std::size_t(m_width) + std::size_t(x)]; }
    int m_width = 0, m_height = 0;
    std::vector<Vec3f> m_texels;
    std::vector<float> m_rows;    ///< sums of rows, running
    std::vector<float> m_columns; ///< of each row likewise, width + 1 each
    /// Where in such sums a search may begin, by the share of the whole (H. Chen & Y. Asau 1974).
    std::vector<std::uint16_t> m_rowGuide, m_columnGuide;
    float m_total = 0;
    Vec3f m_mean;
};

/// Radiance of the sky after A. Preetham, P. Shirley & B. Smits 1999, in units of 10 kcd/m2, linear sRGB. Directions below the horizon
/// have what is at it. sunHeight: degrees, turbidity 2 to 10.
Vec3f skyRadiance(Vec3f direction, Vec3f toSun, float turbidity);
/// The unit vector to an azimuth (degrees, 0 at the nose, positive to the left flank) and elevation.
Vec3f directionOf(float azimuth, float elevation);

} // namespace bonemoss::portrait
