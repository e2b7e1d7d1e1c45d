// The shot plan on the outline of the picture: what corners cover, where the chart still has to stand, what to shoot
// next.
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
    /// Draws one shot of the plan strongly; -1: the next one.
    void choose(int shot);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    ShotPlan plan_;
    PictureGeometry geometry_;
    std::vector<QPointF> covered_;
    QString why_empty_;
    int chosen_ = -1;
};

}  // namespace optrel
