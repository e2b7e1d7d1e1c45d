// SPDX-License-Identifier: GPL-3.0-or-later
// Import from a memory card: frames and films are copied, and each copy is read back and compared. Nothing is written
// to the card.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "fleet/fleet.h"
#include "studio/intake/intake.h"

namespace optrel {

struct ImportOrder {
    std::filesystem::path card, to;
    std::filesystem::path second;      ///< folder for a second copy of everything; empty: none
    std::string file_name = "{name}";  ///< pattern with the tokens of exchange/file_name.h; "/" creates subfolders
};

struct ImportedFile {
    enum class What {
        copied,
        there,   ///< the folder already contains a file with the same contents
        failed,  ///< failed, with a reason; the file on the card is unchanged
    };
    std::filesystem::path from, out;
    What what = What::copied;
    std::string why;   ///< reason of a failure, one sentence
    std::string note;  ///< remark: another name than intended, or unreadable metadata
};
std::string to_string(ImportedFile::What what);

/// What an import would do: names, duplicates, and files that cannot be named. Throws Error(input) for an invalid
/// pattern, a missing folder, and when one of card and folder contains the other.
std::vector<ImportedFile> import_preview(const ImportOrder& order, const Fleet* fleet, Progress& progress);

/// Copies files that are not yet there. A failure does not stop the others. An interrupted import can be repeated:
/// finished copies are recognised, and unfinished ones leave nothing behind. Throws as import_preview() does, and
/// Cancelled.
std::vector<ImportedFile> import_card(const ImportOrder& order, const Fleet* fleet, Progress& progress);

/// Takes in the copied frames like arrivals in a watched folder, and adds them to the store's log.
IntakeReport take_in_copies(Store& store, const std::vector<ImportedFile>& files, const IntakeOrder& order,
                            Progress& progress);

}  // namespace optrel
