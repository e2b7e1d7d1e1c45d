// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/chart.h"

#include <fmt/format.h>

#include <cmath>
#include <regex>

#include "base/error.h"
#include "base/numbers.h"

namespace optrel {

ChartSpec ChartSpec::parse(const std::string& text) {
    static const std::regex form(
        R"((checker|coded):(\d{1,5})x(\d{1,5}):(\d{1,6}(?:\.\d{1,9})?)(?:x(\d{1,6}(?:\.\d{1,9})?))?)");
    std::smatch part;
    if (!std::regex_match(text, part, form))
        throw usage_error(
            fmt::format("The chart '{}' is not understood; write checker:ACROSSxDOWN:MM or coded:ACROSSxDOWN:MM, for "
                        "instance checker:15x10:30.",
                        text));
    ChartSpec spec;
    spec.kind = part[1] == "coded" ? ChartKind::coded : ChartKind::checker;
    spec.squares_x = static_cast<int>(*parse_integer(part[2].str()));
    spec.squares_y = static_cast<int>(*parse_integer(part[3].str()));
    spec.square_mm = number_from(part[4].str(), "The square size");
    spec.square_y_mm = part[5].matched ? number_from(part[5].str(), "The square size") : spec.square_mm;
    if (spec.squares_x < 4 || spec.squares_y < 4 || spec.squares_x > 200 || spec.squares_y > 200 ||
        !(spec.square_mm > 0 && spec.square_mm < 2000))
        throw usage_error(fmt::format(
            "The chart '{}' is out of range: 4 to 200 squares each way, a square of more than 0 and less than 2000 mm.",
            text));
    if (std::abs(spec.square_y_mm / spec.square_mm - 1) > 0.1)
        throw usage_error(fmt::format(
            "The chart '{}' has squares that differ by more than 10 % across and down; measure both rulers again.",
            text));
    if (spec.kind == ChartKind::coded && spec.markers() > 1000)
        throw usage_error(fmt::format("The chart '{}' needs {} markers, but there are 1000; choose fewer squares.",
                                      text, spec.markers()));
    return spec;
}

std::string ChartSpec::text() const {
    const std::string size = square_y_mm == square_mm || square_y_mm == 0
                                 ? fmt::format("{}", square_mm)
                                 : fmt::format("{}x{}", square_mm, square_y_mm);
    return fmt::format("{}:{}x{}:{}", kind == ChartKind::coded ? "coded" : "checker", squares_x, squares_y, size);
}

}  // namespace optrel
