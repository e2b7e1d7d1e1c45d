// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/write_failures.h"

#include <fmt/format.h>

#include "base/error.h"

namespace optrel {

void disk_full(const std::filesystem::path& wanted) {
    throw file_error(fmt::format("Cannot write {}: the disk is full or was taken away; free some space and try again.",
                                 wanted.string()));
}

void no_folder(const std::filesystem::path& wanted) {
    throw file_error(fmt::format("Cannot write {}: the folder is missing, full or read-only; choose another folder.",
                                 wanted.string()));
}

}  // namespace optrel
