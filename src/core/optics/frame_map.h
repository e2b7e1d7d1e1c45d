// SPDX-License-Identifier: GPL-3.0-or-later
// Maps the ideal picture into the frame for each colour channel, and gives the gain that corrects falloff.
#pragma once

#include <array>
#include <optional>

#include "optics/profile.h"

namespace optrel {

/// How much of each component is corrected: 1 is all of it, 0 nothing, 2 twice as much.
struct CorrectionStrength {
    double distortion = 1;
    double fringe = 1;
    double vignetting = 1;
};

/// Correction by hand, in addition to a profile or in place of one. Heights and corners are those of the frame at hand.
struct HandCorrection {
    double distortion = 0;  ///< in the corner, as a share of the radius; negative: barrel
    /// px in the corner by which red and blue lie further out than green, and the bow: px at the height 1 / sqrt(3) by
    /// which they lie further in than proportional to the radius.
    double red_px = 0, blue_px = 0, red_bow_px = 0, blue_bow_px = 0;
    double light_ev = 0;    ///< EV by which the corner is lightened
    double light_from = 0;  ///< field height at which that begins, below 1
};

/// Scales h - h^3 to at most one, at h = 1 / sqrt(3).
inline constexpr double bow_shape = 2.598076211353316;

/// The mapping of one profile node into pictures of one geometry, with the correction by hand. Cheap to copy; has no
/// shared state.
class FrameMap {
public:
    /// `reference` is the geometry that the profile was measured with: its half-diagonal scales field heights.
    FrameMap(const ProfileNode& node, const PictureGeometry& reference, const PictureGeometry& geometry,
             CorrectionStrength strength = {}, const HandCorrection& hand = {});

    const PictureGeometry& geometry() const { return geometry_; }
    double focal_px() const { return focal_px_; }
    Vec2 centre() const { return centre_px_; }

    /// Ideal position (px) to the frame (px), green light.
    Vec2 green(const Vec2& ideal) const {
        const Vec2 s = ideal - centre_px_, flat = s / focal_px_;
        return centre_px_ + focal_px_ * (flat + strength_.distortion * (model_.bend(flat) - flat)) +
               s * (hand_.distortion * s.squaredNorm() / (half_diagonal_px_ * half_diagonal_px_));
    }
    /// Position of a channel in the frame when green lies at `green` (both px).
    Vec2 fringe(Channel channel, const Vec2& green) const;
    /// The part of fringe() that was set by hand: a displacement in px.
    Vec2 fringe_by_hand(Channel channel, const Vec2& green) const;
    /// True when red or blue are displaced by hand.
    bool has_fringe_by_hand() const {
        return hand_.red_px != 0 || hand_.blue_px != 0 || hand_.red_bow_px != 0 || hand_.blue_bow_px != 0;
    }
    bool has_falloff() const { return hand_.light_ev != 0 || (falloff_.has_value() && strength_.vignetting != 0); }
    /// Centre of the falloff in the frame (px); the middle of the picture when there is no falloff.
    Vec2 falloff_centre() const { return geometry_.to_image(falloff_ ? falloff_->centre_mm : Vec2(0, 0)); }
    /// The gain that corrects the falloff at a frame position; 1 in the middle of the picture.
    double gain(Channel channel, const Vec2& frame) const;

    /// Viewing direction (unit vector) of the green light at a frame position; empty where the model does not reach.
    std::optional<Vec3> ray(const Vec2& frame) const;
    /// Ideal position of a frame position; the inverse of green().
    std::optional<Vec2> ideal(const Vec2& frame) const;

    /// False where the polynomial has folded back, so that green() is meaningless.
    bool reaches(const Vec2& ideal) const {
        return ((ideal - centre_px_) / focal_px_ - model_.axis()).norm() < monotonic_radius_;
    }

private:
    struct ChannelShift {
        double c0 = 0, c1 = 0, c2 = 0;
        Vec2 shift_px = Vec2::Zero();
        double by_hand = 0, bow = 0;  ///< of the radius
    };

    PictureGeometry geometry_;
    CorrectionStrength strength_;
    HandCorrection hand_;
    LensModel model_;
    double focal_px_;
    Vec2 centre_px_;
    double reference_px_;  // the reference half-diagonal in px of this picture
    double half_diagonal_px_;
    double monotonic_radius_;
    std::array<ChannelShift, 3> fringe_;
    std::optional<Falloff> falloff_;
    double reference_mm_;
    std::array<double, 3> middle_{1, 1, 1};
};

/// Geometric distortion (ISO 17850) at field height h along the diagonal: (bent radius - ideal radius) / ideal radius,
/// in percent. `h` is measured in the ideal picture.
double distortion_percent(const ProfileNode& node, const PictureGeometry& geometry, double h);
/// The distortion of largest magnitude over the picture, with its sign.
double distortion_extreme_percent(const ProfileNode& node, const PictureGeometry& geometry);

/// A regular grid over the picture, edge to edge, row by row.
std::vector<Vec2> picture_grid(const PictureGeometry& geometry, int across, int down);

}  // namespace optrel
