// SPDX-License-Identifier: GPL-3.0-or-later
// A calibration run: its frames, their measurements, and the solution.
// Measuring is slow and done once for each frame; solving is fast and repeated
// after a frame was dropped. A run may have several lens settings (a zoom,
// several apertures or distances); each is solved by itself and becomes a node
// of the profile.
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "calibration/falloff.h"
#include "calibration/model_choice.h"
#include "calibration/solve.h"
#include "charts/chart.h"
#include "charts/detect.h"
#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

enum class RunRole { chart, flat, neither };

/// One file of a run with its measurements. Pixels are not kept.
struct RunFrame {
    std::filesystem::path path;
    std::string hash;  ///< of the file's contents; empty: not measured yet
    Metadata metadata;
    int width = 0, height = 0;
    RunRole role = RunRole::neither;
    ChartDetection detection;                       ///< role chart
    FlatField flat;                                 ///< role flat
    FlatField whites;                               ///< role chart: light on the white squares
    std::vector<ResolutionPoint> resolution;        ///< role chart, raw: resolution at the edges of its squares
    std::string problem;                            ///< one sentence; the frame cannot be used
    bool dropped = false;                           ///< by a person
    std::set<std::pair<int, int>> dropped_corners;  ///< (column, row), by a person

    std::string name() const { return path.filename().string(); }
    bool measured() const { return !hash.empty(); }
    /// True when measuring again would give nothing new.
    bool settled() const { return measured() || !problem.empty(); }
};

/// A message for the technician, with a figure, its limit and what to do.
struct Finding {
    std::string name;  ///< short, the same in all runs; with the lens setting when there are several: "corners@24mm-f4"
    std::string text;
    std::string remedy;
    bool serious = false;       ///< somebody must accept it by name before a profile with it is published
    bool of_mapping = false;    ///< serious: it concerns the mapping, not only the falloff
    int frame = -1;             ///< index of the frame that shows it; -1: the run as a whole
    std::optional<Vec2> place;  ///< position in the picture, px
};

/// The use of a frame in a solution.
struct FrameOutcome {
    bool used = false;
    std::string reason;  ///< why it was not used
    int node = -1;       ///< of the solution that it belongs to
    int light_side = 0;  ///< flat fields: 1 or -1, the direction of the light; 0 unknown
    View view;           ///< with residuals, when used; its points are the corners of the frame in order
};

/// The solution at one lens setting.
struct NodeSolution {
    LensSolution lens;
    std::vector<ModelTrial> trials;
};

struct RunSolution {
    Profile profile;                     ///< version 0; one node for each lens setting
    std::vector<NodeSolution> nodes;     ///< in the order of profile.nodes
    std::vector<FrameOutcome> outcomes;  ///< one for each frame of the run
    std::vector<Finding> findings;
    double seconds = 0;
};

enum class MeasureAs { automatic, chart, flat };

/// What happens to a raw frame whose opcodes correct its lens. Its mosaic is uncorrected, but every program that
/// develops it applies the correction. Such frames are refused unless the user asks to measure the mosaic.
enum class EmbeddedOpcodes { refuse, measure_mosaic };

/// Reads and measures one frame; problems are stored in it, not thrown (except Cancelled). Frames that are corrected
/// already are not measured: those written by Optrel, and those with a correction in opcodes, as `carried` says.
RunFrame measure_frame(const std::filesystem::path& path, MeasureAs as, const ChartSpec& chart,
                       const Progress& progress, EmbeddedOpcodes carried = EmbeddedOpcodes::refuse);

/// Measures frames on all cores; results are in the order given. `each` is called on the calling thread when a frame is
/// done.
std::vector<RunFrame> measure_frames(const std::vector<std::filesystem::path>& paths, MeasureAs as,
                                     const ChartSpec& chart, Progress& progress,
                                     const std::function<void(int, const RunFrame&)>& each = {},
                                     EmbeddedOpcodes carried = EmbeddedOpcodes::refuse);

struct SolveSettings {
    ChartSpec chart;
    double pitch_um = 0;  ///< 0: from the metadata
    /// Size of the squares across and down, from the check rulers of the print; empty when not measured.
    std::optional<Vec2> square_by_ruler_mm;
    std::string author;
    ModelRequest model;
    /// Starts from this solution of the same run and keeps its models; fast, after a frame or a corner was dropped.
    const RunSolution* previous = nullptr;
};

/// Solves lens, lateral chromatic aberration and falloff from measured frames. Left out with a reason are frames whose
/// size or body differs from most, duplicates, and frames at a lens setting with too few others. Throws Error(input) in
/// one sentence when the run cannot be solved.
RunSolution solve_run(const std::vector<RunFrame>& frames, const SolveSettings& settings, const Progress& progress);

}  // namespace optrel
