// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/frame_claims.h"

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
#include "rollout/claim_marks.h"
#include "rollout/lease_length.h"

namespace optrel {
namespace {

namespace fs = std::filesystem;

/// It is held for moments, but for claims that could not be kept.
FileLock lock_of(const fs::path& shelf) {
    using namespace std::chrono_literals;
    for (const auto until = std::chrono::steady_clock::now() + 2s; std::chrono::steady_clock::now() < until;) {
        if (auto lock = FileLock::try_own(shelf / "lock")) return std::move(*lock);
        std::this_thread::sleep_for(20ms);
    }
    throw FramesInUse(
        "Another rollout is under way on this store at another station or in another window; wait until it is done, "
        "then try again.");
}

/// In the name of a claim's file, before the number of the rollout that it is for.
constexpr const char* rollout_mark = ".rollout-";

/// All frames, by the lock that all claims are made under. It goes with its program, and cannot be taken over.
class AllFrames final : public RolloutShelf::Claim {
public:
    explicit AllFrames(FileLock lock) : lock_(std::move(lock)) {}
    Standing ask() override { return Standing::mine; }
    bool valid() const override { return true; }
    void is_for(int) override {}

private:
    FileLock lock_;
};

/// Some frames, by a file of their own.
class SomeFrames final : public RolloutShelf::Claim {
public:
    SomeFrames(FileLock own, fs::path file) : lock_(std::move(own)), file_(std::move(file)) {}
    ~SomeFrames() override {
        std::error_code none;
        if (lock_.still_at(file_)) fs::remove(file_, none);
    }

    Standing ask() override {
        try {
            // One that is over may be taken by another at this moment, who does that under this lock.
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
            // Whoever looks for claims must find it under the one name or the other.
            const FileLock all = lock_of(file_.parent_path().parent_path());
            const fs::path named = file_.string() + fmt::format("{}{}", rollout_mark, rollout);
            if (!lock_.still_at(file_)) return;
            fs::rename(file_, named);
            file_ = named;
        } catch (const std::exception&) {
            // It goes on without.
        }
    }

private:
    FileLock lock_;
    fs::path file_;
    const std::chrono::milliseconds lease_ = lease_length();
    std::chrono::milliseconds until_ = boot_now() + lease_;
};

bool is_over(const fs::path& claim) {
    std::error_code failed;
    const auto renewed = fs::last_write_time(claim, failed);
    return !failed && fs::file_time_type::clock::now() - renewed > lease_length();
}

/// Throws when the claim in a file has one of these frames.
void require_apart(const fs::path& file, const ClaimMarks& wanted) {
    std::ifstream in(file, std::ios::binary);
    std::string who;
    std::getline(in, who);
    wanted.require_apart(who, {std::istreambuf_iterator<char>(in), {}});
}

}  // namespace

std::map<int, std::string> rollouts_at_work(const fs::path& shelf) {
    std::map<int, std::string> out;
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(shelf / "claims", failed)) {
        const std::string name = entry.path().filename().string();
        const std::size_t mark = name.rfind(rollout_mark);
        if (mark == std::string::npos || is_over(entry.path())) continue;
        const auto number = parse_integer(name.substr(mark + std::strlen(rollout_mark)));
        const auto unlocked = FileLock::try_on_existing(entry.path());
        if (!number || unlocked) continue;
        // STATION-PROCESS-COUNT
        const std::size_t end = name.rfind('-', name.rfind('-', mark - 1) - 1);
        out[static_cast<int>(*number)] = name.substr(0, end);
    }
    return out;
}

std::unique_ptr<RolloutShelf::Claim> claim_frames(const fs::path& shelf, const std::vector<fs::path>& frames,
                                                  const std::string& who) {
    FileLock all = lock_of(shelf);
    std::vector<ClaimMarks::Frame> known;
    for (const fs::path& frame : frames) known.emplace_back(frame.string(), &frame);
    const ClaimMarks wanted(known);
    const fs::path folder = shelf / "claims";
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(folder, failed)) {
        if (is_over(entry.path()) || FileLock::try_own(entry.path()))
            fs::remove(entry.path(), failed);  // its program is stopped, or gone
        else
            require_apart(entry.path(), wanted);
    }
    static std::atomic<unsigned> counter{0};
    const fs::path file = folder / fmt::format("{}-{}-{}", this_station(), ::getpid(), counter++);
    try {
        make_folders(folder);
        // It need not outlive its program, so nothing is flushed to the disk.
        std::ofstream out(file, std::ios::binary);
        out << who << "\n" << wanted.bytes();
        out.close();
        if (!out) throw file_error("The claim cannot be kept.");
        if (auto own = FileLock::try_own(file)) return std::make_unique<SomeFrames>(std::move(*own), file);
    } catch (const std::exception&) {
        fs::remove(file, failed);
    }
    return std::make_unique<AllFrames>(std::move(all));
}

}  // namespace optrel
