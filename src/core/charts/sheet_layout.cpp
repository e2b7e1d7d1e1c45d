// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/sheet_layout.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <regex>

#include "base/choose.h"
#include "base/error.h"
#include "base/numbers.h"
#include "charts/identify.h"

namespace optrel {
namespace {

constexpr double edge_mm = 5;    // margin that printers cannot reach, with a small reserve
constexpr double ruler_mm = 11;  // strip for a ruler and its figures
constexpr double text_mm = 6;    // line of parameters

/// White space around the squares: detection needs a free edge around the board.
double quiet_mm(double square_mm) { return std::clamp(0.4 * square_mm, 5.0, 20.0); }

struct Need {
    double width, height;
};
Need needed(const ChartSpec& c) {
    const double quiet = quiet_mm(std::max(c.square_mm, c.square_y_mm));
    return {c.width_mm() + 2 * (quiet + edge_mm) + ruler_mm,
            c.height_mm() + 2 * (quiet + edge_mm) + ruler_mm + text_mm};
}

/// The longest ruler of whole steps that fits into a length.
double ruler_length(double available) {
    for (const double step : {100.0, 50.0, 20.0, 10.0})
        if (available >= step) return std::floor(available / step) * step;
    return std::floor(available);
}

void add_ruler(ChartSheet& sheet, bool down, double from, double at, double length) {
    const auto place = [&](double along, double across) {
        return down ? std::pair(at + across, from + along) : std::pair(from + along, at + across);
    };
    const auto line = [&](double a1, double c1, double a2, double c2, double width) {
        const auto [x1, y1] = place(a1, c1);
        const auto [x2, y2] = place(a2, c2);
        sheet.lines.push_back({x1, y1, x2, y2, width});
    };
    line(0, 0, length, 0, 0.15);
    for (double t = 0; t <= length + 1e-6; t += 10) {
        const bool end = t == 0 || t > length - 1e-6;
        line(t, 0, t, first_of<double>({{end, 4}, {std::fmod(t, 50) < 1e-6, 3}}, 1.8), end ? 0.25 : 0.15);
    }
    if (std::fmod(length, 10) > 1e-6) line(length, 0, length, 4, 0.25);
    const std::string label = fmt::format("{:g} mm between the end marks when printed at full size", length);
    const auto [x, y] = place(down ? length / 2 + 30 : length / 2 - 30, 7.5);
    sheet.texts.push_back({x, y, 3, label, down});
}

}  // namespace

PageSize PageSize::parse(const std::string& text) {
    static const std::regex named(R"(A([0-4])(?:[ -]?(portrait|landscape))?)", std::regex::icase),
        free(R"((\d{2,5}(?:\.\d+)?)x(\d{2,5}(?:\.\d+)?)(?: ?mm)?)");
    std::smatch part;
    PageSize page;
    if (std::regex_match(text, part, named)) {
        static constexpr double width[] = {841, 594, 420, 297, 210}, height[] = {1189, 841, 594, 420, 297};
        const int k = part[1].str()[0] - '0';
        const bool portrait = part[2].matched && std::tolower(part[2].str()[0]) == 'p';
        page.width_mm = portrait ? width[k] : height[k];
        page.height_mm = portrait ? height[k] : width[k];
        page.name = fmt::format("A{} {}", k, portrait ? "portrait" : "landscape");
        return page;
    }
    if (std::regex_match(text, part, free)) {
        page.width_mm = number_from(part[1].str(), "The width of a page");
        page.height_mm = number_from(part[2].str(), "The height of a page");
        page.name = fmt::format("{:g}x{:g} mm", page.width_mm, page.height_mm);
        if (page.width_mm >= 50 && page.height_mm >= 50 && page.width_mm <= 20000 && page.height_mm <= 20000)
            return page;
    }
    throw usage_error(
        fmt::format("The page '{}' is not understood; write A0 to A4, 'A3 portrait', or WIDTHxHEIGHT in mm (50 to "
                    "20000), as in 500x700.",
                    text));
}

double largest_square_mm(int squares_x, int squares_y, const PageSize& page) {
    ChartSpec c;
    c.squares_x = squares_x;
    c.squares_y = squares_y;
    double best = 0;
    for (double s = 0.5; s < 2000; s += 0.5) {
        c.square_mm = c.square_y_mm = s;
        const Need need = needed(c);
        if (need.width > page.width_mm || need.height > page.height_mm) break;
        best = s;
    }
    return best;
}

ChartSheet lay_out_sheet(const ChartSpec& chart, const PageSize& page) {
    const Need need = needed(chart);
    if (need.width > page.width_mm + 1e-9 || need.height > page.height_mm + 1e-9) {
        const double fits = largest_square_mm(chart.squares_x, chart.squares_y, page);
        throw input_error(
            fmt::format("The chart {} needs {:.0f} x {:.0f} mm with its margin and rulers, but the page {} has {:.0f} "
                        "x {:.0f} mm; choose a larger page or squares of at most {:g} mm.",
                        chart.text(), need.width, need.height, page.name, page.width_mm, page.height_mm, fits));
    }
    ChartSheet sheet;
    sheet.chart = chart;
    sheet.page = page;
    const double quiet = quiet_mm(std::max(chart.square_mm, chart.square_y_mm));
    const double left = (page.width_mm - need.width) / 2 + edge_mm + quiet,
                 top = (page.height_mm - need.height) / 2 + edge_mm + quiet;
    sheet.board = {left, top, chart.width_mm(), chart.height_mm()};
    for (int row = 0; row < chart.squares_y; ++row)
        for (int column = 0; column < chart.squares_x; ++column)
            if (!chart.is_white(column, row))
                sheet.black.push_back({left + column * chart.square_mm, top + row * chart.square_y_mm, chart.square_mm,
                                       chart.square_y_mm});
    if (chart.kind == ChartKind::coded) {
        int id = 0;
        for (int row = 0; row < chart.squares_y; ++row)
            for (int column = 0; column < chart.squares_x; ++column) {
                if (!chart.is_white(column, row)) continue;
                const cv::Mat1b bits = marker_bits(id++);
                const double bit_x = ChartSpec::marker_share * chart.square_mm / bits.cols,
                             bit_y = ChartSpec::marker_share * chart.square_y_mm / bits.rows;
                const double x = left + (column + (1 - ChartSpec::marker_share) / 2) * chart.square_mm,
                             y = top + (row + (1 - ChartSpec::marker_share) / 2) * chart.square_y_mm;
                for (int j = 0; j < bits.rows; ++j)
                    for (int i = 0;
                         i <
                         bits.cols;) {  // runs of black bits are one rectangle, so that no hairlines show between them
                        int end = i;
                        while (end < bits.cols && !bits(j, end)) ++end;
                        // An overlap of a hundredth of a bit downwards closes the seam to a black bit in the row
                        // below.
                        if (end > i)
                            sheet.black.push_back({x + i * bit_x, y + j * bit_y, (end - i) * bit_x,
                                                   bit_y * (j + 1 < bits.rows ? 1.01 : 1)});
                        i = std::max(end, i + 1);
                    }
            }
    }
    sheet.ruler_across_mm = ruler_length(chart.width_mm());
    sheet.ruler_down_mm = ruler_length(chart.height_mm());
    add_ruler(sheet, false, left, top + chart.height_mm() + quiet, sheet.ruler_across_mm);
    add_ruler(sheet, true, top, left + chart.width_mm() + quiet, sheet.ruler_down_mm);
    sheet.texts.push_back({left, page.height_mm - edge_mm, 3.5,
                           fmt::format("Optrel  {}  {} x {} squares of {:g} mm  on {}. Print at full size (100 %), not "
                                       "fitted to the page; measure both rulers.",
                                       chart.text(), chart.squares_x, chart.squares_y, chart.square_mm, page.name)});
    return sheet;
}

ChartSpec as_measured(const ChartSheet& sheet, double across, double down) {
    const auto check = [](double measured, double printed, const char* which) {
        if (!(std::abs(measured / printed - 1) < 0.1))
            throw input_error(
                fmt::format("The ruler {} is {:g} mm long in print, {:g} mm is too far from that; measure between the "
                            "outermost marks.",
                            which, printed, measured));
    };
    check(across, sheet.ruler_across_mm, "across");
    check(down, sheet.ruler_down_mm, "down");
    ChartSpec out = sheet.chart;
    // Rounded to a micrometre; measurements are not more precise.
    out.square_mm = std::round(1000 * sheet.chart.square_mm * across / sheet.ruler_across_mm) / 1000;
    out.square_y_mm = std::round(1000 * sheet.chart.square_y_mm * down / sheet.ruler_down_mm) / 1000;
    return out;
}

}  // namespace optrel
