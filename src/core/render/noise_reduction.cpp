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

/// Gains of falloff correction along a row of the planes.
class RowGains {
public:
    RowGains(const KnownNoise* known, int width)
        : known_(known && known->gains ? known : nullptr), gains_(static_cast<std::size_t>(width), 1.f) {}
    /// 1 where the light was not corrected. `step`: px of the frame from one sample to the next.
    const float* at(int row, int step) {
        if (!known_) return gains_.data();
        const float half = 0.5f * static_cast<float>(step);
        const float u = static_cast<float>(known_->part.x) + half,
                    v = static_cast<float>(known_->part.y + step * row) + half;
        for (std::size_t i = 0; i < gains_.size(); ++i)
            gains_[i] = known_->gains->at(1, u + static_cast<float>(step) * static_cast<float>(i), v);
        return gains_.data();
    }

private:
    const KnownNoise* known_;
    std::vector<float> gains_;
};

/// Mirrors a line into `reach` samples before and after it.
void pad(float* line, int width, int reach) {
    for (int k = 1; k <= reach; ++k) {
        line[-k] = line[mirrored(-k, width)];
        line[width - 1 + k] = line[mirrored(width - 1 + k, width)];
    }
}

/// The squares of a detail in a row, smoothed downwards.
void squares_down(const cv::Mat1f& rest, const cv::Mat1f& smoother, int row, int gap, float* to) {
    const float *in[5], *low[5];
    for (int k = 0; k < 5; ++k) {
        const int at = mirrored(row + (k - 2) * gap, rest.rows);
        in[k] = rest.ptr<float>(at);
        low[k] = smoother.ptr<float>(at);
    }
    const int width = rest.cols;
    const float *i0 = in[0], *i1 = in[1], *i2 = in[2], *i3 = in[3], *i4 = in[4];
    const float *l0 = low[0], *l1 = low[1], *l2 = low[2], *l3 = low[3], *l4 = low[4];
#pragma GCC ivdep  // no two of these lines overlap, and there are too many to check for it
    for (int i = 0; i < width; ++i) {
        const float a = i0[i] - l0[i], b = i1[i] - l1[i], c = i2[i] - l2[i], d = i3[i] - l3[i], e = i4[i] - l4[i];
        to[i] = 0.0625f * (a * a + e * e) + 0.25f * (b * b + d * d) + 0.375f * c * c;
    }
}

NoiseModel noise_in(const cv::Mat1f& rest, const cv::Mat1f& smoother, const cv::Mat1f& signal) {
    return noise_of(signal, [&](int y, int x) { return rest(y, x) - smoother(y, x); });
}

/// The share of each detail that is kept is that of an estimator with the least mean square error for a signal of the
/// energy that is found around it, beyond that of the noise (Mihcak, Kozintsev, Ramchandran 1999): E = mean of
/// detail^2, kept = max(0, 1 - (factor sigma)^2 / E). Even areas lose all of their noise, while texture, whose energy
/// exceeds it, stays.
class Shrinkage {
public:
    /// `models`: the noise of each scale; null: it is measured.
    Shrinkage(double factor, const KnownNoise* known, const std::vector<NoiseModel>* models, const Progress& progress)
        : square_of_factor_(static_cast<float>(factor * factor)),
          known_(models ? known : nullptr),
          models_(models),
          progress_(progress) {}

    /// Adds to `sum` what is kept of the detail rest - smoother. `scale`: of the whole series; `hole`: that of the
    /// planes given, which are `step` px of the frame apart. Detail and energy are computed row by row, because writing
    /// them for the whole plane costs more than computing them.
    void keep(cv::Mat1f& sum, const cv::Mat1f& rest, const cv::Mat1f& smoother, const cv::Mat1f& signal, int scale,
              int hole, int step) {
        progress_.check();
        noise_ = models_ ? (*models_)[static_cast<std::size_t>(scale)]
                         : within(noise_in(rest, smoother, signal), noise_, scale);
        const float k = square_of_factor_, a = static_cast<float>(noise_.a), b = static_cast<float>(noise_.b);
        const int gap = 1 << hole, width = rest.cols;
        for_strips(rest.rows, [&](int first, int end) {
            RowGains gains(known_, width);
            std::vector<float> padded(static_cast<std::size_t>(width + 4 * gap));
            float* down = padded.data() + 2 * gap;
            for (int row = first; row < end; ++row) {
                squares_down(rest, smoother, row, gap, down);
                pad(down, width, 2 * gap);
                const float *in = rest.ptr<float>(row), *low = smoother.ptr<float>(row),
                            *level = signal.ptr<float>(row), *gain = gains.at(row, step);
                const float *e1 = down - 2 * gap, *e2 = down - gap, *e4 = down + gap, *e5 = down + 2 * gap;
                float* to = sum.ptr<float>(row);
#pragma GCC ivdep  // no two of these lines overlap, and there are too many to check for it
                for (int i = 0; i < width; ++i) {
                    const float energy = 0.0625f * (e1[i] + e5[i]) + 0.25f * (e2[i] + e4[i]) + 0.375f * down[i];
                    // Light that was brightened by g has g^2 times the variance of the light that was recorded.
                    const float g = gain[i];
                    const float variance = k * g * (a * std::max(0.f, level[i]) + b * g);
                    to[i] += (in[i] - low[i]) * std::max(0.f, 1 - variance / std::max(1e-20f, energy));
                }
            }
        });
    }

private:
    float square_of_factor_;
    const KnownNoise* known_;
    const std::vector<NoiseModel>* models_;
    const Progress& progress_;
    NoiseModel noise_;
};

/// Every second sample each way: means of two by two, which ends smoothed planes without aliasing.
cv::Mat1f halved(const cv::Mat1f& plane) {
    cv::Mat1f out((plane.rows + 1) / 2, (plane.cols + 1) / 2);
    for_strips(out.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const float *a = plane.ptr<float>(2 * row), *b = plane.ptr<float>(std::min(2 * row + 1, plane.rows - 1));
            float* to = out.ptr<float>(row);
            const int whole = plane.cols / 2;
            for (int i = 0; i < whole; ++i) to[i] = 0.25f * (a[2 * i] + a[2 * i + 1] + b[2 * i] + b[2 * i + 1]);
            if (out.cols > whole) to[whole] = 0.5f * (a[2 * whole] + b[2 * whole]);
        }
    });
    return out;
}

/// Samples of halved() at the places of the whole, linearly; `out` has its size.
void double_into(const cv::Mat1f& half, cv::Mat1f& out) {
    const cv::Size size = out.size();
    for_strips(size.height, [&](int first, int end) {
        std::vector<float> line(static_cast<std::size_t>(half.cols) + 2);
        for (int row = first; row < end; ++row) {
            const int near = row / 2, far = std::clamp(row % 2 ? near + 1 : near - 1, 0, half.rows - 1);
            const float *a = half.ptr<float>(near), *b = half.ptr<float>(far);
            for (int i = 0; i < half.cols; ++i) line[static_cast<std::size_t>(i) + 1] = 0.75f * a[i] + 0.25f * b[i];
            line.front() = line[1];
            line.back() = line[line.size() - 2];
            float* to = out.ptr<float>(row);
            const float* mid = line.data() + 1;
            for (int i = 0; 2 * i < size.width; ++i) {
                to[2 * i] = 0.75f * mid[i] + 0.25f * mid[i - 1];
                if (2 * i + 1 < size.width) to[2 * i + 1] = 0.75f * mid[i] + 0.25f * mid[i + 1];
            }
        }
    });
}

/// Goes through the details of a plane, finest first: each(rest, smoother, scale), of which the detail is the
/// difference. Returns what is left.
template <class Each>
cv::Mat1f take_scales(const cv::Mat1f& plane, int scales, const Each& each) {
    cv::Mat1f rest = plane, smoother;
    for (int scale = 0; scale < scales; ++scale) {
        smooth(rest, smoother, scale);
        each(rest, smoother, scale);
        // The plane itself is only read.
        const cv::Mat1f done = scale == 0 ? cv::Mat1f() : rest;
        rest = smoother;
        smoother = done;
    }
    return rest;
}

void shrink_luminance(cv::Mat1f& plane, const cv::Mat1f& signal, int scales, Shrinkage shrinkage) {
    cv::Mat1f sum = cv::Mat1f::zeros(plane.size());
    sum += take_scales(plane, scales, [&](const cv::Mat1f& rest, const cv::Mat1f& smoother, int scale) {
        shrinkage.keep(sum, rest, smoother, signal, scale, scale, 1);
    });
    plane = sum;
}

/// A colour at half the size, and what that says of the whole: the finest detail is the difference.
struct CoarseColour {
    cv::Mat1f half, whole;

    explicit CoarseColour(const cv::Mat1f& plane) {
        smooth(plane, whole, 0);
        half = halved(whole);
        double_into(half, whole);
    }
};

/// Colour has little detail beyond its finest scale, so the others are treated at half the size.
void shrink_colour(cv::Mat1f& plane, const cv::Mat1f& signal, const cv::Mat1f& half_signal, int scales,
                   Shrinkage shrinkage) {
    CoarseColour coarse(plane);
    cv::Mat1f sum = cv::Mat1f::zeros(plane.size()), half_sum = cv::Mat1f::zeros(coarse.half.size());
    shrinkage.keep(sum, plane, coarse.whole, signal, 0, 0, 1);
    half_sum += take_scales(coarse.half, scales - 1, [&](const cv::Mat1f& rest, const cv::Mat1f& smoother, int scale) {
        shrinkage.keep(half_sum, rest, smoother, half_signal, scale + 1, scale, 2);
    });
    double_into(half_sum, coarse.whole);
    sum += coarse.whole;
    plane = sum;
}

std::vector<NoiseModel> luminance_noise(const cv::Mat1f& plane, const cv::Mat1f& signal, int scales) {
    std::vector<NoiseModel> out;
    take_scales(plane, scales, [&](const cv::Mat1f& rest, const cv::Mat1f& smoother, int) {
        out.push_back(noise_in(rest, smoother, signal));
    });
    return out;
}

std::vector<NoiseModel> colour_noise_by_scale(const cv::Mat1f& plane, const cv::Mat1f& signal,
                                              const cv::Mat1f& half_signal, int scales) {
    const CoarseColour coarse(plane);
    std::vector<NoiseModel> out{noise_in(plane, coarse.whole, signal)};
    take_scales(coarse.half, scales - 1, [&](const cv::Mat1f& rest, const cv::Mat1f& smoother, int) {
        out.push_back(noise_in(rest, smoother, half_signal));
    });
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
    const cv::Mat1f half_signal = halved(parts.signal);
    return {luminance_noise(parts.y, parts.signal, luminance_scales),
            colour_noise_by_scale(parts.red, parts.signal, half_signal, colour_scales),
            colour_noise_by_scale(parts.blue, parts.signal, half_signal, colour_scales)};
}

void reduce_noise(Planes& planes, double luminance_strength, double colour_strength, const KnownNoise* known,
                  const Progress& progress) {
    if (luminance_strength <= 0 && colour_strength <= 0) return;
    LightAndColour parts(planes);
    const ScaleNoise* models = known ? known->scales.get() : nullptr;
    if (luminance_strength > 0)
        shrink_luminance(parts.y, parts.signal, luminance_scales,
                         {luminance_strength / 40, known, models ? &models->luminance : nullptr, progress});
    if (colour_strength > 0) {
        const cv::Mat1f half_signal = halved(parts.signal);
        const double factor = colour_strength / 20;
        shrink_colour(parts.red, parts.signal, half_signal, colour_scales,
                      {factor, known, models ? &models->red : nullptr, progress});
        shrink_colour(parts.blue, parts.signal, half_signal, colour_scales,
                      {factor, known, models ? &models->blue : nullptr, progress});
    }
    parts.put_into(planes);
}

}  // namespace optrel
