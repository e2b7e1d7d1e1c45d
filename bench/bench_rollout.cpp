// SPDX-License-Identifier: GPL-3.0-or-later
// A rollout over very many frames: how long it is rehearsed, how quickly it is written beside a bare loop that writes
// the same sidecars with the same flushes in the same run, how quickly drift is looked for, and the most memory.
//
//   optrel-bench-rollout [FRAMES [FRAMES THAT ARE WRITTEN]]
#include <fmt/format.h>
#include <malloc.h>

#include <chrono>
#include <cstdlib>
#include <fstream>

#include "base/heap.h"
#include "large_studio.h"
#include "measures.h"
#include "rollout/sheet.h"
#include "studio/checks/drift.h"
#include "studio/rollout/rolling.h"

namespace {

using namespace optrel;
using bench::memory_mb;
using bench::write_bare;
namespace fs = std::filesystem;

template <class Work>
double seconds(const Work& work) {
    const auto from = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
}

/// From here on the most memory is counted anew, without what was given back.
void forget_most_memory() {
    malloc_trim(0);
    std::ofstream("/proc/self/clear_refs") << 5;
}

}  // namespace

int main(int argc, char** argv) {
    optrel::share_heap();  // as the programs do
    const int frames = argc > 1 ? std::max(100, std::atoi(argv[1])) : 200000;
    const int written = std::min(frames, argc > 2 ? std::max(10, std::atoi(argv[2])) : 5000);
    const fs::path folder = fs::temp_directory_path() / "optrel-bench-rollout";
    fs::remove_all(folder);
    bench::LargeStudio studio = bench::large_studio(500, 2000, frames);
    bench::make_files(studio, folder / "frames");
    bench::write_store(studio, folder / "store");
    Store store((folder / "store").string(), Access::write);
    Revision revision = studio.revision;
    revision.number = 1;
    const auto fleet = store.registry().fleet();
    Progress progress;
    std::vector<FrameRecord> all = store.frames().all();
    studio.frames = {};
    forget_most_memory();
    const double before = memory_mb("VmRSS");
    Rehearsal rehearsal;
    const RehearsalRequest request{std::make_shared<const RehearsalRequest::Frames>(std::move(all)), {}, false};
    const double rehearsing = seconds([&] { rehearsal = rehearse_frames(request, *fleet, revision, progress); });
    fmt::print("{} frames rehearsed in {:.1f} s, {} of them to be written; {:.0f} MB at most, {:.0f} before\n", frames,
               rehearsing, rehearsal.writes(), memory_mb("VmHWM"), before);
    Rehearsal part = std::move(rehearsal);
    part.frames.resize(static_cast<std::size_t>(written));
    // Beside the frames as well, and twice, since disks grow slower and quicker as they like.
    ::sync();
    const auto bare_loop = [&](const char* ending) {
        return seconds([&] {
            for (const RehearsedFrame& f : part.frames) write_bare(f.path.string() + ending, f.after);
        });
    };
    double loop = bare_loop(".first");
    RolloutReport report;
    const double rolling = seconds([&] { report = roll_out(part, 1, store.rollouts(), "bench", progress); });
    const double most = memory_mb("VmHWM");
    loop = (loop + bare_loop(".second")) / 2;
    fmt::print(
        "{} sidecars: {:.0f} a second rolled out, {:.0f} by a bare loop: {:.2f} of its rate; {:.0f} MB at most\n",
        report.written, report.written / rolling, written / loop, loop / rolling, most);
    DriftReport drift;
    const double checking = seconds([&] { drift = check_drift(store, {}, progress); });
    fmt::print("drift: {:.0f} frames a second, {} findings\n", drift.frames / checking, drift.findings.size());
    fs::remove_all(folder);
}
