// SPDX-License-Identifier: GPL-3.0-or-later
// Access modes of a store.
#pragma once

namespace optrel {

/// read: works without write permission and on a full disk. rollouts: to finish or roll back rollouts. In a folder
/// these lie beside the database, which is opened for reading, so that a full disk does not prevent a rollback; on a
/// server they are in the database. begin: creates the store when there is none; only commands that start a studio use
/// it. upgrade: migrates an older store to the current schema; no other mode does.
enum class Access { read, rollouts, write, begin, upgrade };

}  // namespace optrel
