// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/noise_page.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QMimeData>
#include <QPointer>
#include <QScrollArea>
#include <QSplitter>
#include <algorithm>

#include "base/station.h"
#include "base/times.h"
#include "bench/noise_plan_view.h"
#include "jobs.h"
#include "sensor/noise_json.h"
#include "sensor/noise_kind.h"
#include "sensor/noise_plan.h"
#include "shared/dropped_frames.h"
#include "shared/noise_figures.h"
#include "shared/publish_dialog.h"
#include "studio/frames/measured_facts.h"
#include "view_settings.h"
#include "widgets/edit_entry.h"
#include "widgets/place.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

constexpr const char* how_to =
    "For each ISO: pairs of flat fields, two frames at each exposure, one directly after the other, from 2 to 60 "
    "percent of the white level; and dark frames with the cap on. Eight pairs and four dark frames are good. Frames "
    "sort "
    "themselves: dark ones are told by their light. Add them, or begin a run from their folder.";

}  // namespace

NoisePage::NoisePage(const Parts& parts, QWidget* parent) : QWidget(parent), parts_(parts) {
    build();
    refresh();
}

void NoisePage::dragEnterEvent(QDragEnterEvent* event) {
    if (run_ && event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void NoisePage::dropEvent(QDropEvent* event) {
    list_frames(parts_.jobs(), dropped_paths(*event), this, [this](const auto& frames) { add_frames(frames); });
}

void NoisePage::build_bar() {
    add_ = button("&Add frames…", "Raw flat fields and dark frames of one body");
    measure_ = button("&Measure noise", "Sorts the frames into pairs and measures each ISO", true);
    drop_ = button("&Drop frame", "Leaves the chosen frame out, or takes it back, and measures again");
    publish_ = button("&Publish noise…", "Keeps the measurement as the next version of this body's noise");
    connect(add_, &QPushButton::clicked, this, &NoisePage::ask_for_frames);
    connect(measure_, &QPushButton::clicked, this, &NoisePage::measure);
    connect(drop_, &QPushButton::clicked, this, [this] {
        const int row = frames_->chosen();
        if (run_ && row >= 0) set_dropped(row, !run_->frames[static_cast<std::size_t>(row)].dropped);
    });
    connect(publish_, &QPushButton::clicked, this, &NoisePage::publish);
    bar_ = new QWidget;
    auto* buttons = new QHBoxLayout(bar_);
    buttons->setContentsMargins(0, 0, 0, 0);
    for (QPushButton* b : {add_, measure_, drop_, publish_}) buttons->addWidget(b);
}

void NoisePage::build_tables() {
    frames_ = new Table("Frames of the noise run", {text_column("Frame"), figure_column("ISO", 52),
                                                    figure_column("Exposure", 70), text_column("State", 78)});
    connect(frames_, &Table::chosen_changed, this, [this] { refresh(); });
    figures_ = new_noise_figures(
        "Measured noise, green", [] { return 1; }, true);
    findings_ = new Table("Findings of the noise run", {text_column("Findings, and what to do")});
    findings_->wrap_rows();
    plan_ = new NoisePlanView;
    said_ = new QLabel;
    said_->setWordWrap(true);
    steps_ = new QLabel;
    steps_->setWordWrap(true);
    steps_->setAlignment(Qt::AlignTop);
    steps_->setMargin(4);
    steps_->setTextInteractionFlags(Qt::TextSelectableByMouse);
}

void NoisePage::build() {
    setAcceptDrops(true);
    build_bar();
    build_tables();
    auto* scroll = new QScrollArea;
    scroll->setWidget(steps_);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setAccessibleName("What is still to take");
    auto* left = new QSplitter(Qt::Vertical);
    const auto path = [this](int row) {
        return run_ && row < static_cast<int>(run_->frames.size()) ? run_->frames[row].path : std::filesystem::path();
    };
    auto* list = new TableOrPictures(*frames_, pictures_of(*frames_, 3, path), "noise run");
    left->addWidget(list->under("Frames"));
    left->addWidget(findings_);
    left->setSizes({360, 220});
    remember_splitter(left, "bench/noise left");
    auto* right = new QSplitter(Qt::Vertical);
    right->addWidget(panel("Shot plan", plan_));
    right->addWidget(panel("What is still to take, and what it gains", scroll));
    right->addWidget(panel("Measured noise of green, one sigma", figures_));
    right->setSizes({270, 110, 200});
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(left);
    across->addWidget(right);
    across->setSizes({430, 740});
    across->setStretchFactor(1, 1);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 0, 0, 0);
    all->addWidget(said_);
    all->addWidget(across, 1);
}

void NoisePage::open(const BodyRun& run) {
    run_ = run;
    report_.reset();
    problem_.clear();
    if (!run.result.empty())
        parts_.attempt([&] { report_ = noise_report(run.result, "The result of run " + std::to_string(run.id)); });
    read_shots();
    show_result();
    if (!run.frames.empty()) frames_->choose(0);
}

void NoisePage::begin() {
    BodyRun run;
    run.name = "Noise of a body";
    open(run);
}

void NoisePage::close() {
    run_.reset();
    report_.reset();
    ++shots_ticket_;
    shots_.clear();
}

/// Off the window's thread: frames may lie on a slow share.
void NoisePage::read_shots() {
    shots_.clear();
    std::vector<fs::path> paths;
    for (const BodyRunFrame& f : run_->frames) paths.push_back(f.path);
    const auto found = std::make_shared<std::vector<BodyRunShot>>();
    const int ticket = ++shots_ticket_;
    parts_.jobs().run_quietly([=] { *found = body_run_shots(paths); },
                              [=, here = QPointer<NoisePage>(this)] {
                                  if (!here || here->shots_ticket_ != ticket) return;
                                  here->shots_ = *found;
                                  here->show_frames();
                              });
}

void NoisePage::show_frames() {
    std::vector<Row> rows;
    for (std::size_t i = 0; run_ && i < run_->frames.size(); ++i) {
        const BodyRunFrame& f = run_->frames[i];
        const BodyRunShot shot = i < shots_.size() ? shots_[i] : BodyRunShot();
        Cell state;
        if (!shot.problem.empty())
            state = Cell("unreadable", Cell::Tone::serious, q(shot.problem));
        else if (f.dropped)
            state = Cell("dropped", Cell::Tone::faint);
        else if (report_)
            state = report_->frames.count(f.path.filename().string()) > 0
                        ? Cell("✓ used", Cell::Tone::mark)
                        : Cell("not used", Cell::Tone::warning, "The findings say why.");
        rows.push_back({q(f.path.filename().string()), shot.iso > 0 ? figure_cell(shot.iso) : Cell(),
                        Cell(q(exposure_text(shot.exposure_s)), shot.exposure_s), state});
    }
    frames_->set_rows(std::move(rows));
}

void NoisePage::show_result() {
    std::vector<Row> rows;
    if (!problem_.isEmpty()) rows.push_back({Cell("✕ " + problem_, Cell::Tone::serious)});
    QStringList steps;
    figures_->show_records(report_ ? report_->isos : std::vector<ReportedIso>());
    if (report_) {
        for (const ReportedFinding& f : report_->findings)
            rows.push_back({Cell(QString("%1 %2 %3").arg(f.serious ? "!" : "–", q(f.text), q(f.remedy)),
                                 f.serious ? Cell::Tone::serious : Cell::Tone::plain)});
        if (report_->findings.empty())
            rows.push_back({Cell("✓ Nothing to object to: pairs, levels, dark frames and light are as they should be.",
                                 Cell::Tone::mark)});
        plan_->show_plan(noise_shots(*report_));
        if (!plan_->next().isEmpty()) steps << "Next: " + plan_->next() + ".";
        for (const NoisePlanStep& s : noise_plan(*report_))
            steps << QString("ISO %1: %2. Then %3.").arg(s.iso).arg(q(s.take), q(s.gain));
        if (steps.isEmpty()) steps << "Nothing: every figure is known well enough.";
    } else {
        plan_->clear("The plan is drawn once the frames are measured.");
    }
    findings_->set_rows(std::move(rows));
    steps_->setText(steps.join("\n"));
    show_frames();
    refresh();
}

void NoisePage::refresh() {
    const bool any = run_ && !run_->frames.empty();
    const int row = frames_->chosen();
    const bool chosen = any && row >= 0 && row < static_cast<int>(run_->frames.size());
    add_->setEnabled(run_.has_value());
    measure_->setEnabled(any && !running_.running());
    drop_->setEnabled(chosen && !running_.running());
    drop_->setText(chosen && run_->frames[static_cast<std::size_t>(row)].dropped ? "Restore &frame" : "&Drop frame");
    publish_->setEnabled(report_ && !running_.running());
    if (running_.running()) {
        said_->setText("Measuring; the line at the bottom of the window tells how far it is.");
    } else if (report_) {
        QString said = QString("%1 %2: %3 of %4 frames are used.")
                           .arg(q(report_->camera), q(report_->serial))
                           .arg(report_->frames.size())
                           .arg(run_->frames.size());
        if (report_->digital_above_iso > 0)
            said +=
                QString(" Above ISO %1 its read noise gets no lower, in electrons.").arg(report_->digital_above_iso);
        said_->setText(said);
    } else {
        said_->setText(any ? "Not measured yet. Measure noise sorts the frames and measures each ISO." : how_to);
    }
}

void NoisePage::save() {
    if (run_->id != 0) {
        parts_.runs().save(*run_);
        return;
    }
    if (parts_.attempt([this] { parts_.runs().keep(*run_); })) emit added();
}

void NoisePage::ask_for_frames() {
    std::vector<fs::path> frames;
    for (const QString& path : QFileDialog::getOpenFileNames(this, "Flat fields and dark frames"))
        frames.emplace_back(path.toStdString());
    add_frames(frames);
}

void NoisePage::add_frames(const std::vector<fs::path>& frames) {
    if (!run_) return;
    bool any = false;
    for (const fs::path& path : frames) {
        const bool known = std::any_of(run_->frames.begin(), run_->frames.end(),
                                       [&](const BodyRunFrame& f) { return f.path == path; });
        if (known) continue;
        run_->frames.push_back({path, false});
        any = true;
    }
    if (!any) return;
    save();
    read_shots();
    show_result();
    measure();
}

void NoisePage::set_dropped(int row, bool dropped) {
    if (!run_) return;
    const fs::path path = run_->frames[static_cast<std::size_t>(row)].path;
    parts_.undo().push(new EditEntry<bool>(dropped ? "drop frame" : "restore frame", !dropped, dropped,
                                           [here = QPointer<NoisePage>(this), run = run_->id, path](const bool& now) {
                                               if (!here || !here->run_ || here->run_->id != run)
                                                   return;  // another run was opened since
                                               for (BodyRunFrame& f : here->run_->frames)
                                                   if (f.path == path) f.dropped = now;
                                               here->save();
                                               here->show_frames();
                                               here->measure();
                                           }));
}

void NoisePage::measure() {
    if (!run_ || running_.running() || run_->used().empty()) return;
    problem_.clear();
    const auto document = std::make_shared<std::string>();
    running_.start(
        parts_.jobs(), "Measuring noise",
        [frames = run_->used(), document, author = current_author()](Progress& progress) {
            *document = noise_to_json(measure_noise(frames, {}, progress), author, utc_now());
        },
        [this, document, of = *run_](const std::string& problem) { result_came(of, *document, problem); });
    refresh();
}

void NoisePage::result_came(BodyRun of, const std::string& document, const std::string& problem) {
    if (!run_ || run_->id != of.id) {
        // Another run was opened meanwhile; the result belongs to the one that was measured.
        of.result = document;
        if (problem.empty()) parts_.runs().save(of);
        return refresh();
    }
    // Frames came or were dropped meanwhile.
    if (run_->used() != of.used()) return measure();
    problem_ = q(problem);
    report_.reset();
    run_->result = problem.empty() ? document : std::string();
    if (problem.empty()) parts_.attempt([&] { report_ = noise_report(document, "The measurement"); });
    if (report_ && run_->folder.empty())
        run_->name = "Noise of " + report_->camera + (report_->serial.empty() ? "" : " " + report_->serial);
    save();
    show_result();
}

void NoisePage::publish() {
    if (!report_ || !run_) return;
    const std::string document = run_->result;
    parts_.attempt([&] {
        const Measurement proposed = noise_kind().read(document, "The measurement");
        PublishQuestion question{.what = "noise measurement",
                                 .name = q(proposed.name),
                                 .findings = proposed.findings,
                                 .settings = "ISO settings"};
        for (const Measurement& m : parts_.profiles().versions(noise_kind())) {
            if (!m.state.is_current() || m.subject_key != proposed.subject_key) continue;
            question.before = m.version;
            for (const ReportedIso& before : noise_report(m.document, m.name).isos) {
                const bool there = std::any_of(report_->isos.begin(), report_->isos.end(),
                                               [&](const ReportedIso& own) { return own.iso == before.iso; });
                if (!there) question.missing << QString("ISO %1").arg(before.iso);
            }
        }
        auto* dialog = new PublishDialog(parts_.jobs(), parts_.profiles().source(), question, this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        connect(dialog, &QDialog::accepted, this, [this, dialog, document] {
            parts_.attempt([&] {
                const std::string accepted =
                    with_accepted(document, dialog->acceptances(), current_author(), utc_now());
                const Measurement m = parts_.profiles().publish(noise_kind(), accepted, dialog->others());
                parts_.tell(QString("%1 is published as version %2; it stands in Fleet, under Noise.")
                                .arg(q(m.name))
                                .arg(m.version));
            });
        });
        dialog->open();
    });
}

}  // namespace optrel
