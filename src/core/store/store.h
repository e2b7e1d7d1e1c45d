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

#include "baselines/difference.h"
#include "baselines/tier.h"
#include "calibration/run.h"
#include "fleet/fleet.h"
#include "fleet/register_files.h"
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
    static constexpr int newest_schema = 2;

    std::vector<FrameRecord> frames();
    int frame_count();
    std::optional<FrameRecord> frame(const std::filesystem::path& path);
    /// Adds or renews frames. What they report of bodies and lenses waits to be claimed, unless `enter` puts what has a serial number
    /// into the register at once.
    void put_frames(const std::vector<FrameRecord>& frames, bool enter = false);

    std::vector<ModelEntry> models();
    std::vector<Body> bodies();
    std::vector<LensEntry> lenses();
    std::vector<Claim> claims();
    Register entries() { return {models(), bodies(), lenses()}; }
    std::shared_ptr<const Fleet> fleet() { return std::make_shared<const Fleet>(entries(), claims()); }

    /// Several edits of the register, as one. What an entry was before is given so that an edit made at another station meanwhile is
    /// noticed; nothing means that it is new, or, in `after`, that it goes.
    template <class T>
    struct Edit {
        std::optional<T> before, after;
        bool operator==(const Edit&) const = default;
    };
    struct FleetEdit {
        std::string what;  ///< for the history, as in "claim a number"
        std::vector<Edit<ModelEntry>> models;
        std::vector<Edit<Body>> bodies;
        std::vector<Edit<LensEntry>> lenses;
        std::vector<Edit<Claim>> claims;
        bool empty() const { return models.empty() && bodies.empty() && lenses.empty() && claims.empty(); }
        /// The edit that takes this one back.
        FleetEdit reversed() const;
    };
    /// Throws Error(input), changing nothing, when an entry is not as it was before, or cannot stand in the register.
    void edit_fleet(const FleetEdit& edit, const std::string& author);
    /// Takes an import over as one edit.
    FleetEdit edit_for(const RegisterImport& import);

    struct HistoryEntry {
        std::string time, author, kind, subject, what, before, after;
    };
    /// Newest first; of one entry, or of all with an empty subject. Kinds are model, body, lens and claim.
    std::vector<HistoryEntry> history(const std::string& kind = "", const std::string& subject = "", int most = 500);

    /// The newest version of each profile, or all versions, by name.
    std::vector<Profile> profiles(bool all_versions = false);
    /// Publishes as the next version of the same lens and camera; returns it with id and version. Published versions never change.
    Profile publish_profile(Profile profile);

    /// The draft, with what the register adds to the start "as recorded" now.
    Revision draft();
    /// Replaces the draft, whatever it was.
    void put_draft(const Revision& draft);
    /// Replaces `base` by `mine`. When another station edited the draft since `base` was read, both edits are put together; what had
    /// to give way is told.
    MergedDrafts edit_draft(const Revision& base, const Revision& mine);
    /// Published revisions, newest first.
    std::vector<Revision> revisions();
    std::optional<Revision> revision(int number);
    /// The newest revision; number 0 and no tiers when none is published.
    Revision current_revision();
    /// Makes the draft an immutable revision. Throws Error(input) with the first conflict when there is one, or when the draft is not
    /// `expected` any more.
    Revision publish_draft(const std::string& author, const std::string& note, const Revision* expected = nullptr);

    /// Publishes what an earlier revision said as a new revision. A draft without changes of its own follows; else it is kept.
    Revision return_to(int number, const std::string& author, const std::string& note);

    /// How often each part was written: frames, fleet, draft, baselines, profiles. Tells what another station has changed meanwhile.
    std::map<std::string, int> stamps();

    std::vector<RunRecord> runs();
    int put_run(const RunRecord& run);  ///< id 0: a new one; returns the id
    /// Replaces one frame of a run, so that what was measured survives a stop; nothing happens when the run is gone.
    void put_run_frame(int run, int position, const RunFrame& frame);
    void delete_run(int id);

private:
    class Database;
    std::map<std::string, Pins> recorded_adds();
    void write_draft(const Revision& before, const Revision& after);
    int draft_edits();
    void stamp(const char* part);
    void insert_revision(Revision& revision, const std::string& author, const std::string& note);

    std::filesystem::path folder_;
    std::unique_ptr<Database> db_;
    int draft_seen_ = -1;  ///< the draft's count of edits when this connection last read or wrote it
};

/// Where the store is when nobody says: optrel below the user's data directory.
std::filesystem::path default_store_folder();

}  // namespace optrel
