// SPDX-License-Identifier: GPL-3.0-or-later
// Drawing of the shot plan: covered areas, remaining positions of the chart, and the next shot.
#pragma once

#include <QWidget>

#include "calibration/shot_plan.h"

namespace optrel {

class PlanView : public QWidget {
    Q_OBJECT
public:
    explicit PlanView(QWidget* parent = nullptr);
    void show_plan(const ShotPlan& plan, const PictureGeometry& geometry, std::vector<QPointF> covered);
    void clear(const QString& why);
    /// Highlights one shot; -1: the next one.
    void choose(int shot);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    QPointF place(const Vec2& uv) const;
    QPolygonF outline_of(const PlannedShot& shot) const;
    void draw_shot(QPainter& p, int shot, bool strong) const;
    void draw_worst(QPainter& p) const;
    void label(QPainter& p, const QPointF& at, const QString& text, const QColor& colour) const;

    ShotPlan plan_;
    PictureGeometry geometry_;
    std::vector<QPointF> covered_;
    QString why_empty_;
    double scale_ = 1;  ///< area of the drawn picture
    QPointF origin_;
    int chosen_ = -1;
};

}  // namespace optrel
