// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/next_setting.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "optics/uncertainty.h"

namespace optrel {

std::string NextSetting::sentence() const {
    return fmt::format("Between {:.4g} and {:.4g} mm the mapping is known to {:.2g} px (one sigma, at {:.3g} mm).",
                       below_mm, above_mm, sigma_px, focal_mm);
}

std::optional<NextSetting> next_focal_length(const Profile& profile) {
    std::vector<LensSetting> settings;
    for (const ProfileNode& n : profile.nodes)
        if (n.setting.focal_mm > 0) settings.push_back(n.setting);
    std::sort(settings.begin(), settings.end(),
              [](const LensSetting& a, const LensSetting& b) { return a.focal_mm < b.focal_mm; });
    const std::vector<Vec2> points = picture_grid(profile.geometry, 9, 7);
    std::optional<NextSetting> worst;
    for (std::size_t i = 0; i + 1 < settings.size(); ++i) {
        const double below = settings[i].focal_mm, above = settings[i + 1].focal_mm;
        constexpr int steps = 8;
        for (int k = 1; k < steps && above > 1.02 * below; ++k) {
            LensSetting at = settings[i];
            at.focal_mm = below * std::pow(above / below, k / static_cast<double>(steps));
            const std::vector<double> sigma = mapping_sigma_px(profile, node_at(profile, at), profile.geometry, points);
            double largest = 0;
            for (const double s : sigma)
                if (std::isfinite(s)) largest = std::max(largest, s);
            if (!worst || largest > worst->sigma_px) worst = NextSetting{at.focal_mm, largest, below, above};
        }
    }
    return worst;
}

}  // namespace optrel
