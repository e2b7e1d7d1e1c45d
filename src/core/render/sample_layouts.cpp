// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/sample_layouts.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "render/demosaic_six.h"
#include "render/strips.h"

namespace optrel {
namespace {

Planes interpolated_planes(const RawPicture& raw, const std::array<double, 3>& multiplier, const GainTable* gains,
                           const cv::Rect& part) {
    Planes out(part.size());
    for_strips(part.height, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const cv::Vec3w* in = raw.interpolated.ptr<cv::Vec3w>(row + part.y) + part.x;
            for (std::size_t c = 0; c < 3; ++c) {
                const float black = static_cast<float>(raw.interpolated_black[c]);
                const float scale = static_cast<float>(multiplier[c] / (raw.white - raw.interpolated_black[c]));
                float* to = out.channel[c].ptr<float>(row);
                for (int i = 0; i < part.width; ++i)
                    to[i] = std::min(1.f, (in[i][static_cast<int>(c)] - black) * scale);
            }
        }
    });
    if (gains) undo_falloff(out, {double(part.x), double(part.y), 1, part.size()}, *gains);
    return out;
}

/// Interpolates bands of rows one by one and averages each, because three whole planes would take much memory.
Planes in_cells_by_bands(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier,
                         int cell) {
    const cv::Size size = raw.counts.size();
    Planes out(cv::Size(size.width / cell, size.height / cell));
    constexpr int margin = 12;
    const int cells_in_band = std::max(1, 240 / cell), bands = (out.size().height + cells_in_band - 1) / cells_in_band;
    parallel_for(bands, [&](int band) {
        const SingleThreadScope small;
        const int first = band * cells_in_band, end = std::min(out.size().height, first + cells_in_band);
        const int top = std::max(0, first * cell - margin) / 2 * 2, bottom = std::min(size.height, end * cell + margin);
        const Planes light =
            linear_planes(raw, counts, multiplier, nullptr, nullptr, {0, top, size.width, bottom - top});
        const cv::Rect whole(0, first * cell - top, out.size().width * cell, (end - first) * cell);
        for (std::size_t c = 0; c < 3; ++c) {
            cv::Mat1f to = out.channel[c].rowRange(first, end);
            cv::resize(light.channel[c](whole), to, to.size(), 0, 0, cv::INTER_AREA);
        }
    });
    return out;
}

}  // namespace

Planes linear_planes(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier,
                     const GainTable* gains, const FrameMap* map, const cv::Rect& part) {
    if (raw.layout == SampleLayout::interpolated) return interpolated_planes(raw, multiplier, gains, part);
    const cv::Mat1f mosaic = linear_mosaic(raw, counts, multiplier, gains, part);
    switch (raw.layout) {
        case SampleLayout::six_by_six: return demosaic_six(mosaic, raw.filter, part.tl());
        case SampleLayout::monochrome: {
            Planes out;
            out.channel = {mosaic, mosaic.clone(), mosaic.clone()};
            return out;
        }
        default: return demosaic(mosaic, raw.filter, map, part.tl());
    }
}

Planes light_in_cells(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier,
                      int cell) {
    if (raw.layout == SampleLayout::bayer && raw.period() == 2) return in_cells(raw, counts, multiplier, cell);
    return in_cells_by_bands(raw, counts, multiplier, cell);
}

}  // namespace optrel
