// SPDX-License-Identifier: GPL-3.0-or-later
// The export queue: what each station is to write out, and the result. The queue outlives the program.
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
    int order = 0;     ///< identifies one call of add()
    int position = 0;  ///< position within the order, from 1; fills in {number} of the file name
    std::filesystem::path frame, folder;
    std::filesystem::path out;  ///< output path; empty until the export has begun
    std::string delivery;       ///< name of the delivery
    ExportState state = ExportState::waiting;
    std::string message;  ///< reason of a failure, or a remark on a success
};

class StoredExports {
public:
    explicit StoredExports(Engine& engine) : engine_(engine) {}

    /// Queues frames for a station, in one transaction. The delivery is copied, so later edits of it have no effect.
    void add(const std::string& station, const std::vector<std::filesystem::path>& frames, const Delivery& delivery,
             const std::filesystem::path& folder);
    /// All items, in the order in which the station works on them.
    std::vector<QueuedExport> of(const std::string& station) const;
    /// The next item: an interrupted one first, otherwise the oldest that waits.
    std::optional<QueuedExport> next(const std::string& station) const;
    /// Frames that any station has exported.
    std::vector<std::filesystem::path> frames_done() const;
    Delivery delivery_of(const QueuedExport& item) const;
    /// Output paths of the other items of the same order.
    std::vector<std::filesystem::path> outs_beside(const QueuedExport& item) const;
    /// Saves state, out and message of an item.
    void set(const QueuedExport& item);
    /// Sets failed items back to waiting.
    void try_again(const std::string& station);
    /// Removes all items in a state.
    void clear(const std::string& station, ExportState state);

private:
    Engine& engine_;
};

}  // namespace optrel
