// The store: one SQLite file in a folder, schema by numbered migrations.
//
// A Store belongs to the thread that opened it, and refuses any other; a worker opens one of its own by the same
// folder. All writes of one call are one transaction. Errors are Error(store), one sentence: locked, read-only,
// damaged, or written by a newer version.
#pragma once

#include <filesystem>
#include <functional>
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

/// What a store is opened for. read: also works where nothing can be written (a read-only folder, a full disk). begin:
/// makes the store when there is none; only commands that begin a studio do.
enum class Access { read, write, begin };

/// Whether a folder holds a store.
bool is_store(const std::filesystem::path& folder);

class Store {
public:
    /// Opens the store in a folder. Older schemas are migrated. Throws Error(input) when there is none (and it is not
    /// to be begun), when a store would be begun among frames, and for an address that is no folder.
    explicit Store(const std::filesystem::path& folder, Access access = Access::write);
    ~Store();
    Store(const Store&) = delete;
    Store& operator=(const Store&) = delete;

    const std::filesystem::path& folder() const { return folder_; }
    /// False when it was opened to be read where nothing can be written.
    bool writable() const;
    std::filesystem::path rollouts_folder() const { return folder_ / "rollouts"; }
    static constexpr int newest_schema = 3;

    std::vector<FrameRecord> frames();
    int frame_count();
    std::optional<FrameRecord> frame(const std::filesystem::path& path);
    /// Adds or renews frames. What they report of bodies and lenses waits to be claimed, unless `enter` puts what has a
    /// serial number into the register at once.
    void put_frames(const std::vector<FrameRecord>& frames, bool enter = false);

    /// Camera names and lens texts that frames report, each once.
    struct Reported {
        std::vector<std::string> models, lenses;
    };
    Reported reported();

    std::vector<ModelEntry> models();
    std::vector<Body> bodies();
    std::vector<LensEntry> lenses();
    std::vector<Claim> claims();
    Register entries() { return {models(), bodies(), lenses()}; }
    std::shared_ptr<const Fleet> fleet() { return std::make_shared<const Fleet>(entries(), claims()); }

    /// Several edits of the register, as one. What an entry was before is given so that an edit made at another station
    /// meanwhile is noticed; nothing means that it is new, or, in `after`, that it goes.
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
    /// `with_draft` edits the draft in the same transaction, as change_draft() does.
    void edit_fleet(const FleetEdit& edit, const std::string& author,
                    const std::function<void(Revision&)>& with_draft = {});
    /// Takes an import over as one edit.
    FleetEdit edit_for(const RegisterImport& import);

    struct HistoryEntry {
        std::string time, author, kind, subject, what, before, after;
    };
    /// Newest first; of one entry, or of all with an empty subject. Kinds are model, body, lens and claim.
    std::vector<HistoryEntry> history(const std::string& kind = "", const std::string& subject = "", int most = 500);

    /// The newest version of each profile, or all versions, by name.
    std::vector<Profile> profiles(bool all_versions = false);
    /// Publishes as the next version of the same lens and camera (same_subject); returns it with id and version.
    /// Published versions never change. `keep_settings` takes over the lens settings of the version before that this
    /// one does not have.
    Profile publish_profile(Profile profile, bool keep_settings = false);

    /// The draft, with what the register adds to the start "as recorded" now.
    Revision draft();
    // A write of the draft names what it replaces; there is no other way to write one.

    /// Reads the draft, lets `edit` change it, and writes it, as one transaction: for commands that say what is to
    /// change whatever the draft is. What `edit` throws leaves the draft as it was. Returns the draft as it is then.
    Revision change_draft(const std::function<void(Revision&)>& edit);
    /// Replaces `base`, which draft() gave and a person saw, by `mine`. When another station edited the draft since,
    /// both edits are put together; what had to give way is told.
    MergedDrafts edit_draft(const Revision& base, const Revision& mine);
    /// Published revisions, newest first.
    std::vector<Revision> revisions();
    std::optional<Revision> revision(int number);
    /// The newest revision; number 0 and no tiers when none is published.
    Revision current_revision();
    /// Makes the draft an immutable revision. Throws Error(input) with the first conflict when there is one, or when
    /// the draft is not `expected` any more, or says nothing that the newest revision does not say.
    Revision publish_draft(const std::string& author, const std::string& note, const Revision* expected = nullptr);

    /// What becomes of a draft that has changes of its own when an earlier revision is published again. keep: it stays,
    /// so publishing it later brings back what differs from the new revision. follow: its changes are dropped.
    enum class DraftThen { keep, follow };
    struct Returned {
        Revision revision;
        int draft_changes = 0;  ///< what publishing the draft would change in the new revision
    };
    /// Publishes what an earlier revision said as a new revision. A draft without changes of its own follows in any
    /// case.
    Returned return_to(int number, const std::string& author, const std::string& note,
                       DraftThen then = DraftThen::keep);

    /// How often each part was written: frames, fleet, draft, baselines, profiles. Tells what another station has
    /// changed meanwhile.
    std::map<std::string, int> stamps();

    std::vector<RunRecord> runs();
    int put_run(const RunRecord& run);  ///< id 0: a new one; returns the id
    /// Replaces one frame of a run, so that what was measured survives a stop; nothing happens when the run is gone.
    void put_run_frame(int run, int position, const RunFrame& frame);
    void delete_run(int id);
    /// A run that was begun on this folder and chart and not measured to its end, as when the program was killed;
    /// nothing otherwise.
    std::optional<RunRecord> unfinished_run(const std::string& name, const std::string& folder,
                                            const std::string& chart);

private:
    class Database;
    std::map<std::string, Pins> recorded_adds();
    void write_draft(const Revision& before, const Revision& after);
    Revision change_draft_within(const std::function<void(Revision&)>& edit);
    int draft_edits();
    void stamp(const char* part);
    void insert_revision(Revision& revision, const std::string& author, const std::string& note);
    std::vector<RunFrame> frames_of_run(int id);

    std::filesystem::path folder_;
    std::unique_ptr<Database> db_;
};

/// Where the store is when nobody says: optrel below the user's data directory.
std::filesystem::path default_store_folder();

}  // namespace optrel
