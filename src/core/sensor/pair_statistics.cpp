// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/pair_statistics.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "base/error.h"

namespace optrel {
namespace {

constexpr int side = pair_block_side, samples = pair_block_samples;

/// Exact sums of one block: counts have at most 16 bits, so a block's products need 40.
struct Sums {
    std::uint32_t a = 0, b = 0, largest = 0, smallest = 65535;
    std::uint64_t aa = 0, bb = 0, ab = 0;
    std::int64_t neighbours = 0;                  ///< products of neighbouring differences a - b
    std::int64_t xa = 0, xb = 0, ya = 0, yb = 0;  ///< with twice the place from the middle: -15, -13 … 15

    /// Adds a row of a block, whose samples are `step` apart: known when this is compiled, so that it vectorises.
    template <int step>
    void add(const std::uint16_t* in_a, const std::uint16_t* in_b, int row) {
        std::uint32_t sum_a = 0, sum_b = 0, high = 0, low = 65535;
        std::uint64_t sum_aa = 0, sum_bb = 0, sum_ab = 0;
        std::int32_t slope_a = 0, slope_b = 0;
        std::int64_t products = 0;
        for (int i = 0; i < side; ++i) {
            const std::uint32_t va = in_a[step * i], vb = in_b[step * i];
            sum_a += va;
            sum_b += vb;
            sum_aa += va * va;
            sum_bb += vb * vb;
            sum_ab += va * vb;
            const std::int32_t x = 2 * i - (side - 1);
            slope_a += x * static_cast<std::int32_t>(va);
            slope_b += x * static_cast<std::int32_t>(vb);
            high = std::max(high, std::max(va, vb));
            low = std::min(low, std::min(va, vb));
        }
        for (int i = 0; i + 1 < side; ++i)
            products += static_cast<std::int64_t>(in_a[step * i] - in_b[step * i]) *
                        (in_a[step * i + step] - in_b[step * i + step]);
        neighbours += products;
        a += sum_a;
        b += sum_b;
        aa += sum_aa;
        bb += sum_bb;
        ab += sum_ab;
        xa += slope_a;
        xb += slope_b;
        const std::int64_t y = 2 * row - (side - 1);
        ya += y * sum_a;
        yb += y * sum_b;
        largest = std::max(largest, high);
        smallest = std::min(smallest, low);
    }
};

/// Sum of the squares of -15, -13 … 15, for each of the rows of a block.
constexpr double slope_square() {
    double out = 0;
    for (int i = 0; i < side; ++i) out += static_cast<double>((2 * i - (side - 1)) * (2 * i - (side - 1)));
    return out * side;
}

PairBlock block_of(const Sums& s, double black, double white) {
    constexpr double n = samples;
    const double ma = s.a / n, mb = s.b / n;
    const double saa = static_cast<double>(s.aa) - n * ma * ma, sbb = static_cast<double>(s.bb) - n * mb * mb,
                 sab = static_cast<double>(s.ab) - n * ma * mb;
    const double slopes = (static_cast<double>(s.xa) * static_cast<double>(s.xb) +
                           static_cast<double>(s.ya) * static_cast<double>(s.yb)) /
                          slope_square();
    PairBlock out;
    out.mean_a = static_cast<float>(ma - black);
    out.mean_b = static_cast<float>(mb - black);
    out.variance_a = static_cast<float>(saa / (n - 1));
    out.variance_b = static_cast<float>(sbb / (n - 1));
    out.covariance = static_cast<float>(sab / (n - 1));
    out.pattern = static_cast<float>((sab - slopes) / (n - 3));
    out.neighbours =
        static_cast<float>(static_cast<double>(s.neighbours) / (side * (side - 1)) - (ma - mb) * (ma - mb));
    out.clipped = s.largest >= white || s.smallest == 0;
    return out;
}

void sum_up(PairPlane& plane) {
    double a = 0, b = 0;
    int used = 0;
    for (const PairBlock& block : plane.blocks) {
        if (block.clipped) continue;
        a += block.mean_a;
        b += block.mean_b;
        ++used;
    }
    plane.clipped = 1 - static_cast<double>(used) / static_cast<double>(plane.blocks.size());
    if (used == 0) return;
    plane.mean = (a + b) / (2 * used);
    if (a > 0 && b > 0) plane.ratio = a / b;
}

template <int step>
PairPlane plane_of(const RawPicture& a, const RawPicture& b, const SitePattern<double>& black, int row0, int column0) {
    PairPlane plane;
    plane.channel = a.channel_at(row0, column0);
    plane.across = a.counts.cols / step / side;
    plane.down = a.counts.rows / step / side;
    plane.blocks.resize(static_cast<std::size_t>(plane.across) * static_cast<std::size_t>(plane.down));
    const double white = std::min(a.white, b.white);
    std::vector<Sums> sums(static_cast<std::size_t>(plane.across));
    for (int j = 0; j < plane.down; ++j) {
        std::fill(sums.begin(), sums.end(), Sums());
        for (int row = 0; row < side; ++row) {
            const int y = row0 + step * (j * side + row);
            const std::uint16_t *pa = a.counts[y] + column0, *pb = b.counts[y] + column0;
            for (int i = 0; i < plane.across; ++i)
                sums[static_cast<std::size_t>(i)].add<step>(pa + step * side * i, pb + step * side * i, row);
        }
        for (int i = 0; i < plane.across; ++i)
            plane.blocks[static_cast<std::size_t>(j * plane.across + i)] =
                block_of(sums[static_cast<std::size_t>(i)], black.at(row0, column0), white);
    }
    sum_up(plane);
    return plane;
}

}  // namespace

int site_step(const RawPicture& raw) { return raw.period() > 2 ? 6 : 2; }

std::vector<PairPlane> pair_statistics(const RawPicture& a, const RawPicture& b, const SitePattern<double>& black) {
    if (a.counts.size() != b.counts.size() || a.filter != b.filter)
        throw input_error(
            fmt::format("Two frames of a pair have {} x {} and {} x {} samples or different colour filters, so they "
                        "are not of one body; leave one out.",
                        a.counts.cols, a.counts.rows, b.counts.cols, b.counts.rows));
    const int step = site_step(a);
    if (a.counts.cols / step / side < 2 || a.counts.rows / step / side < 2)
        throw input_error(fmt::format("A frame of {} x {} samples is too small to measure noise; use whole frames.",
                                      a.counts.cols, a.counts.rows));
    std::vector<PairPlane> out;
    for (int site = 0; site < step * step; ++site)
        out.push_back(step == 6 ? plane_of<6>(a, b, black, site / 6, site % 6)
                                : plane_of<2>(a, b, black, site / 2, site % 2));
    return out;
}

namespace {

/// Variance of lines of a difference of two frames beyond that of their samples, as a standard deviation of one frame.
double beyond_samples(const std::vector<double>& means, double sample_variance, double length) {
    double square = 0;
    for (std::size_t i = 1; i < means.size(); ++i) square += (means[i] - means[i - 1]) * (means[i] - means[i - 1]);
    const double lines = square / (2 * static_cast<double>(means.size() - 1)) - sample_variance / length;
    return std::sqrt(std::max(0.0, lines / 2));
}

}  // namespace

LineNoise line_noise(const RawPicture& a, const RawPicture& b) {
    LineNoise out;
    double row_square = 0, column_square = 0;
    const int step = site_step(a), sites = step * step;
    for (int site = 0; site < sites; ++site) {
        const int rows = a.counts.rows / step, columns = a.counts.cols / step;
        std::vector<double> row_means(static_cast<std::size_t>(rows)), column_means(static_cast<std::size_t>(columns));
        double sum = 0, square = 0;
        for (int j = 0; j < rows; ++j) {
            const int y = step * j + site / step;
            const std::uint16_t *pa = a.counts[y] + site % step, *pb = b.counts[y] + site % step;
            double row = 0;
            for (int i = 0; i < columns; ++i) {
                const double d = static_cast<double>(pa[step * i]) - pb[step * i];
                row += d;
                square += d * d;
                column_means[static_cast<std::size_t>(i)] += d / rows;
            }
            sum += row;
            row_means[static_cast<std::size_t>(j)] = row / columns;
        }
        const double n = static_cast<double>(rows) * columns, variance = square / n - (sum / n) * (sum / n);
        const double in_rows = beyond_samples(row_means, variance, columns),
                     in_columns = beyond_samples(column_means, variance, rows);
        row_square += in_rows * in_rows / sites;
        column_square += in_columns * in_columns / sites;
    }
    out.row = std::sqrt(row_square);
    out.column = std::sqrt(column_square);
    return out;
}

double value_step(const RawPicture& frame) {
    std::vector<std::uint32_t> count(65536);
    std::uint64_t all = 0;
    for (int y = 0; y < frame.counts.rows; ++y)
        for (int x = 0; x < frame.counts.cols; ++x)
            if (frame.channel_at(y, x) == Channel::green) {
                ++count[frame.counts(y, x)];
                ++all;
            }
    std::uint64_t below = 0;
    int first = -1, last = -1, used = 0;
    for (int v = 0; v < 65536; ++v) {
        below += count[static_cast<std::size_t>(v)];
        if (static_cast<double>(below) < 0.05 * static_cast<double>(all)) continue;
        if (count[static_cast<std::size_t>(v)] > 0) {
            if (first < 0) first = v;
            last = v;
            ++used;
        }
        if (static_cast<double>(below) > 0.95 * static_cast<double>(all)) break;
    }
    // With fewer samples for each value, values stay unused by chance.
    constexpr double enough = 20;
    if (used < 8 || 0.9 * static_cast<double>(all) / (last - first + 1) < enough) return 0;
    return static_cast<double>(last - first) / (used - 1);
}

}  // namespace optrel
