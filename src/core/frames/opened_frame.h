// SPDX-License-Identifier: GPL-3.0-or-later
// A frame's file whose container is parsed only once, on first use.
#pragma once

#include <filesystem>
#include <memory>
#include <optional>

namespace Exiv2 {
class Image;
}

namespace optrel {

/// All functions that read a frame take an OpenedFrame; a path converts to one implicitly. Code that reads several
/// things from one file keeps an OpenedFrame and passes it on, so that the file is parsed once. Not thread-safe.
class OpenedFrame {
public:
    /// Nothing is read yet, so this never fails.
    OpenedFrame(std::filesystem::path path);  // NOLINT(google-explicit-constructor): a path stands for its file
    ~OpenedFrame();
    OpenedFrame(const OpenedFrame&) = delete;
    OpenedFrame& operator=(const OpenedFrame&) = delete;

    const std::filesystem::path& path() const { return path_; }

    /// Type of the container. rendered: JPEG or PNG; tiff: only its tags tell a raw file from a rendered one.
    enum class Container { rendered, tiff, other };
    /// Reads the first bytes of the file. Throws Error(input) when it is empty, or is no regular file.
    Container container() const;

    /// The container with its metadata, for source files of this folder. Throws the exceptions of Exiv2.
    const Exiv2::Image& image() const;

private:
    std::filesystem::path path_;
    mutable std::optional<Container> container_;
    mutable std::unique_ptr<Exiv2::Image> image_;
};

}  // namespace optrel
