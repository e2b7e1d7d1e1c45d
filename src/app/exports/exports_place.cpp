// SPDX-License-Identifier: GPL-3.0-or-later
#include "exports/exports_place.h"

#include <QSplitter>
#include <QStandardPaths>

#include "base/files.h"
#include "exports/films_dialog.h"
#include "jobs.h"
#include "studio/queue/queue_jobs.h"

namespace optrel {

ExportsPlace::ExportsPlace(const Parts& parts) : PlaceWidget(theme::Place::exports), parts_(parts) {
    auto* top = new QSplitter(Qt::Horizontal);
    top->addWidget(build_frames());
    top->addWidget(build_deliveries());
    top->addWidget(build_preview());
    top->setSizes({360, 400, 420});
    auto* down = new QSplitter(Qt::Vertical);
    down->addWidget(top);
    down->addWidget(build_queue());
    down->setSizes({440, 220});
    body_->addWidget(down, 1);
    soon_.setSingleShot(true);
    soon_.setInterval(60);
    connect(&soon_, &QTimer::timeout, this, &ExportsPlace::refresh_preview);
    const auto later = [this] { soon_.start(); };
    connect(frames_, &FramesPanel::chosen_changed, this, [this] {
        refresh_buttons();
        soon_.start();
    });
    connect(form_, &DeliveryForm::edited, this, later);
    connect(&parts_.frames(), &FrameModel::changed, this, &ExportsPlace::refresh_state);
    connect(&parts_.frames(), &FrameModel::knowledge_changed, frames_, &FramesPanel::refresh);
    // Queued, because with very many frames each listener takes noticeable time.
    connect(&parts_.sheets(), &SheetModel::changed, frames_, &FramesPanel::refresh, Qt::QueuedConnection);
    connect(&parts_.sheets(), &SheetModel::changed, this, later);
    connect(&parts_.baselines(), &BaselineModel::changed, this, later);
    connect(&parts_.profiles(), &ProfileModel::changed, this, later);
    connect(&parts_.exports(), &ExportService::changed, this, &ExportsPlace::refresh_queue);
    connect(&parts_.exports(), &ExportService::deliveries_changed, this, [this] { refresh_deliveries(""); });
    refresh_deliveries("");
    refresh_queue();
    refresh_state();
}

QWidget* ExportsPlace::build_frames() {
    auto* side = new QWidget;
    auto* layout = stacked_in(side);
    frames_ = new FramesPanel(parts_, "exports");
    frames_->only_choose();
    layout->addWidget(frames_, 1);
    add_chosen_ = button("&Queue chosen",
                         "Queues the chosen frames with this delivery; several are chosen with Ctrl or Shift", true);
    add_listed_ = button("Queue all &listed", "Queues every frame that the words leave in the list");
    connect(add_chosen_, &QPushButton::clicked, this, [this] { add(chosen_paths()); });
    connect(add_listed_, &QPushButton::clicked, this, [this] { add(frames_->listed()); });
    add_films_ = button("Fil&ms…", "Corrects films: says their lens, and queues them");
    connect(add_films_, &QPushButton::clicked, this, &ExportsPlace::choose_films);
    layout->addLayout(row_of({add_chosen_, add_listed_, add_films_}));
    any_station_ = new QCheckBox("by an&y station of the studio that helps");
    any_station_->setAccessibleName("By any station");
    any_station_->setToolTip("Puts them into the shared work, in place of this station's own queue below");
    layout->addWidget(any_station_);
    return side;
}

QWidget* ExportsPlace::build_deliveries() {
    auto* side = new QWidget;
    auto* layout = stacked_in(side);
    deliveries_ = new TableOf<Delivery>(
        "Deliveries", {{text_column("Delivery", 110), [](const Delivery& r) { return Cell(q(r.name)); }},
                       {text_column("Writes"),
                        [](const Delivery& r) { return Cell(q(described(r)), Cell::Tone::plain, q(r.file_name)); }}});
    deliveries_->allow_sorting(false);
    deliveries_->setMaximumHeight(128);
    deliveries_->allow_several();
    deliveries_->setToolTip("With Ctrl or Shift several are chosen, and frames are queued by each of them");
    form_ = new DeliveryForm;
    save_ = button("&Save delivery", "Keeps it in the studio under its name");
    delete_ = button("Delete", "Deletes a delivery of the studio's own; a shipped one of that name comes back");
    connect(save_, &QPushButton::clicked, this, &ExportsPlace::save_delivery);
    connect(delete_, &QPushButton::clicked, this,
            [this] { parts_.attempt([this] { parts_.exports().remove(form_->delivery().name); }); });
    connect(deliveries_, &Table::chosen_changed, this, [this](int row) {
        if (row < 0 || row >= static_cast<int>(delivery_list_.size())) return;
        form_->show_delivery(delivery_list_[row]);
        soon_.start();
    });
    layout->addWidget(heading("Delivery"));
    layout->addWidget(deliveries_);
    layout->addSpacing(4);
    layout->addWidget(form_);
    layout->addLayout(row_of({save_, delete_}));
    layout->addStretch();
    return side;
}

QWidget* ExportsPlace::build_preview() {
    auto* side = new QWidget;
    auto* layout = stacked_in(side);
    folder_ = new QLineEdit(QStandardPaths::writableLocation(QStandardPaths::PicturesLocation) + "/exports");
    folder_->setAccessibleName("Folder of the export");
    auto* choose = button("&Folder…", "Chooses the folder that exports go to");
    connect(choose, &QPushButton::clicked, this, &ExportsPlace::choose_folder);
    connect(folder_, &QLineEdit::textEdited, this, [this] { soon_.start(); });
    auto* to = new QHBoxLayout;
    to->addWidget(folder_, 1);
    to->addWidget(choose);
    preview_ = new TableOf<PreviewLine>(
        "What is written",
        {{text_column("", 96), [](const PreviewLine& l) { return Cell(l.what, Cell::Tone::faint); }},
         {text_column("Of the chosen frame"), [](const PreviewLine& l) { return Cell(l.value, l.tone); }}});
    preview_->allow_sorting(false);
    preview_->wrap_rows();
    layout->addWidget(heading("To the folder"));
    layout->addLayout(to);
    layout->addWidget(heading("What it writes"));
    layout->addWidget(preview_, 1);
    return side;
}

namespace {

Cell state_cell(const QueuedExport& e) {
    if (e.state == ExportState::failed) return {"✕ failed", Cell::Tone::serious};
    if (e.state == ExportState::writing) return {"writing", Cell::Tone::faint};
    if (e.state == ExportState::waiting) return {"waits", Cell::Tone::faint};
    if (e.message.empty()) return {"✓ exported"};
    return {"! exported", Cell::Tone::warning};
}

Cell file_cell(const QueuedExport& e) {
    if (e.state == ExportState::failed) return {q(e.message), Cell::Tone::serious, q(e.message)};
    if (e.out.empty()) return {q(e.folder.string()), Cell::Tone::faint};
    return {q(e.out.string()), Cell::Tone::plain, e.message.empty() ? q(e.out.string()) : q(e.message)};
}

}  // namespace

QWidget* ExportsPlace::build_queue() {
    auto* side = new QWidget;
    auto* layout = stacked_in(side, 4);
    summary_ = new QLabel;
    summary_->setAccessibleDescription("Queue in short");
    run_ = button("&Go on", "Works on what waits; the queue outlives the program");
    again_ = button("&Try failed again", "Those that failed wait again");
    drop_ = button("Drop waiting", "Takes what waits out of the queue; nothing that was written is touched");
    clear_ = button("Clear exported", "Takes what was exported off the list; the files stay");
    connect(run_, &QPushButton::clicked, this, [this] {
        parts_.exports().running() ? parts_.exports().pause() : parts_.exports().go_on();
        refresh_queue();
    });
    connect(again_, &QPushButton::clicked, this, [this] { parts_.exports().try_again(); });
    connect(drop_, &QPushButton::clicked, this, [this] { parts_.exports().clear_waiting(); });
    connect(clear_, &QPushButton::clicked, this, [this] { parts_.exports().clear_done(); });
    queue_ = new TableOf<QueuedExport>(
        "Queue of exports", {{text_column("Frame", 120),
                              [](const QueuedExport& e) {
                                  return Cell(q(e.frame.filename().string()), Cell::Tone::plain, q(e.frame.string()));
                              }},
                             {text_column("Delivery", 110), [](const QueuedExport& e) { return Cell(q(e.delivery)); }},
                             {text_column("State", 96), state_cell},
                             {text_column("File, or what is in the way"), file_cell}});
    queue_->allow_sorting(false);
    queue_->allow_several();
    queue_->give_files([this](int row) {
        const auto& items = parts_.exports().queue();
        const bool done = row < static_cast<int>(items.size()) && items[row].state == ExportState::done;
        return done ? items[row].out : std::filesystem::path();
    });
    auto* bar = new QHBoxLayout;
    bar->addWidget(heading("Queue"));
    bar->addWidget(summary_);
    bar->addStretch();
    for (QPushButton* b : {run_, again_, drop_, clear_}) bar->addWidget(b);
    layout->addLayout(bar);
    layout->addWidget(queue_, 1);
    return side;
}

void ExportsPlace::refresh_state() {
    frames_->refresh();
    if (!parts_.frames().any())
        show_empty(add_frames(parts_.frames(),
                              "Frames are written out by deliveries: TIFF, JPEG, PNG, or raw copies that carry their "
                              "correction.\n\nNo frames are known yet."));
    else
        show_empty(std::nullopt);
    refresh_buttons();
    soon_.start();
}

void ExportsPlace::refresh_buttons() {
    add_chosen_->setEnabled(frames_->chosen() != nullptr);
    add_listed_->setEnabled(frames_->table().row_count() > 0);
}

void ExportsPlace::refresh_deliveries(const QString& chosen) {
    const QString keep = chosen.isEmpty() && deliveries_->chosen() >= 0 ? q(form_->delivery().name) : chosen;
    parts_.attempt([this] { delivery_list_ = parts_.exports().deliveries(); });
    int row = 0;
    for (std::size_t i = 0; i < delivery_list_.size(); ++i)
        if (q(delivery_list_[i].name).compare(keep, Qt::CaseInsensitive) == 0) row = static_cast<int>(i);
    deliveries_->show_records(delivery_list_);
    deliveries_->choose(row);
    if (!delivery_list_.empty()) form_->show_delivery(delivery_list_[row]);
    soon_.start();
}

std::vector<std::filesystem::path> ExportsPlace::chosen_paths() const {
    std::vector<std::filesystem::path> out;
    for (const FrameRecord* f : frames_->chosen_frames()) out.push_back(f->path);
    return out;
}

void ExportsPlace::showEvent(QShowEvent* event) {
    PlaceWidget::showEvent(event);
    soon_.start();
}

void ExportsPlace::refresh_preview() {
    if (!isVisible()) return;  // not visible; computed when the place is shown
    const FrameRecord* f = frames_->chosen();
    parts_.attempt([this] { delete_->setEnabled(parts_.exports().own(form_->delivery().name)); });
    if (!f) return show_preview(std::nullopt, "Choose a frame to see what the delivery writes of it.");
    latest_.start(
        parts_.jobs(),
        [path = f->path, delivery = form_->delivery(), folder = folder_->text().toStdString(),
         source = parts_.exports().source()](const Progress&) {
            const auto store = source.open_for_reading();
            return export_preview(path, development_from_store(*store, path), delivery, folder);
        },
        [this](const std::optional<ExportPreview>& preview, const QString& problem) {
            show_preview(preview, problem);
        });
}

void ExportsPlace::show_preview(const std::optional<ExportPreview>& p, const QString& problem) {
    std::vector<PreviewLine> lines;
    const auto line = [&](const char* what, const QString& value, Cell::Tone tone = Cell::Tone::plain) {
        lines.push_back({what, value, tone});
    };
    if (p) {
        if (p->name_problem.empty())
            line("File", q(p->out.lexically_relative(folder_->text().toStdString()).string()));
        else
            line("File", q(p->name_problem), Cell::Tone::warning);
        line("Size", QString("%1 × %2 px").arg(p->width).arg(p->height));
        line("Form", q(p->coding));
        line("Correction", p->corrected.empty() ? QString("none") : q(p->corrected));
        line("Goes along", q(p->along));
        if (!p->left_out.empty()) line("Stays behind", q(p->left_out));
        if (!p->warning.empty()) line("But", q(p->warning), Cell::Tone::warning);
    } else if (!problem.isEmpty()) {
        line("", problem, Cell::Tone::faint);
    }
    preview_->show_records(lines);
}

void ExportsPlace::refresh_queue() {
    const ExportService& desk = parts_.exports();
    // A hundred thousand items may be queued, so cells are created on demand; when only states change, the scroll
    // position is kept.
    const int count = static_cast<int>(desk.queue().size());
    if (queue_->row_count() == count)
        queue_->viewport()->update();
    else
        queue_->show_lazily(count, [this](int row) {
            const auto& items = parts_.exports().queue();
            return row < static_cast<int>(items.size()) ? &items[row] : nullptr;
        });
    summary_->setText(desk.summary());
    run_->setText(desk.running() ? "&Pause" : "&Go on");
    run_->setAccessibleName(desk.running() ? "Pause" : "Go on");
    run_->setEnabled(desk.running() || desk.count(ExportState::waiting) + desk.count(ExportState::writing) > 0);
    again_->setEnabled(desk.count(ExportState::failed) > 0);
    drop_->setEnabled(desk.count(ExportState::waiting) > 0);
    clear_->setEnabled(desk.count(ExportState::done) > 0);
}

void ExportsPlace::choose_folder() {
    QFileDialog dialog(this, "Folder of the export", folder_->text());
    dialog.setFileMode(QFileDialog::Directory);
    if (dialog.exec() == QDialog::Accepted && !dialog.selectedFiles().isEmpty())
        set_folder(dialog.selectedFiles().first());
}

void ExportsPlace::choose_films() {
    QFileDialog dialog(this, "Films to correct");
    dialog.setFileMode(QFileDialog::ExistingFiles);
    QStringList patterns;
    for (const std::string& ending : film_endings()) patterns << "*" + q(ending);
    dialog.setNameFilter("Films (" + patterns.join(" ") + ")");
    if (dialog.exec() != QDialog::Accepted) return;
    std::vector<std::filesystem::path> films;
    for (const QString& file : dialog.selectedFiles()) films.emplace_back(file.toStdString());
    open_films(films);
}

void ExportsPlace::open_films(const std::vector<std::filesystem::path>& films) {
    const QString folder = folder_->text().trimmed();
    if (!QDir::isAbsolutePath(folder)) return parts_.tell("Name the folder of the export from the root on: /…", true);
    if (!films.empty()) FilmsDialog(parts_, films, folder, this).exec();
}

void ExportsPlace::set_folder(const QString& folder) {
    folder_->setText(folder);
    soon_.start();
}

void ExportsPlace::add(const std::vector<std::filesystem::path>& frames) {
    const QString folder = folder_->text().trimmed();
    if (!QDir::isAbsolutePath(folder)) return parts_.tell("Name the folder of the export from the root on: /…", true);
    // Of several selected deliveries, the one in the form is used as edited.
    std::vector<Delivery> deliveries;
    for (const int row : deliveries_->chosen_rows())
        deliveries.push_back(row == deliveries_->chosen() ? form_->delivery() : delivery_list_[row]);
    if (deliveries.size() < 2) deliveries = {form_->delivery()};
    if (!parts_.attempt([&] {
            for (const Delivery& r : deliveries) check(r);
        }))
        return;
    for (const Delivery& r : deliveries) {
        if (!any_station_->isChecked())
            parts_.exports().add(frames, r, folder.toStdString());
        else
            parts_.work().add(QString("Export by %1").arg(q(r.name)),
                              [frames, r, to = folder.toStdString()](Store& store, Progress&) {
                                  return queue_export(store, frames, r, to);
                              });
    }
}

void ExportsPlace::open_delivery(const QString& path) {
    parts_.attempt([&] {
        const Delivery delivery = delivery_from_json(read_file(path.toStdString()), path.toStdString());
        form_->show_delivery(delivery);
        soon_.start();
        const bool there = parts_.exports().own(delivery.name);
        parts_.tell(QString("%1 is shown as %2 has it; Save delivery keeps it%3.")
                        .arg(q(delivery.name), QFileInfo(path).fileName(),
                             there ? ", in place of the studio's own of that name" : ""));
    });
}

void ExportsPlace::save_delivery() {
    const Delivery delivery = form_->delivery();
    if (parts_.attempt([&] { parts_.exports().keep(delivery); })) refresh_deliveries(q(delivery.name));
}

void ExportsPlace::show_something() {
    if (!frames_->chosen()) frames_->table().choose(0);
}

}  // namespace optrel
