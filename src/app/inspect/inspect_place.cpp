// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/inspect_place.h"

#include <QCheckBox>
#include <QFileDialog>
#include <QShortcut>
#include <QSpinBox>
#include <QSplitter>
#include <QToolButton>

#include "base/figure_text.h"
#include "frames/orientation.h"
#include "inspect/picture_places.h"
#include "jobs.h"
#include "remarks/ask_remark.h"
#include "sharing/sharing_actions.h"
#include "studio/baselines/frame_sheets.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/sensor_size.h"
#include "studio/profiles/frame_profile.h"
#include "view_settings.h"

namespace optrel {

namespace {

/// Width of the side panel; the picture gets the rest, 800 px of 1280.
constexpr int side_px = 336;

}  // namespace

InspectPlace::InspectPlace(const Parts& parts) : PlaceWidget(theme::Place::inspect), parts_(parts) {
    looks_ = new PreviewService(parts_.jobs());
    looks_->setParent(this);
    lines_ = new StraightenTool(parts_.jobs());
    lines_->setParent(this);
    help_ = new MeasuredHelp(parts_.jobs());
    help_->setParent(this);
    build_actions();
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(build_picture());
    across->addWidget(build_side());
    across->setStretchFactor(0, 1);
    across->setSizes({2000, side_px});
    remember_splitter(across, "inspect");
    body_->addWidget(across, 1);

    const auto all = [this] {
        frames_->refresh();
        refresh_sheet();
        look();
    };
    const auto sheet = [this] {
        refresh_sheet();
        look();
    };
    connect(&parts_.frames(), &FrameModel::changed, this, [this] { frames_->refresh(); });
    connect(&parts_.frames(), &FrameModel::knowledge_changed, this, all);
    connect(&parts_.sheets(), &SheetModel::changed, this, all);
    connect(&parts_.profiles(), &ProfileModel::changed, this, sheet);
    connect(&parts_.baselines(), &BaselineModel::changed, this, sheet);
    connect(frames_, &FramesPanel::chosen_changed, this, &InspectPlace::show_chosen);
    connect(&frames_->table(), &Table::selection_changed, this, [this] {
        if (pictures_->currentWidget() == spot_) show_spot(true);
    });
    connect(frames_, &FramesPanel::spot_asked, this, &InspectPlace::show_spot);
    connect(looks_, &PreviewService::whole_ready, view_, &CompareView::set_whole);
    connect(looks_, &PreviewService::whole_ready, this, &InspectPlace::show_framing);
    connect(looks_, &PreviewService::part_ready, view_, &CompareView::set_part);
    connect(looks_, &PreviewService::failed, view_, &CompareView::clear);
    connect(view_, &CompareView::view_changed, this, [this] { looks_->look_at(view_->visible(), view_->scale()); });
    connect(looks_, &PreviewService::loupes_ready, ring_, &LoupeRing::show_patches);
    connect(ring_, &LoupeRing::moved, this, [this] { looks_->look_through(ring_->patches()); });
    touch_ = new PictureTouch(*view_);
    listen_to_hand();
    listen_to_help();
    listen_to_touch();
    listen_to_figures();
    add_keys();
    refresh_sheet();
    look();
}

void InspectPlace::show_chosen() {
    hand_->settle();  // for the previously shown frame
    turning_.clear();
    lines_->forget();
    help_->forget();
    touch_->begin(PictureTool::none);
    sharpness_->clear();
    edge_.reset();
    patch_shown_ = false;
    readout_->clear();
    looks_->read({});
    view_->set_whole_marks({});
    view_->set_part_marks({});
    refresh_sheet();
    look();
}

void InspectPlace::build_actions() {
    back_ = button("Back to &baseline", "Drops what was set by hand; the baseline beneath stays");
    bare_ = button("Ba&re", "Drops every layer and makes the frame exempt from rollouts");
    export_ = button("E&xport…", "Goes to Exports with this frame: deliveries say what is written of it");
    others_ = button("Put on &others…",
                     "Puts what is set by hand on this frame on the other chosen ones, field by field, once you saw "
                     "what changes");
    with_set_ = new QCheckBox("and the set");
    with_set_->setToolTip("Back to baseline drops the set on top as well");
    connect(back_, &QPushButton::clicked, this, [this] {
        sheet_->change_sheets("back to baseline", [this](const FrameRecord&, Sheet& sheet) {
            back_to_baseline(sheet, with_set_->isChecked());
        });
    });
    connect(bare_, &QPushButton::clicked, this,
            [this] { sheet_->change_sheets("make bare", [](const FrameRecord&, Sheet& sheet) { make_bare(sheet); }); });
    connect(others_, &QPushButton::clicked, this, [this] { sheet_->put_on_others(); });
    connect(export_, &QPushButton::clicked, this, [this] {
        if (const FrameRecord* f = chosen())
            emit parts_.messages().go_to(static_cast<int>(theme::Place::exports), q(f->path.string()));
    });
    share_ = button("S&hare", "What others measured of this lens, and a bundle of what the chosen frames need");
    auto* menu = new QMenu(share_);
    auto* search = menu->addAction("&Search what others measured of its lens…");
    auto* pack = menu->addAction("&Pack what the chosen frames need…");
    auto* remark = menu->addAction("&Remark on this frame…");
    share_->setMenu(menu);
    connect(remark, &QAction::triggered, this, [this] {
        if (const FrameRecord* f = chosen())
            ask_remark(parts_, this, "frame", f->path.string(), q(f->path.filename().string()));
    });
    connect(search, &QAction::triggered, this, [this] {
        const FrameRecord* f = chosen();
        if (!f) return;
        const Metadata m = know(f->path, f->metadata, *parts_.entries().fleet()).metadata;
        search_exchange(parts_, this, question_for(m, geometry_of(m)));
    });
    connect(pack, &QAction::triggered, this, &InspectPlace::pack_for_frames);
    auto* second =
        button("Own wi&ndow", "The picture alone in a second window, for another screen; F11 fills the screen with it");
    connect(second, &QPushButton::clicked, this, &InspectPlace::open_picture_window);
    for (QWidget* w : std::initializer_list<QWidget*>{second, with_set_, back_, bare_, others_, export_, share_})
        actions_->addWidget(w);
}

/// The bundle is in the folder of the frames, and is offered when that is opened.
void InspectPlace::pack_for_frames() {
    PackingList list;
    for (const FrameRecord* f : frames_->chosen_frames()) list.frames.push_back(*f);
    if (list.frames.empty()) return;
    const std::filesystem::path folder = list.frames.front().path.parent_path();
    const QString count =
        list.frames.size() == 1 ? QString("this frame needs") : QString("these %1 frames need").arg(list.frames.size());
    pack_bundle(parts_, this, list, "the tiers, profiles, bodies and lenses that " + count,
                q(folder.filename().string()), q(folder.string()));
}

QWidget* InspectPlace::build_side() {
    frames_ = new FramesPanel(parts_, "inspect");
    sheet_ = new SheetPanel(parts_, [this] { return frames_->chosen_frames(); });
    hand_ = new HandPanel;
    tabs_ = new QTabWidget;
    tabs_->addTab(sheet_, "Sheet");
    tabs_->addTab(hand_, "By hand");
    cost_ = new CostPanel;
    tabs_->addTab(cost_, "Cost");
    sharpness_ = new SharpnessPanel;
    tabs_->addTab(sharpness_, "Sharpness");
    tabs_->setTabToolTip(3, "What the lens resolves, by an edge of the frame, before and after the correction");
    tabs_->setTabToolTip(2, "What the correction costs: how far samples are pulled apart, and what is clipped");
    connect(tabs_, &QTabWidget::currentChanged, this, [this] {
        looks_->want_light(tabs_->currentWidget() == cost_);
        show_framing();
    });
    connect(looks_, &PreviewService::light_ready, cost_, &CostPanel::show_light);
    auto* side = new QSplitter(Qt::Vertical);
    side->addWidget(frames_);
    side->addWidget(tabs_);
    side->setStretchFactor(1, 1);
    // Pictures need more room than the table; each has its own place of the splitter.
    const auto key = [](bool pictures) { return QString(pictures ? "inspect/pictures" : "inspect/side"); };
    const auto sizes = [side, key](bool pictures) {
        side->setSizes(pictures ? QList<int>{400, 290} : QList<int>{230, 460});
        restore_splitter(side, key(pictures));
    };
    sizes(frames_->view().shows_pictures());
    connect(&frames_->view(), &TableOrPictures::switched, side, sizes);
    remember_splitter(side, [this, key] { return key(frames_->view().shows_pictures()); });
    side->setMinimumWidth(side_px);
    return side;
}

void InspectPlace::build_grid_and_loupes(FlowLayout& bar) {
    auto* pitch = new QSpinBox;
    pitch->setRange(0, 5000);
    pitch->setSingleStep(50);
    pitch->setPrefix("Grid ");
    pitch->setSuffix(" px");
    pitch->setSpecialValueText("No grid");
    pitch->setAccessibleName("Grid");
    pitch->setToolTip("Lines over the picture, so many of its pixels apart, for checking what should be straight");
    bar.add_gap(8);
    bar.addWidget(pitch);
    loupes_ = new QToolButton;
    loupes_->setText("&Loupes");
    loupes_->setAccessibleName("Loupes");
    loupes_->setToolTip(
        "The middle, the edges and the corners magnified at once, before and after, with what is measured "
        "there; drag in a loupe to move it");
    loupes_->setCheckable(true);
    loupes_->setStyleSheet("padding: 3px 5px");
    bar.add_gap(8);
    bar.addWidget(loupes_);
    connect(loupes_, &QToolButton::toggled, this, &InspectPlace::show_loupes);
    connect(pitch, &QSpinBox::valueChanged, view_, &CompareView::set_grid);
}

QLayout* InspectPlace::build_tools() {
    modes_ = new QButtonGroup(this);
    zooms_ = new QButtonGroup(this);
    auto* bar = new FlowLayout(3);
    const auto tool = [&](QButtonGroup* group, const QString& text, const QString& hint, int id) {
        auto* b = new QToolButton;
        b->setText(text);
        b->setToolTip(hint);
        b->setAccessibleName(QString(text).remove('&'));
        b->setCheckable(true);
        b->setStyleSheet("padding: 3px 5px");
        group->addButton(b, id);
        bar->addWidget(b);
    };
    using Mode = CompareView::Mode;
    const auto mode = [&](const QString& text, const QString& hint, Mode m) {
        tool(modes_, text, hint, static_cast<int>(m));
    };
    mode("Befor&e", "The frame with nothing applied", Mode::before);
    mode("A&fter", "The frame with its sheet and its lens profile; the space bar swaps", Mode::after);
    mode("&Split", "Both, with a vertical line between them that can be dragged", Mode::split);
    mode("Split le&vel", "Both, with a horizontal line between them that can be dragged", Mode::split_down);
    mode("Besi&de", "Both side by side, in step", Mode::beside);
    mode("D&ifference", "After less before, exaggerated about grey", Mode::difference);
    modes_->button(static_cast<int>(Mode::split))->setChecked(true);
    view_->set_mode(Mode::split);
    bar->add_gap(10);
    tool(zooms_, "Fit", "The whole picture; a double click changes between fit and 100 %", 0);
    tool(zooms_, "100 %", "One screen pixel for each picture pixel; the wheel zooms to the pointer", 1);
    tool(zooms_, "200 %", "Two by two screen pixels for each picture pixel", 2);
    tool(zooms_, "400 %", "Four by four screen pixels for each picture pixel", 4);
    zooms_->button(0)->setChecked(true);
    build_grid_and_loupes(*bar);
    connect(modes_, &QButtonGroup::idClicked, this, [this](int id) { view_->set_mode(static_cast<Mode>(id)); });
    connect(zooms_, &QButtonGroup::idClicked, this, [this](int id) { view_->set_zoom(id); });
    connect(view_, &CompareView::mode_changed, this,
            [this] { modes_->button(static_cast<int>(view_->mode()))->setChecked(true); });
    connect(view_, &CompareView::zoomed, this, [this] {
        zooms_->setExclusive(false);
        for (QAbstractButton* b : zooms_->buttons()) b->setChecked(view_->zoom() == zooms_->id(b));
        zooms_->setExclusive(true);
    });
    return bar;
}

QWidget* InspectPlace::build_picture() {
    view_ = new CompareView;
    about_ = new QLabel;
    about_->setObjectName("faint");
    about_->setWordWrap(true);
    about_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    auto* centre = new QWidget;
    auto* layout = stacked_in(centre);
    layout->setSpacing(4);
    layout->addLayout(build_tools());
    ring_ = new LoupeRing;
    pictures_ = new QStackedWidget;
    pictures_->addWidget(view_);
    pictures_->addWidget(ring_);
    spot_ = new SpotBoard(parts_.jobs());
    pictures_->addWidget(spot_);
    layout->addWidget(pictures_, 1);
    crop_ = new QLabel;
    crop_->hide();
    layout->addWidget(crop_);
    readout_ = new Readout;
    layout->addWidget(readout_);
    layout->addWidget(about_);
    return centre;
}

void InspectPlace::refresh_sheet() {
    const FrameRecord* f = chosen();
    const Sheet* sheet = f ? parts_.sheets().find(f->path) : nullptr;
    back_->setEnabled(sheet && (!sheet->hand.empty() || !sheet->set.empty() || sheet->exempt));
    with_set_->setVisible(sheet && !sheet->set.empty());
    bare_->setEnabled(sheet && !sheet->exempt);
    export_->setEnabled(f != nullptr);
    share_->setEnabled(f != nullptr);
    others_->setEnabled(sheet && !sheet->hand.empty());
    sheet_->refresh();
    if (f && sheet && !sheet->exempt)
        hand_->show_fields(sheet_->fields_now(*f), sheet->hand);
    else
        hand_->show_none();
    hand_->show_carried(f ? q(f->metadata->carries) : QString());
}

std::optional<InspectPlace::Development> InspectPlace::development(const FrameRecord& frame) {
    Development r;
    r.path = frame.path;
    r.metadata =
        with_pitch(know(frame.path, frame.metadata, *parts_.entries().fleet()).metadata, parts_.profiles().all());
    r.sensor = sensor_of(frame);
    r.fields = sheet_->fields_now(frame);
    for (const auto& [field, value] : turning_) r.fields.fields[static_cast<int>(field)].value = value;
    const bool done = parts_.attempt(
        [&] { r.match = profile_of(sheet_->sheet_of(frame), r.fields, r.metadata, parts_.profiles().all()); });
    if (!done) return std::nullopt;
    take_profile(r, r.match);
    return r;
}

SensorFacts InspectPlace::sensor_of(const FrameRecord& frame) const {
    const std::shared_ptr<const Fleet> fleet = parts_.entries().fleet();
    return sensor_facts(know(frame.path, frame.metadata, *fleet).facts, *fleet, parts_.profiles().bodies());
}

std::optional<InspectPlace::Development> InspectPlace::chosen_development() {
    const FrameRecord* f = chosen();
    return f ? development(*f) : std::nullopt;
}

QString InspectPlace::about(const FrameRecord& frame, const Development& r) const {
    QString text = q(frame.path.filename().string());
    if (r.match.usable())
        text += QString(": %1 version %2, match %3")
                    .arg(q(r.match.profile->name))
                    .arg(r.match.profile->version)
                    .arg(q(to_string(r.match.grade)));
    else
        text += ": no lens profile applies";
    for (const std::string& reason : r.match.reasons) text += "; " + q(reason);
    for (const std::string& reason : r.match.against) text += "; but " + q(reason);
    const Sheet* sheet = parts_.sheets().find(frame.path);
    if (sheet && sheet->state() == FrameState::untouched && parts_.baselines().current().number > 0)
        text += QString(". Nothing is rolled out to it yet; after shows revision %1")
                    .arg(parts_.baselines().current().number);
    const FrameKnowledge known = know(frame.path, frame.metadata, *parts_.entries().fleet());
    text += QString(". Body %1: %2, %3. Lens: %4, %5.")
                .arg(q(to_string(known.body.knowledge)),
                     known.body.id.empty() ? q(known.facts.model)
                                           : q(parts_.entries().fleet()->body(known.body.id)->label()),
                     q(known.body.why), known.lens.lens.empty() ? QString("unknown") : q(known.lens.lens),
                     q(known.lens.why));
    return text;
}

/// Requests the selected frame with its current development.
void InspectPlace::look() {
    if (pictures_->currentWidget() == spot_) show_spot(frames().chosen() >= 0);
    if (!parts_.frames().any())
        show_empty(
            add_frames(parts_.frames(),
                       "Inspect shows single frames before and after, developed at full size and corrected, with the "
                       "sheet of every field: where it comes from and what was set by hand."));
    else
        show_empty(std::nullopt);
    const FrameRecord* f = chosen();
    if (!f) {
        shown_.clear();
        looks_->show_nothing();
        show_second();
        about_->clear();
        view_->clear(parts_.frames().all().empty() ? "The frames are being read …"
                                                   : "Choose a frame in the list to see it before and after.");
        return;
    }
    const std::optional<Development> r = development(*f);
    if (!r) return;
    const PreviewSubject subject{f->path, r->metadata, r->sensor};
    if (shown_ != f->path) {
        shown_ = f->path;
        view_->set_size(subject.size());
        ring_->set_size(subject.size());
        if (loupes_->isChecked()) looks_->look_through(ring_->patches());
        view_->clear("Developing " + q(f->path.filename().string()) + " …");
    }
    about_->setText(about(*f, *r));
    looks_->show(subject, r->fields, r->profile);
    std::vector<PreviewSubject> beside;
    for (const FrameRecord* n : frames_->neighbours()) beside.push_back({n->path, n->metadata, sensor_of(*n)});
    looks_->read_ahead(std::move(beside));
}

/// Shows the crop with its cost, and the lines of straightening.
void InspectPlace::show_framing() {
    view_->set_crop({});
    crop_->hide();
    const std::shared_ptr<const Framing>& framing = looks_->framing();
    const FrameRecord* f = chosen();
    if (!f || !framing) {
        cost_->clear();
        touch_->show_over(nullptr, {});
        return view_->set_lines({});
    }
    const Metadata& m = f->metadata;
    touch_->show_over(framing, m);
    if (cost_->isVisible()) cost_->show_stretch(framing->view, m.orientation);
    const cv::Size size(m.width, m.height);
    if (const cv::Rect& k = framing->kept; k.size() != size) {
        const cv::Point2d a = place_as_held({double(k.x), double(k.y)}, size, m.orientation),
                          b = place_as_held({double(k.br().x), double(k.br().y)}, size, m.orientation);
        const QRectF kept = QRectF(QPointF(a.x, a.y), QPointF(b.x, b.y)).normalized();
        view_->set_crop(kept);
        crop_->setText(QString("The crop keeps %1 × %2 px; %3 of the picture is lost.")
                           .arg(kept.width())
                           .arg(kept.height())
                           .arg(q(figure_text(figures::light, 100 - 100.0 * k.area() / size.area()))));
        crop_->show();
    }
    view_->set_lines(lines_over(*framing, m));
}

/// Actions for the visible part of the side panel.
std::vector<PictureMarks::Line> InspectPlace::lines_over(const Framing& framing, const Metadata& m) const {
    std::vector<PictureMarks::Line> marked;
    const auto line = [&](const Vec2& from, const Vec2& to) {
        const auto a = place_in_picture(from, framing, m), b = place_in_picture(to, framing, m);
        return a && b ? QLineF(*a, *b) : QLineF();
    };
    if (tabs_->currentWidget() == sharpness_ && edge_)
        marked.push_back({line(edge_->first, edge_->second), theme::mark, false});
    if (tabs_->currentWidget() == sharpness_)
        for (const SharpnessPanel::Edge& e : sharpness_->edges())
            marked.push_back({line(e.from, e.to), e.soft ? theme::warning : theme::mark, false});
    if (tabs_->currentWidget() != hand_) return marked;
    for (const StraightenTool::Shown& s : lines_->shown()) {
        QColor colour = theme::faint_ink;
        if (s.used == LineSense::vertical) colour = theme::mark;
        if (s.used == LineSense::horizontal) colour = theme::warning;
        // One shortcut each, so that the numbers stay the same.
        marked.push_back({line({s.line.x1(), s.line.y1()}, {s.line.x2(), s.line.y2()}), colour, s.struck});
    }
    return marked;
}

void InspectPlace::show_something() {
    if (frames().chosen() < 0) frames().choose(0);
    sheet_->choose_field(Field::sharpening_amount);
}

}  // namespace optrel
