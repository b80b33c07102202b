#pragma once

#include <cstdint>

namespace bonemoss {

/// Counter-based random numbers: the same (seed, counter) gives the same value on every machine and
/// thread, with no state. Mixing function of SplitMix64 (Steele, Lea & Flood 2014, fig. 16).
constexpr std::uint64_t randomBits(std::uint64_t seed, std::uint64_t counter)
{
    std::uint64_t z = seed * 0xd1342543de82ef95ull + (counter + 1) * 0x9e3779b97f4a7c15ull;
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ull;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebull;
    return z ^ (z >> 31);
}
/// Even in [0, 1).
constexpr float randomUnit(std::uint64_t seed, std::uint64_t counter)
{
    return float(randomBits(seed, counter) >> 40) * (1.0f / 16777216.0f);
}
/// Even in [-1, 1).
constexpr float randomSigned(std::uint64_t seed, std::uint64_t counter)
{
    return 2 * randomUnit(seed, counter) - 1;
}

} // namespace bonemoss
