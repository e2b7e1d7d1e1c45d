// SPDX-License-Identifier: GPL-3.0-or-later
// The measuring runs of a store, with every frame's corners as they were found.
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

    /// Newest first.
    std::vector<RunRecord> all();
    /// Id 0: a new one. Returns the id. What another program measured meanwhile stays: a frame that is measured here
    /// and not in `run` keeps its measurement, with what `run` says was dropped.
    int put(const RunRecord& run);
    /// Replaces one frame of a run, so that what was measured survives a stop; nothing happens when the run is gone.
    void put_frame(int run, int position, const RunFrame& frame);
    /// Keeps what was measured in a frame, wherever it stands in the run by now. What a person dropped meanwhile stays
    /// dropped, and a frame that is measured already stays as it is. Nothing happens when it is gone.
    void put_measurement(int run, const RunFrame& frame);
    void remove(int id);
    /// A run that was begun on this folder and chart and not measured to its end, as when the program was killed;
    /// nothing otherwise.
    std::optional<RunRecord> unfinished(const std::string& name, const std::string& folder, const std::string& chart);

    /// Throws Error(input) for one that is not there (any more).
    RunFrame frame(int run, int position);
    /// Of the run. Throws Error(input) for one that is not there.
    std::string chart_of(int run);

private:
    std::vector<RunFrame> frames_of(int id);
    std::string document_of(const RunFrame& frame) const;

    Engine& engine_;
};

}  // namespace optrel
