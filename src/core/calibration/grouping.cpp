// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/grouping.h"

#include <fmt/format.h>

#include <algorithm>

#include "calibration/lens_settings.h"

namespace optrel {

std::vector<FrameGroup> group_frames(const std::vector<std::pair<std::filesystem::path, Metadata>>& frames) {
    std::vector<FrameGroup> groups;
    std::vector<std::vector<LensSetting>> settings;
    for (const auto& [path, m] : frames) {
        std::string label = camera_name(m).empty() ? "unknown camera" : camera_name(m);
        if (!m.body_serial.empty()) label += " " + m.body_serial;
        label += ", " + (m.lens.empty() ? "lens not named" : m.lens);
        if (!m.lens_serial.empty()) label += " " + m.lens_serial;
        auto it = std::find_if(groups.begin(), groups.end(), [&](const FrameGroup& g) { return g.label == label; });
        if (it == groups.end()) {
            it = groups.insert(groups.end(), {label, {}});
            settings.emplace_back();
        }
        it->paths.push_back(path);
        settings[it - groups.begin()].push_back({m.focal_mm, m.aperture, m.distance_m});
    }
    for (std::size_t g = 0; g < groups.size(); ++g) {
        const std::vector<int> of = group_settings(settings[g]);
        const int count = *std::max_element(of.begin(), of.end()) + 1;
        groups[g].label +=
            count > 1 ? fmt::format(", {} lens settings", count) : ", " + to_string(typical_setting(settings[g]));
    }
    return groups;
}

}  // namespace optrel
