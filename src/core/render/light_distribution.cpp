// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/light_distribution.h"

#include <algorithm>
#include <cmath>
#include <memory>
#include <mutex>

#include "render/demosaic.h"
#include "render/strips.h"

namespace optrel {
namespace {

constexpr float white = 0.999f;

/// Counts for the light before or after correction.
struct Tally {
    std::array<std::array<double, LightDistribution::bins>, 3> count{};
    std::array<double, 3> clipped{}, all{};

    void add(int c, float light) {
        ++all[c];
        if (light >= white) ++clipped[c];
        const double ev = light > 0 ? std::log2(light) : LightDistribution::lowest_ev;
        const int bin = static_cast<int>((ev - LightDistribution::lowest_ev) / LightDistribution::step_ev);
        ++count[c][std::clamp(bin, 0, LightDistribution::bins - 1)];
    }
    void add(const Tally& other) {
        for (int c = 0; c < 3; ++c) {
            for (int b = 0; b < LightDistribution::bins; ++b) count[c][b] += other.count[c][b];
            clipped[c] += other.clipped[c];
            all[c] += other.all[c];
        }
    }
    LightDistribution::Side side() const {
        LightDistribution::Side out;
        for (int c = 0; c < 3; ++c) {
            const double n = std::max(1.0, all[c]);
            for (const double v : count[c]) out.percent[c].push_back(100 * v / n);
            out.clipped_percent[c] = 100 * clipped[c] / n;
        }
        return out;
    }
};

/// `each(row, give)` calls give(channel, column, light) for the samples of a row.
template <class Each>
LightDistribution distribution(int rows, const FrameMap& lens, const Each& each) {
    const GainTable gains(lens);
    Tally before, after;
    std::mutex mutex;
    for_strips(rows, [&](int first, int end) {
        const auto own = std::make_unique<std::pair<Tally, Tally>>();
        for (int row = first; row < end; ++row)
            each(row, [&](int c, int column, float light) {
                own->first.add(c, light);
                own->second.add(c, std::min(1.f, light) * gains.at(c, column + 0.5f, row + 0.5f));
            });
        const std::lock_guard lock(mutex);
        before.add(own->first);
        after.add(own->second);
    });
    return {before.side(), after.side()};
}

}  // namespace

LightDistribution light_distribution(const RawPicture& raw, const FrameMap& lens) {
    if (raw.layout == SampleLayout::interpolated)
        return distribution(raw.interpolated.rows, lens, [&](int row, const auto& give) {
            if (row % 2 > 0) return;
            const cv::Vec3w* in = raw.interpolated.ptr<cv::Vec3w>(row);
            for (int i = 0; i < raw.interpolated.cols; i += 2)
                for (int c = 0; c < 3; ++c) {
                    const double black = raw.interpolated_black[static_cast<std::size_t>(c)];
                    give(c, i, static_cast<float>((in[i][c] - black) / (raw.white - black)));
                }
        });
    // Uses every second pair of rows and columns: millions of samples suffice, and all four sites are included.
    const int columns = raw.counts.cols, stride = raw.counts.total() > 4'000'000 ? 4 : 2;
    return distribution(raw.counts.rows, lens, [&](int row, const auto& give) {
        if (row % stride > 1) return;
        const std::uint16_t* in = raw.counts.ptr<std::uint16_t>(row);
        for (int i = 0; i < columns; i += stride)
            for (int k = i; k < std::min(columns, i + 2); ++k) {
                const double black = raw.black.at(row, k);
                give(raw.filter.at(row, k), k, static_cast<float>((in[k] - black) / (raw.white - black)));
            }
    });
}

LightDistribution light_distribution(const cv::Mat3f& linear, const FrameMap& lens) {
    return distribution(linear.rows, lens, [&](int row, const auto& give) {
        const cv::Vec3f* in = linear.ptr<cv::Vec3f>(row);
        for (int i = 0; i < linear.cols; ++i)
            for (int c = 0; c < 3; ++c) give(c, i, in[i][c]);
    });
}

}  // namespace optrel
