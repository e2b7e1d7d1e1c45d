// SPDX-License-Identifier: GPL-3.0-or-later
// The way from the sensor's rows and columns, in which everything is measured, to the picture as people hold it.
#pragma once

#include <opencv2/core.hpp>

namespace optrel {

/// Whether an orientation (Exif, 1 to 8) exchanges width and height.
inline bool turns_sideways(int orientation) { return orientation >= 5 && orientation <= 8; }

/// Width and height of the sensor's picture as it is held.
inline cv::Size size_as_held(const cv::Size& sensor, int orientation) {
    return turns_sideways(orientation) ? cv::Size(sensor.height, sensor.width) : sensor;
}

/// The picture turned so that it is the right way up.
cv::Mat as_held(const cv::Mat& picture, int orientation);

/// A position in the sensor's picture (px, outer corner of the first pixel at 0, 0) of a size, in the picture as it is
/// held.
cv::Point2d place_as_held(const cv::Point2d& place, const cv::Size& sensor, int orientation);
/// The inverse: a position in the picture as it is held, in the sensor's.
cv::Point2d place_on_sensor(const cv::Point2d& place, const cv::Size& sensor, int orientation);

/// Directions (right, down) of the sensor's picture as those of the picture as it is held; its inverse is its
/// transpose.
cv::Matx22d axes_as_held(int orientation);

}  // namespace optrel
