// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/setting_chart.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "base/choose.h"
#include "base/figure_text.h"
#include "theme.h"
#include "window_words.h"

namespace optrel {
namespace {

double focal_axis(const LensSetting& s) { return s.focal_mm > 0 ? std::log2(s.focal_mm) : 0; }
double aperture_axis(const LensSetting& s) { return s.aperture > 0 ? 2 * std::log2(s.aperture) : 0; }
QPointF place(const PlotArea& plot, const LensSetting& s) { return plot.at(focal_axis(s), aperture_axis(s)); }

/// An axis with a label at each measured value and margins at both ends.
PlotScale scale_of(const QString& title, std::vector<PlotScale::Tick> ticks, double least_air) {
    std::sort(ticks.begin(), ticks.end(), [](const auto& a, const auto& b) { return a.at < b.at; });
    const double low = ticks.front().at, high = ticks.back().at, air = std::max(least_air, 0.25 * (high - low));
    std::erase_if(ticks, [](const auto& t) { return t.text.isEmpty(); });
    return {title, low - air, high + air, std::move(ticks)};
}

}  // namespace

SettingChart::SettingChart(QWidget* parent) : PlotView("Lens settings by focal length and aperture", parent) {
    setMinimumSize(200, 120);
    setFocusPolicy(Qt::StrongFocus);
}

QString SettingChart::empty_text() const { return "The lens settings of the chosen profile appear here."; }

void SettingChart::clear() {
    profile_ = {};
    update();
}

void SettingChart::show_profile(const Profile& profile, int chosen) {
    profile_ = profile;
    chosen_ = chosen;
    left_out_ = leave_one_out(profile);
    update();
}

std::pair<PlotScale, PlotScale> SettingChart::scales(const QSizeF&) const {
    std::vector<PlotScale::Tick> focal, aperture;
    for (const ProfileNode& n : profile_.nodes) {
        const LensSetting& s = n.setting;
        focal.push_back({focal_axis(s), s.focal_mm > 0 ? QString::number(s.focal_mm, 'g', 4) : QString()});
        aperture.push_back({aperture_axis(s), s.aperture > 0 ? QString::number(s.aperture, 'g', 3) : QString()});
    }
    QString below = "focal length / mm     ● measured   hatched: nearest edge is used";
    if (!left_out_.empty()) below += "   px: error when left out";
    return {scale_of(below, std::move(focal), 0.25), scale_of("f-number", std::move(aperture), 1)};
}

QPoint SettingChart::place_of(int node) const { return place(plot(), profile_.nodes[node].setting).toPoint(); }

double SettingChart::left_out_px(int node) const {
    for (const LeftOut& l : left_out_)
        if (l.node == node) return l.largest_px;
    return std::nan("");
}

void SettingChart::paint_data(QPainter& p, const PlotArea& plot) const {
    // Outside the measured settings the nearest value is used: hatched.
    p.fillRect(plot.box, QBrush(theme::rule, Qt::BDiagPattern));
    QPointF low(1e9, 1e9), high(-1e9, -1e9);
    for (const ProfileNode& n : profile_.nodes) {
        const QPointF at = place(plot, n.setting);
        low = {std::min(low.x(), at.x()), std::min(low.y(), at.y())};
        high = {std::max(high.x(), at.x()), std::max(high.y(), at.y())};
    }
    p.fillRect(QRectF(low, high).adjusted(-9, -9, 9, 9), theme::mark_pale);
    p.setPen(theme::rule);
    for (const ProfileNode& n : profile_.nodes) {
        const QPointF at = place(plot, n.setting);
        p.drawLine(QPointF(at.x(), plot.box.top()), QPointF(at.x(), plot.box.bottom()));
        p.drawLine(QPointF(plot.box.left(), at.y()), QPointF(plot.box.right(), at.y()));
    }
    p.setFont(theme::figure_font(7.5));
    for (int i = 0; i < static_cast<int>(profile_.nodes.size()); ++i) {
        const QPointF at = place(plot, profile_.nodes[i].setting);
        const bool borrowed = profile_.nodes[i].mapping_from_aperture > 0;
        p.setPen(QPen(theme::mark, 1.6));
        p.setBrush(first_of<QColor>({{i == chosen_, theme::mark}, {borrowed, theme::paper}}, QColor(120, 150, 154)));
        p.drawEllipse(at, i == chosen_ ? 6 : 4.5, i == chosen_ ? 6 : 4.5);
        const double px = left_out_px(i);
        if (std::isnan(px)) continue;
        p.setPen(theme::ink);
        p.drawText(QRectF(at.x() + 8, at.y() - 14, 90, 14), Qt::AlignLeft | Qt::AlignVCenter,
                   QString("%1 px").arg(px, 0, 'g', 2));
    }
}

int SettingChart::node_near(const QPointF& at) const {
    const PlotArea now = plot();
    int nearest = -1;
    double least = 16;
    for (int i = 0; i < static_cast<int>(profile_.nodes.size()); ++i) {
        const QPointF d = place(now, profile_.nodes[i].setting) - at;
        if (const double away = std::hypot(d.x(), d.y()); away < least) {
            least = away;
            nearest = i;
        }
    }
    return nearest;
}

QString SettingChart::hint_at(const QPointF& at) const {
    const int node = node_near(at);
    if (node < 0) return {};
    const ProfileNode& n = profile_.nodes[node];
    QString out = QString("%1 mm, f/%2: ").arg(n.setting.focal_mm, 0, 'g', 4).arg(n.setting.aperture, 0, 'g', 3);
    out += !profile_.measured() ? q(to_string(profile_.origin)) + ", not measured"
                                : "RMS " + q(figure_text(figures::reprojection_error, n.quality.rms_px));
    if (n.mapping_from_aperture > 0) out += QString("; mapping from f/%1").arg(n.mapping_from_aperture, 0, 'g', 3);
    if (const double px = left_out_px(node); !std::isnan(px))
        out += QString("; %1 px at most when it is left out").arg(px, 0, 'g', 2);
    return out;
}

PlotView::Cells SettingChart::cells() const {
    Cells rows{{"focal length / mm", "f-number", "RMS / px", "largest error when left out / px"}};
    const auto figure = [](double v) { return std::isnan(v) ? std::string() : QString::number(v).toStdString(); };
    for (int i = 0; i < static_cast<int>(profile_.nodes.size()); ++i) {
        const ProfileNode& n = profile_.nodes[i];
        rows.push_back({figure(n.setting.focal_mm), figure(n.setting.aperture),
                        figure(!profile_.measured() ? NAN : n.quality.rms_px), figure(left_out_px(i))});
    }
    return rows;
}

void SettingChart::mousePressEvent(QMouseEvent* event) {
    const int node = node_near(event->position());
    if (node >= 0 && event->button() == Qt::LeftButton) emit node_chosen(node);
}

void SettingChart::keyPressEvent(QKeyEvent* event) {
    const bool on = event->key() == Qt::Key_Right || event->key() == Qt::Key_Up,
               back = event->key() == Qt::Key_Left || event->key() == Qt::Key_Down;
    const int move = static_cast<int>(on) - static_cast<int>(back);
    if (move && !profile_.nodes.empty())
        emit node_chosen(std::clamp(chosen_ + move, 0, static_cast<int>(profile_.nodes.size()) - 1));
    else
        QWidget::keyPressEvent(event);
}

}  // namespace optrel
