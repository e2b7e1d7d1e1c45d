// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/setting_chart.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>
#include <set>

#include "base/choose.h"
#include "theme.h"

namespace optrel {
namespace {

double focal_axis(const LensSetting& s) { return s.focal_mm > 0 ? std::log2(s.focal_mm) : 0; }
double aperture_axis(const LensSetting& s) { return s.aperture > 0 ? 2 * std::log2(s.aperture) : 0; }

}  // namespace

SettingChart::SettingChart(QWidget* parent) : QWidget(parent) {
    setAccessibleName("Lens settings by focal length and aperture");
    setMinimumSize(200, 120);
    setFocusPolicy(Qt::StrongFocus);
}

void SettingChart::clear() {
    profile_ = {};
    update();
}

void SettingChart::show_profile(const Profile& profile, int chosen) {
    profile_ = profile;
    chosen_ = chosen;
    left_out_ = leave_one_out(profile);
    low_f_ = low_n_ = 1e9;
    high_f_ = high_n_ = -1e9;
    for (const ProfileNode& n : profile.nodes) {
        low_f_ = std::min(low_f_, focal_axis(n.setting));
        high_f_ = std::max(high_f_, focal_axis(n.setting));
        low_n_ = std::min(low_n_, aperture_axis(n.setting));
        high_n_ = std::max(high_n_, aperture_axis(n.setting));
    }
    const double spare_f = std::max(0.25, 0.25 * (high_f_ - low_f_)),
                 spare_n = std::max(1.0, 0.25 * (high_n_ - low_n_));
    low_f_ -= spare_f;
    high_f_ += spare_f;
    low_n_ -= spare_n;
    high_n_ += spare_n;
    update();
}

QRectF SettingChart::plot() const { return QRectF(rect()).adjusted(46, 8, -10, -34); }

QPointF SettingChart::place(const LensSetting& s) const {
    const QRectF area = plot();
    return {area.left() + (focal_axis(s) - low_f_) / (high_f_ - low_f_) * area.width(),
            area.bottom() - (aperture_axis(s) - low_n_) / (high_n_ - low_n_) * area.height()};
}

QPoint SettingChart::place_of(int node) const { return place(profile_.nodes[node].setting).toPoint(); }

void SettingChart::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::paper);
    p.setPen(hasFocus() ? QPen(theme::mark, 1.5) : QPen(theme::rule));
    p.drawRect(rect().adjusted(0, 0, -1, -1));
    if (profile_.nodes.empty()) return;
    const QRectF area = plot();
    // Outside the measured settings the nearest edge is used: hatched.
    p.fillRect(area, QBrush(theme::rule, Qt::BDiagPattern));
    QPointF low(1e9, 1e9), high(-1e9, -1e9);
    for (const ProfileNode& n : profile_.nodes) {
        const QPointF at = place(n.setting);
        low = {std::min(low.x(), at.x()), std::min(low.y(), at.y())};
        high = {std::max(high.x(), at.x()), std::max(high.y(), at.y())};
    }
    const QRectF inside = QRectF(low, high).adjusted(-9, -9, 9, 9);
    p.fillRect(inside, theme::mark_pale);
    p.setPen(QPen(theme::faint_ink, 1));
    p.drawRect(area);
    p.setFont(theme::figure_font(7.5));
    std::set<int> written_f, written_n;
    for (const ProfileNode& n : profile_.nodes) {
        const QPointF at = place(n.setting);
        p.setPen(QColor(214, 218, 210));
        p.drawLine(QPointF(at.x(), area.top()), QPointF(at.x(), area.bottom()));
        p.drawLine(QPointF(area.left(), at.y()), QPointF(area.right(), at.y()));
        p.setPen(theme::faint_ink);
        if (n.setting.focal_mm > 0 && written_f.insert(static_cast<int>(at.x() / 22)).second)
            p.drawText(QRectF(at.x() - 20, area.bottom() + 1, 40, 14), Qt::AlignCenter,
                       QString::number(n.setting.focal_mm, 'g', 4));
        if (n.setting.aperture > 0 && written_n.insert(static_cast<int>(at.y() / 12)).second)
            p.drawText(QRectF(16, at.y() - 7, 27, 14), Qt::AlignRight | Qt::AlignVCenter,
                       QString::number(n.setting.aperture, 'g', 3));
    }
    for (int i = 0; i < static_cast<int>(profile_.nodes.size()); ++i) {
        const QPointF at = place(profile_.nodes[i].setting);
        const bool borrowed = profile_.nodes[i].mapping_from_aperture > 0;
        p.setPen(QPen(theme::mark, 1.6));
        p.setBrush(first_of<QColor>({{i == chosen_, theme::mark}, {borrowed, theme::paper}}, QColor(120, 150, 154)));
        p.drawEllipse(at, i == chosen_ ? 6 : 4.5, i == chosen_ ? 6 : 4.5);
        for (const LeftOut& l : left_out_)
            if (l.node == i) {
                p.setPen(theme::ink);
                p.drawText(QRectF(at.x() + 8, at.y() - 14, 90, 14), Qt::AlignLeft | Qt::AlignVCenter,
                           QString("%1 px").arg(l.largest_px, 0, 'g', 2));
            }
    }
    p.setPen(theme::faint_ink);
    p.setFont(theme::text_font(8));
    QString legend = "focal length / mm     ● measured   hatched: nearest edge is used";
    if (!left_out_.empty()) legend += "   px: error when left out";
    p.drawText(QRectF(area.left() - 40, area.bottom() + 15, area.width() + 46, 16), Qt::AlignCenter, legend);
    p.save();
    p.translate(9, area.center().y());
    p.rotate(-90);
    p.drawText(QRectF(-60, -8, 120, 16), Qt::AlignCenter, "f-number");
    p.restore();
}

void SettingChart::mousePressEvent(QMouseEvent* event) {
    int nearest = -1;
    double least = 16;
    for (int i = 0; i < static_cast<int>(profile_.nodes.size()); ++i) {
        const QPointF d = place(profile_.nodes[i].setting) - event->position();
        if (const double away = std::hypot(d.x(), d.y()); away < least) {
            least = away;
            nearest = i;
        }
    }
    if (nearest >= 0) emit node_chosen(nearest);
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
