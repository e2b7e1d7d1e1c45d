// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/fringe_suppression.h"

#include <algorithm>
#include <cmath>

namespace optrel {

void suppress_fringes(Planes& planes, double percent) {
    if (percent <= 0) return;
    constexpr int away = 4;
    constexpr float knee = 0.05f;
    const float share = static_cast<float>(std::min(percent, 100.0) / 100);
    const cv::Mat1f& green = planes.channel[1];
    const int width = green.cols, height = green.rows;
    for (const int c : {0, 2}) {
        const cv::Mat1f source = planes.channel[c].clone();
        cv::Mat1f& target = planes.channel[c];
        for_strips(height, [&](int first, int end) {
            for (int row = first; row < end; ++row) {
                const int up = std::max(0, row - away), down = std::min(height - 1, row + away);
                const float *g = green.ptr<float>(row), *g_up = green.ptr<float>(up), *g_down = green.ptr<float>(down);
                const float *s = source.ptr<float>(row), *s_up = source.ptr<float>(up),
                            *s_down = source.ptr<float>(down);
                float* to = target.ptr<float>(row);
                for (int i = 0; i < width; ++i) {
                    const int left = std::max(0, i - away), right = std::min(width - 1, i + away);
                    const float across = std::abs(g[left] - g[right]), along = std::abs(g_up[i] - g_down[i]);
                    const bool sideways = across >= along;
                    const float step = sideways ? across : along;
                    const float a = sideways ? s[left] - g[left] : s_up[i] - g_up[i],
                                b = sideways ? s[right] - g[right] : s_down[i] - g_down[i];
                    const float d = s[i] - g[i], kept = std::clamp(d, std::min(a, b), std::max(a, b));
                    const float weight = step * step / (step * step + knee * knee);
                    to[i] = g[i] + d - share * weight * (d - kept);
                }
            }
        });
    }
}

}  // namespace optrel
