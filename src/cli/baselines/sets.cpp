// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "cli/commands.h"
#include "studio/baselines/drafting.h"
#include "studio/baselines/naming.h"
#include "studio/baselines/references.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct SetsOptions {
    std::string store, file, name, field, value, to;
    bool inherit = false, json = false, overwrite = false;
};

void edit_set(const SetsOptions& o) {
    check_set_name(o.name);
    const Field field = field_named(o.field);
    if (o.value.empty() != o.inherit) throw usage_error("Give one of --value and --inherit.");
    Store store = open_store(o.store, Access::write);
    const References known = references_for(field, store);
    store.baselines().change_draft([&](Revision& draft) {
        std::optional<Pin> pin;
        if (!o.inherit) pin = pin_named(field, o.value, known, draft);
        pin_in_set(draft, o.name, field, pin);
    });
}

void import_sets(const SetsOptions& o) {
    const std::vector<PinSet> sets = sets_from_json(read_file(o.file), o.file);
    Store store = open_store(o.store, Access::write);
    std::vector<std::string> replaced;
    store.baselines().change_draft([&](Revision& draft) {
        replaced = take_in_sets(draft, sets, o.overwrite ? TakeIn::replace : TakeIn::refuse_others);
    });
    for (const std::string& name : replaced) fmt::print(stderr, "The set '{}' is replaced.\n", name);
}

void run_delete(const SetsOptions& o) {
    Store store = open_store(o.store, Access::write);
    store.baselines().change_draft([&](Revision& draft) { delete_set(draft, o.name); });
}

void run_rename(const SetsOptions& o) {
    Store store = open_store(o.store, Access::write);
    store.baselines().change_draft([&](Revision& draft) { rename_set_to(draft, o.name, o.to); });
}

void list_sets(const SetsOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const Revision draft = store.baselines().draft();
    if (o.json) {
        json list = json::array();
        for (const PinSet& s : draft.sets) {
            json j = json::parse(set_to_text(s));
            j["used_by"] = users_of_set(draft, s.name);
            list.push_back(j);
        }
        return print_json(list);
    }
    for (const PinSet& s : draft.sets) {
        fmt::print("{}\n", s.name);
        for (const auto& [field, pin] : s.pins) fmt::print("    {}: {}\n", info(field).label, describe(field, pin));
    }
}

}  // namespace

void add_sets(CLI::App& command) {
    auto o = std::make_shared<SetsOptions>();
    auto* sets = add_command(command, "sets", "Named sets of pins", "baseline sets list");
    sets->require_subcommand(1);
    const auto sub = [&](const char* name, const char* what, const char* example) {
        auto* s = add_command(*sets, name, what, example);
        add_store_option(*s, o->store);
        return s;
    };
    auto* listing = sub("list", "List the sets of the draft", "baseline sets list --json");
    listing->add_flag("--json", o->json, "Print JSON");
    listing->callback([o] { list_sets(*o); });

    auto* editing = sub("pin", "Pin a field in a set; the set is made when there is none",
                        "baseline sets pin --name Fronds --field exposure --value 0.3");
    editing->add_option("--name", o->name, "Name of the set")->required();
    editing->add_option("--field", o->field, "Field id")->required();
    editing->add_option("--value", o->value, "Value or ramp");
    editing->add_flag("--inherit", o->inherit, "Take the pin out");
    editing->callback([o] { edit_set(*o); });

    auto* deleting = sub("delete", "Delete a set that nothing uses", "baseline sets delete --name Fronds");
    deleting->add_option("--name", o->name, "Name of the set")->required();
    deleting->callback([o] { run_delete(*o); });

    auto* renaming = sub("rename", "Give a set another name wherever it is named",
                         "baseline sets rename --name Fronds --to \"Dry fronds\"");
    renaming->add_option("--name", o->name, "Name of the set")->required();
    renaming->add_option("--to", o->to, "Its new name")->required();
    renaming->callback([o] { run_rename(*o); });

    auto* out = sub("export", "Print the sets of the draft as JSON, or write them to a file",
                    "baseline sets export --out sets.json");
    out->add_option("--out", o->file, "File to write (.json)");
    add_overwrite_flag(*out, o->overwrite);
    out->callback([o] {
        write_or_print(o->file, json_output(), o->overwrite,
                       sets_to_json(open_store(o->store, Access::read).baselines().draft().sets));
    });

    auto* in = sub("import", "Add sets from a file to the draft", "baseline sets import sets.json");
    in->add_option("file", o->file, "Sets (JSON)")->required();
    in->add_flag("--overwrite", o->overwrite, "Replace sets of the same name");
    in->callback([o] { import_sets(*o); });
}

}  // namespace optrel::cli
