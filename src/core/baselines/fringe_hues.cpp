// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/fringe_hues.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {

namespace {

Error no_hues(const std::string& text) {
    return input_error(
        fmt::format("'{}' says no hues; write none, or ranges in degrees with a percentage each, for instance 260-340 "
                    "80, 90-150 50.",
                    text));
}

double number_in(const std::string& part, const std::string& text) {
    const std::optional<double> v = parse_number(part);
    if (!v) throw no_hues(text);
    return *v;
}

}  // namespace

std::vector<HueRange> fringe_hues(const std::string& text) {
    std::vector<HueRange> out;
    if (text == "none") return out;
    for (const std::string& item : listed(text)) {
        const std::size_t dash = item.find('-'), space = item.find(' ');
        if (dash == std::string::npos || space == std::string::npos || dash > space) throw no_hues(text);
        const HueRange h{number_in(item.substr(0, dash), text),
                         number_in(item.substr(dash + 1, space - dash - 1), text),
                         number_in(item.substr(space + 1), text)};
        if (h.from < 0 || h.from > 360 || h.to < 0 || h.to > 360 || h.percent < 0 || h.percent > 100)
            throw input_error(fmt::format(
                "The hues '{}' are out of range; degrees go from 0 to 360, percentages from 0 to 100.", item));
        out.push_back(h);
    }
    if (out.empty()) throw no_hues(text);
    return out;
}

std::string to_text(const std::vector<HueRange>& hues) {
    if (hues.empty()) return "none";
    std::vector<std::string> parts;
    for (const HueRange& h : hues) parts.push_back(fmt::format("{:.0f}-{:.0f} {:.0f}", h.from, h.to, h.percent));
    return fmt::format("{}", fmt::join(parts, ", "));
}

}  // namespace optrel
