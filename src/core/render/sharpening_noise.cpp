// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/sharpening_noise.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "render/body_noise.h"
#include "render/field_values.h"
#include "render/recent_results.h"
#include "render/sharpen.h"
#include "render/stages.h"

namespace optrel {
namespace {

constexpr std::size_t entries = 65;

/// Sigma in bins of brightness; bins without samples take the value of their neighbour.
std::vector<float> sigma_by_brightness(const SharpeningDetail& detail) {
    std::vector<std::vector<float>> sizes(entries);
    for (int row = 4; row < detail.grey.rows - 4; ++row)
        for (int i = 4; i < detail.grey.cols - 4; ++i) {
            const float soft = std::clamp(detail.blurred(row, i), 0.f, 1.f);
            sizes[static_cast<std::size_t>(soft * (entries - 1) + 0.5f)].push_back(
                std::abs(detail.grey(row, i) - soft));
        }
    std::vector<float> out(entries, -1.f);
    for (std::size_t k = 0; k < entries; ++k) {
        if (sizes[k].size() < 100) continue;
        const auto middle = sizes[k].begin() + static_cast<std::ptrdiff_t>(sizes[k].size() / 2);
        std::nth_element(sizes[k].begin(), middle, sizes[k].end());
        out[k] = 1.4826f * *middle;
    }
    float last = 0;
    for (float& sigma : out) last = sigma = sigma < 0 ? last : sigma;
    const auto first = std::find_if(out.begin(), out.end(), [](float sigma) { return sigma > 0; });
    if (first != out.end()) std::fill(out.begin(), first, *first);
    return out;
}

}  // namespace

bool sharpens_above_noise(const ResolvedFrame& f) {
    return number_of(f, Field::sharpening_amount) > 0 && number_of(f, Field::sharpening_sigmas) > 0;
}

std::array<double, 6> estimated_noise(const RawPicture& raw) {
    std::array<double, 6> out{};
    std::array<int, 3> planes{};
    for (const SamplePlane& plane : raw.planes()) {
        cv::Mat1f calm;
        cv::medianBlur(plane.values, calm, 3);
        const NoiseModel noise = measure_noise(plane.values, calm);
        const std::size_t c = static_cast<std::size_t>(plane.channel);
        out[2 * c] += noise.a;
        out[2 * c + 1] += noise.b;
        ++planes[c];
    }
    for (std::size_t c = 0; c < 3; ++c)
        for (std::size_t k = 0; k < 2; ++k) out[2 * c + k] /= std::max(1, planes[c]);
    return out;
}

namespace {

struct QuietGrey {
    NoiseConditions conditions;
    double luminance = 0, colour = 0;
    bool operator==(const QuietGrey&) const = default;
};

/// The grey after noise reduction.
std::shared_ptr<const Planes> quiet_grey(const RawPicture& like, const std::array<double, 3>& multipliers,
                                         const ResolvedFrame& f) {
    const bool treated = treats_noise(f);
    static RecentResults<QuietGrey, Planes> recent(4);
    return recent.get({NoiseConditions(like, multipliers), treated ? number_of(f, Field::luminance_noise) : 0,
                       treated ? number_of(f, Field::colour_noise) : 0},
                      [&] {
                          Planes grey = grey_with_noise(like, multipliers);
                          const KnownNoise known{scale_noise_of(like, multipliers), nullptr, {{0, 0}, grey.size()}};
                          treat_noise(grey, f, &known, Progress());
                          return grey;
                      });
}

}  // namespace

std::vector<float> sharpening_noise(const RawPicture& raw, const ResolvedFrame& f, const SharpenedPicture& picture) {
    RawPicture like;
    like.layout = raw.layout;
    like.filter = raw.filter;
    like.noise = picture.noise;
    const std::shared_ptr<const Planes> quiet = quiet_grey(like, multipliers_for(raw, f), f);
    Planes grey;
    for (std::size_t c = 0; c < 3; ++c) {
        if (picture.reduced < 1)
            cv::resize(quiet->channel[c], grey.channel[c], {}, picture.reduced, picture.reduced, cv::INTER_AREA);
        else
            grey.channel[c] = quiet->channel[c].clone();
    }
    tone(grey, picture.matrix, picture.tone);
    return sigma_by_brightness(sharpening_detail(grey, number_of(f, Field::sharpening_radius)));
}

}  // namespace optrel
