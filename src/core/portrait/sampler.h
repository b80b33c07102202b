#pragma once

#include "base/random.h"

#include <array>
#include <cstdint>

namespace bonemoss::portrait {

/// Evenly spread numbers for one sample of one pixel: Sobol's points (1967), shuffled and scrambled anew for each use (B. Burley 2020,
/// "Practical hash-based Owen scrambling"; the hash is that of S. Laine & T. Karras 2011). The same pixel, sample and seed give the
/// same numbers anywhere.
class Sampler
{
public:
    Sampler(std::uint32_t x, std::uint32_t y, std::uint32_t sample, std::uint64_t seed)
        : m_hash(randomBits(seed, (std::uint64_t(y) << 32) | x)), m_reversed(reversed(sample))
    {}
    /// Two in [0, 1).
    std::array<float, 2> pair()
    {
        const std::uint64_t use = randomBits(m_hash, m_use++);
        const std::uint32_t index = reversed(mixed(m_reversed, std::uint32_t(use))); // in the shuffled order
        return {unit(reversed(mixed(index, std::uint32_t(use >> 32)))),
                unit(reversed(mixed(second(index), std::uint32_t(use >> 16) * 0x9e3779b9u + 1)))};
    }
    float one()
    {
        const std::uint64_t use = randomBits(m_hash, m_use++);
        return unit(reversed(mixed(reversed(mixed(m_reversed, std::uint32_t(use))), std::uint32_t(use >> 32))));
    }

private:
    static constexpr std::uint32_t reversed(std::uint32_t x)
    {
        x = __builtin_bswap32(x);
        x = ((x & 0x0f0f0f0fu) << 4) | ((x >> 4) & 0x0f0f0f0fu);
        x = ((x & 0x33333333u) << 2) | ((x >> 2) & 0x33333333u);
        return ((x & 0x55555555u) << 1) | ((x >> 1) & 0x55555555u);
    }
    /// Scrambles a number whose bits are reversed: each bit depends on those below it.
    static constexpr std::uint32_t mixed(std::uint32_t x, std::uint32_t seed)
    {
        x += seed;
        x ^= x * 0x6c50b47cu;
        x ^= x * 0xb82f1e52u;
        x ^= x * 0xc7afe638u;
        x ^= x * 0x8d22f6e6u;
        return x;
    }
    /// The second dimension of Sobol's sequence, its bits reversed: Pascal's triangle modulo 2 times the bits of the index.
    static constexpr std::uint32_t second(std::uint32_t i)
    {
        i ^= i >> 16;
        i ^= (i & 0xff00ff00u) >> 8;
        i ^= (i & 0xf0f0f0f0u) >> 4;
        i ^= (i & 0xccccccccu) >> 2;
        return i ^ ((i & 0xaaaaaaaau) >> 1);
    }
    static constexpr float unit(std::uint32_t x) { return float(x >> 8) * (1.0f / 16777216.0f); }

    std::uint64_t m_hash;
    std::uint32_t m_reversed; ///< number of the sample
    std::uint32_t m_use = 0;
};

} // namespace bonemoss::portrait
