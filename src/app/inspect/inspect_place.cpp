// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/inspect_place.h"

#include <QCheckBox>
#include <QFileDialog>
#include <QSplitter>
#include <QToolButton>

#include "fleet/claim_dialog.h"
#include "jobs.h"
#include "studio/claim.h"
#include "studio/develop_frame.h"
#include "studio/frame_sheets.h"
#include "studio/knowledge.h"

namespace optrel {

InspectPlace::InspectPlace(const Parts& parts) : PlaceWidget(theme::Place::inspect), parts_(parts) {
    build();
    connect(&parts_.frames(), &FrameBook::changed, this, &InspectPlace::refresh_frames);
    connect(&parts_.frames(), &FrameBook::knowledge_changed, this, [this] {
        refresh_frames();
        refresh_sheet();
        develop();
    });
    connect(&parts_.sheets(), &SheetBook::changed, this, [this] {
        refresh_frames();
        refresh_sheet();
        develop();
    });
    const auto sheet = [this] {
        refresh_sheet();
        develop();
    };
    connect(&parts_.profiles(), &ProfileBook::changed, this, sheet);
    connect(&parts_.baselines(), &BaselineBook::changed, this, sheet);
    refresh_frames();
    refresh_sheet();
}

InspectPlace::~InspectPlace() {
    if (developing_) developing_->cancel();
}

void InspectPlace::build() {
    build_actions();
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(build_frames());
    across->addWidget(build_picture());
    sheet_ = new SheetPanel(parts_, [this] { return chosen_frames(); });
    across->addWidget(sheet_);
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
        sheet_->change_sheets("back to baseline", [this](const FrameRecord&, Sheet& sheet) {
            back_to_baseline(sheet, with_set_->isChecked());
        });
    });
    connect(bare_, &QPushButton::clicked, this,
            [this] { sheet_->change_sheets("make bare", [](const FrameRecord&, Sheet& sheet) { make_bare(sheet); }); });
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
    auto* layout = stacked_in(side);
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
    auto* layout = stacked_in(centre);
    layout->setSpacing(4);
    layout->addLayout(build_tools());
    layout->addWidget(view_, 1);
    layout->addWidget(about_);
    return centre;
}

const FrameRecord* InspectPlace::chosen() const {
    const int row = frames_->chosen();
    return row >= 0 && row < static_cast<int>(parts_.frames().all().size()) ? &parts_.frames().all()[row] : nullptr;
}

std::vector<const FrameRecord*> InspectPlace::chosen_frames() const {
    std::vector<const FrameRecord*> out;
    if (const FrameRecord* shown = chosen()) out.push_back(shown);
    for (const int row : frames_->chosen_rows())
        if (row != frames_->chosen() && row < static_cast<int>(parts_.frames().all().size()))
            out.push_back(&parts_.frames().all()[row]);
    return out;
}

void InspectPlace::refresh_frames() {
    // Frames can be two hundred thousand; a cell is made when it is looked at.
    const auto frames = parts_.frames().shared();
    frames_->set_lazy(static_cast<int>(frames->size()), [this, frames](int row, int column) {
        const FrameRecord& f = (*frames)[row];
        if (column == 0) return Cell(q(f.path.filename().string()), Cell::Tone::plain, q(f.path.string()));
        if (column == 1) return Cell(QString::number(f.metadata.iso), f.metadata.iso);
        if (const Sheet* sheet = parts_.sheets().find(f.path)) {
            switch (sheet->state()) {
                case FrameState::on_baseline: {
                    const bool behind = sheet->revision < parts_.baselines().current().number;
                    return behind ? Cell(QString("◐ baseline %1").arg(sheet->revision), Cell::Tone::warning,
                                         QString("behind revision %1").arg(parts_.baselines().current().number))
                                  : Cell(QString("● baseline %1").arg(sheet->revision), Cell::Tone::mark);
                }
                case FrameState::hand_set: return Cell("✎ hand-set", Cell::Tone::plain);
                case FrameState::exempt: return Cell("– exempt", Cell::Tone::plain);
                default: break;
            }
        } else if (const QString problem = parts_.sheets().problem(f.path); !problem.isEmpty()) {
            return Cell("✕ unreadable", Cell::Tone::serious, problem);
        }
        return Cell("untouched", Cell::Tone::faint);
    });
    if (!parts_.frames().any())
        show_empty(
            add_frames(parts_.frames(),
                       "Inspect shows single frames before and after, developed at full size and corrected, with the "
                       "sheet of every field: where it comes from and what was set by hand."));
    else
        show_empty(std::nullopt);
    if (!chosen())
        view_->clear(frames->empty() ? "The frames are being read …"
                                     : "Choose a frame in the list to see it before and after.");
}

void InspectPlace::refresh_sheet() {
    const FrameRecord* f = chosen();
    const Sheet* sheet = f ? parts_.sheets().find(f->path) : nullptr;
    back_->setEnabled(sheet && (!sheet->hand.empty() || !sheet->set.empty() || sheet->exempt));
    with_set_->setVisible(sheet && !sheet->set.empty());
    bare_->setEnabled(sheet && !sheet->exempt);
    export_->setEnabled(f != nullptr);
    for (QPushButton* b : {claim_body_, assign_lens_}) b->setEnabled(f != nullptr);
    claim_body_->setEnabled(f && !parts_.entries().bodies().empty());
    assign_lens_->setEnabled(f && !parts_.entries().lenses().empty());
    if (f && sheet) {
        const FrameKnowledge known = know(f->path, f->metadata, *parts_.entries().fleet());
        identity_->setText(QString("Body %1: %2, %3. Lens: %4, %5.")
                               .arg(q(to_string(known.body.knowledge)),
                                    known.body.id.empty() ? q(known.facts.model)
                                                          : q(parts_.entries().fleet()->body(known.body.id)->label()),
                                    q(known.body.why),
                                    known.lens.lens.empty() ? QString("unknown") : q(known.lens.lens),
                                    q(known.lens.why)));
    } else {
        identity_->clear();
    }
    sheet_->refresh();
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
    const ResolvedFrame fields = sheet_->fields_now(frame);
    const Metadata metadata = know(frame.path, frame.metadata, *parts_.entries().fleet()).metadata;
    const Sheet* sheet = parts_.sheets().find(frame.path);
    ProfileMatch match;
    QString about;
    if (!parts_.attempt(
            [&] { match = profile_of(sheet_->sheet_of(frame), fields, metadata, parts_.profiles().newest()); })) {
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
    if (sheet && sheet->state() == FrameState::untouched && parts_.baselines().current().number > 0)
        about += QString(". Nothing is rolled out to it yet; after shows revision %1.")
                     .arg(parts_.baselines().current().number);
    const std::optional<AppliedProfile> profile = applied(match, metadata);
    auto before = std::make_shared<QImage>();
    auto after = std::make_shared<QImage>();
    auto problem = std::make_shared<QString>();
    parts_.jobs().run_quietly(
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

void InspectPlace::claim_frames(Claim::Of of) {
    Claim start;
    start.of = of;
    for (const FrameRecord* f : chosen_frames()) start.frames.push_back(f->path.string());
    if (start.frames.empty()) return;
    ClaimDialog dialog(parts_, start, this);
    if (dialog.exec() == QDialog::Accepted)
        parts_.entries().edit(of == Claim::Of::lens ? "assign a lens" : "claim frames", edit_for_claim(dialog.claim()));
}

void InspectPlace::export_to(const QString& path) {
    const FrameRecord* f = chosen();
    if (!f) return;
    const FrameRecord frame = *f;
    const ResolvedFrame fields = sheet_->fields_now(frame);
    const Metadata metadata = know(frame.path, frame.metadata, *parts_.entries().fleet()).metadata;
    parts_.attempt([&] {
        const std::optional<AppliedProfile> profile =
            applied(profile_of(sheet_->sheet_of(frame), fields, metadata, parts_.profiles().newest()), metadata);
        parts_.jobs().run(
            "Exporting",
            [=](Progress& progress) {
                export_tiff(path.toStdString(), Existing::replace_ours,
                            develop_file(frame.path, metadata, fields, profile, progress), frame.path, metadata);
            },
            [=, this] { parts_.tell("Exported to " + path); });
    });
}

void InspectPlace::choose_frame(const QString& path) {
    for (std::size_t i = 0; i < parts_.frames().all().size(); ++i)
        if (q(parts_.frames().all()[i].path.string()) == path) frames_->choose(static_cast<int>(i));
}

void InspectPlace::show_something() {
    if (frames_->chosen() < 0) frames_->choose(0);
    sheet_->choose_field(Field::sharpening_amount);
}

}  // namespace optrel
