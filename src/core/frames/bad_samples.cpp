// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/bad_samples.h"

#include <cmath>
#include <optional>

#include "base/parallel.h"

namespace optrel {
namespace {

constexpr int farthest = 12;

/// A good sample of the same colour.
struct GoodSample {
    double value;
    int distance;
};

/// Interpolates at bad samples of a plane. The plane itself is not changed, so no replacement depends on another one.
class NeighbourEstimate {
public:
    NeighbourEstimate(const cv::Mat1w& samples, const SitePattern<int>& filter, const cv::Mat1b& bad)
        : samples_(samples), filter_(filter), bad_(bad) {}

    /// Empty when no good sample is near.
    std::optional<double> at(int row, int column) const {
        constexpr int directions[4][2] = {{0, 1}, {1, 0}, {1, 1}, {1, -1}};
        double sum = 0, weights = 0, lonely = 0, lonely_weights = 0;
        for (const auto& [down, across] : directions) {
            const std::optional<GoodSample> a = nearest(row, column, down, across),
                                            b = nearest(row, column, -down, -across);
            for (const std::optional<GoodSample>& side : {a, b})
                if (side) {
                    lonely += side->value / side->distance;
                    lonely_weights += 1.0 / side->distance;
                }
            if (!a || !b) continue;
            const double span = a->distance + b->distance;
            const double between = (a->value * b->distance + b->value * a->distance) / span;
            // Steps smaller than the noise tell nothing of the direction of an edge.
            const double change = a->value - b->value, noise = 4 + 0.02 * between;
            const double weight = 1 / (span * span * (change * change + noise * noise));
            sum += weight * between;
            weights += weight;
        }
        if (weights > 0) return sum / weights;
        if (lonely_weights > 0) return lonely / lonely_weights;
        return std::nullopt;
    }

private:
    std::optional<GoodSample> nearest(int row, int column, int down, int across) const {
        const int colour = filter_.at(row, column);
        for (int distance = 1; distance <= farthest; ++distance) {
            const int r = row + down * distance, c = column + across * distance;
            if (r < 0 || c < 0 || r >= samples_.rows || c >= samples_.cols) return std::nullopt;
            if (filter_.at(r, c) == colour && !bad_(r, c)) return GoodSample{double(samples_(r, c)), distance};
        }
        return std::nullopt;
    }

    const cv::Mat1w& samples_;
    const SitePattern<int>& filter_;
    const cv::Mat1b& bad_;
};

/// The plane with its bad samples replaced.
cv::Mat1w repaired(const cv::Mat1w& samples, const SitePattern<int>& filter, const cv::Mat1b& bad,
                   const std::vector<cv::Point>& places) {
    cv::Mat1w out = samples.clone();
    const NeighbourEstimate estimate(samples, filter, bad);
    parallel_for(
        static_cast<int>(places.size()),
        [&](int i) {
            const cv::Point& at = places[static_cast<std::size_t>(i)];
            if (const std::optional<double> value = estimate.at(at.y, at.x))
                out(at) = cv::saturate_cast<ushort>(*value);
        },
        1024);
    return out;
}

}  // namespace

cv::Mat1b marked(const BadSamples& bad, const cv::Size& size) {
    const cv::Rect inside({0, 0}, size);
    cv::Mat1b out(size, 0);
    for (const cv::Point& p : bad.points)
        if (inside.contains(p)) out(p) = 255;
    for (const cv::Rect& area : bad.areas) out(area & inside) = 255;
    return out;
}

void replace_bad_samples(RawPicture& raw, const BadSamples& bad) {
    if (bad.empty()) return;
    const cv::Mat1b mask = marked(bad, raw.counts.size());
    std::vector<cv::Point> places;
    cv::findNonZero(mask, places);
    if (places.empty()) return;
    if (raw.layout != SampleLayout::interpolated) {
        raw.counts = repaired(raw.counts, raw.filter, mask, places);
        return;
    }
    const SitePattern<int> everywhere(static_cast<int>(Channel::green));
    std::vector<cv::Mat> planes;
    cv::split(raw.interpolated, planes);
    for (cv::Mat& plane : planes) plane = repaired(plane, everywhere, mask, places);
    cv::merge(planes, raw.interpolated);
    raw.counts = planes[static_cast<std::size_t>(Channel::green)];
}

}  // namespace optrel
