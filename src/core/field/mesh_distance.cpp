#include "field/mesh_distance.h"

#include "field/mesh_crossings.h"
#include "mesh/nearest_faces.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::field {

namespace {

class MeshDistance final : public DistanceSource
{
public:
    MeshDistance(mesh::Surface surface, SignGrid signs) : m_surface(std::move(surface)), m_signs(std::move(signs)) {}

    Box3f bounds() const override { return m_surface.box(); }
    bool isTrueDistance() const override { return true; }

    void sample(const Box3f &around, std::span<const Vec3f> points, std::span<float> values) const override
    {
        // What lies beyond `around` may be told as farther off than its border is from the points.
        Box3f box;
        for (const Vec3f p : points)
            box.add(p);
        const Vec3f below = box.lo - around.lo, above = around.hi - box.hi;
        const float margin = std::max({0.0f, below.x, below.y, below.z, above.x, above.y, above.z});
        const float reach = margin * kLipschitz + m_signs.spacing;
        const auto nearest = mesh::nearestFacesWithin(m_surface, points, reach);
        for (std::size_t i = 0; i < points.size(); ++i) {
            const auto &[corners, w, distance] = nearest[i];
            const bool isNear = distance < 1.5f * m_signs.spacing;
            if (!isNear) {
                values[i] = (isInside(points[i]) ? -1.0f : 1.0f) * std::min(distance, reach);
                continue;
            }
            Vec3f at, normal;
            for (std::size_t k = 0; k < 3; ++k) {
                at += m_surface.positions[corners[k]] * w[k];
                normal += m_surface.normals[corners[k]].unpack() * w[k];
            }
            values[i] = dot(points[i] - at, normal) < 0 ? -distance : distance;
        }
    }

private:
    /// By the nearest sample of the lattice; only asked where no surface lies between.
    bool isInside(Vec3f p) const
    {
        const Vec3f at = (p - m_signs.origin) * (1 / m_signs.spacing);
        const int x = int(std::lround(at.x)), y = int(std::lround(at.y)), z = int(std::lround(at.z));
        if (x < 0 || y < 0 || z < 0)
            return false;
        const std::uint32_t state = m_signs.blockState(x >> 3, y >> 3, z >> 3);
        return m_signs.word(state, std::size_t(x & 7)) >> ((z & 7) * 8 + (y & 7)) & 1;
    }

    mesh::Surface m_surface;
    SignGrid m_signs;
};

class Blended final : public DistanceSource
{
public:
    Blended(std::vector<std::unique_ptr<DistanceSource>> parts, Blend how, float melt)
        : m_parts(std::move(parts)), m_how(how), m_melt(melt)
    {}
    Box3f bounds() const override
    {
        Box3f box = m_parts.front()->bounds();
        for (const auto &p : m_parts)
            if (m_how == Blend::Join)
                box.add(p->bounds());
        box.grow(m_melt);
        return box;
    }
    void sample(const Box3f &around, std::span<const Vec3f> points, std::span<float> values) const override
    {
        Box3f wide = around; // so that what melts in from beyond is seen in full
        wide.grow(m_melt);
        m_parts.front()->sample(wide, points, values);
        std::vector<float> other(points.size());
        for (std::size_t k = 1; k < m_parts.size(); ++k) {
            m_parts[k]->sample(wide, points, other);
            for (std::size_t i = 0; i < points.size(); ++i)
                values[i] = m_how == Blend::Join  ? softMin(values[i], other[i])
                            : m_how == Blend::Cut ? -softMin(-values[i], other[i])
                                                  : -softMin(-values[i], -other[i]);
        }
    }

private:
    /// As forms melt: no steeper than the two.
    float softMin(float a, float b) const
    {
        const float h = std::max(0.0f, m_melt - std::abs(a - b));
        return std::min(a, b) - (m_melt > 0 ? h * h / (4 * m_melt) : 0);
    }

    std::vector<std::unique_ptr<DistanceSource>> m_parts;
    Blend m_how;
    float m_melt;
};

class Offset final : public DistanceSource
{
public:
    Offset(std::unique_ptr<DistanceSource> solid, float mm) : m_solid(std::move(solid)), m_mm(mm) {}
    bool isTrueDistance() const override { return m_solid->isTrueDistance(); }
    Box3f bounds() const override
    {
        Box3f box = m_solid->bounds();
        box.grow(std::max(0.0f, m_mm));
        return box;
    }
    void sample(const Box3f &around, std::span<const Vec3f> points, std::span<float> values) const override
    {
        Box3f wide = around; // the surface that counts lies that far away
        wide.grow(std::abs(m_mm));
        m_solid->sample(wide, points, values);
        for (float &v : values)
            v -= m_mm;
    }

private:
    std::unique_ptr<DistanceSource> m_solid;
    float m_mm;
};

} // namespace

Result<std::unique_ptr<DistanceSource>> distanceOf(const mesh::Surface &surface, float spacing)
{
    auto signs = crossMesh(toPolyMesh(surface), spacing, {});
    if (!signs)
        return signs.error();
    return std::unique_ptr<DistanceSource>(std::make_unique<MeshDistance>(surface, std::move(*signs)));
}

std::unique_ptr<DistanceSource> blended(std::vector<std::unique_ptr<DistanceSource>> parts, Blend how, float melt)
{
    return std::make_unique<Blended>(std::move(parts), how, melt);
}

std::unique_ptr<DistanceSource> offsetBy(std::unique_ptr<DistanceSource> solid, float mm)
{
    return std::make_unique<Offset>(std::move(solid), mm);
}

} // namespace bonemoss::field
