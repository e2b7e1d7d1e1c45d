// SPDX-License-Identifier: GPL-3.0-or-later
// Tethered cameras: list, follow and release. Belongs to the window's thread; a separate thread communicates with the
// camera.
#pragma once

#include <QObject>
#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <thread>
#include <vector>

#include "session/frame_model.h"
#include "session/intake_service.h"
#include "studio/intake/following.h"

namespace optrel {

class CameraService : public QObject {
    Q_OBJECT
public:
    CameraService(const Store& store, Jobs& jobs, IntakeService& intake, FrameModel& frames, Messages& messages);
    /// Stops following; files on the camera stay there.
    ~CameraService() override;

    /// Adds a folder that simulates a camera.
    void add_folder(const std::filesystem::path& folder);
    /// Detects cameras.
    void look();
    const std::vector<CameraSeen>& seen() const { return seen_; }

    /// Files on a camera that is not followed.
    void list(const CameraSeen& camera, std::function<void(const std::vector<FileOnCamera>&)> done);

    /// Follows a camera. Without `set`, the rules of the folder apply; otherwise the plain baseline with that set on
    /// top.
    void follow(FollowOrder order, const std::optional<std::string>& set, bool show);
    /// Releases the camera as soon as it responds; following() is true until then.
    void stop();
    void release();
    bool following() const { return following_ != nullptr; }
    bool can_release() const { return can_release_; }
    /// Status text: "Following the Mass Storage Camera; 3 frames came."
    QString state() const;

signals:
    /// The list of cameras or the state of the followed one has changed.
    void changed();

private:
    void run(FollowOrder order, std::optional<std::string> set, const std::string& author);
    void ended(const QString& problem);
    void came(const std::filesystem::path& frame);
    void show_newest();

    StoreSource source_;
    bool writable_;
    Jobs& jobs_;
    IntakeService& intake_;
    FrameModel& frames_;
    Messages& messages_;
    std::vector<std::filesystem::path> folders_;
    std::vector<CameraSeen> seen_;
    std::thread thread_;
    std::unique_ptr<Progress> following_;  ///< of the thread
    std::atomic<bool> connected_{false}, can_release_{false}, release_{false};
    std::atomic<int> received_{0};
    QString model_, why_not_;
    bool show_ = false, looking_ = false, again_ = false;
    std::filesystem::path newest_;  ///< status to show next
};

}  // namespace optrel
