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
    FrameModel& frames() { return *frames_; }
    const FrameModel& frames() const { return *frames_; }
    RegisterModel& entries() { return *register_; }
    const RegisterModel& entries() const { return *register_; }
    BaselineModel& baselines() { return *baselines_; }
    const BaselineModel& baselines() const { return *baselines_; }
    ProfileModel& profiles() { return *profiles_; }
    const ProfileModel& profiles() const { return *profiles_; }
    SheetModel& sheets() { return *sheets_; }
    const SheetModel& sheets() const { return *sheets_; }
    RunService& runs() { return runs_; }
    RolloutService& rollouts() { return rollouts_; }
    ExportService& exports() { return exports_; }
    IntakeService& intake() { return intake_; }
    CameraService& cameras() { return cameras_; }
    ApprovalService& approvals() { return approvals_; }
    SharingService& sharing() { return sharing_; }
    WorkService& work() { return work_; }
    PresenceService& presence() { return presence_; }
    Jobs& jobs() { return *jobs_; }
    QUndoStack& undo() { return undo_; }
    Messages& messages() { return messages_; }

    /// Reads again what another station has changed, and says so.
    void look_for_changes();

private:
    /// The store is on a server that other stations' changes are heard from.
    void listen();
    /// Tries, off the window's thread, whether the server is back.
    void probe();
    QString who_changed();

    Messages messages_;
    std::unique_ptr<Store> store_;
    std::unique_ptr<Jobs> jobs_;
    QUndoStack undo_;
    std::unique_ptr<RegisterModel> register_;
    std::unique_ptr<BaselineModel> baselines_;
    std::unique_ptr<ProfileModel> profiles_;
    std::unique_ptr<FrameModel> frames_;
    std::unique_ptr<SheetModel> sheets_;
    RunService runs_;
    RolloutService rollouts_;
    ExportService exports_;
    IntakeService intake_;
    CameraService cameras_;
    ApprovalService approvals_;
    SharingService sharing_;
    WorkService work_;
    PresenceService presence_;
    QTimer others_{this}, hear_{this};
    bool heard_ = false;    ///< something that was not looked at yet
    bool lost_ = false;     ///< the server cannot be reached
    bool probing_ = false;  ///< somebody tries whether it can
    int quiet_ = 0;         ///< seconds since the last look
    long long roots_ = 0;   ///< the store's stamp of them
};

}  // namespace optrel
