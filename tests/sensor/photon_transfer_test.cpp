// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/photon_transfer.h"

#include <catch2/catch.hpp>

#include "sensor/simulated_sensor.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

TransferPair pair_of(SimulatedSensor& sensor, const SensorTruth& truth, double level) {
    const RawPicture a = sensor.shot(level), b = sensor.shot(level * 1.002);
    TransferPair out;
    out.planes = pair_statistics(a, b, a.black);
    out.dark = level == 0;
    out.white = truth.white - truth.black;
    return out;
}

std::vector<TransferPair> pairs_of(SimulatedSensor& sensor, const SensorTruth& truth, std::vector<double> levels) {
    std::vector<TransferPair> out;
    for (const double level : levels) out.push_back(pair_of(sensor, truth, level));
    return out;
}

/// Errors in sigmas, over colours and seeds.
struct Pulls {
    std::vector<double> all;
    void add(const MeasuredFigure& f, double truth) { all.push_back((f.value - truth) / f.sigma); }
    double rms() const {
        double square = 0;
        for (const double p : all) square += p * p;
        return std::sqrt(square / static_cast<double>(all.size()));
    }
};

const std::vector<double> usual_levels{0, 0, 0.03, 0.1, 0.2, 0.4, 0.6};

}  // namespace

TEST_CASE("gain, read noise and fixed patterns are found, and their sigma holds", "[sensor]") {
    Pulls gain, read, prnu, dsnu;
    for (unsigned seed = 1; seed <= 8; ++seed) {
        SensorTruth truth;
        // Bodies at low and at high ISO.
        truth.gain = seed % 2 ? 2.5 : 0.2;
        SimulatedSensor sensor(truth, seed);
        for (const ColourNoise& c : photon_transfer(pairs_of(sensor, truth, usual_levels), 1, {})) {
            gain.add(c.gain, truth.gain);
            read.add(c.read_noise, truth.read_noise);
            prnu.add(c.prnu, 100 * truth.prnu);
            dsnu.add(c.dsnu, truth.dsnu);
            CHECK(std::abs(c.gain.value / truth.gain - 1) < 0.02);
            CHECK(std::abs(c.read_noise.value / truth.read_noise - 1) < 0.05);
            CHECK(c.full_well.value == Approx(c.gain.value * (truth.white - truth.black)));
            CHECK(c.dynamic_range_ev == Approx(std::log2(c.full_well.value / c.read_noise.value)));
            // Few electrons scatter more than a normal distribution.
            CHECK(c.chi_square > 0.9);
            CHECK(c.chi_square < (truth.gain > 1 ? 1.1 : 1.3));
        }
    }
    // 24 values each: an honest sigma leaves this range once in some thousand tests.
    for (const Pulls* p : {&gain, &read, &prnu, &dsnu}) {
        CHECK(p->rms() > 0.55);
        CHECK(p->rms() < 1.5);
    }
}

TEST_CASE("the noise of monochrome sensors and of 6 x 6 filters is found, and its sigma holds", "[sensor][layouts]") {
    for (const SampleLayout layout : {SampleLayout::monochrome, SampleLayout::six_by_six}) {
        INFO("layout " << static_cast<int>(layout));
        Pulls gain, read;
        for (unsigned seed = 1; seed <= 6; ++seed) {
            SensorTruth truth;
            truth.layout = layout;
            truth.width = 900;
            truth.height = 600;
            SimulatedSensor sensor(truth, seed);
            const std::array<ColourNoise, 3> noise = photon_transfer(pairs_of(sensor, truth, usual_levels), 1, {});
            for (const ColourNoise& c : noise) {
                gain.add(c.gain, truth.gain);
                read.add(c.read_noise, truth.read_noise);
                CHECK(std::abs(c.gain.value / truth.gain - 1) < 0.02);
                CHECK(std::abs(c.read_noise.value / truth.read_noise - 1) < 0.05);
                CHECK(std::abs(c.prnu.value - 100 * truth.prnu) < 0.05);
            }
            // All samples of a monochrome sensor are of one kind.
            if (layout == SampleLayout::monochrome) CHECK(noise[0].gain.value == noise[1].gain.value);
        }
        for (const Pulls* p : {&gain, &read}) {
            CHECK(p->rms() > 0.4);
            CHECK(p->rms() < 1.7);
        }
    }
}

TEST_CASE("a declared black level that is wrong, clipped blocks and a hot sample change nothing", "[sensor]") {
    const SensorTruth truth;
    SimulatedSensor sensor(truth, 4);
    std::vector<TransferPair> pairs = pairs_of(sensor, truth, usual_levels);
    const ColourNoise clean = photon_transfer(pairs, 1, {})[1];
    RawPicture a = sensor.shot(1.3), b = sensor.shot(1.3);
    TransferPair bright;
    bright.planes = pair_statistics(a, b, a.black);
    bright.white = truth.white - truth.black;
    CHECK(bright.planes[1].clipped > 0.9);
    pairs.push_back(bright);
    for (RawPicture* frame : {&a, &b}) *frame = sensor.shot(0);
    for (int i = 0; i < 40; ++i) a.counts(9 * i, 12 * i) = 9000;  // flicker of single samples
    TransferPair unstable;
    unstable.planes = pair_statistics(a, b, a.black);
    unstable.white = truth.white - truth.black;
    unstable.dark = true;
    pairs.push_back(unstable);
    const ColourNoise c = photon_transfer(pairs, 1, {})[1];
    CHECK(std::abs(c.gain.value - clean.gain.value) < clean.gain.sigma);
    CHECK(std::abs(c.read_noise.value - clean.read_noise.value) < 2 * clean.read_noise.sigma);
}

TEST_CASE("frames that cannot tell gain and read noise apart are refused", "[sensor]") {
    const SensorTruth truth;
    SimulatedSensor sensor(truth, 5);
    // Dark frames alone.
    CHECK(error_of([&] { photon_transfer(pairs_of(sensor, truth, {0, 0}), 1, {}); }) == "input");
    // All blocks clipped.
    CHECK(error_of([&] { photon_transfer(pairs_of(sensor, truth, {2.5}), 1, {}); }) == "input");
    const RawPicture a = sensor.shot(0.2);
    RawPicture b = a;
    b.counts = a.counts(cv::Rect(0, 0, 256, 256)).clone();
    CHECK(error_of([&] { pair_statistics(a, b, a.black); }) == "input");
    b = a;
    b.filter = {{{1, 0}, {2, 1}}};
    CHECK(error_of([&] { pair_statistics(a, b, a.black); }) == "input");
    RawPicture small = a;
    small.counts = a.counts(cv::Rect(0, 0, 40, 40)).clone();
    CHECK(error_of([&] { pair_statistics(small, small, a.black); }) == "input");
}

TEST_CASE("statistics of a block are those of its samples", "[sensor]") {
    RawPicture a, b;
    a.filter = b.filter = {{{0, 1}, {1, 2}}};
    a.white = b.white = 65535;
    a.counts.create(64, 64);
    b.counts.create(64, 64);
    std::mt19937 random(3);
    for (int i = 0; i < 64 * 64; ++i) {
        a.counts(i / 64, i % 64) = static_cast<std::uint16_t>(60000 + random() % 1000 + 20 * (i % 64));
        b.counts(i / 64, i % 64) = static_cast<std::uint16_t>(30000 + random() % 1000);
    }
    const PairPlane plane = pair_statistics(a, b, {{{100, 100}, {100, 100}}})[2];  // row 1, column 0
    REQUIRE(plane.across == 2);
    const PairBlock& block = plane.blocks[3];
    double sum_a = 0, sum_b = 0, difference = 0, square = 0;
    for (int j = 16; j < 32; ++j)
        for (int i = 16; i < 32; ++i) {
            const double va = a.counts(1 + 2 * j, 2 * i), vb = b.counts(1 + 2 * j, 2 * i);
            sum_a += va;
            sum_b += vb;
            difference += va - 2 * vb;
            square += (va - 2 * vb) * (va - 2 * vb);
        }
    CHECK(block.mean_a == Approx(sum_a / 256 - 100));
    CHECK(block.mean_b == Approx(sum_b / 256 - 100));
    CHECK(PairPlane::difference_variance(block, 2) ==
          Approx((square - difference * difference / 256) / 255).epsilon(1e-4));
}

TEST_CASE("counts that were multiplied leave values out", "[sensor]") {
    SensorTruth truth;
    truth.gain = 0.15;
    CHECK(value_step(SimulatedSensor(truth, 1).shot(0.05)) == 1);
    truth.multiplied = 4;
    CHECK(value_step(SimulatedSensor(truth, 1).shot(0.2)) == 4);
    truth.width = 64;
    truth.height = 64;
    CHECK(value_step(SimulatedSensor(truth, 1).shot(0.2)) == 0);
}

TEST_CASE("noise of rows is told apart from that of samples", "[sensor]") {
    SensorTruth truth;
    truth.row_noise = 1;
    SimulatedSensor sensor(truth, 2);
    const RawPicture a = sensor.shot(0), b = sensor.shot(0);
    const LineNoise lines = line_noise(a, b);
    CHECK(lines.row * truth.gain == Approx(1).epsilon(0.1));
    CHECK(lines.column * truth.gain < 0.1);
    const ColourNoise c = photon_transfer(pairs_of(sensor, truth, usual_levels), 1, lines)[1];
    CHECK(c.read_noise.value == Approx(truth.read_noise).epsilon(0.02));
    CHECK(c.row_noise == Approx(1).epsilon(0.1));
}
