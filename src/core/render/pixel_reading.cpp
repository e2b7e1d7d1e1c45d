// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/pixel_reading.h"

#include <fmt/format.h>

#include <cmath>

#include "base/error.h"
#include "render/cielab.h"

namespace optrel {
namespace {

constexpr int most_pixels = 1000000;

/// Mean and deviation of the raw samples in a square of the frame.
std::array<PixelReading::Counts, 3> counts_in(const PreparedFrame& frame, const Vec2& middle, const cv::Size& size) {
    std::array<double, 3> sum{}, squares{};
    std::array<PixelReading::Counts, 3> out;
    const auto left = static_cast<int>(std::lround(middle.x() - 0.5 * size.width)) / 2 * 2,
               top = static_cast<int>(std::lround(middle.y() - 0.5 * size.height)) / 2 * 2;
    for (int y = top; y < top + size.height; y += 2)
        for (int x = left; x < left + size.width; x += 2)
            for (const auto& s : frame.samples_at({x + 0.5, y + 0.5})) {
                const auto c = static_cast<std::size_t>(s.channel);
                sum[c] += s.count;
                squares[c] += s.count * s.count;
                ++out[c].samples;
            }
    for (std::size_t c = 0; c < 3; ++c) {
        const double n = out[c].samples;
        if (n < 1) continue;
        out[c].mean = sum[c] / n;
        out[c].deviation = n > 1 ? std::sqrt(std::max(0.0, (squares[c] - n * out[c].mean * out[c].mean) / (n - 1))) : 0;
    }
    return out;
}

}  // namespace

PixelReading read_pixels(const PreparedFrame& frame, const ResolvedFrame& fields,
                         const std::optional<AppliedProfile>& profile, const cv::Rect& area, const Progress& progress) {
    const cv::Rect whole({0, 0}, frame.size());
    if (area.empty() || (area & whole) != area)
        throw input_error("The place lies outside the picture; point inside it.");
    if (area.area() > most_pixels)
        throw input_error(fmt::format("The patch holds {} pixels; draw one of at most {}.", area.area(), most_pixels));
    PixelReading out;
    out.area = area;
    out.white = frame.white_above_black();
    const Sampling at{double(area.x), double(area.y), 1, area.size()};
    const PreparedFrame::Look look =
        frame.look(fields, profile, at, progress, {.keep = PreparedFrame::Keep::developed});
    cv::Vec3d light, lab, squares;
    int n = 0;
    for (int row = 0; row < area.height; ++row)
        for (int i = 0; i < area.width; ++i) {
            if (look.empty(row, i)) continue;
            const cv::Vec3f v(look.developed.channel[0](row, i), look.developed.channel[1](row, i),
                              look.developed.channel[2](row, i));
            const cv::Vec3d l = cielab(v);
            light += cv::Vec3d(v);
            lab += l;
            squares += l.mul(l);
            ++n;
        }
    if (n == 0) throw input_error("The picture is empty there; point at a part that the frame covers.");
    out.light = cv::Vec3f(light * (1.0 / n));
    out.lab = lab * (1.0 / n);
    for (int k = 0; n > 1 && k < 3; ++k)
        out.lab_deviation[k] = std::sqrt(std::max(0.0, (squares[k] - n * out.lab[k] * out.lab[k]) / (n - 1)));
    const Vec2 middle(area.x + 0.5 * area.width, area.y + 0.5 * area.height);
    if (const auto beneath = look.framing->view.green(middle)) {
        if (out.patch())
            out.counts = counts_in(frame, *beneath, area.size());
        else
            out.samples = frame.samples_at(*beneath);
    }
    return out;
}

std::string in_words(const PixelReading& r, ColourSpace space, const cv::Point& place) {
    static constexpr const char* names[] = {"R", "G", "B"};
    std::string text = r.patch()
                           ? fmt::format("Patch of {} × {} px at {}, {}", r.area.width, r.area.height, place.x, place.y)
                           : fmt::format("Px {}, {}", place.x, place.y);
    if (!r.samples.empty()) {
        text += " · raw";
        for (const auto& s : r.samples) text += fmt::format(" {} {:.0f}", names[static_cast<int>(s.channel)], s.count);
        text += fmt::format(" of {:.0f}", r.white);
    } else if (r.patch() && r.white > 0) {
        text += " · raw";
        for (std::size_t c = 0; c < 3; ++c)
            if (r.counts[c].samples > 0)
                text += fmt::format(" {} {:.1f} ± {:.1f}", names[c], r.counts[c].mean, r.counts[c].deviation);
        text += fmt::format(" of {:.0f}", r.white);
    }
    const cv::Matx33f m = srgb_to(space);
    const cv::Vec3f v = m * r.light;
    text += fmt::format(" · {}", name_of(space));
    for (int c = 0; c < 3; ++c)
        text += fmt::format(" {:.1f}", 255 * encode_light(space, std::clamp(double(v[c]), 0.0, 1.0)));
    text += " of 255";
    text += r.patch() ? fmt::format(" · L* {:.2f} ± {:.2f}, a* {:+.2f} ± {:.2f}, b* {:+.2f} ± {:.2f}", r.lab[0],
                                    r.lab_deviation[0], r.lab[1], r.lab_deviation[1], r.lab[2], r.lab_deviation[2])
                      : fmt::format(" · L* {:.1f}, a* {:+.1f}, b* {:+.1f}", r.lab[0], r.lab[1], r.lab[2]);
    return text;
}

}  // namespace optrel
