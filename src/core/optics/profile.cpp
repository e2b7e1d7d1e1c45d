#include "optics/profile.h"

#include <cctype>
#include <cmath>
#include <limits>

#include "base/error.h"

namespace optrel {

const ProfileNode& Profile::node_for(const LensSetting& setting) const {
    if (nodes.empty()) throw input_error("The profile '" + name + "' holds no lens setting; solve the lens again.");
    const auto apart = [](double a, double b, double (*scale)(double)) { return a > 0 && b > 0 ? std::abs(scale(a) - scale(b)) : 0.0; };
    const ProfileNode* best = nullptr;
    double best_cost = std::numeric_limits<double>::infinity();
    for (const ProfileNode& node : nodes) {
        const double cost = 100 * apart(node.setting.focal_mm, setting.focal_mm, [](double f) { return std::log2(f); }) +
                            apart(node.setting.aperture, setting.aperture, [](double n) { return 2 * std::log2(n); }) +
                            apart(node.setting.distance_m, setting.distance_m, [](double d) { return 1 / d; });
        if (cost < best_cost) {
            best_cost = cost;
            best = &node;
        }
    }
    return *best;
}

std::string canonical_lens_text(const std::string& text) {
    std::string out;
    for (const unsigned char c : text)
        if (std::isalnum(c) || c == '.') out += static_cast<char>(std::tolower(c));
    const auto erase_unit = [&](const std::string& unit, bool before_digit) {
        for (std::size_t at = 0; (at = out.find(unit, at)) != std::string::npos;) {
            const bool digit_after = at + unit.size() < out.size() && std::isdigit(static_cast<unsigned char>(out[at + unit.size()]));
            const bool digit_before = at > 0 && std::isdigit(static_cast<unsigned char>(out[at - 1]));
            if (before_digit ? digit_after : digit_before)
                out.erase(at, unit.size());
            else
                ++at;
        }
    };
    erase_unit("mm", false);
    erase_unit("f", true);
    return out;
}

}  // namespace optrel
