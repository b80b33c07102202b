#include "support/shapes.h"

#include <cstdlib>
#include <filesystem>

namespace bonemoss::test {

namespace {}

mesh::PolyMesh sphere(float radius, std::uint32_t rings, std::uint32_t sectors, Vec3f c)
{
    mesh::PolyMesh m;
    m.positions.push_back(c + Vec3f{0, radius, 0});
    for (std::uint32_t r = 1; r < rings; ++r)
        for (std::uint32_t s = 0; s < sectors; ++s) {
            const float a = kPi * float(r) / float(rings), b = 2 * kPi * float(s) / float(sectors);
            m.positions.push_back(c + Vec3f{std::sin(a) * std::cos(b), std::cos(a), std::sin(a) * std::sin(b)} * radius);
        }
    m.positions.push_back(c + Vec3f{0, -radius, 0});
    const auto at = [&](std::uint32_t r, std::uint32_t s) { return 1 + (r - 1) * sectors + s % sectors; };
    const auto last = std::uint32_t(m.positions.size() - 1);
    for (std::uint32_t s = 0; s < sectors; ++s) {
        m.faces.push_back({{0, at(1, s + 1), at(1, s), kNone}});
        for (std::uint32_t r = 1; r + 1 < rings; ++r)
            m.faces.push_back({{at(r, s), at(r, s + 1), at(r + 1, s + 1), at(r + 1, s)}});
        m.faces.push_back({{last, at(rings - 1, s), at(rings - 1, s + 1), kNone}});
    }
    return m;
}

mesh::PolyMesh torus(float ring, float tube, std::uint32_t around, std::uint32_t across)
{
    mesh::PolyMesh m;
    for (std::uint32_t i = 0; i < around; ++i)
        for (std::uint32_t j = 0; j < across; ++j) {
            const float a = 2 * kPi * float(i) / float(around), b = 2 * kPi * float(j) / float(across);
            m.positions.push_back(
                {(ring + tube * std::cos(b)) * std::cos(a), tube * std::sin(b), (ring + tube * std::cos(b)) * std::sin(a)});
        }
    const auto at = [&](std::uint32_t i, std::uint32_t j) { return (i % around) * across + j % across; };
    for (std::uint32_t i = 0; i < around; ++i)
        for (std::uint32_t j = 0; j < across; ++j)
            m.faces.push_back({{at(i, j), at(i, j + 1), at(i + 1, j + 1), at(i + 1, j)}});
    return m;
}

mesh::PolyMesh box(Vec3f lo, Vec3f hi)
{
    mesh::PolyMesh m;
    for (int k = 0; k < 8; ++k)
        m.positions.push_back({k & 1 ? hi.x : lo.x, k & 2 ? hi.y : lo.y, k & 4 ? hi.z : lo.z});
    m.faces = {{{0, 4, 6, 2}}, {{1, 3, 7, 5}}, {{0, 1, 5, 4}}, {{2, 6, 7, 3}}, {{0, 2, 3, 1}}, {{4, 5, 7, 6}}};
    return m;
}

mesh::PolyMesh plane(float side, std::uint32_t n)
{
    mesh::PolyMesh m;
    for (std::uint32_t j = 0; j <= n; ++j)
        for (std::uint32_t i = 0; i <= n; ++i)
            m.positions.push_back({(float(i) / float(n) - 0.5f) * side, 0, (float(j) / float(n) - 0.5f) * side});
    const auto at = [&](std::uint32_t i, std::uint32_t j) { return j * (n + 1) + i; };
    for (std::uint32_t j = 0; j < n; ++j)
        for (std::uint32_t i = 0; i < n; ++i)
            m.faces.push_back({{at(i, j), at(i, j + 1), at(i + 1, j + 1), at(i + 1, j)}});
    return m;
}

std::string cgalMesh(const char *name)
{
    const char *folder = std::getenv("BONEMOSS_MESHES");
    const std::string path = std::string(folder ? folder : "") + "/" + name;
    return std::filesystem::exists(path) ? path : std::string();
}

} // namespace bonemoss::test
