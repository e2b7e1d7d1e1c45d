// SPDX-License-Identifier: GPL-3.0-or-later
// Intake: frames that have arrived become known to the studio and get the current baseline, with a set on top where the
// folder says so, once.
//
// A frame gets its baseline before it becomes known: what is interrupted between the two is found as arrived once more,
// and is not written a second time, because its sidecar says already what it would get. A frame that is known is never
// touched by intake again, so what a person took back stays taken back.
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

/// What becomes of arriving frames.
struct IntakeOrder {
    std::string set;             ///< of the baseline, to lie on top; empty: none
    bool only_index = false;     ///< frames become known and wait for a person
    bool raw_only = false;       ///< rendered pictures become known and wait
    bool unknown_waits = false;  ///< raw frames of a body that is not known wait; otherwise they get what the studio
                                 ///< and their model say
    std::string author;          ///< of the rollouts
};

/// What a watched folder says, now: a set that has ended is left out.
IntakeOrder order_of(const IntakeFolder& folder, const std::string& author);
/// What the watched folder says that `to` is or lies in; where none does, the plain baseline.
IntakeOrder order_for(Store& store, const std::filesystem::path& to, const std::string& author);

struct Taken {
    enum class What { baseline, known, failed };
    std::filesystem::path frame;
    What what = What::known;
    std::string why;  ///< of known: why it got no baseline; of failed: the reason, in one sentence
    std::string body;
    bool planned = false;  ///< of failed: a rollout has it, which can be gone on with
};
std::string to_string(Taken::What what);

struct IntakeReport {
    int revision = 0, rollout = 0;  ///< 0: nothing was written
    std::vector<Taken> frames;
};

/// What a log keeps of it. `way`: "folder", "card", "cable".
std::vector<ArrivalRecord> arrivals_of(const IntakeReport& report, const IntakeOrder& order, const std::string& way);

/// Whether the store knows a file as it stands: it has been taken in, by whichever way.
bool known_as_it_stands(Store& store, const std::filesystem::path& file);

/// Takes in frames that are complete. One that cannot be read or written is told and stops no other; it stays unknown,
/// so that it can be tried again. Throws what the store throws, and Error(input) for a set that there is not.
/// `log` is called with the report in the transaction that makes the frames known.
IntakeReport take_in_arrivals(Store& store, const std::vector<std::filesystem::path>& files, const IntakeOrder& order,
                              Progress& progress, const std::function<void(const IntakeReport&)>& log = {});

/// Completes intakes that were interrupted because their program was killed: resumes their rollouts, then adds their
/// frames to the store and to the log. Calls `problem` with a sentence for each rollout that cannot be completed.
/// Throws what the store throws.
void finish_arrivals(Store& store, Progress& progress, const std::function<void(const std::string&)>& problem);

}  // namespace optrel
