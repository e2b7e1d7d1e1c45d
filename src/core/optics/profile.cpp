#include "optics/profile.h"

#include <fmt/format.h>

#include <cctype>

namespace optrel {

std::string to_string(const LensSetting& s) {
    std::string out;
    const auto add = [&](const std::string& part) { out += (out.empty() ? "" : " ") + part; };
    if (s.focal_mm > 0) add(fmt::format("{:.4g} mm", s.focal_mm));
    if (s.aperture > 0) add(fmt::format("f/{:.3g}", s.aperture));
    if (s.distance_m > 0) add(fmt::format("{:.3g} m", s.distance_m));
    return out.empty() ? "setting not recorded" : out;
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
