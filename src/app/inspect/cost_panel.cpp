// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/cost_panel.h"

#include <algorithm>
#include <cmath>

#include "base/figure_text.h"
#include "frames/orientation.h"
#include "optics/stretch.h"
#include "theme.h"
#include "widgets/place.h"

namespace optrel {

namespace {

/// Converts fractions of the displayed picture to px of the sensor.
Vec2 place_of(const PictureView& view, int orientation, double across, double down) {
    const cv::Size size(view.geometry().width, view.geometry().height), held = size_as_held(size, orientation);
    const cv::Point2d p = place_on_sensor({across * held.width, down * held.height}, size, orientation);
    return {p.x, p.y};
}

QString percent(double factor) { return q(figure_text(figures::light_change, 100 * (factor - 1))); }

}  // namespace

CostPanel::CostPanel(QWidget* parent) : QWidget(parent) {
    map_ = new PictureMap("Local stretch over the picture");
    map_->setMinimumHeight(110);
    const auto share = [](double (*of)(const Stretch&)) {
        return [of](const StretchedPlace& p) {
            return p.stretch ? Cell(percent(of(*p.stretch)), of(*p.stretch)) : Cell();
        };
    };
    table_ = new TableOf<StretchedPlace>(
        "Local stretch", {{text_column("Place"), [](const StretchedPlace& p) { return Cell(p.name); }},
                          {figure_column("Largest", 62),
                           [](const StretchedPlace& p) {
                               return p.stretch ? Cell(percent(p.stretch->largest), p.stretch->largest)
                                                : Cell("empty", Cell::Tone::faint);
                           }},
                          {figure_column("Smallest", 66), share([](const Stretch& s) { return s.smallest; })},
                          {figure_column("Area", 62), share([](const Stretch& s) { return s.area(); })}});
    table_->allow_sorting(false);
    table_->setMinimumHeight(64);
    light_ = new CurvePlot("Light", "EV, white at 0", "% of samples");
    light_->setMinimumHeight(70);
    clipped_ = new QLabel;
    clipped_->setWordWrap(true);
    auto* layout = stacked_in(scrolled_in(this), 4);
    layout->addWidget(heading("How far samples are pulled apart"));
    layout->addWidget(map_, 3);
    layout->addWidget(table_, 2);
    layout->addWidget(heading("Light, after the falloff is undone"));
    layout->addWidget(light_, 2);
    layout->addWidget(clipped_);
}

void CostPanel::show_stretch(const PictureView& view, int orientation) {
    constexpr int across = 24, down = 16;
    std::vector<PictureMap::Part> parts;
    for (int j = 0; j < down; ++j)
        for (int i = 0; i < across; ++i)
            if (const auto s = stretch_at(view, place_of(view, orientation, (i + 0.5) / across, (j + 0.5) / down)))
                parts.push_back({i, j, 100 * (s->area() - 1)});
    const cv::Size held = size_as_held({view.geometry().width, view.geometry().height}, orientation);
    map_->show_parts(QSizeF(held.width, held.height), across, down, std::move(parts),
                     {"Area, percent", [](double value) { return percent(1 + value / 100); }});
    std::vector<StretchedPlace> places;
    for (const NamedPlace& p : named_places())
        places.push_back({p.name, stretch_at(view, place_of(view, orientation, p.share.x(), p.share.y()))});
    table_->show_records(places);
}

void CostPanel::show_light(const LightDistribution& light) {
    std::vector<Curve> curves;
    const char* names[] = {"R", "G", "B"};
    const QColor colours[] = {theme::channel_red, theme::channel_green, theme::channel_blue};
    for (int c = 0; c < 3; ++c) {
        Curve curve;
        curve.label = names[c];
        curve.colour = colours[c];
        for (int b = 0; b < LightDistribution::bins; ++b)
            curve.points.emplace_back(LightDistribution::lowest_ev + (b + 0.5) * LightDistribution::step_ev,
                                      light.after.percent[c][b]);
        curves.push_back(std::move(curve));
    }
    light_->set_curves(std::move(curves), -10, LightDistribution::highest_ev, 1);
    const auto three = [](const std::array<double, 3>& p) {
        return QString("R %1, G %2, B %3")
            .arg(q(number_text(figures::fine_share, p[0])), q(number_text(figures::fine_share, p[1])),
                 q(figure_text(figures::fine_share, p[2])));
    };
    clipped_->setText(QString("At or above white: %1; before the falloff is undone %2.")
                          .arg(three(light.after.clipped_percent), three(light.before.clipped_percent)));
}

void CostPanel::clear() {
    map_->clear();
    table_->set_rows({});
    light_->set_curves({}, 0, 1, 1);
    clipped_->clear();
}

}  // namespace optrel
