// SPDX-License-Identifier: GPL-3.0-or-later
// A calibration run: its frames, what was measured on each, and the solution.
//
// Measuring (slow, once for each frame) and solving (fast, again after a frame was dropped) are apart. A run may hold
// several lens settings (a zoom, several apertures or distances); each is solved by itself and becomes a node of the
// profile.
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

/// One file of a run with what was measured on it. Pixels are not kept.
struct RunFrame {
    std::filesystem::path path;
    std::string hash;  ///< of the file's contents; empty: not measured yet
    Metadata metadata;
    int width = 0, height = 0;
    RunRole role = RunRole::neither;
    ChartDetection detection;                       ///< role chart
    FlatField flat;                                 ///< role flat
    FlatField whites;                               ///< role chart: light on the white squares
    std::vector<ResolutionPoint> resolution;        ///< role chart, raw: what the edges of its squares resolve
    std::string problem;                            ///< one sentence; the frame cannot be used
    bool dropped = false;                           ///< by a person
    std::set<std::pair<int, int>> dropped_corners;  ///< (column, row), by a person

    std::string name() const { return path.filename().string(); }
    bool measured() const { return !hash.empty(); }
    /// Whether measuring it again would say nothing new.
    bool settled() const { return measured() || !problem.empty(); }
};

/// Something that the technician should know, with its figure, its limit and what to do.
struct Finding {
    std::string name;  ///< short, alike in all runs; of one lens setting among several "corners@24mm-f4"
    std::string text;
    std::string remedy;
    bool serious = false;       ///< a profile with it is published only when somebody accepts it by name
    bool of_mapping = false;    ///< serious: it concerns the mapping, and not only the falloff
    int frame = -1;             ///< index of the frame that shows it; -1: the run as a whole
    std::optional<Vec2> place;  ///< where in the picture, px
};

/// A frame's part in a solution.
struct FrameOutcome {
    bool used = false;
    std::string reason;  ///< why it was not used
    int node = -1;       ///< of the solution that it belongs to
    int light_side = 0;  ///< flat fields: 1 or -1, by the direction that the light came from; 0 unknown
    View view;           ///< with residuals, when used; its points are the corners of the frame in order
};

/// The solution at one lens setting.
struct NodeSolution {
    LensSolution lens;
    std::vector<ModelTrial> trials;
};

struct RunSolution {
    Profile profile;                     ///< version 0; one node for each lens setting
    std::vector<NodeSolution> nodes;     ///< beside profile.nodes
    std::vector<FrameOutcome> outcomes;  ///< one for each frame of the run
    std::vector<Finding> findings;
    double seconds = 0;
};

enum class MeasureAs { automatic, chart, flat };

/// What becomes of a raw frame that carries a correction of its lens in opcodes: its mosaic is not corrected, but
/// whatever developed it would be. Refused unless a person says that the mosaic is to be measured as it is.
enum class EmbeddedOpcodes { refuse, measure_mosaic };

/// Reads and measures one frame; problems are noted in it, not thrown (except Cancelled). A frame that says that it is
/// corrected already is not measured: what Optrel wrote, and one that carries a correction, as `carried` says.
RunFrame measure_frame(const std::filesystem::path& path, MeasureAs as, const ChartSpec& chart,
                       const Progress& progress, EmbeddedOpcodes carried = EmbeddedOpcodes::refuse);

/// Measures many frames on all cores, in the order given. `each` is called on the calling thread as a frame is done.
std::vector<RunFrame> measure_frames(const std::vector<std::filesystem::path>& paths, MeasureAs as,
                                     const ChartSpec& chart, Progress& progress,
                                     const std::function<void(int, const RunFrame&)>& each = {},
                                     EmbeddedOpcodes carried = EmbeddedOpcodes::refuse);

struct SolveSettings {
    ChartSpec chart;
    double pitch_um = 0;  ///< 0: from the metadata
    /// Size of the squares across and down by the check rulers of the print; empty: nobody measured them.
    std::optional<Vec2> square_by_ruler_mm;
    std::string author;
    ModelRequest model;
    /// Start from this solution of the same run, keeping its models: quick, after a frame or a corner was dropped.
    const RunSolution* previous = nullptr;
};

/// Solves lens, fringe and falloff from measured frames. Frames of another size or body than most, frames that occur
/// twice, and frames at a lens setting with too few companions are left out with the reason. Throws Error(input) in one
/// sentence when the run cannot be solved.
RunSolution solve_run(const std::vector<RunFrame>& frames, const SolveSettings& settings, const Progress& progress);

}  // namespace optrel
