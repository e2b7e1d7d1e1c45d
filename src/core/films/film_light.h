// SPDX-License-Identifier: GPL-3.0-or-later
// The values of moving pictures and the light that they stand for.
//
//   BT.709 (also BT.601, BT.2020)  ITU-R BT.709-6, its camera curve backwards: light of the scene
//   sRGB, gamma 2.2, gamma 2.8     IEC 61966-2-1; powers
//   HLG                            ARIB STD-B67, ITU-R BT.2100-2, camera curve backwards: light of the scene
//   PQ                             SMPTE ST 2084, light of the screen, 1 = 10,000 cd/m2
//   linear                         light as it is
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "films/film_rows.h"
#include "render/planes.h"

namespace optrel {

enum class FilmCurve { bt709, srgb, gamma22, gamma28, hlg, pq, linear };
std::string to_string(FilmCurve curve);

/// Converts a value on [0, 1] to light, and back.
double light_of(FilmCurve curve, double value);
double value_of(FilmCurve curve, double light);

/// The same conversions for 16-bit pictures, by tables over the value and over the logarithm of light (the bits of a
/// floating-point number), linearly interpolated.
class FilmLight {
public:
    explicit FilmLight(FilmCurve curve);
    /// `rgb`: green, blue and red planes of 16 bits, the order of planar video formats. `gain`: factor for each sample;
    /// empty planes mean none.
    void to_light(const std::array<const std::uint16_t*, 3>& gbr, const std::array<int, 3>& stride, const Planes& gain,
                  Planes& out) const;
    void to_values(const Planes& in, const std::array<std::uint16_t*, 3>& gbr, const std::array<int, 3>& stride) const;

    const std::vector<float>& of_values() const { return light_; }
    CurveTable table() const;

private:
    std::vector<float> light_;           ///< for each value
    std::vector<std::uint32_t> values_;  ///< as in CurveTable
};

}  // namespace optrel
