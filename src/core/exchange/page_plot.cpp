// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/page_plot.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/ticks.h"

namespace optrel {
namespace {

constexpr PageColour plot_ink{0.1, 0.12, 0.13}, plot_faint{0.42, 0.46, 0.48}, plot_grid{0.85, 0.87, 0.88};
constexpr double type = 7;       // size of figures and names, points
constexpr double line_mm = 3.1;  // distance between lines of text

struct Frame {
    double left, right, top, bottom, x_low, x_high, y_low, y_high, y_step;
    double x(double v) const { return left + (v - x_low) / (x_high - x_low) * (right - left); }
    double y(double v) const {
        return bottom - (std::clamp(v, y_low, y_high) - y_low) / (y_high - y_low) * (bottom - top);
    }
};

/// The range of the curves with their bands, including zero.
RoundRange y_range(const PagePlot& plot) {
    double low = 0, high = 0;
    for (const PlotCurve& c : plot.curves)
        for (const auto& s : c.samples) {
            low = std::min(low, s.y - s.sigma);
            high = std::max(high, s.y + s.sigma);
        }
    return round_range(low, high, plot.least_height, 5);
}

void add_axes(Page& page, const PagePlot& plot, const Frame& f) {
    for (long k = std::lround(f.y_low / f.y_step); k <= std::lround(f.y_high / f.y_step); ++k) {
        const double v = k * f.y_step;
        const bool zero = k == 0;
        page.lines.push_back({{{f.left, f.y(v)}, {f.right, f.y(v)}}, zero ? 0.18 : 0.1, zero ? plot_faint : plot_grid});
        page.texts.push_back({f.left - 1, f.y(v) + 0.8, type, tick_text(v, f.y_step), plot_faint, false, false, true});
    }
    const double across = (plot.x_high - plot.x_low) / 4;
    for (int i = 0; i <= 4; ++i) {
        const double v = plot.x_low + i * across;
        page.lines.push_back({{{f.x(v), f.bottom}, {f.x(v), f.bottom + 0.8}}, 0.15, plot_faint});
        const std::string text = tick_text(v, across);
        page.texts.push_back({f.x(v) - text_width_mm(text, type) / 2, f.bottom + 3.6, type, text, plot_faint});
    }
    page.lines.push_back({{{f.left, f.bottom}, {f.right, f.bottom}}, 0.18, plot_faint});
    page.texts.push_back(
        {(f.left + f.right - text_width_mm(plot.x_axis, type)) / 2, f.bottom + 7, type, plot.x_axis, plot_faint});
}

/// Adds names at the right ends of the curves, moved apart where curves end close together.
void add_names(Page& page, const PagePlot& plot, const Frame& f) {
    struct Name {
        double y;
        const PlotCurve* curve;
    };
    std::vector<Name> names;
    for (const PlotCurve& c : plot.curves)
        if (!c.samples.empty() && plot.curves.size() > 1) names.push_back({f.y(c.samples.back().y) + 0.8, &c});
    std::sort(names.begin(), names.end(), [](const Name& a, const Name& b) { return a.y < b.y; });
    for (std::size_t i = 1; i < names.size(); ++i) names[i].y = std::max(names[i].y, names[i - 1].y + line_mm);
    if (!names.empty() && names.back().y > f.bottom) {
        names.back().y = f.bottom;
        for (std::size_t i = names.size() - 1; i-- > 0;) names[i].y = std::min(names[i].y, names[i + 1].y - line_mm);
    }
    for (const Name& n : names) page.texts.push_back({f.right + 1, n.y, type, n.curve->name, n.curve->colour});
}

void add_curve(Page& page, const PlotCurve& c, const Frame& f) {
    PageLine band{{}, 0, c.colour, true};
    band.colour.opacity = 0.18;
    PageLine line{{}, 0.3, c.colour, false, c.dash};
    for (const auto& s : c.samples) {
        line.points.emplace_back(f.x(s.x), f.y(s.y));
        band.points.emplace_back(f.x(s.x), f.y(s.y + s.sigma));
    }
    for (auto s = c.samples.rbegin(); s != c.samples.rend(); ++s)
        band.points.emplace_back(f.x(s->x), f.y(s->y - s->sigma));
    page.lines.push_back(std::move(band));
    page.lines.push_back(std::move(line));
}

}  // namespace

void add_plot(Page& page, const PagePlot& plot, double x, double y, double width, double height) {
    page.blocks.push_back({plot.title, x, y, width, height});
    page.texts.push_back({x, y + 3, 8, plot.title + (plot.y_axis.empty() ? "" : ", " + plot.y_axis), plot_ink, true});
    const RoundRange range = y_range(plot);
    double figures = 0, names = 0;
    for (int i = 0; i < range.count(); ++i)
        figures = std::max(figures, text_width_mm(tick_text(range.tick(i), range.step), type));
    if (plot.curves.size() > 1)
        for (const PlotCurve& c : plot.curves) names = std::max(names, text_width_mm(c.name, type) + 1);
    const Frame f{x + figures + 1.5,
                  x + width - std::max(names, 2.5),
                  y + 6,
                  y + height - 8,
                  plot.x_low,
                  plot.x_high,
                  range.low,
                  range.high,
                  range.step};
    add_axes(page, plot, f);
    for (const PlotCurve& c : plot.curves) add_curve(page, c, f);
    add_names(page, plot, f);
}

}  // namespace optrel
