// SPDX-License-Identifier: GPL-3.0-or-later
// The frames of a claim as marks that others can compare with theirs.
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

namespace optrel {

class ClaimMarks {
public:
    /// A frame by the path that all who claim know it by, and by its path here.
    using Frame = std::pair<std::string, const std::filesystem::path*>;
    explicit ClaimMarks(const std::vector<Frame>& frames);

    /// Eight bytes a frame, to be kept for others.
    std::string bytes() const;
    /// Throws FramesInUse that names `who` when another claim, as bytes() gave it, has one of these frames.
    void require_apart(const std::string& who, const std::string& others) const;

private:
    std::unordered_map<std::uint64_t, const std::filesystem::path*> frames_;
};

}  // namespace optrel
