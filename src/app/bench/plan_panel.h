// SPDX-License-Identifier: GPL-3.0-or-later
// The shot plan of a run: the outline, the list that ticks itself off, and what to shoot next with its gain as a
// figure.
#pragma once

#include <QLabel>
#include <QWidget>

#include "calibration/next_setting.h"
#include "calibration/run.h"
#include "calibration/shot_plan.h"

namespace optrel {

class PlanView;
class Table;

/// A plan with what is drawn beneath it.
struct DrawnPlan {
    ShotPlan plan;
    PictureGeometry geometry;
    std::vector<QPointF> covered;
    std::optional<NextSetting> next_setting;  ///< of a zoom
    bool assumed_picture = false;             ///< no frame yet: the outline is that of a 3:2 picture
};

/// Works the plan out; on any thread. `solution` may be null: then the plan is for the lens that the frames name.
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
