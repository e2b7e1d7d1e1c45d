// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "cli/commands.h"
#include "cli/confirm.h"
#include "store/store.h"
#include "studio/baselines/drafting.h"
#include "studio/baselines/references.h"
#include "studio/baselines/tiers.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct DraftOptions {
    std::string store, file, field, value, ramp, measured, note, author, use_set, from, to;
    TierDescription tier;
    bool inherit = false, json = false, overwrite = false, replace = false, published = false, yes = false,
         fix_profiles = false;
};

Pin with_measured(Pin pin, const std::optional<MeasurementReference>& measured) {
    pin.measured = measured;
    return pin;
}

void pin(const DraftOptions& o) {
    if (o.field.empty() == o.use_set.empty()) throw usage_error("Give either --field with a value or --use-set.");
    if (!o.field.empty() && int(!o.value.empty()) + int(!o.ramp.empty()) + int(o.inherit) != 1)
        throw usage_error("Give one of --value, --ramp and --inherit.");
    if (!o.value.empty() && o.value.find(':') != std::string::npos)
        throw usage_error(fmt::format("'{}' has knots over ISO; give them with --ramp.", o.value));
    if (!o.ramp.empty() && o.ramp.find(':') == std::string::npos)
        throw usage_error(fmt::format("'{}' is no ramp; write knots as ISO:VALUE, for instance 100:0,800:20.", o.ramp));
    if (!o.measured.empty() && o.value.empty() && o.ramp.empty())
        throw usage_error("--measured needs a value or a ramp that was derived from the measurement.");
    const std::optional<Field> field = o.field.empty() ? std::nullopt : std::optional(field_named(o.field));
    Store store = open_store(o.store, Access::write);
    const Tier conditions = described_tier(o.tier, Naming(store));
    const References known = field ? references_for(*field, store) : References();
    std::optional<MeasurementReference> measured;
    if (!o.measured.empty()) {
        // A pin records the version that its value comes from, so the version has to be given.
        const Measurement m = measurement_named(store, to_string(measurement_reference(o.measured)));
        measured = {m.id, m.version};
    }
    Tier after;
    store.baselines().change_draft([&](Revision& draft) {
        const std::string id = tier_with(draft, conditions).id;
        if (!field)
            use_set(draft, id, o.use_set, !o.inherit);
        else if (o.inherit)
            pin_in_tier(draft, id, *field, std::nullopt);
        else
            pin_in_tier(draft, id, *field,
                        with_measured(pin_named(*field, o.ramp.empty() ? o.value : o.ramp, known, draft), measured));
        after = *draft.tier(id);
        drop_empty_tier(draft, id);
    });
    if (o.json)
        print_json({{"tier", after.name},
                    {"id", after.id},
                    {"pins", json::parse(pins_to_json(after.pins))},
                    {"sets", after.sets}});
}

void list_tiers(const DraftOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const Revision r = o.published ? store.baselines().current() : store.baselines().draft();
    if (o.json) {
        json list = json::array();
        for (const Tier& t : r.tiers) list.push_back(json::parse(tier_to_text(t)));
        return print_json(list);
    }
    for (const Tier& t : r.tiers) {
        fmt::print("{}  {}\n", t.id, t.name);
        if (!t.sets.empty()) fmt::print("    sets: {}\n", fmt::join(t.sets, ", "));
        for (const auto& [field, p] : t.pins) fmt::print("    {}: {}\n", info(field).label, describe(field, p));
    }
}

void copy_tier(const DraftOptions& o) {
    Store store = open_store(o.store, Access::write);
    const Tier conditions = described_tier(o.tier, Naming(store));
    store.baselines().change_draft([&](Revision& draft) {
        const std::string to = tier_with(draft, conditions).id;
        copy_pins(draft, o.from, to);
    });
}

void import_draft(const DraftOptions& o) {
    const Revision wanted = revision_from_json(read_file(o.file), o.file);
    Store store = open_store(o.store, Access::begin);
    const Revision current = store.baselines().current();
    int changes = 0;
    store.baselines().change_draft([&](Revision& draft) {
        changes = take_in_draft(draft, wanted, current, o.replace ? TakeIn::replace : TakeIn::refuse_others);
    });
    if (o.json)
        print_json({{"replaced_changes", changes}});
    else if (changes > 0)
        fmt::print(stderr, "{} changes of the draft that were not published are replaced.\n", changes);
}

void publish(const DraftOptions& o) {
    Store store = open_store(o.store, Access::write);
    confirm(store, "Publishing the draft, before any rollout",
            reach_of_revision(store, store.baselines().draft(), console_progress()), o.yes);
    using Versions = StoredBaselines::ProfileVersions;
    const auto& [revision, changes] = publish_draft(store, author_or_me(o.author), o.note, nullptr,
                                                    o.fix_profiles ? Versions::fix : Versions::follow);
    if (!o.json) {
        fmt::print("Published revision {} with {} changes\n", revision.number, changes.size());
        return;
    }
    json list = json::array();
    for (const RevisionChange& c : changes)
        list.push_back({{"tier", c.tier}, {"field", c.field}, {"before", c.before}, {"after", c.after}});
    print_json({{"revision", revision.number}, {"changes", list}});
}

json field_json(const FieldInfo& f) {
    static const char* types[] = {"number", "choice", "flag", "reference"};
    json j = {{"id", f.id},
              {"label", f.label},
              {"type", types[static_cast<int>(f.type)]},
              {"neutral", to_text(f.field, f.neutral)},
              {"nature", f.nature == FieldNature::look ? "look" : "technical"},
              {"meaning", f.meaning}};
    if (f.type == FieldType::number) j.update({{"low", f.low}, {"high", f.high}, {"unit", f.unit}});
    if (!f.choices.empty()) j["choices"] = f.choices;
    return j;
}

/// docs/fields.md is this text.
void print_fields(bool as_json) {
    if (as_json) {
        json list = json::array();
        for (const FieldInfo& f : all_fields()) list.push_back(field_json(f));
        return print_json(list);
    }
    fmt::print("# Fields of a baseline\n\n");
    fmt::print(
        "What no tier pins has its neutral value. Technical fields belong in a baseline; look fields are a matter of "
        "taste.\n\n");
    fmt::print("| field | id | values | neutral | nature | meaning |\n|---|---|---|---|---|---|\n");
    for (const FieldInfo& f : all_fields()) {
        std::string values = fmt::format("{}", fmt::join(f.choices, ", "));
        if (f.type == FieldType::number)
            values = fmt::format("{:g} to {:g}{}{}", f.low, f.high, f.unit.empty() ? "" : " ", f.unit);
        if (f.field == Field::start) values += ", or the word set and the name of a set";
        if (f.field == Field::lens_profile) values += ", or a profile's id";
        if (f.field == Field::colour_source) values += ", or a colour file";
        fmt::print("| {} | `{}` | {} | {} | {} | {} |\n", f.label, f.id, values, to_display(f.field, f.neutral),
                   f.nature == FieldNature::look ? "look" : "technical", f.meaning);
    }
}

void add_tier_options(CLI::App& command, TierDescription& tier) {
    command.add_option("--scope", tier.scope, "studio, model or body")->capture_default_str();
    command.add_option("--target", tier.target,
                       "The model or the body of the scope: id, asset tag, serial number or name");
    command.add_option("--lens", tier.lens,
                       "A lens by its text; with --lens-copy a copy by id, asset tag, serial number or name");
    command.add_flag("--lens-copy", tier.lens_is_copy, "--lens names a copy");
    command.add_option("--iso", tier.iso, "ISO span, as in 1600-6400 [default: any]");
    command.add_option("--kind", tier.kind, "raw, rendered or both")->capture_default_str();
    command.add_flag("--not-registered-yet", tier.not_registered_yet,
                     "Take names as they are spelt, for a body or lens that is registered later");
}

}  // namespace

void add_draft(CLI::App& app) {
    auto* command = add_command(app, "baseline", "Edit the draft of the baseline and publish it",
                                "baseline pin --field sharpening_amount --value 40");
    command->require_subcommand(1);
    auto o = std::make_shared<DraftOptions>();
    add_baseline_checks(*command);
    add_sets(*command);
    add_derive_noise(*command);

    auto* pinning = add_command(
        *command, "pin", "Pin a field in the tier with exactly these conditions; the tier is made when there is none",
        "baseline pin --scope body --target HB-014 --iso 1600-6400 --field luminance_noise --value 55");
    add_store_option(*pinning, o->store);
    add_tier_options(*pinning, o->tier);
    pinning->add_option("--field", o->field, "Field id ('baseline fields' lists them)");
    pinning->add_option("--use-set", o->use_set, "Let the tier use this set instead of pinning a field");
    pinning->add_option("--value", o->value, "Its value");
    pinning->add_option("--ramp", o->ramp, "Knots over ISO, as in 100:0,800:20");
    pinning->add_option("--measured", o->measured,
                        "Measurement from which the value was derived, as ID@VERSION; the trace shows it");
    pinning->add_flag("--inherit", o->inherit, "Take the pin, or the set, out");
    pinning->add_flag("--json", o->json, "Print the tier as it is then");
    pinning->callback([o] { pin(*o); });

    auto* tiers =
        add_command(*command, "tiers", "List the tiers of the draft with their ids and pins", "baseline tiers --json");
    add_store_option(*tiers, o->store);
    tiers->add_flag("--published", o->published, "Of the newest revision instead of the draft");
    tiers->add_flag("--json", o->json, "Print JSON");
    tiers->callback([o] { list_tiers(*o); });

    auto* copying =
        add_command(*command, "copy-tier", "Copy pins and sets of a tier into the tier with these conditions",
                    "baseline copy-tier --from t1c0ffee01234 --scope body --target HB-015");
    add_store_option(*copying, o->store);
    copying->add_option("--from", o->from, "Id of the tier to copy ('baseline tiers' shows it)")->required();
    add_tier_options(*copying, o->tier);
    copying->callback([o] { copy_tier(*o); });

    auto* showing = add_command(*command, "export", "Print the draft as JSON, or write it to a file",
                                "baseline export --out draft.json");
    add_store_option(*showing, o->store);
    showing->add_option("--out", o->file, "File to write (.json)");
    add_overwrite_flag(*showing, o->overwrite);
    showing->callback([o] {
        write_or_print(o->file, json_output(), o->overwrite,
                       revision_to_json(open_store(o->store, Access::read).baselines().draft()));
    });

    auto* importing =
        add_command(*command, "import", "Replace the draft by a baseline from a file", "baseline import draft.json");
    add_store_option(*importing, o->store);
    importing->add_option("file", o->file, "Baseline (JSON)")->required();
    importing->add_flag("--replace", o->replace, "Also when the draft has changes that are not published");
    importing->add_flag("--json", o->json, "Print JSON");
    importing->callback([o] { import_draft(*o); });

    auto* fields =
        add_command(*command, "fields", "Print all fields with their meaning, as Markdown", "baseline fields --json");
    fields->add_flag("--json", o->json, "Print JSON");
    fields->callback([o] { print_fields(o->json); });

    auto* publishing = add_command(*command, "publish", "Publish the draft as the next revision",
                                   "baseline publish --note \"Softer noise reduction\"");
    add_store_option(*publishing, o->store);
    publishing->add_option("--note", o->note, "What changed and why");
    publishing->add_option("--author", o->author, "Who publishes [default: the login name]");
    publishing->add_flag("--fix-profiles", o->fix_profiles,
                         "Frames get the versions of lens profiles that are current now, whatever is published later");
    add_yes_flag(*publishing, o->yes);
    publishing->add_flag("--json", o->json, "Print JSON");
    publishing->callback([o] { publish(*o); });
}

}  // namespace optrel::cli
