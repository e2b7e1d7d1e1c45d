// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/cost_panel.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "frames/orientation.h"
#include "optics/stretch.h"
#include "theme.h"
#include "widgets/place.h"

namespace optrel {

namespace {

/// Px of the sensor's picture for shares of the picture as it is held.
Vec2 place_of(const PictureView& view, int orientation, double across, double down) {
    const cv::Size size(view.geometry().width, view.geometry().height), held = size_as_held(size, orientation);
    const cv::Point2d p = place_on_sensor({across * held.width, down * held.height}, size, orientation);
    return {p.x, p.y};
}

QString percent(double factor) {
    return QString("%1%2 %")
        .arg(factor < 1 ? QString(QChar(0x2212)) : "+")
        .arg(std::abs(100 * (factor - 1)), 0, 'f', 1);
}

}  // namespace

void StretchMap::set_view(const PictureView* view, int orientation) {
    cells_.clear();
    if (view) {
        const cv::Size held = size_as_held({view->geometry().width, view->geometry().height}, orientation);
        size_ = QSizeF(held.width, held.height);
        for (int j = 0; j < down; ++j)
            for (int i = 0; i < across; ++i) {
                const double x = (i + 0.5) / across, y = (j + 0.5) / down;
                if (const auto s = stretch_at(*view, place_of(*view, orientation, x, y)))
                    cells_.push_back({x, y, 100 * (s->area() - 1)});
            }
        const auto less = [](const Spot& a, const Spot& b) { return a.area_percent < b.area_percent; };
        if (!cells_.empty()) {
            const auto [least, most] = std::minmax_element(cells_.begin(), cells_.end(), less);
            low_ = least->area_percent;
            high_ = most->area_percent;
        }
    }
    if (!cells_.empty())
        set_head("Area, percent", QString("pale %1, dark %2").arg(percent(1 + low_ / 100), percent(1 + high_ / 100)));
    else
        set_head("", "");
    update();
}

std::pair<PlotScale, PlotScale> StretchMap::scales(const QSizeF& area) const {
    const int ticks = std::clamp(static_cast<int>(area.width() / 60), 2, 6);
    // The axes end with the picture; down is down.
    const auto scale = [&](const QString& title, double length) {
        PlotScale out = PlotScale::of(title, round_range(0, length, 0, ticks));
        out.high = length;
        std::erase_if(out.ticks, [&](const PlotScale::Tick& t) { return t.at > length; });
        return out;
    };
    PlotScale x = scale("px across", size_.width()), y = scale("px down", size_.height());
    std::swap(y.low, y.high);
    return {x, y};
}

void StretchMap::paint_data(QPainter& p, const PlotArea& plot) const {
    const double range = std::max(0.1, high_ - low_);
    for (const Spot& s : cells_) {
        const double t = (s.area_percent - low_) / range;
        const QPointF a = plot.at((s.share_x - 0.5 / across) * size_.width(),
                                  (s.share_y - 0.5 / down) * size_.height()),
                      b = plot.at((s.share_x + 0.5 / across) * size_.width(),
                                  (s.share_y + 0.5 / down) * size_.height());
        const auto mix = [&](int pale, int dark) { return static_cast<int>(pale + t * (dark - pale)); };
        p.fillRect(QRectF(a, b).adjusted(0, 0, 0.6, 0.6), QColor(mix(theme::mark_pale.red(), theme::mark.red()),
                                                                 mix(theme::mark_pale.green(), theme::mark.green()),
                                                                 mix(theme::mark_pale.blue(), theme::mark.blue())));
    }
}

QString StretchMap::hint_at(const QPointF& at) const {
    const QPointF v = plot().value_at(at);
    for (const Spot& s : cells_)
        if (std::abs(v.x() / size_.width() - s.share_x) <= 0.5 / across &&
            std::abs(v.y() / size_.height() - s.share_y) <= 0.5 / down)
            return QString("area %1").arg(percent(1 + s.area_percent / 100));
    return {};
}

PlotView::Cells StretchMap::cells() const {
    Cells out{{"px across", "px down", "area, percent"}};
    for (const Spot& s : cells_)
        out.push_back({std::to_string(s.share_x * size_.width()), std::to_string(s.share_y * size_.height()),
                       std::to_string(s.area_percent)});
    return out;
}

CostPanel::CostPanel(QWidget* parent) : QWidget(parent) {
    map_ = new StretchMap;
    map_->setMinimumHeight(170);
    table_ = new Table("Local stretch", {{"Place", false, false, 0},
                                         {"Largest", true, false, 62},
                                         {"Smallest", true, false, 66},
                                         {"Area", true, false, 62}});
    table_->allow_sorting(false);
    table_->setMinimumHeight(100);
    light_ = new CurvePlot("Light", "EV, white at 0", "% of samples");
    light_->setMinimumHeight(120);
    clipped_ = new QLabel;
    clipped_->setWordWrap(true);
    auto* layout = stacked_in(this, 4);
    layout->addWidget(heading("How far samples are pulled apart"));
    layout->addWidget(map_, 3);
    layout->addWidget(table_, 2);
    layout->addWidget(heading("Light, after the falloff is undone"));
    layout->addWidget(light_, 2);
    layout->addWidget(clipped_);
}

void CostPanel::show_stretch(const PictureView& view, int orientation) {
    map_->set_view(&view, orientation);
    std::vector<Row> rows;
    for (const NamedPlace& p : named_places()) {
        const auto s = stretch_at(view, place_of(view, orientation, p.share.x(), p.share.y()));
        if (s)
            rows.push_back({Cell(p.name), Cell(percent(s->largest), s->largest),
                            Cell(percent(s->smallest), s->smallest), Cell(percent(s->area()), s->area())});
        else
            rows.push_back({Cell(p.name), Cell("empty", Cell::Tone::faint), Cell(""), Cell("")});
    }
    table_->set_rows(std::move(rows));
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
        return QString("R %1, G %2, B %3 %").arg(p[0], 0, 'f', 2).arg(p[1], 0, 'f', 2).arg(p[2], 0, 'f', 2);
    };
    clipped_->setText(QString("At or above white: %1; before the falloff is undone %2.")
                          .arg(three(light.after.clipped_percent), three(light.before.clipped_percent)));
}

void CostPanel::clear() {
    map_->set_view(nullptr, 1);
    table_->set_rows({});
    light_->set_curves({}, 0, 1, 1);
    clipped_->clear();
}

}  // namespace optrel
