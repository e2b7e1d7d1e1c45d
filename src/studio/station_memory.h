// SPDX-License-Identifier: GPL-3.0-or-later
// Where this station remembers things of a store that are nobody else's.
#pragma once

#include <filesystem>
#include <string>

#include "store/store.h"

namespace optrel {

/// The address of a store as this station tells stores apart: a folder by the whole of its path.
std::string whole_address(const StoreSource& store);

/// The folder for things of one kind and one store: below the user's data, or below `instead`.
std::filesystem::path station_memory(const StoreSource& store, const std::string& kind,
                                     const std::filesystem::path& instead = {});

}  // namespace optrel
