// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/sharing/publish_options.h"
#include "cli/stations/measurements.h"
#include "store/copy.h"
#include "studio/frames/knowledge.h"
#include "studio/intake/take_in.h"
#include "studio/profiles/profile_file.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct StoreOptions {
    std::string store, what, profile;
    std::vector<std::string> folders;
    std::string from, to;
    PublishOptions publishing;
    bool json = false, unclaimed = false;
};

void index(const StoreOptions& o) {
    Store store = open_store(o.store, Access::begin);
    const IndexReport taken = take_in(store, {o.folders.begin(), o.folders.end()}, !o.unclaimed, console_progress());
    tell_problems(taken.problems);
    tell_problems(taken.corrected);
    if (o.json)
        print_json({{"files", taken.files},
                    {"new_or_changed", taken.fresh},
                    {"problems", taken.problems},
                    {"corrected_already", taken.corrected},
                    {"bundles", taken.bundles}});
    else
        fmt::print("{} files, {} new or changed, {} unreadable{}\n", taken.files, taken.fresh, taken.problems.size(),
                   taken.bundles ? "; a bundle lies there: 'bundle found' lists it" : "");
}

json frame_list(const Store& store) {
    json out = json::array();
    const std::shared_ptr<const Fleet> fleet = store.registry().fleet();
    for (const FrameRecord& f : store.frames().all()) {
        const FrameKnowledge known = know(f.path, f.metadata, *fleet);
        json j = {{"frame", f.path.string()},
                  {"camera", camera_name(*f.metadata)},
                  {"body", body_label(known.facts, *fleet)},
                  {"body_is", to_string(known.body.knowledge)},
                  {"lens", known.metadata.lens},
                  {"iso", f.metadata.iso},
                  {"focal_mm", known.metadata.focal_mm},
                  {"aperture", known.metadata.aperture}};
        try {
            const Sheet sheet = read_sheet(f.path);
            j["state"] = to_string(sheet.state());
            j["revision"] = sheet.revision;
        } catch (const Error& error) {
            j["state"] = "unreadable";
            j["reason"] = error.what();
        }
        out.push_back(j);
    }
    return out;
}

json entry(const Body& b) {
    return {{"id", b.id},
            {"maker", b.maker},
            {"model", b.model},
            {"serial", b.serial},
            {"name", b.name},
            {"asset_tag", b.asset_tag},
            {"size", {b.width, b.height}},
            {"pitch_um", b.pitch_um},
            {"room", b.room},
            {"condition", b.condition},
            {"in_service", b.in_service}};
}

json entry(const LensEntry& l) {
    return {{"id", l.id}, {"lens", l.lens}, {"serial", l.serial}, {"name", l.name}, {"asset_tag", l.asset_tag}};
}

json entry(const ModelEntry& m) {
    return {{"id", m.id},
            {"maker", m.maker},
            {"model", m.model},
            {"size", {m.width, m.height}},
            {"pitch_um", m.pitch_um},
            {"filter", m.filter},
            {"recorded_adds", m.recorded_adds},
            {"notes", m.notes}};
}

json entry(const Profile& p) {
    json out = {{"id", p.id},
                {"version", p.version},
                {"name", p.name},
                {"lens_serial", p.lens_serial},
                {"camera", p.camera},
                {"time", p.provenance.time},
                {"origin", to_string(p.origin)}};
    if (p.measured()) out["rms_px"] = p.nodes.front().quality.rms_px;
    return out;
}

json entry(const Revision& r) {
    return {{"number", r.number}, {"author", r.author}, {"time", r.time}, {"note", r.note}, {"tiers", r.tiers.size()}};
}

json entry(const RolloutRecord& r) {
    return {
        {"number", r.number}, {"revision", r.revision},        {"author", r.author},         {"time", r.time},
        {"frames", r.frames}, {"status", to_string(r.status)}, {"running_at", r.running_at}, {"problem", r.problem}};
}

json entry(const RunRecord& r) {
    const auto measured =
        std::count_if(r.frames.begin(), r.frames.end(), [](const RunFrame& f) { return f.measured(); });
    return {
        {"id", r.id},          {"name", r.name}, {"chart", r.chart}, {"folder", r.folder}, {"frames", r.frames.size()},
        {"measured", measured}};
}

json entry(const BodyRun& r) {
    return {{"id", r.id},
            {"kind", r.kind},
            {"name", r.name},
            {"folder", r.folder.string()},
            {"frames", r.frames.size()},
            {"measured", !r.result.empty()}};
}

template <class T>
json entries(const std::vector<T>& list) {
    json out = json::array();
    for (const T& t : list) out.push_back(entry(t));
    return out;
}

json list_of(const Store& store, const std::string& what) {
    if (what == "frames") return frame_list(store);
    if (what == "bodies") return entries(store.registry().bodies());
    if (what == "lenses") return entries(store.registry().lenses());
    if (what == "models") return entries(store.registry().models());
    if (what == "runs") return entries(store.runs().all());
    if (what == "body-runs") return entries(store.body_runs().all());
    if (what == "profiles") return entries(store.profiles().all_versions());
    if (what == "measurements") return measurement_list(store);
    if (what == "revisions") return entries(store.baselines().revisions());
    if (what == "rollouts") return entries(store.rollouts().list());
    throw usage_error(
        fmt::format("There is no list '{}'; choose frames, bodies, lenses, models, runs, body-runs, profiles, "
                    "measurements, revisions or "
                    "rollouts.",
                    what));
}

void copy(const StoreOptions& o) {
    Store from = open_store(o.from, Access::write), to = open_store(o.to, Access::begin);
    const StoreCopy copied = copy_store(from, to, console_progress());
    tell_problems(copied.problems);
    json tables = json::array();
    long long rows = 0;
    for (const CopiedTable& t : copied.tables) {
        tables.push_back({{"table", t.name}, {"rows", t.rows}, {"sha256", t.digest}});
        rows += t.rows;
    }
    if (o.json)
        print_json({{"from", from.source().address()},
                    {"to", to.source().address()},
                    {"tables", tables},
                    {"problems", copied.problems}});
    else
        fmt::print("{} rows of {} tables copied, read again in both and found equal\n", rows, copied.tables.size());
}

void add_copy(CLI::App& store, const std::shared_ptr<StoreOptions>& o) {
    auto* copying =
        add_command(store, "copy", "Copy a whole store into a new one, on the same or another engine, and compare them",
                    "store copy --from studio --to postgresql://iva@server/studio");
    copying->add_option("--from", o->from, "The store that is copied: a folder or an address")->required();
    copying->add_option("--to", o->to, "A new store, or the one in which an earlier copy was stopped")->required();
    copying->add_flag("--json", o->json, "Print JSON, with count and digest of every table");
    copying->callback([o] { copy(*o); });
}

}  // namespace

namespace {

void add_upgrade(CLI::App& store, const std::shared_ptr<StoreOptions>& o) {
    auto* upgrading =
        add_command(store, "upgrade", "Bring a store that an earlier version wrote up to date; a copy of it is kept",
                    "store upgrade --store studio");
    add_store_option(*upgrading, o->store);
    upgrading->callback([o] {
        const Store store = open_store(o->store, Access::upgrade);
        fmt::print("{} is up to date.\n", printable(store.source().address()));
    });
}

void add_publishing(CLI::App& store, const std::shared_ptr<StoreOptions>& o) {
    auto* publishing =
        add_command(store, "publish-profile", "Publish a measured profile as the next version for its lens",
                    "store publish-profile --store studio profile.json");
    add_store_option(*publishing, o->store);
    publishing->add_option("profile", o->profile, "Profile (JSON) as calibrate wrote it")->required();
    add_publish_options(*publishing, o->publishing);
    publishing->add_flag("--json", o->json, "Print JSON");
    publishing->callback([o] {
        Profile measured = read_profile(o->profile);
        accept(measured, o->publishing);
        const OtherSettings others = o->publishing.others();
        Store store = open_store(o->store, Access::begin);
        confirm_publishing(store, measured, o->publishing);
        const Profile p = take_in_profile(store, measured, others);
        if (o->json)
            print_json({{"id", p.id}, {"version", p.version}});
        else
            fmt::print("Published {} as version {} ({})\n", p.name, p.version, p.id);
    });
}

}  // namespace

void add_store(CLI::App& app) {
    auto* command =
        add_command(app, "store", "Frames, fleet and profiles of a store", "store list frames --store studio");
    command->require_subcommand(1);
    add_register(*command);
    auto o = std::make_shared<StoreOptions>();
    add_copy(*command, o);
    add_studio(*command);

    auto* beginning = add_command(*command, "begin", "Begin a store in a folder of its own, or on a server",
                                  "store begin --store studio");
    add_store_option(*beginning, o->store);
    beginning->callback([o] { open_store(o->store, Access::begin); });
    add_upgrade(*command, o);

    auto* indexing = add_command(*command, "index",
                                 "Read the metadata of all frames in folders and register their bodies and lenses; "
                                 "begins the store when there is none",
                                 "store index --store studio frames");
    add_store_option(*indexing, o->store);
    indexing->add_option("folders", o->folders, "Folders with frames")->required();
    indexing->add_flag("--unclaimed", o->unclaimed,
                       "Leave bodies and lenses with new serial numbers unclaimed instead of registering them");
    indexing->add_flag("--json", o->json, "Print JSON");
    indexing->callback([o] { index(*o); });

    auto* listing =
        add_command(*command, "list",
                    "List frames, bodies, lenses, models, runs, profiles, measurements, revisions or rollouts as JSON",
                    "store list bodies --store studio");
    add_store_option(*listing, o->store);
    listing
        ->add_option("what", o->what,
                     "frames, bodies, lenses, models, runs, profiles, measurements, revisions or rollouts")
        ->required();
    listing->add_flag("--json", o->json, "Print JSON (the only form)");
    listing->callback([o] {
        const Store store = open_store(o->store, Access::read);
        const nlohmann::json listed = list_of(store, o->what);
        print_json(listed);
        if (listed.empty()) fmt::print(stderr, "The store has no {}.\n", o->what);
    });
    add_publishing(*command, o);
    add_measurements(*command);
}

}  // namespace optrel::cli
