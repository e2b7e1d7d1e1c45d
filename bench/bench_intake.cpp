// SPDX-License-Identifier: GPL-3.0-or-later
// A burst of frames into a watched folder: how many a second get their baseline, and whether one is lost; beside a bare
// loop that reads the metadata of each and writes a sidecar with the same flushes.
//
//   optrel-bench-intake FRAME [FRAMES]      FRAME is a raw file; each arrival is a link to it
#include <fmt/format.h>

#include <chrono>

#include "frames/metadata.h"
#include "measures.h"
#include "rollout/sheet.h"
#include "studio/intake/watching.h"

namespace {

using namespace optrel;
namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

double seconds_since(Clock::time_point from) { return std::chrono::duration<double>(Clock::now() - from).count(); }

void link_frames(const fs::path& frame, const fs::path& folder, int count) {
    for (int i = 0; i < count; ++i) {
        const fs::path in = folder / fmt::format("{:03}", i / 500);
        if (i % 500 == 0) fs::create_directories(in);
        fs::create_hard_link(frame, in / fmt::format("B{:05}.dng", i));
    }
}

double bare_loop(const fs::path& folder) {
    const auto from = Clock::now();
    for (const auto& entry : fs::recursive_directory_iterator(folder)) {
        if (entry.path().extension() != ".dng") continue;
        read_metadata(entry.path());
        bench::write_bare(entry.path().string() + ".bare", std::string(500, 'x'));
    }
    return seconds_since(from);
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) {
        fmt::print(stderr, "optrel-bench-intake FRAME [FRAMES]\n");
        return 2;
    }
    const int count = argc > 2 ? std::max(10, std::atoi(argv[2])) : 10000;
    const fs::path frame = fs::absolute(argv[1]), folder = frame.parent_path() / "optrel-bench-intake";
    fs::remove_all(folder);
    IntakeFolder watched;
    watched.folder = folder / "in";
    fs::create_directories(watched.folder);
    fs::create_directories(folder / "bare");
    const std::string address = (folder / "store").string();
    {
        Store store(address, Access::begin);
        Tier studio;
        studio.id = studio.name = "studio";
        studio.pins[Field::sharpening_amount] = Pin::constant({30, ""});
        store.baselines().change_draft([&](Revision& draft) { draft.tiers = {studio}; });
        store.baselines().publish("bench", "");
    }
    Watching watching(Store(address, Access::read).source(), {watched}, "bench", {},
                      {[](const ArrivalResult&, const IntakeReport&, const IntakeFolder&) {},
                       [](const std::string& problem) { fmt::print("{}\n", problem); }});
    Progress progress;
    watching.step(progress);
    const auto from = Clock::now();
    link_frames(frame, watched.folder, count);
    Store store(address, Access::read);
    while (store.frames().count() < count && seconds_since(from) < 600) watching.step(progress);
    const double taken = seconds_since(from);
    int with_sidecar = 0;
    for (const FrameRecord& f : store.frames().all()) with_sidecar += fs::exists(sidecar_path(f.path));
    link_frames(frame, folder / "bare", count);
    const double bare = bare_loop(folder / "bare");
    fmt::print("{} frames at once: {} known, {} with their baseline, {:.0f} a second; a bare loop {:.0f}\n", count,
               store.frames().count(), with_sidecar, count / taken, count / bare);
    fs::remove_all(folder);
}
