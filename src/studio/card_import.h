// SPDX-License-Identifier: GPL-3.0-or-later
// Import from a card: frames and films are copied, each copy is read back and compared with what was read from the
// card, and the card is never written to.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "fleet/fleet.h"
#include "studio/intake.h"

namespace optrel {

struct ImportOrder {
    std::filesystem::path card, to;
    std::filesystem::path second;      ///< a further copy of everything; empty: none
    std::string file_name = "{name}";  ///< tokens of exchange/file_name.h; a / makes folders
};

struct ImportedFile {
    enum class What {
        copied,
        there,   ///< a file of these very contents lies in the folder already
        failed,  ///< with its reason; the file on the card is as it was
    };
    std::filesystem::path from, out;
    What what = What::copied;
    std::string why;   ///< of failed: one sentence
    std::string note;  ///< what is to be known of it: another name than wanted, metadata that cannot be read
};
std::string to_string(ImportedFile::What what);

/// What an import would do, without doing it: names, doubles, and what cannot be named. Throws Error(input) for a
/// pattern that is none or a folder that is not there, and when the card lies in the folder or the folder on the card.
std::vector<ImportedFile> import_preview(const ImportOrder& order, const Fleet* fleet, Progress& progress);

/// Copies what is not there yet. One file that fails stops no other. It may be stopped and begun again: what was copied
/// is found to be there, and of a copy that was not finished nothing is left. Throws as import_preview() does, and
/// Cancelled.
std::vector<ImportedFile> import_card(const ImportOrder& order, const Fleet* fleet, Progress& progress);

/// Frames that were copied are taken in as if they had arrived in a watched folder, and the store's log tells of them.
IntakeReport take_in_copies(Store& store, const std::vector<ImportedFile>& files, const IntakeOrder& order,
                            Progress& progress);

}  // namespace optrel
