// SPDX-License-Identifier: GPL-3.0-or-later
// A store that an earlier version wrote, and nobody has asked to bring up to date.
#pragma once

#include <fmt/format.h>

#include "base/error.h"

namespace optrel {

class OutdatedStore : public Error {
public:
    OutdatedStore(const std::string& store, int have, int newest)
        : Error(ErrorKind::store,
                fmt::format("The store {} has schema {}, of an earlier Optrel, and this version works with schema {}; "
                            "'optrel-cli store upgrade' brings it up to date and keeps a copy.",
                            store, have, newest)) {}
};

}  // namespace optrel
