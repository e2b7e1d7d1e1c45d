// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/answers_panel.h"

#include <QGridLayout>
#include <QVBoxLayout>

#include "widgets/place.h"

namespace optrel {

TracePanel::TracePanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    trace_ = new Table("Trace", {{"Tier", false, false, 0}, {"Says", true, false, 74}, {"", false, false, 48}});
    trace_->wrap_rows();
    of_ = heading("Trace");
    of_->setWordWrap(true);
    auto* layout = stacked_in(this, 3);
    layout->addWidget(of_);
    layout->addWidget(trace_, 1);
    for (const auto signal : {&DraftView::draft_changed, &DraftView::field_changed, &DraftView::subject_changed})
        connect(&view_, signal, this, &TracePanel::refresh);
    connect(trace_, &QAbstractItemView::doubleClicked, this, [this] {
        const auto trace = view_.resolver().trace(view_.subject().facts, view_.field());
        const int row = trace_->chosen();
        if (row >= 0 && row < static_cast<int>(trace.size()) && trace[row].tier) view_.choose_tier(trace[row].tier->id);
    });
    refresh();
}

void TracePanel::refresh() {
    const Subject& s = view_.subject();
    if (s.facts.model.empty()) {
        of_->setText("Trace: add frames in Fleet first, so that there are bodies");
        trace_->set_rows({});
        return;
    }
    of_->setText(QString("Trace of %1: %2 at ISO %3").arg(q(info(view_.field()).label), s.label).arg(s.facts.iso));
    std::vector<Row> rows;
    for (const TraceStep& step : view_.resolver().trace(s.facts, view_.field())) {
        const auto tone = step.won ? Cell::Tone::mark : Cell::Tone::faint;
        QString hint = step.tier ? q(describe_conditions(*step.tier)) : QString();
        if (!step.remark.empty()) hint += (hint.isEmpty() ? "" : "; ") + q(step.remark);
        rows.push_back({Cell((step.tier ? view_.name_of(*step.tier) : q(step.source)) +
                                 (step.set && step.tier ? "  (set " + q(step.set->name) + ")" : QString()),
                             tone, hint),
                        Cell(view_.text_of(view_.field(), step.value), tone), Cell(step.won ? "✓ won" : "", tone)});
        if (!step.remark.empty() && !(step.set && step.tier)) rows.back()[0].text += "  – " + q(step.remark);
    }
    trace_->set_rows(std::move(rows));
}

ProbePanel::ProbePanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    body_ = new QComboBox;
    lens_ = new QComboBox;
    kind_ = new QComboBox;
    iso_ = new QSpinBox;
    body_->setAccessibleName("Probe body");
    lens_->setAccessibleName("Probe lens");
    kind_->setAccessibleName("Probe kind of file");
    iso_->setAccessibleName("Probe ISO");
    kind_->addItems({"raw", "rendered"});
    iso_->setRange(1, 10000000);
    iso_->setValue(400);
    iso_->setPrefix("ISO ");
    iso_->setButtonSymbols(QAbstractSpinBox::NoButtons);
    for (QComboBox* c : {body_, lens_, kind_}) connect(c, &QComboBox::currentIndexChanged, this, &ProbePanel::refresh);
    for (QComboBox* c : {body_, lens_}) c->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    connect(iso_, &QSpinBox::valueChanged, this, &ProbePanel::refresh);
    result_ =
        new Table("Probe result", {{"Field", false, false, 0}, {"Value", true, false, 66}, {"From", false, false, 78}});
    auto* layout = stacked_in(this, 3);
    layout->addWidget(heading("What would a frame get?"));
    auto* grid = new QGridLayout;
    grid->setSpacing(3);
    grid->addWidget(body_, 0, 0, 1, 2);
    grid->addWidget(lens_, 1, 0, 1, 2);
    grid->addWidget(iso_, 2, 0);
    grid->addWidget(kind_, 2, 1);
    layout->addLayout(grid);
    layout->addWidget(result_, 1);
    connect(result_, &Table::chosen_changed, this, [this](int row) {
        if (row < 0 || row >= field_count) return;
        view_.choose_field(all_fields()[row].field);
        view_.choose_subject(asked());
    });
    connect(&view_, &DraftView::draft_changed, this, &ProbePanel::refresh_choices);
    refresh_choices();
}

void ProbePanel::refresh_choices() {
    const QSignalBlocker quiet_body(body_), quiet_lens(lens_);
    const QString keep_body = body_->currentText(), keep_lens = lens_->currentText();
    subjects_ = view_.subjects();
    body_->clear();
    for (const Subject& s : subjects_) body_->addItem(s.label);
    if (subjects_.empty()) body_->addItem("no body registered");
    lens_->clear();
    lens_->addItem("any lens");
    for (const LensEntry& l : view_.parts().entries().lenses()) lens_->addItem(q(l.label()), q(l.id));
    body_->setCurrentIndex(std::max(0, body_->findText(keep_body)));
    lens_->setCurrentIndex(std::max(0, lens_->findText(keep_lens)));
    refresh();
}

Subject ProbePanel::asked() const {
    if (subjects_.empty()) return {};
    Subject s = view_.at_iso(subjects_[std::clamp(body_->currentIndex(), 0, static_cast<int>(subjects_.size()) - 1)],
                             iso_->value());
    s.facts.raw = kind_->currentIndex() == 0;
    if (const LensEntry* l = view_.parts().entries().fleet()->lens(lens_->currentData().toString().toStdString())) {
        s.facts.lens = canonical_lens_text(l->lens);
        s.facts.lens_copy = l->id;
    }
    return s;
}

void ProbePanel::refresh() {
    std::vector<Row> rows;
    if (const Subject s = asked(); !s.facts.model.empty()) {
        ResolvedFrame resolved;
        view_.resolver().resolve(s.facts, resolved);
        for (const FieldInfo& f : all_fields()) {
            const ResolvedField& r = resolved[f.field];
            const bool plain = !r.tier && !r.set && r.value == f.neutral;
            QString from = plain ? "start" : "as recorded";
            if (r.set) from = "set " + q(r.set->name);
            if (r.tier) from = view_.name_of(*r.tier);
            rows.push_back({Cell(q(f.label), Cell::Tone::plain, q(f.meaning)),
                            Cell(view_.text_of(f.field, r.value), plain ? Cell::Tone::faint : Cell::Tone::mark),
                            Cell(from, plain ? Cell::Tone::faint : Cell::Tone::plain)});
        }
    }
    result_->set_rows(std::move(rows));
}

}  // namespace optrel
