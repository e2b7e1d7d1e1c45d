// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/run_work.h"

#include <algorithm>
#include <map>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "calibration/grouping.h"
#include "studio/intake/take_in.h"

namespace optrel {

std::vector<std::pair<std::filesystem::path, Metadata>> metadata_of_folder(const std::filesystem::path& folder,
                                                                           std::vector<std::string>& problems,
                                                                           Progress& progress) {
    std::vector<std::pair<std::filesystem::path, Metadata>> out;
    const auto files = frame_files(folder, problems);
    progress.start(static_cast<int>(files.size()), "Reading metadata");
    for (const auto& path : files) {
        progress.check();
        try {
            out.emplace_back(path, read_metadata(path));
        } catch (const std::exception& error) {
            problems.push_back(reason_for(path, error));
        }
        progress.step();
    }
    return out;
}

std::vector<RunRecord> runs_of_folder(const std::filesystem::path& folder, const ChartSpec& chart,
                                      std::vector<std::string>& problems, Progress& progress) {
    const auto found = metadata_of_folder(folder, problems, progress);
    if (found.empty())
        throw input_error("The folder " + folder.string() +
                          " holds no picture that can be read; choose the folder of the chart frames.");
    std::vector<RunRecord> runs;
    for (const FrameGroup& group : group_frames(found)) {
        RunRecord run;
        run.name = group.label;
        run.chart = chart.text();
        run.folder = plain_path(folder).string();
        for (const auto& path : group.paths) {
            RunFrame frame;
            frame.path = path;
            run.frames.push_back(frame);
        }
        runs.push_back(std::move(run));
    }
    return runs;
}

std::vector<RunRecord> begin_runs(Store& store, const std::filesystem::path& folder, const ChartSpec& chart,
                                  std::vector<std::string>& problems, Progress& progress) {
    std::vector<RunRecord> runs = runs_of_folder(folder, chart, problems, progress);
    for (RunRecord& run : runs) {
        if (const auto before = store.runs().unfinished(run.name, run.folder, run.chart)) {
            run.id = before->id;
            std::map<std::filesystem::path, const RunFrame*> known;
            for (const RunFrame& f : before->frames) known[f.path] = &f;
            for (RunFrame& f : run.frames)
                if (const auto it = known.find(f.path); it != known.end()) f = *it->second;
        }
        run.id = store.runs().put(run);
    }
    return runs;
}

namespace {

/// Left out by its own metadata, so that it has no corners yet.
bool left_unmeasured(const RunFrame& f) {
    return f.role == RunRole::chart && !f.problem.empty() && f.measured() && !f.detection.found();
}

}  // namespace

std::vector<int> frames_to_measure(const RunRecord& run, EmbeddedOpcodes carried) {
    std::vector<int> out;
    for (int i = 0; i < static_cast<int>(run.frames.size()); ++i) {
        const RunFrame& f = run.frames[static_cast<std::size_t>(i)];
        if (!f.settled() || (carried == EmbeddedOpcodes::measure_mosaic && left_unmeasured(f))) out.push_back(i);
    }
    return out;
}

void measure_run(Store& store, RunRecord& run, Progress& progress, EmbeddedOpcodes carried) {
    const std::vector<int> positions = frames_to_measure(run, carried);
    std::vector<std::filesystem::path> paths;
    for (const int i : positions) paths.push_back(run.frames[i].path);
    measure_frames(
        paths, MeasureAs::automatic, ChartSpec::parse(run.chart), progress,
        [&](int k, const RunFrame& frame) {
            const int at = positions[k];
            const bool dropped = run.frames[at].dropped;
            run.frames[at] = frame;
            run.frames[at].dropped = dropped;
            store.runs().put_frame(run.id, at, run.frames[at]);
        },
        carried);
}

}  // namespace optrel
