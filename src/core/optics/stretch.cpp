// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/stretch.h"

#include <Eigen/SVD>

namespace optrel {

std::optional<Stretch> stretch_at(const PictureView& view, const Vec2& place) {
    if (view.margin(place) < 0) return std::nullopt;
    const std::optional<Eigen::Matrix2d> to_frame = view.slope(place, 1);
    if (!to_frame) return std::nullopt;
    // Samples are spread by the inverse, whose largest singular value is the reciprocal of the smallest one here.
    const Eigen::JacobiSVD<Eigen::Matrix2d> parts(*to_frame, Eigen::ComputeFullV);
    const Vec2 values = parts.singularValues();
    if (!(values(1) > 1e-9)) return std::nullopt;
    return Stretch{1 / values(1), 1 / values(0), parts.matrixV().col(1)};
}

const std::vector<NamedPlace>& named_places() {
    static const std::vector<NamedPlace> places{
        {"upper left corner", {0.01, 0.01}}, {"upper edge", {0.5, 0.01}}, {"upper right corner", {0.99, 0.01}},
        {"left edge", {0.01, 0.5}},          {"centre", {0.5, 0.5}},      {"right edge", {0.99, 0.5}},
        {"lower left corner", {0.01, 0.99}}, {"lower edge", {0.5, 0.99}}, {"lower right corner", {0.99, 0.99}}};
    return places;
}

}  // namespace optrel
