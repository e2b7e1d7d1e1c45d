// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/measured_patches.h"

#include <algorithm>
#include <cmath>

#include "base/median.h"
#include "base/parallel.h"

namespace optrel {
namespace {

constexpr double inner_share = 0.6, clipped_from = 0.985, most_clipped = 0.002, most_dirty = 0.03, most_uneven = 0.1;
constexpr double far_sigmas = 5;

/// Samples of one plane within a patch, with their place in the patch from -1 to 1.
struct PatchSamples {
    std::vector<double> values, across, down;
    bool outside = false;
};

PatchSamples samples_in(const SamplePlane& plane, const cv::Matx33d& to_frame, const cv::Matx33d& to_cells,
                        double column, double row, double half) {
    PatchSamples out;
    double left = 1e9, top = 1e9, right = -1e9, bottom = -1e9;
    for (const auto& [dx, dy] : {std::pair(-half, -half), {half, -half}, {half, half}, {-half, half}}) {
        const cv::Point2d p = through(to_frame, column + dx, row + dy);
        left = std::min(left, p.x);
        right = std::max(right, p.x);
        top = std::min(top, p.y);
        bottom = std::max(bottom, p.y);
    }
    const int first_x = static_cast<int>(std::ceil((left - plane.u0) / plane.step)),
              last_x = static_cast<int>(std::floor((right - plane.u0) / plane.step)),
              first_y = static_cast<int>(std::ceil((top - plane.v0) / plane.step)),
              last_y = static_cast<int>(std::floor((bottom - plane.v0) / plane.step));
    out.outside = first_x < 0 || first_y < 0 || last_x >= plane.values.cols || last_y >= plane.values.rows;
    if (out.outside) return out;
    for (int y = first_y; y <= last_y; ++y)
        for (int x = first_x; x <= last_x; ++x) {
            const cv::Point2d cell = through(to_cells, plane.u0 + x * plane.step, plane.v0 + y * plane.step);
            const double a = (cell.x - column) / half, b = (cell.y - row) / half;
            if (std::abs(a) > 1 || std::abs(b) > 1) continue;
            out.values.push_back(plane.values(y, x));
            out.across.push_back(a);
            out.down.push_back(b);
        }
    return out;
}

struct ChannelSum {
    double weight = 0, sum = 0, variance = 0;
};

/// Adds one plane to a patch; sets why the patch cannot be used.
void add_plane(MeasuredPatch& patch, ChannelSum& total, const PatchSamples& s, bool green) {
    if (s.outside || s.values.size() < 9) {
        patch.left_out = s.outside ? "it lies beyond the frame" : "it is too small in the frame";
        return;
    }
    const double n = static_cast<double>(s.values.size());
    const auto clipped = std::count_if(s.values.begin(), s.values.end(), [](double v) { return v >= clipped_from; });
    if (static_cast<double>(clipped) > most_clipped * n) patch.left_out = "it is overexposed";
    const double middle = median(s.values);
    std::vector<double> away;
    for (const double v : s.values) away.push_back(std::abs(v - middle));
    const double limit = far_sigmas * std::max(1e-6, 1.4826 * median(away));
    double kept = 0, sum = 0, square = 0, ax = 0, ay = 0, xx = 0, yy = 0;
    for (std::size_t i = 0; i < s.values.size(); ++i) {
        const double v = s.values[i];
        if (std::abs(v - middle) > limit) continue;
        ++kept;
        sum += v;
        square += v * v;
        ax += s.across[i] * (v - middle);
        ay += s.down[i] * (v - middle);
        xx += s.across[i] * s.across[i];
        yy += s.down[i] * s.down[i];
    }
    if (patch.left_out.empty() && kept < (1 - most_dirty) * n)
        patch.left_out = "parts of it look different (dirt, a scratch)";
    const double mean = sum / kept, variance = std::max(0.0, square / kept - mean * mean) / std::max(1.0, kept - 1);
    if (green && mean > 0) {
        patch.uneven = std::max(patch.uneven, 2 * std::max(std::abs(ax / xx), std::abs(ay / yy)) / mean);
        if (patch.left_out.empty() && patch.uneven > most_uneven && mean > 0.005)
            patch.left_out = "its light is uneven (glare, or the edge of a shadow)";
    }
    total.weight += kept;
    total.sum += kept * mean;
    total.variance += kept * kept * variance;
}

}  // namespace

std::vector<MeasuredPatch> measure_patches(const MeasuringPicture& picture, const PatchChart& chart,
                                           const cv::Matx33d& to_frame) {
    const cv::Matx33d to_cells = to_frame.inv();
    const double half = 0.5 * inner_share * chart.patch_mm / chart.pitch_mm;
    std::vector<MeasuredPatch> out(chart.patches.size());
    parallel_for(static_cast<int>(out.size()), [&](int i) {
        const ReferencePatch& reference = chart.patches[static_cast<std::size_t>(i)];
        MeasuredPatch& patch = out[static_cast<std::size_t>(i)];
        patch.column = reference.column;
        patch.row = reference.row;
        std::array<ChannelSum, 3> totals;
        for (const SamplePlane& plane : picture.planes) {
            const PatchSamples samples =
                samples_in(plane, to_frame, to_cells, reference.column + 0.5, reference.row + 0.5, half);
            add_plane(patch, totals[static_cast<std::size_t>(plane.channel)], samples, plane.channel == Channel::green);
        }
        for (std::size_t c = 0; c < 3; ++c) {
            if (totals[c].weight == 0) continue;
            patch.raw[c] = totals[c].sum / totals[c].weight;
            patch.sigma[c] = std::sqrt(totals[c].variance) / totals[c].weight;
        }
    });
    return out;
}

void divide_by_flat(std::vector<MeasuredPatch>& patches, const std::vector<MeasuredPatch>& flat) {
    std::array<double, 3> mean{};
    for (const MeasuredPatch& f : flat)
        for (std::size_t c = 0; c < 3; ++c) mean[c] += f.raw[c] / static_cast<double>(flat.size());
    for (std::size_t i = 0; i < patches.size() && i < flat.size(); ++i)
        for (std::size_t c = 0; c < 3; ++c) {
            if (!(flat[i].raw[c] > 0)) continue;
            const double gain = mean[c] / flat[i].raw[c];
            patches[i].raw[c] *= gain;
            patches[i].sigma[c] *= gain;
        }
}

}  // namespace optrel
