// Curves on a printed page: axes with units, few lines, a band of one sigma, each curve named where it ends.
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
    double least_height = 0.5;  ///< of the y range, so that noise does not fill the plot
    std::vector<PlotCurve> curves;
};

/// Draws a plot into a rectangle of a page and notes it as a block.
void add_plot(Page& page, const PagePlot& plot, double x, double y, double width, double height);

/// A step for about so many ticks over a range: 1, 2 or 5 times a power of ten.
double tick_step(double range, int ticks);
/// A tick's figure with as many decimals as the step needs.
std::string tick_text(double value, double step);

}  // namespace optrel
