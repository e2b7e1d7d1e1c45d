// SPDX-License-Identifier: GPL-3.0-or-later
// What measuring a body costs for each frame of 24 megapixels, beside a plain mean and variance of the same samples.
#include <benchmark/benchmark.h>

#include <random>

#include "sensor/fingerprint.h"
#include "sensor/pair_statistics.h"

namespace optrel::bench {
namespace {

RawPicture flat(unsigned seed) {
    RawPicture raw;
    raw.counts = cv::Mat1w(4000, 6000);
    raw.filter = {{{0, 1}, {1, 2}}};
    raw.black = {{{512, 512}, {512, 512}}};
    raw.white = 16383;
    std::mt19937 random(seed);
    for (int y = 0; y < raw.counts.rows; ++y)
        for (int x = 0; x < raw.counts.cols; ++x) raw.counts(y, x) = static_cast<std::uint16_t>(6000 + random() % 256);
    return raw;
}

void mean_and_variance(benchmark::State& state) {
    const RawPicture a = flat(1);
    cv::Scalar mean, deviation;
    for (auto _ : state) {
        cv::meanStdDev(a.counts, mean, deviation);
        benchmark::DoNotOptimize(deviation);
    }
}
void statistics_of_a_pair(benchmark::State& state) {
    const RawPicture a = flat(1), b = flat(2);
    for (auto _ : state) benchmark::DoNotOptimize(pair_statistics(a, b, a.black));
}
void frame_against_thirty_fingerprints(benchmark::State& state) {
    FingerprintLearner learner;
    RawPicture base = flat(1);
    // One pattern beneath four frames, so that their halves agree.
    for (unsigned k = 2; k < 6; ++k) {
        RawPicture frame = flat(k);
        frame.counts = frame.counts / 4 + base.counts;
        learner.add(frame, "flat");
    }
    const Fingerprint print = learner.finished();
    for (auto _ : state) {
        const FingerprintQuery query(base, "frame");
        double sum = 0;
        for (int i = 0; i < 30; ++i) sum += query.z(print);
        benchmark::DoNotOptimize(sum);
    }
}
BENCHMARK(mean_and_variance)->Unit(benchmark::kMillisecond);
BENCHMARK(statistics_of_a_pair)->Unit(benchmark::kMillisecond);
BENCHMARK(frame_against_thirty_fingerprints)->Unit(benchmark::kMillisecond);

}  // namespace
}  // namespace optrel::bench
