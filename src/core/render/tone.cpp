// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/tone.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "render/colour_rendering.h"
#include "render/strips.h"

namespace optrel {
namespace {

constexpr float mid_grey = 0.18f;

/// A curve over linear light, tabulated over its square root up to 4.
class Table {
public:
    template <class Curve>
    explicit Table(const Curve& curve) {
        for (int i = 0; i <= entries + 1; ++i) {
            const float root = 2.f * i / entries;
            values_[i] = curve(root * root);
        }
    }
    float operator()(float x) const {
        const float at = std::sqrt(std::min(4.f, std::max(0.f, x))) * (entries / 2.f);
        const int i = static_cast<int>(at);
        return values_[i] + (at - i) * (values_[i + 1] - values_[i]);
    }

private:
    static constexpr int entries = 4096;
    std::array<float, entries + 2> values_;
};

float along(const std::vector<std::pair<float, float>>& curve, float x) {
    if (x <= curve.front().first) return curve.front().second;
    if (x >= curve.back().first) return curve.back().second;
    const auto above = std::upper_bound(curve.begin(), curve.end(), x,
                                        [](float value, const auto& point) { return value < point.first; });
    const auto below = above - 1;
    return below->second + (x - below->first) / (above->first - below->first) * (above->second - below->second);
}

void multiply(Planes& planes, const cv::Matx33f& m) {
    for_strips(planes.size().height, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row),
                  *b = planes.channel[2].ptr<float>(row);
            for (int i = 0; i < planes.size().width; ++i) {
                const float x = m(0, 0) * r[i] + m(0, 1) * g[i] + m(0, 2) * b[i];
                const float y = m(1, 0) * r[i] + m(1, 1) * g[i] + m(1, 2) * b[i];
                const float z = m(2, 0) * r[i] + m(2, 1) * g[i] + m(2, 2) * b[i];
                r[i] = x;
                g[i] = y;
                b[i] = z;
            }
        }
    });
}

template <class Function>
void each_value(Planes& planes, const Function& f) {
    for_strips(planes.size().height, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            for (cv::Mat1f& plane : planes.channel) {
                float* p = plane.ptr<float>(row);
                for (int i = 0; i < plane.cols; ++i) p[i] = f(p[i]);
            }
    });
}

/// Changes the distance of every colour from the grey of its luminance: 1 keeps it, 0 gives that grey.
void saturate(Planes& planes, float factor) {
    for_strips(planes.size().height, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row),
                  *b = planes.channel[2].ptr<float>(row);
            for (int i = 0; i < planes.size().width; ++i) {
                const float grey = luma[0] * r[i] + luma[1] * g[i] + luma[2] * b[i];
                r[i] = grey + factor * (r[i] - grey);
                g[i] = grey + factor * (g[i] - grey);
                b[i] = grey + factor * (b[i] - grey);
            }
        }
    });
}

/// The luminances that become black and 95 percent of white: from the histogram of all samples over the square root of
/// light, with steps finer than those of 16 bits.
std::pair<float, float> levels_of(const Planes& planes) {
    constexpr int bins = 1 << 17;
    constexpr float brightest = 2;  // the root of four times white
    std::vector<std::uint32_t> count(bins);
    const cv::Size size = planes.size();
    for (int row = 0; row < size.height; ++row) {
        const float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row),
                    *b = planes.channel[2].ptr<float>(row);
        for (int i = 0; i < size.width; ++i) {
            const float root = std::sqrt(std::max(0.f, luma[0] * r[i] + luma[1] * g[i] + luma[2] * b[i]));
            ++count[std::min(bins - 1, static_cast<int>(root * (bins / brightest)))];
        }
    }
    const auto at = [&](double share) {
        const double wanted = share * size.area();
        double below = 0;
        int bin = 0;
        while (bin < bins - 1 && below + count[bin] <= wanted) below += count[bin++];
        const double root = (bin + (count[bin] ? (wanted - below) / count[bin] : 0.)) * brightest / bins;
        return static_cast<float>(root * root);
    };
    const float low = at(0.001), high = at(0.999);
    return high > low + 1e-4f ? std::pair(low, high) : std::pair(0.f, 0.95f);
}

/// Converts camera values to linear sRGB and applies the exposure.
void expose(Planes& planes, const cv::Matx33f& matrix, const ToneSettings& s) {
    const auto gain = static_cast<float>(std::exp2(s.exposure_ev));
    if (s.colours)
        s.colours->begin(planes, gain);
    else if (gain != 1 || matrix != cv::Matx33f::eye())
        multiply(planes, matrix * gain);
}

}  // namespace

ToneSettings tone_settings(const ResolvedFrame& f, const EmbeddedRendering& embedded,
                           std::shared_ptr<const ColourRendering> colours) {
    const auto number = [&](Field field) { return f[field].value.number; };
    ToneSettings s;
    s.exposure_ev = number(Field::exposure);
    s.black_point = number(Field::black_point) / 100;
    s.contrast = number(Field::contrast);
    s.saturation = number(Field::saturation);
    s.auto_levels = f[Field::auto_levels].value.text == "on";
    const std::string& rendering = f[Field::rendering].value.text;
    s.monochrome = rendering == "monochrome";
    if (rendering == "channel mix")
        for (int i = 0; i < 9; ++i)
            s.mix.val[i] =
                static_cast<float>(number(static_cast<Field>(static_cast<int>(Field::mix_red_red) + i)) / 100);
    if (rendering == "as recorded") {
        s.exposure_ev += embedded.baseline_exposure;
        if (!colours || !colours->has_curve()) s.curve = embedded.tone_curve;
    }
    if (colours) s.exposure_ev += colours->exposure_offset();
    s.colours = std::move(colours);
    return s;
}

std::pair<float, float> auto_levels(Planes planes, const cv::Matx33f& matrix, const ToneSettings& s) {
    expose(planes, matrix, s);
    return levels_of(planes);
}

void tone(Planes& planes, const cv::Matx33f& matrix, const ToneSettings& s) {
    expose(planes, matrix, s);
    if (s.auto_levels) {
        const auto [low, high] = s.levels ? *s.levels : levels_of(planes);
        const float slope = 0.95f / (high - low);
        each_value(planes, [low = low, slope](float x) { return (x - low) * slope; });
    }
    if (s.black_point != 0) {
        const float black = static_cast<float>(s.black_point), slope = 1 / (1 - black);
        each_value(planes, [=](float x) { return (x - black) * slope; });
    }
    if (s.mix != cv::Matx33f::eye()) multiply(planes, s.mix);
    if (s.colours) s.colours->finish(planes);
    if (s.curve.size() > 1) {
        const Table table([&](float x) { return along(s.curve, x); });
        each_value(planes, table);
    }
    if (s.contrast != 0) {
        const float slope = static_cast<float>(std::exp2(s.contrast / 100));
        const Table table([=](float x) { return mid_grey * std::pow(x / mid_grey, slope); });
        each_value(planes, table);
    }
    if (s.monochrome)
        saturate(planes, 0);
    else if (s.saturation != 0)
        saturate(planes, static_cast<float>(1 + s.saturation / 100));
}

}  // namespace optrel
