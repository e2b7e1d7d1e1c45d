// SPDX-License-Identifier: GPL-3.0-or-later
// How well noise is reduced, as the table of docs/accuracy.md: the rig photographs a specimen sheet at several ISO
// settings; the truth is the same photograph without noise, interpolated in the same way. Beside Optrel stand soft
// thresholds on the same wavelets (its method before) and the non-local means of OpenCV. Methods are compared at the
// strength that gives each its best PSNR, and at the texture that Optrel keeps at its best. An ISO as argument: that
// one alone, without non-local means.
#include <fmt/format.h>

#include <chrono>
#include <functional>
#include <opencv2/imgproc.hpp>
#include <opencv2/photo.hpp>

#include "render/colour.h"
#include "render/demosaic.h"
#include "render/noise_reduction.h"
#include "rig/camera.h"

namespace optrel::bench {
namespace {

rig::Body body() {
    rig::Body b;
    b.width = 1848;
    b.height = 1232;
    b.xyz_to_camera = cv::Matx33d(0.7435, -0.2411, -0.0689, -0.4632, 1.2417, 0.2482, -0.0713, 0.1514, 0.642);
    return b;
}

Planes photograph(int iso, bool noisy) {
    rig::Body b = body();
    if (!noisy) {
        b.full_well = 1e12;
        b.read_noise = 0;
    }
    rig::Lens l;
    l.focal_mm = 35.4;
    l.cosine_power = 0;
    rig::Exposure exposure;
    exposure.iso = noisy ? iso : 100;
    exposure.level = 0.8;
    exposure.seed = 5;
    rig::Placement placement;
    placement.rotation_degrees = {0, 0, 4};
    placement.translation_mm = {0, 0, 900};
    const RawPicture raw = rig::photograph(b, l, exposure, rig::SpecimenScene(7), placement, Progress());
    return demosaic(linear_mosaic(raw, raw.counts, white_balance_multipliers(raw.as_shot_neutral), nullptr),
                    raw.filter);
}

Planes copy_of(const Planes& planes) {
    Planes out;
    for (int c = 0; c < 3; ++c) out.channel[c] = planes.channel[c].clone();
    return out;
}

cv::Mat1f luminance(const Planes& p) { return 0.25f * (p.channel[0] + 2 * p.channel[1] + p.channel[2]); }

// The method before: soft thresholds, with the same noise model.

cv::Mat1f smoothed(const cv::Mat1f& in, int scale) {
    const int hole = 1 << scale;
    cv::Mat1f kernel = cv::Mat1f::zeros(1, 4 * hole + 1), out;
    const float taps[] = {0.0625f, 0.25f, 0.375f, 0.25f, 0.0625f};
    for (int k = 0; k < 5; ++k) kernel(0, k * hole) = taps[k];
    cv::sepFilter2D(in, out, CV_32F, kernel, kernel, {-1, -1}, 0, cv::BORDER_REFLECT_101);
    return out;
}

void soft(cv::Mat1f& plane, const cv::Mat1f& signal, double factor, int scales) {
    cv::Mat1f rest = plane.clone(), sum = cv::Mat1f::zeros(plane.size());
    NoiseModel noise;
    for (int scale = 0; scale < scales; ++scale) {
        const cv::Mat1f low = smoothed(rest, scale);
        const cv::Mat1f detail = rest - low;
        NoiseModel own = noise_of_difference(detail, signal);
        if (scale >= 2) own = {std::min(own.a, 0.36 * noise.a), std::min(own.b, 0.36 * noise.b)};
        noise = own;
        for (int row = 0; row < plane.rows; ++row)
            for (int i = 0; i < plane.cols; ++i) {
                const float t = static_cast<float>(factor * noise.sigma(signal(row, i))), d = detail(row, i);
                sum(row, i) += std::copysign(std::max(0.f, std::abs(d) - t), d);
            }
        rest = low;
    }
    plane = sum + rest;
}

void by_soft_thresholds(Planes& p, double strength) {
    cv::Mat1f y = luminance(p), red = p.channel[0] - p.channel[1], blue = p.channel[2] - p.channel[1];
    const cv::Mat1f signal = smoothed(y, 1);
    soft(y, signal, strength / 40, 3);
    soft(red, signal, strength / 20, 4);
    soft(blue, signal, strength / 20, 4);
    p.channel[1] = y - 0.25f * (red + blue);
    p.channel[0] = p.channel[1] + red;
    p.channel[2] = p.channel[1] + blue;
}

void by_optrel(Planes& p, double strength) { reduce_noise(p, strength, strength, nullptr, Progress()); }

/// Non-local means on square roots, which make the noise even, of 16 bits.
void by_non_local_means(Planes& p, double strength) {
    for (cv::Mat1f& plane : p.channel) {
        cv::Mat1f root;
        cv::sqrt(cv::max(plane, 0.f), root);
        cv::Mat1w in, out;
        root.convertTo(in, CV_16U, 40000);
        cv::fastNlMeansDenoising(in, out, {static_cast<float>(strength * 40)}, 5, 15, cv::NORM_L1);
        out.convertTo(root, CV_32F, 1 / 40000.0);
        plane = root.mul(root);
    }
}

struct Result {
    double strength, psnr, texture, blotches;
};

/// PSNR over all channels; the share of fine luminance detail that is left; RMS error of colour below 1/16 cycles per
/// px, percent of white.
Result judged(const Planes& p, const Planes& truth, double strength) {
    const cv::Rect inner(32, 32, p.size().width - 64, p.size().height - 64);
    double square = 0;
    for (int c = 0; c < 3; ++c) {
        const double d = cv::norm(p.channel[c](inner), truth.channel[c](inner), cv::NORM_L2);
        square += d * d;
    }
    const auto detail = [&](const Planes& of) {
        const cv::Mat1f y = luminance(of);
        cv::Mat1f low;
        cv::GaussianBlur(y, low, {0, 0}, 2);
        return cv::Mat1f((y - low)(inner));
    };
    const cv::Mat1f wanted = detail(truth), found = detail(p);
    double blotches = 0;
    for (const int c : {0, 2}) {
        cv::Mat1f error = (p.channel[c] - p.channel[1]) - (truth.channel[c] - truth.channel[1]), low;
        cv::GaussianBlur(error, low, {0, 0}, 5);
        const double d = cv::norm(low(inner), cv::NORM_L2);
        blotches += d * d;
    }
    const double n = inner.area();
    return {strength, 10 * std::log10(3 * n / square), wanted.dot(found) / wanted.dot(wanted),
            100 * std::sqrt(blotches / (2 * n))};
}

using Method = std::function<void(Planes&, double)>;

std::vector<Result> over_strengths(const Planes& noisy, const Planes& truth, const Method& method, double& seconds) {
    std::vector<Result> out;
    for (const double strength : {5., 10., 15., 20., 25., 30., 40., 50., 60., 80., 100.}) {
        Planes p = copy_of(noisy);
        const auto began = std::chrono::steady_clock::now();
        method(p, strength);
        seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
        out.push_back(judged(p, truth, strength));
    }
    return out;
}

const Result& best_of(const std::vector<Result>& results) {
    return *std::max_element(results.begin(), results.end(),
                             [](const Result& a, const Result& b) { return a.psnr < b.psnr; });
}

/// PSNR where the texture is this, between two strengths.
double at_texture(const std::vector<Result>& results, double texture) {
    for (std::size_t i = 1; i < results.size(); ++i)
        if (results[i].texture <= texture && results[i - 1].texture >= texture) {
            const double t =
                (results[i - 1].texture - texture) / std::max(1e-9, results[i - 1].texture - results[i].texture);
            return results[i - 1].psnr + t * (results[i].psnr - results[i - 1].psnr);
        }
    return results.back().texture > texture ? results.back().psnr : results.front().psnr;
}

int run(int only) {
    fmt::print(
        "| ISO | method | strength | PSNR, dB | PSNR at Optrel's texture | texture, % | blotches, % | s/24 MP |\n");
    fmt::print("|---|---|---|---|---|---|---|---|\n");
    const Planes truth = photograph(100, false);
    for (const int iso : (only ? std::vector<int>{only} : std::vector<int>{100, 800, 6400, 51200})) {
        const Planes noisy = photograph(iso, true);
        const Result none = judged(noisy, truth, 0);
        fmt::print("| {} | none | | {:.2f} | | {:.0f} | {:.3f} | |\n", iso, none.psnr, 100 * none.texture,
                   none.blotches);
        double reference = 0;
        for (const auto& [name, method] : {std::pair<const char*, Method>("Optrel", by_optrel),
                                           {"soft thresholds", by_soft_thresholds},
                                           {"non-local means", by_non_local_means}}) {
            if (only && name[0] == 'n') continue;  // slow
            double seconds = 0;
            const std::vector<Result> results = over_strengths(noisy, truth, method, seconds);
            const Result& best = best_of(results);
            if (reference == 0) reference = best.texture;
            fmt::print("| {} | {} | {:g} | {:.2f} | {:.2f} | {:.0f} | {:.3f} | {:.2f} |\n", iso, name, best.strength,
                       best.psnr, at_texture(results, reference), 100 * best.texture, best.blotches,
                       seconds * 24e6 / (1848.0 * 1232));
        }
    }
    return 0;
}

}  // namespace
}  // namespace optrel::bench

int main(int n, char** v) { return optrel::bench::run(n > 1 ? std::atoi(v[1]) : 0); }
