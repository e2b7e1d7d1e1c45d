// SPDX-License-Identifier: GPL-3.0-or-later
// How well a profile is known: one sigma of where light lands, of red and blue, and of the falloff, at and between lens
// settings.
//
// All figures are one sigma. They are put together from
//   - the covariance of each node's parameters, which counts what the frames could not tell;
//   - the misfit of each node: what its model leaves of the corners beyond their noise;
//   - the doubt of a setting between or beyond the measured ones (optics/placement.h).
// What a plane homography of the directions can absorb is projected out of the mapping, because focal length, centre
// and tilt of the camera trade against one another without any effect on straightness; for a fisheye, whose angles
// matter, only a rotation is.
#pragma once

#include <vector>

#include "optics/frame_map.h"

namespace optrel {

/// Whether points are positions in the ideal picture or in the frame.
enum class PointsOf { ideal, frame };

/// Covariances (px^2) of the landing positions in the frame, for light from given directions.
struct FieldCovariance {
    std::vector<Eigen::Matrix2d> at;  ///< in the order of the points; NaN outside the range of the model
    /// One sigma per axis (px): the root of half the trace.
    std::vector<double> sigma() const;
};

/// Of one measured node. All zero when it has no covariance.
FieldCovariance field_covariance(const ProfileNode& node, const PictureGeometry& geometry,
                                 const std::vector<Vec2>& points, PointsOf of = PointsOf::ideal);

/// Of a placed node, at ideal points.
FieldCovariance mapping_covariance(const Profile& profile, const PlacedNode& placed, const PictureGeometry& geometry,
                                   const std::vector<Vec2>& points);

/// The same as one sigma per axis (px).
std::vector<double> field_sigma_px(const ProfileNode& node, const PictureGeometry& geometry,
                                   const std::vector<Vec2>& points, PointsOf of = PointsOf::ideal);
std::vector<double> mapping_sigma_px(const Profile& profile, const PlacedNode& placed, const PictureGeometry& geometry,
                                     const std::vector<Vec2>& points);

/// One sigma (px) of the radial displacement of a channel against green, at a distance (mm) from the optical centre.
double chromatic_sigma_px(const Profile& profile, const PlacedNode& placed, Channel channel, double radius_mm);

/// One sigma (EV) of a channel's falloff at a distance (mm) from its centre.
double falloff_sigma_ev(const Profile& profile, const PlacedNode& placed, Channel channel, double radius_mm);

}  // namespace optrel
