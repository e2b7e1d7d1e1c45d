// SPDX-License-Identifier: GPL-3.0-or-later
#include "libav_turn.h"

#include <cmath>
#include <cstring>
#include <opencv2/core.hpp>

namespace optrel::av {

std::optional<Turn> turn_of(const AVStream& stream) {
    std::size_t size = 0;
    const std::uint8_t* data = av_stream_get_side_data(&stream, AV_PKT_DATA_DISPLAYMATRIX, &size);
    if (!data || size < 9 * sizeof(std::int32_t)) return Turn();
    std::int32_t m[9];
    std::memcpy(m, data, sizeof m);
    constexpr double one = 1 << 16, tolerance = 1e-3;
    // A point (x, y) is shown at (a x + c y, b x + d y).
    const double a = m[0] / one, b = m[1] / one, c = m[3] / one, d = m[4] / one;
    const auto is = [](double v, double wanted) { return std::abs(std::abs(v) - wanted) < tolerance; };
    if (is(a, 1) && is(d, 1) && is(b, 0) && is(c, 0)) return Turn{false, a < 0, d < 0};
    if (is(b, 1) && is(c, 1) && is(a, 0) && is(d, 0)) return Turn{true, c < 0, b < 0};
    return std::nullopt;
}

bool keeps_turn(const AVOutputFormat& container) {
    return is_container(container, "mov") || is_container(container, "mp4");
}

void turn(const Planes& from, const Turn& by, Planes& to) {
    const cv::Size size = by.exchange ? cv::Size(from.size().height, from.size().width) : from.size();
    if (to.size() != size) to = Planes(size);
    for (int k = 0; k < 3; ++k) {
        if (by.exchange)
            cv::transpose(from.channel[k], to.channel[k]);
        else
            from.channel[k].copyTo(to.channel[k]);
        if (by.left_right) cv::flip(to.channel[k], to.channel[k], 1);
        if (by.top_bottom) cv::flip(to.channel[k], to.channel[k], 0);
    }
}

}  // namespace optrel::av
