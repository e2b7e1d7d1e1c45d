// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/frame_leases.h"

#include <fmt/format.h>
#include <unistd.h>

#include <atomic>
#include <chrono>
#include <cstring>
#include <fstream>
#include <iterator>
#include <thread>

#include "base/boot_clock.h"
#include "base/error.h"
#include "base/files.h"
#include "base/numbers.h"
#include "base/station.h"
#include "rollout/lease_length.h"
#include "rollout/lease_marks.h"

namespace optrel {
namespace {

namespace fs = std::filesystem;

/// Usually held for moments; longer when no lease file could be created.
FileLock lock_of(const fs::path& rollouts) {
    using namespace std::chrono_literals;
    for (const auto until = std::chrono::steady_clock::now() + 2s; std::chrono::steady_clock::now() < until;) {
        if (auto lock = FileLock::try_own(rollouts / "lock")) return std::move(*lock);
        std::this_thread::sleep_for(20ms);
    }
    throw FramesInUse(
        "Another rollout is under way on this store at another station or in another window; wait until it is done, "
        "then try again.");
}

/// Part of a lease's file name, before the number of the rollout.
constexpr const char* rollout_mark = ".rollout-";

/// Lease on all frames by the common lock; it ends with its process and cannot be taken over.
class ShelfLease final : public RolloutStore::Lease {
public:
    explicit ShelfLease(FileLock lock) : lock_(std::move(lock)) {}
    Standing ask() override { return Standing::mine; }
    bool valid() const override { return true; }
    void is_for(int) override {}

private:
    FileLock lock_;
};

/// Lease on some frames by a separate file.
class FramesLease final : public RolloutStore::Lease {
public:
    FramesLease(FileLock own, fs::path file) : lock_(std::move(own)), file_(std::move(file)) {}
    ~FramesLease() override {
        std::error_code none;
        if (lock_.still_at(file_)) fs::remove(file_, none);
    }

    Standing ask() override {
        try {
            // Another process may be taking over the expired lease; it does so under this lock.
            std::optional<FileLock> all;
            if (!valid()) all.emplace(lock_of(file_.parent_path().parent_path()));
            const auto now = boot_now();
            if (!lock_.still_at(file_)) return Standing::lost;
            if (until_ - now > lease_ * 3 / 4) return Standing::mine;
            fs::last_write_time(file_, fs::file_time_type::clock::now());
            until_ = now + lease_;
            return Standing::mine;
        } catch (const std::exception&) {
            return Standing::unknown;
        }
    }
    bool valid() const override { return boot_now() < until_; }
    void is_for(int rollout) override {
        try {
            // Under the lock, so that others find the file under one of both names.
            const FileLock all = lock_of(file_.parent_path().parent_path());
            const fs::path named = file_.string() + fmt::format("{}{}", rollout_mark, rollout);
            if (!lock_.still_at(file_)) return;
            fs::rename(file_, named);
            file_ = named;
        } catch (const std::exception&) {
            // The lease works without the number.
        }
    }

private:
    FileLock lock_;
    fs::path file_;
    const std::chrono::milliseconds lease_ = lease_length();
    std::chrono::milliseconds until_ = boot_now() + lease_;
};

bool is_over(const fs::path& lease) {
    std::error_code failed;
    const auto renewed = fs::last_write_time(lease, failed);
    return !failed && fs::file_time_type::clock::now() - renewed > lease_length();
}

/// Throws when the lease in a file contains one of these frames.
void require_apart(const fs::path& file, const LeaseMarks& wanted) {
    std::ifstream in(file, std::ios::binary);
    std::string who;
    std::getline(in, who);
    wanted.require_apart(who, {std::istreambuf_iterator<char>(in), {}});
}

}  // namespace

std::map<int, std::string> rollouts_at_work(const fs::path& rollouts) {
    std::map<int, std::string> out;
    // Trying the lock of a dead lease holds it for a moment, in which lease_frames() would take the lease as alive; the
    // common lock keeps both apart. While it is busy, the time of a lease is the only evidence.
    const auto all = FileLock::try_on_existing(rollouts / "lock");
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(rollouts / "claims", failed)) {
        const std::string name = entry.path().filename().string();
        const std::size_t mark = name.rfind(rollout_mark);
        if (mark == std::string::npos || is_over(entry.path())) continue;
        const auto number = parse_integer(name.substr(mark + std::strlen(rollout_mark)));
        if (!number || (all && FileLock::try_on_existing(entry.path()))) continue;
        // STATION-PROCESS-COUNT
        const std::size_t end = name.rfind('-', name.rfind('-', mark - 1) - 1);
        out[static_cast<int>(*number)] = name.substr(0, end);
    }
    return out;
}

std::unique_ptr<RolloutStore::Lease> lease_frames(const fs::path& rollouts, const std::vector<fs::path>& frames,
                                                  const std::string& who) {
    FileLock all = lock_of(rollouts);
    std::vector<LeaseMarks::Frame> known;
    for (const fs::path& frame : frames) known.emplace_back(frame.string(), &frame);
    const LeaseMarks wanted(known);
    const fs::path folder = rollouts / "claims";
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(folder, failed)) {
        if (is_over(entry.path()) || FileLock::try_own(entry.path()))
            fs::remove(entry.path(), failed);  // its process is suspended or has ended
        else
            require_apart(entry.path(), wanted);
    }
    static std::atomic<unsigned> counter{0};
    const fs::path file = folder / fmt::format("{}-{}-{}", this_station(), ::getpid(), counter++);
    try {
        make_folders(folder);
        // The file is useless after its process has ended, so it is not flushed.
        std::ofstream out(file, std::ios::binary);
        out << who << "\n" << wanted.bytes();
        out.close();
        if (!out) throw file_error("The claim cannot be kept.");
        if (auto own = FileLock::try_own(file)) return std::make_unique<FramesLease>(std::move(*own), file);
    } catch (const std::exception&) {
        fs::remove(file, failed);
    }
    return std::make_unique<ShelfLease>(std::move(all));
}

}  // namespace optrel
