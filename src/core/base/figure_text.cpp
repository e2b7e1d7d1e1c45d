// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/figure_text.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace optrel {

std::string figure_with_sigma(double value, double sigma) {
    const int decimals = sigma > 0 ? std::clamp(1 - static_cast<int>(std::floor(std::log10(sigma))), 0, 6) : 3;
    return fmt::format("{:.{}f} ± {:.{}f}", value, decimals, sigma, decimals);
}

}  // namespace optrel
