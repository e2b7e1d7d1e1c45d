// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/copy_spread.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

#include "base/error.h"
#include "optics/compare_profiles.h"
#include "optics/frame_map.h"
#include "optics/uncertainty.h"

namespace optrel {
namespace {

/// The lower regularised incomplete gamma function, by its series, which converges for every x > 0 (Abramowitz and
/// Stegun 1964, 6.5.29).
double gamma_p(double a, double x) {
    if (x <= 0) return 0;
    double term = 1 / a, sum = term;
    for (double n = a + 1; term > sum * 1e-16; n += 1) {
        term *= x / n;
        sum += term;
    }
    return std::min(1.0, sum * std::exp(-x + a * std::log(x) - std::lgamma(a)));
}

double chi_square_quantile(int freedom, double probability) {
    double low = 0, high = 20.0 * freedom + 50;
    for (int round = 0; round < 200; ++round) {
        const double middle = (low + high) / 2;
        (gamma_p(freedom / 2.0, middle / 2) < probability ? low : high) = middle;
    }
    return (low + high) / 2;
}

/// Displacements of all copies against the first one, at the places that all of them reach.
struct Fields {
    std::vector<Vec2> places;
    std::vector<std::vector<Vec2>> of;          ///< [copy][place], px
    std::vector<std::vector<double>> sigma_of;  ///< the same, per axis
};

Fields fields_of(const std::vector<ProfileNode>& copies, const PictureGeometry& g) {
    std::vector<std::map<std::pair<double, double>, Vec2>> found;
    for (std::size_t i = 1; i < copies.size(); ++i) {
        const ProfileDifference d = compare_nodes(copies[0], copies[i], g);
        auto& at = found.emplace_back();
        for (std::size_t k = 0; k < d.places.size(); ++k) at[{d.places[k].x(), d.places[k].y()}] = d.px[k];
    }
    Fields out;
    for (const auto& [place, px] : found.front()) {
        const auto has = [&, &p = place](const auto& other) { return other.count(p) > 0; };
        if (std::all_of(found.begin(), found.end(), has)) out.places.emplace_back(place.first, place.second);
    }
    if (out.places.size() < 40)
        throw input_error(
            "The copies have too little of the picture in common to be compared; choose profiles of the same focal "
            "length.");
    out.of.emplace_back(out.places.size(), Vec2::Zero());
    for (const auto& field : found) {
        auto& px = out.of.emplace_back();
        for (const Vec2& p : out.places) px.push_back(field.at({p.x(), p.y()}));
    }
    for (const ProfileNode& copy : copies) {
        out.sigma_of.push_back(field_sigma_px(copy, g, out.places, PointsOf::frame));
        for (double& s : out.sigma_of.back()) s = s > 0 ? s : 0;
    }
    return out;
}

std::optional<double> corner_ev(const std::vector<ProfileNode>& copies, const PictureGeometry& g) {
    double sum = 0, squares = 0, measured = 0;
    int n = 0;
    for (const ProfileNode& copy : copies) {
        if (!copy.falloff) continue;
        const FrameMap map(copy, g, g);
        const double w = g.width, h = g.height;
        double ev = 0;
        for (const Vec2& corner : {Vec2(0, 0), Vec2(w, 0), Vec2(0, h), Vec2(w, h)})
            ev += std::log2(map.gain(Channel::green, corner)) / 4;
        sum += ev;
        squares += ev * ev;
        measured += std::pow(1.4427 * 0.01 * copy.falloff->sigma_percent, 2);
        ++n;
    }
    if (n < 2) return std::nullopt;
    return std::sqrt(std::max(0.0, (squares - sum * sum / n) / (n - 1) - measured / n));
}

double square(double v) { return v * v; }

}  // namespace

std::pair<double, double> deviation_interval(int freedom, double probability) {
    const double tail = (1 - probability) / 2;
    return {std::sqrt(freedom / chi_square_quantile(freedom, 1 - tail)),
            std::sqrt(freedom / chi_square_quantile(freedom, tail))};
}

CopySpread spread_of_copies(const std::vector<ProfileNode>& copies, const PictureGeometry& geometry) {
    const auto n = copies.size();
    if (n < 2)
        throw input_error("One copy alone tells nothing of how copies differ; it takes two measured copies or more.");
    const Fields fields = fields_of(copies, geometry);
    const double places = static_cast<double>(fields.places.size()), count = static_cast<double>(n);
    CopySpread out;
    out.copies = static_cast<int>(n);
    out.places = fields.places;
    out.from_others_px.assign(n, 0);
    out.from_others_sigma_px.assign(n, 0);
    double sample = 0, measured = 0;
    std::vector<double> own(n, 0);  // mean variance of each copy's measurement
    for (std::size_t p = 0; p < fields.places.size(); ++p) {
        Vec2 sum = Vec2::Zero();
        for (const auto& field : fields.of) sum += field[p];
        double here = 0, noise = 0;
        for (std::size_t i = 0; i < n; ++i) {
            const Vec2& d = fields.of[i][p];
            here += (d - sum / count).squaredNorm() / (count - 1);
            noise += 2 * square(fields.sigma_of[i][p]) / count;  // of both axes
            own[i] += 2 * square(fields.sigma_of[i][p]) / places;
            out.from_others_px[i] += (d - (sum - d) / (count - 1)).squaredNorm() / places;
        }
        out.at_place_px.push_back(std::sqrt(std::max(0.0, here - noise)));
        sample += here / places;
        measured += noise / places;
    }
    out.rms_px = std::sqrt(std::max(0.0, sample - measured));
    out.largest_px = *std::max_element(out.at_place_px.begin(), out.at_place_px.end());
    out.measured_px = std::sqrt(measured);
    const auto [low, high] = deviation_interval(out.copies - 1, 0.95);
    out.low_px = std::sqrt(std::max(0.0, sample * low * low - measured));
    out.high_px = std::sqrt(std::max(0.0, sample * high * high - measured));
    for (std::size_t i = 0; i < n; ++i) {
        out.from_others_px[i] = std::sqrt(out.from_others_px[i]);
        const double others = (measured * count - own[i]) / square(count - 1);
        out.from_others_sigma_px[i] = std::sqrt(own[i] + others + square(out.rms_px) * (1 + 1 / (count - 1)));
    }
    out.corner_ev = corner_ev(copies, geometry);
    return out;
}

}  // namespace optrel
