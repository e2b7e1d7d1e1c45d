// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/line_search.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "sensor/sample_phases.h"

namespace optrel {
namespace {

constexpr int block = 32, neighbours = 3;
constexpr int least_blocks = 6;
constexpr double line_sigmas = 7;

/// The samples; those that differ from their neighbours by more than five sigma differ by that much.
cv::Mat1f without_outliers(const cv::Mat1f& samples, const cv::Mat1f& deviation) {
    const double most = 5 * std::max(1e-9, robust_sigma(deviation));
    return samples - deviation + cv::max(cv::min(deviation, most), -most);
}

/// Mean of the two middle values: the upper one alone would be too high where a neighbour is bad.
float middle_of(std::vector<float>& values) {
    std::sort(values.begin(), values.end());
    const std::size_t n = values.size();
    return n == 0 ? 0 : 0.5f * (values[(n - 1) / 2] + values[n / 2]);
}

/// Means over blocks along rows, less the median of the same blocks of the neighbouring rows.
cv::Mat1f block_deviations(const cv::Mat1f& samples, int period) {
    cv::Mat1f means, out;
    cv::resize(samples, means, {std::max(1, samples.cols / block), samples.rows}, 0, 0, cv::INTER_AREA);
    out = cv::Mat1f::zeros(means.size());
    std::vector<float> around;
    for (int row = 0; row < means.rows; ++row)
        for (int i = 0; i < means.cols; ++i) {
            around.clear();
            // Pairs on both sides, so that a slope of the light cancels.
            for (int k = 1; k <= neighbours; ++k) {
                const int above = row - k * period, below = row + k * period;
                if (above < 0 || below >= means.rows) break;
                around.push_back(means(above, i));
                around.push_back(means(below, i));
            }
            if (!around.empty()) out(row, i) = means(row, i) - middle_of(around);
        }
    return out;
}

/// The run of blocks of a row whose sum deviates most for its length.
struct Run {
    int first = 0, count = 0;
    double mean = 0;
};

Run strongest_run(const float* blocks, int count) {
    const int least = std::max(least_blocks, count / 8);
    Run best;
    double strongest = 0;
    std::vector<double> before(static_cast<std::size_t>(count) + 1, 0.0);
    for (int i = 0; i < count; ++i)
        before[static_cast<std::size_t>(i) + 1] = before[static_cast<std::size_t>(i)] + blocks[i];
    for (int first = 0; first < count; ++first)
        for (int end = first + least; end <= count; ++end) {
            const double sum = before[static_cast<std::size_t>(end)] - before[static_cast<std::size_t>(first)];
            const double strength = std::abs(sum) / std::sqrt(end - first);
            if (strength <= strongest) continue;
            strongest = strength;
            best = {first, end - first, sum / (end - first)};
        }
    return best;
}

/// True when most blocks of a run take part in its deviation: dust darkens only one or two of them, but deeply.
bool steady(const float* blocks, const Run& run) {
    int deviating = 0;
    for (int i = run.first; i < run.first + run.count; ++i) deviating += blocks[i] / run.mean > 0.5;
    return deviating >= 0.6 * run.count;
}

/// The place near `about` where samples begin to deviate by `mean`: what lies before it is best explained by 0, what
/// follows by the mean (least squares).
int beginning(const float* deviation, int about, int from, int to, double mean) {
    double sum = 0, best = 0;
    int place = std::clamp(about, from, to);
    for (int i = to - 1; i >= from; --i) {
        sum += mean * (deviation[i] - mean / 2);
        if (sum < best) continue;
        best = sum;
        place = i;
    }
    return place;
}

void find_rows(const cv::Mat1f& samples, const cv::Mat1f& deviation, int period, double least, bool transposed,
               std::vector<DeviatingLine>& out) {
    const cv::Mat1f means = block_deviations(samples, period);
    if (means.cols < least_blocks || means.rows < 8) return;
    const double of_block = robust_sigma(means), of_sample = robust_sigma(deviation);
    cv::Mat1f whole;
    cv::reduce(means, whole, 1, cv::REDUCE_AVG);
    const double of_line = robust_sigma(whole);
    for (int row = 0; row < means.rows; ++row) {
        const Run run = strongest_run(means.ptr<float>(row), means.cols);
        if (run.count == 0 || !steady(means.ptr<float>(row), run)) continue;
        const double sigma = std::hypot(of_line, of_block / std::sqrt(run.count));
        if (std::abs(run.mean) < line_sigmas * sigma || std::abs(run.mean) < least) continue;
        const double width = static_cast<double>(deviation.cols) / means.cols;
        const int about = static_cast<int>(std::lround(run.first * width)),
                  after = static_cast<int>(std::lround((run.first + run.count) * width));
        const float* values = deviation.ptr<float>(row);
        int first = beginning(values, about, std::max(0, about - block), std::min(after, about + block), run.mean);
        // The end is the beginning of the reversed line.
        std::vector<float> reversed(values, values + deviation.cols);
        std::reverse(reversed.begin(), reversed.end());
        const int size = deviation.cols, mirrored = size - after;
        int end = size - beginning(reversed.data(), mirrored, std::max(0, mirrored - block),
                                   std::min(size - first, mirrored + block), run.mean);
        // The ends of a faint line are not known well; one that nearly reaches the edge reaches it.
        const bool faint = std::abs(run.mean) < 3 * of_sample;
        if (faint && first < block) first = 0;
        if (faint && size - end < block) end = size;
        if (end <= first) continue;
        // Outliers were bounded for the search; the median of neighbours takes a part of a faint line away.
        const double strong = cv::mean(deviation.row(row).colRange(first, end))[0];
        out.push_back({!transposed, row, first, end - 1, std::abs(strong) > std::abs(run.mean) ? strong : run.mean});
    }
}

}  // namespace

std::vector<DeviatingLine> deviating_lines(const cv::Mat1f& samples, const cv::Mat1f& deviation, int period,
                                           double least) {
    std::vector<DeviatingLine> out;
    const cv::Mat1f bounded = without_outliers(samples, deviation);
    find_rows(bounded, deviation, period, least, false, out);
    find_rows(bounded.t(), deviation.t(), period, least, true, out);
    return out;
}

}  // namespace optrel
