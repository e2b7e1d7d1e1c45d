// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/noise_dialog.h"

#include <QVBoxLayout>
#include <algorithm>

#include "base/figure_text.h"
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

Cell green_figure(const MeasuredFigure& f) { return {q(figure_with_sigma(f.value, f.sigma)), f.value}; }

}  // namespace

NoiseDialog::NoiseDialog(const Parts& parts, QWidget* parent) : QDialog(parent), parts_(parts) {
    setWindowTitle("Measure the noise of a body");
    resize(860, 560);
    build();
    refresh();
}

void NoiseDialog::build() {
    auto* how = new QLabel(
        "For each ISO: pairs of flat fields, two frames at each exposure, one directly after the other, from 2 to 60 "
        "percent of the white level; and two or more frames with the cap on. Eight pairs and four dark frames are "
        "good. Frames sort themselves: dark ones are told by their light.");
    how->setWordWrap(true);
    measure_ = button("&Measure", "Sorts the frames into pairs and measures each ISO", true);
    connect(measure_, &QPushButton::clicked, this, &NoiseDialog::measure);
    picker_ = new FramePicker(parts_.jobs(), "Flat fields and dark frames", measure_, this);
    connect(picker_, &FramePicker::changed, this, &NoiseDialog::refresh);
    figures_ = new TableOf<IsoNoise>(
        "Measured noise, green",
        {{figure_column("ISO", 60), [](const IsoNoise& i) { return figure_cell(i.iso); }},
         {figure_column("Gain e⁻/count"), [](const IsoNoise& i) { return green_figure(i.colours[1].gain); }},
         {figure_column("Read noise e⁻"), [](const IsoNoise& i) { return green_figure(i.colours[1].read_noise); }},
         {figure_column("Full well e⁻"), [](const IsoNoise& i) { return green_figure(i.colours[1].full_well); }},
         {figure_column("PRNU %"), [](const IsoNoise& i) { return green_figure(i.colours[1].prnu); }},
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
    all->addWidget(picker_);
    all->addWidget(panel("Measured noise of green, one sigma", figures_), 3);
    all->addWidget(panel("Findings", findings_), 2);
    all->addWidget(said_);
    all->addWidget(buttons);
}

void NoiseDialog::add_frames(const std::vector<fs::path>& frames) { picker_->add(frames); }

void NoiseDialog::measure() {
    if (running_.running() || picker_->frames().empty()) return;
    result_ = nullptr;
    said_->setText("Measuring; the line at the bottom of the window tells how far it is.");
    const auto result = std::make_shared<NoiseMeasurement>();
    running_.start(
        parts_.jobs(), "Measuring noise",
        [frames = picker_->frames(), result](Progress& progress) { *result = measure_noise(frames, {}, progress); },
        [this, result](const std::string& problem) {
            if (problem.empty())
                result_ = result;
            else
                said_->setText(q(problem));
            show_result();
        });
    refresh();
}

void NoiseDialog::show_result() {
    figures_->show_records(result_ ? result_->isos : std::vector<IsoNoise>());
    findings_->show_records(result_ ? result_->findings : std::vector<NoiseFinding>());
    if (result_) {
        document_ = noise_to_json(*result_, current_author(), utc_now());
        QString said = QString("%1 %2: %3 of %4 frames were used.")
                           .arg(q(camera_name(result_->body)), q(result_->body.body_serial))
                           .arg(result_->frames.size())
                           .arg(picker_->frames().size());
        if (result_->digital_above_iso > 0)
            said += QString(" Above ISO %1 its read noise gets no lower.").arg(result_->digital_above_iso);
        said_->setText(said);
    }
    refresh();
}

void NoiseDialog::refresh() {
    measure_->setEnabled(!picker_->frames().empty() && !running_.running());
    publish_->setEnabled(result_ && !running_.running());
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
