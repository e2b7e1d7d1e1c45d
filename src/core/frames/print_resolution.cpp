// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/print_resolution.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {

std::string to_string(const PrintResolution& r) { return fmt::format("{}/{}", r.pixels, r.per_cm ? "cm" : "in"); }

PrintResolution print_resolution_from(const std::string& text) {
    const auto slash = text.find('/');
    const std::string unit = slash == std::string::npos ? std::string() : trimmed(text.substr(slash + 1));
    const std::optional<double> pixels = parse_number(trimmed(text.substr(0, slash)));
    const PrintResolution out{pixels.value_or(0), unit == "cm"};
    const double per_inch = out.per_metre() * 0.0254;
    if (!pixels || (unit != "in" && unit != "cm") || !(per_inch >= 1 && per_inch <= 10000))
        throw input_error(
            fmt::format("'{}' is no resolution for printing; write the pixels for an inch or a centimetre as 300/in or "
                        "120/cm, of 1 to 10000 for an inch.",
                        printable(text)));
    return out;
}

}  // namespace optrel
