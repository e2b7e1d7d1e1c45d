// SPDX-License-Identifier: GPL-3.0-or-later
// Finds the points where four squares meet, on a reduced green picture.
#pragma once

#include <array>
#include <opencv2/core.hpp>
#include <vector>

#include "frames/picture.h"

namespace optrel {

/// A reduced green picture for the search, as the square root of light, with its position in the frame.
struct SearchPicture {
    cv::Mat1f values;
    double u0 = 0.5, v0 = 0.5, step = 1;

    Vec2 to_frame(const Vec2& p) const { return {u0 + p.x() * step, v0 + p.y() * step}; }
};

/// Averages the green planes and halves the size until the longer side is at most `longest` samples.
SearchPicture search_picture(const MeasuringPicture& picture, int longest);

/// A point around which light alternates four times. Positions are in samples of the search picture (centre of sample i
/// at i); angles are in radians, positive from +x towards +y (y points down).
struct Saddle {
    Vec2 position;
    std::array<double, 4> ray;  ///< directions of the four edges, ascending
    bool bright_after_first;    ///< the sector from ray[0] to ray[1] is bright; the others alternate
    double contrast;

    bool bright_after(int k) const { return (k & 1) == 0 ? bright_after_first : !bright_after_first; }
};

/// All saddles with enough contrast, at least 3 samples apart.
std::vector<Saddle> find_saddles(const cv::Mat1f& values);

/// Checks whether there is a saddle at a predicted place, with milder limits than in the search.
bool saddle_at(const cv::Mat1f& smooth, Vec2 position, double reach, Saddle& found);

/// The smoothed picture that find_saddles() and saddle_at() use.
cv::Mat1f smoothed_for_saddles(const cv::Mat1f& values);

/// Bilinear interpolation at a position inside the picture.
float sample_at(const cv::Mat1f& values, const Vec2& p);

}  // namespace optrel
