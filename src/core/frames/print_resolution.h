// SPDX-License-Identifier: GPL-3.0-or-later
// The print resolution of a picture.
#pragma once

#include <string>

namespace optrel {

struct PrintResolution {
    double pixels = 300;  ///< per inch, or per centimetre
    bool per_cm = false;

    double per_metre() const { return per_cm ? pixels * 100 : pixels / 0.0254; }
    bool operator==(const PrintResolution& o) const { return pixels == o.pixels && per_cm == o.per_cm; }
};

/// "300/in" or "120/cm".
std::string to_string(const PrintResolution& resolution);
/// Inverse of to_string(). Throws Error(input) for less than 1 or more than 10000 pixels per inch, for a number without
/// unit, and for any other text.
PrintResolution print_resolution_from(const std::string& text);

}  // namespace optrel
