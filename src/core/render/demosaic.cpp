#include "render/demosaic.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace optrel {

GainTable::GainTable(const FrameMap& map) {
    constexpr int entries = 4096;
    const PictureGeometry& g = map.geometry();
    const Vec2 centre = map.falloff_centre();
    centre_u_ = static_cast<float>(centre.x());
    centre_v_ = static_cast<float>(centre.y());
    const double reach_u = std::max(centre.x(), g.width - centre.x()), reach_v = std::max(centre.y(), g.height - centre.y());
    const double farthest = reach_u * reach_u + reach_v * reach_v;
    scale_ = static_cast<float>((entries - 2) / farthest);
    for (int c = 0; c < 3; ++c) {
        table_[c].resize(entries + 1);
        for (int i = 0; i <= entries; ++i)
            table_[c][i] = static_cast<float>(map.gain(static_cast<Channel>(c), centre + Vec2(std::sqrt(i * farthest / (entries - 2)), 0)));
    }
}

cv::Mat1f linear_mosaic(const RawPicture& raw, const cv::Mat1w& counts, const std::array<double, 3>& multiplier, const FrameMap* map) {
    cv::Mat1f out(counts.size());
    std::optional<GainTable> gains;
    if (map && map->has_falloff()) gains.emplace(*map);
    for_strips(out.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const std::uint16_t* in = counts.ptr<std::uint16_t>(row);
            float* to = out.ptr<float>(row);
            for (int parity = 0; parity < 2; ++parity) {
                const int c = raw.filter[row & 1][parity];
                const float black = static_cast<float>(raw.black[row & 1][parity]);
                const float scale = static_cast<float>(multiplier[c] / (raw.white - raw.black[row & 1][parity]));
                for (int i = parity; i < out.cols; i += 2) to[i] = std::min(1.f, (in[i] - black) * scale);
                if (gains)
                    for (int i = parity; i < out.cols; i += 2) to[i] *= gains->at(c, i + 0.5f, row + 0.5f);
            }
        }
    });
    return out;
}

Planes demosaic(const cv::Mat1f& mosaic, const std::array<std::array<int, 2>, 2>& filter) {
    cv::Mat1f m;
    cv::copyMakeBorder(mosaic, m, 2, 2, 2, 2, cv::BORDER_REFLECT_101);
    Planes out(mosaic.size());
    const std::ptrdiff_t s = static_cast<std::ptrdiff_t>(m.step1());
    for_strips(mosaic.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const float* in = m.ptr<float>(row + 2) + 2;
            for (int parity = 0; parity < 2; ++parity) {
                const int c = filter[row & 1][parity];
                float* own = out.channel[c].ptr<float>(row);
                if (c != 1) {  // at red or blue: green, and the opposite colour
                    float *green = out.channel[1].ptr<float>(row), *other = out.channel[2 - c].ptr<float>(row);
                    for (int i = parity; i < mosaic.cols; i += 2) {
                        const float* p = in + i;
                        const float far = p[-2] + p[2] + p[-2 * s] + p[2 * s];
                        own[i] = p[0];
                        green[i] = 0.125f * (4 * p[0] + 2 * (p[-1] + p[1] + p[-s] + p[s]) - far);
                        other[i] = 0.125f * (6 * p[0] + 2 * (p[-s - 1] + p[-s + 1] + p[s - 1] + p[s + 1]) - 1.5f * far);
                    }
                } else {  // at green: the colour beside it in the row, and the one above
                    const int beside = filter[row & 1][1 - parity];
                    float *in_row = out.channel[beside].ptr<float>(row), *in_column = out.channel[2 - beside].ptr<float>(row);
                    for (int i = parity; i < mosaic.cols; i += 2) {
                        const float* p = in + i;
                        const float diagonal = p[-s - 1] + p[-s + 1] + p[s - 1] + p[s + 1];
                        own[i] = p[0];
                        in_row[i] = 0.125f * (5 * p[0] + 4 * (p[-1] + p[1]) - diagonal - (p[-2] + p[2]) + 0.5f * (p[-2 * s] + p[2 * s]));
                        in_column[i] = 0.125f * (5 * p[0] + 4 * (p[-s] + p[s]) - diagonal - (p[-2 * s] + p[2 * s]) + 0.5f * (p[-2] + p[2]));
                    }
                }
            }
        }
    });
    return out;
}

}  // namespace optrel
