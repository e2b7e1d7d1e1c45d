// SPDX-License-Identifier: GPL-3.0-or-later
// Where four squares meet, found on a reduced green picture.
#pragma once

#include <array>
#include <opencv2/core.hpp>
#include <vector>

#include "frames/picture.h"

namespace optrel {

/// A green picture made for finding, square root of light, with its place in the frame.
struct SearchPicture {
    cv::Mat1f values;
    double u0 = 0.5, v0 = 0.5, step = 1;

    Vec2 to_frame(const Vec2& p) const { return {u0 + p.x() * step, v0 + p.y() * step}; }
};

/// Averages the green planes and halves the size until the longer side is at most `longest` samples.
SearchPicture search_picture(const MeasuringPicture& picture, int longest);

/// A place where the light alternates four times round a point. Positions are in samples of the search picture (centre
/// of sample i at i), angles in radians, anticlockwise in a y-down picture being positive towards +y.
struct Saddle {
    Vec2 position;
    std::array<double, 4> ray;  ///< directions of the four edges, ascending
    bool bright_after_first;    ///< the sector from ray[0] to ray[1] is bright; the others alternate
    double contrast;

    bool bright_after(int k) const { return (k & 1) == 0 ? bright_after_first : !bright_after_first; }
};

/// All saddles of enough contrast, none closer than 3 samples to another.
std::vector<Saddle> find_saddles(const cv::Mat1f& values);

/// Looks whether there is a saddle at this very place, with the milder limits that a prediction deserves.
bool saddle_at(const cv::Mat1f& smooth, Vec2 position, double reach, Saddle& found);

/// The smoothing that find_saddles() and saddle_at() work on.
cv::Mat1f smoothed_for_saddles(const cv::Mat1f& values);

/// Bilinear value at a position inside the picture.
float sample_at(const cv::Mat1f& values, const Vec2& p);

}  // namespace optrel
