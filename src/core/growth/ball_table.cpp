#include "growth/ball_table.h"

#include "base/wide.h"
#include "mesh/box_tree.h"

#include <cstring>

namespace bonemoss::growth {

namespace {

constexpr std::size_t kEight = 8;

/// Writes the places of those that meet the box to `to`, which has room for all; how many.
BONEMOSS_WIDE std::size_t meetingOf(const float *x, const float *y, const float *z, const float *squaredRadius, std::size_t count,
                                    const Box3f *box, std::uint32_t *to)
{
    const Vec3f lo = box->lo, hi = box->hi;
    std::size_t n = 0;
    for (std::size_t k = 0; k < count; k += kEight) {
        std::uint32_t isIn[kEight];
        for (std::size_t i = 0; i < kEight; ++i) {
            const auto off = [](float least, float v, float most) {
                const float d = least - v > v - most ? least - v : v - most;
                return d > 0 ? d : 0;
            };
            const float dx = off(lo.x, x[k + i], hi.x), dy = off(lo.y, y[k + i], hi.y), dz = off(lo.z, z[k + i], hi.z);
            isIn[i] = std::uint32_t(dx * dx + dy * dy + dz * dz <= squaredRadius[k + i]);
        }
        for (std::size_t i = 0; i < kEight; ++i) { // without a branch: which of them it is is hard to foresee
            to[n] = std::uint32_t(k + i);
            n += isIn[i];
        }
    }
    return n;
}

} // namespace

void BallTable::clear()
{
    m_numbers.clear();
}

void BallTable::add(Vec3f centre, float squaredRadius, std::uint32_t number)
{
    const std::size_t n = m_numbers.size();
    if (n % kEight == 0 && m_values[0].size() < n + kEight)
        for (auto &v : m_values)
            v.resize(2 * n + kEight);
    if (n % kEight == 0)
        std::fill_n(m_values[3].begin() + std::ptrdiff_t(n), kEight, -1.0f); // these meet nothing
    const float values[] = {centre.x, centre.y, centre.z, squaredRadius};
    for (std::size_t k = 0; k < m_values.size(); ++k)
        m_values[k][n] = values[k];
    m_numbers.push_back(number);
}

std::span<const std::uint32_t> BallTable::placesThatMeet(const Box3f &box)
{
    const std::size_t whole = (m_numbers.size() + kEight - 1) / kEight * kEight;
    m_found.resize(std::max(m_found.size(), whole + 1));
    return {m_found.data(), meetingOf(m_values[0].data(), m_values[1].data(), m_values[2].data(), m_values[3].data(), whole, &box,
                                      m_found.data())};
}

void BallTable::meet(const Box3f &box, std::vector<std::uint32_t> &numbers)
{
    numbers.clear();
    for (const std::uint32_t k : placesThatMeet(box))
        numbers.push_back(m_numbers[k]);
}

void BallTable::meet(const Box3f &box, BallTable &out)
{
    out.clear();
    for (const std::uint32_t k : placesThatMeet(box))
        out.add({m_values[0][k], m_values[1][k], m_values[2][k]}, m_values[3][k], m_numbers[k]);
}

Box3f boxAbout(std::span<const Vec3f> points)
{
    if (points.empty())
        return {};
    using mesh::Lanes;
    const Vec3f last = points.back();
    Lanes lo{last.x, last.y, last.z, 0}, hi = lo;
    for (std::size_t i = 0; i + 1 < points.size(); ++i) { // the fourth lane belongs to the next
        Lanes p;
        std::memcpy(&p, &points[i], sizeof p);
        lo = p < lo ? p : lo, hi = p > hi ? p : hi;
    }
    return {{lo[0], lo[1], lo[2]}, {hi[0], hi[1], hi[2]}};
}

} // namespace bonemoss::growth
