#include "inspect/inspect_place.h"

#include <QCheckBox>
#include <QFileDialog>
#include <QSplitter>
#include <QToolButton>

#include "jobs.h"
#include "widgets/edit_entry.h"

namespace optrel {

InspectPlace::InspectPlace(Session& session) : PlaceWidget(theme::Place::inspect, session) {
    build();
    connect(&session_, &Session::frames_changed, this, &InspectPlace::refresh_frames);
    connect(&session_, &Session::fleet_changed, this, &InspectPlace::refresh_frames);
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

void InspectPlace::build() {
    back_ = button("Back to &baseline", "Drops what was set by hand; the baseline beneath stays");
    bare_ = button("Ba&re", "Drops every layer and makes the frame exempt from rollouts");
    export_ = button("E&xport TIFF…", "Develops at full size into a 16-bit TIFF with an ICC profile and the metadata");
    connect(back_, &QPushButton::clicked, this, [this] {
        const FrameRecord* f = chosen();
        const Sheet* sheet = f ? session_.sheet(f->path) : nullptr;
        if (!sheet) return;
        Sheet after = *sheet;
        after.hand.clear();
        after.exempt = false;
        change_sheet("back to baseline", after);
    });
    connect(bare_, &QPushButton::clicked, this, [this] {
        Sheet after;
        after.exempt = true;
        change_sheet("make bare", after);
    });
    connect(export_, &QPushButton::clicked, this, [this] {
        const FrameRecord* f = chosen();
        if (!f) return;
        const QString path = QFileDialog::getSaveFileName(this, "Export", q((f->path.parent_path() / f->path.stem()).string()) + ".tif", "TIFF (*.tif)");
        if (!path.isEmpty()) export_to(path);
    });
    for (QPushButton* b : {back_, bare_, export_}) actions_->addWidget(b);

    frames_ = new Table("Frames", {{"Frame", false, false, 0}, {"ISO", true, false, 52}, {"State", false, false, 96}});
    connect(frames_, &Table::chosen_changed, this, [this] {
        refresh_sheet();
        develop();
    });
    view_ = new CompareView;
    modes_ = new QButtonGroup(this);
    zooms_ = new QButtonGroup(this);
    auto* bar = new QHBoxLayout;
    bar->setSpacing(3);
    const auto tool = [&](QButtonGroup* group, const QString& text, const QString& hint, int id, bool on) {
        auto* b = new QToolButton;
        b->setText(text);
        b->setToolTip(hint);
        b->setAccessibleName(QString(text).remove('&'));
        b->setCheckable(true);
        b->setChecked(on);
        group->addButton(b, id);
        bar->addWidget(b);
    };
    tool(modes_, "Befor&e", "The frame with nothing applied", static_cast<int>(CompareView::Mode::before), false);
    tool(modes_, "A&fter", "The frame with its sheet and its lens profile; the space bar swaps", static_cast<int>(CompareView::Mode::after), false);
    tool(modes_, "&Split", "Both, with a line that can be dragged", static_cast<int>(CompareView::Mode::split), true);
    view_->set_mode(CompareView::Mode::split);
    bar->addSpacing(14);
    tool(zooms_, "Fit", "The whole picture", 0, true);
    tool(zooms_, "100 %", "One screen pixel for each picture pixel", 1, false);
    tool(zooms_, "200 %", "Two by two screen pixels for each picture pixel", 2, false);
    tool(zooms_, "400 %", "Four by four screen pixels for each picture pixel", 4, false);
    auto* grid = new QCheckBox("&Grid");
    bar->addSpacing(10);
    bar->addWidget(grid);
    bar->addStretch();
    connect(modes_, &QButtonGroup::idClicked, this, [this](int id) { view_->set_mode(static_cast<CompareView::Mode>(id)); });
    connect(zooms_, &QButtonGroup::idClicked, this, [this](int id) { view_->set_zoom(id); });
    connect(view_, &CompareView::mode_changed, this, [this] { modes_->button(static_cast<int>(view_->mode()))->setChecked(true); });
    connect(grid, &QCheckBox::toggled, view_, &CompareView::set_grid);
    about_ = new QLabel;
    about_->setObjectName("faint");
    about_->setWordWrap(true);
    auto* centre = new QWidget;
    auto* centre_layout = new QVBoxLayout(centre);
    centre_layout->setContentsMargins(0, 0, 0, 0);
    centre_layout->setSpacing(4);
    centre_layout->addLayout(bar);
    centre_layout->addWidget(view_, 1);
    centre_layout->addWidget(about_);

    sheet_ = new Table("Field sheet", {{"Field", false, false, 0}, {"Start", true, false, 72}, {"Baseline", true, false, 66}, {"By hand", true, true, 64}, {"Effective", true, false, 76}});
    sheet_->allow_sorting(false);
    connect(sheet_, &Table::cell_edited, this, [this](int row, int, const QString& text) { edit_hand(row, text); });
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(panel("Frames", frames_));
    across->addWidget(centre);
    across->addWidget(panel("Field sheet: double-click By hand to set a field", sheet_));
    frames_->setMinimumWidth(236);
    sheet_->setMinimumWidth(400);
    across->setSizes({250, 520, 400});
    across->setStretchFactor(1, 1);
    body_->addWidget(across, 1);
}

const FrameRecord* InspectPlace::chosen() const {
    const int row = frames_->chosen();
    return row >= 0 && row < static_cast<int>(session_.frames().size()) ? &session_.frames()[row] : nullptr;
}

void InspectPlace::refresh_frames() {
    std::vector<Row> rows;
    for (const FrameRecord& f : session_.frames()) {
        Cell state("untouched", Cell::Tone::faint);
        if (const Sheet* sheet = session_.sheet(f.path)) {
            switch (sheet->state()) {
                case FrameState::on_baseline: {
                    const bool behind = sheet->revision < session_.current().number;
                    state = behind ? Cell(QString("◐ baseline %1").arg(sheet->revision), Cell::Tone::warning, QString("behind revision %1").arg(session_.current().number))
                                   : Cell(QString("● baseline %1").arg(sheet->revision), Cell::Tone::mark);
                    break;
                }
                case FrameState::hand_set: state = Cell("✎ hand-set", Cell::Tone::plain); break;
                case FrameState::exempt: state = Cell("– exempt", Cell::Tone::plain); break;
                default: break;
            }
        } else if (const QString problem = session_.sheet_problem(f.path); !problem.isEmpty()) {
            state = Cell("✕ unreadable", Cell::Tone::serious, problem);
        }
        rows.push_back({Cell(q(f.path.filename().string()), Cell::Tone::plain, q(f.path.string())), Cell(QString::number(f.metadata.iso), f.metadata.iso), state});
    }
    frames_->set_rows(std::move(rows));
    if (session_.frames().empty()) view_->clear("No frames are known yet. Add a folder in Fleet, then choose a frame here.");
}

Sheet InspectPlace::sheet_of(const FrameRecord& frame) const {
    const Sheet* sheet = session_.sheet(frame.path);
    return sheet ? *sheet : Sheet{};
}

ResolvedFrame InspectPlace::fields_now(const FrameRecord& frame) const {
    return fields_of(sheet_of(frame), frame.metadata, session_.current(), session_.bodies());
}

void InspectPlace::refresh_sheet() {
    const FrameRecord* f = chosen();
    const Sheet* sheet = f ? session_.sheet(f->path) : nullptr;
    back_->setEnabled(sheet && (!sheet->hand.empty() || sheet->exempt));
    bare_->setEnabled(sheet && !sheet->exempt);
    export_->setEnabled(f != nullptr);
    std::vector<Row> rows;
    if (f && sheet) {
        const ResolvedFrame now = fields_now(*f);
        for (const FieldInfo& field : all_fields()) {
            const auto layer = [&](const Layer& l) {
                const auto it = l.find(field.field);
                return it == l.end() ? Cell("", Cell::Tone::faint, "inherits") : Cell(q(to_display(field.field, it->second)), Cell::Tone::mark);
            };
            rows.push_back({Cell(q(field.label), Cell::Tone::plain, q(field.meaning)), Cell(q(to_display(field.field, field.neutral)), Cell::Tone::faint), layer(sheet->baseline), layer(sheet->hand),
                            Cell(q(to_display(field.field, now[field.field].value)))});
        }
    }
    sheet_->set_rows(std::move(rows));
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
    const Sheet* sheet = session_.sheet(frame.path);
    ProfileMatch match;
    QString about;
    if (!session_.attempt([&] {
            match = profile_of(sheet_of(frame), fields, frame.metadata, session_.profiles());
        })) {
        developing_ = nullptr;
        return;
    }
    if (match.usable())
        about = QString("%1: %2 version %3, match %4").arg(q(frame.path.filename().string())).arg(q(match.profile->name)).arg(match.profile->version).arg(q(to_string(match.grade)));
    else
        about = q(frame.path.filename().string()) + ": no lens profile applies";
    for (const std::string& reason : match.reasons) about += "; " + q(reason);
    if (sheet && sheet->state() == FrameState::untouched && session_.current().number > 0) about += QString(". Nothing is rolled out to it yet; after shows revision %1.").arg(session_.current().number);
    const std::optional<AppliedProfile> profile = applied(match, frame.metadata);
    auto before = std::make_shared<QImage>();
    auto after = std::make_shared<QImage>();
    auto problem = std::make_shared<QString>();
    session_.jobs().run_quietly(
        [=] {
            try {
                *before = to_image(develop_file(frame.path, frame.metadata, neutral_start(), std::nullopt, *progress).rgb);
                *after = to_image(develop_file(frame.path, frame.metadata, fields, profile, *progress).rgb);
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
    const Sheet* before = f ? session_.sheet(f->path) : nullptr;
    if (!before || after == *before) return;
    const std::filesystem::path path = f->path;
    session_.undo().push(new EditEntry<Sheet>(what, *before, after, [this, path](const Sheet& s) { session_.write_frame_sheet(path, s); }));
}

void InspectPlace::edit_hand(int row, const QString& text) {
    const FrameRecord* f = chosen();
    const Sheet* sheet = f ? session_.sheet(f->path) : nullptr;
    if (!sheet) return;
    session_.attempt([&] {
        if (sheet->exempt) throw input_error("This frame is exempt; bring it back to its baseline before setting fields by hand.");
        Sheet after = *sheet;
        const Field field = all_fields()[row].field;
        const QString trimmed = text.trimmed();
        if (trimmed.isEmpty())
            after.hand.erase(field);
        else
            after.hand[field] = pin_from_text(field, trimmed.toStdString()).knots.front().second;
        change_sheet("set a field by hand", after);
    });
}

void InspectPlace::export_to(const QString& path) {
    const FrameRecord* f = chosen();
    if (!f) return;
    const FrameRecord frame = *f;
    const ResolvedFrame fields = fields_now(frame);
    session_.attempt([&] {
        const std::optional<AppliedProfile> profile = applied(profile_of(sheet_of(frame), fields, frame.metadata, session_.profiles()), frame.metadata);
        session_.jobs().run(
            "Exporting", [=](Progress& progress) { export_tiff(path.toStdString(), develop_file(frame.path, frame.metadata, fields, profile, progress), frame.metadata); },
            [=, this] { session_.tell("Exported to " + path); });
    });
}

void InspectPlace::choose_frame(const QString& path) {
    for (std::size_t i = 0; i < session_.frames().size(); ++i)
        if (q(session_.frames()[i].path.string()) == path) frames_->choose(static_cast<int>(i));
}

void InspectPlace::show_something() {
    if (frames_->chosen() < 0) frames_->choose(0);
}

}  // namespace optrel
