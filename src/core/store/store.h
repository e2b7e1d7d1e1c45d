// The store: one SQLite file in a folder, schema by numbered migrations.
//
// A Store belongs to the thread that opened it. All writes of one call are one transaction. Errors are Error(store), one
// sentence: locked, read-only, damaged, or written by a newer version.
#pragma once

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "baselines/tier.h"
#include "calibration/run.h"
#include "fleet/register.h"
#include "optics/profile.h"

namespace optrel {

/// A frame that the store knows of.
struct FrameRecord {
    std::filesystem::path path;
    Metadata metadata;
    long long size = 0, modified = 0;  ///< of the file, to see whether it changed
};

struct RunRecord {
    int id = 0;
    std::string name;
    std::string chart;
    std::string folder;
    std::vector<RunFrame> frames;
};

class Store {
public:
    /// Opens the store in a folder; makes folder and store when there is none. Older schemas are migrated.
    explicit Store(const std::filesystem::path& folder);
    ~Store();
    Store(const Store&) = delete;
    Store& operator=(const Store&) = delete;

    const std::filesystem::path& folder() const { return folder_; }
    std::filesystem::path rollouts_folder() const { return folder_ / "rollouts"; }
    static constexpr int newest_schema = 1;

    std::vector<FrameRecord> frames();
    std::optional<FrameRecord> frame(const std::filesystem::path& path);
    /// Adds or renews frames, and registers the bodies and lenses that they name.
    void put_frames(const std::vector<FrameRecord>& frames);

    std::vector<Body> bodies();
    std::vector<LensEntry> lenses();
    void put_body(const Body& body);
    void put_lens(const LensEntry& lens);

    /// The newest version of each profile, or all versions, by name.
    std::vector<Profile> profiles(bool all_versions = false);
    /// Publishes as the next version of the same lens and camera; returns it with id and version. Published versions never change.
    Profile publish_profile(Profile profile);

    Revision draft();
    void put_draft(const Revision& draft);
    /// Published revisions, newest first.
    std::vector<Revision> revisions();
    /// The newest revision; number 0 and no tiers when none is published.
    Revision current_revision();
    /// Makes the draft an immutable revision. Throws Error(input) with the first conflict when there is one.
    Revision publish_draft(const std::string& author, const std::string& note);

    std::vector<RunRecord> runs();
    int put_run(const RunRecord& run);  ///< id 0: a new one; returns the id
    /// Replaces one frame of a run, so that what was measured survives a stop; nothing happens when the run is gone.
    void put_run_frame(int run, int position, const RunFrame& frame);
    void delete_run(int id);

private:
    class Database;
    std::filesystem::path folder_;
    std::unique_ptr<Database> db_;
};

/// Where the store is when nobody says: optrel below the user's data directory.
std::filesystem::path default_store_folder();

}  // namespace optrel
