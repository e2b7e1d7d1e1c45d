// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/stages.h"

#include <algorithm>
#include <vector>

#include "render/colour.h"
#include "render/hot_pixels.h"
#include "render/sharpen.h"
#include "render/strips.h"

namespace optrel {

cv::Mat1w counts_for(const RawPicture& raw, const ResolvedFrame& f) {
    const bool repairs = is_on(f, Field::hot_pixel_repair) && raw.layout != SampleLayout::interpolated;
    return repairs ? without_hot_pixels(raw) : raw.counts;
}

Planes planes_of(const cv::Mat3f& linear) {
    Planes out;
    for (int c = 0; c < 3; ++c) cv::extractChannel(linear, out.channel[c], c);
    return out;
}

bool treats_noise(const ResolvedFrame& f) {
    return !is_on(f, Field::noise_elsewhere) &&
           (number_of(f, Field::luminance_noise) > 0 || number_of(f, Field::colour_noise) > 0);
}

void treat_noise(Planes& planes, const ResolvedFrame& f, const KnownNoise* known, const Progress& progress) {
    if (!treats_noise(f)) return;
    reduce_noise(planes, number_of(f, Field::luminance_noise), number_of(f, Field::colour_noise), known, progress);
}

DefringingSettings defringing_settings(const ResolvedFrame& f) {
    return {number_of(f, Field::fringe_suppression), fringe_hues(f[Field::fringe_hues].value.text),
            f[Field::fringe_edges].value.text == "bright edges"};
}

void sharpen_by(Planes& planes, const ResolvedFrame& f, const std::vector<float>* noise) {
    Sharpening s{number_of(f, Field::sharpening_amount),
                 number_of(f, Field::sharpening_radius),
                 number_of(f, Field::sharpening_threshold),
                 {}};
    const float sigmas = static_cast<float>(number_of(f, Field::sharpening_sigmas));
    if (noise && sigmas > 0)
        for (const float sigma : *noise) s.threshold_at.push_back(sigmas * sigma);
    sharpen(planes, s);
}

int reach_of_finish(const ResolvedFrame& f) {
    const int fringes = defringing_settings(f).any() ? defringing_reach : 0;
    return fringes +
           (number_of(f, Field::sharpening_amount) > 0 ? sharpening_reach(number_of(f, Field::sharpening_radius)) : 0);
}

namespace {

/// Created once, because displays request one many times a second.
const LightEncoder& encoder_of(ColourSpace space) {
    static const std::vector<LightEncoder> encoders = [] {
        std::vector<LightEncoder> all;
        for (int i = 0; i < colour_space_count; ++i) all.emplace_back(static_cast<ColourSpace>(i));
        return all;
    }();
    return encoders[static_cast<std::size_t>(space)];
}

}  // namespace

cv::Mat3w encoded(const Planes& planes, ColourSpace space) {
    cv::Mat3w out(planes.size());
    encode_into(planes, space, out);
    return out;
}

void encode_with(const Planes& planes, const cv::Matx33f& m, const EncodingTables* tables, cv::Mat3w out) {
    const bool moves = m != cv::Matx33f::eye();
    const LightEncoder& straight = encoder_of(ColourSpace::linear);
    for_strips(out.rows, [&](int first, int end) {
        std::array<std::vector<float>, 3> moved;
        if (moves)
            for (std::vector<float>& line : moved) line.resize(out.cols);
        for (int row = first; row < end; ++row) {
            const float* in[3];
            for (int c = 0; c < 3; ++c) in[c] = planes.channel[c].ptr<float>(row);
            if (moves) {
                for (int i = 0; i < out.cols; ++i) {
                    const cv::Vec3f v = m * cv::Vec3f(in[0][i], in[1][i], in[2][i]);
                    for (int c = 0; c < 3; ++c) moved[c][i] = v[c];
                }
                for (int c = 0; c < 3; ++c) in[c] = moved[c].data();
            }
            cv::Vec3w* to = out.ptr<cv::Vec3w>(row);
            if (tables)
                encode_row(in[0], in[1], in[2], *tables, out.cols, reinterpret_cast<std::uint16_t*>(to));
            else
                for (int i = 0; i < out.cols; ++i) to[i] = {straight(in[0][i]), straight(in[1][i]), straight(in[2][i])};
        }
    });
}

void encode_into(const Planes& planes, ColourSpace space, cv::Mat3w out) {
    const LightEncoder& encoder = encoder_of(space);
    const EncodingTables tables{{encoder.table(), encoder.table(), encoder.table()}, LightEncoder::entries};
    encode_with(planes, srgb_to(space), encoder.straight() ? nullptr : &tables, out);
}

}  // namespace optrel
