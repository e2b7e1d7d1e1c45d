// SPDX-License-Identifier: GPL-3.0-or-later
// Pictures of luma and colour differences (ITU-R BT.601, BT.709, BT.2020 with constant coefficients; H.273) to linear
// light and back in one step.
#pragma once

#include <array>
#include <cstdint>

#include "films/film_light.h"
#include "films/film_rows.h"

namespace optrel {

/// How integers represent R'G'B'.
struct YuvForm {
    int depth = 8;                  ///< bits of a sample, 8 to 16
    bool wide = true, tall = true;  ///< one colour difference for two columns, for two rows
    bool full_range = false;
    double kr = 0.2126, kb = 0.0722;  ///< shares of red and blue in luma
    /// Position of the first colour difference in pixels from the first luma sample: 0, or 1/2 when it lies between
    /// two.
    double right = 0, down = 0.5;
};

/// Luma, (B' - Y'), (R' - Y'); strides in bytes.
template <class Byte>
struct YuvPlanes {
    std::array<Byte*, 3> first{};
    std::array<std::ptrdiff_t, 3> stride{};
};

class YuvLight {
public:
    YuvLight(const YuvForm& form, const FilmLight& light, cv::Size size);
    /// `gain`: as in FilmLight::to_light().
    void to_light(const YuvPlanes<const std::uint8_t>& in, const Planes& gain, Planes& out) const;
    void to_numbers(const Planes& in, const YuvPlanes<std::uint8_t>& out) const;

private:
    void numbers_of_rows(const Planes& in, const YuvPlanes<std::uint8_t>& out, int first, int end) const;
    void light_of_rows(const YuvPlanes<const std::uint8_t>& in, const Planes& gain, Planes& out, int first,
                       int end) const;

    YuvForm form_;
    const FilmLight& light_;
    cv::Size size_, colours_;
    YuvMatrix matrix_{};
    YuvScale luma_, difference_;  ///< of the integers
    YuvScale luma_back_, difference_back_;
    std::array<float, 5> even_{}, odd_{};
    std::array<float, 4> halve_{};
};

}  // namespace optrel
