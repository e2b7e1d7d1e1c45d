// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "cli/commands.h"
#include "frames/metadata.h"
#include "studio/baselines/frame_sheets.h"
#include "studio/baselines/frame_trace.h"
#include "studio/baselines/naming.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/measured_facts.h"
#include "studio/frames/scope.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct FrameOptions {
    std::vector<std::string> frames, folders;
    std::string store, field, value, set, from;
    std::vector<std::string> fields;
    bool json = false, with_set = false, rehearse = false;
};

/// Frames given by name, and known frames in the given folders.
std::vector<std::filesystem::path> frames_of(const FrameOptions& o) {
    std::vector<std::filesystem::path> out(o.frames.begin(), o.frames.end());
    if (!o.folders.empty()) {
        const Store store = open_store(o.store, Access::read);
        for (const FrameRecord& f : frames_in(store.frames().all(), {o.folders.begin(), o.folders.end()}))
            out.push_back(f.path);
    }
    if (out.empty()) throw usage_error("Name frames with --frame, or folders of the store's frames with --folder.");
    return out;
}

void edit(const FrameOptions& o, const std::function<void(const std::filesystem::path&, Sheet&)>& change) {
    const SheetsEdited done = edit_sheets(frames_of(o), change, console_progress());
    if (o.json) print_json({{"changed", done.changed}, {"same", done.same}, {"failed", done.failed}});
    fail_with(done.failed);
}

void set_field(const FrameOptions& o) {
    const Field field = field_named(o.field);
    // Loads profiles and colour files only for fields that refer to them.
    const std::vector<std::string>& words = info(field).choices;
    const bool names = (field == Field::lens_profile || field == Field::colour_source) &&
                       std::find(words.begin(), words.end(), o.value) == words.end();
    if (names && o.store.empty())
        throw usage_error(
            fmt::format("{} '{}' is looked up in a store; name it with --store.", info(field).label, o.value));
    References known;
    if (names) {
        const Store store = open_store(o.store, Access::read);
        known = references_for(field, store);
    }
    const Value value = hand_value(field, o.value, known);
    edit(o, [&](const std::filesystem::path&, Sheet& sheet) { set_by_hand(sheet, field, value); });
}

json change_json(const HandChange& c) {
    json j = {{"field", info(c.field).id}, {"after", to_text(c.field, c.after)}};
    if (c.before) j["before"] = to_text(c.field, *c.before);
    return j;
}

/// Changes by frame; unreadable frames are reported at the end.
void rehearse_hand(const FrameOptions& o, const Layer& values) {
    json frames = json::array();
    std::vector<std::string> problems;
    for (const auto& frame : frames_of(o)) {
        try {
            const Sheet sheet = read_sheet(frame);
            if (sheet.exempt) throw input_error(frame.string() + " is exempt; bring it back to its baseline first.");
            json changes = json::array();
            for (const HandChange& c : changes_by(values, sheet)) changes.push_back(change_json(c));
            frames.push_back({{"frame", frame.string()}, {"changes", changes}});
        } catch (const Error& error) {
            problems.push_back(error.what());
        }
    }
    if (!frames.empty()) print_json(frames);
    fail_with(problems);
}

void put_hand(const FrameOptions& o) {
    std::vector<Field> fields;
    for (const std::string& id : o.fields) fields.push_back(field_named(id));
    const Layer values = taken_by_hand(read_sheet(o.from), fields);
    if (o.rehearse) return rehearse_hand(o, values);
    edit(o, [&](const std::filesystem::path&, Sheet& sheet) {
        for (const auto& [field, value] : values) set_by_hand(sheet, field, value);
    });
}

/// Origin of values, which the store knows and a sidecar does not contain.
class Tracer {
public:
    explicit Tracer(const std::string& store)
        : store_(open_store(store, Access::read)),
          fleet_(store_.registry().fleet()),
          measurements_(current_measurements(store_)),
          current_(std::make_shared<const Resolver>(store_.baselines().current())) {}

    /// Trace of each field with a value in a tier or a layer, by its id.
    json of(const std::filesystem::path& frame, const Sheet& sheet) {
        FrameFacts facts = know(frame, read_metadata(frame), *fleet_).facts;
        facts.measured = measured_facts(facts, *fleet_, measurements_);
        const auto resolver =
            resolver_of(sheet, current_, [this](int number) { return store_.baselines().revision(number); });
        json out = json::object();
        for (const FieldInfo& f : all_fields()) {
            const std::vector<TraceLine> lines = frame_trace(sheet, facts, f.field, *resolver);
            if (lines.size() < 2) continue;
            for (const TraceLine& line : lines) {
                json j = {{"from", line.source}, {"value", to_text(f.field, line.value)}};
                if (!line.remark.empty()) j["remark"] = line.remark;
                out[f.id].push_back(std::move(j));
            }
        }
        return out;
    }

private:
    Store store_;
    std::shared_ptr<const Fleet> fleet_;
    std::vector<Measurement> measurements_;
    std::shared_ptr<const Resolver> current_;
};

json sheet_json(const std::filesystem::path& frame, Tracer* tracer) {
    const Sheet sheet = read_sheet(frame);
    json out = {{"frame", frame.string()}, {"state", to_string(sheet.state())}, {"revision", sheet.revision}};
    for (const auto& [name, layer] :
         {std::pair("baseline", &sheet.baseline), {"set", &sheet.set}, {"hand", &sheet.hand}})
        for (const auto& [field, value] : *layer) out[name][info(field).id] = to_text(field, value);
    if (tracer) out["trace"] = tracer->of(frame, sheet);
    return out;
}

/// An unreadable sheet is reported after all others.
void show(const FrameOptions& o) {
    json list = json::array();
    std::vector<std::string> problems;
    std::optional<Tracer> tracer;
    if (!o.store.empty()) tracer.emplace(o.store);
    for (const auto& frame : frames_of(o)) {
        try {
            list.push_back(sheet_json(frame, tracer ? &*tracer : nullptr));
        } catch (const Error& error) {
            problems.push_back(error.what());
        }
    }
    if (!list.empty()) print_json(list.size() == 1 && problems.empty() ? list.front() : list);
    fail_with(problems);
}

void add_put_hand(CLI::App& hand, const std::shared_ptr<FrameOptions>& o) {
    hand.add_option("--from", o->from, "The frame that it is taken from")->required()->check(CLI::ExistingFile);
    hand.add_option("--field", o->fields, "Field ids; all that are set by hand when none is named");
    hand.add_flag("--rehearse", o->rehearse, "Print what would change as JSON, and change nothing");
    hand.callback([o] { put_hand(*o); });
}

}  // namespace

void add_frame(CLI::App& app) {
    auto* command = add_command(app, "frame", "The sheets of frames", "frame show --frame SP0005.dng");
    command->require_subcommand(1);
    auto o = std::make_shared<FrameOptions>();
    const auto sub = [&](const char* name, const char* what, const char* example) {
        auto* s = add_command(*command, name, what, example);
        add_store_option(*s, o->store);
        s->add_option("--frame", o->frames, "Frames")->check(CLI::ExistingFile);
        s->add_option("--folder", o->folders, "All frames of the store in these folders and beneath them");
        return s;
    };
    const auto editing = [&](const char* name, const char* what, const char* example) {
        auto* s = sub(name, what, example);
        s->add_flag("--json", o->json, "Print what was changed as JSON");
        return s;
    };
    auto* set = editing("set", "Set one field by hand; the frames become hand-set",
                        "frame set --frame SP0005.dng --field exposure --value 0.25");
    set->add_option("--field", o->field, "Field id")->required();
    set->add_option("--value", o->value, "Its value")->required();
    set->callback([o] { set_field(*o); });

    auto* drop = editing("drop", "Drop a field's value from the highest layer",
                         "frame drop --frame SP0005.dng --field exposure");
    drop->add_option("--field", o->field, "Field id")->required();
    drop->callback([o] {
        const Field field = field_named(o->field);
        edit(*o, [&](const std::filesystem::path&, Sheet& sheet) { drop_field(sheet, field); });
    });

    auto* put = editing("put-set", "Put a set of the draft on top of the baseline, in place of the one before",
                        "frame put-set --folder shoot-12 --set Fronds");
    put->add_option("--set", o->set, "Name of the set")->required();
    put->callback([o] {
        const Revision draft = open_store(o->store, Access::read).baselines().draft();
        const std::string name = set_named(draft, o->set);  // throws for an unknown set before any frame is changed
        edit(*o, [&](const std::filesystem::path& frame, Sheet& sheet) {
            put_set_on_top(sheet, set_layer(draft, name, read_metadata(frame).iso));
        });
    });

    add_put_hand(*editing("put-hand", "Put what is set by hand on one frame on others",
                          "frame put-hand --from SP0005.dng --frame SP0006.dng --field roll --rehearse"),
                 o);

    auto* back = editing("back-to-baseline", "Drop what was set by hand", "frame back-to-baseline --frame SP0005.dng");
    back->add_flag("--with-set", o->with_set, "Drop the set on top as well");
    back->callback(
        [o] { edit(*o, [&](const std::filesystem::path&, Sheet& sheet) { back_to_baseline(sheet, o->with_set); }); });

    auto* bare = editing("bare", "Drop every layer and make the frames exempt", "frame bare --frame SP0005.dng");
    bare->callback([o] { edit(*o, [](const std::filesystem::path&, Sheet& sheet) { make_bare(sheet); }); });

    auto* showing = sub("show", "Print the sheets as JSON, with --store also where each value comes from",
                        "frame show --frame SP0005.dng --store studio");
    showing->add_flag("--json", o->json, "Print JSON (the only form)");
    showing->callback([o] { show(*o); });
}

}  // namespace optrel::cli
