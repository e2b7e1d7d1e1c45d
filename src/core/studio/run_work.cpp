#include "studio/run_work.h"

#include <algorithm>
#include <map>

#include "studio/studio.h"

namespace optrel {

std::vector<RunRecord> begin_runs(Store& store, const std::filesystem::path& folder, const ChartSpec& chart,
                                  std::vector<std::string>& problems, Progress& progress) {
    std::vector<RunRecord> runs = runs_of_folder(folder, chart, problems, progress);
    for (RunRecord& run : runs) {
        if (const auto before = store.unfinished_run(run.name, run.folder, run.chart)) {
            run.id = before->id;
            std::map<std::filesystem::path, const RunFrame*> known;
            for (const RunFrame& f : before->frames) known[f.path] = &f;
            for (RunFrame& f : run.frames)
                if (const auto it = known.find(f.path); it != known.end()) f = *it->second;
        }
        run.id = store.put_run(run);
    }
    return runs;
}

void measure_run(Store& store, RunRecord& run, Progress& progress) {
    std::vector<std::filesystem::path> paths;
    std::vector<int> positions;
    for (int i = 0; i < static_cast<int>(run.frames.size()); ++i)
        if (!run.frames[i].settled()) {
            paths.push_back(run.frames[i].path);
            positions.push_back(i);
        }
    measure_frames(paths, MeasureAs::automatic, ChartSpec::parse(run.chart), progress,
                   [&](int k, const RunFrame& frame) {
                       const int at = positions[k];
                       const bool dropped = run.frames[at].dropped;
                       run.frames[at] = frame;
                       run.frames[at].dropped = dropped;
                       store.put_run_frame(run.id, at, run.frames[at]);
                   });
}

}  // namespace optrel
