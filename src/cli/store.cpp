#include <fmt/format.h>

#include "base/files.h"
#include "commands.h"
#include "rollout/rollout.h"
#include "studio/studio.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct Options {
    std::string store, what, profile;
    std::vector<std::string> folders;
    bool json = false, unclaimed = false;
};

void index(const Options& o) {
    Store store(store_folder(o.store));
    std::vector<std::filesystem::path> files;
    for (const std::string& folder : o.folders) {
        const auto found = frame_files(folder);
        files.insert(files.end(), found.begin(), found.end());
    }
    std::vector<std::string> problems;
    const int fresh = index_files(files, store.frames(), [&](const std::vector<FrameRecord>& portion) { store.put_frames(portion, !o.unclaimed); }, problems, console_progress());
    for (const std::string& p : problems) fmt::print(stderr, "{}\n", p);
    if (o.json)
        print_json({{"files", files.size()}, {"new_or_changed", fresh}, {"problems", problems}});
    else
        fmt::print("{} files, {} new or changed, {} unreadable\n", files.size(), fresh, problems.size());
}

json list_of(Store& store, const std::string& what) {
    json out = json::array();
    if (what == "frames") {
        const std::shared_ptr<const Fleet> fleet = store.fleet();
        for (const FrameRecord& f : store.frames()) {
            const FrameKnowledge known = know(f.path, f.metadata, *fleet);
            json j = {{"frame", f.path.string()}, {"camera", camera_name(f.metadata)}, {"body", body_label(known.facts, *fleet)}, {"body_is", to_string(known.body.knowledge)},
                      {"lens", known.metadata.lens}, {"iso", f.metadata.iso}, {"focal_mm", known.metadata.focal_mm}, {"aperture", known.metadata.aperture}};
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
    } else if (what == "bodies") {
        for (const Body& b : store.bodies())
            out.push_back({{"id", b.id}, {"maker", b.maker}, {"model", b.model}, {"serial", b.serial}, {"name", b.name}, {"asset_tag", b.asset_tag},
                           {"size", {b.width, b.height}}, {"pitch_um", b.pitch_um}, {"room", b.room}, {"condition", b.condition}, {"in_service", b.in_service}});
    } else if (what == "lenses") {
        for (const LensEntry& l : store.lenses()) out.push_back({{"id", l.id}, {"lens", l.lens}, {"serial", l.serial}, {"name", l.name}, {"asset_tag", l.asset_tag}});
    } else if (what == "profiles") {
        for (const Profile& p : store.profiles(true))
            out.push_back({{"id", p.id}, {"version", p.version}, {"name", p.name}, {"lens_serial", p.lens_serial}, {"camera", p.camera}, {"time", p.provenance.time},
                           {"rms_px", p.nodes.front().quality.rms_px}});
    } else if (what == "revisions") {
        for (const Revision& r : store.revisions()) out.push_back({{"number", r.number}, {"author", r.author}, {"time", r.time}, {"note", r.note}, {"tiers", r.tiers.size()}});
    } else if (what == "rollouts") {
        for (const RolloutRecord& r : list_rollouts(store.rollouts_folder()))
            out.push_back({{"number", r.number}, {"revision", r.revision}, {"author", r.author}, {"time", r.time}, {"frames", r.frames}, {"status", to_string(r.status)}});
    } else {
        throw usage_error(fmt::format("There is no list '{}'; choose frames, bodies, lenses, profiles, revisions or rollouts.", what));
    }
    return out;
}

}  // namespace

void add_store(CLI::App& app) {
    auto* command = app.add_subcommand("store", "Frames, fleet and profiles of a store");
    command->require_subcommand(1);
    add_register(*command);
    auto o = std::make_shared<Options>();

    auto* indexing = command->add_subcommand("index", "Read the metadata of all frames in folders and register their bodies and lenses");
    add_store_option(*indexing, o->store);
    indexing->add_option("folders", o->folders, "Folders with frames")->required();
    indexing->add_flag("--unclaimed", o->unclaimed, "Leave bodies and lenses with new serial numbers unclaimed instead of registering them");
    indexing->add_flag("--json", o->json, "Print JSON");
    indexing->callback([o] { index(*o); });

    auto* listing = command->add_subcommand("list", "List frames, bodies, lenses, profiles, revisions or rollouts as JSON");
    add_store_option(*listing, o->store);
    listing->add_option("what", o->what, "frames, bodies, lenses, profiles, revisions or rollouts")->required();
    listing->add_flag("--json", o->json, "Print JSON (the only form)");
    listing->callback([o] {
        Store store(store_folder(o->store));
        print_json(list_of(store, o->what));
    });

    auto* publishing = command->add_subcommand("publish-profile", "Publish a measured profile as the next version for its lens");
    add_store_option(*publishing, o->store);
    publishing->add_option("profile", o->profile, "Profile (JSON) as calibrate wrote it")->required();
    publishing->add_flag("--json", o->json, "Print JSON");
    publishing->callback([o] {
        Store store(store_folder(o->store));
        const Profile p = store.publish_profile(profile_from_json(read_file(o->profile), o->profile));
        if (o->json)
            print_json({{"id", p.id}, {"version", p.version}});
        else
            fmt::print("Published {} as version {} ({})\n", p.name, p.version, p.id);
    });
}

}  // namespace optrel::cli
