// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/hand_profile.h"

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "render/framing.h"
#include "studio/calibration/profile_of_frame.h"

namespace optrel {

namespace {

/// Vignetting that matches the hand-set corner light; `off_ev`: the largest deviation.
Falloff falloff_of(const FrameMap& map, const PictureGeometry& geometry, double& off_ev) {
    const double half = geometry.half_diagonal_px();
    const auto gain = [&](double h) { return map.gain(Channel::green, map.falloff_centre() + Vec2(h * half, 0)); };
    const Falloff out = falloff_undone_by(gain, 1);
    constexpr int steps = 60;
    off_ev = 0;
    for (int k = 0; k <= steps; ++k) {
        const double h = double(k) / steps;
        const double relative =
            out.relative(Channel::green, Vec2(h * geometry.half_diagonal_mm(), 0), geometry.half_diagonal_mm());
        off_ev = std::max(off_ev, std::abs(std::log2(gain(h) * relative)));
    }
    return out;
}

constexpr Field colour_fields[] = {Field::red_at_corner, Field::red_bow, Field::blue_at_corner, Field::blue_bow};

template <std::size_t n>
bool any_of(const FrameDevelopment& r, const Field (&fields)[n]) {
    return std::any_of(fields, fields + n, [&](Field f) { return r.fields[f].value.number != 0; });
}

/// Node with the manual corrections, at the frame's lens setting.
ProfileNode node_of(const FrameDevelopment& r, const PictureGeometry& geometry, double& light_off_ev) {
    const auto number = [&](Field f) { return r.fields[f].value.number; };
    const double distortion = number(Field::hand_distortion) / 100;
    const FrameMap map = lens_of(r.fields, std::nullopt, geometry, r.metadata.focal_mm);
    ProfileNode n;
    n.setting = {r.metadata.focal_mm, r.metadata.aperture, r.metadata.distance_m};
    n.focal_mm = map.focal_px() * geometry.pitch_mm();
    const double half_mm = geometry.half_diagonal_mm();
    LensModel::Coefficients c = LensModel(LensModelKind::radial_tangential).coefficients();
    c[0] = distortion * std::pow(n.focal_mm / half_mm, 2);
    n.model = LensModel(LensModelKind::radial_tangential, c);
    n.largest_radius_mm = half_mm;
    n.quality.largest_height = 1;
    n.quality.distortion_extreme_percent = 100 * distortion;
    const auto fringe = [&](Field corner, Field bow) {
        // The profile's own form is s (corner - 2.598 bow (1 - h^2)) / half.
        const double half_px = half_mm / geometry.pitch_mm(), b = bow_shape * number(bow);
        LateralChromatic f;
        f.c0 = (number(corner) - b) / half_px;
        f.c1 = b / half_px;
        return f;
    };
    if (any_of(r, colour_fields)) {
        n.red = fringe(Field::red_at_corner, Field::red_bow);
        n.blue = fringe(Field::blue_at_corner, Field::blue_bow);
    }
    if (number(Field::corner_light) != 0) n.falloff = falloff_of(map, geometry, light_off_ev);
    return n;
}

}  // namespace

HandProfile profile_by_hand(const std::filesystem::path& frame, const FrameDevelopment& r, const std::string& author) {
    if (r.profile)
        throw input_error(
            "A profile corrects this frame already; set Lens profile to none, and set by hand all that is needed.");
    HandProfile out;
    out.profile = profile_of_frame(frame, r.metadata, MeasurementOrigin::by_hand, author);
    if (!any_of(r, colour_fields) && !any_of(r, {Field::hand_distortion, Field::corner_light}))
        throw input_error(
            "Nothing of the lens is set by hand on this frame: distortion, red or blue at the corner, or corner "
            "light.");

    out.profile.nodes = {node_of(r, out.profile.geometry, out.light_off_ev)};
    out.profile.provenance.note = "Set by hand on " + frame.filename().string();
    return out;
}

}  // namespace optrel
