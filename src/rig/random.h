// SPDX-License-Identifier: GPL-3.0-or-later
// Random numbers that depend only on a seed and an index, so that threads cannot change them.
#pragma once

#include <cmath>
#include <cstdint>

namespace optrel::rig {

/// SplitMix64 (Steele, Lea, Flood 2014).
inline std::uint64_t mix(std::uint64_t x) {
    x += 0x9e3779b97f4a7c15ull;
    x = (x ^ (x >> 30)) * 0xbf58476d1ce4e5b9ull;
    x = (x ^ (x >> 27)) * 0x94d049bb133111ebull;
    return x ^ (x >> 31);
}

/// Uniform in (0, 1).
inline double uniform(std::uint64_t key) { return ((mix(key) >> 11) + 0.5) * 0x1p-53; }

/// Standard normal (Box, Muller 1958).
inline double normal(std::uint64_t key) {
    const double u = uniform(key), v = uniform(key ^ 0x5851f42d4c957f2dull);
    return std::sqrt(-2 * std::log(u)) * std::cos(6.283185307179586 * v);
}

/// A small stream for drawing scenes.
class Stream {
public:
    explicit Stream(std::uint64_t seed) : state_(mix(seed)) {}
    double next() { return uniform(state_ = mix(state_)); }
    double between(double low, double high) { return low + (high - low) * next(); }

private:
    std::uint64_t state_;
};

}  // namespace optrel::rig
