#include <fmt/format.h>

#include "commands.h"
#include "rollout/sheet.h"

namespace optrel::cli {

void add_frame(CLI::App& app) {
    struct Options {
        std::string frame, field, value;
    };
    auto* command = app.add_subcommand("frame", "The sheet of one frame");
    command->require_subcommand(1);
    auto o = std::make_shared<Options>();
    const auto sub = [&](const char* name, const char* what) {
        auto* s = command->add_subcommand(name, what);
        s->add_option("--frame", o->frame, "The frame")->required()->check(CLI::ExistingFile);
        return s;
    };
    auto* set = sub("set", "Set one field by hand; the frame becomes hand-set");
    set->add_option("--field", o->field, "Field id")->required();
    set->add_option("--value", o->value, "Its value")->required();
    set->callback([o] {
        Sheet sheet = read_sheet(o->frame);
        const Field field = field_by_id(o->field);
        if (sheet.exempt) throw input_error(fmt::format("{} is exempt; bring it back to its baseline first.", o->frame));
        sheet.hand[field] = value_from_text(field, o->value);
        write_sheet(o->frame, sheet);
    });
    auto* back = sub("back-to-baseline", "Drop what was set by hand");
    back->callback([o] {
        Sheet sheet = read_sheet(o->frame);
        sheet.hand.clear();
        sheet.exempt = false;
        write_sheet(o->frame, sheet);
    });
    auto* bare = sub("bare", "Drop every layer and make the frame exempt");
    bare->callback([o] {
        Sheet sheet;
        sheet.exempt = true;
        write_sheet(o->frame, sheet);
    });
    auto* show = sub("show", "Print the sheet as JSON");
    show->callback([o] {
        const Sheet sheet = read_sheet(o->frame);
        nlohmann::json out = {{"state", to_string(sheet.state())}, {"revision", sheet.revision}};
        for (const auto& [name, layer] : {std::pair("baseline", &sheet.baseline), {"set", &sheet.set}, {"hand", &sheet.hand}})
            for (const auto& [field, value] : *layer) out[name][info(field).id] = to_text(field, value);
        print_json(out);
    });
}

}  // namespace optrel::cli
