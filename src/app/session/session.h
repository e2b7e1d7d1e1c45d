// SPDX-License-Identifier: GPL-3.0-or-later
// What the window works on: the open store in parts, and word of what other stations change.
//
// Places ask the parts and listen to them; they do not know one another, and none gets the store. What is small
// (register, baselines, profiles) is always there; frames, and all that follows from them, are read off the window's
// thread.
//
// The session, its parts and its store belong to the window's thread. Workers get values and shared constant snapshots,
// and open the store for themselves; what they bring back is dropped when a newer question was asked meanwhile.
#pragma once

#include <QTimer>
#include <QUndoStack>
#include <memory>

#include "session/baseline_book.h"
#include "session/desks.h"
#include "session/frame_book.h"
#include "session/profile_book.h"
#include "session/register_book.h"
#include "session/sheet_book.h"

namespace optrel {

class Jobs;

class Session : public QObject {
    Q_OBJECT
public:
    /// Opens the store; one that cannot be written is opened to be read. Throws as Store does.
    explicit Session(const std::string& store_address, Access access = Access::write);
    ~Session() override;

    /// Where the store is: what a worker takes along to read it.
    const StoreSource& source() const { return store_->source(); }
    FrameBook& frames() { return *frames_; }
    const FrameBook& frames() const { return *frames_; }
    RegisterBook& entries() { return *register_; }
    const RegisterBook& entries() const { return *register_; }
    BaselineBook& baselines() { return *baselines_; }
    const BaselineBook& baselines() const { return *baselines_; }
    ProfileBook& profiles() { return *profiles_; }
    const ProfileBook& profiles() const { return *profiles_; }
    SheetBook& sheets() { return *sheets_; }
    const SheetBook& sheets() const { return *sheets_; }
    RunDesk& runs() { return runs_; }
    RolloutDesk& rollouts() { return rollouts_; }
    Jobs& jobs() { return *jobs_; }
    QUndoStack& undo() { return undo_; }

    /// Frames that a rollout may change and whose baseline is older than the current revision.
    int frames_behind() const { return sheets_->behind(baselines_->current().number); }

    /// Runs something that may throw, and shows the sentence when it does. True when it went well.
    bool attempt(const std::function<void()>& work) { return register_->attempt(work); }
    void tell(const QString& message, bool serious = false) { emit told(message, serious); }

    /// Reads again what another station has changed, and says so.
    void look_for_changes();

signals:
    void runs_changed();
    void told(const QString& message, bool serious);
    /// Somebody should look at a place, for instance by an action of Attention; at a view of it where one is named.
    void go_to(int place, const QString& view = {});
    void inspect_frame(const QString& path);

private:
    std::unique_ptr<Store> store_;
    std::unique_ptr<Jobs> jobs_;
    QUndoStack undo_;
    std::unique_ptr<RegisterBook> register_;
    std::unique_ptr<BaselineBook> baselines_;
    std::unique_ptr<ProfileBook> profiles_;
    std::unique_ptr<FrameBook> frames_;
    std::unique_ptr<SheetBook> sheets_;
    RunDesk runs_;
    RolloutDesk rollouts_;
    QTimer others_;
};

}  // namespace optrel
