// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/figure_text.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace optrel {
namespace {

std::string with_unit(const FigureKind& kind, const std::string& number) {
    if (*kind.unit == '\0') return number;
    return number + (std::string_view(kind.unit) == "°" ? "" : " ") + kind.unit;
}

}  // namespace

std::string number_text(const FigureKind& kind, double value) {
    if (std::abs(value) < 0.5 * std::pow(10.0, -kind.decimals)) value = 0;
    return kind.with_sign && value != 0 ? fmt::format("{:+.{}f}", value, kind.decimals)
                                        : fmt::format("{:.{}f}", value, kind.decimals);
}

std::string figure_text(const FigureKind& kind, double value) { return with_unit(kind, number_text(kind, value)); }

std::string figure_text(const FigureKind& kind, double value, double sigma) {
    return with_unit(kind, number_text(kind, value, sigma));
}

std::string number_text(const FigureKind& kind, double value, double sigma) {
    FigureKind finer = kind;
    const int needed = sigma > 0 ? static_cast<int>(std::ceil(-std::log10(2 * sigma))) : 0;
    finer.decimals = std::clamp(needed, kind.decimals, kind.decimals + 2);
    return fmt::format("{} ± {:.{}f}", number_text(finer, value), sigma, finer.decimals);
}

std::string pair_text(const FigureKind& kind, double one, double other) {
    return with_unit(kind, number_text(kind, one) + ", " + number_text(kind, other));
}

std::string change_text(const FigureKind& kind, double before, double after) {
    return number_text(kind, before) + " → " + number_text(kind, after);
}

std::string figure_with_sigma(double value, double sigma) {
    const int decimals = sigma > 0 ? std::clamp(1 - static_cast<int>(std::floor(std::log10(sigma))), 0, 6) : 3;
    return fmt::format("{:.{}f} ± {:.{}f}", value, decimals, sigma, decimals);
}

}  // namespace optrel
