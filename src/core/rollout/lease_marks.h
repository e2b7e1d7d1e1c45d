// SPDX-License-Identifier: GPL-3.0-or-later
// Hashes of leased frames, to detect overlapping leases.
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

namespace optrel {

class LeaseMarks {
public:
    /// A frame: the path that all stations share, and the path at this station.
    using Frame = std::pair<std::string, const std::filesystem::path*>;
    explicit LeaseMarks(const std::vector<Frame>& frames);

    /// Eight bytes per frame, to be stored with the lease.
    std::string bytes() const;
    /// Throws FramesInUse, naming `who`, when the other lease (from bytes()) contains one of these frames.
    void require_apart(const std::string& who, const std::string& others) const;

private:
    std::unordered_map<std::uint64_t, const std::filesystem::path*> frames_;
};

}  // namespace optrel
