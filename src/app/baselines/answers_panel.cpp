// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/answers_panel.h"

#include <QGridLayout>
#include <QVBoxLayout>

#include "widgets/place.h"

namespace optrel {

namespace {

QString step_name(const DraftView& view, const TraceStep& step) {
    const bool by_set = step.set && step.tier;
    QString name = step.tier ? view.name_of(*step.tier) : q(step.source);
    if (by_set) return name + "  (set " + q(step.set->name) + ")";
    if (!step.remark.empty()) name += "  – " + q(step.remark);
    return name;
}

QString step_hint(const TraceStep& step) {
    QString hint = step.tier ? q(describe_conditions(*step.tier)) : QString();
    if (!step.remark.empty()) hint += (hint.isEmpty() ? "" : "; ") + q(step.remark);
    return hint;
}

}  // namespace

TracePanel::TracePanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    const auto tone = [](const TraceStep& t) { return t.won ? Cell::Tone::mark : Cell::Tone::faint; };
    trace_ = new TableOf<TraceStep>(
        "Trace", {{text_column("Tier"),
                   [this, tone](const TraceStep& t) { return Cell(step_name(view_, t), tone(t), step_hint(t)); }},
                  {figure_column("Says", 74),
                   [this, tone](const TraceStep& t) { return Cell(view_.text_of(view_.field(), t.value), tone(t)); }},
                  {text_column("", 48), [tone](const TraceStep& t) { return Cell(t.won ? "✓ won" : "", tone(t)); }}});
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
    trace_->show_records(view_.resolver().trace(s.facts, view_.field()));
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
    const auto tone = [](const Answer& a) { return a.plain ? Cell::Tone::faint : Cell::Tone::mark; };
    result_ = new TableOf<Answer>(
        "Probe result",
        {{text_column("Field"),
          [](const Answer& a) { return Cell(q(a.field->label), Cell::Tone::plain, q(a.field->meaning)); }},
         {figure_column("Value", 66),
          [this, tone](const Answer& a) { return Cell(view_.text_of(a.field->field, a.resolved.value), tone(a)); }},
         {text_column("From", 78),
          [this](const Answer& a) { return Cell(source_of(a), a.plain ? Cell::Tone::faint : Cell::Tone::plain); }}});
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
    std::vector<Answer> answers;
    if (const Subject s = asked(); !s.facts.model.empty()) {
        ResolvedFrame resolved;
        view_.resolver().resolve(s.facts, resolved);
        for (const FieldInfo& f : all_fields()) {
            const ResolvedField& r = resolved[f.field];
            answers.push_back({&f, r, !r.tier && !r.set && r.value == f.neutral});
        }
    }
    result_->show_records(answers);
}

QString ProbePanel::source_of(const Answer& a) const {
    if (a.plain) return "start";
    if (a.resolved.tier) return view_.name_of(*a.resolved.tier);
    return a.resolved.set ? "set " + q(a.resolved.set->name) : QString("as recorded");
}

}  // namespace optrel
