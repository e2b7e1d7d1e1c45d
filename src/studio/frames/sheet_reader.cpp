// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/sheet_reader.h"

#include <optional>

namespace optrel {
namespace {

std::unordered_set<std::string> sidecars_in(const std::string& folder) {
    std::unordered_set<std::string> out;
    std::error_code none;
    for (const auto& entry : std::filesystem::directory_iterator(folder, none))
        if (entry.path().extension() == ".xmp") out.insert(entry.path().string());
    return out;
}

}  // namespace

bool SheetReader::has_sidecar(const std::filesystem::path& frame) {
    const std::string folder = frame.parent_path().string();
    // Frames are sorted by path, so a folder is never visited twice, except through its subfolders.
    if (sidecars_.size() > 64 && !sidecars_.count(folder)) sidecars_.clear();
    const auto [it, fresh] = sidecars_.try_emplace(folder);
    if (fresh) it->second = sidecars_in(folder);
    return it->second.count(sidecar_path(frame).string()) > 0;
}

std::shared_ptr<const Sheet> SheetReader::read(const std::filesystem::path& frame) {
    const std::optional<std::string> bytes = has_sidecar(frame) ? read_sidecar(frame) : std::nullopt;
    if (!bytes) return untouched_;
    std::shared_ptr<const Sheet>& there = by_bytes_[*bytes];
    if (!there) there = std::make_shared<const Sheet>(sheet_from_xmp(*bytes, sidecar_path(frame).string()));
    return there;
}

}  // namespace optrel
