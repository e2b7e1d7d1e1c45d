// SPDX-License-Identifier: GPL-3.0-or-later
// Shot plan of a run: outline, list of shots with their state, and the next shot with its gain.
#pragma once

#include <QLabel>
#include <QWidget>

#include "calibration/next_setting.h"
#include "calibration/run.h"
#include "calibration/shot_plan.h"

namespace optrel {

class PlanView;
class Table;

/// A plan with the data for drawing it.
struct DrawnPlan {
    ShotPlan plan;
    PictureGeometry geometry;
    std::vector<QPointF> covered;
    std::optional<NextSetting> next_setting;  ///< focal length of a zoom
    bool assumed_picture = false;             ///< without frames: outline of a 3:2 picture
};

/// Computes the plan; thread-safe. Without a solution, the plan uses the nominal lens data of the frames.
DrawnPlan draw_plan(const ChartSpec& chart, const std::vector<RunFrame>& frames, const RunSolution* solution, int node);

class PlanPanel : public QWidget {
    Q_OBJECT
public:
    explicit PlanPanel(QWidget* parent = nullptr);
    void show_plan(const DrawnPlan& drawn);
    void clear(const QString& why);

private:
    PlanView* view_;
    Table* list_;
    QLabel* advice_;
};

}  // namespace optrel
