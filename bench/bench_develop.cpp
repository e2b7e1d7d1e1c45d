// SPDX-License-Identifier: GPL-3.0-or-later
// Development and correction of a 24-megapixel raw frame, with nothing and with everything pinned, beside OpenCV's own
// edge-aware demosaicing of the same mosaic (a small part of the work) as a yardstick of the machine.
#include <benchmark/benchmark.h>

#include <opencv2/imgproc.hpp>

#include "frames/colour_profile.h"
#include "patches/colour_writer.h"
#include "render/colour.h"
#include "render/develop.h"
#include "render/prepared_frame.h"
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

/// Patches of colour with photon noise, like a real frame; counts that are all random are the worst case for tables.
const RawPicture& patches_24mp() {
    static const RawPicture raw = [] {
        RawPicture r = raw_24mp();
        cv::Mat3f patches(20, 30);
        cv::RNG random(12);
        random.fill(patches, cv::RNG::UNIFORM, 1000, 40000);
        r.counts = r.counts.clone();
        for (int row = 0; row < r.counts.rows; ++row)
            for (int column = 0; column < r.counts.cols; ++column) {
                const cv::Vec3f& colour =
                    patches(row * patches.rows / r.counts.rows, column * patches.cols / r.counts.cols);
                const float light = colour[r.filter.at(row, column)];
                r.counts(row, column) =
                    static_cast<ushort>(r.black.at(row, column) + light + random.gaussian(std::sqrt(light) * 3));
            }
        return r;
    }();
    return raw;
}

void develop_with(benchmark::State& state, bool everything, const RawPicture& raw = raw_24mp()) {
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
    for (auto _ : state) benchmark::DoNotOptimize(develop(raw, geometry_24mp().pitch_um, fields, profile, Progress()));
}
void develop_neutral(benchmark::State& state) { develop_with(state, false); }
void develop_everything(benchmark::State& state) { develop_with(state, true); }

/// Colours from a file that bodies get to render alike: a matrix, or a form beyond a matrix; as an ICC profile, or as
/// one of the DNG specification.
enum class ColourFileKind { icc_matrix, icc_table, dng_table };
void develop_with_colour_file(benchmark::State& state, ColourFileKind kind, const RawPicture& raw = raw_24mp()) {
    Eigen::MatrixXd weights(3, kind == ColourFileKind::icc_matrix ? 3 : 6);
    const cv::Matx33d linear = xyz_d50_to_romm().inv();
    for (int r = 0; r < 3; ++r) {
        for (int c = 0; c < 3; ++c) weights(r, c) = linear(r, c);
        for (int c = 3; c < weights.cols(); ++c) {
            weights(r, c) = 0.02;
            weights(r, c - 3) -= 0.02;
        }
    }
    FittedLight light;
    light.fit.form = ColourForm(
        kind == ColourFileKind::icc_matrix ? ColourForm::Kind::matrix : ColourForm::Kind::root_polynomial, weights);
    light.fit.neutral = {0.47, 1, 0.61};
    light.kelvin = 5500;
    light.white = {0.3324, 0.3474};
    const ColourFileText text{"bench", "", "free"};
    const std::string bytes = kind == ColourFileKind::dng_table ? dng_profile_of({light}, text) : icc_of(light, text);
    ResolvedFrame fields = neutral_start();
    fields.colour_file = std::make_shared<const ColourProfile>(colour_profile_from(bytes, "the colour file"));
    fields.fields[static_cast<int>(Field::colour_source)].value = value_of_colour_file("bench", "00");
    const AppliedProfile profile{sample_node(), geometry_24mp()};
    for (auto _ : state) benchmark::DoNotOptimize(develop(raw, geometry_24mp().pitch_um, fields, profile, Progress()));
}
void develop_icc_matrix(benchmark::State& state) { develop_with_colour_file(state, ColourFileKind::icc_matrix); }
void develop_icc_table(benchmark::State& state) { develop_with_colour_file(state, ColourFileKind::icc_table); }
void develop_dng_table(benchmark::State& state) { develop_with_colour_file(state, ColourFileKind::dng_table); }
void develop_patches(benchmark::State& state) { develop_with(state, false, patches_24mp()); }
void develop_patches_dng_table(benchmark::State& state) {
    develop_with_colour_file(state, ColourFileKind::dng_table, patches_24mp());
}

/// Everything by hand that moves places, with a border that is filled.
ResolvedFrame by_hand() {
    ResolvedFrame fields = neutral_start();
    for (const auto& [field, value] : {std::pair{Field::roll, 2.0},
                                       {Field::pitch, 4.0},
                                       {Field::hand_distortion, -0.5},
                                       {Field::red_at_corner, 1.0},
                                       {Field::corner_light, 0.5}})
        fields.fields[static_cast<int>(field)].value.number = value;
    fields.fields[static_cast<int>(Field::border)].value.text = "fill";
    return fields;
}

const CaptureGeometry& taken() {
    static const CaptureGeometry with{geometry_24mp().pitch_um, 35, 1};
    return with;
}

Sampling at_fit() {
    const double step = geometry_24mp().width / 1100.0;
    return {0, 0, step, cv::Size(1100, static_cast<int>(geometry_24mp().height / step))};
}

/// The first picture of a frame whose counts are there.
void look_first(benchmark::State& state) {
    const AppliedProfile profile{sample_node(), geometry_24mp()};
    for (auto _ : state) {
        const PreparedFrame frame(raw_24mp(), taken());
        benchmark::DoNotOptimize(frame.look(by_hand(), profile, at_fit(), Progress()));
    }
}

/// A field changes: the picture again.
void look_again(benchmark::State& state) {
    const AppliedProfile profile{sample_node(), geometry_24mp()};
    const PreparedFrame frame(raw_24mp(), taken());
    frame.look(by_hand(), profile, at_fit(), Progress());
    for (auto _ : state) benchmark::DoNotOptimize(frame.look(by_hand(), profile, at_fit(), Progress()));
}

/// What a window of 1280 by 800 sees at 100 percent.
void look_at_full_size(benchmark::State& state) {
    const AppliedProfile profile{sample_node(), geometry_24mp()};
    const PreparedFrame frame(raw_24mp(), taken());
    for (auto _ : state)
        benchmark::DoNotOptimize(frame.look(by_hand(), profile, {4800, 3200, 1, cv::Size(840, 620)}, Progress()));
}

void demosaic_reference(benchmark::State& state) {
    for (auto _ : state) {
        cv::Mat out;
        cv::demosaicing(raw_24mp().counts, out, cv::COLOR_BayerBG2BGR_EA);
        benchmark::DoNotOptimize(out);
    }
}

BENCHMARK(look_first)->Name("look_24mp/first_at_fit")->Iterations(5)->UseRealTime()->Unit(benchmark::kMillisecond);
BENCHMARK(look_again)->Name("look_24mp/again_at_fit")->Iterations(20)->UseRealTime()->Unit(benchmark::kMillisecond);
BENCHMARK(look_at_full_size)
    ->Name("look_24mp/part_at_100_percent")
    ->Iterations(10)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK(develop_neutral)->Name("develop_24mp/optrel")->Iterations(3)->UseRealTime()->Unit(benchmark::kMillisecond);
BENCHMARK(develop_icc_matrix)
    ->Name("develop_24mp/optrel_icc_matrix")
    ->Iterations(3)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK(develop_icc_table)
    ->Name("develop_24mp/optrel_icc_table")
    ->Iterations(3)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK(develop_dng_table)
    ->Name("develop_24mp/optrel_dng_table")
    ->Iterations(3)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK(develop_patches)
    ->Name("develop_24mp_patches/optrel")
    ->Iterations(3)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK(develop_patches_dng_table)
    ->Name("develop_24mp_patches/optrel_dng_table")
    ->Iterations(3)
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);
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
