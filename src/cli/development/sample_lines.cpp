// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/development/sample_lines.h"

#include <fmt/format.h>

#include "base/figure_text.h"
#include "base/words.h"

namespace optrel::cli {

nlohmann::json tell_sample(const Sample& s, bool quiet) {
    using nlohmann::json;
    json fields = json::array();
    std::vector<std::string> names;
    for (const Field f : s.fields) {
        fields.push_back(info(f).id);
        names.push_back(info(f).label);
    }
    if (!quiet && s.problem.empty())
        fmt::print("{}: most in {}; patches apart by {} on the mean, {} at most, picture {} and {} (CIELAB)\n",
                   printable(s.frame.string()), fmt::join(names, ", "),
                   number_text(figures::lab_difference, s.in_patches.mean),
                   number_text(figures::lab_difference, s.in_patches.largest),
                   number_text(figures::lab_difference, s.in_picture.mean),
                   number_text(figures::lab_difference, s.in_picture.largest));
    json out = {{"frame", s.frame.string()}, {"fields", fields}};
    const auto apart = [](const ColourDifference& d) {
        return json({{"mean", d.mean}, {"p95", d.p95}, {"largest", d.largest}});
    };
    if (s.problem.empty()) {
        out["patches"] = apart(s.in_patches);
        out["picture"] = apart(s.in_picture);
    } else {
        out["problem"] = s.problem;
        fmt::print(stderr, "{}\n", s.problem);
    }
    return out;
}

}  // namespace optrel::cli
