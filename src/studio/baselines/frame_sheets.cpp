// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/baselines/frame_sheets.h"

#include <fmt/format.h>

#include "base/error.h"
#include "studio/baselines/naming.h"

namespace optrel {

Value hand_value(Field field, const std::string& text, const References& known) {
    const Pin pin = pin_from_text(field, text);
    if (pin.is_ramp())
        throw input_error(fmt::format("'{}' is a ramp over ISO, but a frame has one ISO; give one value.", text));
    return referred(field, pin.knots.front().second, known);
}

namespace {

void refuse_exempt(const Sheet& sheet) {
    if (sheet.exempt) throw input_error("The frame is exempt; bring it back to its baseline first.");
}

}  // namespace

void set_by_hand(Sheet& sheet, Field field, const Value& value) {
    refuse_exempt(sheet);
    sheet.hand[field] = value;
}

bool drop_field(Sheet& sheet, Field field) {
    for (Layer* layer : {&sheet.hand, &sheet.set, &sheet.baseline})
        if (layer->erase(field)) return true;
    return false;
}

void back_to_baseline(Sheet& sheet, bool with_set) {
    sheet.hand.clear();
    sheet.forget_later("hand/");
    sheet.exempt = false;
    if (!with_set) return;
    sheet.set.clear();
    sheet.forget_later("set/");
}

void make_bare(Sheet& sheet) {
    sheet = Sheet{};
    sheet.exempt = true;
}

Layer set_layer(const Revision& revision, const std::string& set, double iso) {
    Layer out;
    for (const FieldStatement& s : sayings(revision, {set_named(revision, set)}, {}))
        if (s.field != Field::start) out[s.field] = s.pin->at(s.field, iso);
    return out;
}

void put_set_on_top(Sheet& sheet, const Layer& set) {
    refuse_exempt(sheet);
    sheet.set = set;
}

Layer taken_by_hand(const Sheet& from, const std::vector<Field>& fields) {
    if (from.hand.empty()) throw input_error("Nothing is set by hand on that frame; choose one that was corrected.");
    if (fields.empty()) return from.hand;
    Layer out;
    for (const Field field : fields) {
        const auto at = from.hand.find(field);
        if (at == from.hand.end())
            throw input_error(
                fmt::format("The field {} is not set by hand on that frame; name fields that are.", info(field).id));
        out[field] = at->second;
    }
    return out;
}

std::vector<HandChange> changes_by(const Layer& values, const Sheet& to) {
    std::vector<HandChange> out;
    if (to.exempt) return out;
    for (const auto& [field, value] : values) {
        const auto own = to.hand.find(field);
        if (own == to.hand.end() || own->second != value) out.push_back({field, value_in(to, field), value});
    }
    return out;
}

SheetsEdited edit_sheets(const std::vector<std::filesystem::path>& frames,
                         const std::function<void(const std::filesystem::path&, Sheet&)>& edit, Progress& progress) {
    SheetsEdited out;
    progress.start(static_cast<int>(frames.size()), "Writing sheets");
    for (const auto& frame : frames) {
        progress.check();
        try {
            bool same = false;
            edit_sheet(frame, [&](Sheet& sheet) {
                const Sheet before = sheet;
                edit(frame, sheet);
                same = sheet == before;
            });
            ++(same ? out.same : out.changed);
        } catch (const std::exception& error) {
            const std::string why = reason_for(frame, error);
            out.failed.push_back(why.find(frame.filename().string()) == std::string::npos ? frame.string() + ": " + why
                                                                                          : why);
        }
        progress.step();
    }
    return out;
}

}  // namespace optrel
