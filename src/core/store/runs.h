// SPDX-License-Identifier: GPL-3.0-or-later
// Measuring runs, with the detected corners of every frame.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "calibration/run.h"

namespace optrel {

class Engine;

struct RunRecord {
    int id = 0;
    std::string name;
    std::string chart;
    std::string folder;
    std::vector<RunFrame> frames;
};

class StoredRuns {
public:
    explicit StoredRuns(Engine& engine) : engine_(engine) {}

    /// All runs, newest first.
    std::vector<RunRecord> all() const;
    /// Saves a run; id 0 adds a new one. Returns the id. Measurements that another program saved meanwhile are kept: a
    /// frame that is measured in the store and not in `run` keeps its measurement, combined with the frames that `run`
    /// dropped.
    int put(const RunRecord& run);
    /// Saves one frame of a run, so that an interruption loses little. Does nothing when the run no longer exists.
    void put_frame(int run, int position, const RunFrame& frame);
    /// Saves the measurement of a frame, wherever the frame now is in the run. Frames that a person dropped stay
    /// dropped, and frames that are already measured stay unchanged. Does nothing when the run no longer exists.
    void put_measurement(int run, const RunFrame& frame);
    void remove(int id);
    /// An unfinished run of this folder and chart, for example after the program was killed; nothing if there is none.
    std::optional<RunRecord> unfinished(const std::string& name, const std::string& folder,
                                        const std::string& chart) const;

    /// Throws Error(input) for an unknown run.
    RunFrame frame(int run, int position) const;
    /// Chart of the run. Throws Error(input) for an unknown run.
    std::string chart_of(int run) const;

private:
    std::vector<RunFrame> frames_of(int id) const;
    std::string document_of(const RunFrame& frame) const;

    Engine& engine_;
};

}  // namespace optrel
