#include "calibration/grouping.h"

#include <fmt/format.h>

#include <algorithm>

namespace optrel {

std::vector<FrameGroup> group_frames(const std::vector<std::pair<std::filesystem::path, Metadata>>& frames) {
    std::vector<FrameGroup> groups;
    for (const auto& [path, m] : frames) {
        std::string label = camera_name(m).empty() ? "unknown camera" : camera_name(m);
        if (!m.body_serial.empty()) label += " " + m.body_serial;
        label += ", " + (m.lens.empty() ? "lens not named" : m.lens);
        std::string setting;
        if (m.focal_mm > 0) setting += fmt::format(" {:g} mm", m.focal_mm);
        if (m.aperture > 0) setting += fmt::format(" f/{:.3g}", m.aperture);
        if (m.distance_m > 0) setting += fmt::format(" {:.3g} m", m.distance_m);
        if (!setting.empty()) label += "," + setting;
        auto it = std::find_if(groups.begin(), groups.end(), [&](const FrameGroup& g) { return g.label == label; });
        if (it == groups.end()) it = groups.insert(groups.end(), {label, {}});
        it->paths.push_back(path);
    }
    return groups;
}

}  // namespace optrel
