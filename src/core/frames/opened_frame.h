// SPDX-License-Identifier: GPL-3.0-or-later
// A frame's file that is opened once: its container is parsed when something of it is asked for first, and kept.
#pragma once

#include <filesystem>
#include <memory>

namespace Exiv2 {
class Image;
}

namespace optrel {

/// Everything that is read of a frame takes one of these; a path becomes one by itself. Whoever asks a file several
/// things keeps one and passes it on, so that the file is parsed once. For one thread at a time.
class OpenedFrame {
public:
    /// Nothing is read yet, so this never fails.
    OpenedFrame(std::filesystem::path path);  // NOLINT(google-explicit-constructor): a path stands for its file
    ~OpenedFrame();
    OpenedFrame(const OpenedFrame&) = delete;
    OpenedFrame& operator=(const OpenedFrame&) = delete;

    const std::filesystem::path& path() const { return path_; }

    /// What the first bytes say. Tags of a TIFF container tell whether it is raw.
    enum class Container { rendered, tiff, other };
    /// Throws Error(input) for a file that is empty, and for what is no file.
    Container container() const;

    /// The container with its metadata, for source files of this folder. Throws what Exiv2 throws, each time.
    const Exiv2::Image& image() const;

private:
    std::filesystem::path path_;
    mutable std::unique_ptr<Exiv2::Image> image_;
};

}  // namespace optrel
