#include <fmt/format.h>

#include <algorithm>
#include <cstdio>

#include "base/error.h"
#include "base/files.h"
#include "commands.h"
#include "store/store.h"
#include "studio/studio.h"

namespace optrel::cli {
namespace {

struct Options {
    std::string store, file, scope = "studio", target, lens, iso, kind = "raw", field, value, ramp, note, author, use_set, name;
    bool lens_copy = false, inherit = false, json = false;
};

/// The tier that the options describe, without pins.
Tier described_tier(const Options& o) {
    Tier t;
    if (o.scope == "studio")
        t.scope = Scope::studio;
    else if (o.scope == "model")
        t.scope = Scope::model;
    else if (o.scope == "body")
        t.scope = Scope::body;
    else
        throw usage_error(fmt::format("--scope takes studio, model or body, not '{}'.", o.scope));
    if ((t.scope == Scope::studio) != o.target.empty()) throw usage_error("--target names the model or the body of the scope, and belongs to these two scopes only.");
    t.target = o.target;
    if (!o.lens.empty()) {
        t.lens_condition = o.lens_copy ? LensCondition::copy : LensCondition::model;
        t.lens = o.lens;
    }
    if (!o.iso.empty()) {
        double low = 0, high = 0;
        char rest = 0;
        if (std::sscanf(o.iso.c_str(), "%lf-%lf%c", &low, &high, &rest) != 2 || !(low > 0 && high >= low))
            throw usage_error(fmt::format("--iso takes a span such as 1600-6400, not '{}'.", o.iso));
        t.iso_span = {low, high};
    }
    if (o.kind != "raw" && o.kind != "rendered" && o.kind != "both") throw usage_error(fmt::format("--kind takes raw, rendered or both, not '{}'.", o.kind));
    t.raw = o.kind != "rendered";
    t.rendered = o.kind != "raw";
    t.name = describe_conditions(t);
    t.id = fmt::format("t{:012x}", fnv1a(t.name) & 0xffffffffffffull);
    return t;
}

void pin(const Options& o) {
    if (o.field.empty() == o.use_set.empty()) throw usage_error("Give either --field with a value or --use-set.");
    if (!o.field.empty() && int(!o.value.empty()) + int(!o.ramp.empty()) + int(o.inherit) != 1) throw usage_error("Give one of --value, --ramp and --inherit.");
    const std::optional<Field> field = o.field.empty() ? std::nullopt : std::optional(field_by_id(o.field));
    const Tier wanted = described_tier(o);
    Store store(store_folder(o.store));
    Revision draft = store.draft();
    auto tier = std::find_if(draft.tiers.begin(), draft.tiers.end(), [&](const Tier& t) { return describe_conditions(t) == describe_conditions(wanted); });
    if (tier == draft.tiers.end()) {
        draft.tiers.push_back(wanted);
        tier = draft.tiers.end() - 1;
    }
    if (!field)
        o.inherit ? (void)std::erase(tier->sets, o.use_set) : tier->sets.push_back(o.use_set);
    else if (o.inherit)
        tier->pins.erase(*field);
    else
        tier->pins[*field] = pin_from_text(*field, o.ramp.empty() ? o.value : o.ramp);
    if (tier->pins.empty() && tier->sets.empty()) draft.tiers.erase(tier);
    store.put_draft(draft);
}

/// docs/fields.md is this text.
void print_fields() {
    fmt::print("# Fields of a baseline\n\n");
    fmt::print("What no tier pins has its neutral value. Technical fields belong in a baseline; look fields are a matter of taste.\n\n");
    fmt::print("| field | id | values | neutral | nature | meaning |\n|---|---|---|---|---|---|\n");
    for (const FieldInfo& f : all_fields()) {
        std::string values = f.type == FieldType::number ? fmt::format("{:g} to {:g}{}{}", f.low, f.high, f.unit.empty() ? "" : " ", f.unit) : fmt::format("{}", fmt::join(f.choices, ", "));
        if (f.type == FieldType::reference) values += ", or a profile's id";
        fmt::print("| {} | `{}` | {} | {} | {} | {} |\n", f.label, f.id, values, to_display(f.field, f.neutral), f.nature == FieldNature::look ? "look" : "technical", f.meaning);
    }
}

}  // namespace

void add_draft(CLI::App& app) {
    auto* command = app.add_subcommand("baseline", "Edit the draft of the baseline and publish it");
    command->require_subcommand(1);
    auto o = std::make_shared<Options>();
    add_baseline_checks(*command);

    auto* pinning = command->add_subcommand("pin", "Pin a field in the tier with exactly these conditions; the tier is made when there is none");
    add_store_option(*pinning, o->store);
    pinning->add_option("--scope", o->scope, "studio, model or body");
    pinning->add_option("--target", o->target, "Camera name of the model, or id of the body");
    pinning->add_option("--lens", o->lens, "Lens text, or id of a copy with --lens-copy");
    pinning->add_flag("--lens-copy", o->lens_copy, "--lens names a copy");
    pinning->add_option("--iso", o->iso, "ISO span, as in 1600-6400");
    pinning->add_option("--kind", o->kind, "raw, rendered or both");
    pinning->add_option("--field", o->field, "Field id");
    pinning->add_option("--use-set", o->use_set, "Let the tier use this set instead of pinning a field");
    pinning->add_option("--value", o->value, "Its value");
    pinning->add_option("--ramp", o->ramp, "Knots over ISO, as in 100:0,800:20");
    pinning->add_flag("--inherit", o->inherit, "Take the pin out");
    pinning->callback([o] { pin(*o); });

    auto* showing = command->add_subcommand("export", "Print the draft as JSON, or write it to a file");
    add_store_option(*showing, o->store);
    showing->add_option("--out", o->file, "File to write");
    showing->callback([o] {
        const std::string text = revision_to_json(Store(store_folder(o->store)).draft());
        if (o->file.empty())
            fmt::print("{}", text);
        else
            write_atomic(o->file, text);
    });

    auto* importing = command->add_subcommand("import", "Replace the draft by a baseline from a file");
    add_store_option(*importing, o->store);
    importing->add_option("file", o->file, "Baseline (JSON)")->required();
    importing->callback([o] {
        const Revision r = revision_from_json(read_file(o->file), o->file);
        Store(store_folder(o->store)).put_draft(r);
    });

    command->add_subcommand("fields", "Print all fields with their meaning, as Markdown")->callback(print_fields);

    auto* publishing = command->add_subcommand("publish", "Publish the draft as the next revision");
    add_store_option(*publishing, o->store);
    publishing->add_option("--note", o->note, "What changed and why");
    publishing->add_option("--author", o->author, "Who publishes (default: the login name)");
    publishing->add_flag("--json", o->json, "Print JSON");
    publishing->callback([o] {
        Store store(store_folder(o->store));
        const Revision before = store.current_revision();
        const Revision r = store.publish_draft(o->author.empty() ? current_author() : o->author, o->note);
        const std::vector<RevisionChange> changes = difference(before, r);
        if (o->json) {
            nlohmann::json list = nlohmann::json::array();
            for (const RevisionChange& c : changes) list.push_back({{"tier", c.tier}, {"field", c.field}, {"before", c.before}, {"after", c.after}});
            print_json({{"revision", r.number}, {"changes", list}});
        } else {
            fmt::print("Published revision {} with {} changes\n", r.number, changes.size());
        }
    });
}

}  // namespace optrel::cli
