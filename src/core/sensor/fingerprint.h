// SPDX-License-Identifier: GPL-3.0-or-later
// Recognises a sensor by the pattern of its pixels' responses (photo response non-uniformity; Chen, Fridrich, Goljan
// and Lukáš 2008).
//
// From flat fields the response of each sample is estimated by maximum likelihood, K = sum(w m) / sum(m^2) with the
// local mean m and the residual w of each frame. Only its sign is kept, of a square in the middle of the picture. For a
// frame with residuals r, levels p and local variances v the statistic is
//     z = sum(s p r / v) / sqrt(sum((p r / v)^2)),    s: the signs of a fingerprint.
// For another sensor's fingerprint the signs are random, so z is standard normal whatever the frame shows. z^2 is the
// peak-to-correlation energy.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "base/progress.h"
#include "frames/picture.h"

namespace optrel {

struct Fingerprint {
    int width = 0, height = 0;         ///< of the visible picture
    int left = 0, top = 0, side = 0;   ///< the square, in samples of the mosaic
    std::vector<unsigned char> signs;  ///< a bit for each sample, row by row, lowest bit first; 1: responds more
    /// z of the fingerprint from half of the frames against that from the others.
    double agreement = 0;
    bool operator==(const Fingerprint&) const = default;
};

/// Adds frames one after the other, so that only one is in memory.
class FingerprintLearner {
public:
    /// Throws Error(input) about `name` for a frame that is no flat field, is clipped or dark, or has another size than
    /// those before.
    void add(const RawPicture& frame, const std::string& name);
    int frames() const { return frames_; }
    /// Throws Error(input) with fewer than four frames, when one of them is of another sensor than those before it, and
    /// when both halves of the frames do not agree.
    Fingerprint finished() const;

private:
    int width_ = 0, height_ = 0, left_ = 0, top_ = 0, side_ = 0, frames_ = 0;
    /// Sums over the even and the odd frames.
    std::array<cv::Mat1f, 2> products_, squares_;
    std::string other_sensor_;  ///< the first frame that does not fit those before it
};

/// z of two fingerprints of one size against each other: standard normal when they are of two sensors. NaN for
/// fingerprints of different squares or pictures.
double agreement_of(const Fingerprint& a, const Fingerprint& b);

/// One frame, ready to be compared with many fingerprints of its size.
class FingerprintQuery {
public:
    /// Throws Error(input) about `name` for a frame that is too small, or that is clipped or dark nearly everywhere.
    FingerprintQuery(const RawPicture& frame, const std::string& name);
    bool comparable(const Fingerprint& fingerprint) const;
    /// z for a comparable fingerprint.
    double z(const Fingerprint& fingerprint) const;

private:
    int width_ = 0, height_ = 0, left_ = 0, top_ = 0, side_ = 0;
    std::vector<float> terms_;
    double energy_ = 0;
};

/// Probability that a wrong fingerprint reaches z by chance.
double false_alarm_rate(double z);

/// From this z on a frame is attributed: one false alarm in a thousand million comparisons.
inline constexpr double fingerprint_threshold = 6;

}  // namespace optrel
