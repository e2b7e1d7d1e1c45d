// SPDX-License-Identifier: GPL-3.0-or-later
// What is individual about a simulated sensor: uneven pixels, defects, dust, and how it amplifies.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include <opencv2/core.hpp>

namespace optrel::rig {

/// Properties of a sensor; all zero for one whose only noise is that of light and of reading it.
struct SensorTraits {
    double prnu = 0;            ///< share, one sigma of the response of a pixel
    double dsnu = 0;            ///< electrons, one sigma of what a pixel shows in the dark
    double row_noise = 0;       ///< electrons, one sigma that all samples of a row have in common
    double late_noise = 0;      ///< electrons at ISO 100, of noise that enters after the amplifier
    int digital_above_iso = 0;  ///< above it counts are only multiplied; 0: never
    double hot_per_million = 0;
    double hot_at_s = 0;  ///< exposure time at which hot pixels show their electrons; 0: at every time
    double unstable_per_million = 0, dead_per_million = 0;
    int bad_columns = 0;
    int dust_specks = 0;
    std::uint64_t seed = 0;  ///< which copy of the sensor it is
};

/// A pixel that shows electrons without light; an unstable one in about every second exposure.
struct HotPixel {
    int row, column;
    double electrons;
};
std::vector<HotPixel> hot_pixels(const SensorTraits& traits, int width, int height);
std::vector<HotPixel> unstable_pixels(const SensorTraits& traits, int width, int height);

/// A pixel that answers to light by this share only.
struct DeadPixel {
    int row, column;
    double response;
};
std::vector<DeadPixel> dead_pixels(const SensorTraits& traits, int width, int height);

/// A column that shows electrons without light, from a row down to the lower edge.
struct BadColumn {
    int column, first_row;
    double electrons;
};
std::vector<BadColumn> bad_columns(const SensorTraits& traits, int width, int height);

/// A speck that takes up to `depth` of the light; its shadow has a Gaussian profile of this radius (one sigma, px).
struct DustSpeck {
    cv::Vec2d place;
    double radius, depth;
};
std::vector<DustSpeck> dust_specks(const SensorTraits& traits, int width, int height);

/// Converts the light on each pixel to a count, with this sensor's noise and defects.
class Sensor {
public:
    struct Amplifier {
        double full_well, read_noise;  ///< electrons at ISO 100, and electrons
        double black, white;           ///< counts
        int iso;
        double exposure_s;  ///< 0: unknown, hot pixels show all their electrons
    };
    Sensor(const SensorTraits& traits, const Amplifier& amplifier, int width, int height, std::uint64_t exposure_seed);

    /// `value`: light as a share of the white level; `key`: seed of this pixel's noise.
    std::uint16_t count(int row, int column, double value, std::uint64_t key) const;

private:
    void add_electrons(int height);
    void dim(int height);

    SensorTraits traits_;
    Amplifier amplifier_;
    int width_;
    std::uint64_t exposure_seed_;
    double electrons_at_white_, multiplier_;
    std::vector<float> hot_;    ///< electrons, row by row; empty: none
    std::vector<float> light_;  ///< share of light that dust and dead pixels leave; empty: all
};

}  // namespace optrel::rig
