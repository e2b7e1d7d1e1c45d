// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/saddle_finder.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "base/angle.h"

namespace optrel {
namespace {

constexpr int ring_samples = 32;
constexpr double ring_radius = 4.5;

bool inside(const cv::Mat1f& m, const Vec2& p, double margin) {
    return p.x() >= margin && p.y() >= margin && p.x() <= m.cols - 1 - margin && p.y() <= m.rows - 1 - margin;
}

/// Centres the position on the stationary point of the local quadratic surface (Förstner 1987 for the idea).
bool centre_on_saddle(const cv::Mat1f& s, Vec2& p) {
    for (int round = 0; round < 3; ++round) {
        const int x = static_cast<int>(std::lround(p.x())), y = static_cast<int>(std::lround(p.y()));
        if (!inside(s, Vec2(x, y), ring_radius + 1)) return false;
        double gx = 0, gy = 0, xx = 0, yy = 0, xy = 0;
        // Least squares over 5 x 5 samples of a full quadratic.
        double s0 = 0, sx2 = 0, sy2 = 0;
        for (int j = -2; j <= 2; ++j)
            for (int i = -2; i <= 2; ++i) {
                const double v = s(y + j, x + i);
                gx += i * v;
                gy += j * v;
                xy += i * j * v;
                s0 += v;
                sx2 += i * i * v;
                sy2 += j * j * v;
            }
        gx /= 50;
        gy /= 50;
        xy /= 100;
        xx = (sx2 - 2 * s0) / 35;  // second derivative: twice the coefficient, from the orthogonal polynomial i^2 - 2
        yy = (sy2 - 2 * s0) / 35;
        Eigen::Matrix2d hessian;
        hessian << xx, xy, xy, yy;
        if (hessian.determinant() >= 0) return false;
        const Vec2 step = -hessian.inverse() * Vec2(gx, gy);
        if (!(step.norm() < 3)) return false;
        p = Vec2(x, y) + step;
    }
    return inside(s, p, ring_radius + 1);
}

/// Analyses the ring around a point: four crossings in two opposite pairs, and clear sectors.
bool read_ring(const cv::Mat1f& s, const Vec2& p, Saddle& out, double opposite_tolerance) {
    float ring[ring_samples];
    float low = 1e9f, high = -1e9f;
    for (int k = 0; k < ring_samples; ++k) {
        const double a = 2 * pi * k / ring_samples;
        ring[k] = sample_at(s, p + ring_radius * Vec2(std::cos(a), std::sin(a)));
        low = std::min(low, ring[k]);
        high = std::max(high, ring[k]);
    }
    const float contrast = high - low;
    if (!(contrast > 0.02f)) return false;
    const float level = 0.5f * (low + high);
    double crossing[4];
    bool rising[4];
    int n = 0;
    for (int k = 0; k < ring_samples; ++k) {
        const float a = ring[k] - level, b = ring[(k + 1) % ring_samples] - level;
        if ((a < 0) == (b < 0)) continue;
        if (n == 4) return false;
        crossing[n] = 2 * pi * (k + a / (a - b)) / ring_samples;
        rising[n++] = b >= 0;
    }
    if (n != 4) return false;
    for (int k = 0; k < 4; ++k) {
        const double gap = std::fmod(crossing[(k + 1) % 4] - crossing[k] + 2 * pi, 2 * pi);
        if (gap < 0.30 || gap > 2.85) return false;
    }
    for (int k = 0; k < 2; ++k)
        if (std::abs(crossing[k + 2] - crossing[k] - pi) > opposite_tolerance) return false;
    // Each sector must be clearly bright or dark: the weakest ones differ by at least half the contrast.
    double weakest_bright = 1e9, weakest_dark = -1e9;
    for (int k = 0; k < 4; ++k) {
        const double from = crossing[k], to = k == 3 ? crossing[0] + 2 * pi : crossing[k + 1];
        const double a = 0.5 * (from + to);
        const float v = sample_at(s, p + ring_radius * Vec2(std::cos(a), std::sin(a)));
        if (rising[k])
            weakest_bright = std::min<double>(weakest_bright, v);
        else
            weakest_dark = std::max<double>(weakest_dark, v);
    }
    if (weakest_bright - weakest_dark < 0.35 * contrast) return false;
    out.position = p;
    for (int k = 0; k < 4; ++k) out.ray[k] = crossing[k];
    out.bright_after_first = rising[0];
    out.contrast = contrast;
    return true;
}

}  // namespace

float sample_at(const cv::Mat1f& m, const Vec2& p) {
    const int x = std::clamp(static_cast<int>(std::floor(p.x())), 0, m.cols - 2),
              y = std::clamp(static_cast<int>(std::floor(p.y())), 0, m.rows - 2);
    const float fx = static_cast<float>(p.x() - x), fy = static_cast<float>(p.y() - y);
    const float *a = m.ptr<float>(y) + x, *b = m.ptr<float>(y + 1) + x;
    return (1 - fy) * ((1 - fx) * a[0] + fx * a[1]) + fy * ((1 - fx) * b[0] + fx * b[1]);
}

SearchPicture search_picture(const MeasuringPicture& picture, int longest) {
    SearchPicture out;
    out.u0 = out.v0 = 0;
    int n = 0;
    for (const SamplePlane* plane : picture.for_search(Channel::green)) {
        out.step = plane->step;
        out.u0 += plane->u0;
        out.v0 += plane->v0;
        if (n == 0)
            out.values = plane->values.clone();
        else {
            const cv::Rect common(0, 0, std::min(out.values.cols, plane->values.cols),
                                  std::min(out.values.rows, plane->values.rows));
            out.values = out.values(common) + plane->values(common);
        }
        ++n;
    }
    out.u0 /= n;
    out.v0 /= n;
    out.values /= n;
    while (std::max(out.values.cols, out.values.rows) > longest) {
        cv::Mat1f half;
        const cv::Rect even(0, 0, out.values.cols & ~1, out.values.rows & ~1);
        cv::resize(out.values(even), half, even.size() / 2, 0, 0, cv::INTER_AREA);
        out.values = half;
        out.u0 += out.step / 2;
        out.v0 += out.step / 2;
        out.step *= 2;
    }
    cv::max(out.values, 0.f, out.values);
    cv::sqrt(out.values, out.values);
    return out;
}

cv::Mat1f smoothed_for_saddles(const cv::Mat1f& values) {
    cv::Mat1f smooth;
    cv::GaussianBlur(values, smooth, {0, 0}, 1.2, 1.2, cv::BORDER_REPLICATE);
    return smooth;
}

std::vector<Saddle> find_saddles(const cv::Mat1f& values) {
    const cv::Mat1f s = smoothed_for_saddles(values);
    cv::Mat1f xx, yy, xy, high, low;
    cv::Sobel(s, xx, CV_32F, 2, 0, 3, 0.25);
    cv::Sobel(s, yy, CV_32F, 0, 2, 3, 0.25);
    cv::Sobel(s, xy, CV_32F, 1, 1, 3, 0.25);
    const cv::Mat window = cv::getStructuringElement(cv::MORPH_RECT, {9, 9});
    cv::dilate(s, high, window);
    cv::erode(s, low, window);
    cv::Mat1f score(s.size());
    for (int y = 0; y < s.rows; ++y)
        for (int x = 0; x < s.cols; ++x) {
            const float range = high(y, x) - low(y, x);
            const float determinant = xy(y, x) * xy(y, x) - xx(y, x) * yy(y, x);
            score(y, x) = range > 0.03f ? determinant / (range * range) : 0.f;
        }
    cv::Mat1f peak;
    cv::dilate(score, peak, cv::getStructuringElement(cv::MORPH_RECT, {7, 7}));
    std::vector<Saddle> found;
    const int margin = static_cast<int>(ring_radius) + 2;
    for (int y = margin; y < s.rows - margin; ++y)
        for (int x = margin; x < s.cols - margin; ++x) {
            if (score(y, x) < 0.0008f || score(y, x) < peak(y, x)) continue;
            Vec2 p(x, y);
            Saddle saddle;
            if (centre_on_saddle(s, p) && (p - Vec2(x, y)).norm() < 4 && read_ring(s, p, saddle, 0.6))
                found.push_back(saddle);
        }
    // Noise makes saddles too, with little contrast. A falloff of three stops leaves a third of the contrast in this
    // picture.
    std::vector<double> contrasts;
    for (const Saddle& s : found) contrasts.push_back(s.contrast);
    double least = 0;
    if (!contrasts.empty()) {
        const auto strong = contrasts.begin() + static_cast<std::ptrdiff_t>(0.9 * (contrasts.size() - 1));
        std::nth_element(contrasts.begin(), strong, contrasts.end());
        least = 0.2 * *strong;
    }
    // Two starts may converge to one saddle.
    std::vector<Saddle> out;
    for (const Saddle& a : found)
        if (a.contrast >= least &&
            std::none_of(out.begin(), out.end(), [&](const Saddle& b) { return (a.position - b.position).norm() < 3; }))
            out.push_back(a);
    return out;
}

bool saddle_at(const cv::Mat1f& smooth, Vec2 position, double reach, Saddle& found) {
    const Vec2 start = position;
    return inside(smooth, position, ring_radius + 2) && centre_on_saddle(smooth, position) &&
           (position - start).norm() < reach && read_ring(smooth, position, found, 0.8);
}

}  // namespace optrel
