// SPDX-License-Identifier: GPL-3.0-or-later
// What the window works on: the open store, what was read from it, and word of every change.
//
// Places ask the session and listen to it; they do not know one another, and none gets the store. Frames, and all that
// follows from them, are read off the window's thread; what is small (register, draft, profiles) is always there.
// Sheets, runs and rollouts are parts of their own.
//
// The session and its store belong to the window's thread. Workers get values and shared constant snapshots, and open
// the store for themselves; what they bring back is dropped when a newer question was asked meanwhile.
#pragma once

#include <QObject>
#include <QTimer>
#include <QUndoStack>
#include <functional>
#include <map>
#include <memory>
#include <unordered_map>

#include "baselines/difference.h"
#include "baselines/lint.h"
#include "session/desks.h"
#include "session/sheet_book.h"
#include "store/store.h"
#include "studio/knowledge.h"
#include "studio/profile_use.h"

namespace optrel {

class Jobs;

/// What follows from frames, register and claims.
struct FleetKnowledge {
    std::vector<FrameFacts> facts;  ///< one for each frame
    GroupIndex index;
    const std::vector<FactsGroup>& groups() const { return index.all(); }
    std::vector<FleetBody> bodies;
    RecordedHabits habits;
    double lowest_iso = 100, highest_iso = 12800;  ///< of the frames, at least this range
    std::vector<Identity> identities;
    std::unordered_map<std::string, int> frames_of_body, frames_of_lens;  ///< by id
    std::vector<LensUse> lens_use;
    std::vector<std::string> folders;  ///< in which frames lie, sorted
};

class Session : public QObject {
    Q_OBJECT
public:
    /// Opens the store; one that cannot be written is opened to be read. Throws as Store does.
    explicit Session(const std::string& store_address, Access access = Access::write);
    ~Session() override;

    /// Where the store is: what a worker takes along to read it.
    const StoreSource& source() const { return store_->source(); }
    SheetBook& sheets() { return *sheets_; }
    const SheetBook& sheets() const { return *sheets_; }
    RunDesk& runs() { return runs_; }
    RolloutDesk& rollouts() { return rollouts_; }
    Jobs& jobs() { return *jobs_; }
    QUndoStack& undo() { return undo_; }

    using Frames = std::vector<FrameRecord>;
    const Frames& frames() const { return *frames_; }
    std::shared_ptr<const Frames> frames_shared() const { return frames_; }
    /// Whether the store has frames, even while they are still being read.
    bool has_frames() const { return has_frames_; }
    const std::shared_ptr<const Fleet>& fleet() const { return fleet_; }
    const std::vector<Body>& bodies() const { return fleet_->entries().bodies; }
    const std::vector<LensEntry>& lenses() const { return fleet_->entries().lenses; }
    const FleetKnowledge& knowledge() const { return *knowledge_; }
    std::shared_ptr<const FleetKnowledge> knowledge_shared() const { return knowledge_; }
    const std::vector<Profile>& profiles() const { return profiles_; }
    const Revision& draft() const { return draft_; }
    const Revision& current() const { return current_; }
    /// The current revision, ready to resolve.
    const Resolver& current_resolver();
    /// How many things differ between the draft and the current revision.
    int pending_changes() const { return pending_changes_; }
    /// Frames that a rollout may change and whose baseline is older than the current revision.
    int frames_behind() const { return sheets_->behind(current_.number); }
    /// Name of a profile by its id, for people; the id itself when it is not there.
    QString profile_name(const std::string& id) const;

    /// An undoable edit of the draft. Only what differs is kept and written.
    void edit_draft(const QString& what, const Revision& after);
    /// An undoable edit of the register and its claims.
    void edit_fleet(const QString& what, FleetEdit edit);
    void add_folder(const QString& folder);

    // What is published and what was done is read from the store each time. These throw as the store does.
    std::vector<Revision> revisions() { return store_->baselines().revisions(); }
    std::optional<Revision> revision(int number) { return store_->baselines().revision(number); }
    /// Publishes the draft as it is shown.
    Revision publish_draft(const std::string& note);
    StoredBaselines::Returned return_to(int number, const std::string& note, StoredBaselines::DraftThen then);
    std::vector<Profile> profile_versions() { return store_->profiles().all_versions(); }
    Profile publish_profile(const Profile& profile, bool keep_settings);
    std::vector<HistoryEntry> history(const std::string& kind, const std::string& subject, int most) {
        return store_->registry().history(kind, subject, most);
    }
    FleetEdit edit_for(const RegisterImport& import) { return store_->registry().edit_for(import); }

    /// Runs something that may throw, and shows the sentence when it does. True when it went well.
    bool attempt(const std::function<void()>& work);
    void tell(const QString& message, bool serious = false) { emit told(message, serious); }

public slots:
    void reload_frames();
    void reload_fleet();
    void reload_profiles();
    void reload_baselines();
    /// Reads again what another station has changed, and says so.
    void look_for_changes();

signals:
    void frames_changed();
    void fleet_changed();
    /// Facts, groups, identities and the use of lenses were worked out anew.
    void knowledge_changed();
    void profiles_changed();
    void baselines_changed();
    void sheets_changed();
    void runs_changed();
    void told(const QString& message, bool serious);
    /// Somebody should look at a place, for instance by an action of Attention; at a view of it where one is named.
    void go_to(int place, const QString& view = {});
    void inspect_frame(const QString& path);

private:
    friend class DraftEntry;
    friend class FleetEntry;
    bool put_draft(const Revision& after);
    bool put_fleet(const FleetEdit& edit);
    void work_out();
    void count_changes() { pending_changes_ = static_cast<int>(difference(current_, draft_).size()); }

    std::unique_ptr<Store> store_;
    std::unique_ptr<Jobs> jobs_;
    std::unique_ptr<SheetBook> sheets_;
    RunDesk runs_;
    RolloutDesk rollouts_;
    QUndoStack undo_;
    QTimer others_;
    std::map<std::string, long long> stamps_;
    std::shared_ptr<const Frames> frames_ = std::make_shared<Frames>();
    bool has_frames_ = false;
    std::shared_ptr<const Fleet> fleet_ = std::make_shared<Fleet>();
    std::shared_ptr<const FleetKnowledge> knowledge_ = std::make_shared<FleetKnowledge>();
    int work_number_ = 0;     ///< tells the newest working-out from older ones that are still under way
    int frames_reading_ = 0;  ///< the same for readings of frames
    std::vector<Profile> profiles_;
    Revision draft_, current_;
    int pending_changes_ = 0;
    std::unique_ptr<const Resolver> current_resolver_;
    int resolver_of_ = -1;  ///< number of the revision that it was made from
};

}  // namespace optrel
