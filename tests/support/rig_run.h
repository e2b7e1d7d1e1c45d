// The rig's chart frames and flat fields, measured, with what solves them.
#pragma once

#include "calibration/run.h"
#include "support/support.h"

namespace optrel::test {

struct RigRun {
    std::vector<RunFrame> frames;
    SolveSettings settings;
};

inline RigRun measured_rig_run(const std::string& author) {
    RigRun out;
    Progress progress;
    std::vector<fs::path> paths = rig_frames("CH");
    for (const fs::path& p : rig_frames("FF")) paths.push_back(p);
    out.settings.chart = ChartSpec::parse("checker:15x10:30");
    out.settings.author = author;
    out.frames = measure_frames(paths, MeasureAs::automatic, out.settings.chart, progress);
    return out;
}

}  // namespace optrel::test
