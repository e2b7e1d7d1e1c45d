// The shot plan of a run: the outline, the list that ticks itself off, and what to shoot next with its gain as a figure.
#pragma once

#include <QLabel>
#include <QWidget>

#include "calibration/run.h"
#include "calibration/shot_plan.h"

namespace optrel {

class PlanView;
class Table;

class PlanPanel : public QWidget {
    Q_OBJECT
public:
    explicit PlanPanel(QWidget* parent = nullptr);
    /// `solution` may be null: then the plan is for the lens that the frames name.
    void show_plan(const ChartSpec& chart, const std::vector<RunFrame>& frames, const RunSolution* solution, int node);
    void clear(const QString& why);
    const ShotPlan& plan() const { return plan_; }

private:
    ShotPlan plan_;
    PlanView* view_;
    Table* list_;
    QLabel* advice_;
};

}  // namespace optrel
