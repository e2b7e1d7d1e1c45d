// SPDX-License-Identifier: GPL-3.0-or-later
// A camera on a cable: which are there, what is on one, a copy of a file, a release.
//
// By libgphoto2, with whatever cameras and ports it knows. A folder can stand for a camera, by the library's own port
// for folders: what a camera that shows itself as a disk looks like, and the rig's.
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
    std::string port;  ///< as the library names it: "usb:001,004", "disk:/a/folder"
    /// The folder that stands for it; empty: a real one.
    std::filesystem::path folder() const;
    bool operator==(const CameraSeen&) const = default;
};

/// Of a folder that stands for a camera.
CameraSeen folder_as_camera(const std::filesystem::path& folder);

struct FileOnCamera {
    std::string folder, name;
    long long size = 0, modified = 0;  ///< bytes; seconds, by the camera's clock; 0: it does not say
    auto operator<=>(const FileOnCamera&) const = default;
};

/// The camera cannot be reached any more: pulled off, switched off, asleep.
class CameraGone : public Error {
public:
    explicit CameraGone(const std::string& sentence) : Error(ErrorKind::file, sentence) {}
};

/// Those that are connected, and after them the folders that stand for one and are there. Takes some tenths of a
/// second. Throws Error(file) when the library does not know its own cameras.
std::vector<CameraSeen> cameras_seen(const std::vector<std::filesystem::path>& folders);

/// One camera, held for this program alone while the object lives. Not thread-safe.
class Camera {
public:
    /// Throws CameraGone where it does not answer, Error(file) where another program holds it.
    explicit Camera(const CameraSeen& camera);
    ~Camera();
    Camera(Camera&&) noexcept;
    Camera& operator=(Camera&&) noexcept;

    /// Whether it can be released from the computer.
    bool can_release() const;
    /// Takes a picture; it is found on the camera afterwards. Throws Error(file) with the camera's reason, CameraGone.
    void release();
    /// All files, by folder and name. Throws CameraGone, Cancelled.
    std::vector<FileOnCamera> files(const Progress& progress);
    /// Waits until the camera tells of something new, for `most` at most. False: nothing. A camera that does not tell
    /// is waited for and may have something.
    bool wait(std::chrono::milliseconds most);
    /// Copies a file to a path that is made or overwritten. Throws Error(file), CameraGone, Cancelled.
    void download(const FileOnCamera& file, const std::filesystem::path& to, const Progress& progress);

private:
    struct Held;
    std::unique_ptr<Held> held_;
};

}  // namespace optrel
