// SPDX-License-Identifier: GPL-3.0-or-later
// What Inspect does when a person corrects by hand, or asks for help with it.
#include <algorithm>
#include <cmath>

#include "baselines/fringe_hues.h"
#include "frames/orientation.h"
#include "inspect/inspect_place.h"
#include "studio/frame_sheets.h"

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
    connect(view_, &CompareView::line_clicked, lines_, &StraightenTool::toggle);
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

void InspectPlace::find_lines() {
    const FrameRecord* f = chosen();
    if (!f) return;
    if (const std::optional<Recipe> r = recipe(*f))
        lines_->find(f->path, r->metadata, r->fields, r->profile, hand_->angles());
}

void InspectPlace::take_straightening() {
    const std::optional<Straightened> s = lines_->result();
    if (!s) return;
    const auto rounded = [](double angle) { return Value{std::round(angle * 100) / 100, ""}; };
    set_by_hand_together("straighten", {{Field::roll, rounded(s->turn.roll_deg)},
                                        {Field::pitch, rounded(s->turn.pitch_deg)},
                                        {Field::yaw, rounded(s->turn.yaw_deg)}});
    lines_->forget();
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
        FringeRecipe now;
        if (const FrameRecord* f = chosen())
            now.hues = fringe_hues(sheet_->fields_now(*f)[Field::fringe_hues].value.text);
        hand_->show_fringes(help_->fringes(), now);
    });
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
    connect(view_, &CompareView::area_marked, this, &InspectPlace::light_by_area);
}

void InspectPlace::ask_help(MeasuredHelp::Kind kind) {
    const FrameRecord* f = chosen();
    const std::optional<Recipe> r = f ? recipe(*f) : std::nullopt;
    if (!r) return;
    const std::filesystem::path path = f->path;
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
            view_->set_marking(true);
            hand_->show_help(kind, "Drag over an area of the picture that is evenly lit.", false);
    }
}

void InspectPlace::light_by_area(const QRectF& area) {
    const FrameRecord* f = chosen();
    const std::shared_ptr<const Framing> framing = looks_->framing();
    const std::optional<Recipe> r = f ? recipe(*f) : std::nullopt;
    view_->set_marking(false);
    if (!r || !framing) return;
    // The area of the frame in which the marked one was recorded.
    const Metadata& m = r->metadata;
    double left = m.width, top = m.height, right = 0, bottom = 0;
    for (const QPointF& corner : {area.topLeft(), area.topRight(), area.bottomLeft(), area.bottomRight()}) {
        const cv::Point2d p = place_on_sensor({corner.x(), corner.y()}, {m.width, m.height}, m.orientation);
        const auto at = framing->view.green({p.x, p.y});
        if (!at) continue;
        left = std::min(left, at->x());
        right = std::max(right, at->x());
        top = std::min(top, at->y());
        bottom = std::max(bottom, at->y());
    }
    const cv::Rect marked = cv::Rect(cv::Point(static_cast<int>(left), static_cast<int>(top)),
                                     cv::Point(static_cast<int>(right), static_cast<int>(bottom))) &
                            cv::Rect(0, 0, m.width, m.height);
    help_->ask(MeasuredHelp::Kind::light,
               [=, path = f->path, r = *r](const Progress& p) { return propose_light(path, r, marked, p); });
}

}  // namespace optrel
