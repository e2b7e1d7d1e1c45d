// SPDX-License-Identifier: GPL-3.0-or-later
#include "shared/samples_panel.h"

#include <QPointer>
#include <QSplitter>
#include <utility>

#include "base/figure_text.h"
#include "jobs.h"
#include "widgets/place.h"

namespace optrel {

namespace {

constexpr std::size_t most_samples = 8;

Cell apart_cell(const Sample& s, double value) {
    return s.problem.empty() ? measured_cell(figures::lab_difference, value) : Cell();
}

Cell fields_cell(const Sample& s) {
    if (!s.problem.empty()) return {"✕ " + q(s.problem), Cell::Tone::serious, q(s.problem)};
    QStringList names;
    for (const Field f : s.fields) names << q(info(f).label);
    return {names.join(", "), Cell::Tone::plain, names.join(", ")};
}

}  // namespace

SamplesPanel::SamplesPanel(const Parts& parts) : parts_(parts) {
    table_ = new TableOf<Sample>(
        "Samples",
        {{text_column("Frame", 104),
          [](const Sample& s) { return Cell(q(s.frame.filename().string()), Cell::Tone::plain, q(s.frame.string())); }},
         {text_column("Changes most in"), fields_cell},
         {figure_column("Patches: mean ΔE", 112), [](const Sample& s) { return apart_cell(s, s.in_patches.mean); }},
         {figure_column("largest", 60), [](const Sample& s) { return apart_cell(s, s.in_patches.largest); }},
         {figure_column("Picture: mean ΔE", 112), [](const Sample& s) { return apart_cell(s, s.in_picture.mean); }},
         {figure_column("largest ", 60), [](const Sample& s) { return apart_cell(s, s.in_picture.largest); }}});
    board_ = new SampleBoard;
    summary_ = new QLabel;
    summary_->setWordWrap(true);
    summary_->setAccessibleDescription("Samples in short");
    auto* side = new QWidget;
    auto* layout = stacked_in(side);
    layout->addWidget(table_, 1);
    layout->addWidget(summary_);
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(side);
    across->addWidget(board_);
    across->setSizes({600, 560});
    stacked_in(this)->addWidget(across, 1);
    connect(table_, &Table::chosen_changed, this, &SamplesPanel::show_chosen);
    connect(table_, &QAbstractItemView::doubleClicked, this, [this] {
        if (const int row = table_->chosen(); row >= 0 && row < static_cast<int>(samples_.size()))
            emit parts_.messages().inspect_frame(q(samples_[static_cast<std::size_t>(row)].frame.string()));
    });
    refresh();
}

SamplesPanel::~SamplesPanel() {
    if (progress_) progress_->cancel();
}

void SamplesPanel::show_rehearsal(std::shared_ptr<const Rehearsal> rehearsal) {
    if (rehearsal == rehearsal_) return;
    if (rehearsal_) parts_.jobs().give_back(std::pair(rehearsal_, std::exchange(of_, nullptr)));
    rehearsal_ = std::move(rehearsal);
    if (!rehearsal_) return begin({});
    begin([of = rehearsal_](const Store& store, std::size_t most, const std::function<void(Sample)>& sink,
                            Progress& progress) { look_at_samples(store, *of, most, sink, progress); });
}

void SamplesPanel::show_samples_of(Look of, const QString& none) {
    none_ = none;
    begin(std::move(of));
}

void SamplesPanel::begin(Look of) {
    if (progress_) progress_->cancel();
    progress_.reset();
    of_ = std::move(of);
    samples_.clear();
    looked_ = false;
    if (isVisible()) look();
    refresh();
}

void SamplesPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    look();
}

void SamplesPanel::look() {
    if (!of_ || looked_) return;
    looked_ = true;
    progress_ = std::make_shared<Progress>();
    auto problem = std::make_shared<QString>();
    parts_.jobs().run_quietly(
        [self = QPointer(this), &jobs = parts_.jobs(), progress = progress_, of = of_, problem,
         source = parts_.rollouts().source()] {
            try {
                const auto store = source.open_for_reading();
                of(
                    *store, most_samples,
                    [&](const Sample& sample) {
                        jobs.post([self, progress, sample] {
                            if (self) self->take(progress, sample);
                        });
                    },
                    *progress);
            } catch (const Cancelled&) {
            } catch (const std::exception& error) {
                *problem = q(error.what());
            }
        },
        [self = QPointer(this), progress = progress_, problem] {
            if (!self || progress->cancelled()) return;
            self->progress_.reset();
            self->refresh();
            if (!problem->isEmpty()) self->parts_.tell(*problem, true);
        });
    refresh();
}

void SamplesPanel::take(const std::shared_ptr<Progress>& from, Sample sample) {
    if (from != progress_) return;  // from an older rehearsal
    samples_.push_back(std::move(sample));
    refresh();
}

void SamplesPanel::refresh() {
    const int chosen = std::max(0, table_->chosen());
    table_->show_records(samples_);
    if (!samples_.empty()) table_->choose(std::min(chosen, static_cast<int>(samples_.size()) - 1));
    const char* units =
        "ΔE*ab in CIELAB of 1976: 1 can just be seen beside one another. The patches are at full size and tell "
        "of sharpening and noise, the whole picture of light, colour and geometry.";
    summary_->setText(looking() ? QString("Developing samples: %1 done …").arg(samples_.size()) : QString(units));
    show_chosen();
}

void SamplesPanel::show_chosen() {
    const int row = table_->chosen();
    if (row >= 0 && row < static_cast<int>(samples_.size()))
        return board_->show_sample(samples_[static_cast<std::size_t>(row)]);
    if (!of_)
        return board_->show_text("Rehearse, and the frames that would change most are shown here before and after.");
    board_->show_text(looking() ? "Developing …" : none_);
}

}  // namespace optrel
