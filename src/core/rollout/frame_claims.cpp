// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/frame_claims.h"

#include <fmt/format.h>
#include <unistd.h>

#include <atomic>
#include <chrono>
#include <fstream>
#include <iterator>
#include <thread>

#include "base/error.h"
#include "base/files.h"
#include "base/station.h"
#include "rollout/claim_marks.h"

namespace optrel {
namespace {

namespace fs = std::filesystem;

/// The lock that all claims are made under, and the file and lock of one of them, or the first alone.
class HeldFrames final : public RolloutShelf::Claim {
public:
    explicit HeldFrames(FileLock all) : lock_(std::move(all)) {}
    HeldFrames(FileLock own, fs::path file) : lock_(std::move(own)), file_(std::move(file)) {}
    ~HeldFrames() override {
        std::error_code none;
        if (!file_.empty()) fs::remove(file_, none);
    }

private:
    FileLock lock_;
    fs::path file_;
};

/// It is held for moments, but for claims that could not be kept.
FileLock lock_of(const fs::path& shelf) {
    using namespace std::chrono_literals;
    for (const auto until = std::chrono::steady_clock::now() + 2s; std::chrono::steady_clock::now() < until;) {
        if (auto lock = FileLock::try_own(shelf / "lock")) return std::move(*lock);
        std::this_thread::sleep_for(20ms);
    }
    throw input_error(
        "Another rollout is under way on this store at another station or in another window; wait until it is done, "
        "then try again.");
}

/// Throws when the claim in a file has one of these frames.
void require_apart(const fs::path& file, const ClaimMarks& wanted) {
    std::ifstream in(file, std::ios::binary);
    std::string who;
    std::getline(in, who);
    wanted.require_apart(who, {std::istreambuf_iterator<char>(in), {}});
}

}  // namespace

std::unique_ptr<RolloutShelf::Claim> claim_frames(const fs::path& shelf, const std::vector<fs::path>& frames,
                                                  const std::string& who) {
    FileLock all = lock_of(shelf);
    std::vector<ClaimMarks::Frame> known;
    for (const fs::path& frame : frames) known.emplace_back(frame.string(), &frame);
    const ClaimMarks wanted(known);
    const fs::path folder = shelf / "claims";
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(folder, failed)) {
        if (FileLock::try_own(entry.path()))
            fs::remove(entry.path(), failed);  // its program is gone
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
        if (auto own = FileLock::try_own(file)) return std::make_unique<HeldFrames>(std::move(*own), file);
    } catch (const std::exception&) {
        fs::remove(file, failed);
    }
    return std::make_unique<HeldFrames>(std::move(all));
}

}  // namespace optrel
