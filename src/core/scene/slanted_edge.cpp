// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/slanted_edge.h"

#include <algorithm>
#include <cmath>
#include <complex>

#include "base/angle.h"
#include "scene/edge_fit.h"

namespace optrel {
namespace {

constexpr double bin = 0.25;  ///< px

/// Samples of the edge in bins across it.
struct Binned {
    std::vector<double> value, variance;  ///< mean of each bin and the variance of that mean
    bool full = true;                     ///< every bin has samples
};

Binned in_bins(const std::vector<EdgeSample>& samples, const StepFit& fit, int half_bins) {
    const int count = 2 * half_bins + 1;
    std::vector<double> sum(count), square(count), n(count), place(count);
    for (const EdgeSample& s : samples) {
        const double x = (s.across - fit.place(s.along)) / bin;
        const int k = static_cast<int>(std::lround(x)) + half_bins;
        if (k < 0 || k >= count) continue;
        sum[k] += s.value;
        square[k] += s.value * s.value;
        place[k] += x - (k - half_bins);
        ++n[k];
    }
    Binned out;
    out.value.resize(count);
    out.variance.resize(count);
    double noise = 0, freedom = 0;
    for (int k = 0; k < count; ++k) {
        if (n[k] < 1) {
            out.full = false;
            return out;
        }
        out.value[k] = sum[k] / n[k];
        // Where the edge is flat, samples in a bin differ only by noise.
        if (std::abs(k - half_bins) > half_bins / 2 && n[k] > 1) {
            noise += square[k] - n[k] * out.value[k] * out.value[k];
            freedom += n[k] - 1;
        }
    }
    const double variance = freedom > 0 ? noise / freedom : 0;
    for (int k = 0; k < count; ++k) out.variance[k] = variance / n[k];
    // The samples of a bin are not exactly centred in it; the slope between its neighbours corrects that.
    const std::vector<double> raw = out.value;
    for (int k = 1; k + 1 < count; ++k) out.value[k] -= place[k] / n[k] * 0.5 * (raw[k + 1] - raw[k - 1]);
    return out;
}

double sinc(double x) { return std::abs(x) < 1e-9 ? 1 : std::sin(pi * x) / (pi * x); }

/// The modulation over frequency, and the noise power in it.
struct Transfer {
    std::vector<double> mtf;
    double noise = 0;

    double noise_power(double frequency) const { return noise * 4 * std::pow(std::sin(pi * frequency * bin), 2); }
};

Transfer transfer_of(const Binned& edge) {
    Transfer out;
    const int count = static_cast<int>(edge.value.size()) - 1;
    std::vector<double> window(count);
    for (int k = 0; k < count; ++k) {
        // A window that is flat in the middle and then falls to zero: it keeps the tails of an edge and drops noise far
        // from it.
        const double x = std::abs(k - 0.5 * (count - 1)) / (0.5 * count);
        window[k] = x < 0.5 ? 1 : 0.5 + 0.5 * std::cos(2 * pi * (x - 0.5));
    }
    double total = 0, noise = 0;
    for (int k = 0; k < count; ++k) {
        total += window[k] * (edge.value[k + 1] - edge.value[k]);
        noise += window[k] * window[k] * edge.variance[k];
    }
    out.noise = noise / (total * total);
    for (double f = 0; f < 1.0001; f += EdgeResponse::frequency_step) {
        std::complex<double> sum = 0;
        for (int k = 0; k < count; ++k)
            sum += window[k] * (edge.value[k + 1] - edge.value[k]) * std::polar(1.0, -2 * pi * f * bin * k);
        const double power = std::norm(sum) / (total * total) - out.noise_power(f);
        out.mtf.push_back(std::sqrt(std::max(0.0, power)) / (sinc(f * bin) * sinc(f * bin)));
    }
    return out;
}

/// A lens reduces modulation with frequency, and sharpening adds one maximum. A second step or a line beside the edge
/// makes it fall and rise again, which is not the response of one edge.
bool rises_again(const std::vector<double>& mtf, double noise_level) {
    const double limit = std::max(0.15, 4 * noise_level);
    double lowest = 1;
    bool fell = false;
    double highest = 1;
    constexpr std::size_t nyquist = 50;  // 0.5 cycles per pixel
    for (std::size_t k = 0; k < std::min(nyquist, mtf.size()); ++k) {
        const double m = mtf[k];
        highest = std::max(highest, m);
        if (m < highest - limit) fell = true;
        if (fell) {
            lowest = std::min(lowest, m);
            if (m > lowest + limit) return true;
        }
    }
    return false;
}

}  // namespace

double EdgeResponse::at(double frequency) const {
    if (mtf.empty() || frequency < 0) return 0;
    const double x = frequency / frequency_step;
    const auto k = static_cast<std::size_t>(x);
    if (k + 1 >= mtf.size()) return mtf.back();
    return mtf[k] + (x - static_cast<double>(k)) * (mtf[k + 1] - mtf[k]);
}

EdgeResponse edge_response(const MeasuringPicture& picture, Channel channel, const Vec2& from, const Vec2& to,
                           double half_width) {
    EdgeResponse out;
    out.channel = channel;
    out.middle = 0.5 * (from + to);
    const auto refuse = [&](const std::string& why) {
        out.why_not = why;
        return out;
    };
    constexpr double least_length = 16, least_half_width = 4, most_half_width = 14;
    const double length = (to - from).norm();
    if (length < least_length) return refuse("The edge is too short; 16 px are needed.");
    half_width = std::min(half_width, most_half_width);
    if (half_width < least_half_width) return refuse("There is too little room beside the edge; mark a larger one.");
    const std::vector<EdgeSample> samples = samples_along(picture, channel, from, to, half_width);
    constexpr std::size_t enough = 60;
    if (samples.size() < enough) return refuse("The edge lies outside the frame or has too few samples.");
    const auto white =
        std::count_if(samples.begin(), samples.end(), [](const EdgeSample& e) { return e.value >= 0.999; });
    if (white > static_cast<long>(samples.size() / 100))
        return refuse("The brighter side of the edge is at the white level; expose less.");
    const StepFit fit = fit_step(samples, 0.5 * length, half_width);
    const double step = fit.p(1) - fit.p(0);
    const Vec2 along = (to - from) / length, normal(-along.y(), along.x());
    out.across = step >= 0 ? normal : Vec2(-normal);
    out.middle += normal * fit.place(0);
    if (std::abs(step) < 0.02) return refuse("The edge has hardly any contrast.");
    if (std::abs(fit.place(0)) > 0.5 * half_width || std::abs(fit.p(3)) > 0.4 * half_width)
        return refuse("No straight edge lies between the two places.");
    const int half_bins =
        static_cast<int>((half_width - std::abs(fit.p(2)) - std::abs(fit.p(3)) - std::abs(fit.p(4))) / bin) - 1;
    if (half_bins < 12) return refuse("There is too little room beside the edge; mark a larger one.");
    const Binned edge = in_bins(samples, fit, half_bins);
    if (!edge.full)
        return refuse("The edge stands too straight to the pixels, or is too short, to be sampled between them.");

    const Transfer transfer = transfer_of(edge);
    out.mtf = transfer.mtf;
    if (rises_again(out.mtf, std::sqrt(transfer.noise_power(0.25))))
        return refuse("Something else lies beside the edge; mark one with nothing near it.");
    for (std::size_t k = 1; k < out.mtf.size(); ++k)
        if (out.mtf[k] < 0.5) {
            const double slope = out.mtf[k - 1] - out.mtf[k];
            out.mtf50 = EdgeResponse::frequency_step * (k - 1 + (out.mtf[k - 1] - 0.5) / slope);
            // Half of the noise power is in phase with the signal; the slope over a tenth is less noisy than over one
            // step.
            const std::size_t low = k > 5 ? k - 5 : 0, high = std::min(out.mtf.size() - 1, k + 5);
            const double mean_slope = (out.mtf[low] - out.mtf[high]) / (EdgeResponse::frequency_step * (high - low));
            out.sigma = std::sqrt(0.5 * transfer.noise_power(out.mtf50)) / std::max(0.1, mean_slope);
            out.usable = true;
            return out;
        }
    return refuse("The edge is sharper than the pixels can tell.");
}

}  // namespace optrel
