// SPDX-License-Identifier: GPL-3.0-or-later
// Manual corrections and measured proposals in Inspect.
#include <algorithm>
#include <cmath>

#include "base/figure_text.h"
#include "base/station.h"
#include "baselines/fringe_hues.h"
#include "frames/orientation.h"
#include "inspect/embedded_dialog.h"
#include "inspect/inspect_place.h"
#include "jobs.h"
#include "studio/baselines/frame_sheets.h"
#include "studio/calibration/camera_file.h"
#include "studio/calibration/embedded_profile.h"
#include "studio/calibration/hand_profile.h"
#include "studio/fleet/claim.h"

namespace optrel {

void InspectPlace::listen_to_hand() {
    connect(hand_, &HandPanel::tried, this, [this](Field field, const Value& value) {
        turning_[field] = value;
        look();
    });
    connect(hand_, &HandPanel::settled, this, &InspectPlace::set_by_hand_now);
    connect(hand_, &HandPanel::returned, this, [this](Field field) {
        turning_.erase(field);
        sheet_->change_sheet(shown_, "drop " + q(info(field).label), [field](Sheet& s) { s.hand.erase(field); });
        refresh_sheet();
        look();
    });
    connect(hand_, &HandPanel::angles_changed, this, [this] { lines_->set_angles(hand_->angles()); });
    connect(hand_, &HandPanel::lines_asked, this, &InspectPlace::find_lines);
    connect(hand_, &HandPanel::straightening_taken, this, &InspectPlace::take_straightening);
    connect(lines_, &StraightenTool::changed, this, [this] {
        hand_->show_straightened(lines_->text(), lines_->result().has_value());
        show_framing();
    });
    connect(hand_, &HandPanel::keep_asked, this, &InspectPlace::keep_as_profile);
    connect(hand_, &HandPanel::carried_asked, this, &InspectPlace::compare_carried);
    connect(view_, &CompareView::line_clicked, this, [this](int line) {
        if (tabs_->currentWidget() == hand_) lines_->toggle(line);
    });
}

void InspectPlace::set_by_hand_now(Field field, const Value& value) {
    turning_.erase(field);
    const bool done = parts_.attempt([&] {
        const Value valid = value_from_text(field, to_text(field, value));
        sheet_->change_sheet(shown_, "set " + q(info(field).label) + " by hand",
                             [&](Sheet& sheet) { set_by_hand(sheet, field, valid); });
    });
    if (!done) refresh_sheet();
    look();
}

void InspectPlace::keep_as_profile() {
    hand_->settle();
    const std::optional<Development> r = chosen_development();
    if (!r) return;
    auto made = std::make_shared<HandProfile>();
    parts_.jobs().run(
        "Keeping as a profile",
        [made, path = r->path, r = *r](Progress&) { *made = profile_by_hand(path, r, current_author()); },
        [this, made] {
            parts_.attempt([&] {
                const Profile p = parts_.profiles().publish(made->profile, OtherSettings::keep);
                QString said = QString("%1 version %2 is published, marked as made by hand; assign it in Fleet.")
                                   .arg(q(p.name))
                                   .arg(p.version);
                if (made->light_off_ev > 0.02)
                    said += QString(" Its falloff follows the corner light to %1.")
                                .arg(q(figure_text(figures::falloff_size, made->light_off_ev)));
                parts_.tell(said);
            });
        });
}

void InspectPlace::compare_carried() {
    const std::optional<Development> r = chosen_development();
    if (!r) return;
    auto found = std::make_shared<EmbeddedComparison>();
    parts_.jobs().run(
        "Comparing what the file carries",
        [found, path = r->path, r = *r](Progress&) { *found = optrel::compare_carried(path, r, current_author()); },
        [this, found, r = *r] { offer_profile(found->in_words(), found->made.profile, r, "embedded"); });
}

void InspectPlace::open_camera_file(const QString& path) {
    const std::optional<Development> r = chosen_development();
    if (!r) return parts_.tell("Choose a frame of its camera and lens first; then drop the camera model again.", true);
    auto found = std::make_shared<CameraFile>();
    parts_.jobs().run(
        "Reading a camera model",
        [found, file = path.toStdString(), r = *r](Progress&) {
            *found = profile_of_camera_file(file, r.path, r, current_author());
        },
        [this, found, r = *r] { offer_profile(found->in_words(), found->profile, r, "of a calibration file"); });
}

/// Compares an embedded or imported correction with the profile in use, and publishes it on request.
void InspectPlace::offer_profile(const std::string& words, const Profile& own, const Development& development,
                                 const QString& marked) {
    const std::vector<Profile>& known = parts_.profiles().all();
    const auto in_use = std::find_if(known.begin(), known.end(), [&](const Profile& p) {
        return p.id == development.profile_id && p.version == development.profile_version;
    });
    EmbeddedDialog ask(q(words), own, in_use == known.end() ? nullptr : &*in_use, development.metadata, this);
    if (ask.exec() != QDialog::Accepted) return;
    parts_.attempt([&] {
        const Profile p = parts_.profiles().publish(own, OtherSettings::keep);
        parts_.tell(QString("%1 version %2 is published, marked as %3; assign it in Fleet.")
                        .arg(q(p.name))
                        .arg(p.version)
                        .arg(marked));
    });
}

void InspectPlace::find_lines() {
    if (const std::optional<Development> r = chosen_development())
        lines_->find(r->path, r->metadata, r->fields, r->profile, hand_->angles());
}

void InspectPlace::take_straightening() {
    const std::optional<Straightened> s = lines_->result();
    if (!s) return;
    const auto rounded = [](double angle) { return Value{std::round(angle * 100) / 100, ""}; };
    set_by_hand_together("straighten", {{Field::roll, rounded(s->turn.roll_deg)},
                                        {Field::pitch, rounded(s->turn.pitch_deg)},
                                        {Field::yaw, rounded(s->turn.yaw_deg)}});
    lines_->forget();
    if (touch_->tool() == PictureTool::corners) touch_->begin(PictureTool::none);
}

void InspectPlace::set_by_hand_together(const QString& what, const std::vector<std::pair<Field, Value>>& values) {
    parts_.attempt([&] {
        sheet_->change_sheet(shown_, what, [&](Sheet& sheet) {
            for (const auto& [field, value] : values)
                set_by_hand(sheet, field, value_from_text(field, to_text(field, value)));
        });
    });
}

void InspectPlace::listen_to_help() {
    connect(hand_, &HandPanel::help_asked, this, &InspectPlace::ask_help);
    connect(hand_, &HandPanel::help_taken, this, [this] {
        if (const std::optional<FieldProposal> p = help_->proposal())
            set_by_hand_together("take a proposal", p->values);
        help_->forget();
    });
    connect(help_, &MeasuredHelp::said, this, [this](MeasuredHelp::Kind kind, const QString& text, bool takeable) {
        const bool listed = kind == MeasuredHelp::Kind::fringes && takeable;
        hand_->show_help(kind, listed ? "Tick what is a fault:" : text, takeable);
        if (kind != MeasuredHelp::Kind::fringes) return;
        view_->set_spots({});
        DefringingSettings now;
        if (const FrameRecord* f = chosen())
            now.hues = fringe_hues(sheet_->fields_now(*f)[Field::fringe_hues].value.text);
        hand_->show_fringes(help_->fringes(), now);
    });
    connect(hand_, &HandPanel::fringe_chosen, this, &InspectPlace::show_fringe);
    connect(hand_, &HandPanel::fringe_ticked, this, [this](int fringe, bool fault) {
        const FrameRecord* f = chosen();
        if (!f || fringe < 0 || fringe >= static_cast<int>(help_->fringes().size())) return;
        constexpr double most_of_it = 80;
        parts_.attempt([&] {
            const std::string now = sheet_->fields_now(*f)[Field::fringe_hues].value.text;
            const std::string hues = with_hue(now, help_->fringes()[fringe].hue, fault ? most_of_it : 0);
            set_by_hand_together("name fringes", {{Field::fringe_hues, {0, hues}}});
        });
    });
}

void InspectPlace::show_fringe(int fringe) {
    std::vector<QPointF> spots;
    const FrameRecord* f = chosen();
    if (f && fringe >= 0 && fringe < static_cast<int>(help_->fringes().size()))
        for (const cv::Point& p : help_->fringes()[fringe].places) {
            const cv::Point2d held = place_as_held({p.x + 0.5, p.y + 0.5}, {f->metadata->width, f->metadata->height},
                                                   f->metadata->orientation);
            spots.emplace_back(held.x, held.y);
        }
    view_->set_spots(std::move(spots));
}

void InspectPlace::ask_help(MeasuredHelp::Kind kind) {
    const std::optional<Development> r = chosen_development();
    if (!r) return;
    const std::filesystem::path path = r->path;
    using Kind = MeasuredHelp::Kind;
    switch (kind) {
        case Kind::colours:
            return help_->ask(kind, [=, r = *r](const Progress& p) { return propose_colours(path, r, p); });
        case Kind::fringes:
            return help_->ask_fringes([=, r = *r](const Progress& p) { return list_fringes(path, r, p); });
        case Kind::distortion: {
            const std::shared_ptr<const FrameLines> lines = lines_->lines();
            if (!lines)
                return hand_->show_help(kind, "Find the lines first, and strike out those that are bent.", false);
            return help_->ask(kind, [=, wanted = lines_->wanted(), r = *r](const Progress&) {
                return propose_distortion(*lines, wanted, r);
            });
        }
        case Kind::light:
            help_->forget();
            touch_->begin(PictureTool::even_area);
            return hand_->show_help(kind, "Drag over an area of the picture that is evenly lit.", false);
        case Kind::neutral:
            help_->forget();
            touch_->begin(PictureTool::grey_area);
            hand_->show_help(kind, "Drag over an area of the picture that is to be grey.", false);
    }
}

/// What an area that was drawn is for: white balance or corner light.
void InspectPlace::mark_area(PictureTool tool, const QRectF& area) {
    const std::optional<Development> r = chosen_development();
    if (!r) return;
    const cv::Rect marked(static_cast<int>(area.left()), static_cast<int>(area.top()), static_cast<int>(area.width()),
                          static_cast<int>(area.height()));
    if (tool == PictureTool::grey_area)
        return help_->ask(MeasuredHelp::Kind::neutral, [=, path = r->path, r = *r](const Progress& p) {
            return propose_neutral(path, r, marked, p);
        });
    help_->ask(MeasuredHelp::Kind::light,
               [=, path = r->path, r = *r](const Progress& p) { return propose_light(path, r, marked, p); });
}

}  // namespace optrel
