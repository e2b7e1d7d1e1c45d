// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/development/ruler_options.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/numbers.h"
#include "cli/commands.h"

namespace optrel::cli {

void add_ruler_options(CLI::App& command, RulerOptions& o) {
    command.add_option("--ruler", o.across,
                       "Check ruler across, in mm as MEASURED/PRINTED, for instance 198.6/200: tells when the squares "
                       "are given wrongly");
    command.add_option("--ruler-down", o.down, "The same for the ruler down [default: as across]");
    command
        .add_option("--printed-square-mm", o.printed_square_mm,
                    "Size of a square as the chart says in print [default: that of --chart]")
        ->check(between(0.5, 2000));
}

std::optional<Vec2> square_by(const RulerOptions& o, const ChartSpec& chart) {
    if (o.across.empty() && o.down.empty()) return std::nullopt;
    const auto share = [](const std::string& text) {
        const auto pair = parse_pair(text, '/');
        if (!pair || !(pair->first > 0) || !(pair->second > 0))
            throw usage_error(fmt::format("A ruler is MEASURED/PRINTED in mm, as in 198.6/200, not '{}'.", text));
        return pair->first / pair->second;
    };
    const double across = share(o.across.empty() ? o.down : o.across), down = share(o.down.empty() ? o.across : o.down);
    const double x = o.printed_square_mm > 0 ? o.printed_square_mm : chart.square_mm,
                 y = o.printed_square_mm > 0 ? o.printed_square_mm : chart.square_y_mm;
    return Vec2(x * across, y * down);
}

void add_measure_mosaic_flag(CLI::App& command, bool& measure_mosaic) {
    command.add_flag("--measure-mosaic", measure_mosaic,
                     "Measure raw frames that carry a correction of their lens in opcodes by their mosaic, which the "
                     "opcodes leave as it is");
}

void print_findings(const RunSolution& solution) {
    for (const Finding& f : solution.findings)
        fmt::print("{} {}: {}{}{}\n", f.serious ? "!" : "-", f.name, f.text, f.remedy.empty() ? "" : " ", f.remedy);
}

}  // namespace optrel::cli
