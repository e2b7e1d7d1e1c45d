// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/defects_dialog.h"

#include <QVBoxLayout>
#include <algorithm>

#include "base/station.h"
#include "base/times.h"
#include "base/words.h"
#include "jobs.h"
#include "reach/reach_dialog.h"
#include "sensor/defect_kind.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"
#include "widgets/sensor_view.h"

namespace optrel {
namespace {

constexpr double deep_dust_percent = 2;
constexpr int shown_problems = 6;

}  // namespace

QString dust_in_words(const DefectMap& map) {
    if (map.flats == 0) return "Dust was not looked for: there were no flat fields.";
    if (map.dust.empty()) return "No dust was found.";
    const auto deep = std::count_if(map.dust.begin(), map.dust.end(),
                                    [](const DustSpot& d) { return d.depth_percent > deep_dust_percent; });
    const QString spots = q(counted(static_cast<long long>(map.dust.size()), "dust spot", "dust spots"));
    if (deep == 0) return QString("%1, none deeper than %2 % of the light.").arg(spots).arg(deep_dust_percent);
    return QString("%1, %2 deeper than %3 % of the light: clean the sensor.")
        .arg(spots)
        .arg(deep)
        .arg(deep_dust_percent);
}

DefectsDialog::DefectsDialog(const Parts& parts, QWidget* parent) : QDialog(parent), parts_(parts) {
    setWindowTitle("Find the defects of a sensor");
    resize(900, 680);
    build();
    refresh();
}

void DefectsDialog::build() {
    auto* how = new QLabel(
        "Dark frames with the cap on, eight of each ISO and exposure time that matters (two at least), show hot and "
        "unstable pixels; six flat fields with a small aperture, out of focus, show dead pixels and dust. Frames sort "
        "themselves by their light.");
    how->setWordWrap(true);
    look_ = button("&Find defects", "Looks at all frames; nothing is kept before it is published", true);
    connect(look_, &QPushButton::clicked, this, &DefectsDialog::look);
    picker_ = new FramePicker(parts_.jobs(), "Dark frames and flat fields", look_, this);
    connect(picker_, &FramePicker::changed, this, &DefectsDialog::refresh);
    view_ = new SensorView;
    view_->clear("The sensor with its defects and dust is drawn here.");
    said_ = new QLabel;
    said_->setWordWrap(true);
    said_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* buttons = answer_buttons(*this, "&Publish…", [this] {
        publish();
        return false;  // the dialog closes when it is published
    });
    publish_ = taking(*buttons);
    publish_->setToolTip(
        "Keeps the map in the store; its pixels are replaced in every development of the body's frames");
    auto* all = new QVBoxLayout(this);
    all->addWidget(how);
    all->addWidget(picker_);
    all->addWidget(view_, 1);
    all->addWidget(said_);
    all->addWidget(buttons);
}

void DefectsDialog::look() {
    if (running_.running() || picker_->frames().empty()) return;
    result_ = nullptr;
    view_->clear("Looking; the line at the bottom of the window tells how far it is.");
    said_->clear();
    const auto result = std::make_shared<DefectSearch>();
    running_.start(
        parts_.jobs(), "Looking for defects",
        [frames = picker_->frames(), result](Progress& progress) {
            const SortedFrames sorted = sorted_by_light(frames, progress);
            *result = find_defects(sorted.flats, sorted.darks, progress);
        },
        [this, result](const std::string& problem) {
            if (problem.empty()) {
                result_ = result;
                show_result();
            } else {
                view_->clear("");
                said_->setText(q(problem));
            }
            refresh();
        });
    refresh();
}

void DefectsDialog::show_result() {
    result_->map.author = current_author();
    result_->map.time = utc_now();
    const DefectMap& map = result_->map;
    view_->show_map(map, result_->evenness);
    QStringList lines;
    lines << QString("%1 %2: %3 frames used. %4")
                 .arg(q(map.camera), q(map.serial))
                 .arg(map.frames.size())
                 .arg(dust_in_words(map));
    for (int i = 0; i < static_cast<int>(result_->problems.size()); ++i)
        if (i < shown_problems)
            lines << "! " + q(result_->problems[static_cast<std::size_t>(i)]);
        else if (i == shown_problems)
            lines << QString("! and %1 more frames").arg(result_->problems.size() - shown_problems);
    said_->setText(lines.join("\n"));
}

void DefectsDialog::refresh() {
    look_->setEnabled(!picker_->frames().empty() && !running_.running());
    publish_->setEnabled(result_ && !running_.running());
}

void DefectsDialog::publish() {
    if (!result_) return;
    parts_.attempt([&] {
        const std::string document = defects_to_json(result_->map);
        const Measurement proposed = defect_kind().read(document, "The defect map");
        defect_kind().require_plausible(document);
        ask_with_reach(
            parts_.jobs(), parts_.profiles().source(), this,
            {.title = "Publish a defect map",
             .heading = "Publish " + q(proposed.name),
             .text = "Frames on disk stay as they are. From now on these pixels are replaced whenever a frame of this "
                     "body is shown or exported; withdrawing the map takes it back.",
             .verb = "&Publish"},
            [this, document](const std::string&) {
                parts_.attempt([&] {
                    const Measurement m = parts_.profiles().publish(defect_kind(), document, OtherSettings::drop);
                    parts_.tell(QString("%1 is published as version %2.").arg(q(m.name)).arg(m.version));
                    accept();
                });
            });
    });
}

}  // namespace optrel
