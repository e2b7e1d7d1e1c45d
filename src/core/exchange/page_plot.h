// SPDX-License-Identifier: GPL-3.0-or-later
// A plot on a printed page: axes with units, few lines, a band of one sigma, each curve labelled at its end.
#pragma once

#include <string>
#include <vector>

#include "exchange/pages.h"

namespace optrel {

struct PlotCurve {
    std::string name;
    PageColour colour;
    std::vector<double> dash;
    struct Sample {
        double x, y, sigma;
    };
    std::vector<Sample> samples;
};

struct PagePlot {
    std::string title, x_axis, y_axis;
    double x_low = 0, x_high = 1;
    double least_height = 0.5;  ///< minimum height of the y range, so that noise does not fill the plot
    std::vector<PlotCurve> curves;
};

/// Draws a plot into a rectangle of a page and records it as a block.
void add_plot(Page& page, const PagePlot& plot, double x, double y, double width, double height);

}  // namespace optrel
