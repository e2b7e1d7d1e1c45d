// The Bench: a run, its frames, its solution.
#pragma once

#include <QComboBox>
#include <QLineEdit>
#include <optional>

#include "widgets/frame_view.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class ProfileCurves;

class BenchPlace : public PlaceWidget {
    Q_OBJECT
public:
    explicit BenchPlace(Session& session);
    void show_something() override;

    const std::optional<RunSolution>& solution() const { return solution_; }
    const RunRecord* run() const { return run_ ? &*run_ : nullptr; }
    /// Sorts the frames of a folder into runs and opens the first.
    void new_runs_from(const QString& folder);
    /// Drops or restores a frame (by its row) and solves again.
    void set_dropped(int row, bool dropped);

private:
    friend class DropFrame;
    void build();
    void load_runs(int open_id);
    void open_run(int index);
    void measure();
    void solve(bool from_previous);
    void publish();
    void keep_run();
    void toggle_chosen();
    void apply_dropped(int row, bool dropped);
    void refresh();
    void refresh_frames();
    void refresh_corners();
    void show_frame(int row);

    std::vector<RunRecord> runs_;
    std::optional<RunRecord> run_;
    std::optional<RunSolution> solution_;
    QString solve_problem_;

    QComboBox* run_choice_;
    QLineEdit* chart_;
    QPushButton *measure_, *solve_, *drop_, *publish_;
    QLabel* figures_;
    Table *frames_, *findings_;
    FrameView* view_;
    ProfileCurves* curves_;
    int shown_frame_ = -1;
    int look_ticket_ = 0;
};

}  // namespace optrel
