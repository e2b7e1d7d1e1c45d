// SPDX-License-Identifier: GPL-3.0-or-later
// A chart on paper: the shapes and their positions, in mm from the top-left corner of the page.
// The layout is computed once; the PDF, the SVG and the preview in the window draw the same
// shapes.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/output.h"
#include "charts/chart.h"

namespace optrel {

struct PageSize {
    std::string name;  ///< "A3 landscape", or "500x700"
    double width_mm = 0, height_mm = 0;

    /// Takes A0 to A4, with or without "portrait" or "landscape" (as in "A3 portrait"; landscape by default), or
    /// WIDTHxHEIGHT in mm. Throws Error(usage).
    static PageSize parse(const std::string& text);
};

struct SheetRect {
    double x, y, width, height;
};
struct SheetLine {
    double x1, y1, x2, y2, width;
};
struct SheetText {
    double x, y;  ///< start of the base line
    double size;  ///< cap height of about 0.7 of it
    std::string text;
    bool upwards = false;  ///< turned to read upwards
};

struct ChartSheet {
    ChartSpec chart;
    PageSize page;
    SheetRect board;               ///< outline of the squares
    std::vector<SheetRect> black;  ///< squares and bits of markers
    std::vector<SheetLine> lines;  ///< rulers
    std::vector<SheetText> texts;
    double ruler_across_mm = 0, ruler_down_mm = 0;  ///< length between the end marks of the check rulers
};

/// Lays a chart out: squares in the middle of the page, a quiet margin of white round them, a check ruler on both axes
/// and the parameters in print. Throws Error(input) with the largest square that would fit when the chart is too large
/// for the page.
ChartSheet lay_out_sheet(const ChartSpec& chart, const PageSize& page);

/// The largest square (mm, in steps of 0.5) with which so many squares fit the page.
double largest_square_mm(int squares_x, int squares_y, const PageSize& page);

/// The chart as printed, from the measured lengths of the check rulers. Throws Error(input) when a length deviates by
/// more than 10 %, which no printer does.
ChartSpec as_measured(const ChartSheet& sheet, double measured_across_mm, double measured_down_mm);

/// Writes a vector PDF or SVG (by the extension), atomically. Throws Error(usage) for another extension.
void write_sheet(const ChartSheet& sheet, const std::filesystem::path& path, Existing existing = Existing::keep);

}  // namespace optrel
