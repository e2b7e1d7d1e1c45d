// SPDX-License-Identifier: GPL-3.0-or-later
// What the window works on: the open store in parts, and word of what other stations change.
//
// Places get some of the parts (parts.h), ask and listen to them; they do not know one another, and none gets the
// store. What is small
// (register, baselines, profiles) is always there; frames, and all that follows from them, are read off the window's
// thread.
//
// The session, its parts and its store belong to the window's thread. Workers get values and shared constant snapshots,
// and open the store for themselves; what they bring back is dropped when a newer question was asked meanwhile.
#pragma once

#include <QTimer>
#include <memory>

#include "session/parts.h"

namespace optrel {

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
    ExportDesk& exports() { return exports_; }
    IntakeDesk& intake() { return intake_; }
    CameraDesk& cameras() { return cameras_; }
    ApprovalDesk& approvals() { return approvals_; }
    TravelDesk& travel() { return travel_; }
    WorkDesk& work() { return work_; }
    PresenceDesk& presence() { return presence_; }
    Jobs& jobs() { return *jobs_; }
    QUndoStack& undo() { return undo_; }
    Voice& voice() { return voice_; }

    /// Reads again what another station has changed, and says so.
    void look_for_changes();

private:
    /// The store is on a server that other stations' changes are heard from.
    void listen();
    /// Tries, off the window's thread, whether the server is back.
    void probe();
    QString who_changed();

    Voice voice_;
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
    ExportDesk exports_;
    IntakeDesk intake_;
    CameraDesk cameras_;
    ApprovalDesk approvals_;
    TravelDesk travel_;
    WorkDesk work_;
    PresenceDesk presence_;
    QTimer others_{this}, hear_{this};
    bool heard_ = false;    ///< something that was not looked at yet
    bool lost_ = false;     ///< the server cannot be reached
    bool probing_ = false;  ///< somebody tries whether it can
    int quiet_ = 0;         ///< seconds since the last look
    long long roots_ = 0;   ///< the store's stamp of them
};

}  // namespace optrel
