// A calibration run: its frames, what was measured on each, and the solution.
//
// Measuring (slow, once for each frame) and solving (fast, again after a frame was dropped) are apart.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "calibration/falloff.h"
#include "calibration/solve.h"
#include "charts/chart.h"
#include "charts/detect.h"
#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

enum class RunRole { chart, flat, neither };

/// One file of a run with what was measured on it. Pixels are not kept.
struct RunFrame {
    std::filesystem::path path;
    std::string hash;
    Metadata metadata;
    int width = 0, height = 0;
    RunRole role = RunRole::neither;
    ChartDetection detection;  ///< role chart
    FlatField flat;            ///< role flat
    std::string problem;       ///< one sentence; the frame cannot be used
    bool dropped = false;      ///< by a person

    std::string name() const { return path.filename().string(); }
};

/// Something that the technician should know, with its figure, its limit and what to do.
struct Finding {
    std::string text;
    std::string remedy;
    bool serious = false;
};

/// A frame's part in a solution.
struct FrameOutcome {
    bool used = false;
    std::string reason;  ///< why it was not used
    View view;           ///< with residuals, when used
};

struct RunSolution {
    Profile profile;  ///< one node, version 0
    LensSolution lens;
    std::vector<FrameOutcome> outcomes;  ///< one for each frame of the run
    std::vector<Finding> findings;
    double seconds = 0;
};

enum class MeasureAs { automatic, chart, flat };

/// Reads and measures one frame; problems are noted in it, not thrown (except Cancelled).
RunFrame measure_frame(const std::filesystem::path& path, MeasureAs as, const Progress& progress);

/// Measures many frames on all cores, in the order given.
std::vector<RunFrame> measure_frames(const std::vector<std::filesystem::path>& paths, MeasureAs as, Progress& progress);

struct SolveSettings {
    ChartSpec chart;
    double pitch_um = 0;  ///< 0: from the metadata
    std::string author;
    std::optional<LensSolution> previous;
};

/// Solves lens, fringe and falloff from measured frames. Frames of another size, focal length, aperture or body than most
/// are left out with the reason. Throws Error(input) in one sentence when the run cannot be solved.
RunSolution solve_run(const std::vector<RunFrame>& frames, const SolveSettings& settings, const Progress& progress);

}  // namespace optrel
