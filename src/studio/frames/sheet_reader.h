// SPDX-License-Identifier: GPL-3.0-or-later
// Reads the sheets of very many frames from disk.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <unordered_map>
#include <unordered_set>

#include "rollout/sheet.h"

namespace optrel {

/// Lists each folder once, because checking for each sidecar separately is far slower. Frames of one body at one ISO
/// usually have equal sidecars; each distinct content is parsed and kept once. Not thread-safe.
class SheetReader {
public:
    /// The sheet of a frame; an empty one where it has no sidecar. Fastest when the frames are ordered by path. Throws
    /// as read_sheet() does.
    std::shared_ptr<const Sheet> read(const std::filesystem::path& frame);

private:
    bool has_sidecar(const std::filesystem::path& frame);

    const std::shared_ptr<const Sheet> untouched_ = std::make_shared<const Sheet>();
    std::unordered_map<std::string, std::unordered_set<std::string>> sidecars_;  ///< by folder
    std::unordered_map<std::string, std::shared_ptr<const Sheet>> by_bytes_;
};

}  // namespace optrel
