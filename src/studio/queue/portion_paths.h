// SPDX-License-Identifier: GPL-3.0-or-later
// Paths in portions of queued work, as they are at this station.
#pragma once

#include <filesystem>
#include <nlohmann/json.hpp>

#include "store/store.h"

namespace optrel {

/// Throws RootMissing when the path lies in a root that has no folder at this station.
void require_root(const std::filesystem::path& file);
/// Throws RootMissing or WorkDeferred when the file does not exist at this station.
void require_here(const std::filesystem::path& file);
/// Path of a portion at this station. Anybody who may work in the store can insert portions by hand, so invalid ones
/// are refused: throws Error(input).
std::filesystem::path sound_path(const Store& store, const nlohmann::json& kept);
/// Output folder: with a server store it must be inside a root of this station, after resolving links. Throws
/// Error(input).
std::filesystem::path sound_target(const Store& store, const nlohmann::json& kept);

}  // namespace optrel
