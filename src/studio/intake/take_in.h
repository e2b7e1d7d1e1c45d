// SPDX-License-Identifier: GPL-3.0-or-later
// Finds frames in folders and reads their metadata.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

/// Files in a folder and its subfolders that may be frames, by extension, ordered by name. Hidden files are skipped.
/// Unreadable folders are reported in `problems`; bundles are returned in `bundles`. Throws Error(file) when the folder
/// itself cannot be read.
std::vector<std::filesystem::path> frame_files(const std::filesystem::path& folder, std::vector<std::string>& problems,
                                               std::vector<std::filesystem::path>* bundles = nullptr);

/// Registers bundles found among frames, to be offered to the user, unless they contain nothing new. Returns how many;
/// unreadable ones are reported.
int offer_bundles(Store& store, const std::vector<std::filesystem::path>& bundles, std::vector<std::string>& problems);

/// Why a file cannot be read, in one sentence.
struct FileProblem {
    std::filesystem::path file;
    std::string sentence;
};

/// Reads the metadata of files that are new or have changed since `known`. Results are passed to `sink` in groups, on
/// the calling thread, so that an interruption loses little. Unreadable files are reported in `problems`. Returns the
/// number of files read.
int index_files(const std::vector<std::filesystem::path>& files, const std::vector<FrameRecord>& known,
                const std::function<void(const std::vector<FrameRecord>&)>& sink, std::vector<FileProblem>& problems,
                Progress& progress);
/// The same with the sentences only.
int index_files(const std::vector<std::filesystem::path>& files, const std::vector<FrameRecord>& known,
                const std::function<void(const std::vector<FrameRecord>&)>& sink, std::vector<std::string>& problems,
                Progress& progress);

struct IndexReport {
    int files = 0, fresh = 0;            ///< number of files found, and number of new or changed ones
    std::vector<std::string> problems;   ///< one sentence for each unreadable file
    std::vector<std::string> corrected;  ///< one sentence for each new file that is already corrected
    int bundles = 0;                     ///< number of bundles found
};
/// Indexes the frames of folders. Identities with a serial number wait to be claimed, unless `enter` is true: then they
/// are added to the register.
IndexReport take_in(Store& store, const std::vector<std::filesystem::path>& folders, bool enter, Progress& progress);

}  // namespace optrel
