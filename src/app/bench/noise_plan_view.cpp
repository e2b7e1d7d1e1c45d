// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/noise_plan_view.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "studio/calibration/body_run_work.h"
#include "theme.h"
#include "window_words.h"

namespace optrel {
namespace {

constexpr double lowest = 0.005, highest = 1;
constexpr int name_width = 76, dark_width = 92, legend_height = 26, axis_height = 40;

/// "two frames of 1/60 s at ISO 400 (12 % of the white level)"
QString words_for(int iso, const NoiseShot& shot) {
    const QString time = q(exposure_text(shot.exposure_s));
    return QString("two flat fields at ISO %1%2, %3 % of the white level")
        .arg(iso)
        .arg(time.isEmpty() ? QString() : ", " + time)
        .arg(100 * shot.level, 0, 'g', 2);
}

}  // namespace

/// Places of the drawing.
struct NoisePlanView::Scale {
    double left, right, top, row_height;

    double x(double level) const {
        const double share = std::log(std::clamp(level, lowest, highest) / lowest) / std::log(highest / lowest);
        return left + share * (right - left);
    }
    double y(std::size_t row) const { return top + (static_cast<double>(row) + 0.5) * row_height; }
};

NoisePlanView::NoisePlanView(QWidget* parent) : QWidget(parent) {
    setMinimumSize(300, 150);
    setAccessibleName("Shot plan of the noise run");
}

void NoisePlanView::show_plan(std::vector<NoiseShots> rows) {
    rows_ = std::move(rows);
    why_empty_.clear();
    next_.clear();
    for (const NoiseShots& row : rows_) {
        if (!next_.isEmpty()) break;
        if (row.darks_to_take > 0)
            next_ = QString("%1 dark frame%2 at ISO %3, with the cap on")
                        .arg(row.darks_to_take)
                        .arg(row.darks_to_take == 1 ? "" : "s")
                        .arg(row.iso);
        for (const NoiseShot& shot : row.pairs)
            if (!shot.taken && next_.isEmpty()) next_ = words_for(row.iso, shot);
    }
    setAccessibleDescription(next_.isEmpty() ? "Nothing is left to take." : "Next: " + next_);
    update();
}

void NoisePlanView::clear(const QString& why) {
    rows_.clear();
    next_.clear();
    why_empty_ = why;
    setAccessibleDescription(why);
    update();
}

void NoisePlanView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::paper);
    p.setFont(theme::text_font(8.5));
    if (rows_.empty()) {
        p.setPen(theme::faint_ink);
        p.drawText(rect().adjusted(30, 0, -30, 0), Qt::AlignCenter | Qt::TextWordWrap, why_empty_);
        return;
    }
    const double room = height() - legend_height - axis_height;
    const Scale s{double(name_width + dark_width), width() - 18.0, double(legend_height),
                  std::min(46.0, room / static_cast<double>(rows_.size()))};
    draw_axis(p, s);
    for (std::size_t row = 0; row < rows_.size(); ++row) draw_row(p, s, row);
    draw_legend(p);
}

void NoisePlanView::draw_axis(QPainter& p, const Scale& s) const {
    const double bottom = s.top + s.row_height * static_cast<double>(rows_.size());
    for (const double percent : {0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0}) {
        const double x = s.x(percent / 100);
        p.setPen(QPen(theme::rule, 1));
        p.drawLine(QPointF(x, s.top), QPointF(x, bottom));
        p.setPen(theme::faint_ink);
        p.drawText(QRectF(x - 24, bottom + 2, 48, 16), Qt::AlignCenter, QString::number(percent));
    }
    p.drawText(QRectF(s.left, bottom + 18, s.right - s.left, 16), Qt::AlignCenter,
               "light / % of the white level, green");
}

void NoisePlanView::draw_row(QPainter& p, const Scale& s, std::size_t row) const {
    const NoiseShots& shots = rows_[row];
    const double y = s.y(row);
    p.setPen(QPen(theme::rule, 1));
    p.drawLine(QPointF(s.left, y), QPointF(s.right, y));
    p.setPen(theme::ink);
    p.drawText(QRectF(6, y - 9, name_width - 8, 18), Qt::AlignVCenter | Qt::AlignLeft,
               QString("ISO %1").arg(shots.iso));
    const auto tone = [&](bool taken) {
        p.setPen(taken ? QPen(theme::ink, 1.2) : QPen(theme::mark, 1.6));
        p.setBrush(taken ? QBrush(theme::ink) : QBrush(theme::paper));
    };
    // More dark frames than fit are told by their number.
    const int darks = std::min(6, shots.darks_taken + shots.darks_to_take);
    for (int k = 0; k < darks; ++k) {
        tone(k < shots.darks_taken);
        p.drawRect(QRectF(name_width + 12.0 * k, y - 4, 8, 8));
    }
    for (const NoiseShot& shot : shots.pairs) {
        tone(shot.taken);
        p.drawEllipse(QPointF(s.x(shot.level), y), 4.4, 4.4);
    }
}

void NoisePlanView::draw_legend(QPainter& p) const {
    double x = 8;
    const auto entry = [&](const QString& text, bool round, bool taken) {
        p.setPen(taken ? QPen(theme::ink, 1.2) : QPen(theme::mark, 1.6));
        p.setBrush(taken ? QBrush(theme::ink) : QBrush(theme::paper));
        if (round)
            p.drawEllipse(QPointF(x + 5, 13), 4.4, 4.4);
        else
            p.drawRect(QRectF(x + 1, 9, 8, 8));
        p.setPen(theme::faint_ink);
        p.drawText(QPointF(x + 14, 17), text);
        x += 26 + p.fontMetrics().horizontalAdvance(text);
    };
    entry("dark frame", false, true);
    entry("to take", false, false);
    entry("pair of flat fields", true, true);
    entry("to take", true, false);
}

}  // namespace optrel
