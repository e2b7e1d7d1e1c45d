// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/rollout_place.h"

#include <QMessageBox>
#include <QSplitter>
#include <set>
#include <utility>

#include "base/choose.h"
#include "jobs.h"
#include "rollout/rollout_cells.h"
#include "studio/rollout/rolling.h"

namespace optrel {

RolloutPlace::RolloutPlace(const Parts& parts) : PlaceWidget(theme::Place::rollout), parts_(parts) {
    build();
    connect(&parts_.frames(), &FrameModel::knowledge_changed, this, &RolloutPlace::refresh);
    const auto all = [this] {
        refresh();
        refresh_rehearsal();
    };
    connect(&parts_.baselines(), &BaselineModel::changed, this, all);
    // Queued, because with very many frames each listener takes noticeable time.
    connect(&parts_.sheets(), &SheetModel::changed, this, all, Qt::QueuedConnection);
    connect(&parts_.entries(), &RegisterModel::changed, this, all);
    connect(&parts_.frames(), &FrameModel::changed, this, &RolloutPlace::refresh_rehearsal);
    due_.setInterval(30000);
    connect(&due_, &QTimer::timeout, this, &RolloutPlace::go_on_with_due);
    due_.start();
    refresh();
    refresh_rehearsal();
}

void RolloutPlace::build() {
    body_->addLayout(build_bar());
    summary_ = new QLabel;
    summary_->setWordWrap(true);
    body_->addWidget(summary_);
    build_tables();
    auto* top = new QSplitter(Qt::Horizontal);
    top->addWidget(panel("Outcome", outcomes_));
    top->addWidget(panel("By body", bodies_));
    top->addWidget(panel("By field", fields_));
    top->setSizes({260, 380, 520});
    auto* bottom = new QSplitter(Qt::Horizontal);
    auto* frames = new TableOrPictures(*frames_,
                                       pictures_of(*frames_, 2,
                                                   [this](int row) {
                                                       return row < static_cast<int>(shown_.size())
                                                                  ? shown_[static_cast<std::size_t>(row)]
                                                                  : std::filesystem::path();
                                                   }),
                                       "rollout");
    bottom->addWidget(frames->under("Frames: double-click to inspect one"));
    history_ = new HistoryPanel(parts_);
    connect(history_, &HistoryPanel::difference_asked, this, &RolloutPlace::show_difference);
    connect(history_, &HistoryPanel::resume_asked, this, &RolloutPlace::resume);
    connect(history_, &HistoryPanel::back_asked, this, &RolloutPlace::roll_back);
    connect(history_, &HistoryPanel::part_asked, this, &RolloutPlace::roll_back_part);
    connect(history_, &HistoryPanel::again_asked, this, &RolloutPlace::roll_again);
    bottom->addWidget(history_);
    bottom->setSizes({640, 520});
    auto* down = new QSplitter(Qt::Vertical);
    samples_ = new SamplesPanel(parts_);
    below_ = new QTabWidget;
    below_->setAccessibleName("Below");
    below_->addTab(bottom, "Frames and history");
    below_->addTab(samples_, "Samples before and after");
    below_->addTab(new CheckPanel(parts_), "Check of sidecars");
    down->addWidget(top);
    down->addWidget(below_);
    down->setSizes({230, 320});
    body_->addWidget(down, 1);
}

QLayout* RolloutPlace::build_bar() {
    scope_ = new QComboBox;
    scope_->setAccessibleName("Scope");
    scope_->setMinimumWidth(200);
    scope_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    auto* ask = button("&Scope…",
                       "Chooses frames by folder, job, body, lens, ISO, day and state, and keeps the choice by a name");
    connect(ask, &QPushButton::clicked, this, &RolloutPlace::ask_scope);
    hours_ = new QLineEdit;
    hours_->setAccessibleName("Hours");
    hours_->setPlaceholderText("at once");
    hours_->setToolTip("Hours in which the rollout may write, as 20:00-07:00; outside them it waits");
    hours_->setFixedWidth(96);
    one_core_ = new QCheckBox("one core");
    one_core_->setToolTip("Rehearses on one core and leaves the others to whoever works; writing always yields");
    one_core_->setAccessibleName("One core");
    pause_ = button("&Pause", "Stops the writing behind the sidecar that it is at; Go on continues it");
    pause_->setEnabled(false);
    connect(pause_, &QPushButton::clicked, this, [this] { parts_.rollouts().pause(); });
    connect(&parts_.jobs(), &Jobs::idle, this, [this] {
        if (!std::exchange(writing_, false)) return;
        refresh();
        refresh_rehearsal();
    });
    renew_ = new QCheckBox("Renew beneath hand-set fields");
    renew_->setToolTip("Hand-set fields stay as they are in any case");
    rehearse_ = button("&Rehearse", "Works out what the current revision would change; nothing is written", true);
    apply_ = button("Roll &out", "Writes what was rehearsed: one sidecar beside each frame");
    connect(rehearse_, &QPushButton::clicked, this, &RolloutPlace::rehearse_now);
    connect(apply_, &QPushButton::clicked, this, &RolloutPlace::roll_out_now);
    auto* bar = new QHBoxLayout;
    bar->addWidget(new QLabel("Frames"));
    bar->addWidget(scope_, 1);
    bar->addWidget(ask);
    bar->addWidget(renew_);
    bar->addWidget(one_core_);
    bar->addWidget(rehearse_);
    bar->addSpacing(10);
    bar->addWidget(new QLabel("Write"));
    bar->addWidget(hours_);
    bar->addWidget(apply_);
    bar->addWidget(pause_);
    return bar;
}

void RolloutPlace::build_tables() {
    const auto what = [](const Count& c) { return Cell(c.what, c.tone); };
    const auto frames = [](const Count& c) { return figure_cell(c.frames); };
    outcomes_ = new TableOf<Count>("Outcomes", {{text_column("Outcome"), what}, {figure_column("Frames", 64), frames}});
    bodies_ =
        new TableOf<Count>("By body", {{text_column("Body"), what},
                                       {figure_column("Written", 64), frames},
                                       {figure_column("Of", 50), [](const Count& c) { return figure_cell(c.of); }}});
    fields_ =
        new TableOf<Count>("By field", {{text_column("Field"), what},
                                        {text_column("Old → new", 190), [](const Count& c) { return Cell(c.more); }},
                                        {figure_column("Frames", 60), frames}});
    frames_ = new TableOf<RehearsedFrame>(
        "Frames of the rehearsal",
        {{text_column("Frame", 120),
          [](const RehearsedFrame& f) {
              return Cell(q(f.path.filename().string()), Cell::Tone::plain, q(f.path.string()));
          }},
         {text_column("Body"), [](const RehearsedFrame& f) { return Cell(q(f.body_label)); }},
         {text_column("Outcome", 130), outcome_cell},
         {text_column("Changes"), changes_cell}});
    connect(frames_, &QAbstractItemView::doubleClicked, this, [this] {
        if (const int row = frames_->chosen(); row >= 0 && row < static_cast<int>(shown_.size()))
            emit parts_.messages().inspect_frame(q(shown_[row].string()));
    });
}

const RolloutRecord* RolloutPlace::at(int row) const { return history_->at(row); }

void RolloutPlace::resume(int row) {
    if (const RolloutRecord* r = at(row)) go_on_with(r->number, false);
}

void RolloutPlace::go_on_with(int number, bool leave_gone) {
    begin_writing();
    parts_.rollouts().go_on(number, true, leave_gone, [this, number](const RolloutReport& done) {
        report("Gone on with", done);
        const int gone = done.count(UnwrittenReason::folder_gone);
        const bool only_gone = gone > 0 && gone == static_cast<int>(done.failed().size());
        if (only_gone && end_without(done)) go_on_with(number, true);
    });
}

/// Asks whether folders are permanently missing.
bool RolloutPlace::end_without(const RolloutReport& r) {
    QMessageBox ask(QMessageBox::Question, "Optrel",
                    QString("%1 frames lie in folders that are gone or empty; the first: %2\n\nIf their share is only "
                            "away, leave the rollout open and go on when it is back.")
                        .arg(r.count(UnwrittenReason::folder_gone))
                        .arg(q(r.failed().front().sentence())),
                    QMessageBox::NoButton, this);
    QPushButton* end = ask.addButton("&End without them", QMessageBox::DestructiveRole);
    ask.setDefaultButton(ask.addButton("&Leave it open", QMessageBox::RejectRole));
    ask.exec();
    return ask.clickedButton() == end;
}

void RolloutPlace::go_on_with_due() {
    if (parts_.jobs().busy()) return;
    std::vector<RolloutRecord> due;
    parts_.attempt([&] { due = parts_.rollouts().due(); });
    // A rollout that cannot be completed automatically needs a person.
    std::erase_if(due, [this](const RolloutRecord& r) { return tried_.count(r.number) > 0; });
    if (due.empty()) return;
    begin_writing();
    parts_.rollouts().go_on(due.front().number, false, false, [this](const RolloutReport& done) {
        if (!done.failed().empty()) tried_.insert(done.record.number);
        report("Gone on with", done);
    });
}

const FrameScope& RolloutPlace::scope() const {
    return scopes_[static_cast<std::size_t>(std::max(0, scope_->currentIndex()))];
}

/// All frames, the current selection, saved selections, and folders.
void RolloutPlace::fill_scopes(const FrameScope& chosen) {
    const QSignalBlocker quiet(scope_);
    scope_->clear();
    scopes_.clear();
    const auto add = [this](const QString& text, const FrameScope& scope) {
        scope_->addItem(text);
        scope_->setItemData(scope_->count() - 1, q(in_words(scope)), Qt::ToolTipRole);
        scopes_.push_back(scope);
    };
    add(QString("all %1 frames").arg(parts_.frames().all().size()), {});
    std::map<std::string, FrameScope> kept;
    parts_.attempt([&] { kept = parts_.rollouts().selections(); });
    for (const auto& [name, scope] : kept) add("selection " + q(name), scope);
    for (const std::string& folder : parts_.frames().knowledge().folders) {
        FrameScope scope;
        scope.folders.emplace_back(folder);
        add(q(folder), scope);
    }
    auto now = std::find(scopes_.begin(), scopes_.end(), chosen);
    if (now == scopes_.end()) {
        add(q(in_words(chosen)), chosen);
        now = scopes_.end() - 1;
    }
    scope_->setCurrentIndex(static_cast<int>(now - scopes_.begin()));
}

ScopeDialog::Names RolloutPlace::names() const {
    ScopeDialog::Names out;
    for (const std::string& folder : parts_.frames().knowledge().folders) out.folders << q(folder);
    for (const Body& b : parts_.entries().fleet()->entries().bodies) out.bodies << q(b.label());
    for (const LensEntry& l : parts_.entries().fleet()->entries().lenses)
        out.lenses << q(l.name.empty() ? l.lens : l.name);
    out.bodies.removeDuplicates();
    out.lenses.removeDuplicates();
    return out;
}

/// Reports an empty scope at once; the rehearsal reports details such as states of sidecars.
void RolloutPlace::require_some(FrameScope scope) const {
    constexpr std::size_t at_once = 20000;
    if (parts_.frames().all().size() > at_once) return;
    scope.states.clear();
    frames_of(scope, parts_.frames().all(), *parts_.entries().fleet(), Progress());
}

void RolloutPlace::ask_scope() {
    ScopeDialog dialog(
        "Which frames", "&Take", scope(), names(), true,
        [this](const FrameScope& scope, const QString& name) {
            require_some(scope);
            if (!name.isEmpty()) parts_.rollouts().keep_selection(name.toStdString(), scope);
            fill_scopes(scope);
            return true;
        },
        this);
    dialog.exec();
}

void RolloutPlace::refresh() {
    fill_scopes(scopes_.empty() ? FrameScope() : scope());
    history_->refresh();
    rehearse_->setEnabled(parts_.baselines().current().number > 0 && !parts_.frames().all().empty());
}

void RolloutPlace::refresh_rehearsal() {
    if (parts_.frames().any() && parts_.baselines().current().number == 0)
        show_empty(FirstStep{
            "A rollout writes a published baseline beside the frames: rehearsed first, one small file for each frame, "
            "and all of it can be taken back.\n\n"
            "No revision is published yet. Pin fields in Baselines and publish them.",
            "Pin fields in &Baselines",
            [this] { emit parts_.messages().go_to(static_cast<int>(theme::Place::baselines)); }});
    else if (!parts_.frames().any())
        show_empty(
            add_frames(parts_.frames(),
                       "A rollout writes a published baseline beside the frames: rehearsed first, one small file for "
                       "each frame, and all of it can be taken back.\n\nNo frames are known yet."));
    else
        show_empty(std::nullopt);
    if (rehearsal_ && rehearsal_->revision != parts_.baselines().current().number) replace_rehearsal(nullptr);
    apply_->setEnabled(rehearsal_ && counts_.writes > 0 && !writing_);
    pause_->setEnabled(writing_);
    samples_->show_rehearsal(rehearsal_);
    if (!rehearsal_) {
        summary_->setText(first_of<QString>(
            {{parts_.baselines().current().number == 0,
              "No revision is published yet. Pin fields in Baselines and publish; then rehearse here what it would "
              "change."},
             {parts_.frames().all().empty(), "The frames are being read …"},
             {!last_done_.isEmpty(), last_done_}},
            QString("Revision %1 is current. Rehearse to see which frames it would change; nothing is written until "
                    "you roll out.")
                .arg(parts_.baselines().current().number)));
        for (Table* t : std::initializer_list<Table*>{outcomes_, bodies_, fields_, frames_}) t->set_rows({});
        return;
    }
    show_summary(*rehearsal_, counts_);
    show_outcomes(counts_);
    show_frames(*rehearsal_);
}

void RolloutPlace::show_summary(const Rehearsal& r, const RehearsalCounts& c) {
    summary_->setText(QString("Revision %1 over %2 frames: %3 sidecars would be written, %5 of them only with the new "
                              "revision's number. Frames set by hand or exempt stay as they are%4.")
                          .arg(r.revision)
                          .arg(r.frames.size())
                          .arg(c.writes)
                          .arg(r.renew_hand_set ? ", but the baseline beneath hand-set fields is renewed" : "")
                          .arg(c.only_number) +
                      (c.warning.empty() ? QString() : "\n! " + q(c.warning)));
}

void RolloutPlace::show_outcomes(const RehearsalCounts& r) {
    std::vector<Count> outcomes, bodies, fields;
    const auto& counts = r.by_outcome;
    for (int i = 0; i < outcome_count; ++i) {
        const auto outcome = static_cast<Outcome>(i);
        const auto it = counts.find(outcome);
        const int n = it == counts.end() ? 0 : it->second;
        const bool bad = n > 0 && (outcome == Outcome::unreadable || outcome == Outcome::body_unknown);
        const auto tone =
            first_of<Cell::Tone>({{bad, Cell::Tone::warning}, {n > 0, Cell::Tone::plain}}, Cell::Tone::faint);
        outcomes.push_back({(bad ? "! " : "") + q(to_string(outcome)), {}, n, 0, tone});
    }
    for (const auto& [body, n] : r.by_body) bodies.push_back({q(body), {}, n.first, n.second});
    for (const auto& [field, changes] : r.by_field)
        for (const auto& [change, n] : changes) fields.push_back({q(info(field).label), q(change), n});
    outcomes_->show_records(outcomes);
    bodies_->show_records(bodies);
    fields_->show_records(fields);
}

void RolloutPlace::show_frames(const Rehearsal& r) {
    constexpr std::size_t most = 5000;
    const auto end = r.frames.begin() + static_cast<std::ptrdiff_t>(std::min(most, r.frames.size()));
    // A copy, because the cells are created on demand and the rehearsal may be replaced.
    const auto first = std::make_shared<const std::vector<RehearsedFrame>>(r.frames.begin(), end);
    shown_.clear();
    for (const RehearsedFrame& f : *first) shown_.push_back(f.path);
    frames_->show_lazily(static_cast<int>(first->size()), [first](int row) {
        return row < static_cast<int>(first->size()) ? &(*first)[static_cast<std::size_t>(row)] : nullptr;
    });
}

void RolloutPlace::rehearse_now() {
    if (parts_.baselines().current().number == 0) return;
    const auto all = parts_.frames().shared();
    const FrameScope scope = this->scope();
    const auto fleet = parts_.entries().fleet();
    const Revision revision = parts_.baselines().current();
    const bool renew = renew_->isChecked(), alone = one_core_->isChecked();
    auto out = std::make_shared<Rehearsal>();
    auto counts = std::make_shared<RehearsalCounts>();
    const auto profiles = parts_.profiles().shared();
    last_done_.clear();
    parts_.jobs().run(
        "Rehearsing",
        [=](Progress& progress) {
            *out = rehearse_frames({all, scope, renew, alone, profiles}, *fleet, revision, progress);
            *counts = RehearsalCounts(*out);
        },
        [=, this] {
            replace_rehearsal(out);
            counts_ = *counts;
            rehearsed_scope_ = in_words(scope);
            refresh_rehearsal();
        });
}

void RolloutPlace::replace_rehearsal(std::shared_ptr<const Rehearsal> by) {
    parts_.jobs().give_back(std::exchange(rehearsal_, std::move(by)));
}

/// While a rollout is running, it can be paused.
void RolloutPlace::begin_writing() {
    writing_ = true;
    pause_->setEnabled(true);
    apply_->setEnabled(false);
}

void RolloutPlace::roll_out_now() {
    if (!rehearsal_) return;
    DayHours hours;
    if (!parts_.attempt([&] { hours = day_hours_from(hours_->text().toStdString()); })) return;
    begin_writing();
    parts_.rollouts().roll_out(rehearsal_, rehearsed_scope_, hours, told_as("Rolled out"));
}

void RolloutPlace::roll_back(int row) {
    if (const RolloutRecord* r = at(row)) parts_.rollouts().take_back(r->number, false, told_as("Rolled back"));
}

void RolloutPlace::roll_back_part(int row) {
    if (!at(row)) return;
    const int number = at(row)->number;
    ScopeDialog dialog(
        QString("Roll back a part of rollout %1").arg(number), "Roll &back", {}, names(), false,
        [this, number](const FrameScope& scope, const QString&) {
            require_some(scope);
            parts_.rollouts().take_back_part(number, scope, told_as("Rolled back in part"));
            return true;
        },
        this);
    dialog.exec();
}

void RolloutPlace::roll_again(int row) {
    if (const RolloutRecord* r = at(row)) parts_.rollouts().again(r->number, told_as("Rolled out again"));
}

void RolloutPlace::show_difference(int row) {
    if (!at(row)) return;
    const RolloutRecord r = *at(row);
    parts_.rollouts().difference(
        r.number, [this, r](const std::shared_ptr<const Rehearsal>& difference, const RehearsalCounts& counts) {
            replace_rehearsal(nullptr);
            last_done_.clear();
            refresh_rehearsal();
            summary_->setText(
                QString("What rollout %1 changed (%2, %3 frames, by %4%5, %6 local time). Rehearse to see what a new "
                        "one would change.")
                    .arg(r.number)
                    .arg(scope_of(r))
                    .arg(r.frames)
                    .arg(q(r.author), r.station.empty() ? QString() : " at " + q(r.station), local_time(r.time)));
            show_outcomes(counts);
            show_frames(*difference);
            samples_->show_rehearsal(difference);
        });
}

/// The previous rehearsal is out of date.
RolloutService::Done RolloutPlace::told_as(const QString& what) {
    return [this, what](const RolloutReport& done) {
        replace_rehearsal(nullptr);
        report(what, done);
    };
}

void RolloutPlace::report(const QString& what, const RolloutReport& r) {
    // A rollback restores some sidecars and deletes those that did not exist before.
    QString message =
        QString("%1: %2 sidecars %3.")
            .arg(what)
            .arg(r.written)
            .arg(r.record.takes_back || r.record.status == RolloutStatus::rolled_back ? "are what they were before"
                                                                                      : "written");
    const auto tell_of = [&](const std::vector<UnwrittenSidecar>& list, const char* what_of_them) {
        if (!list.empty())
            message += QString(" %1 %2; the first: %3").arg(list.size()).arg(what_of_them, q(list.front().sentence()));
    };
    const std::vector<UnwrittenSidecar> failed = r.failed(), kept = r.kept(), unreadable = r.unreadable();
    if (r.lost)
        message +=
            " This window was stopped for a while, and another station has these frames by now; it goes on with them.";
    if (r.paused)
        message += r.record.hours.hold_now() ? QString(" It is paused; Go on writes the rest.")
                                             : QString(" It waits for %1.").arg(q(to_string(r.record.hours)));
    tell_of(failed, "could not be written, and Go on tries them again");
    tell_of(kept, "are kept as they are");
    tell_of(unreadable, "cannot be read, so nothing was written for them");
    parts_.tell(message, !kept.empty() || !failed.empty() || !unreadable.empty());
    last_done_ = message + QString(" Rollout %1, revision %2; it stands in the history below and can be %3.")
                               .arg(r.record.number)
                               .arg(r.record.revision)
                               .arg(r.record.status == RolloutStatus::done ? "rolled back" : "gone on with");
    if (r.record.status == RolloutStatus::rolled_back)
        last_done_ = message + QString(" Rollout %1 is taken back; rehearse to roll out again.").arg(r.record.number);
    refresh_rehearsal();
    parts_.sheets().read_again();
}

void RolloutPlace::show_something() { rehearse_now(); }

void RolloutPlace::show_view(const QString& view) {
    const QStringList tabs{"frames", "samples", "check"};
    below_->setCurrentIndex(std::max(0, static_cast<int>(tabs.indexOf(view))));
}

}  // namespace optrel
