// SPDX-License-Identifier: GPL-3.0-or-later
// What a store is opened for.
#pragma once

namespace optrel {

/// read: also works where nothing can be written (a read-only folder, a full disk). begin: makes the store when there
/// is none; only commands that begin a studio do.
enum class Access { read, write, begin };

}  // namespace optrel
