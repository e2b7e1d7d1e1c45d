// SPDX-License-Identifier: GPL-3.0-or-later
#include "lenses/lenses_place.h"

#include <QFileDialog>
#include <QSplitter>
#include <cmath>

#include "base/figure_text.h"
#include "base/files.h"
#include "base/output.h"
#include "lenses/profile_dialog.h"
#include "lenses/profile_rows.h"
#include "optics/compare_profiles.h"
#include "optics/placement.h"
#include "reach/reach_dialog.h"
#include "remarks/ask_remark.h"
#include "sharing/sharing_actions.h"
#include "widgets/frame_view.h"
#include "widgets/resolution_view.h"
#include "widgets/setting_chart.h"

namespace optrel {

LensesPlace::LensesPlace(const Parts& parts) : PlaceWidget(theme::Place::lenses), parts_(parts) {
    build();
    connect(&parts_.profiles(), &ProfileModel::changed, this, &LensesPlace::refresh);
    refresh();
}

void LensesPlace::build_actions() {
    export_ = button("&Export profile…", "Writes the chosen profile as JSON");
    auto* take_in = button("&Take in…", "Shows a profile or a bundle from a file, and takes it in if you wish");
    connect(export_, &QPushButton::clicked, this, &LensesPlace::ask_export);
    connect(take_in, &QPushButton::clicked, this, [this] {
        const QString path =
            QFileDialog::getOpenFileName(this, "Take in a profile", "", "Profile or bundle (*.json *.optrel.zip)");
        if (!path.isEmpty()) open_file(path);
    });
    build_share_menu();
    current_ = button("Make &current…", "Frames that the lens took get the chosen version from now on");
    withdraw_ = button("&Withdraw…", "The chosen version is no longer given to frames; it stays here with the reason");
    connect(current_, &QPushButton::clicked, this, &LensesPlace::ask_to_make_current);
    connect(withdraw_, &QPushButton::clicked, this, &LensesPlace::ask_to_withdraw);
    for (QPushButton* b : {current_, withdraw_, take_in, export_, share_}) actions_->addWidget(b);
}

void LensesPlace::build_share_menu() {
    share_ = button("S&hare", "Bundles, the profile exchange, and whose measurements count");
    auto* menu = new QMenu(share_);
    pack_ = menu->addAction("&Pack this profile into a bundle…");
    give_ = menu->addAction("&Give this profile to the exchange…");
    menu->addSeparator();
    auto* search = menu->addAction("&Search what others measured…");
    auto* keys = menu->addAction("&Whose measurements count…");
    menu->addSeparator();
    remark_ = menu->addAction("&Remark on this profile…");
    share_->setMenu(menu);
    connect(remark_, &QAction::triggered, this, [this] {
        if (shown_ >= 0) ask_remark(parts_, this, "profile", profiles_[shown_].id, q(profiles_[shown_].name));
    });
    connect(pack_, &QAction::triggered, this, [this] {
        if (shown_ >= 0)
            pack_bundle(parts_, this, packing(), "the profile " + q(profiles_[shown_].name), q(profiles_[shown_].name));
    });
    connect(give_, &QAction::triggered, this, [this] {
        if (shown_ >= 0) offer_profile(parts_, this, profiles_[shown_]);
    });
    connect(search, &QAction::triggered, this, [this] {
        ExchangeQuestion question;
        if (shown_ >= 0) question.lens = profiles_[shown_].lens;
        search_exchange(parts_, this, question);
    });
    connect(keys, &QAction::triggered, this, [this] { show_measurers(parts_, this); });
}

void LensesPlace::ask_to_make_current() {
    if (shown_ < 0) return;
    const Profile p = profiles_[shown_];
    ask_with_reach(
        parts_.jobs(), parts_.profiles().source(), this,
        {.title = "Make a version current",
         .heading = QString("%1: version %2 is to be current").arg(q(p.name)).arg(p.version),
         .text = p.state.withdrawn.empty() ? "" : "It was withdrawn: " + q(p.state.withdrawn),
         .verb = "Make &current",
         .note = "Why",
         .look =
             [p](const Store& store, Progress& progress) {
                 return reach_of_versions(store, with_current(store.profiles().all_versions(), p.id, p.version),
                                          progress);
             }},
        [this, p](const std::string& reason) {
            parts_.attempt([&] {
                parts_.profiles().make_current(p, reason);
                parts_.tell(
                    QString("%1 version %2 is current. Attention lists frames that were rolled out with another "
                            "version as behind.")
                        .arg(q(p.name))
                        .arg(p.version));
            });
        });
}

void LensesPlace::ask_to_withdraw() {
    if (shown_ < 0) return;
    const Profile p = profiles_[shown_];
    ask_with_reach(parts_.jobs(), parts_.profiles().source(), this,
                   {.title = "Withdraw a version",
                    .heading = QString("Withdraw %1 version %2").arg(q(p.name)).arg(p.version),
                    .text = "Frames get the newest version that is left, or none. “Make current” takes it back.",
                    .verb = "&Withdraw",
                    .note = "Reason",
                    .note_needed = true,
                    .look =
                        [p](const Store& store, Progress& progress) {
                            return reach_of_versions(
                                store, with_withdrawn(store.profiles().all_versions(), p.id, p.version), progress);
                        }},
                   [this, p](const std::string& reason) {
                       parts_.attempt([&] {
                           parts_.profiles().withdraw(p, reason);
                           parts_.tell(QString("%1 version %2 is withdrawn.").arg(q(p.name)).arg(p.version));
                       });
                   });
}

PackingList LensesPlace::packing() const {
    PackingList list;
    if (shown_ >= 0) list.profiles = {fmt::format("{}@{}", profiles_[shown_].id, profiles_[shown_].version)};
    return list;
}

void LensesPlace::ask_export() {
    if (shown_ < 0) return;
    const QString name = q(profiles_[shown_].name).replace('/', '-') + ".optrel.json";
    const QString path = QFileDialog::getSaveFileName(this, "Export the profile", name, "Profile (*.json)");
    if (path.isEmpty()) return;
    parts_.attempt([&] {
        write_output(path.toStdString(), json_output(), Existing::replace_ours, profile_to_json(profiles_[shown_]));
    });
}

namespace {

/// Time of measurement, and origin of imported profiles.
Cell measured_cell(const Profile& p) {
    const QString day = local_day(p.provenance.time);
    if (!p.taken_in) return day_cell(p.provenance.time);
    return {"← " + day, p.taken_in->standing == Standing::trusted ? Cell::Tone::mark : Cell::Tone::warning,
            "Taken in from " + q(describe(*p.taken_in))};
}

Cell version_cell(const Profile& p) {
    if (!p.state.withdrawn.empty())
        return {QString("× %1").arg(p.version), Cell::Tone::warning, "Withdrawn: " + q(p.state.withdrawn)};
    if (p.state.is_current()) return {QString("● %1").arg(p.version), Cell::Tone::mark, "Frames get this version"};
    return {QString::number(p.version), Cell::Tone::faint, "Another version is current"};
}

/// Largest RMS of the lens settings, or that nothing was measured.
Cell rms_cell(const Profile& p) {
    if (!p.measured()) return {q(to_string(p.origin)), Cell::Tone::warning, q(p.provenance.note)};
    double rms = 0;
    for (const ProfileNode& n : p.nodes) rms = std::max(rms, n.quality.rms_px);
    return measured_cell(figures::reprojection_error, rms);
}

TableOf<Profile>* new_profiles_table() {
    return new TableOf<Profile>(
        "Profiles", {{text_column("Lens"), [](const Profile& p) { return Cell(q(p.name)); }},
                     {text_column("Copy", 104),
                      [](const Profile& p) { return Cell(p.lens_serial.empty() ? "not named" : q(p.lens_serial)); }},
                     {figure_column("Version", 60), version_cell},
                     {figure_column("Settings", 66), [](const Profile& p) { return figure_cell(p.nodes.size()); }},
                     {figure_column("RMS px", 66), rms_cell},
                     {text_column("Measured", 98), measured_cell}});
}

}  // namespace

void LensesPlace::build() {
    build_actions();
    list_ = new_profiles_table();
    list_->give_files([this](int row) -> std::filesystem::path {
        if (row < 0 || row >= static_cast<int>(profiles_.size())) return {};
        PackingList list;
        list.profiles = {fmt::format("{}@{}", profiles_[row].id, profiles_[row].version)};
        return parts_.sharing().packed_to_drag(list, profiles_[row].name);
    });
    connect(list_, &Table::chosen_changed, this, &LensesPlace::show_profile);
    settings_ = new SettingChart;
    connect(settings_, &SettingChart::node_chosen, this, &LensesPlace::show_node);
    figures_ = new_figures_table(190);
    auto* left = new QSplitter(Qt::Vertical);
    left->addWidget(panel("Profiles, newest version of each lens first", list_));
    left->addWidget(panel("Lens settings", settings_));
    left->addWidget(panel("Figures", figures_));
    left->setSizes({170, 190, 320});

    curves_ = new ProfileCurves;
    other_ = new QComboBox;
    other_->setAccessibleName("Compare with");
    other_->setToolTip("Another version, another copy, or another lens setting of the same focal length");
    connect(other_, &QComboBox::activated, this, [this] { show_comparison(); });
    verdict_ = new QLabel;
    verdict_->setWordWrap(true);
    verdict_->setAccessibleDescription("Comparison");
    difference_ = new FrameView;
    difference_->setAccessibleName("Difference over the picture");
    difference_->set_meaning("difference");
    auto* comparison = new QWidget;
    auto* down = new QVBoxLayout(comparison);
    down->setContentsMargins(0, 4, 0, 0);
    auto* line = new QHBoxLayout;
    line->addWidget(new QLabel("Compare with"));
    line->addWidget(other_, 1);
    down->addLayout(line);
    down->addWidget(verdict_);
    down->addWidget(difference_, 1);
    tabs_ = new QTabWidget;
    tabs_->setDocumentMode(true);
    tabs_->setAccessibleName("Views of the profile");
    tabs_->addTab(curves_, "&Curves");
    tabs_->addTab(comparison, "&Difference");
    resolution_ = new ResolutionView;
    tabs_->addTab(resolution_, "&Resolution");
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(left);
    across->addWidget(tabs_);
    across->setSizes({620, 540});
    body_->addWidget(across, 1);
}

void LensesPlace::refresh() {
    parts_.attempt([this] { profiles_ = parts_.profiles().versions(); });
    if (profiles_.empty())
        show_empty(FirstStep{
            "Profiles are what was measured of lenses: one for each lens and copy, with its lens settings and all its "
            "versions, which stay here for good.\n\n"
            "Measure a lens on the Bench and publish it; then it can be looked at and compared here.",
            "Measure a lens on the &Bench",
            [this] { emit parts_.messages().go_to(static_cast<int>(theme::Place::bench)); }});
    else
        show_empty(std::nullopt);
    list_->show_records(profiles_);
    if (list_->chosen() < 0) list_->choose(0);
    show_profile(list_->chosen());
}

void LensesPlace::show_profile(int row) {
    shown_ = row < static_cast<int>(profiles_.size()) ? row : -1;
    for (QAction* a : {pack_, give_, remark_}) a->setEnabled(shown_ >= 0);
    export_->setEnabled(shown_ >= 0);
    current_->setEnabled(shown_ >= 0 && !profiles_[shown_].state.is_current());
    withdraw_->setEnabled(shown_ >= 0 && profiles_[shown_].state.withdrawn.empty());
    if (shown_ < 0) {
        figures_->set_rows({});
        curves_->clear();
        settings_->clear();
        other_->clear();
        verdict_->clear();
        difference_->clear("Two measurements are compared here once a profile is published.");
        resolution_->clear("What a lens resolves over the picture is shown here once its profile is published.");
        return;
    }
    show_node(std::min(node_, static_cast<int>(profiles_[shown_].nodes.size()) - 1));
}

void LensesPlace::show_node(int node) {
    node_ = node;
    settings_->show_profile(profiles_[shown_], node_);
    figures_->show_records(profile_figures(profiles_[shown_], node_));
    list_others();
    show_comparison();
}

/// Candidates for a comparison: settings with a similar focal length, of every version and copy.
void LensesPlace::list_others() {
    other_->clear();
    other_->addItem("nothing");
    const ProfileNode& here = profiles_[shown_].nodes[node_];
    for (std::size_t i = 0; i < profiles_.size(); ++i) {
        const Profile& p = profiles_[i];
        if (p.geometry.width != profiles_[shown_].geometry.width ||
            p.geometry.height != profiles_[shown_].geometry.height)
            continue;
        for (std::size_t k = 0; k < p.nodes.size(); ++k) {
            if (static_cast<int>(i) == shown_ && static_cast<int>(k) == node_) continue;
            if (std::abs(std::log(p.nodes[k].focal_mm / here.focal_mm)) > 0.1) continue;
            other_->addItem(QString("%1 %2, version %3, %4")
                                .arg(q(p.name), q(p.lens_serial))
                                .arg(p.version)
                                .arg(q(to_string(p.nodes[k].setting))),
                            QPoint(static_cast<int>(i), static_cast<int>(k)));
        }
    }
    if (other_->count() > 1) other_->setCurrentIndex(1);
}

void LensesPlace::show_comparison() {
    const Profile& p = profiles_[shown_];
    const ProfileNode& n = p.nodes[node_];
    if (other_->currentIndex() <= 0) {
        verdict_->clear();
        difference_->clear(other_->count() > 1 ? "Choose what to compare with."
                                               : "There is no second measurement to compare with: another version, "
                                                 "another copy, or another aperture.");
        curves_->show_profile(p, measured_node(p, node_));
        show_resolution({});
        return;
    }
    const QPoint which = other_->currentData().toPoint();
    const Profile& other = profiles_[which.x()];
    const ProfileNode& then = other.nodes[which.y()];
    QString name = QString("v%1").arg(other.version);
    if (other.lens_serial != p.lens_serial) name += " " + q(other.lens_serial);
    if (which.x() == shown_) name = q(to_string(then.setting));
    const ProfileCurves::Overlay overlay{&other, measured_node(other, which.y()), name};
    curves_->show_profile(p, measured_node(p, node_), overlay);
    show_resolution(overlay);
    try {
        const ProfileDifference d = compare_nodes(
            then, n, p.geometry, same_setting(then.setting, n.setting) ? same_lens(other, p) : SameLens::other_setting);
        std::vector<CornerMark> marks;
        std::vector<std::pair<QPointF, QString>> labels;
        for (std::size_t i = 0; i < d.places.size(); ++i)
            marks.push_back({{d.places[i].x(), d.places[i].y()}, {d.px[i].x(), d.px[i].y()}, false, true});
        if (!d.ev.empty())
            for (std::size_t i = 0; i < d.places.size(); ++i) {
                const Vec2 at(d.places[i].x() / p.geometry.width, d.places[i].y() / p.geometry.height);
                const auto on = [](double v, std::initializer_list<double> marks) {
                    return std::any_of(marks.begin(), marks.end(), [&](double m) { return std::abs(v - m) < 0.001; });
                };
                if (on(at.x(), {0.1, 0.5, 0.9}) && on(at.y(), {1 / 14.0, 0.5, 13 / 14.0}))
                    labels.emplace_back(QPointF(d.places[i].x(), d.places[i].y()),
                                        q(figure_text(figures::falloff, d.ev[i])));
            }
        difference_->set_frame(QImage(), QSizeF(p.geometry.width, p.geometry.height));
        difference_->set_corners(std::move(marks));
        difference_->set_labels(std::move(labels));
        verdict_->setText(q(d.sentence()));
        verdict_->setStyleSheet(QString("color: %1; font-weight: 600")
                                    .arg((d.verdict == RepeatVerdict::agrees ? theme::mark : theme::warning).name()));
    } catch (const Error& error) {
        verdict_->setText(q(error.what()));
        difference_->clear(q(error.what()));
    }
}

/// Resolution, beside that of the comparison if it has such a measurement.
void LensesPlace::show_resolution(const ProfileCurves::Overlay& other) {
    const Profile& p = profiles_[shown_];
    const ProfileNode& n = p.nodes[node_];
    if (n.resolution.empty())
        return resolution_->clear("No resolution was measured with this lens setting; measure its chart frames again.");
    std::optional<ResolutionView::Field> then;
    if (other.profile && !other.node.node.resolution.empty())
        then = ResolutionView::Field{other.name, other.profile->geometry, other.node.node.resolution};
    const QString own = other.profile == &p ? q(to_string(n.setting)) : QString("v%1").arg(p.version);
    resolution_->show_field({own, p.geometry, n.resolution}, std::move(then));
}

void LensesPlace::open_file(const QString& path) {
    if (named_as_bundle(path.toStdString())) return open_bundle(parts_, this, path.toStdString());
    parts_.attempt([&] { ProfileDialog(parts_, path, this).exec(); });
}

void LensesPlace::show_view(const QString& view) {
    for (int row = 0; row < static_cast<int>(profiles_.size()) && other_->count() < 2; ++row) list_->choose(row);
    tabs_->setCurrentIndex(view == "resolution" ? 2 : 1);
}

void LensesPlace::show_something() { list_->choose(0); }

}  // namespace optrel
