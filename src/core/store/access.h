// SPDX-License-Identifier: GPL-3.0-or-later
// Access modes of a store.
#pragma once

namespace optrel {

/// read: works without write permission and on a full disk. begin: creates the store when there is none; only commands
/// that start a studio use it. upgrade: migrates an older store to the current schema; no other mode does.
enum class Access { read, write, begin, upgrade };

}  // namespace optrel
