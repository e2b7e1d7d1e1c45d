// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/demosaic_six.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "render/strips.h"

namespace optrel {
namespace {

constexpr int period = SitePattern<int>::largest, border = period;

/// Distances (px, at least 1) to the nearest greens along a line; 0: there is none within a period.
struct GreensAround {
    int left = 0, right = 0, up = 0, down = 0;
};

class GreenSites {
public:
    GreenSites(const SitePattern<int>& filter, cv::Point origin) {
        for (int row = 0; row < period; ++row)
            for (int column = 0; column < period; ++column) {
                const auto green = [&](int down, int across) {
                    return filter.at(origin.y + row + period + down, origin.x + column + period + across) == 1;
                };
                const auto nearest = [&](int down, int across) {
                    for (int k = 1; k < period; ++k)
                        if (green(k * down, k * across)) return k;
                    return 0;
                };
                is_green_[row][column] = green(0, 0);
                around_[row][column] = {nearest(0, -1), nearest(0, 1), nearest(-1, 0), nearest(1, 0)};
            }
    }
    bool is_green(int row, int column) const { return is_green_[row % period][column % period]; }
    const GreensAround& around(int row, int column) const { return around_[row % period][column % period]; }

private:
    bool is_green_[period][period]{};
    GreensAround around_[period][period];
};

/// Green on a line between its nearest greens; empty lines leave the other direction alone.
struct OnLine {
    float value = 0, change = 0;  ///< `change`: difference of both greens
    bool known = false;
};
OnLine between(float before, int to_before, float after, int to_after) {
    if (to_before == 0 || to_after == 0) return {};
    const float share = static_cast<float>(to_before) / static_cast<float>(to_before + to_after);
    return {before + share * (after - before), std::abs(after - before), true};
}

/// Calls act(row, column, along, across) for every pixel; `padded` has a border of one period, so its sites keep their
/// phase.
template <class Act>
void each_pixel(const cv::Mat1f& padded, const cv::Size& size, const GreenSites& sites, const Act& act) {
    for_strips(size.height, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            for (int i = 0; i < size.width; ++i) {
                const GreensAround& g = sites.around(row, i);
                const float* here = padded.ptr<float>(row + border) + i + border;
                const std::ptrdiff_t line = static_cast<std::ptrdiff_t>(padded.step1());
                act(row, i, *here, between(here[-g.left], g.left, here[g.right], g.right),
                    between(here[-g.up * line], g.up, here[g.down * line], g.down));
            }
    });
}

cv::Mat1f green_of(const cv::Mat1f& mosaic, const GreenSites& sites) {
    // The border repeats whole periods, so that each of its sites has its own colour.
    const auto inside = [](int at, int size) {
        while (at < 0) at += period;
        while (at >= size) at -= period;
        return std::max(0, at);
    };
    cv::Mat1f padded(mosaic.rows + 2 * border, mosaic.cols + 2 * border);
    for (int row = 0; row < padded.rows; ++row) {
        const float* in = mosaic.ptr<float>(inside(row - border, mosaic.rows));
        for (int i = 0; i < padded.cols; ++i) padded(row, i) = in[inside(i - border, mosaic.cols)];
    }
    cv::Mat1f along(mosaic.size()), across(mosaic.size());
    each_pixel(padded, mosaic.size(), sites, [&](int row, int i, float, const OnLine& row_line, const OnLine& column) {
        along(row, i) = row_line.change;
        across(row, i) = column.change;
    });
    cv::blur(along, along, {5, 5});
    cv::blur(across, across, {5, 5});
    cv::Mat1f out(mosaic.size());
    each_pixel(padded, mosaic.size(), sites, [&](int row, int i, float own, const OnLine& h, const OnLine& v) {
        if (sites.is_green(row, i)) {
            out(row, i) = own;
            return;
        }
        const auto weight = [](const OnLine& line, float change) {
            const float whole = change + 0.3f * line.change + 1e-4f;
            return line.known ? 1 / (whole * whole) : 0.f;
        };
        const float wh = weight(h, along(row, i)), wv = weight(v, across(row, i));
        out(row, i) = wh + wv > 0 ? (wh * h.value + wv * v.value) / (wh + wv) : own;
    });
    return out;
}

/// Green plus the mean difference of the channel's samples around each pixel, weighted by distance.
cv::Mat1f with_mean_difference(const cv::Mat1f& mosaic, const cv::Mat1f& green, const SitePattern<int>& filter,
                               cv::Point origin, int channel) {
    cv::Mat1f difference = cv::Mat1f::zeros(mosaic.size()), weight = cv::Mat1f::zeros(mosaic.size());
    for (int row = 0; row < mosaic.rows; ++row) {
        const auto& sites = filter.row(origin.y + row);
        for (int i = 0; i < mosaic.cols; ++i)
            if (sites[static_cast<std::size_t>((origin.x + i) % period)] == channel) {
                difference(row, i) = mosaic(row, i) - green(row, i);
                weight(row, i) = 1;
            }
    }
    const cv::Size window(11, 11);
    constexpr double sigma = 1.1;
    cv::GaussianBlur(difference, difference, window, sigma, sigma, cv::BORDER_REFLECT_101);
    cv::GaussianBlur(weight, weight, window, sigma, sigma, cv::BORDER_REFLECT_101);
    cv::Mat1f out(mosaic.size());
    for (int row = 0; row < out.rows; ++row)
        for (int i = 0; i < out.cols; ++i)
            out(row, i) = green(row, i) + difference(row, i) / std::max(1e-9f, weight(row, i));
    return out;
}

}  // namespace

Planes demosaic_six(const cv::Mat1f& mosaic, const SitePattern<int>& filter, cv::Point origin) {
    Planes out;
    out.channel[1] = green_of(mosaic, GreenSites(filter, origin));
    for (const int channel : {0, 2})
        out.channel[channel] = with_mean_difference(mosaic, out.channel[1], filter, origin, channel);
    return out;
}

}  // namespace optrel
