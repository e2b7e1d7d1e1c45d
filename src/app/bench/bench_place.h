// SPDX-License-Identifier: GPL-3.0-or-later
// The Bench: a run, its frames and its solution.
#pragma once

#include <QComboBox>
#include <QLineEdit>
#include <QTabWidget>
#include <QTimer>
#include <map>
#include <optional>

#include "measurement/findings.h"
#include "pictures/table_or_pictures.h"
#include "session/parts.h"
#include "widgets/frame_view.h"
#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class CornerPanel;
class NoisePage;
class PlanPanel;
class ProfileCurves;
class ResidualPanel;
class ResolutionView;

class BenchPlace : public PlaceWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<ProfileModel, RunService, Jobs, QUndoStack, Messages>;
    explicit BenchPlace(const Parts& parts);
    void show_something() override;
    QStringList more_views() const override { return {"corner", "residuals", "resolution", "plan", "models", "noise"}; }
    void show_view(const QString& view) override;

    const std::optional<RunSolution>& solution() const { return solution_; }
    NoisePage& noise() { return *noise_; }
    /// Opens a noise run without frames.
    void begin_noise_run();
    /// One noise run for each body in a folder; opens the first one.
    void new_noise_runs_from(const QString& folder);
    const RunRecord* run() const { return run_ ? &*run_ : nullptr; }
    /// Sorts the frames of a folder into runs and opens the first one.
    void new_runs_from(const QString& folder);
    /// Drops or restores a frame (by row) and solves again.
    void set_dropped(int row, bool dropped);
    /// Adds frames to the open run when they appear in a folder; an empty folder starts a new run.
    void watch(const QString& folder);
    void stop_watching();
    bool watching() const { return watch_.isActive(); }
    /// Checks the watched folder once.
    void look_for_frames();
    void take_landed(const std::map<std::filesystem::path, std::uintmax_t>& sizes);
    void write_report_to(const QString& path);

private:
    Parts parts_;
    friend class DropFrame;
    // bench_place.cpp: display
    void build();
    void build_actions();
    QLayout* build_summary();
    QWidget* build_frames();
    void choose_folder();
    void choose_noise_folder();
    QWidget* build_bar();
    QWidget* build_middle();
    void refresh();
    void show_resolution();
    void refresh_frames();
    void refresh_findings();
    void refresh_corners();
    void refresh_plan();
    void show_frame(int row);
    void show_finding(int row);
    void show_corner(int index);
    int node() const;

    // bench_work.cpp: actions
    void load_runs(int open_id);
    void open_run(int index);
    void open_noise_run(const BodyRun& run);
    void show_page(bool noise);
    void measure();
    void frame_measured(int run, int position, const RunFrame& frame);
    void solve(bool from_previous);
    void publish();
    void publish_as_decided(Profile profile, const std::vector<Acceptance>& accepted, OtherSettings others);
    void keep_run();
    void toggle_chosen();
    void toggle_corner(int index);
    void apply_dropped(int row, bool dropped);
    void choose_chart();
    std::optional<Profile> published() const;

    std::vector<RunRecord> runs_;
    std::vector<BodyRun> noise_runs_;  ///< listed below the others
    std::optional<RunRecord> run_;
    std::optional<RunSolution> solution_;
    QString solve_problem_;

    QStackedWidget *bars_, *run_pages_;  ///< of a lens's run, and of a noise run
    NoisePage* noise_;
    QComboBox *run_choice_, *setting_choice_, *model_choice_;
    QLineEdit* chart_;
    QPushButton *measure_, *solve_, *drop_, *publish_, *report_, *chart_button_, *watch_button_;
    QLabel* figures_;
    QTabWidget* tabs_;
    Table *frames_, *findings_;
    TableOf<ModelTrial>* models_;
    FrameView* view_;
    CornerPanel* corner_;
    ResidualPanel* residuals_;
    PlanPanel* plan_;
    ProfileCurves* curves_;
    ResolutionView* resolution_;
    int model_index_ = 0;      ///< result of the last model choice
    int findings_before_ = 0;  ///< number of rows above those of the solution
    int shown_frame_ = -1;
    int look_ticket_ = 0, corner_ticket_ = 0, plan_ticket_ = 0;
    std::optional<QPointF> pointed_;

    QTimer watch_;
    QString watched_folder_;
    std::map<std::filesystem::path, std::uintmax_t> landing_;  ///< files that may still be growing
    bool looking_ = false;
};

}  // namespace optrel
