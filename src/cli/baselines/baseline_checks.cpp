// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "baselines/lint.h"
#include "cli/commands.h"
#include "studio/frames/knowledge.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct BaselineChecksOptions {
    std::string store, note, author, draft = "keep";
    int before = 0, after = 0, number = 0;
    bool json = false, mend = false, preview = false, published = false;
};

Revision revision_of(const Store& store, int number) {
    if (number == 0) return store.baselines().draft();
    std::optional<Revision> r = store.baselines().revision(number);
    if (!r)
        throw input_error(
            fmt::format("There is no revision {}; 'store list revisions' shows them, 0 means the draft.", number));
    return std::move(*r);
}

/// Inputs of lint other than the baseline.
struct Seen {
    std::vector<FactsGroup> groups;
    std::vector<FleetBody> bodies;
};

Seen look_at(const Store& store) {
    const auto fleet = store.registry().fleet();
    const std::vector<FrameRecord> frames = store.frames().all();
    const FactsOfFrames facts = facts_of(frames, *fleet);
    return {facts.groups(), fleet_bodies(*fleet, frames, facts)};
}

/// Fixes the findings one by one; each fix can resolve or cause others, so the list is computed again each time.
json mend_all(Revision& revision, const Seen& seen) {
    json out = json::array();
    std::vector<LintFinding> findings = lint(revision, seen.groups, seen.bodies);
    for (std::size_t next = 0; next < findings.size() && out.size() < 1000;) {
        const LintFix mended = mend(revision, findings[next], seen.groups, seen.bodies);
        if (!mended.done()) {
            ++next;
            continue;
        }
        out.push_back({{"finding", findings[next].sentence},
                       {"remedy", findings[next].remedy},
                       {"frames", mended.frames},
                       {"fields", mended.fields},
                       {"change", mended.sentence()}});
        revision = mended.after;
        findings = lint(revision, seen.groups, seen.bodies);
        next = 0;
    }
    return out;
}

void run_mend(const BaselineChecksOptions& o) {
    if (o.published) throw usage_error("A published revision never changes; mend the draft.");
    Store store = open_store(o.store, o.preview ? Access::read : Access::write);
    const Seen seen = look_at(store);
    json mended;
    std::size_t left = 0;
    const auto work = [&](Revision& draft) {
        mended = mend_all(draft, seen);
        left = lint(draft, seen.groups, seen.bodies).size();
    };
    if (o.preview) {
        Revision draft = store.baselines().draft();
        work(draft);
    } else {
        store.baselines().change_draft(work);
    }
    if (o.json) return print_json({{"mended", mended}, {"left", left}, {"written", !o.preview}});
    for (const json& m : mended)
        fmt::print("{} Remedy: {}; it {}.\n", m["finding"].get<std::string>(), m["remedy"].get<std::string>(),
                   m["change"].get<std::string>());
    fmt::print("{} finding{} {}, {} left\n", mended.size(), mended.size() == 1 ? "" : "s",
               o.preview ? "would be mended" : "mended", left);
}

void run_lint(const BaselineChecksOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const Seen seen = look_at(store);
    const std::vector<LintFinding> findings =
        lint(o.published ? store.baselines().current() : store.baselines().draft(), seen.groups, seen.bodies);
    if (o.json) {
        json list = json::array();
        for (const LintFinding& f : findings)
            list.push_back({{"rule", to_string(f.rule)},
                            {"tier", f.tier},
                            {"field", f.field ? info(*f.field).id : ""},
                            {"body", f.body_id},
                            {"finding", f.sentence},
                            {"remedy", f.remedy},
                            {"frames", f.frames}});
        return print_json(list);
    }
    for (const LintFinding& f : findings)
        fmt::print("{}: {}{}\n", to_string(f.rule), f.sentence, f.remedy.empty() ? "" : " Remedy: " + f.remedy + ".");
    fmt::print("{} finding{}\n", findings.size(), findings.size() == 1 ? "" : "s");
}

void compare(const BaselineChecksOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const auto changes = difference(revision_of(store, o.before), revision_of(store, o.after));
    if (o.json) {
        json list = json::array();
        for (const RevisionChange& c : changes)
            list.push_back({{"tier", c.tier}, {"field", c.field}, {"before", c.before}, {"after", c.after}});
        return print_json(list);
    }
    for (const RevisionChange& c : changes)
        fmt::print("{}{}{}: {} -> {}\n", c.tier, c.field.empty() ? "" : ", ", c.field, c.before, c.after);
    fmt::print("{} differences\n", changes.size());
}

void return_to(const BaselineChecksOptions& o) {
    if (o.draft != "keep" && o.draft != "follow")
        throw usage_error(fmt::format("--draft takes keep or follow, not '{}'.", o.draft));
    Store store = open_store(o.store, Access::write);
    const StoredBaselines::Returned returned = store.baselines().return_to(
        o.number, author_or_me(o.author), o.note,
        o.draft == "follow" ? StoredBaselines::DraftThen::follow : StoredBaselines::DraftThen::keep);
    if (o.json) return print_json({{"revision", returned.revision.number}, {"draft_changes", returned.draft_changes}});
    fmt::print("Published revision {} with the content of revision {}\n", returned.revision.number, o.number);
    if (returned.draft_changes > 0)
        fmt::print(stderr,
                   "The draft keeps {} changes against it; publishing the draft would bring them in. To drop them, "
                   "return with --draft follow.\n",
                   returned.draft_changes);
}

}  // namespace

void add_baseline_checks(CLI::App& command) {
    auto o = std::make_shared<BaselineChecksOptions>();
    auto* linting = add_command(command, "lint", "What in the draft is likely to be a mistake, each with a remedy",
                                "baseline lint --mend --preview");
    add_store_option(*linting, o->store);
    linting->add_flag("--published", o->published, "The newest revision instead of the draft");
    linting->add_flag("--mend", o->mend,
                      "Mend in the draft all that has a remedy which changes no other frames; says what each changed");
    linting->add_flag("--preview", o->preview, "With --mend: only say what would be changed");
    linting->add_flag("--json", o->json, "Print JSON");
    linting->callback([o] { o->mend ? run_mend(*o) : run_lint(*o); });

    auto* comparing =
        add_command(command, "compare", "What differs between two revisions; 0 is the draft", "baseline compare 2 0");
    add_store_option(*comparing, o->store);
    comparing->add_option("before", o->before, "Number of a revision")->required();
    comparing->add_option("after", o->after, "Number of a revision")->required();
    comparing->add_flag("--json", o->json, "Print JSON");
    comparing->callback([o] { compare(*o); });

    auto* returning = add_command(command, "return", "Publish an earlier revision again as a new revision",
                                  "baseline return 3 --draft follow");
    add_store_option(*returning, o->store);
    returning->add_option("number", o->number, "Number of the earlier revision")
        ->required()
        ->check(whole(1, 1000000000));
    returning->add_option("--note", o->note, "Why");
    returning->add_option("--author", o->author, "Who publishes [default: the login name]");
    returning
        ->add_option("--draft", o->draft,
                     "A draft with changes of its own: keep them, or follow the revision and drop them")
        ->capture_default_str();
    returning->add_flag("--json", o->json, "Print JSON");
    returning->callback([o] { return_to(*o); });
}

}  // namespace optrel::cli
