// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/sheet_panel.h"

#include <QPushButton>

#include "fleet/claim_dialog.h"
#include "inspect/set_dialog.h"
#include "studio/develop_frame.h"
#include "studio/frame_sheets.h"
#include "studio/frame_trace.h"
#include "studio/knowledge.h"
#include "widgets/edit_entry.h"
#include "widgets/place.h"

namespace optrel {

SheetPanel::SheetPanel(const Parts& parts, Chosen chosen, QWidget* parent)
    : QWidget(parent), parts_(parts), chosen_(std::move(chosen)) {
    build();
}

void SheetPanel::build() {
    sheet_ = new Table("Field sheet", {{"Field", false, false, 0},
                                       {"Start", true, false, 62},
                                       {"Baseline", true, false, 84},
                                       {"Set", true, false, 46},
                                       {"By hand", true, true, 56},
                                       {"Effective", true, false, 84}});
    sheet_->allow_sorting(false);
    sheet_->setMinimumWidth(300);
    drop_ =
        button("&Drop field",
               "Drops the uppermost layer of the chosen field: what was set by hand, then the set, then the baseline");
    apply_set_ = button("Set on &top…", "Puts a named set on top of the baseline of the chosen frames");
    make_set_ = button("&Make a set…", "Makes or updates a named set from fields of this frame that you choose");
    trace_ = new Table("Trace of the frame",
                       {{"Where it comes from", false, false, 0}, {"Says", true, false, 84}, {"", false, false, 50}});
    trace_->setMaximumHeight(126);
    all_fields_ = new QCheckBox("A&ll fields");
    all_fields_->setToolTip("Also those that no layer says anything of, with the start of each");
    connect(sheet_, &Table::cell_edited, this, [this](int row, int, const QString& text) { edit_hand(row, text); });
    connect(sheet_, &Table::chosen_changed, this, [this] {
        refresh_buttons();
        refresh_trace();
    });
    connect(drop_, &QPushButton::clicked, this, &SheetPanel::drop_chosen_field);
    connect(apply_set_, &QPushButton::clicked, this, &SheetPanel::apply_set);
    connect(make_set_, &QPushButton::clicked, this, &SheetPanel::make_set);
    connect(all_fields_, &QCheckBox::toggled, this, &SheetPanel::show_rows);
    auto* layout = stacked_in(this);
    auto* head = new QHBoxLayout;
    head->addWidget(heading("Field sheet: double-click By hand to set"));
    head->addStretch();
    head->addWidget(all_fields_);
    layout->addLayout(head);
    layout->addWidget(sheet_, 1);
    layout->addWidget(trace_);
    layout->addLayout(row_of({drop_, apply_set_, make_set_}));
}

const FrameRecord* SheetPanel::frame() const {
    const std::vector<const FrameRecord*> all = chosen_();
    return all.empty() ? nullptr : all.front();
}

const Sheet* SheetPanel::sheet() const {
    const FrameRecord* f = frame();
    return f ? parts_.sheets().find(f->path) : nullptr;
}

Sheet SheetPanel::sheet_of(const FrameRecord& frame) const {
    const Sheet* sheet = parts_.sheets().find(frame.path);
    return sheet ? *sheet : Sheet{};
}

ResolvedFrame SheetPanel::fields_now(const FrameRecord& frame) const {
    return fields_of(sheet_of(frame), know(frame.path, frame.metadata, *parts_.entries().fleet()).facts,
                     parts_.baselines().current_resolver());
}

void SheetPanel::refresh() {
    sheet_->set_rows(rows());
    show_rows();
    refresh_buttons();
    refresh_trace();
}

std::vector<Row> SheetPanel::rows() const {
    const FrameRecord* f = frame();
    const Sheet* sheet = this->sheet();
    std::vector<Row> out;
    if (!sheet) return out;
    const FrameFacts facts = know(f->path, f->metadata, *parts_.entries().fleet()).facts;
    const ResolvedFrame now = fields_now(*f);
    // The start as the current revision has it for this frame.
    const Resolver& resolver = parts_.baselines().current_resolver();
    for (const FieldInfo& field : all_fields()) {
        const std::vector<TraceStep> trace = resolver.trace(facts, field.field);
        const TraceStep* start = &trace.front();
        for (const TraceStep& step : trace)
            if (!step.tier) start = &step;
        const auto layer = [&](const Layer& l) {
            const auto it = l.find(field.field);
            return it == l.end() ? Cell("", Cell::Tone::faint, "inherits")
                                 : Cell(text_of(field.field, it->second), Cell::Tone::mark);
        };
        const Value& value = now[field.field].value;
        out.push_back(
            {Cell(q(field.label), Cell::Tone::plain, q(field.meaning)),
             Cell(text_of(field.field, start->value), Cell::Tone::faint, q(start->source)), layer(sheet->baseline),
             layer(sheet->set), layer(sheet->hand),
             Cell(text_of(field.field, value), value != start->value ? Cell::Tone::mark : Cell::Tone::plain)});
    }
    return out;
}

/// Unless all are asked for, only the fields that a layer says something of, and those that matter to every frame.
void SheetPanel::show_rows() {
    const FrameRecord* f = frame();
    const Sheet* sheet = this->sheet();
    const bool all = all_fields_->isChecked();
    sheet_->setColumnHidden(1, !all);
    sheet_->setColumnHidden(3, !all && (!sheet || sheet->set.empty()));
    sheet_->lay_columns();
    if (sheet_->row_count() != field_count || !sheet) return;
    const ResolvedFrame now = fields_now(*f);
    for (int row = 0; row < field_count; ++row) {
        const Field field = all_fields()[row].field;
        const bool said = sheet->baseline.count(field) || sheet->set.count(field) || sheet->hand.count(field) ||
                          now[field].value != info(field).neutral;
        const bool always = field == Field::exposure || field == Field::white_balance || field == Field::lens_profile ||
                            field == Field::sharpening_amount || field == Field::border;
        sheet_->setRowHidden(row, !(all || said || always));
    }
}

void SheetPanel::refresh_trace() {
    const FrameRecord* f = frame();
    const Sheet* sheet = this->sheet();
    const int row = sheet_->chosen();
    std::vector<Row> rows;
    if (sheet && row >= 0 && row < field_count) {
        const Field field = all_fields()[row].field;
        const FrameFacts facts = know(f->path, f->metadata, *parts_.entries().fleet()).facts;
        std::shared_ptr<const Resolver> resolver = parts_.baselines().current_resolver_shared();
        parts_.attempt([&] {
            resolver =
                resolver_of(*sheet, resolver, [this](int number) { return parts_.baselines().revision(number); });
        });
        const std::vector<TraceLine> lines = frame_trace(*sheet, facts, field, *resolver);
        for (const TraceLine& line : lines) {
            const bool won = &line == &lines.back();
            const auto tone = won ? Cell::Tone::mark : Cell::Tone::faint;
            rows.push_back({Cell(q(line.source), tone, q(line.remark)), Cell(text_of(field, line.value), tone),
                            Cell(won ? "✓ won" : "", tone)});
        }
    }
    trace_->set_rows(std::move(rows));
}

QString SheetPanel::text_of(Field field, const Value& value) const {
    if (field == Field::lens_profile && value.text != "automatic" && value.text != "none")
        return parts_.profiles().name(value.text);
    return q(to_display(field, value));
}

void SheetPanel::refresh_buttons() {
    const Sheet* sheet = this->sheet();
    const int row = sheet_->chosen();
    const bool field = sheet && row >= 0 && row < field_count;
    drop_->setEnabled(field &&
                      (sheet->hand.count(all_fields()[row].field) || sheet->set.count(all_fields()[row].field) ||
                       sheet->baseline.count(all_fields()[row].field)));
    apply_set_->setEnabled(sheet && !sheet->exempt && !parts_.baselines().draft().sets.empty());
    make_set_->setEnabled(sheet != nullptr);
}

void SheetPanel::change_sheets(const QString& what, const std::function<void(const FrameRecord&, Sheet&)>& change) {
    using Sheets = std::vector<std::pair<std::filesystem::path, Sheet>>;
    Sheets before, after;
    for (const FrameRecord* f : chosen_()) {
        const Sheet* now = parts_.sheets().find(f->path);
        if (!now) continue;
        Sheet next = *now;
        change(*f, next);
        if (next == *now) continue;
        before.emplace_back(f->path, *now);
        after.emplace_back(f->path, next);
    }
    if (!after.empty())
        parts_.undo().push(new EditEntry<Sheets>(what, before, after,
                                                 [this](const Sheets& sheets) { parts_.sheets().write(sheets); }));
}

void SheetPanel::drop_chosen_field() {
    const int row = sheet_->chosen();
    if (row < 0 || row >= field_count) return;
    const Field field = all_fields()[row].field;
    change_sheets("drop a field", [field](const FrameRecord&, Sheet& sheet) { drop_field(sheet, field); });
}

void SheetPanel::apply_set() {
    std::vector<std::pair<QString, QString>> names;
    for (const PinSet& s : parts_.baselines().draft().sets) names.emplace_back(q(s.name), q(s.name));
    const std::string name =
        choose_entry(this, "Set on top", "Which set goes on top of the baseline of the chosen frames?", names)
            .toStdString();
    if (name.empty()) return;
    change_sheets("put a set on top", [&](const FrameRecord& f, Sheet& sheet) {
        if (!sheet.exempt) put_set_on_top(sheet, set_layer(parts_.baselines().draft(), name, f.metadata.iso));
    });
}

void SheetPanel::make_set() {
    const FrameRecord* f = frame();
    if (!f) return;
    SetDialog dialog(parts_, q(f->path.filename().string()), fields_now(*f), this);
    if (dialog.exec() == QDialog::Accepted) parts_.baselines().edit("make a set from a frame", dialog.result_draft());
}

void SheetPanel::edit_hand(int row, const QString& text) {
    const FrameRecord* f = frame();
    const Sheet* sheet = this->sheet();
    if (!sheet) return;
    parts_.attempt([&] {
        Sheet after = *sheet;
        const Field field = all_fields()[row].field;
        const QString trimmed = text.trimmed();
        if (trimmed.isEmpty())
            after.hand.erase(field);
        else
            set_by_hand(after, field, hand_value(field, trimmed.toStdString(), parts_.profiles().newest()));
        if (after == *sheet) return;
        const std::filesystem::path path = f->path;
        parts_.undo().push(new EditEntry<Sheet>("set a field by hand", *sheet, after, [this, path](const Sheet& s) {
            parts_.sheets().write({{path, s}});
        }));
    });
}

}  // namespace optrel
