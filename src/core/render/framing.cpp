// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/framing.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "frames/orientation.h"
#include "render/stages.h"

namespace optrel {
namespace {

HandCorrection by_hand(const ResolvedFrame& f) {
    HandCorrection hand;
    hand.distortion = number_of(f, Field::hand_distortion) / 100;
    hand.red_px = number_of(f, Field::red_at_corner);
    hand.blue_px = number_of(f, Field::blue_at_corner);
    hand.red_bow_px = number_of(f, Field::red_bow);
    hand.blue_bow_px = number_of(f, Field::blue_bow);
    hand.light_ev = number_of(f, Field::corner_light);
    hand.light_from = number_of(f, Field::corner_light_from);
    return hand;
}

/// Turn and shift, which a person sets for the picture as displayed, converted to rows and columns of the sensor.
PictureView::Settings settings_of(const ResolvedFrame& f, const cv::Size& size, int orientation) {
    const cv::Matx22d axes = axes_as_held(orientation);
    Eigen::Matrix3d held = Eigen::Matrix3d::Identity();
    for (int row = 0; row < 2; ++row)
        for (int column = 0; column < 2; ++column) held(row, column) = axes(row, column);
    const cv::Size held_size = size_as_held(size, orientation);
    const CameraTurn turn{number_of(f, Field::roll), number_of(f, Field::pitch), number_of(f, Field::yaw)};
    const Vec2 shift(number_of(f, Field::shift_across) / 100 * held_size.width,
                     number_of(f, Field::shift_down) / 100 * held_size.height);
    PictureView::Settings out;
    if (turn.any()) out.turn = held.transpose() * turn.matrix() * held;
    out.shift = held.topLeftCorner<2, 2>().transpose() * shift;
    return out;
}

double scale_of(const ResolvedFrame& f, const PictureView& view, bool plain) {
    const std::string& border = f[Field::border].value.text;
    if (border == "scale") return number_of(f, Field::border_scale);
    return border == "fill" && !plain ? fill_scale(view) : 1;
}

/// The pixels that a crop keeps.
cv::Rect kept_by(const CropRequest& wish, const PictureView& view, bool plain, const cv::Size& size, int orientation) {
    const cv::Rect all({0, 0}, size);
    const bool whole_fits = wish.kind == CropRequest::Kind::largest || wish.kind == CropRequest::Kind::as_frame;
    if (wish.kind == CropRequest::Kind::none || (whole_fits && plain)) return all;
    Crop crop;
    if (wish.kind == CropRequest::Kind::at) {
        const cv::Size held = size_as_held(size, orientation);
        const Crop& s = wish.share;
        const auto corner = [&](double across, double down) {
            return place_on_sensor({across * held.width, down * held.height}, size, orientation);
        };
        const cv::Point2d a = corner(s.left, s.top), b = corner(s.left + s.width, s.top + s.height);
        crop = {std::min(a.x, b.x), std::min(a.y, b.y), std::abs(a.x - b.x), std::abs(a.y - b.y)};
    } else {
        double proportion = 0;
        if (wish.kind == CropRequest::Kind::as_frame) proportion = double(size.width) / size.height;
        if (wish.kind == CropRequest::Kind::proportion)
            proportion = turns_sideways(orientation) ? 1 / wish.proportion : wish.proportion;
        crop = largest_inside(view, proportion);
    }
    constexpr double slack = 1e-6;
    const int left = static_cast<int>(std::ceil(crop.left - slack)),
              top = static_cast<int>(std::ceil(crop.top - slack)),
              right = static_cast<int>(std::floor(crop.left + crop.width + slack)),
              bottom = static_cast<int>(std::floor(crop.top + crop.height + slack));
    const cv::Rect out = cv::Rect(left, top, right - left, bottom - top) & all;
    if (out.width < 8 || out.height < 8)
        throw input_error(fmt::format("The crop would keep {} by {} pixels; keep at least 8 each way.",
                                      std::max(0, right - left), std::max(0, bottom - top)));
    return out;
}

}  // namespace

FrameMap lens_of(const ResolvedFrame& f, const std::optional<AppliedProfile>& profile, const PictureGeometry& geometry,
                 double focal_mm) {
    if (profile) {
        const CorrectionStrength strength{number_of(f, Field::distortion_strength) / 100,
                                          number_of(f, Field::fringe_strength) / 100,
                                          number_of(f, Field::vignetting_strength) / 100};
        return {profile->node, profile->reference, geometry, strength, by_hand(f)};
    }
    ProfileNode straight;
    straight.focal_mm = focal_mm > 0 ? focal_mm : 2 * geometry.half_diagonal_mm();
    return {straight, geometry, geometry, {}, by_hand(f)};
}

Framing framing_of(const ResolvedFrame& f, const std::optional<AppliedProfile>& profile, const cv::Size& size,
                   const CaptureGeometry& taken) {
    const PictureGeometry geometry{size.width, size.height, taken.pitch_um};
    PictureView::Settings settings = settings_of(f, size, taken.orientation);
    const PictureView view(lens_of(f, profile, geometry, taken.focal_mm), settings);
    const bool by_hand = view.lens().has_fringe_by_hand();
    const bool plain = !profile && number_of(f, Field::hand_distortion) == 0 && !by_hand &&
                       settings.turn.isIdentity(0) && settings.shift.isZero(0);
    settings.scale = scale_of(f, view, plain);
    Framing out{view.at_scale(settings.scale)};
    if (out.view.shows_horizon())
        throw input_error(
            fmt::format("Turned by pitch {:g} and yaw {:g} degrees, the picture would reach the camera's horizon, "
                        "where nothing can be shown; turn it less, or scale it up.",
                        number_of(f, Field::pitch), number_of(f, Field::yaw)));
    out.corrected = profile.has_value();
    out.moves = !plain || settings.scale != 1;
    out.fringes = profile.has_value() || by_hand;
    out.kept =
        kept_by(crop_wish(f[Field::crop].value.text), out.view, plain && settings.scale >= 1, size, taken.orientation);
    return out;
}

}  // namespace optrel
