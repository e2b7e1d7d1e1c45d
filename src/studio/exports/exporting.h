// SPDX-License-Identifier: GPL-3.0-or-later
// Exports frames by a delivery; each file is written atomically.
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "base/files.h"
#include "base/progress.h"
#include "base/station.h"
#include "exchange/delivery.h"
#include "store/store.h"
#include "studio/development/frame_development.h"
#include "studio/exports/export_result.h"

namespace optrel {

/// Exports one frame; creates missing folders. Throws as reading and writing do, also when the frame changes meanwhile.
Exported export_frame(const std::filesystem::path& frame, const FrameDevelopment& facts, const Delivery& delivery,
                      const std::filesystem::path& out, Existing existing, const Progress& progress);

/// The same for frames and films; `progress` counts the frames of a film.
Exported export_any(const std::filesystem::path& frame, const FrameDevelopment& facts, const Delivery& delivery,
                    const std::filesystem::path& out, Existing existing, Progress& progress);

/// Exports frames into a folder. A failure is reported in `problem` and does not stop the others. `facts` returns the
/// development of a frame; it may throw. `done` is called after each frame, on the calling thread.
std::vector<Exported> export_frames(const std::vector<std::filesystem::path>& frames, const Delivery& delivery,
                                    const std::filesystem::path& folder,
                                    const std::function<FrameDevelopment(const std::filesystem::path&)>& facts,
                                    const std::function<void(const Exported&)>& done, Progress& progress);

/// Exports the next item of a station's queue and returns it; nothing when the queue is empty. The item is marked
/// "writing" with its file name before the file is begun, so that an interrupted export is repeated under the same
/// name. A failure is saved with its reason. Throws Cancelled, after which the item waits again, and errors of the
/// store. Only one program per station may call it (export_claim()).
std::optional<QueuedExport> export_next(Store& store, const std::string& station, Progress& progress);

/// Exclusive right to work on this station's export queue; null when another program has it.
std::unique_ptr<StoreHold> export_claim(const StoreSource& store);

}  // namespace optrel
