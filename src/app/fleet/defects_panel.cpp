// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/defects_panel.h"

#include <QFileDialog>
#include <QSplitter>
#include <QVBoxLayout>

#include "base/figure_text.h"
#include "base/output.h"
#include "fleet/defects_dialog.h"
#include "fleet/version_actions.h"
#include "sensor/defect_kind.h"
#include "widgets/place.h"
#include "widgets/sensor_view.h"

namespace optrel {

DefectsPanel::DefectsPanel(const Parts& parts, QWidget* parent) : QWidget(parent), parts_(parts) {
    build();
    connect(&parts_.profiles(), &ProfileModel::changed, this, [this] {
        stale_ = true;
        if (isVisible()) refresh();
    });
}

void DefectsPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (stale_) refresh();
}

void DefectsPanel::build() {
    const auto of_kind = [](DefectKind kind) {
        return [kind](const Version& v) { return figure_cell(v.map.count(kind)); };
    };
    list_ = new TableOf<Version>(
        "Defect maps",
        {{text_column("Body"), [](const Version& v) { return Cell(measured_body(v.measurement)); }},
         {figure_column("Version", 60), [](const Version& v) { return version_cell(v.measurement); }},
         {text_column("Found", 88), [](const Version& v) { return day_cell(v.measurement.time); }},
         {figure_column("Hot", 46), of_kind(DefectKind::hot)},
         {figure_column("Unstable", 66), of_kind(DefectKind::unstable)},
         {figure_column("Dead", 48), of_kind(DefectKind::dead)},
         {figure_column("Lines", 48),
          [](const Version& v) { return figure_cell(static_cast<int>(v.map.lines.size())); }},
         {figure_column("Dust", 46), [](const Version& v) { return figure_cell(static_cast<int>(v.map.dust.size())); }},
         {figure_column("New", 46), [](const Version& v) {
              return v.first ? Cell("–") : figure_cell(v.change.new_pixels + v.change.new_lines);
          }}});
    connect(list_, &Table::chosen_changed, this, &DefectsPanel::show_version);
    notes_ = new QLabel;
    notes_->setWordWrap(true);
    notes_->setAlignment(Qt::AlignTop);
    notes_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    notes_->setMargin(4);
    view_ = new SensorView;
    auto* buttons = build_buttons();
    auto* left = new QSplitter(Qt::Vertical);
    left->addWidget(panel("Defect maps, newest version first", list_));
    left->addWidget(panel("What it was made from", notes_));
    left->setSizes({360, 160});
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(left);
    across->addWidget(panel("Where the defects are", view_));
    across->setSizes({620, 560});
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 6, 0, 0);
    layout->setSpacing(4);
    layout->addLayout(buttons);
    layout->addWidget(across, 1);
}

QHBoxLayout* DefectsPanel::build_buttons() {
    auto* find = button("&Find defects…", "Finds the defects of a body on dark frames and flat fields", true);
    save_ = button("Save as &text…", "The chosen map as CSV: kind, place and strength of each defect");
    current_ = button("Make &current…", "Frames of the body are repaired by the chosen version from now on");
    withdraw_ = button("&Withdraw…", "The chosen version repairs nothing any more; it stays here with the reason");
    connect(find, &QPushButton::clicked, this, &DefectsPanel::ask_to_find);
    connect(save_, &QPushButton::clicked, this, [this] {
        const QString path =
            QFileDialog::getSaveFileName(this, "Save the defects as text", "defects.csv", "CSV (*.csv)");
        if (!path.isEmpty()) save_text(path);
    });
    connect(current_, &QPushButton::clicked, this, [this] {
        if (const Version* v = chosen())
            make_version_current(parts_, this, v->measurement,
                                 "Frames on disk stay as they are. From now on this version's pixels are replaced "
                                 "whenever a frame of the body is shown or exported.");
    });
    connect(withdraw_, &QPushButton::clicked, this, [this] {
        if (const Version* v = chosen())
            withdraw_version(parts_, this, v->measurement,
                             "Frames on disk stay as they are. From now on the newest version before it repairs the "
                             "body's frames, or none.");
    });
    empty_ = new QLabel;
    empty_->setObjectName("faint");
    empty_->setWordWrap(true);
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(empty_, 1);
    for (QPushButton* b : {save_, current_, withdraw_, find}) buttons->addWidget(b);
    return buttons;
}

void DefectsPanel::refresh() {
    stale_ = false;
    versions_.clear();
    parts_.attempt([this] {
        for (Measurement& m : parts_.profiles().versions(defect_kind())) {
            DefectMap map = defects_from_json(m.document, m.name);
            versions_.push_back({std::move(m), std::move(map), {}, true});
        }
    });
    compare_versions();
    empty_->setText(versions_.empty()
                        ? "No body has a defect map yet. Take eight dark frames with the cap on, at the ISO and "
                          "exposure times that you use, and six flat fields; then find the defects here."
                        : "");
    list_->show_records(versions_);
    if (list_->chosen() < 0) list_->choose(0);
    show_version(list_->chosen());
}

void DefectsPanel::compare_versions() {
    for (Version& v : versions_)
        for (const Version& before : versions_)
            if (before.measurement.id == v.measurement.id && before.measurement.version + 1 == v.measurement.version) {
                v.change = change_between(before.map, v.map);
                v.first = false;
            }
}

const DefectsPanel::Version* DefectsPanel::chosen() const {
    return shown_ >= 0 ? &versions_[static_cast<std::size_t>(shown_)] : nullptr;
}

void DefectsPanel::show_something() {
    if (stale_) refresh();
    if (list_->chosen() < 0) list_->choose(0);
}

void DefectsPanel::show_version(int row) {
    shown_ = row >= 0 && row < static_cast<int>(versions_.size()) ? row : -1;
    const Version* v = chosen();
    save_->setEnabled(v);
    current_->setEnabled(v && !v->measurement.state.is_current());
    withdraw_->setEnabled(v && v->measurement.state.withdrawn.empty());
    if (!v) {
        notes_->clear();
        return view_->clear("The sensor of a measured body is drawn here.");
    }
    view_->show_map(v->map);
    QStringList lines;
    for (const DarkSetting& s : v->map.settings)
        lines << QString("%1 dark frames at ISO %2, %3: noise ± %4 counts.")
                     .arg(s.frames)
                     .arg(s.iso)
                     .arg(s.exposure_s > 0 ? QString("%1 s").arg(s.exposure_s, 0, 'g', 4)
                                           : QString("exposure time not recorded"))
                     .arg(q(number_text(figures::counts, s.noise)));
    if (v->map.settings.empty()) lines << "No dark frames: hot and unstable pixels were not looked for.";
    lines << (v->map.flats > 0 ? QString("%1 flat fields.").arg(v->map.flats)
                               : QString("No flat fields: dead pixels were not looked for."));
    lines << dust_in_words(v->map);
    if (!v->first)
        lines << QString("Since the version before: %1 pixels and %2 lines are new, %3 and %4 are gone.")
                     .arg(v->change.new_pixels)
                     .arg(v->change.new_lines)
                     .arg(v->change.gone_pixels)
                     .arg(v->change.gone_lines);
    notes_->setText(lines.join("\n"));
}

void DefectsPanel::ask_to_find() {
    auto* dialog = new DefectsDialog(parts_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

void DefectsPanel::save_text(const QString& path) {
    const Version* v = chosen();
    if (!v) return;
    parts_.attempt([&] {
        write_output(path.toStdString(), csv_output(), Existing::replace_ours, defects_to_csv(v->map));
        parts_.tell("Saved " + path);
    });
}

}  // namespace optrel
