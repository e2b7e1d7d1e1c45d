// SPDX-License-Identifier: GPL-3.0-or-later
// What is wrong with a studio after the siege.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace optrel::siege {

/// Ends what was begun, then holds the store and the sidecars against the stations' logs. One sentence for each fault.
/// No station may be at work any more.
std::vector<std::string> faults(const std::string& address, const std::filesystem::path& frames,
                                const std::filesystem::path& logs);

}  // namespace optrel::siege
