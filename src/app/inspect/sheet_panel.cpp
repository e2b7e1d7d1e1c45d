// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/sheet_panel.h"

#include <QPushButton>

#include "inspect/put_dialog.h"
#include "inspect/set_dialog.h"
#include "studio/baselines/frame_sheets.h"
#include "studio/baselines/frame_trace.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/measured_facts.h"
#include "studio/profiles/frame_profile.h"
#include "widgets/choose_entry.h"
#include "widgets/edit_entry.h"
#include "widgets/place.h"

namespace optrel {

SheetPanel::SheetPanel(const Parts& parts, Chosen chosen, QWidget* parent)
    : QWidget(parent), parts_(parts), chosen_(std::move(chosen)) {
    build();
}

void SheetPanel::build() {
    sheet_ = new Table("Field sheet",
                       {text_column("Field"), figure_column("Start", 62), figure_column("Baseline", 84),
                        figure_column("Set", 46), edited_figure_column("By hand", 56), figure_column("Effective", 84)});
    sheet_->allow_sorting(false);
    sheet_->setMinimumWidth(300);
    drop_ =
        button("Dro&p field",
               "Drops the uppermost layer of the chosen field: what was set by hand, then the set, then the baseline");
    apply_set_ = button("Set on &top…", "Puts a named set on top of the baseline of the chosen frames");
    make_set_ = button("Ma&ke a set…", "Makes or updates a named set from fields of this frame that you choose");
    const auto tone = [](const Step& s) { return s.won ? Cell::Tone::mark : Cell::Tone::faint; };
    trace_ =
        new TableOf<Step>("Trace of the frame",
                          {{text_column("Where it comes from"),
                            [=](const Step& s) { return Cell(q(s.line.source), tone(s), q(s.line.remark)); }},
                           {figure_column("Says", 84), [=](const Step& s) { return Cell(s.value, tone(s)); }},
                           {text_column("", 50), [=](const Step& s) { return Cell(s.won ? "✓ won" : "", tone(s)); }}});
    trace_->setMaximumHeight(126);
    all_fields_ = new QCheckBox("All fields");
    all_fields_->setToolTip(
        "Also shows fields without a value in any layer, grouped by subject, with their start "
        "values");
    words_ = search_line("Narrow the fields", "Words: a field, or what it is about");
    connect(sheet_, &QAbstractItemView::clicked, this, [this] { toggle_group(sheet_->chosen()); });
    connect(words_, &QLineEdit::textChanged, this, &SheetPanel::refresh);
    connect(sheet_, &Table::cell_edited, this, [this](int row, int, const QString& text) { edit_hand(row, text); });
    connect(sheet_, &Table::chosen_changed, this, [this] {
        refresh_buttons();
        refresh_trace();
    });
    connect(drop_, &QPushButton::clicked, this, &SheetPanel::drop_chosen_field);
    connect(apply_set_, &QPushButton::clicked, this, &SheetPanel::apply_set);
    connect(make_set_, &QPushButton::clicked, this, &SheetPanel::make_set);
    connect(all_fields_, &QCheckBox::toggled, this, &SheetPanel::refresh);
    auto* layout = stacked_in(this);
    auto* head = new QHBoxLayout;
    head->addWidget(words_, 1);
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
    ResolvedFrame fields = fields_of(sheet_of(frame), know(frame.path, frame.metadata, *parts_.entries().fleet()).facts,
                                     parts_.baselines().current_resolver());
    fields.colour_file = parts_.profiles().colour_file(fields[Field::colour_source].value);
    return fields;
}

void SheetPanel::refresh() {
    const std::optional<Field> before = field_at(sheet_->chosen());
    const Sheet* sheet = this->sheet();
    shown_ = sheet ? lines() : std::vector<Line>();
    std::vector<Row> rows;
    for (const Line& line : shown_) rows.push_back(cells_of(line));
    sheet_->set_rows(std::move(rows));
    sheet_->setColumnHidden(1, !all_fields_->isChecked());
    sheet_->setColumnHidden(3, !all_fields_->isChecked() && (!sheet || sheet->set.empty()));
    sheet_->lay_columns();
    if (before) choose_field(*before);
    refresh_buttons();
    refresh_trace();
}

std::optional<Field> SheetPanel::field_at(int row) const {
    return row >= 0 && row < static_cast<int>(shown_.size()) ? shown_[row].field : std::nullopt;
}

void SheetPanel::choose_field(Field field) {
    for (std::size_t row = 0; row < shown_.size(); ++row)
        if (shown_[row].field == field) return sheet_->choose(static_cast<int>(row));
}

bool SheetPanel::in_effect(Field field) const {
    const FrameRecord* f = frame();
    const Sheet* sheet = this->sheet();
    return sheet->baseline.count(field) || sheet->set.count(field) || sheet->hand.count(field) ||
           fields_now(*f)[field].value != info(field).neutral;
}

bool SheetPanel::matches(Field field) const {
    const FieldInfo& f = info(field);
    const QString all =
        (q(f.label) + ' ' + q(f.id) + ' ' + QString(to_string(group_of(field))) + ' ' + q(f.meaning)).toLower();
    for (const QString& word : words_->text().toLower().split(' ', Qt::SkipEmptyParts))
        if (!all.contains(word)) return false;
    return true;
}

/// Effective fields come first, then the others by group. By default only those others are shown that matter to every
/// frame.
std::vector<SheetPanel::Line> SheetPanel::lines() const {
    static const std::set<Field> always{Field::exposure, Field::white_balance, Field::lens_profile,
                                        Field::sharpening_amount, Field::border};
    const bool words = !words_->text().trimmed().isEmpty();
    std::vector<Line> first{Line{}}, rest;
    for (int g = 0; g < field_group_count; ++g) {
        const auto group = static_cast<FieldGroup>(g);
        std::vector<Line> members;
        for (const FieldInfo& f : all_fields()) {
            if (group_of(f.field) != group || !matches(f.field)) continue;
            if (in_effect(f.field))
                first.push_back({f.field, {}});
            else if (all_fields_->isChecked() || words || always.count(f.field))
                members.push_back({f.field, {}});
        }
        if (members.empty()) continue;
        if (all_fields_->isChecked() || words) rest.push_back({{}, group});
        if (words || !all_fields_->isChecked() || !closed_.count(group))
            rest.insert(rest.end(), members.begin(), members.end());
    }
    if (first.size() == 1 || (!all_fields_->isChecked() && !words)) first.erase(first.begin());
    first.insert(first.end(), rest.begin(), rest.end());
    return first;
}

Row SheetPanel::cells_of(const Line& line) const {
    if (!line.field) {
        if (!line.group) return {Cell("In effect", Cell::Tone::heading)};
        const bool open = !closed_.count(*line.group) || !words_->text().trimmed().isEmpty();
        return {Cell(QString(open ? "▾ " : "▸ ") + to_string(*line.group), Cell::Tone::heading, "Opens and closes")};
    }
    const FieldInfo& field = info(*line.field);
    const FrameRecord* f = frame();
    const Sheet* sheet = this->sheet();
    // Value of the start in the current revision for this frame.
    const std::vector<TraceStep> trace = parts_.baselines().current_resolver().trace(
        know(f->path, f->metadata, *parts_.entries().fleet()).facts, field.field);
    const TraceStep* start = &trace.front();
    for (const TraceStep& step : trace)
        if (!step.tier) start = &step;
    const auto layer = [&](const Layer& l) {
        const auto it = l.find(field.field);
        return it == l.end() ? Cell("", Cell::Tone::faint, "inherits")
                             : Cell(text_of(field.field, it->second), Cell::Tone::mark);
    };
    const Value value = fields_now(*f)[field.field].value;
    return {Cell(q(field.label), Cell::Tone::plain, q(field.meaning)),
            Cell(text_of(field.field, start->value), Cell::Tone::faint, q(start->source)),
            layer(sheet->baseline),
            layer(sheet->set),
            layer(sheet->hand),
            Cell(text_of(field.field, value), value != start->value ? Cell::Tone::mark : Cell::Tone::plain)};
}

void SheetPanel::toggle_group(int row) {
    if (row < 0 || row >= static_cast<int>(shown_.size()) || !shown_[row].group) return;
    const FieldGroup group = *shown_[row].group;
    if (!closed_.erase(group)) closed_.insert(group);
    refresh();
}

void SheetPanel::refresh_trace() {
    const FrameRecord* f = frame();
    const Sheet* sheet = this->sheet();
    const std::optional<Field> chosen = field_at(sheet_->chosen());
    std::vector<Step> steps;
    if (sheet && chosen) {
        const Field field = *chosen;
        FrameFacts facts = know(f->path, f->metadata, *parts_.entries().fleet()).facts;
        facts.measured = measured_facts(facts, *parts_.entries().fleet(), parts_.profiles().measurements());
        std::shared_ptr<const Resolver> resolver = parts_.baselines().current_resolver_shared();
        parts_.attempt([&] {
            resolver =
                resolver_of(*sheet, resolver, [this](int number) { return parts_.baselines().revision(number); });
        });
        for (const TraceLine& line : frame_trace(*sheet, facts, field, *resolver))
            steps.push_back({line, false, text_of(field, line.value)});
        if (!steps.empty()) steps.back().won = true;
    }
    trace_->show_records(steps);
}

QString SheetPanel::text_of(Field field, const Value& value) const {
    if (field == Field::lens_profile && value.text != "automatic" && value.text != "none")
        return parts_.profiles().name(value.text);
    return q(to_display(field, value));
}

void SheetPanel::refresh_buttons() {
    const Sheet* sheet = this->sheet();
    const std::optional<Field> field = field_at(sheet_->chosen());
    drop_->setEnabled(sheet && field &&
                      (sheet->hand.count(*field) || sheet->set.count(*field) || sheet->baseline.count(*field)));
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
    const std::optional<Field> field = field_at(sheet_->chosen());
    if (!field) return;
    change_sheets("drop a field", [field](const FrameRecord&, Sheet& sheet) { drop_field(sheet, *field); });
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

void SheetPanel::put_on_others() {
    const Sheet* from = sheet();
    const std::vector<const FrameRecord*> all = chosen_();
    parts_.attempt([&] {
        if (!from) throw input_error("Choose a frame first.");
        const Layer values = taken_by_hand(*from, {});
        if (all.size() < 2)
            throw input_error(
                "Choose the frames that shall get it too: Ctrl or Shift and a click in the list, with this one last.");
        // Copies, because frames, sheets and selection may change while the dialog is open.
        std::vector<PutDialog::Target> targets;
        std::set<std::filesystem::path> shown;
        for (std::size_t i = 1; i < all.size(); ++i) {
            const Sheet* sheet = parts_.sheets().find(all[i]->path);
            targets.push_back({all[i]->path, sheet ? std::optional(*sheet) : std::nullopt});
            shown.insert(all[i]->path);
        }
        PutDialog dialog(
            q(all.front()->path.filename().string()), values, std::move(targets),
            [this](Field f, const Value& v) { return text_of(f, v); }, this);
        if (dialog.exec() != QDialog::Accepted) return;
        change_sheets("put values by hand on others",
                      [&, chosen = dialog.chosen()](const FrameRecord& f, Sheet& sheet) {
                          if (shown.count(f.path) == 0) return;
                          for (const HandChange& c : changes_by(chosen, sheet)) set_by_hand(sheet, c.field, c.after);
                      });
    });
}

void SheetPanel::edit_hand(int row, const QString& text) {
    const QString trimmed = text.trimmed();
    const std::optional<Field> at = field_at(row);
    const FrameRecord* f = frame();
    if (!at || !f) return;
    const Field field = *at;
    parts_.attempt([&] {
        change_sheet(f->path, "set a field by hand", [&](Sheet& after) {
            if (trimmed.isEmpty())
                after.hand.erase(field);
            else
                set_by_hand(after, field, hand_value(field, trimmed.toStdString(), parts_.profiles().references()));
        });
    });
}

void SheetPanel::change_sheet(const std::filesystem::path& frame, const QString& what,
                              const std::function<void(Sheet&)>& change) {
    const Sheet* sheet = parts_.sheets().find(frame);
    if (!sheet) return;
    Sheet after = *sheet;
    change(after);
    if (after == *sheet) return;
    parts_.undo().push(new EditEntry<Sheet>(what, *sheet, after, [this, frame](const Sheet& s) {
        parts_.sheets().write({{frame, s}});
    }));
}

}  // namespace optrel
