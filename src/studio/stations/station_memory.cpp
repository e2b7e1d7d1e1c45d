// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/stations/station_memory.h"

#include <fmt/format.h>

#include "base/files.h"
#include "base/paths.h"

namespace optrel {
namespace fs = std::filesystem;

std::string whole_address(const StoreSource& store) {
    const std::string& address = store.address();
    return is_server_address(address) ? address : plain_path(address).string();
}

fs::path station_memory(const StoreSource& store, const std::string& kind, const fs::path& instead) {
    const fs::path below = instead.empty() ? fs::path(default_store_address()) / kind : instead;
    return below / fmt::format("{:016x}", fnv1a(whole_address(store)));
}

}  // namespace optrel
