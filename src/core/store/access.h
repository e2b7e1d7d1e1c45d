// SPDX-License-Identifier: GPL-3.0-or-later
// What a store is opened for.
#pragma once

namespace optrel {

/// read: also works where nothing can be written (a read-only folder, a full disk). begin: makes the store when there
/// is none; only commands that begin a studio do. upgrade: an older one is brought up to date, which nothing else does.
enum class Access { read, write, begin, upgrade };

}  // namespace optrel
