// SPDX-License-Identifier: GPL-3.0-or-later
// Local data of this station about a store.
#pragma once

#include <filesystem>
#include <string>

#include "store/store.h"

namespace optrel {

/// Address of a store for local data: for a folder, its absolute path.
std::string whole_address(const StoreSource& store);

/// Folder for one kind of data about one store, inside the user's data directory, or inside `instead`.
std::filesystem::path station_memory(const StoreSource& store, const std::string& kind,
                                     const std::filesystem::path& instead = {});

}  // namespace optrel
