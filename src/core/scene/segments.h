// SPDX-License-Identifier: GPL-3.0-or-later
// Finds straight edges of a scene in one frame.
#pragma once

#include <opencv2/core.hpp>
#include <vector>

#include "base/progress.h"
#include "frames/picture.h"
#include "optics/frame_map.h"

namespace optrel {

/// The green light of a frame as a picture: sample (i, j) is at u = u0 + i step, v = v0 + j step.
struct ScenePicture {
    cv::Mat1f light;
    double u0 = 0.5, v0 = 0.5, step = 1;

    Vec2 place(const Vec2& sample) const { return {u0 + sample.x() * step, v0 + sample.y() * step}; }
};
/// For a mosaic, the mean of its two greens at half size; a large rendered picture is halved as well.
ScenePicture scene_picture(const MeasuringPicture& picture);

/// One edge, with the points at which it was located, px of the frame.
struct Segment {
    Vec2 from = Vec2::Zero(), to = Vec2::Zero();
    std::vector<Vec2> points;

    double length() const { return (to - from).norm(); }
};

/// Segments by the detector of Grompone von Gioi et al. (2010), each located anew by fitting a blurred step to the
/// green samples, piece by piece. `least_px`: the shortest, px of the frame.
std::vector<Segment> find_segments(const MeasuringPicture& picture, double least_px, const Progress& progress);
/// The same for an edge whose approximate position a person gave; no points when there is none within `within_px`
/// px.
Segment locate_segment(const MeasuringPicture& picture, const Vec2& from, const Vec2& to, double within_px);

/// The straight line through points by unweighted least squares.
struct FittedLine {
    Vec2 middle = Vec2::Zero(), direction = Vec2::UnitX();  ///< a unit vector

    explicit FittedLine(const std::vector<Vec2>& points);
    double along(const Vec2& p) const { return direction.dot(p - middle); }
    double across(const Vec2& p) const { return direction.x() * (p - middle).y() - direction.y() * (p - middle).x(); }
};

/// A segment as a straight line in the picture without distortion, px.
struct StraightLine {
    Vec2 middle = Vec2::Zero(), direction = Vec2::UnitX();  ///< a unit vector
    double length = 0;
    double sigma = 0;  ///< one sigma of its direction, radians
    double rms_px = 0;
    /// Normal of the plane through the line and the camera; `centre`: position of the lens axis.
    Vec3 normal(const Vec2& centre, double focal_px) const;
};
/// Robust fit to the points within the range of the lens; empty when fewer than five are left.
std::optional<StraightLine> straight_line(const Segment& segment, const FrameMap& lens);

}  // namespace optrel
