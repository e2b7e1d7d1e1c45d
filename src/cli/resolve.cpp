#include <fmt/format.h>

#include <algorithm>

#include "commands.h"
#include "studio/studio.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct Options {
    std::string store, frame, body, model, lens, kind = "raw";
    double iso = 0;
    bool draft = false, json = false;
};

/// What a body's frames record, needed only where a start asks for it.
RecordedHabits habits_of(Store& store, const Revision& revision, const Fleet& fleet) {
    const auto starts = [](const auto& list) { return std::any_of(list.begin(), list.end(), [](const auto& entry) { return entry.pins.count(Field::start) > 0; }); };
    if (!starts(revision.tiers) && !starts(revision.sets)) return {};
    return RecordedHabits(group_facts(facts_of(store.frames(), fleet)));
}

/// The profile that the frame would be corrected with, and all others with what speaks for and against them.
json profile_json(Store& store, const FrameKnowledge& known, const Revision& revision) {
    const std::vector<Profile> profiles = store.profiles();
    ResolvedFrame fields;
    Resolver(revision).resolve(known.facts, fields);
    json out;
    const ProfileMatch match = profile_for(fields, known.metadata, profiles);
    if (match.profile) out = {{"id", match.profile->id}, {"version", match.profile->version}, {"placement", to_string(match.placement)}};
    out["grade"] = to_string(match.grade);
    out["reasons"] = match.reasons;
    out["against"] = match.against;
    out["candidates"] = json::array();
    for (const ProfileMatch& m : candidates(profiles, known.metadata, geometry_of(known.metadata)))
        out["candidates"].push_back({{"id", m.profile->id}, {"name", m.profile->name}, {"grade", to_string(m.grade)}, {"placement", to_string(m.placement)}, {"reasons", m.reasons}, {"against", m.against}});
    return out;
}

void run(const Options& o) {
    Store store(store_folder(o.store));
    const Revision revision = o.draft ? store.draft() : store.current_revision();
    const std::shared_ptr<const Fleet> fleet = store.fleet();
    FrameFacts facts;
    json out;
    if (!o.frame.empty()) {
        const Metadata m = read_metadata(o.frame);
        const FrameKnowledge known = know(std::filesystem::absolute(o.frame), m, *fleet);
        facts = known.facts;
        out["frame"] = o.frame;
        out["body_because"] = known.body.why;
        out["lens"] = {{"lens", known.lens.lens}, {"copy", known.lens.id}, {"because", known.lens.why}};
        out["profile"] = profile_json(store, known, revision);
        const Sheet sheet = read_sheet(o.frame);
        out["state"] = to_string(sheet.state());
        out["written_revision"] = sheet.revision;
        for (const auto& [field, value] : sheet.hand) out["hand_set"][info(field).id] = to_text(field, value);
    } else {
        if (o.body.empty() && o.model.empty()) throw usage_error("Name a frame with --frame, or a body with --body, or a camera model with --model.");
        if (o.kind != "raw" && o.kind != "rendered") throw usage_error(fmt::format("--kind takes raw or rendered, not '{}'.", o.kind));
        facts.raw = o.kind == "raw";
        facts.model = o.model;
        facts.iso = o.iso;
        facts.lens = canonical_lens_text(o.lens);
        facts.lens_copy = o.lens;
        if (!o.body.empty()) {
            const Body* found = nullptr;
            for (const Body& b : fleet->entries().bodies)
                if (b.id == o.body || (!b.name.empty() && b.name == o.body) || (!b.asset_tag.empty() && b.asset_tag == o.body)) found = &b;
            if (!found) throw input_error(fmt::format("There is no body '{}' in the store; 'store list bodies' shows them.", o.body));
            const FrameFacts recorded = facts_for(*found, o.iso, habits_of(store, revision, *fleet));
            facts.body = found->id;
            facts.model = found->camera();
            facts.body_knowledge = BodyKnowledge::known;
            facts.recorded = recorded.recorded;
        }
    }
    const Resolver resolver(revision);
    ResolvedFrame resolved;
    resolver.resolve(facts, resolved);
    static const char* knowledge[] = {"unknown", "assumed", "known"};
    out["revision"] = revision.number;
    out["facts"] = {{"kind", facts.raw ? "raw" : "rendered"}, {"model", facts.model}, {"body", facts.body}, {"body_is", knowledge[static_cast<int>(facts.body_knowledge)]}, {"lens", facts.lens}, {"iso", facts.iso}};
    json fields = json::object();
    for (const FieldInfo& f : all_fields()) {
        json trace = json::array();
        for (const TraceStep& step : resolver.trace(facts, f.field)) {
            json j = {{"tier", step.tier ? step.tier->name : "start"}, {"source", step.source}, {"value", to_text(f.field, step.value)}, {"won", step.won}};
            if (!step.remark.empty()) j["remark"] = step.remark;
            trace.push_back(j);
        }
        const ResolvedField& r = resolved[f.field];
        json value = f.type == FieldType::number ? json(r.value.number) : json(r.value.text);
        fields[f.id] = {{"value", value}, {"unit", f.unit}, {"from", r.tier ? r.tier->name : "start"}, {"trace", trace}};
    }
    out["fields"] = fields;
    if (o.json) return print_json(out);
    for (const FieldInfo& f : all_fields()) {
        const ResolvedField& r = resolved[f.field];
        fmt::print("{:28} {:>12}   {}\n", f.label, to_display(f.field, r.value), r.tier ? r.tier->name : "start");
    }
}

}  // namespace

void add_resolve(CLI::App& app) {
    auto* command = app.add_subcommand("resolve", "What a frame, or a body at an ISO, gets from the baseline, and why");
    auto o = std::make_shared<Options>();
    add_store_option(*command, o->store);
    command->add_option("--frame", o->frame, "A frame");
    command->add_option("--body", o->body, "A body: id, name or asset tag");
    command->add_option("--model", o->model, "A camera model, with the body unknown");
    command->add_option("--iso", o->iso, "ISO");
    command->add_option("--lens", o->lens, "Lens text, or id of a lens copy");
    command->add_option("--kind", o->kind, "raw or rendered");
    command->add_flag("--draft", o->draft, "By the draft instead of the newest revision");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli
