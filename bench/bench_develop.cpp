// SPDX-License-Identifier: GPL-3.0-or-later
// Development and correction of a 24-megapixel raw frame, with nothing and with everything pinned, beside OpenCV's own
// edge-aware demosaicing of the same mosaic (a small part of the work) as a yardstick of the machine.
#include <benchmark/benchmark.h>

#include <opencv2/imgproc.hpp>

#include "render/develop.h"
#include "sample_lens.h"

namespace optrel::bench {
namespace {

const RawPicture& raw_24mp() {
    static const RawPicture raw = [] {
        RawPicture r;
        r.counts.create(geometry_24mp().height, geometry_24mp().width);
        cv::RNG random(11);
        random.fill(r.counts, cv::RNG::UNIFORM, 3000, 40000);
        r.filter = {{{0, 1}, {1, 2}}};
        r.black = {{{2048, 2048}, {2048, 2048}}};
        r.white = 63000;
        r.xyz_to_camera = cv::Matx33d(0.74, -0.24, -0.07, -0.46, 1.24, 0.25, -0.07, 0.15, 0.64);
        r.as_shot_neutral = {0.47, 1, 0.61};
        return r;
    }();
    return raw;
}

void develop_with(benchmark::State& state, bool everything) {
    ResolvedFrame fields = neutral_start();
    if (everything)
        for (const auto& [field, value] : {std::pair{Field::sharpening_amount, 60.0},
                                           {Field::luminance_noise, 30.0},
                                           {Field::colour_noise, 40.0},
                                           {Field::contrast, 10.0},
                                           {Field::saturation, 5.0},
                                           {Field::exposure, 0.3}})
            fields.fields[static_cast<int>(field)].value.number = value;
    const AppliedProfile profile{sample_node(), geometry_24mp()};
    for (auto _ : state)
        benchmark::DoNotOptimize(develop(raw_24mp(), geometry_24mp().pitch_um, fields, profile, Progress()));
}
void develop_neutral(benchmark::State& state) { develop_with(state, false); }
void develop_everything(benchmark::State& state) { develop_with(state, true); }

void demosaic_reference(benchmark::State& state) {
    for (auto _ : state) {
        cv::Mat out;
        cv::demosaicing(raw_24mp().counts, out, cv::COLOR_BayerBG2BGR_EA);
        benchmark::DoNotOptimize(out);
    }
}

BENCHMARK(develop_neutral)->Name("develop_24mp/optrel")->Iterations(3)->UseRealTime()->Unit(benchmark::kMillisecond);
BENCHMARK(develop_everything)
    ->Name("develop_24mp/optrel_everything_pinned")
    ->Iterations(2)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK(demosaic_reference)
    ->Name("develop_24mp/opencv_demosaic_only")
    ->Iterations(3)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);

}  // namespace
}  // namespace optrel::bench
