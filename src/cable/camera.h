// SPDX-License-Identifier: GPL-3.0-or-later
// Cameras on a cable by libgphoto2: detecting them, listing and copying their
// files, releasing the shutter. A folder can represent a camera through the
// library's driver for folders. This is how cameras in disk mode appear, and the
// simulated camera.
#pragma once

#include <chrono>
#include <compare>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "base/progress.h"

namespace optrel {

struct CameraSeen {
    std::string model;
    std::string port;  ///< in the library's format: "usb:001,004", "disk:/a/folder"
    /// The folder that represents it; empty for a real camera.
    std::filesystem::path folder() const;
    bool operator==(const CameraSeen&) const = default;
};

/// A camera represented by a folder.
CameraSeen folder_as_camera(const std::filesystem::path& folder);

struct FileOnCamera {
    std::string folder, name;
    long long size = 0, modified = 0;  ///< bytes; seconds by the camera's clock; 0: unknown
    auto operator<=>(const FileOnCamera&) const = default;
};

/// The camera cannot be reached any more: unplugged, switched off or asleep.
class CameraGone : public Error {
public:
    explicit CameraGone(const std::string& sentence) : Error(ErrorKind::file, sentence) {}
};

/// Connected cameras, then existing folders that represent one. Takes some tenths of a second. Throws Error(file) when
/// the library's camera drivers are missing.
std::vector<CameraSeen> cameras_seen(const std::vector<std::filesystem::path>& folders);

/// One camera, exclusive to this program while the object exists. Not thread-safe.
class Camera {
public:
    /// Throws CameraGone when it does not answer, Error(file) when another program uses it.
    explicit Camera(const CameraSeen& camera);
    ~Camera();
    Camera(Camera&&) noexcept;
    Camera& operator=(Camera&&) noexcept;

    /// True when the computer can release its shutter.
    bool can_release() const;
    /// Takes a picture, which is on the camera afterwards. Throws Error(file) with the camera's reason, CameraGone.
    void release();
    /// All files, by folder and name. Throws CameraGone, Cancelled.
    std::vector<FileOnCamera> files(const Progress& progress);
    /// Waits for an event of the camera, for at most `most`. False: nothing happened. Returns true after the time for
    /// cameras without events, which may have new files.
    bool wait(std::chrono::milliseconds most);
    /// Copies a file; creates or overwrites the given path. Throws Error(file), CameraGone, Cancelled.
    void download(const FileOnCamera& file, const std::filesystem::path& to, const Progress& progress);

private:
    struct Held;
    std::unique_ptr<Held> held_;
};

}  // namespace optrel
