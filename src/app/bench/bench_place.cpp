#include "bench/bench_place.h"

#include <QFileDialog>
#include <QMessageBox>
#include <QSplitter>

#include "bench/drop_frame.h"
#include "calibration/grouping.h"
#include "jobs.h"
#include "render/quick_look.h"
#include "widgets/profile_curves.h"

namespace optrel {

BenchPlace::BenchPlace(Session& session) : PlaceWidget(theme::Place::bench, session) {
    build();
    connect(&session_, &Session::runs_changed, this, [this] { load_runs(run_ ? run_->id : 0); });
    load_runs(0);
}

void BenchPlace::build() {
    auto* fresh = button("&New run from a folder…", "Reads a folder of chart frames and flat fields; frames are sorted by body, lens and lens setting");
    connect(fresh, &QPushButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, "Folder with chart frames and flat fields");
        if (!folder.isEmpty()) new_runs_from(folder);
    });
    actions_->addWidget(fresh);

    auto* bar = new QHBoxLayout;
    run_choice_ = new QComboBox;
    run_choice_->setAccessibleName("Run");
    run_choice_->setMinimumWidth(300);
    connect(run_choice_, &QComboBox::activated, this, &BenchPlace::open_run);
    chart_ = new QLineEdit("checker:15x10:30");
    chart_->setAccessibleName("Chart");
    chart_->setToolTip("The chart as printed: checker:squares across x squares down:square size in mm");
    chart_->setFixedWidth(150);
    measure_ = button("&Measure and solve", "Finds the corners in all frames, then solves the lens", true);
    solve_ = button("&Solve again", "Solves from the frames that are not dropped");
    drop_ = button("&Drop frame", "Leaves the chosen frame out, or takes it back, and solves again");
    publish_ = button("&Publish profile", "Publishes the solution as the next version of this lens's profile");
    connect(measure_, &QPushButton::clicked, this, &BenchPlace::measure);
    connect(solve_, &QPushButton::clicked, this, [this] { solve(false); });
    connect(drop_, &QPushButton::clicked, this, &BenchPlace::toggle_chosen);
    connect(publish_, &QPushButton::clicked, this, &BenchPlace::publish);
    bar->addWidget(new QLabel("Run"));
    bar->addWidget(run_choice_, 1);
    bar->addWidget(new QLabel("Chart"));
    bar->addWidget(chart_);
    for (QPushButton* b : {measure_, solve_, drop_, publish_}) bar->addWidget(b);
    body_->addLayout(bar);

    figures_ = new QLabel;
    figures_->setObjectName("figure");
    figures_->setTextFormat(Qt::RichText);
    body_->addWidget(figures_);

    frames_ = new Table("Frames of the run", {{"Frame", false, false, 0}, {"Is", false, false, 48}, {"Corners", true, false, 66}, {"RMS / px", true, false, 72}, {"Tilt / °", true, false, 58}, {"State", false, false, 82}});
    connect(frames_, &Table::chosen_changed, this, &BenchPlace::show_frame);
    findings_ = new Table("Findings", {{"Findings, and what to do", false, false, 0}});
    findings_->setWordWrap(true);
    findings_->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    auto* left = new QSplitter(Qt::Vertical);
    left->addWidget(frames_);
    left->addWidget(findings_);
    left->setSizes({400, 170});
    view_ = new FrameView;
    curves_ = new ProfileCurves;
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(left);
    across->addWidget(view_);
    across->addWidget(curves_);
    across->setSizes({430, 430, 310});
    across->setStretchFactor(1, 1);
    body_->addWidget(across, 1);
}

void BenchPlace::load_runs(int open_id) {
    session_.attempt([&] { runs_ = session_.store().runs(); });
    run_choice_->clear();
    int index = runs_.empty() ? -1 : 0;
    for (std::size_t i = 0; i < runs_.size(); ++i) {
        run_choice_->addItem(QString("%1  %2").arg(runs_[i].id).arg(q(runs_[i].name)));
        if (runs_[i].id == open_id) index = static_cast<int>(i);
    }
    if (index < 0) {
        run_.reset();
        solution_.reset();
        refresh();
    } else if (!run_ || runs_[index].id != run_->id) {
        run_choice_->setCurrentIndex(index);
        open_run(index);
    } else {
        run_choice_->setCurrentIndex(index);
    }
}

void BenchPlace::open_run(int index) {
    if (index < 0 || index >= static_cast<int>(runs_.size())) return;
    run_ = runs_[index];
    solution_.reset();
    solve_problem_.clear();
    shown_frame_ = -1;
    if (!run_->chart.empty()) chart_->setText(q(run_->chart));
    refresh();
    const bool measured = std::any_of(run_->frames.begin(), run_->frames.end(), [](const RunFrame& f) { return !f.hash.empty(); });
    if (measured) solve(false);
    if (!run_->frames.empty()) frames_->choose(0);
}

void BenchPlace::new_runs_from(const QString& folder) {
    auto groups = std::make_shared<std::vector<FrameGroup>>();
    auto problems = std::make_shared<std::vector<std::string>>();
    session_.jobs().run(
        "Reading metadata",
        [=](Progress& progress) {
            std::vector<std::pair<std::filesystem::path, Metadata>> found;
            const auto files = frame_files(folder.toStdString());
            progress.start(static_cast<int>(files.size()), "Reading metadata");
            for (const auto& path : files) {
                progress.check();
                try {
                    found.emplace_back(path, read_metadata(path));
                } catch (const Error& error) {
                    problems->push_back(error.what());
                }
                progress.step();
            }
            if (found.empty()) throw input_error("The folder " + folder.toStdString() + " holds no picture that can be read; choose the folder of the chart frames.");
            *groups = group_frames(found);
        },
        [=, this] {
            int first = 0;
            for (const FrameGroup& group : *groups) {
                RunRecord run;
                run.name = group.label;
                run.chart = chart_->text().toStdString();
                run.folder = folder.toStdString();
                for (const auto& path : group.paths) {
                    RunFrame frame;
                    frame.path = path;
                    run.frames.push_back(frame);
                }
                if (!session_.attempt([&] { run.id = session_.store().put_run(run); })) return;
                if (!first) first = run.id;
            }
            run_.reset();
            load_runs(first);
            QString message = groups->size() == 1 ? QString("One run of %1 frames is ready to be measured.").arg(groups->front().paths.size())
                                                  : QString("%1 runs, one for each body, lens and lens setting, are ready to be measured.").arg(groups->size());
            if (!problems->empty()) message += QString(" %1 files could not be read; the first: %2").arg(problems->size()).arg(q(problems->front()));
            session_.tell(message, !problems->empty());
        });
}

void BenchPlace::measure() {
    if (!run_) return;
    if (!session_.attempt([&] { run_->chart = ChartSpec::parse(chart_->text().toStdString()).text(); })) return;
    std::vector<std::filesystem::path> paths;
    for (const RunFrame& f : run_->frames) paths.push_back(f.path);
    auto measured = std::make_shared<std::vector<RunFrame>>();
    const int id = run_->id;
    const ChartSpec chart = ChartSpec::parse(run_->chart);
    session_.jobs().run(
        "Measuring frames", [=](Progress& progress) { *measured = measure_frames(paths, MeasureAs::automatic, chart, progress); },
        [=, this] {
            if (!run_ || run_->id != id) return;
            for (std::size_t i = 0; i < measured->size(); ++i) (*measured)[i].dropped = run_->frames[i].dropped;
            run_->frames = std::move(*measured);
            keep_run();
            refresh_frames();
            solve(false);
        });
}

void BenchPlace::solve(bool from_previous) {
    if (!run_) return;
    auto solved = std::make_shared<std::optional<RunSolution>>();
    auto problem = std::make_shared<QString>();
    SolveSettings settings;
    if (!session_.attempt([&] { settings.chart = ChartSpec::parse(chart_->text().toStdString()); })) return;
    settings.author = current_author();
    std::shared_ptr<RunSolution> previous;
    if (from_previous && solution_) previous = std::make_shared<RunSolution>(*solution_);
    const std::vector<RunFrame> frames = run_->frames;
    const int id = run_->id;
    session_.jobs().run(
        "Solving the lens",
        [=](Progress& progress) {
            try {
                SolveSettings with = settings;
                with.previous = previous.get();
                *solved = solve_run(frames, with, progress);
            } catch (const Cancelled&) {
                throw;
            } catch (const Error& error) {
                *problem = QString::fromUtf8(error.what());
            }
        },
        [=, this] {
            if (!run_ || run_->id != id) return;
            solution_ = std::move(*solved);
            solve_problem_ = *problem;
            if (!problem->isEmpty()) session_.tell(*problem, true);
            refresh();
        });
}

void BenchPlace::toggle_chosen() {
    const int row = frames_->chosen();
    if (run_ && row >= 0) set_dropped(row, !run_->frames[row].dropped);
}

void BenchPlace::set_dropped(int row, bool dropped) { session_.undo().push(new DropFrame(*this, run_->id, row, dropped)); }

void BenchPlace::apply_dropped(int row, bool dropped) {
    run_->frames[row].dropped = dropped;
    keep_run();
    refresh_frames();
    solve(true);
}

void BenchPlace::keep_run() {
    session_.save_run(*run_);
    for (RunRecord& r : runs_)
        if (r.id == run_->id) r = *run_;
}

void BenchPlace::publish() {
    if (!solution_) return;
    session_.attempt([this] {
        const Profile p = session_.store().publish_profile(solution_->profile);
        session_.reload_profiles();
        session_.tell(QString("%1 is published as version %2; frames that it fits take it from now on.").arg(q(p.name)).arg(p.version));
    });
}

void BenchPlace::refresh() {
    measure_->setEnabled(run_.has_value());
    solve_->setEnabled(run_.has_value());
    drop_->setEnabled(run_.has_value());
    publish_->setEnabled(solution_.has_value());
    if (solution_) {
        const ProfileNode& n = solution_->profile.nodes.front();
        const NodeQuality& k = n.quality;
        const auto figure = [](const QString& name, const QString& value) { return QString("<span style='font-size:8pt;color:#626c70'>%1</span>&nbsp;%2").arg(name, value); };
        figures_->setText(QStringList{figure("focal length", QString("%1 mm").arg(n.focal_mm, 0, 'f', 3)), figure("RMS", QString("%1 px").arg(k.rms_px, 0, 'f', 4)),
                                      figure("held out", QString("%1 px").arg(k.held_out_rms_px, 0, 'f', 4)), figure("largest uncertainty", QString("%1 px").arg(k.max_sigma_px, 0, 'f', 4)),
                                      figure("distortion", QString("%1 %").arg(k.distortion_extreme_percent, 0, 'f', 2)), figure("coverage", QString("%1 %").arg(100 * k.coverage, 0, 'f', 0)),
                                      figure("corners", QString::number(k.corners))}
                              .join(" &nbsp; "));
    } else {
        figures_->setText(QString("<span style='font-size:9.5pt;color:#626c70'>%1</span>")
                              .arg(!run_ ? "A run turns 9 or more chart frames and 2 or more flat fields into a lens profile. Begin with New run from a folder."
                                   : !solve_problem_.isEmpty() ? "Not solved: see the findings."
                                                               : "Not solved yet. Give the chart as printed, then Measure and solve."));
    }
    refresh_frames();
    std::vector<Row> rows;
    if (!solve_problem_.isEmpty()) rows.push_back({Cell("✕ " + solve_problem_, Cell::Tone::serious)});
    if (solution_) {
        for (const Finding& f : solution_->findings)
            rows.push_back({Cell((f.serious ? "! " : "· ") + q(f.text) + (f.remedy.empty() ? "" : " " + q(f.remedy)), f.serious ? Cell::Tone::warning : Cell::Tone::plain)});
        if (rows.empty()) rows.push_back({Cell("✓ Nothing to object to: coverage, tilt, sharpness and flat fields are as they should be.", Cell::Tone::mark)});
    }
    findings_->set_rows(std::move(rows));
    if (solution_)
        curves_->show_profile(solution_->profile, solution_->profile.nodes.front());
    else
        curves_->clear();
    refresh_corners();
}

void BenchPlace::refresh_frames() {
    std::vector<Row> rows;
    if (run_)
        for (std::size_t i = 0; i < run_->frames.size(); ++i) {
            const RunFrame& f = run_->frames[i];
            const FrameOutcome* outcome = solution_ && i < solution_->outcomes.size() ? &solution_->outcomes[i] : nullptr;
            const bool used = outcome && outcome->used;
            const bool chart = f.role == RunRole::chart && f.detection.found();
            Row row{Cell(q(f.name())), Cell(f.hash.empty() ? "" : f.role == RunRole::flat ? "flat" : f.role == RunRole::chart ? "chart" : "other")};
            row.push_back(chart ? Cell(QString::number(f.detection.corners.size()), static_cast<double>(f.detection.corners.size())) : Cell());
            row.push_back(used && chart ? Cell(QString::number(outcome->view.rms_px, 'f', 4), outcome->view.rms_px) : Cell());
            row.push_back(used && chart ? Cell(QString::number(outcome->view.tilt_degrees(), 'f', 0), outcome->view.tilt_degrees()) : Cell());
            if (f.dropped)
                row.push_back(Cell("– dropped", Cell::Tone::faint, "Dropped by hand"));
            else if (!f.problem.empty())
                row.push_back(Cell("✕ cannot", Cell::Tone::serious, q(f.problem)));
            else if (f.hash.empty())
                row.push_back(Cell("to measure", Cell::Tone::faint));
            else if (used)
                row.push_back(Cell("✓ used", Cell::Tone::mark));
            else if (outcome)
                row.push_back(Cell("! left out", Cell::Tone::warning, q(outcome->reason)));
            else
                row.push_back(Cell("measured"));
            rows.push_back(std::move(row));
        }
    frames_->set_rows(std::move(rows));
    if (!run_) view_->clear("No run is open.\n\nA run is one calibration: the frames of one lens setting, their corners, the solution and its report.");
    const int row = frames_->chosen();
    drop_->setText(run_ && row >= 0 && run_->frames[row].dropped ? "Restore &frame" : "&Drop frame");
}

void BenchPlace::show_frame(int row) {
    if (!run_ || row < 0 || row >= static_cast<int>(run_->frames.size())) return;
    drop_->setText(run_->frames[row].dropped ? "Restore &frame" : "&Drop frame");
    shown_frame_ = row;
    const std::filesystem::path path = run_->frames[row].path;
    const int ticket = ++look_ticket_;
    auto look = std::make_shared<QImage>();
    auto size = std::make_shared<QSizeF>();
    auto problem = std::make_shared<QString>();
    session_.jobs().run_quietly(
        [=] {
            try {
                *look = to_image(quick_look(path));
                const bool raw = sniff_kind(path) == FrameKind::raw;
                *size = QSizeF(look->width(), look->height()) * (raw ? 2 : 1);
            } catch (const std::exception& error) {
                *problem = QString::fromUtf8(error.what());
            }
        },
        [=, this] {
            if (ticket != look_ticket_) return;
            if (!problem->isEmpty()) {
                view_->clear(*problem);
                return;
            }
            const RunFrame& f = run_->frames[shown_frame_];
            view_->set_frame(*look, f.width > 0 ? QSizeF(f.width, f.height) : *size);
            refresh_corners();
        });
}

void BenchPlace::refresh_corners() {
    std::vector<CornerMark> marks;
    if (run_ && shown_frame_ >= 0 && shown_frame_ < static_cast<int>(run_->frames.size())) {
        const RunFrame& f = run_->frames[shown_frame_];
        const View* view = solution_ && shown_frame_ < static_cast<int>(solution_->outcomes.size()) && solution_->outcomes[shown_frame_].used ? &solution_->outcomes[shown_frame_].view : nullptr;
        for (std::size_t i = 0; i < f.detection.corners.size(); ++i) {
            const Vec2 at = f.detection.corners[i].green().position;
            CornerMark mark{{at.x(), at.y()}, {}, false, view != nullptr};
            if (view && i < view->points.size()) {
                mark.residual = {view->points[i].residual.x(), view->points[i].residual.y()};
                mark.rejected = view->points[i].rejected;
            }
            marks.push_back(mark);
        }
    }
    view_->set_corners(std::move(marks));
}

void BenchPlace::show_something() {
    if (frames_->chosen() < 0) frames_->choose(0);
}

}  // namespace optrel
