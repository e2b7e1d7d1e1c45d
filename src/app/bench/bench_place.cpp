// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/bench_place.h"

#include <QFileDialog>
#include <QSplitter>

#include "base/choose.h"
#include "bench/corner_panel.h"
#include "bench/noise_page.h"
#include "bench/plan_panel.h"
#include "bench/residual_panel.h"
#include "bench/run_rows.h"
#include "jobs.h"
#include "optics/compare_profiles.h"
#include "render/quick_look.h"
#include "screen/screen_image.h"
#include "screen/screen_service.h"
#include "view_settings.h"
#include "widgets/edit_entry.h"
#include "widgets/profile_curves.h"
#include "widgets/resolution_view.h"

namespace optrel {

BenchPlace::BenchPlace(const Parts& parts) : PlaceWidget(theme::Place::bench), parts_(parts) {
    build();
    watch_.setInterval(1500);
    connect(&watch_, &QTimer::timeout, this, &BenchPlace::look_for_frames);
    connect(&parts_.runs(), &RunService::changed, this, [this] { load_runs(run_ ? run_->id : 0); });
    connect(&parts_.profiles(), &ProfileModel::changed, this, &BenchPlace::refresh_findings);
    load_runs(0);
}

void BenchPlace::build() {
    build_actions();
    body_->addWidget(build_bar());
    curves_ = new ProfileCurves;
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(build_frames());
    across->addWidget(build_middle());
    across->addWidget(curves_);
    across->setSizes({430, 470, 270});
    across->setStretchFactor(1, 1);
    auto* lens = new QWidget;
    auto* down = stacked_in(lens);
    down->addLayout(build_summary());
    down->addWidget(across, 1);
    run_pages_ = new QStackedWidget;
    run_pages_->addWidget(lens);
    run_pages_->addWidget(noise_);
    body_->addWidget(run_pages_, 1);
}

void BenchPlace::build_actions() {
    auto* fresh = button("&New run from a folder…",
                         "Reads a folder of chart frames and flat fields; frames are sorted by body and lens");
    connect(fresh, &QPushButton::clicked, this, &BenchPlace::choose_folder);
    watch_button_ = button("&Watch a folder…", "Measures frames as they land in a folder, and says what to shoot next");
    watch_button_->setCheckable(true);
    connect(watch_button_, &QPushButton::clicked, this, [this](bool on) {
        if (!on) {
            stop_watching();
            return;
        }
        const QString folder =
            QFileDialog::getExistingDirectory(this, "Folder that frames land in", run_ ? q(run_->folder) : QString());
        if (folder.isEmpty())
            watch_button_->setChecked(false);
        else
            watch(folder);
    });
    report_ = button("&Report…", "Writes the report of the run as PDF");
    connect(report_, &QPushButton::clicked, this, [this] {
        const QString path =
            QFileDialog::getSaveFileName(this, "Save the report", "report.pdf", "PDF (*.pdf);;JSON (*.json)");
        if (!path.isEmpty()) write_report_to(path);
    });
    auto* noise = button("New n&oise run…",
                         "Reads a folder of flat fields and dark frames; each body becomes a run that measures its "
                         "noise");
    connect(noise, &QPushButton::clicked, this, &BenchPlace::choose_noise_folder);
    chart_button_ = button("&Chart…", "Draws a chart to print, and takes its size from the measured rulers");
    connect(chart_button_, &QPushButton::clicked, this, &BenchPlace::choose_chart);
    for (QPushButton* b : {chart_button_, report_, watch_button_, noise, fresh}) actions_->addWidget(b);
}

QLayout* BenchPlace::build_summary() {
    auto* summary = new QHBoxLayout;
    figures_ = new QLabel;
    figures_->setObjectName("figure");
    figures_->setTextFormat(Qt::RichText);
    figures_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    setting_choice_ = new QComboBox;
    setting_choice_->setAccessibleName("Lens setting");
    setting_choice_->setToolTip("The lens setting whose figures, residuals and curves are shown");
    connect(setting_choice_, &QComboBox::activated, this, [this] { refresh(); });
    summary->addWidget(setting_choice_);
    summary->addWidget(figures_, 1);
    return summary;
}

QWidget* BenchPlace::build_frames() {
    frames_ = new Table("Frames of the run", {text_column("Frame"), text_column("Is", 42), figure_column("Corners", 58),
                                              figure_column("RMS / px", 64), figure_column("Tilt / °", 50),
                                              text_column("State", 78), text_column("Setting", 92)});
    connect(frames_, &Table::chosen_changed, this, &BenchPlace::show_frame);
    findings_ = new Table("Findings", {text_column("Findings, and what to do")});
    findings_->setWordWrap(true);
    findings_->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    connect(findings_, &Table::chosen_changed, this, &BenchPlace::show_finding);
    auto* left = new QSplitter(Qt::Vertical);
    const auto path = [this](int row) {
        return run_ && row < static_cast<int>(run_->frames.size()) ? run_->frames[row].path : std::filesystem::path();
    };
    auto* list = new TableOrPictures(*frames_, pictures_of(*frames_, 5, path), "run");
    left->addWidget(list->under("Frames"));
    left->addWidget(findings_);
    left->setSizes({370, 200});
    remember_splitter(left, "bench/left");
    return left;
}

void BenchPlace::choose_folder() {
    const QString folder = QFileDialog::getExistingDirectory(this, "Folder with chart frames and flat fields");
    if (!folder.isEmpty()) new_runs_from(folder);
}

void BenchPlace::choose_noise_folder() {
    const QString folder = QFileDialog::getExistingDirectory(this, "Folder with flat fields and dark frames");
    if (!folder.isEmpty()) new_noise_runs_from(folder);
}

QWidget* BenchPlace::build_bar() {
    run_choice_ = new QComboBox;
    run_choice_->setAccessibleName("Run");
    run_choice_->setMinimumWidth(220);
    connect(run_choice_, &QComboBox::activated, this, &BenchPlace::open_run);
    chart_ = new QLineEdit("checker:15x10:30");
    chart_->setAccessibleName("Chart");
    chart_->setToolTip("The chart as printed: checker or coded:squares across x squares down:square size in mm");
    chart_->setFixedWidth(170);
    measure_ = button("&Measure and solve",
                      "Finds the corners in the frames that are not measured yet, then solves the lens", true);
    solve_ = button("&Solve again", "Chooses the model anew and solves from the frames that are not dropped");
    drop_ = button("&Drop frame", "Leaves the chosen frame out, or takes it back, and solves again");
    publish_ = button("&Publish profile…",
                      "Shows what frames would change, then publishes the solution as the next version of this lens's "
                      "profile");
    publish_->setAccessibleName("Publish profile");
    connect(measure_, &QPushButton::clicked, this, &BenchPlace::measure);
    connect(solve_, &QPushButton::clicked, this, [this] { solve(false); });
    connect(drop_, &QPushButton::clicked, this, &BenchPlace::toggle_chosen);
    connect(publish_, &QPushButton::clicked, this, &BenchPlace::publish);
    noise_ = new NoisePage(parts_);
    connect(noise_, &NoisePage::added, this, [this] { load_runs(0); });
    auto* of_lens = new QWidget;
    auto* buttons = new QHBoxLayout(of_lens);
    buttons->setContentsMargins(0, 0, 0, 0);
    buttons->addWidget(new QLabel("Chart"));
    for (QWidget* w : std::initializer_list<QWidget*>{chart_, measure_, solve_, drop_, publish_}) buttons->addWidget(w);
    bars_ = new QStackedWidget;
    bars_->addWidget(of_lens);
    bars_->addWidget(noise_->bar());
    auto* holder = new QWidget;
    auto* bar = new QHBoxLayout(holder);
    bar->setContentsMargins(0, 0, 0, 0);
    bar->addWidget(new QLabel("Run"));
    bar->addWidget(run_choice_, 1);
    bar->addWidget(bars_);
    return holder;
}

QWidget* BenchPlace::build_middle() {
    view_ = new FrameView;
    corner_ = new CornerPanel;
    corner_->hide();
    connect(view_, &FrameView::corner_chosen, this, &BenchPlace::show_corner);
    connect(view_, &FrameView::drop_asked, this, &BenchPlace::toggle_corner);
    connect(corner_, &CornerPanel::drop_clicked, this, [this] {
        if (view_->chosen_corner() >= 0) toggle_corner(view_->chosen_corner());
    });
    auto* frame = new QWidget;
    auto* down = new QVBoxLayout(frame);
    down->setContentsMargins(0, 0, 0, 0);
    down->setSpacing(0);
    down->addWidget(view_, 1);
    down->addWidget(corner_);

    residuals_ = new ResidualPanel;
    connect(residuals_, &ResidualPanel::frame_chosen, this, [this](int row) {
        frames_->choose(row);
        tabs_->setCurrentIndex(0);
    });
    plan_ = new PlanPanel;
    models_ = new_trials_table();
    model_choice_ = new QComboBox;
    model_choice_->setAccessibleName("Lens model");
    model_choice_->addItem("chosen by unseen frames");
    for (const LensModelKind kind : lens_forms()) model_choice_->addItem(q(kind->name()));
    connect(model_choice_, &QComboBox::activated, this, [this](int now) {
        if (now == model_index_) return;
        parts_.undo().push(new EditEntry<int>("lens model", model_index_, now, [this](int index) {
            model_index_ = index;
            model_choice_->setCurrentIndex(index);
            if (run_) solve(false);
        }));
    });
    auto* models = new QWidget;
    auto* form = new QVBoxLayout(models);
    form->setContentsMargins(4, 6, 4, 0);
    auto* line = new QHBoxLayout;
    line->addWidget(new QLabel("Lens model"));
    line->addWidget(model_choice_);
    line->addStretch(1);
    form->addLayout(line);
    form->addWidget(models_, 1);

    tabs_ = new QTabWidget;
    tabs_->setAccessibleName("Views of the run");
    tabs_->setDocumentMode(true);
    tabs_->addTab(frame, "&Frame");
    tabs_->addTab(residuals_, "R&esiduals");
    resolution_ = new ResolutionView;
    tabs_->addTab(resolution_, "Resol&ution");
    tabs_->addTab(plan_, "Shot p&lan");
    tabs_->addTab(models, "M&odels");
    return tabs_;
}

int BenchPlace::node() const {
    return solution_
               ? std::clamp(setting_choice_->currentIndex(), 0, static_cast<int>(solution_->profile.nodes.size()) - 1)
               : 0;
}

void BenchPlace::refresh() {
    for (QPushButton* b : {measure_, solve_, drop_}) b->setEnabled(run_.has_value());
    for (QPushButton* b : {publish_, report_}) b->setEnabled(solution_.has_value());
    const int shown = std::max(0, setting_choice_->currentIndex());
    setting_choice_->clear();
    if (solution_)
        for (const ProfileNode& n : solution_->profile.nodes) setting_choice_->addItem(q(to_string(n.setting)));
    setting_choice_->setCurrentIndex(std::min(shown, setting_choice_->count() - 1));
    setting_choice_->setVisible(setting_choice_->count() > 1);
    if (solution_) {
        figures_->setText(figures_text(solution_->profile.nodes[node()]));
    } else {
        const auto unmeasured = run_ ? std::count_if(run_->frames.begin(), run_->frames.end(),
                                                     [](const RunFrame& f) { return !f.measured(); })
                                     : 0;
        QString text = "Not solved yet. Give the chart as printed, then Measure and solve.";
        const auto all = static_cast<std::ptrdiff_t>(run_ ? run_->frames.size() : 0);
        if (unmeasured > 0 && unmeasured < all)
            text = QString("%1 of %2 frames are measured; Measure and solve goes on from there.")
                       .arg(all - unmeasured)
                       .arg(all);
        if (!solve_problem_.isEmpty()) text = "Not solved: see the findings.";
        if (!run_)
            text =
                "A run turns 9 or more chart frames and 2 or more flat fields into a lens profile. Begin with New run "
                "from a folder.";
        figures_->setText(QString("<span style='font-size:9.5pt;color:#626c70'>%1</span>").arg(text));
    }
    refresh_frames();
    refresh_findings();
    if (solution_) {
        curves_->show_profile(solution_->profile, measured_node(solution_->profile, node()));
        residuals_->show_solution(run_->frames, *solution_, node());
        show_resolution();
        models_->show_records(solution_->nodes[node()].trials);
    } else {
        curves_->clear();
        residuals_->clear();
        resolution_->clear("What the lens resolves over the picture is shown here once the run is solved.");
        models_->set_rows({});
    }
    refresh_plan();
    refresh_corners();
}

void BenchPlace::show_resolution() {
    const ProfileNode& n = solution_->profile.nodes[node()];
    if (n.resolution.empty())
        resolution_->clear("These frames were measured without their resolution; measure them again to have it.");
    else
        resolution_->show_field({q(to_string(n.setting)), solution_->profile.geometry, n.resolution});
}

void BenchPlace::refresh_frames() {
    const RunSolution* solution = solution_ ? &*solution_ : nullptr;
    frames_->set_rows(run_ ? frame_rows(run_->frames, solution) : std::vector<Row>{});
    // With a single lens setting there is nothing to distinguish.
    frames_->setColumnHidden(6, !solution_ || solution_->profile.nodes.size() < 2);
    if (run_ || noise_->run())
        show_empty(std::nullopt);
    else
        show_empty(FirstStep{
            "A run is one calibration: the frames of one lens, their corners, the solution and its report.\n\nPrint a "
            "chart (Chart…), photograph it in the middle, at the edges and in the corners, some frames tilted, "
            "and an evenly lit surface for the falloff. Then choose the folder.",
            "New run from a folder…", [this] { choose_folder(); }});
    const int row = frames_->chosen();
    drop_->setText(run_ && row >= 0 && run_->frames[row].dropped ? "Restore &frame" : "&Drop frame");
}

void BenchPlace::refresh_findings() {
    std::vector<Row> rows;
    if (!solve_problem_.isEmpty()) rows.push_back({Cell("✕ " + solve_problem_, Cell::Tone::serious)});
    if (solution_) {
        // For a lens with an existing profile: comparison with it.
        if (const std::optional<Profile> before = published()) {
            const ProfileNode& now = solution_->profile.nodes[node()];
            const PlacedNode then = node_at(*before, now.setting);
            if (then.placement == Placement::measured) try {
                    const ProfileDifference d = compare_nodes(then.node, now, solution_->profile.geometry);
                    rows.push_back({Cell(QString("%1 Against version %2: %3")
                                             .arg(d.verdict == RepeatVerdict::agrees ? "✓" : "!")
                                             .arg(before->version)
                                             .arg(q(d.sentence())),
                                         d.verdict == RepeatVerdict::agrees ? Cell::Tone::mark : Cell::Tone::warning)});
                } catch (const Error&) {
                    // No common settings, so nothing to compare.
                }
        }
    }
    findings_before_ = static_cast<int>(rows.size());
    if (solution_) {
        for (Row& row : finding_rows(*solution_)) rows.push_back(std::move(row));
        if (solution_->findings.empty())
            rows.push_back(
                {Cell("✓ Nothing to object to: coverage, tilt, sharpness and flat fields are as they should be.",
                      Cell::Tone::mark)});
    }
    findings_->set_rows(std::move(rows));
}

void BenchPlace::refresh_plan() {
    if (!run_) {
        ++plan_ticket_;
        plan_->clear("");
        return;
    }
    const auto frames = std::make_shared<std::vector<RunFrame>>(run_->frames);
    const auto solution = std::make_shared<std::optional<RunSolution>>(solution_);
    const auto drawn = std::make_shared<DrawnPlan>();
    const auto problem = std::make_shared<QString>();
    const int ticket = ++plan_ticket_;
    parts_.jobs().run_quietly(
        [=, shown = node(), chart = run_->chart.empty() ? chart_->text().toStdString() : run_->chart] {
            try {
                *drawn = draw_plan(ChartSpec::parse(chart), *frames, *solution ? &**solution : nullptr, shown);
            } catch (const Error& error) {
                *problem = q(error.what());
            }
        },
        [=, this] {
            if (ticket != plan_ticket_) return;
            if (problem->isEmpty())
                plan_->show_plan(*drawn);
            else
                plan_->clear(*problem);
        });
}

void BenchPlace::show_frame(int row) {
    if (!run_ || row < 0 || row >= static_cast<int>(run_->frames.size())) return;
    drop_->setText(run_->frames[row].dropped ? "Restore &frame" : "&Drop frame");
    if (row != shown_frame_) {
        view_->choose_corner(-1);
        corner_->hide();
        if (findings_->chosen() < findings_before_) pointed_.reset();
    }
    shown_frame_ = row;
    residuals_->choose_frame(row);
    const std::filesystem::path path = run_->frames[row].path;
    const int ticket = ++look_ticket_;
    auto look = std::make_shared<QImage>();
    auto size = std::make_shared<QSizeF>();
    auto problem = std::make_shared<QString>();
    parts_.jobs().run_quietly(
        [=, colours = ScreenService::here().colours(this)] {
            try {
                *look = screen_image(image_as_held(quick_look(path), read_metadata(path).orientation), *colours);
                const bool raw = sniff_kind(path) == FrameKind::raw;
                *size = QSizeF(look->width(), look->height()) * (raw ? 2 : 1);
            } catch (const std::exception& error) {
                *problem = q(error.what());
            }
        },
        [=, this] {
            if (ticket != look_ticket_ || !run_ || shown_frame_ >= static_cast<int>(run_->frames.size())) return;
            if (!problem->isEmpty()) {
                view_->clear(*problem);
                return;
            }
            const RunFrame& f = run_->frames[shown_frame_];
            const QSizeF sensor(f.width, f.height);
            const bool sideways = turns_sideways(f.metadata.orientation);
            view_->set_frame(*look, first_of<QSizeF>({{f.width <= 0, *size}, {sideways, sensor.transposed()}}, sensor));
            refresh_corners();
        });
}

void BenchPlace::show_finding(int row) {
    const int index = row - findings_before_;
    if (!solution_ || index < 0 || index >= static_cast<int>(solution_->findings.size())) return;
    const Finding& f = solution_->findings[index];
    pointed_.reset();
    if (f.place) pointed_ = QPointF(f.place->x(), f.place->y());
    if (f.frame >= 0) {
        tabs_->setCurrentIndex(0);
        frames_->choose(f.frame);
    } else if (f.place) {
        tabs_->setCurrentIndex(1);
    }
    refresh_corners();
    residuals_->map().point_at(f.frame < 0 ? pointed_ : std::nullopt);
}

void BenchPlace::refresh_corners() {
    std::vector<CornerMark> marks;
    std::optional<QPointF> pointed = pointed_;
    if (run_ && shown_frame_ >= 0 && shown_frame_ < static_cast<int>(run_->frames.size())) {
        const RunFrame& f = run_->frames[shown_frame_];
        const View* view = solution_ && shown_frame_ < static_cast<int>(solution_->outcomes.size()) &&
                                   solution_->outcomes[shown_frame_].used
                               ? &solution_->outcomes[shown_frame_].view
                               : nullptr;
        // The frame is shown in display orientation; corners and residuals are in sensor coordinates.
        const auto shown = [&](double x, double y) {
            const cv::Point2d at = place_as_held({x, y}, {f.width, f.height}, f.metadata.orientation);
            return QPointF(at.x, at.y);
        };
        if (pointed) pointed = shown(pointed->x(), pointed->y());
        for (std::size_t i = 0; i < f.detection.corners.size(); ++i) {
            const ChartCorner& c = f.detection.corners[i];
            const Vec2 at = c.green().position;
            CornerMark mark{shown(at.x(), at.y()), {}, f.dropped_corners.count({c.column, c.row}) > 0, view != nullptr};
            if (view && i < view->points.size()) {
                const Vec2 tip = at + view->points[i].residual;
                mark.residual = shown(tip.x(), tip.y()) - mark.place;
                mark.rejected = mark.rejected || view->points[i].rejected;
            }
            marks.push_back(mark);
        }
    }
    view_->set_corners(std::move(marks));
    view_->point_at(pointed);
    if (corner_->isVisible() && view_->chosen_corner() >= 0) show_corner(view_->chosen_corner());
}

void BenchPlace::show_corner(int index) {
    if (!run_ || shown_frame_ < 0) return;
    const RunFrame& f = run_->frames[shown_frame_];
    if (index < 0 || index >= static_cast<int>(f.detection.corners.size())) return;
    const ChartCorner corner = f.detection.corners[index];
    const int ticket = ++corner_ticket_;
    auto patches = std::make_shared<std::array<CornerPatch, 3>>();
    parts_.jobs().run_quietly(
        [=, path = f.path] {
            try {
                *patches = cut_patches(read_for_measuring(path), corner, 14);
            } catch (const Error&) {
                // The file is missing: the figures are shown without pictures.
            }
        },
        [=, this] {
            if (ticket != corner_ticket_ || !run_ || shown_frame_ >= static_cast<int>(run_->frames.size())) return;
            const RunFrame& now = run_->frames[shown_frame_];
            const FrameOutcome* o = solution_ && shown_frame_ < static_cast<int>(solution_->outcomes.size())
                                        ? &solution_->outcomes[shown_frame_]
                                        : nullptr;
            const ViewPoint* point =
                o && o->used && index < static_cast<int>(o->view.points.size()) ? &o->view.points[index] : nullptr;
            corner_->show_corner(corner, point, *patches, now.dropped_corners.count({corner.column, corner.row}) > 0);
            corner_->show();
        });
}

void BenchPlace::show_view(const QString& view) {
    if (view == "new noise run") return begin_noise_run();
    if (view == "noise") {
        if (!noise_runs_.empty()) open_run(static_cast<int>(runs_.size()));
        return;
    }
    if (noise_->run() && !runs_.empty()) open_run(0);
    const QStringList tabs{"corner", "residuals", "resolution", "plan", "models"};
    tabs_->setCurrentIndex(std::max(0, static_cast<int>(tabs.indexOf(view))));
    if (view == "corner" && view_->corner_count() > 0) {
        view_->choose_corner(view_->corner_count() / 2);
        show_corner(view_->corner_count() / 2);
    }
}

void BenchPlace::show_something() {
    if (frames_->chosen() < 0) frames_->choose(0);
}

}  // namespace optrel
