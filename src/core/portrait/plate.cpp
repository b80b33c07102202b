#include "portrait/plate.h"

#include "base/types.h"

#include <algorithm>
#include <cmath>

namespace bonemoss::portrait {

namespace {

using Outline = std::vector<std::array<float, 2>>;

/// A closed curve through points (E. Catmull & R. Rom 1974), eight steps from each to the next.
Outline smoothed(const Outline &p)
{
    Outline out;
    const std::size_t n = p.size();
    for (std::size_t i = 0; i < n; ++i)
        for (int s = 0; s < 8; ++s) {
            const float t = float(s) / 8;
            std::array<float, 2> q{};
            for (std::size_t k = 0; k < 2; ++k) {
                const float a = p[(i + n - 1) % n][k], b = p[i][k], c = p[(i + 1) % n][k], d = p[(i + 2) % n][k];
                q[k] = b + 0.5f * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * b - a - 3 * c + d)));
            }
            out.push_back(q);
        }
    return out;
}

std::vector<Outline> coin()
{
    Outline out;
    for (int k = 0; k < 64; ++k) {
        const float a = 2 * kPi * float(k) / 64;
        out.push_back({0.5f + 0.5f * std::cos(a), 0.5f + 0.5f * std::sin(a)});
    }
    return {out};
}

/// A hand held up, from wrist to finger tips.
std::vector<Outline> hand()
{
    return {
        smoothed({{0.13f, 0},     {0.12f, 0.10f}, {0.09f, 0.20f}, {0.07f, 0.33f}, {0.05f, 0.46f}, {0.02f, 0.58f}, {0.01f, 0.70f},
                  {0.04f, 0.73f}, {0.08f, 0.70f}, {0.10f, 0.60f}, {0.13f, 0.52f}, {0.14f, 0.64f}, {0.14f, 0.80f}, {0.16f, 0.90f},
                  {0.19f, 0.92f}, {0.22f, 0.88f}, {0.22f, 0.74f}, {0.23f, 0.56f}, {0.25f, 0.70f}, {0.26f, 0.90f}, {0.28f, 0.99f},
                  {0.31f, 1.0f},  {0.34f, 0.95f}, {0.34f, 0.78f}, {0.34f, 0.57f}, {0.37f, 0.70f}, {0.39f, 0.86f}, {0.42f, 0.93f},
                  {0.45f, 0.92f}, {0.46f, 0.85f}, {0.44f, 0.68f}, {0.43f, 0.48f}, {0.45f, 0.40f}, {0.50f, 0.44f}, {0.56f, 0.52f},
                  {0.61f, 0.55f}, {0.64f, 0.52f}, {0.62f, 0.46f}, {0.56f, 0.36f}, {0.50f, 0.25f}, {0.43f, 0.17f}, {0.39f, 0.09f},
                  {0.39f, 0}})};
}

/// A horse that stands, nose to the left; its withers at 0.71.
std::vector<Outline> horse()
{
    return {
        smoothed({{0.02f, 0.72f}, {0.00f, 0.77f}, {0.03f, 0.83f}, {0.09f, 0.91f}, {0.13f, 0.95f}, {0.14f, 1.00f}, {0.17f, 0.97f},
                  {0.21f, 0.96f}, {0.27f, 0.91f}, {0.34f, 0.82f}, {0.41f, 0.73f}, {0.47f, 0.71f}, {0.56f, 0.67f}, {0.68f, 0.66f},
                  {0.80f, 0.69f}, {0.90f, 0.69f}, {0.98f, 0.65f}, {1.03f, 0.60f}, {1.06f, 0.46f}, {1.07f, 0.30f}, {1.05f, 0.22f},
                  {1.03f, 0.34f}, {1.00f, 0.50f}, {0.98f, 0.44f}, {0.94f, 0.36f}, {0.97f, 0.30f}, {0.98f, 0.22f}, {0.96f, 0.12f},
                  {0.98f, 0.03f}, {0.99f, 0.00f}, {0.91f, 0.00f}, {0.91f, 0.05f}, {0.92f, 0.14f}, {0.91f, 0.25f}, {0.86f, 0.32f},
                  {0.82f, 0.38f}, {0.70f, 0.36f}, {0.58f, 0.36f}, {0.50f, 0.37f}, {0.48f, 0.30f}, {0.47f, 0.20f}, {0.46f, 0.08f},
                  {0.47f, 0.00f}, {0.39f, 0.00f}, {0.40f, 0.05f}, {0.41f, 0.14f}, {0.40f, 0.26f}, {0.38f, 0.36f}, {0.34f, 0.43f},
                  {0.30f, 0.52f}, {0.29f, 0.60f}, {0.27f, 0.68f}, {0.23f, 0.76f}, {0.18f, 0.80f}, {0.14f, 0.77f}, {0.09f, 0.72f},
                  {0.05f, 0.69f}})};
}

} // namespace

std::span<const PlatePaper> platePapers()
{
    static constexpr std::array<PlatePaper, 3> kPapers{{
        {"ivory", "Ivory", {0.945f, 0.918f, 0.847f}, {0.157f, 0.125f, 0.094f}, {0.42f, 0.35f, 0.27f}, 0.022f},
        {"slate", "Grey-blue", {0.745f, 0.788f, 0.800f}, {0.094f, 0.133f, 0.165f}, {0.29f, 0.36f, 0.40f}, 0.030f},
        {"white", "White", {0.988f, 0.986f, 0.980f}, {0.10f, 0.10f, 0.10f}, {0.40f, 0.40f, 0.40f}, 0},
    }};
    return kPapers;
}

const PlatePaper &platePaper(std::string_view id)
{
    const auto papers = platePapers();
    const auto at = std::find_if(papers.begin(), papers.end(), [&](const PlatePaper &p) { return p.id == id; });
    return at == papers.end() ? papers.front() : *at;
}

std::span<const KnownSize> knownSizes()
{
    // Common practice, no source: a grown hand from the wrist, a coin of the middle size, a saddle horse with its head up.
    static constexpr std::array<KnownSize, 4> kSizes{{
        {"none", "Nothing", 0, nullptr},
        {"hand", "Hand, 19 cm", 190, hand},
        {"coin", "Coin, 24 mm", 24, coin},
        {"horse", "Horse, 2.2 m", 2200, horse},
    }};
    return kSizes;
}

const KnownSize &knownSize(std::string_view id)
{
    const auto sizes = knownSizes();
    const auto at = std::find_if(sizes.begin(), sizes.end(), [&](const KnownSize &s) { return s.id == id; });
    return at == sizes.end() ? sizes.front() : *at;
}

} // namespace bonemoss::portrait
