// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/noise_dialog.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QMimeData>
#include <QPointer>
#include <QVBoxLayout>
#include <algorithm>
#include <mutex>

#include "base/station.h"
#include "base/times.h"
#include "jobs.h"
#include "sensor/noise_json.h"
#include "sensor/noise_kind.h"
#include "shared/publish_dialog.h"
#include "studio/frames/measured_facts.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

Cell green_figure(const MeasuredFigure& f, int decimals) {
    return {QString("%1 ± %2").arg(f.value, 0, 'f', decimals).arg(f.sigma, 0, 'f', decimals), f.value};
}

/// Raw files of a folder and of those beneath it, by name.
std::vector<fs::path> frames_in(const fs::path& folder) {
    std::vector<fs::path> out;
    std::error_code failed;
    for (fs::recursive_directory_iterator i(folder, fs::directory_options::skip_permission_denied, failed), end;
         !failed && i != end; i.increment(failed))
        if (i->is_regular_file(failed) && named_as_picture(i->path())) out.push_back(i->path());
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace

/// The measurement that runs, for a dialog that is closed meanwhile.
struct NoiseDialog::Running {
    std::mutex mutex;
    Progress* progress = nullptr;  ///< of the worker
    bool unwanted = false;

    /// False when nobody waits for it any more.
    bool begin(Progress& of) {
        const std::lock_guard lock(mutex);
        progress = &of;
        return !unwanted;
    }
    void end() {
        const std::lock_guard lock(mutex);
        progress = nullptr;
    }
    void give_up() {
        const std::lock_guard lock(mutex);
        unwanted = true;
        if (progress) progress->cancel();
    }
};

NoiseDialog::NoiseDialog(const Parts& parts, QWidget* parent) : QDialog(parent), parts_(parts) {
    setWindowTitle("Measure the noise of a body");
    setAcceptDrops(true);
    resize(860, 560);
    build();
    refresh();
}

NoiseDialog::~NoiseDialog() {
    if (running_) running_->give_up();
}

void NoiseDialog::build() {
    auto* how = new QLabel(
        "For each ISO: pairs of flat fields, two frames at each exposure, one directly after the other, from 2 to 60 "
        "percent of the white level; and two or more frames with the cap on. Eight pairs and four dark frames are "
        "good. Frames sort themselves: dark ones are told by their light.");
    how->setWordWrap(true);
    auto* files = button("Add &frames…", "Raw frames of one body");
    auto* folder = button("Add a f&older…", "All frames of a folder and of those beneath it");
    measure_ = button("&Measure", "Sorts the frames into pairs and measures each ISO", true);
    chosen_ = new QLabel;
    connect(files, &QPushButton::clicked, this, &NoiseDialog::ask_for_frames);
    connect(folder, &QPushButton::clicked, this, &NoiseDialog::ask_for_folder);
    connect(measure_, &QPushButton::clicked, this, &NoiseDialog::measure);
    auto* line = new QHBoxLayout;
    line->addWidget(chosen_, 1);
    for (QPushButton* b : {files, folder, measure_}) line->addWidget(b);
    figures_ = new TableOf<IsoNoise>(
        "Measured noise, green",
        {{figure_column("ISO", 60), [](const IsoNoise& i) { return figure_cell(i.iso); }},
         {figure_column("Gain e⁻/count"), [](const IsoNoise& i) { return green_figure(i.colours[1].gain, 4); }},
         {figure_column("Read noise e⁻"), [](const IsoNoise& i) { return green_figure(i.colours[1].read_noise, 3); }},
         {figure_column("Full well e⁻"), [](const IsoNoise& i) { return green_figure(i.colours[1].full_well, 0); }},
         {figure_column("PRNU %"), [](const IsoNoise& i) { return green_figure(i.colours[1].prnu, 3); }},
         {figure_column("Range EV", 70),
          [](const IsoNoise& i) {
              return Cell(QString::number(i.colours[1].dynamic_range_ev, 'f', 2), i.colours[1].dynamic_range_ev);
          }},
         {figure_column("Pairs", 50), [](const IsoNoise& i) { return figure_cell(i.pairs); }},
         {figure_column("Darks", 50), [](const IsoNoise& i) { return figure_cell(i.dark_frames); }}});
    findings_ = new TableOf<NoiseFinding>(
        "Findings", {{text_column("Finding", 110),
                      [](const NoiseFinding& f) {
                          return Cell((f.serious ? "! " : "– ") + q(f.name),
                                      f.serious ? Cell::Tone::serious : Cell::Tone::plain);
                      }},
                     {text_column("What was found"), [](const NoiseFinding& f) { return Cell(q(f.text)); }},
                     {text_column("What to do"), [](const NoiseFinding& f) { return Cell(q(f.remedy)); }}});
    findings_->wrap_rows();
    said_ = new QLabel;
    said_->setWordWrap(true);
    auto* buttons = answer_buttons(*this, "&Publish…", [this] {
        publish();
        return false;  // the dialog closes when it is published
    });
    publish_ = taking(*buttons);
    publish_->setToolTip("Keeps the measurement in the store as the next version of this body's noise");
    auto* all = new QVBoxLayout(this);
    all->addWidget(how);
    all->addLayout(line);
    all->addWidget(panel("Measured noise of green, one sigma", figures_), 3);
    all->addWidget(panel("Findings", findings_), 2);
    all->addWidget(said_);
    all->addWidget(buttons);
}

void NoiseDialog::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void NoiseDialog::dropEvent(QDropEvent* event) {
    std::vector<fs::path> frames, folders;
    for (const QUrl& url : event->mimeData()->urls()) {
        const fs::path path = url.toLocalFile().toStdString();
        std::error_code failed;
        (fs::is_directory(path, failed) ? folders : frames).push_back(path);
    }
    add_frames(frames);
    add_folders(folders);
}

void NoiseDialog::add_folders(const std::vector<fs::path>& folders) {
    if (folders.empty()) return;
    const auto found = std::make_shared<std::vector<fs::path>>();
    parts_.jobs().run_quietly(
        [folders, found] {
            for (const fs::path& folder : folders) {
                const std::vector<fs::path> frames = frames_in(folder);
                found->insert(found->end(), frames.begin(), frames.end());
            }
        },
        [dialog = QPointer<NoiseDialog>(this), found] {
            if (dialog) dialog->add_frames(*found);
        });
}

void NoiseDialog::ask_for_frames() {
    std::vector<fs::path> frames;
    for (const QString& path : QFileDialog::getOpenFileNames(this, "Flat fields and dark frames"))
        frames.emplace_back(path.toStdString());
    add_frames(frames);
}

void NoiseDialog::ask_for_folder() {
    const QString folder = QFileDialog::getExistingDirectory(this, "Folder with flat fields and dark frames");
    if (!folder.isEmpty()) add_folders({folder.toStdString()});
}

void NoiseDialog::add_frames(const std::vector<fs::path>& frames) {
    for (const fs::path& frame : frames)
        if (std::find(frames_.begin(), frames_.end(), frame) == frames_.end()) frames_.push_back(frame);
    refresh();
}

void NoiseDialog::measure() {
    if (running_ || frames_.empty()) return;
    running_ = std::make_shared<Running>();
    result_ = nullptr;
    said_->setText("Measuring; the line at the bottom of the window tells how far it is.");
    refresh();
    const auto result = std::make_shared<NoiseMeasurement>();
    const auto problem = std::make_shared<std::string>();
    parts_.jobs().run(
        "Measuring noise",
        [frames = frames_, result, problem, running = running_](Progress& progress) {
            try {
                if (running->begin(progress)) *result = measure_noise(frames, {}, progress);
            } catch (const Cancelled&) {
                *problem = "The measurement was cancelled.";
            } catch (const std::exception& error) {
                *problem = error.what();
            }
            running->end();
        },
        [this, running = running_, result, problem] {
            if (running->unwanted) return;
            running_ = nullptr;
            if (problem->empty())
                result_ = result;
            else
                said_->setText(q(*problem));
            show_result();
        });
}

void NoiseDialog::show_result() {
    figures_->show_records(result_ ? result_->isos : std::vector<IsoNoise>());
    findings_->show_records(result_ ? result_->findings : std::vector<NoiseFinding>());
    if (result_) {
        document_ = noise_to_json(*result_, current_author(), utc_now());
        QString said = QString("%1 %2: %3 of %4 frames were used.")
                           .arg(q(camera_name(result_->body)), q(result_->body.body_serial))
                           .arg(result_->frames.size())
                           .arg(frames_.size());
        if (result_->digital_above_iso > 0)
            said += QString(" Above ISO %1 the body only multiplies its counts.").arg(result_->digital_above_iso);
        said_->setText(said);
    }
    refresh();
}

void NoiseDialog::refresh() {
    chosen_->setText(frames_.empty() ? QString("No frames yet. Add them, or drop them here.")
                                     : QString("%1 frames").arg(frames_.size()));
    measure_->setEnabled(!frames_.empty() && !running_);
    publish_->setEnabled(result_ && !running_);
}

void NoiseDialog::publish() {
    if (!result_) return;
    parts_.attempt([&] {
        const Measurement proposed = noise_kind().read(document_, "The measurement");
        PublishQuestion question{.what = "noise measurement",
                                 .name = q(proposed.name),
                                 .findings = proposed.findings,
                                 .settings = "ISO settings"};
        for (const Measurement& m : parts_.profiles().versions(noise_kind()))
            if (m.state.is_current() && m.subject_key == proposed.subject_key) {
                question.before = m.version;
                const Measurement before = noise_kind().read(m.document, m.name);
                for (const QualityFigure& f : before.figures) {
                    const bool there = std::any_of(proposed.figures.begin(), proposed.figures.end(),
                                                   [&](const QualityFigure& own) { return own.name == f.name; });
                    const std::string prefix = "gain at ";
                    if (!there && f.name.rfind(prefix, 0) == 0)
                        question.missing << q(f.name.substr(prefix.size(), f.name.find(',') - prefix.size()));
                }
            }
        auto* dialog = new PublishDialog(parts_.jobs(), parts_.profiles().source(), question, this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        connect(dialog, &QDialog::accepted, this, [this, dialog] {
            parts_.attempt([&] {
                const std::string accepted =
                    with_accepted(document_, dialog->acceptances(), current_author(), utc_now());
                const Measurement m = parts_.profiles().publish(noise_kind(), accepted, dialog->others());
                parts_.tell(QString("%1 is published as version %2.").arg(q(m.name)).arg(m.version));
                accept();
            });
        });
        dialog->open();
    });
}

}  // namespace optrel
