// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "commands.h"
#include "difference_json.h"
#include "studio/develop_frame.h"
#include "studio/embedded_correction.h"
#include "studio/knowledge.h"
#include "studio/probe.h"
#include "studio/sensor_size.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct ResolveOptions {
    std::string store, frame, kind = "raw";
    ProbeWords words;
    bool draft = false, json = false;
};

/// The profile that the frame would be corrected with, and all others with what speaks for and against them.
json profile_json(const ProfileMatch& match, const FrameKnowledge& known, const std::vector<Profile>& profiles) {
    json out;
    if (match.profile)
        out = {
            {"id", match.profile->id}, {"version", match.profile->version}, {"placement", to_string(match.placement)}};
    out["grade"] = to_string(match.grade);
    out["reasons"] = match.reasons;
    out["against"] = match.against;
    out["candidates"] = json::array();
    for (const ProfileMatch& m : candidates(profiles, known.metadata, geometry_of(known.metadata)))
        out["candidates"].push_back({{"id", m.profile->id},
                                     {"name", m.profile->name},
                                     {"grade", to_string(m.grade)},
                                     {"placement", to_string(m.placement)},
                                     {"reasons", m.reasons},
                                     {"against", m.against}});
    return out;
}

/// The correction that the file brings along, beside the profile that would be taken; nothing where it brings none.
/// Opcodes that are damaged are told; the rest of the answer does not hang on them.
json embedded_json(const ProfileMatch& match, const FrameKnowledge& known, const std::string& path) {
    if (known.metadata.kind == FrameKind::rendered) return nullptr;
    EmbeddedCorrection embedded;
    try {
        embedded = embedded_correction(path, known.metadata);
    } catch (const Error& error) {
        return {{"problem", error.what()}};
    }
    if (!embedded.any()) return nullptr;
    json out = {{"opcodes", json::array()}};
    for (const EmbeddedOpcode& e : embedded.opcodes)
        out["opcodes"].push_back({{"list", e.list}, {"name", name_of(e.opcode)}, {"optional", e.opcode.optional}});
    const auto profile = applied(match, known.metadata);
    if (!profile) return out;
    out["difference_from_profile"] = difference_json(embedded_difference(embedded, *profile));
    return out;
}

/// What is known of a frame, with its own account in `out`.
FrameFacts facts_of_frame(Store& store, const Fleet& fleet, const Revision& revision, const std::string& path,
                          json& out) {
    FrameKnowledge known = know(std::filesystem::absolute(path).lexically_normal(), read_metadata(path), fleet);
    out["frame"] = path;
    out["body_because"] = known.body.why;
    out["lens"] = {{"lens", known.lens.lens}, {"copy", known.lens.id}, {"because", known.lens.why}};
    const std::vector<Profile> profiles = store.profiles().all_versions();
    ResolvedFrame fields;
    Resolver(revision).resolve(known.facts, fields);
    known.metadata = with_pitch(known.metadata, profiles);
    const ProfileMatch match = profile_for(fields, known.metadata, profiles);
    out["profile"] = profile_json(match, known, profiles);
    if (json embedded = embedded_json(match, known, path); !embedded.is_null()) out["embedded"] = std::move(embedded);
    const Sheet sheet = read_sheet(path);
    out["state"] = to_string(sheet.state());
    out["written_revision"] = sheet.revision;
    for (const auto& [field, value] : sheet.hand) out["hand_set"][info(field).id] = to_text(field, value);
    return known.facts;
}

json fields_json(const Resolver& resolver, const FrameFacts& facts, const ResolvedFrame& resolved) {
    json fields = json::object();
    for (const FieldInfo& f : all_fields()) {
        json trace = json::array();
        for (const TraceStep& step : resolver.trace(facts, f.field)) {
            json j = {{"tier", step.tier ? step.tier->name : "start"},
                      {"source", step.source},
                      {"value", to_text(f.field, step.value)},
                      {"won", step.won}};
            if (!step.remark.empty()) j["remark"] = step.remark;
            trace.push_back(j);
        }
        const ResolvedField& r = resolved[f.field];
        json value = f.type == FieldType::number ? json(r.value.number) : json(r.value.text);
        fields[f.id] = {
            {"value", value}, {"unit", f.unit}, {"from", r.tier ? r.tier->name : "start"}, {"trace", trace}};
    }
    return fields;
}

void run(const ResolveOptions& o) {
    const bool asks_frame = !o.frame.empty();
    if (asks_frame && (!o.words.body.empty() || !o.words.model.empty() || !o.words.lens.empty() || o.words.iso))
        throw usage_error(
            "A frame says itself what it was taken with; give --frame alone, or --body or --model with the rest.");
    if (!asks_frame && o.words.body.empty() && o.words.model.empty())
        throw usage_error("Name a frame with --frame, or a body with --body, or a camera model with --model.");
    if (o.kind != "raw" && o.kind != "rendered")
        throw usage_error(fmt::format("--kind takes raw or rendered, not '{}'.", o.kind));
    Store store = open_store(o.store, Access::read);
    const Revision revision = o.draft ? store.baselines().draft() : store.baselines().current();
    const std::shared_ptr<const Fleet> fleet = store.registry().fleet();
    json out;
    ProbeWords words = o.words;
    words.raw = o.kind == "raw";
    const FrameFacts facts = asks_frame ? facts_of_frame(store, *fleet, revision, o.frame, out)
                                        : probe_facts(words, store, *fleet, revision);
    const Resolver resolver(revision);
    ResolvedFrame resolved;
    resolver.resolve(facts, resolved);
    if (!o.json) {
        for (const FieldInfo& f : all_fields()) {
            const ResolvedField& r = resolved[f.field];
            fmt::print("{:28} {:>12}   {}\n", f.label, to_display(f.field, r.value), r.tier ? r.tier->name : "start");
        }
        return;
    }
    static const char* knowledge[] = {"unknown", "assumed", "known"};
    out["revision"] = revision.number;
    out["facts"] = {{"kind", facts.raw ? "raw" : "rendered"},
                    {"model", facts.model},
                    {"body", facts.body},
                    {"body_is", knowledge[static_cast<int>(facts.body_knowledge)]},
                    {"lens", facts.lens},
                    {"lens_copy", facts.lens_copy},
                    {"iso", facts.iso}};
    out["fields"] = fields_json(resolver, facts, resolved);
    print_json(out);
}

}  // namespace

void add_resolve(CLI::App& app) {
    auto* command = add_command(app, "resolve", "What a frame, or a body at an ISO, gets from the baseline, and why",
                                "resolve --body HB-014 --iso 1600 --json");
    auto o = std::make_shared<ResolveOptions>();
    add_store_option(*command, o->store);
    command->add_option("--frame", o->frame, "A frame");
    command->add_option("--body", o->words.body, "A body: id, asset tag, serial number or name");
    command->add_option("--model", o->words.model, "A camera model, with the body unknown");
    command->add_option("--iso", o->words.iso, "ISO; needed where a tier or a ramp asks for it")
        ->check(between(1, 1e8));
    command->add_option("--lens", o->words.lens, "A lens: its text, or id, asset tag, serial number or name of a copy");
    command->add_option("--kind", o->kind, "raw or rendered")->capture_default_str();
    command->add_flag("--draft", o->draft, "By the draft instead of the newest revision");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli
