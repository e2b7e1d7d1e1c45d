// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/inspect_place.h"

#include <QCheckBox>
#include <QFileDialog>
#include <QSplitter>
#include <QToolButton>

#include "fleet/claim_dialog.h"
#include "inspect/set_dialog.h"
#include "jobs.h"
#include "studio/claim.h"
#include "studio/develop_frame.h"
#include "studio/frame_sheets.h"
#include "studio/knowledge.h"
#include "widgets/edit_entry.h"

namespace optrel {

InspectPlace::InspectPlace(Session& session) : PlaceWidget(theme::Place::inspect, session) {
    build();
    connect(&session_, &Session::frames_changed, this, &InspectPlace::refresh_frames);
    connect(&session_, &Session::knowledge_changed, this, [this] {
        refresh_frames();
        refresh_sheet();
        develop();
    });
    connect(&session_, &Session::sheets_changed, this, [this] {
        refresh_frames();
        refresh_sheet();
        develop();
    });
    for (const auto signal : {&Session::profiles_changed, &Session::baselines_changed})
        connect(&session_, signal, this, [this] {
            refresh_sheet();
            develop();
        });
    refresh_frames();
    refresh_sheet();
}

InspectPlace::~InspectPlace() {
    if (developing_) developing_->cancel();
}

namespace {

/// Widgets one below the other, without a margin.
QVBoxLayout* stacked_in(QWidget* side) {
    auto* layout = new QVBoxLayout(side);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(3);
    return layout;
}

QHBoxLayout* row_of(std::initializer_list<QPushButton*> buttons) {
    auto* row = new QHBoxLayout;
    for (QPushButton* b : buttons) row->addWidget(b);
    row->addStretch();
    return row;
}

}  // namespace

void InspectPlace::build() {
    build_actions();
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(build_frames());
    across->addWidget(build_picture());
    across->addWidget(build_sheet());
    across->setSizes({224, 604, 340});
    across->setStretchFactor(1, 1);
    body_->addWidget(across, 1);
}

void InspectPlace::build_actions() {
    back_ = button("Back to &baseline", "Drops what was set by hand; the baseline beneath stays");
    bare_ = button("Ba&re", "Drops every layer and makes the frame exempt from rollouts");
    export_ = button("E&xport TIFF…", "Develops at full size into a 16-bit TIFF with an ICC profile and the metadata");
    with_set_ = new QCheckBox("and the set");
    with_set_->setToolTip("Back to baseline drops the set on top as well");
    connect(back_, &QPushButton::clicked, this, [this] {
        change_sheets("back to baseline",
                      [this](const FrameRecord&, Sheet& sheet) { back_to_baseline(sheet, with_set_->isChecked()); });
    });
    connect(bare_, &QPushButton::clicked, this,
            [this] { change_sheets("make bare", [](const FrameRecord&, Sheet& sheet) { make_bare(sheet); }); });
    connect(export_, &QPushButton::clicked, this, &InspectPlace::ask_export);
    for (QWidget* w : std::initializer_list<QWidget*>{with_set_, back_, bare_, export_}) actions_->addWidget(w);
}

void InspectPlace::ask_export() {
    const FrameRecord* f = chosen();
    if (!f) return;
    const QString path = QFileDialog::getSaveFileName(
        this, "Export", q((f->path.parent_path() / f->path.stem()).string()) + ".tif", "TIFF (*.tif)");
    if (!path.isEmpty()) export_to(path);
}

QWidget* InspectPlace::build_frames() {
    frames_ = new Table("Frames", {{"Frame", false, false, 0}, {"ISO", true, false, 44}, {"State", false, false, 90}});
    frames_->allow_several();
    frames_->setMinimumWidth(180);
    assign_lens_ =
        button("Assign &lens…", "Says which lens the chosen frames were taken with, for instance one without contacts");
    claim_body_ = button("&Claim body…", "Says which body took the chosen frames");
    connect(assign_lens_, &QPushButton::clicked, this, [this] { claim_frames(Claim::Of::lens); });
    connect(claim_body_, &QPushButton::clicked, this, [this] { claim_frames(Claim::Of::body); });
    connect(frames_, &Table::chosen_changed, this, [this] {
        refresh_sheet();
        develop();
    });
    identity_ = new QLabel;
    identity_->setWordWrap(true);
    identity_->setObjectName("faint");
    auto* side = new QWidget;
    QVBoxLayout* layout = stacked_in(side);
    layout->addWidget(heading("Frames"));
    layout->addWidget(frames_, 1);
    layout->addWidget(identity_);
    layout->addLayout(row_of({claim_body_, assign_lens_}));
    return side;
}

QLayout* InspectPlace::build_tools() {
    modes_ = new QButtonGroup(this);
    zooms_ = new QButtonGroup(this);
    auto* bar = new QHBoxLayout;
    bar->setSpacing(3);
    const auto tool = [&](QButtonGroup* group, const QString& text, const QString& hint, int id) {
        auto* b = new QToolButton;
        b->setText(text);
        b->setToolTip(hint);
        b->setAccessibleName(QString(text).remove('&'));
        b->setCheckable(true);
        b->setStyleSheet("padding: 3px 8px");
        group->addButton(b, id);
        bar->addWidget(b);
    };
    using Mode = CompareView::Mode;
    tool(modes_, "Befor&e", "The frame with nothing applied", static_cast<int>(Mode::before));
    tool(modes_, "A&fter", "The frame with its sheet and its lens profile; the space bar swaps",
         static_cast<int>(Mode::after));
    tool(modes_, "&Split", "Both, with a line that can be dragged", static_cast<int>(Mode::split));
    modes_->button(static_cast<int>(Mode::split))->setChecked(true);
    view_->set_mode(Mode::split);
    bar->addSpacing(14);
    tool(zooms_, "Fit", "The whole picture", 0);
    tool(zooms_, "100 %", "One screen pixel for each picture pixel", 1);
    tool(zooms_, "200 %", "Two by two screen pixels for each picture pixel", 2);
    tool(zooms_, "400 %", "Four by four screen pixels for each picture pixel", 4);
    zooms_->button(0)->setChecked(true);
    auto* grid = new QCheckBox("&Grid");
    bar->addSpacing(10);
    bar->addWidget(grid);
    bar->addStretch();
    connect(modes_, &QButtonGroup::idClicked, this, [this](int id) { view_->set_mode(static_cast<Mode>(id)); });
    connect(zooms_, &QButtonGroup::idClicked, this, [this](int id) { view_->set_zoom(id); });
    connect(view_, &CompareView::mode_changed, this,
            [this] { modes_->button(static_cast<int>(view_->mode()))->setChecked(true); });
    connect(grid, &QCheckBox::toggled, view_, &CompareView::set_grid);
    return bar;
}

QWidget* InspectPlace::build_picture() {
    view_ = new CompareView;
    about_ = new QLabel;
    about_->setObjectName("faint");
    about_->setWordWrap(true);
    auto* centre = new QWidget;
    QVBoxLayout* layout = stacked_in(centre);
    layout->setSpacing(4);
    layout->addLayout(build_tools());
    layout->addWidget(view_, 1);
    layout->addWidget(about_);
    return centre;
}

QWidget* InspectPlace::build_sheet() {
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
        refresh_sheet_buttons();
        refresh_trace();
    });
    connect(drop_, &QPushButton::clicked, this, &InspectPlace::drop_field);
    connect(apply_set_, &QPushButton::clicked, this, &InspectPlace::apply_set);
    connect(make_set_, &QPushButton::clicked, this, &InspectPlace::make_set);
    connect(all_fields_, &QCheckBox::toggled, this, &InspectPlace::show_rows);
    auto* side = new QWidget;
    QVBoxLayout* layout = stacked_in(side);
    auto* head = new QHBoxLayout;
    head->addWidget(heading("Field sheet: double-click By hand to set"));
    head->addStretch();
    head->addWidget(all_fields_);
    layout->addLayout(head);
    layout->addWidget(sheet_, 1);
    layout->addWidget(trace_);
    layout->addLayout(row_of({drop_, apply_set_, make_set_}));
    return side;
}

const FrameRecord* InspectPlace::chosen() const {
    const int row = frames_->chosen();
    return row >= 0 && row < static_cast<int>(session_.frames().size()) ? &session_.frames()[row] : nullptr;
}

std::vector<const FrameRecord*> InspectPlace::chosen_frames() const {
    std::vector<const FrameRecord*> out;
    for (const int row : frames_->chosen_rows())
        if (row < static_cast<int>(session_.frames().size())) out.push_back(&session_.frames()[row]);
    return out;
}

void InspectPlace::refresh_frames() {
    // Frames can be two hundred thousand; a cell is made when it is looked at.
    const auto frames = session_.frames_shared();
    frames_->set_lazy(static_cast<int>(frames->size()), [this, frames](int row, int column) {
        const FrameRecord& f = (*frames)[row];
        if (column == 0) return Cell(q(f.path.filename().string()), Cell::Tone::plain, q(f.path.string()));
        if (column == 1) return Cell(QString::number(f.metadata.iso), f.metadata.iso);
        if (const Sheet* sheet = session_.sheets().find(f.path)) {
            switch (sheet->state()) {
                case FrameState::on_baseline: {
                    const bool behind = sheet->revision < session_.current().number;
                    return behind ? Cell(QString("◐ baseline %1").arg(sheet->revision), Cell::Tone::warning,
                                         QString("behind revision %1").arg(session_.current().number))
                                  : Cell(QString("● baseline %1").arg(sheet->revision), Cell::Tone::mark);
                }
                case FrameState::hand_set: return Cell("✎ hand-set", Cell::Tone::plain);
                case FrameState::exempt: return Cell("– exempt", Cell::Tone::plain);
                default: break;
            }
        } else if (const QString problem = session_.sheets().problem(f.path); !problem.isEmpty()) {
            return Cell("✕ unreadable", Cell::Tone::serious, problem);
        }
        return Cell("untouched", Cell::Tone::faint);
    });
    if (!session_.has_frames())
        show_empty(
            add_frames("Inspect shows single frames before and after, developed at full size and corrected, with the "
                       "sheet of every field: where it comes from and what was set by hand."));
    else
        show_empty(std::nullopt);
    if (!chosen())
        view_->clear(frames->empty() ? "The frames are being read …"
                                     : "Choose a frame in the list to see it before and after.");
}

Sheet InspectPlace::sheet_of(const FrameRecord& frame) const {
    const Sheet* sheet = session_.sheets().find(frame.path);
    return sheet ? *sheet : Sheet{};
}

ResolvedFrame InspectPlace::fields_now(const FrameRecord& frame) const {
    return fields_of(sheet_of(frame), know(frame.path, frame.metadata, *session_.fleet()).facts,
                     session_.current_resolver());
}

void InspectPlace::refresh_sheet() {
    const FrameRecord* f = chosen();
    const Sheet* sheet = f ? session_.sheets().find(f->path) : nullptr;
    back_->setEnabled(sheet && (!sheet->hand.empty() || !sheet->set.empty() || sheet->exempt));
    with_set_->setVisible(sheet && !sheet->set.empty());
    bare_->setEnabled(sheet && !sheet->exempt);
    export_->setEnabled(f != nullptr);
    for (QPushButton* b : {claim_body_, assign_lens_}) b->setEnabled(f != nullptr);
    claim_body_->setEnabled(f && !session_.bodies().empty());
    assign_lens_->setEnabled(f && !session_.lenses().empty());
    std::vector<Row> rows;
    if (f && sheet) {
        const FrameKnowledge known = know(f->path, f->metadata, *session_.fleet());
        identity_->setText(
            QString("Body %1: %2, %3. Lens: %4, %5.")
                .arg(q(to_string(known.body.knowledge)),
                     known.body.id.empty() ? q(known.facts.model) : q(session_.fleet()->body(known.body.id)->label()),
                     q(known.body.why), known.lens.lens.empty() ? QString("unknown") : q(known.lens.lens),
                     q(known.lens.why)));
        const ResolvedFrame now = fields_now(*f);
        // The start as the current revision has it for this frame.
        const Resolver& resolver = session_.current_resolver();
        for (const FieldInfo& field : all_fields()) {
            const std::vector<TraceStep> trace = resolver.trace(known.facts, field.field);
            const TraceStep* start = &trace.front();
            for (const TraceStep& step : trace)
                if (!step.tier) start = &step;
            const auto layer = [&](const Layer& l) {
                const auto it = l.find(field.field);
                return it == l.end() ? Cell("", Cell::Tone::faint, "inherits")
                                     : Cell(text_of(field.field, it->second), Cell::Tone::mark);
            };
            const bool differs = now[field.field].value != start->value;
            rows.push_back(
                {Cell(q(field.label), Cell::Tone::plain, q(field.meaning)),
                 Cell(text_of(field.field, start->value), Cell::Tone::faint, q(start->source)), layer(sheet->baseline),
                 layer(sheet->set), layer(sheet->hand),
                 Cell(text_of(field.field, now[field.field].value), differs ? Cell::Tone::mark : Cell::Tone::plain)});
        }
    } else {
        identity_->clear();
    }
    sheet_->set_rows(std::move(rows));
    show_rows();
    refresh_sheet_buttons();
    refresh_trace();
}

/// Unless all are asked for, only the fields that a layer says something of, and those that matter to every frame.
void InspectPlace::show_rows() {
    const FrameRecord* f = chosen();
    const Sheet* sheet = f ? session_.sheets().find(f->path) : nullptr;
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

/// Every tier that applied, in order, then the layers that lie on top; what the sheet holds won.
void InspectPlace::refresh_trace() {
    const FrameRecord* f = chosen();
    const Sheet* sheet = f ? session_.sheets().find(f->path) : nullptr;
    const int row = sheet_->chosen();
    std::vector<Row> rows;
    if (sheet && row >= 0 && row < field_count) {
        const Field field = all_fields()[row].field;
        struct Line {
            QString source;
            Value value;
            QString hint;
        };
        std::vector<Line> lines;
        // A sidecar keeps values, not tiers: its revision tells which tiers they came from.
        const Resolver* resolver = &session_.current_resolver();
        std::unique_ptr<const Resolver> older;
        if (sheet->revision > 0 && sheet->revision != session_.current().number)
            session_.attempt([&] {
                if (auto revision = session_.revision(sheet->revision))
                    older = std::make_unique<const Resolver>(std::move(*revision));
            });
        if (older) resolver = older.get();
        if (sheet->exempt) {
            lines.push_back({"exempt: no layer", info(field).neutral, ""});
        } else {
            for (const TraceStep& step : resolver->trace(know(f->path, f->metadata, *session_.fleet()).facts, field)) {
                if (step.tier && sheet->state() != FrameState::untouched && sheet->revision == 0) continue;
                lines.push_back({q(step.source) + (step.tier ? QString(", revision %1").arg(resolver->revision().number)
                                                             : QString()),
                                 step.value, q(step.remark)});
            }
            const auto now = sheet->baseline.find(field);
            if (sheet->revision > 0 && now != sheet->baseline.end() && now->second != lines.back().value)
                lines.push_back({"as written by the rollout", now->second,
                                 "the body or the lens of the frame was settled since; rehearse again"});
            if (const auto it = sheet->set.find(field); it != sheet->set.end())
                lines.push_back({"set on top", it->second, ""});
            if (const auto it = sheet->hand.find(field); it != sheet->hand.end())
                lines.push_back({"by hand", it->second, ""});
        }
        for (std::size_t i = 0; i < lines.size(); ++i) {
            const bool won = i + 1 == lines.size();
            const auto tone = won ? Cell::Tone::mark : Cell::Tone::faint;
            rows.push_back({Cell(lines[i].source, tone, lines[i].hint), Cell(text_of(field, lines[i].value), tone),
                            Cell(won ? "✓ won" : "", tone)});
        }
    }
    trace_->set_rows(std::move(rows));
}

QString InspectPlace::text_of(Field field, const Value& value) const {
    if (field == Field::lens_profile && value.text != "automatic" && value.text != "none")
        return session_.profile_name(value.text);
    return q(to_display(field, value));
}

void InspectPlace::refresh_sheet_buttons() {
    const FrameRecord* f = chosen();
    const Sheet* sheet = f ? session_.sheets().find(f->path) : nullptr;
    const int row = sheet_->chosen();
    const bool field = sheet && row >= 0 && row < field_count;
    drop_->setEnabled(field &&
                      (sheet->hand.count(all_fields()[row].field) || sheet->set.count(all_fields()[row].field) ||
                       sheet->baseline.count(all_fields()[row].field)));
    apply_set_->setEnabled(sheet && !sheet->exempt && !session_.draft().sets.empty());
    make_set_->setEnabled(sheet != nullptr);
}

void InspectPlace::develop() {
    const FrameRecord* f = chosen();
    if (!f) return;
    if (developing_) developing_->cancel();
    auto progress = std::make_shared<Progress>();
    developing_ = progress;
    if (shown_ != q(f->path.string())) view_->clear("Developing " + q(f->path.filename().string()) + " …");
    shown_ = q(f->path.string());
    const FrameRecord frame = *f;
    const ResolvedFrame fields = fields_now(frame);
    const Metadata metadata = know(frame.path, frame.metadata, *session_.fleet()).metadata;
    const Sheet* sheet = session_.sheets().find(frame.path);
    ProfileMatch match;
    QString about;
    if (!session_.attempt([&] { match = profile_of(sheet_of(frame), fields, metadata, session_.profiles()); })) {
        developing_ = nullptr;
        return;
    }
    if (match.usable())
        about = QString("%1: %2 version %3, match %4")
                    .arg(q(frame.path.filename().string()))
                    .arg(q(match.profile->name))
                    .arg(match.profile->version)
                    .arg(q(to_string(match.grade)));
    else
        about = q(frame.path.filename().string()) + ": no lens profile applies";
    for (const std::string& reason : match.reasons) about += "; " + q(reason);
    for (const std::string& reason : match.against) about += "; but " + q(reason);
    if (sheet && sheet->state() == FrameState::untouched && session_.current().number > 0)
        about += QString(". Nothing is rolled out to it yet; after shows revision %1.").arg(session_.current().number);
    const std::optional<AppliedProfile> profile = applied(match, metadata);
    auto before = std::make_shared<QImage>();
    auto after = std::make_shared<QImage>();
    auto problem = std::make_shared<QString>();
    session_.jobs().run_quietly(
        [=] {
            try {
                *before =
                    image_as_held(develop_file(frame.path, metadata, neutral_start(), std::nullopt, *progress).rgb,
                                  metadata.orientation);
                *after = image_as_held(develop_file(frame.path, metadata, fields, profile, *progress).rgb,
                                       metadata.orientation);
            } catch (const Cancelled&) {
            } catch (const std::exception& error) {
                *problem = QString::fromUtf8(error.what());
            }
        },
        [=, this] {
            if (developing_ != progress) return;  // another frame was chosen meanwhile
            developing_ = nullptr;
            about_->setText(about);
            if (problem->isEmpty())
                view_->set_pictures(*before, *after);
            else
                view_->clear(*problem);
        });
}

void InspectPlace::change_sheet(const QString& what, const Sheet& after) {
    const FrameRecord* f = chosen();
    const Sheet* before = f ? session_.sheets().find(f->path) : nullptr;
    if (!before || after == *before) return;
    const std::filesystem::path path = f->path;
    session_.undo().push(new EditEntry<Sheet>(what, *before, after, [this, path](const Sheet& s) {
        session_.sheets().write({{path, s}});
    }));
}

void InspectPlace::change_sheets(const QString& what, const std::function<void(const FrameRecord&, Sheet&)>& change) {
    using Sheets = std::vector<std::pair<std::filesystem::path, Sheet>>;
    Sheets before, after;
    for (const FrameRecord* f : chosen_frames()) {
        const Sheet* now = session_.sheets().find(f->path);
        if (!now) continue;
        Sheet next = *now;
        change(*f, next);
        if (next == *now) continue;
        before.emplace_back(f->path, *now);
        after.emplace_back(f->path, next);
    }
    if (!after.empty())
        session_.undo().push(new EditEntry<Sheets>(what, before, after,
                                                   [this](const Sheets& sheets) { session_.sheets().write(sheets); }));
}

void InspectPlace::drop_field() {
    const int row = sheet_->chosen();
    if (row < 0 || row >= field_count) return;
    const Field field = all_fields()[row].field;
    change_sheets("drop a field", [field](const FrameRecord&, Sheet& sheet) { optrel::drop_field(sheet, field); });
}

void InspectPlace::apply_set() {
    std::vector<std::pair<QString, QString>> names;
    for (const PinSet& s : session_.draft().sets) names.emplace_back(q(s.name), q(s.name));
    const std::string name =
        choose_entry(this, "Set on top", "Which set goes on top of the baseline of the chosen frames?", names)
            .toStdString();
    if (name.empty()) return;
    change_sheets("put a set on top", [&](const FrameRecord& f, Sheet& sheet) {
        if (!sheet.exempt) put_set_on_top(sheet, set_layer(session_.draft(), name, f.metadata.iso));
    });
}

void InspectPlace::make_set() {
    const FrameRecord* f = chosen();
    if (!f) return;
    SetDialog dialog(session_, q(f->path.filename().string()), fields_now(*f), this);
    if (dialog.exec() == QDialog::Accepted) session_.edit_draft("make a set from a frame", dialog.result_draft());
}

void InspectPlace::claim_frames(Claim::Of of) {
    Claim start;
    start.of = of;
    for (const FrameRecord* f : chosen_frames()) start.frames.push_back(f->path.string());
    if (start.frames.empty()) return;
    ClaimDialog dialog(session_, start, this);
    if (dialog.exec() == QDialog::Accepted)
        session_.edit_fleet(of == Claim::Of::lens ? "assign a lens" : "claim frames", edit_for_claim(dialog.claim()));
}

void InspectPlace::edit_hand(int row, const QString& text) {
    const FrameRecord* f = chosen();
    const Sheet* sheet = f ? session_.sheets().find(f->path) : nullptr;
    if (!sheet) return;
    session_.attempt([&] {
        Sheet after = *sheet;
        const Field field = all_fields()[row].field;
        const QString trimmed = text.trimmed();
        if (trimmed.isEmpty())
            after.hand.erase(field);
        else
            set_by_hand(after, field, hand_value(field, trimmed.toStdString(), session_.profiles()));
        change_sheet("set a field by hand", after);
    });
}

void InspectPlace::export_to(const QString& path) {
    const FrameRecord* f = chosen();
    if (!f) return;
    const FrameRecord frame = *f;
    const ResolvedFrame fields = fields_now(frame);
    const Metadata metadata = know(frame.path, frame.metadata, *session_.fleet()).metadata;
    session_.attempt([&] {
        const std::optional<AppliedProfile> profile =
            applied(profile_of(sheet_of(frame), fields, metadata, session_.profiles()), metadata);
        session_.jobs().run(
            "Exporting",
            [=](Progress& progress) {
                export_tiff(path.toStdString(), Existing::replace_ours,
                            develop_file(frame.path, metadata, fields, profile, progress), frame.path, metadata);
            },
            [=, this] { session_.tell("Exported to " + path); });
    });
}

void InspectPlace::choose_frame(const QString& path) {
    for (std::size_t i = 0; i < session_.frames().size(); ++i)
        if (q(session_.frames()[i].path.string()) == path) frames_->choose(static_cast<int>(i));
}

void InspectPlace::show_something() {
    if (frames_->chosen() < 0) frames_->choose(0);
    sheet_->choose(static_cast<int>(Field::sharpening_amount));
}

}  // namespace optrel
