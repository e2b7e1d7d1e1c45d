// SPDX-License-Identifier: GPL-3.0-or-later
#include "intake/intake_place.h"

#include <QSplitter>

#include "base/choose.h"
#include "intake/folder_dialog.h"
#include "jobs.h"
#include "studio/fleet/claim.h"
#include "studio/rollout/rolling.h"

namespace optrel {

IntakePlace::IntakePlace(const Parts& parts) : PlaceWidget(theme::Place::intake), parts_(parts) {
    auto* top = new QSplitter(Qt::Horizontal);
    top->addWidget(build_folders());
    card_ = new CardPanel(parts_);
    ways_ = new QTabWidget;
    ways_->setAccessibleName("Ways in");
    ways_->addTab(card_, "Copy a card");
    ways_->addTab(new CameraPanel(parts_), "Camera on a cable");
    top->addWidget(ways_);
    top->setSizes({640, 520});
    auto* down = new QSplitter(Qt::Vertical);
    down->addWidget(top);
    down->addWidget(build_arrivals());
    down->setSizes({360, 300});
    body_->addWidget(down, 1);
    connect(&parts_.intake(), &IntakeService::changed, this, &IntakePlace::refresh_folders);
    connect(&parts_.intake(), &IntakeService::arrived, this, &IntakePlace::refresh_arrivals);
    refresh_folders();
    refresh_arrivals();
}

namespace {

QString what_it_does(const IntakeFolder& f) {
    if (f.only_index) return "frames wait for a person";
    QString text = "baseline";
    if (!f.set.empty()) text += " + set " + q(f.set);
    if (!f.set_until.empty()) text += " until " + local_time(f.set_until);
    if (f.raw_only) text += "; rendered pictures wait";
    if (f.unknown_waits) text += "; unknown bodies wait";
    return text;
}

Cell got_cell(const ArrivalRecord& a) {
    if (a.what == "failed") return {"✕ " + q(a.why), Cell::Tone::serious, q(a.why)};
    if (a.what == "known") return {"! waits: " + q(a.why), Cell::Tone::warning, q(a.why)};
    QString text = QString("✓ baseline %1").arg(a.revision);
    if (!a.set.empty()) text += ", set " + q(a.set);
    return text;
}

}  // namespace

void IntakePlace::show_something() {
    if (!parts_.cameras().seen().empty()) ways_->setCurrentIndex(1);
}

CardPanel& IntakePlace::card() {
    ways_->setCurrentWidget(card_);
    return *card_;
}

QWidget* IntakePlace::build_folders() {
    auto* side = new QWidget;
    auto* layout = stacked_in(side);
    layout->addWidget(heading("Watched folders"));
    folders_ = new TableOf<IntakeFolder>(
        "Watched folders",
        {{text_column("Folder", 200),
          [](const IntakeFolder& f) {
              // The end of a path is its most specific part.
              const auto end = f.folder.parent_path().filename() / f.folder.filename();
              return Cell(q(end.string()), Cell::Tone::plain, q(f.folder.string()));
          }},
         {text_column("A new frame gets"),
          [](const IntakeFolder& f) { return Cell(what_it_does(f), Cell::Tone::plain, what_it_does(f)); }},
         {text_column("At", 92),
          [](const IntakeFolder& f) {
              return f.hours.whole_day() ? Cell("any time", Cell::Tone::faint) : Cell(q(to_string(f.hours)));
          }},
         {text_column("Watched", 66),
          [](const IntakeFolder& f) { return f.on ? Cell("on") : Cell("off", Cell::Tone::warning); }}});
    auto* add = button("&Watch a folder…", "Says what becomes of frames that arrive in a folder", true);
    change_ = button("C&hange…", "Says anew what becomes of its frames");
    remove_ = button("Remove", "Stops watching the folder; its frames are not changed");
    watch_ = button("&Stop", "Stops and goes on; what arrives meanwhile is taken in then");
    connect(add, &QPushButton::clicked, this, [this] { add_folder({}); });
    connect(change_, &QPushButton::clicked, this, [this] { edit_folder(folders_->chosen()); });
    connect(remove_, &QPushButton::clicked, this, [this] { remove_folder(folders_->chosen()); });
    connect(watch_, &QPushButton::clicked, this,
            [this] { parts_.intake().watching() ? parts_.intake().stop() : parts_.intake().watch(); });
    connect(folders_, &QAbstractItemView::doubleClicked, this, [this] { edit_folder(folders_->chosen()); });
    connect(folders_, &Table::chosen_changed, this, &IntakePlace::refresh_buttons);
    layout->addWidget(folders_, 1);
    layout->addLayout(row_of({add, change_, remove_, watch_}));
    state_ = new QLabel;
    state_->setWordWrap(true);
    state_->setAccessibleDescription("State of the watching");
    layout->addWidget(state_);
    return side;
}

QWidget* IntakePlace::build_arrivals() {
    auto* side = new QWidget;
    auto* layout = stacked_in(side, 4);
    which_ = new QComboBox;
    which_->addItems({"all", "that wait", "that failed"});
    which_->setAccessibleName("Arrivals");
    summary_ = new QLabel;
    summary_->setAccessibleDescription("Arrivals in short");
    give_ = button("Give &baseline",
                   "Rolls the current baseline out over the chosen frames; it can be taken back in Rollout");
    inspect_ = button("&Inspect", "Shows the chosen frame");
    connect(which_, &QComboBox::currentIndexChanged, this, &IntakePlace::refresh_arrivals);
    connect(give_, &QPushButton::clicked, this, &IntakePlace::give_baseline);
    auto* bar = new QHBoxLayout;
    bar->addWidget(heading("What arrived"));
    bar->addWidget(which_);
    bar->addWidget(summary_);
    bar->addStretch();
    bar->addWidget(inspect_);
    bar->addWidget(give_);
    layout->addLayout(bar);
    arrivals_ = new TableOf<ArrivalRecord>(
        "Arrivals", {{text_column("When, local", 140), [](const ArrivalRecord& a) { return time_cell(a.time); }},
                     {text_column("Way", 56), [](const ArrivalRecord& a) { return Cell(q(a.way), Cell::Tone::faint); }},
                     {text_column("Frame", 150),
                      [](const ArrivalRecord& a) {
                          return Cell(q(a.frame.filename().string()), Cell::Tone::plain, q(a.frame.string()));
                      }},
                     {text_column("Body", 190), [](const ArrivalRecord& a) { return Cell(q(a.body)); }},
                     {text_column("Got"), got_cell},
                     {figure_column("Rollout", 60),
                      [](const ArrivalRecord& a) { return a.rollout == 0 ? Cell() : figure_cell(a.rollout); }}});
    arrivals_->allow_several();
    arrivals_->allow_sorting(false);
    const auto inspect = [this] {
        if (const int row = arrivals_->chosen(); row >= 0 && row < static_cast<int>(arrival_list_.size()))
            emit parts_.messages().inspect_frame(q(arrival_list_[row].frame.string()));
    };
    connect(inspect_, &QPushButton::clicked, this, inspect);
    connect(arrivals_, &QAbstractItemView::doubleClicked, this, inspect);
    connect(arrivals_, &Table::selection_changed, this, &IntakePlace::refresh_buttons);
    auto* list = new TableOrPictures(*arrivals_,
                                     pictures_of(*arrivals_, 4,
                                                 [this](int row) {
                                                     return row < static_cast<int>(arrival_list_.size())
                                                                ? arrival_list_[row].frame
                                                                : std::filesystem::path();
                                                 }),
                                     "arrivals");
    bar->insertWidget(bar->indexOf(inspect_), list->choice());
    layout->addWidget(list, 1);
    return side;
}

QStringList IntakePlace::sets() const {
    QStringList out;
    for (const PinSet& set : parts_.baselines().current().sets) out << q(set.name);
    return out;
}

void IntakePlace::ask(const IntakeFolder& folder) {
    FolderDialog dialog(
        folder, sets(), [this](const IntakeFolder& f) { return parts_.attempt([&] { parts_.intake().put(f); }); },
        this);
    dialog.exec();
}

void IntakePlace::add_folder(const QString& folder) {
    IntakeFolder f;
    f.folder = folder.toStdString();
    ask(f);
}

void IntakePlace::edit_folder(int row) {
    if (row >= 0 && row < static_cast<int>(folder_list_.size())) ask(folder_list_[row]);
}

void IntakePlace::remove_folder(int row) {
    if (row < 0 || row >= static_cast<int>(folder_list_.size())) return;
    parts_.attempt([&] { parts_.intake().remove(folder_list_[row].folder); });
}

void IntakePlace::refresh_folders() {
    parts_.attempt([this] { folder_list_ = parts_.intake().folders(); });
    folders_->show_records(folder_list_);
    state_->setText(
        folder_list_.empty()
            ? "Frames that are copied into a watched folder get their baseline by themselves, once, as soon "
              "as they are there completely."
            : parts_.intake().state());
    refresh_buttons();
}

void IntakePlace::refresh_arrivals() {
    constexpr int most = 2000;
    std::vector<ArrivalRecord> all;
    parts_.attempt([&] { all = parts_.intake().newest(most); });
    int waiting = 0, failed = 0;
    for (const ArrivalRecord& a : all) {
        waiting += a.what == "known";
        failed += a.what == "failed";
    }
    summary_->setText(all.empty() ? "Nothing yet."
                                  : QString("%1 frames, %2 wait, %3 failed.").arg(all.size()).arg(waiting).arg(failed));
    static constexpr const char* kinds[] = {"", "known", "failed"};
    const std::string kind = kinds[which_->currentIndex()];
    if (!kind.empty()) std::erase_if(all, [&](const ArrivalRecord& a) { return a.what != kind; });
    arrival_list_ = std::move(all);
    arrivals_->show_records(arrival_list_);
    refresh_buttons();
}

std::vector<std::filesystem::path> IntakePlace::chosen_waiting() const {
    std::vector<std::filesystem::path> out;
    for (const int row : arrivals_->chosen_rows())
        if (row < static_cast<int>(arrival_list_.size()) && arrival_list_[row].what == "known")
            out.push_back(arrival_list_[row].frame);
    return out;
}

void IntakePlace::refresh_buttons() {
    const bool folder = folders_->chosen() >= 0;
    change_->setEnabled(folder);
    remove_->setEnabled(folder);
    watch_->setText(parts_.intake().watching() ? "&Stop" : "&Go on");
    watch_->setAccessibleName(parts_.intake().watching() ? "Stop" : "Go on");
    watch_->setEnabled(!folder_list_.empty());
    inspect_->setEnabled(arrivals_->chosen() >= 0);
    give_->setEnabled(!chosen_waiting().empty() && parts_.baselines().current().number > 0);
}

void IntakePlace::give_baseline() {
    FrameScope scope;
    scope.frames = chosen_waiting();
    if (scope.frames.empty()) return;
    auto rehearsal = std::make_shared<Rehearsal>();
    parts_.jobs().run(
        "Rehearsing",
        [=, all = parts_.frames().shared(), fleet = parts_.entries().fleet(), revision = parts_.baselines().current(),
         profiles = parts_.profiles().shared()](Progress& progress) {
            *rehearsal = rehearse_frames({all, scope, false, false, profiles}, *fleet, revision, progress);
        },
        [=, this] {
            if (rehearsal->writes() == 0)
                return parts_.tell("None of these frames would change; what is set by hand or exempt stays.");
            parts_.rollouts().roll_out(rehearsal, in_words(scope), {}, [this](const RolloutReport& r) {
                parts_.tell(QString("Rollout %1: %2 sidecars written.").arg(r.record.number).arg(r.written),
                            !r.failed().empty());
                parts_.sheets().read_again();
            });
        });
}

}  // namespace optrel
