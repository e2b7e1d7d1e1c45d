// SPDX-License-Identifier: GPL-3.0-or-later
// What several benches measure: memory, and how quickly a sidecar can be written by anybody.
#pragma once

#include <fcntl.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <string>

namespace optrel::bench {

/// A line of the kernel's account of this process ("VmRSS", "VmHWM"), MB.
inline double memory_mb(const std::string& what) {
    std::ifstream in("/proc/self/status");
    for (std::string line; std::getline(in, line);)
        if (line.rfind(what + ":", 0) == 0) return std::atof(line.c_str() + what.size() + 1) / 1024;
    return 0;
}

/// As any program would write a sidecar that must never be half there.
inline void write_bare(const std::filesystem::path& path, const std::string& bytes) {
    const std::string part = path.string() + ".new";
    const int fd = ::open(part.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644);
    if (::write(fd, bytes.data(), bytes.size()) != static_cast<ssize_t>(bytes.size())) std::abort();
    ::fsync(fd);
    ::close(fd);
    ::rename(part.c_str(), path.c_str());
    const int folder = ::open(path.parent_path().c_str(), O_RDONLY | O_DIRECTORY);
    ::fsync(folder);
    ::close(folder);
}

}  // namespace optrel::bench
