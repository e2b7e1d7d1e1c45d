// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/rollout/difference_json.h"
#include "studio/baselines/probe.h"
#include "studio/development/embedded_correction.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/measured_facts.h"
#include "studio/frames/sensor_size.h"
#include "studio/profiles/frame_profile.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct ResolveOptions {
    std::string store, frame, kind = "raw";
    ProbeQuery words;
    bool draft = false, json = false, all = false;
};

/// The profile for the frame, and all other candidates with reasons for and against.
json profile_json(const ProfileMatch& match, const FrameKnowledge& known, const std::vector<Profile>& profiles) {
    json out;
    if (match.profile)
        out = {{"id", match.profile->id},
               {"version", match.profile->version},
               {"name", match.profile->name},
               {"placement", to_string(match.placement)}};
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

/// The correction in the file, compared with the profile; nothing without one. Damaged opcodes are reported and do not
/// stop the answer.
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

/// Facts about a frame; adds its account to `out`.
FrameFacts facts_of_frame(const Store& store, const Fleet& fleet, const Revision& revision, const std::string& path,
                          json& out) {
    FrameKnowledge known = know(plain_path(path), read_metadata(std::filesystem::path(path)), fleet);
    out["frame"] = path;
    out["body_because"] = known.body.why;
    out["lens"] = {{"lens", known.lens.lens},
                   {"copy", known.lens.id},
                   {"reported", known.metadata.lens},
                   {"because", known.lens.why}};
    const std::vector<Profile> profiles = store.profiles().all_versions();
    // A hand-set field may name another profile, or none.
    const Sheet sheet = read_sheet(path);
    ResolvedFrame fields;
    Resolver(revision).resolve(known.facts, fields);
    for (const auto& [field, value] : sheet.hand) fields.fields[static_cast<std::size_t>(field)].value = value;
    known.metadata = with_pitch(known.metadata, profiles);
    const ProfileMatch match = profile_for(fields, known.metadata, profiles);
    out["profile"] = profile_json(match, known, profiles);
    if (json embedded = embedded_json(match, known, path); !embedded.is_null()) out["embedded"] = std::move(embedded);
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

std::string or_words(const std::string& text, const char* otherwise) { return text.empty() ? otherwise : text; }

constexpr const char* knowledge_words[] = {"unknown", "assumed", "known"};

void print_line(const char* what, const std::string& text) { fmt::print("{:12} {}\n", what, printable(text)); }

std::string words_of(const json& reasons) {
    std::vector<std::string> out;
    for (const json& r : reasons) out.push_back(r.get<std::string>());
    return fmt::format("{}", fmt::join(out, "; "));
}

/// Summary: body, lens and profile.
void print_summary(const FrameFacts& facts, const Fleet& fleet, const json& frame) {
    const Body* body = fleet.body(facts.body);
    const std::string because = frame.value("body_because", "");
    print_line("Body", fmt::format("{} ({}{}{})", body ? body->label() : or_words(facts.body, "none of the register"),
                                   knowledge_words[static_cast<int>(facts.body_knowledge)], because.empty() ? "" : ": ",
                                   because));
    print_line("Model", or_words(facts.model, "not said"));
    const LensEntry* copy = fleet.lens(facts.lens_copy);
    const std::string reported = frame.contains("lens") ? frame["lens"]["reported"].get<std::string>() : facts.lens;
    print_line("Lens", or_words(copy ? copy->lens : reported, "not said") +
                           (facts.lens_copy.empty() ? "" : ", " + (copy ? copy->label() : facts.lens_copy)));
    print_line("ISO", facts.iso > 0 ? fmt::format("{:g}", facts.iso) : "not said");
    if (!frame.contains("profile")) return;
    const json& profile = frame["profile"];
    const std::string grade = profile["grade"];
    if (profile.contains("id"))
        print_line("Profile", fmt::format("{} version {} ({}), grade {}: {}", profile["name"].get<std::string>(),
                                          profile["version"].get<int>(), profile["id"].get<std::string>(), grade,
                                          words_of(profile["reasons"])));
    else
        print_line("Profile", fmt::format("none: {}", words_of(profile["against"])));
    const int revision = frame.value("written_revision", 0);
    print_line("State", frame["state"].get<std::string>() +
                            (revision > 0 ? fmt::format(", written by revision {}", revision) : ""));
    if (frame.contains("embedded"))
        print_line("The file", "brings a correction of its own; 'profile embedded' compares it");
}

/// Pinned and hand-set fields; all fields on request.
void print_fields(const ResolvedFrame& resolved, const json& frame, bool all) {
    int left_out = 0;
    fmt::print("\n");
    for (const FieldInfo& f : all_fields()) {
        const ResolvedField& r = resolved[f.field];
        const bool by_hand = frame.contains("hand_set") && frame["hand_set"].contains(f.id);
        if (!all && !r.tier && !by_hand) {
            ++left_out;
            continue;
        }
        fmt::print("{:28} {:>12}   {}\n", f.label,
                   by_hand ? to_display(f.field, value_from_text(f.field, frame["hand_set"][f.id].get<std::string>()))
                           : to_display(f.field, r.value),
                   by_hand ? "by hand" : or_words(r.tier ? r.tier->name : "", "start"));
    }
    if (left_out > 0)
        fmt::print("{} field{} at the start's value; --all prints {} as well.\n", left_out,
                   left_out == 1 ? " is" : "s are", left_out == 1 ? "it" : "them");
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
    const Store store = open_store(o.store, Access::read);
    const Revision revision = o.draft ? store.baselines().draft() : store.baselines().current();
    const std::shared_ptr<const Fleet> fleet = store.registry().fleet();
    json out = json::object();
    ProbeQuery words = o.words;
    words.raw = o.kind == "raw";
    FrameFacts facts = asks_frame ? facts_of_frame(store, *fleet, revision, o.frame, out)
                                  : probe_facts(words, store, *fleet, revision);
    facts.measured = measured_facts(facts, *fleet, current_measurements(store));
    const Resolver resolver(revision);
    ResolvedFrame resolved;
    resolver.resolve(facts, resolved);
    if (!o.json) {
        print_summary(facts, *fleet, out);
        return print_fields(resolved, out, o.all);
    }
    out["revision"] = revision.number;
    out["facts"] = {{"kind", facts.raw ? "raw" : "rendered"},
                    {"model", facts.model},
                    {"body", facts.body},
                    {"body_is", knowledge_words[static_cast<int>(facts.body_knowledge)]},
                    {"lens", facts.lens},
                    {"lens_copy", facts.lens_copy},
                    {"iso", facts.iso},
                    {"measured", json::array()}};
    for (const MeasurementReference& m : facts.measured) out["facts"]["measured"].push_back(to_string(m));
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
    command->add_flag("--all", o->all, "Print the fields that no tier pins as well");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli
