// SPDX-License-Identifier: GPL-3.0-or-later
// Intake: new frames are indexed and get the current baseline, optionally with the folder's set on top, exactly once.
//
// The baseline is written before the frame is indexed. After an interruption in between, the frame counts as new again,
// but is not written again because its sidecar is already correct. Indexed frames are never changed by intake, so a
// rollback by a person remains.
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

/// Rules for new frames.
struct IntakeOrder {
    std::string set;             ///< set on top of the baseline; empty: none
    bool only_index = false;     ///< only index the frames
    bool raw_only = false;       ///< only index rendered pictures
    bool unknown_waits = false;  ///< only index raw frames of unknown bodies; otherwise they get the values of the
                                 ///< studio and their model
    std::string author;          ///< author of the rollouts
};

/// Current rules of a watched folder; an expired set is left out.
IntakeOrder order_of(const IntakeFolder& folder, const std::string& author);
/// Rules of the watched folder that contains `to`; the plain baseline if there is none.
IntakeOrder order_for(const Store& store, const std::filesystem::path& to, const std::string& author);

struct ArrivalResult {
    enum class What { baseline, known, failed };
    std::filesystem::path frame;
    What what = What::known;
    std::string why;  ///< reason: of known, why there is no baseline; of failed, the error
    std::string body;
    bool planned = false;  ///< for failed: the frame is part of a rollout, which can be resumed
};
std::string to_string(ArrivalResult::What what);

struct IntakeReport {
    int revision = 0, rollout = 0;  ///< 0: nothing was written
    std::vector<ArrivalResult> frames;
    std::vector<std::string> problems;  ///< that stopped no frame, one sentence each
};

/// Log entries for a report. `way`: "folder", "card" or "cable".
std::vector<ArrivalRecord> arrivals_of(const IntakeReport& report, const IntakeOrder& order, const std::string& way);

/// Whether the file is indexed in its current state.
bool known_as_it_stands(const Store& store, const std::filesystem::path& file);

/// Takes in complete frames. A frame that cannot be read or written is reported, does not stop the others, and is not
/// indexed, so that it can be tried again. `log` is called inside the transaction that indexes the frames. Throws
/// errors of the store, and Error(input) for an unknown set.
IntakeReport take_in_arrivals(Store& store, const std::vector<std::filesystem::path>& files, const IntakeOrder& order,
                              Progress& progress, const std::function<void(const IntakeReport&)>& log = {});

/// Completes intakes that were interrupted because their program was killed: resumes their rollouts, then adds their
/// frames to the store and to the log. Calls `problem` with a sentence for each rollout that cannot be completed.
/// Throws what the store throws.
void finish_arrivals(Store& store, Progress& progress, const std::function<void(const std::string&)>& problem);

}  // namespace optrel
