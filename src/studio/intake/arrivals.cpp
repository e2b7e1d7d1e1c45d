// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/intake/arrivals.h"

#include <fmt/format.h>
#include <poll.h>
#include <sys/inotify.h>
#include <sys/vfs.h>
#include <unistd.h>

#include <array>
#include <thread>

#include "base/words.h"
#include "frames/whole_file.h"
#include "studio/intake/take_in.h"

namespace optrel {
namespace fs = std::filesystem;

Arrivals::Arrivals(std::vector<fs::path> folders, std::chrono::milliseconds still)
    : folders_(std::move(folders)), still_(still) {}

void Arrivals::know(const std::vector<FrameRecord>& frames) {
    for (const FrameRecord& f : frames) dealt_with_[f.path.string()] = {f.size, f.modified};
}

void Arrivals::done(const fs::path& file) {
    if (const auto stand = stamp_of(file)) dealt_with_[file.string()] = *stand;
}

std::vector<fs::path> Arrivals::look(const Progress& progress) {
    std::vector<fs::path> out;
    std::map<fs::path, Waiting> now;
    const auto tell = [&](std::string problem) {
        if (told_.insert(problem).second) problems_.push_back(std::move(problem));
    };
    for (const fs::path& folder : folders_) {
        std::vector<std::string> problems;
        std::vector<fs::path> files;
        try {
            files = frame_files(folder, problems);
        } catch (const Error& error) {
            problems.emplace_back(error.what());  // a missing share may come back
        }
        for (std::string& problem : problems) tell(std::move(problem));
        for (const fs::path& file : files) {
            progress.check();
            const auto stand = stamp_of(file);
            if (!stand) continue;  // deleted meanwhile
            const auto known = dealt_with_.find(file.string());
            if (known != dealt_with_.end() && known->second == *stand) continue;
            const auto before = waiting_.find(file);
            const Clock::time_point at = Clock::now();
            Waiting w = before == waiting_.end() ? Waiting{*stand, at, at} : before->second;
            if (!(w.stand == *stand)) {
                w.stand = *stand;
                w.still_since = at;
            }
            if (at - w.still_since >= still_ && is_whole(file)) out.push_back(file);
            now.emplace(file, w);
        }
    }
    waiting_ = std::move(now);
    for (const fs::path& file : out) waiting_.erase(file);
    return out;
}

std::vector<std::string> Arrivals::stuck(std::chrono::seconds longer_than) {
    std::vector<std::string> out;
    for (auto& [file, w] : waiting_) {
        if (w.told || Clock::now() - w.first_seen < longer_than) continue;
        w.told = true;
        out.push_back(fmt::format("{} is not complete ({} bytes); look whether it is still being copied.",
                                  printable(file.string()), w.stand.size));
    }
    return out;
}

std::vector<std::string> Arrivals::problems() { return std::exchange(problems_, {}); }

namespace {

/// File systems where changes by other stations cause no notification.
bool tells_all(const fs::path& folder) {
    struct statfs s {};
    if (statfs(folder.c_str(), &s) != 0) return false;
    // Constants of linux/magic.h: NFS, SMB, CIFS, SMB2, FUSE, 9P, Ceph.
    static constexpr std::array<unsigned long, 7> remote{0x6969,     0x517b,     0xff534d42, 0xfe534d42,
                                                         0x65735546, 0x01021997, 0x00c36400};
    return std::find(remote.begin(), remote.end(), static_cast<unsigned long>(s.f_type)) == remote.end();
}

}  // namespace

FolderWatch::FolderWatch(const std::vector<fs::path>& folders) : fd_(inotify_init1(IN_NONBLOCK | IN_CLOEXEC)) {
    if (fd_ < 0) all_told_ = false;
    for (const fs::path& folder : folders) add(folder);
}

FolderWatch::~FolderWatch() {
    if (fd_ >= 0) ::close(fd_);
}

void FolderWatch::add(const fs::path& folder) {
    all_told_ = all_told_ && tells_all(folder);
    if (fd_ < 0) return;
    const int watch =
        inotify_add_watch(fd_, folder.c_str(), IN_CLOSE_WRITE | IN_MOVED_TO | IN_CREATE | IN_ATTRIB | IN_ONLYDIR);
    // The system limits the number of watched folders.
    if (watch < 0) {
        all_told_ = false;
        return;
    }
    if (!watched_.emplace(watch, folder).second) return;  // already watched
    std::error_code failed;
    for (fs::directory_iterator it(folder, failed), end; !failed && it != end; it.increment(failed)) {
        std::error_code none;
        if (it->is_directory(none) && !it->is_symlink(none) && it->path().filename().string().front() != '.')
            add(it->path());
    }
}

bool FolderWatch::wait(std::chrono::milliseconds most) {
    if (fd_ < 0) {
        std::this_thread::sleep_for(most);
        return false;
    }
    pollfd ready{fd_, POLLIN, 0};
    if (::poll(&ready, 1, static_cast<int>(most.count())) <= 0) return false;
    // Reads all pending events, because one scan handles them all.
    alignas(inotify_event) std::array<char, 65536> buffer{};
    for (;;) {
        const ssize_t got = ::read(fd_, buffer.data(), buffer.size());
        if (got <= 0) return true;
        for (ssize_t at = 0; at < got;) {
            const auto* event = reinterpret_cast<const inotify_event*>(buffer.data() + at);
            at += static_cast<ssize_t>(sizeof(inotify_event)) + event->len;
            const auto in = watched_.find(event->wd);
            if ((event->mask & IN_ISDIR) && event->len > 0 && in != watched_.end()) {
                const fs::path folder = in->second;
                add(folder / event->name);
            }
        }
    }
}

std::chrono::milliseconds FolderWatch::patience() const { return std::chrono::seconds(all_told_ ? 60 : 2); }

}  // namespace optrel
