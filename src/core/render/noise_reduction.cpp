// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/noise_reduction.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "render/strips.h"

namespace optrel {
namespace {

/// Index mirrored at the ends, as in 2 1 0 1 2.
int mirrored(int i, int n) {
    if (n == 1) return 0;
    while (i < 0 || i >= n) i = i < 0 ? -i : 2 * (n - 1) - i;
    return i;
}

/// One smoothing step: five taps of the B3 spline with holes of 2^scale - 1 between them, down and then across.
void smooth(const cv::Mat1f& in, cv::Mat1f& out, int scale) {
    const int hole = 1 << scale, width = in.cols, height = in.rows;
    out.create(in.size());
    for_strips(height, [&](int first, int end) {
        std::vector<float> padded(width + 4 * hole);
        float* down = padded.data() + 2 * hole;
        for (int row = first; row < end; ++row) {
            const float* tap[5];
            for (int k = 0; k < 5; ++k) tap[k] = in.ptr<float>(mirrored(row + (k - 2) * hole, height));
            for (int i = 0; i < width; ++i)
                down[i] = 0.0625f * (tap[0][i] + tap[4][i]) + 0.25f * (tap[1][i] + tap[3][i]) + 0.375f * tap[2][i];
            for (int k = 1; k <= 2 * hole; ++k) {
                down[-k] = down[mirrored(-k, width)];
                down[width - 1 + k] = down[mirrored(width - 1 + k, width)];
            }
            float* to = out.ptr<float>(row);
            const float *a = down - 2 * hole, *b = down - hole, *c = down + hole, *d = down + 2 * hole;
            for (int i = 0; i < width; ++i) to[i] = 0.0625f * (a[i] + d[i]) + 0.25f * (b[i] + c[i]) + 0.375f * down[i];
        }
    });
}

/// Variance of values against the signal, from samples on a sparse grid. The lower quartile of the magnitude excludes
/// texture and edges; for a normal distribution it is 0.3186 sigma.
template <class Value>
NoiseModel noise_of(const cv::Mat1f& signal, const Value& value) {
    constexpr int bins = 12;
    std::vector<float> sizes[bins];
    const int step = std::max(1, static_cast<int>(std::sqrt(signal.total() / 400000.0)));
    for (int y = 2; y < signal.rows - 2; y += step)
        for (int x = 2; x < signal.cols - 2; x += step) {
            const float level = signal(y, x);
            if (level >= 0 && level < 1)
                sizes[std::min(bins - 1, static_cast<int>(std::sqrt(level) * bins))].push_back(std::abs(value(y, x)));
        }
    double sw = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
    for (int i = 0; i < bins; ++i) {
        if (sizes[i].size() < 200) continue;
        std::nth_element(sizes[i].begin(), sizes[i].begin() + sizes[i].size() / 4, sizes[i].end());
        const double sigma = sizes[i][sizes[i].size() / 4] / 0.3186;
        const double x = (i + 0.5) * (i + 0.5) / (bins * bins), variance = sigma * sigma;
        const double w = sizes[i].size() / std::max(1e-14, variance * variance);
        sw += w;
        sx += w * x;
        sy += w * variance;
        sxx += w * x * x;
        sxy += w * x * variance;
    }
    NoiseModel m;
    if (sw <= 0) return m;
    const double det = sw * sxx - sx * sx;
    m.a = det > 1e-12 * sw * sxx ? std::max(0.0, (sw * sxy - sx * sy) / det) : 0;
    m.b = std::max(0.0, (sy - m.a * sx) / sw);
    return m;
}

/// Interpolation correlates the noise of neighbours, so it is estimated from the detail of each scale. Beyond the
/// second scale noise decreases by more than this factor; what decreases less is texture.
NoiseModel within(const NoiseModel& own, const NoiseModel& finer, int scale) {
    constexpr double most = 0.6;
    if (scale < 2) return own;
    return {std::min(own.a, most * most * finer.a), std::min(own.b, most * most * finer.b)};
}

/// Moves a detail into place of `rest`, and its square into `square`.
void take_detail(cv::Mat1f& rest, const cv::Mat1f& smoother, cv::Mat1f& square) {
    for_strips(rest.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            float *in = rest.ptr<float>(row), *to = square.ptr<float>(row);
            const float* low = smoother.ptr<float>(row);
            for (int i = 0; i < rest.cols; ++i) {
                in[i] -= low[i];
                to[i] = in[i] * in[i];
            }
        }
    });
}

/// Gains of falloff correction along a row of the planes.
class RowGains {
public:
    RowGains(const KnownNoise* known, int width) : known_(known && known->gains ? known : nullptr) {
        if (known_) gains_.resize(static_cast<std::size_t>(width));
    }
    /// Null where the light was not corrected.
    const float* at(int row) {
        if (!known_) return nullptr;
        const float u = static_cast<float>(known_->part.x) + 0.5f, v = static_cast<float>(known_->part.y + row) + 0.5f;
        for (std::size_t i = 0; i < gains_.size(); ++i) gains_[i] = known_->gains->at(1, u + static_cast<float>(i), v);
        return gains_.data();
    }

private:
    const KnownNoise* known_;
    std::vector<float> gains_;
};

/// Takes noise out scale by scale. The share of each detail that is kept is that of an estimator with the least mean
/// square error for a signal of the energy that is found around it, beyond that of the noise (Mihcak, Kozintsev,
/// Ramchandran 1999): E = mean of detail^2, kept = max(0, 1 - (factor sigma)^2 / E). Even areas lose all of their
/// noise, while texture, whose energy exceeds it, stays. `models`: the noise of each scale; null: it is measured.
void shrink(cv::Mat1f& plane, const cv::Mat1f& signal, double factor, int scales, const KnownNoise* known,
            const std::vector<NoiseModel>* models, const Progress& progress) {
    cv::Mat1f rest = plane.clone(), smoother, energy;
    cv::Mat1f sum = cv::Mat1f::zeros(plane.size()), square(plane.size());
    NoiseModel noise;
    for (int scale = 0; scale < scales; ++scale) {
        progress.check();
        smooth(rest, smoother, scale);
        if (models)
            noise = (*models)[static_cast<std::size_t>(scale)];
        else
            noise = within(noise_of(signal, [&](int y, int x) { return rest(y, x) - smoother(y, x); }), noise, scale);
        take_detail(rest, smoother, square);
        progress.check();
        smooth(square, energy, scale);
        const float k = static_cast<float>(factor * factor), a = static_cast<float>(noise.a),
                    b = static_cast<float>(noise.b);
        for_strips(plane.rows, [&](int first, int end) {
            RowGains gains(models ? known : nullptr, plane.cols);
            for (int row = first; row < end; ++row) {
                const float *detail = rest.ptr<float>(row), *e = energy.ptr<float>(row),
                            *level = signal.ptr<float>(row), *gain = gains.at(row);
                float* to = sum.ptr<float>(row);
                for (int i = 0; i < plane.cols; ++i) {
                    // Light that was brightened by g has g^2 times the variance of the light that was recorded.
                    const float g = gain ? gain[i] : 1.f;
                    const float variance = k * g * (a * std::max(0.f, level[i]) + b * g);
                    to[i] += detail[i] * std::max(0.f, 1 - variance / std::max(1e-20f, e[i]));
                }
            }
        });
        std::swap(rest, smoother);
    }
    for_strips(plane.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            for (int i = 0; i < plane.cols; ++i) plane(row, i) = sum(row, i) + rest(row, i);
    });
}

std::vector<NoiseModel> noise_by_scale(const cv::Mat1f& plane, const cv::Mat1f& signal, int scales) {
    std::vector<NoiseModel> out;
    cv::Mat1f rest = plane, smoother;
    for (int scale = 0; scale < scales; ++scale) {
        smooth(rest, smoother, scale);
        out.push_back(noise_of(signal, [&](int y, int x) { return rest(y, x) - smoother(y, x); }));
        rest = smoother.clone();
    }
    return out;
}

/// An orthogonal transform of camera colours: Y = (R + 2 G + B) / 4, and the differences R - G, B - G.
struct LightAndColour {
    cv::Mat1f y, red, blue;
    cv::Mat1f signal;  ///< Y without the noise of single pixels

    explicit LightAndColour(const Planes& planes) : y(planes.size()), red(planes.size()), blue(planes.size()) {
        for_strips(y.rows, [&](int first, int end) {
            for (int row = first; row < end; ++row) {
                const float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row),
                            *b = planes.channel[2].ptr<float>(row);
                float *py = y.ptr<float>(row), *pr = red.ptr<float>(row), *pb = blue.ptr<float>(row);
                for (int i = 0; i < y.cols; ++i) {
                    py[i] = 0.25f * (r[i] + 2 * g[i] + b[i]);
                    pr[i] = r[i] - g[i];
                    pb[i] = b[i] - g[i];
                }
            }
        });
        smooth(y, signal, 1);
    }

    void put_into(Planes& planes) const {
        for_strips(y.rows, [&](int first, int end) {
            for (int row = first; row < end; ++row) {
                float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row),
                      *b = planes.channel[2].ptr<float>(row);
                const float *py = y.ptr<float>(row), *pr = red.ptr<float>(row), *pb = blue.ptr<float>(row);
                for (int i = 0; i < y.cols; ++i) {
                    g[i] = py[i] - 0.25f * (pr[i] + pb[i]);
                    r[i] = g[i] + pr[i];
                    b[i] = g[i] + pb[i];
                }
            }
        });
    }
};

constexpr int luminance_scales = 3, colour_scales = 5;

}  // namespace

NoiseModel measure_noise(const cv::Mat1f& plane, const cv::Mat1f& signal) {
    // For white noise, detail against the mean of 4 neighbours has 1.25 times its variance.
    const float white = 1 / std::sqrt(1.25f);
    return noise_of(signal, [&](int y, int x) {
        return white * (plane(y, x) - 0.25f * (plane(y, x - 1) + plane(y, x + 1) + plane(y - 1, x) + plane(y + 1, x)));
    });
}

NoiseModel noise_of_difference(const cv::Mat1f& difference, const cv::Mat1f& signal) {
    return noise_of(signal, [&](int y, int x) { return difference(y, x); });
}

ScaleNoise measure_by_scale(const Planes& planes) {
    const LightAndColour parts(planes);
    return {noise_by_scale(parts.y, parts.signal, luminance_scales),
            noise_by_scale(parts.red, parts.signal, colour_scales),
            noise_by_scale(parts.blue, parts.signal, colour_scales)};
}

void reduce_noise(Planes& planes, double luminance_strength, double colour_strength, const KnownNoise* known,
                  const Progress& progress) {
    if (luminance_strength <= 0 && colour_strength <= 0) return;
    LightAndColour parts(planes);
    const ScaleNoise* models = known ? known->scales.get() : nullptr;
    if (luminance_strength > 0)
        shrink(parts.y, parts.signal, luminance_strength / 40, luminance_scales, known,
               models ? &models->luminance : nullptr, progress);
    if (colour_strength > 0) {
        shrink(parts.red, parts.signal, colour_strength / 20, colour_scales, known, models ? &models->red : nullptr,
               progress);
        shrink(parts.blue, parts.signal, colour_strength / 20, colour_scales, known, models ? &models->blue : nullptr,
               progress);
    }
    parts.put_into(planes);
}

}  // namespace optrel
