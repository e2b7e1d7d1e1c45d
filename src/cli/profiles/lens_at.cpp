// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/profiles/lens_at.h"

#include <fmt/format.h>

#include "base/error.h"
#include "cli/commands.h"
#include "studio/profiles/profile_file.h"
#include "studio/profiles/profile_fit.h"

namespace optrel::cli {

void add_lens_options(CLI::App& command, LensOptions& o, bool with_size) {
    command.add_option("--profile", o.profile, "The profile (JSON)")->required();
    if (with_size) {
        command.add_option("--size", o.size, "Size of the picture in pixels, as in 6000x4000")->required();
        command.add_option("--pitch-um", o.pitch_um, "Pixel pitch in micrometres [default: of the profile]")
            ->check(between(0.3, 100));
    }
    command.add_option("--focal", o.setting.focal_mm, "Focal length in mm; needed for a zoom [default: as measured]")
        ->check(between(0.5, 5000));
    command.add_option("--aperture", o.setting.aperture, "f-number [default: the nearest measured]")
        ->check(between(0.3, 512));
    command.add_option("--distance", o.setting.distance_m, "Focus distance in m [default: the nearest measured]")
        ->check(between(0.001, 1e5));
    command.add_flag("--anyway", o.anyway,
                     "Also for a sensor, a focal length or an aperture that the profile was not measured with");
}

LensAt lens_at(const LensOptions& o) {
    LensAt out;
    out.profile = read_profile(o.profile);
    if (const auto range = focal_range(out.profile); o.setting.focal_mm == 0 && range.second > 1.01 * range.first)
        throw usage_error(
            fmt::format("The profile was measured from {:g} to {:g} mm; say with --focal at which focal length to map.",
                        range.first, range.second));
    out.placed = node_at(out.profile, o.setting);
    out.geometry = out.profile.geometry;
    if (o.size.empty()) {
        if (!o.anyway) require_fit(out.profile, o.setting, out.geometry, "What is asked for");
        return out;
    }
    const auto [width, height] = whole_pair(o.size, "pixels of the size", 2, 200000);
    // A profile with an assumed pixel pitch is only valid in pixels of its own sensor, so the assumed pitch is kept.
    const bool own_sensor = width == out.profile.geometry.width && height == out.profile.geometry.height;
    const double pitch =
        o.pitch_um > 0 && !(out.profile.pitch_assumed && own_sensor) ? o.pitch_um : out.profile.geometry.pitch_um;
    out.geometry = {width, height, pitch};
    if (!o.anyway) require_fit(out.profile, o.setting, out.geometry, "What is asked for");
    return out;
}

}  // namespace optrel::cli
