// SPDX-License-Identifier: GPL-3.0-or-later
// Small pictures of frames, for lists, and the cache on disk that keeps them.
#pragma once

#include <cstdint>
#include <filesystem>
#include <mutex>
#include <opencv2/core.hpp>
#include <optional>

#include "base/progress.h"

namespace optrel {

/// A frame as it was held, red first, encoded in sRGB, with at most `side` px on its longer side: the picture that its
/// file embeds, else a neutral development. Throws Error(input) when neither can be made.
cv::Mat3b small_picture(const std::filesystem::path& frame, int side, const Progress& progress);

/// Keeps small pictures as JPEG files in a folder of its own, up to a limit in bytes; those that were not used for the
/// longest time go first. Several programs may share the folder. Thread-safe.
class SmallPictureCache {
public:
    /// The folder is made on first use, for its owner alone.
    SmallPictureCache(std::filesystem::path folder, std::uintmax_t most_bytes);

    /// State of a frame's file; another state is another picture. Where it is not known, the file is asked.
    struct Of {
        std::filesystem::path frame;
        long long size = -1, modified = 0;
        int side = 0;  ///< px
    };
    /// Returns the kept picture; when there is none, makes it and keeps it. Also returns a picture that cannot be kept,
    /// because the disk is full or the folder is not writable. Throws as small_picture() does.
    cv::Mat3b get(const Of& of, const Progress& progress);
    /// Returns the kept picture; nothing when there is none.
    std::optional<cv::Mat3b> find(const Of& of);
    /// Size of all kept pictures together, in bytes.
    std::uintmax_t kept_bytes();

private:
    std::filesystem::path file_of(Of of) const;
    void keep(const std::filesystem::path& file, const cv::Mat3b& picture);
    void count();
    void make_room();

    std::filesystem::path folder_;
    std::uintmax_t most_bytes_;
    std::mutex mutex_;
    std::optional<std::uintmax_t> bytes_;  ///< counted on first use
};

}  // namespace optrel
