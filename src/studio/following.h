// SPDX-License-Identifier: GPL-3.0-or-later
// Following a camera on a cable: what is new on it is copied into the folder of the job and taken in at once.
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
#include "studio/copies.h"
#include "studio/intake.h"

namespace optrel {

struct FollowOrder {
    CameraSeen camera;
    std::filesystem::path to;
    std::string file_name = "{name}";  ///< tokens of exchange/file_name.h; a / makes folders
    bool older = false;                ///< what is on the camera already is copied as well
    IntakeOrder how;
};

/// Holds the camera, and no store between its steps. Not thread-safe but for ask_to_release().
///
/// A camera that goes is told once, and followed again when it is back; what was taken meanwhile is new then. Nothing
/// on the camera is changed or removed.
class Following {
public:
    struct Told {
        std::function<void(const Taken&, const IntakeReport&)> frame;
        std::function<void(const std::string&sentence)> problem, news;
    };

    /// Throws Error(input) for a folder that is none, a pattern that is none and a set that there is not; what the
    /// store throws; CameraGone and Error(file) for a camera that cannot be opened.
    Following(StoreSource store, FollowOrder order, Told told);

    /// Waits for something new for a fifth of a second at most, and takes it in. Whether something is still on its way.
    /// Throws Cancelled, and what is wrong with the store.
    bool step(Progress& progress);
    /// From any thread: at the next step the camera is released.
    void ask_to_release() { release_ = true; }
    bool can_release() const { return camera_ && camera_->can_release(); }
    bool connected() const { return camera_.has_value(); }
    /// Frames and films that were copied.
    int received() const { return received_; }

private:
    using Clock = std::chrono::steady_clock;  // clocks of stations and cameras jump

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
    std::set<std::filesystem::path> pending_;  ///< copied, and not taken in because the store was held
    std::atomic<bool> release_{false};
    Clock::time_point looked_{}, tried_{};
    std::string last_failure_;
    bool first_ = true;
    int received_ = 0, number_ = 0;
};

}  // namespace optrel
