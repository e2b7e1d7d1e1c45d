// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/fingerprint.h"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>
#include <opencv2/imgproc.hpp>

#include "base/error.h"

namespace optrel {
namespace {

constexpr int largest_side = 1024, smallest_side = 256;
/// Half of the frames must agree with the others by this z.
constexpr double least_agreement = 30;
constexpr int least_frames = 4;

/// The square in the middle whose corner is a multiple of the filter.
struct Square {
    int left, top, side;
};
Square square_of(const RawPicture& frame, const std::string& name) {
    // Samples are compared with those two rows or columns away. These have the same colour in a Bayer mosaic and in a
    // frame without a filter, but not in a 6 x 6 mosaic.
    if (frame.has_colours()) require_bayer(frame, name, "recognise a sensor");
    const int side = std::min({largest_side, frame.counts.cols, frame.counts.rows}) & ~7;
    if (side < smallest_side)
        throw input_error(fmt::format("{} has {} x {} samples, too few to recognise a sensor; use a whole frame.", name,
                                      frame.counts.cols, frame.counts.rows));
    return {((frame.counts.cols - side) / 2) & ~1, ((frame.counts.rows - side) / 2) & ~1, side};
}

/// One site of the filter in the square, in counts above black. 0 where the sample is clipped or at black.
cv::Mat1f site_values(const RawPicture& frame, const Square& at, int row0, int column0) {
    cv::Mat1f out(at.side / 2, at.side / 2);
    const double black = frame.black.at(row0, column0);
    const auto ceiling = static_cast<float>(0.9 * (frame.white - black));
    for (int j = 0; j < out.rows; ++j) {
        const std::uint16_t* in = frame.counts[at.top + 2 * j + row0] + at.left + column0;
        for (int i = 0; i < out.cols; ++i) {
            const auto v = static_cast<float>(in[2 * i] - black);
            out(j, i) = v >= ceiling || v <= 0 ? 0 : v;
        }
    }
    return out;
}

/// Calls body(row0, column0) for the four sites.
template <class Body>
void each_site(const Body& body) {
    for (int row0 = 0; row0 < 2; ++row0)
        for (int column0 = 0; column0 < 2; ++column0) body(row0, column0);
}

/// Takes out what lines have in common: bodies of one model share such patterns.
void without_lines(cv::Mat1f& response) {
    cv::Mat1f mean;
    cv::reduce(response, mean, 0, cv::REDUCE_AVG);
    for (int j = 0; j < response.rows; ++j) response.row(j) -= mean;
    cv::reduce(response, mean, 1, cv::REDUCE_AVG);
    for (int j = 0; j < response.rows; ++j) response.row(j) -= mean(j, 0);
}

/// The estimate from sums, site by site without what its lines share.
cv::Mat1f response_of(const cv::Mat1f& products, const cv::Mat1f& squares) {
    cv::Mat1f out(products.size());
    each_site([&](int row0, int column0) {
        cv::Mat1f site(products.rows / 2, products.cols / 2);
        for (int j = 0; j < site.rows; ++j)
            for (int i = 0; i < site.cols; ++i) {
                const float square = squares(2 * j + row0, 2 * i + column0);
                site(j, i) = square > 0 ? products(2 * j + row0, 2 * i + column0) / square : 0;
            }
        without_lines(site);
        for (int j = 0; j < site.rows; ++j)
            for (int i = 0; i < site.cols; ++i) out(2 * j + row0, 2 * i + column0) = site(j, i);
    });
    return out;
}

double agreement_of(const cv::Mat1f& a, const cv::Mat1f& b) {
    const double product = a.dot(b), energy = a.dot(a) * b.dot(b);
    return energy > 0 ? product / std::sqrt(energy) * std::sqrt(static_cast<double>(a.total())) : 0;
}

}  // namespace

void FingerprintLearner::add(const RawPicture& frame, const std::string& name) {
    const Square at = square_of(frame, name);
    if (frames_ > 0 && (frame.counts.cols != width_ || frame.counts.rows != height_))
        throw input_error(
            fmt::format("{} has {} x {} samples, but the frames before have {} x {}; a fingerprint is of "
                        "one body.",
                        name, frame.counts.cols, frame.counts.rows, width_, height_));
    cv::Mat1f products(at.side, at.side), squares(at.side, at.side);
    int usable = 0, uneven = 0;
    each_site([&](int row0, int column0) {
        const cv::Mat1f values = site_values(frame, at, row0, column0);
        cv::Mat1f mean;
        cv::blur(values, mean, {7, 7});
        for (int j = 0; j < values.rows; ++j)
            for (int i = 0; i < values.cols; ++i) {
                const float v = values(j, i), m = mean(j, i), w = v - m;
                const bool good = v > 0 && std::abs(w) < 0.5f * m;
                usable += v > 0;
                uneven += v > 0 && std::abs(w) > 0.1f * m + 6 * std::sqrt(m);
                products(2 * j + row0, 2 * i + column0) = good ? w * m : 0;
                squares(2 * j + row0, 2 * i + column0) = good ? m * m : 0;
            }
    });
    const double all = static_cast<double>(at.side) * at.side;
    if (usable < 0.95 * all)
        throw input_error(
            fmt::format("{} is clipped or black in {:.0f} % of its middle (limit 5 %); take a flat field "
                        "of a middle exposure.",
                        name, 100 * (1 - usable / all)));
    if (uneven > 0.02 * all)
        throw input_error(
            fmt::format("{} shows structure in {:.0f} % of its middle (limit 2 %), so it is no flat field; "
                        "photograph an evenly lit surface out of focus.",
                        name, 100 * uneven / all));
    if (frames_ == 0) {
        width_ = frame.counts.cols;
        height_ = frame.counts.rows;
        left_ = at.left;
        top_ = at.top;
        side_ = at.side;
        for (int half = 0; half < 2; ++half)
            for (std::array<cv::Mat1f, 2>* sums : {&products_, &squares_})
                (*sums)[static_cast<std::size_t>(half)] = cv::Mat1f::zeros(side_, side_);
    }
    if (frames_ > 0 && other_sensor_.empty() &&
        !(agreement_of(response_of(products, squares),
                       response_of(products_[0] + products_[1], squares_[0] + squares_[1])) >= fingerprint_threshold))
        other_sensor_ = name;
    const std::size_t half = static_cast<std::size_t>(frames_++ % 2);
    products_[half] += products;
    squares_[half] += squares;
}

Fingerprint FingerprintLearner::finished() const {
    if (frames_ < least_frames)
        throw input_error(fmt::format("A fingerprint needs at least {} flat fields of the body; {} {} usable.",
                                      least_frames, frames_, frames_ == 1 ? "was" : "were"));
    if (!other_sensor_.empty())
        throw input_error(fmt::format(
            "{} does not show the sensor of the frames before it; a fingerprint is of one body, so leave out the "
            "frames of others.",
            other_sensor_));
    Fingerprint out;
    out.width = width_;
    out.height = height_;
    out.left = left_;
    out.top = top_;
    out.side = side_;
    out.agreement = agreement_of(response_of(products_[0], squares_[0]), response_of(products_[1], squares_[1]));
    if (!(out.agreement >= least_agreement))
        throw input_error(fmt::format(
            "The flat fields do not show one sensor: two halves of them agree by {:.1f} sigma (limit {:g}); "
            "use raw frames of one body, more of them, or brighter ones.",
            out.agreement, least_agreement));
    const cv::Mat1f response = response_of(products_[0] + products_[1], squares_[0] + squares_[1]);
    out.signs.assign(response.total() / 8, 0);
    for (std::size_t i = 0; i < response.total(); ++i)
        if (*(response.begin() + static_cast<long>(i)) > 0)
            out.signs[i / 8] = static_cast<unsigned char>(out.signs[i / 8] | (1u << (i % 8)));
    return out;
}

double agreement_of(const Fingerprint& a, const Fingerprint& b) {
    if (a.width != b.width || a.height != b.height || a.left != b.left || a.top != b.top || a.side != b.side ||
        a.signs.size() != b.signs.size())
        return std::numeric_limits<double>::quiet_NaN();
    long same = 0;
    for (std::size_t i = 0; i < a.signs.size(); ++i)
        same += std::popcount(static_cast<unsigned char>(~(a.signs[i] ^ b.signs[i])));
    const double n = 8.0 * static_cast<double>(a.signs.size());
    return (2 * static_cast<double>(same) - n) / std::sqrt(n);
}

FingerprintQuery::FingerprintQuery(const RawPicture& frame, const std::string& name)
    : width_(frame.counts.cols), height_(frame.counts.rows) {
    const Square at = square_of(frame, name);
    left_ = at.left;
    top_ = at.top;
    side_ = at.side;
    terms_.assign(static_cast<std::size_t>(side_) * static_cast<std::size_t>(side_), 0);
    std::size_t usable = 0;
    each_site([&](int row0, int column0) {
        const cv::Mat1f values = site_values(frame, at, row0, column0);
        cv::Mat1f residual = cv::Mat1f::zeros(values.size()), level = cv::Mat1f::zeros(values.size());
        for (int j = 1; j + 1 < values.rows; ++j)
            for (int i = 1; i + 1 < values.cols; ++i) {
                const float around[] = {values(j, i - 1), values(j, i + 1), values(j - 1, i), values(j + 1, i)};
                if (values(j, i) <= 0 || *std::min_element(around, around + 4) <= 0) continue;
                level(j, i) = (around[0] + around[1] + around[2] + around[3]) / 4;
                residual(j, i) = values(j, i) - level(j, i);
            }
        cv::Mat1f variance;
        cv::blur(residual.mul(residual), variance, {5, 5});
        for (int j = 0; j < values.rows; ++j)
            for (int i = 0; i < values.cols; ++i) {
                if (level(j, i) <= 0) continue;
                // An edge of the picture must not count for more than its surround.
                const float v = variance(j, i) + 0.1f, bound = 3 * std::sqrt(v);
                const float r = std::clamp(residual(j, i), -bound, bound);
                terms_[static_cast<std::size_t>(2 * j + row0) * static_cast<std::size_t>(side_) +
                       static_cast<std::size_t>(2 * i + column0)] = level(j, i) * r / v;
                ++usable;
            }
    });
    for (const float t : terms_) energy_ += static_cast<double>(t) * t;
    if (static_cast<double>(usable) < 0.05 * static_cast<double>(terms_.size()) || !(energy_ > 0))
        throw input_error(
            fmt::format("{} is black or clipped nearly everywhere in its middle, so its sensor cannot be "
                        "recognised; take another frame.",
                        name));
}

bool FingerprintQuery::comparable(const Fingerprint& f) const {
    return f.width == width_ && f.height == height_ && f.left == left_ && f.top == top_ && f.side == side_ &&
           f.signs.size() * 8 == terms_.size();
}

double FingerprintQuery::z(const Fingerprint& f) const {
    double sum = 0;
    for (std::size_t byte = 0; byte < f.signs.size(); ++byte) {
        float part = 0;
        for (unsigned bit = 0; bit < 8; ++bit) {
            const float t = terms_[8 * byte + bit];
            part += (f.signs[byte] >> bit) & 1u ? t : -t;
        }
        sum += part;
    }
    return sum / std::sqrt(energy_);
}

double false_alarm_rate(double z) { return 0.5 * std::erfc(z / std::sqrt(2.0)); }

}  // namespace optrel
