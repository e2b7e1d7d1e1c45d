// SPDX-License-Identifier: GPL-3.0-or-later
// Actions of the Bench on a run: open, measure, solve, publish, watch a folder.
#include <QFileInfo>
#include <QPointer>
#include <nlohmann/json.hpp>

#include "base/station.h"
#include "base/times.h"
#include "bench/bench_place.h"
#include "bench/chart_dialog.h"
#include "bench/drop_frame.h"
#include "bench/noise_page.h"
#include "jobs.h"
#include "shared/publish_dialog.h"
#include "studio/calibration/body_run_work.h"
#include "studio/calibration/report.h"
#include "studio/calibration/run_work.h"
#include "studio/fleet/claim.h"
#include "studio/intake/take_in.h"
#include "widgets/edit_entry.h"

namespace optrel {
namespace {

/// Says what was made of a folder, and that files of it could not be read.
void tell_made(const BenchPlace::Parts& parts, QString message, const std::vector<std::string>& problems) {
    if (!problems.empty())
        message += QString(" %1 files could not be read; the first: %2").arg(problems.size()).arg(q(problems.front()));
    parts.tell(message, !problems.empty());
}

}  // namespace

void BenchPlace::load_runs(int open_id) {
    parts_.attempt([&] {
        runs_ = parts_.runs().all();
        noise_runs_ = parts_.runs().all_of_bodies();
    });
    std::erase_if(noise_runs_, [](const BodyRun& r) { return r.kind != "noise"; });
    run_choice_->clear();
    int index = runs_.empty() ? -1 : 0;
    for (std::size_t i = 0; i < runs_.size(); ++i) {
        run_choice_->addItem(QString("%1  %2").arg(runs_[i].id).arg(q(runs_[i].name)));
        if (runs_[i].id == open_id) index = static_cast<int>(i);
    }
    for (const BodyRun& run : noise_runs_) run_choice_->addItem(q(run.name));
    if (noise_->run()) {
        // The noise run that is open stays open.
        for (std::size_t i = 0; i < noise_runs_.size(); ++i)
            if (noise_runs_[i].id == noise_->run()->id) index = static_cast<int>(runs_.size() + i);
        run_choice_->setCurrentIndex(noise_->run()->id == 0 ? -1 : index);
        refresh();
        return;
    }
    if (index < 0 && !noise_runs_.empty()) return open_noise_run(noise_runs_.front());
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
    if (index < 0 || index >= run_choice_->count()) return;
    if (index >= static_cast<int>(runs_.size())) {
        // Results that were saved since the list was read are wanted too.
        const BodyRun listed = noise_runs_.at(static_cast<std::size_t>(index) - runs_.size());
        BodyRun wanted = listed;
        parts_.attempt([&] {
            for (BodyRun& now : parts_.runs().all_of_bodies())
                if (now.id == listed.id) wanted = std::move(now);
        });
        return open_noise_run(wanted);
    }
    show_page(false);
    run_ = runs_[index];
    solution_.reset();
    solve_problem_.clear();
    shown_frame_ = -1;
    if (!run_->chart.empty()) chart_->setText(q(run_->chart));
    refresh();
    const bool measured =
        std::any_of(run_->frames.begin(), run_->frames.end(), [](const RunFrame& f) { return f.measured(); });
    if (measured) solve(false);
    if (!run_->frames.empty()) frames_->choose(0);
}

void BenchPlace::new_runs_from(const QString& folder) {
    ChartSpec chart;
    if (!parts_.attempt([&] { chart = ChartSpec::parse(chart_->text().toStdString()); })) return;
    auto made = std::make_shared<std::vector<RunRecord>>();
    auto problems = std::make_shared<std::vector<std::string>>();
    parts_.jobs().run(
        "Reading metadata",
        [=](Progress& progress) { *made = runs_of_folder(folder.toStdString(), chart, *problems, progress); },
        [=, this] {
            int first = 0;
            for (RunRecord& run : *made) {
                if (!parts_.attempt([&] { parts_.runs().keep(run); })) return;
                if (!first) first = run.id;
            }
            run_.reset();
            load_runs(first);
            QString message =
                made->size() == 1
                    ? QString("One run of %1 frames is ready to be measured.").arg(made->front().frames.size())
                    : QString("%1 runs, one for each body and lens, are ready to be measured.").arg(made->size());
            tell_made(parts_, message, *problems);
        });
}

void BenchPlace::show_page(bool noise) {
    if (!noise) noise_->close();
    bars_->setCurrentIndex(noise ? 1 : 0);
    run_pages_->setCurrentIndex(noise ? 1 : 0);
    chart_button_->setVisible(!noise);
    report_->setVisible(!noise);
}

void BenchPlace::open_noise_run(const BodyRun& run) {
    run_.reset();
    solution_.reset();
    noise_->open(run);
    show_page(true);
    load_runs(0);
}

void BenchPlace::begin_noise_run() {
    run_.reset();
    solution_.reset();
    noise_->begin();
    show_page(true);
    load_runs(0);
}

void BenchPlace::new_noise_runs_from(const QString& folder) {
    auto made = std::make_shared<std::vector<BodyRun>>();
    auto problems = std::make_shared<std::vector<std::string>>();
    parts_.jobs().run(
        "Reading metadata",
        [=](Progress& progress) { *made = noise_runs_of_folder(folder.toStdString(), *problems, progress); },
        [=, this] {
            for (BodyRun& run : *made)
                if (!parts_.attempt([&] { parts_.runs().keep(run); })) return;
            if (made->empty()) return;
            open_noise_run(made->front());
            QString message =
                made->size() == 1
                    ? QString("One noise run of %1 frames is ready to be measured.").arg(made->front().frames.size())
                    : QString("%1 noise runs, one for each body, are ready to be measured.").arg(made->size());
            tell_made(parts_, message, *problems);
        });
}

void BenchPlace::choose_chart() {
    ChartSpec chart = ChartSpec::parse("checker:15x10:30");
    try {
        chart = ChartSpec::parse(chart_->text().toStdString());
    } catch (const Error&) {
        // The entered text is no chart: the dialog starts with a common one.
    }
    auto* dialog = new ChartDialog(chart, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog] {
        QString after;
        if (!parts_.attempt([&] { after = q(dialog->chart().text()); }) || after == chart_->text()) return;
        parts_.undo().push(new EditEntry<QString>("chart", chart_->text(), after,
                                                  [this, run = run_ ? run_->id : 0](const QString& text) {
                                                      if ((run_ ? run_->id : 0) != run)
                                                          return;  // another run was opened since
                                                      chart_->setText(text);
                                                      if (!run_) return;
                                                      run_->chart = text.toStdString();
                                                      keep_run();
                                                      refresh_plan();
                                                      if (solution_) solve(false);
                                                  }));
    });
    dialog->open();
}

/// Unmeasured frames; all frames when all are measured, or when the kind of chart has changed.
void BenchPlace::measure() {
    if (!run_) return;
    std::string chart;
    if (!parts_.attempt([&] { chart = ChartSpec::parse(chart_->text().toStdString()).text(); })) return;
    const bool kind_changed =
        !run_->chart.empty() && ChartSpec::parse(run_->chart).kind != ChartSpec::parse(chart).kind;
    run_->chart = chart;
    auto positions = std::make_shared<std::vector<int>>(frames_to_measure(*run_));
    if (positions->empty() || kind_changed) {
        positions->clear();
        for (int i = 0; i < static_cast<int>(run_->frames.size()); ++i) positions->push_back(i);
    }
    keep_run();
    std::vector<std::filesystem::path> paths;
    for (const int i : *positions) paths.push_back(run_->frames[i].path);
    const int id = run_->id;
    const ChartSpec spec = ChartSpec::parse(chart);
    // The place may be destroyed when the worker finishes; Jobs outlives its workers.
    const QPointer<BenchPlace> here(this);
    Jobs& jobs = parts_.jobs();
    jobs.run(
        "Measuring frames",
        [=, &jobs](Progress& progress) {
            measure_frames(paths, MeasureAs::automatic, spec, progress, [&](int k, const RunFrame& frame) {
                jobs.post([=, position = (*positions)[k]] {
                    if (here) here->frame_measured(id, position, frame);
                });
            });
        },
        [=, this] {
            if (run_ && run_->id == id) solve(false);
        });
}

/// Saves each measurement at once, so that an interruption loses nothing.
void BenchPlace::frame_measured(int run, int position, const RunFrame& frame) {
    RunFrame kept = frame;
    for (RunRecord& r : runs_)
        if (r.id == run && position < static_cast<int>(r.frames.size())) {
            kept.dropped = r.frames[position].dropped;
            r.frames[position] = kept;
        }
    parts_.runs().save_frame(run, position, kept);
    if (!run_ || run_->id != run || position >= static_cast<int>(run_->frames.size())) return;
    run_->frames[position] = kept;
    refresh_frames();
    if (position == shown_frame_) show_frame(position);
    if (!solution_) refresh_plan();
}

void BenchPlace::solve(bool from_previous) {
    if (!run_) return;
    auto solved = std::make_shared<std::optional<RunSolution>>();
    auto problem = std::make_shared<QString>();
    SolveSettings settings;
    if (!parts_.attempt([&] { settings.chart = ChartSpec::parse(chart_->text().toStdString()); })) return;
    settings.author = current_author();
    if (model_choice_->currentIndex() > 0)
        settings.model.kind = lens_model_kind(model_choice_->currentText().toStdString());
    std::shared_ptr<RunSolution> previous;
    if (from_previous && solution_) previous = std::make_shared<RunSolution>(*solution_);
    const std::vector<RunFrame> frames = run_->frames;
    const int id = run_->id;
    parts_.jobs().run(
        "Solving the lens",
        [=](Progress& progress) {
            SolveSettings with = settings;
            with.previous = previous.get();
            try {
                *solved = solve_run(frames, with, progress);
            } catch (const Cancelled&) {
                throw;
            } catch (const Error& error) {
                *problem = q(error.what());
            }
        },
        [=, this] {
            if (!run_ || run_->id != id) return;
            // A quick solve keeps the models; results of the model choice stay valid.
            if (previous && *solved)
                for (std::size_t n = 0; n < (*solved)->nodes.size() && n < previous->nodes.size(); ++n)
                    if ((*solved)->nodes[n].trials.empty()) (*solved)->nodes[n].trials = previous->nodes[n].trials;
            solution_ = std::move(*solved);
            solve_problem_ = *problem;
            if (!problem->isEmpty()) parts_.tell(*problem, true);
            refresh();
        });
}

void BenchPlace::toggle_chosen() {
    const int row = frames_->chosen();
    if (run_ && row >= 0) set_dropped(row, !run_->frames[row].dropped);
}

void BenchPlace::set_dropped(int row, bool dropped) {
    parts_.undo().push(new DropFrame(*this, run_->id, row, dropped));
}

void BenchPlace::apply_dropped(int row, bool dropped) {
    run_->frames[row].dropped = dropped;
    keep_run();
    refresh_frames();
    solve(true);
}

void BenchPlace::toggle_corner(int index) {
    if (!run_ || shown_frame_ < 0 || index >= static_cast<int>(run_->frames[shown_frame_].detection.corners.size()))
        return;
    const ChartCorner& corner = run_->frames[shown_frame_].detection.corners[index];
    using Corners = std::set<std::pair<int, int>>;
    const Corners before = run_->frames[shown_frame_].dropped_corners;
    Corners after = before;
    const bool restore = after.erase({corner.column, corner.row}) > 0;
    if (!restore) after.emplace(corner.column, corner.row);
    parts_.undo().push(new EditEntry<Corners>(restore ? "restore corner" : "drop corner", before, after,
                                              [this, run = run_->id, frame = shown_frame_](const Corners& corners) {
                                                  if (!run_ || run_->id != run) return;  // another run was opened since
                                                  run_->frames[frame].dropped_corners = corners;
                                                  keep_run();
                                                  refresh_corners();
                                                  solve(true);
                                              }));
}

void BenchPlace::keep_run() {
    parts_.runs().save(*run_);
    for (RunRecord& r : runs_)
        if (r.id == run_->id) r = *run_;
}

std::optional<Profile> BenchPlace::published() const {
    if (!solution_) return std::nullopt;
    const Profile& now = solution_->profile;
    for (const Profile& p : parts_.profiles().current())
        if (same_subject(p, now)) return p;
    return std::nullopt;
}

void BenchPlace::publish() {
    if (!solution_) return;
    const std::optional<Profile> before = published();
    const auto wanted = std::make_shared<Profile>(solution_->profile);
    PublishQuestion question{
        .what = "profile", .name = q(wanted->name), .findings = wanted->findings, .settings = "lens settings"};
    if (before) {
        question.before = before->version;
        for (const LensSetting& s : settings_missing(*before, *wanted)) question.missing << q(to_string(s));
    }
    question.look = [wanted](const Store& store, Progress& progress) {
        return reach_of_versions(store, with_next_version(store.profiles().all_versions(), *wanted), progress);
    };
    auto* dialog = new PublishDialog(parts_.jobs(), parts_.profiles().source(), question, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this,
            [this, wanted, dialog] { publish_as_decided(*wanted, dialog->acceptances(), dialog->others()); });
    dialog->open();
}

void BenchPlace::publish_as_decided(Profile profile, const std::vector<Acceptance>& accepted, OtherSettings others) {
    parts_.attempt([&] {
        accept_findings(profile.findings, profile.name, accepted, current_author(), utc_now());
        const Profile p = parts_.profiles().publish(profile, others);
        parts_.tell(
            QString("%1 is published as version %2 with %3 lens setting%4; frames that it fits take it from now on.")
                .arg(q(p.name))
                .arg(p.version)
                .arg(p.nodes.size())
                .arg(p.nodes.size() == 1 ? "" : "s"));
    });
}

void BenchPlace::write_report_to(const QString& path) {
    if (!solution_ || !run_) return;
    const auto frames = std::make_shared<std::vector<RunFrame>>(run_->frames);
    const auto solution = std::make_shared<RunSolution>(*solution_);
    parts_.jobs().run(
        "Writing the report",
        [=](Progress& progress) {
            write_report(path.toStdString(), Existing::replace_ours, *frames, *solution, progress);
        },
        [=, this] { parts_.tell("The report is saved as " + path + "."); });
}

void BenchPlace::watch(const QString& folder) {
    watched_folder_ = folder;
    landing_.clear();
    if (noise_->run()) {
        // Frames join the open noise run.
    } else if (!run_ || run_->folder != folder.toStdString()) {
        // Continues the newest run of that folder, or starts one.
        const auto it = std::find_if(runs_.begin(), runs_.end(),
                                     [&](const RunRecord& r) { return r.folder == folder.toStdString(); });
        if (it != runs_.end()) {
            run_choice_->setCurrentIndex(static_cast<int>(it - runs_.begin()));
            open_run(static_cast<int>(it - runs_.begin()));
        } else {
            RunRecord run;
            run.name = QFileInfo(folder).fileName().toStdString();
            run.folder = folder.toStdString();
            run.chart = chart_->text().toStdString();
            if (!parts_.attempt([&] { parts_.runs().keep(run); })) return;
            run_.reset();
            load_runs(run.id);
        }
    }
    watch_button_->setChecked(true);
    watch_.start();
    tabs_->setCurrentWidget(plan_);
    parts_.tell("Watching " + folder + ": frames are measured as they land.");
    look_for_frames();
}

void BenchPlace::stop_watching() {
    watch_.stop();
    watch_button_->setChecked(false);
    parts_.tell("No folder is watched any more.");
}

void BenchPlace::look_for_frames() {
    if (looking_ || (!run_ && !noise_->run()) || parts_.jobs().busy()) return;
    looking_ = true;
    auto sizes = std::make_shared<std::map<std::filesystem::path, std::uintmax_t>>();
    auto problem = std::make_shared<QString>();
    parts_.jobs().run_quietly(
        [=, folder = watched_folder_.toStdString()] {
            try {
                std::vector<std::string> problems;
                for (const auto& path : frame_files(folder, problems)) {
                    std::error_code gone;
                    const auto size = std::filesystem::file_size(path, gone);
                    if (!gone) (*sizes)[path] = size;
                }
            } catch (const Error& error) {
                *problem = q(error.what());
            }
        },
        [=, this] {
            looking_ = false;
            if (!problem->isEmpty()) {
                stop_watching();
                parts_.tell(*problem, true);
                return;
            }
            take_landed(*sizes);
        });
}

/// A file counts when its size is unchanged between two checks.
void BenchPlace::take_landed(const std::map<std::filesystem::path, std::uintmax_t>& sizes) {
    std::vector<std::filesystem::path> whole_frames;
    int added = 0;
    for (const auto& [path, size] : sizes) {
        const auto before = landing_.find(path);
        const bool whole = before != landing_.end() && before->second == size && size > 0;
        landing_[path] = size;
        if (whole && noise_->run()) whole_frames.push_back(path);
        if (!run_) continue;
        const bool known = std::any_of(run_->frames.begin(), run_->frames.end(),
                                       [&, &at = path](const RunFrame& f) { return f.path == at; });
        if (!whole || known) continue;
        RunFrame frame;
        frame.path = path;
        run_->frames.push_back(frame);
        ++added;
    }
    if (added) measure();
    if (noise_->run()) noise_->add_frames(whole_frames);
}

}  // namespace optrel
