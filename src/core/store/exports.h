// SPDX-License-Identifier: GPL-3.0-or-later
// The queue of exports: what each station is to write out, and what became of it. It outlives the program.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "exchange/delivery.h"

namespace optrel {

class Engine;

enum class ExportState { waiting, writing, done, failed };
std::string to_string(ExportState state);

struct QueuedExport {
    int order = 0;     ///< one call of add()
    int position = 0;  ///< within it, from 1: what {number} says
    std::filesystem::path frame, folder;
    std::filesystem::path out;  ///< empty until it is begun
    std::string delivery;       ///< its name
    ExportState state = ExportState::waiting;
    std::string message;  ///< why it failed, or what is to be known of it
};

class StoredExports {
public:
    explicit StoredExports(Engine& engine) : engine_(engine) {}

    /// Queues frames for a station, with the delivery as it is now. One transaction.
    void add(const std::string& station, const std::vector<std::filesystem::path>& frames, const Delivery& delivery,
             const std::filesystem::path& folder);
    /// In the order in which they are worked on.
    std::vector<QueuedExport> of(const std::string& station);
    /// What is next: one whose writing was interrupted, or the first that waits.
    std::optional<QueuedExport> next(const std::string& station);
    /// Frames of which an export was written, by whichever station.
    std::vector<std::filesystem::path> frames_done();
    Delivery delivery_of(const QueuedExport& item);
    /// The files that the other items of its order were begun with.
    std::vector<std::filesystem::path> outs_beside(const QueuedExport& item);
    /// Keeps state, out and message of an item.
    void set(const QueuedExport& item);
    /// Failed ones wait again.
    void try_again(const std::string& station);
    /// Removes those of a state.
    void clear(const std::string& station, ExportState state);

private:
    Engine& engine_;
};

}  // namespace optrel
