// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/picture_map.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "theme.h"

namespace optrel {

void PictureMap::show_parts(const QSizeF& size, int across, int down, std::vector<Part> parts, Look look) {
    size_ = size;
    across_ = across;
    down_ = down;
    parts_ = std::move(parts);
    look_ = std::move(look);
    if (parts_.empty()) return clear(why_empty_);
    const auto less = [](const Part& a, const Part& b) { return a.value < b.value; };
    const auto [least, most] = std::minmax_element(parts_.begin(), parts_.end(), less);
    low_ = least->value;
    high_ = most->value;
    set_head(look_.quantity, QString("pale %1, dark %2").arg(look_.said(low_), look_.said(high_)));
    update();
}

void PictureMap::clear(const QString& why) {
    parts_.clear();
    why_empty_ = why;
    set_head("", "");
    update();
}

QPointF PictureMap::middle(const Part& part) const {
    return {(part.column + 0.5) / across_ * size_.width(), (part.row + 0.5) / down_ * size_.height()};
}

std::pair<PlotScale, PlotScale> PictureMap::scales(const QSizeF& area) const {
    const int ticks = std::clamp(static_cast<int>(area.width() / 60), 2, 6);
    // The axes have the size of the picture; y points down.
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

void PictureMap::paint_data(QPainter& p, const PlotArea& plot) const {
    const double range = std::max({1e-9, look_.least_range, high_ - low_}), pale = (low_ + high_ - range) / 2;
    const QPointF half(0.5 / across_ * size_.width(), 0.5 / down_ * size_.height());
    for (const Part& part : parts_) {
        const double t = (part.value - pale) / range;
        const QPointF at = middle(part), a = at - half, b = at + half;
        const QRectF box = QRectF(plot.at(a.x(), a.y()), plot.at(b.x(), b.y())).adjusted(0, 0, 0.6, 0.6);
        const auto mix = [&](int pale, int dark) { return static_cast<int>(pale + t * (dark - pale)); };
        p.fillRect(box, QColor(mix(theme::mark_pale.red(), theme::mark.red()),
                               mix(theme::mark_pale.green(), theme::mark.green()),
                               mix(theme::mark_pale.blue(), theme::mark.blue())));
        if (!look_.written) continue;
        p.setPen(t > 0.55 ? theme::on_mark : theme::ink);
        p.drawText(box, Qt::AlignCenter, look_.said(part.value));
    }
}

QString PictureMap::hint_at(const QPointF& at) const {
    const QPointF v = plot().value_at(at);
    for (const Part& part : parts_) {
        const QPointF off = v - middle(part);
        if (std::abs(off.x()) <= 0.5 / across_ * size_.width() && std::abs(off.y()) <= 0.5 / down_ * size_.height())
            return QString("%1: %2").arg(look_.quantity, look_.said(part.value));
    }
    return {};
}

PlotView::Cells PictureMap::cells() const {
    Cells out{{"px across", "px down", look_.quantity.toStdString()}};
    for (const Part& part : parts_) {
        const QPointF at = middle(part);
        out.push_back({std::to_string(at.x()), std::to_string(at.y()), std::to_string(part.value)});
    }
    return out;
}

}  // namespace optrel
