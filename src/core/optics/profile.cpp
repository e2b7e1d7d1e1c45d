// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/profile.h"

#include <fmt/format.h>

namespace optrel {

std::string to_string(const LensSetting& s) {
    std::string out;
    const auto add = [&](const std::string& part) { out += (out.empty() ? "" : " ") + part; };
    if (s.focal_mm > 0) add(fmt::format("{:.4g} mm", s.focal_mm));
    if (s.aperture > 0) add(fmt::format("f/{:.3g}", s.aperture));
    if (s.distance_m > 0) add(fmt::format("{:.3g} m", s.distance_m));
    return out.empty() ? "setting not recorded" : out;
}

std::string compact(const LensSetting& s) {
    std::string out;
    const auto add = [&](const std::string& part) { out += (out.empty() ? "" : "-") + part; };
    if (s.focal_mm > 0) add(fmt::format("{:.4g}mm", s.focal_mm));
    if (s.aperture > 0) add(fmt::format("f{:.3g}", s.aperture));
    if (s.distance_m > 0) add(fmt::format("{:.3g}m", s.distance_m));
    return out.empty() ? "not-recorded" : out;
}

}  // namespace optrel
