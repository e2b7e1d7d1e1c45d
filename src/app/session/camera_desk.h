// SPDX-License-Identifier: GPL-3.0-or-later
// What a place may do with cameras on a cable: which there are, following one, releasing it. It belongs to the window's
// thread; a thread of its own talks to the camera.
#pragma once

#include <QObject>
#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <thread>
#include <vector>

#include "session/frame_book.h"
#include "session/intake_desk.h"
#include "studio/following.h"

namespace optrel {

class CameraDesk : public QObject {
    Q_OBJECT
public:
    CameraDesk(const Store& store, Jobs& jobs, IntakeDesk& intake, FrameBook& frames, Voice& voice);
    /// Ends the following; what the camera holds by then stays on it.
    ~CameraDesk() override;

    /// A folder that stands for a camera from now on.
    void add_folder(const std::filesystem::path& folder);
    /// Looks which cameras are there.
    void look();
    const std::vector<CameraSeen>& seen() const { return seen_; }

    /// What is on a camera that is not followed.
    void list(const CameraSeen& camera, std::function<void(const std::vector<FileOnCamera>&)> done);

    /// What the folder says of its frames where `set` is nothing; else the plain baseline with that set on top.
    void follow(FollowOrder order, const std::optional<std::string>& set, bool show);
    /// The camera is let go as soon as it answers; following() until then.
    void stop();
    void release();
    bool following() const { return following_ != nullptr; }
    bool can_release() const { return can_release_; }
    /// "Following the Mass Storage Camera; 3 frames came."
    QString state() const;

signals:
    /// Which cameras there are, or what the one that is followed does.
    void changed();

private:
    void run(FollowOrder order, std::optional<std::string> set, const std::string& author);
    void ended(const QString& problem);
    void came(const std::filesystem::path& frame);
    void show_newest();

    StoreSource source_;
    bool writable_;
    Jobs& jobs_;
    IntakeDesk& intake_;
    FrameBook& frames_;
    Voice& voice_;
    std::vector<std::filesystem::path> folders_;
    std::vector<CameraSeen> seen_;
    std::thread thread_;
    std::unique_ptr<Progress> following_;  ///< of the thread
    std::atomic<bool> connected_{false}, can_release_{false}, release_{false};
    std::atomic<int> received_{0};
    QString model_, why_not_;
    bool show_ = false, looking_ = false, again_ = false;
    std::filesystem::path newest_;  ///< to be shown as soon as it is known
};

}  // namespace optrel
