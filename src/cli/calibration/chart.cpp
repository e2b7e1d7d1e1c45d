// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "charts/sheet_layout.h"
#include "cli/commands.h"

namespace optrel::cli {
namespace {

struct ChartOptions {
    std::string kind = "checker", squares = "15x10", page = "A3", out;
    double square_mm = 0;
    bool json = false, overwrite = false;
};

void run(const ChartOptions& o) {
    if (o.kind != "checker" && o.kind != "coded")
        throw usage_error(fmt::format("--kind takes checker or coded, not '{}'.", o.kind));
    const PageSize page = PageSize::parse(o.page);
    const auto [across, down] = whole_pair(o.squares, "squares", 4, 200);
    const double largest = largest_square_mm(across, down, page);
    if (largest <= 0)
        throw input_error(
            fmt::format("A chart of {} squares does not fit the page {} with squares of half a millimetre even; choose "
                        "fewer squares or a larger page.",
                        o.squares, page.name));
    double square = o.square_mm > 0 ? o.square_mm : largest;
    // The sheet states its real size in print, so a smaller one is acceptable, with a warning.
    if (square > largest && largest > 0) {
        fmt::print(stderr,
                   "Squares of {:g} mm do not fit the page {}: the chart is drawn with squares of {:g} mm, and has to "
                   "be given as such.\n",
                   square, page.name, largest);
        square = largest;
    }
    const ChartSheet sheet =
        lay_out_sheet(ChartSpec::parse(fmt::format("{}:{}x{}:{:g}", o.kind, across, down, square)), page);
    write_sheet(sheet, o.out, existing(o.overwrite));
    if (o.json)
        print_json({{"chart", sheet.chart.text()},
                    {"page_mm", {page.width_mm, page.height_mm}},
                    {"board_mm", {sheet.board.x, sheet.board.y, sheet.board.width, sheet.board.height}},
                    {"ruler_mm", {sheet.ruler_across_mm, sheet.ruler_down_mm}},
                    {"out", o.out}});
    else
        fmt::print("{} on {}: print {} at full size, then measure the rulers ({:g} mm across, {:g} mm down).\n",
                   sheet.chart.text(), page.name, o.out, sheet.ruler_across_mm, sheet.ruler_down_mm);
}

}  // namespace

void add_chart(CLI::App& app) {
    auto* command = add_command(app, "chart", "Draw a chart to print, as PDF or SVG",
                                "chart --kind coded --squares 15x10 --square-mm 25 --page A3 --out chart.pdf");
    auto o = std::make_shared<ChartOptions>();
    command->add_option("--kind", o->kind, "checker (plain) or coded")->capture_default_str();
    command->add_option("--squares", o->squares, "Squares across x down")->capture_default_str();
    command->add_option("--square-mm", o->square_mm, "Size of a square in mm (default: the largest that fits)")
        ->check(between(0.5, 2000));
    command->add_option("--page", o->page, "A0 to A4, 'A3 portrait', or WIDTHxHEIGHT in mm")->capture_default_str();
    command->add_option("--out", o->out, "The file to write: .pdf or .svg")->required();
    add_overwrite_flag(*command, o->overwrite);
    command->add_flag("--json", o->json, "Print what was drawn as JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli
