// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/profile_fit.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/figure_text.h"
#include "optics/focal_reach.h"
#include "optics/lens_text.h"
#include "studio/frames/sensor_size.h"

namespace optrel {
namespace {

[[noreturn]] void refuse(const std::string& why) {
    throw input_error(why + "; choose a profile that fits, or use it all the same (--anyway).");
}

std::string span(double low, double high, const char* unit_before, const char* unit_behind) {
    return high > 1.01 * low ? fmt::format("from {0}{1:g} to {0}{2:g}{3}", unit_before, low, high, unit_behind)
                             : fmt::format("at {}{:g}{}", unit_before, low, unit_behind);
}

/// Smallest and largest measured aperture; (0, 0) when unknown.
std::pair<double, double> aperture_range(const Profile& profile) {
    std::pair<double, double> out(0, 0);
    for (const ProfileNode& n : profile.nodes) {
        if (n.setting.aperture <= 0) continue;
        out.first = out.first > 0 ? std::min(out.first, n.setting.aperture) : n.setting.aperture;
        out.second = std::max(out.second, n.setting.aperture);
    }
    return out;
}

}  // namespace

void require_fit(const Profile& p, const LensSetting& setting, const PictureGeometry& g, const std::string& what) {
    if (const auto [low, high] = focal_range(p); !reaches_focal(p, setting.focal_mm))
        refuse(fmt::format("{} is at {:g} mm, but the profile {} was measured {}", what, setting.focal_mm, p.name,
                           span(low, high, "", " mm")));
    if (const auto [low, high] = aperture_range(p); setting.aperture > 0 && low > 0) {
        // Tolerance: half a stop around a single aperture, a sixth beyond a range.
        const double beyond = std::exp2((high > 1.01 * low ? 1.0 / 6 : 0.5) / 2) * 1.001;
        if (setting.aperture < low / beyond || setting.aperture > high * beyond)
            refuse(fmt::format("{} is at f/{:g}, but the profile {} was measured {}", what, setting.aperture, p.name,
                               span(low, high, "f/", "")));
    }
    const double ratio = g.half_diagonal_mm() / p.geometry.half_diagonal_mm();
    if (std::abs(ratio - 1) > 0.02)
        refuse(fmt::format("{} has a sensor of {} across its diagonal, but the profile {} was measured on one of {}",
                           what, figure_text(figures::sensor_side, 2 * g.half_diagonal_mm()), p.name,
                           figure_text(figures::sensor_side, 2 * p.geometry.half_diagonal_mm())));
}

void require_fit(const Profile& p, const Metadata& frame, const std::string& what) {
    if (!frame.lens.empty() && compare_lens_texts(p.lens, frame.lens) == LensTextMatch::different)
        refuse(fmt::format("{} was taken with the lens {}, but the profile is of another lens ({})", what, frame.lens,
                           p.lens.empty() ? "without a name" : p.lens));
    const bool own_pixels = frame.width == p.geometry.width && frame.height == p.geometry.height;
    if (frame.pitch_um <= 0 && !(own_pixels && p.pitch_assumed)) refuse(what + ": " + pitch_unknown(frame));
    const double pitch = frame.pitch_um > 0 ? frame.pitch_um : p.geometry.pitch_um;
    require_fit(p, {frame.focal_mm, frame.aperture, frame.distance_m}, {frame.width, frame.height, pitch}, what);
}

}  // namespace optrel
