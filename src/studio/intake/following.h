// SPDX-License-Identifier: GPL-3.0-or-later
// Tethered cameras: new files are copied into a folder and taken in at once.
#pragma once

#include <atomic>
#include <chrono>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>

#include "cable/camera.h"
#include "store/store.h"
#include "studio/intake/copies.h"
#include "studio/intake/intake.h"

namespace optrel {

struct FollowOrder {
    CameraSeen camera;
    std::filesystem::path to;
    std::string file_name = "{name}";  ///< pattern with the tokens of exchange/file_name.h; "/" creates subfolders
    bool older = false;                ///< also copy files that are already on the camera
    IntakeOrder how;
};

/// Keeps the camera open; uses the store only within a step. Not thread-safe except ask_to_release().
///
/// A disconnected camera is reported once and followed again when it is back, including files taken meanwhile. Nothing
/// on the camera is changed or deleted.
class Following {
public:
    struct Told {
        std::function<void(const ArrivalResult&, const IntakeReport&)> frame;
        std::function<void(const std::string&sentence)> problem, news;
    };

    /// Throws Error(input) for an invalid folder, pattern or set; errors of the store; CameraGone and Error(file) when
    /// the camera cannot be opened.
    Following(StoreSource store, FollowOrder order, Told told);

    /// Waits up to 0.2 s for new files and takes them in. Returns whether files are still being transferred. Throws
    /// Cancelled, and errors of the store.
    bool step(Progress& progress);
    /// Thread-safe. The camera is released at the next step.
    void ask_to_release() { release_ = true; }
    bool can_release() const { return camera_ && camera_->can_release(); }
    bool connected() const { return camera_.has_value(); }
    /// Copied frames and films.
    int received() const { return received_; }

private:
    using Clock = std::chrono::steady_clock;  // a steady clock, because clocks of stations and cameras can jump

    void connect(Progress& progress);
    void look(Progress& progress);
    void lost(const std::string& sentence);
    void receive_new(const std::vector<FileOnCamera>& files, std::vector<std::filesystem::path>& arrived,
                     Progress& progress);
    void receive(const FileOnCamera& file, std::vector<std::filesystem::path>& arrived, Progress& progress);
    void later(const FileOnCamera& file, const std::string& sentence);
    std::filesystem::path keep(const std::filesystem::path& part, const std::string& name, const Progress& progress);
    void take_in(const std::vector<std::filesystem::path>& files, Progress& progress);

    StoreSource store_;
    FollowOrder order_;
    Told told_;
    std::shared_ptr<const Fleet> fleet_;
    std::optional<FolderContents> there_;
    std::optional<CopyNames> names_;
    std::optional<Camera> camera_;
    std::set<FileOnCamera> seen_;
    std::map<FileOnCamera, int> tries_;
    std::set<std::filesystem::path> pending_;  ///< copied files that wait because the store was locked
    std::atomic<bool> release_{false};
    Clock::time_point looked_{}, tried_{};
    std::string last_failure_;
    bool first_ = true;
    int received_ = 0, number_ = 0;
};

}  // namespace optrel
