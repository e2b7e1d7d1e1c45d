// SPDX-License-Identifier: GPL-3.0-or-later
// The rig's sensors are what they say, measured by plain statistics.
#include "rig/sensor.h"

#include <catch2/catch.hpp>
#include <cmath>

#include "rig/random.h"

using namespace optrel::rig;

namespace {

constexpr int width = 600, height = 400;

struct Statistics {
    double mean, sigma;
};

/// One exposure of even light.
std::vector<double> exposed(const SensorTraits& traits, int iso, double value, std::uint64_t seed) {
    const Sensor sensor(traits, {40000, 3, 1000, 41000, iso}, width, height, seed);
    std::vector<double> out;
    for (int row = 0; row < height; ++row)
        for (int column = 0; column < width; ++column)
            out.push_back(sensor.count(row, column, value,
                                       mix(seed * 0x100000001ull + static_cast<std::uint64_t>(row * width + column))));
    return out;
}

Statistics statistics(const std::vector<double>& values) {
    double sum = 0, square = 0;
    for (const double v : values) sum += v;
    const double n = static_cast<double>(values.size()), mean = sum / n;
    for (const double v : values) square += (v - mean) * (v - mean);
    return {mean, std::sqrt(square / (n - 1))};
}

std::vector<double> difference(std::vector<double> a, const std::vector<double>& b) {
    for (std::size_t i = 0; i < a.size(); ++i) a[i] -= b[i];
    return a;
}

/// Covariance of two exposures: what is fixed.
double fixed(const std::vector<double>& a, const std::vector<double>& b) {
    const Statistics sa = statistics(a), sb = statistics(b);
    double sum = 0;
    for (std::size_t i = 0; i < a.size(); ++i) sum += (a[i] - sa.mean) * (b[i] - sb.mean);
    return std::sqrt(sum / static_cast<double>(a.size()));
}

}  // namespace

TEST_CASE("a sensor's fixed patterns are fixed and of their size", "[rig][sensor]") {
    SensorTraits traits;
    traits.prnu = 0.02;
    traits.dsnu = 6;
    traits.seed = 5;
    // One electron is one count at ISO 100.
    CHECK(fixed(exposed(traits, 100, 0.5, 1), exposed(traits, 100, 0.5, 2)) == Approx(20000 * 0.02).epsilon(0.02));
    CHECK(fixed(exposed(traits, 100, 0, 1), exposed(traits, 100, 0, 2)) == Approx(6).epsilon(0.05));
    SensorTraits other = traits;
    other.seed = 6;
    const std::vector<double> a = exposed(traits, 100, 0.5, 1), b = exposed(other, 100, 0.5, 2);
    CHECK(statistics(difference(a, b)).sigma == Approx(std::sqrt(2.0) * statistics(a).sigma).epsilon(0.02));
}

TEST_CASE("a sensor's noise is that of light, reading and amplifying", "[rig][sensor]") {
    SensorTraits traits;
    traits.late_noise = 12;
    for (const int iso : {100, 400}) {
        const double gain = iso / 100.0;
        const double read = std::hypot(3.0, 12 / gain) * gain;
        const auto dark = difference(exposed(traits, iso, 0, 1), exposed(traits, iso, 0, 2));
        CHECK(statistics(dark).sigma / std::sqrt(2.0) == Approx(read).epsilon(0.02));
        const auto light = difference(exposed(traits, iso, 0.5, 1), exposed(traits, iso, 0.5, 2));
        CHECK(statistics(light).sigma / std::sqrt(2.0) ==
              Approx(std::hypot(read, std::sqrt(20000 / gain) * gain)).epsilon(0.02));
    }
}

TEST_CASE("above its digital ISO a sensor only multiplies", "[rig][sensor]") {
    SensorTraits traits;
    traits.digital_above_iso = 400;
    for (const double count : exposed(traits, 1600, 0.3, 1)) CHECK(std::fmod(count - 1000, 4) == 0);
    CHECK(statistics(exposed(traits, 1600, 0.3, 1)).mean == Approx(1000 + 0.3 * 40000).epsilon(0.002));
}

TEST_CASE("rows, hot pixels and dust are where the truth says", "[rig][sensor]") {
    SensorTraits traits;
    traits.row_noise = 5;
    const std::vector<double> dark = exposed(traits, 100, 0, 1);
    std::vector<double> rows;
    for (int row = 0; row < height; ++row) {
        double sum = 0;
        for (int column = 0; column < width; ++column) sum += dark[static_cast<std::size_t>(row * width + column)];
        rows.push_back(sum / width);
    }
    CHECK(statistics(rows).sigma == Approx(5).epsilon(0.15));
    traits = {};
    traits.hot_per_million = 100;
    const std::vector<HotPixel> hot = hot_pixels(traits, width, height);
    CHECK(hot.size() == 24);
    const std::vector<double> with_hot = exposed(traits, 100, 0, 1);
    for (const HotPixel& p : hot)
        CHECK(with_hot[static_cast<std::size_t>(p.row * width + p.column)] > 1000 + 0.7 * p.electrons);
    traits = {};
    traits.dust_specks = 3;
    const std::vector<double> dusty = exposed(traits, 100, 0.5, 1);
    for (const DustSpeck& d : dust_specks(traits, width, height)) {
        const int column = static_cast<int>(d.place[0]), row = static_cast<int>(d.place[1]);
        double sum = 0;
        for (int k = -1; k <= 1; ++k) sum += dusty[static_cast<std::size_t>(row * width + column + k)] / 3;
        CHECK(sum < 1000 + 20000 * (1 - 0.7 * d.depth));
    }
}
