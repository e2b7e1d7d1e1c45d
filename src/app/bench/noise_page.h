// SPDX-License-Identifier: GPL-3.0-or-later
// A run on the Bench that measures the noise of a body: frames, shot plan, figures, findings, publishing.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>
#include <filesystem>
#include <optional>
#include <set>
#include <vector>

#include "pictures/table_or_pictures.h"
#include "sensor/noise_report.h"
#include "session/parts.h"
#include "shared/running_measurement.h"
#include "store/body_runs.h"
#include "studio/calibration/body_run_work.h"
#include "widgets/table.h"

namespace optrel {

class NoisePlanView;

class NoisePage : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<ProfileModel, RunService, Jobs, QUndoStack, Messages>;
    explicit NoisePage(const Parts& parts, QWidget* parent = nullptr);

    /// Buttons that belong beside the choice of the run.
    QWidget* bar() { return bar_; }
    void open(const BodyRun& run);
    /// Opens a run without frames, which is saved with its first frame.
    void begin();
    void close();
    const std::optional<BodyRun>& run() const { return run_; }
    bool measured() const { return report_.has_value(); }

    /// Adds frames that the run does not have, and measures again.
    void add_frames(const std::vector<std::filesystem::path>& frames);
    void measure();
    /// Drops or restores a frame (by row) and measures again.
    void set_dropped(int row, bool dropped);
    void publish();

    Table& frames() { return *frames_; }
    Table& figures() { return *figures_; }
    NoisePlanView& plan() { return *plan_; }
    QString said() const { return said_->text(); }

signals:
    /// A run was saved for the first time.
    void added();

protected:
    /// Frames and folders that are dropped on the page join the run.
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    void build();
    void build_bar();
    void build_tables();
    void refresh();
    void show_frames();
    void show_result();
    void read_shots();
    void save();
    void ask_for_frames();
    void result_came(BodyRun of, const std::string& document, const std::string& problem);

    Parts parts_;
    std::optional<BodyRun> run_;
    std::optional<NoiseReport> report_;
    std::vector<BodyRunShot> shots_;
    int shots_ticket_ = 0;
    QString problem_;
    RunningMeasurement running_;

    QWidget* bar_;
    QPushButton *add_, *measure_, *drop_, *publish_;
    QLabel *said_, *steps_;
    Table *frames_, *findings_;
    TableOf<ReportedIso>* figures_;
    NoisePlanView* plan_;
};

}  // namespace optrel
