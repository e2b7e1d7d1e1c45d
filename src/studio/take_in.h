// SPDX-License-Identifier: GPL-3.0-or-later
// Taking frames in: which files of a folder are frames, and what they say of themselves.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

/// Files of a folder and its sub-folders that could be frames (by extension), sorted by name. Hidden ones are passed
/// over; folders that cannot be looked into, and names that are no UTF-8 and so could not be kept, are told in
/// `problems`, and bundles that lie there in `bundles`. Throws Error(file) when the folder itself cannot be read.
std::vector<std::filesystem::path> frame_files(const std::filesystem::path& folder, std::vector<std::string>& problems,
                                               std::vector<std::filesystem::path>* bundles = nullptr);

/// Bundles that lie with frames wait for a person from now on, but for those that bring nothing that is not here. How
/// many do; one that cannot be read is told.
int offer_bundles(Store& store, const std::vector<std::filesystem::path>& bundles, std::vector<std::string>& problems);

/// Why a file cannot be read, in one sentence.
struct FileProblem {
    std::filesystem::path file;
    std::string sentence;
};

/// Reads the metadata of files that are new or changed against `known`. What was read is handed to `sink` in portions
/// as it comes, on the calling thread, so that a stop loses little; files that cannot be read are told in `problems`.
/// Returns how many were read.
int index_files(const std::vector<std::filesystem::path>& files, const std::vector<FrameRecord>& known,
                const std::function<void(const std::vector<FrameRecord>&)>& sink, std::vector<FileProblem>& problems,
                Progress& progress);
/// The same with the sentences alone.
int index_files(const std::vector<std::filesystem::path>& files, const std::vector<FrameRecord>& known,
                const std::function<void(const std::vector<FrameRecord>&)>& sink, std::vector<std::string>& problems,
                Progress& progress);

struct TakenIn {
    int files = 0, fresh = 0;            ///< found, and of these new or changed
    std::vector<std::string> problems;   ///< one sentence for each that could not be read
    std::vector<std::string> corrected;  ///< one sentence for each new one that is corrected already
    int bundles = 0;                     ///< that lie there and wait for a person
};
/// Takes the frames of folders into a store. What names itself by a serial number waits to be claimed, unless `enter`
/// puts it into the register at once.
TakenIn take_in(Store& store, const std::vector<std::filesystem::path>& folders, bool enter, Progress& progress);

}  // namespace optrel
