// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/work_dialog.h"

#include <QFileDialog>
#include <QInputDialog>
#include <QMenu>
#include <QPointer>
#include <QSplitter>

#include "base/choose.h"
#include "studio/queue/queue_jobs.h"
#include "widgets/place.h"

namespace optrel {

namespace {

/// Names of the job kinds for display.
QString words_of(const std::string& kind) {
    static const std::map<std::string, const char*> words{{"index", "reading metadata"}, {"measure", "measuring runs"},
                                                          {"rehearse", "rehearsals"},    {"rollout", "rollouts"},
                                                          {"check", "checks"},           {"export", "exports"}};
    const auto it = words.find(kind);
    return it == words.end() ? q(kind) : QString(it->second);
}

Cell state_cell(const QueuedJob& j) {
    if (j.cancelled) return {"cancelled", Cell::Tone::faint};
    if (j.failed > 0) return {QString("! %1 failed").arg(j.failed), Cell::Tone::warning};
    if (j.ended()) return {QString::fromUtf8("✓ done")};
    if (j.at_work > 0) return {QString("%1 at work").arg(j.at_work)};
    return {"waits", Cell::Tone::faint};
}

Cell progress_cell(const QueuedJob& j) {
    return {QString("%1 of %2").arg(j.done + j.failed).arg(j.portions), static_cast<double>(j.done)};
}

}  // namespace

WorkDialog::WorkDialog(const Parts& parts, QWidget* parent) : QDialog(parent), parts_(parts) {
    setWindowTitle("Shared work");
    setAttribute(Qt::WA_DeleteOnClose);
    auto* layout = new QVBoxLayout(this);
    auto* about = new QLabel(
        "Long work in portions. Any station that helps takes the next one; a station that dies loses nothing, and no "
        "portion is done twice.");
    about->setObjectName("faint");
    about->setWordWrap(true);
    layout->addWidget(about);
    auto* down = new QSplitter(Qt::Vertical);
    down->addWidget(build_jobs());
    down->addWidget(build_result());
    down->setSizes({260, 170});
    layout->addWidget(down, 1);
    layout->addWidget(build_help());
    said_ = new QLabel;
    said_->setAccessibleDescription("What was done");
    said_->setTextFormat(Qt::PlainText);
    said_->setWordWrap(true);
    layout->addWidget(said_);
    // The dialog hides the main window's message.
    connect(&parts_.messages(), &Messages::told, said_,
            [this](const QString& message, bool) { said_->setText(message); });
    connect(&parts_.work(), &WorkService::changed, this, &WorkDialog::refresh);
    connect(&parts_.work(), &WorkService::helped, this, &WorkDialog::refresh_help);
    refresh();
    refresh_help();
    resize(900, 620);
}

QWidget* WorkDialog::build_jobs() {
    auto* side = new QWidget;
    auto* layout = stacked_in(side);
    jobs_ = new TableOf<QueuedJob>(
        "Jobs", {{figure_column("Job", 44), [](const QueuedJob& j) { return figure_cell(j.id); }},
                 {text_column("Kind", 120), [](const QueuedJob& j) { return Cell(words_of(j.kind)); }},
                 {text_column("What"),
                  [](const QueuedJob& j) {
                      return Cell(q(j.title), Cell::Tone::plain, q(j.title) + "\n" + full_local_time(j.time));
                  }},
                 {text_column("By", 130), [](const QueuedJob& j) { return Cell(q(j.author + " at " + j.station)); }},
                 {figure_column("Portions", 96), progress_cell},
                 {text_column("State", 92), state_cell}});
    auto* put = button("&Put in", "Puts work into the queue");
    auto* menu = new QMenu(put);
    menu->addAction("&Read metadata of a folder…", this, &WorkDialog::put_in_index);
    menu->addAction("&Measure a run…", this, &WorkDialog::put_in_measure);
    menu->addAction("Re&hearse all frames", this, &WorkDialog::put_in_rehearsal);
    menu->addAction("&Write an open rollout…", this, &WorkDialog::put_in_rollout);
    menu->addAction("&Check all sidecars", this,
                    [this] { put_in("Check", [](Store& store, Progress&) { return queue_check(store); }); });
    put->setMenu(menu);
    cancel_ = button("&Cancel job", "What is done of it stays; what is under way is not kept");
    settle_ = button("S&ettle in Rollout", "Shows what the chosen check found where it can be settled");
    connect(cancel_, &QPushButton::clicked, this, &WorkDialog::cancel_chosen);
    connect(settle_, &QPushButton::clicked, this, &WorkDialog::settle_chosen);
    connect(jobs_, &Table::chosen_changed, this, &WorkDialog::show_result);
    // Enter in a line accepts its text and does not press a button.
    for (QPushButton* b : {put, cancel_, settle_}) b->setAutoDefault(false);
    auto* hint = new QLabel("Exports are put in from Exports, with “by any station”.");
    hint->setObjectName("faint");
    auto* row = row_of({put, cancel_, settle_});
    row->addStretch(1);
    row->addWidget(hint);
    layout->addWidget(jobs_, 1);
    layout->addLayout(row);
    return side;
}

QWidget* WorkDialog::build_result() {
    auto* side = new QWidget;
    auto* layout = stacked_in(side);
    result_of_ = heading("What came of it");
    result_ = new QListWidget;
    result_->setAccessibleName("What came of the job");
    result_->setWordWrap(true);
    layout->addWidget(result_of_);
    layout->addWidget(result_, 1);
    return side;
}

QWidget* WorkDialog::build_help() {
    auto* side = new QWidget;
    auto* layout = stacked_in(side, 4);
    help_ = new QCheckBox("This station &helps while the window is open");
    help_->setAccessibleName("This station helps");
    cores_ = new QSpinBox;
    cores_->setRange(1, 256);
    cores_->setAccessibleName("Cores that help");
    hours_ = new QLineEdit;
    hours_->setAccessibleName("Hours of help");
    hours_->setPlaceholderText("all day, or 20:00-07:00");
    hours_->setFixedWidth(150);
    helped_ = new QLabel;
    helped_->setObjectName("faint");
    auto* first = new QHBoxLayout;
    first->addWidget(help_);
    first->addWidget(new QLabel("with"));
    first->addWidget(cores_);
    first->addWidget(new QLabel("cores, hours"));
    first->addWidget(hours_);
    first->addStretch(1);
    first->addWidget(helped_);
    auto* second = new QHBoxLayout;
    second->addWidget(new QLabel("Takes"));
    for (const std::string& kind : work_kinds()) {
        auto* box = new QCheckBox(words_of(kind));
        box->setAccessibleName("Help with " + q(kind));
        connect(box, &QCheckBox::toggled, this, &WorkDialog::take_help);
        kinds_.push_back(box);
        second->addWidget(box);
    }
    second->addStretch(1);
    connect(help_, &QCheckBox::toggled, this, &WorkDialog::take_help);
    connect(cores_, &QSpinBox::valueChanged, this, &WorkDialog::take_help);
    connect(hours_, &QLineEdit::editingFinished, this, &WorkDialog::take_help);
    layout->addWidget(heading("Help"));
    layout->addLayout(first);
    layout->addLayout(second);
    return side;
}

const QueuedJob* WorkDialog::chosen() const {
    const int row = jobs_->chosen();
    const auto& all = parts_.work().all();
    return row >= 0 && row < static_cast<int>(all.size()) ? &all[static_cast<std::size_t>(row)] : nullptr;
}

void WorkDialog::put_in(const QString& what, const WorkService::Add& add) {
    newest_ = parts_.work().all().empty() ? 0 : parts_.work().all().front().id;
    parts_.work().add(what, add);
}

void WorkDialog::refresh() {
    const std::vector<QueuedJob>& all = parts_.work().all();
    const int before = shown_;
    jobs_->show_records(all);
    int row = 0;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (all[i].id == before) row = static_cast<int>(i);
    // Selects the new job.
    if (newest_ && !all.empty() && all.front().id > *newest_) {
        newest_.reset();
        row = 0;
    }
    if (!all.empty()) jobs_->choose(row);
    // Messages about finished work are removed.
    if (parts_.work().open() == 0) said_->clear();
    show_result();
}

void WorkDialog::show_result() {
    const QueuedJob* job = chosen();
    cancel_->setEnabled(job && !job->ended());
    settle_->setEnabled(job && job->ended() && job->kind == "check" && job->done > 0);
    const auto tell = [this](const QString& heading, const QStringList& lines) {
        result_of_->setText(heading);
        result_->clear();
        result_->addItems(lines);
    };
    if (!job) {
        shown_ = 0;
        return tell("What came of it",
                    {"Nothing was put in yet. “Put in” does it; stations that help, and programs started as "
                     "optrel-cli work, do it."});
    }
    shown_ = job->id;
    result_of_->setText(QString("What came of job %1").arg(job->id));
    parts_.work().look_at(job->id, [self = QPointer(this), id = job->id, tell](const std::vector<std::string>& lines) {
        if (!self || self->shown_ != id) return;
        QStringList texts;
        for (const std::string& line : lines) texts << q(line);
        if (texts.isEmpty()) texts << "Nothing yet.";
        tell(QString("What came of job %1").arg(id), texts);
    });
}

void WorkDialog::cancel_chosen() {
    if (const QueuedJob* job = chosen()) parts_.attempt([&, id = job->id] { parts_.work().cancel(id); });
}

void WorkDialog::settle_chosen() {
    const QueuedJob* job = chosen();
    if (!job) return;
    parts_.work().take_drift(job->id);
    emit parts_.messages().go_to(static_cast<int>(theme::Place::rollout), "check");
    close();
}

void WorkDialog::refresh_help() {
    const StationHelp& help = parts_.work().help();
    refreshing_ = true;
    help_->setChecked(help.on);
    cores_->setValue(help.cores);
    if (!hours_->hasFocus()) hours_->setText(q(to_string(help.hours)));
    for (std::size_t i = 0; i < kinds_.size(); ++i)
        kinds_[i]->setChecked(std::find(help.kinds.begin(), help.kinds.end(), work_kinds()[i]) != help.kinds.end());
    refreshing_ = false;
    const int n = parts_.work().portions_done();
    helped_->setText(n == 0 ? QString() : QString("%1 %2 done here").arg(n).arg(n == 1 ? "portion" : "portions"));
}

void WorkDialog::take_help() {
    if (refreshing_) return;
    parts_.attempt([this] {
        StationHelp help;
        help.on = help_->isChecked();
        help.cores = cores_->value();
        help.hours = day_hours_from(hours_->text().trimmed().toStdString());
        for (std::size_t i = 0; i < kinds_.size(); ++i)
            if (kinds_[i]->isChecked()) help.kinds.push_back(work_kinds()[i]);
        parts_.work().set_help(help);
    });
}

void WorkDialog::put_in_index() {
    const QString folder = QFileDialog::getExistingDirectory(this, "Folder with frames");
    if (folder.isEmpty()) return;
    put_in("Reading metadata of " + folder, [path = folder.toStdString()](Store& store, Progress&) {
        std::vector<std::string> problems;
        const int job = queue_index(store, {path}, false, problems);
        if (job == 0 && !problems.empty()) throw file_error(problems.front());
        return job;
    });
}

namespace {

/// The number before a label that the user selected; nothing when nothing is selected.
std::optional<int> chosen_number(QWidget* parent, const QString& title, const QStringList& lines) {
    bool taken = false;
    const QString line = QInputDialog::getItem(parent, title, title, lines, 0, false, &taken);
    if (!taken) return std::nullopt;
    return line.section(':', 0, 0).section(' ', -1).toInt();
}

}  // namespace

void WorkDialog::put_in_measure() {
    QStringList lines;
    parts_.attempt([&] {
        for (const RunRecord& r : parts_.work().runs()) lines << QString("Run %1: %2").arg(r.id).arg(q(r.name));
    });
    if (lines.isEmpty()) return parts_.tell("There is no run; make one in Bench first.", true);
    const auto run = chosen_number(this, "Measure which run", lines);
    if (run) put_in("Measuring", [id = *run](Store& store, Progress&) { return queue_measure(store, id); });
}

void WorkDialog::put_in_rehearsal() {
    put_in("Rehearsal", [frames = parts_.frames().shared()](Store& store, Progress&) {
        return queue_rehearse(store, *frames, false, "");
    });
}

void WorkDialog::put_in_rollout() {
    QStringList lines;
    parts_.attempt([&] {
        for (const RolloutRecord& r : parts_.work().open_rollouts())
            lines << QString("Rollout %1: revision %2 over %3 frames, by %4")
                         .arg(r.number)
                         .arg(r.revision)
                         .arg(r.frames)
                         .arg(q(r.author));
    });
    if (lines.isEmpty()) return parts_.tell("No rollout is open; one that stopped can be put in.", true);
    const auto number = chosen_number(this, "Write which rollout to its end", lines);
    if (number) put_in("Rollout", [id = *number](Store& store, Progress&) { return queue_rollout(store, id); });
}

}  // namespace optrel
