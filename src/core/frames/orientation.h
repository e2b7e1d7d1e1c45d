// SPDX-License-Identifier: GPL-3.0-or-later
// Converts between the rows and columns of the sensor, in which everything is measured, and the picture as held.
#pragma once

#include <opencv2/core.hpp>

namespace optrel {

/// True when an orientation (Exif, 1 to 8) exchanges width and height.
inline bool turns_sideways(int orientation) { return orientation >= 5 && orientation <= 8; }

/// Size of the picture as held.
inline cv::Size size_as_held(const cv::Size& sensor, int orientation) {
    return turns_sideways(orientation) ? cv::Size(sensor.height, sensor.width) : sensor;
}

/// Rotates a picture to the way it was held.
cv::Mat as_held(const cv::Mat& picture, int orientation);

/// Converts a position in the sensor's picture (px, outer corner of the first pixel at 0, 0) of a given size to the
/// picture as held.
cv::Point2d place_as_held(const cv::Point2d& place, const cv::Size& sensor, int orientation);
/// The inverse: from the picture as held to the sensor's.
cv::Point2d place_on_sensor(const cv::Point2d& place, const cv::Size& sensor, int orientation);

/// Converts directions (right, down) of the sensor's picture to those of the picture as held; its inverse is its
/// transpose.
cv::Matx22d axes_as_held(int orientation);

}  // namespace optrel
