#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "baselines/lint.h"
#include "commands.h"
#include "studio/studio.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct Options {
    std::string store, file, name, field, value, note;
    int before = 0, after = 0, number = 0;
    bool json = false, mend = false, published = false, inherit = false;
};

Revision revision_of(Store& store, int number) {
    if (number == 0) return store.draft();
    std::optional<Revision> r = store.revision(number);
    if (!r) throw input_error(fmt::format("There is no revision {}; 'store list revisions' shows them, 0 means the draft.", number));
    return std::move(*r);
}

void run_lint(const Options& o) {
    Store store(store_folder(o.store));
    const auto fleet = store.fleet();
    const std::vector<FrameRecord> frames = store.frames();
    const std::vector<FrameFacts> facts = facts_of(frames, *fleet);
    const std::vector<FactsGroup> groups = group_facts(facts);
    const std::vector<FleetBody> bodies = fleet_bodies(*fleet, frames, facts);
    Revision revision = o.published ? store.current_revision() : store.draft();
    std::vector<LintFinding> findings = lint(revision, groups, bodies);
    if (o.mend) {
        int mended = 0;
        // Mending one thing can settle or show another, so the list is made anew each time.
        for (std::size_t next = 0; next < findings.size() && mended < 1000;) {
            if (findings[next].remedy.empty()) {
                ++next;
                continue;
            }
            revision = mend(revision, findings[next], groups, bodies);
            findings = lint(revision, groups, bodies);
            next = 0;
            ++mended;
        }
        store.put_draft(revision);
        fmt::print("{} findings mended, {} left\n", mended, findings.size());
        return;
    }
    json list = json::array();
    for (const LintFinding& f : findings)
        list.push_back({{"rule", to_string(f.rule)}, {"tier", f.tier}, {"field", f.field ? info(*f.field).id : ""}, {"body", f.body_id}, {"finding", f.sentence}, {"remedy", f.remedy}, {"frames", f.frames}});
    if (o.json) return print_json(list);
    for (const LintFinding& f : findings) fmt::print("{}: {}{}\n", to_string(f.rule), f.sentence, f.remedy.empty() ? "" : " Remedy: " + f.remedy + ".");
    fmt::print("{} findings\n", findings.size());
}

void compare(const Options& o) {
    Store store(store_folder(o.store));
    const auto changes = difference(revision_of(store, o.before), revision_of(store, o.after));
    if (o.json) {
        json list = json::array();
        for (const RevisionChange& c : changes) list.push_back({{"tier", c.tier}, {"field", c.field}, {"before", c.before}, {"after", c.after}});
        return print_json(list);
    }
    for (const RevisionChange& c : changes) fmt::print("{}{}{}: {} -> {}\n", c.tier, c.field.empty() ? "" : ", ", c.field, c.before, c.after);
    fmt::print("{} differences\n", changes.size());
}

void return_to(const Options& o) {
    Store store(store_folder(o.store));
    const Revision published = store.return_to(o.number, current_author(), o.note);
    fmt::print("Revision {} says again what revision {} said\n", published.number, o.number);
}

void edit_set(const Options& o) {
    check_set_name(o.name);
    Store store(store_folder(o.store));
    Revision draft = store.draft();
    PinSet* set = draft.set(o.name);
    if (!set) {
        draft.sets.push_back({o.name, "", {}, {}});
        set = &draft.sets.back();
    }
    const Field field = field_by_id(o.field);
    if (o.inherit)
        set->pins.erase(field);
    else
        set->pins[field] = pin_from_text(field, o.value);
    store.put_draft(draft);
}

void import_sets(const Options& o) {
    Store store(store_folder(o.store));
    Revision draft = store.draft();
    for (PinSet& s : sets_from_json(read_file(o.file), o.file)) {
        if (PinSet* there = draft.set(s.name))
            *there = std::move(s);
        else
            draft.sets.push_back(std::move(s));
    }
    store.put_draft(draft);
}

}  // namespace

void add_baseline_checks(CLI::App& command) {
    auto o = std::make_shared<Options>();
    auto* linting = command.add_subcommand("lint", "What in the draft is likely to be a mistake, each with a remedy");
    add_store_option(*linting, o->store);
    linting->add_flag("--published", o->published, "The newest revision instead of the draft");
    linting->add_flag("--mend", o->mend, "Mend all that has a remedy, in the draft");
    linting->add_flag("--json", o->json, "Print JSON");
    linting->callback([o] { run_lint(*o); });

    auto* comparing = command.add_subcommand("compare", "What differs between two revisions; 0 is the draft");
    add_store_option(*comparing, o->store);
    comparing->add_option("before", o->before, "Number of a revision")->required();
    comparing->add_option("after", o->after, "Number of a revision")->required();
    comparing->add_flag("--json", o->json, "Print JSON");
    comparing->callback([o] { compare(*o); });

    auto* returning = command.add_subcommand("return", "Publish what an earlier revision said, as a new revision");
    add_store_option(*returning, o->store);
    returning->add_option("number", o->number, "Number of the earlier revision")->required()->check(CLI::PositiveNumber);
    returning->add_option("--note", o->note, "Why");
    returning->callback([o] { return_to(*o); });

    auto* sets = command.add_subcommand("sets", "Named sets of pins: edit, export, import");
    sets->require_subcommand(1);
    auto* editing = sets->add_subcommand("pin", "Pin a field in a set; the set is made when there is none");
    add_store_option(*editing, o->store);
    editing->add_option("--name", o->name, "Name of the set")->required();
    editing->add_option("--field", o->field, "Field id")->required();
    editing->add_option("--value", o->value, "Value or ramp");
    editing->add_flag("--inherit", o->inherit, "Take the pin out");
    editing->callback([o] { edit_set(*o); });
    auto* out = sets->add_subcommand("export", "Print the sets of the draft as JSON, or write them to a file");
    add_store_option(*out, o->store);
    out->add_option("--out", o->file, "File to write");
    out->callback([o] {
        const std::string text = sets_to_json(Store(store_folder(o->store)).draft().sets);
        if (o->file.empty())
            fmt::print("{}", text);
        else
            write_atomic(o->file, text);
    });
    auto* in = sets->add_subcommand("import", "Add sets from a file to the draft; a set of the same name is replaced");
    add_store_option(*in, o->store);
    in->add_option("file", o->file, "Sets (JSON)")->required();
    in->callback([o] { import_sets(*o); });
}

}  // namespace optrel::cli
