// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/sensor.h"

#include <algorithm>
#include <cmath>

#include "rig/random.h"

namespace optrel::rig {
namespace {

/// Fixed patterns depend on the copy of the sensor and on the pixel.
std::uint64_t pixel_key(const SensorTraits& traits, std::uint64_t pattern, std::uint64_t index) {
    return mix(mix(traits.seed ^ (pattern * 0x9e3779b97f4a7c15ull)) + index);
}

std::uint64_t index_of(int row, int column, int width) {
    return static_cast<std::uint64_t>(row) * static_cast<std::uint64_t>(width) + static_cast<std::uint64_t>(column);
}

enum Pattern : std::uint64_t { response = 1, offset, hot, dust, line, unstable, dead, column_defect };

struct Site {
    int row, column;
};

std::vector<Site> random_sites(double per_million, int width, int height, Stream& random) {
    std::vector<Site> out;
    for (int i = 0; i < static_cast<int>(std::lround(per_million * 1e-6 * width * height)); ++i) {
        const int row = static_cast<int>(random.between(0, height));
        out.push_back({row, static_cast<int>(random.between(0, width))});
    }
    return out;
}

}  // namespace

std::vector<HotPixel> hot_pixels(const SensorTraits& traits, int width, int height) {
    const double expected = traits.hot_per_million * 1e-6 * width * height;
    std::vector<HotPixel> out;
    Stream random(pixel_key(traits, hot, 0));
    for (int i = 0; i < static_cast<int>(std::lround(expected)); ++i) {
        const int row = static_cast<int>(random.between(0, height)),
                  column = static_cast<int>(random.between(0, width));
        // Few are very hot: the logarithm is even between 150 and 8000 electrons.
        out.push_back({row, column, 150 * std::pow(8000.0 / 150, random.next())});
    }
    return out;
}

std::vector<HotPixel> unstable_pixels(const SensorTraits& traits, int width, int height) {
    Stream random(pixel_key(traits, unstable, 0));
    std::vector<HotPixel> out;
    for (const Site& s : random_sites(traits.unstable_per_million, width, height, random))
        out.push_back({s.row, s.column, random.between(200, 600)});
    return out;
}

std::vector<DeadPixel> dead_pixels(const SensorTraits& traits, int width, int height) {
    Stream random(pixel_key(traits, dead, 0));
    std::vector<DeadPixel> out;
    for (const Site& s : random_sites(traits.dead_per_million, width, height, random))
        out.push_back({s.row, s.column, random.between(0, 0.5)});
    return out;
}

std::vector<BadColumn> bad_columns(const SensorTraits& traits, int width, int height) {
    Stream random(pixel_key(traits, column_defect, 0));
    std::vector<BadColumn> out;
    for (int i = 0; i < traits.bad_columns; ++i) {
        const int column = static_cast<int>(random.between(0.05, 0.95) * width);
        out.push_back({column, static_cast<int>(random.between(0, 0.5) * height), random.between(15, 60)});
    }
    return out;
}

std::vector<DustSpeck> dust_specks(const SensorTraits& traits, int width, int height) {
    std::vector<DustSpeck> out;
    Stream random(pixel_key(traits, dust, 0));
    for (int i = 0; i < traits.dust_specks; ++i) {
        const cv::Vec2d place(random.between(0.03, 0.97) * width, random.between(0.03, 0.97) * height);
        const double radius = random.between(0.0025, 0.008) * width;
        out.push_back({place, radius, random.between(0.03, 0.25)});
    }
    return out;
}

Sensor::Sensor(const SensorTraits& traits, const Amplifier& amplifier, int width, int height,
               std::uint64_t exposure_seed)
    : traits_(traits), amplifier_(amplifier), width_(width), exposure_seed_(exposure_seed) {
    const int analogue =
        traits.digital_above_iso > 0 ? std::min(amplifier.iso, traits.digital_above_iso) : amplifier.iso;
    electrons_at_white_ = amplifier.full_well * 100 / analogue;
    multiplier_ = static_cast<double>(amplifier.iso) / analogue;
    add_electrons(height);
    dim(height);
}

void Sensor::add_electrons(int height) {
    if (traits_.hot_per_million <= 0 && traits_.unstable_per_million <= 0 && traits_.bad_columns == 0) return;
    hot_.assign(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height), 0);
    const auto add = [&](int row, int column, double electrons) {
        hot_[index_of(row, column, width_)] += static_cast<float>(electrons);
    };
    const bool grows = traits_.hot_at_s > 0 && amplifier_.exposure_s > 0;
    const double share = grows ? amplifier_.exposure_s / traits_.hot_at_s : 1;
    for (const HotPixel& pixel : hot_pixels(traits_, width_, height))
        add(pixel.row, pixel.column, share * pixel.electrons);
    for (const HotPixel& pixel : unstable_pixels(traits_, width_, height)) {
        Stream random(mix(exposure_seed_ + pixel_key(traits_, unstable, index_of(pixel.row, pixel.column, width_))));
        if (random.next() < 0.5) add(pixel.row, pixel.column, pixel.electrons);
    }
    for (const BadColumn& bad : bad_columns(traits_, width_, height))
        for (int row = bad.first_row; row < height; ++row) add(row, bad.column, bad.electrons);
}

void Sensor::dim(int height) {
    if (traits_.dust_specks == 0 && traits_.dead_per_million <= 0) return;
    light_.assign(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height), 1);
    for (const DustSpeck& speck : dust_specks(traits_, width_, height)) {
        const int reach = static_cast<int>(4 * speck.radius);
        for (int row = std::max(0, static_cast<int>(speck.place[1]) - reach);
             row < std::min(height, static_cast<int>(speck.place[1]) + reach); ++row)
            for (int column = std::max(0, static_cast<int>(speck.place[0]) - reach);
                 column < std::min(width_, static_cast<int>(speck.place[0]) + reach); ++column) {
                const double away = cv::norm(cv::Vec2d(column + 0.5, row + 0.5) - speck.place) / speck.radius;
                light_[index_of(row, column, width_)] *=
                    static_cast<float>(1 - speck.depth * std::exp(-0.5 * away * away));
            }
    }
    for (const DeadPixel& pixel : dead_pixels(traits_, width_, height))
        light_[index_of(pixel.row, pixel.column, width_)] *= static_cast<float>(pixel.response);
}

std::uint16_t Sensor::count(int row, int column, double value, std::uint64_t key) const {
    const std::uint64_t index = index_of(row, column, width_);
    // At digital ISO the same light is a smaller share of what the amplifier can take.
    double mean = std::max(0.0, value) / multiplier_ * electrons_at_white_;
    if (!light_.empty()) mean *= light_[index];
    if (traits_.prnu > 0) mean *= std::max(0.0, 1 + traits_.prnu * normal(pixel_key(traits_, response, index)));
    if (!hot_.empty()) mean += hot_[index];
    double variance = mean + amplifier_.read_noise * amplifier_.read_noise;
    if (traits_.late_noise > 0) {
        const double late = traits_.late_noise * electrons_at_white_ / amplifier_.full_well;
        variance += late * late;
    }
    double electrons = mean + std::sqrt(variance) * normal(key);
    if (traits_.dsnu > 0) electrons += traits_.dsnu * normal(pixel_key(traits_, offset, index));
    if (traits_.row_noise > 0)
        electrons +=
            traits_.row_noise * normal(mix(exposure_seed_ * 0x100000001ull + line) + static_cast<std::uint64_t>(row));
    const double range = amplifier_.white - amplifier_.black;
    double counts = amplifier_.black + electrons / electrons_at_white_ * range;
    if (multiplier_ > 1) counts = amplifier_.black + std::round(counts - amplifier_.black) * multiplier_;
    return static_cast<std::uint16_t>(std::clamp(std::lround(counts), 0l, static_cast<long>(amplifier_.white)));
}

}  // namespace optrel::rig
